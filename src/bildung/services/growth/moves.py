"""Movement between ordered levels on the page about two occasions."""

from __future__ import annotations

from collections import defaultdict

import numpy as np

from bildung.core.growth.transitions import Transitions, transitions
from bildung.core.items.shown import counted, percent
from bildung.core.school.privacy import hidden_groups
from bildung.services.growth.pairview import ClassMoves, LevelMove, LevelMoves, PairPage
from bildung.services.growth.seen import Seen

UNCLEAR = 0.05  # of the sign test


def moves_of(seen: Seen) -> LevelMoves:
    """From level to level, in the order in which they are reached."""
    names = list(seen.pair.measure.levels or [])
    found = _found(seen, seen.rows, len(names))
    ordered = names if seen.pair.sign > 0 else names[::-1]
    return LevelMoves(
        levels=ordered,
        rows=[
            LevelMove(level=name, n=int(found.counts[at].sum()), ended=found.counts[at].tolist())
            for at, name in enumerate(ordered)
        ],
        up=found.up,
        same=found.same,
        down=found.down,
        up_ci95=None if found.up_ci95 is None else list(found.up_ci95),
        p=found.p,
        by_class=_classes(seen, len(names)),
    )


def _found(seen: Seen, rows: list[int], levels: int) -> Transitions:
    m, sign = seen.pair.matched, seen.pair.sign
    start, end = (np.rint(sign * one[rows]).astype(np.int64) - 1 for one in (m.start, m.end))
    if sign < 0:
        start, end = levels - 1 - start, levels - 1 - end
    return transitions(start, end, levels)


def _classes(seen: Seen, levels: int) -> list[ClassMoves]:
    rows: dict[int, list[int]] = defaultdict(list)
    for row in seen.rows:
        at = seen.where[seen.pair.people[row]]
        if at.class_id:
            rows[at.class_id].append(row)
    named = {at.class_id: at for at in seen.where.values()}
    ids = sorted(rows, key=lambda id: (named[id].grade, named[id].title))
    hidden = hidden_groups([len(rows[id]) for id in ids], seen.least)
    lines = []
    for id, is_hidden in zip(ids, hidden, strict=True):
        found = _found(seen, rows[id], levels)
        lines.append(
            ClassMoves(
                id=id,
                name=named[id].title,
                grade=named[id].grade,
                n=found.n,
                up=0 if is_hidden else found.up,
                same=0 if is_hidden else found.same,
                down=0 if is_hidden else found.down,
                hidden=is_hidden,
            )
        )
    return lines


def moves_finding(page: PairPage, moves: LevelMoves) -> str:
    """Who rose, beside who fell, with how sure that is."""
    if not page.n:
        return f"No student here has a score in both {page.start.name} and {page.end.name}."
    text = (
        f"Of {counted(page.n, 'student')} {moves.up} reached a higher level, {moves.same} stayed and {moves.down} fell."
    )
    if moves.up_ci95 is not None:
        low, high = moves.up_ci95
        text += f" {percent(moves.up / page.n)} rose ({percent(low)} to {percent(high)})"
    if moves.p is None:
        return f"{text}."
    if moves.p > UNCLEAR:
        return f"{text}; whether more rise than fall cannot be told."
    return f"{text}; more {'rise than fall' if moves.up > moves.down else 'fall than rise'}, and that is more than chance brings."
