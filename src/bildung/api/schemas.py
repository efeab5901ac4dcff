"""What travels over the wire. Ids are strings."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, model_validator

from bildung.formats.content import Shown
from bildung.services.building.forms import FormLine
from bildung.services.people.directory import PersonLine
from bildung.services.people.log import LogLine
from bildung.services.rosters.check import Discrepancy
from bildung.services.rosters.decisions import DecisionLine
from bildung.services.sessions.listing import SessionLine
from bildung.services.shared import wire
from bildung.services.sitting.feedback import Told
from bildung.services.sitting.taking import PartShown


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


class DemoPerson(Out):
    name: str
    role: str
    username: str
    password: str


class Welcome(Out):
    """provider: what the federation calls its sign-in provider, or empty where none is in use."""

    federation: str
    demo_people: list[DemoPerson]
    provider: str


class StaffSignIn(BaseModel):
    username: str = Field(max_length=120)
    password: str = Field(max_length=200)
    end_others: bool = False


class StudentSignIn(BaseModel):
    session_code: str = Field(max_length=20)
    own_code: str = Field(max_length=20)


class Station(Out):
    name: str
    path: str


class Me(Out):
    name: str
    roles: list[str]
    csrf: str
    stations: list[Station]
    may: list[str]
    must_change: bool
    zone: str


class PeopleOut(Out):
    people: list[PersonLine]
    total: int


class GradeCount(Out):
    grade: str
    students: int


class PeopleOverview(Out):
    finding: str
    students: int
    staff: int
    classes: int
    in_no_class: int
    grades: list[GradeCount]


class StimulusShown(Out):
    """As a student sees it; nothing by which staff call it."""

    title: str
    kind: str
    html: str
    numbered: bool
    media: str
    told: str
    credit: str


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


class Publish(BaseModel):
    revision: int


class FormsOut(Out):
    finding: str
    forms: list[FormLine]


class WindowOut(Out):
    id: Id
    name: str
    start: date
    end: date


class CalendarOut(Out):
    zone: str
    today: date
    start: date
    end: date
    windows: list[WindowOut]


class NewWindow(BaseModel):
    name: str
    start: date
    end: date


class Made(Out):
    ids: list[Id]


class FormChoice(Out):
    """companions: other forms of its family. alike: forms that may be dealt out in turn. parts: names, where a test can
    be sat part by part."""

    id: Id
    name: str
    subject: str
    grade: str
    companions: int
    alike: int
    parts: list[str]


class ClassChoice(Out):
    id: Id
    title: str
    school: str
    subject: str
    grade: str
    room: str


class StaffChoice(Out):
    """may_hold: whether their role lets them hold a session."""

    id: Id
    name: str
    may_hold: bool


class Choices(Out):
    forms: list[FormChoice]
    classes: list[ClassChoice]
    staff: list[StaffChoice]


class NewSession(BaseModel):
    """start and end: local times of the federation's zone, such as 2026-11-23T08:00."""

    form_id: str
    window_id: str
    class_ids: list[str]
    room: str = Field("", max_length=60)
    proctor_id: str | None = None
    start: datetime
    end: datetime
    part: int | None = Field(None, ge=0, le=11)
    deal: bool = False
    grant_role: bool = False


class SessionsOut(Out):
    """absent, pending: sittings of all these sessions; pending ones are not started or still open."""

    finding: str
    absent: int
    pending: int
    sessions: list[SessionLine]


class Mark(BaseModel):
    state: Literal["absent", "exempt", "void", "back"]
    why: str = Field("", max_length=500)


class SitterOut(Out):
    """kind: staff, family, student (their own page) or sitting; says where to go on."""

    csrf: str
    kind: str


class QuestionOut(Out):
    id: Id
    number: int
    shown: Shown
    stimulus: StimulusShown | None
    answer: str
    part: int
    hints: list[str]
    final: bool


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


class OpenAgainIn(BaseModel):
    """until: local time at which the session ends then."""

    until: datetime
    why: str = Field(max_length=300)


class LateIn(BaseModel):
    take: bool
    why: str = Field("", max_length=300)


class ReleaseIn(BaseModel):
    despite: bool = False


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


class CheckIn(BaseModel):
    question: str = Field(max_length=20)


class ReviewOut(Out):
    title: str
    sentence: str
    questions: list[QuestionOut]
    told: list[Told]


Anything = dict[str, Any]


class RosterCheckOut(Out):
    finding: str
    discrepancies: list[Discrepancy]
    counts: dict[str, int]
    decisions: list[DecisionLine]


class SettleIn(BaseModel):
    """report_id: a reported error, settled by itself. session_id: a planned session. other_id: the second of two people."""

    step: str
    person_id: str | None = None
    class_id: str | None = None
    report_id: str | None = None
    session_id: str | None = None
    other_id: str | None = None


class ReportIn(BaseModel):
    text: str = Field(max_length=600)


class NewCodeOut(Out):
    code: str


class LogOut(Out):
    lines: list[LogLine]
    total: int


class PasswordChange(BaseModel):
    old: str = Field(max_length=200)
    new: str = Field(max_length=400)


class TemporaryOut(Out):
    """Told once: it is not kept in a form that anybody could read."""

    password: str


class Erase(BaseModel):
    why: str = Field(max_length=600)


class RecordOut(Out):
    record: Anything
