"""Correcting a published form: a new version of it, and what becomes of the sessions that have the old one."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.services.owed.dealing import assign
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, owner_of_new, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import CompanionRule, Form, FormItem, PlannedSession, Sitting


@dataclass(frozen=True, kw_only=True)
class Touched:
    """A session that has the old form. begun, left: students who have begun it and who have not. moves: by itself once
    the correction is published, as nobody has begun; otherwise somebody is asked."""

    session_id: Id
    klass: str
    start: datetime
    begun: int
    left: int
    closed: bool
    moves: bool


@dataclass(frozen=True, kw_only=True)
class Correction:
    """Of a form: the version before it, the one after it, and the sessions that a correction touches."""

    before_id: Id | None
    before: str
    after_id: Id | None
    after: str
    after_published: bool
    touched: list[Touched]
    says: str


def correct(ctx: Context, actor: Actor, form_id: int) -> int:
    """A draft with the same items, to be changed and published in the form's place. Its id."""
    allowed = scope(actor, Action.TESTS_WRITE)

    def work(db: Session) -> int:
        form = db.scalar(select(Form).where(Form.id == form_id, allowed))
        if form is None:
            raise NotFound("there is no such form, or it is not yours to change")
        if form.published_at is None:
            raise Conflict(f"{form.name} is a draft: change it as it is")
        after = db.scalar(select(Form).where(Form.before_id == form.id))
        if after is not None:
            raise Conflict(f"{after.name} corrects {form.name} already; go on with that one")
        number = 2
        while db.scalar(select(Form.id).where(Form.name == f"{form.name}, version {number}")) is not None:
            number += 1
        made = Form(
            name=f"{form.name}, version {number}",
            title=form.title,
            subject=form.subject,
            grade=form.grade,
            created_at=ctx.clock(),
            owner_id=owner_of_new(actor),
            kind=form.kind,
            unit=form.unit,
            role=form.role,
            scale=form.scale,
            plan=form.plan,
            settings=form.settings,
            blueprint_id=form.blueprint_id,
            family_id=form.family_id,
            before_id=form.id,
            mirror_id=form.mirror_id,
        )
        made.items = [
            FormItem(position=i.position, part=i.part, item_version_id=i.item_version_id, face=i.face)
            for i in form.items
        ]
        db.add(made)
        db.flush()
        audit.record(db, ctx.clock(), actor.person_id, "form.correct", f"form:{made.id}", None, {"of": form_id})
        return made.id

    return ctx.store.write(work)


def about(ctx: Context, actor: Actor, form_id: int) -> Correction:
    """The correction that a form has or is, and the sessions that it touches."""
    allowed = scope(actor, Action.TESTS_READ)
    with ctx.store.read() as db:
        form = db.scalar(select(Form).where(Form.id == form_id, allowed))
        if form is None:
            raise NotFound("there is no such form")
        before = db.get(Form, form.before_id) if form.before_id is not None else None
        after = db.scalar(select(Form).where(Form.before_id == form.id))
        found = touched(db, before.id) if before is not None else []
        return Correction(
            before_id=form.before_id,
            before=before.name if before else "",
            after_id=after.id if after else None,
            after=after.name if after else "",
            after_published=after is not None and after.published_at is not None,
            touched=found,
            says=_says(form, before, found),
        )


def touched(db: Session, form_id: int) -> list[Touched]:
    """Sessions in which somebody has this form, what is still open first."""
    sessions = db.scalars(
        select(PlannedSession)
        .where((PlannedSession.form_id == form_id) | PlannedSession.sittings.any(Sitting.form_id == form_id))
        .order_by(PlannedSession.closed_at.is_not(None), PlannedSession.start)
    ).all()
    found = []
    for session in sessions:
        counts = dict(
            db.execute(
                select(Sitting.started_at.is_not(None), func.count())
                .where(Sitting.session_id == session.id, func.coalesce(Sitting.form_id, session.form_id) == form_id)
                .group_by(Sitting.started_at.is_not(None))
            ).all()
        )
        begun, left = counts.get(True, 0), counts.get(False, 0)
        closed = session.closed_at is not None
        found.append(
            Touched(
                session_id=session.id,
                klass=session.klass.title,
                start=session.start,
                begun=begun,
                left=left,
                closed=closed,
                moves=not begun and not closed,
            )
        )
    return found


def _says(form: Form, before: Form | None, found: list[Touched]) -> str:
    if before is None:
        return ""
    if not found:
        return f"{form.name} corrects {before.name}, which no session has."
    moves = sum(t.moves for t in found)
    asked = sum(not t.moves and not t.closed for t in found)
    closed = sum(t.closed for t in found)
    parts = []
    if form.published_at is None:
        parts.append(f"{moves} {'session moves' if moves == 1 else 'sessions move'} to it when it is published")
    if asked:
        parts.append(
            f"{asked} {'has' if asked == 1 else 'have'} students who have started: decide there who receives the correction"
        )
    if closed:
        parts.append(f"{closed} {'is' if closed == 1 else 'are'} closed and stay with {before.name}")
    return f"{form.name} corrects {before.name}. " + ("; ".join(parts) + "." if parts else "Every session has moved.")


def move_unbegun(db: Session, form: Form) -> list[int]:
    """To be called in the transaction that publishes a correction: sessions in which nobody has begun move to it, and
    so do the rules of its family. Ids of the sessions."""
    if form.before_id is None:
        return []
    for rule in db.scalars(select(CompanionRule).where(CompanionRule.form_id == form.before_id)):
        rule.form_id = form.id
    moved = []
    for t in touched(db, form.before_id):
        session = db.get_one(PlannedSession, t.session_id)
        if t.moves:
            _move(db, session, form)
            moved.append(session.id)
    return moved


def _move(db: Session, session: PlannedSession, form: Form) -> None:
    """Whoever has not begun receives the correction; the session's own form changes where nobody has begun at all."""
    if session.form_id == form.before_id and not any(s.started_at for s in session.sittings):
        session.form_id = form.id
    else:
        session.renewed = True
    db.flush()
    assign(db, session)
    session.data_version += 1
    db.flush()


def move(ctx: Context, actor: Actor, form_id: int, session_id: int) -> None:
    """Asked and answered: in this session, those who have not begun receive the correction; who has begun stays."""
    allowed = scope(actor, Action.TESTS_WRITE)

    def work(db: Session) -> None:
        form = db.scalar(select(Form).where(Form.id == form_id, allowed))
        if form is None or form.before_id is None:
            raise NotFound("there is no such correction, or it is not yours")
        if form.published_at is None:
            raise Conflict(f"publish {form.name} first")
        session = db.scalar(
            select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, Action.SESSIONS_PLAN))
        )
        if session is None or session_id not in {t.session_id for t in touched(db, form.before_id)}:
            raise NotFound("there is no such session with the form before, or it is not yours")
        if session.closed_at is not None:
            raise Conflict("this session is closed; no one can start anymore")
        _move(db, session, form)
        audit.record(
            db, ctx.clock(), actor.person_id, "session.correct", f"session:{session_id}", form.before_id, form_id
        )

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"corrected": True})
