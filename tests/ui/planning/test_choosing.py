"""Teachers choose blocks, in a browser of their own; class times are entered in a grid."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, finding


class Choosing(DemoCase):
    def test_a_coordinator_lets_teachers_choose_and_plans_the_rest(self) -> None:
        page = self.enter("coordinator")
        windows = self.client().get("/api/calendar").json()["windows"]
        spring = next(w["id"] for w in reversed(windows) if w["name"] == "Spring")
        page.goto(f"{self.server.address}/calendar?window={spring}")
        page.get_by_role("checkbox", name=re.compile("^Winter reading 7")).click()
        page.get_by_role("button", name="Let teachers choose").click()
        page.get_by_role("button", name="Open choosing").click()
        expect(finding(page)).to_contain_text(
            re.compile(r"Teachers choose until .*: 0 of \d+ class tests have a block\.")
        )
        check_accessible(self, page)

        teacher = self.enter("teacher", "/today")
        teacher.get_by_role("link", name=re.compile("^Choose (a block|blocks) for")).click()
        expect(finding(teacher)).to_contain_text("Choose")
        check_accessible(self, teacher)
        blocks = teacher.get_by_role("region", name="Mathematics 6.1").get_by_role("button")
        free = blocks.and_(teacher.locator("[aria-disabled=false]")).first
        name = free.get_attribute("aria-label") or ""
        free.click()
        expect(teacher.get_by_role("button", name=name, exact=True)).to_have_attribute("aria-pressed", "true")

        page.reload()
        expect(finding(page)).to_contain_text("1 of")
        page.get_by_role("button", name=re.compile("^Remind")).click()
        expect(page.get_by_role("button", name="Reminded")).to_be_disabled()
        page.get_by_role("button", name="Plan the rest").click()
        expect(finding(page)).to_have_text(re.compile(r"^All [\d,]+ tests have a place\.$"), timeout=60_000)

    def test_class_times_are_set_by_clicks_and_by_a_pasted_table(self) -> None:
        page = self.enter("coordinator", "/calendar/timetable")
        expect(finding(page)).to_contain_text("classes have times.")
        check_accessible(self, page)
        row = page.get_by_role("row", name=re.compile("^Mathematics 6.1"))
        row.get_by_role("button", name="Mathematics 6.1, day A, 2").click()
        page.get_by_role("button", name="Save 1 class").click()
        expect(page.get_by_text("Timetable saved.")).to_be_visible()
        page.get_by_role("button", name="Import").click()
        page.get_by_role("textbox", name="Or paste a table with headings").fill(
            "class\tA\nMathematics 6.1\t3\nNowhere 1\t1"
        )
        page.get_by_role("button", name="Preview").click()
        expect(page.get_by_text("no class of this school has this title")).to_be_visible()
        page.get_by_role("button", name="Apply all 1").click()
        expect(row.get_by_role("button", name="Mathematics 6.1, day A, 3")).to_have_attribute("aria-pressed", "true")
