"""One form for every way of typing a user name."""

from __future__ import annotations

import unicodedata

LONGEST = 200


def normal_username(text: str) -> str:
    """A user name as it is kept, compared and counted: compatibility forms resolved, without blanks at its ends, runs of blanks as one, without signs that are not seen, in lower case."""
    seen = "".join(
        ch
        for ch in unicodedata.normalize("NFKC", text)
        if unicodedata.category(ch) not in ("Cf", "Cc") or ch in "\t\n\r"
    )
    return " ".join(seen.split()).casefold()[:LONGEST]
