"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Id, Out
from bildung.services.sessions import irregular, room


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


class OwnTime(BaseModel):
    """Local times of one class."""

    class_id: str
    start: datetime
    end: datetime


class NewSession(BaseModel):
    """start and end: local times of the federation's zone, such as 2026-11-23T08:00; times: of classes that have others."""

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
    why: str = Field("", max_length=300)
    times: list[OwnTime] = Field([], max_length=300)
    instructions: str = Field("", max_length=2000)
    due: datetime | None = None


class ChangeIn(BaseModel):
    """revisions: by session, the one that was seen. start, end: local times. shift: minutes. proctor: an id, or empty for
    nobody. What is left out stays as it is."""

    revisions: dict[str, int] = Field(max_length=300)
    start: datetime | None = None
    end: datetime | None = None
    shift: int | None = Field(None, ge=-60 * 24 * 60, le=60 * 24 * 60)
    room: str | None = Field(None, max_length=60)
    proctor: str | None = None
    form_id: str | None = None
    title: str | None = Field(None, max_length=120)
    instructions: str | None = Field(None, max_length=2000)
    why: str = Field("", max_length=300)
    grant_role: bool = False


class CancelIn(BaseModel):
    ids: list[str] = Field(max_length=300)
    why: str = Field(max_length=300)
    still_owed: bool = True


class StudentsIn(BaseModel):
    people: list[str] = Field(max_length=200)
    why: str = Field("", max_length=300)


class SlotIn(BaseModel):
    """start, end: local times."""

    start: datetime
    end: datetime
    room: str = Field("", max_length=60)
    proctor: str | None = None


class SplitIn(SlotIn):
    people: list[str] = Field(max_length=200)
    why: str = Field("", max_length=300)


class MergeIn(BaseModel):
    into: str


class MakeupIn(BaseModel):
    """A makeup as it was proposed, or changed. session: one that gives the same test. start, end: moments."""

    session: str
    people: list[str] = Field(max_length=200)
    start: datetime
    end: datetime
    room: str = Field("", max_length=60)
    proctor: str | None = None


class MakeupsIn(BaseModel):
    makeups: list[MakeupIn] = Field(max_length=60)


class CoversIn(BaseModel):
    """to: by session, who takes over; empty for nobody."""

    person: str
    day: date
    to: dict[str, str]


class Mark(BaseModel):
    state: Literal["absent", "on_paper", "exempt", "void", "interrupted", "back"]
    why: str = Field("", max_length=500)


class RoomActionIn(BaseModel):
    """sittings: whom it is for; none: everybody who is taking the test."""

    kind: room.Kind
    sittings: list[str] = Field([], max_length=500)
    minutes: int = 0
    text: str = Field("", max_length=500)


class RoomDone(BaseModel):
    """For how many students it was done."""

    students: int


class ReopenIn(BaseModel):
    why: str = Field(max_length=300)


class StopIn(BaseModel):
    why: str = Field("", max_length=200)
    resume: bool = False


class IrregularityDecision(BaseModel):
    outcome: irregular.Outcome
    why: str = Field("", max_length=300)


class OpenAgainIn(BaseModel):
    """until: local time at which the session ends then."""

    until: datetime
    why: str = Field(max_length=300)


class LateIn(BaseModel):
    take: bool
    why: str = Field("", max_length=300)


class ReleaseIn(BaseModel):
    despite: bool = False


class ReportIn(BaseModel):
    text: str = Field(max_length=600)


class ProvidedIn(BaseModel):
    """outcome: offered, used, refused, or empty to take back what was said."""

    kind: str
    outcome: str


class FormSettled(BaseModel):
    """form_id: what the student goes over to; None goes on with the form at hand. carry: answers to shared questions."""

    form_id: str | None
    carry: bool = True
    why: str = Field(max_length=300)


class SupportIn(BaseModel):
    """kind: of the accommodation for which a person is needed."""

    staff_id: str
    kind: str
    students: list[str] = Field(min_length=1, max_length=100)


class SubstituteIn(BaseModel):
    """From the proctor's sheet, and the name of whoever types it."""

    code: str = Field(max_length=20)
    name: str = Field(max_length=200)


class SubstituteCode(BaseModel):
    code: str


class SubstituteEntered(BaseModel):
    session: Id
