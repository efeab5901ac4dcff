"""Every pair of scorers on the responses that both scored: points by the rubric, and condition codes apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.agreement.agreement import Agreement, agreement
from bildung.core.scoring.settled import GivenScore


@dataclass(frozen=True, kw_only=True)
class PairAgreement:
    """Two scorers. Who settles knows what others gave, so that is in no figure.

    Attributes
    ----------
    first : int
        One of them, as the caller numbers them.
    second : int
        The other.
    n : int
        Responses that both scored by the rubric.
    found : Agreement | None
        On these; None where there are none, or where points are not whole.
    codes : int
        Responses to which either gave a condition code.
    codes_alike : int
        Of these, how many both gave the same.
    """

    first: int
    second: int
    n: int
    found: Agreement | None
    codes: int
    codes_alike: int


def in_pairs(given: Sequence[Mapping[int, GivenScore]]) -> list[PairAgreement]:
    """How far scorers agree, two at a time.

    Parameters
    ----------
    given : Sequence[Mapping[int, GivenScore]]
        By response what each scorer gave it.

    Returns
    -------
    list[PairAgreement]
        Of every two who have a response in common, by their numbers.
    """
    blind = [{scorer: score for scorer, score in one.items() if not score.final} for one in given]
    scorers = sorted({scorer for one in blind for scorer in one})
    found = []
    for at, first in enumerate(scorers):
        for second in scorers[at + 1 :]:
            both = [(one[first], one[second]) for one in blind if first in one and second in one]
            if both:
                found.append(_pair(first, second, both))
    return found


def _pair(first: int, second: int, both: Sequence[tuple[GivenScore, GivenScore]]) -> PairAgreement:
    coded = [(a, b) for a, b in both if a.code or b.code]
    points = np.array([(a.points, b.points) for a, b in both if not a.code and not b.code]).reshape(-1, 2)
    whole = points.size > 0 and bool(np.all(points == np.rint(points)))
    told = points.astype(np.int64)
    return PairAgreement(
        first=first,
        second=second,
        n=len(points),
        found=agreement(told[:, 0], told[:, 1], int(told.max()) + 1) if whole else None,
        codes=len(coded),
        codes_alike=sum(a.code == b.code for a, b in coded),
    )
