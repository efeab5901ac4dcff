"""A session closed by mistake goes on; answers that came too late are kept and decided about; days are the school's."""

from __future__ import annotations

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import select, text

from bildung.core.school.schooltime import instant_at
from bildung.services.answers import packing
from bildung.services.calendar import windows
from bildung.services.door import signin
from bildung.services.sessions import lateanswers, listing, running, scheduling
from bildung.services.shared.access import Sitter
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.sitting import events, saving, taking
from bildung.services.upkeep import studentrecord
from bildung.services.upkeep.rounds import Upkeep
from bildung.store.models import AuditEntry, Enrolment, Federation, PackedAnswers, RefusedAnswer, Sitting
from tests.services.sitting.test_sitting import SittingCase
from tests.support import NOON, WorldCase, small_roster


class Reopening(SittingCase):
    def reopen(self, hours: float = 1.0, why: str = "closed by mistake") -> None:
        running.open_again(self.ctx, self.boss, self.session.id, self.clock() + timedelta(hours=hours), why)

    def test_who_was_cut_off_goes_on_and_who_was_made_absent_can_come(self) -> None:
        me, done = self.join(0), self.join(1)
        saving.save(self.ctx, me, [self.message(me, 1, "B", 1)])
        taking.hand_in(self.ctx, done)
        detail = listing.get_session(self.ctx, self.boss, self.session.id)
        ill = next(s.id for s in detail.sittings if s.code == self.codes[2])
        running.mark(self.ctx, self.boss, self.session.id, ill, "absent")
        running.close(self.ctx, self.boss, self.session.id)
        self.clock.pass_by(hours=3)
        self.assertTrue(listing.get_session(self.ctx, self.boss, self.session.id).may_open_again)
        self.reopen()
        self.assertEqual([self.state(at) for at in range(4)], ["answering", "handed_in", "absent", "not_started"])
        self.assertEqual(taking.standing(self.ctx, me).state, "answering")
        again = self.join(0)
        self.assertEqual(self.present(again)[1], "B")
        self.assertEqual(saving.save(self.ctx, again, [self.message(again, 2, "A", 1)]).refused, [])
        self.assertEqual(self.join(3).takeover, 1)
        with self.ctx.store.read() as db:
            self.assertIsNone(db.get(PackedAnswers, self.session.id))
            entry = db.scalars(select(AuditEntry).where(AuditEntry.action == "session.open_again")).one()
        self.assertEqual(entry.why, "closed by mistake")
        running.close(self.ctx, self.boss, self.session.id)
        self.assertEqual(self.state(0), "handed_in")

    def test_it_needs_a_reason_an_end_ahead_and_a_session_that_is_closed_and_not_released(self) -> None:
        with self.assertRaisesRegex(Conflict, "is open"):
            self.reopen()
        running.close(self.ctx, self.boss, self.session.id)
        for hours, why, said in ((-1, "x", "lies ahead"), (24 * 61, "x", "within 60 days"), (1, " ", "1 to 300")):
            with self.assertRaisesRegex(Invalid, said):
                self.reopen(hours, why)
        running.release(self.ctx, self.boss, self.session.id)
        with self.assertRaisesRegex(Conflict, "have seen the correct answers"):
            self.reopen()
        with self.assertRaises(NotFound):
            running.open_again(
                self.ctx,
                self.teacher_of(self.class_id("Reading")),
                self.session.id,
                self.clock() + timedelta(hours=1),
                "x",
            )

    def late(self) -> Sitter:
        me = self.join()
        saving.save(self.ctx, me, [self.message(me, 1, "B", 1)])
        running.close(self.ctx, self.boss, self.session.id)
        receipt = saving.save(self.ctx, me, self.messages)
        self.assertEqual([why for _, why in receipt.refused], ["this test is already submitted"] * 2)
        return me

    @property
    def messages(self) -> list[events.Answer]:
        with self.ctx.store.read() as db:
            items = list(db.execute(text("SELECT id FROM form_item ORDER BY position")).scalars())
        return [
            events.Answer(id=f"held-back-{n}", question=items[n], answer="C", takeover=1, sequence=2 + n)
            for n in range(2)
        ]

    def test_late_answers_are_kept_once_and_taken_in_by_decision_in_their_order(self) -> None:
        me = self.late()
        saving.save(self.ctx, me, self.messages)
        detail = listing.get_session(self.ctx, self.boss, self.session.id)
        self.assertEqual([(a.answer, a.now) for a in detail.late], [("C", "B"), ("C", "")])
        before = detail.session
        self.assertEqual(
            lateanswers.settle(self.ctx, self.boss, self.session.id, me.sitting_id, True, "the network was away"), 2
        )
        with self.ctx.store.read() as db:
            pack = packing.packs(db, [before.id])[0]
            column = pack.sittings.tolist().index(me.sitting_id)
            given = [
                ["", *pack.labels[item]][row[column]] for item, row in zip(pack.form_items, pack.codes, strict=True)
            ]
            self.assertEqual(given[:3], ["C", "C", ""])
            entry = db.scalars(select(AuditEntry).where(AuditEntry.action == "answers.take")).one()
        self.assertEqual((entry.after, entry.why), ({"answers": 2}, "the network was away"))
        self.assertEqual(listing.get_session(self.ctx, self.boss, self.session.id).late, [])
        with self.assertRaisesRegex(Conflict, "nothing waits any more"):
            lateanswers.settle(self.ctx, self.boss, self.session.id, me.sitting_id, True, "")

    def test_dismissed_they_change_nothing(self) -> None:
        me = self.late()
        lateanswers.settle(self.ctx, self.boss, self.session.id, me.sitting_id, False, "")
        with self.ctx.store.read() as db:
            self.assertEqual({row.taken for row in db.scalars(select(RefusedAnswer))}, {False})
            self.assertEqual(packing.packs(db, [self.session.id])[0].labels[self.messages[0].question], ["B"])
            person = db.get_one(Sitting, me.sitting_id).person_id
        told = studentrecord.export_record(self.ctx, self.boss, person)["sittings"][0]["answers_that_came_too_late"]
        self.assertEqual([(a["number"], a["answer"], a["taken_in"]) for a in told], [(1, "C", False), (2, "C", False)])

    def test_what_could_never_be_an_answer_is_not_kept(self) -> None:
        me = self.join()
        running.close(self.ctx, self.boss, self.session.id)
        saving.save(
            self.ctx,
            me,
            [
                events.Answer(id="odd-message-1", question=999_999, answer="A", takeover=1, sequence=1),
                events.Answer(
                    id="odd-message-2", question=self.messages[0].question, answer="Z", takeover=1, sequence=2
                ),
            ],
        )
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(RefusedAnswer)).all(), [])

    def test_a_clock_that_jumped_closes_nothing_until_a_second_reading_agrees(self) -> None:
        self.join()
        counted = [0.0]
        self.ctx.counter = lambda: counted[0]
        upkeep = Upkeep([running.close_overdue, taking.hand_in_overdue], [])
        upkeep.look(self.ctx)
        self.clock.pass_by(hours=5)
        counted[0] += 30
        with self.assertLogs("bildung", "WARNING"):
            upkeep.look(self.ctx)
        self.assertEqual(self.state(), "answering")
        self.clock.pass_by(hours=-5)
        counted[0] += 30
        upkeep.look(self.ctx)
        self.clock.pass_by(seconds=30)
        counted[0] += 30
        upkeep.look(self.ctx)
        self.assertEqual(self.state(), "answering", "a glitch closed nothing")
        self.clock.pass_by(hours=5)
        for _ in range(2):
            counted[0] += 30
            self.clock.pass_by(seconds=30)
            upkeep.look(self.ctx)
        self.assertEqual(self.state(), "answering", "the server has been back for less than five minutes")
        counted[0] += 300
        self.clock.pass_by(seconds=300)
        upkeep.look(self.ctx)
        self.assertEqual(self.state(), "handed_in", "a clock that stays is the time")


class FarAway(WorldCase):
    def test_on_their_last_day_a_student_takes_the_test_of_the_afternoon_wherever_the_school_is(self) -> None:
        for zone in ("America/Los_Angeles", "Europe/Berlin", "Pacific/Auckland"):
            self.setUp()
            self.bring_people(small_roster(4))
            self.bring_items(3)
            form = self.make_form()
            here = ZoneInfo(zone)
            today = datetime(2026, 11, 23)

            def leaves(db: object, zone: str = zone, today: datetime = today) -> None:
                db.scalars(select(Federation)).one().zone = zone  # type: ignore[attr-defined]
                first = db.scalars(
                    select(Enrolment).where(Enrolment.class_id == self.class_id(), Enrolment.role == "student")
                ).first()  # type: ignore[attr-defined]
                first.ends = today.date()

            self.ctx.store.write(leaves)
            for day, expected in ((23, 4), (24, 3)):
                start, end = (instant_at(datetime(2026, 11, day, hour), here) for hour in (15, 17))
                (made,) = scheduling.schedule(
                    self.ctx, self.boss, form, self.window_id, [self.class_id()], "", None, start, end
                )
                with self.subTest(zone=zone, day=day):
                    self.assertEqual(len(listing.get_session(self.ctx, self.boss, made).sittings), expected)
                self.ctx.store.write(
                    lambda db: db.execute(text("DELETE FROM sitting")) and db.execute(text("DELETE FROM session"))
                )

    def test_a_year_that_is_none_of_a_schools_is_named(self) -> None:
        self.bring_people(small_roster(4))
        self.bring_items(3)
        form = self.make_form()
        for year in (2019, 2062):
            start = NOON.replace(year=year)
            with self.assertRaisesRegex(Invalid, f"{year} is not this school year"):
                scheduling.schedule(
                    self.ctx,
                    self.boss,
                    form,
                    self.window_id,
                    [self.class_id()],
                    "",
                    None,
                    start,
                    start + timedelta(hours=1),
                )
        with self.assertRaisesRegex(Invalid, "years are between"):
            windows.create_window(self.ctx, self.boss, "Odd", datetime(206, 1, 1).date(), datetime(206, 2, 1).date())
        self.assertEqual(signin.STAFF_HOURS, 12)
