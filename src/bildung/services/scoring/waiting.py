"""What waits for a person's score: by item, test and window, with who does it, since when, and what it holds up."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from functools import partial
from typing import Annotated

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted, dated
from bildung.core.scoring.rules import Rule
from bildung.formats.markup import bare_text
from bildung.formats.scored import awaits, by_rule_of, item_rule
from bildung.services.answers.awaiting import places_by_person
from bildung.services.answers.byperson import condition_rules, given_marks, plans_of, settle_marks
from bildung.services.answers.corrected import changes, rulings
from bildung.services.calendar.years import local_today
from bildung.services.items.bankitem import content_of
from bildung.services.scoring.earlier import by_earlier, rubrics_of
from bildung.services.scoring.items import hand_item, may_score, of_form, window_named
from bildung.services.scoring.standing import checked_by
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.wire import Id, Ref, listed
from bildung.store.models import (
    Form,
    FormItem,
    Item,
    ItemVersion,
    Mark,
    Person,
    PlannedSession,
    Response,
    SchoolClass,
    ScoringPlan,
    ScoringTask,
    Sitting,
    Window,
)

MOST_SCORERS = 40


@dataclass(frozen=True, kw_only=True)
class ScorerProgress:
    """Somebody who scores an item. scored: responses of this window so far. due: by when; late: that day is over and
    responses wait. given: it was given to them; otherwise they score their own classes. classes: ids of those
    whose responses they were given; empty for all."""

    id: Id
    name: str
    scored: int
    due: date | None
    late: bool
    given: bool
    classes: list[Id]


@dataclass(frozen=True, kw_only=True)
class WaitingItem:
    """An item in a window. waiting, second, adjudication: responses that wait for a first score, a second scorer, or somebody
    who settles. Among those for a first score are pre-scored ones that this person has not scored. since: when the oldest of them was submitted. totals:
    attempts without a total until then. sessions: in how many. earlier: scored by an earlier rubric, and nobody has decided about it. to_give: classes whose responses can be given to a
    scorer."""

    place: Id
    number: int
    item: str
    text: str
    form_id: Id
    form: str
    window_id: Id
    window: str
    responses: int
    scored: int
    waiting: int
    second: int
    adjudication: int
    earlier: int
    since: datetime | None
    totals: int
    sessions: int
    classes: list[str]
    to_give: Annotated[list[tuple[int, str]], listed(Ref)]
    scorers: list[ScorerProgress]
    share: float
    apart: float | None


@dataclass(frozen=True, kw_only=True)
class WaitingPage:
    """finding: how much waits, and what it holds up. plans: whether this person gives items to scorers. first: where scoring
    starts with one click."""

    finding: str
    items: list[WaitingItem]
    plans: bool
    first: str


@dataclass
class _Tally:
    responses: int = 0
    scored: int = 0
    waiting: int = 0
    second: int = 0
    adjudication: int = 0
    earlier: int = 0
    since: datetime | None = None
    attempts: set[int] = field(default_factory=set)
    sessions: set[int] = field(default_factory=set)


def waiting_page(ctx: Context, actor: Actor, window_id: int | None = None) -> WaitingPage:
    """Of everything this person may score, or gives to scorers; what waits longest first, what is done last."""
    with ctx.store.read() as db:
        rows = _tallies(db, actor, window_id)
        items = _lines(db, ctx, rows)
    items.sort(
        key=lambda i: (i.responses == i.scored, i.since or datetime.max.replace(tzinfo=ctx.clock().tzinfo), i.form)
    )
    first = next((i for i in items if i.waiting + i.second), None)
    return WaitingPage(
        finding=_finding(items, len({a for (_, _), t in rows.items() for a in t.attempts})),
        items=items,
        plans=actor.may(Action.SCORES_PLAN),
        first=f"/scoring/{first.place}?window={first.window_id}" if first else "",
    )


def waiting_for_scorer(db: Session, actor: Actor) -> tuple[int, str]:
    """How many responses wait for this person, and where the first of them is."""
    rows = _tallies(db, actor, None)
    n = sum(t.waiting + t.second for t in rows.values())
    first = min(
        ((t.since, place, window) for (place, window), t in rows.items() if t.waiting + t.second and t.since),
        default=None,
    )
    return n, f"/scoring/{first[1]}?window={first[2]}" if first else ""


def _tallies(db: Session, actor: Actor, window_id: int | None) -> dict[tuple[int, int], _Tally]:
    """By item of a form and window."""
    scope(actor, Action.SCORES_GIVE)
    places = places_by_person(db)
    if not places:
        return {}
    several = {id for id, parts in _parts(db, places).items() if parts > 1}
    wanted = (
        select(
            Response.form_item_id,
            PlannedSession.window_id,
            Sitting.id,
            Sitting.session_id,
            Sitting.handed_in_at,
            Response.answer,
        )
        .select_from(Response)
        .join(Sitting, Sitting.id == Response.sitting_id)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(
            Response.form_item_id.in_(places),
            Response.answer != "",
            Sitting.state == "handed_in",
            may_score(actor, Response.form_item_id),
        )
    )
    if window_id is not None:
        wanted = wanted.where(PlannedSession.window_id == window_id)
    marks = given_marks(db, Mark.form_item_id.in_(places))
    rules, plans = condition_rules(db), plans_of(db, places)
    by_rule = _rules(db, several)
    decided, changed = rulings(db, places), changes(db, places)
    rubrics, dealt = rubrics_of(db, places), _dealt_to(db, actor)
    found: dict[tuple[int, int], _Tally] = defaultdict(_Tally)
    for place, window, sitting, session, at, answer in db.execute(wanted):
        if place in by_rule and not by_rule[place](answer):
            continue
        if (place, window) in decided or sitting in changed.get(place, {}):
            continue
        tally = found[place, window]
        given, plan = marks.get((place, sitting), ()), plans.get((place, window))
        settled = settle_marks(place, sitting, given, plan, rules)
        tally.responses += 1
        tally.sessions.add(session)
        tally.earlier += any(by_earlier(m, rubrics[place], plan) for m in given)
        if not settled.waits:
            check = bool(checked_by(given, dealt.get((place, window), frozenset())))
            tally.waiting += check
            tally.scored += not check
            continue
        name = "waiting" if settled.waits == "score" else settled.waits
        setattr(tally, name, getattr(tally, name) + 1)
        tally.attempts.add(sitting)
        if at is not None and (tally.since is None or at < tally.since):
            tally.since = at
    return dict(found)


def _dealt_to(db: Session, actor: Actor) -> dict[tuple[int, int], frozenset[int]]:
    """This person, by item and window that was given to them to score."""
    wanted = select(ScoringTask.form_item_id, ScoringTask.window_id).where(ScoringTask.scorer_id == actor.person_id)
    return {(place, window): frozenset((actor.person_id,)) for place, window in db.execute(wanted)}


def _parts(db: Session, places: Collection[int]) -> dict[int, int]:
    rows = db.execute(
        select(FormItem.id, ItemVersion.shown)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.id.in_(places))
    )
    return {id: len(shown.get("parts", [])) for id, shown in rows}


def _rules(db: Session, places: Collection[int]) -> dict[int, Callable[[str], bool]]:
    """Of items of several parts: whether an answer has anything that a person scores."""
    found: dict[int, Callable[[str], bool]] = {}
    for place, version in db.execute(
        select(FormItem.id, ItemVersion)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.id.in_(places))
    ):
        content = content_of(version)
        rule = item_rule(content.shown, content.scoring)
        if awaits(rule):
            found[place] = partial(_any_by_person, rule)
    return found


def _any_by_person(rule: Rule, answer: str) -> bool:
    return by_rule_of(rule, answer)[1]


def _lines(db: Session, ctx: Context, rows: dict[tuple[int, int], _Tally]) -> list[WaitingItem]:
    places, windows = {place for place, _ in rows}, {window for _, window in rows}
    about = {
        place.id: (place, version, code, form)
        for place, version, code, form in db.execute(
            select(FormItem, ItemVersion, Item.code, Form)
            .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
            .join(Item, Item.id == ItemVersion.item_id)
            .join(Form, Form.id == FormItem.form_id)
            .where(FormItem.id.in_(places))
        )
    }
    named = {w.id: dated(w.name, w.start.year) for w in db.scalars(select(Window).where(Window.id.in_(windows)))}
    plans, scorers = plans_of(db, places), _scorers(db, rows, local_today(ctx, db))
    classes = _classes(db, {s for t in rows.values() for s in t.sessions})
    found = []
    for (place, window), tally in rows.items():
        form_item, version, code, form = about[place]
        plan = plans.get((place, window))
        body = bare_text(version.shown.get("body", "") or version.shown["parts"][0].get("prompt", ""))
        found.append(
            WaitingItem(
                place=place,
                number=form_item.position,
                item=code,
                text=body[:160],
                form_id=form.id,
                form=form.name,
                window_id=window,
                window=named[window],
                responses=tally.responses,
                scored=tally.scored,
                waiting=tally.waiting,
                second=tally.second,
                adjudication=tally.adjudication,
                earlier=tally.earlier,
                since=tally.since,
                totals=len(tally.attempts),
                sessions=len(tally.sessions),
                classes=sorted({classes[s][1] for s in tally.sessions}),
                to_give=sorted({classes[s] for s in tally.sessions}, key=lambda k: k[1]),
                scorers=scorers.get((place, window), []),
                share=plan.share if plan else 0.0,
                apart=plan.apart if plan else None,
            )
        )
    return found


def _classes(db: Session, sessions: Collection[int]) -> dict[int, tuple[int, str]]:
    rows = db.execute(
        select(PlannedSession.id, SchoolClass.id, SchoolClass.title)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .where(PlannedSession.id.in_(sessions))
    )
    return {session: (id, title) for session, id, title in rows}


def _scorers(
    db: Session, rows: dict[tuple[int, int], _Tally], today: date
) -> dict[tuple[int, int], list[ScorerProgress]]:
    """Whom each item was given to, and who has scored any of it."""
    places = {place for place, _ in rows}
    tasks: dict[tuple[int, int], dict[int, ScoringTask]] = defaultdict(dict)
    for task in db.scalars(select(ScoringTask).where(ScoringTask.form_item_id.in_(places))):
        tasks[task.form_item_id, task.window_id][task.scorer_id] = task
    done: dict[tuple[int, int], dict[int, int]] = defaultdict(dict)
    for place, window, scorer, n in db.execute(
        select(Mark.form_item_id, PlannedSession.window_id, Mark.marker_id, func.count())
        .join(Sitting, Sitting.id == Mark.sitting_id)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(Mark.form_item_id.in_(places))
        .group_by(Mark.form_item_id, PlannedSession.window_id, Mark.marker_id)
    ):
        done[place, window][scorer] = n
    people = {id for some in tasks.values() for id in some} | {id for some in done.values() for id in some}
    names = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_(people)))}
    found = {}
    for key, tally in rows.items():
        ids = sorted(tasks[key].keys() | done[key].keys(), key=lambda id: names[id])
        open_ = tally.waiting + tally.second > 0
        due = {id: task.due for id, task in tasks[key].items() if task.due is not None}
        found[key] = [
            ScorerProgress(
                id=id,
                name=names[id],
                scored=done[key].get(id, 0),
                due=due.get(id),
                late=open_ and id in due and due[id] < today,
                given=id in tasks[key],
                classes=list(tasks[key][id].classes or []) if id in tasks[key] else [],
            )
            for id in ids
        ]
    return found


def _finding(items: Sequence[WaitingItem], attempts: int) -> str:
    left = sum(i.waiting + i.second + i.adjudication for i in items)
    if not items:
        return "Nothing that a person scores has been submitted yet."
    if not left:
        return f"Every response is scored: {sum(i.responses for i in items):,} of {counted(len(items), 'item')}."
    open_ = [i for i in items if i.responses > i.scored]
    text = (
        f"{counted(left, 'response')} to {counted(len(open_), 'item')} {'waits' if left == 1 else 'wait'} for a score"
    )
    settle = sum(i.adjudication for i in items)
    if settle:
        text += f", {settle} of them for adjudication"
    return f"{text}. {counted(attempts, 'attempt')} {'has' if attempts == 1 else 'have'} no total until then."


@dataclass(frozen=True, kw_only=True)
class TaskWish:
    """classes: ids of those whose responses they are given; empty for all."""

    scorer: int
    due: date | None = None
    classes: tuple[int, ...] = ()


def plan_scoring(
    ctx: Context,
    actor: Actor,
    place: int,
    window_id: int,
    tasks: Sequence[TaskWish],
    share: float,
    apart: float | None,
) -> None:
    """Who scores an item in a window and until when, which share is scored twice, and how far two scores may be apart. All of
    it at once; scores that were given stay."""
    if not 0 <= share <= 1:
        raise Invalid("the share that is scored twice is from 0 to 100%", "share")
    if apart is not None and not 0 <= apart <= 100:
        raise Invalid("how far two scores may be apart is from 0 to 100 points", "apart")
    if len({t.scorer for t in tasks}) != len(tasks):
        raise Invalid("each scorer once", "tasks")
    if len(tasks) > MOST_SCORERS:
        raise Invalid(f"at most {MOST_SCORERS} scorers", "tasks")

    def work(db: Session) -> None:
        item, window = hand_item(db, place), window_named(db, window_id)
        sessions = db.scalars(
            select(PlannedSession).where(
                PlannedSession.window_id == window.id, of_form(item.form_id), scope(actor, Action.SCORES_PLAN)
            )
        ).all()
        if not sessions:
            raise NotFound("there is no session of this item in this window, or it is not yours to plan")
        staff = set(
            db.scalars(
                select(Person.id).where(
                    Person.id.in_([t.scorer for t in tasks]), Person.kind == "staff", Person.active.is_(True)
                )
            )
        )
        if staff != {t.scorer for t in tasks}:
            raise Invalid("scorers are staff of the district", "tasks")
        strange = {c for t in tasks for c in t.classes} - {s.class_id for s in sessions}
        if strange:
            raise Invalid("a scorer is given classes that took this item in this window", "tasks")
        there = {
            t.scorer_id: t
            for t in db.scalars(
                select(ScoringTask).where(ScoringTask.form_item_id == place, ScoringTask.window_id == window_id)
            )
        }
        plan = db.get(ScoringPlan, (place, window_id))
        before = {
            "scorers": sorted(there),
            "share": plan.share if plan else 0.0,
            "apart": plan.apart if plan else None,
        }
        for task in tasks:
            row = there.pop(task.scorer, None)
            if row is None:
                db.add(
                    ScoringTask(
                        form_item_id=place,
                        window_id=window_id,
                        scorer_id=task.scorer,
                        due=task.due,
                        classes=sorted(task.classes) or None,
                        made_at=ctx.clock(),
                        made_by_id=actor.person_id,
                    )
                )
            else:
                row.due, row.classes = task.due, sorted(task.classes) or None
        for row in there.values():
            db.delete(row)
        if plan is None:
            plan = ScoringPlan(form_item_id=place, window_id=window_id, seed=1 + place)
            db.add(plan)
        moved = (plan.share or 0.0, plan.apart) != (share, apart)
        plan.share, plan.apart = share, apart
        if moved:  # what waits, and so which totals there are, is another thing from now on
            for session in sessions:
                session.data_version += 1
        after = {"scorers": sorted(t.scorer for t in tasks), "share": share, "apart": apart}
        audit.record(db, ctx.clock(), actor.person_id, "scoring.plan", f"form_item:{place}", before, after)

    ctx.store.write(work)
