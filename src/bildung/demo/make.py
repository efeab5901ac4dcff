"""Making the demo: one middle school that sat last window's mathematics and reading.

Everything goes in through the doors a school would use: roster files, item files, the services for
forms and sessions. Only the answers are written in bulk. The same seed gives the same people, items
and answers; dates follow the school year of the clock.
"""

from __future__ import annotations

import json
import random
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from bildung.core.data.arrays import FloatArray
from bildung.core.data.simulate import ItemParameters, simulate_choices
from bildung.demo import mathematics, reading
from bildung.demo.bank import fill_bank, rework
from bildung.demo.blueprints import benchmark_blueprint, winter_blueprints
from bildung.demo.families import ready_tests
from bildung.demo.files import SUBJECTS, DemoItem, Layout, place, records, roster_files
from bildung.demo.framework import case_packages
from bildung.demo.lastyear import earlier_sessions
from bildung.demo.marking import marked_task
from bildung.demo.organisation import organise
from bildung.demo.plants import DemoAttempts, hash_of, plant, times
from bildung.demo.spotcheck import spot_checks
from bildung.services.answers.itemhistory import refresh
from bildung.services.answers.packing import pack
from bildung.services.bank.frameworks import plan_framework
from bildung.services.bank.itemimport import add_records
from bildung.services.building.forms import create_form, publish, set_items
from bildung.services.people.changes import LOCAL
from bildung.services.quality.lines import keep_current
from bildung.services.rosters.fromfiles import plan_files
from bildung.services.sessions.scheduling import schedule
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.codes import STUDENT_LENGTH, new_code
from bildung.services.shared.context import Context
from bildung.services.shared.jobs import Job
from bildung.services.shared.passwords import hash_password
from bildung.store.models import (
    Enrolment,
    Federation,
    FormItem,
    Item,
    ItemVersion,
    Person,
    PlannedSession,
    Response,
    ResponseEvent,
    Role,
    SchoolClass,
    Sitting,
    TimeOn,
    Window,
)

SEED = 20260803
ZONE = "Europe/Berlin"
PASSWORD = "low-tide"
ITEMS = 34
GRADES = ("6", "7", "8")
ABSENT_SHARE = 0.045
OMIT = 0.03

WRONG_KEY = ("Mathematics", "6", 14)  # the bank holds a wrong option as its key
IDLE = ("Reading", "7", 9)  # one option that nobody finds attractive


@dataclass(frozen=True)
class DemoYear:
    """Windows of last year and this one; `last` is the latest that is over."""

    year: int
    windows: tuple[tuple[str, date, date], ...]
    last: int


def school_year(today: date) -> DemoYear:
    year = today.year if today.month >= 8 else today.year - 1
    windows = []
    for start in (year - 1, year):
        windows += [
            ("Fall", date(start, 9, 14), date(start, 10, 2)),
            ("Winter", date(start + 1, 1, 18), date(start + 1, 2, 5)),
            ("Spring", date(start + 1, 5, 3), date(start + 1, 5, 21)),
        ]
    over = [at for at, window in enumerate(windows) if window[2] < today]
    return DemoYear(year, tuple(windows), over[-1])


def demo_layout(year: int) -> Layout:
    return Layout(key="BM", name="Brackwater Middle", grades=GRADES, classes=5, size=24, year=year, rich=True)


def make_demo(ctx: Context) -> None:
    """Fill an empty store."""
    rng, numbers = random.Random(SEED), np.random.default_rng(SEED)
    local = ctx.clock().astimezone(ZoneInfo(ZONE))
    year = school_year(local.date())
    layout = demo_layout(year.year)
    files = roster_files(layout, rng)
    placed = {(subject, grade): _items(subject, grade, rng) for subject in SUBJECTS for grade in GRADES}

    def people(db: Session) -> None:
        db.add(Federation(name="Brackwater Federation", zone=ZONE))
        db.add_all(Window(name=name, start=start, end=end) for name, start, end in year.windows)
        for package in case_packages():
            plan_framework(ctx, db, package, True, None)
        plan_files(ctx, db, files, Job(), lambda taken: new_code(STUDENT_LENGTH, taken, rng.choice)).apply(db)
        _staff(ctx, db)
        for items in placed.values():
            add_records(ctx, db, records(items), True)
        fill_bank(ctx, db)

    ctx.store.write(people)
    with ctx.store.read() as db:
        boss = db.scalars(select(Person).where(Person.username == "coordinator")).one()
        actor = Actor(person_id=boss.id, name=boss.name, grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
    ability = _abilities(ctx, numbers)
    sat = {
        (subject, grade): _sit(ctx, actor, year, subject, grade, items, ability, numbers)
        for (subject, grade), items in placed.items()
    }
    name, opens, _ = year.windows[year.last]
    with ctx.store.read() as db:
        window = db.scalars(select(Window.id).where(Window.name == name, Window.start == opens)).one()
    spot_checks(ctx, actor, window, datetime.combine(opens, time(), ZoneInfo(ZONE)), ZONE, ability, GRADES)
    _roster_errors(ctx, rng)
    organise(ctx, PASSWORD)
    refresh(ctx)
    ctx.store.write(lambda db: rework(ctx, db))
    ctx.store.write(lambda db: winter_blueprints(ctx, db))
    ready_tests(ctx, actor)
    marked_task(ctx, actor, window, datetime.combine(opens, time(), ZoneInfo(ZONE)), ZONE, ability)
    _a_year_ago(ctx, sat["Mathematics", "6"], placed["Mathematics", "6"], name, opens, ability)
    refresh(ctx)
    keep_current(ctx)


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


def _items(subject: str, grade: str, rng: random.Random) -> list[DemoItem]:
    source = mathematics if subject == "Mathematics" else reading
    drafts = source.draft_items(rng, grade, ITEMS)
    if (subject, grade) == WRONG_KEY[:2]:  # a question asked for a number has no wrong option to be keyed
        at = WRONG_KEY[2] - 1
        drafts[at] = replace(drafts[at], numeric=False)
    items = place(drafts, f"{SUBJECTS[subject]}{grade}", subject, grade, rng)
    if (subject, grade) == WRONG_KEY[:2]:
        item = items[WRONG_KEY[2] - 1]
        items[WRONG_KEY[2] - 1] = replace(item, key=next(k for k in "ABCD" if k != item.key))
    return items


def _staff(ctx: Context, db: Session) -> None:
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
    (ctx.store.folder / "demo.json").write_text(json.dumps({"seed": SEED, "people": people}, indent=1), "utf-8")


def _abilities(ctx: Context, numbers: np.random.Generator) -> dict[tuple[str, int], float]:
    """Ability by subject and student: related between subjects, rising by grade, a little different by class."""
    with ctx.store.read() as db:
        students = db.execute(select(Person.id).where(Person.student.is_(True)).order_by(Person.source_id)).scalars()
        ids = list(students)
    common = numbers.standard_normal(len(ids))
    abilities = {}
    for subject in SUBJECTS:
        own = numbers.standard_normal(len(ids))
        for at, id in enumerate(ids):
            abilities[subject, id] = float(np.sqrt(0.7) * common[at] + np.sqrt(0.3) * own[at])
    return abilities


def _parameters(
    items: Sequence[DemoItem], subject: str, grade: str, numbers: np.random.Generator
) -> list[ItemParameters]:
    """Known truth for each item; the planted ones are set here."""
    found = []
    for number, item in enumerate(items, 1):
        options = item.options or (item.draft.right, *item.draft.wrong)
        right = options.index(item.draft.right)
        discrimination = float(np.clip(numbers.lognormal(0.25, 0.25), 0.8, 2.2))
        difficulty = float(np.clip(numbers.normal(-0.3, 0.8), -2.0, 1.6))
        pull = [float(p) for p in numbers.uniform(0.6, 1.4, len(options))]
        slopes = tuple(float(s) for s in numbers.normal(-0.05, 0.12, len(options)))
        if (subject, grade, number) == WRONG_KEY:
            discrimination, difficulty = 1.5, 0.2
        if (subject, grade, number) == IDLE:
            difficulty = 0.3
            idle = next(at for at in range(len(options)) if at != right)
            pull[idle] = 0.004
        guessing = 0.0 if item.draft.numeric else 0.15
        found.append(
            ItemParameters(
                discrimination=discrimination,
                difficulty=difficulty,
                guessing=guessing,
                right=right,
                pull=tuple(pull),
                pull_by_ability=slopes,
            )
        )
    return found


def _sit(
    ctx: Context,
    actor: Actor,
    year: DemoYear,
    subject: str,
    grade: str,
    items: Sequence[DemoItem],
    ability: dict[tuple[str, int], float],
    numbers: np.random.Generator,
) -> tuple[int, list[ItemParameters]]:
    """The form of one subject and grade: made, published, planned for its five classes, sat. Its id, and the truth."""
    name, opens, _ = year.windows[year.last]
    with ctx.store.read() as db:
        window = db.scalars(select(Window).where(Window.name == name, Window.start == opens)).one().id
        versions = dict(db.execute(select(Item.code, ItemVersion.id).join(Item.versions)).all())
        classes = list(
            db.scalars(
                select(SchoolClass.id)
                .where(SchoolClass.subject == subject, SchoolClass.grade == grade)
                .order_by(SchoolClass.source_id)
            )
        )
    title = f"{name} {subject.lower()}"
    chosen = [versions[item.code] for item in items]
    blueprint = ctx.store.write(lambda db: benchmark_blueprint(ctx, db, f"{title} {grade}", chosen))
    form = create_form(ctx, actor, f"{title} {grade}", title, subject, grade, "benchmark", blueprint)
    form = set_items(ctx, actor, form.id, form.revision, chosen)
    publish(ctx, actor, form.id, form.revision)
    day = opens + timedelta(days=2 * GRADES.index(grade) + (1 if subject == "Reading" else 0))
    while day.weekday() > 4:
        day += timedelta(days=1)
    start = datetime.combine(day, time(8, 30), ZoneInfo(ZONE))
    made = schedule(ctx, actor, form.id, window, classes, "", None, start, start + timedelta(minutes=60))
    parameters = _parameters(items, subject, grade, numbers)
    for session_id in made:
        ctx.store.write(lambda db, id=session_id: _answer(db, id, subject, items, parameters, ability, numbers))  # type: ignore[misc]
    return form.id, parameters


def _a_year_ago(
    ctx: Context,
    sat: tuple[int, list[ItemParameters]],
    items: Sequence[DemoItem],
    name: str,
    opens: date,
    ability: dict[tuple[str, int], float],
) -> None:
    """The same form in the same window of last year, so that items have an earlier time to be held against."""
    form, parameters = sat
    numbers = np.random.default_rng(hash_of("a year ago"))
    for id in ctx.store.write(lambda db: earlier_sessions(db, form, name, opens, ZONE)):
        ctx.store.write(lambda db, id=id: _answer(db, id, "Mathematics", items, parameters, ability, numbers))  # type: ignore[misc]


def _answer(
    db: Session,
    session_id: int,
    subject: str,
    items: Sequence[DemoItem],
    parameters: list[ItemParameters],
    ability: dict[tuple[str, int], float],
    numbers: np.random.Generator,
) -> None:
    session = db.get_one(PlannedSession, session_id)
    places = list(
        db.scalars(select(FormItem.id).where(FormItem.form_id == session.form_id).order_by(FormItem.position))
    )
    sittings = list(db.scalars(select(Sitting).where(Sitting.session_id == session_id).order_by(Sitting.person_id)))
    absent = numbers.random(len(sittings)) < ABSENT_SHARE
    theta: FloatArray = np.array([ability[subject, s.person_id] for s in sittings])
    choices = simulate_choices(theta, parameters, numbers, OMIT)
    grade, klass = items[0].grade, session.klass.title
    sat = DemoAttempts(
        subject=subject,
        grade=grade,
        klass=klass,
        students=[s.person.source_id for s in sittings],
        items=items,
        right=[p.right for p in parameters],
        choices=choices,
        ability=theta,
        seconds=times(len(sittings), items, np.random.default_rng(hash_of("times", subject, klass))),
    )
    plant(sat)
    spent = []
    events, present = [], []
    for row, sitting in enumerate(sittings):
        if absent[row]:
            sitting.state = "absent"
            continue
        sitting.state, sitting.takeover = "handed_in", 1
        sitting.started_at = session.start + timedelta(seconds=int(numbers.integers(10, 120)))
        sitting.handed_in_at = sitting.last_at = session.start + timedelta(minutes=int(numbers.integers(34, 58)))
        for at, item in enumerate(items):
            if sat.seconds[row, at]:
                spent.append(
                    {
                        "sitting_id": sitting.id,
                        "form_item_id": places[at],
                        "takeover": 1,
                        "milliseconds": int(1000 * sat.seconds[row, at]),
                    }
                )
            picked = int(choices[at][row])
            if picked < 0:
                continue
            written = (item.draft.right, *item.draft.wrong)[picked] if item.draft.numeric else "ABCD"[picked]
            entry = {
                "sitting_id": sitting.id,
                "form_item_id": places[at],
                "answer": written,
                "takeover": 1,
                "sequence": at + 1,
            }
            present.append(entry)
            moment = session.start + timedelta(minutes=2 + at)
            events.append({"id": f"demo-{sitting.id}-{at + 1}", "at": moment, **entry})
    db.flush()
    db.execute(insert(ResponseEvent), events)
    db.execute(insert(Response), present)
    db.execute(insert(TimeOn), spent)
    proctors = dict(
        db.execute(select(Person.source_id, Person.id).where(Person.source_id.in_(("BM-P01", "BM-P02")))).all()
    )
    # two proctors cannot hold five rooms at once: the first two classes have one
    session.proctor_id = proctors.get(f"BM-P0{session.klass.title[-1]}")
    session.closed_at = session.end
    session.data_version += 1
    pack(db, session)
