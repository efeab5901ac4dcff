"""Forms: concrete ordered sets of item versions. A published form never changes (held by triggers)."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from bildung.store.models.bank import ItemVersion
from bildung.store.models.base import Base


class Form(Base):
    """name: among staff. title: what students see. revision: counts changes, for If-Match.
    owner_id: a teacher's own; None: common."""

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
    items: Mapped[list[FormItem]] = relationship(order_by="FormItem.position", cascade="all, delete-orphan")


class FormItem(Base):
    """position: from 1."""

    __tablename__ = "form_item"
    id: Mapped[int] = mapped_column(primary_key=True)
    form_id: Mapped[int] = mapped_column(ForeignKey("form.id"), index=True)
    position: Mapped[int]
    item_version_id: Mapped[int] = mapped_column(ForeignKey("item_version.id"))
    version: Mapped[ItemVersion] = relationship()
    __table_args__ = (UniqueConstraint("form_id", "item_version_id"),)
