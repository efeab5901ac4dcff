"""The overview: every test that was sat, sub-scores of one, workings of its figures."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal, get_args

from bildung.core.classical.finding import Piece
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.classical.subscores import SubScore, sub_scores
from bildung.core.errors import Refused
from bildung.core.shown import percent
from bildung.core.workings import Workings, explain
from bildung.formats.blueprint import read_plan
from bildung.services.access import Action, Actor, scope
from bildung.services.context import Context
from bildung.services.errors import Invalid
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.scope import Wanted, administrations
from bildung.services.quality.verdicts import standing_of

By = Literal["standard", "depth", "kind", "part"]
UNKNOWN = "not said"


@dataclass(frozen=True)
class Sat:
    """A form in a window, judged in brief. profile: p of its items, hardest first."""

    form_id: int
    form: str
    subject: str
    grade: str
    window_id: int
    window: str
    latest: datetime
    sat: int
    absent: int
    alpha: float | None
    sound: int
    look: int
    items: int
    profile: list[float]
    first: tuple[Piece, ...]


def sat_finding(found: list[Sat]) -> str:
    """What the page of item quality opens with."""
    if not found:
        return "Nothing has been handed in in this window."
    urgent = sum(any(piece.urgent for piece in sat.first) for sat in found)
    look = sum(sat.look for sat in found)
    finding = f"{len(found)} {'test was' if len(found) == 1 else 'tests were'} sat. "
    if urgent:
        finding += f"{urgent} {'has' if urgent == 1 else 'have'} an item that may be wrong; "
    total = sum(sat.items for sat in found)
    return finding + f"{look} of {total} items {'wants' if look == 1 else 'want'} a look."


def list_sat(ctx: Context, actor: Actor, window_id: int | None = None) -> list[Sat]:
    """Every form that somebody has handed in, what wants a look first."""
    allowed = scope(actor, Action.QUALITY_READ)
    with ctx.store.read() as db:
        latest = administrations(db, allowed, window_id)
    found = []
    for (form_id, window), start in latest.items():
        judged = judge(ctx, actor, Wanted((form_id,), (window,)))
        analysis, form = judged.analysis, judged.scoped.forms[0]
        verdicts = [item.sound for item in analysis.items]
        found.append(
            Sat(
                form_id, form.name, form.subject, form.grade, window, judged.scoped.chosen[0].window, start,
                analysis.counts["sat"] + analysis.counts["waiting"], analysis.counts["absent"],
                analysis.reliability.alpha, verdicts.count(True), verdicts.count(False), len(verdicts),
                sorted(item.figures.p for item in analysis.items if item.figures.p is not None), judged.finding[:2],
            )
        )  # fmt: skip
    found.sort(key=lambda s: (not any(piece.urgent for piece in s.first), -s.look, s.form))
    return found


def workings(
    ctx: Context, actor: Actor, wanted: Wanted, figure: str, item: str | None = None, settings: Settings = DEFAULTS
) -> Workings:
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
    ctx: Context, actor: Actor, wanted: Wanted, settings: Settings, by: str
) -> tuple[str, tuple[SubScore, ...]]:
    """Sub-scores, and whether they are worth looking at apart from the total."""
    judged = judge(ctx, actor, wanted, settings)
    found = sub_scores(judged.analysis, groups_of(judged, by))
    return _finding(found, settings.watch_line), found


def _finding(found: tuple[SubScore, ...], line: float) -> str:
    known = [s for s in found if s.mean is not None]
    if not known:
        return "Nobody has a total yet."
    low = [s for s in known if s.ci95 is not None and s.ci95[1] < line]
    text = f"{len(found)} {'group' if len(found) == 1 else 'groups'} of items; "
    lowest = min(known, key=lambda s: s.mean or 0.0)
    text += f"lowest is {lowest.name} with {percent(lowest.mean)}"
    if low:
        text += f"; {len(low)} surely under the watch line"
    more = [s for s in found if s.says_more]
    judged = [s for s in found if s.says_more is not None]
    if judged:
        text += ". " + (
            f"{', '.join(s.name for s in more[:3])} {'says' if len(more) == 1 else 'say'} more than the total does; read the others by the total"
            if more
            else "None says more about a student than the total does: read them for the class, not for single students"
        )
    return text + "."


@dataclass(frozen=True)
class FormHere:
    """What pages need of a form that is judged."""

    id: int
    name: str
    title: str
    subject: str
    grade: str


def forms_here(judged: Judged) -> list[FormHere]:
    return [FormHere(f.id, f.name, f.title, f.subject, f.grade) for f in judged.scoped.forms]


def verdict_words(ctx: Context, judged: Judged) -> dict[int, str]:
    """By item the verdict that holds, in words."""
    with ctx.store.read() as db:
        found = standing_of(db, {row.item.item_id for row in judged.rows})
    return {id: s.latest.words for id, s in found.items()}
