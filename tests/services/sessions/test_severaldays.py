"""Several days as an accommodation: an attempt rests when its session ends and is gone on with in another one."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy import func, select

from bildung.core.participation.standing import Reason, Standing
from bildung.formats.blueprint import FormSettings
from bildung.services.building import forms, formsettings
from bildung.services.door import signin
from bildung.services.own import ownpage
from bildung.services.participation import exemptions
from bildung.services.people import accommodations
from bildung.services.people.accommodations import Entered
from bildung.services.sessions import changing, listing, makeups, placing, running
from bildung.services.shared.access import Own, Sitter
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.sitting import saving, signs, taking
from bildung.services.sitting.events import Answer
from bildung.store.models import ResponseEvent
from tests.services.participation.support import HOUR, OwedCase


class SeveralDays(OwedCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.plan(0, 0)
        self.student, self.other, *_ = self.students(0)
        accommodations.enter(self.ctx, self.boss, self.student, Entered(kind="multi_day"))

    def join(self, session: int, person: int) -> Sitter:
        found = listing.get_session(self.ctx, self.boss, session)
        code = next(line.code for line in found.sittings if line.person == person)
        return signin.sitter_of(
            self.ctx, signin.sign_in_student(self.ctx, found.session.code, code or "", "here").secret
        )

    def answer(self, me: Sitter, number: int) -> None:
        question = taking.paper(self.ctx, me).questions[number - 1]
        for text in ("A", "7"):
            id = f"m-{me.takeover}-{number:04d}-{text}"
            sent = Answer(id=id, question=question.id, answer=text, takeover=me.takeover, sequence=number)
            if saving.save(self.ctx, me, [sent]).acknowledged:
                return
        self.fail("neither a choice nor a number")

    def given(self, me: Sitter) -> int:
        return sum(q.answer != "" for q in taking.paper(self.ctx, me).questions)

    def until(self, session: int) -> datetime:
        return next(
            line.until
            for line in listing.get_session(self.ctx, self.boss, session).sittings
            if line.person == self.student
        )

    def limit(self, minutes: int) -> None:
        """The same items in a test with a time limit of its own, scheduled instead of the other."""
        changing.cancel(self.ctx, self.boss, [self.session], "another test", still_owed=False)
        versions = [i.version_id for i in forms.get_form(self.ctx, self.boss, self.form).items]
        made = forms.create_form(self.ctx, self.boss, "A short form", "", "Mathematics", "5")
        made = forms.set_items(self.ctx, self.boss, made.id, made.revision, versions)
        said = FormSettings.model_validate({**made.settings.model_dump(), "minutes": minutes})
        formsettings.change(self.ctx, self.boss, made.id, made.revision, made.title, made.kind, "", said)
        now = forms.get_form(self.ctx, self.boss, made.id)
        self.form = forms.publish(self.ctx, self.boss, made.id, now.revision).id
        self.session = self.plan(0, 0)

    def rested(self) -> Sitter:
        """Two answers, then the session is closed."""
        me = self.join(self.session, self.student)
        self.answer(me, 1)
        self.answer(me, 2)
        self.join(self.session, self.other)
        self.clock.pass_by(minutes=20)
        running.close(self.ctx, self.boss, self.session)
        return me

    def go_on(self, hours: float = 24) -> int:
        """A session for the rest, as the page of makeups schedules it."""
        start = self.clock.now + timedelta(hours=hours)
        slot = placing.Slot(start=start, end=start + HOUR, room="12", proctor_id=None)
        wish = makeups.MakeupWish(session=self.session, people=[self.student], slot=slot)
        return makeups.schedule_makeups(self.ctx, self.boss, [wish])[0]

    def test_at_the_close_it_rests_and_the_others_are_submitted(self) -> None:
        me = self.rested()
        listed = self.listed(self.session)
        self.assertEqual((listed[self.student], listed[self.other]), ("resting", "handed_in"))
        one = self.of(self.student).owed
        self.assertEqual((one.standing, one.reason), (Standing.NOT_SCHEDULED, Reason.UNFINISHED))
        self.assertIn(
            "1 to be continued on another day", listing.get_session(self.ctx, self.boss, self.session).finding
        )
        own = Own(person_id=self.student, name="", sign_in_id=0, csrf="")
        (child,) = ownpage.own_page(self.ctx, own, False).children
        self.assertEqual([(o.state, o.joinable) for o in child.occasions], [("resting", False)])
        self.assertRegex(child.sentence, r"^You continue .* on another day\.$")
        (refused,) = saving.save(self.ctx, me, [self.late(me)]).refused
        self.assertEqual(refused[1], "this test is already submitted")
        with self.assertRaises(Invalid):
            self.join(self.session, self.student)

    def late(self, me: Sitter) -> Answer:
        with self.ctx.store.read() as db:
            place = db.scalars(
                select(ResponseEvent.form_item_id).where(ResponseEvent.sitting_id == me.sitting_id)
            ).first()
        return Answer(id="m-late-0001", question=place or 0, answer="A", takeover=me.takeover, sequence=9)

    def test_it_goes_on_with_its_answers_in_a_session_of_its_own_and_counts_once(self) -> None:
        self.rested()
        needing = makeups.propose(self.ctx, self.boss, self.window_id)
        why = {s.person: s.why for m in needing.makeups for t in m.tests for s in t.students}
        why |= {s.person: s.why for s in needing.left}
        self.assertEqual(why[self.student], "to be continued")
        session = self.go_on()
        self.assertEqual(self.standing(self.student), Standing.SCHEDULED)
        self.assertEqual(self.listed(session), {self.student: "resting"})
        self.assertNotIn(self.student, self.listed(self.session))
        self.assertEqual(self.not_here(self.session)[self.student].split(" in ")[0], "continues it")
        self.clock.pass_by(hours=24)
        me = self.join(session, self.student)
        self.assertEqual(self.given(me), 2)
        self.assertEqual(self.standing(self.student), Standing.IN_PROGRESS)
        self.answer(me, 3)
        taking.hand_in(self.ctx, me)
        self.assertEqual(self.standing(self.student), Standing.SUBMITTED)
        running.close(self.ctx, self.boss, session)
        with self.ctx.store.read() as db:
            events = select(func.count()).select_from(ResponseEvent).where(ResponseEvent.sitting_id == me.sitting_id)
            self.assertEqual(db.scalar(events), 3)

    def test_the_minutes_of_the_first_day_count_and_no_others(self) -> None:
        self.limit(40)
        self.rested()
        session = self.go_on()
        self.clock.pass_by(hours=24, minutes=5)
        began = self.clock.now
        me = self.join(session, self.student)
        self.assertEqual(self.until(session), began + timedelta(minutes=20))
        self.clock.pass_by(minutes=27)
        signs.sign(self.ctx, me, "here")
        self.assertEqual(taking.hand_in_overdue(self.ctx), 1)
        self.assertEqual(self.standing(self.student), Standing.SUBMITTED)

    def test_a_device_that_submits_at_the_end_leaves_it_resting_and_a_student_who_submits_is_done(self) -> None:
        me = self.join(self.session, self.student)
        other = self.join(self.session, self.other)
        self.clock.pass_by(minutes=60)
        taking.hand_in(self.ctx, me, time_over=True)
        taking.hand_in(self.ctx, other, time_over=True)
        listed = self.listed(self.session)
        self.assertEqual((listed[self.student], listed[self.other]), ("resting", "handed_in"))
        self.assertEqual(taking.paper(self.ctx, me).state, "resting")
        session = self.go_on(1)
        self.clock.pass_by(hours=1)
        taking.hand_in(self.ctx, self.join(session, self.student))
        self.assertEqual(self.standing(self.student), Standing.SUBMITTED)

    def test_whose_minutes_are_used_up_is_submitted(self) -> None:
        self.limit(30)
        me = self.join(self.session, self.student)
        self.clock.pass_by(minutes=31)
        taking.hand_in(self.ctx, me, time_over=True)
        self.assertEqual(self.standing(self.student), Standing.SUBMITTED)

    def test_extended_time_counts_to_its_own_end(self) -> None:
        """Sixty minutes for a test of forty, in a session of sixty that ends for this student after ninety."""
        self.limit(40)
        accommodations.enter(self.ctx, self.boss, self.student, Entered(kind="extra_time", value="1.5"))
        self.clock.pass_by(minutes=20)
        me = self.join(self.session, self.student)
        self.clock.pass_by(minutes=50)
        running.close(self.ctx, self.boss, self.session)
        session = self.go_on()
        self.clock.pass_by(hours=24)
        began = self.clock.now
        me = self.join(session, self.student)
        self.assertEqual(self.until(session), began + timedelta(minutes=10))
        self.clock.pass_by(minutes=10)
        taking.hand_in(self.ctx, me, time_over=True)
        self.assertEqual(self.standing(self.student), Standing.SUBMITTED)

    def test_what_is_scheduled_for_the_rest_can_be_moved_canceled_and_missed(self) -> None:
        self.rested()
        first, second = self.go_on(24), self.go_on(48)
        self.assertEqual((self.listed(first), self.listed(second)), ({}, {self.student: "resting"}))
        placing.place(self.ctx, self.boss, first, [self.student])
        self.assertEqual((self.listed(first), self.listed(second)), ({self.student: "resting"}, {}))
        placing.merge(self.ctx, self.boss, first, second)
        self.assertEqual(self.listed(second), {self.student: "resting"})
        with self.assertRaises(Conflict):
            placing.unplace(self.ctx, self.boss, second, self.student)
        changing.cancel(self.ctx, self.boss, [second], "no heating")
        one = self.of(self.student).owed
        self.assertEqual((one.standing, one.reason), (Standing.NOT_SCHEDULED, Reason.UNFINISHED))
        third = self.go_on(24)
        self.clock.pass_by(hours=25)
        running.close(self.ctx, self.boss, third)
        self.assertEqual(self.listed(third), {self.student: "resting"}, "who does not come loses nothing")

    def test_an_exemption_ends_what_rests_and_its_end_brings_it_back(self) -> None:
        self.rested()
        wish = exemptions.ExemptionWish(people=[self.student], reason="medical", window_id=self.window_id)
        (id,) = exemptions.exempt(self.ctx, self.boss, wish)
        self.assertEqual(self.standing(self.student), Standing.EXEMPT)
        exemptions.end_exemption(self.ctx, self.boss, id)
        self.assertEqual(self.of(self.student).owed.reason, Reason.UNFINISHED)
