"""Who has to take which test: what a window asks for, who is exempt, and who takes it in another session than their
class's."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class Requirement(Base):
    """That students have to take a test in a window. rule: which students, in the language of groups; empty: everybody
    of the test's grade. family_id or form_id: the test. part: of a test in several sittings, from 0."""

    __tablename__ = "requirement"
    id: Mapped[int] = mapped_column(primary_key=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"), index=True)
    rule: Mapped[str] = mapped_column(default="")
    family_id: Mapped[int | None] = mapped_column(ForeignKey("family.id"))
    form_id: Mapped[int | None] = mapped_column(ForeignKey("form.id"))
    part: Mapped[int | None]
    why: Mapped[str] = mapped_column(default="")
    at: Mapped[datetime]
    by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))


class Exemption(Base):
    """That a student, or a group, does not take tests for a reason. window_id: of this window, else of all; subject: of
    this one, else of all. asked_by: who asked for it, such as the parent who refused. instead: what the student does
    meanwhile. ends: the last day. ended_at: taken back."""

    __tablename__ = "exemption"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    group_id: Mapped[int | None] = mapped_column(ForeignKey("student_group.id", ondelete="CASCADE"), index=True)
    window_id: Mapped[int | None] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"))
    subject: Mapped[str] = mapped_column(default="")
    reason: Mapped[str]
    asked_by: Mapped[str] = mapped_column(default="")
    note: Mapped[str] = mapped_column(default="")
    instead: Mapped[str] = mapped_column(default="")
    starts: Mapped[date]
    ends: Mapped[date | None]
    at: Mapped[datetime]
    by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    ended_at: Mapped[datetime | None]
    ended_by: Mapped[int | None] = mapped_column(ForeignKey("person.id"))


class Placement(Base):
    """That a student takes the test of this session here, and not where their class does."""

    __tablename__ = "placement"
    id: Mapped[int] = mapped_column(primary_key=True)
    session_id: Mapped[int] = mapped_column(ForeignKey("session.id", ondelete="CASCADE"), index=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    why: Mapped[str] = mapped_column(default="")
    at: Mapped[datetime]
    by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    __table_args__ = (UniqueConstraint("session_id", "person_id"),)


class WindowDates(Base):
    """Other dates of a window for a school, a grade or a student; the closest of them holds."""

    __tablename__ = "window_dates"
    id: Mapped[int] = mapped_column(primary_key=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"), index=True)
    school_id: Mapped[int | None] = mapped_column(ForeignKey("school.id"))
    grade: Mapped[str] = mapped_column(default="")
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
    start: Mapped[date]
    end: Mapped[date]
    why: Mapped[str] = mapped_column(default="")
