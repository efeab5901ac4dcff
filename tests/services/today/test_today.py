"""Today: what is open, what comes next and what waits, each only for who may see it."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.sessions import running, scheduling
from bildung.services.shared.access import Actor, Grant
from bildung.services.sitting import saving, taking
from bildung.services.today import find, page
from bildung.store.models import (
    Federation,
    Item,
    JoinRequest,
    Person,
    PlannedSession,
    RefusedAnswer,
    SchoolClass,
    Sitting,
    Window,
)
from tests.services.sitting.test_sitting import SittingCase
from tests.support import NOON

DAY = timedelta(days=1)


class TodayCase(SittingCase):
    forms = 0

    def setUp(self) -> None:
        super().setUp()
        self.teacher = self.teacher_of(self.class_id())
        self.stranger = Actor(person_id=10**6, name="X", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        self.writer = Actor(person_id=10**6, name="X", grants=(Grant("writer", None),), sign_in_id=0, csrf="")

    def plan(self, after: timedelta, proctor: int | None = None, subject: str = "Mathematics") -> int:
        start = NOON + after
        self.forms += 1
        form = self.make_form(f"Form {self.forms}")
        return scheduling.schedule(
            self.ctx,
            self.boss,
            form,
            self.window_id,
            [self.class_id(subject)],
            "",
            proctor,
            start,
            start + timedelta(hours=1),
        )[0]

    def today(self, actor: Actor | None = None) -> page.TodayPage:
        return page.today_page(self.ctx, actor or self.boss)

    def waits(self, actor: Actor | None = None) -> dict[str, str]:
        return {w.what: w.path for w in page.waiting_for(self.ctx, actor or self.boss)}


class Sessions(TodayCase):
    def test_what_is_open_stands_first_with_its_numbers(self) -> None:
        me = self.join(0)
        taking.hand_in(self.ctx, me)
        found = self.today()
        self.assertEqual([s.session.id for s in found.open], [self.session.id])
        self.assertEqual(found.open[0].session.counts["handed_in"], 1)
        self.assertTrue(
            found.finding.startswith("1 session is open now: 1 of 6 students have submitted."), found.finding
        )

    def test_whoever_is_exempt_is_not_waited_for(self) -> None:
        self.ctx.store.write(lambda db: setattr(db.scalars(select(Sitting)).first(), "state", "exempt"))
        self.assertIn("0 of 5 students", self.today().finding)

    def test_minutes_left_are_the_servers_and_end_at_nothing(self) -> None:
        self.assertEqual([(s.students, s.minutes_left) for s in self.today().open], [(6, 60)])
        self.clock.pass_by(minutes=59, seconds=40)
        self.assertEqual([s.minutes_left for s in self.today().open], [0])
        self.clock.pass_by(minutes=5)  # within the grace after its end
        self.assertEqual([s.minutes_left for s in self.today().open], [0])
        self.plan(DAY)
        self.assertEqual([s.minutes_left for s in self.today().next[0].sessions], [None])

    def test_days_ahead_are_named_in_order_and_end_after_two_weeks(self) -> None:
        late, soon, next_week = self.plan(timedelta(hours=5)), self.plan(DAY), self.plan(4 * DAY)
        self.plan(15 * DAY)
        found = self.today()
        self.assertEqual(
            [(day.name, [s.session.id for s in day.sessions]) for day in found.next],
            [("Today", [late]), ("Tomorrow", [soon]), ("Friday, Nov 27", [next_week])],
        )

    def test_the_day_is_the_one_it_is_at_the_school(self) -> None:
        self.ctx.store.write(lambda db: setattr(db.scalars(select(Federation)).one(), "zone", "Pacific/Auckland"))
        found = self.plan(timedelta(hours=14))  # after midnight by UTC, the afternoon of the same day in Auckland
        self.assertEqual([(day.name, day.sessions[0].session.id) for day in self.today().next], [("Today", found)])
        self.assertEqual(self.today().day, "Tuesday, November 24, 2026")

    def test_a_session_that_is_over_is_gone_and_the_next_one_is_told(self) -> None:
        running.close(self.ctx, self.boss, self.session.id)
        self.assertEqual((self.today().open, self.today().next), ([], []))
        self.assertIn("No session is open or scheduled for the next two weeks.", self.today().finding)
        self.plan(DAY)
        self.assertIn("No session is open. 1 session scheduled tomorrow.", self.today().finding)

    def test_a_teacher_sees_their_own_classes_and_a_stranger_none(self) -> None:
        self.assertEqual([s.session.id for s in self.today(self.teacher).open], [self.session.id])
        self.assertEqual(self.today(self.stranger).open, [])
        found = self.today(self.writer)
        self.assertEqual((found.open, found.finding), ([], "Nothing needs your attention."))

    def test_a_past_window_never_stands_before_the_present_one(self) -> None:
        def past(db: Session) -> None:
            day = NOON.date()
            db.add(old := Window(name="Fall", start=day - 60 * DAY, end=day - 30 * DAY))
            db.flush()
            db.scalars(select(Sitting)).first().state = "absent"  # type: ignore[union-attr]
            db.get_one(PlannedSession, self.session.id).window_id = old.id

        self.ctx.store.write(past)
        self.assertFalse([what for what in self.waits() if "makeup" in what])


class Waiting(TodayCase):
    def test_sessions_without_a_proctor_are_urgent_a_day_before(self) -> None:
        self.plan(3 * DAY, self.teacher.person_id)
        id = self.plan(2 * DAY)
        (one,) = [w for w in page.waiting_for(self.ctx, self.boss) if "proctor" in w.what]
        self.assertEqual(
            (one.what, one.path, one.urgent), ("1 upcoming session without a proctor", f"/sessions/{id}", False)
        )
        self.clock.pass_by(days=1, hours=1)
        (one,) = [w for w in page.waiting_for(self.ctx, self.boss) if "proctor" in w.what]
        self.assertTrue(one.urgent)
        self.assertFalse([w for w in self.waits(self.teacher) if "proctor" in w])

    def test_answers_that_came_too_late_come_first_and_lead_to_their_session(self) -> None:
        me = self.join(0)
        late = self.message(me, 1, "B", 1)
        self.plan(2 * DAY)
        running.close(self.ctx, self.boss, self.session.id)
        saving.save(self.ctx, me, [late])
        with self.ctx.store.read() as db:
            self.assertEqual(len(list(db.scalars(select(RefusedAnswer)))), 1)
        first = page.waiting_for(self.ctx, self.boss)[0]
        self.assertEqual(
            (first.what, first.path),
            ("Answers of 1 student arrived after the session closed", f"/sessions/{self.session.id}"),
        )
        self.assertEqual(list(self.waits(self.stranger)), [])

    def test_join_requests_and_absences_are_counted_by_where_they_are_settled(self) -> None:
        def work(db: Session) -> None:
            for at, state in enumerate(("waiting", "waiting", "refused")):
                asked = {"given": "A", "family": "B", "at": self.clock(), "state": state, "ticket_hash": f"t{at}"}
                db.add(JoinRequest(class_id=self.class_id(), **asked))
            for sitting in list(db.scalars(select(Sitting)))[:2]:
                sitting.state = "absent"

        with self.ctx.store.read() as db:
            window = db.get_one(Window, self.window_id).name
            title = db.get_one(SchoolClass, self.class_id()).title
        self.ctx.store.write(work)
        waits = self.waits()
        self.assertEqual(waits[f"2 join requests for {title}"], f"/people/classes/{self.class_id()}")
        self.assertEqual(
            waits[f"2 tests not scheduled in {window}, all after an absence"],
            f"/sessions/makeups?window={self.window_id}",
        )


class Finding(TodayCase):
    def found(self, text: str, actor: Actor | None = None) -> list[tuple[str, str]]:
        return [(f.kind, f.label) for f in find.find_anything(self.ctx, actor or self.boss, text)]

    def name(self, at: int = 0) -> str:
        with self.ctx.store.read() as db:
            person = db.scalars(select(Person).where(Person.code == self.codes[at])).one()
            return f"{person.given} {person.family}"

    def test_a_student_is_found_by_name_and_marked_so_that_the_name_can_be_hidden(self) -> None:
        (found,) = [f for f in find.find_anything(self.ctx, self.boss, self.name()) if f.kind == "person"]
        self.assertEqual((found.label, found.student), (self.name(), True))
        self.assertTrue(found.path.startswith("/people/"))

    def test_a_teacher_finds_their_students_and_a_stranger_nobody(self) -> None:
        self.assertIn(("person", self.name()), self.found(self.name(), self.teacher))
        self.assertNotIn(("person", self.name()), self.found(self.name(), self.stranger))
        self.assertEqual([f for f in self.found(self.session.klass, self.stranger) if f[0] in ("class", "session")], [])

    def test_classes_tests_items_and_sessions_are_found_by_words_in_any_order(self) -> None:
        klass, form = self.session.klass, self.session.form
        words = " ".join(reversed(f"{klass} {form}".split()))
        self.assertIn(("session", f"{klass}, {form}"), self.found(words))
        self.assertIn(("class", klass), self.found(klass.lower()))
        self.assertIn(("test", form), self.found(form.upper()))
        self.assertIn(("session", f"{klass}, {form}"), self.found(self.session.code.lower()))
        with self.ctx.store.read() as db:
            code = db.scalars(select(Item.code)).first() or ""
        self.assertIn(("item", code), self.found(code))

    def test_too_little_half_a_line_and_wild_signs_find_nothing_and_break_nothing(self) -> None:
        for text in ("", " a ", "%%", "__", "a OR (", '"', "\x00\x00", "x" * 500):
            self.assertEqual(self.found(text), [], text)

    def test_no_more_than_a_few_of_each(self) -> None:
        kinds = [kind for kind, _ in self.found("ma")]
        self.assertLessEqual(max((kinds.count(kind) for kind in kinds), default=0), find.MOST)
