"""An item without its words: every kind keeps its parts and letters, and says nothing."""

from __future__ import annotations

import unittest

from bildung.formats.content import Shown, htmls, kind_of
from bildung.formats.markup import bare_text
from bildung.formats.secured import SAYS, without_text
from tests.formats.samples import ITEMS


def words(shown: Shown) -> set[str]:
    """Every text that a reader would see, of the parts alone."""
    found: set[str] = set()
    for part in shown.parts:
        for name in ("options", "rows", "columns"):
            found |= {bare_text(o.html) for o in getattr(part, name, [])}
        found |= {bare_text(getattr(part, name, "")) for name in ("text", "told", "picture")}
    return found - {""}


class Secured(unittest.TestCase):
    def test_no_word_of_any_kind_is_left(self) -> None:
        for kind, content in ITEMS.items():
            bare = without_text(content.shown)
            self.assertEqual((bare.body, words(bare)), (SAYS, set()), kind)

    def test_answers_can_still_be_read(self) -> None:
        for kind, content in ITEMS.items():
            bare = without_text(content.shown)
            self.assertEqual([p.id for p in bare.parts], [p.id for p in content.shown.parts])
            self.assertEqual(kind_of(bare, content.scoring), kind_of(content.shown, content.scoring))
            for before, after in zip(content.shown.parts, bare.parts, strict=True):
                letters = [[o.id for o in getattr(part, "options", [])] for part in (before, after)]
                self.assertEqual(letters[0], letters[1], kind)

    def test_the_item_itself_stays_as_it_is(self) -> None:
        for kind, content in ITEMS.items():
            before = content.model_dump_json()
            without_text(content.shown)
            self.assertEqual(content.model_dump_json(), before, kind)
            self.assertTrue(any(bare_text(text) for text in htmls(content)), kind)
