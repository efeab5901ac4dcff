"""Short codes that people type: no letter or digit that is taken for another, no vowels, so no words."""

from __future__ import annotations

import secrets
from collections.abc import Callable

ALPHABET = "BCDFGHJKMNPQRTVWXZ2346789"
STUDENT_LENGTH, SESSION_LENGTH = 6, 6


def new_code(length: int, taken: set[str], choose: Callable[[str], str] = secrets.choice) -> str:
    """A code that is not among `taken`, and is added to it."""
    while True:
        code = "".join(choose(ALPHABET) for _ in range(length))
        if code not in taken:
            taken.add(code)
            return code


def as_typed(text: str) -> str:
    """A code as somebody typed it: case, blanks and hyphens do not matter."""
    return "".join(ch for ch in text.upper() if ch.isalnum())
