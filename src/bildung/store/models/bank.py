"""The item bank. What was shown (version) and how it is scored (scoring) are versioned apart."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from bildung.store.models.base import Base


class Framework(Base):
    """What is taught, as a tree of standards. main: the one whose codes are meant where nothing else is said."""

    __tablename__ = "framework"
    id: Mapped[int] = mapped_column(primary_key=True)
    identifier: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    version: Mapped[str] = mapped_column(default="")
    creator: Mapped[str] = mapped_column(default="")
    language: Mapped[str] = mapped_column(default="en")
    main: Mapped[bool] = mapped_column(default=False)


class Standard(Base):
    """One standard of a framework, or a heading above some. text is empty and framework_id None for a code that came
    with an item only. grade to grade_to: the span it is taught in. plain: the sentence for families."""

    __tablename__ = "standard"
    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str]
    text: Mapped[str] = mapped_column(default="")
    plain: Mapped[str] = mapped_column(default="")
    subject: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")
    framework_id: Mapped[int | None] = mapped_column(ForeignKey("framework.id"), index=True)
    identifier: Mapped[str | None]
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("standard.id"))
    kind: Mapped[str] = mapped_column(default="", server_default="")
    grade_to: Mapped[str] = mapped_column(default="", server_default="")
    priority: Mapped[bool] = mapped_column(default=False, server_default="0")
    position: Mapped[float] = mapped_column(default=0.0, server_default="0")
    __table_args__ = (
        UniqueConstraint("framework_id", "identifier"),
        Index("ix_standard_code", "code"),
    )


class StandardLink(Base):
    """How a standard stands to one of another framework or version; relation: a word of CASE."""

    __tablename__ = "standard_link"
    origin_id: Mapped[int] = mapped_column(ForeignKey("standard.id", ondelete="CASCADE"), primary_key=True)
    destination_id: Mapped[int] = mapped_column(
        ForeignKey("standard.id", ondelete="CASCADE"), primary_key=True, index=True
    )
    relation: Mapped[str] = mapped_column(primary_key=True)


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


class ItemFigure(Base):
    """What an item did in one administration: a form in a window, all its closed sessions. Derived, made again when
    their answers or keys change (stamp). flags: names with their weights. at: the last session's start."""

    __tablename__ = "item_figure"
    form_id: Mapped[int] = mapped_column(ForeignKey("form.id"), primary_key=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id"), primary_key=True)
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id"), primary_key=True, index=True)
    n: Mapped[int]
    p: Mapped[float | None]
    p_low: Mapped[float | None]
    p_high: Mapped[float | None]
    r_rest: Mapped[float | None]
    wrong: Mapped[str] = mapped_column(default="")
    wrong_share: Mapped[float | None]
    flags: Mapped[list[dict[str, str]]] = mapped_column(JSON, default=list)
    sound: Mapped[bool | None]
    at: Mapped[datetime]
    stamp: Mapped[str]
