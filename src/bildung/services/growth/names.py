"""Whom a row of a score file means: by number, or by name and birth date; what is not certain is decided once and remembered."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.names import alike, plain_words
from bildung.formats.scorefile import ScoreRow
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import NameMatch, Person

MOST_CANDIDATES = 5


@dataclass(frozen=True, kw_only=True)
class Candidate:
    """A student who may be meant."""

    id: Id
    name: str
    grade: str
    number: str
    born: date | None


@dataclass(frozen=True, kw_only=True)
class Doubt:
    """A name of the file that is not certain. written: names it when it is decided. rows: how many of the file. nobody: it was decided
    that this is no student here."""

    written: str
    name: str
    born: date | None
    grade: str
    rows: int
    why: str
    candidates: list[Candidate]


@dataclass(frozen=True, slots=True)
class Student:
    id: int
    source_id: str
    given: str
    family: str
    grade: str
    born: date | None
    active: bool

    @property
    def name(self) -> str:
        """As people say it."""
        return f"{self.given} {self.family}".strip()


@dataclass(frozen=True)
class Meant:
    """person: whom; None where it is nobody, or not certain. why: the reason then."""

    person: Student | None
    why: str = ""
    doubt: bool = False


class Students:
    """Everybody by what a file may say of them."""

    def __init__(self, db: Session) -> None:
        rows = db.execute(
            select(
                Person.id,
                Person.source_id,
                Person.given,
                Person.family,
                Person.grade,
                Person.birth_date,
                Person.active,
            ).where(Person.student.is_(True), Person.merged_into_id.is_(None))
        )
        self.all = [Student(*row) for row in rows]
        self.by_number = {s.source_id: s for s in self.all}
        self.by_id = {s.id: s for s in self.all}
        self._by_name: dict[str, list[Student]] = defaultdict(list)
        self._by_birth: dict[date, list[Student]] = defaultdict(list)
        self._by_family: dict[str, list[Student]] = defaultdict(list)
        for s in self.all:
            self._by_name[plain(s.name)].append(s)
            self._by_family[plain(s.family)].append(s)
            if s.born is not None:
                self._by_birth[s.born].append(s)
        self._decided = {m.written: m.person_id for m in db.scalars(select(NameMatch))}

    def meant(self, row: ScoreRow) -> Meant:
        """Whom a row means."""
        if row.student:
            found = self.by_number.get(row.student)
            if found is None:
                return Meant(None, "no student has this number")
            if row.name and not alike(row.name, found.name):
                return self._settled(row) or Meant(
                    None, f"number {row.student} is {found.name}'s, and the name is {row.name}", doubt=True
                )
            return Meant(found)
        same = self._by_name.get(plain(row.name), [])
        if row.birth_date is not None:
            born = [s for s in same if s.born == row.birth_date]
            if len(born) == 1:
                return Meant(born[0])
        settled = self._settled(row)
        if settled is not None:
            return settled
        if not same and not self.candidates(row):
            return Meant(None, "no student has this name")
        if row.birth_date is None:
            return Meant(None, "the name alone is not certain, and the row has no birth date", doubt=True)
        if same:
            return Meant(None, f"{len(same)} of this name, with another birth date", doubt=True)
        return Meant(None, "no student has this name, but one like it", doubt=True)

    def _settled(self, row: ScoreRow) -> Meant | None:
        key = written(row)
        if key not in self._decided:
            return None
        id = self._decided[key]
        if id is None:
            return Meant(None, "decided earlier: no student here")
        person = self.by_id.get(id)
        return None if person is None else Meant(person)

    def candidates(self, row: ScoreRow) -> list[Student]:
        """Who may be meant, the likeliest first."""
        near: dict[int, Student] = {}
        if row.student and row.student in self.by_number:
            one = self.by_number[row.student]
            near[one.id] = one
        for s in self._by_name.get(plain(row.name), []):
            near[s.id] = s
        for s in self._by_birth.get(row.birth_date, []) if row.birth_date is not None else []:
            if set(plain_words(s.name)) & set(plain_words(row.name)):
                near[s.id] = s
        for s in self._by_family.get(plain(row.family), []):
            if alike(row.name, s.name):
                near[s.id] = s
        if not near:
            for s in self.all:
                if s.given[:1] == row.given[:1] and alike(row.name, s.name):
                    near[s.id] = s
        ordered = sorted(near.values(), key=lambda s: (s.born != row.birth_date, s.grade != row.grade, s.name))
        return ordered[:MOST_CANDIDATES]


def plain(name: str) -> str:
    """A name for looking up: without accents, capitals, hyphens."""
    return " ".join(plain_words(name))


def written(row: ScoreRow) -> str:
    """What a decision is remembered under."""
    return "|".join((row.student, plain(row.given), plain(row.family), str(row.birth_date or "")))


def doubts(students: Students, rows: Iterable[ScoreRow]) -> list[Doubt]:
    """Each uncertain name once."""
    found: dict[str, list[ScoreRow]] = defaultdict(list)
    for row in rows:
        if students.meant(row).doubt:
            found[written(row)].append(row)
    return [
        Doubt(
            written=key,
            name=some[0].name,
            born=some[0].birth_date,
            grade=some[0].grade,
            rows=len(some),
            why=students.meant(some[0]).why,
            candidates=[
                Candidate(id=s.id, name=s.name, grade=s.grade, number=s.source_id, born=s.born)
                for s in students.candidates(some[0])
            ],
        )
        for key, some in found.items()
    ]


def settle_name(ctx: Context, actor: Actor, key: str, person_id: int | None) -> None:
    """From now on this name and birth date means this student; None: nobody here."""
    scope(actor, Action.MEASURES_KEEP)
    key = need_text(key, "written", 300)

    def work(db: Session) -> None:
        if person_id is not None:
            person = db.get(Person, person_id)
            if person is None or person.kind != "student":
                raise NotFound("there is no such student")
        row = db.scalar(select(NameMatch).where(NameMatch.written == key))
        if row is None:
            db.add(NameMatch(written=key, person_id=person_id, by_id=actor.person_id, at=ctx.clock()))
        else:
            row.person_id, row.by_id, row.at = person_id, actor.person_id, ctx.clock()
        audit.record(db, ctx.clock(), actor.person_id, "scores.name", f"name:{key}", None, {"person": person_id})

    ctx.store.write(work)
