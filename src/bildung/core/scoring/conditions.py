"""Condition codes: why a response cannot be scored by its rubric, and what that is worth."""

from __future__ import annotations

from typing import Literal, get_args

Condition = Literal["blank", "off_topic", "not_legible", "other_language", "copied", "too_short"]
Worth = Literal["zero", "missing", "second"]
CONDITIONS: tuple[Condition, ...] = get_args(Condition)

WORDS: dict[Condition, str] = {
    "blank": "blank",
    "off_topic": "off topic",
    "not_legible": "not legible",
    "other_language": "other language",
    "copied": "copied from text",
    "too_short": "too short",
}
KEYS: dict[Condition, str] = {
    "blank": "B",
    "off_topic": "T",
    "not_legible": "L",
    "other_language": "O",
    "copied": "P",
    "too_short": "S",
}
"""What a scorer presses."""

DEFAULTS: dict[Condition, Worth] = {
    "blank": "zero",
    "off_topic": "zero",
    "not_legible": "second",
    "other_language": "second",
    "copied": "zero",
    "too_short": "zero",
}
"""Scores 0, is missing (as if it had not been asked), or goes to a second scorer."""
