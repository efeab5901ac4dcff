"""What travels about people, classes, groups, years, plans and the federation's settings."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from pydantic import BaseModel, Field

from bildung.api.schemas import Id, Named, Out, Pair, PersonOut, PreviewLine, SittingOfOut


class Ref(Pair):
    """Somebody or something to go to, or to choose."""

    id: Id
    name: str


class Word(Pair):
    name: str
    value: str


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


class ClassOfOut(Out):
    id: Id
    title: str
    role: str
    begins: date | None
    ends: date | None
    active: bool
    past: bool


class FamilyOut(Out):
    id: Id
    name: str
    relation: str
    username: str | None
    last_sign_in_at: datetime | None


class RoleOut(Out):
    id: Id
    role: str
    school: str


class AccountOut(Out):
    """An account of the sign-in provider. waits: nobody has confirmed yet that it is this person's."""

    id: Id
    name: str
    waits: bool
    at: datetime


class ConfirmIn(BaseModel):
    yes: bool


class PersonPageOut(Out):
    finding: str
    person: PersonOut
    source_id: str
    username: str | None
    active: bool
    classes: list[ClassOfOut]
    sittings: list[SittingOfOut]
    may_settle: bool
    needs: NeedsBody | None
    needs_said: str
    may_support: bool
    groups: list[Ref]
    attributes: list[Word]
    families: list[FamilyOut]
    children: list[Ref]
    roles: list[RoleOut]
    may_grant: bool
    last_sign_in_at: datetime | None
    last_place: str
    accounts: list[AccountOut]


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


class ColleagueOut(Out):
    id: Id
    name: str
    classes: str
    since: datetime
    mine: bool


class ColleaguesOut(Out):
    colleagues: list[ColleagueOut]
    could_ask: list[Ref]


class ShowIn(BaseModel):
    person_id: str


class ColumnOut(Out):
    name: str
    field: str
    sample: list[str]


class ColumnsOut(Out):
    rows: int
    columns: list[ColumnOut]
    fields: list[Word]
    schools: list[str]


class JobOut(Out):
    what: str
    done: int
    total: int


class ApplyIn(BaseModel):
    """yes: the answer to what the preview asks."""

    yes: bool = False


class ClassLineOut(Out):
    id: Id
    title: str
    subject: str
    grade: str
    course: str
    period: str
    homeroom: bool
    school: str
    teachers: str
    students: int
    signed_in: int
    waiting: int
    year: str


class ClassesOut(Out):
    finding: str
    classes: list[ClassLineOut]
    years: list[Ref]
    shown: Id | None


class ClassStudentOut(Out):
    id: Id
    name: str
    code: str | None
    begins: date | None
    last_sign_in_at: datetime | None
    last_place: str
    needs: str


class AskingOut(Out):
    id: Id
    name: str
    at: datetime
    matches: list[Ref]
    others: int


class ClassPageOut(Out):
    finding: str
    klass: ClassLineOut
    code: str | None
    open_door: bool
    teachers: list[Ref]
    students: list[ClassStudentOut]
    left: list[str]
    asking: list[AskingOut]
    may_run: bool


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


class GroupOut(Out):
    id: Id
    name: str
    school: str
    rule: str | None
    members: int
    staff: str
    owner: str
    may_change: bool


class GroupsOut(Out):
    finding: str
    groups: list[GroupOut]
    attributes: list[str]
    allowed: str
    needs: list[Named]


class MemberOut(Out):
    id: Id
    name: str
    grade: str
    needs: str


class GroupPageOut(Out):
    finding: str
    group: GroupOut
    members: list[MemberOut]
    staff: list[Ref]
    problem: str


class RuleIn(BaseModel):
    rule: str = Field(max_length=1000)
    school_id: str | None = None


class TriedOut(Out):
    members: list[MemberOut]
    total: int
    problem: str


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


class InstructionOut(Out):
    days: int
    weeks: float
    closed: int


class ClosedOut(Out):
    id: Id
    name: str
    start: date
    end: date
    school: str


class YearWindowOut(Out):
    id: Id
    name: str
    start: date
    end: date
    days: int
    weeks_before: float
    sessions: int


class YearOut(Out):
    finding: str
    year_id: Id
    title: str
    start: date
    end: date
    weekdays: list[bool]
    counted: InstructionOut
    so_far: InstructionOut | None
    closed: list[ClosedOut]
    windows: list[YearWindowOut]
    years: list[Ref]
    schools: list[Ref]
    today: date
    may_change: bool


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


class PlanLineOut(Out):
    id: Id
    course: str
    subject: str
    grade: str
    year: str
    lessons: int
    expected: int
    classes: int
    behind: int


class PlansOut(Out):
    finding: str
    plans: list[PlanLineOut]


class LessonOut(Out):
    id: Id
    position: int
    unit: str
    title: str
    start: date
    end: date
    standards: list[str]


class ClassPaceOut(Out):
    id: Id
    title: str
    expected: int
    done: int
    ahead: int
    skipped: list[Id]
    taught: dict[Id, date]
    may_say: bool


class PlanPageOut(Out):
    finding: str
    plan: PlanLineOut
    today: date
    lessons: list[LessonOut]
    classes: list[ClassPaceOut]
    standards: dict[str, str]


class TaughtIn(BaseModel):
    """on: the day, or None to take it back."""

    class_id: str
    lesson_id: str
    on: date | None


class SettingsBody(BaseModel):
    values: dict[str, Any]


class DueOut(Out):
    sign_ins: int
    log_entries: int
    students: int
    requests: int


class BackupOut(Out):
    name: str
    made_at: datetime | None
    answers: int
    bytes: int
    problem: str


class BackupsOut(Out):
    """folder: on the machine that serves. failure: of the last night that has no backup."""

    finding: str
    folder: str
    backups: list[BackupOut]
    failure: str


class SettingsOut(Out):
    values: dict[str, Any]
    due: DueOut
    attributes: list[AttributeOut]
    standins: dict[str, str]
    backups: BackupsOut


class AttributeOut(Out):
    id: Id
    name: str
    seen_by: str
    students: int


class AttributeIn(BaseModel):
    name: str
    seen_by: str


class RunOut(Out):
    id: Id
    at: datetime
    state: str
    bulk: bool
    counts: dict[str, int]
    message: str
    by: str


class RecordsOut(Out):
    finding: str
    on: bool
    address: str
    next_at: datetime | None
    runs: list[RunOut]
    shown: RunOut | None
    lines: list[PreviewLine]


class LookIn(BaseModel):
    bulk: bool = False


class TakeIn(BaseModel):
    take: bool


class OccasionOut(Out):
    session_id: Id
    title: str
    klass: str
    room: str
    start: datetime
    end: datetime
    state: str
    joinable: bool
    review: bool


class ChildOut(Out):
    id: Id
    name: str
    grade: str
    school: str
    classes: list[str]
    sentence: str
    occasions: list[OccasionOut]


class OwnPageOut(Out):
    name: str
    zone: str
    csrf: str
    must_change: bool
    children: list[ChildOut]


class ColumnsKnownOut(Out):
    columns: list[str]


SettingsOut.model_rebuild()
