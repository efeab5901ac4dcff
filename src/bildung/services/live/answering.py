"""A round as a student's device takes part in it, and response devices that a hub brings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.services.live.asked import Asked, ShownQuestion, questions_of, shown_question, topic
from bildung.services.live.rounds import _open
from bildung.services.shared.access import Action, Actor, Own, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.sitting.feedback import Told, tell
from bildung.store.models import Enrolment, LiveAnswer, LiveRound, LiveSeat, ResponseDevice, SchoolClass

Way = Literal["school", "home"]
MOST_PRESSES = 500
MOST_DEVICE = 999


@dataclass(frozen=True, kw_only=True)
class LiveForStudent:
    """What a device shows. on: whether a class of theirs has a round. told: what was right of the answer, once the projector
    shows it."""

    on: bool
    klass: str
    question: ShownQuestion | None
    answer: str
    told: Told | None


NOTHING = LiveForStudent(on=False, klass="", question=None, answer="", told=None)


def live_class(db: Session, person_id: int) -> str:
    """The class of a student that has a round now; empty where none has."""
    mine = _mine(db, person_id)
    return mine[1].title if mine else ""


def _mine(db: Session, person_id: int) -> tuple[LiveRound, SchoolClass] | None:
    """The newest open round of a class that they are in."""
    row = db.execute(
        select(LiveRound, SchoolClass)
        .join(SchoolClass, SchoolClass.id == LiveRound.class_id)
        .join(Enrolment, Enrolment.class_id == SchoolClass.id)
        .where(
            Enrolment.person_id == person_id,
            Enrolment.role == "student",
            Enrolment.active.is_(True),
            LiveRound.ended_at.is_(None),
        )
        .order_by(LiveRound.id.desc())
        .limit(1)
    ).first()
    return (row[0], row[1]) if row else None


def round_of(ctx: Context, own: Own) -> int | None:
    """The id of the round that a student can take part in."""
    with ctx.store.read() as db:
        mine = _mine(db, own.person_id)
        return mine[0].id if mine else None


def look(ctx: Context, own: Own, way: Way = "school") -> LiveForStudent:
    """What there is to answer; whoever looks is in the round."""
    if way not in get_args(Way):
        raise Invalid(f"one of {', '.join(get_args(Way))}", "way")

    def work(db: Session) -> tuple[int | None, bool]:
        mine = _mine(db, own.person_id)
        if mine is None:
            return None, False
        return mine[0].id, _sit(ctx, db, mine[0].id, own.person_id, way)

    round_id, new = ctx.store.write(work)
    if round_id is None:
        return NOTHING
    if new:
        ctx.bus.publish(topic(round_id), {"joined": True})
    with ctx.store.read() as db:
        round_ = db.get_one(LiveRound, round_id)
        klass = db.get_one(SchoolClass, round_.class_id)
        asked = questions_of(db, round_)
        current = asked[-1] if asked else None
        given = "" if current is None else _given(db, current, own.person_id)
        return LiveForStudent(
            on=True,
            klass=klass.title,
            question=shown_question(current) if current else None,
            answer=given,
            told=_told(current, given),
        )


def _given(db: Session, asked: Asked, person_id: int) -> str:
    row = db.get(LiveAnswer, (asked.question.id, person_id))
    return row.answer if row is not None else ""


def _told(asked: Asked | None, answer: str) -> Told | None:
    if asked is None or asked.question.shown != "right" or asked.version is None or asked.content is None:
        return None
    return tell(asked.question.id, asked.number, asked.version.kind, asked.content, answer)


def _sit(ctx: Context, db: Session, round_id: int, person_id: int, way: str) -> bool:
    """Whether they are new in the round."""
    seat, now = db.get(LiveSeat, (round_id, person_id)), ctx.clock()
    if seat is None:
        db.add(LiveSeat(round_id=round_id, person_id=person_id, way=way, joined_at=now, seen_at=now))
        return True
    seat.seen_at, seat.way = now, way
    return False


def answer(ctx: Context, own: Own, question_id: int, text: str, way: Way = "school") -> None:
    """The newest answer counts, until the answers are shown."""

    def work(db: Session) -> int:
        mine = _mine(db, own.person_id)
        if mine is None:
            raise Conflict("this round is over")
        current = questions_of(db, mine[0])
        if not current or current[-1].question.id != question_id:
            raise Conflict("the class is at another question")
        _keep(ctx, db, current[-1], own.person_id, text, way)
        _sit(ctx, db, mine[0].id, own.person_id, way)
        return mine[0].id

    round_id = ctx.store.write(work)
    ctx.bus.publish(topic(round_id), {"answered": True})


def _keep(ctx: Context, db: Session, asked: Asked, person_id: int, text: str, way: str) -> None:
    if asked.question.closed_at is not None:
        raise Conflict("answers to this question are shown already")
    why = asked.unfit(text)
    if why:
        raise Invalid(why, "answer")
    row = db.get(LiveAnswer, (asked.question.id, person_id))
    if row is None:
        db.add(LiveAnswer(question_id=asked.question.id, person_id=person_id, answer=text, way=way, at=ctx.clock()))
    else:
        row.answer, row.way, row.at = text, way, ctx.clock()


@dataclass(frozen=True)
class Press:
    """What a response device sent. option: its letter."""

    device: int
    option: str


@dataclass(frozen=True)
class Pressed:
    """taken: presses that count; unknown: numbers that are bound to no student of the class; late: came after the answers were
    shown, or fit no option."""

    taken: int
    unknown: list[int]
    late: int


def press(ctx: Context, actor: Actor, round_id: int, presses: Sequence[Press]) -> Pressed:
    """Presses as the hub brings them; the newest of a device counts, and one that comes twice changes nothing."""
    if len(presses) > MOST_PRESSES:
        raise Invalid(f"at most {MOST_PRESSES} presses at once", "presses")

    def work(db: Session) -> Pressed:
        round_ = _open(db, actor, round_id)
        asked = questions_of(db, round_)
        if not asked:
            raise Conflict("no question was asked yet")
        bound = devices_of(db, round_.class_id)
        taken, unknown, late = 0, set[int](), 0
        for one in presses:
            person = bound.get(one.device)
            if person is None:
                unknown.add(one.device)
                continue
            try:
                _keep(ctx, db, asked[-1], person, one.option.strip().upper(), "device")
            except (Conflict, Invalid):
                late += 1
                continue
            _sit(ctx, db, round_id, person, "device")
            db.flush()
            taken += 1
        return Pressed(taken, sorted(unknown), late)

    done = ctx.store.write(work)
    ctx.bus.publish(topic(round_id), {"answered": True})
    return done


def devices_of(db: Session, class_id: int) -> dict[int, int]:
    """Student by number of their response device."""
    rows = db.scalars(select(ResponseDevice).where(ResponseDevice.class_id == class_id))
    return {row.number: row.person_id for row in rows}


def bound(ctx: Context, actor: Actor, class_id: int) -> dict[int, int]:
    """Number of the response device, by student of a class."""
    with ctx.store.read() as db:
        allowed = scope(actor, Action.CLASSES_RUN)
        if db.scalar(select(SchoolClass.id).where(SchoolClass.id == class_id, allowed)) is None:
            raise NotFound("there is no such class, or it is not yours")
        return {person: number for number, person in devices_of(db, class_id).items()}


def bind(ctx: Context, actor: Actor, class_id: int, numbers: dict[int, int]) -> None:
    """Whose device each number is: by student, all of the class at once. Each number once."""

    def work(db: Session) -> None:
        allowed = scope(actor, Action.CLASSES_RUN)
        if db.scalar(select(SchoolClass.id).where(SchoolClass.id == class_id, allowed)) is None:
            raise NotFound("there is no such class, or it is not yours")
        members = set(
            db.scalars(
                select(Enrolment.person_id).where(
                    Enrolment.class_id == class_id, Enrolment.role == "student", Enrolment.active.is_(True)
                )
            )
        )
        if not set(numbers) <= members:
            raise NotFound("there is no such student in this class")
        if len(set(numbers.values())) < len(numbers):
            raise Invalid("each device number belongs to one student", "numbers")
        if any(not 1 <= number <= MOST_DEVICE for number in numbers.values()):
            raise Invalid(f"device numbers are 1 to {MOST_DEVICE}", "numbers")
        db.execute(delete(ResponseDevice).where(ResponseDevice.class_id == class_id))
        db.add_all(
            ResponseDevice(class_id=class_id, number=number, person_id=person) for person, number in numbers.items()
        )

    ctx.store.write(work)
