"""Whom the simulated test service knows: students of the demo, by their names in the records."""

from __future__ import annotations

from sqlalchemy import select

from bildung.demo.measures import GRADES
from bildung.services.calendar.years import local_today
from bildung.services.shared.context import Context
from bildung.standins.testservice import Service, TestTaker
from bildung.store.models import Person, Window


def service_of(ctx: Context) -> Service:
    """Students of the grades that are tested, and the windows that have begun."""
    with ctx.store.read() as db:
        today = local_today(ctx, db)
        rows = db.execute(
            select(Person.source_id, Person.given, Person.family, Person.birth_date, Person.grade)
            .where(Person.student.is_(True), Person.active.is_(True), Person.grade.in_(GRADES))
            .order_by(Person.source_id)
        ).all()
        windows = db.scalars(select(Window).where(Window.start <= today).order_by(Window.start)).all()
        terms = [(f"{w.name} {w.start.year}", w.start) for w in windows]
    return Service(takers=[TestTaker(*row) for row in rows], terms=terms)
