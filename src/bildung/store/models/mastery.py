"""What mastery of standards is judged by beside tests: rules of a framework, evidence entered by hand, what was tried with students."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class MasteryRule(Base):
    """Rules of a framework where they are not the usual ones. rules: fields of core/mastery/rules.py. counts: by kind of test, as in
    core/mastery/counting.py. retakes: adds, replaces or better. revision: moves with every change."""

    __tablename__ = "mastery_rule"
    framework_id: Mapped[int] = mapped_column(ForeignKey("framework.id", ondelete="CASCADE"), primary_key=True)
    rules: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    counts: Mapped[dict[str, str]] = mapped_column(JSON, default=dict)
    retakes: Mapped[str] = mapped_column(default="adds")
    revision: Mapped[int] = mapped_column(default=1)
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))


class SessionEvidence(Base):
    """Whether a session counts as evidence, by decision and whatever the rule says of its kind."""

    __tablename__ = "session_evidence"
    session_id: Mapped[int] = mapped_column(ForeignKey("session.id", ondelete="CASCADE"), primary_key=True)
    counts: Mapped[bool]
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))


class EnteredEvidence(Base):
    """Points on a standard that no test of ours gave. kind: score or observation. what: of what, in words. withdrawn_at: no longer evidence."""

    __tablename__ = "entered_evidence"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    standard_id: Mapped[int] = mapped_column(ForeignKey("standard.id"), index=True)
    kind: Mapped[str]
    what: Mapped[str]
    on: Mapped[date]
    earned: Mapped[float]
    possible: Mapped[float]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]
    withdrawn_at: Mapped[datetime | None]


class Intervention(Base):
    """What was tried with a student on a standard, from when to when. group_id: the group that they work in, where it was one.
    withdrawn_at: entered by mistake."""

    __tablename__ = "intervention"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    standard_id: Mapped[int] = mapped_column(ForeignKey("standard.id"), index=True)
    group_id: Mapped[int | None] = mapped_column(ForeignKey("student_group.id", ondelete="SET NULL"), index=True)
    what: Mapped[str]
    start: Mapped[date]
    until: Mapped[date | None]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]
    withdrawn_at: Mapped[datetime | None]


class GroupPurpose(Base):
    """What a group is for: a standard that its students work on, and the day to look again."""

    __tablename__ = "group_purpose"
    group_id: Mapped[int] = mapped_column(ForeignKey("student_group.id", ondelete="CASCADE"), primary_key=True)
    standard_id: Mapped[int] = mapped_column(ForeignKey("standard.id"))
    purpose: Mapped[str] = mapped_column(default="", server_default="")
    check_on: Mapped[date | None]


class StandardChange(Base):
    """Standards of an item version before they were changed in place. Answers given before that stay evidence on what it was, until
    somebody moves them. before: pairs of standard and rank."""

    __tablename__ = "standard_change"
    id: Mapped[int] = mapped_column(primary_key=True)
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id", ondelete="CASCADE"), index=True)
    at: Mapped[datetime]
    before: Mapped[list[list[int]]] = mapped_column(JSON)
    moved_at: Mapped[datetime | None]
    moved_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
