"""The seven steps in the real interface, and the figures shown against figures worked out here."""

from __future__ import annotations

import csv
import io
import math
import random
import statistics
import tempfile
import unittest
from pathlib import Path
from typing import Any

import httpx2 as httpx
from playwright.sync_api import Page, expect

from bildung.demo.samples import sample_files
from tests.support import Served, served_folder
from tests.ui.browser import BrowserCase, check_accessible, finding

SEED = 5
WRONG_KEY = "HM5-03"  # the sample item whose key is planted wrong here


def with_wrong_key(data: bytes) -> tuple[bytes, dict[str, dict[str, str]]]:
    """The sample items, one keyed to a wrong option; and the true items by code."""
    rows = list(csv.DictReader(io.StringIO(data.decode())))
    true = {row["code"]: dict(row) for row in rows}
    for row in rows:
        if row["code"] == WRONG_KEY:
            assert row["type"] == "choice"
            row["key"] = next(letter for letter in "ABCD" if letter != row["key"])
    out = io.StringIO()
    writer = csv.DictWriter(out, rows[0].keys())
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue().encode(), true


class Walk(BrowserCase):
    def test_a_coordinator_walks_from_a_roster_to_a_judged_test(self) -> None:
        files = sample_files()
        sheet, true = with_wrong_key(files["items.csv"])
        folder = Path(tempfile.mkdtemp())
        (folder / "roster.zip").write_bytes(files["marram-point-roster.zip"])
        (folder / "items.csv").write_bytes(sheet)
        (folder / "package.zip").write_bytes(files["items-qti.zip"])
        with served_folder() as server:
            page = self.page(server)
            page.get_by_role("button", name="Hanne Quill").click()
            expect(page.get_by_role("navigation", name="Stations").get_by_role("link")).to_have_text(
                [
                    "Today",
                    "Calendar",
                    "Bank",
                    "Tests",
                    "Sessions",
                    "Scoring",
                    "Item quality",
                    "Mastery",
                    "Growth",
                    "People",
                ]
            )
            self.bring_people(page, folder)
            self.bring_items(page, folder)
            self.make_a_form(page)
            codes = self.plan(page)
            self.sit(page, server, codes, true)
            page.get_by_role("button", name="Close session").click()
            check_accessible(self, page)
            asked = page.get_by_role("dialog", name="Close this session?")
            expect(asked).to_contain_text("Marked absent: ")
            asked.get_by_role("button", name="Close session").click()
            expect(finding(page)).to_contain_text("27 of 28 have submitted, 1 absent.")
            self.judge(page, server)

    def bring_people(self, page: Page, folder: Path) -> None:
        page.get_by_role("link", name="People").click()
        expect(finding(page)).to_contain_text("No one is here yet.")
        page.set_input_files("input[type=file]", folder / "roster.zip")
        page.get_by_role("button", name="Apply all").click()
        expect(page.get_by_text("Done.")).to_be_visible()
        expect(finding(page)).to_contain_text("28 students and 5 staff in 2 classes.")
        check_accessible(self, page)
        page.set_input_files("input[type=file]", folder / "roster.zip")
        expect(page.get_by_text("Nothing to do: all of it is here already.")).to_be_visible()

    def bring_items(self, page: Page, folder: Path) -> None:
        page.get_by_role("link", name="Bank").click()
        expect(finding(page)).to_contain_text("The bank is empty.")
        page.set_input_files("input[type=file]", folder / "items.csv")
        page.get_by_role("button", name="Apply all").click()
        expect(page.get_by_text("Done.")).to_be_visible()
        page.set_input_files("input[type=file]", folder / "package.zip")
        page.get_by_role("button", name="Apply all").click()
        expect(finding(page)).to_contain_text("25 items for")
        check_accessible(self, page)

    def make_a_form(self, page: Page) -> None:
        page.get_by_role("link", name="Tests").click()
        page.get_by_label("Name (staff only)").fill("Walk mathematics")
        page.get_by_label("Subject").fill("Mathematics")
        page.get_by_label("Grade").fill("5")
        page.get_by_role("button", name="Choose its items").click()
        for at in range(1, 13):
            page.get_by_role("button", name=f"Add HM5-{at:02d}", exact=True).click()
        expect(page.get_by_role("status")).to_have_text("Saved")
        last = page.locator("[data-place='11']")
        last.focus()
        last.press("Alt+ArrowUp")
        last = page.locator("[data-place='11']")
        expect(last).to_contain_text("HM5-11")
        expect(page.locator("[data-place='10']")).to_be_focused()  # the moved row takes the focus along
        last.press("Alt+ArrowUp")
        expect(page.locator("[data-place='11']")).to_contain_text("HM5-12")
        check_accessible(self, page)
        page.get_by_role("button", name="Publish").click()
        page.get_by_role("button", name="Publish with").click()
        expect(finding(page)).to_contain_text("12 items, 12 points, 6 standards; published")

    def plan(self, page: Page) -> dict[str, str]:
        """Plans the session; returns the students' own codes by name, and the session's under "session"."""
        page.get_by_role("link", name="Schedule session").click()
        page.get_by_label("Mathematics 5.1").check()
        check_accessible(self, page)
        page.get_by_role("button", name="Schedule session", exact=True).click()
        klass, reason = page.get_by_role("link", name="Mathematics 5.1"), page.get_by_label("Reason (kept in the log)")
        klass.or_(reason).first.wait_for()
        if reason.is_visible():  # a weekend, on which whoever schedules says why
            reason.fill("a trial run")
            page.get_by_role("button", name="Schedule session", exact=True).click()
        klass.click()
        expect(page.get_by_text("live", exact=True)).to_be_visible()
        expect(finding(page)).to_contain_text("0 of 28 have submitted, 28 have not started.")
        check_accessible(self, page)
        rows = page.locator("tbody tr")
        codes = {}
        for row in rows.all():
            _, name, code, *_ = row.locator("td").all_inner_texts()  # the first is to select them by
            codes[name] = code
        codes["session"] = page.locator("section.sheet .font-mono").inner_text().strip()
        return codes

    def sit(self, page: Page, server: Served, codes: dict[str, str], true: dict[str, dict[str, str]]) -> None:
        """One student in the browser, the others by the same calls; the session page is watched meanwhile."""
        self.answers: dict[str, dict[str, str]] = {}
        session = codes.pop("session")
        names = sorted(codes)
        rng = random.Random(SEED)
        self.form = [f"HM5-{at:02d}" for at in range(1, 13)]
        in_browser, absent, others = names[0], names[1], names[2:]
        self.absent = absent
        self.sit_in_browser(server, session, in_browser, codes[in_browser], true)
        expect(finding(page)).to_contain_text("1 of 28 have submitted, 27 have not started.")
        for at, name in enumerate(others):
            strength = (at + 0.5) / len(others)
            given = {code: self.draw(true[code], strength, rng) for code in self.form}
            self.answers[name] = given
            sit_by_calls(server, session, codes[name], self.form, given)
        expect(finding(page)).to_contain_text("27 of 28 have submitted, 1 has not started.")

    @staticmethod
    def draw(item: dict[str, str], strength: float, rng: random.Random) -> str:
        if rng.random() < 0.25 + 0.7 * strength:
            return item["key"]
        if item["type"] == "numeric":
            return str(rng.randrange(90, 99))
        return rng.choice([letter for letter in "ABCD" if letter != item["key"]])

    def sit_in_browser(
        self, server: Served, session: str, name: str, code: str, true: dict[str, dict[str, str]]
    ) -> None:
        phone = self.page(server, width=360, height=740)
        phone.get_by_label("Session or class code").fill(session.lower())
        phone.get_by_label("Your sign-in code").fill("XXXXX")
        phone.get_by_role("button", name="Next").click()
        expect(phone.get_by_role("alert")).to_contain_text("this code is not on the list of this session")
        phone.get_by_label("Your sign-in code").fill(code)
        phone.get_by_role("button", name="Next").click()
        asked = phone.get_by_role("group", name=f"Are you {name}")
        expect(asked).to_be_visible()
        check_accessible(self, phone)
        asked.get_by_role("button", name="Yes, start").click()
        expect(phone.get_by_role("status")).to_have_text("Saved")
        check_accessible(self, phone)
        width = phone.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(width, 360, "nothing is wider than a phone")
        given: dict[str, str] = {}
        for at, item in enumerate(self.form):
            key = true[item]["key"]
            shown = phone.evaluate("performance.now()")
            if true[item]["type"] == "numeric":
                phone.get_by_label("Your answer, a number").fill(key)
            elif at % 2:
                phone.keyboard.press(key.lower())
            else:
                phone.locator("label", has=phone.locator(f"input[value={key}]")).click()
            given[item] = key
            if at == 4:
                expect(phone.get_by_role("status")).to_have_text("Saved")
                phone.reload()
                expect(phone.get_by_role("button", name="Question 5 of 12; show all")).to_be_visible()
            if at == 7:  # left open, noticed at the end
                phone.get_by_role("button", name="Clear answer").or_(
                    phone.get_by_label("Your answer, a number")
                ).first.evaluate(
                    "e => e.tagName === 'BUTTON' ? e.click() : (e.value = '', e.dispatchEvent(new Event('input', {bubbles: true})))"
                )
                given[item] = ""
                # a blank that was before the student for less than a second counts as not reached, not as omitted
                phone.wait_for_function("since => performance.now() - since > 1200", arg=shown)
            phone.get_by_role("button", name="Finish" if at == 11 else "Next", exact=True).click()
        expect(finding(phone)).to_have_text("1 of 12 questions is not answered yet.")
        phone.get_by_role("button", name="Question 8, open").click()
        phone.get_by_role("button", name="Question 8 of 12; show all").click()
        check_accessible(self, phone)
        phone.get_by_role("button", name="Submit with 1 unanswered").click()
        expect(finding(phone)).to_contain_text("Your answers are in")
        self.answers[name] = given

    def judge(self, page: Page, server: Served) -> None:
        page.get_by_role("link", name="View item quality").click()
        expect(finding(page)).to_contain_text("probably carries a wrong key")
        number = self.form.index(WRONG_KEY) + 1
        self.assertTrue(finding(page).inner_text().startswith(f"Item {number} probably carries a wrong key"))
        expect(finding(page)).to_contain_text("27 took the 12 items, 1 absent.")
        check_accessible(self, page)
        keys = {
            row["code"]: row["key"]
            for row in csv.DictReader(io.StringIO(with_wrong_key(sample_files()["items.csv"])[0].decode()))
        }
        points = [[float(answers[code] == keys[code]) for code in self.form] for answers in self.answers.values()]
        alpha, rests = work_out(points)
        expect(finding(page).get_by_role("button", name=f".{round(alpha * 100):02d}")).to_be_visible()
        page.get_by_label("Items").get_by_role("button", name="Item", exact=True).click()
        rows = page.get_by_label("Items").locator("tbody tr")
        for at, row in enumerate(rows.all()):
            cells = row.locator("td").all_inner_texts()
            p = statistics.fmean(row_points[at] for row_points in points)
            self.assertEqual(cells[2].strip(), f"{math.floor(p * 100 + 0.5)}%", f"p of item {at + 1}")
            shown = float(cells[4].replace("−", "-").strip())
            self.assertAlmostEqual(shown, rests[at], delta=0.0051, msg=f"item-rest correlation of item {at + 1}")
        page.get_by_role("button", name="mean of 12").click()
        mean = statistics.fmean(sum(row) for row in points)
        workings = page.get_by_label("How this was calculated")
        expect(workings).to_contain_text(f"{mean:.1f}")
        expect(workings).to_contain_text("Excluded: 1 absent")
        page.keyboard.press("Shift+V")
        rows.nth(number - 1).click()
        expect(workings).to_contain_text(f"Item {number} ·")
        page.get_by_role("link", name="Who gave which answer").click()
        who = page.get_by_role("region", name="Who gave which answer")
        who.locator("summary").first.click()
        expect(who.locator("details").first).to_contain_text("Student ")
        text = page.locator("main").inner_text()
        self.assertFalse([name for name in self.answers if name in text], "the veil hides every name")


def sit_by_calls(server: Served, session: str, code: str, form: list[str], given: dict[str, str]) -> None:
    with httpx.Client(base_url=server.address, timeout=60) as client:
        joined = client.post("/api/sit/join", json={"session_code": session, "own_code": code}).raise_for_status()
        headers = {"x-bildung-csrf": joined.json()["csrf"]}
        paper: Any = client.get("/api/sit/paper").json()
        body = [
            {
                "id": f"{code}-{q['number']:04d}",
                "question": q["id"],
                "answer": given[form[q["number"] - 1]],
                "takeover": paper["takeover"],
                "sequence": q["number"],
            }
            for q in paper["questions"]
        ]
        receipt = client.post("/api/sit/answers", json={"answers": body}, headers=headers).raise_for_status().json()
        assert not receipt["refused"], receipt
        client.post("/api/sit/hand-in", headers=headers).raise_for_status()


def work_out(points: list[list[float]]) -> tuple[float, list[float]]:
    """Alpha and item-rest correlations by the textbook, in plain Python."""
    k = len(points[0])
    totals = [sum(row) for row in points]
    variances = [statistics.variance([row[j] for row in points]) for j in range(k)]
    alpha = k / (k - 1) * (1 - sum(variances) / statistics.variance(totals))
    rests = [
        statistics.correlation(
            [row[j] for row in points], [total - row[j] for row, total in zip(points, totals, strict=True)]
        )
        for j in range(k)
    ]
    return alpha, rests


if __name__ == "__main__":
    unittest.main()
