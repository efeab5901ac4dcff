"""Last year: the classes of then, and the benchmarks of its three windows. What students answered is there; the log of
each answer's moment and the times are not, since a school keeps them for a year."""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.demo.district import DemoYear, local_time, school_day
from bildung.services.shared.codes import SESSION_LENGTH, new_code
from bildung.store.models import Enrolment, Person, PlannedSession, School, SchoolClass, SchoolYear, Sitting, Window

SIZE = 24
LETTERS = {"Mathematics": "M", "Reading": "R"}


@dataclass(frozen=True, kw_only=True)
class EarlierClass:
    """A class of last year with its students of then."""

    id: int
    subject: str
    grade: str
    students: tuple[int, ...]


def earlier_classes(
    db: Session, year: DemoYear, wanted: Callable[[str, str], bool], most: int | None = None
) -> list[EarlierClass]:
    """wanted: by subject and the grade of then. most: classes of each. None where the demo knows no earlier year."""
    term = db.scalar(select(SchoolYear).where(SchoolYear.start < year.begins).order_by(SchoolYear.start.desc()))
    if term is None:
        return []
    students: dict[tuple[str, str], list[Person]] = {}
    for person in db.scalars(select(Person).where(Person.kind == "student").order_by(Person.source_id)):
        if person.grade in (None, "", "K"):
            continue
        then = "K" if person.grade == "1" else str(int(person.grade or 1) - 1)
        students.setdefault((person.source_id.partition("-")[0], then), []).append(person)
    schools = {source: id for source, id in db.execute(select(School.source_id, School.id))}
    made = []
    for (key, grade), every in sorted(students.items()):
        groups = [every[place : place + SIZE] for place in range(0, len(every), SIZE)]
        groups = [group for group in groups if len(group) > SIZE // 2][:most]
        for subject, letter in LETTERS.items():
            if not wanted(subject, grade):
                continue
            for number, group in enumerate(groups, 1):
                school = _school_then(key, grade, number)
                teachers = _teachers(db, school, letter)
                klass = SchoolClass(
                    source_id=f"{school}-{grade}{letter}{number}-{term.start.year}",
                    title=f"{subject} {grade}.{number}, {term.title}",
                    school_id=schools.get(school, group[0].school_id),
                    subject=subject,
                    grade=grade,
                    course=f"{subject} {grade}",
                    year_id=term.id,
                    active=False,
                )
                db.add(klass)
                db.flush()
                teacher = teachers[(number - 1) % len(teachers)]
                db.add(Enrolment(class_id=klass.id, person_id=teacher.id, role="teacher", active=False))
                db.add_all(Enrolment(class_id=klass.id, person_id=p.id, role="student", active=False) for p in group)
                made.append(
                    EarlierClass(id=klass.id, subject=subject, grade=grade, students=tuple(p.id for p in group))
                )
    return made


def _school_then(key: str, grade: str, number: int) -> str:
    """The sixth grade came from the elementary schools."""
    if key == "BM" and grade == "5":
        return "EQ" if number <= 2 else "HM"
    return key


def _teachers(db: Session, key: str, letter: str) -> Sequence[Person]:
    """Of the subject in the middle school, of any grade elsewhere."""
    start = f"{key}-T{letter}" if key == "BM" else f"{key}-T"
    return db.scalars(select(Person).where(Person.source_id.startswith(start)).order_by(Person.source_id)).all()


def earlier_sessions(
    db: Session, classes: Sequence[EarlierClass], form_id: int, window: Window, days: int
) -> list[int]:
    """A session for each of the classes, so many school days after the window opened; nothing is answered yet."""
    rng = random.Random(f"{form_id} {window.id}")
    taken, made = set(db.scalars(select(PlannedSession.code))), list[PlannedSession]()
    start: datetime = local_time(school_day(window.start, days), 8, 30)
    for klass in classes:
        code = new_code(SESSION_LENGTH, taken, rng.choice)
        taken.add(code)
        session = PlannedSession(
            form_id=form_id,
            window_id=window.id,
            class_id=klass.id,
            start=start,
            end=start + timedelta(minutes=60),
            code=code,
        )
        session.sittings = [Sitting(person_id=id) for id in klass.students]
        made.append(session)
    db.add_all(made)
    db.flush()
    return [session.id for session in made]
