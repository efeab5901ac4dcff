"""Scores from inside and outside that growth is judged by, and the norms that they are held against."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class Measure(Base):
    """A score that is given again and again: its scale from low to high. version: rises with every score and norm, so that what was
    computed is known to be old."""

    __tablename__ = "measure"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    subject: Mapped[str]
    low: Mapped[float]
    high: Mapped[float]
    decimals: Mapped[int] = mapped_column(default=0, server_default="0")
    version: Mapped[int] = mapped_column(default=0, server_default="0")
    made_at: Mapped[datetime]


class MeasureScore(Base):
    """What one student scored in one window. grade, week: of the student and of instruction at that time. se: standard error, None where
    it is unknown."""

    __tablename__ = "measure_score"
    id: Mapped[int] = mapped_column(primary_key=True)
    measure_id: Mapped[int] = mapped_column(ForeignKey("measure.id", ondelete="CASCADE"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id"))
    grade: Mapped[str]
    week: Mapped[float]
    score: Mapped[float]
    se: Mapped[float | None]
    __table_args__ = (
        UniqueConstraint("measure_id", "window_id", "person_id"),
        Index("ix_measure_score_measure_id", "measure_id"),
    )


class NormSet(Base):
    """Norms of a measure as they were brought: the newest holds. norms, correlations: CSV texts of docs/commands.md; the second may be
    empty. population: of whom, in words."""

    __tablename__ = "norm_set"
    id: Mapped[int] = mapped_column(primary_key=True)
    measure_id: Mapped[int] = mapped_column(ForeignKey("measure.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    version: Mapped[str]
    source: Mapped[str]
    population: Mapped[str]
    published: Mapped[date | None]
    norms: Mapped[str]
    correlations: Mapped[str] = mapped_column(default="", server_default="")
    added_at: Mapped[datetime]
    added_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
