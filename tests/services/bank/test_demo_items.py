"""The demo's items: whole, with right keys, of every kind, and answers that mean what they are called."""

from __future__ import annotations

import random
import unittest
from collections import Counter
from fractions import Fraction

from bildung.core.scoring.rules import exact_number
from bildung.demo.answers import right_answer, wrong_answer
from bildung.demo.items import early_reading, kinds, pictures, science, young
from bildung.demo.samples import sample_files
from bildung.formats.answers import unfit
from bildung.formats.content import KINDS, EntryPart, WritingPart
from bildung.formats.faults import faults
from bildung.formats.itemlist import ItemRecord
from bildung.formats.markup import bare_text
from bildung.formats.qti import package_misses, read_package
from bildung.formats.scored import awaits, item_rule
from bildung.services.items.media import prepare


def all_items(seed: int) -> list[ItemRecord]:
    rng = random.Random(seed)
    found: list[ItemRecord] = []
    for grade in "K12345678":
        found += science.items(grade, rng)
        found += (
            young.items(grade, rng) + early_reading.items(grade, rng) if grade in "K12345" else kinds.items(grade, rng)
        )
    return found


class DemoItems(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.items = all_items(20260804)

    def test_they_are_whole_of_every_kind_and_called_by_codes_of_their_own(self) -> None:
        self.assertEqual([i.code for i in self.items if faults(i.content)], [])
        self.assertEqual({i.kind for i in self.items}, set(KINDS))
        self.assertEqual(max(Counter(i.code for i in self.items).values()), 1)
        self.assertEqual([i.code for i in self.items if not i.standards or not i.subject or not i.tags.depth], [])

    def test_a_right_answer_earns_all_and_a_wrong_one_not(self) -> None:
        rng = random.Random(5)
        for item in self.items:
            rule = item_rule(item.content.shown, item.content.scoring)
            right, wrong = right_answer(item.content, rng), wrong_answer(item.content, rng)
            for answer in (right, wrong):
                self.assertEqual(unfit(item.content.shown, answer), "", (item.code, answer))
            by_hand = sum(
                s.points
                for p, s in zip(item.content.shown.parts, item.content.scoring, strict=True)
                if isinstance(p, WritingPart)
            )
            if not awaits(rule):
                self.assertEqual(rule.points(rule.label(right)), item.points, (item.code, right))
            else:
                self.assertGreater(by_hand, 0, item.code)

    def test_noted_mistakes_are_wrong(self) -> None:
        for item in self.items:
            rule = item_rule(item.content.shown, item.content.scoring)
            for note in item.content.behind.misconceptions:
                if len(item.content.shown.parts) == 1:
                    self.assertEqual(
                        rule.points(rule.label(note.answer)),
                        0.0,
                        (item.code, note.answer, bare_text(item.content.shown.body)),
                    )

    def test_sums_and_products_are_what_they_say(self) -> None:
        """Keys read again from the question's own words."""
        seen = 0
        for item in self.items:
            words = bare_text(item.content.shown.body).replace("What is ", "").rstrip("?").split()
            part = item.content.shown.parts[0]
            if len(words) == 3 and words[1] in ("+", "×") and isinstance(part, EntryPart) and not part.inline:
                a, b = exact_number(words[0]), exact_number(words[2])
                if a is not None and b is not None:
                    seen += 1
                    self.assertEqual(
                        Fraction(item.content.scoring[0].key), a + b if words[1] == "+" else a * b, item.code
                    )
        self.assertGreater(seen, 5)

    def test_the_same_seed_gives_the_same_items(self) -> None:
        self.assertEqual([(i.code, i.content) for i in all_items(20260804)], [(i.code, i.content) for i in self.items])

    def test_pictures_and_sounds_can_be_kept(self) -> None:
        for name, data in (
            ("plane.png", pictures.plane({"A": (1, 2)})),
            ("plant.png", pictures.plant()),
            ("harbor.png", pictures.harbor()),
        ):
            kept = prepare(name, data)
            self.assertEqual(kept.type, "image/png")
        self.assertGreater(prepare("bell.wav", pictures.bell(3)).seconds or 0, 3)

    def test_the_sample_package_loses_nothing(self) -> None:
        records, unread = read_package("s.zip", sample_files()["items-qti.zip"])
        self.assertEqual((unread, [package_misses(r) for r in records if package_misses(r)]), ([], []))
        self.assertGreaterEqual(len({r.kind for r in records}), 13)
