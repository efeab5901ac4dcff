"""The item bank: items as kept, bringing them in, what there is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from bildung.formats.archive import is_archive
from bildung.formats.content import (
    Content,
    cleaned,
)
from bildung.formats.itemlist import ItemRecord, StimulusRecord, read_items
from bildung.formats.markup import bare_text, safe_html
from bildung.formats.problem import ImportProblem
from bildung.formats.qti import is_package, read_package
from bildung.services.bank.versions import add_version, index_items
from bildung.services.items.bankitem import content_of, items_whole, standards_by_code
from bildung.services.items.media import keep_all
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.staging import Fate, Planner, Preview, PreviewLine, decide, in_one_go, stage
from bildung.store.models import (
    Item,
    ItemEnemy,
    ItemVersion,
    Standard,
    Stimulus,
    StimulusVersion,
)

TAGS = ("depth", "topic", "unit", "language", "calculator", "seconds", "source", "labels")


def preview_items(ctx: Context, actor: Actor, files: dict[str, bytes]) -> Preview:
    """Look at what files of items would add, change and leave out."""
    scope(actor, Action.BANK_KEEP)
    return stage(ctx, actor, "items", files, _planner(ctx))


def apply_items(ctx: Context, actor: Actor, id: str) -> Preview:
    """Take in what was looked at, all of it or nothing."""
    scope(actor, Action.BANK_KEEP)
    return decide(ctx, actor, "items", id, _planner(ctx))


def _planner(ctx: Context) -> Planner:
    return in_one_go(lambda db, files, apply: plan_items(ctx, db, files, apply))


def plan_items(ctx: Context, db: Session, files: dict[str, bytes], apply: bool) -> list[PreviewLine]:
    """What becomes of each item of sheets and QTI packages; with `apply` it is done."""
    records: list[ItemRecord] = []
    left = list[PreviewLine]()
    for name, data in files.items():
        if is_archive(data) and is_package(name, data):
            found, unread = read_package(name, data)
            records += found
            left += [
                PreviewLine(fate="left_out", what="item", id=item.code, label=item.code, detail=item.why)
                for item in unread
            ]
        else:
            records += read_items(name, data)
    seen: dict[str, ItemRecord] = {}
    for record in records:
        if record.code in seen:
            raise ImportProblem(
                file=record.place,
                found=f"{record.code} again (first in {seen[record.code].place})",
                allowed="once each",
            )
        seen[record.code] = record
    return left + add_records(ctx, db, [keep_all(ctx, db, record, apply) for record in records], apply)


def add_records(
    ctx: Context, db: Session, records: Sequence[ItemRecord], apply: bool, origins: dict[str, int] | None = None
) -> list[PreviewLine]:
    """Add items, new versions of changed ones, stimuli, and standards that only their code is known of. origins: by
    code, the version that a new item is drawn from."""
    at, lines = ctx.clock(), list[PreviewLine]()
    standards = standards_by_code(db)
    items = {item.code: item for item in db.scalars(items_whole())}
    stimuli = {s.code: s for s in db.scalars(select(Stimulus).options(selectinload(Stimulus.versions)))}
    fresh: dict[str, StimulusVersion | None] = {}
    new_codes: set[str] = set()
    touched: list[Item] = []
    for record in records:
        for code in record.standards:
            if code not in standards and code not in new_codes:
                new_codes.add(code)
                detail = "its code only; no text yet"
                lines.append(PreviewLine(fate="added", what="standard", id=code, label=code, detail=detail))
                if apply:
                    standards[code] = Standard(code=code)
                    db.add(standards[code])
        if record.stimulus is not None and record.stimulus.code not in fresh:
            fresh[record.stimulus.code] = _stimulus(db, stimuli, record.stimulus, record, apply, at, lines)
        content = cleaned(record.content)
        label = bare_text(content.shown.body)[:90] or record.code
        item = items.get(record.code)
        latest = item.versions[-1] if item and item.versions else None
        changes = [] if latest is None else _changes(latest, record, content)
        retagged = _retagged(item, record) if item is not None else {}
        fate, detail = _fate(record, latest, changes, retagged)
        lines.append(PreviewLine(fate=fate, what="item", id=record.code, label=label, detail=detail))
        if latest is not None and not changes and item is not None:
            if apply and retagged:
                _tag(item, retagged)
                touched.append(item)
            continue
        if not apply:
            continue
        if item is None:
            item = Item(
                code=record.code,
                subject=record.subject,
                grade=record.grade,
                state="ready",
                origin_version_id=(origins or {}).get(record.code),
            )
            db.add(item)
            items[record.code] = item
        _tag(item, retagged or _retagged(item, record))
        stimulus = fresh[record.stimulus.code] if record.stimulus else None
        add_version(db, item, content, [standards[code] for code in record.standards], stimulus, at)
        touched.append(item)
    if apply:
        _enemies(db, records, items)
        db.flush()
        index_items(db, touched)
    return lines


def _fate(
    record: ItemRecord, latest: ItemVersion | None, changes: Sequence[str], retagged: Mapping[str, Any]
) -> tuple[Fate, str]:
    """What becomes of an item of the file, and why."""
    lost = [f"not imported: {', '.join(record.lost)}"] if record.lost else []
    if latest is None:
        return "added", "; ".join(lost)
    if changes:
        said = f"next version: {', '.join(changes)} changed; results stay with version {latest.number}"
        return "changed", "; ".join([said, *lost])
    return ("changed", f"tags: {', '.join(retagged)}") if retagged else ("same", "")


def _stimulus(
    db: Session,
    known: dict[str, Stimulus],
    record: StimulusRecord,
    item: ItemRecord,
    apply: bool,
    at: datetime,
    lines: list[PreviewLine],
) -> StimulusVersion | None:
    """The version of a stimulus that says what the record says: the newest, or the next one."""
    stimulus = known.get(record.code)
    latest = stimulus.versions[-1] if stimulus and stimulus.versions else None
    values = {
        "title": record.title,
        "kind": record.kind,
        "html": safe_html(record.html),
        "numbered": record.numbered,
        "media": record.media,
        "told": record.told,
        "credit": record.credit,
    }
    if latest is not None and all(getattr(latest, name) == value for name, value in values.items()):
        return latest
    fate: Fate = "added" if latest is None else "changed"
    lines.append(
        PreviewLine(
            fate=fate,
            what="stimulus",
            id=record.code,
            label=record.title,
            detail="" if latest is None else "next version",
        )
    )
    if not apply:
        return None
    if stimulus is None:
        stimulus = known[record.code] = Stimulus(code=record.code, subject=item.subject, grade=item.grade)
        db.add(stimulus)
    version = StimulusVersion(stimulus=stimulus, number=len(stimulus.versions) + 1, created_at=at, **values)
    db.add(version)
    return version


def _retagged(item: Item, record: ItemRecord) -> dict[str, Any]:
    """Tags that the record says otherwise; what it does not say stays."""
    found: dict[str, Any] = {}
    for name in TAGS:
        value = getattr(record.tags, name)
        value = list(value) if name == "labels" else value
        if value not in (None, "", []) and value != getattr(item, name):
            found[name] = value
    return found


def _tag(item: Item, values: dict[str, Any]) -> None:
    for name, value in values.items():
        setattr(item, name, value)


def _enemies(db: Session, records: Sequence[ItemRecord], items: dict[str, Item]) -> None:
    db.flush()
    wanted = {
        tuple(sorted((items[record.code].id, items[code].id)))
        for record in records
        for code in record.enemies
        if code in items and code != record.code
    }
    known = {(e.item_id, e.other_id) for e in db.scalars(select(ItemEnemy))}
    db.add_all(ItemEnemy(item_id=one, other_id=other) for one, other in sorted(wanted - known))


def _changes(latest: ItemVersion, record: ItemRecord, content: Content) -> list[str]:
    was = content_of(latest)
    old = latest.stimulus.stimulus.code if latest.stimulus else ""
    pairs = {
        "text": (was.shown.body, content.shown.body),
        "answers": (was.shown.parts, content.shown.parts),
        "tools": (was.shown.tools, content.shown.tools),
        "key": (was.scoring, content.scoring),
        "notes": (was.behind, content.behind),
        "stimulus": (old, record.stimulus.code if record.stimulus else ""),
        "standards": ([s.standard.code for s in latest.standards], list(record.standards)),
    }
    return [name for name, (old, new) in pairs.items() if old != new]
