"""Automatic assembly as a mixed-integer program: which item stands on which form, in which part.

Every constraint belongs to a demand that can be named to a person; what no demand owns is the meaning of a form
itself (an item stands in one part of it).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np
from scipy.sparse import csc_matrix

from bildung.core.assembly.blueprint import Candidate, TestBlueprint
from bildung.core.data.arrays import FloatArray

LEAST_THIN = 600
UNSAT = 0.2  # points of deviation that an item without history costs
Slot = tuple[int, int, int]  # candidate, part, form


@dataclass(frozen=True, kw_only=True)
class Demands:
    """What is demanded of forms beside the blueprint.

    Attributes
    ----------
    forms : int
        How many.
    anchor : int
        Items that all of them share, exactly.
    overlap : int
        Most items that two share, anchors among them.
    fixed : tuple[tuple[int, ...], ...]
        Item ids that stand on a form (by form).
    excluded : frozenset[int]
        Ids that stand on none.
    least_r : float | None
        No item that separates less.
    most_used : int | None
        No item sat more often this year.
    once_a_window : bool
        No item that stands on a form of the window already.
    unsat : int | None
        Most items without history on a form; None: as few as the rest allows.
    flagged : bool
        Items with a problem may stand on a form too.
    """

    forms: int = 1
    anchor: int = 0
    overlap: int = 0
    fixed: tuple[tuple[int, ...], ...] = ()
    excluded: frozenset[int] = frozenset()
    least_r: float | None = None
    most_used: int | None = None
    once_a_window: bool = True
    unsat: int | None = None
    flagged: bool = False


@dataclass(frozen=True, kw_only=True)
class Demand:
    """One demand of a program.

    Attributes
    ----------
    says : str
        To a person.
    row : int | None
        Of the blueprint, if it is one.
    total : str
        The total that it bounds, in words.
    needed : float | None
        Counts, where they can be told.
    available : float | None
        Counts, where they can be told.
    soft : bool
        Whether it may be missed.
    """

    says: str
    row: int | None = None
    total: str = ""
    needed: float | None = None
    available: float | None = None
    soft: bool = False


@dataclass(kw_only=True)
class Program:
    """Minimize cost·x subject to low <= A·x <= high. slots: of the first columns; all integers but the last ones."""

    slots: list[Slot]
    integers: int
    cost: FloatArray
    upper: FloatArray
    starts: list[int] = field(default_factory=list)
    columns: list[int] = field(default_factory=list)
    values: list[float] = field(default_factory=list)
    low: list[float] = field(default_factory=list)
    high: list[float] = field(default_factory=list)
    owner: list[int] = field(default_factory=list)
    demands: list[Demand] = field(default_factory=list)

    def add(self, terms: Iterable[tuple[int, float]], low: float, high: float, owner: int) -> None:
        """Add a row: bounds on a weighted sum of columns.

        Parameters
        ----------
        terms : Iterable[tuple[int, float]]
            Column and weight.
        low : float
            The least.
        high : float
            The most.
        owner : int
            Place of the demand that it belongs to.
        """
        self.starts.append(len(self.columns))
        for column, value in terms:
            self.columns.append(column)
            self.values.append(value)
        self.low.append(low)
        self.high.append(high)
        self.owner.append(owner)

    def matrix(self) -> csc_matrix:
        """The rows as one sparse matrix, (rows, columns)."""
        rows = np.repeat(np.arange(len(self.starts)), np.diff([*self.starts, len(self.columns)]))
        return csc_matrix((self.values, (rows, self.columns)), shape=(len(self.starts), len(self.cost)))


def usable(items: Sequence[Candidate], demands: Demands) -> list[Candidate]:
    """The candidates that may stand on a form at all; fixed ones always may."""
    fixed = {id for form in demands.fixed for id in form}
    return [
        item
        for item in items
        if item.id in fixed
        or (
            item.id not in demands.excluded
            and (demands.least_r is None or item.r_rest is None or item.r_rest >= demands.least_r)
            and (demands.most_used is None or item.used <= demands.most_used)
            and not (demands.once_a_window and item.window)
            and (demands.flagged or not item.problem)
        )
    ]


def thinned(blueprint: TestBlueprint, items: Sequence[Candidate], demands: Demands) -> list[Candidate]:
    """Some of many candidates, from easy to hard of each sort, so that a large bank answers as quickly as a small one.

    Forms of these are forms of all; that there are none is only proved with all.

    Parameters
    ----------
    blueprint : TestBlueprint
        What a form is to hold.
    items : Sequence[Candidate]
        The items.
    demands : Demands
        What is demanded beside the blueprint.

    Returns
    -------
    list[Candidate]
    """
    wanted = demands.forms * (blueprint.items[1] if blueprint.items else 40)
    size = max(LEAST_THIN, 4 * wanted)
    if len(items) <= size:
        return list(items)
    fixed = {id for form in demands.fixed for id in form}
    sorts: dict[tuple[object, ...], list[Candidate]] = {}
    sets: dict[str, list[Candidate]] = {}
    kept = [item for item in items if item.id in fixed]
    for item in items:
        if item.stimulus:
            sets.setdefault(item.stimulus, []).append(item)
        elif item.id not in fixed:
            sign = tuple(at for at, row in enumerate(blueprint.rows) if row.fits(item))
            sorts.setdefault((sign, item.points, item.p is None), []).append(item)
    most_sets = demands.forms * (blueprint.sets[1] if blueprint.sets else 3) * 3
    for name in sorted(sets, key=lambda s: (sum(i.used for i in sets[s]), s))[:most_sets]:
        kept += [item for item in sets[name] if item.id not in fixed]
    each = -(-size // max(1, len(sorts)))
    for found in sorts.values():
        least = sorted(found, key=lambda i: (i.used, -(i.loading or 0)))[: 2 * each]
        spread = sorted(least, key=lambda i: (i.p or 0, i.code))
        step = max(1.0, len(spread) / each)
        kept += [spread[int(at * step)] for at in range(min(each, len(spread)))]
    return kept


def build(blueprint: TestBlueprint, items: Sequence[Candidate], demands: Demands) -> Program:
    """The program whose objective is the largest deviation over forms, in points: of the predicted mean from its target (or from the common one, where no target is set) and of the sum of p·(1 - p), which keeps spreads alike."""
    forms = range(demands.forms)
    parts = [_parts_of(blueprint, item) for item in items]
    fixed = {id for form in demands.fixed for id in form}
    slots: list[Slot] = []
    for j, item in enumerate(items):
        mine = parts[j] or ([0] if item.id in fixed else [])
        slots += [(j, part, f) for part in mine for f in forms]
    at: dict[tuple[int, int], list[int]] = {}
    for column, (j, _, f) in enumerate(slots):
        at.setdefault((j, f), []).append(column)
    chosen = sorted({j for j, _, _ in slots})
    sets = sorted({items[j].stimulus for j in chosen if items[j].stimulus})
    use_sets = {(s, f): len(slots) + n for n, (s, f) in enumerate((s, f) for s in sets for f in forms)}
    anchors = (
        {j: len(slots) + len(use_sets) + n for n, j in enumerate(chosen)}
        if demands.forms > 1 and demands.anchor
        else {}
    )
    pairs: dict[tuple[int, int, int], int] = {}
    base = len(slots) + len(use_sets) + len(anchors)
    loose = demands.forms > 1 and demands.overlap > demands.anchor
    if loose:
        pairs = {
            (j, f, g): base + n
            for n, (j, f, g) in enumerate((j, f, g) for j in chosen for f, g in combinations(forms, 2))
        }
    integers = base + len(pairs)
    means, spreads, worst = integers, integers + 1, integers + 2
    width = integers + 3
    cost, upper = np.zeros(width), np.ones(width)
    cost[worst], upper[[means, spreads, worst]] = 1.0, np.inf
    if demands.unsat is None:
        # without a history there is nothing to be alike in: an item that was sat is worth a little deviation
        for column, (j, _, _) in enumerate(slots):
            cost[column] = UNSAT if items[j].p is None else 0.0
    program = Program(slots=slots, integers=integers, cost=cost, upper=upper)
    _own(program, blueprint, items, demands, at, parts)
    _stimuli(program, blueprint, items, chosen, use_sets, at, forms)
    _apart(program, items, chosen, at, forms)
    _shared(program, items, chosen, demands, at, anchors, pairs, loose)
    _difficulty(program, blueprint, items, at, forms, means, spreads, worst)
    return program


def _parts_of(blueprint: TestBlueprint, item: Candidate) -> list[int]:
    if not blueprint.rows:
        return [0]
    return sorted({row.part for row in blueprint.rows if row.fits(item)})


def _own(
    program: Program,
    blueprint: TestBlueprint,
    items: Sequence[Candidate],
    demands: Demands,
    at: dict[tuple[int, int], list[int]],
    parts: list[list[int]],
) -> None:
    """What each form holds by itself."""
    forms = range(demands.forms)
    sharing = max(demands.anchor, demands.overlap) * (demands.forms - 1)
    for j, mine in enumerate(parts):
        if len(mine) > 1:
            for f in forms:
                program.add(((c, 1.0) for c in at[j, f]), 0, 1, -1)
    for place, row in enumerate(blueprint.rows):
        fitting = [item for item in items if row.fits(item)]
        owner = len(program.demands)
        program.demands.append(
            Demand(
                says=f"{_range(row.low, row.high)} {row.count} of {row.says}"
                + (f" in {blueprint.parts[row.part].name}" if len(blueprint.parts) > 1 else ""),
                row=place,
                total="",
                needed=max(row.low, row.low * demands.forms - (sharing if row.count == "items" else 0)),
                available=sum(row.weight(i) for i in fitting),
                soft=True,
            )
        )
        for f in forms:
            terms = [
                (c, row.weight(items[j]))
                for c, (j, part, g) in enumerate(program.slots)
                if g == f and part == row.part and row.fits(items[j])
            ]
            program.add(terms, row.low, row.high, owner)
    totals = (
        ("items", blueprint.items, [1.0 for _ in items]),
        ("points", blueprint.points, [item.points for item in items]),
        ("minutes", blueprint.minutes, [(item.seconds or 0) / 60 for item in items]),
    )
    for name, bounds, weight in totals:
        if bounds is None:
            continue
        owner = len(program.demands)
        needed = bounds[0] * demands.forms - (sharing if name == "items" else 0)
        program.demands.append(
            Demand(
                says=f"{_range(*bounds)} {name} in all",
                row=None,
                total=name,
                needed=max(bounds[0], needed),
                available=sum(weight),
                soft=True,
            )
        )
        for f in forms:
            terms = [(c, weight[j]) for c, (j, _, g) in enumerate(program.slots) if g == f]
            program.add(terms, bounds[0], bounds[1], owner)
    if demands.unsat is not None:
        owner = len(program.demands)
        program.demands.append(
            Demand(
                says=f"at most {demands.unsat} items without history on a form",
                row=None,
                total="unsat",
                needed=None,
                available=None,
                soft=True,
            )
        )
        for f in forms:
            terms = [(c, 1.0) for c, (j, _, g) in enumerate(program.slots) if g == f and items[j].p is None]
            program.add(terms, 0, demands.unsat, owner)
    place_of = {item.id: j for j, item in enumerate(items)}
    if any(demands.fixed):
        owner = len(program.demands)
        program.demands.append(Demand(says=f"the {sum(map(len, demands.fixed))} items you fixed"))
        for f, ids in enumerate(demands.fixed):
            for id in ids:
                if id in place_of:
                    program.add([(c, 1.0) for c in at[place_of[id], f]], 1, 1, owner)


def _stimuli(
    program: Program,
    blueprint: TestBlueprint,
    items: Sequence[Candidate],
    chosen: list[int],
    use_sets: dict[tuple[str, int], int],
    at: dict[tuple[int, int], list[int]],
    forms: range,
) -> None:
    if not use_sets:
        return
    by_set: dict[str, list[int]] = {}
    for j in chosen:
        if items[j].stimulus:
            by_set.setdefault(items[j].stimulus, []).append(j)
    owner = len(program.demands)
    whole = blueprint.set_low == 0
    size = "whole" if whole else f"with {_range(blueprint.set_low, blueprint.set_high)} items"
    program.demands.append(Demand(says=f"stimuli {size}"))
    for (name, f), used in use_sets.items():
        members = [c for j in by_set[name] for c in at[j, f]]
        low = len(by_set[name]) if whole else blueprint.set_low
        high = len(by_set[name]) if whole else blueprint.set_high
        program.add([*((c, 1.0) for c in members), (used, -float(low))], 0, np.inf, owner)
        program.add([*((c, 1.0) for c in members), (used, -float(high))], -np.inf, 0, owner)
    if blueprint.sets is not None:
        owner = len(program.demands)
        program.demands.append(
            Demand(
                says=f"{_range(*blueprint.sets)} stimuli",
                row=None,
                total="sets",
                needed=float(blueprint.sets[0]),
                available=float(len(by_set)),
                soft=True,
            )
        )
        for f in forms:
            program.add([(c, 1.0) for (_, g), c in use_sets.items() if g == f], *blueprint.sets, owner)


def _apart(
    program: Program, items: Sequence[Candidate], chosen: list[int], at: dict[tuple[int, int], list[int]], forms: range
) -> None:
    place = {items[j].id: j for j in chosen}
    pairs = [(j, place[e]) for j in chosen for e in items[j].enemies if e in place and items[j].id < e]
    if pairs:
        owner = len(program.demands)
        program.demands.append(Demand(says=f"{len(pairs)} {'pair' if len(pairs) == 1 else 'pairs'} of enemy items"))
        for a, b in pairs:
            for f in forms:
                program.add([(c, 1.0) for c in (*at[a, f], *at[b, f])], 0, 1, owner)


def _shared(
    program: Program,
    items: Sequence[Candidate],
    chosen: list[int],
    demands: Demands,
    at: dict[tuple[int, int], list[int]],
    anchors: dict[int, int],
    pairs: dict[tuple[int, int, int], int],
    loose: bool,
) -> None:
    if demands.forms < 2:
        return
    forms = range(demands.forms)
    owner = len(program.demands)
    program.demands.append(Demand(says="as many items and points on every form"))
    for weight in ([1.0] * len(items), [item.points for item in items]):
        for f in forms[1:]:
            mine = [(c, weight[j]) for j in chosen for c in at[j, f]]
            program.add([*mine, *((c, -weight[j]) for j in chosen for c in at[j, 0])], 0, 0, owner)
        if len({item.points for item in items}) == 1:
            break  # the same rows again
    owner += 1
    often = (
        f"at most {demands.overlap} items on two forms"
        if loose
        else "no item on two forms"
        if not anchors
        else "no other item on two forms"
    )
    if anchors:
        program.demands.append(Demand(says=f"{demands.anchor} items that all forms share", row=None, total="anchor"))
        program.add([(c, 1.0) for c in anchors.values()], demands.anchor, demands.anchor, owner)
        for j, a in anchors.items():
            for f in forms:
                program.add([*((c, 1.0) for c in at[j, f]), (a, -1.0)], 0, np.inf, owner)
        owner += 1
    program.demands.append(Demand(says=often))
    if not loose:
        for j in chosen:
            columns = [(c, 1.0) for f in forms for c in at[j, f]]
            if j in anchors:
                columns.append((anchors[j], -float(demands.forms - 1)))
            program.add(columns, -np.inf, 1, owner)
        return
    for (j, f, g), both in pairs.items():
        program.add([*((c, 1.0) for c in (*at[j, f], *at[j, g])), (both, -1.0)], -np.inf, 1, owner)
    for f, g in combinations(forms, 2):
        program.add([(both, 1.0) for (_, a, b), both in pairs.items() if (a, b) == (f, g)], 0, demands.overlap, owner)


def _difficulty(
    program: Program,
    blueprint: TestBlueprint,
    items: Sequence[Candidate],
    at: dict[tuple[int, int], list[int]],
    forms: range,
    means: int,
    spreads: int,
    worst: int,
) -> None:
    """Owned by no demand: a deviation can always grow, so these never make a blueprint impossible."""
    for f in forms:
        for center, figure in ((means, _mean), (spreads, _spread)):
            terms = [(c, figure(items[j])) for j in range(len(items)) for c in at.get((j, f), [])]
            if blueprint.target is not None and center == means:
                # of the points whose share is known: Σ points·(p - target)
                goal = blueprint.target
                terms = [
                    (c, items[j].points * (p - goal))
                    for j in range(len(items))
                    if (p := items[j].p) is not None
                    for c in at.get((j, f), [])
                ]
                program.add([*terms, (worst, -1.0)], -np.inf, 0, -1)
                program.add([*terms, (worst, 1.0)], 0, np.inf, -1)
                continue
            if len(forms) < 2:
                continue
            program.add([*terms, (center, -1.0), (worst, -1.0)], -np.inf, 0, -1)
            program.add([*terms, (center, -1.0), (worst, 1.0)], 0, np.inf, -1)


def _mean(item: Candidate) -> float:
    return 0.0 if item.p is None else item.points * item.p


def _spread(item: Candidate) -> float:
    return 0.0 if item.p is None else item.points * item.p * (1 - item.p)


def _range(low: float, high: float) -> str:
    return f"{low:g}" if low == high else f"{low:g} to {high:g}"
