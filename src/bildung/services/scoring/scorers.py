"""How far scorers of an item agree, who is severe, and whom items can be given to."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from sqlalchemy import select

from bildung.core.agreement.pairs import in_pairs
from bildung.core.agreement.severity import (
    AgainstTruth,
    Severity,
    against_truth,
    dealt_severity,
    judge_scorers,
    off_the_truth,
    severity,
)
from bildung.core.errors import Refused
from bildung.core.items.shown import counted, percent
from bildung.services.scoring.items import hand_item, scorers_of, window_named
from bildung.services.scoring.standing import ResponseStanding, plan_of, standings
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Person

WHO_IS_OFF = (
    " Which of the two is off cannot be told from two scorers; pre-scored responses or a third scorer would show it."
)


@dataclass(frozen=True)
class ScorerChoice:
    id: Id
    name: str


@dataclass(frozen=True, kw_only=True)
class ScorerLine:
    """One scorer. scored: responses; pairs: of them that somebody else scored as well. codes: condition codes they gave.
    effect: points above (below) the mean of these scorers, with its 95 % interval. verdict: what may be said of it; needed: pairs
    that are still needed. rescore: whether rescoring what they scored is offered; students: how many it could move. prescored: pre-scored
    responses that they scored without knowing it; apart: mean of theirs minus the score that is right, reach half of its 95 % interval,
    right: how many they scored alike, off: whether the difference is proved."""

    id: Id
    name: str
    scored: int
    pairs: int
    codes: int
    effect: float | None
    ci95: list[float] | None
    verdict: str
    needed: int
    rescore: bool
    students: int
    prescored: int
    apart: float | None
    reach: float | None
    right: int
    off: bool


@dataclass(frozen=True, kw_only=True)
class PairLine:
    """Two scorers on the same responses; condition codes are counted apart."""

    first: str
    second: str
    n: int
    exact: float | None
    adjacent: float | None
    difference: float | None
    kappa: float | None
    weighted_kappa: float | None
    codes_alike: int
    codes: int


@dataclass(frozen=True, kw_only=True)
class AgreementPage:
    """finding: what may be said, or why nothing can. way: how severity was estimated. prescored: responses whose score is known to be
    right."""

    finding: str
    item: str
    number: int
    form_id: Id
    form: str
    window: str
    maximum: float
    way: str
    residual_sd: float | None
    prescored: int
    scorers: list[ScorerLine]
    pairs: list[PairLine]


def choices(ctx: Context, actor: Actor) -> list[ScorerChoice]:
    """Active staff of the schools that this person coordinates, by name."""
    with ctx.store.read() as db:
        rows = db.scalars(
            select(Person)
            .where(Person.kind == "staff", Person.active.is_(True), scope(actor, Action.PEOPLE_READ))
            .order_by(Person.family, Person.given)
        )
        return [ScorerChoice(p.id, p.name) for p in rows]


def agreement_page(ctx: Context, actor: Actor, place: int, window_id: int) -> AgreementPage:
    """Of one item in one window. Severity is estimated from single scores as well only where responses were dealt from a
    shared queue; nobody's score is changed by it."""
    with ctx.store.read() as db:
        item, window = hand_item(db, place), window_named(db, window_id)
        rows = standings(db, item, window_id, scope(actor, Action.SCORES_PLAN), ctx.clock())
        if not rows:
            raise NotFound("no one has submitted a response to this item in this window")
        plan = plan_of(db, place, window_id)
        tasks = {t.scorer_id for t in scorers_of(db, place, window_id)}
        ids = sorted({m.scorer for r in rows for m in r.marks})
        names = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_(ids)))}
    dealt = plan.share > 0 and set(ids) <= tasks
    found, way = _severity(rows, ids, dealt)
    lines = _scorers(rows, ids, names, found, item.maximum)
    pairs = _pairs(rows, names)
    return AgreementPage(
        finding=_finding(lines, pairs),
        item=item.item.code,
        number=item.number,
        form_id=item.form_id,
        form=item.form,
        window=window.name,
        maximum=item.maximum,
        way=way,
        residual_sd=None if found is None else found.residual_sd,
        prescored=sum(any(m.truth and not m.aside for m in row.marks) for row in rows),
        scorers=lines,
        pairs=pairs,
    )


def _severity(rows: list[ResponseStanding], ids: list[int], dealt: bool) -> tuple[Severity | None, str]:
    """By the responses that were scored by the rubric; who settled knew what others gave, and is left out."""
    at = {id: n for n, id in enumerate(ids)}
    given = [(n, at[m.scorer], m.points) for n, row in enumerate(rows) for m in row.marks if not m.code and not m.final]
    if len(ids) < 2 or not given:
        return None, "there is one scorer only"
    response, scorer, points = (np.array(some) for some in zip(*given, strict=True))
    if not dealt:
        counts = np.bincount(response)
        kept = counts[response] > 1
        response, scorer, points = response[kept], scorer[kept], points[kept]
        if not kept.any() or set(scorer.tolist()) != set(range(len(ids))):
            return None, "responses that two people scored are needed, some of each scorer"
    try:
        if dealt:
            return dealt_severity(
                response, scorer, points.astype(float)
            ), "from all scores, as responses were dealt by chance"
        return severity(response, scorer, points.astype(float)), "from responses that two people scored"
    except Refused as error:
        return None, str(error)


def _scorers(
    rows: list[ResponseStanding], ids: list[int], names: dict[int, str], found: Severity | None, maximum: float
) -> list[ScorerLine]:
    scored, pairs, codes = defaultdict[int, int](int), defaultdict[int, int](int), defaultdict[int, int](int)
    students: dict[int, set[int]] = defaultdict(set)
    for row in rows:
        by_rubric = [m for m in row.marks if not m.code and not m.final]
        for mark in row.marks:
            scored[mark.scorer] += 1
            codes[mark.scorer] += bool(mark.code)
        for mark in by_rubric:
            pairs[mark.scorer] += len(by_rubric) > 1
            if not any(m.final for m in row.marks):
                students[mark.scorer].add(row.person)
    truths = {id: _against(rows, id) for id in ids}
    off = dict(zip(ids, off_the_truth(list(truths.values()), maximum), strict=True))
    verdicts = judge_scorers(found, np.array([pairs[id] for id in ids]), maximum) if found else None
    return [
        ScorerLine(
            id=id,
            name=names[id],
            scored=scored[id],
            pairs=pairs[id],
            codes=codes[id],
            effect=float(found.effects[n]) if found else None,
            ci95=[float(end[n]) for end in found.ci95] if found else None,
            verdict=verdicts[n].verdict if verdicts else "cannot be told",
            needed=verdicts[n].needed if verdicts else 0,
            rescore=off[id] or (verdicts[n].rescore if verdicts else False),
            students=len(students[id]),
            prescored=known.n if (known := truths[id]) else 0,
            apart=known.difference if known else None,
            reach=known.reach if known else None,
            right=round(known.exact * known.n) if known else 0,
            off=off[id],
        )
        for n, id in enumerate(ids)
    ]


def _against(rows: list[ResponseStanding], scorer: int) -> AgainstTruth | None:
    """What somebody gave pre-scored responses by the rubric, beside what is right."""
    both = [
        (mine.points, truth.points)
        for row in rows
        for truth in row.marks
        if truth.truth and not truth.aside and not truth.code
        for mine in row.marks
        if mine.scorer == scorer and not mine.final and not mine.code
    ]
    return against_truth(*np.array(both).T) if both else None


def _pairs(rows: list[ResponseStanding], names: dict[int, str]) -> list[PairLine]:
    return [
        PairLine(
            first=names[pair.first],
            second=names[pair.second],
            n=pair.n,
            exact=pair.found.exact if pair.found else None,
            adjacent=pair.found.adjacent if pair.found else None,
            difference=pair.found.difference if pair.found else None,
            kappa=pair.found.kappa if pair.found else None,
            weighted_kappa=pair.found.weighted_kappa if pair.found else None,
            codes_alike=pair.codes_alike,
            codes=pair.codes,
        )
        for pair in in_pairs([{m.scorer: m.score for m in row.marks} for row in rows])
    ]


def _finding(lines: list[ScorerLine], pairs: list[PairLine]) -> str:
    return f"{_agreement(lines, pairs)}{_by_truth(lines)}"


def _agreement(lines: list[ScorerLine], pairs: list[PairLine]) -> str:
    if not lines:
        return "No response to this item has been scored yet."
    called = [line for line in lines if line.verdict in ("severe", "lenient")]
    if len(called) == 2 == len(lines):
        low, high = sorted(called, key=lambda line: line.effect or 0)
        apart, reach = (high.effect or 0) - (low.effect or 0), _reach(low) + _reach(high)
        return (
            f"{low.name} gives {apart:.1f} points less than {high.name} on the same responses (± {reach:.1f})."
            f"{'' if _by_truth(called) else WHO_IS_OFF}"
        )
    if called:
        words = [
            f"{line.name} scores {abs(line.effect or 0):.1f} points {'lower' if (line.effect or 0) < 0 else 'higher'} than"
            f" the mean of these scorers (± {_reach(line):.1f})"
            for line in called
        ]
        return f"{'; '.join(words)}. {counted(called[0].students, 'student')} would be rescored."
    n = sum(p.n for p in pairs)
    if not n:
        return "No response has been scored by two people, so how far scorers agree cannot be told."
    exact = sum((p.exact or 0.0) * p.n for p in pairs) / n
    few = [line for line in lines if line.verdict == "too few to tell"]
    text = f"Two scorers gave the same points to {percent(exact)} of {counted(n, 'response')}."
    if few:
        more = max(line.needed for line in few)
        return f"{text} Whether anyone is severe cannot be told yet: {counted(more, 'more pair')} would be needed."
    return f"{text} No scorer is shown to be severe or lenient."


def _by_truth(lines: list[ScorerLine]) -> str:
    """Who is off, where pre-scored responses show it."""
    off = [line for line in lines if line.off]
    return "".join(
        f" On pre-scored responses {line.name} gives {abs(line.apart or 0):.1f} points"
        f" {'less' if (line.apart or 0) < 0 else 'more'} than is right (± {line.reach:.1f}, {counted(line.prescored, 'response')})."
        for line in off
    )


def _reach(line: ScorerLine) -> float:
    """Half of the interval of an effect."""
    return (line.ci95[1] - line.ci95[0]) / 2 if line.ci95 else 0.0
