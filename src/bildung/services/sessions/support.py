"""Readers, scribes and interpreters at a session: assigned to students, in one place at a time; they see who they serve,
and neither codes, answers nor results."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.core.accommodations.kinds import KINDS
from bildung.core.accommodations.support import Served, against, unserved
from bildung.core.items.shown import counted
from bildung.services.owed.accommodated import NONE, in_session, in_sessions
from bildung.services.sessions.busy import check_free
from bildung.services.sessions.listing import reaches, sees_needs
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Person, PlannedSession, Role, SessionSupport, Sitting, StaffSupport


@dataclass(frozen=True, kw_only=True)
class SupportLine:
    """One student's: who gives what. staff: None while nobody is assigned. kind_says: in words."""

    student: Id
    name: str
    kind: str
    kind_says: str
    staff: Id | None
    staff_name: str


@dataclass(frozen=True, kw_only=True)
class SupportPage:
    """finding: who is missing; empty where nobody needs a person. The missing first."""

    finding: str
    lines: list[SupportLine]
    may_assign: bool


def support_page(ctx: Context, actor: Actor, session_id: int) -> SupportPage:
    """Of one session."""
    with ctx.store.read() as db:
        session = _session(db, actor, Action.SESSIONS_READ, session_id)
        plans = reaches(db, actor, Action.SESSIONS_PLAN, session_id)
        mine = plans or sees_needs(db, actor, session)
        students = _students(db, session)
        given = db.execute(
            select(SessionSupport, Person)
            .join(Person, Person.id == SessionSupport.staff_id)
            .where(SessionSupport.session_id == session.id)
        ).all()
        own = _provided_by(db, [] if session.proctor_id is None else [session.proctor_id])
        by_proctor = _by_proctor(session, students, own)
    open_ = unserved(students, {(row.student_id, row.kind) for row, _ in given} | by_proctor)
    lines = [_line(students, id, kind, None) for id, kind in open_ if mine]
    lines += [
        _line(students, row.student_id, row.kind, staff)
        for row, staff in given
        if row.student_id in students and (mine or staff.id == actor.person_id)
    ]
    text = ""
    if lines:
        text = "Everyone who needs a person beside them has one."
        if open_:
            text = f"{counted(len(open_), 'accommodation')} {'needs' if len(open_) == 1 else 'need'} a person who is not assigned yet."
    return SupportPage(finding=text, lines=lines, may_assign=plans and session.closed_at is None)


def assign(ctx: Context, actor: Actor, session_id: int, staff_id: int, kind: str, students: Sequence[int]) -> None:
    """This person serves these students in this way, together with those whom they serve in it already."""

    def work(db: Session) -> None:
        session = _session(db, actor, Action.SESSIONS_PLAN, session_id)
        if session.closed_at is not None:
            raise Conflict("this session is over")
        staff = db.get(Person, staff_id)
        if staff is None or staff.kind != "staff" or not staff.active:
            raise Invalid("choose an active member of the staff", "staff_id")
        if db.scalar(select(Role.id).where(Role.person_id == staff.id)) is None:
            raise Invalid(f"{staff.name} has no role yet; grant one on their page first", "staff_id")
        here = _students(db, session)
        if missing := [id for id in students if id not in here]:
            raise Invalid(f"{len(missing)} of these students are not on the session's list", "students")
        already = db.scalars(
            select(SessionSupport.student_id).where(
                SessionSupport.session_id == session.id,
                SessionSupport.staff_id == staff.id,
                SessionSupport.kind == kind,
            )
        )
        all_of_them = dict.fromkeys([*already, *students])
        if problem := against(kind, [here[id] for id in all_of_them if id in here]):
            raise Invalid(problem, "kind" if kind not in KINDS else "students")
        for id in dict.fromkeys(students):
            db.execute(
                delete(SessionSupport).where(
                    SessionSupport.session_id == session.id,
                    SessionSupport.student_id == id,
                    SessionSupport.kind == kind,
                )
            )
            db.add(SessionSupport(session_id=session.id, student_id=id, kind=kind, staff_id=staff.id))
        db.flush()
        check_free(db, staff, session, "staff_id")
        after = {"person": staff.name, "as": KINDS[kind].says, "students": len(students)}
        audit.record(db, ctx.clock(), actor.person_id, "session.support", f"session:{session.id}", None, after)

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"support": True})


def withdraw(ctx: Context, actor: Actor, session_id: int, student_id: int, kind: str) -> None:
    """Nobody is assigned to this student for it any more."""

    def work(db: Session) -> None:
        session = _session(db, actor, Action.SESSIONS_PLAN, session_id)
        row = db.get(SessionSupport, (session.id, student_id, kind))
        if row is None:
            raise NotFound("no one is assigned there; reload the page")
        name = db.get_one(Person, row.staff_id).name
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "session.support",
            f"session:{session.id}",
            {"person": name, "as": kind},
            None,
        )
        db.delete(row)

    ctx.store.write(work)
    ctx.bus.publish(f"session:{session_id}", {"support": True})


def _session(db: Session, actor: Actor, action: Action, session_id: int) -> PlannedSession:
    session = db.scalar(select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, action)))
    if session is None:
        raise NotFound("there is no such session, or it is not yours")
    return session


def missing_support(db: Session, sessions: Sequence[PlannedSession]) -> dict[int, int]:
    """By session, how many accommodations of its students need a person who is not assigned; in as many queries as for
    one."""
    ids = {session.id: session for session in sessions}
    rows = db.execute(
        select(Sitting.session_id, Sitting.person_id, Sitting.form_id).where(Sitting.session_id.in_(ids))
    ).all()
    needs = in_sessions(db, [(ids[session], person) for session, person, _ in rows])
    given: dict[int, set[tuple[int, str]]] = {id: set() for id in ids}
    for session, student, kind in db.execute(
        select(SessionSupport.session_id, SessionSupport.student_id, SessionSupport.kind).where(
            SessionSupport.session_id.in_(ids)
        )
    ):
        given[session].add((student, kind))
    people: dict[int, dict[int, Served]] = {id: {} for id in ids}
    for session, person, form in rows:
        kinds = needs.get((session, person), NONE).kinds
        people[session][person] = Served(name="", kinds=kinds, form=form or ids[session].form_id)
    own = _provided_by(db, {session.proctor_id for session in sessions if session.proctor_id is not None})
    return {
        id: len(unserved(people[id], given[id] | _by_proctor(session, people[id], own))) for id, session in ids.items()
    }


def _provided_by(db: Session, staff: Collection[int]) -> dict[int, set[str]]:
    """By person, the kinds of accommodation that they provide."""
    found: dict[int, set[str]] = defaultdict(set)
    for row in db.scalars(select(StaffSupport).where(StaffSupport.person_id.in_(staff))):
        found[row.person_id].add(row.kind)
    return dict(found)


def _by_proctor(
    session: PlannedSession, students: dict[int, Served], own: Mapping[int, Collection[str]]
) -> set[tuple[int, str]]:
    """What the proctor gives themselves: a reader who holds the session of those they read to. own: by person, what they
    provide."""
    if session.proctor_id is None or not session.by_name:
        return set()
    kinds = own.get(session.proctor_id, ())
    return {(id, kind) for id, served in students.items() for kind in served.kinds if kind in kinds}


def _students(db: Session, session: PlannedSession) -> dict[int, Served]:
    """Of the session's list, with what holds for them at it."""
    rows = db.execute(
        select(Sitting, Person)
        .join(Person, Person.id == Sitting.person_id)
        .where(Sitting.session_id == session.id)
        .order_by(Person.family, Person.given, Person.id)
    ).all()
    needs = in_session(db, session, [p.id for _, p in rows])
    return {
        p.id: Served(name=p.name, kinds=needs.get(p.id, NONE).kinds, form=s.form_id or session.form_id) for s, p in rows
    }


def _line(students: dict[int, Served], id: int, kind: str, staff: Person | None) -> SupportLine:
    return SupportLine(
        student=id,
        name=students[id].name,
        kind=kind,
        kind_says=KINDS[kind].says,
        staff=staff.id if staff else None,
        staff_name=staff.name if staff else "",
    )
