"""What travels about people, classes, groups, years, plans and the federation's settings."""

from __future__ import annotations

from datetime import date
from typing import Any

from pydantic import BaseModel, Field

from bildung.api.schemas import Id, Named, Out, Ref
from bildung.services.calendar.pacing import PlanLine
from bildung.services.people.attributes import AttributeLine
from bildung.services.people.classes import ClassLine
from bildung.services.people.colleagues import ColleagueLine
from bildung.services.people.groups import GroupLine
from bildung.services.upkeep.backups import Backups
from bildung.services.upkeep.retention import Due


class NeedsBody(Out):
    """Accommodations; see store/models/people.py."""

    extra_time: float = 1.0
    small_group: bool = False
    own_proctor: bool = False
    read_aloud: bool = False
    large_print: bool = False
    breaks: bool = False
    form_kind: str = ""
    language: str = ""
    note: str = ""


class ConfirmIn(BaseModel):
    yes: bool


class FamilyIn(BaseModel):
    given: str
    family: str
    username: str
    relation: str = ""


class FamilyMadeOut(Out):
    """password: temporary and told once; None where the family had an account."""

    password: str | None


class RoleIn(BaseModel):
    role: str
    school_id: str | None = None


class ColleaguesOut(Out):
    colleagues: list[ColleagueLine]
    could_ask: list[Ref]


class ShowIn(BaseModel):
    person_id: str


class JobOut(Out):
    what: str
    done: int
    total: int


class ApplyIn(BaseModel):
    """yes: the answer to what the preview asks."""

    yes: bool = False


class ClassesOut(Out):
    finding: str
    classes: list[ClassLine]
    years: list[Ref]
    shown: Id | None


class DoorIn(BaseModel):
    open_door: bool
    fresh_code: bool = False


class CodeOut(Out):
    code: str


class AskIn(BaseModel):
    code: str = Field(max_length=20)
    given: str = Field(max_length=80)
    family: str = Field(max_length=80)


class TicketOut(Out):
    ticket: str


class TicketIn(BaseModel):
    ticket: str = Field(max_length=80)


class TicketStateOut(Out):
    state: str
    klass: str


class DecideIn(BaseModel):
    """let_in: or not. person_id: the student who is here already; None makes a new one. why: where the names differ."""

    let_in: bool
    person_id: str | None = None
    why: str = Field("", max_length=300)


class GroupsOut(Out):
    finding: str
    groups: list[GroupLine]
    attributes: list[str]
    allowed: str
    needs: list[Named]


class RuleIn(BaseModel):
    rule: str = Field(max_length=1000)
    school_id: str | None = None


class GroupIn(BaseModel):
    name: str
    rule: str | None = None
    school_id: str | None = None
    members: list[str] = []


class GroupChange(BaseModel):
    name: str
    rule: str | None = None


class MembersIn(BaseModel):
    add: list[str] = []
    drop: list[str] = []


class StaffIn(BaseModel):
    person_id: str
    works: bool


class YearIn(BaseModel):
    title: str
    start: date
    end: date
    weekdays: list[bool]


class IdOut(Out):
    id: Id


class ClosedIn(BaseModel):
    name: str
    start: date
    end: date
    school_id: str | None = None


class WindowChange(BaseModel):
    name: str
    start: date
    end: date


class RolloverIn(BaseModel):
    title: str
    start: date
    end: date
    stay: list[str] = []


class PlansOut(Out):
    finding: str
    plans: list[PlanLine]


class TaughtIn(BaseModel):
    """on: the day, or None to take it back."""

    class_id: str
    lesson_id: str
    on: date | None


class SettingsBody(BaseModel):
    values: dict[str, Any]


class SettingsOut(Out):
    values: dict[str, Any]
    due: Due
    attributes: list[AttributeLine]
    standins: dict[str, str]
    backups: Backups


class AttributeIn(BaseModel):
    name: str
    seen_by: str


class LookIn(BaseModel):
    bulk: bool = False


class TakeIn(BaseModel):
    take: bool


class ColumnsKnownOut(Out):
    columns: list[str]


SettingsOut.model_rebuild()
