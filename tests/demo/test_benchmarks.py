"""What the demo's students answer: whole sessions, sessions that are half way, and what is known of them beforehand."""

from __future__ import annotations

from datetime import timedelta
from functools import partial

from sqlalchemy import func, select

from bildung.core.classical.settings import DEFAULTS
from bildung.core.data.simulate import ItemParameters
from bildung.demo.benchmarks import Question, answered, questions
from bildung.demo.winter import _half_way
from bildung.services.answers.analysed import analyse_sessions
from bildung.store.models import PackedAnswers, PlannedSession, Response, ResponseEvent, Sitting, TimeOn
from tests.services.participation.support import OwedCase


class Taking(OwedCase):
    def setUp(self) -> None:
        super().setUp()
        with self.ctx.store.read() as db:
            self.asked: list[Question] = questions(db, self.form)

    def count(self, table: type) -> int:
        with self.ctx.store.read() as db:
            return db.scalar(select(func.count()).select_from(table)) or 0

    def take(self, session: int, ability: float, **more: object) -> None:
        self.ctx.store.write(
            partial(answered, session_id=session, asked=self.asked, ability=lambda _: ability, **more)  # type: ignore[arg-type]
        )

    def mean(self, session: int) -> float:
        with self.ctx.store.read() as db:
            analysis, _ = analyse_sessions(db, self.form, [session], DEFAULTS)
        return analysis.distribution.mean or 0.0

    def test_a_session_is_closed_and_everybody_has_submitted_or_was_absent(self) -> None:
        session = self.plan(0, -3)
        self.take(session, 0.0)
        states = set(self.listed(session).values())
        self.assertLessEqual(states, {"handed_in", "absent"})
        with self.ctx.store.read() as db:
            self.assertIsNotNone(db.get_one(PlannedSession, session).closed_at)
            self.assertIsNotNone(db.get(PackedAnswers, session))
            for sitting in db.scalars(select(Sitting).where(Sitting.state == "handed_in")):
                self.assertTrue(sitting.started_at and sitting.handed_in_at)
                self.assertLess(sitting.started_at, sitting.handed_in_at)  # type: ignore[operator,arg-type]
        self.assertEqual(self.count(Response), self.count(ResponseEvent))

    def test_who_knows_more_earns_more(self) -> None:
        weak, strong = self.plan(0, -3), self.plan(1, -3)
        self.take(weak, -3.0)
        self.take(strong, 3.0)
        self.assertLess(self.mean(weak) + 1.5, self.mean(strong))

    def test_of_last_year_only_the_answers_are_left(self) -> None:
        self.take(self.plan(0, -3), 0.0, log=False)
        self.assertGreater(self.count(Response), 0)
        self.assertEqual((self.count(ResponseEvent), self.count(TimeOn)), (0, 0))

    def test_the_same_item_is_as_hard_wherever_it_stands_unless_it_is_known(self) -> None:
        with self.ctx.store.read() as db:
            again = questions(db, self.form)
            truth = ItemParameters(discrimination=1.7, difficulty=-1.1, guessing=0.1, right=0, pull=(1.0,))
            said = questions(db, self.form, {self.placed[0].code: truth})
        self.assertEqual(again, self.asked)
        self.assertEqual((said[0].discrimination, said[0].difficulty), (1.7, -1.1))
        self.assertEqual(said[1:], self.asked[1:])
        self.assertTrue(all(q.right not in q.wrong for q in self.asked))

    def test_a_session_that_is_open_has_some_at_work_and_nobody_beyond_the_last_item(self) -> None:
        session = self.plan(0, -0.5)
        work = partial(
            _half_way,
            session_id=session,
            asked=self.asked,
            ability=lambda _: 0.0,
            now=self.clock.now,
            proctors=[],
        )
        self.ctx.store.write(work)
        states = list(self.listed(session).values())
        self.assertLessEqual(set(states), {"handed_in", "answering", "not_started"})
        self.assertIn("answering", states)
        with self.ctx.store.read() as db:
            given = db.execute(
                select(Sitting.state, func.count(), Sitting.last_at)
                .join(Response, Response.sitting_id == Sitting.id)
                .where(Sitting.session_id == session)
                .group_by(Sitting.id)
            ).all()
            self.assertIsNone(db.get_one(PlannedSession, session).closed_at)
        for state, n, last in given:
            self.assertLess(last, self.clock.now + timedelta(seconds=1))
            if state == "answering":
                self.assertLess(n, len(self.asked))
