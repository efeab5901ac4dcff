"""How long a student may work: the session's length by their factor, and a test's own time limit within it."""

from __future__ import annotations

from datetime import datetime, timedelta

from bildung.core.errors import Refused

MOST = 4.0


def extra_time(factor: float) -> float:
    """A factor as it is kept: 1 is none, 1.25 a quarter more, at most 4."""
    if not 1 <= factor <= MOST:
        raise Refused(f"{factor:g} is no factor of extra time; 1 is none, 1.25 a quarter more, at most {MOST:g}")
    return round(factor, 3)


def personal_end(
    start: datetime, end: datetime, factor: float, began: datetime | None = None, limit: int | None = None
) -> datetime:
    """When a student has to submit, in a session from start to end.

    When a student with this factor has to hand in, in a session from start to end.

    Parameters
    ----------
    start : datetime
        Of the session.
    end : datetime
        Of the session.
    factor : float
        The student's, 1 without extra time.
    began : datetime | None
        When this student began.
    limit : int | None
        The test's own minutes, which their factor stretches as well; both or none.

    Returns
    -------
    datetime
    """
    last = start + (end - start) * factor
    if began is None or limit is None:
        return last
    return min(last, began + timedelta(minutes=limit) * factor)
