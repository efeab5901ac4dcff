"""A plan that is being made when the server ends."""

from __future__ import annotations

from unittest.mock import patch

from sqlalchemy import select

from bildung.services.planning import asked, board, plans
from bildung.services.planning.document import write_wishes
from bildung.services.shared import jobs
from bildung.services.shared.errors import NotFound, Problem
from bildung.services.shared.jobs import Job, Stopped
from bildung.store.models import AskedPlan, Role
from tests.services.planning.support import PlanningCase


class CutOff(PlanningCase):
    def asked(self) -> None:
        """As the server leaves it when it is killed."""
        row = AskedPlan(
            school_id=self.school,
            window_id=self.window_id,
            person_id=self.boss_id,
            wishes=write_wishes(self.wishes()),
            again=False,
            at=self.clock.now,
        )
        self.ctx.store.write(lambda db: db.add(row))

    def left(self) -> int:
        with self.ctx.store.read() as db:
            return len(db.scalars(select(AskedPlan)).all())

    def resume(self) -> None:
        thread = asked.resume(self.ctx)
        assert thread is not None
        thread.join(60)

    def test_it_is_begun_again_and_whoever_looks_is_told(self) -> None:
        self.asked()
        page = board.board_page(self.ctx, self.boss, self.window_id, self.school)
        self.assertIn("Hanne Quill is having this window planned", page.making)
        self.resume()
        page = board.board_page(self.ctx, self.boss, self.window_id, self.school)
        self.assertEqual((page.making, bool(page.sessions), self.left()), ("", True, 0))
        self.assertIsNone(asked.resume(self.ctx), "once")

    def test_whoever_may_no_longer_plan_gets_none(self) -> None:
        self.asked()
        self.ctx.store.write(lambda db: [db.delete(role) for role in db.scalars(select(Role))])
        with self.assertLogs("bildung.services.planning.asked", "WARNING"):
            self.resume()
        self.assertEqual(self.left(), 0)

    def test_one_that_is_stopped_because_the_server_ends_is_begun_again(self) -> None:
        job = jobs.begin(self.ctx, self.boss, "plan")
        jobs.stop_all(self.ctx)
        with self.assertRaisesRegex(Stopped, "when it is back"):
            asked.make(self.ctx, self.boss, self.school, self.window_id, self.wishes(), job, False)
        self.assertEqual(self.left(), 1)
        self.resume()
        self.assertTrue(self.page().sessions)

    def test_nothing_is_left_of_one_that_ended_by_itself(self) -> None:
        made = asked.make(self.ctx, self.boss, self.school, self.window_id, self.wishes(), Job(), False)
        self.assertGreater(made, 0)
        with patch.object(plans, "make", side_effect=NotFound("gone")), self.assertRaises(Problem):
            asked.make(self.ctx, self.boss, self.school, self.window_id, self.wishes(), Job(), False)
        self.assertEqual(self.left(), 0)
