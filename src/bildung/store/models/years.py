"""The school year: when there is school, when benchmarks are given."""

from __future__ import annotations

from datetime import date

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class SchoolYear(Base):
    """One for the whole federation; years never overlap."""

    __tablename__ = "school_year"
    id: Mapped[int] = mapped_column(primary_key=True)
    title: Mapped[str] = mapped_column(unique=True)
    start: Mapped[date] = mapped_column(unique=True)
    end: Mapped[date]


class ClosedDays(Base):
    """First to last day without lessons, for one school or (None) for all."""

    __tablename__ = "closed_days"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    start: Mapped[date]
    end: Mapped[date]
    school_id: Mapped[int | None] = mapped_column(ForeignKey("school.id"))


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
