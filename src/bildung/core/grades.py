"""How a grade is written: one way here, several in the files of others."""

from __future__ import annotations

from collections.abc import Iterable

KINDERGARTEN = ("KG", "0", "00", "K")


def grade_code(text: str) -> str:
    """A grade as it is kept here, from one as a file has it: 7 for 07, K for KG, 0 and 00.

    The Common Education Data Standards pad numbers and write KG.

    Parameters
    ----------
    text : str
        As the file has it; empty where it says none.

    Returns
    -------
    str
        Empty where the text is.
    """
    code = text.strip().upper()
    return "K" if code in KINDERGARTEN else code.lstrip("0")


def grade_before(code: str) -> str:
    """The grade of a year before, where students go up one a year.

    Parameters
    ----------
    code : str
        As kept here.

    Returns
    -------
    str
        Empty before kindergarten, and for what is no grade of a year.
    """
    if code.isdigit() and int(code) > 0:
        return str(int(code) - 1) if int(code) > 1 else "K"
    return ""


def grade_place(code: str) -> int | None:
    """Place of a grade among those of a year: kindergarten 0, grade 1 is 1.

    Parameters
    ----------
    code : str
        As kept here.

    Returns
    -------
    int | None
        None for what is no grade of a year.
    """
    return 0 if code == "K" else int(code) if code.isdecimal() else None


def in_grade_order(grades: Iterable[str]) -> list[str]:
    """Grades from the youngest on; what is no grade of a year comes last.

    Parameters
    ----------
    grades : Iterable[str]
        As kept here.

    Returns
    -------
    list[str]
    """

    def place(code: str) -> tuple[bool, int, str]:
        at = grade_place(code)
        return at is None, at or 0, code

    return sorted(grades, key=place)
