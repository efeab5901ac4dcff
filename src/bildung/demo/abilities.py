"""What the demo's students can do, known before anything is measured."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from sqlalchemy import select

from bildung.demo.plants import hash_of
from bildung.services.shared.context import Context
from bildung.store.models import Person

LEARNED = 0.8  # of a standard deviation, in a year of school
SLOPES = 0.25
# one rose by 1.3 between last spring and this fall, one fell by 1.4 between last fall and winter
LATE_RISER, FELL_BACK = "HM-S0301", "HM-S0275"
RELATED = 0.7


@dataclass(frozen=True, kw_only=True)
class Abilities:
    """start: in this year's first window, by subject and person, standard normal within a grade. slope: what a student's
    place among the others changes by in a year. jumps: by person, a change that came at once before the first window:
    when, in years from it, and by how much."""

    start: dict[tuple[str, int], float]
    slope: dict[int, float]
    jumps: dict[int, tuple[float, float]]

    def at(self, subject: str, years: float) -> Callable[[int], float]:
        """So many years after this year's first window, measured by items of the grade the student was in then. Who arrived since is
        average."""
        learned = LEARNED * (years % 1.0)

        def ability(person: int) -> float:
            found = self.start.get((subject, person), 0.0) + years * self.slope.get(person, 0.0) + learned
            since, by = self.jumps.get(person, (years, 0.0))
            return found - by if years < since else found

        return ability


def abilities(ctx: Context, numbers: np.random.Generator, first: str) -> Abilities:
    """Mathematics and reading are related, science with both. first: the school whose students draw from `numbers`; every
    other one has a source of its own."""
    with ctx.store.read() as db:
        rows = db.execute(
            select(Person.id, Person.source_id).where(Person.student.is_(True)).order_by(Person.source_id)
        ).all()
    start: dict[tuple[str, int], float] = {}
    schools = sorted({source.partition("-")[0] for _, source in rows}, key=lambda key: (key != first, key))
    for key in schools:
        ids = [id for id, source in rows if source.startswith(f"{key}-")]
        own = numbers if key == first else np.random.default_rng(hash_of("abilities", key))
        common = own.standard_normal(len(ids))
        for subject in ("Mathematics", "Reading"):
            _draw(start, subject, ids, common, own)
        _draw(start, "Science", ids, common, np.random.default_rng(hash_of("science", key)))
    drift = np.random.default_rng(hash_of("slopes"))
    by_source = {source: id for id, source in rows}
    jumps = {LATE_RISER: (-0.1, 1.3), FELL_BACK: (-0.5, -1.4)}
    return Abilities(
        start=start,
        slope={id: float(SLOPES * drift.standard_normal()) for id, _ in rows},
        jumps={by_source[source]: jump for source, jump in jumps.items() if source in by_source},
    )


def _draw(
    start: dict[tuple[str, int], float],
    subject: str,
    ids: list[int],
    common: np.ndarray[tuple[int, ...], np.dtype[np.float64]],
    own: np.random.Generator,
) -> None:
    apart = own.standard_normal(len(ids))
    for at, id in enumerate(ids):
        start[subject, id] = float(np.sqrt(RELATED) * common[at] + np.sqrt(1 - RELATED) * apart[at])
