"""Classes, teachers, schools or windows side by side: what is low everywhere, what in one place, what was not taught yet."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, get_args

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.comparison.compare import CompareFinding, Comparison, GroupItem, compare
from bildung.core.errors import Refused
from bildung.core.items.shown import dated, points_apart
from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import zone_of
from bildung.services.items.texts import begins
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.overview import groups_of
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.jobs import Job
from bildung.services.shared.results import KeptResults
from bildung.store.models import (
    Consent,
    CoursePlan,
    Enrolment,
    Lesson,
    LessonStandard,
    Person,
    SchoolClass,
    Standard,
    Taught,
)

By = Literal["class", "teacher", "school", "window"]
Of = Literal["item", "standard"]
SAYS = {
    "low_everywhere": "low everywhere: look at the question",
    "low_in_one": "low in one: look at instruction",
    "high_in_one": "high in one: ask what was done there",
    "large_but_unproven": "large, but may be chance: worth discussing",
    "not_taught": "not taught there yet",
}


@dataclass(frozen=True)
class GroupHead:
    """n: students with a total; mean: share of the points. mine: whether it is this person's own."""

    name: str
    n: int
    mean: float | None
    mine: bool


@dataclass(frozen=True, kw_only=True)
class CompareLine:
    """One item or standard, its p in each group in the order of the groups. text: of the standard, or with which the item begins. taught: by group whether it was taught when
    they sat; None where no pacing guide says. findings: of this line."""

    name: str
    number: int | None
    standard: str
    text: str
    cells: list[GroupItem]
    taught: list[bool | None]


@dataclass(frozen=True, kw_only=True)
class GroupComparison:
    """findings: in the order in which they want talking about. says: what each kind of finding means."""

    finding: str
    by: str
    of: str
    groups: list[GroupHead]
    lines: list[CompareLine]
    findings: list[CompareFinding]
    says: dict[str, str]
    note: str


@dataclass
class ComparedAtHand:
    """By the analysis, whose group each student is in, and what is compared. The analysis is kept with it, so that none
    takes its place in the key."""

    found: KeptResults[tuple[TestAnalysis, Comparison]] = field(default_factory=lambda: KeptResults(16))


def compare_groups(
    ctx: Context,
    actor: Actor,
    wanted: ScopeRequest,
    by: str = "class",
    of: str = "item",
    settings: Settings = DEFAULTS,
    job: Job | None = None,
) -> GroupComparison:
    """Classes, teachers, schools, groups or windows held against each other, item by item or by standard."""
    if by not in get_args(By):
        raise Invalid(f"compared are {', '.join(get_args(By))}", "by")
    if of not in get_args(Of):
        raise Invalid(f"compared is {' or '.join(get_args(Of))}", "of")
    judged = judge(ctx, actor, wanted, settings, job)
    with ctx.store.read() as db:
        labels, mine = _labels(db, actor, judged, by)
        taught = _taught(db, judged)
        codes = {row.item.standards[0] for row in judged.rows if row.item.standards}
        texts = dict(db.execute(select(Standard.code, Standard.text).where(Standard.code.in_(codes))).all())
    names = sorted({label for label in labels if label})
    if len(names) < 2:
        raise Conflict(
            f"{_one(by, names)}; a comparison needs two at least. Widen the view, or compare by something else"
        )
    standards = groups_of(judged, "standard")
    every = np.ones(len(labels), dtype=np.bool_)
    try:
        found = ctx.own(ComparedAtHand).found.get(
            (id(judged.analysis), tuple(labels), of),
            lambda: (
                judged.analysis,
                compare(
                    judged.analysis, labels, every, standards if of == "standard" else None, job.tell if job else None
                ),
            ),
        )[1]
    except Refused as error:
        raise Conflict(str(error)) from None
    found = _in_natural_order(found)
    most = judged.analysis.distribution.points
    heads = [
        GroupHead(g.group, g.n, None if g.mean is None or not most else g.mean / most, g.group in mine)
        for g in found.groups
    ]
    lines = _lines(judged, found, of, labels, taught, texts)
    findings = _findings(found, lines, [g.group for g in found.groups])
    return GroupComparison(
        finding=_finding(findings, lines, by, names),
        by=by,
        of=of,
        groups=heads,
        lines=lines,
        findings=findings,
        says=SAYS,
        note="With classes this small, use the order as a starting point for discussion, not as a judgment."
        if by in ("class", "teacher")
        else "",
    )


def labels_of(ctx: Context, actor: Actor, judged: Judged, by: str) -> list[str]:
    """(counted,) each student's group, as `compare_groups` names it. Refused for what is not compared by."""
    if by not in get_args(By):
        raise Invalid(f"compared are {', '.join(get_args(By))}", "by")
    with ctx.store.read() as db:
        return _labels(db, actor, judged, by)[0]


def _in_natural_order(found: Comparison) -> Comparison:
    """Class 2 before class 10."""

    def parts(name: str) -> list[tuple[int, str]]:
        return [(int(piece), "") if piece.isdecimal() else (-1, piece) for piece in re.split(r"(\d+)", name)]

    return replace(found, groups=tuple(sorted(found.groups, key=lambda g: parts(g.group))))


def _one(by: str, names: Sequence[str]) -> str:
    return f"only {names[0]} is in this view" if names else f"no {by} is known of these students"


def _labels(db: Session, actor: Actor, judged: Judged, by: str) -> tuple[list[str], set[str]]:
    """(counted,) each student's group; and which groups are this person's own. Teachers are named to coordinators, to
    themselves and to colleagues who agreed; the others are numbered."""
    where = {o.id: o for o in judged.scoped.chosen}
    at = [where[int(s)] for s in judged.session]
    taught = set(
        db.scalars(
            select(Enrolment.class_id).where(Enrolment.person_id == actor.person_id, Enrolment.role == "teacher")
        )
    )
    if by == "school":
        return [o.school for o in at], set()
    if by == "window":
        order = sorted({(o.start.year, o.window_id): o for o in at}.values(), key=lambda o: o.start)
        place = {o.window_id: f"{n}. {dated(o.window, o.year)}" for n, o in enumerate(order, 1)}
        return [place[o.window_id] for o in at], set()
    if by == "class":
        return [o.klass for o in at], {o.klass for o in at if o.class_id in taught}
    return _by_teacher(db, actor, judged, [o.class_id for o in at])


def _by_teacher(db: Session, actor: Actor, judged: Judged, classes: Sequence[int]) -> tuple[list[str], set[str]]:
    rows = db.execute(
        select(Enrolment.class_id, Person.id, Person.given, Person.family)
        .join(Person, Person.id == Enrolment.person_id)
        .where(Enrolment.role == "teacher", Enrolment.class_id.in_(set(classes)))
        .order_by(Enrolment.class_id, Enrolment.id)
    ).all()
    boss = any(grant.role == "coordinator" for grant in actor.grants)
    agreed = set(
        db.scalars(select(Consent.giver_id).where(Consent.receiver_id == actor.person_id, Consent.ended_at.is_(None)))
    )
    of: dict[int, int] = {}
    names: dict[int, str] = {}
    for klass, person, given, family in rows:
        of.setdefault(klass, person)
        names[person] = f"{given} {family}"
    others = sorted(p for p in set(of.values()) if not boss and p != actor.person_id and p not in agreed)
    names |= {p: f"Colleague {n}" for n, p in enumerate(others, 1)}
    labels = [names[of[c]] if c in of else "" for c in classes]
    return labels, {names[actor.person_id]} if actor.person_id in names else set()


def _taught(db: Session, judged: Judged) -> dict[tuple[int, str], bool]:
    """By class and standard, whether the class had had a lesson of it by the day it sat; only standards of the course's
    plan are known."""
    classes = {
        o.class_id: min(p.start for p in judged.scoped.chosen if p.class_id == o.class_id) for o in judged.scoped.chosen
    }
    zone = zone_of(db)
    rows = db.execute(
        select(SchoolClass.id, Lesson.id, Standard.code)
        .join(
            CoursePlan,
            (CoursePlan.subject == SchoolClass.subject)
            & (CoursePlan.grade == SchoolClass.grade)
            & (CoursePlan.year_id == SchoolClass.year_id),
        )
        .join(Lesson, Lesson.plan_id == CoursePlan.id)
        .join(LessonStandard, LessonStandard.lesson_id == Lesson.id)
        .join(Standard, Standard.id == LessonStandard.standard_id)
        .where(SchoolClass.id.in_(classes))
    ).all()
    had = {
        (klass, lesson)
        for klass, lesson, on in db.execute(
            select(Taught.class_id, Taught.lesson_id, Taught.on).where(Taught.class_id.in_(classes))
        )
        if on <= school_day(classes[klass], zone)
    }
    found: dict[tuple[int, str], bool] = {}
    for klass, lesson, code in rows:
        found[klass, code] = found.get((klass, code), False) or (klass, lesson) in had
    return found


def _lines(
    judged: Judged,
    found: Comparison,
    of: str,
    labels: Sequence[str],
    taught: Mapping[tuple[int, str], bool],
    texts: Mapping[str, str],
) -> list[CompareLine]:
    where = {o.id: o for o in judged.scoped.chosen}
    members: dict[str, set[int]] = {}
    for label, session in zip(labels, judged.session, strict=True):
        members.setdefault(label, set()).add(where[int(session)].class_id)

    def said(group: str, standard: str) -> bool | None:
        known = [taught[c, standard] for c in members[group] if (c, standard) in taught]
        return None if not known else all(known)

    lines = []
    for at, first in enumerate(found.groups[0].items):
        at_fault = False
        if of == "item":
            row = judged.rows[at]
            # an item that is probably at fault says nothing of what was taught
            at_fault = any(flag.weight == "problem" for flag in judged.analysis.items[at].flags)
            name, number, standard = row.item.code, row.number, row.item.standards[0] if row.item.standards else ""
            text = begins(row.item)
        else:
            name, number, standard = first.item, None, first.item
            text = texts.get(standard, "")
        lines.append(
            CompareLine(
                name=name,
                number=number,
                standard=standard,
                text=text,
                cells=[g.items[at] for g in found.groups],
                taught=[None if at_fault else said(g.group, standard) for g in found.groups],
            )
        )
    return lines


ORDER = {"low_everywhere": 0, "low_in_one": 1, "not_taught": 2, "large_but_unproven": 3, "high_in_one": 4}


def _findings(found: Comparison, lines: Sequence[CompareLine], names: Sequence[str]) -> list[CompareFinding]:
    """What was not taught yet is read as such; the rest in the order of what wants a talk, the surest and largest first."""
    line_of = {line.name: line for line in lines}
    read = [
        replace(f, finding="not_taught") if _before_its_time(f, line_of[f.item], names) else f for f in found.findings
    ]
    read.sort(
        key=lambda f: (
            ORDER[f.finding],
            f.p_adjusted if f.p_adjusted is not None else 0.0,
            -abs(f.difference or 0.0),
            f.item,
        )
    )
    return read


def _before_its_time(f: CompareFinding, line: CompareLine, names: Sequence[str]) -> bool:
    """Low where the standard had not been taught yet: in every group, or in the one it is about."""
    if f.group is None:
        return bool(line.taught) and all(t is False for t in line.taught)
    low = f.finding in ("low_in_one", "large_but_unproven") and (f.difference or 0) < 0
    return low and line.taught[names.index(f.group)] is False


def _finding(findings: Sequence[CompareFinding], lines: Sequence[CompareLine], by: str, names: Sequence[str]) -> str:
    what = {"class": "classes", "teacher": "teachers", "school": "schools", "window": "windows"}[by]
    text = f"{len(names)} {what} side by side. "
    n = {kind: [f for f in findings if f.finding == kind] for kind in ORDER}
    parts = [
        f"{_named(lines, f.item)} is low in {f.group} alone ({points_apart(f.difference)} under the others): look at the teaching"
        for f in n["low_in_one"][:2]
    ]
    if len(n["low_in_one"]) > 2:
        parts.append(f"{len(n['low_in_one']) - 2} more are low in one")
    if n["low_everywhere"]:
        low = n["low_everywhere"]
        some = f"{_named(lines, low[0].item)} is" if len(low) == 1 else str(len(low))
        many = len(low) * 3 > len(lines)  # then it is the line, or the whole test, that wants the first look
        parts.append(
            f"{some} low everywhere: " + ("the test was hard for this watch line" if many else "look at the question")
        )
    if n["not_taught"]:
        parts.append(f"{len(n['not_taught'])} low where it was not taught yet")
    if n["large_but_unproven"]:
        parts.append(f"{len(n['large_but_unproven'])} large but unproven, worth a talk")
    return text + ("; ".join(parts) + "." if parts else "No difference stands out: all are within chance.")


def _named(lines: Sequence[CompareLine], name: str) -> str:
    line = next(line for line in lines if line.name == name)
    if line.number is not None:
        return f"Item {line.number}"
    return f"{line.text} ({name})" if line.text else name
