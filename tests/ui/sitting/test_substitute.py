"""A substitute opens one session at the door with a code and a name."""

from __future__ import annotations

import unittest

from playwright.sync_api import expect

from tests.ui.browser import check_accessible, finding, give_codes
from tests.ui.sitting.test_cut import OpenSession


class Substitute(OpenSession):
    def test_two_fields_open_the_room_and_nothing_else(self) -> None:
        session, code = self.open_session("Reading 6.1")
        boss = self.enter("coordinator", f"/sessions/{self.session_id}")
        boss.get_by_role("button", name="Code for a substitute").click()
        boss.get_by_text("Opens this session only").wait_for()
        made = self.client().get(f"/api/sessions/{self.session_id}").json()["substitute_code"]
        student = self.page(self.server, 360, 740)
        give_codes(student, session, code)
        page = self.page(self.server, 768, 1000)
        page.get_by_role("button", name="Substitute").click()
        page.get_by_label("Substitute's code").fill(made.lower())
        page.get_by_label("Your name").fill("Ines Okoro")
        page.get_by_role("button", name="Open the session").click()
        expect(finding(page)).to_contain_text("1 in progress")
        check_accessible(self, page)
        expect(page.get_by_role("navigation", name="Stations").get_by_role("link")).to_have_count(0)
        expect(page.get_by_role("button", name="Close session")).to_have_count(0)
        page.get_by_role("button", name="Absent").first.click()
        expect(finding(page)).to_contain_text("1 absent")
        page.get_by_role("button", name="Pause", exact=True).click()
        page.get_by_role("alertdialog").get_by_role("button", name="Pause").click()
        expect(student.get_by_role("heading", level=1)).to_have_text("Your test is paused.")
        page.get_by_role("button", name="Resume", exact=True).click()
        expect(student.get_by_role("radio").first).to_be_visible()
        expect(boss.get_by_text("Used by Ines Okoro.")).to_be_visible()
        boss.get_by_role("button", name="Withdraw the code").click()
        expect(boss.get_by_role("button", name="Code for a substitute")).to_be_visible()
        page.reload()
        expect(page.get_by_role("heading", name="Take a test")).to_be_visible()
        self.errors.clear()


if __name__ == "__main__":
    unittest.main()
