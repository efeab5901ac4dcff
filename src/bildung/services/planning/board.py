"""The page of a window's plan: days and blocks, sessions with what speaks against them, and what has no place."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime

from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.planning.clashes import clashes_of
from bildung.core.planning.reasons import apart_reasons, class_reasons
from bildung.core.planning.sessions import PlanSession
from bildung.core.planning.titles import collisions
from bildung.services.planning import hold, publishing
from bildung.services.planning.asked import in_the_making
from bildung.services.planning.called import is_apart, label, short_class, title_of
from bildung.services.planning.choosing import Choosing, choosing_of
from bildung.services.planning.closed import ClosedRoom, closings
from bildung.services.planning.document import PlanWishes, read_wishes
from bildung.services.planning.facts import UNLISTED, Facts
from bildung.services.planning.known import known_facts, known_sessions
from bildung.services.planning.plans import Proposal, get_plan, plan_of, propose
from bildung.services.planning.schools import plans_at, school_or_first, schools_of, window_of
from bildung.services.planning.words import clash_says, no_provider, reason_says, unsettled_says
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.wire import Id, Ref
from bildung.store.models import Plan, Window

SHORT = {"Mathematics": "Math", "Reading": "Read", "Science": "Sci"}


@dataclass(frozen=True, kw_only=True)
class BoardDay:
    """first, count: of its blocks among all."""

    day: date
    type: str
    first: int
    count: int


@dataclass(frozen=True, kw_only=True)
class BoardBlock:
    name: str
    start: datetime
    end: datetime
    past: bool
    blocked: bool


@dataclass(frozen=True, kw_only=True)
class BoardRoom:
    """own: of a class; listed beside the shared ones once something is in it. shut: blocks in which it is closed."""

    name: str
    seats: int
    devices: int
    own: bool
    shut: list[int] = field(default_factory=list)


@dataclass(frozen=True, kw_only=True)
class BoardStudent:
    person: Id
    name: str


@dataclass(frozen=True, kw_only=True)
class BoardList:
    """klass, test: by name. whole: the class, else students by name."""

    klass: str
    test: str
    whole: bool
    students: list[BoardStudent]


@dataclass(frozen=True, kw_only=True)
class BoardSession:
    """number: in the plan. short, of: the two lines on the board. label: to say. length: blocks it takes. title: what students see. against: what
    is wrong. alone, support: of students apart. state: new, moved or published."""

    number: int
    slot: int
    length: int
    minutes: int
    short: str
    of: str
    label: str
    title: str
    room: str
    cart: str
    proctor: Id
    proctor_name: str
    size: int
    seats: int
    own: bool
    held: bool
    apart: bool
    alone: bool
    support: str
    lists: list[BoardList]
    against: list[str]
    state: str


@dataclass(frozen=True, kw_only=True)
class WithoutPlace:
    """A test of a class, or tests of students apart that have the same reason. key: names it."""

    key: str
    name: str
    students: int
    who: list[BoardStudent]
    why: str
    minutes: int


@dataclass(frozen=True, kw_only=True)
class PlanFigures:
    """workings: how it was planned, in sentences."""

    workings: list[str]


@dataclass(frozen=True, kw_only=True)
class BoardPage:
    """proposal: where there is no plan yet. choosing: while teachers choose. making: said while a plan is in the making. changes: what publishing would do; alike: names that two sessions have. closed: rooms that are lost for some days. unsettled: who would
    receive two forms, by the family where it is settled. tests:
    owed; placed: of them. undo, redo: what each would change, empty for nothing."""

    finding: str
    school: Id
    schools: list[Ref]
    window: Id
    window_name: str
    start: date
    end: date
    plan: Id | None
    revision: int
    wishes: PlanWishes
    proposal: Proposal
    days: list[BoardDay]
    blocks: list[BoardBlock]
    rooms: list[BoardRoom]
    carts: list[str]
    people: list[Ref]
    sessions: list[BoardSession]
    left: list[WithoutPlace]
    tests: int
    placed: int
    changes: list[str]
    change_count: int
    alike: list[str]
    unsettled: list[Ref]
    undo: str
    redo: str
    holder: str
    may: bool
    mine: bool
    choosing: Choosing | None = None
    making: str = ""
    closed: list[ClosedRoom] = field(default_factory=list)
    figures: PlanFigures = field(default_factory=lambda: PlanFigures(workings=[]))


def board_page(ctx: Context, actor: Actor, window_id: int, school_id: int | None = None) -> BoardPage:
    """Of one school, the first where none is named."""
    with ctx.store.read() as db:
        schools = schools_of(db, actor)
        school = school_or_first(db, actor, school_id, schools)
        window = window_of(db, window_id)
        plan = plan_of(db, school.id, window.id)
        refs = [Ref(s.id, s.name) for s in schools]
        if plan is None:
            return _empty(ctx, db, actor, school.id, window, refs)
        known_facts(ctx, db, plan, fresh=True)  # whoever opens the page sees what others have settled meanwhile
        return _page(ctx, db, actor, plan, window, refs)


def page_of_plan(ctx: Context, actor: Actor, plan_id: int) -> BoardPage:
    """The same, of a plan."""
    with ctx.store.read() as db:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_READ)
        refs = [Ref(s.id, s.name) for s in schools_of(db, actor)]
        return _page(ctx, db, actor, plan, window_of(db, plan.window_id), refs)


def _empty(ctx: Context, db: Session, actor: Actor, school_id: int, window: Window, refs: list[Ref]) -> BoardPage:
    proposal = propose(ctx, db, actor, school_id, window)
    chosen = len(proposal.wishes.tests)
    classes = sum(t.classes for t in proposal.tests if t.chosen)
    finding = (
        f"{window.name} is not planned yet. {counted(chosen, 'test')} for {counted(classes, 'class', 'classes')} can be planned."
        if chosen
        else f"{window.name} is not planned yet, and no published test fits a class of this school."
    )
    return BoardPage(
        finding=finding,
        school=school_id,
        schools=refs,
        window=window.id,
        window_name=window.name,
        start=window.start,
        end=window.end,
        plan=None,
        revision=0,
        wishes=proposal.wishes,
        proposal=proposal,
        days=[],
        blocks=[],
        rooms=[],
        carts=[],
        people=[],
        sessions=[],
        left=[],
        tests=0,
        placed=0,
        changes=[],
        change_count=0,
        alike=[],
        unsettled=[],
        undo="",
        redo="",
        holder=hold.holder(db, ctx, actor, school_id).name,
        may=plans_at(db, actor, school_id),
        mine=hold.holder(db, ctx, actor, school_id).mine,
        making=in_the_making(db, school_id, window.id),
    )


def _page(ctx: Context, db: Session, actor: Actor, plan: Plan, window: Window, refs: list[Ref]) -> BoardPage:
    facts = known_facts(ctx, db, plan)
    problem = facts.problem
    wishes = read_wishes(plan.wishes)
    sessions, _ = known_sessions(ctx, plan, facts)
    labels = {s.id: label(facts, s) for s in sessions}
    holders = {s.id: facts.people.get(s.proctor, "") for s in sessions}
    against: defaultdict[int, list[str]] = defaultdict(list)
    for clash in clashes_of(problem, sessions):
        for id in clash.sessions:
            against[id].append(clash_says(clash, facts, labels, holders, id))
    titles = {
        s.id: ", ".join(dict.fromkeys(title_of(facts, window, wishes, s, one) for one in s.lists)) for s in sessions
    }
    left = without_place(facts, sessions)
    owed = sum(len(t.students) for t in problem.classes) + len(problem.apart)
    missing = sum(one.students for one in left)
    diff = publishing.difference(ctx, db, facts, plan, window, sessions)
    rooms = {r.name: r for r in problem.rooms}
    used = {s.room for s in sessions if s.room}
    held = hold.holder(db, ctx, actor, plan.school_id)
    chosen = choosing_of(ctx, db, plan)
    now, blocked = ctx.clock(), set(wishes.blocked)
    return BoardPage(
        finding=chosen.says if chosen else _finding(owed, missing, left, sum(bool(v) for v in against.values())),
        school=plan.school_id,
        schools=refs,
        window=window.id,
        window_name=window.name,
        start=window.start,
        end=window.end,
        plan=plan.id,
        revision=plan.revision,
        wishes=wishes,
        proposal=propose(ctx, db, actor, plan.school_id, window),
        days=_days(facts),
        blocks=[
            BoardBlock(name=s.block, start=s.start, end=s.end, past=s.start <= now, blocked=s.start in blocked)
            for s in problem.slots
        ],
        rooms=[
            BoardRoom(
                name=r.name,
                seats=r.seats if r.seats < UNLISTED else 0,
                devices=r.devices,
                own=not r.shared,
                shut=sorted(r.shut),
            )
            for r in sorted(problem.rooms, key=lambda r: (r.shared, r.name))
            if r.shared or r.name in used
        ]
        + [BoardRoom(name=name, seats=0, devices=0, own=True) for name in sorted(used - rooms.keys())],
        carts=[cart.name for cart in problem.carts],
        people=[Ref(id, name) for id, name in sorted(facts.people.items(), key=lambda p: p[1])],
        sessions=[
            _session(facts, s, labels, titles, against[s.id], rooms[s.room].seats if s.room in rooms else 0, diff)
            for s in sessions
        ],
        left=left,
        tests=owed,
        placed=owed - missing,
        changes=diff.says,
        change_count=diff.count,
        alike=collisions([titles[s.id] + labels[s.id] for s in sessions if not is_apart(s)]),
        unsettled=[Ref(facts.tests[form].family, says) for form, says in unsettled_says(facts)],
        undo=plan.steps[plan.step - 1]["says"] if plan.step else "",
        redo=plan.steps[plan.step]["says"] if plan.step < len(plan.steps) else "",
        holder=held.name,
        may=plans_at(db, actor, plan.school_id),
        mine=held.mine or held.idle,
        choosing=chosen,
        making=in_the_making(db, plan.school_id, window.id),
        closed=closings(db, plan.school_id, window.start, window.end),
        figures=_figures(plan, facts),
    )


def _days(facts: Facts) -> list[BoardDay]:
    found: list[BoardDay] = []
    slots = facts.problem.slots
    for at, slot in enumerate(slots):
        if not at or slot.day != slots[at - 1].day:
            count = sum(other.day == slot.day for other in slots)
            found.append(BoardDay(day=slot.start.date(), type=slot.day_type, first=at, count=count))
    return found


def _session(
    facts: Facts,
    session: PlanSession,
    labels: dict[int, str],
    titles: dict[int, str],
    against: list[str],
    seats: int,
    diff: publishing.Difference,
) -> BoardSession:
    subjects = list(dict.fromkeys(facts.tests[one.test].subject for one in session.lists))
    apart = is_apart(session)
    classes = list(dict.fromkeys(short_class(facts, one.klass, one.test) for one in session.lists))
    grades = sorted({facts.tests[one.test].grade for one in session.lists})
    of = classes[0] if len(classes) == 1 and not apart else f"{session.size} st."
    if session.support:
        of = "aloud" if session.support == "human_reader" else "support"
    elif session.alone:
        of = "alone"
    return BoardSession(
        number=session.id,
        slot=session.slot,
        length=len(facts.problem.covered(session.slot, session.minutes)) or 1,
        minutes=session.minutes,
        short=SHORT.get(subjects[0], subjects[0][:4]) if len(subjects) == 1 else f"{len(subjects)} tests",
        of=of if not apart or session.support or session.alone else f"gr. {', '.join(grades)}",
        label=labels[session.id],
        title=titles[session.id],
        room=session.room,
        cart=session.cart,
        proctor=session.proctor,
        proctor_name=facts.people.get(session.proctor, ""),
        size=session.size,
        seats=seats,
        own=session.own,
        held=session.held,
        apart=apart,
        alone=session.alone,
        support=session.support,
        lists=[
            BoardList(
                klass=facts.classes.get(one.klass, ""),
                test=facts.tests[one.test].name,
                whole=one.whole,
                students=[BoardStudent(person=s, name=facts.students.get(s, "")) for s in one.students],
            )
            for one in session.lists
        ],
        against=list(dict.fromkeys(against)),
        state=diff.states.get(session.id, "new"),
    )


def without_place(facts: Facts, sessions: Sequence[PlanSession]) -> list[WithoutPlace]:
    """Tests that no session holds, the largest group first."""
    placed = {(s, one.test) for session in sessions for one in session.lists for s in one.students}
    found = []
    for test in facts.problem.classes:
        students = [s for s in test.students if (s, test.test) not in placed]
        if not students:
            continue
        why = reason_says(class_reasons(facts.problem, sessions, test), test.minutes, len(test.students))
        found.append(
            WithoutPlace(
                key=f"{test.klass}-{test.test}",
                name=test.name if len(students) == len(test.students) else f"{test.name}, some students",
                students=len(students),
                who=[BoardStudent(person=s, name=facts.students.get(s, "")) for s in students],
                why=why,
                minutes=test.minutes,
            )
        )
    groups: defaultdict[tuple[str, str], list[tuple[int, str, int]]] = defaultdict(list)
    for one in facts.problem.apart:
        if (one.student, one.test) not in placed:
            why = no_provider(facts.problem, one) or reason_says(
                apart_reasons(facts.problem, sessions, one), one.minutes, 1, one.support
            )
            groups[facts.tests[one.test].subject, why].append((one.student, one.name, one.minutes))
    for (subject, why), members in groups.items():
        found.append(
            WithoutPlace(
                key=f"apart-{subject}-{len(found)}",
                name=f"{subject}, apart from the class",
                students=len(members),
                who=[BoardStudent(person=s, name=facts.students.get(s, "")) for s, _, _ in members],
                why=why,
                minutes=max(minutes for _, _, minutes in members),
            )
        )
    return sorted(found, key=lambda one: (-one.students, one.name))


def _finding(owed: int, missing: int, left: Sequence[WithoutPlace], clashing: int) -> str:
    if not owed:
        return "Everyone has taken these tests or is exempt."
    tests = f"{owed:,} {'test' if owed == 1 else 'tests'}"
    if missing:
        reasons = len(Counter(one.why for one in left))
        have = "has" if missing == 1 else "have"
        text = f"{missing:,} of {tests} {have} no place yet, for {counted(reasons, 'reason')}."
    else:
        text = f"All {tests} have a place."
    if clashing:
        text += f" {counted(clashing, 'session')} cannot run as planned."
    return text


def _figures(plan: Plan, facts: Facts) -> PlanFigures:
    kept = plan.figures
    lines = []
    if kept.get("bound"):
        over = (kept["cost"] / kept["bound"] - 1) * 100 if kept["bound"] else 0.0
        near = "the best there can be" if over < 0.05 else f"at most {over:.1f}% from the best there can be"
        lines.append(
            f"Blocks of classes: this plan costs {kept['cost']:g} points and no plan can cost less than {kept['bound']:g}, "
            f"so it is {near}."
        )
    else:
        lines.append("No bound was proved for the blocks of classes; the search was stopped or the time was over.")
    lines.append(
        "Points: a test without a place 200 and 2 for each student; subjects out of order 4; afternoon 2; outside the own "
        "room 1; the last two days 1; each day later 0.1; a session moved 20."
    )
    lines.append(
        "Students apart are placed by a search without proof, as near to their class as they fit; rooms and proctors go by "
        "the assignment that wastes least and loads people evenly."
    )
    lines.append(f"{kept.get('rounds', 0):,} plans were tried in {kept.get('seconds', 0):g} seconds.")
    if facts.outside:
        lines.append(
            f"{counted(facts.outside, 'session')} of these tests {'begins' if facts.outside == 1 else 'begin'} at no block of "
            "the bell schedule; publishing moves their students to the sessions of the plan."
        )
    return PlanFigures(workings=lines)
