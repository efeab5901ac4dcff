"""What travels over the wire. Ids are strings."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, model_validator

from bildung.formats.content import Shown


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


class Named(Pair):
    name: str
    value: str | int


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


class PreviewLine(Out):
    fate: Literal["added", "changed", "left_out", "same"]
    what: str
    id: str
    label: str
    detail: str


class PreviewOut(Out):
    """lines: the first of each fate; what stays the same is only counted. ask: wants a yes before it is applied."""

    id: str
    lines: list[PreviewLine]
    counts: dict[str, int]
    applied: bool
    ask: str


class PersonOut(Out):
    id: Id
    name: str
    student: bool
    grade: str
    school: str
    classes: str
    roles: str
    code: str | None
    kind: str


class PeopleOut(Out):
    people: list[PersonOut]
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


class StimulusView(StimulusShown):
    id: Id
    code: str
    number: int


class VerdictOut(Out):
    """What was decided about an item. answered: it went into field test for it."""

    id: Id
    version: int
    verdict: str
    words: str
    reason: str
    by: str
    at: datetime
    where: str
    answered: bool


class UseOut(Out):
    """One administration of an item; figures of fewer than five students are None."""

    form_id: Id
    form: str
    window_id: Id
    window: str
    grade: str
    at: datetime
    version: int
    n: int
    p: float | None
    p_ci95: list[float] | None
    r_rest: float | None
    wrong: str
    wrong_share: float | None
    flags: list[dict[str, str]]
    sound: bool | None


class ThinOut(Out):
    code: str
    text: str
    priority: bool
    items: int
    easy: int
    middle: int
    hard: int
    unknown: int
    depths: list[int]


class WornOut(Out):
    item_id: Id
    code: str
    standard: str
    what: str


class HealthOut(Out):
    finding: str
    items: int
    enough: int
    standards: int
    thin: list[ThinOut]
    worn: list[WornOut]
    flagged: list[WornOut]
    unused: list[WornOut]
    untold: list[WornOut]
    waiting: list[WornOut]
    counts: dict[str, int]


class StandardOut(Out):
    code: str
    text: str
    subject: str
    grade: str
    items: int


class FirstStepOut(Out):
    name: str
    why: str
    done: str
    path: str
    may: bool


class FirstStepsOut(Out):
    """complete: somebody has handed in; nothing is to be set up any more."""

    finding: str
    complete: bool
    steps: list[FirstStepOut]


class BankOverview(Out):
    finding: str
    standards: list[StandardOut]
    subjects: list[str]
    grades: list[str]


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


class FormLineOut(Out):
    id: Id
    name: str
    title: str
    subject: str
    grade: str
    items: int
    published_at: datetime | None
    sessions: int
    kind: str
    family_id: Id | None
    family: str
    role: str
    standards: list[str]
    marks_itself: bool
    unit: str
    owner: str
    on_paper: bool


class FormsOut(Out):
    finding: str
    forms: list[FormLineOut]


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


class SessionOut(Out):
    id: Id
    code: str
    form_id: Id
    form: str
    window_id: Id
    window: str
    class_id: Id
    klass: str
    school: str
    room: str
    proctor: str
    start: datetime
    end: datetime
    phase: Literal["ahead", "open", "closed"]
    counts: dict[str, int]
    part: str
    released_at: datetime | None


class SessionsOut(Out):
    """absent, pending: sittings of all these sessions; pending ones are not started or still open."""

    finding: str
    absent: int
    pending: int
    sessions: list[SessionOut]


class SittingOut(Out):
    id: Id
    person: Id
    name: str
    code: str | None
    state: str
    answered: int
    last_at: datetime | None
    handed_in_at: datetime | None
    needs: str
    until: datetime
    items: int
    form: str
    form_id: Id | None


class LateAnswerOut(Out):
    """An answer that came when it could no longer be taken. now: what counts at present."""

    id: str
    sitting: Id
    name: str
    item: str
    answer: str
    now: str
    at: datetime
    why: str


class SessionDetailOut(Out):
    finding: str
    session: SessionOut
    items: int
    sittings: list[SittingOut]
    may_run: bool
    may_judge: bool
    may_release: bool
    still_to_come: list[str]
    site_address: str
    may_open_again: bool
    late: list[LateAnswerOut]


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


class PartShownOut(Out):
    name: str
    instructions: str
    minutes: int | None


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
    parts: list[PartShownOut]
    full_name: str
    review_follows: bool
    now: datetime


class StandingOut(Out):
    state: str
    end: datetime
    takeover: int
    now: datetime


class WhoseOut(Out):
    """Who would begin with these codes, to be asked before anything is changed. resumes: the test was begun already,
    on this or another device; answered: how many questions are answered then."""

    name: str
    grade: str
    title: str
    klass: str
    resumes: bool
    answered: int


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


class ToldOut(Out):
    question: Id
    number: int
    verdict: Literal["right", "partly", "wrong", "waits", "open"]
    earned: float | None
    points: float
    right: str
    solution: str


class ReviewOut(Out):
    title: str
    sentence: str
    questions: list[QuestionOut]
    told: list[ToldOut]


class ReceiptOut(Out):
    acknowledged: list[str]
    refused: list[Named]
    takeover: int
    state: str


Anything = dict[str, Any]


class ChoiceOut(Pair):
    id: Id
    name: str


class StepOut(Out):
    step: str
    label: str
    person_id: Id | None
    class_id: Id | None
    report_id: Id | None
    session_id: Id | None
    other_id: Id | None
    choices: list[ChoiceOut]


class DiscrepancyOut(Out):
    kind: str
    who: str
    what: str
    cause: str
    steps: list[StepOut]


class DecisionOut(Out):
    """Something decided against the records, which the next file does not undo."""

    id: Id
    says: str
    by: str
    at: datetime


class RosterCheckOut(Out):
    finding: str
    discrepancies: list[DiscrepancyOut]
    counts: dict[str, int]
    decisions: list[DecisionOut]


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


class SittingOfOut(Out):
    session_id: Id
    form: str
    window: str
    klass: str
    at: datetime
    state: str


class NewCodeOut(Out):
    code: str


class LogLineOut(Out):
    id: Id
    at: datetime
    who: str
    action: str
    subject: str
    before: str
    after: str
    why: str


class LogOut(Out):
    lines: list[LogLineOut]
    total: int


class PasswordChange(BaseModel):
    old: str = Field(max_length=200)
    new: str = Field(max_length=400)


class SignInOut(Out):
    id: Id
    created_at: datetime
    seen_at: datetime | None
    device: str
    here: bool


class TemporaryOut(Out):
    """Told once: it is not kept in a form that anybody could read."""

    password: str


class Erase(BaseModel):
    why: str = Field(max_length=600)


class RecordOut(Out):
    record: Anything
