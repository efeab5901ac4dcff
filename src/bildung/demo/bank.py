"""Filling the demo's bank beside what was sat: younger grades, science, every kind, templates, a little life."""

from __future__ import annotations

import random
import re

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.demo.items import early_reading, kinds, science, young
from bildung.demo.items.templates import templates
from bildung.formats.markup import bare_text
from bildung.services.bank.itemimport import add_records
from bildung.services.bank.versions import add_version, index_items
from bildung.services.items.bankitem import content_of, standards_by_code
from bildung.services.items.media import keep_all
from bildung.services.shared.context import Context
from bildung.store.models import Item, ItemComment, ItemEnemy, Person

SEED = 20260804
GRADES = ("K", "1", "2", "3", "4", "5", "6", "7", "8")


def fill_bank(ctx: Context, db: Session) -> None:
    rng = random.Random(SEED)
    for grade in GRADES:
        found = science.items(grade, rng)
        if grade in "K12345":
            found += young.items(grade, rng) + early_reading.items(grade, rng)
        if grade in "678":
            found += kinds.items(grade, rng)
        add_records(ctx, db, [keep_all(ctx, db, record, True) for record in found], True)
    known, made = standards_by_code(db), []
    for code, grade, standard, content, template in templates():
        item = Item(
            code=code,
            subject="Mathematics",
            grade=grade,
            state="ready",
            depth=2,
            topic="templates",
            source="spring workshop",
            labels=["template"],
        )
        db.add(item)
        add_version(db, item, content, [known[f"BAF-{standard}"]], None, ctx.clock(), None, template.model_dump())
        made.append(item)
    db.flush()
    index_items(db, made)
    _life(ctx, db)


def _life(ctx: Context, db: Session) -> None:
    """Some items rest or are retired, some are in field test; two never stand together; somebody said something."""
    items = {item.code: item for item in db.scalars(select(Item))}
    for code, state in (
        ("S6-101", "field_test"),
        ("S7-101", "field_test"),
        ("S8-101", "field_test"),
        ("S3-101", "resting"),
        ("M4-101", "retired"),
    ):
        items[code].state = state
    one, other = sorted((items["M5-101"].id, items["T5-DECIMAL"].id))
    db.add(ItemEnemy(item_id=one, other_id=other))
    writer = db.scalars(select(Person).where(Person.kind == "staff").order_by(Person.id)).first()
    for code, text in (
        ("S5-103", "Bacteria do this as well; is fungi the only right answer?"),
        ("R4-104", "Children asked what a dyke is; a footnote would help."),
    ):
        db.add(ItemComment(item_id=items[code].id, person_id=writer.id if writer else None, at=ctx.clock(), text=text))


def rework(ctx: Context, db: Session) -> None:
    """After the window one question is written more plainly: its next version was not sat yet."""
    item = db.scalars(select(Item).where(Item.code == "M6-03")).one()
    before = item.versions[-1]
    content = content_of(before)
    numbers = re.findall(r"\d+", bare_text(content.shown.body))
    body = (
        f"<p>Two crews share {numbers[0]} crates. For every {numbers[1]} crates that the first crew gets, the second "
        f"gets {numbers[2]}. How many crates does the first crew get?</p>"
    )
    shown = content.shown.model_copy(update={"body": body})
    writer = db.scalars(select(Person.id).where(Person.username == "writer")).first()
    standards = [coded.standard for coded in before.standards]
    add_version(db, item, content.model_copy(update={"shown": shown}), standards, before.stimulus, ctx.clock(), writer)
    db.flush()
    index_items(db, [item])
