"""Responses from known parameters, so that what an analysis should find is known beforehand."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused


@dataclass(frozen=True, kw_only=True)
class ItemParameters:
    """A choice item of the three-parameter logistic model (Birnbaum 1968).

    Attributes
    ----------
    discrimination : float
        a > 0, b, 0 <= c < 1.
    difficulty : float
        a > 0, b, 0 <= c < 1.
    guessing : float
        a > 0, b, 0 <= c < 1.
    right : int
        Place of the option that ability leads to, which a wrongly keyed item does not have as its key.
    pull : tuple[float, ...]
        Weight of each option among wrong answers (options,), the right one's ignored.
    pull_by_ability : tuple[float, ...]
        How the log-weight of each option changes per unit of ability (options,).
    """

    discrimination: float
    difficulty: float
    guessing: float
    right: int
    pull: tuple[float, ...]
    pull_by_ability: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        if self.discrimination <= 0 or not 0 <= self.guessing < 1:
            raise Refused("an item needs discrimination > 0 and guessing within 0..1")
        if not 0 <= self.right < len(self.pull):
            raise Refused(f"the right option {self.right} is not one of {len(self.pull)}")


def probability_right(ability: FloatArray, item: ItemParameters) -> FloatArray:
    """Probability of a right answer, c + (1 - c)/(1 + exp(-a(θ - b))), (students,).

    (students,): c + (1-c)/(1 + exp(-a(θ-b))).

    Parameters
    ----------
    ability : FloatArray
        Θ, (students,).
    item : ItemParameters
        Its parameters.

    Returns
    -------
    FloatArray
    """
    logistic = 1 / (1 + np.exp(-item.discrimination * (ability - item.difficulty)))
    chance: FloatArray = item.guessing + (1 - item.guessing) * logistic
    return chance


def simulate_choices(
    ability: FloatArray,
    items: list[ItemParameters],
    rng: np.random.Generator,
    omit: float = 0.0,
    reach: FloatArray | None = None,
) -> list[np.ndarray[tuple[int, ...], np.dtype[np.int64]]]:
    """Chosen option by item, -1 for none, each (students,).

    Parameters
    ----------
    ability : FloatArray
        (students,) θ.
    items : list[ItemParameters]
        Their parameters.
    rng : np.random.Generator
        Where chance comes from.
    omit : float
        Chance that somebody who would get it wrong leaves it blank.
    reach : FloatArray | None
        (students,) how many items each has time for; all where None.

    Returns
    -------
    list[np.ndarray[tuple[int, ...], np.dtype[np.int64]]]
    """
    chosen = []
    n = ability.size
    for place, item in enumerate(items):
        right = rng.random(n) < probability_right(ability, item)
        slope = np.array(item.pull_by_ability or (0.0,) * len(item.pull))
        weight = np.array(item.pull)[None, :] * np.exp(slope[None, :] * ability[:, None])
        weight[:, item.right] = 0.0
        edges = np.cumsum(weight, axis=1)
        pick = (rng.random(n)[:, None] * edges[:, -1:] > edges).sum(axis=1)
        answer = np.where(right, item.right, pick).astype(np.int64)
        answer[~right & (rng.random(n) < omit)] = -1
        if reach is not None:
            answer[place >= reach] = -1
        chosen.append(answer)
    return chosen
