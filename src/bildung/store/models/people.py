"""The organisation: schools, the year, people, classes, who is in which."""

from __future__ import annotations

from datetime import date

from sqlalchemy import ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from bildung.store.models.base import Base


class Federation(Base):
    """One row: whose installation this is, and the zone its screens show times in."""

    __tablename__ = "federation"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    zone: Mapped[str] = mapped_column(default="Europe/Berlin")


class School(Base):
    __tablename__ = "school"
    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]


class AcademicSession(Base):
    """A school year or term as the records system names it."""

    __tablename__ = "academic_session"
    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    kind: Mapped[str]
    start: Mapped[date]
    end: Mapped[date]


class Window(Base):
    """A stretch of the year in which a benchmark is given."""

    __tablename__ = "window"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    start: Mapped[date]
    end: Mapped[date]
    __table_args__ = (UniqueConstraint("name", "start"),)


class Person(Base):
    """Staff or student. code: a student's own short code for sitting a test. active: still in the records.
    password_temporary: given by somebody else, so good for nothing but choosing one's own.
    """

    __tablename__ = "person"
    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[str] = mapped_column(unique=True)
    given: Mapped[str]
    family: Mapped[str]
    student: Mapped[bool]
    grade: Mapped[str] = mapped_column(default="")
    school_id: Mapped[int | None] = mapped_column(ForeignKey("school.id"))
    code: Mapped[str | None] = mapped_column(unique=True)
    username: Mapped[str | None] = mapped_column(unique=True)
    password_hash: Mapped[str | None]
    password_temporary: Mapped[bool] = mapped_column(default=False, server_default="0")
    active: Mapped[bool] = mapped_column(default=True)
    __table_args__ = (Index("ix_person_family_given", "family", "given"),)

    @property
    def name(self) -> str:
        return f"{self.given} {self.family}".strip()


class Role(Base):
    """What somebody may do, and where: no school means the whole federation."""

    __tablename__ = "role"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    role: Mapped[str]
    school_id: Mapped[int | None] = mapped_column(ForeignKey("school.id"))


class SchoolClass(Base):
    __tablename__ = "class"
    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), index=True)
    subject: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")
    location: Mapped[str] = mapped_column(default="")
    active: Mapped[bool] = mapped_column(default=True)
    school: Mapped[School] = relationship()


class Enrolment(Base):
    """Somebody in a class, as student or teacher. active: still so in the records."""

    __tablename__ = "enrolment"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("class.id"), index=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    role: Mapped[str]
    active: Mapped[bool] = mapped_column(default=True)
    __table_args__ = (UniqueConstraint("class_id", "person_id"),)
