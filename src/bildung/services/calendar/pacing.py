"""Course plans: what is to be taught when, and what each class has been taught so far."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import and_, delete, false, or_, select
from sqlalchemy.orm import Session, selectinload

from bildung.core.school.pacing import BEHIND, PlannedLesson, pace
from bildung.formats.courseplan import LessonRow, PlanSheet, read_plans
from bildung.services.calendar.years import current_year, local_today
from bildung.services.items.bankitem import standards_by_code
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.staging import Planner, Preview, PreviewLine, decide, in_one_go, stage
from bildung.services.shared.wire import Id
from bildung.store.models import CoursePlan, Lesson, LessonStandard, SchoolClass, SchoolYear, Standard, Taught


@dataclass(frozen=True, kw_only=True)
class PlanLine:
    id: Id
    course: str
    subject: str
    grade: str
    year: str
    lessons: int
    expected: int
    classes: int
    behind: int


@dataclass(frozen=True, kw_only=True)
class LessonLine:
    id: Id
    position: int
    unit: str
    title: str
    start: date
    end: date
    standards: list[str]


@dataclass(frozen=True, kw_only=True)
class ClassPace:
    """taught: the day of each lesson taught, by lesson id. may_say: whether the asker says what was taught."""

    id: Id
    title: str
    expected: int
    done: int
    ahead: int
    skipped: list[Id]
    taught: dict[Id, date]
    may_say: bool


@dataclass(frozen=True, kw_only=True)
class PlanPage:
    finding: str
    plan: PlanLine
    today: date
    lessons: list[LessonLine]
    classes: list[ClassPace]
    standards: dict[str, str]


def list_plans(ctx: Context, actor: Actor) -> tuple[str, list[PlanLine]]:
    """Plans of the present year, with how many of the asker's classes are behind."""
    scope(actor, Action.PLANS_READ)
    with ctx.store.read() as db:
        today = local_today(ctx, db)
        year = current_year(db, today)
        plans = db.scalars(
            select(CoursePlan)
            .where(CoursePlan.year_id == (year.id if year else -1))
            .options(selectinload(CoursePlan.lessons))
            .order_by(CoursePlan.subject, CoursePlan.grade)
        ).all()
        paces = _paces(db, actor, plans, today)
        lines = [_line(plan, paces[plan.id], year.title if year else "", today) for plan in plans]
    if not lines:
        return "No pacing guide yet. With one, every result shows what has not been taught.", lines
    behind, classes = sum(p.behind for p in lines), sum(p.classes for p in lines)
    text = f"{len(lines)} pacing guides for {classes} classes. "
    return text + (
        f"{behind} {'class is' if behind == 1 else 'classes are'} more than {BEHIND} lessons behind."
        if behind
        else "No class is far behind."
    ), lines


def _paces(db: Session, actor: Actor, plans: Sequence[CoursePlan], today: date) -> dict[int, list[ClassPace]]:
    """By plan, how far its classes are; as many queries for a hundred plans as for one."""
    allowed = scope(actor, Action.CLASSES_READ) if actor.may(Action.CLASSES_READ) else SchoolClass.id == -1
    places = [and_(SchoolClass.subject == p.subject, SchoolClass.grade == p.grade) for p in plans]
    classes = db.scalars(
        select(SchoolClass)
        .where(allowed, SchoolClass.active.is_(True), or_(false(), *places))
        .order_by(SchoolClass.title)
    ).all()
    mine: set[int] = set()
    if actor.may(Action.TAUGHT_SAY):
        said = select(SchoolClass.id).where(
            scope(actor, Action.TAUGHT_SAY), SchoolClass.id.in_([c.id for c in classes])
        )
        mine = set(db.scalars(said))
    taught: dict[tuple[int, int], dict[int, date]] = {}
    for plan_id, class_id, lesson_id, on in db.execute(
        select(Lesson.plan_id, Taught.class_id, Taught.lesson_id, Taught.on)
        .join(Lesson, Lesson.id == Taught.lesson_id)
        .where(Lesson.plan_id.in_([p.id for p in plans]))
    ):
        taught.setdefault((plan_id, class_id), {})[lesson_id] = on
    return {
        plan.id: [
            _pace(plan, c, taught.get((plan.id, c.id), {}), c.id in mine, today)
            for c in classes
            if (c.subject, c.grade) == (plan.subject, plan.grade)
        ]
        for plan in plans
    }


def _pace(plan: CoursePlan, klass: SchoolClass, done: dict[int, date], mine: bool, today: date) -> ClassPace:
    lessons = plan.lessons
    p = pace([PlannedLesson(x.start, x.end) for x in lessons], [x.id in done for x in lessons], today)
    skipped = [lessons[at].id for at in p.skipped]
    return ClassPace(
        id=klass.id,
        title=klass.title,
        expected=p.expected,
        done=p.taught,
        ahead=p.ahead,
        skipped=skipped,
        taught=done,
        may_say=mine,
    )


def _line(plan: CoursePlan, classes: list[ClassPace], year: str, today: date) -> PlanLine:
    expected = sum(lesson.end < today for lesson in plan.lessons)
    behind = sum(c.ahead < -BEHIND for c in classes)
    return PlanLine(
        id=plan.id,
        course=plan.course,
        subject=plan.subject,
        grade=plan.grade,
        year=year,
        lessons=len(plan.lessons),
        expected=expected,
        classes=len(classes),
        behind=behind,
    )


def get_plan(ctx: Context, actor: Actor, plan_id: int) -> PlanPage:
    """One pacing guide, lesson by lesson, with where each class of this person stands."""
    scope(actor, Action.PLANS_READ)
    with ctx.store.read() as db:
        plan = db.scalar(
            select(CoursePlan)
            .where(CoursePlan.id == plan_id)
            .options(selectinload(CoursePlan.lessons).selectinload(Lesson.standards))
        )
        if plan is None:
            raise NotFound("there is no such pacing guide")
        today = local_today(ctx, db)
        lessons = list(plan.lessons)
        classes = _paces(db, actor, [plan], today)[plan.id]
        line = _line(plan, classes, db.get_one(SchoolYear, plan.year_id).title, today)
        shown = [
            LessonLine(
                id=x.id,
                position=x.position,
                unit=x.unit,
                title=x.title,
                start=x.start,
                end=x.end,
                standards=[s.code for s in x.standards],
            )
            for x in lessons
        ]
        texts = {s.code: s.text for lesson in lessons for s in lesson.standards}
    return PlanPage(
        finding=_finding(line, classes), plan=line, today=today, lessons=shown, classes=classes, standards=texts
    )


def _finding(line: PlanLine, classes: list[ClassPace]) -> str:
    text = f"{line.course}: {line.expected} of {line.lessons} lessons are due by today."
    behind = sorted((c for c in classes if c.ahead < -BEHIND), key=lambda c: c.ahead)
    skipped = sum(bool(c.skipped) for c in classes)
    if behind:
        worst = behind[0]
        text += f" {worst.title} is {-worst.ahead} lessons behind"
        text += f", {len(behind) - 1} more {'is' if len(behind) == 2 else 'are'} too." if len(behind) > 1 else "."
    elif classes:
        text += " Every class is close to it."
    if skipped:
        text += f" {skipped} {'class has' if skipped == 1 else 'classes have'} left out a lesson."
    return text


def say_taught(ctx: Context, actor: Actor, class_id: int, lesson_id: int, on: date | None) -> None:
    """A class has had a lesson on a day, or (None) has not after all."""
    allowed = scope(actor, Action.TAUGHT_SAY)

    def work(db: Session) -> None:
        klass = db.scalar(select(SchoolClass).where(SchoolClass.id == class_id, allowed))
        lesson = db.get(Lesson, lesson_id)
        plan = db.get(CoursePlan, lesson.plan_id) if lesson else None
        if klass is None or lesson is None or plan is None:
            raise NotFound("there is no such class or lesson, or it is not yours")
        if (plan.subject, plan.grade) != (klass.subject, klass.grade):
            raise Invalid(f"{klass.title} does not follow the plan of {plan.course}", "lesson_id")
        if on is not None and on > local_today(ctx, db):
            raise Invalid("a lesson that lies ahead was not taught yet", "on")
        row = db.get(Taught, (klass.id, lesson.id))
        if on is None:
            if row is not None:
                db.delete(row)
        elif row is None:
            db.add(Taught(class_id=klass.id, lesson_id=lesson.id, on=on, person_id=actor.person_id))
        else:
            row.on, row.person_id = on, actor.person_id

    ctx.store.write(work)


def preview(ctx: Context, actor: Actor, files: dict[str, bytes]) -> Preview:
    """Look at what a pacing guide's file would add and change."""
    scope(actor, Action.PLANS_WRITE)
    return stage(ctx, actor, "plans", files, _planner(ctx, actor))


def apply(ctx: Context, actor: Actor, id: str, yes: bool = False) -> Preview:
    """Take in what was looked at; what was taught stays with its lesson."""
    scope(actor, Action.PLANS_WRITE)
    return decide(ctx, actor, "plans", id, _planner(ctx, actor), yes)


def _planner(ctx: Context, actor: Actor) -> Planner:
    return in_one_go(lambda db, files, do: plan_plans(ctx, db, files, do, actor.person_id))


def plan_plans(ctx: Context, db: Session, files: dict[str, bytes], do: bool, by: int | None) -> list[PreviewLine]:
    """A lesson is known by its unit and title; what was taught stays with it when its days move."""
    year = current_year(db, local_today(ctx, db))
    if year is None:
        raise Invalid("there is no school year yet; set one first", "files")
    standards = standards_by_code(db)
    lines: list[PreviewLine] = []
    for name, data in files.items():
        for sheet in read_plans(name, data):
            lines += _one(db, sheet, year, standards, do)
    if do:
        audit.record(db, ctx.clock(), by, "plans.bring", f"year:{year.id}", None, {"lessons": len(lines)})
    return lines


def _one(
    db: Session, sheet: PlanSheet, year: SchoolYear, standards: dict[str, Standard], do: bool
) -> list[PreviewLine]:
    lines: list[PreviewLine] = []
    plan = db.scalar(
        select(CoursePlan).where(
            CoursePlan.subject == sheet.subject, CoursePlan.grade == sheet.grade, CoursePlan.year_id == year.id
        )
    )
    what = f"{sheet.subject} {sheet.grade}"
    if plan is None:
        lines.append(
            PreviewLine(
                fate="added", what="pacing guide", id=what, label=sheet.course, detail=f"{len(sheet.lessons)} lessons"
            )
        )
        if do:
            plan = CoursePlan(course=sheet.course, subject=sheet.subject, grade=sheet.grade, year_id=year.id)
            db.add(plan)
            db.flush()
    there = {(x.unit, x.title): x for x in plan.lessons} if plan is not None else {}
    for position, row in enumerate(sheet.lessons, 1):
        lesson = there.pop((row.unit, row.title), None)
        lines += _lesson(db, plan, lesson, row, position, what, standards, do)
    for lesson in there.values():
        lines.append(
            PreviewLine(
                fate="changed",
                what="lesson",
                id=what,
                label=lesson.title,
                detail="no longer in the plan: removed, with what was recorded as taught",
            )
        )
        if do:
            db.delete(lesson)
    if do:
        db.flush()
        if plan is not None:
            db.expire(plan)
    return lines


def _lesson(
    db: Session,
    plan: CoursePlan | None,
    lesson: Lesson | None,
    row: LessonRow,
    position: int,
    what: str,
    standards: dict[str, Standard],
    do: bool,
) -> list[PreviewLine]:
    """One row of the sheet: a lesson that is new, or (lesson) there already."""
    lines: list[PreviewLine] = []
    unknown = [code for code in row.standards if code not in standards]
    if unknown:
        lines.append(
            PreviewLine(
                fate="left_out",
                what="standard",
                id=", ".join(unknown),
                label=row.title,
                detail="not in the framework; the lesson is taken without it",
            )
        )
    codes = [code for code in row.standards if code in standards]
    values = {"position": position, "start": row.start, "end": row.end}
    if lesson is None:
        lines.append(
            PreviewLine(fate="added", what="lesson", id=what, label=row.title, detail=f"{row.start} to {row.end}")
        )
        if do and plan is not None:
            lesson = Lesson(plan_id=plan.id, unit=row.unit, title=row.title, **values)
            db.add(lesson)
            db.flush()
    else:
        same = all(getattr(lesson, n) == v for n, v in values.items()) and [s.code for s in lesson.standards] == sorted(
            codes
        )
        lines.append(
            PreviewLine(
                fate="same" if same else "changed",
                what="lesson",
                id=what,
                label=row.title,
                detail="" if same else f"{row.start} to {row.end}",
            )
        )
        if do:
            for n, v in values.items():
                setattr(lesson, n, v)
    if do and lesson is not None:
        db.execute(delete(LessonStandard).where(LessonStandard.lesson_id == lesson.id))
        db.add_all(LessonStandard(lesson_id=lesson.id, standard_id=standards[code].id) for code in codes)
    return lines
