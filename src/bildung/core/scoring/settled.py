"""From what scorers gave one response to what it earns: one rule for every total."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from bildung.core.scoring.conditions import Condition, Worth

Waits = Literal["", "score", "second", "adjudication"]


@dataclass(frozen=True)
class GivenScore:
    """What one scorer gave.

    Attributes
    ----------
    points : float
        By the rubric; 0 with a condition code.
    code : Condition | None
        Why it cannot be scored by the rubric.
    final : bool
        Whether it settles what others gave (adjudication).
    """

    points: float
    code: Condition | None = None
    final: bool = False


@dataclass(frozen=True)
class SettledScore:
    """What a response earns.

    Attributes
    ----------
    points : float | None
        None while it waits, or where it is missing.
    waits : Waits
        For what: a first score, a second scorer, or adjudication; empty where it does not.
    missing : bool
        It counts as if it had not been asked: neither points nor maximum.
    """

    points: float | None
    waits: Waits = ""
    missing: bool = False


def settled(
    given: Sequence[GivenScore], rules: Mapping[Condition, Worth], double: bool = False, apart: float | None = None
) -> SettledScore:
    """What a response earns by the scores it has.

    A score that settles stands. Otherwise the mean of those given; where two are further apart than the limit, or one has a
    condition code and another points, it waits for adjudication. A code that goes to a second scorer waits for one; where
    the second gives the same code, that is agreed, and it scores 0.

    Parameters
    ----------
    given : Sequence[GivenScore]
        In the order in which they were given.
    rules : Mapping[Condition, Worth]
        What each condition code is worth.
    double : bool
        Whether a second score is wanted of this response.
    apart : float | None
        Points that two scores may be apart; None without a limit.

    Returns
    -------
    SettledScore
    """
    if not given:
        return SettledScore(None, "score")
    finals = [one for one in given if one.final]
    if finals:
        last = finals[-1]
        return _coded(last.code, rules, agreed=True) if last.code else SettledScore(last.points)
    codes = {one.code for one in given}
    if codes == {None}:
        points = [one.points for one in given]
        if len(points) > 1 and apart is not None and max(points) - min(points) > apart + 1e-9:
            return SettledScore(None, "adjudication")
        if double and len(points) < 2:
            return SettledScore(None, "second")
        return SettledScore(round(sum(points) / len(points), 6))
    if len(given) > 1:
        if len(codes) > 1:
            return SettledScore(None, "adjudication")
        return _coded(given[0].code, rules, agreed=True)
    if double:
        return SettledScore(None, "second")
    return _coded(given[0].code, rules, agreed=False)


def _coded(code: Condition | None, rules: Mapping[Condition, Worth], agreed: bool) -> SettledScore:
    assert code is not None
    worth = rules[code]
    if worth == "missing":
        return SettledScore(None, missing=True)
    if worth == "second" and not agreed:
        return SettledScore(None, "second")
    return SettledScore(0.0)


def whole_response(by_rule: float, by_person: bool, given: SettledScore | None) -> SettledScore:
    """What a response earns of whose item rules score a part and a person the rest.

    Parameters
    ----------
    by_rule : float
        Points that rules give.
    by_person : bool
        Whether it holds anything that a person scores.
    given : SettledScore | None
        What people's scores are worth; None where nobody gave one.

    Returns
    -------
    SettledScore
    """
    if not by_person:
        return SettledScore(by_rule)
    if given is None:
        return SettledScore(None, "score")
    if given.points is None:
        return given
    return SettledScore(round(by_rule + given.points, 6))
