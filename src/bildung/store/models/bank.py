"""The item bank. What was shown (version) and how it is scored (scoring) are versioned apart."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from bildung.store.models.base import Base


class Standard(Base):
    """One standard of the framework. text is empty for a code that came with an item only."""

    __tablename__ = "standard"
    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str] = mapped_column(unique=True)
    text: Mapped[str] = mapped_column(default="")
    plain: Mapped[str] = mapped_column(default="")
    subject: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")


class Item(Base):
    """owner_id: a teacher's own; None: the common bank's."""

    __tablename__ = "item"
    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str] = mapped_column(unique=True)
    subject: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    versions: Mapped[list[ItemVersion]] = relationship(order_by="ItemVersion.number", back_populates="item")


class ItemVersion(Base):
    """Content as shown; never changed, a change makes the next. options: [{letter, html}]."""

    __tablename__ = "item_version"
    id: Mapped[int] = mapped_column(primary_key=True)
    item_id: Mapped[int] = mapped_column(ForeignKey("item.id"), index=True)
    number: Mapped[int]
    kind: Mapped[str]
    stem: Mapped[str]
    options: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    created_at: Mapped[datetime]
    item: Mapped[Item] = relationship(back_populates="versions")
    scorings: Mapped[list[Scoring]] = relationship(order_by="Scoring.number")
    standards: Mapped[list[ItemStandard]] = relationship(order_by="ItemStandard.rank")
    __table_args__ = (UniqueConstraint("item_id", "number"),)


class Scoring(Base):
    """How a version is scored; the one with the highest number is in force. key: as in commands.md."""

    __tablename__ = "scoring"
    id: Mapped[int] = mapped_column(primary_key=True)
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id"), index=True)
    number: Mapped[int]
    key: Mapped[str]
    points: Mapped[float]
    created_at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("item_version_id", "number"),)


class ItemStandard(Base):
    """rank 0 is the main standard; the others it also touches."""

    __tablename__ = "item_standard"
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id"), primary_key=True)
    standard_id: Mapped[int] = mapped_column(ForeignKey("standard.id"), primary_key=True)
    rank: Mapped[int]
    standard: Mapped[Standard] = relationship()
