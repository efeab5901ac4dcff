"""Moving up a year: the next grade, and what next year's class is called."""

from __future__ import annotations

import re


def next_grade(grade: str) -> str | None:
    """K is followed by 1; None where there is no telling."""
    if grade.upper() == "K":
        return "1"
    return str(int(grade) + 1) if grade.isdecimal() else None


def next_title(title: str, grade: str) -> str | None:
    """The title a year on: the grade in it, standing alone, becomes the next one. None where it is not in it."""
    above = next_grade(grade)
    if above is None or not grade:
        return None
    after = "0-9" if grade.isdecimal() else "0-9A-Za-z"  # 9b is grade 9, KA is no kindergarten
    pattern = re.compile(rf"(?<![0-9A-Za-z]){re.escape(grade)}(?![{after}])", re.IGNORECASE)
    moved, n = pattern.subn(above, title, count=1)
    return moved if n else None
