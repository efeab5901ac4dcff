"""How the bank is: items with their history, and a page of what it lacks."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import Text, cast, func, select

from bildung.core.school.schooltime import school_day
from bildung.formats.content import Content, htmls
from bildung.services.answers.itemhistory import BriefUse, brief_uses
from bildung.services.calendar.years import current_year, local_today, zone_of
from bildung.services.items.bankitem import content_of, with_parts
from bildung.services.items.verdicts import standing_of
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.wire import Id
from bildung.store.models import Framework, Item, ItemStandard, ItemVersion, Standard

ENOUGH = 5  # items a standard wants, so that a test can choose
OFTEN = 3  # administrations a year, from which on an item is known to students
EASY, HARD = 0.85, 0.40
SHOWN = 200
_PICTURE = re.compile(r"<img\b[^>]*>", re.IGNORECASE)
_TOLD = re.compile(r"\balt=[\"'][^\"']+[\"']", re.IGNORECASE)


def untold_pictures(content: Content) -> int:
    """How many pictures of an item have no alternative text."""
    return sum(not _TOLD.search(tag) for html in htmls(content) for tag in _PICTURE.findall(html))


@dataclass(frozen=True, kw_only=True)
class Thin:
    """A standard with too few items. easy, middle, hard: by the last time each was sat; unknown: not used yet. depths:
    items at depth 1 to 4."""

    code: str
    text: str
    priority: bool
    items: int
    easy: int
    middle: int
    hard: int
    unknown: int
    depths: list[int]


@dataclass(frozen=True, slots=True)
class _Kept:
    """The newest version of an item, without its content. pictures: whether it may have any."""

    item_id: int
    version_id: int
    code: str
    depth: int | None
    standard: str
    pictures: bool


@dataclass(frozen=True)
class Worn:
    """An item to look at. what: why."""

    item_id: Id
    code: str
    standard: str
    what: str


@dataclass(frozen=True, kw_only=True)
class Health:
    """spread: items by standard grade and difficulty, as bars. Lists hold the first SHOWN; counts have all."""

    finding: str
    items: int
    enough: int
    standards: int
    thin: list[Thin]
    worn: list[Worn]
    flagged: list[Worn]
    unused: list[Worn]
    untold: list[Worn]
    waiting: list[Worn]
    counts: dict[str, int]


def health(ctx: Context, actor: Actor) -> Health:
    """What the bank lacks, worst first."""
    allowed = scope(actor, Action.BANK_READ)
    with ctx.store.read() as db:
        newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
        items = [
            _Kept(*row)
            for row in db.execute(
                select(
                    ItemVersion.item_id,
                    ItemVersion.id,
                    Item.code,
                    Item.depth,
                    func.coalesce(Standard.code, ""),
                    cast(ItemVersion.shown, Text).contains("<img") | cast(ItemVersion.behind, Text).contains("<img"),
                )
                .join(ItemVersion.item)
                .outerjoin(ItemStandard, (ItemStandard.item_version_id == ItemVersion.id) & (ItemStandard.rank == 0))
                .outerjoin(Standard, Standard.id == ItemStandard.standard_id)
                .where(ItemVersion.id.in_(newest), allowed)
                .order_by(Item.code)
            )
        ]
        history = brief_uses(db)
        drawn = [item.version_id for item in items if item.pictures]
        pictures = {
            version.id: untold_pictures(content_of(version))
            for version in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(drawn))))
        }
        standing = standing_of(db, {item.item_id for item in items})
        parents = select(Standard.parent_id).where(Standard.parent_id.is_not(None))
        standards = db.scalars(
            select(Standard)
            .outerjoin(Framework, Framework.id == Standard.framework_id)
            .where(Standard.framework_id.is_(None) | Framework.main.is_(True), Standard.id.not_in(parents))
            .order_by(Standard.position, Standard.code)
        ).all()
        main = {
            version: standard
            for version, standard in db.execute(
                select(ItemStandard.item_version_id, ItemStandard.standard_id).where(ItemStandard.rank == 0)
            )
        }
        year = current_year(db, local_today(ctx, db))
        begins = year.start if year else None
        zone = zone_of(db)
    thin = _thin_standards(standards, items, main, history)
    worn, flagged, unused, untold, waiting = [], [], [], [], []
    for item in items:
        found = history.get(item.item_id, [])
        this_year = sum(begins is not None and school_day(use.at, zone) >= begins for use in found)
        judged = standing.get(item.item_id)
        if judged is not None and not judged.done:
            waiting.append(_worn(item, f"{judged.latest.words}: {judged.latest.reason}"))
        if this_year >= OFTEN:
            worn.append(_worn(item, f"used {this_year} times this year"))
        if said := _flags_said(found):
            flagged.append(_worn(item, said))
        if not found:
            unused.append(_worn(item, "not used yet"))
        if untold_here := pictures.get(item.version_id):
            whom = "it" if untold_here == 1 else "them"
            untold.append(_worn(item, f"{untold_here} without alt text for who cannot see {whom}"))
    counts = {
        "thin": len(thin),
        "worn": len(worn),
        "flagged": len(flagged),
        "unused": len(unused),
        "untold": len(untold),
        "waiting": len(waiting),
    }
    return Health(
        finding=_finding(len(items), counts, sum(t.priority for t in thin)),
        items=len(items),
        enough=ENOUGH,
        standards=len(standards),
        thin=thin[:SHOWN],
        worn=worn[:SHOWN],
        flagged=flagged[:SHOWN],
        unused=unused[:SHOWN],
        untold=untold[:SHOWN],
        waiting=waiting[:SHOWN],
        counts=counts,
    )


def _thin_standards(
    standards: Sequence[Standard], items: list[_Kept], main: dict[int, int], history: dict[int, list[BriefUse]]
) -> list[Thin]:
    """Standards with too few items, priority standards and the emptiest first. main: the main standard by version."""
    of_standard: dict[int, list[_Kept]] = {}
    for item in items:
        if item.version_id in main:
            of_standard.setdefault(main[item.version_id], []).append(item)
    thin = [_thin(s, of_standard.get(s.id, []), history) for s in standards if len(of_standard.get(s.id, [])) < ENOUGH]
    return sorted(thin, key=lambda t: (not t.priority, t.items))


def _worn(item: _Kept, why: str) -> Worn:
    return Worn(item.item_id, item.code, item.standard, why)


def _flags_said(uses: list[BriefUse]) -> str:
    """What was wrong more than once, or badly once; empty where it was neither."""
    grave = [[f for f in use.flags if f["weight"] in ("problem", "look")] for use in uses]
    bad = sum(map(bool, grave))
    if bad < 2 and not any(f["weight"] == "problem" for flags in grave for f in flags):
        return ""
    names = Counter(f["flag"].replace("_", " ") for flags in grave for f in flags)
    return ", ".join(names) + (f", {bad} times" if bad > 1 else "")


def _thin(standard: Standard, items: list[_Kept], history: dict[int, list[BriefUse]]) -> Thin:
    latest = [history.get(item.item_id, [None])[0] for item in items]
    known = [use.p for use in latest if use is not None and use.p is not None]
    easy, hard = sum(p > EASY for p in known), sum(p < HARD for p in known)
    return Thin(
        code=standard.code,
        text=standard.text,
        priority=standard.priority,
        items=len(items),
        easy=easy,
        middle=len(known) - easy - hard,
        hard=hard,
        unknown=len(items) - len(known),
        depths=[sum(item.depth == depth for item in items) for depth in (1, 2, 3, 4)],
    )


def _finding(items: int, counts: dict[str, int], urgent: int) -> str:
    if not items:
        return "The bank is empty."
    parts = []
    if counts["thin"]:
        n = counts["thin"]
        parts.append(
            f"{n} {'standard has' if n == 1 else 'standards have'} fewer than {ENOUGH} items"
            + (f", {urgent} of them a priority" if urgent else "")
        )
    words = {
        "waiting": "awaiting action after a decision",
        "flagged": "flagged repeatedly",
        "worn": f"used {OFTEN} times or more this year",
        "unused": "not used yet",
        "untold": "with a picture that has no alt text",
    }
    parts += [
        f"{counts[name]} {'item' if counts[name] == 1 else 'items'} {word}"
        for name, word in words.items()
        if counts[name]
    ]
    return f"{items} items. " + (("; ".join(parts)[0].upper() + "; ".join(parts)[1:] + ".") if parts else "No gaps.")
