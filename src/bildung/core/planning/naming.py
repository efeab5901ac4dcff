"""Rooms, carts and proctors by name for the sessions of classes: slot by slot the assignment that costs least.

Long sessions come first, so that a room and its proctor stay for the whole of one. People are given as even a load as can be.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from bildung.core.data.arrays import FloatArray
from bildung.core.planning.problem import Problem, Room
from bildung.core.planning.sessions import PlanSession, Uses, equip

NEVER = 1e6


def name_resources(
    problem: Problem, sessions: Sequence[PlanSession], before: dict[int, PlanSession] | None = None
) -> tuple[list[PlanSession], list[PlanSession]]:
    """Give each session what it uses.

    Parameters
    ----------
    problem : Problem
        What there is.
    sessions : Sequence[PlanSession]
        With their slots. Those in their own room have it and its teacher; those held have all.
    before : dict[int, PlanSession] | None
        By id, where it was in an earlier plan; it stays in its room and with its proctor where it can.

    Returns
    -------
    tuple[list[PlanSession], list[PlanSession]]
        Those with all they need, and those for which something was missing.
    """
    before = before or {}
    uses = Uses(problem)
    done: list[PlanSession] = []
    missing: list[PlanSession] = []
    for session in sessions:
        if session.held and session.room:
            done.append(session)
            uses.add(session)
    rest = [session for session in sessions if not (session.held and session.room)]
    devices = {room.name: room.devices for room in problem.rooms}
    for session in sorted((s for s in rest if s.own), key=lambda s: (-len(uses.cover(s)), s.slot, -s.size)):
        ready = equip(problem, uses, session, devices.get(session.room, 0))
        (missing if ready is None else done).append(ready or session)
        if ready is not None:
            uses.add(ready)
    groups: defaultdict[tuple[int, int], list[PlanSession]] = defaultdict(list)
    for session in rest:
        if not session.own:
            groups[-len(uses.cover(session)), session.slot].append(session)
    for key in sorted(groups):
        roomed, without = _rooms(problem, uses, groups[key], before)
        missing += without
        for session in roomed:
            ready = equip(problem, uses, session, devices.get(session.room, 0))
            if ready is None:
                missing.append(replace(session, room=""))
            else:
                uses.add(ready)
                done.append(ready)
    return _proctors(problem, done, before), missing


def _rooms(
    problem: Problem, uses: Uses, sessions: Sequence[PlanSession], before: dict[int, PlanSession]
) -> tuple[list[PlanSession], list[PlanSession]]:
    """A shared room for each that begins in this slot."""
    rooms = [room for room in problem.rooms if room.shared]
    cost = np.full((len(sessions), len(rooms)), NEVER)
    for i, session in enumerate(sessions):
        cover = uses.cover(session)
        was = before.get(session.id)
        for j, room in enumerate(rooms):
            if room.seats >= session.size and uses.free_room(room.name, cover):
                cost[i, j] = _waste(room, session) - (20.0 if was and was.room == room.name else 0.0)
    found, without = [], list(sessions)
    for i, j in _assigned(cost) if rooms else ():
        if cost[i, j] < NEVER:
            found.append(replace(sessions[i], room=rooms[j].name))
            without.remove(sessions[i])
    return found, without


def _assigned(cost: FloatArray) -> list[tuple[int, int]]:
    from scipy.optimize import linear_sum_assignment  # a fifth of a second to load, and only planning wants it

    rows, columns = linear_sum_assignment(cost)
    return list(zip(rows.tolist(), columns.tolist(), strict=True))


def _waste(room: Room, session: PlanSession) -> float:
    """Seats that stay empty; a cart where the room lacks devices, devices where it needs none."""
    short = not session.on_paper and room.devices < session.size
    return (
        0.05 * (room.seats - session.size)
        + (3.0 if short else 0.0)
        + (1.0 if session.on_paper and room.devices else 0.0)
    )


def _proctors(problem: Problem, sessions: Sequence[PlanSession], before: dict[int, PlanSession]) -> list[PlanSession]:
    """A person for each session that has none; who has proctored least comes first."""
    uses = Uses(problem, (s for s in sessions if s.proctor))
    total: defaultdict[int, int] = defaultdict(int)
    for (one, _), count in uses.proctored.items():
        total[one] += count
    people = [proctor for proctor in problem.proctors if not proctor.supports]
    found = {session.id: session for session in sessions}
    waiting = sorted((s for s in sessions if not s.proctor), key=lambda s: (-len(uses.cover(s)), s.slot))
    groups: defaultdict[tuple[int, int], list[PlanSession]] = defaultdict(list)
    for session in waiting:
        groups[-len(uses.cover(session)), session.slot].append(session)
    for key in sorted(groups):
        mine = groups[key]
        cover = uses.cover(mine[0])
        day = problem.slots[mine[0].slot].day
        cost = np.full((len(mine), len(people)), NEVER)
        for j, person in enumerate(people):
            free = all(t not in person.away and person.id not in uses.people[t] for t in cover)
            if free and uses.proctored[person.id, day] < problem.wishes.most_a_day:
                for i, session in enumerate(mine):
                    was = before.get(session.id)
                    stays = 100.0 if was is not None and was.proctor == person.id else 0.0
                    cost[i, j] = total[person.id] ** 2 - stays
        for i, j in _assigned(cost) if people else ():
            if cost[i, j] < NEVER / 2:
                placed = replace(mine[i], proctor=people[j].id)
                found[placed.id] = placed
                total[people[j].id] += 1
                uses.add(replace(placed, lists=(), room="", cart=""))
    return [found[session.id] for session in sessions]
