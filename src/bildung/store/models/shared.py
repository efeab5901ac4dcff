"""What several web workers on one store tell each other. Rows here live for minutes."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class Happened(Base):
    """Something that open pages are told of. worker: who published it and has told its own pages already. Numbers are never
    used again, so that who has read up to one misses nothing."""

    __tablename__ = "happened"
    id: Mapped[int] = mapped_column(primary_key=True)
    worker: Mapped[int]
    topic: Mapped[str]
    message: Mapped[Any] = mapped_column(JSON)
    at: Mapped[datetime]
    __table_args__ = ({"sqlite_autoincrement": True},)


class RunningJob(Base):
    """How far a job of another worker is. stop: somebody asked for it to end."""

    __tablename__ = "running_job"
    person_id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(primary_key=True)
    worker: Mapped[int]
    what: Mapped[str]
    done: Mapped[int]
    total: Mapped[int]
    stop: Mapped[bool] = mapped_column(default=False)


class KeptVersion(Base):
    """Counts on whenever what rests on it must be read anew."""

    __tablename__ = "kept_version"
    name: Mapped[str] = mapped_column(primary_key=True)
    number: Mapped[int]
