"""Bell schedules and kinds of days of a school, and the blocks that a window has by them."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, time
from itertools import pairwise

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.services.planning.schools import school_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import Block, ClassTime, DayChange, DayPattern, DayType

MOST_TYPES, MOST_BLOCKS = 12, 14


@dataclass(frozen=True, kw_only=True)
class BlockLine:
    name: str
    start: time
    end: time


@dataclass(frozen=True, kw_only=True)
class DayTypeLine:
    """id: None for one that is new."""

    id: Id | None = None
    name: str
    blocks: list[BlockLine]


@dataclass(frozen=True, kw_only=True)
class DayChangeLine:
    """type: name of the kind of day it is instead; empty: no school."""

    day: date
    type: str
    why: str = ""


@dataclass(frozen=True, kw_only=True)
class Bells:
    """pattern: names of day types, of the weekdays from Monday on or of the cycle from `first` on."""

    types: list[DayTypeLine]
    cycle: bool
    pattern: list[str]
    first: date
    shifts: bool
    changes: list[DayChangeLine]


def bells_of(db: Session, school_id: int, today: date) -> Bells:
    """As entered; empty where nothing is."""
    types = db.scalars(select(DayType).where(DayType.school_id == school_id).order_by(DayType.place, DayType.id)).all()
    blocks: defaultdict[int, list[Block]] = defaultdict(list)
    for block in db.scalars(select(Block).where(Block.day_type_id.in_([t.id for t in types])).order_by(Block.start)):
        blocks[block.day_type_id].append(block)
    names = {t.id: t.name for t in types}
    pattern = db.get(DayPattern, school_id)
    changes = db.scalars(select(DayChange).where(DayChange.school_id == school_id).order_by(DayChange.day)).all()
    return Bells(
        types=[
            DayTypeLine(
                id=t.id, name=t.name, blocks=[BlockLine(name=b.name, start=b.start, end=b.end) for b in blocks[t.id]]
            )
            for t in types
        ],
        cycle=pattern.cycle if pattern else False,
        pattern=[names[id] for id in pattern.types if id in names] if pattern else [],
        first=pattern.first if pattern else today,
        shifts=pattern.shifts if pattern else True,
        changes=[
            DayChangeLine(day=c.day, type=names[c.day_type_id] if c.day_type_id is not None else "", why=c.why)
            for c in changes
        ],
    )


def save_bells(ctx: Context, actor: Actor, school_id: int, wish: Bells) -> None:
    """All of it at once. Kinds of days keep their identity by id, and classes their times by the names of blocks."""
    _check(wish)

    def work(db: Session) -> None:
        school = school_of(db, actor, school_id, Action.WINDOWS_PLAN)
        rows = {t.id: t for t in db.scalars(select(DayType).where(DayType.school_id == school_id))}
        kept = {line.id for line in wish.types if line.id is not None}
        if not kept <= set(rows):
            raise Conflict("someone changed these kinds of days in the meantime; the current version is shown", "types")
        for id, row in rows.items():
            if id not in kept:
                db.delete(row)
        db.flush()
        for place, line in enumerate(wish.types):
            row = rows[line.id] if line.id is not None else DayType(school_id=school_id, name=line.name, place=place)
            row.name, row.place = line.name.strip(), place
            db.add(row)
            db.flush()
            _put_blocks(db, row.id, line.blocks)
        ids = {t.name: t.id for t in db.scalars(select(DayType).where(DayType.school_id == school_id))}
        pattern = db.get(DayPattern, school_id) or DayPattern(school_id=school_id)
        pattern.cycle, pattern.first, pattern.shifts = wish.cycle, wish.first, wish.shifts
        pattern.types = [ids[name.strip()] for name in wish.pattern]
        db.add(pattern)
        db.execute(delete(DayChange).where(DayChange.school_id == school_id))
        for change in wish.changes:
            db.add(
                DayChange(
                    school_id=school_id,
                    day=change.day,
                    day_type_id=ids[change.type.strip()] if change.type else None,
                    why=change.why.strip(),
                )
            )
        said = {"types": [t.name for t in wish.types], "pattern": wish.pattern}
        audit.record(db, ctx.clock(), actor.person_id, "bells.save", f"school:{school.id}", None, said)

    ctx.store.write(work)


def _put_blocks(db: Session, type_id: int, wanted: list[BlockLine]) -> None:
    """Blocks by name; one that is gone takes the times of classes with it."""
    rows = {b.name: b for b in db.scalars(select(Block).where(Block.day_type_id == type_id))}
    names = [line.name.strip() for line in wanted]
    gone = [b.id for name, b in rows.items() if name not in names]
    db.execute(delete(ClassTime).where(ClassTime.block_id.in_(gone)))
    db.execute(delete(Block).where(Block.id.in_(gone)))
    for line in wanted:
        block = rows.get(line.name.strip()) or Block(day_type_id=type_id, name=line.name.strip())
        block.start, block.end = line.start, line.end
        db.add(block)
    db.flush()


def _check(wish: Bells) -> None:
    names = [need_text(t.name, "types", 40) for t in wish.types]
    if len(set(names)) < len(names):
        raise Invalid("two kinds of days have the same name", "types")
    if len(names) > MOST_TYPES:
        raise Invalid(f"there are at most {MOST_TYPES} kinds of days", "types")
    for line in wish.types:
        if len(line.blocks) > MOST_BLOCKS:
            raise Invalid(f"{line.name} has {len(line.blocks)} blocks; {MOST_BLOCKS} are allowed", "blocks")
        ordered = sorted(line.blocks, key=lambda b: b.start)
        blocks = [need_text(b.name, "blocks", 20) for b in ordered]
        if len(set(blocks)) < len(blocks):
            raise Invalid(f"two blocks of {line.name} have the same name", "blocks")
        for block in ordered:
            if block.end <= block.start:
                raise Invalid(f"block {block.name} of {line.name} ends before it begins", "blocks")
        for one, other in pairwise(ordered):
            if other.start < one.end:
                raise Invalid(f"blocks {one.name} and {other.name} of {line.name} overlap", "blocks")
    unknown = [name for name in [*wish.pattern, *(c.type for c in wish.changes if c.type)] if name.strip() not in names]
    if unknown:
        raise Invalid(f"there is no kind of day named {unknown[0]}", "pattern")
    if wish.pattern and not wish.cycle and len(wish.pattern) > 7:
        raise Invalid("a week has at most seven days", "pattern")
    days = [c.day for c in wish.changes]
    if len(set(days)) < len(days):
        raise Invalid("one day is listed twice among the changes", "changes")
