"""Several web workers on one store: what one does the others know, through the store alone."""

from __future__ import annotations

import asyncio
from typing import Any

from bildung.api.app import create_app
from bildung.core.classical.settings import DEFAULTS
from bildung.services.planning import known
from bildung.services.quality import reports
from bildung.services.quality.printing.asked import ReportRequest
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared import jobs
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.jobs import Stopped
from bildung.services.shared.sharing import SharedBus, Sharing
from bildung.services.upkeep import work
from bildung.store.store import Store
from tests.support import WorldCase


class Shared(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.first, self.second = (self.worker(number) for number in (0, 1))
        self.looks = [Sharing(ctx) for ctx in (self.first, self.second)]

    def worker(self, number: int) -> Context:
        store = Store(self.folder)
        self.addCleanup(store.close)
        return Context(store=store, clock=self.clock, bus=SharedBus(), worker=number, shared=True)

    def look(self) -> None:
        for sharing in (*self.looks, *self.looks):  # the second time it hears what the others said at their first
            sharing.look()

    def test_a_burst_reaches_the_other_once_and_comes_back_to_nobody(self) -> None:
        async def listen() -> list[list[dict[str, Any]]]:
            with self.first.bus.listen("session:1") as here, self.second.bus.listen("session:1") as there:
                for _ in range(30):
                    self.first.bus.publish("session:1", {"sitting": "4"})
                self.first.bus.publish("session:2", {"sitting": "5"})
                self.look()
                await asyncio.sleep(0)
                return [[queue.get_nowait() for _ in range(queue.qsize())] for queue in (here, there)]

        here, there = asyncio.run(listen())
        self.assertEqual(len(here), 30)
        self.assertEqual(there, [{"sitting": "4"}])

    def test_who_begins_later_hears_nothing_old_and_misses_nothing_new(self) -> None:
        heard: list[int] = []
        self.first.bus.publish("x", {"n": 1})
        self.look()
        third = self.worker(2)
        third.bus.on("x", lambda: heard.append(1))
        looks = Sharing(third)
        looks.look()
        self.assertEqual(heard, [])
        self.clock.pass_by(minutes=10)  # what is old goes, numbers go on
        self.second.bus.publish("x", {"n": 2})
        self.look()
        looks.look()
        self.assertEqual(heard, [1])

    def test_a_job_is_seen_and_stopped_from_the_other_worker(self) -> None:
        with jobs.working(self.first, self.boss, "plan-1") as job:
            job.tell("trying plans", 3, 9)
            self.look()
            far = jobs.look(self.second, self.boss, "plan-1")
            self.assertEqual((far.what, far.done, far.total), ("trying plans", 3, 9))
            job.tell("trying plans", 4, 9)
            self.look()
            self.assertEqual(jobs.look(self.second, self.boss, "plan-1").done, 4)
            self.assertIsNone(jobs.find(self.second, self.teacher(), "plan-1"), "another person's")
            far.stop()
            self.look()
            with self.assertRaises(Stopped):
                job.tell("trying plans", 5, 9)
        self.look()
        with self.assertRaises(NotFound):
            jobs.look(self.second, self.boss, "plan-1")

    def teacher(self) -> Any:
        self.bring_people()
        return self.teacher_of(self.class_id())

    def test_jobs_of_a_worker_that_died_go_when_it_is_begun_anew(self) -> None:
        jobs.begin(self.second, self.boss, "lost")
        self.look()
        self.assertIsNotNone(jobs.find(self.first, self.boss, "lost"))
        Sharing(self.worker(1))
        self.assertIsNone(jobs.find(self.first, self.boss, "lost"))

    def test_facts_at_hand_are_out_of_date_for_all_at_once(self) -> None:
        kept = self.second.own(known.KnownFacts)
        kept.of[5] = (self.clock.now, {}, None)  # type: ignore[assignment]
        self.assertTrue(known.is_known(self.second, 5))
        known.forget(self.first)
        self.assertFalse(known.is_known(self.second, 5), "without waiting for a look")

    def test_a_report_asked_of_any_worker_is_made_by_the_first(self) -> None:
        work.begin(self.first)
        asked = ReportRequest(
            question="answers", wanted=ScopeRequest(forms=(1,)), settings=DEFAULTS, klass=None, veiled=False
        )
        id = reports.make(self.second, self.boss, asked, "xlsx", "A4")
        self.assertEqual(self.second.own(reports.ReportWork).making, set())
        self.assertEqual(reports.list_reports(self.second, self.boss)[0].state, "making")
        self.look()
        self.first.own(reports.ReportWork).pool.shutdown(wait=True)
        line = reports.list_reports(self.second, self.boss)[0]
        self.assertEqual(line.id, id)
        self.assertEqual(line.state, "failed", "there is no such test, which the first found out")
        self.assertTrue(line.says)

    def test_only_the_first_does_what_nobody_asked_for(self) -> None:
        async def begun(ctx: Context) -> int:
            app = create_app(ctx)
            async with app.router.lifespan_context(app):
                names = {task.get_coro().__name__ for task in asyncio.all_tasks()}  # type: ignore[union-attr]
            return sum(name == "_sweep" for name in names)

        self.assertEqual([asyncio.run(begun(ctx)) for ctx in (self.first, self.second)], [1, 0])
