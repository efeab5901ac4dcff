"""How often the claims of Growth are right: cohorts of known truth, judged as the pages judge them.

`python -m tests.core.growth.simulated` writes docs/growth-rates.md, which docs/methods.md prints.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path

import numpy as np

from bildung.core.growth.ahead import ahead_by_table, tracks
from bildung.core.growth.claims import chance
from bildung.core.growth.cohort import growth
from bildung.core.growth.groups import group_growth, off_among
from bildung.core.growth.matched import Growth, MatchedCohort
from bildung.core.growth.projection import expected_number
from bildung.core.scales.norms import Correlations, Moments, NormTable

OUT = Path(__file__).parents[3] / "docs" / "growth-rates.md"
KEY = ("Reading", "7")
SD, ERROR, CLASS = 14.0, 4.0, 24
TRUE = math.sqrt(SD**2 - ERROR**2)
TRUE_RHO = 0.96  # between true scores of both windows
RHO = TRUE_RHO * TRUE**2 / SD**2
GAIN = 5.0
LEFT = SD * math.sqrt(1 - RHO**2)
TABLE = NormTable(
    {KEY: Moments(np.array([0.0, 20.0, 36.0]), np.array([200.0, 205.0, 210.0]), np.array([SD] * 3))},
    {},
    {KEY: Correlations(np.array([0.0, 20.0]), np.array([20.0, 36.0]), np.array([[RHO, RHO], [math.nan, RHO]]))},
)


class Cohort:
    """Students in classes of 24; tau: between classes, in standard deviations of the end given the start."""

    def __init__(self, rng: np.random.Generator, classes: int, tau: float = 0.0) -> None:
        n = classes * CLASS
        self.klass = np.repeat(np.arange(classes), CLASS)
        self.effect = tau * LEFT * rng.standard_normal(classes)
        self.true_start = rng.normal(200, TRUE, n)
        own = TRUE * math.sqrt(1 - TRUE_RHO**2)
        self.true_end = 205 + TRUE_RHO * (self.true_start - 200) + rng.normal(0, own, n) + self.effect[self.klass]
        self.start = self.true_start + rng.normal(0, ERROR, n)
        self.end = self.true_end + rng.normal(0, ERROR, n)

    def judged(self) -> tuple[MatchedCohort, Growth]:
        """As the page of two windows judges them."""
        n = self.start.size
        m = MatchedCohort(
            start_grade=["7"] * n,
            end_grade=["7"] * n,
            start=self.start,
            end=self.end,
            start_week=np.zeros(n),
            end_week=np.full(n, 20.0),
            start_error=np.full(n, ERROR),
            end_error=np.full(n, ERROR),
        )
        return m, growth("Reading", m, TABLE, {"7": self.start}, {"7": self.end}, percentiles=False)


def claims_right(rng: np.random.Generator, runs: int) -> tuple[str, float]:
    """Of what is said of single students, how much is true of their true growth against their true start's like."""
    right = said = 0
    for _ in range(runs):
        c = Cohort(rng, 14)
        _, found = c.judged()
        # more or less than students of the same starting score: the true end against what the observed start lets expect
        off = c.true_end - (205 + RHO * (c.start - 200))
        told = found.claim != 0
        said += int(told.sum())
        right += int((np.sign(off[told]) == found.claim[told]).sum())
    return "a student grew more (less) than students with the same starting score: right", right / said


def lists_name_nobody(rng: np.random.Generator, runs: int) -> tuple[str, float]:
    """Students whose true scores move exactly as their true starts let expect, and nothing else."""
    named = 0
    for _ in range(runs):
        n = 340
        true = rng.normal(200, TRUE, n)
        start, end = true + rng.normal(0, ERROR, n), true + rng.normal(0, ERROR, n)
        error = np.full(n, math.hypot(ERROR, ERROR))
        verdict = np.where(end - start > 1.645 * error, 1, np.where(end - start < -1.645 * error, -1, 0))
        named += chance(verdict.astype(np.int64), error).falls_told
    return "340 unchanged students: a list of falls names somebody", named / runs


def classes_called(rng: np.random.Generator, runs: int) -> tuple[str, float]:
    """Classes that do as the norms let expect."""
    off = classes = 0
    for _ in range(runs):
        c = Cohort(rng, 14)
        m, found = c.judged()
        lines = group_growth([str(k) for k in c.klass], m, found)
        for line in lines.values():
            ci = line.told_ci95
            assert ci is not None
            off += ci[0] > 0 or ci[1] < 0
            classes += 1
    return "a class of 24 that grew as expected is marked as off", off / classes


def furthest_called(rng: np.random.Generator, runs: int) -> tuple[str, float]:
    """The finding looks for the furthest of forty."""
    called = 0
    for _ in range(runs):
        c = Cohort(rng, 40)
        m, found = c.judged()
        lines = group_growth([str(k) for k in c.klass], m, found).values()
        called += any(off_among(g.told, g.told_ci95, g.judged, len(lines)) for g in lines)
    return "40 alike classes: the finding names one", called / runs


def numbers_cover(rng: np.random.Generator, runs: int) -> tuple[str, float]:
    """How many of a class reach a cut score, classes differing by 0.3."""
    inside = classes = 0
    for _ in range(runs):
        c = Cohort(rng, 14, 0.3)
        ahead = ahead_by_table(TABLE, KEY, KEY, c.start, np.zeros(c.start.size), 20.0, ERROR)
        for k in range(14):
            mine = c.klass == k
            told = expected_number(ahead.expected[mine], np.full(CLASS, math.hypot(LEFT, 0.3 * LEFT)), 207.0, 0.29)
            inside += told.low <= int((c.end[mine] >= 207).sum()) <= told.high
            classes += 1
    return "the 80% interval of how many of a class reach a cut score holds what came", inside / classes


def on_track_reach(rng: np.random.Generator, runs: int) -> tuple[str, float]:
    """Of those who are called on track, who scored at or above the cut."""
    reached = told = 0
    for _ in range(runs):
        c = Cohort(rng, 14)
        ahead = ahead_by_table(TABLE, KEY, KEY, c.start, np.zeros(c.start.size), 20.0, ERROR)
        p = ahead.will_score(np.full(c.start.size, 207.0))
        mine = np.array([track == "on track" for track in tracks(p)])
        told += int(mine.sum())
        reached += int((c.end[mine] >= 207).sum())
    return "on track (80% or more): scored at or above the cut score", reached / told


def targets_hold(rng: np.random.Generator, runs: int) -> tuple[str, float]:
    """Students whose expected score is their 80% target: how many truly are there."""
    there = told = 0
    for _ in range(runs):
        c = Cohort(rng, 14)
        ahead = ahead_by_table(TABLE, KEY, KEY, c.start, np.zeros(c.start.size), 20.0, ERROR)
        target = ahead.target(np.full(c.start.size, 207.0), 0.8)
        near = np.abs(ahead.expected - target) < 1.5
        told += int(near.sum())
        there += int((c.true_end[near] >= 207).sum())
    return "expected at the 80% target: truly at or above the cut score", there / told


RATES: tuple[tuple[Callable[[np.random.Generator, int], tuple[str, float]], int, str], ...] = (
    (claims_right, 60, "90% or more"),
    (lists_name_nobody, 2000, "5% or less"),
    (classes_called, 150, "5%"),
    (furthest_called, 1000, "5% or less"),
    (numbers_cover, 60, "80% or a little more"),
    (on_track_reach, 60, "80% or more"),
    (targets_hold, 60, "80%"),
)


def table(share: float = 1.0) -> list[tuple[str, float, str]]:
    """What is claimed, how often it was so, and what is stated; share: of the runs."""
    rng = np.random.default_rng(20261129)
    rows = []
    for work, runs, stated in RATES:
        what, rate = work(rng, max(10, round(runs * share)))
        rows.append((what, rate, stated))
    return rows


def main() -> None:
    lines = [
        "Cohorts of known truth (true scores correlated .96 between the windows, standard error 4 on a scale with a standard "
        "deviation of 14, classes of 24), judged by the code of the pages; `python -m tests.core.growth.simulated`.",
        "",
        "| what is said | how often it was so | as it should be |",
        "|---|---|---|",
        *(f"| {what} | {100 * rate:.1f}% | {stated} |" for what, rate, stated in table()),
        "",
    ]
    OUT.write_text("\n".join(lines), "utf-8")


if __name__ == "__main__":
    main()
