"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Id


class RoundIn(BaseModel):
    class_id: Id


class RoundOut(BaseModel):
    id: Id


class LiveAskIn(BaseModel):
    """item: of the bank; None: said aloud, with so many options."""

    item: Id | None = None
    words: str = Field(default="", max_length=300)
    options: int = 4


class ShowQuestionIn(BaseModel):
    what: Literal["counting", "answers", "right"]


class EndRoundIn(BaseModel):
    """evidence: whether results count toward standards."""

    evidence: bool = False


class PressIn(BaseModel):
    device: int
    option: str = Field(max_length=8)


class PressesIn(BaseModel):
    presses: list[PressIn]


class BindIn(BaseModel):
    """numbers: of the response device, by student."""

    numbers: dict[Id, int]


class BoundOut(BaseModel):
    numbers: dict[Id, int]


class LiveAnswerIn(BaseModel):
    question: Id
    answer: str = Field(max_length=20_000)
    way: Literal["school", "home"] = "school"
