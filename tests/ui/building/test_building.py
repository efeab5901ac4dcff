"""Building tests in the browser: from a blueprint to two companion forms, and a form mended item by item."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.ui.browser import DemoCase, check_accessible, choose, finding


class Winter(DemoCase):
    """A coordinator who needs the winter benchmark of grade 6 in two forms."""

    def blueprint(self, page: Page, name: str) -> None:
        page.get_by_label("Blueprints").get_by_role("link", name=name, exact=True).click()
        finding(page).filter(has_text=name).wait_for()

    def find(self, page: Page) -> None:
        page.get_by_role("button", name="Find forms").click()
        page.get_by_role("button", name="Find", exact=True).click()
        page.get_by_role("button", name="Find again").wait_for(timeout=60_000)

    def test_two_forms_are_found_changed_and_kept(self) -> None:
        page = self.enter("coordinator", "/tests")
        self.blueprint(page, "Winter mathematics 6")
        expect(finding(page)).to_contain_text("the bank can fill every row")
        page.get_by_role("button", name="Find forms").click()
        page.get_by_label("Items all share").fill("4")
        page.get_by_role("button", name="Find", exact=True).click()
        expect(page.get_by_role("heading", name="4 items shared by all")).to_be_visible(timeout=60_000)
        check_accessible(self, page)
        first = page.get_by_label("Form A").locator("tbody code").first.inner_text()
        page.get_by_label("Form A").get_by_role("button", name=f"Exclude {first}").click()
        expect(page.get_by_text("0 fixed, 1 excluded")).to_be_visible()
        page.get_by_role("button", name="Find again").click()
        expect(page.get_by_role("button", name="Stop")).to_have_count(0, timeout=60_000)
        expect(page.get_by_label("Form A").locator("code", has_text=first)).to_have_count(0)
        page.get_by_role("button", name="Save 2 drafts").click()
        expect(finding(page)).to_contain_text("2 still drafts")
        check_accessible(self, page)

        page.get_by_role("link", name="Winter mathematics 6 again B").click()
        outlook = page.get_by_role("group", name="Outlook")
        expect(outlook).to_contain_text("All of the blueprint is met")
        page.get_by_role("button", name="Swap").first.click()
        page.get_by_role("button", name="Use", exact=True).first.click()
        expect(page.get_by_text("Saved", exact=True)).to_be_visible()
        expect(outlook).to_contain_text("All of the blueprint is met")
        page.get_by_role("button", name="Remove ").filter(has_text="Remove").first.click()
        expect(outlook).to_contain_text("1 item missing")
        check_accessible(self, page)

    def test_demands_that_collide_are_named_and_the_nearest_is_taken_over(self) -> None:
        page = self.enter("coordinator", "/tests")
        self.blueprint(page, "Winter mathematics 7")
        page.get_by_label("Row 1: to", exact=True).fill("60")
        page.get_by_label("Row 1: from").fill("60")
        page.get_by_label("Items to", exact=True).fill("90")
        expect(finding(page)).to_contain_text("60 are wanted")
        self.find(page)
        expect(page.get_by_role("heading", name="cannot be met together")).to_be_visible()
        page.get_by_role("button", name="Insert").click()
        expect(finding(page)).to_contain_text("the bank can fill every row")
        expect(page.get_by_text("All changes saved")).to_be_visible()

    def test_a_blueprint_written_from_nothing(self) -> None:
        page = self.enter("coordinator", "/tests")
        page.get_by_role("button", name="New blueprint").click()
        page.get_by_label("Name (staff only)").fill("Harbor unit")
        page.get_by_label("Subject").fill("Mathematics")
        page.get_by_label("Grade").fill("8")
        choose(page, "Kind", "unit")
        page.get_by_role("button", name="Create blueprint").click()
        expect(finding(page)).to_contain_text("has no rows yet")
        page.get_by_role("button", name="Add a row per standard").click()
        expect(finding(page)).to_contain_text("the bank can fill every row")
        page.get_by_label("Items to", exact=True).fill("3")
        expect(finding(page)).to_contain_text("cannot be met by any bank")
        expect(page.get_by_role("button", name="Find forms")).to_be_disabled()
        check_accessible(self, page)
