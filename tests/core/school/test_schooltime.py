"""Days and instants at schools far apart, and over the change of clocks; a clock that jumps."""

from __future__ import annotations

import unittest
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

from bildung.core.errors import Refused
from bildung.core.school.clockwatch import ClockWatch
from bildung.core.school.schooltime import day_bounds, instant_at, school_day
from bildung.core.school.timing import personal_end

ZONES = [ZoneInfo(name) for name in ("Pacific/Auckland", "Europe/Berlin", "America/Los_Angeles", "Asia/Kolkata")]
BERLIN = ZoneInfo("Europe/Berlin")


class Days(unittest.TestCase):
    def test_a_session_of_the_afternoon_is_on_the_day_of_the_school(self) -> None:
        for zone in ZONES:
            for hour in (0, 8, 13, 23):
                local = datetime(2026, 11, 27, hour, 30)
                self.assertEqual(school_day(instant_at(local, zone), zone), date(2026, 11, 27), (zone.key, hour))

    def test_a_day_is_as_long_as_it_is_there(self) -> None:
        hours = []
        for day in (date(2026, 3, 29), date(2026, 10, 25), date(2026, 11, 27)):
            start, end = day_bounds(day, BERLIN)
            hours.append((end - start) / timedelta(hours=1))
        self.assertEqual(hours, [23, 25, 24])
        start, end = day_bounds(date(2026, 11, 27), ZONES[0])
        self.assertEqual(school_day(start, ZONES[0]), date(2026, 11, 27))
        self.assertEqual(school_day(end, ZONES[0]), date(2026, 11, 28))


class Instants(unittest.TestCase):
    def test_a_session_over_the_change_of_clocks_has_the_length_it_says(self) -> None:
        """From 1:30 to 3:30 on the night when clocks go back are three hours, forward one."""
        for day, hours in ((25, 3), (24, 2)):
            start, end = (instant_at(datetime(2026, 10, day, hour, 30), BERLIN) for hour in (1, 3))
            self.assertEqual((end - start) / timedelta(hours=1), hours)
            self.assertEqual(personal_end(start, end, 1.5) - start, (end - start) * 1.5)
        start, end = (instant_at(datetime(2026, 3, 29, hour, 30), BERLIN) for hour in (1, 3))
        self.assertEqual((end - start) / timedelta(hours=1), 1)

    def test_a_time_that_is_left_out_is_named_and_one_that_is_twice_is_the_first(self) -> None:
        with self.assertRaisesRegex(Refused, "on 2026-03-29 the clocks go forward, and 02:30 is left out"):
            instant_at(datetime(2026, 3, 29, 2, 30), BERLIN)
        self.assertEqual(instant_at(datetime(2026, 10, 25, 2, 30), BERLIN), datetime(2026, 10, 25, 0, 30, tzinfo=UTC))

    def test_a_time_with_a_zone_is_that_instant_and_odd_years_are_refused(self) -> None:
        there = datetime(2026, 11, 27, 9, tzinfo=ZONES[2])
        self.assertEqual(instant_at(there, BERLIN), there)
        for year in (1, 1926, 2206, 9999):
            with self.assertRaisesRegex(Refused, "is not between 2000 and 2099"):
                instant_at(datetime(year, 1, 2), BERLIN)


class Watching(unittest.TestCase):
    def test_a_jump_is_believed_at_the_second_reading_that_agrees(self) -> None:
        watch, wall = ClockWatch(), datetime(2026, 11, 27, 9, tzinfo=UTC)
        self.assertEqual([watch.steady(wall + timedelta(seconds=30 * n), 30.0 * n) for n in range(3)], [True] * 3)
        jumped = wall + timedelta(hours=5)
        self.assertFalse(watch.steady(jumped, 90.0))
        self.assertAlmostEqual(watch.jumped, 5 * 3600 - 90)
        self.assertTrue(watch.steady(jumped + timedelta(seconds=30), 120.0))

    def test_a_glitch_that_goes_back_is_never_acted_on(self) -> None:
        watch, wall = ClockWatch(), datetime(2026, 11, 27, 9, tzinfo=UTC)
        watch.steady(wall, 0.0)
        self.assertFalse(watch.steady(wall + timedelta(days=3), 30.0))
        self.assertFalse(watch.steady(wall + timedelta(seconds=60), 60.0), "the second reading does not agree")
        self.assertTrue(watch.steady(wall + timedelta(seconds=90), 90.0))

    def test_a_clock_that_runs_a_little_off_is_none_that_jumps(self) -> None:
        watch, wall = ClockWatch(), datetime(2026, 11, 27, 9, tzinfo=UTC)
        self.assertTrue(all(watch.steady(wall + timedelta(seconds=31 * n), 30.0 * n) for n in range(500)))
