"""The exact model against every plan there is, where there are few enough to try them all."""

from __future__ import annotations

import itertools
import random
import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from bildung.commands.benchplan import school
from bildung.core.planning.board import NOWHERE, Board
from bildung.core.planning.exact import prove
from bildung.core.planning.heuristic import first_plan
from bildung.core.planning.problem import ClassTest, Problem, Room, Slot, Wishes

DAYS, BLOCKS = 3, 2


def small(rng: random.Random, a_day: int) -> Problem:
    """Two subjects of one grade with two classes each, mixed anew for the second, and one that shares nobody."""
    slots = tuple(
        Slot(
            day=day,
            start=(start := datetime(2027, 1, 18 + day, 9 + block, tzinfo=UTC)),
            end=start + timedelta(hours=1),
            block=str(block),
            late=block > 0,
        )
        for day in range(DAYS)
        for block in range(BLOCKS)
    )
    students = list(range(8))
    rng.shuffle(students)
    groups = [range(4), range(4, 8), students[:4], students[4:], range(20, 24)]
    classes = tuple(
        ClassTest(
            klass=n,
            test=n // 2,
            name=str(n),
            subject="AB C"[n // 2],
            students=tuple(sorted(group)),
            minutes=50,
            own=frozenset(rng.sample(range(len(slots)), 4)),
            own_room=f"R{n}",
            teacher=100 + n,
            on_paper=True,
        )
        for n, group in enumerate(groups)
    )
    rooms = tuple(Room(name=f"R{n}", seats=10, shared=False) for n in range(len(groups)))
    return Problem(
        slots=slots, rooms=rooms, carts=(), proctors=(), classes=classes, apart=(), wishes=Wishes(a_day=a_day)
    )


def fits(problem: Problem, at: tuple[int, ...]) -> bool:
    """Nobody in two places or with too many tests on a day, each class in its own room: by students, one by one."""
    for student in {s for test in problem.classes for s in test.students}:
        mine = [t for test, t in zip(problem.classes, at, strict=True) if student in test.students and t != NOWHERE]
        days = [problem.slots[t].day for t in mine]
        if len(set(mine)) < len(mine) or any(days.count(day) > problem.wishes.a_day for day in days):
            return False
    return all(t == NOWHERE or t in test.own for test, t in zip(problem.classes, at, strict=True))


class AgainstAll(unittest.TestCase):
    def test_no_plan_costs_less_than_the_bound_and_the_best_costs_just_that(self) -> None:
        for seed, a_day in itertools.product(range(6), (1, 2)):
            with self.subTest(seed=seed, a_day=a_day):
                problem = small(random.Random(seed), a_day)
                board = Board(problem)
                costs = [
                    [float(c) for c in board.costs[i]] + [float(board.left_out[i])] for i in range(len(problem.classes))
                ]
                places = [[*sorted(test.own), NOWHERE] for test in problem.classes]
                best = min(
                    sum(costs[i][t] for i, t in enumerate(at)) for at in itertools.product(*places) if fits(problem, at)
                )
                first_plan(board)
                proved = prove(board, 5.0)
                self.assertAlmostEqual(proved.cost, best, delta=0.051)
                self.assertLessEqual(proved.bound, best + 1e-6)
                self.assertGreaterEqual(proved.bound, best - 0.051)
                assert proved.at is not None
                self.assertTrue(fits(problem, tuple(proved.at)))

    def test_classes_that_are_mixed_for_each_subject_are_solved_to_the_proof(self) -> None:
        problem = school(9, mixed=True)
        board = Board(replace(problem, apart=()))
        first_plan(board)
        proved = prove(board, 20.0)
        self.assertLess(proved.cost / proved.bound - 1, 0.01)
