"""A short check in mathematics of every kind of item, sat by each grade in the weeks after the window opened."""

from __future__ import annotations

import random
from datetime import datetime, time, timedelta

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.data.simulate import ItemParameters, probability_right
from bildung.demo.answers import right_answer, wrong_answer
from bildung.demo.benchmarks import classes_of, put_answers
from bildung.services.answers.packing import pack
from bildung.services.building.forms import create_form, publish, set_items
from bildung.services.items.bankitem import content_of, with_parts
from bildung.services.sessions.scheduling import schedule
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import (
    FormItem,
    Item,
    ItemVersion,
    PlannedSession,
    Sitting,
)

KINDS = 14
ABSENT, SKIPPED = 0.05, 0.03


def spot_checks(
    ctx: Context,
    actor: Actor,
    window: int,
    opens: datetime,
    ability: dict[tuple[str, int], float],
    grades: tuple[str, ...],
) -> None:
    rng, numbers = random.Random("spot checks"), np.random.default_rng(77)
    for place, grade in enumerate(grades):
        with ctx.store.read() as db:
            versions = list(
                db.scalars(
                    select(ItemVersion)
                    .join(ItemVersion.item)
                    .where(Item.code.startswith(f"M{grade}X-"), ItemVersion.kind != "writing")
                    .order_by(Item.code)
                )
            )[::2][:KINDS]
            ids = [version.id for version in versions]
        form = create_form(
            ctx, actor, f"Quick check mathematics {grade}", "Spot check mathematics", "Mathematics", grade, "spot"
        )
        form = set_items(ctx, actor, form.id, form.revision, ids)
        publish(ctx, actor, form.id, form.revision)
        day = opens + timedelta(days=9 + place)
        while day.weekday() > 4:
            day += timedelta(days=1)
        start = datetime.combine(day.date(), time(9, 40), opens.tzinfo)
        for id in schedule(
            ctx,
            actor,
            form.id,
            window,
            classes_of(ctx, "Mathematics", grade),
            "",
            None,
            start,
            start + timedelta(minutes=25),
        ):
            ctx.store.write(lambda db, id=id: _answer(db, id, ability, rng, numbers))  # type: ignore[misc]


def _answer(
    db: Session,
    session_id: int,
    ability: dict[tuple[str, int], float],
    rng: random.Random,
    numbers: np.random.Generator,
) -> None:
    session = db.get_one(PlannedSession, session_id)
    rows = db.execute(
        select(FormItem.id, ItemVersion.id)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.form_id == session.form_id)
        .order_by(FormItem.position)
    ).all()
    versions = {
        v.id: v for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_([v for _, v in rows]))))
    }
    items = [(place, content_of(versions[id]), random.Random(id).uniform(-1.2, 0.9)) for place, id in rows]
    events, present, spent = [], [], []
    clock = random.Random(f"times {session.klass.title}")
    for sitting in db.scalars(select(Sitting).where(Sitting.session_id == session_id).order_by(Sitting.person_id)):
        if numbers.random() < ABSENT:
            sitting.state = "absent"
            continue
        sitting.state, sitting.takeover, sitting.started_at = "handed_in", 1, session.start + timedelta(seconds=30)
        sitting.handed_in_at = sitting.last_at = session.start + timedelta(minutes=20)
        theta = np.array([ability["Mathematics", sitting.person_id]])
        for at, (place, content, difficulty) in enumerate(items):
            if numbers.random() < SKIPPED:
                continue
            model = ItemParameters(discrimination=1.3, difficulty=difficulty, guessing=0.08, right=0, pull=(1.0,))
            knows = numbers.random() < float(probability_right(theta, model)[0])
            answer = (right_answer if knows else wrong_answer)(content, rng)
            entry = {
                "sitting_id": sitting.id,
                "form_item_id": place,
                "answer": answer,
                "takeover": 1,
                "sequence": at + 1,
            }
            present.append(entry)
            spent.append(
                {
                    "sitting_id": sitting.id,
                    "form_item_id": place,
                    "takeover": 1,
                    "milliseconds": clock.randrange(15_000, 110_000),
                }
            )
            events.append(
                {"id": f"spot-{sitting.id}-{at + 1}", "at": session.start + timedelta(minutes=1 + at), **entry}
            )
    db.flush()
    put_answers(db, events, present, spent)
    session.closed_at = session.end
    session.data_version += 1
    pack(db, session)
