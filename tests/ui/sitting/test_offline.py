"""A whole test without a server, students in turn on one device, time that was added while the network was away."""

from __future__ import annotations

import re
import unittest

from playwright.sync_api import Page, expect

from tests.ui.browser import check_accessible, finding, give_codes
from tests.ui.sitting.test_cut import OpenSession, held

SAVED = "Saved"


class Offline(OpenSession):
    def begin(self, page: Page, session: str, code: str) -> None:
        give_codes(page, session, code)
        expect(page.get_by_role("status")).to_have_text(SAVED)
        page.wait_for_function("caches.match('/sit', { cacheName: 'bildung-pages' }).then((page) => !!page)")
        page.wait_for_function("navigator.serviceWorker.ready.then(() => !!navigator.serviceWorker.controller)")

    def answered(self, number: int) -> list[str]:
        """What the store has of one student's answers."""
        detail = self.client().get(f"/api/sessions/{self.session_id}").json()
        line = detail["sittings"][number]
        return [line["state"], str(line["answered"])]

    def test_a_whole_test_is_taken_and_submitted_without_a_server(self) -> None:
        session, code = self.open_session("Reading 6.1")
        page = self.page(self.server, 360, 740)
        self.begin(page, session, code)
        page.keyboard.press("a")
        expect(page.get_by_role("status")).to_have_text(SAVED)
        self.server.kill()
        page.reload()
        expect(page.get_by_role("radio", checked=True)).to_have_value("A")
        for key in "bcd":
            page.get_by_role("button", name="Next", exact=True).click()
            page.keyboard.press(key)
        expect(page.get_by_role("status")).to_have_text("Not saved yet. Keep this page open.")
        page.reload()
        expect(page.get_by_role("radio", checked=True)).to_have_value("D")
        page.get_by_role("button", name=re.compile("show all")).click()
        page.get_by_role("button", name=re.compile("Submit with 30 unanswered")).click()
        expect(page.get_by_role("alert")).to_contain_text("Most students take much longer for this test.")
        page.get_by_role("button", name="Submit now").click()
        expect(finding(page)).to_contain_text("Your test is submitted on this device")
        check_accessible(self, page)
        page.reload()
        expect(finding(page)).to_contain_text("Your test is submitted on this device")
        self.server.start()
        expect(finding(page)).to_contain_text("Your answers are in", timeout=40_000)
        self.assertEqual(held(page), [])
        self.assertEqual(self.answered(0), ["handed_in", "4"])
        self.errors.clear()

    def test_two_students_in_turn_on_one_device_that_cannot_send(self) -> None:
        session, first = self.open_session("Reading 6.2")
        second = self.client().get(f"/api/sessions/{self.session_id}").json()["sittings"][1]["code"]
        page = self.page(self.server)
        self.begin(page, session, first)
        for path in ("answers", "deliver"):
            page.route(f"**/api/sit/{path}", lambda route: route.abort())
        page.keyboard.press("b")
        page.get_by_role("button", name="Finish").click()
        page.get_by_role("button", name=re.compile("Submit with")).click()
        page.get_by_role("button", name="Submit now").click()
        expect(finding(page)).to_contain_text("Your test is submitted on this device")
        page.get_by_role("button", name="This device is for another student now").click()
        expect(page.get_by_text("This device still holds one answer of another student.")).to_be_visible()
        check_accessible(self, page)
        give_codes(page, session, second)
        expect(page.get_by_role("radio").first).to_be_visible()
        expect(page.get_by_role("radio", checked=True)).to_have_count(0)
        page.keyboard.press("c")
        expect(page.get_by_role("status")).to_have_text("Not saved yet. Keep this page open.")
        self.assertEqual(sorted(m["answer"] for m in held(page)), ["B", "C"])
        proctor = self.enter("coordinator", f"/sessions/{self.session_id}")
        expect(proctor.get_by_text("its device holds 1 answer of another student")).to_be_visible(timeout=20_000)
        for path in ("answers", "deliver"):
            page.unroute(f"**/api/sit/{path}")
        expect(page.get_by_role("status")).to_have_text(SAVED, timeout=30_000)
        expect(proctor.get_by_text("its device holds 1 answer of another student")).to_have_count(0, timeout=30_000)
        self.assertEqual([m["answer"] for m in held(page)], [])
        self.assertEqual([self.answered(0), self.answered(1)], [["handed_in", "1"], ["answering", "1"]])
        expect(page.get_by_role("radio", checked=True)).to_have_value("C")
        self.errors.clear()

    def test_time_that_was_added_while_the_network_was_away_is_given(self) -> None:
        session, code = self.open_session("Reading 6.3")
        page = self.page(self.server)
        page.clock.install()
        self.begin(page, session, code)
        proctor = self.enter("coordinator", f"/sessions/{self.session_id}")
        page.context.set_offline(True)
        proctor.get_by_role("button", name="Pause", exact=True).click()
        proctor.get_by_role("alertdialog").get_by_role("button", name="Pause").click()
        expect(finding(proctor)).to_contain_text("The session is paused")
        page.clock.fast_forward("02:00:00")  # to the device the time is over
        expect(finding(page)).to_contain_text("Your test is submitted on this device")
        page.context.set_offline(False)
        page.clock.fast_forward("00:30")
        expect(finding(page)).to_have_text("Your test is paused.", timeout=30_000)
        proctor.get_by_role("button", name="Resume", exact=True).click()
        told = page.get_by_role("alertdialog", name=re.compile("You have more time: (59|60) minutes left"))
        told.get_by_role("button", name="OK").click()
        expect(page.get_by_role("radio").first).to_be_visible()
        expect(proctor.get_by_text("open again, as it is paused")).to_be_visible()
        self.errors.clear()

    def test_a_second_device_is_asked_before_it_takes_over(self) -> None:
        session, code = self.open_session("Reading 7.1", "Fall reading 7")
        page = self.page(self.server)
        self.begin(page, session, code)
        other = self.page(self.server, 360, 740)
        other.goto(self.server.address)
        other.get_by_label("Session or class code").fill(session)
        other.get_by_label("Your sign-in code").fill(code)
        other.get_by_role("button", name="Next").click()
        expect(
            other.get_by_text("Your test is open on another device. If you go on here, it stops there.")
        ).to_be_visible()
        check_accessible(self, other)
        other.get_by_role("button", name="Yes, go on here").click()
        expect(other.get_by_role("status")).to_have_text(SAVED)
        expect(finding(page)).to_have_text("You continued on another device.")
        self.errors.clear()

    def test_a_device_is_checked(self) -> None:
        page = self.page(self.server, 360, 740)
        page.goto(f"{self.server.address}/check")
        expect(finding(page)).to_contain_text("to know about this device")
        expect(page.get_by_text("Answers are kept on this device while the network is away.")).to_be_visible()
        check_accessible(self, page)


if __name__ == "__main__":
    unittest.main()
