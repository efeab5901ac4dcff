"""A day of testing at a school: each session with what is missing and where that is mended, and the day on paper."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from bildung.core.accommodations.kinds import KINDS
from bildung.core.items.shown import counted
from bildung.core.school.schooltime import school_day
from bildung.reports.testingday import (
    PrintedEvent,
    PrintedSession,
    PrintedStudent,
    PrintedWeek,
    PrintedWeekLine,
    Sheet,
    TestingDayPrint,
    testing_day_document,
)
from bildung.services.calendar.years import local_today, zone_of
from bildung.services.forms.settings import title_of
from bildung.services.owed.accommodated import in_session, said
from bildung.services.people.teachers import teachers_of
from bildung.services.planning.closed import closings
from bildung.services.planning.schools import school_of, school_or_first, schools_of
from bildung.services.sessions.busy import A_DAY
from bildung.services.sessions.listing import counts_in_words
from bildung.services.sessions.roomview import in_the_room, irregularities
from bildung.services.sessions.substitute import code_of
from bildung.services.sessions.support import missing_support
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id, Ref
from bildung.store.models import (
    AuditEntry,
    Cart,
    Person,
    PlannedSession,
    Room,
    School,
    SchoolClass,
    SessionSupport,
    Sitting,
)

OUTCOME_WORDS = {
    "counts": "counts",
    "void": "invalidated",
    "retake": "invalidated, to be taken again",
    "exempt": "exempt",
}


@dataclass(frozen=True, kw_only=True)
class MissingThing:
    """says: what is missing. path: where it is mended."""

    says: str
    path: str


@dataclass(frozen=True, kw_only=True)
class ReadyLine:
    """One session; missing: only what is."""

    session: Id
    title: str
    klass: str
    start: datetime
    end: datetime
    room: str
    proctor: str
    students: int
    missing: list[MissingThing]


@dataclass(frozen=True, kw_only=True)
class TestingDay:
    """days: on which the school tests, from today on."""

    finding: str
    school: Id
    schools: list[Ref]
    day: date
    days: list[date]
    lines: list[ReadyLine]


@dataclass(frozen=True)
class NotReady:
    """Sessions of a school on a day that lack something. says: in a sentence, with the school where
    there are several."""

    school: int
    day: date
    says: str


def not_ready(ctx: Context, db: Session, actor: Actor) -> list[NotReady]:
    """Of schools that this person plans, on the next day of testing where that is today or tomorrow."""
    found = []
    last, schools = local_today(ctx, db) + timedelta(days=1), schools_of(db, actor, Action.WINDOWS_PLAN)
    for school in schools:
        day = next(iter(_days(ctx, db, school.id)), None)
        if day is not None and day <= last:
            lines = _lines(db, _sessions(db, school.id, day), school.id)
            if any(line.missing for line in lines):
                says = _finding(lines, dates_of(db).long(day))
                found.append(NotReady(school.id, day, f"{school.name}: {says}" if len(schools) > 1 else says))
    return found


def _finding(lines: Sequence[ReadyLine], when: str) -> str:
    wanting, many = sum(bool(line.missing) for line in lines), len(lines)
    if not lines:
        return f"No session is scheduled on {when}."
    if wanting:
        return f"{wanting} of {counted(many, 'session')} on {when} {'is' if wanting == 1 else 'are'} not ready."
    return f"{'The session' if many == 1 else f'All {many} sessions'} on {when} {'is' if many == 1 else 'are'} ready."


def testing_day(ctx: Context, actor: Actor, school_id: int | None = None, day: date | None = None) -> TestingDay:
    """The day asked for, else the next one with a session."""
    with ctx.store.read() as db:
        schools = schools_of(db, actor)
        school = school_or_first(db, actor, school_id, schools)
        days = _days(ctx, db, school.id)
        shown = day or (days[0] if days else local_today(ctx, db))
        lines = _lines(db, _sessions(db, school.id, shown), school.id)
        dates = dates_of(db)
    return TestingDay(
        finding=_finding(lines, dates.long(shown)),
        school=school.id,
        schools=[Ref(s.id, s.name) for s in schools],
        day=shown,
        days=days,
        lines=lines,
    )


def _days(ctx: Context, db: Session, school_id: int) -> list[date]:
    zone = zone_of(db)
    starts = db.scalars(
        select(PlannedSession.start)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(
            SchoolClass.school_id == school_id,
            PlannedSession.closed_at.is_(None),
            PlannedSession.end > ctx.clock(),
        )
    )
    today = local_today(ctx, db)
    return sorted({day for start in starts if (day := start.astimezone(zone).date()) >= today})


def _sessions(db: Session, school_id: int, day: date) -> list[PlannedSession]:
    begin = datetime.combine(day, time(0), zone_of(db))
    rows = db.scalars(
        select(PlannedSession)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(
            SchoolClass.school_id == school_id,
            PlannedSession.canceled_at.is_(None),
            PlannedSession.start >= begin,
            PlannedSession.start < begin + timedelta(days=1),
        )
        .options(joinedload(PlannedSession.form), joinedload(PlannedSession.klass), joinedload(PlannedSession.proctor))
        .order_by(PlannedSession.start, PlannedSession.room, PlannedSession.id)
    ).all()
    return [row for row in rows if row.end - row.start < A_DAY]


def _lines(db: Session, sessions: Sequence[PlannedSession], school_id: int) -> list[ReadyLine]:
    ids = [session.id for session in sessions]
    listed: dict[int, int] = defaultdict(int)
    for id in db.scalars(select(Sitting.session_id).where(Sitting.session_id.in_(ids))):
        listed[id] += 1
    rooms = {room.name: room for room in db.scalars(select(Room).where(Room.school_id == school_id))}
    carts = db.scalars(select(Cart.devices).where(Cart.school_id == school_id)).all()
    printed = set(
        db.scalars(
            select(AuditEntry.subject).where(
                AuditEntry.action == "session.cards", AuditEntry.subject.in_([f"session:{id}" for id in ids])
            )
        )
    )
    supports = missing_support(db, sessions)
    zone = zone_of(db)
    days = {school_day(session.start, zone) for session in sessions}
    shut = {one.room for day in days for one in closings(db, school_id, day, day)}
    found = []
    for session in sessions:
        path = f"/sessions/{session.id}"
        missing = []
        if session.closed_at is None:
            says = _missing(session, listed[session.id], rooms, max(carts, default=0), supports[session.id])
            if session.room in shut:
                says.append(f"{session.room} is closed")
            if f"session:{session.id}" not in printed:
                says.append("tickets not printed")
            missing = [MissingThing(says=text, path=path) for text in says]
        found.append(
            ReadyLine(
                session=session.id,
                title=session.title or title_of(session.form),
                klass=session.klass.title,
                start=session.start,
                end=session.end,
                room=session.room,
                proctor=session.proctor.name if session.proctor else "",
                students=listed[session.id],
                missing=missing,
            )
        )
    return found


def _missing(
    session: PlannedSession, students: int, rooms: dict[str, Room], largest_cart: int, support: int
) -> list[str]:
    says = []
    if not students:
        says.append("no students")
    if session.proctor_id is None:
        says.append("no proctor")
    if not session.room:
        says.append("no room")
    room = rooms.get(session.room)
    if room is not None:
        if room.seats < students:
            says.append(f"{room.seats} seats for {counted(students, 'student')}")
        if rooms and max(room.devices, largest_cart) < students:
            says.append(f"{max(room.devices, largest_cart)} devices for {counted(students, 'student')}")
    if support:
        says.append(f"{counted(support, 'accommodation')} without a person")
    return says


def print_day(ctx: Context, actor: Actor, school_id: int, day: date, sheet: Sheet) -> bytes:
    """The day on paper. The sheet of support is confidential and logged; rosters carry no accommodation."""

    def work(db: Session) -> TestingDayPrint:
        secret = sheet in ("support", "record")
        school = school_of(db, actor, school_id, Action.WINDOWS_PLAN if secret else Action.WINDOWS_READ)
        if sheet == "week":
            return _week(ctx, db, school, day)
        sessions = _sessions(db, school.id, day)
        if not sessions:
            raise NotFound("no session is scheduled on this day")
        if sheet != "schedule":
            said_ = {"day": day.isoformat(), "sheet": sheet}
            audit.record(db, ctx.clock(), actor.person_id, "day.print", f"school:{school.id}", None, said_)
        dates, zone = dates_of(db), zone_of(db)
        runs = actor.may(Action.SESSIONS_RUN)
        mine = select(PlannedSession.id).where(scope(actor, Action.SESSIONS_RUN)) if runs else None
        held = set() if mine is None else set(db.scalars(mine))
        return TestingDayPrint(
            sheet=sheet,
            school=school.name,
            day=dates.long(day),
            sessions=[
                PrintedSession(
                    time=f"{dates.time(s.start.astimezone(zone))} to {dates.time(s.end.astimezone(zone))}",
                    title=s.title or title_of(s.form),
                    klass=s.klass.title,
                    room=s.room,
                    proctor=s.proctor.name if s.proctor else "",
                    code=s.code,
                    substitute=code_of(db, s) if sheet == "rosters" and s.id in held and s.closed_at is None else "",
                    students=_students(db, s, sheet),
                    helpers=_helpers(db, s) if sheet == "support" else [],
                    counts=counts_in_words(ctx, db, s) if sheet == "record" else "",
                    events=_events(ctx, db, s) if sheet == "record" else [],
                )
                for s in sessions
            ],
            made=f"{school.name}, printed {dates.long(local_today(ctx, db))}",
        )

    return testing_day_document(ctx.store.write(work, much=True))


def _week(ctx: Context, db: Session, school: School, day: date) -> TestingDayPrint:
    """A page for everyone who proctors a session or teaches a class that has one, in the week of a day."""
    monday = day - timedelta(days=day.weekday())
    sessions = [s for n in range(7) for s in _sessions(db, school.id, monday + timedelta(days=n))]
    if not sessions:
        raise NotFound("no session is scheduled in this week")
    dates, zone = dates_of(db), zone_of(db)
    size = Counter(db.scalars(select(Sitting.session_id).where(Sitting.session_id.in_([s.id for s in sessions]))))
    taught = teachers_of(db, {s.class_id for s in sessions})
    pages: dict[int, tuple[Person, list[PrintedWeekLine]]] = {}
    for session in sessions:
        here = {p.id: p for p in taught.get(session.class_id, ())}
        if session.proctor is not None:
            here[session.proctor.id] = session.proctor
        for person in here.values():
            holder = f"proctor {session.proctor.name}" if session.proctor else "no proctor yet"
            line = PrintedWeekLine(
                day=f"{session.start.astimezone(zone):%a}, {dates.short(session.start.astimezone(zone).date())}",
                time=f"{dates.time(session.start.astimezone(zone))} to {dates.time(session.end.astimezone(zone))}",
                title=session.title or title_of(session.form),
                klass=session.klass.title,
                room=session.room,
                does="proctor" if person.id == session.proctor_id else holder,
                students=size[session.id],
            )
            pages.setdefault(person.id, (person, []))[1].append(line)
    people = sorted(pages.values(), key=lambda one: (one[0].family, one[0].given, one[0].id))
    return TestingDayPrint(
        sheet="week",
        school=school.name,
        day=f"{dates.short(monday)} to {dates.short(monday + timedelta(days=6))}",
        sessions=[],
        people=[PrintedWeek(name=person.name, lines=lines) for person, lines in people],
        made=f"{school.name}, printed {dates.long(local_today(ctx, db))}",
    )


def _events(ctx: Context, db: Session, session: PlannedSession) -> list[PrintedEvent]:
    """Irregularities in their order, then by student what their attempt was interrupted by."""
    dates, zone = dates_of(db), zone_of(db)
    found = [
        PrintedEvent(
            time=dates.time(one.at.astimezone(zone)),
            who=one.who or "the whole session",
            what=f"{one.text}{f' ({OUTCOME_WORDS[one.outcome]})' if one.outcome in OUTCOME_WORDS else ''}",
            by=one.by,
        )
        for one in irregularities(db, [session.id]).get(session.id, [])
    ]
    people = dict(
        db.execute(
            select(Sitting.id, Person)
            .join(Person, Person.id == Sitting.person_id)
            .where(Sitting.session_id == session.id)
        )
        .tuples()
        .all()
    )
    attempts = db.scalars(select(Sitting).where(Sitting.id.in_(people))).all()
    lines = in_the_room(db, session, attempts, ctx.clock())
    for id, person in sorted(people.items(), key=lambda one: (one[1].family, one[1].given)):
        line = lines[id]
        what = "; ".join(text for text in (line.restroom, line.left, line.offline_for) if text)
        if what:
            found.append(PrintedEvent(time="", who=person.name, what=what, by=""))
    return found


def _students(db: Session, session: PlannedSession, sheet: Sheet) -> list[PrintedStudent]:
    people = _seated(db, session)
    needs = in_session(db, session, [p.id for p in people]) if sheet == "support" else {}
    return [
        PrintedStudent(seat=seat, name=p.name, grade=p.grade, support=said(needs[p.id]) if p.id in needs else "")
        for seat, p in enumerate(people, 1)
    ]


def _seated(db: Session, session: PlannedSession) -> Sequence[Person]:
    """In order of seats, which is the order of names: forms that are dealt out in turn lie side by side."""
    return db.scalars(
        select(Person)
        .join(Sitting, Sitting.person_id == Person.id)
        .where(Sitting.session_id == session.id)
        .order_by(Person.family, Person.given, Person.id)
    ).all()


def _helpers(db: Session, session: PlannedSession) -> list[str]:
    """Who is there for whom, with their seats."""
    seats = {person.id: seat for seat, person in enumerate(_seated(db, session), 1)}
    rows = db.execute(
        select(SessionSupport.kind, Person, SessionSupport.staff_id)
        .join(Person, Person.id == SessionSupport.student_id)
        .where(SessionSupport.session_id == session.id)
        .order_by(SessionSupport.staff_id, Person.family)
    ).all()
    served: dict[tuple[int, str], list[str]] = defaultdict(list)
    for kind, student, staff in rows:
        served[staff, kind].append(f"{student.name} (seat {seats.get(student.id, '–')})")
    names = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_({staff for staff, _ in served})))}
    return [f"{names[staff]} ({KINDS[kind].says}): {', '.join(students)}" for (staff, kind), students in served.items()]
