"""Making companion forms of a form: shortened, adapted, more demanding, alternate, a fresh one for retakes; and mirrors
for practice with. What is made is a draft, to be looked at and changed by hand."""

from __future__ import annotations

import random
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from bildung.core.assembly.apart import assemble_apart
from bildung.core.assembly.assemble import assemble
from bildung.core.assembly.blueprint import Candidate, Row, TestBlueprint
from bildung.core.assembly.predict import predict
from bildung.core.assembly.program import Demands
from bildung.core.assembly.shorten import shortened_plan
from bildung.core.classical.settings import DEFAULTS
from bildung.core.errors import Refused
from bildung.formats.blueprint import Plan, read_plan, settings_of
from bildung.formats.face import Face, fewer, shuffled
from bildung.services.answers.analysed import analyse_sessions
from bildung.services.bank.candidates import candidates
from bildung.services.bank.variants import make_items
from bildung.services.forms.settings import settings
from bildung.services.items.bankitem import content_of, with_parts
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, owner_of_new, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.wire import Id
from bildung.store.models import (
    Enrolment,
    Family,
    Form,
    FormItem,
    Item,
    ItemFigure,
    ItemVersion,
    Person,
    PlannedSession,
    SchoolClass,
    Sitting,
)

Way = Literal["shortened", "adapted", "demanding", "alternate", "parallel", "mirror"]
SECONDS = 30.0
FEW = 60
HARDER = 0.12


@dataclass(frozen=True, kw_only=True)
class Wish:
    """share: of the items that a shortened form keeps. options: that an adapted one leaves of each choice, None: all.
    harder: by how much less of the points is expected of a more demanding one. class_id, person_id: students of this
    class, or this student, have not seen what a fresh form holds. seed: of order and values."""

    way: Way
    share: float = 0.5
    options: int | None = 3
    harder: float = HARDER
    class_id: int | None = None
    person_id: int | None = None
    seed: int = 1


@dataclass(frozen=True)
class MadeCompanion:
    """says: what was made, in one sentence, with what was expected of the two."""

    form_id: Id
    family_id: Id | None
    says: str


@dataclass(frozen=True)
class _Placed:
    version: int
    part: int
    face: Face | None = None


def make(ctx: Context, actor: Actor, form_id: int, wish: Wish, job: Job) -> MadeCompanion:
    """A draft beside the form, in its family (which begins with it); a mirror stands alone."""
    allowed = scope(actor, Action.TESTS_WRITE)
    _check(wish)
    with ctx.store.read() as db:
        form = db.scalar(select(Form).where(Form.id == form_id, allowed))
        if form is None:
            raise NotFound("there is no such form, or it is not yours to change")
        if not form.items:
            raise Conflict(f"{form.name} has no items yet; a companion is made of a form that has")
        own = [i.item_version_id for i in form.items]
        pool = {c.id: c for c in candidates(ctx, db, actor, form.subject, form.grade, None, own)}
        mine = [(pool[i.item_version_id], i.part) for i in form.items]
        parts = read_plan(form.plan).core().parts if form.plan else (TestBlueprint(rows=()).parts)
        avoided = _avoided(db, actor, form, wish)
        siblings = _siblings(db, form)
    if wish.way == "shortened":
        try:
            plan = shortened_plan(mine, parts, wish.share)
        except Refused as error:
            raise Conflict(f"{form.name}: {error}") from None
        placed = _assembled(
            plan,
            [c for c, _ in mine],
            Demands(flagged=True, once_a_window=False),
            job,
        )
    elif wish.way in ("adapted", "alternate"):
        placed = _dressed(ctx, actor, form_id, wish, mine, siblings)
    else:
        plan = _plan_like(mine, parts, wish)
        others = [c for c in pool.values() if c.id not in avoided]
        placed = _assembled(plan, others, Demands(flagged=False, once_a_window=False), job)
    return ctx.store.write(lambda db: _keep(ctx, db, actor, form_id, wish, placed, pool), much=True)


def _check(wish: Wish) -> None:
    if not 0.1 <= wish.share <= 0.95:
        raise Invalid("a shortened form keeps a tenth to 95 in 100 of the items", "share")
    if wish.options is not None and not 2 <= wish.options <= 10:
        raise Invalid("an adapted form leaves 2 to 10 options of each choice", "options")
    if not 0.02 <= wish.harder <= 0.5:
        raise Invalid("a more demanding form is harder by 2 to 50 in 100 of the points", "harder")


def _avoided(db: Session, actor: Actor, form: Form, wish: Wish) -> set[int]:
    """Versions that a fresh form must not hold: of this family's items, and of what the class or the student has
    seen."""
    if wish.way == "demanding":
        return set()
    forms = [form.id] if form.family is None else [f.id for f in form.family.forms]
    items = select(ItemVersion.item_id).join(FormItem, FormItem.item_version_id == ItemVersion.id)
    unwanted = set(db.scalars(items.where(FormItem.form_id.in_(forms))))
    if wish.way == "parallel" and (wish.class_id is not None or wish.person_id is not None):
        seen = (
            select(func.coalesce(Sitting.form_id, PlannedSession.form_id))
            .select_from(Sitting)
            .join(PlannedSession, PlannedSession.id == Sitting.session_id)
            .where(Sitting.person_id.in_(_students(db, actor, wish)), Sitting.started_at.is_not(None))
        )
        unwanted |= set(db.scalars(items.where(FormItem.form_id.in_(seen))))
    return set(db.scalars(select(ItemVersion.id).where(ItemVersion.item_id.in_(unwanted))))


def _students(db: Session, actor: Actor, wish: Wish) -> list[int]:
    """Who must not have seen what the fresh form holds."""
    found: list[int] = []
    if wish.class_id is not None:
        if db.get(SchoolClass, wish.class_id) is None:
            raise Invalid("there is no such class", "class_id")
        found += db.scalars(
            select(Enrolment.person_id).where(
                Enrolment.class_id == wish.class_id, Enrolment.role == "student", Enrolment.active.is_(True)
            )
        )
    if wish.person_id is not None:
        allowed = scope(actor, Action.PEOPLE_READ)
        if db.scalar(select(Person.id).where(Person.id == wish.person_id, Person.kind == "student", allowed)) is None:
            raise NotFound("there is no such student, or they are not yours")
        found.append(wish.person_id)
    return found


def _plan_like(mine: Sequence[tuple[Candidate, int]], parts: Sequence[object], wish: Wish) -> TestBlueprint:
    """As many items and points of each standard in each part, in about the same time, expected to give the same share."""
    rows = Counter((c.standard, part) for c, part in mine)
    points = sum(c.points for c, _ in mine)
    expected = predict([c for c, _ in mine])
    target = None if expected.unknown else expected.share
    if wish.way == "demanding":
        if target is None:
            raise Conflict("how hard this form is cannot be told: some of its items were not used yet")
        target = max(0.05, target - wish.harder)
    return TestBlueprint(
        rows=tuple(Row(low=n, high=n, standard=standard, part=part) for (standard, part), n in sorted(rows.items())),
        parts=tuple(parts),  # type: ignore[arg-type]
        items=(len(mine), len(mine)),
        points=(points, points),
        minutes=None,
        target=target,
    )


def _assembled(plan: TestBlueprint, pool: Sequence[Candidate], demands: Demands, job: Job) -> list[_Placed]:
    def tell(what: str, best: float, bound: float) -> None:
        job.tell(what, 0, 0)

    for wanted in (plan, replace(plan, points=None)):  # as many points where that can be, else as many items
        try:
            # so few candidates take no time worth stopping
            few = len(pool) <= FEW
            found = (
                assemble(wanted, pool, demands, SECONDS)
                if few
                else assemble_apart(wanted, pool, demands, SECONDS, tell)
            )
        except Refused as error:
            raise Invalid(str(error), "way") from None
        if found.forms:
            return [_Placed(id, part) for id, part in found.forms[0].placed]
    assert found.collision is not None
    clash = "; ".join(d.says for d in found.collision.demands)
    raise Conflict(f"the bank has no such form: {clash}. Add items, or build it by hand from a blueprint")


def _siblings(db: Session, form: Form) -> dict[int, list[int]]:
    """For each version on the form that was drawn from a template: newest versions of other draws of that template that
    stand on no form of the family."""
    forms = [form.id] if form.family is None else [f.id for f in form.family.forms]
    taken = set(db.scalars(select(FormItem.item_version_id).where(FormItem.form_id.in_(forms))))
    found: dict[int, list[int]] = {}
    for place in form.items:
        origin = place.version.item.origin_version_id
        template = db.get(ItemVersion, origin) if origin is not None else None
        if template is None or template.template is None:
            continue
        newest = (
            select(func.max(ItemVersion.id))
            .join(Item, Item.id == ItemVersion.item_id)
            .where(Item.origin_version_id == origin, Item.state != "retired")
            .group_by(ItemVersion.item_id)
        )
        found[place.item_version_id] = [id for id in db.scalars(newest) if id not in taken]
    return found


def _dressed(
    ctx: Context,
    actor: Actor,
    form_id: int,
    wish: Wish,
    mine: Sequence[tuple[Candidate, int]],
    siblings: dict[int, list[int]],
) -> list[_Placed]:
    """The same items shown otherwise: fewer options, or another order of items and options, or other values."""
    with ctx.store.read() as db:
        ids = [c.id for c, _ in mine]
        contents = {
            v.id: content_of(v) for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(ids))))
        }
        shares = _option_shares(db, ids) if wish.way == "adapted" else {}
    if wish.way == "adapted":
        keep = wish.options
        return [
            _Placed(c.id, part, None if keep is None else fewer(contents[c.id], keep, shares.get(c.id, {})) or None)
            for c, part in mine
        ]
    rng = random.Random(wish.seed)
    used: set[int] = set()
    placed = []
    for c, part in _reordered(mine, rng):
        other = next((id for id in siblings.get(c.id, ()) if id not in used), None)
        if c.id in siblings and other is None:
            other = _another_draw(ctx, actor, c.id, wish.seed)
        if other is not None:
            used.add(other)
            placed.append(_Placed(other, part))
        else:
            placed.append(_Placed(c.id, part, shuffled(contents[c.id], rng) or None))
    return placed


def _reordered(mine: Sequence[tuple[Candidate, int]], rng: random.Random) -> list[tuple[Candidate, int]]:
    """Another order within each part; items of one stimulus stay together, in their order."""
    blocks: defaultdict[int, dict[str, list[tuple[Candidate, int]]]] = defaultdict(dict)
    for c, part in mine:
        blocks[part].setdefault(c.stimulus or f"#{c.id}", []).append((c, part))
    found = []
    for part in sorted(blocks):
        together = list(blocks[part].values())
        rng.shuffle(together)
        found += [one for block in together for one in block]
    return found


def _another_draw(ctx: Context, actor: Actor, version_id: int, seed: int) -> int | None:
    """A new item of the same template, where this person may make one."""
    with ctx.store.read() as db:
        origin = db.get_one(ItemVersion, version_id).item.origin_version_id
        template = db.get_one(ItemVersion, origin).item_id
    if not actor.may(Action.BANK_WRITE):
        return None
    codes = make_items(ctx, actor, template, 1, 1000 + seed)
    with ctx.store.read() as db:
        return db.scalar(
            select(func.max(ItemVersion.id)).join(Item, Item.id == ItemVersion.item_id).where(Item.code == codes[0])
        )


def _option_shares(db: Session, versions: Sequence[int]) -> dict[int, dict[str, float]]:
    """Of the students that chose each option of each item, the last time it was sat."""
    last: dict[int, tuple[int, int]] = {}
    for version, form, window in db.execute(
        select(ItemFigure.item_version_id, ItemFigure.form_id, ItemFigure.window_id)
        .where(ItemFigure.item_version_id.in_(versions))
        .order_by(ItemFigure.at)
    ):
        last[version] = form, window
    found: dict[int, dict[str, float]] = {}
    for form, window in set(last.values()):
        sessions = list(
            db.scalars(
                select(PlannedSession.id).where(
                    PlannedSession.window_id == window,
                    PlannedSession.closed_at.is_not(None),
                    or_(PlannedSession.form_id == form, PlannedSession.sittings.any(Sitting.form_id == form)),
                )
            )
        )
        analysis, items = analyse_sessions(db, form, sessions, DEFAULTS)
        for item, judged in zip(items, analysis.items, strict=True):
            if item.version_id in last:
                found[item.version_id] = {
                    o.option: o.share or 0.0 for o in judged.options if o.kind == "answer" and o.option
                }
    return found


def _keep(
    ctx: Context, db: Session, actor: Actor, form_id: int, wish: Wish, placed: list[_Placed], pool: dict[int, Candidate]
) -> MadeCompanion:
    form = db.get_one(Form, form_id)
    family = form.family
    if wish.way != "mirror" and family is None:
        name = _free(db, Family.name, form.name)
        family = Family(name=name, title=form.title, owner_id=form.owner_id, created_at=ctx.clock())
        db.add(family)
        db.flush()
        form.family_id, form.role = family.id, form.role or "general"
        form.scale = form.scale or name
    kind = "mirror" if wish.way == "mirror" else form.kind
    own = settings(form) if kind == form.kind else settings_of(kind)
    if wish.way == "adapted":
        own = own.model_copy(update={"large_print": True, "tools": list(dict.fromkeys([*own.tools, "read_aloud"]))})
    word = {"parallel": "for retakes", "demanding": "more demanding", "mirror": "for practice"}.get(wish.way, wish.way)
    plan = form.plan if wish.way not in ("shortened",) else _plan_of_short(form)
    made = Form(
        name=_free(db, Form.name, f"{form.name}, {word}"),
        title=f"{form.title}, practice" if wish.way == "mirror" else form.title,
        subject=form.subject,
        grade=form.grade,
        created_at=ctx.clock(),
        owner_id=owner_of_new(actor),
        kind=kind,
        unit=form.unit,
        role="" if wish.way == "mirror" else wish.way,
        scale=_scale(form, wish),
        plan=plan,
        settings=own.model_dump(),
        blueprint_id=form.blueprint_id,
        family_id=None if wish.way == "mirror" or family is None else family.id,
        mirror_id=form.id if wish.way == "mirror" else None,
    )
    made.items = [
        FormItem(position=at, part=p.part, item_version_id=p.version, face=p.face) for at, p in enumerate(placed, 1)
    ]
    db.add(made)
    db.flush()
    audit.record(
        db, ctx.clock(), actor.person_id, "form.companion", f"form:{made.id}", None, {"of": form_id, "way": wish.way}
    )
    return MadeCompanion(made.id, made.family_id, _says(form, made, wish, placed, pool))


def _plan_of_short(form: Form) -> dict[str, object] | None:
    """The parts with their words; rows and totals of the long form do not hold for the short one."""
    return Plan(parts=read_plan(form.plan).parts).model_dump() if form.plan else None


def _scale(form: Form, wish: Wish) -> str:
    """Which forms share one score scale: those meant to be equally long and hard. The others have their own."""
    base = form.scale or form.name
    return base if wish.way in ("parallel", "alternate") else f"{base}, {wish.way}"


def _says(form: Form, made: Form, wish: Wish, placed: list[_Placed], pool: dict[int, Candidate]) -> str:
    mine = predict([pool[i.item_version_id] for i in form.items if i.item_version_id in pool])
    theirs = predict([pool[p.version] for p in placed if p.version in pool])
    shared = len({i.item_version_id for i in form.items} & {p.version for p in placed})
    text = f"{made.name}: {len(placed)} items, {shared} of them shared with {form.name}"
    faces = sum(p.face is not None for p in placed)
    if faces:
        text += f", {faces} shown {'with fewer options' if wish.way == 'adapted' else 'in another order'}"
    if not mine.unknown and not theirs.unknown and mine.share is not None and theirs.share is not None:
        text += f"; {100 * theirs.share:.0f}% expected, {100 * mine.share:.0f}% there"
    return text + "."


def _free(db: Session, column: object, name: str) -> str:
    """The name, or the first numbered one that is free."""
    taken = set(db.scalars(select(column).where(column.startswith(name, autoescape=True))))  # type: ignore[call-overload,attr-defined]
    if name not in taken:
        return name
    return next(f"{name} {n}" for n in range(2, 1000) if f"{name} {n}" not in taken)
