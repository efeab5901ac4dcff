"""The planted wrong key corrected from Item quality, read again there, and undone; one student's score changed."""

from __future__ import annotations

import re
import unittest

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, finding


class Corrections(DemoCase):
    def test_the_wrong_key_is_corrected_and_the_finding_changes(self) -> None:
        client = self.client()
        test = next(t for t in client.get("/api/quality").json()["tests"] if t["form"] == "Fall mathematics 6")
        at = f"form={test['form_id']}&window={test['window_id']}"
        page = self.enter("coordinator", f"/quality/look/item?{at}&item=M6-14")
        expect(finding(page)).to_contain_text("possible wrong key")
        page.get_by_role("link", name="Correct results …").click()
        expect(finding(page)).to_contain_text("would have more")
        expect(page.get_by_text("Item 14: possible wrong key no longer flagged").first).to_be_visible()
        check_accessible(self, page)
        page.get_by_label("Why").fill("The key was typed as another letter.")
        page.get_by_role("button", name="Correct results").click()
        expect(finding(page)).to_contain_text("Corrected.")
        page.goto(f"{self.server.address}/quality/look/item?{at}&item=M6-14")
        expect(finding(page)).to_contain_text("Item 14 is sound")
        page.goto(f"{self.server.address}/scoring/corrections")
        expect(finding(page)).to_contain_text("hold")
        check_accessible(self, page)
        page.get_by_role("row", name=re.compile("scored by A instead of B")).get_by_role(
            "button", name="Undo …"
        ).click()
        page.get_by_label("Why it is undone").fill("To be read again.")
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(finding(page)).to_contain_text("1 was undone.")
        page.goto(f"{self.server.address}/quality/look/item?{at}&item=M6-14")
        expect(finding(page)).to_contain_text("possible wrong key")
        self.errors.clear()

    def test_one_score_is_changed_from_the_students_test(self) -> None:
        client = self.client()
        test = next(t for t in client.get("/api/quality").json()["tests"] if t["form"] == "Fall reading 7")
        sessions = [s for s in client.get("/api/sessions").json()["sessions"] if s["form"] == "Fall reading 7"]
        detail = client.get(f"/api/sessions/{sessions[0]['id']}").json()
        sitting = next(s for s in detail["sittings"] if s["state"] == "handed_in")
        self.assertEqual(test["form"], "Fall reading 7")
        page = self.enter("coordinator", f"/sessions/tests/{sitting['id']}")
        before = client.get(f"/api/quality/attempts/{sitting['id']}").json()
        wrong = next(i for i in before["items"] if i["gave"] == "wrong")
        page.get_by_role("button", name=re.compile(f"^Item {wrong['number']}, ")).click()
        page.get_by_role("link", name="Change score …").click()
        page.get_by_label(re.compile("^Points, 0 to")).fill(str(wrong["points"]))
        page.get_by_role("button", name="Look").click()
        expect(finding(page)).to_contain_text("1 of ")
        page.get_by_label("Why").fill("The answer can be defended.")
        page.get_by_role("button", name="Correct results").click()
        expect(finding(page)).to_contain_text("Corrected.")
        after = client.get(f"/api/quality/attempts/{sitting['id']}").json()
        self.assertEqual(after["earned"], before["earned"] + wrong["points"])
        self.errors.clear()


if __name__ == "__main__":
    unittest.main()
