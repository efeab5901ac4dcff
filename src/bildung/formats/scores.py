"""Files of scores, norm tables and correlations (docs/commands.md)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.scales.norms import Correlations, Moments, NormKey, NormTable, Points
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import Sheet, SheetRow, read_sheet
from bildung.formats.spreadsheet import read_spreadsheet


@dataclass(frozen=True, kw_only=True)
class Score:
    """se: 0 where the file has none. group: label in the wanted column."""

    student: str
    subject: str
    grade: str
    window: str
    week: float
    score: float
    se: float
    group: str


def number(sheet: Sheet, row: SheetRow, column: str, low: float = -math.inf, high: float = math.inf) -> float:
    """A plain finite number within the bounds."""
    text = row.get(column)
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value) or "_" in text or not low <= value <= high:
        bounds = "" if math.isinf(low) and math.isinf(high) else f" within {low:g}..{high:g}"
        raise sheet.problem(row, column, repr(text), f"a plain number{bounds}")
    return value


def read_scores(file: str, data: bytes, by: str | None = None) -> list[Score]:
    """All rows of a CSV or a workbook; a student stands once for each window and subject."""
    sheet = read_spreadsheet(file, data, ("student", "grade", "window", "week", "score"))
    if by is not None and by not in sheet.columns:
        others = [c for c in sheet.columns if c not in ("student", "week", "score", "se")]
        raise ImportProblem(
            file=file, found=f"no column {by}", allowed=f"columns to group by are {', '.join(others)}", line=1
        )
    if not sheet.rows:
        raise ImportProblem(file=file, found="no rows", allowed="one row for each student and window", line=2)
    seen: dict[tuple[str, str, str], int] = {}
    scores = []
    for row in sheet.rows:
        for column in ("student", "grade", "window"):
            if not row[column]:
                raise sheet.problem(row, column, "empty", f"each row names its {column}")
        key = (row["student"], row["window"], row.get("subject"))
        if key in seen:
            raise sheet.problem(
                row, "student", f"{row['student']} again (first in line {seen[key]})", "once a window and subject"
            )
        seen[key] = row.line
        scores.append(
            Score(
                student=row["student"],
                subject=row.get("subject"),
                grade=row["grade"],
                window=row["window"],
                week=number(sheet, row, "week", 0, 60),
                score=number(sheet, row, "score"),
                se=number(sheet, row, "se", 0) if row.get("se") else math.nan,
                group=row.get(by) if by else "",
            )
        )
    return scores


def read_norms(file: str, data: bytes, correlations: NormTable | None = None) -> NormTable:
    """Either kind of norm table: moments (mean, sd) or percentile points (percentile, score)."""
    sheet = read_sheet(file, data, ("subject", "grade", "week"))
    kinds = {"mean", "sd"} <= set(sheet.columns), {"percentile", "score"} <= set(sheet.columns)
    if sum(kinds) != 1:
        raise ImportProblem(
            file=file,
            found="neither kind of norm table",
            allowed="columns mean and sd, or percentile and score",
            line=1,
        )
    known = correlations.correlations if correlations else {}
    rows: dict[NormKey, list[SheetRow]] = {}
    for row in sheet.rows:
        rows.setdefault((row["subject"], row["grade"]), []).append(row)
    if not rows:
        raise ImportProblem(file=file, found="no rows", allowed="one row for each subject, grade and week", line=2)
    if kinds[0]:
        return NormTable({key: _moments(sheet, mine) for key, mine in rows.items()}, {}, known)
    return NormTable({}, {key: _points(sheet, mine) for key, mine in rows.items()}, known)


def _moments(sheet: Sheet, rows: Sequence[SheetRow]) -> Moments:
    found: dict[float, tuple[float, float]] = {}
    for row in rows:
        week = number(sheet, row, "week", 0, 60)
        if week in found:
            raise sheet.problem(row, "week", f"{week:g} again", "each week once for a subject and grade")
        sd = number(sheet, row, "sd", 0)
        if sd == 0:
            raise sheet.problem(row, "sd", "0", "a number above 0")
        found[week] = (number(sheet, row, "mean"), sd)
    weeks = sorted(found)
    return Moments(np.array(weeks), np.array([found[w][0] for w in weeks]), np.array([found[w][1] for w in weeks]))


def _points(sheet: Sheet, rows: Sequence[SheetRow]) -> Points:
    found: dict[float, dict[float, float]] = {}
    for row in rows:
        week, percentile = number(sheet, row, "week", 0, 60), number(sheet, row, "percentile", 0, 100)
        if percentile in found.setdefault(week, {}):
            raise sheet.problem(row, "percentile", f"{percentile:g} again", "each percentile once a week")
        found[week][percentile] = number(sheet, row, "score")
    weeks = sorted(found)
    percentiles = sorted(found[weeks[0]])
    scores = []
    for week in weeks:
        if sorted(found[week]) != percentiles or len(percentiles) < 2:
            raise sheet.problem(
                rows[0], "percentile", f"other percentiles in week {week:g}", "the same two or more in each week"
            )
        row_scores = [found[week][p] for p in percentiles]
        if row_scores != sorted(row_scores):
            raise sheet.problem(
                rows[0], "score", f"falling scores in week {week:g}", "scores that rise with the percentile"
            )
        scores.append(row_scores)
    return Points(np.array(weeks), np.array(percentiles), np.array(scores))


def read_correlations(file: str, data: bytes) -> NormTable:
    """A table with correlations only; `read_norms` joins it to norms."""
    sheet = read_sheet(file, data, ("subject", "grade", "from_week", "to_week", "r"))
    found: dict[NormKey, dict[tuple[float, float], float]] = {}
    for row in sheet.rows:
        weeks = number(sheet, row, "from_week", 0, 60), number(sheet, row, "to_week", 0, 60)
        mine = found.setdefault((row["subject"], row["grade"]), {})
        if weeks[0] >= weeks[1]:
            raise sheet.problem(
                row, "to_week", f"week {weeks[1]:g} from week {weeks[0]:g}", "a later week than from_week"
            )
        if weeks in mine:
            raise sheet.problem(row, "from_week", "the same weeks again", "each pair once for a subject and grade")
        r = number(sheet, row, "r", -1, 1)
        if abs(r) == 1:
            raise sheet.problem(row, "r", repr(row["r"]), "a correlation between -1 and 1")
        mine[weeks] = r
    if not found:
        raise ImportProblem(file=file, found="no rows", allowed="one row for each pair of weeks", line=2)
    tables = {}
    for (subject, grade), mine in found.items():
        starts, ends = sorted({a for a, _ in mine}), sorted({b for _, b in mine})
        listed = [[mine.get((a, b), math.nan) for b in ends] for a in starts]
        tables[subject, grade] = Correlations(np.array(starts), np.array(ends), np.array(listed))
    return NormTable({}, {}, tables)
