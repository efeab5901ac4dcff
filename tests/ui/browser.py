"""Debian's Chromium through Playwright, and the accessibility check of every page."""

from __future__ import annotations

import json
import re
import shutil
import tempfile
import unittest
from datetime import date
from pathlib import Path
from urllib.parse import urlencode

import httpx2 as httpx
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Locator, Page, Playwright, expect, sync_playwright

from tests.support import Served
from tests.templates import demo_folder
from tests.words.phrases import misplaced

expect.set_options(timeout=20_000)  # a slow machine is not a fault
ARGUMENTS = ["--no-sandbox", "--disable-background-networking", "--disable-component-update", "--disable-sync"]


def give_codes(page: Page, session: str | None = None, own: str | None = None) -> None:
    """At the door: both codes, then the question whose they are. None: filled in already."""
    if session is not None:
        page.get_by_label("Session or class code").fill(session)
    if own is not None:
        page.get_by_label("Your sign-in code").fill(own)
    page.get_by_role("button", name="Next", exact=True).click()
    page.get_by_role("button", name=re.compile("^Yes, ")).click()


class BrowserCase(unittest.TestCase):
    playwright: Playwright
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        path = shutil.which("chromium")
        assert path, "chromium is missing; ./bildung test prepares it"
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=path, args=ARGUMENTS)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()

    def page(self, server: Served, width: int = 1280, height: int = 800) -> Page:
        """A new browser of its own at the door; any error on its console fails the test."""
        context = self.browser.new_context(viewport={"width": width, "height": height}, reduced_motion="reduce")
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(40_000)
        self.errors: list[str] = []
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.goto(server.address)
        return page

    def tearDown(self) -> None:
        self.assertEqual(getattr(self, "errors", []), [], "no script failed on a page")


class DemoCase(BrowserCase):
    """A copy of the demo, served."""

    folder: Path
    server: Served
    helpers = 0
    people: dict[str, dict[str, str]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.folder = Path(tempfile.mkdtemp(prefix="bildung-demo-"))
        demo_folder(cls.folder / "demo")
        cls.server = Served(cls.folder / "demo", cls.helpers)
        cls.server.start()
        cls.people = {p["role"]: p for p in json.loads((cls.folder / "demo" / "demo.json").read_text())["people"]}

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        shutil.rmtree(cls.folder, ignore_errors=True)
        super().tearDownClass()

    def enter(self, role: str, path: str = "") -> Page:
        """Signed in, at a page if one is named."""
        page = self.page(self.server)
        page.get_by_role("button", name=self.people[role]["name"]).click()
        page.get_by_role("navigation", name="Stations").wait_for()
        if path:
            page.goto(self.server.address + path)
            finding(page).wait_for()
        return page

    def look(self, form: str, question: str = "", **more: str) -> str:
        """Address of a question about a test, the last time it was sat."""
        sat = [t for t in self.client().get("/api/quality").json()["tests"] if t["form"] == form]
        line = max(sat, key=lambda t: t["latest"])
        return f"/quality/look/{question}?" + urlencode({"form": line["form_id"], "window": line["window_id"], **more})

    def client(self) -> httpx.Client:
        """The coordinator without a browser."""
        client = self.signed_in()
        self.addCleanup(client.close)
        return client

    @classmethod
    def signed_in(cls, role: str = "coordinator") -> httpx.Client:
        """Somebody without a browser; whoever asks closes it."""
        client = httpx.Client(base_url=cls.server.address, timeout=60)
        who = cls.people[role]
        token = client.post("/api/signin", json={"username": who["username"], "password": who["password"]}).json()
        client.headers["x-bildung-csrf"] = token["csrf"]
        return client


def choose(page: Page | Locator, label: str | re.Pattern[str], option: str | int) -> None:
    """Choose from a list that opens: by how the choice begins, or by its place from 0."""
    page.get_by_role("combobox", name=label).click()
    offered = (page if isinstance(page, Page) else page.page).get_by_role("option")
    if isinstance(option, str):
        offered = offered.filter(has_text=re.compile(f"^{re.escape(option)}"))
    offered.nth(option if isinstance(option, int) else 0).click()


def type_date(page: Page, label: str, day: date) -> None:
    """Month, day and year, as somebody types them."""
    page.get_by_role("group", name=label).get_by_role("spinbutton").first.click()
    page.keyboard.type(f"{day:%m%d%Y}")


def finding(page: Page) -> Locator:
    """The sentence a page opens with: below its subject, or where it has none its heading."""
    return page.locator("hgroup .finding, h1:not(hgroup h1)")


def check_accessible(case: unittest.TestCase, page: Page) -> None:
    """No violation of WCAG 2.2 A and AA that axe-core can find."""
    page.wait_for_load_state("networkidle") if "/sessions/" not in page.url else page.wait_for_timeout(300)
    rules = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
    found = Axe().run(page, options={"runOnly": rules, "resultTypes": ["violations"]})  # what holds is not written out
    said = [f"{v['id']}: {v['help']} at {v['nodes'][0]['target']}" for v in found.response["violations"]]
    case.assertEqual(said, [], f"accessibility of {page.url}")
    check_words(case, page)


WORDS = """() => {
    const own = (e) => !e.closest('.markup, .rich, textarea, [data-text]');
    const told = [...document.querySelectorAll('[aria-label], [title], [placeholder], [alt]')].filter(own).flatMap(
        (e) => ['aria-label', 'title', 'placeholder', 'alt'].map((name) => e.getAttribute(name) ?? ''));
    const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    while (walker.nextNode()) if (own(walker.currentNode.parentElement)) told.push(walker.currentNode.data);
    return [document.title, ...told];
}"""


def check_words(case: unittest.TestCase, page: Page) -> None:
    """Nothing the page shows, or tells a screen reader, is a phrase the trade would say otherwise."""
    case.assertEqual(misplaced(page.evaluate(WORDS)), [], f"words of {page.url}")
