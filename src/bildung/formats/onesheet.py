"""A school's people on one sheet: a row for each student and class, whatever its columns are called."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from bildung.formats.oneroster import Known, LeftOut, Roster, roster_of
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import Sheet, SheetRow

FIELDS: dict[str, tuple[str, tuple[str, ...]]] = {
    "id": (
        "student number",
        (
            "studentnumber",
            "studentid",
            "pupilid",
            "pupilnumber",
            "pupilno",
            "studentno",
            "id",
            "number",
            "sourcedid",
            "admissionnumber",
            "localid",
        ),
    ),
    "given": ("given name", ("givenname", "firstname", "forename", "given")),
    "family": ("family name", ("familyname", "lastname", "surname", "family")),
    "name": ("whole name", ("name", "fullname", "student", "studentname", "pupil", "pupilname")),
    "grade": ("grade", ("grade", "gradelevel", "year", "yeargroup", "level")),
    "class": ("class", ("class", "classname", "section", "group", "course", "coursename")),
    "subject": ("subject", ("subject", "subjectarea", "department")),
    "teacher": ("teacher", ("teacher", "teachername", "staff", "instructor")),
    "room": ("room", ("room", "location", "classroom")),
    "school": ("school", ("school", "schoolname", "site", "campus")),
    "homeroom": ("homeroom", ("homeroom", "form", "tutorgroup", "registrationgroup", "advisory")),
}
ATTRIBUTE = "attribute:"


@dataclass(frozen=True)
class Here:
    """What is here already, so that a sheet does not double it. All names lower case."""

    known: Known = field(default_factory=Known)
    schools: Mapping[str, str] = field(default_factory=dict)
    classes: Mapping[tuple[str, str], str] = field(default_factory=dict)
    staff: Mapping[tuple[str, str], str] = field(default_factory=dict)


def guess(columns: tuple[str, ...]) -> dict[str, str]:
    """What each column probably is: a field of FIELDS, or empty. A field is given once, to the best fit."""
    return guess_columns(columns, FIELDS)


def guess_columns(columns: tuple[str, ...], fields: Mapping[str, tuple[str, tuple[str, ...]]]) -> dict[str, str]:
    """fields: by key, in words, and what its column may be called, the best first."""
    plain = {column: "".join(ch for ch in column.lower() if ch.isalnum()) for column in columns}
    found = dict.fromkeys(columns, "")
    for name, (_, words) in fields.items():
        fits = [(words.index(text), column) for column, text in plain.items() if text in words and not found[column]]
        if fits:
            found[min(fits)[1]] = name
    if "given" in found.values() and "family" in found.values():
        found = {column: "" if name == "name" else name for column, name in found.items()}
    return found


def read_onesheet(sheet: Sheet, matched: Mapping[str, str], school: str, whole: bool, here: Here) -> Roster:
    """The roster of a sheet. matched: column to field, or to "attribute:" and a name, or empty to leave it out.
    school: for rows that name none. whole: the sheet has every student, so who is missing has left."""
    column = _columns(sheet, matched)
    reader = _OneSheet(sheet, column, school.strip(), here)
    for row in sheet.rows:
        reader.take(row)
    return reader.roster(whole, {name: c for c, name in matched.items() if name.startswith(ATTRIBUTE)})


def _columns(sheet: Sheet, matched: Mapping[str, str]) -> dict[str, str]:
    column: dict[str, str] = {}
    for name, target in matched.items():
        if name not in sheet.columns:
            raise ImportProblem(
                file=sheet.file,
                found=f"no column {name}",
                allowed=f"its columns are {', '.join(sheet.columns)}",
                line=1,
            )
        if not target or target.startswith(ATTRIBUTE):
            continue
        if target not in FIELDS:
            raise ImportProblem(
                file=sheet.file,
                found=f"column {name} matched with {target!r}",
                allowed=f"one of {', '.join(FIELDS)}",
                line=1,
            )
        if target in column:
            raise ImportProblem(
                file=sheet.file, found=f"{FIELDS[target][0]} matched twice", allowed="one column for each", line=1
            )
        column[target] = name
    if "id" not in column:
        raise ImportProblem(
            file=sheet.file,
            found="no column matched with student number",
            allowed="it tells apart two students of one name",
            line=1,
        )
    if "name" not in column and not {"given", "family"} <= column.keys():
        raise ImportProblem(
            file=sheet.file, found="no names", allowed="match given and family name, or the whole name", line=1
        )
    return column


class _OneSheet:
    def __init__(self, sheet: Sheet, column: Mapping[str, str], school: str, here: Here) -> None:
        self.sheet, self.column, self.school, self.here = sheet, column, school, here
        self.orgs: dict[str, SheetRow] = {}
        self.users: dict[str, SheetRow] = {}
        self.classes: dict[str, SheetRow] = {}
        self.enrolments: dict[str, SheetRow] = {}
        self.attributes: dict[tuple[str, str], SheetRow] = {}
        self.rows_of: dict[str, SheetRow] = {}
        self.left: list[LeftOut] = []

    def cell(self, row: SheetRow, name: str) -> str:
        return row.get(self.column[name]) if name in self.column else ""

    def take(self, row: SheetRow) -> None:
        id = self.cell(row, "id")
        if not id:
            raise self.sheet.problem(row, self.column["id"], "empty", "each student has a number")
        given, family = self._name(row)
        school = self._school(row)
        cells = {
            "sourcedId": id,
            "givenName": given,
            "familyName": family,
            "role": "student",
            "orgSourcedIds": school,
            "grades": self.cell(row, "grade"),
            "username": "",
        }
        before = self.users.get(id)
        if before is not None and (before["givenName"], before["familyName"]) != (given, family):
            raise self.sheet.problem(
                row,
                self.column["id"],
                f"{id} is {given} {family} here and {before['givenName']} {before['familyName']} in line {before.line}",
                "one number, one student",
            )
        self.users.setdefault(id, SheetRow(row.line, cells))
        self.rows_of.setdefault(id, row)
        for title, subject, homeroom in (
            (self.cell(row, "class"), self.cell(row, "subject"), ""),
            (self.cell(row, "homeroom"), "", "homeroom"),
        ):
            if title:
                self._class(row, id, school, title, subject, homeroom)

    def _name(self, row: SheetRow) -> tuple[str, str]:
        if "name" in self.column:
            text = self.cell(row, "name")
            family, comma, given = text.partition(",")
            if comma:
                return given.strip(), family.strip()
            given, _, family = text.rpartition(" ")
            return given.strip(), family.strip()
        return self.cell(row, "given"), self.cell(row, "family")

    def _school(self, row: SheetRow) -> str:
        name = self.cell(row, "school") or self.school
        if not name:
            raise self.sheet.problem(row, "school", "no school", "match a column with the school, or choose one")
        id = self.here.schools.get(name.lower(), f"sheet:{name}")
        self.orgs.setdefault(id, SheetRow(row.line, {"sourcedId": id, "name": name, "type": "school"}))
        return id

    def _class(self, row: SheetRow, student: str, school: str, title: str, subject: str, homeroom: str) -> None:
        id = self.here.classes.get((school, title.lower()), f"sheet:{school}:{title}")
        cells = {
            "sourcedId": id,
            "title": title,
            "schoolSourcedId": school,
            "subjects": subject,
            "grades": self.cell(row, "grade"),
            "location": "" if homeroom else self.cell(row, "room"),
            "classType": homeroom,
        }
        self.classes.setdefault(id, SheetRow(row.line, cells))
        self._enrol(row, id, student, "student")
        teacher = "" if homeroom else self.cell(row, "teacher")
        if teacher:
            family, comma, given = teacher.partition(",")
            if not comma:
                given, _, family = teacher.rpartition(" ")
            given, family = given.strip(), family.strip()
            key = (school, f"{given} {family}".strip().lower())
            person = self.here.staff.get(key, f"sheet:{school}:{given} {family}")
            self.users.setdefault(
                person,
                SheetRow(
                    row.line,
                    {
                        "sourcedId": person,
                        "givenName": given,
                        "familyName": family,
                        "role": "teacher",
                        "orgSourcedIds": school,
                        "grades": "",
                        "username": "",
                    },
                ),
            )
            self._enrol(row, id, person, "teacher")

    def _enrol(self, row: SheetRow, klass: str, user: str, role: str) -> None:
        id = f"{klass}:{user}"
        cells = {"sourcedId": id, "classSourcedId": klass, "userSourcedId": user, "role": role}
        self.enrolments.setdefault(id, SheetRow(row.line, cells))

    def roster(self, whole: bool, attributes: Mapping[str, str]) -> Roster:
        tables = {
            "orgs.csv": self.orgs,
            "users.csv": self.users,
            "classes.csv": self.classes,
            "enrollments.csv": self.enrolments,
        }
        sheets = {}
        for name, rows in tables.items():
            columns = next(iter(rows.values())).cells.keys() if rows else ("sourcedId",)
            sheets[name] = Sheet(self.sheet.file, tuple(columns), tuple(rows.values()))
        found = roster_of(sheets, True, self.here.known)
        values = tuple(
            (id, target.removeprefix(ATTRIBUTE), row.get(column))
            for id, row in self.rows_of.items()
            for target, column in attributes.items()
            if row.get(column)
        )
        complete = frozenset({"student", "enrolment"}) if whole else frozenset[str]()
        return Roster(
            orgs=found.orgs,
            sessions=(),
            users=found.users,
            classes=found.classes,
            enrolments=found.enrolments,
            left_out=found.left_out,
            complete=complete,
            gone=(),
            attributes=values,
        )
