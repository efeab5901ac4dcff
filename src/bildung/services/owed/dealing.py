"""Which form each student of a session receives: by rules for groups and persons, by what they need, or dealt in turn.

Written down at each sitting until the student begins, and never moved after that.
"""

from __future__ import annotations

import secrets
from collections import defaultdict
from collections.abc import Collection, Sequence
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.assembly.companions import Claim, Dealt, deal
from bildung.core.assembly.draw import Drawn, draw
from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import zone_of
from bildung.services.forms.settings import heaps_of, settings
from bildung.services.owed.accommodated import occasion_of, of_people
from bildung.store.models import (
    CompanionRule,
    Family,
    Form,
    FormItem,
    Group,
    GroupMember,
    ItemVersion,
    Person,
    PlannedSession,
    Sitting,
)

ALIKE = ("", "general", "parallel", "alternate")
SEEDS = 2**31


def claims_of(
    db: Session, family: Family, people: Collection[int], day: date | None, only_published: bool = True
) -> dict[int, list[Claim]]:
    """What names a form of the family for each of these people on a day; None: not on any one."""
    forms = {f.id: f for f in family.forms if f.published_at is not None or not only_published}
    found: defaultdict[int, list[Claim]] = defaultdict(list)
    rules = db.scalars(
        select(CompanionRule).where(CompanionRule.family_id == family.id).order_by(CompanionRule.id)
    ).all()
    groups = {r.group_id for r in rules if r.group_id is not None}
    names = dict(db.execute(select(Group.id, Group.name).where(Group.id.in_(groups))).all())
    members: defaultdict[int, list[int]] = defaultdict(list)
    for group, person in db.execute(
        select(GroupMember.group_id, GroupMember.person_id).where(GroupMember.group_id.in_(groups))
    ):
        members[group].append(person)
    wanted = set(people)
    for rule in rules:
        if rule.form_id not in forms:
            continue
        if rule.person_id in wanted:
            assert rule.person_id is not None
            found[rule.person_id].append(Claim(rule.form_id, "chosen for this student", True))
        for person in members.get(rule.group_id or 0, ()):
            if person in wanted:
                found[person].append(Claim(rule.form_id, f"in group {names[rule.group_id or 0]}"))
    corrected = superseded(family)
    by_role = {f.role: f.id for f in reversed(list(forms.values())) if f.id not in corrected}
    occasion = occasion_of(next(iter(family.forms))) if family.forms else None
    for person, needs in of_people(db, people, day, occasion).items():
        if needs.form_kind in by_role:
            found[person].append(Claim(by_role[needs.form_kind], f"needs {_a(needs.form_kind)} form"))
    return dict(found)


def _a(kind: str) -> str:
    return f"{'an' if kind[0] in 'aeiou' else 'a'} {kind}"


def assign(db: Session, session: PlannedSession) -> Dealt:
    """Write down the form of each sitting that has not begun. Who is named for two forms receives the session's own
    and is returned as unsettled."""
    form = db.get_one(Form, session.form_id)
    family = form.family
    if session.closed_at is not None or (family is None and not session.renewed):
        return Dealt()
    rows = db.execute(
        select(Sitting, Person.family, Person.given)
        .join(Person, Person.id == Sitting.person_id)
        .where(Sitting.session_id == session.id)
        .order_by(Person.family, Person.given, Person.id)
    ).all()
    people = [sitting.person_id for sitting, _, _ in rows]
    day = school_day(session.start, zone_of(db))
    claims = claims_of(db, family, people, day) if family is not None else {}
    dealt = deal(people, claims, _alike(form, family) if session.deal and family is not None else [form.id])
    instead = _corrections(db) if session.renewed else {}
    for sitting, _, _ in rows:
        if sitting.state in ("not_started", "absent") and sitting.started_at is None:
            theirs = dealt.forms.get(sitting.person_id, form.id)
            theirs = instead.get(theirs, theirs)
            sitting.form_id = theirs if theirs != form.id else None
    return dealt


def _corrections(db: Session) -> dict[int, int]:
    """The newest published correction of each form that has one."""
    after = {
        before: id
        for id, before in db.execute(
            select(Form.id, Form.before_id)
            .where(Form.before_id.is_not(None), Form.published_at.is_not(None))
            .order_by(Form.id)
        )
        if before is not None
    }
    found = {}
    for before in after:
        last = before
        while last in after:
            last = after[last]
        found[before] = last
    return found


def _alike(form: Form, family: Family) -> list[int]:
    """The session's own form first, then published ones that are dealt out like it."""
    if form.role not in ALIKE:
        return [form.id]
    corrected = superseded(family)
    others = (f for f in family.forms if f.id != form.id and f.role in ALIKE and f.published_at is not None)
    return [form.id, *(f.id for f in others if f.id not in corrected)]


def superseded(family: Family) -> set[int]:
    """Forms of which a correction was published."""
    return {f.before_id for f in family.forms if f.published_at is not None and f.before_id is not None}


def form_of(db: Session, session: PlannedSession, sitting: Sitting) -> Form:
    """The form that this student receives."""
    return db.get_one(Form, sitting.form_id or session.form_id)


def draw_for(db: Session, form: Form, session: PlannedSession) -> tuple[int, Drawn] | None:
    """A seed and what it draws, where the form is drawn. One draw for all: the seed is the session's."""
    wanted = settings(form).draw
    if wanted is None:
        return None
    seed = (session.id * 7919 + form.id) % SEEDS if wanted.each == "session" else secrets.randbelow(SEEDS)
    return seed, draw(heaps_of(db, form), seed, wanted.limit)


def begin(db: Session, session: PlannedSession, sitting: Sitting) -> None:
    """Fix what this student sits, in the transaction in which they begin."""
    if sitting.started_at is not None:
        return
    assign(db, session)
    found = draw_for(db, form_of(db, session, sitting), session)
    if found is not None:
        seed, drawn = found
        sitting.seed, sitting.drawn = seed, list(drawn.items)


def places_of(
    db: Session, session: PlannedSession, sitting: Sitting, drawn: Sequence[int] | None
) -> list[tuple[FormItem, ItemVersion]]:
    """The items that this student meets, in order. drawn: of the attempt at hand."""
    wanted = (
        select(FormItem, ItemVersion)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.form_id == (sitting.form_id or session.form_id))
        .order_by(FormItem.position)
    )
    if session.part is not None:
        wanted = wanted.where(FormItem.part == session.part)
    given = None if drawn is None else set(drawn)
    return [(place, version) for place, version in db.execute(wanted) if given is None or place.id in given]
