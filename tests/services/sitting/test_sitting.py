"""Sitting a test: nothing acknowledged is lost, nothing counts twice, the order is the device's."""

from __future__ import annotations

import threading
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from bildung.services.answers import packing
from bildung.services.door import signin
from bildung.services.sessions import listing, running
from bildung.services.shared.access import Sitter
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.sitting import events, saving, taking
from bildung.services.sitting.events import Answer
from bildung.store.models import PackedAnswers, Person, PlannedSession, Response, ResponseEvent, Sitting
from tests.support import WorldCase, small_roster


class SittingCase(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=6, items=5).session
        self.codes = self.codes_of(self.class_id())

    def join(self, at: int = 0, session: str | None = None) -> Sitter:
        token = signin.sign_in_student(self.ctx, session or self.session.code, self.codes[at], "here")
        return signin.sitter_of(self.ctx, token.secret)

    def present(self, sitter: Sitter) -> dict[int, str]:
        return {q.number: q.answer for q in taking.paper(self.ctx, sitter).questions}

    def message(self, sitter: Sitter, number: int, answer: str, sequence: int, **more: Any) -> Answer:
        question = taking.paper(self.ctx, sitter).questions[number - 1]
        return Answer(
            id=more.get("id", f"message-{sitter.sitting_id}-{sitter.takeover}-{sequence}"),
            question=question.id,
            answer=answer,
            takeover=sitter.takeover,
            sequence=sequence,
        )

    def state(self, at: int = 0) -> str:
        detail = listing.get_session(self.ctx, self.boss, self.session.id)
        return next(s.state for s in detail.sittings if s.code == self.codes[at])


class Saving(SittingCase):
    def test_what_is_acknowledged_is_there_after_a_reload(self) -> None:
        me = self.join()
        receipt = saving.save(self.ctx, me, [self.message(me, 1, "B", 1), self.message(me, 2, "C", 2)])
        self.assertEqual(len(receipt.acknowledged), 2)
        self.assertEqual({n: a for n, a in self.present(me).items() if a}, {1: "B", 2: "C"})

    def test_the_same_message_twice_counts_once_and_is_acknowledged_again(self) -> None:
        me = self.join()
        message = self.message(me, 1, "B", 1)
        first, second = saving.save(self.ctx, me, [message]), saving.save(self.ctx, me, [message])
        self.assertEqual(first.acknowledged, second.acknowledged)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(ResponseEvent)), 1)

    def test_a_message_id_used_for_something_else_is_refused(self) -> None:
        me, other = self.join(), self.join(1)
        message = self.message(me, 1, "B", 1, id="the-same-id")
        saving.save(self.ctx, me, [message])
        for sitter, again in (
            (me, self.message(me, 1, "C", 1, id="the-same-id")),
            (other, self.message(other, 1, "B", 1, id="the-same-id")),
        ):
            receipt = saving.save(self.ctx, sitter, [again])
            self.assertEqual(receipt.refused, [("the-same-id", "this message was used for something else")])
        self.assertEqual(self.present(me)[1], "B")

    def test_a_later_answer_stays_when_an_earlier_one_arrives_after_it(self) -> None:
        me = self.join()
        saving.save(self.ctx, me, [self.message(me, 1, "C", 5)])
        saving.save(self.ctx, me, [self.message(me, 1, "A", 4)])
        self.assertEqual(self.present(me)[1], "C")

    def test_a_new_device_takes_over_and_the_old_ones_late_answers_do_not_win(self) -> None:
        old = self.join()
        late = self.message(old, 1, "A", 99)
        new = self.join()
        saving.save(self.ctx, new, [self.message(new, 1, "B", 1)])
        receipt = saving.save(self.ctx, old, [late])
        self.assertEqual((receipt.acknowledged, receipt.takeover), ([late.id], new.takeover))
        self.assertEqual(self.present(new)[1], "B")

    def test_what_does_not_fit_is_refused_one_by_one_with_the_reason(self) -> None:
        me = self.join()
        choice = next(q.number for q in taking.paper(self.ctx, me).questions if q.shown.parts[0].type == "choice")
        good = self.message(me, choice, "A", 1)
        foreign = Answer(id="foreign-question", question=999_999, answer="A", takeover=me.takeover, sequence=2)
        odd = self.message(me, choice, "Q", 3)
        ahead = Answer(id="ahead-of-itself", question=good.question, answer="A", takeover=me.takeover + 1, sequence=4)
        receipt = saving.save(self.ctx, me, [foreign, good, odd, ahead])
        self.assertEqual(receipt.acknowledged, [good.id])
        self.assertEqual(
            [why for _, why in receipt.refused],
            ["this question is not on your test", "'Q' is not one of the choices", "the message is not in order"],
        )

    def test_the_present_answers_can_be_rebuilt_from_the_events_alone(self) -> None:
        me = self.join()
        for sequence, (number, answer) in enumerate([(1, "A"), (2, "B"), (1, "C"), (3, ""), (2, "D")], 1):
            saving.save(self.ctx, me, [self.message(me, number, answer, sequence)])
        before = self.present(me)

        def lose_and_rebuild(db: Session) -> None:
            db.execute(text("DELETE FROM response"))
            events.rebuild(db, me.sitting_id)

        self.ctx.store.write(lose_and_rebuild)
        self.assertEqual(self.present(me), before)

    def test_any_order_of_arrival_gives_the_same_answers(self) -> None:
        me = self.join()
        question = taking.paper(self.ctx, me).questions[0].id

        @settings(max_examples=12, deadline=None)
        @given(st.permutations([(1, 1, "A"), (1, 2, "B"), (1, 3, "C"), (2, 1, "D"), (2, 2, "A")]))
        def holds(order: list[tuple[int, int, str]]) -> None:
            def work(db: Session) -> str:
                for row in db.scalars(select(Response)):
                    db.delete(row)
                db.flush()
                for takeover, sequence, answer in order:
                    events.apply_event(
                        db,
                        me.sitting_id,
                        Answer(id="x" * 8, question=question, answer=answer, takeover=takeover, sequence=sequence),
                    )
                    db.flush()
                return db.get_one(Response, (me.sitting_id, question)).answer

            self.assertEqual(self.ctx.store.write(work), "A")

        holds()

    def test_many_at_once_are_all_kept_and_a_failure_among_them_hurts_nobody(self) -> None:
        sitters = [self.join(at) for at in range(6)]
        messages = [(s, self.message(s, 1 + n % 5, "A", n + 1)) for s in sitters for n in range(20)]
        failures: list[Exception] = []

        def fail(db: Session) -> None:
            raise ValueError("one bad piece of work")

        def send(part: list[tuple[Sitter, Answer]]) -> None:
            for sitter, message in part:
                if not saving.save(self.ctx, sitter, [message]).acknowledged:
                    failures.append(AssertionError(message.id))
                try:
                    self.ctx.store.write(fail)
                except ValueError:
                    continue
                failures.append(AssertionError("a failure went unnoticed"))

        threads = [threading.Thread(target=send, args=(messages[at::6],)) for at in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(failures, [])
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(ResponseEvent)), 120)


class Joining(SittingCase):
    def test_codes_are_taken_as_typed(self) -> None:
        code = self.session.code.lower()
        self.assertEqual(self.join(session=f" {code[:3]}-{code[3:]} ").takeover, 1)

    def test_unknown_codes_and_wrong_times_are_told_apart_and_change_nothing(self) -> None:
        for session, own, said in (
            ("NOSUCH", self.codes[0], "there is no session or class with this code"),
            (self.session.code, "NOBDY", "this code is not on the list of this session"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                signin.sign_in_student(self.ctx, session, own, "here")
        self.clock.pass_by(hours=-2)
        with self.assertRaisesRegex(Invalid, "has not opened yet"):
            self.join()
        self.clock.pass_by(hours=5)
        with self.assertRaisesRegex(Invalid, "is over"):
            self.join()
        self.assertEqual(self.state(), "not_started")

    def test_a_student_of_another_class_is_not_on_the_list(self) -> None:
        self.bring_people(small_roster(6, ("5", "6")))
        with self.ctx.store.read() as db:
            stranger = db.scalars(select(Person).where(Person.grade == "6")).first()
        assert stranger is not None and stranger.code is not None
        with self.assertRaisesRegex(Invalid, "this code is not on the list of this session"):
            signin.sign_in_student(self.ctx, self.session.code, stranger.code, "here")
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(Sitting)), 6)


class HandingIn(SittingCase):
    def test_a_second_time_changes_nothing_and_says_so(self) -> None:
        me = self.join()
        saving.save(self.ctx, me, [self.message(me, 1, "B", 1)])
        late = self.message(me, 2, "A", 2)
        taking.hand_in(self.ctx, me)
        with self.assertRaisesRegex(Conflict, "already submitted this test; nothing was changed"):
            taking.hand_in(self.ctx, me)
        receipt = saving.save(self.ctx, me, [late])
        self.assertEqual(receipt.refused, [(late.id, "this test is already submitted")])
        self.assertEqual(taking.paper(self.ctx, me).questions, [], "nothing to look at once it is handed in")
        with self.assertRaisesRegex(Invalid, "already submitted"):
            self.join()

    def test_closing_hands_in_who_answers_and_makes_the_others_absent(self) -> None:
        me = self.join()
        running.mark(self.ctx, self.boss, self.session.id, self.sitting_id(1), "exempt", "moved away")
        running.close(self.ctx, self.boss, self.session.id)
        self.assertEqual([self.state(at) for at in range(3)], ["handed_in", "exempt", "absent"])
        self.assertEqual(
            saving.save(
                self.ctx, me, [Answer(id="too-late-now", question=1, answer="A", takeover=1, sequence=1)]
            ).acknowledged,
            [],
        )
        with self.assertRaisesRegex(Conflict, "closed already"):
            running.close(self.ctx, self.boss, self.session.id)

    def test_an_overdue_session_closes_by_itself_after_its_grace(self) -> None:
        self.clock.pass_by(hours=1, minutes=5)
        self.assertEqual(running.close_overdue(self.ctx), 0)
        self.clock.pass_by(minutes=10)
        self.assertEqual(running.close_overdue(self.ctx), 1)
        with self.ctx.store.read() as db:
            self.assertIsNotNone(db.get_one(PlannedSession, self.session.id).closed_at)

    def test_an_absent_mark_can_be_taken_back_but_not_put_on_who_has_started(self) -> None:
        running.mark(self.ctx, self.boss, self.session.id, self.sitting_id(2), "absent")
        self.assertEqual(self.state(2), "absent")
        running.mark(self.ctx, self.boss, self.session.id, self.sitting_id(2), "back")
        self.assertEqual(self.state(2), "not_started")
        self.join(2)
        with self.assertRaisesRegex(Conflict, "has started"):
            running.mark(self.ctx, self.boss, self.session.id, self.sitting_id(2), "absent")

    def test_a_void_taken_back_after_closing_counts_with_what_was_answered(self) -> None:
        me = self.join()
        saving.save(self.ctx, me, [self.message(me, 1, "B", 1)])
        running.mark(self.ctx, self.boss, self.session.id, self.sitting_id(0), "void", "a phone")
        running.close(self.ctx, self.boss, self.session.id)
        running.mark(self.ctx, self.boss, self.session.id, self.sitting_id(0), "back")
        self.assertEqual(self.state(), "handed_in")

    def test_packed_answers_are_those_that_were_given(self) -> None:
        sitters = [self.join(at) for at in range(4)]
        for at, me in enumerate(sitters):
            for number in range(1, 6):
                if (at + number) % 4:
                    saving.save(self.ctx, me, [self.message(me, number, "ABCD"[(at + number) % 4], number)])

        def cells(found: list[packing.Pack]) -> list[list[str]]:
            p = found[0]
            return [
                ["", *p.labels[item]][code]
                for item, row in zip(p.form_items, p.codes, strict=True)
                for code in row.tolist()
            ]  # type: ignore[misc]

        with self.ctx.store.read() as db:
            before = packing.packs(db, [self.session.id])
            self.assertIsNone(db.get(PackedAnswers, self.session.id), "open sessions are read as they are")
        running.close(self.ctx, self.boss, self.session.id)
        self.ctx.store.write(lambda db: db.execute(text("DELETE FROM response")))
        with self.ctx.store.read() as db:
            after = packing.packs(db, [self.session.id])
        self.assertEqual(cells(after), cells(before))
        self.assertEqual(after[0].sittings.tolist(), before[0].sittings.tolist())

    def test_time_on_an_item_only_grows_is_summed_over_devices_and_survives_packing(self) -> None:
        me = self.join()
        first, second = (q.id for q in taking.paper(self.ctx, me).questions[:2])
        saving.save(self.ctx, me, [self.message(me, 1, "B", 1)], times={first: 4000, 999_999: 50})
        saving.save(self.ctx, me, [], times={first: 3000, second: 700})
        again = self.join()
        saving.save(self.ctx, again, [self.message(again, 2, "A", 1)], times={second: 9000})
        taking.hand_in(self.ctx, again)
        saving.save(self.ctx, again, [], times={second: 60_000})

        def spent() -> list[list[int]]:
            with self.ctx.store.read() as db:
                pack = packing.packs(db, [self.session.id])[0]
            assert pack.times is not None
            column = pack.sittings.tolist().index(me.sitting_id)
            return [pack.times[pack.form_items.index(item), column] for item in (first, second)]

        self.assertEqual(spent(), [4000, 9700])
        running.close(self.ctx, self.boss, self.session.id)
        self.assertEqual(spent(), [4000, 9700])

    def sitting_id(self, at: int) -> int:
        detail = listing.get_session(self.ctx, self.boss, self.session.id)
        return next(s.id for s in detail.sittings if s.code == self.codes[at])
