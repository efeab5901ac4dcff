"""Responses that say the same, most frequent first: scored together."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import dataclass

from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.scoring.alike import alike, grouped
from bildung.services.scoring.desk import ScoreWish, keep_score, worth_of
from bildung.services.scoring.items import CriterionView, HandItem, OfItem, hand_item, may_score, window_named
from bildung.services.scoring.standing import ResponseStanding, standings
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id

MOST_SHOWN = 200
AT_ONCE = 10  # scores of one transaction


@dataclass(frozen=True)
class GivenPoints:
    """How many of a group were given these points, or this condition code."""

    points: float | None
    code: str
    n: int


@dataclass(frozen=True, kw_only=True)
class ResponseGroup:
    """says: what these have in common, as the server compares them. written: the most frequent way to write it; ways: in how many it is
    written. n: responses; waiting: of them, those that wait for this person. given: scores so far. first: one of them, to be opened."""

    says: str
    written: str
    ways: int
    n: int
    waiting: int
    given: list[GivenPoints]
    first: Id


@dataclass(frozen=True, kw_only=True)
class GroupsPage(OfItem):
    criteria: list[CriterionView]
    groups: list[ResponseGroup]
    more: int


@dataclass(frozen=True)
class GroupScored:
    """How many were given the score, and in words what was left and why."""

    n: int
    says: str


def groups_page(ctx: Context, actor: Actor, place: int, window_id: int) -> GroupsPage:
    """All responses that this person may score, put together by what they say."""
    scope(actor, Action.SCORES_GIVE)
    with ctx.store.read() as db:
        item, window = hand_item(db, place), window_named(db, window_id)
        rows = standings(db, item, window_id, may_score(actor, place), ctx.clock())
    if not rows:
        raise NotFound("there is nothing of this item in this window that you may score")
    by_id = {row.sitting: row for row in rows}
    together = grouped((row.sitting, written(item, row.answer)) for row in rows)
    found = [_group(item, actor, says, [by_id[id] for id in ids]) for says, ids in together]
    return GroupsPage(
        finding=_finding(found, len(rows)),
        **item.head(window),
        criteria=list(item.criteria),
        groups=found[:MOST_SHOWN],
        more=max(0, len(found) - MOST_SHOWN),
    )


def score_group(ctx: Context, actor: Actor, place: int, window_id: int, says: str, wish: ScoreWish) -> GroupScored:
    """One score for all of a group that wait for this person. What others have open or have scored is left as it is."""
    with ctx.store.read() as db:
        item = hand_item(db, place)
    points, code = worth_of(item, wish)
    if wish.settles or wish.second:
        raise Invalid("a score that settles others, or wants a second opinion, is given response by response", "final")

    with ctx.store.read() as db:
        rows = standings(db, item, window_id, may_score(actor, place), ctx.clock())
    by_id = {row.sitting: row for row in rows}
    ids = dict(grouped((row.sitting, written(item, row.answer)) for row in rows)).get(says)
    if not ids:
        raise NotFound("there is no such group of responses any more")
    open_ = [id for id in ids if _waits(by_id[id], actor)]

    def work(db: Session, some: list[int]) -> int:
        given = 0
        for id in some:
            row = next(iter(standings(db, item, window_id, may_score(actor, place), ctx.clock(), id)), None)
            if row is None or not _waits(row, actor) or alike(written(item, row.answer)) != says:
                continue
            try:
                keep_score(db, ctx.clock(), actor, item, row, wish, points, code)
            except Conflict:
                continue
            given += 1
        return given

    given = 0
    for at in range(0, len(open_), AT_ONCE):  # so that answers of students never wait for a large group
        given += ctx.store.write(lambda db, at=at: work(db, open_[at : at + AT_ONCE]))  # type: ignore[misc]
    if not given:
        raise Conflict("none of this group waits for you")
    left = len(open_) - given
    says_so = f"{counted(given, 'response')} scored."
    if left:
        says_so += f" {left} {'is' if left == 1 else 'are'} open at someone else or yours no more."
    return GroupScored(given, says_so)


def written(item: HandItem, answer: str) -> str:
    """What a person reads of an answer: of several parts, those that a person scores."""
    if len(item.item.shown.parts) == 1:
        return answer
    try:
        parts = json.loads(answer)
    except ValueError:
        return answer
    return "\n".join(str(parts.get(id, "")) for id in item.parts) if isinstance(parts, dict) else answer


def _waits(row: ResponseStanding, actor: Actor) -> bool:
    return row.waits_for(actor.person_id) in ("score", "second") and row.mine(actor.person_id) is None


def _group(item: HandItem, actor: Actor, says: str, rows: list[ResponseStanding]) -> ResponseGroup:
    ways = Counter(written(item, row.answer).strip() for row in rows)
    given = Counter(
        (None if m.code else m.points, m.code)
        for row in rows
        for m in row.marks
        if not m.aside and actor.person_id not in row.checks
    )
    return ResponseGroup(
        says=says,
        written=ways.most_common(1)[0][0],
        ways=len(ways),
        n=len(rows),
        waiting=sum(_waits(row, actor) for row in rows),
        given=[GivenPoints(points, code, n) for (points, code), n in given.most_common()],
        first=rows[0].sitting,
    )


def _finding(found: list[ResponseGroup], n: int) -> str:
    several = [group for group in found if group.n > 1]
    if not several:
        return f"All {n} responses say something else; there is nothing to score together."
    covered = sum(group.n for group in several)
    text = f"{covered} of {n} responses fall into {counted(len(several), 'group')} that say the same"
    waiting = sum(group.waiting for group in several)
    return f"{text}; {waiting} of them wait for you." if waiting else f"{text}; none of them waits for you."
