"""A group of responses scored at once; the total moves on every page that shows it."""

from __future__ import annotations

import re
import unittest

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, check_words, finding


class Together(DemoCase):
    def test_a_group_is_scored_and_its_totals_move_everywhere(self) -> None:
        client = self.client()
        line = next(i for i in client.get("/api/scoring").json()["items"] if i["form"] == "Task mathematics 8")
        wish = {"kind": "rescore", "place": line["place"], "window": line["window_id"], "scoring": 99}
        asof = client.get("/api/corrections/preview", params=wish).json()["asof"]
        client.post(
            "/api/corrections", json=wish | {"reason": "The rubric was read otherwise.", "asof": asof}
        ).raise_for_status()
        plan = {"window": line["window_id"], "tasks": [], "share": 0.0, "apart": None}
        client.put(f"/api/scoring/items/{line['place']}/plan", json=plan).raise_for_status()
        at = f"/api/scoring/items/{line['place']}/groups?window={line['window_id']}"
        group = client.get(at).json()["groups"][0]
        test = f"/api/quality/attempts/{group['first']}"
        self.assertIn("waits for a score", client.get(test).json()["finding"])
        page = self.enter("coordinator", "/scoring")
        page.get_by_role("row", name=re.compile("Task mathematics 8")).first.get_by_role(
            "link", name="Together"
        ).click()
        expect(finding(page)).to_contain_text("that say the same")
        check_accessible(self, page)
        check_words(self, page)
        row = page.locator("tbody tr").first
        for criterion in row.get_by_role("group").all() or row.get_by_role("radiogroup").all():
            criterion.get_by_role("radio").last.click()
        row.get_by_role("button", name=f"Score {group['n']}", exact=True).click()
        expect(finding(page)).to_contain_text(f"{group['n']} response")
        page.goto(f"{self.server.address}/sessions/tests/{group['first']}")
        expect(finding(page)).not_to_contain_text(re.compile("wait(s)? for a score"))
        after = client.get(test).json()
        scored = next(i for i in after["items"] if i["place"] == line["place"])
        self.assertEqual(scored["earned"], scored["points"])
        total = next(m["total"] for m in after["classmates"] if m["sitting"] == group["first"])
        self.assertEqual(total, after["earned"])
        forms = f"form={line['form_id']}&window={line['window_id']}"
        grid = client.get(f"/api/quality/grid?{forms}").json()
        self.assertEqual(next(s["earned"] for s in grid["students"] if s["sitting"] == group["first"]), after["earned"])
        self.errors.clear()


if __name__ == "__main__":
    unittest.main()
