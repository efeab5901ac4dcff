"""Answers of a test taken on paper, typed in: one attempt after the other, in the form's order, twice where that is wished."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from uuid import uuid4

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.items.shown import counted
from bildung.formats.content import Shown
from bildung.formats.face import faced
from bildung.formats.typed import Way, from_typed, letters_of, to_typed, way_of
from bildung.services.answers.packing import pack
from bildung.services.owed.dealing import form_of, places_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.services.sitting.events import Answer, put_event
from bildung.store.models import Person, PlannedSession, Response, Sitting

LONGEST_TYPED = 20_000


@dataclass(frozen=True, kw_only=True)
class EntryAttempt:
    """An attempt on paper. entered: answers that are in; done: it counts as submitted."""

    sitting: Id
    name: str
    form: str
    entered: int
    done: bool


@dataclass(frozen=True, kw_only=True)
class EntryPage:
    finding: str
    session_id: Id
    klass: str
    title: str
    attempts: list[EntryAttempt]


@dataclass(frozen=True, kw_only=True)
class EntryItem:
    """way: how it is typed. letters: that the form prints. typed: what is in."""

    place: Id
    number: int
    way: Way
    letters: str
    most: int
    typed: str


@dataclass(frozen=True, kw_only=True)
class EntrySheet:
    sitting: Id
    name: str
    form: str
    done: bool
    items: list[EntryItem]


@dataclass(frozen=True)
class Entered:
    """differs: numbers at which two typings are not the same, where nothing was kept; answers: that are in."""

    differs: list[int]
    answers: int


def entry_page(ctx: Context, actor: Actor, session_id: int) -> EntryPage:
    """Attempts of a session that were taken on paper."""
    with ctx.store.read() as db:
        session = paper_session(db, actor, session_id)
        rows = db.execute(
            select(Sitting, Person)
            .join(Person, Person.id == Sitting.person_id)
            .where(Sitting.session_id == session_id, Sitting.way == "paper")
            .order_by(Person.family, Person.given, Person.id)
        ).all()
        given = {
            id
            for id in db.scalars(
                select(Response.sitting_id).where(
                    Response.sitting_id.in_([s.id for s, _ in rows]), Response.answer != ""
                )
            )
        }
        attempts = [
            EntryAttempt(
                sitting=s.id,
                name=p.name,
                form=form_of(db, session, s).name,
                entered=_entered(db, s.id) if s.id in given else 0,
                done=s.state == "handed_in",
            )
            for s, p in rows
        ]
        return EntryPage(
            finding=_finding(attempts),
            session_id=session.id,
            klass=session.klass.title,
            title=session.title or session.form.title,
            attempts=attempts,
        )


def entry_sheet(ctx: Context, actor: Actor, session_id: int, sitting_id: int) -> EntrySheet:
    """One attempt, as its form prints it."""
    with ctx.store.read() as db:
        session, sitting = _attempt(db, actor, session_id, sitting_id)
        given = {
            r.form_item_id: r.answer for r in db.scalars(select(Response).where(Response.sitting_id == sitting.id))
        }
        person = db.get_one(Person, sitting.person_id)
        items = []
        for number, (place, shown) in enumerate(printed(db, session, sitting), 1):
            first = shown.parts[0]
            items.append(
                EntryItem(
                    place=place,
                    number=number,
                    way=way_of(shown),
                    letters=letters_of(shown),
                    most=int(getattr(first, "most", 1)),
                    typed=to_typed(shown, given.get(place, "")),
                )
            )
        return EntrySheet(
            sitting=sitting.id,
            name=person.name,
            form=form_of(db, session, sitting).name,
            done=sitting.state == "handed_in",
            items=items,
        )


def enter(
    ctx: Context,
    actor: Actor,
    session_id: int,
    sitting_id: int,
    typed: Mapping[int, str],
    again: Mapping[int, str] | None,
    submit: bool,
) -> Entered:
    """Keep what was typed. again: the second typing, where it is done twice; where the two differ nothing is kept. submit: the attempt
    counts as submitted, and its answers are in every figure. Invalid names the question that something is wrong with."""
    with ctx.store.read() as db:
        session, sitting = _attempt(db, actor, session_id, sitting_id)
        questions = printed(db, session, sitting)
    strange = set(typed) - {place for place, _ in questions}
    if strange:
        raise Invalid("one of these questions is not on this student's form", "answers")
    answers: dict[int, str] = {}
    for number, (place, shown) in enumerate(questions, 1):
        if place in typed:
            answers[place] = _read(shown, typed[place], number)
    if again is not None:
        differs = [
            number
            for number, (place, shown) in enumerate(questions, 1)
            if answers.get(place, "") != _read(shown, again.get(place, ""), number)
        ]
        if differs:
            return Entered(differs, 0)

    def work(db: Session) -> int:
        session, sitting = _attempt(db, actor, session_id, sitting_id)
        return put_answers(db, ctx, actor, session, sitting, answers, submit)

    found = ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitting_id)})
    return Entered([], found)


def put_answers(
    db: Session,
    ctx: Context,
    actor: Actor,
    session: PlannedSession,
    sitting: Sitting,
    answers: Mapping[int, str],
    submit: bool,
) -> int:
    """In the transaction of the writer: as events of their own, behind all that came before; how many answers are in."""
    present = {r.form_item_id: r.answer for r in db.scalars(select(Response).where(Response.sitting_id == sitting.id))}
    moved = {place: text for place, text in answers.items() if present.get(place, "") != text}
    if moved:
        sitting.takeover += 1
    for sequence, (place, text) in enumerate(moved.items(), 1):
        answer = Answer(
            id=f"typed-{uuid4()}", question=place, answer=text, takeover=sitting.takeover, sequence=sequence
        )
        put_event(db, sitting.id, answer, ctx.clock())
    if submit and sitting.state == "on_paper":
        sitting.state, sitting.handed_in_at = "handed_in", ctx.clock()
        sitting.started_at = sitting.started_at or session.start
    db.flush()
    session.data_version += 1
    if session.closed_at is not None:
        pack(db, session)
    after = {"answers": len(moved), "submitted": submit}
    audit.record(db, ctx.clock(), actor.person_id, "answers.type", f"sitting:{sitting.id}", None, after)
    return _entered(db, sitting.id)


def _read(shown: Shown, typed: str, number: int) -> str:
    if len(typed) > LONGEST_TYPED:
        raise Invalid(f"question {number}: at most {LONGEST_TYPED} characters", "answers")
    try:
        return from_typed(shown, typed)
    except Refused as error:
        raise Invalid(f"question {number}: {error}", "answers") from None


def printed(db: Session, session: PlannedSession, sitting: Sitting) -> list[tuple[int, Shown]]:
    """Questions of an attempt in the order of its form, as that prints them."""
    return [
        (place.id, faced(Shown.model_validate(version.shown), place.face))
        for place, version in places_of(db, session, sitting, sitting.drawn)
    ]


def paper_session(db: Session, actor: Actor, session_id: int) -> PlannedSession:
    """NotFound where it is not this person's to enter answers of."""
    session = db.scalar(select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, Action.SCORES_OWN)))
    if session is None:
        raise NotFound("there is no such session, or its answers are not yours to enter")
    return session


def _attempt(db: Session, actor: Actor, session_id: int, sitting_id: int) -> tuple[PlannedSession, Sitting]:
    session = paper_session(db, actor, session_id)
    sitting = db.get(Sitting, sitting_id)
    if sitting is None or sitting.session_id != session.id:
        raise NotFound("there is no such attempt in this session")
    if sitting.way != "paper" or sitting.state not in ("on_paper", "handed_in"):
        raise Conflict("this attempt was not taken on paper; mark it so on the session's page first")
    return session, sitting


def _entered(db: Session, sitting_id: int) -> int:
    wanted = select(Response.form_item_id).where(Response.sitting_id == sitting_id, Response.answer != "")
    return len(db.scalars(wanted).all())


def _finding(attempts: Sequence[EntryAttempt]) -> str:
    if not attempts:
        return "No one took this test on paper."
    left = sum(not a.done for a in attempts)
    if not left:
        return f"The answers of {counted(len(attempts), 'attempt')} on paper are entered."
    return f"{left} of {counted(len(attempts), 'attempt')} on paper {'waits' if left == 1 else 'wait'} to be entered."
