"""Totals: points earned and possible per student, and the distinct standings they fall into."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.data.responses import AWAITING, NOT_PRESENTED, ResponseTable


@dataclass(frozen=True, kw_only=True)
class Scores:
    """Totals of the n counted students of a table.

    Attributes
    ----------
    earned : FloatArray
        (n,) points.
    possible : FloatArray
        (n,) points.
    complete : BoolArray
        (n,) True where nothing awaits a score.
    full : BoolArray
        (n,) True where moreover all items were presented.
    level : IntArray
        (n,) place among the distinct (earned, possible, set of items presented) below; level_pattern numbers that
        set.
    level_earned : FloatArray
        (levels,).
    level_possible : FloatArray
        (levels,).
    level_pattern : IntArray
        (levels,).
    one_form : bool
        Whether all complete students were presented the same items.
    """

    earned: FloatArray
    possible: FloatArray
    complete: BoolArray
    full: BoolArray
    level: IntArray
    level_earned: FloatArray
    level_possible: FloatArray
    level_pattern: IntArray
    one_form: bool

    @property
    def levels(self) -> int:
        """How many distinct totals there are."""
        return int(self.level_earned.size)

    @property
    def standing(self) -> FloatArray:
        """What students are ranked by, (levels,): points, or the share of the possible across forms.

        (levels,): what students are ranked by: points, or the share of the possible across forms.

        Returns
        -------
        FloatArray
        """
        return self.level_earned if self.one_form else self.level_earned / self.level_possible


def score(table: ResponseTable) -> Scores:
    """Totals over the items presented. `table` holds counted students only."""
    n = table.n
    earned = np.zeros(n)
    missing = np.zeros(n)
    complete = np.ones(n, dtype=np.bool_)
    gone: dict[int, BoolArray] = {}
    for at, (item, answers) in enumerate(zip(table.items, table.answers, strict=True)):
        codes = answers.codes
        earned += answers.code_points[codes]
        states = np.bincount(codes, minlength=AWAITING + 1)
        if states[AWAITING]:
            complete &= codes != AWAITING
        if states[NOT_PRESENTED]:
            gone[at] = codes == NOT_PRESENTED
            missing[gone[at]] += item.points
    everything = float(sum(item.points for item in table.items))
    possible = everything - missing
    if not gone:
        scale = _whole_scale(earned)
        if scale:
            whole = np.rint(earned * scale).astype(np.int64)
            counts = np.bincount(whole)
            values = np.flatnonzero(counts)
            place = np.zeros(counts.size, dtype=np.int64)
            place[values] = np.arange(values.size)
            level, level_earned = place[whole], values / scale
        else:
            level_earned, level = np.unique(earned, return_inverse=True)
        return Scores(
            earned=earned,
            possible=possible,
            complete=complete,
            full=complete,
            level=level,
            level_earned=level_earned,
            level_possible=np.full(level_earned.size, everything),
            level_pattern=np.zeros(level_earned.size, dtype=np.int64),
            one_form=True,
        )
    sets = np.packbits(np.stack(list(gone.values()), axis=1), axis=1)
    numbers = np.unique(sets, axis=0, return_inverse=True)[1].reshape(-1)
    keys = np.column_stack([earned, possible, numbers.astype(np.float64)])
    distinct, level = np.unique(keys, axis=0, return_inverse=True)
    return Scores(
        earned=earned,
        possible=possible,
        complete=complete,
        full=complete & ~np.any(list(gone.values()), axis=0),
        level=level.reshape(-1).astype(np.int64),
        level_earned=distinct[:, 0],
        level_possible=distinct[:, 1],
        level_pattern=distinct[:, 2].astype(np.int64),
        one_form=np.unique(numbers[complete]).size <= 1,
    )


def _whole_scale(values: FloatArray) -> int:
    """The small multiplier that makes all values whole, or 0 where none does."""
    for scale in (1, 2, 4, 10, 20, 100):
        scaled = values * scale
        if np.all(np.abs(scaled - np.rint(scaled)) < 1e-6):
            return scale
    return 0
