"""Growth of groups that were not made by their start score: classes, grades, schools (methods.md, section 6)."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from scipy.special import ndtr, stdtrit

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.growth.matched import Growth, MatchedCohort
from bildung.core.growth.others import Sums
from bildung.core.growth.shrinkage import LEAST_GROUPS, shrink

Interval = tuple[float, float]
Expectation = Literal["table", "others"]
LEAST_JUDGED = 10


@dataclass(frozen=True, kw_only=True)
class GroupGrowth:
    """Growth of one group; gain and means in score units, residual gains in standard deviations of the end given the start.

    Attributes
    ----------
    n : int
        Students.
    mean_start : float
        At the start.
    mean_end : float
        At the end.
    mean_gain : float
        End less start.
    gain_ci95 : Interval | None
        Its interval, 95%.
    effect_size : float | None
        Mean gain in standard deviations of the start.
    expectation : Expectation | None
        What it is judged by: the norm table, or the regression of the others; None where nothing can judge it.
    judged : int
        Students behind the residual figures.
    mean_residual_gain : float | None
        Plain.
    residual_gain_ci95 : Interval | None
        Its interval, 95%.
    allowance : float | None
        What the error of the start scores alone makes of the mean, in the group's favor; None without errors.
    mean_residual_gain_adjusted : float | None
        Less the allowance.
    adjusted_ci95 : Interval | None
        Its interval, 95%.
    mean_residual_gain_shrunken : float | None
        Drawn toward the mean of all groups; of the adjusted means where every group has one.
    shrunken_se : float | None
        Its standard error.
    tau : float | None
        Standard deviation between groups, as it is believed; the same for all.
    median_like_start_percentile : float | None
        Median of the students, less the allowance where there is one.
    share_met_expected : float | None
        Share whose gain reached what was expected, less the allowance where there is one.
    missing : int
        Students on the list in either window with one score.
    picked : bool
        Whether its students seem to have been picked by their start score: many are without an end score, and these started otherwise.
    tipping_point : float | None
        Residual gain, in standard deviations, that the missing would have had to have on average to bring the group to expectation.
    reasons : dict[str, str]
        Why a figure is missing.
    """

    n: int
    mean_start: float
    mean_end: float
    mean_gain: float
    gain_ci95: Interval | None
    effect_size: float | None
    expectation: Expectation | None = None
    judged: int = 0
    mean_residual_gain: float | None = None
    residual_gain_ci95: Interval | None = None
    allowance: float | None = None
    mean_residual_gain_adjusted: float | None = None
    adjusted_ci95: Interval | None = None
    mean_residual_gain_shrunken: float | None = None
    shrunken_se: float | None = None
    tau: float | None = None
    median_like_start_percentile: float | None = None
    share_met_expected: float | None = None
    missing: int = 0
    picked: bool = False
    tipping_point: float | None = None
    reasons: dict[str, str] = field(default_factory=dict)

    @property
    def told(self) -> float | None:
        """The mean residual gain that is told: adjusted where it can be, otherwise plain.

        Returns
        -------
        float | None
        """
        return self.mean_residual_gain if self.mean_residual_gain_adjusted is None else self.mean_residual_gain_adjusted

    @property
    def told_ci95(self) -> Interval | None:
        """Its interval.

        Returns
        -------
        Interval | None
        """
        return self.residual_gain_ci95 if self.mean_residual_gain_adjusted is None else self.adjusted_ci95


def off_among(told: float | None, ci95: Interval | None, judged: int, groups: int) -> int:
    """Whether a group is off expectation when the furthest of several is looked for: its interval, widened for that many (Bonferroni).

    Parameters
    ----------
    told : float | None
        Its mean residual gain.
    ci95 : Interval | None
        With its 95% interval, by t.
    judged : int
        Students behind it.
    groups : int
        How many were looked at.

    Returns
    -------
    int
        1 above expectation, -1 below, 0 where neither can be told.
    """
    if told is None or ci95 is None or groups < 1 or judged < 2:
        return 0
    wider = float(stdtrit(judged - 1, 1 - 0.025 / groups)) / float(stdtrit(judged - 1, 0.975))
    half = (ci95[1] - ci95[0]) / 2 * wider
    return 1 if told > half else -1 if told < -half else 0


RESIDUALS = (
    "mean_residual_gain",
    "residual_gain_ci95",
    "mean_residual_gain_adjusted",
    "mean_residual_gain_shrunken",
    "median_like_start_percentile",
    "share_met_expected",
    "tipping_point",
)


def t_interval(values: FloatArray) -> Interval | None:
    """Mean ± t·s/√n; None for fewer than two values."""
    n = values.size
    if n < 2:
        return None
    half = float(stdtrit(n - 1, 0.975)) * float(values.std(ddof=1)) / math.sqrt(n)
    mean = float(values.mean())
    return mean - half, mean + half


@dataclass(frozen=True)
class _Judged:
    """Residuals of the students of a group that can be judged, and what the error of the start makes of their mean."""

    expectation: Expectation | None
    residual: FloatArray
    allowance: float | None
    why: str = ""
    why_plain: str = ""


PICKED_SHARE = 0.2  # of a group without an end score, from which its students may have been picked
PICKED_APART = 0.25  # standard deviations that those without started higher or lower


def group_growth(
    labels: Sequence[str],
    m: MatchedCohort,
    out: Growth,
    missing: Mapping[str, int] | None = None,
    missing_starts: Mapping[str, FloatArray] | None = None,
) -> dict[str, GroupGrowth]:
    """Growth by label, in alphabetical order; students without a label leave, but are among the others.

    Parameters
    ----------
    labels : Sequence[str]
        Group of each, (n,).
    m : MatchedCohort
        The students.
    out : Growth
        What was found of them.
    missing : Mapping[str, int] | None
        By group how many have a score in one window only.
    missing_starts : Mapping[str, FloatArray] | None
        By group the start scores of those without an end score. Where they are many and otherwise than the others', the group was picked by
        its start, and the plain residual gain is told: what regression to the mean brings is then in the expectation already.

    Returns
    -------
    dict[str, GroupGrowth]
    """
    names = sorted({label for label in labels if label})
    place = {name: at for at, name in enumerate(names)}
    member = np.array([place.get(label, -1) for label in labels], dtype=np.int64)
    rows = np.split(np.argsort(member, kind="stable"), np.cumsum(np.bincount(member + 1, minlength=len(names) + 1)))
    judge = _Judge(m, out)
    found, judged = {}, {}
    for at, name in enumerate(names):
        mine = rows[at + 1]  # the first holds those without a label
        gain = m.end[mine] - m.start[mine]
        judged[name] = judge.of(mine)
        starts = (missing_starts or {}).get(name, np.zeros(0))
        picked = was_picked(m.start[mine], starts, float(np.mean(out.sd_start[mine])))
        if picked and judged[name].allowance is not None:
            judged[name] = replace(judged[name], allowance=0.0)
        found[name] = _with_residuals(
            GroupGrowth(
                n=int(mine.size),
                mean_start=float(m.start[mine].mean()),
                mean_end=float(m.end[mine].mean()),
                mean_gain=float(gain.mean()),
                gain_ci95=t_interval(gain),
                effect_size=float((gain / out.sd_start[mine]).mean()) if (out.sd_start[mine] > 0).all() else None,
                missing=(missing or {}).get(name, 0),
                picked=picked,
            ),
            judged[name],
        )
    return _with_shrinkage(found, judged)


def was_picked(start: FloatArray, without: FloatArray, sd: float) -> bool:
    """Whether students with both scores were picked by their start score: many have none at the end, and these started otherwise.

    Parameters
    ----------
    start : FloatArray
        (n,) start scores of students with both.
    without : FloatArray
        (m,) of those without an end score.
    sd : float
        Of the start scores, of the norm or the cohort.

    Returns
    -------
    bool
    """
    n, m = start.size, without.size
    if n < LEAST_JUDGED or m < PICKED_SHARE * (n + m) or m < 2:
        return False
    apart = float(without.mean() - start.mean())
    a, b = float(start.var(ddof=1)) / n, float(without.var(ddof=1)) / m
    if a + b <= 0 or abs(apart) < PICKED_APART * sd:
        return False
    freedom = (a + b) ** 2 / (a**2 / (n - 1) + b**2 / (m - 1))  # Welch 1947
    return abs(apart) > float(stdtrit(freedom, 0.975)) * math.sqrt(a + b)


class _Judge:
    """Judges parts of a cohort: by the table, or by the regression of the others of each grade."""

    def __init__(self, m: MatchedCohort, out: Growth) -> None:
        self.m, self.out = m, out
        self.grades = np.array(list(m.start_grade))
        self.local = {grade for grade, source in out.sources.items() if source == "local"}
        self.rows = {g: np.flatnonzero((self.grades == g) & (out.known == 1)) for g in sorted(set(m.start_grade))}
        self.sums = {g: Sums(m.start[rows], m.end[rows]) for g, rows in self.rows.items() if g in self.local}
        self.noise = {g: self._noise(rows) for g, rows in self.rows.items()}

    def _noise(self, rows: IntArray) -> float | None:
        """Mean error variance of the start scores of a grade."""
        errors = self.m.start_error[rows]
        known = errors[~np.isnan(errors)]
        return float((known**2).mean()) if known.size else None

    def of(self, mine: IntArray) -> _Judged:
        nobody = np.zeros(0)
        here = mine[self.out.known[mine] == 1]
        if not here.size:
            return _Judged(None, nobody, None, "no student of this group has an expected score")
        local = np.isin(self.grades[here], sorted(self.local))
        if local.any() and not local.all():
            return _Judged(
                None,
                nobody,
                None,
                "some are expected by the norm table and some by the others; the two are never mixed",
            )
        parts = [
            self._part(grade, here[self.grades[here] == grade]) for grade in sorted(set(self.grades[here].tolist()))
        ]
        kept = [part for part in parts if part is not None]
        if not kept:
            return _Judged(
                None,
                nobody,
                None,
                "the expectation was made from these students themselves, so it says nothing about them",
            )
        residual = np.concatenate([r for r, _ in kept])
        expectation: Expectation = "others" if local.all() else "table"
        if residual.size < LEAST_JUDGED:
            why = f"{residual.size} students; a group is judged from {LEAST_JUDGED} on"
            return _Judged(None, nobody, None, why)
        shifts = [shift for _, shift in kept]
        if any(shift is None for shift in shifts):
            why = "without standard errors of the start scores; groups that start high look better than they are"
            return _Judged(expectation, residual, None, why_plain=why)
        allowance = float(np.concatenate([s for s in shifts if s is not None]).mean())
        return _Judged(expectation, residual, allowance)

    def _part(self, grade: str, mine: IntArray) -> tuple[FloatArray, FloatArray | None] | None:
        """Residuals of the students of one grade, and what the error of the start makes of each."""
        start, end = self.m.start[mine], self.m.end[mine]
        if grade in self.local:
            inside = np.searchsorted(self.rows[grade], mine)
            line = self.sums[grade].without(inside)
            if line is None:
                return None
            residual = (end - line.intercept - line.slope * start) / line.sd
            slope, sd = np.full(mine.size, line.slope), np.full(mine.size, line.sd)
            mean, spread = np.full(mine.size, line.start_mean), np.full(mine.size, line.start_sd)
        else:
            residual, slope, sd = self.out.residual[mine], self.out.slope[mine], self.out.sd_end[mine]
            mean, spread = self.out.start_mean[mine], self.out.start_sd[mine]
        noise = self.noise[grade]
        if noise is None:
            return residual, None
        with np.errstate(divide="ignore", invalid="ignore"):
            reliability = 1 - noise / spread**2
            shift = slope * (1 / reliability - 1) * (start - mean) / sd
        fits = bool(np.all(reliability > 0) and np.isfinite(shift).all())
        return residual, shift if fits else None


def _with_residuals(group: GroupGrowth, judged: _Judged) -> GroupGrowth:
    reasons = {}
    if group.gain_ci95 is None:
        reasons["gain_ci95"] = "fewer than two students"
    if group.effect_size is None:
        reasons["effect_size"] = "the start scores have no spread"
    if judged.expectation is None:
        why = dict.fromkeys(("expectation", *RESIDUALS), judged.why)
        return replace(group, reasons=reasons | why)
    r, allowance = judged.residual, judged.allowance
    plain, interval = float(r.mean()), t_interval(r)
    off = 0.0 if allowance is None else allowance
    told = plain - off
    if allowance is None:
        reasons["mean_residual_gain_adjusted"] = judged.why_plain
    if not group.missing:
        reasons["tipping_point"] = "no one has a score in one window only"
    return replace(
        group,
        expectation=judged.expectation,
        judged=int(r.size),
        mean_residual_gain=plain,
        residual_gain_ci95=interval,
        allowance=allowance,
        mean_residual_gain_adjusted=None if allowance is None else told,
        adjusted_ci95=None if allowance is None or interval is None else (interval[0] - off, interval[1] - off),
        median_like_start_percentile=float(100 * ndtr(np.median(r) - off)),
        share_met_expected=float((r - off >= 0).mean()),
        tipping_point=-r.size * told / group.missing if group.missing else None,
        reasons=reasons,
    )


def _with_shrinkage(found: dict[str, GroupGrowth], judged: dict[str, _Judged]) -> dict[str, GroupGrowth]:
    names = [name for name, one in judged.items() if one.expectation is not None]
    adjusted = all(judged[name].allowance is not None for name in names)
    off = {name: (judged[name].allowance or 0.0) if adjusted else 0.0 for name in names}
    values = np.concatenate([judged[name].residual - off[name] for name in names]) if names else np.zeros(0)
    member = np.repeat(np.arange(len(names)), [judged[name].residual.size for name in names]).astype(np.int64)
    shrunken = shrink(values, member, len(names))
    for at, name in enumerate(names):
        if shrunken is None:
            why = f"fewer than {LEAST_GROUPS} groups that can be judged, or no spread within them"
            found[name].reasons["mean_residual_gain_shrunken"] = why
        else:
            found[name] = replace(
                found[name],
                mean_residual_gain_shrunken=float(shrunken.means[at]),
                shrunken_se=float(shrunken.errors[at]),
                tau=shrunken.tau,
            )
    return found
