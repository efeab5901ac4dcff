"""Sessions stay changeable: one or many, with what speaks against it named, and nothing half done."""

from __future__ import annotations

from datetime import date, time, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from bildung.core.participation.standing import Reason, Standing
from bildung.services.calendar.years import close_days
from bildung.services.participation import windowdates
from bildung.services.participation.windowdates import WindowDatesWish
from bildung.services.planning import bells, resources
from bildung.services.planning.bells import Bells, BlockLine, DayTypeLine
from bildung.services.sessions import changing, ending, listing, makeups, placing, proctoring, running, scheduling
from bildung.services.sessions.changing import SessionChange
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound, Problem
from bildung.store.models import AuditEntry, Enrolment, Form, Person, School, SchoolClass
from tests.services.participation.support import HOUR, OwedCase

ZONE = ZoneInfo("Europe/Berlin")


class ChangeCase(OwedCase):
    def line(self, session: int) -> listing.SessionLine:
        return listing.get_session(self.ctx, self.boss, session).session

    def change(self, *sessions: int, why: str | None = None, **wish: object) -> None:
        revisions = {id: self.line(id).revision for id in sessions}
        changing.change(self.ctx, self.boss, revisions, SessionChange(**wish), why)  # type: ignore[arg-type]

    def proctors(self) -> list[int]:
        with self.ctx.store.read() as db:
            return list(
                db.scalars(select(Person.id).where(Person.source_id.startswith("HM-P")).order_by(Person.source_id))
            )


class Changing(ChangeCase):
    def test_time_room_proctor_and_words_of_many_at_once(self) -> None:
        one, two = self.plan(0, 5), self.plan(1, 30)
        before = [self.line(id).start for id in (one, two)]
        self.change(one, two, shift=30, room=" Library ", title="Math check", instructions="Bring a pencil.")
        for id, start in zip((one, two), before, strict=True):
            line = self.line(id)
            self.assertEqual((line.start - start, line.room, line.title), (HOUR / 2, "Library", "Math check"))
            self.assertEqual(line.revision, 2)
        with self.ctx.store.read() as db:
            entry = db.scalars(select(AuditEntry).where(AuditEntry.action == "session.change")).first()
            assert entry is not None
            self.assertEqual(sorted(entry.after), ["end", "instructions", "room", "start", "title"])

    def test_two_people_at_once_and_one_of_many_refused_leaves_all_as_they_were(self) -> None:
        one, two = self.plan(0, 5), self.plan(1, 30)
        seen = {id: self.line(id).revision for id in (one, two)}
        self.change(one, room="B2")
        with self.assertRaisesRegex(Conflict, "someone changed the session of Mathematics 5.1 in the meantime"):
            changing.change(self.ctx, self.boss, seen, SessionChange(room="C3"))
        running.close(self.ctx, self.boss, two)
        with self.assertRaisesRegex(Conflict, "Mathematics 5.2 is closed; reopen it first"):
            self.change(one, two, room="C3")
        self.assertEqual(self.line(one).room, "B2")

    def test_while_it_runs_only_its_end_moves_and_not_into_the_past(self) -> None:
        session = self.plan(0, -0.5)
        self.state(session, self.students(0)[0], "answering")
        end = self.line(session).end
        self.change(session, end=end + HOUR)
        self.assertEqual(self.line(session).end, end + HOUR)
        with self.assertRaisesRegex(Conflict, "only the end can change"):
            self.change(session, start=self.clock.now + HOUR)
        with self.assertRaisesRegex(Invalid, "the new end lies ahead"):
            self.change(session, end=self.clock.now - timedelta(minutes=5))
        with self.assertRaisesRegex(Conflict, "1 student has started"):
            self.change(session, form_id=self.form + 99)

    def test_a_proctor_is_in_one_place_at_a_time(self) -> None:
        proctor = self.proctors()[0]
        one, two = self.plan(0, 5), self.plan(1, 5)
        self.change(one, proctor=proctor)
        with self.assertRaisesRegex(Conflict, "proctors A form in"):
            self.change(two, proctor=proctor)
        self.change(one, proctor=0)
        self.change(two, proctor=proctor)
        self.assertEqual((self.line(one).proctor_id, self.line(two).proctor_id), (None, proctor))

    def test_what_speaks_against_it_is_named_and_needs_a_reason_that_is_kept(self) -> None:
        session = self.plan(0, 5)
        saturday = self.clock.now + timedelta(days=5 - self.clock.now.weekday())
        close_days(self.ctx, self.boss, "Founders Day", date(2026, 11, 30), date(2026, 11, 30), None)
        founders = self.clock.now.replace(month=11, day=30)
        outside = self.clock.now.replace(month=12, day=22)
        for day, says in ((saturday, "not a school day"), (founders, "closed: Founders Day"), (outside, "outside the")):
            with self.assertRaisesRegex(Conflict, says) as caught:
                self.change(session, start=day, end=day + HOUR, why="")
            self.assertEqual(caught.exception.place, "why")
        self.change(session, start=outside, end=outside + HOUR, why="the bus broke down")
        with self.ctx.store.read() as db:
            entry = db.scalars(select(AuditEntry).where(AuditEntry.why == "the bus broke down")).one()
            self.assertRegex(entry.after["against"][0], "outside the window Fall")

    def test_a_room_that_is_taken_is_named(self) -> None:
        one, two = self.plan(0, 5), self.plan(1, 5)
        self.change(one, room="A1")
        with self.assertRaisesRegex(Conflict, "Room A1 is taken by Mathematics 5.1 until"):
            self.change(two, room="A1", why="")

    def test_a_student_who_tests_elsewhere_at_that_time_is_named_also_at_another_school(self) -> None:
        student = self.students(0)[0]

        def attends(db: Session) -> int:
            school = School(source_id="EQ", name="Elder Quay")
            db.add(school)
            db.flush()
            like = db.get_one(SchoolClass, self.classes[0])
            klass = SchoolClass(
                source_id="EQ-1",
                title="Mathematics EQ",
                school_id=school.id,
                subject="Mathematics",
                grade="5",
                year_id=like.year_id,
            )
            db.add(klass)
            db.flush()
            db.add(Enrolment(class_id=klass.id, person_id=student, role="student"))
            return klass.id

        there = self.ctx.store.write(attends)
        start = self.clock.now + 5 * HOUR
        other = self.make_form("Another test")
        scheduling.schedule(self.ctx, self.boss, other, self.window_id, [there], "", None, start, start + HOUR)
        session = self.plan(0, 7)
        with self.ctx.store.read() as db:
            name = db.get_one(Person, student).name
        with self.assertRaisesRegex(Conflict, f"{name} takes Another test with Mathematics EQ at Elder Quay until"):
            self.change(session, start=start, end=start + HOUR, why="")
        self.change(session, start=start, end=start + HOUR, why="the other school knows")

    def test_a_wrong_test_is_named_before_anything_is_scheduled(self) -> None:
        with self.ctx.store.read() as db:
            reading = self.class_id("Reading")
            self.assertIsNotNone(db.get(Person, self.boss_id))
        start = self.clock.now + 5 * HOUR
        with self.assertRaisesRegex(Conflict, "is a class in reading; A form is a test in mathematics"):
            scheduling.schedule(
                self.ctx,
                self.boss,
                self.form,
                self.window_id,
                [reading],
                "",
                None,
                start,
                start + HOUR,
                why="",
            )
        self.assertEqual(listing.list_sessions(self.ctx, self.boss), [])

    def test_only_who_plans_changes(self) -> None:
        session = self.plan(0, 5)
        teacher = self.teacher_of(self.class_id("Reading"))
        with self.assertRaises((NotAllowed, NotFound)):
            changing.change(self.ctx, teacher, {session: 1}, SessionChange(room="X"))


class ByName(ChangeCase):
    """A session of some students stands beside what their class takes."""

    def own(self, hours: float = 5, **more: object) -> int:
        session = self.plan(0, hours)
        start = self.clock.now + 26 * HOUR
        slot = placing.Slot(start=start, end=start + HOUR, room="Library", proctor_id=None)
        return placing.split(self.ctx, self.boss, session, self.students(0)[:2], slot, **more)  # type: ignore[arg-type]

    def test_it_moves_to_a_time_at_which_the_class_is_busy(self) -> None:
        made = self.own()
        busy = self.line(self.plan_of(0))
        self.change(made, start=busy.start, end=busy.end)
        self.assertEqual(self.line(made).start, busy.start)

    def plan_of(self, at: int) -> int:
        found = [s for s in listing.list_sessions(self.ctx, self.boss) if not s.by_name]
        return next(s.id for s in found if int(s.class_id) == self.classes[at])

    def test_two_tests_in_one_room_have_one_proctor_but_two_rooms_have_not(self) -> None:
        proctor, made = self.proctors()[0], self.own()
        line = self.line(made)
        other = scheduling.schedule(
            self.ctx,
            self.boss,
            self.form,
            self.window_id,
            [self.classes[1]],
            "Library",
            None,
            line.start,
            line.end,
        )[0]
        self.change(made, proctor=proctor)
        self.change(other, proctor=proctor)
        with self.assertRaisesRegex(Conflict, "proctors A form in Library at that time"):
            self.change(other, room="Gym", proctor=proctor, start=line.start + HOUR / 2, end=line.end + HOUR / 2)

    def test_dates_of_their_own_hold_for_students_who_have_them(self) -> None:
        start = self.clock.now.replace(month=12, day=22)
        slot = placing.Slot(start=start, end=start + HOUR, room="", proctor_id=None)
        session, (student, other, *_) = self.plan(0, 5), self.students(0)
        with self.assertRaisesRegex(Conflict, "outside the window"):
            placing.split(self.ctx, self.boss, session, [student], slot, "")
        wish = WindowDatesWish(
            window_id=self.window_id, person_id=student, start=date(2026, 12, 1), end=date(2026, 12, 23), why="in Oslo"
        )
        windowdates.put_dates(self.ctx, self.boss, wish)
        with self.assertRaisesRegex(Conflict, "outside the window"):
            placing.split(self.ctx, self.boss, session, [student, other], slot, "")
        made = placing.split(self.ctx, self.boss, session, [student], slot, "")
        self.assertEqual(list(self.listed(made)), [student])

    def test_bad_input_is_named_and_nothing_is_made(self) -> None:
        session = self.plan(0, 5)
        past = placing.Slot(start=self.clock.now - 3 * HOUR, end=self.clock.now - 2 * HOUR, room="", proctor_id=None)
        for people, slot, says in (
            (
                [],
                placing.Slot(start=self.clock.now + HOUR, end=self.clock.now + 2 * HOUR, room="", proctor_id=None),
                "1 to 200",
            ),
            (self.students(0)[:1], past, "lies ahead"),
            (
                [10**6],
                placing.Slot(start=self.clock.now + HOUR, end=self.clock.now + 2 * HOUR, room="", proctor_id=None),
                "no such student",
            ),
        ):
            with self.assertRaisesRegex(Problem, says):
                placing.split(self.ctx, self.boss, session, people, slot)
        with self.assertRaisesRegex(Invalid, "another session of this window that gives the same test"):
            placing.merge(self.ctx, self.boss, session, session)
        self.assertEqual(len(listing.list_sessions(self.ctx, self.boss)), 1)
        self.assertEqual(len(self.listed(session)), 5)


class Canceling(ChangeCase):
    def test_what_was_answered_stays_and_the_test_is_owed_again(self) -> None:
        session = self.plan(0, -0.5)
        first, second = self.students(0)[:2]
        self.state(session, first, "handed_in")
        self.state(session, second, "answering")
        changing.cancel(self.ctx, self.boss, [session], "fire drill")
        standings = {o.person: (o.owed.standing, o.owed.reason) for o in self.owed()}
        self.assertEqual(standings[first][0], Standing.SUBMITTED)
        self.assertEqual(standings[second], (Standing.NOT_SCHEDULED, Reason.INTERRUPTED))
        line = self.line(session)
        self.assertEqual((line.phase, line.why), ("canceled", "fire drill"))
        with self.assertRaisesRegex(Conflict, "was canceled"):
            self.change(session, room="X")
        again = self.plan(0, 24)
        self.assertEqual(len(self.listed(again)), 4, "all but the one who has submitted")

    def test_a_test_that_was_scheduled_by_mistake_is_not_owed(self) -> None:
        changing.cancel(self.ctx, self.boss, [self.plan(0, 5)], "wrong class", still_owed=False)
        self.assertEqual(self.owed(), [])

    def test_it_needs_a_reason(self) -> None:
        session = self.plan(0, 5)
        with self.assertRaises(Invalid):
            changing.cancel(self.ctx, self.boss, [session], "  ")
        self.assertEqual(self.line(session).phase, "ahead")


class Making(ChangeCase):
    """Makeups of absent students."""

    def setUp(self) -> None:
        super().setUp()
        self.sessions = [self.plan(0, -1.5), self.plan(1, -1.5)]
        self.absent = [self.students(0)[0], *self.students(1)[:2]]
        for at, session in enumerate(self.sessions):
            for person in self.students(at):
                if person in self.absent:
                    self.mark(session, person, "absent")
                else:
                    self.state(session, person, "handed_in")
            running.close(self.ctx, self.boss, session)

    def test_everybody_who_was_absent_in_one_session_that_is_scheduled_as_proposed(self) -> None:
        found = makeups.propose(self.ctx, self.boss, self.window_id)
        self.assertRegex(found.finding, "3 students still owe 3 tests. 1 makeup would cover all")
        (one,) = found.makeups
        (test,) = one.tests
        self.assertEqual({s.person for s in test.students}, set(self.absent))
        self.assertEqual((one.students, {s.why for s in test.students}), (3, {"absent"}))
        self.assertGreater(one.start, self.clock.now)
        self.assertTrue(one.room and one.proctor)
        made = makeups.schedule_makeups(
            self.ctx,
            self.boss,
            [
                makeups.MakeupWish(
                    session=test.session,
                    people=[s.person for s in test.students],
                    slot=makeups.placing.Slot(start=one.start, end=test.end, room=one.room, proctor_id=one.proctor),
                )
            ],
        )
        self.assertEqual(sorted(self.listed(made[0])), sorted(self.absent))
        self.assertEqual(makeups.propose(self.ctx, self.boss, self.window_id).makeups, [])

    def test_rooms_that_are_entered_and_hours_of_staff_hold(self) -> None:
        with self.ctx.store.read() as db:
            school = db.get_one(SchoolClass, self.classes[0]).school_id
            staff = list(db.scalars(select(Person.id).where(Person.kind == "staff", Person.school_id == school)))
        resources.save_rooms(self.ctx, self.boss, school, [resources.RoomLine(name="Nook", seats=2)], [])
        never = [resources.Available(weekday=6, start=time(8), end=time(9))]
        for person in staff[1:]:
            resources.save_staff(self.ctx, self.boss, person, never, [])
        early = BlockLine(name="1", start=time(7, 50), end=time(8, 40))
        days = Bells(
            types=[DayTypeLine(name="Day", blocks=[early])],
            cycle=True,
            pattern=["Day"],
            first=self.clock.now.date(),
            shifts=True,
            changes=[],
        )
        bells.save_bells(self.ctx, self.boss, school, days)
        found = makeups.propose(self.ctx, self.boss, self.window_id)
        self.assertEqual([one.students for one in found.makeups], [2, 1])
        self.assertEqual({one.start.astimezone(ZONE).time() for one in found.makeups}, {early.start})
        self.assertEqual({one.room for one in found.makeups}, {"Nook"})
        self.assertLessEqual({one.proctor for one in found.makeups}, {staff[0], None})
        later = Bells(
            **{**vars(days), "first": self.clock.now.date() + timedelta(days=90), "types": self.kinds(school)}
        )
        bells.save_bells(self.ctx, self.boss, school, later)
        found = makeups.propose(self.ctx, self.boss, self.window_id)
        self.assertEqual(found.left, [], "before a cycle begins, makeups are at the times at which the school tests")

    def kinds(self, school: int) -> list[DayTypeLine]:
        return resources.resources_page(self.ctx, self.boss, school).bells.types

    def test_of_one_student(self) -> None:
        found = makeups.propose(self.ctx, self.boss, self.window_id, [self.absent[0]])
        self.assertEqual([s.person for m in found.makeups for t in m.tests for s in t.students], [self.absent[0]])

    def test_a_window_without_days_left_says_so(self) -> None:
        self.clock.pass_by(days=60)
        found = makeups.propose(self.ctx, self.boss, self.window_id)
        self.assertEqual((found.makeups, len(found.left)), ([], 3))
        self.assertRegex(found.finding, "3 do not fit into the days left")


class Covering(ChangeCase):
    def test_a_proctor_is_out_and_others_take_their_sessions(self) -> None:
        ill, other = self.proctors()
        one, two = self.plan(0, 5), self.plan(1, 7)
        self.change(one, proctor=ill)
        self.change(two, proctor=ill)
        day = self.clock.now.date()
        found = proctoring.suggest(self.ctx, self.boss, ill, day)
        self.assertRegex(found.finding, "proctors 2 sessions on .*Someone is free for each")
        self.assertNotIn(ill, [c.proctor for c in found.covers])
        done = proctoring.reassign(self.ctx, self.boss, ill, day, {c.session: c.proctor for c in found.covers})
        self.assertEqual(done, 2)
        self.assertNotIn(ill, [self.line(id).proctor_id for id in (one, two)])
        with self.assertRaises(NotFound):
            proctoring.suggest(self.ctx, self.boss, ill, day)
        self.assertTrue(other)

    def test_who_has_another_proctor_by_now_is_not_overwritten(self) -> None:
        ill, other = self.proctors()
        session = self.plan(0, 5)
        self.change(session, proctor=ill)
        found = proctoring.suggest(self.ctx, self.boss, ill, self.clock.now.date())
        self.change(session, proctor=other)
        with self.assertRaisesRegex(Conflict, "has another proctor by now"):
            proctoring.reassign(
                self.ctx, self.boss, ill, self.clock.now.date(), {c.session: c.proctor for c in found.covers}
            )


class Ending(ChangeCase):
    """A school or a grade tests on other days, or stops early."""

    def school(self) -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(School.id)).one()

    def test_dates_of_a_school_go_before_those_of_the_window(self) -> None:
        session = self.plan(0, 5)
        outside = self.clock.now.replace(month=12, day=22)
        wish = WindowDatesWish(
            window_id=self.window_id, school_id=self.school(), start=date(2026, 9, 14), end=date(2026, 12, 23)
        )
        windowdates.put_dates(self.ctx, self.boss, wish)
        self.change(session, start=outside, end=outside + HOUR, why="")
        (line,) = windowdates.list_dates(self.ctx, self.boss, self.window_id)
        self.assertEqual((line.whose, line.end), ("Hollin Moor", date(2026, 12, 23)))
        windowdates.drop_dates(self.ctx, self.boss, line.id)
        with self.assertRaisesRegex(Conflict, "outside the window"):
            self.change(session, start=outside + HOUR, end=outside + 2 * HOUR, why="")

    def test_ending_early_cancels_what_has_not_begun_and_names_who_stays_untested(self) -> None:
        today = self.clock.now.date()
        done, ahead = self.plan(0, -0.5), self.plan(1, 30)
        for person in self.students(0):
            self.state(done, person, "handed_in")
        found = ending.end_early(self.ctx, self.boss, self.window_id, today, self.school(), "", "graduation")
        self.assertEqual(found.finding, "1 session canceled. 5 tests will stay untested.")
        self.assertEqual({u.person for u in found.untested}, set(self.students(1)))
        self.assertEqual((self.line(ahead).phase, self.line(ahead).why), ("canceled", "graduation"))
        self.assertEqual(self.line(done).phase, "open")
        with self.assertRaisesRegex(Invalid, "choose a school or a grade"):
            ending.end_early(self.ctx, self.boss, self.window_id, today, None, "", "graduation")


class ByTeachers(ChangeCase):
    """Teachers plan tests of their own for their own classes, and no benchmark."""

    def setUp(self) -> None:
        super().setUp()
        self.teacher = self.teacher_of(self.classes[0])

    def give(self, klass: int, **more: object) -> int:
        start = self.clock.now + 5 * HOUR
        return scheduling.schedule(
            self.ctx,
            self.teacher,
            self.form,
            self.window_id,
            [klass],
            "",
            None,
            start,
            start + HOUR,
            **more,  # type: ignore[arg-type]
        )[0]

    def other_class(self) -> int:
        return self.class_id("Reading")

    def test_own_classes_with_own_days_and_changes(self) -> None:
        self.assertEqual([f["name"] for f in scheduling.choices(self.ctx, self.teacher)["forms"]], ["A form"])
        session = self.give(self.classes[0])
        changing.change(self.ctx, self.teacher, {session: 1}, SessionChange(instructions="Open book."))
        line = listing.get_session(self.ctx, self.teacher, session).session
        self.assertEqual((line.instructions, line.may_plan), ("Open book.", True))
        week = self.give_open(self.classes[0])
        self.assertEqual(listing.get_session(self.ctx, self.teacher, week).session.phase, "ahead")

    def give_open(self, klass: int) -> int:
        """Open for some days, beside what else the class takes."""
        changing.cancel(self.ctx, self.boss, [s.id for s in listing.list_sessions(self.ctx, self.boss)], "x", False)
        start = self.clock.now + 3 * HOUR
        return scheduling.schedule(
            self.ctx, self.teacher, self.form, self.window_id, [klass], "", None, start, start + 100 * HOUR, why=""
        )[0]

    def test_a_co_teacher_sees_and_changes_all_of_the_class_until_they_are_taken_off(self) -> None:
        session = self.give(self.classes[0])

        def joins(db: Session) -> int:
            person = Person(source_id="local:co", given="Co", family="Teacher", kind="staff", username="co")
            db.add(person)
            db.flush()
            db.add(Enrolment(class_id=self.classes[0], person_id=person.id, role="teacher"))
            return person.id

        id = self.ctx.store.write(joins)
        co = Actor(person_id=id, name="Co Teacher", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        seen = [listing.get_session(self.ctx, who, session) for who in (self.teacher, co)]
        self.assertEqual([s.code for s in seen[0].sittings], [s.code for s in seen[1].sittings])
        self.assertEqual([(s.may_run, s.may_plan, s.may_judge) for s in seen], [(True, True, True)] * 2)
        changing.change(self.ctx, co, {session: 1}, SessionChange(room="B2"))
        self.assertEqual(listing.get_session(self.ctx, self.teacher, session).session.room, "B2")
        self.ctx.store.write(
            lambda db: db.execute(update(Enrolment).where(Enrolment.person_id == id).values(active=False))
        )
        with self.assertRaises(NotFound):
            listing.get_session(self.ctx, co, session)

    def test_several_classes_with_a_day_each(self) -> None:
        start = self.clock.now + 5 * HOUR
        times = {id: (start + 24 * at * HOUR, start + (24 * at + 1) * HOUR) for at, id in enumerate(self.classes)}
        ids = scheduling.schedule(
            self.ctx,
            self.boss,
            self.form,
            self.window_id,
            self.classes,
            "",
            self.proctors()[0],
            start,
            start + HOUR,
            times=times,
            instructions="Bring a pencil.",
        )
        lines = [self.line(id) for id in ids]
        self.assertEqual([line.start for line in lines], [a for a, _ in times.values()])
        self.assertEqual({line.instructions for line in lines}, {"Bring a pencil."})

    def test_only_students_of_their_own_are_placed(self) -> None:
        session = self.give(self.classes[0])
        stranger = self.stranger()
        with self.assertRaisesRegex(NotFound, "not yours"):
            placing.place(self.ctx, self.teacher, session, [stranger])
        self.assertNotIn(stranger, self.listed(session))

    def stranger(self) -> int:
        """A student of the school who is in no class of this teacher."""

        def work(db: Session) -> int:
            known = db.get_one(Person, self.students(0)[0])
            person = Person(
                source_id="HM-S0999",
                given="Ida",
                family="Elsewhere",
                kind="student",
                grade="5",
                school_id=known.school_id,
            )
            db.add(person)
            db.flush()
            return person.id

        return self.ctx.store.write(work)

    def test_not_for_a_class_of_somebody_else_and_no_benchmark(self) -> None:
        with self.assertRaisesRegex(Invalid, "not there or not yours"):
            self.give(self.other_class())
        self.ctx.store.write(lambda db: db.execute(update(Form).values(secure=True)))
        with self.assertRaisesRegex(Invalid, "choose a published form"):
            self.give(self.classes[0])
        with self.assertRaises((NotAllowed, NotFound)):
            changing.cancel(self.ctx, self.teacher, [self.plan(0, 5)], "not mine to decide")
