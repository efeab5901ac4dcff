"""How exact a score is, what a longer test would bring, how safely a cut divides (methods.md, section 3)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import bdtr, betainc

from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused

NODES = 400


def conditional_error(score: float, k: int, alpha: float, kr21: float) -> float | None:
    """Standard error at a number-right score of a 0/1 test (Lord 1955, Keats 1957).

    √(X(k-X)/(k-1))·√((1-α)/(1-KR-21)) (Lord 1955, Keats 1957). None at 0 and k, where the formula says 0 and the truth is
    not, and where a coefficient is 1.

    Parameters
    ----------
    score : float
        Items right.
    k : int
        Items.
    alpha : float
        Coefficient alpha.
    kr21 : float
        Kuder-Richardson 21.

    Returns
    -------
    float | None
    """
    if score <= 0 or score >= k or kr21 >= 1 or alpha > 1:
        return None
    return math.sqrt(score * (k - score) / (k - 1)) * math.sqrt((1 - alpha) / (1 - kr21))


@dataclass(frozen=True)
class Classification:
    """How sure a pass line is.

    Attributes
    ----------
    accuracy : float
        That the observed side of the cut is the true one.
    consistency : float
        That a second, parallel test would put a student on the same side.
    shape : str
        "four parameters", or "two" where the fit left 0..1.
    """

    accuracy: float
    consistency: float
    shape: str


def classification(scores: FloatArray, maximum: float, reliability: float, cut: float) -> Classification:
    """How sure it is that scores at or over a cut pass (Livingston & Lewis 1995).

    At a cut: scores >= cut pass (Livingston & Lewis 1995). True shares follow a beta distribution on l..u by the method
    of moments (Lord 1965), errors are binomial over the effective number of items.

    Parameters
    ----------
    scores : FloatArray
        (n,) within 0..maximum.
    maximum : float
        Most points.
    reliability : float
        0 to 1.
    cut : float
        In points.

    Returns
    -------
    Classification

    Raises
    ------
    Refused
        Without spread, for a reliability outside 0..1, or a cut that nobody could miss or reach.
    """
    if not 0 < reliability < 1:
        raise Refused(f"a reliability of {reliability:.3f}; classification needs one between 0 and 1")
    if not 0 < cut <= maximum:
        raise Refused(f"a cut of {cut:g}; allowed are cuts above 0, at most {maximum:g}")
    mean, variance = float(scores.mean()), float(scores.var())
    if variance <= 0:
        raise Refused("all scores are equal")
    length = max(1, round((mean * (maximum - mean) - reliability * variance) / (variance * (1 - reliability))))
    observed = scores / maximum * length
    low, high, a, b, shape = _true_beta(observed, length)
    at = (np.arange(NODES) + 0.5) / NODES
    edges = np.linspace(0, 1, NODES + 1)
    weight = np.diff(betainc(a, b, edges))
    true = low + (high - low) * at
    line = cut / maximum
    failing = bdtr(math.ceil(line * length - 1e-9) - 1, length, true)
    above = true >= line
    accuracy = float(weight @ np.where(above, 1 - failing, failing))
    consistency = float(weight @ (failing**2 + (1 - failing) ** 2))
    return Classification(accuracy, consistency, shape)


def _true_beta(observed: FloatArray, length: int) -> tuple[float, float, float, float, str]:
    """Bounds and parameters of the true shares from the factorial moments of the scores on `length` items."""
    falling = np.ones_like(observed)
    moments = []
    for step in range(4):
        falling = falling * (observed - step) / max(length - step, 1)
        moments.append(float(falling.mean()))
    m1, m2, m3, m4 = moments
    variance = m2 - m1**2
    if length >= 4 and variance > 0:
        third = (m3 - 3 * m1 * m2 + 2 * m1**3) / variance**1.5
        fourth = (m4 - 4 * m1 * m3 + 6 * m1**2 * m2 - 3 * m1**4) / variance**2
        bottom = 6 + 3 * third**2 - 2 * fourth
        r = 6 * (fourth - third**2 - 1) / bottom if bottom else 0.0
        inner = 1 - 24 * (r + 1) / ((r + 2) * (r + 3) * fourth - 3 * (r - 6) * (r + 1)) if r > 0 else -1.0
        if inner >= 0:
            root = math.sqrt(inner)
            small, large = r / 2 * (1 - root), r / 2 * (1 + root)
            a, b = (small, large) if third >= 0 else (large, small)
            if a > 0 and b > 0:
                width = math.sqrt(variance * (a + b + 1) / (a * b)) * (a + b)
                low = m1 - width * a / (a + b)
                if low >= 0 and low + width <= 1:
                    return low, low + width, a, b, "four parameters"
    share = observed / length
    mean = float(share.mean())
    spread = max(variance, 1e-6)
    common = max(mean * (1 - mean) / spread - 1, 1e-3)
    return 0.0, 1.0, mean * common, (1 - mean) * common, "two"


@dataclass(frozen=True)
class SubtestScore:
    """Proportional reduction in mean squared error of a part's true score.

    Attributes
    ----------
    part : str
        Its name.
    from_part : float
        Predicted from the part.
    from_total : float
        Predicted from the total.
    """

    part: str
    from_part: float
    from_total: float

    @property
    def worth_reporting(self) -> bool:
        """Whether the part says more of itself than the total does."""
        return self.from_part > self.from_total


def part_scores(matrix: FloatArray, parts: dict[str, list[int]]) -> tuple[SubtestScore, ...]:
    """Whether each part's score is worth reporting (Haberman 2008).

    Parts of one item, or without variance, are left out: their reliability is unknown. A total says no more of a part
    than of itself: where the estimate does, by chance, it is cut at the total's reliability.

    Parameters
    ----------
    matrix : FloatArray
        Item covariances.
    parts : dict[str, list[int]]
        Places of the items of each.

    Returns
    -------
    tuple[SubtestScore, ...]
    """
    total = float(matrix.sum())
    true_cross: dict[tuple[str, str], float] = {}
    alphas = {}
    for name, at in parts.items():
        block = matrix[np.ix_(at, at)]
        v, k = float(block.sum()), len(at)
        if k >= 2 and v > 1e-12:
            alphas[name] = (k / (k - 1) * (1 - float(np.trace(block)) / v), v)
    for one in alphas:
        for other, at in parts.items():
            cross = float(matrix[np.ix_(parts[one], at)].sum())
            true_cross[one, other] = alphas[one][0] * alphas[one][1] if one == other else cross
    errors = sum(v * (1 - min(1.0, max(0.0, alpha))) for alpha, v in alphas.values())
    ceiling = 1 - errors / total if total > 1e-12 else 1.0
    found = []
    for name, (alpha, v) in alphas.items():
        true_variance = alpha * v
        if true_variance <= 0 or total <= 1e-12:
            continue
        with_total = sum(true_cross[name, other] for other in parts)  # errors of other parts are apart
        found.append(SubtestScore(name, alpha, min(ceiling, with_total**2 / (true_variance * total))))
    return tuple(found)
