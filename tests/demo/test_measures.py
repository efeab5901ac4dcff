"""What is planted in the outside measures of the whole district comes out where a person would read it."""

from __future__ import annotations

import random
import unittest
from datetime import timedelta

import numpy as np
from sqlalchemy import select

from bildung.demo.abilities import abilities
from bildung.demo.district import brackwater
from bildung.demo.make import SEED, district_files
from bildung.demo.measures import outside_measures
from bildung.services.growth import measures
from bildung.services.growth.pair import PairAsked, pair_page
from bildung.services.growth.pairview import PairPage
from bildung.store.models import SchoolYear, Window
from tests.support import NOON, WorldCase


class Planted(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        district = brackwater(NOON.date())
        self.bring_people(district_files(district.schools, random.Random(SEED)))

        def calendar(db):  # type: ignore[no-untyped-def]
            year = district.year
            for at, begins in enumerate((year.before, year.begins)):
                if not db.scalars(select(SchoolYear).where(SchoolYear.start == begins)).first():
                    db.add(SchoolYear(title=f"Year {at}", start=begins, end=begins + timedelta(days=363)))
            db.add_all(Window(name=name, start=start, end=end) for name, start, end in year.windows)

        self.ctx.store.write(calendar)
        known = abilities(self.ctx, np.random.default_rng(SEED), district.schools[0].key)
        outside_measures(self.ctx, self.boss, district, known, NOON.date())
        self.lines = {m.name: m for m in measures.measures_page(self.ctx, self.boss).measures}

    def page(self, name: str) -> PairPage:
        line = self.lines[name]
        return pair_page(self.ctx, self.boss, PairAsked(measure=line.id, start=line.latest[0], end=line.latest[1]))

    def test_what_is_planted_comes_out(self) -> None:
        reading = {c.name: c for b in self.page("Tideline Reading").blocks for c in b.classes}
        self.assertEqual(reading["Reading 7.2"].off, 1)
        self.assertIn("cannot be told", reading["Reading 8.3"].says)
        self.assertEqual(reading["Reading 8.3"].off, 0)
        self.assertLess(sum(bool(c.off) for c in reading.values()), 6)
        science = self.page("Tideline Science")
        school = next(s for s in science.by_school if s.name.startswith("Hollin Moor"))
        self.assertEqual((school.picked, school.off), (True, 0))
        self.assertGreater(school.mean_gain or 0, (science.mean_gain or 0) + 1)
        self.assertTrue(any("regression to the mean" in said for said in science.regression), science.regression)
        levels = self.page("Harbor reading levels")
        assert levels.moves is not None
        self.assertGreater(levels.moves.up, levels.moves.down)
        self.assertEqual(len(self.lines["Tideline Mathematics"].windows), 5)
        self.assertEqual(self.lines["Facts in a minute"].cuts, [])


if __name__ == "__main__":
    unittest.main()
