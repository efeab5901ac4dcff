"""Each test is owed once, whatever happens to the student and to the sessions."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace
from datetime import timedelta
from unittest import mock

import pypdfium2
from sqlalchemy.orm import Session

from bildung.core.participation.standing import Reason, Standing, count
from bildung.services.door import signin
from bildung.services.participation import exemptions, report
from bildung.services.participation.exemptions import ExemptionWish
from bildung.services.participation.report import owed_lines, participation_page
from bildung.services.participation.requirements import drop_requirement, list_requirements, require
from bildung.services.people.changes import moved
from bildung.services.sessions import changing, listing, placing, running
from bildung.services.shared import settings
from bildung.services.shared.errors import Conflict, Invalid, Problem
from bildung.services.sitting import taking
from bildung.store.models import Group, GroupMember
from tests.services.participation.support import OwedCase


class Moving(OwedCase):
    """A student changes class before, during and after, for each state of both sessions."""

    def test_every_pair_of_states(self) -> None:
        for old, new, did in itertools.product(
            ("ahead", "open", "closed"), ("ahead", "open", "closed"), ("nothing", "answering", "handed_in", "absent")
        ):
            if (old == "ahead" and did in ("answering", "handed_in")) or (old == "closed" and did == "answering"):
                continue
            with self.subTest(old=old, new=new, did=did):
                self.setUp()
                here, there = (self.plan(at, 5 if when == "ahead" else -0.5, 2) for at, when in enumerate((old, new)))
                student = self.students(0)[0]
                if did in ("answering", "handed_in"):
                    self.state(here, student, did)
                elif did == "absent":
                    self.mark(here, student, "absent")
                for session, when in ((here, old), (there, new)):
                    if when == "closed":
                        running.close(self.ctx, self.boss, session)
                self.move(student, 1)
                found = self.of(student)
                if did in ("answering", "handed_in"):
                    wanted = Standing.IN_PROGRESS if did == "answering" else Standing.SUBMITTED
                    self.assertEqual(found.owed.standing, wanted)
                    self.assertEqual(self.open_sessions_of(student), [], "it goes nowhere")
                    self.assertNotIn(student, self.listed(there))
                    if new != "closed":
                        self.assertRegex(self.not_here(there)[student], "taking it in|took it on .* in Mathematics 5.1")
                elif new == "closed":
                    self.assertEqual(found.owed.standing, Standing.NOT_SCHEDULED)
                else:
                    self.assertEqual(
                        (found.owed.standing, self.open_sessions_of(student)), (Standing.SCHEDULED, [there])
                    )
                self.assertEqual(found.klass, "Mathematics 5.2", "it is owed in the class of now")

    def test_who_withdraws_leaves_the_count_and_a_late_arrival_enters_it(self) -> None:
        self.plan(0, 5)
        self.plan(1, 5)
        student = self.students(0)[0]
        self.leave(student)
        self.assertEqual(len(self.owed()), 9)
        self.move(self.students(1)[0], 0)
        self.assertEqual(len(self.owed()), 9)


class Placing(OwedCase):
    """A student takes the test in another session than their class's."""

    def setUp(self) -> None:
        super().setUp()
        self.one, self.two = self.plan(0, 5), self.plan(1, 30)
        self.student = self.students(0)[0]

    def test_one_stroke_takes_them_off_the_class_list_and_another_brings_them_back(self) -> None:
        placing.place(self.ctx, self.boss, self.two, [self.student], "works with Ms. Reyk")
        self.assertNotIn(self.student, self.listed(self.one))
        self.assertIn(self.student, self.listed(self.two))
        self.assertRegex(self.not_here(self.one)[self.student], "takes it on")
        self.assertEqual(self.of(self.student).owed.standing, Standing.SCHEDULED)
        placing.unplace(self.ctx, self.boss, self.two, self.student)
        self.assertEqual(self.open_sessions_of(self.student), [self.one])

    def test_not_twice_and_not_for_who_has_taken_it_or_is_exempt(self) -> None:
        running.close(self.ctx, self.boss, self.plan_now(self.student))
        with self.assertRaisesRegex(Conflict, "submitted this test on .* in Mathematics 5.1"):
            placing.place(self.ctx, self.boss, self.two, [self.student])
        other = self.students(0)[1]
        exemptions.exempt(self.ctx, self.boss, ExemptionWish(people=[other], reason="medical"))
        with self.assertRaisesRegex(Conflict, "is exempt \(medical\)"):
            placing.place(self.ctx, self.boss, self.two, [other])

    def plan_now(self, student: int) -> int:
        """The first session is open, and this student submits."""
        self.clock.pass_by(hours=5.5)
        self.state(self.one, student, "handed_in")
        return self.one

    def test_a_split_and_a_merged_session_hold_the_same_students(self) -> None:
        start = self.clock.now
        self.clock.pass_by(minutes=1)
        slot = placing.Slot(
            start=start.replace(day=start.day + 1),
            end=start.replace(day=start.day + 1, hour=13),
            room="A1",
            proctor_id=None,
        )
        made = placing.split(self.ctx, self.boss, self.one, self.students(0)[:2], slot)
        self.assertEqual(sorted(self.listed(made)), self.students(0)[:2])
        self.assertEqual(sorted(self.listed(self.one)), self.students(0)[2:])
        placing.merge(self.ctx, self.boss, made, self.one)
        self.assertEqual(sorted(self.listed(self.one)), self.students(0))
        self.assertEqual({one.owed.standing for one in self.owed()}, {Standing.SCHEDULED})
        with self.assertRaisesRegex(Conflict, "was canceled"):
            placing.place(self.ctx, self.boss, made, [self.student])


class Exempting(OwedCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.plan(0, 5)
        self.student = self.students(0)[0]

    def give(self, **wish: object) -> int:
        return exemptions.exempt(
            self.ctx,
            self.boss,
            ExemptionWish(people=[self.student], reason="parent refusal", **wish),  # type: ignore[arg-type]
        )[0]

    def test_it_stops_the_list_and_ending_it_puts_the_test_back(self) -> None:
        id = self.give(subject="Mathematics", asked_by="Ms. Vester, by phone", instead="reads in the library")
        self.assertEqual(self.standing(self.student), Standing.EXEMPT)
        self.assertNotIn(self.student, self.listed(self.session))
        self.assertEqual(self.not_here(self.session)[self.student], "exempt: parent refusal")
        exemptions.end_exemption(self.ctx, self.boss, id)
        self.assertEqual(self.standing(self.student), Standing.SCHEDULED)
        with self.assertRaisesRegex(Conflict, "has ended already"):
            exemptions.end_exemption(self.ctx, self.boss, id)

    def test_of_another_subject_or_another_time_it_changes_nothing(self) -> None:
        self.give(subject="Reading")
        self.give(starts=self.clock.now.date() + timedelta(days=3))
        self.assertEqual(self.standing(self.student), Standing.SCHEDULED)

    def test_what_is_submitted_or_in_progress_is_refused_with_its_day(self) -> None:
        self.clock.pass_by(hours=5.2)
        self.state(self.session, self.student, "answering")
        with self.assertRaisesRegex(Conflict, "is taking A form now"):
            self.give()
        self.state(self.session, self.student, "handed_in")
        with self.assertRaisesRegex(Conflict, "submitted A form on"):
            self.give(subject="Mathematics")
        self.give()  # for what else there may be
        self.assertEqual(self.standing(self.student), Standing.SUBMITTED)

    def test_bad_input_is_named(self) -> None:
        with self.assertRaisesRegex(Invalid, "from the district's list"):
            exemptions.exempt(self.ctx, self.boss, ExemptionWish(people=[self.student], reason="no wish to"))
        with self.assertRaisesRegex(Invalid, "choose students, or a group"):
            exemptions.exempt(self.ctx, self.boss, ExemptionWish(reason="medical"))
        with self.assertRaisesRegex(Invalid, "on or after the first"):
            self.give(ends=self.clock.now.date().replace(year=2020))
        self.assertEqual(exemptions.list_exemptions(self.ctx, self.boss), [])


class ExemptingGroups(OwedCase):
    """Whoever is in a group, and follows it."""

    def setUp(self) -> None:
        super().setUp()
        self.session = self.plan(0, 5)
        self.first, self.second = self.students(0)[:2]

        def work(db: Session) -> int:
            group = Group(name="First year of English", rule=None, school_id=None, created_at=self.clock())
            db.add(group)
            db.flush()
            db.add(GroupMember(group_id=group.id, person_id=self.first))
            return group.id

        self.group = self.ctx.store.write(work)

    def wish(self, **more: object) -> ExemptionWish:
        return ExemptionWish(group_id=self.group, reason="first year of English learning", **more)  # type: ignore[arg-type]

    def test_members_leave_the_list_and_the_line_names_the_group(self) -> None:
        exemptions.exempt(self.ctx, self.boss, self.wish(subject="Mathematics"))
        self.assertEqual(self.standing(self.first), Standing.EXEMPT)
        self.assertEqual(self.standing(self.second), Standing.SCHEDULED)
        (line,) = exemptions.list_exemptions(self.ctx, self.boss, self.first)
        self.assertEqual((line.who, line.person), ("group First year of English", None))
        self.assertEqual(exemptions.list_exemptions(self.ctx, self.boss, self.second), [])

    def test_who_joins_the_group_leaves_the_list_with_the_next_change_of_who_is_where(self) -> None:
        exemptions.exempt(self.ctx, self.boss, self.wish())

        def join(db: Session) -> None:
            db.add(GroupMember(group_id=self.group, person_id=self.second))
            moved(db, [self.second])

        self.ctx.store.write(join)
        self.assertNotIn(self.second, self.listed(self.session))

    def test_a_student_and_a_group_at_once_or_a_group_that_is_not_there_is_refused(self) -> None:
        with self.assertRaisesRegex(Invalid, "choose students, or a group"):
            exemptions.exempt(self.ctx, self.boss, replace(self.wish(), people=[self.first]))
        with self.assertRaisesRegex(Problem, "no such group"):
            exemptions.exempt(self.ctx, self.boss, replace(self.wish(), group_id=10**6))
        with self.assertRaisesRegex(Invalid, "choose a window"):
            exemptions.exempt(self.ctx, self.boss, self.wish(window_id=10**6))
        with self.assertRaisesRegex(Invalid, "at most 300 characters"):
            exemptions.exempt(self.ctx, self.boss, self.wish(note="x" * 301))
        self.assertEqual(exemptions.list_exemptions(self.ctx, self.boss), [])

    def test_the_districts_reasons_are_texts_that_differ(self) -> None:
        for wrong in ([], ["a", "A"], ["  "], ["x" * 81], "medical", [1], [str(n) for n in range(21)]):
            with self.assertRaisesRegex(Invalid, "exemption reasons"):
                settings.change_settings(self.ctx, self.boss, {"exemption_reasons": wrong})
        settings.change_settings(self.ctx, self.boss, {"exemption_reasons": ["moved abroad"]})
        page = exemptions.exemptions_page(self.ctx, self.boss)
        self.assertEqual((page.reasons, page.subjects), (["moved abroad"], ["Mathematics", "Reading"]))
        with self.assertRaisesRegex(Invalid, "from the district's list"):
            exemptions.exempt(self.ctx, self.boss, self.wish())


class Telling(OwedCase):
    """What students are told of a session that was changed."""

    def test_its_title_and_instructions_reach_them_before_and_while_they_take_it(self) -> None:
        session = self.plan(0, -0.5)
        wish = changing.SessionChange(title="Math check", instructions="Bring a pencil.")
        changing.change(self.ctx, self.boss, {session: 1}, wish)
        code = self.codes_of(self.classes[0])[0]
        line = next(s for s in listing.list_sessions(self.ctx, self.boss))
        asked = signin.who(self.ctx, line.code, code, "here")
        self.assertEqual((asked.title, asked.instructions), ("Math check", "Bring a pencil."))
        token = signin.sign_in_student(self.ctx, line.code, code, "here")
        self.assertEqual(taking.paper(self.ctx, signin.sitter_of(self.ctx, token.secret)).title, "Math check")

    def test_a_page_for_the_board_has_the_numbers_of_the_screen(self) -> None:
        self.plan(0, 5)
        running.close(self.ctx, self.boss, self.plan(1, -0.5))
        document = report.print_participation(self.ctx, self.boss, self.window_id)
        with pypdfium2.PdfDocument(document) as pdf:
            self.assertEqual(len(pdf), 1)
            text = pdf[0].get_textpage().get_text_range()
        self.assertIn("0 of 10 tests are submitted (0%). 5 are not scheduled, all after an absence.", text)
        self.assertRegex(text, r"Hollin Moor\s+10\s+0\s+0\s+5\s+5\s+0\s+0%")


class Requiring(OwedCase):
    def test_a_rule_makes_a_test_owed_before_anything_is_scheduled(self) -> None:
        says = require(self.ctx, self.boss, self.window_id, self.form)
        self.assertEqual(says, "10 students owe A form in this window.")
        self.assertEqual({o.owed.standing for o in self.owed()}, {Standing.NOT_SCHEDULED})
        self.plan(0, 5)
        found = count(o.owed for o in self.owed())
        self.assertEqual(found.by_standing[Standing.SCHEDULED], 5)
        with self.assertRaisesRegex(Conflict, "already"):
            require(self.ctx, self.boss, self.window_id, self.form)
        with self.assertRaises(Invalid):
            require(self.ctx, self.boss, self.window_id, self.form, "color is blue")
        (line,) = list_requirements(self.ctx, self.boss, self.window_id)
        self.assertEqual((line.who, line.students), ("everyone in grade 5", 10))
        drop_requirement(self.ctx, self.boss, line.id)
        self.assertEqual(len(self.owed()), 5)

    def test_pages_and_names_agree_and_a_teacher_sees_their_own(self) -> None:
        self.plan(0, 5)
        running.close(self.ctx, self.boss, self.plan(1, -0.5))
        page = participation_page(self.ctx, self.boss, self.window_id, "class")
        self.assertEqual([(r.name, r.owed) for r in page.rows], [("Mathematics 5.1", 5), ("Mathematics 5.2", 5)])
        for total in page.whole.counts:
            self.assertEqual(len(owed_lines(self.ctx, self.boss, self.window_id, total.standing).lines), total.n)
        absent = owed_lines(self.ctx, self.boss, self.window_id, reason=Reason.ABSENT)
        self.assertEqual((absent.n, {line.why for line in absent.lines}), (5, {"absent"}))
        with mock.patch.object(report, "MOST", 3):
            cut = owed_lines(self.ctx, self.boss, self.window_id, reason=Reason.ABSENT)
            self.assertEqual((cut.n, len(cut.lines)), (5, 3), "the number stays the number, however many are listed")
        teacher = self.teacher_of(self.classes[0])
        theirs = participation_page(self.ctx, teacher, self.window_id, "class")
        self.assertLessEqual(theirs.whole.owed, page.whole.owed)
        self.assertIn("Mathematics 5.1", [r.name for r in theirs.rows])


class Random(OwedCase):
    """Anything may happen in any order."""

    def test_the_five_always_add_up_and_nobody_is_on_two_lists(self) -> None:
        for seed in range(6):
            with self.subTest(seed=seed):
                self.setUp()
                rng = random.Random(seed)
                sessions = [self.plan(0, -0.5, 4), self.plan(1, 6)]
                people = self.students(0) + self.students(1)
                require(self.ctx, self.boss, self.window_id, self.form)
                left: set[int] = set()
                for _ in range(40):
                    self.happen(rng, sessions, people, left)
                    every = self.owed()
                    self.assertEqual(sorted({o.person for o in every}), sorted(set(people) - left))
                    found = count(o.owed for o in every)
                    self.assertEqual(found.owed, len(every))
                    self.assertEqual(sum(found.by_standing.values()), len(people) - len(left))
                    for person in set(people) - left:
                        self.assertLessEqual(len(self.open_sessions_of(person)), 1)

    def happen(self, rng: random.Random, sessions: list[int], people: list[int], left: set[int]) -> None:
        person, session = rng.choice(people), rng.choice(sessions)
        what = rng.randrange(9)
        try:
            if what == 0:
                self.move(person, rng.randrange(2))
            elif what == 1:
                placing.place(self.ctx, self.boss, session, [person])
            elif what == 2:
                placing.unplace(self.ctx, self.boss, session, person)
            elif what == 3:
                exemptions.exempt(self.ctx, self.boss, ExemptionWish(people=[person], reason="medical"))
            elif what == 4:
                for line in exemptions.list_exemptions(self.ctx, self.boss)[:1]:
                    exemptions.end_exemption(self.ctx, self.boss, line.id)
            elif what == 5 and self.listed(session).get(person) == "not_started":
                self.state(session, person, rng.choice(("answering", "handed_in")))
            elif what == 6 and person in self.listed(session):
                self.mark(session, person, rng.choice(("absent", "exempt", "void", "interrupted", "back")))
            elif what == 7 and rng.random() < 0.2:
                self.leave(person)
                left.add(person)
            elif what == 8 and rng.random() < 0.3:
                if rng.random() < 0.5:
                    running.close(self.ctx, self.boss, session)
                else:
                    changing.cancel(self.ctx, self.boss, [session], "fire drill")
                sessions.append(self.plan(rng.randrange(2), rng.choice((8, 30)) + len(sessions)))
        except Problem:
            pass  # refused, and nothing may have changed by it
