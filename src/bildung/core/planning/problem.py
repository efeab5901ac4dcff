"""What a plan is made of: slots, rooms, carts, proctors, the tests of classes, and those of students apart."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime


@dataclass(frozen=True, kw_only=True)
class Slot:
    """One block of one school day in the window.

    Attributes
    ----------
    day : int
        Number of the school day, from 0.
    start : datetime
        When the block begins; all of one time zone.
    end : datetime
        When it ends.
    block : str
        Its name on the bell schedule.
    day_type : str
        Of the day, such as A or B.
    joined : bool
        Whether a session can go on into the next slot: the same day, and no lunch between them.
    late : bool
        Whether it begins in the afternoon.
    """

    day: int
    start: datetime
    end: datetime
    block: str = ""
    day_type: str = ""
    joined: bool = False
    late: bool = False

    @property
    def minutes(self) -> int:
        """Its length."""
        return round((self.end - self.start).total_seconds() / 60)


@dataclass(frozen=True, kw_only=True)
class Room:
    """A room in which tests are taken.

    Attributes
    ----------
    name : str
        As on the door.
    seats : int
        Students it takes.
    devices : int
        That stay in it.
    shared : bool
        Whether any class may test here; else it is the own room of a class.
    shut : frozenset[int]
        Slots in which it is taken by something else.
    """

    name: str
    seats: int
    devices: int = 0
    shared: bool = True
    shut: frozenset[int] = frozenset()


@dataclass(frozen=True, kw_only=True)
class Cart:
    """Devices on wheels.

    Attributes
    ----------
    name : str
        As on its label.
    devices : int
        How many students it serves.
    """

    name: str
    devices: int


@dataclass(frozen=True, kw_only=True)
class Proctor:
    """A person who can hold sessions.

    Attributes
    ----------
    id : int
        Of the person.
    name : str
        To say.
    away : frozenset[int]
        Slots in which they cannot.
    supports : frozenset[str]
        Kinds of accommodation that they provide, such as human_reader; they proctor these sessions only.
    """

    id: int
    name: str
    away: frozenset[int] = frozenset()
    supports: frozenset[str] = frozenset()


@dataclass(frozen=True, kw_only=True)
class ClassTest:
    """One test of one class, for the students who take it with the class.

    Attributes
    ----------
    klass : int
        Of the class.
    test : int
        Of the form.
    name : str
        To say, such as "Reading 6.2".
    subject : str
        For the order of subjects.
    students : tuple[int, ...]
        Who takes it here.
    minutes : int
        It takes, with the longest extended time among them.
    own : frozenset[int]
        Slots in which the class's own room and teacher are there for it.
    own_room : str
        That room; empty where it has none.
    teacher : int
        Who holds it there; 0: nobody is known.
    shut : frozenset[int]
        Slots in which it must not begin: the school is closed to it, or the class cannot.
    on_paper : bool
        Needs no devices.
    kept : int
        The slot at which it is to stay if it can; -1: none.
    fixed : bool
        Stays there at any price.
    """

    klass: int
    test: int
    name: str
    subject: str
    students: tuple[int, ...]
    minutes: int
    own: frozenset[int] = frozenset()
    own_room: str = ""
    teacher: int = 0
    shut: frozenset[int] = frozenset()
    on_paper: bool = False
    kept: int = -1
    fixed: bool = False


@dataclass(frozen=True, kw_only=True)
class ApartTest:
    """One test of one student who takes it apart from the class.

    Attributes
    ----------
    student : int
        Who.
    klass : int
        Whose list the test is on.
    test : int
        Of the form.
    name : str
        To say.
    minutes : int
        With extended time.
    alone : bool
        With nobody else in the room.
    support : str
        Kind of accommodation that a person provides; empty: none. One of them serves several only on the same test.
    by : frozenset[int] | None
        The people of whom one provides it to this student, such as those who speak the language; None: whoever provides
        it.
    shut : frozenset[int]
        Slots in which it must not begin.
    on_paper : bool
        Needs no device.
    together : int
        Most students in the room, such as 8 in a small group.
    """

    student: int
    klass: int
    test: int
    name: str
    minutes: int
    alone: bool = False
    support: str = ""
    by: frozenset[int] | None = None
    shut: frozenset[int] = frozenset()
    on_paper: bool = False
    together: int = 8

    def held_by(self, person: Proctor) -> bool:
        """Whether this person can hold a session for the student.

        Parameters
        ----------
        person : Proctor
            Who.

        Returns
        -------
        bool
            Those who provide support hold such sessions only.
        """
        if not self.support:
            return not person.supports
        return self.support in person.supports and (self.by is None or person.id in self.by)


@dataclass(frozen=True, kw_only=True)
class Wishes:
    """What a plan shall be like.

    Attributes
    ----------
    a_day : int
        Most tests that a student takes in a day.
    order : tuple[str, ...]
        Subjects in the order in which classes take them; empty: any.
    mornings : bool
        Mornings first.
    spread : bool
        As even a load over the days as can be; else as early as can be.
    most_a_day : int
        Sessions that one person proctors in a day.
    """

    a_day: int = 1
    order: tuple[str, ...] = ()
    mornings: bool = True
    spread: bool = False
    most_a_day: int = 4


@dataclass(frozen=True, kw_only=True)
class Problem:
    """One school's window.

    Attributes
    ----------
    slots : tuple[Slot, ...]
        In order of time.
    rooms : tuple[Room, ...]
        What there is.
    carts : tuple[Cart, ...]
        What there is.
    proctors : tuple[Proctor, ...]
        Who there is.
    classes : tuple[ClassTest, ...]
        What has to be placed.
    apart : tuple[ApartTest, ...]
        For students apart from their class.
    busy : dict[int, frozenset[int]]
        By student, slots in which they are elsewhere.
    wishes : Wishes
        What the plan shall be like.
    """

    slots: tuple[Slot, ...]
    rooms: tuple[Room, ...] = ()
    carts: tuple[Cart, ...] = ()
    proctors: tuple[Proctor, ...] = ()
    classes: tuple[ClassTest, ...] = ()
    apart: tuple[ApartTest, ...] = ()
    busy: dict[int, frozenset[int]] = field(default_factory=dict)
    wishes: Wishes = field(default_factory=Wishes)

    def covered(self, start: int, minutes: int) -> tuple[int, ...]:
        """The slots that a session of so many minutes needs from this one on; none where it does not fit."""
        found = []
        while start < len(self.slots):
            found.append(start)
            slot = self.slots[start]
            if (slot.end - self.slots[found[0]].start).total_seconds() / 60 >= minutes:
                return tuple(found)
            if not slot.joined:
                return ()
            start += 1
        return ()
