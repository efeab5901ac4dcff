"""A student's standards in a subject: against the line and the class, what changed between two days, and the work behind it."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.grades import in_grade_order
from bildung.core.items.shown import counted
from bildung.core.mastery.changes import CHANGES
from bildung.core.mastery.states import INSUFFICIENT, MASTERED, STATES
from bildung.core.school.dates import Dates
from bildung.core.school.privacy import LEAST
from bildung.services.calendar.years import current_year, local_today
from bildung.services.mastery.cell import what_next
from bildung.services.mastery.evidence import Given, as_day
from bildung.services.mastery.judging import whole_of
from bildung.services.mastery.reached import Reached, reached
from bildung.services.mastery.scope import class_of_student, students_of
from bildung.services.mastery.view import Judged, standards_seen, view
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import FormItem, LaterAttempt, Person, ResponseComment, Sitting, Standard, TimeOn

USUALLY = timedelta(days=90)  # the stretch that changes are told of, where no year holds today


@dataclass(frozen=True, kw_only=True)
class StudentStandard:
    """A standard of a student. low, high: 90% interval; side: clearly above the line, clearly below, unsure, or too thin to say. class_share:
    of the class's students who have mastered it, of class_n; relative: it is weak here and not in the class. change: what became of it in
    the stretch that is looked at. next: what to do."""

    standard: Id
    code: str
    text: str
    domain: str
    grade: str
    place: int
    state: str
    says: str
    next: str
    change: str
    mean: float
    low: float
    high: float
    line: float
    amount: float
    side: str
    way: int
    again: bool
    taught: bool
    class_share: float | None
    class_n: int
    relative: bool


@dataclass(frozen=True, kw_only=True)
class DomainLine:
    """mastered of assessed standards of a grade; open: not assessed. says: all of it in words."""

    domain: str
    grade: str
    mastered: int
    assessed: int
    open: int
    says: str


@dataclass(frozen=True, kw_only=True)
class WorkItem:
    """An item that the student answered. seconds: before them, None where nobody counted. earned: None where no score is there yet."""

    number: int
    code: str
    standards: list[str]
    earned: float | None
    possible: float
    seconds: float | None
    comments: list[str]


@dataclass(frozen=True, kw_only=True)
class WorkTest:
    """attempts: at this test, later ones for practice included."""

    test: str
    minutes: float | None
    earned: float
    possible: float
    attempts: int
    items: list[WorkItem]


@dataclass(frozen=True, kw_only=True)
class WorkDay:
    """minutes: None where nobody counted."""

    day: date
    minutes: float | None
    tests: list[WorkTest]


@dataclass(frozen=True, kw_only=True)
class StudentMastery:
    """standards: weakest first. changes: how many gained, were confirmed again, lapsed, are in progress from first to last. next, before: other
    students of the class, by name. subjects: those that the student has a class in."""

    finding: str
    person: Id
    name: str
    klass: str
    class_id: Id
    subject: str
    line: float
    first: date
    last: date
    standards: list[StudentStandard]
    changes: dict[str, int]
    domains: list[DomainLine]
    work: list[WorkDay]
    before: Id | None
    next: Id | None


def student_mastery(
    ctx: Context, actor: Actor, person_id: int, subject: str, first: date | None = None, last: date | None = None
) -> StudentMastery:
    """first, last: the stretch that changes and work are told of; this school year until today where none is named."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        person = db.get(Person, person_id)
        if person is None:
            raise NotFound("there is no such student")
        klass = class_of_student(db, actor, person_id, subject)
        mates = [s.id for s in students_of(db, klass.id)]
        today = local_today(ctx, db)
        year = current_year(db, today)
        start = first or (year.start if year and year.start <= today else today - USUALLY)
        end = last or today
        if end < start:
            raise Invalid("the first day lies before the last", "last")
        whole = whole_of(ctx, db, subject)
        of_subject = db.scalars(
            select(Standard).where(Standard.subject == subject).order_by(Standard.position, Standard.id)
        ).all()
        seen = standards_seen(whole, [person_id])
        rows = [s for s in of_subject if s.id in seen]
        mine = view(whole, mates, [s.id for s in rows])
        me = mates.index(person_id)
        names = {s.id: s.text or s.code for s in of_subject}
        headings = {s.parent_id for s in of_subject}
        guide = reached(db, subject, klass.grade, today, klass.id)
        every = [(s.id, names.get(s.parent_id or 0, ""), s.grade) for s in of_subject if s.id not in headings]
        work = _work(db, whole.given, {s.id: s.code for s in of_subject}, mine, me, person_id, start, end)
        lines = _standards(mine, me, rows, names, guide, dates_of(db), start, end)
    return StudentMastery(
        finding=_finding(person.name, lines),
        person=person_id,
        name=person.name,
        klass=klass.title,
        class_id=klass.id,
        subject=subject,
        line=lines[0].line if lines else whole.ruling[0].rules.line,
        first=start,
        last=end,
        standards=lines,
        changes={word: n for word, n in Counter(s.change for s in lines).items() if word},
        domains=_domains(every, lines),
        work=work,
        before=mates[me - 1] if me > 0 else None,
        next=mates[me + 1] if me + 1 < len(mates) else None,
    )


def _standards(
    mine: Judged,
    me: int,
    rows: Sequence[Standard],
    names: dict[int, str],
    guide: Reached,
    dates: Dates,
    start: date,
    end: date,
) -> list[StudentStandard]:
    cells = [mine.cell(me, at) for at in range(len(rows))]
    low, high = mine.between(cells)
    changed = mine.changed(start.toordinal(), end.toordinal()).reshape(mine.shape)
    now, mean = mine.now.reshape(mine.shape), mine.mean.reshape(mine.shape)
    lines = []
    for at, s in enumerate(rows):
        cell = cells[at]
        if not mine.whole.occasions.count[cell]:
            continue
        others = np.delete(now[:, at], me)
        known = others[others > INSUFFICIENT]
        share = float((known >= MASTERED).mean()) if known.size >= LEAST else None
        line = mine.line(cell)
        side = "clearly above" if low[at] >= line else "clearly below" if high[at] < line else "unsure"
        if now[me, at] == INSUFFICIENT:
            side = "too thin"
        taught = guide.has(s.id, s.grade)
        lines.append(
            StudentStandard(
                standard=s.id,
                code=s.code,
                text=s.text,
                domain=names.get(s.parent_id or 0, ""),
                grade=s.grade,
                place=at,
                state=STATES[now[me, at]],
                says=mine.told(cell, dates),
                next=what_next(mine, cell, taught, dates),
                change=CHANGES[changed[me, at]],
                mean=float(mean[me, at]),
                low=float(low[at]),
                high=float(high[at]),
                line=line,
                amount=float(mine.whole.states.run_possible[cell]),
                side=side,
                way=int(mine.whole.ways.way[cell]),
                again=bool(mine.whole.again.now[cell]),
                taught=taught,
                class_share=share,
                class_n=int(known.size),
                relative=side == "clearly below" and share is not None and share >= 0.5,
            )
        )
    return sorted(lines, key=lambda s: (s.mean, s.code))


def _domains(every: list[tuple[int, str, str]], lines: list[StudentStandard]) -> list[DomainLine]:
    state = {int(s.standard): s.state for s in lines}
    places: dict[tuple[str, str], list[int]] = {}
    for id, domain, grade in every:
        places.setdefault((domain, grade), []).append(id)
    found = []
    for (domain, grade), ids in places.items():
        assessed = [state[id] for id in ids if id in state and STATES.index(state[id]) > INSUFFICIENT]
        if not assessed:
            continue
        mastered = sum(STATES.index(s) >= MASTERED for s in assessed)
        left = len(ids) - len(assessed)
        says = f"Mastered {mastered} of {counted(len(ids), f'grade {grade} standard')}"
        found.append(
            DomainLine(
                domain=domain,
                grade=grade,
                mastered=mastered,
                assessed=len(assessed),
                open=left,
                says=f"{says}, {left} not assessed" if left else says,
            )
        )
    order = in_grade_order({d.grade for d in found})
    return sorted(found, key=lambda d: (order.index(d.grade), d.domain))


def _work(
    db: Session,
    given: Sequence[Given],
    codes: dict[int, str],
    mine: Judged,
    me: int,
    person: int,
    start: date,
    end: date,
) -> list[WorkDay]:
    """Tests of the subject in these days, each with its items, how long they took, and what was said of them."""
    whole = mine.whole
    of_item: dict[tuple[int, int], list[str]] = defaultdict(list)
    by_place = {at: s for s, at in whole.standards.items()}
    cells = np.flatnonzero(whole.keys // max(1, len(whole.standards)) == whole.people.get(person, -1))
    for points in (whole.points, whole.aside):
        for row in np.flatnonzero(np.isin(points.cell, cells)):
            standard = by_place[int(whole.keys[points.cell[row]] % len(whole.standards))]
            of_item[int(points.given[row]), int(points.column[row])].append(codes[standard])
    sat: dict[int, int] = dict(
        db.execute(select(Sitting.session_id, Sitting.id).where(Sitting.person_id == person)).all()
    )
    times = dict(_times(db, list(sat.values())))
    comments: dict[tuple[int, int], list[str]] = defaultdict(list)
    for sitting, number, text in db.execute(
        select(ResponseComment.sitting_id, FormItem.position, ResponseComment.text)
        .join(FormItem, FormItem.id == ResponseComment.form_item_id)
        .where(ResponseComment.sitting_id.in_(list(sat.values())))
    ):
        comments[sitting, number].append(text)
    later = dict(
        db.execute(
            select(LaterAttempt.sitting_id, func.count())
            .where(LaterAttempt.sitting_id.in_(list(sat.values())))
            .group_by(LaterAttempt.sitting_id)
        ).all()
    )
    days: dict[date, list[WorkTest]] = defaultdict(list)
    for place, one in enumerate(given):
        for row in np.flatnonzero(one.people == person):
            day = as_day(int(one.day[row]))
            items = [c for c in range(len(one.versions)) if (place, c) in of_item]
            if not one.form_id or not items or not start <= day <= end:
                continue
            sitting = sat.get(int(one.session[row]), 0)
            told = [
                WorkItem(
                    number=one.numbers[c],
                    code=one.codes[c],
                    standards=sorted(set(of_item[place, c])),
                    earned=None if np.isnan(one.points[row, c]) else float(one.points[row, c]),
                    possible=float(one.possible[c]),
                    seconds=times.get((sitting, one.numbers[c])),
                    comments=comments.get((sitting, one.numbers[c]), []),
                )
                for c in items
            ]
            spent = [i.seconds for i in told if i.seconds is not None]
            days[day].append(
                WorkTest(
                    test=one.form,
                    minutes=sum(spent) / 60 if spent else None,
                    earned=sum(i.earned or 0.0 for i in told),
                    possible=sum(i.possible for i in told if i.earned is not None),
                    attempts=1 + later.get(sitting, 0),
                    items=told,
                )
            )
    return [
        WorkDay(
            day=day,
            minutes=sum(t.minutes for t in tests if t.minutes is not None)
            if any(t.minutes is not None for t in tests)
            else None,
            tests=tests,
        )
        for day, tests in sorted(days.items(), reverse=True)
    ]


def _times(db: Session, sittings: list[int]) -> list[tuple[tuple[int, int], float]]:
    """Seconds by sitting and number of the item, over all devices."""
    rows = db.execute(
        select(TimeOn.sitting_id, FormItem.position, func.sum(TimeOn.milliseconds))
        .join(FormItem, FormItem.id == TimeOn.form_item_id)
        .where(TimeOn.sitting_id.in_(sittings))
        .group_by(TimeOn.sitting_id, FormItem.position)
    )
    return [((sitting, number), total / 1000) for sitting, number, total in rows]


def _finding(name: str, lines: list[StudentStandard]) -> str:
    if not lines:
        return f"{name} has no evidence on any standard yet."
    mastered = sum(STATES.index(s.state) >= MASTERED for s in lines)
    weak = [s for s in lines if s.side == "clearly below"]
    below = [s for s in weak if s.taught]
    early = len(weak) - len(below)
    unsure = sum(s.side == "unsure" for s in lines)
    text = f"{mastered} of {counted(len(lines), 'standard')} with evidence mastered; {len(weak)} clearly below the line"
    text += f" ({early} not taught yet)" if early else ""
    text += f", {unsure} could be on either side of it." if unsure else "."
    own = [s for s in below if s.relative]
    if own:
        text += f" {own[0].code} is weak here and not in the class."
    elif below:
        text += f" Weakest: {below[0].code}."
    gained = [s for s in lines if s.change == "gained"]
    lapsed = [s for s in lines if s.change == "lapsed"]
    if gained or lapsed:
        text += f" In these days {len(gained)} gained, {len(lapsed)} lapsed."
    return text
