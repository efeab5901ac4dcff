"""Results that were sent to the school's records."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class SentResult(Base):
    """A test in a class, or a student's result, as the records system took it last. id: as it is known there. digest: of what was sent."""

    __tablename__ = "sent_result"
    id: Mapped[str] = mapped_column(primary_key=True)
    form_id: Mapped[int] = mapped_column(ForeignKey("form.id"), index=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id"))
    digest: Mapped[str]
    at: Mapped[datetime]


class SendingRun(Base):
    """One sending of a test in a window. state: done or failed. sent, refused: how many; lines: what was refused and why."""

    __tablename__ = "sending_run"
    id: Mapped[int] = mapped_column(primary_key=True)
    form_id: Mapped[int] = mapped_column(ForeignKey("form.id"), index=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id"))
    at: Mapped[datetime]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    state: Mapped[str]
    sent: Mapped[int]
    refused: Mapped[int]
    lines: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    message: Mapped[str] = mapped_column(default="", server_default="")
