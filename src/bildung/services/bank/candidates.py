"""The bank as assembly sees it: newest versions that may stand on a form, with what they did before."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import ColumnElement, Select, and_, false, func, or_, select
from sqlalchemy.orm import Session

from bildung.core.assembly.blueprint import Candidate
from bildung.services.bank.search import year_begins
from bildung.services.items.subject import grade_is, subject_is
from bildung.services.items.verdicts import decided
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.store.models import (
    FormItem,
    Item,
    ItemEnemy,
    ItemFigure,
    ItemStandard,
    ItemUse,
    ItemVersion,
    PlannedSession,
    Scoring,
    Standard,
    Stimulus,
    StimulusVersion,
)

USABLE = ("ready", "in_use", "field_test")


def candidates(
    ctx: Context,
    db: Session,
    actor: Actor,
    subject: str | None = "",
    grade: str = "",
    window_id: int | None = None,
    always: Sequence[int] = (),
) -> list[Candidate]:
    """Items of a subject and grade (empty: any; no subject: none) that are ready or in use, and versions that are named, whatever
    their state. A candidate's id is its version's. window_id: items planned in it already are marked."""
    points = (
        select(Scoring.points)
        .where(Scoring.item_version_id == ItemVersion.id)
        .order_by(Scoring.number.desc())
        .limit(1)
        .correlate(ItemVersion)
        .scalar_subquery()
    )
    rows = db.execute(
        select(ItemVersion.id, ItemVersion.kind, Item, points, Stimulus.code, ItemUse)
        .join(Item, Item.id == ItemVersion.item_id)
        .outerjoin(StimulusVersion, StimulusVersion.id == ItemVersion.stimulus_version_id)
        .outerjoin(Stimulus, Stimulus.id == StimulusVersion.stimulus_id)
        .outerjoin(ItemUse, ItemUse.item_id == Item.id)
        .where(scope(actor, Action.BANK_READ), or_(ItemVersion.id.in_(always), _fits(subject, grade)))
        .order_by(Item.code)
    ).all()
    standards = _standards_of(db, {row[0] for row in rows})
    enemies = _enemies_of(db, {row[2].id: row[0] for row in rows})
    used = _counts(
        db,
        select(ItemVersion.item_id, func.count())
        .join(ItemFigure, ItemFigure.item_version_id == ItemVersion.id)
        .where(ItemFigure.at >= year_begins(ctx, db))
        .group_by(ItemVersion.item_id),
    )
    planned = (
        _counts(
            db,
            select(ItemVersion.item_id, func.count())
            .join(FormItem, FormItem.item_version_id == ItemVersion.id)
            .join(PlannedSession, PlannedSession.form_id == FormItem.form_id)
            .where(PlannedSession.window_id == window_id)
            .group_by(ItemVersion.item_id),
        )
        if window_id is not None
        else {}
    )
    waiting, kept = decided(db)
    found = []
    for id, kind, item, worth, stimulus, last in rows:
        # what another wording did is no history of this one
        use = last if last is not None and last.item_version_id == id else None
        found.append(
            Candidate(
                id=id,
                code=item.code,
                standards=tuple(standards.get(id, ())),
                points=worth or 0.0,
                kind=kind,
                depth=item.depth,
                topic=item.topic,
                unit=item.unit,
                seconds=item.seconds,
                stimulus=stimulus or "",
                p=use.p if use else None,
                p_error=use.p_error if use else None,
                sd=use.sd if use else None,
                loading=use.loading if use else None,
                r_rest=use.r_rest if use else None,
                n=use.n if use else 0,
                used=used.get(item.id, 0),
                window=item.id in planned,
                problem=item.id in waiting or bool(use and use.problem and item.id not in kept),
                enemies=frozenset(enemies.get(item.id, ())),
            )
        )
    return found


def _fits(subject: str | None, grade: str) -> ColumnElement[bool]:
    """The newest version of what is ready or in use, of this subject and grade."""
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    fits: list[ColumnElement[bool]] = [
        Item.state.in_(USABLE),
        ItemVersion.template.is_(None),
        ItemVersion.id.in_(newest),
    ]
    if subject is None:
        fits.append(false())
    if subject:
        fits.append(subject_is(subject))
    if grade:
        fits.append(grade_is(grade))
    return and_(*fits)


def _standards_of(db: Session, versions: set[int]) -> dict[int, list[str]]:
    """Codes by version, the main one first."""
    found: dict[int, list[str]] = {}
    for version, code in db.execute(
        select(ItemStandard.item_version_id, Standard.code)
        .join(Standard)
        .order_by(ItemStandard.item_version_id, ItemStandard.rank)
    ):
        if version in versions:
            found.setdefault(version, []).append(code)
    return found


def _enemies_of(db: Session, version_of: dict[int, int]) -> dict[int, set[int]]:
    """By item, the versions of those it must not meet on a form. version_of: by item."""
    found: dict[int, set[int]] = {}
    for a, b in db.execute(select(ItemEnemy.item_id, ItemEnemy.other_id)):
        if a in version_of and b in version_of:
            found.setdefault(a, set()).add(version_of[b])
            found.setdefault(b, set()).add(version_of[a])
    return found


def _counts(db: Session, wanted: Select[int, int]) -> dict[int, int]:
    return {id: n for id, n in db.execute(wanted)}
