"""What turned out to be wrong after a test was taken, and what was decided about it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class Correction(Base):
    """A decision that moves results; never deleted. kind: key (how an item is scored), drop, everybody, score (of one response),
    rescore (scores set aside). before, after: what it put in whose place, enough to take it back. moved: what it moved, in the
    figures that whoever decided saw. form_item_id, window_id: where it was decided."""

    __tablename__ = "correction"
    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str]
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id"), index=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id"))
    sitting_id: Mapped[int | None] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"))
    before: Mapped[dict[str, Any]] = mapped_column(JSON)
    after: Mapped[dict[str, Any]] = mapped_column(JSON)
    moved: Mapped[dict[str, Any]] = mapped_column(JSON)
    reason: Mapped[str]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]
    undone_at: Mapped[datetime | None]
    undone_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    undone_why: Mapped[str] = mapped_column(default="", server_default="")


class PlaceRule(Base):
    """What holds for an item of a form in a window whatever was answered. rule: drop (in no total) or everybody (all get its points).
    unreached: also who did not reach it."""

    __tablename__ = "place_rule"
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id", ondelete="CASCADE"), primary_key=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"), primary_key=True)
    rule: Mapped[str]
    unreached: Mapped[bool]
    correction_id: Mapped[int] = mapped_column(ForeignKey("correction.id"))


class ScoreChange(Base):
    """What one response earns by decision, whatever rules and scorers gave it."""

    __tablename__ = "score_change"
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"), primary_key=True)
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id", ondelete="CASCADE"), primary_key=True)
    points: Mapped[float]
    correction_id: Mapped[int] = mapped_column(ForeignKey("correction.id"))
    __table_args__ = (Index("ix_score_change_form_item_id", "form_item_id"),)
