"""A written task, marked by two teachers apart; one of them is severe."""

from __future__ import annotations

import random
from datetime import datetime, time, timedelta

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.answers.packing import pack
from bildung.services.sessions.scheduling import schedule
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import (
    Form,
    FormItem,
    Mark,
    Person,
    PlannedSession,
    Response,
    ResponseEvent,
    SchoolClass,
    Scoring,
    Sitting,
    TimeOn,
)

CLASSES = ("Mathematics 8.1", "Mathematics 8.2")
SEVERE = 0.9  # points by which the second marker gives less
BEGIN = (
    "I drew the triangle first.",
    "First I wrote down what is known.",
    "I started with the picture.",
    "I tried some numbers.",
)
MIDDLE = (
    "Then I squared both sides and added them.",
    "The longest side is across the right angle.",
    "I took the root at the end.",
    "I added the sides.",
)
END = ("So it is long enough.", "I checked it with a drawing.", "That is my answer.", "It cannot be shorter than that.")


def marked_task(
    ctx: Context, actor: Actor, window: int, opens: datetime, ability: dict[tuple[str, int], float]
) -> None:
    with ctx.store.read() as db:
        form = db.scalar(select(Form.id).where(Form.name == "Task mathematics 8"))
        classes = list(
            db.scalars(select(SchoolClass.id).where(SchoolClass.title.in_(CLASSES)).order_by(SchoolClass.title))
        )
        markers = list(
            db.scalars(select(Person.id).where(Person.source_id.in_(("BM-TM01", "BM-TM02"))).order_by(Person.source_id))
        )
    if form is None or len(classes) < len(CLASSES) or len(markers) < 2:
        return
    day = opens + timedelta(days=14)
    while day.weekday() > 4:
        day += timedelta(days=1)
    start = datetime.combine(day.date(), time(10, 30), opens.tzinfo)
    rng, numbers = random.Random("task"), np.random.default_rng(88)
    for id in schedule(ctx, actor, form, window, classes, "", None, start, start + timedelta(minutes=45)):
        ctx.store.write(lambda db, id=id: _write(db, id, markers, ability, rng, numbers))  # type: ignore[misc]


def _write(
    db: Session,
    session_id: int,
    markers: list[int],
    ability: dict[tuple[str, int], float],
    rng: random.Random,
    numbers: np.random.Generator,
) -> None:
    session = db.get_one(PlannedSession, session_id)
    places = db.execute(
        select(FormItem.id, Scoring.points)
        .join(Scoring, Scoring.item_version_id == FormItem.item_version_id)
        .where(FormItem.form_id == session.form_id)
        .order_by(FormItem.position)
    ).all()
    for sitting in db.scalars(select(Sitting).where(Sitting.session_id == session_id).order_by(Sitting.person_id)):
        if rng.random() < 0.04:
            sitting.state = "absent"
            continue
        sitting.state, sitting.takeover, sitting.started_at = "handed_in", 1, session.start + timedelta(seconds=40)
        sitting.handed_in_at = sitting.last_at = session.start + timedelta(minutes=38)
        for at, (place, most) in enumerate(places, 1):
            text = " ".join(rng.choice(some) for some in (BEGIN, MIDDLE, END))
            moment = session.start + timedelta(minutes=10 * at)
            db.add(
                ResponseEvent(
                    id=f"task-{sitting.id}-{at}",
                    sitting_id=sitting.id,
                    form_item_id=place,
                    answer=text,
                    takeover=1,
                    sequence=at,
                    at=moment,
                )
            )
            db.add(Response(sitting_id=sitting.id, form_item_id=place, answer=text, takeover=1, sequence=at))
            db.add(
                TimeOn(
                    sitting_id=sitting.id,
                    form_item_id=place,
                    takeover=1,
                    milliseconds=rng.randrange(300_000, 1_100_000),
                )
            )
            true = most * (0.55 + 0.2 * ability["Mathematics", sitting.person_id]) + numbers.normal(0, 0.3)
            for marker, less in zip(markers, (0.0, SEVERE), strict=True):
                points = float(np.clip(round(true - less + numbers.normal(0, 0.35)), 0, most))
                db.add(
                    Mark(
                        sitting_id=sitting.id,
                        form_item_id=place,
                        marker_id=marker,
                        points=points,
                        at=session.end + timedelta(days=2),
                    )
                )
    session.closed_at = session.end
    session.data_version += 1
    db.flush()
    pack(db, session)
