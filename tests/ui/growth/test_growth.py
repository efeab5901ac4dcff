"""From a measure to what two windows say, who is on track, and what teachers conclude; a measure of one's own with its scores."""

from __future__ import annotations

import csv
import io
import random
import re
import unittest
from datetime import date, timedelta

from playwright.sync_api import Page, expect

from tests.ui.browser import DemoCase, check_accessible, check_words, choose, finding, type_date


class Growth(DemoCase):
    def bring_winter(self) -> str:
        """The next window's scores, made out of those of the last one that are there: a file written by hand. Id of the measure."""
        client = self.client()
        measure = next(m for m in client.get("/api/growth").json()["measures"] if m["name"] == "Tideline Reading")
        last = [w for w in measure["windows"] if w["name"].startswith("Fall")][-1]
        coming = next(w for w in client.get("/api/calendar").json()["windows"] if w["start"] > last["start"])
        rng = random.Random(3)
        lines = ["student,grade,window,week,score,se"]
        for row in csv.DictReader(
            io.StringIO(client.get(f"/api/growth/measures/{measure['id']}/scores.csv").content.decode("utf-8-sig"))
        ):
            if row["window"] == last["name"]:
                later = round(float(row["score"]) + 4 + rng.gauss(0, 6))
                name = f"{coming['name']} {coming['start'][:4]}"
                lines.append(f"{row['student']},{row['grade']},{name},14,{later},4")
        files = {"files": ("winter.csv", "\n".join(lines).encode())}
        at = f"/api/growth/measures/{measure['id']}/imports"
        seen = client.post(at, files=files).json()
        self.assertEqual(seen["counts"]["left_out"], 0, seen)
        client.post(f"{at}/{seen['id']}/apply", json={}).raise_for_status()
        return str(measure["id"])

    def row(self, page: Page, name: str):  # type: ignore[no-untyped-def]
        return page.get_by_role("row").filter(has=page.get_by_role("link", name=name, exact=True))

    def test_two_windows_levels_and_who_is_on_track(self) -> None:
        measure = self.bring_winter()
        page = self.enter("coordinator", "/today")
        page.get_by_role("region", name="Growth").get_by_role("link", name=re.compile("Tideline Reading")).click()
        expect(finding(page)).to_contain_text(re.compile(r"Of [\d,]+ students \d+% grew as expected or more"))
        expect(finding(page)).to_contain_text("chance brings")
        check_accessible(self, page)
        check_words(self, page)
        chart = page.get_by_role("region", name="Gain by start")
        dots = chart.locator("circle")
        self.assertGreater(dots.count(), 20)
        named = dots.nth(3).locator("title").text_content() or ""
        page.get_by_label("Find a student").fill(named.split(",")[0])
        page.get_by_role("option").first.click()
        expect(chart).to_contain_text(re.compile("of 100 with the same start"))
        page.get_by_role("button", name="How this was calculated").click()
        expect(page.get_by_text("A class counts students who were in it for at least 80%")).to_be_visible()
        page.get_by_role("radio", name="Ahead").click()
        expect(page.get_by_role("heading", name="Reliably ahead")).to_be_visible()
        chart.get_by_role("link", name="All scores").click()
        expect(page.get_by_role("region", name="Scores in time")).to_be_visible()
        check_accessible(self, page)
        check_words(self, page)

        page.goto(f"{self.server.address}/growth/{measure}/levels")
        expect(finding(page)).to_contain_text("reached Meeting or better")
        choose(page, "Grade", "grade 7")
        expect(page.get_by_role("region", name="Grades")).not_to_contain_text("Grade 8")
        check_accessible(self, page)
        check_words(self, page)

        page.get_by_role("link", name="Projection and goals").click()
        expect(finding(page)).to_contain_text("are on track for Meeting")
        students = page.get_by_role("region", name="Students")
        students.get_by_role("checkbox").first.click()
        students.get_by_role("button", name="Save 1 goal").click()
        expect(page.get_by_text("1 goal saved.")).to_be_visible()
        students.get_by_role("button", name=re.compile("Withdraw the goal")).click()
        expect(students.get_by_role("button", name=re.compile("Withdraw the goal"))).to_have_count(0)
        check_accessible(self, page)
        check_words(self, page)

    def test_a_measure_is_added_and_its_scores_are_looked_at_first(self) -> None:
        page = self.enter("coordinator", "/growth")
        page.get_by_role("button", name="Add a measure").click()
        for label, text in (
            ("Name", "Tally count"),
            ("Subject", "Mathematics"),
            ("Lowest score", "0"),
            ("Highest score", "90"),
        ):
            page.get_by_label(label, exact=True).fill(text)
        page.get_by_role("button", name="Add", exact=True).click()
        row = page.get_by_role("row").filter(has_text="Tally count")
        self.more(page, row, "Import or type scores")
        page.get_by_label("Or paste a table with headings").fill(
            "Local ID,First Name,Last Name,Season,Result\nnobody,A,B,Fall,40\n,Zebedee,Nobodyson,Fall,41\n"
        )
        page.get_by_role("button", name="Preview").click()
        expect(page.get_by_text("Choose what each column contains")).to_be_visible()
        page.get_by_role("button", name="Preview").click()
        expect(page.get_by_text("no student has this number")).to_be_visible()
        page.get_by_role("button", name="Cancel").click()  # of the preview
        page.get_by_role("button", name="Cancel").click()  # of the columns
        self.more(page, row, "Add norms")
        form = page.get_by_role("region", name="Norms of Tally count")
        for label in ("Name", "Version", "Source, such as the report and table", "Population in words"):
            form.get_by_label(label).fill("made up")
        form.get_by_label(re.compile("^Norms")).fill("subject,grade,week,mean,sd\nMathematics,6,2,40,0\n")
        form.get_by_role("button", name="Save norms").click()
        expect(form.get_by_text("a number above 0")).to_be_visible()
        form.get_by_label(re.compile("^Norms")).fill("subject,grade,week,mean,sd\nMathematics,6,2,40,9\n")
        form.get_by_role("button", name="Save norms").click()
        expect(row).to_contain_text("made up, version made up")
        self.more(page, row, "Cut scores")
        page.get_by_role("button", name="Add cut scores").click()
        for label, text in (("Meets from, row 1", "30"), ("Exceeds from, row 1", "20")):
            page.get_by_label(label).fill(text)
        page.get_by_label(re.compile("^Source")).fill("mathematics team")
        page.get_by_role("button", name="Save version 1").click()
        expect(page.get_by_text("each cut score lies above the one before")).to_be_visible()
        page.get_by_label("Exceeds from, row 1").fill("50")
        page.get_by_role("button", name="Save version 1").click()
        expect(finding(page)).to_contain_text("3 levels in version 1; the goal is Meets.")
        check_accessible(self, page)
        check_words(self, page)
        self.errors.clear()

    def more(self, page: Page, row, entry: str) -> None:  # type: ignore[no-untyped-def]
        row.get_by_role("button", name=re.compile("^More about")).click()
        page.get_by_role("menuitem", name=entry).click()

    def test_a_reflection_is_asked_for_written_and_gathered(self) -> None:
        self.bring_winter()
        page = self.enter("coordinator", "/growth/reflections")
        page.get_by_role("button", name="Ask for reflections").click()
        choose(page, "Measure", "Tideline Reading")
        type_date(page, "By", date.today() + timedelta(days=30))
        page.get_by_role("button", name="Ask", exact=True).click()
        expect(finding(page)).to_contain_text("0 of 15 classes have a reflection on Tideline Reading")
        place = page.get_by_role("article").first
        place.get_by_role("button", name="Write").click()
        place.get_by_label("What do you conclude?").fill("Vocabulary held them up.")
        place.get_by_label("What will you do next?").fill("Read aloud twice a week.")
        place.get_by_role("button", name="Save").click()
        expect(place).to_contain_text("Read aloud twice a week.")
        check_accessible(self, page)
        check_words(self, page)


if __name__ == "__main__":
    unittest.main()
