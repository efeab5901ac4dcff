"""`./bildung bench plan`: how fast a window of made-up schools is planned, checked and planned again."""

from __future__ import annotations

import random
import resource
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from bildung.core.planning.board import Board
from bildung.core.planning.chain import MadePlan, make_plan
from bildung.core.planning.clashes import clashes_of
from bildung.core.planning.heuristic import first_plan
from bildung.core.planning.problem import ApartTest, Cart, ClassTest, Problem, Proctor, Room, Slot, Wishes
from bildung.core.planning.reasons import class_reasons
from bildung.core.planning.waysout import ways_out

SUBJECTS = ("Reading", "Mathematics", "Science")
CLASSES, SIZE, DAYS, BLOCKS = 15, 24, 10, 5
TIMES = ((8, 30), (9, 40), (10, 50), (12, 20), (13, 30))
SECONDS = 8.0
Row = tuple[str, str, float, str]


def school(seed: int, carts: int = 4, mixed: bool = False) -> Problem:
    """One of about 360 students in three subjects; a tenth of them test apart. mixed: subject classes are other groups than
    homerooms."""
    rng = random.Random(seed)
    slots = tuple(
        Slot(
            day=day,
            start=(start := datetime(2027, 1, 18, hour, minute, tzinfo=UTC) + timedelta(days=day + 2 * (day // 5))),
            end=start + timedelta(hours=1),
            block=str(n + 1),
            joined=n in (0, 1, 3),
            late=n > 2,
        )
        for day in range(DAYS)
        for n, (hour, minute) in enumerate(TIMES)
    )
    everywhere = frozenset(range(len(slots)))
    students = range(CLASSES * SIZE)
    alone = set(rng.sample(students, len(students) // 10))
    classes, apart = [], []
    for n, subject in enumerate(SUBJECTS):
        order = list(students)
        if mixed and n:
            for grade in range(3):
                part = order[grade * 120 : (grade + 1) * 120]
                rng.shuffle(part)
                order[grade * 120 : (grade + 1) * 120] = part
        for k in range(CLASSES):
            id = n * CLASSES + k
            members = order[k * SIZE : (k + 1) * SIZE]
            classes.append(
                ClassTest(
                    klass=id,
                    test=n * 3 + k // 5,
                    name=f"{subject} {k}",
                    subject=subject,
                    students=tuple(s for s in members if s not in alone),
                    minutes=50,
                    own=everywhere,
                    own_room=f"R{k}",
                    teacher=1000 + k,
                )
            )
            apart += [
                ApartTest(student=s, klass=id, test=n * 3 + k // 5, name=subject, minutes=75 if s % 2 else 50)
                for s in members
                if s in alone
            ]
    rooms = [Room(name=f"R{k}", seats=26, shared=False) for k in range(CLASSES)]
    rooms += [Room(name=f"Lab {n}", seats=28, devices=28) for n in range(2)]
    rooms += [Room(name=f"Small {n}", seats=8, devices=8) for n in range(3)]
    return Problem(
        slots=slots,
        rooms=tuple(rooms),
        carts=tuple(Cart(name=f"Cart {n}", devices=26) for n in range(carts)),
        proctors=tuple(Proctor(id=n, name=f"P{n}") for n in range(1, 7)),
        classes=tuple(classes),
        apart=tuple(apart),
        wishes=Wishes(order=SUBJECTS),
    )


def rows(schools: int = 3, many: int = 30) -> list[Row]:
    """work, size, seconds, and what came of it."""
    found: list[Row] = []
    problems = [school(seed) for seed in range(schools)]
    size = f"{schools} x {CLASSES * SIZE} students"
    began = time.perf_counter()
    for problem in problems:
        first_plan(Board(problem))
    found.append(("first plan of the classes", size, time.perf_counter() - began, ""))
    began = time.perf_counter()
    made = [make_plan(problem, SECONDS) for problem in problems]
    took = time.perf_counter() - began
    found.append(("the whole chain, one after the other", size, took, _says(made)))
    began = time.perf_counter()
    mixed = make_plan(school(9, mixed=True), SECONDS)
    found.append(("the whole chain, mixed subject classes", "1 school", time.perf_counter() - began, _says([mixed])))
    found += _later(problems[0], made[0])
    if many:
        began = time.perf_counter()
        with ProcessPoolExecutor() as pool:
            answers = list(pool.map(_one, range(100, 100 + many)))
        most = max(memory for _, memory in answers)
        said = f"{_says([plan for plan, _ in answers])}; {most:.0f} MB a process"
        found.append(("planned in parallel", f"{many} schools", time.perf_counter() - began, said))
    return found


def _one(seed: int) -> tuple[MadePlan, float]:
    plan = make_plan(school(seed), SECONDS)
    return plan, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def _says(made: list[MadePlan]) -> str:
    left = sum(len(plan.classes_left) + len(plan.apart_left) for plan in made)
    over = max((plan.cost / plan.bound - 1) * 100 if plan.bound else float("inf") for plan in made)
    return f"{left} without a place, at most {over:.1f}% over the bound"


def _later(problem: Problem, made: MadePlan) -> list[Row]:
    """Changes of a plan that stands."""
    lab = replace(problem, rooms=tuple(room for room in problem.rooms if room.name != "Lab 0"))
    began = time.perf_counter()
    again = make_plan(lab, 0.5, before=made.sessions, proof=False)
    found: list[Row] = [("a room lost, planned again", "1 school", time.perf_counter() - began, f"{again.moved} moved")]
    one = made.sessions[0]
    began = time.perf_counter()
    for _ in range(50):
        clashes_of(problem, made.sessions, one.id)
    found.append(("a hand move checked", f"{len(made.sessions)} sessions", (time.perf_counter() - began) / 50, ""))
    short = school(0, carts=0)
    short = replace(short, rooms=tuple(room for room in short.rooms if room.devices < 20))
    scarce = make_plan(short, 1.0, proof=False)
    began = time.perf_counter()
    for test in scarce.classes_left:
        class_reasons(short, scarce.sessions, test)
    count = len(scarce.classes_left)
    found.append(("reasons of tests without a place", f"{count} tests", time.perf_counter() - began, ""))
    began = time.perf_counter()
    ways = ways_out(short, scarce.sessions, count + len(scarce.apart_left))
    found.append(("ways out with their effect", f"{count} tests", time.perf_counter() - began, f"{len(ways)} found"))
    return found


def show(quick: bool) -> int:
    """Print the table."""
    print(f"{'work':<40} {'size':<20} {'seconds':>9}  what came of it")
    for work, size, seconds, said in rows(1 if quick else 3, 0 if quick else 30):
        print(f"{work:<40} {size:<20} {seconds:>9.4f}  {said}")
    return 0
