"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from datetime import date
from typing import Any

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Anything, Id, Named, Out, Ref
from bildung.services.people.attributes import AttributeLine
from bildung.services.people.classes import ClassLine
from bildung.services.people.directory import PersonLine
from bildung.services.people.groups import GroupLine
from bildung.services.people.log import LogLine
from bildung.services.upkeep.backups import Backups
from bildung.services.upkeep.retention import Due


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


class NewCodeOut(Out):
    code: str


class LogOut(Out):
    lines: list[LogLine]
    total: int


class TemporaryOut(Out):
    """Told once: it is not kept in a form that anybody could read."""

    password: str


class Erase(BaseModel):
    why: str = Field(max_length=600)


class RecordOut(Out):
    record: Anything


class AccommodationBody(BaseModel):
    """As it is entered; see store/models/people.py."""

    kind: str
    value: str = Field("", max_length=200)
    subject: str = Field("", max_length=60)
    test_kind: str = ""
    source: str = ""
    note: str = ""
    start: date | None = None
    until: date | None = None


class ApproveIn(BaseModel):
    ids: list[str] = Field(min_length=1, max_length=2000)


class DeclineIn(BaseModel):
    why: str = Field(max_length=300)


class CaseManagerIn(BaseModel):
    person_id: str | None


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


class ColumnsKnownOut(Out):
    columns: list[str]


class SeesResultsIn(BaseModel):
    """results: whether this family may see the student's results."""

    results: bool
