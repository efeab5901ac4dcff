"""Scores of a measure in and out: files whose columns are matched, names that are settled once, typed scores."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from bildung.core.grades import grade_before
from bildung.formats.problem import ImportProblem
from bildung.formats.scorefile import (
    FIELDS,
    ScoreRow,
    as_named,
    guess_score_columns,
    read_score_rows,
    score_of,
)
from bildung.formats.sheet import Sheet
from bildung.formats.spreadsheet import read_spreadsheet
from bildung.formats.table import to_file
from bildung.services.calendar.years import local_today
from bildung.services.forms.levels import cut_table_of, newest_cuts
from bildung.services.growth.measures import measure_named
from bildung.services.growth.names import Doubt, Student, Students, doubts
from bildung.services.growth.occasions import Calendar, When, middle, occasion_name, put_occasions
from bildung.services.growth.own import own_scores
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.settings import setting
from bildung.services.shared.staging import Planned, Planner, Preview, PreviewLine, decide, stage, staged_files
from bildung.services.shared.wire import Word, listed
from bildung.store.models import Measure, MeasureScore, Occasion, Person

COLUMNS = ("student", "subject", "grade", "window", "week", "score", "se", "date", "marks")
AT_ONCE = 5000  # scores written between two looks at whether it was stopped
MANY_OTHER = 0.1  # of the scores with another grade than the roster, from which it is asked
MATCHING = "matching.json"
SAMPLE_ROWS = 4
Fate = Literal["added", "changed", "left_out", "same"]


@dataclass(frozen=True)
class ScoreColumn:
    """A column of a sheet, what it probably is, and its first values."""

    name: str
    field: str
    sample: list[str]


@dataclass(frozen=True)
class ScoreColumns:
    """known: every column is named as it should be, so that nothing need be matched. fields: what a column can be matched with."""

    rows: int
    known: bool
    columns: list[ScoreColumn]
    fields: Annotated[list[tuple[str, str]], listed(Word)]


def columns(ctx: Context, actor: Actor, name: str, data: bytes) -> ScoreColumns:
    """What is on a sheet, for matching its columns; changes nothing."""
    scope(actor, Action.MEASURES_KEEP)
    sheet = read_spreadsheet(name, data)
    found = guess_score_columns(sheet.columns)
    return ScoreColumns(
        len(sheet.rows),
        as_named(sheet),
        [ScoreColumn(c, found[c], [r.get(c) for r in sheet.rows[:SAMPLE_ROWS]]) for c in sheet.columns],
        [(key, words) for key, (words, _) in FIELDS.items()],
    )


def preview(
    ctx: Context,
    actor: Actor,
    measure_id: int,
    files: dict[str, bytes],
    matched: Mapping[str, str] | None = None,
    job: Job | None = None,
) -> Preview:
    """What a file of scores would add and change. matched: column to field; None where columns are named as they should be."""
    scope(actor, Action.MEASURES_KEEP)
    if matched is not None:
        if len(files) != 1:
            raise Invalid("one sheet at a time", "files")
        files = {**files, MATCHING: json.dumps(dict(matched)).encode()}
    return stage(ctx, actor, f"scores.{measure_id}", files, _planner(ctx, measure_id), job)


def apply(ctx: Context, actor: Actor, measure_id: int, id: str, yes: bool = False, job: Job | None = None) -> Preview:
    """Take in what was looked at: all of it, or nothing."""
    scope(actor, Action.MEASURES_KEEP)
    return decide(ctx, actor, f"scores.{measure_id}", id, _planner(ctx, measure_id), yes, job)


def doubts_of(ctx: Context, actor: Actor, measure_id: int, id: str) -> list[Doubt]:
    """Names of a file that was looked at which are not certain."""
    scope(actor, Action.MEASURES_KEEP)
    files = staged_files(ctx, actor, f"scores.{measure_id}", id)
    with ctx.store.read() as db:
        day_first = _day_first(db)
        students = Students(db)
    return doubts(students, [row for _, some in _read(files, day_first) for row in some])


@dataclass(frozen=True, kw_only=True)
class TypedScore:
    """A score as somebody types it. window: name of an occasion, or a date."""

    person: int
    window: str
    said: str
    se: float | None = None


def type_score(ctx: Context, actor: Actor, measure_id: int, typed: TypedScore) -> None:
    """One score, by hand; where there is one it is changed."""
    scope(actor, Action.MEASURES_KEEP)

    def work(db: Session) -> None:
        measure = _stored(db, measure_id)
        calendar = Calendar(db)
        when = calendar.when(typed.window.strip(), None) if typed.window.strip() else None
        if when is None:
            raise Invalid(_no_window(typed.window, calendar), "window")
        score = score_of(typed.said.strip(), measure.levels)
        why = _off_scale(measure, typed.said, score)
        if why or score is None:
            raise Invalid(why, "score")
        if typed.se is not None and not (math.isfinite(typed.se) and typed.se >= 0):
            raise Invalid("a standard error is a number from 0 on", "se")
        person = db.get(Person, typed.person)
        if person is None or person.kind != "student":
            raise NotFound("there is no such student")
        week = calendar.week(middle(when))
        if week is None:
            raise Invalid("no school year of the calendar holds this day", "window")
        grade = _grade_then(person.grade, calendar.years_ago(when.first, local_today(ctx, db)))
        if not grade:
            raise Invalid("the student's grade at that time is not known; import the score with its grade", "person")
        occasion = put_occasions(db, measure.id, [when])[when]
        row = db.scalar(
            select(MeasureScore).where(MeasureScore.occasion_id == occasion, MeasureScore.person_id == person.id)
        )
        before = None if row is None else row.score
        if row is None:
            row = MeasureScore(measure_id=measure.id, person_id=person.id, occasion_id=occasion, grade=grade, week=week)
            db.add(row)
        row.score, row.se = score, typed.se
        measure.version += 1
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "score.type",
            f"measure:{measure.id}",
            before,
            {"person": person.id, "window": when.name, "score": score},
        )

    ctx.store.write(work)


@dataclass(frozen=True)
class TypedLevel:
    """What cut scores say while somebody types. says: in a sentence, empty where none hold. problem: why it is no score."""

    says: str
    problem: str


def level_while_typing(ctx: Context, actor: Actor, measure_id: int, typed: TypedScore) -> TypedLevel:
    """Which cut scores hold for this student then, and the level of the score as it stands."""
    scope(actor, Action.MEASURES_KEEP)
    with ctx.store.read() as db:
        measure = _stored(db, measure_id)
        person, row = db.get(Person, typed.person), newest_cuts(db, measure.id)
        calendar = Calendar(db)
        when = calendar.when(typed.window.strip(), None) if typed.window.strip() else None
        score = score_of(typed.said.strip(), measure.levels)
        problem = _off_scale(measure, typed.said, score) if typed.said.strip() else ""
        if person is None or when is None or row is None:
            return TypedLevel("", problem)
        grade = _grade_then(person.grade, calendar.years_ago(when.first, local_today(ctx, db)))
        windows = {w.id: w.name for w in calendar.windows}
        season = windows.get(when.window_id or 0, when.name.rsplit(" ", 1)[0])
        levels = cut_table_of(row).levels(grade, season)
    if levels is None:
        return TypedLevel(f"No cut scores hold for grade {grade} in {season}.", problem)
    text = f"Grade {grade}, {season}: " + ", ".join(
        f"{name} from {cut:g}" for name, cut in zip(levels.names[1:], levels.cuts, strict=True)
    )
    if score is not None and not problem:
        better = sum((score <= cut) if measure.falling else (score >= cut) for cut in levels.cuts)
        text += f". {typed.said.strip()} is {levels.names[better]}"
    return TypedLevel(f"{text}.", problem)


def scores_file(ctx: Context, actor: Actor, measure_id: int, kind: Literal["csv", "xlsx"]) -> bytes:
    """All scores, student by student; `./bildung growth` reads it and finds what the pages show."""
    scope(actor, Action.MEASURES_KEEP)
    with ctx.store.read() as db:
        measure = measure_named(db, measure_id)
        cells = _own_cells(ctx, db, measure) if measure.own else _cells(db, measure)
    if not cells:
        raise NotFound("this measure has no scores yet")
    return to_file(kind, "Scores", COLUMNS, cells)


def _cells(db: Session, measure: Measure) -> list[list[str | float]]:
    rows = db.execute(
        select(MeasureScore, Person.source_id, Occasion)
        .join(Person, Person.id == MeasureScore.person_id)
        .join(Occasion, Occasion.id == MeasureScore.occasion_id)
        .where(MeasureScore.measure_id == measure.id)
    ).all()
    return [
        [
            student,
            measure.subject,
            s.grade,
            occasion_name(o),
            repr(s.week),
            repr(s.score),
            "" if s.se is None else repr(s.se),
            str(s.taken_on or ""),
            s.marks,
        ]
        for s, student, o in sorted(rows, key=lambda row: (row[0].person_id, row[2].start))
    ]


def _own_cells(ctx: Context, db: Session, measure: Measure) -> list[list[str | float]]:
    """Scores on forms that are not on one scale are no scores of one subject: the scale is part of it."""
    numbers = dict(db.execute(select(Person.id, Person.source_id).where(Person.student.is_(True))).all())
    found: list[tuple[int, date, list[str | float]]] = []
    for occasion in db.scalars(select(Occasion).where(Occasion.measure_id == measure.id)):
        for person, s in own_scores(ctx, db, measure, occasion).items():
            cells: list[str | float] = [numbers[person], s.scale, s.grade, occasion_name(occasion), repr(s.week)]
            cells += [repr(s.score), "" if math.isnan(s.se) else repr(s.se), "", ", ".join(s.marks)]
            found.append((person, occasion.start, cells))
    return [cells for _, _, cells in sorted(found, key=lambda one: one[:2])]


def _stored(db: Session, measure_id: int) -> Measure:
    measure = measure_named(db, measure_id)
    if measure.own:
        raise Conflict("these scores come from benchmarks that are given here; correct them there")
    return measure


def _planner(ctx: Context, measure_id: int) -> Planner:
    def planner(db: Session, files: dict[str, bytes], job: Job) -> Planned:
        measure = _stored(db, measure_id)
        lines, rows, other = _plan(ctx, db, measure, files, job)
        ask = ""
        if other > MANY_OTHER * max(1, len(rows)):
            ask = (
                f"{other} of {len(rows)} scores have another grade than the roster has for that time. It may be the file of another "
                "year; the grade of the file decides by which norms a score is judged."
            )

        def apply(db: Session) -> None:
            measure = db.get_one(Measure, measure_id)
            there = {
                (s.person_id, s.occasion_id): s
                for s in db.scalars(select(MeasureScore).where(MeasureScore.measure_id == measure_id))
            }
            occasions = put_occasions(db, measure_id, [when for _, when in rows])
            fresh = []
            for (person, when), new in rows.items():
                row = there.get((person, occasions[when]))
                if row is None:
                    place = {"measure_id": measure_id, "person_id": person, "occasion_id": occasions[when]}
                    fresh.append(place | dict(zip(STORED, new, strict=True)))
                else:
                    row.grade, row.week, row.score, row.se, row.taken_on, row.marks = new
            for at in range(0, len(fresh), AT_ONCE):
                job.tell("writing scores", at, len(fresh))
                db.execute(insert(MeasureScore), fresh[at : at + AT_ONCE])
            measure.version += 1

        return Planned(lines, apply, lambda db: measure_named(db, measure_id).version, ask)

    return planner


STORED = ("grade", "week", "score", "se", "taken_on", "marks")
Stored = tuple[str, float, float, float | None, date | None, str]


class _There:
    """Scores that are stored, by student and occasion."""

    def __init__(self, db: Session, measure: Measure) -> None:
        self._rows: dict[tuple[int, tuple[int | None, str, date | None]], Stored] = {}
        for s, o in db.execute(
            select(MeasureScore, Occasion)
            .join(Occasion, Occasion.id == MeasureScore.occasion_id)
            .where(MeasureScore.measure_id == measure.id)
        ):
            place = (o.window_id, "", None) if o.window_id is not None else (None, o.name, o.first)
            self._rows[s.person_id, place] = (s.grade, s.week, s.score, s.se, s.taken_on, s.marks)

    def get(self, person: int, when: When) -> Stored | None:
        place = (when.window_id, "", None) if when.window_id is not None else (None, when.name, when.first)
        return self._rows.get((person, place))


def _plan(
    ctx: Context, db: Session, measure: Measure, files: Mapping[str, bytes], job: Job
) -> tuple[list[PreviewLine], dict[tuple[int, When], Stored], int]:
    """A line for each score; what cannot be taken is left out with its reason. How many have another grade than the roster."""
    calendar, students, there = Calendar(db), Students(db), _There(db, measure)
    today = local_today(ctx, db)
    names = {s.id: s.name for s in students.all}
    lines: list[PreviewLine] = []
    rows: dict[tuple[int, When], Stored] = {}
    at_line: dict[tuple[int, When], tuple[str, int]] = {}
    other = 0
    for file, some in _read(files, _day_first(db)):
        for at, row in enumerate(some):
            if at % 1000 == 0:
                job.tell("looking at scores", at, len(some))
            meant = students.meant(row)
            when = calendar.when(row.window, row.date)
            id = f"{row.student or row.name}, {row.window or row.date}"
            label = meant.person.name if meant.person else row.name or row.student
            why = meant.why or _refusal(measure, row, when, calendar)
            stored = None
            if not why and meant.person is not None and when is not None:
                stored, why = _stored_row(measure, row, when, meant.person, calendar, today)
            if why or stored is None or meant.person is None or when is None:
                lines.append(PreviewLine(fate="left_out", what="score", id=id, label=label, detail=why))
                continue
            key = (meant.person.id, when)
            if key in at_line:
                first_file, first_line = at_line[key]
                raise ImportProblem(
                    file=file,
                    found=f"{names[key[0]]} again in {when.name} (first in {first_file}, line {first_line})",
                    allowed="one score a student and window; leave the attempt that counts",
                    line=row.line,
                )
            at_line[key] = (file, row.line)
            rows[key] = stored
            fate, detail = _fate(measure, when, there.get(*key), stored)
            if fate == "same":
                del rows[key]
            then = _grade_then(meant.person.grade, calendar.years_ago(row.date or middle(when), today))
            if fate != "same" and then and stored[0] != then:
                other += 1
                detail += f"; grade {stored[0]} in the file, {then} in the roster"
            lines.append(PreviewLine(fate=fate, what="score", id=id, label=label, detail=detail))
    return lines, rows, other


def _fate(measure: Measure, when: When, old: Stored | None, new: Stored) -> tuple[Fate, str]:
    if old == new:
        return "same", ""
    said = _shown(measure, new[2])
    if old is None:
        return "added", f"{when.name}: {said}"
    return "changed", f"{when.name}: {_shown(measure, old[2])} becomes {said}"


def _shown(measure: Measure, score: float) -> str:
    return str(measure.levels[round(score) - 1]) if measure.levels else f"{score:g}"


def _stored_row(
    measure: Measure, row: ScoreRow, when: When, student: Student, calendar: Calendar, today: date
) -> tuple[Stored | None, str]:
    """What would be stored, or why nothing can."""
    day = row.date or middle(when)
    week = row.week if row.week is not None else calendar.week(day)
    if week is None:
        return None, f"no school year holds {day}; give the week of instruction"
    then = _grade_then(student.grade, calendar.years_ago(day, today))
    grade = row.grade or then
    if not grade:
        return None, "the grade at that time is not known; give it"
    score = score_of(row.said, measure.levels)
    assert score is not None
    return (grade, week, score, row.se, row.date, row.marks), ""


def _refusal(measure: Measure, row: ScoreRow, when: When | None, calendar: Calendar) -> str:
    if when is None:
        return _no_window(row.window, calendar)
    if row.subject and row.subject != measure.subject:
        return f"this is a score in {row.subject}; {measure.name} is of {measure.subject}"
    return _off_scale(measure, row.said, score_of(row.said, measure.levels))


def _off_scale(measure: Measure, said: str, score: float | None) -> str:
    if score is None:
        allowed = f"one of {', '.join(measure.levels)}" if measure.levels else "a plain number"
        return f"{said!r} is no score; allowed is {allowed}"
    if not measure.low <= score <= measure.high:
        return f"{score:g} is not on the scale from {measure.low:g} to {measure.high:g}"
    return ""


def _no_window(said: str, calendar: Calendar) -> str:
    return f"there is no window {said}; there are {', '.join(calendar.names)}, months such as October 2026 and dates"


def _grade_then(grade: str, years: int) -> str:
    """The grade so many school years ago, as far as grades go by one a year."""
    for _ in range(years):
        grade = grade_before(grade)
    return grade


def _read(files: Mapping[str, bytes], day_first: bool) -> list[tuple[str, list[ScoreRow]]]:
    matched = json.loads(files[MATCHING]) if MATCHING in files else None
    found = []
    for name, data in files.items():
        if name == MATCHING:
            continue
        sheet = read_spreadsheet(name, data)
        found.append((name, read_score_rows(sheet, matched or _as_named(sheet), day_first)))
    return found


def _as_named(sheet: Sheet) -> dict[str, str]:
    """Columns by their names in docs/commands.md; where these are not there, by what they probably are."""
    if as_named(sheet):
        return {c: c if c in FIELDS else "" for c in sheet.columns}
    return guess_score_columns(sheet.columns)


def _day_first(db: Session) -> bool:
    return bool(setting(db, "formats") == "en-GB")
