"""Practice on a standard from the bank: a draft of a practice test for who needs it taught again, or more of it."""

from __future__ import annotations

from typing import Literal, get_args

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.building import forms
from bildung.services.calendar.years import local_today
from bildung.services.mastery.judging import whole_of
from bildung.services.mastery.scope import class_named, students_of
from bildung.services.mastery.standard import items_for
from bildung.services.mastery.view import view
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.settings import dates_of
from bildung.store.models import Form, Standard

Way = Literal["reteach", "enrich"]
MOST = 10
UNKNOWN = 0.65  # p of an item of which too little is known


def make_practice(ctx: Context, actor: Actor, class_id: int, standard_id: int, way: Way) -> int:
    """The form: up to ten items on the standard that this person sees, those the class has not had in front; easy ones first to reteach,
    hard ones first to enrich. It is looked at, changed and printed like any test. Conflict where the bank has none."""
    scope(actor, Action.TESTS_WRITE)
    if way not in get_args(Way):
        raise Invalid(f"one of {', '.join(get_args(Way))}", "way")
    with ctx.store.read() as db:
        klass = class_named(db, actor, class_id)
        standard = db.get(Standard, standard_id)
        if standard is None:
            raise NotFound("there is no such standard")
        whole = whole_of(ctx, db, klass.subject)
        mine = view(whole, [s.id for s in students_of(db, klass.id)], [standard.id])
        items = items_for(ctx, db, actor, standard.id, whole, mine)
        day = dates_of(db).long(local_today(ctx, db))
        name = _free(db, f"Practice {standard.code}, {way}, {klass.title}")
        subject, grade, title = (
            klass.subject,
            klass.grade,
            f"Practice: {standard.plain or standard.text or standard.code}",
        )
        if not items:
            raise Conflict(f"the bank has no item on {standard.code} that you may see")
        harder = way == "enrich"
        items.sort(key=lambda i: (i.seen, (1 if harder else -1) * (UNKNOWN if i.p is None else i.p), i.code))
        chosen = [i.version for i in items[:MOST]]
        # before the form is there, so that nothing is left half made
        forms.check_items(db, chosen)
    made = forms.create_form(ctx, actor, name, f"{title}, {day}"[:120], subject, grade, "mirror")
    return int(forms.set_items(ctx, actor, made.id, made.revision, chosen).id)


def _free(db: Session, name: str) -> str:
    taken = set(db.scalars(select(Form.name).where(Form.name.startswith(name))))
    if name not in taken:
        return name
    return next(f"{name} {n}" for n in range(2, len(taken) + 3) if f"{name} {n}" not in taken)
