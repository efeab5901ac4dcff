"""Score files as they come from anywhere: whatever the columns are called, students by number or by name and birth date."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from bildung.core.grades import grade_code
from bildung.formats.onesheet import guess_columns
from bildung.formats.problem import ImportProblem
from bildung.formats.scores import number
from bildung.formats.sheet import Sheet, SheetRow

FIELDS: dict[str, tuple[str, tuple[str, ...]]] = {
    "student": (
        "student number",
        ("student", "studentid", "studentnumber", "localid", "sourcedid", "id", "number", "studentno"),
    ),
    "given": ("given name", ("given", "givenname", "firstname", "first", "forename")),
    "family": ("family name", ("family", "familyname", "lastname", "last", "surname")),
    "name": ("whole name", ("name", "studentname", "fullname")),
    "birth_date": ("birth date", ("birthdate", "dateofbirth", "dob", "birthday", "born")),
    "grade": ("grade", ("grade", "gradelevel", "enrolledgrade")),
    "window": ("window", ("window", "term", "season", "occasion", "period", "testwindow", "testperiod")),
    "date": ("test date", ("date", "testdate", "takenon", "datetaken", "teststart")),
    "week": ("week of instruction", ("week", "instructionalweek", "weeksofinstruction")),
    "score": ("score", ("score", "scalescore", "scaledscore", "level", "result", "points", "rawscore", "count")),
    "se": ("standard error", ("se", "sem", "standarderror", "error")),
    "marks": ("marks", ("marks", "mark", "flags", "flag", "notes", "note")),
    "subject": ("subject", ("subject", "subjectarea", "content", "contentarea")),
}
DATES = ("%Y-%m-%d", "%m/%d/%Y", "%m/%d/%y")


@dataclass(frozen=True, kw_only=True)
class ScoreRow:
    """A row as it stands in the file, with what is empty as None or an empty text. said: the score as it was written, since a level is a
    word."""

    line: int
    student: str
    given: str
    family: str
    birth_date: date | None
    grade: str
    window: str
    date: date | None
    week: float | None
    said: str
    se: float | None
    marks: str
    subject: str

    @property
    def name(self) -> str:
        return f"{self.given} {self.family}".strip()


def guess_score_columns(columns: Sequence[str]) -> dict[str, str]:
    """What each column probably is: a field of FIELDS, or empty."""
    return guess_columns(tuple(columns), FIELDS)


def as_named(sheet: Sheet) -> bool:
    """Whether the columns are named as docs/commands.md has them, so that nothing need be matched."""
    return {"student", "window", "score"} <= set(sheet.columns)


def read_score_rows(sheet: Sheet, matched: Mapping[str, str], day_first: bool = False) -> list[ScoreRow]:
    """All rows, in the order of the file. matched: column to field, or empty. day_first: how dates with slashes are written."""
    column = _columns(sheet, matched)
    if not sheet.rows:
        raise ImportProblem(file=sheet.file, found="no rows", allowed="one row for each student and window", line=2)

    def cell(row: SheetRow, field: str) -> str:
        return row.get(column[field]) if field in column else ""

    rows = []
    for row in sheet.rows:
        given, family = cell(row, "given"), cell(row, "family")
        if not (given or family) and cell(row, "name"):
            given, family = _parted(cell(row, "name"))
        if not cell(row, "student") and not (given and family):
            place = column.get("student") or column.get("name") or column.get("family", "")
            raise sheet.problem(row, place, "nobody", "each row has a student number, or a given and family name")
        if not cell(row, "score"):
            raise sheet.problem(row, column["score"], "empty", "each row has a score")
        if not cell(row, "window") and not cell(row, "date"):
            place = column.get("window") or column.get("date", "")
            raise sheet.problem(row, place, "empty", "each row has its window or its date")
        rows.append(
            ScoreRow(
                line=row.line,
                student=cell(row, "student"),
                given=given,
                family=family,
                birth_date=_date(sheet, row, column.get("birth_date", ""), day_first),
                grade=grade_code(cell(row, "grade").removeprefix("Grade ")),
                window=cell(row, "window"),
                date=_date(sheet, row, column.get("date", ""), day_first),
                week=number(sheet, row, column["week"], 0, 60) if cell(row, "week") else None,
                said=cell(row, "score"),
                se=number(sheet, row, column["se"], 0) if cell(row, "se") else None,
                marks=cell(row, "marks"),
                subject=cell(row, "subject"),
            )
        )
    return rows


def score_of(said: str, levels: Sequence[str] | None) -> float | None:
    """A score as a number, the place of a level by its name; None for what is neither."""
    if levels is not None:
        by_name = {name.lower(): float(at) for at, name in enumerate(levels, 1)}
        if said.lower() in by_name:
            return by_name[said.lower()]
    try:
        value = float(said)
    except ValueError:
        return None
    if not math.isfinite(value) or "_" in said:
        return None
    if levels is not None and not (value.is_integer() and 1 <= value <= len(levels)):
        return None
    return value


def _columns(sheet: Sheet, matched: Mapping[str, str]) -> dict[str, str]:
    column: dict[str, str] = {}
    for name, field in matched.items():
        if name not in sheet.columns:
            allowed = f"its columns are {', '.join(sheet.columns)}"
            raise ImportProblem(file=sheet.file, found=f"no column {name}", allowed=allowed, line=1)
        if not field:
            continue
        if field not in FIELDS:
            allowed = f"one of {', '.join(FIELDS)}"
            raise ImportProblem(file=sheet.file, found=f"column {name} matched with {field!r}", allowed=allowed, line=1)
        if field in column:
            found = f"{FIELDS[field][0]} matched twice"
            raise ImportProblem(file=sheet.file, found=found, allowed="one column for each", line=1)
        column[field] = name
    who = "student" in column or "name" in column or {"given", "family"} <= column.keys()
    lacks = [
        words
        for has, words in (
            (who, "student number, or given and family name"),
            ("score" in column, "score"),
            ("window" in column or "date" in column, "window or test date"),
        )
        if not has
    ]
    if lacks:
        raise ImportProblem(file=sheet.file, found=f"no column for {' and '.join(lacks)}", allowed="match one", line=1)
    return column


def _parted(name: str) -> tuple[str, str]:
    """Given and family name of "Family, Given" or "Given Family"."""
    if "," in name:
        family, _, given = name.partition(",")
    else:
        given, _, family = name.rpartition(" ")
    return given.strip(), family.strip()


def _date(sheet: Sheet, row: SheetRow, column: str, day_first: bool) -> date | None:
    text = row.get(column) if column else ""
    if not text:
        return None
    for form in DATES:
        wanted = form.replace("%m/%d", "%d/%m") if day_first else form
        try:
            return datetime.strptime(text.split("T")[0], wanted).date()
        except ValueError:
            continue
    shown = "31/08/2026" if day_first else "08/31/2026"
    raise sheet.problem(row, column, repr(text), f"a date such as 2026-08-31 or {shown}")
