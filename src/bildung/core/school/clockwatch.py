"""Whether a clock can be believed: a reading that jumped is held against a second one before anything is done by it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

JUMP = 60.0  # seconds by which the clock of the wall may run off from the one that only goes forward


@dataclass
class ClockWatch:
    """Two clocks read together: the wall's, that somebody can set, and one that only counts on.

    Reads two clocks together: the wall's, that somebody can set, and one that only counts on (seconds). `steady` says
    whether the wall's clock can be acted on. After a jump it cannot, until a second reading agrees with the first one
    after the jump; then the new time is the time.

    Attributes
    ----------
    wall : datetime | None
        The last reading of the first.
    counted : float
        The last reading of the second, in seconds.
    waiting : bool
        Whether a jump waits to be confirmed.
    jumped : float
        By how many seconds, since the last steady reading.
    """

    wall: datetime | None = None
    counted: float = 0.0
    waiting: bool = False
    jumped: float = 0.0

    def steady(self, wall: datetime, counted: float) -> bool:
        """Whether the wall's clock can be acted on.

        Parameters
        ----------
        wall : datetime
            Its reading.
        counted : float
            Of the clock that only counts on, in seconds.

        Returns
        -------
        bool
        """
        if self.wall is None:
            self.wall, self.counted = wall, counted
            return True
        off = (wall - self.wall).total_seconds() - (counted - self.counted)
        self.wall, self.counted = wall, counted
        if abs(off) > JUMP:
            self.jumped = off if not self.waiting else self.jumped + off
            self.waiting = True
            return False
        self.waiting = False
        return True
