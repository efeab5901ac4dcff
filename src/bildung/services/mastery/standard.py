"""A standard in a class: the sessions that had it, its students by state, who needs it taught again and who more of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.classical.intervals import wilson
from bildung.core.items.shown import counted
from bildung.core.mastery.states import INSUFFICIENT, MASTERED, STATES
from bildung.core.school.dates import Dates
from bildung.core.school.privacy import LEAST, alias_numbers
from bildung.services.calendar.years import local_today
from bildung.services.mastery.evidence import Given, as_day
from bildung.services.mastery.judging import Judged, Source, judge, source
from bildung.services.mastery.scope import InClass, class_named, students_of, students_of_grade
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import Item, ItemStandard, ItemVersion, PlannedSession, Standard

RECENT = timedelta(days=42)  # who changed within them is named
USABLE = ("ready", "in_use", "field_test")


@dataclass(frozen=True, kw_only=True)
class StandardItem:
    """An item of a session: share of its points that the class has."""

    code: str
    number: int
    share: float | None
    n: int


@dataclass(frozen=True, kw_only=True)
class StandardSession:
    """A test that had the standard. share: of the class's points, ci95 its 95% interval; grade: share of all who took it, where they are
    enough. form, window: for its page in Item quality."""

    day: date
    test: str
    form_id: Id
    window_id: Id
    n: int
    share: float
    ci95: list[float]
    grade: float | None
    grade_n: int
    items: list[StandardItem]


@dataclass(frozen=True, kw_only=True)
class StandardStudent:
    """changed: state before the last occasion, empty where it is the same or older than six weeks. again: to be checked again."""

    person: Id
    name: str
    alias: int
    state: str
    says: str
    changed: str
    again: bool


@dataclass(frozen=True, kw_only=True)
class StandardPage:
    """retestable: items of the bank that could test it and that this person sees. reteach, enrich: who needs which."""

    finding: str
    standard: Id
    code: str
    text: str
    plain: str
    klass: str
    class_id: Id
    subject: str
    sessions: list[StandardSession]
    students: list[StandardStudent]
    reteach: list[Id]
    enrich: list[Id]
    retestable: int


def standard_page(ctx: Context, actor: Actor, class_id: int, standard_id: int) -> StandardPage:
    """Of one class."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        klass = class_named(db, actor, class_id)
        standard = db.get(Standard, standard_id)
        if standard is None or standard.subject != klass.subject:
            raise NotFound("there is no such standard of this subject")
        students = students_of(db, klass.id)
        found = source(ctx, db)
        today = local_today(ctx, db)
        mine = judge(ctx, db, found, [s.id for s in students], [standard.id], today)
        peers = students_of_grade(db, klass.subject, klass.grade)
        sessions = _sessions(db, found, standard.id, {s.id for s in students}, set(peers))
        retestable = _retestable(db, actor, standard.id)
        dates = dates_of(db)
    lines = _students(mine, students, today, dates)
    now = mine.states.now
    return StandardPage(
        finding=_finding(standard.code, klass.title, now, sessions),
        standard=standard_id,
        code=standard.code,
        text=standard.text,
        plain=standard.plain,
        klass=klass.title,
        class_id=class_id,
        subject=klass.subject,
        sessions=sessions,
        students=lines,
        reteach=[mine.people[at] for at in np.flatnonzero((now > INSUFFICIENT) & (now < MASTERED)).tolist()],
        enrich=[mine.people[at] for at in np.flatnonzero(now >= MASTERED).tolist()],
        retestable=retestable,
    )


def _sessions(db: Session, found: Source, standard: int, people: set[int], peers: set[int]) -> list[StandardSession]:
    windows = dict(db.execute(select(PlannedSession.id, PlannedSession.window_id)).all())
    lines = []
    for one in found.given:
        columns = [
            at for at, v in enumerate(one.versions) if any(t.standard == standard for t in found.tags.get(v, ()))
        ]
        rows = np.flatnonzero(np.isin(one.people, list(people)))
        if one.modified or not columns or not rows.size:
            continue
        line = _session(one, columns, rows, np.flatnonzero(np.isin(one.people, list(peers))), windows)
        if line is not None:
            lines.append(line)
    return sorted(lines, key=lambda s: s.day)


def _session(
    one: Given,
    columns: Sequence[int],
    rows: np.ndarray,
    peers: np.ndarray,
    windows: dict[int, int],
) -> StandardSession | None:
    earned, possible = _sum(one, columns, rows)
    if not possible:
        return None
    all_earned, all_possible = _sum(one, columns, peers)
    items = []
    for at in columns:
        e, m = _sum(one, [at], rows)
        items.append(
            StandardItem(
                code=one.codes[at],
                number=one.numbers[at],
                share=e / m if m else None,
                n=int((~np.isnan(one.points[rows, at])).sum()),
            )
        )
    return StandardSession(
        day=as_day(int(one.day[rows].max())),
        test=one.form,
        form_id=one.form_id,
        window_id=windows[int(one.session[rows[0]])],
        n=int(rows.size),
        share=earned / possible,
        ci95=list(wilson(earned, possible)),
        grade=all_earned / all_possible if peers.size >= LEAST + rows.size else None,
        grade_n=int(peers.size),
        items=items,
    )


def _sum(one: Given, columns: Sequence[int], rows: np.ndarray) -> tuple[float, float]:
    which = np.array(columns)
    points = one.points[np.ix_(rows, which)]
    has = ~np.isnan(points)
    return float(np.nansum(points)), float((has * one.possible[which]).sum())


def _students(mine: Judged, students: Sequence[InClass], today: date, dates: Dates) -> list[StandardStudent]:
    aliases = alias_numbers(mine.people)
    lines = []
    for at, student in enumerate(students):
        n = int(mine.occasions.count[at])
        changed = ""
        if n > 1 and as_day(int(mine.occasions.day[at, n - 1])) >= today - RECENT:
            before = int(mine.states.history[at, n - 2])
            changed = STATES[before] if before != mine.states.now[at] else ""
        lines.append(
            StandardStudent(
                person=student.id,
                name=student.name,
                alias=aliases[at],
                state=STATES[mine.states.now[at]],
                says=mine.told(at, dates),
                changed=changed,
                again=bool(mine.again.now[at]),
            )
        )
    return sorted(lines, key=lambda s: (STATES.index(s.state), s.name))


def _retestable(db: Session, actor: Actor, standard: int) -> int:
    """None of a secure test, as whoever asks does not see its items."""
    if not actor.may(Action.BANK_READ):
        return 0
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    wanted = (
        select(func.count())
        .select_from(Item)
        .join(ItemVersion, ItemVersion.item_id == Item.id)
        .join(ItemStandard, ItemStandard.item_version_id == ItemVersion.id)
        .where(
            ItemVersion.id.in_(newest),
            ItemStandard.standard_id == standard,
            ItemStandard.rank == 0,
            Item.state.in_(USABLE),
            scope(actor, Action.BANK_READ),
        )
    )
    return db.scalar(wanted) or 0


def _finding(code: str, klass: str, now: np.ndarray, sessions: Sequence[StandardSession]) -> str:
    assessed, mastered = int((now > INSUFFICIENT).sum()), int((now >= MASTERED).sum())
    if not sessions:
        return f"{klass} has no evidence on {code} yet."
    if not assessed:
        return f"{klass} on {code}: too little evidence of any student to say."
    if mastered:
        text = f"{mastered} of {counted(assessed, 'student')} with enough evidence have mastered {code}."
    else:
        text = f"None of the {counted(assessed, 'student')} with enough evidence has mastered {code}."
    last = sessions[-1]
    if last.grade is not None:
        low, high = last.ci95
        if high < last.grade:
            text += f" In {last.test} the class was below the grade."
        elif low > last.grade:
            text += f" In {last.test} the class was above the grade."
        else:
            text += f" Whether the class differs from the grade in {last.test} cannot be told."
    return text
