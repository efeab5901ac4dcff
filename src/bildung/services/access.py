"""Who may do what: the one place. Denied unless a rule here allows it.

A rule turns a person's scope into an SQL predicate over the table that the action is about; every
query of that table carries it. `RULES` is the whole policy: role and action to predicate.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import ColumnElement, and_, exists, false, or_, select, true
from sqlalchemy.orm import aliased

from bildung.services.errors import NotAllowed
from bildung.store.models import Enrolment, Person, PlannedSession, SchoolClass


class Action(StrEnum):
    PEOPLE_READ = "people.read"
    PEOPLE_IMPORT = "people.import"
    PEOPLE_SETTLE = "people.settle"
    LOG_READ = "log.read"
    ACCOUNTS_RESET = "accounts.reset"
    RECORDS_HANDLE = "records.handle"
    CLASSES_READ = "classes.read"
    BANK_READ = "bank.read"
    BANK_WRITE = "bank.write"
    TESTS_READ = "tests.read"
    TESTS_WRITE = "tests.write"
    SESSIONS_READ = "sessions.read"
    SESSIONS_PLAN = "sessions.plan"
    SESSIONS_RUN = "sessions.run"
    QUALITY_READ = "quality.read"
    ANSWERS_READ = "answers.read"


@dataclass(frozen=True)
class Grant:
    """A role, for one school or (None) for the whole federation."""

    role: str
    school_id: int | None


@dataclass(frozen=True)
class Actor:
    """Staff who asks."""

    person_id: int
    name: str
    grants: tuple[Grant, ...]
    sign_in_id: int
    csrf: str
    must_change: bool = False

    def may(self, action: Action) -> bool:
        """Whether any rule lets them do it to anything at all."""
        return any(_holds(grant, action) for grant in self.grants)


@dataclass(frozen=True)
class Sitter:
    """A student at one sitting; may do nothing else."""

    person_id: int
    sitting_id: int
    takeover: int
    sign_in_id: int
    csrf: str


Rule = Callable[[Actor, Grant], ColumnElement[bool]]


def _anything(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return true()


def _federation_only(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """For grants over the whole federation alone (see `_holds`): a roster can add people and roles anywhere,
    and the log does not say which school an entry is of."""
    return true()


def _holds(grant: Grant, action: Action) -> bool:
    """Whether this grant has a rule for the action at all."""
    rule = RULES.get((grant.role, action))
    return rule is not None and (rule is not _federation_only or grant.school_id is None)


def _taught_by(actor: Actor, class_id: object) -> ColumnElement[bool]:
    return exists().where(
        Enrolment.class_id == class_id, Enrolment.person_id == actor.person_id, Enrolment.role == "teacher"
    )


def _school_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    if grant.school_id is None:
        return true()
    return PlannedSession.class_id.in_(select(SchoolClass.id).where(SchoolClass.school_id == grant.school_id))


def _own_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return or_(_taught_by(actor, PlannedSession.class_id), PlannedSession.proctor_id == actor.person_id)


def _taught_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return _taught_by(actor, PlannedSession.class_id)


def _held_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return PlannedSession.proctor_id == actor.person_id


def _course_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Figures of the whole grade for teachers of the same course at that school."""
    own, theirs = aliased(SchoolClass), aliased(SchoolClass)
    return exists().where(
        and_(
            theirs.id == PlannedSession.class_id, own.school_id == theirs.school_id, own.subject == theirs.subject,
            own.grade == theirs.grade, own.subject != "", _taught_by(actor, own.id),
        )
    )  # fmt: skip


def _school_people(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return true() if grant.school_id is None else Person.school_id == grant.school_id


def _own_students(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    mine, theirs = aliased(Enrolment), aliased(Enrolment)
    return exists().where(
        mine.person_id == actor.person_id, mine.role == "teacher", mine.class_id == theirs.class_id,
        theirs.person_id == Person.id,
    )  # fmt: skip


def _school_classes(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return true() if grant.school_id is None else SchoolClass.school_id == grant.school_id


def _own_classes(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return _taught_by(actor, SchoolClass.id)


RULES: dict[tuple[str, Action], Rule] = {
    ("coordinator", Action.PEOPLE_READ): _school_people,
    ("coordinator", Action.PEOPLE_IMPORT): _federation_only,
    ("coordinator", Action.PEOPLE_SETTLE): _school_people,
    ("coordinator", Action.LOG_READ): _federation_only,
    ("coordinator", Action.ACCOUNTS_RESET): _school_people,
    ("coordinator", Action.RECORDS_HANDLE): _school_people,
    ("coordinator", Action.CLASSES_READ): _school_classes,
    ("coordinator", Action.BANK_READ): _anything,
    ("coordinator", Action.BANK_WRITE): _anything,
    ("coordinator", Action.TESTS_READ): _anything,
    ("coordinator", Action.TESTS_WRITE): _anything,
    ("coordinator", Action.SESSIONS_READ): _school_sessions,
    ("coordinator", Action.SESSIONS_PLAN): _school_sessions,
    ("coordinator", Action.SESSIONS_RUN): _school_sessions,
    ("coordinator", Action.QUALITY_READ): _school_sessions,
    ("coordinator", Action.ANSWERS_READ): _school_sessions,
    ("teacher", Action.PEOPLE_READ): _own_students,
    ("teacher", Action.CLASSES_READ): _own_classes,
    ("teacher", Action.BANK_READ): _anything,
    ("teacher", Action.TESTS_READ): _anything,
    ("teacher", Action.SESSIONS_READ): _own_sessions,
    ("teacher", Action.SESSIONS_RUN): _own_sessions,
    ("teacher", Action.QUALITY_READ): _course_sessions,
    ("teacher", Action.ANSWERS_READ): _taught_sessions,
    ("proctor", Action.SESSIONS_READ): _held_sessions,
    ("proctor", Action.SESSIONS_RUN): _held_sessions,
}


def scope(actor: Actor, action: Action) -> ColumnElement[bool]:
    """The predicate over what this person may do it to; raises NotAllowed where there is nothing."""
    predicates = [RULES[grant.role, action](actor, grant) for grant in actor.grants if _holds(grant, action)]
    if not predicates:
        raise NotAllowed(f"your role does not include {action.value.replace('.', ': ')}")
    return or_(false(), *predicates)
