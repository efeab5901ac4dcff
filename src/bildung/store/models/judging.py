"""What people decide and keep when they judge a test: verdicts on items, views, reports."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from bildung.store.models.bank import ItemVersion
from bildung.store.models.base import Base
from bildung.store.models.people import Person


class Verdict(Base):
    """What somebody decided about an item after an administration; only ever added, the latest of a version holds.
    verdict: keep, rework, drop, again (to be field-tested), or open (taken back). answered_at: when the item went into
    field test for it."""

    __tablename__ = "verdict"
    id: Mapped[int] = mapped_column(primary_key=True)
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id"), index=True)
    form_id: Mapped[int | None] = mapped_column(ForeignKey("form.id"))
    window_id: Mapped[int | None] = mapped_column(ForeignKey("window.id"))
    verdict: Mapped[str]
    reason: Mapped[str]
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]
    answered_at: Mapped[datetime | None]
    version: Mapped[ItemVersion] = relationship()
    person: Mapped[Person] = relationship()


class KeptView(Base):
    """An address of the workbench under a name of one's own. path, query: as in the address bar."""

    __tablename__ = "kept_view"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    name: Mapped[str]
    path: Mapped[str]
    query: Mapped[str]
    created_at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("person_id", "name"),)


class KeptReport(Base):
    """A document that was made, or is being made. wanted: what was asked for (services/quality/reports.py). state: making, done,
    failed or stopped. named: students are named in it; sessions: whose answers are in it. file: in the data folder."""

    __tablename__ = "kept_report"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    question: Mapped[str]
    title: Mapped[str]
    wanted: Mapped[dict[str, Any]] = mapped_column(JSON)
    sessions: Mapped[list[int]] = mapped_column(JSON)
    named: Mapped[bool]
    format: Mapped[str]
    state: Mapped[str]
    says: Mapped[str] = mapped_column(default="")
    file: Mapped[str] = mapped_column(default="")
    pages: Mapped[int | None]
    created_at: Mapped[datetime]
    done_at: Mapped[datetime | None]


class KeptLine(Base):
    """A test in a window, judged in brief (services/quality/lines.py), for whoever may judge these sessions. sessions,
    key: digests of which they are, and of what the line rests on. Derived; made again when that moves."""

    __tablename__ = "kept_line"
    form_id: Mapped[int] = mapped_column(ForeignKey("form.id", ondelete="CASCADE"), primary_key=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"), primary_key=True)
    sessions: Mapped[str] = mapped_column(primary_key=True)
    key: Mapped[str]
    line: Mapped[dict[str, Any]] = mapped_column(JSON)
