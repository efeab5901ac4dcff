"""How a grade is written: one way here, several in the files of others."""

from __future__ import annotations

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
