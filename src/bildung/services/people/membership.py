"""Who is in a group that follows a rule. Members are kept as rows, so that every query finds them the same way;
they are made again in the transaction of whatever changes what rules ask about."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping
from dataclasses import replace
from typing import Any

from sqlalchemy import ColumnElement, delete, insert, select, true, update
from sqlalchemy.orm import Session

from bildung.core.accommodations.kinds import rule_words
from bildung.core.school.groups import Facts, Rule, read_rule
from bildung.services.calendar.years import local_today
from bildung.services.owed.accommodated import of_people
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.store.models import (
    Attribute,
    AttributeValue,
    Enrolment,
    Federation,
    Group,
    GroupMember,
    Person,
    School,
    SchoolClass,
)


def known_attributes(db: Session, actor: Actor | None = None) -> dict[str, frozenset[str]]:
    """Names and values that a rule may speak of, lower case; of an actor: that this person may see."""
    values: defaultdict[str, set[str]] = defaultdict(set)
    seen = true() if actor is None else seen_attributes(actor)
    for name in db.scalars(select(Attribute.name).where(seen)):
        values[name.lower()] = set()
    for name, value in db.execute(
        select(Attribute.name, AttributeValue.value)
        .join(AttributeValue, AttributeValue.attribute_id == Attribute.id)
        .where(seen)
        .distinct()
    ):
        values[name.lower()].add(value.lower())
    return {name: frozenset(found) for name, found in values.items()}


def seen_attributes(actor: Actor) -> ColumnElement[bool]:
    """Attributes that this person may see of a student: some are for coordinators alone."""
    return true() if any(grant.role == "coordinator" for grant in actor.grants) else Attribute.seen_by == "teacher"


def facts_for(db: Session, actor: Actor) -> dict[int, tuple[int | None, Facts]]:
    """As `facts`, with what this person may see: accommodations only of students whose support they see."""
    everybody = facts(db)
    supported: set[int] = set()
    if actor.may(Action.SUPPORT_READ):
        supported = set(
            db.scalars(select(Person.id).where(Person.kind == "student", scope(actor, Action.SUPPORT_READ)))
        )
    return {
        id: (school, known if id in supported else replace(known, needs=frozenset(), language=""))
        for id, (school, known) in everybody.items()
    }


def facts(db: Session, people: Collection[int] | None = None) -> dict[int, tuple[int | None, Facts]]:
    """School and facts of every student in the records, or of some."""

    def mine(column: Any) -> ColumnElement[bool]:
        return true() if people is None else column.in_(people)

    schools = {id: name for id, name in db.execute(select(School.id, School.name))}
    classes: defaultdict[int, list[tuple[str, str, str]]] = defaultdict(list)
    for person_id, title, course, subject in db.execute(
        select(Enrolment.person_id, SchoolClass.title, SchoolClass.course, SchoolClass.subject)
        .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
        .where(Enrolment.active.is_(True), Enrolment.role == "student", mine(Enrolment.person_id))
    ):
        classes[person_id].append((title, course, subject))
    attributes: defaultdict[int, dict[str, str]] = defaultdict(dict)
    for person_id, name, value in db.execute(
        select(AttributeValue.person_id, Attribute.name, AttributeValue.value)
        .join(Attribute)
        .where(mine(AttributeValue.person_id))
    ):
        attributes[person_id][name.lower()] = value
    needed = of_people(db, people, db.scalar(select(Federation.groups_day)))
    found: dict[int, tuple[int | None, Facts]] = {}
    for id, grade, school_id in db.execute(
        select(Person.id, Person.grade, Person.school_id).where(
            Person.kind == "student", Person.active.is_(True), mine(Person.id)
        )
    ):
        taken, needs = classes.get(id, []), needed.get(id)
        found[id] = (
            school_id,
            Facts(
                grade=grade.upper(),
                school=schools.get(school_id or 0, ""),
                classes=frozenset(t for t, _, _ in taken),
                courses=frozenset(c for _, c, _ in taken if c),
                subjects=frozenset(s for _, _, s in taken if s),
                needs=rule_words(needs.kinds, needs.form_kind) if needs else frozenset(),
                language=needs.language if needs else "",
                attributes=attributes.get(id, {}),
            ),
        )
    return found


def new_day(ctx: Context) -> None:
    """Groups whose rule asks for accommodations follow those that begin or end today."""

    def work(db: Session) -> None:
        today = local_today(ctx, db)
        if db.scalar(select(Federation.groups_day)) != today:
            db.execute(update(Federation).values(groups_day=today))
            refresh(db)

    with ctx.store.read() as db:
        done = db.scalar(select(Federation.groups_day)) == local_today(ctx, db)
    if not done:
        ctx.store.write(work, much=True)


def fitting(rule: Rule, school_id: int | None, everybody: Mapping[int, tuple[int | None, Facts]]) -> set[int]:
    """Students of the school (None: of any) whom the rule fits."""
    return {id for id, (school, f) in everybody.items() if school_id in (None, school) and rule(f)}


def refresh(db: Session, only: int | None = None, people: Collection[int] | None = None) -> None:
    """Make the members of rule groups again; of one group or of all, about some people or everybody."""
    wanted = select(Group).where(Group.rule.is_not(None))
    groups = db.scalars(wanted if only is None else wanted.where(Group.id == only)).all()
    if not groups:
        return
    db.flush()
    everybody, known = facts(db, people), known_attributes(db)
    for group in groups:
        try:
            wants = fitting(read_rule(group.rule or "", known), group.school_id, everybody)
        except ValueError:
            continue  # a value the rule speaks of is gone; its page says so, and its members stay as they were
        members = select(GroupMember.person_id).where(GroupMember.group_id == group.id)
        has = set(db.scalars(members if people is None else members.where(GroupMember.person_id.in_(people))))
        if has - wants:
            db.execute(
                delete(GroupMember).where(GroupMember.group_id == group.id, GroupMember.person_id.in_(has - wants))
            )
        if wants - has:
            db.execute(insert(GroupMember), [{"group_id": group.id, "person_id": id} for id in sorted(wants - has)])
