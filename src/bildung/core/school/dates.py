"""How days and times are written: by one choice of the district, the same on pages (ui/src/lib/words/show.ts) and prints."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Literal

Style = Literal["en-US", "en-GB"]
USUAL: Style = "en-US"
STYLES: tuple[Style, ...] = ("en-US", "en-GB")


@dataclass(frozen=True)
class Dates:
    """The writing of days and times; moments are in the zone of the schools already.

    Attributes
    ----------
    style : Style
        "en-US": month before day, 12-hour time, weeks from Sunday. "en-GB": day before month, 24-hour time, weeks
        from Monday.
    """

    style: Style = USUAL

    @property
    def _us(self) -> bool:
        return self.style == "en-US"

    def short(self, day: date) -> str:
        """Write a day within a year that is known.

        Parameters
        ----------
        day : date
            The day.

        Returns
        -------
        str
            Nov 7 or 7 Nov.
        """
        return f"{day:%b} {day.day}" if self._us else f"{day.day} {day:%b}"

    def day(self, day: date) -> str:
        """Write a day with its year.

        Parameters
        ----------
        day : date
            The day.

        Returns
        -------
        str
            Nov 7, 2026 or 7 Nov 2026.
        """
        return f"{self.short(day)}, {day.year}" if self._us else f"{self.short(day)} {day.year}"

    def long(self, day: date) -> str:
        """Write a day with its weekday, spelled out, for the head of a sheet.

        Parameters
        ----------
        day : date
            The day.

        Returns
        -------
        str
            Saturday, November 7, 2026 or Saturday 7 November 2026.
        """
        return f"{day:%A, %B} {day.day}, {day.year}" if self._us else f"{day:%A} {day.day} {day:%B} {day.year}"

    def time(self, at: time | datetime) -> str:
        """Write hours and minutes.

        Parameters
        ----------
        at : time | datetime
            The time of day.

        Returns
        -------
        str
            2:05 PM or 14:05.
        """
        if not self._us:
            return f"{at:%H:%M}"
        return f"{at.hour % 12 or 12}:{at.minute:02} {'AM' if at.hour < 12 else 'PM'}"

    def moment(self, at: datetime) -> str:
        """Write day and time within a year that is known.

        Parameters
        ----------
        at : datetime
            The moment.

        Returns
        -------
        str
            Nov 7, 9:40 AM or 7 Nov, 09:40.
        """
        return f"{self.short(at)}, {self.time(at)}"

    def dated_moment(self, at: datetime) -> str:
        """Write a day with its year, and the time.

        Parameters
        ----------
        at : datetime
            The moment.

        Returns
        -------
        str
            Nov 7, 2026, 9:40 AM or 7 Nov 2026, 09:40.
        """
        return f"{self.day(at)}, {self.time(at)}"
