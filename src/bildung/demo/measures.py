"""Outside measures: a scale with norms in three subjects, ordered reading levels, a timed count; with what is to be found in them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from bildung.demo.abilities import LEARNED, Abilities
from bildung.demo.district import District
from bildung.demo.plants import hash_of
from bildung.services.growth import cuts, measures
from bildung.services.growth.cuts import CutLine, CutsWish
from bildung.services.growth.measures import MeasureWish, NormWish
from bildung.services.growth.occasions import Calendar, When, put_occasions
from bildung.services.growth.own import ensure_own
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import Enrolment, Measure, MeasureScore, Person, SchoolClass

SUBJECTS = ("Reading", "Mathematics", "Science")
LOW, HIGH = 100.0, 350.0
SD, PER_GRADE, BASE = 14.0, 11.0, 165.0
ERRORS = {"Reading": 4.0, "Mathematics": 4.0, "Science": 6.0}
GRADES = tuple(str(n) for n in range(2, 9))
ABOVE, FEW = "Reading 7.2", "Reading 8.3"  # a class above expectation; one with many missing, whose mean would mislead
LIFT, GONE = 7.0, 11
PICKED = ("Science", "HM")  # a school that tested only low scorers again: its gain is regression to the mean
MISSED = 0.03
WEEKS = (2.0, 14.0, 30.0)  # of instruction, in the order of a year's windows
SEASONS = ("Fall", "Winter", "Spring")
CUTS = (-1.0, 0.0, 1.0)  # between four levels, in standard deviations of the grade and week
NAMES = ("Beginning", "Approaching", "Meeting", "Exceeding")
OWN_CUTS = (35.0, 55.0, 80.0)  # percent of the points of a benchmark
LEVELS = ("Sand", "Shell", "Kelp", "Coral", "Pearl", "Amber", "Beacon")
SKILLS = ("Number and operations", "Fractions and ratios", "Geometry and data")
COUNT_GRADES = ("1", "2", "3", "4", "5")


@dataclass(frozen=True)
class Pupil:
    """A student as scores are made of them. key: of the school."""

    id: int
    source: str
    grade: str
    key: str


@dataclass(frozen=True, kw_only=True)
class Taking:
    """A window of the demo's two years. back: years since; newest: this year's second."""

    name: str
    start: date
    week: float
    back: int
    years: float
    newest: bool


def scale_mean(grade: int, week: float) -> float:
    """Of the made-up reference population."""
    return BASE + PER_GRADE * grade + SD * LEARNED * week / 36


def norm_files(subject: str) -> tuple[bytes, bytes]:
    """Moments and correlations of the made-up population, of which the district is a part."""
    error = ERRORS[subject]
    spread = float(np.hypot(SD, error))
    moments = ["subject,grade,week,mean,sd"]
    related = ["subject,grade,from_week,to_week,r"]
    for grade in GRADES:
        moments += [
            f"{subject},{grade},{w:g},{scale_mean(int(grade), w):.2f},{spread:.2f}" for w in (0.0, 12.0, 24.0, 36.0)
        ]
        for first in (0.0, 4.0, 12.0, 16.0, 32.0):
            for last in (w for w in (12.0, 28.0, 36.0) if w > first):
                r = SD**2 / (SD**2 + error**2) * (1 - 0.0006 * abs(last - first))
                related.append(f"{subject},{grade},{first:g},{last:g},{r:.3f}")
    return "\n".join(moments).encode(), "\n".join(related).encode()


def count_norms() -> bytes:
    """Percentile points of the timed count, by month, without correlations."""
    lines = ["subject,grade,week,percentile,score"]
    for grade in COUNT_GRADES:
        for week in (0.0, 18.0, 36.0):
            middle = 12 + 7 * int(grade) + 6 * week / 36
            for percentile, z in ((1, -2.33), (10, -1.28), (25, -0.67), (50, 0.0), (75, 0.67), (90, 1.28), (99, 2.33)):
                lines.append(f"Mathematics,{grade},{week:g},{percentile},{max(0.0, middle + 6 * z):.1f}")
    return "\n".join(lines).encode()


def outside_measures(ctx: Context, actor: Actor, district: District, known: Abilities, now: date) -> None:
    """Of windows that have begun; a student's grade was one lower in those of last year."""
    with ctx.store.read() as db:
        pupils = [
            Pupil(id, source, grade or "", source.partition("-")[0])
            for id, source, grade in db.execute(
                select(Person.id, Person.source_id, Person.grade)
                .where(Person.student.is_(True), Person.active.is_(True))
                .order_by(Person.source_id)
            )
        ]
        classes = _classes(db)
    takings = [t for t in _takings(district) if t.start <= now]
    for subject in SUBJECTS if district.living else SUBJECTS[:1]:
        _scale(ctx, actor, subject, takings, pupils, classes, known)
    if district.living:
        _skills(ctx, actor, takings, pupils, known)
        _levels(ctx, actor, takings, pupils, known)
        _count(ctx, actor, district, pupils, known, now)
    ensure_own(ctx)
    with ctx.store.read() as db:
        own = db.scalars(select(Measure.id).where(Measure.own.is_(True)).order_by(Measure.id)).all()
    for measure in own:
        rows = [CutLine("", "", list(OWN_CUTS))]
        wish = CutsWish(names=NAMES, rows=rows, goal=3, source="board of the district, June 2025", based=0)
        cuts.put_cuts(ctx, actor, measure, wish)


def _takings(district: District) -> list[Taking]:
    year = district.year
    found = []
    for place, (name, start, _) in enumerate(year.windows):
        this_year, week = start >= year.fall[1], WEEKS[place % len(WEEKS)]
        back = 0 if this_year else 1
        newest = this_year and place % 3 == 1
        found.append(Taking(name=name, start=start, week=week, back=back, years=week / 36 - back, newest=newest))
    return found


def _classes(db: Session) -> dict[int, str]:
    rows = db.execute(
        select(Enrolment.person_id, SchoolClass.title)
        .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
        .where(Enrolment.role == "student", Enrolment.active.is_(True), SchoolClass.subject == "Reading")
    )
    return {person: title for person, title in rows}


def _scale(
    ctx: Context,
    actor: Actor,
    subject: str,
    takings: list[Taking],
    pupils: list[Pupil],
    classes: Mapping[int, str],
    known: Abilities,
) -> None:
    error = ERRORS[subject]
    measure = measures.create_measure(
        ctx, actor, MeasureWish(name=f"Tideline {subject}", subject=subject, low=LOW, high=HIGH, decimals=0)
    )
    norms, correlations = norm_files(subject)
    wish = NormWish(
        name=f"Tideline {subject} norms",
        version="2025",
        source="technical report of the test service, tables 3 and 7",
        population="12,400 students of 61 made-up districts",
        norms=norms,
        correlations=correlations,
    )
    measures.add_norms(ctx, actor, measure, wish)
    rows = [
        CutLine(grade, season, [round(scale_mean(int(grade), week) + SD * cut) for cut in CUTS])
        for grade in GRADES
        for season, week in zip(SEASONS, WEEKS, strict=True)
    ]
    cuts.put_cuts(
        ctx,
        actor,
        measure,
        CutsWish(names=NAMES, rows=rows, goal=3, source="board of the district, June 2025", based=0),
    )

    def work(db: Session) -> None:
        calendar = Calendar(db)
        starts: dict[int, float] = {}
        for taking in takings:
            ability = known.at(subject, taking.years)
            rng = np.random.default_rng(
                hash_of("measure", "" if subject == "Reading" else subject, taking.name, str(taking.start))
            )
            made, gone = [], 0
            for one in (p for p in pupils if p.grade in GRADES):
                then = int(one.grade) - taking.back
                noise, missed = rng.standard_normal(), rng.random() < MISSED
                klass = classes.get(one.id) if subject == "Reading" else None
                if taking.newest and klass == FEW and gone < GONE:
                    gone += 1
                    missed = True
                if taking.newest and (subject, one.key) == PICKED:
                    missed = starts.get(one.id, HIGH) > scale_mean(then, WEEKS[0]) - 0.3 * SD
                if missed or then < int(GRADES[0]):
                    continue
                lift = LIFT if taking.newest and klass == ABOVE else 0.0
                # the ability holds what is learned in a year; the norm's mean does too
                score = float(round(BASE + PER_GRADE * then + SD * ability(one.id) + lift + error * noise))
                if taking.back == 0 and not taking.newest:
                    starts[one.id] = score
                made.append((one.id, str(then), min(HIGH, max(LOW, score)), taking))
            _put(db, measure, _window(calendar, taking), made, error)

    ctx.store.write(work)


def _skills(ctx: Context, actor: Actor, takings: list[Taking], pupils: list[Pupil], known: Abilities) -> None:
    """Skills under the mathematics scale, the later ones harder, in this year's windows."""
    with ctx.store.read() as db:
        whole = db.scalars(select(Measure.id).where(Measure.name == "Tideline Mathematics")).one()
    for place, name in enumerate(SKILLS):
        measure = measures.create_measure(
            ctx,
            actor,
            MeasureWish(
                name=f"Tideline {name.lower()}", subject="Mathematics", low=LOW, high=HIGH, decimals=0, part_of=whole
            ),
        )
        rows = [CutLine(grade, "", [round(scale_mean(int(grade), 8))]) for grade in GRADES]
        wish = CutsWish(names=("Not yet", "Ready"), rows=rows, goal=2, source="mathematics team, August 2025", based=0)
        cuts.put_cuts(ctx, actor, measure, wish)

        def work(db: Session, measure: int = measure, place: int = place, name: str = name) -> None:
            calendar = Calendar(db)
            for taking in (t for t in takings if t.back == 0):
                ability = known.at("Mathematics", taking.years)
                rng = np.random.default_rng(hash_of("skill", name, str(taking.start)))
                made = []
                for one in (p for p in pupils if p.grade in GRADES):
                    own = 6 * rng.standard_normal()
                    score = BASE + PER_GRADE * int(one.grade) + SD * (ability(one.id) + 0.9 - 0.75 * place) + own
                    made.append((one.id, one.grade, float(min(HIGH, max(LOW, round(score)))), taking))
                _put(db, measure, _window(calendar, taking), made, 6.0)

        ctx.store.write(work)


def _levels(ctx: Context, actor: Actor, takings: list[Taking], pupils: list[Pupil], known: Abilities) -> None:
    """Reading levels with names, as a teacher finds them by listening to a child read."""
    measure = measures.create_measure(
        ctx, actor, MeasureWish(name="Harbor reading levels", subject="Reading", levels=LEVELS)
    )

    def work(db: Session) -> None:
        calendar = Calendar(db)
        for taking in takings:
            ability = known.at("Reading", taking.years)
            rng = np.random.default_rng(hash_of("levels", str(taking.start)))
            made = []
            for one in pupils:
                if one.grade not in COUNT_GRADES or (taking.back and one.grade == "1"):
                    continue
                then = int(one.grade) - taking.back
                raw = 0.9 * then + 0.9 * ability(one.id) + 0.35 * rng.standard_normal() + 0.8
                made.append((one.id, str(then), float(min(len(LEVELS), max(1, round(raw)))), taking))
            _put(db, measure, _window(calendar, taking), made, None)

    ctx.store.write(work)


def _count(ctx: Context, actor: Actor, district: District, pupils: list[Pupil], known: Abilities, now: date) -> None:
    """Facts right in a minute, counted every month of this year."""
    measure = measures.create_measure(
        ctx, actor, MeasureWish(name="Facts in a minute", subject="Mathematics", low=0, high=90, decimals=0)
    )
    wish = NormWish(
        name="Facts in a minute, monthly norms",
        version="3",
        source="handbook of the measure, appendix B",
        population="4,100 students of 22 made-up schools",
        norms=count_norms(),
    )
    measures.add_norms(ctx, actor, measure, wish)
    begins = district.year.fall[1]

    def work(db: Session) -> None:
        calendar = Calendar(db)
        day = begins
        while day <= now - timedelta(days=7):
            when = calendar.when(f"{day:%B %Y}", None)
            week = calendar.week(day) or 0.0
            assert when is not None
            rng = np.random.default_rng(hash_of("count", str(day)))
            ability = known.at("Mathematics", week / 36)
            made = []
            for one in (p for p in pupils if p.grade in COUNT_GRADES):
                score = 12 + 7 * int(one.grade) + 5.5 * ability(one.id) + 2.5 * rng.standard_normal()
                made.append((one.id, one.grade, float(min(90, max(0, round(score)))), week))
            _put(db, measure, when, made, 2.5)
            day = (day.replace(day=1) + timedelta(days=33)).replace(day=min(day.day, 28))

    ctx.store.write(work)


def _window(calendar: Calendar, taking: Taking) -> When:
    return calendar.of_window(next(w.id for w in calendar.windows if (w.name, w.start) == (taking.name, taking.start)))


Made = list[tuple[int, str, float, Taking]] | list[tuple[int, str, float, float]]


def _put(db: Session, measure: int, when: When, made: Made, error: float | None) -> None:
    occasion = put_occasions(db, measure, [when])[when]
    rows = [
        {
            "measure_id": measure,
            "person_id": person,
            "occasion_id": occasion,
            "grade": grade,
            "week": at.week if isinstance(at, Taking) else at,
            "score": score,
            "se": error,
            "marks": "",
        }
        for person, grade, score, at in made
    ]
    if rows:
        db.execute(insert(MeasureScore.__table__), rows)  # type: ignore[arg-type]
    db.get_one(Measure, measure).version += 1
