"""Following the school's records system: the stand-in with its faults, and systems that answer badly."""

from __future__ import annotations

import random
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime

from fastapi import FastAPI
from sqlalchemy import func, select

from bildung.demo.rosters import Layout, roster_files
from bildung.formats.oneroster import Known, read_roster
from bildung.formats.oneroster_rest import as_sheets, roster_from
from bildung.services.rosters import check, fromsystem
from bildung.services.shared import settings
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.standins import Standins
from bildung.standins.beside import beside
from bildung.standins.records import SHUT, Office, create_records, demo_office
from bildung.store.models import FamilyLink, Person, RecordsRun
from tests.support import Clock, WorldCase, small_roster

LAYOUT = Layout(key="BM", name="Brackwater Middle", grades=("6", "7", "8"), classes=5, size=24, year=2026, rich=True)


class Reading(WorldCase):
    def test_the_same_school_reads_the_same_over_http_and_from_files(self) -> None:
        files = roster_files(LAYOUT, random.Random(5))
        office = demo_office(roster_files(LAYOUT, random.Random(5)), self.clock)
        found = {name: list(table.values()) for name, table in office.tables.items()}
        over_http, from_files = roster_from(found, False, Known()), read_roster(files)
        self.assertEqual(over_http.orgs, from_files.orgs)
        self.assertEqual(over_http.sessions, from_files.sessions)
        self.assertEqual(set(from_files.classes), set(over_http.classes))
        self.assertEqual({u.id for u in over_http.users} - {u.id for u in from_files.users}, {"BM-S0361", "BM-S0362"})
        theirs = {u.id: u for u in over_http.users}
        self.assertEqual([u for u in from_files.users if theirs[u.id] != u], [])

    def test_an_entry_without_an_id_is_named(self) -> None:
        with self.assertRaisesRegex(Exception, "users, line 1: an entry without sourcedId"):
            as_sheets({"users": [{"givenName": "x"}]})


class Shut(unittest.TestCase):
    def test_the_class_whose_grades_are_closed_is_one_of_the_office(self) -> None:
        office = demo_office(roster_files(LAYOUT, random.Random(5)), Clock())
        self.assertLessEqual(set(SHUT), set(office.tables["classes"]))


class Following(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.office: Office = demo_office(roster_files(LAYOUT, random.Random(5)), self.clock)
        running = beside(create_records(self.office))
        self.ctx.own(Standins).records = running.__enter__()
        self.addCleanup(running.__exit__, None, None, None)

    def look(self, bulk: bool = False) -> fromsystem.RunLine:
        self.clock.pass_by(hours=3)
        fromsystem.look(self.ctx, self.boss, bulk)
        return fromsystem.records_page(self.ctx, self.boss).runs[0]

    def students(self) -> int:
        with self.ctx.store.read() as db:
            return (
                db.scalar(
                    select(func.count()).select_from(Person).where(Person.kind == "student", Person.active.is_(True))
                )
                or 0
            )

    def test_the_first_look_brings_everybody_and_the_next_one_nothing(self) -> None:
        first = self.look()
        self.assertEqual((first.state, first.bulk, self.students()), ("done", True, 362))
        again = self.look()
        self.assertEqual(
            (again.state, again.bulk, again.counts),
            ("done", False, {"added": 0, "changed": 0, "left_out": 0, "same": 0}),
        )
        everything = self.look(bulk=True)
        self.assertEqual((everything.counts["added"], everything.counts["changed"]), (0, 0))
        self.assertGreater(everything.counts["same"], 1500)

    def test_what_a_day_in_the_office_brings_comes_by_itself_and_its_faults_are_found(self) -> None:
        self.look()
        kinds = {d.kind for d in check.check(self.ctx, self.boss)[1]}
        self.assertEqual(kinds, {"two_classes", "no_class", "twice", "no_teacher"}, "handed over with its errors")
        before = len(check.check(self.ctx, self.boss)[1])
        self.office.next_day()
        run = self.look()
        self.assertFalse(run.bulk)
        page = fromsystem.records_page(self.ctx, self.boss)
        said = {(line.what, line.label, line.fate) for line in page.lines}
        self.assertIn(("person", "Anouk Tideswell", "added"), said)
        self.assertTrue(any("Hallam-Wray" in label for _, label, _ in said))
        self.assertEqual(self.students(), 362, "one came, one left")
        with self.ctx.store.read() as db:
            kin = db.scalars(select(Person).where(Person.username == "rutger.tideswell")).one()
            child = db.scalars(
                select(Person.source_id)
                .join(FamilyLink, FamilyLink.student_id == Person.id)
                .where(FamilyLink.family_id == kin.id)
            ).one()
        self.assertEqual(child, "BM-S0401")
        found = check.check(self.ctx, self.boss)[1]
        self.assertEqual(len(found), before + 1)
        self.assertEqual(sum(d.kind == "two_classes" for d in found), 2)
        self.office.next_day()
        self.look()
        found = check.check(self.ctx, self.boss)[1]
        self.assertEqual(sum(d.kind == "no_teacher" for d in found), 2)
        self.assertEqual(sum(d.kind == "twice" for d in found), 2)

    def cut_short(self) -> fromsystem.RunLine:
        for _ in range(3):
            self.office.next_day()
        return self.look()

    def test_an_export_cut_short_waits_and_the_next_whole_one_goes_on(self) -> None:
        self.look()
        run = self.cut_short()
        self.assertEqual((run.state, self.students()), ("waiting", 362))
        self.assertIn("students, more than one in ten", run.message)
        with self.assertRaisesRegex(Conflict, "still awaits a decision"):
            fromsystem.look(self.ctx, self.boss, False)
        fromsystem.decide(self.ctx, self.boss, run.id, take=False)
        self.office.next_day()
        self.assertEqual((self.look().state, self.students()), ("done", 363), "one left, one late, one entered twice")
        with self.assertRaises(NotFound):
            fromsystem.decide(self.ctx, self.boss, run.id, take=True)

    def test_taken_all_the_same_they_are_set_aside(self) -> None:
        self.look()
        run = self.cut_short()
        fromsystem.decide(self.ctx, self.boss, run.id, take=True)
        self.assertLess(self.students(), 310)
        states = [r.state for r in fromsystem.records_page(self.ctx, self.boss).runs]
        self.assertEqual(states, ["done", "taken", "done"])

    def test_at_night_it_asks_once_after_the_hour_and_not_while_something_waits(self) -> None:
        self.assertFalse(fromsystem.nightly(self.ctx), "off until somebody turns it on")
        settings.change_settings(self.ctx, self.boss, {"records_on": True, "records_hour": 3})
        self.assertTrue(fromsystem.nightly(self.ctx))
        self.assertFalse(fromsystem.nightly(self.ctx))
        self.clock.now = datetime.fromisoformat("2026-11-24T01:50:00+00:00")  # 2:50 at the schools
        self.assertFalse(fromsystem.nightly(self.ctx))
        self.clock.pass_by(minutes=11)
        self.assertTrue(fromsystem.nightly(self.ctx))
        self.assertFalse(fromsystem.nightly(self.ctx))
        with self.ctx.store.read() as db:
            self.assertEqual(set(db.scalars(select(RecordsRun.person_id))), {None})

    def test_only_for_who_may_bring_rosters(self) -> None:
        self.bring_people(small_roster(3))
        teacher = self.teacher_of(self.class_id())
        for work in (
            lambda: fromsystem.look(self.ctx, teacher, True),
            lambda: fromsystem.records_page(self.ctx, teacher),
            lambda: fromsystem.decide(self.ctx, teacher, 1, True),
        ):
            with self.assertRaises(NotAllowed):
                work()


@contextmanager
def answering(users: object, total: str = "", status: int = 200) -> Iterator[str]:
    """A records system that gives a token and then this."""
    from fastapi.responses import JSONResponse

    app = FastAPI()

    @app.post("/token")
    def token() -> dict[str, str]:
        return {"access_token": "t"}

    @app.get("/{path:path}")
    def anything(path: str) -> JSONResponse:
        name = path.rsplit("/", 1)[-1]
        return JSONResponse({name: users if name == "users" else []}, status, {"x-total-count": total} if total else {})

    with beside(app) as address:
        yield address


class Failing(WorldCase):
    def failed(self, **values: object) -> str:
        settings.change_settings(self.ctx, self.boss, values)
        fromsystem.look(self.ctx, self.boss, True)
        run = fromsystem.records_page(self.ctx, self.boss).runs[0]
        self.assertEqual(run.state, "failed")
        return run.message

    def test_every_failure_is_one_sentence_and_changes_nothing(self) -> None:
        with self.assertRaisesRegex(Invalid, "enter the records system's address"):
            fromsystem.look(self.ctx, self.boss, True)
        self.assertIn("cannot be reached", self.failed(records_address="http://127.0.0.1:9"))
        office = demo_office(roster_files(LAYOUT, random.Random(5)), self.clock)
        with beside(create_records(office)) as address:
            self.assertIn(
                "refuses the client's name and secret", self.failed(records_address=address, records_secret="wrong")
            )
        with answering("not a list") as address:
            self.assertIn("holds no list of users", self.failed(records_address=address))
        with answering([], status=503) as address:
            self.assertIn("answered orgs with status 503", self.failed(records_address=address))
        with answering([{"givenName": "x"}]) as address:
            self.assertIn("an entry without sourcedId", self.failed(records_address=address))
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(Person)), 1)
        self.assertIn("failed: users", fromsystem.records_page(self.ctx, self.boss).finding)
