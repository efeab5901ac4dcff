"""A cell: the run, response by response, what was tried, the posterior, since when it is mastered, whether it held."""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import dataclass
from datetime import date

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.mastery.advice import Standing, advice
from bildung.core.mastery.states import MASTERED, STATES
from bildung.core.mastery.story import are_apart
from bildung.core.school.dates import Dates
from bildung.services.calendar.years import local_today
from bildung.services.mastery.evidence import Ints, as_day, how_taken
from bildung.services.mastery.judging import WHY, whole_of
from bildung.services.mastery.reached import reached
from bildung.services.mastery.scope import class_of_student
from bildung.services.mastery.view import Judged, view
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import EnteredEvidence, Group, Intervention, Person, Standard

BARS = 40  # of the narrow picture
WAYS = {"live": "in a live round", "score": "entered by hand", "observation": "observed"}


@dataclass(frozen=True, kw_only=True)
class RunPiece:
    """One scored item. taken: on paper, at home, with which accommodations; empty for nothing special. in_run: it belongs to the present run. p: what others usually get of it. way: how it came, empty for a test. why: it
    is no evidence, and why; empty where it is. form_id, window_id: of its test, for its page in Item quality."""

    day: date
    test: str
    item: str
    number: int
    earned: float
    possible: float
    p: float | None
    in_run: bool
    way: str
    taken: str
    why: str
    form_id: Id | None
    window_id: Id | None


@dataclass(frozen=True, kw_only=True)
class StateOn:
    """The state after the evidence of a day. above: probability of being at or above the line then. taken: how the work of the day was,
    where that is special."""

    day: date
    state: str
    above: float
    share: float
    taken: str


@dataclass(frozen=True, kw_only=True)
class NotCounted:
    """So many scored items that are no evidence, and why."""

    why: str
    n: int


@dataclass(frozen=True, kw_only=True)
class EnteredLine:
    """A score or observation entered by hand. mine: entered by whoever asks, who may withdraw it."""

    id: Id
    day: date
    kind: str
    what: str
    earned: float
    possible: float
    by: str
    mine: bool


@dataclass(frozen=True, kw_only=True)
class TriedLine:
    """An intervention. share_before, share_after: of the points before it began and since; None where there are none. group: that they worked
    in, empty where it was none."""

    id: Id
    what: str
    start: date
    until: date | None
    by: str
    group: str
    share_before: float | None
    share_after: float | None
    points_after: float


@dataclass(frozen=True, kw_only=True)
class CellPage:
    """says: the sentence it opens with; next: what to do. average: over all points, where it is apart from the share of the run. low,
    high: 90% interval of the share; line: from which it is mastered. bars: the
    posterior, from 0 to 100%. unusual: points that count as usual, as nothing is known of their items. followed: standards that this one
    replaced and whose evidence is here. retained: later evidence kept it. check_on: day from which it is to be checked again. may_enter:
    whether evidence and interventions may be entered."""

    says: str
    next: str
    person: Id
    name: str
    standard: Id
    code: str
    text: str
    plain: str
    state: str
    share: float | None
    average: float | None
    mean: float | None
    low: float | None
    high: float | None
    above: float | None
    line: float
    bars: list[float]
    since: date | None
    lapsed: date | None
    again: bool
    check_on: date | None
    way: int
    unusual: float
    followed: list[str]
    history: list[StateOn]
    pieces: list[RunPiece]
    not_counted: list[NotCounted]
    entered: list[EnteredLine]
    tried: list[TriedLine]
    may_enter: bool
    today: date


def cell_page(ctx: Context, actor: Actor, person_id: int, standard_id: int) -> CellPage:
    """Of one student and standard. NotFound where the student is not theirs to see."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        person, standard = db.get(Person, person_id), db.get(Standard, standard_id)
        if person is None or standard is None:
            raise NotFound("there is no such student or standard")
        klass = class_of_student(db, actor, person_id, standard.subject)
        today = local_today(ctx, db)
        mine = view(whole_of(ctx, db, standard.subject), [person_id], [standard_id])
        guide = reached(db, standard.subject, klass.grade, today, klass.id)
        dates = dates_of(db)
        cell = mine.cell(0, 0)
        pieces = _pieces(mine, cell, how_taken(db, [person_id]), person_id)
        codes = dict(db.execute(select(Standard.id, Standard.code).where(Standard.id.in_(_followed(mine, cell)))).all())
        entered, tried = _entered(db, actor, person_id, standard_id), _tried(db, person_id, standard_id, pieces)
    w = mine.whole
    n = int(w.occasions.count[cell])
    low, high = mine.between([cell])
    points = mine.points_of(cell)
    share, average = mine.shares(cell)
    why = Counter(p.why for p in pieces if p.why)
    return CellPage(
        says=mine.told(cell, dates),
        next=what_next(mine, cell, guide.has(standard.id, standard.grade), dates),
        person=person_id,
        name=person.name,
        standard=standard.id,
        code=standard.code,
        text=standard.text,
        plain=standard.plain,
        state=STATES[w.states.now[cell]],
        share=share,
        average=average if share is not None and average is not None and are_apart(share, average) else None,
        mean=float(mine.mean[0]) if n else None,
        low=float(low[0]) if n else None,
        high=float(high[0]) if n else None,
        above=float(mine.above[0]) if n else None,
        line=mine.line(cell),
        bars=[float(b) for b in mine.belief([cell])[0].reshape(BARS, -1).sum(axis=1)],
        since=_day(int(w.states.since[cell])),
        lapsed=_day(int(w.states.lapsed[cell])),
        again=bool(w.again.now[cell]),
        check_on=check_day(mine, cell) if w.states.now[cell] >= MASTERED else None,
        way=int(w.ways.way[cell]),
        unusual=float(points.possible[np.isnan(points.p)].sum()),
        followed=sorted(codes.values()),
        history=_history(mine, cell, pieces),
        pieces=pieces,
        not_counted=[NotCounted(why=reason, n=count) for reason, count in why.items()],
        entered=entered,
        tried=tried,
        may_enter=actor.may(Action.MASTERY_ENTER),
        today=today,
    )


def check_day(mine: Judged, cell: int) -> date | None:
    """From which a mastered standard is to be checked again."""
    w = mine.whole
    after = float(w.again.after[cell])
    if np.isnan(after):
        return None
    last = int(w.occasions.day[cell, int(w.occasions.count[cell]) - 1])
    return as_day(w.instruction.after(last, after))


def what_next(mine: Judged, cell: int, taught: bool, dates: Dates) -> str:
    """What to do with the student on the standard."""
    w = mine.whole
    on = check_day(mine, cell)
    thin = w.ruling[int(w.ruled[cell])].rules.thin
    return advice(
        Standing(
            state=STATES[w.states.now[cell]],
            again=bool(w.again.now[cell]),
            check_on=dates.short(on) if on else "",
            missing=max(0.0, round(thin - float(w.states.run_possible[cell]), 2)),
            taught=taught,
        )
    )


def _history(mine: Judged, cell: int, pieces: list[RunPiece]) -> list[StateOn]:
    w = mine.whole
    taken: dict[date, list[str]] = defaultdict(list)
    for p in pieces:
        if p.taken and p.taken not in taken[p.day]:
            taken[p.day].append(p.taken)
    days = [as_day(int(w.occasions.day[cell, t])) for t in range(int(w.occasions.count[cell]))]
    return [
        StateOn(
            day=day,
            state=STATES[w.states.history[cell, t]],
            above=float(w.filter.above[cell, t]),
            share=float(w.occasions.raw_earned[cell, t] / w.occasions.raw_possible[cell, t]),
            taken="; ".join(taken.get(day, [])),
        )
        for t, day in enumerate(days)
    ]


def _pieces(mine: Judged, cell: int, taken: dict[tuple[int, int], str], person: int) -> list[RunPiece]:
    w = mine.whole
    n = int(w.occasions.count[cell])
    begin = int(w.occasions.day[cell, int(w.filter.begins[cell, n - 1])]) if n else 0
    found = []
    for points in (mine.points_of(cell), mine.points_of(cell, aside=True)):
        for at in range(points.day.size):
            given, column = mine.given[int(points.given[at])], int(points.column[at])
            tested = given.form_id > 0
            found.append(
                RunPiece(
                    day=as_day(int(points.day[at])),
                    test=given.form,
                    item=given.codes[column] if tested or given.kind == "live" else "",
                    number=given.numbers[column],
                    earned=float(points.earned[at]),
                    possible=float(points.possible[at]),
                    p=None if np.isnan(points.p[at]) else float(points.p[at]),
                    in_run=not points.why[at] and int(points.day[at]) >= begin,
                    way=WAYS.get(given.kind, ""),
                    taken=taken.get((int(points.session[at]), person), ""),
                    why=WHY[int(points.why[at])],
                    form_id=given.form_id if tested else None,
                    window_id=given.test[2] if tested else None,
                )
            )
    return sorted(found, key=lambda p: (p.day, bool(p.why)))


def _followed(mine: Judged, cell: int) -> list[int]:
    by: Ints = np.unique(mine.points_of(cell).by)
    return [int(s) for s in by if s]


def _entered(db: Session, actor: Actor, person: int, standard: int) -> list[EnteredLine]:
    rows = db.execute(
        select(EnteredEvidence, Person)
        .join(Person, Person.id == EnteredEvidence.by_id)
        .where(
            EnteredEvidence.person_id == person,
            EnteredEvidence.standard_id == standard,
            EnteredEvidence.withdrawn_at.is_(None),
        )
        .order_by(EnteredEvidence.on, EnteredEvidence.id)
    )
    return [
        EnteredLine(
            id=e.id,
            day=e.on,
            kind=e.kind,
            what=e.what,
            earned=e.earned,
            possible=e.possible,
            by=by.name,
            mine=e.by_id == actor.person_id,
        )
        for e, by in rows
    ]


def _tried(db: Session, person: int, standard: int, pieces: list[RunPiece]) -> list[TriedLine]:
    rows = db.execute(
        select(Intervention, Person, Group.name)
        .join(Person, Person.id == Intervention.by_id)
        .outerjoin(Group, Group.id == Intervention.group_id)
        .where(
            Intervention.person_id == person,
            Intervention.standard_id == standard,
            Intervention.withdrawn_at.is_(None),
        )
        .order_by(Intervention.start, Intervention.id)
    ).all()
    counted = [p for p in pieces if not p.why]
    found = []
    for i, by, group in rows:
        sides = [[p for p in counted if (p.day >= i.start) == late] for late in (False, True)]
        shares = [_share(side) for side in sides]
        found.append(
            TriedLine(
                id=i.id,
                what=i.what,
                start=i.start,
                until=i.until,
                by=by.name,
                group=group or "",
                share_before=shares[0],
                share_after=shares[1],
                points_after=sum(p.possible for p in sides[1]),
            )
        )
    return found


def _share(pieces: list[RunPiece]) -> float | None:
    possible = sum(p.possible for p in pieces)
    return sum(p.earned for p in pieces) / possible if possible else None


def _day(ordinal: int) -> date | None:
    return as_day(ordinal) if ordinal else None
