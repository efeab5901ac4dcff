"""A blueprint: what a test is to hold, and what a form really holds of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

from bildung.core.errors import Refused

Unit = Literal["items", "points"]
MOST_ROWS, MOST_PARTS, MOST_ITEMS = 120, 12, 200


@dataclass(frozen=True, kw_only=True)
class Candidate:
    """An item as assembly sees it.

    Attributes
    ----------
    id : int
        Of its version.
    code : str
        Its code.
    standards : tuple[str, ...]
        Codes, the main one first.
    points : float
        Most that can be earned.
    kind : str
        Its kind.
    depth : int | None
        Of knowledge, 1 to 4.
    topic : str
        Its topic.
    unit : str
        The unit of a course that it belongs to.
    seconds : int | None
        Time that it is thought to take.
    stimulus : str
        Code of its stimulus, empty without one.
    p : float | None
        Share of its points got the last time, 0..1; sd and loading in points; all three None where it has no
        history.
    p_error : float | None
        Standard error of p.
    sd : float | None
        Standard deviation.
    loading : float | None
        Covariance with the true score per its standard deviation.
    r_rest : float | None
        Discrimination the last time.
    n : int
        Behind them.
    used : int
        Administrations since the year began.
    window : bool
        It stands on a form of the window that is scheduled for.
    problem : bool
        It was flagged as one the last time.
    enemies : frozenset[int]
        Codes that must not stand on the same form.
    """

    id: int
    code: str
    standards: tuple[str, ...]
    points: float
    kind: str
    depth: int | None = None
    topic: str = ""
    unit: str = ""
    seconds: int | None = None
    stimulus: str = ""
    p: float | None = None
    p_error: float | None = None
    sd: float | None = None
    loading: float | None = None
    r_rest: float | None = None
    n: int = 0
    used: int = 0
    window: bool = False
    problem: bool = False
    enemies: frozenset[int] = frozenset()

    @property
    def standard(self) -> str:
        """Its main standard; empty without one."""
        return self.standards[0] if self.standards else ""


@dataclass(frozen=True, kw_only=True)
class Row:
    """So many items or points of what fits all of these; an empty field fits everything.

    Attributes
    ----------
    low : float
        Both included.
    high : float
        Both included.
    count : Unit
        What is counted: items or points.
    standard : str
        a code or its beginning, of the main standard.
    topic : str
        A topic.
    unit : str
        A unit of a course.
    depth : int | None
        Of knowledge.
    kind : str
        A kind of item.
    part : int
        Place of the part that it is for.
    """

    low: float
    high: float
    count: Unit = "items"
    standard: str = ""
    topic: str = ""
    unit: str = ""
    depth: int | None = None
    kind: str = ""
    part: int = 0

    @property
    def says(self) -> str:
        """The row in words."""
        what = [
            self.standard,
            self.topic,
            self.unit,
            f"depth {self.depth}" if self.depth else "",
            self.kind.replace("_", " ") if self.kind else "",
        ]
        return ", ".join(word for word in what if word) or "anything"

    def fits(self, item: Candidate) -> bool:
        """Whether an item is of this row.

        Parameters
        ----------
        item : Candidate
            The item.

        Returns
        -------
        bool
        """
        return (
            item.standard.startswith(self.standard)
            and (not self.topic or item.topic == self.topic)
            and (not self.unit or item.unit == self.unit)
            and (self.depth is None or item.depth == self.depth)
            and (not self.kind or item.kind == self.kind)
        )

    def emptied(self, pool: Sequence[Candidate]) -> str:
        """Which of its fields leaves nothing of `pool`, in words; empty where something is left."""
        tests: list[tuple[str, Callable[[Candidate], bool]]] = [
            (f"standard {self.standard}", lambda c: c.standard.startswith(self.standard)),
            (f"topic {self.topic}", lambda c: c.topic == self.topic),
            (f"unit {self.unit}", lambda c: c.unit == self.unit),
            (f"depth {self.depth}", lambda c: c.depth == self.depth),
            (f"type {self.kind.replace('_', ' ')}", lambda c: c.kind == self.kind),
        ]
        asked = (self.standard, self.topic, self.unit, self.depth is not None, self.kind)
        left, so_far = list(pool), list[str]()
        for wanted, (name, fits) in zip(asked, tests, strict=True):
            if not wanted:
                continue
            kept = [item for item in left if fits(item)]
            if not kept:
                of = f"of {len(left)} with {', '.join(so_far)}" if so_far else f"of all {len(left)}"
                return f"none {of} has {name}" if left else ""
            left, so_far = kept, [*so_far, name]
        return ""

    def weight(self, item: Candidate) -> float:
        """What an item counts toward the row: 1, or its points.

        Parameters
        ----------
        item : Candidate
            The item.

        Returns
        -------
        float
        """
        return item.points if self.count == "points" else 1.0


@dataclass(frozen=True)
class TestPart:
    """A part of a test.

    Attributes
    ----------
    name : str
        Its name.
    instructions : str
        What students read first.
    minutes : int | None
        None where the part has no time of its own.
    """

    name: str
    instructions: str = ""
    minutes: int | None = None


@dataclass(frozen=True, kw_only=True)
class TestBlueprint:
    """What a form is to hold.

    Attributes
    ----------
    rows : tuple[Row, ...]
        What it holds of what.
    parts : tuple[TestPart, ...]
        Its parts, in order.
    items : tuple[int, int] | None
        Lowest and highest of a whole form, None where it does not matter.
    points : tuple[float, float] | None
        Lowest and highest of a whole form, None where it does not matter.
    minutes : tuple[float, float] | None
        Lowest and highest of a whole form, None where it does not matter.
    target : float | None
        Predicted mean share of the points, 0..1.
    sets : tuple[int, int] | None
        How many stimuli.
    set_low : int
        Items of one stimulus, where one is used at all; set_low 0 means the whole set.
    set_high : int
        Items of one stimulus, where one is used at all; set_low 0 means the whole set.
    """

    rows: tuple[Row, ...]
    parts: tuple[TestPart, ...] = (TestPart(""),)
    items: tuple[int, int] | None = None
    points: tuple[float, float] | None = None
    minutes: tuple[float, float] | None = None
    target: float | None = None
    sets: tuple[int, int] | None = None
    set_low: int = 1
    set_high: int = 12


@dataclass(frozen=True, kw_only=True)
class Held:
    """One demand of a blueprint and what a form has of it.

    Attributes
    ----------
    name : str
        The demand.
    count : str
        What is counted.
    have : float
        What the form has.
    low : float
        The least that is wanted.
    high : float
        The most.
    missing : float
        Above 0 where there is too little, below 0 where there is too much, 0 where it fits.
    says : str
        In a few words what is missing.
    row : int | None
        Place of the row, None where it is of the whole form.
    """

    name: str
    count: str
    have: float
    low: float
    high: float
    missing: float
    says: str
    row: int | None = field(default=None)


def check(blueprint: TestBlueprint) -> None:
    """Refused with the first demand that no form could meet, whatever the bank holds."""
    if not blueprint.rows and blueprint.items is None and blueprint.points is None:
        raise Refused("a blueprint wants at least one row, or a number of items or points")
    if len(blueprint.rows) > MOST_ROWS or not 1 <= len(blueprint.parts) <= MOST_PARTS:
        raise Refused(f"a blueprint has at most {MOST_ROWS} rows and 1 to {MOST_PARTS} parts")
    for at, row in enumerate(blueprint.rows, 1):
        if not 0 <= row.low <= row.high:
            raise Refused(
                f"row {at}, {row.says}: from {row.low:g} to {row.high:g} is no range; the first is at most the second"
            )
        if not 0 <= row.part < len(blueprint.parts):
            raise Refused(f"row {at}, {row.says}: there is no part {row.part + 1}")
    for name, bounds in (
        ("items", blueprint.items),
        ("points", blueprint.points),
        ("minutes", blueprint.minutes),
        ("stimuli", blueprint.sets),
    ):
        if bounds is not None and not 0 <= bounds[0] <= bounds[1]:
            raise Refused(f"{name}: from {bounds[0]:g} to {bounds[1]:g} is no range; the first is at most the second")
    if blueprint.items is not None and blueprint.items[0] > MOST_ITEMS:
        raise Refused(f"items: a form has at most {MOST_ITEMS}")
    if blueprint.target is not None and not 0 < blueprint.target < 1:
        raise Refused("target: a share of the points between 0 and 100%")
    if not 0 <= blueprint.set_low <= blueprint.set_high:
        raise Refused("items of a stimulus: the first number is at most the second")
    for unit, total in (("items", blueprint.items), ("points", blueprint.points)):
        apart = _apart([row for row in blueprint.rows if row.count == unit])
        least = sum(row.low for row in apart)
        if total is not None and least > total[1]:
            rows = "; ".join(f"{row.says} {row.low:g}" for row in apart[:6] if row.low)
            raise Refused(f"the rows ask for at least {least:g} {unit} ({rows}), the whole form may have {total[1]:g}")


def _apart(rows: Sequence[Row]) -> list[Row]:
    """Rows of which no item can fit two: only their lowest numbers may be added up."""
    apart: list[Row] = []
    for row in sorted(rows, key=lambda r: -r.low):
        if all(_disjoint(row, other) for other in apart):
            apart.append(row)
    return apart


def _disjoint(a: Row, b: Row) -> bool:
    coded = bool(a.standard and b.standard) and not (
        a.standard.startswith(b.standard) or b.standard.startswith(a.standard)
    )
    return (
        coded
        or a.part != b.part
        or any(
            x and y and x != y for x, y in ((a.topic, b.topic), (a.unit, b.unit), (a.depth, b.depth), (a.kind, b.kind))
        )
    )


def held(blueprint: TestBlueprint, placed: Sequence[tuple[Candidate, int]]) -> tuple[Held, ...]:
    """What a form holds of each demand. placed: items with the part they stand in."""
    found = []
    for at, row in enumerate(blueprint.rows):
        have = sum(row.weight(item) for item, part in placed if part == row.part and row.fits(item))
        found.append(_held(row.says, row.count, have, row.low, row.high, at))
    everything = [item for item, _ in placed]
    for name, bounds, have in (
        ("all items", blueprint.items, len(everything)),
        ("all points", blueprint.points, sum(i.points for i in everything)),
        ("minutes", blueprint.minutes, sum(i.seconds or 0 for i in everything) / 60),
        ("stimuli", blueprint.sets, len({i.stimulus for i in everything if i.stimulus})),
    ):
        if bounds is not None:
            count = name.removeprefix("all ")
            found.append(_held(name, count, have, *bounds))
    if blueprint.rows:
        stray = [
            item for item, part in placed if not any(row.part == part and row.fits(item) for row in blueprint.rows)
        ]
        if stray:
            codes = ", ".join(item.code for item in stray[:3]) + (" …" if len(stray) > 3 else "")
            found.append(
                Held(
                    name="in no row",
                    count="items",
                    have=len(stray),
                    low=0,
                    high=0,
                    missing=-len(stray),
                    says=f"in no row of the blueprint: {codes}",
                )
            )
    return tuple(found)


def _held(name: str, count: str, have: float, low: float, high: float, row: int | None = None) -> Held:
    missing = low - have if have < low else high - have if have > high else 0.0
    words = count if abs(missing) != 1 else count.removesuffix("s").replace("stimuli", "stimulus")
    says = "" if not missing else f"{name}: {missing:g} {words} {'missing' if missing > 0 else ''}".strip()
    if missing < 0:
        says = f"{name}: {-missing:g} {words} too many"
    return Held(
        name=name, count=count, have=round(have, 2), low=low, high=high, missing=round(missing, 2), says=says, row=row
    )
