"""Which companion form each student receives, and who is named for two."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Claim:
    """Something that names a form for a student.

    Attributes
    ----------
    form : int
        Id of the form.
    why : str
        For a person to read.
    own : bool
        About this student alone; it settles what others leave open.
    """

    form: int
    why: str
    own: bool = False


@dataclass(frozen=True)
class Dealt:
    """Which form each student receives.

    Attributes
    ----------
    forms : dict[int, int]
        By student.
    unsettled : dict[int, tuple[Claim, ...]]
        Students whom claims name for different forms; they are in no `forms`.
    """

    forms: dict[int, int] = field(default_factory=dict)
    unsettled: dict[int, tuple[Claim, ...]] = field(default_factory=dict)


def settled(claims: Iterable[Claim]) -> int | None:
    """The one form that these name, None where they name none. Raises LookupError where they name several."""
    found = list(claims)
    forms = {c.form for c in found if c.own} or {c.form for c in found}
    if len(forms) > 1:
        raise LookupError("several forms")
    return next(iter(forms), None)


def deal(students: Sequence[int], claims: Mapping[int, Sequence[Claim]], alike: Sequence[int]) -> Dealt:
    """A form for every student.

    Parameters
    ----------
    students : Sequence[int]
        In the order in which they sit, so that neighbors receive different ones.
    claims : Mapping[int, Sequence[Claim]]
        What names a form, by student.
    alike : Sequence[int]
        Forms dealt out in turn to those whom nothing names, at least one.

    Returns
    -------
    Dealt
    """
    forms: dict[int, int] = {}
    unsettled: dict[int, tuple[Claim, ...]] = {}
    turn = 0
    for student in students:
        mine = tuple(claims.get(student, ()))
        try:
            form = settled(mine)
        except LookupError:
            unsettled[student] = mine
            continue
        if form is None:
            form = alike[turn % len(alike)]
            turn += 1
        forms[student] = form
    return Dealt(forms, unsettled)


@dataclass(frozen=True, kw_only=True)
class Common:
    """What two forms share: items, their points, standards; of how many points each."""

    items: int
    points: float
    standards: tuple[str, ...]
    only_one: tuple[str, ...]
    only_other: tuple[str, ...]

    @property
    def comparable(self) -> str:
        """How results of the two may be put side by side, in words."""
        if self.points:
            return f"by share and standard; on {self.points:g} common points also item by item"
        if self.standards:
            return f"by share and by {len(self.standards)} common {'standard' if len(self.standards) == 1 else 'standards'}; no item is common"
        return "not at all: no common points and no common standard"


Held = Mapping[str, tuple[float, str]]
"""Items of a form: points and main standard by the item's code."""


def common(one: Held, other: Held) -> Common:
    """Raw points of the two are never comparable unless every item is common."""
    both = one.keys() & other.keys()
    mine, theirs = ({s for _, s in held.values() if s} for held in (one, other))
    return Common(
        items=len(both),
        points=sum(min(one[i][0], other[i][0]) for i in both),
        standards=tuple(sorted(mine & theirs)),
        only_one=tuple(sorted(mine - theirs)),
        only_other=tuple(sorted(theirs - mine)),
    )
