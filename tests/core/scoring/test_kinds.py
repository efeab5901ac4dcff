"""Scoring of every kind of answer: by hand where a rule gives part of the points."""

from __future__ import annotations

import json
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from bildung.core.errors import Refused
from bildung.core.scoring.arrangements import MatchRule, OrderRule, PointRule, SeveralRule, read_areas
from bildung.core.scoring.numbers import MeasureRule, mixed_number, written_as
from bildung.core.scoring.rules import ChoiceRule, NumericRule
from bildung.core.scoring.several import ScoredPart, SeveralParts
from bildung.core.scoring.words import Marked, WordsRule


class Numbers(unittest.TestCase):
    def test_mixed_numbers_fractions_and_decimals_are_the_same_number(self) -> None:
        for text in ("1 1/2", "3/2", "1.5", "1,5", "6/4", " 1  1/2 "):
            self.assertEqual(mixed_number(text), Fraction(3, 2), text)
        self.assertEqual(mixed_number("−1 1/2"), Fraction(-3, 2))
        for text in ("1 1/0", "a", "1 2", "1/2/3", ""):
            self.assertIsNone(mixed_number(text), text)

    def test_how_a_number_is_written(self) -> None:
        for text, ways in (
            ("4/6", {"any", "fraction"}),
            ("2/3", {"any", "fraction", "lowest"}),
            ("0.5", {"any", "decimal", "lowest"}),
            ("7", {"any", "whole", "lowest"}),
            ("7.0", {"any", "whole", "decimal", "lowest"}),
            ("1 2/4", {"any", "fraction"}),
            ("1 1/2", {"any", "fraction", "lowest"}),
            ("1 3/2", {"any", "fraction"}),
            ("x", set()),
        ):
            self.assertEqual(written_as(text), ways, text)

    def test_a_unit_may_be_left_out_but_another_one_is_wrong(self) -> None:
        rule = MeasureRule(
            accepted=(Fraction("14.6"),), tolerance=Fraction("0.1"), writing="any", units=("cm", "centimeters")
        )
        for answer, points in (
            ("14.6", 1),
            ("14.7 cm", 1),
            ("14.5 CM", 1),
            ("14.6centimeters", 1),
            ("14.6 m", 0),
            ("15 cm", 0),
            ("cm", 0),
        ):
            self.assertEqual(rule.points(rule.label(answer)), points, answer)
        self.assertEqual(rule.label("14.60 CM"), "14.6 cm", "one row for one answer")
        needed = MeasureRule(accepted=(Fraction(3),), units=("m",), needed=True)
        self.assertEqual([needed.points(needed.label(a)) for a in ("3", "3 m", "3 km")], [0, 1, 0])

    def test_a_number_in_lowest_terms_is_asked_for(self) -> None:
        rule = MeasureRule(accepted=(Fraction(2, 3),), writing="lowest")
        self.assertEqual([rule.points(rule.label(a)) for a in ("2/3", "4/6", "0.667")], [1, 0, 0])
        self.assertNotEqual(rule.label("2/3"), rule.label("4/6"), "where writing counts, they are two rows")

    def test_what_no_rule_can_be_is_refused(self) -> None:
        for make in (
            lambda: MeasureRule(accepted=()),
            lambda: MeasureRule(accepted=(Fraction(1),), tolerance=Fraction(-1)),
            lambda: MeasureRule(accepted=(Fraction(1),), needed=True),
        ):
            with self.assertRaises(Refused):
                make()

    @given(st.text(max_size=30))
    def test_a_label_is_its_own_label(self, text: str) -> None:
        for rule in (
            MeasureRule(accepted=(Fraction(1),), units=("cm",)),
            WordsRule(("tide",), "near"),
            WordsRule(("Tide",), "exact"),
        ):
            self.assertEqual(rule.label(rule.label(text)), rule.label(text))


class Words(unittest.TestCase):
    def test_spelling_as_strictly_as_asked(self) -> None:
        answers = ("lighthouse", "Lighthouse", "lighthuose", "lighthous", "lightxouse", "light house", "lihgthuose", "")
        for spelling, expected in (("exact", "10000000"), ("plain", "11000000"), ("near", "11111100")):
            rule = WordsRule(("lighthouse",), spelling)  # type: ignore[arg-type]
            self.assertEqual("".join(str(int(rule.points(rule.label(a)))) for a in answers), expected, spelling)

    def test_a_slip_in_a_short_word_is_another_word(self) -> None:
        rule = WordsRule(("boat",), "near")
        self.assertEqual(rule.points("goat"), 0)


class Arrangements(unittest.TestCase):
    def test_part_of_the_points_for_some_of_several(self) -> None:
        rule = SeveralRule(("A", "B", "C", "D", "E"), ("A", "C", "D"), 3.0)
        for answer, points in (("A+C+D", 3), ("C+A", 2), ("A+B+C", 1), ("B", 0), ("A+B+C+D+E", 1), ("D", 1)):
            self.assertEqual(rule.points(rule.label(answer)), points, answer)
        self.assertEqual(rule.label("D+A"), "A+D")

    def test_an_order_by_the_neighbors_that_stand_right(self) -> None:
        rule = OrderRule(("a", "b", "c", "d"), ("a", "b", "c", "d"), True, 3.0)
        for answer, points in (("a>b>c>d", 3), ("b>c>d>a", 2), ("a>b>d>c", 1), ("d>c>b>a", 0), ("c>d>a>b", 2)):
            self.assertEqual(rule.points(rule.label(answer)), points, answer)
        with self.assertRaisesRegex(Refused, "names each of a, b, c, d once"):
            rule.label("a>b>c")
        self.assertEqual(OrderRule(("a", "b"), ("b", "a")).points("a>b"), 0)

    def test_pairs_with_strays_taken_off(self) -> None:
        rule = MatchRule(
            rows=("r", "s", "t"), columns=("u", "v"), key=(("r", ("u",)), ("s", ("u", "v"))), partial=True, maximum=2.0
        )
        for answer, points in (
            ("r=u;s=v", 2),
            ("s=u;r=u", 2),
            ("r=u", 1),
            ("r=v;s=u", 1),
            ("r=u;s=v;t=u", 1),
            ("t=u", 0),
        ):
            self.assertEqual(rule.points(rule.label(answer)), points, answer)
        self.assertEqual(rule.label("s=v; r=u"), "r=u;s=v")
        whole = MatchRule(rows=("r", "s"), columns=("u", "v"), key=(("r", ("u",)), ("s", ("v",))))
        self.assertEqual([whole.points(a) for a in ("r=u;s=v", "r=u")], [1, 0])
        for bad in ("r=x", "r=u;r=v", "q=u", "r"):
            with self.assertRaises(Refused, msg=bad):
                rule.label(bad)

    def test_points_lie_in_areas_their_edges_included(self) -> None:
        rule = PointRule(read_areas("circle 50 50 10|rect 100 0 120 20|poly 0 0 20 0 20 20 0 20"))
        for point, label in (
            ("50 60", "in 1"),
            ("50 61", "elsewhere"),
            ("100 20", "in 2"),
            ("121 20", "elsewhere"),
            ("10 10", "in 3"),
            ("25 10", "elsewhere"),
        ):
            self.assertEqual(rule.label(point), label, point)
        self.assertEqual((rule.points("in 2"), rule.points("elsewhere"), rule.label("in 2")), (1, 0, "in 2"))
        for bad in ("circle 1 2", "star 1 2 3", "rect 1 2 3", "poly 0 0 1 1", ""):
            with self.assertRaises(Refused, msg=bad):
                read_areas(bad)


class Parts(unittest.TestCase):
    first, second = ChoiceRule(("A", "B", "C"), ("B",)), NumericRule(Fraction(12), maximum=2.0)

    def points(self, rule: SeveralParts, **given: str) -> float:
        return rule.points(rule.label(json.dumps(given)))

    def test_each_part_by_itself(self) -> None:
        rule = SeveralParts(
            (ScoredPart(id="p1", rule=self.first, maximum=1.0), ScoredPart(id="p2", rule=self.second, maximum=2.0))
        )
        self.assertEqual(
            [
                self.points(rule, p1="B", p2="12"),
                self.points(rule, p2="12.0"),
                self.points(rule, p1="B"),
                self.points(rule),
            ],
            [3, 2, 1, 0],
        )
        self.assertEqual((rule.maximum, rule.awaits), (3.0, False))

    def test_a_part_that_hangs_on_another_earns_nothing_without_it(self) -> None:
        rule = SeveralParts(
            (
                ScoredPart(id="p1", rule=self.first, maximum=1.0),
                ScoredPart(id="p2", rule=self.second, maximum=2.0, needs="p1"),
            )
        )
        self.assertEqual(
            [self.points(rule, p1="B", p2="12"), self.points(rule, p1="A", p2="12"), self.points(rule, p2="12")],
            [3, 0, 0],
        )
        self.assertIn("part p1 is not right", rule.scores('{"p1":"A","p2":"12"}')[1].why)

    def test_an_error_carried_on_is_not_punished_twice(self) -> None:
        rule = SeveralParts(
            (
                ScoredPart(id="p1", rule=self.first, maximum=1.0),
                ScoredPart(
                    id="p2",
                    rule=self.second,
                    maximum=2.0,
                    needs="p1",
                    carried=(("C", NumericRule(Fraction(7), maximum=2.0)),),
                ),
            )
        )
        self.assertEqual(self.points(rule, p1="C", p2="7"), 2)
        self.assertEqual(self.points(rule, p1="C", p2="12"), 0)
        self.assertEqual(self.points(rule, p1="A", p2="7"), 0)

    def test_a_reason_is_kept_out_of_the_label_and_writing_waits_for_a_person(self) -> None:
        rule = SeveralParts(
            (ScoredPart(id="p1", rule=self.first, maximum=1.0), ScoredPart(id="why", rule=None, maximum=0.0))
        )
        self.assertEqual(rule.label('{"p1":"B","why":"because"}'), '{"p1":"B"}')
        waits = SeveralParts(
            (ScoredPart(id="p1", rule=self.first, maximum=1.0), ScoredPart(id="essay", rule=Marked(4.0), maximum=4.0))
        )
        self.assertTrue(waits.awaits)
        self.assertIsNone(waits.scores('{"essay":"so"}')[1].points)
        self.assertEqual(waits.scores("{}")[1].points, 0.0, "nothing written is nothing to mark")

    def test_what_is_no_answer_is_refused(self) -> None:
        rule = SeveralParts((ScoredPart(id="p1", rule=self.first, maximum=1.0),))
        for bad in ("B", "[]", '{"p9":"B"}', '{"p1":1}', '{"p1":"Z"}', "{" * 5000):
            with self.assertRaises(Refused, msg=bad[:20]):
                rule.label(bad)
        with self.assertRaisesRegex(Refused, "does not stand before it"):
            SeveralParts(
                (
                    ScoredPart(id="a", rule=self.first, maximum=1.0, needs="b"),
                    ScoredPart(id="b", rule=self.first, maximum=1.0),
                )
            )
