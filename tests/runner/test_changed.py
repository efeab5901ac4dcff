"""Which tests a change touches."""

from __future__ import annotations

import unittest

from tests import changed


class Touched(unittest.TestCase):
    def rooms(self, *paths: str) -> set[str]:
        found = changed.touched_by(list(paths))
        assert found is not None
        return {".".join(name.split(".")[1:3]) for name in found}

    def test_a_change_in_one_station_runs_its_own_room_in_every_layer_and_who_imports_it(self) -> None:
        found = self.rooms("src/bildung/services/quality/grid.py")
        self.assertLessEqual({"services.quality", "ui.quality"}, found)
        self.assertFalse(
            found & {"services.building", "services.bank", "services.calendar", "ui.people", "core.growth"}
        )

    def test_a_change_of_the_core_runs_what_reaches_it(self) -> None:
        found = self.rooms("src/bildung/core/growth/quantile.py")
        self.assertIn("core.growth", found)
        self.assertFalse({room for room in found if room.startswith("ui.")} - {"ui.growth"})

    def test_a_page_runs_the_browser_tests_of_its_station_and_the_unit_tests_beside_it(self) -> None:
        found = changed.touched_by(["ui/src/routes/(staff)/quality/+page.svelte"]) or []
        self.assertIn("pages", found)
        self.assertIn("tests.ui.quality.test_quality", found)
        self.assertNotIn("tests.ui.people.test_people", found)

    def test_what_everything_rests_on_runs_everything(self) -> None:
        for path in (
            "requirements.lock",
            "tests/support.py",
            "src/bildung/api/app.py",
            "ui/src/app.css",
            "src/bildung/store/migrations/versions/0001_first.py",
        ):
            self.assertIsNone(changed.touched_by([path]), path)

    def test_words_alone_run_nothing(self) -> None:
        self.assertEqual(changed.touched_by(["README.md", "docs/screenshots/bank.png"]), [])

    def test_a_route_runs_the_table_of_roles(self) -> None:
        self.assertIn(changed.ALWAYS, changed.touched_by(["src/bildung/api/sessions/sessions.py"]) or [])
