"""One count feeds all statistics of an item: its answers by the students' standing.

Rows are answers (states first), columns the distinct standings of `Scores`. Every figure of an
item that involves the total is a weighted sum over this small table, whatever the number of
students.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from bildung.core.classical.scores import Scores
from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.data.responses import AWAITING, FIRST, NOT_PRESENTED, NOT_REACHED, Answers, ItemColumn

OTHER = "other"


@dataclass(frozen=True, kw_only=True)
class Joint:
    """Counts of one item's answers by score.

    Attributes
    ----------
    item : ItemColumn
        The item.
    labels : tuple[str, ...]
        One per row after the states; the last `merged` rows each stand for several answers.
    points : FloatArray
        (rows,) points earned by row.
    counts : IntArray
        (rows, levels), students with a total.
    everybody : IntArray
        (rows,), all counted students, those with a response that awaits a score included.
    scores : Scores
        Totals of the students.
    same_items : bool
        Whether everybody behind `counts` who reached the item was presented the same items, so that rest scores are
        points.
    merged : int
        How many rows at the end stand for several answers.
    """

    item: ItemColumn
    labels: tuple[str, ...]
    points: FloatArray
    counts: IntArray
    everybody: IntArray
    scores: Scores
    same_items: bool
    merged: int = 0

    @property
    def reached_rows(self) -> BoolArray:
        """Which rows count as having met the item, with a known score, (rows,).

        (rows,): rows that count as having met the item, with a known score.

        Returns
        -------
        BoolArray
        """
        rows = np.ones(self.points.size, dtype=np.bool_)
        rows[[NOT_REACHED, NOT_PRESENTED, AWAITING]] = False
        return rows

    @cached_property
    def weights(self) -> FloatArray:
        """Students with a total who reached the item and have a rest score, (rows, levels).

        (rows, levels): students with a total who reached the item and have a rest score.

        Returns
        -------
        FloatArray
        """
        weights = np.where(self.reached_rows[:, None], self.counts, 0).astype(np.float64)
        if not self.same_items:
            weights[:, self.scores.level_possible <= self.item.points] = 0.0
        return weights

    @cached_property
    def rest(self) -> FloatArray:
        """Rest score, (rows, levels): points, or the share of the other points where forms differ.

        (rows, levels): rest score; the share of the other points where forms differ.

        Returns
        -------
        FloatArray
        """
        rest: FloatArray = self.scores.level_earned[None, :] - self.points[:, None]
        if self.same_items:
            return rest
        others = self.scores.level_possible - self.item.points
        return rest / np.where(others > 0, others, 1.0)[None, :]

    @property
    def n_r(self) -> int:
        """How many have a rest score."""
        return int(self.weights.sum())


def joint(item: ItemColumn, answers: Answers, scores: Scores, keep: int) -> Joint:
    """Count an item.

    Beyond the `keep` most frequent distinct written answers the rest become rows "other", one for each number of points,
    so that no figure of the item itself loses anything.

    Parameters
    ----------
    item : ItemColumn
        The item.
    answers : Answers
        Answers to the items.
    scores : Scores
        Totals of the students.
    keep : int
        How many distinct answers keep a row.

    Returns
    -------
    Joint
    """
    codes = answers.codes.astype(np.int64)
    rows, labels, points = _rows(item, answers, codes, keep)
    if rows is not None:
        codes = rows[codes]
    size, levels = FIRST + len(labels), scores.levels
    cells = codes * levels + scores.level
    if scores.complete.all():
        counts = np.bincount(cells, minlength=size * levels).reshape(size, levels)
        everybody = counts.sum(axis=1)
    else:
        counts = np.bincount(cells[scores.complete], minlength=size * levels).reshape(size, levels)
        everybody = np.bincount(codes, minlength=size)
    same = scores.one_form
    if not same:
        met = np.ones(size, dtype=np.bool_)
        met[[NOT_REACHED, NOT_PRESENTED, AWAITING]] = False
        same = np.unique(scores.level_pattern[counts[met].sum(axis=0) > 0]).size <= 1
    return Joint(
        item=item,
        labels=labels,
        points=points,
        counts=counts,
        everybody=everybody,
        scores=scores,
        same_items=same,
        merged=0 if rows is None else len(labels) - keep,
    )


def _rows(
    item: ItemColumn, answers: Answers, codes: IntArray, keep: int
) -> tuple[IntArray | None, tuple[str, ...], FloatArray]:
    """Which row each code goes to (None: its own), the rows' labels and points."""
    own = answers.code_points
    if item.kind in ("choice", "multiple", "points") or len(answers.labels) <= keep:
        return None, answers.labels, own
    frequency = np.bincount(codes, minlength=own.size)[FIRST:]
    # ties by the answer itself, so that the order of rows in a file does not matter
    order = sorted(range(len(answers.labels)), key=lambda at: (-frequency[at], answers.labels[at]))
    kept = order[:keep]
    rest = sorted({float(answers.points[at]) for at in order[keep:]})
    rows = np.arange(own.size)
    for row, at in enumerate(kept):
        rows[FIRST + at] = FIRST + row
    for at in order[keep:]:
        rows[FIRST + at] = FIRST + keep + rest.index(float(answers.points[at]))
    labels = tuple(answers.labels[at] for at in kept) + (OTHER,) * len(rest)
    points = np.concatenate([np.zeros(FIRST), answers.points[kept], np.array(rest)])
    return rows.astype(np.int64), labels, points


def weighted_correlation(weights: FloatArray, x: FloatArray, y: FloatArray) -> float | None:
    """Pearson correlation over cells that stand for `weights` students each; None without variance on either side."""
    n = weights.sum()
    if n <= 0:
        return None
    x, y = np.broadcast_to(x, weights.shape), np.broadcast_to(y, weights.shape)
    dx, dy = x - (weights * x).sum() / n, y - (weights * y).sum() / n
    vx, vy = float((weights * dx * dx).sum() / n), float((weights * dy * dy).sum() / n)
    tiny = 1e-12
    if vx <= tiny * max(1.0, float(np.abs(x).max()) ** 2) or vy <= tiny * max(1.0, float(np.abs(y).max()) ** 2):
        return None
    r = float((weights * dx * dy).sum() / n) / float(np.sqrt(vx * vy))
    return max(-1.0, min(1.0, r))
