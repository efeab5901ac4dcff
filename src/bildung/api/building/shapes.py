"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Id, Out, Pair, QuestionOut, Tool
from bildung.core.assembly.blueprint import Held
from bildung.formats.blueprint import FormSettings, Plan
from bildung.services.building.assembling import Clash, Nearby, PlacedItem
from bildung.services.building.forms import FormLine
from bildung.services.sitting.taking import PartShown


class NewForm(BaseModel):
    name: str
    title: str = ""
    subject: str = ""
    grade: str = ""
    kind: str = ""
    blueprint_id: str | None = None


class FormItems(BaseModel):
    """revision: of the form as it was seen; a change since then is a conflict."""

    revision: int
    items: list[str]
    parts: list[int] | None = None


class Security(BaseModel):
    """secure: None as the kind of the test has it. stays: also after it was taken."""

    secure: bool | None
    stays: bool


class Publish(BaseModel):
    revision: int


class FormsOut(Out):
    finding: str
    forms: list[FormLine]


class BlueprintIn(BaseModel):
    revision: int = 0
    name: str
    subject: str = ""
    grade: str = ""
    kind: str = ""
    content: Plan


class DepthOut(Pair):
    depth: str
    items: int


class Ends(Pair):
    low: float
    high: float


class PredictedOut(Out):
    items: int
    known: int
    points: float
    known_points: float
    minutes: float
    untimed: int
    mean: float | None
    mean_ci95: Ends | None
    share: float | None
    sd: float | None
    alpha: float | None
    sem: float | None
    distribution: list[float]
    unknown: list[str]
    depths: list[DepthOut]
    used: int
    why: dict[str, str]


class OutlookOut(Out):
    predicted: PredictedOut
    held: list[Held]
    retired: list[str]
    finding: str


class AssembleIn(BaseModel):
    """fixed: ids of item versions by form. window_id: items planned in it are left, where once_a_window is asked."""

    forms: int = Field(default=1, ge=1, le=8)
    anchor: int = Field(default=0, ge=0, le=100)
    overlap: int = Field(default=0, ge=0, le=100)
    fixed: list[list[str]] = []
    excluded: list[str] = []
    least_r: float | None = Field(default=None, ge=-1, le=1)
    most_used: int | None = Field(default=None, ge=0, le=100)
    once_a_window: bool = True
    unsat: int | None = Field(default=None, ge=0, le=200)
    flagged: bool = False
    window_id: str | None = None
    seconds: float = Field(default=20, ge=1, le=120)
    job: str = ""


class OfferedOut(Out):
    items: list[PlacedItem]
    predicted: PredictedOut
    held: list[Held]


class AssemblyOut(Out):
    finding: str
    forms: list[OfferedOut]
    deviation: float | None
    bound: float | None
    candidates: int
    clashes: list[Clash]
    irreducible: bool
    nearest: Nearby | None


class PlaceIn(BaseModel):
    version_id: str
    part: int = 0


class KeepIn(BaseModel):
    name: str
    title: str = ""
    forms: list[list[PlaceIn]] = Field(max_length=8)


class KeptForms(Out):
    family_id: Id | None
    forms: list[Id]


class KindOut(Out):
    """says: what it is for. same: everyone gets the same questions."""

    name: str
    says: str
    same: bool


class CompanionRuleIn(BaseModel):
    form_id: str
    group_id: str | None = None
    person_id: str | None = None


class CompanionIn(BaseModel):
    way: Literal["shortened", "adapted", "demanding", "alternate", "parallel", "mirror"]
    share: float = 0.5
    options: int | None = 3
    harder: float = 0.12
    class_id: str | None = None
    person_id: str | None = None
    seed: int = Field(1, ge=0, le=2**31)
    job: str = Field("", max_length=40)


class MoveSessionIn(BaseModel):
    session_id: str


class TrialOut(Out):
    form_id: Id
    name: str
    title: str
    revision: int
    draft: bool
    questions: list[QuestionOut]
    parts: list[PartShown]
    tools: list[Tool]
    large_print: bool
    read_aloud: bool
    one_by_one: bool
    one_way: bool
    check: bool
    timed: bool
    minutes: int | None
    seed: int | None
    expected: float | None
    says: list[str]


class TrialIn(BaseModel):
    answers: dict[str, str] = Field(max_length=300)


class ReadIn(BaseModel):
    revision: int


class FormChange(BaseModel):
    revision: int
    title: str
    kind: str
    unit: str
    settings: FormSettings


class PagesOut(Out):
    pages: int


class PoolIn(BaseModel):
    revision: int
    unit: str
    earlier: bool
