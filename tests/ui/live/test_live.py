"""A live round in a browser: the teacher asks, two devices answer, the wall shows, they talk, it is asked again."""

from __future__ import annotations

import re
import subprocess
import sys
import unittest

from playwright.sync_api import Page, expect

from tests.ui.browser import DemoCase, check_accessible, finding, give_codes


class Live(DemoCase):
    def class_page(self) -> tuple[Page, str, list[str]]:
        """The teacher at a class, its code and those of its students."""
        client = self.client()
        klass = next(c for c in client.get("/api/classes").json()["classes"] if c["title"].startswith("Mathematics 6"))
        found = client.get(f"/api/classes/{klass['id']}").json()
        return (
            self.enter("coordinator", f"/people/classes/{klass['id']}"),
            found["code"],
            [s["code"] for s in found["students"]],
        )

    def join(self, klass: str, code: str, width: int = 360) -> Page:
        page = self.page(self.server, width, 740)
        give_codes(page, klass, code)
        page.get_by_role("link", name="Join").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("You are in. Wait for the first question.")
        return page

    def test_a_question_is_asked_shown_and_asked_again(self) -> None:
        teacher, klass, codes = self.class_page()
        teacher.get_by_role("button", name="Start a live round").click()
        expect(finding(teacher)).to_contain_text("Ask the first question.")
        ada, ben = self.join(klass, codes[0]), self.join(klass, codes[1])
        expect(finding(teacher)).to_contain_text("2 of ")
        wall = self.enter("coordinator", teacher.url.removeprefix(self.server.address).replace("/live/", "/screen/"))
        expect(wall.get_by_role("heading", name="Join with the class code")).to_be_visible()
        check_accessible(self, wall)
        teacher.get_by_label("Find in the bank").fill("type:choice grade:5")
        teacher.get_by_role("button", name="Find", exact=True).click()
        teacher.get_by_role("button", name="Ask", exact=True).first.click()
        ada.get_by_role("radio").first.press("Space")
        expect(ada.get_by_role("status")).to_contain_text("Your answer is in.")
        ben.get_by_role("radio").nth(1).press("Space")
        expect(wall.get_by_text("2 of 2 answered")).to_be_visible()
        expect(wall.get_by_role("figure")).to_have_count(0)
        check_accessible(self, ada)
        check_accessible(self, teacher)
        teacher.get_by_role("button", name="Show the answers").click()
        expect(finding(teacher)).to_have_text(re.compile(r"[01] of 2 answered correctly\."))
        expect(wall.get_by_role("figure", name="Answers")).to_be_visible()
        expect(wall.get_by_text("correct", exact=True)).to_have_count(0)
        expect(ada.get_by_role("status")).to_contain_text("The answers are being shown.")
        teacher.get_by_role("button", name="Show the correct answer").click()
        expect(wall.get_by_text("correct", exact=True)).to_have_count(1)
        expect(ada.get_by_text(re.compile(r"^(Right|Not right)\."))).to_be_visible()
        teacher.get_by_role("button", name="Ask again").click()
        expect(ada.get_by_role("heading", name="Question 2, once more")).to_be_visible()
        expect(ada.get_by_role("radio", checked=True)).to_have_count(0)
        ada.get_by_role("radio").nth(1).press("Space")
        ben.get_by_role("radio").nth(1).press("Space")
        teacher.get_by_text("2 of 2").wait_for()
        teacher.get_by_role("button", name="Show the answers").click()
        expect(teacher.get_by_role("figure", name="Before")).to_be_visible()
        expect(wall.get_by_role("figure", name="After")).to_be_visible()
        check_accessible(self, wall)
        teacher.get_by_role("button", name="End the round").click()
        teacher.get_by_role("dialog").get_by_role("button", name="End", exact=True).click()
        expect(teacher.get_by_role("row")).to_have_count(3)
        expect(wall.get_by_role("heading", name="This round is over.")).to_be_visible()
        self.errors.clear()

    def test_response_devices_answer_through_a_hub(self) -> None:
        """The simulated hub, as ./bildung hub starts it, on its own port."""
        hub = subprocess.Popen(
            [sys.executable, "-m", "bildung.standins.hub", "--devices", "6", "--pace", "0.1"],
            stdout=subprocess.PIPE,
            text=True,
        )
        self.addCleanup(hub.wait)
        self.addCleanup(hub.terminate)
        assert hub.stdout is not None
        self.assertIn("6 on ws://127.0.0.1:8791", hub.stdout.readline())
        teacher, klass, codes = self.class_page()
        teacher.get_by_role("button", name="Response devices").click()
        teacher.get_by_role("button", name="Number as listed").click()
        check_accessible(self, teacher)
        teacher.get_by_role("dialog").get_by_role("button", name="Save").click()
        teacher.get_by_role("button", name="Start a live round").click()
        teacher.get_by_role("button", name="Connect response devices").click()
        expect(teacher.get_by_text("6 response devices are connected.")).to_be_visible()
        ada = self.join(klass, codes[9])
        teacher.get_by_role("button", name="Say one aloud").click()
        teacher.get_by_role("button", name="Ask", exact=True).click()
        ada.get_by_role("button", name="A", exact=True).click()
        expect(teacher.get_by_text("7 of 7")).to_be_visible(timeout=30_000)
        expect(teacher.get_by_text("response device", exact=True)).to_have_count(6)
        self.errors.clear()

    def test_one_said_aloud_has_letters(self) -> None:
        teacher, klass, codes = self.class_page()
        teacher.get_by_role("button", name="Start a live round").click()
        ada = self.join(klass, codes[2])
        teacher.get_by_role("button", name="Say one aloud").click()
        teacher.get_by_label("Words on the screen, or nothing").fill("Which graph?")
        teacher.get_by_label("Options, 2 to 8").fill("3")
        teacher.get_by_role("button", name="Ask", exact=True).click()
        expect(ada.get_by_text("Which graph?")).to_be_visible()
        ada.get_by_role("button", name="B", exact=True).click()
        expect(ada.get_by_role("status")).to_contain_text("Your answer is in.")
        expect(teacher.get_by_text("1 of 1")).to_be_visible()
        teacher.get_by_role("button", name="Show the answers").click()
        expect(teacher.get_by_role("button", name="Show the correct answer")).to_have_count(0)
        self.errors.clear()


if __name__ == "__main__":
    unittest.main()
