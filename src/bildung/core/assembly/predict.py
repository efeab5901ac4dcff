"""What a form will do, from what its items did before.

Each item i brings its standard deviation s and its loading l = s·r/√rest (r: with the rest, rest: reliability of the
rest then), so that two items covary by l·l'. Mean, variance and alpha of any form follow. The distribution takes the
true score as normal: an item is got by those beyond its threshold, as the normal ogive of its loading says.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr, ndtri

from bildung.core.assembly.blueprint import Candidate
from bildung.core.data.arrays import FloatArray

NODES = np.linspace(-4, 4, 61)
_DENSITY = np.exp(-(NODES**2) / 2)
WEIGHTS = _DENSITY / _DENSITY.sum()
STEEPEST = 0.95  # a loading above this share of an item's own spread is chance


@dataclass(frozen=True, kw_only=True)
class Predicted:
    """What a form will do, by what its items did.

    Attributes
    ----------
    items : int
        How many.
    known : int
        Items with a history; everything below but points, minutes and counts is of these alone. mean in points,
        with a 95% interval from the items' own; share of the known points 0..1. sd, sem in points.
    points : float
        Most that can be earned.
    known_points : float
        Of these, on items with a history.
    minutes : float
        Time it is thought to take.
    untimed : int
        Items without a time.
    mean : float | None
        Mean.
    mean_ci95 : tuple[float, float] | None
        Interval of the mean, 95%.
    share : float | None
        Mean share of the known points, 0 to 1.
    sd : float | None
        Of totals, in points.
    alpha : float | None
        Of the known items as a test of their own.
    sem : float | None
        Standard error of measurement, in points.
    distribution : tuple[float, ...]
        Probability of each whole number of points.
    unknown : tuple[str, ...]
        Codes.
    depths : tuple[tuple[str, int], ...]
        Items by depth of knowledge.
    used : int
        Items that were sat this year.
    why : dict[str, str]
        Reasons by figure, where one is undefined.
    """

    items: int
    known: int
    points: float
    known_points: float
    minutes: float
    untimed: int
    mean: float | None
    mean_ci95: tuple[float, float] | None
    share: float | None
    sd: float | None
    alpha: float | None
    sem: float | None
    distribution: tuple[float, ...]
    unknown: tuple[str, ...]
    depths: tuple[tuple[str, int], ...]
    used: int
    why: dict[str, str]


def predict(items: Sequence[Candidate]) -> Predicted:
    """What these items will do together.

    Parameters
    ----------
    items : Sequence[Candidate]
        With what each did the last time.

    Returns
    -------
    Predicted
    """
    known = [i for i in items if i.p is not None]
    loaded = [i for i in known if i.sd is not None and i.loading is not None]
    why = {}
    mean = sd = alpha = sem = share = None
    interval = None
    points = sum(i.points for i in known)
    if known:
        mean = sum((i.p or 0) * i.points for i in known)
        error = math.sqrt(sum(((i.p_error or 0) * i.points) ** 2 for i in known))
        interval = (max(0.0, mean - 1.96 * error), min(points, mean + 1.96 * error))
        share = mean / points
    else:
        why["mean"] = "none of its items has been used before"
    if len(loaded) >= 2 and len(loaded) == len(known):
        own = sum((i.sd or 0) ** 2 for i in loaded)
        loadings = np.array([i.loading or 0 for i in loaded])
        variance = own + float(loadings.sum() ** 2 - (loadings**2).sum())
        if variance > 0:
            sd = math.sqrt(variance)
            k = len(loaded)
            alpha = k / (k - 1) * (1 - own / variance)
            sem = sd * math.sqrt(max(0.0, 1 - alpha)) if alpha <= 1 else None
    else:
        why["alpha"] = "it takes two items or more, all with a history"
    return Predicted(
        items=len(items),
        known=len(known),
        points=sum(i.points for i in items),
        known_points=points,
        minutes=sum(i.seconds or 0 for i in items) / 60,
        untimed=sum(i.seconds is None for i in items),
        mean=mean,
        mean_ci95=interval,
        share=share,
        sd=sd,
        alpha=alpha,
        sem=sem,
        distribution=tuple(distribution(loaded)) if sd is not None else (),
        unknown=tuple(i.code for i in items if i.p is None),
        depths=tuple(sorted(Counter(str(i.depth or "not said") for i in items).items())),
        used=sum(i.used > 0 for i in items),
        why=why,
    )


def distribution(items: Sequence[Candidate]) -> FloatArray:
    """Probability of 0, 1, 2 … points (whole ones; halves are rounded by item).

    Items count as independent at a given ability (Lord & Wingersky 1984); an item of several points as so many tries.

    Parameters
    ----------
    items : Sequence[Candidate]
        The items.

    Returns
    -------
    FloatArray
    """
    tries = [max(1, round(i.points)) for i in items]
    total = np.zeros((len(NODES), sum(tries) + 1))
    total[:, 0] = 1
    reached = 0
    for item, n in zip(items, tries, strict=True):
        p = min(max(item.p or 0.0, 0.005), 0.995)
        # the point-biserial with the true score becomes a biserial: how steeply the item rises with ability
        steep = (item.loading or 0.0) / item.points / math.sqrt(p * (1 - p))
        z = float(ndtri(p))
        b = min(
            max(steep * math.sqrt(p * (1 - p)) / (math.exp(-z * z / 2) / math.sqrt(2 * math.pi)), -STEEPEST), STEEPEST
        )
        chance = ndtr((z + b * NODES) / math.sqrt(1 - b * b))
        for _ in range(n):
            new = total[:, : reached + 2] * (1 - chance)[:, None]
            new[:, 1:] += total[:, : reached + 1] * chance[:, None]
            total[:, : reached + 2] = new
            reached += 1
    found: FloatArray = WEIGHTS @ total
    return found


def nearest(item: Candidate, others: Sequence[Candidate], most: int = 8) -> list[tuple[Candidate, str]]:
    """The items most like one, with what differs in words: same standard first, then depth, kind, how hard, time."""
    ranked = []
    for other in others:
        if other.id == item.id or not (set(other.standards) & set(item.standards)):
            continue
        away = (
            4.0 * (other.standard != item.standard)
            + 1.5 * (other.depth != item.depth)
            + 1.0 * (other.kind != item.kind)
            + 2.0 * (other.points != item.points)
            + 3.0 * (other.stimulus != item.stimulus)
            + (
                4.0 * abs(other.p - item.p)
                if other.p is not None and item.p is not None
                else 0.8 * ((other.p is None) != (item.p is None))
            )
            + 0.3 * min(other.used, 3)
            + abs((other.seconds or 60) - (item.seconds or 60)) / 120
        )
        ranked.append((away, other.code, other))
    return [(other, _differs(item, other)) for _, _, other in sorted(ranked, key=lambda r: r[:2])[:most]]


def _differs(item: Candidate, other: Candidate) -> str:
    said = []
    if other.standard != item.standard:
        said.append(f"main standard {other.standard}")
    if other.depth != item.depth:
        said.append(f"depth {other.depth or 'not said'}")
    if other.kind != item.kind:
        said.append(other.kind.replace("_", " "))
    if other.points != item.points:
        said.append(f"{other.points:g} points")
    if other.stimulus != item.stimulus:
        said.append(f"about {other.stimulus}" if other.stimulus else "without a stimulus")
    if other.p is not None and item.p is not None:
        gap = round(100 * (other.p - item.p))
        said.append(
            "as hard" if abs(gap) < 2 else f"{abs(gap)} points of a hundred {'easier' if gap > 0 else 'harder'}"
        )
    elif other.p is None:
        said.append("not used yet")
    if other.used:
        said.append(f"used {'once' if other.used == 1 else f'{other.used} times'} this year")
    return ", ".join(said) or "alike in all that is known"
