"""An hour in a room: a student asks for help, leaves for the restroom and is paused; the proctor sees and does it all."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.ui.browser import check_accessible, finding, give_codes
from tests.ui.sitting.test_cut import OpenSession


class InTheRoom(OpenSession):
    def setUp(self) -> None:
        super().setUp()
        session, code = self.open_session(*self.which())
        self.student = self.page(self.server, 360, 740)
        give_codes(self.student, session, code)
        expect(self.student.get_by_role("status")).to_have_text("Saved")
        self.proctor = self.enter("coordinator", f"/sessions/{self.session_id}")

    def which(self) -> tuple[str, str]:
        return {
            "test_help_restroom_and_a_message": ("Reading 6.4", "Fall reading 6"),
            "test_a_pause_covers_the_screen_and_a_school_is_stopped_in_one_action": ("Reading 7.1", "Fall reading 7"),
        }.get(self._testMethodName, ("Reading 6.1", "Fall reading 6"))

    def heading(self, text: str) -> None:
        expect(self.student.get_by_role("heading", level=1)).to_have_text(text)

    def needs_you(self) -> Page:
        return self.proctor.get_by_role("region", name="Needs you now")  # type: ignore[return-value]

    def test_help_restroom_and_a_message(self) -> None:
        student, proctor = self.student, self.proctor
        check_accessible(self, student)
        student.get_by_role("button", name="Help").click()
        expect(self.needs_you()).to_contain_text("asks for help, just now")
        expect(finding(proctor)).to_contain_text("1 student asks for help")
        check_accessible(self, proctor)
        self.needs_you().get_by_role("button", name="Helped").click()
        expect(student.get_by_role("button", name="Help", pressed=False)).to_be_visible()
        student.get_by_role("button", name="More").click()
        student.get_by_role("menuitem", name="Go to the restroom").click()
        self.heading("You are out of the room.")
        check_accessible(self, student)
        expect(proctor.get_by_role("row").filter(has_text="restroom, just now")).to_have_count(1)
        student.get_by_role("button", name="I am back").click()
        expect(student.get_by_role("button", name="Next", exact=True)).to_be_visible()
        proctor.get_by_role("button", name="Message").click()
        proctor.get_by_label("Text, up to 200 characters").fill("Ten minutes to go.")
        proctor.get_by_role("button", name="Send").click()
        told = student.get_by_role("alertdialog", name="A message from your proctor")
        expect(told).to_contain_text("Ten minutes to go.")
        told.get_by_role("button", name="OK").click()
        expect(told).to_have_count(0)
        student.reload()
        expect(student.get_by_role("status")).to_have_text("Saved")
        expect(told).to_have_count(0)

    def test_a_pause_covers_the_screen_and_a_school_is_stopped_in_one_action(self) -> None:
        student, proctor = self.student, self.proctor
        proctor.get_by_role("button", name="Pause", exact=True).click()
        proctor.get_by_label("What students read meanwhile").fill("The bell is wrong.")
        proctor.get_by_role("alertdialog").get_by_role("button", name="Pause").click()
        self.heading("Your test is paused.")
        expect(student.get_by_text("The bell is wrong.")).to_be_visible()
        expect(student.get_by_role("radio")).to_have_count(0)
        expect(finding(proctor)).to_contain_text("The session is paused")
        student.reload()
        self.heading("Your test is paused.")
        proctor.get_by_role("button", name="Resume", exact=True).click()
        expect(student.get_by_role("radio").first).to_be_visible()
        proctor.get_by_role("button", name="Add minutes").click()
        proctor.get_by_label("Minutes, 1 to 60").fill("7")
        proctor.get_by_role("button", name="Add", exact=True).click()
        expect(proctor.get_by_role("row").filter(has_text="7 minutes added")).to_have_count(1)
        proctor.get_by_role("button", name="Whole school").click()
        proctor.get_by_role("menuitem", name="Pause all open sessions").click()
        proctor.get_by_label("Reason, shown to students").fill("Fire drill")
        proctor.get_by_role("button", name="Pause all").click()
        self.heading("Your test is paused.")
        proctor.get_by_role("button", name="Whole school").click()
        proctor.get_by_role("menuitem", name="Resume all sessions").click()
        expect(student.get_by_role("radio").first).to_be_visible()

    def test_an_irregularity_is_noted_and_decided(self) -> None:
        proctor = self.proctor
        row = proctor.get_by_role("row").filter(has_text="in progress")
        row.get_by_role("checkbox").click()
        proctor.get_by_role("button", name="Irregularity").click()
        proctor.get_by_role("button", name="Became ill").click()
        proctor.get_by_role("button", name="Note it").click()
        proctor.get_by_role("link", name="Decide what they mean").click()
        expect(finding(proctor)).to_have_text("1 irregularity waits for a decision.")
        check_accessible(self, proctor)
        proctor.get_by_role("button", name="Decide").click()
        proctor.get_by_role("radio", name=re.compile("takes the test again")).click()
        proctor.get_by_label("Reason (kept in the log)").fill("went to the nurse")
        proctor.get_by_role("button", name="Save decision").click()
        expect(proctor.get_by_role("row").filter(has_text="to be taken again")).to_have_count(1)
        expect(finding(proctor)).to_have_text("The one irregularity is settled.")
        self.student.reload()
        expect(self.student.get_by_role("heading", level=1)).to_have_text("This test is not open to you now.")
        proctor.get_by_role("button", name="Undo").click()
        expect(finding(proctor)).to_have_text("1 irregularity waits for a decision.")
