"""What staff say to a student about one response: one comment of each author."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared.errors import Invalid
from bildung.store.models import ResponseComment

LONGEST = 1000


def fit_comment(text: str) -> str:
    """As it is kept; refused where it is too long."""
    text = text.strip()
    if len(text) > LONGEST:
        raise Invalid(f"a comment has at most {LONGEST} characters", "comment")
    return text


def put_comment(db: Session, at: datetime, author: int, sitting: int, place: int, text: str) -> bool:
    """Keep it, put it in place of what this author said before, or take that back where it is empty. A text that changed has not
    been read. Whether anything moved."""
    there = db.scalar(
        select(ResponseComment).where(
            ResponseComment.sitting_id == sitting,
            ResponseComment.form_item_id == place,
            ResponseComment.author_id == author,
        )
    )
    if (there.text if there else "") == text:
        return False
    if there is None:
        db.add(ResponseComment(sitting_id=sitting, form_item_id=place, author_id=author, text=text, at=at))
    elif text:
        there.text, there.at, there.read_at = text, at, None
    else:
        db.delete(there)
    return True
