"""Kinds of days: by weekday, in cycles, over breaks and snow days."""

from __future__ import annotations

import unittest
from datetime import date, timedelta

from bildung.core.school.daytypes import Pattern, day_types

MONDAY = date(2027, 1, 18)
A, B, EARLY = 1, 2, 3


def weekday(day: date) -> bool:
    return day.weekday() < 5


def kinds(
    pattern: Pattern, days: int = 12, changes: dict[date, int | None] | None = None, is_open=weekday
) -> list[int]:  # type: ignore[no-untyped-def]
    return list(day_types(pattern, MONDAY, MONDAY + timedelta(days=days - 1), is_open, changes or {}).values())


class DayTypes(unittest.TestCase):
    def test_by_weekday_fridays_end_early(self) -> None:
        self.assertEqual(kinds(Pattern(types=(A, A, A, A, EARLY)), 7), [A, A, A, A, EARLY])

    def test_a_and_b_days_go_on_over_the_weekend(self) -> None:
        self.assertEqual(kinds(Pattern(types=(A, B), cycle=True, first=MONDAY), 9), [A, B, A, B, A, B, A])

    def test_a_cycle_counts_from_its_first_day_though_asked_later(self) -> None:
        first = MONDAY - timedelta(days=4)  # Thursday: A, Friday: B
        self.assertEqual(kinds(Pattern(types=(A, B, EARLY), cycle=True, first=first), 3), [EARLY, A, B])

    def test_a_break_uses_no_type_up(self) -> None:
        def is_open(day: date) -> bool:
            return weekday(day) and day != MONDAY + timedelta(days=1)

        self.assertEqual(kinds(Pattern(types=(A, B), cycle=True, first=MONDAY), 4, is_open=is_open), [A, B, A])

    def test_a_snow_day_shifts_the_cycle_or_uses_its_day_up_as_the_school_does(self) -> None:
        snow: dict[date, int | None] = {MONDAY + timedelta(days=1): None}
        shifted = Pattern(types=(A, B), cycle=True, first=MONDAY)
        skipped = Pattern(types=(A, B), cycle=True, first=MONDAY, shifts=False)
        self.assertEqual(kinds(shifted, 4, snow), [A, B, A])
        self.assertEqual(kinds(skipped, 4, snow), [A, A, B])

    def test_one_day_of_another_type_leaves_the_rest_as_it_was(self) -> None:
        early: dict[date, int | None] = {MONDAY + timedelta(days=2): EARLY}
        self.assertEqual(kinds(Pattern(types=(A, B), cycle=True, first=MONDAY), 5, early), [A, B, EARLY, B, A])

    def test_without_types_there_are_none(self) -> None:
        self.assertEqual(kinds(Pattern(types=())), [])
