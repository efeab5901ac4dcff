"""What items are evidence of: their standards as they were when answered, and what replaced those since; how hard they usually are."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import zone_of
from bildung.services.shared.context import Context
from bildung.services.shared.results import KeptResults
from bildung.store.models import ItemFigure, ItemStandard, Standard, StandardChange, StandardLink

LEAST_N, LEAST_ITEMS = 50, 3  # of a usual p, and of a standard's
EVER = 10**7
REPLACED = "replacedBy"


@dataclass(frozen=True)
class Tagged:
    """A standard of an item version; main: 1, or 0.5 where the item only touches it. by: the standard it replaces that the item was tagged
    with, 0 where it is the same."""

    standard: int
    main: float
    by: int = 0


@dataclass(frozen=True)
class TagSpan:
    """Answers up to this day (an ordinal) are evidence of these standards, the main one first."""

    last: int
    tags: tuple[Tagged, ...]


Tags = Mapping[int, Sequence[TagSpan]]


@dataclass
class TagsAtHand:
    """By what they rest on."""

    tags: KeptResults[Tags] = field(default_factory=lambda: KeptResults(2))
    usual: KeptResults[dict[int, float]] = field(default_factory=lambda: KeptResults(2))


def tags_key(db: Session) -> tuple[object, ...]:
    """Moves with every change of an item's standards or of links between standards."""
    C = StandardChange
    return (
        *db.execute(select(func.count(), func.max(ItemStandard.item_version_id))).one(),
        db.scalar(select(func.max(C.id))),
        tuple(db.scalars(select(C.id).where(C.moved_at.is_not(None)).order_by(C.id))),
        *db.execute(
            select(func.count(), func.sum(StandardLink.origin_id * 31 + StandardLink.destination_id)).where(
                StandardLink.relation == REPLACED
            )
        ).one(),
        db.scalar(select(func.max(Standard.id))),
    )


def all_tags(ctx: Context, db: Session) -> Tags:
    """By item version, in time; a score entered by hand has its standard, with a minus, for a version."""
    return ctx.own(TagsAtHand).tags.get(tags_key(db), lambda: _tags(db))


def _tags(db: Session) -> Tags:
    after = successors(db)
    zone = zone_of(db)
    now: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for version, standard, rank in db.execute(
        select(ItemStandard.item_version_id, ItemStandard.standard_id, ItemStandard.rank).order_by(ItemStandard.rank)
    ):
        now[version].append((standard, rank))
    found = {version: [TagSpan(EVER, _followed(some, after))] for version, some in now.items()}
    # the earliest change after an answer that nobody moved says what the answer was of
    unmoved = db.scalars(
        select(StandardChange)
        .where(StandardChange.moved_at.is_(None))
        .order_by(StandardChange.at.desc(), StandardChange.id.desc())
    )
    for change in unmoved:
        spans = found.setdefault(change.item_version_id, [TagSpan(EVER, ())])
        last = school_day(change.at, zone).toordinal()
        before = sorted(((s, r) for s, r in change.before), key=lambda pair: pair[1])
        if spans[0].last == last:
            spans[0] = TagSpan(last, _followed(before, after))
        else:
            spans.insert(0, TagSpan(last, _followed(before, after)))
    for standard in db.scalars(select(Standard.id)):
        found[-standard] = [TagSpan(EVER, _followed([(standard, 0)], after))]
    return found


def _followed(some: Sequence[tuple[int, int]], after: Mapping[int, int]) -> tuple[Tagged, ...]:
    """The main standard first; of two that one standard replaced, the first."""
    found: dict[int, Tagged] = {}
    for standard, rank in some:
        to = after.get(standard, standard)
        found.setdefault(to, Tagged(to, 1.0 if rank == 0 else 0.5, 0 if to == standard else standard))
    return tuple(found.values())


def successors(db: Session) -> dict[int, int]:
    """What a standard was replaced by in the end. One that was split stays itself: which part an answer is of, nobody knows."""
    to: dict[int, set[int]] = defaultdict(set)
    for origin, destination in db.execute(
        select(StandardLink.origin_id, StandardLink.destination_id).where(StandardLink.relation == REPLACED)
    ):
        to[origin].add(destination)
    found = {}
    for origin in to:
        seen, at = {origin}, origin
        while len(to.get(at, ())) == 1 and not (to[at] & seen):
            (at,) = to[at]
            seen.add(at)
        if at != origin:
            found[origin] = at
    return found


def usual_p(ctx: Context, db: Session) -> dict[int, float]:
    """Of item versions that 50 students or more took, over all administrations."""
    newest = db.execute(select(func.max(ItemFigure.at), func.count(), func.sum(ItemFigure.n))).one()

    def make() -> dict[int, float]:
        rows = db.execute(
            select(ItemFigure.item_version_id, func.sum(ItemFigure.n), func.sum(ItemFigure.n * ItemFigure.p))
            .where(ItemFigure.p.is_not(None))
            .group_by(ItemFigure.item_version_id)
        )
        return {version: total / n for version, n, total in rows if n >= LEAST_N}

    return ctx.own(TagsAtHand).usual.get(tuple(newest), make)


def usual_of_standards(tags: Tags, p: Mapping[int, float]) -> dict[int, float]:
    """Mean usual p of the items whose main standard it is today, from three on."""
    found: dict[int, list[float]] = defaultdict(list)
    for version, worth in p.items():
        spans = tags.get(version, ())
        if spans and spans[-1].tags and spans[-1].tags[0].main == 1.0:
            found[spans[-1].tags[0].standard].append(worth)
    return {standard: sum(ps) / len(ps) for standard, ps in found.items() if len(ps) >= LEAST_ITEMS}
