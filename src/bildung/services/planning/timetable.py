"""Class timetables: in which blocks of which kind of day each class meets."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.services.people.teachers import teachers_of
from bildung.services.planning.schools import plans_at, school_of, school_or_first, schools_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.wire import Id, Ref
from bildung.store.models import Block, ClassTime, DayType, SchoolClass


@dataclass(frozen=True, kw_only=True)
class TimetableBlock:
    """A block of a kind of day. day: the kind's name."""

    id: Id
    day: str
    name: str


@dataclass(frozen=True, kw_only=True)
class TimetableLine:
    """A class. meets: its blocks. twice: of those, where its teacher has another class as well."""

    klass: Id
    title: str
    grade: str
    subject: str
    teacher: str
    room: str
    meets: list[Id]
    twice: list[Id]


@dataclass(frozen=True, kw_only=True)
class Timetable:
    """blocks: in order of kind of day and time; none before bell schedules are entered."""

    finding: str
    school: Id
    schools: list[Ref]
    blocks: list[TimetableBlock]
    lines: list[TimetableLine]
    may: bool


def timetable_page(ctx: Context, actor: Actor, school_id: int | None = None) -> Timetable:
    """Of one school, its classes by grade, subject and title; homerooms have no times of their own."""
    with ctx.store.read() as db:
        schools = schools_of(db, actor)
        school = school_or_first(db, actor, school_id, schools)
        blocks = blocks_of(db, school.id)
        classes = classes_of(db, school.id)
        ids = [klass.id for klass in classes]
        meets: defaultdict[int, list[int]] = defaultdict(list)
        order = {block.id: at for at, block in enumerate(blocks)}
        for row in db.scalars(select(ClassTime).where(ClassTime.class_id.in_(ids))):
            meets[row.class_id].append(row.block_id)
        teachers = {klass: people[0] for klass, people in teachers_of(db, ids).items()}
        twice = _twice(meets, {klass: person.id for klass, person in teachers.items()})
        lines = [
            TimetableLine(
                klass=klass.id,
                title=klass.title,
                grade=klass.grade,
                subject=klass.subject,
                teacher=teachers[klass.id].name if klass.id in teachers else "",
                room=klass.location,
                meets=sorted(meets[klass.id], key=lambda id: order.get(id, 0)),
                twice=sorted(twice.get(klass.id, ()), key=lambda id: order.get(id, 0)),
            )
            for klass in classes
        ]
        return Timetable(
            finding=_finding(lines, blocks),
            school=school.id,
            schools=[Ref(s.id, s.name) for s in schools],
            blocks=blocks,
            lines=lines,
            may=plans_at(db, actor, school.id),
        )


def _finding(lines: Sequence[TimetableLine], blocks: Sequence[TimetableBlock]) -> str:
    if not blocks:
        return "No bell schedule is entered, so classes have no times. Plans use four usual blocks."
    timed = sum(bool(line.meets) for line in lines)
    whole = timed == len(lines) > 1
    text = (
        f"All {timed} classes have times."
        if whole
        else f"{timed} of {counted(len(lines), 'class', 'classes')} {'has' if timed == 1 else 'have'} times."
    )
    clashing = sum(bool(line.twice) for line in lines)
    if clashing:
        text += f" {counted(clashing, 'class', 'classes')} with a teacher who has another class in the same block."
    return text


def blocks_of(db: Session, school_id: int) -> list[TimetableBlock]:
    """In order of kind of day and time."""
    rows = db.execute(
        select(Block, DayType.name)
        .join(DayType, DayType.id == Block.day_type_id)
        .where(DayType.school_id == school_id)
        .order_by(DayType.place, DayType.id, Block.start)
    )
    return [TimetableBlock(id=block.id, day=day, name=block.name) for block, day in rows]


def classes_of(db: Session, school_id: int) -> list[SchoolClass]:
    """Classes that meet in blocks."""
    return list(
        db.scalars(
            select(SchoolClass)
            .where(SchoolClass.school_id == school_id, SchoolClass.active.is_(True), SchoolClass.homeroom.is_(False))
            .order_by(SchoolClass.grade, SchoolClass.subject, SchoolClass.title)
        )
    )


def _twice(meets: Mapping[int, Collection[int]], teachers: Mapping[int, int]) -> dict[int, set[int]]:
    """By class, blocks in which its teacher has another class."""
    at: defaultdict[tuple[int, int], list[int]] = defaultdict(list)
    for klass, blocks in meets.items():
        for block in blocks:
            if klass in teachers:
                at[teachers[klass], block].append(klass)
    found: defaultdict[int, set[int]] = defaultdict(set)
    for (_, block), classes in at.items():
        if len(classes) > 1:
            for klass in classes:
                found[klass].add(block)
    return dict(found)


def save_times(ctx: Context, actor: Actor, school_id: int, times: Mapping[int, Sequence[int]]) -> None:
    """Of these classes, each with all of its blocks; the others stay as they are."""

    def work(db: Session) -> None:
        school = school_of(db, actor, school_id, Action.WINDOWS_PLAN)
        put_times(db, school.id, times)
        said = {"classes": len(times)}
        audit.record(db, ctx.clock(), actor.person_id, "timetable.save", f"school:{school.id}", None, said)

    ctx.store.write(work)


def put_times(db: Session, school_id: int, times: Mapping[int, Sequence[int]]) -> None:
    """The same, in a transaction of somebody else."""
    known = {klass.id for klass in classes_of(db, school_id)}
    blocks = {block.id for block in blocks_of(db, school_id)}
    if not times.keys() <= known:
        raise Invalid("one of these classes is not a class of this school", "classes")
    if not {id for meets in times.values() for id in meets} <= blocks:
        raise Invalid("one of these blocks is no longer there; reload the page", "blocks")
    db.execute(delete(ClassTime).where(ClassTime.class_id.in_(times)))
    for klass, meets in times.items():
        db.add_all(ClassTime(class_id=klass, block_id=id) for id in dict.fromkeys(meets))
    db.flush()
