"""Ways out for tests without a place, with what each brings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal

from bildung.core.planning.problem import Problem
from bildung.core.planning.sessions import PlanSession
from bildung.core.planning.waysout import ways_out
from bildung.services.planning.board import without_place
from bildung.services.planning.document import PlanWishes, read_wishes
from bildung.services.planning.facts import Facts, facts_of
from bildung.services.planning.known import known_facts, known_sessions
from bildung.services.planning.plans import get_plan, make
from bildung.services.planning.schools import window_of
from bildung.services.planning.words import way_says
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.services.shared.jobs import Job
from bildung.services.shared.settings import dates_of

Way = Literal["move", "cart", "room", "proctor", "a_day", "day", "split"]


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
        found, _ = known_sessions(ctx, plan, facts)
        sessions = [s for s in found if facts.problem.slots[s.slot].start > ctx.clock()]
        left = without_place(facts, sessions)
        if not left:
            return []
        wider = widened(facts, read_wishes(plan.wishes), sessions, ctx.clock())
        window = window_of(db, plan.window_id)
        others: dict[str, Problem] = {
            way: facts_of(ctx, db, plan.school_id, window, wishes).problem for way, wishes in wider.items()
        }
        more = wider.get("day")
        was = read_wishes(plan.wishes)
        day = dates_of(db).long(more.last if more.last != was.last else more.first) if more else ""
    count = sum(not one.key.startswith("apart") for one in left)
    count += sum(one.students for one in left if one.key.startswith("apart"))
    return [
        WayOutLine(kind=way.kind, says=way_says(way, day), tests=way.students, moved=way.moved)
        for way in ways_out(facts.problem, sessions, count, others=others)
        if way.students > 0
    ]


def widened(facts: Facts, wishes: PlanWishes, sessions: Sequence[PlanSession], now: datetime) -> dict[Way, PlanWishes]:
    """Steps that widen what was wished: one more day of the window, after the last one or before the first; classes that
    have no place over two rooms."""
    found: dict[Way, PlanWishes] = {}
    days = sorted({slot.start.date() for slot in facts.problem.slots if slot.start > now})
    later = [day for day in days if day > wishes.last]
    earlier = [day for day in days if day < wishes.first]
    if later:
        found["day"] = replace(wishes, last=later[0])
    elif earlier:
        found["day"] = replace(wishes, first=earlier[-1])
    placed = {(one.klass, one.test) for session in sessions for one in session.lists if one.whole}
    left = [
        f"{t.klass}-{t.test}" for t in facts.problem.classes if (t.klass, t.test) not in placed and len(t.students) > 1
    ]
    if set(left) - set(wishes.split):
        found["split"] = replace(wishes, split=sorted({*wishes.split, *left}))
    return found


def take_way_out(ctx: Context, actor: Actor, plan_id: int, way: Way, job: Job) -> int:
    """Suppose one more of a resource, a second test in a day, another day or split classes, or let sessions move, and plan
    on from here."""
    with ctx.store.read() as db:
        plan = get_plan(db, actor, plan_id, Action.WINDOWS_PLAN)
        wishes = read_wishes(plan.wishes)
        school_id, window_id = plan.school_id, plan.window_id
        if way in ("day", "split"):
            facts = known_facts(ctx, db, plan)
            found, _ = known_sessions(ctx, plan, facts)
            more = widened(facts, wishes, found, ctx.clock()).get(way)
            if more is None:
                raise Conflict("this step is no longer there; look for ways out once more", "way")
            wishes = more
    if way == "a_day":
        wishes = replace(wishes, a_day=wishes.a_day + 1)
    elif way in ("cart", "room", "proctor"):
        wishes = replace(wishes, extra=wishes.extra | {way: wishes.extra.get(way, 0) + 1})
    return make(ctx, actor, school_id, window_id, wishes, job, again=True)
