"""The part of a pair that somebody looks at: whose students, in which classes, and lines of groups of them."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.growth.claims import percentile_band
from bildung.core.growth.groups import GroupGrowth, group_growth
from bildung.core.growth.matched import Growth
from bildung.core.scales.cuts import CutTable
from bildung.core.scales.levels import level_of
from bildung.core.school.privacy import alias_numbers, hidden_groups
from bildung.services.growth.classes import Placed, placed
from bildung.services.growth.cohort import Pair, with_percentiles
from bildung.services.growth.cuts import table_at
from bildung.services.growth.own import why_missing
from bildung.services.growth.pairview import GrowthGroup, GrowthStudent
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.settings import setting
from bildung.store.models import Person

MOST_DRAWN = 4000  # students that are sent one by one; of more a school or grade is chosen first
DECIDE = 0.5  # standard deviations: a tipping point under it says that the missing decide
MANY = 0.2  # of a list: that many missing are told also where the class would not be called
CLAIMS = {1: "more", -1: "less", 0: "cannot be told"}


@dataclass(frozen=True, slots=True)
class Named:
    name: str
    active: bool


@dataclass(frozen=True, kw_only=True)
class Seen:
    """rows: places of students in the pair; where: by person. alone: who has one score only, of what is looked at. least: fewest students
    of a group that are shown. cuts: that hold, in the pair's sign. why: of those with one score, why there is no other, where that is
    known."""

    pair: Pair
    found: Growth
    rows: list[int]
    everywhere: Mapping[int, Placed]
    where: Mapping[int, Placed]
    people: Mapping[int, Named]
    alone: Mapping[int, tuple[int, str]]
    aliases: Mapping[int, int]
    cuts: CutTable | None
    least: int
    share: float
    why: Mapping[int, str]


def see(
    ctx: Context,
    db: Session,
    actor: Actor,
    pair: Pair,
    school: str = "",
    grade: str = "",
    klass: str = "",
    outside: bool = False,
    sgp: bool = True,
) -> Seen:
    """What this person may see of a pair. outside: as it is shown outside the school, with a larger least group."""
    share = float(setting(db, "growth_share"))
    everywhere = placed(db, actor, pair, share)
    mine = [p for p in (*pair.people, *pair.alone) if p in everywhere]
    here = {id: at for id, at in everywhere.items() if _at(at, school, grade, klass)}
    many = pair.matched.start.size > MOST_DRAWN
    alone = {p: w for p, w in pair.alone.items() if p in here}
    return Seen(
        pair=pair,
        found=pair.found if many or not sgp or pair.measure.levels else with_percentiles(ctx, pair),
        rows=[row for row, person in enumerate(pair.people) if person in here],
        everywhere=everywhere,
        where=here,
        people=names_of(db, mine),
        alone=alone,
        aliases=dict(zip(mine, alias_numbers(mine), strict=True)),
        cuts=table_at(db, pair.measure),
        least=int(setting(db, "least_outside" if outside else "least_inside")),
        share=share,
        why=why_missing(db, pair.measure, [(p, _other(pair, at)) for p, (at, why) in alone.items() if not why]),
    )


def _other(pair: Pair, occasion: int) -> int:
    return int(pair.end.id if occasion == pair.start.id else pair.start.id)


def names_of(db: Session, ids: Collection[int]) -> dict[int, Named]:
    """Of students."""
    rows = db.execute(select(Person.id, Person.given, Person.family, Person.active).where(Person.student.is_(True)))
    wanted = set(ids)
    return {id: Named(f"{given} {family}".strip(), active) for id, given, family, active in rows if id in wanted}


def _at(place: Placed, school: str, grade: str, klass: str) -> bool:
    here = (not school or str(place.school_id) == school) and (not grade or place.grade == grade)
    return here and (not klass or str(place.class_id) == klass)


def marks_of(pair: Pair, person: int) -> list[str]:
    """What is to be known of both attempts: marks with their occasion, and accommodations that differ."""
    first, last = pair.first[person], pair.last[person]
    if not first.marks and not last.marks and first.support == last.support:
        return []
    found = [f"{mark} ({pair.start.name})" for mark in first.marks]
    found += [f"{mark} ({pair.end.name})" for mark in last.marks]
    if first.support != last.support:
        found.append("other accommodations than at the start")
    return found


def student_of(seen: Seen, row: int) -> GrowthStudent:
    """One student, with what may be said."""
    pair, f = seen.pair, seen.found
    person = pair.people[row]
    at = seen.where[person]
    known = bool(f.known[row])
    error = float(f.residual_error[row])
    band = None
    if known and not math.isnan(error):
        low, high = percentile_band(f.residual[row : row + 1], f.residual_error[row : row + 1])
        band = [float(low[0]), float(high[0])]
    sure = known and not math.isnan(error) and not f.misfit[row]
    sgp = int(f.sgp[row])
    start, end = float(pair.matched.start[row]), float(pair.matched.end[row])
    return GrowthStudent(
        id=person,
        name=seen.people[person].name,
        alias=seen.aliases[person],
        klass=at.title,
        grade=at.grade,
        start=pair.sign * start,
        end=pair.sign * end,
        gain=float(f.gains.gain[row]),
        expected=pair.sign * float(f.expected[row]) if known else None,
        from_expected=float(end - f.expected[row]) if known else None,
        percentile=float(f.like_start[row]) if known else None,
        band=band,
        sgp=sgp or None,
        claim=CLAIMS[int(f.claim[row])] if sure else "",
        reliable={1: "rise", -1: "fall"}.get(int(f.gains.verdict[row]), ""),
        beyond={1: "ahead", -1: "behind"}.get(int(f.beyond[row]), ""),
        start_level=level_name(seen, start, pair.matched.start_grade[row], pair.start.season),
        end_level=level_name(seen, end, pair.matched.end_grade[row], pair.end.season),
        marks=marks_of(pair, person),
    )


def level_name(seen: Seen, score: float, grade: str, season: str) -> str:
    """The level of a score, in the pair's sign; empty without cut scores."""
    if seen.pair.measure.levels:
        return str(seen.pair.measure.levels[round(seen.pair.sign * score) - 1])
    levels = None if seen.cuts is None else seen.cuts.levels(grade, season)
    return "" if levels is None else levels.names[int(level_of(np.array([score]), levels)[0])]


def group_lines(seen: Seen, of: Mapping[int, str], names: Mapping[str, tuple[int, str]]) -> list[GrowthGroup]:
    """A line for each group; whoever is not looked at is among the others that it is judged by."""
    pair = seen.pair
    labels = [of.get(person, "") for person in pair.people]
    alone = Counter(of[p] for p in seen.alone if p in of)
    starts: dict[str, list[float]] = defaultdict(list)
    for p, (occasion, _) in seen.alone.items():
        if p in of and occasion == int(pair.start.id):
            starts[of[p]].append(pair.sign * pair.first[p].score)
    without = {label: np.array(some) for label, some in starts.items()}
    found = group_growth(labels, pair.matched, pair.found, alone, without)
    member: dict[str, list[int]] = defaultdict(list)
    for row, label in enumerate(labels):
        if label:
            member[label].append(row)
    hidden = hidden_groups([g.n for g in found.values()], seen.least)
    return [
        _group_line(seen, names[label], g, member[label], is_hidden)
        for (label, g), is_hidden in zip(found.items(), hidden, strict=True)
    ]


def _group_line(seen: Seen, named: tuple[int, str], g: GroupGrowth, rows: list[int], hidden: bool) -> GrowthGroup:
    f, sign = seen.found, seen.pair.sign
    id, name = named
    expected = f.expected[rows][f.known[rows] == 1]
    told, ci = g.told, g.told_ci95
    sd = f.sd_end[rows]
    scale = float(np.nanmean(sd)) if np.isfinite(sd).any() else None
    off = 0 if told is None or ci is None else 1 if ci[0] > 0 else -1 if ci[1] < 0 else 0
    percentiles = f.sgp[rows][f.sgp[rows] > 0]
    return GrowthGroup(
        id=id,
        name=name,
        n=g.n,
        mean_start=None if hidden else sign * g.mean_start,
        mean_end=None if hidden else sign * g.mean_end,
        mean_expected=None if hidden or expected.size < g.n else sign * float(expected.mean()),
        mean_gain=None if hidden else g.mean_gain,
        gain_ci95=None if hidden or g.gain_ci95 is None else list(g.gain_ci95),
        told=None if hidden else told,
        ci95=None if hidden or ci is None else list(ci),
        shrunken=None if hidden else g.mean_residual_gain_shrunken,
        points=None if hidden or told is None or scale is None else told * scale,
        reach=None if hidden or ci is None or scale is None else (ci[1] - ci[0]) / 2 * scale,
        met=None if hidden else g.share_met_expected,
        off=0 if hidden or missing_decide(g) else off,
        judged=g.judged,
        by=g.expectation or "",
        median_sgp=None if hidden or not percentiles.size else float(np.median(percentiles)),
        missing=g.missing,
        picked=g.picked and not hidden,
        tipping=g.tipping_point,
        says="" if hidden else _tipping_says(name, g),
        why=_why_hidden(g, seen.least) if hidden else g.reasons.get("expectation", ""),
        hidden=hidden,
    )


def _why_hidden(g: GroupGrowth, least: int) -> str:
    return f"under {least} students" if g.n < least else "hidden, as a smaller group beside it could be found from it"


def missing_decide(g: GroupGrowth) -> bool:
    """Whether the missing could bring a group to expectation that would be called, or a fifth of it is missing."""
    if g.tipping_point is None or g.told is None or g.told_ci95 is None:
        return False
    called = g.told_ci95[0] > 0 or g.told_ci95[1] < 0
    return abs(g.tipping_point) < DECIDE and (called or g.missing >= MANY * (g.n + g.missing))


def _tipping_says(name: str, g: GroupGrowth) -> str:
    if not missing_decide(g) or g.told is None or g.tipping_point is None:
        return ""
    side = "under" if g.tipping_point < 0 else "above"
    return (
        f"{name} cannot be told: {g.missing} of its {g.n + g.missing} students have no score in one window. The {g.judged} others average "
        f"{g.told:+.2f} sd; if the missing ended {abs(g.tipping_point):.2f} sd {side} students with the same start, it would be at "
        "expectation."
    ).replace("-", "−")
