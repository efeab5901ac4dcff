"""Every test that was sat, judged in brief: a line each, kept in the store until what it rests on changes.

A window can have a hundred tests; judging them all takes long, and most of them never change again.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, Select, delete, func, select
from sqlalchemy.orm import Session

from bildung.core.classical.finding import Piece
from bildung.services.quality.judged import judge, scored_by
from bildung.services.quality.scope import ScopeRequest, administrations
from bildung.services.shared.access import Action, Actor, Grant, scope
from bildung.services.shared.context import Context
from bildung.services.shared.jobs import Job
from bildung.services.shared.results import KeptResults
from bildung.services.shared.wire import Id
from bildung.store.models import Form, KeptLine, PlannedSession, Sitting, Window

SHAPE = 3  # raised when what a line says, or how it is computed, changes
MOST_KEPT = (
    12  # lines of one test: one for each set of sessions that somebody may judge, and what is left of former ones
)
AT_HAND = 2000
Place = tuple[int, int]


@dataclass(frozen=True, kw_only=True)
class TestLine:
    """A form in a window, judged in brief. mean, low, high: of the totals, in points; None without one. points: possible.
    profile: p of its items, hardest first."""

    form_id: Id
    form: str
    subject: str
    grade: str
    window_id: Id
    window: str
    latest: datetime
    sat: int
    absent: int
    alpha: float | None
    mean: float | None
    low: float | None
    high: float | None
    points: float
    sound: int
    look: int
    items: int
    profile: list[float]
    first: tuple[Piece, ...]


@dataclass
class LinesAtHand:
    """Lines that were judged since the server started.

    Attributes
    ----------
    judged
        By place, sessions and what they rest on.
    asked
        Those that are not in the store yet: by place and sessions, with what they rest on.
    """

    judged: KeptResults[TestLine] = field(default_factory=lambda: KeptResults(AT_HAND))
    asked: dict[tuple[Place, str], tuple[str, TestLine]] = field(default_factory=dict)


def sat_finding(found: list[TestLine]) -> str:
    """What the page of item quality opens with."""
    if not found:
        return "No one has submitted in this window."
    urgent = sum(any(piece.urgent for piece in sat.first) for sat in found)
    look = sum(sat.look for sat in found)
    finding = f"{len(found)} {'test was' if len(found) == 1 else 'tests were'} taken. "
    if urgent:
        finding += f"{urgent} {'has' if urgent == 1 else 'have'} an item that may be wrong; "
    total = sum(sat.items for sat in found)
    return finding + f"{look} of {total} items to review."


def list_sat(ctx: Context, actor: Actor, window_id: int | None = None, job: Job | None = None) -> list[TestLine]:
    """Every form that somebody has handed in, what wants a look first. Nothing is written: what had to be judged anew is
    at hand for the next who asks, and `keep_asked` puts it into the store."""
    allowed = scope(actor, Action.QUALITY_READ)
    with ctx.store.read() as db:
        latest = administrations(db, allowed, window_id)
        rests = _rests_on(db, allowed, latest)
        stored = {
            ((k.form_id, k.window_id), k.sessions): k
            for k in db.scalars(select(KeptLine).where(KeptLine.window_id.in_({w for _, w in latest})))
        }
    found, fresh = [], ctx.own(LinesAtHand).judged
    for at, place in enumerate(latest):
        sessions, key = rests[place]
        known = stored.get((place, sessions))
        if known is not None and known.key == key:
            found.append(_read(known.line))
            continue

        def work(at: int = at, place: Place = place, sessions: str = sessions, key: str = key) -> TestLine:
            if job is not None:
                job.tell("judging tests", at, len(latest))
            line = _judged(ctx, actor, place, latest[place])
            ctx.own(LinesAtHand).asked[place, sessions] = (key, line)
            return line

        found.append(fresh.get((place, sessions, key), work))
    found.sort(key=lambda s: (not any(piece.urgent for piece in s.first), -s.look, s.form))
    return found


def keep_asked(ctx: Context) -> int:
    """Put lines that were judged since into the store; run now and then by the server. How many were."""
    at_hand = ctx.own(LinesAtHand)
    asked, at_hand.asked = at_hand.asked, {}

    def keep(db: Session) -> None:
        for ((form_id, window_id), sessions), (key, line) in asked.items():
            here = KeptLine.form_id == form_id, KeptLine.window_id == window_id
            if (db.scalar(select(func.count()).select_from(KeptLine).where(*here)) or 0) >= MOST_KEPT:
                db.execute(delete(KeptLine).where(*here))
            db.merge(KeptLine(form_id=form_id, window_id=window_id, sessions=sessions, key=key, line=_written(line)))

    if asked:
        ctx.store.write(keep)
    return len(asked)


def keep_current(ctx: Context, window_id: int | None = None) -> None:
    """Make and keep the lines that are not there yet or have moved, as whoever sees every session has them. window_id:
    of this window only."""
    everybody = Actor(person_id=0, name="", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
    list_sat(ctx, everybody, window_id)
    keep_asked(ctx)


def _judged(ctx: Context, actor: Actor, place: Place, latest: datetime) -> TestLine:
    judged = judge(ctx, actor, ScopeRequest(forms=(place[0],), windows=(place[1],)))
    analysis, form, where = judged.analysis, judged.scoped.forms[0], judged.scoped.chosen[0]
    verdicts = [item.sound for item in analysis.items]
    return TestLine(
        form_id=form.id,
        form=form.name,
        subject=form.subject,
        grade=form.grade,
        window_id=where.window_id,
        window=where.window,
        latest=latest,
        sat=analysis.counts["sat"] + analysis.counts["waiting"],
        absent=analysis.counts["absent"],
        alpha=analysis.reliability.alpha,
        mean=analysis.distribution.mean,
        low=analysis.distribution.min,
        high=analysis.distribution.max,
        points=analysis.distribution.points,
        sound=verdicts.count(True),
        look=verdicts.count(False),
        items=len(verdicts),
        profile=sorted(item.figures.p for item in analysis.items if item.figures.p is not None),
        first=judged.finding[:2],
    )


def _sat(windows: set[int]) -> Select[int, int, int, int]:
    """Form, window, session and its version, of sessions in which somebody received the form."""
    return (
        select(
            func.coalesce(Sitting.form_id, PlannedSession.form_id),
            PlannedSession.window_id,
            PlannedSession.id,
            PlannedSession.data_version,
        )
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .where(PlannedSession.window_id.in_(windows))
        .distinct()
        .order_by(PlannedSession.id)
    )


def _rests_on(
    db: Session, allowed: ColumnElement[bool], places: Mapping[Place, datetime]
) -> dict[Place, tuple[str, str]]:
    """By form and window: whose sessions these are, for others see others; and what of them the line rests on."""
    windows = {window for _, window in places}
    forms = {form for form, _ in places}
    sessions: dict[Place, list[tuple[int, int]]] = {place: [] for place in places}
    for form, window, id, version in db.execute(_sat(windows).where(allowed)):
        if (form, window) in sessions:
            sessions[form, window].append((id, version))
    # flags rest on everybody who took the form, whosever the session is
    everybody: dict[Place, list[tuple[int, int]]] = {place: [] for place in places}
    for form, window, id, version in db.execute(_sat(windows)):
        if (form, window) in everybody:
            everybody[form, window].append((id, version))
    scored = scored_by(db, forms)
    names: dict[int, list[Any]] = {
        id: said
        for id, *said in db.execute(select(Form.id, Form.name, Form.subject, Form.grade).where(Form.id.in_(forms)))
    }
    called = dict(db.execute(select(Window.id, Window.name).where(Window.id.in_(windows))).all())
    return {
        (form, window): (
            _digest([id for id, _ in mine]),
            _digest(
                [
                    SHAPE,
                    mine,
                    everybody[form, window],
                    scored[form],
                    names[form],
                    called[window],
                    str(places[form, window]),
                ]
            ),
        )
        for (form, window), mine in sessions.items()
    }


def _digest(value: Any) -> str:
    return hashlib.sha256(json.dumps(value).encode()).hexdigest()[:32]


def _written(line: TestLine) -> dict[str, Any]:
    return asdict(line) | {"latest": line.latest.isoformat()}


def _read(kept: dict[str, Any]) -> TestLine:
    return TestLine(
        **(kept | {"latest": datetime.fromisoformat(kept["latest"]), "first": tuple(Piece(**p) for p in kept["first"])})
    )
