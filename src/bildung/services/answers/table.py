"""The answers of sessions as the core reads them: a row for each student who received a form, a column for each item.

A student whose session sat another companion form is no row here. Items that were not drawn for a student, or belong
to a part that they have not sat, were not presented: they are in no denominator of theirs.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.data.arrays import BoolArray, FloatArray
from bildung.core.data.responses import (
    AWAITING,
    FIRST,
    NOT_PRESENTED,
    OMITTED,
    Answers,
    ItemColumn,
    ResponseTable,
    Status,
    merge_columns,
    settle,
)
from bildung.core.scoring.rules import Rule
from bildung.core.scoring.settled import SettledScore, whole_response
from bildung.formats.answers import in_words
from bildung.formats.content import ChoicePart
from bildung.formats.scored import awaits, by_rule_of, item_rule, part_rule
from bildung.services.answers.byperson import settled_scores
from bildung.services.answers.corrected import NOTHING, Trial, corrected
from bildung.services.answers.packing import Pack, packs
from bildung.services.items.bankitem import BankItem
from bildung.store.models import FormItem, PlannedSession, Sitting

OPENED = 1.0  # seconds
STATUS = {
    "handed_in": Status.SAT,
    "answering": Status.IN_PROGRESS,
    "resting": Status.IN_PROGRESS,
    "on_paper": Status.IN_PROGRESS,
    "not_started": Status.IN_PROGRESS,
    "absent": Status.ABSENT,
    "exempt": Status.EXEMPT,
    "void": Status.VOID,
}


@dataclass(frozen=True, kw_only=True)
class Rows:
    """people: (n,) ids; status: (n,) of Status. sittings: (m,) ids of the sittings behind them, one each unless the
    test has several parts; row, state: (m,) of each sitting; columns: by pack the sittings of it that are wanted.
    part: by sitting, -1 for the whole test; in_parts: whether any sat a part. drawn: by sitting the form items it was
    given, where not all. first, session: (n,) the first sitting of each row and its session."""

    people: npt.NDArray[np.int64]
    status: npt.NDArray[np.uint8]
    sittings: npt.NDArray[np.int64]
    row: npt.NDArray[np.int64]
    state: npt.NDArray[np.uint8]
    part: npt.NDArray[np.int64]
    packs: tuple[Pack, ...]
    columns: tuple[npt.NDArray[np.int64], ...]
    drawn: dict[int, frozenset[int]]
    in_parts: bool
    first: npt.NDArray[np.int64]
    session: npt.NDArray[np.int64]


def rows_of(db: Session, form_id: int, sessions: Sequence[int]) -> Rows:
    """Who received this form in these sessions, with the answers as packed."""
    found = packs(db, sessions)
    about = {
        id: (person, state, form, drawn, part)
        for id, person, state, form, drawn, part in db.execute(
            select(Sitting.id, Sitting.person_id, Sitting.state, Sitting.form_id, Sitting.drawn, PlannedSession.part)
            .join(PlannedSession, PlannedSession.id == Sitting.session_id)
            .where(Sitting.session_id.in_(sessions))
        )
    }
    lead = dict(
        db.execute(select(PlannedSession.id, PlannedSession.form_id).where(PlannedSession.id.in_(sessions))).all()
    )
    columns = []
    kept: list[int] = []
    held_in: list[int] = []
    for session_id, pack in zip(sessions, found, strict=True):
        ids = pack.sittings.tolist()
        mine = [at for at, id in enumerate(ids) if (about[id][2] or lead[session_id]) == form_id]
        columns.append(np.array(mine, dtype=np.int64))
        kept += [ids[at] for at in mine]
        held_in += [session_id] * len(mine)
    parts = np.array([-1 if about[id][4] is None else about[id][4] for id in kept], dtype=np.int64)
    in_parts = bool((parts >= 0).any())
    row_of: dict[int, int] = {}
    row = [row_of.setdefault(about[id][0], len(row_of)) for id in kept] if in_parts else list(range(len(kept)))
    n = len(row_of) if in_parts else len(kept)
    people, first, session = (np.zeros(n, dtype=np.int64) for _ in range(3))
    for id, at, here in zip(reversed(kept), reversed(row), reversed(held_in), strict=True):
        first[at], session[at] = id, here
    states: list[list[Status]] = [[] for _ in range(n)]
    for id, at in zip(kept, row, strict=True):
        people[at] = about[id][0]
        states[at].append(STATUS[about[id][1]])
    status = np.array([_together(some) for some in states], dtype=np.uint8)
    state = np.array([STATUS[about[id][1]] for id in kept], dtype=np.uint8)
    drawn = {id: frozenset(some) for id in kept if (some := about[id][3]) is not None}
    return Rows(
        people=people,
        status=status,
        sittings=np.array(kept, dtype=np.int64),
        row=np.array(row, dtype=np.int64),
        state=state,
        part=parts,
        packs=tuple(found),
        columns=tuple(columns),
        drawn=drawn,
        in_parts=in_parts,
        first=first,
        session=session,
    )


def _together(states: list[Status]) -> Status:
    """Of a student who sits a test in parts: one void part voids it, one part handed in counts as far as it goes."""
    for status in (Status.VOID, Status.SAT, Status.IN_PROGRESS, Status.ABSENT):
        if status in states:
            return status
    return states[0]


@dataclass(frozen=True)
class Administration:
    """One form as one set of students sat it. seconds: (n, items) that each item was before them, NaN where nothing was
    counted; None where nothing was at all. raw: by place of an item of several parts, the answer as given by the words
    that stand for it in the table."""

    table: ResponseTable
    seconds: FloatArray | None
    raw: dict[int, dict[str, str]]


def administration(
    db: Session,
    form_id: int,
    items: Sequence[BankItem],
    rows: Rows,
    window_id: int | None = None,
    trial: Trial = NOTHING,
) -> Administration:
    """items: of the form, in its order. window_id: in which it was; None: of no answers. trial: corrections that are supposed beside
    those that hold."""
    places = db.execute(
        select(FormItem.id, FormItem.part).where(FormItem.form_id == form_id).order_by(FormItem.position)
    ).all()
    several = rows.in_parts or bool(rows.drawn)
    by_hand = [place for (place, _), item in zip(places, items, strict=True) if awaits(for_the_core(item)[1])]
    marks = settled_scores(db, by_hand, trial.aside)
    core_items, answers, raw = [], list[Answers](), dict[int, dict[str, str]]()
    for at, (item, (place, part)) in enumerate(zip(items, places, strict=True)):
        core_item, rule = for_the_core(item)
        blocks = [_block(item, pack, columns, place) for pack, columns in zip(rows.packs, rows.columns, strict=True)]
        if place in marks:
            core_item, merged = _marked(core_item, rule, blocks, rows.sittings, marks[place])
        else:
            merged = merge_columns(core_item, rule, blocks)
        # what was not reached in one part says nothing of the next
        core_items.append(replace(core_item, part=str(part)) if rows.in_parts else core_item)
        if several:
            given = _presented(rows, place, part)
            codes = np.full(rows.people.size, NOT_PRESENTED, dtype=merged.codes.dtype)
            codes[rows.row[given]] = merged.codes[given]
            merged = Answers(codes, merged.labels, merged.points)
        worded = merged if place in marks else _in_words(item, merged)
        if worded is not merged:
            raw[at] = dict(zip(worded.labels, merged.labels, strict=True))
        answers.append(worded)
    seconds = _seconds(rows, [place for place, _ in places])
    # passing by is not opening
    opened = None if seconds is None else np.nan_to_num(seconds) >= OPENED
    table = settle(core_items, answers, rows.status, opened)
    if window_id is not None:
        row_of = dict(zip(rows.sittings.tolist(), rows.row.tolist(), strict=True))
        table = corrected(db, table, form_id, window_id, row_of, trial)
    return Administration(table, seconds, raw)


def _seconds(rows: Rows, places: Sequence[int]) -> FloatArray | None:
    """(n, items): of each student on each item, over the sittings of a test in parts; NaN where nothing was counted."""
    if all(pack.times is None for pack in rows.packs):
        return None
    seconds = np.zeros((rows.people.size, len(places)))
    start = 0
    for pack, columns in zip(rows.packs, rows.columns, strict=True):
        mine = rows.row[start : start + columns.size]
        start += columns.size
        if pack.times is None:
            continue
        of = {item: at for at, item in enumerate(pack.form_items)}
        for at, place in enumerate(places):
            if place in of:
                np.add.at(seconds[:, at], mine, pack.times[of[place]][columns] / 1000)
    return np.where(seconds > 0, seconds, np.nan)


def _marked(
    item: ItemColumn,
    rule: Rule,
    blocks: Sequence[tuple[list[str], npt.NDArray[np.uint16]]],
    sittings: npt.NDArray[np.int64],
    marks: dict[int, SettledScore],
) -> tuple[ItemColumn, Answers]:
    """An item that a person scores: what was given for what a person scores, and by the rule for the rest; responses that
    nobody has scored still wait."""
    texts = [text for cells, codes in blocks for text in np.array(["", *cells], dtype=object)[codes]]
    earned = [_earned(rule, text, marks.get(id)) for id, text in zip(sittings.tolist(), texts, strict=True)]
    points = sorted({value for value in earned if not isinstance(value, int)})
    code_of = {value: FIRST + at for at, value in enumerate(points)}
    codes = np.array([value if isinstance(value, int) else code_of[value] for value in earned], dtype=np.int32)
    narrow = codes.astype(np.uint8) if FIRST + len(points) <= 256 else codes
    labels = tuple(f"{value:g}" for value in points)
    return replace(item, kind="points"), Answers(narrow, labels, np.array(points, dtype=np.float64))


def _earned(rule: Rule, text: str, given: SettledScore | None) -> float | int:
    """Points of one response as a float, or its state as an int."""
    if not text:
        return OMITTED
    found = whole_response(*by_rule_of(rule, text), given)
    if found.missing:
        return NOT_PRESENTED
    return AWAITING if found.points is None else found.points


def _block(
    item: BankItem, pack: Pack, columns: npt.NDArray[np.int64], place: int
) -> tuple[list[str], npt.NDArray[np.uint16]]:
    if place not in pack.labels:  # nobody of the session received the form
        return [], np.zeros(columns.size, dtype=np.uint16)
    codes = pack.codes[pack.form_items.index(place)]
    return _cells(item, pack.labels[place]), codes if columns.size == codes.size else codes[columns]


def _presented(rows: Rows, place: int, part: int) -> BoolArray:
    """(m,): which sittings had this item."""
    given: BoolArray = (rows.part < 0) | (rows.part == part)
    if rows.in_parts:  # a part that was not handed in was not presented: its blanks are no omissions
        given = given & (rows.state == Status.SAT)
    if rows.drawn:
        given = given & np.array([place in rows.drawn.get(id, (place,)) for id in rows.sittings.tolist()])
    return given


def for_the_core(item: BankItem) -> tuple[ItemColumn, Rule]:
    """What the analysis must know of an item, and how it is scored. A choice with a reason is judged as the choice."""
    first, scored = item.shown.parts[0], item.scoring[0]
    if item.kind in ("choice", "reason") and isinstance(first, ChoicePart) and first.most == 1:
        options = tuple(option.id for option in first.options)
        keys = tuple(k.strip() for k in scored.key.split("|"))
        return ItemColumn(
            name=item.code,
            kind="choice",
            points=item.points,
            options=options,
            keys=keys,
            part="",
            standards=tuple(item.standards),
        ), part_rule(first, scored)
    return ItemColumn(name=item.code, kind=item.kind, points=item.points, standards=tuple(item.standards)), item_rule(
        item.shown, item.scoring
    )


def _cells(item: BankItem, texts: list[str]) -> list[str]:
    """Answers as the rule reads them."""
    return [in_words(item.shown, text)[0] for text in texts] if item.kind == "reason" else texts


def _in_words(item: BankItem, answers: Answers) -> Answers:
    """Labels of several parts as one reads them, where that still tells them apart."""
    if len(item.shown.parts) == 1 or item.kind == "reason":
        return answers
    words = tuple(in_words(item.shown, label)[0] or "nothing" for label in answers.labels)
    return Answers(answers.codes, words, answers.points) if len(set(words)) == len(words) else answers
