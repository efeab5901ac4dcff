"""From a measure to what two windows say, and a measure of one's own with its scores."""

from __future__ import annotations

import csv
import io
import random
import re
import unittest

from playwright.sync_api import expect

from tests.ui.browser import DemoCase, check_accessible, check_words, finding


class Growth(DemoCase):
    def bring_winter(self) -> None:
        """The next window's scores, made out of those of the last one that are there: a file written by hand."""
        client = self.client()
        measure = next(m for m in client.get("/api/growth").json()["measures"] if m["windows"])
        last = measure["windows"][-1]
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

    def test_two_windows_are_compared(self) -> None:
        self.bring_winter()
        page = self.enter("coordinator", "/growth")
        expect(finding(page)).to_contain_text("Reading")
        check_accessible(self, page)
        page.get_by_role("link", name="Compare windows").click()
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
        row.get_by_role("button", name="Import scores").click()
        page.get_by_label("Or paste a table with headings").fill(
            "student,grade,window,week,score\nnobody,6,Fall,2,40\n"
        )
        page.get_by_role("button", name="Preview").click()
        expect(page.get_by_text("no student has this number")).to_be_visible()
        row.get_by_role("button", name="Add norms").click()
        form = page.get_by_role("region", name="Norms of Tally count")
        for label in ("Name", "Version", "Source, such as the report and table", "Population in words"):
            form.get_by_label(label).fill("made up")
        form.get_by_label(re.compile("^Norms")).fill("subject,grade,week,mean,sd\nMathematics,6,2,40,0\n")
        form.get_by_role("button", name="Save norms").click()
        expect(form.get_by_text("a number above 0")).to_be_visible()
        form.get_by_label(re.compile("^Norms")).fill("subject,grade,week,mean,sd\nMathematics,6,2,40,9\n")
        form.get_by_role("button", name="Save norms").click()
        expect(row).to_contain_text("made up, version made up")
        self.errors.clear()


if __name__ == "__main__":
    unittest.main()
