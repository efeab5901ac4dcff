"""The state of a plan of the classes while it is made: what each slot has left, what each test could take.

All slots of a test are looked at together, as arrays; see docs/planning.md for what is held exactly and what as a count.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.planning.costs import FULLEST_DAY, OUT_OF_ORDER, no_place, place_costs, rank
from bildung.core.planning.problem import Problem

NOWHERE = -1


@dataclass(frozen=True)
class Supply:
    """What each slot has for the tests of classes.

    Attributes
    ----------
    levels : IntArray
        Distinct numbers of seats of shared rooms, ascending.
    rooms : IntArray
        (levels, slots) shared rooms with at least so many seats.
    carts : IntArray
        (slots,) carts and shared rooms with devices.
    wheels : int
        Carts alone: what a class in its own room can have.
    proctors : IntArray
        (slots,) people who can hold a session outside of a class's own lesson.
    """

    levels: IntArray
    rooms: IntArray
    carts: IntArray
    wheels: int
    proctors: IntArray


def supply(problem: Problem) -> Supply:
    """Count rooms by nested seat numbers, devices and proctors in each slot."""
    slots = range(len(problem.slots))
    shared = [room for room in problem.rooms if room.shared]
    levels = np.array(sorted({room.seats for room in shared}), dtype=np.int64)
    rooms = np.array(
        [[sum(room.seats >= level and t not in room.shut for room in shared) for t in slots] for level in levels],
        dtype=np.int64,
    ).reshape(len(levels), len(problem.slots))
    # devices too few for the smallest class serve none
    least = min((len(test.students) for test in problem.classes if test.students and not test.on_paper), default=1)
    equipped = [room for room in shared if room.devices >= least]
    wheels = sum(cart.devices >= least for cart in problem.carts)
    carts = np.array([wheels + sum(t not in room.shut for room in equipped) for t in slots], dtype=np.int64)
    people = [proctor for proctor in problem.proctors if not proctor.supports]
    proctors = np.array([sum(t not in person.away for person in people) for t in slots], dtype=np.int64)
    return Supply(levels, rooms, carts, wheels, proctors)


class Board:
    """Where each class test stands, and what is left."""

    def __init__(self, problem: Problem, reserve: int = 0) -> None:
        """reserve: shared rooms and proctors that each slot keeps for students apart."""
        self.problem = problem
        tests, slots = problem.classes, problem.slots
        self.size = len(slots)
        self.supply = supply(problem)
        students = sorted({s for test in tests for s in test.students})
        index = {s: i for i, s in enumerate(students)}
        self.who = [np.array([index[s] for s in test.students], dtype=np.int64) for test in tests]
        self.days = np.array([slot.day for slot in slots], dtype=np.int64)
        self.busy: BoolArray = np.zeros((len(students), self.size), dtype=bool)
        for student, shut in problem.busy.items():
            if student in index:
                self.busy[index[student], sorted(shut)] = True
        self.taken: IntArray = np.zeros((len(students), int(self.days.max(initial=0)) + 1), dtype=np.int64)
        self.held_by: dict[int, set[int]] = {}
        self.room_use: IntArray = np.zeros_like(self.supply.rooms)
        self.cart_use: IntArray = np.zeros(self.size, dtype=np.int64)
        self.wheel_use: IntArray = np.zeros(self.size, dtype=np.int64)
        self.proctor_use: IntArray = np.full(self.size, 0, dtype=np.int64)
        self.proctors = np.maximum(self.supply.proctors - reserve, 0) if reserve else self.supply.proctors
        self.load: IntArray = np.zeros(self.taken.shape[1], dtype=np.int64)
        self.at = [NOWHERE] * len(tests)
        self.covers: list[list[tuple[int, ...]]] = [
            [problem.covered(t, test.minutes) if t not in test.shut else () for t in range(self.size)] for test in tests
        ]
        self.lengths = [np.array([len(c) for c in covers], dtype=np.int64) for covers in self.covers]
        self.own = [self._own(i) for i in range(len(tests))]
        self.level = [int(np.searchsorted(self.supply.levels, len(test.students))) for test in tests]
        self.brings = [not test.on_paper for test in tests]
        self.own_devices = [
            {room.name: room.devices for room in problem.rooms}.get(test.own_room, 0) >= len(test.students)
            for test in tests
        ]
        self.costs = [place_costs(problem, test) for test in tests]
        self.left_out = [no_place(test) for test in tests]
        self.ranks = [rank(problem, test) for test in tests]
        self.before = self._ordered()

    def _wheels(self, size: int) -> bool:
        return any(cart.devices >= size for cart in self.problem.carts)

    def _own(self, i: int) -> BoolArray:
        """Slots at which it can begin in its own room with its own teacher, for its whole length.

        There is a seat for each and a device, there or on a cart; a class that cannot have them there tests elsewhere.
        """
        test = self.problem.classes[i]
        room = next((room for room in self.problem.rooms if room.name == test.own_room), None)
        size = len(test.students)
        seats = room is None or room.seats >= size
        seats &= test.on_paper or (room is not None and room.devices >= size) or self._wheels(size)
        shut = room.shut if room is not None else frozenset()
        found = np.zeros(self.size, dtype=bool)
        for t in sorted(test.own) if seats else ():
            cover = self.covers[i][t]
            found[t] = bool(cover) and all(c in test.own and c not in shut for c in cover)
        return found

    def _ordered(self) -> list[list[tuple[int, bool]]]:
        """By test, the others of its students that come in the order of subjects, and whether those come first."""
        found: list[list[tuple[int, bool]]] = [[] for _ in self.at]
        if not self.problem.wishes.order:
            return found
        sets = [set(test.students) for test in self.problem.classes]
        for a, one in enumerate(sets):
            for b in range(a):
                ranked = self.ranks[a] != self.ranks[b] and min(self.ranks[a], self.ranks[b]) >= 0
                if ranked and len(one & sets[b]) * 2 > min(len(one), len(sets[b])):
                    found[a].append((b, self.ranks[b] < self.ranks[a]))
                    found[b].append((a, self.ranks[a] < self.ranks[b]))
        return found

    def busy_at_first(self, i: int) -> BoolArray:
        """Slots in which one of its students is elsewhere whatever the plan says, (slots,)."""
        found = np.zeros(self.size, dtype=bool)
        for student in self.problem.classes[i].students:
            found[sorted(self.problem.busy.get(student, ()))] = True
        return found

    def free(self, i: int) -> BoolArray:
        """Slots at which it could begin now, (slots,). It must not stand anywhere."""
        who, test, own = self.who[i], self.problem.classes[i], self.own[i]
        open_ = ~self.busy[who].any(axis=0) if len(who) else np.ones(self.size, dtype=bool)
        pool = self.proctor_use < self.proctors
        level = self.level[i]
        if level < len(self.supply.levels):
            pool = pool & (self.room_use[: level + 1] < self.supply.rooms[: level + 1]).all(axis=0)
        else:
            pool = np.zeros(self.size, dtype=bool)
        device = self.cart_use < self.supply.carts if self.brings[i] else np.ones(self.size, dtype=bool)
        wheel = device & (self.wheel_use < self.supply.wheels) if self.brings[i] else device
        in_own = open_ & (wheel | self.own_devices[i])
        for t in self.held_by.get(test.teacher, ()) if test.teacher else ():
            in_own[t] = False
        elsewhere = open_ & pool & device
        found = self.lengths[i] > 0
        begins_own = found & own & self._through(i, in_own)
        begins = begins_own | (found & ~own & self._through(i, elsewhere))
        limit = self.problem.wishes.a_day
        if len(who):
            begins &= (self.taken[who].max(axis=0) < limit)[self.days]
        return begins

    def _through(self, i: int, single: BoolArray) -> BoolArray:
        """From slots that are free to starts whose whole cover is."""
        longest = int(self.lengths[i].max(initial=0))
        found = single.copy()
        for k in range(1, longest):
            later = np.concatenate([single[k:], np.zeros(k, dtype=bool)])
            found &= np.where(self.lengths[i] > k, later, True)
        return found

    def price(self, i: int) -> FloatArray:
        """What each slot would cost it now, with the order of subjects and the load of the day, (slots,)."""
        costs = self.costs[i]
        for other, first in self.before[i]:
            if self.at[other] != NOWHERE:
                day = self.days[self.at[other]]
                wrong = self.days < day if first else self.days > day
                costs = costs + OUT_OF_ORDER * wrong
        if self.problem.wishes.spread and len(self.load):
            most = self.load.max()
            costs = costs + FULLEST_DAY * (self.load + 1 > most)[self.days]
        return costs

    def put(self, i: int, t: int) -> None:
        """Place it."""
        self._change(i, t, 1)
        self.at[i] = t

    def lift(self, i: int) -> None:
        """Take it off."""
        self._change(i, self.at[i], -1)
        self.at[i] = NOWHERE

    def _change(self, i: int, t: int, by: int) -> None:
        cover = list(self.covers[i][t])
        who, test = self.who[i], self.problem.classes[i]
        self.busy[who[:, None], np.array(cover)[None, :]] = by > 0
        self.taken[who, self.days[t]] += by
        self.load[self.days[t]] += by
        if self.own[i][t]:
            if test.teacher:
                held = self.held_by.setdefault(test.teacher, set())
                (held.update if by > 0 else held.difference_update)(cover)
            if self.brings[i] and not self.own_devices[i]:
                self.cart_use[cover] += by
                self.wheel_use[cover] += by
        else:
            self.room_use[: self.level[i] + 1, cover] += by
            self.proctor_use[cover] += by
            if self.brings[i]:
                self.cart_use[cover] += by

    def total(self) -> float:
        """What the plan costs: the objective that the bound is one of."""
        cost = 0.0
        for i, t in enumerate(self.at):
            cost += self.left_out[i] if t == NOWHERE else float(self.costs[i][t])
            if t != NOWHERE:
                for other, first in self.before[i]:
                    if first and self.at[other] != NOWHERE and self.days[t] < self.days[self.at[other]]:
                        cost += OUT_OF_ORDER
        if self.problem.wishes.spread:
            cost += FULLEST_DAY * int(self.load.max(initial=0))
        return cost
