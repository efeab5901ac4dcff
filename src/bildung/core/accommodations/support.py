"""Who reads, writes or interprets for whom at a test, and what that cannot be."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from bildung.core.accommodations.kinds import KINDS

SEVERAL_ON_ONE_FORM = "human_reader"
"""Reads the same text aloud to everyone who listens."""
ALONE = ("scribe",)
"""Kinds in which one person serves one student at a time."""


@dataclass(frozen=True, kw_only=True)
class Served:
    """A student as a support person has them.

    Attributes
    ----------
    name : str
        For sentences.
    kinds : tuple[str, ...]
        The accommodations that hold for this test.
    form : int
        The form that they take.
    """

    name: str
    kinds: tuple[str, ...]
    form: int


def against(kind: str, served: Collection[Served]) -> str:
    """What speaks against one person's serving these students in this way at one session.

    Parameters
    ----------
    kind : str
        One of the kinds of accommodation for which a person is needed.
    served : Collection[Served]
        The students.

    Returns
    -------
    str
        A sentence; empty where nothing does.
    """
    if kind not in KINDS or not KINDS[kind].person:
        return f"choose {', '.join(k.says for k in KINDS.values() if k.person)}"
    if not served:
        return "choose at least one student"
    without = [one.name for one in served if kind not in one.kinds]
    if without:
        return f"{without[0]} has no {KINDS[kind].says} for this test"
    if kind in ALONE and len(served) > 1:
        return f"one {KINDS[kind].says} serves one student at a time"
    if kind == SEVERAL_ON_ONE_FORM and len({one.form for one in served}) > 1:
        return "one reader reads one form; give students on another form a reader of their own"
    return ""


def unserved(students: Mapping[int, Served], given: Collection[tuple[int, str]]) -> list[tuple[int, str]]:
    """Students and kinds for which a person is needed and nobody is assigned.

    Parameters
    ----------
    students : Mapping[int, Served]
        Of the session, by id.
    given : Collection[tuple[int, str]]
        Student and kind of what is assigned.

    Returns
    -------
    list[tuple[int, str]]
        In the order of the students, then of `KINDS`.
    """
    return [
        (id, name)
        for id, one in students.items()
        for name, kind in KINDS.items()
        if kind.person and name in one.kinds and (id, name) not in given
    ]
