"""Sentences that a scorer uses again in comments; each has their own."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.services.answers.comments import fit_comment
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import Phrase

MOST = 30


@dataclass(frozen=True)
class PhraseLine:
    id: Id
    text: str


def phrases(db: Session, actor: Actor) -> list[PhraseLine]:
    """Theirs, the oldest first."""
    rows = db.scalars(select(Phrase).where(Phrase.person_id == actor.person_id).order_by(Phrase.id))
    return [PhraseLine(p.id, p.text) for p in rows]


def keep_phrase(ctx: Context, actor: Actor, text: str) -> list[PhraseLine]:
    """A sentence to use again; one that is there already is not kept twice."""
    scope(actor, Action.SCORES_GIVE)
    text = need_text(fit_comment(text), "text")

    def work(db: Session) -> list[PhraseLine]:
        mine = phrases(db, actor)
        if text in {p.text for p in mine}:
            return mine
        if len(mine) >= MOST:
            raise Conflict(f"at most {MOST} phrases; remove one first")
        db.add(Phrase(person_id=actor.person_id, text=text))
        db.flush()
        return phrases(db, actor)

    return ctx.store.write(work)


def drop_phrase(ctx: Context, actor: Actor, phrase_id: int) -> list[PhraseLine]:
    """Use it no more."""
    scope(actor, Action.SCORES_GIVE)

    def work(db: Session) -> list[PhraseLine]:
        db.execute(delete(Phrase).where(Phrase.id == phrase_id, Phrase.person_id == actor.person_id))
        return phrases(db, actor)

    return ctx.store.write(work)
