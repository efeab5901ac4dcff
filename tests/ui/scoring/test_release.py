"""Results released from Scoring with a look at them first, read by the student, and withdrawn."""

from __future__ import annotations

import re
import unittest

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, check_words, finding


class Releases(DemoCase):
    def test_a_test_goes_out_to_students_after_a_look_and_is_withdrawn(self) -> None:
        page = self.enter("coordinator", "/scoring")
        page.get_by_role("link", name="Release", exact=True).click()
        expect(finding(page)).to_contain_text("not released to all students")
        check_accessible(self, page)
        page.get_by_role("link", name="Fall reading 7", exact=True).first.click()
        expect(finding(page)).to_contain_text("are not released.")
        check_accessible(self, page)
        check_words(self, page)
        page.get_by_role("button", name="Preview as student").click()
        seen = page.get_by_role("dialog")
        expect(seen.get_by_role("heading", name=re.compile(r"^You got [\d.]+ of"))).to_be_visible()
        seen.get_by_role("button", name="Close").click()
        page.get_by_role("button", name=re.compile(r"^Release \d+ class")).click()
        expect(finding(page)).to_contain_text("went out to students.")
        expect(page.get_by_text("Students since").first).to_be_visible()
        page.get_by_role("button", name="Withdraw from students").first.click()
        page.get_by_role("button", name="Withdraw", exact=True).click()
        expect(page.get_by_text("not released", exact=True)).to_have_count(1)
        self.errors.clear()

    def test_a_result_is_held_back_and_let_go(self) -> None:
        page = self.enter("coordinator", "/scoring/release")
        page.get_by_role("link", name="Fall reading 8", exact=True).first.click()
        expect(page.get_by_text("The family asked for a talk first.")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Hold back the results of")).click()
        page.get_by_label("Why it is held back").fill("An irregularity is being looked into.")
        page.get_by_role("button", name="Hold back", exact=True).click()
        expect(page.get_by_text("An irregularity is being looked into.")).to_be_visible()
        page.get_by_role("button", name="Let it go out").first.click()
        expect(page.get_by_role("button", name="Let it go out")).to_have_count(1)
        self.errors.clear()


if __name__ == "__main__":
    unittest.main()
