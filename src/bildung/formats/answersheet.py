"""A sheet of answers that were taken on paper: a row a student, a column a question, as they are typed off the paper."""

from __future__ import annotations

from dataclasses import dataclass

from bildung.formats.problem import ImportProblem
from bildung.formats.spreadsheet import read_spreadsheet
from bildung.formats.table import as_typed

STUDENT, NAME = "student", "name"


@dataclass(frozen=True)
class AnswerRow:
    """line: in the file. student: number of the student. typed: by number of the question; an empty cell is no answer."""

    line: int
    student: str
    typed: dict[int, str]


def read_answer_sheet(file: str, data: bytes) -> list[AnswerRow]:
    """CSV or XLSX with the column student and columns 1, 2, 3 … of questions; a column name is read past."""
    sheet = read_spreadsheet(file, data, (STUDENT,))
    numbers: dict[str, int] = {}
    for column in sheet.columns:
        if column in (STUDENT, NAME):
            continue
        text = column.strip()
        if not text.isascii() or not text.isdigit() or not 1 <= int(text) <= 500:
            raise ImportProblem(
                file=file,
                found=f"a column {column[:40]!r}",
                allowed="student, name, and the numbers of questions, from 1",
                line=1,
            )
        if int(text) in numbers.values():
            raise ImportProblem(file=file, found=f"question {text} twice", allowed="each question once", line=1)
        numbers[column] = int(text)
    if not numbers:
        raise ImportProblem(file=file, found="no questions", allowed="a column for each question: 1, 2, 3 …", line=1)
    if not sheet.rows:
        raise ImportProblem(file=file, found="no rows", allowed="a row for each student", line=2)
    seen: dict[str, int] = {}
    for row in sheet.rows:
        if not row[STUDENT]:
            raise sheet.problem(row, STUDENT, "empty", "each row has the number of its student")
        if row[STUDENT] in seen:
            raise sheet.problem(row, STUDENT, f"{row[STUDENT]} again (first in line {seen[row[STUDENT]]})", "once each")
        seen[row[STUDENT]] = row.line
    return [
        AnswerRow(row.line, row[STUDENT], {number: as_typed(row.get(column)) for column, number in numbers.items()})
        for row in sheet.rows
    ]
