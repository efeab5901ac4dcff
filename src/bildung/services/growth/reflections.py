"""What teachers conclude from growth and plan: asked for by the coordinator with a date, written beside the figures, gathered."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted, decimal, percent
from bildung.services.calendar.years import local_today
from bildung.services.growth.measures import measure_named
from bildung.services.growth.occasions import occasion_name, occasion_named
from bildung.services.growth.pair import PairAsked, pair_page
from bildung.services.growth.pairview import GrowthGroup, PairPage
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import (
    Enrolment,
    Measure,
    Occasion,
    Person,
    Reflection,
    ReflectionRequest,
    School,
    SchoolClass,
    SchoolYear,
)

USUAL = "What do you conclude from these figures, and what will you do next?"
LONGEST = 4000


@dataclass(frozen=True, kw_only=True)
class ReflectionText:
    """figures: the sentences that whoever wrote it had before them."""

    concludes: str
    plans: str
    figures: list[str]
    at: datetime
    by: str


@dataclass(frozen=True, kw_only=True)
class ReflectionPlace:
    """A class, or a school's grade, whose reflection is asked for. figures: what it rests on now. mine: whether this person writes it."""

    class_id: Id | None
    school_id: Id | None
    grade: str
    name: str
    school: str
    teachers: list[str]
    figures: list[str]
    written: ReflectionText | None
    mine: bool


@dataclass(frozen=True, kw_only=True)
class RequestLine:
    """A request: of which measure between which occasions, until when; written of asked among what this person sees. late: the day is
    over and some are missing. ended: nothing is expected any more."""

    id: Id
    measure_id: Id
    measure: str
    start: Id
    end: Id
    between: str
    question: str
    due: date
    by: str
    written: int
    asked: int
    late: bool
    ended: bool


@dataclass(frozen=True, kw_only=True)
class ReflectionsPage:
    """asks: whether this person may ask. requests: newest first. shown: the one that is looked at, with its places; none without any."""

    finding: str
    asks: bool
    requests: list[RequestLine]
    shown: Id | None
    places: list[ReflectionPlace]


@dataclass(frozen=True, kw_only=True)
class ReflectionAsked:
    measure: int
    start: int
    end: int
    due: date
    question: str = USUAL


@dataclass(frozen=True, kw_only=True)
class ReflectionWish:
    """class_id: of which class; None: of the grade of a school."""

    request: int
    class_id: int | None
    school_id: int | None
    grade: str
    concludes: str
    plans: str


def reflections_page(ctx: Context, actor: Actor, request_id: int | None = None) -> ReflectionsPage:
    """request_id: the one to look at; None: the newest."""
    scope(actor, Action.GROWTH_READ)
    with ctx.store.read() as db:
        rows = db.scalars(select(ReflectionRequest).order_by(ReflectionRequest.id.desc())).all()
        today = local_today(ctx, db)
        found = [_line(db, actor, row, today) for row in rows]
        lines = [line for line in found if line.asked or actor.may(Action.MEASURES_KEEP)]
        wanted = next((line for line in lines if request_id is None or line.id == request_id), None)
        if wanted is None and request_id is not None:
            raise NotFound("there is no such request, or nothing of it is yours")
    places: list[ReflectionPlace] = []
    if wanted is not None:
        places = _places(ctx, actor, int(wanted.id))
    return ReflectionsPage(
        finding=_finding(wanted, places),
        asks=actor.may(Action.MEASURES_KEEP),
        requests=lines,
        shown=wanted.id if wanted is not None else None,
        places=places,
    )


def ask(ctx: Context, actor: Actor, asked: ReflectionAsked) -> int:
    """Teachers of the classes find it on Today until they have written or it is ended."""
    scope(actor, Action.MEASURES_KEEP)
    question = need_text(asked.question or USUAL, "question", 300)

    def work(db: Session) -> int:
        measure = measure_named(db, asked.measure)
        start = occasion_named(db, measure.id, asked.start)
        end = occasion_named(db, measure.id, asked.end)
        if start.start >= end.start:
            raise Invalid("the first window lies before the second", "end")
        if asked.due < local_today(ctx, db):
            raise Invalid("the day lies ahead", "due")
        made = ReflectionRequest(
            measure_id=measure.id,
            start_id=start.id,
            end_id=end.id,
            question=question,
            due=asked.due,
            asked_at=ctx.clock(),
            asked_by_id=actor.person_id,
        )
        db.add(made)
        db.flush()
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "reflection.ask",
            f"measure:{measure.id}",
            None,
            {"due": asked.due.isoformat(), "between": f"{occasion_name(start)} to {occasion_name(end)}"},
        )
        return made.id

    return ctx.store.write(work)


def end_request(ctx: Context, actor: Actor, request_id: int) -> None:
    """Nothing is expected any more; what was written stays."""
    scope(actor, Action.MEASURES_KEEP)

    def work(db: Session) -> None:
        row = db.get(ReflectionRequest, request_id)
        if row is None or row.ended_at is not None:
            raise NotFound("there is no such open request")
        row.ended_at = ctx.clock()
        audit.record(db, ctx.clock(), actor.person_id, "reflection.end", f"reflection_request:{row.id}", None, None)

    ctx.store.write(work)


def write(ctx: Context, actor: Actor, wish: ReflectionWish) -> None:
    """One text a class or grade; written anew it replaces the one before, with the figures of now."""
    scope(actor, Action.REFLECTIONS_WRITE)
    concludes = need_text(wish.concludes, "concludes", LONGEST)
    plans = need_text(wish.plans, "plans", LONGEST)
    place = next(
        (
            p
            for p in _places(ctx, actor, wish.request)
            if (p.class_id, p.school_id, p.grade) == (wish.class_id, wish.school_id, wish.grade)
            or (wish.class_id is not None and p.class_id == wish.class_id)
        ),
        None,
    )
    if place is None or not place.mine:
        raise NotFound("there is no such class in this request, or it is not yours to write about")

    def work(db: Session) -> None:
        request = db.get(ReflectionRequest, wish.request)
        if request is None or request.ended_at is not None:
            raise Conflict("this request was ended; nothing is expected any more")
        row = db.scalar(
            select(Reflection).where(
                Reflection.request_id == request.id,
                Reflection.class_id.is_not_distinct_from(place.class_id),
                Reflection.school_id.is_not_distinct_from(None if place.class_id else place.school_id),
                Reflection.grade == ("" if place.class_id else place.grade),
            )
        )
        if row is None:
            row = Reflection(
                request_id=request.id,
                class_id=place.class_id,
                school_id=None if place.class_id else place.school_id,
                grade="" if place.class_id else place.grade,
            )
            db.add(row)
        row.concludes, row.plans, row.figures = concludes, plans, place.figures
        row.at, row.by_id = ctx.clock(), actor.person_id
        audit.record(
            db, ctx.clock(), actor.person_id, "reflection.write", f"reflection_request:{request.id}", None, place.name
        )

    ctx.store.write(work)


def open_reflections(ctx: Context, db: Session, actor: Actor) -> tuple[int, date | None, int | None]:
    """How many this person has yet to write, until when the first, and of which request."""
    if not any(grant.role == "teacher" for grant in actor.grants):
        return 0, None, None
    n, due, first = 0, None, None
    for row in db.scalars(
        select(ReflectionRequest).where(ReflectionRequest.ended_at.is_(None)).order_by(ReflectionRequest.due)
    ):
        written = set(db.scalars(select(Reflection.class_id).where(Reflection.request_id == row.id)))
        asked = _classes(db, actor, row, Action.REFLECTIONS_WRITE)
        missing = [k for k in asked if k.active and k.id not in written]
        if missing and due is None:
            due, first = row.due, row.id
        n += len(missing)
    return n, due, first


def _classes(db: Session, actor: Actor, request: ReflectionRequest, action: Action) -> Sequence[SchoolClass]:
    """Of the subject in the year of the second occasion."""
    measure, end = db.get_one(Measure, request.measure_id), db.get_one(Occasion, request.end_id)
    year = db.scalars(select(SchoolYear).where(SchoolYear.start <= end.start, SchoolYear.end >= end.start)).first()
    wanted = select(SchoolClass).where(SchoolClass.subject == measure.subject, scope(actor, action))
    if year is not None:
        wanted = wanted.where((SchoolClass.year_id == year.id) | SchoolClass.year_id.is_(None))
    return db.scalars(wanted.order_by(SchoolClass.grade, SchoolClass.title)).all()


def _line(db: Session, actor: Actor, row: ReflectionRequest, today: date) -> RequestLine:
    measure = db.get_one(Measure, row.measure_id)
    start, end = db.get_one(Occasion, row.start_id), db.get_one(Occasion, row.end_id)
    classes = {k.id for k in _classes(db, actor, row, Action.GROWTH_READ)}
    done = set(db.scalars(select(Reflection.class_id).where(Reflection.request_id == row.id))) & classes
    return RequestLine(
        id=row.id,
        measure_id=measure.id,
        measure=measure.name,
        start=start.id,
        end=end.id,
        between=f"{occasion_name(start)} to {occasion_name(end)}",
        question=row.question,
        due=row.due,
        by=db.get_one(Person, row.asked_by_id).name,
        written=len(done),
        asked=len(classes),
        late=row.ended_at is None and row.due < today and len(done) < len(classes),
        ended=row.ended_at is not None,
    )


def _places(ctx: Context, actor: Actor, request_id: int) -> list[ReflectionPlace]:
    with ctx.store.read() as db:
        request = db.get(ReflectionRequest, request_id)
        if request is None:
            raise NotFound("there is no such request")
        asked = PairAsked(measure=request.measure_id, start=request.start_id, end=request.end_id)
    page = pair_page(ctx, actor, asked)
    with ctx.store.read() as db:
        request = db.get_one(ReflectionRequest, request_id)
        classes = _classes(db, actor, request, Action.GROWTH_READ)
        writes = actor.may(Action.REFLECTIONS_WRITE)
        mine = {k.id for k in _classes(db, actor, request, Action.REFLECTIONS_WRITE)} if writes else set()
        teachers: dict[int, list[str]] = {}
        for klass, person in db.execute(
            select(Enrolment.class_id, Person)
            .join(Person, Person.id == Enrolment.person_id)
            .where(Enrolment.class_id.in_([k.id for k in classes]), Enrolment.role == "teacher", Enrolment.active)
            .order_by(Person.family)
        ):
            teachers.setdefault(klass, []).append(person.name)
        texts = {
            (r.class_id, r.school_id, r.grade): ReflectionText(
                concludes=r.concludes, plans=r.plans, figures=r.figures, at=r.at, by=by.name
            )
            for r, by in db.execute(
                select(Reflection, Person)
                .join(Person, Person.id == Reflection.by_id)
                .where(Reflection.request_id == request_id)
            )
        }
        schools = {s.id: s.name for s in db.scalars(select(School))}
        leads = any(grant.role in ("coordinator", "leader") for grant in actor.grants)
    lines = {int(c.id): c for b in page.blocks for c in b.classes}
    found = [
        ReflectionPlace(
            class_id=k.id,
            school_id=k.school_id,
            grade=k.grade,
            name=k.title,
            school=schools.get(k.school_id or 0, ""),
            teachers=teachers.get(k.id, []),
            figures=_class_figures(page, lines.get(k.id)),
            written=texts.get((k.id, None, "")),
            mine=k.id in mine and k.active,
        )
        for k in classes
    ]
    if leads:
        for school, grade in dict.fromkeys((k.school_id, k.grade) for k in classes):
            if school is not None:
                found.append(
                    ReflectionPlace(
                        class_id=None,
                        school_id=school,
                        grade=grade,
                        name=f"Grade {grade}",
                        school=schools.get(school, ""),
                        teachers=[],
                        figures=_grade_figures(page, grade),
                        written=texts.get((None, school, grade)),
                        mine=True,
                    )
                )
    return found


def _class_figures(page: PairPage, line: GrowthGroup | None) -> list[str]:
    """What a reflection rests on, in sentences."""
    if line is None:
        return ["No student of this class has both scores."]
    if line.hidden:
        return [f"The class is not shown: {line.why}."]
    said = [f"{counted(line.n, 'student')} with both scores; {line.missing} without one of them."]
    if line.mean_gain is not None and line.mean_start is not None:
        said.append(f"Mean start {decimal(line.mean_start, 1)}, mean gain {decimal(line.mean_gain, 1)} points.")
    if line.says:
        said.append(line.says)
    elif line.points is not None and line.reach is not None:
        way = "above" if line.points > 0 else "below"
        sure = "" if line.off else "; whether that is more than chance cannot be told"
        said.append(
            f"{decimal(abs(line.points), 1)} points {way} what the starts let expect (give or take {decimal(line.reach, 1)}){sure}."
        )
        if line.met is not None:
            said.append(f"{percent(line.met)} met their expected score.")
    elif line.why:
        said.append(f"Not judged: {line.why}.")
    return said


def _grade_figures(page: PairPage, grade: str) -> list[str]:
    block = next((b for b in page.blocks if b.grade == grade), None)
    return ["No student of this grade has both scores."] if block is None else _class_figures(page, block.line)


def _finding(line: RequestLine | None, places: Sequence[ReflectionPlace]) -> str:
    if line is None:
        return "No reflections were asked for yet."
    classes = [p for p in places if p.class_id is not None]
    missing = [p for p in classes if p.written is None]
    if not classes:
        return "None of these classes is yours."
    if not missing:
        return f"All {counted(len(classes), 'class', 'classes')} have a reflection on {line.measure}, {line.between}."
    names = ", ".join(p.name for p in missing[:3]) + (f" and {len(missing) - 3} more" if len(missing) > 3 else "")
    return f"{len(classes) - len(missing)} of {counted(len(classes), 'class', 'classes')} have a reflection on {line.measure}, {line.between}. Missing: {names}."
