"""Answers of a session on paper, as a sheet that is filled in somewhere else: out with whose row it is, in with a preview."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.items.shown import counted
from bildung.formats.answersheet import NAME, STUDENT, AnswerRow, read_answer_sheet
from bildung.formats.content import Shown
from bildung.formats.table import to_file
from bildung.formats.typed import from_typed, to_typed, way_of
from bildung.services.scoring.paperentry import paper_session, printed, put_answers
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.staging import Planner, Preview, PreviewLine, decide, in_one_go, stage
from bildung.store.models import Person, PlannedSession, Response, Sitting

KIND = "answers"


@dataclass(frozen=True)
class _Attempt:
    sitting: Sitting
    person: Person
    questions: list[tuple[int, Shown]]
    given: dict[int, str]


def answers_sheet(ctx: Context, actor: Actor, session_id: int, kind: Literal["csv", "xlsx"]) -> bytes:
    """A row for each attempt on paper, with what is in already; the way back is `preview`."""
    with ctx.store.read() as db:
        session = paper_session(db, actor, session_id)
        attempts = _attempts(db, session)
    if not attempts:
        raise Invalid("no one took this test on paper", "session")
    most = max(len(a.questions) for a in attempts)
    rows = [
        [a.person.source_id, a.person.name, *(to_typed(shown, a.given.get(place, "")) for place, shown in a.questions)]
        for a in attempts
    ]
    return to_file(kind, "Answers", [STUDENT, NAME, *(str(n) for n in range(1, most + 1))], rows)


def preview(ctx: Context, actor: Actor, session_id: int, files: dict[str, bytes]) -> Preview:
    """What a sheet would put in; nothing is changed."""
    return stage(ctx, actor, f"{KIND}.{session_id}", files, _planner(ctx, actor, session_id))


def apply(ctx: Context, actor: Actor, session_id: int, id: str) -> Preview:
    """Take in what was looked at: all of it, or nothing."""
    done = decide(ctx, actor, f"{KIND}.{session_id}", id, _planner(ctx, actor, session_id))
    ctx.bus.publish(f"session:{session_id}", {})
    return done


def _planner(ctx: Context, actor: Actor, session_id: int) -> Planner:
    return in_one_go(lambda db, files, do: _plan(ctx, db, actor, session_id, files, do))


def _plan(
    ctx: Context, db: Session, actor: Actor, session_id: int, files: dict[str, bytes], do: bool
) -> list[PreviewLine]:
    """A row goes in whole or is left out with its reason."""
    session = paper_session(db, actor, session_id)
    rows: dict[str, AnswerRow] = {}
    for name, data in files.items():
        for row in read_answer_sheet(name, data):
            if row.student in rows:
                raise Invalid(f"{row.student} is in two of the files; bring each student once", "files")
            rows[row.student] = row
    on_paper = {a.person.source_id: a for a in _attempts(db, session)}
    here = dict(
        db.execute(
            select(Person.source_id, Sitting.way)
            .join(Sitting, Sitting.person_id == Person.id)
            .where(Sitting.session_id == session.id)
        ).all()
    )
    lines = []
    for student, row in rows.items():
        attempt = on_paper.get(student)
        if attempt is None:
            why = (
                "took the test on a device; mark it as taken on paper on the session's page first"
                if student in here
                else "no student of this session has this number"
            )
            lines.append(_line("left_out", student, student, f"line {row.line}: {why}"))
            continue
        label = attempt.person.name
        try:
            answers = _read(attempt, row)
        except Refused as error:
            lines.append(_line("left_out", student, label, f"line {row.line}, {error}"))
            continue
        moved = {place for place, text in answers.items() if attempt.given.get(place, "") != text}
        if not moved and attempt.sitting.state == "handed_in":
            lines.append(_line("same", student, label))
            continue
        blank = sum(not text for text in answers.values())
        had = bool(attempt.given)
        detail = f"{counted(len(moved), 'answer')} {'differ from what is in' if had else 'new'}"
        lines.append(_line("changed" if had else "added", student, label, f"{detail}, {blank} without an answer"))
        if do:
            put_answers(db, ctx, actor, session, attempt.sitting, answers, submit=True)
    return lines


def _line(
    fate: Literal["added", "changed", "left_out", "same"], student: str, label: str, detail: str = ""
) -> PreviewLine:
    return PreviewLine(fate=fate, what="attempt", id=student, label=label, detail=detail)


def _read(attempt: _Attempt, row: AnswerRow) -> dict[int, str]:
    """Answers by question; Refused names the question that something is wrong with."""
    answers: dict[int, str] = {}
    beyond = [number for number, text in row.typed.items() if text and number > len(attempt.questions)]
    if beyond:
        raise Refused(f"question {beyond[0]}: the form has {len(attempt.questions)}")
    for number, (place, shown) in enumerate(attempt.questions, 1):
        if number not in row.typed or (way_of(shown) == "none" and not row.typed[number]):
            continue
        try:
            answers[place] = from_typed(shown, row.typed[number])
        except Refused as error:
            raise Refused(f"question {number}: {error}") from None
    return answers


def _attempts(db: Session, session: PlannedSession) -> list[_Attempt]:
    rows = db.execute(
        select(Sitting, Person)
        .join(Person, Person.id == Sitting.person_id)
        .where(Sitting.session_id == session.id, Sitting.way == "paper", Sitting.state.in_(("on_paper", "handed_in")))
        .order_by(Person.family, Person.given, Person.id)
    ).all()
    given: dict[int, dict[int, str]] = {sitting.id: {} for sitting, _ in rows}
    for r in db.scalars(select(Response).where(Response.sitting_id.in_(given), Response.answer != "")):
        given[r.sitting_id][r.form_item_id] = r.answer
    return [_Attempt(s, p, printed(db, session, s), given[s.id]) for s, p in rows]
