"""Starting an installation of one's own."""

from __future__ import annotations

import re
from pathlib import Path

from bildung.services.door import signin
from bildung.services.rosters import fromfiles
from bildung.services.shared.context import Context
from bildung.store.store import Store
from tests.cli.test_analyse import CommandCase
from tests.support import small_roster


class Founding(CommandCase):
    def found(self, *more: str) -> tuple[int, str, str]:
        return self.call(
            "found",
            "--data",
            str(self.folder / "school"),
            "--name",
            "Our Schools",
            "--user",
            "h.quill",
            *more,
            "Hanne",
            "Quill",
        )

    def test_the_first_coordinator_signs_in_and_brings_in_the_roster(self) -> None:
        status, out, _ = self.found()
        self.assertEqual(status, 0)
        password = re.search(r"temporary password (\S+)", out)
        assert password is not None
        ctx = Context(store=Store(Path(self.folder / "school")))
        self.addCleanup(ctx.store.close)
        token = signin.sign_in_staff(ctx, "h.quill", password[1], "here")
        actor = signin.actor_of(ctx, token.secret)
        self.assertTrue(actor.must_change)
        self.assertEqual(fromfiles.preview(ctx, actor, small_roster(3)).counts["changed"], 0)
        self.assertEqual(signin.welcome(ctx), {"federation": "Our Schools", "demo_people": [], "provider": ""})

    def test_a_second_time_changes_nothing_and_an_unknown_zone_is_named(self) -> None:
        self.assertEqual(self.found()[0], 0)
        status, _, error = self.found()
        self.assertEqual(status, 2)
        self.assertIn("already contains a district; nothing was changed", error)
        status, _, error = self.call(
            "found", "--data", str(self.folder / "b"), "--name", "X", "--user", "u", "--zone", "Mars/Base", "A", "B"
        )
        self.assertEqual((status, "'Mars/Base' is no time zone" in error), (2, True))

    def test_serving_a_folder_without_data_says_what_to_do(self) -> None:
        status, _, error = self.call("serve", "--data", str(self.folder / "none"), "--port", "1")
        self.assertEqual(status, 2)
        self.assertIn("./bildung found starts one", error)
