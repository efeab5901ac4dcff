"""What the workbench sends and receives."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.schemas import Id, Named, Out, Pair, StimulusView, UseOut, VerdictOut
from bildung.formats.content import Shown


class Curve(Pair):
    option: str
    share: list[float]


class Bar(Pair):
    score: float
    students: int


class PieceOut(Out):
    text: str
    figure: str | None
    item: str | None
    urgent: bool


class FlagOut(Out):
    flag: str
    weight: Literal["problem", "look", "note"]
    why: str
    option: str | None


class OptionRowOut(Out):
    option: str
    kind: str
    is_key: bool
    n: int
    share: float | None
    mean_total: float | None
    mean_rest: float | None
    r_rest: float | None
    fifths: list[float | None]


class SatOut(Out):
    form_id: Id
    form: str
    subject: str
    grade: str
    window_id: Id
    window: str
    latest: datetime
    sat: int
    absent: int
    alpha: float | None
    mean: float | None
    low: float | None
    high: float | None
    points: float
    sound: int
    look: int
    items: int
    profile: list[float]
    first: list[PieceOut]


class SatListOut(Out):
    """undecided: items that want a verdict, in whatever window."""

    finding: str
    undecided: int
    tests: list[SatOut]


class FigureOut(Out):
    name: str
    title: str
    plain: str
    formula: str
    source: str
    caution: str


class WorkingsOut(Out):
    figure: FigureOut
    result: str
    numbers: list[Named]
    counted: int
    left_out: list[Named]
    limits: list[Named]
    why_none: str | None


class CurvesOut(Out):
    x: list[float]
    behind: list[float]
    curves: list[Curve]
    bandwidth: float


class GroupScoreOut(Out):
    group: str
    n: int | None
    mean: float | None
    ci95: list[float] | None
    hidden: bool


class GroupedOut(Out):
    groups: list[GroupScoreOut]
    n: int
    mean: float | None
    least: int


class ComparedOut(Out):
    finding: str
    attributes: list[str]
    by: str
    grouped: GroupedOut | None


class AroundOut(Out):
    """A wider group that a narrowed view is held against. p: of each item, in the order of the test."""

    name: str
    n: int
    p: list[float | None]


class ItemFigures(Out):
    """text: how it begins. left_out: who is not in n, and why. judged_on: students that flags and verdict rest on, where it is more than n."""

    number: int
    item: str
    version_id: Id
    text: str
    kind: str
    points: float
    standards: list[str]
    depth: int | None
    part: str
    n: int
    n_r: int
    n_omitted: int
    n_not_reached: int
    p: float | None
    p_ci95: list[float] | None
    r_rest: float | None
    r_rest_ci95: list[float] | None
    d27: float | None
    alpha_without: float | None
    sound: bool | None
    judged_on: int | None
    verdict: str
    flags: list[FlagOut]
    options: list[OptionRowOut]
    left_out: list[Named]
    why: dict[str, str]


class TestFigures(Out):
    n: int
    k: int
    points: float
    mean: float | None
    min: float | None
    max: float | None
    sd: float | None
    sem: float | None
    median: float | None
    ceiling: float | None
    alpha: float | None
    alpha_ci95: list[float] | None
    alpha_ci_method: str | None
    histogram: list[Bar]
    why: dict[str, str]


class LimitOut(BaseModel):
    """A number that flags rest on. usual: where nobody changed it."""

    name: str
    value: float
    usual: float


class FormHereOut(Out):
    id: Id
    name: str
    title: str
    subject: str
    grade: str


class QualityOut(Out):
    """milliseconds: what reading and computing took."""

    forms: list[FormHereOut]
    counts: dict[str, int]
    judged_on: int | None
    levels: list[AroundOut]
    test: TestFigures
    items: list[ItemFigures]
    finding: list[PieceOut]
    watch_line: float
    limits: list[LimitOut]
    milliseconds: float
    may_see_names: bool
    may_decide: bool


class ScopeChoiceOut(Out):
    id: str
    name: str
    n: int
    chosen: bool


class ScopeOut(Out):
    words: list[str]
    forms: list[ScopeChoiceOut]
    related: list[ScopeChoiceOut]
    windows: list[ScopeChoiceOut]
    schools: list[ScopeChoiceOut]
    grades: list[ScopeChoiceOut]
    classes: list[ScopeChoiceOut]
    groups: list[ScopeChoiceOut]


class SubScoreOut(Out):
    name: str
    places: list[int]
    points: float
    n: int
    mean: float | None
    ci95: list[float] | None
    sd: float | None
    alpha: float | None
    alpha_ci95: list[float] | None
    sem: float | None
    from_part: float | None
    from_total: float | None
    says_more: bool | None
    why: dict[str, str]


class SubScoresOut(BaseModel):
    finding: str
    by: str
    groups: list[SubScoreOut]


class BesideOut(Out):
    kind: str
    name: str
    n: int
    p: float | None
    ci95: list[float] | None
    mine: bool


class NoteLineOut(Out):
    answer: str
    note: str
    link: str


class ItemTimeOut(Out):
    item: str
    n: int
    median: float | None
    quartiles: list[float] | None
    threshold: float | None
    rapid: int
    p: float | None
    p_all: float | None
    rapid_p: float | None
    p_without: float | None
    reached: float | None


class AnswerCountOut(Pair):
    answer: str
    n: int
    points: float


class VersionMadeOut(Pair):
    number: int
    made: datetime


class TwoMarkersOut(Out):
    first: str
    second: str
    n: int
    exact: float
    adjacent: float
    difference: float
    weighted_kappa: float | None


class SuggestionOut(Out):
    way: str
    answer: str
    why: str


class ItemShownOut(Out):
    """The item as a student saw it, with what staff know of it."""

    version_id: Id
    item_id: Id
    code: str
    number: int
    kind: str
    state: str
    shown: Shown
    points: float
    standards: list[str]
    key: str
    stimulus: StimulusView | None


class ItemViewOut(Out):
    finding: str
    item: ItemShownOut
    number: int
    says: str
    curves: CurvesOut | None
    notes: list[NoteLineOut]
    beside: list[BesideOut]
    time: ItemTimeOut | None
    answers: list[AnswerCountOut]
    uses: list[UseOut]
    versions: list[VersionMadeOut]
    marking: list[TwoMarkersOut]
    verdicts: list[VerdictOut]
    suggestions: list[SuggestionOut]


class MovedOut(Out):
    before: float | None
    after: float | None


class WhatIfOut(Out):
    way: str
    answer: str
    p: MovedOut
    r_rest: MovedOut
    alpha: MovedOut
    mean: MovedOut
    sd: MovedOut
    points: MovedOut
    n: int
    up: int
    down: int
    most: float
    line: float
    over: int
    under: int
    reordered: float | None


class MovesOut(BaseModel):
    says: str
    moved: WhatIfOut


class GivenOut(Out):
    person: Id
    sitting: Id
    student: str
    class_id: Id
    klass: str
    answer: str
    reason: str
    state: str


class LabelOut(Out):
    text: str
    share: float
    parts: list[float] | None


class GridItemOut(Out):
    """codes: by student 0 to 3 a state, 4 and more the place among the labels, as base64 of two bytes each, low first."""

    number: int
    item: str
    kind: str
    points: float
    standards: list[str]
    key: str
    letters: bool
    parts: list[str]
    p: float | None
    fit: float
    surprises: int
    says: str
    labels: list[LabelOut]
    codes: str


class GridStudentOut(Out):
    sitting: Id
    person: Id
    name: str
    klass: str
    form: str
    earned: float
    possible: float
    share: float | None
    rank: float | None
    fit: float
    unexpected: list[int]
    omitted: int
    not_reached: int
    alias: int


class GridOut(Out):
    finding: str
    of: int
    watch_line: float
    students: list[GridStudentOut]
    items: list[GridItemOut]


class OpenedOut(Out):
    says: str
    residuals: list[float]


class GroupItemOut(Out):
    item: str
    n: int
    p: float | None
    ci95: list[float] | None


class GroupHeadOut(Out):
    name: str
    n: int
    mean: float | None
    mine: bool


class CompareLineOut(Out):
    name: str
    number: int | None
    standard: str
    text: str
    cells: list[GroupItemOut]
    taught: list[bool | None]


class CompareFindingOut(Out):
    item: str
    group: str | None
    finding: str
    difference: float | None
    ci95: list[float] | None
    odds_ratio: float | None
    d_dif: float | None
    d_dif_se: float | None
    p_value: float | None
    p_adjusted: float | None


class ComparisonOut(Out):
    finding: str
    by: str
    of: str
    groups: list[GroupHeadOut]
    lines: list[CompareLineOut]
    findings: list[CompareFindingOut]
    says: dict[str, str]
    note: str


class MatchedOut(Out):
    odds_ratio: float | None
    chi2: float | None
    p_value: float | None
    d_dif: float | None
    d_dif_se: float | None
    std_p_difference: float | None
    smd: float | None
    strata_used: int
    strata_dropped: int
    why: str | None


class SideOut(Out):
    n: int
    p: float | None
    ci95: list[float] | None


class StretchOut(Out):
    low: float
    high: float
    reference: SideOut
    focal: SideOut


class FunctioningItemOut(Out):
    number: int
    item: str
    text: str
    standards: list[str]
    matched: MatchedOut
    size: str | None
    picture: list[StretchOut]
    says: str


class LevelOut(Pair):
    name: str
    n: int


class FunctioningOut(Out):
    finding: str
    attribute: str
    levels: list[LevelOut]
    reference: str
    focal: str
    n_reference: int
    n_focal: int
    exploratory: bool
    items: list[FunctioningItemOut]


class CarryingOut(Out):
    number: int
    item: str
    answer: str
    n: int
    share: float


class WhoOut(Out):
    person: Id
    name: str
    klass: str
    gave: int
    could: int


class MistakeOut(Out):
    note: str
    link: str
    carriers: list[CarryingOut]
    n: int
    answers: int
    held: int
    who: list[WhoOut]


class AlikeOut(Out):
    notes: list[str]
    n: int
    who: list[WhoOut]


class MistakesOut(Out):
    finding: str
    noted: int
    of: int
    mistakes: list[MistakeOut]
    alike: list[AlikeOut]


class NumberedTimeOut(Pair):
    number: int
    time: ItemTimeOut


class TotalWithoutOut(Out):
    n: int
    mean: float | None
    sd: float | None
    alpha: float | None


class HastyOut(Out):
    person: Id
    name: str
    klass: str
    effort: float
    rapid: int
    minutes: float
    share: float | None


class EffortOut(Out):
    finding: str
    n: int
    known: int
    minutes: list[float] | None
    limit: int | None
    reached_last: float | None
    reached_80: float | None
    items: list[NumberedTimeOut]
    little: int
    rapid: int
    all: TotalWithoutOut
    answers_left_out: TotalWithoutOut
    students_left_out: TotalWithoutOut
    hasty: list[HastyOut]
    least_effort: float
    unfinished: float | None


class CoefficientOut(Out):
    figure: str
    value: float | None
    ci95: list[float] | None
    why: str


class ErrorAtOut(Out):
    score: float
    error: float | None
    students: int


class ClassificationOut(Out):
    accuracy: float
    consistency: float
    shape: str


class CutOut(Out):
    name: str
    share: float
    points: float
    passing: float
    near: float | None
    result: ClassificationOut | None
    says: str
    why: str


class LengthOut(Out):
    factor: float
    items: int
    reliability: float


class WantedLengthOut(Out):
    reliability: float
    items: int | None


class DimensionsOut(Out):
    eigenvalues: list[float]
    chance: list[float]
    count: int


class TrustOut(Out):
    words: str
    coefficients: list[CoefficientOut]
    sem: float | None
    errors: list[ErrorAtOut]
    conditional_why: str
    cuts: list[CutOut]
    lengths: list[LengthOut]
    wanted: list[WantedLengthOut]
    parts: list[SubScoreOut]
    dimensions: DimensionsOut | None
    dimensions_why: str


class CoveredOut(Out):
    name: str
    low: float
    high: float
    have: float
    count: str
    sat: float
    sound: float
    says: str


class TrustReportOut(Out):
    finding: str
    n: int
    k: int
    points: float
    mean: float | None
    sd: float | None
    by: str
    trust: TrustOut
    dimensions_say: str
    coverage: list[CoveredOut]
    coverage_says: str


class NamedOut(Out):
    """alias: number from 0 to show while names are hidden."""

    person: Id
    name: str
    klass: str
    alias: int


class BehindOut(Out):
    """n: how many; hidden: those of them whom this person may not see by name."""

    n: int
    named: list[NamedOut]
    hidden: int


class NeedsOut(Out):
    person: Id
    name: str
    alias: int
    earned: float
    possible: float


class WrongOut(Out):
    answer: str
    n: int
    share: float
    note: str
    who: list[NamedOut]


class LowOut(Out):
    number: int
    item: str
    text: str
    n: int
    p: float
    flagged: bool
    wrong: list[WrongOut]


class ToTeachOut(Out):
    standard: str
    text: str
    n: int
    points: float
    share: float
    ci95: list[float] | None
    sure: bool
    thin: bool
    need: list[NeedsOut]
    items: list[LowOut]


class ClassHereOut(Out):
    id: Id
    name: str
    n: int


class ReteachOut(Out):
    finding: str
    class_id: Id
    klass: str
    n: int
    watch_line: float
    classes: list[ClassHereOut]
    standards: list[ToTeachOut]


class StandingOut(Out):
    item_id: Id
    item: str
    text: str
    subject: str
    grade: str
    state: str
    latest: VerdictOut
    done: bool
    waits_for: str


class UndecidedOut(Out):
    item_id: Id
    item: str
    text: str
    subject: str
    grade: str
    form_id: Id
    form: str
    window_id: Id
    window: str
    at: datetime
    n: int
    p: float | None
    r_rest: float | None
    urgent: bool
    flags: list[str]
    again: bool


class VerdictsOut(Out):
    finding: str
    undecided: list[UndecidedOut]
    items: list[StandingOut]


class VerdictIn(BaseModel):
    version_id: str
    form_id: str | None = None
    window_id: str | None = None
    verdict: Literal["keep", "rework", "drop", "again", "open"]
    reason: str = Field("", max_length=500)


class ViewOut(Out):
    id: Id
    name: str
    path: str
    query: str


class ViewIn(BaseModel):
    name: str = Field(max_length=80)
    path: str = Field(max_length=400)
    query: str = Field(max_length=4000)


class JobOut(Out):
    what: str
    done: int
    total: int


class ReportQuestionOut(Out):
    name: str
    asks: str
    says: str
    named: bool


class MakeReportIn(BaseModel):
    """of: a class, where the question is about one."""

    question: str = Field(max_length=40)
    format: Literal["pdf", "xlsx"] = "pdf"
    size: Literal["A4", "Letter"] = "A4"
    veiled: bool = False
    of: str = Field("", max_length=20)


class ReportMadeOut(BaseModel):
    id: str


class ReportOut(Out):
    id: Id
    question: str
    title: str
    where: str
    format: str
    named: bool
    veiled: bool
    state: str
    says: str
    pages: int | None
    created_at: datetime
    done_at: datetime | None
    what: str
    done: int
    total: int
