"""Drawn copies of one template: whether they are alike (methods.md, section 2)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.special import chdtrc

from bildung.core.classical.flags import Flag
from bildung.core.items.shown import percent

LEAST, CALLED = 20, 0.01


@dataclass(frozen=True, kw_only=True)
class TemplateStatistics:
    """How the draws of a template compare.

    Attributes
    ----------
    n : int
        Pooled over the students who were presented a draw.
    p : float | None
        Pooled over the students who were presented a draw.
    chi2 : float | None
        Draws with n >= 20 against each other; None with fewer than two such draws.
    df : int
        Draws with n >= 20 against each other; None with fewer than two such draws.
    p_value : float | None
        Draws with n >= 20 against each other; None with fewer than two such draws.
    draws_used : int
        Draws with at least 20 students.
    flag : Flag | None
        Raised where they differ beyond chance.
    """

    n: int
    p: float | None
    chi2: float | None
    df: int
    p_value: float | None
    draws_used: int
    flag: Flag | None


def template_statistics(draws: Mapping[str, tuple[int, int]]) -> TemplateStatistics:
    """Whether draws of a template are equally hard.

    Parameters
    ----------
    draws : Mapping[str, tuple[int, int]]
        By draw, how many got it right and how many were presented it.

    Returns
    -------
    TemplateStatistics
    """
    n, right = sum(m for _, m in draws.values()), sum(r for r, _ in draws.values())
    p = right / n if n else None
    used = [(r, m) for r, m in draws.values() if m >= LEAST]
    total, hits = sum(m for _, m in used), sum(r for r, _ in used)
    if len(used) < 2 or hits in (0, total):
        return TemplateStatistics(n=n, p=p, chi2=None, df=0, p_value=None, draws_used=len(used), flag=None)
    share = hits / total
    counts = np.array(used, dtype=np.float64)
    chi2 = float((((counts[:, 0] - counts[:, 1] * share) ** 2) / (counts[:, 1] * share * (1 - share))).sum())
    p_value = float(chdtrc(len(used) - 1, chi2))
    flag = None
    if p_value < CALLED:
        low, high = min(r / m for r, m in used), max(r / m for r, m in used)
        why = (
            f"Its draws run from {percent(low)} to {percent(high)}, more than chance. Narrow the ranges of its values."
        )
        flag = Flag("draws_differ", "look", why)
    return TemplateStatistics(n=n, p=p, chi2=chi2, df=len(used) - 1, p_value=p_value, draws_used=len(used), flag=flag)
