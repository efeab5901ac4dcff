"""One item with everything around it: its history, versions, comments, copies; two versions side by side."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, or_, select
from sqlalchemy.orm import Session, selectinload

from bildung.core.comparison.variants import template_statistics
from bildung.formats.content import ChoicePart, HotTextPart, MatchPart, MenuPart, OrderPart
from bildung.formats.itemlist import Tags
from bildung.services.answers.itemhistory import Use, uses
from bildung.services.bank.drafts import MOVES, may_finish
from bildung.services.items.bankitem import BankItem, bank_item, some_parts, tags_of, with_parts
from bildung.services.items.verdicts import VerdictLine, VerdictStanding, standing_of, verdicts_of
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Item, ItemComment, ItemDraft, ItemEnemy, ItemUse, ItemVersion, Person


@dataclass(frozen=True)
class VersionLine:
    number: int
    at: datetime
    author: str
    kind: str


@dataclass(frozen=True, kw_only=True)
class Comment:
    id: Id
    by: str
    at: datetime
    text: str
    settled: bool
    own: bool


@dataclass(frozen=True)
class Related:
    id: Id
    code: str


@dataclass(frozen=True, kw_only=True)
class Pooled:
    """Of all items drawn from a template, the last time each was sat. n: answers. p: by answers; low, high: of the single
    items. differ: what to do where they differ beyond chance."""

    items: int
    sat: int
    n: int
    p: float | None
    low: float | None
    high: float | None
    differ: str


@dataclass(frozen=True, kw_only=True)
class ItemPage:
    """item: at its newest version; None before the first. moves: where it may go from its state. verdicts: what was
    decided about it when it was judged, the newest first."""

    item: BankItem | None
    item_id: Id
    code: str
    subject: str
    grade: str
    state: str
    tags: Tags
    own: bool
    uses: list[Use]
    verdicts: list[VerdictLine]
    versions: list[VersionLine]
    comments: list[Comment]
    draft: str
    draft_by: str
    origin: Related | None
    origin_version: int | None
    copies: list[Related]
    enemies: list[Related]
    pooled: Pooled | None
    moves: list[str]
    may_write: bool
    may_finish: bool
    finding: str


def item_page(ctx: Context, actor: Actor, item_id: int) -> ItemPage:
    """An item with its versions, uses, verdicts, comments and copies, as this person may see it."""
    with ctx.store.read() as db:
        item = _read(db, actor, item_id)
        write = (
            actor.may(Action.BANK_WRITE)
            and db.scalar(select(Item.id).where(Item.id == item_id, scope(actor, Action.BANK_WRITE))) is not None
        )
        found = uses(db, [item_id]).get(item_id, [])
        verdicts = verdicts_of(db, [item_id]).get(item_id, [])
        newest = db.scalar(
            with_parts(select(ItemVersion).where(ItemVersion.item_id == item_id))
            .order_by(ItemVersion.number.desc())
            .limit(1)
        )
        authors = {
            p.id: p.name
            for p in db.scalars(
                select(Person).where(Person.id.in_([v.author_id for v in item.versions if v.author_id]))
            )
        }
        comments = _comments_on(db, actor, item_id)
        draft = db.get(ItemDraft, item_id)
        writer = db.get(Person, draft.author_id) if draft and draft.author_id else None
        origin = db.get(ItemVersion, item.origin_version_id) if item.origin_version_id else None
        versions = [v.id for v in item.versions]
        copies = _related(db, actor, Item.origin_version_id.in_(versions))
        enemies = _enemies(db, actor, item_id)
        came_from = next(iter(_related(db, actor, Item.id == origin.item_id)), None) if origin is not None else None
        return ItemPage(
            item=bank_item(newest) if newest else None,
            item_id=item.id,
            code=item.code,
            subject=item.subject,
            grade=item.grade,
            state=item.state,
            tags=tags_of(item),
            own=item.owner_id is not None,
            uses=found,
            verdicts=verdicts,
            versions=[
                VersionLine(v.number, v.created_at, authors.get(v.author_id or 0, ""), v.kind)
                for v in reversed(item.versions)
            ],
            comments=comments,
            draft=draft.stage if draft else "",
            draft_by=writer.name if writer else "",
            origin=came_from,
            origin_version=origin.number if origin and came_from else None,
            copies=copies,
            enemies=enemies,
            pooled=_pooled(db, versions) if newest is not None and newest.template is not None else None,
            moves=list(MOVES.get(item.state, ())) if write else [],
            may_write=write,
            may_finish=bool(draft and write and may_finish(actor, item, draft)),
            finding=_finding(item, newest, found, draft, comments, standing_of(db, [item_id]).get(item_id)),
        )


def _comments_on(db: Session, actor: Actor, item_id: int) -> list[Comment]:
    """As they were written, the first first."""
    return [
        Comment(
            id=c.id,
            by=p.name if p else "",
            at=c.at,
            text=c.text,
            settled=c.settled_at is not None,
            own=c.person_id == actor.person_id,
        )
        for c, p in db.execute(
            select(ItemComment, Person)
            .outerjoin(Person, Person.id == ItemComment.person_id)
            .where(ItemComment.item_id == item_id)
            .order_by(ItemComment.id)
        )
    ]


def _related(db: Session, actor: Actor, which: ColumnElement[bool]) -> list[Related]:
    """Items that the asker may read, by code."""
    readable = scope(actor, Action.BANK_READ)
    return [Related(*row) for row in db.execute(select(Item.id, Item.code).where(which, readable).order_by(Item.code))]


def _enemies(db: Session, actor: Actor, item_id: int) -> list[Related]:
    """What it must not meet on a form, whichever of the two said so."""
    pairs = select(ItemEnemy.item_id, ItemEnemy.other_id).where(
        or_(ItemEnemy.item_id == item_id, ItemEnemy.other_id == item_id)
    )
    others = {id for pair in db.execute(pairs) for id in pair} - {item_id}
    return _related(db, actor, Item.id.in_(others))


def _pooled(db: Session, versions: list[int]) -> Pooled:
    """Over all draws of a template, the last time each was sat; whether they are alike."""
    drawn = dict(db.execute(select(Item.id, Item.code).where(Item.origin_version_id.in_(versions))).all())
    rows = db.scalars(select(ItemUse).where(ItemUse.item_id.in_(drawn), ItemUse.p.is_not(None))).all()
    found = template_statistics({drawn[row.item_id]: (round((row.p or 0.0) * row.n), row.n) for row in rows})
    shares = [row.p for row in rows if row.p is not None]
    return Pooled(
        items=len(drawn),
        sat=len(rows),
        n=found.n,
        p=found.p,
        low=min(shares, default=None),
        high=max(shares, default=None),
        differ=found.flag.why if found.flag else "",
    )


def _read(db: Session, actor: Actor, item_id: int) -> Item:
    item = db.scalar(
        select(Item).where(Item.id == item_id, scope(actor, Action.BANK_READ)).options(selectinload(Item.versions))
    )
    if item is None:
        raise NotFound("there is no such item, or it is not yours to see")
    return item


def _finding(
    item: Item,
    newest: ItemVersion | None,
    found: list[Use],
    draft: ItemDraft | None,
    comments: list[Comment],
    standing: VerdictStanding | None,
) -> str:
    """What is to be known about this item before anything else."""
    if newest is None:
        return f"{item.code} is being written; it has no version yet."
    said = [f"{item.code} is {item.state.replace('_', ' ')}"]
    heavy = [f["flag"].replace("_", " ") for use in found[:1] for f in use.flags if f["weight"] == "problem"]
    if not found:
        said.append("not used yet")
    else:
        said.append(f"used {'once' if len(found) == 1 else f'{len(found)} times'}")
        if found[0].p is not None:
            said.append(f"last time {found[0].p * 100:.0f}% of {found[0].n} correct")
    text = ", ".join(said) + "."
    if heavy:
        text += f" Last time: {', '.join(dict.fromkeys(heavy))}."
    if standing is not None and not standing.done:
        text += f" {standing.latest.by} decided: {standing.latest.words}; it waits {standing.waits_for}."
    if draft is not None:
        text += f" A next version is {'in review' if draft.stage == 'in_review' else 'in progress'}."
    open_ones = sum(not c.settled for c in comments)
    if open_ones:
        text += f" {open_ones} open {'comment' if open_ones == 1 else 'comments'}."
    return text


@dataclass(frozen=True)
class Difference:
    """html: whether before and after are formatted text."""

    what: str
    before: str
    after: str
    html: bool


def compare(
    ctx: Context, actor: Actor, item_id: int, before: int, other_id: int | None, after: int
) -> tuple[BankItem, BankItem, list[Difference]]:
    """Two versions of an item, or a version of one and a version of another (a copy and what it came from)."""
    with ctx.store.read() as db:
        pair = [_version(db, actor, item_id, before), _version(db, actor, other_id or item_id, after)]
        old, new = (bank_item(v) for v in pair)
    return old, new, differences(old, new)


def _version(db: Session, actor: Actor, item_id: int, number: int) -> ItemVersion:
    _read(db, actor, item_id)
    found: ItemVersion | None = db.scalar(
        with_parts(select(ItemVersion).where(ItemVersion.item_id == item_id, ItemVersion.number == number))
    )
    if found is None:
        raise NotFound(f"there is no version {number} of this item")
    return found


def differences(old: BankItem, new: BankItem) -> list[Difference]:
    """What differs, in the order one reads an item."""
    found: list[Difference] = []

    def see(what: str, before: Any, after: Any, html: bool = False) -> None:
        if before != after:
            found.append(Difference(what, str(before), str(after), html))

    see("stimulus", _stimulus(old), _stimulus(new))
    see("text", old.shown.body, new.shown.body, True)
    see("counters and tiles", ", ".join(old.shown.tools), ", ".join(new.shown.tools))
    befores, afters = ({part.id: (part, s) for part, s in some_parts(item)} for item in (old, new))
    for id in dict.fromkeys([*befores, *afters]):
        name = "" if len(befores) == len(afters) == 1 else f"part {id}: "
        if id not in befores or id not in afters:
            see(
                f"{name}whole part",
                befores[id][0].type if id in befores else "",
                afters[id][0].type if id in afters else "",
            )
            continue
        (was, was_scored), (now, now_scored) = befores[id], afters[id]
        if was.type != now.type:
            see(f"{name}kind", was.type.replace("_", " "), now.type.replace("_", " "))
        see(f"{name}question", was.prompt, now.prompt, True)
        one, other = _pieces(was), _pieces(now)
        for piece in dict.fromkeys([*one, *other]):
            see(f"{name}{piece}", one.get(piece, ""), other.get(piece, ""), True)
        see(f"{name}key", was_scored.key, now_scored.key)
        see(f"{name}points", f"{was_scored.points:g}", f"{now_scored.points:g}")
        rest = (
            "partial",
            "writing",
            "units",
            "unit_needed",
            "spelling",
            "needs",
            "carried",
            "credit",
            "lowest",
            "rubric",
            "exemplars",
        )
        for field in rest:
            see(f"{name}{field.replace('_', ' ')}", getattr(was_scored, field), getattr(now_scored, field))
        own = set(type(was).model_fields) & set(type(now).model_fields) - {
            "id",
            "type",
            "prompt",
            "options",
            "rows",
            "columns",
            "text",
        }
        for field in sorted(own):
            see(f"{name}{field.replace('_', ' ')}", getattr(was, field), getattr(now, field))
    see("notes on wrong answers", _notes(old), _notes(new))
    see("scoring guidance", old.behind.guidance, new.behind.guidance, True)
    see("worked solution", old.behind.solution, new.behind.solution, True)
    see("hints", "<hr>".join(old.behind.hints), "<hr>".join(new.behind.hints), True)
    see("standards", ", ".join(old.standards), ", ".join(new.standards))
    return found


def _stimulus(item: BankItem) -> str:
    return f"{item.stimulus.code}, version {item.stimulus.number}" if item.stimulus else ""


def _notes(item: BankItem) -> str:
    return "; ".join(f"{m.answer}: {m.note}" for m in item.behind.misconceptions)


def _pieces(part: Any) -> dict[str, str]:
    if isinstance(part, ChoicePart | MenuPart | OrderPart):
        return {f"choice {o.id}": o.html for o in part.options}
    if isinstance(part, MatchPart):
        return {f"row {o.id}": o.html for o in part.rows} | {f"column {o.id}": o.html for o in part.columns}
    return {"text with selectable phrases": part.text} if isinstance(part, HotTextPart) else {}
