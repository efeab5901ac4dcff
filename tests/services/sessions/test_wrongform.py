"""A student who started on the wrong form goes on, or goes over to the right one with what both ask."""

from __future__ import annotations

from sqlalchemy import func, select

from bildung.services.building import formfamily, forms, makecompanions
from bildung.services.building.makecompanions import Wish
from bildung.services.door import signin
from bildung.services.people import accommodations
from bildung.services.people.accommodations import Entered
from bildung.services.sessions import listing, running, wrongform
from bildung.services.shared import jobs
from bildung.services.shared.access import Sitter
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.sitting import saving, taking
from bildung.services.sitting.events import Answer
from bildung.store.models import AuditEntry, ResponseEvent
from tests.services.participation.support import OwedCase


class WrongForm(OwedCase):
    def setUp(self) -> None:
        super().setUp()
        self.other = self.companion("adapted")
        self.session = self.plan(0, -0.25)
        self.student = self.students(0)[0]

    def companion(self, way: str) -> int:
        made = makecompanions.make(
            self.ctx,
            self.boss,
            self.form,
            Wish(way=way),
            jobs.begin(self.ctx, self.boss, ""),  # type: ignore[arg-type]
        )
        forms.publish(self.ctx, self.boss, made.form_id, forms.get_form(self.ctx, self.boss, made.form_id).revision)
        return made.form_id

    def line(self) -> listing.SittingLine:
        found = listing.get_session(self.ctx, self.boss, self.session)
        return next(s for s in found.sittings if s.person == self.student)

    def join(self) -> Sitter:
        line, code = self.line(), listing.get_session(self.ctx, self.boss, self.session).session.code
        return signin.sitter_of(self.ctx, signin.sign_in_student(self.ctx, code, line.code or "", "here").secret)

    def answer(self, me: Sitter, *numbers: int) -> dict[int, str]:
        """Something to each of these questions; what was said, by number."""
        questions, said, sequence = taking.paper(self.ctx, me).questions, {}, 0
        for n in numbers:
            for text in ("A", "7"):
                sequence += 1
                id = f"m-{me.takeover}-{sequence:04d}"
                sent = Answer(id=id, question=questions[n - 1].id, answer=text, takeover=me.takeover, sequence=sequence)
                if saving.save(self.ctx, me, [sent]).acknowledged:
                    said[n] = text
                    break
        return said

    def given(self, me: Sitter) -> list[str]:
        return [q.answer for q in taking.paper(self.ctx, me).questions if q.answer]

    def test_answers_to_what_both_ask_come_along_and_the_rest_stays_on_record(self) -> None:
        me = self.join()
        said = self.answer(me, 1, 2, 3)
        began = self.line().until
        accommodations.enter(self.ctx, self.boss, self.student, Entered(kind="form", value="adapted"))
        found = wrongform.choices(self.ctx, self.boss, self.session, self.line().id)
        self.assertEqual((found.form, found.answered), ("A form", len(said)))
        (other,) = found.others
        self.assertEqual((other.form_id, other.why), (self.other, "needs an adapted form"))
        wrongform.change_over(self.ctx, self.boss, self.session, self.line().id, self.other, True, "IEP")
        told = taking.standing(self.ctx, me)
        self.assertTrue(told.changed, "the device is told that staff did it")
        self.assertGreater(told.takeover, me.takeover)
        again = self.join()
        self.assertEqual(len(self.given(again)), other.shared)
        line = self.line()
        self.assertEqual((line.form_id, line.answered, line.until), (self.other, other.shared, began))
        self.assertIn("went over from A form to ", line.note)
        self.assertIn(f"with {other.shared} of {len(said)} answers: IEP", line.note)
        self.assertFalse(taking.standing(self.ctx, again).changed)
        with self.ctx.store.read() as db:
            events = db.scalar(select(func.count()).select_from(ResponseEvent))
            self.assertEqual(events, len(said) + other.shared, "no answer was lost")
            self.assertIsNotNone(db.scalar(select(AuditEntry.id).where(AuditEntry.action == "sitting.form")))

    def test_without_answers_everything_begins_again_in_the_time_that_is_left(self) -> None:
        me = self.join()
        self.answer(me, 1, 2)
        wrongform.change_over(self.ctx, self.boss, self.session, self.line().id, self.other, False, "IEP")
        self.assertEqual(self.given(self.join()), [])
        self.assertEqual(self.line().answered, 0)

    def test_what_the_old_device_still_sends_is_refused_and_not_mixed_in(self) -> None:
        me = self.join()
        question = taking.paper(self.ctx, me).questions[0].id
        wrongform.change_over(self.ctx, self.boss, self.session, self.line().id, self.other, True, "IEP")
        late = Answer(id="late-0001", question=question, answer="A", takeover=me.takeover, sequence=9)
        receipt = saving.save(self.ctx, me, [late])
        self.assertEqual(receipt.refused, [("late-0001", "this question is not on your test")])
        self.assertEqual(self.given(self.join()), [])

    def test_going_on_leaves_a_note_and_nothing_else(self) -> None:
        me = self.join()
        self.answer(me, 1)
        before = self.given(me)
        wrongform.go_on(self.ctx, self.boss, self.session, self.line().id, "nearly done")
        self.assertEqual((self.given(me), self.line().form_id), (before, None))
        self.assertRegex(self.line().note, "went on with A form: nearly done$")

    def test_only_while_it_is_in_progress_with_a_form_of_the_same_test_and_a_reason(self) -> None:
        ids = self.session, self.line().id
        with self.assertRaisesRegex(Conflict, "has not started"):
            wrongform.change_over(self.ctx, self.boss, *ids, self.other, True, "IEP")
        me = self.join()
        with self.assertRaises(Invalid):
            wrongform.change_over(self.ctx, self.boss, *ids, self.other, True, " ")
        with self.assertRaisesRegex(Invalid, "another published form of the same test"):
            wrongform.change_over(self.ctx, self.boss, *ids, self.make_form("Elsewhere"), True, "IEP")
        with self.assertRaises(NotFound):
            wrongform.choices(self.ctx, self.teacher_of(self.class_id("Reading")), *ids)
        taking.hand_in(self.ctx, me)
        with self.assertRaisesRegex(Conflict, "settled when it is scored"):
            wrongform.change_over(self.ctx, self.boss, *ids, self.other, True, "IEP")
        running.close(self.ctx, self.boss, self.session)
        with self.assertRaises(Conflict):
            wrongform.go_on(self.ctx, self.boss, *ids, "x")

    def test_taking_a_rule_away_opens_the_form_to_nobody_else(self) -> None:
        formfamily.add_rule(
            self.ctx,
            self.boss,
            forms.get_form(self.ctx, self.boss, self.other).family_id or 0,
            self.other,
            None,
            self.student,
        )
        self.assertEqual(self.line().form_id, self.other)
        family = forms.get_form(self.ctx, self.boss, self.other).family_id or 0
        (rule,) = formfamily.get_family(self.ctx, self.boss, family).rules
        formfamily.drop_rule(self.ctx, self.boss, family, rule.id)
        found = listing.get_session(self.ctx, self.boss, self.session).sittings
        self.assertEqual({s.form_id for s in found}, {None})
