"""The simulated class of the demo takes a session over the wire, as devices do."""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from sqlalchemy import select

from bildung.services.sessions import listing
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.standins.classatwork import class_at_work
from bildung.standins.classroom import SimulatedClass
from bildung.store.models import PlannedSession, Response, RoomEvent
from bildung.store.store import Store
from tests.support import Served
from tests.templates import demo_folder

SPEED = 400.0
WITHIN = 120  # seconds


class AtWork(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="bildung-class-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        demo_folder(self.folder / "demo")
        self.server = Served(self.folder / "demo")
        self.ctx = Context(store=Store(self.folder / "demo"))
        self.addCleanup(self.ctx.store.close)

    def run_class(self, klass: SimulatedClass) -> None:
        subprocess.run(
            [sys.executable, "-m", "bildung.standins.classroom"],
            input=klass.write(),
            text=True,
            check=True,
            timeout=WITHIN,
        )

    def test_all_but_who_dies_and_who_is_slow_submit_and_the_room_sees_the_rest(self) -> None:
        made = class_at_work(self.ctx, self.server.address)
        assert made is not None
        self.assertEqual(SimulatedClass.read(made.write()), made)
        self.assertGreater(len(made.students), 10)
        self.addCleanup(self.server.stop)
        self.server.start()
        self.run_class(replace(made, speed=SPEED))
        with self.ctx.store.read() as db:
            session = db.scalars(select(PlannedSession).where(PlannedSession.code == made.code)).one()
            kinds = {event.kind for event in db.scalars(select(RoomEvent).where(RoomEvent.session_id == session.id))}
            given = {
                (sitting.person.code, str(r.form_item_id)): r.answer
                for sitting in session.sittings
                for r in db.scalars(select(Response).where(Response.sitting_id == sitting.id))
            }
        self.assertEqual(kinds, {"restroom", "left"})
        actor = Actor(person_id=1, name="", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
        page = listing.get_session(self.ctx, actor, session.id)
        states = {line.code: line.state for line in page.sittings}
        for student in made.students:
            done = student.submits and "dies" not in student.habits
            self.assertEqual(states[student.code], "handed_in" if done else "answering", student)
            if done:
                for question, answer in student.answers.items():
                    self.assertEqual(given[student.code, question], answer)
        self.assertEqual(sum(state == "not_started" for state in states.values()), 2, "the absent")
        self.assertTrue(any(line.room.help for line in page.sittings) or "help" in str(made.students))

    def test_a_second_one_finds_another_class_and_the_end_none(self) -> None:
        first, second = (class_at_work(self.ctx, "http://nowhere") for _ in range(2))
        assert first is not None and second is not None
        self.assertNotEqual(first.code, second.code)
