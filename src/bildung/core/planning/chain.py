"""The whole chain: classes to slots, rooms and proctors by name, then the students apart.

What stands by hand is held. What stood before stays where it can, so that a late change moves little. If students apart lack
a room or proctor, the classes are planned once more with one kept free in each slot, and the better plan is taken.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

from bildung.core.planning.apart import NO_PLACE, Apart, place_apart
from bildung.core.planning.board import NOWHERE, Board
from bildung.core.planning.clashes import clashes_of
from bildung.core.planning.exact import prove
from bildung.core.planning.heuristic import first_plan, improve, restore
from bildung.core.planning.naming import name_resources
from bildung.core.planning.problem import ApartTest, ClassTest, Problem
from bildung.core.planning.sessions import PlanSession, StudentList
from bildung.core.progress import Tell

Stop = Callable[[], bool]
SEARCH = 0.35  # of the time, for the heuristic; the rest is the solver's
GOOD_ENOUGH = 1e-6


@dataclass(frozen=True, kw_only=True)
class MadePlan:
    """A plan.

    Attributes
    ----------
    sessions : list[PlanSession]
        In order of time.
    classes_left : list[ClassTest]
        Tests of classes without a place.
    apart_left : list[ApartTest]
        Tests of students apart without one.
    cost : float
        Of the slots of classes: what the plan costs.
    bound : float
        What none can cost less than; 0 where nothing was proved.
    rounds : int
        Of the search.
    seconds : float
        It took.
    moved : int
        Sessions that stood before and stand elsewhere now.
    """

    sessions: list[PlanSession] = field(default_factory=list)
    classes_left: list[ClassTest] = field(default_factory=list)
    apart_left: list[ApartTest] = field(default_factory=list)
    cost: float = 0.0
    bound: float = 0.0
    rounds: int = 0
    seconds: float = 0.0
    moved: int = 0


def make_plan(
    problem: Problem,
    seconds: float,
    before: Sequence[PlanSession] = (),
    stop: Stop | None = None,
    tell: Tell | None = None,
    proof: bool = True,
) -> MadePlan:
    """Plan a window.

    Parameters
    ----------
    problem : Problem
        What there is and what has to be placed.
    seconds : float
        Time for the classes; the rest takes a second at most.
    before : Sequence[PlanSession]
        A plan to start from; what is held in it is left alone.
    stop : Stop | None
        Asked often; once it says yes, the best plan so far is returned.
    tell : Tell | None
        Told how far it is.
    proof : bool
        Whether to prove a bound by the exact model.

    Returns
    -------
    MadePlan
        The best that was found.
    """
    began = time.perf_counter()
    held = [session for session in before if session.held]
    work = _asked(problem, before, held)
    best: tuple[MadePlan, float] | None = None
    for reserve in (0, 1):
        made = _once(work, problem, seconds, before, held, reserve, stop, tell, proof)
        worth = made.cost + NO_PLACE * len(made.apart_left) + 100.0 * len(made.classes_left)
        if best is None or worth < best[1]:
            best = made, worth
        if not made.apart_left or (stop and stop()):
            break
    assert best is not None
    plan = best[0]
    return replace(plan, seconds=time.perf_counter() - began, moved=_moved(before, plan.sessions))


def _moved(before: Sequence[PlanSession], after: Sequence[PlanSession]) -> int:
    was = {session.id: session for session in before}
    return sum(
        session.id in was and (was[session.id].slot, was[session.id].room) != (session.slot, session.room)
        for session in after
    )


def _asked(problem: Problem, before: Sequence[PlanSession], held: Sequence[PlanSession]) -> Problem:
    """The classes without whom hand-made sessions hold, each with where it stood; hand-made sessions as fixed tests."""
    placed = {(s, one.test) for session in held for one in session.lists for s in one.students}
    shut = {room.name: room.shut for room in problem.rooms}
    # what has lost its room has to go somewhere anyway, so it gives way before what has not
    stood = {
        (one.klass, one.test): session.slot
        for session in before
        if (session.own or not session.room or session.room in shut) and session.slot not in shut.get(session.room, ())
        for one in session.lists
        if one.whole
    }
    classes = []
    for test in problem.classes:
        students = tuple(s for s in test.students if (s, test.test) not in placed)
        if students or not test.students:
            kept = stood.get((test.klass, test.test), -1)
            classes.append(replace(test, students=students, kept=kept, fixed=False))
    for session in held:
        one = session.lists[0]
        cover = problem.covered(session.slot, session.minutes)
        classes.append(
            ClassTest(
                klass=one.klass,
                test=one.test,
                name="",
                subject="",
                students=session.students,
                minutes=session.minutes,
                own=frozenset(cover) if session.own else frozenset(),
                own_room=session.room if session.own else "",
                teacher=session.proctor if session.own else 0,
                on_paper=session.on_paper,
                kept=session.slot,
                fixed=True,
            )
        )
    apart = tuple(test for test in problem.apart if (test.student, test.test) not in placed)
    return replace(problem, classes=tuple(classes), apart=apart)


def _once(
    work: Problem,
    problem: Problem,
    seconds: float,
    before: Sequence[PlanSession],
    held: Sequence[PlanSession],
    reserve: int,
    stop: Stop | None,
    tell: Tell | None,
    proof: bool,
) -> MadePlan:
    board = Board(work, reserve)
    total = len(work.classes)

    def say(what: str) -> None:
        if tell:
            tell(what, sum(t != NOWHERE for t in board.at), total)

    first_plan(board)
    say("first plan")
    ended = stop or (lambda: False)
    rounds = improve(board, seconds * SEARCH, stop=ended, better=lambda _: say("better plans"))
    cost, bound = board.total(), 0.0
    if proof and not ended():
        proved = prove(board, seconds * (1 - SEARCH), ended, lambda best, low: say("proving"))
        bound = proved.bound
        if proved.at is not None and proved.cost < cost - GOOD_ENOUGH:
            restore(board, proved.at)
            cost = board.total()
    sessions, left = _sessions(board, before)
    named, missing = name_resources(work, [*held, *sessions], {s.id: s for s in before})
    lost = {(one.klass, one.test) for session in missing for one in session.lists}
    left += [test for test in work.classes if not test.fixed and (test.klass, test.test) in lost]
    apart = _apart(work, named, before, [s for s in before if _is_apart(s) and not s.held])
    made = sorted([*named, *apart.sessions], key=lambda s: (s.slot, s.room, s.id))
    return MadePlan(
        sessions=made, classes_left=left, apart_left=apart.left, cost=cost, bound=min(bound, cost), rounds=rounds
    )


def _is_apart(session: PlanSession) -> bool:
    return not any(one.whole for one in session.lists)


def _sessions(board: Board, before: Sequence[PlanSession]) -> tuple[list[PlanSession], list[ClassTest]]:
    """What the board says, as sessions; they keep the ids that they had."""
    ids = {(one.klass, one.test): session.id for session in before for one in session.lists if one.whole}
    next_id = max((session.id for session in before), default=0) + 1
    found, left = [], []
    for i, test in enumerate(board.problem.classes):
        if test.fixed:
            continue
        t = board.at[i]
        if t == NOWHERE:
            left.append(test)
            continue
        own = bool(board.own[i][t])
        id = ids.get((test.klass, test.test), next_id)
        next_id = max(next_id, id + 1)
        found.append(
            PlanSession(
                id=id,
                slot=t,
                minutes=test.minutes,
                lists=(StudentList(klass=test.klass, test=test.test, students=test.students),),
                room=test.own_room if own else "",
                proctor=test.teacher if own else 0,
                own=own,
                on_paper=test.on_paper,
            )
        )
    return found, left


def _apart(
    problem: Problem, named: Sequence[PlanSession], before: Sequence[PlanSession], stood: Sequence[PlanSession]
) -> Apart:
    """Sessions of students apart: those that stood stay where nothing of theirs is taken now, the rest is placed anew."""
    wanted = {(test.student, test.test) for test in problem.apart}
    kept: list[PlanSession] = []
    for session in stood:
        lists = tuple(
            replace(one, students=students)
            for one in session.lists
            if (students := tuple(s for s in one.students if (s, one.test) in wanted))
        )
        if lists:
            now = replace(session, lists=lists)
            if not any(now.id in clash.sessions for clash in clashes_of(problem, [*named, *kept, now], now.id)):
                kept.append(now)
    first = max((s.id for s in (*named, *before)), default=0) + 1
    return place_apart(problem, named, kept, first)
