"""Answers that arrange things: an order, pairs, several of many with part of the points, a place on a picture."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from typing import Literal

from bildung.core.errors import Refused
from bildung.core.scoring.rules import exact_number

_SHAPE = re.compile(r"\s*(circle|rect|poly)\s+([-\d., ]+?)\s*")


@dataclass(frozen=True)
class SeveralRule:
    """Several of many, part of the points: (right ones chosen − wrong ones chosen)/keys, not below 0."""

    options: tuple[str, ...]
    keys: tuple[str, ...]
    maximum: float = 1.0

    def __post_init__(self) -> None:
        if not self.keys:
            raise Refused("at least one right option is needed")
        self.label("+".join(self.keys))

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        chosen = {part.strip() for part in answer.split("+")}
        for option in chosen:
            if option not in self.options:
                raise Refused(f"{option!r} is not one of {', '.join(self.options)}")
        return "+".join(option for option in self.options if option in chosen)

    def points(self, label: str) -> float:
        """Points that a label earns."""
        chosen, keys = set(label.split("+")), set(self.keys)
        return self.maximum * max(0.0, (len(chosen & keys) - len(chosen - keys)) / len(keys))


@dataclass(frozen=True)
class OrderRule:
    """All of some options in a row.

    All of `options` in a row: full points for the key's order; with `partial`, the share of its neighbors that stand
    next to each other in this order.

    Attributes
    ----------
    options : tuple[str, ...]
        What is ordered.
    key : tuple[str, ...]
        Their right order.
    partial : bool
        Whether neighbors that stand right earn a share.
    maximum : float
        Most points that can be earned.
    """

    options: tuple[str, ...]
    key: tuple[str, ...]
    partial: bool = False
    maximum: float = 1.0

    def __post_init__(self) -> None:
        if len(self.options) < 2:
            raise Refused("an order needs at least two things")
        self.label(">".join(self.key))

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        placed = tuple(part.strip() for part in answer.split(">"))
        if sorted(placed) != sorted(self.options):
            raise Refused(f"an order names each of {', '.join(self.options)} once, as in {'>'.join(self.options)}")
        return ">".join(placed)

    def points(self, label: str) -> float:
        """Points that a label earns."""
        placed = tuple(label.split(">"))
        if placed == self.key:
            return self.maximum
        if not self.partial:
            return 0.0
        pairs = set(pairwise(self.key))
        kept = sum(pair in pairs for pair in pairwise(placed))
        return self.maximum * kept / len(pairs)


@dataclass(frozen=True, kw_only=True)
class MatchRule:
    """Each row with one column.

    Each row with one column: full points where every row stands right and nothing else is matched; with `partial`, the
    share of the key's rows that do. Rows that the key does not name belong nowhere.

    Attributes
    ----------
    rows : tuple[str, ...]
        What is matched.
    columns : tuple[str, ...]
        To what.
    key : tuple[tuple[str, tuple[str, ...]], ...]
        (row, columns that are right). An answer is `row=column`, parted by semicolons.
    partial : bool
        Whether rows that stand right earn a share.
    maximum : float
        Most points that can be earned.
    """

    rows: tuple[str, ...]
    columns: tuple[str, ...]
    key: tuple[tuple[str, tuple[str, ...]], ...]
    partial: bool = False
    maximum: float = 1.0

    def __post_init__(self) -> None:
        if not self.key:
            raise Refused("at least one row needs its column")
        for row, columns in self.key:
            if row not in self.rows or not columns or any(column not in self.columns for column in columns):
                raise Refused(
                    f"{row}={'|'.join(columns)}: rows are {', '.join(self.rows)}, columns {', '.join(self.columns)}"
                )

    def _pairs(self, text: str) -> dict[str, str]:
        pairs: dict[str, str] = {}
        for part in text.split(";"):
            row, _, column = (piece.strip() for piece in part.partition("="))
            if row not in self.rows or column not in self.columns or row in pairs:
                raise Refused(f"{part.strip()!r}: each row once with a column, as in {self.rows[0]}={self.columns[0]}")
            pairs[row] = column
        return pairs

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        pairs = self._pairs(answer)
        return ";".join(f"{row}={pairs[row]}" for row in self.rows if row in pairs)

    def points(self, label: str) -> float:
        """Points that a label earns."""
        pairs, key = self._pairs(label), dict(self.key)
        right = sum(pairs.get(row) in columns for row, columns in key.items())
        if right == len(key) and set(pairs) == set(key):
            return self.maximum
        stray = len(set(pairs) - set(key))
        return self.maximum * max(0, right - stray) / len(key) if self.partial else 0.0


@dataclass(frozen=True)
class Area:
    """On a picture, in its own pixels. circle: x, y, radius. rect: left, top, right, bottom. poly: x, y of each corner."""

    shape: Literal["circle", "rect", "poly"]
    numbers: tuple[float, ...]

    def holds(self, x: float, y: float) -> bool:
        """Whether a point lies in it, its edge included (of a polygon: by the even-odd rule)."""
        n = self.numbers
        if self.shape == "circle":
            return (x - n[0]) ** 2 + (y - n[1]) ** 2 <= n[2] ** 2
        if self.shape == "rect":
            return n[0] <= x <= n[2] and n[1] <= y <= n[3]
        corners = list(zip(n[::2], n[1::2], strict=True))
        inside = False
        for (x1, y1), (x2, y2) in zip(corners, corners[1:] + corners[:1], strict=True):
            if (y1 > y) != (y2 > y) and x <= (x2 - x1) * (y - y1) / (y2 - y1) + x1:
                inside = not inside
        return inside

    def __str__(self) -> str:
        return f"{self.shape} {' '.join(f'{n:g}' for n in self.numbers)}"


def read_areas(text: str) -> tuple[Area, ...]:
    """Areas parted by bars: `circle 40 30 12|rect 0 0 20 10`. Refused for anything else."""
    areas = []
    for part in text.split("|"):
        found = _SHAPE.fullmatch(part)
        numbers = tuple(float(n) for n in re.split(r"[,\s]+", found[2].strip())) if found else ()
        shape = found[1] if found else ""
        wanted = {
            "circle": len(numbers) == 3,
            "rect": len(numbers) == 4,
            "poly": len(numbers) >= 6 and len(numbers) % 2 == 0,
        }
        if not wanted.get(shape):
            raise Refused(
                f"{part.strip()!r} is not an area, such as circle 40 30 12, rect 0 0 20 10 or poly 0 0 9 0 9 9"
            )
        areas.append(Area(shape, numbers))  # type: ignore[arg-type]
    return tuple(areas)


@dataclass(frozen=True)
class PointRule:
    """A point on a picture that lies in one of the areas. Labels name the area, so that near hits are one row."""

    areas: tuple[Area, ...]
    maximum: float = 1.0

    def __post_init__(self) -> None:
        if not self.areas:
            raise Refused("at least one area is needed")

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        if re.fullmatch(r"in \d+|elsewhere", answer):
            return answer
        numbers = [exact_number(part) for part in answer.split()]
        if len(numbers) != 2 or None in numbers:
            raise Refused(f"{answer!r} is not a point, such as 120 84")
        x, y = (float(n or Fraction(0)) for n in numbers)
        place = next((at for at, area in enumerate(self.areas, 1) if area.holds(x, y)), 0)
        return f"in {place}" if place else "elsewhere"

    def points(self, label: str) -> float:
        """Points that a label earns."""
        return self.maximum if label.startswith("in ") else 0.0
