"""Facts of a plan that somebody works on, kept for half a minute so that a hand move is checked at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from bildung.core.planning.sessions import PlanSession
from bildung.services.planning.document import of_today, read_sessions, read_wishes
from bildung.services.planning.facts import Facts, facts_of
from bildung.services.planning.schools import window_of
from bildung.services.shared.context import Context
from bildung.services.shared.versions import count_on, version
from bildung.store.models import Plan

FRESH = timedelta(seconds=30)
KEPT = 20
KEPT_AS = "planning"


Parsed = tuple[list[PlanSession], list[PlanSession]]


@dataclass
class KnownFacts:
    """By plan: when they were read, for which wishes, and the facts. version: of rooms, hours and bells in the store that
    they rest on. sessions: by plan, as they were read last, with the values and the facts that they were read from."""

    of: dict[int, tuple[datetime, dict[str, Any], Facts]] = field(default_factory=dict)
    version: int = 0
    sessions: dict[int, tuple[Sequence[dict[str, Any]], Facts, Parsed]] = field(default_factory=dict)


def known_facts(ctx: Context, db: Session, plan: Plan, fresh: bool = False) -> Facts:
    """fresh: read anew, for what must not be out of date."""
    kept = ctx.own(KnownFacts).of
    entry = kept.get(plan.id)
    if entry is not None and not fresh and is_known(ctx, plan.id) and entry[1] == plan.wishes:
        return entry[2]
    now = ctx.clock()
    facts = facts_of(ctx, db, plan.school_id, window_of(db, plan.window_id), read_wishes(plan.wishes))
    while len(kept) >= KEPT:
        kept.pop(next(iter(kept)))
    kept[plan.id] = (now, dict(plan.wishes), facts)
    return facts


def is_known(ctx: Context, plan_id: int) -> bool:
    """The facts of this plan are at hand and not too old."""
    _forget_old(ctx)
    entry = ctx.own(KnownFacts).of.get(plan_id)
    return entry is not None and timedelta(0) <= ctx.clock() - entry[0] < FRESH


def known_sessions(ctx: Context, plan: Plan, facts: Facts) -> Parsed:
    """Sessions of a plan with today's lists, and those whose block is gone; read anew only where the plan or the facts are
    others than the last time."""
    kept = ctx.own(KnownFacts).sessions
    entry = kept.get(plan.id)
    if entry is not None and entry[1] is facts and entry[0] == plan.sessions:
        return entry[2]
    found, lost = read_sessions(facts.problem, plan.sessions)
    parsed = of_today(facts.problem, found), lost
    while len(kept) >= KEPT:
        kept.pop(next(iter(kept)))
    kept[plan.id] = (plan.sessions, facts, parsed)
    return parsed


def _forget_old(ctx: Context) -> None:
    """What another worker has made out of date."""
    if ctx.shared:
        with ctx.store.read() as db:
            number = version(db, KEPT_AS)
        known = ctx.own(KnownFacts)
        if known.version != number:
            known.version = number
            known.of.clear()
            known.sessions.clear()


def forget(ctx: Context) -> None:
    """Rooms, hours or bells have changed."""
    known = ctx.own(KnownFacts)
    known.of.clear()
    known.sessions.clear()
    if ctx.shared:
        count_on(ctx, KEPT_AS)
