"""Devices without a network: what they hold comes in later, whoever works on them then, and no minute is lost."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from bildung.services.door import signin
from bildung.services.own import ownpage
from bildung.services.sessions import lateanswers, running
from bildung.services.shared.access import Own, Sitter
from bildung.services.shared.errors import Conflict, NotFound, NotSignedIn
from bildung.services.sitting import delivery, saving, signs, taking
from bildung.services.sitting.events import Answer
from bildung.services.sitting.signs import DeviceCheck
from bildung.store.models import Person, SchoolClass
from tests.services.sessions.test_room import RoomCase


class DeviceCase(RoomCase):
    def secret(self, n: int) -> tuple[Sitter, str]:
        token = signin.sign_in_student(self.ctx, self.detail.session.code, self.detail.sittings[n].code or "", "here")
        return signin.sitter_of(self.ctx, token.secret), token.secret

    def answers(self, sitter: Sitter, *given: str) -> list[Answer]:
        asked = taking.paper(self.ctx, sitter).questions
        return [
            Answer(
                id=f"held-{sitter.sitting_id}-{n}", question=q.id, answer=a, takeover=sitter.takeover, sequence=n + 1
            )
            for n, (q, a) in enumerate(zip(asked, given, strict=False))
        ]

    def present(self, sitter: Sitter) -> list[str]:
        return [q.answer for q in taking.paper(self.ctx, sitter).questions if q.answer]


class Delivering(DeviceCase):
    def test_what_a_student_left_unsent_comes_in_after_they_signed_out(self) -> None:
        me, secret = self.secret(2)
        held = self.answers(me, "A", "B")
        signin.sign_out(self.ctx, me.sign_in_id)
        with self.assertRaises(NotSignedIn):
            saving.saving(self.ctx, me, saving.Message(answers=held)).result()
        brought = delivery.delivering(self.ctx, delivery.delivery_of(secret))
        self.assertEqual((brought.sitting_id, brought.takeover), (me.sitting_id, me.takeover))
        receipt = saving.save(self.ctx, brought, held)
        self.assertEqual(len(receipt.acknowledged), 2)
        self.assertEqual(len(saving.save(self.ctx, brought, held).acknowledged), 2, "twice counts once")
        again, _ = self.secret(2)
        self.assertEqual(self.present(again), ["A", "B"])

    def test_the_secret_is_not_that_of_the_cookie_and_ends_after_two_weeks(self) -> None:
        _, secret = self.secret(2)
        with self.assertRaises(NotFound):
            delivery.delivering(self.ctx, secret)
        with self.assertRaises(NotSignedIn):
            signin.sitter_of(self.ctx, delivery.delivery_of(secret))
        self.clock.pass_by(hours=24 * 14 + 1)
        with self.assertRaises(NotFound):
            delivery.delivering(self.ctx, delivery.delivery_of(secret))

    def test_after_the_close_they_wait_for_a_decision(self) -> None:
        me, secret = self.secret(2)
        held = self.answers(me, "A", "B")
        running.close(self.ctx, self.boss, self.session)
        receipt = saving.save(self.ctx, delivery.delivering(self.ctx, delivery.delivery_of(secret)), held)
        self.assertEqual((receipt.acknowledged, len(receipt.refused)), ([], 2))
        self.assertEqual(lateanswers.settle(self.ctx, self.boss, self.session, me.sitting_id, True, "no network"), 2)

    def test_another_device_that_went_on_is_not_submitted_by_the_first(self) -> None:
        self.secret(2)
        first, _ = self.secret(2)
        self.secret(2)
        self.assertEqual(taking.hand_in(self.ctx, first, True, self.clock.now), "answering")
        self.assertEqual(self.line(first).state, "answering")


class Provisional(DeviceCase):
    def setUp(self) -> None:
        super().setUp()
        self.limit(30)
        self.believed = self.end(self.first)  # the device hears no more from here on

    def back_after(self, **time: float) -> str:
        """The device took the time to be over at the end it knew of, and is heard so much later."""
        self.clock.pass_by(seconds=(self.believed - self.clock.now).total_seconds())
        self.clock.pass_by(**time)
        return taking.hand_in(self.ctx, self.first, True, self.believed)

    def test_it_is_submitted_at_the_time_it_was_over(self) -> None:
        self.assertEqual(self.back_after(minutes=25), "handed_in")
        self.assertEqual(self.line(self.first).handed_in_at, self.believed)
        self.assertEqual(self.line(self.first).room.device, ["submitted without a network (its time was over)"])
        with self.assertRaises(Conflict):
            taking.hand_in(self.ctx, self.first, True, self.believed)

    def test_a_pause_it_did_not_hear_of_is_given_back_to_the_second(self) -> None:
        self.clock.pass_by(minutes=5)
        self.do("pause")
        self.clock.pass_by(minutes=6, seconds=17)
        self.do("resume")
        self.assertEqual(self.back_after(minutes=40), "answering")
        self.assertEqual(self.end(self.first) - self.clock.now, timedelta(minutes=6, seconds=17))
        self.assertIn("open again with 6 min left", self.line(self.first).room.device[0])

    def test_minutes_given_meanwhile_are_left(self) -> None:
        self.do("minutes", self.first, minutes=8)
        self.assertEqual(self.back_after(minutes=2), "answering")
        self.assertEqual(self.end(self.first) - self.clock.now, timedelta(minutes=8))

    def test_while_it_is_paused_it_waits_with_the_rest(self) -> None:
        self.clock.pass_by(minutes=20)
        self.do("pause")
        self.assertEqual(self.back_after(minutes=1), "answering")
        self.do("resume")
        self.assertEqual(self.end(self.first) - self.clock.now, timedelta(minutes=10))

    def test_a_student_who_submitted_is_done_whatever_was_given(self) -> None:
        self.do("minutes", self.first, minutes=8)
        self.clock.pass_by(minutes=10)
        at = self.clock.now
        self.clock.pass_by(minutes=10)
        self.assertEqual(taking.hand_in(self.ctx, self.first, False, at), "handed_in")
        self.assertEqual(self.line(self.first).handed_in_at, at)

    def test_a_clock_of_a_device_is_believed_between_start_and_now(self) -> None:
        began = now = self.clock.now
        self.assertEqual(taking.hand_in(self.ctx, self.first, False, now + timedelta(hours=3)), "handed_in")
        self.assertEqual(self.line(self.first).handed_in_at, now)
        self.clock.pass_by(minutes=1)
        taking.hand_in(self.ctx, self.second, False, now - timedelta(days=3))
        self.assertEqual(self.line(self.second).handed_in_at, began)


class Devices(DeviceCase):
    def test_the_proctor_reads_what_a_device_cannot_do_and_what_it_holds(self) -> None:
        check = DeviceCheck(keeps=False, ahead=-240, holds=6, width=300)
        signs.sign(self.ctx, self.first, "checked", device=check)
        self.assertEqual(
            self.line(self.first).room.device,
            [
                "its device holds 6 answers of another student",
                "its device cannot keep answers while the network is away",
                "its clock is 4 min slow",
                "its window is only 300 points wide",
            ],
        )
        signs.sign(self.ctx, self.second, "checked", device=DeviceCheck(holds=-3))
        self.assertEqual(self.line(self.second).room.device, [], "a number that no device can mean")
        signs.sign(self.ctx, self.first, "offline", seconds=240)
        self.assertEqual(self.line(self.first).room.offline_for, "without a network once, 4 min")

    def test_a_second_device_is_asked_first(self) -> None:
        _, secret = self.secret(2)
        codes = self.detail.session.code, self.detail.sittings[2].code or "", "here"
        self.assertTrue(signin.who(self.ctx, *codes).elsewhere)
        self.assertFalse(signin.who(self.ctx, *codes, secret).elsewhere, "this is the device that has it")
        self.clock.pass_by(minutes=5)
        self.assertFalse(signin.who(self.ctx, *codes).elsewhere, "the other one is silent")

    def test_an_attempt_is_moved_to_another_device_by_the_proctor(self) -> None:
        me, secret = self.secret(2)
        held = self.answers(me, "A")
        self.do("move", me)
        with self.assertRaises(NotSignedIn):
            signin.sitter_of(self.ctx, secret)
        there, _ = self.secret(2)
        saving.save(self.ctx, delivery.delivering(self.ctx, delivery.delivery_of(secret)), held)
        self.assertEqual(self.present(there), ["A"])


class OwnPage(DeviceCase):
    def at_home(self) -> tuple[ownpage.Occasion, Own]:
        with self.ctx.store.read() as db:
            code = db.scalars(select(SchoolClass.code).where(SchoolClass.id == self.class_id())).one() or ""
        token = signin.sign_in_student(self.ctx, code, self.detail.sittings[3].code or "", "here")
        own = signin.own_of(self.ctx, token.secret, "student")
        found = ownpage.own_page(self.ctx, own, False).children[0].occasions
        return next(o for o in found if o.session_id == self.session), own

    def test_what_came_since_the_last_visit_is_new(self) -> None:
        first, _ = self.at_home()
        self.assertEqual(first.news, "", "at a first visit nothing is")
        self.assertEqual(self.at_home()[0].news, "")

        def forget(db: Session) -> None:
            db.execute(update(Person).values(seen_sitting=0))

        self.ctx.store.write(forget)
        self.assertEqual(self.at_home()[0].news, "new")
        self.assertEqual(self.at_home()[0].news, "", "and only once")

    def test_it_says_how_long_and_that_another_device_has_it(self) -> None:
        self.limit(40)
        self.assertEqual((self.at_home()[0].minutes, self.at_home()[0].elsewhere), (40, False))
        self.secret(3)
        self.assertTrue(self.at_home()[0].elsewhere)
        self.clock.pass_by(minutes=10)
        self.assertFalse(self.at_home()[0].elsewhere)

    def test_a_student_who_is_not_at_school_says_so_and_it_is_kept(self) -> None:
        codes = self.detail.session.code, self.detail.sittings[3].code or "", "here"
        signin.sign_in_student(self.ctx, *codes, at_home=True)
        ways = [line.way for line in self.page().sittings]
        self.assertEqual(ways, ["school", "school", "", "home", ""])
