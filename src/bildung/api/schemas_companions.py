"""What travels over the wire about families of forms, corrections, trial runs and settings."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.schemas import Id, Out, QuestionOut
from bildung.formats.blueprint import FormSettings
from bildung.services.sitting.taking import PartShown


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
