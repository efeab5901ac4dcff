"""What goes to the school's records of a test in a window: a line item for each class, a result for each student."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import date

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.classical.scores import score
from bildung.core.data.arrays import FloatArray
from bildung.core.data.responses import Status
from bildung.formats.gradebook import GradeResult, LineItem
from bildung.formats.gradebook import Status as GradeStatus
from bildung.services.answers.analysed import Together, together
from bildung.services.calendar.years import zone_of
from bildung.store.models import (
    Form,
    HeldBack,
    Person,
    PlannedSession,
    School,
    SchoolClass,
    SentResult,
    Sitting,
    Window,
)

OWN = "local:"  # ids of people and classes that were entered here, and of which the records know nothing


CATEGORIES = {
    "starting": "Starting test",
    "benchmark": "Benchmark",
    "unit": "Unit test",
    "closing": "Final test",
    "task": "Performance task",
    "spot": "Quick check",
}
GRADED: dict[Status, GradeStatus] = {
    Status.SAT: "fully graded",
    Status.BLANK: "fully graded",
    Status.WAITING: "submitted",
    Status.ABSENT: "not submitted",
    Status.EXEMPT: "exempt",
}


@dataclass(frozen=True)
class Unknown:
    """A result that cannot go, with its reason."""

    name: str
    klass: str
    why: str


@dataclass(frozen=True, kw_only=True)
class Outgoing:
    """items, results: as they would be sent. unknown: what cannot go."""

    items: list[LineItem]
    results: list[GradeResult]
    unknown: list[Unknown]


def outgoing(db: Session, form: Form, window: Window, sessions: Sequence[PlannedSession]) -> Outgoing:
    """Of closed sessions; results that are held back, void or still in the making are left out."""
    ids = [s.id for s in sessions if s.closed_at is not None]
    found = together(db, [form], [(id, window.id, (form.id,)) for id in ids])
    by_id = {s.id: s for s in sessions}
    classes = {s.class_id: db.get_one(SchoolClass, s.class_id) for s in sessions}
    schools = {id: db.get_one(School, id).source_id for id in {k.school_id for k in classes.values()}}
    people = {p.id: p for p in db.scalars(select(Person).where(Person.id.in_(found.people.tolist())))}
    held = set(db.scalars(select(HeldBack.sitting_id).where(HeldBack.sitting_id.in_(found.sitting.tolist()))))
    attempts = {s.id: s for s in db.scalars(select(Sitting).where(Sitting.id.in_(found.sitting.tolist())))}
    earned, possible = _totals(found)
    zone = zone_of(db)
    items: dict[int, LineItem] = {}
    results, unknown = [], []
    for row in range(found.people.size):
        session = by_id[int(found.session[row])]
        klass, person = classes[session.class_id], people[int(found.people[row])]
        attempt = attempts[int(found.sitting[row])]
        status = GRADED.get(Status(int(found.table.status[row])))
        if status is None or attempt.id in held:
            continue
        if klass.source_id.startswith(OWN) or person.source_id.startswith(OWN):
            whose = "the class" if klass.source_id.startswith(OWN) else "the student"
            unknown.append(Unknown(person.name, klass.title, f"{whose} was entered here and is not in the records"))
            continue
        day = session.start.astimezone(zone).date()
        item = items.setdefault(klass.id, _item(form, window, klass, schools[klass.school_id], day, possible))
        graded = status == "fully graded"
        results.append(
            GradeResult(
                id=f"{item.id}-{person.source_id}",
                line_item=item.id,
                student_id=person.source_id,
                class_id=klass.source_id,
                status=status,
                score=round(float(earned[row]), 6) if graded else None,
                day=day,
                late=bool(session.due and attempt.handed_in_at and attempt.handed_in_at > session.due),
                missing=status == "not submitted",
            )
        )
    return Outgoing(items=list(items.values()), results=results, unknown=unknown)


def _item(form: Form, window: Window, klass: SchoolClass, school: str, day: date, possible: float) -> LineItem:
    return LineItem(
        id=f"bildung-{form.id}-{window.id}-{klass.source_id}",
        title=f"{form.title}, {window.name} {window.start.year}",
        day=day,
        class_id=klass.source_id,
        school_id=school,
        category=CATEGORIES.get(form.kind, "Test"),
        possible=possible,
    )


def _totals(found: Together) -> tuple[FloatArray, float]:
    """(rows,): points of each; and the most that can be had."""
    earned = np.zeros(found.people.size)
    counted = found.table.counted
    if counted.any():
        earned[counted] = score(found.table.take(counted)).earned
    return earned, float(sum(item.points for item in found.table.items))


def digest(one: LineItem | GradeResult) -> str:
    """Of what is sent about one thing."""
    return hashlib.sha256(repr(sorted(asdict(one).items())).encode()).hexdigest()[:24]


def unsent(db: Session, form_id: int, window_id: int, found: Outgoing) -> tuple[list[LineItem], list[GradeResult]]:
    """What the records system has not, or has otherwise."""
    there = {
        row.id: row.digest
        for row in db.scalars(
            select(SentResult).where(SentResult.form_id == form_id, SentResult.window_id == window_id)
        )
    }
    results = [r for r in found.results if there.get(r.id) != digest(r)]
    wanted = {r.line_item for r in results}
    return [i for i in found.items if there.get(i.id) != digest(i) or i.id in wanted], results
