"""The demo's inputs as the open files a school would bring, so that they go in by the same door."""

from __future__ import annotations

import csv
import io
import random
import zipfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from xml.sax.saxutils import escape

from bildung.demo.draft import Draft
from bildung.demo.names import distinct_names
from bildung.formats.content import Behind, Misconception
from bildung.formats.itemlist import ItemRecord, StimulusRecord, Tags, simple_record

SUBJECTS = {"Mathematics": "M", "Reading": "R"}


@dataclass(frozen=True, kw_only=True)
class Layout:
    """A school to make up. classes: per grade and subject. size: students a class. rich: with homerooms, periods and
    families, from a source of chance of their own, so that everything else stays as it is without them."""

    key: str
    name: str
    grades: tuple[str, ...]
    classes: int
    size: int
    year: int
    rich: bool = False


def sheet(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(columns)
    writer.writerows(rows)
    return out.getvalue().encode()


def roster_files(layout: Layout, rng: random.Random) -> dict[str, bytes]:
    """OneRoster 1.1 bulk files of one school: a class each in mathematics and reading for every student."""
    key, year = layout.key, layout.year
    term = f"{key}-{year}"
    users: list[Sequence[object]] = []
    classes: list[Sequence[object]] = []
    enrolments: list[Sequence[object]] = []
    groups = len(layout.grades) * layout.classes
    names = distinct_names(rng, groups * layout.size + groups + 4)
    teachers: dict[str, list[str]] = {}
    for subject, letter in SUBJECTS.items():
        teachers[subject] = []
        for at in range((groups + 1) // 2):
            given, family = names.pop()
            id = f"{key}-T{letter}{at + 1:02d}"
            users.append((id, "true", key, "teacher", f"{given}.{family}".lower(), given, family, ""))
            teachers[subject].append(id)
    for at in range(2):
        given, family = names.pop()
        users.append((f"{key}-P{at + 1:02d}", "true", key, "proctor", f"{given}.{family}".lower(), given, family, ""))
    number = 0
    for place, grade in enumerate(layout.grades):
        members: list[str] = []
        for _ in range(layout.classes * layout.size):
            number += 1
            given, family = names.pop()
            id = f"{key}-S{number:04d}"
            members.append(id)
            users.append((id, "true", key, "student", "", given, family, f"{int(grade):02d}"))
        for subject, letter in SUBJECTS.items():
            shuffled = members[:]
            if subject == "Reading":
                rng.shuffle(shuffled)
            for at in range(layout.classes):
                id = f"{key}-{grade}{letter}{at + 1}"
                room = f"{'ABCDEFGH'[at % 8]}{grade}{1 if letter == 'M' else 2}"
                classes.append((id, f"{subject} {grade}.{at + 1}", grade, key, term, subject, room))
                teacher = teachers[subject][(place * layout.classes + at) // 2]
                enrolments.append((f"{id}-T", id, key, teacher, "teacher"))
                mine = shuffled[at * layout.size : (at + 1) * layout.size]
                enrolments += [(f"{id}-{student}", id, key, student, "student") for student in mine]
    files = {
        "orgs.csv": sheet(("sourcedId", "name", "type"), [(key, layout.name, "school")]),
        "academicSessions.csv": sheet(
            ("sourcedId", "title", "type", "startDate", "endDate", "schoolYear"),
            [(term, f"{year}/{year % 100 + 1:02d}", "schoolYear", f"{year}-08-01", f"{year + 1}-07-31", year + 1)],
        ),
        "users.csv": sheet(
            ("sourcedId", "enabledUser", "orgSourcedIds", "role", "username", "givenName", "familyName", "grades"),
            users,
        ),
        "classes.csv": sheet(
            ("sourcedId", "title", "grades", "schoolSourcedId", "termSourcedIds", "subjects", "location"), classes
        ),
        "enrollments.csv": sheet(
            ("sourcedId", "classSourcedId", "schoolSourcedId", "userSourcedId", "role"), enrolments
        ),
    }
    return _rich(layout, files, users, classes, enrolments) if layout.rich else files


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
PERIODS = 6


def _rich(
    layout: Layout,
    files: dict[str, bytes],
    users: list[Sequence[object]],
    classes: list[Sequence[object]],
    enrolments: list[Sequence[object]],
) -> dict[str, bytes]:
    """Every second student's family, the class's period, and a homeroom that follows the mathematics class."""
    rng = random.Random(f"{layout.key} families")
    students = [u for u in users if u[3] == "student"]
    taken = {str(u[4]) for u in users}
    given_names = [given for given, _ in distinct_names(rng, len(students))]
    people: list[Sequence[object]] = []
    for at, user in enumerate(users):
        if user[3] != "student" or at % 2:
            people.append((*user, ""))
            continue
        given, family = given_names[at % len(given_names)], str(user[6])
        id, username = f"{layout.key}-F{str(user[0]).split('S')[-1]}", f"{given}.{family}".lower().replace(" ", "-")
        while username in taken:
            username += "2"
        taken.add(username)
        people.append((*user, id))
        people.append((id, "true", layout.key, "guardian", username, given, family, "", ""))
    more = [
        (*row, (at % layout.classes + (0 if row[5] == "Mathematics" else 3)) % PERIODS + 1, "")
        for at, row in enumerate(classes)
    ]
    enrolled = list(enrolments)
    for row in classes:
        if row[5] != "Mathematics":
            continue
        id = f"{layout.key}-{row[2]}H{str(row[0])[-1]}"
        more.append((id, f"Homeroom {str(row[1]).split()[-1]}", row[2], layout.key, row[4], "", row[6], "", "homeroom"))
        enrolled += [(f"{id}-{e[3]}", id, layout.key, e[3], e[4]) for e in enrolments if e[1] == row[0]]
    columns = ("sourcedId", "classSourcedId", "schoolSourcedId", "userSourcedId", "role")
    return files | {
        "users.csv": sheet(USER_COLUMNS, people),
        "classes.csv": sheet(CLASS_COLUMNS, more),
        "enrollments.csv": sheet(columns, enrolled),
    }


@dataclass(frozen=True, kw_only=True)
class DemoItem:
    """A draft with its options in the order shown; key: letter or number."""

    code: str
    draft: Draft
    options: tuple[str, ...]
    key: str
    subject: str
    grade: str


def place(drafts: Sequence[Draft], prefix: str, subject: str, grade: str, rng: random.Random) -> list[DemoItem]:
    """Codes and shuffled options."""
    placed = []
    for at, draft in enumerate(drafts, 1):
        if draft.numeric:
            placed.append(
                DemoItem(
                    code=f"{prefix}-{at:02d}", draft=draft, options=(), key=draft.right, subject=subject, grade=grade
                )
            )
            continue
        options = [draft.right, *draft.wrong]
        rng.shuffle(options)
        key = "ABCD"[options.index(draft.right)]
        placed.append(
            DemoItem(
                code=f"{prefix}-{at:02d}", draft=draft, options=tuple(options), key=key, subject=subject, grade=grade
            )
        )
    return placed


def item_sheet(items: Sequence[DemoItem]) -> bytes:
    """The items as the CSV that the bank takes."""
    columns = (
        "code",
        "type",
        "stem",
        "option_A",
        "option_B",
        "option_C",
        "option_D",
        "key",
        "points",
        "standards",
        "subject",
        "grade",
    )
    rows = [
        (
            p.code,
            "numeric" if p.draft.numeric else "choice",
            p.draft.stem,
            *(p.options or ("",) * 4),
            p.key,
            1,
            f"BAF-{p.draft.standard}",
            p.subject,
            p.grade,
        )
        for p in items
    ]
    return sheet(columns, rows)


def records(items: Sequence[DemoItem]) -> list[ItemRecord]:
    """The same items as the bank takes them; a passage before the question becomes the stimulus of its questions."""
    found = []
    for p in items:
        kind = "numeric" if p.draft.numeric else "choice"
        stem, stimulus = p.draft.stem, None
        if stem.startswith("<blockquote>"):
            passage, _, stem = stem.removeprefix("<blockquote>").partition("</blockquote>")
            stimulus = StimulusRecord(
                code=f"TXT-{p.grade}{p.draft.about.partition(' ')[0]}",
                title=p.draft.about,
                kind="passage",
                html=passage,
                numbered=True,
                credit="written for the federation",
            )
        record = simple_record(
            p.code,
            kind,
            stem,
            list(zip("ABCD", p.options, strict=False)),
            p.key,
            1.0,
            (f"BAF-{p.draft.standard}",),
            p.subject,
            p.grade,
        )
        letters = dict(zip(p.options, "ABCD", strict=False))
        said = [
            Misconception(answer=letters.get(text, text), note=note)
            for text, note in p.draft.notes
            if text in letters or p.draft.numeric
        ]
        record = replace(record, content=record.content.model_copy(update={"behind": Behind(misconceptions=said)}))
        depth = 1 if p.draft.standard[-1] in "12" else 2
        found.append(replace(record, stimulus=stimulus, tags=Tags(depth=depth, language="en", seconds=75)))
    return found


def item_package(items: Sequence[DemoItem]) -> bytes:
    """The choice items as a QTI 3.0 package."""
    files: dict[str, bytes] = {}
    resources = []
    for item in items:
        if item.draft.numeric:
            continue
        choices = "".join(
            f'<qti-simple-choice identifier="{"ABCD"[at]}">{text}</qti-simple-choice>'
            for at, text in enumerate(item.options)
        )
        xml = (
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            '<qti-assessment-item xmlns="http://www.imsglobal.org/xsd/imsqtiasi_v3p0" '
            f'identifier="{escape(item.code)}" title="{escape(item.code)}" adaptive="false" time-dependent="false">'
            '<qti-response-declaration identifier="RESPONSE" cardinality="single" base-type="identifier">'
            f"<qti-correct-response><qti-value>{item.key}</qti-value></qti-correct-response></qti-response-declaration>"
            f'<qti-item-body>{item.draft.stem}<qti-choice-interaction response-identifier="RESPONSE" max-choices="1">'
            f"{choices}</qti-choice-interaction></qti-item-body></qti-assessment-item>\n"
        )
        path = f"items/{item.code}.xml"
        files[path] = xml.encode()
        resources.append(
            f'<resource identifier="{item.code}" type="imsqti_item_xmlv3p0" href="{path}"><metadata>'
            f"<curriculumStandardsMetadataSet><curriculumStandardsMetadata><setOfGUIDs><labelledGUID><label>standard"
            f"</label><identifier>BAF-{item.draft.standard}</identifier></labelledGUID></setOfGUIDs>"
            f'</curriculumStandardsMetadata></curriculumStandardsMetadataSet></metadata><file href="{path}"/></resource>'
        )
    manifest = (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        '<manifest xmlns="http://www.imsglobal.org/xsd/qti/qtiv3p0/imscp_v1p1" identifier="bildung-samples">'
        "<metadata><schema>QTI Package</schema><schemaversion>3.0.0</schemaversion></metadata><organizations/>"
        f"<resources>{''.join(resources)}</resources></manifest>\n"
    )
    return archive({"imsmanifest.xml": manifest.encode(), **files})


def archive(files: dict[str, bytes]) -> bytes:
    """A zip whose bytes depend on its contents alone."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        for name, data in files.items():
            target.writestr(zipfile.ZipInfo(name, (2026, 1, 1, 0, 0, 0)), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()
