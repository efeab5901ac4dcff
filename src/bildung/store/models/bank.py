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
    """What does not change with its content: who owns it, where it stands, its tags.

    owner_id: a teacher's own; None: the common bank's. state: ready, field_test, in_use, resting or retired; draft
    until it has a version. origin: the version that it is a changed copy or a drawn copy of. unit: of the pacing guide.
    depth: 1 to 4. calculator: "", none, basic or scientific. seconds: how long it should take.
    """

    __tablename__ = "item"
    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str] = mapped_column(unique=True)
    subject: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    state: Mapped[str] = mapped_column(default="in_use", server_default="in_use")
    origin_version_id: Mapped[int | None] = mapped_column(ForeignKey("item_version.id", use_alter=True), index=True)
    depth: Mapped[int | None]
    topic: Mapped[str] = mapped_column(default="", server_default="")
    unit: Mapped[str] = mapped_column(default="", server_default="")
    language: Mapped[str] = mapped_column(default="", server_default="")
    calculator: Mapped[str] = mapped_column(default="", server_default="")
    seconds: Mapped[int | None]
    source: Mapped[str] = mapped_column(default="", server_default="")
    labels: Mapped[list[str]] = mapped_column(JSON, default=list, server_default="[]")
    versions: Mapped[list[ItemVersion]] = relationship(
        order_by="ItemVersion.number", back_populates="item", foreign_keys="ItemVersion.item_id"
    )


class ItemVersion(Base):
    """Content as shown; never changed, a change makes the next. shown, behind, template: as in formats/content.py and
    formats/template.py. author_id: who wrote it, where it was written here."""

    __tablename__ = "item_version"
    id: Mapped[int] = mapped_column(primary_key=True)
    item_id: Mapped[int] = mapped_column(ForeignKey("item.id"), index=True)
    number: Mapped[int]
    kind: Mapped[str]
    shown: Mapped[dict[str, Any]] = mapped_column(JSON, server_default="{}")
    behind: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict, server_default="{}")
    template: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    stimulus_version_id: Mapped[int | None] = mapped_column(ForeignKey("stimulus_version.id"), index=True)
    author_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    created_at: Mapped[datetime]
    item: Mapped[Item] = relationship(back_populates="versions", foreign_keys=[item_id])
    scorings: Mapped[list[Scoring]] = relationship(order_by="Scoring.number")
    standards: Mapped[list[ItemStandard]] = relationship(order_by="ItemStandard.rank")
    stimulus: Mapped[StimulusVersion | None] = relationship()
    __table_args__ = (UniqueConstraint("item_id", "number"),)


class Scoring(Base):
    """How a version is scored; the one with the highest number is in force. parts: PartScoring of each part. points:
    their sum."""

    __tablename__ = "scoring"
    id: Mapped[int] = mapped_column(primary_key=True)
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id"), index=True)
    number: Mapped[int]
    parts: Mapped[list[dict[str, Any]]] = mapped_column(JSON, server_default="[]")
    points: Mapped[float]
    created_at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("item_version_id", "number"),)


class ItemStandard(Base):
    """rank 0 is the main standard; the others it additional standard."""

    __tablename__ = "item_standard"
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id"), primary_key=True)
    standard_id: Mapped[int] = mapped_column(ForeignKey("standard.id"), primary_key=True)
    rank: Mapped[int]
    standard: Mapped[Standard] = relationship()


class ItemFigure(Base):
    """What an item did in one administration: a form in a window, all its closed sessions. Derived, made again when
    their answers or keys change (stamp). flags: names with their weights. at: the last session's start. sd, loading: in
    points, for core/assembly/predict.py."""

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
    sd: Mapped[float | None]
    loading: Mapped[float | None]
    at: Mapped[datetime] = mapped_column(index=True)
    stamp: Mapped[str]


class ItemUse(Base):
    """What an item did the last time, over all its versions, and how often it was used. problem: it was flagged as one,
    such as a key that may be wrong. item_version_id: the version that was sat then. Derived from `ItemFigure`; here
    so that ten thousand items can be searched and sorted by it at once."""

    __tablename__ = "item_use"
    item_id: Mapped[int] = mapped_column(ForeignKey("item.id", ondelete="CASCADE"), primary_key=True)
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id"))
    times: Mapped[int]
    n: Mapped[int]
    p: Mapped[float | None]
    r_rest: Mapped[float | None]
    wrong_share: Mapped[float | None]
    p_error: Mapped[float | None]
    sd: Mapped[float | None]
    loading: Mapped[float | None]
    problem: Mapped[bool]
    at: Mapped[datetime]


class ItemDraft(Base):
    """What somebody writes for an item's next version, saved as they go. stage: draft or in_review. revision: counts
    saves, for If-Match. offered_from: the copy it was taken from, where it is offered back."""

    __tablename__ = "item_draft"
    item_id: Mapped[int] = mapped_column(ForeignKey("item.id", ondelete="CASCADE"), primary_key=True)
    content: Mapped[dict[str, Any]] = mapped_column(JSON)
    template: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    stimulus_id: Mapped[int | None] = mapped_column(ForeignKey("stimulus.id"))
    stage: Mapped[str] = mapped_column(default="draft")
    revision: Mapped[int] = mapped_column(default=1)
    author_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    offered_from: Mapped[int | None] = mapped_column(ForeignKey("item.id"))
    updated_at: Mapped[datetime]


class ItemComment(Base):
    """A remark among staff. settled_at: when somebody said that it is dealt with."""

    __tablename__ = "item_comment"
    id: Mapped[int] = mapped_column(primary_key=True)
    item_id: Mapped[int] = mapped_column(ForeignKey("item.id", ondelete="CASCADE"), index=True)
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    at: Mapped[datetime]
    text: Mapped[str]
    settled_at: Mapped[datetime | None]


class ItemEnemy(Base):
    """Two items that no student gets on one form; the smaller id first."""

    __tablename__ = "item_enemy"
    item_id: Mapped[int] = mapped_column(ForeignKey("item.id", ondelete="CASCADE"), primary_key=True)
    other_id: Mapped[int] = mapped_column(ForeignKey("item.id", ondelete="CASCADE"), primary_key=True, index=True)


class TagChange(Base):
    """A bulk change of tags, with what stood before, so that it can be taken back."""

    __tablename__ = "tag_change"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    what: Mapped[str]
    before: Mapped[dict[str, Any]] = mapped_column(JSON)
    after: Mapped[dict[str, Any]] = mapped_column(JSON)
    undone_at: Mapped[datetime | None]


class Stimulus(Base):
    """What several items are about: a passage, a picture, a table, a small data set, a sound."""

    __tablename__ = "stimulus"
    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str] = mapped_column(unique=True)
    subject: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    versions: Mapped[list[StimulusVersion]] = relationship(order_by="StimulusVersion.number", back_populates="stimulus")


class StimulusVersion(Base):
    """As shown; never changed. kind: passage, picture, table, data or audio. numbered: its lines carry numbers. media,
    told: a picture's or a sound's key and what it shows or says in words."""

    __tablename__ = "stimulus_version"
    id: Mapped[int] = mapped_column(primary_key=True)
    stimulus_id: Mapped[int] = mapped_column(ForeignKey("stimulus.id"), index=True)
    number: Mapped[int]
    title: Mapped[str]
    kind: Mapped[str]
    html: Mapped[str] = mapped_column(default="")
    numbered: Mapped[bool] = mapped_column(default=False)
    media: Mapped[str] = mapped_column(default="")
    told: Mapped[str] = mapped_column(default="")
    credit: Mapped[str] = mapped_column(default="")
    created_at: Mapped[datetime]
    stimulus: Mapped[Stimulus] = relationship(back_populates="versions")
    __table_args__ = (UniqueConstraint("stimulus_id", "number"),)


class Media(Base):
    """A picture or a sound, kept under the key of its bytes in the data folder. width, height: of a picture."""

    __tablename__ = "media"
    key: Mapped[str] = mapped_column(primary_key=True)
    type: Mapped[str]
    size: Mapped[int]
    width: Mapped[int | None]
    height: Mapped[int | None]
    seconds: Mapped[float | None]
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    created_at: Mapped[datetime]
