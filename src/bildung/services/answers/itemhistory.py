"""An item's history: what it did each time it was sat. Kept beside the answers, made again when they change."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from bildung.core.classical.analysis import ItemAnalysis
from bildung.core.classical.intervals import Z95
from bildung.core.classical.settings import DEFAULTS
from bildung.core.school.privacy import LEAST
from bildung.services.answers.analysed import analyse_sessions
from bildung.services.shared.context import Context
from bildung.services.shared.wire import Id
from bildung.store.models import (
    Correction,
    Form,
    FormItem,
    ItemFigure,
    ItemUse,
    ItemVersion,
    PlannedSession,
    Scoring,
    Sitting,
    Window,
)


@dataclass(frozen=True, kw_only=True)
class Use:
    """One administration of an item. version: its number then. wrong: the most chosen wrong answer and its share.
    Figures of fewer than five students are not told."""

    form_id: Id
    form: str
    window_id: Id
    window: str
    grade: str
    at: datetime
    version: int
    n: int
    p: float | None
    p_ci95: list[float] | None
    r_rest: float | None
    wrong: str
    wrong_share: float | None
    flags: list[dict[str, str]]
    sound: bool | None


def refresh(ctx: Context) -> int:
    """Judge again every administration whose answers, keys or sessions moved since; run now and then by the server.
    How many were."""
    with ctx.store.read() as db:
        due = _due(db)
    for form_id, window_id, sessions, at, stamp in due:
        with ctx.store.read() as db:
            analysis, items = analyse_sessions(db, form_id, sessions, DEFAULTS)
            rows = [
                _row(found, version.version_id, form_id, window_id, at, stamp)
                for found, version in zip(analysis.items, items, strict=True)
            ]
        ctx.store.write(lambda db, rows=rows, form_id=form_id, window_id=window_id: _put(db, form_id, window_id, rows))  # type: ignore[misc]
    return len(due)


def _due(db: Session) -> list[tuple[int, int, list[int], datetime, str]]:
    known = {
        (f, w): stamp
        for f, w, stamp in db.execute(select(ItemFigure.form_id, ItemFigure.window_id, ItemFigure.stamp).distinct())
    }
    scorings = {
        form_id: newest
        for form_id, newest in db.execute(
            select(FormItem.form_id, func.max(Scoring.id))
            .join(Scoring, Scoring.item_version_id == FormItem.item_version_id)
            .group_by(FormItem.form_id)
        )
    }
    corrections = {
        form_id: f"{n}/{undone}"
        for form_id, n, undone in db.execute(
            select(FormItem.form_id, func.count(), func.count(Correction.undone_at))
            .join(Correction, Correction.form_item_id == FormItem.id)
            .group_by(FormItem.form_id)
        )
    }
    sessions: dict[tuple[int, int], list[tuple[int, int, datetime]]] = {}
    for id, form_id, window_id, version, start in db.execute(
        select(
            PlannedSession.id,
            func.coalesce(Sitting.form_id, PlannedSession.form_id),
            PlannedSession.window_id,
            PlannedSession.data_version,
            PlannedSession.start,
        )
        .outerjoin(Sitting, Sitting.session_id == PlannedSession.id)
        .join(Form, Form.id == PlannedSession.form_id)
        # answers that were practiced, with hints and told at once, say nothing of what an item does in a test
        .where(PlannedSession.closed_at.is_not(None), Form.kind != "mirror")
        .distinct()
        .order_by(PlannedSession.id)
    ):
        sessions.setdefault((form_id, window_id), []).append((id, version, start))
    due = []
    for (form_id, window_id), found in sessions.items():
        decided = f"{corrections[form_id]};" if form_id in corrections else ""
        stamp = f"{scorings.get(form_id, 0)};{decided}" + ",".join(f"{id}:{version}" for id, version, _ in found)
        if known.get((form_id, window_id)) != stamp:
            due.append((form_id, window_id, [id for id, _, _ in found], max(start for _, _, start in found), stamp))
    return due


def _row(
    found: ItemAnalysis, version_id: int, form_id: int, window_id: int, at: datetime, stamp: str
) -> dict[str, Any]:
    figures = found.figures
    wrong = max(
        (row for row in found.options if not row.is_key and row.option and row.n and row.kind == "answer"),
        key=lambda row: row.n,
        default=None,
    )
    low, high = figures.p_ci95 or (None, None)
    return {
        "form_id": form_id,
        "window_id": window_id,
        "item_version_id": version_id,
        "n": figures.n,
        "p": figures.p,
        "p_low": low,
        "p_high": high,
        "r_rest": figures.r_rest,
        "wrong": wrong.option if wrong else "",
        "wrong_share": wrong.share if wrong else None,
        "flags": [{"flag": f.flag, "weight": f.weight} for f in found.flags],
        "sound": found.sound,
        "at": at,
        "stamp": stamp,
        "sd": figures.sd,
        "loading": _loading(found),
    }


def _loading(found: ItemAnalysis) -> float | None:
    """s·r/√(reliability of the rest): what the item shares with the true score, in points."""
    figures, rest = found.figures, found.alpha_without
    if figures.sd is None or figures.r_rest is None or rest is None or rest <= 0:
        return None
    return figures.sd * figures.r_rest / math.sqrt(rest)


def _put(db: Session, form_id: int, window_id: int, rows: list[dict[str, Any]]) -> None:
    versions = [row["item_version_id"] for row in rows]
    here = ItemFigure.form_id == form_id, ItemFigure.window_id == window_id
    # an item that is dropped from the totals keeps what it did until then
    db.execute(delete(ItemFigure).where(*here, ItemFigure.item_version_id.in_(versions)))
    stamp = rows[0]["stamp"] if rows else ""
    db.execute(update(ItemFigure).where(*here).values(stamp=stamp))
    db.add_all(ItemFigure(**row) for row in rows)
    db.flush()
    keep_last(db, list(db.scalars(select(ItemVersion.item_id).where(ItemVersion.id.in_(versions)).distinct())))


def keep_last(db: Session, item_ids: list[int]) -> None:
    """Make the kept last use of these items again."""
    last: dict[int, ItemUse] = {}
    for item_id, f in db.execute(
        select(ItemVersion.item_id, ItemFigure)
        .join(ItemFigure, ItemFigure.item_version_id == ItemVersion.id)
        .where(ItemVersion.item_id.in_(item_ids))
        .order_by(ItemFigure.at.desc(), ItemFigure.form_id)
    ):
        if item_id in last:
            last[item_id].times += 1
        else:
            last[item_id] = ItemUse(
                item_id=item_id,
                item_version_id=f.item_version_id,
                times=1,
                n=f.n,
                p=f.p,
                r_rest=f.r_rest,
                wrong_share=f.wrong_share,
                at=f.at,
                p_error=None if f.p_low is None or f.p_high is None else (f.p_high - f.p_low) / (2 * Z95),
                sd=f.sd,
                loading=f.loading,
                problem=any(flag["weight"] == "problem" for flag in f.flags),
            )
    db.execute(delete(ItemUse).where(ItemUse.item_id.in_(item_ids)))
    db.add_all(last.values())


@dataclass(frozen=True, slots=True)
class BriefUse:
    """An administration of an item as the page of the whole bank looks at it."""

    at: datetime
    p: float | None
    flags: list[dict[str, str]]


def brief_uses(db: Session) -> dict[int, list[BriefUse]]:
    """Of every item, the latest first."""
    found: dict[int, list[BriefUse]] = {}
    for item_id, at, n, p, flags in db.execute(
        select(ItemVersion.item_id, ItemFigure.at, ItemFigure.n, ItemFigure.p, ItemFigure.flags)
        .join(ItemFigure, ItemFigure.item_version_id == ItemVersion.id)
        .order_by(ItemFigure.at.desc(), ItemFigure.form_id)
    ):
        told = n >= LEAST
        found.setdefault(item_id, []).append(BriefUse(at, p if told else None, flags if told else []))
    return found


def uses(db: Session, item_ids: list[int]) -> dict[int, list[Use]]:
    """Of each item every administration of any of its versions, the latest first."""
    found: dict[int, list[Use]] = {}
    rows = db.execute(
        select(ItemVersion.item_id, ItemVersion.number, ItemFigure, Form, Window.name)
        .join(ItemFigure, ItemFigure.item_version_id == ItemVersion.id)
        .join(Form, Form.id == ItemFigure.form_id)
        .join(Window, Window.id == ItemFigure.window_id)
        .where(ItemVersion.item_id.in_(item_ids))
        .order_by(ItemFigure.at.desc(), ItemFigure.form_id)
    )
    for item_id, number, f, form, window in rows:
        told = f.n >= LEAST
        interval = [f.p_low, f.p_high] if told and f.p_low is not None and f.p_high is not None else None
        found.setdefault(item_id, []).append(
            Use(
                form_id=f.form_id,
                form=form.name,
                window_id=f.window_id,
                window=window,
                grade=form.grade,
                at=f.at,
                version=number,
                n=f.n,
                p=f.p if told else None,
                p_ci95=interval,
                r_rest=f.r_rest if told else None,
                wrong=f.wrong if told else "",
                wrong_share=f.wrong_share if told else None,
                flags=f.flags if told else [],
                sound=f.sound,
            )
        )
    return found
