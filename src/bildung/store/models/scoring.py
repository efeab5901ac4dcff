"""What people give responses that no rule scores: points, who scores what, comments, safety alerts."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import JSON, ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class Mark(Base):
    """What one scorer gave one response; a second scorer's stands beside the first's. points: of everything in the item that a
    person scores, together. criteria: by criterion of the rubric, where it was scored by one. code: a condition code, empty
    where the rubric fits. final: it settles what others gave. aside: set aside by a correction, so that it counts in no result.
    scoring: number of the item's scoring whose rubric was used. second: whoever gave it wants a second opinion. truth: it settles the
    response as pre-scored, which scorers are given without knowing."""

    __tablename__ = "mark"
    id: Mapped[int] = mapped_column(primary_key=True)
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id"))
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id"))
    marker_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    points: Mapped[float]
    at: Mapped[datetime]
    criteria: Mapped[list[float] | None] = mapped_column(JSON(none_as_null=True))
    code: Mapped[str] = mapped_column(default="", server_default="")
    final: Mapped[bool] = mapped_column(default=False, server_default="0")
    scoring: Mapped[int | None]
    aside: Mapped[bool] = mapped_column(default=False, server_default="0")
    second: Mapped[bool] = mapped_column(default=False, server_default="0")
    truth: Mapped[bool] = mapped_column(default=False, server_default="0")
    __table_args__ = (
        UniqueConstraint("sitting_id", "form_item_id", "marker_id"),
        Index("ix_mark_form_item_id", "form_item_id"),
    )


class ScoringPlan(Base):
    """How the responses to an item in a window are scored. share: of them that are scored twice, drawn by seed, from 0 to 1.
    apart: points that two scores may be apart before somebody settles them; None: any. kept: number of the scoring up to which scores by
    an earlier rubric stand by decision."""

    __tablename__ = "scoring_plan"
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id", ondelete="CASCADE"), primary_key=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"), primary_key=True)
    seed: Mapped[int] = mapped_column(default=1, server_default="1")
    share: Mapped[float] = mapped_column(default=0.0, server_default="0")
    apart: Mapped[float | None]
    kept: Mapped[int | None]


class ScoringTask(Base):
    """Somebody who scores an item in a window, and until when. classes: ids of the classes whose responses they are given; None: all."""

    __tablename__ = "scoring_task"
    id: Mapped[int] = mapped_column(primary_key=True)
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id", ondelete="CASCADE"), index=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"))
    scorer_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    due: Mapped[date | None]
    classes: Mapped[list[int] | None] = mapped_column(JSON(none_as_null=True))
    made_at: Mapped[datetime]
    made_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    __table_args__ = (UniqueConstraint("form_item_id", "window_id", "scorer_id"),)


class ScoringHold(Base):
    """A response that somebody has open, so that nobody else is given it until then."""

    __tablename__ = "scoring_hold"
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"), primary_key=True)
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    until: Mapped[datetime]


class ResponseComment(Base):
    """What a scorer or teacher says to the student about one response. read_at: when the student had it before them."""

    __tablename__ = "response_comment"
    id: Mapped[int] = mapped_column(primary_key=True)
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"))
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id"))
    author_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    text: Mapped[str]
    at: Mapped[datetime]
    read_at: Mapped[datetime | None]
    __table_args__ = (UniqueConstraint("sitting_id", "form_item_id", "author_id"),)


class Phrase(Base):
    """A sentence that a scorer uses again."""

    __tablename__ = "phrase"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    text: Mapped[str]


class AlertPerson(Base):
    """Who is told of safety alerts about a school's students."""

    __tablename__ = "alert_person"
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True)


class SafetyAlert(Base):
    """A response or note that tells of harm, as a scorer saw it. answer: the words at that moment. closed_at, outcome: what
    whoever it went to did about it."""

    __tablename__ = "safety_alert"
    id: Mapped[int] = mapped_column(primary_key=True)
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id"), index=True)
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id"))
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]
    answer: Mapped[str]
    closed_at: Mapped[datetime | None]
    closed_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    outcome: Mapped[str] = mapped_column(default="", server_default="")


class AlertReceiver(Base):
    """To whom an alert went. seen_at: when they opened it."""

    __tablename__ = "alert_receiver"
    alert_id: Mapped[int] = mapped_column(ForeignKey("safety_alert.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), primary_key=True, index=True)
    seen_at: Mapped[datetime | None]
