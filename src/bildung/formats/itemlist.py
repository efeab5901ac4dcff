"""Items as a sheet (CSV or XLSX), in and out: code, type, stem, options, key, points, standards and tags."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass, field

from bildung.core.errors import Refused
from bildung.formats.content import ChoicePart, Content, EntryPart, Option, PartScoring, Shown, kind_of, read_content
from bildung.formats.faults import faults
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import Sheet, SheetRow, unique, whole
from bildung.formats.spreadsheet import read_spreadsheet

LETTERS = "ABCDEFGHIJ"
REQUIRED = ("code", "type", "stem", "key")
TYPES = ("choice", "multiple", "numeric", "text")
CALCULATORS = ("", "none", "basic", "scientific")


@dataclass(frozen=True, kw_only=True)
class Tags:
    """What an item is found by, beside its standards. None: not said."""

    depth: int | None = None
    topic: str = ""
    unit: str = ""
    language: str = ""
    calculator: str = ""
    seconds: int | None = None
    source: str = ""
    labels: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class StimulusRecord:
    """A stimulus as read. media: key of a picture or sound that was kept already."""

    code: str
    title: str
    kind: str
    html: str = ""
    numbered: bool = False
    media: str = ""
    told: str = ""
    credit: str = ""


@dataclass(frozen=True, kw_only=True)
class ItemRecord:
    """An item as read; its HTML as it came, not yet made safe. lost: what it had and cannot be kept here. media:
    pictures and sounds by the name its HTML calls them."""

    code: str
    content: Content
    standards: tuple[str, ...]
    subject: str = ""
    grade: str = ""
    tags: Tags = Tags()
    stimulus: StimulusRecord | None = None
    enemies: tuple[str, ...] = ()
    lost: tuple[str, ...] = ()
    media: dict[str, bytes] = field(default_factory=dict, compare=False)
    place: str = field(default="", compare=False)

    @property
    def kind(self) -> str:
        return kind_of(self.content.shown, self.content.scoring)

    @property
    def points(self) -> float:
        return sum(part.points for part in self.content.scoring)


def read_items(file: str, data: bytes) -> tuple[ItemRecord, ...]:
    """All items of a sheet, or the first problem. Options stand in columns option_A, option_B and so on, what a wrong
    one says about the student in note_A, note_B."""
    sheet = read_spreadsheet(file, data, REQUIRED)
    records = [_record(sheet, row) for row in unique(sheet, "code").values()]
    if not records:
        raise ImportProblem(file=file, found="no rows", allowed="one row for each item", line=2)
    return tuple(records)


def _record(sheet: Sheet, row: SheetRow) -> ItemRecord:
    kind = row["type"] or "choice"
    if kind not in TYPES:
        raise sheet.problem(row, "type", repr(kind), f"one of {', '.join(TYPES)}")
    options = tuple((letter, row.get(f"option_{letter}")) for letter in LETTERS if row.get(f"option_{letter}"))
    letters = tuple(letter for letter, _ in options)
    chosen = kind in ("choice", "multiple")
    if chosen and len(options) < 2:
        raise sheet.problem(row, "option_A", f"{len(options)} options", "a choice item has at least two")
    if letters != tuple(LETTERS[: len(letters)]):
        raise sheet.problem(row, f"option_{LETTERS[len(letters) - 1]}", "a gap before it", "options without a gap")
    try:
        points = float(row.get("points") or 1)
    except ValueError:
        points = -1.0
    if not 0 < points <= 100:
        raise sheet.problem(row, "points", repr(row.get("points")), "a number above 0, at most 100")
    notes = (
        [{"answer": letter, "note": row.get(f"note_{letter}")} for letter, _ in options if row.get(f"note_{letter}")]
        if chosen
        else []
    )
    part = (
        {"type": "choice", "most": 1 if kind == "choice" else 0, "options": [{"id": i, "html": h} for i, h in options]}
        if chosen
        else {"type": "entry", "numeric": kind == "numeric", "unit": row.get("unit")}
    )
    scoring = {
        "key": row["key"],
        "points": points,
        "partial": (row.get("partial") or "").lower() in ("yes", "true", "1"),
        "spelling": row.get("spelling") or "plain",
    }
    try:
        content = read_content(
            {
                "shown": {"body": row["stem"], "parts": [part]},
                "scoring": [scoring],
                "behind": {"misconceptions": notes, "solution": row.get("solution")},
            }
        )
    except Refused as error:
        raise sheet.problem(row, "stem", "something that does not fit", str(error)) from None
    for place, why in faults(content):
        column = {"text": "stem", "answer": "key"}.get(place, "key")
        raise sheet.problem(row, column, repr(row[column]) if row[column] else "empty", why)
    standards = tuple(dict.fromkeys(code.strip() for code in row.get("standards").split(";") if code.strip()))
    return ItemRecord(
        code=row["code"],
        content=content,
        standards=standards,
        subject=row.get("subject"),
        grade=row.get("grade"),
        tags=read_tags(sheet, row),
        place=f"{sheet.file}, line {row.line}",
    )


def read_tags(sheet: Sheet, row: SheetRow) -> Tags:
    """The tag columns of a row, each of which may be missing."""
    depth, seconds = row.get("depth"), row.get("seconds")
    if depth and depth not in ("1", "2", "3", "4"):
        raise sheet.problem(row, "depth", repr(depth), "1, 2, 3 or 4")
    if seconds and not 0 < (whole(seconds) or 0) <= 7200:
        raise sheet.problem(row, "seconds", repr(seconds), "a whole number from 1 to 7200")
    if row.get("calculator") not in CALCULATORS:
        raise sheet.problem(row, "calculator", repr(row.get("calculator")), "none, basic or scientific")
    labels = tuple(dict.fromkeys(label.strip() for label in row.get("labels").split(";") if label.strip()))
    return Tags(
        depth=int(depth) if depth else None,
        topic=row.get("topic"),
        unit=row.get("unit"),
        language=row.get("language"),
        calculator=row.get("calculator"),
        seconds=int(seconds) if seconds else None,
        source=row.get("source"),
        labels=labels,
    )


COLUMNS = (
    "code",
    "type",
    "stem",
    *(f"option_{letter}" for letter in LETTERS),
    "key",
    "points",
    "partial",
    "spelling",
    "unit",
    "solution",
    *(f"note_{letter}" for letter in LETTERS),
    "standards",
    "subject",
    "grade",
    "depth",
    "topic",
    "seconds",
    "calculator",
    "language",
    "source",
    "labels",
)


def sheet_misses(record: ItemRecord) -> list[str]:
    """What a sheet cannot carry of it; where it cannot carry its kind at all, that alone."""
    if record.kind not in TYPES:
        return [f"a sheet has no items of the kind {record.kind.replace('_', ' ')}"]
    scoring, part, found = record.content.scoring[0], record.content.shown.parts[0], []
    if record.stimulus:
        found.append("its stimulus")
    if record.content.shown.tools:
        found.append("its counters and tiles")
    if record.content.behind.hints:
        found.append("its hints")
    if part.prompt:
        found.append("the question of its part")
    if scoring.credit:
        found.append("points of their own for single answers")
    if record.content.behind.guidance:
        found.append("its scoring guidance")
    if scoring.writing != "any" or scoring.units or scoring.unit_needed:
        found.append("how the number is to be written, and units beside the shown one")
    if isinstance(part, ChoicePart) and part.most > 1:
        found.append("how many may be chosen")
    if isinstance(part, ChoicePart) and [o.id for o in part.options] != list(LETTERS[: len(part.options)]):
        found.append("names of options other than letters")
    if "<img" in record.content.shown.body:
        found.append("pictures")
    return found


def write_items(records: Sequence[ItemRecord]) -> bytes:
    """A CSV of the items that a sheet can carry; reading it again gives the same but for `sheet_misses`."""
    out = io.StringIO(newline="")
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    for record in records:
        if record.kind not in TYPES:
            continue
        part, scoring, behind = record.content.shown.parts[0], record.content.scoring[0], record.content.behind
        row: dict[str, object] = {
            "code": record.code,
            "type": record.kind,
            "stem": record.content.shown.body,
            "key": scoring.key,
            "points": f"{scoring.points:g}",
            "partial": "yes" if scoring.partial else "",
            "solution": behind.solution,
            "standards": ";".join(record.standards),
            "subject": record.subject,
            "grade": record.grade,
            "depth": record.tags.depth or "",
            "topic": record.tags.topic,
            "seconds": record.tags.seconds or "",
            "calculator": record.tags.calculator,
            "language": record.tags.language,
            "source": record.tags.source,
            "labels": ";".join(record.tags.labels),
        }
        if isinstance(part, ChoicePart):
            row |= {f"option_{LETTERS[at]}": o.html for at, o in enumerate(part.options[: len(LETTERS)])}
            row |= {f"note_{m.answer}": m.note for m in behind.misconceptions if m.answer in LETTERS}
        if isinstance(part, EntryPart):
            row |= {"unit": part.unit, "spelling": scoring.spelling if record.kind == "text" else ""}
        writer.writerow(row)
    return out.getvalue().encode()


def simple_record(
    code: str,
    kind: str,
    stem: str,
    options: Sequence[tuple[str, str]],
    key: str,
    points: float,
    standards: tuple[str, ...],
    subject: str = "",
    grade: str = "",
    place: str = "",
) -> ItemRecord:
    """A choice or numeric item from its pieces."""
    part = (
        ChoicePart(options=[Option(id=i, html=h) for i, h in options]) if kind == "choice" else EntryPart(numeric=True)
    )
    content = Content(shown=Shown(body=stem, parts=[part]), scoring=[PartScoring(key=key, points=points)])
    return ItemRecord(code=code, content=content, standards=standards, subject=subject, grade=grade, place=place)
