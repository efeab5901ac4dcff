"""Standards by schools and grades: who has mastered them, with intervals; small groups hidden; untaught standards no weakness."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.stats import norm
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.classical.intervals import wilson
from bildung.core.grades import in_grade_order
from bildung.core.items.shown import percent
from bildung.core.mastery.states import INSUFFICIENT, MASTERED
from bildung.core.school.privacy import hidden_groups
from bildung.services.calendar.years import local_today
from bildung.services.mastery.judging import whole_of
from bildung.services.mastery.reached import reached_by_grade
from bildung.services.mastery.view import Judged, view
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.settings import setting
from bildung.services.shared.wire import Id
from bildung.store.models import Enrolment, Person, School, SchoolClass, Standard

SURE = 0.05  # of all places of a standard together


@dataclass(frozen=True, kw_only=True)
class DistrictCell:
    """n: students with evidence that is not thin, of all students; share of them that has mastered it, with its 95% interval; None where they
    are too few to show. stands: below or above the other places, beyond chance; taught: the pacing guide has reached it."""

    n: int | None
    of: int
    share: float | None
    ci95: list[float] | None
    stands: str
    taught: bool


@dataclass(frozen=True, kw_only=True)
class DistrictLine:
    """A standard; all: in all places together, cells: in the order of the places."""

    standard: Id
    code: str
    text: str
    domain: str
    grade: str
    priority: bool
    all: DistrictCell
    cells: list[DistrictCell]


@dataclass(frozen=True, kw_only=True)
class DistrictPlace:
    """A school or a grade."""

    id: str
    label: str
    students: int


@dataclass(frozen=True, kw_only=True)
class DistrictPage:
    """by: school, or grade where no grade is chosen. least: fewest students that are shown."""

    finding: str
    subjects: list[str]
    subject: str
    grades: list[str]
    grade: str
    places: list[DistrictPlace]
    lines: list[DistrictLine]
    least: int
    guide: bool


def district_page(ctx: Context, actor: Actor, subject: str = "", grade: str = "") -> DistrictPage:
    """Of all classes of today that this person may see; a grade by schools, or all grades side by side."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        rows = db.execute(
            select(SchoolClass.subject, SchoolClass.grade, SchoolClass.school_id, School.name, Enrolment.person_id)
            .join(School, School.id == SchoolClass.school_id)
            .join(Enrolment, Enrolment.class_id == SchoolClass.id)
            .join(Person, Person.id == Enrolment.person_id)
            .where(
                SchoolClass.active.is_(True),
                SchoolClass.subject != "",
                Enrolment.role == "student",
                Enrolment.active.is_(True),
                Person.active.is_(True),
                scope(actor, Action.MASTERY_READ),
            )
        ).all()
        subjects = sorted({s for s, *_ in rows})
        subject = subject or (subjects[0] if subjects else "")
        if subject and subject not in subjects:
            raise NotFound("there is no class of this subject that you may see")
        mine = [row for row in rows if row[0] == subject]
        grades = in_grade_order({g for _, g, *_ in mine if g})
        if grade and grade not in grades:
            raise Invalid(f"there is no class of grade {grade}; there are {', '.join(grades)}", "grade")
        places: dict[str, tuple[str, set[int]]] = {}
        order = {str(s): name for _, _, s, name, _ in mine}
        members: dict[str, set[int]] = defaultdict(set)
        for _, g, s, _, person in mine:
            if grade and g == grade:
                members[str(s)].add(person)
            elif not grade:
                members[g].add(person)
        keys = sorted(members, key=lambda k: order[k]) if grade else [g for g in grades if g in members]
        places = {k: (order[k] if grade else f"Grade {k}", members[k]) for k in keys}
        least = setting(db, "least_inside")
        lines, guide = _lines(ctx, db, subject, grade, places, least)
    return DistrictPage(
        finding=_finding(lines, list(places.values()), subject, grade),
        subjects=subjects,
        subject=subject,
        grades=grades,
        grade=grade,
        places=[DistrictPlace(id=k, label=label, students=len(some)) for k, (label, some) in places.items()],
        lines=lines,
        least=least,
        guide=guide,
    )


def _lines(
    ctx: Context, db: Session, subject: str, grade: str, places: dict[str, tuple[str, set[int]]], least: int
) -> tuple[list[DistrictLine], bool]:
    people = sorted({p for _, some in places.values() for p in some})
    whole = whole_of(ctx, db, subject)
    rows = db.scalars(
        select(Standard).where(Standard.subject == subject).order_by(Standard.position, Standard.id)
    ).all()
    names = {s.id: s.text or s.code for s in rows}
    wanted = [s for s in rows if s.id in whole.standards and (not grade or s.grade == grade)]
    judged = view(whole, people, [s.id for s in wanted])
    guide = reached_by_grade(db, subject, local_today(ctx, db))
    members = [np.isin(np.array(people, dtype=np.int64), sorted(some)) for _, some in places.values()]
    grades = in_grade_order({s.grade for s in wanted})
    found = []
    for at, s in enumerate(wanted):
        known, mastered = _counts(judged, at)
        if not known.any():
            continue
        taught = guide[s.grade].has(s.id, s.grade) if s.grade in guide else True
        cells = _cells(known, mastered, members, least, taught)
        found.append(
            DistrictLine(
                standard=s.id,
                code=s.code,
                text=s.text,
                domain=names.get(s.parent_id or 0, ""),
                grade=s.grade,
                priority=s.priority,
                all=_cell(known, mastered, np.ones(len(people), dtype=np.bool_), least, taught),
                cells=cells,
            )
        )
    found.sort(key=lambda line: grades.index(line.grade))
    return found, any(g.guide for g in guide.values())


def _counts(judged: Judged, at: int) -> tuple[np.ndarray, np.ndarray]:
    now = judged.now[at :: len(judged.standards)]
    return now > INSUFFICIENT, now >= MASTERED


def _cells(
    known: np.ndarray, mastered: np.ndarray, members: Sequence[np.ndarray], least: int, taught: bool
) -> list[DistrictCell]:
    """Hidden where few are, and where that could be found by subtraction."""
    hidden = hidden_groups([int((known & some).sum()) for some in members], least)
    cells = []
    for some, is_hidden in zip(members, hidden, strict=True):
        cell = _cell(known, mastered, some, least, taught)
        if is_hidden:
            cell = replace(cell, n=None, share=None, ci95=None)
        elif taught and cell.share is not None:
            cell = replace(cell, stands=_stands(known, mastered, some, len(members)))
        cells.append(cell)
    return cells


def _cell(known: np.ndarray, mastered: np.ndarray, some: np.ndarray, least: int, taught: bool) -> DistrictCell:
    n, yes = int((known & some).sum()), int((mastered & some).sum())
    enough = n >= least
    return DistrictCell(
        n=n if enough or not n else None,
        of=int(some.sum()),
        share=yes / n if enough else None,
        ci95=list(wilson(yes, n)) if enough else None,
        stands="",
        taught=taught,
    )


def _stands(known: np.ndarray, mastered: np.ndarray, some: np.ndarray, places: int) -> str:
    """Against the other places together: the difference of two shares by its pooled error, Bonferroni over the places."""
    rest = known & ~some
    n, m = int((known & some).sum()), int(rest.sum())
    if places < 2 or not m:
        return ""
    here, there = int((mastered & some).sum()) / n, int((mastered & rest).sum()) / m
    pooled = (here * n + there * m) / (n + m)
    error = np.sqrt(pooled * (1 - pooled) * (1 / n + 1 / m))
    if not error:
        return ""
    z = (here - there) / error
    if abs(z) <= norm.ppf(1 - SURE / 2 / places):
        return ""
    return "above" if z > 0 else "below"


def _finding(lines: list[DistrictLine], places: Sequence[tuple[str, set[int]]], subject: str, grade: str) -> str:
    where = f"{subject}, grade {grade}" if grade else subject
    if not lines:
        return f"{where}: no standard has evidence yet." if where else "No class here is yours to see."
    taught = [line for line in lines if line.all.taught and line.all.share is not None]
    if not taught:
        return f"{where}: what has been taught so far has too little evidence to say anything of it."
    least = min(taught, key=lambda line: (line.all.share or 0.0, line.code))
    low, high = least.all.ci95 or [0.0, 1.0]
    text = (
        f"{where}: fewest have mastered {least.code}, {percent(least.all.share or 0.0)} of {least.all.n} "
        f"({percent(low)} to {percent(high)})."
    )
    below = [
        (line.code, label)
        for line in taught
        for cell, (label, _) in zip(line.cells, places, strict=True)
        if cell.stands == "below"
    ]
    if grade and len(places) > 1:
        if below:
            code, label = below[0]
            more = len(below) - 1
            text += f" {label} is below the other schools on {code}"
            text += f", and {more} more such {'difference' if more == 1 else 'differences'}." if more else "."
        else:
            text += " No school differs from the others by more than chance brings."
    early = sum(not line.all.taught for line in lines)
    if early:
        text += f" {early} {'standard was' if early == 1 else 'standards were'} not taught yet by the pacing guide and {'is' if early == 1 else 'are'} no weakness."
    return text
