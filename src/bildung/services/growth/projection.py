"""Who is on track for a later window: probabilities, targets, what ordinary growth alone brings, and what became of goals."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.grades import in_grade_order
from bildung.core.growth.ahead import Ahead, Track, kept, tracks
from bildung.core.growth.projection import expected_number
from bildung.core.items.shown import counted
from bildung.core.school.privacy import alias_numbers, hidden_groups
from bildung.services.forms.levels import newest_cuts
from bildung.services.growth.goals import GoalLine, goals_of
from bildung.services.growth.head import LevelChoice, MeasureHead, by_grade_order, head_of, school_choices
from bildung.services.growth.measures import NormSetLine, norms_of
from bildung.services.growth.occasionpage import AtOccasion, at_occasion
from bildung.services.growth.occasions import OccasionLine
from bildung.services.growth.projecting import Later, ProjectedScores, later_choices, later_named, projected
from bildung.services.growth.scored import lines_of, scores_at, sign_of
from bildung.services.growth.seen import MOST_DRAWN, names_of
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.services.shared.settings import setting
from bildung.services.shared.wire import Id
from bildung.store.models import Measure, Occasion, School

TAU_FEW = 0.3  # between classes, in standard deviations, where under ten groups say nothing better


@dataclass(frozen=True, kw_only=True)
class ProjectedStudent:
    """expected: the later score; spread: 68% of what may come lies this far from it. will_score: probability that the later score is at or above the cut;
    will_be: that the true one is. ahead: how much better than the cut score the expected one is. target50, target80: later score at which the student truly is there with 50% and 80%. ordinary: whether
    ordinary growth alone brings them there. goal: that holds; came: the later score, where it is there; reached: the goal, by it."""

    id: Id
    name: str
    alias: int
    klass: str
    grade: str
    score: float
    expected: float | None
    spread: float | None
    will_score: float | None
    will_be: float | None
    target50: float | None
    target80: float | None
    ahead: float | None
    track: Track
    ordinary: bool | None
    goal: GoalLine | None
    came: float | None
    reached: bool | None


@dataclass(frozen=True, kw_only=True)
class ProjectedGroup:
    """A class or grade: how many are expected to reach the cut score, with the interval that 8 of 10 such classes fall into. came: how many
    did, of came_of with both; none before there are scores."""

    id: Id
    name: str
    grade: str
    n: int
    mean: float | None
    low: int | None
    high: int | None
    on_track: int
    off_track: int
    came: int | None
    came_of: int
    hidden: bool


@dataclass(frozen=True, kw_only=True)
class ProjectionPage:
    """goal: the level to reach; cuts: by grade, the score it begins at. kept: how projections turned out, in a sentence, empty before there
    are scores. set_goals: whether this person may keep goals."""

    finding: str
    measure: MeasureHead
    at: OccasionLine
    windows: list[OccasionLine]
    to: Later
    later: list[Later]
    norms: NormSetLine | None
    goal: str
    cuts: list[LevelChoice]
    school: str
    grade: str
    schools: list[LevelChoice]
    grades: list[str]
    n: int
    groups: list[ProjectedGroup]
    by_class: list[ProjectedGroup]
    students: list[ProjectedStudent]
    kept: str
    why: list[str]
    workings: list[str]
    set_goals: bool


def projection_page(
    ctx: Context, actor: Actor, measure_id: int, occasion_id: int, to: str = "", school: str = "", grade: str = ""
) -> ProjectionPage:
    """to: key of a later window, empty for the next."""
    scope(actor, Action.GROWTH_READ)
    with ctx.store.read() as db:
        found = at_occasion(ctx, db, actor, measure_id, occasion_id)
        measure = found.measure
        if measure.levels:
            raise Conflict("ordered levels have no equal steps, so no later level is projected")
        choices = later_choices(db, found.occasion)
        later = later_named(choices, to)
        ahead = projected(ctx, db, found, later)
        came = _came(ctx, db, measure, later)
        here = [
            row
            for row, p in enumerate(ahead.people)
            if p in found.where
            and (not school or str(found.where[p].school_id) == school)
            and (not grade or found.where[p].grade == grade)
        ]
        names = names_of(db, [ahead.people[row] for row in here])
        schools = {s.id: s.name for s in db.scalars(select(School).order_by(School.name))}
        goals = goals_of(db, measure.id, later.day, names.keys())
        windows, norms = lines_of(ctx, db, measure), norms_of(db, measure.id)
        goal = _goal_name(db, measure)
        least = int(setting(db, "least_inside"))
        sign = sign_of(measure)
        head = head_of(measure)
    told = _Told(found, ahead, came, sign, here)
    aliases = dict(zip(names, alias_numbers(list(names)), strict=True))
    students = [
        told.student(row, names[ahead.people[row]].name, aliases[ahead.people[row]], goals.get(ahead.people[row]))
        for row in here
    ]
    of_class = {row: str(found.where[ahead.people[row]].class_id) for row in here}
    of_grade = {row: found.where[ahead.people[row]].grade for row in here}
    titles = {str(w.class_id): (w.class_id, w.title, w.grade) for w in found.where.values()}
    by_grade = told.groups(of_grade, {g: (0, g, g) for g in of_grade.values()}, least)
    page = ProjectionPage(
        finding="",
        measure=head,
        at=found.line,
        windows=windows,
        to=later,
        later=choices,
        norms=norms[0] if norms and "table" in ahead.sources.values() else None,
        goal=goal,
        cuts=told.cuts(),
        school=school,
        grade=grade,
        schools=school_choices(schools, {at.school_id for at in found.where.values()}),
        grades=in_grade_order({found.where[p].grade for p in ahead.people if p in found.where}),
        n=len(here),
        groups=by_grade_order(by_grade),
        by_class=told.groups(of_class, titles, least),
        students=students if len(students) <= MOST_DRAWN else [],
        kept=told.kept(),
        why=[f"Grade {g}: {reason}." for g, reason in sorted(ahead.why.items())],
        workings=_workings(ahead, later, norms),
        set_goals=actor.may(Action.GOALS_SET),
    )
    return replace(page, finding=_finding(page))


class _Told:
    """What is told of projected scores."""

    def __init__(
        self, found: AtOccasion, ahead: ProjectedScores, came: Mapping[int, float], sign: float, here: Sequence[int]
    ) -> None:
        self.found, self.ahead, self.came, self.sign, self.here = found, ahead, came, sign, here
        later = Ahead(ahead.expected, ahead.observed_sd, ahead.true_sd, "")
        self.will_score, self.will_be = later.will_score(ahead.cut), later.will_truly_be(ahead.cut)
        self.target80 = later.target(ahead.cut, 0.8)
        self.track = tracks(self.will_score)

    def student(self, row: int, name: str, alias: int, goal: GoalLine | None) -> ProjectedStudent:
        a, person = self.ahead, self.ahead.people[row]
        at = self.found.where[person]
        return ProjectedStudent(
            id=person,
            name=name,
            alias=alias,
            klass=at.title,
            grade=at.grade,
            score=self.sign * float(a.score[row]),
            expected=_turn(self.sign, a.expected[row]),
            spread=_turn(1.0, a.observed_sd[row]),
            will_score=_turn(1.0, self.will_score[row]),
            will_be=_turn(1.0, self.will_be[row]),
            target50=_turn(self.sign, a.cut[row]),
            target80=_held(_turn(self.sign, self.target80[row]), self.found.measure),
            ahead=_turn(1.0, a.expected[row] - a.cut[row]),
            track=self.track[row],
            ordinary=None if np.isnan(a.expected[row] - a.cut[row]) else bool(a.expected[row] >= a.cut[row]),
            goal=goal,
            came=(came := self.came.get(person)),
            reached=None if came is None or goal is None else self.sign * came >= self.sign * goal.score,
        )

    def groups(
        self, of: Mapping[int, str], names: Mapping[str, tuple[int, str, str]], least: int
    ) -> list[ProjectedGroup]:
        members: dict[str, list[int]] = defaultdict(list)
        for row, label in of.items():
            if label != "0":
                members[label].append(row)
        labels = sorted(members, key=lambda label: (names[label][2], names[label][1]))
        hidden = hidden_groups([len(members[label]) for label in labels], least)
        return [self._group(names[label], members[label], out) for label, out in zip(labels, hidden, strict=True)]

    def _group(self, named: tuple[int, str, str], rows: Sequence[int], hidden: bool) -> ProjectedGroup:
        a = self.ahead
        known = [row for row in rows if not np.isnan(self.will_score[row])]
        number = None
        if known and not hidden:
            # students of several grades have cut scores of their own; the distance is what counts
            off = a.expected[known] - a.cut[known]
            number = expected_number(off, a.observed_sd[known], 0.0, TAU_FEW)
        both = [row for row in known if a.people[row] in self.came]
        tally = Counter(self.track[row] for row in rows)
        id, name, grade = named
        return ProjectedGroup(
            id=id,
            name=name,
            grade=grade,
            n=len(rows),
            mean=None if number is None else number.mean,
            low=None if number is None else number.low,
            high=None if number is None else number.high,
            on_track=0 if hidden else tally["on track"],
            off_track=0 if hidden else tally["off track"],
            came=None if hidden or not both else sum(self._reached(row) for row in both),
            came_of=0 if hidden else len(both),
            hidden=hidden,
        )

    def _reached(self, row: int) -> bool:
        return bool(self.sign * self.came[self.ahead.people[row]] >= self.ahead.cut[row])

    def cuts(self) -> list[LevelChoice]:
        found = {}
        for row in self.here:
            if not np.isnan(self.ahead.cut[row]):
                grade = self.found.scores[self.ahead.people[row]].grade
                found[grade] = f"{self.sign * float(self.ahead.cut[row]):g}"
        return [LevelChoice(grade, found[grade]) for grade in in_grade_order(found.keys())]

    def kept(self) -> str:
        """How the projections turned out, of whom a later score is there."""
        both = [row for row in self.here if not np.isnan(self.will_score[row]) and self.ahead.people[row] in self.came]
        try:
            reached = np.array([int(self._reached(row)) for row in both], dtype=np.int64)
            found = kept(self.will_score[both], reached)
        except Refused:
            return ""
        text = f"Of {counted(found.n, 'student')} with a score since then {found.reached} reached it; {found.expected:.0f} were expected to."
        return text + (" That is within chance." if found.p >= 0.05 else " That is further off than chance brings.")


def _held(score: float | None, measure: Measure) -> float | None:
    """On the scale."""
    return None if score is None else min(measure.high, max(measure.low, score))


def _turn(sign: float, value: float) -> float | None:
    return None if np.isnan(value) else sign * float(value)


def _came(ctx: Context, db: Session, measure: Measure, later: Later) -> dict[int, float]:
    """Scores of the later window, where it has been."""
    if not later.key.startswith("w"):
        return {}
    at = db.scalars(
        select(Occasion).where(Occasion.measure_id == measure.id, Occasion.window_id == int(later.key[1:]))
    ).first()
    return {} if at is None else {p: s.score for p, s in scores_at(ctx, db, measure, at).items()}


def _goal_name(db: Session, measure: Measure) -> str:
    row = newest_cuts(db, measure.id)
    return "" if row is None else str(row.names[row.goal - 1])


def _workings(ahead: ProjectedScores, later: Later, norms: Sequence[NormSetLine]) -> list[str]:
    by = {
        source: in_grade_order([g for g, s in ahead.sources.items() if s == source])
        for source in ("table", "last year")
    }
    said = []
    if by["table"] and norms:
        said.append(
            f"Grades {', '.join(by['table'])}: expected by {norms[0].name}, version {norms[0].version}, in week {later.week:g} of instruction, from "
            "each score's own week."
        )
    if by["last year"]:
        said.append(
            f"Grades {', '.join(by['last year'])}: expected by the regression of last year's students of the grade between the same "
            "seasons, whose own error is in the spread."
        )
    said += [
        "Will score: the probability that the next score is at or above the cut score; on track from 80%, off track up to 20%. Will be: "
        "that the true score is, which is surer as it has no error of a test in it.",
        "The 50% target is the cut score; at the 80% target the student truly is there with 80%.",
        f"Of a class the interval holds 8 of 10 outcomes, where classes differ by {TAU_FEW:g} standard deviations beside what students do.",
    ]
    return said


def _finding(page: ProjectionPage) -> str:
    if not page.n:
        return f"No student here has a score in {page.at.name}."
    known = [g for g in page.groups if g.mean is not None]
    if not page.goal or not page.cuts:
        return f"{page.measure.name} has no cut scores for {page.to.name}, so it cannot be told who is on track."
    if not known:
        return (
            f"What {counted(page.n, 'student')} will score in {page.to.name} cannot be told: neither norms with correlations nor last year's "
            "scores of these grades say what to expect."
        )
    tally = Counter(s.track for s in page.students)
    total = sum(tally.values()) - tally["cannot be told"]
    if not total:
        return f"{counted(page.n, 'student')}; choose a school or grade to see who is on track."
    text = (
        f"Of {counted(total, 'student')} {tally['on track']} are on track for {page.goal} in {page.to.name} and {tally['off track']} off "
        f"track; of {tally['uncertain']} it cannot be told yet."
    )
    ordinary = sum(bool(s.ordinary) for s in page.students)
    text += f" Ordinary growth alone brings {ordinary} there."
    return f"{text} {page.kept}".strip()
