"""From an answer to its label and points."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from bildung.core.errors import Refused
from bildung.core.scoring.numbers import MeasureRule
from bildung.core.scoring.rules import exact_number, number_label, rule_for


class Rules(unittest.TestCase):
    def test_several_accepted_options_each_earn_full_points(self) -> None:
        rule = rule_for("choice", "B|D", ("A", "B", "C", "D"), 2.0)
        self.assertEqual([rule.points(letter) for letter in "ABCD"], [0, 2, 0, 2])

    def test_a_key_that_is_no_option_is_refused(self) -> None:
        with self.assertRaisesRegex(Refused, "the key 'E' is not one of the options A, B"):
            rule_for("choice", "E", ("A", "B"), 1)

    def test_option_letters_are_case_sensitive(self) -> None:
        with self.assertRaises(Refused):
            rule_for("choice", "A", ("A", "B"), 1).label("a")

    def test_multiple_response_needs_exactly_the_keys_in_any_order(self) -> None:
        rule = rule_for("multiple", "A+C", ("A", "B", "C"), 1)
        self.assertEqual(rule.label("C+A"), "A+C")
        self.assertEqual([rule.points(rule.label(t)) for t in ("C + A", "A", "A+B+C")], [1, 0, 0])

    def test_numbers_are_compared_exactly_within_the_tolerance(self) -> None:
        rule = rule_for("numeric", "0.3~0.1", (), 1)
        self.assertEqual(
            [rule.points(rule.label(t)) for t in ("0.2", "0.4", "0,4", "0.40000000001", "2/5")], [1, 1, 1, 0, 1]
        )

    def test_numerically_equal_answers_have_one_label(self) -> None:
        rule = rule_for("numeric", "0.5", (), 1)
        self.assertEqual({rule.label(t) for t in ("0.5", ".50", "1/2", "0,5", "+0.500")}, {"0.5"})

    def test_a_numeric_answer_that_is_no_number_is_wrong_and_not_refused(self) -> None:
        rule = rule_for("numeric", "7", (), 1)
        self.assertEqual(
            [rule.points(rule.label(t)) for t in ("seven", "nan", "inf", "7e", "7e0.5", "7e99", "7 km")], [0] * 7
        )

    def test_text_ignores_case_and_blanks_and_keeps_an_escaped_bar(self) -> None:
        rule = rule_for("text", r"high  tide|ebb\|flow", (), 1)
        self.assertEqual([rule.points(rule.label(t)) for t in ("  HIGH tide ", "ebb|flow", "ebb")], [1, 1, 0])

    def test_points_cells_outside_the_range_or_no_number_are_refused(self) -> None:
        rule = rule_for("points", "", (), 4)
        self.assertEqual(rule.points(rule.label("2.5")), 2.5)
        for cell in ("5", "-1", "nan", "inf", "2,5", "1e0", ""):
            with self.assertRaisesRegex(Refused, "0..4"):
                rule.label(cell)

    def test_a_key_for_a_points_item_and_an_unknown_type_are_refused(self) -> None:
        for kind, key, said in (
            ("points", "3", "has no key"),
            ("essay", "", "not an item type"),
            ("numeric", "x", "14.6"),
        ):
            with self.assertRaisesRegex(Refused, said):
                rule_for(kind, key, (), 1)

    @given(st.fractions(min_value=-(10**6), max_value=10**6, max_denominator=10**4))
    def test_a_number_written_as_its_label_is_the_same_number(self, number: Fraction) -> None:
        self.assertEqual(exact_number(number_label(number)), number)


class Exponents(unittest.TestCase):
    def test_a_number_with_an_exponent_is_that_number(self) -> None:
        for text, value in (
            ("1E-05", Fraction(1, 100_000)),
            ("2.5e3", Fraction(2500)),
            ("−1,5E+2", Fraction(-150)),
            (".5e1", Fraction(5)),
        ):
            self.assertEqual(exact_number(text), value, text)
        rule = rule_for("numeric", "0.00001", (), 1.0)
        self.assertEqual(rule.points(rule.label("1E-05")), 1.0)
        self.assertEqual(rule.label("1E-05"), rule.label("0.00001"), "one row of an option table")

    def test_what_only_looks_like_one_is_none_and_a_huge_one_stalls_nothing(self) -> None:
        for text in ("1e", "e5", "1e5.5", "1E+", "1e41", "1e-41", "1e999999999", "1/2e3", "0x1e5"):
            self.assertIsNone(exact_number(text), text)

    def test_with_a_unit_behind_it(self) -> None:
        rule = MeasureRule(accepted=(Fraction(2000),), units=("m",), needed=True)
        self.assertEqual(
            [rule.points(rule.label(text)) for text in ("2E3 m", "2e3m", "2E3", "2E3 km")], [1.0, 1.0, 0.0, 0.0]
        )
