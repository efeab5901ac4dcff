"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Id, Out, QuestionOut, Tool
from bildung.services.sitting.signs import DeviceCheck, RoomStanding, Sign
from bildung.services.sitting.taking import PartShown


class PaperOut(Out):
    sitting: Id
    title: str
    name: str
    state: str
    end: datetime
    csrf: str
    delivery: str
    takeover: int
    sequence: int
    questions: list[QuestionOut]
    large_print: bool
    read_aloud: bool
    tools: list[Tool]
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
    afterward: str
    submit_from: datetime | None
    brief_until: datetime | None
    timed: bool
    section_end: datetime | None


class AnswerIn(BaseModel):
    """Limits are those of each question, and are judged answer by answer: none of them may hold up the others. about: answer,
    or what is made beside it: notes or sketch."""

    id: str
    question: str
    answer: str
    takeover: int
    sequence: int
    about: str = "answer"


class VisitIn(BaseModel):
    """One time that a question was before the student. begin: seconds since the attempt came to the device; tenths: of a
    second that it lasted."""

    question: str
    begin: int
    tenths: int


class TimeIn(BaseModel):
    """milliseconds: that the question was before the student on this device so far; more than a day counts as a day."""

    question: str
    milliseconds: float


class AnswersIn(BaseModel):
    """answers: what is no answer at all is refused by itself. reached: the place a student has come to, where a test
    runs one way or by sections; section_ago: how many seconds ago they came to that section."""

    answers: list[AnswerIn | dict[str, Any]]
    reached: int = 0
    section_ago: float = 0.0
    times: list[TimeIn | dict[str, Any]] = []
    visits: list[VisitIn | dict[str, Any]] = []


class RoomSignIn(BaseModel):
    """seconds: that the page was left, or the server out of reach. message: that was read. device: what it found out."""

    kind: Sign
    seconds: int = 0
    message: str = ""
    device: DeviceCheck | None = None


class DeliveryIn(BaseModel):
    """Answers of a student who has left the device. delivery: from their paper. submitted: by the server's clock as the device
    knew it; None where they did not. time_over: the device submitted, as the time it knew of was over."""

    delivery: str = Field(max_length=100)
    answers: list[AnswerIn | dict[str, Any]]
    reached: int = 0
    section_ago: float = 0.0
    times: list[TimeIn | dict[str, Any]] = []
    visits: list[VisitIn | dict[str, Any]] = []
    submitted: datetime | None = None
    time_over: bool = False


class HandInIn(BaseModel):
    """at: when a device without a network submitted, by the server's clock as it knew it; None: now."""

    time_over: bool = False
    at: datetime | None = None


class HandedIn(BaseModel):
    """state: submitted, or going on where there was time left that the device could not know of."""

    state: str


class CheckIn(BaseModel):
    question: str = Field(max_length=20)
