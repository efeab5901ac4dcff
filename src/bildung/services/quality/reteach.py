"""What a class is to be taught again: under the watch line, with the common wrong answers and who needs it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from sqlalchemy import select

from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.items.shown import percent
from bildung.core.school.privacy import alias_numbers
from bildung.core.teaching.reteach import LowStandard, reteach
from bildung.services.items.texts import begins
from bildung.services.people.named import NamedPerson
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.mistakes import about_rows
from bildung.services.quality.overview import groups_of
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Standard


@dataclass(frozen=True, kw_only=True)
class ReteachStudent:
    """A student under the line on a standard. alias: number from 0 to show while names are hidden."""

    person: Id
    name: str
    alias: int
    earned: float
    possible: float


@dataclass(frozen=True, kw_only=True)
class WrongAnswer:
    """note: what somebody thinks who gives it, where an author wrote it. who: who did."""

    answer: str
    n: int
    share: float
    note: str
    who: list[NamedPerson]


@dataclass(frozen=True, kw_only=True)
class MissedItem:
    number: int
    item: str
    text: str
    n: int
    p: float
    flagged: bool
    wrong: list[WrongAnswer]


@dataclass(frozen=True, kw_only=True)
class ToTeach:
    """A standard of the list. text: what the standard says. thin: few points to judge a student by."""

    standard: str
    text: str
    n: int
    points: float
    share: float
    ci95: tuple[float, float] | None
    sure: bool
    thin: bool
    need: list[ReteachStudent]
    items: list[MissedItem]


@dataclass(frozen=True)
class ClassHere:
    id: Id
    name: str
    n: int


@dataclass(frozen=True, kw_only=True)
class ReteachList:
    """classes: whose list this person may see. n: counted students of the class."""

    finding: str
    class_id: Id
    klass: str
    n: int
    watch_line: float
    classes: list[ClassHere]
    standards: list[ToTeach]


THIN = 3


def reteach_list(
    ctx: Context, actor: Actor, wanted: ScopeRequest, class_id: int | None = None, settings: Settings = DEFAULTS
) -> ReteachList:
    """Of one class of the view, whose students this person may see by name; the first one where none is named. Items are
    judged over everybody in the view."""
    scope(actor, Action.ANSWERS_READ)
    judged = judge(ctx, actor, wanted, settings)
    where = {o.id: o for o in judged.scoped.chosen}
    named = judged.named
    of = np.array([where[int(s)].class_id for s in judged.session], dtype=np.int64)
    titles = {o.class_id: o.klass for o in judged.scoped.chosen if o.named}
    classes = [ClassHere(id, name, int((of == id).sum())) for id, name in sorted(titles.items(), key=lambda c: c[1])]
    classes = [c for c in classes if c.n]
    if not classes:
        raise NotFound("you may not see the names of any class in this view")
    chosen = next((c for c in classes if c.id == class_id), None) if class_id is not None else classes[0]
    if chosen is None:
        raise NotFound("this class did not take the test, or you may not see its names")
    rows = (of == chosen.id) & named
    found = reteach(judged.analysis, rows, groups_of(judged, "standard"), settings.watch_line)
    about = about_rows(ctx, judged, np.flatnonzero(rows).tolist())
    with ctx.store.read() as db:
        texts = dict(
            db.execute(select(Standard.code, Standard.text).where(Standard.code.in_([s.name for s in found]))).all()
        )
    standards = [_standard(judged, s, texts.get(s.name, ""), about) for s in found]
    return ReteachList(
        finding=_finding(chosen, standards, settings.watch_line),
        class_id=chosen.id,
        klass=chosen.name,
        n=chosen.n,
        watch_line=settings.watch_line,
        classes=classes,
        standards=standards,
    )


def _standard(judged: Judged, s: LowStandard, text: str, about: dict[int, tuple[int, str, str]]) -> ToTeach:
    people = [int(p) for p in judged.people[judged.named]]  # as the grid of answers numbers them
    numbers = dict(zip(people, alias_numbers(people), strict=True))
    items = []
    for low in s.items:
        row = judged.rows[low.place]
        notes = {m.answer: m.note for m in row.item.behind.misconceptions}
        wrong = [
            WrongAnswer(
                answer=w.answer,
                n=w.n,
                share=w.share,
                note=notes.get(w.answer, ""),
                who=sorted(
                    (NamedPerson(about[r][0], about[r][2], about[r][1], numbers[about[r][0]]) for r in w.rows),
                    key=lambda p: p.name,
                ),
            )
            for w in low.wrong
        ]
        items.append(
            MissedItem(
                number=row.number,
                item=low.item,
                text=begins(row.item),
                n=low.n,
                p=low.p,
                flagged=low.flagged,
                wrong=wrong,
            )
        )
    need = [
        ReteachStudent(
            person=about[r][0], name=about[r][2], alias=numbers[about[r][0]], earned=earned, possible=possible
        )
        for r, earned, possible in s.need
    ]
    return ToTeach(
        standard=s.name,
        text=text,
        n=s.n,
        points=s.points,
        share=s.share,
        ci95=s.ci95,
        sure=s.sure,
        thin=s.points < THIN,
        need=need,
        items=items,
    )


def _finding(chosen: ClassHere, standards: list[ToTeach], line: float) -> str:
    under = [s for s in standards if s.share < line]
    if not under:
        low = sum(len(s.items) for s in standards)
        tail = f"; {low} single {'item is' if low == 1 else 'items are'}" if low else ""
        return f"{chosen.name}: no standard is under the watch line of {percent(line)}{tail}."
    first = under[0]
    words = first.text or first.standard
    sure = "surely" if first.sure else "perhaps by chance"
    text = f"{chosen.name}: {len(under)} {'standard' if len(under) == 1 else 'standards'} under the watch line of {percent(line)}. "
    text += f"First “{words}” ({percent(first.share)}, {sure}); {len(first.need)} of {first.n} students need it"
    flagged = sum(i.flagged for s in standards for i in s.items)
    return text + (
        f". {flagged} of the low items may be at fault {'itself' if flagged == 1 else 'themselves'}."
        if flagged
        else "."
    )
