"""The demo for tests of services: made once, each class works on a copy."""

from __future__ import annotations

import shutil
import tempfile
import unittest
from pathlib import Path

from sqlalchemy import select

from bildung.services.quality.lines import list_sat
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.store.models import Enrolment, Person, SchoolClass
from bildung.store.store import Store
from tests.support import Clock
from tests.templates import demo_folder


class DemoCase(unittest.TestCase):
    """ctx: of a copy that the tests of a class share."""

    ctx: Context
    boss: Actor

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(tempfile.mkdtemp()) / "demo"
        clock = Clock()
        clock.now = demo_folder(cls.folder)
        cls.ctx = Context(store=Store(cls.folder), clock=clock)
        with cls.ctx.store.read() as db:
            boss = db.scalars(select(Person.id).where(Person.username == "coordinator")).one()
        cls.boss = Actor(
            person_id=boss, name="Hanne Quill", grants=(Grant("coordinator", None),), sign_in_id=0, csrf=""
        )

    @classmethod
    def tearDownClass(cls) -> None:
        cls.ctx.store.close()
        shutil.rmtree(cls.folder.parent, ignore_errors=True)

    def wanted(self, form: str, window: bool = True, **narrower: object) -> ScopeRequest:
        """A form in the window of this fall, or in all windows."""
        sat = max((s for s in list_sat(self.ctx, self.boss) if s.form == form), key=lambda s: s.latest)
        return ScopeRequest(forms=(sat.form_id,), windows=(sat.window_id,) if window else (), **narrower)  # type: ignore[arg-type]

    def class_id(self, title: str) -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(SchoolClass.id).where(SchoolClass.title == title)).one()

    def teacher_of(self, title: str) -> Actor:
        with self.ctx.store.read() as db:
            person = db.scalars(
                select(Person)
                .join(Enrolment, Enrolment.person_id == Person.id)
                .where(Enrolment.class_id == self.class_id(title), Enrolment.role == "teacher")
            ).one()
            return Actor(
                person_id=person.id,
                name=person.name,
                grants=(Grant("teacher", person.school_id),),
                sign_in_id=0,
                csrf="",
            )
