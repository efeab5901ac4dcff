"""What students are told of their answers: right, partly, wrong, open or waiting, with what would have been right."""

from __future__ import annotations

import copy
import unittest

from bildung.formats.content import Content
from bildung.services.sitting.feedback import Told, earned_by, right_answer, summary, tell
from tests.formats.samples import ITEMS, RIGHT

WAITING = {"writing", "several"}  # a person marks at least a part of them


def told(kind: str, answer: str, content: Content | None = None) -> Told:
    return tell(7, 3, kind, content or ITEMS[kind], answer)


class Telling(unittest.TestCase):
    def test_a_right_answer_of_every_kind_is_right_or_waits_for_a_person(self) -> None:
        for kind in ITEMS:
            found = told(kind, RIGHT[kind])
            if kind in WAITING:
                self.assertEqual((found.verdict, found.earned, found.right), ("waits", None, ""), kind)
            else:
                self.assertEqual((found.verdict, found.earned), ("right", found.points), kind)
            self.assertEqual((found.question, found.number), (7, 3))

    def test_nothing_answered_is_open_and_never_wrong(self) -> None:
        for kind in ITEMS:
            self.assertEqual((told(kind, "").verdict, told(kind, "").earned), ("open", 0.0), kind)

    def test_wrong_and_partly_right(self) -> None:
        for kind, answer, verdict, earned in (
            ("choice", "C", "wrong", 0.0),
            ("multiple", "A+C", "partly", 2.0),
            ("multiple", "B", "wrong", 0.0),
            ("numeric", "14.8", "wrong", 0.0),
            ("numeric", "14.7", "right", 1.0),
            ("match", "r=u;s=w", "partly", 1.0),
            ("order", "x>y>z", "wrong", 0.0),
            ("line", "0.9", "wrong", 0.0),
        ):
            found = told(kind, answer)
            self.assertEqual((found.verdict, found.earned), (verdict, earned), f"{kind} {answer}")

    def test_what_cannot_be_read_earns_nothing_and_breaks_nothing(self) -> None:
        for kind in ITEMS:
            if kind in WAITING:
                continue
            for answer in ("Z", "{", "a=b=c", "1e999", "12 x", "😀", "A|B"):
                self.assertGreaterEqual(told(kind, answer).points, told(kind, answer).earned or 0.0, f"{kind} {answer}")

    def test_a_choice_with_a_reason_is_judged_as_the_choice(self) -> None:
        self.assertEqual(told("reason", '{"1":"A","2":"no idea"}').verdict, "right")
        self.assertEqual(told("reason", '{"1":"B","2":"a good reason"}').verdict, "wrong")
        self.assertEqual(earned_by("reason", ITEMS["reason"], ""), 0.0)

    def test_what_would_have_been_right_is_in_the_words_of_the_question(self) -> None:
        self.assertEqual(right_answer(ITEMS["choice"]), "2/4, <b>2</b>/3")
        self.assertEqual(right_answer(ITEMS["numeric"]), "14.6 cm")
        self.assertEqual(right_answer(ITEMS["text"]), "Skerrow")
        self.assertEqual(right_answer(ITEMS["inline_choice"]), "floats; melts")
        for kind in ("order", "match", "point", "hot_text", "line"):
            self.assertEqual(right_answer(ITEMS[kind]), "", kind)

    def test_an_answer_key_shows_no_markup_that_could_run(self) -> None:
        content = copy.deepcopy(ITEMS["text"])
        content.scoring[0].key = "<img src=x onerror=alert(1)>Skerrow"
        self.assertNotIn("<", right_answer(content))

    def test_the_sum_leaves_out_what_waits(self) -> None:
        some = [told("choice", "A"), told("multiple", "A+C"), told("writing", "Yes."), told("numeric", "")]
        self.assertEqual(summary(some), "You got 4 of 6 points; 1 answer is still being scored.")
        self.assertEqual(summary(some[:2]), "You got 4 of 5 points.")
        self.assertEqual(
            summary([told("writing", "Yes."), told("several", RIGHT["several"])]),
            "2 answers are still being scored.",
        )
