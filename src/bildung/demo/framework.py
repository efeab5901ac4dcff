"""The made-up Brackwater Attainment Framework as two CASE packages: this one, and the one it replaced."""

from __future__ import annotations

import json
from datetime import UTC, datetime

from bildung.demo import mathematics, reading
from bildung.demo.items import early_reading, science, young
from bildung.formats.case import FrameworkRecord, RelationRecord, StandardRecord, own_identifier, write_case

TITLE, CREATOR = "Brackwater Attainment Framework", "Brackwater Federation"
NOW, BEFORE = "2024", "2017"
PRIORITY = ("M6.1", "M6.3", "M7.3", "M8.2", "R6.4", "R7.4", "R8.4")
AT = datetime(2026, 8, 1, tzinfo=UTC)
BASE = "https://brackwater.example"
_SUBJECTS = (
    ("M", "Mathematics", young.STANDARDS | mathematics.STANDARDS),
    ("R", "Reading", early_reading.STANDARDS | reading.STANDARDS),
    ("S", "Science", science.STANDARDS),
)
GRADES = ("K", "1", "2", "3", "4", "5", "6", "7", "8")


def _was_there(letter: str, grade: str) -> bool:
    """The older framework was for the middle school, in two subjects."""
    return letter in "MR" and grade in "678"


def _records() -> tuple[FrameworkRecord, FrameworkRecord]:
    """Subject, grade, standard. The older one counted from A and had no grade 8 standard after the fourth."""
    versions = []
    links: list[RelationRecord] = []
    for version in (BEFORE, NOW):
        framework = own_identifier(TITLE, version)
        standards: list[StandardRecord] = []

        def add(
            code: str,
            text: str,
            parent: str,
            kind: str,
            position: float,
            subject: str,
            grade: str = "",
            plain: str = "",
            *,
            priority: bool = False,
            framework: str = framework,
            standards: list[StandardRecord] = standards,
        ) -> str:
            identifier = own_identifier(framework, code)
            standards.append(
                StandardRecord(
                    identifier=identifier,
                    code=code,
                    text=text,
                    plain=plain,
                    kind=kind,
                    subject=subject,
                    grade=grade,
                    grade_to=grade,
                    priority=priority,
                    parent=parent,
                    position=position,
                )
            )
            return identifier

        for letter, subject, found in _SUBJECTS:
            if version == BEFORE and not _was_there(letter, "6"):
                continue
            top = add(
                f"BAF-{letter}" if version == NOW else f"{subject[:4].upper()}",
                subject,
                "",
                "subject",
                float("MRS".index(letter)),
                subject,
            )
            for grade in GRADES:
                if version == BEFORE and not _was_there(letter, grade):
                    continue
                prefix = f"BAF-{letter}{grade}" if version == NOW else f"{subject[:4].upper()}-{grade}"
                above = add(
                    prefix, f"{subject}, grade {grade}", top, "grade", float(GRADES.index(grade)), subject, grade
                )
                for at, (code, (text, plain)) in enumerate((c, t) for c, t in found.items() if c[:2] == letter + grade):
                    if version == NOW:
                        mine = add(
                            f"BAF-{code}",
                            text,
                            above,
                            "standard",
                            float(at),
                            subject,
                            grade,
                            plain,
                            priority=code in PRIORITY,
                        )
                        old = own_identifier(
                            own_identifier(TITLE, BEFORE), f"{subject[:4].upper()}-{grade}{'ABCDEFGH'[at]}"
                        )
                        if _was_there(letter, grade) and not (grade == "8" and at > 3):
                            links.append(RelationRecord(old, "replacedBy" if at % 3 else "exactMatchOf", mine))
                    elif not (grade == "8" and at > 3):
                        add(
                            f"{prefix}{'ABCDEFGH'[at]}",
                            text.replace("Find", "Work out"),
                            above,
                            "standard",
                            float(at),
                            subject,
                            grade,
                        )
        versions.append(
            FrameworkRecord(
                identifier=framework,
                title=TITLE,
                version=version,
                creator=CREATOR,
                language="en",
                standards=tuple(standards),
                links=tuple(links) if version == NOW else (),
            )
        )
    return versions[1], versions[0]


def case_packages() -> list[dict[str, bytes]]:
    """Files to bring in, in this order: the present one is the main one, and its links need the older one there."""
    now, before = _records()
    bare = FrameworkRecord(
        identifier=now.identifier,
        title=now.title,
        version=now.version,
        creator=now.creator,
        language=now.language,
        standards=now.standards,
    )
    return [
        {f"baf-{number}.json": json.dumps(write_case(record, "1.1", BASE, AT)).encode()}
        for number, record in (("2024", bare), ("2017", before), ("2024", now))
    ]
