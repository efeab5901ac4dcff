"""From what is typed off paper to the answer a device would send, and back, for every kind of item."""

from __future__ import annotations

import unittest

from bildung.core.errors import Refused
from bildung.formats.face import faced
from bildung.formats.typed import from_typed, letters_of, to_typed, way_of
from tests.formats.samples import ITEMS


class Typed(unittest.TestCase):
    def test_letters_as_the_form_prints_them(self) -> None:
        shown = ITEMS["choice"].shown
        self.assertEqual((way_of(shown), from_typed(shown, " b ")), ("letter", "B"))
        ids = [o.id for o in shown.parts[0].options]  # type: ignore[union-attr]
        turned = faced(shown, {shown.parts[0].id: list(reversed(ids))})
        self.assertEqual(from_typed(turned, "A"), ids[-1])
        self.assertEqual(to_typed(turned, ids[-1]), "A")

    def test_there_and_back_for_every_kind_that_can_be_typed(self) -> None:
        typed = {
            "choice": "B",
            "multiple": "AC",
            "numeric": "14.6",
            "text": "Skerrow",
            "gap": "2",
            "order": "BCA",
            "line": "0.75",
            "writing": "Because it floats.",
            "reason": "A",
        }
        for kind, text in typed.items():
            with self.subTest(kind):
                shown = ITEMS[kind].shown
                answer = from_typed(shown, text)
                self.assertTrue(answer)
                self.assertEqual(to_typed(shown, answer), text)
                self.assertEqual(from_typed(shown, "  "), "")
        for kind in ("match", "category", "hot_text", "point", "two_part", "several", "inline_choice"):
            with self.subTest(kind):
                self.assertEqual(way_of(ITEMS[kind].shown), "none")
                with self.assertRaisesRegex(Refused, "cannot be typed"):
                    from_typed(ITEMS[kind].shown, "A")
                self.assertEqual(to_typed(ITEMS[kind].shown, "anything"), "")

    def test_slips_are_named(self) -> None:
        letters = letters_of(ITEMS["choice"].shown)
        for kind, text, says in (
            ("choice", "Z", f"Z is none of the letters {letters}"),
            ("choice", "AB", f"one of the letters {letters}, not AB"),
            ("order", "AB", "an order names each once"),
            ("line", "much", ""),
        ):
            with self.subTest(text), self.assertRaisesRegex(Refused, says):
                from_typed(ITEMS[kind].shown, text)

    def test_several_letters_in_any_order_with_or_without_signs(self) -> None:
        shown = ITEMS["multiple"].shown
        self.assertEqual({from_typed(shown, text) for text in ("AC", "ca", "C, A", "a+c", "A C C")}, {"A+C"})


if __name__ == "__main__":
    unittest.main()
