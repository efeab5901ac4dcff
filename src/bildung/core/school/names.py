"""Whether two written names can be one person's."""

from __future__ import annotations

import re
import unicodedata

from rapidfuzz.distance import OSA

_WORDS = re.compile(r"[^\W\d_]+")
JOINERS = "\u200c\u200d"  # between letters of Persian and Indic scripts
UNSEEN = ("Cc", "Cf", "Cs", "Co")  # not Cn: letters and signs of a newer Unicode than ours are unassigned here
_BREAKS = "\t\n\r\v\f\x85\u2028\u2029"
SLIPS = 1  # letters missing, added, changed or two swapped, in words of five letters or more
LONG = 5


def legible(text: str) -> str:
    """A name without marks that are not seen but change how it is read: control characters, overrides and isolates of direction, zero-width blanks and tags.

    Joiners that some scripts need stay. A line end becomes a blank, and several blanks one; ends are stripped.

    Parameters
    ----------
    text : str
        The text.

    Returns
    -------
    str
    """
    if text.isascii() and text.isprintable() and "  " not in text:
        return text.strip()
    kept = "".join(" " if ch in _BREAKS else ch for ch in text)
    kept = "".join(ch for ch in kept if ch in JOINERS or unicodedata.category(ch) not in UNSEEN)
    return " ".join(part for part in kept.split(" ") if part)


def has_unseen(text: str) -> bool:
    """Whether a name holds what `legible` leaves out, beyond blanks and line ends."""
    return any(ch not in JOINERS and ch not in _BREAKS and unicodedata.category(ch) in UNSEEN for ch in text)


def plain_words(name: str) -> list[str]:
    """The words of a name without accents, capitals, hyphens and apostrophes, in their order."""
    bare = unicodedata.normalize("NFKD", name.casefold().replace("ß", "ss"))
    return _WORDS.findall("".join(ch for ch in bare if not unicodedata.combining(ch)).replace("'", "").replace("’", ""))


def alike(one: str, other: str) -> bool:
    """Whether every word of the shorter name has its like in the longer one, at least two words where both have two.

    Words are alike where they differ by one slip, or where one is the other's beginning (Alex and Alexandra). So
    "Anna-Lena Vos" and "Lena Voss" are alike, "Anna Vos" and "Hanne Quill" are not.

    Parameters
    ----------
    one : str
        A name.
    other : str
        Another.

    Returns
    -------
    bool
    """
    first, second = sorted((plain_words(one), plain_words(other)), key=len)
    rest = list(second)
    for word in first:
        match = next((w for w in rest if _alike(word, w)), None)
        if match is None:
            return False
        rest.remove(match)
    return bool(first) and len(first) >= min(2, len(second))


def _alike(a: str, b: str) -> bool:
    short, long = sorted((a, b), key=len)
    if short == long or (len(short) >= 3 and long.startswith(short)):
        return True
    return len(short) >= LONG - 1 and len(long) >= LONG and OSA.distance(a, b, score_cutoff=SLIPS) <= SLIPS
