"""Which accommodations hold for a test on a day, and what they come to together."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from math import inf

from bildung.core.accommodations.kinds import KINDS, UNLIMITED, said


@dataclass(frozen=True, kw_only=True)
class Line:
    """One accommodation of one student.

    Attributes
    ----------
    kind : str
        One of `KINDS`.
    value : str
        What it takes, as `value_of` gives it.
    subject : str
        Of the tests it is for; empty for all.
    test_kind : str
        Of the tests it is for, such as benchmark; empty for all.
    start : date | None
        Its first day, None if it always held.
    until : date | None
        Its last day, None if it has none.
    approved : bool
        Whether it holds yet: what a case manager enters waits for the coordinator.
    """

    kind: str
    value: str = ""
    subject: str = ""
    test_kind: str = ""
    start: date | None = None
    until: date | None = None
    approved: bool = True


@dataclass(frozen=True, kw_only=True)
class Occasion:
    """A test that is to be taken, by subject and kind; empty where that is not known."""

    subject: str = ""
    test_kind: str = ""


@dataclass(frozen=True, kw_only=True)
class Needs:
    """What lines come to together.

    Attributes
    ----------
    extra_time : float
        A factor of the session's length: 1 is none, infinite has no limit.
    small_group : bool
        In a small group.
    own_proctor : bool
        With a proctor for them alone.
    read_aloud : bool
        The device reads to them.
    large_print : bool
        In large print.
    calculator : bool
        With a calculator where the test has none.
    language : str
        Of the directions; empty is the school's.
    form_kind : str
        Empty, shortened or adapted.
    kinds : tuple[str, ...]
        All that hold, in the order of `KINDS`.
    says : tuple[str, ...]
        The same in words, one for each of `kinds`.
    """

    extra_time: float = 1.0
    small_group: bool = False
    own_proctor: bool = False
    read_aloud: bool = False
    large_print: bool = False
    calculator: bool = False
    language: str = ""
    form_kind: str = ""
    kinds: tuple[str, ...] = ()
    says: tuple[str, ...] = ()

    @property
    def apart(self) -> bool:
        """Whether they test in a setting of their own."""
        return self.small_group or self.own_proctor

    def word(self, kind: str) -> str:
        """How one of the kinds is said; empty for one that does not hold."""
        return self.says[self.kinds.index(kind)] if kind in self.kinds else ""


def holds(line: Line, day: date | None, occasion: Occasion | None = None) -> bool:
    """Whether a line holds on a day: approved, within its dates, and meant for this test if one is given.

    A test without a subject or kind is held against lines for all of them alone: what is meant for mathematics is not
    given where nobody said that it is mathematics. Without a day, what has no last day holds.
    """
    if not line.approved or (day is None and line.until is not None):
        return False
    if day is None:
        return _meant(line, occasion)
    if (line.start is not None and day < line.start) or (line.until is not None and day > line.until):
        return False
    return _meant(line, occasion)


def _meant(line: Line, occasion: Occasion | None) -> bool:
    """Whether it is for this test."""
    if occasion is None:
        return True
    subject = line.subject.casefold() in ("", occasion.subject.casefold())
    return subject and line.test_kind in ("", occasion.test_kind)


def together(lines: Iterable[Line], day: date | None, occasion: Occasion | None = None) -> Needs:
    """What a student gets.

    Parameters
    ----------
    lines : Iterable[Line]
        All of one student's.
    day : date | None
        Of the test; None where no day is known.
    occasion : Occasion | None
        The test; None counts what holds for any.

    Returns
    -------
    Needs
        Of two lines of a kind the more generous counts: the longer time, and an adapted form before a shortened one.
    """
    order = {name: at for at, name in enumerate(KINDS)}
    attempts = [one for one in lines if not KINDS[one.kind].teaching]
    held = sorted((one for one in attempts if holds(one, day, occasion)), key=lambda one: order[one.kind])
    kinds = tuple(dict.fromkeys(one.kind for one in held))
    times = [inf if one.value == UNLIMITED else float(one.value) for one in held if one.kind == "extra_time"]
    forms = [one.value for one in held if one.kind == "form"]
    best = max(times, default=1.0)
    form = min(forms, default="")
    words: dict[str, list[str]] = {kind: [] for kind in kinds}
    for one in held:
        if one.kind == "extra_time" and (inf if one.value == UNLIMITED else float(one.value)) != best:
            continue
        if (one.kind != "form" or one.value == form) and said(one.kind, one.value) not in words[one.kind]:
            words[one.kind].append(said(one.kind, one.value))
    return Needs(
        extra_time=best,
        small_group="small_group" in kinds,
        own_proctor="own_proctor" in kinds,
        read_aloud="read_aloud" in kinds,
        large_print="large_print" in kinds,
        calculator="calculator" in kinds,
        language=next((one.value for one in held if one.kind == "directions"), ""),
        form_kind=form,
        kinds=kinds,
        says=tuple(" and ".join(words[kind]) for kind in kinds),
    )


def lapsing(lines: Sequence[Line], first: date, last: date) -> list[Line]:
    """Approved lines that hold when a span of days begins and end before it does.

    Whoever tests after that day would test without them.
    """
    return [one for one in lines if one.until is not None and first <= one.until < last and holds(one, one.until)]
