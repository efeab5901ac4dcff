"""Variant items: looking at draws of a template, finding what is wrong with it, making items of its draws."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import dataclass, replace
from typing import Annotated, Any

from sqlalchemy import select

from bildung.core.errors import Refused
from bildung.formats.content import Content, cleaned, read_content
from bildung.formats.itemlist import ItemRecord
from bildung.formats.template import Draw, Template, draw, read_template
from bildung.services.bank.itemimport import add_records
from bildung.services.items.bankitem import bank_item, record_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, owner_of_new, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Named, listed
from bildung.store.models import Item

SHOWN_DRAWS = 10
CHECKED_DRAWS = 200
MOST_ITEMS = 50


@dataclass(frozen=True, kw_only=True)
class DrawsView:
    """draws: the first ten. different: how many different ones among those checked. finding: in one sentence."""

    draws: list[Draw]
    checked: int
    different: int
    wrong: int
    reasons: Annotated[list[tuple[str, int]], listed(Named)]
    finding: str


def look(content: Content, template: Template, seed: int = 1) -> DrawsView:
    """Ten draws to see, and two hundred looked through for what can go wrong."""
    draws = [draw(content, template, seed + at) for at in range(CHECKED_DRAWS)]
    reasons = Counter(d.wrong for d in draws if d.wrong)
    wrong = sum(reasons.values())
    faces = {_face(d.content) for d in draws if d.content is not None}
    if wrong == len(draws):
        finding = f"No draw can be used: {reasons.most_common(1)[0][0]}."
    elif wrong:
        finding = f"{wrong} of {len(draws)} draws cannot be used, mostly: {reasons.most_common(1)[0][0]}. Add a constraint that leaves them out."
    elif len(faces) < SHOWN_DRAWS:
        finding = f"Only {len(faces)} different draws in {len(draws)}; two students next to each other would often have the same."
    else:
        finding = f"All of {len(draws)} draws can be used; {len(faces)} of them are different."
    return DrawsView(
        draws=draws[:SHOWN_DRAWS],
        checked=len(draws),
        different=len(faces),
        wrong=wrong,
        reasons=reasons.most_common(5),
        finding=finding,
    )


def _face(content: Content) -> str:
    return json.dumps(content.shown.model_dump(), sort_keys=True)


def template_faults(content: Content, template: Template) -> list[tuple[str, str]]:
    """What keeps a template from being used: any draw of the checked ones that cannot be."""
    found = look(content, template)
    return [("template", found.finding)] if found.wrong else []


def preview_draws(actor: Actor, content: Any, template: Any, seed: int) -> DrawsView:
    """Draw a template many times and say what is wrong with what comes out."""
    scope(actor, Action.BANK_READ)
    try:
        return look(cleaned(read_content(content)), read_template(template), seed)
    except Refused as error:
        raise Invalid(str(error), "template") from None


def make_items(ctx: Context, actor: Actor, item_id: int, count: int, seed: int) -> list[str]:
    """Items of their own from draws of a template, each another; their codes. They know what they were drawn from."""
    allowed = scope(actor, Action.BANK_WRITE)
    if not 1 <= count <= MOST_ITEMS:
        raise Invalid(f"1 to {MOST_ITEMS} items at once", "count")

    def work(db: Any) -> list[str]:
        item = db.scalar(select(Item).where(Item.id == item_id, allowed))
        if item is None or not item.versions:
            raise NotFound("there is no such template, or it is not yours")
        latest = item.versions[-1]
        if latest.template is None:
            raise Conflict(f"{item.code} has no variables to draw")
        whole = record_of(bank_item(latest))
        template = read_template(latest.template)
        taken = set(db.scalars(select(Item.code).where(Item.code.startswith(f"{item.code}.", autoescape=True))))
        records: list[ItemRecord] = []
        faces: set[str] = set()
        for at in range(count * 20):
            drawn = draw(whole.content, template, seed + at)
            code = f"{item.code}.{seed + at}"
            if drawn.content is None or drawn.wrong or code in taken or _face(drawn.content) in faces:
                continue
            faces.add(_face(drawn.content))
            records.append(replace(whole, code=code, content=drawn.content))
            if len(records) == count:
                break
        if len(records) < count:
            raise Conflict(
                f"only {len(records)} different items can be drawn from seed {seed} on; ask for fewer or begin elsewhere"
            )
        add_records(ctx, db, records, True, {r.code: latest.id for r in records})
        made = db.scalars(select(Item).where(Item.code.in_([r.code for r in records]))).all()
        for new in made:
            new.owner_id, new.state = owner_of_new(actor) if item.owner_id is None else item.owner_id, "ready"
        codes = [r.code for r in records]
        audit.record(db, ctx.clock(), actor.person_id, "item.draw", f"item:{item_id}", None, {"items": codes})
        return codes

    return ctx.store.write(work)
