"""The same mistake in several items: wrong answers that carry one note, who holds it, and who holds the same ones.

A student is said to hold a mistake when they gave its answers at least twice, at least half of the times they could,
and more often than the shares of everybody who gives those answers would bring by chance (the tail of a sum of unequal
Bernoulli trials, at most 0.05). One such answer is a slip and is counted, never held. Students without a total count
like the others.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.data.arrays import BoolArray, FloatArray, IntArray
from bildung.core.data.responses import FIRST
from bildung.core.errors import Refused

OFTEN, HALF, CHANCE = 2, 0.5, 0.05
MOST_SETS = 200


@dataclass(frozen=True)
class Carrier:
    """An answer that carries the note. n: who gave it; share: of those who answered the item."""

    item: str
    answer: str
    n: int
    share: float


@dataclass(frozen=True, kw_only=True)
class Mistake:
    """A mistake that several answers show.

    Attributes
    ----------
    note : str
        What somebody thinks who makes it.
    carriers : tuple[Carrier, ...]
        Most given first.
    gave : IntArray
        (counted,) how often each student gave one of the answers.
    could : IntArray
        (counted,) how often they could have.
    held : BoolArray
        (counted,).
    n : int
        Students who gave it at least once.
    answers : int
        How often altogether.
    """

    note: str
    carriers: tuple[Carrier, ...]
    gave: IntArray
    could: IntArray
    held: BoolArray
    n: int
    answers: int


@dataclass(frozen=True)
class Cluster:
    """Students (rows among the counted) who hold all of these mistakes; no other mistake is held by all of them."""

    notes: tuple[str, ...]
    students: tuple[int, ...]


def mistakes(analysis: TestAnalysis, notes: Mapping[int, Mapping[str, str]]) -> tuple[Mistake, ...]:
    """Who holds which mistake.

    Parameters
    ----------
    analysis : TestAnalysis
        The test as it was analysed.
    notes : Mapping[int, Mapping[str, str]]
        By place of the item the note of each wrong answer that has one; equal words are one mistake, whatever their
        case and spaces. Those made in several items first, then by how often.

    Returns
    -------
    tuple[Mistake, ...]

    Raises
    ------
    Refused
        For a place there is not.
    """
    n = analysis.table.n
    by_note: dict[str, list[tuple[int, str]]] = {}
    words: dict[str, str] = {}
    for at, some in sorted(notes.items()):
        if not 0 <= at < len(analysis.items):
            raise Refused(f"there is no item at place {at}")
        for answer, note in some.items():
            key = " ".join(note.casefold().split()).rstrip(".")
            if key:
                words.setdefault(key, note.strip())
                by_note.setdefault(key, []).append((at, answer))
    found = []
    for key, places in by_note.items():
        gave, could = np.zeros(n, dtype=np.int64), np.zeros(n, dtype=np.int64)
        carriers, rates, open_to = [], [], []
        for at in dict.fromkeys(at for at, _ in places):
            answers = analysis.table.answers[at]
            answered = answers.codes >= FIRST
            wanted = [answer for place, answer in places if place == at]
            chose = np.zeros(n, dtype=np.bool_)
            for answer in wanted:
                mine = _gave(answers.codes, answers.labels, answer)
                total = int(answered.sum())
                carriers.append(
                    Carrier(
                        analysis.items[at].item.name, answer, int(mine.sum()), int(mine.sum()) / total if total else 0.0
                    )
                )
                chose |= mine
            gave += chose
            could += answered
            rates.append(float(chose.sum()) / max(1, int(answered.sum())))
            open_to.append(answered)
        if not gave.any():
            continue
        held = _held(gave, could, np.array(rates), np.stack(open_to, axis=1))
        carriers.sort(key=lambda c: (-c.n, c.item, c.answer))
        found.append(
            Mistake(
                note=words[key],
                carriers=tuple(carriers),
                gave=gave,
                could=could,
                held=held,
                n=int((gave > 0).sum()),
                answers=int(gave.sum()),
            )
        )
    found.sort(
        key=lambda m: (len({c.item for c in m.carriers if c.n > 0}) < OFTEN, -int(m.held.sum()), -m.answers, m.note)
    )
    return tuple(found)


def clusters(found: Sequence[Mistake], least: int = 3) -> tuple[Cluster, ...]:
    """Groups of at least `least` students who hold the same two mistakes or more; largest first.

    All closed sets of mistakes, at most 200 of them.

    Parameters
    ----------
    found : Sequence[Mistake]
        Mistakes with who holds them.
    least : int
        Fewest students that are shown.

    Returns
    -------
    tuple[Cluster, ...]
    """
    if not found:
        return ()
    matrix = np.stack([m.held for m in found], axis=1)
    own = {frozenset(np.flatnonzero(row).tolist()) for row in matrix if row.sum() >= OFTEN}
    closed = set(own)
    fresh = set(own)
    while fresh and len(closed) <= MOST_SETS:
        met = {a & b for a in fresh for b in own if len(a & b) >= OFTEN} - closed
        closed |= met
        fresh = met
    groups = []
    for some in closed:
        rows = np.flatnonzero(matrix[:, sorted(some)].all(axis=1))
        if rows.size >= least:
            groups.append(Cluster(tuple(found[at].note for at in sorted(some)), tuple(int(r) for r in rows)))
    groups.sort(key=lambda g: (-len(g.students) * len(g.notes), -len(g.students), g.notes))
    return tuple(groups[:MOST_SETS])


def _gave(codes: IntArray | np.ndarray, labels: Sequence[str], answer: str) -> BoolArray:
    """Also where several options were chosen together and the answer is one of them."""
    wanted = [FIRST + at for at, label in enumerate(labels) if label == answer or answer in label.split("+")]
    mine: BoolArray = np.isin(codes, wanted)
    return mine


def _held(gave: IntArray, could: IntArray, rates: FloatArray, open_to: BoolArray) -> BoolArray:
    """(students,): often enough, and more often than chance. Students with the same items open share one tail."""
    held = np.zeros(gave.size, dtype=np.bool_)
    often = (gave >= OFTEN) & (gave >= HALF * could)
    tails: dict[bytes, FloatArray] = {}
    for row in np.flatnonzero(often):
        key = open_to[row].tobytes()
        if key not in tails:
            tails[key] = at_least(rates[open_to[row]])
        held[row] = tails[key][gave[row]] <= CHANCE
    return held


def at_least(rates: FloatArray) -> FloatArray:
    """Probability of at least so many of independent chances.

    (m + 1,): the chance of at least 0, 1 … m successes in m independent trials of these chances (Poisson binomial, by
    convolution).

    Parameters
    ----------
    rates : FloatArray
        (n,).

    Returns
    -------
    FloatArray
    """
    exactly = np.ones(1)
    for rate in rates:
        exactly = np.convolve(exactly, (1 - rate, rate))
    tail: FloatArray = np.cumsum(exactly[::-1])[::-1]
    return np.clip(tail, 0.0, 1.0)
