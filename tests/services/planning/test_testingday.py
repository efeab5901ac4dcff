"""A day of testing: each session with only what is missing, and the day on paper."""

from __future__ import annotations

import io
from datetime import timedelta

from pypdf import PdfReader
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.people import accommodations
from bildung.services.people.accommodations import Entered
from bildung.services.planning import board, resources, testingday
from bildung.services.planning.testingday import ReadyLine, TestingDay
from bildung.services.sessions import changing, listing, placing, room, support, tickets
from bildung.services.sessions.changing import SessionChange
from bildung.services.sessions.room import RoomAction
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import NotAllowed, NotFound
from bildung.services.today import page as today
from bildung.store.models import AuditEntry, Person, PlannedSession, RoomEvent, School, Sitting
from tests.api.shared.test_queries import counted
from tests.services.planning.support import PlanningCase
from tests.support import WorldCase


class Ready(PlanningCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.plan(0, 30)
        self.start = self.clock.now + timedelta(hours=30)

    def day(self) -> TestingDay:
        return testingday.testing_day(self.ctx, self.boss, self.school)

    def line(self) -> ReadyLine:
        return next(line for line in self.day().lines if line.session == self.session)

    def missing(self) -> list[str]:
        return [one.says for one in self.line().missing]

    def change(self, **wish: object) -> None:
        revision = listing.get_session(self.ctx, self.boss, self.session).session.revision
        changing.change(self.ctx, self.boss, {self.session: revision}, SessionChange(**wish))  # type: ignore[arg-type]

    def proctor(self) -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(Person.id).where(Person.source_id.startswith("HM-P"))).first() or 0

    def names(self) -> list[str]:
        """Family names on the list."""
        with self.ctx.store.read() as db:
            return list(db.scalars(select(Person.family).where(Person.id.in_(self.students(0)))))

    def test_the_next_day_with_a_session_is_shown_with_only_what_is_missing(self) -> None:
        self.assertRegex(self.day().finding, "1 of 1 session on .* is not ready")
        self.assertEqual(self.missing(), ["no proctor", "tickets not printed"])
        self.change(proctor=self.proctor(), room="Small")
        students = self.line().students
        self.assertEqual(students, 5)
        had = resources.resources_page(self.ctx, self.boss, self.school).rooms
        resources.save_rooms(
            self.ctx,
            self.boss,
            self.school,
            [resources.RoomLine(name="Nook", seats=3, devices=3), *had],
            [],
        )
        self.change(room="Nook")
        self.assertEqual(self.missing(), ["3 seats for 5 students", "3 devices for 5 students", "tickets not printed"])
        self.change(room="Small")
        tickets.cards(self.ctx, self.boss, self.session, "http://school")
        self.assertEqual(self.missing(), [])
        self.assertRegex(self.day().finding, "The session on .* is ready")

    def test_an_accommodation_without_a_person_is_missing_unless_the_proctor_gives_it(self) -> None:
        reader = self.proctor()
        accommodations.enter(self.ctx, self.boss, self.students(0)[0], Entered(kind="human_reader"))
        self.assertIn("1 accommodation without a person", self.missing())
        self.change(proctor=reader)
        resources.save_staff(self.ctx, self.boss, reader, [], ["human_reader"])
        self.assertIn("1 accommodation without a person", self.missing(), "the whole class is not read to")

    def test_rosters_carry_no_accommodation_and_the_confidential_sheet_is_logged(self) -> None:
        student = self.students(0)[0]
        accommodations.enter(self.ctx, self.boss, student, Entered(kind="large_print"))
        with self.ctx.store.read() as db:
            name = db.get_one(Person, student).family
        day = self.day().day
        texts = {}
        for sheet in ("schedule", "rosters", "support"):
            pdf = testingday.print_day(self.ctx, self.boss, self.school, day, sheet)  # type: ignore[arg-type]
            texts[sheet] = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)
        self.assertNotIn(name, texts["schedule"])
        self.assertIn(name, texts["rosters"])
        self.assertNotIn("large print", texts["rosters"])
        self.assertIn("Irregularities", texts["rosters"])
        self.assertIn("large print", texts["support"])
        seat = 1 + sorted(self.names()).index(name)
        self.assertRegex(texts["support"], rf"Accommodations\s+{seat} \S+ {name}")
        self.assertIn("Confidential", texts["support"])
        with self.ctx.store.read() as db:
            logged = db.scalars(select(AuditEntry.after).where(AuditEntry.action == "day.print")).all()
        self.assertEqual([entry["sheet"] for entry in logged], ["rosters", "support"])

    def test_the_record_of_a_day_has_irregularities_and_departures_by_name(self) -> None:
        day = self.day().day
        with self.ctx.store.read() as db:
            session, attempt, name = (
                db.execute(
                    select(Sitting.session_id, Sitting.id, Person.family)
                    .join(Person, Person.id == Sitting.person_id)
                    .join(PlannedSession, PlannedSession.id == Sitting.session_id)
                    .order_by(PlannedSession.start, Sitting.id)
                )
                .tuples()
                .first()
            ) or (0, 0, "")
        room.act(self.ctx, self.boss, session, RoomAction(kind="irregularity", sittings=[attempt], text="Became ill"))

        def leave(db: Session) -> None:
            at = self.ctx.clock()
            for seconds in (40, 80):
                db.add(
                    RoomEvent(session_id=session, sitting_id=attempt, kind="left", words=str(seconds), at=at, until=at)
                )

        self.ctx.store.write(leave)
        pdf = testingday.print_day(self.ctx, self.boss, self.school, day, "record")
        text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)
        for words in ("Confidential. The record of this session.", "Became ill", name, "left the page twice, 2 min"):
            self.assertIn(words, text)

    def test_today_says_the_same_of_today_and_tomorrow_and_nothing_once_all_is_ready(self) -> None:
        def said(actor: Actor | None = None) -> dict[str, str]:
            found = today.waiting_for(self.ctx, actor or self.boss)
            return {w.what: w.path for w in found if w.path.startswith("/calendar/day")}

        self.plan(1, 80)
        day = self.day()
        self.assertEqual(said(), {day.finding.removesuffix("."): f"/calendar/day?school={self.school}&day={day.day}"})
        self.assertEqual(said(self.teacher_of(self.classes[0])), {})
        self.change(proctor=self.proctor(), room="Small")
        tickets.cards(self.ctx, self.boss, self.session, "http://school")
        self.assertEqual(said(), {}, "the other is in three days")

    def test_today_names_the_school_where_a_person_plans_several(self) -> None:
        self.plan(1, 80)
        says = self.day().finding.removesuffix(".")
        self.ctx.store.write(lambda db: db.add(School(source_id="EQ", name="Elder Quay")))
        found = [w.what for w in today.waiting_for(self.ctx, self.boss) if w.path.startswith("/calendar/day")]
        names = {school.id: school.name for school in self.day().schools}
        self.assertEqual(found, [f"{names[self.school]}: {says}"])

    def test_many_sessions_are_looked_through_in_as_many_questions_as_one(self) -> None:
        accommodations.enter(self.ctx, self.boss, self.students(0)[0], Entered(kind="human_reader"))

        def asked() -> int:
            with counted() as said:
                self.day()
            return len(said)

        asked()
        one = asked()
        self.plan(1, 32)
        for at, student in enumerate(self.students(0)[1:3]):
            start = self.start + timedelta(hours=2 * at)
            slot = placing.Slot(start=start, end=start + timedelta(hours=1), room="", proctor_id=None)
            placing.split(self.ctx, self.boss, self.session, [student], slot)
        self.assertEqual((asked(), len(self.day().lines)), (one, 4))

    def test_each_teacher_has_their_week_on_a_page(self) -> None:
        self.change(proctor=self.proctor(), room="Lab")
        self.plan(1, 31)
        day = self.day().day
        pdf = testingday.print_day(self.ctx, self.boss, self.school, day, "week")
        pages = [page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages]
        teachers = [self.teacher_of(klass).name for klass in self.classes]
        with self.ctx.store.read() as db:
            proctor = db.get_one(Person, self.proctor()).name
        for name in {*teachers, proctor}:
            self.assertEqual(sum(page.split("\n")[0].startswith(name) for page in pages), 1)
        own = next(page for page in pages if page.startswith(teachers[0]))
        self.assertIn(f"proctor {proctor}", own)
        self.assertIn("Mathematics 5.1", own)
        with self.assertRaisesRegex(NotFound, "no session is scheduled in this week"):
            testingday.print_day(self.ctx, self.boss, self.school, day + timedelta(days=300), "week")

    def test_two_students_of_one_name_have_their_own_seats(self) -> None:
        first, second = sorted(self.students(0))[:2]

        def alike(db: Session) -> None:
            for id in (first, second):
                person = db.get_one(Person, id)
                person.given, person.family = "Ada", "Aalto"

        self.ctx.store.write(alike)
        accommodations.enter(self.ctx, self.boss, second, Entered(kind="human_reader"))
        support.assign(self.ctx, self.boss, self.session, self.proctor(), "human_reader", [second])
        pdf = testingday.print_day(self.ctx, self.boss, self.school, self.day().day, "support")
        text = PdfReader(io.BytesIO(pdf)).pages[0].extract_text()
        self.assertIn("(human reader): Ada Aalto (seat 2)", text)
        self.assertIn("2 Ada Aalto 5 human reader", text)

    def test_who_may_and_a_day_without_sessions(self) -> None:
        leader = Actor(person_id=self.boss_id, name="", grants=(Grant("leader", self.school),), sign_in_id=0, csrf="")
        day = self.day().day
        testingday.print_day(self.ctx, leader, self.school, day, "rosters")
        with self.assertRaises(NotAllowed):
            testingday.print_day(self.ctx, leader, self.school, day, "support")
        with self.assertRaisesRegex(NotFound, "no session is scheduled on this day"):
            testingday.print_day(self.ctx, self.boss, self.school, day + timedelta(days=300), "schedule")
        empty = testingday.testing_day(self.ctx, self.boss, self.school, day + timedelta(days=300))
        self.assertRegex(empty.finding, "No session is scheduled on")


class NoSchools(WorldCase):
    def test_an_installation_without_schools_says_what_comes_first(self) -> None:
        for page in (
            lambda: testingday.testing_day(self.ctx, self.boss),
            lambda: resources.resources_page(self.ctx, self.boss),
            lambda: board.board_page(self.ctx, self.boss, self.window_id),
        ):
            with self.assertRaisesRegex(NotFound, "import a roster under People first"):
                page()
