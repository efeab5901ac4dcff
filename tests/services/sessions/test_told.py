"""What students were told of a session is told anew when it changes."""

from __future__ import annotations

from datetime import timedelta

from bildung.services.own.ownpage import Occasion, own_page
from bildung.services.sessions import changing, listing, makeups, placing, scheduling
from bildung.services.shared.access import Own
from bildung.services.shared.errors import Invalid
from tests.services.participation.support import HOUR
from tests.services.sessions.test_changing import ChangeCase


class Told(ChangeCase):
    def occasions(self) -> list[Occasion]:
        own = Own(person_id=self.students(0)[0], name="", sign_in_id=0, csrf="")
        return own_page(self.ctx, own, False).children[0].occasions

    def test_a_move_is_said_until_it_is_back_or_has_begun(self) -> None:
        session = self.plan(0, 5)
        self.change(session, room="A1")
        start = self.line(session).start
        (occasion,) = self.occasions()
        self.assertEqual(
            (occasion.state, occasion.room, occasion.was), ("ahead", "A1", "The room has changed. It was A51.")
        )
        self.change(session, start=start + HOUR, end=start + 2 * HOUR, room="B2")
        (occasion,) = self.occasions()
        self.assertRegex(occasion.was, r"^This test has moved\. It was on .*, \d+:\d\d [AP]M in room A51\.$")
        self.change(session, start=start, end=start + HOUR, room="A51")
        self.assertEqual(self.occasions()[0].was, "", "it is where it was to be")

    def test_of_several_moves_the_first_place_is_what_students_knew(self) -> None:
        session = self.plan(0, 5)
        self.change(session, room="A1")
        first = self.occasions()[0].was
        self.change(session, room="B2")
        self.assertEqual(self.occasions()[0].was, first)

    def test_what_is_due_is_told_and_what_comes_later_is_late(self) -> None:
        start = self.clock.now + HOUR
        ends, due = start + timedelta(days=5), start + timedelta(days=3)
        where = (self.ctx, self.boss, self.form, self.window_id, [self.classes[0]], "", None, start, ends)
        for wrong in (start, ends + HOUR):
            with self.assertRaises(Invalid) as caught:
                scheduling.schedule(*where, due=wrong)
            self.assertEqual(caught.exception.place, "due")
        (session,) = scheduling.schedule(*where, due=due)
        self.assertEqual(self.occasions()[0].due, due)
        early, late = self.students(0)[:2]
        self.clock.now = due - HOUR
        self.state(session, early, "handed_in")
        self.clock.now = due + HOUR
        self.state(session, late, "handed_in")
        lines = {s.person: s for s in listing.get_session(self.ctx, self.boss, session).sittings}
        self.assertEqual([lines[p].late for p in (early, late)], [False, True])
        self.change(session, end=self.clock.now + 2 * HOUR)
        self.assertEqual(self.line(session).due, due)

    def test_a_canceled_test_is_listed_as_canceled_until_its_day_is_over(self) -> None:
        session = self.plan(0, 5)
        changing.cancel(self.ctx, self.boss, [session], "the ferry does not run")
        (occasion,) = self.occasions()
        self.assertEqual((occasion.state, occasion.joinable), ("canceled", False))
        self.clock.now += timedelta(days=2)
        self.assertEqual(self.occasions(), [])

    def test_no_makeup_is_promised_once_one_is_scheduled_or_the_window_is_over(self) -> None:
        first = self.plan(0, 5)
        self.state(first, self.students(0)[0], "absent")
        self.assertEqual([o.state for o in self.occasions()], ["missed"])
        start = self.line(first).start + timedelta(days=2)
        slot = placing.Slot(start=start, end=start + HOUR, room="B2", proctor_id=None)
        wish = makeups.MakeupWish(session=first, people=[self.students(0)[0]], slot=slot)
        (second,) = makeups.schedule_makeups(self.ctx, self.boss, [wish])
        self.assertEqual(sorted(o.state for o in self.occasions()), ["ahead", "untaken"])
        changing.cancel(self.ctx, self.boss, [second], "the ferry does not run")
        self.assertEqual(sorted(o.state for o in self.occasions()), ["canceled", "missed"])
        self.clock.now += timedelta(days=400)
        self.assertEqual([o.state for o in self.occasions()], ["untaken"])
