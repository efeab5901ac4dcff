"""Corrections of an administration, as every total follows them: items left out or given to all, single scores changed.

A correction that is only tried (`Trial`) goes the same way, so that what is shown before is what comes of it.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.data.corrected import given_to_all, with_scores
from bildung.core.data.responses import AWAITING, ResponseTable, Status
from bildung.formats.content import PartScoring
from bildung.formats.scored import key_text
from bildung.services.items.bankitem import BankItem
from bildung.store.models import FormItem, PlaceRule, ScoreChange

Rule = Literal["drop", "everybody"]


@dataclass(frozen=True)
class Ruling:
    """unreached: of `everybody`, whether those who did not reach the item are meant as well."""

    rule: Rule
    unreached: bool = False


@dataclass(frozen=True)
class Trial:
    """What is supposed instead of what holds. scorings: by item version. rulings: by item of a form and window; None: none.
    changes: by item of a form and attempt; None: none. aside: scores that count no longer, by id."""

    scorings: Mapping[int, list[PartScoring]] = field(default_factory=dict)
    rulings: Mapping[tuple[int, int], Ruling | None] = field(default_factory=dict)
    changes: Mapping[tuple[int, int], float | None] = field(default_factory=dict)
    aside: frozenset[int] = frozenset()


NOTHING = Trial()


def as_tried(item: BankItem, trial: Trial) -> BankItem:
    """The item as it would be scored."""
    scoring = trial.scorings.get(item.version_id)
    if scoring is None:
        return item
    return replace(item, scoring=scoring, points=sum(s.points for s in scoring), key=key_text(scoring))


def rulings(db: Session, places: Collection[int], trial: Trial = NOTHING) -> dict[tuple[int, int], Ruling]:
    """By item of a form and window, where anything was decided."""
    found: dict[tuple[int, int], Ruling | None] = {
        (row.form_item_id, row.window_id): Ruling("drop" if row.rule == "drop" else "everybody", row.unreached)
        for row in db.scalars(select(PlaceRule).where(PlaceRule.form_item_id.in_(places)))
    }
    found.update({place: ruling for place, ruling in trial.rulings.items() if place[0] in places})
    return {place: ruling for place, ruling in found.items() if ruling is not None}


def changes(
    db: Session, places: Collection[int], trial: Trial = NOTHING, attempt: int | None = None
) -> dict[int, dict[int, float]]:
    """By item of a form and attempt what the response earns by decision. attempt: only this one."""
    wanted = select(ScoreChange).where(ScoreChange.form_item_id.in_(places))
    if attempt is not None:
        wanted = wanted.where(ScoreChange.sitting_id == attempt)
    rows: dict[tuple[int, int], float | None] = {
        (row.form_item_id, row.sitting_id): row.points for row in db.scalars(wanted)
    }
    rows.update({place: points for place, points in trial.changes.items() if place[0] in places})
    found: dict[int, dict[int, float]] = {}
    for (place, sitting), points in rows.items():
        if points is not None:
            found.setdefault(place, {})[sitting] = points
    return found


def corrected(
    db: Session, table: ResponseTable, form_id: int, window_id: int, row_of: Mapping[int, int], trial: Trial = NOTHING
) -> ResponseTable:
    """A settled table of a form in a window with what was decided about it. Items that are dropped stay in it: the caller leaves them
    out. row_of: by attempt, the row of the table."""
    places = list(db.scalars(select(FormItem.id).where(FormItem.form_id == form_id).order_by(FormItem.position)))
    decided = rulings(db, places, trial)
    changed = changes(db, places, trial)
    if not decided and not changed:
        return table
    answers = list(table.answers)
    for at, place in enumerate(places):
        ruling = decided.get((place, window_id))
        if ruling is not None and ruling.rule == "everybody":
            answers[at] = given_to_all(answers[at], table.items[at].points, ruling.unreached)
            continue
        mine = {row_of[id]: points for id, points in changed.get(place, {}).items() if id in row_of}
        if mine:
            answers[at] = with_scores(answers[at], mine)
    status = table.status.copy()
    waiting = np.any([a.codes == AWAITING for a in answers], axis=0)
    status[(status == Status.WAITING) & ~waiting] = Status.SAT
    return ResponseTable(table.items, tuple(answers), status, table.parts)


def dropped(db: Session, administered: Collection[tuple[int, int]], trial: Trial = NOTHING) -> set[int]:
    """Items of forms that are in no total in any of these (form, window)."""
    forms = {form for form, _ in administered}
    form_of = dict(db.execute(select(FormItem.id, FormItem.form_id).where(FormItem.form_id.in_(forms))).all())
    return {
        place
        for (place, window), ruling in rulings(db, form_of.keys(), trial).items()
        if ruling.rule == "drop" and (form_of[place], window) in administered
    }
