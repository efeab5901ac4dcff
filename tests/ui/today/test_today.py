"""Today: a session that is open leads to its page, one ahead stands under its day, and what waits is dealt with."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta
from typing import Any

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, finding


class Today(DemoCase):
    def plan(self, title: str, form: str, starts: timedelta, window: int = -1) -> Any:
        client, now = self.client(), datetime.now(UTC)
        choices = client.get("/api/sessions/choices").json()
        made = client.post(
            "/api/sessions",
            json={
                "form_id": next(f["id"] for f in choices["forms"] if f["name"] == form),
                "window_id": client.get("/api/calendar").json()["windows"][window]["id"],
                "class_ids": [next(c["id"] for c in choices["classes"] if c["title"] == title)],
                "start": (now + starts).isoformat(),
                "end": (now + starts + timedelta(hours=1)).isoformat(),
                "why": "a test may run on any day",
            },
        )
        return made.raise_for_status().json()["ids"][0]

    def test_what_is_open_comes_first_and_leads_to_its_page(self) -> None:
        open_ = self.plan("Reading 8.2", "Fall reading 8", timedelta(minutes=-3))
        self.plan("Reading 8.3", "Fall reading 8", timedelta(days=3))
        page = self.enter("coordinator")
        expect(page).to_have_url(re.compile("/today"))
        expect(finding(page)).to_contain_text("1 session is open now: 0 of 24 students")
        card = page.get_by_role("region", name="Open now").get_by_role("link")
        expect(card).to_contain_text("Reading 8.2")
        expect(card).to_contain_text(re.compile(r"5\d minutes left"))
        ahead = page.get_by_role("row", name=re.compile("Reading 8.3"))
        expect(ahead).to_contain_text("none")  # nobody proctors it yet
        waiting = page.get_by_role("region", name="Needs your attention")
        expect(waiting).to_contain_text("1 upcoming session without a proctor")
        check_accessible(self, page)
        page.set_viewport_size({"width": 1024, "height": 768})
        wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        self.assertLessEqual(wide, 0)
        page.locator("body").press("j")
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile(f"/sessions/{open_}"))
        page.go_back()
        waiting.get_by_role("link", name=re.compile("roster discrepancies")).click()
        expect(page).to_have_url(re.compile("/people/check"))

    def test_a_proctor_has_today_alone_and_names_can_be_hidden_while_finding(self) -> None:
        proctor = self.enter("proctor")
        expect(proctor.get_by_role("navigation", name="Stations").get_by_role("link")).to_have_text(["Today"])
        page = self.enter("coordinator", "/people/70")
        name = (finding(page).inner_text()).split(",")[0]
        page.keyboard.press("Shift+V")
        page.locator("body").press("/")
        page.get_by_placeholder("Find a person").fill(name)
        expect(page.get_by_role("option", name=re.compile("^Student 01"))).to_have_count(1)
        self.assertNotIn(name, page.get_by_role("listbox").inner_text())
