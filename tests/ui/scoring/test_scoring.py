"""Responses scored in a browser by keys alone; a severe scorer read off the agreement; who receives safety alerts."""

from __future__ import annotations

import contextlib
import re
import sqlite3
import unittest

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, check_words, finding


class Scoring(DemoCase):
    def test_the_severe_scorer_is_read_off_the_agreement(self) -> None:
        page = self.enter("coordinator", "/scoring")
        expect(finding(page)).to_have_text(re.compile(r"Every response is scored|wait for a score"))
        check_accessible(self, page)
        check_words(self, page)
        page.get_by_role("row", name=re.compile("Task mathematics 8")).first.get_by_role(
            "link", name="Agreement"
        ).click()
        expect(finding(page)).to_have_text(re.compile(r"^Liv Marwan gives 0\.7 points less than Umar Quist"))
        expect(page.get_by_role("row", name=re.compile("severe"))).to_contain_text("Liv Marwan")
        check_accessible(self, page)

    def test_a_score_is_withdrawn_and_given_again_by_keys_alone(self) -> None:
        client = self.client()
        line = next(i for i in client.get("/api/scoring").json()["items"] if i["form"] == "Task mathematics 8")
        tasks = [{"scorer": s["id"], "due": None} for s in line["scorers"]]
        plan = {"window": line["window_id"], "tasks": tasks, "share": 1.0, "apart": None}
        client.put(f"/api/scoring/items/{line['place']}/plan", json=plan).raise_for_status()
        with contextlib.closing(sqlite3.connect(self.server.folder / "bildung.sqlite")) as store:
            wanted = "SELECT sitting_id FROM mark WHERE form_item_id = ? ORDER BY sitting_id LIMIT 1"
            sitting = store.execute(wanted, (int(line["place"]),)).fetchone()[0]
        page = self.enter("teacher", f"/scoring/{line['place']}?window={line['window_id']}&sitting={sitting}")
        expect(finding(page)).to_have_text(f"All {line['responses']} responses are scored.")
        page.get_by_role("button", name="Withdraw my score").click()
        expect(finding(page)).to_contain_text("1 of 46 responses still waits for a second scorer.")
        expect(page.get_by_text("the first score is not shown")).to_be_visible()
        check_accessible(self, page)
        page.get_by_label("Comment to the student").fill("Say how you know.")
        page.get_by_role("button", name="Keep as a phrase").click()
        expect(page.get_by_role("button", name="Say how you know.", exact=True)).to_be_visible()
        page.get_by_role("heading", name=re.compile("^Response")).click()
        page.keyboard.press("!")
        expect(page.get_by_role("alertdialog")).to_contain_text("with the student's name, to Hanne Quill")
        page.get_by_role("button", name="Cancel").click()
        page.keyboard.press("t")
        expect(page.get_by_text("“off topic” scores 0.")).to_be_visible()
        for _ in client.get(f"/api/scoring/items/{line['place']}", params=plan_window(line)).json()["criteria"]:
            page.keyboard.press("1")
        page.keyboard.press("Enter")
        expect(finding(page)).to_have_text(f"All {line['responses']} responses are scored.")
        expect(page.get_by_text("Nothing here waits for you.")).to_be_visible()

    def test_from_a_session_to_one_students_whole_test_and_to_the_next(self) -> None:
        client = self.client()
        sessions = [s for s in client.get("/api/sessions").json()["sessions"] if s["form"] == "Task mathematics 8"]
        page = self.enter("coordinator", f"/sessions/{sessions[0]['id']}")
        page.get_by_role("link", name=re.compile("^Whole test of")).first.click()
        expect(finding(page)).to_have_text(re.compile(r"^[\d.]+ of [\d.]+ points \(\d+%\)\."))
        first = page.url
        expect(page.get_by_role("button", name=re.compile("^Item 1, "))).to_be_visible()
        check_accessible(self, page)
        page.keyboard.press("ArrowRight")
        page.keyboard.press("ArrowLeft")
        page.get_by_label(re.compile("^Comment to")).fill("Compare the two lengths.")
        page.get_by_role("button", name="Save comment").click()
        expect(page.get_by_role("button", name="Save comment")).to_be_disabled()
        page.get_by_role("heading", name="Item 1", exact=True).click()
        page.keyboard.press("n")
        expect(page).not_to_have_url(first)
        expect(page.get_by_role("heading", name="Item 1", exact=True)).to_be_visible()
        mates = page.get_by_role("region", name="Class", exact=True).get_by_role("link")
        names = mates.all_inner_texts()
        page.get_by_role("button", name="Hide names").click()
        expect(mates.first).not_to_have_text(names[0])
        self.assertFalse(
            {named.split("\n")[0] for named in names} & {hidden.split("\n")[0] for hidden in mates.all_inner_texts()}
        )
        self.errors.clear()

    def test_who_receives_safety_alerts_is_named(self) -> None:
        page = self.enter("coordinator", "/scoring")
        page.get_by_role("button", name="Safety alerts").click()
        asked = page.get_by_role("dialog")
        expect(asked).to_contain_text("until then: Hanne Quill")
        asked.get_by_label(re.compile("Add a person for")).first.fill("Umar")
        page.get_by_role("option", name=re.compile("Umar Quist")).click()
        expect(asked.get_by_role("button", name="Remove Umar Quist")).to_be_visible()
        asked.get_by_role("button", name="Remove Umar Quist").click()
        expect(asked).to_contain_text("until then: Hanne Quill")
        asked.get_by_role("button", name="Done").click()
        page.goto(f"{self.server.address}/scoring/alerts")
        expect(finding(page)).to_have_text("No safety alert has come to you.")
        check_accessible(self, page)


def plan_window(line: dict[str, str]) -> dict[str, str]:
    return {"window": line["window_id"]}


if __name__ == "__main__":
    unittest.main()
