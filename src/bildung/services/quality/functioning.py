"""Whether items work alike for two groups of an attribute; and mean scores of groups. Guarded by role and by number."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from sqlalchemy import select

from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.comparison.differential import CLASSED, LEAST, DifferentialItem, Stretch, differential
from bildung.core.comparison.grouped import Grouped, group_scores
from bildung.core.comparison.matched import Matched
from bildung.core.errors import Refused
from bildung.core.items.shown import percent, points_apart
from bildung.services.items.texts import begins
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.wire import listed
from bildung.store.models import Attribute, AttributeValue

EXPLORATORY = 0.01


@dataclass(frozen=True)
class LevelCount:
    name: str
    n: int


@dataclass(frozen=True, kw_only=True)
class FunctioningItem:
    """One item. size: class A, B or C, None where it is not stated. says: in plain words, empty for nothing to say."""

    number: int
    item: str
    text: str
    standards: list[str]
    matched: Matched
    size: str | None
    picture: tuple[Stretch, ...]
    says: str


@dataclass(frozen=True, kw_only=True)
class FunctioningReport:
    """levels: of the attribute, with the students that have each. exploratory: under 200 in a group, so that no size is
    stated."""

    finding: str
    attribute: str
    levels: Annotated[list[tuple[str, int]], listed(LevelCount)]
    reference: str
    focal: str
    n_reference: int
    n_focal: int
    exploratory: bool
    items: list[FunctioningItem]


def comparable(ctx: Context, actor: Actor) -> list[str]:
    """Attributes by which this person may compare groups: a coordinator by all, others by what they may see."""
    scope(actor, Action.QUALITY_READ)
    wanted = select(Attribute.name).order_by(Attribute.name)
    if not any(grant.role == "coordinator" for grant in actor.grants):
        wanted = wanted.where(Attribute.seen_by == "teacher")
    with ctx.store.read() as db:
        return list(db.scalars(wanted))


def by_size(ctx: Context, actor: Actor, wanted: ScopeRequest) -> list[str]:
    """The same, those first whose second largest group is largest in this view: they have most to say."""
    names = comparable(ctx, actor)
    judged = judge(ctx, actor, wanted)
    with ctx.store.read() as db:
        values = db.execute(
            select(Attribute.name, AttributeValue.value, AttributeValue.person_id)
            .join(Attribute, Attribute.id == AttributeValue.attribute_id)
            .where(Attribute.name.in_(names))
        ).all()
    sat = {int(person) for person in judged.people[judged.analysis.scores.complete]}
    sizes = Counter((name, value) for name, value, person in values if person in sat)
    second = {name: sorted((n for (of, _), n in sizes.items() if of == name), reverse=True)[1:2] for name in names}
    return sorted(names, key=lambda name: (-sum(second[name]), name))


def _values(ctx: Context, actor: Actor, judged: Judged, attribute: str) -> list[str]:
    """(counted,) each student's value, empty where it is not known."""
    if attribute not in comparable(ctx, actor):
        raise NotFound(f"there is no attribute {attribute!r} to compare by, or it is not yours to see")
    with ctx.store.read() as db:
        values = dict(
            db.execute(
                select(AttributeValue.person_id, AttributeValue.value)
                .join(Attribute, Attribute.id == AttributeValue.attribute_id)
                .where(Attribute.name == attribute)
            ).all()
        )
    return [values.get(int(person), "") for person in judged.people]


def functioning(
    ctx: Context,
    actor: Actor,
    wanted: ScopeRequest,
    attribute: str,
    reference: str = "",
    focal: str = "",
    settings: Settings = DEFAULTS,
) -> FunctioningReport:
    """reference, focal: levels of the attribute; where none is named, the largest and the second largest."""
    judged = judge(ctx, actor, wanted, settings)
    values = _values(ctx, actor, judged, attribute)
    whole = judged.analysis.scores.complete
    counts: dict[str, int] = {}
    for value, counts_ in zip(values, whole, strict=True):
        if value and counts_:
            counts[value] = counts.get(value, 0) + 1
    large = sorted((name for name, n in counts.items() if n >= LEAST), key=lambda name: (-counts[name], name))
    for named in (reference, focal):
        if named and counts.get(named, 0) < LEAST:
            raise Conflict(f"{counts.get(named, 0)} students of “{named}” have a total; at least {LEAST} are needed")
    one = reference or next((name for name in large if name != focal), "")
    other = focal or next((name for name in large if name != one), "")
    if not one or not other or one == other:
        raise Conflict(
            f"By {attribute} no two groups have {LEAST} students with a total, so items are not held against each other; "
            "a wider view may have more"
        )
    chosen = one, other
    labels = [value if value in chosen else "" for value in values]
    try:
        found = differential(judged.analysis, labels, np.ones(len(labels), dtype=np.bool_), chosen[0])
    except Refused as error:
        raise Conflict(str(error)) from None
    exploratory = min(found.n_reference, found.n_focal) < CLASSED
    items = [
        FunctioningItem(
            number=row.number,
            item=d.item,
            text=begins(row.item),
            standards=row.item.standards,
            matched=d.matched,
            size=d.size,
            picture=d.picture,
            says=_says(d, found.focal, exploratory),
        )
        for row, d in zip(judged.rows, found.items, strict=True)
    ]
    order = {"C": 0, "B": 1}
    items.sort(key=lambda i: (order.get(i.size or "", 2), not i.says, -abs(i.matched.d_dif or 0.0), i.number))
    shown = [(name, counts[name]) for name in large]
    return FunctioningReport(
        finding=_finding(items, found.reference, found.focal, found.n_reference, found.n_focal, exploratory),
        attribute=attribute,
        levels=shown,
        reference=found.reference,
        focal=found.focal,
        n_reference=found.n_reference,
        n_focal=found.n_focal,
        exploratory=exploratory,
        items=items,
    )


def _says(d: DifferentialItem, focal: str, exploratory: bool) -> str:
    """By class; where none is stated, only what chance would bring once in a hundred items."""
    m = d.matched
    called = d.size in ("B", "C") or (d.size is None and m.p_value is not None and m.p_value < EXPLORATORY)
    difference = m.std_p_difference if m.std_p_difference is not None else m.smd
    if not called or difference is None:
        return ""
    side = "harder" if difference < 0 else "easier"
    text = f"{side} for {focal} than for others of the same score, by {points_apart(m.std_p_difference or 0.0)}"
    if exploratory:
        return f"{text}; the groups are small, so take it as a question"
    return text + ("; look at wording and setting before it is used again" if d.size == "C" else "; moderate")


def _finding(items: list[FunctioningItem], reference: str, focal: str, n: int, m: int, exploratory: bool) -> str:
    called = [i for i in items if i.says]
    text = f"{reference[:1].upper()}{reference[1:]} ({n}) against {focal} ({m}), students of equal score side by side. "
    if exploratory:
        text += f"Under {CLASSED} in a group: exploratory, no sizes are stated. "
    if not called:
        return text + "No item works differently for the two."
    first = called[0]
    text += f"Item {first.number} is {first.says}"
    return text + (
        f". {len(called) - 1} more {'differs' if len(called) == 2 else 'differ'}." if len(called) > 1 else "."
    )


def by_group(ctx: Context, actor: Actor, wanted: ScopeRequest, attribute: str) -> tuple[str, Grouped]:
    """Mean scores by an attribute of the students, small groups hidden; and the finding in one sentence."""
    judged = judge(ctx, actor, wanted)
    values = _values(ctx, actor, judged, attribute)
    scores = judged.analysis.scores
    share = np.divide(scores.earned, scores.possible, out=np.zeros_like(scores.earned), where=scores.possible > 0)
    kept = scores.complete & (scores.possible > 0)
    grouped = group_scores(share[kept], [value for value, keep in zip(values, kept, strict=True) if keep])
    return _group_finding(attribute, grouped), grouped


def _group_finding(attribute: str, grouped: Grouped) -> str:
    """What the comparison shows, and what it does not."""
    shown = [g for g in grouped.groups if not g.hidden and g.ci95 is not None and g.mean is not None]
    hidden = sum(g.hidden for g in grouped.groups)
    tail = (
        f" {hidden} {'group is' if hidden == 1 else 'groups are'} hidden: fewer than {grouped.least} students, or found by subtraction."
        if hidden
        else ""
    )
    if len(shown) < 2:
        return f"By {attribute} there are not two groups large enough to compare.{tail}"
    low, high = (pick(shown, key=lambda g: g.mean or 0.0) for pick in (min, max))
    assert low.ci95 is not None and high.ci95 is not None and low.mean is not None and high.mean is not None
    apart = low.ci95[1] < high.ci95[0]
    ends = f"{low.group} {percent(low.mean)}, {high.group} {percent(high.mean)}"
    what = "the intervals do not overlap" if apart else "the intervals overlap, so this may be chance"
    return f"By {attribute}: {ends}; {what}. That groups differ does not say that the test favors one.{tail}"
