"""What the server keeps at hand between requests: results, long work, and what a station declares."""

from __future__ import annotations

import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

from bildung.services.shared import jobs
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.results import KeptResults
from tests.support import WorldCase


class Results(unittest.TestCase):
    def setUp(self) -> None:
        self.made: list[str] = []
        self.kept: KeptResults[str] = KeptResults(2)

    def get(self, key: str) -> str:
        def make() -> str:
            self.made.append(key)
            return key.upper()

        return self.kept.get(key, make)

    def test_a_result_is_made_once(self) -> None:
        self.assertEqual([self.get("a"), self.get("a"), self.made], ["A", "A", ["a"]])

    def test_the_one_used_longest_ago_goes_first(self) -> None:
        for key in "abac":  # b was used before a
            self.get(key)
        self.get("a")
        self.assertEqual(self.made, ["a", "b", "c"])
        self.get("b")
        self.assertEqual(self.made, ["a", "b", "c", "b"])

    def test_a_result_of_nothing_is_kept_too(self) -> None:
        kept: KeptResults[None] = KeptResults(2)
        calls: list[int] = []
        for _ in range(2):
            self.assertIsNone(kept.get("none", lambda: calls.append(1)))
        self.assertEqual(calls, [1])

    def test_what_could_not_be_made_is_tried_again(self) -> None:
        with self.assertRaises(ZeroDivisionError):
            self.kept.get("a", lambda: str(1 // 0))
        self.assertEqual(self.get("a"), "A")

    def test_several_threads_get_what_belongs_to_their_key(self) -> None:
        together = threading.Barrier(8)

        def ask(n: int) -> bool:
            together.wait(10)
            return all(self.kept.get(key, lambda key=key: key.upper()) == key.upper() for key in "abcdefgh"[n:] * 20)  # type: ignore[misc]

        with ThreadPoolExecutor(8) as pool:
            self.assertEqual(list(pool.map(ask, range(8))), [True] * 8)


@dataclass
class Shelf:
    books: list[str] = field(default_factory=list)


@dataclass
class Drawer:
    pens: int = 0


class Owned(WorldCase):
    def test_each_station_has_one_object_of_its_class_until_it_is_forgotten(self) -> None:
        self.ctx.own(Shelf).books.append("norms")
        self.ctx.own(Drawer).pens = 3
        self.assertEqual((self.ctx.own(Shelf).books, self.ctx.own(Drawer).pens), (["norms"], 3))
        self.ctx.forget()
        self.assertEqual((self.ctx.own(Shelf).books, self.ctx.own(Drawer).pens), ([], 0))

    def test_a_server_beside_it_has_its_own(self) -> None:
        self.ctx.own(Shelf).books.append("norms")
        self.assertEqual(Context(store=self.ctx.store).own(Shelf).books, [])


class Jobs(WorldCase):
    def named(self, actor: Actor, id: str) -> jobs.Job:
        return jobs.look(self.ctx, actor, id)

    def test_it_is_seen_while_it_goes_on_and_forgotten_however_it_ends(self) -> None:
        with jobs.working(self.ctx, self.boss, "judging") as job:
            job.tell("items", 3, 36)
            seen = self.named(self.boss, "judging")
            self.assertEqual((seen.what, seen.done, seen.total), ("items", 3, 36))
        with self.assertRaises(NotFound):
            self.named(self.boss, "judging")
        with self.assertRaises(ZeroDivisionError), jobs.working(self.ctx, self.boss, "judging"):
            raise ZeroDivisionError
        with self.assertRaises(NotFound):
            self.named(self.boss, "judging")

    def test_one_that_is_stopped_ends_at_its_next_step(self) -> None:
        steps: list[int] = []
        stopped = self.assertRaisesRegex(jobs.Stopped, "nothing was changed")
        with stopped, jobs.working(self.ctx, self.boss, "judging") as job:
            for n in range(5):
                job.tell("items", n, 5)
                steps.append(n)
                if n == 1:
                    self.named(self.boss, "judging").stop()
        self.assertEqual(steps, [0, 1])

    def test_nobody_sees_or_stops_the_work_of_another(self) -> None:
        other = Actor(person_id=self.boss_id + 1, name="X", grants=(), sign_in_id=0, csrf="")
        with jobs.working(self.ctx, self.boss, "judging"):
            with self.assertRaises(NotFound):
                self.named(other, "judging")
            self.assertEqual(jobs.look_or_wait(self.ctx, other, "judging").total, 0)
            with jobs.working(self.ctx, other, "judging") as theirs:
                theirs.tell("items", 1, 2)
                self.assertEqual(self.named(self.boss, "judging").total, 0)

    def test_work_without_a_name_is_found_under_none(self) -> None:
        with jobs.working(self.ctx, self.boss, "") as job:
            job.tell("items", 1, 2)
            with self.assertRaises(NotFound):
                self.named(self.boss, "")

    def test_a_name_of_any_length_ends_its_own_work(self) -> None:
        long = "x" * (jobs.LONGEST_ID + 20)
        with jobs.working(self.ctx, self.boss, long):
            self.assertEqual(jobs.look_or_wait(self.ctx, self.boss, long).person_id, self.boss_id)
        self.assertEqual(self.ctx.own(jobs.RunningJobs).named, {})

    def test_names_that_were_never_ended_do_not_pile_up(self) -> None:
        for n in range(jobs.KEPT + 5):
            jobs.begin(self.ctx, self.boss, f"job {n}")
        self.assertEqual(len(self.ctx.own(jobs.RunningJobs).named), jobs.KEPT)
        with self.assertRaises(NotFound):
            self.named(self.boss, "job 4")
        self.assertIsInstance(self.named(self.boss, "job 5"), jobs.Job)
