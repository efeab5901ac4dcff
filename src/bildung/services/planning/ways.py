"""Ways out for tests without a place, with what each brings."""

from __future__ import annotations

from dataclasses import dataclass

from bildung.core.planning.waysout import ways_out
from bildung.services.planning.board import without_place
from bildung.services.planning.document import of_today, read_sessions
from bildung.services.planning.known import known_facts
from bildung.services.planning.plans import get_plan
from bildung.services.planning.words import way_says
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context


@dataclass(frozen=True, kw_only=True)
class WayOutLine:
    """kind: as it is taken over. says: the step with its effect."""

    kind: str
    says: str
    tests: int
    moved: int


def ways(ctx: Context, actor: Actor, plan_id: int) -> list[WayOutLine]:
    """The cheapest first; none where everything has a place."""
    with ctx.store.read() as db:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        facts = known_facts(ctx, db, plan)
        found, _ = read_sessions(facts.problem, plan.sessions)
    sessions = [s for s in of_today(facts.problem, found) if facts.problem.slots[s.slot].start > ctx.clock()]
    left = without_place(facts, sessions)
    if not left:
        return []
    count = sum(not one.key.startswith("apart") for one in left)
    count += sum(one.students for one in left if one.key.startswith("apart"))
    return [
        WayOutLine(kind=way.kind, says=way_says(way), tests=way.students, moved=way.moved)
        for way in ways_out(facts.problem, sessions, count)
        if way.students > 0
    ]
