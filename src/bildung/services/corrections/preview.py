"""What a correction would move, computed as its results will be."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.classical.analysis import analyse
from bildung.core.classical.finding import test_finding
from bildung.core.classical.moves import Moves, moves
from bildung.core.items.shown import coefficient, counted, percent
from bildung.services.answers.analysed import together
from bildung.services.corrections.asked import Asked, CorrectionWish, asked, sessions_of
from bildung.services.forms.levels import levels_of_test
from bildung.services.quality.judged import scored_by
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.jobs import Job
from bildung.services.shared.wire import Id
from bildung.store.models import Form, PlannedSession, Window


@dataclass(frozen=True)
class FlagMove:
    """number: of the item on the form. flag: in words. gone: it is no longer raised."""

    number: int
    flag: str
    gone: bool


@dataclass(frozen=True, kw_only=True)
class ClassMove:
    """A session: how many of its students' results move. released: they have been told theirs."""

    session_id: Id
    klass: str
    moved: int
    of: int
    released: bool


@dataclass(frozen=True, kw_only=True)
class AdministrationMove:
    """A test in a window. n: students with a total before and after. up, down: who have more and less; most: the largest change, in
    points, or as a share where `by_share`. line: the share at which over and under cross it: where the goal of its levels begins, or the watch line. level_up,
    level_down: who reach a higher performance level, or fall to a lower one. settled, unsettled: who get a total, and who
    lose theirs until somebody scores. released: students whose released results move. finding, becomes: the sentence of the test."""

    form_id: Id
    form: str
    window_id: Id
    window: str
    n: int
    up: int
    down: int
    most: float
    by_share: bool
    line: float
    over: int
    under: int
    level_up: int
    level_down: int
    settled: int
    unsettled: int
    alpha: tuple[float | None, float | None]
    mean: tuple[float | None, float | None]
    points: tuple[float | None, float | None]
    flags: list[FlagMove]
    classes: list[ClassMove]
    released: int
    finding: str
    becomes: str


@dataclass(frozen=True, kw_only=True)
class CorrectionPreview:
    """says: what would move, in a sentence. made: the same once it has. what: the correction in words. asof: names the state it was computed from; a correction is
    refused where that has moved on."""

    says: str
    made: str
    what: str
    number: int
    item: str
    asof: str
    administrations: list[AdministrationMove]


def preview(ctx: Context, actor: Actor, wish: CorrectionWish, job: Job | None = None) -> CorrectionPreview:
    """Nothing is changed by asking."""
    with ctx.store.read() as db:
        want = asked(db, wish, scope(actor, Action.SCORES_PLAN))
        found = []
        here = (want.form_id, wish.window_id)
        for at, (form, window) in enumerate(sorted(want.administrations, key=lambda a: (a != here, -a[1], a[0]))):
            if job is not None:
                job.tell("trying the correction", at, len(want.administrations))
            found.append(_administration(db, want, form, window))
        stamp = asof(db, want)
    return CorrectionPreview(
        says=_says(found, "would"),
        made=_says(found, ""),
        what=want.says,
        number=want.number,
        item=want.item.code,
        asof=stamp,
        administrations=found,
    )


def asof(db: Session, want: Asked) -> str:
    """Names the answers, scores and corrections that the results rest on."""
    forms = sorted({form for form, _ in want.administrations})
    rests = [sessions_of(db, form, window) for form, window in want.administrations]
    return hashlib.sha256(repr((rests, sorted(scored_by(db, forms).items()))).encode()).hexdigest()[:20]


def brief(found: CorrectionPreview) -> dict[str, Any]:
    """What is kept of it with the correction."""
    return {
        "says": found.made,
        "up": sum(a.up for a in found.administrations),
        "down": sum(a.down for a in found.administrations),
        "released": sum(a.released for a in found.administrations),
    }


def _administration(db: Session, want: Asked, form_id: int, window_id: int) -> AdministrationMove:
    form, window = db.get_one(Form, form_id), db.get_one(Window, window_id)
    ids = [id for id, _ in sessions_of(db, form_id, window_id)]
    received = [(id, window_id, (form_id,)) for id in ids]
    now, then = together(db, [form], received), together(db, [form], received, None, want.trial)
    before, after = analyse(now.table), analyse(then.table)
    at = levels_of_test(db, form, window)
    cuts = [cut / 100 for cut in at.levels.cuts] if at is not None else []
    found = moves(before, after, cuts[at.goal - 2] if at is not None else None, cuts)
    counted_rows = np.flatnonzero(now.table.counted)
    session = now.session[counted_rows]
    classes, released = _classes(db, ids, session, found)
    numbers = {row.item.code: row.number for row in (*now.rows, *then.rows)}
    return AdministrationMove(
        form_id=form_id,
        form=form.name,
        window_id=window_id,
        window=window.name,
        n=found.n,
        up=found.up,
        down=found.down,
        most=found.most,
        by_share=found.points.before != found.points.after,
        line=found.line,
        over=found.over,
        under=found.under,
        level_up=found.level_up,
        level_down=found.level_down,
        settled=found.settled,
        unsettled=found.unsettled,
        alpha=(found.alpha.before, found.alpha.after),
        mean=(found.mean.before, found.mean.after),
        points=(found.points.before, found.points.after),
        flags=[FlagMove(numbers[f.item], f.flag.replace("_", " "), f.gone) for f in found.flags],
        classes=classes,
        released=released,
        finding="".join(piece.text for piece in test_finding(before)),
        becomes="".join(piece.text for piece in test_finding(after)),
    )


def _classes(
    db: Session, ids: list[int], session: np.ndarray[Any, np.dtype[np.int64]], found: Moves
) -> tuple[list[ClassMove], int]:
    rows = {s.id: s for s in db.scalars(select(PlannedSession).where(PlannedSession.id.in_(ids)))}
    lines, released = [], 0
    for id in ids:
        here = session == id
        moved = int((found.changed & here).sum())
        told = rows[id].released_at is not None
        released += moved if told else 0
        lines.append(
            ClassMove(session_id=id, klass=rows[id].klass.title, moved=moved, of=int(here.sum()), released=told)
        )
    return sorted(lines, key=lambda c: (-c.moved, c.klass)), released


def _says(found: list[AdministrationMove], would: str) -> str:
    """would: "would" before it is decided, nothing afterward."""
    have = f"{would} have".strip()
    up, down, n = (sum(getattr(a, name) for a in found) for name in ("up", "down", "n"))
    settled, unsettled = sum(a.settled for a in found), sum(a.unsettled for a in found)
    first = " and ".join(
        part
        for part in (
            f"{up} of {counted(n, 'student')} {have} more" if up else "",
            (f"{down} {'' if up else f'of {n} students {have} '}less") if down else "",
        )
        if part
    )
    crossing = sum(a.over for a in found), sum(a.under for a in found)
    if any(crossing):
        ways = [f"{crossing[0]} rise over" if crossing[0] else "", f"{crossing[1]} fall under" if crossing[1] else ""]
        first += f"; {' and '.join(way for way in ways if way)} the {percent(found[0].line)} line"
    parts = [first] if first else []
    levels = sum(a.level_up for a in found), sum(a.level_down for a in found)
    if any(levels):
        ways = [
            f"{levels[0]} {'would reach' if would else 'reached'} a higher level" if levels[0] else "",
            f"{levels[1]} {'would fall' if would else 'fell'} to a lower one" if levels[1] else "",
        ]
        parts.append(" and ".join(way for way in ways if way))
    if settled:
        parts.append(f"{counted(settled, 'student')} {have} a total who had none")
    if unsettled:
        parts.append(f"{counted(unsettled, 'student')} {have} no total until their responses are scored again")
    text = "; ".join(parts) or f"No student's result {'would move' if would else 'moved'}"
    if len(found) == 1 and found[0].alpha[0] is not None and found[0].alpha[1] is not None:
        now, then = (coefficient(value) for value in found[0].alpha if value is not None)
        text += f". Reliability {'stays' if now == then else f'goes from {now} to'} {then}"
    told = sum(a.released for a in found)
    if told:
        text += f". {told} of these {'has' if told == 1 else 'have'} been told their results"
    return f"{text}."
