"""Who sees which results of a session, from when; whose are held back; what was told."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class Release(Base):
    """What one audience sees of a session's results. audience: student or family. shows: any of points, standards, answers, right,
    solutions, comments. at: from when. withdrawn_at: it is seen no more."""

    __tablename__ = "release"
    session_id: Mapped[int] = mapped_column(ForeignKey("session.id", ondelete="CASCADE"), primary_key=True)
    audience: Mapped[str] = mapped_column(primary_key=True)
    shows: Mapped[list[str]] = mapped_column(JSON)
    at: Mapped[datetime]
    made_at: Mapped[datetime]
    by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    withdrawn_at: Mapped[datetime | None]


class HeldBack(Base):
    """A student's results of one attempt that are released to no one, with the reason."""

    __tablename__ = "held_back"
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"), primary_key=True)
    why: Mapped[str]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]


class ToldResult(Base):
    """The points of an attempt as they were released; they stay so until they are released again. points: by question its points
    earned, their maximum, and the number of the scoring they are by. level: the performance level of the total, empty without cut scores. corrected_at: since when they are others than told before."""

    __tablename__ = "told_result"
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"), primary_key=True)
    points: Mapped[list[list[Any]]] = mapped_column(JSON)
    earned: Mapped[float]
    possible: Mapped[float]
    level: Mapped[str] = mapped_column(default="", server_default="")
    at: Mapped[datetime]
    corrected_at: Mapped[datetime | None]
