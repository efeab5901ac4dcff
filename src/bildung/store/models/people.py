"""The organization: the federation, its schools, people and what they may do, families, colleagues."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, ColumnElement, ForeignKey, Index, UniqueConstraint
from sqlalchemy.ext.hybrid import hybrid_property
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class Federation(Base):
    """One row: whose installation this is, the zone its screens show times in, and the days of the week on
    which it teaches (bit 0 is Monday). roster_version moves with every change of who is where.
    groups_day: the day whose accommodations rules for groups go by, None before the first."""

    __tablename__ = "federation"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    zone: Mapped[str] = mapped_column(default="Europe/Berlin")
    weekdays: Mapped[int] = mapped_column(default=0b0011111, server_default="31")
    roster_version: Mapped[int] = mapped_column(default=1, server_default="1")
    groups_day: Mapped[date | None]


class Setting(Base):
    """One thing the federation decided, by name; services/shared/settings.py knows which there are."""

    __tablename__ = "setting"
    name: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[Any] = mapped_column(JSON)


class School(Base):
    __tablename__ = "school"
    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]


class Person(Base):
    """kind: staff, student or family. code: a student's own short code for sitting a test. active: still in
    the records; left_on: since when not. password_temporary: given by somebody else, so good for nothing but
    choosing one's own, until temporary_until. last_place: kept only where the federation decided so. birth_date: as the records have it, to tell
    people of one name apart. merged_into_id: the person whom this second record is of. case_manager_id:
    who keeps this student's accommodations. letter_keys: single letters are shortcuts to them. visited_at: when a student was
    at their own page before the present visit; seen_sitting, seen_before: the newest attempt of theirs then and now.
    """

    __tablename__ = "person"
    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[str] = mapped_column(unique=True)
    given: Mapped[str]
    family: Mapped[str]
    kind: Mapped[str] = mapped_column(default="staff", server_default="staff")
    grade: Mapped[str] = mapped_column(default="")
    school_id: Mapped[int | None] = mapped_column(ForeignKey("school.id"))
    code: Mapped[str | None] = mapped_column(unique=True)
    username: Mapped[str | None] = mapped_column(unique=True)
    password_hash: Mapped[str | None]
    password_temporary: Mapped[bool] = mapped_column(default=False, server_default="0")
    temporary_until: Mapped[datetime | None]
    birth_date: Mapped[date | None]
    merged_into_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    active: Mapped[bool] = mapped_column(default=True)
    left_on: Mapped[date | None]
    last_sign_in_at: Mapped[datetime | None]
    last_place: Mapped[str] = mapped_column(default="", server_default="")
    case_manager_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    letter_keys: Mapped[bool] = mapped_column(default=True, server_default="1")
    visited_at: Mapped[datetime | None]
    seen_sitting: Mapped[int | None]
    seen_before: Mapped[int | None]
    __table_args__ = (Index("ix_person_family_given", "family", "given"), Index("ix_person_kind", "kind", "active"))

    @property
    def name(self) -> str:
        return f"{self.given} {self.family}".strip()

    @hybrid_property
    def student(self) -> bool:
        return self.kind == "student"

    @student.inplace.expression
    @classmethod
    def _student_expression(cls) -> ColumnElement[bool]:
        return cls.kind == "student"


class Role(Base):
    """What a member of staff may do, and where: no school means the whole federation."""

    __tablename__ = "role"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    role: Mapped[str]
    school_id: Mapped[int | None] = mapped_column(ForeignKey("school.id"))


class FamilyLink(Base):
    """A student's family. relation: as the records say it (parent, guardian …). results: whether they may see this student's results."""

    __tablename__ = "family_link"
    family_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True, index=True)
    relation: Mapped[str] = mapped_column(default="")
    results: Mapped[bool] = mapped_column(default=True, server_default="1")


class Consent(Base):
    """A teacher lets a colleague see their classes by name, until it is taken back."""

    __tablename__ = "consent"
    id: Mapped[int] = mapped_column(primary_key=True)
    giver_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    receiver_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    given_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]


class Attribute(Base):
    """Something known about students that groups are compared by. seen_by: who sees a student's own value
    (coordinator, teacher)."""

    __tablename__ = "attribute"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    seen_by: Mapped[str] = mapped_column(default="coordinator")


class AttributeValue(Base):
    __tablename__ = "attribute_value"
    attribute_id: Mapped[int] = mapped_column(ForeignKey("attribute.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True, index=True)
    value: Mapped[str]


class Accommodation(Base):
    """One accommodation of one student. kind, value: as in core/accommodations/kinds.py. subject, test_kind: of the tests
    it is for, empty for all. source: iep, 504, el or school, empty where older data did not say. start, until: its first
    and last day. approved_at: None until a coordinator has approved what a case manager entered. replaces_id: what ends when
    this is approved."""

    __tablename__ = "accommodation"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    value: Mapped[str] = mapped_column(default="", server_default="")
    subject: Mapped[str] = mapped_column(default="", server_default="")
    test_kind: Mapped[str] = mapped_column(default="", server_default="")
    source: Mapped[str] = mapped_column(default="", server_default="")
    note: Mapped[str] = mapped_column(default="", server_default="")
    start: Mapped[date | None]
    until: Mapped[date | None]
    entered_at: Mapped[datetime]
    entered_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    approved_at: Mapped[datetime | None]
    approved_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    replaces_id: Mapped[int | None] = mapped_column(ForeignKey("accommodation.id", ondelete="SET NULL"))


class AccommodationUse(Base):
    """What became of an accommodation at one attempt. outcome: offered, used or refused."""

    __tablename__ = "accommodation_use"
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    outcome: Mapped[str]
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))


class Group(Base):
    """Students across classes. rule: members follow it (core/school/groups.py); None: named one by one."""

    __tablename__ = "student_group"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    school_id: Mapped[int | None] = mapped_column(ForeignKey("school.id"))
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    rule: Mapped[str | None]
    created_at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("name", "school_id"),)


class GroupMember(Base):
    __tablename__ = "group_member"
    group_id: Mapped[int] = mapped_column(ForeignKey("student_group.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True, index=True)


class GroupStaff(Base):
    """Who works with a group: its students are theirs to see."""

    __tablename__ = "group_staff"
    group_id: Mapped[int] = mapped_column(ForeignKey("student_group.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True, index=True)


class RosterDecision(Base):
    """What was decided against the records: two people are different, somebody is not in a class, is rightly in two of a
    subject, or has left. kind: different, keep_out, both or set_aside. ended_at: withdrawn, or the records agree now."""

    __tablename__ = "roster_decision"
    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str]
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    other_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    class_id: Mapped[int | None] = mapped_column(ForeignKey("class.id"))
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
