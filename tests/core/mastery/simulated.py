"""How often what is said of mastery is right: students of known share, judged as the pages judge them.

`python -m tests.core.mastery.simulated` writes docs/mastery-rates.md, which docs/methods.md prints.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from bildung.core.mastery.direction import directions
from bildung.core.mastery.occasions import Evidence, Items, Occasions, occasions
from bildung.core.mastery.rules import USUAL
from bildung.core.mastery.run import filtered
from bildung.core.mastery.states import INSUFFICIENT, MASTERED, RETAINED, States, states

OUT = Path(__file__).parents[3] / "docs" / "mastery-rates.md"
STUDENTS = 4000
SHARES = (0.5, 0.6, 0.7, 0.8, 0.9, 0.95)
POINTS = (6, 8, 12, 20, 40)
EACH = 4  # points of a day
APART = 12  # days of instruction between two


def judged(right: np.ndarray, spread: np.ndarray | None = None) -> tuple[Occasions, States, np.ndarray]:
    """(students, points) right or wrong, four a day; spread: usual p of each item, where they differ."""
    n, points = right.shape
    p = np.full(points, 0.65) if spread is None else spread
    items = Items(np.ones(points), np.ones(points), p, np.full(points, 0.65))
    cell = np.repeat(np.arange(n), points)
    day = np.tile(1 + np.arange(points) // EACH * APART, n)
    item = np.tile(np.arange(points), n)
    earned = right.ravel().astype(float)
    found = occasions(Evidence(cell, day, item, earned, items), n)
    gaps = np.full(found.day.shape, APART)
    ways = directions(cell, earned, np.ones(cell.size), p[item], n).way
    return found, states(found, filtered(found, gaps, USUAL), USUAL), ways


def steady(rng: np.random.Generator, share: float, points: int) -> tuple[float, float, float, float]:
    """Mastered, retained, still too thin; an arrow although nothing changed."""
    _, state, ways = judged(rng.random((STUDENTS, points)) < share)
    now = state.now
    return (
        float((now >= MASTERED).mean()),
        float((now == RETAINED).mean()),
        float((now == INSUFFICIENT).mean()),
        float((ways != 0).mean()),
    )


def turning(rng: np.random.Generator, before: float, after: float, points: int) -> list[float]:
    """Of students whose share changes once, after 12 points: how many are mastered after 4, 8, 12 … points more."""
    right = np.concatenate([rng.random((STUDENTS, 12)) < before, rng.random((STUDENTS, points)) < after], axis=1)
    _, state, _ = judged(right)
    days = range(3, 3 + points // EACH)
    return [float((state.history[:, day] >= MASTERED).mean()) for day in days]


def table() -> str:
    """As docs/methods.md prints it."""
    rng = np.random.default_rng(20260803)
    lines = [
        "Students whose true share on usual items is known, four points a day, twelve days of instruction apart, judged by the code of the "
        "pages; `python -m tests.core.mastery.simulated`. The line is 80%.",
        "",
        "| true share | " + " | ".join(f"{n} points" for n in POINTS) + " |",
        "|---|" + "---|" * len(POINTS),
    ]
    told = {(share, n): steady(rng, share, n) for share in SHARES for n in POINTS}
    for share in SHARES:
        cells = [f"{told[share, n][0]:.0%} ({told[share, n][1]:.0%})" for n in POINTS]
        lines.append(f"| {share:.0%} | {' | '.join(cells)} |")
    lines += [
        "",
        "Mastered, and in brackets retained. An arrow although nothing changed: "
        + ", ".join(f"{max(told[share, n][3] for share in SHARES):.1%} at most with {n} points" for n in (12, 20, 40))
        + ", both ways together.",
        "",
        "| the share changes once, after 12 points | "
        + " | ".join(f"{EACH * (at + 1)} points later" for at in range(4))
        + " |",
        "|---|---|---|---|---|",
    ]
    for before, after in ((0.3, 0.95), (0.5, 0.9), (0.95, 0.4), (0.9, 0.6)):
        cells = [f"{share:.0%}" for share in turning(rng, before, after, 16)]
        lines.append(f"| from {before:.0%} to {after:.0%}: mastered | {' | '.join(cells)} |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    OUT.write_text(table(), "utf-8")
