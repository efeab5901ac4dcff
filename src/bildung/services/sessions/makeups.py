"""Makeups for everybody who still owes a test: proposed in rooms and with proctors that are free, then scheduled."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from statistics import median
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from bildung.core.items.shown import counted
from bildung.core.participation.makeups import Need, Slot, arrange
from bildung.core.participation.standing import Standing
from bildung.core.school.schooltime import school_day
from bildung.core.school.timing import planned_minutes
from bildung.services.calendar.blocks import bells_begin, slots_of
from bildung.services.calendar.years import calendar, local_today, zone_of
from bildung.services.owed.accommodated import NONE, occasion_of, of_people
from bildung.services.owed.sametest import forms_of, test_keys
from bildung.services.owed.sessionroster import in_class_on
from bildung.services.participation.obligations import OwedTest, Test, owed_tests
from bildung.services.participation.report import WHY
from bildung.services.participation.windowdates import window_dates
from bildung.services.people.hours import hours_of, is_there
from bildung.services.people.proctors import who_may_hold
from bildung.services.sessions import placing
from bildung.services.sessions.busy import A_DAY, supporters
from bildung.services.sessions.scheduling import FEW
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Enrolment, Person, PlannedSession, Role, Room, SchoolClass, Sitting, Window

SEATS = 28
USUAL = 50
SPARE = timedelta(minutes=30)  # from now until the first makeup
USUAL_TIMES = (time(8, 30), time(9, 40), time(10, 50), time(13, 10))
FIRST, LAST = time(7), time(15)
MOST = 60


@dataclass(frozen=True, kw_only=True)
class MakeupStudent:
    """why: they still owe it, in words. apart: needs a room or proctor of their own."""

    person: Id
    name: str
    klass: str
    why: str
    apart: bool


@dataclass(frozen=True, kw_only=True)
class MakeupTest:
    """A test taken in a makeup. session: one of the window that gives it."""

    session: Id
    test: str
    end: datetime
    students: list[MakeupStudent]


@dataclass(frozen=True, kw_only=True)
class Makeup:
    """A room with a proctor at a time, in which several tests may be taken beside each other. students: how many."""

    school: str
    start: datetime
    room: str
    proctor: Id | None
    proctor_name: str
    students: int
    tests: list[MakeupTest]


@dataclass(frozen=True, kw_only=True)
class Makeups:
    """left: who finds no place, and why."""

    finding: str
    makeups: list[Makeup]
    left: list[MakeupStudent]


def propose(ctx: Context, actor: Actor, window_id: int, people: Sequence[int] = ()) -> Makeups:
    """people: only of these; nobody named, everybody who is not scheduled though their class was."""
    scope(actor, Action.SESSIONS_PLAN)
    with ctx.store.read() as db:
        window = db.get(Window, window_id)
        if window is None:
            raise NotFound("there is no such window")
        sessions = _sessions(db, actor, window_id)
        keys = test_keys(db)
        like: dict[Test, list[PlannedSession]] = defaultdict(list)
        for session in sessions:
            like[keys[session.form_id], session.part].append(session)
        owing = [
            one
            for one in owed_tests(ctx, db, actor, window_id)
            if one.owed.standing is Standing.NOT_SCHEDULED
            and like.get(one.test)
            and (one.person in people if people else one.owed.attempt is not None)
        ]
        found: list[Makeup] = []
        left: list[MakeupStudent] = []
        for school in sorted({one.school for one in owing}):
            mine = [one for one in owing if one.school == school]
            made, rest = _at_school(ctx, db, actor, window, mine, like, sessions)
            found += made
            left += rest
    return Makeups(finding=_finding(owing, found, left), makeups=found, left=left)


def _finding(owing: Sequence[OwedTest], found: Sequence[Makeup], left: Sequence[MakeupStudent]) -> str:
    if not owing:
        return "No one needs a makeup in this window."
    students = len({one.person for one in owing})
    text = f"{counted(students, 'student')} still {'owes' if students == 1 else 'owe'} {counted(len(owing), 'test')}."
    if found:
        covered = len(owing) - len(left)
        of_them = "all" if covered == len(owing) else f"{covered} of them"
        text += f" {counted(len(found), 'makeup')} would cover {of_them}."
    if left:
        text += f" {len(left)} {'does' if len(left) == 1 else 'do'} not fit into the days left."
    return text


def _sessions(db: Session, actor: Actor, window_id: int) -> list[PlannedSession]:
    return list(
        db.scalars(
            select(PlannedSession)
            .where(
                PlannedSession.window_id == window_id,
                PlannedSession.canceled_at.is_(None),
                scope(actor, Action.SESSIONS_PLAN),
            )
            .options(joinedload(PlannedSession.form), joinedload(PlannedSession.klass).joinedload(SchoolClass.school))
            .order_by(PlannedSession.start.desc())
        )
    )


def _at_school(
    ctx: Context,
    db: Session,
    actor: Actor,
    window: Window,
    owing: Sequence[OwedTest],
    like: dict[Test, list[PlannedSession]],
    sessions: Sequence[PlannedSession],
) -> tuple[list[Makeup], list[MakeupStudent]]:
    tests = list(dict.fromkeys(one.test for one in owing))
    own = {
        test: next((s for s in like[test] if s.klass.school.name == owing[0].school), like[test][0]) for test in tests
    }
    school_id = next(iter(own.values())).klass.school_id
    day, forms = local_today(ctx, db), {test: like[test][0].form for test in tests}
    ids = [one.person for one in owing]
    needs_for = {test: of_people(db, ids, day, occasion_of(forms[test])) for test in tests}
    minutes = {test: _minutes(like[test]) for test in tests}
    needs, by_need = [], dict[tuple[int, int], OwedTest]()
    for one in owing:
        factor = needs_for[one.test].get(one.person, NONE).extra_time
        at = tests.index(one.test)
        needs.append(Need(student=one.person, test=at, minutes=planned_minutes(minutes[one.test], factor)))
        by_need[one.person, at] = one
    here = [s for s in sessions if s.klass.school_id == school_id]
    slots, places = _slots(ctx, db, actor, window, school_id, here)
    arranged, left = arrange(needs, slots, _busy(db, [one.person for one in owing]))

    def student(need: Need) -> MakeupStudent:
        one = by_need[need.student, need.test]
        return MakeupStudent(
            person=one.person,
            name=one.name,
            klass=one.klass,
            why=WHY[one.owed.reason],
            apart=needs_for[one.test].get(one.person, NONE).apart,
        )

    found = []
    for used in arranged:
        room, proctor_id, proctor = places[used.slot.place]
        taken = [
            MakeupTest(
                session=own[tests[at]].id,
                test=by_need[some.student, at].title,
                end=used.slot.start + timedelta(minutes=minutes[tests[at]]),
                students=[student(need) for need in used.needs if need.test == at],
            )
            for at, some in {need.test: need for need in used.needs}.items()
        ]
        found.append(
            Makeup(
                school=owing[0].school,
                start=used.slot.start,
                room=room,
                proctor=proctor_id,
                proctor_name=proctor,
                students=len(used.needs),
                tests=taken,
            )
        )
    return found, [student(need) for need in left]


def _minutes(sessions: Sequence[PlannedSession]) -> int:
    """How long the test usually takes in this window."""
    lengths = [(s.end - s.start) / timedelta(minutes=1) for s in sessions if s.end - s.start < A_DAY]
    return round(median(lengths)) if lengths else USUAL


def _busy(db: Session, people: Sequence[int]) -> dict[int, list[tuple[datetime, datetime]]]:
    """When each is on the list of a session that is not over."""
    found: defaultdict[int, list[tuple[datetime, datetime]]] = defaultdict(list)
    for person, start, end in db.execute(
        select(Sitting.person_id, PlannedSession.start, PlannedSession.end)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(
            Sitting.person_id.in_(people),
            PlannedSession.closed_at.is_(None),
            Sitting.state.in_(("not_started", "resting")),
        )
    ):
        if end - start < A_DAY:
            found[person].append((start, end))
    return found


def _slots(
    ctx: Context,
    db: Session,
    actor: Actor,
    window: Window,
    school_id: int,
    sessions: Sequence[PlannedSession],
) -> tuple[list[Slot], dict[int, tuple[str, int | None, str]]]:
    """Rooms and proctors of the school that are free together, when its blocks begin, or where it has entered none at the
    times at which it holds sessions, on the school days left in the window."""
    zone = zone_of(db)
    opens, closes = window_dates(db, window, school_id, "")
    today = max(local_today(ctx, db), opens)
    school_days = calendar(db, school_id)
    held = {s.start.astimezone(zone).time() for s in sessions if s.end - s.start < A_DAY}
    times = sorted(at for at in held if FIRST <= at < LAST) or list(USUAL_TIMES)
    lesson = max((_minutes([s]) for s in sessions), default=USUAL)
    rooms = _rooms(db, school_id)
    staff = _staff(db, actor, school_id)
    hours = hours_of(db, [id for id, _ in staff])
    taken = db.execute(
        select(
            PlannedSession.id, PlannedSession.start, PlannedSession.end, PlannedSession.room, PlannedSession.proctor_id
        ).where(PlannedSession.closed_at.is_(None), PlannedSession.end > ctx.clock())
    ).all()
    helping = supporters(db, [row.id for row in taken])
    slots: list[Slot] = []
    places: dict[int, tuple[str, int | None, str]] = {}
    day = today
    first = bells_begin(db, school_id)
    bells: dict[date, list[time]] = defaultdict(list)
    if first is not None and today <= closes:
        for slot in slots_of(db, school_id, today, closes):
            bells[slot.start.date()].append(slot.start.time())
    while day <= closes and len(slots) < MOST:
        usual = times if school_days(day, day).days else ()
        for at in bells[day] if first is not None and first <= day else usual:
            start = datetime.combine(day, at, zone).astimezone(ZoneInfo("UTC"))
            end = start + timedelta(minutes=round(lesson * 2))
            if start < ctx.clock() + SPARE:
                continue
            clash = [row for row in taken if row.start < end and row.end > start and row.end - row.start < A_DAY]
            room, seats = next((r for r in rooms if all(row.room != r[0] for row in clash)), ("", SEATS))
            away = {row.proctor_id for row in clash}.union(*(helping[row.id] for row in clash))
            # there for the length of a usual session; who needs longer has a proctor for as long
            local, lasts = start.astimezone(zone), timedelta(minutes=round(lesson))
            away |= {id for id in hours if not is_there(hours, id, local, local + lasts)}
            proctor = next(((id, name) for id, name in staff if id not in away), None)
            places[len(slots)] = (room, *(proctor or (None, "")))
            slots.append(Slot(start=start, minutes=round(lesson * 2), seats=seats, place=len(slots)))
        day += timedelta(days=1)
    return slots, places


def _rooms(db: Session, school_id: int) -> list[tuple[str, int]]:
    """With seats: the rooms in which any class may test, the largest first; where none are entered, those of classes."""
    entered = db.execute(
        select(Room.name, Room.seats)
        .where(Room.school_id == school_id, Room.shared.is_(True))
        .order_by(Room.seats.desc(), Room.name)
    ).all()
    if entered:
        return [(name, seats) for name, seats in entered]
    names = db.scalars(
        select(SchoolClass.location)
        .where(SchoolClass.school_id == school_id, SchoolClass.active.is_(True))
        .order_by(SchoolClass.homeroom.desc(), SchoolClass.location)
    )
    return [(name, SEATS) for name in dict.fromkeys(names) if name]


def _staff(db: Session, actor: Actor, school_id: int) -> list[tuple[int, str]]:
    """Who may proctor there, proctors by role first."""
    people = db.scalars(
        select(Person)
        .where(
            Person.kind == "staff",
            Person.active.is_(True),
            Person.school_id == school_id,
            scope(actor, Action.PEOPLE_READ),
        )
        .order_by(Person.family, Person.given)
    ).all()
    may = who_may_hold(db, [p.id for p in people])
    by_role = _with_role(db, "proctor")
    return [(p.id, p.name) for p in sorted(people, key=lambda p: p.id not in by_role) if p.id in may]


def _with_role(db: Session, role: str) -> set[int]:
    return set(db.scalars(select(Role.person_id).where(Role.role == role)))


@dataclass(frozen=True, kw_only=True)
class MakeupWish:
    """One to be scheduled. session: that gives the same test."""

    session: int
    people: Sequence[int]
    slot: placing.Slot


def schedule_makeups(ctx: Context, actor: Actor, wishes: Sequence[MakeupWish], why: str = "makeup") -> list[int]:
    """All of them or none; ids of the sessions."""
    if not 0 < len(wishes) <= MOST:
        raise Invalid(f"choose 1 to {MOST} makeup sessions", "makeups")

    def work(db: Session) -> list[int]:
        made = []
        for wish in wishes:
            like = db.scalar(
                select(PlannedSession).where(PlannedSession.id == wish.session, scope(actor, Action.SESSIONS_PLAN))
            )
            if like is None:
                raise NotFound("there is no such session, or it is not yours")
            if not wish.people:
                raise Conflict("a makeup without students cannot be scheduled", "people")
            session = placing.by_name(db, ctx, actor, like, _host(db, like, wish.people[0]), wish.slot, wish.people)
            placing.place_in(db, ctx, actor, session, wish.people, why)
            made.append(session.id)
        return made

    return ctx.store.write(work, much=len(wishes) > FEW)


def _host(db: Session, like: PlannedSession, person_id: int) -> SchoolClass:
    """The class through which the makeup belongs to somebody: the student's that has this test, else that of `like`."""
    day = school_day(like.end, zone_of(db))
    return _class_of(db, like, person_id, day) or like.klass


def _class_of(db: Session, like: PlannedSession, person_id: int, day: date) -> SchoolClass | None:
    with_test = select(PlannedSession.class_id).where(
        PlannedSession.window_id == like.window_id, PlannedSession.form_id.in_(forms_of(db, like.form_id))
    )
    return db.scalars(
        select(SchoolClass)
        .join(Enrolment, Enrolment.class_id == SchoolClass.id)
        .where(Enrolment.person_id == person_id, in_class_on(day), SchoolClass.id.in_(with_test))
        .order_by(SchoolClass.id)
    ).first()
