"""Answers that came when they could no longer be taken: kept as refused, with the reason."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import Connection, func, select
from sqlalchemy.dialects.sqlite import insert

from bildung.services.sitting.events import Answer
from bildung.store.models import RefusedAnswer

MOST_KEPT = 300  # of one attempt


def keep_refused(connection: Connection, sitting_id: int, answer: Answer, why: str, at: datetime) -> None:
    """Once for each message, and no more than a student's device could have meant."""
    kept = select(func.count()).select_from(RefusedAnswer).where(RefusedAnswer.sitting_id == sitting_id)
    if (connection.scalar(kept) or 0) >= MOST_KEPT:
        return
    row = {
        "id": answer.id,
        "sitting_id": sitting_id,
        "form_item_id": answer.question,
        "answer": answer.answer,
        "takeover": answer.takeover,
        "sequence": answer.sequence,
        "at": at,
        "why": why,
    }
    connection.execute(insert(RefusedAnswer).values(row).on_conflict_do_nothing())
