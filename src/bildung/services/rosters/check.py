"""Roster check: what in the rosters cannot be right, its likely cause, and settling it in one step."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from itertools import combinations
from typing import Annotated

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session, joinedload

from bildung.core.school.names import alike
from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import local_today, zone_of
from bildung.services.people.changes import moved
from bildung.services.people.merge import merge
from bildung.services.people.proctors import check_proctor, who_may_hold
from bildung.services.rosters.decisions import (
    NOTHING_DECIDED,
    Decided,
    DecisionLine,
    decided,
    end_moot,
    lines,
    remember,
    same_day,
)
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.results import KeptResults
from bildung.services.shared.settings import dates_of
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, Ref, listed
from bildung.store.models import AuditEntry, Enrolment, Person, PlannedSession, RosterReport, SchoolClass, Sitting

STEPS = (
    "leave_class",
    "join_class",
    "teach_class",
    "set_aside",
    "set_aside_class",
    "merge",
    "different",
    "both_right",
    "drop_session",
    "hold_session",
    "report_settled",
)
REPORT_LONGEST = 500
SHOWN = 100


@dataclass(frozen=True, kw_only=True)
class Step:
    """One way to settle it. other_id: the second of two people. choices: classes or people to pick from, where the step
    needs one."""

    step: str
    label: str
    person_id: Id | None = None
    class_id: Id | None = None
    report_id: Id | None = None
    session_id: Id | None = None
    other_id: Id | None = None
    choices: Annotated[tuple[tuple[int, str], ...], listed(Ref)] = ()


@dataclass(frozen=True, kw_only=True)
class Discrepancy:
    """kind: reported, session_lost, proctor_left, two_classes, no_class, twice, no_teacher, no_students."""

    kind: str
    who: str
    what: str
    cause: str
    steps: tuple[Step, ...]


@dataclass(frozen=True, slots=True)
class Listed:
    """A person as the check looks at them; twenty thousand are read at once."""

    id: int
    source_id: str
    given: str
    family: str
    kind: str
    grade: str
    school_id: int | None
    birth_date: date | None

    @property
    def name(self) -> str:
        """Given and family name."""
        return f"{self.given} {self.family}".strip()

    @property
    def student(self) -> bool:
        """Whether it is one."""
        return self.kind == "student"


_LISTED = (
    Person.id,
    Person.source_id,
    Person.given,
    Person.family,
    Person.kind,
    Person.grade,
    Person.school_id,
    Person.birth_date,
)


@dataclass(frozen=True, kw_only=True)
class Rosters:
    """What the check looks at, active rows only. enrolments: person, role and the ids of their classes, ascending. sittings: how many each student has. decided: what is no discrepancy any
    more."""

    people: Sequence[Listed]
    classes: Sequence[SchoolClass]
    enrolments: Sequence[tuple[int, str, list[int]]]
    sittings: dict[int, int]
    decided: Decided = NOTHING_DECIDED


_RESTS_ON = (AuditEntry, Sitting, RosterReport, Person, SchoolClass, Enrolment)


@dataclass
class ChecksAtHand:
    """By the newest rows of what it rests on and who asks: what is wrong with the rosters."""

    found: KeptResults[tuple[str, list[Discrepancy], dict[str, int]]] = field(default_factory=lambda: KeptResults(8))


def check(ctx: Context, actor: Actor) -> tuple[str, list[Discrepancy], dict[str, int]]:
    """The finding, what is to be settled within this person's scope (the first SHOWN of each kind), and how many of
    each kind there are."""
    people, classes = scope(actor, Action.PEOPLE_SETTLE), scope(actor, Action.CLASSES_READ)
    with ctx.store.read() as db:
        # every change of people, classes and sessions is in the log
        newest = db.execute(select(*(select(func.max(table.id)).scalar_subquery() for table in _RESTS_ON))).one()
        key = (*newest, local_today(ctx, db), actor.person_id, actor.grants)
        return ctx.own(ChecksAtHand).found.get(key, lambda: _check(db, actor, people, classes))


def _check(
    db: Session, actor: Actor, people: ColumnElement[bool], classes: ColumnElement[bool]
) -> tuple[str, list[Discrepancy], dict[str, int]]:
    found = (
        _reports(db, actor)
        + _planned(db, actor)
        + discrepancies(
            Rosters(
                people=[
                    Listed(*row)
                    for row in db.execute(
                        select(*_LISTED).where(people, Person.active.is_(True)).order_by(Person.family, Person.given)
                    )
                ],
                classes=db.scalars(
                    select(SchoolClass).where(classes, SchoolClass.active.is_(True)).order_by(SchoolClass.title)
                ).all(),
                enrolments=_enrolments(db),
                sittings={
                    id: n for id, n in db.execute(select(Sitting.person_id, func.count()).group_by(Sitting.person_id))
                },
                decided=decided(db),
            )
        )
    )
    words = {
        "reported": "reported by proctors",
        "session_lost": "scheduled for an archived class",
        "proctor_left": "scheduled with a proctor who left",
        "two_classes": "in two classes of one subject",
        "no_class": "in no class",
        "twice": "with two records",
        "no_teacher": "without a teacher",
        "no_students": "without students",
    }
    counts = {kind: sum(d.kind == kind for d in found) for kind in words}
    if not found:
        return "The rosters are consistent. No discrepancies.", found, counts
    parts = [f"{n} {words[kind]}" for kind, n in counts.items() if n]
    shown = [d for kind in words for d in [x for x in found if x.kind == kind][:SHOWN]]
    return f"{len(found)} {'discrepancy' if len(found) == 1 else 'discrepancies'}: {', '.join(parts)}.", shown, counts


def _enrolments(db: Session) -> list[tuple[int, str, list[int]]]:
    """Person, role and classes of all that are active. A row a person, as a hundred thousand rows are slow to read."""
    rows = db.execute(
        select(Enrolment.person_id, Enrolment.role, func.group_concat(Enrolment.class_id))
        .where(Enrolment.active.is_(True))
        .group_by(Enrolment.person_id, Enrolment.role)
    )
    return [(person_id, role, sorted(map(int, str(classes).split(",")))) for person_id, role, classes in rows]


def decisions(ctx: Context, actor: Actor) -> list[DecisionLine]:
    """What was decided against the records and holds."""
    with ctx.store.read() as db:
        return lines(db, actor)


def discrepancies(rosters: Rosters) -> list[Discrepancy]:
    """By rule, most urgent first; people in the order given."""
    classes = {c.id: c for c in rosters.classes}
    of_person: dict[int, list[int]] = {}
    with_students: set[int] = set()
    with_teacher: set[int] = set()
    here = {p.id for p in rosters.people}
    for person_id, role, ids in rosters.enrolments:
        if person_id in here:
            own = [id for id in ids if id in classes]
            of_person[person_id] = own + of_person.get(person_id, [])
            (with_teacher if role == "teacher" else with_students).update(own)
    students = [p for p in rosters.people if p.student]
    return [
        *_in_two(students, of_person, classes, rosters.decided),
        *_in_none(students, of_person, rosters.classes),
        *_twice(students, rosters, of_person),
        *_empty(rosters, with_students, with_teacher),
    ]


def _in_two(
    students: Sequence[Listed], of_person: dict[int, list[int]], classes: Mapping[int, SchoolClass], known: Decided
) -> list[Discrepancy]:
    """Two classes of one subject, or two homerooms."""
    found = []
    subjects = {id: "homeroom" if c.homeroom else c.subject for id, c in classes.items() if c.homeroom or c.subject}
    for p in students:
        own = [id for id in of_person.get(p.id, ()) if id in subjects]
        if len({subjects[id] for id in own}) == len(own):
            continue
        by_subject: defaultdict[str, list[SchoolClass]] = defaultdict(list)
        for id in own:
            by_subject[subjects[id]].append(classes[id])
        for subject, mine in by_subject.items():
            if len(mine) > 1 and not all((p.id, c.id) in known.both for c in mine):
                titles = " and ".join(c.title for c in mine)
                steps = [
                    Step(step="leave_class", label=f"Leaves {c.title}", person_id=p.id, class_id=c.id) for c in mine
                ]
                steps.append(Step(step="both_right", label="Both are correct", person_id=p.id))
                cause = "probably changed class, and the old one was not ended"
                found.append(
                    Discrepancy(
                        kind="two_classes",
                        who=p.name,
                        what=f"is in {titles} ({subject})",
                        cause=cause,
                        steps=tuple(steps),
                    )
                )
    return found


def _in_none(
    students: Sequence[Listed], of_person: dict[int, list[int]], classes: Sequence[SchoolClass]
) -> list[Discrepancy]:
    by_place: defaultdict[tuple[int | None, str], list[tuple[int, str]]] = defaultdict(list)
    for c in classes:
        by_place[c.school_id, c.grade].append((c.id, c.title))
    found = []
    for p in students:
        if of_person.get(p.id):
            continue
        fits = tuple(by_place[p.school_id, p.grade] + (by_place[p.school_id, ""] if p.grade else []))
        steps = (Step(step="join_class", label="Put in this class", person_id=p.id, choices=fits),) if fits else ()
        left = (Step(step="set_aside", label="Has left: archive", person_id=p.id),)
        cause = "probably a late arrival, or a student who left"
        found.append(
            Discrepancy(
                kind="no_class",
                who=p.name,
                what=f"grade {p.grade or 'unknown'}, is in no class",
                cause=cause,
                steps=(*steps, *left),
            )
        )
    return found


def _twice(students: Sequence[Listed], rosters: Rosters, of_person: dict[int, list[int]]) -> list[Discrepancy]:
    """Pairs of one name, grade and school whose birth dates do not tell them apart, and pairs born on one day whose names
    are alike."""
    by_name: defaultdict[object, list[Listed]] = defaultdict(list)
    by_day: defaultdict[object, list[Listed]] = defaultdict(list)
    for p in students:
        by_name[p.given.casefold(), p.family.casefold(), p.grade, p.school_id].append(p)
        if p.birth_date is not None:
            by_day[p.birth_date, p.school_id].append(p)
    pairs = [
        (a, b, False)
        for some in by_name.values()
        for a, b in combinations(some, 2)
        if same_day(a.birth_date, b.birth_date)
    ]
    named = {(a.id, b.id) for a, b, _ in pairs}
    pairs += [
        (a, b, True)
        for some in by_day.values()
        for a, b in combinations(some, 2)
        if (a.id, b.id) not in named and alike(a.name, b.name)
    ]

    def held(p: Listed) -> str:
        return f"{rosters.sittings.get(p.id, 0)} tests, {len(of_person.get(p.id, []))} classes"

    found = []
    for one, other, by_birth in pairs:
        if (min(one.id, other.id), max(one.id, other.id)) in rosters.decided.different:
            continue
        # the record with more behind it is offered first to be kept
        less, more = sorted(
            (one, other), key=lambda p: (rosters.sittings.get(p.id, 0), len(of_person.get(p.id, [])), -p.id)
        )
        steps = (
            Step(step="merge", label=f"Keep {more.source_id} ({held(more)})", person_id=less.id, other_id=more.id),
            Step(step="merge", label=f"Keep {less.source_id} ({held(less)})", person_id=more.id, other_id=less.id),
            Step(step="different", label="Different people", person_id=one.id, other_id=other.id),
        )
        also = f" {other.name}" if by_birth else ""
        what = f"grade {one.grade or 'unknown'}, is here as {one.source_id} and{also} {other.source_id}"
        born = ", born on the same day" if one.birth_date is not None and one.birth_date == other.birth_date else ""
        cause = "probably a second record of the same person; two people of one name are possible"
        found.append(Discrepancy(kind="twice", who=one.name, what=what + born, cause=cause, steps=steps))
    return found


def _empty(rosters: Rosters, with_students: set[int], with_teacher: set[int]) -> list[Discrepancy]:
    of_school: defaultdict[int | None, list[tuple[int, str]]] = defaultdict(list)
    for p in rosters.people:
        if p.kind == "staff":
            of_school[p.school_id].append((p.id, p.name))
    found = []
    for c in rosters.classes:
        if c.id not in with_teacher:
            staff = tuple(of_school[c.school_id])
            step = Step(step="teach_class", label="Assign teacher", person_id=None, class_id=c.id, choices=staff)
            cause = "probably a teacher left and no one was entered"
            found.append(
                Discrepancy(
                    kind="no_teacher",
                    who=c.title,
                    what="has no teacher: no one sees its results",
                    cause=cause,
                    steps=(step,),
                )
            )
        if c.id not in with_students:
            step = Step(step="set_aside_class", label="Archive class", person_id=None, class_id=c.id)
            found.append(
                Discrepancy(
                    kind="no_students",
                    who=c.title,
                    what="has no students",
                    cause="probably not formed, or dissolved",
                    steps=(step,),
                )
            )
    return found


def report(ctx: Context, actor: Actor, session_id: int, text: str) -> None:
    """Something wrong with a session's list, said by whoever holds or sees it."""
    allowed = scope(actor, Action.SESSIONS_READ)
    text = need_text(text, "text", REPORT_LONGEST)

    def work(db: Session) -> None:
        if db.scalar(select(PlannedSession.id).where(PlannedSession.id == session_id, allowed)) is None:
            raise NotFound("there is no such session, or it is not yours")
        db.add(RosterReport(session_id=session_id, person_id=actor.person_id, text=text, at=ctx.clock()))

    ctx.store.write(work)


def _planned(db: Session, actor: Actor) -> list[Discrepancy]:
    """Sessions ahead that no longer match the roster: lists of students follow it by themselves, these do not."""
    sessions = db.scalars(
        select(PlannedSession)
        .where(PlannedSession.closed_at.is_(None), scope(actor, Action.SESSIONS_READ))
        .options(joinedload(PlannedSession.form), joinedload(PlannedSession.klass), joinedload(PlannedSession.proctor))
        .order_by(PlannedSession.start, PlannedSession.id)
    ).all()
    people = db.scalars(
        select(Person)
        .where(Person.kind == "staff", Person.active.is_(True), scope(actor, Action.PEOPLE_SETTLE))
        .order_by(Person.family, Person.given)
    ).all()
    holding, zone, dates = who_may_hold(db, [p.id for p in people]), zone_of(db), dates_of(db)
    staff = tuple((p.id, p.name) for p in people if p.id in holding)
    found = []
    for s in sessions:
        who = f"{s.form.name}, {s.klass.title}"
        if not s.klass.active:
            step = Step(step="drop_session", label="Delete session", session_id=s.id)
            what = f"is scheduled for {dates.short(school_day(s.start, zone))}, and the class was archived"
            found.append(
                Discrepancy(
                    kind="session_lost",
                    who=who,
                    what=what,
                    cause="probably the class was dissolved after planning",
                    steps=(step,),
                )
            )
        elif s.proctor is not None and not s.proctor.active:
            step = Step(step="hold_session", label="Assign proctor", session_id=s.id, choices=staff)
            what = f"is scheduled for {dates.short(school_day(s.start, zone))} with {s.proctor.name}, who left"
            found.append(
                Discrepancy(
                    kind="proctor_left", who=who, what=what, cause="probably left after planning", steps=(step,)
                )
            )
    return found


def _reports(db: Session, actor: Actor) -> list[Discrepancy]:
    rows = db.execute(
        select(RosterReport, Person, SchoolClass.title)
        .join(Person, Person.id == RosterReport.person_id)
        .join(PlannedSession, PlannedSession.id == RosterReport.session_id)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(RosterReport.settled_at.is_(None), scope(actor, Action.SESSIONS_READ))
        .order_by(RosterReport.id)
    )
    step = "report_settled"
    return [
        Discrepancy(
            kind="reported",
            who=title,
            what=f"{r.text} ({author.name})",
            cause="seen in the room",
            steps=(Step(step=step, label="Resolved", report_id=r.id),),
        )
        for r, author, title in rows
    ]


def settle_report(ctx: Context, actor: Actor, report_id: int) -> None:
    """Say that a reported error is dealt with."""
    scope(actor, Action.PEOPLE_SETTLE)
    allowed = scope(actor, Action.SESSIONS_READ)

    def work(db: Session) -> None:
        found = db.scalar(
            select(RosterReport)
            .join(PlannedSession, PlannedSession.id == RosterReport.session_id)
            .where(RosterReport.id == report_id, RosterReport.settled_at.is_(None), allowed)
        )
        if found is None:
            raise NotFound("this report is resolved already, or not yours")
        found.settled_at = ctx.clock()
        audit.record(db, ctx.clock(), actor.person_id, "roster.report_settled", f"session:{found.session_id}")

    ctx.store.write(work)


def settle_session(ctx: Context, actor: Actor, step: str, session_id: int, person_id: int | None) -> None:
    """Drop a planned session that nobody has begun, or give it another proctor."""
    people, sessions = scope(actor, Action.PEOPLE_SETTLE), scope(actor, Action.SESSIONS_PLAN)
    if step not in ("drop_session", "hold_session"):
        raise Invalid(f"one of {', '.join(STEPS)}", "step")

    def work(db: Session) -> None:
        session = db.scalar(select(PlannedSession).where(PlannedSession.id == session_id, sessions))
        if session is None or session.closed_at is not None:
            raise NotFound("there is no such session, or it is not yours")
        before: dict[str, object] = {"class": session.klass.title, "proctor": session.proctor_id}
        if step == "drop_session":
            if any(sitting.started_at is not None for sitting in session.sittings):
                raise Conflict("someone has started this test; close the session instead, its answers stay")
            for report in db.scalars(select(RosterReport).where(RosterReport.session_id == session.id)):
                db.delete(report)
            for sitting in session.sittings:
                db.delete(sitting)
            db.flush()
            db.delete(session)
        else:
            person = db.scalar(
                select(Person).where(
                    Person.id == (person_id or -1), Person.kind == "staff", Person.active.is_(True), people
                )
            )
            if person is None:
                raise NotFound("this person is not there, or not yours")
            session.proctor_id = check_proctor(db, ctx, actor, person.id, session.klass.school_id).id
        after = {"step": step, "proctor": person_id}
        audit.record(db, ctx.clock(), actor.person_id, "roster.settle", f"session:{session_id}", before, after)

    ctx.store.write(work)


def settle(
    ctx: Context, actor: Actor, step: str, person_id: int | None, class_id: int | None, other_id: int | None = None
) -> None:
    """Do one step; planned sessions follow, results stay, the log says who did it, and the next file does not undo it."""
    people, classes = scope(actor, Action.PEOPLE_SETTLE), scope(actor, Action.CLASSES_READ)
    if step not in STEPS[:8]:
        raise Invalid(f"one of {', '.join(STEPS)}", "step")

    def one(db: Session, id: int | None) -> Person | None:
        return None if id is None else db.scalar(select(Person).where(Person.id == id, people))

    def work(db: Session) -> None:
        person, other = one(db, person_id), one(db, other_id)
        klass = None if class_id is None else db.scalar(select(SchoolClass).where(SchoolClass.id == class_id, classes))
        pair = step in ("merge", "different")
        needs_class = step in ("leave_class", "join_class", "teach_class", "set_aside_class")
        if (
            (person is None and step != "set_aside_class")
            or (klass is None and needs_class)
            or (other is None and pair)
        ):
            raise NotFound("this person or class is not there, or not yours")
        if pair:
            assert person is not None and other is not None
            before = _pair(ctx, db, actor, step, person, other)
        elif step == "both_right":
            assert person is not None
            before = _both(ctx, db, actor, person)
        else:
            before = _do(db, step, person, klass, local_today(ctx, db))
            if step in ("leave_class", "join_class", "set_aside"):
                _remember(ctx, db, actor, step, person, klass)
        subject = f"person:{person.id}" if person is not None else f"class:{klass.id if klass else ''}"
        after = {"step": step, "class": klass.title if klass else None} | ({"other": other.id} if other else {})
        audit.record(db, ctx.clock(), actor.person_id, "roster.settle", subject, before, after)
        moved(db, None if person is None else [p.id for p in (person, other) if p is not None])

    ctx.store.write(work)


def _pair(ctx: Context, db: Session, actor: Actor, step: str, person: Person, other: Person) -> dict[str, object]:
    """merge: the first record into the second."""
    if person.id == other.id or not (person.student and other.student and person.active and other.active):
        raise Invalid("two students who are both here", "other_id")
    if step == "different":
        remember(db, ctx.clock(), actor.person_id, "different", min(person.id, other.id), max(person.id, other.id))
        return {}
    merge(db, person, other, local_today(ctx, db))
    return {"into": other.id}


def _both(ctx: Context, db: Session, actor: Actor, person: Person) -> dict[str, object]:
    """Every class that the person is in now is right beside the others."""
    for class_id in db.scalars(
        select(Enrolment.class_id).where(Enrolment.person_id == person.id, Enrolment.active.is_(True))
    ):
        remember(db, ctx.clock(), actor.person_id, "both", person.id, class_id=class_id)
    return {}


def _remember(
    ctx: Context, db: Session, actor: Actor, step: str, person: Person | None, klass: SchoolClass | None
) -> None:
    """Against the next file; joining a class takes back that somebody is kept out of it."""
    assert person is not None
    if step == "set_aside":
        remember(db, ctx.clock(), actor.person_id, "set_aside", person.id)
    elif step == "leave_class" and klass is not None:
        remember(db, ctx.clock(), actor.person_id, "keep_out", person.id, class_id=klass.id)
    elif klass is not None:
        end_moot(db, ctx.clock(), [(person.id, klass.id)], [person.id])


def _do(db: Session, step: str, person: Person | None, klass: SchoolClass | None, today: date) -> dict[str, object]:
    if step == "set_aside" and person is not None:
        person.active, person.left_on = False, today
        return {"active": True}
    if step == "set_aside_class" and klass is not None:
        klass.active, klass.ended_on = False, today
        return {"active": True}
    assert person is not None and klass is not None
    row = db.scalar(select(Enrolment).where(Enrolment.class_id == klass.id, Enrolment.person_id == person.id))
    if step == "leave_class":
        if row is None or not row.active:
            raise Conflict(f"{person.name} is not in {klass.title} any more; nothing was changed")
        row.active, row.ends = False, today
        return {"in_class": True}
    role = "student" if step == "join_class" else "teacher"
    if person.kind != ("student" if role == "student" else "staff"):
        raise Invalid(f"{person.name} cannot be in a class as {role}", "person_id")
    if row is None:
        db.add(Enrolment(class_id=klass.id, person_id=person.id, role=role, begins=today))
    else:
        row.active, row.role, row.ends = True, role, None
    return {"in_class": False}
