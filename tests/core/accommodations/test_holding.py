"""Which accommodations hold when, and what several come to together."""

from __future__ import annotations

import unittest
from datetime import date, timedelta
from itertools import permutations
from math import inf

from hypothesis import given
from hypothesis import strategies as st

from bildung.core.accommodations.holding import Line, Occasion, holds, lapsing, together
from bildung.core.accommodations.kinds import KINDS, rule_words, said, value_of
from bildung.core.errors import Refused
from bildung.core.school.groups import NEEDS

DAY = date(2026, 11, 10)
MATH = Occasion(subject="Mathematics", test_kind="benchmark")
READING = Occasion(subject="Reading", test_kind="unit")

days = st.none() | st.integers(-3, 3).map(lambda n: DAY + timedelta(days=n))
lines = st.builds(
    Line,
    kind=st.sampled_from(["breaks", "small_group", "read_aloud", "extra_time"]),
    value=st.just("1.5"),
    subject=st.sampled_from(["", "Mathematics", "Reading"]),
    test_kind=st.sampled_from(["", "benchmark", "unit"]),
    start=days,
    until=days,
    approved=st.booleans(),
)


class Holding(unittest.TestCase):
    def test_a_line_holds_from_its_first_day_to_its_last(self) -> None:
        line = Line(kind="breaks", start=DAY, until=DAY + timedelta(days=1))
        found = [holds(line, DAY + timedelta(days=n)) for n in (-1, 0, 1, 2)]
        self.assertEqual(found, [False, True, True, False])

    def test_text_to_speech_in_mathematics_is_none_in_reading(self) -> None:
        line = Line(kind="read_aloud", subject="mathematics")
        self.assertTrue(together([line], DAY, MATH).read_aloud)
        self.assertFalse(together([line], DAY, READING).read_aloud)
        self.assertFalse(together([line], DAY, Occasion()).read_aloud, "nobody said that it is mathematics")
        self.assertTrue(together([line], DAY).read_aloud, "of all tests there is one")

    def test_for_one_kind_of_test(self) -> None:
        line = Line(kind="dictionary", test_kind="unit")
        self.assertEqual([bool(together([line], DAY, of).kinds) for of in (MATH, READING)], [False, True])

    def test_what_waits_for_approval_does_not_hold(self) -> None:
        self.assertEqual(together([Line(kind="breaks", approved=False)], DAY).kinds, ())

    def test_without_a_day_what_has_no_end_holds(self) -> None:
        self.assertEqual([holds(Line(kind="breaks", until=u), None) for u in (None, DAY)], [True, False])

    def test_of_two_the_more_generous_counts_in_any_order(self) -> None:
        several = [
            Line(kind="extra_time", value="1.5"),
            Line(kind="extra_time", value="2", subject="Mathematics"),
            Line(kind="form", value="shortened"),
            Line(kind="form", value="adapted"),
        ]
        for some in permutations(several):
            found = together(some, DAY, MATH)
            self.assertEqual((found.extra_time, found.form_kind), (2, "adapted"))
            self.assertEqual(found.says, ("extended time × 2", "adapted form"))
        self.assertEqual(together(several, DAY, READING).extra_time, 1.5)
        self.assertEqual(together([*several, Line(kind="extra_time", value="unlimited")], DAY).extra_time, inf)

    @given(st.lists(lines, max_size=6), days, st.sampled_from([None, MATH, READING]))
    def test_everything_that_holds_is_there_once_and_nothing_else(
        self, some: list[Line], day: date | None, occasion: Occasion | None
    ) -> None:
        found = together(some, day, occasion)
        held = {one.kind for one in some if holds(one, day, occasion)}
        self.assertEqual(set(found.kinds), {kind for kind in held if not KINDS[kind].teaching})
        self.assertEqual(len(found.kinds), len(set(found.kinds)))
        self.assertEqual(len(found.kinds), len(found.says))
        self.assertEqual(list(found.kinds), [kind for kind in KINDS if kind in found.kinds])

    def test_what_ends_inside_a_window_is_told(self) -> None:
        first, last = DAY, DAY + timedelta(days=10)
        at = {n: Line(kind="breaks", until=DAY + timedelta(days=n)) for n in (-1, 0, 5, 10, 11)}
        self.assertEqual(lapsing(list(at.values()), first, last), [at[0], at[5]])
        self.assertEqual(lapsing([Line(kind="breaks", until=DAY, approved=False)], first, last), [])


class Kinds(unittest.TestCase):
    def test_what_a_kind_takes_is_read_and_said(self) -> None:
        for kind, typed, kept, words in (
            ("extra_time", "1.50", "1.5", "extended time × 1.5"),
            ("extra_time", "unlimited", "unlimited", "extended time, no limit"),
            ("directions", " Polish ", "Polish", "directions in Polish"),
            ("form", "adapted", "adapted", "adapted form"),
            ("breaks", "whatever", "", "breaks"),
            ("other", "a quiet corner", "a quiet corner", "a quiet corner"),
        ):
            self.assertEqual(value_of(kind, typed), kept)
            self.assertEqual(said(kind, kept), words)

    def test_what_it_does_not_take_is_refused(self) -> None:
        for kind, typed in (
            ("extra_time", "soon"),
            ("extra_time", "nan"),
            ("extra_time", ""),
            ("form", "easy"),
            ("x", ""),
        ):
            with self.assertRaises(Refused, msg=f"{kind} {typed}"):
                value_of(kind, typed)

    def test_rules_for_groups_know_every_kind(self) -> None:
        attempts = tuple(name for name, kind in KINDS.items() if not kind.teaching)
        words = rule_words(attempts, "shortened") | rule_words((), "adapted")
        self.assertEqual(words, set(NEEDS))
