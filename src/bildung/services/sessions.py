"""Sessions: planning them, watching them, closing them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Any, Literal
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, func, select, true
from sqlalchemy.orm import Session, joinedload

from bildung.core.schooltime import EARLIEST, LATEST
from bildung.core.timing import personal_end
from bildung.formats.blueprint import read_plan
from bildung.reports.cards import Sheet, session_cards
from bildung.services import accommodations, audit, dealing, sitting
from bildung.services.access import Action, Actor, scope
from bildung.services.addresses import site_address, with_warning
from bildung.services.bank import need_text
from bildung.services.codes import SESSION_LENGTH, new_code
from bildung.services.context import Context
from bildung.services.errors import Conflict, Invalid, NotFound
from bildung.services.lateanswers import LateAnswer, late_answers
from bildung.services.packing import pack
from bildung.services.proctors import check_proctor, who_may_hold
from bildung.services.rosters import follow_class
from bildung.services.settings import setting
from bildung.store.models import (
    AcademicSession,
    Federation,
    Form,
    FormItem,
    PackedAnswers,
    Person,
    PlannedSession,
    Response,
    SchoolClass,
    Sitting,
    Window,
)

GRACE = timedelta(minutes=10)
NEAR = 800  # days from today within which a session is planned
_NONE = accommodations.Needs()
STATES = ("not_started", "answering", "handed_in", "absent", "exempt", "void")


@dataclass(frozen=True)
class SessionLine:
    """phase: ahead, open or closed. counts: sittings by state."""

    id: int
    code: str
    form_id: int
    form: str
    window_id: int
    window: str
    class_id: int
    klass: str
    school: str
    room: str
    proctor: str
    start: datetime
    end: datetime
    phase: str
    counts: dict[str, int]
    part: str
    released_at: datetime | None


@dataclass(frozen=True)
class SittingLine:
    """needs: accommodations in words. until: when this student has to hand in. items: that this student meets. form:
    name of the companion form, where it is not the session's own."""

    id: int
    person: int
    name: str
    code: str | None
    state: str
    answered: int
    last_at: datetime | None
    handed_in_at: datetime | None
    needs: str
    until: datetime
    items: int
    form: str
    form_id: int | None


@dataclass(frozen=True)
class SessionDetail:
    """may_release: students are shown the right answers only when somebody says so, and nobody has yet. still_to_come:
    other sessions of the window that give the same items and are not over; their students could be told."""

    finding: str
    session: SessionLine
    items: int
    sittings: list[SittingLine]
    may_run: bool
    may_judge: bool
    may_release: bool
    still_to_come: list[str]
    site_address: str
    may_open_again: bool
    late: list[LateAnswer]


def calendar(ctx: Context, actor: Actor) -> dict[str, Any]:
    """The school year and its windows, for the year line; and the zone that times are shown in."""
    scope(actor, Action.SESSIONS_READ)
    today = ctx.clock()
    with ctx.store.read() as db:
        federation = db.scalar(select(Federation))
        zone = federation.zone if federation else "UTC"
        day = today.astimezone(ZoneInfo(zone)).date()
        windows = db.scalars(select(Window).order_by(Window.start)).all()
        years = db.scalars(select(AcademicSession).where(AcademicSession.kind == "schoolYear")).all()
        current = next((y for y in years if y.start <= day <= y.end), None)
        start = current.start if current else date(day.year if day.month >= 8 else day.year - 1, 8, 1)
        end = current.end if current else date(start.year + 1, 7, 31)
        over = [w for w in windows if w.end < day]
        if over and over[-1].start < start:  # early in a year what matters is the last one's last window
            start = over[-1].start - timedelta(days=14)
        return {
            "zone": zone, "today": day, "start": start,
            "end": end, "windows": [{"id": w.id, "name": w.name, "start": w.start, "end": w.end} for w in windows],
        }  # fmt: skip


def create_window(ctx: Context, actor: Actor, name: str, start: date, end: date) -> int:
    """Windows are the whole federation's, so only its own coordinators make them."""
    scope(actor, Action.YEARS_WRITE)
    name = need_text(name, "name", 40)
    if end < start:
        raise Invalid("a window ends on or after the day it starts", "end")
    if not EARLIEST <= start.year <= end.year <= LATEST:
        raise Invalid(f"years are between {EARLIEST} and {LATEST}", "start")

    def work(db: Session) -> int:
        if db.scalar(select(Window.id).where(Window.name == name, Window.start == start)):
            raise Conflict(f"there is a window {name} from that day already", "name")
        window = Window(name=name, start=start, end=end)
        db.add(window)
        db.flush()
        audit.record(db, ctx.clock(), actor.person_id, "window.create", f"window:{window.id}", None, {"name": name})
        return window.id

    return ctx.store.write(work)


def choices(ctx: Context, actor: Actor) -> dict[str, Any]:
    """What a new session can be made of, within this person's scope."""
    scope(actor, Action.SESSIONS_PLAN)
    allowed = scope(actor, Action.CLASSES_READ)
    with ctx.store.read() as db:
        forms = db.scalars(select(Form).where(Form.published_at.is_not(None)).order_by(Form.name)).all()
        corrected = {f.before_id for f in forms}
        held: defaultdict[int, set[int]] = defaultdict(set)
        for form_id, part in db.execute(select(FormItem.form_id, FormItem.part).distinct()):
            held[form_id].add(part)
        classes = db.scalars(
            select(SchoolClass).where(allowed, SchoolClass.active.is_(True))
            .options(joinedload(SchoolClass.school)).order_by(SchoolClass.title)
        ).all()  # fmt: skip
        staff = db.scalars(
            select(Person).where(Person.kind == "staff", Person.active.is_(True), scope(actor, Action.PEOPLE_READ))
            .order_by(Person.family, Person.given)
        ).all()  # fmt: skip
        holding = who_may_hold(db, [p.id for p in staff])
        return {
            "forms": [_form_choice(f, forms, held[f.id]) for f in forms if f.id not in corrected],
            "classes": [
                {
                    "id": c.id, "title": c.title, "school": c.school.name, "subject": c.subject, "grade": c.grade,
                    "room": c.location,
                }
                for c in classes
            ],
            "staff": [{"id": p.id, "name": p.name, "may_hold": p.id in holding} for p in staff],
        }  # fmt: skip


def _form_choice(form: Form, forms: Sequence[Form], held: set[int]) -> dict[str, Any]:
    """What is asked of a form when it is planned: its parts, where there are several, and whether companions that are
    alike can be dealt out. held: parts that have items."""
    family = [f for f in forms if f.family_id is not None and f.family_id == form.family_id]
    names = [p.name or f"Part {at}" for at, p in enumerate(read_plan(form.plan).parts, 1)] if form.plan else []
    return {
        "id": form.id, "name": form.name, "subject": form.subject, "grade": form.grade, "companions": max(0, len(family) - 1),
        "alike": sum(f.role in dealing.ALIKE for f in family), "parts": names if len(names) > 1 and len(held) > 1 else [],
    }  # fmt: skip


def schedule(
    ctx: Context, actor: Actor, form_id: int, window_id: int, class_ids: list[int], room: str,
    proctor_id: int | None, start: datetime, end: datetime, part: int | None = None, deal: bool = False,
    grant_role: bool = False,
) -> list[int]:  # fmt: skip
    """One session for each class, all or none; each with its roster and its code. part: of the form, from 0, that is
    sat here; None: all of it. deal: companions that are alike are dealt out in turn. grant_role: give whoever is to hold it
    the role of proctor, where they have none."""
    scope(actor, Action.SESSIONS_PLAN)
    allowed = scope(actor, Action.CLASSES_READ)
    start, end = start.astimezone(UTC), end.astimezone(UTC)  # lengths are of time that passes, also where clocks change
    if end <= start:
        raise Invalid("the end comes after the start", "end")
    if not timedelta(days=-NEAR) < start - ctx.clock() < timedelta(days=NEAR):
        raise Invalid(f"{start.year} is not this school year or one beside it; check the year", "start")
    if end - start > timedelta(days=60):
        raise Invalid("a session lasts 60 days at most", "end")
    if not class_ids:
        raise Invalid("choose at least one class", "class_ids")

    def work(db: Session) -> list[int]:
        form = db.get(Form, form_id)
        if form is None or form.published_at is None:
            raise Invalid("choose a published form", "form_id")
        if part is not None and part not in {item.part for item in form.items}:
            raise Invalid(f"{form.name} has no items in part {part + 1}", "part")
        alike = [form_id] if form.family is None else [f.id for f in form.family.forms]
        if db.get(Window, window_id) is None:
            raise Invalid("choose a window", "window_id")
        classes = {
            c.id: c for c in db.scalars(select(SchoolClass).where(SchoolClass.id.in_(class_ids), allowed))
        }  # fmt: skip
        missing = [id for id in class_ids if id not in classes]
        if missing:
            raise Invalid("a class is not there or not yours", "class_ids")
        if proctor_id is not None:
            school = classes[class_ids[0]].school_id
            _check_free(db, check_proctor(db, ctx, actor, proctor_id, school, grant_role), start, end, len(class_ids))
        codes = set(db.scalars(select(PlannedSession.code)))
        made: list[int] = []
        for id in dict.fromkeys(class_ids):
            if db.scalar(
                select(PlannedSession.id).where(
                    PlannedSession.class_id == id, PlannedSession.form_id.in_(alike), PlannedSession.window_id == window_id,
                    PlannedSession.part.is_(None) | (PlannedSession.part == part) if part is not None else true(),
                )
            ):  # fmt: skip
                what = "this form" if part is None else "this part"
                what += " or a companion of it" if len(alike) > 1 else ""
                raise Conflict(f"{classes[id].title} has {what} in this window already", "class_ids")
            clash = db.scalar(
                select(PlannedSession).where(
                    PlannedSession.class_id == id, PlannedSession.start < end, PlannedSession.end > start,
                    PlannedSession.closed_at.is_(None),
                )
            )  # fmt: skip
            if clash is not None:
                raise Conflict(f"{classes[id].title} sits {clash.form.name} at that time", "start")
            session = PlannedSession(
                form_id=form_id, window_id=window_id, class_id=id, room=room.strip() or classes[id].location,
                proctor_id=proctor_id, start=start, end=end, code=new_code(SESSION_LENGTH, codes), part=part, deal=deal,
            )  # fmt: skip
            db.add(session)
            db.flush()
            follow_class(db, session)
            _refuse_unsettled(db, session, classes[id].title)
            audit.record(
                db, ctx.clock(), actor.person_id, "session.schedule", f"session:{session.id}", None,
                {"form": form.name, "class": classes[id].title, "start": start.isoformat(), "end": end.isoformat()},
            )  # fmt: skip
            made.append(session.id)
        return made

    return ctx.store.write(work)


def _refuse_unsettled(db: Session, session: PlannedSession, title: str) -> None:
    """A student who is named for two forms is settled before anybody plans: afterwards it would be found at the door."""
    unsettled = dealing.assign(db, session).unsettled
    if unsettled:
        names = [db.get_one(Person, id).name for id in list(unsettled)[:3]]
        more = f" and {len(unsettled) - 3} more" if len(unsettled) > 3 else ""
        family = session.form.family
        raise Conflict(
            f"{', '.join(names)}{more} of {title} would receive two different forms; settle it at the family"
            f" {family.name if family else ''}",
            "form_id",
        )


def _check_free(db: Session, proctor: Person, start: datetime, end: datetime, sessions: int) -> None:
    if sessions > 1:
        raise Invalid(f"{proctor.name} cannot hold {sessions} sessions at once; plan one class at a time", "proctor_id")
    clash = db.scalar(
        select(PlannedSession).where(
            PlannedSession.proctor_id == proctor.id, PlannedSession.start < end, PlannedSession.end > start,
            PlannedSession.closed_at.is_(None),
        )
    )  # fmt: skip
    if clash is not None:
        raise Conflict(f"{proctor.name} holds {clash.form.name} in {clash.room or 'another room'} then", "proctor_id")


def list_sessions(ctx: Context, actor: Actor, window_id: int | None = None) -> list[SessionLine]:
    allowed = scope(actor, Action.SESSIONS_READ)
    with ctx.store.read() as db:
        wanted = select(PlannedSession).where(allowed)
        if window_id is not None:
            wanted = wanted.where(PlannedSession.window_id == window_id)
        sessions = db.scalars(
            wanted.options(
                joinedload(PlannedSession.form), joinedload(PlannedSession.window), joinedload(PlannedSession.proctor),
                joinedload(PlannedSession.klass).joinedload(SchoolClass.school),
            ).order_by(PlannedSession.start.desc(), PlannedSession.id)
        ).all()  # fmt: skip
        counts = _counts(db, [s.id for s in sessions])
        return [_line(ctx, db, s, counts.get(s.id, {})) for s in sessions]


@dataclass(frozen=True)
class SittingCounts:
    """Sittings of several sessions by state. pending: not started or still answering."""

    handed_in: int
    absent: int
    pending: int


def sitting_counts(lines: Sequence[SessionLine]) -> SittingCounts:
    def of(*states: str) -> int:
        return sum(line.counts[state] for line in lines for state in states)

    return SittingCounts(of("handed_in"), of("absent"), of("not_started", "answering"))


def sessions_finding(lines: list[SessionLine]) -> str:
    """What the page of sessions opens with."""
    if not lines:
        return "No session is planned in this window."
    phases = {phase: sum(line.phase == phase for line in lines) for phase in ("open", "ahead", "closed")}
    totals = sitting_counts(lines)
    words = {"open": "open now", "ahead": "ahead", "closed": "closed"}
    states = ", ".join(f"{n} {words[phase]}" for phase, n in phases.items() if n)
    if len(lines) > 1 and len(lines) in phases.values():
        states = "all " + next(words[phase] for phase, n in phases.items() if n)
    finding = (
        f"{len(lines)} {'session' if len(lines) == 1 else 'sessions'}: {states}. {totals.handed_in} sittings handed in"
    )
    if totals.pending:
        finding += f", {totals.pending} to come"
    return finding + (f", {totals.absent} absent who still need a time." if totals.absent else ".")


def _session_finding(line: SessionLine) -> str:
    c = line.counts
    total = sum(c.values())
    if total == 0:
        return "Nobody is in this class."
    if line.phase == "ahead":
        return f"{total} students are expected. They join with the code {line.code}."
    parts = [f"{c['handed_in']} of {total} have handed in"]
    if c["answering"]:
        parts.append(f"{c['answering']} {'is' if c['answering'] == 1 else 'are'} answering")
    if c["not_started"]:
        parts.append(f"{c['not_started']} {'has' if c['not_started'] == 1 else 'have'} not started")
    parts += [f"{c[state]} {state}" for state in ("absent", "exempt", "void") if c[state]]
    return ", ".join(parts) + "."


def _needs_finding(needs: list[accommodations.Needs], phase: str) -> str:
    """What whoever holds the session has to prepare; once it is closed, nothing."""
    if not needs or phase == "closed":
        return ""
    apart = sum(n.own_proctor or n.small_group for n in needs)
    text = f" {len(needs)} {'needs' if len(needs) == 1 else 'need'} something"
    return text + (f", {apart} of them a room or a proctor of their own." if apart else ".")


def _counts(db: Session, ids: list[int]) -> dict[int, dict[str, int]]:
    counts: dict[int, dict[str, int]] = {}
    for session_id, state, n in db.execute(
        select(Sitting.session_id, Sitting.state, func.count()).where(Sitting.session_id.in_(ids))
        .group_by(Sitting.session_id, Sitting.state)
    ):  # fmt: skip
        counts.setdefault(session_id, dict.fromkeys(STATES, 0))[state] = n
    return counts


def _line(ctx: Context, db: Session, s: PlannedSession, counts: dict[str, int]) -> SessionLine:
    return SessionLine(
        s.id, s.code, s.form_id, s.form.name, s.window_id, s.window.name, s.class_id, s.klass.title,
        s.klass.school.name, s.room, s.proctor.name if s.proctor else "", s.start, s.end, phase(db, s, ctx.clock()),
        counts or dict.fromkeys(STATES, 0), _part_name(s), s.released_at,
    )  # fmt: skip


def _part_name(session: PlannedSession) -> str:
    if session.part is None or not session.form.plan:
        return ""
    parts = read_plan(session.form.plan).parts
    named = parts[session.part].name if session.part < len(parts) else ""
    return named or f"part {session.part + 1}"


def phase(db: Session, session: PlannedSession, now: datetime) -> Literal["ahead", "open", "closed"]:
    if session.closed_at is not None:
        return "closed"
    if now > session.end + GRACE and now > accommodations.last_end(db, session) + GRACE:
        return "closed"
    return "ahead" if now < session.start else "open"


def _get(db: Session, actor: Actor, action: Action, session_id: int) -> PlannedSession:
    session = db.scalar(select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, action)))
    if session is None:
        raise NotFound("there is no such session, or it is not yours")
    return session


def get_session(ctx: Context, actor: Actor, session_id: int) -> SessionDetail:
    with ctx.store.read() as db:
        session = _get(db, actor, Action.SESSIONS_READ, session_id)
        counted = select(func.count()).select_from(FormItem)
        items = db.scalar(counted.where(FormItem.form_id == session.form_id, _in_part(session))) or 0
        answered = dict(
            db.execute(
                select(Response.sitting_id, func.count()).join(Sitting, Sitting.id == Response.sitting_id)
                .where(Sitting.session_id == session_id, Response.answer != "").group_by(Response.sitting_id)
            ).all()
        )  # fmt: skip
        rows = db.execute(
            select(Sitting, Person).join(Person, Person.id == Sitting.person_id)
            .where(Sitting.session_id == session_id).order_by(Person.family, Person.given, Sitting.id)
        ).all()  # fmt: skip
        may_run = _reaches(db, actor, Action.SESSIONS_RUN, session_id)
        needs = accommodations.of_people(db, [p.id for _, p in rows])
        companions = {s.form_id: db.get_one(Form, s.form_id) for s, _ in rows if s.form_id is not None}
        lengths = {id: db.scalar(counted.where(FormItem.form_id == id, _in_part(session))) or 0 for id in companions}
        limits = {id: dealing.settings(form).minutes for id, form in [(None, session.form), *companions.items()]}
        sittings = [
            SittingLine(
                s.id, p.id, p.name, p.code if may_run else None, s.state, answered.get(s.id, 0), s.last_at, s.handed_in_at,
                accommodations.said(needs.get(p.id, _NONE)),
                personal_end(session.start, session.end, needs.get(p.id, _NONE).extra_time, s.started_at, limits[s.form_id]),
                len(s.drawn) if s.drawn is not None else lengths.get(s.form_id or 0, items),
                companions[s.form_id].name if s.form_id is not None and may_run else "", s.form_id if may_run else None,
            )
            for s, p in rows
        ]  # fmt: skip
        line = _line(ctx, db, session, _counts(db, [session_id]).get(session_id, {}))
        zone = ZoneInfo(db.scalar(select(Federation.zone)) or "UTC")
        held_back = session.released_at is None and (
            dealing.settings(session.form).feedback == "release" or not sitting.reveals(db, session, session.form)
        )
        others = [o for o in sitting.still_open(db, session) if o.id != session.id]
        return SessionDetail(
            _session_finding(line) + _needs_finding(list(needs.values()), line.phase) + _companions_finding(sittings), line, items,
            sittings, may_run, _reaches(db, actor, Action.QUALITY_READ, session_id), may_run and held_back and line.counts["handed_in"] > 0,
            [f"{o.klass.title}, {o.start.astimezone(zone):%b} {o.start.astimezone(zone).day}" for o in others] if may_run else [],
            str(setting(db, "site_address")), may_run and session.closed_at is not None and session.released_at is None,
            late_answers(db, session_id) if may_run else [],
        )  # fmt: skip


def _in_part(session: PlannedSession) -> ColumnElement[bool]:
    return true() if session.part is None else FormItem.part == session.part


def _companions_finding(sittings: list[SittingLine]) -> str:
    """Whoever holds the session learns of companions; students see one title and nobody a number of their own."""
    others = sum(s.form != "" for s in sittings)
    return f" {others} {'sits' if others == 1 else 'sit'} a companion form." if others else ""


def release(ctx: Context, actor: Actor, session_id: int, despite: bool = False) -> None:
    """From now on students of this session see the right answers. despite: other sessions that give the same items are
    not over; without it that is refused, with their classes named."""

    def work(db: Session) -> None:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        if session.released_at is not None:
            raise Conflict("students see the results of this session already")
        if session.closed_at is None:
            raise Conflict("close the session first: somebody may still be answering")
        others = sitting.still_open(db, session)
        if others and not despite:
            names = ", ".join(o.klass.title for o in others[:3]) + (
                f" and {len(others) - 3} more" if len(others) > 3 else ""
            )
            raise Conflict(
                f"{names} still {'takes' if len(others) == 1 else 'take'} this test: students could pass the answers on",
                "despite",
            )
        session.released_at = ctx.clock()
        after = {"despite open sessions": len(others)} if others else None
        audit.record(db, ctx.clock(), actor.person_id, "session.release", f"session:{session_id}", None, after)

    ctx.store.write(work)


def _reaches(db: Session, actor: Actor, action: Action, session_id: int) -> bool:
    if not actor.may(action):
        return False
    return db.scalar(select(PlannedSession.id).where(PlannedSession.id == session_id, scope(actor, action))) is not None


def mark(ctx: Context, actor: Actor, session_id: int, sitting_id: int, state: str, why: str = "") -> None:
    """Say that a student is absent, exempt, or that a sitting is void; or take that back."""
    if state not in ("absent", "exempt", "void", "back"):
        raise Invalid("absent, exempt, void or back", "state")

    def work(db: Session) -> None:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        attempt = db.get(Sitting, sitting_id)
        if attempt is None or attempt.session_id != session.id:
            raise NotFound("there is no such sitting in this session")
        if state == "absent" and attempt.started_at is not None:
            raise Conflict("this student has started; void the sitting if it must not count")
        before = attempt.state
        if state == "back":
            if attempt.started_at and session.closed_at and not attempt.handed_in_at:
                attempt.handed_in_at = session.closed_at
            attempt.state = _state_without_mark(attempt, session)
        else:
            attempt.state = state
        session.data_version += 1
        audit.record(
            db, ctx.clock(), actor.person_id, "sitting.mark", f"sitting:{sitting_id}", before, attempt.state, why
        )

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"sitting": str(sitting_id)})
    ctx.bus.publish(sitting.topic(session_id), {"sitting": str(sitting_id)})


def _state_without_mark(attempt: Sitting, session: PlannedSession) -> str:
    if attempt.handed_in_at:
        return "handed_in"
    if attempt.started_at:
        return "answering"
    return "absent" if session.closed_at else "not_started"


def close(ctx: Context, actor: Actor, session_id: int) -> None:
    """End it: who is still answering hands in as they are, who never came is absent."""

    def work(db: Session) -> None:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        if session.closed_at is not None:
            raise Conflict("this session is closed already")
        _close(db, ctx, session, actor.person_id)

    ctx.store.write(work)
    _tell_closed(ctx, session_id)


def _tell_closed(ctx: Context, session_id: int) -> None:
    """Whoever watches it, and every student who has it open."""
    ctx.bus.publish(f"session:{session_id}", {"closed": True})
    ctx.bus.publish(sitting.topic(session_id), {"closed": True})


MOST_LONGER = timedelta(days=60)


def open_again(ctx: Context, actor: Actor, session_id: int, until: datetime, why: str) -> None:
    """Of a session that was closed by mistake or by a wrong clock: whoever was cut off goes on, whoever was made absent by
    the closing can still come. until: when it ends now."""
    why = need_text(why, "why", 300)
    if not ctx.clock() < until <= ctx.clock() + MOST_LONGER:
        raise Invalid("the new end lies ahead, within 60 days", "until")

    def work(db: Session) -> None:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        if session.closed_at is None:
            raise Conflict("this session is open")
        if session.released_at is not None:
            raise Conflict("students have seen the right answers of this session; plan another one with other items")
        before = {"closed_at": session.closed_at.isoformat(), "end": session.end.isoformat()}
        for attempt in db.scalars(
            select(Sitting).where(Sitting.session_id == session.id, Sitting.ended_by_close.is_(True))
        ):
            attempt.ended_by_close = False
            if attempt.state == "handed_in":
                attempt.state, attempt.handed_in_at = "answering", None
            elif attempt.state == "absent":
                attempt.state = "not_started"
        session.closed_at, session.end = None, until
        session.data_version += 1
        packed = db.get(PackedAnswers, session.id)
        if packed is not None:
            db.delete(packed)
        db.flush()
        follow_class(db, session)
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "session.open_again",
            f"session:{session.id}",
            before,
            {"end": until.isoformat()},
            why,
        )

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"opened": True})
    ctx.bus.publish(sitting.topic(session_id), {"opened": True})


def close_overdue(ctx: Context) -> int:
    """Close what ended more than ten minutes ago; run now and then by the server, with a clock that can be believed. How
    many were closed."""
    if not ctx.clock_steady():
        return 0
    with ctx.store.read() as db:
        late = select(PlannedSession.id).where(
            PlannedSession.closed_at.is_(None), PlannedSession.end < ctx.clock() - GRACE
        )
        ids = list(db.scalars(late))
    closed = [id for id in ids if ctx.store.write(lambda db, id=id: _close_if_over(db, ctx, id))]  # type: ignore[misc]
    for id in closed:
        _tell_closed(ctx, id)
    return len(closed)


def _close_if_over(db: Session, ctx: Context, id: int) -> bool:
    """Not while somebody with extra time may still be working."""
    session = db.get_one(PlannedSession, id)
    if accommodations.last_end(db, session) + GRACE > ctx.clock():
        return False
    _close(db, ctx, session, None)
    return True


def _close(db: Session, ctx: Context, session: PlannedSession, by: int | None) -> None:
    if session.closed_at is not None:
        return
    now = ctx.clock()
    for attempt in db.scalars(select(Sitting).where(Sitting.session_id == session.id)):
        if attempt.state == "answering":
            attempt.state, attempt.handed_in_at, attempt.ended_by_close = "handed_in", now, True
        elif attempt.state == "not_started":
            attempt.state, attempt.ended_by_close = "absent", True
    session.closed_at = now
    session.data_version += 1
    pack(db, session)
    audit.record(db, now, by, "session.close", f"session:{session.id}", None, now.isoformat())


def cards(ctx: Context, actor: Actor, session_id: int, address: str) -> bytes:
    """The session's cards as PDF, for those who run it; the log says who took the codes."""

    def work(db: Session) -> tuple[Sheet, list[tuple[str, str]]]:
        session = _get(db, actor, Action.SESSIONS_RUN, session_id)
        rows = db.scalars(
            select(Person).join(Sitting, Sitting.person_id == Person.id).where(Sitting.session_id == session.id)
            .order_by(Person.family, Person.given, Person.id)
        )  # fmt: skip
        federation = db.scalar(select(Federation))
        zone = ZoneInfo(federation.zone if federation else "UTC")
        start, end, now = (t.astimezone(zone) for t in (session.start, session.end, ctx.clock()))
        audit.record(db, ctx.clock(), actor.person_id, "session.cards", f"session:{session.id}")
        place = f", {session.room}" if session.room else ""
        here = site_address(db, address)
        sheet = Sheet(
            f"{dealing.title_of(session.form)}, {session.klass.title}",
            f"{start:%A %d %B %Y, %H:%M} to {end:%H:%M}{place}", session.klass.title, here, session.code,
            with_warning(f"Holds codes: hand out, do not leave lying. Made by {actor.name}, {now:%d %b %Y %H:%M}", here),
        )  # fmt: skip
        return sheet, [(p.name, p.code) for p in rows if p.code]

    return session_cards([ctx.store.write(work)], "Session")
