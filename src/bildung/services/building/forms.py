"""Tests: putting items into forms and publishing them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection
from dataclasses import dataclass
from datetime import date, datetime
from typing import Annotated, Any

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session, selectinload

from bildung.formats.blueprint import KINDS, FormSettings, read_plan, settings_of
from bildung.services.building.blueprints import find
from bildung.services.building.checklist import checks
from bildung.services.building.corrections import move_unbegun
from bildung.services.building.formfamily import follow
from bildung.services.building.trialrun import said
from bildung.services.calendar.years import local_today
from bildung.services.forms.settings import settings
from bildung.services.items.bankitem import BankItem, bank_item, with_parts
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, outsider, owner_of_new, scope, secured_form
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, Named, listed
from bildung.store.models import Form, FormItem, Item, ItemStandard, ItemVersion, Person, PlannedSession, Standard

MAX_ITEMS = 200
BY_PERSON = ("writing", "several")
SCREEN_ONLY = ("point",)  # cannot be answered with a pencil in a way that is marked the same


@dataclass(frozen=True, kw_only=True)
class FormLine:
    id: Id
    name: str
    title: str
    subject: str
    grade: str
    items: int
    published_at: datetime | None
    sessions: int
    kind: str
    family_id: Id | None
    family: str
    role: str
    standards: list[str]
    marks_itself: bool
    unit: str
    owner: str
    on_paper: bool
    secured: bool
    may_open: bool


@dataclass(frozen=True, kw_only=True)
class FormDetail:
    """says: its settings in words. part_names: of its plan. faces: items it shows otherwise than the bank. secure,
    stays_secure: what was decided about its security; secured: only keepers see its items at present."""

    id: Id
    name: str
    title: str
    subject: str
    grade: str
    revision: int
    published_at: datetime | None
    kind: str
    family_id: Id | None
    family: str
    role: str
    unit: str
    planned: bool
    settings: FormSettings
    says: list[str]
    part_names: list[str]
    faces: int
    before_id: Id | None
    mirror_id: Id | None
    points: float
    items: list[BankItem]
    parts: list[int]
    coverage: Annotated[list[tuple[str, int]], listed(Named)]
    standards: int
    secure: bool | None
    stays_secure: bool
    secured: bool


def forms_finding(forms: list[FormLine]) -> str:
    """What the page of tests opens with."""
    drafts = sum(form.published_at is None for form in forms)
    unused = sum(form.published_at is not None and form.sessions == 0 for form in forms)
    if not forms:
        return "No forms yet. Create one from the items of the bank."
    parts = [f"{len(forms)} {'form' if len(forms) == 1 else 'forms'}"]
    if drafts:
        parts.append(f"{drafts} still {'a draft' if drafts == 1 else 'drafts'}")
    if unused:
        parts.append(f"{unused} published and not scheduled yet")
    return ", ".join(parts) + ("." if drafts or unused else ", all published and scheduled.")


def list_forms(ctx: Context, actor: Actor) -> list[FormLine]:
    """Every form that this person may see, drafts first; of secure ones what teachers may know of them."""
    allowed = scope(actor, Action.TESTS_LIST)
    with ctx.store.read() as db:
        items = dict(db.execute(select(FormItem.form_id, func.count()).group_by(FormItem.form_id)).all())
        by_person = set(
            db.scalars(
                select(FormItem.form_id)
                .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
                .where(ItemVersion.kind.in_(BY_PERSON))
                .distinct()
            )
        )
        screen_only = set(
            db.scalars(
                select(FormItem.form_id)
                .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
                .where(ItemVersion.kind.in_(SCREEN_ONLY))
                .distinct()
            )
        )
        owners = {p.id: p.name for p in db.scalars(select(Person).where(Person.id.in_(select(Form.owner_id))))}
        standards: dict[int, list[str]] = {}
        for form_id, code in db.execute(
            select(FormItem.form_id, Standard.code)
            .join(ItemStandard, ItemStandard.item_version_id == FormItem.item_version_id)
            .join(Standard, Standard.id == ItemStandard.standard_id)
            .where(ItemStandard.rank == 0)
            .distinct()
            .order_by(Standard.code)
        ):
            standards.setdefault(form_id, []).append(code)
        readable = set(db.scalars(select(Form.id).where(scope(actor, Action.TESTS_READ))))
        secured = set(db.scalars(select(Form.id).where(secured_form(outsider(local_today(ctx, db)), Form))))
        used = dict(db.execute(select(PlannedSession.form_id, func.count()).group_by(PlannedSession.form_id)).all())
        forms = db.scalars(
            select(Form)
            .where(allowed)
            .options(selectinload(Form.family))
            .order_by(Form.published_at.is_not(None), Form.name)
        ).all()
        return [
            FormLine(
                id=f.id,
                name=f.name,
                title=f.title,
                subject=f.subject,
                grade=f.grade,
                items=items.get(f.id, 0),
                published_at=f.published_at,
                sessions=used.get(f.id, 0),
                kind=f.kind,
                family_id=f.family_id,
                family=f.family.name if f.family else "",
                role=f.role,
                standards=standards.get(f.id, []),
                marks_itself=f.id not in by_person,
                unit=f.unit,
                owner=owners.get(f.owner_id or 0, ""),
                on_paper=f.id not in screen_only,
                secured=f.id in secured,
                may_open=f.id in readable,
            )
            for f in forms
        ]


def get_form(ctx: Context, actor: Actor, form_id: int) -> FormDetail:
    """One form with its items, whole."""
    allowed = scope(actor, Action.TESTS_READ)
    with ctx.store.read() as db:
        if db.scalar(select(Form.id).where(Form.id == form_id, allowed)) is None:
            if db.scalar(select(Form.id).where(Form.id == form_id, scope(actor, Action.TESTS_LIST))) is not None:
                raise NotAllowed("this test is secure: its items open when every session of it is over")
            raise NotFound("there is no such form")
        return detail(db, form_id, local_today(ctx, db))


def create_form(
    ctx: Context,
    actor: Actor,
    name: str,
    title: str,
    subject: str,
    grade: str,
    kind: str = "",
    blueprint_id: int | None = None,
) -> FormDetail:
    """A new draft. title: what students see; the name where it is left empty. blueprint_id: what it is to hold; its
    kind, subject and grade stand where nothing else is said."""
    scope(actor, Action.TESTS_WRITE)
    if kind and kind not in KINDS:
        raise Invalid(f"kind is one of {', '.join(KINDS)}", "kind")
    name = need_text(name, "name")
    title = need_text(title or name, "title")

    def work(db: Session) -> FormDetail:
        if db.scalar(select(Form.id).where(Form.name == name)):
            raise Conflict(f"there is a form named {name} already; choose another name", "name")
        plan = find(db, actor, blueprint_id) if blueprint_id is not None else None
        chosen = kind or (plan.kind if plan else "")
        form = Form(
            name=name,
            title=title,
            subject=subject.strip() or (plan.subject if plan else ""),
            grade=grade.strip() or (plan.grade if plan else ""),
            created_at=ctx.clock(),
            owner_id=owner_of_new(actor),
            kind=chosen,
            settings=settings_of(chosen).model_dump(),
            plan=plan.content if plan else None,
            blueprint_id=plan.id if plan else None,
        )
        db.add(form)
        db.flush()
        audit.record(db, ctx.clock(), actor.person_id, "form.create", f"form:{form.id}", None, {"name": name})
        return detail(db, form.id, local_today(ctx, db))

    return ctx.store.write(work)


def set_items(
    ctx: Context, actor: Actor, form_id: int, revision: int, version_ids: list[int], parts: list[int] | None = None
) -> FormDetail:
    """The form's items in this order, with the part of the blueprint that each stands in (left as it is where parts
    are not said). Conflict where somebody changed it since `revision`."""
    part_of = dict(zip(version_ids, parts or [], strict=False))
    allowed = scope(actor, Action.TESTS_WRITE)

    def work(db: Session) -> FormDetail:
        form = draft(db, form_id, allowed)
        if form.revision != revision:
            raise Conflict("someone changed this form in the meantime; the current version is shown")
        check_items(db, version_ids, {item.item_version_id for item in form.items})
        kept = {item.item_version_id: item for item in form.items}
        for id, item in kept.items():
            if id not in version_ids:
                form.items.remove(item)
        for position, id in enumerate(version_ids, 1):
            if id in kept:
                kept[id].position = position
                if id in part_of:
                    kept[id].part = part_of[id]
            else:
                form.items.append(FormItem(position=position, item_version_id=id, part=part_of.get(id, 0)))
        form.revision += 1
        db.flush()
        db.expire(form)
        return detail(db, form_id, local_today(ctx, db))

    return ctx.store.write(work)


def check_items(db: Session, version_ids: list[int], kept: Collection[int] = ()) -> None:
    """Invalid where these cannot stand on one form. kept: those that stand there already may stay as they are."""
    if len(version_ids) > MAX_ITEMS:
        raise Invalid(f"{len(version_ids)} items; a form has at most {MAX_ITEMS}", "items")
    twice = [id for id, n in Counter(version_ids).items() if n > 1]
    versions = {v.id: v for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(version_ids))))}
    if len(versions) != len(set(version_ids)):
        raise Invalid("an item is not in the bank", "items")
    if twice:
        raise Invalid(f"item {versions[twice[0]].item.code} appears twice", "items")
    left = [v for id, v in versions.items() if id not in kept]
    unfit = next((v for v in left if v.template is not None or v.item.state == "retired"), None)
    if unfit is not None:
        why = "a template; generate items from its draws" if unfit.template is not None else "retired"
        raise Invalid(f"item {unfit.item.code} is {why}", "items")
    items = Counter(v.item_id for v in versions.values())
    if items and max(items.values()) > 1:
        code = next(v.item.code for v in versions.values() if items[v.item_id] > 1)
        raise Invalid(f"two versions of item {code}; one is allowed", "items")


def publish(ctx: Context, actor: Actor, form_id: int, revision: int) -> FormDetail:
    """From now on the form never changes."""
    allowed = scope(actor, Action.TESTS_WRITE)

    def work(db: Session) -> FormDetail:
        form = draft(db, form_id, allowed)
        if form.revision != revision:
            raise Conflict("someone changed this form in the meantime; review it before publishing")
        stop = next((check for check in checks(ctx, db, actor, form) if check.weight == "stop"), None)
        if stop is not None:
            raise Invalid(stop.says, "items")
        form.published_at, form.published_by = ctx.clock(), actor.person_id
        items = [item.item_version_id for item in form.items]
        ready = select(Item).join(ItemVersion, ItemVersion.item_id == Item.id).where(ItemVersion.id.in_(items))
        for item in db.scalars(ready.where(Item.state == "ready")):
            item.state = "in_use"
        audit.record(db, ctx.clock(), actor.person_id, "form.publish", f"form:{form_id}", None, {"items": items})
        db.flush()
        moved = move_unbegun(db, form)
        if moved:
            audit.record(
                db, ctx.clock(), actor.person_id, "form.replace", f"form:{form.before_id}", None, {"sessions": moved}
            )
        if form.family is not None:
            follow(db, form.family)
        return detail(db, form_id, local_today(ctx, db))

    return ctx.store.write(work)


def draft(db: Session, form_id: int, allowed: ColumnElement[bool]) -> Form:
    """The draft, or NotFound; Conflict where it is published, since what is published stays."""
    form = db.scalar(select(Form).where(Form.id == form_id, allowed))
    if form is None:
        raise NotFound("there is no such form, or it is not yours to change")
    if form.published_at is not None:
        raise Conflict(f"{form.name} is published and never changes; make another form")
    return form


def set_security(ctx: Context, actor: Actor, form_id: int, secure: bool | None, stays: bool) -> FormDetail:
    """Whether only keepers see its items until it has been taken, also of a published form. secure: None as its kind has
    it. stays: also afterwards."""
    allowed = scope(actor, Action.TESTS_WRITE)

    def work(db: Session) -> FormDetail:
        form = db.scalar(select(Form).where(Form.id == form_id, allowed))
        if form is None:
            raise NotFound("there is no such form, or it is not yours to change")
        before = {"secure": form.secure, "stays": form.stays_secure}
        form.secure, form.stays_secure = secure, stays
        after = {"secure": secure, "stays": stays}
        audit.record(db, ctx.clock(), actor.person_id, "form.security", f"form:{form_id}", before, after)
        db.flush()
        return detail(db, form_id, local_today(ctx, db))

    return ctx.store.write(work)


def detail(db: Session, form_id: int, day: date) -> FormDetail:
    """A form as its page shows it on a day."""
    form = db.scalar(select(Form).where(Form.id == form_id).options(selectinload(Form.items)))
    if form is None:
        raise NotFound("there is no such form")
    ids = [item.item_version_id for item in form.items]
    versions: dict[int, Any] = {
        v.id: v for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(ids))))
    }
    items = [bank_item(versions[id]) for id in ids]
    coverage = Counter(item.standards[0] if item.standards else "no standard" for item in items)
    return FormDetail(
        id=form.id,
        name=form.name,
        title=form.title,
        subject=form.subject,
        grade=form.grade,
        revision=form.revision,
        published_at=form.published_at,
        kind=form.kind,
        family_id=form.family_id,
        family=form.family.name if form.family else "",
        role=form.role,
        unit=form.unit,
        planned=form.plan is not None,
        settings=settings(form),
        says=said(form),
        part_names=[p.name for p in read_plan(form.plan).parts] if form.plan else [],
        faces=sum(item.face is not None for item in form.items),
        before_id=form.before_id,
        mirror_id=form.mirror_id,
        points=sum(item.points for item in items),
        items=items,
        parts=[item.part for item in form.items],
        coverage=sorted(coverage.items()),
        standards=len(coverage.keys() - {"no standard"}),
        secure=form.secure,
        stays_secure=form.stays_secure,
        secured=db.scalar(select(Form.id).where(Form.id == form_id, secured_form(outsider(day), Form))) is not None,
    )
