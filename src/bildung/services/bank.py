"""The item bank: items as kept, bringing them in, what there is."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session, selectinload

from bildung.core.names import has_unseen, legible
from bildung.formats.archive import is_archive
from bildung.formats.content import (
    AnyPart,
    Behind,
    Content,
    PartScoring,
    Shown,
    cleaned,
    cleaned_shown,
    htmls,
    kind_of,
)
from bildung.formats.itemlist import ItemRecord, StimulusRecord, Tags, read_items
from bildung.formats.markup import bare_text, safe_html
from bildung.formats.problem import ImportProblem
from bildung.formats.qti import is_package, read_package
from bildung.formats.scored import key_text
from bildung.formats.template import Template, read_template
from bildung.services.access import Action, Actor, scope
from bildung.services.context import Context
from bildung.services.errors import Invalid
from bildung.services.media import keep_all
from bildung.services.staging import Line, Planner, Preview, decide, in_one_go, stage
from bildung.store.models import (
    Framework,
    Item,
    ItemEnemy,
    ItemStandard,
    ItemVersion,
    Scoring,
    Standard,
    Stimulus,
    StimulusVersion,
)
from bildung.store.words import put_words

TAGS = ("depth", "topic", "unit", "language", "calculator", "seconds", "source", "labels")


def preview_items(ctx: Context, actor: Actor, files: dict[str, bytes]) -> Preview:
    scope(actor, Action.BANK_KEEP)
    return stage(ctx, actor, "items", files, _planner(ctx))


def apply_items(ctx: Context, actor: Actor, id: str) -> Preview:
    scope(actor, Action.BANK_KEEP)
    return decide(ctx, actor, "items", id, _planner(ctx))


def _planner(ctx: Context) -> Planner:
    return in_one_go(lambda db, files, apply: plan_items(ctx, db, files, apply))


def plan_items(ctx: Context, db: Session, files: dict[str, bytes], apply: bool) -> list[Line]:
    """What becomes of each item of sheets and QTI packages; with `apply` it is done."""
    records: list[ItemRecord] = []
    left = list[Line]()
    for name, data in files.items():
        if is_archive(data) and is_package(name, data):
            found, unread = read_package(name, data)
            records += found
            left += [Line("left_out", "item", item.code, item.code, item.why) for item in unread]
        else:
            records += read_items(name, data)
    seen: dict[str, ItemRecord] = {}
    for record in records:
        if record.code in seen:
            raise ImportProblem(record.place, f"{record.code} again (first in {seen[record.code].place})", "once each")
        seen[record.code] = record
    return left + add_records(ctx, db, [keep_all(ctx, db, record, apply) for record in records], apply)


def add_records(
    ctx: Context, db: Session, records: Sequence[ItemRecord], apply: bool, origins: dict[str, int] | None = None
) -> list[Line]:
    """Add items, new versions of changed ones, stimuli, and standards that only their code is known of. origins: by
    code, the version that a new item is drawn from."""
    at, lines = ctx.clock(), list[Line]()
    standards = standards_by_code(db)
    items = {item.code: item for item in db.scalars(_items_whole())}
    stimuli = {s.code: s for s in db.scalars(select(Stimulus).options(selectinload(Stimulus.versions)))}
    fresh: dict[str, StimulusVersion | None] = {}
    new_codes: set[str] = set()
    touched: list[Item] = []
    for record in records:
        for code in record.standards:
            if code not in standards and code not in new_codes:
                new_codes.add(code)
                lines.append(Line("added", "standard", code, code, "its code only; no text yet"))
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
        lost = f"not kept: {', '.join(record.lost)}" if record.lost else ""
        if latest is not None and not changes:
            if retagged:
                lines.append(Line("changed", "item", record.code, label, f"tags: {', '.join(retagged)}"))
                if apply and item is not None:
                    _tag(item, retagged)
                    touched.append(item)
            else:
                lines.append(Line("same", "item", record.code, label))
            continue
        if latest is None:
            lines.append(Line("added", "item", record.code, label, lost))
        else:
            detail = f"next version: {', '.join(changes)} changed; results stay with version {latest.number}"
            lines.append(
                Line("changed", "item", record.code, label, "; ".join(part for part in (detail, lost) if part))
            )
        if not apply:
            continue
        if item is None:
            item = Item(
                code=record.code, subject=record.subject, grade=record.grade, state="ready",
                origin_version_id=(origins or {}).get(record.code),
            )  # fmt: skip
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


def _items_whole() -> Any:
    versions = selectinload(Item.versions)
    return select(Item).options(
        versions.selectinload(ItemVersion.scorings),
        versions.selectinload(ItemVersion.standards).selectinload(ItemStandard.standard),
        versions.selectinload(ItemVersion.stimulus).selectinload(StimulusVersion.stimulus),
    )


def add_version(
    db: Session, item: Item, content: Content, standards: Sequence[Standard], stimulus: StimulusVersion | None, at: datetime,
    author_id: int | None = None, template: dict[str, Any] | None = None,
) -> ItemVersion:  # fmt: skip
    """The item's next version. content: made safe already."""
    number = max((v.number for v in item.versions), default=0) + 1
    version = ItemVersion(
        item=item, number=number, kind=kind_of(content.shown, content.scoring), shown=content.shown.model_dump(),
        behind=content.behind.model_dump(), template=template, stimulus=stimulus, author_id=author_id, created_at=at,
    )  # fmt: skip
    version.scorings.append(
        Scoring(
            number=1, parts=[s.model_dump() for s in content.scoring], points=sum(s.points for s in content.scoring),
            created_at=at,
        )
    )  # fmt: skip
    for rank, standard in enumerate(standards):
        version.standards.append(ItemStandard(standard=standard, rank=rank))
    db.add(version)
    return version


def _stimulus(
    db: Session, known: dict[str, Stimulus], record: StimulusRecord, item: ItemRecord, apply: bool, at: datetime, lines: list[Line],
) -> StimulusVersion | None:  # fmt: skip
    """The version of a stimulus that says what the record says: the newest, or the next one."""
    stimulus = known.get(record.code)
    latest = stimulus.versions[-1] if stimulus and stimulus.versions else None
    values = {
        "title": record.title, "kind": record.kind, "html": safe_html(record.html), "numbered": record.numbered,
        "media": record.media, "told": record.told, "credit": record.credit,
    }  # fmt: skip
    if latest is not None and all(getattr(latest, name) == value for name, value in values.items()):
        return latest
    fate = "added" if latest is None else "changed"
    lines.append(Line(fate, "stimulus", record.code, record.title, "" if latest is None else "next version"))  # type: ignore[arg-type]
    if not apply:
        return None
    if stimulus is None:
        stimulus = known[record.code] = Stimulus(code=record.code, subject=item.subject, grade=item.grade)
        db.add(stimulus)
    version = StimulusVersion(
        stimulus=stimulus, number=len(stimulus.versions) + 1, created_at=at, **values
    )  # fmt: skip
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
        for record in records for code in record.enemies if code in items and code != record.code
    }  # fmt: skip
    known = {(e.item_id, e.other_id) for e in db.scalars(select(ItemEnemy))}
    db.add_all(ItemEnemy(item_id=one, other_id=other) for one, other in sorted(wanted - known))


def index_items(db: Session, items: Sequence[Item]) -> None:
    """Make their words findable, as they are now."""
    rows = {}
    for item in items:
        latest = item.versions[-1] if item.versions else None
        words = ""
        if latest is not None:
            content = content_of(latest)
            words = " ".join(bare_text(html) for html in htmls(content))
            if latest.stimulus is not None:
                words += f" {latest.stimulus.title} {bare_text(latest.stimulus.html)}"
        tags = " ".join((item.topic, item.unit, item.source, *item.labels))
        rows[item.id] = (item.code, words, tags, " ".join(s.standard.code for s in latest.standards) if latest else "")
    put_words(db, rows)


def content_of(version: ItemVersion) -> Content:
    """As kept, made safe again on the way out."""
    return cleaned(
        Content(
            shown=Shown.model_validate(version.shown), behind=Behind.model_validate(version.behind or {}),
            scoring=[PartScoring.model_validate(p) for p in version.scorings[-1].parts],
        )
    )  # fmt: skip


def standards_by_code(db: Session, codes: Collection[str] | None = None) -> dict[str, Standard]:
    """What a code means: the main framework's standard where several have it. codes: only these."""
    rows = select(Standard).outerjoin(Framework, Framework.id == Standard.framework_id).order_by(Framework.main)
    if codes is not None:
        rows = rows.where(Standard.code.in_(codes))
    return {s.code: s for s in db.scalars(rows) if s.code}


def _changes(latest: ItemVersion, record: ItemRecord, content: Content) -> list[str]:
    was = content_of(latest)
    old = latest.stimulus.stimulus.code if latest.stimulus else ""
    pairs = {
        "text": (was.shown.body, content.shown.body), "answers": (was.shown.parts, content.shown.parts),
        "tools": (was.shown.tools, content.shown.tools), "key": (was.scoring, content.scoring),
        "notes": (was.behind, content.behind), "stimulus": (old, record.stimulus.code if record.stimulus else ""),
        "standards": ([s.standard.code for s in latest.standards], list(record.standards)),
    }  # fmt: skip
    return [name for name, (old, new) in pairs.items() if old != new]


@dataclass(frozen=True)
class StimulusView:
    """A stimulus as a student sees it. html: made safe. number: of its version."""

    id: int
    code: str
    number: int
    title: str
    kind: str
    html: str
    numbered: bool
    media: str
    told: str
    credit: str


def stimulus_view(version: StimulusVersion | None) -> StimulusView | None:
    if version is None:
        return None
    return StimulusView(
        version.stimulus_id, version.stimulus.code, version.number, version.title, version.kind, safe_html(version.html),
        version.numbered, version.media, version.told, version.credit,
    )  # fmt: skip


@dataclass(frozen=True)
class BankItem:
    """A version of an item. scoring, behind: for those who may read the bank only."""

    version_id: int
    item_id: int
    code: str
    number: int
    kind: str
    subject: str
    grade: str
    state: str
    shown: Shown
    scoring: list[PartScoring]
    behind: Behind
    points: float
    standards: list[str]
    stimulus: StimulusView | None
    tags: Tags
    drawn: Template | None

    @property
    def template(self) -> bool:
        return self.drawn is not None

    @property
    def key(self) -> str:
        return key_text(self.scoring)


def with_parts(wanted: Any) -> Any:
    """The same query with everything `bank_item` needs, in a fixed number of statements."""
    return wanted.options(
        selectinload(ItemVersion.item),
        selectinload(ItemVersion.scorings),
        selectinload(ItemVersion.standards).selectinload(ItemStandard.standard),
        selectinload(ItemVersion.stimulus).selectinload(StimulusVersion.stimulus),
    )


def bank_item(version: ItemVersion) -> BankItem:
    content, item = content_of(version), version.item
    return BankItem(
        version.id, version.item_id, item.code, version.number, version.kind, item.subject, item.grade, item.state,
        content.shown, content.scoring, content.behind, version.scorings[-1].points,
        [s.standard.code for s in version.standards], stimulus_view(version.stimulus), tags_of(item),
        read_template(version.template) if version.template is not None else None,
    )  # fmt: skip


def tags_of(item: Item) -> Tags:
    return Tags(
        item.depth, item.topic, item.unit, item.language, item.calculator, item.seconds, item.source, tuple(item.labels)
    )


def shown_safely(version: ItemVersion) -> Shown:
    """What a student may see of it, made safe."""
    return cleaned_shown(Shown.model_validate(version.shown))


def record_of(item: BankItem, enemies: Sequence[str] = ()) -> ItemRecord:
    """The item as the open formats write it."""
    s = item.stimulus
    stimulus = StimulusRecord(s.code, s.title, s.kind, s.html, s.numbered, s.media, s.told, s.credit) if s else None
    content = Content(shown=item.shown, scoring=item.scoring, behind=item.behind)
    return ItemRecord(
        item.code, content, tuple(item.standards), item.subject, item.grade, item.tags, stimulus, tuple(enemies)
    )


def some_parts(item: BankItem) -> list[tuple[AnyPart, PartScoring]]:
    return list(zip(item.shown.parts, item.scoring, strict=True))


@dataclass(frozen=True)
class StandardLine:
    code: str
    text: str
    subject: str
    grade: str
    items: int


@dataclass(frozen=True)
class BankOverview:
    finding: str
    standards: list[StandardLine]
    subjects: list[str]
    grades: list[str]


def overview(ctx: Context, actor: Actor) -> BankOverview:
    """All standards with how many items have them as the main one, at their newest version; and the filters."""
    allowed = scope(actor, Action.BANK_READ)
    theirs = select(func.max(ItemVersion.id)).join(Item, Item.id == ItemVersion.item_id).where(allowed)
    newest = theirs.group_by(ItemVersion.item_id)
    main: ColumnElement[bool] = (ItemStandard.rank == 0) & ItemStandard.item_version_id.in_(newest)
    with ctx.store.read() as db:
        rows = db.execute(
            select(Standard, func.count(ItemStandard.item_version_id))
            .outerjoin(ItemStandard, (ItemStandard.standard_id == Standard.id) & main)
            .outerjoin(Framework, Framework.id == Standard.framework_id)
            .where(
                Standard.framework_id.is_(None) | Framework.main.is_(True),
                Standard.id.not_in(select(Standard.parent_id).where(Standard.parent_id.is_not(None))),
            )
            .group_by(Standard.id).order_by(Standard.position, Standard.code)
        ).all()  # fmt: skip
        items = db.scalar(select(func.count(ItemVersion.item_id.distinct())).where(ItemVersion.id.in_(newest))) or 0
        written = select(ItemVersion.item_id)
        unfinished = db.scalar(select(func.count()).select_from(Item).where(allowed, Item.id.not_in(written))) or 0
        subjects = db.scalars(select(Item.subject).where(Item.subject != "").distinct().order_by(Item.subject)).all()
        grades = db.scalars(select(Item.grade).where(Item.grade != "").distinct().order_by(Item.grade)).all()
    standards = [StandardLine(s.code, s.text, s.subject, s.grade, n) for s, n in rows]
    bare = sum(line.items == 0 for line in standards)
    if not items:
        finding = f"{unfinished} {'item is' if unfinished == 1 else 'items are'} being written; none is finished yet."
    if not items and not unfinished:
        finding = "The bank is empty. Write an item, or bring some in as a sheet or a QTI package."
    elif items:
        finding = (
            f"{items} {'item' if items == 1 else 'items'} for {len(standards) - bare} of {len(standards)} standards."
        )
        if bare:
            finding += f" {bare} {'has' if bare == 1 else 'have'} no item yet."
        if unfinished:
            finding += f" {unfinished} more {'is' if unfinished == 1 else 'are'} being written."
    return BankOverview(finding, standards, list(subjects), list(grades))


LINE = 200  # what is longer is text of several lines, not a name


def need_text(value: str, name: str, longest: int = 120) -> str:
    """A name as typed, with blanks tidied (`legible`); Invalid where empty, too long, or with characters that are not seen."""
    text = legible(value) if longest <= LINE else value.strip()
    if longest <= LINE and has_unseen(value):
        raise Invalid(
            f"{name.replace('_', ' ')} contains invisible characters; enter it without them, as “{text[:LINE]}”", name
        )
    if not text or len(text) > longest:
        raise Invalid(f"{name.replace('_', ' ')} needs 1 to {longest} characters", name)
    return text
