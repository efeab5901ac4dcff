"""The page on which staff land: sessions that are open, those that come next, and what waits for this person."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.participation.standing import Reason, Standing, count
from bildung.core.school.dates import Dates
from bildung.core.school.schooltime import school_day
from bildung.services.bank.writing import writing
from bildung.services.calendar.years import local_today, zone_of
from bildung.services.growth.measures import NewestGrowth, newest_growth
from bildung.services.growth.reflections import open_reflections
from bildung.services.mastery.deciding import open_questions
from bildung.services.mastery.keeping import due_groups
from bildung.services.participation.obligations import owed_tests
from bildung.services.people import accommodations
from bildung.services.planning.choosing import open_choices
from bildung.services.planning.testingday import not_ready
from bildung.services.quality.undecided import list_undecided
from bildung.services.rosters.check import check
from bildung.services.scoring.alerts import open_alerts
from bildung.services.scoring.waiting import waiting_for_scorer
from bildung.services.sessions.irregular import open_irregularities
from bildung.services.sessions.listing import SessionLine, current_sessions
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.settings import dates_of
from bildung.store.models import JoinRequest, PlannedSession, RefusedAnswer, SchoolClass, Sitting, Window

AHEAD = timedelta(days=14)
"""How far the page looks ahead."""
SOON = 5
"""Days before the end of a window from which a test without a session is urgent."""


@dataclass(frozen=True, kw_only=True)
class Waiting:
    """Something that waits for this person.

    Attributes
    ----------
    what
        In a few words, with its number.
    path
        Where it is dealt with.
    urgent
        A student loses by it if it waits.
    """

    what: str
    path: str
    urgent: bool = False


@dataclass(frozen=True, kw_only=True)
class TodaySession:
    """A session as this page lists it.

    Attributes
    ----------
    students
        How many are to take it; whoever is exempt is not.
    minutes_left
        Until its end by the server's clock, 0 where only extended time runs; None before it begins.
    """

    session: SessionLine
    students: int
    minutes_left: int | None


@dataclass(frozen=True, kw_only=True)
class Day:
    """Sessions of one day that have not begun, earliest first. name: "Today", "Tomorrow" or the date."""

    name: str
    sessions: list[TodaySession]


@dataclass(frozen=True, kw_only=True)
class TodayPage:
    """What somebody at work finds first.

    Attributes
    ----------
    finding
        What is going on, in one or two sentences.
    day
        The day it is at the school, in words.
    open
        Sessions that are open now, the one that ends first in front.
    next
        The days ahead that have sessions, the nearest first.
    waiting
        What waits for this person, what is urgent first.
    plans
        Whether this person schedules sessions.
    growth
        The newest two occasions of each subject's measure.
    """

    finding: str
    day: str
    open: list[TodaySession]
    next: list[Day]
    waiting: list[Waiting]
    plans: bool
    growth: list[NewestGrowth]


def today_page(ctx: Context, actor: Actor) -> TodayPage:
    """The page of this person; whatever they may not see is left out."""
    lines = current_sessions(ctx, actor, AHEAD) if actor.may(Action.SESSIONS_READ) else []
    now = ctx.clock()
    open_ = sorted((s for s in lines if s.phase == "open"), key=lambda s: (s.end, s.id))
    with ctx.store.read() as db:
        zone, dates, day = zone_of(db), dates_of(db), local_today(ctx, db)
        growth = newest_growth(db, actor)
    ahead = _by_day([s for s in lines if s.phase == "ahead"], day, zone, dates)
    waiting = waiting_for(ctx, actor)
    return TodayPage(
        finding=_finding(open_, ahead, waiting, actor.may(Action.SESSIONS_READ)),
        day=dates.long(day),
        open=[_listed(s, now) for s in open_],
        next=ahead,
        waiting=waiting,
        plans=actor.may(Action.SESSIONS_PLAN),
        growth=growth,
    )


def waiting_for(ctx: Context, actor: Actor) -> list[Waiting]:
    """What waits for this person at any station, what is urgent first."""
    found = [one for count in (_in_store, _in_rosters, _in_quality, _in_bank) for one in count(ctx, actor)]
    return sorted(found, key=lambda w: not w.urgent)


def _in_store(ctx: Context, actor: Actor) -> list[Waiting]:
    """What a count of rows tells."""
    counts: tuple[Callable[[Context, Session, Actor], list[Waiting]], ...] = (
        _alerts,
        _late,
        _unscored,
        _irregular,
        _choosing,
        _unproctored,
        _not_ready,
        _asking,
        _not_scheduled,
        _to_approve,
        _lapsing,
        _reflecting,
        _counting,
        _grouped,
    )
    with ctx.store.read() as db:
        return [one for count in counts for one in count(ctx, db, actor)]


def _counting(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    n = open_questions(db, actor)
    what = f"{counted(n, 'session')}: decide whether {'it counts' if n == 1 else 'they count'} as evidence of mastery"
    return [Waiting(what=what, path="/mastery/evidence")] if n else []


def _grouped(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    n = due_groups(ctx, db, actor)
    return [Waiting(what=f"{counted(n, 'group')} to look at again", path="/mastery/working")] if n else []


def _late(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    if not actor.may(Action.SESSIONS_RUN):
        return []
    rows = db.execute(
        select(PlannedSession.id, func.count(Sitting.id.distinct()))
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .join(RefusedAnswer, RefusedAnswer.sitting_id == Sitting.id)
        .where(RefusedAnswer.taken.is_(None), scope(actor, Action.SESSIONS_RUN))
        .group_by(PlannedSession.id)
        .order_by(PlannedSession.id)
    ).all()
    n = sum(students for _, students in rows)
    if not n:
        return []
    what = f"Answers of {counted(n, 'student')} arrived after the session closed"
    return [Waiting(what=what, path=f"/sessions/{rows[0][0]}" if len(rows) == 1 else "/sessions", urgent=True)]


def _unscored(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    if not actor.may(Action.SCORES_GIVE):
        return []
    n, first = waiting_for_scorer(db, actor)
    if not n:
        return []
    what = f"{counted(n, 'response')} {'waits' if n == 1 else 'wait'} for a score"
    return [Waiting(what=what, path=first)]


def _alerts(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    n = open_alerts(db, actor)
    if not n:
        return []
    return [Waiting(what=counted(n, "safety alert"), path="/scoring/alerts", urgent=True)]


def _irregular(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    if not actor.may(Action.SESSIONS_PLAN):
        return []
    n = open_irregularities(db, actor)
    if not n:
        return []
    what = f"{counted(n, 'irregularity', 'irregularities')} {'waits' if n == 1 else 'wait'} for a decision"
    return [Waiting(what=what, path="/sessions/irregularities")]


def _choosing(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    """Blocks that a teacher may choose; urgent once the coordinator has reminded them, and on the last day."""
    n, until, reminded = open_choices(ctx, db, actor)
    if not n or until is None:
        return []
    what = f"Choose {'a block' if n == 1 else 'blocks'} for {counted(n, 'test')} by {dates_of(db).short(until)}"
    return [Waiting(what=what, path="/calendar/choose", urgent=reminded or until <= local_today(ctx, db))]


def _unproctored(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    """For who assigns proctors; a teacher's own tests are given by the teacher."""
    if not actor.may(Action.PEOPLE_SETTLE):
        return []
    now = ctx.clock()
    soon = PlannedSession.start.between(now, now + AHEAD)
    found = db.execute(
        select(PlannedSession.id, PlannedSession.start)
        .where(soon, PlannedSession.proctor_id.is_(None), scope(actor, Action.SESSIONS_PLAN))
        .order_by(PlannedSession.start)
    ).all()
    if not found:
        return []
    what = f"{counted(len(found), 'upcoming session')} without a proctor"
    path = f"/sessions/{found[0].id}" if len(found) == 1 else "/sessions"
    return [Waiting(what=what, path=path, urgent=found[0].start < now + timedelta(days=1))]


def _not_ready(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    """Sessions of today and tomorrow that lack something, as the page of the day lists them."""
    if not actor.may(Action.WINDOWS_PLAN):
        return []
    return [
        Waiting(what=one.says.removesuffix("."), path=f"/calendar/day?school={one.school}&day={one.day}")
        for one in not_ready(ctx, db, actor)
    ]


def _asking(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    if not actor.may(Action.CLASSES_RUN):
        return []
    rows = db.execute(
        select(SchoolClass.id, SchoolClass.title, func.count())
        .join(JoinRequest, JoinRequest.class_id == SchoolClass.id)
        .where(JoinRequest.state == "waiting", scope(actor, Action.CLASSES_RUN))
        .group_by(SchoolClass.id)
        .order_by(SchoolClass.title)
    ).all()
    return [
        Waiting(what=f"{counted(n, 'join request')} for {title}", path=f"/people/classes/{id}", urgent=True)
        for id, title, n in rows
    ]


def _to_approve(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    n = accommodations.to_approve(ctx, db, actor)
    return [Waiting(what=accommodations.waiting_says(n), path="/people/groups", urgent=False)] if n else []


def _lapsing(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    """Accommodations that end while tests are still given."""
    window, n = accommodations.ending_soon(ctx, db, actor)
    if not n:
        return []
    what = accommodations.lapsing_says(n, window)
    return [Waiting(what=what, path="/people/groups", urgent=False)]


def _reflecting(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    if not actor.may(Action.REFLECTIONS_WRITE):
        return []
    n, due, request = open_reflections(ctx, db, actor)
    if not n or due is None:
        return []
    what = f"{counted(n, 'reflection')} on growth to write by {dates_of(db).short(due)}"
    return [Waiting(what=what, path=f"/growth/reflections?request={request}", urgent=due <= local_today(ctx, db))]


def _not_scheduled(ctx: Context, db: Session, actor: Actor) -> list[Waiting]:
    """Of windows that are open: afterwards nobody can make it up."""
    if not actor.may(Action.SESSIONS_PLAN):
        return []
    day = local_today(ctx, db)
    windows = db.scalars(select(Window).where(Window.start <= day, Window.end >= day).order_by(Window.end)).all()
    found = []
    for window in windows:
        counted_ = count(one.owed for one in owed_tests(ctx, db, actor, window.id))
        n = counted_.by_standing[Standing.NOT_SCHEDULED]
        if n:
            absent = counted_.by_reason[Reason.ABSENT]
            what = f"{counted(n, 'test')} not scheduled in {window.name}"
            if absent == n:
                what += " after an absence" if n == 1 else ", all after an absence"
            elif absent:
                what += f", {absent} after an absence"
            plans = actor.may(Action.PEOPLE_SETTLE) and n > counted_.by_reason[Reason.NONE]
            path = f"/sessions/{'makeups' if plans else ''}?window={window.id}".replace("/?", "?")
            found.append(Waiting(what=what, path=path, urgent=(window.end - day).days < SOON))
    return found


def _in_rosters(ctx: Context, actor: Actor) -> list[Waiting]:
    if not actor.may(Action.PEOPLE_SETTLE):
        return []
    n = sum(check(ctx, actor)[2].values())
    return (
        [Waiting(what=f"{counted(n, 'roster discrepancy', 'roster discrepancies')}", path="/people/check")] if n else []
    )


def _in_quality(ctx: Context, actor: Actor) -> list[Waiting]:
    open_ = list_undecided(ctx, actor)
    if not open_:
        return []
    urgent = sum(u.urgent for u in open_)
    what = f"{counted(len(open_), 'flagged item')} to review"
    if urgent:
        what += f", {urgent} with a possible wrong key or problem"
    return [Waiting(what=what, path="/quality/verdicts", urgent=urgent > 0)]


def _in_bank(ctx: Context, actor: Actor) -> list[Waiting]:
    if not actor.may(Action.BANK_WRITE):
        return []
    n = len(writing(ctx, actor).review)
    return [Waiting(what=f"{counted(n, 'item')} submitted for review", path="/bank/writing")] if n else []


def _by_day(lines: list[SessionLine], today: date, zone: ZoneInfo, dates: Dates) -> list[Day]:
    days: dict[date, list[SessionLine]] = {}
    for line in sorted(lines, key=lambda s: (s.start, s.klass, s.id)):
        days.setdefault(school_day(line.start, zone), []).append(line)
    near = {today: "Today", today + timedelta(days=1): "Tomorrow"}
    return [
        Day(name=near.get(day) or f"{day:%A}, {dates.short(day)}", sessions=[_listed(s) for s in found])
        for day, found in days.items()
    ]


def _listed(line: SessionLine, now: datetime | None = None) -> TodaySession:
    left = None if now is None else max(0, round((line.end - now) / timedelta(minutes=1)))
    return TodaySession(session=line, students=_expected(line), minutes_left=left)


def _expected(line: SessionLine) -> int:
    return sum(line.counts.values()) - line.counts["exempt"]


def _finding(open_: list[SessionLine], ahead: list[Day], waiting: list[Waiting], sees: bool) -> str:
    """The sessions first, then what waits."""
    parts = []
    if open_:
        took = sum(s.counts["handed_in"] for s in open_)
        of = sum(map(_expected, open_))
        verb = "session is" if len(open_) == 1 else "sessions are"
        parts.append(f"{len(open_)} {verb} open now: {took} of {counted(of, 'student')} have submitted.")
    elif ahead:
        day = ahead[0]
        when = day.name.lower() if day.name in ("Today", "Tomorrow") else f"on {day.name}"
        parts.append(f"No session is open. {counted(len(day.sessions), 'session')} scheduled {when}.")
    elif sees:
        parts.append("No session is open or scheduled for the next two weeks.")
    if waiting:
        parts.append(f"{counted(len(waiting), 'thing')} {'needs' if len(waiting) == 1 else 'need'} your attention.")
    elif not sees:
        parts.append("Nothing needs your attention.")
    return " ".join(parts)
