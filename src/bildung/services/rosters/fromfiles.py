"""Bringing people in: a OneRoster file, changes to one, or a sheet whose columns are matched by hand."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Annotated, Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.formats.oneroster import read_roster
from bildung.formats.onesheet import ATTRIBUTE, FIELDS, Here, guess, read_onesheet
from bildung.formats.spreadsheet import read_spreadsheet
from bildung.services.calendar.years import local_today
from bildung.services.rosters.plan import known, plan_roster
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.jobs import Job
from bildung.services.shared.staging import Planned, Planner, Preview, decide, stage
from bildung.services.shared.wire import Word, listed
from bildung.store.models import Attribute, Person, School, SchoolClass

MATCHING = "matching.json"
SAMPLE_ROWS = 4


@dataclass(frozen=True)
class ColumnGuess:
    """A column of a sheet, what it probably is, and its first values."""

    name: str
    field: str
    sample: list[str]


@dataclass(frozen=True)
class Columns:
    """fields: what a column can be matched with, by key and in words."""

    rows: int
    columns: list[ColumnGuess]
    fields: Annotated[list[tuple[str, str]], listed(Word)]
    schools: list[str]


@dataclass(frozen=True)
class Matching:
    """matched: column to field. school: of rows that name none. whole: the sheet names every student."""

    matched: dict[str, str]
    school: str
    whole: bool


def columns(ctx: Context, actor: Actor, name: str, data: bytes) -> Columns:
    """What is on a sheet, for matching its columns; changes nothing."""
    scope(actor, Action.PEOPLE_IMPORT)
    sheet = read_spreadsheet(name, data)
    found = guess(sheet.columns)
    with ctx.store.read() as db:
        attributes = list(db.scalars(select(Attribute.name).order_by(Attribute.name)))
        schools = list(db.scalars(select(School.name).order_by(School.name)))
    by_name = {a.lower(): f"{ATTRIBUTE}{a}" for a in attributes}
    return Columns(
        len(sheet.rows),
        [
            ColumnGuess(c, found[c] or by_name.get(c.lower(), ""), [r.get(c) for r in sheet.rows[:SAMPLE_ROWS]])
            for c in sheet.columns
            if c
        ],
        [(key, words) for key, (words, _) in FIELDS.items()] + [(f"{ATTRIBUTE}{a}", a) for a in attributes],
        schools,
    )


def preview(
    ctx: Context, actor: Actor, files: dict[str, bytes], matching: Matching | None = None, job: Job | None = None
) -> Preview:
    """Look at what roster files would add, change and leave out."""
    scope(actor, Action.PEOPLE_IMPORT)
    if matching is not None:
        if len(files) != 1:
            raise Invalid("one sheet at a time", "files")
        files = {**files, MATCHING: json.dumps(vars(matching)).encode()}
    return stage(ctx, actor, "people", files, planner(ctx), job)


def apply(ctx: Context, actor: Actor, id: str, yes: bool = False, job: Job | None = None) -> Preview:
    """Take in what was looked at; refused where somebody changed the people since."""
    scope(actor, Action.PEOPLE_IMPORT)
    return decide(ctx, actor, "people", id, planner(ctx), yes, job)


def planner(ctx: Context) -> Planner:
    """What plans and writes a roster, for an import in two steps."""
    return lambda db, files, job: plan_files(ctx, db, files, job)


def plan_files(ctx: Context, db: Session, files: dict[str, bytes], job: Job, code: Any = None) -> Planned:
    """What the files would change; a matching among them makes the other one a sheet."""
    job.tell("reading", 0, 1)
    if MATCHING in files:
        wanted = Matching(**json.loads(files[MATCHING]))
        name, data = next((n, d) for n, d in files.items() if n != MATCHING)
        roster = read_onesheet(read_spreadsheet(name, data), wanted.matched, wanted.school, wanted.whole, here(db))
    else:
        roster = read_roster(files, known(db))
    return plan_roster(db, roster, local_today(ctx, db), job, code)


def here(db: Session) -> Here:
    """Schools, classes and staff by name, so that a sheet without ids finds them again."""
    schools = {s.id: s for s in db.scalars(select(School))}
    classes = {
        (schools[c.school_id].source_id, c.title.lower()): c.source_id
        for c in db.scalars(select(SchoolClass).where(SchoolClass.active.is_(True)))
    }
    staff = {
        (schools[p.school_id].source_id, p.name.lower()): p.source_id
        for p in db.scalars(select(Person).where(Person.kind == "staff", Person.active.is_(True)))
        if p.school_id in schools
    }
    return Here(known(db), {s.name.lower(): s.source_id for s in schools.values()}, classes, staff)
