"""Answers that say the same: the same number, or the same words after case, spaces and punctuation."""

from __future__ import annotations

import re
import unicodedata
from collections import defaultdict
from collections.abc import Iterable
from typing import TypeVar

from bildung.core.scoring.rules import exact_number

T = TypeVar("T")
_BETWEEN = re.compile(r"[\W_]+")


def alike(text: str) -> str:
    """What an answer has in common with all that say the same.

    Numbers are the same however they are written (``0.50`` and ``1/2``). Of words, accents written in one sign or two, case,
    punctuation and spaces make no difference; their order does.

    Parameters
    ----------
    text : str
        An answer as given.

    Returns
    -------
    str
        Equal for answers that are alike; empty for one without letters or digits.
    """
    stripped = text.strip()
    number = exact_number(stripped.rstrip(".")) if stripped else None
    if number is not None:
        return f"= {number.numerator}/{number.denominator}"
    folded = unicodedata.normalize("NFKC", stripped).casefold()
    return _BETWEEN.sub(" ", folded).strip()


def grouped(answers: Iterable[tuple[T, str]]) -> list[tuple[str, list[T]]]:
    """Answers that are alike, most frequent first.

    Parameters
    ----------
    answers : Iterable[tuple[T, str]]
        Whose, and what they gave.

    Returns
    -------
    list[tuple[str, list[T]]]
        What each group has in common, and whose answers are in it.
    """
    found: defaultdict[str, list[T]] = defaultdict(list)
    for whose, text in answers:
        found[alike(text)].append(whose)
    return sorted(found.items(), key=lambda group: (-len(group[1]), group[0]))
