"""How severe each scorer is beside the others (methods.md, section 10). Nothing here changes a score."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.special import stdtr, stdtrit  # not scipy.stats: the server starts half a second sooner

from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.errors import Refused

LEAST_PAIRS = 20
WORTH = 0.05  # of the maximum: an effect that is smaller moves nobody
LEVEL = 0.05

Verdict = Literal["severe", "lenient", "as the others", "too few to tell"]


@dataclass(frozen=True)
class Severity:
    """How severe each scorer is beside the others.

    Attributes
    ----------
    effects : FloatArray
        (scorers,) points above (below) the mean of all scorers, summing to 0.
    errors : FloatArray
        Their standard errors.
    residual_sd : float
        Points, after responses and scorers.
    df : int
        Degrees of freedom that the residual rests on.
    """

    effects: FloatArray
    errors: FloatArray
    residual_sd: float
    df: int

    @property
    def ci95(self) -> tuple[FloatArray, FloatArray]:
        """95 % intervals of the effects by Student's t: (scorers,) lower and upper ends."""
        reach = float(stdtrit(self.df, 0.975)) * self.errors
        return self.effects - reach, self.effects + reach


def severity(response: IntArray, scorer: IntArray, scores: FloatArray) -> Severity:
    """Severity within responses: score = response + scorer + error, responses fixed, by least squares.

    Parameters
    ----------
    response : IntArray
        (n,) which response each score is of.
    scorer : IntArray
        (n,) who gave it, from 0.
    scores : FloatArray
        (n,) points.

    Returns
    -------
    Severity

    Raises
    ------
    Refused
        Where scorers are not linked by common responses, or nothing is left to estimate the error from.
    """
    m = int(scorer.max()) + 1
    swept = _swept(response, scorer, scores, m, m - 1)
    errors = np.sqrt(swept.noise * np.diag(swept.inverse)).astype(np.float64)
    return Severity(swept.effects, errors, math.sqrt(swept.noise), swept.df)


@dataclass(frozen=True)
class _Swept:
    """The fit of scorers within responses. effects: (m,) centered over scorers. noise: variance that is left, over df."""

    effects: FloatArray
    inverse: FloatArray
    noise: float
    df: int


def _swept(response: IntArray, scorer: IntArray, scores: FloatArray, m: int, least: int = 0) -> _Swept:
    # responses are swept out first: what is left is a small system in the scorers, whose rank is m less the number of sets
    # of scorers that hang together; least: what it must be
    responses, place = np.unique(response, return_inverse=True)
    place = place.reshape(-1)
    counts = np.zeros((responses.size, m))
    np.add.at(counts, (place, scorer), 1.0)
    per_response = counts.sum(axis=1)
    mean = np.bincount(place, weights=scores) / per_response
    laplacian = np.diag(counts.sum(axis=0)) - counts.T @ (counts / per_response[:, None])
    inverse = np.linalg.pinv(laplacian)
    raw = inverse @ np.bincount(scorer, weights=scores - mean[place], minlength=m)
    effects: FloatArray = (raw - raw.mean()).astype(np.float64)
    residual = scores - mean[place] - (effects[scorer] - (counts @ effects / per_response)[place])
    linked = int(np.linalg.matrix_rank(laplacian, tol=1e-9))
    if linked < least:
        raise Refused("scorers are not linked: each needs responses in common with another")
    df = scores.size - responses.size - linked
    if df < 1:
        raise Refused("too few double scores to estimate the error")
    return _Swept(effects, inverse.astype(np.float64), float(residual @ residual) / df, df)


def dealt_severity(response: IntArray, scorer: IntArray, scores: FloatArray) -> Severity:
    """Severity where responses were dealt to scorers by chance: responses random, by generalized least squares.

    Within a response the scores covary by σ_r², so that a score that stands alone says something of its scorer as well. σ_e²
    is that of the fit within responses; σ_r² the pooled variance of first scores within scorers, less σ_e². Never to be used
    where scorers chose their responses or score their own classes. (Searle, Casella & McCulloch 1992, ch. 6.)

    Parameters
    ----------
    response : IntArray
        (n,) which response each score is of. The first score of a response is the one that stands first here.
    scorer : IntArray
        (n,) who gave it, from 0.
    scores : FloatArray
        (n,) points.

    Returns
    -------
    Severity

    Raises
    ------
    Refused
        As `severity`, from the responses that were scored twice.
    """
    m = int(scorer.max()) + 1
    responses, first, place, k = np.unique(response, return_index=True, return_inverse=True, return_counts=True)
    place = place.reshape(-1)
    twice = k[place] > 1
    if not twice.any():
        raise Refused("no response was scored twice, so the error of a score is not known")
    within = _swept(response[twice], scorer[twice], scores[twice], m)
    noise = within.noise
    if noise <= 0:  # nobody erred: what scorers differ by on the same responses is all there is to know
        return severity(response[twice], scorer[twice], scores[twice])
    between = max(0.0, _pooled(scorer[first], scores[first]) - noise)
    # V⁻¹ of a response with k scores is (I − λJ)/σ_e² with λ = σ_r²/(σ_e² + kσ_r²)
    shrink = between / (noise + k * between)
    counts = np.zeros((responses.size, m))
    np.add.at(counts, (place, scorer), 1.0)
    sums = np.bincount(place, weights=scores)
    normal = np.diag(counts.sum(axis=0)) - counts.T @ (counts * shrink[:, None])
    right = np.bincount(scorer, weights=scores, minlength=m) - counts.T @ (shrink * sums)
    if np.linalg.matrix_rank(normal, tol=1e-9) < m:
        raise Refused("scorers are not linked: each needs responses of their own or in common with another")
    inverse = np.linalg.inv(normal)
    center = np.eye(m) - 1 / m
    effects = center @ (inverse @ right)
    covariance = noise * center @ inverse @ center
    errors = np.sqrt(np.maximum(np.diag(covariance), 0.0)).astype(np.float64)
    return Severity(effects.astype(np.float64), errors, math.sqrt(noise), within.df)


def _pooled(scorer: IntArray, scores: FloatArray) -> float:
    """Variance of scores within scorers."""
    n = np.bincount(scorer)
    mean = np.bincount(scorer, weights=scores) / np.maximum(n, 1)
    df = int((n[n > 0] - 1).sum())
    return float(((scores - mean[scorer]) ** 2).sum()) / df if df > 0 else 0.0


@dataclass(frozen=True, kw_only=True)
class ScorerVerdict:
    """What may be said of one scorer.

    Attributes
    ----------
    verdict : Verdict
        Severe or lenient only where the effect is proved over all scorers and worth something.
    p : float | None
        Holm's, over all scorers; None where the error is 0.
    needed : int
        Pairs that are still needed before anything could be said; 0 where there are enough.
    rescore : bool
        Whether rescoring what this scorer scored is offered.
    """

    verdict: Verdict
    p: float | None
    needed: int
    rescore: bool


def judge_scorers(found: Severity, pairs: IntArray, maximum: float) -> list[ScorerVerdict]:
    """Whose severity is proved, over all scorers by Holm's procedure (1979), and whose responses are offered for rescoring.

    Parameters
    ----------
    found : Severity
        Of these scorers.
    pairs : IntArray
        (scorers,) responses of each that somebody else scored as well, or that were pre-scored.
    maximum : float
        Most points of the item.

    Returns
    -------
    list[ScorerVerdict]
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.abs(found.effects) / found.errors
    raw = np.where(found.errors > 0, 2 * stdtr(found.df, -np.where(found.errors > 0, t, 0.0)), np.nan)
    p = _holm(raw)
    wanted = math.ceil((1.96 * math.sqrt(2) * found.residual_sd / (WORTH * maximum)) ** 2)
    verdicts = []
    for at, effect in enumerate(found.effects.tolist()):
        n = int(pairs[at])
        proved = (math.isnan(p[at]) and abs(effect) > 0) or p[at] <= LEVEL
        worth = abs(effect) >= WORTH * maximum - 1e-12
        if n < LEAST_PAIRS:
            verdicts.append(
                ScorerVerdict(
                    verdict="too few to tell",
                    p=None if math.isnan(p[at]) else float(p[at]),
                    needed=max(LEAST_PAIRS, wanted) - n,
                    rescore=False,
                )
            )
            continue
        verdict: Verdict = "as the others"
        if proved and worth:
            verdict = "severe" if effect < 0 else "lenient"
        elif worth and n < wanted:
            verdict = "too few to tell"
        verdicts.append(
            ScorerVerdict(
                verdict=verdict,
                p=None if math.isnan(p[at]) else float(p[at]),
                needed=max(0, wanted - n) if verdict == "too few to tell" else 0,
                rescore=verdict in ("severe", "lenient"),
            )
        )
    return verdicts


def _holm(p: FloatArray) -> FloatArray:
    """Adjusted p-values; what is not a number stays so and is not counted."""
    known: BoolArray = ~np.isnan(p)
    order = np.argsort(np.where(known, p, np.inf))
    m, adjusted, highest = int(known.sum()), np.full(p.size, np.nan), 0.0
    for rank, at in enumerate(order[:m].tolist()):
        highest = max(highest, min(1.0, (m - rank) * float(p[at])))
        adjusted[at] = highest
    return adjusted


@dataclass(frozen=True)
class AgainstTruth:
    """One scorer against pre-scored responses.

    Attributes
    ----------
    n : int
        Pre-scored responses that they scored.
    difference : float
        Mean of theirs minus the score that had been settled before.
    error : float | None
        Its standard error; None with fewer than two.
    exact : float
        Share scored alike.
    reach : float | None
        Half of the 95 % interval of the difference, by t with n − 1 degrees of freedom; None with fewer than two.
    """

    n: int
    difference: float
    error: float | None
    exact: float
    reach: float | None


def against_truth(scores: FloatArray, settled: FloatArray) -> AgainstTruth:
    """One scorer on responses whose score had been settled before, which they did not know.

    Parameters
    ----------
    scores : FloatArray
        (n,) theirs.
    settled : FloatArray
        (n,) what was settled.

    Returns
    -------
    AgainstTruth
    """
    if scores.size == 0 or scores.size != settled.size:
        raise Refused("pre-scored responses are needed, each with both scores")
    apart = scores - settled
    error = float(apart.std(ddof=1)) / math.sqrt(apart.size) if apart.size > 1 else None
    reach = None if error is None else error * float(stdtrit(apart.size - 1, 0.975))
    return AgainstTruth(apart.size, float(apart.mean()), error, float((np.abs(apart) < 1e-9).mean()), reach)


def off_the_truth(found: Sequence[AgainstTruth | None], maximum: float) -> list[bool]:
    """Whose difference from what is right is proved, over all scorers by Holm's procedure (1979), and worth something.

    Parameters
    ----------
    found : Sequence[AgainstTruth | None]
        By scorer; None without pre-scored responses.
    maximum : float
        Most points of the item.

    Returns
    -------
    list[bool]
        By scorer; never with fewer than 20 pre-scored responses.
    """
    enough = [one if one is not None and one.n >= LEAST_PAIRS and one.error is not None else None for one in found]
    raw = np.array([math.nan if one is None else _p_of(one) for one in enough])
    p = _holm(raw)
    return [
        one is not None and bool(p[at] <= LEVEL) and abs(one.difference) >= WORTH * maximum - 1e-12
        for at, one in enumerate(enough)
    ]


def _p_of(one: AgainstTruth) -> float:
    if not one.error:
        return 0.0 if one.difference else 1.0
    return float(2 * stdtr(one.n - 1, -abs(one.difference) / one.error))
