"""One common factor by maximum likelihood."""

from __future__ import annotations

import numpy as np

from bildung.core.data.arrays import FloatArray

LEAST_UNIQUENESS = 0.005


def one_factor(correlations: FloatArray) -> tuple[FloatArray, FloatArray] | None:
    """Loadings and uniquenesses (items,) of the one-factor solution of a correlation matrix.

    Minimizes log|Σ| + tr(SΣ⁻¹) over the uniquenesses with the loadings concentrated out (Jöreskog 1967; Newton steps with
    the expected second derivatives of Lawley & Maxwell 1971). Uniquenesses are held at 0.005 or more. None for fewer than
    three items or a singular matrix.

    Parameters
    ----------
    correlations : FloatArray
        (items, items).

    Returns
    -------
    tuple[FloatArray, FloatArray] | None
    """
    k = correlations.shape[0]
    if k < 3 or float(np.linalg.eigvalsh(correlations)[0]) <= 1e-10:
        return None
    unique = np.clip(1.0 / np.diag(np.linalg.inv(correlations)), LEAST_UNIQUENESS, 1.0)
    value, loadings = _concentrated(correlations, unique)
    for _ in range(500):
        residual = np.diag(np.outer(loadings, loadings) - correlations) + unique
        slope = residual / unique**2
        held = (unique <= LEAST_UNIQUENESS * (1 + 1e-9)) & (slope > 0)
        if float(np.max(np.abs(np.where(held, 0.0, residual / unique)))) < 1e-9:
            break
        scaled = loadings / unique
        weight = np.diag(1 / unique) - np.outer(scaled, scaled) / float(loadings @ scaled)
        free = ~held
        curve = (weight**2)[np.ix_(free, free)] + 1e-12 * np.eye(int(free.sum()))
        step = np.zeros(k)
        step[free] = np.linalg.solve(curve, slope[free])
        for halving in range(40):
            trial = np.clip(unique - step / 2**halving, LEAST_UNIQUENESS, None)
            trial_value, trial_loadings = _concentrated(correlations, trial)
            if trial_value <= value + 1e-14:
                break
        else:
            break
        if trial_value >= value - 1e-15 and float(np.max(np.abs(trial - unique))) < 1e-12:
            break
        unique, value, loadings = trial, trial_value, trial_loadings
    return loadings, unique


def _concentrated(correlations: FloatArray, unique: FloatArray) -> tuple[float, FloatArray]:
    """The minimum over the loadings for given uniquenesses, and those loadings (mean sign positive)."""
    root = np.sqrt(unique)
    values, vectors = np.linalg.eigh(correlations / np.outer(root, root))
    largest = max(float(values[-1]), 1.0)
    loadings = root * vectors[:, -1] * np.sqrt(largest - 1.0)
    others = float(values.sum()) - float(values[-1])
    fit = float(np.log(unique).sum()) + np.log(largest) + others + float(values[-1]) / largest
    return float(fit), loadings if loadings.sum() >= 0 else -loadings
