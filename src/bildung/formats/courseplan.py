"""A pacing guide as a sheet: one row a lesson."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import Sheet, SheetRow
from bildung.formats.spreadsheet import read_spreadsheet

COLUMNS = ("subject", "grade", "unit", "lesson", "standards", "start", "end")
MOST_LESSONS = 400


@dataclass(frozen=True, kw_only=True)
class LessonRow:
    """standards: codes."""

    line: int
    unit: str
    title: str
    standards: tuple[str, ...]
    start: date
    end: date


@dataclass(frozen=True)
class PlanSheet:
    subject: str
    grade: str
    course: str
    lessons: tuple[LessonRow, ...]


def read_plans(file: str, data: bytes) -> list[PlanSheet]:
    """Every plan of a sheet, in the order they begin; lessons in the order of the rows."""
    sheet = read_spreadsheet(file, data, COLUMNS)
    plans: dict[tuple[str, str], list[LessonRow]] = {}
    courses: dict[tuple[str, str], str] = {}
    for row in sheet.rows:
        key = row["subject"], row["grade"].upper()
        for name in ("subject", "grade", "lesson"):
            if not row[name]:
                raise sheet.problem(row, name, "empty", f"each lesson has its {name}")
        start, end = _date(sheet, row, "start"), _date(sheet, row, "end")
        if end < start:
            raise sheet.problem(row, "end", str(end), f"not before {start}")
        codes = tuple(
            dict.fromkeys(code for code in row["standards"].replace(";", " ").replace(",", " ").split() if code)
        )
        lessons = plans.setdefault(key, [])
        if any((other.unit, other.title) == (row["unit"], row["lesson"]) for other in lessons):
            raise sheet.problem(
                row, "lesson", f"{row['lesson']!r} again in {row['unit'] or 'its unit'}", "each lesson once"
            )
        if len(lessons) >= MOST_LESSONS:
            raise sheet.problem(row, "lesson", "too many lessons", f"at most {MOST_LESSONS} a plan")
        lessons.append(
            LessonRow(line=row.line, unit=row["unit"], title=row["lesson"], standards=codes, start=start, end=end)
        )
        courses.setdefault(key, row.get("course"))
    if not plans:
        raise ImportProblem(file=file, found="no lesson", allowed=f"a row a lesson, with {', '.join(COLUMNS)}")
    return [PlanSheet(s, g, courses[s, g] or f"{s} {g}", tuple(lessons)) for (s, g), lessons in plans.items()]


def _date(sheet: Sheet, row: SheetRow, column: str) -> date:
    try:
        return date.fromisoformat(row[column])
    except ValueError:
        raise sheet.problem(row, column, repr(row[column]), "a date such as 2026-08-31") from None
