"""Whether a session counts as evidence: by the rule of its kind, by decision, or asked at its end; and answers whose item changed standards."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
from sqlalchemy import exists, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import zone_of
from bildung.services.mastery.evidence import Given, all_given, decisions
from bildung.services.mastery.ruling import USUAL_RULING, Ruling, rulings
from bildung.services.mastery.tags import all_tags
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import (
    Form,
    FormItem,
    Item,
    ItemStandard,
    ItemVersion,
    PlannedSession,
    SchoolClass,
    SessionEvidence,
    Sitting,
    Standard,
    StandardChange,
)


@dataclass(frozen=True, kw_only=True)
class SessionCounts:
    """rule: what the frameworks say of its kind: yes, no, ask, or some of each. decided: by decision; None where nobody decided. counts: what
    holds. students: with evidence in it. asks: the question waits for an answer."""

    session: Id
    test: str
    klass: str
    day: date
    kind: str
    rule: str
    decided: bool | None
    counts: bool
    students: int
    asks: bool


@dataclass(frozen=True, kw_only=True)
class Retagged:
    """An item whose standards were changed after answers were given, which stay with what it was. answers: given before. moved: they were
    moved by decision."""

    id: Id
    item: str
    item_id: Id
    on: date
    before: list[str]
    now: list[str]
    answers: int
    moved: bool


@dataclass(frozen=True, kw_only=True)
class EvidencePage:
    """Sessions, those that wait for an answer first; items whose standards changed."""

    finding: str
    sessions: list[SessionCounts]
    retagged: list[Retagged]
    may_rule: bool


def session_counts(ctx: Context, actor: Actor, session_id: int) -> SessionCounts | None:
    """Of one session of theirs that is over, where the rule leaves its kind open or somebody decided; None where there is nothing to ask."""
    scope(actor, Action.MASTERY_ENTER)
    with ctx.store.read() as db:
        kind = db.scalar(
            select(Form.kind)
            .join(PlannedSession, PlannedSession.form_id == Form.id)
            .where(PlannedSession.id == session_id, scope(actor, Action.SESSIONS_RUN))
        )
        if kind is None:
            raise NotFound("there is no such session, or it is not yours")
        # without a look at any answer, as most sessions leave nothing to ask
        open_ = any(rule[kind] == "ask" for rule in _ruled(db))
        if not open_ and db.get(SessionEvidence, session_id) is None:
            return None
        found = _sessions(ctx, db, actor, session_id)
    return found[0] if found else None


def evidence_page(ctx: Context, actor: Actor) -> EvidencePage:
    """What counts, of every session that this person runs."""
    scope(actor, Action.MASTERY_ENTER)
    with ctx.store.read() as db:
        sessions = _sessions(ctx, db, actor, None)
        retagged = _retagged(ctx, db) if actor.may(Action.MASTERY_RULE) else []
    sessions.sort(key=lambda s: (not s.asks, -s.day.toordinal(), s.test, s.klass))
    asking = sum(s.asks for s in sessions)
    out = sum(not s.counts and not s.asks for s in sessions)
    text = f"{counted(len(sessions), 'session')} with evidence"
    text += f", {asking} of them still to be decided" if asking else ""
    text += f"; {out} {'does' if out == 1 else 'do'} not count" if out else ""
    waiting = sum(not r.moved for r in retagged)
    if waiting:
        text += f". {counted(waiting, 'item')} changed standards after answers were given; those stay with what it was"
    return EvidencePage(
        finding=f"{text}.", sessions=sessions, retagged=retagged, may_rule=actor.may(Action.MASTERY_RULE)
    )


def open_questions(db: Session, actor: Actor) -> int:
    """Sessions of this person that wait for an answer; by the standards of their forms, without reading answers."""
    if not actor.may(Action.MASTERY_ENTER):
        return 0
    asking = {kind for r in _ruled(db) for kind, word in r.items() if word == "ask"}
    if not asking:
        return 0
    handed_in = exists().where(Sitting.session_id == PlannedSession.id, Sitting.state == "handed_in")
    rows = db.execute(
        select(PlannedSession.id, Form.id, Form.kind)
        .join(Form, Form.id == PlannedSession.form_id)
        .outerjoin(SessionEvidence, SessionEvidence.session_id == PlannedSession.id)
        .where(
            PlannedSession.closed_at.is_not(None),
            PlannedSession.canceled_at.is_(None),
            SessionEvidence.session_id.is_(None),
            Form.kind.in_(asking),
            handed_in,
            scope(actor, Action.SESSIONS_RUN),
        )
    ).all()
    held = rulings(db)
    frameworks: dict[int, set[int | None]] = defaultdict(set)
    for form, framework in db.execute(
        select(FormItem.form_id, Standard.framework_id)
        .join(ItemStandard, ItemStandard.item_version_id == FormItem.item_version_id)
        .join(Standard, Standard.id == ItemStandard.standard_id)
        .where(FormItem.form_id.in_({form for _, form, _ in rows}))
        .distinct()
    ):
        frameworks[form].add(framework)
    return sum("ask" in _words(held, kind, frameworks[form]) for _, form, kind in rows)


def _words(held: Mapping[int, Ruling], kind: str, frameworks: Iterable[int | None]) -> set[str]:
    """What the rules of some frameworks say of a kind of test: yes, no, ask."""
    return {held.get(f or 0, USUAL_RULING).counts[kind] for f in frameworks}


def _ruled(db: Session) -> list[dict[str, str]]:
    """Rules by kind of every framework."""
    held = rulings(db)
    return [dict(r.counts) for r in (USUAL_RULING, *held.values())]


def decide(ctx: Context, actor: Actor, sessions: Sequence[int], counts: bool | None) -> None:
    """They count, they do not, or the rule holds again (None); all of them or none."""
    scope(actor, Action.MASTERY_ENTER)

    def work(db: Session) -> None:
        for id in sessions:
            _decide(ctx, db, actor, id, counts)

    ctx.store.write(work)


def _decide(ctx: Context, db: Session, actor: Actor, session_id: int, counts: bool | None) -> None:
    session = db.scalar(
        select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, Action.SESSIONS_RUN))
    )
    if session is None:
        raise NotFound("there is no such session, or it is not yours to decide")
    if session.closed_at is None:
        raise Conflict("the session is not over yet")
    row = db.get(SessionEvidence, session_id)
    before = {"counts": row.counts if row else None}
    if counts is None:
        if row is not None:
            db.delete(row)
    elif row is None:
        db.add(SessionEvidence(session_id=session_id, counts=counts, at=ctx.clock(), by_id=actor.person_id))
    else:
        row.counts, row.at, row.by_id = counts, ctx.clock(), actor.person_id
    audit.record(
        db, ctx.clock(), actor.person_id, "session.evidence", f"session:{session_id}", before, {"counts": counts}
    )


def _sessions(ctx: Context, db: Session, actor: Actor, only: int | None) -> list[SessionCounts]:
    if not actor.may(Action.SESSIONS_RUN):
        return []
    given: dict[int, list[Given]] = defaultdict(list)
    for one in all_given(ctx, db):
        for session in np.unique(one.session).tolist():
            given[session].append(one)
    wanted = [PlannedSession.id == only] if only is not None else [PlannedSession.id.in_([s for s in given if s])]
    rows = db.execute(
        select(PlannedSession, Form, SchoolClass.title)
        .join(Form, Form.id == PlannedSession.form_id)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(scope(actor, Action.SESSIONS_RUN), *wanted)
    ).all()
    decided, held, zone = decisions(db), rulings(db), zone_of(db)
    tags = all_tags(ctx, db)
    framework = dict(db.execute(select(Standard.id, Standard.framework_id)).all())
    found = []
    for session, form, klass in rows:
        mine = given.get(session.id, [])
        if not mine:
            continue
        of = {
            framework.get(tag.standard)
            for one in mine
            for v in one.versions
            for span in tags.get(v, ())
            for tag in span.tags
        }
        words = _words(held, form.kind, of)
        says = decided.get(session.id)
        if not words:
            continue
        asks = says is None and "ask" in words
        found.append(
            SessionCounts(
                session=session.id,
                test=form.title or form.name,
                klass=klass,
                day=school_day(session.start, zone),
                kind=form.kind,
                rule=next(iter(words)) if len(words) == 1 else "mixed",
                decided=says,
                counts=says if says is not None else "yes" in words,
                students=sum(int((one.session == session.id).sum()) for one in mine),
                asks=asks,
            )
        )
    return found


def _retagged(ctx: Context, db: Session) -> list[Retagged]:
    """Changes after which somebody's earlier answers are evidence of what the item was."""
    rows = db.execute(
        select(StandardChange, Item)
        .join(ItemVersion, ItemVersion.id == StandardChange.item_version_id)
        .join(Item, Item.id == ItemVersion.item_id)
        .order_by(StandardChange.at.desc(), StandardChange.id.desc())
    ).all()
    zone = zone_of(db)
    codes = dict(db.execute(select(Standard.id, Standard.code)).all())
    places: dict[int, list[tuple[Given, int]]] = defaultdict(list)
    for one in all_given(ctx, db):
        for column, version in enumerate(one.versions):
            places[version].append((one, column))
    found = []
    for change, item in rows:
        day = school_day(change.at, zone)
        answers = sum(
            int((~np.isnan(one.points[one.day <= day.toordinal(), column])).sum())
            for one, column in places.get(change.item_version_id, ())
        )
        if not answers:
            continue
        now = db.scalars(
            select(ItemStandard.standard_id)
            .where(ItemStandard.item_version_id == change.item_version_id)
            .order_by(ItemStandard.rank)
        )
        found.append(
            Retagged(
                id=change.id,
                item=item.code,
                item_id=item.id,
                on=day,
                before=[codes.get(s, "") for s, _ in sorted(change.before, key=lambda pair: pair[1])],
                now=[codes.get(s, "") for s in now],
                answers=answers,
                moved=change.moved_at is not None,
            )
        )
    return found


def move_evidence(ctx: Context, actor: Actor, changes: Sequence[int], back: bool) -> None:
    """Answers given before a change become evidence of what the item is now; or stay with what it was, after all."""
    scope(actor, Action.MASTERY_RULE)

    def work(db: Session) -> None:
        for id in changes:
            row = db.get(StandardChange, id)
            if row is None:
                raise NotFound("there is no such change of standards")
            row.moved_at = None if back else ctx.clock()
            row.moved_by_id = None if back else actor.person_id
            audit.record(
                db,
                ctx.clock(),
                actor.person_id,
                "evidence.move",
                f"item_version:{row.item_version_id}",
                None,
                {"back": back},
            )

    ctx.store.write(work)
