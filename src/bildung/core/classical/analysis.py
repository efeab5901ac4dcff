"""Everything about one administration of a test, from one response table."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.covariances import Covariances, covariances
from bildung.core.classical.distribution import Distribution, distribution
from bildung.core.classical.flags import Flag, judge
from bildung.core.classical.items import ItemStatistics, item_statistics
from bildung.core.classical.joint import Joint, joint
from bildung.core.classical.options import OptionRow, option_table
from bildung.core.classical.ranks import mid_ranks
from bildung.core.classical.reliability import Reliability, reliability
from bildung.core.classical.scores import Scores, score
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.data.responses import FIRST, OMITTED, ItemColumn, ResponseTable, Status


@dataclass(frozen=True, kw_only=True)
class ItemAnalysis:
    """One item: figures, answers, flags.

    Attributes
    ----------
    item : ItemColumn
        The item.
    figures : ItemStatistics
        Its figures.
    options : tuple[OptionRow, ...]
        Its answers.
    alpha_without : float | None
        Alpha of the test without it, None where undefined.
    flags : tuple[Flag, ...]
        What to look at.
    sound : bool | None
        None where too few were counted to judge.
    joint : Joint
        Counts of its answers by score.
    judged_on : int | None
        How many students flags and verdict rest on, where that is more than the figures do (see `narrowed`).
    """

    item: ItemColumn
    figures: ItemStatistics
    options: tuple[OptionRow, ...]
    alpha_without: float | None
    flags: tuple[Flag, ...]
    sound: bool | None
    joint: Joint
    judged_on: int | None = None


@dataclass(frozen=True, kw_only=True)
class TestAnalysis:
    """One administration. counts: sittings by state, disjoint, and `rows`, all of them. sem: points."""

    settings: Settings
    counts: dict[str, int]
    distribution: Distribution
    reliability: Reliability
    sem: float | None
    items: tuple[ItemAnalysis, ...]
    scores: Scores
    table: ResponseTable
    covariances: Covariances

    @property
    def judged_on(self) -> int | None:
        """How many students the flags rest on, where that is more than the figures do (see `narrowed`)."""
        return max((item.judged_on for item in self.items if item.judged_on is not None), default=None)

    def item(self, name: str) -> ItemAnalysis:
        """By the item's name; KeyError where there is none."""
        for found in self.items:
            if found.item.name == name:
                return found
        raise KeyError(name)

    def who_gave(self, name: str) -> dict[str, IntArray]:
        """Rows (among the counted) of those who gave each distinct answer to an item, however rare; "" omitted it.

        Parameters
        ----------
        name : str
            Its name.

        Returns
        -------
        dict[str, IntArray]

        Raises
        ------
        KeyError
            For an item that there is not.
        """
        answers = next(
            a for i, a in zip(self.table.items, self.table.answers, strict=True) if i is self.item(name).item
        )
        found = {label: np.flatnonzero(answers.codes == FIRST + at) for at, label in enumerate(answers.labels)}
        found[""] = np.flatnonzero(answers.codes == OMITTED)
        return {label: rows.astype(np.int64) for label, rows in found.items() if rows.size}

    @property
    def percentile_ranks(self) -> FloatArray:
        """Percentile rank of each counted student, 100·(below + half the equal)/N; 0 for those without a total.

        (counted,): 100·(below + half the equal)/N among students with a total; NaN-free: 0 for those without.

        Returns
        -------
        FloatArray
        """
        ranks = np.zeros(self.table.n)
        whole = self.scores.complete
        standing = self.scores.standing[self.scores.level[whole]]
        if standing.size:
            ranks[whole] = 100 * mid_ranks(np.ones(standing.size), standing)
        return ranks


def count_statuses(table: ResponseTable) -> dict[str, int]:
    """Sittings by state; a blank or waiting sitting is not also counted as sat."""
    return {"rows": table.n} | {status.name.lower(): table.count(status) for status in Status}


def analyse(table: ResponseTable, settings: Settings = DEFAULTS) -> TestAnalysis:
    """All item, option, test and reliability figures of `table`, over counted sittings only."""
    counts = count_statuses(table)
    counted = table if table.counted.all() else table.take(table.counted)
    scores = score(counted)
    spread = distribution(counted, scores)
    cov = covariances(counted, scores)
    trust = reliability(cov, counted.items)
    sem = None
    if trust.alpha is not None and spread.sd is not None and trust.alpha <= 1:
        sem = spread.sd * math.sqrt(1 - trust.alpha)
    items = []
    for at, (item, answers) in enumerate(zip(counted.items, counted.answers, strict=True)):
        counts_of_item = joint(item, answers, scores, settings.distinct_answers)
        figures = item_statistics(counts_of_item)
        options = option_table(counts_of_item)
        without = trust.alpha_without[at]
        flags, sound = judge(item, figures, options, trust.alpha, without, settings)
        items.append(
            ItemAnalysis(
                item=item,
                figures=figures,
                options=options,
                alpha_without=without,
                flags=flags,
                sound=sound,
                joint=counts_of_item,
            )
        )
    return TestAnalysis(
        settings=settings,
        counts=counts,
        distribution=spread,
        reliability=trust,
        sem=sem,
        items=tuple(items),
        scores=scores,
        table=counted,
        covariances=cov,
    )
