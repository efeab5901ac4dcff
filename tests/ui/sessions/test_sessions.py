"""Sessions as a coordinator works with them: names behind the five numbers, changes, moves, makeups, a proctor who is out."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta
from typing import Any, ClassVar
from zoneinfo import ZoneInfo

from playwright.sync_api import Locator, Page, Route, expect

from bildung.demo.district import ZONE, school_day
from tests.ui.browser import DemoCase, check_accessible, choose, finding, give_codes

WHY = "a test may run on any day"


class Sessions(DemoCase):
    """Three classes of grade 7 in a window that is open: one is over, two are to come."""

    window: str
    staff: ClassVar[dict[str, str]]
    proctor: str
    ids: ClassVar[list[str]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        client = cls.signed_in()
        zone = ZoneInfo(ZONE)
        today = datetime.now(UTC).astimezone(zone).date()
        end = today + timedelta(days=25)
        made = client.post("/api/windows", json={"name": "Trial", "start": str(today), "end": str(end)})
        cls.window = made.raise_for_status().json()["ids"][0]
        choices = client.get("/api/sessions/choices").json()
        cls.staff = {p["name"]: p["id"] for p in choices["staff"] if p["may_hold"]}
        cls.proctor = sorted(cls.staff)[0]
        form = next(f["id"] for f in choices["forms"] if f["name"] == "Winter science 7 A")
        next_day = school_day(today, 1)
        cls.ids = []
        for place, title in enumerate(("Mathematics 7.3", "Mathematics 7.4", "Mathematics 7.5")):
            start = datetime(next_day.year, next_day.month, next_day.day, 9 + 2 * place, tzinfo=zone)
            if place == 0:
                start = datetime.now(UTC) - timedelta(minutes=30)
            planned = {
                "form_id": form,
                "window_id": cls.window,
                "class_ids": [next(c["id"] for c in choices["classes"] if c["title"] == title)],
                "proctor_id": cls.staff[cls.proctor],
                "start": start.isoformat(),
                "end": (start + timedelta(minutes=50)).isoformat(),
                "why": WHY,
            }
            cls.ids += client.post("/api/sessions", json=planned).raise_for_status().json()["ids"]
        client.post(f"/api/sessions/{cls.ids[0]}/close").raise_for_status()
        client.close()

    def open(self, path: str) -> Page:
        return self.enter("coordinator", f"{path}{'&' if '?' in path else '?'}window={self.window}")

    def detail(self, session: str) -> Any:
        return self.client().get(f"/api/sessions/{session}").json()

    def give_reason(self, page: Page, done: Locator) -> None:
        """Where the day of this run is none on which a school tests."""
        reason = page.get_by_label("Reason (kept in the log)")
        reason.or_(done).first.wait_for()
        if reason.is_visible():
            reason.fill(WHY)
            page.get_by_role("button", name="Save").click()
        expect(done).to_be_visible()

    def test_who_has_not_taken_it_and_why_is_one_click_away(self) -> None:
        page = self.open("/sessions")
        expect(finding(page)).to_contain_text("0 of 72 tests are submitted")
        page.get_by_role("button", name="24 not scheduled").click()
        expect(page.get_by_role("heading", name="Not scheduled: 24 tests")).to_be_visible()
        expect(page.get_by_role("cell", name="absent").first).to_be_visible()
        check_accessible(self, page)
        page.get_by_role("button", name="Close").click()
        page.get_by_role("link", name="Participation").click()
        expect(page.get_by_role("row", name=re.compile("Brackwater Middle 72"))).to_be_visible()
        page.get_by_role("radio", name="Class").click()
        expect(page.get_by_role("row", name=re.compile(r"Mathematics 7\.3 24"))).to_be_visible()
        check_accessible(self, page)

    def test_one_session_and_several_are_edited_and_what_speaks_against_it_asks_for_a_reason(self) -> None:
        page = self.open(f"/sessions/{self.ids[1]}")
        page.get_by_role("button", name="Edit").click()
        page.get_by_label("Room").fill("Z9")
        page.get_by_label("Instructions for students").fill("Bring a pencil.")
        check_accessible(self, page)
        page.get_by_role("button", name="Save").click()
        self.give_reason(page, page.locator("p", has_text="Bring a pencil."))
        page.get_by_role("link", name="Sessions", exact=True).last.click()
        for title in ("Mathematics 7.4", "Mathematics 7.5"):
            page.get_by_role("checkbox", name=re.compile(f"Select {title}")).check()
        page.get_by_role("button", name="Edit").click()
        choose(page, "Time", "15 minutes later")
        page.get_by_role("button", name="Save").click()
        self.give_reason(page, page.get_by_text("2 sessions changed."))

    def test_a_student_is_moved_in_three_clicks_and_returns_in_one(self) -> None:
        page = self.open(f"/sessions/{self.ids[1]}")
        row = page.locator("tr[data-row]").first
        name = row.get_by_role("link").first.inner_text()
        row.get_by_role("button", name="Move").click()
        page.get_by_role("radio", name=re.compile("Mathematics 7.5")).click()
        check_accessible(self, page)
        page.get_by_role("button", name="Move", exact=True).last.click()
        here = page.get_by_role("region", name=re.compile("1 student of this class not on the list"))
        expect(here).to_contain_text(name)
        expect(here).to_contain_text("takes it on")
        page.goto(f"{self.server.address}/sessions/{self.ids[2]}")
        moved = page.get_by_role("row", name=re.compile(name))
        expect(moved).to_contain_text("from another class")
        moved.get_by_role("button", name="Return to class").click()
        expect(moved).to_have_count(0)

    def test_no_row_moves_under_the_pointer_when_the_page_is_live(self) -> None:
        page = self.open("/today")
        held: list[Route] = []

        def hold(route: Route) -> None:
            held.append(route)

        page.route("**/events", hold)
        page.goto(f"{self.server.address}/sessions/{self.ids[2]}")
        row = page.locator("tr[data-row]").first
        expect(page.get_by_text("connecting …")).to_be_visible()
        before = row.bounding_box()
        with page.expect_response(re.compile(f"/sessions/{self.ids[2]}$")):  # the page looks again
            held[0].continue_()
        expect(page.get_by_text("live", exact=True)).to_be_visible()
        self.assertEqual(row.bounding_box(), before)

    def test_makeups_are_proposed_and_scheduled(self) -> None:
        page = self.open("/sessions/makeups")
        expect(finding(page)).to_contain_text("24 students still owe 24 tests.")
        check_accessible(self, page)
        page.get_by_role("button", name="Schedule 1 makeup").click()
        expect(page.get_by_text("selected students").first).to_be_visible()
        expect(page.get_by_role("button", name="0 not scheduled")).to_be_disabled()
        for session in self.client().get(f"/api/sessions?window={self.window}").json()["sessions"]:
            if session["by_name"] and session["phase"] != "canceled":
                self.client().post(
                    "/api/sessions/cancel", json={"ids": [session["id"]], "why": "the other tests count them"}
                ).raise_for_status()

    def test_sessions_of_a_proctor_who_is_out_are_reassigned_in_two_clicks(self) -> None:
        page = self.open("/today")
        page.get_by_role("button", name=self.proctor).first.click()
        expect(page.get_by_role("dialog")).to_contain_text("Someone is free for each of them.")
        check_accessible(self, page)
        page.get_by_role("button", name="Reassign 2 sessions").click()
        expect(page.get_by_text("2 sessions reassigned.")).to_be_visible()
        self.assertNotIn(self.proctor, [self.detail(id)["session"]["proctor"] for id in self.ids[1:]])
        line = self.detail(self.ids[1])["session"]
        for id in self.ids[1:]:
            line = self.detail(id)["session"]
            self.client().post(
                "/api/sessions/change",
                json={"revisions": {id: line["revision"]}, "proctor": self.staff[self.proctor], "why": WHY},
            ).raise_for_status()

    def test_a_session_is_split_and_merged_again(self) -> None:
        page = self.open(f"/sessions/{self.ids[2]}")
        page.get_by_role("button", name="More").click()
        page.get_by_role("menuitem", name="Split session").click()
        dialog = page.get_by_role("dialog")
        for at in range(2):
            dialog.get_by_role("checkbox").nth(at).check()
        dialog.get_by_label("Room").fill("Library")
        check_accessible(self, page)
        reason, done = page.get_by_label("Reason (kept in the log)"), page.get_by_text("2 students are expected")
        dialog.get_by_role("button", name="Split session").click()
        reason.or_(done).first.wait_for()
        if reason.is_visible():
            reason.fill(WHY)
            dialog.get_by_role("button", name="Split session").click()
        expect(done).to_be_visible()
        page.get_by_role("button", name="More").click()
        page.get_by_role("menuitem", name="Merge with another").click()
        page.get_by_role("radio", name=re.compile("Mathematics 7.5")).click()
        page.get_by_role("button", name="Merge", exact=True).click()
        expect(page.get_by_text("24 students are expected")).to_be_visible()

    def test_a_student_is_exempted_and_owes_the_test_again_when_it_ends(self) -> None:
        student = self.detail(self.ids[1])["sittings"][-1]
        page = self.open(f"/people/{student['person']}")
        part = page.get_by_role("region", name="Exemptions")
        part.get_by_role("button", name="Exempt").click()
        choose(part, "Reason", "medical")
        choose(part, "Subject", "Mathematics")
        part.get_by_label("During the test").fill("reads in the library")
        part.get_by_role("button", name="Save").click()
        expect(part).to_contain_text("medical, Mathematics")
        self.assertIn(student["person"], [s["person"] for s in self.detail(self.ids[1])["sittings"]], "science is owed")
        part.get_by_role("button", name="End").click()
        part.get_by_role("button", name="End exemption").click()
        expect(part).to_contain_text("not in force")
        part.get_by_role("button", name="Exempt").click()
        choose(part, "Reason", "medical")
        part.get_by_label("During the test").fill("reads in the library")
        check_accessible(self, page)
        part.get_by_role("button", name="Save").click()
        expect(part.get_by_text("medical, all subjects")).to_be_visible()
        page.goto(f"{self.server.address}/sessions/{self.ids[1]}")
        gone = page.get_by_role("region", name=re.compile("not on the list"))
        expect(gone).to_contain_text("exempt: medical; reads in the library")
        client = self.client()
        for line in client.get(f"/api/participation/exemptions?person={student['person']}").json()["exemptions"]:
            if line["holds"]:
                client.delete(f"/api/participation/exemptions/{line['id']}").raise_for_status()

    def test_a_teacher_gives_a_test_of_their_own_and_no_benchmark(self) -> None:
        page = self.enter("teacher", f"/sessions?plan=new&window={self.window}")
        form = page.get_by_role("combobox", name="Form", exact=True).or_(page.get_by_label("Form")).first
        form.click()
        offered = page.get_by_role("option")
        offered.first.wait_for()
        names = offered.all_inner_texts()
        self.assertFalse(
            [n for n in names if n.startswith(("Winter", "Fall")) and "practice" not in n],
            "benchmarks are the coordinator's",
        )
        offered.filter(has_text="for practice").click()
        page.get_by_label("show classes of every subject and grade").check()
        page.get_by_label("Mathematics 6.1").check()
        page.get_by_label("Instructions for students").fill("Open book.")
        check_accessible(self, page)
        page.get_by_role("button", name="Schedule session", exact=True).click()
        expect(page.get_by_role("alert")).to_contain_text("Mathematics 6.1 is grade 6; ")
        page.get_by_label("Reason (kept in the log)").fill("they are ahead")
        done = page.get_by_text("Session scheduled.")
        page.get_by_role("button", name="Schedule session", exact=True).click()
        expect(done).to_be_visible()
        expect(page.get_by_role("cell", name="Mathematics 6.1", exact=True)).to_be_visible()
        sessions = self.client().get(f"/api/sessions?window={self.window}").json()["sessions"]
        mine = [s["id"] for s in sessions if s["klass"] == "Mathematics 6.1"]
        cancel = {"ids": mine, "why": "the other tests count them", "still_owed": False}
        self.client().post("/api/sessions/cancel", json=cancel).raise_for_status()

    def test_a_wrong_form_and_a_missing_reader_are_put_right_while_the_session_runs(self) -> None:
        client = self.client()
        # a window of its own, so that what others count stays as it is; that today is none of its days asks for a reason
        window = client.get("/api/calendar").json()["windows"][0]["id"]
        choices = client.get("/api/sessions/choices").json()
        start = datetime.now(UTC) - timedelta(minutes=5)
        planned = {
            "form_id": next(f["id"] for f in choices["forms"] if f["name"] == "Winter science 7 A"),
            "window_id": window,
            "class_ids": [next(c["id"] for c in choices["classes"] if c["title"] == "Mathematics 7.1")],
            "start": start.isoformat(),
            "end": (start + timedelta(minutes=50)).isoformat(),
            "why": WHY,
        }
        session = client.post("/api/sessions", json=planned).raise_for_status().json()["ids"][0]
        detail = self.detail(session)
        student = next(s for s in detail["sittings"] if not s["form"])
        reads = {"kind": "human_reader", "source": "iep"}
        client.post(f"/api/people/{student['person']}/accommodations", json=reads).raise_for_status()
        phone = self.page(self.server, width=360, height=740)
        give_codes(phone, detail["session"]["code"], student["code"])
        phone.wait_for_selector("#question")

        page = self.enter("coordinator", f"/sessions/{session}?window={window}")
        support = page.get_by_role("region", name="Support")
        expect(support).to_contain_text("1 accommodation needs a person who is not assigned yet.")
        support.get_by_role("button", name="Assign").click()
        support.get_by_role("combobox").fill(self.proctor[:6])
        page.get_by_role("option").first.click()
        expect(support).to_contain_text("Everyone who needs a person beside them has one.")
        check_accessible(self, page)

        row = page.get_by_role("row", name=re.compile(student["name"]))
        row.get_by_role("button", name="Form", exact=True).click()
        asked = page.get_by_role("dialog", name="Form of this attempt")
        expect(asked).to_contain_text("This student is taking Winter science 7 A and has answered 0 questions.")
        asked.get_by_role("radio", name=re.compile("continues on Winter science 7 A, adapted")).check()
        check_accessible(self, page)
        asked.get_by_label("Reason").fill("the IEP says so")
        asked.get_by_role("button", name="Save").click()
        expect(row).to_contain_text("went over from Winter science 7 A to Winter science 7 A, adapted: the IEP says so")
        expect(finding(phone)).to_have_text("Your teacher changed your test.")
        phone.get_by_role("button", name="Go to the start page").click()
        give_codes(phone, detail["session"]["code"], student["code"])
        phone.wait_for_selector("#question")

        page.goto(f"{self.server.address}/sessions/forms?window={window}")
        expect(finding(page)).to_contain_text("scheduled attempts are on a different form from the rest of the class.")
        given = page.get_by_role("row", name=re.compile("Winter science 7 A, adapted"))
        given.get_by_role("button", name="Students with Winter science 7 A, adapted: 1").click()
        expect(page.get_by_role("link", name=student["name"])).to_be_visible()
        check_accessible(self, page)
        cancel = {"ids": [session], "why": "the other tests count them", "still_owed": False}
        client.post("/api/sessions/cancel", json=cancel).raise_for_status()
