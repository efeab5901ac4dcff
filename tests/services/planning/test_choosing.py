"""Teachers choose blocks for their own classes, under the checks of the board; the planner fills in the rest."""

from __future__ import annotations

from datetime import date, timedelta

from bildung.services.planning import board, byhand, choosing, known, plans, publishing
from bildung.services.planning.choosing import ChoiceLine
from bildung.services.planning.timetable import classes_of as timetable_classes
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.today import page as today
from bildung.store.models import PlannedSession
from tests.services.planning.support import PlanningCase


class Choosing(PlanningCase):
    def setUp(self) -> None:
        super().setUp()
        self.rooms(("Lab", 30, 30))
        self.day = self.clock.now.date() + timedelta(days=1)
        self.one, self.two = (self.teacher_of(klass) for klass in self.classes)
        self.plan_id = self.opened()

    def opened(self, until: date | None = None) -> int:
        wishes = self.wishes(first=self.day, last=self.day + timedelta(days=1))
        return choosing.open_choosing(
            self.ctx, self.boss, self.school, self.window_id, wishes, until or self.clock.now.date()
        )

    def line(self, actor: Actor, klass: int = 0) -> ChoiceLine:
        """Of a class that this teacher may choose for; homerooms may bring more than one."""
        key = f"{self.classes[klass]}-{self.form}"
        lines = [line for one in choosing.choices_page(self.ctx, actor).plans for line in one.lines]
        return next(line for line in lines if line.key == key)

    def slots(self) -> list[int]:
        return [block.slot for block in choosing.choices_page(self.ctx, self.one).plans[0].blocks]

    def choose(self, actor: Actor, slot: int | None, klass: int = 0) -> None:
        choosing.choose(self.ctx, actor, self.plan_id, f"{self.classes[klass]}-{self.form}", slot)

    def board(self) -> board.BoardPage:
        return board.page_of_plan(self.ctx, self.boss, self.plan_id)

    def waits(self, actor: Actor) -> list[tuple[str, bool]]:
        found = today.waiting_for(self.ctx, actor)
        return [(w.what, w.urgent) for w in found if w.path == "/calendar/choose"]

    def test_a_teacher_sees_own_classes_and_which_blocks_are_free(self) -> None:
        line = self.line(self.one)
        self.assertEqual((line.slot, line.students, set(line.against)), (None, 5, {""}))
        found = choosing.choices_page(self.ctx, self.one)
        self.assertRegex(
            found.finding, r"^Choose (a block for 1 test|blocks for 2 tests) by Monday, November 23, 2026\.$"
        )
        self.assertEqual({block.day for block in found.plans[0].blocks}, {"Tue, Nov 24", "Wed, Nov 25"})
        stranger = Actor(person_id=10**6, name="", grants=(Grant("teacher", self.school),), sign_in_id=0, csrf="")
        self.assertEqual(choosing.choices_page(self.ctx, stranger).plans, [])
        with self.assertRaises(NotFound):
            self.choose(stranger, self.slots()[0])

    def test_what_is_taken_is_refused_with_its_reason_and_can_be_given_back(self) -> None:
        first, second, *_ = self.slots()
        self.choose(self.one, first)
        self.assertEqual(self.line(self.one).slot, first)
        other = self.line(self.two, 1)
        at = self.slots().index(first)
        self.assertIn("devices for 5 students", other.against[at], "the one cart is with the other class")
        with self.assertRaisesRegex(Conflict, "devices for 5 students"):
            self.choose(self.two, first, 1)
        self.assertIsNone(self.line(self.two, 1).slot)
        self.choose(self.one, second)
        self.choose(self.two, first, 1)
        self.assertEqual((self.line(self.one).slot, self.line(self.two, 1).slot), (second, first))
        self.choose(self.one, None)
        self.assertIsNone(self.line(self.one).slot)
        with self.assertRaisesRegex(Invalid, "choose a block of the window"):
            self.choose(self.one, 4000)

    def test_who_has_not_chosen_is_named_reminded_once_and_the_planner_fills_in_the_rest(self) -> None:
        self.opened(self.day)
        self.choose(self.one, self.slots()[2])
        shown = self.board().choosing
        assert shown is not None
        self.assertEqual((shown.chosen, shown.tests, len(shown.waiting), shown.reminded), (1, 2, 1, False))
        waiting = next(a for a in (self.one, self.two) if self.waits(a))
        self.assertEqual(self.waits(waiting), [("Choose a block for 1 test by Nov 24", False)])
        self.assertEqual(choosing.remind(self.ctx, self.boss, self.plan_id), 1)
        self.assertEqual(self.waits(waiting), [("Choose a block for 1 test by Nov 24", True)])
        with self.assertRaisesRegex(Conflict, "reminded already"):
            choosing.remind(self.ctx, self.boss, self.plan_id)
        wishes = self.board().wishes
        plans.make(self.ctx, self.boss, self.school, self.window_id, wishes, Job(), again=True)
        page = self.board()
        self.assertEqual((page.left, page.choosing), ([], None))
        self.assertIn(self.slots_of_class(page), [self.chosen], "what a teacher chose stays")
        publishing.publish(self.ctx, self.boss, self.plan_id, page.revision)
        with self.ctx.store.read() as db:
            self.assertEqual(db.query(PlannedSession).count(), 2)
        with self.assertRaisesRegex(Conflict, "choosing is over"):
            self.choose(self.one, 0)

    @property
    def chosen(self) -> int:
        return 2 + self.board().days[self.at_day()].first

    def at_day(self) -> int:
        return next(n for n, d in enumerate(self.board().days) if d.day == self.day)

    def slots_of_class(self, page: board.BoardPage) -> int:
        with self.ctx.store.read() as db:
            title = next(k.title for k in timetable_classes(db, self.school) if k.id == self.classes[0])
        return next(s.slot for s in page.sessions if any(one.klass == title for one in s.lists))

    def test_a_blocked_time_is_chosen_by_nobody(self) -> None:
        slot = self.slots()[0]
        page = self.board()
        byhand.block(self.ctx, self.boss, self.plan_id, page.revision, slot, True)
        known.forget(self.ctx)
        self.assertTrue(self.board().blocks[slot].blocked)
        self.assertNotIn(slot, self.slots())
        with self.assertRaisesRegex(Conflict, "not open for testing"):
            self.choose(self.one, slot)
        byhand.block(self.ctx, self.boss, self.plan_id, self.board().revision, slot, False)
        known.forget(self.ctx)
        self.choose(self.one, slot)

    def test_it_ends_by_its_day_or_by_the_coordinator_and_what_was_chosen_stays(self) -> None:
        self.choose(self.one, self.slots()[0])
        choosing.close_choosing(self.ctx, self.boss, self.plan_id)
        self.assertIsNone(self.board().choosing)
        self.assertEqual(len(self.board().sessions), 1)
        self.opened()
        self.assertEqual(len(self.board().sessions), 1)
        self.clock.pass_by(days=1)
        self.assertIsNone(self.board().choosing)
        self.assertEqual(self.waits(self.two), [])
        with self.assertRaisesRegex(Conflict, "choosing is over; ask your coordinator"):
            self.choose(self.one, None)

    def test_bad_input(self) -> None:
        for until in (self.clock.now.date() - timedelta(days=1), self.day + timedelta(days=9)):
            with self.assertRaisesRegex(Invalid, "choose a day from today"):
                self.opened(until)
        wishes = self.wishes(first=self.last, last=self.last + timedelta(days=1))
        with self.assertRaisesRegex(Invalid, "choose days within it"):
            choosing.open_choosing(self.ctx, self.boss, self.school, self.window_id, wishes, self.day)
        leader = Actor(person_id=self.boss_id, name="", grants=(Grant("leader", self.school),), sign_in_id=0, csrf="")
        with self.assertRaises(NotAllowed):
            choosing.remind(self.ctx, leader, self.plan_id)
        choosing.close_choosing(self.ctx, self.boss, self.plan_id)
        with self.assertRaisesRegex(Conflict, "teachers are not choosing now"):
            choosing.remind(self.ctx, self.boss, self.plan_id)
