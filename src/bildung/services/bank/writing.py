"""What somebody is writing, and what waits for their word before it becomes a version."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, or_, select
from sqlalchemy.orm import selectinload

from bildung.core.errors import Refused
from bildung.formats.content import cleaned, read_content
from bildung.formats.faults import faults
from bildung.formats.markup import bare_text
from bildung.services.bank.drafts import may_finish
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.wire import Id
from bildung.store.models import Item, ItemComment, ItemDraft, Person

SHOWN = 300


@dataclass(frozen=True, kw_only=True)
class Written:
    """A draft. text: how the item begins. changes: the version it would follow, None of a new item. faults: what is
    still wanted. comments: open ones."""

    item_id: Id
    code: str
    subject: str
    grade: str
    standard: str
    text: str
    stage: str
    changes: int | None
    author: str
    updated_at: datetime
    faults: int
    comments: int


@dataclass(frozen=True)
class Writing:
    """mine: drafts this person wrote last, latest first. review: of others, handed in, which this person may finish,
    longest waiting first."""

    finding: str
    mine: list[Written]
    review: list[Written]


def writing(ctx: Context, actor: Actor) -> Writing:
    """Refused where somebody does not write items."""
    allowed = scope(actor, Action.BANK_WRITE)
    with ctx.store.read() as db:
        rows = db.execute(
            select(Item, ItemDraft, Person)
            .join(ItemDraft, ItemDraft.item_id == Item.id)
            .outerjoin(Person, Person.id == ItemDraft.author_id)
            .where(allowed, or_(ItemDraft.author_id == actor.person_id, ItemDraft.stage == "in_review"))
            .options(selectinload(Item.versions))
            .order_by(ItemDraft.updated_at.desc(), Item.code)
            .limit(2 * SHOWN)
        ).all()
        comments = dict(
            db.execute(
                select(ItemComment.item_id, func.count())
                .where(ItemComment.item_id.in_([item.id for item, _, _ in rows]), ItemComment.settled_at.is_(None))
                .group_by(ItemComment.item_id)
            ).all()
        )
        mine = [
            _line(item, draft, author, comments) for item, draft, author in rows if draft.author_id == actor.person_id
        ]
        review = [
            _line(item, draft, author, comments)
            for item, draft, author in reversed(rows)
            if draft.stage == "in_review" and draft.author_id != actor.person_id and may_finish(actor, item, draft)
        ]
    return Writing(_finding(mine, review), mine[:SHOWN], review[:SHOWN])


def _line(item: Item, draft: ItemDraft, author: Person | None, comments: dict[int, int]) -> Written:
    try:
        content = cleaned(read_content(draft.content["content"]))
        wanted, text = (0 if draft.template else len(faults(content))), bare_text(content.shown.body)
    except Refused:
        wanted, text = 1, ""
    standards = draft.content.get("standards") or [""]
    return Written(
        item_id=item.id,
        code=item.code,
        subject=item.subject,
        grade=item.grade,
        standard=standards[0],
        text=text[:160],
        stage=draft.stage,
        changes=item.versions[-1].number if item.versions else None,
        author=author.name if author else "",
        updated_at=draft.updated_at,
        faults=wanted,
        comments=comments.get(item.id, 0),
    )


def _finding(mine: list[Written], review: list[Written]) -> str:
    """What waits for this person first."""
    open_, handed = sum(w.stage == "draft" for w in mine), sum(w.stage != "draft" for w in mine)
    parts = []
    if review:
        parts.append(f"{len(review)} {'item needs' if len(review) == 1 else 'items need'} your review")
    if open_:
        parts.append(f"{open_} of your drafts {'is' if open_ == 1 else 'are'} not submitted")
    if handed:
        parts.append(f"{handed} of your items {'is' if handed == 1 else 'are'} in review")
    if not parts:
        return "You have no drafts and no items to review."
    text = ", ".join(parts)
    return text[0].upper() + text[1:] + "."
