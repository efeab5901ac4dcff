"""Variant items: variables, constraints and computed values that a template's text and keys are filled from.

A value stands in text and keys as `{name}` or `{name:format}`; formats: plain (as it is), fraction (as MathML),
signed, spelled (in words up to twenty), money (two places). Expressions are read by simpleeval: arithmetic,
comparison and the functions below; nothing of Python can be reached from them.
"""

from __future__ import annotations

import ast
import random
import re
from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from functools import lru_cache
from math import gcd, lcm
from threading import Lock
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError
from simpleeval import InvalidExpression, SimpleEval

from bildung.core.errors import Refused
from bildung.core.scoring.rules import exact_number, number_label
from bildung.formats.content import AnyPart, ChoicePart, Content, ContentModel, htmls, read_content
from bildung.formats.faults import faults
from bildung.formats.markup import bare_text

NAME = r"^[a-z][a-z0-9_]{0,15}$"
TRIES = 400  # draws that may break a constraint before a template counts as impossible
Name = Annotated[str, Field(pattern=NAME)]
Expression = Annotated[str, Field(min_length=1, max_length=200)]
_PARSING = Lock()
_USE = re.compile(r"\{([a-z][a-z0-9_]{0,15})(?::([a-z]+))?\}")
_BELOW = re.compile(r"[−-]\d[\d.,]*\s?(?:mm|cm|m|km|m²|m³|cm²|cm³|kg|g|l|ml|euros?|people|boats|minutes|hours)\b")
FORMATS = ("plain", "fraction", "signed", "spelled", "money")
_SPELLED = [
    "zero",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
    "thirteen",
    "fourteen",
    "fifteen",
    "sixteen",
    "seventeen",
    "eighteen",
    "nineteen",
    "twenty",
]


class NumberVariable(ContentModel):
    """low to high in steps, both included; decimals are exact."""

    type: Literal["number"] = "number"
    name: Name
    low: str = "1"
    high: str = "10"
    step: str = "1"


class ListVariable(ContentModel):
    """One of several; numbers count as numbers."""

    type: Literal["list"] = "list"
    name: Name
    values: list[Annotated[str, Field(max_length=80)]] = Field(min_length=1, max_length=100)


class ComputedVariable(ContentModel):
    type: Literal["computed"] = "computed"
    name: Name
    value: Expression


Variable = Annotated[NumberVariable | ListVariable | ComputedVariable, Field(discriminator="type")]


class Template(ContentModel):
    """constraints: expressions that must hold of a draw."""

    variables: list[Variable] = Field(min_length=1, max_length=30)
    constraints: list[Expression] = Field(default=[], max_length=20)


@dataclass(frozen=True)
class Draw:
    """One filled copy. wrong: what is the matter with it; empty where it can be used."""

    seed: int
    values: dict[str, str]
    content: Content | None
    wrong: str


_ADAPTER = TypeAdapter(Template)


def read_template(value: Any) -> Template:
    """Refused with the first place that does not fit."""
    try:
        found = _ADAPTER.validate_python(value)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise Refused(f"template: {'.'.join(str(p) for p in first['loc'])}: {first['msg']}") from None
    names = [variable.name for variable in found.variables]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice:
        raise Refused(f"template: two variables are named {twice}")
    return found


def _checked(number: Any) -> Any:
    """Numbers stay exact and within reach."""
    if isinstance(number, float):
        number = Fraction(Decimal(repr(number)))
    if isinstance(number, Fraction | int) and not isinstance(number, bool) and abs(Fraction(number)) > 10**12:
        raise Refused("a value is beyond a million millions")
    return number


def _over(a: Any, b: Any) -> Any:
    if b == 0:
        raise Refused("a division by zero")
    return Fraction(a) / Fraction(b)


def _power(base: Any, exponent: Any) -> Any:
    a, b = Fraction(base), Fraction(exponent)
    if b.denominator != 1 or abs(b) > 12 or abs(a) > 10_000 or (a == 0 and b < 0):
        raise Refused("a power has a whole exponent from -12 to 12")
    return a ** int(b)


def _whole(number: Any) -> int:
    if Fraction(number).denominator != 1:
        raise Refused(f"{number_label(Fraction(number))} is not a whole number")
    return int(number)


FUNCTIONS: dict[str, Callable[..., Any]] = {
    "abs": abs,
    "min": min,
    "max": max,
    "gcd": lambda a, b: gcd(_whole(a), _whole(b)),
    "lcm": lambda a, b: lcm(_whole(a), _whole(b)),
    "numerator": lambda a: Fraction(a).numerator,
    "denominator": lambda a: Fraction(a).denominator,
    "whole": lambda a: Fraction(a).denominator == 1,
    "floor": lambda a: Fraction(a).__floor__(),
    "ceil": lambda a: Fraction(a).__ceil__(),
    # half away from zero, as schools round
    "round": lambda a, places=0: _round(Fraction(a), _whole(places)),
}


def _round(number: Fraction, places: int) -> Fraction:
    if not 0 <= places <= 9:
        raise Refused("numbers are rounded to 0 to 9 places")
    scale = 10**places
    size = (abs(number) * scale + Fraction(1, 2)).__floor__()
    return Fraction(size if number >= 0 else -size, scale)


@lru_cache(maxsize=2000)
def _parsed(expression: str) -> Any:
    # Python 3.11 counts the depth of trees in one place for all threads: two that parse at once trip each other up
    with _PARSING:
        return SimpleEval.parse(expression)


def evaluate(expression: str, names: dict[str, Any]) -> Any:
    """The value of an expression. Refused where it cannot be had."""
    reader = SimpleEval(names=names, functions=FUNCTIONS)
    reader.nodes[ast.Constant] = lambda node: _checked(node.value)  # 0.1 is a tenth here
    for other in (ast.JoinedStr, ast.FormattedValue):
        reader.nodes.pop(other, None)
    reader.operators[ast.Div] = _over
    reader.operators[ast.Pow] = _power
    try:
        return _checked(reader.eval(expression, previously_parsed=_parsed(expression)))
    except Refused:
        raise
    except (
        InvalidExpression,
        SyntaxError,
        TypeError,
        ValueError,
        ZeroDivisionError,
        KeyError,
        OverflowError,
        RecursionError,
    ) as error:
        raise Refused(
            f"{expression!r} cannot be worked out: {str(error).splitlines()[0] if str(error) else type(error).__name__}"
        ) from None


def _pick(variable: Any, rng: random.Random, names: dict[str, Any]) -> Any:
    if isinstance(variable, ListVariable):
        text = rng.choice(variable.values)
        number = exact_number(text)
        return text if number is None else number
    if isinstance(variable, NumberVariable):
        low, high, step = (exact_number(text) for text in (variable.low, variable.high, variable.step))
        if low is None or high is None or step is None or step <= 0 or high < low:
            raise Refused(f"{variable.name} runs from a lower to a higher number in steps above 0")
        return low + step * rng.randint(0, int((high - low) / step))
    return evaluate(variable.value, names)


def values_of(template: Template, seed: int) -> dict[str, Any]:
    """The values of one draw; the same seed gives the same. Refused where no draw meets the constraints."""
    rng = random.Random(f"draw {seed}")
    for _ in range(TRIES):
        names: dict[str, Any] = {}
        for variable in template.variables:
            names[variable.name] = _pick(variable, rng, names)
        if all(evaluate(constraint, names) for constraint in template.constraints):
            return names
    raise Refused(f"no draw of {TRIES} meets the constraints {'; '.join(template.constraints)}")


def written(value: Any, shape: str = "plain") -> str:
    """A value as it stands in the text."""
    if isinstance(value, str):
        return value
    if isinstance(value, bool):
        return "true" if value else "false"
    number = Fraction(value)
    if shape == "fraction" and number.denominator != 1:
        sign = "<mo>−</mo>" if number < 0 else ""
        return f"<math>{sign}<mfrac><mn>{abs(number.numerator)}</mn><mn>{number.denominator}</mn></mfrac></math>"
    if shape == "money":
        return f"{float(_round(number, 2)):.2f}"
    if shape == "spelled" and number.denominator == 1 and 0 <= number < len(_SPELLED):
        return _SPELLED[int(number)]
    text = number_label(number)
    return f"+{text}" if shape == "signed" and number > 0 else text


def _filled(value: Any, names: dict[str, Any], html: bool) -> Any:
    """The same with every use replaced. Keys take the plain value, texts a minus sign and the asked shape."""
    if isinstance(value, str):

        def put(found: re.Match[str]) -> str:
            name, shape = found[1], found[2] or "plain"
            if name not in names:
                raise Refused(f"{{{name}}} stands in the text, but no variable has that name")
            if shape not in FORMATS:
                raise Refused(f"{{{name}:{shape}}}: known are {', '.join(FORMATS)}")
            text = written(names[name], shape if html else "plain")
            return text.replace("-", "−") if html and not isinstance(names[name], str) and "<" not in text else text

        return _USE.sub(put, value)
    if isinstance(value, list):
        return [_filled(v, names, html) for v in value]
    return {k: _filled(v, names, html) for k, v in value.items()} if isinstance(value, dict) else value


def draw(content: Content, template: Template, seed: int) -> Draw:
    """One copy of a template: its text, keys and notes filled in."""
    try:
        names = values_of(template, seed)
    except Refused as error:
        return Draw(seed, {}, None, str(error))
    shown = {name: written(value) for name, value in names.items()}
    try:
        filled = read_content(
            {
                "shown": _filled(content.shown.model_dump(), names, True),
                "scoring": _filled([s.model_dump() for s in content.scoring], names, False),
                "behind": _filled(content.behind.model_dump(), names, True),
            }
        )
    except Refused as error:
        return Draw(seed, shown, None, str(error))
    filled = _shuffled(filled, random.Random(f"places {seed}"))
    found = faults(filled)
    below = _BELOW.search(" ".join(bare_text(html) for html in htmls(filled)))
    if not found and below:
        return Draw(seed, shown, filled, f"a length or an amount below zero: {below[0]}")
    return Draw(seed, shown, filled, f"{found[0][0]}: {found[0][1]}" if found else "")


def _shuffled(content: Content, rng: random.Random) -> Content:
    """Choices in another order, so that the key does not stand at the same letter in every draw."""
    parts: list[AnyPart] = []
    scoring, notes = [], list(content.behind.misconceptions)
    for part, scored in zip(content.shown.parts, content.scoring, strict=True):
        if isinstance(part, ChoicePart):
            letters = [o.id for o in part.options]
            order = rng.sample(part.options, len(letters))
            names = {old.id: letter for old, letter in zip(order, letters, strict=True)}
            sign = "|" if part.most == 1 else "+"
            keys = [names[k.strip()] for k in scored.key.split(sign) if k.strip() in names]
            parts.append(part.model_copy(update={"options": [o.model_copy(update={"id": names[o.id]}) for o in order]}))
            scoring.append(scored.model_copy(update={"key": sign.join(sorted(keys))}))
            notes = [
                n.model_copy(update={"answer": names.get(n.answer, n.answer)}) if n.part == part.id else n
                for n in notes
            ]
        else:
            parts.append(part)
            scoring.append(scored)
    return content.model_copy(
        update={
            "shown": content.shown.model_copy(update={"parts": parts}),
            "scoring": scoring,
            "behind": content.behind.model_copy(update={"misconceptions": notes}),
        }
    )
