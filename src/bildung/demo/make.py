"""Making the demo: a district with its people, bank and tests, and what its students answered.

Everything goes in through the doors a school would use: roster files, item files, the services for forms and sessions.
Only the answers are written in bulk. The same seed gives the same people, items and answers; dates follow the day on
which it is made.
"""

from __future__ import annotations

import contextlib
import json
import random
import time
from collections.abc import Callable, Iterator
from datetime import date, datetime, timedelta

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.demo.abilities import Abilities, abilities
from bildung.demo.bank import fill_bank, rework
from bildung.demo.blueprints import winter_blueprints
from bildung.demo.booklets import mixed_booklets
from bildung.demo.district import MIDDLE, PLANS, ZONE, District, Plan, brackwater, local_time
from bildung.demo.elementary import fall_benchmarks, year_before
from bildung.demo.fall import Planted, planted_answers, planted_benchmark, planted_items
from bildung.demo.families import ready_tests
from bildung.demo.files import records
from bildung.demo.framework import case_packages
from bildung.demo.lastyear import earlier_classes, earlier_sessions
from bildung.demo.marking import marked_task
from bildung.demo.measures import outside_measures
from bildung.demo.organization import organize
from bildung.demo.plants import hash_of
from bildung.demo.releases import results_out
from bildung.demo.rosters import district_files
from bildung.demo.slips import exit_slips
from bildung.demo.spotcheck import spot_checks
from bildung.demo.winter import winter_window
from bildung.services.answers.itemhistory import refresh
from bildung.services.bank.frameworks import plan_framework
from bildung.services.bank.itemimport import add_records
from bildung.services.people.changes import LOCAL
from bildung.services.quality.lines import keep_current
from bildung.services.rosters.fromfiles import plan_files
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.codes import STUDENT_LENGTH, new_code
from bildung.services.shared.context import Context
from bildung.services.shared.jobs import Job
from bildung.services.shared.passwords import hash_password
from bildung.store.models import Enrolment, Federation, Person, Role, SchoolClass, Window

SEED = 20260803
PASSWORD = "low-tide"
Tell = Callable[[str, float], None]


def make_demo(ctx: Context, plan: Plan = brackwater, tell: Tell | None = None) -> None:
    """Fill an empty store.

    Parameters
    ----------
    ctx
        Of the store.
    plan
        Which district, and how its school year lies around today.
    tell
        Hears of each part when it is done, with the seconds it took.
    """
    began = time.monotonic()

    def done(part: str) -> None:
        nonlocal began
        if tell is not None:
            tell(part, time.monotonic() - began)
        began = time.monotonic()

    rng, numbers = random.Random(SEED), np.random.default_rng(SEED)
    now = ctx.clock()
    district = plan(now.astimezone(local_time(now.date(), 0).tzinfo).date())
    year = district.year
    files = district_files(district.schools, rng)
    placed = planted_items(rng)

    def people(db: Session) -> None:
        db.add(Federation(name="Brackwater Federation", zone=ZONE))
        db.add_all(Window(name=name, start=start, end=end) for name, start, end in year.windows)
        for package in case_packages():
            plan_framework(ctx, db, package, True, None)
        plan_files(ctx, db, files, Job(), lambda taken: new_code(STUDENT_LENGTH, taken, rng.choice)).apply(db)
        _staff(ctx, db, district)

    def bank(db: Session) -> None:
        for items in placed.values():
            add_records(ctx, db, records(items), True)
        fill_bank(ctx, db)

    ctx.store.write(people)
    done("standards, schools and people")
    ctx.store.write(bank)
    done("item bank")
    with ctx.store.read() as db:
        boss = db.scalars(select(Person).where(Person.username == "coordinator")).one()
        actor = Actor(person_id=boss.id, name=boss.name, grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
        known = abilities(ctx, numbers, district.schools[0].key)
        name, opens, _ = year.fall
        window = db.scalars(select(Window.id).where(Window.name == name, Window.start == opens)).one()
    first = local_time(opens, 0)
    with _clock(ctx, first - timedelta(days=10)):
        planted = {
            place: planted_benchmark(ctx, actor, year, window, items, known.start, numbers)
            for place, items in placed.items()
        }
        spot_checks(ctx, actor, window, first, known.start, MIDDLE)
        if district.living:
            fall_benchmarks(ctx, actor, year, window, known)
    done("fall window")
    _roster_errors(ctx, rng)
    organize(ctx, PASSWORD, year)
    done("calendar, accommodations, groups, pacing guides")
    refresh(ctx)
    with _clock(ctx, local_time(year.windows[year.last + 1][1], 0) - timedelta(days=21)):
        ctx.store.write(lambda db: rework(ctx, db))
        ctx.store.write(lambda db: winter_blueprints(ctx, db))
        ready_tests(ctx, actor, "science" if district.living else "reading")
    done("families of forms for the winter window")
    marked_task(ctx, actor, window, first, known.start)
    with _clock(ctx, local_time(year.windows[0][1], 0) - timedelta(days=10)):
        _a_year_ago(ctx, actor, district, planted, known)
    done("last year's windows")
    if district.living:
        winter_window(ctx, actor, district, known, planted)
        with ctx.store.read() as db:
            name, opens, _ = year.windows[year.last + 1]
            winter = db.scalars(select(Window.id).where(Window.name == name, Window.start == opens)).one()
        mixed_booklets(ctx, actor, winter)
        done("winter window, under way")
    outside_measures(ctx, actor, district, known, now.date())
    exit_slips(ctx, actor, now.date(), _clock)
    done("outside measures, exit slips")
    if ("Reading", "8") in planted:
        with _clock(ctx, first + timedelta(days=30)):
            results_out(ctx, actor, planted["Reading", "8"].form_id, window)
    refresh(ctx)
    keep_current(ctx, window if district.living else None)
    done("analyses")


def as_handed_over(ctx: Context) -> dict[str, bytes]:
    """The roster files from which this demo was made."""
    told = json.loads((ctx.store.folder / "demo.json").read_text("utf-8"))
    made = PLANS[told["district"]](date.fromisoformat(told["made"]))
    return district_files(made.schools, random.Random(SEED))


@contextlib.contextmanager
def _clock(ctx: Context, moment: datetime) -> Iterator[None]:
    """What is made meanwhile is from that moment."""
    clock, ctx.clock = ctx.clock, lambda: moment
    try:
        yield
    finally:
        ctx.clock = clock


def _a_year_ago(
    ctx: Context, actor: Actor, district: District, planted: dict[tuple[str, str], Planted], known: Abilities
) -> None:
    """The form with the wrong key in the same window of last year, so that its items have an earlier time to be compared
    with; in the whole district every other form as well."""
    year, key = district.year, ("Mathematics", "6")
    if year.last < 3:
        return
    name, opens, _ = year.windows[year.last - 3]
    with ctx.store.read() as db:
        window = db.scalars(select(Window).where(Window.name == name, Window.start == opens)).one()
    classes = ctx.store.write(
        lambda db: earlier_classes(
            db,
            year,
            lambda subject, grade: district.living or (subject, grade) == key,
            None if district.living else 3,
        )
    )
    mine = [c for c in classes if (c.subject, c.grade) == key]
    numbers = np.random.default_rng(hash_of("a year ago"))
    made = ctx.store.write(lambda db: earlier_sessions(db, mine, planted[key].form_id, window, 2))
    for id in made:
        ctx.store.write(lambda db, id=id: planted_answers(db, id, planted[key], known.start, numbers))  # type: ignore[misc]
    if district.living:
        year_before(ctx, actor, year, [c for c in classes if c not in mine], mine, planted, known)


def _staff(ctx: Context, db: Session, district: District) -> None:
    """The demo's own sign-ins: a coordinator, and passwords for one teacher and one proctor of the roster."""
    secret = hash_password(PASSWORD)
    boss = Person(
        source_id=f"{LOCAL}coordinator",
        given="Hanne",
        family="Quill",
        kind="staff",
        username="coordinator",
        password_hash=secret,
    )
    db.add(boss)
    db.flush()
    db.add(Role(person_id=boss.id, role="coordinator"))
    people = [{"name": boss.name, "role": "coordinator", "username": "coordinator", "password": PASSWORD}]
    for source, role in (("BM-TM01", "teacher"), ("BM-P01", "proctor")):
        person = db.scalars(select(Person).where(Person.source_id == source)).one()
        person.password_hash = secret
        assert person.username is not None
        people.append({"name": person.name, "role": role, "username": person.username, "password": PASSWORD})
    today = ctx.clock().date().isoformat()
    told = {"seed": SEED, "district": district.name, "made": today, "people": people}
    (ctx.store.folder / "demo.json").write_text(json.dumps(told, indent=1), "utf-8")


def _roster_errors(ctx: Context, rng: random.Random) -> None:
    """What went wrong in the records since the window: the roster check is to find it."""

    def work(db: Session) -> None:
        people = {p.source_id: p for p in db.scalars(select(Person))}
        classes = {c.source_id: c for c in db.scalars(select(SchoolClass))}
        codes = {p.code for p in people.values() if p.code}
        own = set(db.scalars(select(Enrolment.class_id).where(Enrolment.person_id == people["BM-S0031"].id)))
        other = next(c for id, c in classes.items() if id.startswith("BM-6M") and c.id not in own)
        db.add(Enrolment(class_id=other.id, person_id=people["BM-S0031"].id, role="student"))
        double = people["BM-S0150"]
        for source, given, family, grade in (
            ("BM-S0361", "Ludo", "Okafor-Brandt", "6"),
            ("BM-S0362", double.given, double.family, double.grade),
        ):
            people[source] = Person(
                source_id=source,
                given=given,
                family=family,
                grade=grade,
                kind="student",
                school_id=double.school_id,
                code=new_code(STUDENT_LENGTH, codes, rng.choice),
            )
            db.add(people[source])
        db.flush()
        db.add(Enrolment(class_id=classes["BM-7R1"].id, person_id=people["BM-S0362"].id, role="student"))
        teaching = select(Enrolment).where(Enrolment.class_id == classes["BM-8R5"].id, Enrolment.role == "teacher")
        db.scalars(teaching).one().active = False

    ctx.store.write(work)
