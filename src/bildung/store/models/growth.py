"""Scores from inside and outside that growth is judged by, the norms and cut scores that they are held against, and what came of it."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from bildung.store.models.base import Base
from bildung.store.models.years import Window


class Measure(Base):
    """A score that is given again and again: its scale from low to high. levels: names of ordered levels, lowest first, whose places from
    1 are the scores; None where the score is a number. falling: less is better. own: made of the benchmarks that are given here in its
    subject; its scores are not stored. part_of_id: the measure that this skill is a part of; place: among its skills, as they are
    learned. version: rises with every score, norm and cut score, so that what was computed is known to be old."""

    __tablename__ = "measure"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    subject: Mapped[str]
    low: Mapped[float]
    high: Mapped[float]
    decimals: Mapped[int] = mapped_column(default=0, server_default="0")
    levels: Mapped[list[str] | None] = mapped_column(JSON(none_as_null=True))
    falling: Mapped[bool] = mapped_column(default=False, server_default="0")
    own: Mapped[bool] = mapped_column(default=False, server_default="0")
    part_of_id: Mapped[int | None] = mapped_column(ForeignKey("measure.id", ondelete="CASCADE"), index=True)
    place: Mapped[int] = mapped_column(default=0, server_default="0")
    version: Mapped[int] = mapped_column(default=0, server_default="0")
    made_at: Mapped[datetime]


class Occasion(Base):
    """When a measure was taken: a window, or any stretch of days with a name, such as a month or one day."""

    __tablename__ = "occasion"
    id: Mapped[int] = mapped_column(primary_key=True)
    measure_id: Mapped[int] = mapped_column(ForeignKey("measure.id", ondelete="CASCADE"))
    window_id: Mapped[int | None] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(default="", server_default="")
    first: Mapped[date | None]
    last: Mapped[date | None]
    window: Mapped[Window | None] = relationship(lazy="joined")
    __table_args__ = (
        UniqueConstraint("measure_id", "window_id"),
        UniqueConstraint("measure_id", "name", "first"),
        Index("ix_occasion_measure_id", "measure_id"),
    )

    @property
    def start(self) -> date:
        if self.window is not None:
            return self.window.start
        assert self.first is not None
        return self.first

    @property
    def end(self) -> date:
        if self.window is not None:
            return self.window.end
        assert self.last is not None
        return self.last

    @property
    def season(self) -> str:
        """What recurs every year: the window's name, or the name without its year."""
        return self.window.name if self.window is not None else self.name.rsplit(" ", 1)[0]


class MeasureScore(Base):
    """What one student scored on one occasion. grade, week: of the student and of instruction at that time. se: standard error, None where
    it is unknown. taken_on: the day, where it is known. marks: what is to be known of the attempt, such as an irregularity, by comma."""

    __tablename__ = "measure_score"
    id: Mapped[int] = mapped_column(primary_key=True)
    measure_id: Mapped[int] = mapped_column(ForeignKey("measure.id", ondelete="CASCADE"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    occasion_id: Mapped[int] = mapped_column(ForeignKey("occasion.id", ondelete="CASCADE"))
    grade: Mapped[str]
    week: Mapped[float]
    score: Mapped[float]
    se: Mapped[float | None]
    taken_on: Mapped[date | None]
    marks: Mapped[str] = mapped_column(default="", server_default="")
    __table_args__ = (
        UniqueConstraint("occasion_id", "person_id"),
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


class CutSet(Base):
    """Performance levels of a measure; the newest holds. names: lowest first. rows: for a grade and season (both may be empty, for all)
    the cut scores between them, best level last. goal: place of the level, from 1, that students are to reach."""

    __tablename__ = "cut_set"
    id: Mapped[int] = mapped_column(primary_key=True)
    measure_id: Mapped[int] = mapped_column(ForeignKey("measure.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    names: Mapped[list[str]] = mapped_column(JSON)
    rows: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    goal: Mapped[int]
    source: Mapped[str]
    added_at: Mapped[datetime]
    added_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))


class Goal(Base):
    """A score that a student is to reach by a day; the newest for a day holds. kind: cut50 or cut80 (the 50% or 80% target), or own."""

    __tablename__ = "goal"
    id: Mapped[int] = mapped_column(primary_key=True)
    measure_id: Mapped[int] = mapped_column(ForeignKey("measure.id", ondelete="CASCADE"), index=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    by_day: Mapped[date]
    score: Mapped[float]
    kind: Mapped[str]
    set_at: Mapped[datetime]
    set_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    withdrawn_at: Mapped[datetime | None]


class NameMatch(Base):
    """Whom a name and birth date of a score file mean, as it was decided once; nobody here where person_id is empty."""

    __tablename__ = "name_match"
    id: Mapped[int] = mapped_column(primary_key=True)
    written: Mapped[str] = mapped_column(unique=True)
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]


class ReflectionRequest(Base):
    """Teachers are asked what they conclude from a measure between two occasions, and plan. due: the day by which."""

    __tablename__ = "reflection_request"
    id: Mapped[int] = mapped_column(primary_key=True)
    measure_id: Mapped[int] = mapped_column(ForeignKey("measure.id", ondelete="CASCADE"), index=True)
    start_id: Mapped[int] = mapped_column(ForeignKey("occasion.id", ondelete="CASCADE"))
    end_id: Mapped[int] = mapped_column(ForeignKey("occasion.id", ondelete="CASCADE"))
    question: Mapped[str]
    due: Mapped[date]
    asked_at: Mapped[datetime]
    asked_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    ended_at: Mapped[datetime | None]


class Reflection(Base):
    """What a teacher concludes and plans for a class, or a school's grade where there is no class. figures: the sentences that they had
    before them."""

    __tablename__ = "reflection"
    id: Mapped[int] = mapped_column(primary_key=True)
    request_id: Mapped[int] = mapped_column(ForeignKey("reflection_request.id", ondelete="CASCADE"), index=True)
    class_id: Mapped[int | None] = mapped_column(ForeignKey("class.id"), index=True)
    school_id: Mapped[int | None] = mapped_column(ForeignKey("school.id"))
    grade: Mapped[str] = mapped_column(default="", server_default="")
    concludes: Mapped[str]
    plans: Mapped[str]
    figures: Mapped[list[str]] = mapped_column(JSON)
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    __table_args__ = (UniqueConstraint("request_id", "class_id", "school_id", "grade"),)
