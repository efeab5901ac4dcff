"""The whole test of one student, item by item: what they gave beside what is right, as every figure counts it."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.classical.effort import effort
from bildung.core.data.responses import AWAITING, FIRST, NOT_PRESENTED, NOT_REACHED, OMITTED
from bildung.core.items.shown import counted, percent
from bildung.core.school.privacy import alias_numbers
from bildung.formats.answers import in_words
from bildung.formats.content import Content, Shown
from bildung.services.answers.comments import fit_comment, put_comment
from bildung.services.items.bankitem import BankItem, StimulusView
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.services.sitting.feedback import right_answer
from bildung.store.models import (
    Form,
    FormItem,
    Person,
    PlannedSession,
    Response,
    ResponseComment,
    ResponseEvent,
    SchoolClass,
    Sitting,
    StudentWork,
)

Gave = Literal["right", "partly", "wrong", "omitted", "not_reached", "not_presented", "awaiting"]
STATES: dict[int, Gave] = {
    OMITTED: "omitted",
    NOT_REACHED: "not_reached",
    NOT_PRESENTED: "not_presented",
    AWAITING: "awaiting",
}


@dataclass(frozen=True, kw_only=True)
class CommentView:
    """by: who said it. mine: whether that was this person. read_at: when the student had it before them."""

    by: str
    mine: bool
    text: str
    read_at: datetime | None


@dataclass(frozen=True, kw_only=True)
class StudentItem:
    """One item of the test. earned: None where it waits, or is in no points. answer: as staff read it; letter: of a choice.
    right: the right answer as HTML, empty where it is no line. shows: what somebody thinks who gives this answer. alike,
    of: students of the session who gave the same, of those who gave any. p, p_ci95: of the session. seconds, usual: that it
    took, and the median of the session. before: answers that were changed, oldest first. reason: written beside the answer."""

    place: Id
    number: int
    item: str
    standards: list[str]
    gave: Gave
    earned: float | None
    points: float
    answer: str
    letter: str
    right: str
    key: str
    shows: str
    alike: int
    of: int
    p: float | None
    p_ci95: list[float] | None
    seconds: float | None
    usual: float | None
    before: list[str]
    reason: str
    sketch: str
    notes: str
    shown: Shown
    stimulus: StimulusView | None
    raw: str
    comments: list[CommentView]


@dataclass(frozen=True, kw_only=True)
class ClassmateLine:
    """Somebody who had the same session. total: points so far; None where nothing was submitted. waits: a response waits."""

    sitting: Id
    person: Id
    name: str
    alias: int
    state: str
    total: float | None
    waits: bool


@dataclass(frozen=True, kw_only=True)
class StudentTest:
    """finding: points so far, and what waits. earned, possible: as every list counts them; None where nothing was
    submitted. previous, next: in the list of the class. corrects: whether this person may change a score here."""

    finding: str
    sitting: Id
    person: Id
    name: str
    alias: int
    session: Id
    klass: str
    class_id: Id
    form: str
    state: str
    note: str
    submitted_at: datetime | None
    minutes: int | None
    earned: float | None
    possible: float | None
    items: list[StudentItem]
    classmates: list[ClassmateLine]
    previous: Id | None
    next: Id | None
    window_id: Id
    corrects: bool


def student_test(ctx: Context, actor: Actor, sitting_id: int) -> StudentTest:
    """For whoever may see who answered what there."""
    with ctx.store.read() as db:
        sitting, session = _found(db, actor, sitting_id)
        person, klass = db.get_one(Person, sitting.person_id), db.get_one(SchoolClass, session.class_id)
        form_id = sitting.form_id or session.form_id
        given = {
            r.form_item_id: r.answer for r in db.scalars(select(Response).where(Response.sitting_id == sitting_id))
        }
        before = _before(db, sitting_id)
        work = {
            (w.form_item_id, w.kind): w.content
            for w in db.scalars(select(StudentWork).where(StudentWork.sitting_id == sitting_id))
        }
        comments = _comments(db, actor, sitting_id)
        began = sitting.started_at
        form_name = session.form.name if form_id == session.form_id else _form_name(db, form_id)
    judged = judge(ctx, actor, ScopeRequest(forms=(form_id,), sessions=(session.id,)))
    rows = np.flatnonzero(judged.together.sitting[judged.counted] == sitting_id)
    at = int(rows[0]) if rows.size else None
    usual = _usual(judged)
    items = [_item(judged, n, at, given, before, work, comments, usual[n]) for n in range(len(judged.rows))]
    mates = _classmates(ctx, judged, session.id)
    place = next((n for n, mate in enumerate(mates) if mate.sitting == sitting_id), 0)
    earned = None if at is None else float(judged.analysis.scores.earned[at])
    possible = None if at is None else float(judged.analysis.scores.possible[at])
    minutes = None
    if began is not None and sitting.handed_in_at is not None:
        minutes = max(1, round((sitting.handed_in_at - began).total_seconds() / 60))
    return StudentTest(
        finding=_finding(sitting.state, earned, possible, items) + _dropped(judged),
        sitting=sitting_id,
        person=person.id,
        name=person.name,
        alias=mates[place].alias if mates else 0,
        session=session.id,
        klass=klass.title,
        class_id=klass.id,
        form=form_name,
        state=sitting.state,
        note=sitting.note,
        submitted_at=sitting.handed_in_at,
        minutes=minutes,
        earned=earned,
        possible=possible,
        items=items,
        classmates=mates,
        previous=mates[place - 1].sitting if mates and place > 0 else None,
        next=mates[place + 1].sitting if place + 1 < len(mates) else None,
        window_id=session.window_id,
        corrects=actor.may(Action.SCORES_PLAN) and sitting.state == "handed_in",
    )


def _dropped(judged: Judged) -> str:
    """What of the form is in no total any more."""
    numbers = [str(row.number) for row in judged.together.dropped]
    if not numbers:
        return ""
    return f" {'Item' if len(numbers) == 1 else 'Items'} {', '.join(numbers)} dropped."


def say(ctx: Context, actor: Actor, sitting_id: int, place: int, text: str) -> list[CommentView]:
    """Say something to the student about one response, or take back what was said by leaving it empty."""
    text = fit_comment(text)

    def work(db: Session) -> list[CommentView]:
        sitting, session = _found(db, actor, sitting_id)
        form_id = sitting.form_id or session.form_id
        if db.scalar(select(FormItem.id).where(FormItem.id == place, FormItem.form_id == form_id)) is None:
            raise NotFound("this item is not on the student's test")
        if put_comment(db, ctx.clock(), actor.person_id, sitting_id, place, text):
            after = {"item": place}
            audit.record(db, ctx.clock(), actor.person_id, "comment.say", f"sitting:{sitting_id}", None, after)
        db.flush()
        return _comments(db, actor, sitting_id).get(place, [])

    return ctx.store.write(work)


def _found(db: Session, actor: Actor, sitting_id: int) -> tuple[Sitting, PlannedSession]:
    row = db.execute(
        select(Sitting, PlannedSession)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(Sitting.id == sitting_id, scope(actor, Action.ANSWERS_READ))
    ).first()
    if row is None:
        raise NotFound("there is no such attempt, or it is not yours to see")
    return row[0], row[1]


def _form_name(db: Session, form_id: int) -> str:
    return db.get_one(Form, form_id).name


def _before(db: Session, sitting_id: int) -> dict[int, list[str]]:
    """By form item the answers in their order, each once where it changed."""
    found: dict[int, list[str]] = {}
    for event in db.scalars(
        select(ResponseEvent)
        .where(ResponseEvent.sitting_id == sitting_id)
        .order_by(ResponseEvent.takeover, ResponseEvent.sequence)
    ):
        answers = found.setdefault(event.form_item_id, [])
        if event.answer and (not answers or answers[-1] != event.answer):
            answers.append(event.answer)
    return found


def _comments(db: Session, actor: Actor, sitting_id: int) -> dict[int, list[CommentView]]:
    found: dict[int, list[CommentView]] = {}
    for comment, person in db.execute(
        select(ResponseComment, Person)
        .join(Person, Person.id == ResponseComment.author_id)
        .where(ResponseComment.sitting_id == sitting_id)
        .order_by(ResponseComment.id)
    ):
        found.setdefault(comment.form_item_id, []).append(
            CommentView(
                by=person.name,
                mine=person.id == actor.person_id,
                text=comment.text,
                read_at=comment.read_at,
            )
        )
    return found


def _item(
    judged: Judged,
    n: int,
    at: int | None,
    given: dict[int, str],
    before: dict[int, list[str]],
    work: dict[tuple[int, str], str],
    comments: dict[int, list[CommentView]],
    usual: float | None,
) -> StudentItem:
    row, found, answers = judged.rows[n], judged.analysis.items[n], judged.analysis.table.answers[n]
    raw = given.get(row.place, "")
    words, reason = in_words(row.item.shown, raw)
    code = None if at is None else int(answers.codes[at])
    earned = float(answers.points[code - FIRST]) if code is not None and code >= FIRST else None
    if code in (OMITTED, NOT_REACHED):
        earned = 0.0
    alike = 0 if code is None or code < FIRST else int((answers.codes == code).sum())
    seconds = judged.together.seconds
    taken = None
    if seconds is not None and at is not None and np.isfinite(seconds[judged.counted[at], n]):
        taken = float(seconds[judged.counted[at], n])
    changed = [in_words(row.item.shown, text)[0] for text in before.get(row.place, [])]
    letters = row.item.kind in ("choice", "reason")
    return StudentItem(
        place=row.place,
        number=row.number,
        item=row.item.code,
        standards=row.item.standards,
        gave=_gave(code, earned, found.item.points),
        earned=earned,
        points=found.item.points,
        answer=words,
        letter=words if letters and len(words) == 1 else "",
        right=right_answer(_content(row.item)),
        key=row.item.key,
        shows=_shows(row.item, raw),
        alike=alike,
        of=int((answers.codes >= FIRST).sum()),
        p=found.figures.p,
        p_ci95=list(found.figures.p_ci95) if found.figures.p_ci95 else None,
        seconds=taken,
        usual=usual,
        before=[text for text in changed if text][:-1],
        reason=reason,
        sketch=work.get((row.place, "sketch"), ""),
        notes=work.get((row.place, "notes"), ""),
        shown=row.item.shown,
        stimulus=row.item.stimulus,
        raw=raw,
        comments=comments.get(row.place, []),
    )


def _content(item: BankItem) -> Content:
    return Content(shown=item.shown, scoring=item.scoring, behind=item.behind)


def _gave(code: int | None, earned: float | None, points: float) -> Gave:
    if code is None:
        return "not_presented"
    if code < FIRST:
        return STATES[code]
    assert earned is not None
    return "right" if earned >= points - 1e-9 else "partly" if earned > 0 else "wrong"


def _shows(item: BankItem, raw: str) -> str:
    """The author's note on what this answer shows, of any part."""
    if not raw:
        return ""
    parts = {item.shown.parts[0].id: raw}
    if len(item.shown.parts) > 1:
        try:
            found = json.loads(raw)
        except ValueError:
            found = None
        parts = found if isinstance(found, dict) else {}
    notes = [m.note for m in item.behind.misconceptions if parts.get(m.part) == m.answer]
    return "; ".join(notes)


def _usual(judged: Judged) -> list[float | None]:
    """Median seconds of each item in the session."""
    if judged.together.seconds is None or not judged.analysis.table.n:
        return [None] * len(judged.rows)
    return [item.median for item in effort(judged.analysis, judged.together.seconds[judged.counted]).items]


def _classmates(ctx: Context, judged: Judged, session_id: int) -> list[ClassmateLine]:
    """Everybody of the session, by name."""
    with ctx.store.read() as db:
        rows = db.execute(
            select(Sitting, Person)
            .join(Person, Person.id == Sitting.person_id)
            .where(Sitting.session_id == session_id)
            .order_by(Person.family, Person.given, Person.id)
        ).all()
        found = [(s.id, p.id, p.name, s.state) for s, p in rows]
    scores, row_of = (
        judged.analysis.scores,
        {int(sitting): n for n, sitting in enumerate(judged.together.sitting[judged.counted].tolist())},
    )
    aliases = alias_numbers([person for _, person, _, _ in found])
    return [
        ClassmateLine(
            sitting=sitting,
            person=person,
            name=name,
            alias=alias,
            state=state,
            total=float(scores.earned[row_of[sitting]]) if sitting in row_of else None,
            waits=sitting in row_of and not bool(scores.complete[row_of[sitting]]),
        )
        for (sitting, person, name, state), alias in zip(found, aliases, strict=True)
    ]


WORDS = {
    "not_started": "This test has not been started.",
    "answering": "This test is being taken.",
    "resting": "This test is to be continued on another day.",
    "on_paper": "This test is taken on paper; the answers are not entered yet.",
    "absent": "Absent.",
    "exempt": "Exempt from this test.",
    "void": "This attempt was invalidated; it is in no total.",
}


def _finding(state: str, earned: float | None, possible: float | None, items: list[StudentItem]) -> str:
    """Without the name, which the page shows or hides."""
    if earned is None or possible is None:
        return WORDS.get(state, "Nothing was submitted.")
    waiting = [i for i in items if i.gave == "awaiting"]
    points = sum(i.points for i in waiting)
    scored = possible - points
    share = f" ({percent(earned / scored)})" if scored > 0 else ""
    if waiting:
        verb = "waits" if len(waiting) == 1 else "wait"
        text = f"{earned:g} of the {scored:g} points scored so far{share}. "
        text += f"{counted(len(waiting), 'response')}, {points:g} points, {verb} for a score."
    else:
        text = f"{earned:g} of {possible:g} points{share}."
    left = sum(i.gave in ("omitted", "not_reached") for i in items)
    return text + (f" {counted(left, 'item')} {'has' if left == 1 else 'have'} no answer." if left else "")
