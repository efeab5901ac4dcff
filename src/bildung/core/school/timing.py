"""How long a student may work: the session's length by their factor, and a test's own time limit within it."""

from __future__ import annotations

from datetime import datetime, timedelta
from math import inf

from bildung.core.errors import Refused

MOST = 4.0
SCHOOL_DAY = timedelta(hours=8)
PLANNED_UNLIMITED = 2.0
"""By how much a plan stretches a test without a time limit: what is set aside for it, not what ends it."""


def extra_time(factor: float) -> float:
    """A factor as it is kept: 1 is none, 1.25 a quarter more, at most 4."""
    if not 1 <= factor <= MOST:
        raise Refused(f"{factor:g} is no factor of extra time; 1 is none, 1.25 a quarter more, at most {MOST:g}")
    return round(factor, 3)


def planned_minutes(minutes: float, factor: float) -> int:
    """The minutes that a plan sets aside for a student with this factor on the time."""
    return round(minutes * (PLANNED_UNLIMITED if factor == inf else factor))


def time_added(seconds: int, paused: datetime | None, now: datetime) -> timedelta:
    """By how much a student's end has moved.

    Parameters
    ----------
    seconds : int
        Minutes that were given and pauses that are over.
    paused : datetime | None
        Since when the clock stands still, which lasts until now.
    now : datetime
        The server's time.

    Returns
    -------
    timedelta
    """
    still = max(timedelta(0), now - paused) if paused is not None else timedelta(0)
    return timedelta(seconds=seconds) + still


def personal_end(
    start: datetime,
    end: datetime,
    factor: float,
    began: datetime | None = None,
    limit: int | None = None,
    added: timedelta = timedelta(0),
) -> datetime:
    """When a student with this factor has to submit, in a session from start to end.

    Parameters
    ----------
    start : datetime
        Of the session.
    end : datetime
        Of the session.
    factor : float
        The student's, 1 without extended time; infinite without a limit, which is a school day of eight hours from the
        start of the session.
    began : datetime | None
        When this student started.
    limit : int | None
        The test's own minutes, which their factor stretches as well; both or none.
    added : timedelta
        Pauses and minutes that were given (see `time_added`); they move every end.

    Returns
    -------
    datetime
    """
    if factor == inf:
        return max(end, start + SCHOOL_DAY) + added
    last = start + (end - start) * factor
    if began is None or limit is None:
        return last + added
    return min(last, began + timedelta(minutes=limit) * factor) + added


def worked(began: datetime, added: timedelta, now: datetime) -> float:
    """Seconds that an attempt's own clock has run: neither pauses nor minutes that were given are among them.

    Parameters
    ----------
    began : datetime
        When its minutes began.
    added : timedelta
        See `time_added`.
    now : datetime
        The server's time.

    Returns
    -------
    float
    """
    return max(0.0, (now - began - added).total_seconds())


def section_end(began: datetime, at: int, minutes: int | None, factor: float, added: timedelta) -> datetime | None:
    """When a section ends by its own minutes.

    Parameters
    ----------
    began : datetime
        When the minutes of the attempt began.
    at : int
        Seconds of the attempt's own clock (see `worked`) at which the section began, so that pauses, other devices and
        other days change nothing.
    minutes : int | None
        Of the section, which the student's factor stretches.
    factor : float
        The student's, 1 without extended time.
    added : timedelta
        See `time_added`.

    Returns
    -------
    datetime | None
        None where it has no minutes, or the student no limit.
    """
    if minutes is None or factor == inf:
        return None
    return began + timedelta(seconds=at + 60 * minutes * factor) + added


BRIEF = 1 / 3
"""Of the usual time: whoever submits sooner is asked once whether they have finished."""


def brief_until(began: datetime, usual: float | None) -> datetime | None:
    """Until when submitting would be far quicker than is usual.

    Parameters
    ----------
    began : datetime
        When the student's minutes began.
    usual : float | None
        Median seconds of those who submitted the same test; None where too few have.

    Returns
    -------
    datetime | None
        None where nothing is known to be usual.
    """
    return None if usual is None else began + timedelta(seconds=usual * BRIEF)
