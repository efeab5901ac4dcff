"""A written task, marked by two teachers apart; one of them is severe."""

from __future__ import annotations

import math
import random
import re
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
    ItemVersion,
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
SET_UP = (
    "{a}² + {b}² = {cc}.",
    "{a} · {a} = {aa} and {b} · {b} = {bb}, together {cc}.",
    "The ladder is the longest side, so its square is {aa} + {bb} = {cc}.",
    "Wall and ground make a right angle, so I added the squares: {aa} + {bb} = {cc}.",
    "I used Pythagoras because it is a right triangle. {aa} plus {bb} is {cc}.",
    "First the squares, {aa} and {bb}. Then I added them and got {cc}.",
)
RIGHT = (
    "The root of {cc} is {c}, so the ladder is {c} m long.",
    "√{cc} = {c}. It is {c} meters.",
    "{c} times {c} is {cc}, so {c} m.",
    "Then I took the root. The ladder is {c} m.",
)
SLIPPED = (
    "The root of {cc} is about {more}, so {more} m.",
    "Half of {cc} is {half}, so the ladder is {half} m.",
    "The root is {c}.",
    "So it is {c}, because {c} times {c} gives that.",
    "I took the root and got {more} m.",
)
STUCK = (
    "So the ladder is {cc} m.",
    "But I do not know how to go on.",
    "That is too long for a ladder, something is wrong.",
    "",
)
NOTHING = (
    "{a} + {b} = {sum}, so the ladder is {sum} m.",
    "The ladder is as long as the wall is high, {b} m.",
    "I drew it and measured it. It was a bit more than {b}.",
    "You have to multiply {a} by {b}, that is {times}.",
    "I do not know.",
    "It is longer than {b} m because it is slanted.",
    "{b} − {a} = {less}. So {less} m.",
)
SLIPS = (
    ("ladder", "lader"),
    ("because", "becuase"),
    ("squares", "sqares"),
    ("together", "togehter"),
    ("meters", "metres"),
)


def _text(body: str, points: int, rng: random.Random) -> str:
    """What a student writes who earns so many of three points for the length of a ladder."""
    b, a = (int(n) for n in re.findall(r"(\d+) m", body)[:2])
    cc = a * a + b * b
    c = math.isqrt(cc)
    if points == 0:
        text = rng.choice(NOTHING)
    else:
        text = f"{rng.choice(SET_UP)} {rng.choice((STUCK, SLIPPED, RIGHT)[points - 1])}".strip()
    numbers = {"aa": a * a, "bb": b * b, "cc": cc, "c": c, "more": c + 1, "half": cc // 2, "sum": a + b}
    text = text.format(a=a, b=b, times=a * b, less=b - a, **numbers)
    if rng.random() < 0.25:
        right, wrong = rng.choice(SLIPS)
        text = text.replace(right, wrong)
    return text if rng.random() < 0.85 else text.lower().rstrip(".")


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
        select(FormItem.id, Scoring.points, ItemVersion.shown)
        .join(Scoring, Scoring.item_version_id == FormItem.item_version_id)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.form_id == session.form_id)
        .order_by(FormItem.position)
    ).all()
    for sitting in db.scalars(select(Sitting).where(Sitting.session_id == session_id).order_by(Sitting.person_id)):
        if rng.random() < 0.04:
            sitting.state = "absent"
            continue
        sitting.state, sitting.takeover, sitting.started_at = "handed_in", 1, session.start + timedelta(seconds=40)
        sitting.handed_in_at = sitting.last_at = session.start + timedelta(minutes=38)
        for at, (place, most, shown) in enumerate(places, 1):
            true = most * (0.55 + 0.2 * ability["Mathematics", sitting.person_id]) + numbers.normal(0, 0.3)
            text = _text(shown["body"], int(np.clip(round(true), 0, most)), rng)
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
