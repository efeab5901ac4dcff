"""The same benchmark a year ago: this year's seventh grade sat mathematics 6 in its classes of then."""

from __future__ import annotations

import random
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared.codes import SESSION_LENGTH, new_code
from bildung.store.models import Enrolment, Person, PlannedSession, SchoolClass, SchoolYear, Sitting, Window

CLASSES, SIZE = 3, 24


def earlier_sessions(db: Session, form_id: int, name: str, opens: date, zone: str) -> list[int]:
    """Sessions of a year before `opens`, with their classes and sittings; nothing is answered yet. None where the demo
    knows no such window."""
    window = db.scalars(
        select(Window).where(Window.name == name, Window.start < opens).order_by(Window.start.desc())
    ).first()
    if window is None:
        return []
    year = db.scalar(select(SchoolYear).where(SchoolYear.start <= window.start, SchoolYear.end >= window.start))
    if year is None:
        start = date(window.start.year, 8, 1)
        year = SchoolYear(
            title=f"{start.year}/{(start.year + 1) % 100:02d}", start=start, end=date(start.year + 1, 7, 31)
        )
        db.add(year)
        db.flush()
    students = db.scalars(
        select(Person).where(Person.kind == "student", Person.grade == "7").order_by(Person.source_id)
    ).all()[: CLASSES * SIZE]
    teachers = db.scalars(select(Person).where(Person.source_id.startswith("BM-TM")).order_by(Person.source_id)).all()
    rng = random.Random("a year ago")
    taken = set(db.scalars(select(PlannedSession.code)))
    made = []
    for at in range(CLASSES):
        mine = students[at * SIZE : (at + 1) * SIZE]
        klass = SchoolClass(
            source_id=f"BM-6M{at + 1}-{year.start.year}",
            title=f"Mathematics 6.{at + 1}, {year.start.year}",
            school_id=mine[0].school_id,
            subject="Mathematics",
            grade="6",
            course="Mathematics 6",
            year_id=year.id,
            active=False,
        )
        db.add(klass)
        db.flush()
        db.add(Enrolment(class_id=klass.id, person_id=teachers[at % len(teachers)].id, role="teacher", active=False))
        db.add_all(Enrolment(class_id=klass.id, person_id=p.id, role="student", active=False) for p in mine)
        day = window.start + timedelta(days=2)
        start = datetime.combine(day, time(8, 30), ZoneInfo(zone))
        code = new_code(SESSION_LENGTH, taken, rng.choice)
        taken.add(code)
        session = PlannedSession(
            form_id=form_id,
            window_id=window.id,
            class_id=klass.id,
            start=start,
            end=start + timedelta(minutes=60),
            code=code,
        )
        session.sittings = [Sitting(person_id=p.id) for p in mine]
        db.add(session)
        db.flush()
        made.append(session.id)
    return made
