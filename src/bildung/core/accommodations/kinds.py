"""The kinds of accommodation, and what each takes beside its name."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from bildung.core.errors import Refused
from bildung.core.school.timing import extra_time

UNLIMITED = "unlimited"
FORMS = ("shortened", "adapted")
LONGEST_VALUE = 40
Takes = Literal["", "time", "language", "form", "text"]


@dataclass(frozen=True, kw_only=True)
class Kind:
    """One kind.

    Attributes
    ----------
    name : str
        As stored and in files.
    says : str
        As lists, rules for groups and prints say it, in lower case.
    takes : Takes
        What belongs to it: a factor of the time, a language, the kind of a form, a text; or nothing.
    person : bool
        Whether somebody has to be with the student for it: they are found and scheduled like a room.
    teaching : bool
        Whether it is of what the student is taught, and of no single attempt at a test.
    """

    name: str
    says: str
    takes: Takes = ""
    person: bool = False
    teaching: bool = False


KINDS = {
    kind.name: kind
    for kind in (
        Kind(name="extra_time", says="extended time", takes="time"),
        Kind(name="breaks", says="breaks"),
        Kind(name="multi_day", says="several days"),
        Kind(name="small_group", says="small group"),
        Kind(name="own_proctor", says="individual proctor"),
        Kind(name="read_aloud", says="text-to-speech"),
        Kind(name="human_reader", says="human reader", person=True),
        Kind(name="scribe", says="scribe", person=True),
        Kind(name="sign_language", says="sign language interpreter", person=True),
        Kind(name="calculator", says="calculator"),
        Kind(name="dictionary", says="bilingual dictionary"),
        Kind(name="directions", says="directions in another language", takes="language"),
        Kind(name="large_print", says="large print"),
        Kind(name="form", says="shortened or adapted form", takes="form"),
        Kind(name="alternate_standards", says="alternate standards", teaching=True),
        Kind(name="other", says="other", takes="text"),
    )
}
TESTS = {
    "starting": "pretests",
    "benchmark": "benchmarks",
    "unit": "unit tests",
    "closing": "posttests",
    "task": "performance tasks",
    "spot": "quick checks",
    "mirror": "practice tests",
}
"""Kinds of test, as an accommodation for one of them says it."""
RULE_WORDS = {
    "extra_time": "extended time",
    "own_proctor": "individual proctor",
    "read_aloud": "text-to-speech",
    "multi_day": "several days",
    "sign_language": "sign language",
    "dictionary": "bilingual dictionary",
}
"""How rules for groups call a kind, where not by its name with blanks."""
SOURCES = {"iep": "IEP", "504": "504 plan", "el": "EL plan", "school": "school decision"}


def value_of(kind: str, value: str) -> str:
    """What a kind takes, as it is stored.

    Parameters
    ----------
    kind : str
        One of `KINDS`.
    value : str
        As typed: a factor such as 1.5 or "unlimited", a language, "shortened" or "adapted", a text.

    Returns
    -------
    str
        Empty for kinds that take nothing.

    Raises
    ------
    Refused
        If the kind is unknown, or the value is none that it takes.
    """
    if kind not in KINDS:
        raise Refused(f"“{kind}” is no kind of accommodation; choose {', '.join(KINDS)}")
    takes, value = KINDS[kind].takes, value.strip()
    if takes == "":
        return ""
    if len(value) > LONGEST_VALUE and takes != "text":
        raise Refused(f"this has at most {LONGEST_VALUE} characters")
    if takes == "time":
        return _time(value)
    if takes == "form" and value not in FORMS:
        raise Refused("choose a shortened or an adapted form")
    if not value:
        raise Refused("name the language" if takes == "language" else "describe the accommodation")
    return value


def _time(value: str) -> str:
    if value == UNLIMITED:
        return value
    try:
        factor = extra_time(float(value))
    except ValueError:
        raise Refused(f"“{value}” is no extended time; enter a factor such as 1.5, or “{UNLIMITED}”") from None
    if factor == 1:
        raise Refused("a factor of 1 is no extended time; 1.5 is half as much again")
    return f"{factor:g}"


def said(kind: str, value: str) -> str:
    """An accommodation in words: "extended time × 1.5", "directions in Spanish"."""
    says = KINDS[kind].says
    if kind == "extra_time":
        return f"{says}, no limit" if value == UNLIMITED else f"{says} × {value}"
    if kind == "directions":
        return f"directions in {value}"
    if kind == "form":
        return f"{value} form"
    return value if kind == "other" else says


def rule_words(kinds: tuple[str, ...], form: str) -> frozenset[str]:
    """What a student has in the words of rules for groups (`core/school/groups.py`)."""
    words = {
        RULE_WORDS.get(kind, kind.replace("_", " ")) for kind in kinds if kind not in ("form", "directions", "other")
    }
    return frozenset(words | ({f"{form} form"} if form else set()))
