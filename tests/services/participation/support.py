"""Two classes of grade 5 and a form for them: what tests of owed tests begin with."""

from __future__ import annotations

import random
from datetime import timedelta

from sqlalchemy import select

from bildung.core.participation.standing import Standing
from bildung.demo.rosters import Layout, roster_files
from bildung.services.participation.obligations import OwedTest, owed_tests
from bildung.services.people.changes import moved
from bildung.services.sessions import listing, running, scheduling
from bildung.services.sitting import taking
from bildung.store.models import Enrolment, Person, PlannedSession, SchoolClass, Sitting
from tests.support import NOON, WorldCase

LAYOUT = Layout(key="HM", name="Hollin Moor", grades=("5",), classes=2, size=5, year=2026)
HOUR = timedelta(hours=1)


class OwedCase(WorldCase):
    """Mathematics 5.1 and 5.2 with five students each; `plan` gives them the form."""

    def setUp(self) -> None:
        super().setUp()
        self.bring_people(roster_files(LAYOUT, random.Random(41)))
        self.bring_items()
        self.form = self.make_form()
        with self.ctx.store.read() as db:
            self.classes = list(
                db.scalars(
                    select(SchoolClass.id).where(SchoolClass.subject == "Mathematics").order_by(SchoolClass.title)
                )
            )

    def plan(self, at: int, hours: float, length: float = 1) -> int:
        """A session of one of the classes, so many hours from now."""
        start = self.clock.now + timedelta(hours=hours)
        return scheduling.schedule(
            self.ctx, self.boss, self.form, self.window_id, [self.classes[at]], "", None, start, start + HOUR * length
        )[0]

    def students(self, at: int) -> list[int]:
        with self.ctx.store.read() as db:
            return list(
                db.scalars(
                    select(Enrolment.person_id)
                    .where(
                        Enrolment.class_id == self.classes[at], Enrolment.role == "student", Enrolment.active.is_(True)
                    )
                    .order_by(Enrolment.person_id)
                )
            )

    def move(self, person: int, to: int) -> None:
        """From one class to the other, as the records say it: from tomorrow's lists on."""

        def work(db: object) -> None:
            for row in db.scalars(  # type: ignore[attr-defined]
                select(Enrolment).where(Enrolment.person_id == person, Enrolment.class_id.in_(self.classes))
            ).all():
                row.active = row.class_id == self.classes[to]
            there = db.scalar(  # type: ignore[attr-defined]
                select(Enrolment).where(Enrolment.person_id == person, Enrolment.class_id == self.classes[to])
            )
            if there is None:
                db.add(Enrolment(class_id=self.classes[to], person_id=person, role="student"))  # type: ignore[attr-defined]
            db.flush()  # type: ignore[attr-defined]
            moved(db, [person])  # type: ignore[arg-type]

        self.ctx.store.write(work)

    def leave(self, person: int) -> None:
        """Out of the records."""

        def work(db: object) -> None:
            db.get_one(Person, person).active = False  # type: ignore[attr-defined]
            moved(db, [person])  # type: ignore[arg-type]

        self.ctx.store.write(work)

    def state(self, session: int, person: int, state: str) -> None:
        """As a device would: start, or start and submit."""

        def work(db: object) -> None:
            sitting = db.scalars(  # type: ignore[attr-defined]
                select(Sitting).where(Sitting.session_id == session, Sitting.person_id == person)
            ).one()
            sitting.state, sitting.started_at, sitting.takeover = state, self.clock.now, 1
            if state == "handed_in":
                sitting.handed_in_at = self.clock.now

        self.ctx.store.write(work)
        self.ctx.bus.publish(taking.topic(session), {})

    def mark(self, session: int, person: int, state: str) -> None:
        with self.ctx.store.read() as db:
            id = db.scalars(select(Sitting.id).where(Sitting.session_id == session, Sitting.person_id == person)).one()
        running.mark(self.ctx, self.boss, session, id, state)

    def listed(self, session: int) -> dict[int, str]:
        """Who is on the list of a session, and how they stand there."""
        with self.ctx.store.read() as db:
            return {
                person: state
                for person, state in db.execute(
                    select(Sitting.person_id, Sitting.state).where(Sitting.session_id == session)
                )
            }

    def not_here(self, session: int) -> dict[int, str]:
        found = listing.get_session(self.ctx, self.boss, session).not_here
        return {line.person: line.why for line in found}

    def owed(self) -> list[OwedTest]:
        with self.ctx.store.read() as db:
            return owed_tests(self.ctx, db, self.boss, self.window_id)

    def of(self, person: int) -> OwedTest:
        """The one test that this student owes."""
        found = [one for one in self.owed() if one.person == person]
        self.assertEqual(len(found), 1, "each test is owed once")
        return found[0]

    def standing(self, person: int) -> Standing:
        return self.of(person).owed.standing

    def open_sessions_of(self, person: int) -> list[int]:
        with self.ctx.store.read() as db:
            return list(
                db.scalars(
                    select(PlannedSession.id)
                    .join(Sitting, Sitting.session_id == PlannedSession.id)
                    .where(
                        Sitting.person_id == person,
                        Sitting.state == "not_started",
                        PlannedSession.closed_at.is_(None),
                    )
                )
            )


__all__ = ["HOUR", "NOON", "OwedCase"]
