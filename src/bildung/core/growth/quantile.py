"""Quantile regression by the interior-point method of Portnoy & Koenker (1997), weights allowed.

Many quantiles of one cohort are a path: the fit of one says of most points on which side of the next they lie, so that only
those near it need solving; whether the others lie where they were taken to lie is checked, and the fit is exact.
"""

from __future__ import annotations

import numpy as np
from scipy.linalg import cho_factor, cho_solve

from bildung.core.data.arrays import FloatArray

STEP = 0.99995
ENOUGH = 1e-9
MOST = 80
WORTH = 1500  # points from which a path pays
MOST_LOOKS, MOST_INSIDE = 8, 0.6


def quantile_regression(x: FloatArray, y: FloatArray, weights: FloatArray, tau: float) -> FloatArray:
    """Coefficients (p,) that minimize Σ w·ρ_τ(y - xβ).

    The dual is solved by a primal-dual path with Mehrotra's corrector; the solution is then moved to the vertex of the p
    nearest points where that vertex is no worse, as the exact solution is one.

    Parameters
    ----------
    x : FloatArray
        (n, p) of full rank.
    y : FloatArray
        (n,), weights > 0.
    weights : FloatArray
        (n,), weights > 0.
    tau : float
        The quantile, above 0 and below 1.

    Returns
    -------
    FloatArray
    """
    return _at_vertex(x, y, weights, tau, _weighted(x * weights[:, None], y * weights, tau))


def _weighted(rows: FloatArray, outcomes: FloatArray, tau: float) -> FloatArray:
    """Coefficients for rows and outcomes that carry their weights."""
    scale = float(np.abs(outcomes).max()) or 1.0
    dual = _solve(rows.T, -outcomes / scale, (1 - tau) * rows.sum(axis=0), np.full(outcomes.size, 1 - tau))
    beta: FloatArray = np.multiply(dual, -scale)
    return beta


def quantile_path(x: FloatArray, y: FloatArray, weights: FloatArray, taus: FloatArray) -> FloatArray:
    """Coefficients (taus, p) for rising `taus`, each as `quantile_regression` gives them."""
    found = np.empty((taus.size, x.shape[1]))
    beta = None
    for at, tau in enumerate(taus):
        if y.size < WORTH:
            beta = quantile_regression(x, y, weights, float(tau))
        else:
            beta = _near(x, y, weights, float(tau), _rough(x, y, weights, float(tau)) if beta is None else beta)
        found[at] = beta
    return found


def _rough(x: FloatArray, y: FloatArray, weights: FloatArray, tau: float) -> FloatArray:
    """From every so many-th point, in order of the outcome so that all of its range is met."""
    some = np.argsort(y, kind="stable")[:: max(1, y.size // (WORTH // 2))]
    return quantile_regression(x[some], y[some], weights[some], tau)


def _near(x: FloatArray, y: FloatArray, weights: FloatArray, tau: float, before: FloatArray) -> FloatArray:
    """Solve with the points near a fit of a neighboring quantile.

    Those above and below it stand together as one point each, whose residual has the sign of all of theirs.
    """
    n, p = x.shape
    residual = y - x @ before
    order = np.argsort(residual, kind="stable")
    share = np.cumsum(weights[order]) / weights.sum()
    reach = 0.012 + 3 * np.sqrt(p * max(tau * (1 - tau), 0.01) / n)
    low, high = np.searchsorted(share, (tau - reach, tau + reach))
    inside = np.zeros(n, dtype=np.bool_)
    inside[order[max(0, low - p) : high + p + 1]] = True
    side = np.where(residual > 0, 1, -1)
    for _ in range(MOST_LOOKS):
        if inside.sum() > MOST_INSIDE * n:
            break
        above, below = ~inside & (side > 0), ~inside & (side < 0)
        rows = [x[inside] * weights[inside, None]]
        outcomes = [y[inside] * weights[inside]]
        for group in (above, below):
            if group.any():
                rows.append((weights[group] @ x[group])[None, :])
                outcomes.append(np.array([float(weights[group] @ y[group])]))
        beta = _weighted(np.vstack(rows), np.concatenate(outcomes), tau)
        beta = _at_vertex(x, y, weights, tau, beta)
        now = y - x @ beta
        wrong = (above & (now < -ENOUGH)) | (below & (now > ENOUGH))
        if not wrong.any():
            return beta
        inside |= wrong
    return quantile_regression(x, y, weights, tau)


def check_loss(x: FloatArray, y: FloatArray, weights: FloatArray, tau: float, beta: FloatArray) -> float:
    """Σ w·ρ_τ(y - xβ), the function that is minimized."""
    r = y - x @ beta
    return float((weights * np.where(r >= 0, tau * r, (tau - 1) * r)).sum())


def _at_vertex(x: FloatArray, y: FloatArray, weights: FloatArray, tau: float, beta: FloatArray) -> FloatArray:
    p = x.shape[1]
    away = np.abs(y - x @ beta)
    near = np.argpartition(away, 4 * p)[: 4 * p] if away.size > 4 * p else np.arange(away.size)
    near = near[np.argsort(away[near], kind="stable")]
    chosen: list[int] = []
    basis: FloatArray = np.empty((0, p), dtype=np.float64)
    for at in near:
        trial: FloatArray = np.vstack([basis, x[at]])
        if np.linalg.matrix_rank(trial, tol=1e-9) > len(chosen):
            basis, chosen = trial, [*chosen, int(at)]
            if len(chosen) == p:
                break
    if len(chosen) < p:
        return beta
    exact: FloatArray = np.linalg.solve(basis, y[chosen]).astype(np.float64)
    mine = check_loss(x, y, weights, tau, beta)
    return exact if check_loss(x, y, weights, tau, exact) <= mine * (1 + 1e-12) + 1e-12 else beta


def _bound(x: FloatArray, dx: FloatArray) -> float:
    """How far x can move along dx before an entry reaches 0."""
    falling = dx < 0
    return float((-x[falling] / dx[falling]).min()) if falling.any() else 1e20


def _solve(a: FloatArray, c: FloatArray, b: FloatArray, x: FloatArray) -> FloatArray:
    """Minimize c·x with Ax = b, 0 <= x <= 1, from a feasible x strictly inside; returns the multipliers of Ax = b."""
    n = c.size
    s = 1.0 - x
    gram = cho_factor(a @ a.T)
    y: FloatArray = cho_solve(gram, a @ c)
    r = c - y @ a
    r[r == 0] = 1e-3
    z = np.maximum(r, 0.0)
    w = z - r
    # both multipliers strictly inside
    z += 1e-3 * (z == 0)
    w += 1e-3 * (w == 0)
    for _ in range(MOST):
        gap = float(c @ x - y @ b + w.sum())
        if gap < ENOUGH * (1 + abs(float(c @ x))):
            break
        q = 1 / (z / x + w / s)
        r = z - w
        factor = cho_factor((a * q) @ a.T)
        # the dual residual is kept in, so that multipliers moved above find their way back
        lack = c - y @ a - z + w
        rhs = a @ (q * (r + lack))
        dy: FloatArray = cho_solve(factor, rhs)
        dx = q * (dy @ a - r - lack)
        dz, dw = -z * (1 + dx / x), -w * (1 - dx / s)
        fp = min(STEP * min(_bound(x, dx), _bound(s, -dx)), 1.0)
        fd = min(STEP * min(_bound(z, dz), _bound(w, dw)), 1.0)
        if min(fp, fd) < 1:
            mu = float(z @ x + w @ s)
            ahead = float((z + fd * dz) @ (x + fp * dx) + (w + fd * dw) @ (s - fp * dx))
            mu = mu * (ahead / mu) ** 3 / (2 * n)
            cross_z, cross_w = dx * dz / x, -dx * dw / s
            shift = mu * (1 / x - 1 / s) - cross_z + cross_w
            dy = cho_solve(factor, rhs - a @ (q * shift))
            dx = q * (dy @ a + shift - r - lack)
            dz = mu / x - z - z * dx / x - cross_z
            dw = mu / s - w + w * dx / s - cross_w
            fp = min(STEP * min(_bound(x, dx), _bound(s, -dx)), 1.0)
            fd = min(STEP * min(_bound(z, dz), _bound(w, dw)), 1.0)
        x, s = x + fp * dx, s - fp * dx
        y, z, w = y + fd * dy, z + fd * dz, w + fd * dw
    return y
