"""One student on one measure: every occasion with where it stands, and what may be said of the way between."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.items.shown import decimal
from bildung.services.growth.cohort import pair_of
from bildung.services.growth.goals import GoalLine
from bildung.services.growth.head import LevelChoice, MeasureHead, head_of
from bildung.services.growth.measures import NormSetLine, latest_of, measure_named, norms_of
from bildung.services.growth.occasionpage import at_occasion
from bildung.services.growth.occasions import OccasionLine
from bildung.services.growth.pairview import GrowthStudent
from bildung.services.growth.scored import lines_of, scores_at
from bildung.services.growth.seen import see, student_of
from bildung.services.growth.standing import UNKNOWN, StandingOf
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Goal, Measure, MeasureScore, Occasion, Person


@dataclass(frozen=True, kw_only=True)
class StudentScore:
    """A score of the student. level: of an ordered measure the name of the level that it is."""

    at: OccasionLine
    grade: str
    klass: str
    score: float
    se: float | None
    standing: StandingOf
    level: str
    marks: list[str]


@dataclass(frozen=True, kw_only=True)
class StudentGoal:
    goal: GoalLine
    came: float | None


@dataclass(frozen=True, kw_only=True)
class StudentGrowthPage:
    """scores: in order of time. between: of the newest two that are comparable; None where nothing can be said. measures: others with
    scores of this student."""

    finding: str
    person_id: Id
    name: str
    measure: MeasureHead
    norms: NormSetLine | None
    scores: list[StudentScore]
    between: GrowthStudent | None
    start: OccasionLine | None
    end: OccasionLine | None
    goals: list[StudentGoal]
    measures: list[LevelChoice]


def student_growth(ctx: Context, actor: Actor, measure_id: int, person_id: int) -> StudentGrowthPage:
    """NotFound where the student is not there, or not in a class that this person may see."""
    scope(actor, Action.GROWTH_READ)
    with ctx.store.read() as db:
        measure = measure_named(db, measure_id)
        person = db.get(Person, person_id)
        if person is None or person.kind != "student":
            raise NotFound("there is no such student")
        scores = _scores(ctx, db, actor, measure, person_id)
        if not scores:
            raise NotFound("this student has no scores on this measure, or is not yours to see")
        lines = [s.at for s in scores]
        between = _between(ctx, db, actor, measure, person_id, latest_of(db, lines))
        norms = norms_of(db, measure.id)
        others = [
            LevelChoice(str(m.id), m.name)
            for m in db.scalars(select(Measure).order_by(Measure.subject, Measure.name))
            if m.id != measure.id and _has(ctx, db, m, person_id)
        ]
        page = StudentGrowthPage(
            finding="",
            person_id=person.id,
            name=person.name,
            measure=head_of(measure),
            norms=norms[0] if norms else None,
            scores=scores,
            between=between[0] if between else None,
            start=between[1] if between else None,
            end=between[2] if between else None,
            goals=_goals(db, measure, person_id, scores),
            measures=others,
        )
    return replace(page, finding=_finding(page))


def _scores(ctx: Context, db: Session, actor: Actor, measure: Measure, person: int) -> list[StudentScore]:
    found = []
    for line in lines_of(ctx, db, measure):
        one = at_occasion(ctx, db, actor, measure.id, int(line.id))
        if person not in one.scores or person not in one.where:
            continue
        score = one.scores[person]
        found.append(
            StudentScore(
                at=line,
                grade=score.grade,
                klass=one.where[person].title,
                score=score.score,
                se=None if math.isnan(score.se) else score.se,
                standing=one.standing.get(person, UNKNOWN),
                level=str(measure.levels[round(score.score) - 1]) if measure.levels else "",
                marks=list(score.marks),
            )
        )
    return found


def _has(ctx: Context, db: Session, measure: Measure, person: int) -> bool:
    if not measure.own:
        return bool(
            db.scalar(
                select(MeasureScore.id)
                .where(MeasureScore.measure_id == measure.id, MeasureScore.person_id == person)
                .limit(1)
            )
        )
    occasions = db.scalars(select(Occasion).where(Occasion.measure_id == measure.id)).all()
    return any(person in scores_at(ctx, db, measure, one) for one in occasions)


def _between(
    ctx: Context, db: Session, actor: Actor, measure: Measure, person: int, latest: list[int]
) -> tuple[GrowthStudent, OccasionLine, OccasionLine] | None:
    if len(latest) < 2:
        return None
    try:
        pair = pair_of(ctx, db, measure.id, latest[0], latest[1])
    except (Refused, Conflict, Invalid):
        return None
    if person not in pair.people:
        return None
    seen = see(ctx, db, actor, pair)
    row = pair.people.index(person)
    if row not in seen.rows:
        return None
    return student_of(seen, row), pair.start, pair.end


def _goals(db: Session, measure: Measure, person: int, scores: list[StudentScore]) -> list[StudentGoal]:
    rows = db.execute(
        select(Goal, Person)
        .join(Person, Person.id == Goal.set_by_id)
        .where(Goal.measure_id == measure.id, Goal.person_id == person, Goal.withdrawn_at.is_(None))
        .order_by(Goal.by_day)
    )
    found = []
    for goal, by in rows:
        came = [s.score for s in scores if s.at.start <= goal.by_day <= s.at.end]
        line = GoalLine(
            id=goal.id, score=goal.score, kind=goal.kind, by_day=goal.by_day, by=by.name, set_at=goal.set_at
        )
        found.append(StudentGoal(goal=line, came=came[-1] if came else None))
    return found


def _finding(page: StudentGrowthPage) -> str:
    last = page.scores[-1]
    said = last.level or decimal(last.score, page.measure.decimals)
    text = f"{said} in {last.at.name}"
    if last.standing.level:
        text += f", {last.standing.level}"
        if last.standing.near:
            text += " but near a cut score"
    if last.standing.rank is not None and not last.level:
        text += f", as high as or higher than {last.standing.rank} of 100 students of grade {last.grade}"
        text += "" if last.standing.by == "norms" else " here"
    between = page.between
    if between is None or page.start is None:
        return (
            f"{text}. What the way there says cannot be told: there are no two scores of one year that can be compared."
        )
    if last.level:
        return f"{text}; {between.start_level} in {page.start.name}."
    if between.claim == "cannot be told" or not between.claim:
        why = "" if between.claim else ", as standard errors or an expectation are missing"
        return f"{text}. Whether growth since {page.start.name} is more or less than that of students with the same starting score cannot be told{why}."
    return (
        f"{text}. Since {page.start.name} {between.claim} growth than students with the same starting score: better than "
        f"{decimal(between.percentile or 0.0, 0)} of 100 of them."
    )
