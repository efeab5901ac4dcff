"""Results as they are released: computed before, kept in one piece, compared with what was told earlier."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.forms.levels import TestLevels, levels_of_test
from bildung.services.owed.dealing import form_of, places_of
from bildung.services.sitting.released import PARTS, Audience
from bildung.services.sitting.reviewing import told_of
from bildung.store.models import PlannedSession, Release, Sitting, ToldResult, Window

SAME = 1e-9


@dataclass(frozen=True)
class Result:
    """Of one submitted attempt. points, level: as of `ToldResult`. waits: questions without a score; such an attempt is not told yet."""

    sitting: int
    points: list[list[Any]]
    earned: float
    possible: float
    level: str
    waits: int


def results_of(db: Session, session: PlannedSession, sittings: Collection[int] | None = None) -> list[Result]:
    """Of every submitted attempt of a session, or of some, as they stand now."""
    wanted = select(Sitting).where(Sitting.session_id == session.id, Sitting.state == "handed_in").order_by(Sitting.id)
    if sittings is not None:
        wanted = wanted.where(Sitting.id.in_(sittings))
    found = []
    window, levels = db.get_one(Window, session.window_id), dict[int, TestLevels | None]()
    for sitting in db.scalars(wanted):
        places = places_of(db, session, sitting, sitting.drawn)
        numbers = {place.id: version.scorings[-1].number for place, version in places}
        told = told_of(db, session, sitting, sitting, places, {})
        points = [[t.question, t.earned, t.points, numbers[t.question]] for t in told]
        waits = sum(t.earned is None for t in told)
        earned = sum(t.earned or 0.0 for t in told)
        possible = sum(t.points for t in told if t.earned is not None)
        form = form_of(db, session, sitting)
        if form.id not in levels:
            levels[form.id] = levels_of_test(db, form, window)
        at = levels[form.id]
        level = at.name_of(earned, possible) if at is not None and not waits else ""
        found.append(Result(sitting.id, points, earned, possible, level, waits))
    return found


def keep_told(db: Session, results: Sequence[Result], now: datetime) -> int:
    """In the transaction that releases them. How many are others than they were told before."""
    there = {
        t.sitting_id: t
        for t in db.scalars(select(ToldResult).where(ToldResult.sitting_id.in_([r.sitting for r in results])))
    }
    changed = 0
    for result in results:
        if result.waits:
            continue
        row = there.get(result.sitting)
        if row is None:
            db.add(
                ToldResult(
                    sitting_id=result.sitting,
                    points=result.points,
                    earned=result.earned,
                    possible=result.possible,
                    level=result.level,
                    at=now,
                    corrected_at=None,
                )
            )
            continue
        if differs(row, result):
            row.corrected_at = now
            changed += 1
        row.points, row.earned, row.possible, row.at = result.points, result.earned, result.possible, now
        row.level = result.level
    return changed


def put_release(
    db: Session,
    session: PlannedSession,
    audience: Audience,
    shows: Collection[str],
    at: datetime,
    by: int,
    now: datetime,
) -> None:
    """From then on this audience sees these parts of the session's results, instead of what it saw before."""
    db.merge(
        Release(
            session_id=session.id,
            audience=audience,
            shows=[part for part in PARTS if part in shows],
            at=at,
            made_at=now,
            by_id=by,
            withdrawn_at=None,
        )
    )
    if audience == "student":
        session.released_at = at


def differs(row: ToldResult, result: Result) -> bool:
    """Whether what was told is not what holds now."""
    moved = abs(row.earned - result.earned) > SAME or abs(row.possible - result.possible) > SAME
    return moved or row.level not in ("", result.level)
