"""The fall benchmarks of the middle school in mathematics and reading, in which most findings are planted."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import timedelta

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from bildung.core.data.arrays import FloatArray
from bildung.core.data.simulate import ItemParameters, simulate_choices
from bildung.demo import mathematics, reading
from bildung.demo.benchmarks import benchmark, classes_of, put_answers
from bildung.demo.district import MIDDLE, DemoYear, local_time, school_day
from bildung.demo.files import SUBJECTS, DemoItem, place
from bildung.demo.plants import DemoAttempts, hash_of, plant, times
from bildung.services.answers.packing import pack
from bildung.services.sessions.scheduling import schedule
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import (
    FormItem,
    Item,
    ItemVersion,
    Person,
    PlannedSession,
    Sitting,
)

ITEMS = 34
ABSENT_SHARE = 0.045
OMIT = 0.03
WRONG_KEY = ("Mathematics", "6", 14)  # the bank holds a wrong option as its key
IDLE = ("Reading", "7", 9)  # one option that nobody finds attractive


@dataclass(frozen=True, kw_only=True)
class Planted:
    """A form with findings in it: its items, and what is true of each."""

    form_id: int
    items: list[DemoItem]
    parameters: list[ItemParameters]


def planted_items(rng: random.Random) -> dict[tuple[str, str], list[DemoItem]]:
    """By subject and grade."""
    return {(subject, grade): _items(subject, grade, rng) for subject in ("Mathematics", "Reading") for grade in MIDDLE}


def _items(subject: str, grade: str, rng: random.Random) -> list[DemoItem]:
    source = mathematics if subject == "Mathematics" else reading
    drafts = source.draft_items(rng, grade, ITEMS)
    if (subject, grade) == WRONG_KEY[:2]:  # a question asked for a number has no wrong option to be keyed
        at = WRONG_KEY[2] - 1
        drafts[at] = replace(drafts[at], numeric=False)
    items = place(drafts, f"{SUBJECTS[subject]}{grade}", subject, grade, rng)
    if (subject, grade) == WRONG_KEY[:2]:
        item = items[WRONG_KEY[2] - 1]
        items[WRONG_KEY[2] - 1] = replace(item, key=next(k for k in "ABCD" if k != item.key))
    return items


def _parameters(
    items: Sequence[DemoItem], subject: str, grade: str, numbers: np.random.Generator
) -> list[ItemParameters]:
    """Known truth for each item; the planted ones are set here."""
    found = []
    for number, item in enumerate(items, 1):
        options = item.options or (item.draft.right, *item.draft.wrong)
        right = options.index(item.draft.right)
        discrimination = float(np.clip(numbers.lognormal(0.25, 0.25), 0.8, 2.2))
        difficulty = float(np.clip(numbers.normal(-0.3, 0.8), -2.0, 1.6))
        pull = [float(p) for p in numbers.uniform(0.6, 1.4, len(options))]
        slopes = tuple(float(s) for s in numbers.normal(-0.05, 0.12, len(options)))
        if (subject, grade, number) == WRONG_KEY:
            discrimination, difficulty = 1.5, 0.2
        if (subject, grade, number) == IDLE:
            difficulty = 0.3
            idle = next(at for at in range(len(options)) if at != right)
            pull[idle] = 0.004
        guessing = 0.0 if item.draft.numeric else 0.15
        found.append(
            ItemParameters(
                discrimination=discrimination,
                difficulty=difficulty,
                guessing=guessing,
                right=right,
                pull=tuple(pull),
                pull_by_ability=slopes,
            )
        )
    return found


def planted_benchmark(
    ctx: Context,
    actor: Actor,
    year: DemoYear,
    window: int,
    items: list[DemoItem],
    ability: dict[tuple[str, int], float],
    numbers: np.random.Generator,
) -> Planted:
    """The form of one subject and grade: made, published, planned for its five classes, taken."""
    name, opens, _ = year.fall
    subject, grade = items[0].subject, items[0].grade
    with ctx.store.read() as db:
        versions = dict(db.execute(select(Item.code, ItemVersion.id).join(Item.versions)).all())
    title = f"{name} {subject.lower()}"
    form = benchmark(ctx, actor, f"{title} {grade}", title, subject, grade, [versions[item.code] for item in items])
    day = school_day(opens + timedelta(days=2 * MIDDLE.index(grade) + (1 if subject == "Reading" else 0)))
    start = local_time(day, 8, 30)
    made = schedule(
        ctx, actor, form, window, classes_of(ctx, subject, grade), "", None, start, start + timedelta(minutes=60)
    )
    found = Planted(form_id=form, items=items, parameters=_parameters(items, subject, grade, numbers))
    for session_id in made:
        ctx.store.write(lambda db, id=session_id: planted_answers(db, id, found, ability, numbers))  # type: ignore[misc]
    return found


def planted_answers(
    db: Session,
    session_id: int,
    planted: Planted,
    ability: dict[tuple[str, int], float],
    numbers: np.random.Generator,
) -> None:
    """A session of a planted form as it is after its end."""
    items, parameters, subject = planted.items, planted.parameters, planted.items[0].subject
    session = db.get_one(PlannedSession, session_id)
    places = list(
        db.scalars(select(FormItem.id).where(FormItem.form_id == session.form_id).order_by(FormItem.position))
    )
    wanted = select(Sitting).where(Sitting.session_id == session_id).order_by(Sitting.person_id)
    sittings = list(db.scalars(wanted.options(joinedload(Sitting.person))))
    absent = numbers.random(len(sittings)) < ABSENT_SHARE
    theta: FloatArray = np.array([ability[subject, s.person_id] for s in sittings])
    choices = simulate_choices(theta, parameters, numbers, OMIT)
    grade, klass = items[0].grade, session.klass.title
    sat = DemoAttempts(
        subject=subject,
        grade=grade,
        klass=klass,
        students=[s.person.source_id for s in sittings],
        items=items,
        right=[p.right for p in parameters],
        choices=choices,
        ability=theta,
        seconds=times(len(sittings), items, np.random.default_rng(hash_of("times", subject, klass))),
    )
    plant(sat)
    spent = []
    events, present = [], []
    for row, sitting in enumerate(sittings):
        if absent[row]:
            sitting.state = "absent"
            continue
        sitting.state, sitting.takeover = "handed_in", 1
        sitting.started_at = session.start + timedelta(seconds=int(numbers.integers(10, 120)))
        sitting.handed_in_at = sitting.last_at = session.start + timedelta(minutes=int(numbers.integers(34, 58)))
        for at, item in enumerate(items):
            if sat.seconds[row, at]:
                spent.append(
                    {
                        "sitting_id": sitting.id,
                        "form_item_id": places[at],
                        "takeover": 1,
                        "milliseconds": int(1000 * sat.seconds[row, at]),
                    }
                )
            picked = int(choices[at][row])
            if picked < 0:
                continue
            written = (item.draft.right, *item.draft.wrong)[picked] if item.draft.numeric else "ABCD"[picked]
            entry = {
                "sitting_id": sitting.id,
                "form_item_id": places[at],
                "answer": written,
                "takeover": 1,
                "sequence": at + 1,
            }
            present.append(entry)
            moment = session.start + timedelta(minutes=2 + at)
            events.append({"id": f"demo-{sitting.id}-{at + 1}", "at": moment, **entry})
    db.flush()
    put_answers(db, events, present, spent)
    proctors = dict(
        db.execute(select(Person.source_id, Person.id).where(Person.source_id.in_(("BM-P01", "BM-P02")))).all()
    )
    # two proctors cannot hold five rooms at once: the first two classes have one
    session.proctor_id = proctors.get(f"BM-P0{session.klass.title[-1]}")
    session.closed_at = session.end
    session.data_version += 1
    pack(db, session)
