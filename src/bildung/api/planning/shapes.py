"""What the routes of this station take."""

from __future__ import annotations

from datetime import date, datetime, time
from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Id


class RoomIn(BaseModel):
    id: Id | None = None
    name: str = Field(max_length=40)
    seats: int
    devices: int = 0
    shared: bool = True


class CartIn(BaseModel):
    id: Id | None = None
    name: str = Field(max_length=40)
    devices: int


class RoomsIn(BaseModel):
    rooms: list[RoomIn] = Field(max_length=300)
    carts: list[CartIn] = Field(max_length=300)


class BlockIn(BaseModel):
    name: str = Field(max_length=20)
    start: time
    end: time


class DayTypeIn(BaseModel):
    id: Id | None = None
    name: str = Field(max_length=40)
    blocks: list[BlockIn] = Field(max_length=20)


class DayChangeIn(BaseModel):
    day: date
    type: str = Field(default="", max_length=40)
    why: str = Field(default="", max_length=120)


class BellsIn(BaseModel):
    types: list[DayTypeIn] = Field(max_length=20)
    cycle: bool = False
    pattern: list[str] = Field(max_length=30)
    first: date
    shifts: bool = True
    changes: list[DayChangeIn] = Field(default=[], max_length=300)


class HoursIn(BaseModel):
    weekday: int = Field(ge=0, le=6)
    start: time
    end: time


class StaffHoursIn(BaseModel):
    hours: list[HoursIn] = Field(max_length=7)
    provides: list[str] = Field(max_length=10)
    language: str = Field(default="", max_length=40)
    serves: list[Id] = Field(default=[], max_length=60)


class ClassTimesIn(BaseModel):
    klass: Id
    meets: list[Id] = Field(max_length=100)


class TimetableIn(BaseModel):
    """lines: of the classes that changed, each with all of its blocks."""

    lines: list[ClassTimesIn] = Field(max_length=2000)


class WishesIn(BaseModel):
    tests: list[Id] = Field(max_length=100)
    first: date
    last: date
    where: Literal["homerooms", "lessons"] = "homerooms"
    a_day: int = 1
    order: list[str] = Field(default=[], max_length=20)
    mornings: bool = True
    spread: bool = False
    extra: dict[Literal["cart", "room", "proctor"], int] = {}
    split: list[str] = Field(default=[], max_length=300)
    blocked: list[datetime] = Field(default=[], max_length=2000)
    title: str = Field(default="{window} {subject}", max_length=200)


class PlanIn(BaseModel):
    """again: start from the plan there is and move little. job: a name under which the work can be looked at."""

    wishes: WishesIn
    again: bool = False
    job: str = Field(default="", max_length=40)


class ChoosingIn(BaseModel):
    wishes: WishesIn
    until: date


class VersionIn(BaseModel):
    name: str = Field(max_length=60)


class BlockedIn(BaseModel):
    revision: int
    slot: int = Field(ge=0, le=5000)
    on: bool


class ChoiceIn(BaseModel):
    """slot: the block; None takes the choice back."""

    key: str = Field(max_length=40)
    slot: int | None = Field(default=None, ge=0, le=5000)


class ClosingIn(BaseModel):
    """A room that cannot be used from one day to another, both included."""

    revision: int
    room: str = Field(max_length=40)
    first: date
    last: date
    job: str = Field(default="", max_length=40)


class WayIn(BaseModel):
    way: Literal["move", "cart", "room", "proctor", "a_day", "day", "split"]
    job: str = Field(default="", max_length=40)


class MoveIn(BaseModel):
    revision: int
    kind: Literal["move", "proctor", "swap", "split", "merge", "students", "hold", "release", "remove", "place"]
    session: int = 0
    slot: int | None = None
    room: str | None = Field(default=None, max_length=40)
    other: int | None = None
    proctor: Id = "0"
    students: list[Id] = Field(default=[], max_length=400)
    key: str = Field(default="", max_length=80)


class StepIn(BaseModel):
    revision: int
    redo: bool = False


class PublishIn(BaseModel):
    revision: int


class FeedOut(BaseModel):
    """path: the secret address, told once."""

    path: str
