"""The rest of the demo's school: its calendar, needs, groups, what is known about students, and course plans."""

from __future__ import annotations

import json
import random
from dataclasses import asdict, replace
from datetime import UTC, datetime, time, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.demo import mathematics, reading
from bildung.demo.district import YEAR, DemoYear
from bildung.demo.files import sheet
from bildung.demo.plants import from_island
from bildung.demo.resources import cycle_start, school_resources
from bildung.demo.rosters import year_title
from bildung.services.bank.versions import index_items
from bildung.services.calendar.pacing import plan_plans
from bildung.services.calendar.years import instruction_between, local_today
from bildung.services.items.bankitem import items_whole
from bildung.services.people.accommodations import Entered
from bildung.services.people.changes import LOCAL, moved
from bildung.services.shared.context import Context
from bildung.services.shared.passwords import hash_password
from bildung.store.models import (
    Accommodation,
    Attribute,
    AttributeValue,
    ClosedDays,
    CoursePlan,
    Group,
    GroupMember,
    GroupStaff,
    JoinRequest,
    Person,
    RecordsRun,
    Role,
    School,
    SchoolClass,
    SchoolYear,
    Setting,
    Sitting,
    Taught,
)

SEED = 20260803
BEHIND = "Mathematics 7.3"  # taught more slowly than the plan
SKIPPED = "Reading 6.4"  # left a lesson out


def organize(ctx: Context, password: str, year: DemoYear) -> None:
    rng = random.Random(f"{SEED} organisation")

    def work(db: Session) -> None:
        _calendar(db, year)
        school_resources(db, cycle_start(year.winter))
        _needs(ctx, db, rng, year)
        _known(db, rng)
        _staff(ctx, db, password)
        _case_manager(ctx, db)
        _groups(ctx, db, rng)
        _plans(ctx, db, rng)
        db.flush()
        _tag_units(db)
        _newcomer(ctx, db)
        db.add(Setting(name="records_on", value=True))
        db.add(Setting(name="provider_on", value=True))
        _signed_in(db)
        people = len(_students(db))
        counts = {"added": people, "changed": 0, "left_out": 0, "same": 0}
        db.add(
            RecordsRun(at=ctx.clock(), state="done", bulk=True, counts=counts, lines=[], message="the year's handover")
        )
        moved(db)

    ctx.store.write(work)


def _signed_in(db: Session) -> None:
    """Whoever sat a test had signed in for it."""
    rows = (
        select(Sitting.person_id, func.max(Sitting.started_at))
        .where(Sitting.started_at.is_not(None))
        .group_by(Sitting.person_id)
    )
    last = {person_id: at for person_id, at in db.execute(rows)}
    for person in _students(db):
        person.last_sign_in_at = last.get(person.id)


def _calendar(db: Session, year: DemoYear) -> None:
    """Last year beside this one; the closed days of both lie as far from the winter window."""
    if db.scalar(select(SchoolYear).where(SchoolYear.start < year.begins)) is None:
        ends = year.begins - timedelta(days=1)
        db.add(SchoolYear(title=year_title(year.before, ends), start=year.before, end=ends))
    for winter in (year.winter - YEAR, year.winter):
        for name, first, last in (
            ("before lessons begin", -170, -141),
            ("fall break", -91, -80),
            ("winter break", -28, -15),
            ("spring break", 63, 74),
            ("summer break", 166, 194),
        ):
            db.add(ClosedDays(name=name, start=winter + timedelta(days=first), end=winter + timedelta(days=last)))
    harbor = year.winter + timedelta(days=144)
    db.add(ClosedDays(name="Harbor Day", start=harbor, end=harbor, school_id=_middle(db).id))


def _middle(db: Session) -> School:
    return db.scalars(select(School).where(School.source_id == "BM")).one()


def _students(db: Session) -> list[Person]:
    return list(db.scalars(select(Person).where(Person.kind == "student").order_by(Person.source_id)))


def _needs(ctx: Context, db: Session, rng: random.Random, year: DemoYear) -> None:
    """About one in fourteen has something; extended time is the most common. Entered before last year's windows."""
    now = datetime.combine(year.before, time(9), UTC)
    for person in _students(db):
        if rng.random() > 0.07:
            continue
        pick = rng.random()
        wanted = [Entered(kind="extra_time", value=str(rng.choice((1.25, 1.25, 1.5))))] if pick < 0.75 else []
        wanted += [Entered(kind="small_group")] if pick < 0.2 else []
        wanted += [Entered(kind="own_proctor")] if 0.2 <= pick < 0.27 else []
        wanted += [Entered(kind="form", value="shortened")] if 0.27 <= pick < 0.33 else []
        wanted += [Entered(kind="breaks")] if 0.5 <= pick < 0.6 else []
        wanted += [Entered(kind="directions", value="Polish")] if 0.6 <= pick < 0.65 else []
        wanted += [Entered(kind="read_aloud", subject="Mathematics")] if 0.7 <= pick < 0.85 else []
        wanted += [Entered(kind="large_print")] if pick >= 0.85 else []
        source = "el" if 0.6 <= pick < 0.65 else "504" if pick >= 0.4 else "iep"
        for one in wanted:
            db.add(_accommodation(person.id, replace(one, source=source), now))


def _accommodation(person_id: int, wanted: Entered, at: datetime, approved: bool = True) -> Accommodation:
    return Accommodation(person_id=person_id, **asdict(wanted), entered_at=at, approved_at=at if approved else None)


def _case_manager(ctx: Context, db: Session) -> None:
    """The special-education teacher keeps what is in IEPs of the middle school; two entries of hers wait to be approved,
    and one student's extended time ends in the middle of the window."""
    manager = db.scalars(select(Person).where(Person.username == "specialist")).one()
    school, today = _middle(db).id, local_today(ctx, db)
    by_iep = select(Accommodation.person_id).where(Accommodation.source == "iep")
    cases = db.scalars(
        select(Person).where(Person.school_id == school, Person.id.in_(by_iep)).order_by(Person.source_id)
    ).all()
    for person in cases:
        person.case_manager_id = manager.id
    for person, wanted in zip(
        cases,
        (
            Entered(kind="human_reader", subject="Mathematics", source="iep", start=today - timedelta(days=2)),
            Entered(kind="calculator", subject="Mathematics", source="iep", start=today - timedelta(days=2)),
        ),
        strict=False,
    ):
        row = _accommodation(person.id, wanted, ctx.clock() - timedelta(days=2), approved=False)
        row.entered_by_id = manager.id
        db.add(row)
    extended = select(Accommodation).where(Accommodation.kind == "extra_time", Accommodation.source == "504")
    if lapses := db.scalars(extended.order_by(Accommodation.id)).first():
        lapses.until = today + timedelta(days=3)


def _known(db: Session, rng: random.Random) -> None:
    language = Attribute(name="home language", seen_by="teacher")
    meals = Attribute(name="school meals", seen_by="coordinator")
    home = Attribute(name="lives on", seen_by="teacher")
    db.add_all((language, meals, home))
    db.flush()
    others = ("Polish", "Turkish", "Arabic", "Frisian")
    for person in _students(db):
        own = "English" if rng.random() < 0.8 else rng.choices(others, (8, 6, 5, 1))[0]
        db.add(AttributeValue(attribute_id=language.id, person_id=person.id, value=own))
        paid = "free" if rng.random() < 0.22 else "paid"
        db.add(AttributeValue(attribute_id=meals.id, person_id=person.id, value=paid))
        lives = "the island" if from_island(person.source_id) else "the mainland"
        db.add(AttributeValue(attribute_id=home.id, person_id=person.id, value=lives))


def _staff(ctx: Context, db: Session, password: str) -> None:
    """A specialist, an item writer and a family to sign in as, beside the roster's own people."""
    secret = hash_password(password)
    school = _middle(db)
    found = []
    for username, given, family, role in (
        ("specialist", "Odile", "Marrow", "specialist"),
        ("writer", "Piers", "Vantongeren", "writer"),
    ):
        person = Person(
            source_id=f"{LOCAL}{username}",
            given=given,
            family=family,
            kind="staff",
            username=username,
            password_hash=secret,
            school_id=school.id,
        )
        db.add(person)
        db.flush()
        db.add(Role(person_id=person.id, role=role, school_id=None if role == "writer" else school.id))
        found.append({"name": person.name, "role": role, "username": username, "password": password})
    kin = db.scalars(select(Person).where(Person.kind == "family").order_by(Person.source_id)).first()
    if kin is not None and kin.username is not None:
        kin.password_hash = secret
        found.append({"name": kin.name, "role": "family", "username": kin.username, "password": password})
    file = ctx.store.folder / "demo.json"
    demo = json.loads(file.read_text("utf-8"))
    demo["people"] += found
    file.write_text(json.dumps(demo, indent=1), "utf-8")


def _groups(ctx: Context, db: Session, rng: random.Random) -> None:
    school = _middle(db)
    now = ctx.clock()
    for name, rule in (
        ("Extended time, grade 6", "grade 6 and extended time"),
        ("Separate setting", "individual proctor or small group"),
        ("English learners", 'not home language is English and (subject "Reading")'),
    ):
        db.add(Group(name=name, rule=rule, school_id=school.id, created_at=now))
    lift = Group(name="Reading lift", rule=None, school_id=school.id, created_at=now)
    db.add(lift)
    db.flush()
    for person in rng.sample([p for p in _students(db) if p.grade == "7"], 9):
        db.add(GroupMember(group_id=lift.id, person_id=person.id))
    specialist = db.scalars(select(Person).where(Person.username == "specialist")).one()
    db.add(GroupStaff(group_id=lift.id, person_id=specialist.id))


def _plans(ctx: Context, db: Session, rng: random.Random) -> None:
    """Each standard is taught in four lessons of about a week, in the order of the framework; then what was taught."""
    today = local_today(ctx, db)
    year = db.scalars(select(SchoolYear).where(SchoolYear.start <= today).order_by(SchoolYear.start.desc())).first()
    assert year is not None
    rows: list[tuple[object, ...]] = []
    first = year.start + timedelta(days=30)
    for subject, standards in (("Mathematics", mathematics.STANDARDS), ("Reading", reading.STANDARDS)):
        for grade in ("6", "7", "8"):
            mine = [(code, text) for code, (text, _) in standards.items() if code[1] == grade]
            day = first
            for code, text in mine:
                for part in ("Introduce", "Practice", "Apply", "Look back"):
                    while instruction_between(db, day, day + timedelta(days=6)).days == 0:
                        day += timedelta(days=7)
                    rows.append(
                        (
                            subject,
                            grade,
                            f"{subject} {grade}",
                            text,
                            f"{part}: {_short(text)}",
                            f"BAF-{code}",
                            day,
                            day + timedelta(days=4),
                        )
                    )
                    day += timedelta(days=7)
    columns = ("subject", "grade", "course", "unit", "lesson", "standards", "start", "end")
    plan_plans(ctx, db, {"plans.csv": sheet(columns, rows)}, True, None)
    for plan in db.scalars(select(CoursePlan)):
        due = [lesson for lesson in plan.lessons if lesson.end < today]
        for klass in db.scalars(
            select(SchoolClass).where(SchoolClass.subject == plan.subject, SchoolClass.grade == plan.grade)
        ):
            back = 5 if klass.title == BEHIND else rng.choice((-1, 0, 0, 0, 1, 1, 2))
            done = plan.lessons[: max(0, len(due) - back)]
            for at, lesson in enumerate(done):
                if klass.title == SKIPPED and at == 4:
                    continue
                on = min(lesson.end + timedelta(days=rng.choice((0, 0, 3))), today)
                teacher = db.scalars(select(Person.id).where(Person.source_id == "BM-TM01")).one()
                db.add(Taught(class_id=klass.id, lesson_id=lesson.id, on=on, person_id=teacher))


def _tag_units(db: Session) -> None:
    """Each item of a planned course stands in the unit that teaches its main standard."""
    units = {
        (plan.subject, plan.grade, standard.id): lesson.unit
        for plan in db.scalars(select(CoursePlan))
        for lesson in plan.lessons
        for standard in lesson.standards
    }
    every = db.scalars(items_whole()).all()
    for item in every:
        if item.versions and item.versions[-1].standards:
            item.unit = units.get((item.subject, item.grade, item.versions[-1].standards[0].standard_id), item.unit)
    db.flush()
    index_items(db, every)


def _short(text: str) -> str:
    words = text.split()
    return text[0].lower() + text[1:] if len(words) <= 6 else " ".join(words[:6]).lower() + " …"


def _newcomer(ctx: Context, db: Session) -> None:
    """Somebody waits at the door of a class."""
    klass = db.scalars(select(SchoolClass).where(SchoolClass.title == "Mathematics 6.1")).one()
    klass.open_door = True
    db.add(
        JoinRequest(
            class_id=klass.id,
            given="Teodor",
            family="Lindqvist-Aas",
            ticket_hash="demo",
            at=ctx.clock() - timedelta(hours=3),
        )
    )
