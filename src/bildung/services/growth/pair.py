"""What two occasions of a measure say: who grew as expected, who rose or fell more than error, which classes, and who is missing."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.grades import in_grade_order
from bildung.core.growth.claims import Chance, chance
from bildung.core.growth.contours import contours
from bildung.services.growth.cohort import Pair, pair_of
from bildung.services.growth.head import LevelChoice, head_of, school_choices
from bildung.services.growth.measures import norms_of
from bildung.services.growth.missing import reasons
from bildung.services.growth.moves import moves_finding, moves_of
from bildung.services.growth.pairview import (
    ChanceView,
    GradeBlock,
    GrowthContour,
    GrowthGroup,
    GrowthStudent,
    PairPage,
)
from bildung.services.growth.said import chance_says, finding, regression_says, without_marks, workings
from bildung.services.growth.scored import lines_of
from bildung.services.growth.seen import MOST_DRAWN, Seen, group_lines, marks_of, see, student_of
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.results import KeptResults
from bildung.store.models import Attribute, AttributeValue, AuditEntry, Enrolment, School

MOST_LISTED = 200
NOBODY = "not recorded"


@dataclass(frozen=True, kw_only=True)
class PairAsked:
    """school, klass: id of one; grade: one; attribute: id of the one by which groups are made; all empty where not asked. outside: as it is shown
    outside the school."""

    measure: int
    start: int
    end: int
    school: str = ""
    grade: str = ""
    klass: str = ""
    attribute: str = ""
    outside: bool = False


@dataclass
class PagesAtHand:
    """By what they rest on and who asks."""

    found: KeptResults[PairPage] = field(default_factory=lambda: KeptResults(32))


def pair_page(ctx: Context, actor: Actor, asked: PairAsked) -> PairPage:
    """Conflict where the norm table does not hold a week or grade of the scores."""
    scope(actor, Action.GROWTH_READ)
    with ctx.store.read() as db:
        # every change of people, classes, scores and norms is in the log
        newest = db.execute(select(func.max(AuditEntry.id), select(func.max(Enrolment.id)).scalar_subquery())).one()
        pair = _pair(ctx, db, asked)
    key = (*newest, pair.key, asked, actor.person_id, actor.grants, actor.day)
    return ctx.own(PagesAtHand).found.get(key, lambda: _page(ctx, actor, asked, pair))


def _pair(ctx: Context, db: Session, asked: PairAsked) -> Pair:
    try:
        return pair_of(ctx, db, asked.measure, asked.start, asked.end)
    except Refused as error:
        raise Conflict(f"{error}; bring norms that hold it, or correct the weeks of the scores") from None


def _page(ctx: Context, actor: Actor, asked: PairAsked, pair: Pair) -> PairPage:
    with ctx.store.read() as db:
        seen = see(ctx, db, actor, pair, asked.school, asked.grade, asked.klass, asked.outside)
        schools = {s.id: s.name for s in db.scalars(select(School).order_by(School.name))}
        windows, norms = lines_of(ctx, db, pair.measure), norms_of(db, pair.measure.id)
        attributes = attributes_for(db, actor)
        groups = _by_attribute(db, seen, asked.attribute, attributes)
    if pair.measure.levels:
        return _of_levels(seen, asked, schools, windows, attributes)
    blocks = _blocks(seen)
    whole = group_lines(seen, {p: "all" for p in seen.where}, {"all": (0, "all")})
    many = len(seen.rows) > MOST_DRAWN
    # of very many only those who may be named are looked at one by one
    drawn = [student_of(seen, row) for row in seen.rows if not many or pair.found.beyond[row]]
    met = _chance(seen, drawn)
    behind, ahead = _listed(drawn, met)
    by_school = _by_school(seen, schools) if not (asked.school or asked.klass) else []
    line = whole[0] if whole else None
    page = replace(
        _frame(seen, asked, schools, windows, attributes),
        norms=norms[0] if pair.norms is not None else None,
        mean_gain=line.mean_gain if line else None,
        gain_ci95=line.gain_ci95 if line else None,
        met=line.met if line else None,
        blocks=blocks,
        by_school=by_school,
        groups=groups,
        regression=regression_says(line, [*by_school, *groups]),
        students=[] if many else drawn,
        chance=met,
        behind=behind,
        ahead=ahead,
        workings=workings(seen),
    )
    return replace(page, finding=finding(page))


def _frame(
    seen: Seen,
    asked: PairAsked,
    schools: Mapping[int, str],
    windows: Sequence[object],
    attributes: Sequence[LevelChoice],
) -> PairPage:
    """What every such page has, before anything was judged."""
    pair, measure, where = seen.pair, seen.pair.measure, seen.everywhere
    return PairPage(
        finding="",
        measure=head_of(measure),
        start=pair.start,
        end=pair.end,
        windows=list(windows),  # type: ignore[arg-type]
        norms=None,
        school=asked.school,
        grade=asked.grade,
        klass=next((at.title for at in where.values() if str(at.class_id) == asked.klass), "") if asked.klass else "",
        schools=school_choices(schools, {at.school_id for at in where.values()}),
        grades=in_grade_order(
            {at.grade for at in where.values() if not asked.school or str(at.school_id) == asked.school}
        ),
        n=len(seen.rows),
        mean_gain=None,
        gain_ci95=None,
        met=None,
        blocks=[],
        by_school=[],
        attribute=asked.attribute,
        attributes=list(attributes),
        groups=[],
        regression=[],
        moves=None,
        students=[],
        chance=None,
        behind=[],
        ahead=[],
        missing=len(seen.alone),
        of=len(seen.rows) + len(seen.alone),
        reasons=reasons(seen),
        elsewhere=sum(at.part for p, at in seen.where.items() if p in seen.people),
        workings=[],
    )


def _of_levels(
    seen: Seen,
    asked: PairAsked,
    schools: Mapping[int, str],
    windows: Sequence[object],
    attributes: Sequence[LevelChoice],
) -> PairPage:
    """Of ordered levels: steps are not equal, so there is movement and no gain."""
    page = _frame(seen, asked, schools, windows, attributes)
    moves = moves_of(seen)
    students = [student_of(seen, row) for row in seen.rows]
    return replace(
        page,
        finding=moves_finding(page, moves),
        moves=moves,
        students=students if len(students) <= MOST_DRAWN else [],
        workings=[
            "The levels are in order, and the steps between them are not equal; so students are counted by where they ended, and no "
            "average is taken.",
            "The interval of the share who rose is Wilson's; rises are held against falls by the sign test.",
        ],
    )


def attributes_for(db: Session, actor: Actor) -> list[LevelChoice]:
    """Attributes by which this person may compare groups."""
    wanted = select(Attribute).order_by(Attribute.name)
    if not any(grant.role in ("coordinator", "leader") for grant in actor.grants):
        wanted = wanted.where(Attribute.seen_by == "teacher")
    return [LevelChoice(str(a.id), a.name) for a in db.scalars(wanted)]


def _by_attribute(db: Session, seen: Seen, attribute: str, attributes: Sequence[LevelChoice]) -> list[GrowthGroup]:
    if not attribute or seen.pair.measure.levels:
        return []
    if attribute not in {a.id for a in attributes}:
        raise NotFound("there is no such attribute, or it is not yours to compare by")
    values = dict(
        db.execute(
            select(AttributeValue.person_id, AttributeValue.value).where(AttributeValue.attribute_id == int(attribute))
        ).all()
    )
    of = {p: values.get(p) or NOBODY for p in seen.where}
    names = {name: (at, name) for at, name in enumerate(sorted(set(of.values())), 1)}
    return sorted(group_lines(seen, of, names), key=lambda g: (g.name == NOBODY, g.name))


def _chance(seen: Seen, drawn: Sequence[GrowthStudent]) -> ChanceView | None:
    rows = np.array(seen.rows, dtype=np.int64)
    f = seen.pair.found
    try:
        found = chance(f.beyond[rows], f.residual_error[rows])
    except Refused:
        return None
    people = seen.pair.people
    plain = np.array([row for row in seen.rows if not marks_of(seen.pair, people[row])], dtype=np.int64)
    rest: Chance | None = None
    if plain.size:
        try:
            rest = chance(f.beyond[plain], f.residual_error[plain])
        except Refused:
            rest = None
    marked = sum(bool(s.marks) for s in drawn if s.beyond)
    return ChanceView(
        n=found.n,
        ahead=found.rises,
        behind=found.falls,
        expected=found.expected,
        upper95=found.upper95,
        ahead_says=chance_says(found, found.rises_told),
        behind_says=chance_says(found, found.falls_told),
        marked=marked,
        without=without_marks(rest, len(seen.rows) - plain.size),
    )


def _listed(students: list[GrowthStudent], met: ChanceView | None) -> tuple[list[GrowthStudent], list[GrowthStudent]]:
    """Behind and ahead, the furthest first; none where chance brings as many."""
    if met is None:
        return [], []
    behind = sorted((s for s in students if s.beyond == "behind"), key=_from_expected)
    ahead = sorted((s for s in students if s.beyond == "ahead"), key=_from_expected, reverse=True)
    return (
        behind[:MOST_LISTED] if met.behind > met.upper95 else [],
        ahead[:MOST_LISTED] if met.ahead > met.upper95 else [],
    )


def _from_expected(student: GrowthStudent) -> float:
    return student.from_expected or 0.0


def _blocks(seen: Seen) -> list[GradeBlock]:
    grades = in_grade_order({at.grade for at in seen.where.values()})
    by_grade = {
        line.name: line
        for line in group_lines(seen, {p: at.grade for p, at in seen.where.items()}, {g: (0, g) for g in grades})
    }
    titles: dict[str, tuple[int, str]] = {}
    of_class: dict[int, str] = {}
    for person, at in seen.where.items():
        if at.class_id:
            of_class[person] = str(at.class_id)
            titles[str(at.class_id)] = (at.class_id, at.title)
    grade_of = {str(at.class_id): at.grade for at in seen.where.values() if at.class_id}
    classes = defaultdict(list)
    for line in group_lines(seen, of_class, titles):
        classes[grade_of[str(line.id)]].append(line)
    return [
        GradeBlock(
            grade=grade,
            line=by_grade[grade],
            classes=sorted(classes[grade], key=lambda c: c.name),
            contours=_contours(seen, grade),
        )
        for grade in grades
        if grade in by_grade
    ]


def _by_school(seen: Seen, schools: Mapping[int, str]) -> list[GrowthGroup]:
    of = {p: str(at.school_id) for p, at in seen.where.items() if at.school_id in schools}
    if len(set(of.values())) < 2:
        return []
    lines = group_lines(seen, of, {str(id): (id, name) for id, name in schools.items()})
    return sorted(lines, key=lambda line: line.name)


def _contours(seen: Seen, grade: str) -> list[GrowthContour]:
    """Of the cohort that most of the grade's students are in."""
    rows = [row for row in seen.rows if seen.where[seen.pair.people[row]].grade == grade]
    f, m = seen.pair.found, seen.pair.matched
    cohorts = Counter(m.start_grade[row] for row in rows)
    main = cohorts.most_common(1)[0][0] if cohorts else ""
    known = [row for row in rows if f.known[row] and math.isfinite(f.sd_end[row]) and m.start_grade[row] == main]
    if not known:
        return []
    drawn = contours(m.start[known], f.expected[known], f.sd_end[known])
    sign = seen.pair.sign
    return [
        GrowthContour(percentile=p, points=[[sign * float(x), float(y)] for x, y in line])
        for p, line in sorted(drawn.items())
    ]
