"""Answers typed off paper by keys: one key an answer, twice, a slip found, then in the student's total."""

from __future__ import annotations

import contextlib
import sqlite3
import unittest

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, check_words, finding


class Paper(DemoCase):
    def test_an_attempt_is_typed_in_twice_and_counts(self) -> None:
        client = self.client()
        sessions = [s for s in client.get("/api/sessions").json()["sessions"] if s["form"] == "Fall reading 6"]
        session = next(s for s in sessions if s["counts"]["absent"])
        detail = client.get(f"/api/sessions/{session['id']}").json()
        absent = next(s for s in detail["sittings"] if s["state"] == "absent")
        client.post(
            f"/api/sessions/{session['id']}/sittings/{absent['id']}", json={"state": "on_paper"}
        ).raise_for_status()
        page = self.enter("coordinator", f"/sessions/{session['id']}")
        page.get_by_role("link", name="Type in answers from paper").click()
        expect(finding(page)).to_have_text("1 of 1 attempt on paper waits to be entered.")
        check_accessible(self, page)
        check_words(self, page)
        page.get_by_label("type each twice").click()
        first = page.get_by_label("Question 1, ABCD")
        first.focus()
        for key in "abcd":
            page.keyboard.press(key)
        expect(page.get_by_label("Question 5, ABCD")).to_be_focused()
        page.get_by_role("button", name="Type them once more").click()
        first.focus()
        for key in "abda":
            page.keyboard.press(key)
        page.get_by_role("button", name="Keep, and the next student").click()
        expect(page.get_by_role("alert").filter(has_text="not the same at 3, 4")).to_be_visible()
        page.get_by_role("button", name="Type them once more").click()
        first.focus()
        for key in "abcd":
            page.keyboard.press(key)
        page.get_by_role("button", name="Keep, and the next student").click()
        expect(finding(page)).to_contain_text("4 answers are in. The answers of 1 attempt on paper are entered.")
        after = client.get(f"/api/quality/attempts/{absent['id']}").json()
        self.assertEqual([i["letter"] for i in after["items"][:4]], list("ABCD"))
        with contextlib.closing(sqlite3.connect(self.server.folder / "bildung.sqlite")) as store:
            way = store.execute("SELECT way, state FROM sitting WHERE id = ?", (int(absent["id"]),)).fetchone()
        self.assertEqual(way, ("paper", "handed_in"))
        self.errors.clear()


if __name__ == "__main__":
    unittest.main()
