"""Accommodations by subject, by a case manager, approved, ending, and provided or not at the session."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from bildung.services.door import signin
from bildung.services.people import accommodations, directory, groups, membership
from bildung.services.people.accommodations import Entered
from bildung.services.sessions import listing, provided
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.sitting import taking
from bildung.services.today import page
from bildung.store.models import Accommodation, GroupMember, Person, Role, Window
from tests.support import NOON, WorldCase


class AccommodationCase(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=6, items=3).session
        with self.ctx.store.read() as db:
            self.students = list(db.scalars(select(Person).where(Person.kind == "student").order_by(Person.source_id)))

    def enter(self, at: int, kind: str, actor: Actor | None = None, **values: object) -> None:
        entered = Entered(kind=kind, **values)  # type: ignore[arg-type]
        accommodations.enter(self.ctx, actor or self.boss, self.students[at].id, entered)

    def line(self, at: int) -> listing.SittingLine:
        found = listing.get_session(self.ctx, self.boss, self.session.id).sittings
        return next(s for s in found if s.person == self.students[at].id)

    def staff(self, role: str) -> Actor:
        def add(db: Session) -> int:
            person = Person(source_id=f"local:{role}", given="Odile", family=role, kind="staff", username=role)
            db.add(person)
            db.flush()
            db.add(Role(person_id=person.id, role=role))
            return person.id

        return Actor(person_id=self.ctx.store.write(add), name=role, grants=(Grant(role, None),), sign_in_id=0, csrf="")


class AtTheSession(AccommodationCase):
    def test_each_holds_for_its_subject_and_kind_of_test(self) -> None:
        self.enter(0, "read_aloud", subject="Reading")
        self.enter(0, "extra_time", value="2", test_kind="unit")
        self.enter(1, "read_aloud", subject="Mathematics")
        self.assertEqual([self.line(at).needs for at in (0, 1)], ["", "text-to-speech"])
        told = directory.get_person(self.ctx, self.boss, self.students[0].id)
        self.assertEqual(told.needs_said, "extended time × 2, text-to-speech")
        self.assertEqual(
            [(one.says, one.tests) for one in told.accommodations],
            [("text-to-speech", "all tests in Reading"), ("extended time × 2", "unit tests")],
        )

    def test_without_a_limit_a_student_works_to_the_end_of_the_school_day(self) -> None:
        self.enter(0, "extra_time", value="unlimited")
        token = signin.sign_in_student(self.ctx, self.session.code, self.students[0].code or "", "here")
        paper = taking.paper(self.ctx, signin.sitter_of(self.ctx, token.secret))
        self.assertEqual(paper.end, self.session.start + timedelta(hours=8))
        self.clock.now = NOON + timedelta(hours=6)
        self.assertEqual(listing.get_session(self.ctx, self.boss, self.session.id).session.phase, "open")

    def test_a_calculator_is_on_the_device_of_who_has_it(self) -> None:
        self.enter(0, "calculator")
        tools = []
        for at in (0, 1):
            token = signin.sign_in_student(self.ctx, self.session.code, self.students[at].code or "", "here")
            tools.append(taking.paper(self.ctx, signin.sitter_of(self.ctx, token.secret)).tools)
        self.assertEqual(tools, [["calculator"], []])

    def test_one_that_ended_yesterday_or_begins_tomorrow_is_not_given(self) -> None:
        today = self.session.start.date()
        self.enter(0, "breaks", until=today - timedelta(days=1))
        self.enter(0, "large_print", start=today + timedelta(days=1))
        self.enter(0, "small_group", start=today, until=today)
        self.assertEqual(self.line(0).needs, "small group")

    def test_offered_used_or_refused_is_kept_and_can_be_taken_back(self) -> None:
        self.enter(0, "breaks")
        sitting = self.line(0).id
        for outcome in ("offered", "refused", ""):
            provided.record(self.ctx, self.boss, self.session.id, sitting, "breaks", outcome)
            self.assertEqual([(p.says, p.outcome) for p in self.line(0).provided], [("breaks", outcome)])
        for kind, outcome, said in (("scribe", "used", "does not have"), ("breaks", "loved", "offered, used, refused")):
            with self.assertRaisesRegex(Invalid, said):
                provided.record(self.ctx, self.boss, self.session.id, sitting, kind, outcome)
        provided.record(self.ctx, self.boss, self.session.id, sitting, "breaks", "used")
        (row,) = directory.get_person(self.ctx, self.boss, self.students[0].id).accommodations
        accommodations.end(self.ctx, self.boss, row.id)
        self.assertEqual(
            [(p.kind, p.outcome) for p in self.line(0).provided], [("breaks", "used")], "it stays on record"
        )
        with self.assertRaises((NotFound, NotAllowed)):
            provided.record(self.ctx, self.staff("writer"), self.session.id, sitting, "breaks", "used")

    def test_before_the_session_nothing_was_offered(self) -> None:
        self.enter(0, "breaks")
        self.clock.now = self.session.start - timedelta(minutes=1)
        with self.assertRaisesRegex(Invalid, "has not started"):
            provided.record(self.ctx, self.boss, self.session.id, self.line(0).id, "breaks", "offered")


class CaseManagers(AccommodationCase):
    def setUp(self) -> None:
        super().setUp()
        self.manager = self.staff("specialist")
        accommodations.set_case_manager(self.ctx, self.boss, self.students[0].id, self.manager.person_id)

    def test_they_enter_for_their_students_and_it_holds_once_approved(self) -> None:
        self.enter(0, "breaks", self.manager, source="iep")
        with self.assertRaises(NotFound):
            self.enter(1, "breaks", self.manager)
        self.assertEqual(self.line(0).needs, "")
        (waiting,) = accommodations.page(self.ctx, self.boss).waiting
        self.assertEqual(
            (waiting.entered_by, waiting.source_says, waiting.approved), ("Odile specialist", "IEP", False)
        )
        told = [w.what for w in page.waiting_for(self.ctx, self.boss)]
        self.assertIn("1 accommodation to approve", told)
        with self.assertRaises(NotAllowed):
            accommodations.approve(self.ctx, self.manager, [waiting.id])
        accommodations.approve(self.ctx, self.boss, [waiting.id])
        self.assertEqual(self.line(0).needs, "breaks")
        accommodations.change(self.ctx, self.manager, waiting.id, Entered(kind="extra_time", value="1.5"))
        self.assertEqual(self.line(0).needs, "breaks", "what holds goes on holding until the change is approved")
        with self.assertRaisesRegex(Conflict, "another change of this accommodation waits"):
            accommodations.change(self.ctx, self.manager, waiting.id, Entered(kind="scribe"))
        (change,) = accommodations.page(self.ctx, self.boss).waiting
        self.assertEqual((change.says, change.replaces), ("extended time × 1.5", "breaks"))
        accommodations.approve(self.ctx, self.boss, [change.id])
        self.assertEqual(self.line(0).needs, "extended time × 1.5")
        noted = Entered(kind="extra_time", value="1.5", source="504", note="by letter")
        accommodations.change(self.ctx, self.manager, change.id, noted)
        self.assertEqual(self.line(0).needs, "extended time × 1.5", "a note needs no approval")
        self.assertEqual(accommodations.page(self.ctx, self.boss).waiting, [])

    def test_declined_it_is_gone_and_the_reason_is_kept(self) -> None:
        self.enter(0, "breaks", self.manager)
        (waiting,) = accommodations.page(self.ctx, self.boss).waiting
        with self.assertRaisesRegex(Invalid, "say why"):
            accommodations.decline(self.ctx, self.boss, waiting.id, " ")
        accommodations.decline(self.ctx, self.boss, waiting.id, "not in the IEP")
        self.assertEqual(accommodations.page(self.ctx, self.boss).waiting, [])
        with self.assertRaisesRegex(NotFound, "is gone"):
            accommodations.approve(self.ctx, self.boss, [waiting.id])

    def test_they_see_their_students_while_they_are_theirs(self) -> None:
        found, total = directory.list_people(self.ctx, self.manager)
        self.assertEqual((total, found[0].id), (1, self.students[0].id))
        self.assertTrue(directory.get_person(self.ctx, self.manager, self.students[0].id).may_enter)
        accommodations.set_case_manager(self.ctx, self.boss, self.students[0].id, None)
        self.assertEqual(directory.list_people(self.ctx, self.manager)[1], 0)
        with self.assertRaises(NotFound):
            self.enter(0, "breaks", self.manager)

    def test_only_staff_manage_cases(self) -> None:
        with self.assertRaisesRegex(Invalid, "active member of the staff"):
            accommodations.set_case_manager(self.ctx, self.boss, self.students[0].id, self.students[1].id)


class Ending(AccommodationCase):
    def setUp(self) -> None:
        super().setUp()
        self.today = self.session.start.date()
        self.ctx.store.write(
            lambda db: db.execute(update(Window).values(start=self.today, end=self.today + timedelta(days=10)))
        )

    def test_what_ends_inside_the_window_is_said_unless_the_same_follows(self) -> None:
        for at in (0, 1):
            self.enter(at, "breaks", until=self.today + timedelta(days=2))
        self.enter(1, "breaks", start=self.today + timedelta(days=3))
        found = accommodations.page(self.ctx, self.boss)
        self.assertEqual([one.person for one in found.lapsing], [self.students[0].id])
        self.assertRegex(found.lapsing_says, "^1 accommodation ends before .+ does$")
        self.assertTrue(any("1 accommodation ends before" in w.what for w in page.waiting_for(self.ctx, self.boss)))

    def test_ended_it_stays_on_record_and_taken_off_the_same_day_it_is_gone(self) -> None:
        self.enter(0, "breaks")
        self.enter(1, "breaks")
        with self.ctx.store.read() as db:
            first, second = db.scalars(select(Accommodation.id).order_by(Accommodation.id))
        accommodations.end(self.ctx, self.boss, first)
        self.clock.pass_by(days=3)
        accommodations.end(self.ctx, self.boss, second)
        with self.ctx.store.read() as db:
            (row,) = db.scalars(select(Accommodation))
            self.assertEqual((row.id, row.until), (second, self.clock.now.date() - timedelta(days=1)))

    def test_groups_by_rule_follow_on_the_day(self) -> None:
        id = groups.make_group(self.ctx, self.boss, "Breaks", "breaks", None, [])
        self.enter(0, "breaks", until=self.today + timedelta(days=1))
        self.enter(1, "breaks", start=self.today + timedelta(days=2))
        found = []
        for _ in range(3):
            membership.new_day(self.ctx)
            with self.ctx.store.read() as db:
                members = set(db.scalars(select(GroupMember.person_id).where(GroupMember.group_id == id)))
                found.append([self.students.index(s) for s in self.students if s.id in members])
            self.clock.pass_by(days=1)
        self.assertEqual(found, [[0], [0], [1]])
