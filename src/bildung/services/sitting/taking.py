"""A student's sitting: what is shown, every answer kept, handing in."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from math import inf
from types import MappingProxyType
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from bildung.core.accommodations.holding import Needs
from bildung.core.school.timing import brief_until, personal_end, section_end
from bildung.formats.blueprint import FormSettings, read_plan
from bildung.formats.content import Behind, Shown
from bildung.formats.face import faced
from bildung.formats.markup import safe_html
from bildung.services.forms.settings import settings, title_of
from bildung.services.items.bankitem import StimulusView, content_of, shown_safely, stimulus_view
from bildung.services.owed.accommodated import NONE, added_to, end_for, extra_times, extra_times_at, in_session
from bildung.services.owed.dealing import draw_for, form_of, places_of
from bildung.services.shared.access import Sitter
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.wire import Id
from bildung.services.sitting.answerable import Answerable, answerable
from bildung.services.sitting.feedback import Told, tell
from bildung.services.sitting.released import EVERYTHING, released_to
from bildung.services.sitting.resting import on_several_days, rest
from bildung.services.sitting.signs import SILENT, RoomStanding, room_standing
from bildung.services.sitting.usual import usual_seconds
from bildung.store.models import (
    Form,
    FormItem,
    HeldBack,
    ItemVersion,
    LaterAttempt,
    Person,
    PlannedSession,
    Response,
    RoomEvent,
    SignIn,
    Sitting,
    StudentWork,
)

PRACTICE = ("mirror",)  # kinds of tests that nobody's results come from
LATE = timedelta(minutes=5)  # what a device still held back may come in for so long after the end
SILENT_LATE = timedelta(hours=1)  # and so long where the device was out of reach when the time was over
LEAST_LEFT = 5  # seconds that are worth going on with


Attempt = Sitting | LaterAttempt


@dataclass(frozen=True, kw_only=True)
class Question:
    """What a student sees of an item: never key, points or code. part: of the test, from 0. hints: offered one after
    the other, where the test allows them. final: the student was told of the answer. notes, sketch: what they made beside it."""

    id: Id
    number: int
    shown: Shown
    stimulus: StimulusView | None
    answer: str
    part: int = 0
    hints: list[str] = field(default_factory=list)
    final: bool = False
    notes: str = ""
    sketch: str = ""


@dataclass(frozen=True)
class PartShown:
    """Of a test. minutes: to plan by. seconds: this student's, where the section ends by them; None where only the whole test
    ends."""

    name: str
    instructions: str
    minutes: int | None
    seconds: int | None = None


@dataclass(frozen=True, kw_only=True)
class Paper:
    """end: this student's own, extra time included. large_print, read_aloud: how they need it. one_way: an item that was
    left is not gone back to; reached: the place up to which they came then. one_by_one: no jumping ahead. check: feedback after each answer. more: further attempts that may be begun. review: what was right may be seen now.
    review_follows: it may be seen once nobody else can be given the same items. afterward: what those who are finished do.
    submit_from: when it can be submitted at the earliest. brief_until: until when that would be far quicker than usual.
    timed: sections end by their own minutes, and are not gone back to. section_end: of the one that the student is in."""

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
    tools: list[str] = field(default_factory=list)
    one_by_one: bool = False
    one_way: bool = False
    reached: int = 0
    check: bool = False
    attempt: int = 1
    more: int = 0
    review: bool = False
    parts: list[PartShown] = field(default_factory=list)
    full_name: str = ""
    review_follows: bool = False
    now: datetime | None = None
    room: RoomStanding | None = None
    afterward: str = ""
    submit_from: datetime | None = None
    brief_until: datetime | None = None
    timed: bool = False
    section_end: datetime | None = None


def paper(ctx: Context, sitter: Sitter) -> Paper:
    """The form with this student's present answers, for a first look or after a reload."""
    with ctx.store.read() as db:
        sitting = db.get_one(Sitting, sitter.sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        form, person, at_hand = (
            form_of(db, session, sitting),
            db.get_one(Person, sitter.person_id),
            attempt_of(db, sitting),
        )
        rules = settings(form)
        given = answers_of(db, at_hand)
        # what it may be answered with is read now, so that the first answer need not wait for it
        known = answerable(ctx, db.connection(), form.id, session.part, at_hand.drawn)
        factor = extra_times(db, session, [person.id]).get(person.id, 1.0)
        latest = max((sequence for _, takeover, sequence in given.values() if takeover == sitter.takeover), default=0)
        beside = select(func.max(StudentWork.sequence)).where(
            StudentWork.sitting_id == sitting.id, StudentWork.takeover == sitter.takeover
        )
        latest = max(latest, db.scalar(beside) or 0)
        state = state_of(at_hand)
        needs = in_session(db, session, [person.id], form).get(person.id, NONE)
        end = end_for(db, session, person.id, at_hand.counted_from, rules.minutes, added_to(sitting, ctx.clock()))
        open_still = session.closed_at is None and ctx.clock() <= end_for(
            db, session, person.id, added=added_to(sitting, ctx.clock())
        )
        shown = (
            []
            if state != "answering"
            else questions(
                places_of(db, session, sitting, at_hand.drawn),
                rules,
                {id: kept[0] for id, kept in given.items()},
                at_hand.checked or [],
                work_of(db, at_hand),
            )
        )
        began = at_hand.counted_from
        return Paper(
            sitting=sitting.id,
            title=session.title or title_of(form),
            name=person.given,
            state=state,
            end=end,
            takeover=sitter.takeover,
            sequence=latest,
            questions=shown,
            large_print=needs.large_print or rules.large_print,
            read_aloud=needs.read_aloud or "read_aloud" in rules.tools,
            tools=_tools(rules, needs),
            one_by_one=rules.movement == "one",
            one_way=rules.movement == "one" and not rules.back,
            reached=at_hand.reached,
            check=rules.feedback == "now",
            attempt=sitting.attempt,
            more=max(0, rules.attempts - sitting.attempt) if open_still and state == "handed_in" else 0,
            review=bool(may_review(db, session, sitting, form, state, ctx.clock())),
            parts=parts_shown(form, session.part, factor if isinstance(at_hand, Sitting) else inf),
            full_name=person.name,
            review_follows=rules.feedback != "release" and state == "handed_in",
            now=ctx.clock(),
            room=room_standing(db, sitting),
            afterward=session.afterward,
            submit_from=began + timedelta(minutes=rules.submit_after) if began and rules.submit_after else None,
            brief_until=brief_until(began, usual_seconds(ctx, db, form.id)) if began and sitting.attempt == 1 else None,
            timed=rules.timed_sections,
            section_end=_section_end(form, known, sitting, factor, ctx.clock()),
        )


def _section_end(form: Form, known: Answerable, sitting: Sitting, factor: float, now: datetime) -> datetime | None:
    """Of the section that the first attempt is in; practice has no end of its own."""
    if not settings(form).timed_sections or sitting.attempt > 1 or sitting.counted_from is None or not form.plan:
        return None
    sections, at = read_plan(form.plan).parts, known.section(sitting.reached)
    minutes = sections[at].minutes if at < len(sections) else None
    return section_end(sitting.counted_from, sitting.section_at, minutes, factor, added_to(sitting, now))


def work_of(db: Session, attempt: Attempt) -> dict[tuple[int, str], str]:
    """Notes and sketches, by form item and kind; practice has none."""
    if not isinstance(attempt, Sitting):
        return {}
    rows = db.scalars(select(StudentWork).where(StudentWork.sitting_id == attempt.id))
    return {(row.form_item_id, row.kind): row.content for row in rows}


def _tools(rules: FormSettings, needs: Needs) -> list[str]:
    """Those of the form, and a calculator for whom it is an accommodation."""
    tools: list[str] = [tool for tool in rules.tools if tool != "read_aloud"]
    return [*tools, "calculator"] if needs.calculator and "calculator" not in tools else tools


def questions(
    places: Sequence[tuple[FormItem, ItemVersion]],
    rules: FormSettings,
    given: Mapping[int, str],
    final: Collection[int] = (),
    work: Mapping[tuple[int, str], str] = MappingProxyType({}),
) -> list[Question]:
    """As a student of the form sees them. work: what they made beside their answers."""
    return [
        Question(
            id=place.id,
            number=number,
            shown=faced(shown_safely(version), place.face),
            stimulus=stimulus_view(version.stimulus),
            answer=given.get(place.id, ""),
            part=place.part,
            hints=_hints(version) if rules.hints else [],
            final=place.id in final,
            notes=work.get((place.id, "notes"), ""),
            sketch=work.get((place.id, "sketch"), ""),
        )
        for number, (place, version) in enumerate(places, 1)
    ]


def _hints(version: ItemVersion) -> list[str]:
    return [safe_html(hint) for hint in Behind.model_validate(version.behind or {}).hints]


def parts_shown(form: Form, part: int | None, factor: float = 1.0) -> list[PartShown]:
    """Parts of the plan that say anything to a student, or end by their own minutes; of one part alone, that one. factor: on
    the time of this student."""
    if not form.plan:
        return []
    timed = settings(form).timed_sections
    found = [
        PartShown(
            p.name,
            p.instructions,
            p.minutes,
            round(60 * p.minutes * factor) if timed and p.minutes and factor != inf else None,
        )
        for p in read_plan(form.plan).parts
    ]
    if part is not None:
        found = [p if at == part else PartShown("", "", None) for at, p in enumerate(found)]
    return found if timed or any(p.name or p.instructions for p in found) else []


def attempt_of(db: Session, sitting: Sitting) -> Attempt:
    """The attempt at hand: the sitting itself, or a later one."""
    if sitting.attempt == 1:
        return sitting
    wanted = (LaterAttempt.sitting_id == sitting.id) & (LaterAttempt.number == sitting.attempt)
    return db.scalars(select(LaterAttempt).where(wanted)).one()


def state_of(attempt: Attempt) -> str:
    """The state of an attempt: not started, answering or submitted."""
    if isinstance(attempt, Sitting):
        return attempt.state
    return "answering" if attempt.handed_in_at is None else "handed_in"


def answers_of(db: Session, attempt: Attempt) -> dict[int, tuple[str, int, int]]:
    """Present answers by form item, with takeover and sequence of the message they came in."""
    if isinstance(attempt, Sitting):
        rows = db.scalars(select(Response).where(Response.sitting_id == attempt.id))
        return {r.form_item_id: (r.answer, r.takeover, r.sequence) for r in rows}
    return {int(id): (kept[0], kept[1], kept[2]) for id, kept in attempt.answers.items()}


def may_review(
    db: Session, session: PlannedSession, sitting: Sitting, form: Form, state: str, now: datetime
) -> frozenset[str]:
    """What of their results this student may see now; nothing where that is held back or not released."""
    if state != "handed_in" or db.get(HeldBack, sitting.id) is not None:
        return frozenset()
    released = released_to(db, session, "student", now)
    if released or settings(form).feedback == "release" or not reveals(db, session, form):
        return released
    return EVERYTHING


def reveals(db: Session, session: PlannedSession, form: Form) -> bool:
    """Whether the form's own settings let right answers out now: not while another student may still be given the same
    items in this window, unless that was decided at the form; practice is free of it."""
    return settings(form).early or form.kind in PRACTICE or not still_open(db, session)


def still_open(db: Session, session: PlannedSession) -> list[PlannedSession]:
    """Sessions of the same window that are not over and give the same form or a companion of it, this one included."""
    form = db.get_one(Form, session.form_id)
    forms = {form.id} if form.family is None else {f.id for f in form.family.forms}
    before = form.before_id
    while before is not None:  # what a correction replaced has the same items
        forms.add(before)
        before = db.get_one(Form, before).before_id
    theirs = select(Sitting.session_id).where(Sitting.form_id.in_(forms))
    return list(
        db.scalars(
            select(PlannedSession)
            .where(
                PlannedSession.window_id == session.window_id,
                PlannedSession.closed_at.is_(None),
                PlannedSession.form_id.in_(forms) | PlannedSession.id.in_(theirs),
            )
            .options(joinedload(PlannedSession.klass))
            .order_by(PlannedSession.start, PlannedSession.id)
        )
    )


@dataclass(frozen=True)
class AttemptStanding:
    """Where an attempt stands, for a page that was told that something moved. now: the server's time, since a device's
    clock may be wrong. changed: staff gave the attempt another form, so that no device has it now. section_end: as of a paper."""

    state: str
    end: datetime
    takeover: int
    now: datetime
    changed: bool
    room: RoomStanding
    section_end: datetime | None


def standing(ctx: Context, sitter: Sitter) -> AttemptStanding:
    """How this attempt stands now, for a device that asks."""
    with ctx.store.read() as db:
        sitting = db.get_one(Sitting, sitter.sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        at_hand, form = attempt_of(db, sitting), form_of(db, session, sitting)
        limit, ends = settings(form).minutes, None
        if settings(form).timed_sections:
            known = answerable(ctx, db.connection(), form.id, session.part, at_hand.drawn)
            factor = extra_times(db, session, [sitter.person_id]).get(sitter.person_id, 1.0)
            ends = _section_end(form, known, sitting, factor, ctx.clock())
        end = end_for(db, session, sitter.person_id, at_hand.counted_from, limit, added_to(sitting, ctx.clock()))
        newest = select(SignIn.id).where(SignIn.sitting_id == sitting.id, SignIn.takeover == sitting.takeover)
        return AttemptStanding(
            state=state_of(at_hand),
            end=end,
            takeover=sitting.takeover,
            now=ctx.clock(),
            changed=db.scalar(newest) is None,
            room=room_standing(db, sitting),
            section_end=ends,
        )


def topic(session_id: int) -> str:
    """What students' pages of a session listen to: that it was closed or opened, that somebody's state changed."""
    return f"attempts:{session_id}"


def session_of(ctx: Context, sitter: Sitter) -> int:
    """The session of this attempt."""
    with ctx.store.read() as db:
        return db.get_one(Sitting, sitter.sitting_id).session_id


def check(ctx: Context, sitter: Sitter, question: int) -> Told:
    """Tell a student of one answer at once, where the test does so; from then on that answer stays."""

    def work(db: Session) -> Told:
        sitting = db.get_one(Sitting, sitter.sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        at_hand = attempt_of(db, sitting)
        if settings(form_of(db, session, sitting)).feedback != "now":
            raise Conflict("this test gives no feedback before it is over")
        if state_of(at_hand) != "answering" or session.closed_at is not None:
            raise Conflict("this test is not open; ask your proctor")
        for number, (place, version) in enumerate(places_of(db, session, sitting, at_hand.drawn), 1):
            if place.id != question:
                continue
            answer = answers_of(db, at_hand).get(place.id, ("", 0, 0))[0]
            if not answer:
                raise Conflict("answer the question first")
            at_hand.checked = [*(at_hand.checked or ()), place.id]
            shown = reveals(db, session, form_of(db, session, sitting))
            return tell(place.id, number, version.kind, content_of(version), answer, shown)
        raise NotFound("this question is not on your test")

    return ctx.store.write(work)


def again(ctx: Context, sitter: Sitter) -> None:
    """Begin another attempt: practice, that enters no figure. A drawn test is drawn anew."""

    def work(db: Session) -> int:
        sitting = db.get_one(Sitting, sitter.sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        form = form_of(db, session, sitting)
        if state_of(attempt_of(db, sitting)) != "handed_in":
            raise Conflict("submit first; another attempt starts after that")
        if session.closed_at is not None or ctx.clock() > end_for(
            db, session, sitting.person_id, added=added_to(sitting, ctx.clock())
        ):
            raise Conflict("this session is over; ask your proctor")
        if sitting.attempt >= settings(form).attempts:
            raise Conflict(f"this test has {settings(form).attempts} attempts, and you have used them")
        drawn = draw_for(db, form, session)
        sitting.attempt += 1
        db.add(
            LaterAttempt(
                sitting_id=sitting.id,
                number=sitting.attempt,
                answers={},
                started_at=ctx.clock(),
                reached=0,
                seed=drawn[0] if drawn else None,
                drawn=list(drawn[1].items) if drawn else None,
            )
        )
        return session.id

    session_id = ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitter.sitting_id)})


def hand_in(ctx: Context, sitter: Sitter, time_over: bool = False, at: datetime | None = None) -> str:
    """Final for the student; a second time changes nothing and says so. time_over: the device does it at the end of the
    session; who may work on several days goes on on another one instead. at: when a device without a network did it; None:
    now. What such a device did because its time was over is provisional: where the attempt was paused or given minutes that
    the device could not know of, it goes on with the minutes it had left then. The state it is in now."""

    def work(db: Session) -> tuple[int, str]:
        sitting = db.get_one(Sitting, sitter.sitting_id)
        session = db.get_one(PlannedSession, sitting.session_id)
        at_hand, now = attempt_of(db, sitting), ctx.clock()
        if state_of(at_hand) == "handed_in":
            raise Conflict("you have already submitted this test; nothing was changed")
        if state_of(at_hand) != "answering":
            raise Conflict("this test is not open; ask your proctor")
        if at is not None and sitter.takeover < sitting.takeover:
            return session.id, "answering"  # the student went on with another device since
        when = now if at is None else min(now, max(at, at_hand.counted_from or at))
        if not time_over:
            _not_too_early(db, session, sitting, at_hand, when)
        if isinstance(at_hand, Sitting):
            session.data_version += 1
            if time_over and at is not None and _goes_on(db, session, sitting, when, now):
                return session.id, "answering"
            goes_on = (
                on_several_days(db, session, [at_hand], when) if time_over and not _all_used(db, at_hand, when) else {}
            )
            if at_hand.id in goes_on:
                rest(at_hand, goes_on[at_hand.id])
                at_hand.last_at = now
                return session.id, "resting"
            at_hand.state = "handed_in"
            if at is not None:
                what = "its time was over" if time_over else "the student submitted"
                _note_offline(db, sitting, f"submitted without a network ({what})", when, now)
        at_hand.handed_in_at, sitting.last_at = when, now
        return session.id, "handed_in"

    session_id, state = ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitter.sitting_id)})
    return state


def _all_used(db: Session, sitting: Sitting, when: datetime) -> bool:
    """Whether the minutes of the last section are over, so that nothing is left to go on with on another day."""
    session = db.get_one(PlannedSession, sitting.session_id)
    form = form_of(db, session, sitting)
    if not settings(form).timed_sections:
        return False
    places = [place for place, _ in places_of(db, session, sitting, sitting.drawn)]
    known = Answerable(questions={}, one_way=False, sections=tuple(place.part for place in places) or None)
    factor = extra_times(db, session, [sitting.person_id]).get(sitting.person_id, 1.0)
    ends = _section_end(form, known, sitting, factor, when)
    return (
        ends is not None and when >= ends - timedelta(seconds=1) and known.section(sitting.reached) == places[-1].part
    )


def _not_too_early(db: Session, session: PlannedSession, sitting: Sitting, at_hand: Attempt, when: datetime) -> None:
    """Where the form says from which minute on a test can be submitted."""
    after, began = settings(form_of(db, session, sitting)).submit_after, at_hand.counted_from
    if after is None or began is None or when >= began + timedelta(minutes=after):
        return
    raise Conflict(f"this test can be submitted from minute {after} on; look at your answers once more until then")


def _goes_on(db: Session, session: PlannedSession, sitting: Sitting, when: datetime, now: datetime) -> bool:
    """Whether there was time left when the device took it to be over; if so, as much is left now."""
    if sitting.paused_at is not None:  # the clock stands, and goes on with what was left at the pause
        _note_offline(db, sitting, "its device took the time to be over; open again, as it is paused", when, now)
        return True
    limit = settings(form_of(db, session, sitting)).minutes
    end = end_for(db, session, sitting.person_id, sitting.counted_from, limit, added_to(sitting, when))
    left = round((end - when).total_seconds())
    if left < LEAST_LEFT:
        return False
    sitting.added_seconds += max(0, round((now - when).total_seconds()))
    _note_offline(
        db, sitting, f"its device took the time to be over; open again with {max(1, left // 60)} min left", when, now
    )
    return True


def _note_offline(db: Session, sitting: Sitting, words: str, when: datetime, now: datetime) -> None:
    db.add(
        RoomEvent(
            session_id=sitting.session_id, sitting_id=sitting.id, kind="provisional", words=words, at=when, until=now
        )
    )


def hand_in_overdue(ctx: Context) -> int:
    """Hand in for those whose own time was over a while ago; run now and then by the server, with a clock that can be
    believed. How many were. Whose device was out of reach then has an hour to bring what it holds."""
    if not ctx.clock_steady() or ctx.just_back():
        return 0
    now = ctx.clock()

    def work(db: Session) -> list[int]:
        rows = db.scalars(
            select(Sitting)
            .join(PlannedSession, PlannedSession.id == Sitting.session_id)
            .where(Sitting.state == "answering", PlannedSession.closed_at.is_(None))
            .options(joinedload(Sitting.session).joinedload(PlannedSession.form))
        ).all()
        forms = {s.form_id or s.session.form_id for s in rows}
        limits = {f.id: settings(f).minutes for f in db.scalars(select(Form).where(Form.id.in_(forms)))}
        rows = [s for s in rows if limits[s.form_id or s.session.form_id] is not None]
        extra = extra_times_at(db, [(s.session, s.person_id) for s in rows])
        told = []
        for sitting in rows:
            session, limit = sitting.session, limits[sitting.form_id or sitting.session.form_id]
            factor = extra.get((session.id, sitting.person_id), 1.0)
            end = personal_end(session.start, session.end, factor, sitting.counted_from, limit, added_to(sitting, now))
            silent = sitting.seen_at is None or sitting.seen_at < end - SILENT
            if now > end + (SILENT_LATE if silent else LATE):
                sitting.state, sitting.handed_in_at = "handed_in", end
                sitting.session.data_version += 1
                told.append(sitting.session_id)
        return told

    moved = ctx.store.write(work)
    for session_id in moved:
        ctx.bus.publish(f"session:{session_id}", {"handed in": True})
        ctx.bus.publish(topic(session_id), {"handed in": True})
    return len(moved)
