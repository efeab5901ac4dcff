"""Answers are kept. Students come first: a save costs the same whatever the form, the class and the store hold.

What a paper may be answered with is known beforehand (`answerable`); the one writer is held for what must be decided there:
whether the attempt is open now, whether a message came before, and which answer is the present one.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import Future
from dataclasses import dataclass, field
from datetime import datetime
from typing import Annotated, Any

from sqlalchemy import Connection, Row, bindparam, select, tuple_, update
from sqlalchemy.dialects.sqlite import insert

from bildung.core.school.timing import time_added, worked
from bildung.formats.answers import unfit
from bildung.formats.content import Shown
from bildung.services.shared.access import Sitter
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotSignedIn
from bildung.services.shared.wire import Named, listed
from bildung.services.sitting.answerable import Answerable, answerable
from bildung.services.sitting.events import Answer
from bildung.services.sitting.refused import keep_refused
from bildung.services.sitting.visits import Visit, keep_visits
from bildung.services.sitting.work import keep_work
from bildung.store.models import (
    LaterAttempt,
    Person,
    PlannedSession,
    Response,
    ResponseEvent,
    SignIn,
    Sitting,
    TimeOn,
)

MAX_BATCH = 300
LONGEST_SHOWN = 24 * 3_600_000  # milliseconds on one item that are believed; a device's clock may be wrong
LAST_SEQUENCE = 2**31


@dataclass(frozen=True)
class Receipt:
    """acknowledged: ids that are on disk. refused: id and why. takeover: the newest device's number."""

    acknowledged: list[str]
    refused: Annotated[list[tuple[str, str]], listed(Named)]
    takeover: int
    state: str


@dataclass(frozen=True, kw_only=True)
class Message:
    """What a device sends at once. reached: the place the student has come to, where the test runs one way. times:
    milliseconds that this device has shown each item so far; practice is not timed. visits: since the last message.
    section_ago: seconds since the student came to their section, where sections end by their own minutes."""

    answers: Sequence[Answer]
    reached: int = 0
    times: Mapping[int, int] = field(default_factory=dict)
    visits: Sequence[Visit] = ()
    section_ago: float = 0.0


def save(
    ctx: Context, sitter: Sitter, answers: Sequence[Answer], reached: int = 0, times: Mapping[int, int] | None = None
) -> Receipt:
    """Keep answers; returns once they are on disk. Each is judged by itself: one that cannot be kept holds up no other.
    The same message twice counts once. Answers to places left behind are refused where the test runs one way."""
    return saving(ctx, sitter, Message(answers=answers, reached=reached, times=times or {}), known=True).result()


def saving(ctx: Context, sitter: Sitter, message: Message, known: bool = False) -> Future[Receipt]:
    """The same without waiting for it. known: the sign-in was looked at a moment ago; else it is looked at where the
    answers are written, so that one that has ended keeps nothing."""
    if len(message.answers) > MAX_BATCH:
        raise Invalid(f"{len(message.answers)} answers; at most {MAX_BATCH} at once", "answers")
    told: list[int] = []

    def work(connection: Connection) -> Receipt:
        told.clear()
        if not known and not connection.scalar(_SIGNED_IN, _whose(ctx, sitter)):
            raise NotSignedIn("sign in to continue")
        receipt, session = _keep(ctx, connection, sitter, message)
        told.extend(session)
        return receipt

    def tell(done: Future[Receipt]) -> None:
        if done.exception() is None:
            for session in told:
                ctx.bus.publish(f"session:{session}", {"sitting": str(sitter.sitting_id)})

    future = ctx.store.write_soon(work)
    future.add_done_callback(tell)
    return future


_SIGNED_IN = (
    select(SignIn.id)
    .join(Person, Person.id == SignIn.person_id)
    .where(
        SignIn.id == bindparam("id"),
        SignIn.sitting_id == bindparam("sitting"),
        SignIn.revoked_at.is_(None),
        SignIn.expires_at > bindparam("now"),
        Person.active.is_(True),
    )
)


def _whose(ctx: Context, sitter: Sitter) -> dict[str, Any]:
    return {"id": sitter.sign_in_id, "sitting": sitter.sitting_id, "now": ctx.clock()}


_ATTEMPT = (
    select(
        Sitting.state,
        Sitting.takeover,
        Sitting.attempt,
        Sitting.session_id,
        Sitting.reached,
        Sitting.drawn,
        Sitting.checked,
        Sitting.form_id,
        Sitting.section_at,
        Sitting.clock_from,
        Sitting.started_at,
        Sitting.added_seconds,
        Sitting.paused_at,
        PlannedSession.form_id.label("form"),
        PlannedSession.part,
        PlannedSession.closed_at,
    )
    .join(PlannedSession, PlannedSession.id == Sitting.session_id)
    .where(Sitting.id == bindparam("id"))
)
_PRACTICE = select(
    LaterAttempt.id,
    LaterAttempt.answers,
    LaterAttempt.drawn,
    LaterAttempt.checked,
    LaterAttempt.reached,
    LaterAttempt.handed_in_at,
).where(LaterAttempt.sitting_id == bindparam("sitting"), LaterAttempt.number == bindparam("number"))
_KNOWN = select(
    ResponseEvent.id,
    ResponseEvent.sitting_id,
    ResponseEvent.form_item_id,
    ResponseEvent.answer,
    ResponseEvent.takeover,
    ResponseEvent.sequence,
).where(ResponseEvent.id.in_(bindparam("ids", expanding=True)))
_EVENT = insert(ResponseEvent).on_conflict_do_nothing()
_NEW = insert(Response)
_PRESENT = _NEW.on_conflict_do_update(
    index_elements=[Response.sitting_id, Response.form_item_id],
    set_={name: _NEW.excluded[name] for name in ("answer", "takeover", "sequence")},
    where=tuple_(_NEW.excluded.takeover, _NEW.excluded.sequence) > tuple_(Response.takeover, Response.sequence),
)
_TIMED = insert(TimeOn)
_TIME = _TIMED.on_conflict_do_update(
    index_elements=[TimeOn.sitting_id, TimeOn.form_item_id, TimeOn.takeover],
    set_={"milliseconds": _TIMED.excluded.milliseconds},
    where=_TIMED.excluded.milliseconds > TimeOn.milliseconds,
)
_SEEN = update(Sitting).where(Sitting.id == bindparam("of")).values(last_at=bindparam("now"))
_REACHED = (
    update(Sitting)
    .where(Sitting.id == bindparam("of"))
    .values(reached=bindparam("place"), section_at=bindparam("section"))
)
_MOVED = (
    update(PlannedSession)
    .where(PlannedSession.id == bindparam("of"))
    .values(data_version=PlannedSession.data_version + 1)
)


def _keep(ctx: Context, connection: Connection, sitter: Sitter, message: Message) -> tuple[Receipt, list[int]]:
    """What became of it, and the session whose answers moved, if they did."""
    sitting = connection.execute(_ATTEMPT, {"id": sitter.sitting_id}).one()
    practice = None
    if sitting.attempt > 1:
        wanted = {"sitting": sitter.sitting_id, "number": sitting.attempt}
        practice = connection.execute(_PRACTICE, wanted).one()
    at_hand = sitting if practice is None else practice
    paper = answerable(ctx, connection, sitting.form_id or sitting.form, sitting.part, at_hand.drawn)
    state = sitting.state
    if practice is not None:
        state = "answering" if practice.handed_in_at is None else "handed_in"
    open_ = _Open(
        paper=paper,
        left=set(list(paper.questions)[: paper.left(at_hand.reached)]) if paper.one_way or paper.sections else set(),
        final=set(at_hand.checked or ()),
        closed=state != "answering" or sitting.closed_at is not None,
    )
    now = ctx.clock()
    answers = [a for a in message.answers if a.about == "answer"]
    beside = [a for a in message.answers if a.about != "answer"]
    if practice is None:
        acknowledged, refused, new = _take(connection, open_, sitter, answers, now)
        if not open_.closed:
            _spend(connection, sitter, paper, message.times)
            keep_visits(connection, sitter, list(paper.questions), message.visits)
    else:
        acknowledged, refused, new = _practise(connection, open_, sitter, answers, practice)
    if beside:
        kept, not_kept = keep_work(connection, sitter, paper, beside, open_.closed, practice is not None)
        acknowledged, refused = [*acknowledged, *kept], [*refused, *not_kept]
    if not open_.closed and message.reached > at_hand.reached:
        place = min(message.reached, max(0, len(paper.questions) - 1))
        if practice is None:
            section = _section_at(sitting, paper, place, message.section_ago, now)
            connection.execute(_REACHED, {"of": sitter.sitting_id, "place": place, "section": section})
        else:
            connection.execute(update(LaterAttempt).where(LaterAttempt.id == practice.id).values(reached=place))
    if new:
        connection.execute(_SEEN, {"of": sitter.sitting_id, "now": now})
        if practice is None:
            connection.execute(_MOVED, {"of": sitting.session_id})
    receipt = Receipt(acknowledged, refused, sitting.takeover, state)
    return receipt, [sitting.session_id] if new else []


def _section_at(sitting: Any, paper: Answerable, place: int, ago: float, now: datetime) -> int:
    """At which second of the attempt's own clock the section began that holds a place; a device without a network says how
    long ago that was, and is believed as far as it can be so."""
    began = sitting.clock_from or sitting.started_at
    if began is None or paper.section(place) == paper.section(sitting.reached):
        return int(sitting.section_at)
    so_far = worked(began, time_added(sitting.added_seconds, sitting.paused_at, now), now)
    return max(int(sitting.section_at), round(so_far - max(0.0, ago)))


@dataclass(frozen=True, kw_only=True)
class _Open:
    """What can be answered at an attempt now. left: places left behind, where a test runs one way. final: places whose
    answers were told of. closed: nothing is taken any more."""

    paper: Answerable
    left: set[int]
    final: set[int]
    closed: bool

    def too_late(self, answer: Answer) -> str:
        """Why an answer that fits is not taken now, or nothing."""
        if self.closed:
            return "this test is already submitted"
        if answer.question in self.left:
            return "this question was left behind"
        return "this answer was already checked, so it stays" if answer.question in self.final else ""


Judged = tuple[list[str], list[tuple[str, str]], bool]


def _take(connection: Connection, open_: _Open, sitter: Sitter, answers: Sequence[Answer], now: datetime) -> Judged:
    """Ids that are kept, those refused with why, and whether any was new. Most messages are one answer that fits and is new:
    that is tried first, and only where it is not so is asked what came before."""
    if len(answers) == 1 and not _unfit(answers[0], open_.paper.questions, sitter) and not open_.too_late(answers[0]):
        row = _row(sitter, answers[0])
        if connection.execute(_EVENT, {"id": answers[0].id, "at": now, **row}).rowcount:
            connection.execute(_PRESENT, row)
            return [answers[0].id], [], True
    ids = [answer.id for answer in answers if _whole_text(answer.id)]
    known = {row[0]: tuple(row)[1:] for row in connection.execute(_KNOWN, {"ids": ids})} if ids else {}
    acknowledged: list[str] = []
    refused: list[tuple[str, str]] = []
    events: list[dict[str, Any]] = []
    for answer in answers:
        mine = tuple(_row(sitter, answer).values())
        before = known.get(answer.id)
        if before is not None:
            if before == mine:
                acknowledged.append(answer.id)
            else:
                refused.append((answer.id, "this message was used for something else"))
            continue
        why = _unfit(answer, open_.paper.questions, sitter)
        if not why and (why := open_.too_late(answer)):
            keep_refused(connection, sitter.sitting_id, answer, why, now)
        if why:
            refused.append((answer.id, why))
            continue
        known[answer.id] = mine
        acknowledged.append(answer.id)
        events.append({"id": answer.id, "at": now, **_row(sitter, answer)})
    if events:
        connection.execute(_EVENT, events)
        rows = [{name: value for name, value in event.items() if name not in ("id", "at")} for event in events]
        connection.execute(_PRESENT, rows)
    return acknowledged, refused, bool(events)


def _row(sitter: Sitter, answer: Answer) -> dict[str, Any]:
    return {
        "sitting_id": sitter.sitting_id,
        "form_item_id": answer.question,
        "answer": answer.answer,
        "takeover": answer.takeover,
        "sequence": answer.sequence,
    }


def _practise(
    connection: Connection, open_: _Open, sitter: Sitter, answers: Iterable[Answer], practice: Row[Any]
) -> Judged:
    """Answers of a later attempt, newest by takeover and sequence; no events are kept of them."""
    acknowledged: list[str] = []
    refused: list[tuple[str, str]] = []
    present: dict[str, list[Any]] = dict(practice.answers)
    for answer in answers:
        why = _unfit(answer, open_.paper.questions, sitter) or open_.too_late(answer)
        if why:
            refused.append((answer.id, why))
            continue
        acknowledged.append(answer.id)
        before = present.get(str(answer.question))
        if before is None or (answer.takeover, answer.sequence) > (before[1], before[2]):
            present[str(answer.question)] = [answer.answer, answer.takeover, answer.sequence]
    if acknowledged:
        connection.execute(update(LaterAttempt).where(LaterAttempt.id == practice.id).values(answers=present))
    return acknowledged, refused, bool(acknowledged)


def _spend(connection: Connection, sitter: Sitter, paper: Answerable, times: Mapping[int, int]) -> None:
    """A device's count only grows: a message that comes late changes nothing."""
    rows = [
        {
            "sitting_id": sitter.sitting_id,
            "form_item_id": item,
            "takeover": sitter.takeover,
            "milliseconds": min(max(0, milliseconds), LONGEST_SHOWN),
        }
        for item, milliseconds in times.items()
        if item in paper.questions
    ]
    if rows:
        connection.execute(_TIME, rows)


def _unfit(answer: Answer, form_items: Mapping[int, Shown], sitter: Sitter) -> str:
    """Why an answer cannot be kept, or nothing."""
    if answer.question not in form_items:
        return "this question is not on your test"
    if not (
        0 <= answer.takeover <= sitter.takeover and 1 <= answer.sequence <= LAST_SEQUENCE and 8 <= len(answer.id) <= 64
    ):
        return "the message is not in order"
    if not (_whole_text(answer.id) and _whole_text(answer.answer)):
        return "the answer holds half of a character"
    return unfit(form_items[answer.question], answer.answer)


def _whole_text(text: str) -> bool:
    """Whether a text can be written down: a device may cut a character of two halves in the middle."""
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return True
