"""Tagging many items at once: a look at what would change, the change, and taking it back."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from datetime import datetime
from itertools import combinations
from typing import Annotated, Any

from sqlalchemy import select, true
from sqlalchemy.orm import Session, selectinload

from bildung.formats.itemlist import CALCULATORS
from bildung.services.bank.drafts import put_under_standards
from bildung.services.bank.search import matching
from bildung.services.bank.versions import index_items
from bildung.services.items.bankitem import standards_by_code
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id, listed
from bildung.store.models import Item, ItemEnemy, ItemStandard, ItemVersion, Person, TagChange

MOST = 5000
TEXTS = {"subject": 60, "grade": 10, "topic": 80, "unit": 120, "language": 20, "source": 120}


@dataclass(frozen=True)
class TagMove:
    field: str
    before: str
    after: str


@dataclass(frozen=True)
class TagLine:
    """What would become of one item, field by field: before and after."""

    item_id: Id
    code: str
    changes: Annotated[list[tuple[str, str, str]], listed(TagMove)]


@dataclass(frozen=True, kw_only=True)
class TagPreview:
    """lines: the first hundred that would change. stamp: of what was looked at."""

    chosen: int
    changed: int
    lines: list[TagLine]
    stamp: str
    finding: str


@dataclass(frozen=True, kw_only=True)
class TagsDone:
    id: Id
    what: str
    at: datetime
    by: str
    items: int
    undone: bool


def _tags(actor: Actor) -> Action:
    """Keepers tag what the bank has in common; others their own items."""
    return Action.BANK_KEEP if actor.may(Action.BANK_KEEP) else Action.BANK_WRITE


def preview(ctx: Context, actor: Actor, find: str, items: list[int], change: dict[str, Any]) -> TagPreview:
    """What a change would do to the items of a line, or to those named."""
    with ctx.store.read() as db:
        return _planned(ctx, db, actor, find, items, change)[0]


def apply(ctx: Context, actor: Actor, find: str, items: list[int], change: dict[str, Any], stamp: str) -> TagPreview:
    """Conflict where something moved since the look: nothing is changed."""

    def work(db: Session) -> TagPreview:
        found, before, after, rows = _planned(ctx, db, actor, find, items, change)
        if found.stamp != stamp:
            raise Conflict("something changed since the preview; preview again")
        for id, values in after.items():
            _put(db, ctx.clock(), rows[int(id)], values)
        enemies = _enemies(db, sorted(rows), change.get("enemies", "")) if change.get("enemies") else []
        index_items(db, [rows[int(id)] for id in after])
        kept = TagChange(
            at=ctx.clock(),
            person_id=actor.person_id,
            what=_what(change),
            before={"items": before, "enemies": enemies},
            after={"items": after, "enemies": change.get("enemies", "")},
        )
        db.add(kept)
        db.flush()
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "items.tag",
            f"tags:{kept.id}",
            None,
            {"items": len(after), "what": kept.what},
        )
        return found

    return ctx.store.write(work)


def history(ctx: Context, actor: Actor) -> list[TagsDone]:
    """The latest bulk changes; of somebody who keeps no bank, their own."""
    scope(actor, _tags(actor))
    mine = true() if actor.may(Action.BANK_KEEP) else TagChange.person_id == actor.person_id
    with ctx.store.read() as db:
        rows = db.execute(
            select(TagChange, Person)
            .outerjoin(Person, Person.id == TagChange.person_id)
            .where(mine)
            .order_by(TagChange.id.desc())
            .limit(20)
        ).all()
    return [
        TagsDone(
            id=c.id,
            what=c.what,
            at=c.at,
            by=p.name if p else "",
            items=len(c.before["items"]),
            undone=c.undone_at is not None,
        )
        for c, p in rows
    ]


def undo(ctx: Context, actor: Actor, id: int) -> int:
    """Put the tags of a bulk change back; what somebody changed again since then stays. How many were put back."""
    scope(actor, _tags(actor))

    def work(db: Session) -> int:
        change = db.get(TagChange, id)
        if change is None or (not actor.may(Action.BANK_KEEP) and change.person_id != actor.person_id):
            raise NotFound("there is no such change")
        if change.undone_at is not None:
            raise Conflict("this change was undone already")
        before, after = change.before["items"], change.after["items"]
        rows = _rows(db, [int(key) for key in before])
        back = []
        for key, values in before.items():
            item = rows.get(int(key))
            if item is None:
                continue
            now = {name: _value(item, name) for name in values}
            kept = {name: value for name, value in values.items() if now[name] == after[key][name]}
            if kept:
                _put(db, ctx.clock(), item, kept)
                back.append(item)
        if change.before["enemies"]:
            pairs = {tuple(pair) for pair in change.before["enemies"]}
            if change.after["enemies"] == "apart":
                for pair in pairs:
                    found = db.get(ItemEnemy, pair)
                    if found is not None:
                        db.delete(found)
            else:
                db.add_all(ItemEnemy(item_id=a, other_id=b) for a, b in pairs if db.get(ItemEnemy, (a, b)) is None)
        index_items(db, back)
        change.undone_at = ctx.clock()
        audit.record(db, ctx.clock(), actor.person_id, "items.untag", f"tags:{id}", None, {"items": len(back)})
        return len(back)

    return ctx.store.write(work)


def _planned(
    ctx: Context, db: Session, actor: Actor, find: str, items: list[int], change: dict[str, Any]
) -> tuple[TagPreview, dict[str, Any], dict[str, Any], dict[int, Item]]:
    own = scope(actor, _tags(actor))
    _check(db, change)
    allowed = (
        matching(ctx, db, actor, find, _tags(actor))
        if not items
        else list(db.scalars(select(Item.id).where(Item.id.in_(items[:MOST]), own)))
    )
    if len(allowed) > MOST:
        raise Invalid(f"{len(allowed)} items; at most {MOST} at once", "find")
    rows = _rows(db, allowed)
    before: dict[str, Any] = {}
    after: dict[str, Any] = {}
    lines = []
    for id in allowed:
        item = rows[id]
        new = _new_values(item, change)
        old = {name: _value(item, name) for name in new}
        moved = {name: value for name, value in new.items() if value != old[name]}
        if moved:
            before[str(id)] = {name: old[name] for name in moved}
            after[str(id)] = moved
            lines.append(
                TagLine(id, item.code, [(name, _said(old[name]), _said(value)) for name, value in moved.items()])
            )
    pairs = len(allowed) * (len(allowed) - 1) // 2 if change.get("enemies") else 0
    finding = f"{len(lines)} of {len(allowed)} items would change." if lines or not pairs else ""
    if pairs:
        finding += f" {pairs} pairs would {'never stand on one form' if change['enemies'] == 'apart' else 'be allowed on one form again'}."
    seen = json.dumps([allowed, before, after], sort_keys=True, ensure_ascii=False)
    stamp = hashlib.sha256(seen.encode()).hexdigest()[:24]
    return (
        TagPreview(chosen=len(allowed), changed=len(lines), lines=lines[:100], stamp=stamp, finding=finding.strip()),
        before,
        after,
        rows,
    )


def _check(db: Session, change: dict[str, Any]) -> None:
    for name, longest in TEXTS.items():
        value = change.get(name)
        if value is not None and (not isinstance(value, str) or len(value) > longest):
            raise Invalid(f"{name} has at most {longest} characters", name)
    depth, seconds = change.get("depth"), change.get("seconds")
    if depth is not None and depth not in (0, 1, 2, 3, 4):
        raise Invalid("depth is 1, 2, 3 or 4; 0 takes it away", "depth")
    if seconds is not None and not 0 <= seconds <= 7200:
        raise Invalid("a time is 1 to 7200 seconds; 0 takes it away", "seconds")
    if change.get("calculator") is not None and change["calculator"] not in CALCULATORS:
        raise Invalid("calculator is none, basic or scientific, or empty", "calculator")
    if change.get("enemies") not in (None, "", "apart", "together"):
        raise Invalid("enemies is apart or together", "enemies")
    known = standards_by_code(db)
    for name in ("standard", "touch", "untouch"):
        if change.get(name) and change[name] not in known:
            raise Invalid(f"there is no standard {change[name]}", name)
    if any(len(label) > 60 for name in ("label", "unlabel") for label in change.get(name) or []):
        raise Invalid("a keyword has at most 60 characters", "label")


def _rows(db: Session, ids: list[int]) -> dict[int, Item]:
    versions = selectinload(Item.versions)
    found: dict[int, Item] = {}
    for at in range(0, len(ids), 500):
        wanted = (
            select(Item)
            .where(Item.id.in_(ids[at : at + 500]))
            .options(
                versions.selectinload(ItemVersion.standards).selectinload(ItemStandard.standard),
                versions.selectinload(ItemVersion.scorings),
                versions.selectinload(ItemVersion.stimulus),
            )
        )
        found |= {item.id: item for item in db.scalars(wanted)}
    return found


def _value(item: Item, name: str) -> Any:
    if name == "standards":
        return [s.standard.code for s in item.versions[-1].standards] if item.versions else []
    value = getattr(item, name)
    return list(value) if name == "labels" else value


def _new_values(item: Item, change: dict[str, Any]) -> dict[str, Any]:
    new: dict[str, Any] = {name: change[name].strip() for name in TEXTS if change.get(name) is not None}
    for name in ("depth", "seconds"):
        if change.get(name) is not None:
            new[name] = change[name] or None
    if change.get("calculator") is not None:
        new["calculator"] = change["calculator"]
    if change.get("label") or change.get("unlabel"):
        gone = {label.casefold() for label in change.get("unlabel") or []}
        labels = [label for label in item.labels if label.casefold() not in gone]
        have = {label.casefold() for label in labels}
        new["labels"] = labels + [
            label.strip() for label in change.get("label") or [] if label.strip().casefold() not in have
        ]
    if item.versions and any(change.get(name) for name in ("standard", "touch", "untouch")):
        codes = _value(item, "standards")
        if change.get("untouch"):
            codes = [code for code in codes if code != change["untouch"]]
        if change.get("standard"):
            codes = [change["standard"], *(code for code in codes[1:] if code != change["standard"])]
        if change.get("touch") and change["touch"] not in codes:
            codes = [*codes, change["touch"]]
        new["standards"] = codes
    return new


def _put(db: Session, at: datetime, item: Item, values: dict[str, Any]) -> None:
    for name, value in values.items():
        if name == "standards":
            put_under_standards(db, at, item, value)
        else:
            setattr(item, name, value)


def _enemies(db: Session, ids: list[int], how: str) -> list[list[int]]:
    """The pairs that this made or took away."""
    if len(ids) > 60:
        raise Invalid(f"{len(ids)} items; at most 60 are kept apart from each other at once", "enemies")
    moved = []
    for a, b in combinations(ids, 2):
        known = db.get(ItemEnemy, (a, b))
        if how == "apart" and known is None:
            db.add(ItemEnemy(item_id=a, other_id=b))
            moved.append([a, b])
        elif how == "together" and known is not None:
            db.delete(known)
            moved.append([a, b])
    return moved


def _said(value: Any) -> str:
    return ", ".join(value) if isinstance(value, list) else "" if value is None else str(value)


def _what(change: dict[str, Any]) -> str:
    words = {
        "label": "keyword",
        "unlabel": "remove keyword",
        "touch": "additional standard",
        "untouch": "remove standard",
    }
    said = [
        f"{words.get(name, name)}: {_said(value) or 'nothing'}"
        for name, value in change.items()
        if value not in (None, "", [])
    ]
    return "; ".join(said)[:300] or "nothing"
