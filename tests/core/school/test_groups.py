"""Rules of groups, days of instruction, and what is hidden in a comparison."""

from __future__ import annotations

import random
import unittest
from datetime import date, timedelta
from itertools import product
from typing import ClassVar

from bildung.core.errors import Refused
from bildung.core.school.calendar import Closed, instruction, instructional_days
from bildung.core.school.groups import Facts, read_rule
from bildung.core.school.privacy import hidden_groups

MON_FRI = 0b0011111
KNOWN = {"home language": frozenset({"english", "polish"}), "lunch": frozenset({"free", "paid"})}
ANN = Facts(
    grade="6",
    school="Elder Quay",
    classes=frozenset({"Reading 6.1"}),
    courses=frozenset({"READ6"}),
    subjects=frozenset({"Reading"}),
    needs=frozenset({"extended time"}),
    language="Polish",
    attributes={"home language": "Polish"},
)
BEN = Facts(
    grade="7",
    school="Elder Quay",
    classes=frozenset({"Reading 7.2"}),
    attributes={"home language": "English", "lunch": "Free"},
)
KIT = Facts(grade="K", school="Hollin Moor")


class Rules(unittest.TestCase):
    def test_rules_say_what_they_mean(self) -> None:
        for rule, who in (
            ("grade 6 and extended time", "A"),
            ("grade 6 and extra time", "A"),
            ("grade 6-8", "AB"),
            ("grade k-6", "AK"),
            ("not grade 6", "BK"),
            ('school "elder quay" and not extra time', "B"),
            ('class "Reading 7.2" or grade K', "BK"),
            ("grade 7 or grade 6 and read aloud", "B"),
            ("(grade 7 or grade 6) and read aloud", ""),
            ("home language is Polish", "A"),
            ("lunch is free or language polish", "AB"),
            ("not (grade 6 or grade 7) and not extra time", "K"),
            ("course READ6 and subject reading", "A"),
        ):
            fits = read_rule(rule, KNOWN)
            self.assertEqual("".join(n for n, f in zip("ABK", (ANN, BEN, KIT), strict=True) if fits(f)), who, rule)

    def test_what_is_not_understood_is_named_with_its_place(self) -> None:
        for rule, said in (
            ("", "the rule is empty"),
            ("grade", "ends too early"),
            ("grade 6 and", "ends too early"),
            ("grade 6 extra time", "position 9: 'extra' does not fit here"),
            ("grade 6 and tall", "position 13: 'tall' is not known"),
            ("(grade 6", "ends too early"),
            ("grade 6)", "position 8: ')' does not fit"),
            ("home language is Welsh", "position 18: 'Welsh' is no value of home language (english, polish)"),
            ('class "6', "not closed"),
            ("grade 8-6", "no range of grades"),
            ("grade 1-x", "no range of grades"),
            ("x" * 500, "at most 400"),
        ):
            with self.assertRaises(Refused) as caught:
                read_rule(rule, KNOWN)
            self.assertIn(said, str(caught.exception), rule)

    def test_and_or_not_agree_with_logic_on_every_combination(self) -> None:
        rng = random.Random(3)
        names = ("extended time", "text-to-speech", "breaks")

        def sentence(depth: int) -> tuple[str, object]:
            pick = rng.randrange(4) if depth else 3
            if pick == 3:
                at = rng.randrange(3)
                return names[at], lambda have, at=at: have[at]
            left, lf = sentence(depth - 1)
            if pick == 2:
                return f"not ({left})", lambda have: not lf(have)
            right, rf = sentence(depth - 1)
            if pick == 1:
                return f"({left}) or ({right})", lambda have: lf(have) or rf(have)
            return f"({left}) and ({right})", lambda have: lf(have) and rf(have)

        tried = 0
        for _ in range(60):
            text, truth = sentence(3)
            if len(text) > 400:
                continue
            fits = read_rule(text)
            for have in product((False, True), repeat=3):
                tried += 1
                facts = Facts(needs=frozenset(n for n, yes in zip(names, have, strict=True) if yes))
                self.assertEqual(fits(facts), truth(have), text)  # type: ignore[operator]
        self.assertGreater(tried, 200)


class Calendar(unittest.TestCase):
    def test_weekends_and_closed_days_are_no_instruction(self) -> None:
        week = instruction(date(2026, 11, 23), date(2026, 11, 29), MON_FRI, ())
        self.assertEqual((week.days, week.weeks, week.closed), (5, 1.0, 0))
        with_holiday = instruction(
            date(2026, 11, 23), date(2026, 12, 6), MON_FRI, (Closed(date(2026, 11, 27), date(2026, 11, 30)),)
        )
        self.assertEqual((with_holiday.days, with_holiday.weeks, with_holiday.closed), (8, 1.6, 2))

    def test_a_week_of_six_days_counts_by_its_own_length(self) -> None:
        self.assertEqual(instruction(date(2026, 11, 23), date(2026, 12, 6), 0b0111111, ()).weeks, 2.0)

    def test_the_days_are_those_counted_one_by_one(self) -> None:
        closed = (Closed(date(2026, 10, 12), date(2026, 10, 23)), Closed(date(2026, 10, 20), date(2026, 11, 2)))
        days = instructional_days(date(2026, 8, 31), date(2027, 7, 9), MON_FRI, closed)
        expected, day = 0, date(2026, 8, 31)
        while day <= date(2027, 7, 9):
            expected += day.weekday() < 5 and not date(2026, 10, 12) <= day <= date(2026, 11, 2)
            day += timedelta(days=1)
        self.assertEqual(len(days), expected)
        self.assertEqual(days, sorted(set(days)))

    def test_stretches_that_cannot_be_are_refused(self) -> None:
        for start, end, weekdays in (
            (date(2026, 2, 2), date(2026, 2, 1), MON_FRI),
            (date(2020, 1, 1), date(2026, 1, 1), MON_FRI),
            (date(2026, 1, 1), date(2026, 2, 1), 0),
        ):
            with self.assertRaises(Refused):
                instructional_days(start, end, weekdays, ())


class SmallGroups(unittest.TestCase):
    def test_one_small_group_takes_the_next_smallest_with_it(self) -> None:
        self.assertEqual(hidden_groups([20, 3, 9]), [False, True, True])
        self.assertEqual(hidden_groups([20, 3, 9, 9]), [False, True, True, False])
        self.assertEqual(hidden_groups([20, 30]), [False, False])
        self.assertEqual(hidden_groups([4, 4, 30]), [True, True, False])
        self.assertEqual(hidden_groups([1, 1, 30]), [True, True, True])
        self.assertEqual(hidden_groups([0, 20, 30]), [False, False, False])
        self.assertEqual(hidden_groups([3]), [True])
        self.assertEqual(hidden_groups([]), [])
        with self.assertRaises(Refused):
            hidden_groups([-1])

    def test_what_is_hidden_can_never_be_found_by_subtraction(self) -> None:
        rng = random.Random(5)
        for _ in range(2000):
            sizes = [rng.choice((0, 1, 2, 3, 4, 5, 6, 12, 40)) for _ in range(rng.randint(1, 6))]
            hidden = hidden_groups(sizes)
            behind = [s for s, h in zip(sizes, hidden, strict=True) if h]
            self.assertFalse([s for s, h in zip(sizes, hidden, strict=True) if 0 < s < 5 and not h])
            if behind and len(behind) < sum(s > 0 for s in sizes):  # something is still shown
                self.assertGreaterEqual(sum(behind), 5, sizes)
                self.assertGreater(len(behind), 1, sizes)


class Keywords(unittest.TestCase):
    ATTRIBUTES: ClassVar = {
        "school meals": frozenset({"yes", "no"}),
        "class": frozenset({"a"}),
        "grade": frozenset({"gifted"}),
    }

    def test_an_attribute_may_begin_like_a_keyword(self) -> None:
        for text in (
            "school meals is yes",
            '"school meals" is yes',
            'not "School Meals" is no and school "Hollin Moor"',
        ):
            rule = read_rule(text, self.ATTRIBUTES)
            self.assertTrue(rule(Facts(school="Hollin Moor", attributes={"school meals": "yes"})), text)
        self.assertFalse(read_rule("school meals is yes", self.ATTRIBUTES)(Facts(attributes={"school meals": "no"})))
        self.assertTrue(
            read_rule("grade 6 and grade is gifted", self.ATTRIBUTES)(Facts(grade="6", attributes={"grade": "gifted"}))
        )

    def test_keywords_keep_their_meaning_and_what_is_allowed_is_said(self) -> None:
        self.assertTrue(read_rule("school Hollin", self.ATTRIBUTES)(Facts(school="Hollin")))
        with self.assertRaisesRegex(Refused, '"school meals" is yes'):
            read_rule('"lunch" is yes', self.ATTRIBUTES)
