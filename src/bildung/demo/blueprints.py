"""The demo's blueprints: what the benchmarks are to hold; those of winter for every subject and grade the bank knows."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.formats.blueprint import PartKept, Plan, Range, RowKept
from bildung.services.items.bankitem import items_whole, with_parts
from bildung.services.shared.context import Context
from bildung.store.models import Blueprint, Item, ItemVersion

LATEST = ("3", "4", "5", "6", "7", "8")
ITEMS = {"Mathematics": 16, "Reading": 16, "Science": 12}


def winter_blueprints(ctx: Context, db: Session) -> None:
    """A row for each standard with items, as many as keep to the length; where there are stimuli, one or two."""
    items = [
        i
        for i in db.scalars(items_whole().where(Item.state.in_(("ready", "in_use", "field_test"))))
        if i.versions and i.versions[-1].template is None
    ]
    for subject in sorted({i.subject for i in items}):
        for grade in LATEST:
            mine = [i for i in items if (i.subject, i.grade) == (subject, grade)]
            standards = Counter(_main(i.versions[-1]) for i in mine)
            standards.pop("", None)
            if len(standards) < 2:
                continue
            wanted = min(ITEMS.get(subject, 12), len(mine) // 2)
            each = max(1, wanted // len(standards))
            rows = [
                RowKept(standard=code, low=min(each, n // 2 or 1), high=min(each + 2, n))
                for code, n in sorted(standards.items())
            ]
            least = sum(int(row.low) for row in rows)
            plan = Plan(
                rows=rows,
                parts=[PartKept(name="", instructions="Answer every question. You may go back.", minutes=45)],
                items=Range(low=least, high=max(least, wanted)),
                minutes=Range(low=0, high=45),
            )
            db.add(
                Blueprint(
                    name=f"Winter {subject.lower()} {grade}",
                    subject=subject,
                    grade=grade,
                    kind="benchmark",
                    content=plan.model_dump(),
                    changed_at=ctx.clock(),
                )
            )


def benchmark_blueprint(ctx: Context, db: Session, name: str, versions: Sequence[int]) -> int:
    """What a benchmark was written to: its standards, with as many items of each as these are. Its id."""
    items = list(db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(versions)))))
    standards = Counter(_main(version) for version in items)
    rows = [RowKept(standard=code, low=n, high=n) for code, n in sorted(standards.items())]
    plan = Plan(rows=rows, items=Range(low=len(items), high=len(items)), minutes=Range(low=0, high=60))
    made = Blueprint(
        name=name,
        subject=items[0].item.subject,
        grade=items[0].item.grade,
        kind="benchmark",
        content=plan.model_dump(),
        changed_at=ctx.clock(),
    )
    db.add(made)
    db.flush()
    return made.id


def _main(version: ItemVersion) -> str:
    return version.standards[0].standard.code if version.standards else ""
