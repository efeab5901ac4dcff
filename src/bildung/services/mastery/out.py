"""Mastery as files: the grid as CSV, XLSX and PDF, a page a student, the evidence itself."""

from __future__ import annotations

from dataclasses import fields

import numpy as np

from bildung.core.school.privacy import alias_numbers
from bildung.formats.table import to_file
from bildung.reports.mastery import GridSheet, PrintedStandard, StudentSheet, mastery_document, students_document
from bildung.services.calendar.years import local_today
from bildung.services.mastery.evidence import as_day, how_taken
from bildung.services.mastery.grid import AGAIN, FALLING, RISING, GridAsked, GridPage, grid_page, sight_of
from bildung.services.mastery.judging import WHY
from bildung.services.mastery.scope import class_named, students_of
from bildung.services.mastery.student import student_mastery
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.services.shared.settings import dates_of

HEADS = ("student", "standard", "state", "share of the run", "points of the run", "direction", "check again")


def grid_file(ctx: Context, actor: Actor, asked: GridAsked, kind: str, names: bool) -> bytes:
    """The grid as CSV or XLSX: a row for each student and standard; or as PDF, as it is on screen."""
    page = grid_page(ctx, actor, asked)
    if not page.rows or not page.columns:
        raise Conflict("there is no evidence to put into a file")
    if kind == "pdf":
        return _pdf(ctx, page, names)
    cells: list[list[str | float]] = [
        [
            row.name if names else f"Student {row.alias + 1}",
            column.code,
            page.states[state],
            "" if share is None else share,
            amount,
            "rising" if sign & RISING else "falling" if sign & FALLING else "",
            "yes" if sign & AGAIN else "",
        ]
        for row in page.rows
        for column, state, share, amount, sign in zip(
            page.columns, row.states, row.shares, row.amounts, row.signs, strict=True
        )
        if state
    ]
    return to_file("xlsx" if kind == "xlsx" else "csv", "Mastery", HEADS, cells)


def _pdf(ctx: Context, page: GridPage, names: bool) -> bytes:
    with ctx.store.read() as db:
        dates, today = dates_of(db), local_today(ctx, db)
    between = ""
    if page.first or page.last:
        ends = [dates.long(day) if day else "" for day in (page.first, page.last)]
        between = f"evidence from {ends[0] or 'the beginning'} to {ends[1] or 'today'}"
    return mastery_document(
        GridSheet(
            title=page.title,
            subject=page.subject,
            finding=page.finding,
            asks=page.asks,
            day=dates.long(today),
            between=between,
            hidden=not names,
            states=page.states,
            columns=[(c.code, c.text, c.domain, f"{c.mastered} of {c.assessed}") for c in page.columns],
            rows=[
                (row.name if names else f"Student {row.alias + 1}", row.states, row.signs)
                for row in sorted(page.rows, key=lambda r: r.name if names else f"{r.alias:06}")
            ],
        )
    )


def students_file(ctx: Context, actor: Actor, class_id: int, only: int | None, names: bool) -> bytes:
    """A page for each student of a class, or for one."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        klass = class_named(db, actor, class_id)
        people = [s.id for s in students_of(db, klass.id)]
        dates, today = dates_of(db), local_today(ctx, db)
        subject, title = klass.subject, klass.title
    aliases = dict(zip(people, alias_numbers(people), strict=True))
    sheets = []
    for person in people if only is None else [p for p in people if p == only]:
        page = student_mastery(ctx, actor, person, subject)
        name = page.name if names else f"Student {aliases[person] + 1}"
        sheets.append(
            StudentSheet(
                name=name,
                klass=title,
                subject=subject,
                finding=page.finding.replace(page.name, name),
                first=dates.long(page.first),
                last=dates.long(page.last),
                day=dates.long(today),
                hidden=not names,
                standards=[
                    PrintedStandard(**{f.name: getattr(s, f.name) for f in fields(PrintedStandard)})
                    for s in page.standards
                ],
                domains=[("" if f"grade {d.grade}" in d.domain else d.domain, d.says) for d in page.domains],
                changes=page.changes,
            )
        )
    if not sheets:
        raise Conflict("no one is in this class")
    return students_document(sheets)


EVIDENCE = (
    "id",
    "student",
    "standard",
    "day",
    "session",
    "test",
    "item",
    "earned",
    "possible",
    "tag",
    "usual_p",
    "taken",
    "why",
)


def evidence_file(ctx: Context, actor: Actor, asked: GridAsked, names: bool = True) -> bytes:
    """Every scored point behind a grid, as CSV. taken: on paper, at home, with which accommodations; why: it is no
    evidence, empty where it is."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        sight = sight_of(ctx, db, actor, asked)
        mine = sight.judged
        taken = how_taken(db, mine.people)
    aliases = alias_numbers(mine.people)
    cells: list[list[str | float]] = []
    for at, student in enumerate(sight.who.students):
        name = student.name if names else f"Student {aliases[at] + 1}"
        for column, standard in enumerate(sight.standards):
            cell = mine.cell(at, column)
            for aside in (False, True):
                points = mine.points_of(cell, aside)
                for row in range(points.day.size):
                    given = mine.given[int(points.given[row])]
                    cells.append(
                        [
                            student.id if names else "",
                            name,
                            standard.code,
                            as_day(int(points.day[row])).isoformat(),
                            int(points.session[row]) or "",
                            given.form,
                            given.codes[int(points.column[row])],
                            float(points.earned[row]),
                            float(points.possible[row]),
                            float(points.main[row]),
                            "" if np.isnan(points.p[row]) else round(float(points.p[row]), 6),
                            taken.get((int(points.session[row]), student.id), ""),
                            WHY[int(points.why[row])],
                        ]
                    )
    return to_file("csv", "Evidence", EVIDENCE, cells)
