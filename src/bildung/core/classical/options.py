"""The option table: who gave which answer (methods.md, section 2)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.joint import OTHER, Joint
from bildung.core.classical.ranks import slices
from bildung.core.data.responses import FIRST, OMITTED

FIFTHS = np.linspace(0.0, 1.0, 6)


@dataclass(frozen=True, kw_only=True)
class OptionRow:
    """One answer to an item.

    Attributes
    ----------
    option : str
        "" is omitted.
    kind : str
        "answer", or "option" for one option of a multiple response.
    is_key : bool
        Whether it earns points.
    n : int
        Students who gave it.
    n_r : int
        Of these, students with a total.
    share : float | None
        Of the n who reached the item.
    mean_total : float | None
        Points, over those with a total.
    mean_rest : float | None
        Points, over those with a total.
    r_rest : float | None
        Correlation of giving it with the rest.
    fifths : tuple[float | None, ...]
        Its share within each fifth of the students, lowest first; None for an empty fifth.
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
    order = list(range(FIRST, rows))
    wide = rows - joint.merged
    if joint.item.kind == "points":
        order.sort(key=lambda row: float(joint.points[row]))
    elif joint.item.kind != "choice":
        order.sort(key=lambda row: (row >= wide, -joint.everybody[row], joint.labels[row - FIRST]))
    found: list[tuple[str, str, bool, list[int]]] = [
        (joint.labels[row - FIRST], "answer", bool(joint.points[row] >= joint.item.points), [row])
        for row in order
        if row < wide
    ]
    if joint.merged:
        found.append((OTHER, "answer", False, list(range(wide, rows))))
    if joint.item.kind == "multiple":
        for option in joint.item.options:
            chosen = [FIRST + at for at, label in enumerate(joint.labels) if option in label.split("+")]
            found.append((option, "option", option in joint.item.keys, chosen))
    found.append(("", "answer", False, [OMITTED]))
    return _figures(joint, found)


def _figures(joint: Joint, found: list[tuple[str, str, bool, list[int]]]) -> tuple[OptionRow, ...]:
    """All rows of the table at once: each is a sum of rows of the joint count."""
    chosen = np.zeros((len(found), joint.points.size))
    for at, (*_, rows) in enumerate(found):
        chosen[at, rows] = 1.0
    weights, total = joint.weights, joint.weights.sum()
    reached = int(joint.everybody[joint.reached_rows].sum())
    n = chosen @ joint.everybody
    n_r = chosen @ weights.sum(axis=1)
    earned = chosen @ (weights @ joint.scores.level_earned)
    own = chosen @ (weights.sum(axis=1) * joint.points)
    r_rest: list[float | None] = [None] * len(found)
    if total >= 4:
        center = float((weights * joint.rest).sum() / total)
        off = weights * (joint.rest - center)
        spread = float((off * (joint.rest - center)).sum() / total)
        together = chosen @ off.sum(axis=1) / total
        share = n_r / total
        if spread > 1e-12 * max(1.0, float(np.abs(joint.rest).max()) ** 2):
            r_rest = [
                max(-1.0, min(1.0, float(c / math.sqrt(spread * q * (1 - q))))) if 1e-12 < q < 1 - 1e-12 else None
                for c, q in zip(together, share, strict=True)
            ]
    fifths = np.zeros((len(found), 5))
    sizes = np.zeros(5)
    if total:
        by_level = weights.sum(axis=0)
        parts = slices(by_level, joint.scores.standing, FIFTHS)
        sizes = parts @ by_level
        fifths = (chosen @ weights) @ parts.T / np.where(sizes > 0, sizes, 1.0)
    return tuple(
        OptionRow(
            option=option,
            kind=kind,
            is_key=is_key,
            n=int(n[at]),
            n_r=int(n_r[at]),
            share=float(n[at]) / reached if reached else None,
            mean_total=float(earned[at] / n_r[at]) if n_r[at] else None,
            mean_rest=float((earned[at] - own[at]) / n_r[at]) if n_r[at] else None,
            r_rest=r_rest[at],
            fifths=tuple(float(v) if s > 0 else None for v, s in zip(fifths[at], sizes, strict=True)),
        )
        for at, (option, kind, is_key, _) in enumerate(found)
    )
