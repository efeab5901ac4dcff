"""Drawn tests: so many items of each heap, by a recorded seed, no draw harder or easier than a limit allows."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import chain

from bildung.core.assembly.blueprint import Candidate
from bildung.core.errors import Refused

TRIES = 400
SEEDS = 500


@dataclass(frozen=True)
class Heap:
    """Some of these items are drawn.

    count of these items are drawn.

    Attributes
    ----------
    name : str
        What they have in common.
    count : int
        How many are drawn.
    items : tuple[Candidate, ...]
        From which.
    """

    name: str
    count: int
    items: tuple[Candidate, ...]


@dataclass(frozen=True)
class Drawn:
    """One student's draw.

    Attributes
    ----------
    items : tuple[int, ...]
        Heap by heap.
    share : float | None
        Predicted mean share of the points, None where an item has no history.
    within : bool
        Whether it lies within the limit.
    """

    items: tuple[int, ...]
    share: float | None
    within: bool


@dataclass(frozen=True, kw_only=True)
class DrawOutlook:
    """What draws will be like, over many seeds.

    Over many seeds: target is the pool's predicted share; shares of the draws, sorted.

    Attributes
    ----------
    target : float | None
        Predicted share of the whole pool.
    shares : tuple[float, ...]
        Of the draws, sorted.
    kept : float | None
        Share of plain random draws that lie within the limit.
    unknown : int
        Pool items without history.
    count : int
        How many seeds were tried.
    """

    target: float | None
    shares: tuple[float, ...]
    kept: float | None
    unknown: int
    count: int


def check_heaps(heaps: Sequence[Heap]) -> None:
    """Refused where a draw is impossible or is none."""
    if not heaps:
        raise Refused("a drawn test needs a pool of items")
    short = next((h for h in heaps if h.count > len(h.items)), None)
    if short is not None:
        raise Refused(
            f"{short.name or 'the pool'} has {len(short.items)} items, fewer than the {short.count} to be drawn"
        )
    if not any(h.count for h in heaps):
        raise Refused("nothing is drawn: say how many items of each")


def target_of(heaps: Sequence[Heap]) -> float | None:
    """The predicted share of a draw on average: each heap's mean points weigh as many times as are drawn of it."""
    got = most = 0.0
    for heap in heaps:
        known = [i for i in heap.items if i.p is not None]
        if len(known) < len(heap.items):
            return None
        weight = heap.count / len(heap.items)
        got += weight * sum(_got(i) for i in known)
        most += weight * sum(i.points for i in known)
    return got / most if most else None


def draw(heaps: Sequence[Heap], seed: int, limit: float | None) -> Drawn:
    """One student's items.

    Parameters
    ----------
    heaps : Sequence[Heap]
        What is drawn from.
    seed : int
        The same seed, heaps and limit give the same items.
    limit : float | None
        Largest distance of the predicted share from the pool's; of draws that keep it one is drawn at random. Where
        none of many does, the nearest is taken and `within` says so. The same seed, heaps and limit give the same
        items.

    Returns
    -------
    Drawn
    """
    check_heaps(heaps)
    rng = random.Random(seed)
    target = target_of(heaps)
    best: tuple[float, tuple[Candidate, ...]] | None = None
    for _ in range(TRIES):
        chosen = tuple(chain.from_iterable(rng.sample(heap.items, heap.count) for heap in heaps))
        if _fight(chosen):
            continue
        if target is None or limit is None:
            return Drawn(_ordered(heaps, chosen), _share(chosen), limit is None)
        off = abs((_share(chosen) or 0.0) - target)
        if off <= limit + 1e-12:
            return Drawn(_ordered(heaps, chosen), _share(chosen), True)
        if best is None or off < best[0]:
            best = off, chosen
    if best is None:
        raise Refused("items that are kept apart leave no draw; take some of them out of the pool")
    return Drawn(_ordered(heaps, best[1]), _share(best[1]), False)


def outlook(heaps: Sequence[Heap], limit: float | None, seeds: int = SEEDS) -> DrawOutlook:
    """What draws of this pool are like."""
    check_heaps(heaps)
    target = target_of(heaps)
    unknown = sum(i.p is None for heap in heaps for i in heap.items)
    if target is None:
        return DrawOutlook(target=None, shares=(), kept=None, unknown=unknown, count=sum(h.count for h in heaps))
    free = [draw(heaps, seed, None).share or 0.0 for seed in range(seeds)]
    held = free if limit is None else [draw(heaps, seed, limit).share or 0.0 for seed in range(seeds)]
    kept = None if limit is None else sum(abs(s - target) <= limit + 1e-12 for s in free) / seeds
    return DrawOutlook(
        target=target, shares=tuple(sorted(held)), kept=kept, unknown=unknown, count=sum(h.count for h in heaps)
    )


def _got(item: Candidate) -> float:
    return (item.p or 0.0) * item.points


def _share(chosen: Sequence[Candidate]) -> float | None:
    if any(i.p is None for i in chosen):
        return None
    most = sum(i.points for i in chosen)
    return sum(_got(i) for i in chosen) / most if most else None


def _fight(chosen: Sequence[Candidate]) -> bool:
    ids = {i.id for i in chosen}
    return any(i.enemies & ids for i in chosen)


def _ordered(heaps: Sequence[Heap], chosen: Sequence[Candidate]) -> tuple[int, ...]:
    ids = {i.id for i in chosen}
    return tuple(i.id for heap in heaps for i in heap.items if i.id in ids)
