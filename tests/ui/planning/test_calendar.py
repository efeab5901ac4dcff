"""A coordinator plans the spring window: from nothing to published sessions, with a change by hand between."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.ui.browser import DemoCase, check_accessible, finding

PLANNED = re.compile(r"^All [\d,]+ tests have a place\.$")


class Calendar(DemoCase):
    def at(self, page: Page) -> str:
        windows = self.client().get("/api/calendar").json()["windows"]
        spring = next(w["id"] for w in reversed(windows) if w["name"] == "Spring")
        page.goto(f"{self.server.address}/calendar?window={spring}")
        return str(spring)

    def test_a_window_is_planned_changed_by_keys_and_published(self) -> None:
        page = self.enter("coordinator")
        window = self.at(page)
        expect(finding(page)).to_contain_text("Spring is not planned yet.")
        check_accessible(self, page)
        # two of its students are named for two forms, which is settled at the family before anything is published
        page.get_by_role("checkbox", name=re.compile("^Winter reading 7")).click()
        page.get_by_role("button", name="Plan", exact=True).click()
        expect(finding(page)).to_have_text(PLANNED, timeout=60_000)
        check_accessible(self, page)

        tile = page.get_by_role("grid").get_by_role("button", name=re.compile("^Reading 6")).first
        before = tile.get_attribute("aria-label") or ""
        tile.focus()
        page.keyboard.press("Enter")
        panel = page.get_by_role("region", name="Chosen session")
        expect(panel).to_contain_text("Reading 6")
        check_accessible(self, page)
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        undo = page.get_by_role("button", name="Undo", exact=True)
        expect(undo).to_be_enabled()
        undo.click()
        expect(undo).to_be_disabled()
        expect(page.get_by_role("button", name=before, exact=True)).to_be_visible()
        page.get_by_role("radio", name="Proctors").click()
        expect(page.get_by_role("rowheader").first).to_contain_text("session")

        page.get_by_role("radio", name="Rooms").click()
        page.get_by_role("rowheader").first.get_by_role("button").click()
        lost = page.get_by_role("dialog", name=re.compile("^Close "))
        check_accessible(self, page)
        lost.get_by_role("button", name=re.compile("^Close")).click()
        expect(page.get_by_text(re.compile(r" is closed\. Changes to publish: \d+\."))).to_be_visible(timeout=60_000)
        expect(finding(page)).to_have_text(PLANNED)

        page.get_by_role("button", name=re.compile(r"^Publish \d+$")).click()
        asked = page.get_by_role("dialog", name="Publish the plan")
        expect(asked).to_contain_text("sessions to schedule")
        asked.get_by_role("button", name="Publish", exact=True).click()
        expect(page.get_by_text(re.compile(r"\d+ sessions published\."))).to_be_visible(timeout=60_000)
        expect(page.get_by_role("button", name="Publish", exact=True)).to_be_disabled()
        page.goto(f"{self.server.address}/sessions?window={window}")
        expect(finding(page)).to_contain_text("upcoming")

    def test_what_a_school_tests_with_is_entered_in_grids(self) -> None:
        page = self.enter("coordinator", "/calendar/resources")
        expect(finding(page)).to_contain_text("6 testing rooms with")
        check_accessible(self, page)
        page.get_by_role("button", name="Add room").click()
        rooms = page.get_by_role("table", name="Rooms")
        save = page.get_by_role("button", name="Save rooms and carts")
        save.click()
        expect(page.get_by_role("alert")).to_contain_text("each room needs a name")
        rooms.get_by_label("Room", exact=True).last.fill("Annex")
        save.click()
        expect(page.get_by_text("Rooms and carts saved.")).to_be_visible()
        expect(finding(page)).to_contain_text("7 testing rooms with")
        page.get_by_role("button", name="Remove Annex").click()
        save.click()
        expect(finding(page)).to_contain_text("6 testing rooms with")

        page.get_by_role("button", name="Add a single day").click()
        page.get_by_role("button", name="Save bell schedules").click()
        expect(page.get_by_role("alert")).to_be_visible()

        page.get_by_role("button", name="Edit", exact=True).first.click()
        asked = page.get_by_role("dialog")
        check_accessible(self, page)
        asked.get_by_role("button", name="Available all day").click()
        expect(page.get_by_text("Hours saved.")).to_be_visible()
