"""What Brackwater Middle tests with: rooms, carts, A and B days, times of classes, hours of two people. The elementary
schools have entered nothing, and get their plans by homeroom and the usual bells."""

from __future__ import annotations

from datetime import date, time, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.store.models import (
    Block,
    Cart,
    ClassTime,
    DayPattern,
    DayType,
    Person,
    Room,
    School,
    SchoolClass,
    StaffHours,
    StaffSupport,
)

TIMES = (
    (time(8, 30), time(9, 35)),
    (time(9, 40), time(10, 45)),
    (time(10, 50), time(11, 40)),
    (time(12, 0), time(13, 5)),  # lunch comes before it
    (time(13, 10), time(14, 15)),
)
SHARED = (
    ("Library", 28, 24),
    ("Lab 1", 28, 28),
    ("Lab 2", 26, 26),
    ("Small room 1", 6, 6),
    ("Small room 2", 6, 6),
    ("Small room 3", 4, 4),
)
CARTS, ON_A_CART = 5, 26
OWN_SEATS = 26
MORNINGS_ONLY = "Noor"
READER = "Odile"


def school_resources(db: Session, first: date) -> None:
    """first: the first day of the A and B cycle."""
    school = db.scalars(select(School).where(School.name == "Brackwater Middle")).first()
    if school is None:
        return
    for name, seats, devices in SHARED:
        db.add(Room(school_id=school.id, name=name, seats=seats, devices=devices, shared=True))
    for number in range(1, CARTS + 1):
        db.add(Cart(school_id=school.id, name=f"Cart {number}", devices=ON_A_CART))
    classes = db.scalars(select(SchoolClass).where(SchoolClass.school_id == school.id, SchoolClass.active)).all()
    for location in sorted({klass.location for klass in classes if klass.location}):
        db.add(Room(school_id=school.id, name=location, seats=OWN_SEATS, devices=0, shared=False))
    blocks: dict[str, list[Block]] = {}
    types = []
    for place, name in enumerate("AB"):
        kind = DayType(school_id=school.id, name=name, place=place)
        db.add(kind)
        db.flush()
        types.append(kind.id)
        blocks[name] = [
            Block(day_type_id=kind.id, name=str(place * len(TIMES) + n + 1), start=start, end=end)
            for n, (start, end) in enumerate(TIMES)
        ]
        db.add_all(blocks[name])
    db.add(DayPattern(school_id=school.id, cycle=True, types=types, first=first, shifts=True))
    db.flush()
    for klass in classes:
        if klass.period and klass.period.isdigit() and not klass.homeroom:
            period = int(klass.period)
            meets = [blocks["A"][period - 1]] if period <= len(TIMES) else [blocks["B"][0]]
            if period < len(TIMES):
                meets.append(blocks["B"][period])
            db.add_all(ClassTime(class_id=klass.id, block_id=block.id) for block in meets)
    _people(db, school.id)


def _people(db: Session, school_id: int) -> None:
    staff = {
        p.given: p for p in db.scalars(select(Person).where(Person.kind == "staff", Person.school_id == school_id))
    }
    if MORNINGS_ONLY in staff:
        for weekday in range(5):
            db.add(StaffHours(person_id=staff[MORNINGS_ONLY].id, weekday=weekday, start=time(8), end=time(12)))
    if READER in staff:
        db.add(StaffSupport(person_id=staff[READER].id, kind="human_reader"))


def cycle_start(first: date) -> date:
    """The Monday of the week in which school begins."""
    return first - timedelta(days=first.weekday())
