"""A file of responses: students by items, read as fast as its bytes allow and never guessed at.

A plain file (no quotes) is cut at its separators as a whole: the places of all separators are found
at once, cells of one byte are coded by table look-up, and only cells that are longer than that are
looked at one by one. A file with quotes goes through the csv module into the same checks.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from bildung.core.data.responses import AWAITING, FIRST, NOT_PRESENTED, OMITTED, Answers, ResponseTable, Status, settle
from bildung.core.errors import Refused
from bildung.formats.bounds import MOST_BYTES, check_columns
from bildung.formats.keys import KeyedItem
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import decode

CHUNK = 2 * 1024 * 1024
NEWLINE, RETURN = 10, 13
ODD = 255
STATES = {"": OMITTED, "!np": NOT_PRESENTED, "!wait": AWAITING}
STATUSES = {"": Status.SAT, "sat": Status.SAT, "absent": Status.ABSENT, "exempt": Status.EXEMPT, "void": Status.VOID}
LONGEST = 10_000
MOST_HERE = 5_000  # items of a long test with what is known of the students


@dataclass(frozen=True)
class ResponseFile:
    """What a file holds. students: ids by row. groups: the wanted columns that are not items, by name."""

    students: list[str]
    groups: dict[str, list[str]]
    table: ResponseTable


class _Column:
    """Codes of one item as they come in, chunk by chunk."""

    def __init__(self, file: str, keyed: KeyedItem) -> None:
        self.file, self.keyed = file, keyed
        choice = keyed.item.kind == "choice"
        self.labels: list[str] = list(keyed.item.options) if choice else []
        self.known: dict[str, int] = dict(STATES)
        for place, label in enumerate(self.labels):
            self.known[label] = FIRST + place
        self.places = {label: FIRST + place for place, label in enumerate(self.labels)}
        self.parts: list[npt.NDArray[Any]] = []
        self.look_up = np.full(256, ODD, dtype=np.uint8)
        self.look_up[[32, 9]] = OMITTED
        if len(self.labels) < ODD - FIRST:
            for label, code in self.known.items():
                if len(label) == 1 and ord(label) < 128:
                    self.look_up[ord(label)] = code

    def code(self, text: str, line: int) -> int:
        """The code of a stripped cell."""
        code = self.known.get(text)
        if code is None:
            if len(text) > LONGEST:
                raise self.problem(line, f"{len(text)} characters", f"at most {LONGEST}")
            try:
                label = self.keyed.rule.label(text)
            except Refused as error:
                raise self.problem(line, repr(text[:40]), str(error).split(" is ", 1)[-1]) from None
            code = self.places.get(label)  # it may be there already under another spelling
            if code is None:
                code = self.places[label] = FIRST + len(self.labels)
                self.labels.append(label)
            self.known[text] = code
        return code

    def problem(self, line: int, found: str, allowed: str) -> ImportProblem:
        return ImportProblem(
            file=self.file,
            found=found,
            allowed=f"allowed is: {_allowed(self.keyed, allowed)}",
            line=line,
            column=self.keyed.item.name,
        )

    def answers(self) -> Answers:
        codes = np.concatenate(self.parts) if self.parts else np.zeros(0, dtype=np.uint8)
        if codes.dtype != np.uint8 and FIRST + len(self.labels) < ODD:
            codes = codes.astype(np.uint8)
        points = np.array([self.keyed.rule.points(label) for label in self.labels], dtype=np.float64)
        return Answers(codes, tuple(self.labels), points)


def _allowed(keyed: KeyedItem, said: str) -> str:
    item = keyed.item
    if item.kind == "choice":
        return f"one of {', '.join(item.options)}, empty, !np or !wait"
    if item.kind == "multiple":
        return f"options of {', '.join(item.options)} joined by +, empty, !np or !wait"
    if item.kind == "points":
        return f"a plain number within 0..{item.points:g}, empty, !np or !wait"
    return said


def read_responses(file: str, data: bytes, key: Sequence[KeyedItem], groups: Sequence[str] = ()) -> ResponseFile:
    """Read and check a whole file. groups: other columns wanted; a missing one is a problem that names those there."""
    if len(data) > MOST_BYTES:
        raise ImportProblem(file=file, found=f"{len(data)} bytes", allowed=f"at most {MOST_BYTES} bytes are read")
    if len(data) < CHUNK or b"\0" in data or not data.isascii():
        decode(file, data)  # says where a byte is no text
    if data.startswith(b"\xef\xbb\xbf"):
        data = data[3:]
    end = data.find(b"\n")
    head = (data if end < 0 else data[:end]).decode("utf-8")
    plain = b'"' not in data and not (b"\r" in data and b"\r" in data.replace(b"\r\n", b""))
    delimiter = ";" if head.count(";") > head.count(",") else ","
    names = [name.strip() for name in next(csv.reader([head], delimiter=delimiter), [])] if plain else []
    rows: Iterator[_Rows]
    check_columns(file, names, most=MOST_HERE)
    if plain:
        body = len(data) if end < 0 else end + 1
        rows = _plain_rows(file, data, body, ord(delimiter), len(names))
    else:
        reader = csv.reader(io.StringIO(data.decode("utf-8"), newline=""), delimiter=delimiter, strict=True)
        try:
            names = [name.strip() for name in next(reader, [])]
        except csv.Error as error:
            raise ImportProblem(
                file=file, found=str(error), allowed="quotes are doubled inside a quoted cell", line=1
            ) from None
        rows = _quoted_rows(file, reader, len(names))
    return _collect(file, names, rows, key, groups)


@dataclass
class _Rows:
    """Some rows: text(column) gives stripped cells, code(column, into) codes an item's."""

    count: int

    def text(self, column: int) -> list[str]:
        raise NotImplementedError

    def code(self, column: int, into: _Column) -> npt.NDArray[Any]:
        raise NotImplementedError

    def line(self, row: int) -> int:
        raise NotImplementedError


def _collect(
    file: str, names: list[str], chunks: Iterator[_Rows], key: Sequence[KeyedItem], groups: Sequence[str]
) -> ResponseFile:
    check_columns(file, names, most=MOST_HERE)
    if "student" not in names:
        raise ImportProblem(
            file=file, found="no column student", allowed="the first line names the columns; student is needed", line=1
        )
    place = {name: at for at, name in enumerate(names)}
    missing = [keyed.item.name for keyed in key if keyed.item.name not in place]
    if missing:
        raise ImportProblem(
            file=file, found=f"no column {missing[0]}", allowed="each item of the key has a column", line=1
        )
    for group in groups:
        if group not in place:
            items = {k.item.name for k in key} | {"", "student", "status"}
            others = [n for n in names if n not in items]
            raise ImportProblem(
                file=file,
                found=f"no column {group}",
                allowed=f"other columns are {', '.join(others) or 'none'}",
                line=1,
            )
    columns = [_Column(file, keyed) for keyed in key]
    students: list[str] = []
    status: list[npt.NDArray[np.uint8]] = []
    held: dict[str, list[str]] = {group: [] for group in groups}
    seen: set[str] = set()
    for rows in chunks:
        mine = rows.text(place["student"])
        before = len(seen)
        seen.update(mine)
        if len(seen) != before + len(mine) or "" in seen:
            raise _same_student(file, students, mine, rows)
        students += mine
        status.append(_statuses(file, rows, place.get("status")))
        for group in groups:
            held[group] += rows.text(place[group])
        for column in columns:
            column.parts.append(rows.code(place[column.keyed.item.name], column))
    if not students:
        raise ImportProblem(file=file, found="no rows", allowed="one row for each student", line=2)
    answers = [column.answers() for column in columns]
    table = settle([k.item for k in key], answers, np.concatenate(status))
    return ResponseFile(students, held, table)


def _same_student(file: str, before: list[str], mine: list[str], rows: _Rows) -> ImportProblem:
    seen = set(before)
    for row, student in enumerate(mine):
        if not student:
            return ImportProblem(
                file=file, found="empty", allowed="each row names its student", line=rows.line(row), column="student"
            )
        if student in seen:
            return ImportProblem(
                file=file,
                found=f"{student} again",
                allowed="each student stands once",
                line=rows.line(row),
                column="student",
            )
        seen.add(student)
    raise AssertionError("no student appears twice")


def _statuses(file: str, rows: _Rows, column: int | None) -> npt.NDArray[np.uint8]:
    if column is None:
        return np.zeros(rows.count, dtype=np.uint8)
    cells = rows.text(column)
    try:
        return np.array([STATUSES[cell] for cell in cells], dtype=np.uint8)
    except KeyError:
        row = next(at for at, cell in enumerate(cells) if cell not in STATUSES)
        allowed = "sat, absent, exempt, void or empty"
        raise ImportProblem(
            file=file, found=repr(cells[row]), allowed=allowed, line=rows.line(row), column="status"
        ) from None


@dataclass(kw_only=True)
class _PlainRows(_Rows):
    """Rows of a chunk by the places of their cells: starts, ends (rows, columns) into bytes."""

    data: bytes
    bytes_: npt.NDArray[np.uint8]
    starts: npt.NDArray[np.int64]
    ends: npt.NDArray[np.int64]
    lines: npt.NDArray[np.int64] | int

    def line(self, row: int) -> int:
        return self.lines + row if isinstance(self.lines, int) else int(self.lines[row])

    def text(self, column: int) -> list[str]:
        data = self.data
        pairs = zip(self.starts[:, column].tolist(), self.ends[:, column].tolist(), strict=True)
        return [data[a:b].decode().strip() for a, b in pairs]

    def code(self, column: int, into: _Column) -> npt.NDArray[Any]:
        starts = self.starts[:, column]
        width = self.ends[:, column] - starts
        codes = into.look_up[self.bytes_[np.minimum(starts, self.bytes_.size - 1)]]
        codes = np.where(width == 1, codes, np.where(width == 0, np.uint8(OMITTED), np.uint8(ODD)))
        odd = np.flatnonzero(codes == ODD)
        if not odd.size:
            return codes
        data, result = self.data, codes.astype(np.int32)
        ends = self.ends[:, column]
        for row in odd.tolist():
            text = data[starts[row] : ends[row]].decode().strip()
            known = into.known.get(text)
            result[row] = into.code(text, self.line(row)) if known is None else known
        return result


def _plain_rows(file: str, data: bytes, body: int, separator: int, columns: int) -> Iterator[_Rows]:
    everything = np.frombuffer(data, dtype=np.uint8)
    line, at, size = 2, body, len(data)
    while at < size:
        stop = size if size - at <= CHUNK else data.rfind(b"\n", at, at + CHUNK) + 1
        if stop <= at:  # a line longer than a chunk
            stop = data.find(b"\n", at) + 1 or size
        piece = everything[at:stop]
        marks = np.flatnonzero((piece == separator) | (piece == NEWLINE))
        closed = data[stop - 1] == NEWLINE
        ends = marks + at if closed else np.append(marks + at, stop)
        is_line = np.ones(ends.size, dtype=np.bool_)
        is_line[: marks.size] = piece[marks] == NEWLINE
        lines: npt.NDArray[np.int64] | int = line
        breaks = np.flatnonzero(is_line)
        per_line = np.diff(breaks, prepend=-1)
        starts = np.empty_like(ends)
        starts[0], starts[1:] = at, ends[:-1] + 1
        line_count = breaks.size
        if per_line.size and not (per_line == columns).all():
            keep = _without_blank_lines(file, data, starts, ends, breaks, per_line, columns, line)
            lines = line + np.flatnonzero(keep)
            cells = np.repeat(keep, per_line)
            starts, ends = starts[cells], ends[cells]
        begins, stops = starts.reshape(-1, columns), ends.reshape(-1, columns)
        last = stops[:, -1]
        returned = (last > begins[:, -1]) & (everything[np.maximum(last - 1, 0)] == RETURN)
        if returned.any():
            stops[:, -1] = last - returned
        if begins.shape[0]:
            yield _PlainRows(
                count=begins.shape[0], data=data, bytes_=everything, starts=begins, ends=stops, lines=lines
            )
        line += line_count
        at = stop


def _without_blank_lines(
    file: str,
    data: bytes,
    starts: npt.NDArray[np.int64],
    ends: npt.NDArray[np.int64],
    breaks: npt.NDArray[np.int64],
    per_line: npt.NDArray[np.int64],
    columns: int,
    line: int,
) -> npt.NDArray[np.bool_]:
    """Which lines are rows; a problem at the first that is neither a row nor blank."""
    keep: npt.NDArray[np.bool_] = per_line == columns
    for place in np.flatnonzero(~keep).tolist():
        first = starts[breaks[place] - per_line[place] + 1]
        if data[first : ends[breaks[place]]].strip():
            raise ImportProblem(
                file=file,
                found=f"{per_line[place]} cells",
                allowed=f"each row has {columns} cells, as the header",
                line=line + place,
            )
    return keep


@dataclass
class _QuotedRows(_Rows):
    rows: list[list[str]]
    lines: list[int]

    def line(self, row: int) -> int:
        return self.lines[row]

    def text(self, column: int) -> list[str]:
        return [row[column].strip() for row in self.rows]

    def code(self, column: int, into: _Column) -> npt.NDArray[Any]:
        codes = [into.code(row[column].strip(), line) for row, line in zip(self.rows, self.lines, strict=True)]
        return np.array(codes, dtype=np.int32)


def _quoted_rows(file: str, reader: Any, columns: int) -> Iterator[_Rows]:
    rows: list[list[str]] = []
    lines: list[int] = []
    start = reader.line_num + 1
    try:
        for row in reader:
            if len(row) != columns and any(cell.strip() for cell in row):
                raise ImportProblem(
                    file=file,
                    found=f"{len(row)} cells",
                    allowed=f"each row has {columns} cells, as the header",
                    line=start,
                )
            if len(row) == columns and any(cell.strip() for cell in row):
                rows.append(row)
                lines.append(start)
            start = reader.line_num + 1
    except csv.Error as error:
        raise ImportProblem(
            file=file, found=str(error), allowed="quotes are doubled inside a quoted cell", line=reader.line_num
        ) from None
    if rows:
        yield _QuotedRows(len(rows), rows, lines)


def cells_as_given(data: bytes, columns: Sequence[str]) -> list[list[str]]:
    """The wanted cells of a file that `read_responses` has taken, unchanged but for blanks around them."""
    text = data.decode("utf-8-sig")
    head = text.split("\n", 1)[0]
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=";" if head.count(";") > head.count(",") else ",")
    names = [name.strip() for name in next(reader)]
    places = [names.index(column) for column in columns]
    return [[row[at].strip() for at in places] for row in reader if any(cell.strip() for cell in row)]
