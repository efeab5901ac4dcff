"""Students with a score in both windows, and what is found of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.growth.gains import Gains


@dataclass(frozen=True, kw_only=True)
class MatchedCohort:
    """Students with a score in both windows. All arrays (n,). start_grade is what cohorts are made of."""

    start_grade: Sequence[str]
    end_grade: Sequence[str]
    start: FloatArray
    end: FloatArray
    start_week: FloatArray
    end_week: FloatArray
    start_error: FloatArray
    end_error: FloatArray


@dataclass(kw_only=True)
class Growth:
    """Growth of a matched cohort; all arrays are (n,).

    Attributes
    ----------
    gains : Gains
        Gains with their errors.
    start_rank : FloatArray
        Percentile rank at the start.
    end_rank : FloatArray
        At the end.
    end_z : FloatArray
        Normal score at the end.
    held : FloatArray
        Whether a rank was held at the outermost.
    expected : FloatArray
        Expected end score.
    residual : FloatArray
        Residual gain.
    like_start : FloatArray
        Percentile among students who started alike.
    slope : FloatArray
        Of the expectation in the start score; NaN where unknown.
    sd_end : FloatArray
        Of the end given the start, score units; NaN where unknown.
    start_mean : FloatArray
        Mean start of those whom the expectation is made from.
    start_sd : FloatArray
        Their standard deviation.
    residual_error : FloatArray
        Standard error of the residual gain; NaN where unknown.
    claim : IntArray
        1 more than like starters, -1 less, 0 cannot be told.
    misfit : IntArray
        1 where the errors are larger than the spread that the expectation leaves.
    beyond : IntArray
        1 reliably ahead of the expected score, -1 behind it, 0 neither or unknown.
    known : IntArray
        1 where an expectation could be made.
    sgp : FloatArray
        0 where there is none.
    sd_start : FloatArray
        At the start, of the norm or the cohort.
    sources : dict[str, str]
        Expectation by start grade.
    rough : list[str]
        Grades whose growth percentiles are rough.
    why : dict[tuple[str, str], str]
        Grade and figure to the reason that it is missing.
    """

    gains: Gains
    start_rank: FloatArray
    end_rank: FloatArray
    end_z: FloatArray
    held: FloatArray
    expected: FloatArray
    residual: FloatArray
    like_start: FloatArray
    slope: FloatArray
    sd_end: FloatArray
    start_mean: FloatArray
    start_sd: FloatArray
    residual_error: FloatArray
    claim: IntArray
    misfit: IntArray
    beyond: IntArray
    known: IntArray
    sgp: FloatArray
    sd_start: FloatArray
    sources: dict[str, str] = field(default_factory=dict)
    rough: list[str] = field(default_factory=list)
    why: dict[tuple[str, str], str] = field(default_factory=dict)
