"""Live rounds: a question put to a class, answered at once, talked about, answered again."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class LiveRound(Base):
    """One round of a class. person_id: who holds it. evidence: whether that person said that it counts."""

    __tablename__ = "live_round"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("class.id"), index=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    started_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    evidence: Mapped[bool] = mapped_column(default=False, server_default="0")


class LiveSeat(Base):
    """A student in a round. way: school, home or device (a response device)."""

    __tablename__ = "live_seat"
    round_id: Mapped[int] = mapped_column(ForeignKey("live_round.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), primary_key=True)
    way: Mapped[str]
    joined_at: Mapped[datetime]
    seen_at: Mapped[datetime]


class LiveQuestion(Base):
    """A question of a round: an item of the bank, or one said aloud with so many options. again_of: the first time it was
    asked. shown: what the projector shows: counting (how many answered), answers, or right. closed_at: no more answers."""

    __tablename__ = "live_question"
    id: Mapped[int] = mapped_column(primary_key=True)
    round_id: Mapped[int] = mapped_column(ForeignKey("live_round.id", ondelete="CASCADE"), index=True)
    item_version_id: Mapped[int | None] = mapped_column(ForeignKey("item_version.id"))
    words: Mapped[str] = mapped_column(default="", server_default="")
    options: Mapped[int] = mapped_column(default=4, server_default="4")
    again_of: Mapped[int | None] = mapped_column(ForeignKey("live_question.id"))
    shown: Mapped[str] = mapped_column(default="counting", server_default="counting")
    asked_at: Mapped[datetime]
    closed_at: Mapped[datetime | None]


class LiveAnswer(Base):
    """The newest answer of a student. way: as of a seat."""

    __tablename__ = "live_answer"
    question_id: Mapped[int] = mapped_column(ForeignKey("live_question.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), primary_key=True)
    answer: Mapped[str]
    way: Mapped[str]
    at: Mapped[datetime]


class ResponseDevice(Base):
    """Whose response device a number is, in a class."""

    __tablename__ = "response_device"
    class_id: Mapped[int] = mapped_column(ForeignKey("class.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
