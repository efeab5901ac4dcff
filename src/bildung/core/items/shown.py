"""How figures are written in sentences and workings: the same as on the pages (ui/src/lib/words/show.ts).

Ties go away from zero, as they do there; the language's own formatting sends them to the even digit,
and one figure would then read 13% in one place and 12% in another.
"""

from __future__ import annotations

import math
import re
from decimal import ROUND_HALF_UP, Decimal

UNDEFINED = "–"


def decimal(value: float | None, places: int = 2) -> str:
    """With a real minus; "–" where undefined; never a minus before nothing but zeros."""
    if value is None:
        return UNDEFINED
    rounded = Decimal(value).quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)
    return f"{abs(rounded) if rounded == 0 else rounded:f}".replace("-", "−")


def coefficient(value: float | None, places: int = 2) -> str:
    """A correlation or reliability: no zero before the point."""
    text = decimal(value, places)
    return text.replace("0.", ".", 1) if text.startswith(("0.", "−0.")) else text


def signed(value: float) -> str:
    """A coefficient in a sentence, its sign always said; 0.00 has none."""
    text = decimal(value)
    return text if text.startswith("−") or float(text) == 0 else f"+{text}"


def percent(value: float | None) -> str:
    """A share as whole percent."""
    return UNDEFINED if value is None else f"{math.floor(value * 100 + 0.5)}%"


def points_apart(value: float | None) -> str:
    """A difference of two shares, without its sign: percentage points, never percent."""
    if value is None:
        return UNDEFINED
    whole = math.floor(abs(value) * 100 + 0.5)
    return f"{whole} percentage {'point' if whole == 1 else 'points'}"


def counted(n: int, one: str, many: str = "") -> str:
    """A number with its word: 1 item, 2 items."""
    return f"{n} {one if n == 1 else many or one + 's'}"


def dated(name: str, year: int) -> str:
    """A name with its year, which it may have already."""
    return name if re.search(r"\b(?:19|20)\d\d\b", name) else f"{name} {year}"
