"""Into the next school year: everybody moves up, new classes, last year's set aside with their results.

Made for schools whose records do not bring the new year by themselves. Looked at first like any import.
"""

from __future__ import annotations

import json
from collections import defaultdict
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.promotion import next_grade, next_title
from bildung.services.calendar.years import local_today
from bildung.services.people.changes import LOCAL, moved, stamp
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.codes import SESSION_LENGTH, new_code
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.services.shared.staging import Planned, Planner, Preview, PreviewLine, decide, stage
from bildung.store.models import Enrolment, Person, PlannedSession, School, SchoolClass, SchoolYear

FILE = "rollover.json"


@dataclass(frozen=True)
class RolloverPlan:
    """stay: students (own codes or numbers) who repeat their grade."""

    title: str
    start: date
    end: date
    stay: list[str] = field(default_factory=list)


def preview(ctx: Context, actor: Actor, wanted: RolloverPlan) -> Preview:
    """Look at what moving up a year would change."""
    scope(actor, Action.PEOPLE_IMPORT)
    data = {"title": wanted.title, "start": str(wanted.start), "end": str(wanted.end), "stay": wanted.stay}
    return stage(ctx, actor, "rollover", {FILE: json.dumps(data).encode()}, _planner(ctx))


def apply(ctx: Context, actor: Actor, id: str, yes: bool = False) -> Preview:
    """Move up a year as it was looked at."""
    scope(actor, Action.PEOPLE_IMPORT)
    return decide(ctx, actor, "rollover", id, _planner(ctx), yes)


def _planner(ctx: Context) -> Planner:
    def planner(db: Session, files: dict[str, bytes], job: Any) -> Planned:
        data = json.loads(files[FILE])
        wanted = RolloverPlan(
            data["title"], date.fromisoformat(data["start"]), date.fromisoformat(data["end"]), list(data["stay"])
        )
        move = _Move(db, wanted, local_today(ctx, db))
        return Planned(move.lines, move.write, stamp)

    return planner


class _Move:
    """The plan of one rollover. A school's grades are those that its students are in."""

    def __init__(self, db: Session, wanted: RolloverPlan, today: date) -> None:
        self.wanted, self.today = wanted, today
        self.lines: list[PreviewLine] = []
        self._year(db)
        self.students = db.scalars(
            select(Person).where(Person.kind == "student", Person.active.is_(True)).order_by(Person.id)
        ).all()
        self.classes = db.scalars(
            select(SchoolClass).where(SchoolClass.active.is_(True)).order_by(SchoolClass.id)
        ).all()
        self.schools = {s.id: s.name for s in db.scalars(select(School))}
        self.members: defaultdict[int, list[int]] = defaultdict(list)
        self.teachers: defaultdict[int, list[int]] = defaultdict(list)
        for class_id, person_id, role in db.execute(
            select(Enrolment.class_id, Enrolment.person_id, Enrolment.role).where(Enrolment.active.is_(True))
        ):
            (self.teachers if role == "teacher" else self.members)[class_id].append(person_id)
        self.staying = self._staying()
        self._promote()
        self._form()

    def _year(self, db: Session) -> None:
        if not 90 <= (self.wanted.end - self.wanted.start).days <= 400:
            raise Invalid("a school year lasts between 90 and 400 days", "end")
        clash = db.scalar(
            select(SchoolYear).where(SchoolYear.start <= self.wanted.end, SchoolYear.end >= self.wanted.start)
        )
        if clash is not None:
            raise Conflict(f"{clash.title} ({clash.start} to {clash.end}) overlaps these days", "start")
        if not self.wanted.title.strip():
            raise Invalid("the year needs a title, such as 2027/28", "title")
        if db.scalar(select(SchoolYear.id).where(SchoolYear.title == self.wanted.title)):
            raise Conflict(f"there is a school year {self.wanted.title} already", "title")
        open_session = db.scalar(select(PlannedSession).where(PlannedSession.closed_at.is_(None)))
        if open_session is not None:
            raise Conflict(
                f"{open_session.klass.title} still has a session that is not closed; close it first", "title"
            )
        self.lines.append(
            PreviewLine(
                fate="added",
                what="school year",
                id=self.wanted.title,
                label=self.wanted.title,
                detail=f"{self.wanted.start} to {self.wanted.end}",
            )
        )

    def _staying(self) -> set[int]:
        by_text = {p.source_id.lower(): p.id for p in self.students} | {
            p.code.lower(): p.id for p in self.students if p.code
        }
        found = set()
        for text in self.wanted.stay:
            id = by_text.get(text.strip().lower())
            if id is None:
                raise Invalid(f"no one has the number or sign-in code {text.strip()!r}", "stay")
            found.add(id)
        return found

    def _promote(self) -> None:
        held: defaultdict[int | None, set[str]] = defaultdict(set)
        for p in self.students:
            held[p.school_id].add(p.grade)
        self.up: dict[int, str] = {}
        self.leaving: list[int] = []
        self.unknown = 0
        elsewhere = {
            grade: {school for school in held if grade in held[school]} for grades in held.values() for grade in grades
        }
        self.changes_school: dict[int, int | None] = {}
        for p in self.students:
            above = next_grade(p.grade)
            if p.id in self.staying:
                self.lines.append(
                    PreviewLine(fate="same", what="student", id=p.source_id, label=p.name, detail="repeats the grade")
                )
            elif above is None:
                self.unknown += 1
                self.lines.append(
                    PreviewLine(
                        fate="left_out",
                        what="student",
                        id=p.source_id,
                        label=p.name,
                        detail=f"grade {p.grade or 'unknown'} has no next one",
                    )
                )
            elif above in held[p.school_id]:
                self.up[p.id] = above
                self.lines.append(
                    PreviewLine(
                        fate="changed",
                        what="student",
                        id=p.source_id,
                        label=p.name,
                        detail=f"grade {p.grade} → {above}",
                    )
                )
            elif len(elsewhere.get(above, set())) == 1:
                self.up[p.id] = above
                self.changes_school[p.id] = next(iter(elsewhere[above]))
                school = self.schools.get(self.changes_school[p.id] or 0, "")
                self.lines.append(
                    PreviewLine(
                        fate="changed",
                        what="student",
                        id=p.source_id,
                        label=p.name,
                        detail=f"grade {p.grade} → {above}, to {school}",
                    )
                )
            else:
                self.leaving.append(p.id)
                self.lines.append(
                    PreviewLine(
                        fate="changed",
                        what="student",
                        id=p.source_id,
                        label=p.name,
                        detail="leaves the school; results stay",
                    )
                )

    def _form(self) -> None:
        """Next year's classes: each class moves up together and finds the teacher of the class of that title; the
        lowest grade's classes are formed empty."""
        by_title = {(c.school_id, c.title.lower()): c for c in self.classes}
        self.formed: list[tuple[SchoolClass, SchoolClass | None]] = []
        made: set[tuple[int, str]] = set()
        gone = set(self.leaving) | set(self.changes_school)
        for c in self.classes:
            title = next_title(c.title, c.grade)
            like = by_title.get((c.school_id, (title or "").lower()))
            if title is None or like is None:
                detail = "archived with its results; no class of the next grade to move into"
                self.lines.append(
                    PreviewLine(fate="changed", what="class", id=c.source_id, label=c.title, detail=detail)
                )
                continue
            made.add((c.school_id, like.title.lower()))
            self.formed.append((like, c))
            n = sum(id not in gone and id not in self.staying for id in self.members[c.id])
            self.lines.append(
                PreviewLine(
                    fate="added",
                    what="class",
                    id=like.title,
                    label=like.title,
                    detail=f"{n} students out of last year's {c.title}",
                )
            )
        for key, c in by_title.items():
            if key not in made:
                self.formed.append((c, None))
                self.lines.append(
                    PreviewLine(
                        fate="added",
                        what="class",
                        id=c.title,
                        label=c.title,
                        detail="empty: its students are new to the school",
                    )
                )

    def write(self, db: Session) -> None:
        year = SchoolYear(title=self.wanted.title.strip(), start=self.wanted.start, end=self.wanted.end)
        db.add(year)
        db.flush()
        codes = {c for c in db.scalars(select(SchoolClass.code)) if c} | set(db.scalars(select(PlannedSession.code)))
        for old in db.scalars(select(SchoolClass).where(SchoolClass.active.is_(True))).all():
            old.active, old.ended_on = False, self.today
        for e in db.scalars(select(Enrolment).where(Enrolment.active.is_(True))):
            e.active, e.ends = False, self.today
        for like, source in self.formed:
            klass = SchoolClass(
                source_id=f"{LOCAL}{year.start.year}:{like.source_id}"[:120],
                title=like.title,
                school_id=like.school_id,
                subject=like.subject,
                grade=like.grade,
                location=like.location,
                course=like.course,
                period=like.period,
                homeroom=like.homeroom,
                year_id=year.id,
                code=new_code(SESSION_LENGTH, codes),
            )
            db.add(klass)
            db.flush()
            stays = self.staying | set(self.leaving) | set(self.changes_school)
            members = [] if source is None else [id for id in self.members[source.id] if id not in stays]
            members += [id for id in self.members[like.id] if id in self.staying]
            db.add_all(Enrolment(class_id=klass.id, person_id=id, role="student") for id in members)
            db.add_all(Enrolment(class_id=klass.id, person_id=id, role="teacher") for id in self.teachers[like.id])
        for p in db.scalars(select(Person).where(Person.id.in_([*self.up, *self.leaving]))):
            if p.id in self.up:
                p.grade = self.up[p.id]
                p.school_id = self.changes_school.get(p.id, p.school_id)
            else:
                p.active, p.left_on = False, self.today
        moved(db)
