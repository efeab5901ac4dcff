"""Tests whose results can be released, how far they are, and what is still open about each."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted, dated
from bildung.services.items.verdicts import standing_of
from bildung.services.quality.scope import sat_in
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.services.sitting.taking import still_open
from bildung.services.sitting.telling import differs, results_of
from bildung.store.models import (
    Form,
    FormItem,
    HeldBack,
    Item,
    ItemFigure,
    ItemVersion,
    Person,
    PlannedSession,
    Release,
    RoomEvent,
    School,
    Sitting,
    ToldResult,
    Window,
)


@dataclass(frozen=True, kw_only=True)
class ReleaseTest:
    """A test in a window. submitted: attempts. sessions: closed ones; students, families: of these, those released to them."""

    form_id: Id
    form: str
    subject: str
    grade: str
    window_id: Id
    window: str
    latest: datetime
    submitted: int
    sessions: int
    students: int
    families: int


@dataclass(frozen=True)
class ReleaseTests:
    finding: str
    tests: list[ReleaseTest]


@dataclass(frozen=True, kw_only=True)
class OpenMatter:
    """Something to settle before results go out. kind: scores, key, makeups, irregularities. says: in a sentence. href: where."""

    kind: str
    says: str
    href: str


@dataclass(frozen=True, kw_only=True)
class ReleasedTo:
    """audience: student or family. shows, at: what and from when. ahead: not yet."""

    audience: str
    shows: list[str]
    at: datetime
    ahead: bool


@dataclass(frozen=True, kw_only=True)
class ReleaseSession:
    """submitted: attempts; waiting: of them, those without a total. told: whose results were released; differs: whose results are others
    now than they were told. closed: only then can results go out."""

    session_id: Id
    klass: str
    school: str
    start: datetime
    closed: bool
    submitted: int
    waiting: int
    told: int
    differs: int
    held: int
    releases: list[ReleasedTo]


@dataclass(frozen=True, kw_only=True)
class HeldStudent:
    sitting: Id
    name: str
    klass: str
    why: str


@dataclass(frozen=True, kw_only=True)
class ReleaseAttempt:
    """A submitted attempt, to be looked at or held back."""

    sitting: Id
    name: str
    klass: str


@dataclass(frozen=True, kw_only=True)
class ReleasePage:
    finding: str
    form_id: Id
    form: str
    window_id: Id
    window: str
    open: list[OpenMatter]
    still_to_take: int
    sessions: list[ReleaseSession]
    held: list[HeldStudent]
    attempts: list[ReleaseAttempt]


def tests_page(ctx: Context, actor: Actor) -> ReleaseTests:
    """Everything that was submitted in sessions of theirs, what is not released first."""
    allowed = scope(actor, Action.SESSIONS_PLAN)
    with ctx.store.read() as db:
        rows = db.execute(
            select(
                func.coalesce(Sitting.form_id, PlannedSession.form_id),
                PlannedSession.window_id,
                PlannedSession.id,
                PlannedSession.start,
                PlannedSession.closed_at.is_not(None),
                func.count(),
            )
            .join(Sitting, Sitting.session_id == PlannedSession.id)
            .where(allowed, Sitting.state == "handed_in")
            .group_by(func.coalesce(Sitting.form_id, PlannedSession.form_id), PlannedSession.id)
        ).all()
        released = defaultdict(set)
        for session, audience in db.execute(
            select(Release.session_id, Release.audience).where(Release.withdrawn_at.is_(None))
        ):
            released[session].add(audience)
        forms = {f.id: f for f in db.scalars(select(Form).where(Form.id.in_({row[0] for row in rows})))}
        windows = {w.id: w for w in db.scalars(select(Window).where(Window.id.in_({row[1] for row in rows})))}
    tests: dict[tuple[int, int], list[tuple[int, datetime, bool, int]]] = defaultdict(list)
    for form, window, session, start, closed, n in rows:
        tests[form, window].append((session, start, closed, n))
    found = [
        ReleaseTest(
            form_id=form,
            form=forms[form].name,
            subject=forms[form].subject,
            grade=forms[form].grade,
            window_id=window,
            window=dated(windows[window].name, windows[window].start.year),
            latest=max(start for _, start, _, _ in some),
            submitted=sum(n for *_, n in some),
            sessions=sum(closed for _, _, closed, _ in some),
            students=sum("student" in released[id] for id, *_ in some),
            families=sum("family" in released[id] for id, *_ in some),
        )
        for (form, window), some in tests.items()
        if forms[form].kind != "mirror"
    ]
    found.sort(key=lambda t: (t.students >= t.sessions, -t.latest.timestamp(), t.form))
    held = sum(t.students < t.sessions for t in found)
    finding = (
        "No results yet." if not found else f"Results of {counted(held, 'test')} are not released to all students."
    )
    if found and not held:
        finding = "All results are released to students."
    return ReleaseTests(finding, found)


def sessions_with(db: Session, actor: Actor, form_id: int, window_id: int) -> list[PlannedSession]:
    """Sessions of theirs in which somebody submitted the form."""
    return list(
        db.scalars(
            select(PlannedSession)
            .where(
                PlannedSession.window_id == window_id,
                sat_in(form_id),
                scope(actor, Action.SESSIONS_PLAN),
                PlannedSession.sittings.any(Sitting.state == "handed_in"),
            )
            .order_by(PlannedSession.start, PlannedSession.id)
        )
    )


def release_page(ctx: Context, actor: Actor, form_id: int, window_id: int) -> ReleasePage:
    """A test before and after its results go out."""
    now = ctx.clock()
    with ctx.store.read() as db:
        form, window = db.get(Form, form_id), db.get(Window, window_id)
        sessions = sessions_with(db, actor, form_id, window_id) if form and window else []
        if form is None or window is None or not sessions:
            raise NotFound("there is no such test with results, or it is not yours to release")
        ids = [s.id for s in sessions]
        lines = [_session(db, s, now) for s in sessions]
        ahead = still_open(db, sessions[0])
        matters = [
            *_scores(sum(line.waiting for line in lines)),
            *_keys(db, form_id, window_id),
            *_makeups(form, ahead),
            *_irregular(db, ids),
        ]
        named = db.execute(
            select(Sitting.id, Person, PlannedSession)
            .join(Person, Person.id == Sitting.person_id)
            .join(PlannedSession, PlannedSession.id == Sitting.session_id)
            .where(Sitting.session_id.in_(ids), Sitting.state == "handed_in")
            .order_by(PlannedSession.start, Person.family, Person.given, Person.id)
        ).all()
        why = {
            h.sitting_id: h.why
            for h in db.scalars(select(HeldBack).where(HeldBack.sitting_id.in_([r[0] for r in named])))
        }
        return ReleasePage(
            finding=_finding(lines, matters),
            form_id=form.id,
            form=form.name,
            window_id=window.id,
            window=dated(window.name, window.start.year),
            open=matters,
            still_to_take=len(ahead),
            sessions=lines,
            held=[
                HeldStudent(sitting=id, name=person.name, klass=session.klass.title, why=why[id])
                for id, person, session in named
                if id in why
            ],
            attempts=[
                ReleaseAttempt(sitting=id, name=person.name, klass=session.klass.title)
                for id, person, session in named
                if id not in why
            ],
        )


def _session(db: Session, session: PlannedSession, now: datetime) -> ReleaseSession:
    results = results_of(db, session)
    ids = [r.sitting for r in results]
    told = {t.sitting_id: t for t in db.scalars(select(ToldResult).where(ToldResult.sitting_id.in_(ids)))}
    releases = db.scalars(
        select(Release)
        .where(Release.session_id == session.id, Release.withdrawn_at.is_(None))
        .order_by(Release.audience.desc())
    )
    held = db.scalar(select(func.count()).select_from(HeldBack).where(HeldBack.sitting_id.in_(ids)))
    return ReleaseSession(
        session_id=session.id,
        klass=session.klass.title,
        school=db.get_one(School, session.klass.school_id).name,
        start=session.start,
        closed=session.closed_at is not None,
        submitted=len(results),
        waiting=sum(r.waits > 0 for r in results),
        told=len(told),
        differs=sum(r.sitting in told and not r.waits and differs(told[r.sitting], r) for r in results),
        held=held or 0,
        releases=[ReleasedTo(audience=r.audience, shows=list(r.shows), at=r.at, ahead=r.at > now) for r in releases],
    )


def _scores(n: int) -> list[OpenMatter]:
    if not n:
        return []
    says = f"{counted(n, 'attempt')} {'waits' if n == 1 else 'wait'} for scores and go out once they are scored and released again."
    return [OpenMatter(kind="scores", says=says, href="/scoring")]


def _keys(db: Session, form_id: int, window_id: int) -> list[OpenMatter]:
    """Items whose key may be wrong, and about which nobody decided anything."""
    rows = db.execute(
        select(FormItem.position, ItemFigure.flags, ItemVersion.item_id, Item.code)
        .join(ItemFigure, ItemFigure.item_version_id == FormItem.item_version_id)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .join(Item, Item.id == ItemVersion.item_id)
        .where(FormItem.form_id == form_id, ItemFigure.form_id == form_id, ItemFigure.window_id == window_id)
        .order_by(FormItem.position)
    ).all()
    decided = standing_of(db)
    return [
        OpenMatter(
            kind="key",
            says=f"Item {number}: the key may be wrong, and nothing is decided about it.",
            href=f"/quality/look/item?form={form_id}&window={window_id}&item={code}",
        )
        for number, flags, item, code in rows
        if any(flag["flag"] == "possible_wrong_key" for flag in flags) and item not in decided
    ]


def _makeups(form: Form, ahead: list[PlannedSession]) -> list[OpenMatter]:
    if not ahead:
        return []
    names = ", ".join(s.klass.title for s in ahead[:3]) + (f" and {len(ahead) - 3} more" if len(ahead) > 3 else "")
    says = f"{names} still {'takes' if len(ahead) == 1 else 'take'} {form.name}: points can go out, answers not yet."
    return [OpenMatter(kind="makeups", says=says, href=f"/sessions/{ahead[0].id}")]


def _irregular(db: Session, ids: list[int]) -> list[OpenMatter]:
    n = (
        db.scalar(
            select(func.count())
            .select_from(RoomEvent)
            .where(RoomEvent.session_id.in_(ids), RoomEvent.kind == "irregularity", RoomEvent.settled_at.is_(None))
        )
        or 0
    )
    if not n:
        return []
    noun = "irregularity is" if n == 1 else "irregularities are"
    return [OpenMatter(kind="irregularities", says=f"{n} {noun} not settled.", href=f"/sessions/{ids[0]}")]


def _finding(lines: list[ReleaseSession], matters: list[OpenMatter]) -> str:
    closed = [line for line in lines if line.closed]
    out = sum(any(r.audience == "student" for r in line.releases) for line in closed)
    others = sum(line.differs for line in lines)
    if others:
        verb = "differs" if others == 1 else "differ"
        return f"{counted(others, 'result')} {verb} from what students were told; release again to tell them."
    if out and out == len(closed):
        return f"Released to the students of {'this class' if out == 1 else f'all {out} classes'}."
    text = (
        f"Results of {counted(len(closed) - out, 'class', 'classes')} are not released."
        if closed
        else "No session is closed yet."
    )
    if matters:
        text += f" {len(matters)} {'matter is' if len(matters) == 1 else 'matters are'} open first."
    return text
