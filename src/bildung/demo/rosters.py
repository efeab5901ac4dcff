"""The schools of the demo as OneRoster 1.1 bulk files: a middle school with a class for each subject, elementary schools
whose teachers teach every subject to their own homeroom."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date

from bildung.demo.files import SUBJECTS, sheet
from bildung.demo.names import distinct_names

MIDDLE_SUBJECTS = ("Mathematics", "Reading")
PERIODS = 6
USER_COLUMNS = (
    "sourcedId",
    "enabledUser",
    "orgSourcedIds",
    "role",
    "username",
    "givenName",
    "familyName",
    "grades",
    "agentSourceIds",
)
CLASS_COLUMNS = (
    "sourcedId",
    "title",
    "grades",
    "schoolSourcedId",
    "termSourcedIds",
    "subjects",
    "location",
    "periods",
    "classType",
)
ENROLMENT_COLUMNS = ("sourcedId", "classSourcedId", "schoolSourcedId", "userSourcedId", "role")
Row = Sequence[object]


@dataclass(frozen=True, kw_only=True)
class Layout:
    """A school to make up. classes: per grade, and per subject in a middle school. size: students a class. begins, ends:
    of its school year; August to July of `year` where not said. rich: with homerooms, periods and families, from a
    source of chance of their own, so that everything else stays as it is without them. science: with classes in science
    too. homerooms: an elementary school."""

    key: str
    name: str
    grades: tuple[str, ...]
    classes: int
    size: int
    year: int
    begins: date | None = None
    ends: date | None = None
    rich: bool = False
    science: bool = False
    homerooms: bool = False

    @property
    def term(self) -> str:
        return f"{self.key}-{self.year}"


@dataclass
class Rows:
    """Of the three long files, as they are written."""

    users: list[Row] = field(default_factory=list)
    classes: list[Row] = field(default_factory=list)
    enrolments: list[Row] = field(default_factory=list)


def roster_files(layout: Layout, rng: random.Random) -> dict[str, bytes]:
    """The bulk files of one school."""
    return _written([layout], _school(layout, rng, set()))


def district_files(layouts: Sequence[Layout], rng: random.Random) -> dict[str, bytes]:
    """The bulk files of several schools in one set. The first draws from `rng`, each other one from its own source."""
    every, taken = Rows(), set[tuple[str, str]]()
    for at, layout in enumerate(layouts):
        rows = _school(layout, rng if at == 0 else random.Random(f"school {layout.key}"), taken)
        taken |= {(str(user[5]), str(user[6])) for user in rows.users}
        every.users += rows.users
        every.classes += rows.classes
        every.enrolments += rows.enrolments
    return _written(layouts, every)


def _written(layouts: Sequence[Layout], rows: Rows) -> dict[str, bytes]:
    rich = any(layout.rich for layout in layouts)
    terms = []
    for layout in layouts:
        begins, ends = layout.begins or date(layout.year, 8, 1), layout.ends or date(layout.year + 1, 7, 31)
        terms.append((layout.term, year_title(begins, ends), "schoolYear", begins, ends, ends.year))
    return {
        "orgs.csv": sheet(("sourcedId", "name", "type"), [(layout.key, layout.name, "school") for layout in layouts]),
        "academicSessions.csv": sheet(("sourcedId", "title", "type", "startDate", "endDate", "schoolYear"), terms),
        "users.csv": sheet(USER_COLUMNS if rich else USER_COLUMNS[:-1], rows.users),
        "classes.csv": sheet(CLASS_COLUMNS if rich else CLASS_COLUMNS[:-2], rows.classes),
        "enrollments.csv": sheet(ENROLMENT_COLUMNS, rows.enrolments),
    }


def year_title(begins: date, ends: date) -> str:
    return f"{begins.year}/{ends.year % 100:02d}" if ends.year > begins.year else str(begins.year)


def _school(layout: Layout, rng: random.Random, taken: set[tuple[str, str]]) -> Rows:
    rows = _elementary(layout, rng, taken) if layout.homerooms else _middle(layout, rng)
    if layout.rich:
        rows = _rich(layout, rows)
    return rows


def _middle(layout: Layout, rng: random.Random) -> Rows:
    """A class in each subject for every student; a teacher has two classes."""
    rows, key = Rows(), layout.key
    groups = len(layout.grades) * layout.classes
    names = distinct_names(rng, groups * layout.size + groups + 4)
    teachers: dict[str, list[str]] = {}
    for subject in MIDDLE_SUBJECTS:
        teachers[subject] = _teachers(rows, layout, subject, names)
    for at in range(2):
        _staff(rows, key, f"{key}-P{at + 1:02d}", "proctor", names.pop())
    members: dict[str, list[str]] = {}
    for place, grade in enumerate(layout.grades):
        members[grade] = [
            _student(rows, key, place * layout.classes * layout.size + at + 1, grade, names.pop())
            for at in range(layout.classes * layout.size)
        ]
        for subject in MIDDLE_SUBJECTS:
            shuffled = members[grade][:]
            if subject == "Reading":
                rng.shuffle(shuffled)
            _subject_classes(rows, layout, subject, place, grade, teachers[subject], shuffled)
    if layout.science:
        own = random.Random(f"{key} science")
        used = {(str(u[5]), str(u[6])) for u in rows.users}
        more = [name for name in distinct_names(own, 4 * groups) if name not in used]
        scientists = _teachers(rows, layout, "Science", more)
        for place, grade in enumerate(layout.grades):
            shuffled = members[grade][:]
            own.shuffle(shuffled)
            _subject_classes(rows, layout, "Science", place, grade, scientists, shuffled)
    return rows


def _elementary(layout: Layout, rng: random.Random, taken: set[tuple[str, str]]) -> Rows:
    """Each homeroom has one teacher, who teaches it mathematics, reading and science; classes are called by the
    teacher's name, as such schools do."""
    rows, key = Rows(), layout.key
    rooms = len(layout.grades) * layout.classes
    names = [n for n in distinct_names(rng, rooms * (layout.size + 1) + 4 + len(taken)) if n not in taken]
    for at in range(2):
        _staff(rows, key, f"{key}-P{at + 1:02d}", "proctor", names.pop())
    number = 0
    for place, grade in enumerate(layout.grades):
        for at in range(layout.classes):
            name = names.pop()
            teacher = _staff(rows, key, f"{key}-T{place * layout.classes + at + 1:02d}", "teacher", name)
            members = []
            for _ in range(layout.size):
                number += 1
                members.append(_student(rows, key, number, grade, names.pop()))
            room = f"{place + 1}{at + 1:02d}"
            for subject, letter in SUBJECTS.items():
                id = f"{key}-{grade}{letter}{at + 1}"
                rows.classes.append((id, f"{subject} {grade} {name[1]}", grade, key, layout.term, subject, room))
                rows.enrolments.append((f"{id}-T", id, key, teacher, "teacher"))
                rows.enrolments += [(f"{id}-{student}", id, key, student, "student") for student in members]
    return rows


def _teachers(rows: Rows, layout: Layout, subject: str, names: list[tuple[str, str]]) -> list[str]:
    letter, groups = SUBJECTS[subject], len(layout.grades) * layout.classes
    return [
        _staff(rows, layout.key, f"{layout.key}-T{letter}{at + 1:02d}", "teacher", names.pop())
        for at in range((groups + 1) // 2)
    ]


def _staff(rows: Rows, key: str, id: str, role: str, name: tuple[str, str]) -> str:
    given, family = name
    rows.users.append((id, "true", key, role, f"{given}.{family}".lower(), given, family, ""))
    return id


def _student(rows: Rows, key: str, number: int, grade: str, name: tuple[str, str]) -> str:
    id, coded = f"{key}-S{number:04d}", "KG" if grade == "K" else f"{int(grade):02d}"
    rows.users.append((id, "true", key, "student", "", *name, coded))
    return id


def _subject_classes(
    rows: Rows, layout: Layout, subject: str, place: int, grade: str, teachers: Sequence[str], students: Sequence[str]
) -> None:
    key, letter = layout.key, SUBJECTS[subject]
    for at in range(layout.classes):
        id = f"{key}-{grade}{letter}{at + 1}"
        room = f"{'ABCDEFGH'[at % 8]}{grade}{'MRS'.index(letter) + 1}"
        rows.classes.append((id, f"{subject} {grade}.{at + 1}", grade, key, layout.term, subject, room))
        teacher = teachers[(place * layout.classes + at) // 2]
        rows.enrolments.append((f"{id}-T", id, key, teacher, "teacher"))
        mine = students[at * layout.size : (at + 1) * layout.size]
        rows.enrolments += [(f"{id}-{student}", id, key, student, "student") for student in mine]


def _rich(layout: Layout, rows: Rows) -> Rows:
    """Every second student's family, the class's period, and a homeroom that follows the mathematics class."""
    rng = random.Random(f"{layout.key} families")
    students = [u for u in rows.users if u[3] == "student"]
    taken = {str(u[4]) for u in rows.users}
    given_names = [given for given, _ in distinct_names(rng, len(students))]
    people: list[Row] = []
    for at, user in enumerate(rows.users):
        if user[3] != "student" or at % 2:
            people.append((*user, ""))
            continue
        given, family = given_names[at % len(given_names)], str(user[6])
        id, username = f"{layout.key}-F{str(user[0]).split('S')[-1]}", f"{given}.{family}".lower().replace(" ", "-")
        if layout.homerooms:  # a username is one person's in the whole district
            username += f".{layout.key.lower()}"
        while username in taken:
            username += "2"
        taken.add(username)
        people.append((*user, id))
        people.append((id, "true", layout.key, "guardian", username, given, family, "", ""))
    more: list[Row] = []
    for at, row in enumerate(rows.classes):
        late = ("Mathematics", "Reading", "Science").index(str(row[5])) * 3
        more.append((*row, (at % layout.classes + late) % PERIODS + 1, ""))
    enrolled = list(rows.enrolments)
    for row in rows.classes:
        if row[5] != "Mathematics":
            continue
        id = f"{layout.key}-{row[2]}H{str(row[0])[-1]}"
        title = f"Homeroom {str(row[1]).removeprefix('Mathematics ')}"
        more.append((id, title, row[2], layout.key, row[4], "", row[6], "", "homeroom"))
        enrolled += [(f"{id}-{e[3]}", id, layout.key, e[3], e[4]) for e in rows.enrolments if e[1] == row[0]]
    return Rows(people, more, enrolled)
