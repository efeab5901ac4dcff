"""The network is cut, the server dies, the session is closed: nothing answered is lost, and the student is told."""

from __future__ import annotations

import json
import re
import unittest
from datetime import UTC, datetime, timedelta

import httpx2 as httpx
from playwright.sync_api import Page, expect

from tests.ui.browser import DemoCase, check_accessible, finding, give_codes


def held(page: Page) -> list[dict[str, str]]:
    """Answers that lie on the device because the server has not said that it has them."""
    read = """() => new Promise((done) => {
        const asked = indexedDB.open('bildung');
        asked.onsuccess = () => {
            const store = asked.result.transaction('attempts').objectStore('attempts');
            const [keys, values] = [store.getAllKeys(), store.getAll()];
            values.onsuccess = () => done(keys.result.map((key, at) => [key, values.result[at]]));
        };
    })"""
    found: list[dict[str, str]] = []
    for key, value in page.evaluate(read):
        if re.fullmatch(r"bildung\.sitting\.\d+", key):
            found += json.loads(value)
    return found


class OpenSession(DemoCase):
    """A session that is open now, of a class of the demo."""

    def open_session(self, title: str = "Reading 6.1", form: str = "Fall reading 6") -> tuple[str, str]:
        """A session of a class that is open now; its code and a student's."""
        with httpx.Client(base_url=self.server.address, timeout=60) as client:
            who = self.people["coordinator"]
            token = client.post("/api/signin", json={"username": who["username"], "password": who["password"]}).json()
            client.headers["x-bildung-csrf"] = token["csrf"]
            choices, now = client.get("/api/sessions/choices").json(), datetime.now(UTC)
            planned = {
                "form_id": next(f["id"] for f in choices["forms"] if f["name"] == form),
                "window_id": client.get("/api/calendar").json()["windows"][-1]["id"],
                "class_ids": [next(c["id"] for c in choices["classes"] if c["title"] == title)],
                "start": (now - timedelta(minutes=2)).isoformat(),
                "end": (now + timedelta(hours=1)).isoformat(),
                "why": "a test may run on any day",
            }
            answer = client.post("/api/sessions", json=planned)
            self.assertEqual(answer.status_code, 201, answer.text)
            made = answer.json()["ids"][0]
            self.session_id = made
            detail = client.get(f"/api/sessions/{made}").json()
        return detail["session"]["code"], detail["sittings"][0]["code"]


class Cut(OpenSession):
    def test_answers_given_while_the_server_is_away_arrive_when_it_is_back(self) -> None:
        session, code = self.open_session()
        page = self.page(self.server)

        give_codes(page, session, code)
        status = page.get_by_role("status")
        expect(status).to_have_text("Saved")
        page.keyboard.press("a")
        page.get_by_role("button", name="Next", exact=True).click()
        expect(status).to_have_text("Saved")
        self.server.kill()
        page.keyboard.press("b")
        expect(status).to_have_text("Not saved yet. Keep this page open.")
        self.server.start()
        expect(status).to_have_text("Saved", timeout=20_000)
        page.reload()
        expect(page.get_by_role("radio", checked=True)).to_have_value("B")
        other = self.page(self.server)  # the same student on another device
        give_codes(other, session, code)
        expect(other.get_by_role("radio", checked=True)).to_have_value("A")
        expect(finding(page)).to_have_text("You continued on another device.")
        self.errors.clear()

    def test_answers_given_without_a_network_outlive_the_page_and_arrive(self) -> None:
        session, code = self.open_session("Reading 6.2", "Fall reading 6")
        page = self.page(self.server, 360, 740)
        give_codes(page, session, code)
        status = page.get_by_role("status")
        expect(status).to_have_text("Saved")
        page.context.set_offline(True)
        for key in "abc":
            page.keyboard.press(key)
            page.get_by_role("button", name="Next", exact=True).click()
        expect(status).to_have_text("Not saved yet. Keep this page open.")
        self.assertEqual(len(held(page)), 3, "a copy lies on the device")
        page.context.set_offline(False)
        expect(status).to_have_text("Saved", timeout=30_000)
        page.reload()
        page.get_by_role("button", name="Question 1,").or_(page.get_by_role("button", name="show all")).first.click()
        answered = page.get_by_role("button", name=re.compile(r"Question [123], answered"))
        expect(answered).to_have_count(3)
        self.errors.clear()

    def test_a_session_closed_while_the_network_is_away_is_told_with_what_was_left_behind(self) -> None:
        session, code = self.open_session("Reading 6.3", "Fall reading 6")
        page = self.page(self.server)
        give_codes(page, session, code)
        expect(page.get_by_text(code)).to_have_count(0)
        page.keyboard.press("a")
        expect(page.get_by_role("status")).to_have_text("Saved")
        page.context.set_offline(True)
        page.get_by_role("button", name="Next", exact=True).click()
        page.keyboard.press("b")
        expect(page.get_by_role("status")).to_have_text("Not saved yet. Keep this page open.")
        self.client().post(f"/api/sessions/{self.session_id}/close", json={}).raise_for_status()
        page.context.set_offline(False)
        expect(finding(page)).to_contain_text("This test is closed", timeout=30_000)
        expect(page.get_by_role("alert")).to_contain_text("One answer was not saved in time")
        check_accessible(self, page)
        self.errors.clear()

    def test_a_closed_session_is_told_at_once(self) -> None:
        session, code = self.open_session("Reading 7.1", "Fall reading 7")
        page = self.page(self.server)
        give_codes(page, session, code)
        expect(page.get_by_role("status")).to_have_text("Saved")
        self.client().post(f"/api/sessions/{self.session_id}/close", json={}).raise_for_status()
        expect(finding(page)).to_contain_text("This test is closed")


if __name__ == "__main__":
    unittest.main()
