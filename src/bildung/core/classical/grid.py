"""The response grid: what each student earned on each item, and which answers are unexpected."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.persons import PersonFit, person_fit
from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.data.responses import AWAITING, NOT_PRESENTED, NOT_REACHED

STRANGE = -2.0
FEW_ITEMS = 15
UNEXPECTED = -2.33
LEAST = 25


@dataclass(frozen=True)
class ResponseGrid:
    """Students by items, over the counted students in the table's order.

    Attributes
    ----------
    share : FloatArray
        (students, items) of the item's points, 0 where nothing was earned or the item was not met.
    met : BoolArray
        (students, items) reached, presented and scored.
    fit : PersonFit
        Answers that surprise.
    surprises : IntArray
        (items,) how many.
    """

    share: FloatArray
    met: BoolArray
    fit: PersonFit
    surprises: IntArray


def response_grid(analysis: TestAnalysis) -> ResponseGrid:
    """The grid of an analysed test."""
    n, k = analysis.table.n, len(analysis.items)
    share, met = np.zeros((n, k)), np.zeros((n, k), dtype=np.bool_)
    for at, (item, answers) in enumerate(zip(analysis.table.items, analysis.table.answers, strict=True)):
        share[:, at] = answers.code_points[answers.codes] / item.points
        met[:, at] = ~np.isin(answers.codes, (NOT_REACHED, NOT_PRESENTED, AWAITING))
    found = person_fit(share, met)
    return ResponseGrid(share, met, found, found.surprising.sum(axis=0).astype(np.int64))


def student_sentence(grid: ResponseGrid, row: int, numbers: Sequence[str]) -> str:
    """What is unexpected about one student's answers. numbers: of the items, as shown."""
    residual = grid.fit.residuals[row]
    met = int(grid.met[row].sum())
    order = np.argsort(-np.abs(residual), kind="stable")
    strange = [int(at) for at in order if grid.fit.surprising[row, at]]
    missed, got = ([numbers[at] for at in strange if (residual[at] < 0) == low] for low in (True, False))
    parts = []
    if missed:
        parts.append(f"missed what students of this score usually get ({_few(missed)})")
    if got:
        parts.append(f"got what they usually miss ({_few(got)})")
    caution = f"; {met} items are few to judge by" if met < FEW_ITEMS else ""
    if not parts:
        return f"Nothing unexpected{caution}."
    if grid.fit.fit[row] < STRANGE:
        return f"An unusual pattern: {' and '.join(parts)}. Ask how the test went{caution}."
    whole = " and ".join(parts)
    return f"{whole[0].upper()}{whole[1:]}; single answers, no pattern{caution}."


def item_sentence(grid: ResponseGrid, at: int) -> str:
    """What is unexpected about the answers to one item."""
    n = int(grid.met[:, at].sum())
    residual = grid.fit.residuals[:, at]
    missed = int((grid.fit.surprising[:, at] & (residual < 0)).sum())
    got = int((grid.fit.surprising[:, at] & (residual > 0)).sum())
    if n < LEAST:
        return f"{n} students are too few to say whether its answers are as expected."
    single = f" ({missed} unexpectedly incorrect, {got} unexpectedly correct)" if missed or got else ""
    if grid.fit.item_fit[at] < UNEXPECTED:
        return f"The strong miss it and the weak get it more often than their scores let expect{single}. Look at its answers."
    return f"Its answers are as the students' scores let expect{single}."


def _few(numbers: Sequence[str]) -> str:
    return ", ".join(numbers[:4]) + (f" and {len(numbers) - 4} more" if len(numbers) > 4 else "")
