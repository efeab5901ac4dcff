"""Quantile regression by the interior-point method of Portnoy & Koenker (1997), weights allowed."""

from __future__ import annotations

import numpy as np
from scipy.linalg import cho_factor, cho_solve

from bildung.core.arrays import FloatArray

STEP = 0.99995
ENOUGH = 1e-9
MOST = 80


def quantile_regression(x: FloatArray, y: FloatArray, weights: FloatArray, tau: float) -> FloatArray:
    """Coefficients (p,) that minimise Σ w·ρ_τ(y - xβ). x: (n, p) of full rank; y, weights: (n,), weights > 0.

    The dual is solved by a primal-dual path with Mehrotra's corrector; the solution is then moved to
    the vertex of the p nearest points where that vertex is no worse, as the exact solution is one.
    """
    scale = float(np.abs(y).max()) or 1.0
    rows = x * weights[:, None]
    a, b = rows.T, (1 - tau) * rows.sum(axis=0)
    dual = _solve(a, -(y / scale) * weights, b, np.full(y.size, 1 - tau))
    beta: FloatArray = np.multiply(dual, -scale)
    return _at_vertex(x, y, weights, tau, beta)


def check_loss(x: FloatArray, y: FloatArray, weights: FloatArray, tau: float, beta: FloatArray) -> float:
    """Σ w·ρ_τ(y - xβ), the function that is minimised."""
    r = y - x @ beta
    return float((weights * np.where(r >= 0, tau * r, (tau - 1) * r)).sum())


def _at_vertex(x: FloatArray, y: FloatArray, weights: FloatArray, tau: float, beta: FloatArray) -> FloatArray:
    p = x.shape[1]
    near = np.argsort(np.abs(y - x @ beta), kind="stable")[: 4 * p]
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
    """min c·x with Ax = b, 0 <= x <= 1, from a feasible x strictly inside; returns the multipliers of Ax = b."""
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
