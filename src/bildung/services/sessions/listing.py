"""Sessions as lists and pages show them: their phase, counts of attempts, one session with its students."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Select, func, select, true
from sqlalchemy.orm import Session, joinedload

from bildung.core.accommodations.holding import Needs
from bildung.core.accommodations.kinds import KINDS
from bildung.core.school.dates import Dates
from bildung.core.school.schooltime import school_day
from bildung.core.school.timing import personal_end
from bildung.formats.blueprint import read_plan
from bildung.services.forms import settings
from bildung.services.forms.settings import title_of
from bildung.services.owed import accommodated
from bildung.services.owed.exempt import exemptions_of
from bildung.services.owed.sametest import gives_the_same
from bildung.services.owed.sessionroster import begun_elsewhere, enrolled_on
from bildung.services.participation.report import ParticipationPage, participation_page
from bildung.services.sessions.lateanswers import LateAnswer, late_answers
from bildung.services.sessions.roomview import (
    Irregularity,
    StudentInRoom,
    in_the_room,
    irregularities,
    room_finding,
    shared_findings,
)
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.settings import dates_of, setting
from bildung.services.shared.wire import Id
from bildung.services.sitting import taking
from bildung.store.models import (
    AccommodationUse,
    Federation,
    Form,
    FormItem,
    Person,
    Placement,
    PlannedSession,
    Response,
    School,
    SchoolClass,
    Sitting,
    Substitute,
)

GRACE = timedelta(minutes=10)
LONGEST_EXTENSION = timedelta(days=1)  # nobody's extended time reaches further behind the end


_NONE = accommodated.NONE


STATES = ("not_started", "answering", "resting", "on_paper", "handed_in", "absent", "exempt", "void")


Phase = Literal["open", "ahead", "closed", "canceled"]
PHASES: tuple[Phase, ...] = ("open", "ahead", "closed", "canceled")


@dataclass(frozen=True, kw_only=True)
class SessionLine:
    """phase: ahead, open, closed or canceled. counts: sittings by state. title: what students see. by_name: only who was
    placed in it is on its list. revision: moves with every change of the plan. why: it was canceled. may_plan: this person can change it."""

    id: Id
    code: str
    form_id: Id
    form: str
    window_id: Id
    window: str
    class_id: Id
    klass: str
    school: str
    room: str
    proctor: str
    start: datetime
    end: datetime
    phase: Phase
    counts: dict[str, int]
    part: str
    released_at: datetime | None
    proctor_id: Id | None
    title: str
    instructions: str
    by_name: bool
    revision: int
    why: str
    may_plan: bool
    due: datetime | None


@dataclass(frozen=True, kw_only=True)
class Provided:
    """One accommodation of a student at this session. outcome: offered, used, refused, or empty."""

    kind: str
    says: str
    outcome: str


@dataclass(frozen=True, kw_only=True)
class SittingLine:
    """needs: accommodations in words. until: when this student has to hand in. items: that this student meets. form:
    name of the companion form, where it is not the session's own. placed: comes from another class, or was put here by
    name. note: what was noted about the attempt. late:
    submitted after the test was due. way: school, home or paper, where it is known."""

    id: Id
    person: Id
    name: str
    code: str | None
    state: str
    answered: int
    last_at: datetime | None
    handed_in_at: datetime | None
    needs: str
    provided: list[Provided]
    until: datetime
    items: int
    form: str
    form_id: Id | None
    placed: bool
    note: str
    late: bool
    way: str
    room: StudentInRoom


@dataclass(frozen=True, kw_only=True)
class NotHere:
    """A student of the class who is not on the session's list. why: where or when the test is taken instead, or the
    reason of an exemption. instead: what an exempt student does meanwhile. session: where it is taken."""

    person: Id
    name: str
    why: str
    instead: str
    session: Id | None


@dataclass(frozen=True, kw_only=True)
class OtherSession:
    """A session of the window that gives the same test and is not over: students can be moved into it."""

    id: Id
    klass: str
    school: str
    room: str
    start: datetime
    students: int


@dataclass(frozen=True, kw_only=True)
class SessionDetail:
    """may_release: students are shown the right answers only when somebody says so, and nobody has yet. still_to_come:
    other sessions of the window that give the same items and are not over; their students could be told. several_forms:
    a student who started on the wrong form could go over to another. devices: what is so on most of them. may_hold: does what the room needs, as a substitute does.
    substitute_code: opens this session to one; substitutes: who came in with it."""

    finding: str
    session: SessionLine
    items: int
    sittings: list[SittingLine]
    may_run: bool
    may_hold: bool
    may_judge: bool
    may_release: bool
    still_to_come: list[str]
    site_address: str
    may_open_again: bool
    may_plan: bool
    not_here: list[NotHere]
    others: list[OtherSession]
    late: list[LateAnswer]
    several_forms: bool
    paused: bool
    school_id: Id
    may_stop_school: bool
    irregularities: list[Irregularity]
    devices: list[str]
    afterward: str
    substitute_code: str | None
    substitutes: list[str]


def list_sessions(ctx: Context, actor: Actor, window_id: int | None = None) -> list[SessionLine]:
    """Sessions that this person may see, of one window or of all: those that are open, those to come with the next one
    first, those that are over with the latest first."""
    wanted = select(PlannedSession).where(scope(actor, Action.SESSIONS_READ))
    if window_id is not None:
        wanted = wanted.where(PlannedSession.window_id == window_id)
    lines = _lines(ctx, actor, wanted)
    ahead = [line for line in lines if line.phase in ("open", "ahead")][::-1]
    over = [line for line in lines if line.phase not in ("open", "ahead")]
    return sorted(ahead + over, key=lambda line: PHASES.index(line.phase))


@dataclass(frozen=True, kw_only=True)
class SessionsPage:
    """participation: tests owed in the window by the students of these sessions; None where no window is chosen."""

    finding: str
    participation: ParticipationPage | None
    sessions: list[SessionLine]


def sessions_page(ctx: Context, actor: Actor, window_id: int | None = None) -> SessionsPage:
    """Sessions of a window with what is owed in it, or all sessions."""
    found = list_sessions(ctx, actor, window_id)
    owed = None if window_id is None else participation_page(ctx, actor, window_id)
    finding = sessions_finding(found)
    if owed is not None and owed.whole.owed:
        finding = f"{owed.finding} {finding}"
    return SessionsPage(finding=finding, participation=owed, sessions=found)


def current_sessions(ctx: Context, actor: Actor, ahead: timedelta) -> list[SessionLine]:
    """Sessions that this person may see and that are not over, up to so long from now; the latest first."""
    now = ctx.clock()
    not_over = PlannedSession.closed_at.is_(None) & (PlannedSession.end > now - LONGEST_EXTENSION)
    wanted = select(PlannedSession).where(
        scope(actor, Action.SESSIONS_READ), not_over, PlannedSession.start < now + ahead
    )
    return [line for line in _lines(ctx, actor, wanted) if line.phase in ("open", "ahead")]


def _lines(ctx: Context, actor: Actor, wanted: Select[PlannedSession]) -> list[SessionLine]:
    with ctx.store.read() as db:
        sessions = db.scalars(
            wanted.options(
                joinedload(PlannedSession.form),
                joinedload(PlannedSession.window),
                joinedload(PlannedSession.proctor),
                joinedload(PlannedSession.klass).joinedload(SchoolClass.school),
            ).order_by(PlannedSession.start.desc(), PlannedSession.id)
        ).all()
        counts = _counts(db, [s.id for s in sessions])
        plans = (
            select(PlannedSession.id).where(scope(actor, Action.SESSIONS_PLAN))
            if actor.may(Action.SESSIONS_PLAN)
            else None
        )
        mine = set() if plans is None else set(db.scalars(plans))
        return [_line(ctx, db, s, counts.get(s.id, {}), s.id in mine) for s in sessions]


def sessions_finding(lines: list[SessionLine]) -> str:
    """What the page of sessions opens with."""
    if not lines:
        return "No sessions are scheduled in this window."
    phases = {phase: sum(line.phase == phase for line in lines) for phase in PHASES}
    words = {"open": "open now", "ahead": "upcoming", "closed": "closed", "canceled": "canceled"}
    states = ", ".join(f"{n} {words[phase]}" for phase, n in phases.items() if n)
    if len(lines) > 1 and len(lines) in phases.values():
        states = "all " + next(words[phase] for phase, n in phases.items() if n)
    return f"{len(lines)} {'session' if len(lines) == 1 else 'sessions'}: {states}."


def counts_in_words(ctx: Context, db: Session, session: PlannedSession) -> str:
    """What the page of one session says of its attempts."""
    counts = _counts(db, [session.id]).get(session.id, {})
    return _session_finding(_line(ctx, db, session, counts, False))


def _session_finding(line: SessionLine) -> str:
    c = line.counts
    total = sum(c.values())
    if line.phase == "canceled":
        return f"This session was canceled: {line.why}"
    if total == 0 and line.by_name:
        return "No student has been placed in this session."
    if total == 0:
        return "No students are in this class."
    if line.phase == "ahead":
        return f"{total} students are expected. They join with the code {line.code}."
    parts = [f"{c['handed_in']} of {total} have submitted"]
    if c["answering"]:
        parts.append(f"{c['answering']} in progress")
    if c["resting"]:
        parts.append(f"{c['resting']} to be continued on another day")
    if c["on_paper"]:
        parts.append(f"{c['on_paper']} on paper")
    if c["not_started"]:
        parts.append(f"{c['not_started']} {'has' if c['not_started'] == 1 else 'have'} not started")
    parts += [f"{c[state]} {state}" for state in ("absent", "exempt", "void") if c[state]]
    return ", ".join(parts) + "."


def _outcomes(db: Session, sittings: list[int]) -> dict[int, dict[str, str]]:
    found: dict[int, dict[str, str]] = {}
    for row in db.scalars(select(AccommodationUse).where(AccommodationUse.sitting_id.in_(sittings))):
        found.setdefault(row.sitting_id, {})[row.kind] = row.outcome
    return found


def _provided(needs: Needs, outcomes: dict[str, str]) -> list[Provided]:
    """What holds for the test now, and what something was said about while it held."""
    kinds = [kind for kind in KINDS if kind in needs.kinds or kind in outcomes]
    return [
        Provided(kind=kind, says=needs.word(kind) or KINDS[kind].says, outcome=outcomes.get(kind, "")) for kind in kinds
    ]


def _needs_finding(needs: list[Needs], phase: str) -> str:
    """What whoever holds the session has to prepare; once it is closed, nothing."""
    if not needs or phase == "closed":
        return ""
    apart = sum(n.apart for n in needs)
    text = f" {len(needs)} {'needs' if len(needs) == 1 else 'need'} accommodations"
    return text + (f", {apart} of them a separate room or proctor." if apart else ".")


def _counts(db: Session, ids: list[int]) -> dict[int, dict[str, int]]:
    counts: dict[int, dict[str, int]] = {}
    for session_id, state, n in db.execute(
        select(Sitting.session_id, Sitting.state, func.count())
        .where(Sitting.session_id.in_(ids))
        .group_by(Sitting.session_id, Sitting.state)
    ):
        counts.setdefault(session_id, dict.fromkeys(STATES, 0))[state] = n
    return counts


def _line(ctx: Context, db: Session, s: PlannedSession, counts: dict[str, int], may_plan: bool) -> SessionLine:
    return SessionLine(
        id=s.id,
        code=s.code,
        form_id=s.form_id,
        form=s.form.name,
        window_id=s.window_id,
        window=s.window.name,
        class_id=s.class_id,
        klass=s.klass.title,
        school=s.klass.school.name,
        room=s.room,
        proctor=s.proctor.name if s.proctor else "",
        start=s.start,
        end=s.end,
        phase=phase(db, s, ctx.clock()),
        counts=counts or dict.fromkeys(STATES, 0),
        part=_part_name(s),
        released_at=s.released_at,
        proctor_id=s.proctor_id,
        title=s.title or title_of(s.form),
        instructions=s.instructions,
        by_name=s.by_name,
        revision=s.revision,
        why=s.cancel_why,
        may_plan=may_plan,
        due=s.due,
    )


def _part_name(session: PlannedSession) -> str:
    if session.part is None or not session.form.plan:
        return ""
    parts = read_plan(session.form.plan).parts
    named = parts[session.part].name if session.part < len(parts) else ""
    return named or f"part {session.part + 1}"


def phase(db: Session, session: PlannedSession, now: datetime) -> Phase:
    """Whether a session is ahead, open, closed or canceled; with a little grace after its end."""
    if session.canceled_at is not None:
        return "canceled"
    if session.closed_at is not None:
        return "closed"
    if now > session.end + GRACE and now > accommodated.last_end(db, session, now) + GRACE:
        return "closed"
    return "ahead" if now < session.start else "open"


def _get(db: Session, actor: Actor, action: Action, session_id: int) -> PlannedSession:
    session = db.scalar(select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, action)))
    if session is None:
        raise NotFound("there is no such session, or it is not yours")
    return session


def get_session(ctx: Context, actor: Actor, session_id: int) -> SessionDetail:
    """One session with its students, as whoever watches or runs it sees it."""
    with ctx.store.read() as db:
        seen = Action.SESSIONS_READ if actor.may(Action.SESSIONS_READ) else Action.ROOM_HOLD
        session = _get(db, actor, seen, session_id)
        counted = select(func.count()).select_from(FormItem)
        items = db.scalar(counted.where(FormItem.form_id == session.form_id, _in_part(session))) or 0
        answered = dict(
            db.execute(
                select(Response.sitting_id, func.count())
                .join(Sitting, Sitting.id == Response.sitting_id)
                .where(Sitting.session_id == session_id, Response.answer != "")
                .group_by(Response.sitting_id)
            ).all()
        )
        rows = db.execute(
            select(Sitting, Person)
            .join(Person, Person.id == Sitting.person_id)
            .where(Sitting.session_id == session_id)
            .order_by(Person.family, Person.given, Sitting.id)
        ).all()
        may_run = reaches(db, actor, Action.SESSIONS_RUN, session_id)
        may_hold = may_run or reaches(db, actor, Action.ROOM_HOLD, session_id)
        placed = set(db.scalars(select(Placement.person_id).where(Placement.session_id == session_id)))
        needs = accommodated.in_session(db, session, [p.id for _, p in rows])
        sees = sees_needs(db, actor, session)
        said = _outcomes(db, [s.id for s, _ in rows])
        companions = {s.form_id: db.get_one(Form, s.form_id) for s, _ in rows if s.form_id is not None}
        lengths = {id: db.scalar(counted.where(FormItem.form_id == id, _in_part(session))) or 0 for id in companions}
        limits = {id: settings.settings(form).minutes for id, form in [(None, session.form), *companions.items()]}
        devices, room = shared_findings(in_the_room(db, session, [s for s, _ in rows], ctx.clock()))
        sittings = [
            SittingLine(
                id=s.id,
                person=p.id,
                name=p.name,
                code=p.code if may_hold else None,
                state=s.state,
                answered=answered.get(s.id, 0),
                last_at=s.last_at,
                handed_in_at=s.handed_in_at,
                needs=accommodated.said(needs.get(p.id, _NONE)) if sees else "",
                provided=_provided(needs.get(p.id, _NONE), said.get(s.id, {})) if may_run else [],
                until=personal_end(
                    session.start,
                    session.end,
                    needs.get(p.id, _NONE).extra_time,
                    s.counted_from,
                    limits[s.form_id],
                    accommodated.added_to(s, ctx.clock()),
                ),
                items=len(s.drawn) if s.drawn is not None else lengths.get(s.form_id or 0, items),
                form=companions[s.form_id].name if s.form_id is not None and may_run else "",
                form_id=s.form_id if may_run else None,
                placed=p.id in placed,
                note=s.note if may_hold else "",
                late=session.due is not None and s.handed_in_at is not None and s.handed_in_at > session.due,
                way=s.way,
                room=room[s.id],
            )
            for s, p in rows
        ]
        may_plan = reaches(db, actor, Action.SESSIONS_PLAN, session_id)
        line = _line(ctx, db, session, _counts(db, [session_id]).get(session_id, {}), may_plan)
        zone, dates = ZoneInfo(db.scalar(select(Federation.zone)) or "UTC"), dates_of(db)
        held_back = session.released_at is None and (
            settings.settings(session.form).feedback == "release" or not taking.reveals(db, session, session.form)
        )
        others = [o for o in taking.still_open(db, session) if o.id != session.id]
        return SessionDetail(
            finding=_session_finding(line)
            + (_needs_finding(list(needs.values()), line.phase) if sees else "")
            + _companions_finding(sittings)
            + (room_finding(list(room.values()), session.paused_at is not None) if line.phase == "open" else ""),
            session=line,
            items=items,
            sittings=sittings,
            may_run=may_run,
            may_hold=may_hold,
            devices=devices if line.phase == "open" else [],
            afterward=session.afterward,
            substitute_code=session.substitute_code if may_run else None,
            substitutes=_substitutes(db, session_id) if may_run else [],
            may_judge=reaches(db, actor, Action.QUALITY_READ, session_id),
            may_release=may_run and held_back and line.counts["handed_in"] > 0,
            still_to_come=[f"{o.klass.title}, {dates.short(o.start.astimezone(zone))}" for o in others]
            if may_run
            else [],
            site_address=str(setting(db, "site_address")),
            may_open_again=may_run
            and session.closed_at is not None
            and session.released_at is None
            and session.canceled_at is None,
            may_plan=may_plan,
            not_here=_not_here(db, session, {p.id for _, p in rows}, zone, dates),
            others=_others(db, actor, session),
            late=late_answers(db, session_id) if may_run else [],
            several_forms=may_run and _several_forms(session.form),
            paused=session.paused_at is not None,
            school_id=session.klass.school_id,
            may_stop_school=may_run and stops_school(db, actor, session.klass.school_id),
            irregularities=irregularities(db, [session_id]).get(session_id, []) if may_hold else [],
        )


def _substitutes(db: Session, session_id: int) -> list[str]:
    """Names as they typed them, in the order in which they came."""
    rows = db.scalars(
        select(Person)
        .join(Substitute, Substitute.person_id == Person.id)
        .where(Substitute.session_id == session_id)
        .order_by(Substitute.id)
    )
    return list(dict.fromkeys(p.name for p in rows))


def _several_forms(form: Form) -> bool:
    return form.family is not None and sum(f.published_at is not None for f in form.family.forms) > 1


def _others(db: Session, actor: Actor, session: PlannedSession) -> list[OtherSession]:
    """Those that this person plans, the next one first."""
    if session.canceled_at is not None or not actor.may(Action.SESSIONS_PLAN):
        return []
    wanted = select(PlannedSession).where(
        gives_the_same(db, session), PlannedSession.closed_at.is_(None), scope(actor, Action.SESSIONS_PLAN)
    )
    whole = wanted.options(joinedload(PlannedSession.klass).joinedload(SchoolClass.school))
    found = db.scalars(whole.order_by(PlannedSession.start, PlannedSession.id)).all()
    counts = _counts(db, [s.id for s in found])
    return [
        OtherSession(
            id=s.id,
            klass=s.klass.title,
            school=s.klass.school.name,
            room=s.room,
            start=s.start,
            students=sum(counts.get(s.id, {}).values()),
        )
        for s in found
    ]


def _not_here(db: Session, session: PlannedSession, listed: set[int], zone: ZoneInfo, dates: Dates) -> list[NotHere]:
    """Students of the class who take the test elsewhere, have taken it, or are exempt, by name."""
    if session.by_name or session.canceled_at is not None:
        return []
    day = school_day(session.end, zone)
    missing = enrolled_on(db, session.class_id, day) - listed
    if not missing:
        return []
    begun = begun_elsewhere(db, session)
    placed = {
        person: other
        for person, other in db.execute(
            select(Placement.person_id, PlannedSession)
            .join(PlannedSession, PlannedSession.id == Placement.session_id)
            .where(gives_the_same(db, session), PlannedSession.canceled_at.is_(None))
        )
    }
    exempt = exemptions_of(db, session.window_id, session.form.subject, day, missing)
    found = []
    for p in db.scalars(select(Person).where(Person.id.in_(missing)).order_by(Person.family, Person.given)):
        why, instead, where = "joined the class after this session", "", None
        if p.id in begun:
            sitting, where = begun[p.id]
            day_ = dates.short(where.start.astimezone(zone))
            verb = {"answering": "taking it", "resting": "continues it", "on_paper": "takes it on paper"}.get(
                sitting.state, f"took it on {day_}"
            )
            why = f"{verb} in {where.klass.title}"
        elif p.id in exempt:
            why, instead = f"exempt: {exempt[p.id].reason}", exempt[p.id].instead
        elif p.id in placed:
            where = placed[p.id]
            why = f"takes it on {dates.moment(where.start.astimezone(zone))} in {where.room or where.klass.title}"
        found.append(NotHere(person=p.id, name=p.name, why=why, instead=instead, session=where.id if where else None))
    return found


def _in_part(session: PlannedSession) -> ColumnElement[bool]:
    return true() if session.part is None else FormItem.part == session.part


def _companions_finding(sittings: list[SittingLine]) -> str:
    """Whoever holds the session learns of companions; students see one title and nobody a number of their own."""
    others = sum(s.form != "" for s in sittings)
    return f" {others} {'takes' if others == 1 else 'take'} a companion form." if others else ""


def sees_needs(db: Session, actor: Actor, session: PlannedSession) -> bool:
    """Whether they see everybody's accommodations at a session: who runs it, and those whose school or classes it is; not
    who is there for one student."""
    return actor.may(Action.CLASSES_READ) or reaches(db, actor, Action.ROOM_HOLD, session.id)


def reaches(db: Session, actor: Actor, action: Action, session_id: int) -> bool:
    """Whether this person may do it to this session."""
    if not actor.may(action):
        return False
    return db.scalar(select(PlannedSession.id).where(PlannedSession.id == session_id, scope(actor, action))) is not None


def stops_school(db: Session, actor: Actor, school_id: int) -> bool:
    """Whether this person may stop all sessions of a school: whoever plans its windows."""
    if not actor.may(Action.WINDOWS_PLAN):
        return False
    return db.scalar(select(School.id).where(School.id == school_id, scope(actor, Action.WINDOWS_PLAN))) is not None
