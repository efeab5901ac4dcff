"""A family of companion forms: who is in it, what its forms share, and which student receives which."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Annotated

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from bildung.core.assembly.companions import Claim, common, settled
from bildung.core.assembly.predict import predict
from bildung.services.bank.candidates import candidates
from bildung.services.forms.settings import lead_of, settings
from bildung.services.owed.dealing import assign, claims_of
from bildung.services.people.groups import groups_with_size
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, owner_of_new, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.wire import Id, listed
from bildung.store.models import (
    CompanionRule,
    Enrolment,
    Family,
    Form,
    FormItem,
    Group,
    GroupMember,
    ItemVersion,
    Person,
    PlannedSession,
    SchoolClass,
)

MOST_SHOWN = 40


@dataclass(frozen=True)
class GroupChoice:
    id: Id
    name: str
    members: int


@dataclass(frozen=True)
class ClaimWhy:
    form_id: Id
    why: str


@dataclass(frozen=True, kw_only=True)
class Against:
    """What a form shares with the family's general form. comparable: how results may be put side by side."""

    items: int
    points: float
    standards: int
    missing: list[str]
    more: list[str]
    same_scale: bool
    comparable: str


@dataclass(frozen=True, kw_only=True)
class FamilyForm:
    """share: of the points, expected; None where an item has no history. faces: items that it shows otherwise than the
    bank. against: None for the general form."""

    id: Id
    name: str
    role: str
    scale: str
    published_at: datetime | None
    superseded: bool
    items: int
    points: float
    share: float | None
    minutes: int | None
    faces: int
    large_print: bool
    sessions: int
    against: Against | None


@dataclass(frozen=True, kw_only=True)
class RuleLine:
    """people: how many it names."""

    id: Id
    form_id: Id
    form: str
    group: str
    person: str
    people: int


@dataclass(frozen=True)
class Unsettled:
    """A student whom rules name for several forms: form ids with the reasons."""

    person_id: Id
    name: str
    claims: Annotated[list[tuple[int, str]], listed(ClaimWhy)]


@dataclass(frozen=True, kw_only=True)
class FormFamily:
    """unsettled: the first ones; total_unsettled all of them. groups: that may be named. may_write: by who asks."""

    id: Id
    name: str
    title: str
    finding: str
    forms: list[FamilyForm]
    rules: list[RuleLine]
    by_need: dict[str, int]
    unsettled: list[Unsettled]
    total_unsettled: int
    groups: Annotated[list[tuple[int, str, int]], listed(GroupChoice)]
    may_write: bool


def get_family(ctx: Context, actor: Actor, family_id: int) -> FormFamily:
    """A family: its forms, what they share, who receives which."""
    with ctx.store.read() as db:
        return _view(ctx, db, actor, find_family(db, actor, family_id))


def find_family(db: Session, actor: Actor, family_id: int, action: Action = Action.TESTS_READ) -> Family:
    """Whoever may read (or change) one of its forms."""
    found = db.scalar(
        select(Family)
        .where(Family.id == family_id, Family.forms.any(scope(actor, action)))
        .options(
            selectinload(Family.forms)
            .selectinload(Form.items)
            .selectinload(FormItem.version)
            .selectinload(ItemVersion.item)
        )
    )
    if found is None:
        raise NotFound("there is no such family, or it is not yours")
    return found


def _view(ctx: Context, db: Session, actor: Actor, family: Family) -> FormFamily:
    lead = lead_of(family)
    ids = [item.item_version_id for form in family.forms for item in form.items]
    by_id = {c.id: c for c in candidates(ctx, db, actor, None, always=ids)}
    held = {
        f.id: {
            by_id[i.item_version_id].code: (by_id[i.item_version_id].points, by_id[i.item_version_id].standard)
            for i in f.items
            if i.item_version_id in by_id
        }
        for f in family.forms
    }
    thinned = {f.id: _thinned(f) for f in family.forms}
    superseded = {f.before_id for f in family.forms if f.published_at is not None}
    planned = dict(
        db.execute(
            select(PlannedSession.form_id, func.count())
            .where(PlannedSession.form_id.in_([f.id for f in family.forms]))
            .group_by(PlannedSession.form_id)
        ).all()
    )
    forms = []
    for form in family.forms:  # what each is beside the one that leads
        expected = predict([by_id[i.item_version_id] for i in form.items if i.item_version_id in by_id])
        forms.append(
            FamilyForm(
                id=form.id,
                name=form.name,
                role=form.role,
                scale=form.scale,
                published_at=form.published_at,
                superseded=form.id in superseded,
                items=len(form.items),
                points=sum(points for points, _ in held[form.id].values()),
                share=expected.share if not expected.unknown and not thinned[form.id] else None,
                minutes=settings(form).minutes,
                faces=sum(i.face is not None for i in form.items),
                large_print=settings(form).large_print,
                sessions=planned.get(form.id, 0),
                against=None
                if form.id == lead.id
                else _against(held[lead.id], held[form.id], lead, form, thinned[lead.id] ^ thinned[form.id]),
            )
        )
    rules = _rules(db, family)
    unsettled = unsettled_of(db, family)
    may = actor.may(Action.TESTS_WRITE) and (owner_of_new(actor) is None or family.owner_id == actor.person_id)
    return FormFamily(
        id=family.id,
        name=family.name,
        title=family.title,
        finding=_finding(family, forms, len(unsettled)),
        forms=forms,
        rules=rules,
        by_need=_by_need(db, family),
        unsettled=_named(db, unsettled),
        total_unsettled=len(unsettled),
        groups=groups_with_size(db, actor),
        may_write=may,
    )


def _named(db: Session, unsettled: Mapping[int, Sequence[Claim]]) -> list[Unsettled]:
    """The first of them, by name."""
    ids = list(unsettled)[:MOST_SHOWN]
    names = db.execute(select(Person.id, Person.given + " " + Person.family).where(Person.id.in_(ids))).all()
    return [
        Unsettled(id, name, [(c.form, c.why) for c in unsettled[id]])
        for id, name in sorted(names, key=lambda entry: str(entry[1]))
    ]


def _thinned(form: Form) -> set[str]:
    """Codes of items of which this form leaves options out: guessing is easier there, so they are other items."""
    found = set()
    for place in form.items:
        for part in place.version.shown["parts"]:
            stay = (place.face or {}).get(part["id"])
            if stay is not None and len(stay) < len(part.get("options", stay)):
                found.add(place.version.item.code)
    return found


def _against(
    lead: dict[str, tuple[float, str]], other: dict[str, tuple[float, str]], a: Form, b: Form, differ: set[str]
) -> Against:
    """differ: items that only one of the two shows with fewer options."""
    standards = common(lead, other)
    same_items = {code: held for code, held in other.items() if code not in differ}
    found = replace(
        common(lead, same_items),
        standards=standards.standards,
        only_one=standards.only_one,
        only_other=standards.only_other,
    )
    same = a.scale == b.scale and a.scale != ""
    says = found.comparable
    if differ & other.keys() & lead.keys():
        says += (
            f"; {len(differ & other.keys() & lead.keys())} items have fewer options there, which makes them other items"
        )
    if same and found.items == len(lead) == len(other):
        says = "point by point: the same items"
    elif same:
        says = f"on one scale; {says}"
    return Against(
        items=found.items,
        points=found.points,
        standards=len(found.standards),
        missing=list(found.only_one),
        more=list(found.only_other),
        same_scale=same,
        comparable=says,
    )


def _finding(family: Family, forms: list[FamilyForm], unsettled: int) -> str:
    drafts = sum(f.published_at is None for f in forms)
    text = f"{family.name}: {len(forms)} {'form' if len(forms) == 1 else 'forms'}"
    text += f", {drafts} still {'a draft' if drafts == 1 else 'drafts'}" if drafts else ", all published"
    own = [f for f in forms if f.against is not None and not f.against.same_scale and not f.superseded]
    if own and not unsettled:
        text += f"; {len(own)} {'has a scale of its own: its' if len(own) == 1 else 'have scales of their own: their'} results compare by share and standard"
    apart = [f.name for f in forms if f.against is not None and not f.against.points]
    strange = [f.name for f in forms if f.against is not None and not f.against.points and not f.against.standards]
    if unsettled:
        text += f". {unsettled} {'student is' if unsettled == 1 else 'students are'} assigned two forms: resolve this before scheduling"
    if strange:
        text += f". {', '.join(strange)} {'shares' if len(strange) == 1 else 'share'} no points and no standard with the general form: results cannot be compared at all"
    elif apart:
        text += f". {', '.join(apart)} {'shares' if len(apart) == 1 else 'share'} no points with the general form: results compare by share and standard only"
    return text + "."


def _rules(db: Session, family: Family) -> list[RuleLine]:
    names = {f.id: f.name for f in family.forms}
    found = []
    for rule, group, given, last in db.execute(
        select(CompanionRule, Group.name, Person.given, Person.family)
        .outerjoin(Group, Group.id == CompanionRule.group_id)
        .outerjoin(Person, Person.id == CompanionRule.person_id)
        .where(CompanionRule.family_id == family.id)
        .order_by(CompanionRule.id)
    ):
        people = 1
        if rule.group_id is not None:
            people = db.scalar(select(func.count()).where(GroupMember.group_id == rule.group_id)) or 0
        found.append(
            RuleLine(
                id=rule.id,
                form_id=rule.form_id,
                form=names[rule.form_id],
                group=group or "",
                person=f"{given} {last}".strip() if given else "",
                people=people,
            )
        )
    return found


def students_of(db: Session, family: Family) -> list[int]:
    """Whom the family may concern: students of its subject and grade."""
    lead = lead_of(family)
    wanted = (
        select(Enrolment.person_id)
        .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
        .join(Person, Person.id == Enrolment.person_id)
        .where(
            Enrolment.active.is_(True),
            Enrolment.role == "student",
            SchoolClass.active.is_(True),
            Person.active.is_(True),
        )
    )
    if lead.subject:
        wanted = wanted.where(SchoolClass.subject == lead.subject)
    if lead.grade:
        wanted = wanted.where(SchoolClass.grade == lead.grade)
    return list(db.scalars(wanted.distinct()))


def unsettled_of(db: Session, family: Family) -> dict[int, list[Claim]]:
    """Students of the family's subject and grade whom rules name for several of its forms, drafts among them."""
    found = {}
    for person, claims in claims_of(db, family, students_of(db, family), None, only_published=False).items():
        try:
            settled(claims)
        except LookupError:
            found[person] = claims
    return found


def _by_need(db: Session, family: Family) -> dict[str, int]:
    """How many of its students need a form of a kind by their accommodations."""
    counts: dict[str, int] = {}
    for claims in claims_of(db, family, students_of(db, family), None, only_published=False).values():
        for claim in claims:
            if claim.why.startswith("needs"):
                counts[claim.why] = counts.get(claim.why, 0) + 1
    return counts


def add_rule(
    ctx: Context, actor: Actor, family_id: int, form_id: int, group_id: int | None, person_id: int | None
) -> FormFamily:
    """A group, or one student, receives this form. A student's own rule takes the place of an earlier one."""

    def work(db: Session) -> FormFamily:
        family = _mine(db, actor, family_id)
        if form_id not in {f.id for f in family.forms}:
            raise Invalid("choose a form of this family", "form_id")
        if (group_id is None) == (person_id is None):
            raise Invalid("name a group or a student", "group_id")
        if (
            group_id is not None
            and db.scalar(select(Group.id).where(Group.id == group_id, scope(actor, Action.GROUPS_READ))) is None
        ):
            raise NotFound("there is no such group")
        if (
            person_id is not None
            and db.scalar(
                select(Person.id).where(
                    Person.id == person_id, Person.kind == "student", scope(actor, Action.PEOPLE_READ)
                )
            )
            is None
        ):
            raise NotFound("there is no such student, or they are not yours")
        for old in db.scalars(
            select(CompanionRule).where(
                CompanionRule.family_id == family_id,
                CompanionRule.group_id == group_id,
                CompanionRule.person_id == person_id,
            )
        ):
            db.delete(old)
        db.add(CompanionRule(family_id=family_id, form_id=form_id, group_id=group_id, person_id=person_id))
        db.flush()
        follow(db, family)
        after = {"form": form_id, "group": group_id, "person": person_id}
        audit.record(db, ctx.clock(), actor.person_id, "family.rule", f"family:{family_id}", None, after)
        return _view(ctx, db, actor, family)

    return ctx.store.write(work)


def drop_rule(ctx: Context, actor: Actor, family_id: int, rule_id: int) -> FormFamily:
    """Take a rule away; whoever has not begun receives what the other rules say."""

    def work(db: Session) -> FormFamily:
        family = _mine(db, actor, family_id)
        rule = db.get(CompanionRule, rule_id)
        if rule is None or rule.family_id != family.id:
            raise NotFound("there is no such rule in this family")
        before = {"form": rule.form_id, "group": rule.group_id, "person": rule.person_id}
        db.delete(rule)
        db.flush()
        follow(db, family)
        audit.record(db, ctx.clock(), actor.person_id, "family.rule", f"family:{family_id}", before, None)
        return _view(ctx, db, actor, family)

    return ctx.store.write(work)


def follow(db: Session, family: Family) -> None:
    """Open sessions of the family deal anew to whoever has not begun."""
    ids = [f.id for f in family.forms]
    for session in db.scalars(
        select(PlannedSession).where(PlannedSession.form_id.in_(ids), PlannedSession.closed_at.is_(None))
    ):
        assign(db, session)


def _mine(db: Session, actor: Actor, family_id: int) -> Family:
    family = find_family(db, actor, family_id, Action.TESTS_WRITE)
    if owner_of_new(actor) is not None and family.owner_id != actor.person_id:
        raise NotFound("there is no such family, or it is not yours to change")
    return family
