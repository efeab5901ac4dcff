"""A student's sitting: what is shown, every answer kept, handing in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.formats.answers import unfit
from bildung.formats.content import Shown
from bildung.services.access import Sitter
from bildung.services.accommodations import end_for, needs_row
from bildung.services.bank import StimulusView, shown_safely, stimulus_view
from bildung.services.context import Context
from bildung.services.errors import Conflict, Invalid
from bildung.store.models import (
    Accommodation,
    Form,
    FormItem,
    ItemVersion,
    Person,
    PlannedSession,
    Response,
    ResponseEvent,
    Sitting,
)

MAX_BATCH = 300


@dataclass(frozen=True)
class Question:
    """What a student sees of an item: never key, points or code."""

    id: int
    number: int
    shown: Shown
    stimulus: StimulusView | None
    answer: str


@dataclass(frozen=True)
class Paper:
    """end: this student's own, extra time included. large_print, read_aloud: how they need it."""

    sitting: int
    title: str
    name: str
    state: str
    end: Any
    takeover: int
    sequence: int
    questions: list[Question]
    large_print: bool = False
    read_aloud: bool = False


@dataclass(frozen=True)
class Answer:
    """One answer as the device sends it. id: made there. takeover and sequence: its place in the order."""

    id: str
    question: int
    answer: str
    takeover: int
    sequence: int


@dataclass(frozen=True)
class Receipt:
    """acknowledged: ids that are on disk. refused: id and why. takeover: the newest device's number."""

    acknowledged: list[str]
    refused: list[tuple[str, str]]
    takeover: int
    state: str


def paper(ctx: Context, sitter: Sitter) -> Paper:
    """The form with this student's present answers, for a first look or after a reload."""
    with ctx.store.read() as db:
        sitting = db.get_one(Sitting, sitter.sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        form, person = db.get_one(Form, session.form_id), db.get_one(Person, sitter.person_id)
        given = {r.form_item_id: r for r in db.scalars(select(Response).where(Response.sitting_id == sitting.id))}
        latest = max((r.sequence for r in given.values() if r.takeover == sitter.takeover), default=0)
        rows = db.execute(
            select(FormItem, ItemVersion).join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
            .where(FormItem.form_id == form.id).order_by(FormItem.position)
        ).all()  # fmt: skip
        questions = [
            Question(
                item.id, item.position, shown_safely(version), stimulus_view(version.stimulus),
                given[item.id].answer if item.id in given else "",
            )
            for item, version in rows
        ]  # fmt: skip
        shown = [] if sitting.state != "answering" else questions
        needs = needs_row(db.get(Accommodation, person.id))
        return Paper(
            sitting.id, form.title, person.given, sitting.state, end_for(db, session, person.id), sitter.takeover, latest,
            shown, needs.large_print, needs.read_aloud,
        )  # fmt: skip


def save(ctx: Context, sitter: Sitter, answers: list[Answer]) -> Receipt:
    """Keep answers; returns once they are on disk. The same message twice counts once."""
    if len(answers) > MAX_BATCH:
        raise Invalid(f"{len(answers)} answers; at most {MAX_BATCH} at once", "answers")
    moved: dict[str, Any] = {}

    def work(db: Session) -> Receipt:
        sitting = db.get_one(Sitting, sitter.sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        closed = sitting.state != "answering" or session.closed_at is not None
        form_items = {
            id: shown
            for id, shown in db.execute(
                select(FormItem.id, ItemVersion.shown)
                .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
                .where(FormItem.form_id == session.form_id)
            )
        }
        acknowledged: list[str] = []
        refused: list[tuple[str, str]] = []
        for answer in answers:
            known = db.get(ResponseEvent, answer.id)
            if known is not None:
                same = (known.sitting_id, known.form_item_id, known.answer, known.takeover, known.sequence) == (
                    sitting.id, answer.question, answer.answer, answer.takeover, answer.sequence,
                )  # fmt: skip
                if same:
                    acknowledged.append(answer.id)
                else:
                    refused.append((answer.id, "this message was used for something else"))
                continue
            why = _unfit(answer, form_items, sitter) or ("the sitting is handed in" if closed else "")
            if why:
                refused.append((answer.id, why))
                continue
            db.add(
                ResponseEvent(
                    id=answer.id, sitting_id=sitting.id, form_item_id=answer.question, answer=answer.answer,
                    takeover=answer.takeover, sequence=answer.sequence, at=ctx.clock(),
                )
            )  # fmt: skip
            apply_event(db, sitting.id, answer)
            acknowledged.append(answer.id)
            moved["session"] = session.id
        if moved:
            sitting.last_at = ctx.clock()
            session.data_version += 1
        return Receipt(acknowledged, refused, sitting.takeover, sitting.state)

    receipt = ctx.store.write(work)
    if moved:
        ctx.bus.publish(f"session:{moved['session']}", {"sitting": str(sitter.sitting_id)})
    return receipt


def _unfit(answer: Answer, form_items: dict[int, dict[str, Any]], sitter: Sitter) -> str:
    """Why an answer cannot be kept, or nothing."""
    if answer.question not in form_items:
        return "this question is not on your test"
    if answer.takeover > sitter.takeover or answer.sequence < 1 or not 8 <= len(answer.id) <= 64:
        return "the message is not in order"
    return unfit(Shown.model_validate(form_items[answer.question]), answer.answer)


def apply_event(db: Session, sitting_id: int, answer: Answer) -> None:
    """Move the present answer on, unless a later one is there: by takeover and sequence, never by arrival."""
    present = db.get(Response, (sitting_id, answer.question))
    if present is None:
        db.add(
            Response(
                sitting_id=sitting_id, form_item_id=answer.question, answer=answer.answer, takeover=answer.takeover,
                sequence=answer.sequence,
            )
        )  # fmt: skip
    elif (answer.takeover, answer.sequence) > (present.takeover, present.sequence):
        present.answer, present.takeover, present.sequence = answer.answer, answer.takeover, answer.sequence


def rebuild(db: Session, sitting_id: int) -> None:
    """Make the present answers again from the events alone."""
    for old in db.scalars(select(Response).where(Response.sitting_id == sitting_id)):
        db.delete(old)
    db.flush()
    for event in db.scalars(select(ResponseEvent).where(ResponseEvent.sitting_id == sitting_id)):
        apply_event(db, sitting_id, Answer(event.id, event.form_item_id, event.answer, event.takeover, event.sequence))
        db.flush()


def hand_in(ctx: Context, sitter: Sitter) -> None:
    """Final for the student; a second time changes nothing and says so."""

    def work(db: Session) -> int:
        sitting = db.get_one(Sitting, sitter.sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        if sitting.state == "handed_in":
            raise Conflict("you have handed in already; nothing was changed")
        if sitting.state != "answering":
            raise Conflict("this sitting is not open; ask the person in the room")
        sitting.state, sitting.handed_in_at, sitting.last_at = "handed_in", ctx.clock(), ctx.clock()
        session.data_version += 1
        return session.id

    session_id = ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitter.sitting_id)})
