"""How fast mastery is judged: `.venv/bin/python bench/mastery.py [--small] [--serve]`.

Makes a school of 1,100 students in 44 classes who took six tests of one item on each of 120 standards: 132,000 cells of six
occasions. Judges them, opens the pages, and corrects a key. --serve: a served copy is opened in the browser as well.
"""

from __future__ import annotations

import argparse
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

from bildung.formats.itemlist import simple_record
from bildung.services.bank.itemimport import add_records
from bildung.services.building import forms
from bildung.services.corrections import making
from bildung.services.corrections.asked import CorrectionWish
from bildung.services.corrections.preview import preview
from bildung.services.mastery import cell, district, grid, needs, student
from bildung.services.mastery.grid import GridAsked
from bildung.services.mastery.judging import WholesAtHand
from bildung.services.mastery.needs import NeedsAsked
from bildung.services.mastery.scope import WhoAsked
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.store.models import (
    Enrolment,
    FormItem,
    Item,
    ItemVersion,
    PackedAnswers,
    Person,
    PlannedSession,
    School,
    SchoolClass,
    Sitting,
    Standard,
    Window,
)
from bildung.store.store import Store

STUDENTS, CLASS, STANDARDS, TESTS = 1100, 25, 120, 6


def fill(ctx: Context, students: int) -> int:
    """The id of the school."""
    numbers = np.random.default_rng(5)

    def people(db) -> int:  # type: ignore[no-untyped-def]
        found_federation(db)
        school = School(source_id="big", name="Harbor School")
        db.add(school)
        db.flush()
        records = [
            simple_record(
                f"Q-{test}-{at:03}",
                "choice",
                f"<p>Question {test}, {at}?</p>",
                [(letter, f"<p>{letter}</p>") for letter in "ABCD"],
                "ABCD"[at % 4],
                1.0,
                (f"S.{at + 1:03}",),
                "Mathematics",
                "7",
            )
            for test in range(TESTS)
            for at in range(STANDARDS)
        ]
        add_records(ctx, db, records, True)
        for at, s in enumerate(db.scalars(select(Standard).order_by(Standard.code))):
            s.subject, s.grade, s.text, s.position = "Mathematics", "7", f"Standard {at + 1}", float(at)
        for at in range(students // CLASS):
            klass = SchoolClass(
                source_id=f"c{at}", title=f"Class {at + 1}", school_id=school.id, subject="Mathematics", grade="7"
            )
            db.add(klass)
            some = [
                Person(source_id=f"s{at}-{n}", given=f"G{n:02}", family=f"F{at:02}", kind="student", grade="7")
                for n in range(CLASS)
            ]
            db.add_all(some)
            db.flush()
            db.execute(
                insert(Enrolment),
                [{"class_id": klass.id, "person_id": p.id, "role": "student", "active": True} for p in some],
            )
        return int(school.id)

    school = ctx.store.write(people)
    actor = boss_of(ctx)
    skill = numbers.normal(0.8, 1.0, students)
    for test in range(TESTS):
        with ctx.store.read() as db:
            versions = list(
                db.scalars(
                    select(ItemVersion.id)
                    .join(Item, Item.id == ItemVersion.item_id)
                    .where(Item.code.startswith(f"Q-{test}-"))
                    .order_by(Item.code)
                )
            )
        form = forms.create_form(ctx, actor, f"Test {test}", f"Test {test}", "Mathematics", "7", "unit")
        form = forms.set_items(ctx, actor, form.id, form.revision, versions)
        forms.publish(ctx, actor, form.id, form.revision)
        ctx.store.write(lambda db, form=form, test=test: _sat(db, form.id, test, skill, numbers))
    return school


def _sat(db, form: int, test: int, skill: np.ndarray, numbers: np.random.Generator) -> None:  # type: ignore[no-untyped-def]
    window = db.scalars(select(Window.id)).first()
    start = datetime(2026, 2, 2, 15, tzinfo=UTC) + timedelta(days=40 * test)
    places = sorted(db.scalars(select(FormItem.id).where(FormItem.form_id == form)))
    hard = numbers.normal(0, 0.8, len(places))
    for at, klass in enumerate(db.scalars(select(SchoolClass.id).order_by(SchoolClass.id)).all()):
        people = db.scalars(
            select(Enrolment.person_id).where(Enrolment.class_id == klass).order_by(Enrolment.person_id)
        ).all()
        made = PlannedSession(
            form_id=form,
            window_id=window,
            class_id=klass,
            start=start,
            end=start + timedelta(hours=1),
            code=f"T{test}C{at:03}",
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
                    "person_id": p,
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
        mine = skill[at * CLASS : (at + 1) * CLASS]
        right = numbers.random((len(places), len(people))) < 1 / (1 + np.exp(hard[:, None] - mine[None, :]))
        key = (np.arange(len(places)) % 4)[:, None]
        codes = np.where(right, key, (key + 1) % 4) + 1
        db.add(
            PackedAnswers(
                session_id=made.id,
                sittings=np.array(sittings, dtype=np.int64).tobytes(),
                codes=codes.astype(np.uint16).tobytes(),
                labels={str(place): list("ABCD") for place in places},
                times=None,
            )
        )


def boss_of(ctx: Context) -> Actor:
    """The coordinator."""
    with ctx.store.read() as db:
        boss = db.scalars(select(Person).where(Person.username == "boss")).one()
        return Actor(person_id=boss.id, name="Boss", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")


def timed(what: str, work: Callable[[], object], times: int = 3) -> None:
    """The first time, and the best of the others."""
    spent = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        spent.append(time.perf_counter() - begin)
    print(f"{what}: first {spent[0]:.2f} s, then {min(spent[1:]):.2f} s", flush=True)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--small", action="store_true", help="a tenth of the students")
    parser.add_argument("--serve", action="store_true", help="the grid of the whole school in a browser")
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        ctx = Context(store=Store(Path(folder)))
        school = fill(ctx, STUDENTS // 10 // CLASS * CLASS if asked.small else STUDENTS)
        actor = boss_of(ctx)
        everyone = GridAsked(who=WhoAsked(subject="Mathematics", school_id=school))
        with ctx.store.read() as db:
            klass = db.scalars(select(SchoolClass.id).order_by(SchoolClass.id)).first() or 0
            place, form = db.execute(select(FormItem.id, FormItem.form_id).where(FormItem.position == 7)).first() or (
                0,
                0,
            )
            window = db.scalars(select(Window.id)).first() or 0
        timed("grid of all students, evidence read", lambda: grid.grid_page(ctx, actor, everyone))

        def anew() -> None:
            ctx.own(WholesAtHand).wholes = type(ctx.own(WholesAtHand).wholes)(12)
            grid.grid_page(ctx, actor, everyone)

        timed("the same, judged anew", anew)
        page = grid.grid_page(ctx, actor, GridAsked(who=WhoAsked(class_id=klass)))
        timed("grid of a class", lambda: grid.grid_page(ctx, actor, GridAsked(who=WhoAsked(class_id=klass))))
        person, standard = int(page.rows[0].person), int(page.columns[0].standard)
        timed("a cell", lambda: cell.cell_page(ctx, actor, person, standard))
        timed("a student", lambda: student.student_mastery(ctx, actor, person, "Mathematics"))
        timed("district", lambda: district.district_page(ctx, actor, "Mathematics", "7"))
        timed("groups from needs", lambda: needs.need_groups(ctx, actor, NeedsAsked(class_id=klass)))
        wish = CorrectionWish(kind="key", place=place, window_id=window, key="D")
        making.correct(ctx, actor, wish, "Wrong key.", preview(ctx, actor, wish).asof)
        begin = time.perf_counter()
        grid.grid_page(ctx, actor, everyone)
        print(f"grid of all students after a corrected key of form {form}: {time.perf_counter() - begin:.2f} s")
        if asked.serve:
            _browse(Path(folder), school)


def _browse(folder: Path, school: int) -> None:
    from playwright.sync_api import sync_playwright

    served = Served(folder)
    served.start()
    try:
        with sync_playwright() as play:
            browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.request.post(f"{served.address}/api/signin", data={"username": "boss", "password": PASSWORD})
            for turn in ("first", "again"):
                begin = time.perf_counter()
                page.goto(f"{served.address}/mastery?subject=Mathematics&school={school}")
                page.get_by_role("grid", name="Students by standards").wait_for()
                print(f"in the browser, {turn}: {time.perf_counter() - begin:.2f} s until the grid stands")
            slowest = page.evaluate(SCROLL)
            print(f"scrolled through: slowest frame {slowest:.0f} ms")
            browser.close()
    finally:
        served.stop()


SCROLL = """async () => {
    const frame = document.querySelector('.grid-frame');
    let last = performance.now(), slowest = 0;
    for (let at = 0; at < 240; at++) {
        frame.scrollTop += 61; frame.scrollLeft = 900 * Math.abs(Math.sin(at / 30));
        await new Promise((next) => requestAnimationFrame(next));
        const now = performance.now(); slowest = Math.max(slowest, now - last); last = now;
    }
    return slowest;
}"""


if __name__ == "__main__":
    main()
