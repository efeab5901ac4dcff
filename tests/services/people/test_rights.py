"""What a teacher may do to a class they teach, taught last year, were taken off or do not teach yet; and to its students."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.people import classes
from bildung.services.sessions import listing, running, tickets
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.errors import NotFound
from bildung.store.models import Enrolment, Person, PlannedSession, SchoolClass, SchoolYear
from tests.support import NOON, WorldCase

A = Action
RESULTS = {A.ANSWERS_READ, A.QUALITY_READ}
RUNNING = {A.SESSIONS_RUN, A.CLASSES_RUN, A.TAUGHT_SAY, A.CODES_READ, A.SUPPORT_READ}
READING = {A.SESSIONS_READ, A.CLASSES_READ, A.PEOPLE_READ}
TODAY = NOON.date()
Change = Callable[[Session, "Rights"], None]


def teacher_row(db: Session, world: Rights) -> Enrolment:
    return db.scalars(
        select(Enrolment).where(Enrolment.class_id == world.klass, Enrolment.person_id == world.teacher.person_id)
    ).one()


def nothing(db: Session, world: Rights) -> None:
    return None


def taken_off(db: Session, world: Rights) -> None:
    row = teacher_row(db, world)
    row.active, row.ends = False, TODAY


def left_yesterday(db: Session, world: Rights) -> None:
    teacher_row(db, world).ends = TODAY - timedelta(days=1)


def begins_next_week(db: Session, world: Rights) -> None:
    teacher_row(db, world).begins = TODAY + timedelta(days=7)


def year_over(db: Session, world: Rights) -> None:
    klass = db.get_one(SchoolClass, world.klass)
    klass.active, klass.ended_on = False, TODAY
    for row in db.scalars(select(Enrolment).where(Enrolment.class_id == world.klass)):
        if row.active:
            row.active, row.ends = False, TODAY


def taken_off_then_over(db: Session, world: Rights) -> None:
    row = teacher_row(db, world)
    row.active, row.ends = False, TODAY - timedelta(days=60)
    year_over(db, world)


def student_left(db: Session, world: Rights) -> None:
    row = db.scalars(
        select(Enrolment).where(Enrolment.class_id == world.klass, Enrolment.person_id == world.student)
    ).one()
    row.active, row.ends = False, TODAY


TABLE: dict[Change, set[Action]] = {
    nothing: RESULTS | RUNNING | READING,
    taken_off: set(),
    left_yesterday: set(),
    begins_next_week: set(),
    year_over: RESULTS | READING,
    taken_off_then_over: set(),
    student_left: (RESULTS | RUNNING | READING) - {A.CODES_READ, A.SUPPORT_READ, A.PEOPLE_READ},
}


class Rights(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=4, items=4).session
        self.klass = self.class_id()
        self.teacher = replace(self.teacher_of(self.klass), day=TODAY)
        with self.ctx.store.read() as db:
            self.student = (
                db.scalars(
                    select(Enrolment.person_id).where(Enrolment.class_id == self.klass, Enrolment.role == "student")
                ).first()
                or 0
            )

    def may(self, actor: Actor, action: Action) -> bool:
        """Whether it reaches this class, its session or its student."""
        model: Any = {"session": PlannedSession, "answers": PlannedSession, "quality": PlannedSession}.get(
            action.value.split(".")[0]
        )
        id = self.session.id
        if model is None:
            model, id = (
                (SchoolClass, self.klass)
                if action.value.split(".")[0] in ("classes", "taught")
                else (Person, self.student)
            )
        if action in (A.SESSIONS_READ, A.SESSIONS_RUN):
            model, id = PlannedSession, self.session.id
        with self.ctx.store.read() as db:
            return db.scalar(select(model.id).where(model.id == id, scope(actor, action))) is not None

    def test_each_action_in_each_case(self) -> None:
        for change, allowed in TABLE.items():
            self.setUp()
            running.close(self.ctx, self.boss, self.session.id)
            self.ctx.store.write(lambda db, change=change: change(db, self))  # type: ignore[misc]
            for action in sorted(RESULTS | RUNNING | READING):
                with self.subTest(case=change.__name__, action=action.value):
                    self.assertEqual(self.may(self.teacher, action), action in allowed)

    def test_a_session_that_still_runs_in_a_class_that_is_over_is_nobodys_but_its_proctors(self) -> None:
        self.ctx.store.write(lambda db: year_over(db, self))
        self.assertFalse(self.may(self.teacher, A.SESSIONS_READ))

        def holds(db: Session) -> None:
            db.get_one(PlannedSession, self.session.id).proctor_id = self.teacher.person_id

        self.ctx.store.write(holds)
        self.assertTrue(self.may(self.teacher, A.SESSIONS_RUN))

    def test_codes_and_the_running_session_go_with_the_class(self) -> None:
        page = classes.get_class(self.ctx, self.teacher, self.klass)
        self.assertTrue(page.code and page.students[0].code)
        self.ctx.store.write(lambda db: taken_off(db, self))
        for look in (
            lambda: classes.get_class(self.ctx, self.teacher, self.klass),
            lambda: listing.get_session(self.ctx, self.teacher, self.session.id),
            lambda: running.close(self.ctx, self.teacher, self.session.id),
            lambda: tickets.cards(self.ctx, self.teacher, self.session.id, "http://x/"),
        ):
            with self.assertRaises(NotFound):
                look()

    def test_this_years_figures_of_a_course_are_not_for_who_taught_it_last_year(self) -> None:
        reading = self.teacher_of(self.class_id("Reading"))

        def moved(db: Session) -> None:
            year_over(db, self)
            old = db.get_one(SchoolClass, self.klass)
            old.year_id = None
            fresh = SchoolClass(
                source_id="new",
                title="Mathematics 5.1",
                school_id=old.school_id,
                subject=old.subject,
                grade=old.grade,
                year_id=self.year,
            )
            db.add(fresh)
            db.flush()
            db.add(Enrolment(class_id=fresh.id, person_id=reading.person_id, role="teacher"))
            db.get_one(PlannedSession, self.session.id).class_id = fresh.id

        self.year = self.a_year()
        self.ctx.store.write(moved)
        self.assertFalse(self.may(self.teacher, A.QUALITY_READ))
        self.assertTrue(self.may(replace(reading, day=TODAY), A.QUALITY_READ))

    def a_year(self) -> int:
        def work(db: Session) -> int:
            year = SchoolYear(title="2027/28", start=date(2027, 8, 1), end=date(2028, 7, 31))
            db.add(year)
            db.flush()
            return year.id

        return self.ctx.store.write(work)
