"""What a new school does first, from its people to its first session: each step with whether it is done."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.store.models import Form, ItemVersion, Person, PlannedSession, SchoolClass, Sitting, Window


@dataclass(frozen=True, kw_only=True)
class FirstStep:
    """done: how it stands, empty until it is done. why: what it is good for. path: where it is done. may: whether this
    person does it."""

    name: str
    why: str
    done: str
    path: str
    may: bool


@dataclass(frozen=True)
class FirstSteps:
    finding: str
    complete: bool
    steps: list[FirstStep]


def first_steps(ctx: Context, actor: Actor) -> FirstSteps:
    """Where a new installation stands, step by step."""
    with ctx.store.read() as db:
        students = _count(db, Person.kind == "student", Person.active.is_(True), of=Person)
        classes = _count(db, SchoolClass.active.is_(True), of=SchoolClass)
        windows, items = _count(db, of=Window), db.scalar(select(func.count(ItemVersion.item_id.distinct()))) or 0
        forms = _count(db, Form.published_at.is_not(None), of=Form)
        sessions = _count(db, of=PlannedSession)
        sat = _count(db, Sitting.state == "handed_in", of=Sitting)
    steps = [
        FirstStep(
            name="Import people",
            why="Import rosters from your student information system, or a spreadsheet with one row per student and class.",
            done=f"{_many(students, 'student')} in {_many(classes, 'class', 'classes')}" if students else "",
            path="/people",
            may=actor.may(Action.PEOPLE_IMPORT),
        ),
        FirstStep(
            name="Set up the school year",
            why="Add a testing window. Results are compared by window, in weeks of instruction.",
            done=_many(windows, "window") if windows else "",
            path="/people/year",
            may=actor.may(Action.YEARS_WRITE),
        ),
        FirstStep(
            name="Add items",
            why="Write items, or import a spreadsheet or a QTI package, aligned to your standards.",
            done=_many(items, "item") if items else "",
            path="/bank",
            may=actor.may(Action.BANK_WRITE),
        ),
        FirstStep(
            name="Publish a test",
            why="Build it from a blueprint or item by item, and preview it as a student.",
            done=_many(forms, "published form") if forms else "",
            path="/tests",
            may=actor.may(Action.TESTS_WRITE),
        ),
        FirstStep(
            name="Schedule a session",
            why="Choose the form, classes, room, and time, then print sign-in codes.",
            done=_many(sessions, "session") if sessions else "",
            path="/sessions",
            may=actor.may(Action.SESSIONS_PLAN),
        ),
    ]
    left = [step for step in steps if not step.done]
    if sat:
        return FirstSteps("", True, steps)
    if not left:
        return FirstSteps("Setup is complete. Results appear under Item quality after the first session.", False, steps)
    start = (
        "Set up your school in five steps."
        if len(left) == len(steps)
        else f"{len(steps) - len(left)} of {len(steps)} steps are complete."
    )
    return FirstSteps(f"{start} Next: {left[0].name[0].lower()}{left[0].name[1:]}.", False, steps)


def _count(db: Session, *where: object, of: type) -> int:
    return db.scalar(select(func.count()).select_from(of).where(*where)) or 0  # type: ignore[arg-type]


def _many(n: int, one: str, several: str = "") -> str:
    return f"{n} {one if n == 1 else several or one + 's'}"
