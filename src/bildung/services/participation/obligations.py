"""The tests owed in a window, by student and test, never by class list.

A test is owed by everybody whom a rule of the window names, by everybody in a class that has a session for it, and by
whoever is on the list of such a session. Each is counted once, wherever the student is on a list.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable
from dataclasses import dataclass, field
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.participation.standing import Attempt, Owed, Reason, Standing, owed
from bildung.core.school.groups import Facts, read_rule
from bildung.services.calendar.years import local_today
from bildung.services.owed.exempt import exemptions_of
from bildung.services.owed.sametest import Key, test_keys
from bildung.services.owed.sessionroster import in_class_on
from bildung.services.people.membership import facts, fitting, known_attributes
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.store.models import (
    Enrolment,
    Exemption,
    Family,
    Form,
    Person,
    PlannedSession,
    Requirement,
    School,
    SchoolClass,
    Sitting,
    Window,
)

NOWHERE = "none"  # where a test is owed outside of any class, in lists and in what is asked of them
Test = tuple[Key, int | None]  # with the part of it, where it has several sittings


@dataclass(frozen=True, kw_only=True)
class OwedTest:
    """One student and one test. school, klass: of the class in the test's subject, else where the student is at home.
    session: the one that `owed` speaks of. exemption: that holds."""

    person: int
    given: str
    family: str
    grade: str
    school: str
    klass: str
    subject: str
    kind: str
    test: Test
    title: str
    owed: Owed
    exemption: Exemption | None

    @property
    def name(self) -> str:
        """Given and family name."""
        return f"{self.given} {self.family}".strip()


@dataclass(kw_only=True)
class _Asked:
    """What is known of a test of the window. classes: with a session for it. named: by a rule."""

    form: Form
    title: str
    classes: set[int] = field(default_factory=set)
    listed: set[int] = field(default_factory=set)
    named: set[int] = field(default_factory=set)


def owed_tests(ctx: Context, db: Session, actor: Actor, window_id: int, day: date | None = None) -> list[OwedTest]:
    """Every test owed in the window by a student whom this person sees, by name.

    Parameters
    ----------
    day
        As of this day; today, or the last day of a window that is over, where none is named.
    """
    window = db.get(Window, window_id)
    if window is None:
        raise NotFound("there is no such window")
    day = day or min(local_today(ctx, db), window.end)
    asked = _asked(db, actor, window_id)
    if not asked:
        return []
    by_class = _enrolled(db, {id for test in asked.values() for id in test.classes}, day)
    owing = {
        test: found.named | found.listed | {p for id in found.classes for p in by_class.get(id, ())}
        for test, found in asked.items()
    }
    people = _people(db, {id for ids in owing.values() for id in ids})
    attempts = _attempts(db, window_id, people.keys())
    homes = _homes(db, people.keys(), day)
    found = []
    for test, ids in owing.items():
        known = asked[test]
        exempt = exemptions_of(db, window_id, known.form.subject, day)
        for id in ids & people.keys():
            person = people[id]
            where = _where(homes.get(id, []), known)
            found.append(
                OwedTest(
                    person=id,
                    given=person.given,
                    family=person.family,
                    grade=person.grade,
                    school=where[0] or person.school,
                    klass=where[1],
                    subject=known.form.subject,
                    kind=known.form.kind,
                    test=test,
                    title=known.title,
                    owed=owed(attempts.get((id, test), []), id in exempt),
                    exemption=exempt.get(id),
                )
            )
    return sorted(found, key=lambda o: (o.family, o.given, o.person, o.title))


def _asked(db: Session, actor: Actor, window_id: int) -> dict[Test, _Asked]:
    """The tests of the window, from its rules and from sessions that this person sees."""
    keys = test_keys(db)
    forms = {f.id: f for f in db.scalars(select(Form).where(Form.id.in_(_forms_in(db, window_id))))}
    families = {id: name for id, name in db.execute(select(Family.id, Family.name))}
    found: dict[Test, _Asked] = {}

    def ask(form: Form, part: int | None) -> _Asked:
        test = keys[form.id], part
        if test not in found:
            name = families[test[0][1]] if test[0][0] == "family" else form.name
            found[test] = _Asked(form=form, title=name if part is None else f"{name}, part {part + 1}")
        return found[test]

    sessions = db.execute(
        select(PlannedSession.id, PlannedSession.form_id, PlannedSession.part, PlannedSession.class_id)
        .join(Form, Form.id == PlannedSession.form_id)
        .where(
            PlannedSession.window_id == window_id,
            PlannedSession.canceled_at.is_(None) | PlannedSession.still_owed,
            Form.kind != "mirror",
            scope(actor, Action.SESSIONS_READ),
        )
    ).all()
    by_session = {id: ask(forms[form], part) for id, form, part, _ in sessions}
    for id, _, _, klass in sessions:
        by_session[id].classes.add(klass)
    for session, person in db.execute(
        select(Sitting.session_id, Sitting.person_id).where(Sitting.session_id.in_(by_session))
    ):
        by_session[session].listed.add(person)
    if actor.may(Action.SESSIONS_PLAN):
        seen = set(db.scalars(select(Person.id).where(Person.student.is_(True), scope(actor, Action.PEOPLE_READ))))
        rules = db.scalars(select(Requirement).where(Requirement.window_id == window_id).order_by(Requirement.id)).all()
        everybody = facts(db) if rules else {}
        for rule in rules:
            form = _form_of(db, rule)
            if form is not None:
                ask(form, rule.part).named |= named_by(db, rule.rule, form, everybody) & seen
    return found


def named_by(db: Session, rule: str, form: Form, everybody: dict[int, tuple[int | None, Facts]]) -> set[int]:
    """Students whom a rule names, in the language of groups; everybody of the form's grade where it is empty."""
    if rule.strip():
        try:
            wanted = fitting(read_rule(rule, known_attributes(db)), None, everybody)
        except ValueError:  # a value the rule speaks of is gone; its page says so
            return set()
    else:
        wanted = {id for id, (_, f) in everybody.items() if f.grade == form.grade.upper()}
    return wanted


def _form_of(db: Session, rule: Requirement) -> Form | None:
    """A form of the rule's test: its own, or the first of the family that is published."""
    if rule.form_id is not None:
        return db.get(Form, rule.form_id)
    return db.scalars(
        select(Form).where(Form.family_id == rule.family_id).order_by(Form.published_at.is_(None), Form.id)
    ).first()


def _forms_in(db: Session, window_id: int) -> set[int]:
    return set(db.scalars(select(PlannedSession.form_id).where(PlannedSession.window_id == window_id).distinct()))


def _enrolled(db: Session, classes: Collection[int], day: date) -> dict[int, set[int]]:
    """Students by class on a day."""
    found: defaultdict[int, set[int]] = defaultdict(set)
    for klass, person in db.execute(
        select(Enrolment.class_id, Enrolment.person_id).where(
            Enrolment.role == "student", in_class_on(day), Enrolment.class_id.in_(classes)
        )
    ):
        found[klass].add(person)
    return found


@dataclass(frozen=True)
class _Student:
    given: str
    family: str
    grade: str
    school: str


def _people(db: Session, ids: Collection[int]) -> dict[int, _Student]:
    """Of these, who is still in the records: whoever withdraws leaves every count that day."""
    rows = db.execute(
        select(Person.id, Person.given, Person.family, Person.grade, School.name)
        .outerjoin(School, School.id == Person.school_id)
        .where(Person.active.is_(True), Person.kind == "student")
    ).all()
    return {id: _Student(given, family, grade, school or "") for id, given, family, grade, school in rows if id in ids}


def _attempts(db: Session, window_id: int, people: Collection[int]) -> dict[tuple[int, Test], list[Attempt]]:
    """At every session of the window, also at those that the person who asks does not see."""
    keys = test_keys(db)
    found: defaultdict[tuple[int, Test], list[Attempt]] = defaultdict(list)
    for person, kept, interrupted, form, part, start, closed, canceled, session in db.execute(
        select(
            Sitting.person_id,
            Sitting.state,
            Sitting.interrupted,
            PlannedSession.form_id,
            PlannedSession.part,
            PlannedSession.start,
            PlannedSession.closed_at,
            PlannedSession.canceled_at,
            PlannedSession.id,
        )
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(PlannedSession.window_id == window_id)
    ):
        if person not in people:
            continue
        if kept == "void" and interrupted:
            state = "interrupted"
        else:
            state = "canceled" if canceled is not None and kept in ("not_started", "absent") else kept
        found[person, (keys[form], part)].append(
            Attempt(state=state, start=start, over=closed is not None, session=session)
        )
    return found


_Home = tuple[int, str, str, str]  # class, its title, its subject, its school


def _homes(db: Session, people: Collection[int], day: date) -> dict[int, list[_Home]]:
    """The classes of each student on a day."""
    found: defaultdict[int, list[_Home]] = defaultdict(list)
    for person, klass, title, subject, school in db.execute(
        select(Enrolment.person_id, SchoolClass.id, SchoolClass.title, SchoolClass.subject, School.name)
        .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
        .join(School, School.id == SchoolClass.school_id)
        .where(Enrolment.role == "student", in_class_on(day))
        .order_by(SchoolClass.title)
    ):
        if person in people:
            found[person].append((klass, title, subject, school))
    return found


def _where(homes: list[_Home], asked: _Asked) -> tuple[str, str]:
    """School and class through which a test is owed: a class that has a session for it, else one of its subject."""
    for fits in (lambda h: h[0] in asked.classes, lambda h: h[2] == asked.form.subject != ""):
        for home in homes:
            if fits(home):
                return home[3], home[1]
    return "", ""


def chosen(
    every: Iterable[OwedTest],
    standing: Standing | None = None,
    reason: Reason | None = None,
    **field: str,
) -> list[OwedTest]:
    """Those behind a number. field: school, grade, subject, klass, kind or title, empty for any."""
    return [
        one
        for one in every
        if (standing is None or one.owed.standing is standing)
        and (reason is None or (one.owed.standing is Standing.NOT_SCHEDULED and one.owed.reason is reason))
        and all(not value or (getattr(one, name) or NOWHERE) == value for name, value in field.items())
    ]
