"""A correction made, and taken back. Both move nothing but what they name; every total follows by itself."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from bildung.services.corrections.asked import Asked, CorrectionWish, asked, refuse_strangers, touched_by
from bildung.services.corrections.otherform import as_before
from bildung.services.corrections.preview import asof, brief, preview
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import (
    Correction,
    FormItem,
    Mark,
    PlaceRule,
    PlannedSession,
    ScoreChange,
    Scoring,
)

LONGEST_WHY = 500
MOVED_ON = "answers, scores or corrections have come in since; look again at what would move"


@dataclass(frozen=True)
class CorrectionMade:
    """Its number, and what it moved in a sentence."""

    id: Id
    says: str


def correct(
    ctx: Context, actor: Actor, wish: CorrectionWish, reason: str, seen: str, job: Job | None = None
) -> CorrectionMade:
    """seen: the state that whoever decides has looked at (`CorrectionPreview.asof`); Conflict where it has moved on."""
    why = need_text(reason, "reason", LONGEST_WHY)
    found = preview(ctx, actor, wish, job)
    if found.asof != seen:
        raise Conflict(MOVED_ON)

    def work(db: Session) -> int:
        want = asked(db, wish, scope(actor, Action.SCORES_PLAN))
        if asof(db, want) != seen:
            raise Conflict(MOVED_ON)
        made = Correction(
            kind=wish.kind,
            form_item_id=wish.place,
            window_id=wish.window_id,
            sitting_id=wish.sitting if wish.kind == "score" else None,
            before=want.before | {"says": want.says},
            after=want.after,
            moved=brief(found),
            reason=why,
            by_id=actor.person_id,
            at=ctx.clock(),
        )
        db.add(made)
        db.flush()
        _put(db, ctx, want, made)
        audit.record(
            db, ctx.clock(), actor.person_id, "score.correct", f"correction:{made.id}", None, {"what": want.says}, why
        )
        return made.id

    made = ctx.store.write(work)
    ctx.bus.publish("corrections", {"correction": str(made)})
    return CorrectionMade(made, f"Corrected. {found.made}")


def _put(db: Session, ctx: Context, want: Asked, made: Correction) -> None:
    wish = want.wish
    if wish.kind == "key":
        _add_scoring(db, ctx, want.version_id, made.after["scoring"], made.after["parts"])
    elif wish.kind in ("drop", "everybody"):
        db.add(
            PlaceRule(
                form_item_id=wish.place,
                window_id=wish.window_id,
                rule=wish.kind,
                unreached=bool(want.after.get("unreached", False)),
                correction_id=made.id,
            )
        )
    elif wish.kind == "score":
        assert wish.sitting is not None and wish.points is not None
        there = db.get(ScoreChange, (wish.sitting, wish.place))
        if there is None:
            db.add(
                ScoreChange(sitting_id=wish.sitting, form_item_id=wish.place, points=wish.points, correction_id=made.id)
            )
        else:
            made.before = made.before | {"correction": there.correction_id}
            there.points, there.correction_id = wish.points, made.id
    else:
        db.execute(update(Mark).where(Mark.id.in_(made.before["marks"])).values(aside=True))
    db.flush()


def _add_scoring(db: Session, ctx: Context, version_id: int, number: int, parts: list[dict[str, object]]) -> None:
    db.add(
        Scoring(
            item_version_id=version_id,
            number=number,
            parts=parts,
            points=float(sum(float(str(p["points"])) for p in parts)),
            created_at=ctx.clock(),
        )
    )


def undo(ctx: Context, actor: Actor, correction_id: int, reason: str) -> CorrectionMade:
    """What was, is again, to the last digit. Conflict where something later rests on it."""
    why = need_text(reason, "reason", LONGEST_WHY)

    def work(db: Session) -> int:
        made = db.get(Correction, correction_id)
        if made is None:
            raise NotFound("there is no such correction, or it is not yours")
        _refuse_strangers(db, actor, made)
        if made.undone_at is not None:
            raise Conflict("this correction is undone already")
        _take_back(db, ctx, actor, made)
        made.undone_at, made.undone_by_id, made.undone_why = ctx.clock(), actor.person_id, why
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "score.correct.undo",
            f"correction:{made.id}",
            {"what": made.before.get("says", "")},
            None,
            why,
        )
        return made.id

    made = ctx.store.write(work)
    ctx.bus.publish("corrections", {"correction": str(made)})
    return CorrectionMade(made, "Undone: every result is what it was before.")


def _refuse_strangers(db: Session, actor: Actor, made: Correction) -> None:
    """Whoever undoes a correction must be one who could have made it."""
    allowed = scope(actor, Action.SCORES_PLAN)
    if made.kind == "form":
        mine = select(PlannedSession.id).where(PlannedSession.id == made.before["session"], allowed)
        if db.scalar(mine) is None:
            raise NotFound("there is no such correction, or it is not yours")
        return
    place = db.get_one(FormItem, made.form_item_id)
    refuse_strangers(db, touched_by(db, made.kind, place, made.window_id), allowed)


def _take_back(db: Session, ctx: Context, actor: Actor, made: Correction) -> None:
    place = db.get_one(FormItem, made.form_item_id)
    if made.kind == "key":
        newest = db.scalar(
            select(Scoring.number)
            .where(Scoring.item_version_id == place.item_version_id)
            .order_by(Scoring.number.desc())
            .limit(1)
        )
        if newest is None or newest != made.after["scoring"]:
            raise Conflict(f"the scoring of item {place.position} was changed again since; undo that first")
        _add_scoring(db, ctx, place.item_version_id, newest + 1, made.before["parts"])
    elif made.kind in ("drop", "everybody"):
        db.execute(
            delete(PlaceRule).where(
                PlaceRule.form_item_id == made.form_item_id,
                PlaceRule.window_id == made.window_id,
                PlaceRule.correction_id == made.id,
            )
        )
    elif made.kind == "score":
        there = db.get(ScoreChange, (made.sitting_id, made.form_item_id))
        if there is None or there.correction_id != made.id:
            raise Conflict("this score was changed again since; undo that first")
        if made.before["points"] is None:
            db.delete(there)
        else:
            there.points, there.correction_id = made.before["points"], made.before["correction"]
    elif made.kind == "form":
        as_before(db, ctx, actor, made)
    else:
        _lay_back(db, made)
    db.flush()


def _lay_back(db: Session, made: Correction) -> None:
    """Scores count again, where nobody has scored these responses since."""
    aside = db.scalars(select(Mark).where(Mark.id.in_(made.before["marks"]))).all()
    responses = {(m.sitting_id, m.form_item_id) for m in aside}
    since = [
        m
        for m in db.scalars(
            select(Mark).where(
                Mark.form_item_id == made.form_item_id,
                Mark.sitting_id.in_({sitting for sitting, _ in responses}),
                Mark.at > made.at,
            )
        )
    ]
    if since:
        n = len({m.sitting_id for m in since})
        raise Conflict(
            f"{n} of these responses {'has' if n == 1 else 'have'} been scored again since; withdraw these scores first"
        )
    for mark in aside:
        mark.aside = False
