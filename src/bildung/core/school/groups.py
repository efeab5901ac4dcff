"""Rules for groups, as people say them: `grade 6 and extra time`, `grade 6-8 and not (class "Reading 7.1")`.

A rule is a sentence of conditions with and, or, not and parentheses. It is read once and tried on plain facts
about a student; it never runs anything.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from bildung.core.errors import Refused

LONGEST = 400
NEEDS = (
    "extended time",
    "breaks",
    "several days",
    "small group",
    "individual proctor",
    "text-to-speech",
    "human reader",
    "scribe",
    "sign language",
    "calculator",
    "bilingual dictionary",
    "large print",
    "shortened form",
    "adapted form",
)
EARLIER = {"extra time": "extended time", "own proctor": "individual proctor", "read aloud": "text-to-speech"}
"""Words of rules written before, which go on meaning the same."""
VALUED = ("grade", "class", "course", "school", "language", "subject")
ALLOWED = f'grade 6, grade 6-8, class "…", course "…", school "…", language "…", {", ".join(NEEDS)}, or an attribute such as home language is Other (in quotation marks where it begins like one of these: "school meals" is yes); joined by and, or, not'
_WORD = re.compile(r"\s*(?:(\()|(\))|\"([^\"]*)\"|([^\s()\"]+))")


@dataclass(frozen=True, kw_only=True)
class Facts:
    """What a rule can ask about one student. needs: out of NEEDS. attributes: values by lower-case name."""

    grade: str = ""
    school: str = ""
    classes: frozenset[str] = frozenset()
    courses: frozenset[str] = frozenset()
    subjects: frozenset[str] = frozenset()
    needs: frozenset[str] = frozenset()
    language: str = ""
    attributes: Mapping[str, str] = field(default_factory=dict)


Rule = Callable[[Facts], bool]


@dataclass(frozen=True)
class _Token:
    """kind: open, close, text (in quotation marks) or word. at: position in the rule, from 1."""

    kind: str
    text: str
    at: int


def read_rule(text: str, attributes: Mapping[str, frozenset[str]] | None = None) -> Rule:
    """A rule as a function.

    The rule as a function.

    Parameters
    ----------
    text : str
        The rule as typed.
    attributes : Mapping[str, frozenset[str]] | None
        Known names (lower case) with their values (lower case); a name or a value that is not known is refused, so
        that a slip of the pen is no empty group.

    Returns
    -------
    Rule
    """
    if len(text) > LONGEST:
        raise Refused(f"a rule has at most {LONGEST} characters")
    return _Reader(_tokens(text), attributes or {}, text).rule()


def _tokens(text: str) -> list[_Token]:
    found, at = [], 0
    end = len(text.rstrip())
    while at < end:
        match = _WORD.match(text, at)
        if match is None:
            raise Refused(f"position {at + 1}: a quotation mark is not closed")
        opened, closed, quoted, word = match.groups()
        kind = "open" if opened else "close" if closed else "text" if quoted is not None else "word"
        found.append(
            _Token(
                kind,
                (quoted if quoted is not None else word or opened or closed).strip(),
                match.start(match.lastindex or 0) + 1,
            )
        )
        at = match.end()
    return found


class _Reader:
    def __init__(self, tokens: list[_Token], attributes: Mapping[str, frozenset[str]], text: str) -> None:
        self.tokens, self.attributes, self.text, self.at = tokens, attributes, text, 0

    def rule(self) -> Rule:
        if not self.tokens:
            raise Refused(f"the rule is empty; allowed are {ALLOWED}")
        rule = self._or()
        if self.at < len(self.tokens):
            raise self._problem("does not fit here")
        return rule

    def _problem(self, what: str) -> Refused:
        if self.at < len(self.tokens):
            token = self.tokens[self.at]
            return Refused(f"position {token.at}: {token.text!r} {what}; allowed are {ALLOWED}")
        return Refused(f"the rule ends too early; allowed are {ALLOWED}")

    def _next(self, *words: str) -> bool:
        """Whether the next tokens are these words; they are taken if so."""
        got = [t.text.lower() for t in self.tokens[self.at : self.at + len(words)] if t.kind == "word"]
        if got != list(words):
            return False
        self.at += len(words)
        return True

    def _or(self) -> Rule:
        parts = [self._and()]
        while self._next("or"):
            parts.append(self._and())
        return parts[0] if len(parts) == 1 else lambda f: any(part(f) for part in parts)

    def _and(self) -> Rule:
        parts = [self._not()]
        while self._next("and"):
            parts.append(self._not())
        return parts[0] if len(parts) == 1 else lambda f: all(part(f) for part in parts)

    def _not(self) -> Rule:
        if self._next("not"):
            inner = self._not()
            return lambda f: not inner(f)
        if self.at < len(self.tokens) and self.tokens[self.at].kind == "open":
            self.at += 1
            inner = self._or()
            if self.at >= len(self.tokens) or self.tokens[self.at].kind != "close":
                raise self._problem("stands where a parenthesis should close")
            self.at += 1
            return inner
        return self._condition()

    def _condition(self) -> Rule:
        for need in (*NEEDS, *EARLIER):
            if self._next(*need.split()):
                return lambda f, need=EARLIER.get(need, need): need in f.needs  # type: ignore[misc]
        for name in sorted(self.attributes, key=len, reverse=True):  # "school meals is yes" before "school …"
            if self._next(*name.split(), "is") or self._quoted(name):
                before = self.at
                value = self._value().lower()
                if value not in self.attributes[name]:
                    self.at = before
                    raise self._problem(
                        f"is no value of {name} ({', '.join(sorted(self.attributes[name])) or 'none is entered'})"
                    )
                return lambda f, name=name, value=value: f.attributes.get(name, "").lower() == value  # type: ignore[misc]
        for name in VALUED:
            if self._next(name):
                return self._valued(name, self._value())
        raise self._problem("is not known")

    def _quoted(self, name: str) -> bool:
        """Whether the next tokens are this name in quotation marks and `is`; they are taken if so."""
        here = self.tokens[self.at : self.at + 2]
        found = len(here) == 2 and here[0].kind == "text" and here[1].kind == "word"
        if not found or here[0].text.lower() != name or here[1].text.lower() != "is":
            return False
        self.at += 2
        return True

    def _value(self) -> str:
        if self.at >= len(self.tokens) or self.tokens[self.at].kind not in ("text", "word"):
            raise self._problem("stands where a value should")
        self.at += 1
        return self.tokens[self.at - 1].text

    def _valued(self, name: str, value: str) -> Rule:
        wanted = value.lower()
        if name == "grade":
            grades = _grades(value)
            return lambda f: f.grade in grades
        if name == "school":
            return lambda f: f.school.lower() == wanted
        if name == "language":
            return lambda f: f.language.lower() == wanted
        if name == "subject":
            return lambda f: wanted in {s.lower() for s in f.subjects}
        if name == "course":
            return lambda f: wanted in {c.lower() for c in f.courses}
        return lambda f: wanted in {c.lower() for c in f.classes}


def _grades(value: str) -> frozenset[str]:
    """One grade, or a range such as 6-8 or K-2."""
    first, dash, last = value.upper().partition("-")
    if not dash:
        return frozenset({first})
    numbers = [0 if part == "K" else int(part) if part.isdecimal() else -1 for part in (first, last)]
    if min(numbers) < 0 or numbers[0] > numbers[1] or numbers[1] > 20:
        raise Refused(f"{value!r} is no range of grades; 6-8 and K-2 are")
    return frozenset("K" if n == 0 else str(n) for n in range(numbers[0], numbers[1] + 1))
