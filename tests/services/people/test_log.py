"""The log in words: every action that is kept is said, and its subject leads to its page."""

from __future__ import annotations

import re
import unittest
from pathlib import Path

from bildung.services import people
from bildung.services.people.logwords import done, page_of

ROOT = Path(people.__file__).parents[1]
KEPT = re.compile(r'audit\.record\(.{0,160}?"([a-z_]+\.[a-z_]+)"', re.S)
BY_HELPER = re.compile(r'_log\(.{0,80}?"([a-z_]+\.[a-z_]+)"', re.S)


class Words(unittest.TestCase):
    def test_every_action_that_a_service_keeps_has_words(self) -> None:
        actions: set[str] = set()
        for path in ROOT.rglob("*.py"):
            text = path.read_text("utf-8")
            actions |= set(KEPT.findall(text)) | set(BY_HELPER.findall(text))
        self.assertGreater(len(actions), 60)
        self.assertEqual([action for action in sorted(actions) if done(action) == action], [])

    def test_words_and_pages(self) -> None:
        self.assertEqual(done("session.schedule"), "scheduled a session")
        self.assertEqual(done("item.tag"), "tagged an item")
        self.assertEqual(done("plan.publish"), "published a plan")
        self.assertEqual(done("something.odd"), "something.odd")
        self.assertEqual(page_of("session:12"), "/sessions/12")
        self.assertEqual((page_of("school:1"), page_of("session:x"), page_of("")), ("", "", ""))
