"""Groups from needs: students of a class by a standard that they are probably below the line on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.errors import Refused
from bildung.core.items.shown import counted
from bildung.core.mastery.groups import find_groups
from bildung.core.mastery.states import INSUFFICIENT
from bildung.core.school.privacy import alias_numbers
from bildung.services.mastery.grid import judged_class
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.wire import Id


@dataclass(frozen=True, kw_only=True)
class NeedGroup:
    """Students who share a standard that they need."""

    standard: Id
    code: str
    text: str
    people: list[GroupPerson]


@dataclass(frozen=True, kw_only=True)
class GroupPerson:
    """need: probability of being below the line."""

    person: Id
    name: str
    alias: int
    need: float


@dataclass(frozen=True, kw_only=True)
class NeedGroups:
    """unmet: who has a need and found no seat. without: who has none that could be judged."""

    finding: str
    klass: str
    subject: str
    groups: list[NeedGroup]
    unmet: list[GroupPerson]
    without: list[GroupPerson]


def need_groups(
    ctx: Context,
    actor: Actor,
    class_id: int,
    least: int,
    most: int,
    many: int,
    apart: Sequence[tuple[int, int]] = (),
) -> NeedGroups:
    """Of a class: students by a standard that they are below the line on, as many needs met as seats allow."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        klass, students, standards, mine = judged_class(ctx, db, actor, class_id)
    if not standards or not students:
        return NeedGroups(
            finding="There is no evidence to make groups of yet.",
            klass=klass.title,
            subject=klass.subject,
            groups=[],
            unmet=[],
            without=[],
        )
    shape = len(students), len(standards)
    n = mine.occasions.count
    last = np.maximum(n - 1, 0)
    above = np.nan_to_num(mine.filter.above[np.arange(n.size), last]) if mine.filter.above.size else np.zeros(n.size)
    need = np.where(mine.states.now > INSUFFICIENT, 1 - above, 0.0).reshape(shape)
    place = {s.id: at for at, s in enumerate(students)}
    pairs = [(place[a], place[b]) for a, b in apart if a in place and b in place]
    try:
        told = find_groups(need, least, most, many, pairs)
    except Refused as error:
        raise Invalid(str(error), "size") from None
    aliases = alias_numbers(mine.people)

    def person(at: int, worth: float) -> GroupPerson:
        return GroupPerson(person=students[at].id, name=students[at].name, alias=aliases[at], need=worth)

    groups = [
        NeedGroup(
            standard=standards[j].id,
            code=standards[j].code,
            text=standards[j].text,
            people=[person(i, float(need[i, j])) for i in members],
        )
        for j, members in told.groups
    ]
    seated = sum(len(g.people) for g in groups)
    return NeedGroups(
        finding=_seats(len(groups), seated, len(told.unmet), len(told.without)),
        klass=klass.title,
        subject=klass.subject,
        groups=groups,
        unmet=[person(at, float(need[at].max())) for at in told.unmet],
        without=[person(at, 0.0) for at in told.without],
    )


def _seats(groups: int, seated: int, unmet: int, without: int) -> str:
    if not groups:
        return "No group can be made: too few share a need that can be judged."
    text = f"{counted(groups, 'group')} for {counted(seated, 'student')}"
    rest = [
        f"{counted(unmet, 'student')} with a need found no seat" if unmet else "",
        f"{counted(without, 'student')} had no need that could be judged" if without else "",
    ]
    told = ", ".join(part for part in rest if part)
    return f"{text}; {told}." if told else f"{text}: everybody has a seat."
