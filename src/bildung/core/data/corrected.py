"""Answers whose points were corrected by decision: given to everybody, or changed for some."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from bildung.core.data.arrays import CodeArray
from bildung.core.data.responses import AWAITING, FIRST, NOT_PRESENTED, NOT_REACHED, OMITTED, Answers


def given_to_all(answers: Answers, maximum: float, unreached: bool) -> Answers:
    """Full points to everybody, whatever they answered.

    Answers keep their labels, so that the option table still shows them. An omission cannot carry points: it becomes an answer of
    its own, without words; so does a response that waits for a score.

    Parameters
    ----------
    answers : Answers
        Settled: what was not reached is coded so.
    maximum : float
        Points of the item.
    unreached : bool
        Whether those who did not reach the item get them too.

    Returns
    -------
    Answers
    """
    codes = answers.codes.astype(np.int32)
    given = (codes == OMITTED) | (codes == AWAITING)
    if unreached:
        given |= codes == NOT_REACHED
    labels, points = answers.labels, np.full(len(answers.labels), maximum)
    if given.any():
        if "" in labels:
            codes[given] = FIRST + labels.index("")
        else:
            codes[given] = FIRST + len(labels)
            labels, points = (*labels, ""), np.append(points, maximum)
    return Answers(_narrow(codes, len(labels)), labels, points)


def with_scores(answers: Answers, points: Mapping[int, float]) -> Answers:
    """Points of some students as somebody decided them.

    Each becomes an answer of its own, with the words of the one that was given and the points that it now earns, so that the
    option table shows both.

    Parameters
    ----------
    answers : Answers
        Settled answers to one item.
    points : Mapping[int, float]
        By row what the response earns; a row that was not presented the item is left as it is.

    Returns
    -------
    Answers
    """
    codes = answers.codes.astype(np.int32)
    labels, worth = list(answers.labels), list(answers.points)
    place = {label: at for at, label in enumerate(labels)}
    for row, value in points.items():
        code = int(codes[row])
        if code == NOT_PRESENTED:
            continue
        if code >= FIRST and abs(worth[code - FIRST] - value) < 1e-9:
            continue
        said = answers.labels[code - FIRST] if code >= FIRST else ""
        label = f"{said or 'no answer'}, scored {value:g}"
        if label not in place:
            place[label] = len(labels)
            labels.append(label)
            worth.append(value)
        codes[row] = FIRST + place[label]
    return Answers(_narrow(codes, len(labels)), tuple(labels), np.array(worth, dtype=np.float64))


def _narrow(codes: npt.NDArray[np.int32], labels: int) -> CodeArray:
    return codes.astype(np.uint8) if FIRST + labels <= 256 else codes
