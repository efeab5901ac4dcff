"""What is entered and decided about mastery: rules, what counts, evidence by hand, groups at work, the district, many students."""

from __future__ import annotations

import re
import unittest

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, check_words, choose, finding


class Working(DemoCase):
    def test_rules_are_seen_before_they_are_changed(self) -> None:
        page = self.enter("coordinator", "/mastery/rules")
        expect(finding(page)).to_contain_text("is judged by the usual rules")
        check_accessible(self, page)
        check_words(self, page)
        page.get_by_label("Points for mastered").fill("70")
        page.get_by_role("button", name="See what would change").click()
        expect(page.get_by_role("alert")).to_contain_text("1 to 60 points")
        page.get_by_label("Points for mastered").fill("4")
        page.get_by_role("button", name="See what would change").click()
        told = page.get_by_role("status")
        expect(told).to_contain_text(re.compile(r"\d+ of [\d,]+ cells would change: \d+ would become mastered"))
        check_accessible(self, page)
        page.get_by_role("button", name="Change the rules").click()
        expect(finding(page)).to_contain_text("rules of its own: 1 differs")
        page.get_by_role("button", name="Usual rules").click()
        page.get_by_role("button", name="See what would change").click()
        page.get_by_role("button", name="Change the rules").click()
        expect(page.get_by_label("Points for mastered")).to_have_value("6")

    def test_a_session_is_asked_whether_it_counts(self) -> None:
        page = self.enter("coordinator", "/mastery/evidence")
        expect(finding(page)).to_contain_text(re.compile(r"\d+ of them still to be decided"))
        check_accessible(self, page)
        check_words(self, page)
        page.get_by_role("table").get_by_role("link").first.click()
        asked = page.get_by_role("group", name="Evidence of mastery")
        expect(asked).to_contain_text("Does this test count as evidence of mastery?")
        check_accessible(self, page)
        asked.get_by_role("button", name="It counts").click()
        expect(asked).to_contain_text("Counts as evidence of mastery, by decision.")
        asked.get_by_role("button", name="Undo").click()
        expect(asked).to_contain_text("Does this test count")

    def test_the_district_by_grades_and_schools(self) -> None:
        page = self.enter("coordinator", "/mastery/district?subject=Mathematics")
        expect(finding(page)).to_contain_text("fewest have mastered")
        check_accessible(self, page)
        check_words(self, page)
        choose(page, "Grade", "grade 6, by school")
        expect(page.get_by_role("table", name="Standards by schools")).to_be_visible()
        check_accessible(self, page)
        page.get_by_role("table").get_by_role("link").first.click()
        grid = page.get_by_role("grid", name="Students by standards")
        expect(grid).to_be_visible()
        expect(finding(page)).to_contain_text("grade 6:")
        check_accessible(self, page)
        check_words(self, page)
        grid.focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Enter")
        expect(page.get_by_role("region", name="Chosen cell")).to_contain_text(
            re.compile("Not assessed yet|points|Response by response")
        )

    def test_evidence_and_what_is_tried_are_entered_in_the_cell(self) -> None:
        page = self.enter("coordinator", "/mastery")
        choose(page, "Students", "Mathematics 7.3")
        expect(finding(page)).to_contain_text("Mathematics 7.3:")
        page.get_by_role("table", name="Students by standards").get_by_role("button").first.click()
        panel = page.get_by_role("region", name="Chosen cell")
        panel.get_by_role("button", name="Enter evidence").click()
        panel.get_by_label("What it was").fill("At the board")
        panel.get_by_label("Points").fill("9")
        check_accessible(self, page)
        check_words(self, page)
        by_hand = panel.get_by_role("form", name="Evidence by hand")
        by_hand.get_by_role("button", name="Save").click()
        expect(panel.get_by_role("alert")).to_contain_text("9 points; allowed are 0 to 4")
        panel.get_by_label("Points").fill("3")
        by_hand.get_by_role("button", name="Save").click()
        expect(by_hand).to_have_count(0)
        expect(panel).to_contain_text("At the board, 3 of 4")
        panel.get_by_role("button", name="Add what is tried").click()
        tried = panel.get_by_role("form", name="Intervention")
        tried.get_by_role("textbox", name="What is tried").fill("Worked examples")
        tried.get_by_role("button", name="Save").click()
        expect(panel).to_contain_text("Worked examples")
        panel.get_by_role("button", name="Withdraw At the board").click()
        expect(panel.get_by_text("At the board, 3 of 4")).to_have_count(0)

    def test_a_whole_class_is_entered_on_its_standard(self) -> None:
        page = self.enter("coordinator", "/mastery")
        choose(page, "Students", "Mathematics 7.5")
        expect(finding(page)).to_contain_text("Mathematics 7.5:")
        page.get_by_role("table", name="Students by standards").get_by_role("link", name="M7.2", exact=True).click()
        page.get_by_role("button", name="Enter for the class").click()
        form = page.get_by_role("form", name="Evidence of the class")
        form.get_by_label("What it was").fill("Exit slip")
        boxes = form.get_by_role("listitem").get_by_role("textbox")
        boxes.nth(0).fill("4")
        boxes.nth(1).fill("two")
        check_accessible(self, page)
        form.get_by_role("button", name="Enter", exact=True).click()
        expect(form.get_by_role("alert")).to_contain_text("“two” is no number of points")
        boxes.nth(1).fill("2.5")
        form.get_by_role("button", name="Enter", exact=True).click()
        expect(page.get_by_text("Entered for 2 students.")).to_be_visible()
        expect(page.get_by_role("region", name="Sessions in time")).to_contain_text("Exit slip")

    def test_some_students_only_and_practice_for_those_who_need_it(self) -> None:
        page = self.enter("coordinator", "/mastery")
        choose(page, "Students", "Mathematics 7.4")
        expect(finding(page)).to_contain_text("Mathematics 7.4:")
        table = page.get_by_role("table", name="Students by standards")
        everybody = table.locator("tbody tr").count()
        page.get_by_role("button", name="Some students only").click()
        for at in (0, 2):
            page.locator("[data-popover-content]").get_by_role("checkbox").nth(at).click()
        check_accessible(self, page)
        page.get_by_role("button", name="Show 2").click()
        expect(finding(page)).to_contain_text("Mathematics 7.4, 2 students:")
        expect(table.locator("tbody tr")).to_have_count(2)
        page.get_by_role("button", name="All students again").click()
        expect(table.locator("tbody tr")).to_have_count(everybody)
        table.get_by_role("link", name="M7.3", exact=True).click()
        page.get_by_role("button", name="Practice to print").click()
        expect(page).to_have_url(re.compile(r"/tests/\d+$"))
        expect(page.get_by_role("heading", level=1)).to_contain_text("Test form")

    def test_groups_at_work(self) -> None:
        page = self.enter("coordinator", "/mastery/working")
        expect(finding(page)).to_contain_text("to be looked at again")
        group = page.get_by_role("region", name="Fractions again")
        expect(group).to_contain_text("Look again")
        check_accessible(self, page)
        check_words(self, page)
        before = group.get_by_role("listitem").count()
        group.get_by_role("button", name=re.compile("^Remove (?!all)")).first.click()
        expect(group.get_by_role("listitem")).to_have_count(before - 1)

    def test_a_student_moves_to_another_group_by_keys(self) -> None:
        page = self.enter("coordinator", "/mastery")
        choose(page, "Students", "Mathematics 7.2")
        expect(finding(page)).to_contain_text("Mathematics 7.2:")
        page.get_by_role("link", name="Groups from needs").click()
        groups = page.get_by_role("region", name=re.compile("^Group for"))
        expect(groups.nth(1)).to_be_visible()
        name = groups.first.get_by_role("listitem").first.get_by_role("link").inner_text()
        choose(page, f"Group of {name}", "2")
        expect(groups.nth(1)).to_contain_text(name)
        expect(groups.first).not_to_contain_text(name)
        page.get_by_role("radio", name="By state").click()
        expect(finding(page)).to_contain_text(re.compile("groups? for|No group"))
        check_accessible(self, page)
        check_words(self, page)
        page.get_by_role("radio", name="By shared error").click()
        expect(page.get_by_role("combobox", name="Test")).to_be_visible()
        check_accessible(self, page)
        check_words(self, page)


if __name__ == "__main__":
    unittest.main()
