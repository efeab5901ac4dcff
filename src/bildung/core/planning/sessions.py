"""Sessions of a plan: who takes what in which room, and what they use in each slot."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace

from bildung.core.planning.problem import Problem


@dataclass(frozen=True, kw_only=True)
class StudentList:
    """Students of one class who take one test together.

    Attributes
    ----------
    klass : int
        Whose list.
    test : int
        Which test.
    students : tuple[int, ...]
        Who.
    whole : bool
        Whether they are the class, less those who take it apart; else they are named one by one.
    """

    klass: int
    test: int
    students: tuple[int, ...]
    whole: bool = True


@dataclass(frozen=True, kw_only=True)
class PlanSession:
    """One session of a plan.

    Attributes
    ----------
    id : int
        Tells it from others of the plan.
    slot : int
        The slot it begins in.
    minutes : int
        It takes.
    lists : tuple[StudentList, ...]
        Who takes what.
    room : str
        By name; empty: none.
    cart : str
        By name; empty: none.
    proctor : int
        Id of the person; 0: nobody yet.
    own : bool
        In the class's own room with its own teacher.
    alone : bool
        For a student with nobody else in the room.
    support : str
        Kind of accommodation that its proctor provides.
    on_paper : bool
        Needs no devices.
    held : bool
        Placed by hand; the planner leaves it there.
    """

    id: int
    slot: int
    minutes: int
    lists: tuple[StudentList, ...]
    room: str = ""
    cart: str = ""
    proctor: int = 0
    own: bool = False
    alone: bool = False
    support: str = ""
    on_paper: bool = False
    held: bool = False

    @property
    def size(self) -> int:
        """Students in it."""
        return sum(len(one.students) for one in self.lists)

    @property
    def students(self) -> tuple[int, ...]:
        """All of them."""
        return tuple(student for one in self.lists for student in one.students)


class Uses:
    """What sessions use, by slot."""

    def __init__(self, problem: Problem, sessions: Iterable[PlanSession] = ()) -> None:
        self.problem = problem
        self.rooms: defaultdict[int, set[str]] = defaultdict(set)
        self.carts: defaultdict[int, set[str]] = defaultdict(set)
        self.people: defaultdict[int, set[int]] = defaultdict(set)
        self.students: defaultdict[int, set[int]] = defaultdict(set)
        self.tests: defaultdict[tuple[int, int], int] = defaultdict(int)  # by student and day
        self.proctored: defaultdict[tuple[int, int], int] = defaultdict(int)  # by person and day
        for session in sessions:
            self.add(session)

    def cover(self, session: PlanSession) -> tuple[int, ...]:
        """The slots it is on."""
        return self.problem.covered(session.slot, session.minutes) or (session.slot,)

    def add(self, session: PlanSession) -> None:
        """Count it in."""
        day = self.problem.slots[session.slot].day
        for slot in self.cover(session):
            if session.room:
                self.rooms[slot].add(session.room)
            if session.cart:
                self.carts[slot].add(session.cart)
            if session.proctor:
                self.people[slot].add(session.proctor)
            self.students[slot].update(session.students)
        for student in session.students:
            self.tests[student, day] += 1
        if session.proctor and not session.own:
            self.proctored[session.proctor, day] += 1

    def free_room(self, room: str, cover: Iterable[int]) -> bool:
        """Whether nobody is in it in these slots, and nothing shuts it."""
        shut: frozenset[int] = next((r.shut for r in self.problem.rooms if r.name == room), frozenset())
        return all(room not in self.rooms[slot] and slot not in shut for slot in cover)

    def free_cart(self, cart: str, cover: Iterable[int]) -> bool:
        """Whether it stands idle in these slots."""
        return all(cart not in self.carts[slot] for slot in cover)


def equip(problem: Problem, uses: Uses, session: PlanSession, room_devices: int) -> PlanSession | None:
    """With a cart where its room has too few devices; the smallest that serves it. None: there is none."""
    if session.on_paper or room_devices >= session.size:
        return session
    cover = uses.cover(session)
    carts = sorted((cart.devices, cart.name) for cart in problem.carts if cart.devices >= session.size)
    name = next((name for _, name in carts if uses.free_cart(name, cover)), None)
    return None if name is None else replace(session, cart=name)
