"""The classes as a mixed-integer program: a proved bound, and a better plan where there is one (HiGHS).

Variables: x[b, t], test b begins at slot t; z[g, d], day d belongs to a group of tests; v, an order of subjects that is broken; M, the fullest day. A test without a
place is what its x lack. Rows: one place for a test; a student in one place at a time, and so many tests a day; shared rooms
by nested seat numbers; devices; proctors; a teacher in one own room.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import highspy
import numpy as np
from scipy.sparse import csc_matrix

from bildung.core.assembly.solve import Quiet
from bildung.core.planning.board import NOWHERE, Board
from bildung.core.planning.costs import FULLEST_DAY, OUT_OF_ORDER

NEAR = 0.05  # points: less than half of what one day later costs
Tell = Callable[[float, float], None]  # the best cost so far and its bound


@dataclass(frozen=True)
class Proved:
    """What the solver found.

    Attributes
    ----------
    at : list[int] | None
        By test, its slot or -1; None: no plan of its own.
    cost : float
        Of that plan.
    bound : float
        What no plan can cost less than.
    """

    at: list[int] | None
    cost: float
    bound: float


class _Rows:
    def __init__(self) -> None:
        self.row: list[int] = []
        self.column: list[int] = []
        self.value: list[float] = []
        self.high: list[float] = []

    def most(self, terms: Iterable[tuple[int, float]], high: float) -> None:
        """A weighted sum of columns that is at most so much."""
        at = len(self.high)
        for column, value in terms:
            self.row.append(at)
            self.column.append(column)
            self.value.append(value)
        self.high.append(high)


def prove(board: Board, seconds: float, stop: Callable[[], bool] | None = None, tell: Tell | None = None) -> Proved:
    """Solve from the plan on the board.

    Parameters
    ----------
    board : Board
        With a plan; it is left as it is.
    seconds : float
        Time that may be taken.
    stop : Callable[[], bool] | None
        Asked often whether to end with what there is.
    tell : Tell | None
        Told how far it is.

    Returns
    -------
    Proved
        The plan it found, and the bound.
    """
    columns = [
        (i, t)
        for i, test in enumerate(board.problem.classes)
        for t in ([test.kept] if test.fixed and test.kept >= 0 else range(board.size))
        if board.lengths[i][t] > 0
    ]
    index = {column: c for c, column in enumerate(columns)}
    cost = [float(board.costs[i][t]) - board.left_out[i] for i, t in columns]
    base = sum(board.left_out)
    upper = [1.0] * len(columns)
    rows = _Rows()
    by_test: dict[int, list[int]] = defaultdict(list)
    for c, (i, _) in enumerate(columns):
        by_test[i].append(c)
    for mine in by_test.values():
        rows.most(((c, 1.0) for c in mine), 1.0)
    covering = _covering(board, columns)
    start = [float(board.at[i] == t) for i, t in columns]
    start += _students(board, columns, rows, covering)
    _supply(board, columns, rows, covering)
    integers = len(start)
    cost += [0.0] * (integers - len(columns))
    upper += [1.0] * (integers - len(columns))
    for pair in _pairs(board):
        start.append(_order(board, index, rows, pair, len(cost)))
        cost.append(OUT_OF_ORDER)
        upper.append(1.0)
    if board.problem.wishes.spread and len(board.load):
        most = len(cost)
        cost.append(FULLEST_DAY)
        upper.append(float(len(board.at)))
        start.append(float(board.load.max()))
        for day in range(len(board.load)):
            on = [(c, 1.0) for c, (_, t) in enumerate(columns) if board.days[t] == day]
            rows.most([*on, (most, -1.0)], 0.0)
    solver = Quiet()  # type: ignore[no-untyped-call]
    solver.setOptionValue("time_limit", float(seconds))
    solver.setOptionValue("mip_rel_gap", 0.0)
    solver.setOptionValue("mip_abs_gap", NEAR)
    solver.setOptionValue("random_seed", 1)
    solver.setOptionValue("threads", 1)  # two values in one process leave it without a solution
    solver.passModel(_model(cost, upper, rows, integers))
    solution = highspy.HighsSolution()
    solution.col_value = start
    solver.setSolution(solution)

    def heard(event: highspy.HighsCallbackEvent) -> None:
        if tell:
            tell(base + event.data_out.mip_primal_bound, base + event.data_out.mip_dual_bound)

    def asked(event: highspy.HighsCallbackEvent) -> None:
        if stop and stop():
            event.interrupt()

    solver.cbMipImprovingSolution += heard
    solver.cbMipInterrupt += asked
    solver.run()
    info = solver.getInfo()
    bound = max(0.0, base + info.mip_dual_bound) if np.isfinite(info.mip_dual_bound) else 0.0
    if info.primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
        return Proved(None, np.inf, bound)
    values = np.array(solver.getSolution().col_value[: len(columns)])
    at = [NOWHERE] * len(board.at)
    for c in np.flatnonzero(values > 0.5).tolist():
        at[columns[c][0]] = columns[c][1]
    return Proved(at, base + float(info.objective_function_value), bound)


def _model(cost: Sequence[float], upper: Sequence[float], rows: _Rows, integers: int) -> highspy.HighsLp:
    model = highspy.HighsLp()
    matrix = csc_matrix((rows.value, (rows.row, rows.column)), shape=(len(rows.high), len(cost)))
    model.num_col_, model.num_row_ = len(cost), len(rows.high)
    model.col_cost_, model.col_lower_, model.col_upper_ = np.array(cost), np.zeros(len(cost)), np.array(upper)
    model.row_lower_ = np.full(len(rows.high), -highspy.kHighsInf)
    model.row_upper_ = np.array(rows.high)
    model.a_matrix_.format_ = highspy.MatrixFormat.kColwise
    model.a_matrix_.start_, model.a_matrix_.index_, model.a_matrix_.value_ = matrix.indptr, matrix.indices, matrix.data
    whole, part = highspy.HighsVarType.kInteger, highspy.HighsVarType.kContinuous
    model.integrality_ = [whole] * integers + [part] * (len(cost) - integers)
    return model


def _covering(board: Board, columns: Sequence[tuple[int, int]]) -> list[dict[int, list[int]]]:
    """By slot and test, the columns whose session is on then."""
    found: list[dict[int, list[int]]] = [defaultdict(list) for _ in range(board.size)]
    for c, (i, t) in enumerate(columns):
        for slot in board.covers[i][t]:
            found[slot][i].append(c)
    return found


def _students(
    board: Board, columns: Sequence[tuple[int, int]], rows: _Rows, covering: Sequence[dict[int, list[int]]]
) -> list[float]:
    """No student in two places, nor with more tests on a day than wished; returns the values on the board of further columns.

    Each set of tests that some student takes is said once; sets within others say nothing new. Where one test a day is
    wished, tests that share students with the same others are one group (a subject of a grade, where its classes are other
    groups than those of the next subject): a column for each group and day says that it is the group's day. Some hundreds of
    sets become a few rows, and the solver decides days before it decides slots.
    """
    tests_of: dict[int, set[int]] = defaultdict(set)
    for i, who in enumerate(board.who):
        for student in who.tolist():
            tests_of[student].add(i)
    largest = _largest(frozenset(tests) for tests in tests_of.values())
    by_day: dict[tuple[int, int], list[int]] = defaultdict(list)
    for c, (i, t) in enumerate(columns):
        by_day[i, int(board.days[t])].append(c)
    limit, days = board.problem.wishes.a_day, range(len(board.load))
    for tests in largest if limit > 1 else ():
        for at in covering if len(tests) > 1 else ():
            rows.most(((c, 1.0) for i in tests for c in at.get(i, ())), 1.0)
        for day in days if len(tests) > limit else ():
            rows.most(((c, 1.0) for i in tests for c in by_day.get((i, day), ())), float(limit))
    start: list[float] = []
    if limit == 1:
        groups = _groups(board, largest)
        day_of: dict[tuple[int, int], int] = {}
        for g, members in enumerate(groups):
            for day in days if len(members) > 1 else ():
                day_of[g, day] = len(columns) + len(start)
                start.append(float(any(board.at[i] != NOWHERE and board.days[board.at[i]] == day for i in members)))
                for i in members:
                    mine = [(c, 1.0) for c in by_day.get((i, day), ())]
                    if mine:
                        rows.most([*mine, (day_of[g, day], -1.0)], 0.0)
        group_of = {i: g for g, members in enumerate(groups) for i in members}
        for among in _largest(frozenset(group_of[i] for i in tests) for tests in largest):
            for day in days if len(among) > 1 else ():
                on = [[day_of[g, day]] if (g, day) in day_of else by_day.get((groups[g][0], day), []) for g in among]
                rows.most(((c, 1.0) for some in on for c in some), 1.0)
    # what a student does elsewhere bars the test
    barred = [board.busy_at_first(i) for i in range(len(board.at))]
    rows.most(((c, 1.0) for c, (i, t) in enumerate(columns) if any(barred[i][s] for s in board.covers[i][t])), 0.0)
    return start


def _largest(sets: Iterable[frozenset[int]]) -> list[frozenset[int]]:
    """Those that are within no other."""
    found: list[frozenset[int]] = []
    for one in sorted(set(sets), key=lambda s: (-len(s), sorted(s))):
        if not any(one <= other for other in found):
            found.append(one)
    return found


def _groups(board: Board, sets: Sequence[frozenset[int]]) -> list[list[int]]:
    """Tests that share students with the same others and none with each other, together."""
    others: list[set[int]] = [set() for _ in board.at]
    for tests in sets:
        for i in tests:
            others[i] |= tests - {i}
    found: dict[frozenset[int], list[int]] = {}
    for i, mine in enumerate(others):
        found.setdefault(frozenset(mine) if mine else frozenset({-1 - i}), []).append(i)
    return list(found.values())


def _supply(
    board: Board, columns: Sequence[tuple[int, int]], rows: _Rows, covering: Sequence[dict[int, list[int]]]
) -> None:
    """Rooms, devices, proctors and teachers of each slot."""
    supply = board.supply
    for t, tests in enumerate(covering):
        on = [(c, columns[c]) for mine in tests.values() for c in mine]
        pool = [(c, i) for c, (i, s) in on if not board.own[i][s]]
        for level in range(len(supply.levels)):
            rows.most(((c, 1.0) for c, i in pool if board.level[i] >= level), float(supply.rooms[level, t]))
        rows.most(((c, 1.0) for c, i in pool if board.level[i] >= len(supply.levels)), 0.0)
        rows.most(((c, 1.0) for c, _ in pool), float(board.proctors[t]))
        brought = [(c, i, s) for c, (i, s) in on if board.brings[i] and not (board.own[i][s] and board.own_devices[i])]
        rows.most(((c, 1.0) for c, _, _ in brought), float(supply.carts[t]))
        rows.most(((c, 1.0) for c, i, s in brought if board.own[i][s]), float(supply.wheels))
        teachers: dict[int, list[int]] = defaultdict(list)
        for c, (i, s) in on:
            if board.own[i][s] and board.problem.classes[i].teacher:
                teachers[board.problem.classes[i].teacher].append(c)
        for mine in teachers.values():
            rows.most(((c, 1.0) for c in mine), 1.0)


def _pairs(board: Board) -> list[tuple[int, int]]:
    """The first and the later test of the same students, by the order of subjects."""
    return [(other, i) for i, others in enumerate(board.before) for other, first in others if first]


def _order(board: Board, index: dict[tuple[int, int], int], rows: _Rows, pair: tuple[int, int], broken: int) -> float:
    """Rows that make `broken` 1 where the later test comes on an earlier day; returns its value on the board."""
    first, later = pair
    for day in range(len(board.load)):
        terms = [(index[later, t], 1.0) for t in range(board.size) if board.days[t] < day and (later, t) in index]
        after = [(index[first, t], 1.0) for t in range(board.size) if board.days[t] >= day and (first, t) in index]
        if terms and after:
            rows.most([*terms, *after, (broken, -1.0)], 1.0)
    a, b = board.at[first], board.at[later]
    return float(NOWHERE not in (a, b) and board.days[b] < board.days[a])
