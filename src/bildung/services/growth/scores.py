"""Scores of a measure in and out, in the form of `./bildung growth`."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import dated
from bildung.formats.scores import Score, read_scores
from bildung.formats.table import to_file
from bildung.services.growth.measures import measure_named
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.staging import Planned, Planner, Preview, PreviewLine, decide, stage
from bildung.store.models import Measure, MeasureScore, Person, Window

COLUMNS = ("student", "subject", "grade", "window", "week", "score", "se")


def preview(ctx: Context, actor: Actor, measure_id: int, files: dict[str, bytes], job: Job | None = None) -> Preview:
    """What a file of scores would add and change."""
    scope(actor, Action.MEASURES_KEEP)
    return stage(ctx, actor, f"scores.{measure_id}", files, _planner(measure_id), job)


def apply(ctx: Context, actor: Actor, measure_id: int, id: str, yes: bool = False, job: Job | None = None) -> Preview:
    """Take in what was looked at: all of it, or nothing."""
    scope(actor, Action.MEASURES_KEEP)
    return decide(ctx, actor, f"scores.{measure_id}", id, _planner(measure_id), yes, job)


def scores_file(ctx: Context, actor: Actor, measure_id: int, kind: Literal["csv", "xlsx"]) -> bytes:
    """All scores, student by student; `./bildung growth` reads it and finds what the pages show."""
    scope(actor, Action.MEASURES_KEEP)
    with ctx.store.read() as db:
        measure = measure_named(db, measure_id)
        rows = db.execute(
            select(MeasureScore, Person.source_id, Window)
            .join(Person, Person.id == MeasureScore.person_id)
            .join(Window, Window.id == MeasureScore.window_id)
            .where(MeasureScore.measure_id == measure_id)
            .order_by(MeasureScore.person_id, Window.start)
        ).all()
    if not rows:
        raise NotFound("this measure has no scores yet")
    cells: list[list[str | float]] = [
        [
            student,
            measure.subject,
            s.grade,
            dated(w.name, w.start.year),
            repr(s.week),
            repr(s.score),
            "" if s.se is None else repr(s.se),
        ]
        for s, student, w in rows
    ]
    return to_file(kind, "Scores", COLUMNS, cells)


def _planner(measure_id: int) -> Planner:
    def planner(db: Session, files: dict[str, bytes], job: Job) -> Planned:
        measure = measure_named(db, measure_id)
        lines, rows = _plan(db, measure, files, job)

        def apply(db: Session) -> None:
            there = {
                (s.person_id, s.window_id): s
                for s in db.scalars(select(MeasureScore).where(MeasureScore.measure_id == measure_id))
            }
            for (person, window), score in rows.items():
                row = there.get((person, window))
                if row is None:
                    row = MeasureScore(measure_id=measure_id, person_id=person, window_id=window)
                    db.add(row)
                row.grade, row.week, row.score = score.grade, score.week, score.score
                row.se = None if math.isnan(score.se) else score.se
            db.get_one(Measure, measure_id).version += 1

        return Planned(lines, apply, lambda db: measure_named(db, measure_id).version)

    return planner


def _plan(
    db: Session, measure: Measure, files: Mapping[str, bytes], job: Job
) -> tuple[list[PreviewLine], dict[tuple[int, int], Score]]:
    """A line for each score; what cannot be taken is left out with its reason."""
    windows = _window_names(db)
    people = {
        source: (id, given, family)
        for source, id, given, family in db.execute(
            select(Person.source_id, Person.id, Person.given, Person.family).where(Person.student.is_(True))
        )
    }
    there = {
        (s.person_id, s.window_id): s
        for s in db.scalars(select(MeasureScore).where(MeasureScore.measure_id == measure.id))
    }
    lines: list[PreviewLine] = []
    rows: dict[tuple[int, int], Score] = {}
    for name, data in files.items():
        scores = read_scores(name, data)
        for at, score in enumerate(scores):
            if at % 1000 == 0:
                job.tell("looking at scores", at, len(scores))
            known = people.get(score.student)
            window = windows.get(score.window)
            id = f"{score.student}, {score.window}"
            label = f"{known[1]} {known[2]}".strip() if known else score.student
            why = _refusal(measure, score, known is not None, window, windows)
            if why or known is None or window is None:
                lines.append(_line("left_out", id, label, why))
                continue
            key = (known[0], window)
            if key in rows:
                raise Invalid(f"{score.student} has two scores in {score.window} in these files; bring one", "files")
            old = there.get(key)
            new = (score.grade, score.week, score.score, None if math.isnan(score.se) else score.se)
            if old is not None and (old.grade, old.week, old.score, old.se) == new:
                lines.append(_line("same", id, label))
                continue
            rows[key] = score
            if old is None:
                lines.append(_line("added", id, label, f"{score.window}: {score.score:g}"))
            else:
                lines.append(_line("changed", id, label, f"{score.window}: {old.score:g} becomes {score.score:g}"))
    return lines, rows


def _line(fate: Literal["added", "changed", "left_out", "same"], id: str, label: str, detail: str = "") -> PreviewLine:
    return PreviewLine(fate=fate, what="score", id=id, label=label, detail=detail)


def _refusal(measure: Measure, score: Score, known: bool, window: int | None, windows: Mapping[str, int]) -> str:
    if not known:
        return "no student has this number"
    if window is None:
        return f"there is no window {score.window}; there are {', '.join(n for n in windows if ' ' in n)}"
    if score.subject and score.subject != measure.subject:
        return f"this is a score in {score.subject}; {measure.name} is of {measure.subject}"
    if not measure.low <= score.score <= measure.high:
        return f"{score.score:g} is not on the scale from {measure.low:g} to {measure.high:g}"
    return ""


def _window_names(db: Session) -> dict[str, int]:
    """By name with the year, and by the bare name where one window has it."""
    found: dict[str, int] = {}
    bare: dict[str, list[int]] = {}
    for w in db.scalars(select(Window).order_by(Window.start)):
        found[dated(w.name, w.start.year)] = w.id
        bare.setdefault(w.name, []).append(w.id)
    return found | {name: ids[0] for name, ids in bare.items() if len(ids) == 1}
