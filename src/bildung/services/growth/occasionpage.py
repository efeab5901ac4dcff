"""One occasion of a measure: who is at which level, by grade, school and class, and how sure that is."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.classical.intervals import wilson
from bildung.core.grades import in_grade_order
from bildung.core.growth.skills import skills_found
from bildung.core.items.shown import counted, percent
from bildung.core.school.privacy import alias_numbers, hidden_groups
from bildung.services.forms.levels import newest_cuts
from bildung.services.growth.classes import Placed, placed_at
from bildung.services.growth.cuts import table_at
from bildung.services.growth.head import LevelChoice, MeasureHead, by_grade_order, head_of, school_choices
from bildung.services.growth.measures import NormSetLine, measure_named, norms_of
from bildung.services.growth.occasions import OccasionLine, occasion_line, occasion_named
from bildung.services.growth.own import ScoreAt
from bildung.services.growth.scored import lines_of, newest_norms, scores_at, sign_of, table_of
from bildung.services.growth.seen import MOST_DRAWN, names_of
from bildung.services.growth.standing import UNKNOWN, StandingOf, standings
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.settings import setting
from bildung.services.shared.wire import Id
from bildung.store.models import Measure, Occasion, School


@dataclass(frozen=True, kw_only=True)
class ScoredStudent:
    """A student with a score. standing: where it stands. marks: what is to be known of the attempt."""

    id: Id
    name: str
    alias: int
    klass: str
    grade: str
    score: float
    se: float | None
    standing: StandingOf
    marks: list[str]


@dataclass(frozen=True, kw_only=True)
class LevelGroup:
    """A grade, class or school: how many at each level, and the share at the level to reach or better with its 95% interval."""

    id: Id
    name: str
    grade: str
    n: int
    counts: list[int]
    share: float | None
    ci95: list[float] | None
    near: int
    hidden: bool


@dataclass(frozen=True, kw_only=True)
class SkillLine:
    """A skill in learning order: of n students with a score how many are ready to leave it. focus: the first that fewer than four in five
    are ready to leave. open: students whose first open skill it is, by name where they may be named."""

    measure_id: Id
    name: str
    n: int
    ready: int
    share: float | None
    focus: bool
    open: list[str]


@dataclass(frozen=True, kw_only=True)
class OccasionPage:
    """levels: names, lowest first, empty without cut scores. goal: place of the level to reach, from 1; cuts: in words where they come from.
    groups: grades with their classes below, in order. students: none where there are more than 4,000."""

    finding: str
    measure: MeasureHead
    at: OccasionLine
    windows: list[OccasionLine]
    norms: NormSetLine | None
    levels: list[str]
    goal: int
    cuts: str
    school: str
    grade: str
    schools: list[LevelChoice]
    grades: list[str]
    n: int
    by_grade: list[LevelGroup]
    by_class: list[LevelGroup]
    by_school: list[LevelGroup]
    skills: list[SkillLine]
    students: list[ScoredStudent]


@dataclass(frozen=True, kw_only=True)
class AtOccasion:
    """Scores of an occasion with where they stand, and whose classes they are in."""

    measure: Measure
    occasion: Occasion
    line: OccasionLine
    scores: Mapping[int, ScoreAt]
    standing: Mapping[int, StandingOf]
    where: Mapping[int, Placed]


def at_occasion(ctx: Context, db: Session, actor: Actor, measure_id: int, occasion_id: int) -> AtOccasion:
    """Standings are made of everybody, then cut to what this person may see."""
    measure = measure_named(db, measure_id)
    occasion = occasion_named(db, measure.id, occasion_id)
    scores = scores_at(ctx, db, measure, occasion)
    norms, cuts = table_of(newest_norms(db, measure.id), measure.falling), table_at(db, measure)
    standing = standings(measure.subject, occasion.season, scores, sign_of(measure), norms, cuts)
    return AtOccasion(
        measure=measure,
        occasion=occasion,
        line=occasion_line(occasion, len(scores)),
        scores=scores,
        standing=standing,
        where=placed_at(db, actor, measure.subject, occasion.end),
    )


def occasion_page(
    ctx: Context, actor: Actor, measure_id: int, occasion_id: int, school: str = "", grade: str = ""
) -> OccasionPage:
    """Levels and ranks of one occasion."""
    scope(actor, Action.GROWTH_READ)
    with ctx.store.read() as db:
        found = at_occasion(ctx, db, actor, measure_id, occasion_id)
        measure = found.measure
        table = table_at(db, measure)
        here = [
            p
            for p in sorted(found.scores.keys() & found.where.keys())
            if (not school or str(found.where[p].school_id) == school) and (not grade or found.where[p].grade == grade)
        ]
        names = names_of(db, here)
        schools = {s.id: s.name for s in db.scalars(select(School).order_by(School.name))}
        least = int(setting(db, "least_inside"))
        windows, norms = lines_of(ctx, db, measure), norms_of(db, measure.id)
        source = _source(db, measure)
        skills = _skills(ctx, db, actor, found, here, {p: names[p].name for p in here})
        head = head_of(measure)
        ordered = list(measure.levels or [])
        sign = sign_of(measure)
    levels = list(table.names) if table is not None else ordered
    aliases = dict(zip(here, alias_numbers(here), strict=True))
    groups = _Groups(
        found, here, levels, table.goal if table is not None else 0, least, bool(ordered) and not table, sign
    )
    students = [
        ScoredStudent(
            id=p,
            name=names[p].name,
            alias=aliases[p],
            klass=found.where[p].title,
            grade=found.where[p].grade,
            score=found.scores[p].score,
            se=None if np.isnan(found.scores[p].se) else found.scores[p].se,
            standing=found.standing.get(p, UNKNOWN),
            marks=list(found.scores[p].marks),
        )
        for p in here
    ]
    by_grade = groups.lines({p: found.where[p].grade for p in here})
    page = OccasionPage(
        finding="",
        measure=head,
        at=found.line,
        windows=windows,
        norms=norms[0] if norms else None,
        levels=levels,
        goal=table.goal if table is not None else 0,
        cuts=source,
        school=school,
        grade=grade,
        schools=school_choices(schools, {at.school_id for at in found.where.values()}),
        grades=in_grade_order({w.grade for p, w in found.where.items() if p in found.scores}),
        n=len(here),
        by_grade=by_grade_order(by_grade),
        by_class=groups.lines(
            {p: str(found.where[p].class_id) for p in here if found.where[p].class_id},
            {str(w.class_id): (w.class_id, w.title, w.grade) for w in found.where.values()},
        ),
        by_school=groups.lines(
            {p: str(found.where[p].school_id) for p in here if found.where[p].school_id in schools},
            {str(i): (i, n, "") for i, n in schools.items()},
        )
        if not school
        else [],
        skills=skills,
        students=students if len(students) <= MOST_DRAWN else [],
    )
    return replace(page, finding=_finding(page))


class _Groups:
    """Counts by level of any grouping of the students who are looked at."""

    def __init__(
        self,
        found: AtOccasion,
        here: Sequence[int],
        levels: Sequence[str],
        goal: int,
        least: int,
        ordinal: bool,
        sign: float,
    ) -> None:
        self.found, self.here, self.levels, self.goal, self.least = found, here, levels, goal, least
        self.ordinal, self.sign = ordinal, sign

    def _place(self, person: int) -> int | None:
        if self.ordinal:
            return round(self.found.scores[person].score) - 1
        name = self.found.standing.get(person, UNKNOWN).level
        return self.levels.index(name) if name in self.levels else None

    def lines(self, of: Mapping[int, str], names: Mapping[str, tuple[int, str, str]] | None = None) -> list[LevelGroup]:
        members: dict[str, list[int]] = defaultdict(list)
        for person, label in of.items():
            members[label].append(person)
        labels = sorted(members, key=lambda label: (names or {}).get(label, (0, label, ""))[1])
        hidden = hidden_groups([len(members[label]) for label in labels], self.least)
        return [
            self._line((names or {}).get(label, (0, label, label)), members[label], out)
            for label, out in zip(labels, hidden, strict=True)
        ]

    def _line(self, named: tuple[int, str, str], people: Sequence[int], hidden: bool) -> LevelGroup:
        places = [at for at in map(self._place, people) if at is not None]
        counts = [places.count(at) for at in range(len(self.levels))]
        reached = sum(at >= self.goal - 1 for at in places)
        told = bool(self.goal) and bool(places) and not hidden
        id, name, grade = named
        return LevelGroup(
            id=id,
            name=name,
            grade=grade,
            n=len(people),
            counts=[] if hidden else counts,
            share=reached / len(places) if told else None,
            ci95=list(wilson(reached, len(places))) if told else None,
            near=0 if hidden else sum(self.found.standing.get(p, UNKNOWN).near for p in people),
            hidden=hidden,
        )


def _source(db: Session, measure: Measure) -> str:
    row = newest_cuts(db, measure.id)
    return "" if row is None else f"{row.source}, version {row.number}"


def _skills(
    ctx: Context,
    db: Session,
    actor: Actor,
    found: AtOccasion,
    here: Sequence[int],
    names: Mapping[int, str],
) -> list[SkillLine]:
    """Skills under the measure, in learning order, on the occasion of the same time."""
    parts = db.scalars(
        select(Measure).where(Measure.part_of_id == found.measure.id).order_by(Measure.place, Measure.id)
    ).all()
    if not parts or not here:
        return []
    chances = np.full((len(here), len(parts)), np.nan)
    for column, part in enumerate(parts):
        at = db.scalars(
            select(Occasion).where(Occasion.measure_id == part.id, Occasion.window_id == found.occasion.window_id)
        ).first()
        if at is None:
            continue
        one = at_occasion(ctx, db, actor, part.id, at.id)
        for row, person in enumerate(here):
            p = one.standing.get(person, UNKNOWN).at
            if p is not None:
                chances[row, column] = p
    told = skills_found(chances)
    return [
        SkillLine(
            measure_id=part.id,
            name=part.name,
            n=int(told.known[at]),
            ready=int(told.ready[:, at].sum()),
            share=None if not told.known[at] else float(told.share[at]),
            focus=at == told.group_focus,
            open=[names[here[row]] for row in np.flatnonzero(told.focus == at).tolist()][:40],
        )
        for at, part in enumerate(parts)
    ]


def _finding(page: OccasionPage) -> str:
    if not page.n:
        return f"No student here has a score in {page.at.name}."
    if not page.levels:
        return f"{counted(page.n, 'student')} with a score. Without cut scores no level can be told."
    if not page.goal:
        return f"{counted(page.n, 'student')} on {len(page.levels)} ordered levels. Without cut scores none of them is the goal."
    known = [g for g in page.by_grade if g.share is not None]
    total = sum(sum(g.counts) for g in known)
    if not total:
        return f"{counted(page.n, 'student')} with a score, none in a grade with cut scores."
    reached = sum(sum(g.counts[page.goal - 1 :]) for g in known)
    near = sum(g.near for g in known)
    goal = page.levels[page.goal - 1]
    text = f"{percent(reached / total)} of {counted(total, 'student')} reached {goal} or better."
    lowest = min(known, key=lambda g: g.share or 0)
    rest, of_rest = reached - sum(lowest.counts[page.goal - 1 :]), total - sum(lowest.counts)
    if len(known) > 1 and lowest.ci95 is not None and of_rest and lowest.ci95[1] < rest / of_rest:
        text += f" Grade {lowest.name} is below the others: {percent(lowest.share)} ({percent(lowest.ci95[0])} to {percent(lowest.ci95[1])})."
    if near:
        text += f" {counted(near, 'score')} {'is' if near == 1 else 'are'} so near a cut score that the level is not certain."
    return text
