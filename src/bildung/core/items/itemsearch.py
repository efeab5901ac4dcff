"""What to find in the bank, as one line that can be read and sent: `boat grade:6 p<40% state:in_use -label:shared`.

Words are looked for in the text; `field:value` narrows, `field<value` and `field>value` compare, a minus before
either leaves out. Values with blanks stand in quotation marks; several values for one field are parted by commas.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from bildung.core.errors import Refused

LONGEST = 400
Sign = Literal[":", "<", ">", "<=", ">="]
TEXT_FIELDS = {
    "standard": "a code or its beginning",
    "touches": "a code it touches beside its main one",
    "subject": "a subject",
    "grade": "a grade",
    "type": "a kind of item",
    "state": "where it stands",
    "topic": "a topic",
    "unit": "a unit of the pacing guide",
    "language": "a language",
    "calculator": "none, basic or scientific",
    "source": "where it comes from",
    "label": "a keyword",
    "stimulus": "a stimulus, by its code",
    "owner": "mine or common",
    "flag": "a flag it had",
    "used": "never, year or ever",
    "code": "a code or its beginning",
    "is": "template, copy or draft",
}
NUMBER_FIELDS = {
    "depth": "1 to 4",
    "p": "share correct, last time",
    "r": "r (rest), last time",
    "n": "students, last time",
    "times": "how often it was used",
    "year": "how often this year",
    "points": "points",
    "seconds": "the time it should take",
    "comments": "open comments",
}
_SIGNS: dict[str, Sign] = {":": ":", "<": "<", ">": ">", "<=": "<=", ">=": ">="}
_TERM = re.compile(
    r"\s*(?P<minus>-)?(?:(?P<field>[a-z]+)(?P<sign>:|<=|>=|<|>)(?P<value>(?:\"[^\"]*\"|[^\s\",]+)(?:,(?:\"[^\"]*\"|[^\s\",]+))*)"
    r"|\"(?P<quoted>[^\"]*)\"|(?P<word>[^\s\"]+))"
)


@dataclass(frozen=True, kw_only=True)
class Term:
    """One term of a search.

    Attributes
    ----------
    field : str
        Empty for words in the text.
    sign : Sign
        How it is compared.
    values : tuple[str, ...]
        Any of them fits.
    number : float | None
        Of a comparison.
    without : bool
        Whether it must not fit.
    """

    field: str
    sign: Sign
    values: tuple[str, ...]
    number: float | None = None
    without: bool = False


def read_search(text: str) -> tuple[Term, ...]:
    """The terms of a line; all must fit. Refused with the position of what is not understood."""
    if len(text) > LONGEST:
        raise Refused(f"at most {LONGEST} characters are looked for")
    terms, at = [], 0
    end = len(text.rstrip())
    while at < end:
        found = _TERM.match(text, at)
        if found is None:
            raise Refused(f"position {at + 1}: a quotation mark is not closed")
        blanks = len(found[0]) - len(found[0].lstrip())
        terms.append(_term(found, at + blanks + 1))
        at = found.end()
    return tuple(terms)


def _term(found: re.Match[str], at: int) -> Term:
    without, field = found["minus"] is not None, found["field"]
    if field is None:
        return Term(
            field="",
            sign=":",
            values=(found["quoted"] if found["quoted"] is not None else found["word"],),
            number=None,
            without=without,
        )
    values = tuple(v.strip('"').strip() for v in re.findall(r'"[^"]*"|[^\s",]+', found["value"]))
    sign = found["sign"]
    if field in NUMBER_FIELDS:
        numbers = [_number(v, field) for v in values]
        if len(numbers) != 1 or numbers[0] is None:
            raise Refused(f"position {at}: {field} is compared with one number, such as {field}<0.4")
        return Term(field=field, sign=_SIGNS[sign], values=values, number=numbers[0], without=without)
    if field not in TEXT_FIELDS:
        raise Refused(
            f"position {at}: {field}: is not known; known are {', '.join(sorted({*TEXT_FIELDS, *NUMBER_FIELDS}))}"
        )
    if sign != ":":
        raise Refused(f"position {at}: {field} is a text; write {field}:{values[0]}")
    return Term(field=field, sign=":", values=values, number=None, without=without)


def _number(text: str, field: str) -> float | None:
    found = re.fullmatch(r"(\d+(?:\.\d+)?|\.\d+|-\d*\.?\d+)(%)?", text)
    if not found:
        return None
    return float(found[1]) / 100 if found[2] or (field == "p" and float(found[1]) > 1) else float(found[1])


def write_search(terms: tuple[Term, ...]) -> str:
    """The line for these terms; reading it again gives the same."""
    return " ".join(_written(term) for term in terms)


def _written(term: Term) -> str:
    minus = "-" if term.without else ""
    values = [f'"{v}"' if re.search(r"[\s,:<>]", v) or v.startswith("-") or not v else v for v in term.values]
    return f"{minus}{term.field}{term.sign if term.field else ''}{','.join(values)}"
