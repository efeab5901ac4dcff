"""Results that are out: one test released to students and families, but for one student whose result is held back."""

from __future__ import annotations

from sqlalchemy import select

from bildung.services.releasing import making
from bildung.services.releasing.making import ReleaseWish
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import PlannedSession, Sitting


def results_out(ctx: Context, actor: Actor, form: int, window: int) -> None:
    """The sessions of a form in a window: points and standards to all, one student's held back."""
    with ctx.store.read() as db:
        sessions = list(
            db.scalars(
                select(PlannedSession.id)
                .where(PlannedSession.form_id == form, PlannedSession.window_id == window)
                .order_by(PlannedSession.id)
            )
        )
        one = db.scalars(
            select(Sitting.id)
            .where(Sitting.session_id == sessions[0], Sitting.state == "handed_in")
            .order_by(Sitting.id.desc())
            .limit(1)
        ).one()
    making.hold_back(ctx, actor, one, "The family asked for a talk first.")
    wish = ReleaseWish(
        sessions=tuple(sessions), audiences=("student", "family"), shows=("points", "standards", "answers", "comments")
    )
    making.release_results(ctx, actor, wish)
