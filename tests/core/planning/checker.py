"""Is a plan right? Reads rows of an exported plan, a line for each student in each session, and what the school says of its
rooms, people and students. Shares no code with the planner."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field
from datetime import datetime
from itertools import combinations


@dataclass
class Row:
    session: str
    start: datetime
    end: datetime
    room: str
    cart: str
    proctor: str
    klass: str
    test: str
    student: str


Span = tuple[datetime, datetime]


@dataclass
class School:
    """owed: who takes which test, and the minutes it takes them. open: stretches of time in which a session may lie. away: of
    people and students. readers: what people provide. needs: by student and test, what they need. alone: with nobody else."""

    rooms: dict[str, tuple[int, int]]
    carts: dict[str, int]
    owed: dict[tuple[str, str], int]
    open: list[Span]
    proctors: set[str]
    away: dict[str, list[Span]] = field(default_factory=dict)
    readers: dict[str, set[str]] = field(default_factory=dict)
    needs: dict[tuple[str, str], str] = field(default_factory=dict)
    alone: set[tuple[str, str]] = field(default_factory=set)
    closed: dict[str, list[Span]] = field(default_factory=dict)
    left: set[tuple[str, str]] = field(default_factory=set)
    a_day: int = 1
    most_a_day: int = 4


def over(a: Span, b: Span) -> bool:
    return a[0] < b[1] and b[0] < a[1]


def wrong(rows: list[Row], school: School) -> list[str]:
    """Everything that is wrong, in words."""
    found: list[str] = []
    sessions: dict[str, list[Row]] = defaultdict(list)
    for row in rows:
        sessions[row.session].append(row)
    taken: dict[tuple[str, str], int] = defaultdict(int)
    for row in rows:
        taken[row.student, row.test] += 1
    found += [
        f"{key} is placed {taken[key]} times, left out: {key in school.left}"
        for key in school.owed
        if taken[key] + (key in school.left) != 1
    ]
    found += [f"{key} is not owed" for key in taken if key not in school.owed]
    for name, mine in sessions.items():
        found += [f"session {name}: {text}" for text in by_itself(mine, school)]
    for one, other in combinations(sessions.values(), 2):
        a, b = one[0], other[0]
        if over((a.start, a.end), (b.start, b.end)):
            for what in ("room", "cart", "proctor"):
                if getattr(a, what) and getattr(a, what) == getattr(b, what):
                    found.append(f"{what} {getattr(a, what)} twice at {a.start}")
            both = {r.student for r in one} & {r.student for r in other}
            if both:
                found.append(f"{sorted(both)} in two sessions at {a.start}")
    days: dict[tuple[str, object], set[str]] = defaultdict(set)
    held: dict[tuple[str, object], set[str]] = defaultdict(set)
    for row in rows:
        days[row.student, row.start.date()].add(row.session)
        held[row.proctor, row.start.date()].add(row.session)
    found += [f"{who} takes {len(s)} tests on {day}" for (who, day), s in days.items() if len(s) > school.a_day]
    found += [f"{who} proctors {len(s)} on {day}" for (who, day), s in held.items() if len(s) > school.most_a_day]
    return found


def by_itself(rows: list[Row], school: School) -> list[str]:
    found: list[str] = []
    row = rows[0]
    span = (row.start, row.end)
    if any(
        (r.start, r.end, r.room, r.cart, r.proctor) != (row.start, row.end, row.room, row.cart, row.proctor)
        for r in rows
    ):
        found.append("is in two places")
    if not any(a == row.start and row.end <= b for a, b in school.open):
        found.append(f"{row.start:%m-%d %H:%M} to {row.end:%H:%M} begins at no block, or is not in school hours")
    for r in rows:
        minutes = school.owed.get((r.student, r.test), 0)
        if (row.end - row.start).total_seconds() / 60 < minutes:
            found.append(f"{r.student} needs {minutes} minutes")
        if any(over(span, away) for away in school.away.get(r.student, [])):
            found.append(f"{r.student} is elsewhere")
        if any(over(span, shut) for shut in school.closed.get(r.klass, [])):
            found.append(f"{r.klass} has no school then")
        need = school.needs.get((r.student, r.test))
        if need and need not in school.readers.get(row.proctor, set()):
            found.append(f"{r.student} needs {need}")
        if (r.student, r.test) in school.alone and len(rows) > 1:
            found.append(f"{r.student} takes it with others")
    if row.room not in school.rooms:
        return [*found, f"there is no room {row.room!r}"]
    seats, devices = school.rooms[row.room]
    if len(rows) > seats:
        found.append(f"{len(rows)} students, {seats} seats")
    if row.cart and row.cart not in school.carts:
        found.append(f"there is no cart {row.cart!r}")
    if max(devices, school.carts.get(row.cart, 0)) < len(rows):
        found.append("too few devices")
    if row.proctor not in school.proctors:
        found.append(f"nobody holds it: {row.proctor!r}")
    if any(over(span, away) for away in school.away.get(row.proctor, [])):
        found.append(f"{row.proctor} is not there")
    if school.readers.get(row.proctor) and len({r.test for r in rows}) > 1:
        found.append(f"{row.proctor} reads two tests at once")
    return found
