"""Answers as a device sends them, and what the order of their events makes the present one."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.store.models import (
    Response,
    ResponseEvent,
)


@dataclass(frozen=True, kw_only=True)
class Answer:
    """One answer as the device sends it. id: made there. takeover and sequence: its place in the order. about: answer, or what
    was made beside it: notes or sketch."""

    id: str
    question: int
    answer: str
    takeover: int
    sequence: int
    about: str = "answer"


def put_event(db: Session, sitting_id: int, answer: Answer, at: datetime) -> None:
    """Keep an answer that staff bring in for a student, behind those that came before, and move the present answer on."""
    db.add(
        ResponseEvent(
            id=answer.id,
            sitting_id=sitting_id,
            form_item_id=answer.question,
            answer=answer.answer,
            takeover=answer.takeover,
            sequence=answer.sequence,
            at=at,
        )
    )
    apply_event(db, sitting_id, answer)


def apply_event(db: Session, sitting_id: int, answer: Answer) -> None:
    """Move the present answer on, unless a later one is there: by takeover and sequence, never by arrival."""
    present = db.get(Response, (sitting_id, answer.question))
    if present is None:
        db.add(
            Response(
                sitting_id=sitting_id,
                form_item_id=answer.question,
                answer=answer.answer,
                takeover=answer.takeover,
                sequence=answer.sequence,
            )
        )
    elif (answer.takeover, answer.sequence) > (present.takeover, present.sequence):
        present.answer, present.takeover, present.sequence = answer.answer, answer.takeover, answer.sequence


def rebuild(db: Session, sitting_id: int) -> None:
    """Make the present answers again from the events alone."""
    for old in db.scalars(select(Response).where(Response.sitting_id == sitting_id)):
        db.delete(old)
    db.flush()
    for event in db.scalars(select(ResponseEvent).where(ResponseEvent.sitting_id == sitting_id)):
        apply_event(
            db,
            sitting_id,
            Answer(
                id=event.id,
                question=event.form_item_id,
                answer=event.answer,
                takeover=event.takeover,
                sequence=event.sequence,
            ),
        )
        db.flush()
