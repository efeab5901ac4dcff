"""Instants and the school's days: the one place that turns the one into the other.

An instant is an aware datetime; a school's day is the date at the school, whatever the date is at Greenwich then.
"""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from bildung.core.errors import Refused

EARLIEST, LATEST = 2000, 2099


def school_day(instant: datetime, zone: ZoneInfo) -> date:
    """The date at the school when it happens."""
    return instant.astimezone(zone).date()


def day_bounds(day: date, zone: ZoneInfo) -> tuple[datetime, datetime]:
    """A school's day as the instants from which and before which it is; 23 or 25 hours apart where clocks change."""
    start, end = (datetime.combine(d, time(), zone) for d in (day, day + timedelta(days=1)))
    return start.astimezone(UTC), end.astimezone(UTC)


def instant_at(local: datetime, zone: ZoneInfo) -> datetime:
    """The instant of a local time at the school, in UTC.

    The instant of a local time at the school, in UTC; a time with a zone of its own is that instant already. Of a time
    that there is twice, where clocks go back, the first.

    Parameters
    ----------
    local : datetime
        A time; one with a zone of its own is that instant already.
    zone : ZoneInfo
        The school's.

    Returns
    -------
    datetime

    Raises
    ------
    Refused
        For one that there is not, where they go forward, and for years that are none of a school's.
    """
    if not EARLIEST <= local.year <= LATEST:
        raise Refused(f"the year {local.year} is not between {EARLIEST} and {LATEST}")
    if local.tzinfo is not None:
        return local.astimezone(UTC)
    instant = local.replace(tzinfo=zone).astimezone(UTC)
    if instant.astimezone(zone).replace(tzinfo=None) != local:
        raise Refused(f"on {local:%Y-%m-%d} the clocks go forward, and {local:%H:%M} is left out; choose another time")
    return instant
