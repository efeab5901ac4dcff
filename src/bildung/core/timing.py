"""How long a student may work: the session's length by their factor."""

from __future__ import annotations

from datetime import datetime

from bildung.core.errors import Refused

MOST = 4.0


def extra_time(factor: float) -> float:
    """A factor as it is kept: 1 is none, 1.25 a quarter more, at most 4."""
    if not 1 <= factor <= MOST:
        raise Refused(f"{factor:g} is no factor of extra time; 1 is none, 1.25 a quarter more, at most {MOST:g}")
    return round(factor, 3)


def personal_end(start: datetime, end: datetime, factor: float) -> datetime:
    """When a student with this factor has to hand in, in a session from start to end."""
    return start + (end - start) * factor
