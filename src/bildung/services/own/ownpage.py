"""Families: their accounts, and what they see of their own children. No statistic and no code is shown here."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from math import inf
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.dates import Dates, Style
from bildung.core.school.timing import personal_end
from bildung.services.calendar.years import zone_of
from bildung.services.forms.settings import settings, title_of
from bildung.services.live.answering import live_class
from bildung.services.owed.accommodated import added_to, extra_times_at
from bildung.services.owed.dealing import form_of
from bildung.services.shared.access import Own
from bildung.services.shared.context import Context
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.services.sitting.released import family_may
from bildung.services.sitting.signs import lively
from bildung.services.sitting.taking import may_review
from bildung.store.models import Enrolment, FamilyLink, Federation, Person, PlannedSession, School, SchoolClass, Sitting

SHOWN = 40
CANCELED_SHOWN = timedelta(days=1)  # so long after its time a canceled test is still listed


@dataclass(frozen=True, kw_only=True)
class Occasion:
    """One test of one student. state: now, ahead, sat, resting, missed, untaken, excused or canceled; resting: begun, and
    to be continued on another day; missed while a makeup may follow, untaken where the window is over or another attempt took its place. joinable: may be begun right now.
    review: what was right may be looked at. was: when and where it was to be before it moved, in a sentence. minutes: that the test takes, where it
    has a limit. news: what is new since the last visit. elsewhere: it is open on another device."""

    session_id: Id
    title: str
    klass: str
    room: str
    start: datetime
    end: datetime
    state: str
    joinable: bool
    review: bool
    instructions: str
    was: str
    due: datetime | None
    minutes: int | None
    news: str
    elsewhere: bool


@dataclass(frozen=True, kw_only=True)
class Child:
    id: Id
    name: str
    grade: str
    school: str
    classes: list[str]
    sentence: str
    occasions: list[Occasion]


@dataclass(frozen=True, kw_only=True)
class OwnPage:
    """What a student or a family opens with. zone: of the times; formats: how they are written. live: class of theirs
    that has a live round now, on a student's page."""

    name: str
    zone: str
    formats: Style
    csrf: str
    must_change: bool
    children: list[Child]
    live: str = ""


def own_page(ctx: Context, own: Own, family: bool) -> OwnPage:
    """A student's own page, or a family's with each of their children."""
    with ctx.store.read() as db:
        ids = [own.person_id]
        if family:
            ids = list(db.scalars(select(FamilyLink.student_id).where(FamilyLink.family_id == own.person_id)))
        people = db.scalars(
            select(Person)
            .where(Person.id.in_(ids), Person.kind == "student", Person.active.is_(True))
            .order_by(Person.given, Person.id)
        ).all()
        zone, formats = db.scalar(select(Federation.zone)) or "UTC", dates_of(db).style
        sees = set(
            db.scalars(
                select(FamilyLink.student_id).where(FamilyLink.family_id == own.person_id, FamilyLink.results.is_(True))
            )
        )
        children = [_child(ctx, db, p, not family, p.id in sees) for p in people]
        live = "" if family else live_class(db, own.person_id)
    return OwnPage(
        name=own.name,
        zone=zone,
        formats=formats,
        csrf=own.csrf,
        must_change=own.must_change,
        children=children,
        live=live,
    )


def _news(p: Person, session: PlannedSession, sitting: Sitting, state: str) -> str:
    """Since the visit before this one; at a first visit nothing is."""
    if state in ("now", "ahead") and p.seen_before is not None and sitting.id > p.seen_before:
        return "new"
    released = session.released_at
    if state == "sat" and released is not None and p.visited_at is not None and released > p.visited_at:
        return "new: your results are here"
    return ""


def _was(session: PlannedSession, zone: ZoneInfo, dates: Dates) -> str:
    if session.told_start is None:
        return ""
    at, room = session.told_start.astimezone(zone), session.told_room or ""
    start = f"{dates.short(at.date())}, {dates.time(at)}"
    if session.told_start == session.start:
        return f"The room has changed. It was {room}." if room else "The room has changed."
    return f"This test has moved. It was on {start}{f' in room {room}' if room else ''}."


def _child(ctx: Context, db: Session, p: Person, own: bool, sees: bool = True) -> Child:
    """sees: whether this family may see the student's results."""
    now = ctx.clock()
    rows = db.execute(
        select(PlannedSession, Sitting)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .where(
            Sitting.person_id == p.id,
            PlannedSession.canceled_at.is_(None)
            | Sitting.state.in_(("handed_in", "void"))
            | (PlannedSession.start > now - CANCELED_SHOWN),
        )
        .order_by(PlannedSession.start.desc())
        .limit(SHOWN)
    ).all()
    extra = extra_times_at(db, [(session, p.id) for session, _ in rows])
    occasions: list[Occasion] = []
    tests: list[tuple[int, int]] = []
    ended: set[int] = set()
    zone, dates = zone_of(db), dates_of(db)
    for session, sitting in rows:
        rules = settings(form_of(db, session, sitting))
        limit = rules.minutes if sitting.state == "answering" else None
        factor = extra.get((session.id, p.id), 1.0)
        end = personal_end(session.start, session.end, factor, sitting.counted_from, limit, added_to(sitting, now))
        over = session.closed_at is not None or now > end
        state = {"handed_in": "sat", "on_paper": "sat", "absent": "missed", "exempt": "excused", "void": "excused"}.get(
            sitting.state, ""
        )
        if session.canceled_at is not None and state not in ("sat", "excused"):
            state = "canceled"
        if not state:
            left_over = "resting" if sitting.state == "resting" else "missed"
            state = left_over if over else "now" if session.start <= now else "ahead"
        tests.append((session.window_id, session.form_id))
        if session.window.end < now.astimezone(zone).date():
            ended.add(session.window_id)
        joinable = (
            own
            and not over
            and state != "canceled"
            and session.start <= now
            and (
                sitting.state in ("not_started", "answering", "resting", "absent")
                or (sitting.state == "handed_in" and sitting.attempt < rules.attempts)
            )
        )
        occasions.append(
            Occasion(
                session_id=session.id,
                title=session.title or title_of(session.form),
                klass=session.klass.title,
                room=session.room,
                start=session.start,
                end=end,
                state=state,
                joinable=joinable,
                instructions=session.instructions if state in ("now", "ahead") else "",
                review=review_open(db, session, sitting, now)
                if own
                else sees and family_may(db, session, sitting, now),
                due=session.due if state in ("now", "ahead") else None,
                was=_was(session, zone, dates) if state in ("now", "ahead") else "",
                minutes=None if rules.minutes is None or factor == inf else round(rules.minutes * factor),
                news=_news(p, session, sitting, state) if own else "",
                elsewhere=own and lively(sitting, now),
            )
        )
    elsewhere = {test for test, o in zip(tests, occasions, strict=True) if o.state in ("now", "ahead", "sat")}
    occasions = [
        replace(o, state="untaken")
        if o.state in ("missed", "resting") and (test in elsewhere or test[0] in ended)
        else o
        for test, o in zip(tests, occasions, strict=True)
    ]
    classes = list(
        db.scalars(
            select(SchoolClass.title)
            .join(Enrolment, Enrolment.class_id == SchoolClass.id)
            .where(Enrolment.person_id == p.id, Enrolment.active.is_(True), SchoolClass.active.is_(True))
            .order_by(SchoolClass.title)
        )
    )
    school = db.get(School, p.school_id) if p.school_id else None
    return Child(
        id=p.id,
        name=p.name,
        grade=p.grade,
        school=school.name if school else "",
        classes=classes,
        sentence=_sentence(p.given, occasions, own),
        occasions=occasions,
    )


def _sentence(name: str, occasions: list[Occasion], own: bool) -> str:
    """One plain sentence to open with."""
    now = [o for o in occasions if o.state == "now"]
    ahead = sorted((o for o in occasions if o.state == "ahead"), key=lambda o: o.start)
    missed = [o for o in occasions if o.state == "missed"]
    who, has = ("You", "have") if own else (name, "has")
    if now:
        return f"{now[0].title} is open now." if own else f"{name} has a test today: {now[0].title}."
    if ahead:
        return f"The next test is {ahead[0].title}."
    resting = [o for o in occasions if o.state == "resting"]
    if resting:
        return f"{who} {'continue' if own else 'continues'} {resting[0].title} on another day."
    if missed:
        return f"{who} {has} missed {len(missed)} {'test' if len(missed) == 1 else 'tests'}; the school will schedule a makeup."
    sat = sum(o.state == "sat" for o in occasions)
    return (
        f"{who} {has} taken {sat} {'test' if sat == 1 else 'tests'}. No other test is scheduled."
        if sat
        else "No test is scheduled yet."
    )


def review_open(db: Session, session: PlannedSession, sitting: Sitting, now: datetime) -> bool:
    """Whether this student may look at their results."""
    return bool(may_review(db, session, sitting, form_of(db, session, sitting), sitting.state, now))
