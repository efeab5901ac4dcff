"""How fast growth is: `.venv/bin/python bench/growth.py [--small]`.

Makes a store with 20,000 students in 800 classes, brings scores of five windows in as a file (100,000), and opens the
pages of the district as a coordinator does: first cold, then while nothing moved.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import date, timedelta
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np
from sqlalchemy import insert, select
from tests.support import found_federation

from bildung.demo.measures import norm_files
from bildung.services.growth import measures, occasionpage, pair, projection, scores
from bildung.services.growth.cohort import PairsAtHand
from bildung.services.growth.measures import MeasureWish, NormWish
from bildung.services.growth.pair import PagesAtHand, PairAsked
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.store.models import Enrolment, Person, School, SchoolClass, SchoolYear, Window
from bildung.store.store import Store

SIZE, CLASS, GRADES = 20_000, 25, ("4", "5", "6", "7", "8")
START = date(2025, 8, 1)


def fill(ctx: Context, size: int) -> None:
    """One school a thousand students, one class of reading each 25, two school years with five windows."""

    def work(db) -> None:  # type: ignore[no-untyped-def]
        found_federation(db)
        for at, title in enumerate(("2025/26", "2026/27")):
            begins = START.replace(year=START.year + at)
            db.add(SchoolYear(title=title, start=begins, end=begins + timedelta(days=364)))
        for name, day in (
            ("Autumn", 45),
            ("Midyear", 150),
            ("Close", 270),
            ("Autumn", 410),
            ("Midyear", 515),
        ):
            begins = START + timedelta(days=day)
            db.add(Window(name=name, start=begins, end=begins + timedelta(days=14)))
        db.flush()
        year = db.scalars(select(SchoolYear.id).where(SchoolYear.title == "2026/27")).one()
        schools = [School(source_id=f"s{n}", name=f"School {n}") for n in range(max(1, size // 1000))]
        db.add_all(schools)
        db.flush()
        people = [
            {
                "source_id": f"p{n}",
                "given": "Student",
                "family": str(n),
                "kind": "student",
                "grade": GRADES[n // CLASS % len(GRADES)],
                "school_id": schools[n // 1000 % len(schools)].id,
            }
            for n in range(size)
        ]
        db.execute(insert(Person), people)
        ids = dict(db.execute(select(Person.source_id, Person.id)).all())
        for n in range(size // CLASS):
            klass = SchoolClass(
                source_id=f"c{n}",
                title=f"Reading {n}",
                school_id=schools[n * CLASS // 1000 % len(schools)].id,
                subject="Reading",
                grade=GRADES[n % len(GRADES)],
                year_id=year,
                code=f"C{n}",
            )
            db.add(klass)
            db.flush()
            db.execute(
                insert(Enrolment),
                [
                    {"class_id": klass.id, "person_id": ids[f"p{n * CLASS + at}"], "role": "student"}
                    for at in range(CLASS)
                ],
            )

    ctx.store.write(work, much=True)


def file_of(size: int) -> bytes:
    """Scores of everybody in five windows."""
    rng = np.random.default_rng(3)
    true = rng.normal(0, 14, size)
    lines = ["student,grade,window,week,score,se"]
    windows = [("Autumn 2025", 6, 1), ("Midyear 2025", 20, 1), ("Close 2026", 34, 1)]
    windows += [("Autumn 2026", 4, 0), ("Midyear 2026", 20, 0)]
    for window, week, back in windows:
        for n in range(size):
            grade = int(GRADES[n // CLASS % len(GRADES)]) - back
            score = round(165 + 11 * grade + 11 * week / 36 + true[n] + rng.normal(0, 4))
            lines.append(f"p{n},{grade},{window},{week},{min(350, max(100, score))},4")
    return "\n".join(lines).encode()


def timed(what: str, work: Callable[[], object]) -> object:
    """Prints how long it took."""
    begin = time.perf_counter()
    found = work()
    print(f"{what:<64} {time.perf_counter() - begin:>7.2f} s", flush=True)
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--small", action="store_true", help="a tenth of the size")
    size = SIZE // 10 if parser.parse_args().small else SIZE
    with tempfile.TemporaryDirectory() as folder:
        ctx = Context(store=Store(Path(folder)))
        fill(ctx, size)
        with ctx.store.read() as db:
            boss = db.scalars(select(Person).where(Person.username == "boss")).one()
        actor = Actor(person_id=boss.id, name="Boss", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
        wish = MeasureWish(name="Scale", subject="Reading", low=100, high=350)
        measure = measures.create_measure(ctx, actor, wish)
        norms, correlations = norm_files("Reading")
        measures.add_norms(
            ctx,
            actor,
            measure,
            NormWish(name="n", version="1", source="s", population="p", norms=norms, correlations=correlations),
        )
        data = file_of(size)
        seen = timed(f"{5 * size} scores looked at", lambda: scores.preview(ctx, actor, measure, {"s.csv": data}))
        timed(f"{5 * size} scores imported", lambda: scores.apply(ctx, actor, measure, seen.id))  # type: ignore[attr-defined]
        page = measures.measures_page(ctx, actor).measures[0]
        start, end = page.latest
        asked = PairAsked(measure=measure, start=start, end=end)
        for _ in range(2):
            ctx.own(PagesAtHand).found._results.clear()
            ctx.own(PairsAtHand).found._results.clear()
            timed(f"two windows of {size} students, cold", lambda: pair.pair_page(ctx, actor, asked))
        timed("the same while nothing moved", lambda: pair.pair_page(ctx, actor, asked))
        timed("levels of a window", lambda: occasionpage.occasion_page(ctx, actor, measure, end))
        timed("projection", lambda: projection.projection_page(ctx, actor, measure, end))


if __name__ == "__main__":
    main()
