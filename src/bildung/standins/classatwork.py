"""A class at work: a session that is open now, with a simulated class that takes it."""

from __future__ import annotations

import random
from datetime import timedelta

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.data.simulate import ItemParameters, probability_right
from bildung.demo.answers import right_answer, wrong_answer
from bildung.services.calendar.years import local_today
from bildung.services.items.bankitem import content_of, with_parts
from bildung.services.sessions import listing, scheduling
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Problem
from bildung.standins.classroom import SimulatedClass, SimulatedStudent
from bildung.store.models import Enrolment, Form, FormItem, ItemVersion, Person, PlannedSession, SchoolClass, Window

BEGAN = timedelta(minutes=6)  # how long the session has run when the demo is served
LENGTH = timedelta(minutes=45)
ABSENT = 2  # students who do not come
HABITS = ("help", "restroom", "away", "outage", "dies", "help")
KINDS = ("spot", "unit")
WHY = "a class at work in the demo"


def class_at_work(ctx: Context, address: str) -> SimulatedClass | None:
    """Schedule the session and prepare the class; None where every class has taken every quick check of this window."""
    with ctx.store.read() as db:
        boss = db.scalars(select(Person.id).where(Person.username == "coordinator")).first()
        window = _window(ctx, db)
        pairs = [
            (form.id, klass)
            for form in db.scalars(
                select(Form).where(Form.published_at.is_not(None), Form.kind.in_(KINDS)).order_by(Form.grade.desc())
            )
            for klass in db.scalars(
                select(SchoolClass.id)
                .where(
                    SchoolClass.subject == form.subject,
                    SchoolClass.grade == form.grade,
                    SchoolClass.active.is_(True),
                    SchoolClass.homeroom.is_(False),
                )
                .order_by(SchoolClass.id)
            )
        ]
        teachers = dict(
            db.execute(
                select(Enrolment.class_id, Enrolment.person_id).where(
                    Enrolment.role == "teacher", Enrolment.active.is_(True)
                )
            ).all()
        )
    if boss is None or window is None:
        return None
    actor = Actor(person_id=boss, name="", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
    start = ctx.clock() - BEGAN
    for form, klass in pairs:
        try:
            (session,) = scheduling.schedule(
                ctx, actor, form, window, [klass], "", teachers.get(klass), start, start + LENGTH, why=WHY
            )
        except Problem:  # has taken it in this window, or is elsewhere at this time
            continue
        return _simulated(ctx, actor, session, address)
    return None


def _window(ctx: Context, db: Session) -> int | None:
    """The one that is open today, else the last that has begun."""
    today = local_today(ctx, db)
    return db.scalars(select(Window.id).where(Window.start <= today).order_by(Window.start.desc())).first()


def _simulated(ctx: Context, actor: Actor, session_id: int, address: str) -> SimulatedClass:
    rng = random.Random(session_id)
    detail = listing.get_session(ctx, actor, session_id)
    with ctx.store.read() as db:
        session = db.get_one(PlannedSession, session_id)
        places = db.execute(
            with_parts(
                select(FormItem, ItemVersion)
                .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
                .where(FormItem.form_id == session.form_id)
                .order_by(FormItem.position)
            )
        ).all()
        contents = [(place.id, content_of(version)) for place, version in places]
    items = [
        ItemParameters(
            discrimination=rng.uniform(0.8, 1.6), difficulty=rng.gauss(0, 0.9), guessing=0.1, right=0, pull=(1.0,)
        )
        for _ in contents
    ]
    students = []
    coming = [s for s in detail.sittings if s.code][ABSENT:]
    for at, line in enumerate(coming):
        able = rng.gauss(0, 1)
        answers = {}
        for (question, content), item in zip(contents, items, strict=True):
            if rng.random() < 0.04:  # left out
                continue
            right = rng.random() < float(probability_right(np.array([able]), item)[0])
            answers[str(question)] = right_answer(content, rng) if right else wrong_answer(content, rng)
        pace = rng.uniform(25, 70)
        students.append(
            SimulatedStudent(
                code=line.code or "",
                answers=answers,
                caught_up=int(rng.uniform(0.1, 0.65) * len(contents)) if at % 9 else 0,
                joins=at * 0.4 if at % 9 else 60.0 + at,
                pace=pace,
                habits=(HABITS[at // 3],) if at % 3 == 1 and at // 3 < len(HABITS) else (),
                submits=at % 7 != 3,
            )
        )
    return SimulatedClass(address=address, code=detail.session.code, students=students, seed=session_id)
