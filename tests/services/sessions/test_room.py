"""A session as it runs: clocks that stand still, help, restroom, messages, stopping a school, irregularities."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from sqlalchemy import select, text

from bildung.services.door import signin
from bildung.services.sessions import irregular, listing, room, running
from bildung.services.sessions.room import RoomAction
from bildung.services.sessions.roomview import STUCK
from bildung.services.shared.access import Actor, Grant, Sitter
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.sitting import saving, signs, taking
from bildung.services.sitting.events import Answer
from bildung.services.sitting.signs import SILENT
from bildung.store.models import Accommodation, AuditEntry, Form, Person, PlannedSession, Sitting
from tests.support import WorldCase


class RoomCase(WorldCase):
    """Five students; the first two are at work."""

    def setUp(self) -> None:
        super().setUp()
        self.detail = self.open_session(size=5, items=4)
        self.session = self.detail.session.id
        self.first, self.second = self.join(0), self.join(1)

    def join(self, n: int) -> Sitter:
        token = signin.sign_in_student(self.ctx, self.detail.session.code, self.detail.sittings[n].code or "", "here")
        return signin.sitter_of(self.ctx, token.secret)

    def do(self, kind: Any, *sitters: Sitter, **more: Any) -> int:
        wish = RoomAction(kind=kind, sittings=[s.sitting_id for s in sitters], **more)
        return room.act(self.ctx, self.boss, self.session, wish)

    def page(self) -> listing.SessionDetail:
        return listing.get_session(self.ctx, self.boss, self.session)

    def line(self, sitter: Sitter) -> listing.SittingLine:
        return next(line for line in self.page().sittings if line.id == sitter.sitting_id)

    def end(self, sitter: Sitter) -> Any:
        return taking.standing(self.ctx, sitter).end

    def limit(self, minutes: int, **more: object) -> None:
        """As if the form had been published so; the store holds that it never changes."""

        def work(db: Any) -> None:
            wanted = text("SELECT name FROM sqlite_master WHERE type = 'trigger' AND tbl_name = 'form'")
            for name in db.scalars(wanted).all():
                db.execute(text(f"DROP TRIGGER {name}"))
            form = db.get_one(Form, db.get_one(PlannedSession, self.session).form_id)
            form.settings = {**form.settings, "minutes": minutes, **more}

        self.ctx.store.write(work)


class Clocks(RoomCase):
    def test_a_pause_costs_no_second(self) -> None:
        before = self.end(self.first)
        self.clock.pass_by(minutes=3)
        self.assertEqual(self.do("pause", self.first, text="fire drill"), 1)
        standing = taking.standing(self.ctx, self.first)
        self.assertEqual((standing.room.paused, standing.room.why), (True, "fire drill"))
        self.clock.pass_by(minutes=7, seconds=13)
        self.assertEqual(self.end(self.first), before + timedelta(minutes=7, seconds=13), "while it stands")
        self.do("resume", self.first)
        self.clock.pass_by(minutes=2)
        self.assertEqual(self.end(self.first), before + timedelta(minutes=7, seconds=13), "and afterwards")
        self.assertEqual(self.end(self.second), before, "nobody else's")
        self.assertFalse(taking.standing(self.ctx, self.first).room.paused)

    def test_it_moves_a_time_limit_of_the_test_as_well_and_nothing_submits_meanwhile(self) -> None:
        self.limit(20)
        before = self.end(self.first)
        self.do("pause")
        self.clock.pass_by(minutes=30)
        self.assertEqual(taking.hand_in_overdue(self.ctx), 0)
        self.do("resume")
        self.assertEqual(self.end(self.first), before + timedelta(minutes=30))
        self.clock.pass_by(minutes=26)
        self.assertEqual(taking.hand_in_overdue(self.ctx), 0, "their devices are out of reach and may hold answers")
        signs.sign(self.ctx, self.first, "here")
        self.assertEqual(taking.hand_in_overdue(self.ctx), 1, "this one is there")
        self.clock.pass_by(minutes=60)
        self.assertEqual(taking.hand_in_overdue(self.ctx), 1, "and an hour is enough for any")

    def test_whoever_joins_a_paused_session_waits_as_well(self) -> None:
        self.do("pause", text="network")
        third = self.join(2)
        self.assertTrue(taking.standing(self.ctx, third).room.paused)
        self.do("resume")
        self.assertFalse(taking.standing(self.ctx, third).room.paused)

    def test_the_session_does_not_close_by_itself_while_it_is_paused(self) -> None:
        self.do("pause")
        self.clock.pass_by(hours=5)
        self.assertEqual(running.close_overdue(self.ctx), 0)
        self.do("resume")
        self.clock.pass_by(hours=3)
        self.assertEqual(running.close_overdue(self.ctx), 1)

    def test_minutes_are_given_and_taken_back(self) -> None:
        before = self.end(self.first)
        self.do("minutes", self.first, minutes=10)
        self.assertEqual(self.end(self.first), before + timedelta(minutes=10))
        self.assertEqual(self.line(self.first).room.added, 10)
        self.do("minutes", self.first, minutes=-10)
        self.assertEqual(self.end(self.first), before)
        with self.assertRaisesRegex(Conflict, "not given"):
            self.do("minutes", self.first, minutes=-5)
        for wrong in (0, 61, -61):
            with self.assertRaisesRegex(Invalid, "1 to 60 minutes"):
                self.do("minutes", self.first, minutes=wrong)

    def test_the_restroom_costs_time_unless_the_test_says_otherwise(self) -> None:
        before = self.end(self.first)
        signs.sign(self.ctx, self.first, "restroom")
        self.clock.pass_by(minutes=4)
        self.assertTrue(taking.standing(self.ctx, self.first).room.away)
        self.do("back", self.first)
        self.assertEqual(self.end(self.first), before)
        self.assertEqual(self.line(self.first).room.restroom, "restroom once, 4 min")
        self.limit(50, breaks_stop=True)
        before = self.end(self.first)
        self.do("restroom", self.first)
        self.clock.pass_by(minutes=2)
        self.do("pause")  # the clock stands still anyway: those minutes count once
        self.clock.pass_by(minutes=3)
        self.do("resume")
        self.clock.pass_by(minutes=1)
        signs.sign(self.ctx, self.first, "back")
        self.assertEqual(self.end(self.first), before + timedelta(minutes=6))
        self.assertEqual(self.line(self.first).room.restroom, "restroom twice, 10 min")

    def test_a_student_with_breaks_as_an_accommodation_loses_none(self) -> None:
        self.accommodate(self.first, "breaks")
        before = self.end(self.first)
        for sitter in (self.first, self.second):
            signs.sign(self.ctx, sitter, "restroom")
        self.clock.pass_by(minutes=5)
        for sitter in (self.first, self.second):
            signs.sign(self.ctx, sitter, "back")
        self.assertEqual(self.end(self.first), before + timedelta(minutes=5))
        self.assertEqual(self.end(self.second), before)

    def accommodate(self, sitter: Sitter, kind: str) -> None:
        self.ctx.store.write(
            lambda db: db.add(
                Accommodation(
                    person_id=sitter.person_id,
                    kind=kind,
                    value="",
                    entered_at=self.clock.now,
                    approved_at=self.clock.now,
                )
            )
        )


class Signs(RoomCase):
    def test_help_is_a_quiet_sign_until_somebody_came(self) -> None:
        signs.sign(self.ctx, self.first, "help")
        self.clock.pass_by(minutes=2)
        line = self.line(self.first)
        self.assertEqual((line.room.signs, line.room.needs_you), (["asks for help, 2 min"], True))
        self.assertIn("1 student asks for help", self.page().finding)
        self.do("helped", self.first)
        self.assertEqual(self.line(self.first).room.signs, [])
        signs.sign(self.ctx, self.first, "help")
        signs.sign(self.ctx, self.first, "never_mind")
        self.assertFalse(self.line(self.first).room.help)

    def test_who_is_stuck_and_whose_device_is_silent(self) -> None:
        question = taking.paper(self.ctx, self.first).questions[0].id
        self.clock.pass_by(seconds=SILENT.total_seconds() - 10)
        signs.sign(self.ctx, self.second, "here")
        saving.save(
            self.ctx, self.first, [Answer(id="answer-01", question=question, answer="A", takeover=1, sequence=1)]
        )
        self.clock.pass_by(seconds=20)
        self.assertEqual(self.line(self.second).room.signs, [])
        self.clock.pass_by(seconds=SILENT.total_seconds())
        self.assertTrue(self.line(self.second).room.offline)
        signs.sign(self.ctx, self.second, "here")
        self.ctx.store.write_soon(lambda connection: None).result()
        self.assertIn("no answer, 5 min", self.line(self.second).room.signs)
        self.assertLess(2 * SILENT, STUCK + timedelta(minutes=1))
        self.assertIn("has not answered for five minutes", self.page().finding)

    def test_a_message_is_shown_until_it_was_read(self) -> None:
        self.do("message", self.first, text="Ten minutes to go.")
        told = taking.standing(self.ctx, self.first).room.message
        assert told is not None
        self.assertEqual(told.text, "Ten minutes to go.")
        self.assertIsNone(taking.standing(self.ctx, self.second).room.message)
        signs.sign(self.ctx, self.second, "read", message=told.id)  # somebody else's
        self.assertIsNotNone(taking.standing(self.ctx, self.first).room.message)
        signs.sign(self.ctx, self.first, "read", message=told.id)
        self.assertIsNone(taking.standing(self.ctx, self.first).room.message)
        for wrong in ("", "x" * 201):
            with self.assertRaises(Invalid):
                self.do("message", text=wrong)

    def test_leaving_the_page_is_counted(self) -> None:
        for seconds in (12, 40, -5):
            signs.sign(self.ctx, self.first, "left", seconds=seconds)
        self.assertEqual(self.line(self.first).room.left, "left the page 3 times, 52 s")

    def test_nothing_is_asked_of_who_is_not_at_work(self) -> None:
        taking.hand_in(self.ctx, self.first)
        with self.assertRaisesRegex(Conflict, "not open"):
            signs.sign(self.ctx, self.first, "help")
        with self.assertRaisesRegex(Conflict, "taking the test now"):
            self.do("pause", self.first)
        with self.assertRaises(NotFound):
            room.act(self.ctx, self.boss, self.session, RoomAction(kind="pause", sittings=[99_999]))
        running.close(self.ctx, self.boss, self.session)
        with self.assertRaisesRegex(Conflict, "closed"):
            self.do("pause")

    def test_the_log_says_what_was_done(self) -> None:
        self.do("pause", text="fire drill")
        with self.ctx.store.read() as db:
            entry = db.scalars(select(AuditEntry).where(AuditEntry.action == "room.pause")).one()
        self.assertEqual((entry.after, entry.why), ({"students": 2}, "fire drill"))


class WholeSchool(RoomCase):
    def school(self) -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(PlannedSession)).one().klass.school_id

    def test_all_open_sessions_stop_and_go_on(self) -> None:
        before = self.end(self.first)
        done = room.stop_all(self.ctx, self.boss, self.school(), "fire drill")
        self.assertEqual((done.sessions, done.students), (1, 2))
        self.assertTrue(self.page().paused)
        self.assertIn("The session is paused", self.page().finding)
        self.clock.pass_by(minutes=12)
        done = room.stop_all(self.ctx, self.boss, self.school(), "", resume=True)
        self.assertEqual((done.sessions, done.students), (1, 2))
        self.assertEqual(self.end(self.second), before + timedelta(minutes=12))
        with self.assertRaisesRegex(Conflict, "no session is stopped"):
            room.stop_all(self.ctx, self.boss, self.school(), "", resume=True)

    def test_it_wants_a_reason_and_the_right(self) -> None:
        with self.assertRaises(Invalid):
            room.stop_all(self.ctx, self.boss, self.school(), " ")
        with self.assertRaises(NotFound):
            room.stop_all(self.ctx, self.proctor(), self.school(), "fire drill")
        with self.assertRaises(NotFound):
            room.stop_all(self.ctx, self.boss, 999, "fire drill")

    def test_whoever_joins_meanwhile_reads_the_same(self) -> None:
        room.stop_all(self.ctx, self.boss, self.school(), "fire drill")
        self.assertEqual(taking.standing(self.ctx, self.join(2)).room.why, "fire drill")

    def proctor(self) -> Actor:
        return Actor(person_id=self.boss_id, name="", grants=(Grant("proctor", None),), sign_in_id=0, csrf="")


class Irregular(RoomCase):
    def note(self, text: str = "talked to another student", *sitters: Sitter) -> None:
        self.do("irregularity", *sitters, text=text)

    def open_lines(self) -> list[irregular.IrregularityLine]:
        return irregular.irregularities_page(self.ctx, self.boss, self.window_id).lines

    def state(self, sitter: Sitter) -> str:
        with self.ctx.store.read() as db:
            return db.get_one(Sitting, sitter.sitting_id).state

    def test_it_is_settled_from_a_list_after_seeing_what_was_answered_and_taken_back(self) -> None:
        question = taking.paper(self.ctx, self.first).questions[0].id
        saving.save(
            self.ctx, self.first, [Answer(id="answer-01", question=question, answer="A", takeover=1, sequence=1)]
        )
        self.note("used a phone", self.first)
        page = irregular.irregularities_page(self.ctx, self.boss, self.window_id)
        self.assertEqual(page.finding, "1 irregularity waits for a decision.")
        (line,) = page.lines
        self.assertEqual((line.text, line.answered, line.items, line.by), ("used a phone", 1, 4, "Hanne Quill"))
        for outcome, state in (("void", "void"), ("retake", "void"), ("exempt", "exempt"), ("counts", "answering")):
            irregular.settle(self.ctx, self.boss, line.id, outcome, "seen by two")  # type: ignore[arg-type]
            self.assertEqual(self.state(self.first), state, outcome)
            self.assertEqual(self.open_lines()[0].outcome, outcome)
        irregular.settle(self.ctx, self.boss, line.id, "void", "seen by two")
        irregular.settle(self.ctx, self.boss, line.id, "", "")
        self.assertEqual((self.state(self.first), self.open_lines()[0].outcome), ("answering", ""))

    def test_a_decision_wants_a_reason_and_a_student(self) -> None:
        self.note("the bell rang late")
        (line,) = self.open_lines()
        self.assertEqual((line.who, line.sitting), ("", None))
        with self.assertRaises(Invalid):
            irregular.settle(self.ctx, self.boss, line.id, "void", " ")
        with self.assertRaisesRegex(Conflict, "whole session"):
            irregular.settle(self.ctx, self.boss, line.id, "void", "noise")
        irregular.settle(self.ctx, self.boss, line.id, "counts", "")

    def test_it_can_be_noted_after_the_session_closed(self) -> None:
        running.close(self.ctx, self.boss, self.session)
        self.note("seen later", self.first)
        self.assertEqual(len(self.page().irregularities), 1)

    def test_whoever_only_holds_the_session_decides_nothing(self) -> None:
        with self.ctx.store.read() as db:
            holder = db.scalars(select(Person.id).where(Person.kind == "staff", Person.id != self.boss_id)).first() or 0
        self.ctx.store.write(lambda db: setattr(db.get_one(PlannedSession, self.session), "proctor_id", holder))
        proctor = Actor(person_id=holder, name="", grants=(Grant("proctor", None),), sign_in_id=0, csrf="")
        room.act(self.ctx, proctor, self.session, RoomAction(kind="irregularity", text="used a phone"))
        for state in ("void", "exempt", "interrupted"):
            with self.assertRaisesRegex(NotAllowed, "note an irregularity"):
                running.mark(self.ctx, proctor, self.session, self.first.sitting_id, state)
        running.mark(self.ctx, proctor, self.session, self.detail.sittings[4].id, "absent")
        with self.assertRaises(NotAllowed):
            irregular.irregularities_page(self.ctx, proctor, None)


class Reopened(RoomCase):
    def reopen(self, sitter: Sitter, actor: Actor | None = None) -> None:
        running.reopen(self.ctx, actor or self.boss, self.session, sitter.sitting_id, "pressed it by mistake")

    def test_it_goes_on_with_the_minutes_it_had(self) -> None:
        self.limit(40)
        self.clock.pass_by(minutes=10)
        left = self.end(self.first) - self.clock.now
        taking.hand_in(self.ctx, self.first)
        self.clock.pass_by(minutes=6)
        self.reopen(self.first)
        self.assertEqual(taking.paper(self.ctx, self.first).state, "answering")
        self.assertEqual(self.end(self.first) - self.clock.now, left)
        question = taking.paper(self.ctx, self.first).questions[0].id
        told = saving.save(
            self.ctx, self.first, [Answer(id="answer-99", question=question, answer="B", takeover=1, sequence=9)]
        )
        self.assertEqual(told.acknowledged, ["answer-99"])

    def test_of_a_closed_session_it_is_to_be_continued_and_in_no_total(self) -> None:
        taking.hand_in(self.ctx, self.first)
        running.close(self.ctx, self.boss, self.session)
        self.clock.pass_by(hours=1)
        self.reopen(self.first)
        self.assertEqual(self.line(self.first).state, "resting")
        self.assertEqual(self.page().session.counts["handed_in"], 1, "the other, whom the closing submitted")

    def test_not_after_right_answers_were_shown_or_the_window_is_over(self) -> None:
        taking.hand_in(self.ctx, self.first)
        with self.assertRaisesRegex(Conflict, "only a submitted"):
            self.reopen(self.second)
        with self.assertRaises(Invalid):
            running.reopen(self.ctx, self.boss, self.session, self.first.sitting_id, " ")
        running.close(self.ctx, self.boss, self.session)
        self.ctx.store.write(
            lambda db: setattr(db.get_one(PlannedSession, self.session), "released_at", self.clock.now)
        )
        with self.assertRaisesRegex(Conflict, "shown right answers"):
            self.reopen(self.first)
        self.ctx.store.write(lambda db: setattr(db.get_one(PlannedSession, self.session), "released_at", None))
        self.clock.pass_by(days=60)
        with self.assertRaisesRegex(Conflict, "window is over"):
            self.reopen(self.first)


class ClosedWhilePaused(RoomCase):
    def test_nobody_stays_paused_and_no_minute_is_lost_when_it_opens_again(self) -> None:
        self.limit(40)
        self.clock.pass_by(minutes=10)
        left = self.end(self.first) - self.clock.now
        self.do("pause", text="fire drill")
        self.clock.pass_by(minutes=8)
        running.close(self.ctx, self.boss, self.session)
        running.open_again(self.ctx, self.boss, self.session, self.clock.now + timedelta(hours=1), "closed too soon")
        standing = taking.standing(self.ctx, self.first)
        self.assertEqual((standing.state, standing.room.paused), ("answering", False))
        self.assertEqual(standing.end - self.clock.now, left)


class AnotherDay(RoomCase):
    def test_all_go_on_with_their_minutes_and_what_they_saw_is_noted(self) -> None:
        self.limit(40)
        paper = taking.paper(self.ctx, self.first)
        self.clock.pass_by(minutes=10)
        first = paper.questions[0].id
        answer = Answer(id="answer-01", question=first, answer="A", takeover=1, sequence=1)
        saving.save(self.ctx, self.first, [answer], times={first: 5000, paper.questions[1].id: 900})
        self.do("pause", text="lockdown")
        self.clock.pass_by(minutes=50)
        running.close(self.ctx, self.boss, self.session, "continue")
        lines = {line.id: line for line in self.page().sittings}
        mine = lines[self.first.sitting_id]
        self.assertEqual((mine.state, mine.note), ("resting", "stopped on Nov 23 after seeing 2 items"))
        self.assertEqual(lines[self.second.sitting_id].state, "resting")
        self.assertEqual(sum(line.state == "absent" for line in lines.values()), 3)
        with self.ctx.store.read() as db:
            self.assertEqual(db.get_one(Sitting, self.first.sitting_id).used_seconds, 600, "the pause is no work")

    def test_whoever_has_no_minutes_left_is_submitted(self) -> None:
        self.limit(20)
        self.clock.pass_by(minutes=20)
        running.close(self.ctx, self.boss, self.session, "continue")
        self.assertEqual(self.line(self.first).state, "handed_in")
        with self.assertRaises(Invalid):
            running.close(self.ctx, self.boss, self.session, "leave")  # type: ignore[arg-type]
