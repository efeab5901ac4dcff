"""The first plan, and better ones: each test to the cheapest slot that fits, then ruin and recreate.

Gives a plan in hundredths of a second, the progress, what a stop returns, and the start of the exact solver.
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Sequence

import numpy as np

from bildung.core.planning.board import NOWHERE, Board

MOST_RUINED = 10
PATIENCE = 0.6  # seconds without a better plan after which it ends
SLACK = 1.5  # how much worse a plan may be that the search goes on from, at its beginning
Stop = Callable[[], bool]
Better = Callable[[float], None]  # told the cost of each better plan


def first_plan(board: Board) -> None:
    """Place every test that fits, the hardest first: those that are fixed, then the fewest slots, then the largest."""
    fixed = [i for i, test in enumerate(board.problem.classes) if test.fixed and test.kept >= 0]
    for i in fixed:
        if board.at[i] == NOWHERE and board.covers[i][board.problem.classes[i].kept]:
            board.put(i, board.problem.classes[i].kept)
    open_ = [i for i, t in enumerate(board.at) if t == NOWHERE]
    room = {i: int((board.lengths[i] > 0).sum()) for i in open_}
    first = [i for i in open_ if board.problem.classes[i].kept >= 0]
    rest = [i for i in open_ if board.problem.classes[i].kept < 0]
    for group in (first, rest):
        _insert(board, sorted(group, key=lambda i: (board.ranks[i], room[i], -len(board.who[i]), i)))


def improve(board: Board, seconds: float, seed: int = 1, stop: Stop | None = None, better: Better | None = None) -> int:
    """Ruin and recreate for so long, or until it brings nothing more; the board ends as the best plan found.

    Parameters
    ----------
    board : Board
        With a first plan.
    seconds : float
        How long.
    seed : int
        Of the search; the same seed and rounds give the same plan.
    stop : Stop | None
        Asked each round whether to end.
    better : Better | None
        Told the cost of each better plan.

    Returns
    -------
    int
        Rounds done.
    """
    rng = random.Random(seed)
    movable = [i for i, test in enumerate(board.problem.classes) if not (test.fixed and test.kept >= 0)]
    if not movable:
        return 0
    best = now = board.total()
    kept = list(board.at)
    began, rounds, last = time.perf_counter(), 0, 0.0
    while (spent := time.perf_counter() - began) < seconds and spent - last < PATIENCE and not (stop and stop()):
        rounds += 1
        before = list(board.at)
        out = _ruined(board, movable, rng)
        for i in out:
            if board.at[i] != NOWHERE:
                board.lift(i)
        rng.shuffle(out)
        if rng.random() < 0.5:
            out.sort(key=lambda i: -board.left_out[i])
        _insert(board, out)
        cost = board.total()
        if cost <= now + SLACK * (1 - spent / seconds):
            now = cost
            if cost < best - 1e-9:
                best, kept, last = cost, list(board.at), spent
                if better:
                    better(best)
        else:
            restore(board, before)
    restore(board, kept)
    return rounds


def restore(board: Board, at: Sequence[int]) -> None:
    """Make the board stand as it did."""
    moved = [i for i, t in enumerate(board.at) if t != at[i]]
    for i in moved:
        if board.at[i] != NOWHERE:
            board.lift(i)
    for i in moved:
        if at[i] != NOWHERE:
            board.put(i, at[i])


def _ruined(board: Board, movable: Sequence[int], rng: random.Random) -> list[int]:
    """Tests to take off: some at random, or those of one day and its neighbors in students; what has no place always."""
    size = rng.randint(1, MOST_RUINED)
    out = {i for i in movable if board.at[i] == NOWHERE}
    if len(out) > 3:
        out = set(rng.sample(sorted(out), 3))
    start = rng.choice(movable)
    pool = list(movable)
    kind = rng.random()
    if kind < 0.35 and board.at[start] != NOWHERE:
        day = board.days[board.at[start]]
        pool = [i for i in movable if board.at[i] != NOWHERE and board.days[board.at[i]] == day]
    elif kind < 0.6:
        mine = set(board.problem.classes[start].students)
        pool = [i for i in movable if not mine.isdisjoint(board.problem.classes[i].students)]
    out.add(start)
    out.update(rng.sample(pool, min(size, len(pool))))
    return sorted(out)


def _insert(board: Board, tests: Sequence[int]) -> None:
    """Each at its cheapest slot that is free; none where staying out is cheaper."""
    for i in tests:
        free = np.flatnonzero(board.free(i))
        if not len(free):
            continue
        price = board.price(i)[free]
        at = int(price.argmin())
        if price[at] < board.left_out[i]:
            board.put(i, int(free[at]))
