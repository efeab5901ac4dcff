"""Putting two forms on one scale by their common items: mean and sigma (Marco 1977).

Until item response models are here, an item's difficulty is the normal deviate of its share, so the link
holds for groups that are roughly normal. A form without a link has no growth, only shares.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from scipy.special import ndtri

from bildung.core.data.arrays import FloatArray
from bildung.core.errors import Refused

LEAST_COMMON = 3
METHOD = "mean and sigma on common items (normal deviates of p)"


@dataclass(frozen=True, kw_only=True)
class FormLink:
    """A linear link between two forms, on = slope·from + intercept, in standard deviations of the group that sat the target form.

    Attributes
    ----------
    slope : float
        Of the link.
    intercept : float
        Of the link.
    error : float
        Standard error of the intercept, from how much the common items scatter about the link.
    common : int
        Items on both.
    method : str
        How it was made.
    """

    slope: float
    intercept: float
    error: float
    common: int
    method: str = METHOD

    def apply(self, z: FloatArray) -> FloatArray:
        """Normal scores of the source form on the target's scale, (n,).

        (n,): normal scores of the source form on the target's scale.

        Parameters
        ----------
        z : FloatArray
            On the source form.

        Returns
        -------
        FloatArray
        """
        linked: FloatArray = self.slope * z + self.intercept
        return linked


def mean_sigma(p_from: FloatArray, p_onto: FloatArray) -> FormLink:
    """The mean-sigma link of two forms by their common items.

    Parameters
    ----------
    p_from : FloatArray
        (items,) shares of the same items in the two groups, each within 0..1 exclusive.
    p_onto : FloatArray
        (items,) shares of the same items in the two groups, each within 0..1 exclusive.

    Returns
    -------
    FormLink

    Raises
    ------
    Refused
        Under three common items, for a share of 0 or 1 (its deviate is infinite), or where all items are equally
        hard in a group.
    """
    if p_from.size != p_onto.size or p_from.size < LEAST_COMMON:
        raise Refused(f"{p_from.size} and {p_onto.size} shares; a link needs {LEAST_COMMON} or more common items")
    if min(p_from.min(), p_onto.min()) <= 0 or max(p_from.max(), p_onto.max()) >= 1:
        raise Refused("a common item that all or no students answered correctly has no difficulty; exclude it")
    source, target = -ndtri(p_from), -ndtri(p_onto)
    spread = float(source.std(ddof=1))
    if spread <= 1e-12 or float(target.std(ddof=1)) <= 1e-12:
        raise Refused("all common items are equally hard; their spread makes the link")
    slope = float(target.std(ddof=1)) / spread
    intercept = float(target.mean() - slope * source.mean())
    scatter = target - (slope * source + intercept)
    error = math.sqrt(float(scatter @ scatter) / (source.size - 2) / source.size)
    return FormLink(slope=slope, intercept=intercept, error=error, common=int(source.size))
