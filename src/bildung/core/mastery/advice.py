"""What to do next with a student on a standard, in a sentence."""

from __future__ import annotations

from dataclasses import dataclass

from bildung.core.mastery.states import State


@dataclass(frozen=True, kw_only=True)
class Standing:
    """Where a student stands on a standard.

    Attributes
    ----------
    state : State
        After the last evidence.
    again : bool
        To be checked again now.
    check_on : str
        Day from which it is to be checked again, as it is written; empty where it is not mastered.
    missing : float
        Points that evidence lacks until it is no longer thin, 0 where it is not.
    taught : bool
        Whether teaching has reached it.
    """

    state: State
    again: bool
    check_on: str
    missing: float
    taught: bool


def advice(standing: Standing) -> str:
    """Check again, stop checking and enrich, wait, or reteach.

    Parameters
    ----------
    standing : Standing
        Of one student and standard.

    Returns
    -------
    str
    """
    s = standing
    if s.again:
        return "Check again: so much time has passed that mastery is no longer likely enough."
    if s.state == "retained":
        return f"Checking can stop until {s.check_on}; the work can be enriched."
    if s.state == "mastered":
        return f"Enrich the work. A few points two weeks later show whether it holds; check again by {s.check_on}."
    if not s.taught:
        return "Teaching has not reached this standard by the pacing guide."
    if s.state == "not assessed":
        return "No evidence yet: assess it before anything is decided."
    if s.state == "insufficient evidence":
        points = "1 more point is" if s.missing == 1 else f"{s.missing:g} more points are"
        return f"{points} needed before anything can be said."
    return "Reteach, in another way than before, then test with other items."
