"""A cell: the run, response by response, the posterior, since when it is mastered, whether it held."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

import numpy as np
from sqlalchemy import select

from bildung.core.mastery.states import INSUFFICIENT, MASTERED, STATES
from bildung.core.school.privacy import LEAST
from bildung.services.calendar.years import local_today
from bildung.services.mastery.evidence import as_day
from bildung.services.mastery.judging import Judged, judge, source, standards_with_evidence
from bildung.services.mastery.scope import class_of_student, students_of
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import Person, Standard

BARS = 40  # of the narrow picture


@dataclass(frozen=True, kw_only=True)
class RunPiece:
    """One scored item. in_run: it belongs to the present run. p: what others usually get of it."""

    day: date
    session: Id
    test: str
    item: str
    number: int
    earned: float
    possible: float
    p: float | None
    in_run: bool


@dataclass(frozen=True, kw_only=True)
class StateOn:
    """The state after the evidence of a day. above: probability of being at or above the line then."""

    day: date
    state: str
    above: float
    share: float


@dataclass(frozen=True, kw_only=True)
class CellPage:
    """says: the sentence it opens with. low, high: 90% interval of the share; line: from which it is mastered. bars: the posterior, from 0 to
    100%. unusual: points that count as usual, as nothing is known of their items."""

    says: str
    person: Id
    name: str
    standard: Id
    code: str
    text: str
    plain: str
    state: str
    share: float | None
    mean: float | None
    low: float | None
    high: float | None
    above: float | None
    line: float
    bars: list[float]
    since: date | None
    lapsed: date | None
    again: bool
    way: int
    unusual: float
    history: list[StateOn]
    pieces: list[RunPiece]


@dataclass(frozen=True, kw_only=True)
class StudentStandard:
    """A standard of a student. low, high: 90% interval; side: clearly above the line, clearly below, unsure, or too thin to say. class_share: of the class's
    students who have mastered it, of class_n; relative: it is weak here and not in the class."""

    standard: Id
    code: str
    text: str
    domain: str
    grade: str
    state: str
    says: str
    mean: float
    low: float
    high: float
    amount: float
    side: str
    way: int
    again: bool
    class_share: float | None
    class_n: int
    relative: bool


@dataclass(frozen=True, kw_only=True)
class DomainLine:
    """mastered of assessed standards of a grade; open: not assessed."""

    domain: str
    grade: str
    mastered: int
    assessed: int
    open: int


@dataclass(frozen=True, kw_only=True)
class StudentMastery:
    """standards: weakest first. next, before: other students of the class, by name."""

    finding: str
    person: Id
    name: str
    klass: str
    class_id: Id
    subject: str
    line: float
    standards: list[StudentStandard]
    domains: list[DomainLine]
    before: Id | None
    next: Id | None


def cell_page(ctx: Context, actor: Actor, person_id: int, standard_id: int) -> CellPage:
    """Of one student and standard. NotFound where the student is not theirs to see."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        person, standard = db.get(Person, person_id), db.get(Standard, standard_id)
        if person is None or standard is None:
            raise NotFound("there is no such student or standard")
        class_of_student(db, actor, person_id, standard.subject)
        mine = judge(ctx, db, source(ctx, db), [person_id], [standard_id], local_today(ctx, db))
        dates = dates_of(db)
    n = int(mine.occasions.count[0])
    known = n > 0
    low, high = mine.between([0])
    rows = mine.rows_of(0)
    begin = int(mine.occasions.day[0, int(mine.filter.begins[0, n - 1])]) if known else 0
    bars = mine.filter.posterior[0].reshape(BARS, -1).sum(axis=1)
    return CellPage(
        says=mine.told(0, dates),
        person=person_id,
        name=person.name,
        standard=standard.id,
        code=standard.code,
        text=standard.text,
        plain=standard.plain,
        state=STATES[mine.states.now[0]],
        share=mine.share(0),
        mean=float(mine.filter.mean[0, n - 1]) if known else None,
        low=float(low[0]) if known else None,
        high=float(high[0]) if known else None,
        above=float(mine.filter.above[0, n - 1]) if known else None,
        line=mine.rules.line,
        bars=[float(b) for b in bars],
        since=_day(int(mine.states.since[0])),
        lapsed=_day(int(mine.states.lapsed[0])),
        again=bool(mine.again.now[0]),
        way=mine.direction(0).way,
        unusual=sum(r.possible for r in rows if np.isnan(r.p)),
        history=[
            StateOn(
                day=as_day(int(mine.occasions.day[0, t])),
                state=STATES[mine.states.history[0, t]],
                above=float(mine.filter.above[0, t]),
                share=float(mine.occasions.raw_earned[0, t] / mine.occasions.raw_possible[0, t]),
            )
            for t in range(n)
        ],
        pieces=[
            RunPiece(
                day=as_day(r.day),
                session=r.session,
                test=mine.given[r.given].form,
                item=mine.given[r.given].codes[r.column],
                number=mine.given[r.given].numbers[r.column],
                earned=r.earned,
                possible=r.possible,
                p=None if np.isnan(r.p) else r.p,
                in_run=r.day >= begin,
            )
            for r in rows
        ],
    )


def _day(ordinal: int) -> date | None:
    return as_day(ordinal) if ordinal else None


def student_mastery(ctx: Context, actor: Actor, person_id: int, subject: str) -> StudentMastery:
    """A student's standards in a subject, weakest first, beside the class."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        person = db.get(Person, person_id)
        if person is None:
            raise NotFound("there is no such student")
        klass = class_of_student(db, actor, person_id, subject)
        mates = students_of(db, klass.id)
        found = source(ctx, db)
        rows = db.scalars(
            select(Standard)
            .where(Standard.id.in_(standards_with_evidence(found, [person_id])), Standard.subject == subject)
            .order_by(Standard.grade, Standard.position, Standard.id)
        ).all()
        people = [s.id for s in mates]
        whole = judge(ctx, db, found, people, [s.id for s in rows], local_today(ctx, db))
        dates = dates_of(db)
        parents = {p.id: p.text or p.code for p in db.scalars(select(Standard))}
        of_grade = db.scalars(select(Standard).where(Standard.subject == subject)).all()
        domain_of = {s.id: parents.get(s.parent_id or 0, "") for s in of_grade}
        headings = {s.parent_id for s in of_grade}
        every = [(s.id, domain_of[s.id], s.grade) for s in of_grade if s.id not in headings]
        about = [(s.id, s.code, s.text, domain_of[s.id], s.grade) for s in rows]
    me = people.index(person_id)
    cells = [whole.at(me, at) for at in range(len(about))]
    low, high = whole.between(cells) if cells else (np.zeros(0), np.zeros(0))
    lines = [
        _standard(whole, me, at, one, float(low[at]), float(high[at]), whole.told(cells[at], dates))
        for at, one in enumerate(about)
    ]
    lines.sort(key=lambda s: (s.mean, s.code))
    return StudentMastery(
        finding=_finding(person.name, lines),
        person=person_id,
        name=person.name,
        klass=klass.title,
        class_id=klass.id,
        subject=subject,
        line=whole.rules.line,
        standards=lines,
        domains=_domains(every, lines),
        before=people[me - 1] if me > 0 else None,
        next=people[me + 1] if me + 1 < len(people) else None,
    )


def _standard(
    whole: Judged, me: int, at: int, about: tuple[int, str, str, str, str], low: float, high: float, says: str
) -> StudentStandard:
    cell = whole.at(me, at)
    n = int(whole.occasions.count[cell])
    others = np.array([whole.states.now[whole.at(p, at)] for p in range(len(whole.people)) if p != me])
    known = others[others > 1]
    share = float((known >= MASTERED).mean()) if known.size >= LEAST else None
    line = whole.rules.line
    side = "clearly above" if low >= line else "clearly below" if high < line else "unsure"
    if whole.states.now[cell] == INSUFFICIENT:
        side = "too thin"
    id, code, text, domain, grade = about
    return StudentStandard(
        standard=id,
        code=code,
        text=text,
        domain=domain,
        grade=grade,
        state=STATES[whole.states.now[cell]],
        says=says,
        mean=float(whole.filter.mean[cell, n - 1]),
        low=low,
        high=high,
        amount=float(whole.states.run_possible[cell]),
        side=side,
        way=whole.direction(cell).way,
        again=bool(whole.again.now[cell]),
        class_share=share,
        class_n=int(known.size),
        relative=side == "clearly below" and share is not None and share >= 0.5,
    )


def _domains(every: list[tuple[int, str, str]], lines: list[StudentStandard]) -> list[DomainLine]:
    state = {int(s.standard): s.state for s in lines}
    places: dict[tuple[str, str], list[int]] = {}
    for id, domain, grade in every:
        places.setdefault((domain, grade), []).append(id)
    found = []
    for (domain, grade), ids in places.items():
        assessed = [state[id] for id in ids if id in state and state[id] != STATES[1]]
        if not assessed:
            continue
        mastered = sum(s in (STATES[4], STATES[5]) for s in assessed)
        found.append(
            DomainLine(
                domain=domain, grade=grade, mastered=mastered, assessed=len(assessed), open=len(ids) - len(assessed)
            )
        )
    return sorted(found, key=lambda d: (d.grade, d.domain))


def _finding(name: str, lines: list[StudentStandard]) -> str:
    if not lines:
        return f"{name} has no evidence on any standard yet."
    mastered = sum(s.state in (STATES[4], STATES[5]) for s in lines)
    below = [s for s in lines if s.side == "clearly below"]
    unsure = sum(s.side == "unsure" for s in lines)
    text = f"{mastered} of {len(lines)} standards with evidence are mastered; {len(below)} clearly below the line, of {unsure} it cannot be told."
    own = [s for s in below if s.relative]
    if own:
        text += f" {own[0].code} is weak here and not in the class."
    elif below:
        text += f" Weakest: {below[0].code}."
    return text
