"""What is planted in the demo's answers so that the application has to bring it out; docs/demo.md lists it.

Each is laid over the simulated answers with random numbers of its own, so that the others stay as they are.
"""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.data.arrays import FloatArray, IntArray
from bildung.demo.files import DemoItem
from bildung.demo.mathematics import TOPS_AND_BOTTOMS

SECOND_ANSWER = ("Mathematics", "7", 14)  # many who know it choose another option that can be defended as well
FAVORS = ("Mathematics", "8", 10)  # mainland students miss it more often than island students of the same score
OTHERWISE = ("Mathematics 7.2", "M7.1")  # taught differently there
SPEEDED = ("Reading", "8")  # a quarter does not get to the last items
HASTY = ("Reading", "7")  # some click through from the middle on
SAME_MISTAKE = ("Mathematics", "6")  # nine students add tops and bottoms of fractions
ISLAND = 0.45


def from_island(source_id: str) -> bool:
    """Where a student lives, known from the id alone."""
    return random.Random(f"home {source_id}").random() < ISLAND


@dataclass(kw_only=True)
class DemoAttempts:
    """One session's answers while they are planted: choices by item, (students,) places among the options, -1 for none;
    right: by item the place of the right one. seconds: (students, items) on each item, 0 where it was never opened."""

    subject: str
    grade: str
    klass: str
    students: Sequence[str]
    items: Sequence[DemoItem]
    right: Sequence[int]
    choices: list[IntArray]
    ability: FloatArray
    seconds: FloatArray


def plant(sat: DemoAttempts) -> None:
    """Changes `sat` in place."""
    rng = np.random.default_rng(hash_of(sat.subject, sat.klass))
    n = len(sat.students)
    here = sat.subject, sat.grade
    if here == SECOND_ANSWER[:2]:
        at = SECOND_ANSWER[2] - 1
        other = (sat.right[at] + 1) % 4
        knows = sat.choices[at] == sat.right[at]
        sat.choices[at][knows & (rng.random(n) < 0.42)] = other
    if here == FAVORS[:2]:
        at = FAVORS[2] - 1
        mainland = np.array([not from_island(s) for s in sat.students])
        lost = mainland & (sat.choices[at] == sat.right[at]) & (rng.random(n) < 0.5)
        sat.choices[at][lost] = (sat.right[at] + 2) % 4
    if sat.klass == OTHERWISE[0]:
        for at, item in enumerate(sat.items):
            if item.draft.standard == OTHERWISE[1]:
                lost = (sat.choices[at] == sat.right[at]) & (rng.random(n) < 0.6)
                sat.choices[at][lost] = (sat.right[at] + 1) % 4
    if here == SAME_MISTAKE:
        few = [at for at, s in enumerate(sat.students) if random.Random(f"fractions {s}").random() < 0.09]
        for at, item in enumerate(sat.items):
            notes = dict(item.draft.notes)
            both = next((p for p, text in enumerate(item.options) if notes.get(text) == TOPS_AND_BOTTOMS), None)
            if both is not None:
                sat.choices[at][few] = both
    if here == SPEEDED:
        slow = rng.random(n) < 0.27
        ends = np.where(slow, len(sat.items) - rng.integers(3, 9, n), len(sat.items))
        for at in range(len(sat.items)):
            late = at >= ends
            sat.choices[at][late] = -1
            sat.seconds[late, at] = 0.0
        whole = sat.seconds.sum(axis=1)
        wanted = np.where(slow, rng.uniform(55.5, 58.0, n) * 60, np.minimum(1.75 * whole, rng.uniform(50, 57, n) * 60))
        sat.seconds *= (wanted / np.maximum(whole, 1.0))[:, None]
    if here == HASTY:
        hasty = [row for row, s in enumerate(sat.students) if random.Random(f"hasty {s}").random() < 0.06]
        for row in hasty:
            for place in range(16, len(sat.items)):
                sat.choices[place][row] = int(rng.integers(0, 4))
                sat.seconds[row, place] = float(rng.uniform(1.2, 3.0))


def times(sat_n: int, items: Sequence[DemoItem], rng: np.random.Generator) -> FloatArray:
    """(students, items) seconds: each item has its own length, each student a pace."""
    base = np.array([rng.uniform(35, 60) + (20 if item.draft.numeric else 0) for item in items])
    pace = rng.lognormal(0.0, 0.22, sat_n)
    spread = rng.lognormal(0.0, 0.35, (sat_n, len(items)))
    found: FloatArray = np.clip(base[None, :] * pace[:, None] * spread, 6.0, 400.0)
    return found


def hash_of(*words: str) -> int:
    """The same on every machine, unlike `hash`."""
    return random.Random(" ".join(words)).getrandbits(48)
