"""A server killed again and again while answers are being sent: everything acknowledged is there, and once."""

from __future__ import annotations

import unittest

from bildung.load.kill import kill


class Killed(unittest.TestCase):
    def test_all_acknowledged_answers_survive(self) -> None:
        found = kill(20, students=30)
        self.assertEqual((found.kills, found.lost, found.doubled, found.stale, found.errors), (20, 0, 0, 0, {}))
        self.assertGreater(found.acknowledged, 1000)
