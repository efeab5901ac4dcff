"""The same mistake in several items, who holds it, and which students hold the same ones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from sqlalchemy import select

from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.items.shown import counted, percent
from bildung.core.teaching.misconceptions import Mistake, clusters, mistakes
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.wire import Id
from bildung.store.models import Person, PlannedSession, SchoolClass

SMALL = 25
FEWEST = 10  # students from whom a finding is made


@dataclass(frozen=True, kw_only=True)
class Carrying:
    number: int
    item: str
    answer: str
    n: int
    share: float


@dataclass(frozen=True, kw_only=True)
class MistakeHolder:
    """A student who holds a mistake; gave of could: how often they gave one of its answers."""

    person: Id
    name: str
    klass: str
    gave: int
    could: int


@dataclass(frozen=True, kw_only=True)
class SharedMistake:
    """n: students who gave one of its answers at least once; held: how many hold it, in the whole view. who: those of
    them whom this person may see by name. link: what helps, where somebody wrote it."""

    note: str
    link: str
    carriers: list[Carrying]
    n: int
    answers: int
    held: int
    who: list[MistakeHolder]


@dataclass(frozen=True)
class Alike:
    """Students who hold the same mistakes. n: all of them; who: those whom this person may see by name."""

    notes: list[str]
    n: int
    who: list[MistakeHolder]


@dataclass(frozen=True, kw_only=True)
class Mistakes:
    """noted: items of the view of which somebody wrote what a wrong answer says; of: items in all."""

    finding: str
    noted: int
    of: int
    mistakes: list[SharedMistake]
    alike: list[Alike]


def find_mistakes(ctx: Context, actor: Actor, wanted: ScopeRequest, settings: Settings = DEFAULTS) -> Mistakes:
    """Mistakes that several answers show, and the students who hold the same ones."""
    judged = judge(ctx, actor, wanted, settings)
    notes: dict[int, dict[str, str]] = {}
    links: dict[str, str] = {}
    for at, row in enumerate(judged.rows):
        for m in row.item.behind.misconceptions:
            notes.setdefault(at, {})[m.answer] = m.note
            if m.link:
                links.setdefault(m.note, m.link)
    found = mistakes(judged.analysis, notes)
    named = judged.named
    about = about_rows(ctx, judged, [int(row) for m in found for row in np.flatnonzero(m.held & named)])
    number = {row.item.code: row.number for row in judged.rows}

    def who(rows: Sequence[int], m: Mistake | None) -> list[MistakeHolder]:
        people = [(row, about[row]) for row in rows if named[row]]
        people.sort(key=lambda p: p[1][1:])
        return [
            MistakeHolder(
                person=person,
                name=name,
                klass=klass,
                gave=int(m.gave[row]) if m else 0,
                could=int(m.could[row]) if m else 0,
            )
            for row, (person, klass, name) in people
        ]

    held = [
        SharedMistake(
            note=m.note,
            link=links.get(m.note, ""),
            carriers=[
                Carrying(number=number[c.item], item=c.item, answer=c.answer, n=c.n, share=c.share) for c in m.carriers
            ],
            n=m.n,
            answers=m.answers,
            held=int(m.held.sum()),
            who=who(np.flatnonzero(m.held).tolist(), m),
        )
        for m in found
    ]
    least = 2 if judged.analysis.table.n < SMALL else 3
    groups = [Alike(list(c.notes), len(c.students), who(c.students, None)) for c in clusters(found, least)]
    return Mistakes(
        finding=_finding(held, groups, len(notes), len(judged.rows), judged.analysis.table.n),
        noted=len(notes),
        of=len(judged.rows),
        mistakes=held,
        alike=groups,
    )


def about_rows(ctx: Context, judged: Judged, rows: Sequence[int]) -> dict[int, tuple[int, str, str]]:
    """By counted row: person, class, name."""
    who, session = judged.people, judged.session
    people = {int(who[row]) for row in rows}
    with ctx.store.read() as db:
        names = {
            id: f"{given} {family}".strip()
            for id, given, family in db.execute(
                select(Person.id, Person.given, Person.family).where(Person.id.in_(people))
            )
        }
        classes = dict(
            db.execute(
                select(PlannedSession.id, SchoolClass.title)
                .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
                .where(PlannedSession.id.in_([o.id for o in judged.scoped.chosen]))
            ).all()
        )
    return {int(row): (int(who[row]), classes[int(session[row])], names[int(who[row])]) for row in rows}


def _items(m: SharedMistake) -> int:
    """Items in which it was made; an item may have several answers that say the same."""
    return len({c.item for c in m.carriers if c.n > 0})


def _finding(held: list[SharedMistake], groups: list[Alike], noted: int, of: int, n: int) -> str:
    if not noted:
        return "No wrong answer of these items has a misconception note. Add notes on the item pages."
    if n < FEWEST:
        return f"{counted(n, 'student')} took this test: too few to say that anybody holds a mistake. What was answered is below."
    several = [m for m in held if _items(m) > 1]
    if not several:
        return f"{noted} of {of} items carry notes; no mistake was made in more than one of them."
    first = max(several, key=lambda m: m.held)
    if not first.held:
        return f"{len(several)} misconceptions appeared in more than one item; no one made one often enough to count as a misconception."
    share = percent(first.held / n) if first.held >= 0.005 * n else "under 1%"
    text = f"“{first.note}” is shown by {first.held} of {n} students ({share}), in {counted(_items(first), 'item')}"
    more = sum(m.held > 0 for m in several) - 1
    if more:
        text += f"; {more} other {'misconception is' if more == 1 else 'misconceptions are'} shown by someone"
    if groups:
        text += f". {len(groups)} {'group' if len(groups) == 1 else 'groups'} of students share two or more"
    return text + "."
