"""Rules of frameworks: what mastered asks, which kinds of test count, what a test taken again does."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.mastery.counting import KINDS, RETAKES, Counts, Retakes, checked_counts
from bildung.core.mastery.rules import USUAL, MasteryRules
from bildung.store.models import MasteryRule

NAMES = tuple(f.name for f in fields(MasteryRules))


@dataclass(frozen=True, kw_only=True)
class Ruling:
    """Everything a framework decides."""

    rules: MasteryRules = USUAL
    counts: Mapping[str, Counts] = field(default_factory=lambda: dict(KINDS))
    retakes: Retakes = "adds"

    @property
    def key(self) -> tuple[object, ...]:
        """The same for the same rules."""
        return self.rules, tuple(sorted(self.counts.items())), self.retakes


USUAL_RULING = Ruling()


def ruled(rules: Mapping[str, Any], counts: Mapping[str, str], retakes: str) -> Ruling:
    """As it was said. Refused where one of it makes no sense, with what is allowed."""
    for name, value in rules.items():
        if name not in NAMES:
            raise Refused(f"there is no rule {name!r}; there are {', '.join(NAMES)}")
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise Refused(f"{name} is a number")
    if retakes not in RETAKES:
        raise Refused(f"retakes: one of {', '.join(RETAKES)}")
    return Ruling(rules=MasteryRules(**rules), counts=checked_counts(counts), retakes=retakes)  # type: ignore[arg-type]


def rulings(db: Session) -> dict[int, Ruling]:
    """By framework, of those that have rules of their own."""
    return {row.framework_id: ruled(row.rules, row.counts, row.retakes) for row in db.scalars(select(MasteryRule))}
