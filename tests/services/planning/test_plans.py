"""A window is planned, changed by hand, published and planned again; what was wrong is said and nothing is half done."""

from __future__ import annotations

import csv
import io
from dataclasses import replace
from datetime import date, time, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.participation.exemptions import ExemptionWish, exempt
from bildung.services.people import accommodations
from bildung.services.people.accommodations import Entered
from bildung.services.planning import (
    bells,
    board,
    byhand,
    closings,
    exporting,
    hold,
    known,
    plans,
    publishing,
    resources,
    timetable,
    versions,
    ways,
)
from bildung.services.planning.bells import Bells, BlockLine, DayTypeLine
from bildung.services.planning.byhand import HandMove
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound, Problem
from bildung.services.shared.jobs import Job
from bildung.store.models import AuditEntry, Enrolment, Person, Plan, PlannedSession, School, SchoolClass, Sitting
from tests.services.planning.support import PlanningCase


class Planning(PlanningCase):
    def test_the_first_screen_is_filled_in_and_says_what_can_be_planned(self) -> None:
        page = self.page()
        self.assertIsNone(page.plan)
        self.assertIn("is not planned yet", page.finding)
        self.assertEqual([t.form for t in page.proposal.tests], [self.form])

    def test_every_class_has_a_place_and_nothing_is_scheduled_yet(self) -> None:
        page = self.make_plan()
        self.assertEqual(page.finding, f"All {page.tests} tests have a place.")
        self.assertEqual((len(page.sessions), page.left, page.change_count), (2, [], 2))
        self.assertEqual(page.changes, ["2 sessions to schedule"])
        self.assertTrue(page.figures.workings[0].startswith("Blocks of classes: this plan costs"))
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(PlannedSession)).all(), [])

    def test_students_apart_exempt_and_those_who_took_it_are_where_they_belong(self) -> None:
        small, out, took = self.students(0)[:3]
        accommodations.enter(self.ctx, self.boss, small, Entered(kind="small_group"))
        exempt(self.ctx, self.boss, ExemptionWish(people=[out], reason="medical", window_id=self.window_id))
        session = self.plan(0, -0.5)
        self.state(session, took, "handed_in")
        page = self.make_plan()
        whole = {s.person for one in page.sessions for lst in one.lists if lst.whole for s in lst.students}
        named = {s.person for one in page.sessions for lst in one.lists if not lst.whole for s in lst.students}
        self.assertIn(small, named)
        self.assertFalse({out, took} & (whole | named))
        rest = set(self.students(0)) - {small, out, took}
        self.assertLessEqual(rest, named, "their class's session has begun, so they take it by name")

    def test_a_student_in_two_classes_of_the_subject_has_one_place(self) -> None:
        student = self.students(0)[0]
        self.ctx.store.write(
            lambda db: db.add(Enrolment(class_id=self.classes[1], person_id=student, role="student", active=True))
        )
        page = self.make_plan()
        listed = [s.person for one in page.sessions for lst in one.lists for s in lst.students]
        self.assertEqual(listed.count(student), 1)
        self.assertEqual(page.tests, len(set(listed)))

    def test_who_reads_is_chosen_by_language_and_by_whom_they_are_there_for(self) -> None:
        plain, polish, own = self.students(0)[:3]
        for student in (plain, polish, own):
            accommodations.enter(self.ctx, self.boss, student, Entered(kind="human_reader"))
        accommodations.enter(self.ctx, self.boss, polish, Entered(kind="directions", value="Polish"))
        first, second = self.proctors()
        resources.save_staff(self.ctx, self.boss, first, [], ["human_reader"])
        page = self.make_plan()
        (left,) = page.left
        self.assertEqual(left.why, "No human reader who speaks the student's language is entered.")
        self.assertEqual([s.person for s in left.who], [polish])
        resources.save_staff(self.ctx, self.boss, second, [], ["human_reader"], "polish", [own])
        page = self.make_plan()
        by = {s.person: one.proctor for one in page.sessions if one.support for x in one.lists for s in x.students}
        self.assertEqual((by[polish], by[own]), (second, second))
        self.assertIn(plain, by)
        line = next(s for s in resources.resources_page(self.ctx, self.boss, self.school).staff if s.person == second)
        self.assertEqual(
            (line.says, [s.id for s in line.serves]), ("human reader, in polish, for 1 student first", [own])
        )
        with self.assertRaisesRegex(Invalid, "say what they provide"):
            resources.save_staff(self.ctx, self.boss, second, [], [], "", [own])
        with self.assertRaisesRegex(Invalid, "choose students of the district"):
            resources.save_staff(self.ctx, self.boss, second, [], ["scribe"], "", [second])

    def proctors(self) -> tuple[int, int]:
        """Two of the staff of the school who hold no class of their own."""
        with self.ctx.store.read() as db:
            staff = select(Person.id).where(Person.kind == "staff", Person.school_id == self.school)
            teaching = select(Enrolment.person_id).where(Enrolment.class_id.in_(self.classes))
            first, second, *_ = db.scalars(staff.where(Person.id.not_in(teaching)).order_by(Person.id))
        return first, second

    def test_a_class_taught_by_two_has_one_list_and_neither_is_a_proctor_elsewhere_during_its_lesson(self) -> None:
        _, second = self.proctors()
        one = self.classes[0]
        self.ctx.store.write(lambda db: db.add(Enrolment(class_id=one, person_id=second, role="teacher", active=True)))
        self.ab_days()
        blocks = [b.id for b in timetable.timetable_page(self.ctx, self.boss, self.school).blocks]
        timetable.save_times(self.ctx, self.boss, self.school, {one: blocks})
        small = self.students(1)[:2]
        for student in small:
            accommodations.enter(self.ctx, self.boss, student, Entered(kind="own_proctor"))
        page = self.make_plan(where="lessons")
        lists = [lst for s in page.sessions for lst in s.lists if lst.whole and lst.klass == "Mathematics 5.1"]
        self.assertEqual(len(lists), 1)
        elsewhere = {s.proctor for s in page.sessions if not any(x.klass == "Mathematics 5.1" for x in s.lists)}
        self.assertNotIn(second, elsewhere)

    def test_a_student_in_two_groups_has_one_place_with_all_they_need(self) -> None:
        student, other = self.students(0)[:2]
        for kind in ("small_group", "human_reader"):
            accommodations.enter(self.ctx, self.boss, student, Entered(kind=kind))
        accommodations.enter(self.ctx, self.boss, other, Entered(kind="small_group"))
        reader, _ = self.proctors()
        resources.save_staff(self.ctx, self.boss, reader, [], ["human_reader"])
        page = self.make_plan()
        mine = [s for s in page.sessions for lst in s.lists for x in lst.students if x.person == student]
        self.assertEqual([(s.support, s.proctor, s.size) for s in mine], [("human_reader", reader, 1)])
        self.assertEqual(page.left, [])

    def test_what_does_not_fit_says_why_and_what_would_help(self) -> None:
        self.rooms(("Nook", 2, 2), carts=0)
        page = self.make_plan()
        self.assertEqual(len(page.left), 2)
        self.assertRegex(page.left[0].why, "No cart or room has .* free devices in every block")
        self.assertRegex(page.finding, "have no place yet, for 1 reason")
        assert page.plan is not None
        found = ways.ways(self.ctx, self.boss, page.plan)
        cart = next(way for way in found if way.kind == "cart")
        self.assertRegex(cart.says, r"Use one more cart: places \d+ tests, moves no session")
        ways.take_way_out(self.ctx, self.boss, page.plan, "cart", Job())
        after = board.page_of_plan(self.ctx, self.boss, page.plan)
        self.assertEqual(after.left, [])
        self.assertIn("Extra cart 1", {s.cart for s in after.sessions})
        with self.assertRaisesRegex(Conflict, "uses Extra cart 1, which is only supposed"):
            publishing.publish(self.ctx, self.boss, page.plan, after.revision)

    def ways(self, page: board.BoardPage) -> dict[str, str]:
        assert page.plan is not None
        return {way.kind: way.says for way in ways.ways(self.ctx, self.boss, page.plan)}

    def take(self, page: board.BoardPage, way: ways.Way) -> board.BoardPage:
        assert page.plan is not None
        ways.take_way_out(self.ctx, self.boss, page.plan, way, Job())
        return board.page_of_plan(self.ctx, self.boss, page.plan)

    def test_a_class_larger_than_every_room_is_split_over_two(self) -> None:
        self.rooms(("Nook", 3, 3), ("Small", 3, 3), carts=0)
        page = self.make_plan()
        self.assertEqual(len(page.left), 2)
        self.assertRegex(self.ways(page)["split"], r"Split these classes over two rooms: places \d+ tests")
        after = self.take(page, "split")
        self.assertEqual((after.left, after.placed), ([], after.tests))
        self.assertTrue(all(one.size <= 3 for one in after.sessions))
        halves = [(len(lst.students), lst.whole) for one in after.sessions for lst in one.lists]
        self.assertEqual(sorted(halves), [(2, False), (2, False), (3, True), (3, True)])
        assert after.plan is not None
        publishing.publish(self.ctx, self.boss, after.plan, after.revision)
        self.assertEqual(sum(len(self.listed(id)) for id in self.sessions()), after.tests)

    def sessions(self) -> list[int]:
        with self.ctx.store.read() as db:
            return list(db.scalars(select(PlannedSession.id)))

    def test_one_more_day_is_a_way_out_while_the_window_has_one(self) -> None:
        self.rooms(("Lab", 30, 30), carts=0)
        day = self.clock.now.date() + timedelta(days=1)
        bells.save_bells(self.ctx, self.boss, self.school, self.one_block(day))
        page = self.make_plan(first=day, last=day)
        self.assertEqual(len(page.left), 1)
        says = self.ways(page)
        self.assertRegex(says["day"], r"Test on \w+, \w+ \d+, 2026 as well: places 5 tests")
        after = self.take(page, "day")
        self.assertEqual(after.left, [])
        self.assertEqual((after.wishes.first, after.wishes.last), (day, day + timedelta(days=1)))
        with self.assertRaisesRegex(Conflict, "this step is no longer there"):
            self.take(after, "split")

    def one_block(self, first: date) -> Bells:
        block = BlockLine(name="1", start=time(8, 30), end=time(9, 30))
        types = [DayTypeLine(name="Day", blocks=[block])]
        return Bells(types=types, cycle=True, pattern=["Day"], first=first, shifts=True, changes=[])

    def test_bad_wishes(self) -> None:
        for more, says in (
            ({"tests": []}, "choose at least one test"),
            ({"first": self.last, "last": self.first}, "the last day comes before the first"),
            ({"a_day": 9}, "a student takes 1 to 4 tests a day"),
            ({"title": "{teacher}"}, "{teacher} is not a part of a name"),
            ({"last": self.last + timedelta(days=400)}, "choose days within it"),
        ):
            with self.assertRaisesRegex(Invalid, says):
                self.make_plan(**more)
        self.assertIsNone(self.page().plan)

    def test_a_class_that_is_empty_leaves_nothing_to_plan(self) -> None:
        people = [*self.students(0), *self.students(1)]
        exempt(self.ctx, self.boss, ExemptionWish(people=people, reason="medical", window_id=self.window_id))
        with self.assertRaisesRegex(Conflict, "no student owes one of these tests"):
            self.make_plan()


class Versions(PlanningCase):
    def test_what_was_planned_before_is_kept_compared_and_gone_back_to(self) -> None:
        first = self.make_plan()
        assert first.plan is not None
        self.assertEqual(versions.list_versions(self.ctx, self.boss, first.plan), [])
        versions.keep(self.ctx, self.boss, first.plan, "with the Lab")
        self.rooms(("Small", 6, 6))
        afternoon = [t for t, b in enumerate(first.blocks) if b.start.hour >= 12][-2:]
        one = first.sessions[0].number
        move = HandMove(kind="move", session=one, slot=afternoon[0])
        byhand.move(self.ctx, self.boss, first.plan, first.revision, move)
        found = versions.compare(self.ctx, self.boss, first.plan, self.kept(first.plan)[0])
        self.assertRegex(
            found.finding, r"^5 tests differ: 5 at another time\. It touches 5 students and \d proctors?\.$"
        )
        (line,) = found.lines
        self.assertRegex(line.before, r"^Nov \d+, block 1")
        self.assertRegex(line.after, r"block 4")
        self.make_plan(again=True)
        lines = versions.list_versions(self.ctx, self.boss, first.plan)
        self.assertEqual([line.name for line in lines][1:], ["with the Lab"])
        self.assertRegex(lines[0].name, "^Before ")
        page = self.page()
        versions.restore(self.ctx, self.boss, first.plan, lines[1].id, page.revision)
        after = self.page()
        self.assertEqual([(s.slot, s.room) for s in after.sessions], [(s.slot, s.room) for s in first.sessions])
        self.assertEqual(
            versions.list_versions(self.ctx, self.boss, first.plan)[-1].says, "The same as the plan at hand."
        )
        with self.assertRaisesRegex(Conflict, "in the meantime"):
            versions.restore(self.ctx, self.boss, first.plan, lines[1].id, page.revision)
        versions.remove(self.ctx, self.boss, first.plan, lines[1].id)
        with self.assertRaisesRegex(NotFound, "no longer kept"):
            versions.compare(self.ctx, self.boss, first.plan, lines[1].id)

    def kept(self, plan: int) -> list[int]:
        return [line.id for line in versions.list_versions(self.ctx, self.boss, plan)]

    def test_only_a_few_are_kept(self) -> None:
        page = self.make_plan()
        assert page.plan is not None
        for n in range(12):
            versions.keep(self.ctx, self.boss, page.plan, f"plan {n}")
        with self.assertRaisesRegex(Conflict, "12 plans are kept already"):
            versions.keep(self.ctx, self.boss, page.plan, "one more")
        for _ in range(8):
            self.make_plan(again=True)
        self.assertEqual(len(self.kept(page.plan)), 18)


class ByHand(PlanningCase):
    def setUp(self) -> None:
        super().setUp()
        self.board = self.make_plan()
        assert self.board.plan is not None
        self.plan_id = self.board.plan

    def move(self, **wish: object) -> board.BoardPage:
        byhand.move(self.ctx, self.boss, self.plan_id, self.board.revision, HandMove(**wish))  # type: ignore[arg-type]
        self.board = board.page_of_plan(self.ctx, self.boss, self.plan_id)
        return self.board

    def session(self, id: int) -> board.BoardSession:
        return next(s for s in self.board.sessions if s.number == id)

    def test_a_move_is_checked_at_its_place_undone_and_made_again(self) -> None:
        one, other = self.board.sessions[:2]
        self.move(kind="move", session=one.number, slot=other.slot, room=other.room)
        self.assertTrue(any(f"{other.room} is also used by" in line for line in self.session(one.number).against))
        self.assertRegex(self.board.finding, "2 sessions cannot run as planned")
        with self.assertRaisesRegex(Conflict, "2 sessions cannot run|1 session cannot run"):
            publishing.publish(self.ctx, self.boss, self.plan_id, self.board.revision)
        byhand.undo(self.ctx, self.boss, self.plan_id, self.board.revision)
        self.board = board.page_of_plan(self.ctx, self.boss, self.plan_id)
        self.assertEqual((self.session(one.number).slot, self.session(one.number).against), (one.slot, []))
        self.assertEqual((self.board.undo, bool(self.board.redo)), ("", True))
        byhand.undo(self.ctx, self.boss, self.plan_id, self.board.revision, redo=True)
        self.board = board.page_of_plan(self.ctx, self.boss, self.plan_id)
        self.assertEqual(self.session(one.number).slot, other.slot)

    def test_two_change_places(self) -> None:
        one, other = self.board.sessions[:2]
        self.move(kind="swap", session=one.number, other=other.number)
        self.assertEqual((self.session(one.number).slot, self.session(other.number).slot), (other.slot, one.slot))

    def test_students_split_off_move_and_come_back_together(self) -> None:
        one = self.board.sessions[0]
        people = [s.person for s in one.lists[0].students[:3]]
        self.move(kind="split", session=one.number, students=people, room="Small", slot=one.slot + 1)
        made = next(s for s in self.board.sessions if s.room == "Small")
        self.assertEqual((made.size, self.session(one.number).size), (3, one.size - 3))
        self.move(kind="students", session=one.number, other=made.number, students=[one.lists[0].students[4].person])
        self.assertEqual(self.session(made.number).size, 4)
        self.move(kind="merge", session=made.number, other=one.number)
        self.assertEqual(self.session(one.number).size, one.size)
        self.assertEqual(self.board.left, [])

    def test_taken_off_the_board_it_has_no_place_and_is_put_back(self) -> None:
        one = self.board.sessions[0]
        self.move(kind="remove", session=one.number)
        (left,) = self.board.left
        self.assertEqual(left.students, one.size)
        self.move(kind="place", key=left.key, slot=one.slot, room="Lab")
        self.assertEqual(self.board.left, [])

    def test_what_is_placed_by_hand_stays_when_planned_again(self) -> None:
        one = self.board.sessions[0]
        late = len(self.board.blocks) - 1
        self.move(kind="move", session=one.number, slot=late)
        again = self.make_plan(again=True)
        self.assertEqual(next(s.slot for s in again.sessions if s.number == one.number), late)

    def test_what_has_no_meaning_is_refused(self) -> None:
        one = self.board.sessions[0]
        for wish, says in (
            ({"kind": "move", "session": 999}, "no longer in the plan"),
            ({"kind": "move", "session": one.number, "slot": 9999}, "choose a block"),
            ({"kind": "split", "session": one.number, "students": [1]}, "choose students of this session"),
            ({"kind": "merge", "session": one.number, "other": one.number}, "choose another session"),
            ({"kind": "proctor", "session": one.number, "proctor": 999999}, "choose a member of staff"),
        ):
            with self.assertRaisesRegex(Problem, says):
                self.move(**wish)

    def test_two_people_at_once(self) -> None:
        seen = self.board.revision
        self.move(kind="hold", session=self.board.sessions[0].number)
        with self.assertRaisesRegex(Conflict, "someone changed this plan in the meantime"):
            byhand.undo(self.ctx, self.boss, self.plan_id, seen)
        with self.ctx.store.read() as db:
            person = db.scalars(select(Person).where(Person.kind == "staff", Person.id != self.boss_id)).first()
        assert person is not None
        other = Actor(person_id=person.id, name="", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
        wish = HandMove(kind="hold", session=self.board.sessions[0].number)
        with self.assertRaisesRegex(Conflict, "Hanne Quill is planning this school now"):
            byhand.move(self.ctx, other, self.plan_id, self.board.revision, wish)
        with self.assertRaisesRegex(Conflict, "is planning this school now"):
            publishing.publish(self.ctx, other, self.plan_id, self.board.revision)
        self.assertFalse(board.page_of_plan(self.ctx, other, self.plan_id).mine)
        self.clock.pass_by(minutes=11)
        byhand.move(self.ctx, other, self.plan_id, self.board.revision, wish)
        hold.release(self.ctx, other, self.school)
        self.assertEqual(board.page_of_plan(self.ctx, self.boss, self.plan_id).holder, "")

    def test_a_leader_looks_and_a_teacher_does_not(self) -> None:
        leader = Actor(person_id=self.boss_id, name="", grants=(Grant("leader", self.school),), sign_in_id=0, csrf="")
        self.assertFalse(board.page_of_plan(self.ctx, leader, self.plan_id).may)
        teacher = self.teacher_of(self.classes[0])
        with self.assertRaises(NotAllowed):
            board.page_of_plan(self.ctx, teacher, self.plan_id)
        with self.assertRaises(NotFound):
            board.page_of_plan(self.ctx, self.boss, 999)


class Publishing(PlanningCase):
    def publish(self) -> int:
        page = self.page()
        assert page.plan is not None
        return publishing.publish(self.ctx, self.boss, page.plan, page.revision)

    def sessions(self) -> list[PlannedSession]:
        with self.ctx.store.read() as db:
            return list(
                db.scalars(
                    select(PlannedSession).where(PlannedSession.canceled_at.is_(None)).order_by(PlannedSession.class_id)
                )
            )

    def test_sessions_are_as_the_plan_says_and_a_second_time_changes_nothing(self) -> None:
        small = self.students(0)[0]
        accommodations.enter(self.ctx, self.boss, small, Entered(kind="small_group"))
        page = self.make_plan(title="{window} check, grade {grade}")
        self.assertEqual(self.publish(), 3)
        made = self.sessions()
        self.assertEqual(
            sorted((s.start, s.room) for s in made),
            sorted((page.blocks[s.slot].start, s.room) for s in page.sessions),
        )
        self.assertEqual({s.title for s in made}, {f"{page.window_name} check, grade 5"})
        with self.ctx.store.read() as db:
            listed = db.execute(select(Sitting.person_id, PlannedSession.by_name).join(PlannedSession)).all()
        self.assertEqual(len(listed), page.tests, "each once")
        self.assertIn((small, True), [tuple(row) for row in listed])
        after = self.page()
        self.assertEqual((after.change_count, {s.state for s in after.sessions}), (0, {"published"}))
        self.assertEqual(self.publish(), 0)
        with self.ctx.store.read() as db:
            entry = db.scalars(select(AuditEntry).where(AuditEntry.action == "plan.publish")).first()
            assert entry is not None
            self.assertEqual(entry.after, {"new": 3, "moved": 0, "canceled": 0})

    def test_a_snow_day_is_planned_again_and_only_that_day_moves(self) -> None:
        self.ab_days()
        page = self.make_plan()
        self.publish()
        before = {s.class_id: (s.id, s.start) for s in self.sessions()}
        hit = page.blocks[page.sessions[0].slot].start.date()
        kept = resources.resources_page(self.ctx, self.boss, self.school).bells
        snow = bells.DayChangeLine(day=hit, type="", why="snow")
        bells.save_bells(self.ctx, self.boss, self.school, replace(kept, changes=[snow]))
        known.forget(self.ctx)
        lost = self.page()
        self.assertTrue(lost.left, "what lay on the day has no place")
        again = self.make_plan(again=True)
        self.assertEqual(again.left, [])
        self.publish()
        for session in self.sessions():
            id, start = before[session.class_id]
            if start.date() != hit:
                self.assertEqual((session.id, session.start), (id, start))
            else:
                self.assertNotEqual(session.start.date(), hit)

    def test_who_is_in_a_class_of_the_subject_at_two_schools_is_planned_at_one(self) -> None:
        student = self.students(0)[0]

        def two_schools(db: Session) -> int:
            other = School(source_id="EQ", name="Elder Quay")
            db.add(other)
            db.flush()
            db.get_one(SchoolClass, self.classes[1]).school_id = other.id
            db.add(Enrolment(class_id=self.classes[1], person_id=student, role="student", active=True))
            return other.id

        other = self.ctx.store.write(two_schools)
        self.make_plan()
        self.assertEqual(self.publish(), 1)
        id = plans.make(self.ctx, self.boss, other, self.window_id, self.wishes(), Job(), False)
        page = board.page_of_plan(self.ctx, self.boss, id)
        listed = {s.person for one in page.sessions for lst in one.lists for s in lst.students}
        self.assertEqual(listed, set(self.students(1)) - {student})
        publishing.publish(self.ctx, self.boss, id, page.revision)
        with self.ctx.store.read() as db:
            mine = db.scalars(select(Sitting).where(Sitting.person_id == student)).all()
        self.assertEqual(len(mine), 1)

    def closing(self, room: str, first: date | None = None, last: date | None = None) -> board.BoardPage:
        page = self.page()
        assert page.plan is not None
        days = (first or page.start, last or page.end)
        closings.close(self.ctx, self.boss, page.plan, page.revision, room, *days, Job())
        return self.page()

    def test_a_lost_room_moves_who_tests_in_it_and_nobody_else(self) -> None:
        self.rooms(("Lab", 30, 30), ("Hall", 40, 40), ("Small", 6, 6), carts=0)
        page = self.make_plan()
        self.publish()
        lost = next(s for s in page.sessions if s.room in ("Lab", "Hall"))
        others = {s.number: (s.slot, s.room) for s in page.sessions if s.room != lost.room}
        byhand.move(
            self.ctx, self.boss, page.plan or 0, self.page().revision, HandMove(kind="hold", session=lost.number)
        )
        after = self.closing(lost.room)
        self.assertNotIn(lost.room, {s.room for s in after.sessions}, "what was placed by hand gives way as well")
        self.assertEqual(after.left, [])
        self.assertEqual({s.number: (s.slot, s.room) for s in after.sessions if s.number in others}, others)
        (closed,) = after.closed
        room = next(r for r in after.rooms if r.name == closed.room)
        self.assertEqual(len(room.shut), len(after.blocks))
        # a session that somebody puts there all the same says so
        other = after.sessions[0]
        move = HandMove(kind="move", session=other.number, slot=other.slot, room=lost.room)
        byhand.move(self.ctx, self.boss, after.plan or 0, after.revision, move)
        wrong = next(s for s in self.page().sessions if s.number == other.number)
        self.assertIn(f"{lost.room} is closed at this time.", wrong.against)
        closings.reopen(self.ctx, self.boss, after.plan or 0, closed.id)
        right = next(s for s in self.page().sessions if s.number == other.number)
        self.assertEqual((self.page().closed, right.against), ([], []))
        with self.ctx.store.read() as db:
            actions = db.scalars(select(AuditEntry.action).where(AuditEntry.action.startswith("plan.room"))).all()
        self.assertEqual(list(actions), ["plan.roomclosed", "plan.roomopened"])

    def test_a_class_whose_own_room_is_lost_tests_elsewhere_on_these_days_only(self) -> None:
        self.rooms(("Lab", 30, 30), carts=2)
        page = self.make_plan()
        own = next(s for s in page.sessions if s.own)
        day = page.blocks[own.slot].start.date()
        after = self.closing(own.room, day, day)
        self.assertEqual(after.left, [])
        there = [s for s in after.sessions if s.room == own.room]
        self.assertTrue(all(page.blocks[s.slot].start.date() != day for s in there))

    def test_a_room_that_is_closed_the_wrong_way_is_refused(self) -> None:
        page = self.make_plan()
        after = self.closing("Lab", page.start, page.start)
        for room, first, last, why in (
            ("Lab", page.start, page.end, "already closed on some of these days"),
            ("Lab", page.end, page.start, "last day comes before the first"),
            ("Nowhere", page.start, page.end, "choose a room of the school"),
        ):
            with self.assertRaisesRegex(Problem, why):
                self.closing(room, first, last)
        with self.assertRaisesRegex(Conflict, "in the meantime"):
            closings.close(self.ctx, self.boss, after.plan or 0, -1, "Lab", page.end, page.end, Job())
        with self.assertRaises(NotFound):
            closings.reopen(self.ctx, self.boss, after.plan or 0, 999)
        self.assertEqual(len(self.page().closed), 1)

    def test_what_is_scheduled_already_is_where_a_plan_starts(self) -> None:
        self.make_plan()
        self.publish()
        before = {(s.class_id, s.start, s.room) for s in self.sessions()}
        self.ctx.store.write(lambda db: db.query(Plan).delete())
        again = self.make_plan(again=True)
        self.assertEqual(again.change_count, 0)
        self.assertEqual({(s.class_id, s.start, s.room) for s in self.sessions()}, before)

    def test_a_session_at_no_block_is_said_and_moved_to_one(self) -> None:
        session = self.plan(0, 30.2)
        page = self.make_plan()
        self.assertIn("1 session of these tests begins at no block", page.figures.workings[-1])
        self.assertEqual(page.changes, ["1 session to schedule", "1 session to change"])
        self.publish()
        self.assertIn(session, [s.id for s in self.sessions()])
        starts = {block.start for block in page.blocks}
        self.assertTrue(all(s.start in starts for s in self.sessions()))

    def test_a_test_dropped_from_the_plan_cancels_its_sessions_and_no_others(self) -> None:
        self.make_plan()
        self.publish()
        page = self.page()
        assert page.plan is not None
        wish = HandMove(kind="remove", session=page.sessions[0].number)
        byhand.move(self.ctx, self.boss, page.plan, page.revision, wish)
        page = self.page()
        self.assertEqual(page.changes, ["1 session to cancel"])
        self.publish()
        self.assertEqual(len(self.sessions()), 1)

    def test_the_export_has_a_line_for_each_student(self) -> None:
        page = self.make_plan()
        assert page.plan is not None
        rows = list(
            csv.DictReader(io.StringIO(exporting.export_plan(self.ctx, self.boss, page.plan).decode("utf-8-sig")))
        )
        self.assertEqual(len(rows), page.tests)
        self.assertEqual({row["room"] for row in rows}, {s.room for s in page.sessions})
        self.assertTrue(all(date.fromisoformat(row["date"]) >= self.first for row in rows))
