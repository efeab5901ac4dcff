"""People in the real interface: groups by rule, many at once, any one sheet, plans, the year, newcomers, families."""

from __future__ import annotations

import random
import re
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

from playwright.sync_api import expect

from bildung.demo.district import one_school
from bildung.demo.make import SEED
from bildung.demo.rosters import district_files
from bildung.demo.samples import sample_files
from bildung.services.shared.context import system_clock
from bildung.standins.beside import beside
from bildung.standins.records import create_records, demo_office
from tests.support import served_folder
from tests.ui.browser import BrowserCase, DemoCase, check_accessible, choose, finding, give_codes


class OwnPeople(DemoCase):
    def test_anybody_is_three_keystrokes_away(self) -> None:
        page = self.enter("coordinator", "/people")
        page.keyboard.type("hp")
        expect(page.locator("tbody tr").first).to_contain_text(re.compile(r"^H\w+ P"))
        page.keyboard.press("Enter")
        expect(finding(page)).to_contain_text(re.compile(r"^H\w+ P"))

    def test_a_group_is_made_by_a_rule_that_is_tried_while_it_is_written(self) -> None:
        page = self.enter("coordinator", "/people/groups")
        page.get_by_role("button", name="New group").click()
        page.get_by_label("Name", exact=True).fill("Grade 8 without extra time")
        rule = page.get_by_label("Rule", exact=True)
        rule.fill("grade 8 and not extra tme")
        expect(page.get_by_role("status")).to_contain_text("position 17: 'extra' is not known")
        expect(page.get_by_role("button", name="Create")).to_be_disabled()
        rule.fill("grade 8 and not extra time")
        expect(page.get_by_role("status")).to_contain_text(re.compile(r"^\d+ students fit now"))
        check_accessible(self, page)
        page.get_by_role("button", name="Create").click()
        expect(finding(page)).to_contain_text("Grade 8 without extra time: ")
        page.get_by_role("button", name="Delete group").click()
        expect(page.get_by_text("Its students and their results stay.")).to_be_visible()
        page.get_by_role("button", name="Delete").click()
        expect(finding(page)).to_contain_text("6 groups")

    def test_a_pasted_table_sets_needs_and_the_student_has_them(self) -> None:
        page = self.enter("coordinator", "/people/groups")
        page.get_by_role("button", name="Set in bulk").click()
        page.get_by_label("Or paste a table").fill(
            "student number\textra time\tlarge print\nBM-S0001\t1.5\tyes\nBM-S9999\t2\t\n"
        )
        page.get_by_role("button", name="Preview").click()
        expect(page.get_by_text("no one with this student number among yours")).to_be_visible()
        page.get_by_role("button", name="Apply all 1").click()
        expect(page.get_by_text("Done.")).to_be_visible()
        page.goto(self.server.address + "/people?find=BM-S0001")
        page.locator("tbody tr a").first.click()
        expect(finding(page)).to_contain_text("Accommodations: extended time × 1.5, large print.")
        mine = page.get_by_label("Accommodations", exact=True)
        mine.get_by_role("button", name="Actions for large print").click()
        page.get_by_role("menuitem", name="End").click()
        expect(finding(page)).to_contain_text("Accommodations: extended time × 1.5.")
        mine.get_by_role("button", name="Add accommodation").click()
        choose(page, "Accommodation", "text-to-speech")
        choose(page, "Source", "IEP")
        choose(page, "Subject", "Mathematics")
        check_accessible(self, page)
        mine.get_by_role("button", name="Save").click()
        expect(mine.get_by_role("row", name="text-to-speech all tests in Mathematics IEP")).to_be_visible()

    def test_what_a_case_manager_enters_is_approved_from_the_list(self) -> None:
        manager = self.signed_in("specialist")
        self.addCleanup(manager.close)
        people = manager.get("/api/people?kind=student").json()["people"]
        case = next(p["id"] for p in people if manager.get(f"/api/people/{p['id']}").json()["may_enter"])
        page = self.enter("specialist", f"/people/{case}")
        mine = page.get_by_label("Accommodations", exact=True)
        mine.get_by_role("button", name="Add accommodation").click()
        choose(page, "Accommodation", "scribe")
        mine.get_by_role("button", name="Save").click()
        expect(mine.get_by_role("row", name=re.compile("^scribe"))).to_contain_text("to approve")
        page = self.enter("coordinator", "/people/groups")
        waiting = page.get_by_label("Accommodations to approve")
        expect(waiting.get_by_role("row", name=re.compile("scribe"))).to_be_visible()
        check_accessible(self, page)
        waiting.get_by_label("Select all").uncheck()
        row = waiting.get_by_role("row", name=re.compile("scribe"))
        row.get_by_role("checkbox").check()
        waiting.get_by_role("button", name="Approve 1").click()
        expect(row).to_have_count(0)
        page.goto(self.server.address + f"/people/{case}")
        expect(finding(page)).to_contain_text("scribe")

    def test_a_lesson_is_said_to_be_taught_with_one_click(self) -> None:
        page = self.enter("teacher", "/people/plans/1")
        taught = page.get_by_role("button", name=re.compile(r"Mathematics 6.1: taught"))
        before = taught.count()
        cell = taught.last
        label = re.sub("taught by .*", "", cell.get_attribute("aria-label") or "")
        cell.click()
        expect(taught).to_have_count(before - 1)
        page.get_by_role("button", name=f"{label}not taught").click()
        expect(taught).to_have_count(before)

    def test_a_group_is_filled_by_finding_its_students(self) -> None:
        made = self.client().post("/api/groups", json={"name": "Ferry crew", "rule": None, "school_id": "1"})
        group = made.raise_for_status().json()["id"]
        page = self.enter("coordinator", f"/people/groups/{group}")
        field = page.get_by_role("combobox", name="Add a student")
        field.fill("kel")
        page.get_by_role("option").first.wait_for()
        check_accessible(self, page)
        first = page.get_by_role("option").first.inner_text().split("\n")[0]
        self.assertIn("kel", first.lower())
        field.press("Enter")
        expect(finding(page)).to_contain_text("1 student")
        expect(page.locator("main")).to_contain_text(first)
        expect(field).to_have_value("")
        field.fill("kel")
        expect(page.get_by_role("option", name=first)).to_have_count(0)  # already there
        field.fill("zzzzzz")
        expect(page.get_by_text("Nothing found.")).to_be_visible()
        self.client().delete(f"/api/groups/{group}").raise_for_status()  # other tests count them

    def test_the_year_is_looked_at_before_everybody_moves_up(self) -> None:
        client = self.client()
        for session in client.get("/api/sessions").json()["sessions"]:
            if session["phase"] != "closed":
                client.post(f"/api/sessions/{session['id']}/close").raise_for_status()
        page = self.enter("coordinator", "/people/year")
        page.get_by_role("button", name="Roll over to next year").click()
        page.get_by_role("button", name="Preview").click()
        expect(page.get_by_text("Preview: nothing has been changed yet.")).to_be_visible()
        expect(page.get_by_text("leaves the school; results stay").first).to_be_attached()
        page.get_by_role("button", name="Promote students").click()
        expect(page.get_by_text("their teachers can still open them")).to_be_visible()
        page.get_by_role("button", name="Cancel").last.click()
        check_accessible(self, page)

    def test_the_records_system_is_asked_and_what_would_remove_many_waits(self) -> None:
        layouts = one_school(system_clock().date()).schools
        office = demo_office(district_files(layouts, random.Random(SEED)), system_clock)
        with beside(create_records(office)) as address:
            self.client().put("/api/settings", json={"values": {"records_address": address}}).raise_for_status()
            office.next_day()
            page = self.enter("coordinator", "/people/records")
            page.get_by_role("button", name="Sync now").click()
            expect(finding(page)).to_contain_text("The last sync made")
            expect(page.get_by_label("What changed")).to_contain_text("Anouk Tideswell")
            office.next_day()
            office.next_day()
            page.get_by_role("button", name="Sync now").click()
            expect(finding(page)).to_contain_text("await your decision; nothing has been changed yet.")
            check_accessible(self, page)
            page.get_by_role("button", name="Cancel").click()
            expect(page.get_by_role("button", name="Sync now")).to_be_visible()

    def test_a_newcomer_asks_is_let_in_and_finds_their_own_page(self) -> None:
        code = self.client().get("/api/classes/1").json()["code"]
        phone = self.page(self.server, 360, 740)
        phone.get_by_role("button", name="New here? Ask to join a class").click()
        phone.get_by_role("textbox", name="Class code", exact=True).fill(code)
        phone.get_by_label("Given name").fill("Nova")
        phone.get_by_label("Family name").fill("Arrival")
        phone.get_by_role("button", name="Ask to join").click()
        expect(phone.get_by_role("status")).to_contain_text(
            "Your request to join Mathematics 6.1 is waiting for your teacher."
        )
        check_accessible(self, phone)
        page = self.enter("teacher", "/people/classes/1")
        row = page.get_by_label("Join requests").locator("div", has_text="Nova Arrival").last
        row.get_by_role("button", name="Accept").click()
        expect(row).to_have_count(0)
        expect(phone.get_by_role("status")).to_contain_text("Your teacher has your sign-in code", timeout=20_000)
        own = next(
            s["code"] for s in self.client().get("/api/classes/1").json()["students"] if s["name"] == "Nova Arrival"
        )
        give_codes(phone, code, own)
        expect(finding(phone)).to_have_text("No test is scheduled yet.")
        check_accessible(self, phone)

    def test_class_code_and_own_code_lead_into_the_test_that_is_open(self) -> None:
        client, now = self.client(), datetime.now(UTC)
        choices = client.get("/api/sessions/choices").json()
        klass = next(c for c in choices["classes"] if c["title"] == "Reading 8.2")
        client.post(
            "/api/sessions",
            json={
                "form_id": next(f["id"] for f in choices["forms"] if f["name"] == "Fall reading 8"),
                "window_id": client.get("/api/calendar").json()["windows"][-1]["id"],
                "class_ids": [klass["id"]],
                "start": (now - timedelta(minutes=2)).isoformat(),
                "end": (now + timedelta(hours=1)).isoformat(),
                "why": "a test may run on any day",
            },
        ).raise_for_status()
        detail = client.get(f"/api/classes/{klass['id']}").json()
        phone = self.page(self.server, 360, 740)
        give_codes(phone, detail["code"], detail["students"][0]["code"])
        expect(finding(phone)).to_have_text("Fall reading is open now.")
        check_accessible(self, phone)
        wide = phone.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        self.assertLessEqual(wide, 0)
        phone.get_by_role("button", name="Start").click()
        expect(phone.get_by_text("1 of 34")).to_be_visible()

    def test_a_family_reads_plain_sentences_on_a_phone(self) -> None:
        phone = self.page(self.server, 360, 740)
        phone.get_by_role("button", name=self.people["family"]["name"]).click()
        expect(finding(phone)).to_contain_text(re.compile("has taken [23] tests|has missed"))
        expect(phone.get_by_role("list")).to_contain_text("Fall mathematics")
        check_accessible(self, phone)
        text = phone.locator("main").inner_text()
        for word in ("BAF-", "alpha", "code", "%"):
            self.assertNotIn(word, text)
        phone.goto(self.server.address + "/people")
        expect(phone).to_have_url(re.compile(r"/\?next="))


class OneSheet(BrowserCase):
    def test_a_schools_own_sheet_is_matched_looked_at_and_taken(self) -> None:
        folder = Path(tempfile.mkdtemp())
        (folder / "our list.csv").write_bytes(sample_files()["marram-point-sheet.csv"])
        with served_folder() as server:
            page = self.page(server)
            page.get_by_role("button", name="Hanne Quill").click()
            page.get_by_role("link", name="People").click()
            page.set_input_files("input[type=file]", folder / "our list.csv")
            expect(page.get_by_text("56 rows. Choose what each column contains; 1 is left out.")).to_be_visible()
            expect(page.get_by_label(re.compile("^Pupil no"))).to_contain_text("student number")
            choose(page, re.compile("^Pupil no"), "skip")
            expect(page.get_by_text("Still needed: student number, the school.")).to_be_visible()
            choose(page, re.compile("^Pupil no"), "student number")
            page.get_by_label("School", exact=True).fill("Marram Point")
            check_accessible(self, page)
            page.get_by_role("button", name="Preview").click()
            page.get_by_role("button", name="Apply all").click()
            expect(finding(page)).to_contain_text("28 students and 3 staff in 2 classes.")
