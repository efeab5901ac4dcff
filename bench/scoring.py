"""How fast a correction is: `.venv/bin/python bench/scoring.py [--small]`.

Twenty sessions of 500 students by 60 items on one form (10,000 attempts); another key is tried and decided, with all that
follows: totals, analysis, flags, classes.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from bench.quality import fill
from sqlalchemy import select

from bildung.services.corrections import making
from bildung.services.corrections.asked import CorrectionWish
from bildung.services.corrections.preview import preview
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.store.models import FormItem, Person, Window
from bildung.store.store import Store


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--small", action="store_true", help="a tenth of the attempts")
    sessions = 2 if parser.parse_args().small else 20
    with tempfile.TemporaryDirectory() as folder:
        ctx = Context(store=Store(Path(folder)))
        fill(ctx, [("Large", sessions, 500)])
        with ctx.store.read() as db:
            boss = db.scalars(select(Person).where(Person.username == "boss")).one()
            place = db.scalars(select(FormItem.id).where(FormItem.position == 7)).one()
            window = db.scalars(select(Window.id)).one()
        actor = Actor(person_id=boss.id, name="Boss", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
        for key in ("D", "A", "D"):
            wish = CorrectionWish(kind="key", place=place, window_id=window, key=key)
            begin = time.perf_counter()
            seen = preview(ctx, actor, wish)
            looked = time.perf_counter()
            making.correct(ctx, actor, wish, "Wrong key.", seen.asof)
            print(
                f"key {key} over {sessions * 500} attempts: seen in {looked - begin:.2f} s, made in "
                f"{time.perf_counter() - looked:.2f} s; {seen.says}",
                flush=True,
            )


if __name__ == "__main__":
    main()
