"""A plan as CSV: a line for each student in each session, with what the session uses."""

from __future__ import annotations

import csv
import io

from bildung.services.planning.known import known_facts, known_sessions
from bildung.services.planning.plans import get_plan
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.store.models import Person

COLUMNS = (
    "session",
    "date",
    "start",
    "end",
    "day_type",
    "block",
    "room",
    "cart",
    "proctor",
    "class",
    "test",
    "student_id",
    "student",
    "setting",
)


def export_plan(ctx: Context, actor: Actor, plan_id: int) -> bytes:
    """In order of time; UTF-8 with a mark, as spreadsheets want it."""
    out = io.StringIO()
    sheet = csv.writer(out)
    sheet.writerow(COLUMNS)
    with ctx.store.read() as db:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_READ)
        facts = known_facts(ctx, db, plan)
        found, _ = known_sessions(ctx, plan, facts)
        numbers = {id: source for id, source in db.query(Person.id, Person.source_id)}
    for session in sorted(found, key=lambda s: (s.slot, s.room, s.id)):
        slot = facts.problem.slots[session.slot]
        for one in session.lists:
            minutes = facts.tests[one.test].minutes if one.whole else session.minutes
            ends = slot.start.timestamp() + minutes * 60
            end = slot.start.fromtimestamp(ends, slot.start.tzinfo)
            setting = "alone" if session.alone else session.support or ("" if one.whole else "apart")
            for student in one.students:
                sheet.writerow(
                    (
                        session.id,
                        slot.start.date().isoformat(),
                        f"{slot.start:%H:%M}",
                        f"{end:%H:%M}",
                        slot.day_type,
                        slot.block,
                        session.room,
                        session.cart,
                        facts.people.get(session.proctor, ""),
                        facts.classes.get(one.klass, ""),
                        facts.tests[one.test].name,
                        numbers.get(student, ""),
                        facts.students.get(student, ""),
                        setting,
                    )
                )
    return out.getvalue().encode("utf-8-sig")
