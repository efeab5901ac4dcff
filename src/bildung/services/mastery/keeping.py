"""Groups that work on a standard: what they are for, when to look again, who is ready to leave."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.mastery.states import MASTERED, STATES
from bildung.core.school.dates import Dates
from bildung.core.school.privacy import alias_numbers
from bildung.services.calendar.years import local_today
from bildung.services.mastery.entering import NewIntervention, put_intervention
from bildung.services.mastery.judging import Whole, whole_of
from bildung.services.mastery.view import Judged, view
from bildung.services.people.groups import put_group
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import Group, GroupMember, GroupPurpose, Intervention, Person, Standard


@dataclass(frozen=True, kw_only=True)
class NewPurpose:
    """A group made from findings. purpose: what is done in it. check_on: the day to look again."""

    name: str
    members: Sequence[int]
    standard: int
    purpose: str
    check_on: date | None


@dataclass(frozen=True, kw_only=True)
class KeptMember:
    """ready: has mastered the standard since the group began, or had before."""

    person: Id
    name: str
    alias: int
    state: str
    says: str
    ready: bool


@dataclass(frozen=True, kw_only=True)
class KeptGroup:
    """A group with a purpose. due: the day to look again has come."""

    id: Id
    name: str
    standard: Id
    code: str
    text: str
    subject: str
    purpose: str
    since: date
    check_on: date | None
    due: bool
    members: list[KeptMember]
    ready: int
    may_change: bool


@dataclass(frozen=True, kw_only=True)
class KeptGroups:
    """Those that are due first."""

    finding: str
    groups: list[KeptGroup]
    today: date


def keep_group(ctx: Context, actor: Actor, new: NewPurpose) -> int:
    """A group of People with what it is for; each member has the intervention on record from today."""

    def work(db: Session) -> int:
        today = local_today(ctx, db)
        standard = db.get(Standard, new.standard)
        if standard is None:
            raise NotFound("there is no such standard")
        if new.check_on is not None and new.check_on < today:
            raise Invalid("the day to look again lies in the past", "check_on")
        if not new.members:
            raise Invalid("a group has at least one student", "members")
        group = put_group(ctx, db, actor, new.name, None, None, list(new.members))
        db.add(
            GroupPurpose(
                group_id=group, standard_id=standard.id, purpose=new.purpose.strip()[:200], check_on=new.check_on
            )
        )
        tried = NewIntervention(
            standard=standard.id, people=new.members, what=new.purpose or new.name, start=today, until=None
        )
        put_intervention(ctx, db, actor, tried, group)
        return group

    return ctx.store.write(work)


def kept_groups(ctx: Context, actor: Actor) -> KeptGroups:
    """That this person sees."""
    scope(actor, Action.MASTERY_READ)
    with ctx.store.read() as db:
        today, dates = local_today(ctx, db), dates_of(db)
        if not actor.may(Action.GROUPS_READ):
            return KeptGroups(finding=NO_GROUP, groups=[], today=today)
        rows = db.execute(
            select(Group, GroupPurpose, Standard)
            .join(GroupPurpose, GroupPurpose.group_id == Group.id)
            .join(Standard, Standard.id == GroupPurpose.standard_id)
            .where(scope(actor, Action.GROUPS_READ))
            .order_by(Group.name)
        ).all()
        mine = (
            set(db.scalars(select(Group.id).where(scope(actor, Action.GROUPS_WRITE))))
            if actor.may(Action.GROUPS_WRITE)
            else set()
        )
        members: dict[int, list[Person]] = defaultdict(list)
        for group, person in db.execute(
            select(GroupMember.group_id, Person)
            .join(Person, Person.id == GroupMember.person_id)
            .where(GroupMember.group_id.in_([g.id for g, _, _ in rows]), Person.active.is_(True))
            .order_by(Person.family, Person.given, Person.id)
        ):
            members[group].append(person)
        # a subject is looked up once for all groups that work on it
        wholes = {subject: whole_of(ctx, db, subject) for subject in {s.subject for _, _, s in rows}}
        found = [_kept(g, p, s, members[g.id], wholes[s.subject], today, dates, g.id in mine) for g, p, s in rows]
    found.sort(key=lambda g: (not g.due, g.check_on or date.max, g.name))
    due, ready = sum(g.due for g in found), sum(g.ready for g in found)
    if not found:
        return KeptGroups(finding=NO_GROUP, groups=[], today=today)
    text = (
        f"{counted(len(found), 'group')} at work; {due} to be looked at again"
        if due
        else (f"{counted(len(found), 'group')} at work")
    )
    leaving = f"{counted(ready, 'student')} ready to leave" if ready else "No one is ready to leave yet"
    return KeptGroups(finding=f"{text}. {leaving}.", groups=found, today=today)


NO_GROUP = "No group works on a standard yet. Make some from needs, and keep them with a purpose."


def _kept(
    group: Group,
    purpose: GroupPurpose,
    standard: Standard,
    people: Sequence[Person],
    whole: Whole,
    today: date,
    dates: Dates,
    may: bool,
) -> KeptGroup:
    judged = view(whole, [p.id for p in people], [standard.id])
    aliases = alias_numbers([p.id for p in people])
    members = [
        KeptMember(
            person=p.id,
            name=p.name,
            alias=aliases[at],
            state=STATES[judged.now[at]],
            says=judged.told(judged.cell(at, 0), dates),
            ready=_ready(judged, at),
        )
        for at, p in enumerate(people)
    ]
    return KeptGroup(
        id=group.id,
        name=group.name,
        standard=standard.id,
        code=standard.code,
        text=standard.text,
        subject=standard.subject,
        purpose=purpose.purpose,
        since=group.created_at.date(),
        check_on=purpose.check_on,
        due=purpose.check_on is not None and purpose.check_on <= today,
        members=members,
        ready=sum(m.ready for m in members),
        may_change=may,
    )


def _ready(judged: Judged, at: int) -> bool:
    return bool(judged.now[at] >= MASTERED and not judged.again[at])


def change_purpose(ctx: Context, actor: Actor, group_id: int, purpose: str, check_on: date | None) -> None:
    """Another day to look again, or another purpose."""

    def work(db: Session) -> None:
        row = _mine(db, actor, group_id)
        if check_on is not None and check_on < local_today(ctx, db):
            raise Invalid("the day to look again lies in the past", "check_on")
        before = {"purpose": row.purpose, "check_on": str(row.check_on)}
        row.purpose, row.check_on = purpose.strip()[:200], check_on
        after = {"purpose": row.purpose, "check_on": str(check_on)}
        audit.record(db, ctx.clock(), actor.person_id, "group.purpose", f"group:{group_id}", before, after)

    ctx.store.write(work)


def leave_group(ctx: Context, actor: Actor, group_id: int, people: Sequence[int]) -> None:
    """Out of the group; their intervention in it ends today."""

    def work(db: Session) -> None:
        _mine(db, actor, group_id)
        today = local_today(ctx, db)
        for person in people:
            member = db.get(GroupMember, (group_id, person))
            if member is None:
                raise NotFound("a student is not in this group any more")
            db.delete(member)
        for row in db.scalars(
            select(Intervention).where(
                Intervention.group_id == group_id,
                Intervention.person_id.in_(people),
                Intervention.until.is_(None),
                Intervention.withdrawn_at.is_(None),
            )
        ):
            row.until = max(today, row.start)
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "group.members",
            f"group:{group_id}",
            None,
            {"added": [], "dropped": list(people)},
        )

    ctx.store.write(work)


def due_groups(ctx: Context, db: Session, actor: Actor) -> int:
    """How many of this person's groups are to be looked at again."""
    if not actor.may(Action.GROUPS_WRITE) or not actor.may(Action.MASTERY_READ):
        return 0
    today = local_today(ctx, db)
    due = (
        select(func.count())
        .select_from(Group)
        .join(GroupPurpose, GroupPurpose.group_id == Group.id)
        .where(scope(actor, Action.GROUPS_WRITE), GroupPurpose.check_on <= today)
    )
    return db.scalar(due) or 0


def _mine(db: Session, actor: Actor, group_id: int) -> GroupPurpose:
    row = db.scalar(
        select(GroupPurpose)
        .join(Group, Group.id == GroupPurpose.group_id)
        .where(GroupPurpose.group_id == group_id, scope(actor, Action.GROUPS_WRITE))
    )
    if row is None:
        raise NotFound("there is no such group, or it is not yours")
    return row
