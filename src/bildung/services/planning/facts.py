"""What the planner is told of one school and window: read from the records, once for a piece of work."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.accommodations.holding import Needs
from bildung.core.accommodations.kinds import KINDS
from bildung.core.assembly.companions import deal
from bildung.core.planning.problem import ApartTest, Cart, ClassTest, Problem, Proctor, Room, Slot, Wishes
from bildung.core.planning.waysout import supposing
from bildung.core.school.timing import planned_minutes
from bildung.services.calendar.blocks import slots_of
from bildung.services.calendar.years import local_today
from bildung.services.forms.settings import settings, title_of
from bildung.services.owed.accommodated import NONE, occasion_of, of_people
from bildung.services.owed.dealing import claims_of
from bildung.services.owed.exempt import exemptions_of
from bildung.services.owed.sametest import test_keys
from bildung.services.owed.sessionroster import in_class_on
from bildung.services.participation.windowdates import window_dates
from bildung.services.people.hours import hours_of, is_there
from bildung.services.people.proctors import who_may_hold
from bildung.services.people.teachers import teachers_of
from bildung.services.planning.closed import closed_slots
from bildung.services.planning.document import PlanWishes
from bildung.services.planning.providers import Providers, providers_of
from bildung.services.shared.context import Context
from bildung.store import models
from bildung.store.models import (
    ClassTime,
    Enrolment,
    Form,
    Person,
    PlannedSession,
    Role,
    SchoolClass,
    Sitting,
    StaffSupport,
    Window,
)

USUAL_MINUTES = 50
SMALL, EXTENDED, MAKEUP = 8, 12, 28  # students together in one room
UNLISTED = 1000  # seats of a room that is not in the list
BEGUN = ("handed_in", "answering", "resting", "on_paper", "void", "exempt")


@dataclass(frozen=True)
class TestFacts:
    """A form: its name, what students see, its subject and grade, how long it takes, its family."""

    name: str
    title: str
    subject: str
    grade: str
    minutes: int
    family: int


@dataclass(frozen=True, kw_only=True)
class Facts:
    """problem: as the core plans it. tests, classes, students, people: what ids are called. own: by class, its own room and
    teacher. outside: sessions of these tests at times that are no block of the school. done: tests taken already. unsettled:
    by form, who would receive two different forms of its family."""

    problem: Problem
    tests: dict[int, TestFacts]
    classes: dict[int, str]
    students: dict[int, str]
    people: dict[int, str]
    outside: int
    done: int
    unsettled: dict[int, list[int]]


def facts_of(ctx: Context, db: Session, school_id: int, window: Window, wishes: PlanWishes) -> Facts:
    """Read everything a plan rests on."""
    today, now = local_today(ctx, db), ctx.clock()
    first, last = window_dates(db, window, school_id, "")
    slots = slots_of(db, school_id, min(first, wishes.first), max(last, wishes.last))
    forms = {f.id: f for f in db.scalars(select(Form).where(Form.id.in_(wishes.tests)))}
    classes = _classes(db, school_id, forms.values(), today)
    day = max(today, first)
    members = _members(db, [c.id for c in classes], day)
    homes = _homerooms(db, school_id, today, day) if wishes.where == "homerooms" else {}
    done = _done(db, window.id, forms)
    over = _over(db, window.id, forms)
    elsewhere = _elsewhere(db, window.id, forms, school_id)
    proctoring = _proctoring(db, slots, {c.id for c in classes}, set(forms), now)
    blocked = set(wishes.blocked)
    past = frozenset(
        t
        for t, slot in enumerate(slots)
        if slot.start <= now or not wishes.first <= slot.start.date() <= wishes.last or slot.start in blocked
    )
    rooms = _rooms(db, school_id, slots)
    carts = [
        Cart(name=c.name, devices=c.devices)
        for c in db.scalars(select(models.Cart).where(models.Cart.school_id == school_id).order_by(models.Cart.name))
    ]
    read = _Read(
        usual=Counter(slot.minutes for slot in slots).most_common(1)[0][0] if slots else USUAL_MINUTES,
        on_paper=not carts and not any(room.devices for room in rooms),
        own=None if wishes.where == "lessons" else frozenset(range(len(slots))),
        meets=_meets(db, slots, school_id),
        providers=providers_of(db, school_id),
    )
    teachers = _first_teachers(db, [c.id for c in classes])
    tests: list[ClassTest] = []
    apart: list[ApartTest] = []
    count = 0
    listed: set[tuple[int, int]] = set()  # who is in two classes of a subject owes its test once
    for klass in classes:
        shut = past | _grade_shut(db, window, school_id, klass, slots)
        for form in _forms_for(klass, forms.values()):
            took = done.get(form.id, set())
            count += len(members[klass.id] & took)
            took = took | elsewhere.get(form.id, set())
            exempt = exemptions_of(db, window.id, form.subject, day)
            owing = [s for s in sorted(members[klass.id] - took - exempt.keys()) if (s, form.id) not in listed]
            listed.update((student, form.id) for student in owing)
            needs = of_people(db, owing, day, occasion_of(form))
            late = (klass.id, form.id) in over
            mine = [_apart(read, klass, form, student, needs.get(student, NONE), shut, late) for student in owing]
            apart += [one for one in mine if one is not None]
            stay = [student for student, one in zip(owing, mine, strict=True) if one is None]
            if f"{klass.id}-{form.id}" in wishes.split and len(stay) > 1:
                half = stay[(len(stay) + 1) // 2 :]
                stay = stay[: (len(stay) + 1) // 2]
                apart += [
                    replace(read.beside(klass, form, student, needs.get(student, NONE), shut), together=len(half))
                    for student in half
                ]
            if stay:
                room, teacher = homes.get(klass.id) or (klass.location, teachers.get(klass.id, 0))
                own = read.meets.get(klass.id, frozenset()) if read.own is None else read.own
                longest = max(_needed(form, needs.get(student, NONE)) for student in stay)
                tests.append(
                    ClassTest(
                        klass=klass.id,
                        test=form.id,
                        name=_called(klass, form),
                        subject=form.subject,
                        students=tuple(stay),
                        minutes=longest,
                        own=own - proctoring.get(teacher, frozenset()),
                        own_room=room,
                        teacher=teacher,
                        shut=shut,
                        on_paper=read.on_paper,
                    )
                )
    ids = {s for t in tests for s in t.students} | {t.student for t in apart}
    busy, outside = _busy(db, ids, window, slots, {c.id for c in classes}, set(forms), now)
    own_teachers = {t.teacher for t in tests if t.teacher}
    proctors, names = _proctors(db, school_id, slots, own_teachers, read.meets, proctoring)
    problem = Problem(
        slots=tuple(slots),
        rooms=tuple(rooms),
        carts=tuple(carts),
        proctors=tuple(proctors),
        classes=tuple(tests),
        apart=tuple(apart),
        busy=busy,
        wishes=Wishes(a_day=wishes.a_day, order=tuple(wishes.order), mornings=wishes.mornings, spread=wishes.spread),
    )
    for kind, extra in wishes.extra.items():
        for _ in range(extra):
            problem = supposing(problem, kind)
    return Facts(
        problem=problem,
        tests={
            f.id: TestFacts(
                f.name, title_of(f), f.subject, f.grade, settings(f).minutes or USUAL_MINUTES, f.family_id or 0
            )
            for f in forms.values()
        },
        classes={c.id: c.title for c in classes},
        students=_names(db, ids),
        people=names | {p.id: p.name for p in problem.proctors},
        outside=outside,
        done=count,
        unsettled=_unsettled(db, forms.values(), tests, apart, day),
    )


@dataclass(frozen=True, kw_only=True)
class _Read:
    """What holds for every test. usual: minutes of a block. own: slots in which classes are in their own room; None: in
    those in which they meet."""

    usual: int
    on_paper: bool
    own: frozenset[int] | None
    meets: dict[int, frozenset[int]]
    providers: Providers

    def beside(self, klass: SchoolClass, form: Form, student: int, need: Needs, shut: frozenset[int]) -> ApartTest:
        """The test of a student who takes it in another room than the class."""
        return ApartTest(
            student=student,
            klass=klass.id,
            test=form.id,
            name=_called(klass, form),
            minutes=_needed(form, need),
            alone=need.own_proctor,
            support=_support(need),
            by=self.providers.by(_support(need), student, need),
            shut=shut,
            on_paper=self.on_paper,
        )


def _needed(form: Form, need: Needs) -> int:
    return planned_minutes(settings(form).minutes or USUAL_MINUTES, need.extra_time)


def _called(klass: SchoolClass, form: Form) -> str:
    return f"{form.subject} {klass.title.removeprefix(form.subject).strip()}".strip()


def _apart(
    read: _Read, klass: SchoolClass, form: Form, student: int, need: Needs, shut: frozenset[int], late: bool
) -> ApartTest | None:
    """The test of a student who takes it apart; None for one who takes it with the class. late: the class has taken it."""
    minutes = _needed(form, need)
    longer = minutes > max(read.usual, settings(form).minutes or USUAL_MINUTES)
    if not (late or longer or _is_apart(need)):
        return None
    together = SMALL if _is_apart(need) else MAKEUP if late else EXTENDED
    return replace(read.beside(klass, form, student, need, shut), together=together)


def _unsettled(
    db: Session, forms: Collection[Form], tests: Sequence[ClassTest], apart: Sequence[ApartTest], day: date
) -> dict[int, list[int]]:
    found = {}
    for form in forms:
        if form.family is not None:
            people = [s for t in tests if t.test == form.id for s in t.students]
            people += [t.student for t in apart if t.test == form.id]
            dealt = deal(people, claims_of(db, form.family, people, day), [form.id])
            if dealt.unsettled:
                found[form.id] = sorted(dealt.unsettled)
    return found


def _names(db: Session, ids: Collection[int]) -> dict[int, str]:
    rows = db.scalars(select(Person).where(Person.kind == "student")).all() if len(ids) > 300 else None
    if rows is None:
        rows = db.scalars(select(Person).where(Person.id.in_(ids))).all()
    return {p.id: p.name for p in rows if p.id in ids}


def _is_apart(need: Needs) -> bool:
    return need.small_group or need.own_proctor or bool(_support(need))


def _support(need: Needs) -> str:
    return next((kind for kind in need.kinds if KINDS[kind].person), "")


def _forms_for(klass: SchoolClass, forms: Collection[Form]) -> list[Form]:
    return [f for f in forms if f.subject == klass.subject and f.grade == klass.grade]


def _classes(db: Session, school_id: int, forms: Collection[Form], today: date) -> list[SchoolClass]:
    """Classes of the subjects and grades of these forms."""
    rows = db.scalars(
        select(SchoolClass)
        .where(
            SchoolClass.school_id == school_id,
            SchoolClass.active.is_(True),
            SchoolClass.homeroom.is_(False),
            SchoolClass.subject.in_({f.subject for f in forms}),
        )
        .order_by(SchoolClass.grade, SchoolClass.title)
    ).all()
    return [klass for klass in rows if _forms_for(klass, forms)]


def _members(db: Session, ids: Sequence[int], day: date) -> dict[int, set[int]]:
    found: dict[int, set[int]] = {id: set() for id in ids}
    rows = db.execute(
        select(Enrolment.class_id, Enrolment.person_id)
        .join(Person, Person.id == Enrolment.person_id)
        .where(Enrolment.class_id.in_(ids), Enrolment.role == "student", in_class_on(day), Person.active.is_(True))
    )
    for class_id, person in rows:
        found[class_id].add(person)
    return found


def _first_teachers(db: Session, ids: Sequence[int]) -> dict[int, int]:
    return {klass: people[0].id for klass, people in teachers_of(db, ids).items()}


def _homerooms(db: Session, school_id: int, today: date, day: date) -> dict[int, tuple[str, int]]:
    """By class, room and teacher of the homeroom that most of its students are in."""
    rooms = db.scalars(
        select(SchoolClass).where(
            SchoolClass.school_id == school_id, SchoolClass.active.is_(True), SchoolClass.homeroom.is_(True)
        )
    ).all()
    teachers = _first_teachers(db, [r.id for r in rooms])
    home: dict[int, SchoolClass] = {}
    for room_id, people in _members(db, [r.id for r in rooms], day).items():
        home |= dict.fromkeys(people, next(r for r in rooms if r.id == room_id))
    others = db.scalars(
        select(SchoolClass.id).where(
            SchoolClass.school_id == school_id, SchoolClass.active.is_(True), SchoolClass.homeroom.is_(False)
        )
    ).all()
    found = {}
    for class_id, people in _members(db, others, day).items():
        most = Counter(home[p].id for p in people if p in home).most_common(1)
        if most and most[0][1] * 2 >= len(people):
            room = next(r for r in rooms if r.id == most[0][0])
            found[class_id] = (room.location, teachers.get(room.id, 0))
    return found


def _done(db: Session, window_id: int, forms: dict[int, Form]) -> dict[int, set[int]]:
    """By form, who has begun or taken it, or a companion of it, in this window."""
    keys = test_keys(db)
    wanted = {keys[id]: id for id in forms}
    found: dict[int, set[int]] = defaultdict(set)
    rows = db.execute(
        select(PlannedSession.form_id, Sitting.person_id)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .where(PlannedSession.window_id == window_id, Sitting.state.in_(BEGUN), Sitting.interrupted.is_(False))
    )
    for form_id, person in rows:
        if keys[form_id] in wanted:
            found[wanted[keys[form_id]]].add(person)
    return found


def _elsewhere(db: Session, window_id: int, forms: dict[int, Form], school_id: int) -> dict[int, set[int]]:
    """By form, who is listed for it in this window at another school: who is in a class of the subject at two schools takes
    its test once, where it was scheduled first."""
    keys = test_keys(db)
    wanted = {keys[id]: id for id in forms}
    rows = db.execute(
        select(PlannedSession.form_id, Sitting.person_id)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(
            PlannedSession.window_id == window_id,
            PlannedSession.canceled_at.is_(None),
            PlannedSession.closed_at.is_(None),
            SchoolClass.school_id != school_id,
        )
    )
    found: dict[int, set[int]] = defaultdict(set)
    for form_id, person in rows:
        if keys[form_id] in wanted:
            found[wanted[keys[form_id]]].add(person)
    return found


def _over(db: Session, window_id: int, forms: dict[int, Form]) -> set[tuple[int, int]]:
    """Classes whose session of a test is open or over: who still owes it takes it by name."""
    keys = test_keys(db)
    wanted = {keys[id]: id for id in forms}
    begun = select(Sitting.session_id).where(Sitting.started_at.is_not(None))
    rows = db.execute(
        select(PlannedSession.class_id, PlannedSession.form_id).where(
            PlannedSession.window_id == window_id,
            PlannedSession.canceled_at.is_(None),
            PlannedSession.by_name.is_(False),
            PlannedSession.closed_at.is_not(None) | PlannedSession.id.in_(begun),
        )
    )
    return {(klass, wanted[keys[form]]) for klass, form in rows if keys[form] in wanted}


def _rooms(db: Session, school_id: int, slots: Sequence[Slot]) -> list[Room]:
    rows = db.scalars(select(models.Room).where(models.Room.school_id == school_id).order_by(models.Room.name)).all()
    shut = closed_slots(db, school_id, slots)
    found = [
        Room(name=r.name, seats=r.seats, devices=r.devices, shared=r.shared, shut=shut.pop(r.name, frozenset()))
        for r in rows
    ]
    # a class's room that is not in the list has a seat for everybody, but not on these days
    return found + [Room(name=name, seats=UNLISTED, shared=False, shut=days) for name, days in shut.items() if days]


def _grade_shut(
    db: Session, window: Window, school_id: int, klass: SchoolClass, slots: Sequence[Slot]
) -> frozenset[int]:
    """Blocks outside of the dates that the window has for the class's grade."""
    first, last = window_dates(db, window, school_id, klass.grade)
    return frozenset(t for t, slot in enumerate(slots) if not first <= slot.start.date() <= last)


def _meets(db: Session, slots: Sequence[Slot], school_id: int) -> dict[int, frozenset[int]]:
    """By class, the slots in which it has its lesson."""
    rows = db.execute(
        select(ClassTime.class_id, models.DayType.name, models.Block.name)
        .join(models.Block, models.Block.id == ClassTime.block_id)
        .join(models.DayType, models.DayType.id == models.Block.day_type_id)
        .where(models.DayType.school_id == school_id)
    ).all()
    by_block: dict[tuple[str, str], list[int]] = defaultdict(list)
    for t, slot in enumerate(slots):
        by_block[slot.day_type, slot.block].append(t)
    found: dict[int, set[int]] = defaultdict(set)
    for class_id, kind, block in rows:
        found[class_id].update(by_block[kind, block])
    return {id: frozenset(ts) for id, ts in found.items()}


def _busy(
    db: Session,
    ids: Collection[int],
    window: Window,
    slots: Sequence[Slot],
    classes: Collection[int],
    forms: Collection[int],
    now: datetime,
) -> tuple[dict[int, frozenset[int]], int]:
    """When these students are at sessions that the plan does not move: of another school, of other tests. And how many
    sessions of its own tests begin at no block."""
    starts = {slot.start for slot in slots}
    rows = db.execute(
        select(
            PlannedSession.id,
            PlannedSession.start,
            PlannedSession.end,
            PlannedSession.class_id,
            PlannedSession.form_id,
            Sitting.person_id,
        )
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .where(
            PlannedSession.closed_at.is_(None),
            PlannedSession.end > now,
            Sitting.state.in_(("not_started", "resting")),
        )
    ).all()
    found: dict[int, set[int]] = defaultdict(set)
    outside: set[int] = set()
    for session, start, end, klass, form, person in rows:
        if person not in ids or (end - start).days:
            continue
        if klass in classes and form in forms:
            if start in starts:
                continue
            outside.add(session)
        found[person].update(t for t, slot in enumerate(slots) if slot.start < end and start < slot.end)
    return {id: frozenset(ts) for id, ts in found.items()}, len(outside)


def _proctoring(
    db: Session, slots: Sequence[Slot], classes: Collection[int], forms: Collection[int], now: datetime
) -> dict[int, frozenset[int]]:
    """When staff proctor sessions that the plan does not move: of another school, of other tests."""
    rows = db.execute(
        select(
            PlannedSession.proctor_id,
            PlannedSession.start,
            PlannedSession.end,
            PlannedSession.class_id,
            PlannedSession.form_id,
        ).where(
            PlannedSession.closed_at.is_(None),
            PlannedSession.canceled_at.is_(None),
            PlannedSession.end > now,
            PlannedSession.proctor_id.is_not(None),
        )
    )
    found: dict[int, set[int]] = defaultdict(set)
    for person, start, end, klass, form in rows:
        if person is None or (klass in classes and form in forms) or (end - start).days:
            continue
        found[person].update(t for t, slot in enumerate(slots) if slot.start < end and start < slot.end)
    return {id: frozenset(ts) for id, ts in found.items()}


def _proctors(
    db: Session,
    school_id: int,
    slots: Sequence[Slot],
    own_teachers: Collection[int],
    meets: dict[int, frozenset[int]],
    proctoring: dict[int, frozenset[int]],
) -> tuple[list[Proctor], dict[int, str]]:
    """Who can hold sessions outside of a class's own room: staff of the school who may, but for those who hold their own
    classes; and the names of all of them."""
    staff = db.scalars(
        select(Person)
        .where(Person.kind == "staff", Person.active.is_(True), Person.school_id == school_id)
        .order_by(Person.family, Person.given)
    ).all()
    ids = [p.id for p in staff]
    named = set(db.scalars(select(Role.person_id).where(Role.person_id.in_(ids), Role.role == "proctor")))
    may = who_may_hold(db, ids)
    hours = hours_of(db, ids)
    provides: dict[int, set[str]] = defaultdict(set)
    for given in db.scalars(select(StaffSupport).where(StaffSupport.person_id.in_(ids))):
        provides[given.person_id].add(given.kind)
    lessons: dict[int, set[int]] = defaultdict(set)
    for klass, taught_by in teachers_of(db, meets).items():  # of any subject, and each of two who teach together
        for teacher in taught_by:
            lessons[teacher.id].update(meets[klass])
    found = []
    for person in staff:
        if not provides[person.id] and (person.id not in may or (person.id in own_teachers and person.id not in named)):
            continue
        away = {t for t, slot in enumerate(slots) if not is_there(hours, person.id, slot.start, slot.end)}
        found.append(
            Proctor(
                id=person.id,
                name=person.name,
                away=frozenset(away | lessons[person.id] | proctoring.get(person.id, frozenset())),
                supports=frozenset(provides[person.id]),
            )
        )
    return found, {p.id: p.name for p in staff}
