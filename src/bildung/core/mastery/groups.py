"""Groups from findings: students by a standard that they need, as many needs met as seats allow (methods.md, section 7)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import coo_array

from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused

GAP = 0.01
SECONDS = 10.0
MOST = 400
LEAST_NEED = 0.5


@dataclass(frozen=True)
class FoundGroups:
    """Who works on what.

    Attributes
    ----------
    groups : tuple[tuple[int, tuple[int, ...]], ...]
        Place of the standard, and its students in order of need.
    unmet : tuple[int, ...]
        Students with a need and no seat.
    without : tuple[int, ...]
        Students without any need over one half.
    """

    groups: tuple[tuple[int, tuple[int, ...]], ...]
    unmet: tuple[int, ...]
    without: tuple[int, ...]


def find_groups(
    need: FloatArray, least: int, most: int, many: int, apart: Sequence[tuple[int, int]] = ()
) -> FoundGroups:
    """Maximize the needs that are met: Σ u·x with each student in at most one group, least to most students a group.

    Parameters
    ----------
    need : FloatArray
        (students, standards) probability of being below the line; what is under one half counts nothing.
    least : int
        Fewest students of a group.
    most : int
        Most students.
    many : int
        Most groups.
    apart : Sequence[tuple[int, int]]
        Pairs of students who are not put together.

    Returns
    -------
    FoundGroups

    Raises
    ------
    Refused
        For sizes that are none, or more than 400 students.
    """
    n, s = need.shape
    if not 1 <= least <= most or many < 1:
        raise Refused("a group has at least one student, and no fewer than its least size")
    if n > MOST:
        raise Refused(f"groups are found for at most {MOST} students at once; choose a class or grade")
    u = np.where(need >= LEAST_NEED, need, 0.0)
    rows, columns = np.nonzero(u)
    without = tuple(int(i) for i in np.flatnonzero(~(u > 0).any(axis=1)))
    if not rows.size:
        return FoundGroups((), (), without)
    k = rows.size
    # x of each need, then y: how many groups a standard has
    a, low, high = [], [], []

    def add(index: Sequence[int], value: Sequence[float], least_sum: float, most_sum: float) -> None:
        a.append((list(index), list(value)))
        low.append(least_sum)
        high.append(most_sum)

    for i in range(n):
        mine = np.flatnonzero(rows == i).tolist()
        if mine:
            add(mine, [1.0] * len(mine), 0, 1)
    for j in range(s):
        mine = np.flatnonzero(columns == j).tolist()
        if mine:
            add([*mine, k + j], [*[1.0] * len(mine), -float(most)], -np.inf, 0)
            add([*mine, k + j], [*[1.0] * len(mine), -float(least)], 0, np.inf)
        else:
            add([k + j], [1.0], 0, 0)
    add(list(range(k, k + s)), [1.0] * s, 0, many)
    at = {(int(i), int(j)): p for p, (i, j) in enumerate(zip(rows, columns, strict=True))}
    for one, other in apart:
        for j in range(s):
            if (one, j) in at and (other, j) in at:
                # of a standard with one group only; a second group takes one of them when members are dealt
                add([at[one, j], at[other, j], k + j], [1.0, 1.0, -1.0], -np.inf, 0)
    entries = [(r, c, v) for r, (index, value) in enumerate(a) for c, v in zip(index, value, strict=True)]
    r, c, v = zip(*entries, strict=True)
    matrix = coo_array((v, (r, c)), shape=(len(a), k + s)).tocsr()
    # a hair less for later standards, so that ties go by the order of the framework
    worth = u[rows, columns] - 1e-7 * columns - 1e-9 * rows
    solved = milp(
        -np.concatenate([worth, np.zeros(s)]),
        constraints=LinearConstraint(matrix, low, high),
        bounds=Bounds(0, np.concatenate([np.ones(k), np.full(s, many)])),
        integrality=np.ones(k + s),
        options={"mip_rel_gap": GAP, "time_limit": SECONDS},
    )
    if solved.x is None:
        return FoundGroups((), tuple(sorted(set(rows.tolist()))), without)
    chosen = solved.x[:k] > 0.5
    count = np.rint(solved.x[k:]).astype(int)
    groups: list[tuple[int, tuple[int, ...]]] = []
    for j in range(s):
        members = sorted(rows[chosen & (columns == j)].tolist(), key=lambda i, j=j: (-u[i, j], i))  # type: ignore[misc]
        if members:
            groups += [(j, tuple(part)) for part in _dealt(members, int(count[j]), least, most, apart)]
    seated = {i for _, part in groups for i in part}
    unmet = tuple(sorted(set(rows.tolist()) - seated))
    return FoundGroups(tuple(groups), unmet, without)


def same_groups(
    labels: Sequence[int],
    strength: FloatArray,
    least: int,
    most: int,
    many: int,
    apart: Sequence[tuple[int, int]] = (),
) -> FoundGroups:
    """Students of one label together, those alike in strength in one group; the largest labels first where groups are few.

    Parameters
    ----------
    labels : Sequence[int]
        Of each student, -1 for none.
    strength : FloatArray
        (students,) the weakest come first.
    least : int
        Fewest students of a group.
    most : int
        Most students.
    many : int
        Most groups.
    apart : Sequence[tuple[int, int]]
        Pairs of students who are not put together.

    Returns
    -------
    FoundGroups
        By the place of the label.

    Raises
    ------
    Refused
        For sizes that are none.
    """
    if not 1 <= least <= most or many < 1:
        raise Refused("a group has at least one student, and no fewer than its least size")
    groups: list[tuple[int, tuple[int, ...]]] = []
    of = {label: [i for i, mine in enumerate(labels) if mine == label] for label in sorted({*labels} - {-1})}
    left = many
    for label, some in sorted(of.items(), key=lambda pair: (-len(pair[1]), pair[0])):
        members = sorted(some, key=lambda i: (float(strength[i]), i))
        count = min(left, -(-len(members) // most), len(members) // least)
        if count < 1:
            continue
        # neighbors in strength, so that a group is of students who are alike
        order = members[: count * most]
        parts = [part.tolist() for part in np.array_split(order, count)]
        if any({a, b} <= set(part) for part in parts for a, b in apart):
            parts = _dealt(order, count, least, most, apart)
        groups += [(label, tuple(part)) for part in parts]
        left -= len(parts)
    groups.sort(key=lambda pair: pair[0])
    seated = {i for _, part in groups for i in part}
    return FoundGroups(
        tuple(groups),
        tuple(i for i, label in enumerate(labels) if label >= 0 and i not in seated),
        tuple(i for i, label in enumerate(labels) if label < 0),
    )


def _dealt(
    members: Sequence[int], count: int, least: int, most: int, apart: Sequence[tuple[int, int]]
) -> list[list[int]]:
    """Members by need in groups of the allowed sizes, needs spread as evenly as may be.

    Where those who are kept apart leave no such groups, whoever of them needs it least gives up the seat, until there are.
    """
    staying = list(members)
    while len(staying) >= least:
        for groups in range(min(count, len(staying) // least), 0, -1):
            if len(staying) <= groups * most and (parts := _parted(staying, groups, least, most, apart)):
                return parts
        paired = {one for pair in apart if set(pair) <= set(staying) for one in pair}
        staying.remove(next(one for one in reversed(staying) if not paired or one in paired))
    return []


def _parted(
    members: Sequence[int], count: int, least: int, most: int, apart: Sequence[tuple[int, int]]
) -> list[list[int]]:
    """Members dealt to groups in turn, so that needs are spread; where a pair is kept apart, the nearest to that. Empty where none can be."""
    n = len(members)
    place = {one: at for at, one in enumerate(members)}
    pairs = [(place[a], place[b]) for a, b in apart if a in place and b in place]
    if not pairs:
        return [list(members[group::count]) for group in range(count)]
    # x of member m in group g at m * count + g
    rules = [np.kron(np.eye(n), np.ones(count)), np.kron(np.ones(n), np.eye(count))]
    low, high = [np.ones(n), np.full(count, float(least))], [np.ones(n), np.full(count, float(most))]
    both = np.zeros((len(pairs), n))
    for at, pair in enumerate(pairs):
        both[at, list(pair)] = 1
    rules.append(np.kron(both, np.eye(count)))
    low.append(np.zeros(len(pairs) * count))
    high.append(np.ones(len(pairs) * count))
    moved = np.array([float(g != m % count) for m in range(n) for g in range(count)])
    solved = milp(
        moved,
        constraints=LinearConstraint(np.vstack(rules), np.concatenate(low), np.concatenate(high)),
        bounds=Bounds(0, 1),
        integrality=np.ones(n * count, dtype=np.int64),
        options={"time_limit": SECONDS},
    )
    if solved.x is None:
        return []
    group = solved.x.reshape(n, count).argmax(axis=1)
    return [[one for at, one in enumerate(members) if group[at] == g] for g in range(count)]
