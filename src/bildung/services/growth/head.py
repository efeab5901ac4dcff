"""What every page of a measure has: the measure, and the schools and grades that it can be narrowed to."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Protocol, TypeVar

from bildung.core.grades import in_grade_order
from bildung.services.shared.wire import Id
from bildung.store.models import Measure


@dataclass(frozen=True, kw_only=True)
class MeasureHead:
    """low, high: the scale. falling: less is better. own: of benchmarks that are given here."""

    id: Id
    name: str
    subject: str
    low: float
    high: float
    decimals: int
    falling: bool
    own: bool


@dataclass(frozen=True)
class LevelChoice:
    """A school, grade or attribute to look at."""

    id: str
    name: str


class Named(Protocol):
    """A line of a grade, named by it."""

    @property
    def name(self) -> str:
        """The grade."""


Line = TypeVar("Line", bound=Named)


def head_of(measure: Measure) -> MeasureHead:
    """As a page shows it."""
    return MeasureHead(
        id=measure.id,
        name=measure.name,
        subject=measure.subject,
        low=measure.low,
        high=measure.high,
        decimals=measure.decimals,
        falling=measure.falling,
        own=measure.own,
    )


def school_choices(schools: Mapping[int, str], here: Collection[int | None]) -> list[LevelChoice]:
    """Of all schools those that are here, in their order."""
    return [LevelChoice(str(id), name) for id, name in schools.items() if id in here]


def by_grade_order(lines: Iterable[Line]) -> list[Line]:
    """Lines of grades from the lowest to the highest."""
    by_name = {line.name: line for line in lines}
    return [by_name[name] for name in in_grade_order(by_name)]
