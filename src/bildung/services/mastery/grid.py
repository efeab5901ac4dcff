"""The grid: students by standards, each cell with its state, share, amount and direction."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import date, timedelta
from math import isnan

import numpy as np
from scipy.special import bdtr
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.grades import in_grade_order
from bildung.core.items.shown import counted, percent
from bildung.core.mastery.rules import asks
from bildung.core.mastery.states import DEVELOPING, INSUFFICIENT, MASTERED, STATES
from bildung.core.school.privacy import LEAST, alias_numbers
from bildung.services.calendar.years import local_today
from bildung.services.mastery.judging import Asked, whole_of
from bildung.services.mastery.reached import Reached, reached
from bildung.services.mastery.ruling import USUAL_RULING
from bildung.services.mastery.scope import (
    MasteryClass,
    MasteryScope,
    Who,
    WhoAsked,
    class_choices,
    scope_choices,
    students_of_grade,
    who,
)
from bildung.services.mastery.view import Judged, standards_seen, view
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.wire import Id
from bildung.store.models import School, Standard

FALSE_ARROW = 0.034  # of the cells judged, each way, at most (docs/mastery-rates.md); 0.025 would promise too much
RECENT = timedelta(days=42)  # what changed within them is shown first, unless asked otherwise
RISING, FALLING, AGAIN, LAPSED, CHANGED = 1, 2, 4, 8, 16


@dataclass(frozen=True, kw_only=True)
class GridRow:
    """A student, with a place for each standard. need: standards with enough evidence that are not mastered; changes: whose state changed
    lately. states: places in the list of states. shares: of the run; amounts: weighted points of it. signs: 1 rising, 2 falling, 4 to be
    checked again, 8 mastered before and not now, 16 changed lately, added up."""

    person: Id
    name: str
    alias: int
    need: int
    changes: int
    states: list[int]
    shares: list[float | None]
    amounts: list[float]
    signs: list[int]


@dataclass(frozen=True, kw_only=True)
class Compared:
    """Students of others of the grade: share that has mastered it, of n; None where they are few."""

    share: float | None
    n: int


@dataclass(frozen=True, kw_only=True)
class GridColumn:
    """A standard. mastered of assessed: students with evidence that is not thin. need: of the assessed, how many have not mastered it.
    taught: whether the pacing guide has reached it. school: the grade there, None where the view is no class or school; district: the
    grade."""

    standard: Id
    code: str
    text: str
    plain: str
    domain: str
    grade: str
    priority: bool
    taught: bool
    mastered: int
    assessed: int
    need: int
    school: Compared | None
    district: Compared | None


@dataclass(frozen=True, kw_only=True)
class GridPage:
    """states: by place. asks: what mastered asks, in a sentence. arrows: rising and falling beside what chance brings. empty: standards of
    the grade without evidence that are not shown. guide: whether there is a pacing guide. since: from when changes count as late."""

    finding: str
    classes: list[MasteryClass]
    scopes: list[MasteryScope]
    class_id: Id | None
    title: str
    subject: str
    grade: str
    school: str
    states: list[str]
    domains: list[str]
    domain: str
    first: date | None
    last: date | None
    since: date
    columns: list[GridColumn]
    rows: list[GridRow]
    rising: int
    falling: int
    judged: int
    changed: int
    arrows: str
    empty: int
    guide: bool
    asks: str


@dataclass(frozen=True, kw_only=True)
class GridAsked:
    """who: nobody for the first class that this person may see. domain: heading of standards; priority: only those; taught: only what the
    pacing guide has reached; whole: also standards without evidence. first, last: only evidence of these days. since: changes from this
    day on are marked."""

    who: WhoAsked = field(default_factory=WhoAsked)
    domain: str = ""
    priority: bool = False
    taught: bool = False
    whole: bool = False
    first: date | None = None
    last: date | None = None
    since: date | None = None


NOBODY = WhoAsked()


@dataclass(frozen=True, kw_only=True)
class Sight:
    """Students by standards of one view, judged. domains: heading of each standard; empty: standards of the grade left out without
    evidence; taught: what the guide has reached."""

    who: Who
    standards: list[Standard]
    domains: dict[int, str]
    every_domain: list[str]
    empty: int
    judged: Judged
    taught: Reached


def sight_of(ctx: Context, db: Session, actor: Actor, asked: GridAsked) -> Sight:
    """What a grid shows, of whom it was asked."""
    people = who(db, actor, asked.who)
    today = local_today(ctx, db)
    whole = whole_of(ctx, db, people.subject, Asked(first=asked.first, last=asked.last))
    seen = standards_seen(whole, people.people)
    rows = db.scalars(
        select(Standard)
        .where(Standard.subject == people.subject)
        .order_by(Standard.grade, Standard.position, Standard.id)
    ).all()
    headings = {s.parent_id for s in rows}
    names = {s.id: s.text or s.code for s in rows}
    domains = {s.id: names.get(s.parent_id or 0, "") for s in rows}
    taught = reached(db, people.subject, people.grade, today, people.class_id)
    kept, empty = [], 0
    for s in rows:
        if s.id not in seen:
            of_grade = s.grade == people.grade and s.id not in headings
            empty += of_grade
            if not (asked.whole and of_grade):
                continue
        if asked.priority and not s.priority:
            continue
        if asked.taught and not taught.has(s.id, s.grade):
            continue
        if asked.domain and domains[s.id] != asked.domain:
            continue
        kept.append(s)
    order = {grade: at for at, grade in enumerate(in_grade_order({s.grade for s in kept}))}
    first_of: dict[tuple[str, str], float] = {}
    for s in kept:
        first_of.setdefault((s.grade, domains[s.id]), s.position)
    kept.sort(
        key=lambda s: (
            s.grade != people.grade,
            order[s.grade],
            first_of[s.grade, domains[s.id]],
            domains[s.id],
            s.position,
            s.id,
        )
    )
    return Sight(
        who=people,
        standards=kept,
        domains=domains,
        every_domain=sorted({domains[s] for s in seen if domains.get(s)}),
        empty=empty,
        judged=view(whole, people.people, [s.id for s in kept]),
        taught=taught,
    )


def grid_page(ctx: Context, actor: Actor, asked: GridAsked) -> GridPage:
    """Of a class, a group, a grade, a school, or some students."""
    scope(actor, Action.MASTERY_READ)
    if asked.first and asked.last and asked.last < asked.first:
        raise Invalid("the first day lies before the last", "last")
    with ctx.store.read() as db:
        classes = class_choices(db, actor)
        today = local_today(ctx, db)
        since = asked.since or today - RECENT
        if asked.who == NOBODY:
            if not classes:
                return _nothing(since)
            asked = replace(asked, who=WhoAsked(class_id=int(classes[0].id)))
        sight = sight_of(ctx, db, actor, asked)
        mine, people = sight.judged, sight.who
        ids = [s.id for s in sight.standards]
        grades = [people.grade] if people.grade else sorted({s.grade for s in sight.standards})
        everyone = students_of_grade(db, people.subject, grades)
        district, school = view(mine.whole, everyone, ids), None
        if people.school_id is not None and people.class_id is not None:
            theirs = students_of_grade(db, people.subject, grades, people.school_id)
            # where the grade is in one school only, it is the district's
            school = view(mine.whole, theirs, ids) if theirs != everyone else None
        scopes = scope_choices(db, actor, people.subject)
        named = db.get(School, people.school_id) if people.school_id else None
    changed = mine.changed(since.toordinal(), today.toordinal())
    rows = _rows(sight, changed)
    columns = [_column(sight, at, s, school, district) for at, s in enumerate(sight.standards)]
    rising, falling = int((mine.ways > 0).sum()), int((mine.ways < 0).sum())
    judged = int(mine.whole.ways.judged[mine.at].sum())
    page = GridPage(
        finding="",
        classes=classes,
        scopes=scopes,
        class_id=people.class_id,
        title=people.title,
        subject=people.subject,
        grade=people.grade,
        school=named.name if named else "",
        states=list(STATES),
        domains=sight.every_domain,
        domain=asked.domain,
        first=asked.first,
        last=asked.last,
        since=since,
        columns=columns,
        rows=rows,
        rising=rising,
        falling=falling,
        judged=judged,
        changed=sum(row.changes for row in rows),
        arrows=_arrows(rising, falling, judged),
        empty=sight.empty,
        guide=sight.taught.guide,
        asks=_asks(mine),
    )
    return replace(page, finding=_finding(page))


def _nothing(since: date) -> GridPage:
    return GridPage(
        finding="No class here is yours to see.",
        classes=[],
        scopes=[],
        class_id=None,
        title="",
        subject="",
        grade="",
        school="",
        states=list(STATES),
        domains=[],
        domain="",
        first=None,
        last=None,
        since=since,
        columns=[],
        rows=[],
        rising=0,
        falling=0,
        judged=0,
        changed=0,
        arrows="",
        empty=0,
        guide=False,
        asks=asks(USUAL_RULING.rules),
    )


def _asks(mine: Judged) -> str:
    """By the rules of the first standard's framework."""
    ruled = mine.whole.ruled[mine.at] if mine.at.size else np.zeros(1, dtype=np.int64)
    return asks(mine.whole.ruling[int(ruled.max())].rules)


def _rows(sight: Sight, changed: np.ndarray) -> list[GridRow]:
    mine = sight.judged
    shape = mine.shape
    now, share = mine.now.reshape(shape), np.round(mine.share.reshape(shape), 4)
    amount = np.round(mine.amount.reshape(shape), 2)
    late = np.isin(changed, (1, 3))
    signs = (
        RISING * (mine.ways > 0)
        + FALLING * (mine.ways < 0)
        + AGAIN * mine.again
        + LAPSED * (mine.whole.states.lapsed[mine.at] > 0)
        + CHANGED * late
    ).reshape(shape)
    need = ((now > INSUFFICIENT) & (now <= DEVELOPING)).sum(axis=1)
    changes = late.reshape(shape).sum(axis=1)
    aliases = alias_numbers(mine.people)
    return [
        GridRow(
            person=student.id,
            name=student.name,
            alias=aliases[at],
            need=int(need[at]),
            changes=int(changes[at]),
            states=now[at].tolist(),
            shares=[None if isnan(value) else value for value in share[at].tolist()],
            amounts=amount[at].tolist(),
            signs=signs[at].tolist(),
        )
        for at, student in enumerate(sight.who.students)
    ]


def _column(sight: Sight, at: int, s: Standard, school: Judged | None, district: Judged) -> GridColumn:
    now = sight.judged.now[at :: len(sight.standards)]
    mastered, assessed = int((now >= MASTERED).sum()), int((now > INSUFFICIENT).sum())
    return GridColumn(
        standard=s.id,
        code=s.code,
        text=s.text,
        plain=s.plain,
        domain=sight.domains.get(s.id, ""),
        grade=s.grade,
        priority=s.priority,
        taught=sight.taught.has(s.id, s.grade),
        mastered=mastered,
        assessed=assessed,
        need=assessed - mastered,
        school=_compared(school, at) if school is not None else None,
        district=_compared(district, at),
    )


def _compared(others: Judged, at: int) -> Compared:
    theirs = others.now[at :: len(others.standards)]
    known = theirs > INSUFFICIENT
    n = int(known.sum())
    return Compared(share=float((theirs[known] >= MASTERED).mean()) if n >= LEAST else None, n=n)


def _arrows(rising: int, falling: int, judged: int) -> str:
    if not judged:
        return ""
    upper = int(np.searchsorted(bdtr(np.arange(judged + 1), judged, FALSE_ARROW), 0.95))
    return f"{rising} rising and {falling} falling of {judged} cells with enough evidence; chance brings up to {upper} each way."


def _finding(page: GridPage) -> str:
    if not page.columns or not page.rows:
        return f"{page.title} has no evidence on any standard yet."
    states = np.array([row.states for row in page.rows])
    known, thin = int((states > INSUFFICIENT).sum()), int((states == INSUFFICIENT).sum())
    if not known:
        return (
            f"{page.title}: evidence on {counted(len(page.columns), 'standard')}, too thin to say who has mastered any."
        )
    mastered = int((states >= MASTERED).sum())
    text = f"{page.title}: {percent(mastered / known)} of what could be judged is mastered, on {counted(len(page.columns), 'standard')}."
    judged = [c for c in page.columns if c.assessed >= LEAST and c.taught]
    if judged:
        least = min(judged, key=lambda c: (c.mastered / c.assessed, c.code))
        text += f" Fewest on {least.code}: {least.mastered} of {least.assessed}."
    early = sum(not c.taught and c.assessed > 0 for c in page.columns)
    if early:
        text += f" {counted(early, 'standard')} the pacing guide has not reached."
    again = sum(bool(sign & AGAIN) for row in page.rows for sign in row.signs)
    if again:
        text += f" {counted(again, 'cell')} to be checked again."
    if thin > known:
        text += " Most evidence is too thin to say."
    return text
