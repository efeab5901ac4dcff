"""No string that is shown says what a native speaker of the trade would not say."""

from __future__ import annotations

import unittest

from tests.words.phrases import misplaced
from tests.words.rendered import rendered


class Words(unittest.TestCase):
    def test_every_string_says_it_as_the_trade_does(self) -> None:
        found = [f"{place}: {said}" for place, text in rendered() for said in misplaced([text])]
        self.assertEqual(found, [], "\n".join(found))

    def test_the_collector_sees_pages_sentences_and_prints(self) -> None:
        texts = {text for _, text in rendered()}
        for known in ("Needs your attention", "Session code", "Getting started"):
            self.assertTrue(any(known in text for text in texts), known)
        self.assertGreater(len(texts), 3000)
