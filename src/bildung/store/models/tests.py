"""Forms: concrete ordered sets of item versions. A published form never changes (held by triggers)."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from bildung.store.models.bank import ItemVersion
from bildung.store.models.base import Base


class Blueprint(Base):
    """A plan of what a test is to hold, kept to be used again. content: formats/blueprint.py. revision: for If-Match."""

    __tablename__ = "blueprint"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    subject: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")
    kind: Mapped[str] = mapped_column(default="")
    content: Mapped[dict[str, Any]] = mapped_column(JSON)
    revision: Mapped[int] = mapped_column(default=1)
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    changed_at: Mapped[datetime]


class Family(Base):
    """Companion forms: students see one title. name: among staff."""

    __tablename__ = "family"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    created_at: Mapped[datetime]
    forms: Mapped[list[Form]] = relationship(order_by="Form.id", back_populates="family")


class Form(Base):
    """name: among staff. title: what students see. revision: counts changes, for If-Match.
    owner_id: a teacher's own; None: common. kind, role, settings, plan: formats/blueprint.py; plan is the blueprint as
    it was when the form was begun. role: of a companion form. scale: forms of one name share their score scale.
    unit: of the pacing guide. before_id: the form this one corrects. mirror_id: the form it is a mirror of.
    read_revision: the revision that somebody read through as a student would. secure: whether only keepers see its items
    until it has been taken; None: as its kind has it. stays_secure: also afterwards, since it will be used again."""

    __tablename__ = "form"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    subject: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")
    revision: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime]
    published_at: Mapped[datetime | None]
    published_by: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    kind: Mapped[str] = mapped_column(default="", server_default="")
    unit: Mapped[str] = mapped_column(default="", server_default="")
    role: Mapped[str] = mapped_column(default="", server_default="")
    scale: Mapped[str] = mapped_column(default="", server_default="")
    plan: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    settings: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict, server_default="{}")
    blueprint_id: Mapped[int | None] = mapped_column(ForeignKey("blueprint.id"))
    family_id: Mapped[int | None] = mapped_column(ForeignKey("family.id"), index=True)
    before_id: Mapped[int | None] = mapped_column(ForeignKey("form.id"))
    mirror_id: Mapped[int | None] = mapped_column(ForeignKey("form.id"))
    read_revision: Mapped[int] = mapped_column(default=0, server_default="0")
    secure: Mapped[bool | None]
    stays_secure: Mapped[bool] = mapped_column(default=False, server_default="0")
    family: Mapped[Family | None] = relationship(back_populates="forms")
    items: Mapped[list[FormItem]] = relationship(order_by="FormItem.position", cascade="all, delete-orphan")


class FormItem(Base):
    """position: from 1. part: of the form's plan, from 0. face: where this form shows the item otherwise than the bank
    does, by part the ids of its options in this form's order; options that are not named are left out."""

    __tablename__ = "form_item"
    id: Mapped[int] = mapped_column(primary_key=True)
    form_id: Mapped[int] = mapped_column(ForeignKey("form.id"), index=True)
    position: Mapped[int]
    part: Mapped[int] = mapped_column(default=0, server_default="0")
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id"))
    face: Mapped[dict[str, list[str]] | None] = mapped_column(JSON(none_as_null=True))
    version: Mapped[ItemVersion] = relationship()
    __table_args__ = (UniqueConstraint("form_id", "item_version_id"),)


class CompanionRule(Base):
    """Who receives which form of a family: a group, or one person, which settles what groups leave open."""

    __tablename__ = "companion_rule"
    id: Mapped[int] = mapped_column(primary_key=True)
    family_id: Mapped[int] = mapped_column(ForeignKey("family.id"), index=True)
    form_id: Mapped[int] = mapped_column(ForeignKey("form.id"))
    group_id: Mapped[int | None] = mapped_column(ForeignKey("student_group.id", ondelete="CASCADE"))
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
