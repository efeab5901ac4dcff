"""The winter window, under way: reading is done, mathematics is in the middle, science comes next week."""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from datetime import date, datetime, timedelta
from functools import partial

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.demo.abilities import Abilities
from bildung.demo.benchmarks import Ability, Question, answered, benchmark, classes_of, usable, write
from bildung.demo.district import MIDDLE, District, local_time, school_day
from bildung.demo.elementary import asked_on, parameters, tested
from bildung.demo.fall import Planted
from bildung.demo.plants import hash_of
from bildung.services.sessions.scheduling import schedule
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.store.models import Enrolment, Form, Person, PlannedSession, SchoolClass, Sitting, Window

YEARS = 0.35
EARLY = ("K", "1", "2")  # one form without companions
# school days from today on which each grade takes each subject
DAYS = {
    "Reading": {"K": -8, "1": -8, "2": -8, "3": -7, "4": -7, "5": -6, "6": -6, "7": -5, "8": -4},
    "Mathematics": {"K": -3, "1": -3, "2": -2, "3": -2, "5": -1, "7": -1, "4": 0, "6": 0, "8": 1},
    "Science": {"3": 3, "4": 3, "5": 4, "6": 4, "7": 5, "8": 5},
}
MINUTES = 50
AWAY = 0.07
PERIOD = 70
# what today brings to classes in their order: minutes from now at which each begins
TODAY = (-150, -25, -15, 45, 115)
OPENS, LAST = 8, 14  # hours between which a school begins a session


def winter_window(
    ctx: Context, actor: Actor, district: District, known: Abilities, planted: Mapping[tuple[str, str], Planted]
) -> None:
    """Forms, sessions of the whole window, and the answers of those that are over or open."""
    now = ctx.clock()
    today = now.astimezone(local_time(now.date(), 0).tzinfo).date()
    name, opens, _ = district.year.windows[district.year.last + 1]
    with ctx.store.read() as db:
        window = db.scalars(select(Window.id).where(Window.name == name, Window.start == opens)).one()
        proctors = list(db.scalars(select(Person.id).where(Person.source_id.like("%-P0_")).order_by(Person.source_id)))
        teaching = select(Enrolment.class_id, Enrolment.person_id).where(
            Enrolment.role == "teacher", Enrolment.active.is_(True)
        )
        teachers: dict[int, int] = dict(db.execute(teaching).all())
    truth = parameters(planted)
    for subject, days in DAYS.items():
        for grade in tested(subject):
            form = _form(ctx, actor, name, subject, grade)
            if form is None:
                continue
            asked = asked_on(ctx, form, truth)
            ability = known.at(subject, YEARS)
            for number, klass in enumerate(classes_of(ctx, subject, grade)):
                start = start_of(now, today, days[grade], number, grade in MIDDLE)
                end = start + timedelta(minutes=MINUTES)
                try:
                    (id,) = schedule(ctx, actor, form, window, [klass], "", _proctor(teachers, klass), start, end)
                except Conflict:  # two groups name different forms for a student of this class: to be settled first
                    continue
                if end <= now:
                    ctx.store.write(partial(answered, session_id=id, asked=asked, ability=ability))
                elif start <= now:
                    ctx.store.write(
                        partial(_half_way, session_id=id, asked=asked, ability=ability, now=now, proctors=proctors)
                    )


def _proctor(teachers: Mapping[int, int], klass: int) -> int | None:
    """The class's teacher, except for a few classes whose teacher is away."""
    return None if random.Random(f"away {klass}").random() < AWAY else teachers.get(klass)


def start_of(now: datetime, today: date, days: int, place: int, periods: bool) -> datetime:
    """When a class begins; `place` among those of its grade. Today's lie around now where that is within school hours;
    else what is over was this morning or the day before, and what comes is tomorrow."""
    if days != 0:
        later = timedelta(minutes=PERIOD * place if periods else 0)
        return local_time(school_day(today, days), 8, 30) + later
    minutes = TODAY[place % len(TODAY)]
    start = (now + timedelta(minutes=minutes)).replace(second=0, microsecond=0)
    start -= timedelta(minutes=start.minute % 5)
    if -MINUTES < minutes <= 0:
        return start
    local = start.astimezone(local_time(today, 0).tzinfo)
    if local.date() == today and OPENS <= local.hour < LAST:
        return start
    if minutes < 0:
        return local_time(school_day(today, -1), 10, 30)
    return local_time(school_day(today, 1), 10, 30) + timedelta(minutes=PERIOD * (place % 2))


def _form(ctx: Context, actor: Actor, name: str, subject: str, grade: str) -> int | None:
    title = f"{name} {subject.lower()}"
    with ctx.store.read() as db:
        found = db.scalar(select(Form.id).where(Form.name == f"{title} {grade} A"))
        versions = usable(db, subject, grade)[1::2]
    if found is not None or grade not in EARLY:
        return found
    return benchmark(ctx, actor, f"{title} {grade}", title, subject, grade, versions)


def _half_way(
    db: Session,
    session_id: int,
    asked: Sequence[Question],
    ability: Ability,
    now: datetime,
    proctors: Sequence[int],
) -> None:
    """A session that is open: two have finished, most are at work, some have not started."""
    session = db.get_one(PlannedSession, session_id)
    klass: SchoolClass = session.klass
    rng = np.random.default_rng(hash_of("half way", klass.source_id))
    key = klass.source_id.partition("-")[0]
    own = [id for id in proctors if db.get_one(Person, id).source_id.startswith(key)]
    busy = set(
        db.scalars(
            select(PlannedSession.proctor_id).where(
                PlannedSession.proctor_id.is_not(None),
                PlannedSession.start < session.end,
                PlannedSession.end > session.start,
            )
        )
    )
    session.proctor_id = next((id for id in own if id not in busy), session.proctor_id)
    sittings = db.scalars(select(Sitting).where(Sitting.session_id == session_id).order_by(Sitting.person_id)).all()
    share = (now - session.start) / (session.end - session.start)
    at_work = []
    for place, sitting in enumerate(sittings):
        if rng.random() < 0.12:
            continue
        sitting.takeover = 1
        sitting.started_at = session.start + timedelta(seconds=int(rng.integers(20, 240)))
        if place < 2:
            sitting.state, reached = "handed_in", len(asked)
            sitting.handed_in_at = sitting.last_at = now - timedelta(seconds=int(rng.integers(40, 200)))
        else:
            sitting.state = "answering"
            reached = max(1, min(len(asked) - 1, round(len(asked) * share * float(rng.uniform(0.6, 1.5)))))
            sitting.last_at = now - timedelta(seconds=int(rng.integers(5, 90)))
        at_work.append((sitting, reached))
    write(db, session.start, at_work, asked, ability, rng)
    session.data_version += 1
