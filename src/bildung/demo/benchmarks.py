"""Benchmarks of items of any kind: a published form, its sessions, and what students of a known ability answer."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from bildung.core.data.simulate import ItemParameters
from bildung.demo.answers import in_own_words, right_answer, wrong_answer
from bildung.demo.blueprints import benchmark_blueprint
from bildung.demo.plants import hash_of
from bildung.formats.content import ChoicePart, EntryPart
from bildung.services.answers.packing import pack
from bildung.services.building import forms
from bildung.services.items.bankitem import content_of, items_whole, with_parts
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.store.models import (
    FormItem,
    Item,
    ItemVersion,
    PlannedSession,
    Response,
    ResponseEvent,
    SchoolClass,
    Sitting,
    TimeOn,
)

ABSENT, BLANK, GUESS = 0.045, 0.02, 0.12
WRONG = 5  # different wrong answers that an item is given
COMMON = 4  # of the wrong answers to a numeric item that are one slip, beside WRONG others at most
Values = list[dict[str, Any]]
Ability = Callable[[int], float]  # of a person


@dataclass(frozen=True, kw_only=True)
class Question:
    """An item on a form. right: an answer that earns its points; wrong: some that earn none. written: judged by a
    person."""

    place: int
    discrimination: float
    difficulty: float
    seconds: float
    right: str
    wrong: tuple[str, ...]
    written: bool


def benchmark(
    ctx: Context, actor: Actor, name: str, title: str, subject: str, grade: str, versions: Sequence[int]
) -> int:
    """A published form of these items, with the blueprint it was written to. Its id."""
    blueprint = ctx.store.write(lambda db: benchmark_blueprint(ctx, db, name, versions))
    form = forms.create_form(ctx, actor, name, title, subject, grade, "benchmark", blueprint)
    form = forms.set_items(ctx, actor, form.id, form.revision, list(versions))
    forms.publish(ctx, actor, form.id, form.revision)
    return form.id


def usable(db: Session, subject: str, grade: str) -> list[int]:
    """Newest versions of a grade's items that a machine scores, in the order of their codes."""
    items = db.scalars(
        items_whole()
        .where(Item.subject == subject, Item.grade == grade, Item.state.in_(("ready", "in_use", "field_test")))
        .order_by(Item.code)
    )
    versions = [i.versions[-1] for i in items if i.versions]
    return [v.id for v in versions if v.template is None and v.kind not in ("writing", "reason")]


def classes_of(ctx: Context, subject: str, grade: str) -> list[int]:
    """This year's, in the order of their ids in the records."""
    with ctx.store.read() as db:
        wanted = select(SchoolClass.id).where(
            SchoolClass.subject == subject, SchoolClass.grade == grade, SchoolClass.active.is_(True)
        )
        return list(db.scalars(wanted.order_by(SchoolClass.source_id)))


def questions(db: Session, form_id: int, known: Mapping[str, ItemParameters] | None = None) -> list[Question]:
    """What is true of each item of a form: the same item is as hard on every form. known: by code, what is said of items
    elsewhere."""
    rows = db.execute(
        select(FormItem.id, FormItem.item_version_id).where(FormItem.form_id == form_id).order_by(FormItem.position)
    ).all()
    ids = [version for _, version in rows]
    versions = {v.id: v for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(ids))))}
    found = []
    for place, id in rows:
        version, rng = versions[id], random.Random(f"item {versions[id].item.code}")
        content = content_of(version)
        right = right_answer(content, rng)
        said = (known or {}).get(version.item.code)
        wrong = tuple(dict.fromkeys(wrong_answer(content, rng) for _ in range(WRONG)))
        part = content.shown.parts[0]
        if isinstance(part, EntryPart) and part.numeric and len(content.shown.parts) == 1:
            wrong = (*([_common_slip(right, version.item.code)] * COMMON), *wrong)
        if said is not None and isinstance(part, ChoicePart) and part.options[said.right].id != right:
            # the bank's key is wrong, and students go by what is true
            right, wrong = part.options[said.right].id, (right, *wrong)
        found.append(
            Question(
                place=place,
                discrimination=said.discrimination if said else min(2.0, max(0.7, rng.lognormvariate(0.2, 0.25))),
                difficulty=said.difficulty if said else min(1.4, max(-1.8, rng.gauss(-0.3, 0.8))),
                seconds=rng.uniform(30, 70),
                right=right,
                wrong=tuple(text for text in wrong if text and text != right) or wrong,
                written=version.kind in ("writing", "reason"),
            )
        )
    return found


def _common_slip(right: str, code: str) -> str:
    """The same mistake of many: a place too many, a carried ten forgotten, the sign; nothing where the answer is no plain number."""
    try:
        value = float(right)
    except ValueError:
        return ""
    slips = (value * 10, value - 10 if abs(value) > 12 else value + 1, value / 10 if abs(value) > 12 else 2 * value)
    return f"{random.Random(f'slip {code}').choice(slips):g}"


def answered(
    db: Session, session_id: int, asked: Sequence[Question], ability: Ability, log: bool = True, ends: bool = True
) -> None:
    """A whole session as it is after its end. log: with every answer's moment and the time on each item, which a school
    keeps for a year. ends: closed, with its answers packed."""
    session = db.get_one(PlannedSession, session_id)
    rng = np.random.default_rng(hash_of("answers", session.klass.source_id, session.form.name, str(session.window_id)))
    sittings = db.scalars(select(Sitting).where(Sitting.session_id == session_id).order_by(Sitting.person_id)).all()
    present = []
    for sitting, absent in zip(sittings, rng.random(len(sittings)) < ABSENT, strict=True):
        if absent:
            sitting.state = "absent"
            continue
        sitting.state, sitting.takeover = "handed_in", 1
        sitting.started_at = session.start + timedelta(seconds=int(rng.integers(10, 150)))
        length = (session.end - session.start) / timedelta(minutes=1)
        sitting.handed_in_at = sitting.last_at = session.start + timedelta(
            minutes=float(rng.uniform(0.55, 0.95)) * length
        )
        present.append(sitting)
    write(db, session.start, [(s, len(asked)) for s in present], asked, ability, rng, log)
    if ends:
        session.closed_at = session.end
        session.data_version += 1
        db.flush()
        pack(db, session)


def write(
    db: Session,
    start: datetime,
    sittings: Sequence[tuple[Sitting, int]],
    asked: Sequence[Question],
    ability: Ability,
    rng: np.random.Generator,
    log: bool = True,
) -> None:
    """Answers to as many of the questions as each student has reached; to those of a companion form for who has one."""
    by_form: dict[int | None, list[tuple[Sitting, int]]] = {}
    for sitting, reached in sittings:
        by_form.setdefault(sitting.form_id, []).append((sitting, reached))
    for form_id, mine in by_form.items():
        own = asked if form_id is None else questions(db, form_id)
        _write(db, start, mine, own, ability, rng, log)


def _write(
    db: Session,
    start: datetime,
    sittings: Sequence[tuple[Sitting, int]],
    asked: Sequence[Question],
    ability: Ability,
    rng: np.random.Generator,
    log: bool,
) -> None:
    theta = np.array([ability(s.person_id) for s, _ in sittings])
    pace = rng.lognormal(0.0, 0.22, len(sittings))
    present, events, spent = [], [], []
    for number, question in enumerate(asked, 1):
        chance = GUESS + (1 - GUESS) / (1 + np.exp(-question.discrimination * (theta - question.difficulty)))
        knows, blank = rng.random(theta.size) < chance, rng.random(theta.size) < BLANK
        which = rng.integers(0, len(question.wrong), theta.size)
        seconds = np.clip(question.seconds * pace * rng.lognormal(0.0, 0.35, theta.size), 5.0, 400.0)
        for at, (sitting, reached) in enumerate(sittings):
            if number > reached:
                continue
            if log:
                spent.append(
                    {
                        "sitting_id": sitting.id,
                        "form_item_id": question.place,
                        "takeover": 1,
                        "milliseconds": int(1000 * seconds[at]),
                    }
                )
            if blank[at]:
                continue
            answer = question.right if knows[at] else question.wrong[which[at]]
            if question.written and not answer.startswith("{"):
                answer = in_own_words(answer, f"{sitting.id} {question.place} words")
            entry = {
                "sitting_id": sitting.id,
                "form_item_id": question.place,
                "answer": answer,
                "takeover": 1,
                "sequence": number,
            }
            present.append(entry)
            if log:
                moment = start + timedelta(seconds=45 * number)
                events.append({"id": f"demo-{sitting.id}-{number}", "at": moment, **entry})
    db.flush()
    put_answers(db, events, present, spent)


def put_answers(db: Session, events: Values, present: Values, spent: Values) -> None:
    """In bulk, past the object mapper: half a million rows in a few seconds."""
    for table, rows in ((ResponseEvent, events), (Response, present), (TimeOn, spent)):
        if rows:
            db.execute(insert(table.__table__), rows)  # type: ignore[arg-type]
