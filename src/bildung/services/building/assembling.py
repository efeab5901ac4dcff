"""Building forms: what a form holds and will do, nearest items to swap, and forms assembled from a blueprint."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.assembly.apart import assemble_apart
from bildung.core.assembly.assemble import Assembly
from bildung.core.assembly.blueprint import Candidate, Held, held
from bildung.core.assembly.draw import Heap
from bildung.core.assembly.draw import outlook as draws
from bildung.core.assembly.predict import Predicted, nearest, predict
from bildung.core.assembly.program import Demands
from bildung.core.errors import Refused
from bildung.formats.blueprint import Plan, read_plan, settings_of
from bildung.services.bank.candidates import candidates
from bildung.services.building.blueprints import find
from bildung.services.building.forms import check_items
from bildung.services.forms.settings import heaps_of, settings
from bildung.services.items.bankitem import BankItem, bank_item, with_parts
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, owner_of_new, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.store.models import Family, Form, FormItem, ItemVersion

MOST_SECONDS = 120


@dataclass(frozen=True)
class Outlook:
    """What a form will do and still lacks. held: empty without a blueprint. finding: in one sentence. retired: codes of
    items on it that may not be used any more."""

    predicted: Predicted
    held: list[Held]
    retired: list[str]
    finding: str


@dataclass(frozen=True, kw_only=True)
class Equal:
    item: BankItem
    differs: str
    p: float | None
    n: int
    used: int


@dataclass(frozen=True, kw_only=True)
class PlacedItem:
    """One item of a form that was assembled. p: the last time, with n behind it."""

    version_id: Id
    code: str
    standard: str
    kind: str
    depth: int | None
    points: float
    stimulus: str
    part: int
    p: float | None
    n: int
    common: bool


@dataclass(frozen=True)
class Offered:
    items: list[PlacedItem]
    predicted: Predicted
    held: list[Held]


@dataclass(frozen=True)
class Nearby:
    """A blueprint that can be met: what it gives up."""

    content: Plan
    gives_up: list[str]


@dataclass(frozen=True)
class Clash:
    says: str
    needed: float | None
    available: float | None


@dataclass(frozen=True, kw_only=True)
class AssemblyView:
    """forms: none where demands collide. deviation, bound: in points."""

    finding: str
    forms: list[Offered]
    deviation: float | None
    bound: float | None
    candidates: int
    clashes: list[Clash]
    irreducible: bool
    nearest: Nearby | None


def outlook(ctx: Context, actor: Actor, form_id: int) -> Outlook:
    """What a form holds and is likely to do, by what its items did."""
    allowed = scope(actor, Action.TESTS_READ)
    with ctx.store.read() as db:
        form = db.scalar(select(Form).where(Form.id == form_id, allowed))
        if form is None:
            raise NotFound("there is no such form")
        ids = [item.item_version_id for item in form.items]
        by_id = {c.id: c for c in candidates(ctx, db, actor, None, always=ids)}
        placed = [(by_id[item.item_version_id], item.part) for item in form.items if item.item_version_id in by_id]
        states = {
            v.id: (v.item.code, v.item.state)
            for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(ids))))
        }
        plan = read_plan(form.plan).core() if form.plan else None
        heaps = heaps_of(db, form)
        limit = settings(form).draw.limit if settings(form).draw else None  # type: ignore[union-attr]
    predicted = predict([item for item, _ in placed])
    wants = list(held(plan, placed)) if plan else []
    retired = sorted(code for code, state in states.values() if state == "retired")
    says = _says(predicted, wants, retired)
    if heaps:
        says = _drawn(heaps, limit)
    return Outlook(predicted, wants, retired, says)


def _drawn(heaps: list[Heap], limit: float | None) -> str:
    """Of a drawn test: what each student gets of the pool, not what the pool would do as a test."""
    try:
        found = draws(heaps, limit, 60)
    except Refused as error:
        return f"Nothing can be drawn: {error}."
    pool = sum(len(h.items) for h in heaps)
    text = f"A pool of {pool}; each student has {found.count} of it"
    if found.target is None:
        return f"{text}. {found.unknown} were not used yet, so draws cannot be held equally hard."
    return f"{text}, {100 * found.shares[0]:.0f} to {100 * found.shares[-1]:.0f}% expected."


def _says(predicted: Predicted, wants: list[Held], retired: list[str]) -> str:
    if not predicted.items:
        return "This form is empty."
    lacking = [h.says for h in wants if h.says]
    said = []
    if retired:
        said.append(f"{', '.join(retired)} {'was' if len(retired) == 1 else 'were'} retired meanwhile")
    if lacking:
        said.append("; ".join(lacking[:3]) + (f"; and {len(lacking) - 3} more" if len(lacking) > 3 else ""))
    elif wants:
        said.append("all of the blueprint is met")
    if predicted.mean is not None:
        of = f" on {predicted.known} of {predicted.items} items" if predicted.unknown else ""
        said.append(
            f"{100 * (predicted.share or 0):.0f}% expected{of}"
            + (f", alpha {predicted.alpha:.2f}" if predicted.alpha is not None else "")
        )
    else:
        said.append("none of its items has been used before, so nothing can be predicted")
    text = "; ".join(said)
    return text[0].upper() + text[1:] + "."


def equals(ctx: Context, actor: Actor, form_id: int, version_id: int) -> list[Equal]:
    """The bank's nearest to an item that are not on the form."""
    allowed = scope(actor, Action.TESTS_READ)
    with ctx.store.read() as db:
        form = db.scalar(select(Form).where(Form.id == form_id, allowed))
        if form is None:
            raise NotFound("there is no such form")
        on_it = {item.item_version_id for item in form.items}
        pool = candidates(ctx, db, actor, "", "", None, [version_id])
        me = next((c for c in pool if c.id == version_id), None)
        if me is None:
            raise NotFound("there is no such item")
        found = nearest(me, [c for c in pool if c.id not in on_it and not c.enemies & (on_it - {version_id})])
        rows = {
            v.id: v
            for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_([c.id for c, _ in found]))))
        }
        return [Equal(item=bank_item(rows[c.id]), differs=differs, p=c.p, n=c.n, used=c.used) for c, differs in found]


def propose(
    ctx: Context, actor: Actor, blueprint_id: int, demands: Demands, window_id: int | None, seconds: float, job: Job
) -> AssemblyView:
    """Forms by a blueprint, to be looked at: nothing is kept yet."""
    scope(actor, Action.TESTS_WRITE)
    if not 1 <= seconds <= MOST_SECONDS:
        raise Invalid(f"1 to {MOST_SECONDS} seconds", "seconds")
    with ctx.store.read() as db:
        blueprint = find(db, actor, blueprint_id)
        plan = read_plan(blueprint.content)
        fixed = [id for form in demands.fixed for id in form]
        pool = candidates(ctx, db, actor, blueprint.subject, blueprint.grade, window_id, fixed)

    def tell(what: str, best: float, bound: float) -> None:
        near = f", largest deviation so far {best:.2f} points" if best < 1e6 else ""
        job.tell(what + near, 0, 0)

    try:
        found = assemble_apart(plan.core(), pool, demands, seconds, tell)
    except Refused as error:
        raise Invalid(str(error), "blueprint") from None
    return _view(found, {c.id: c for c in pool}, demands)


def _view(found: Assembly, by_id: dict[int, Candidate], demands: Demands) -> AssemblyView:
    common = set(found.common)
    forms = [
        Offered(
            [
                PlacedItem(
                    version_id=id,
                    code=by_id[id].code,
                    standard=by_id[id].standard,
                    kind=by_id[id].kind,
                    depth=by_id[id].depth,
                    points=by_id[id].points,
                    stimulus=by_id[id].stimulus,
                    part=part,
                    p=by_id[id].p,
                    n=by_id[id].n,
                    common=id in common,
                )
                for id, part in form.placed
            ],
            form.predicted,
            list(form.held),
        )
        for form in found.forms
    ]
    if found.collision is not None:
        c = found.collision
        clashes = [Clash(d.says, d.needed, d.available) for d in c.demands]
        near = Nearby(Plan.of(c.nearest), list(c.gives_up)) if c.nearest is not None and c.gives_up else None
        finding = "These demands cannot be met together: " + "; ".join(d.says for d in clashes) + "."
        return AssemblyView(
            finding=finding,
            forms=[],
            deviation=None,
            bound=None,
            candidates=found.candidates,
            clashes=clashes,
            irreducible=c.irreducible,
            nearest=near,
        )
    parts = [f"{len(forms)} {'form' if len(forms) == 1 else 'forms'} of {found.candidates} candidates"]
    if len(forms) > 1:
        if found.spread_of_means is not None:
            parts.append(f"predicted means differ by at most {found.spread_of_means:.2f} points")
        parts.append(f"{len(common)} items shared by all" if common else "no item shared")
    elif forms and forms[0].predicted.mean is not None:
        parts.append(f"{100 * (forms[0].predicted.share or 0):.0f}% expected")
    unknown = sum(len(f.predicted.unknown) for f in forms)
    if unknown:
        parts.append(f"{unknown} items without history are not in the prediction")
    return AssemblyView(
        finding="; ".join(parts) + ".",
        forms=forms,
        deviation=found.deviation,
        bound=found.bound,
        candidates=found.candidates,
        clashes=[],
        irreducible=True,
        nearest=None,
    )


def keep(
    ctx: Context,
    actor: Actor,
    blueprint_id: int,
    name: str,
    title: str,
    forms: list[list[tuple[int, int]]],
    roles: list[str] | None = None,
) -> tuple[int | None, list[int]]:
    """Draft forms of what was proposed, companions of one family where there are several. The family's id and theirs."""
    scope(actor, Action.TESTS_WRITE)
    name = need_text(name, "name")
    if not forms or not all(forms):
        raise Invalid("a form needs at least one item", "forms")

    def work(db: Session) -> tuple[int | None, list[int]]:
        blueprint = find(db, actor, blueprint_id)
        names = [name] if len(forms) == 1 else [f"{name} {letter}" for letter in "ABCDEFGH"[: len(forms)]]
        taken = db.scalars(select(Form.name).where(Form.name.in_(names))).all()
        if taken:
            raise Conflict(f"there is a form named {taken[0]} already; choose another name", "name")
        family = _new_family(ctx, db, actor, name, title) if len(forms) > 1 else None
        _all_usable(db, actor, {id for placed in forms for id, _ in placed})
        parts = len(read_plan(blueprint.content).parts)
        for placed in forms:
            check_items(db, [id for id, _ in placed])
            if any(not 0 <= part < parts for _, part in placed):
                raise Invalid(f"the blueprint has {parts} {'part' if parts == 1 else 'parts'}", "forms")
        made = []
        for at, placed in enumerate(forms):
            form = Form(
                name=names[at],
                title=title.strip() or name,
                subject=blueprint.subject,
                grade=blueprint.grade,
                created_at=ctx.clock(),
                owner_id=owner_of_new(actor),
                kind=blueprint.kind,
                plan=blueprint.content,
                blueprint_id=blueprint.id,
                family_id=family.id if family else None,
                role=("general" if at == 0 else "parallel") if family else "",
                scale=name,
                settings=_settings(blueprint.kind),
            )
            db.add(form)
            form.items = [FormItem(position=n, part=part, item_version_id=id) for n, (id, part) in enumerate(placed, 1)]
            made.append(form)
        db.flush()
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "form.assemble",
            f"blueprint:{blueprint_id}",
            None,
            {"forms": [f.id for f in made]},
        )
        return (family.id if family else None), [form.id for form in made]

    return ctx.store.write(work)


def _new_family(ctx: Context, db: Session, actor: Actor, name: str, title: str) -> Family:
    if db.scalar(select(Family.id).where(Family.name == name)) is not None:
        raise Conflict(f"there is a family named {name} already; choose another name", "name")
    family = Family(name=name, title=title.strip() or name, owner_id=owner_of_new(actor), created_at=ctx.clock())
    db.add(family)
    db.flush()
    return family


def _all_usable(db: Session, actor: Actor, versions: set[int]) -> None:
    """Conflict where an item was retired, or taken from the asker's sight, since the forms were proposed."""
    wanted = (
        select(ItemVersion).join(ItemVersion.item).where(ItemVersion.id.in_(versions), scope(actor, Action.BANK_READ))
    )
    known = {v.id: v.item for v in db.scalars(with_parts(wanted))}
    lost = next((id for id in versions if id not in known or known[id].state == "retired"), None)
    if lost is not None:
        code = known[lost].code if lost in known else str(lost)
        raise Conflict(f"item {code} can no longer be used; assemble again", "forms")


def _settings(kind: str) -> dict[str, Any]:
    return settings_of(kind).model_dump()
