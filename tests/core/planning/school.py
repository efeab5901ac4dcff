"""A small school with every difficulty planted, as the planner is given it and as the checker is."""

from __future__ import annotations

from datetime import datetime, timedelta
from itertools import pairwise

from bildung.core.planning.chain import MadePlan
from bildung.core.planning.problem import ApartTest, Cart, ClassTest, Problem, Proctor, Room, Slot, Wishes
from tests.core.planning.checker import Row, School, Span

MONDAY = datetime(2027, 1, 18)
BLOCKS = {"A": ((8, 30), (9, 40), (12, 30)), "B": ((8, 30), (10, 0), (12, 30))}  # each an hour; A1 and A2 lie together
READER = "human_reader"
SUBJECTS = ("Reading", "Mathematics")
PROCTORS = {901: "Ada", 902: "Ben", 903: "Cleo"}
READ_TO = (1, 2, 30)  # three students to whom one person reads; two of them the same test
ALONE = 31
TWO_SCHOOLS = 55  # is at the other school in the mornings
REFUSED = 19
LONGER = 40  # extended time: 90 minutes
BUSY_MORNING = 902  # proctors in mornings only
EARLY = 2  # the class that ends the window after three days
BIG = 3  # 23 students whose own room has 22 seats


def slots(days: int = 6) -> tuple[Slot, ...]:
    found = []
    for day in range(days):
        kind = "AB"[day % 2]
        for n, (hour, minute) in enumerate(BLOCKS[kind]):
            start = MONDAY + timedelta(days=day, hours=hour, minutes=minute)
            joined = kind == "A" and n == 0  # ten minutes lie between; before the last block is lunch
            found.append(
                Slot(
                    day=day,
                    start=start,
                    end=start + timedelta(hours=1),
                    block=f"{kind}{n + 1}",
                    day_type=kind,
                    joined=joined,
                    late=n == 2,
                )
            )
    return tuple(found)


def problem(days: int = 6) -> Problem:
    when = slots(days)
    everywhere = frozenset(range(len(when)))
    on_a = frozenset(t for t in everywhere if when[t].day_type == "A")
    classes, apart = [], []
    for k in range(4):
        size = 23 if k == BIG else 20
        everyone = tuple(range(k * 20, k * 20 + size))
        early = frozenset(t for t in everywhere if k == EARLY and when[t].day > 2)
        for n, subject in enumerate(SUBJECTS):
            test = 100 + n
            out = {*READ_TO, ALONE, LONGER, REFUSED}
            classes.append(
                ClassTest(
                    klass=k * 10 + n,
                    test=test,
                    name=f"{subject} {k}",
                    subject=subject,
                    students=tuple(s for s in everyone if s not in out),
                    minutes=50,
                    own=on_a if n else everywhere,
                    own_room=f"R{k}",
                    teacher=910 + k,
                    shut=early,
                )
            )
            apart += [
                ApartTest(
                    student=s,
                    klass=k * 10 + n,
                    test=test,
                    name=f"{subject} {k}",
                    minutes=90 if s == LONGER else 50,
                    alone=s == ALONE,
                    support=READER if s in READ_TO else "",
                    shut=early,
                )
                for s in everyone
                if s in out and s != REFUSED
            ]
    seats = {0: 24, 1: 24, 2: 24, BIG: 22}
    rooms = [Room(name=f"R{k}", seats=seats[k], shared=False) for k in range(4)]
    rooms += [
        Room(name="Hall", seats=26),
        Room(name="Lab", seats=24, devices=24),
        Room(name="Small", seats=6, devices=6),
    ]
    rooms.append(Room(name="Office", seats=2, devices=2, shut=frozenset(range(3))))
    mornings = frozenset(t for t in everywhere if when[t].late)
    people = [
        Proctor(id=id, name=name, away=mornings if id == BUSY_MORNING else frozenset()) for id, name in PROCTORS.items()
    ]
    people.append(Proctor(id=950, name="Rea", supports=frozenset({READER})))
    return Problem(
        slots=when,
        rooms=tuple(rooms),
        carts=(Cart(name="Cart 1", devices=24), Cart(name="Cart 2", devices=24)),
        proctors=tuple(people),
        classes=tuple(classes),
        apart=tuple(apart),
        busy={TWO_SCHOOLS: frozenset(t for t in everywhere if not when[t].late)},
        wishes=Wishes(order=SUBJECTS),
    )


def school(given: Problem, made: MadePlan) -> School:
    """The same as the checker is told it, from the lists above and not from the plan."""
    when = given.slots
    spans: list[Span] = [(s.start, s.end) for s in when]
    spans += [(a.start, b.end) for a, b in pairwise(when) if a.block == "A1" and b.block == "A2"]
    names = {id: f"teacher {id - 910}" for id in range(910, 914)} | PROCTORS | {950: "Rea"}
    owed, needs, alone, closed = {}, {}, set(), {}
    for k in range(4):
        for n in range(2):
            for s in range(k * 20, k * 20 + (23 if k == BIG else 20)):
                if s != REFUSED:
                    owed[str(s), str(100 + n)] = 90 if s == LONGER else 50
                if s in READ_TO:
                    needs[str(s), str(100 + n)] = READER
                if s == ALONE:
                    alone.add((str(s), str(100 + n)))
            if k == EARLY:
                closed[str(k * 10 + n)] = [(MONDAY + timedelta(days=3), MONDAY + timedelta(days=30))]
    left = {(str(s), str(t.test)) for t in made.classes_left for s in t.students}
    left |= {(str(t.student), str(t.test)) for t in made.apart_left}
    noon = [(s.start, s.end) for s in when if s.start.hour >= 12]
    return School(
        rooms={
            "R0": (24, 0),
            "R1": (24, 0),
            "R2": (24, 0),
            "R3": (22, 0),
            "Hall": (26, 0),
            "Lab": (24, 24),
            "Small": (6, 6),
            "Office": (2, 2),
        },
        carts={"Cart 1": 24, "Cart 2": 24},
        owed=owed,
        open=spans,
        proctors=set(names.values()),
        away={"Ben": noon, str(TWO_SCHOOLS): [(s.start, s.end) for s in when if s.start.hour < 12]},
        readers={"Rea": {READER}},
        needs=needs,
        alone=alone,
        closed=closed,
        left=left,
    )


def exported(given: Problem, made: MadePlan) -> list[Row]:
    names = {id: f"teacher {id - 910}" for id in range(910, 914)} | PROCTORS | {950: "Rea"}
    return [
        Row(
            session=str(session.id),
            start=given.slots[session.slot].start,
            end=given.slots[session.slot].start + timedelta(minutes=session.minutes),
            room=session.room,
            cart=session.cart,
            proctor=names.get(session.proctor, ""),
            klass=str(one.klass),
            test=str(one.test),
            student=str(student),
        )
        for session in made.sessions
        for one in session.lists
        for student in one.students
    ]
