"""From the grid of a class to the run behind a cell and a student's standards."""

from __future__ import annotations

import re
import unittest

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, check_words, choose, finding


class Mastery(DemoCase):
    def test_a_class_a_cell_and_a_student(self) -> None:
        page = self.enter("coordinator", "/mastery")
        choose(page, "Students", "Mathematics 7.2")
        expect(finding(page)).to_contain_text("Mathematics 7.2:")
        expect(page.get_by_text(re.compile("chance brings up to"))).to_be_visible()
        check_accessible(self, page)
        check_words(self, page)
        grid = page.get_by_role("table", name="Students by standards")
        cells = grid.get_by_role("button")
        told = grid.get_by_text(re.compile(r"^\d+% of \d+$"))
        expect(told.first).to_be_visible()
        page.get_by_role("checkbox", name="Share and points").click()
        expect(told).to_have_count(0)
        page.reload()
        expect(grid).to_be_visible()
        expect(told).to_have_count(0)
        page.get_by_role("checkbox", name="Share and points").click()
        expect(told.first).to_be_visible()
        cells.first.click()
        panel = page.get_by_role("region", name="Chosen cell")
        expect(panel.get_by_text("Response by response")).to_be_visible()
        expect(panel).to_contain_text(re.compile(r"\d+ (of|points)"))
        cells.first.focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Enter")
        expect(cells.nth(1)).to_have_class(re.compile("chosen"))
        check_accessible(self, page)
        check_words(self, page)
        panel.get_by_role("link", name="All standards").click()
        expect(finding(page)).to_contain_text("standards with evidence mastered")
        check_accessible(self, page)
        check_words(self, page)
        name = page.get_by_role("heading", level=1).inner_text()
        page.keyboard.press("n" if page.get_by_role("link", name="Next student").count() else "p")
        expect(page.get_by_role("heading", level=1)).not_to_have_text(name)
        page.get_by_role("link", name="Mastery", exact=True).last.click()
        expect(finding(page)).to_contain_text("Mathematics 7.2:")

    def test_from_a_standard_to_groups_that_need_it(self) -> None:
        page = self.enter("coordinator", "/mastery")
        choose(page, "Students", "Mathematics 7.2")
        expect(finding(page)).to_contain_text("Mathematics 7.2:")
        page.get_by_role("table", name="Students by standards").get_by_role("link", name="M7.1", exact=True).click()
        expect(finding(page)).to_contain_text(re.compile(r"\d+ students with enough evidence ha(s|ve) mastered"))
        expect(page.get_by_role("region", name="Sessions in time").get_by_role("img")).to_be_visible()
        expect(page.get_by_role("region", name="Students by state")).to_contain_text("to reteach")
        check_accessible(self, page)
        check_words(self, page)
        page.get_by_role("link", name="Groups from needs").click()
        groups = page.get_by_role("region", name=re.compile("^Group for"))
        expect(groups.first).to_be_visible()
        before = groups.count()
        choose(page, "Groups, at most", "1")
        expect(groups).to_have_count(1)
        self.assertGreater(before, 1)
        groups.first.get_by_role("button", name="Keep this group").click()
        groups.first.get_by_label("What it is for").fill("Number lines")
        check_accessible(self, page)
        groups.first.get_by_role("button", name="Keep", exact=True).click()
        expect(groups.first.get_by_role("status")).to_contain_text("students in")
        check_accessible(self, page)
        check_words(self, page)

    def test_a_class_taught_differently_is_seen_in_its_column(self) -> None:
        client = self.client()
        classes = client.get("/api/mastery").json()["classes"]
        at = {c["title"]: c["id"] for c in classes}
        page = client.get(f"/api/mastery?klass={at['Mathematics 7.2']}").json()
        column = next(c for c in page["columns"] if c["code"].endswith("M7.1"))
        others = [c for c in page["columns"] if c["assessed"] and c is not column and c["code"].startswith("BAF-M7")]
        share = column["mastered"] / column["assessed"]
        self.assertLessEqual(share, min(c["mastered"] / c["assessed"] for c in others))

    def test_what_the_demo_hides_is_found_in_the_grid(self) -> None:
        page = self.enter("coordinator", "/mastery")
        choose(page, "Students", "Mathematics 6.4")
        expect(finding(page)).to_contain_text("Mathematics 6.4:")
        grid = page.get_by_role("table", name="Students by standards")
        rows = grid.locator("tbody tr")
        panel = page.get_by_role("region", name="Chosen cell")
        page.get_by_role("radio", name="By name").click()
        names = rows.locator("th").all_inner_texts()
        self.assertEqual(names, sorted(names, key=str.casefold))
        # by the family names that the demo goes by
        order = {name: at for at, name in enumerate(sorted(names, key=lambda n: n.split()[-1]))}
        except_, riser, lapser, twofold, thin = sorted(names, key=lambda n: order[n])[:5]

        def cell(name: str, code: str) -> str:
            return grid.get_by_role("button", name=f"{name}, BAF-{code}:").get_attribute("aria-label") or ""

        with self.subTest("strong in all but one"):
            others = [cell(name, "M6.3") for name in names if name != except_]
            self.assertGreater(sum("mastered" in c or "retained" in c for c in others), len(others) * 0.8)
            self.assertIn("beginning", cell(except_, "M6.3"))
        with self.subTest("a late riser, with what was tried"):
            grid.get_by_role("button", name=f"{riser}, BAF-M6.5:").click()
            expect(panel).to_contain_text(re.compile(r"Average \d+%: .* then 2\d of 2\d; (retained, )?mastered since"))
            expect(panel).to_contain_text("Trees and tables instead of formulas")
            check_accessible(self, page)
            check_words(self, page)
        with self.subTest("mastered and lapsed"):
            self.assertIn("lapsed", cell(lapser, "M6.2"))
            grid.get_by_role("button", name=f"{lapser}, BAF-M6.2:").click()
            expect(panel).to_contain_text("lapsed on")
        with self.subTest("strong above the grade and weak below"):
            self.assertIn("mastered", cell(twofold, "M7.1"))
            self.assertIn("beginning", cell(twofold, "M5.1"))
        with self.subTest("too thin to say"):
            self.assertIn("insufficient evidence", cell(thin, "M7.1"))
            grid.get_by_role("button", name=f"{thin}, BAF-M7.1:").click()
            expect(panel).to_contain_text("1 of 2 points (50%); insufficient evidence")


if __name__ == "__main__":
    unittest.main()
