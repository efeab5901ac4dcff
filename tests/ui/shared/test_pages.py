"""Every page on the demo data: accessible, at home in its roles, its state in the address; and a bad connection."""

from __future__ import annotations

import re
import unittest

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, choose, finding


class DemoPages(DemoCase):
    def item_path(self, code: str) -> str:
        found = self.client().get(f"/api/bank/items?find=code:{code}").json()["items"]
        return f"/bank/items/{found[0]['item']['item_id']}"

    def test_every_page_of_the_coordinator_is_accessible_and_opens_with_its_finding(self) -> None:
        page = self.enter("coordinator")
        for path, said in (
            ("/today", "No session is open"),
            ("/account", "signed in here"),
            ("/calendar", "tests for"),
            ("/calendar/resources", "6 testing rooms with 98 seats"),
            ("/calendar/day", "No session is scheduled on"),
            ("/design", "Every control"),
            ("/people", "362 students and 21 staff in 45 classes, 180 families. 1 student is in no class."),
            ("/people/check", "discrepancies: 1 in"),
            ("/people/classes", "1 join request is open."),
            ("/people/classes/1", "Mathematics 6.1: 2"),
            ("/people/groups", "6 groups, 3 by a rule."),
            ("/people/groups/1", "Extended time, grade 6: "),
            ("/people/plans", "6 pacing guides for 30 classes."),
            ("/people/plans/2", re.compile(r"Mathematics 7\.3 is \d lessons behind")),
            ("/people/year", "days of instruction, 38 weeks"),
            ("/people/records", "No records system is set up yet."),
            ("/people/settings", "Rosters follow the records system every night"),
            (self.look("Fall reading 7"), "The total can be trusted"),
            ("/people/log", "changes, the newest first."),
            ("/people/70", "tests taken"),
            ("/people?find=quill", "362 students"),
            ("/bank", "646 items for 123 of 123 standards."),
            ("/bank/frameworks", "Brackwater Attainment Framework 2024: 123 standards, each with an item."),
            ("/bank/frameworks?framework=2", "have no sentence for families yet."),
            ("/bank?order=r_rest&find=p%3C40%25", "646 items"),
            ("/bank/stimuli", "40 stimuli with"),
            ("/bank/stimuli/1", "items are about it."),
            ("/bank/stimuli/new", "A new stimulus."),
            (self.item_path("M6-14"), "M6-14 is in use, used 2 times"),
            (self.item_path("T6-FRACTION"), "is ready, not used yet"),
            (self.item_path("T6-FRACTION") + "/edit", "draft of version 2, complete."),
            ("/bank/health", "646 items. 57 standards have fewer than 5 items; 2 items flagged repeatedly"),
            ("/tests", "86 forms, 76 published and not scheduled yet."),
            ("/tests/1", "34 items, 34 points, 6 standards"),
            ("/tests/families/4", "Winter mathematics 6: 4 forms, all published"),
            ("/tests/22/paper", "on paper: 12 questions"),
            ("/sessions", "47 sessions: all closed."),
            ("/sessions/1", "have submitted"),
            ("/sessions?plan=new", "47 sessions"),
            ("/quality", "10 tests were taken. 2 have an item that may be wrong"),
            (self.look("Fall mathematics 6"), "Item 14 probably carries a wrong key"),
            ("/growth", "have scores from two windows or more"),
            ("/growth/1/levels", "reached Meeting or better"),
            ("/growth/1/projection", "on track for Meeting in"),
            ("/growth/1/cuts", "4 levels in version 1; the goal is Meeting."),
            ("/growth/reflections", "No reflections were asked for yet."),
        ):
            page.goto(self.server.address + path)
            expect(finding(page)).to_contain_text(said)
            check_accessible(self, page)
            wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
            self.assertLessEqual(wide, 0, f"{path} fits its window")

    def test_pages_fit_a_window_of_1024(self) -> None:
        page = self.enter("coordinator")
        page.set_viewport_size({"width": 1024, "height": 768})
        for path in (
            "/calendar",
            "/calendar/resources",
            "/people",
            "/people/classes",
            "/people/classes/1",
            "/people/groups",
            "/people/plans/2",
            "/people/year",
            "/people/records",
            "/people/settings",
            "/people/70",
            "/bank",
            "/bank/frameworks",
            "/bank/health",
            "/bank/stimuli",
            self.item_path("M6-14"),
            self.item_path("M6-14") + "/edit",
            "/tests/1",
            "/sessions",
            "/sessions/1",
            "/sessions/tests/1",
            "/growth",
            "/growth/1",
            "/growth/1/levels",
            "/growth/1/projection",
            "/growth/1/cuts",
            "/growth/reflections",
            "/scoring",
            "/scoring/alerts",
            "/scoring/corrections",
            "/scoring/release",
            "/quality",
            self.look("Fall mathematics 6"),
        ):
            page.goto(self.server.address + path)
            finding(page).wait_for()
            page.wait_for_load_state("networkidle") if "sessions/" not in path else page.wait_for_timeout(300)
            wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
            self.assertLessEqual(wide, 0, f"{path} fits 1024")

    def test_the_rail_shows_what_a_role_has(self) -> None:
        for role, stations in (
            (
                "teacher",
                ["Today", "Sessions", "Scoring", "Mastery", "Growth", "Tests", "Bank", "Item quality", "People"],
            ),
            ("proctor", ["Today"]),
            ("specialist", ["Today", "Sessions", "Scoring", "People"]),
            ("writer", ["Today", "Tests", "Bank"]),
        ):
            page = self.enter(role)
            expect(page.get_by_role("navigation", name="Stations").get_by_role("link")).to_have_text(stations)
            if "Bank" in stations:
                page.goto(self.server.address + "/bank")
                page.get_by_label("Find items").wait_for()
                expect(page.get_by_role("button", name="Import")).to_have_count(1 if role == "writer" else 0)

    def test_the_view_is_in_the_address_and_comes_back(self) -> None:
        page = self.enter("coordinator")
        page.goto(self.server.address + self.look("Fall mathematics 6"))
        page.get_by_label("Items").get_by_role("button", name="Correct").click()
        page.get_by_label("only the item to review").check()
        page.get_by_label("watch line").fill("75")
        page.get_by_label("watch line").press("Enter")
        page.get_by_role("button", name="all 5 classes").click()
        for klass in "1234":
            page.get_by_label(f"Mathematics 6.{klass}").check()
        expect(page.get_by_role("button", name="show all students")).to_be_visible()
        address = page.url
        for part in ("order=p", "only=look", "line=75", "class="):
            self.assertIn(part, address)
        again = page.context.new_page()
        again.goto(address)
        expect(again.get_by_role("columnheader", name="Correct")).to_have_attribute("aria-sort", "ascending")
        expect(again.get_by_label("Items").locator("tbody tr")).to_have_count(1)
        expect(again.get_by_label("watch line")).to_have_value("75")

    def test_workings_say_who_was_counted_and_agree_with_the_page(self) -> None:
        page = self.enter("coordinator")
        page.goto(self.server.address + self.look("Fall reading 7"))
        page.get_by_role("button", name="alpha").first.click()
        workings = page.get_by_label("How this was calculated")
        expect(workings.get_by_role("heading", name="Reliability (alpha)")).to_be_visible()
        shown = workings.locator("div.font-semibold").inner_text()
        expect(finding(page)).to_contain_text(f"({shown})")
        expect(workings).to_contain_text(re.compile(r"Excluded: \d+ absent"))
        page.get_by_label("Items").locator("tbody tr").nth(4).click()
        page.get_by_role("button", name=re.compile(r"^[–.0-9]+ r \(rest\)")).click()
        expect(workings).to_contain_text("r = corr(xⱼ, X − xⱼ)")

    def test_keys_lead_from_row_to_row_and_from_station_to_station(self) -> None:
        page = self.enter("coordinator", "/quality")
        page.get_by_role("link", name="Fall mathematics 6").wait_for()
        page.locator("body").press("j")
        page.keyboard.press("j")
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile(r"/quality/look\?form="))
        page.locator("body").press("g")
        page.keyboard.press("b")
        expect(page).to_have_url(re.compile(r"/bank"))
        expect(page.get_by_label("Find items")).to_be_visible()
        page.locator("body").press("f")
        expect(page.get_by_label("Find items")).to_be_focused()
        page.keyboard.type("gb")  # letters of somebody who writes go nowhere else
        expect(page.get_by_label("Find items")).to_have_value("gb")

    def test_the_palette_finds_and_opens_and_letters_can_be_switched_off(self) -> None:
        page = self.enter("coordinator")
        expect(page).to_have_url(re.compile("/today"))
        page.locator("body").press("/")
        field = page.get_by_placeholder("Find a person")
        field.fill("6.3")
        page.get_by_role("option", name="Mathematics 6.3 Brackwater Middle").wait_for()
        check_accessible(self, page)
        page.get_by_role("option", name="Mathematics 6.3 Brackwater Middle").click()
        expect(finding(page)).to_contain_text("Mathematics 6.3")
        page.locator("body").press("/")
        field.fill("settings")
        expect(page.get_by_role("option", name="Settings")).to_have_count(1)
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("/people/settings"))
        page.goto(self.server.address + "/account")
        page.get_by_role("switch").click()
        page.locator("body").press("/")
        page.locator("body").press("g")
        page.keyboard.press("b")
        expect(field).to_have_count(0)
        expect(page).to_have_url(re.compile("/account"))
        page.get_by_role("button", name="Shortcuts").click()
        expect(page.get_by_role("heading", name="Keyboard shortcuts")).to_be_visible()
        check_accessible(self, page)
        page = self.enter("coordinator", "/account")
        expect(page.get_by_role("switch")).not_to_be_checked()
        self.client().put("/api/me/letter-keys", json={"on": True}).raise_for_status()

    def test_dates_are_written_as_the_district_says(self) -> None:
        page = self.enter("coordinator", "/sessions/1")
        expect(page.locator("main")).to_contain_text(re.compile(r"[A-Z][a-z]{2} \d+, \d+:\d\d AM"))
        page.goto(self.server.address + "/people/settings")
        page.get_by_role("radio", name="13:20").check()
        page.get_by_role("button", name="Save").first.click()
        expect(page.get_by_role("status")).to_have_text("Saved.")
        page.goto(self.server.address + "/sessions/1")
        expect(page.locator("main")).to_contain_text(re.compile(r"\d+ [A-Z][a-z]{2}, \d\d:\d\d"))
        self.client().put("/api/settings", json={"values": {"formats": "en-US"}}).raise_for_status()

    def test_roster_errors_are_settled_in_one_step_and_the_log_says_by_whom(self) -> None:
        page = self.enter("coordinator")
        page.goto(self.server.address + "/people/check")
        page.get_by_role("button", name="Leaves Mathematics").first.click()
        expect(page.get_by_role("status")).to_contain_text("Settled here:")
        expect(finding(page)).to_contain_text("3 discrepancies: 1 in no class")
        choose(page, re.compile("Assign teacher: choose for Reading 8.5"), 1)
        page.get_by_role("button", name="Assign teacher").click()
        expect(finding(page)).to_contain_text("2 discrepancies")
        page.goto(self.server.address + "/people/log?find=roster.settle")
        expect(finding(page)).to_have_text("2 changes that fit.")
        expect(page.locator("tbody tr").first).to_contain_text("step: teach_class; class: Reading 8.5")
        page.goto(self.server.address + "/people/70")
        before = page.locator(".font-mono.text-\\[24px\\]").inner_text()
        page.get_by_role("button", name="Replace sign-in code").click()
        page.get_by_role("button", name="Create code").click()
        expect(page.locator(".font-mono.text-\\[24px\\]")).not_to_have_text(before)

    def test_a_code_says_what_it_means_to_pointer_key_and_tap(self) -> None:
        page = self.enter("coordinator")
        page.goto(self.server.address + self.look("Fall mathematics 6"))
        code = page.get_by_label("Items").get_by_role("button", name="BAF-M6.2: Find a percentage of a quantity").first
        said = page.get_by_text("For families: working with percentages")
        code.hover()
        expect(said).to_be_visible()
        page.mouse.move(5, 5)
        expect(said).to_have_count(0)
        code.focus()
        expect(said).to_be_visible()
        check_accessible(self, page)
        page.keyboard.press("Escape")
        expect(said).to_have_count(0)
        code.click()
        expect(said).to_be_visible()

    def test_what_families_read_is_written_in_the_tree_and_kept(self) -> None:
        page = self.enter("writer")
        page.goto(self.server.address + "/bank/frameworks?framework=2")
        page.get_by_role("button", name="write it").first.click()
        page.get_by_label(re.compile("Family wording of")).fill("adding fractions")
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="adding fractions")).to_be_visible()
        page.get_by_label("MATH-6A is a priority").click()
        expect(page.get_by_label("MATH-6A is a priority")).to_have_attribute("aria-pressed", "true")
        expect(finding(page)).to_contain_text("32 without an item, 1 of them marked as a priority. 31 have no sentence")
        page.get_by_label("Search codes, texts and family wording").fill("adding fractions")
        expect(page.locator("tbody tr")).to_have_count(3)

    def test_the_veil_hides_names_and_codes_everywhere(self) -> None:
        page = self.enter("coordinator")
        page.goto(self.server.address + "/sessions/1")
        name = page.locator("tbody tr td").first.inner_text()
        page.keyboard.press("Shift+V")
        expect(page.locator("tbody tr td").first).to_have_text("Student 01")
        self.assertNotIn(name, page.locator("main").inner_text())
        page.goto(self.server.address + "/people")
        expect(page.locator("tbody tr").first).to_contain_text("Student 01")
        expect(page.locator("tbody tr").first).to_contain_text("·····")

    def test_a_wrong_file_is_told_and_nothing_is_there_to_apply(self) -> None:
        page = self.enter("coordinator")
        page.goto(self.server.address + "/bank")
        page.get_by_role("button", name="Import", exact=True).click()
        page.set_input_files(
            "input[type=file]",
            {"name": "items.csv", "mimeType": "text/csv", "buffer": b"code,type,stem,key\nX,choice,Hi,A\n"},
        )
        expect(page.get_by_role("alert")).to_contain_text(
            "items.csv, line 2, column option_A: 0 options; a choice item has at least two"
        )
        self.assertEqual(page.get_by_role("button", name="Apply all").count(), 0)


if __name__ == "__main__":
    unittest.main()
