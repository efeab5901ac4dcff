"""Makeups fit in free rooms, a student at one place at a time."""

from __future__ import annotations

import itertools
import unittest
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bildung.core.participation.makeups import Need, Slot, arrange

MORNING = datetime(2026, 11, 30, 8, 30, tzinfo=UTC)


def need(student: int, test: int = 1, minutes: int = 50) -> Need:
    return Need(student=student, test=test, minutes=minutes)


def slot(hours: float, seats: int = 30, minutes: int = 60, place: int = 1) -> Slot:
    return Slot(start=MORNING + timedelta(hours=hours), minutes=minutes, seats=seats, place=place)


class Arranging(unittest.TestCase):
    def test_all_at_once_where_all_are_free(self) -> None:
        needs = [need(1), need(2, 2), need(3)]
        found, left = arrange(needs, [slot(0), slot(24)], {})
        self.assertEqual((len(found), found[0].slot, left), (1, slot(0), []))

    def test_the_slot_that_takes_the_most_goes_first(self) -> None:
        busy = {1: [(MORNING, MORNING + timedelta(minutes=50))], 2: [(MORNING, MORNING + timedelta(minutes=50))]}
        found, left = arrange([need(1), need(2), need(3)], [slot(0), slot(48)], busy)
        self.assertEqual(([f.slot for f in found], left), ([slot(48)], []))

    def test_two_tests_of_one_student_are_on_two_days_where_there_are_two(self) -> None:
        two = [need(1, 1), need(1, 2)]
        found, _ = arrange(two, [slot(0), slot(2), slot(24)], {})
        self.assertEqual([f.slot for f in found], [slot(0), slot(24)])
        found, left = arrange(two, [slot(0), slot(2)], {})
        self.assertEqual(([f.slot for f in found], left), ([slot(0), slot(2)], []))

    def test_a_test_that_is_longer_than_any_slot_is_left(self) -> None:
        found, left = arrange([need(1, minutes=90), need(2)], [slot(0)], {})
        self.assertEqual((len(found), left), (1, [need(1, minutes=90)]))

    @given(
        st.lists(
            st.tuples(st.integers(1, 8), st.integers(1, 3), st.sampled_from((25, 50, 75))), max_size=20, unique=True
        ),
        st.lists(st.tuples(st.integers(0, 30), st.integers(1, 6), st.sampled_from((50, 60, 90))), max_size=8),
    )
    def test_nobody_is_lost_or_in_two_places(
        self, wanted: list[tuple[int, int, int]], offered: list[tuple[int, int, int]]
    ) -> None:
        needs = [need(*one) for one in wanted]
        slots = [slot(hours, seats, minutes, place) for place, (hours, seats, minutes) in enumerate(offered)]
        found, left = arrange(needs, slots, {})
        given_ = [n for f in found for n in f.needs]
        self.assertEqual(sorted(map(repr, given_ + left)), sorted(map(repr, needs)))
        spans: dict[int, list[tuple[datetime, datetime]]] = {}
        for one in found:
            self.assertLessEqual(len(one.needs), one.slot.seats)
            for n in one.needs:
                self.assertLessEqual(n.minutes, one.slot.minutes)
                spans.setdefault(n.student, []).append((one.slot.start, one.slot.start + timedelta(minutes=n.minutes)))
        for theirs in spans.values():
            theirs.sort()
            for before, after in itertools.pairwise(theirs):
                self.assertLessEqual(before[1], after[0])
