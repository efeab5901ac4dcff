"""What the makers of items hand over: one item, its right answer first among the options."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Draft:
    """standard: its code. right, wrong: answers as shown. numeric: asked for as a number, without options.
    about: title of the passage it is about. notes: wrong answers with what somebody thinks who gives them."""

    standard: str
    stem: str
    right: str
    wrong: tuple[str, ...]
    numeric: bool = False
    about: str = ""
    notes: tuple[tuple[str, str], ...] = ()


def frac(top: int | str, bottom: int | str) -> str:
    """A fraction as MathML."""
    return f"<math><mfrac><mn>{top}</mn><mn>{bottom}</mn></mfrac></math>"
