"""The rounds of a server that ends."""

from __future__ import annotations

import logging
import unittest

from bildung.services.shared.context import Context
from bildung.services.upkeep.rounds import Upkeep
from tests.support import WorldCase


class Ending(WorldCase):
    def test_what_an_end_cuts_off_is_not_told_and_nothing_more_is_begun(self) -> None:
        begun: list[str] = []

        def cut_off(ctx: Context) -> None:
            begun.append("first")
            rounds.stop()
            raise RuntimeError("the store is closed")

        rounds = Upkeep(every=[cut_off, lambda ctx: begun.append("second")], daily=[lambda ctx: begun.append("third")])
        with self.assertNoLogs(logging.getLogger("bildung")):
            rounds.look(self.ctx)
        self.assertEqual(begun, ["first"])

    def test_what_fails_otherwise_is_told_and_the_rest_is_done(self) -> None:
        begun: list[str] = []

        def fails(ctx: Context) -> None:
            raise RuntimeError("no room")

        rounds = Upkeep(every=[fails, lambda ctx: begun.append("second")], daily=[])
        with self.assertLogs(logging.getLogger("bildung"), "ERROR"):
            rounds.look(self.ctx)
        self.assertEqual(begun, ["second"])


if __name__ == "__main__":
    unittest.main()
