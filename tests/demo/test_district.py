"""The demo's school year around any day, and its schools."""

from __future__ import annotations

import random
import unittest
from datetime import date, datetime, timedelta

from bildung.demo.abilities import Abilities
from bildung.demo.district import ZONE, around, brackwater, local_time, school_day
from bildung.demo.make import SEED
from bildung.demo.rosters import district_files
from bildung.demo.winter import DAYS, LAST, MINUTES, OPENS, start_of
from bildung.formats.oneroster import read_roster

YEAR = [date(2026, 1, 1) + timedelta(days=n) for n in range(0, 366, 5)]


class Year(unittest.TestCase):
    def test_today_is_in_the_winter_window_on_any_day(self) -> None:
        for today in YEAR:
            year = around(today)
            (_, before, _), (_, fall, fall_ends), winter, spring = year.windows[2], *year.windows[3:]
            self.assertTrue(winter[1] < today < winter[2] or today.weekday() > 4, today)
            self.assertLess(before, year.begins)
            self.assertTrue(year.begins < fall < fall_ends < winter[1] < spring[1] < spring[2] < year.ends)
            self.assertEqual(year.fall, year.windows[3])

    def test_every_planned_day_is_a_school_day_of_the_window(self) -> None:
        for today in YEAR:
            _, opens, ends = around(today).windows[4]
            for days in (days for grades in DAYS.values() for days in grades.values() if days):
                day = school_day(today, days)
                self.assertLess(day.weekday(), 5)
                self.assertTrue(opens <= day <= ends, (today, days))


class Today(unittest.TestCase):
    def test_something_is_open_and_the_rest_lies_within_school_hours(self) -> None:
        for hour in range(24):
            now = local_time(date(2026, 12, 2), hour, 37)
            starts = [start_of(now, now.date(), 0, place, False) for place in range(5)]
            states = [
                "over" if s + timedelta(minutes=MINUTES) <= now else "open" if s <= now else "ahead" for s in starts
            ]
            self.assertEqual([states.count(s) for s in ("over", "open", "ahead")], [1, 2, 2], hour)
            for start, state in zip(starts, states, strict=True):
                local: datetime = start.astimezone(now.tzinfo)
                self.assertTrue(state == "open" or OPENS <= local.hour < LAST, (hour, start))


class Schools(unittest.TestCase):
    def test_three_schools_with_about_eleven_hundred_students_and_sixty_staff(self) -> None:
        layouts = brackwater(date(2026, 11, 30)).schools
        roster = read_roster(district_files(layouts, random.Random(SEED)))
        students = [u for u in roster.users if u.role == "student"]
        staff = [u for u in roster.users if u.role in ("teacher", "proctor")]
        self.assertEqual((len(roster.orgs), len(students), len(staff)), (3, 1068, 60))
        self.assertEqual(len({(u.given, u.family) for u in students}), len(students), "nobody looks entered twice")
        self.assertEqual(sorted({u.grade for u in students}), sorted("K12345678"))
        self.assertEqual({c.subject for c in roster.classes}, {"Mathematics", "Reading", "Science", ""})
        self.assertEqual(roster.left_out, ())

    def test_the_same_day_gives_the_same_files(self) -> None:
        layouts = brackwater(date(2026, 11, 30)).schools
        self.assertEqual(
            district_files(layouts, random.Random(SEED)), district_files(layouts, random.Random(SEED)), ZONE
        )


class Ability(unittest.TestCase):
    def test_a_jump_is_behind_those_who_look_back(self) -> None:
        known = Abilities(start={("Reading", 1): 0.5}, slope={1: 0.0}, jumps={1: (-0.1, 1.3)})
        before, now = known.at("Reading", -1.0)(1), known.at("Reading", 0.0)(1)
        self.assertAlmostEqual(now - before, 1.3)
