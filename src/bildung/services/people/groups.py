"""Groups of students across classes: named one by one or by a rule, with the staff who work with them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.school.groups import ALLOWED, read_rule
from bildung.services.calendar.years import local_today
from bildung.services.owed import accommodated
from bildung.services.people.membership import facts_for, fitting, known_attributes, refresh, seen_attributes
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, Ref, listed
from bildung.store.models import Attribute, CompanionRule, Group, GroupMember, GroupStaff, Person, School

SHOWN = 500


@dataclass(frozen=True, kw_only=True)
class GroupLine:
    id: Id
    name: str
    school: str
    rule: str | None
    members: int
    staff: str
    owner: str
    may_change: bool


@dataclass(frozen=True)
class GroupStudent:
    id: Id
    name: str
    grade: str
    needs: str


@dataclass(frozen=True, kw_only=True)
class GroupPage:
    """problem: why its rule fits nobody any more, or empty."""

    finding: str
    group: GroupLine
    members: list[GroupStudent]
    staff: Annotated[list[tuple[int, str]], listed(Ref)]
    problem: str


@dataclass(frozen=True)
class TriedRule:
    """What a rule would give. problem: why it cannot be read, or empty."""

    members: list[GroupStudent]
    total: int
    problem: str


def list_groups(ctx: Context, actor: Actor) -> tuple[str, list[GroupLine], list[str], str, list[tuple[str, int]]]:
    """The finding, the groups, the attributes a rule can ask about, what rules are made of, and how many students
    need what."""
    allowed = scope(actor, Action.GROUPS_READ)
    with ctx.store.read() as db:
        found = _lines(db, db.scalars(select(Group).where(allowed).order_by(Group.name)).all(), actor)
        names = list(db.scalars(select(Attribute.name).where(seen_attributes(actor)).order_by(Attribute.name)))
        ids = list(
            db.scalars(
                select(Person.id).where(
                    Person.kind == "student", Person.active.is_(True), scope(actor, Action.SUPPORT_READ)
                )
            )
        )
        held = accommodated.of_people(db, ids, local_today(ctx, db))
        needing, needs = len(held), list(accommodated.counts(held).items())
    if not found:
        return (
            "No group yet. A group names students across classes, one by one or by a rule.",
            found,
            names,
            ALLOWED,
            needs,
        )
    by_rule = sum(g.rule is not None for g in found)
    text = f"{len(found)} {'group' if len(found) == 1 else 'groups'}, {by_rule} by a rule."
    if needing:
        text += f" {needing} {'student has' if needing == 1 else 'students have'} testing accommodations."
    return text, found, names, ALLOWED, needs


def groups_with_size(db: Session, actor: Actor) -> list[tuple[int, str, int]]:
    """Id, name and number of members of the groups that this person may see, by name."""
    if not actor.may(Action.GROUPS_READ):
        return []
    found = db.execute(
        select(Group.id, Group.name, func.count(GroupMember.person_id))
        .outerjoin(GroupMember, GroupMember.group_id == Group.id)
        .where(scope(actor, Action.GROUPS_READ))
        .group_by(Group.id)
        .order_by(Group.name)
    )
    return [(id, name, n) for id, name, n in found]


def get_group(ctx: Context, actor: Actor, group_id: int) -> GroupPage:
    """One group: its rule, its members, the staff who work with it."""
    with ctx.store.read() as db:
        group = _get(db, actor, Action.GROUPS_READ, group_id)
        seen = scope(actor, Action.PEOPLE_READ)
        people = db.scalars(
            select(Person)
            .join(GroupMember, GroupMember.person_id == Person.id)
            .where(GroupMember.group_id == group.id, Person.active.is_(True), seen)
            .order_by(Person.family, Person.given, Person.id)
        ).all()
        members = _members(ctx, db, people, actor)
        staff = [
            (p.id, p.name)
            for p in db.scalars(
                select(Person)
                .join(GroupStaff, GroupStaff.person_id == Person.id)
                .where(GroupStaff.group_id == group.id)
                .order_by(Person.family)
            )
        ]
        problem = _problem(db, group.rule)
        line = _line(db, group, actor)
        counts = accommodated.counts(accommodated.of_people(db, [m.id for m in members], local_today(ctx, db)))
    grades = sorted({m.grade for m in members if m.grade})
    text = f"{line.name}: {len(members)} {'student' if len(members) == 1 else 'students'}"
    if grades:
        text += f" of {'grade' if len(grades) == 1 else 'grades'} {', '.join(grades)}"
    if counts:
        text += ". " + ", ".join(f"{n} with {word}" for word, n in counts.items())
    return GroupPage(finding=f"{text}.", group=line, members=members, staff=staff, problem=problem)


def try_rule(ctx: Context, actor: Actor, rule: str, school_id: int | None) -> TriedRule:
    """Whom a rule would fit now, while it is being written."""
    scope(actor, Action.GROUPS_WRITE)
    with ctx.store.read() as db:
        try:
            fits = read_rule(rule, known_attributes(db, actor))
        except Refused as error:
            return TriedRule([], 0, str(error))
        ids = fitting(fits, school_id, facts_for(db, actor))
        people = db.scalars(
            select(Person)
            .where(Person.id.in_(ids), scope(actor, Action.PEOPLE_READ))
            .order_by(Person.family, Person.given)
        ).all()
        return TriedRule(_members(ctx, db, people[:SHOWN], actor), len(people), "")


def make_group(
    ctx: Context, actor: Actor, name: str, rule: str | None, school_id: int | None, member_ids: list[int]
) -> int:
    """A new group. A teacher's own groups name students one by one, out of those they teach."""

    def work(db: Session) -> int:
        return put_group(ctx, db, actor, name, rule, school_id, member_ids)

    return ctx.store.write(work)


def put_group(
    ctx: Context,
    db: Session,
    actor: Actor,
    name: str,
    rule: str | None,
    school_id: int | None,
    member_ids: list[int],
) -> int:
    """In the transaction of whoever makes more of it than a group."""
    scope(actor, Action.GROUPS_WRITE)
    name = need_text(name, "name", 80)
    keeper = any(g.role == "coordinator" and g.school_id in (None, school_id) for g in actor.grants)
    if not keeper and rule is not None:
        raise Invalid("only a coordinator can create a group by rule; choose the students one by one", "rule")
    if school_id is not None and db.get(School, school_id) is None:
        raise Invalid("there is no such school", "school_id")
    _free(db, name, school_id, None)
    _readable(db, actor, rule)
    group = Group(
        name=name,
        school_id=school_id,
        rule=rule,
        created_at=ctx.clock(),
        owner_id=None if keeper else actor.person_id,
    )
    db.add(group)
    db.flush()
    if not keeper:
        db.add(GroupStaff(group_id=group.id, person_id=actor.person_id))
    if rule is None:
        _put(db, actor, group.id, member_ids)
    refresh(db, group.id)
    after = {"name": name, "rule": rule, "members": len(member_ids)}
    audit.record(db, ctx.clock(), actor.person_id, "group.make", f"group:{group.id}", None, after)
    return group.id


def change_group(ctx: Context, actor: Actor, group_id: int, name: str, rule: str | None) -> None:
    """Another name or rule; a rule that is taken away leaves the members as they are."""
    name = need_text(name, "name", 80)

    def work(db: Session) -> None:
        group = _get(db, actor, Action.GROUPS_WRITE, group_id)
        if rule is not None and group.owner_id is not None:
            raise Invalid("only a coordinator can create a group by rule", "rule")
        _free(db, name, group.school_id, group.id)
        _readable(db, actor, rule)
        before = {"name": group.name, "rule": group.rule}
        group.name, group.rule = name, rule
        refresh(db, group.id)
        after = {"name": name, "rule": rule}
        audit.record(db, ctx.clock(), actor.person_id, "group.change", f"group:{group.id}", before, after)

    ctx.store.write(work)


def put_members(ctx: Context, actor: Actor, group_id: int, add: list[int], drop: list[int]) -> None:
    """Into and out of a group that names its members."""

    def work(db: Session) -> None:
        group = _get(db, actor, Action.GROUPS_WRITE, group_id)
        if group.rule is not None:
            raise Conflict("the members of this group follow its rule; change the rule instead", "rule")
        _put(db, actor, group.id, add)
        if drop:
            db.execute(delete(GroupMember).where(GroupMember.group_id == group.id, GroupMember.person_id.in_(drop)))
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "group.members",
            f"group:{group.id}",
            None,
            {"added": add, "dropped": drop},
        )

    ctx.store.write(work)


def put_staff(ctx: Context, actor: Actor, group_id: int, person_id: int, works: bool) -> None:
    """Who works with the group sees its students; taking that back ends it at once."""

    def work(db: Session) -> None:
        group = _get(db, actor, Action.GROUPS_WRITE, group_id)
        person = db.get(Person, person_id)
        if person is None or person.kind != "staff" or not person.active:
            raise Invalid("choose a member of staff", "person_id")
        if group.owner_id is not None:
            raise Conflict("a teacher's own group is theirs alone", "group_id")
        row = db.get(GroupStaff, (group.id, person.id))
        if works and row is None:
            db.add(GroupStaff(group_id=group.id, person_id=person.id))
        elif not works and row is not None:
            db.delete(row)
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "group.staff",
            f"group:{group.id}",
            None,
            {"who": person.name, "works": works},
        )

    ctx.store.write(work)


def end_group(ctx: Context, actor: Actor, group_id: int) -> None:
    """Gone; its students and their results stay."""

    def work(db: Session) -> None:
        group = _get(db, actor, Action.GROUPS_WRITE, group_id)
        before = {"name": group.name, "rule": group.rule}
        db.execute(delete(GroupMember).where(GroupMember.group_id == group.id))
        db.execute(delete(GroupStaff).where(GroupStaff.group_id == group.id))
        db.execute(delete(CompanionRule).where(CompanionRule.group_id == group.id))
        db.delete(group)
        audit.record(db, ctx.clock(), actor.person_id, "group.end", f"group:{group_id}", before, None)

    ctx.store.write(work)


def _get(db: Session, actor: Actor, action: Action, group_id: int) -> Group:
    group = db.scalar(select(Group).where(Group.id == group_id, scope(actor, action)))
    if group is None:
        raise NotFound("there is no such group, or it is not yours")
    return group


def _lines(db: Session, groups: Sequence[Group], actor: Actor) -> list[GroupLine]:
    """As many queries for a hundred groups as for one."""
    ids = [g.id for g in groups]
    members = dict(
        db.execute(
            select(GroupMember.group_id, func.count())
            .join(Person, Person.id == GroupMember.person_id)
            .where(GroupMember.group_id.in_(ids), Person.active.is_(True))
            .group_by(GroupMember.group_id)
        ).all()
    )
    staff: dict[int, list[str]] = {}
    for group_id, person in db.execute(
        select(GroupStaff.group_id, Person)
        .join(Person, Person.id == GroupStaff.person_id)
        .where(GroupStaff.group_id.in_(ids))
        .order_by(Person.family)
    ):
        staff.setdefault(group_id, []).append(person.name)
    schools = dict(db.execute(select(School.id, School.name)).all())
    owners = {
        p.id: p.name
        for p in db.scalars(select(Person).where(Person.id.in_({g.owner_id for g in groups if g.owner_id})))
    }
    mine = (
        set(db.scalars(select(Group.id).where(Group.id.in_(ids), scope(actor, Action.GROUPS_WRITE))))
        if actor.may(Action.GROUPS_WRITE)
        else set()
    )
    seen, known = known_attributes(db, actor), known_attributes(db)
    return [
        GroupLine(
            id=g.id,
            name=g.name,
            school=schools.get(g.school_id or 0, ""),
            rule=_shown_rule(g.rule, seen, known),
            members=members.get(g.id, 0),
            staff=", ".join(staff.get(g.id, [])),
            owner=owners.get(g.owner_id or 0, ""),
            may_change=g.id in mine,
        )
        for g in groups
    ]


def _line(db: Session, group: Group, actor: Actor) -> GroupLine:
    return _lines(db, [group], actor)[0]


def _shown_rule(rule: str | None, seen: dict[str, frozenset[str]], known: dict[str, frozenset[str]]) -> str | None:
    """A rule about what this person may not see says no more than that it is one. seen: attributes that this person may
    see; known: all there are."""
    if rule is not None and not _follows(rule, seen) and _follows(rule, known):
        return "a rule about more than you may see"
    return rule


def _follows(rule: str, known: dict[str, frozenset[str]]) -> bool:
    try:
        read_rule(rule, known)
    except Refused:
        return False
    return True


def _members(ctx: Context, db: Session, people: Any, actor: Actor) -> list[GroupStudent]:
    ids = [p.id for p in people]
    seen: set[int] = set()
    if actor.may(Action.SUPPORT_READ):
        seen = set(db.scalars(select(Person.id).where(Person.id.in_(ids), scope(actor, Action.SUPPORT_READ))))
    needs = accommodated.of_people(db, list(seen), local_today(ctx, db))
    return [GroupStudent(p.id, p.name, p.grade, accommodated.said(needs.get(p.id, accommodated.NONE))) for p in people]


def _put(db: Session, actor: Actor, group_id: int, ids: list[int]) -> None:
    """Only students within the asker's own scope."""
    wanted = set(ids)
    found = set(
        db.scalars(
            select(Person.id).where(Person.id.in_(wanted), Person.kind == "student", scope(actor, Action.PEOPLE_READ))
        )
    )
    if wanted - found:
        raise NotFound("a student of this list is not there, or not yours")
    there = set(db.scalars(select(GroupMember.person_id).where(GroupMember.group_id == group_id)))
    db.add_all(GroupMember(group_id=group_id, person_id=id) for id in sorted(wanted - there))
    db.flush()


def _free(db: Session, name: str, school_id: int | None, but: int | None) -> None:
    same = select(Group.id).where(
        Group.name == name, Group.school_id.is_(None) if school_id is None else Group.school_id == school_id
    )
    taken = db.scalar(same)
    if taken is not None and taken != but:
        raise Conflict(f"there is a group {name} already; choose another name", "name")


def _readable(db: Session, actor: Actor, rule: str | None) -> None:
    if rule is not None:
        try:
            read_rule(rule, known_attributes(db, actor))
        except Refused as error:
            raise Invalid(str(error), "rule") from None


def _problem(db: Session, rule: str | None) -> str:
    if rule is None:
        return ""
    try:
        read_rule(rule, known_attributes(db))
    except Refused as error:
        return f"its rule cannot be followed any more: {error}"
    return ""
