"""One or several forms from a bank by a blueprint; or which demands collide, and the nearest that can be met."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from bildung.core.assembly.blueprint import Candidate, Held, TestBlueprint, check, held
from bildung.core.assembly.predict import Predicted, predict
from bildung.core.assembly.program import Demand, Demands, Program, build, thinned, usable
from bildung.core.assembly.solve import Solution, solve
from bildung.core.errors import Refused

MOST_FORMS = 8
SECONDS = 20.0
Tell = Callable[[str, float, float], None]


@dataclass(frozen=True)
class Assembled:
    """One form that was assembled.

    Attributes
    ----------
    placed : tuple[tuple[int, int], ...]
        Ids of the items in their order with the part of each.
    predicted : Predicted
        What it will do.
    held : tuple[Held, ...]
        What the blueprint wants and this has.
    """

    placed: tuple[tuple[int, int], ...]
    predicted: Predicted
    held: tuple[Held, ...]


@dataclass(frozen=True, kw_only=True)
class Collision:
    """Demands that cannot be met together.

    Attributes
    ----------
    demands : tuple[Demand, ...]
        That cannot be met together.
    irreducible : bool
        Taking away any one of them would make it possible (proved); otherwise the time was over before all were
        tried.
    nearest : TestBlueprint | None
        a blueprint that can be met, with what was given up.
    nearest_demands : Demands | None
        The demands that go with it.
    gives_up : tuple[str, ...]
        What it gives up, in words.
    """

    demands: tuple[Demand, ...]
    irreducible: bool
    nearest: TestBlueprint | None
    nearest_demands: Demands | None
    gives_up: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Assembly:
    """Forms that were proposed, or why there are none.

    Attributes
    ----------
    forms : tuple[Assembled, ...]
        The forms.
    deviation : float
        The largest over the forms, in points, as `program.build` defines it.
    bound : float
        No forms could have less than this.
    spread_of_means : float | None
        The highest less the lowest predicted mean.
    common : tuple[int, ...]
        Ids on all forms.
    candidates : int
        Items that might have been chosen.
    collision : Collision | None
        Why there are none.
    """

    forms: tuple[Assembled, ...]
    deviation: float
    bound: float
    spread_of_means: float | None
    common: tuple[int, ...]
    candidates: int
    collision: Collision | None


def assemble(
    blueprint: TestBlueprint,
    items: Sequence[Candidate],
    demands: Demands = Demands(),
    seconds: float = SECONDS,
    tell: Tell | None = None,
) -> Assembly:
    """Refused where the blueprint contradicts itself. Otherwise forms, or the collision that forbids them."""
    check(blueprint)
    if not 1 <= demands.forms <= MOST_FORMS:
        raise Refused(f"forms: 1 to {MOST_FORMS} at once")
    if demands.anchor and demands.overlap and demands.overlap < demands.anchor:
        raise Refused(f"two forms share the {demands.anchor} anchor items already; the overlap cannot be less")
    pool = usable(items, demands)
    known = {item.id for item in pool}
    for form in demands.fixed:
        lost = next((id for id in form if id not in known), None)
        if lost is not None:
            raise Refused(f"item {lost} is fixed, but cannot be used any more")
    say = tell or (lambda what, best, bound: None)
    say("looking for forms", np.inf, 0.0)
    some = thinned(blueprint, pool, demands)
    began = time.monotonic()
    if len(some) < len(pool):
        program = build(blueprint, some, demands)
        found = solve(program, seconds / 2, lambda best, bound: say("looking for forms", best, bound))
        if found.values is not None:
            # no deviation is below nothing: for the whole bank that is the bound
            return _read(blueprint, some, demands, program, replace(found, bound=0.0), len(pool))
    program = build(blueprint, pool, demands)
    left = max(5.0, seconds - (time.monotonic() - began))
    found = solve(program, left, lambda best, bound: say("looking for forms", best, bound))
    if found.values is None:
        if not found.sure:
            raise Refused(
                f"no forms were found in {seconds:g} s, and it is not proved that there are none; give it more time or ask for less"
            )
        collision = collide(blueprint, pool, demands, program, say)
        return Assembly(
            forms=(),
            deviation=np.inf,
            bound=np.inf,
            spread_of_means=None,
            common=(),
            candidates=len(pool),
            collision=collision,
        )
    return _read(blueprint, pool, demands, program, found, len(pool))


def _read(
    blueprint: TestBlueprint,
    pool: Sequence[Candidate],
    demands: Demands,
    program: Program,
    found: Solution,
    candidates: int,
) -> Assembly:
    assert found.values is not None
    chosen: list[list[tuple[Candidate, int]]] = [[] for _ in range(demands.forms)]
    for column, (j, part, f) in enumerate(program.slots):
        if found.values[column] > 0.5:
            chosen[f].append((pool[j], part))
    forms = []
    for placed in chosen:
        ordered = in_order(blueprint, placed)
        forms.append(
            Assembled(
                tuple((i.id, part) for i, part in ordered), predict([i for i, _ in ordered]), held(blueprint, ordered)
            )
        )
    means = [form.predicted.mean for form in forms if form.predicted.mean is not None]
    on_all = set.intersection(*({id for id, _ in form.placed} for form in forms)) if len(forms) > 1 else set[int]()
    deviation = float(found.values[program.integers + 2])
    # where sat items were preferred the solver's bound is of both together: of the deviation alone it proves nothing
    bound = 0.0 if demands.unsat is None and any(item.p is None for item in pool) else min(found.bound, deviation)
    return Assembly(
        forms=tuple(forms),
        deviation=deviation,
        bound=bound,
        spread_of_means=max(means) - min(means) if means else None,
        common=tuple(sorted(on_all)),
        candidates=candidates,
        collision=None,
    )


def in_order(blueprint: TestBlueprint, placed: Sequence[tuple[Candidate, int]]) -> list[tuple[Candidate, int]]:
    """Part by part; in a part by the blueprint's rows, those of one stimulus together, the easier first."""

    def row_of(item: Candidate, part: int) -> int:
        return next(
            (at for at, row in enumerate(blueprint.rows) if row.part == part and row.fits(item)), len(blueprint.rows)
        )

    first: dict[tuple[int, str], int] = {}
    for item, part in placed:
        if item.stimulus:
            key = (part, item.stimulus)
            first[key] = min(first.get(key, len(blueprint.rows)), row_of(item, part))
    return sorted(
        placed,
        key=lambda at: (
            at[1],
            first.get((at[1], at[0].stimulus), row_of(*at)),
            at[0].stimulus,
            -(at[0].p if at[0].p is not None else 0.5),
            at[0].code,
        ),
    )


def collide(
    blueprint: TestBlueprint, pool: Sequence[Candidate], demands: Demands, program: Program, say: Tell
) -> Collision:
    """The demands that collide, found by leaving out one after another (Chinneck & Dravnieks 1991): what stays impossible without one does not need it.

    By leaving demands out one after another (Chinneck & Dravnieks 1991): what stays impossible without one does not need
    it for its collision.

    Parameters
    ----------
    blueprint : TestBlueprint
        What a form is to hold.
    pool : Sequence[Candidate]
        Items that may be chosen.
    demands : Demands
        What is demanded beside the blueprint.
    program : Program
        The program whose demands collide.
    say : Tell
        Told how far it is.

    Returns
    -------
    Collision
    """
    single = (
        demands.forms > 1
        and _impossible(one := build(blueprint, pool, replace(demands, forms=1, anchor=0, overlap=0, fixed=()))) is True
    )
    if single:
        program = one  # already one form cannot be made: say so without the others
    order = sorted(range(len(program.demands)), key=lambda at: _short(program.demands[at]))
    gone: set[int] = set()
    sure = True
    for n, at in enumerate(order):
        say(f"finding out what collides, {n} of {len(order)}", np.inf, 0.0)
        answer = _impossible(program, gone | {at})
        if answer is True:
            gone.add(at)
        elif answer is None:
            sure = False
    kept = tuple(program.demands[at] for at in range(len(program.demands)) if at not in gone)
    say("finding the nearest that can be met", np.inf, 0.0)
    nearest, wanted, gives_up = _nearest(blueprint, pool, demands)
    return Collision(demands=kept, irreducible=sure, nearest=nearest, nearest_demands=wanted, gives_up=gives_up)


def _short(demand: Demand) -> bool:
    """Demands that want more than there is are tried last, so that they stay."""
    return demand.needed is not None and demand.available is not None and demand.needed > demand.available


def _impossible(program: Program, without: set[int] = frozenset()) -> bool | None:  # type: ignore[assignment]
    """True or False where proved, None where the time was over. Asked without whole items first, which is quicker."""
    loose = solve(program, 5, None, without, relaxed=True, any_will_do=True)
    if loose.values is None and loose.sure:
        return True
    whole = solve(program, 5, None, without, any_will_do=True)
    return None if whole.values is None and not whole.sure else whole.values is None


def _nearest(
    blueprint: TestBlueprint, pool: Sequence[Candidate], demands: Demands
) -> tuple[TestBlueprint | None, Demands | None, tuple[str, ...]]:
    """Every soft demand may be missed at a price; the least total price shows what to give up."""
    program = build(blueprint, pool, demands)
    soft = [at for at, demand in enumerate(program.demands) if demand.soft]
    width = len(program.cost)
    rows = [(r, owner) for r, owner in enumerate(program.owner) if owner in set(soft)]
    ends = [*program.starts[1:], len(program.columns)]
    slack: dict[tuple[int, str], int] = {}
    columns, values, starts = list[int](), list[float](), list[int]()
    for r, owner in enumerate(program.owner):
        starts.append(len(columns))
        columns += program.columns[program.starts[r] : ends[r]]
        values += program.values[program.starts[r] : ends[r]]
        if owner in set(soft):
            # one slack for all forms: the blueprint that is offered is the same for each
            for side, sign in (("less", 1.0), ("more", -1.0)):
                column = slack.setdefault((owner, side), width + len(slack))
                columns.append(column)
                values.append(sign)
    price = np.concatenate([np.zeros(width), np.ones(len(slack))])
    for (owner, _), column in slack.items():
        if program.demands[owner].total == "minutes":
            price[column] = 0.25
    elastic = replace(
        program,
        cost=price,
        upper=np.concatenate([program.upper, np.full(len(slack), np.inf)]),
        starts=starts,
        columns=columns,
        values=values,
    )
    assert rows
    found = solve(elastic, 10)
    if found.values is None:
        return None, None, ()
    changed, wanted, said = list(blueprint.rows), demands, []
    totals: dict[str, tuple[float, float]] = {}
    for owner in soft:
        demand = program.demands[owner]
        less = _round(found.values[slack[owner, "less"]])
        more = _round(found.values[slack[owner, "more"]])
        if not less and not more:
            continue
        if demand.row is not None:
            row = changed[demand.row]
            changed[demand.row] = replace(row, low=max(0.0, row.low - less), high=row.high + more)
            said.append(
                f"{row.says}: {_ranged(changed[demand.row].low, changed[demand.row].high)} instead of {_ranged(row.low, row.high)} {row.count}"
            )
        elif demand.total == "unsat":
            wanted = replace(wanted, unsat=int((wanted.unsat or 0) + more))
            said.append(f"{wanted.unsat} items without history instead of {demands.unsat}")
        else:
            bounds = getattr(blueprint, demand.total)
            totals[demand.total] = (max(0.0, bounds[0] - less), bounds[1] + more)
            said.append(f"{demand.total}: {_ranged(*totals[demand.total])} instead of {_ranged(*bounds)}")
    numbers = {
        name: (int(low), int(high)) if name in ("items", "sets") else (low, high)
        for name, (low, high) in totals.items()
    }
    return replace(blueprint, rows=tuple(changed), **numbers), wanted, tuple(said)  # type: ignore[arg-type]


def _round(value: float) -> float:
    """A slack as it can be promised: never less than was used."""
    return 0.0 if value < 1e-6 else float(np.ceil(value * 4 - 1e-6) / 4)


def _ranged(low: float, high: float) -> str:
    return f"{low:g}" if low == high else f"{low:g} to {high:g}"
