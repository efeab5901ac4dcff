"""Scoring responses: one after the other from a shared queue, never two people on one, nothing lost."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from bildung.core.scoring.conditions import CONDITIONS, KEYS, WORDS
from bildung.formats.answers import in_words
from bildung.formats.content import Shown
from bildung.formats.scored import by_rule_of
from bildung.services.answers.byperson import GivenMark, condition_rules
from bildung.services.answers.comments import fit_comment, put_comment
from bildung.services.calendar.years import zone_of
from bildung.services.items.bankitem import StimulusView
from bildung.services.scoring.alerts import receivers_named
from bildung.services.scoring.items import (
    AnchorPaper,
    CriterionView,
    HandItem,
    OfItem,
    hand_item,
    may_score,
    window_named,
)
from bildung.services.scoring.phrases import PhraseLine, phrases
from bildung.services.scoring.standing import ResponseStanding, standings
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Mark, Person, PlannedSession, ResponseComment, ScoringHold, StudentWork

HELD = timedelta(minutes=10)


@dataclass(frozen=True)
class PartAnswer:
    """What the student gave in another part of the item, as staff read it. points, most: by the rule."""

    part: str
    answer: str


@dataclass(frozen=True, kw_only=True)
class GivenView:
    """A score that stands. by: who gave it. mine: whether that was this person. second: they want a second opinion. truth: the response
    is pre-scored by it."""

    by: str
    mine: bool
    points: float
    criteria: list[float]
    code: str
    final: bool
    second: bool
    truth: bool
    at: datetime


@dataclass(frozen=True, kw_only=True)
class ResponseView:
    """One response. number: in the order of this desk, from 1. answer: what a person scores, as it was written, by part.
    others: answers to the other parts. by_rule: points that rules gave the rest. sketch, notes: made beside it. waits: for
    what; empty where it is settled. mine: what this person gave it. given: what others gave, where a person may see it
    before they have scored it themselves. comment: this person's, to the student; read_at: when the student had it. whole:
    whether this person may see the student's whole test."""

    sitting: Id
    number: int
    answer: list[PartAnswer]
    others: list[PartAnswer]
    by_rule: float
    sketch: str
    notes: str
    waits: str
    double: bool
    mine: GivenView | None
    given: list[GivenView]
    comment: str
    read_at: datetime | None
    whole: bool


@dataclass(frozen=True)
class ConditionView:
    code: str
    key: str
    word: str
    worth: str


@dataclass(frozen=True, kw_only=True)
class DeskProgress:
    """responses: all; scored: settled; waiting: for a first score; second, adjudication: for those; mine: that this person may
    score now. today: how many they scored today. held: that somebody else has open."""

    responses: int
    scored: int
    waiting: int
    second: int
    adjudication: int
    mine: int
    today: int
    held: int


@dataclass(frozen=True, kw_only=True)
class Desk(OfItem):
    """Everything about an item that stays the same from one response to the next. finding: how much there is."""

    shown: Shown
    stimulus: StimulusView | None
    guidance: str
    solution: str
    key: str
    criteria: list[CriterionView]
    anchors: list[AnchorPaper]
    conditions: list[ConditionView]
    phrases: list[PhraseLine]
    alerts_to: list[str]
    settles: bool
    progress: DeskProgress
    response: ResponseView | None


@dataclass(frozen=True)
class DeskNext:
    """What comes after a score: where the work stands, and the next response; none where nothing waits for this person."""

    finding: str
    progress: DeskProgress
    response: ResponseView | None


@dataclass(frozen=True, kw_only=True)
class ScoreWish:
    """What is given: points by criterion, or a condition code. final: it settles what others gave. second: a second opinion is wanted.
    truth: it settles the response as pre-scored, which every scorer of the item is given without knowing."""

    criteria: tuple[float, ...] = ()
    code: str = ""
    comment: str = ""
    final: bool = False
    second: bool = False
    truth: bool = False

    @property
    def settles(self) -> bool:
        """Whether it stands whatever others give."""
        return self.final or self.truth


def desk(ctx: Context, actor: Actor, place: int, window_id: int, sitting_id: int | None = None) -> Desk:
    """The item with its rubric, and the response that is next for this person, or the one asked for. Taking one up keeps it
    from others for ten minutes."""
    with ctx.store.read() as db:
        item, window = hand_item(db, place), window_named(db, window_id)
        rules = condition_rules(db)
        rows = _rows(ctx, db, actor, item, window_id)
        if not rows and not _given_to(db, actor, item, window_id):
            raise NotFound("there is nothing of this item in this window that you may score")
        known = phrases(db, actor)
        alerts_to = receivers_named(db, {r.session for r in rows})
    moved = _take_up(ctx, actor, item, window_id, sitting_id)
    return Desk(
        finding=moved.finding,
        **item.head(window),
        shown=item.item.shown,
        stimulus=item.item.stimulus,
        guidance=item.item.behind.guidance,
        solution=item.item.behind.solution,
        key=item.item.key,
        criteria=list(item.criteria),
        anchors=list(item.anchors),
        conditions=[ConditionView(c, KEYS[c], WORDS[c], rules[c]) for c in CONDITIONS],
        phrases=known,
        alerts_to=alerts_to,
        settles=actor.may(Action.SCORES_PLAN),
        progress=moved.progress,
        response=moved.response,
    )


def skip(ctx: Context, actor: Actor, place: int, window_id: int, sitting_id: int) -> DeskNext:
    """Put a response back, and take up the one behind it."""

    def work(db: Session) -> None:
        db.execute(
            delete(ScoringHold).where(
                ScoringHold.form_item_id == place,
                ScoringHold.sitting_id == sitting_id,
                ScoringHold.person_id == actor.person_id,
            )
        )

    with ctx.store.read() as db:
        item = hand_item(db, place)
    ctx.store.write(work)
    return _take_up(ctx, actor, item, window_id, None, behind=sitting_id)


def score(ctx: Context, actor: Actor, place: int, window_id: int, sitting_id: int, wish: ScoreWish) -> DeskNext:
    """Keep a score and go on to the next response. Refused where somebody else has it open, has scored it already, or where
    the points are none of the rubric's; nothing is half kept."""
    with ctx.store.read() as db:
        item = hand_item(db, place)
    points, code = worth_of(item, wish)
    comment = fit_comment(wish.comment)
    if wish.settles:
        scope(actor, Action.SCORES_PLAN)
        if wish.second:
            raise Invalid("a score that settles a response wants no second opinion", "second")

    def work(db: Session) -> None:
        found = standings(db, item, window_id, may_score(actor, item.place), ctx.clock(), sitting_id)
        if not found:
            raise NotFound("there is no such response, or it is not yours to score")
        keep_score(db, ctx.clock(), actor, item, found[0], wish, points, code)
        put_comment(db, ctx.clock(), actor.person_id, sitting_id, place, comment)

    ctx.store.write(work)
    return _take_up(ctx, actor, item, window_id, None, behind=sitting_id)


def keep_score(
    db: Session,
    now: datetime,
    actor: Actor,
    item: HandItem,
    row: ResponseStanding,
    wish: ScoreWish,
    points: float,
    code: str,
) -> None:
    """In the transaction of the writer. Conflict where somebody else has the response open, or has scored it already."""
    mine = row.mine(actor.person_id)
    if row.held_by not in (None, actor.person_id):
        raise Conflict("someone else is scoring this response; take the next one")
    waits = row.waits_for(actor.person_id)
    if mine is None and not wish.settles and not waits:
        raise Conflict("someone else has scored this response; take the next one")
    if mine is None and not wish.settles and waits == "adjudication":
        raise Conflict("two scorers are too far apart here; a coordinator settles it")
    if mine is None and not wish.settles and _only_others(row, actor, item):
        raise Conflict("your score of this response was set aside; someone else scores it again")
    db.get_one(PlannedSession, row.session).data_version += 1
    criteria = list(wish.criteria) or None
    if mine is not None and (mine.points, mine.code, mine.criteria) != (points, code, criteria):
        before, after = {"points": mine.points, "code": mine.code}, {"points": points, "code": code}
        audit.record(db, now, actor.person_id, "score.change", f"sitting:{row.sitting}", before, after)
    mark = Mark(sitting_id=row.sitting, form_item_id=item.place, marker_id=actor.person_id)
    there = mine or row.set_aside(actor.person_id)
    if there is not None:
        mark = db.get_one(Mark, there.id)
    mark.points, mark.code, mark.at, mark.aside = points, code, now, False
    mark.criteria, mark.final, mark.scoring = criteria, wish.settles, item.version
    mark.second, mark.truth = wish.second, wish.truth
    db.add(mark)
    db.execute(delete(ScoringHold).where(ScoringHold.form_item_id == item.place, ScoringHold.sitting_id == row.sitting))


def _only_others(row: ResponseStanding, actor: Actor, item: HandItem) -> bool:
    """Whether this person's own score by the rubric that holds was set aside, so that only somebody else's helps."""
    aside = row.set_aside(actor.person_id)
    return aside is not None and (aside.scoring or 1) >= item.version


def take_back(ctx: Context, actor: Actor, place: int, window_id: int, sitting_id: int) -> DeskNext:
    """One's own score is withdrawn; the response waits again and is open here."""
    with ctx.store.read() as db:
        item = hand_item(db, place)

    def work(db: Session) -> None:
        found = standings(db, item, window_id, may_score(actor, item.place), ctx.clock(), sitting_id)
        mine = found[0].mine(actor.person_id) if found else None
        if mine is None:
            raise NotFound("you have given this response no score")
        before = {"points": mine.points, "code": mine.code}
        audit.record(db, ctx.clock(), actor.person_id, "score.withdraw", f"sitting:{sitting_id}", before, None)
        db.get_one(PlannedSession, found[0].session).data_version += 1
        db.delete(db.get_one(Mark, mine.id))

    ctx.store.write(work)
    return _take_up(ctx, actor, item, window_id, sitting_id)


def _given_to(db: Session, actor: Actor, item: HandItem, window_id: int) -> bool:
    """Whether any session of this window is theirs to score the item of, also while nobody has submitted."""
    wanted = select(PlannedSession.id).where(PlannedSession.window_id == window_id, may_score(actor, item.place))
    return db.scalar(wanted.limit(1)) is not None


def _rows(ctx: Context, db: Session, actor: Actor, item: HandItem, window_id: int) -> list[ResponseStanding]:
    return standings(db, item, window_id, may_score(actor, item.place), ctx.clock())


def worth_of(item: HandItem, wish: ScoreWish) -> tuple[float, str]:
    """Points and condition code of a wish."""
    if wish.code:
        if wish.code not in CONDITIONS:
            raise Invalid(f"a condition code is one of {', '.join(CONDITIONS)}", "code")
        if wish.criteria:
            raise Invalid("a response has points by the rubric, or a condition code", "code")
        return 0.0, wish.code
    return item.points(list(wish.criteria)), ""


def _open_to(row: ResponseStanding, actor: Actor, item: HandItem) -> bool:
    """Whether this response waits for this person, and nobody else has it open."""
    if row.held_by not in (None, actor.person_id) or row.mine(actor.person_id) is not None:
        return False
    if _only_others(row, actor, item):
        return False
    waits = row.waits_for(actor.person_id)
    return actor.may(Action.SCORES_PLAN) if waits == "adjudication" else waits in ("score", "second")


def _take_up(
    ctx: Context, actor: Actor, item: HandItem, window_id: int, wanted: int | None, behind: int | None = None
) -> DeskNext:
    """Hold the next response for this person, or the one that is wanted. behind: begin after this one. All responses are
    looked at beside the writer, which is held for the one that is taken up."""
    with ctx.store.read() as db:
        rows = _rows(ctx, db, actor, item, window_id)
    taken = next((at for at in _in_turn(rows, actor, item, wanted, behind) if _hold(ctx, actor, item, rows[at])), None)
    if taken is None and wanted is not None:  # somebody else has it: it is shown, and cannot be scored
        taken = next(at for at, row in enumerate(rows) if row.sitting == wanted)
    with ctx.store.read() as db:
        progress = _progress(db, ctx, actor, item, rows)
        shown = None if taken is None else _view(db, actor, item, rows[taken], taken + 1)
    return DeskNext(_finding(item, progress), progress, shown)


def _hold(ctx: Context, actor: Actor, item: HandItem, row: ResponseStanding) -> bool:
    """Whether this person has the response now: nobody took it, or gave it a score, since it was looked at."""
    if not _open_to(row, actor, item):
        return False

    def work(db: Session) -> bool:
        now, key = ctx.clock(), (row.sitting, item.place)
        there = db.get(ScoringHold, key)
        if there is not None and there.until > now and there.person_id != actor.person_id:
            return False
        given = select(func.count()).where(Mark.sitting_id == row.sitting, Mark.form_item_id == item.place)
        if db.scalar(given) != len(row.marks):
            return False
        hold = there or ScoringHold(sitting_id=row.sitting, form_item_id=item.place)
        hold.person_id, hold.until = actor.person_id, now + HELD
        db.add(hold)
        return True

    return ctx.store.write(work)


def _in_turn(
    rows: list[ResponseStanding], actor: Actor, item: HandItem, wanted: int | None, behind: int | None
) -> list[int]:
    """Places of what this person may take up, in the order in which it is tried."""
    if wanted is not None:
        found = [at for at, row in enumerate(rows) if row.sitting == wanted]
        if not found:
            raise NotFound("there is no such response, or it is not yours to score")
        return found
    open_ = [at for at, row in enumerate(rows) if _open_to(row, actor, item)]
    if behind is None:  # what this person had open already comes first
        return sorted(open_, key=lambda at: rows[at].held_by != actor.person_id)
    last = next((at for at, row in enumerate(rows) if row.sitting == behind), -1)
    return [at for at in open_ if at > last] + [at for at in open_ if at < last]


def _progress(db: Session, ctx: Context, actor: Actor, item: HandItem, rows: list[ResponseStanding]) -> DeskProgress:
    day = ctx.clock().astimezone(zone_of(db)).replace(hour=0, minute=0, second=0, microsecond=0)
    today = db.scalar(
        select(func.count())
        .select_from(Mark)
        .where(Mark.marker_id == actor.person_id, Mark.form_item_id == item.place, Mark.at >= day)
    )
    waits = [row.waits_for(actor.person_id) for row in rows]
    return DeskProgress(
        responses=len(rows),
        scored=waits.count(""),
        waiting=waits.count("score"),
        second=waits.count("second"),
        adjudication=waits.count("adjudication"),
        mine=sum(_open_to(row, actor, item) for row in rows),
        today=today or 0,
        held=sum(row.held_by not in (None, actor.person_id) for row in rows),
    )


def _finding(item: HandItem, p: DeskProgress) -> str:
    """How much there is, and what it waits for."""
    if not p.responses:
        return "No one has submitted a response to this item yet."
    left = p.responses - p.scored
    if not left:
        return f"All {p.responses} responses are scored."
    what = [
        f"{n} for {words}"
        for n, words in ((p.waiting, "a score"), (p.second, "a second scorer"), (p.adjudication, "adjudication"))
        if n
    ]
    verb = "waits" if left == 1 else "wait"
    if len(what) == 1:
        return f"{left} of {p.responses} responses still {verb} {what[0].partition(' ')[2]}."
    return f"{left} of {p.responses} responses still {verb}: {', '.join(what)}."


def _view(db: Session, actor: Actor, item: HandItem, row: ResponseStanding, number: int) -> ResponseView:
    hand, others = _answers(item, row.answer)
    work = dict(
        db.execute(
            select(StudentWork.kind, StudentWork.content).where(
                StudentWork.sitting_id == row.sitting, StudentWork.form_item_id == item.place
            )
        ).all()
    )
    comment = db.scalar(
        select(ResponseComment).where(
            ResponseComment.sitting_id == row.sitting,
            ResponseComment.form_item_id == item.place,
            ResponseComment.author_id == actor.person_id,
        )
    )
    mine = row.mine(actor.person_id)
    # a second scorer is blind to the first; whoever settles, or has scored, sees what was given
    waits = row.waits_for(actor.person_id)
    seen = mine is not None or waits in ("", "adjudication")
    names = _names(db, [m.scorer for m in row.marks])
    return ResponseView(
        sitting=row.sitting,
        number=number,
        answer=hand,
        others=others,
        by_rule=by_rule_of(item.rule, row.answer)[0],
        sketch=work.get("sketch", ""),
        notes=work.get("notes", ""),
        waits=waits,
        double=row.double and not row.checks,
        mine=_given(mine, names, actor) if mine else None,
        given=[_given(m, names, actor) for m in row.marks if m.scorer != actor.person_id] if seen else [],
        comment=comment.text if comment else "",
        read_at=comment.read_at if comment else None,
        whole=_may_see_whole(db, actor, row.session),
    )


def _may_see_whole(db: Session, actor: Actor, session_id: int) -> bool:
    if not actor.may(Action.ANSWERS_READ):
        return False
    wanted = select(PlannedSession.id).where(PlannedSession.id == session_id, scope(actor, Action.ANSWERS_READ))
    return db.scalar(wanted) is not None


def _names(db: Session, ids: list[int]) -> dict[int, str]:
    return {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_(ids)))} if ids else {}


def _given(mark: GivenMark, names: dict[int, str], actor: Actor) -> GivenView:
    return GivenView(
        by=names.get(mark.scorer, ""),
        mine=mark.scorer == actor.person_id,
        points=mark.points,
        criteria=mark.criteria or [],
        code=mark.code,
        final=mark.final,
        second=mark.second,
        truth=mark.truth,
        at=mark.at,
    )


def _answers(item: HandItem, answer: str) -> tuple[list[PartAnswer], list[PartAnswer]]:
    """What a person scores of an answer, and the rest of it."""
    shown = item.item.shown
    if len(shown.parts) == 1:
        return [PartAnswer(shown.parts[0].id, answer)], []
    try:
        found = json.loads(answer)
    except ValueError:
        return [PartAnswer("", in_words(shown, answer)[0])], []
    hand = [PartAnswer(part.id, str(found.get(part.id, ""))) for part in shown.parts if part.id in item.parts]
    rest = [
        PartAnswer(part.id, str(found[part.id]))
        for part in shown.parts
        if part.id not in item.parts and found.get(part.id)
    ]
    return hand, rest
