"""How a student stands toward a test that is owed: one of five, from everything that has happened."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum


class Standing(StrEnum):
    """The five, in the order in which a test comes to be taken; exempt stands beside them."""

    NOT_SCHEDULED = "not_scheduled"
    SCHEDULED = "scheduled"
    IN_PROGRESS = "in_progress"
    SUBMITTED = "submitted"
    EXEMPT = "exempt"


class Reason(StrEnum):
    """Why a test is not scheduled."""

    NONE = "none"
    ABSENT = "absent"
    INVALIDATED = "invalidated"
    INTERRUPTED = "interrupted"
    CANCELED = "canceled"
    UNFINISHED = "unfinished"


_NOT_TAKEN = {
    "absent": Reason.ABSENT,
    "void": Reason.INVALIDATED,
    "interrupted": Reason.INTERRUPTED,
    "canceled": Reason.CANCELED,
    "resting": Reason.UNFINISHED,
}


@dataclass(frozen=True, kw_only=True)
class Attempt:
    """A student on the list of a session that gives the test.

    Attributes
    ----------
    state : str
        not_started, answering, resting (begun, to be gone on with on another day), on_paper (taken, and waits to be
        entered), handed_in, absent, exempt, void, interrupted or canceled.
    start : datetime
        Of the session.
    over : bool
        Whether the session is closed, so that whoever has not started cannot start any more.
    session : int
        Its id.
    """

    state: str
    start: datetime
    over: bool
    session: int


@dataclass(frozen=True, kw_only=True)
class Owed:
    """How one student stands toward one test.

    Attributes
    ----------
    standing : Standing
        One of the five.
    reason : Reason
        Why it is not scheduled; NONE otherwise, and where nothing has happened yet.
    attempt : Attempt | None
        The one that says so: the attempt submitted or in progress, the next one, or the last that came to nothing.
    """

    standing: Standing
    reason: Reason = Reason.NONE
    attempt: Attempt | None = None


def owed(attempts: Sequence[Attempt], exempt: bool) -> Owed:
    """Where a student stands, whatever happened in whatever order.

    A test submitted stays submitted, also for one who is exempt since; of several attempts the earliest submitted one
    counts. An attempt in progress goes before an exemption. A session that is still to come goes before what came to
    nothing.

    Parameters
    ----------
    attempts : Sequence[Attempt]
        At sessions that give the test in the window.
    exempt : bool
        Whether an exemption holds.

    Returns
    -------
    Owed
    """
    ordered = sorted(attempts, key=lambda a: (a.start, a.session))
    for state, standing in (
        ("handed_in", Standing.SUBMITTED),
        ("answering", Standing.IN_PROGRESS),
        ("on_paper", Standing.IN_PROGRESS),
    ):
        found = next((a for a in ordered if a.state == state), None)
        if found is not None:
            return Owed(standing=standing, attempt=found)
    if exempt or any(a.state == "exempt" for a in ordered):
        return Owed(standing=Standing.EXEMPT)
    ahead = next((a for a in ordered if a.state in ("not_started", "resting") and not a.over), None)
    if ahead is not None:
        return Owed(standing=Standing.SCHEDULED, attempt=ahead)
    last = ordered[-1] if ordered else None
    # nobody has marked those who did not come to a session that is over
    reason = Reason.NONE if last is None else _NOT_TAKEN.get(last.state, Reason.ABSENT)
    return Owed(standing=Standing.NOT_SCHEDULED, reason=reason, attempt=last)


@dataclass(kw_only=True)
class Participation:
    """Counts of tests owed; the five always add up to `owed`.

    Attributes
    ----------
    by_standing : dict[Standing, int]
        How many stand where.
    by_reason : dict[Reason, int]
        Of those not scheduled.
    """

    by_standing: dict[Standing, int] = field(default_factory=lambda: dict.fromkeys(Standing, 0))
    by_reason: dict[Reason, int] = field(default_factory=lambda: dict.fromkeys(Reason, 0))

    @property
    def owed(self) -> int:
        """All of them."""
        return sum(self.by_standing.values())

    @property
    def expected(self) -> int:
        """The denominator of a participation rate: everybody who owes the test and is not exempt."""
        return self.owed - self.by_standing[Standing.EXEMPT]

    @property
    def rate(self) -> float | None:
        """Submitted of expected; None where nobody is expected."""
        return self.by_standing[Standing.SUBMITTED] / self.expected if self.expected else None


def count(every: Iterable[Owed]) -> Participation:
    """How many stand where.

    Parameters
    ----------
    every : Iterable[Owed]
        One for each student and test.

    Returns
    -------
    Participation
    """
    found = Participation()
    for one in every:
        found.by_standing[one.standing] += 1
        if one.standing is Standing.NOT_SCHEDULED:
            found.by_reason[one.reason] += 1
    return found
