"""A benchmark as a class took it: every student with the same number of right answers."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta

from sqlalchemy import select

from bildung.demo.benchmarks import put_answers, questions
from bildung.services.answers.packing import pack
from bildung.services.sessions import scheduling
from bildung.store.models import PlannedSession, Sitting
from tests.support import NOON, WorldCase


def give(
    case: WorldCase,
    form: int,
    window: int,
    points: int,
    days: int = 1,
    right: Callable[[int, int], bool] | None = None,
) -> int:
    """A closed session of the class in a window, so many days from today; its id. right: by student and item, else the first so many."""
    start = NOON + timedelta(days=days)
    (id,) = scheduling.schedule(
        case.ctx, case.boss, form, window, [case.class_id()], "", None, start, start + timedelta(hours=1)
    )

    def work(db):  # type: ignore[no-untyped-def]
        session = db.get_one(PlannedSession, id)
        present = []
        asked = questions(db, form)
        for row, sitting in enumerate(db.scalars(select(Sitting).where(Sitting.session_id == id))):
            sitting.state, sitting.takeover = "handed_in", 1
            sitting.started_at = start
            sitting.handed_in_at = sitting.last_at = start + timedelta(minutes=20)
            for at, q in enumerate(asked):
                correct = at < points if right is None else right(row, at)
                answer = q.right if correct else next(w for w in q.wrong if w != q.right)
                present.append(
                    {
                        "sitting_id": sitting.id,
                        "form_item_id": q.place,
                        "answer": answer,
                        "takeover": 1,
                        "sequence": at + 1,
                    }
                )
        db.flush()
        put_answers(db, [], present, [])
        session.closed_at = session.end
        session.data_version += 1
        pack(db, session)

    case.ctx.store.write(work)
    return id
