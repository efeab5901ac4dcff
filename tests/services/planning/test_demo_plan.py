"""The demo's spring is planned, exported as CSV and held against the records, read here by SQL alone; the checker shares no
code with the planner, and refuses the plan after each single corruption."""

from __future__ import annotations

import csv
import io
import json
import shutil
import sqlite3
import tempfile
import unittest
from collections import defaultdict
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from pathlib import Path
from zoneinfo import ZoneInfo

from sqlalchemy import select

from bildung.services.planning import board, exporting, plans
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.services.shared.jobs import Job
from bildung.store.models import Person
from bildung.store.store import Store
from tests.core.planning.checker import Row, School, Span, wrong
from tests.templates import demo_folder

WEEK_ENDS = 5
Rows = list[Row]


class Records:
    """What the records say of the school, by SQL."""

    def __init__(self, file: Path) -> None:
        self.db = sqlite3.connect(file)
        self.zone = ZoneInfo(self.one("select zone from federation"))
        self.school = self.one("select school_id from room limit 1")
        self.window, first, last = self.db.execute(
            "select id, start, end from window where name = 'Spring' order by start desc limit 1"
        ).fetchone()
        self.days = date.fromisoformat(first), date.fromisoformat(last)

    def one(self, sql: str, *values: object):  # type: ignore[no-untyped-def]
        return self.db.execute(sql, values).fetchone()[0]

    def rows(self, sql: str, *values: object) -> list[tuple]:  # type: ignore[type-arg]
        return self.db.execute(sql, values).fetchall()

    def blocks(self) -> list[Span]:
        """The blocks of every school day of the window by the cycle, and two of them where less than 15 minutes lie between."""
        types, start = self.rows("select types, first from day_pattern where school_id = ?", self.school)[0]
        cycle, found, n = json.loads(types), list[Span](), -1
        closed = [
            (date.fromisoformat(a), date.fromisoformat(b)) for a, b in self.rows("select start, end from closed_days")
        ]
        day = date.fromisoformat(start)
        while day <= self.days[1]:
            school = day.weekday() < WEEK_ENDS and not any(a <= day <= b for a, b in closed)
            n += school
            if school and day >= self.days[0]:
                times = self.rows(
                    "select start, end from block where day_type_id = ? order by start", cycle[n % len(cycle)]
                )
                spans = [(self.at(day, a), self.at(day, b)) for a, b in times]
                found += spans
                found += [(a[0], b[1]) for a, b in pairwise(spans) if b[0] - a[1] <= timedelta(minutes=15)]
            day += timedelta(days=1)
        return found

    def at(self, day: date, clock: str) -> datetime:
        return datetime.fromisoformat(f"{day}T{clock[:8]}").replace(tzinfo=self.zone)

    def owed(self, tests: set[str]) -> dict[tuple[str, str], int]:
        """Who takes which test, and the minutes it takes them: everyone in a class of its subject and grade."""
        factors = {
            person: 2.0 if value == "unlimited" else float(value)
            for person, value, until in self.rows(
                "select p.source_id, a.value, a.until from accommodation a join person p on p.id = a.person_id "
                "where a.kind = 'extra_time' and a.subject = '' and a.approved_at is not null"
            )
            if until is None or date.fromisoformat(until) >= self.days[0]
        }
        found = {}
        for name, subject, grade, settings in self.rows("select name, subject, grade, settings from form"):
            if name not in tests:
                continue
            minutes = json.loads(settings)["minutes"] or 50
            for (person,) in self.rows(
                "select distinct p.source_id from enrolment e join class c on c.id = e.class_id "
                "join person p on p.id = e.person_id where c.school_id = ? and c.subject = ? and c.grade = ? "
                "and c.active and not c.homeroom and e.role = 'student' and e.active and p.active",
                self.school,
                subject,
                grade,
            ):
                found[person, name] = round(minutes * factors.get(person, 1.0))
        return found

    def kinds(self, kind: str) -> set[str]:
        rows = self.rows(
            "select p.source_id, a.until from accommodation a join person p on p.id = a.person_id where a.kind = ? "
            "and a.subject = '' and a.approved_at is not null",
            kind,
        )
        return {person for person, until in rows if until is None or date.fromisoformat(until) >= self.days[0]}

    def about(self, tests: set[str]) -> School:
        rooms = {
            n: (s, d) for n, s, d in self.rows("select name, seats, devices from room where school_id = ?", self.school)
        }
        staff = self.rows(
            "select id, given || ' ' || family from person where kind = 'staff' and active and school_id = ?",
            self.school,
        )
        names = dict(staff)
        owed, away, readers = self.owed(tests), defaultdict[str, list[Span]](list), defaultdict[str, set[str]](set)
        day = self.days[0]
        while day <= self.days[1]:
            for person, start, end in self.rows(
                "select person_id, start, end from staff_hours where weekday = ?", day.weekday()
            ):
                if person in names:
                    away[names[person]] += [
                        (self.at(day, "00:00:00"), self.at(day, start)),
                        (self.at(day, end), self.at(day, "23:59:00")),
                    ]
            day += timedelta(days=1)
        for person, kind in self.rows("select person_id, kind from staff_support"):
            if person in names:
                readers[names[person]].add(kind)
        return School(
            rooms=rooms,
            carts=dict(self.rows("select name, devices from cart where school_id = ?", self.school)),
            owed=owed,
            open=self.blocks(),
            proctors=set(names.values()),
            away=dict(away),
            readers=dict(readers),
            needs={key: "human_reader" for key in owed if key[0] in self.kinds("human_reader")},
            alone={key for key in owed if key[0] in self.kinds("own_proctor")},
        )


class DemoPlan(unittest.TestCase):
    folder: Path
    rows: Rows
    school: School

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(tempfile.mkdtemp(prefix="bildung-plan-"))
        now = demo_folder(cls.folder / "demo")
        ctx = Context(store=Store(cls.folder / "demo"), clock=lambda: now)
        records = Records(cls.folder / "demo" / "bildung.sqlite")
        with ctx.store.read() as db:
            boss = db.scalars(select(Person.id).where(Person.username == "coordinator")).one()
        actor = Actor(person_id=boss, name="", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
        page = board.board_page(ctx, actor, records.window, records.school)
        plan = plans.make(ctx, actor, records.school, records.window, page.wishes, Job(), again=False)
        table = exporting.export_plan(ctx, actor, plan).decode("utf-8-sig")
        cls.rows = read(table, records)
        cls.school = records.about({row.test for row in cls.rows})
        with_longest(cls.rows, cls.school)

    @classmethod
    def tearDownClass(cls) -> None:
        shutil.rmtree(cls.folder, ignore_errors=True)

    def test_the_checker_finds_nothing_wrong(self) -> None:
        self.assertGreater(len(self.rows), 300)
        self.assertEqual(wrong(self.rows, self.school)[:5], [])

    def test_it_refuses_the_plan_after_each_single_corruption(self) -> None:
        for name, corrupt in CORRUPTIONS.items():
            with self.subTest(name):
                rows = [replace(row) for row in self.rows]
                changed = corrupt(rows, self.school)
                self.assertNotEqual(wrong(rows if changed is None else changed, self.school), [])


def read(table: str, records: Records) -> Rows:
    """The exported lines."""
    found = []
    for line in csv.DictReader(io.StringIO(table)):
        start = datetime.fromisoformat(f"{line['date']}T{line['start']}").replace(tzinfo=records.zone)
        end = datetime.fromisoformat(f"{line['date']}T{line['end']}").replace(tzinfo=records.zone)
        row = Row(
            session=line["session"],
            start=start.astimezone(UTC),
            end=end.astimezone(UTC),
            room=line["room"],
            cart=line["cart"],
            proctor=line["proctor"],
            klass=line["class"],
            test=line["test"],
            student=line["student_id"],
        )
        found.append(row)
    return found


def with_longest(rows: Rows, school: School) -> None:
    """A room is in use until the last of its students is done."""
    sessions: defaultdict[str, Rows] = defaultdict(list)
    for row in rows:
        sessions[row.session].append(row)
    for mine in sessions.values():
        end = max(mine[0].start + timedelta(minutes=school.owed.get((r.student, r.test), 0)) for r in mine)
        for row in mine:
            row.end = max(row.end, end)


def of(rows: Rows, session: str) -> Rows:
    return [row for row in rows if row.session == session]


def largest(rows: Rows) -> Rows:
    return max((of(rows, s) for s in {r.session for r in rows}), key=len)


def beside(rows: Rows, what: str) -> tuple[Rows, Rows]:
    """Two sessions at the same time that both use one."""
    heads = {r.session: r for r in rows}
    for one in heads.values():
        for other in heads.values():
            if (
                one.session != other.session
                and one.start == other.start
                and getattr(one, what)
                and getattr(other, what)
            ):
                return of(rows, one.session), of(rows, other.session)
    raise AssertionError(f"no two sessions with a {what} at once")


def put(rows: Rows, **values: object) -> None:
    for row in rows:
        for name, value in values.items():
            setattr(row, name, value)


def same(what: str) -> Callable[[Rows, School], None]:
    def corrupt(rows: Rows, school: School) -> None:
        one, other = beside(rows, what)
        put(one, **{what: getattr(other[0], what)})

    return corrupt


def shifted(**time: float) -> Callable[[Rows, School], None]:
    def corrupt(rows: Rows, school: School) -> None:
        for row in largest(rows):
            row.start, row.end = row.start + timedelta(**time), row.end + timedelta(**time)

    return corrupt


def on_saturday(rows: Rows, school: School) -> None:
    mine = largest(rows)
    days = timedelta(days=WEEK_ENDS - mine[0].start.weekday())
    for row in mine:
        row.start, row.end = row.start + days, row.end + days


def set_largest(**values: object) -> Callable[[Rows, School], None]:
    return lambda rows, school: put(largest(rows), **values)


def another_test_a_day(rows: Rows, school: School) -> None:
    """A class takes its second test on the day of its first."""
    first = largest(rows)
    who = {r.student for r in first}
    second = next(r for r in rows if r.student in who and r.test != first[0].test)
    days = first[0].start.date() - second.start.date()
    for row in of(rows, second.session):
        row.start, row.end = row.start + days, row.end + days


def smallest_room(rows: Rows, school: School) -> None:
    put(largest(rows), room=min(school.rooms, key=lambda name: school.rooms[name][0]))


def alone_no_more(rows: Rows, school: School) -> None:
    lone = next(r for r in rows if (r.student, r.test) in school.alone)
    other = next(r for r in rows if r.test == lone.test and r.session != lone.session)
    for name in ("session", "start", "end", "room", "cart", "proctor"):
        setattr(other, name, getattr(lone, name))


def out_of_hours(rows: Rows, school: School) -> None:
    """A session is in a block in which its proctor is not there."""
    person, away = next(iter(school.away.items()))
    start, end = next((a, b) for a, b in school.open if any(x < b and a < y for x, y in away))
    put(largest(rows), proctor=person, start=start, end=end)


CORRUPTIONS: dict[str, Callable[[Rows, School], Rows | None]] = {
    "a student is missing": lambda rows, school: rows[1:],
    "a student is listed twice": lambda rows, school: [*rows, replace(largest(rows)[0], session="x", room="Lab 1")],
    "a class is missing": lambda rows, school: [r for r in rows if r.session != largest(rows)[0].session],
    "a student who does not owe the test": lambda rows, school: [*rows, replace(rows[0], student="nobody")],
    "two sessions in a room": same("room"),
    "two sessions with a proctor": same("proctor"),
    "two sessions with a cart": same("cart"),
    "before school": shifted(hours=-3),
    "between two blocks": shifted(minutes=20),
    "on a weekend": on_saturday,
    "into the night": shifted(hours=9),
    "a room too small": smallest_room,
    "a room that is not there": set_largest(room="Gym"),
    "no room": set_largest(room=""),
    "a cart that is not there": set_largest(cart="Cart 99"),
    "no devices": lambda rows, school: put(next(of(rows, r.session) for r in rows if r.cart), cart=""),
    "nobody holds it": set_largest(proctor=""),
    "a stranger holds it": set_largest(proctor="A Stranger"),
    "a proctor who is not there": out_of_hours,
    "two tests in a day": another_test_a_day,
    "too short": lambda rows, school: put(largest(rows), end=largest(rows)[0].start + timedelta(minutes=10)),
    "with others where alone is needed": alone_no_more,
    "in two places": lambda rows, school: put(largest(rows)[:1], room="Library"),
}
