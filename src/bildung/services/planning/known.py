"""Facts of a plan that somebody works on, kept for half a minute so that a hand move is checked at once."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from bildung.services.planning.document import read_wishes
from bildung.services.planning.facts import Facts, facts_of
from bildung.services.planning.schools import window_of
from bildung.services.shared.context import Context
from bildung.store.models import Plan

FRESH = timedelta(seconds=30)
KEPT = 20


@dataclass
class KnownFacts:
    """By plan: when they were read, for which wishes, and the facts."""

    of: dict[int, tuple[datetime, dict[str, Any], Facts]] = field(default_factory=dict)


def known_facts(ctx: Context, db: Session, plan: Plan, fresh: bool = False) -> Facts:
    """fresh: read anew, for what must not be out of date."""
    kept = ctx.own(KnownFacts).of
    entry = kept.get(plan.id)
    now = ctx.clock()
    if entry is not None and not fresh and timedelta(0) <= now - entry[0] < FRESH and entry[1] == plan.wishes:
        return entry[2]
    facts = facts_of(ctx, db, plan.school_id, window_of(db, plan.window_id), read_wishes(plan.wishes))
    while len(kept) >= KEPT:
        kept.pop(next(iter(kept)))
    kept[plan.id] = (now, dict(plan.wishes), facts)
    return facts


def forget(ctx: Context) -> None:
    """Rooms, hours or bells have changed."""
    ctx.own(KnownFacts).of.clear()
