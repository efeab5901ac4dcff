"""Takes the pictures of docs/screenshots from the demo data: `python -m tests.ui.pictures [FOLDER]`."""

from __future__ import annotations

import random
import re
import shutil
import sys
import tempfile
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import httpx2 as httpx
from playwright.sync_api import Page, sync_playwright

from bildung.cli import _make
from tests.support import Served
from tests.ui.browser import ARGUMENTS, give_codes

TARGET = Path(__file__).parents[2] / "docs" / "screenshots"
VIEWS = {
    "item-quality": "/quality/look?{look Fall mathematics 6}",
    "judged-item": "/quality/look/item?{look Fall mathematics 6}&item=M6-14",
    "scoring": "/scoring",
    "growth": "/growth/{growth Tideline Reading}",
    "technical-quality": "/quality/look/trust?{look Fall mathematics 6}",
    "reteach": "/quality/look/reteach?{look Fall mathematics 7}",
    "mastery": "/mastery?klass={class Mathematics 7.2}",
    "bank": "/bank?find=grade:6&item=M6-14",
    "item-editor": "/bank/items/{T6-FRACTION}/edit",
    "blueprint": "/tests/blueprints/{blueprint Winter mathematics 7}",
    "paper": "/tests/{form Winter mathematics 7 A}/paper",
    "people": "/people",
    "sessions": "/sessions",
}


def open_a_session(server: Served) -> tuple[str, dict[str, Any]]:
    """Reading 7.2 at its test now: most are answering, some have submitted."""
    with httpx.Client(base_url=server.address, timeout=60) as client:
        token = client.post("/api/signin", json={"username": "coordinator", "password": "low-tide"}).json()
        client.headers["x-bildung-csrf"] = token["csrf"]
        choices = client.get("/api/sessions/choices").json()
        now = datetime.now(UTC)
        made = client.post(
            "/api/sessions",
            json={
                "form_id": next(f["id"] for f in choices["forms"] if f["name"].endswith("reading 7")),
                "window_id": client.get("/api/calendar").json()["windows"][-1]["id"],
                "class_ids": [next(c["id"] for c in choices["classes"] if c["title"] == "Reading 7.2")],
                "start": (now - timedelta(minutes=9)).isoformat(),
                "end": (now + timedelta(minutes=51)).isoformat(),
                "why": "a test may run on any day",
            },
        ).raise_for_status()
        detail = client.get(f"/api/sessions/{made.json()['ids'][0]}").json()
    rng = random.Random(1)
    for sitting in detail["sittings"][2:18]:
        with httpx.Client(base_url=server.address, timeout=60) as student:
            codes = {"session_code": detail["session"]["code"], "own_code": sitting["code"]}
            student.headers["x-bildung-csrf"] = student.post("/api/sit/join", json=codes).json()["csrf"]
            paper = student.get("/api/sit/paper").json()
            count = rng.randrange(3, 35)
            student.post(
                "/api/sit/answers",
                json={
                    "answers": [
                        {
                            "id": f"picture-{sitting['id']}-{q['number']}",
                            "question": q["id"],
                            "answer": "B",
                            "takeover": paper["takeover"],
                            "sequence": q["number"],
                        }
                        for q in paper["questions"][:count]
                    ]
                },
            ).raise_for_status()
            if count > 28:
                student.post("/api/sit/hand-in")
    return detail["session"]["id"], detail


def sit(page: Page, server: Served, codes: tuple[str, str]) -> None:
    page.goto(server.address)
    give_codes(page, *codes)
    page.wait_for_selector("#question")
    for at in range(7):
        page.locator("label").nth(at % 4).click()
        if at == 3:
            page.locator("footer button").nth(1).click()
        page.get_by_role("button", name="Next").click()
    page.locator("label").nth(1).click()
    page.get_by_text("Saved", exact=True).wait_for()


def addressed(page: Page, server: Served, path: str) -> str:
    """A path with the code of an item in braces, or the name of a blueprint, family or form, or of a test to look at."""
    found = re.search(r"\{(.+?)\}", path)
    if not found:
        return path
    kind, _, name = found[1].partition(" ")
    if kind == "look":
        tests = page.request.get(f"{server.address}/api/quality").json()["tests"]
        line = max((t for t in tests if t["form"] == name), key=lambda t: t["latest"])
        return path.replace(found[0], f"form={line['form_id']}&window={line['window_id']}")
    if kind == "class":
        classes = page.request.get(f"{server.address}/api/mastery").json()["classes"]
        return path.replace(found[0], next(c["id"] for c in classes if c["title"] == name))
    if kind == "growth":
        lines = page.request.get(f"{server.address}/api/growth").json()["measures"]
        line = next(m for m in lines if m["name"] == name)
        start, end = line["latest"]
        return path.replace(found[0], f"{line['id']}?start={start}&end={end}&grade=7")
    if kind == "blueprint":
        lines = page.request.get(f"{server.address}/api/building/blueprints").json()
        return path.replace(found[0], next(b["id"] for b in lines if b["name"] == name))
    if kind in ("family", "form"):
        forms = page.request.get(f"{server.address}/api/forms").json()["forms"]
        id, by = ("family_id", "family") if kind == "family" else ("id", "name")
        return path.replace(found[0], next(f[id] for f in forms if f[by] == name))
    item = page.request.get(f"{server.address}/api/bank/items?find=code:{found[1]}").json()["items"][0]["item"]
    return path.replace(found[0], item["item_id"])


def plan_a_window(page: Page, server: Served) -> None:
    """The spring window in too few days, so that some tests have no place yet."""
    page.goto(f"{server.address}/calendar?window={_spring(page, server)}")
    days = page.get_by_role("group", name="To").get_by_role("spinbutton")
    wishes = page.request.get(f"{server.address}/api/planning/windows/{_spring(page, server)}/board").json()["wishes"]
    last = date.fromisoformat(wishes["first"]) + timedelta(days=1)
    days.first.click()
    page.keyboard.type(f"{last:%m%d%Y}")
    page.get_by_role("button", name="Plan", exact=True).click()
    page.get_by_role("grid").wait_for(timeout=120_000)
    page.get_by_role("button", name="Find ways out").click()
    page.get_by_role("button", name=re.compile("places")).first.wait_for(timeout=60_000)


def hold_a_round(page: Page, server: Served) -> None:
    """Mathematics 6.2 at a question that they answer a second time, after talk."""
    klass = next(
        c
        for c in page.request.get(f"{server.address}/api/classes").json()["classes"]
        if c["title"] == "Mathematics 6.2"
    )
    found = page.request.get(f"{server.address}/api/classes/{klass['id']}").json()
    page.goto(f"{server.address}/people/classes/{klass['id']}")
    page.get_by_role("button", name="Start a live round").click()
    page.wait_for_url("**/live/*")
    page.get_by_label("Find in the bank").fill("type:choice grade:6")
    page.get_by_role("button", name="Find", exact=True).click()
    page.get_by_role("button", name="Ask", exact=True).first.click()
    page.get_by_role("heading", name="Question 1").wait_for()
    rng, id = random.Random(3), page.url.rsplit("/", 1)[1]
    for right in (0.5, 0.8):
        bars = page.request.get(f"{server.address}/api/live/{id}").json()["current"]["bars"]
        key = next(bar["answer"] for bar in bars if bar["right"])
        for student in found["students"]:
            with httpx.Client(base_url=server.address, timeout=60) as client:
                codes = {"session_code": found["code"], "own_code": student["code"]}
                client.headers["x-bildung-csrf"] = client.post("/api/sit/join", json=codes).json()["csrf"]
                question = client.get("/api/own/live").json()["question"]
                options = [o["id"] for o in question["shown"]["parts"][0]["options"]]
                answer = key if rng.random() < right else rng.choice(options)
                client.post("/api/own/live", json={"question": question["id"], "answer": answer}).raise_for_status()
        page.get_by_role("button", name="Show the answers").click()
        page.get_by_text("answered correctly").wait_for()
        if right < 0.8:
            page.get_by_role("button", name="Ask again").click()
            page.get_by_text("asked again").wait_for()


def _spring(page: Page, server: Served) -> str:
    windows = page.request.get(f"{server.address}/api/calendar").json()["windows"]
    return str(next(w["id"] for w in reversed(windows) if w["name"] == "Spring"))


def main(target: Path) -> None:
    folder = Path(tempfile.mkdtemp()) / "demo"
    _make(folder)
    server = Served(folder)
    server.start()
    try:
        with sync_playwright() as play:
            browser = play.chromium.launch(executable_path=shutil.which("chromium"), args=ARGUMENTS)

            def page(width: int = 1280, height: int = 800) -> Page:
                return browser.new_context(viewport={"width": width, "height": height}).new_page()

            staff = page()
            staff.goto(server.address)
            staff.get_by_text("Hanne Quill").wait_for()
            staff.get_by_text("Hanne Quill").click()
            staff.wait_for_url("**/today**")
            for name, path in VIEWS.items():
                staff.goto(server.address + addressed(staff, server, path))
                staff.wait_for_load_state("networkidle")
                staff.wait_for_timeout(400)
                staff.screenshot(path=target / f"{name}.png")
            plan_a_window(staff, server)
            staff.screenshot(path=target / "calendar.png")
            session, detail = open_a_session(server)
            for at, (name, width, height) in enumerate((("attempt-phone", 360, 740), ("attempt", 1280, 800))):
                student = page(width, height)
                sit(student, server, (detail["session"]["code"], detail["sittings"][at]["code"]))
                student.screenshot(path=target / f"{name}.png")
            staff.goto(f"{server.address}/sessions/{session}")
            staff.get_by_text("live", exact=True).wait_for()
            staff.wait_for_timeout(500)
            staff.screenshot(path=target / "session.png")
            staff.goto(f"{server.address}/today")
            staff.get_by_role("heading", name="Open now").wait_for()
            staff.screenshot(path=target / "today.png")
            hold_a_round(staff, server)
            staff.screenshot(path=target / "live-round.png")
            browser.close()
    finally:
        server.stop()
        shutil.rmtree(folder.parent, ignore_errors=True)


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else TARGET)
