"""Planning a window: rooms, devices and hours of a school, its kinds of days, and plans that are being made."""

from __future__ import annotations

from datetime import date, datetime, time
from typing import Any

from sqlalchemy import JSON, ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class Room(Base):
    """A room of a school. devices: that stay in it. shared: any class may test there; else it is the room of a class."""

    __tablename__ = "room"
    id: Mapped[int] = mapped_column(primary_key=True)
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), index=True)
    name: Mapped[str]
    seats: Mapped[int]
    devices: Mapped[int] = mapped_column(default=0)
    shared: Mapped[bool] = mapped_column(default=True)
    __table_args__ = (UniqueConstraint("school_id", "name"),)


class RoomClosing(Base):
    """Days, both included, on which a room cannot be used. room: by name, as sessions know it."""

    __tablename__ = "room_closing"
    id: Mapped[int] = mapped_column(primary_key=True)
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), index=True)
    room: Mapped[str]
    first: Mapped[date]
    last: Mapped[date]


class Cart(Base):
    """A cart of devices."""

    __tablename__ = "cart"
    id: Mapped[int] = mapped_column(primary_key=True)
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), index=True)
    name: Mapped[str]
    devices: Mapped[int]
    __table_args__ = (UniqueConstraint("school_id", "name"),)


class DayType(Base):
    """A kind of day with its bell schedule, such as A, B or early release. place: in the order shown."""

    __tablename__ = "day_type"
    id: Mapped[int] = mapped_column(primary_key=True)
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), index=True)
    name: Mapped[str]
    place: Mapped[int] = mapped_column(default=0)
    __table_args__ = (UniqueConstraint("school_id", "name"),)


class Block(Base):
    """One block, or period, of a bell schedule."""

    __tablename__ = "block"
    id: Mapped[int] = mapped_column(primary_key=True)
    day_type_id: Mapped[int] = mapped_column(ForeignKey("day_type.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    start: Mapped[time]
    end: Mapped[time]


class DayPattern(Base):
    """Which kind of day a school has when. cycle: types follow each other from `first` on, one each school day; else they
    are of the weekdays from Monday on. types: ids of DayType. shifts: a closed day does not use its type up."""

    __tablename__ = "day_pattern"
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), primary_key=True)
    cycle: Mapped[bool] = mapped_column(default=False)
    types: Mapped[list[int]] = mapped_column(JSON)
    first: Mapped[date]
    shifts: Mapped[bool] = mapped_column(default=True)


class DayChange(Base):
    """One day that is not as the pattern says. day_type_id: None is a day without school, such as a snow day."""

    __tablename__ = "day_change"
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), primary_key=True)
    day: Mapped[date] = mapped_column(primary_key=True)
    day_type_id: Mapped[int | None] = mapped_column(ForeignKey("day_type.id", ondelete="CASCADE"))
    why: Mapped[str] = mapped_column(default="")


class ClassTime(Base):
    """That a class meets in a block."""

    __tablename__ = "class_time"
    class_id: Mapped[int] = mapped_column(ForeignKey("class.id", ondelete="CASCADE"), primary_key=True)
    block_id: Mapped[int] = mapped_column(ForeignKey("block.id", ondelete="CASCADE"), primary_key=True)


class StaffHours(Base):
    """When somebody can be at a session, on a weekday from 0, Monday; without any row, all day."""

    __tablename__ = "staff_hours"
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True)
    weekday: Mapped[int] = mapped_column(primary_key=True)
    start: Mapped[time]
    end: Mapped[time]


class StaffSupport(Base):
    """A kind of accommodation that somebody provides. language: that they speak beside the school's, empty for none."""

    __tablename__ = "staff_support"
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    language: Mapped[str] = mapped_column(default="")


class StaffServes(Base):
    """Students whom somebody is there for: whoever of them provides what a student needs comes before all others."""

    __tablename__ = "staff_serves"
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True, index=True)


class Plan(Base):
    """A school's plan of a window. wishes, sessions, figures: as services/planning/document.py reads them. steps: hand moves
    since the last publishing, each with what it changed; step: how many of them hold, the others were undone. choose_until:
    the last day on which teachers choose when their classes test; reminded_at: when those who had not were reminded."""

    __tablename__ = "plan"
    id: Mapped[int] = mapped_column(primary_key=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"), index=True)
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), index=True)
    wishes: Mapped[dict[str, Any]] = mapped_column(JSON)
    sessions: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    figures: Mapped[dict[str, Any]] = mapped_column(JSON)
    steps: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    step: Mapped[int] = mapped_column(default=0)
    revision: Mapped[int] = mapped_column(default=1)
    made_at: Mapped[datetime]
    made_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    published_at: Mapped[datetime | None]
    choose_until: Mapped[date | None]
    reminded_at: Mapped[datetime | None]
    __table_args__ = (UniqueConstraint("window_id", "school_id"),)


class AskedPlan(Base):
    """A plan that is being made: a restart in the middle begins it again."""

    __tablename__ = "asked_plan"
    id: Mapped[int] = mapped_column(primary_key=True)
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"))
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id", ondelete="CASCADE"))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    wishes: Mapped[dict[str, Any]] = mapped_column(JSON)
    again: Mapped[bool]
    at: Mapped[datetime]


class PlanVersion(Base):
    """A plan as it was, kept to compare and to go back to. name: what somebody called it; empty: kept by itself before the
    window was planned again."""

    __tablename__ = "plan_version"
    id: Mapped[int] = mapped_column(primary_key=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("plan.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(default="")
    kept_at: Mapped[datetime]
    by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    wishes: Mapped[dict[str, Any]] = mapped_column(JSON)
    sessions: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    figures: Mapped[dict[str, Any]] = mapped_column(JSON)


class PlanHold(Base):
    """Who plans a school. last: when they last did something; after ten idle minutes it passes to whoever asks."""

    __tablename__ = "plan_hold"
    school_id: Mapped[int] = mapped_column(ForeignKey("school.id"), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
    since: Mapped[datetime]
    last: Mapped[datetime]


class CalendarFeed(Base):
    """A secret address under which somebody's sessions are read by a calendar program. token_hash: of its secret part."""

    __tablename__ = "calendar_feed"
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True)
    token_hash: Mapped[str] = mapped_column(unique=True)
    made_at: Mapped[datetime]
