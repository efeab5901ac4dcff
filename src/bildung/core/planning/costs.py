"""What a place costs: one table for the heuristic and for the exact model, so that its bound is one of both.

A test without a place costs more than any inconvenience; then come what was kept, the order of subjects, afternoons, rooms
that are not the class's own, and the last two days, which makeups need.
"""

from __future__ import annotations

import numpy as np

from bildung.core.data.arrays import FloatArray
from bildung.core.planning.problem import ClassTest, Problem

NO_PLACE, EACH_STUDENT = 200.0, 2.0
AFTERNOON = 2.0
NOT_OWN = 1.0
LAST_DAYS = 1.0
EACH_DAY = 0.1
OUT_OF_ORDER = 4.0
MOVED = 20.0
FULLEST_DAY = 1.0  # for each session of the fullest day, where the load is spread


def no_place(test: ClassTest) -> float:
    """What it costs to leave it out."""
    return NO_PLACE + EACH_STUDENT * len(test.students)


def place_costs(problem: Problem, test: ClassTest) -> FloatArray:
    """What each slot costs it by itself, (slots,)."""
    day = np.array([slot.day for slot in problem.slots], dtype=float)
    late = np.array([slot.late for slot in problem.slots], dtype=float)
    costs = np.zeros(len(problem.slots))
    if problem.wishes.mornings:
        costs += AFTERNOON * late
    if not problem.wishes.spread:
        costs += EACH_DAY * day
    if len(day) and day[-1] >= 4:
        costs += LAST_DAYS * (day >= day[-1] - 1)
    costs += NOT_OWN
    own = sorted(test.own)
    costs[own] -= NOT_OWN
    if test.kept >= 0:
        costs += MOVED
        costs[test.kept] -= MOVED
    return costs


def rank(problem: Problem, test: ClassTest) -> int:
    """Place of its subject in the order wished for; -1: it has none."""
    order = problem.wishes.order
    return order.index(test.subject) if test.subject in order else -1
