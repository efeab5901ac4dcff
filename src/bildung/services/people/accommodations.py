"""What students need when they sit a test: kept once, used by every session, card and paper."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import asdict, dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.timing import extra_time, personal_end
from bildung.services.people.changes import moved
from bildung.services.people.membership import needs_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.store.models import Accommodation, Person, PlannedSession

FORM_KINDS = ("", "shortened", "adapted")
LONGEST_NOTE = 400
LONGEST_LANGUAGE = 40
MOST_NAMED = 500  # ids in one query; with more all rows are read


@dataclass(frozen=True, kw_only=True)
class Needs:
    """As in the table; see store/models/people.py."""

    extra_time: float = 1.0
    small_group: bool = False
    own_proctor: bool = False
    read_aloud: bool = False
    large_print: bool = False
    breaks: bool = False
    form_kind: str = ""
    language: str = ""
    note: str = ""


def needs_row(row: Accommodation | None) -> Needs:
    """A student's accommodations as the store has them; nothing where it has none."""
    return Needs() if row is None else Needs(**{name: getattr(row, name) for name in asdict(Needs())})


def checked(needs: Needs) -> Needs:
    """The same, or an error that names what is allowed."""
    factor = extra_time(needs.extra_time)
    if needs.form_kind not in FORM_KINDS:
        raise Invalid("the form is empty, shortened or adapted", "form_kind")
    if len(needs.note) > LONGEST_NOTE:
        raise Invalid(f"a note has at most {LONGEST_NOTE} characters", "note")
    if len(needs.language) > LONGEST_LANGUAGE:
        raise Invalid(f"a language has at most {LONGEST_LANGUAGE} characters", "language")
    return Needs(
        **{**asdict(needs), "extra_time": factor, "language": needs.language.strip(), "note": needs.note.strip()}
    )


def put(db: Session, person_id: int, needs: Needs) -> tuple[Needs, Needs]:
    """Keep them; what was there before, and what is there now."""
    row = db.get(Accommodation, person_id)
    before = needs_row(row)
    needs = checked(needs)
    if needs == Needs():
        if row is not None:
            db.delete(row)
    elif row is None:
        db.add(Accommodation(person_id=person_id, **asdict(needs)))
    else:
        for name, value in asdict(needs).items():
            setattr(row, name, value)
    return before, needs


def change(ctx: Context, actor: Actor, person_id: int, needs: Needs) -> None:
    """Of one student; what is planned follows at once."""
    allowed = scope(actor, Action.SUPPORT_WRITE)

    def work(db: Session) -> None:
        person = db.scalar(select(Person).where(Person.id == person_id, Person.kind == "student", allowed))
        if person is None:
            raise NotFound("there is no such student, or they are not yours")
        before, after = put(db, person.id, needs)
        if before != after:
            audit.record(
                db,
                ctx.clock(),
                actor.person_id,
                "accommodation.change",
                f"person:{person.id}",
                said(before),
                said(after),
            )
            moved(db, [person.id])

    ctx.store.write(work)


def said(needs: Needs) -> str:
    """In words, for lists and the log; empty where nothing is needed."""
    words = [f"extra time × {needs.extra_time:g}"] if needs.extra_time > 1 else []
    words += [
        name.replace("_", " ")
        for name in ("small_group", "own_proctor", "read_aloud", "large_print", "breaks")
        if getattr(needs, name)
    ]
    if needs.form_kind:
        words.append(f"{needs.form_kind} form")
    if needs.language:
        words.append(f"directions in {needs.language}")
    return ", ".join(words)


def of_people(db: Session, ids: list[int]) -> dict[int, Needs]:
    """Of those who have any."""
    return {
        a.person_id: needs_row(a) for a in db.scalars(select(Accommodation).where(Accommodation.person_id.in_(ids)))
    }


def end_for(
    db: Session, session: PlannedSession, person_id: int, began: datetime | None = None, limit: int | None = None
) -> datetime:
    """When this student has to hand in. began, limit: of a test with a time limit of its own, in minutes."""
    row = db.get(Accommodation, person_id)
    return personal_end(session.start, session.end, row.extra_time if row else 1.0, began, limit)


def extra_times(db: Session, people: Collection[int]) -> dict[int, float]:
    """Factors on the time, of those who have one; in one query however many there are."""
    of = select(Accommodation.person_id, Accommodation.extra_time)
    if len(people) <= MOST_NAMED:
        of = of.where(Accommodation.person_id.in_(people))
    return dict(db.execute(of).all())


def last_end(db: Session, session: PlannedSession) -> datetime:
    """When the last of a session's students has to hand in."""
    ids = [sitting.person_id for sitting in session.sittings]
    factors = db.scalars(select(Accommodation.extra_time).where(Accommodation.person_id.in_(ids)))
    return personal_end(session.start, session.end, max(factors, default=1.0))


def counts(db: Session, ids: list[int]) -> dict[str, int]:
    """How many of these need what, in words, most wanted first."""
    found: dict[str, int] = {}
    for row in db.scalars(select(Accommodation).where(Accommodation.person_id.in_(ids))):
        for word in needs_of(row):
            found[word] = found.get(word, 0) + 1
    return dict(sorted(found.items(), key=lambda entry: (-entry[1], entry[0])))
