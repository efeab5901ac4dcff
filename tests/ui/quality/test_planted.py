"""Every planted finding of docs/demo.md, read in the interface where a person would read it."""

from __future__ import annotations

import re
import unittest
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.ui.browser import DemoCase, finding

DOCS = Path(__file__).parents[3] / "docs" / "demo.md"


def planted() -> list[str]:
    """The first column of the table of plants."""
    table = DOCS.read_text().split("| planted | where |", 1)[1].split("\n\n", 1)[0]
    return [line.split("|")[1].strip() for line in table.splitlines()[2:]]


class Gallery(DemoCase):
    page_: Page

    def at(self, path: str, said: str | re.Pattern[str] = "") -> Page:
        """At a page whose finding says so."""
        self.page_.goto(self.server.address + path)
        if said:
            expect(finding(self.page_)).to_contain_text(said)
        return self.page_

    def row(self, number: int) -> str:
        return f"tbody tr:has(td:first-child:text-is('{number}'), td:first-child :text-is('{number}'))"

    def test_each_line_of_the_table_is_found(self) -> None:
        self.page_ = self.enter("coordinator")
        looks: dict[str, Callable[[], None]] = {
            "a wrong key": self.wrong_key,
            "a standard too thinly covered": self.thinly_covered,
            "a second right answer": self.second_right_answer,
            "an idle distractor": self.idle_distractor,
            "an item that favors a group": self.favors_a_group,
            "a class taught differently": self.taught_differently,
            "a mistake in several items": self.same_mistake,
            "too little time": self.too_little_time,
            "hasty students": self.hasty,
            "a severe marker": self.severe_marker,
            "roster errors": self.roster_errors,
            "accommodations": self.needs,
            "a class behind its pacing guide": self.behind_plan,
            "a newcomer at the door": self.newcomer,
            "small groups": self.small_groups,
            "absentees": self.absentees,
        }
        self.assertEqual(
            sorted(looks), sorted(planted()), "every line of the table has its look, and the other way round"
        )
        for name, look in looks.items():
            with self.subTest(planted=name):
                look()

    def wrong_key(self) -> None:
        self.at("/quality", "2 have an item that may be wrong")
        first = self.page_.locator("tbody tr").first
        expect(first).to_contain_text("Fall mathematics 6")
        expect(first).to_contain_text("Item 14 probably carries a wrong key")
        page = self.at(self.look("Fall mathematics 6"), "Item 14 probably carries a wrong key")
        expect(page.get_by_label("Items").locator("tbody tr").first).to_contain_text("possible wrong key (A)")
        self.at(self.look("Fall mathematics 6", "item", item="M6-14"), "possible wrong key")
        moved = page.get_by_role("region", name="What would change")
        expect(moved).to_contain_text(re.compile("With A as the key 13 of 116 would have fewer points and 64 of 116"))
        expect(page.get_by_text("Earlier", exact=True)).to_be_visible()
        last = min(
            (t for t in self.client().get("/api/quality").json()["tests"] if t["form"] == "Fall mathematics 6"),
            key=lambda t: t["latest"],
        )
        self.at(
            f"/quality/look?form={last['form_id']}&window={last['window_id']}", "Item 14 probably carries a wrong key"
        )

    def thinly_covered(self) -> None:
        page = self.at(self.look("Fall mathematics 6", "trust"))
        covered = page.get_by_role("region", name="Coverage")
        expect(covered).to_contain_text("by sound items alone BAF-M6.2 falls short of the blueprint")
        expect(covered.locator("tr", has_text="BAF-M6.2").locator("td").last).to_have_text("5")

    def second_right_answer(self) -> None:
        page = self.at(self.look("Fall mathematics 7"), "Item 14 may have a second right answer, A.")
        expect(page.get_by_label("Items").locator(self.row(14))).to_contain_text("possible second right answer (A)")
        problems = [
            (t["form"], t["first"][0]["text"].split(" ")[1])
            for t in self.client().get("/api/quality").json()["tests"]
            if t["first"][0]["text"].startswith("Item ")
        ]
        self.assertEqual({p for p in problems}, {("Fall mathematics 6", "14"), ("Fall mathematics 7", "14")})

    def idle_distractor(self) -> None:
        page = self.at(self.look("Fall reading 7"))
        expect(page.get_by_label("Items").locator(self.row(9))).to_contain_text("idle distractor")

    def favors_a_group(self) -> None:
        page = self.at(
            self.look("Fall mathematics 8", "groups", by="lives on"),
            "Under 200 in a group: exploratory, no sizes are stated. Item 10 is easier for the island",
        )
        first = page.get_by_label("Items, matched groups").locator("tbody tr").first
        expect(first).to_contain_text("take it as a question")
        expect(first.locator("td").nth(5)).to_have_text("")

    def taught_differently(self) -> None:
        self.at(
            self.look("Fall mathematics 7", "classes", of="standard"),
            "(BAF-M7.1) is low in Mathematics 7.2 alone",
        )
        klass = next(
            c["id"]
            for c in self.client().get("/api/sessions/choices").json()["classes"]
            if c["title"] == "Mathematics 7.2"
        )
        page = self.at(self.look("Fall mathematics 7", "reteach", of=klass), "Mathematics 7.2")
        expect(page.get_by_role("heading", level=2).first).to_have_text("Add, subtract and multiply integers")

    def same_mistake(self) -> None:
        page = self.at(
            self.look("Fall mathematics 6", "mistakes"), "“adds tops and bottoms” is shown by 12 of 116 students"
        )
        first = page.get_by_label("adds tops and bottoms", exact=True)
        expect(first.get_by_role("link", name=re.compile("^item"))).to_have_count(6)
        expect(first).to_contain_text("(6.")

    def too_little_time(self) -> None:
        page = self.at(
            self.look("Fall reading 8", "effort"), "65% reached the last item: the time was too short for the others."
        )
        self.at(self.look("Fall reading 8"), "7 to review")
        expect(page.get_by_label("Items").locator(self.row(34))).to_contain_text("often not reached")

    def hasty(self) -> None:
        page = self.at(
            self.look("Fall reading 7", "effort"),
            re.compile(
                r"252 answers came too fast to be meant; 14 students gave many of them. Without those the mean is 64% instead of 62%"
            ),
        )
        expect(page.get_by_role("columnheader", name="Rapid").first).to_be_visible()

    def severe_marker(self) -> None:
        wanted = self.look("Task mathematics 8")
        page = self.at(wanted, "Of 2 items")
        page.get_by_label("Items").locator("tbody tr").first.dblclick()
        expect(page).to_have_url(re.compile("/quality/look/item"))
        pair = page.get_by_role("region", name="Double-scored")
        expect(pair).to_contain_text("Liv Marwan")
        expect(pair).to_contain_text("Umar Quist")
        expect(pair).to_contain_text(re.compile(r"0?\.74"))

    def roster_errors(self) -> None:
        page = self.at("/people/check", "discrepancies")
        for said in ("Asha Berkan", "Ludo Okafor-Brandt", "BM-S0150 and BM-S0362", "Reading 8.5 has no teacher"):
            expect(page.get_by_text(said).first).to_be_visible()

    def needs(self) -> None:
        page = self.at("/people/groups", "6 groups, 3 by a rule.")
        expect(page.get_by_text("Extended time, grade 6").first).to_be_visible()

    def behind_plan(self) -> None:
        self.at("/people/plans/2", re.compile(r"Mathematics 7\.3 is \d lessons behind"))

    def newcomer(self) -> None:
        page = self.at("/people/classes/1", "Mathematics 6.1")
        expect(page.get_by_text("Teodor Lindqvist-Aas").first).to_be_visible()

    def small_groups(self) -> None:
        page = self.at(self.look("Fall reading 7", "groups", by="home language"))
        expect(page.get_by_label("Groups compared").get_by_text("hidden", exact=True).first).to_be_visible()

    def absentees(self) -> None:
        page = self.at(self.look("Fall mathematics 7"), "110 took the 34 items, 10 absent.")
        page.get_by_role("button", name="alpha").first.click()
        expect(page.get_by_label("How this was calculated")).to_contain_text("Excluded: 10 absent")


if __name__ == "__main__":
    unittest.main()
