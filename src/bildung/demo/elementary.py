"""The benchmarks in which nothing is planted: of the elementary schools and in science this fall, of every grade last
year."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import timedelta
from functools import partial

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.data.simulate import ItemParameters
from bildung.demo.abilities import Abilities
from bildung.demo.benchmarks import Ability, Question, answered, benchmark, classes_of, questions, usable
from bildung.demo.district import ELEMENTARY, MIDDLE, DemoYear, local_time, school_day
from bildung.demo.fall import Planted
from bildung.demo.lastyear import EarlierClass, earlier_sessions
from bildung.services.sessions.scheduling import schedule
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import Form, Window

LENGTH = 14
YEARS = {"Fall": -1.0, "Winter": -0.65, "Spring": -0.33}


def tested(subject: str) -> tuple[str, ...]:
    """Grades with a benchmark in a subject: science from grade 3."""
    return (*ELEMENTARY, *MIDDLE) if subject != "Science" else (*ELEMENTARY[3:], *MIDDLE)


def fall_benchmarks(ctx: Context, actor: Actor, year: DemoYear, window: int, known: Abilities) -> None:
    """Where the middle school's own of mathematics and reading are there already."""
    name, opens, _ = year.fall
    for subject in ("Mathematics", "Reading", "Science"):
        for grade in tested(subject):
            if grade in MIDDLE and subject != "Science":
                continue
            title = f"{name} {subject.lower()}"
            with ctx.store.read() as db:
                versions = usable(db, subject, grade)[:LENGTH]
                classes = classes_of(ctx, subject, grade)
            form = benchmark(ctx, actor, f"{title} {grade}", title, subject, grade, versions)
            after = ("Reading", "Mathematics", "Science").index(subject) * 3 + tested(subject).index(grade) % 3
            start = local_time(school_day(opens, after), 9 if grade in ELEMENTARY else 10)
            made = schedule(ctx, actor, form, window, classes, "", None, start, start + timedelta(minutes=45))
            asked = asked_on(ctx, form)
            for id in made:
                ctx.store.write(partial(answered, session_id=id, asked=asked, ability=known.at(subject, 0.0)))


def year_before(
    ctx: Context,
    actor: Actor,
    year: DemoYear,
    classes: Sequence[EarlierClass],
    taken: Sequence[EarlierClass],
    planted: Mapping[tuple[str, str], Planted],
    known: Abilities,
) -> None:
    """Fall with the forms of this fall, winter and spring with one other. taken: classes whose fall is there already."""
    truth, progress = parameters(planted), dict[tuple[str, str], int]()
    for name, opens, _ in year.windows[:3]:
        with ctx.store.read() as db:
            window = db.scalars(select(Window).where(Window.name == name, Window.start == opens)).one()
        mine = classes if name == "Fall" else [*classes, *taken]
        for subject, grade in sorted({(c.subject, c.grade) for c in mine}):
            with ctx.store.read() as db:
                form = db.scalar(select(Form.id).where(Form.name == f"Fall {subject.lower()} {grade}"))
                versions = usable(db, subject, grade)
            if name != "Fall":
                place = subject, grade
                if place not in progress:
                    title = f"Progress {subject.lower()}"
                    progress[place] = benchmark(
                        ctx, actor, f"{title} {grade}", title, subject, grade, versions[1::2][:LENGTH]
                    )
                form = progress[place]
            if form is None:
                continue
            asked = asked_on(ctx, form, truth)
            here = [c for c in mine if (c.subject, c.grade) == (subject, grade)]
            days = (2 if subject == "Mathematics" else 5) + "K12345678".index(grade) % 3
            sessions = partial(earlier_sessions, classes=here, form_id=form, window=window, days=days)
            made = ctx.store.write(sessions)
            ctx.store.write(partial(_fill, made=made, asked=asked, ability=known.at(subject, YEARS[name])))


def _fill(db: Session, made: Sequence[int], asked: Sequence[Question], ability: Ability) -> None:
    for id in made:
        answered(db, id, asked, ability, log=False)


def parameters(planted: Mapping[tuple[str, str], Planted]) -> dict[str, ItemParameters]:
    """By item code."""
    return {
        item.code: truth
        for found in planted.values()
        for item, truth in zip(found.items, found.parameters, strict=True)
    }


def asked_on(ctx: Context, form: int, truth: Mapping[str, ItemParameters] | None = None) -> list[Question]:
    with ctx.store.read() as db:
        return questions(db, form, truth)
