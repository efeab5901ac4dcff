"""How fast a test is judged: `.venv/bin/python bench/quality.py [--keep FOLDER] [--small]`.

Makes a store with one session of 2,000 students by 60 items and twenty sessions of 500 (10,000 students), another form;
then asks the services, and a served copy in the browser, as the pages do. --keep: leave the store there to be looked at.
"""

from __future__ import annotations

import argparse
import random
import shutil
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np
from sqlalchemy import insert, select
from tests.support import PASSWORD, Served, found_federation

from bildung.core.data.simulate import ItemParameters, simulate_choices
from bildung.formats.content import Behind, Misconception
from bildung.formats.itemlist import simple_record
from bildung.services.bank.itemimport import add_records
from bildung.services.building import forms
from bildung.services.quality import comparison, grid, judged, lines, overview, scope, trust, undecided
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.store.models import (
    Attribute,
    AttributeValue,
    Enrolment,
    FormItem,
    ItemVersion,
    PackedAnswers,
    Person,
    PlannedSession,
    Response,
    School,
    SchoolClass,
    Sitting,
    TimeOn,
    Window,
)
from bildung.store.store import Store

ITEMS = 60
GIVEN, FAMILY = (
    ("Aino", "Bela", "Corin", "Dilan", "Edda", "Finn", "Gael", "Hana", "Ines", "Jaro"),
    ("Birk", "Carrow", "Dahlin", "Elster", "Fjeld", "Garrick", "Haddad", "Iqbal", "Jarvi", "Kerr"),
)


def fill(ctx: Context, plan: list[tuple[str, int, int]], troubled: bool = True) -> None:
    """plan: name of the form, sessions, students in each."""
    rng, numbers = random.Random(5), np.random.default_rng(5)

    def work(db) -> None:  # type: ignore[no-untyped-def]
        found_federation(db)
        school = School(source_id="big", name="Harbor School")
        db.add(school)
        records = []
        for at in range(ITEMS):
            options = [(letter, f"<p>answer {letter} of {at + 1}</p>") for letter in "ABCD"]
            r = simple_record(
                f"Q-{at + 1:02}",
                "choice",
                f"<p>Question {at + 1}?</p>",
                options,
                "ABCD"[at % 4],
                1.0,
                (f"S.{at % 6 + 1}",),
                "Mathematics",
                "7",
            )
            wrong = "ABCD"[(at + 1) % 4]
            notes = [Misconception(answer=wrong, note=("loses a sign", "adds instead", "reads it backwards")[at % 3])]
            r.content.behind = Behind(misconceptions=notes)
            records.append(r)
        add_records(ctx, db, records, True)

    ctx.store.write(work)
    with ctx.store.read() as db:
        boss = db.scalars(select(Person).where(Person.username == "boss")).one()
        actor = Actor(
            person_id=boss.id, name="Hanne Quill", grants=(Grant("coordinator", None),), sign_in_id=0, csrf=""
        )
        versions = list(db.scalars(select(ItemVersion.id).order_by(ItemVersion.id)))
        window = db.scalars(select(Window.id)).one()
    parameters = [
        ItemParameters(
            discrimination=float(numbers.uniform(0.8, 1.8)),
            difficulty=float(b),
            guessing=0.15,
            right=at % 4,
            pull=(1.0,) * 4,
        )
        for at, b in enumerate(numbers.uniform(-1.8, 1.6, ITEMS))
    ]
    if troubled:  # keys that are wrong, items that hardly separate
        for at in (6, 23):
            parameters[at] = ItemParameters(
                discrimination=1.4, difficulty=-0.2, guessing=0.1, right=(at + 1) % 4, pull=(1.0,) * 4
            )
        for at in (11, 30, 44):
            parameters[at] = ItemParameters(
                discrimination=0.05, difficulty=0.0, guessing=0.1, right=at % 4, pull=(1.0,) * 4
            )
    for name, sessions, size in plan:
        form = forms.create_form(ctx, actor, name, name, "Mathematics", "7", "benchmark")
        form = forms.set_items(ctx, actor, form.id, form.revision, versions)
        forms.publish(ctx, actor, form.id, form.revision)
        for at in range(sessions):
            ctx.store.write(
                lambda db, at=at, form=form, name=name, size=size: session(
                    db, form.id, window, f"{name} {at + 1}", size, parameters, rng, numbers
                )
            )


def session(db, form, window, title, size, parameters, rng, numbers) -> None:  # type: ignore[no-untyped-def]
    school = db.scalars(select(School.id)).one()
    klass = SchoolClass(source_id=title, title=title, school_id=school, subject="Mathematics", grade="7")
    db.add(klass)
    db.flush()
    home = db.scalar(select(Attribute.id))
    if home is None:
        attribute = Attribute(name="lives on", seen_by="teacher")
        db.add(attribute)
        db.flush()
        home = attribute.id
    people = [
        Person(
            source_id=f"{title}-{at}",
            given=rng.choice(GIVEN),
            family=rng.choice(FAMILY),
            kind="student",
            grade="7",
            school_id=school,
        )
        for at in range(size)
    ]
    db.add_all(people)
    db.flush()
    db.execute(
        insert(AttributeValue),
        [
            {"attribute_id": home, "person_id": p.id, "value": rng.choice(("the island", "the mainland"))}
            for p in people
        ],
    )
    db.execute(
        insert(Enrolment),
        [{"class_id": klass.id, "person_id": p.id, "role": "student", "active": True} for p in people],
    )
    start = datetime(2026, 9, 20, 8, tzinfo=UTC)
    made = PlannedSession(
        form_id=form,
        window_id=window,
        class_id=klass.id,
        start=start,
        end=start + timedelta(hours=1),
        code=f"{abs(hash(title)) % 10**6:06}{size}"[:9] + title[-2:].strip(),
        closed_at=start + timedelta(hours=1),
        data_version=2,
    )
    db.add(made)
    db.flush()
    db.execute(
        insert(Sitting),
        [
            {
                "session_id": made.id,
                "person_id": p.id,
                "state": "handed_in",
                "takeover": 1,
                "started_at": start,
                "attempt": 1,
                "reached": 0,
            }
            for p in people
        ],
    )
    sittings = sorted(db.scalars(select(Sitting.id).where(Sitting.session_id == made.id)))
    places = sorted(db.scalars(select(FormItem.id).where(FormItem.form_id == form)))
    chosen = simulate_choices(numbers.standard_normal(size), parameters, numbers, 0.03)
    codes = np.stack([c + 1 for c in chosen]).astype(np.uint16)
    times = np.where(codes > 0, numbers.lognormal(10.6, 0.4, codes.shape), 8000).astype(np.uint32)
    labels = {str(place): list("ABCD") for place in places}
    db.add(
        PackedAnswers(
            session_id=made.id,
            sittings=np.array(sittings, dtype=np.int64).tobytes(),
            codes=codes.tobytes(),
            labels=labels,
            times=times.tobytes(),
        )
    )
    rows = [
        {
            "sitting_id": sitting,
            "form_item_id": place,
            "answer": "ABCD"[int(codes[i, s]) - 1],
            "takeover": 1,
            "sequence": i + 1,
        }
        for s, sitting in enumerate(sittings)
        for i, place in enumerate(places)
        if codes[i, s]
    ]
    db.execute(insert(Response), rows)
    db.execute(
        insert(TimeOn),
        [
            {"sitting_id": sitting, "form_item_id": place, "takeover": 1, "milliseconds": int(times[i, s])}
            for s, sitting in enumerate(sittings)
            for i, place in enumerate(places)
        ],
    )


def timed(name: str, work: Callable[[], object], runs: int = 5) -> None:
    took = []
    for _ in range(runs):
        began = time.perf_counter()
        work()
        took.append(time.perf_counter() - began)
    print(f"{name:<62} {statistics.median(took):7.3f} s   {min(took):7.3f}   {max(took):7.3f}", flush=True)


def services(folder: Path) -> None:
    ctx = Context(store=Store(folder))
    with ctx.store.read() as db:
        boss = db.scalars(select(Person).where(Person.username == "boss")).one()
        actor = Actor(
            person_id=boss.id, name="Hanne Quill", grants=(Grant("coordinator", None),), sign_in_id=0, csrf=""
        )
        one, many = (
            scope.ScopeRequest(forms=(id,))
            for id in db.scalars(select(FormItem.form_id).distinct().order_by(FormItem.form_id))
        )

    def cold(wanted: scope.ScopeRequest) -> object:
        ctx.forget()
        return judged.judge(ctx, actor, wanted)

    print(f"{'':<62} {'median':>9}   {'least':>7}   {'most':>7}")
    timed("2,000 x 60: judged from the store, nothing kept", lambda: cold(one))
    timed("2,000 x 60: judged again", lambda: judged.judge(ctx, actor, one))
    timed("2,000 x 60: response grid", lambda: grid.grid(ctx, actor, one))
    timed(
        "2,000 x 60: sub-scores by standard", lambda: overview.by_groups(ctx, actor, one, judged.DEFAULTS, "standard")
    )
    timed(
        "2,000 x 60: how far to trust, with the dimension check",
        lambda: (ctx.forget(), trust.trust_report(ctx, actor, one)),
        3,
    )
    timed("20 sessions, 10,000 x 60: judged from the store, nothing kept", lambda: cold(many))
    timed("20 sessions, 10,000 x 60: judged again", lambda: judged.judge(ctx, actor, many))
    timed("20 classes of 500 side by side", lambda: comparison.compare_groups(ctx, actor, many), 3)
    ctx.store.close()


def window_of_many() -> None:
    """A hundred tests of 120 students in one window: the list that the station opens with."""
    folder = Path(tempfile.mkdtemp(prefix="bildung-bench-")) / "data"
    folder.mkdir()
    ctx = Context(store=Store(folder))
    fill(ctx, [(f"Test {n:03}", 1, 120) for n in range(100)])
    with ctx.store.read() as db:
        boss = db.scalars(select(Person.id).where(Person.username == "boss")).one()
    actor = Actor(person_id=boss, name="Hanne Quill", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
    timed("100 tests of 120 in a window: judged for the first time", lambda: lines.list_sat(ctx, actor), 1)
    timed(
        "100 tests of 120 in a window: the list after a restart",
        lambda: (ctx.forget(), lines.list_sat(ctx, actor)),
    )
    timed("what wants a verdict in all of them", lambda: undecided.list_undecided(ctx, actor))
    ctx.store.close()
    shutil.rmtree(folder.parent, ignore_errors=True)


# from the click to the finding being painted, by the browser's own clock
# milliseconds from the navigation to the frame after the finding was there, by the page's own clock
FIRST = """(() => { const look = () => /items/.test(document.querySelector('main h1')?.textContent ?? '')
    ? requestAnimationFrame(() => setTimeout(() => { window.firstPainted = performance.now(); })) : requestAnimationFrame(look); requestAnimationFrame(look); })()"""
OPEN = """async (name) => { const link = [...document.querySelectorAll('nav[aria-label=Questions] a')].find((a) => a.textContent === name);
    const t = performance.now(); link.click();
    while (!/items/.test(document.querySelector('main h1')?.textContent ?? '') || /Pass line|pass line/.test(document.querySelector('main h2')?.textContent ?? '')) await new Promise(requestAnimationFrame);
    await new Promise(requestAnimationFrame); return performance.now() - t; }"""


def browser(folder: Path) -> None:
    """From the click to the finding on the screen, in a new browser at a server that was started for it."""
    from playwright.sync_api import sync_playwright
    from tests.ui.browser import ARGUMENTS

    pages = (
        ("2,000 x 60: overview", "/quality/look?form=1&window=1"),
        ("2,000 x 60: grid", "/quality/look/grid?form=1&window=1"),
        ("10,000 x 60 in 20 sessions: overview", "/quality/look?form=2&window=1"),
        ("10,000 x 60 in 20 sessions: grid", "/quality/look/grid?form=2&window=1"),
    )
    for name, path in pages:
        server = Served(folder)
        server.start()
        with sync_playwright() as play:
            shell = play.chromium.launch(executable_path=shutil.which("chromium"), args=ARGUMENTS)
            page = shell.new_context(viewport={"width": 1280, "height": 800}).new_page()
            page.goto(server.address)
            page.get_by_label("Name", exact=True).fill("boss")
            page.get_by_label("Password").fill(PASSWORD)
            page.get_by_role("button", name="Sign in").first.click()
            page.get_by_role("navigation", name="Stations").wait_for()
            page.goto(f"{server.address}/tests")
            page.get_by_role("heading", level=1).wait_for()
            page.add_init_script(FIRST)
            page.goto(server.address + path)
            page.locator("main h1").filter(has_text="items").wait_for()
            page.wait_for_timeout(200)
            first = page.evaluate("window.firstPainted") / 1000
            took = []
            for _ in range(5):  # within the application, as somebody does who goes to another question and back
                page.get_by_role("link", name="Trust").click()
                page.get_by_role("heading", name="A pass line").wait_for()
                name_of = "Answers" if "grid" in path else "Items"
                took.append(page.evaluate(OPEN, name_of) / 1000)
            print(
                f"{name:<50} first {first:.3f} s, page load included; again {statistics.median(took):.3f} s", flush=True
            )
            if "grid" in path:
                for order in ("class", "name", "fit", "score"):
                    spent = page.evaluate(
                        """async (order) => { const s = document.querySelector('select'); const t = performance.now();
                        s.value = order; s.dispatchEvent(new Event('change', {bubbles: true}));
                        await new Promise(r => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(r, 0)))); return performance.now() - t; }""",
                        order,
                    )
                    print(f"    order by {order}: {spent:.0f} ms")
                spent = page.evaluate(
                    """async () => { const g = document.querySelector('[role=grid]'); const gaps = []; let last = performance.now();
                    for (let at = 0; at < 120; at++) { g.scrollTop += 400; g.scrollLeft = (at % 20) * 40; await new Promise(requestAnimationFrame); const now = performance.now(); gaps.push(now - last); last = now; }
                    gaps.sort((a, b) => a - b); return [gaps[60], gaps[113], gaps[119]]; }"""
                )
                print(
                    f"    scrolling 120 steps of 400 px: frames of {spent[0]:.0f} ms (median), {spent[1]:.0f} (95th), {spent[2]:.0f} (most)"
                )
            shell.close()
        server.stop()


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--keep", type=Path)
    parser.add_argument("--small", action="store_true", help="12 students and 2,000 without any flag, to be looked at")
    given = parser.parse_args()
    folder = given.keep or Path(tempfile.mkdtemp(prefix="bildung-bench-")) / "data"
    if not (folder / "bildung.sqlite").exists():
        folder.mkdir(parents=True, exist_ok=True)
        ctx = Context(store=Store(folder))
        began = time.perf_counter()
        plan = (
            [("Small", 1, 12), ("Calm", 1, 2000)] if given.small else [("Benchmark", 1, 2000), ("Federation", 20, 500)]
        )
        fill(ctx, plan, not given.small)
        ctx.store.close()
        print(f"made in {time.perf_counter() - began:.0f} s")
    if given.small:
        return
    services(folder)
    window_of_many()
    browser(folder)
    if not given.keep:
        shutil.rmtree(folder.parent, ignore_errors=True)


if __name__ == "__main__":
    main()
