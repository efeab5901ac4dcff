"""The workbench in the browser: every question opens with its finding, and what a person does there holds."""

from __future__ import annotations

import json
import re
import unittest
from datetime import UTC, datetime, timedelta
from typing import Any

from playwright.sync_api import Page, Request, expect

from tests.ui.browser import DemoCase, check_accessible, choose, finding, give_codes

QUESTIONS = (
    ("", {}, "Item 14 probably carries a wrong key"),
    ("", {"by": "standard"}, "Item 14 probably carries a wrong key"),
    ("item", {"item": "M6-14", "who": "all"}, "possible wrong key"),
    ("grid", {"legend": "on"}, "students by 34 items"),
    ("classes", {}, "5 classes side by side."),
    ("classes", {"of": "standard", "by": "teacher"}, "side by side"),
    (
        "groups",
        {"by": "lives on"},
        "students with a total, so items are not held against each other; a wider view may have more",
    ),
    ("mistakes", {}, "“adds tops and bottoms”"),
    ("effort", {}, "reached the last item"),
    ("trust", {}, "The total can be trusted"),
    ("reteach", {}, "Mathematics 6.1"),
    ("reports", {}, "?"),
)


class Workbench(DemoCase):
    helpers = 1  # as it is served: most of these pages are computed beside the server

    def here(self, page: Page, question: str = "", form: str = "Fall mathematics 6", **more: str) -> Page:
        page.goto(self.server.address + self.look(form, question, **more))
        finding(page).wait_for()
        return page

    def test_every_question_is_accessible_opens_with_its_finding_and_fits(self) -> None:
        page = self.enter("coordinator")
        paths = [(self.look("Fall mathematics 6", q, **more), said) for q, more, said in QUESTIONS]
        paths.append((self.look("Fall mathematics 8", "groups", by="lives on"), "students of equal score side by side"))
        paths += [("/quality/verdicts", "to decide"), ("/quality/reports", "eport")]
        for path, said in paths:
            for width in (1280, 1024):
                page.set_viewport_size({"width": width, "height": 800})
                page.goto(self.server.address + path)
                with self.subTest(path=path, width=width):
                    expect(finding(page)).to_contain_text(re.compile(re.escape(said), re.IGNORECASE))
                    page.wait_for_load_state("networkidle")
                    wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
                    self.assertLessEqual(wide, 0)
                    if width == 1280:
                        check_accessible(self, page)

    def test_a_verdict_is_given_with_its_reason_and_stands_where_it_matters(self) -> None:
        page = self.here(self.enter("coordinator"), "item", item="M6-20")
        decide = page.get_by_role("group", name="Decision")
        decide.get_by_role("button", name="Rework").click()
        decide.get_by_label("Why").fill("the picture says it")
        page.keyboard.press("Enter")
        expect(decide).to_contain_text("Decided: rework. the picture says it")
        self.here(page, order="place")
        expect(page.get_by_label("Items").locator("tbody tr", has=page.get_by_text("decided: rework"))).to_have_count(1)
        page.goto(self.server.address + "/quality/verdicts")
        expect(finding(page)).to_contain_text("1 open: 1 to rework")
        page.get_by_role("link", name="M6-20").click()
        expect(finding(page)).to_contain_text("Hanne Quill decided: rework; it waits for a reworked version.")
        self.here(page, "item", item="M6-20")
        decide.get_by_role("button", name="Delete").click()
        expect(decide).not_to_contain_text("Decided:")

    def test_what_wants_a_verdict_is_worked_off_from_one_list(self) -> None:
        page = self.enter("coordinator")
        page.goto(self.server.address + "/quality")
        page.get_by_role("link", name="Item decisions, 13 to make").click()
        waiting = page.get_by_role("region", name="Items to decide").locator("tbody tr")
        expect(finding(page)).to_contain_text("13 items to decide; 2 may be wrong")
        expect(waiting.first).to_contain_text("possible wrong key")
        choose(page, "Subject", "Reading")
        expect(waiting).to_have_count(9)
        expect(waiting.filter(has_text="often not reached")).to_have_count(7)
        waiting.filter(has_text="R7-29").get_by_role("link").click()
        expect(finding(page)).to_contain_text("Item 29, rival distractor")
        decide = page.get_by_role("group", name="Decision")
        decide.get_by_role("button", name="Keep").click()
        decide.get_by_label("Why").fill("the text was unlike any they had read")
        page.keyboard.press("Enter")
        expect(decide).to_contain_text("Decided: keep.")
        page.go_back()
        expect(finding(page)).to_contain_text("12 items to decide")
        expect(waiting.filter(has_text="R7-29")).to_have_count(0)
        page.get_by_label("only open decisions").uncheck()
        expect(page.get_by_role("region", name="Decisions")).to_contain_text("the text was unlike any they had read")

    def test_groups_open_by_what_has_most_to_say(self) -> None:
        page = self.here(self.enter("coordinator"), "groups", "Fall mathematics 8")
        expect(finding(page)).to_contain_text("The mainland (65) against the island (51)")
        expect(page).to_have_url(re.compile(r"by=lives(\+|%20)on"))
        choose(page, "Compare by", "home language")
        expect(finding(page)).to_contain_text("no two groups have 50 students")
        expect(page.get_by_role("region", name="Groups compared")).to_contain_text("hidden")

    def test_another_scoring_is_tried_and_nothing_changes(self) -> None:
        page = self.here(self.enter("coordinator"), "item", item="M6-14")
        before = finding(page).inner_text()
        moved = page.get_by_role("region", name="What would change")
        choose(moved, "Try", "full credit")
        moved.get_by_role("button", name="Try", exact=True).click()
        expect(moved.get_by_role("status")).to_contain_text("103 of 116")
        page.reload()
        expect(finding(page)).to_have_text(before)

    def test_limits_move_the_flags_stand_in_the_address_and_are_kept_as_a_view(self) -> None:
        page = self.here(self.enter("coordinator"), form="Fall reading 6")
        expect(page.get_by_label("only the 0 items to review")).to_be_visible()
        page.get_by_role("button", name="Limits").click()
        page.get_by_label("very hard").first.fill("60")
        page.keyboard.press("Enter")
        flagged = page.get_by_label(re.compile(r"only the ([1-9]\d* items|item) to review"))
        expect(flagged).to_be_visible()
        flagged.check()
        page.get_by_role("button", name="Views").click()
        page.get_by_label("Save view as").fill("hard ones")
        page.keyboard.press("Enter")
        kept = page.get_by_role("group", name="Saved views")
        expect(kept).to_contain_text("Saved as hard ones.")
        count = page.get_by_label("Items").locator("tbody tr").count()
        self.here(page)
        page.get_by_role("button", name="Views").click()
        kept.get_by_role("button", name="hard ones", exact=True).click()
        expect(page.get_by_label("Items").locator("tbody tr")).to_have_count(count)
        expect(page.get_by_role("button", name="Limits changed")).to_be_visible()

    def test_the_grid_is_walked_by_keys_opened_and_ordered(self) -> None:
        page = self.here(self.enter("coordinator"), "grid")
        grid = page.get_by_role("grid")
        grid.focus()
        page.keyboard.press("ArrowDown")
        page.keyboard.press("ArrowRight")
        cell = page.get_by_role("gridcell")
        said = cell.get_attribute("aria-label") or ""
        page.keyboard.press("Enter")
        opened = page.get_by_label("What is opened")
        expect(opened.get_by_role("heading").nth(1)).to_contain_text(re.search(r"[Ii]tem \d+", said)[0].capitalize())  # type: ignore[index]
        expect(opened).to_contain_text(re.compile(r"Answered: .+; key"))
        opened.get_by_role("button", name="Students by it").click()
        expect(page).to_have_url(re.compile("sort=M6-"))
        choose(page, "Items by", 1)
        page.get_by_label("legend").check()
        page.reload()
        expect(page.get_by_role("group", name="Legend")).to_be_visible()
        expect(page).to_have_url(re.compile("items="))
        with page.expect_download() as got:
            page.get_by_role("link", name="CSV").click()
        lines = got.value.path().read_text("utf-8-sig").splitlines()
        self.assertEqual(len(lines), 117)

    def test_those_who_gave_an_answer_become_a_group_under_the_veil(self) -> None:
        page = self.here(self.enter("coordinator"), "item", item="M6-14", who="C")
        who = page.get_by_role("region", name="Who gave which answer")
        expect(who).to_contain_text("Mathematics 6.")
        page.keyboard.press("Shift+V")
        expect(who).to_contain_text("Student ")
        some = who.locator("details[open]")
        some.get_by_role("button", name="Create group").click()
        some.get_by_label("Group name").fill("Rate for number")
        page.keyboard.press("Enter")
        expect(some.get_by_role("status")).to_have_text("15 students in Rate for number")
        some.get_by_role("button", name="Create group").click()
        some.get_by_label("Group name").fill("Rate for number")
        page.keyboard.press("Enter")
        expect(some.get_by_role("alert")).to_contain_text("Rate for number")
        page.keyboard.press("Escape")
        link = some.get_by_role("link", name=re.compile(r"^Reteach in Mathematics 6\."))
        link.first.click()
        expect(page).to_have_url(re.compile("/reteach"))

    def test_a_report_is_sampled_made_meanwhile_and_opened(self) -> None:
        page = self.here(self.enter("coordinator"), "reports")
        sample = page.get_by_alt_text("First page of the report")
        expect(sample).to_be_visible()
        page.wait_for_function("document.querySelector('img[alt^=\"First page\"]').naturalWidth > 400")
        page.get_by_role("button", name="Create PDF").click()
        kept = page.get_by_label("Saved reports").get_by_role("link").first
        expect(kept).to_be_visible(timeout=60_000)
        path = kept.get_attribute("href") or ""
        self.assertTrue(page.request.get(self.server.address + path).body().startswith(b"%PDF"))
        page.goto(self.server.address + "/quality/reports")
        expect(finding(page)).to_contain_text("1 report")

    def test_a_teacher_sees_figures_of_the_course_and_names_of_their_own(self) -> None:
        page = self.here(self.enter("teacher"), "grid")
        expect(finding(page)).to_contain_text("students by 34 items")
        rows = page.get_by_role("rowheader")
        expect(rows.first).to_be_visible()
        self.assertNotRegex(" ".join(rows.all_inner_texts()), r"6\.[345]")
        self.here(page, "classes", by="teacher")
        heads = page.get_by_role("columnheader").all_inner_texts()
        self.assertTrue(any("Colleague" in h for h in heads), heads)
        page.goto(self.server.address + self.look("Fall reading 8"))
        expect(finding(page)).to_contain_text("in this window that you may see.")

    def test_what_is_not_there_is_said_in_one_sentence(self) -> None:
        page = self.enter("coordinator")
        for path, said in (
            ("/quality/look?form=99999", "This form has no sessions in this window that you may see."),
            ("/quality/look", "choose a form"),
            (self.look("Fall mathematics 6", "item", item="NO-1"), "NO-1"),
            (self.look("Fall mathematics 6", "groups", by="shoe size"), "shoe size"),
        ):
            page.goto(self.server.address + path)
            with self.subTest(path=path):
                expect(page.locator("main")).to_contain_text(re.compile(re.escape(said), re.IGNORECASE))

    def test_the_time_before_each_question_is_told_while_a_student_works(self) -> None:
        client = self.client()
        choices, now = client.get("/api/sessions/choices").json(), datetime.now(UTC)
        made = (
            client.post(
                "/api/sessions",
                json={
                    "form_id": next(f["id"] for f in choices["forms"] if f["name"] == "Fall reading 6"),
                    "window_id": client.get("/api/calendar").json()["windows"][-1]["id"],
                    "class_ids": [next(c["id"] for c in choices["classes"] if c["title"] == "Reading 6.2")],
                    "start": (now - timedelta(minutes=2)).isoformat(),
                    "end": (now + timedelta(hours=1)).isoformat(),
                    "why": "a test may run on any day",
                },
            )
            .raise_for_status()
            .json()["ids"][0]
        )
        detail = client.get(f"/api/sessions/{made}").json()
        page = self.page(self.server)
        told: list[dict[str, Any]] = []

        def keep(request: Request) -> None:
            if request.url.endswith("/api/sit/answers") and request.post_data:
                told.append(json.loads(request.post_data))

        page.on("request", keep)
        give_codes(page, detail["session"]["code"], detail["sittings"][0]["code"])
        expect(page.get_by_role("status")).to_have_text("Saved")
        page.wait_for_timeout(1500)
        page.keyboard.press("a")
        page.get_by_role("button", name="Next", exact=True).click()
        page.wait_for_timeout(1200)
        page.keyboard.press("b")
        expect(page.get_by_role("status")).to_have_text("Saved")
        page.wait_for_timeout(500)
        times: dict[str, int] = {}
        for message in told:
            for t in message.get("times") or []:
                self.assertGreaterEqual(t["milliseconds"], times.get(t["question"], 0), "a count only grows")
                times[t["question"]] = t["milliseconds"]
        self.assertEqual(len(times), 2, told)
        self.assertTrue(all(1000 <= ms < 30_000 for ms in times.values()), times)


if __name__ == "__main__":
    unittest.main()
