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
from bildung.services.mastery.evidence import as_day
from bildung.services.mastery.judging import Points, Whole, whole_of
from bildung.services.mastery.reached import reached
from bildung.services.mastery.scope import InClass, class_named, students_of, students_of_grade
from bildung.services.mastery.tags import usual_p
from bildung.services.mastery.view import Judged, view
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import Item, ItemStandard, ItemVersion, Standard

RECENT = timedelta(days=42)  # who changed within them is named
SHOWN = 12
USABLE = ("ready", "in_use", "field_test")


@dataclass(frozen=True, kw_only=True)
class StandardItem:
    """An item of a session: share of its points that the class has."""

    code: str
    number: int
    share: float | None
    n: int


@dataclass(frozen=True, kw_only=True)
class AgainItem:
    """An item of the bank that could test it again. seen: whether the class has had it."""

    id: Id
    code: str
    kind: str
    p: float | None
    seen: bool


@dataclass(frozen=True, kw_only=True)
class StandardSession:
    """A test that had the standard, or a live round, or what was entered by hand. share: of the class's points, ci95 its 95% interval; grade:
    share of all who took it, where they are enough. form, window: for its page in Item quality, where it was a test."""

    day: date
    test: str
    form_id: Id | None
    window_id: Id | None
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
    """retestable: how many items of the bank could test it that this person sees; again: the first of them, those the class has not had in
    front. reteach, enrich: who needs which. taught: whether the pacing guide has reached it. may_enter:
    scores and observations; may_practice: make practice of items."""

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
    again: list[AgainItem]
    taught: bool
    may_enter: bool
    may_practice: bool
    today: date


def standard_page(ctx: Context, actor: Actor, class_id: int, standard_id: int) -> StandardPage:
    """Of one class."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        klass = class_named(db, actor, class_id)
        standard = db.get(Standard, standard_id)
        if standard is None or standard.subject != klass.subject:
            raise NotFound("there is no such standard of this subject")
        students = students_of(db, klass.id)
        today = local_today(ctx, db)
        whole = whole_of(ctx, db, klass.subject)
        mine = view(whole, [s.id for s in students], [standard.id])
        peers = students_of_grade(db, klass.subject, [klass.grade])
        sessions = _sessions(whole, standard.id, mine, set(peers))
        retestable, again = _retestable(ctx, db, actor, standard.id, whole, mine)
        taught = reached(db, klass.subject, klass.grade, today, klass.id).has(standard.id, standard.grade)
        dates = dates_of(db)
    lines = _students(mine, students, today, dates)
    now = mine.now
    return StandardPage(
        finding=_finding(standard.code, klass.title, now, sessions, taught),
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
        again=again,
        taught=taught,
        may_enter=actor.may(Action.MASTERY_ENTER),
        may_practice=actor.may(Action.TESTS_WRITE),
        today=today,
    )


def _sessions(whole: Whole, standard: int, mine: Judged, peers: set[int]) -> list[StandardSession]:
    """Each that this class had, from what counts."""
    own = set(mine.at[mine.at < whole.keys.size].tolist())
    of_standard = np.flatnonzero(whole.keys % max(1, len(whole.standards)) == whole.standards.get(standard, -1))
    person = {at: p for p, at in whole.people.items()}
    others = {int(c) for c in of_standard if person[int(whole.keys[c]) // len(whole.standards)] in peers}
    points = whole.points.take(np.flatnonzero(np.isin(whole.points.cell, of_standard)))
    in_class, in_grade = np.isin(points.cell, list(own)), np.isin(points.cell, list(others))
    lines = []
    for number in np.unique(points.given[in_class]):
        here = points.given == number
        lines.append(_session(whole, int(number), points, here & in_class, here & in_grade))
    return sorted(lines, key=lambda s: s.day)


def _session(whole: Whole, number: int, points: Points, mine: np.ndarray, grade: np.ndarray) -> StandardSession:
    one = whole.given[number]
    earned, possible = float(points.earned[mine].sum()), float(points.possible[mine].sum())
    n, grade_n = np.unique(points.cell[mine]).size, np.unique(points.cell[grade]).size
    tested = one.form_id > 0
    items = [
        StandardItem(
            code=one.codes[column] if tested or one.kind == "live" else "",
            number=one.numbers[column],
            share=float(points.earned[at].sum() / points.possible[at].sum()),
            n=int(at.sum()),
        )
        for column in np.unique(points.column[mine]).tolist()
        for at in (mine & (points.column == column),)
    ]
    return StandardSession(
        day=as_day(int(points.day[mine].max())),
        test=one.form,
        form_id=one.form_id if tested else None,
        window_id=one.test[2] if tested else None,
        n=int(n),
        share=earned / possible,
        ci95=list(wilson(earned, possible)),
        grade=float(points.earned[grade].sum() / points.possible[grade].sum()) if grade_n >= LEAST + n else None,
        grade_n=int(grade_n),
        items=items,
    )


def _students(mine: Judged, students: Sequence[InClass], today: date, dates: Dates) -> list[StandardStudent]:
    aliases = alias_numbers(mine.people)
    lines = []
    w = mine.whole
    for at, student in enumerate(students):
        cell = mine.cell(at, 0)
        n = int(w.occasions.count[cell])
        changed = ""
        if n > 1 and as_day(int(w.occasions.day[cell, n - 1])) >= today - RECENT:
            before = int(w.states.history[cell, n - 2])
            changed = STATES[before] if before != w.states.now[cell] else ""
        lines.append(
            StandardStudent(
                person=student.id,
                name=student.name,
                alias=aliases[at],
                state=STATES[w.states.now[cell]],
                says=mine.told(cell, dates),
                changed=changed,
                again=bool(w.again.now[cell]),
            )
        )
    return sorted(lines, key=lambda s: (STATES.index(s.state), s.name))


@dataclass(frozen=True, kw_only=True)
class ItemOnStandard:
    """An item of the bank on a standard. p: usual, None where too few took it; seen: a student of the class had it."""

    id: int
    code: str
    kind: str
    version: int
    p: float | None
    seen: bool


def items_for(
    ctx: Context, db: Session, actor: Actor, standard: int, whole: Whole, mine: Judged
) -> list[ItemOnStandard]:
    """Of the bank; none of a secure test, as whoever asks does not see its items."""
    if not actor.may(Action.BANK_READ):
        return []
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    rows = db.execute(
        select(Item.id, Item.code, ItemVersion.kind, ItemVersion.id)
        .join(ItemVersion, ItemVersion.item_id == Item.id)
        .join(ItemStandard, ItemStandard.item_version_id == ItemVersion.id)
        .where(
            ItemVersion.id.in_(newest),
            ItemStandard.standard_id == standard,
            ItemStandard.rank == 0,
            Item.state.in_(USABLE),
            ItemVersion.template.is_(None),  # only its draws are given
            scope(actor, Action.BANK_READ),
        )
        .order_by(Item.code)
    ).all()
    p = usual_p(ctx, db)
    people = np.array(mine.people, dtype=np.int64)
    had = {v for one in whole.given if np.isin(people, one.people).any() for v in one.versions}
    return [
        ItemOnStandard(id=id, code=code, kind=kind, version=v, p=p.get(v), seen=v in had) for id, code, kind, v in rows
    ]


def _retestable(
    ctx: Context, db: Session, actor: Actor, standard: int, whole: Whole, mine: Judged
) -> tuple[int, list[AgainItem]]:
    items = items_for(ctx, db, actor, standard, whole, mine)
    first = sorted(items, key=lambda i: (i.seen, i.code))[:SHOWN]
    return len(items), [AgainItem(id=i.id, code=i.code, kind=i.kind, p=i.p, seen=i.seen) for i in first]


def _finding(code: str, klass: str, now: np.ndarray, sessions: Sequence[StandardSession], taught: bool) -> str:
    assessed, mastered = int((now > INSUFFICIENT).sum()), int((now >= MASTERED).sum())
    if not sessions:
        return f"{klass} has no evidence on {code} yet."
    if not assessed:
        return f"{klass} on {code}: too little evidence of any student to say."
    if mastered:
        text = f"{mastered} of {counted(assessed, 'student')} with enough evidence have mastered {code}."
    else:
        text = f"None of the {counted(assessed, 'student')} with enough evidence has mastered {code}."
    if not taught:
        text += " By the pacing guide it has not been taught yet."
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
