"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Id, Out
from bildung.services.sessions.listing import SessionLine


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
