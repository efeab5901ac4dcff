"""Companions, settings, trial runs and paper in the browser; and the student's page as the settings say."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from playwright.sync_api import Page, expect

from tests.ui.browser import DemoCase, check_accessible, choose, finding


class Families(DemoCase):
    def form(self, page: Page, name: str) -> None:
        page.goto(f"{self.server.address}/tests")
        page.get_by_label("Find tests").fill(name)
        page.get_by_role("link", name=name, exact=True).click()
        finding(page).filter(has_text=name).wait_for()

    def test_students_named_for_two_forms_are_settled(self) -> None:
        page = self.enter("coordinator", "/tests")
        self.form(page, "Winter reading 7 A")
        page.get_by_role("link", name="Winter reading 7", exact=True).click()
        expect(finding(page)).to_contain_text("2 students are assigned two forms")
        check_accessible(self, page)
        rows = page.get_by_label("Assigned two forms")
        rows.get_by_role("button", name="adapted").first.click()
        expect(finding(page)).to_contain_text("1 student is assigned two forms")
        rows.get_by_role("button", name="shortened").first.click()
        expect(rows).to_have_count(0)
        expect(finding(page)).to_contain_text("have scales of their own")
        check_accessible(self, page)

    def test_a_companion_is_made_tried_set_up_and_published(self) -> None:
        page = self.enter("coordinator", "/tests")
        self.form(page, "Winter mathematics 8 A")
        page.get_by_role("button", name="Add companion").click()
        page.get_by_role("radio", name="Alternate").check()
        check_accessible(self, page)
        page.get_by_role("button", name="Make a draft").click()
        expect(page.get_by_role("status")).to_contain_text("shown in another order", timeout=60_000)
        page.get_by_role("link", name="Preview").click()
        page.get_by_role("button", name="Settings").click()
        choose(page, "Navigation", "one item")
        page.get_by_label("Time limit in minutes").fill("40")
        page.get_by_role("checkbox", name="calculator", exact=True).check()
        check_accessible(self, page)
        page.get_by_role("button", name="Save settings").click()
        expect(page.get_by_text("one item at a time, students can go back")).to_be_visible()
        page.get_by_role("button", name="Publish", exact=True).click()
        expect(page.get_by_text("no one has previewed it")).to_be_visible()

        page.get_by_role("link", name="Preview as a student").click()
        page.get_by_role("button", name="Tools").click()
        page.get_by_role("menuitem", name="Calculator").click()
        for key in ("1", "2", "times", "3", "equals"):
            page.get_by_role("group", name="Calculator").get_by_role("button", name=key, exact=True).click()
        expect(page.get_by_role("group", name="Calculator").locator("output")).to_have_text("36")
        check_accessible(self, page)
        while page.get_by_role("button", name="Next").count():
            page.get_by_role("button", name="Next").click()
        page.get_by_role("button", name="Finish").click()
        page.get_by_role("button", name="Submit").click()
        expect(finding(page)).to_contain_text("You got 0 of")
        page.get_by_role("button", name="Back to the form").click()
        page.get_by_role("button", name="Publish", exact=True).click()
        expect(page.get_by_text("previewed as a student")).to_be_visible()
        page.get_by_role("button", name="Publish with").click()
        expect(finding(page)).to_contain_text("published and locked")

    def test_paper_is_looked_at_before_it_is_printed(self) -> None:
        page = self.enter("coordinator", "/tests")
        self.form(page, "Winter mathematics 6 A")
        page.get_by_role("link", name="Print and export").click()
        first = page.get_by_role("img", name="Page 1 of")
        expect(first).to_be_visible(timeout=30_000)
        page.wait_for_function("() => document.querySelector('img[alt^=\"Page 1\"]')?.naturalWidth > 500")
        page.get_by_role("radio", name="Key").check()
        expect(page.locator("img[src*='/paper/key/pages/1']")).to_be_visible(timeout=30_000)
        check_accessible(self, page)
        with page.expect_download() as saved:
            page.get_by_role("link", name="Form map (XLSX)").click()
        self.assertTrue(saved.value.suggested_filename.endswith("-map.xlsx"))
        with page.expect_download() as saved:
            page.get_by_role("link", name="QTI 3.0 package").click()
        package = saved.value.path().read_bytes()
        page.goto(f"{self.server.address}/tests")
        page.locator("input[type=file]").set_input_files(
            {"name": "brought.zip", "mimeType": "application/zip", "buffer": package}
        )
        expect(page.get_by_role("status").filter(has_text="0 of them new in the bank")).to_be_visible(timeout=30_000)


class Practicing(DemoCase):
    """A student at a test that tells of each answer at once, and may be sat again."""

    def test_check_hand_in_and_try_again(self) -> None:
        client = self.client()
        form = next(
            f for f in client.get("/api/forms").json()["forms"] if f["name"] == "Winter mathematics 7 A, for practice"
        )
        choices = client.get("/api/sessions/choices").json()
        klass = next(c for c in choices["classes"] if c["title"] == "Mathematics 7.1")
        window = client.get("/api/calendar").json()["windows"][0]
        now = datetime.now(UTC)
        made = client.post(
            "/api/sessions",
            json={
                "form_id": form["id"],
                "window_id": window["id"],
                "class_ids": [klass["id"]],
                "deal": False,
                "start": (now - timedelta(minutes=5)).isoformat(),
                "end": (now + timedelta(hours=2)).isoformat(),
                "why": "a test may run on any day",
            },
        ).json()
        session = client.get(f"/api/sessions/{made['ids'][0]}").json()
        page = self.page(self.server, 360, 740)
        page.goto(f"{self.server.address}/?session={session['session']['code']}&own={session['sittings'][0]['code']}")
        page.get_by_role("button", name="Yes, start").click()  # the link of a ticket leads straight in
        page.get_by_role("button", name="Next").wait_for()
        expect(page.get_by_role("button", name="Back", exact=True)).to_have_count(0)
        while True:
            if page.locator("main input[type=radio]").count():
                page.locator("main label").first.click()
                page.get_by_role("button", name="Check").click()
                expect(page.get_by_role("status").filter(has_text="ight")).to_be_visible()
                check_accessible(self, page)
            if page.get_by_role("button", name="Finish").count():
                break
            page.get_by_role("button", name="Next").click()
        page.get_by_role("button", name="Finish").click()
        page.get_by_role("button", name="Submit").click()
        expect(finding(page)).to_contain_text("Your answers are in")
        page.get_by_role("button", name="See correct answers").click()
        expect(finding(page)).to_contain_text("You got")
        check_accessible(self, page)
        page.reload()
        page.get_by_role("button", name="Try again").click()
        page.get_by_role("button", name="Next").wait_for()
        page.close()
