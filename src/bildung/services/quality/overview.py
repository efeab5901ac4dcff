"""The overview of one test: its sub-scores, the workings of its figures, what pages need of its forms."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.errors import Refused
from bildung.core.explain.workings import Workings, explain
from bildung.core.items.shown import percent
from bildung.core.precision.subscores import SubScore, sub_scores
from bildung.formats.blueprint import read_plan
from bildung.services.items.verdicts import standing_of
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.wire import Id

By = Literal["standard", "depth", "kind", "part"]
UNKNOWN = "not said"


def workings(
    ctx: Context,
    actor: Actor,
    wanted: ScopeRequest,
    figure: str,
    item: str | None = None,
    settings: Settings = DEFAULTS,
) -> Workings:
    """How one figure of a test, or of one of its items, was calculated."""
    judged = judge(ctx, actor, wanted, settings)
    try:
        return explain(judged.analysis, figure, item)
    except Refused as error:
        raise Invalid(str(error), "figure") from None


def groups_of(judged: Judged, by: str) -> dict[str, list[int]]:
    """Places of items by what they are grouped by, in a steady order; an item without it is under "not said"."""
    if by not in get_args(By):
        raise Invalid(f"items are grouped by {', '.join(get_args(By))}", "by")
    form = judged.scoped.forms[0]
    parts = read_plan(form.plan).parts if form.plan else []
    found: dict[str, list[int]] = {}
    for at, row in enumerate(judged.rows):
        if by == "standard":
            name = row.item.standards[0] if row.item.standards else UNKNOWN
        elif by == "depth":
            name = UNKNOWN if row.item.tags.depth is None else f"depth {row.item.tags.depth}"
        elif by == "kind":
            name = row.item.kind
        else:
            said = parts[row.part].name if row.part < len(parts) else ""
            name = said or f"part {row.part + 1}"
        found.setdefault(name, []).append(at)
    if by != "part":
        found = {name: found[name] for name in sorted(found, key=lambda name: (name == UNKNOWN, name))}
    return found


def by_groups(
    ctx: Context, actor: Actor, wanted: ScopeRequest, settings: Settings, by: str
) -> tuple[str, tuple[SubScore, ...]]:
    """Sub-scores, and whether they are worth looking at apart from the total."""
    judged = judge(ctx, actor, wanted, settings)
    found = sub_scores(judged.analysis, groups_of(judged, by))
    return _finding(found, settings.watch_line), found


def _finding(found: tuple[SubScore, ...], line: float) -> str:
    known = [s for s in found if s.mean is not None]
    if not known:
        return "No one has a total yet."
    low = [s for s in known if s.ci95 is not None and s.ci95[1] < line]
    text = f"{len(found)} {'group' if len(found) == 1 else 'groups'} of items; "
    lowest = min(known, key=lambda s: s.mean or 0.0)
    text += f"lowest is {lowest.name} with {percent(lowest.mean)}"
    if low:
        text += f"; {len(low)} clearly under the watch line"
    more = [s for s in found if s.says_more]
    judged = [s for s in found if s.says_more is not None]
    if judged:
        text += ". " + (
            f"{', '.join(s.name for s in more[:3])} {'says' if len(more) == 1 else 'say'} more than the total does; read the others by the total"
            if more
            else "None says more about a student than the total does: read them for the class, not for single students"
        )
    return text + "."


@dataclass(frozen=True, kw_only=True)
class FormHere:
    """What pages need of a form that is judged."""

    id: Id
    name: str
    title: str
    subject: str
    grade: str


def forms_here(judged: Judged) -> list[FormHere]:
    """The forms that are judged together."""
    return [
        FormHere(id=f.id, name=f.name, title=f.title, subject=f.subject, grade=f.grade) for f in judged.scoped.forms
    ]


def verdict_words(ctx: Context, judged: Judged) -> dict[int, str]:
    """By item the verdict that holds, in words."""
    with ctx.store.read() as db:
        found = standing_of(db, {row.item.item_id for row in judged.rows})
    return {id: s.latest.words for id, s in found.items()}
