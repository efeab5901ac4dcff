"""The response table: who answered what, in which state, for how many points.

Everything is checked where a table is made; nothing below re-checks. Answers are held item by
item as small whole-number codes, so that each figure is a matter of counting codes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import IntEnum

import numpy as np
import numpy.typing as npt

from bildung.core.data.arrays import BoolArray, CodeArray, FloatArray, IntArray
from bildung.core.errors import Refused
from bildung.core.scoring.rules import Rule, rule_for

OMITTED, NOT_REACHED, NOT_PRESENTED, AWAITING = 0, 1, 2, 3
FIRST = 4  # the code of an item's first label; the codes below it are states


class Status(IntEnum):
    """State of a sitting (methods.md, section 1)."""

    SAT = 0
    WAITING = 1
    BLANK = 2
    IN_PROGRESS = 3
    ABSENT = 4
    EXEMPT = 5
    VOID = 6
    TRIAL = 7


@dataclass(frozen=True, kw_only=True)
class ItemColumn:
    """What the analysis must know of an item. points: its maximum. keys: accepted options of a choice item."""

    name: str
    kind: str
    points: float = 1.0
    options: tuple[str, ...] = ()
    keys: tuple[str, ...] = ()
    part: str = ""
    standards: tuple[str, ...] = ()


@dataclass(frozen=True)
class Answers:
    """Answers to one item.

    Attributes
    ----------
    codes : CodeArray
        (students,), a state or FIRST + the place of the label.
    labels : tuple[str, ...]
        Distinct answers (for choice items every option, in order).
    points : FloatArray
        (labels,), what each earns.
    """

    codes: CodeArray
    labels: tuple[str, ...]
    points: FloatArray

    @property
    def code_points(self) -> FloatArray:
        """Points by code, (FIRST + labels,); 0 for every state.

        (FIRST + labels,): points by code; 0 for every state.

        Returns
        -------
        FloatArray
        """
        return np.concatenate([np.zeros(FIRST), self.points])


@dataclass(frozen=True)
class ResponseTable:
    """Settled answers of `n` sittings to `items` in the order the students met them.

    Rows other than SAT and WAITING never enter a statistic.

    Attributes
    ----------
    items : tuple[ItemColumn, ...]
        The items.
    answers : tuple[Answers, ...]
        By item.
    status : CodeArray
        (n,) of Status; BLANK and WAITING are derived here.
    parts : tuple[str, ...]
        Part of each item.
    """

    items: tuple[ItemColumn, ...]
    answers: tuple[Answers, ...]
    status: CodeArray
    parts: tuple[str, ...] = field(default=())

    @property
    def n(self) -> int:
        """How many sittings."""
        return int(self.status.size)

    def count(self, status: Status) -> int:
        """How many sittings have a status.

        Parameters
        ----------
        status : Status
            The status.

        Returns
        -------
        int
        """
        return int(np.count_nonzero(self.status == status))

    @property
    def counted(self) -> BoolArray:
        """Whose answers enter item statistics, (n,).

        (n,): whose answers enter item statistics.

        Returns
        -------
        BoolArray
        """
        return self.status <= Status.WAITING

    def take(self, rows: BoolArray | IntArray) -> ResponseTable:
        """The same table for some of its sittings."""
        answers = tuple(Answers(a.codes[rows], a.labels, a.points) for a in self.answers)
        return ResponseTable(self.items, answers, self.status[rows], self.parts)


def code_column(item: ItemColumn, rule: Rule, cells: Sequence[str | None]) -> Answers:
    """Code one item's answers as given.

    Parameters
    ----------
    item : ItemColumn
        The item.
    rule : Rule
        How it is scored.
    cells : Sequence[str | None]
        One per student; "" or None is blank, "!np" not presented, "!wait" awaits a score.

    Returns
    -------
    Answers

    Raises
    ------
    Refused
        For an answer the item does not allow.
    """
    states = {"": OMITTED, None: OMITTED, "!np": NOT_PRESENTED, "!wait": AWAITING}
    labels: list[str] = list(item.options) if item.kind == "choice" else []
    place = {label: at for at, label in enumerate(labels)}
    seen: dict[str | None, int] = dict(states)
    codes = np.empty(len(cells), dtype=np.int32)
    for row, cell in enumerate(cells):
        code = seen.get(cell)
        if code is None:
            assert cell is not None
            label = rule.label(cell)
            if label not in place:
                place[label] = len(labels)
                labels.append(label)
            code = FIRST + place[label]
            seen[cell] = code
        codes[row] = code
    points = np.array([rule.points(label) for label in labels], dtype=np.float64)
    narrow: CodeArray = codes.astype(np.uint8) if FIRST + len(labels) <= 256 else codes
    return Answers(narrow, tuple(labels), points)


def merge_columns(
    item: ItemColumn, rule: Rule, parts: Sequence[tuple[Sequence[str], npt.NDArray[np.uint16]]]
) -> Answers:
    """One item's answers from several blocks of coded cells.

    Each text is looked at once, however many gave it.

    Parameters
    ----------
    item : ItemColumn
        The item.
    rule : Rule
        How it is scored.
    parts : Sequence[tuple[Sequence[str], npt.NDArray[np.uint16]]]
        By block the cells' distinct texts, and codes (students,): 0 blank, n the n-th text.

    Returns
    -------
    Answers

    Raises
    ------
    Refused
        As `code_column` does.
    """
    labels: list[str] = list(item.options) if item.kind == "choice" else []
    place = {label: at for at, label in enumerate(labels)}
    columns = []
    for texts, codes in parts:
        table = np.full(len(texts) + 1, OMITTED, dtype=np.int32)
        for at, text in enumerate(texts, 1):
            if not text:
                continue
            label = rule.label(text)
            if label not in place:
                place[label] = len(labels)
                labels.append(label)
            table[at] = FIRST + place[label]
        columns.append(table[codes])
    merged = np.concatenate(columns) if columns else np.zeros(0, dtype=np.int32)
    points = np.array([rule.points(label) for label in labels], dtype=np.float64)
    return Answers(merged.astype(np.uint8) if FIRST + len(labels) <= 256 else merged, tuple(labels), points)


def settle(
    items: Sequence[ItemColumn], answers: Sequence[Answers], status: CodeArray, opened: BoolArray | None = None
) -> ResponseTable:
    """Tell omitted from not reached, blank from sat, waiting from sat.

    A blank is omitted with an answer later in the same part, or as the first one after the part's last answer; every
    blank after that is not reached.

    Parameters
    ----------
    items : Sequence[ItemColumn]
        In the order the students met them; blanks are coded OMITTED.
    answers : Sequence[Answers]
        In the order the students met them; blanks are coded OMITTED.
    status : CodeArray
        (n,) of Status, SAT where somebody sat.
    opened : BoolArray | None
        (n, items), a log of what was looked at; where a student has one it overrides that rule: a blank that was
        opened is omitted, one that never was is not reached.

    Returns
    -------
    ResponseTable
    """
    n = int(status.size)
    if not items:
        raise Refused("a response table needs at least one item")
    if any(a.codes.size != n for a in answers) or len(answers) != len(items):
        raise Refused("every item needs one answer for each attempt")
    settled: list[Answers] = list(answers)
    answered_any = np.zeros(n, dtype=np.bool_)
    awaiting_any = np.zeros(n, dtype=np.bool_)
    logged = np.zeros(n, dtype=np.bool_) if opened is None else opened.any(axis=1)
    for places in _parts(items):
        open_tail = np.ones(n, dtype=np.bool_)  # no answer at or after the item at hand
        tails: dict[int, BoolArray] = {}
        for at in reversed(places):
            codes = answers[at].codes
            open_tail = open_tail & ((codes == OMITTED) | (codes == NOT_PRESENTED))
            tails[at] = open_tail
        answered_any |= ~open_tail
        before = np.zeros(n, dtype=np.bool_)  # an earlier blank of the tail was already met
        for at in places:
            codes = answers[at].codes
            blank = codes == OMITTED
            tail = tails[at] & blank
            not_reached = tail & before
            if opened is not None:
                not_reached = np.where(logged, blank & ~opened[:, at], not_reached)
            if not_reached.any():
                codes = codes.copy()
                codes[not_reached] = NOT_REACHED
                settled[at] = Answers(codes, answers[at].labels, answers[at].points)
            before |= tail
            awaiting_any |= codes == AWAITING
    derived = status.astype(np.uint8, copy=True)
    sat = status == Status.SAT
    derived[sat & ~answered_any] = Status.BLANK
    derived[sat & awaiting_any] = Status.WAITING
    return ResponseTable(tuple(items), tuple(settled), derived, tuple(dict.fromkeys(i.part for i in items)))


def _parts(items: Sequence[ItemColumn]) -> list[list[int]]:
    """Places of the items of each part, in order."""
    places: dict[str, list[int]] = {}
    for at, item in enumerate(items):
        places.setdefault(item.part, []).append(at)
    return list(places.values())


def table_from_cells(
    items: Sequence[ItemColumn],
    keys: Sequence[str],
    cells: Sequence[Sequence[str | None]],
    status: Sequence[Status] | None = None,
) -> ResponseTable:
    """A table from answers as given.

    Parameters
    ----------
    items : Sequence[ItemColumn]
        The items.
    keys : Sequence[str]
        The key text of each item.
    cells : Sequence[Sequence[str | None]]
        a row a student, a cell an item, as in `code_column`.
    status : Sequence[Status] | None
        Of each row, SAT where none is given.

    Returns
    -------
    ResponseTable
    """
    for row in cells:
        if len(row) != len(items):
            raise Refused(f"a row has {len(row)} cells for {len(items)} items")
    columns = []
    for at, (item, key) in enumerate(zip(items, keys, strict=True)):
        rule = rule_for(item.kind, key, item.options, item.points)
        columns.append(code_column(item, rule, [row[at] for row in cells]))
    states = np.array([Status.SAT] * len(cells) if status is None else list(status), dtype=np.uint8)
    return settle(items, columns, states)
