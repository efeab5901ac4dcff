"""Shapes that several stations send: ids as text, pairs, previews, jobs."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, model_validator

from bildung.formats.content import Shown
from bildung.services.people.named import NamedPerson
from bildung.services.shared import wire
from bildung.services.sitting.feedback import Told
from bildung.services.sitting.reviewing import StandardResult


def _as_text(value: Any) -> Any:
    return value if value is None else str(value)


Id = Annotated[str, BeforeValidator(_as_text)]


class Out(BaseModel):
    """Read from the services' objects by attribute."""

    model_config = ConfigDict(from_attributes=True)


class Pair(Out):
    """Made from a pair in the order of its fields."""

    @model_validator(mode="before")
    @classmethod
    def _from_pair(cls, value: Any) -> Any:
        return dict(zip(cls.model_fields, value, strict=True)) if isinstance(value, tuple) else value


def _made(kind: type) -> BeforeValidator:
    return BeforeValidator(lambda value: kind(*value) if isinstance(value, tuple) else value)


Named = Annotated[wire.Named, _made(wire.Named)]


Ref = Annotated[wire.Ref, _made(wire.Ref)]


class ProblemOut(BaseModel):
    """RFC 9457. place: the field, file or object it is about."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    place: str | None = None


class StimulusShown(Out):
    """As a student sees it; nothing by which staff call it."""

    title: str
    kind: str
    html: str
    numbered: bool
    media: str
    told: str
    credit: str


class Made(Out):
    ids: list[Id]


class SitterOut(Out):
    """kind: staff, family, student (their own page) or sitting; says where to go on."""

    csrf: str
    kind: str


Tool = Literal["calculator", "scientific", "ruler", "protractor", "sketch", "highlighter", "crossing_out", "notes"]


class QuestionOut(Out):
    id: Id
    number: int
    shown: Shown
    stimulus: StimulusShown | None
    answer: str
    part: int
    hints: list[str]
    final: bool
    notes: str
    sketch: str


class ReviewOut(Out):
    title: str
    sentence: str
    questions: list[QuestionOut]
    told: list[Told]
    standards: list[StandardResult] = []
    corrected_at: datetime | None = None


Anything = dict[str, Any]


class PasswordChange(BaseModel):
    old: str = Field(max_length=200)
    new: str = Field(max_length=400)


class BehindOut(Out):
    """n: how many; hidden: those of them whom this person may not see by name."""

    n: int
    named: list[NamedPerson]
    hidden: int


class JobOut(Out):
    what: str
    done: int
    total: int


class ApplyIn(BaseModel):
    """yes: the answer to what the preview asks."""

    yes: bool = False


class IdOut(Out):
    id: Id
