"""Text as a person types it, tidied or refused."""

from __future__ import annotations

from bildung.core.school.names import has_unseen, legible
from bildung.services.shared.errors import Invalid

LINE = 200  # what is longer is text of several lines, not a name


def need_text(value: str, name: str, longest: int = 120) -> str:
    """A name as typed, with blanks tidied (`legible`); Invalid where empty, too long, or with characters that are not seen."""
    text = legible(value) if longest <= LINE else value.strip()
    if longest <= LINE and has_unseen(value):
        raise Invalid(
            f"{name.replace('_', ' ')} contains invisible characters; enter it without them, as “{text[:LINE]}”", name
        )
    if not text or len(text) > longest:
        raise Invalid(f"{name.replace('_', ' ')} needs 1 to {longest} characters", name)
    return text
