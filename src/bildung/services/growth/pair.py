"""What two windows of a measure say: who grew as expected, who rose or fell more than error, which classes, and who is missing."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.growth.claims import Chance, chance, percentile_band
from bildung.core.growth.contours import contours
from bildung.core.growth.groups import LEAST_JUDGED, GroupGrowth, group_growth
from bildung.core.items.shown import counted, dated, percent
from bildung.core.school.privacy import LEAST, alias_numbers, hidden_groups
from bildung.services.growth.classes import SHARE, Placed, in_grade_order, placed
from bildung.services.growth.cohort import Pair, pair_of
from bildung.services.growth.measures import MeasureWindow, NormSetLine, norms_of, windows_of
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.results import KeptResults
from bildung.services.shared.wire import Id
from bildung.store.models import AuditEntry, Enrolment, Person, School

MOST_LISTED = 200
MOST_DRAWN = 4000  # students that are sent one by one; of more a school or grade is chosen first
DECIDE = 0.5  # standard deviations: a tipping point under it says that the missing decide
MANY = 0.2  # of a list: that many missing are told also where the class would not be called
CLAIMS = {1: "more", -1: "less", 0: "cannot be told"}


@dataclass(frozen=True, kw_only=True)
class GrowthStudent:
    """One student. alias: number to show in place of the name. grade: of the class. expected: end score that the start lets expect; from_expected: the end less that. percentile: among students with the same starting score, band its 68 %
    band. claim: against them. reliable: rise or fall beyond error; empty otherwise. beyond: ahead of or behind the expected score by more than
    error."""

    id: Id
    name: str
    alias: int
    klass: str
    grade: str
    start: float
    end: float
    gain: float
    expected: float | None
    from_expected: float | None
    percentile: float | None
    band: list[float] | None
    claim: str
    reliable: str
    beyond: str


@dataclass(frozen=True, kw_only=True)
class GrowthContour:
    """A curve of equal height for the same start: (start, gain), as it is drawn."""

    percentile: int
    points: list[list[float]]


@dataclass(frozen=True, kw_only=True)
class GrowthGroup:
    """A class, grade or school. slope: mean start, mean end and mean expected end. told: mean residual gain in standard deviations, with
    its 95 % interval; points: the same in points of the scale. off: the interval lies above (1) or below (-1) expectation. judged: how many
    students stand behind it; by: table or others. says: what is to be said of it; why: why nothing can. hidden: too small to be shown, or beside
    one that is."""

    id: Id
    name: str
    n: int
    mean_start: float | None
    mean_end: float | None
    mean_expected: float | None
    mean_gain: float | None
    gain_ci95: list[float] | None
    told: float | None
    ci95: list[float] | None
    shrunken: float | None
    points: float | None
    reach: float | None
    met: float | None
    off: int
    judged: int
    by: str
    missing: int
    tipping: float | None
    says: str
    why: str
    hidden: bool


@dataclass(frozen=True, kw_only=True)
class GradeBlock:
    """A grade with its classes; contours are drawn for it."""

    grade: str
    line: GrowthGroup
    classes: list[GrowthGroup]
    contours: list[GrowthContour]


@dataclass(frozen=True, kw_only=True)
class ChanceView:
    """Who ended reliably ahead of and behind the expected score, beside what chance brings; says: whether students may be named."""

    n: int
    ahead: int
    behind: int
    expected: float
    upper95: int
    ahead_says: str
    behind_says: str


@dataclass(frozen=True)
class MissingReason:
    reason: str
    n: int


@dataclass(frozen=True)
class LevelChoice:
    """A school or grade to look at."""

    id: str
    name: str


@dataclass(frozen=True, kw_only=True)
class PairPage:
    """start, end: the windows. norms: the figures rest on; None: students are held against each other. behind, ahead: students who may be
    named. students: none where there are more than 4,000. elsewhere: students who were in no class here for long enough. workings: how it was calculated, a sentence each."""

    finding: str
    measure_id: Id
    measure: str
    subject: str
    low: float
    high: float
    decimals: int
    start: MeasureWindow
    end: MeasureWindow
    windows: list[MeasureWindow]
    norms: NormSetLine | None
    school: str
    grade: str
    schools: list[LevelChoice]
    grades: list[str]
    n: int
    mean_gain: float | None
    gain_ci95: list[float] | None
    met: float | None
    blocks: list[GradeBlock]
    by_school: list[GrowthGroup]
    students: list[GrowthStudent]
    chance: ChanceView | None
    behind: list[GrowthStudent]
    ahead: list[GrowthStudent]
    missing: int
    of: int
    reasons: list[MissingReason]
    elsewhere: int
    workings: list[str]


@dataclass(frozen=True, slots=True)
class _Name:
    name: str
    active: bool


@dataclass(frozen=True, kw_only=True)
class _Seen:
    """The part of a pair that is looked at. rows: places of students; where: by person."""

    pair: Pair
    rows: list[int]
    where: Mapping[int, Placed]
    people: Mapping[int, _Name]
    alone: Mapping[int, int]
    aliases: Mapping[int, int]


@dataclass
class PagesAtHand:
    """By what they rest on and who asks."""

    found: KeptResults[PairPage] = field(default_factory=lambda: KeptResults(32))


def pair_page(
    ctx: Context, actor: Actor, measure_id: int, start: int, end: int, school: str = "", grade: str = ""
) -> PairPage:
    """school: id of one; grade: one. Conflict where the norm table does not hold a week or grade of the scores."""
    scope(actor, Action.GROWTH_READ)
    with ctx.store.read() as db:
        # every change of people, classes, scores and norms is in the log
        newest = db.execute(select(func.max(AuditEntry.id), select(func.max(Enrolment.id)).scalar_subquery())).one()
    asked = (measure_id, start, end, school, grade, actor.person_id, actor.grants, actor.day)
    made = ctx.own(PagesAtHand).found
    return made.get((*newest, *asked), lambda: _page(ctx, actor, measure_id, start, end, school, grade))


def _page(ctx: Context, actor: Actor, measure_id: int, start: int, end: int, school: str, grade: str) -> PairPage:
    with ctx.store.read() as db:
        try:
            pair = pair_of(ctx, db, measure_id, start, end)
        except Refused as error:
            raise Conflict(f"{error}; bring norms that hold it, or correct the weeks of the scores") from None
        where = placed(db, actor, pair)
        mine = [p for p in (*pair.people, *pair.alone) if p in where]
        people = _names(db, mine)
        schools = {s.id: s.name for s in db.scalars(select(School).order_by(School.name))}
        here = {id: at for id, at in where.items() if _at(at, school, grade)}
        seen = _Seen(
            pair=pair,
            rows=[row for row, person in enumerate(pair.people) if person in here],
            where=here,
            people=people,
            alone={p: w for p, w in pair.alone.items() if p in here},
            aliases=dict(zip(mine, alias_numbers(mine), strict=True)),
        )
        windows, norms = windows_of(db, measure_id), norms_of(db, measure_id)
    by_window = {int(w.id): w for w in windows}
    if start not in by_window or end not in by_window:
        raise NotFound("this measure has no scores in one of these windows")
    blocks = _blocks(seen)
    whole = _group_lines(seen, {p: "all" for p in here}, {"all": (0, "all")})
    drawn = [_student(seen, row) for row in seen.rows]
    met = _chance(seen)
    behind, ahead = _listed(drawn, met)
    by_school = _by_school(seen, schools) if not school else []
    n = len(seen.rows)
    page = PairPage(
        finding="",
        measure_id=measure_id,
        measure=pair.measure.name,
        subject=pair.measure.subject,
        low=pair.measure.low,
        high=pair.measure.high,
        decimals=pair.measure.decimals,
        start=by_window[start],
        end=by_window[end],
        windows=windows,
        norms=norms[0] if pair.norms is not None else None,
        school=school,
        grade=grade,
        schools=[
            LevelChoice(str(id), schools[id]) for id in schools if any(at.school_id == id for at in where.values())
        ],
        grades=in_grade_order({at.grade for at in where.values() if not school or str(at.school_id) == school}),
        n=n,
        mean_gain=whole[0].mean_gain if whole else None,
        gain_ci95=whole[0].gain_ci95 if whole else None,
        met=whole[0].met if whole else None,
        blocks=blocks,
        by_school=by_school,
        students=drawn if n <= MOST_DRAWN else [],
        chance=met,
        behind=behind,
        ahead=ahead,
        missing=len(seen.alone),
        of=n + len(seen.alone),
        reasons=_reasons(seen),
        elsewhere=sum(at.part for p, at in here.items() if p in people),
        workings=_workings(pair),
    )
    return _with_finding(page)


def _names(db: Session, ids: Collection[int]) -> dict[int, _Name]:
    rows = db.execute(select(Person.id, Person.given, Person.family, Person.active).where(Person.student.is_(True)))
    wanted = set(ids)
    return {id: _Name(f"{given} {family}".strip(), active) for id, given, family, active in rows if id in wanted}


def _at(place: Placed, school: str, grade: str) -> bool:
    return (not school or str(place.school_id) == school) and (not grade or place.grade == grade)


def _student(seen: _Seen, row: int) -> GrowthStudent:
    pair, f = seen.pair, seen.pair.found
    person = pair.people[row]
    at = seen.where[person]
    known = bool(f.known[row])
    error = float(f.residual_error[row])
    band = None
    if known and not math.isnan(error):
        low, high = percentile_band(f.residual[row : row + 1], f.residual_error[row : row + 1])
        band = [float(low[0]), float(high[0])]
    sure = known and not math.isnan(error) and not f.misfit[row]
    return GrowthStudent(
        id=person,
        name=seen.people[person].name,
        alias=seen.aliases[person],
        klass=at.title,
        grade=at.grade,
        start=float(pair.matched.start[row]),
        end=float(pair.matched.end[row]),
        gain=float(f.gains.gain[row]),
        expected=float(f.expected[row]) if known else None,
        from_expected=float(pair.matched.end[row] - f.expected[row]) if known else None,
        percentile=float(f.like_start[row]) if known else None,
        band=band,
        claim=CLAIMS[int(f.claim[row])] if sure else "",
        reliable={1: "rise", -1: "fall"}.get(int(f.gains.verdict[row]), ""),
        beyond={1: "ahead", -1: "behind"}.get(int(f.beyond[row]), ""),
    )


def _chance(seen: _Seen) -> ChanceView | None:
    rows = np.array(seen.rows, dtype=np.int64)
    try:
        found = chance(seen.pair.found.beyond[rows], seen.pair.found.residual_error[rows])
    except Refused:
        return None
    return ChanceView(
        n=found.n,
        ahead=found.rises,
        behind=found.falls,
        expected=found.expected,
        upper95=found.upper95,
        ahead_says=_chance_says(found, found.rises_told),
        behind_says=_chance_says(found, found.falls_told),
    )


def _chance_says(found: Chance, named: bool) -> str:
    usual = f"chance brings {found.expected:.0f} of {found.n} and rarely more than {found.upper95}"
    if named:
        return f"{usual}; which of them are chance cannot be told"
    return f"{usual}, so no student is named"


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


def _blocks(seen: _Seen) -> list[GradeBlock]:
    grades = in_grade_order({at.grade for at in seen.where.values()})
    by_grade = {
        line.name: line
        for line in _group_lines(seen, {p: at.grade for p, at in seen.where.items()}, {g: (0, g) for g in grades})
    }
    titles: dict[str, tuple[int, str]] = {}
    of_class: dict[int, str] = {}
    for person, at in seen.where.items():
        if at.class_id:
            of_class[person] = str(at.class_id)
            titles[str(at.class_id)] = (at.class_id, at.title)
    grade_of = {str(at.class_id): at.grade for at in seen.where.values() if at.class_id}
    classes = defaultdict(list)
    for line in _group_lines(seen, of_class, titles):
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


def _by_school(seen: _Seen, schools: Mapping[int, str]) -> list[GrowthGroup]:
    of = {p: str(at.school_id) for p, at in seen.where.items() if at.school_id in schools}
    if len(set(of.values())) < 2:
        return []
    lines = _group_lines(seen, of, {str(id): (id, name) for id, name in schools.items()})
    return sorted(lines, key=lambda line: line.name)


def _group_lines(seen: _Seen, of: Mapping[int, str], names: Mapping[str, tuple[int, str]]) -> list[GrowthGroup]:
    """A line for each group; whoever is not looked at is among the others that it is judged by."""
    pair = seen.pair
    labels = [of.get(person, "") for person in pair.people]
    alone = Counter(of[p] for p in seen.alone if p in of)
    found = group_growth(labels, pair.matched, pair.found, alone)
    member: dict[str, list[int]] = defaultdict(list)
    for row, label in enumerate(labels):
        if label:
            member[label].append(row)
    hidden = hidden_groups([g.n for g in found.values()])
    return [
        _group_line(seen, names[label], g, member[label], is_hidden)
        for (label, g), is_hidden in zip(found.items(), hidden, strict=True)
    ]


def _group_line(seen: _Seen, named: tuple[int, str], g: GroupGrowth, rows: list[int], hidden: bool) -> GrowthGroup:
    f = seen.pair.found
    id, name = named
    expected = f.expected[rows][f.known[rows] == 1]
    told, ci = g.told, g.told_ci95
    sd = f.sd_end[rows]
    scale = float(np.nanmean(sd)) if np.isfinite(sd).any() else None
    off = 0 if told is None or ci is None else 1 if ci[0] > 0 else -1 if ci[1] < 0 else 0
    return GrowthGroup(
        id=id,
        name=name,
        n=g.n,
        mean_start=None if hidden else g.mean_start,
        mean_end=None if hidden else g.mean_end,
        mean_expected=None if hidden or expected.size < g.n else float(expected.mean()),
        mean_gain=None if hidden else g.mean_gain,
        gain_ci95=None if hidden or g.gain_ci95 is None else list(g.gain_ci95),
        told=None if hidden else told,
        ci95=None if hidden or ci is None else list(ci),
        shrunken=None if hidden else g.mean_residual_gain_shrunken,
        points=None if hidden or told is None or scale is None else told * scale,
        reach=None if hidden or ci is None or scale is None else (ci[1] - ci[0]) / 2 * scale,
        met=None if hidden else g.share_met_expected,
        off=0 if hidden or _missing_decide(g) else off,
        judged=g.judged,
        by=g.expectation or "",
        missing=g.missing,
        tipping=g.tipping_point,
        says="" if hidden else _tipping_says(name, g),
        why=_why_hidden(g) if hidden else g.reasons.get("expectation", ""),
        hidden=hidden,
    )


def _why_hidden(g: GroupGrowth) -> str:
    return f"under {LEAST} students" if g.n < LEAST else "hidden, as a smaller group beside it could be found from it"


def _missing_decide(g: GroupGrowth) -> bool:
    if g.tipping_point is None or g.told is None or g.told_ci95 is None:
        return False
    called = g.told_ci95[0] > 0 or g.told_ci95[1] < 0
    return abs(g.tipping_point) < DECIDE and (called or g.missing >= MANY * (g.n + g.missing))


def _tipping_says(name: str, g: GroupGrowth) -> str:
    if not _missing_decide(g) or g.told is None or g.tipping_point is None:
        return ""
    side = "under" if g.tipping_point < 0 else "above"
    return (
        f"{name} cannot be told: {g.missing} of its {g.n + g.missing} students have no score in one window. The {g.judged} others average "
        f"{g.told:+.2f} sd; if the missing ended {abs(g.tipping_point):.2f} sd {side} students with the same start, it would be at "
        "expectation."
    ).replace("-", "−")


def _contours(seen: _Seen, grade: str) -> list[GrowthContour]:
    rows = [row for row in seen.rows if seen.where[seen.pair.people[row]].grade == grade]
    known = [row for row in rows if seen.pair.found.known[row] and math.isfinite(seen.pair.found.sd_end[row])]
    if not known:
        return []
    f = seen.pair.found
    drawn = contours(seen.pair.matched.start[known], f.expected[known], f.sd_end[known])
    return [
        GrowthContour(percentile=p, points=[[float(x), float(y)] for x, y in line]) for p, line in sorted(drawn.items())
    ]


def _reasons(seen: _Seen) -> list[MissingReason]:
    names = {w.id: dated(w.name, w.start.year) for w in (seen.pair.start, seen.pair.end)}
    other = {seen.pair.start.id: seen.pair.end.id, seen.pair.end.id: seen.pair.start.id}
    found: Counter[str] = Counter()
    for person, window in seen.alone.items():
        if not seen.people[person].active:
            found["left the district"] += 1
        elif seen.where[person].part:
            found["changed class or school between the windows"] += 1
        else:
            found[f"no score in {names[other[window]]}"] += 1
    return [MissingReason(reason, n) for reason, n in found.most_common()]


def _with_finding(page: PairPage) -> PairPage:
    return replace(page, finding=_finding(page))


def _finding(page: PairPage) -> str:
    if not page.n:
        return f"No student here has a score in both {page.start.name} and {page.end.name}."
    students = counted(page.n, "student")
    if page.met is not None:
        text = f"Of {students} {percent(page.met)} grew as expected or more{_worst(page.blocks)}."
    elif page.mean_gain is not None and page.gain_ci95 is not None:
        low, high = page.gain_ci95
        why = "The norms hold no correlation of these weeks, so" if page.norms else "Without norms"
        text = (
            f"{students[0].upper()}{students[1:]} gained {page.mean_gain:.1f} points on average ({low:.1f} to {high:.1f}). {why} "
            "whether that is much cannot be told"
            + (f"; beside the others {_classes_off(page.blocks)}." if _classes_off(page.blocks) else ".")
        ).replace("-", "−")
    else:
        text = (
            f"{students[0].upper()}{students[1:]} {'has' if page.n == 1 else 'have'} both scores: too few to say more."
        )
    return f"{text} {_falls(page)}"


def _worst(blocks: Collection[GradeBlock]) -> str:
    """The grade that grew less than expected by more than chance, the furthest off."""
    off = [b for b in blocks if b.line.off < 0 and b.line.met is not None]
    if not off:
        more = [b for b in blocks if b.line.off > 0 and b.line.met is not None]
        if not more:
            return ""
        best = max(more, key=lambda b: b.line.told or 0)
        return f"; grade {best.grade} more than expected, {percent(best.line.met)}"
    worst = min(off, key=lambda b: b.line.told or 0)
    return f"; grade {worst.grade} less than expected, {percent(worst.line.met)}"


def _classes_off(blocks: Collection[GradeBlock]) -> str:
    off = [c for b in blocks for c in b.classes if c.off]
    if not off:
        return ""
    first = max(off, key=lambda c: abs(c.told or 0))
    return f"{first.name} gained {'more' if first.off > 0 else 'less'}"


def _falls(page: PairPage) -> str:
    met = page.chance
    if met is None:
        return "Without standard errors no single student can be told from chance."
    if met.behind > met.upper95:
        usual = f"where chance brings {met.expected:.0f} and rarely more than {met.upper95}"
        return f"{met.behind} ended reliably behind their expected score, {usual}."
    return f"{met.behind} ended behind their expected score by more than error, no more than chance brings (up to {met.upper95})."


def _workings(pair: Pair) -> list[str]:
    found = pair.found
    names = {
        "table": [g for g, s in found.sources.items() if s == "table"],
        "local": [g for g, s in found.sources.items() if s == "local"],
    }
    said = []
    if names["table"] and pair.norms is not None:
        said.append(
            f"Grades {', '.join(in_grade_order(names['table']))}: expected by {pair.norms.name}, version {pair.norms.version} ({pair.norms.source};"
            f" {pair.norms.population})."
        )
    if names["local"]:
        said.append(
            f"Grades {', '.join(in_grade_order(names['local']))}: expected by the regression of these students themselves; a class is judged by the"
            " regression of all others, and the whole of them not at all."
        )
    said += [
        f"Grade {grade}: {reason}." for (grade, figure), reason in sorted(found.why.items()) if figure == "expected"
    ]
    said.append(
        "What the error of the start scores alone makes of a group's mean is taken off, so that a group that starts high is not flattered."
    )
    said.append(
        f"A class counts students who were in it for at least {SHARE:.0%} of the days between the windows, and is judged from {LEAST_JUDGED} students on;"
        f" under {LEAST} it is not shown. A class figure does not measure a teacher."
    )
    said.append(
        "Reliably behind or ahead is further from the expected score than 1.645 times the error of both scores, which 1 in 20 students who"
        " grew exactly as expected passes on either side."
    )
    return said
