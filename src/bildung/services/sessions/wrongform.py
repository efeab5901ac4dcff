"""A student who has started on a form that was not theirs: go on with it, or go over to the right one with what was
answered on both. What cannot wait is settled here; a submitted attempt is left to scoring."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import uuid4

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.formats.answers import unfit
from bildung.formats.content import Shown
from bildung.formats.face import faced
from bildung.services.calendar.years import zone_of
from bildung.services.owed.dealing import claims_of, draw_for, form_of, superseded
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.services.sitting import taking
from bildung.services.sitting.events import Answer, put_event
from bildung.store.models import Form, FormItem, ItemVersion, PlannedSession, Response, Sitting

LONGEST_WHY = 300


@dataclass(frozen=True, kw_only=True)
class OtherForm:
    """A form of the family that the student could go over to. why: what names it for them, empty where nothing does.
    shared: how many of the questions they have answered are on it too."""

    form_id: Id
    form: str
    why: str
    shared: int


@dataclass(frozen=True, kw_only=True)
class FormChoices:
    """says: what the student is taking and has answered. answered: questions with an answer. others: named ones first."""

    says: str
    form: str
    answered: int
    others: list[OtherForm]


def choices(ctx: Context, actor: Actor, session_id: int, sitting_id: int) -> FormChoices:
    """What a student in the middle of a test could go over to."""
    with ctx.store.read() as db:
        session, sitting = _attempt(db, actor, session_id, sitting_id)
        form = form_of(db, session, sitting)
        given = _given(db, sitting, form)
        day = session.start.astimezone(zone_of(db)).date()
        claims = claims_of(db, form.family, [sitting.person_id], day) if form.family else {}
        named = {c.form: c.why for c in claims.get(sitting.person_id, ())}
        others = [
            OtherForm(
                form_id=other.id,
                form=other.name,
                why=named.get(other.id, ""),
                shared=len(_carried(db, session, sitting, given, other)),
            )
            for other in _others(form)
        ]
    others.sort(key=lambda o: (not o.why, o.form))
    says = f"This student is taking {form.name} and has answered {counted(len(given), 'question')}."
    return FormChoices(says=says, form=form.name, answered=len(given), others=others)


def go_on(ctx: Context, actor: Actor, session_id: int, sitting_id: int, why: str) -> None:
    """They keep the form that they have; the note stays with the attempt."""
    why = need_text(why, "why", LONGEST_WHY)

    def work(db: Session) -> None:
        session, sitting = _attempt(db, actor, session_id, sitting_id)
        form = form_of(db, session, sitting)
        _note(ctx, db, actor, sitting, f"went on with {form.name}: {why}", why)

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitting_id)})


def change_over(
    ctx: Context, actor: Actor, session_id: int, sitting_id: int, form_id: int, carry: bool, why: str
) -> None:
    """They go on with another form of the family, in the time that is left. carry: with their answers to questions that
    are on both; the others stay on record and count in nothing."""
    why = need_text(why, "why", LONGEST_WHY)

    def work(db: Session) -> None:
        session, sitting = _attempt(db, actor, session_id, sitting_id)
        before = form_of(db, session, sitting)
        other = next((f for f in _others(before) if f.id == form_id), None)
        if other is None:
            raise Invalid("choose another published form of the same test", "form_id")
        given = _given(db, sitting, before)
        carried = _carried(db, session, sitting, given, other) if carry else {}
        db.execute(delete(Response).where(Response.sitting_id == sitting.id))
        sitting.form_id = None if other.id == session.form_id else other.id
        sitting.takeover += 1  # the device with the other form keeps nothing more
        sitting.reached, sitting.section_at, sitting.checked = 0, 0, None
        found = draw_for(db, other, session)
        sitting.seed, sitting.drawn = (None, None) if found is None else (found[0], list(found[1].items))
        db.flush()
        for sequence, (place, text) in enumerate(carried.items(), 1):
            answer = Answer(
                id=f"carried-{uuid4()}", question=place, answer=text, takeover=sitting.takeover, sequence=sequence
            )
            put_event(db, sitting.id, answer, ctx.clock())
        session.data_version += 1
        told = f"went over from {before.name} to {other.name}"
        if given:
            told += f", with {len(carried)} of {counted(len(given), 'answer')}"
        _note(ctx, db, actor, sitting, f"{told}: {why}", why)

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitting_id)})
    ctx.bus.publish(taking.topic(session_id), {"sitting": str(sitting_id)})


def _attempt(db: Session, actor: Actor, session_id: int, sitting_id: int) -> tuple[PlannedSession, Sitting]:
    """One that is in progress."""
    session = db.scalar(
        select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, Action.SESSIONS_RUN))
    )
    sitting = db.get(Sitting, sitting_id)
    if session is None or sitting is None or sitting.session_id != session.id:
        raise NotFound("there is no such attempt, or it is not yours")
    if sitting.state == "not_started":
        raise Conflict("this student has not started; set the form on the test family's page")
    if sitting.state != "answering" or session.closed_at is not None or sitting.attempt > 1:
        raise Conflict("this attempt is over; what is wrong with its form is settled when it is scored")
    return session, sitting


def _others(form: Form) -> list[Form]:
    """Published forms of the family, without those that a correction took the place of."""
    if form.family is None:
        return []
    gone = superseded(form.family)
    return [f for f in form.family.forms if f.id != form.id and f.published_at is not None and f.id not in gone]


def _given(db: Session, sitting: Sitting, form: Form) -> dict[int, str]:
    """Answers that are not empty, by item version."""
    rows = db.execute(
        select(FormItem.item_version_id, Response.answer)
        .join(Response, Response.form_item_id == FormItem.id)
        .where(Response.sitting_id == sitting.id, FormItem.form_id == form.id, Response.answer != "")
    )
    return {version: answer for version, answer in rows}


def _carried(
    db: Session, session: PlannedSession, sitting: Sitting, given: dict[int, str], other: Form
) -> dict[int, str]:
    """Answers by place on the other form: of the same version of an item, where that form shows what was chosen."""
    places = db.execute(
        select(FormItem, ItemVersion)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.form_id == other.id, ItemVersion.id.in_(given))
    ).all()
    found = {}
    for place, version in places:
        if session.part is not None and place.part != session.part:
            continue
        shown = faced(Shown.model_validate(version.shown), place.face)
        if not unfit(shown, given[version.id]):
            found[place.id] = given[version.id]
    return found


def _note(ctx: Context, db: Session, actor: Actor, sitting: Sitting, text: str, why: str) -> None:
    at = dates_of(db).time(ctx.clock().astimezone(zone_of(db)))
    sitting.note = f"{sitting.note}; {at}, {text}" if sitting.note else f"{at}, {text}"
    audit.record(db, ctx.clock(), actor.person_id, "sitting.form", f"sitting:{sitting.id}", None, text, why)
