"""The bank in the browser: five items written and tried as a new writer would, every kind answered on a phone."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import httpx2 as httpx
from playwright.sync_api import Page, expect

from tests.ui.browser import DemoCase, check_accessible, choose, finding, give_codes


class Writing(DemoCase):
    """As an item writer, from an empty page to an item that somebody else says is ready."""

    def begin(self, page: Page, code: str, kind: str, question: str) -> None:
        page.goto(f"{self.server.address}/bank")
        page.get_by_role("button", name="New item").click()
        page.get_by_label("Item code").fill(code)
        page.get_by_role("button", name="Create").click()
        finding(page).filter(has_text=f"{code}: draft of version 1").wait_for()
        if kind:
            choose(page, "Kind of answer", kind)
        self.write(page, "Question", question)

    def write(self, page: Page, field: str, text: str) -> None:
        page.get_by_role("textbox", name=field, exact=True).click()
        page.keyboard.type(text)

    def whole(self, page: Page) -> None:
        expect(finding(page)).to_contain_text("complete.")
        expect(page.get_by_text("Saved", exact=True)).to_be_visible()

    def scored(self, page: Page, said: str) -> None:
        expect(page.get_by_label("Preview").get_by_text(said)).to_be_visible()

    def test_five_kinds_written_tried_and_reviewed(self) -> None:
        page = self.enter("writer")

        self.begin(page, "W-CHOICE", "", "Which is half of 9?")
        for letter, text in zip("ABCD", ("4.5", "18", "4", "5"), strict=True):
            self.write(page, f"choice {letter}", text)
        page.get_by_label("Misconception behind B").fill("doubles")
        self.whole(page)
        preview = page.get_by_label("Preview")
        preview.get_by_text("18").click()
        self.scored(page, "0 of 1 point.")
        preview.get_by_text("4.5").click()
        self.scored(page, "1 of 1 point.")
        check_accessible(self, page)

        self.begin(page, "W-NUMBER", "Numeric entry", "How much is ")
        page.get_by_role("toolbar", name="Question: formatting").get_by_label("Formula").click()
        expect(page.locator("math-field")).to_be_focused()
        page.keyboard.type("1/2")
        page.get_by_role("button", name="Insert").click()
        self.write(page, "Question", " of 9?")
        page.get_by_label("Correct numbers").fill("4.5")
        page.get_by_label("Unit shown after the field").fill("m")
        self.whole(page)
        expect(preview.locator("math mfrac")).to_be_visible()
        preview.get_by_label("Your answer, a number").fill("9/2 m")
        self.scored(page, "1 of 1 point.")
        preview.get_by_label("Your answer, a number").fill("4.5 km")
        self.scored(page, "0 of 1 point.")

        self.begin(page, "W-SORT", "Sorting", "Sort the numbers.")
        for at, text in enumerate(("2", "4", "3", "5"), 1):
            self.write(page, f"thing r{at}", text)
        self.write(page, "category c1", "even")
        self.write(page, "category c2", "odd")
        self.whole(page)
        for thing, place in (("2", "even"), ("4", "even"), ("3", "odd"), ("5", "even")):
            preview.get_by_role("button", name=thing, exact=True).press("Enter")
            preview.get_by_role("button", name=f"{place} put it here").click()
        self.scored(page, "1.5 of 2 points.")

        self.begin(page, "W-GAP", "", "7 + ")
        page.get_by_role("toolbar", name="Question: formatting").get_by_label("A gap to write in").click()
        page.keyboard.type(" = 12")
        page.get_by_label("Correct numbers").fill("5")
        self.whole(page)
        preview.get_by_label("Gap 1").fill("5")
        self.scored(page, "1 of 1 point.")

        self.begin(page, "W-TALK", "Constructed response", "Is the ferry too loud?")
        for at, text in enumerate(("nothing", "a view", "a view with a reason"), 1):
            page.get_by_label(f"Description of level {at}").first.fill(text)
        self.whole(page)
        preview.get_by_label("Your answer").fill("Yes, at five in the morning.")
        self.scored(page, "0 of 4 points so far; a person marks the rest.")
        check_accessible(self, page)
        expect(page.get_by_role("button", name="Publish version 1")).to_have_count(0)
        page.get_by_role("button", name="Ask for review").click()
        expect(finding(page)).to_contain_text("in review")
        address = page.url

        boss = self.enter("coordinator")
        boss.goto(address)
        boss.get_by_role("button", name="Publish version 1").click()
        expect(finding(boss)).to_have_text("W-TALK is ready, not used yet.")
        boss.get_by_label("Add a comment").fill("Good to talk about.")
        boss.get_by_role("button", name="Post").click()
        expect(finding(boss)).to_contain_text("1 open comment.")

    def test_a_second_writer_is_told_and_nothing_is_lost(self) -> None:
        page = self.enter("writer")
        self.begin(page, "W-TWO", "Short text", "The capital of the island?")
        page.get_by_label("Correct answers, separated by |").fill("Skerrow")
        self.whole(page)
        client = self.client()
        path = f"/api/bank/items/{page.url.split('/')[-2]}/draft"
        draft = client.post(path).json()
        draft["content"]["shown"]["body"] = "<p>Theirs</p>"
        saved = {name: draft[name] for name in ("revision", "content", "standards", "template", "stimulus_id")}
        client.put(path, json=saved).raise_for_status()
        self.write(page, "Question", " Mine")
        expect(page.get_by_text("Hanne Quill changed this item in the meantime")).to_be_visible()
        expect(page.get_by_role("textbox", name="Question", exact=True)).to_contain_text("Mine")
        page.get_by_role("button", name="Open the current version").click()
        expect(page.get_by_role("textbox", name="Question", exact=True)).to_have_text("Theirs")

    def test_a_template_shows_its_draws_and_what_is_wrong_with_them(self) -> None:
        page = self.enter("coordinator", "/bank?find=code:T6-RATIO")
        page.get_by_role("link", name="Open", exact=True).click()
        page.get_by_role("link", name="Write the next version").click()
        page.get_by_role("button", name="Show ten draws").click()
        expect(page.get_by_text("All of 200 draws can be used")).to_be_visible()
        page.get_by_label("Conditions, one per line").fill("")
        page.get_by_label("Conditions, one per line").blur()
        page.get_by_role("button", name="Show ten draws").click()
        expect(page.get_by_text("two options say the same").first).to_be_visible()
        expect(finding(page)).to_contain_text("1 problem to fix")

    def test_found_tagged_and_taken_back(self) -> None:
        page = self.enter("coordinator", "/bank")
        page.get_by_label("Find items").fill("type:line grade:6,7,8")
        expect(page.get_by_text("4 items.")).to_be_visible()
        self.assertIn("find=type", page.url)
        page.get_by_role("button", name="Filter").click()
        choose(page, "Depth", "depth 2")
        expect(page.get_by_label("Find items")).to_have_value("type:line grade:6,7,8 depth:2")
        page.get_by_label("Find items").fill("type:line color:red")
        expect(page.get_by_role("alert")).to_contain_text("color: is not known")
        page.get_by_label("Find items").fill("type:line grade:6,7,8")
        page.get_by_role("button", name="Tag all 4").click()
        page.get_by_label("Add keyword").fill("on a line")
        page.get_by_role("button", name="Preview").click()
        expect(page.get_by_text("4 of 4 items would change.")).to_be_visible()
        page.get_by_role("button", name="Apply").click()
        expect(page.get_by_text("4 items were changed.")).to_be_visible()
        check_accessible(self, page)
        page.get_by_text("Earlier changes").click()
        page.get_by_role("button", name="Undo").first.click()
        expect(page.get_by_text("Undone for 4 items.")).to_be_visible()

    def test_what_an_export_leaves_behind_is_said_before(self) -> None:
        page = self.enter("coordinator", "/bank?find=label:%22other%20kinds%22")
        page.get_by_role("button", name="Export").click()
        expect(page.get_by_text("lose some content")).to_be_visible()
        page.get_by_role("radio", name="CSV").check()
        expect(page.get_by_text("a sheet has no items of the kind match").first).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name="Download").click()
        self.assertEqual(download.value.suggested_filename, "items.csv")


class EveryKind(DemoCase):
    """A student with a phone, and one item of every kind that the demo has."""

    KINDS = (
        "choice",
        "multiple",
        "numeric",
        "text",
        "gap",
        "inline_choice",
        "order",
        "match",
        "category",
        "hot_text",
        "line",
        "point",
        "writing",
        "reason",
        "two_part",
        "several",
    )

    def paper(self, client: httpx.Client, name: str = "Every kind", klass: str = "Mathematics 6.2") -> tuple[str, str]:
        """A session that is open now, of one form with an item of each kind; its code and a student's."""
        ids = []
        for kind in self.KINDS:
            line = f"type:{kind} -is:template" + (" grade:K" if kind == "numeric" else "")
            ids.append(
                client.get("/api/bank/items", params={"find": line, "limit": 1}).json()["items"][0]["item"][
                    "version_id"
                ]
            )
        form = client.post("/api/forms", json={"name": name, "title": "A bit of everything"}).json()
        form = client.put(f"/api/forms/{form['id']}/items", json={"revision": form["revision"], "items": ids}).json()
        client.post(f"/api/forms/{form['id']}/publish", json={"revision": form["revision"]}).raise_for_status()
        choices = client.get("/api/sessions/choices").json()
        now = datetime.now(UTC)
        made = client.post(
            "/api/sessions",
            json={
                "form_id": form["id"],
                "window_id": client.get("/api/calendar").json()["windows"][-1]["id"],
                "class_ids": [next(c["id"] for c in choices["classes"] if c["title"] == klass)],
                "start": (now - timedelta(minutes=2)).isoformat(),
                "end": (now + timedelta(minutes=50)).isoformat(),
                "why": "a test may run on any day",
            },
        ).raise_for_status()
        self.session = made.json()["ids"][0]
        detail = client.get(f"/api/sessions/{self.session}").json()
        return detail["session"]["code"], detail["sittings"][0]["code"]

    def test_each_can_be_answered_by_touch_and_keys_at_360_and_comes_back_after_a_reload(self) -> None:
        client = self.client()
        session, own = self.paper(client)
        page = self.page(self.server, 360, 740)
        give_codes(page, session, own)
        page.wait_for_selector("#question")
        for at, kind in enumerate(self.KINDS):
            if at:
                page.get_by_role("button", name="Next").click()
            expect(page.locator("#question").get_by_text(f"{at + 1}.", exact=True)).to_be_visible()
            self.answer(page, kind)
            check_accessible(self, page)
            wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
            self.assertLessEqual(wide, 0, f"{kind} fits a phone")
        expect(page.get_by_text("Saved")).to_be_visible()
        page.reload()
        page.wait_for_selector("#question")
        page.get_by_role("button", name="show all").click()
        expect(page.get_by_role("heading", name="You have answered everything.")).to_be_visible()
        page.get_by_role("button", name="Submit").click()
        expect(page.get_by_role("heading", name="Your answers are in")).to_be_visible()
        client.post(f"/api/sessions/{self.session}/close", json={}).raise_for_status()

    HERE = """() => {
        const a = document.activeElement;
        if (!a || !a.closest('#question')) return null;
        const row = a.closest('div.my-3');
        return {
            tag: a.tagName, type: a.type ?? '', role: a.getAttribute('role') ?? '', text: a.textContent.trim(),
            label: a.getAttribute('aria-label') ?? '', loose: !!a.closest('[data-column=""]'),
            first: !!row && row.querySelector('button') === a
        };
    }"""

    def answer_by_keys(self, page: Page) -> None:
        """Tab from the top of the question to its end, and do with each thing what its role says can be done."""
        page.evaluate("document.getElementById('question').focus()")
        ticked = 0
        for _ in range(60):
            page.keyboard.press("Tab")
            here = page.evaluate(self.HERE)
            if here is None:
                return
            if here["tag"] == "INPUT" and here["type"] == "radio":
                page.keyboard.press("Space")
            elif here["type"] == "checkbox" or here["role"] == "checkbox":
                if ticked < 2:
                    page.keyboard.press("Space")
                ticked += 1
            elif here["type"] == "range":
                page.keyboard.press("ArrowRight")
            elif here["tag"] == "TEXTAREA":
                page.keyboard.type("Because the numbers say so.")
            elif here["tag"] == "INPUT":
                page.keyboard.type("4")
            elif here["tag"] == "SELECT" or here["role"] == "slider":
                page.keyboard.press("ArrowDown" if here["tag"] == "SELECT" else "ArrowRight")
            elif here["label"].startswith("Place 2"):
                page.keyboard.press("ArrowUp")
            elif here["label"].endswith("arrow keys move it") and "oint" in here["label"]:
                page.keyboard.press("ArrowRight")
            elif here["loose"] or here["first"] or "put it here" in here["text"]:
                page.keyboard.press("Enter")

    def test_each_can_be_answered_by_keyboard_only(self) -> None:
        session, own = self.paper(self.client(), "Every kind by keys", "Mathematics 6.1")
        page = self.page(self.server)
        give_codes(page, session, own)
        page.wait_for_selector("#question")
        for at, kind in enumerate(self.KINDS):
            expect(page.locator("#question").get_by_text(f"{at + 1}.", exact=True)).to_be_visible()
            done = page.get_by_role("button", name=f"Question {at + 1}, answered")
            for _ in range(14):
                self.answer_by_keys(page)
                if done.count():
                    break
            expect(done, kind).to_have_count(1)
            check_accessible(self, page)
            if at + 1 < len(self.KINDS):
                for _ in range(60):
                    page.keyboard.press("Tab")
                    if page.evaluate("document.activeElement?.textContent?.trim()") == "Next":
                        break
                page.keyboard.press("Enter")
        expect(page.get_by_role("status")).to_have_text("Saved")

    def answer(self, page: Page, kind: str) -> None:
        here = page.locator("#question")
        if kind in ("choice", "reason", "two_part", "several"):
            for group in here.locator("fieldset").all():
                group.locator("label").first.click()
        if kind == "multiple":
            here.get_by_role("checkbox").nth(0).check()
            here.get_by_role("checkbox").nth(1).check()
        if kind == "numeric":
            here.get_by_role("button", name="A counter").click()
            expect(here.get_by_label("Counter; arrow keys move it")).to_be_visible()
            here.get_by_label("Your answer, a number").fill("6")
        if kind == "text":
            here.get_by_label("Your answer").fill("a cylinder")
        if kind in ("gap", "several") and here.locator("input.gap").count():
            for field in here.locator("input.gap").all():
                field.fill("4")
        for menu in here.locator("select.gap").all():
            menu.select_option(index=1)
        if kind in ("two_part", "several"):
            for field in here.locator("input.input[type=text]").all():
                field.fill("4")
        if kind == "order":
            here.get_by_label("Place 2").press("ArrowUp")
        if kind == "match":
            rows = here.locator("div.my-3")
            for at in range(rows.count()):
                rows.nth(at).get_by_role("button").first.click()
        if kind == "category":
            while here.get_by_text("All are sorted.").count() == 0:
                here.locator("[data-column='']").get_by_role("button").first.press("Enter")
                here.get_by_role("button", name="put it here").first.click()
        if kind == "hot_text":
            here.get_by_role("checkbox").nth(1).press("Enter")
        if kind == "line":
            here.get_by_role("slider").press("ArrowRight")
        if kind == "point":
            here.get_by_role("button", name="arrow keys move it").click(position={"x": 40, "y": 40})
        for text in here.locator("textarea").all():
            text.fill("Because the numbers say so.")
