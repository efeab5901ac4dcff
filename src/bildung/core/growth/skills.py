"""Skills in the order they are learned: who is ready to leave one, and where focus is needed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import BoolArray, FloatArray, IntArray

READY = 0.80  # probability of truly being at or above the cut score
MOST = 0.80  # of a group that is ready: the group as a whole can go on


@dataclass(frozen=True)
class SkillsFound:
    """Of students and skills in learning order.

    Attributes
    ----------
    ready : BoolArray
        (n, skills) who is ready to leave a skill; False where there is no score.
    focus : IntArray
        (n,) place of the first skill that the student is not ready to leave, among those with a score; -1 where there is none.
    known : IntArray
        (skills,) students with a score.
    share : FloatArray
        (skills,) of them who are ready; NaN where there are none.
    group_focus : int
        The first skill that fewer than four in five are ready to leave; -1 where there is none.
    """

    ready: BoolArray
    focus: IntArray
    known: IntArray
    share: FloatArray
    group_focus: int


def skills_found(probability: FloatArray) -> SkillsFound:
    """What the probabilities of truly having reached each skill's cut score say.

    Parameters
    ----------
    probability : FloatArray
        (n, skills) in learning order, NaN without a score.

    Returns
    -------
    SkillsFound
    """
    has = ~np.isnan(probability)
    ready = has & (np.nan_to_num(probability) >= READY)
    open_ = has & ~ready
    focus = np.where(open_.any(axis=1), open_.argmax(axis=1), -1).astype(np.int64)
    known = has.sum(axis=0).astype(np.int64)
    share = np.divide(ready.sum(axis=0), known, out=np.full(known.size, np.nan), where=known > 0)
    short = np.flatnonzero((known > 0) & (np.nan_to_num(share, nan=1.0) < MOST))
    return SkillsFound(ready, focus, known, share, int(short[0]) if short.size else -1)
