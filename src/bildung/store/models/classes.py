"""Classes, who is in them, what has been taught in them."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from bildung.store.models.bank import Standard
from bildung.store.models.base import Base
from bildung.store.models.people import School


class SchoolClass(Base):
    """homeroom: a class that stays together, beside its subject classes. code: with it and their sign-in code
    students sign in. open_door: whether new students may ask to join with the code. ended_on: since when it is over."""

    __tablename__ = "class"
    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), index=True)
    subject: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")
    location: Mapped[str] = mapped_column(default="")
    course: Mapped[str] = mapped_column(default="", server_default="")
    period: Mapped[str] = mapped_column(default="", server_default="")
    homeroom: Mapped[bool] = mapped_column(default=False, server_default="0")
    year_id: Mapped[int | None] = mapped_column(ForeignKey("school_year.id"))
    code: Mapped[str | None] = mapped_column(unique=True, index=True)
    open_door: Mapped[bool] = mapped_column(default=False, server_default="0")
    active: Mapped[bool] = mapped_column(default=True)
    ended_on: Mapped[date | None]
    school: Mapped[School] = relationship()


class Enrolment(Base):
    """Somebody in a class, as student or teacher. active: still so in the records. begins, ends: as the
    records or the one who settled it said."""

    __tablename__ = "enrolment"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("class.id"), index=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    role: Mapped[str]
    active: Mapped[bool] = mapped_column(default=True)
    begins: Mapped[date | None]
    ends: Mapped[date | None]
    __table_args__ = (UniqueConstraint("class_id", "person_id"),)


class JoinRequest(Base):
    """A student who typed a class code asks to be let in. ticket_hash: of what their device waits with.
    state: waiting, let_in or refused."""

    __tablename__ = "join_request"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("class.id"), index=True)
    given: Mapped[str]
    family: Mapped[str]
    ticket_hash: Mapped[str] = mapped_column(unique=True)
    state: Mapped[str] = mapped_column(default="waiting")
    at: Mapped[datetime]
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    settled_at: Mapped[datetime | None]


class CoursePlan(Base):
    """What a course teaches in a year, and when: units of lessons."""

    __tablename__ = "course_plan"
    id: Mapped[int] = mapped_column(primary_key=True)
    course: Mapped[str]
    subject: Mapped[str]
    grade: Mapped[str]
    year_id: Mapped[int] = mapped_column(ForeignKey("school_year.id"))
    lessons: Mapped[list[Lesson]] = relationship(order_by="Lesson.position", cascade="all, delete-orphan")
    __table_args__ = (UniqueConstraint("subject", "grade", "year_id"),)


class Lesson(Base):
    """position: from 1 through the whole plan."""

    __tablename__ = "lesson"
    id: Mapped[int] = mapped_column(primary_key=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("course_plan.id", ondelete="CASCADE"), index=True)
    position: Mapped[int]
    unit: Mapped[str]
    title: Mapped[str]
    start: Mapped[date]
    end: Mapped[date]
    standards: Mapped[list[Standard]] = relationship(secondary="lesson_standard", order_by=Standard.code)


class LessonStandard(Base):
    __tablename__ = "lesson_standard"
    lesson_id: Mapped[int] = mapped_column(ForeignKey("lesson.id", ondelete="CASCADE"), primary_key=True)
    standard_id: Mapped[int] = mapped_column(ForeignKey("standard.id"), primary_key=True)


class Taught(Base):
    """A class has had a lesson, on this day."""

    __tablename__ = "taught"
    class_id: Mapped[int] = mapped_column(ForeignKey("class.id"), primary_key=True)
    lesson_id: Mapped[int] = mapped_column(ForeignKey("lesson.id", ondelete="CASCADE"), primary_key=True)
    on: Mapped[date]
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
