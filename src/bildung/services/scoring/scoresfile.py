"""Scores that people gave, with who and when, as a file."""

from __future__ import annotations

from operator import itemgetter
from typing import Literal

from sqlalchemy import func, select

from bildung.core.scoring.conditions import WORDS, Condition
from bildung.formats.table import to_file
from bildung.services.answers.byperson import given_marks
from bildung.services.calendar.years import zone_of
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.store.models import Form, FormItem, Item, ItemVersion, Mark, Person, PlannedSession, SchoolClass, Sitting

COLUMNS = (
    "student",
    "name",
    "class",
    "form",
    "item",
    "code",
    "points",
    "by criterion",
    "condition code",
    "scorer",
    "scored at",
    "rubric",
    "counts",
    "note",
)


def scores_file(ctx: Context, actor: Actor, form_id: int, window_id: int, kind: Literal["csv", "xlsx"]) -> bytes:
    """A row for each score, in the order of classes, students, items and time; those set aside as well, and saying so."""
    with ctx.store.read() as db:
        allowed = scope(actor, Action.SCORES_PLAN)
        of_form = func.coalesce(Sitting.form_id, PlannedSession.form_id) == form_id
        form = db.get(Form, form_id)
        marks = given_marks(db, PlannedSession.window_id == window_id, of_form, allowed)
        if form is None or not marks:
            raise NotFound("no one has scored a response of this test in this window, or it is not yours to see")
        sittings, places = {sitting for _, sitting in marks}, {place for place, _ in marks}
        whose = {
            id: (person, klass)
            for id, person, klass in db.execute(
                select(Sitting.id, Person, SchoolClass.title)
                .join(Person, Person.id == Sitting.person_id)
                .join(PlannedSession, PlannedSession.id == Sitting.session_id)
                .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
                .where(Sitting.id.in_(select(Mark.sitting_id).where(Mark.form_item_id.in_(places))))
            )
            if id in sittings
        }
        items = {
            id: (position, code)
            for id, position, code in db.execute(
                select(FormItem.id, FormItem.position, Item.code)
                .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
                .join(Item, Item.id == ItemVersion.item_id)
                .where(FormItem.id.in_(places))
            )
        }
        scorers = {m.scorer for some in marks.values() for m in some}
        names = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_(scorers)))}
        zone = zone_of(db)
    rows: list[tuple[tuple[object, ...], list[str | float]]] = []
    for (place, sitting), given in marks.items():
        person, klass = whose[sitting]
        number, code = items[place]
        for m in given:
            notes = [word for word, is_so in (("pre-scored", m.truth), ("second opinion asked", m.second)) if is_so]
            rows.append(
                (
                    (klass, person.family, person.given, person.id, number, m.at),
                    [
                        person.source_id,
                        person.name,
                        klass,
                        form.name,
                        float(number),
                        code,
                        m.points,
                        " + ".join(f"{p:g}" for p in m.criteria or []),
                        WORDS[_code(m.code)] if m.code else "",
                        names.get(m.scorer, ""),
                        m.at.astimezone(zone).strftime("%Y-%m-%d %H:%M"),
                        float(m.scoring or 1),
                        "no, set aside" if m.aside else "settles" if m.final else "yes",
                        ", ".join(notes),
                    ],
                )
            )
    rows.sort(key=itemgetter(0))
    return to_file(kind, "Scores", COLUMNS, [cells for _, cells in rows])


def _code(text: str) -> Condition:
    return text  # type: ignore[return-value]  # the store holds what was checked
