"""What teaching has reached by the pacing guide: a standard before that is no weakness."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.grades import in_grade_order
from bildung.services.calendar.years import current_year
from bildung.store.models import CoursePlan, Lesson, LessonStandard, SchoolClass, Taught


@dataclass(frozen=True)
class Reached:
    """guide: whether there is a pacing guide to tell by. standards: of the grade, that lessons have reached."""

    guide: bool
    grade: str
    standards: frozenset[int]

    def has(self, standard: int, grade: str) -> bool:
        """Whether teaching has come to it; without a guide nothing is held back, and earlier grades have been through theirs."""
        if not self.guide or not grade:
            return True
        if grade != self.grade:
            return in_grade_order({grade, self.grade})[0] == grade
        return standard in self.standards


def reached(db: Session, subject: str, grade: str, today: date, class_id: int | None = None) -> Reached:
    """By what the class has said it was taught; by the dates of the guide where it said nothing, or where it is no one class."""
    year = current_year(db, today)
    plan = db.scalar(
        select(CoursePlan).where(
            CoursePlan.subject == subject, CoursePlan.grade == grade, CoursePlan.year_id == (year.id if year else -1)
        )
    )
    if plan is None:
        return Reached(False, grade, frozenset())
    lessons = select(Lesson.id).where(Lesson.plan_id == plan.id)
    said = class_id is not None and db.scalar(
        select(func.count()).select_from(Taught).where(Taught.class_id == class_id, Taught.lesson_id.in_(lessons))
    )
    if said:
        lessons = lessons.where(
            Lesson.id.in_(select(Taught.lesson_id).where(Taught.class_id == class_id, Taught.on <= today))
        )
    else:
        lessons = lessons.where(Lesson.end < today)
    standards = db.scalars(select(LessonStandard.standard_id).where(LessonStandard.lesson_id.in_(lessons)))
    return Reached(True, grade, frozenset(standards))


def reached_by_grade(db: Session, subject: str, today: date) -> dict[str, Reached]:
    """Of every grade that has classes in the subject, by the dates of its guide."""
    grades = db.scalars(
        select(SchoolClass.grade).where(SchoolClass.subject == subject, SchoolClass.active.is_(True)).distinct()
    ).all()
    return {grade: reached(db, subject, grade, today) for grade in grades}
