"""A round as whoever holds it runs it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal, get_args

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.live.following import Candidate, following
from bildung.core.live.tally import AskedTwice, Bar, advice, moved, strongest_wrong, tally
from bildung.formats.markup import bare_text
from bildung.services.bank.search import find_items
from bildung.services.calendar.years import local_today
from bildung.services.live.asked import (
    Asked,
    ShownQuestion,
    answers_to,
    asked_of,
    in_option,
    note_of,
    questions_of,
    says,
    shown_question,
    topic,
)
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope, secured_items
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import (
    Enrolment,
    Item,
    ItemStandard,
    ItemUse,
    ItemVersion,
    LiveQuestion,
    LiveRound,
    LiveSeat,
    Person,
    SchoolClass,
)

Showing = Literal["counting", "answers", "right"]
SILENT = timedelta(seconds=45)  # without a sign of a device, which asks every 15 seconds
STUCK = timedelta(seconds=60)  # without an answer, while most have answered
LONGEST_WORDS = 300
SUGGESTED = 3
FOUND, MOST_FOUND = 12, 200


@dataclass(frozen=True, kw_only=True)
class LiveBar:
    """One answer. says: an option in words. note: what somebody thinks who gives it."""

    answer: str
    says: str
    n: int
    share: float
    right: bool
    note: str


@dataclass(frozen=True, kw_only=True)
class LiveStudent:
    """Seen by whoever holds the round only. answer: given; right: None where nobody knows. way: school, home or device."""

    person: Id
    name: str
    way: str
    here: bool
    stuck: bool
    answer: str
    right: bool | None


@dataclass(frozen=True, kw_only=True)
class LiveSuggestion:
    """An item to go on with. p: the share of points that students earned on it the last time."""

    item: Id
    code: str
    p: float


@dataclass(frozen=True, kw_only=True)
class LiveQuestionView:
    """The question that is open. bars: always for whoever holds the round; before: of the first time it was asked. advice: go
    on, let them talk, or explain. right_words: the right answer in a line."""

    question: ShownQuestion
    code: str
    showing: Showing
    answered: int
    finding: str
    bars: list[LiveBar]
    before: list[LiveBar]
    moved: AskedTwice | None
    advice: str
    strongest_wrong: str
    harder: list[LiveSuggestion]
    easier: list[LiveSuggestion]


@dataclass(frozen=True, kw_only=True)
class LiveSummaryLine:
    """One question of a round that is over. share: of right answers; None for one said aloud."""

    number: int
    what: str
    again: bool
    answered: int
    right: int
    share: float | None


@dataclass(frozen=True, kw_only=True)
class LivePage:
    """joined: students in the round; class_size: of the class. evidence: results count, once it is over."""

    id: Id
    class_id: Id
    klass: str
    code: str
    finding: str
    ended: bool
    evidence: bool
    joined: int
    class_size: int
    current: LiveQuestionView | None
    students: list[LiveStudent]
    summary: list[LiveSummaryLine]


def start(ctx: Context, actor: Actor, class_id: int) -> int:
    """Begin a round with a class; one that is still open ends."""

    def work(db: Session) -> int:
        klass = db.scalar(
            select(SchoolClass).where(
                SchoolClass.id == class_id, SchoolClass.active.is_(True), scope(actor, Action.CLASSES_RUN)
            )
        )
        if klass is None:
            raise NotFound("there is no such class, or it is not yours")
        now = ctx.clock()
        for earlier in db.scalars(
            select(LiveRound).where(LiveRound.class_id == class_id, LiveRound.ended_at.is_(None))
        ):
            earlier.ended_at = now
        made = LiveRound(class_id=class_id, person_id=actor.person_id, started_at=now)
        db.add(made)
        db.flush()
        audit.record(db, now, actor.person_id, "live.start", f"class:{class_id}")
        return made.id

    return ctx.store.write(work)


def _round(db: Session, actor: Actor, round_id: int) -> LiveRound:
    found = db.scalar(
        select(LiveRound)
        .join(SchoolClass, SchoolClass.id == LiveRound.class_id)
        .where(LiveRound.id == round_id, scope(actor, Action.CLASSES_RUN))
    )
    if found is None:
        raise NotFound("there is no such round, or it is not yours")
    return found


def _open(db: Session, actor: Actor, round_id: int) -> LiveRound:
    found = _round(db, actor, round_id)
    if found.ended_at is not None:
        raise Conflict("this round is over")
    return found


def _newest(db: Session, round_id: int) -> LiveQuestion | None:
    return db.scalar(
        select(LiveQuestion).where(LiveQuestion.round_id == round_id).order_by(LiveQuestion.id.desc()).limit(1)
    )


def ask(ctx: Context, actor: Actor, round_id: int, item_id: int | None, words: str = "", options: int = 4) -> int:
    """Put a question of the bank, or one said aloud with so many options; the one before it is closed."""
    if item_id is None and not 2 <= options <= 8:
        raise Invalid("2 to 8 options", "options")
    if len(words) > LONGEST_WORDS:
        raise Invalid(f"at most {LONGEST_WORDS} characters", "words")

    def work(db: Session) -> int:
        round_ = _open(db, actor, round_id)
        version = None if item_id is None else _version(ctx, db, actor, item_id)
        return _put(ctx, db, round_, version, words.strip(), options, None)

    made = ctx.store.write(work)
    ctx.bus.publish(topic(round_id), {"asked": True})
    return made


def _version(ctx: Context, db: Session, actor: Actor, item_id: int) -> ItemVersion:
    """The newest of an item that this person may see and that no secure test needs."""
    allowed = select(Item.id).where(Item.id == item_id, scope(actor, Action.BANK_READ))
    if db.scalar(allowed) is None:
        raise NotFound("there is no such item, or you may not see it")
    if db.scalar(select(Item.id).where(Item.id == item_id, Item.id.in_(secured_items(local_today(ctx, db))))):
        raise Conflict("this item is on a secure test; choose another one", "item")
    newest = select(ItemVersion).where(ItemVersion.item_id == item_id).order_by(ItemVersion.number.desc()).limit(1)
    return db.scalars(newest).one()


def _put(
    ctx: Context,
    db: Session,
    round_: LiveRound,
    version: ItemVersion | None,
    words: str,
    options: int,
    again_of: int | None,
) -> int:
    now, before = ctx.clock(), _newest(db, round_.id)
    if before is not None and before.closed_at is None:
        before.closed_at = now
    made = LiveQuestion(
        round_id=round_.id,
        item_version_id=version.id if version else None,
        words=words,
        options=options,
        again_of=again_of,
        asked_at=now,
    )
    db.add(made)
    db.flush()
    return made.id


def again(ctx: Context, actor: Actor, round_id: int) -> int:
    """The same question once more, after talk; the first answers stay beside the second."""

    def work(db: Session) -> int:
        round_ = _open(db, actor, round_id)
        before = _newest(db, round_id)
        if before is None:
            raise Conflict("no question was asked yet")
        version = db.get(ItemVersion, before.item_version_id) if before.item_version_id else None
        return _put(ctx, db, round_, version, before.words, before.options, before.again_of or before.id)

    made = ctx.store.write(work)
    ctx.bus.publish(topic(round_id), {"asked": True})
    return made


def show(ctx: Context, actor: Actor, round_id: int, what: Showing) -> None:
    """What the projector shows. Answers are taken while it only counts; once they are shown no more."""
    if what not in get_args(Showing):
        raise Invalid(f"one of {', '.join(get_args(Showing))}", "what")

    def work(db: Session) -> None:
        _open(db, actor, round_id)
        question = _newest(db, round_id)
        if question is None:
            raise Conflict("no question was asked yet")
        question.shown = what
        question.closed_at = None if what == "counting" else question.closed_at or ctx.clock()

    ctx.store.write(work)
    ctx.bus.publish(topic(round_id), {"shown": what})


def end(ctx: Context, actor: Actor, round_id: int, evidence: bool) -> None:
    """It is over. evidence: results count toward standards, because whoever held it says so."""

    def work(db: Session) -> None:
        round_ = _open(db, actor, round_id)
        now, question = ctx.clock(), _newest(db, round_id)
        if question is not None and question.closed_at is None:
            question.closed_at = now
        round_.ended_at, round_.evidence = now, evidence
        audit.record(db, now, actor.person_id, "live.end", f"class:{round_.class_id}", None, {"evidence": evidence})

    ctx.store.write(work)
    ctx.bus.publish(topic(round_id), {"ended": True})


def page(ctx: Context, actor: Actor, round_id: int) -> LivePage:
    """Everything that whoever holds it sees."""
    with ctx.store.read() as db:
        round_ = _round(db, actor, round_id)
        klass = db.get_one(SchoolClass, round_.class_id)
        members = _members(db, round_.class_id)
        seats = {s.person_id: s for s in db.scalars(select(LiveSeat).where(LiveSeat.round_id == round_id))}
        asked = questions_of(db, round_)
        current = asked[-1] if asked else None
        now = ctx.clock()
        view = _view(ctx, db, actor, asked) if current is not None else None
        return LivePage(
            id=round_.id,
            class_id=klass.id,
            klass=klass.title,
            code=klass.code or "",
            finding=_finding(round_, view, len(seats), len(members)),
            ended=round_.ended_at is not None,
            evidence=round_.evidence,
            joined=len(seats),
            class_size=len(members),
            current=view if round_.ended_at is None else None,
            students=_students(db, current, members, seats, now),
            summary=_summary(db, asked),
        )


def _members(db: Session, class_id: int) -> list[Person]:
    return list(
        db.scalars(
            select(Person)
            .join(Enrolment, Enrolment.person_id == Person.id)
            .where(Enrolment.class_id == class_id, Enrolment.role == "student", Enrolment.active.is_(True))
            .order_by(Person.family, Person.given, Person.id)
        )
    )


def _finding(round_: LiveRound, view: LiveQuestionView | None, joined: int, size: int) -> str:
    if round_.ended_at is not None:
        return "This round is over."
    if view is None:
        return f"{joined} of {size} students are in the round. Ask the first question."
    return view.finding


def _view(ctx: Context, db: Session, actor: Actor, asked: list[Asked]) -> LiveQuestionView:
    current = asked[-1]
    given = answers_to(db, current.question.id)
    bars = bars_of(current, [in_option(current, a.answer) for a in given.values()])
    right = sum(current.is_right(a.answer) for a in given.values())
    before, change = list[LiveBar](), None
    first = next((a for a in asked if a.question.id == current.question.again_of), None)
    if first is not None:
        earlier = answers_to(db, first.question.id)
        before = bars_of(first, [in_option(first, a.answer) for a in earlier.values()])
        if first.content is not None:
            change = moved(
                {p: first.is_right(a.answer) for p, a in earlier.items()},
                {p: current.is_right(a.answer) for p, a in given.items()},
            )
    known = current.content is not None
    share = right / len(given) if known and given else None
    harder, easier = _suggestions(ctx, db, actor, asked, share) if known else ([], [])
    finding = f"{counted(len(given), 'answer')} so far."
    if known and current.question.closed_at is not None and given:
        finding = f"{right} of {len(given)} answered correctly."
        if change is not None and change.both:
            turned = change.to_right + change.from_right
            told = f"{change.to_right} changed from wrong to right, {change.from_right} the other way."
            finding += f" {told if turned else 'None changed between right and wrong.'}"
    return LiveQuestionView(
        question=shown_question(current),
        code=current.version.item.code if current.version is not None else "",
        showing=current.question.shown,  # type: ignore[arg-type]
        answered=len(given),
        finding=finding,
        bars=bars,
        before=before,
        moved=change,
        advice=advice(right, len(given)) if known and current.question.closed_at is not None else "",
        strongest_wrong=next((b.note for b in bars if b.answer == _wrong(bars) and b.note), ""),
        harder=harder,
        easier=easier,
    )


def bars_of(asked: Asked, answers: list[str]) -> list[LiveBar]:
    """Answers counted. Of an open question each answer by itself, right where it earns all points."""
    right = asked.right if asked.options else [a for a in set(answers) if asked.is_right(a)]
    return [
        LiveBar(
            answer=bar.answer,
            says=says(asked, bar.answer),
            n=bar.n,
            share=bar.share,
            right=bar.right,
            note=note_of(asked, bar.answer),
        )
        for bar in tally(answers, asked.options, right)
    ]


def _wrong(bars: list[LiveBar]) -> str:
    return strongest_wrong([Bar(answer=b.answer, n=b.n, share=b.share, right=b.right) for b in bars])


@dataclass(frozen=True, kw_only=True)
class LiveFound:
    """An item that can be asked. p: the share of points that students earned on it the last time."""

    item: Id
    code: str
    words: str
    p: float | None


def find(ctx: Context, actor: Actor, round_id: int, text: str) -> list[LiveFound]:
    """Items of the bank by its search line, without those that a secure test needs."""
    with ctx.store.read() as db:
        _round(db, actor, round_id)
        secured = set(db.scalars(secured_items(local_today(ctx, db))))
    found, _, _ = find_items(ctx, actor, text, limit=MOST_FOUND)
    return [
        LiveFound(
            item=row.item.item_id,
            code=row.item.code,
            words=bare_text(row.item.shown.body),
            p=row.uses[0].p if row.uses else None,
        )
        for row in found
        if row.item.item_id not in secured
    ][:FOUND]


def _suggestions(
    ctx: Context, db: Session, actor: Actor, asked: list[Asked], share: float | None
) -> tuple[list[LiveSuggestion], list[LiveSuggestion]]:
    """Items on the same standards that were not asked yet, by what they did the last time."""
    version = asked[-1].version
    if version is None:
        return [], []
    standards = select(ItemStandard.standard_id).where(ItemStandard.item_version_id == version.id)
    done = [a.version.item_id for a in asked if a.version is not None]
    rows = db.execute(
        select(Item.id, Item.code, ItemUse.p, ItemUse.problem)
        .join(ItemUse, ItemUse.item_id == Item.id)
        .join(ItemVersion, ItemVersion.item_id == Item.id)
        .join(ItemStandard, ItemStandard.item_version_id == ItemVersion.id)
        .where(
            ItemStandard.standard_id.in_(standards),
            Item.id.not_in(done),
            Item.id.not_in(secured_items(local_today(ctx, db))),
            scope(actor, Action.BANK_READ),
            ItemUse.p.is_not(None),
        )
        .distinct()
    ).all()
    own = db.scalar(select(ItemUse.p).where(ItemUse.item_id == version.item_id))
    p = own if own is not None else share
    if p is None:
        return [], []
    named = {id: LiveSuggestion(item=id, code=code, p=value) for id, code, value, _ in rows if value is not None}
    candidates = [Candidate(item=id, p=value, sound=not problem) for id, _, value, problem in rows if value is not None]
    return (
        [named[id] for id in following(candidates, p, True)[:SUGGESTED]],
        [named[id] for id in following(candidates, p, False)[:SUGGESTED]],
    )


def _students(
    db: Session, current: Asked | None, members: list[Person], seats: dict[int, LiveSeat], now: datetime
) -> list[LiveStudent]:
    """The class, and whoever else joined."""
    given = answers_to(db, current.question.id) if current is not None else {}
    most = len(given) * 2 >= len(seats)
    long_asked = current is not None and current.question.closed_at is None and now - current.question.asked_at >= STUCK
    found = []
    for person in members:
        seat, answer = seats.get(person.id), given.get(person.id)
        here = seat is not None and (seat.way == "device" or now - seat.seen_at < SILENT)
        known = current is not None and current.content is not None
        found.append(
            LiveStudent(
                person=person.id,
                name=person.name,
                way=seat.way if seat else "",
                here=here,
                stuck=bool(here and answer is None and long_asked and most),
                answer=answer.answer if answer else "",
                right=current.is_right(answer.answer) if answer and current is not None and known else None,
            )
        )
    return found


def _summary(db: Session, asked: list[Asked]) -> list[LiveSummaryLine]:
    found = []
    for one in asked:
        given = answers_to(db, one.question.id)
        right = sum(one.is_right(a.answer) for a in given.values())
        what = one.version.item.code if one.version is not None else one.question.words or "said aloud"
        known = one.content is not None
        found.append(
            LiveSummaryLine(
                number=one.number,
                what=what,
                again=one.question.again_of is not None,
                answered=len(given),
                right=right if known else 0,
                share=right / len(given) if known and given else None,
            )
        )
    return found


@dataclass(frozen=True, kw_only=True)
class LiveScreen:
    """What the projector shows: never a name. bars: only once answers are shown; which is right only once that is."""

    klass: str
    code: str
    ended: bool
    joined: int
    answered: int
    showing: Showing
    question: ShownQuestion | None
    bars: list[LiveBar]
    before: list[LiveBar]


def screen(ctx: Context, actor: Actor, round_id: int) -> LiveScreen:
    """What the projector shows now."""
    with ctx.store.read() as db:
        round_ = _round(db, actor, round_id)
        klass = db.get_one(SchoolClass, round_.class_id)
        joined = len(db.scalars(select(LiveSeat.person_id).where(LiveSeat.round_id == round_id)).all())
        question = _newest(db, round_id)
        asked = questions_of(db, round_)[-1] if question is not None else None
        given = answers_to(db, asked.question.id) if asked is not None else {}
        showing: Showing = asked.question.shown if asked is not None else "counting"  # type: ignore[assignment]
        bars, before = list[LiveBar](), list[LiveBar]()
        if asked is not None and showing != "counting":
            bars = _for_all(bars_of(asked, [in_option(asked, a.answer) for a in given.values()]), showing)
            if asked.question.again_of is not None:
                first = asked_of(db, db.get_one(LiveQuestion, asked.question.again_of), 0)
                earlier = answers_to(db, first.question.id).values()
                before = _for_all(bars_of(first, [in_option(first, a.answer) for a in earlier]), showing)
        return LiveScreen(
            klass=klass.title,
            code=klass.code or "",
            ended=round_.ended_at is not None,
            joined=joined,
            answered=len(given),
            showing=showing,
            question=shown_question(asked) if asked is not None and round_.ended_at is None else None,
            bars=bars,
            before=before,
        )


def _for_all(bars: list[LiveBar], showing: Showing) -> list[LiveBar]:
    """Without notes, and without what is right before it is shown."""
    return [
        LiveBar(answer=b.answer, says=b.says, n=b.n, share=b.share, right=b.right and showing == "right", note="")
        for b in bars
    ]
