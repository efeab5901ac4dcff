"""Rules of a framework: what they are, what others would change, and changing them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.accommodations.kinds import TESTS
from bildung.core.errors import Refused
from bildung.core.items.shown import counted
from bildung.core.mastery.counting import COUNTS, KINDS, RETAKES
from bildung.core.mastery.rules import asks
from bildung.core.mastery.states import MASTERED, NOT_ASSESSED, STATES
from bildung.services.mastery.judging import Asked, whole_of
from bildung.services.mastery.ruling import USUAL_RULING, Ruling, ruled, rulings
from bildung.services.mastery.view import view
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Framework, MasteryRule, Person, Standard

WORDS: Mapping[str, tuple[str, str]] = {
    "line": ("Line", "Share of points on usual items from which a standard is mastered, 50% to 95%."),
    "enter": ("How sure for mastered", "Probability of being at or above the line, over 50% to 99%."),
    "leave": ("How sure to stay mastered", "Under this probability mastered is left; less than for entering it."),
    "points": ("Points for mastered", "In the present run, 1 to 60."),
    "thin": ("Points until evidence is enough", "Under so many it is insufficient; no more than mastered asks."),
    "developing": ("Developing from", "Share from which a standard is developing; under the line."),
    "half_life": (
        "Half-life of a run",
        "Days of instruction after which a share has changed with even chance, 20 to 2,000.",
    ),
    "retained_days": ("Days until retained", "Calendar days after mastery from which evidence retains it, 1 to 365."),
    "retained_points": ("Points for retained", "In that later evidence, 1 to 60."),
    "again": ("Check again under", "Probability under which a mastered standard is to be checked again."),
}
SHARES = ("line", "enter", "leave", "developing", "again")
NAMED = {
    **TESTS,
    "": "other tests",
    "live": "live rounds",
    "score": "scores entered by hand",
    "observation": "observations",
}


@dataclass(frozen=True, kw_only=True)
class MasteryRuleLine:
    """One number. share: shown as a percentage. usual: what it is unless somebody decides."""

    name: str
    label: str
    says: str
    value: float
    usual: float
    share: bool


@dataclass(frozen=True, kw_only=True)
class KindLine:
    """A kind of test. may_ask: the question can be left open until the end of a session."""

    kind: str
    label: str
    counts: str
    usual: str
    may_ask: bool


@dataclass(frozen=True, kw_only=True)
class FrameworkChoice:
    """A framework and whether it has rules of its own."""

    id: Id
    title: str
    own: bool


@dataclass(frozen=True, kw_only=True)
class RulesPage:
    """revision: for the next change, 0 where there is none yet. asks: what mastered asks by these rules."""

    finding: str
    frameworks: list[FrameworkChoice]
    framework: Id
    title: str
    rules: list[MasteryRuleLine]
    kinds: list[KindLine]
    retakes: str
    retake_ways: list[str]
    count_ways: list[str]
    revision: int
    changed_by: str
    changed_at: datetime | None
    asks: str
    may_change: bool


@dataclass(frozen=True, kw_only=True)
class RulesWish:
    """Numbers by name, kinds by name; what is not named stays usual."""

    rules: dict[str, float]
    counts: dict[str, str]
    retakes: str


@dataclass(frozen=True, kw_only=True)
class RulesMove:
    """So many cells go from one state to another."""

    before: str
    after: str
    n: int


@dataclass(frozen=True, kw_only=True)
class RulesPreview:
    """What a wish would change. cells: with evidence before or after."""

    finding: str
    asks: str
    cells: int
    moves: list[RulesMove]


def rules_page(ctx: Context, actor: Actor, framework_id: int | None) -> RulesPage:
    """Of one framework; the main one where none is named."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        frameworks = db.scalars(select(Framework).order_by(Framework.main.desc(), Framework.title)).all()
        if not frameworks:
            raise NotFound("there is no framework yet")
        found = frameworks[0] if framework_id is None else _framework(db, framework_id)
        row = db.get(MasteryRule, found.id)
        own = set(db.scalars(select(MasteryRule.framework_id)))
        ruling = rulings(db).get(found.id, USUAL_RULING)
        by = db.get(Person, row.by_id) if row else None
        return RulesPage(
            finding=_says(found.title, ruling, row is not None),
            frameworks=[
                FrameworkChoice(id=f.id, title=f"{f.title} {f.version}".strip(), own=f.id in own) for f in frameworks
            ],
            framework=found.id,
            title=f"{found.title} {found.version}".strip(),
            rules=_lines(ruling),
            kinds=[
                KindLine(
                    kind=kind,
                    label=NAMED[kind],
                    counts=ruling.counts[kind],
                    usual=usual,
                    may_ask=kind not in ("live", "score", "observation"),
                )
                for kind, usual in KINDS.items()
            ],
            retakes=ruling.retakes,
            retake_ways=list(RETAKES),
            count_ways=list(COUNTS),
            revision=row.revision if row else 0,
            changed_by=by.name if by else "",
            changed_at=row.at if row else None,
            asks=asks(ruling.rules),
            may_change=actor.may(Action.MASTERY_RULE),
        )


def _lines(ruling: Ruling) -> list[MasteryRuleLine]:
    now, usual = asdict(ruling.rules), asdict(USUAL_RULING.rules)
    return [
        MasteryRuleLine(name=name, label=label, says=says, value=now[name], usual=usual[name], share=name in SHARES)
        for name, (label, says) in WORDS.items()
    ]


def _says(title: str, ruling: Ruling, own: bool) -> str:
    if not own:
        return f"{title} is judged by the usual rules."
    usual = asdict(USUAL_RULING.rules)
    other = sum(value != usual[name] for name, value in asdict(ruling.rules).items())
    other += sum(word != KINDS[kind] for kind, word in ruling.counts.items()) + (ruling.retakes != "adds")
    return f"{title} has rules of its own: {counted(other, 'differs', 'differ')} from the usual."


def preview_rules(ctx: Context, actor: Actor, framework_id: int, wish: RulesWish) -> RulesPreview:
    """What would change, of every student with evidence on its standards; nothing is changed."""
    scope(actor, Action.MASTERY_RULE)
    ruling = _wished(wish)
    with ctx.store.read() as db:
        _framework(db, framework_id)
        subjects = db.scalars(
            select(Standard.subject).where(Standard.framework_id == framework_id, Standard.subject != "").distinct()
        ).all()
        moved = np.zeros((len(STATES), len(STATES)), dtype=np.int64)
        for subject in subjects:
            moved += _moved(ctx, db, subject, framework_id, ruling)
    cells = int(moved[1:].sum() + moved[NOT_ASSESSED, 1:].sum())
    moves = [
        RulesMove(before=STATES[a], after=STATES[b], n=int(moved[a, b]))
        for a in range(len(STATES))
        for b in range(len(STATES))
        if a != b and moved[a, b]
    ]
    gained = int(moved[:MASTERED, MASTERED:].sum())
    lost = int(moved[MASTERED:, :MASTERED].sum())
    changed = sum(m.n for m in moves)
    if not cells:
        text = "No student has evidence on these standards yet, so nothing would change."
    elif not changed:
        text = f"None of {counted(cells, 'cell')} would change."
    else:
        text = f"{changed} of {counted(cells, 'cell')} would change: {gained} would become mastered, {lost} would no longer be."
    return RulesPreview(
        finding=text,
        asks=asks(ruling.rules),
        cells=cells,
        moves=sorted(moves, key=lambda m: (-m.n, m.before, m.after)),
    )


def _moved(ctx: Context, db: Session, subject: str, framework_id: int, ruling: Ruling) -> np.ndarray:
    """(states, states) from before to after."""
    before, after = whole_of(ctx, db, subject), whole_of(ctx, db, subject, Asked(ruling=(framework_id, ruling)))
    ids = set(db.scalars(select(Standard.id).where(Standard.framework_id == framework_id)))
    mine = [s for s in before.standards if s in ids]
    people = sorted(before.people)
    states = [view(whole, people, mine).now for whole in (before, after)]
    found = np.zeros((len(STATES), len(STATES)), dtype=np.int64)
    np.add.at(found, tuple(states), 1)
    found[NOT_ASSESSED, NOT_ASSESSED] = 0
    return found


def change_rules(ctx: Context, actor: Actor, framework_id: int, wish: RulesWish, revision: int) -> None:
    """From now on; every history is judged by them. Conflict where somebody changed them meanwhile."""
    scope(actor, Action.MASTERY_RULE)
    _wished(wish)
    rules = {name: value for name, value in wish.rules.items() if value != getattr(USUAL_RULING.rules, name)}
    counts = {kind: word for kind, word in wish.counts.items() if word != KINDS[kind]}

    def work(db: Session) -> None:
        _framework(db, framework_id)
        row = db.get(MasteryRule, framework_id)
        if (row.revision if row else 0) != revision:
            raise Conflict("someone changed these rules meanwhile; look at them again")
        before = {"rules": row.rules, "counts": row.counts, "retakes": row.retakes} if row else None
        after: dict[str, Any] = {"rules": rules, "counts": counts, "retakes": wish.retakes}
        if row is None:
            row = MasteryRule(framework_id=framework_id, revision=0, **after)
            db.add(row)
        row.rules, row.counts, row.retakes = rules, counts, wish.retakes
        row.revision, row.at, row.by_id = row.revision + 1, ctx.clock(), actor.person_id
        audit.record(db, ctx.clock(), actor.person_id, "mastery.rules", f"framework:{framework_id}", before, after)

    ctx.store.write(work)


def _wished(wish: RulesWish) -> Ruling:
    whole = {"retained_days"}
    try:
        for name in whole & wish.rules.keys():
            if wish.rules[name] != int(wish.rules[name]):
                raise Refused("days are whole days")
        return ruled(
            {name: int(v) if name in whole else v for name, v in wish.rules.items()}, wish.counts, wish.retakes
        )
    except Refused as error:
        raise Invalid(str(error), "rules") from None


def _framework(db: Session, id: int) -> Framework:
    found = db.get(Framework, id)
    if found is None:
        raise NotFound("there is no such framework")
    return found
