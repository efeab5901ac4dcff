"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Id, Out, QuestionOut
from bildung.services.sitting.signs import RoomStanding, Sign
from bildung.services.sitting.taking import PartShown


class PaperOut(Out):
    sitting: Id
    title: str
    name: str
    state: str
    end: datetime
    csrf: str
    takeover: int
    sequence: int
    questions: list[QuestionOut]
    large_print: bool
    read_aloud: bool
    tools: list[Literal["calculator", "ruler", "highlighter", "crossing_out", "notes"]]
    one_by_one: bool
    one_way: bool
    reached: int
    check: bool
    attempt: int
    more: int
    review: bool
    parts: list[PartShown]
    full_name: str
    review_follows: bool
    now: datetime
    room: RoomStanding | None


class AnswerIn(BaseModel):
    """Limits are those of each question, and are judged answer by answer: none of them may hold up the others."""

    id: str
    question: str
    answer: str
    takeover: int
    sequence: int


class TimeIn(BaseModel):
    """milliseconds: that the question was before the student on this device so far; more than a day counts as a day."""

    question: str
    milliseconds: float


class AnswersIn(BaseModel):
    """answers: what is no answer at all is refused by itself. reached: the place a student has come to, where a test
    runs one way."""

    answers: list[AnswerIn | dict[str, Any]]
    reached: int = 0
    times: list[TimeIn | dict[str, Any]] = []


class RoomSignIn(BaseModel):
    """seconds: that the page was left. message: that was read."""

    kind: Sign
    seconds: int = 0
    message: str = ""


class CheckIn(BaseModel):
    question: str = Field(max_length=20)
