"""The option table: who gave which answer (methods.md, section 2)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.arrays import BoolArray
from bildung.core.classical.joint import OTHER, Joint, weighted_correlation
from bildung.core.classical.ranks import slices
from bildung.core.responses import FIRST, OMITTED

FIFTHS = np.linspace(0.0, 1.0, 6)


@dataclass(frozen=True)
class OptionRow:
    """One answer. option: "" is omitted. share: of the n who reached the item. mean_total, mean_rest:
    points, over those with a total. fifths: its share within each fifth of the students, lowest
    first; None for an empty fifth. kind: "answer", or "option" for one option of a multiple response.
    """

    option: str
    kind: str
    is_key: bool
    n: int
    n_r: int
    share: float | None
    mean_total: float | None
    mean_rest: float | None
    r_rest: float | None
    fifths: tuple[float | None, ...]


def option_table(joint: Joint) -> tuple[OptionRow, ...]:
    """Rows in option order (written answers: most frequent first, "other" last), then omitted."""
    rows = len(joint.labels) + FIRST
    table: list[OptionRow] = []
    maximum = joint.item.points
    wide = rows - joint.merged
    others = np.zeros(rows, dtype=np.bool_)
    order = list(range(FIRST, rows))
    if joint.item.kind == "points":
        order.sort(key=lambda row: float(joint.points[row]))
    elif joint.item.kind != "choice":
        order.sort(key=lambda row: (row >= wide, -joint.everybody[row], joint.labels[row - FIRST]))
    for row in order:
        if row >= wide:
            others[row] = True
            continue
        label = joint.labels[row - FIRST]
        table.append(_row(joint, label, "answer", bool(joint.points[row] >= maximum), _only(rows, row)))
    if others.any():
        table.append(_row(joint, OTHER, "answer", False, others))
    if joint.item.kind == "multiple":
        for option in joint.item.options:
            chosen = np.zeros(rows, dtype=np.bool_)
            chosen[FIRST:] = [option in label.split("+") for label in joint.labels]
            table.append(_row(joint, option, "option", option in joint.item.keys, chosen))
    table.append(_row(joint, "", "answer", False, _only(rows, OMITTED)))
    return tuple(table)


def _only(rows: int, row: int) -> BoolArray:
    chosen = np.zeros(rows, dtype=np.bool_)
    chosen[row] = True
    return chosen


def _row(joint: Joint, option: str, kind: str, is_key: bool, chosen: BoolArray) -> OptionRow:
    met = joint.reached_rows
    n_all = int(joint.everybody[met].sum())
    n = int(joint.everybody[chosen].sum())
    weights = joint.weights
    picked = np.where(chosen[:, None], weights, 0.0)
    n_r = int(picked.sum())
    mean_total = mean_rest = r_rest = None
    if n_r:
        earned = joint.scores.level_earned[None, :]
        mean_total = float((picked * earned).sum()) / n_r
        mean_rest = float((picked * (earned - joint.points[:, None])).sum()) / n_r
    if joint.n_r >= 4:
        r_rest = weighted_correlation(weights, chosen[:, None].astype(np.float64), joint.rest)
    fifths: tuple[float | None, ...] = (None,) * 5
    if joint.n_r:
        by_level = weights.sum(axis=0)
        parts = slices(by_level, joint.scores.standing, FIFTHS)
        size = parts @ by_level
        held = parts @ picked.sum(axis=0)
        fifths = tuple(float(h / s) if s > 0 else None for h, s in zip(held, size, strict=True))
    return OptionRow(option, kind, is_key, n, n_r, n / n_all if n_all else None, mean_total, mean_rest, r_rest, fifths)
