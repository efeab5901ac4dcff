"""What a school tests with: rooms, carts, hours of staff, what support people provide, times of classes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import time

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.core.accommodations.kinds import KINDS
from bildung.core.items.shown import counted
from bildung.core.school.dates import Dates
from bildung.services.calendar.years import local_today
from bildung.services.people.hours import hours_of
from bildung.services.planning.bells import Bells, bells_of
from bildung.services.planning.schools import plans_at, school_of, school_or_first, schools_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.settings import dates_of
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, Ref, Word
from bildung.store.models import Cart, Person, PlannedSession, Room, SchoolClass, StaffHours, StaffServes, StaffSupport

MOST_ROOMS = 300
MOST_SEATS = 500
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


@dataclass(frozen=True, kw_only=True)
class RoomLine:
    """shared: any class may test there. id: None for a new one."""

    id: Id | None = None
    name: str
    seats: int
    devices: int = 0
    shared: bool = True


@dataclass(frozen=True, kw_only=True)
class CartLine:
    id: Id | None = None
    name: str
    devices: int


@dataclass(frozen=True, kw_only=True)
class Available:
    """weekday: 0 is Monday."""

    weekday: int
    start: time
    end: time


@dataclass(frozen=True, kw_only=True)
class StaffLine:
    """hours: when they can be at sessions; none: always. provides: kinds of accommodation. serves: the students they are
    there for. says: all of it in words."""

    person: Id
    name: str
    hours: list[Available]
    provides: list[str]
    language: str
    serves: list[Ref]
    says: str


@dataclass(frozen=True, kw_only=True)
class ResourcesPage:
    """own_rooms: rooms that classes name and that are not in the list yet."""

    finding: str
    school: Id
    schools: list[Ref]
    rooms: list[RoomLine]
    carts: list[CartLine]
    staff: list[StaffLine]
    bells: Bells
    kinds: list[Word]
    own_rooms: list[str]
    may: bool


def resources_page(ctx: Context, actor: Actor, school_id: int | None = None) -> ResourcesPage:
    """Everything of one school; the first where none is named."""
    with ctx.store.read() as db:
        schools = schools_of(db, actor)
        school = school_or_first(db, actor, school_id, schools)
        rooms = db.scalars(
            select(Room).where(Room.school_id == school.id).order_by(Room.shared.desc(), Room.name)
        ).all()
        carts = db.scalars(select(Cart).where(Cart.school_id == school.id).order_by(Cart.name)).all()
        names = {room.name for room in rooms}
        own = db.scalars(
            select(SchoolClass.location)
            .where(SchoolClass.school_id == school.id, SchoolClass.active.is_(True), SchoolClass.location != "")
            .distinct()
            .order_by(SchoolClass.location)
        )
        staff = _staff(db, school.id)
        bells = bells_of(db, school.id, local_today(ctx, db))
        may = plans_at(db, actor, school.id)
        return ResourcesPage(
            finding=_finding(rooms, carts, staff, bells),
            school=school.id,
            schools=[Ref(s.id, s.name) for s in schools],
            rooms=[RoomLine(id=r.id, name=r.name, seats=r.seats, devices=r.devices, shared=r.shared) for r in rooms],
            carts=[CartLine(id=c.id, name=c.name, devices=c.devices) for c in carts],
            staff=staff,
            bells=bells,
            kinds=[Word(name, kind.says) for name, kind in KINDS.items() if kind.person],
            own_rooms=[name for name in own if name not in names],
            may=may,
        )


def _finding(rooms: object, carts: object, staff: list[StaffLine], bells: Bells) -> str:
    room_list, cart_list = list(rooms), list(carts)  # type: ignore[call-overload]
    shared = [room for room in room_list if room.shared]
    seats = sum(room.seats for room in shared)
    devices = sum(room.devices for room in room_list) + sum(cart.devices for cart in cart_list)
    parts = []
    if shared:
        parts.append(f"{len(shared)} testing {'room' if len(shared) == 1 else 'rooms'} with {seats} seats")
    if devices:
        parts.append(f"{devices} devices, {sum(c.devices for c in cart_list)} of them on {len(cart_list)} carts")
    kinds = len(bells.types)
    days = "the usual bell schedule" if not kinds else f"{kinds} {'kind' if kinds == 1 else 'kinds'} of day"
    if not parts:
        return f"No rooms or carts are entered. Classes test in their own rooms by {days}."
    limited = sum(bool(line.hours) for line in staff)
    text = f"{', '.join(parts)}; {days}."
    return text + (f" {limited} staff have limited hours." if limited > 1 else "")


def _staff(db: Session, school_id: int) -> list[StaffLine]:
    dates = dates_of(db)
    people = db.scalars(
        select(Person)
        .where(Person.kind == "staff", Person.active.is_(True), Person.school_id == school_id)
        .order_by(Person.family, Person.given)
    ).all()
    ids = [p.id for p in people]
    weeks = hours_of(db, ids)
    hours = {
        id: [Available(weekday=day, start=start, end=end) for day, (start, end) in week.items()]
        for id, week in weeks.items()
    }
    provides: dict[int, list[StaffSupport]] = {}
    for given in db.scalars(select(StaffSupport).where(StaffSupport.person_id.in_(ids)).order_by(StaffSupport.kind)):
        provides.setdefault(given.person_id, []).append(given)
    serves: dict[int, list[Ref]] = {}
    for staff, student in db.execute(
        select(StaffServes.person_id, Person)
        .join(Person, Person.id == StaffServes.student_id)
        .where(StaffServes.person_id.in_(ids), Person.active.is_(True))
        .order_by(Person.family, Person.given)
    ):
        serves.setdefault(staff, []).append(Ref(student.id, student.name))
    return [
        StaffLine(
            person=p.id,
            name=p.name,
            hours=hours.get(p.id, []),
            provides=[s.kind for s in provides.get(p.id, [])],
            language=next((s.language for s in provides.get(p.id, []) if s.language), ""),
            serves=serves.get(p.id, []),
            says=_says(dates, hours.get(p.id, []), provides.get(p.id, []), len(serves.get(p.id, []))),
        )
        for p in people
    ]


def _says(dates: Dates, hours: list[Available], provides: list[StaffSupport], serves: int) -> str:
    parts = [KINDS[s.kind].says for s in provides if s.kind in KINDS]
    languages = {s.language for s in provides if s.language}
    parts += [f"in {language}" for language in sorted(languages)]
    parts += [f"for {counted(serves, 'student')} first"] if serves else []
    same = {(h.start, h.end) for h in hours}
    if len(same) == 1 and len(hours) >= 5:
        start, end = next(iter(same))
        parts.append(f"{dates.time(start)} to {dates.time(end)}")
    else:
        parts += [f"{WEEKDAYS[h.weekday][:3]} {dates.time(h.start)} to {dates.time(h.end)}" for h in hours]
    return ", ".join(parts)


def save_rooms(ctx: Context, actor: Actor, school_id: int, rooms: list[RoomLine], carts: list[CartLine]) -> None:
    """The whole list at once, as it stands in the grid. A room in which sessions are still to come cannot be removed."""
    _check_names([r.name for r in rooms], "rooms", "room")
    _check_names([c.name for c in carts], "carts", "cart")
    for room in rooms:
        if not 0 < room.seats <= MOST_SEATS:
            raise Invalid(f"{room.name} has {room.seats} seats; 1 to {MOST_SEATS} are allowed", "seats")
        if not 0 <= room.devices <= MOST_SEATS:
            raise Invalid(f"{room.name} has {room.devices} devices; 0 to {MOST_SEATS} are allowed", "devices")
    for cart in carts:
        if not 0 < cart.devices <= MOST_SEATS:
            raise Invalid(f"{cart.name} has {cart.devices} devices; 1 to {MOST_SEATS} are allowed", "devices")

    def work(db: Session) -> None:
        school = school_of(db, actor, school_id, Action.WINDOWS_PLAN)
        had = {r.id: r for r in db.scalars(select(Room).where(Room.school_id == school.id))}
        wheels = {c.id: c for c in db.scalars(select(Cart).where(Cart.school_id == school.id))}
        if not {r.id for r in rooms if r.id} <= set(had) or not {c.id for c in carts if c.id} <= set(wheels):
            raise Conflict("someone changed this list in the meantime; the current version is shown", "rooms")
        gone = [row for id, row in had.items() if id not in {r.id for r in rooms}]
        for row in gone:
            _refuse_used(db, ctx, school.id, row.name)
            db.delete(row)
        for id, cart in wheels.items():
            if id not in {c.id for c in carts}:
                db.delete(cart)
        db.flush()
        for line in rooms:
            row = had[line.id] if line.id else Room(school_id=school.id)
            row.name, row.seats, row.devices, row.shared = line.name.strip(), line.seats, line.devices, line.shared
            db.add(row)
        for wheel in carts:
            kept = wheels[wheel.id] if wheel.id else Cart(school_id=school.id)
            kept.name, kept.devices = wheel.name.strip(), wheel.devices
            db.add(kept)
        said = {"rooms": len(rooms), "carts": len(carts), "removed": [row.name for row in gone]}
        audit.record(db, ctx.clock(), actor.person_id, "resources.save", f"school:{school.id}", None, said)

    ctx.store.write(work)


def _check_names(names: list[str], place: str, what: str) -> None:
    if len(names) > MOST_ROOMS:
        raise Invalid(f"there are at most {MOST_ROOMS} of each", place)
    if any(not name.strip() for name in names):
        raise Invalid(f"each {what} needs a name", place)
    plain = [need_text(name, place, 40) for name in names]
    twice = next((name for name in plain if plain.count(name) > 1), None)
    if twice:
        raise Invalid(f"two {what}s are named {twice}", place)


def _refuse_used(db: Session, ctx: Context, school_id: int, name: str) -> None:
    ahead = db.scalars(
        select(PlannedSession)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(
            SchoolClass.school_id == school_id,
            PlannedSession.room == name,
            PlannedSession.closed_at.is_(None),
            PlannedSession.end > ctx.clock(),
        )
    ).all()
    if ahead:
        count = len(ahead)
        raise Conflict(
            f"{name} is used by {count} upcoming {'session' if count == 1 else 'sessions'}; move "
            f"{'it' if count == 1 else 'them'} first, or close the room for these days on the Calendar board",
            "rooms",
        )


def save_staff(
    ctx: Context,
    actor: Actor,
    person_id: int,
    hours: list[Available],
    provides: list[str],
    language: str = "",
    serves: Sequence[int] = (),
) -> None:
    """Hours and support of one person; an empty list of hours is all day. serves: students they are there for."""
    days = [h.weekday for h in hours]
    if len(set(days)) < len(days) or any(not 0 <= day < 7 for day in days):
        raise Invalid("each weekday is listed once", "hours")
    wrong = next((h for h in hours if h.end <= h.start), None)
    if wrong:
        raise Invalid(f"{WEEKDAYS[wrong.weekday]} ends before it begins", "hours")
    unknown = next((kind for kind in provides if kind not in KINDS or not KINDS[kind].person), None)
    if unknown:
        raise Invalid(f"{unknown} is not provided by a person", "provides")
    if serves and not provides:
        raise Invalid("say what they provide to these students", "provides")

    def work(db: Session) -> None:
        person = db.get(Person, person_id)
        if person is None or person.kind != "staff" or person.school_id is None:
            raise Invalid("choose a member of staff of the school", "person")
        school_of(db, actor, person.school_id, Action.WINDOWS_PLAN)
        db.execute(delete(StaffHours).where(StaffHours.person_id == person_id))
        db.execute(delete(StaffSupport).where(StaffSupport.person_id == person_id))
        db.execute(delete(StaffServes).where(StaffServes.person_id == person_id))
        students = set(db.scalars(select(Person.id).where(Person.id.in_(serves), Person.student, Person.active)))
        if students != set(serves):
            raise Invalid("choose students of the district", "serves")
        for student in sorted(students):
            db.add(StaffServes(person_id=person_id, student_id=student))
        for line in hours:
            db.add(StaffHours(person_id=person_id, weekday=line.weekday, start=line.start, end=line.end))
        for kind in dict.fromkeys(provides):
            db.add(StaffSupport(person_id=person_id, kind=kind, language=language.strip()))
        said = {"hours": len(hours), "provides": provides, "students": len(students)}
        audit.record(db, ctx.clock(), actor.person_id, "staff.hours", f"person:{person_id}", None, said)

    ctx.store.write(work)
