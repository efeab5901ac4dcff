"""How many dimensions a test seems to have: eigenvalues against those of shuffled answers (Horn 1965)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused
from bildung.core.progress import Tell

COPIES = 100


@dataclass(frozen=True)
class Dimensions:
    """How many dimensions a test has, by parallel analysis.

    Attributes
    ----------
    eigenvalues : tuple[float, ...]
        Of the inter-item correlations, largest first.
    chance : tuple[float, ...]
        95th centile of the same from permuted columns.
    count : int
        How many in a row pass it.
    """

    eigenvalues: tuple[float, ...]
    chance: tuple[float, ...]
    count: int


def dimensions(points: FloatArray, rng: np.random.Generator, tell: Tell | None = None) -> Dimensions:
    """Parallel analysis of the inter-item correlations.

    Parameters
    ----------
    points : FloatArray
        (students, items). Items without variance leave.
    rng : np.random.Generator
        Where chance comes from.
    tell : Tell | None
        Told of each shuffled copy.

    Returns
    -------
    Dimensions

    Raises
    ------
    Refused
        Under three items or three students.
    """
    kept = points[:, points.std(axis=0) > 1e-12]
    if kept.shape[1] < 3 or kept.shape[0] < 3:
        raise Refused(f"{kept.shape[1]} items that vary, {kept.shape[0]} students; at least three of each are needed")

    def eigenvalues(table: FloatArray) -> FloatArray:
        values: FloatArray = np.linalg.eigvalsh(np.corrcoef(table.T))[::-1].astype(np.float64)
        return values

    own = eigenvalues(kept)
    copies = []
    for n in range(COPIES):
        if tell:
            tell("dimension check", n, COPIES)
        copies.append(eigenvalues(rng.permuted(kept, axis=0)))
    chance = np.percentile(np.stack(copies), 95, axis=0)
    over = own > chance
    count = int(over.size if over.all() else over.argmin())
    return Dimensions(tuple(map(float, own)), tuple(map(float, chance)), count)
