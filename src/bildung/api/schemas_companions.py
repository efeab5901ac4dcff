"""What travels over the wire about families of forms, corrections, trial runs and settings."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.schemas import Id, Out, Pair, PartShownOut, QuestionOut, ToldOut
from bildung.formats.blueprint import FormSettings


class AgainstOut(Out):
    items: int
    points: float
    standards: int
    missing: list[str]
    more: list[str]
    same_scale: bool
    comparable: str


class FamilyFormOut(Out):
    id: Id
    name: str
    role: str
    scale: str
    published_at: datetime | None
    superseded: bool
    items: int
    points: float
    share: float | None
    minutes: int | None
    faces: int
    large_print: bool
    sessions: int
    against: AgainstOut | None


class CompanionRuleOut(Out):
    id: Id
    form_id: Id
    form: str
    group: str
    person: str
    people: int


class ClaimOut(Pair):
    form_id: Id
    why: str


class UnsettledOut(Out):
    person_id: Id
    name: str
    claims: list[ClaimOut]


class GroupChoice(Pair):
    id: Id
    name: str
    members: int


class FormFamilyOut(Out):
    id: Id
    name: str
    title: str
    finding: str
    forms: list[FamilyFormOut]
    rules: list[CompanionRuleOut]
    by_need: dict[str, int]
    unsettled: list[UnsettledOut]
    total_unsettled: int
    groups: list[GroupChoice]
    may_write: bool


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


class CompanionOut(Out):
    form_id: Id
    family_id: Id | None
    says: str


class TouchedOut(Out):
    session_id: Id
    klass: str
    start: datetime
    begun: int
    left: int
    closed: bool
    moves: bool


class CorrectionOut(Out):
    before_id: Id | None
    before: str
    after_id: Id | None
    after: str
    after_published: bool
    touched: list[TouchedOut]
    says: str


class MoveIn(BaseModel):
    session_id: str


class TrialOut(Out):
    form_id: Id
    name: str
    title: str
    revision: int
    draft: bool
    questions: list[QuestionOut]
    parts: list[PartShownOut]
    tools: list[Literal["calculator", "ruler", "highlighter", "crossing_out", "notes"]]
    large_print: bool
    read_aloud: bool
    one_by_one: bool
    one_way: bool
    check: bool
    minutes: int | None
    seed: int | None
    expected: float | None
    says: list[str]


class TrialIn(BaseModel):
    answers: dict[str, str] = Field(max_length=300)


class TrialToldOut(Out):
    sentence: str
    told: list[ToldOut]


class ReadIn(BaseModel):
    revision: int


class FormChange(BaseModel):
    revision: int
    title: str
    kind: str
    unit: str
    settings: FormSettings


class FormDrawsOut(Out):
    """shares: sorted, of many draws. kept: of plain random ones within the limit."""

    target: float | None
    shares: list[float]
    kept: float | None
    unknown: int
    count: int
    says: str


class BroughtOut(Out):
    form_id: Id
    says: str


class PagesOut(Out):
    pages: int


class UnitStockOut(Out):
    name: str
    items: int


class PoolIn(BaseModel):
    revision: int
    unit: str
    earlier: bool
