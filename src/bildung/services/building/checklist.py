"""What is looked through before a form is published: what stops it, and what somebody should have looked at."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.assembly.blueprint import Candidate, held
from bildung.core.assembly.draw import outlook
from bildung.core.errors import Refused
from bildung.formats.blueprint import read_plan, settings_of
from bildung.formats.faults import faults
from bildung.services.bank.candidates import candidates
from bildung.services.bank.health import untold_pictures
from bildung.services.building.formfamily import unsettled_of
from bildung.services.forms.settings import heaps_of, lead_of, settings
from bildung.services.items.bankitem import content_of, with_parts
from bildung.services.items.verdicts import VerdictStanding, decided
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.store.models import Form, ItemVersion

MOST_NAMED = 4


@dataclass(frozen=True)
class Check:
    """weight: stop keeps the form from being published, look is for somebody to decide, fine is fine."""

    name: str
    weight: Literal["stop", "look", "fine"]
    says: str


def checklist(ctx: Context, actor: Actor, form_id: int) -> list[Check]:
    """What stops it first, then what wants a look."""
    allowed = scope(actor, Action.TESTS_READ)
    with ctx.store.read() as db:
        form = db.scalar(select(Form).where(Form.id == form_id, allowed))
        if form is None:
            raise NotFound("there is no such form")
        return checks(ctx, db, actor, form)


def checks(ctx: Context, db: Session, actor: Actor, form: Form) -> list[Check]:
    """What a form is looked through for before it is published, the gravest first."""
    ids = [item.item_version_id for item in form.items]
    versions = {v.id: v for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(ids))))}
    ordered = [versions[id] for id in ids]
    by_id = {c.id: c for c in candidates(ctx, db, actor, None, always=ids)}
    placed = [(by_id[item.item_version_id], item.part) for item in form.items if item.item_version_id in by_id]
    found = [
        Check(
            "items",
            "fine" if ids else "stop",
            f"{len(ids)} items" if ids else "a form without items cannot be published; add items first",
        ),
        _whole(ordered),
        _retired(db, ordered),
        _pictures(ordered),
        _flagged([c for c, _ in placed], {s.item: s for s in decided(db)[0].values()}),
        _enemies([c for c, _ in placed]),
        _coverage(form, placed),
        _time(form, [c for c, _ in placed]),
        _read_through(form),
        *_companions(db, form),
        *_draws(db, form),
    ]
    order = {"stop": 0, "look": 1, "fine": 2}
    return sorted(found, key=lambda check: order[check.weight])


def _whole(versions: list[ItemVersion]) -> Check:
    """Keys are there, options differ, points are above 0."""
    broken = [(v.item.code, wrong) for v in versions for wrong in faults(content_of(v))[:1]]
    if not broken:
        return Check("keys and options", "fine", "every item has its key, its points and options that differ")
    code, (place, says) = broken[0]
    more = f", and {len(broken) - 1} more items are not complete" if len(broken) > 1 else ""
    return Check("keys and options", "stop", f"{code}: {place}: {says}{more}")


def _retired(db: Session, versions: list[ItemVersion]) -> Check:
    gone = [v.item.code for v in versions if v.item.state == "retired"]
    if gone:
        return Check(
            "retired items", "stop", f"{_named(gone)} {'was' if len(gone) == 1 else 'were'} retired; swap or take out"
        )
    newest = dict(
        db.execute(
            select(ItemVersion.item_id, func.max(ItemVersion.number))
            .where(ItemVersion.item_id.in_([v.item_id for v in versions]))
            .group_by(ItemVersion.item_id)
        ).all()
    )
    newer = [v.item.code for v in versions if newest[v.item_id] != v.number]
    if newer:
        return Check("newer versions", "look", f"{_named(newer)}: a newer version is in the bank")
    return Check("retired items", "fine", "no item was retired, and all are in their newest version")


def _pictures(versions: list[ItemVersion]) -> Check:
    untold = [v.item.code for v in versions if untold_pictures(content_of(v))]
    if untold:
        return Check("pictures", "look", f"{_named(untold)}: a picture without alternative text")
    return Check("pictures", "fine", "every picture has its alternative text")


def _flagged(items: list[Candidate], waiting: dict[str, VerdictStanding]) -> Check:
    """What was found wrong with an item the last time, or what somebody decided about it since."""
    said = [f"{code} {_waits(waiting[code])}" for code in (item.code for item in items) if code in waiting]
    flagged = [item.code for item in items if item.problem and item.code not in waiting]
    if flagged:
        said.append(f"{_named(flagged)}: flagged as a problem the last time")
    if said:
        return Check("flagged items", "look", "; ".join(said[:MOST_NAMED]))
    return Check("flagged items", "fine", "no item was flagged as a problem the last time")


def _waits(s: VerdictStanding) -> str:
    what = {"rework": "is to be reworked", "drop": "is to be dropped"}[s.latest.verdict]
    return f"{what}, says {s.latest.by} ({s.latest.reason})"


def _enemies(items: list[Candidate]) -> Check:
    by_id = {item.id: item for item in items}
    pairs = [f"{i.code} and {by_id[e].code}" for i in items for e in i.enemies if e in by_id and i.id < e]
    if pairs:
        return Check("enemy items", "look", f"{_named(pairs)} should not stand on one form")
    return Check("enemy items", "fine", "no enemy items together")


def _coverage(form: Form, placed: list[tuple[Candidate, int]]) -> Check:
    if not form.plan:
        return Check("coverage", "look", "no blueprint says what it should contain")
    lacking = [h.says for h in held(read_plan(form.plan).core(), placed) if h.says]
    if lacking:
        return Check("coverage", "look", "; ".join(lacking[:MOST_NAMED]))
    return Check("coverage", "fine", "all of the blueprint is met")


def _time(form: Form, items: list[Candidate]) -> Check:
    limit = settings_of(form.kind, form.settings).minutes
    minutes = sum(item.seconds or 0 for item in items) / 60
    untimed = sum(item.seconds is None for item in items)
    said = f"{minutes:.0f} min by the items' own times" + (f", {untimed} of them without one" if untimed else "")
    if limit is not None and minutes > limit:
        return Check("time", "look", f"{said}; the limit is {limit} min")
    return Check("time", "fine", said + (f", within {limit} min" if limit is not None else ""))


def _read_through(form: Form) -> Check:
    if form.read_revision == form.revision:
        return Check("previewed", "fine", "previewed as a student")
    since = "no one has previewed it as a student" if not form.read_revision else "it changed since it was previewed"
    return Check("previewed", "look", since)


def _companions(db: Session, form: Form) -> list[Check]:
    """Students who would receive two forms are settled before anybody can be given either."""
    if form.family is None:
        return []
    found = unsettled_of(db, form.family)
    if found:
        n = len(found)
        return [
            Check(
                "companions",
                "stop",
                f"{n} {'student' if n == 1 else 'students'} would receive two forms of {form.family.name}; settle it at the family",
            )
        ]
    lead = lead_of(form.family)
    here, there = ({i.version.item_id for i in f.items} for f in (form, lead))
    if form.id != lead.id and not here & there:
        return [
            Check(
                "companions", "look", f"no item is shared with {lead.name}: results compare by share and standard only"
            )
        ]
    return [Check("companions", "fine", "no student would receive two forms")]


def _draws(db: Session, form: Form) -> list[Check]:
    heaps = heaps_of(db, form)
    if not heaps:
        return []
    try:
        found = outlook(heaps, settings(form).draw.limit if settings(form).draw else None)  # type: ignore[union-attr]
    except Refused as error:
        return [Check("draws", "stop", str(error))]
    if found.target is None:
        return [
            Check(
                "draws", "look", f"{found.unknown} items of the pool were not used yet, so draws cannot be held alike"
            )
        ]
    low, high = found.shares[0], found.shares[-1]
    return [
        Check(
            "draws",
            "fine",
            f"{found.count} items each; {100 * low:.0f} to {100 * high:.0f}% expected over {len(found.shares)} draws",
        )
    ]


def _named(codes: list[str]) -> str:
    return ", ".join(codes[:MOST_NAMED]) + (f" and {len(codes) - MOST_NAMED} more" if len(codes) > MOST_NAMED else "")
