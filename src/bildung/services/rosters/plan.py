"""What a roster would change here, and changing it: planned from a snapshot, written in one short transaction."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from datetime import UTC, date, datetime, time
from typing import Any

from sqlalchemy import insert, select, update
from sqlalchemy.orm import Session

from bildung.core.school.usernames import normal_username
from bildung.formats.oneroster import Known, Roster, RosterEnrolment
from bildung.services.people.changes import LOCAL, moved, stamp
from bildung.services.rosters.decisions import decided, end_moot
from bildung.services.shared.codes import SESSION_LENGTH, STUDENT_LENGTH, new_code
from bildung.services.shared.jobs import Job
from bildung.services.shared.staging import Planned, PreviewLine
from bildung.store.models import (
    AcademicSession,
    Attribute,
    AttributeValue,
    Base,
    Enrolment,
    FamilyLink,
    Person,
    PlannedSession,
    Role,
    School,
    SchoolClass,
    SchoolYear,
)

ASK_SHARE = 0.10
EVERY = 2000
CHUNK = 5000
_WORDS = {
    "school_id": "school",
    "given": "given name",
    "family": "family name",
    "username": "user name",
    "location": "room",
    "birth_date": "birth date",
    "homeroom": "homeroom",
    "year_id": "school year",
    "ends": "leaves on",
    "begins": "joins on",
}


def known(db: Session) -> Known:
    """What is here, for files that speak of it without bringing it."""
    roles = {
        person_id: role for person_id, role in db.execute(select(Role.person_id, Role.role).order_by(Role.id.desc()))
    }
    users = {
        source: kind if kind != "staff" else roles.get(id, "teacher")
        for id, source, kind in db.execute(
            select(Person.id, Person.source_id, Person.kind).where(Person.active.is_(True))
        )
    }
    classes = frozenset(db.scalars(select(SchoolClass.source_id).where(SchoolClass.active.is_(True))))
    return Known(users, classes, frozenset(db.scalars(select(School.source_id))))


def plan_roster(
    db: Session, roster: Roster, today: date, job: Job | None = None, code: Callable[[set[str]], str] | None = None
) -> Planned:
    """What becomes of everything the roster names, and of whom it no longer names."""
    plan = _Plan(db, roster, today, job or Job())
    plan.make()
    return Planned(plan.lines, lambda db: _write(db, plan, code), stamp, plan.ask)


class _Plan:
    """The plan as lines for people and as rows for the store. Rows that are not there yet are named by source id."""

    def __init__(self, db: Session, roster: Roster, today: date, job: Job) -> None:
        self.db, self.roster, self.today, self.job = db, roster, today, job
        self.lines: list[PreviewLine] = []
        self.decided = decided(db)
        self.roster = roster = self._one_record_each(roster)
        self.new: dict[type[Base], list[dict[str, Any]]] = {}
        self.change: dict[type[Base], list[dict[str, Any]]] = {}
        self.ask = ""
        self.moot_people: list[int] = []
        self.moot_enrolments: list[tuple[int, int]] = []
        self._schools = {row.id: row.name for row in db.execute(select(School.id, School.name))}
        # a file that does not name everything does not empty what it leaves out
        self.sparse = "class" not in roster.complete

    def _one_record_each(self, roster: Roster) -> Roster:
        """The roster with every second record read as the one it was merged into."""
        into = self.decided.merged
        if not into:
            return roster
        for user in roster.users:
            if user.id in into:
                name = f"{user.given} {user.family}".strip()
                self.lines.append(
                    PreviewLine(
                        fate="left_out",
                        what="person",
                        id=user.id,
                        label=name,
                        detail=f"a second record of {into[user.id]}",
                    )
                )
        users = tuple(u for u in roster.users if u.id not in into)
        seen: set[tuple[str, str]] = set()
        enrolments = []
        for e in roster.enrolments:
            whose = into.get(e.user, e.user)
            if (whose, e.klass) not in seen:
                enrolments.append(replace(e, user=whose))
            seen.add((whose, e.klass))
        gone = tuple(
            replace(g, user=into.get(g.user, g.user)) for g in roster.gone if g.what != "person" or g.id not in into
        )
        return replace(roster, users=users, enrolments=tuple(enrolments), gone=gone)

    def make(self) -> None:
        roster = self.roster
        schools = self._table(
            "school", School, {o.id: {"name": o.name} for o in roster.orgs if o.kind == "school"}, "name"
        )
        self._table(
            "academic session",
            AcademicSession,
            {s.id: {"title": s.title, "kind": s.kind, "start": s.start, "end": s.end} for s in roster.sessions},
            "title",
        )
        self.school_ids = {r.source_id: r.id for r in self.db.execute(select(School.source_id, School.id))}
        self.years = self._years()
        self._people()
        self._classes()
        self._enrolments()
        self._links()
        self._attributes()
        self._taken_back()
        self._departed(set(schools.values()))
        self.lines += [
            PreviewLine(fate="left_out", what=left.file, id=left.id, label=f"line {left.line}", detail=left.reason)
            for left in roster.left_out
        ]
        self.lines += [
            PreviewLine(
                fate="left_out", what="file", id=name, label=name, detail="a file of the set that is not read here"
            )
            for name in roster.unread
        ]
        self.lines += [
            PreviewLine(
                fate="left_out",
                what="mark in a name",
                id=f"{m.file}, line {m.line}",
                label=m.name,
                detail="marks that are not seen, or turn the text round, are left out of the name",
            )
            for m in roster.mended
        ]

    def _progress(self, what: str, rows: Sequence[Any] | dict[str, Any]) -> Iterable[Any]:
        entries = list(rows.items()) if isinstance(rows, dict) else rows
        for at, row in enumerate(entries):
            if at % EVERY == 0:
                self.job.tell(what, at, len(entries))
            yield row
        self.job.tell(what, len(entries), len(entries))

    def _table(
        self,
        what: str,
        model: Any,
        wanted: dict[str, dict[str, Any]],
        label: str | Callable[[str, dict[str, Any]], str],
    ) -> dict[str, int]:
        """Rows of one table to add or change; ids of those that are there, by source id."""
        if not wanted:
            return {}
        names = list(next(iter(wanted.values())))
        columns = [model.id, model.source_id, *(getattr(model, name) for name in names)]
        there = {row[1]: row for row in self.db.execute(select(*columns))}
        for id, values in self._progress(f"{what} rows", wanted):
            text = values[label] if isinstance(label, str) else label(id, values)
            row = there.get(id)
            if row is None:
                self.lines.append(PreviewLine(fate="added", what=what, id=id, label=text))
                known = {
                    name: None if value is _KEEP and name == "birth_date" else value for name, value in values.items()
                }
                self.new.setdefault(model, []).append({"source_id": id, **known})
                continue
            moves = {
                name: (old, values[name])
                for name, old in zip(names, row[2:], strict=True)
                if old != values[name] and not (values[name] is _KEEP or (self.sparse and values[name] in ("", None)))
            }
            if moves:
                detail = "; ".join(
                    f"{_WORDS.get(n, n)}: {self._shown(n, old)} → {self._shown(n, new)}"
                    for n, (old, new) in moves.items()
                )
                self.lines.append(PreviewLine(fate="changed", what=what, id=id, label=text, detail=detail))
                self.change.setdefault(model, []).append({"id": row[0], **{n: new for n, (_, new) in moves.items()}})
            else:
                self.lines.append(PreviewLine(fate="same", what=what, id=id, label=text))
        return {id: there[id][0] for id in wanted if id in there}

    def _shown(self, name: str, value: Any) -> str:
        if name == "school_id" and value is not None:
            if isinstance(value, str):
                return next(org.name for org in self.roster.orgs if org.id == value)
            return str(self._schools[value])
        if name == "year_id" and isinstance(value, int):
            return next((str(y.title) for y in self.years if y.id == value), "–")
        return "–" if value in (None, "") else "yes" if value is True else "no" if value is False else str(value)

    def _years(self) -> list[Any]:
        """School years that are there, and those that the file brings for the first time."""
        there = list(self.db.execute(select(SchoolYear.id, SchoolYear.title, SchoolYear.start, SchoolYear.end)))
        titles = {y.title for y in there}
        spans = [(y.start, y.end) for y in there]
        for s in self.roster.sessions:
            if s.kind == "schoolYear" and not any(start <= s.end and s.start <= end for start, end in spans):
                spans.append((s.start, s.end))
                title = s.title if s.title not in titles else f"{s.title} ({s.start.year})"
                titles.add(title)
                self.new.setdefault(SchoolYear, []).append({"title": title, "start": s.start, "end": s.end})
        return there

    def _school(self, key: str) -> int | str | None:
        """The school's id; for one that this file adds, its source id."""
        return self.school_ids.get(key, key) if key else None

    def _people(self) -> None:
        users = self.roster.users
        names = [u.username for u in users if u.username]
        held: dict[str, str] = {}
        if names:
            rows = self.db.execute(select(Person.username, Person.source_id).where(Person.username.is_not(None)))
            held = {username: source for username, source in rows if username}
        wanted: dict[str, dict[str, Any]] = {}
        left = self._set_aside()
        for user in users:
            kind = user.role if user.role in ("student", "family") else "staff"
            username: Any = _KEEP
            if user.username:
                if held.setdefault(normal_username(user.username), user.id) == user.id:
                    username = normal_username(user.username)
                else:
                    who = f"{user.given} {user.family}"
                    self.lines.append(
                        PreviewLine(
                            fate="left_out",
                            what="user name",
                            id=user.username,
                            label=who,
                            detail="taken by another person",
                        )
                    )
            wanted[user.id] = {
                "given": user.given,
                "family": user.family,
                "kind": kind,
                "grade": user.grade,
                "school_id": self._school(user.school),
                "active": _KEEP if user.id in left else True,
                "username": username,
                "birth_date": self.roster.births.get(user.id, _KEEP),
            }
        roles = {u.id: u.role for u in users}

        def label(id: str, row: dict[str, Any]) -> str:
            name = f"{row['given']} {row['family']}".strip()
            return name if row["kind"] == "student" else f"{name}, {roles[id]}"

        self._table("person", Person, wanted, label)
        self.role_of_new = {
            row["source_id"]: roles[row["source_id"]] for row in self.new.get(Person, []) if row["kind"] == "staff"
        }

    def _set_aside(self) -> set[str]:
        """People whom the file has and of whom somebody decided that they left; those that it has no longer are moot."""
        if not self.decided.gone:
            return set()
        rows = self.db.execute(
            select(Person.id, Person.source_id, Person.given, Person.family).where(Person.id.in_(self.decided.gone))
        )
        named = {u.id for u in self.roster.users}
        left = set()
        for row in rows:
            if row.source_id in named:
                left.add(row.source_id)
                name = f"{row.given} {row.family}".strip()
                self.lines.append(
                    PreviewLine(
                        fate="left_out",
                        what="person",
                        id=row.source_id,
                        label=name,
                        detail="has left, as was decided in the roster check",
                    )
                )
            elif "student" in self.roster.complete:
                self.moot_people.append(row.id)
        return left

    def _classes(self) -> None:
        terms = {s.id: s.start for s in self.roster.sessions}
        if any(c.terms for c in self.roster.classes):
            terms = {s: d for s, d in self.db.execute(select(AcademicSession.source_id, AcademicSession.start))} | terms
        wanted = {
            c.id: {
                "title": c.title,
                "school_id": self._school(c.school),
                "subject": c.subject,
                "grade": c.grade,
                "location": c.location,
                "course": c.course,
                "period": c.period,
                "homeroom": c.homeroom,
                "year_id": self._year_of(c.terms, terms),
                "active": True,
            }
            for c in self.roster.classes
        }
        self._table("class", SchoolClass, wanted, "title")

    def _year_of(self, ids: tuple[str, ...], terms: dict[str, date]) -> Any:
        """The year of the class's term: its id, for a new one the day it starts, else what it has."""
        day = next((terms[id] for id in ids if id in terms), None)
        if day is None:
            return _KEEP
        return next((y.id for y in self.years if y.start <= day <= y.end), day)

    def _find_names(self) -> None:
        """Who and which classes are here or in the file, and how each is called."""
        roster = self.roster
        people = {
            r.source_id: r for r in self.db.execute(select(Person.id, Person.source_id, Person.given, Person.family))
        }
        classes = {
            r.source_id: r for r in self.db.execute(select(SchoolClass.id, SchoolClass.source_id, SchoolClass.title))
        }
        names = {source: f"{r.given} {r.family}".strip() for source, r in people.items()}
        names |= {u.id: f"{u.given} {u.family}".strip() for u in roster.users}
        titles = {source: r.title for source, r in classes.items()} | {c.id: c.title for c in roster.classes}
        self.people, self.classes, self.titles, self.names = people, classes, titles, names

    def _enrolments(self) -> None:
        self._find_names()
        roster, classes, people = self.roster, self.classes, self.people
        touched = {classes[c.id].id for c in roster.classes if c.id in classes}
        touched |= {classes[e.klass].id for e in roster.enrolments if e.klass in classes}
        columns = (
            Enrolment.id,
            Enrolment.class_id,
            Enrolment.person_id,
            Enrolment.role,
            Enrolment.active,
            Enrolment.begins,
            Enrolment.ends,
        )
        there = {(r.class_id, r.person_id): r for r in self.db.execute(select(*columns)) if r.class_id in touched}
        kept: set[tuple[int, int]] = set()
        for e in self._progress("enrolment rows", roster.enrolments):
            klass, person = classes.get(e.klass), people.get(e.user)
            row = None
            if klass is not None and person is not None:
                kept.add((klass.id, person.id))
                row = there.get((klass.id, person.id))
            if person is not None and klass is not None and (person.id, klass.id) in self.decided.kept_out:
                self.lines.append(
                    PreviewLine(
                        fate="left_out",
                        what="enrolment",
                        id=e.id,
                        label=self._called(e),
                        detail="not in this class, as was decided in the roster check",
                    )
                )
                continue
            if person is not None and person.id in self.decided.gone:
                continue
            if row is None:
                self._joins(e, known=klass is not None)
            else:
                self._stays(e, row)
        self._left_class(there, kept)
        if "enrolment" in roster.complete:
            self.moot_enrolments += [pair for pair in self.decided.kept_out if (pair[1], pair[0]) not in kept]

    def _called(self, e: RosterEnrolment) -> str:
        return f"{self.names[e.user]} in {self.titles[e.klass]}"

    def _over(self, e: RosterEnrolment) -> bool:
        return e.ends is not None and e.ends < self.today

    def _joins(self, e: RosterEnrolment, known: bool) -> None:
        """Into a class that was here before (known), somebody comes today, unless the file knows better."""
        over = self._over(e)
        detail = "over already" if over else ""
        self.lines.append(PreviewLine(fate="added", what="enrolment", id=e.id, label=self._called(e), detail=detail))
        begins = e.begins or (self.today if known else None)
        self.new.setdefault(Enrolment, []).append(
            {"klass": e.klass, "user": e.user, "role": e.role, "begins": begins, "ends": e.ends, "active": not over}
        )

    def _stays(self, e: RosterEnrolment, row: Any) -> None:
        """Somebody is in the class already; what the file says otherwise changes."""
        over = self._over(e)
        values: dict[str, Any] = {"role": e.role, "active": not over}
        values |= {n: v for n, v in (("begins", e.begins), ("ends", e.ends)) if v is not None}
        if not row.active and not over:
            values["ends"] = e.ends
        moves = {n: v for n, v in values.items() if getattr(row, n) != v}
        if not moves:
            self.lines.append(PreviewLine(fate="same", what="enrolment", id=e.id, label=self._called(e)))
            return
        said = (
            f"again as {e.role}"
            if "role" in moves or moves.get("active")
            else "; ".join(
                f"{_WORDS.get(n, n)}: {self._shown(n, getattr(row, n))} → {self._shown(n, v)}"
                for n, v in moves.items()
                if n != "active"
            )
        )
        self.lines.append(PreviewLine(fate="changed", what="enrolment", id=e.id, label=self._called(e), detail=said))
        self.change.setdefault(Enrolment, []).append({"id": row.id, **moves})

    def _left_class(self, there: dict[tuple[int, int], Any], kept: set[tuple[int, int]]) -> None:
        if "enrolment" not in self.roster.complete:
            return
        by_person = {r.id: (source, f"{r.given} {r.family}".strip()) for source, r in self.people.items()}
        by_class = {r.id: self.titles[source] for source, r in self.classes.items()}
        for key, row in there.items():
            if row.active and key not in kept and (row.role == "student" or "staff" in self.roster.complete):
                label = f"{by_person[row.person_id][1]} in {by_class[row.class_id]}"
                self._ends(row.id, label)

    def _ends(self, id: int, label: str) -> None:
        detail = "no longer in the file: leaves the class, results stay"
        self.lines.append(PreviewLine(fate="changed", what="enrolment", id=str(id), label=label, detail=detail))
        self.change.setdefault(Enrolment, []).append({"id": id, "active": False, "ends": self.today})

    def _links(self) -> None:
        """Families and their students, whichever of the two rows says so."""
        roles = {u.id: u.role for u in self.roster.users}
        relations = {u.id: u.relation for u in self.roster.users}
        kinds = {r.source_id: r.kind for r in self.db.execute(select(Person.source_id, Person.kind))}
        pairs: dict[tuple[str, str], str] = {}
        for user in self.roster.users:
            for other in user.agents:
                family, student = (user.id, other) if user.role == "family" else (other, user.id)
                known_as = (roles.get(family) or kinds.get(family), roles.get(student) or kinds.get(student))
                if known_as == ("family", "student"):
                    pairs[family, student] = relations.get(family, "")
        if not pairs:
            return
        there = {(f, s) for f, s in self.db.execute(select(FamilyLink.family_id, FamilyLink.student_id))}
        for (family, student), relation in pairs.items():
            f, s = self.people.get(family), self.people.get(student)
            if f is not None and s is not None and (f.id, s.id) in there:
                self.lines.append(PreviewLine(fate="same", what="family", id=family, label=self.names[family]))
                continue
            self.lines.append(
                PreviewLine(
                    fate="added",
                    what="family",
                    id=family,
                    label=f"{self.names[family]}, {relation or 'family'} of {self.names[student]}",
                )
            )
            self.new.setdefault(FamilyLink, []).append({"family": family, "student": student, "relation": relation})

    def _attributes(self) -> None:
        if not self.roster.attributes:
            return
        there = {
            (source, name): value
            for source, name, value in self.db.execute(
                select(Person.source_id, Attribute.name, AttributeValue.value)
                .join(AttributeValue, AttributeValue.person_id == Person.id)
                .join(Attribute, Attribute.id == AttributeValue.attribute_id)
            )
        }
        for user, name, value in self.roster.attributes:
            old = there.get((user, name))
            if user not in self.names or old == value:
                if old == value:
                    self.lines.append(PreviewLine(fate="same", what=name, id=user, label=self.names[user]))
                continue
            fate: Any = "added" if old is None else "changed"
            self.lines.append(
                PreviewLine(
                    fate=fate,
                    what=name,
                    id=user,
                    label=self.names[user],
                    detail=value if old is None else f"{old} → {value}",
                )
            )
            self.new.setdefault(AttributeValue, []).append({"user": user, "name": name, "value": value})

    def _taken_back(self) -> None:
        """What a delta file ends."""
        for gone in self.roster.gone:
            if gone.what == "enrolment":
                self._taken_enrolment(gone.id, gone.user, gone.klass)
                continue
            rows: dict[str, Any] = self.people if gone.what == "person" else self.classes
            row = rows.get(gone.id)
            if row is None:
                self.lines.append(
                    PreviewLine(
                        fate="left_out",
                        what=gone.what,
                        id=gone.id,
                        label=gone.id,
                        detail="withdrawn, but it is not here",
                    )
                )
                continue
            label = self.names[gone.id] if gone.what == "person" else self.titles[gone.id]
            self.lines.append(
                PreviewLine(
                    fate="changed",
                    what=gone.what,
                    id=gone.id,
                    label=label,
                    detail="withdrawn in the file: archived, results stay",
                )
            )
            if gone.what == "person":
                self.change.setdefault(Person, []).append({"id": row.id, "active": False, "left_on": self.today})
            else:
                self.change.setdefault(SchoolClass, []).append({"id": row.id, "active": False, "ended_on": self.today})
        if self.roster.gone:
            students = self.db.execute(
                select(Person.source_id).where(Person.kind == "student", Person.active.is_(True))
            ).scalars()
            here = set(students)
            self._ask(len(here & {g.id for g in self.roster.gone if g.what == "person"}), len(here))

    def _taken_enrolment(self, id: str, user: str, klass: str) -> None:
        person, where = self.people.get(user), self.classes.get(klass)
        row = None
        if person is not None and where is not None:
            row = self.db.execute(
                select(Enrolment.id).where(
                    Enrolment.person_id == person.id, Enrolment.class_id == where.id, Enrolment.active.is_(True)
                )
            ).first()
        if row is None:
            self.lines.append(
                PreviewLine(fate="left_out", what="enrolment", id=id, label=id, detail="withdrawn, but it is not here")
            )
        else:
            self._ends(row.id, f"{self.names[user]} in {self.titles[klass]}")

    def _departed(self, schools: set[int]) -> None:
        """People and classes of these schools that a whole file no longer has: kept with their results, set aside."""
        complete = self.roster.complete
        kinds = complete & {"student", "staff", "family"}
        users, classes = {u.id for u in self.roster.users}, {c.id for c in self.roster.classes}
        detail = "no longer in the file: archived, results stay"
        gone = students = 0
        rows = self.db.execute(
            select(Person.id, Person.source_id, Person.given, Person.family, Person.kind)
            .where(Person.school_id.in_(schools), Person.active.is_(True))
            .order_by(Person.source_id)
        )
        for row in rows if kinds else ():
            students += row.kind == "student"
            if row.kind in kinds and row.source_id not in users and not row.source_id.startswith(LOCAL):
                gone += row.kind == "student"
                self.lines.append(
                    PreviewLine(
                        fate="changed",
                        what="person",
                        id=row.source_id,
                        label=f"{row.given} {row.family}".strip(),
                        detail=detail,
                    )
                )
                self.change.setdefault(Person, []).append({"id": row.id, "active": False, "left_on": self.today})
        if kinds:
            self._ask(gone, students)
        if "class" in complete:
            for klass in self.db.execute(
                select(SchoolClass.id, SchoolClass.source_id, SchoolClass.title).where(
                    SchoolClass.school_id.in_(schools), SchoolClass.active.is_(True)
                )
            ):
                if klass.source_id not in classes and not klass.source_id.startswith(LOCAL):
                    self.lines.append(
                        PreviewLine(fate="changed", what="class", id=klass.source_id, label=klass.title, detail=detail)
                    )
                    self.change.setdefault(SchoolClass, []).append(
                        {"id": klass.id, "active": False, "ended_on": self.today}
                    )

    def _ask(self, gone: int, of: int) -> None:
        if gone > ASK_SHARE * of:
            self.ask = (
                f"This would set aside {gone} of {of} students, more than one in ten. "
                "Is the file whole, and did they leave?"
            )


class _Keep:
    """What is there stays: the file says nothing about it."""

    def __repr__(self) -> str:
        return "keep"


_KEEP = _Keep()


def _write(db: Session, plan: _Plan, code: Callable[[set[str]], str] | None) -> None:
    """The plan's rows, table by table, so that each finds the ids it points to."""
    job = plan.job
    end_moot(db, datetime.combine(plan.today, time(), UTC), plan.moot_enrolments, plan.moot_people)
    _insert(db, School, plan.new.get(School, []), job)
    _insert(db, AcademicSession, plan.new.get(AcademicSession, []), job)
    _insert(db, SchoolYear, plan.new.get(SchoolYear, []), job)
    schools = {source: id for source, id in db.execute(select(School.source_id, School.id))}
    years = {start: id for start, id in db.execute(select(SchoolYear.start, SchoolYear.id))}

    def resolved(row: dict[str, Any]) -> dict[str, Any]:
        row = {name: value for name, value in row.items() if value is not _KEEP}
        if isinstance(row.get("school_id"), str):
            row["school_id"] = schools[row["school_id"]]
        if isinstance(row.get("year_id"), date):
            row["year_id"] = next(
                (id for start, id in sorted(years.items(), reverse=True) if start <= row["year_id"]), None
            )
        return row

    _people(db, plan, resolved, code)
    codes = {c for c in db.scalars(select(SchoolClass.code).where(SchoolClass.code.is_not(None))) if c}
    codes |= set(db.scalars(select(PlannedSession.code)))
    current = next((id for start, id in sorted(years.items(), reverse=True) if start <= plan.today), None)
    _insert(
        db,
        SchoolClass,
        [
            {"year_id": current, **resolved(row), "code": new_code(SESSION_LENGTH, codes)}
            for row in plan.new.get(SchoolClass, [])
        ],
        job,
    )
    people = {source: id for source, id in db.execute(select(Person.source_id, Person.id))}
    classes = {source: id for source, id in db.execute(select(SchoolClass.source_id, SchoolClass.id))}
    rows = [
        {
            "class_id": classes[row["klass"]],
            "person_id": people[row["user"]],
            **{n: row[n] for n in ("role", "begins", "ends", "active")},
        }
        for row in plan.new.get(Enrolment, [])
    ]
    _insert(db, Enrolment, rows, job)
    _insert(
        db,
        FamilyLink,
        [
            {"family_id": people[r["family"]], "student_id": people[r["student"]], "relation": r["relation"]}
            for r in plan.new.get(FamilyLink, [])
        ],
        job,
    )
    _write_attributes(db, plan, people)
    for model, changes in plan.change.items():
        _update(db, model, [resolved(row) for row in changes], job)
    if plan.new or plan.change:
        moved(db)


def _people(
    db: Session,
    plan: _Plan,
    resolved: Callable[[dict[str, Any]], dict[str, Any]],
    code: Callable[[set[str]], str] | None,
) -> None:
    taken = {c for c in db.scalars(select(Person.code).where(Person.code.is_not(None))) if c}
    give = code or (lambda taken: new_code(STUDENT_LENGTH, taken))
    rows = []
    for entry in plan.new.get(Person, []):
        row = resolved(entry)
        rows.append({"username": None, **row, "code": give(taken) if row["kind"] == "student" else None})
    _insert(db, Person, rows, plan.job)
    if plan.role_of_new:
        ids = {
            source: (id, school)
            for source, id, school in db.execute(
                select(Person.source_id, Person.id, Person.school_id).where(Person.kind == "staff")
            )
        }
        roles = [
            {"person_id": ids[source][0], "role": role, "school_id": ids[source][1]}
            for source, role in plan.role_of_new.items()
        ]
        _insert(db, Role, roles, plan.job)


def _write_attributes(db: Session, plan: _Plan, people: dict[str, int]) -> None:
    values = plan.new.get(AttributeValue, [])
    if not values:
        return
    there = {a.name: a.id for a in db.scalars(select(Attribute))}
    for name in {row["name"] for row in values} - there.keys():
        db.add(attribute := Attribute(name=name))
        db.flush()
        there[name] = attribute.id
    for row in values:
        db.merge(AttributeValue(attribute_id=there[row["name"]], person_id=people[row["user"]], value=row["value"]))
    db.flush()


def _insert(db: Session, model: type[Base], rows: list[dict[str, Any]], job: Job) -> None:
    for at in range(0, len(rows), CHUNK):
        job.tell(f"writing {model.__tablename__.replace('_', ' ')}", at, len(rows))
        db.execute(insert(model), rows[at : at + CHUNK])


def _update(db: Session, model: type[Base], rows: list[dict[str, Any]], job: Job) -> None:
    """Rows that change the same columns go together."""
    by_columns: dict[tuple[str, ...], list[dict[str, Any]]] = {}
    for row in rows:
        by_columns.setdefault(tuple(row), []).append(row)
    done = 0
    for same in by_columns.values():
        for at in range(0, len(same), CHUNK):
            job.tell(f"writing {model.__tablename__.replace('_', ' ')}", done, len(rows))
            db.execute(update(model), same[at : at + CHUNK])
            done += CHUNK
