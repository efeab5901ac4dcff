"""An outside measure with norms: five windows of a reading scale that another service delivers, with what is to be found in it."""

from __future__ import annotations

from datetime import date

import numpy as np
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from bildung.demo.abilities import LEARNED, Abilities
from bildung.demo.district import District
from bildung.demo.plants import hash_of
from bildung.services.growth import measures
from bildung.services.growth.measures import MeasureWish, NormWish
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import Enrolment, Measure, MeasureScore, Person, SchoolClass, Window

NAME, SUBJECT = "Tideline Reading", "Reading"
LOW, HIGH = 100.0, 350.0
SD, ERROR = 14.0, 4.0
PER_GRADE, BASE = 11.0, 165.0
GRADES = tuple(str(n) for n in range(2, 9))
ABOVE, FEW = "Reading 7.2", "Reading 8.3"  # a class above expectation; one with many missing, whose mean would mislead
LIFT, GONE = 7.0, 11
MISSED = 0.03
WEEKS = (2.0, 14.0, 30.0)  # of instruction, in the order of a year's windows


def _mean(grade: int, week: float) -> float:
    return BASE + PER_GRADE * grade + SD * LEARNED * week / 36


def norm_files() -> tuple[bytes, bytes]:
    """Moments and correlations of the made-up population, of which the district is a part."""
    spread = float(np.hypot(SD, ERROR))
    moments = ["subject,grade,week,mean,sd"]
    related = ["subject,grade,from_week,to_week,r"]
    for grade in GRADES:
        moments += [f"{SUBJECT},{grade},{w:g},{_mean(int(grade), w):.2f},{spread:.2f}" for w in (0.0, 12.0, 24.0, 36.0)]
        for first in (0.0, 4.0, 12.0, 16.0):
            for last in (w for w in (12.0, 28.0, 36.0) if w > first):
                r = SD**2 / (SD**2 + ERROR**2) * (1 - 0.0006 * abs(last - first))
                related.append(f"{SUBJECT},{grade},{first:g},{last:g},{r:.3f}")
    return "\n".join(moments).encode(), "\n".join(related).encode()


def outside_measure(ctx: Context, actor: Actor, district: District, known: Abilities, now: date) -> None:
    """Windows that have begun; a student's grade was one lower in those of last year."""
    measure = measures.create_measure(
        ctx, actor, MeasureWish(name=NAME, subject=SUBJECT, low=LOW, high=HIGH, decimals=0)
    )
    norms, correlations = norm_files()
    wish = NormWish(
        name=f"{NAME} norms",
        version="2025",
        source="technical report of the test service, tables 3 and 7",
        population="12,400 students of 61 made-up districts",
        norms=norms,
        correlations=correlations,
    )
    measures.add_norms(ctx, actor, measure, wish)
    year = district.year
    fall = year.fall[1]

    def work(db: Session) -> None:
        people = db.execute(
            select(Person.id, Person.source_id, Person.grade).where(Person.student.is_(True), Person.grade.in_(GRADES))
        ).all()
        classes = {
            person: title
            for person, title in db.execute(
                select(Enrolment.person_id, SchoolClass.title)
                .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
                .where(Enrolment.role == "student", Enrolment.active.is_(True), SchoolClass.subject == SUBJECT)
            )
        }
        rows: list[dict[str, object]] = []
        for place, (name, start, _) in enumerate(year.windows):
            if start > now:
                continue
            window = db.scalars(select(Window).where(Window.name == name, Window.start == start)).one()
            this_year, week = start >= fall, WEEKS[place % len(WEEKS)]
            back = 0 if this_year else 1
            years = week / 36 - back
            ability = known.at(SUBJECT, years)
            rng = np.random.default_rng(hash_of("measure", name, str(start)))
            gone = 0
            for id, _source, grade in people:
                then = int(grade) - back
                noise, missed = rng.standard_normal(), rng.random() < MISSED
                newest = this_year and place % 3 == 1
                if newest and classes.get(id) == FEW and gone < GONE:
                    gone += 1
                    missed = True
                if missed or then < int(GRADES[0]):
                    continue
                lift = LIFT if newest and classes.get(id) == ABOVE else 0.0
                # the ability holds what is learned in a year; the norm's mean does too
                score = BASE + PER_GRADE * then + SD * ability(id) + lift + ERROR * noise
                rows.append(
                    {
                        "measure_id": measure,
                        "person_id": id,
                        "window_id": window.id,
                        "grade": str(then),
                        "week": week,
                        "score": float(min(HIGH, max(LOW, round(score)))),
                        "se": ERROR,
                    }
                )
        db.execute(insert(MeasureScore.__table__), rows)  # type: ignore[arg-type]
        db.get_one(Measure, measure).version += 1

    ctx.store.write(work)
