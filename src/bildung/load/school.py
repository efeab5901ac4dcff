"""A made-up school to put load on: a data folder with students, staff, a bank and two tests, the first of them taken."""

from __future__ import annotations

import random
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import Select, insert, select
from sqlalchemy.orm import Session

from bildung.demo.files import place, records
from bildung.demo.mathematics import draft_items
from bildung.services.bank.itemimport import add_records
from bildung.services.building import forms
from bildung.services.sessions import running, scheduling
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.services.shared.passwords import hash_password
from bildung.store.models import (
    Enrolment,
    Federation,
    FormItem,
    Item,
    Person,
    PlannedSession,
    Response,
    Role,
    School,
    SchoolClass,
    Sitting,
    Window,
)
from bildung.store.store import Store

PASSWORD = "load-and-more-load"
EACH = 30  # students in a class
STAFF = 20
ITEMS = 40


@dataclass(frozen=True, kw_only=True)
class LoadSchool:
    """staff: names to sign in with. sessions: that are open now, by id with their code and the students' own codes. taken:
    form and window of the test that was taken."""

    staff: list[str]
    sessions: list[tuple[int, str, list[str]]]
    taken: tuple[int, int]


def make_school(folder: Path, students: int) -> LoadSchool:
    """Make it in an empty folder."""
    ctx = Context(store=Store(folder))
    try:
        boss, window = ctx.store.write(lambda db: _people(db, ctx, students))
        rng = random.Random(1)
        placed = place(draft_items(rng, "6", ITEMS), "LOAD", "Mathematics", "6", rng)
        ctx.store.write(lambda db: add_records(ctx, db, records(placed), apply=True))
        with ctx.store.read() as db:
            versions = [item.versions[-1].id for item in db.scalars(select(Item).order_by(Item.id))]
            classes = list(db.scalars(select(SchoolClass.id).order_by(SchoolClass.id)))
        made = []
        for name in ("Taken before", "Taken now"):
            form = forms.create_form(ctx, boss, name, "", "Mathematics", "6")
            form = forms.set_items(ctx, boss, form.id, form.revision, versions)
            made.append(forms.publish(ctx, boss, form.id, form.revision).id)
        now = ctx.clock()
        past, open_ = (
            scheduling.schedule(
                ctx, boss, form, window, classes, "", None, now + begins, now + begins + timedelta(hours=2)
            )
            for form, begins in zip(made, (timedelta(hours=-3), timedelta(minutes=-1)), strict=True)
        )
        ctx.store.write(lambda db: _taken(db, ctx, past, rng))
        for id in past:
            running.close(ctx, boss, id)
        with ctx.store.read() as db:
            sessions = [
                (id, db.get_one(PlannedSession, id).code, [str(code) for code in db.scalars(_codes(id))])
                for id in open_
            ]
        return LoadSchool(staff=[f"staff{n}" for n in range(STAFF)], sessions=sessions, taken=(made[0], window))
    finally:
        ctx.store.close()


def _codes(session: int) -> Select[Any]:
    return (
        select(Person.code)
        .join(Sitting, Sitting.person_id == Person.id)
        .where(Sitting.session_id == session)
        .order_by(Person.id)
    )


def _people(db: Session, ctx: Context, students: int) -> tuple[Actor, int]:
    now = ctx.clock()
    db.add(Federation(name="Load", zone="UTC"))
    school = School(source_id="L", name="Load")
    window = Window(name="Now", start=(now - timedelta(days=20)).date(), end=(now + timedelta(days=20)).date())
    db.add_all([school, window])
    db.flush()
    secret = hash_password(PASSWORD)
    staff = [
        Person(
            source_id=f"staff{n}",
            given="Staff",
            family=f"{n:02d}",
            kind="staff",
            school_id=school.id,
            username=f"staff{n}",
            password_hash=secret,
        )
        for n in range(STAFF)
    ]
    db.add_all(staff)
    db.flush()
    db.add_all([Role(person_id=p.id, role="coordinator") for p in staff])
    classes = [
        SchoolClass(
            source_id=f"c{n}", title=f"Mathematics {n:03d}", school_id=school.id, subject="Mathematics", grade="6"
        )
        for n in range(-(-students // EACH))
    ]
    db.add_all(classes)
    db.flush()
    first = staff[-1].id + 1
    db.execute(
        insert(Person),
        [
            {
                "id": first + n,
                "source_id": f"s{n}",
                "given": f"Given{n}",
                "family": f"Family{n % 97}",
                "kind": "student",
                "grade": "6",
                "school_id": school.id,
                "code": f"L{n:07d}",
            }
            for n in range(students)
        ],
    )
    db.execute(
        insert(Enrolment),
        [
            {"class_id": classes[n // EACH].id, "person_id": first + n, "role": "student", "active": True}
            for n in range(students)
        ],
    )
    boss = staff[0]
    actor = Actor(
        person_id=boss.id, name=boss.name, grants=(Grant("coordinator", None),), sign_in_id=0, csrf="", day=now.date()
    )
    return actor, window.id


def _taken(db: Session, ctx: Context, sessions: list[int], rng: random.Random) -> None:
    """Everybody answered the first test, some better than others."""
    session = db.get_one(PlannedSession, sessions[0])
    places = list(
        db.scalars(select(FormItem.id).where(FormItem.form_id == session.form_id).order_by(FormItem.position))
    )
    draws = np.random.default_rng(1)
    for id in sessions:
        db.get_one(PlannedSession, id).data_version += 1
        for sitting in db.scalars(select(Sitting).where(Sitting.session_id == id)).all():
            sitting.state, sitting.takeover, sitting.started_at, sitting.handed_in_at = (
                "handed_in",
                1,
                ctx.clock(),
                ctx.clock(),
            )
            letters = np.where(
                draws.random(len(places)) < 0.3 + 0.5 * rng.random(), 0, draws.integers(0, 4, len(places))
            )
            db.execute(
                insert(Response),
                [
                    {
                        "sitting_id": sitting.id,
                        "form_item_id": item,
                        "answer": "ABCD"[c],
                        "takeover": 1,
                        "sequence": n + 1,
                    }
                    for n, (item, c) in enumerate(zip(places, letters.tolist(), strict=True))
                ],
            )
