"""The demo's ready-made tests: benchmark families with companion forms, unit tests, a task, a drawn check, practice."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.assembly.assemble import assemble
from bildung.core.assembly.program import Demands
from bildung.formats.blueprint import FormSettings, read_plan
from bildung.services.bank.candidates import candidates
from bildung.services.building import assembling, formfamily, forms, formsettings, makecompanions
from bildung.services.building.makecompanions import Wish
from bildung.services.items.bankitem import items_whole
from bildung.services.shared import jobs
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.store.models import Blueprint, Form, Group, GroupMember, Item, Person

GRADES = ("6", "7", "8")


def ready_tests(ctx: Context, actor: Actor, unsettled: str) -> None:
    """unsettled: the subject in whose winter family two students are named for two forms."""
    with ctx.store.read() as db:
        plans = [
            (b.id, b.name)
            for b in db.scalars(select(Blueprint).where(Blueprint.name.startswith("Winter")).order_by(Blueprint.name))
        ]
    for blueprint, name in plans:
        _family(ctx, actor, blueprint, name)
    for grade in GRADES:
        _unit(ctx, actor, grade)
        _task(ctx, actor, grade)
        _drawn(ctx, actor, grade)
    _practice(ctx, actor)
    _named_twice(ctx, actor, unsettled)


def _family(ctx: Context, actor: Actor, blueprint: int, name: str) -> None:
    """Two forms that are alike where the bank has enough, then a shortened and an adapted one; all published."""
    with ctx.store.read() as db:
        kept = db.get_one(Blueprint, blueprint)
        pool = candidates(ctx, db, actor, kept.subject, kept.grade)
        plan = read_plan(kept.content).core()
    found = assemble(plan, pool, Demands(forms=2, anchor=4), 6)
    if not found.forms:
        found = assemble(plan, pool, Demands(), 6)
    forms = [[(id, part) for id, part in form.placed] for form in found.forms]
    _, made = assembling.keep(ctx, actor, blueprint, name, name.rsplit(" ", 1)[0], forms)
    for form in made:
        _publish(ctx, actor, form)
    for wish in (Wish(way="shortened"), Wish(way="adapted")):
        try:
            done = makecompanions.make(ctx, actor, made[0], wish, jobs.begin(ctx, actor, ""))
        except Conflict:  # one item of each standard: nothing could be shorter
            continue
        _publish(ctx, actor, done.form_id)


def _publish(ctx: Context, actor: Actor, form: int) -> None:
    with ctx.store.read() as db:
        revision = db.scalars(select(Form.revision).where(Form.id == form)).one()
    forms.publish(ctx, actor, form, revision)


def _versions(db: Session, grade: str, unit: str = "", kind: str = "") -> list[tuple[int, str]]:
    """Newest versions of a grade's mathematics items that may be used, with their units."""
    wanted = (
        items_whole()
        .where(Item.subject == "Mathematics", Item.grade == grade, Item.state.in_(("ready", "in_use", "field_test")))
        .order_by(Item.code)
    )
    if unit:
        wanted = wanted.where(Item.unit == unit)
    found = [(i.versions[-1], i.unit) for i in db.scalars(wanted) if i.versions]
    return [(v.id, u) for v, u in found if v.template is None and (v.kind == kind if kind else v.kind != "writing")]


def _form(
    ctx: Context,
    actor: Actor,
    name: str,
    title: str,
    grade: str,
    kind: str,
    ids: list[int],
    unit: str = "",
    **said: object,
) -> int:
    form = forms.create_form(ctx, actor, name, title, "Mathematics", grade, kind)
    form = forms.set_items(ctx, actor, form.id, form.revision, ids)
    rules = FormSettings.model_validate({**form.settings.model_dump(), **said})
    formsettings.change(ctx, actor, form.id, form.revision, title, kind, unit, rules)
    return form.id


def _unit(ctx: Context, actor: Actor, grade: str) -> None:
    """Before and after the grade's first unit: the same test twice."""
    with ctx.store.read() as db:
        units = sorted({unit for _, unit in _versions(db, grade) if unit})
        if not units:
            return
        ids = [id for id, _ in _versions(db, grade, units[0])][:10]
    name = units[0].partition(": ")[2] or units[0]
    form = _form(
        ctx,
        actor,
        f"Unit test {grade}: {name}",
        name,
        grade,
        "unit",
        ids,
        units[0],
        hints=True,
        tools=["calculator", "crossing_out"],
    )
    _publish(ctx, actor, form)


def _task(ctx: Context, actor: Actor, grade: str) -> None:
    """Written work judged by a rubric."""
    with ctx.store.read() as db:
        ids = [id for id, _ in _versions(db, grade, kind="writing")][:2]
    if ids:
        form = _form(
            ctx,
            actor,
            f"Task mathematics {grade}",
            "A task to explain",
            grade,
            "task",
            ids,
            tools=["notes", "calculator"],
        )
        _publish(ctx, actor, form)


def _drawn(ctx: Context, actor: Actor, grade: str) -> None:
    """A check drawn for each student from items that were sat, held within a limit."""
    with ctx.store.read() as db:
        known = {c.id for c in candidates(ctx, db, actor, "Mathematics", grade) if c.p is not None and not c.problem}
        ids = [id for id, _ in _versions(db, grade) if id in known]
    draw = {"count": 2, "by": "standard", "each": "student", "limit": 0.04}
    form = _form(
        ctx, actor, f"Drawn check mathematics {grade}", "Quick check mathematics", grade, "spot", ids, draw=draw
    )
    _publish(ctx, actor, form)


def _practice(ctx: Context, actor: Actor) -> None:
    """A mirror of one benchmark, told of at once."""
    with ctx.store.read() as db:
        form = db.scalar(select(Form.id).where(Form.name == "Winter mathematics 7 A"))
    if form is not None:
        made = makecompanions.make(ctx, actor, form, Wish(way="mirror"), jobs.begin(ctx, actor, ""))
        _publish(ctx, actor, made.form_id)


def _named_twice(ctx: Context, actor: Actor, subject: str) -> None:
    """Two groups that name different forms for two students: to be settled before anybody plans."""
    with ctx.store.read() as db:
        group = db.scalars(select(Group).where(Group.name == "Reading lift")).first()
        if group is None:
            return
        grade = db.scalar(
            select(Person.grade)
            .join(GroupMember, GroupMember.person_id == Person.id)
            .where(GroupMember.group_id == group.id)
            .group_by(Person.grade)
            .order_by(func.count().desc(), Person.grade)
        )
        lead = db.scalars(select(Form).where(Form.name == f"Winter {subject} {grade} A")).first()
        if lead is None or lead.family is None:
            return
        by_role = {f.role: f.id for f in lead.family.forms}
        both = db.scalars(
            select(Person.id)
            .join(GroupMember, GroupMember.person_id == Person.id)
            .where(GroupMember.group_id == group.id, Person.grade == grade)
            .order_by(Person.source_id)
        ).all()[:2]
        id, family_id = group.id, lead.family_id or 0

    def second(db: Session) -> int:
        made = Group(name="Large print", rule=None, school_id=db.get_one(Group, id).school_id, created_at=ctx.clock())
        db.add(made)
        db.flush()
        for person in both:
            db.add(GroupMember(group_id=made.id, person_id=person))
        return made.id

    formfamily.add_rule(ctx, actor, family_id, by_role["shortened"], id, None)
    formfamily.add_rule(ctx, actor, family_id, by_role["adapted"], ctx.store.write(second), None)
