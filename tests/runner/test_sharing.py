"""How classes of tests are shared out between processes, and what is counted."""

from __future__ import annotations

import threading
import unittest

from tests.run import Tally, Waiting


class Sharing(unittest.TestCase):
    names = ("tests.ui.a", "tests.core.a", "tests.ui.b", "tests.core.b")

    def all_of(self, browser: bool) -> list[str]:
        waiting = Waiting(self.names)
        return [name for name in iter(lambda: waiting.take(browser), None)]

    def test_one_process_begins_in_the_browser_and_helps_the_others_then(self) -> None:
        self.assertEqual(self.all_of(True), ["tests.ui.a", "tests.ui.b", "tests.core.a", "tests.core.b"])

    def test_the_others_end_with_the_browser(self) -> None:
        self.assertEqual(self.all_of(False), ["tests.core.a", "tests.core.b", "tests.ui.a", "tests.ui.b"])

    def test_each_is_taken_once_by_whoever_is_free(self) -> None:
        waiting = Waiting(f"tests.{'ui' if n % 3 == 0 else 'core'}.t{n}" for n in range(300))
        taken: list[list[str]] = [[] for _ in range(4)]

        def work(at: int) -> None:
            while (name := waiting.take(at == 0)) is not None:
                taken[at].append(name)

        threads = [threading.Thread(target=work, args=(at,)) for at in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        every = [name for names in taken for name in names]
        self.assertEqual((len(every), len(set(every)), len(waiting)), (300, 300, 0))

    def test_tallies_add_up(self) -> None:
        total = Tally(passed=2, took=[(1.0, "a")])
        total.add(Tally(passed=1, failed=1, skipped=3, took=[(2.0, "b")], said=["b: wrong\n"]))
        self.assertEqual((total.passed, total.failed, total.skipped), (3, 1, 3))
        self.assertEqual((total.took, total.said), ([(1.0, "a"), (2.0, "b")], ["b: wrong\n"]))
