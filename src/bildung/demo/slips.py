"""Exit slips that a teacher entered over the fall: with what is to be found in the grid of mastery."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import AbstractContextManager
from datetime import date, datetime, timedelta

from sqlalchemy import select

from bildung.services.mastery import deciding, entering, keeping
from bildung.services.mastery.entering import EnteredPoints, NewEvidence, NewIntervention
from bildung.services.mastery.keeping import NewPurpose
from bildung.services.mastery.scope import InClass, students_of
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import Form, PlannedSession, SchoolClass, Standard

CLASS = "Mathematics 6.4"  # takes the winter test after today
STRONG, RISING, LAPSING, REPEATED = "M6.3", "M6.5", "M6.2", "M6.1"
EXCEPT, RISER, LAPSER, TWOFOLD, THIN = range(5)  # places by name of the students with something to be found
WEEKS = 10
MOST = 2.0
RISE = (0.0, 0.0, 1.0, 0.0, 0.0, 2.0, 2.0, 2.0, 2.0, 2.0)  # missed nine of the first ten points, then all
LAPSE = (2.0, 2.0, 2.0, 2.0, 2.0, 2.0, 2.0, 0.0, 0.0, 0.0)
COUNTED = ("7", "8")  # grades whose quick checks were said to count; of the others nobody decided yet
Clock = Callable[[Context, datetime], AbstractContextManager[None]]


def exit_slips(ctx: Context, actor: Actor, today: date, clock: Clock) -> None:
    """Entered week by week, at the hour when they were."""
    with ctx.store.read() as db:
        klass = db.scalar(select(SchoolClass).where(SchoolClass.title == CLASS))
        if klass is None:
            return
        students = students_of(db, klass.id)
        codes = dict(
            db.execute(
                select(Standard.code, Standard.id).where(
                    Standard.code.startswith("BAF-M"), Standard.framework_id.is_not(None)
                )
            ).all()
        )
        checks = db.scalars(
            select(PlannedSession.id)
            .join(Form, Form.id == PlannedSession.form_id)
            .where(Form.kind == "spot", Form.grade.in_(COUNTED), PlannedSession.closed_at.is_not(None))
        ).all()
    deciding.decide(ctx, actor, checks, True)
    days = [_school_day(today - timedelta(days=7 * back)) for back in range(WEEKS, 0, -1)]
    for week, day in enumerate(days):
        with clock(ctx, datetime.combine(day, datetime.min.time(), ctx.clock().tzinfo) + timedelta(hours=20)):
            for standard in (STRONG, RISING, LAPSING):
                if standard == STRONG and week < WEEKS // 2:
                    continue
                points = _points(standard, week, students)
                _enter(ctx, actor, codes[f"BAF-{standard}"], day, "Exit slip", points)
                if standard == RISING and week > 4:
                    _enter(ctx, actor, codes[f"BAF-{standard}"], day, "Warm-up", points)
            if week == 4:
                work = NewIntervention(
                    standard=codes[f"BAF-{RISING}"],
                    people=[students[RISER].id],
                    what="Trees and tables instead of formulas, Tuesdays",
                    start=day,
                    until=None,
                )
                entering.enter_intervention(ctx, actor, work)
            if week == WEEKS - 3:
                _at_work(ctx, actor, students, codes, day)
    _twofold(ctx, actor, students, codes, days)


def _points(standard: str, week: int, students: Sequence[InClass]) -> list[EnteredPoints]:
    """Of a slip with two questions."""
    if standard == RISING:
        return [EnteredPoints(person=students[RISER].id, earned=RISE[week])]
    if standard == LAPSING:
        return [EnteredPoints(person=students[LAPSER].id, earned=LAPSE[week])]
    return [
        EnteredPoints(person=s.id, earned=float(week % 2) if at == EXCEPT else MOST) for at, s in enumerate(students)
    ]


def _enter(ctx: Context, actor: Actor, standard: int, day: date, what: str, points: list[EnteredPoints]) -> None:
    new = NewEvidence(standard=standard, kind="score", what=what, on=day, possible=MOST, points=points)
    entering.enter_evidence(ctx, actor, new)


def _at_work(ctx: Context, actor: Actor, students: Sequence[InClass], codes: dict[str, int], day: date) -> None:
    """A group with a purpose, to be looked at again by now."""
    purpose = NewPurpose(
        name="Fractions again",
        members=[s.id for s in students[6:11]],
        standard=codes[f"BAF-{REPEATED}"],
        purpose="Fraction strips, twice a week",
        check_on=day + timedelta(days=14),
    )
    keeping.keep_group(ctx, actor, purpose)


def _twofold(
    ctx: Context, actor: Actor, students: Sequence[InClass], codes: dict[str, int], days: Sequence[date]
) -> None:
    """Strong a grade above, weak a grade below; and too little of another to say."""
    for code, earned, most, place in (
        ("M7.1", (4.0, 4.0, 4.0), 4.0, TWOFOLD),
        ("M7.2", (4.0, 4.0, 4.0), 4.0, TWOFOLD),
        ("M5.1", (0.0, 1.0, 0.0), 4.0, TWOFOLD),
        ("M5.2", (1.0, 0.0, 0.0), 4.0, TWOFOLD),
        ("M7.1", (1.0,), 2.0, THIN),
    ):
        for day, points in zip(days[-3:], earned, strict=False):
            new = NewEvidence(
                standard=codes[f"BAF-{code}"],
                kind="observation",
                what="Worked at the board",
                on=day,
                possible=most,
                points=[EnteredPoints(person=students[place].id, earned=points)],
            )
            entering.enter_evidence(ctx, actor, new)


def _school_day(day: date) -> date:
    while day.weekday() > 4:
        day -= timedelta(days=1)
    return day
