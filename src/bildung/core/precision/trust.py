"""How far to trust the total, the parts and a pass line: everything about a test's exactness in one place."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.finding import DISTRUST, TRUST
from bildung.core.classical.reliability import spearman_brown
from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused
from bildung.core.items.shown import coefficient, percent
from bildung.core.precision.dimensions import Dimensions, dimensions
from bildung.core.precision.precision import Classification, classification, conditional_error
from bildung.core.precision.subscores import SubScore, sub_scores
from bildung.core.progress import Tell

LENGTHS = (0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 3.0)
WANTED = (0.80, 0.90)
SEED = 20260803
SAFE, DOUBTFUL = 0.90, 0.80


@dataclass(frozen=True)
class Coefficient:
    """A coefficient of reliability.

    Attributes
    ----------
    figure : str
        Its name in core/explain/figures.py.
    value : float | None
        None where undefined.
    ci95 : tuple[float, float] | None
        Its interval, 95%.
    why : str
        Where it is None.
    """

    figure: str
    value: float | None
    ci95: tuple[float, float] | None
    why: str


@dataclass(frozen=True)
class ErrorAt:
    """The standard error at a score, both in points; None where it is not stated. students: with this score."""

    score: float
    error: float | None
    students: int


@dataclass(frozen=True, kw_only=True)
class Cut:
    """A pass line.

    Attributes
    ----------
    name : str
        Its name.
    share : float
        Of the points.
    points : float
        The line in points.
    passing : float
        Share of the students at or over it.
    near : float | None
        Share of the students whose score lies within one standard error of it.
    result : Classification | None
        How sure it is.
    says : str
        In plain words.
    why : str
        The reason where that is not told.
    """

    name: str
    share: float
    points: float
    passing: float
    near: float | None
    result: Classification | None
    says: str
    why: str


@dataclass(frozen=True)
class Length:
    """A test of another length.

    Attributes
    ----------
    factor : float
        How many times as long.
    items : int
        Of a test `factor` times as long.
    reliability : float
        Of that test.
    """

    factor: float
    items: int
    reliability: float


@dataclass(frozen=True)
class WantedLength:
    """How many items a reliability would take; None where no length would bring it."""

    reliability: float
    items: int | None


@dataclass(frozen=True, kw_only=True)
class Trust:
    """How far a test can be relied upon.

    Attributes
    ----------
    words : str
        What the reliability allows, in plain words.
    coefficients : tuple[Coefficient, ...]
        Of reliability.
    sem : float | None
        Standard error of measurement, in points.
    errors : tuple[ErrorAt, ...]
        By score.
    conditional_why : str
        Where no error by score is stated.
    cuts : tuple[Cut, ...]
        Pass lines.
    lengths : tuple[Length, ...]
        Other lengths.
    wanted : tuple[WantedLength, ...]
        Lengths for a wanted reliability.
    parts : tuple[SubScore, ...]
        Scores by group of items.
    dimensions : Dimensions | None
        None where not told.
    dimensions_why : str
        The reason.
    """

    words: str
    coefficients: tuple[Coefficient, ...]
    sem: float | None
    errors: tuple[ErrorAt, ...]
    conditional_why: str
    cuts: tuple[Cut, ...]
    lengths: tuple[Length, ...]
    wanted: tuple[WantedLength, ...]
    parts: tuple[SubScore, ...]
    dimensions: Dimensions | None
    dimensions_why: str


def trust_words(alpha: float | None) -> str:
    """What a reliability allows: "can be trusted", for groups only, or for nothing about single students."""
    if alpha is None:
        return "cannot be judged"
    return next((text for line, text in TRUST if round(alpha, 2) >= line), DISTRUST)


def trust(
    analysis: TestAnalysis, parts: Mapping[str, Sequence[int]], cuts: Mapping[str, float], tell: Tell | None = None
) -> Trust:
    """How far a test can be relied upon, with its parts and pass lines.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    parts : Mapping[str, Sequence[int]]
        Places of items by name.
    cuts : Mapping[str, float]
        Share of the points by name, 0..1.
    tell : Tell | None
        Told how far the dimension check is.

    Returns
    -------
    Trust
    """
    r, spread = analysis.reliability, analysis.distribution
    coefficients = tuple(
        Coefficient(name, getattr(r, name), r.alpha_ci95 if name == "alpha" else None, r.why.get(name, ""))
        for name in ("alpha", "omega", "lambda2", "split_half", "kr21", "stratified_alpha")
    )
    errors, why = _errors(analysis)
    lengths: tuple[Length, ...] = ()
    wanted: tuple[WantedLength, ...] = ()
    if r.alpha is not None and 0 < r.alpha < 1:
        lengths = tuple(Length(f, round(spread.k * f), spearman_brown(r.alpha, f)) for f in LENGTHS)
        wanted = tuple(
            WantedLength(line, math.ceil(spread.k * line * (1 - r.alpha) / (r.alpha * (1 - line)) - 1e-9))
            for line in WANTED
        )
    elif r.alpha is not None:
        wanted = tuple(WantedLength(line, None) for line in WANTED)
    found, not_found = _dimensions(analysis, tell)
    return Trust(
        words=trust_words(r.alpha),
        coefficients=coefficients,
        sem=analysis.sem,
        errors=errors,
        conditional_why=why,
        cuts=tuple(_cut(analysis, name, share) for name, share in cuts.items()),
        lengths=lengths,
        wanted=wanted,
        parts=sub_scores(analysis, parts),
        dimensions=found,
        dimensions_why=not_found,
    )


def _errors(analysis: TestAnalysis) -> tuple[tuple[ErrorAt, ...], str]:
    r, spread = analysis.reliability, analysis.distribution
    students = {round(score, 9): n for score, n in spread.histogram}
    if any(item.item.points != 1 for item in analysis.items) or r.kr21 is None:
        return (), "an item is worth other than 1 point; the formula is for right-or-wrong tests"
    if r.alpha is None:
        return (), r.why.get("alpha", "the reliability cannot be stated")
    if not analysis.scores.one_form:
        return (), "students had different forms"
    k = spread.k
    return (
        tuple(
            ErrorAt(float(x), conditional_error(x, k, r.alpha, r.kr21), students.get(float(x), 0)) for x in range(k + 1)
        ),
        "" if r.kr21 < 1 else "KR-21 is 1",
    )


def _cut(analysis: TestAnalysis, name: str, share: float) -> Cut:
    scores, alpha = analysis.scores, analysis.reliability.alpha
    full = scores.full & (scores.possible > 0)
    earned: FloatArray = scores.earned[full]
    most = analysis.distribution.points
    line = share * most
    if not earned.size:
        return Cut(
            name=name,
            share=share,
            points=line,
            passing=0.0,
            near=None,
            result=None,
            says="no one has a complete test",
            why="no one has a complete test",
        )
    passing = float((earned >= line - 1e-9).mean())
    near = None if analysis.sem is None else float((np.abs(earned - line) <= analysis.sem).mean())
    try:
        if alpha is None:
            raise Refused(analysis.reliability.why.get("alpha", "the reliability cannot be stated"))
        result = classification(earned, most, alpha, line)
    except Refused as error:
        return Cut(
            name=name,
            share=share,
            points=line,
            passing=passing,
            near=near,
            result=None,
            says="how safely it divides cannot be stated",
            why=str(error),
        )
    wrong = 1 - result.accuracy
    if result.accuracy >= SAFE:
        says = f"divides safely: about {percent(wrong)} are on the wrong side"
    elif result.accuracy >= DOUBTFUL:
        says = f"about {percent(wrong)} are on the wrong side: do not pass or fail students near it by this test alone"
    else:
        says = f"about {percent(wrong)} are on the wrong side: this test does not support a cut score here"
    return Cut(name=name, share=share, points=line, passing=passing, near=near, result=result, says=says, why="")


def _dimensions(analysis: TestAnalysis, tell: Tell | None) -> tuple[Dimensions | None, str]:
    """Over students who were presented everything; not reached and omitted earn nothing. The shuffling is seeded."""
    full = analysis.scores.full
    points = np.stack([a.code_points[a.codes[full]] for a in analysis.table.answers], axis=1)
    try:
        return dimensions(points, np.random.default_rng(SEED), tell), ""
    except Refused as error:
        return None, str(error)


def dimension_words(found: Dimensions) -> str:
    """In plain words, with the first eigenvalue's part of all variance."""
    k = len(found.eigenvalues)
    first = found.eigenvalues[0] / k if k else 0.0
    if found.count <= 1:
        return f"It seems to measure one thing ({percent(first)} of what items vary in is common to them)."
    second = found.eigenvalues[0] / found.eigenvalues[1] if found.eigenvalues[1] > 0 else 0.0
    ratio = f"the first is {coefficient(second, 1)} times as strong as the second"
    return f"{found.count} things vary together more than chance brings; {ratio}. Look whether the parts belong in one score."
