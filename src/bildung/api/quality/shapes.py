"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Id, Named, Out, Pair
from bildung.core.classical.effort import ItemTime
from bildung.core.classical.finding import Piece
from bildung.core.classical.flags import Flag
from bildung.core.classical.whatif import WhatIf
from bildung.core.comparison.grouped import Grouped
from bildung.core.comparison.narrowed import WiderGroup
from bildung.core.precision.subscores import SubScore
from bildung.formats.content import Shown
from bildung.services.answers.itemhistory import Use
from bildung.services.items.bankitem import StimulusView
from bildung.services.items.verdicts import VerdictLine, VerdictStanding
from bildung.services.quality.grid import AnswerLabel, GridStudent
from bildung.services.quality.item import AnswerCount, Beside, NoteLine, Suggestion, TwoMarkers, VersionMade
from bildung.services.quality.lines import TestLine
from bildung.services.quality.overview import FormHere
from bildung.services.quality.undecided import Undecided


class Curve(Pair):
    option: str
    share: list[float]


class Bar(Pair):
    score: float
    students: int


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


class SatListOut(Out):
    """undecided: items that want a verdict, in whatever window."""

    finding: str
    undecided: int
    tests: list[TestLine]


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


class ComparedOut(Out):
    finding: str
    attributes: list[str]
    by: str
    grouped: Grouped | None


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
    flags: list[Flag]
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


class QualityOut(Out):
    """milliseconds: what reading and computing took."""

    forms: list[FormHere]
    counts: dict[str, int]
    judged_on: int | None
    levels: list[WiderGroup]
    test: TestFigures
    items: list[ItemFigures]
    finding: list[Piece]
    watch_line: float
    limits: list[LimitOut]
    milliseconds: float
    may_see_names: bool
    may_decide: bool


class SubScoresOut(BaseModel):
    finding: str
    by: str
    groups: list[SubScore]


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
    notes: list[NoteLine]
    beside: list[Beside]
    time: ItemTime | None
    answers: list[AnswerCount]
    uses: list[Use]
    versions: list[VersionMade]
    marking: list[TwoMarkers]
    verdicts: list[VerdictLine]
    suggestions: list[Suggestion]
    place: Id
    window_id: Id | None


class MovesOut(BaseModel):
    says: str
    moved: WhatIf


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
    labels: list[AnswerLabel]
    codes: str


class GridOut(Out):
    finding: str
    of: int
    watch_line: float
    students: list[GridStudent]
    items: list[GridItemOut]


class VerdictsOut(Out):
    finding: str
    undecided: list[Undecided]
    items: list[VerdictStanding]


class VerdictIn(BaseModel):
    version_id: str
    form_id: str | None = None
    window_id: str | None = None
    verdict: Literal["keep", "rework", "drop", "again", "open"]
    reason: str = Field("", max_length=500)


class ViewIn(BaseModel):
    name: str = Field(max_length=80)
    path: str = Field(max_length=400)
    query: str = Field(max_length=4000)


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


class CommentIn(BaseModel):
    text: str = Field(max_length=2000)
