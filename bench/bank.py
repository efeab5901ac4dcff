"""How fast the bank answers with 10,000 items that were sat: `.venv/bin/python bench/bank.py`."""

from __future__ import annotations

import random
import statistics
import sys
import tempfile
import time
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from sqlalchemy import select
from tests.support import found_federation

from bildung.demo.items import early_reading, kinds, science, young
from bildung.formats.itemlist import ItemRecord
from bildung.services.answers.itemhistory import keep_last
from bildung.services.bank import search
from bildung.services.bank.itemimport import add_records
from bildung.services.items.media import keep_all
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.store.models import Form, Item, ItemFigure, ItemVersion, Person, Window
from bildung.store.store import Store

ITEMS, USES = 10_000, 3
LINES = (
    "",
    "ferry",
    "tide moon",
    "grade:6 type:order",
    "p<40% used:year",
    "standard:BAF-M3 -used:ever",
    "flag:rival depth:2",
    "label:b3 r>0.3",
    "boats p>0.5 grade:K,1,2",
)


def fill(ctx: Context) -> None:
    rng = random.Random(1)

    def work(db) -> None:  # type: ignore[no-untyped-def]
        records: dict[str, ItemRecord] = {}
        while len(records) < ITEMS:
            for grade in "K12345678":
                found = science.items(grade, rng)
                try:
                    found += (
                        young.items(grade, rng) + early_reading.items(grade, rng)
                        if grade in "K12345"
                        else kinds.items(grade, rng)
                    )
                except ValueError:
                    continue  # a draw that the makers refuse; the next round draws others
                for record in found:
                    code = f"{record.code}-{len(records)}"
                    records[code] = keep_all(ctx, db, replace(record, code=code, stimulus=None), True)
        add_records(ctx, db, list(records.values())[:ITEMS], True)
        window = db.scalars(select(Window.id)).first()
        db.add_all(Form(id=at, name=f"F{at}", title="F", created_at=ctx.clock()) for at in range(1, USES + 1))
        db.flush()
        for at, version in enumerate(db.scalars(select(ItemVersion.id))):
            for use in range(1, USES + 1):
                flags = [{"flag": "rival", "weight": "look"}] if rng.random() < 0.1 else []
                db.add(
                    ItemFigure(
                        form_id=use,
                        window_id=window,
                        item_version_id=version,
                        n=120,
                        p=rng.random(),
                        p_low=0.1,
                        p_high=0.9,
                        r_rest=rng.random(),
                        wrong="B",
                        wrong_share=0.2,
                        flags=flags,
                        sound=True,
                        at=datetime(2026, 9, 15, tzinfo=UTC) - timedelta(days=at % 600),
                        stamp="x",
                    )
                )
        for item in db.scalars(select(Item)):
            item.labels = [f"b{item.id % 9}"]
        db.flush()
        keep_last(db, list(db.scalars(select(Item.id))))

    ctx.store.write(work)


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        ctx = Context(store=Store(Path(folder)))
        ctx.store.write(found_federation)
        with ctx.store.read() as db:
            boss = db.scalars(select(Person.id)).first() or 0
        fill(ctx)
        actor = Actor(person_id=boss, name="boss", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
        for order in ("code", "p", "year"):
            for line in LINES:
                times = []
                for _ in range(5):
                    began = time.perf_counter()
                    _, total, _ = search.find_items(ctx, actor, line, order, 60)
                    times.append((time.perf_counter() - began) * 1000)
                print(
                    f"{order:5} {line or '(all)':32} {total:6} found  median {statistics.median(times):5.0f} ms  most {max(times):5.0f} ms"
                )
        ctx.store.close()


if __name__ == "__main__":
    main()
