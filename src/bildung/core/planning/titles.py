"""Names of sessions by a rule of parts, such as subject, grade and class, with free text between."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence

from bildung.core.errors import Refused

PARTS = ("test", "subject", "grade", "class", "room", "date", "block", "section", "window")
LONGEST = 80
_PART = re.compile(r"\{([^{}]*)\}")


def title(rule: str, parts: Mapping[str, str]) -> str:
    """The name a rule gives.

    Parameters
    ----------
    rule : str
        Text with parts in braces, such as "{window} {subject}, grade {grade}".
    parts : Mapping[str, str]
        What each is for this session; one that is empty leaves nothing, and no double space.

    Returns
    -------
    str
        The name.

    Raises
    ------
    Refused
        Where the rule has a part that does not exist, or gives a name that is too long.
    """
    unknown = [part for part in _PART.findall(rule) if part not in PARTS]
    if unknown:
        raise Refused(f"{{{unknown[0]}}} is not a part of a name; there are {', '.join(PARTS)}")
    made = _PART.sub(lambda found: parts.get(found.group(1), ""), rule)
    made = re.sub(r"\s+", " ", re.sub(r"\s+([,;:])", r"\1", made)).strip(" ,;:-·")
    if len(made) > LONGEST:
        raise Refused(f"the name has {len(made)} characters; {LONGEST} are allowed")
    return made


def collisions(titles: Sequence[str]) -> list[str]:
    """Names that more than one session of different tests or classes has."""
    return sorted(name for name, count in Counter(titles).items() if count > 1)
