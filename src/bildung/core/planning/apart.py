"""Students who take a test apart from their class: together in small rooms, as near to their class's slot as can be.

Greedy in several orders, of which the best is kept; no bound is proved for it. A session is open to more students until its
room is full; one with a reader or interpreter serves one test, one for a student alone nobody else.
"""

from __future__ import annotations

import random
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

from bildung.core.planning.problem import ApartTest, Problem
from bildung.core.planning.sessions import PlanSession, StudentList, Uses, equip

NEW_SESSION = 3.0  # for each slot it is on
SAME_DAY, OTHER_DAY = 0.5, 1.5
AFTERNOON = 0.6
NO_PLACE = 40.0
ORDERS = 12
GROUP = 8  # students together where a school has entered no rooms


@dataclass(frozen=True)
class Apart:
    """Sessions of students apart from their classes, who has no place, and what it costs."""

    sessions: list[PlanSession]
    left: list[ApartTest]
    cost: float


def place_apart(
    problem: Problem,
    classes: Sequence[PlanSession],
    kept: Sequence[PlanSession] = (),
    first_id: int = 1,
    seed: int = 1,
) -> Apart:
    """Place the tests of students apart.

    Parameters
    ----------
    problem : Problem
        With them.
    classes : Sequence[PlanSession]
        Sessions of classes, with all they use.
    kept : Sequence[PlanSession]
        Sessions of students apart that stay as they are.
    first_id : int
        For the first new session; each further one counts on.
    seed : int
        Of the orders that are tried.

    Returns
    -------
    Apart
        Sessions, those kept among them, and who has no place.
    """
    at: dict[tuple[int, int], int] = {}
    for session in classes:
        for one in session.lists:
            at[one.klass, one.test] = session.slot
    done = {(s, one.test) for session in kept for one in session.lists for s in one.students}
    waiting = [test for test in problem.apart if (test.student, test.test) not in done]
    rng = random.Random(seed)
    hard = sorted(waiting, key=lambda t: (not t.alone, not t.support, -t.minutes, t.klass, t.student))
    best: Apart | None = None
    for attempt in range(ORDERS if waiting else 1):
        # what found no place comes first the next time
        order = [*best.left, *(t for t in hard if t not in best.left)] if best else list(hard)
        if attempt > 1:
            for _ in range(max(1, len(order) // 6)):
                a, b = rng.randrange(len(order)), rng.randrange(len(order))
                order[a], order[b] = order[b], order[a]
        found = _greedy(problem, [*classes, *kept], order, at, list(kept), first_id)
        if best is None or found.cost < best.cost:
            best = found
        if not best.left and attempt >= ORDERS // 3:
            break
    assert best is not None
    return best


def _greedy(
    problem: Problem,
    sessions: Sequence[PlanSession],
    order: Sequence[ApartTest],
    at: dict[tuple[int, int], int],
    kept: list[PlanSession],
    first_id: int,
) -> Apart:
    uses = Uses(problem, sessions)
    open_: dict[int, list[PlanSession]] = defaultdict(list)
    for session in kept:
        open_[session.slot].append(session)
    made: dict[int, PlanSession] = {session.id: session for session in kept}
    left, cost, next_id = [], 0.0, first_id
    most = {(test.student, test.test): test.together for test in problem.apart}
    waiting = len(order)
    for test in order:
        want = 1 if test.alone else min(test.together, waiting)
        waiting -= 1
        best: tuple[float, int, PlanSession | None, PlanSession] | None = None
        for t, slot in enumerate(problem.slots):
            cover = problem.covered(t, test.minutes)
            if not cover or t in test.shut or not _free(problem, uses, test, cover, slot.day):
                continue
            price = _price(problem, test, t, at.get((test.klass, test.test)))
            if best is not None and price >= best[0]:
                continue
            joined = next((s for s in open_[t] if _joins(problem, s, test, most)), None)
            if joined is not None:
                best = (price, t, joined, joined)
                continue
            price += NEW_SESSION * len(cover)
            if best is None or price < best[0]:
                fresh = _opened(problem, uses, test, t, next_id, want)
                if fresh is not None:
                    best = (price, t, None, fresh)
        if best is None or best[0] >= NO_PLACE:
            left.append(test)
            cost += NO_PLACE
            continue
        price, t, joined, session = best
        cost += price
        placed = session if joined is None else _with(session, test)
        made[placed.id] = placed
        open_[t] = [s for s in open_[t] if s.id != placed.id] + [placed]
        if joined is None:
            next_id += 1
            uses.add(replace(placed, lists=()))
        for slot_on in problem.covered(t, test.minutes):
            uses.students[slot_on].add(test.student)
        uses.tests[test.student, problem.slots[t].day] += 1
    return Apart(list(made.values()), left, cost)


def _price(problem: Problem, test: ApartTest, t: int, class_slot: int | None) -> float:
    slot = problem.slots[t]
    price = AFTERNOON * slot.late + 0.01 * slot.day
    if class_slot is not None and class_slot != t:
        price += SAME_DAY if problem.slots[class_slot].day == slot.day else OTHER_DAY
    return price


def _free(problem: Problem, uses: Uses, test: ApartTest, cover: Sequence[int], day: int) -> bool:
    busy = problem.busy.get(test.student, frozenset())
    return uses.tests[test.student, day] < problem.wishes.a_day and all(
        t not in busy and test.student not in uses.students[t] for t in cover
    )


def _joins(problem: Problem, session: PlanSession, test: ApartTest, most: dict[tuple[int, int], int]) -> bool:
    """Whether it can go into a session that is open in this slot."""
    if session.alone or test.alone or session.support != test.support or session.minutes < test.minutes:
        return False
    if test.by is not None and session.proctor not in test.by:
        return False
    if test.support and any(one.test != test.test for one in session.lists):
        return False
    limit = min(most.get((s, one.test), GROUP) for one in session.lists for s in one.students)
    if session.on_paper != test.on_paper or session.size >= min(limit, test.together):
        return False
    room = next((room for room in problem.rooms if room.name == session.room), None)
    seats = room.seats if room else GROUP
    devices = room.devices if room else 0
    cart = next((cart.devices for cart in problem.carts if cart.name == session.cart), 0)
    return session.size < seats and (test.on_paper or session.size < max(devices, cart))


def _opened(problem: Problem, uses: Uses, test: ApartTest, t: int, id: int, want: int) -> PlanSession | None:
    """A new session for it in the smallest free room that seats as many as wanted, with who has proctored least; None: there is none.

    A school that has entered no rooms finds one itself.
    """
    cover = problem.covered(t, test.minutes)
    day = problem.slots[t].day
    people = [
        person
        for person in problem.proctors
        if test.held_by(person)
        and all(c not in person.away and person.id not in uses.people[c] for c in cover)
        and uses.proctored[person.id, day] < problem.wishes.most_a_day
    ]
    if not people:
        return None
    person = min(people, key=lambda p: (sum(n for (id, _), n in uses.proctored.items() if id == p.id), p.id))
    bare = PlanSession(
        id=id,
        slot=t,
        minutes=test.minutes,
        lists=(StudentList(klass=test.klass, test=test.test, students=(test.student,), whole=False),),
        proctor=person.id,
        alone=test.alone,
        support=test.support,
        on_paper=test.on_paper,
    )
    if not any(room.shared for room in problem.rooms):
        return equip(problem, uses, bare, 0)
    rooms = sorted(
        (room for room in problem.rooms if room.shared),
        key=lambda room: (room.seats < want, abs(room.seats - want), room.name),
    )
    for room in rooms:
        if uses.free_room(room.name, cover):
            ready = equip(problem, uses, replace(bare, room=room.name), room.devices)
            if ready is not None:
                return ready
    return None


def _with(session: PlanSession, test: ApartTest) -> PlanSession:
    """With one more student."""
    lists = list(session.lists)
    for i, one in enumerate(lists):
        if (one.klass, one.test) == (test.klass, test.test):
            lists[i] = replace(one, students=(*one.students, test.student))
            return replace(session, lists=tuple(lists))
    lists.append(StudentList(klass=test.klass, test=test.test, students=(test.student,), whole=False))
    return replace(session, lists=tuple(lists))
