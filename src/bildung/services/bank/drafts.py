"""Writing items: drafts saved as one goes, review, versions, changed copies and offering them back."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from bildung.core.errors import Refused
from bildung.core.scoring.several import PartScore, SeveralParts
from bildung.core.scoring.words import Marked
from bildung.formats.content import Content, cleaned, read_content
from bildung.formats.faults import faults
from bildung.formats.scored import item_rule
from bildung.formats.template import Template, read_template
from bildung.services.bank.versions import add_version, index_items
from bildung.services.items.bankitem import content_of, standards_by_code
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, owner_of_new, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, listed
from bildung.store.models import (
    Item,
    ItemComment,
    ItemDraft,
    ItemStandard,
    ItemVersion,
    Person,
    StandardChange,
    Stimulus,
    Verdict,
)

MAX_STANDARDS = 12
# where a version may stand, and where it may go from there
MOVES: dict[str, tuple[str, ...]] = {
    "ready": ("field_test", "in_use", "retired"),
    "field_test": ("in_use", "ready", "retired"),
    "in_use": ("resting", "field_test", "retired"),
    "resting": ("in_use", "field_test", "retired"),
    "retired": ("resting",),
}
EMPTY = {
    "shown": {"body": "", "parts": [{"type": "choice", "options": [{"id": letter, "html": ""} for letter in "ABCD"]}]},
    "scoring": [{"key": "A"}],
}


@dataclass(frozen=True)
class Fault:
    place: str
    wanted: str


@dataclass(frozen=True, kw_only=True)
class DraftView:
    """faults: place and what is wanted there; a draft with any cannot become a version. of: the version it changes."""

    item_id: Id
    code: str
    revision: int
    stage: str
    content: Content
    template: Template | None
    standards: list[str]
    stimulus_id: Id | None
    faults: Annotated[list[tuple[str, str]], listed(Fault)]
    author: str
    updated_at: datetime
    of: int | None
    offered_from: str
    may_finish: bool


def create_item(ctx: Context, actor: Actor, code: str, subject: str, grade: str, stimulus_id: int | None = None) -> int:
    """A new item with an empty draft; its id. Common where a keeper makes it, else their own."""
    scope(actor, Action.BANK_WRITE)
    code = need_text(code, "code", 40)

    def work(db: Session) -> int:
        _free(db, code)
        if stimulus_id is not None:
            _stimulus_for(db, actor, stimulus_id)
        item = Item(
            code=code,
            subject=subject.strip()[:60],
            grade=grade.strip()[:10],
            state="draft",
            owner_id=owner_of_new(actor),
        )
        db.add(item)
        db.flush()
        _start(ctx, db, actor, item, read_content(EMPTY), [], stimulus_id)
        audit.record(db, ctx.clock(), actor.person_id, "item.create", f"item:{item.id}", None, {"code": code})
        return item.id

    return ctx.store.write(work)


def _free(db: Session, code: str) -> None:
    if db.scalar(select(Item.id).where(Item.code == code)) is not None:
        raise Conflict(f"there is an item {code} already; choose another code", "code")


def free_code(db: Session, stem: str) -> str:
    """The code with the next free number behind it."""
    taken = set(db.scalars(select(Item.code).where(Item.code.startswith(stem, autoescape=True))))
    return next(code for n in range(1, 100_000) if (code := f"{stem}{n}") not in taken)


def _start(
    ctx: Context,
    db: Session,
    actor: Actor,
    item: Item,
    content: Content,
    standards: list[str],
    stimulus_id: int | None,
    template: dict[str, Any] | None = None,
) -> ItemDraft:
    draft = ItemDraft(
        item_id=item.id,
        content={"content": content.model_dump(), "standards": standards},
        template=template,
        stimulus_id=stimulus_id,
        author_id=actor.person_id,
        updated_at=ctx.clock(),
    )
    db.add(draft)
    return draft


def _item(db: Session, actor: Actor, item_id: int, action: Action) -> Item:
    item = db.scalar(select(Item).where(Item.id == item_id, scope(actor, action)).options(selectinload(Item.versions)))
    if item is None:
        raise NotFound("there is no such item, or it is not yours to change")
    return item


def open_draft(ctx: Context, actor: Actor, item_id: int) -> DraftView:
    """The item's draft; where there is none, one that says what the newest version says."""

    def work(db: Session) -> DraftView:
        item = _item(db, actor, item_id, Action.BANK_WRITE)
        draft = db.get(ItemDraft, item_id)
        if draft is None:
            latest = item.versions[-1]
            stimulus = latest.stimulus.stimulus_id if latest.stimulus else None
            draft = _start(
                ctx,
                db,
                actor,
                item,
                content_of(latest),
                [s.standard.code for s in latest.standards],
                stimulus,
                latest.template,
            )
            db.flush()
        return _view(db, actor, item, draft)

    with ctx.store.read() as db:
        item = _item(db, actor, item_id, Action.BANK_WRITE)
        draft = db.get(ItemDraft, item_id)
        if draft is not None:
            return _view(db, actor, item, draft)
    return ctx.store.write(work)


def _view(db: Session, actor: Actor, item: Item, draft: ItemDraft) -> DraftView:
    content = cleaned(read_content(draft.content["content"]))
    author = db.get(Person, draft.author_id) if draft.author_id else None
    template = read_template(draft.template) if draft.template else None
    offered = db.get(Item, draft.offered_from) if draft.offered_from else None
    return DraftView(
        item_id=item.id,
        code=item.code,
        revision=draft.revision,
        stage=draft.stage,
        content=content,
        template=template,
        standards=list(draft.content["standards"]),
        stimulus_id=draft.stimulus_id,
        faults=_faults(content, template),
        author=author.name if author else "",
        updated_at=draft.updated_at,
        of=item.versions[-1].number if item.versions else None,
        offered_from=offered.code if offered else "",
        may_finish=may_finish(actor, item, draft),
    )


def _faults(content: Content, template: Template | None) -> list[tuple[str, str]]:
    if template is None:
        return faults(content)
    from bildung.services.bank.variants import template_faults

    return template_faults(content, template)


def may_finish(actor: Actor, item: Item, draft: ItemDraft) -> bool:
    """Their own items they decide about alone. Of the common bank: a coordinator, or another keeper than its author
    once it was handed in for review."""
    if item.owner_id is not None:
        return item.owner_id == actor.person_id
    if any(grant.role == "coordinator" for grant in actor.grants):
        return True
    return draft.stage == "in_review" and draft.author_id != actor.person_id


def save_draft(
    ctx: Context,
    actor: Actor,
    item_id: int,
    revision: int,
    content: Any,
    standards: list[str],
    stimulus_id: int | None,
    template: Any = None,
) -> DraftView:
    """Keep what was written so far. Conflict where somebody saved since `revision`: nothing of theirs is lost."""
    try:
        found = cleaned(read_content(content))
        shape = read_template(template) if template else None
    except Refused as error:
        raise Invalid(str(error), "content") from None
    codes = list(dict.fromkeys(code.strip() for code in standards if code.strip()))
    if len(codes) > MAX_STANDARDS:
        raise Invalid(f"at most {MAX_STANDARDS} standards", "standards")

    def work(db: Session) -> DraftView:
        item = _item(db, actor, item_id, Action.BANK_WRITE)
        draft = _draft(db, item_id, revision)
        known = standards_by_code(db, codes)
        unknown = [code for code in codes if code not in known]
        if unknown:
            raise Invalid(f"there is no standard {unknown[0]}", "standards")
        if stimulus_id is not None:
            _stimulus_for(db, actor, stimulus_id)
        draft.content = {"content": found.model_dump(), "standards": codes}
        draft.template = shape.model_dump() if shape else None
        draft.stimulus_id, draft.author_id = stimulus_id, actor.person_id
        draft.revision += 1
        draft.updated_at = ctx.clock()
        if draft.stage == "in_review" and not any(grant.role == "coordinator" for grant in actor.grants):
            draft.stage = "draft"  # what is reviewed is what was handed in
        return _view(db, actor, item, draft)

    return ctx.store.write(work)


def _stimulus_for(db: Session, actor: Actor, stimulus_id: int) -> Stimulus:
    stimulus = db.get(Stimulus, stimulus_id)
    if stimulus is None or (stimulus.owner_id not in (None, actor.person_id)):
        raise Invalid("there is no such stimulus, or it is not yours", "stimulus")
    return stimulus


def _draft(db: Session, item_id: int, revision: int) -> ItemDraft:
    draft = db.get(ItemDraft, item_id)
    if draft is None:
        raise Conflict("this draft was published or discarded in the meantime; open the item again")
    if draft.revision != revision:
        author = db.get(Person, draft.author_id) if draft.author_id else None
        raise Conflict(
            f"{author.name if author else 'someone'} changed this item in the meantime; open it again to see the current version"
        )
    return draft


def discard_draft(ctx: Context, actor: Actor, item_id: int, revision: int) -> None:
    """Throw the draft away; an item that never had a version goes with it."""

    def work(db: Session) -> None:
        item = _item(db, actor, item_id, Action.BANK_WRITE)
        draft = _draft(db, item_id, revision)
        before = draft.content
        db.delete(draft)
        db.flush()
        if not item.versions:
            from bildung.store.words import drop_words

            drop_words(db, [item.id])
            db.delete(item)
        audit.record(db, ctx.clock(), actor.person_id, "item.discard", f"item:{item_id}", before, None)

    ctx.store.write(work)


def hand_in(ctx: Context, actor: Actor, item_id: int, revision: int, back: bool = False) -> DraftView:
    """Ask for review, or (back) give it back to its author. Only a whole item can be reviewed."""

    def work(db: Session) -> DraftView:
        item = _item(db, actor, item_id, Action.BANK_WRITE)
        draft = _draft(db, item_id, revision)
        view = _view(db, actor, item, draft)
        if not back and view.faults:
            raise Invalid(f"{view.faults[0][0]}: {view.faults[0][1]}", view.faults[0][0])
        draft.stage = "draft" if back else "in_review"
        draft.revision += 1
        audit.record(db, ctx.clock(), actor.person_id, "item.review", f"item:{item_id}", None, {"stage": draft.stage})
        return _view(db, actor, item, draft)

    return ctx.store.write(work)


def finish(ctx: Context, actor: Actor, item_id: int, revision: int) -> int:
    """The draft becomes the item's next version; its number. Results stay with the version that was sat."""

    def work(db: Session) -> int:
        item = _item(db, actor, item_id, Action.BANK_WRITE)
        draft = _draft(db, item_id, revision)
        if not may_finish(actor, item, draft):
            raise NotAllowed("another person than the author must approve the item; submit it for review")
        view = _view(db, actor, item, draft)
        if view.faults:
            raise Invalid(f"{view.faults[0][0]}: {view.faults[0][1]}", view.faults[0][0])
        known = standards_by_code(db, view.standards)
        stimulus = None
        if draft.stimulus_id is not None:
            stimulus = db.get_one(Stimulus, draft.stimulus_id).versions[-1]
        version = add_version(
            db,
            item,
            view.content,
            [known[code] for code in view.standards if code in known],
            stimulus,
            ctx.clock(),
            draft.author_id,
            draft.template,
        )
        if item.state == "draft":
            item.state = "ready"
        db.delete(draft)
        db.flush()
        db.refresh(item)
        index_items(db, [item])
        audit.record(
            db, ctx.clock(), actor.person_id, "item.version", f"item:{item_id}", None, {"version": version.number}
        )
        return version.number

    return ctx.store.write(work)


def move(ctx: Context, actor: Actor, item_id: int, to: str, why: str = "") -> None:
    """Where an item stands: see MOVES."""

    def work(db: Session) -> None:
        item = _item(db, actor, item_id, Action.BANK_WRITE)
        allowed = MOVES.get(item.state, ())
        if to not in allowed:
            raise Conflict(
                f"from {_plain(item.state)} an item goes to {', '.join(map(_plain, allowed)) or 'nothing else'}",
                "state",
            )
        before, item.state = item.state, to
        if to == "field_test":
            _answer(db, item_id, ctx.clock())
        audit.record(db, ctx.clock(), actor.person_id, "item.state", f"item:{item_id}", before, to, why[:400])

    ctx.store.write(work)


def _answer(db: Session, item_id: int, at: datetime) -> None:
    """A verdict that asked for a field test has got it, whatever comes after."""
    latest = db.scalars(
        select(Verdict).join(Verdict.version).where(ItemVersion.item_id == item_id).order_by(Verdict.id.desc()).limit(1)
    ).first()
    if latest is not None and latest.verdict == "again":
        latest.answered_at = at


def _plain(state: str) -> str:
    return state.replace("_", " ")


def comment(ctx: Context, actor: Actor, item_id: int, text: str) -> None:
    """Whoever may read an item may say something about it."""
    text = need_text(text, "comment", 2000)

    def work(db: Session) -> None:
        _item(db, actor, item_id, Action.BANK_READ)
        db.add(ItemComment(item_id=item_id, person_id=actor.person_id, at=ctx.clock(), text=text))

    ctx.store.write(work)


def settle_comment(ctx: Context, actor: Actor, comment_id: int) -> None:
    """Mark a comment as settled; by its author, or by whoever may write the item."""

    def work(db: Session) -> None:
        found = db.get(ItemComment, comment_id)
        if found is None:
            raise NotFound("there is no such comment")
        _item(db, actor, found.item_id, Action.BANK_WRITE if found.person_id != actor.person_id else Action.BANK_READ)
        found.settled_at = None if found.settled_at else ctx.clock()

    ctx.store.write(work)


def copy_item(ctx: Context, actor: Actor, item_id: int, code: str = "") -> int:
    """A changed copy in the making: a new item with a draft that says what this one says, and knows where from."""
    scope(actor, Action.BANK_WRITE)

    def work(db: Session) -> int:
        item = _item(db, actor, item_id, Action.BANK_READ)
        if not item.versions:
            raise Conflict(f"{item.code} has no version yet; there is nothing to copy")
        latest = item.versions[-1]
        name = code.strip() or free_code(db, f"{item.code}-copy")
        _free(db, name)
        copied = Item(
            code=name,
            subject=item.subject,
            grade=item.grade,
            state="draft",
            owner_id=owner_of_new(actor),
            origin_version_id=latest.id,
            depth=item.depth,
            topic=item.topic,
            unit=item.unit,
            language=item.language,
            calculator=item.calculator,
            seconds=item.seconds,
            source=item.source,
            labels=list(item.labels),
        )
        db.add(copied)
        db.flush()
        stimulus = latest.stimulus.stimulus_id if latest.stimulus else None
        standards = [s.standard.code for s in latest.standards]
        _start(ctx, db, actor, copied, content_of(latest), standards, stimulus, latest.template)
        audit.record(db, ctx.clock(), actor.person_id, "item.copy", f"item:{copied.id}", None, {"of": item.code})
        return copied.id

    return ctx.store.write(work)


def offer_back(ctx: Context, actor: Actor, item_id: int, why: str) -> None:
    """Lay a copy's newest version before the keepers of what it came from, as a draft of that item in review."""
    why = need_text(why, "reason", 2000)

    def work(db: Session) -> None:
        item = _item(db, actor, item_id, Action.BANK_WRITE)
        origin = db.get(ItemVersion, item.origin_version_id) if item.origin_version_id else None
        if origin is None:
            raise Conflict(f"{item.code} is no copy of another item")
        if not item.versions:
            raise Conflict(f"publish a version of {item.code} first")
        target = db.get_one(Item, origin.item_id)
        if db.get(ItemDraft, target.id) is not None:
            raise Conflict(f"{target.code} has a draft at the moment; offer yours when that is finished")
        latest = item.versions[-1]
        draft = _start(
            ctx,
            db,
            actor,
            target,
            content_of(latest),
            [s.standard.code for s in latest.standards],
            latest.stimulus.stimulus_id if latest.stimulus else None,
            latest.template,
        )
        draft.stage, draft.offered_from = "in_review", item.id
        db.add(
            ItemComment(
                item_id=target.id, person_id=actor.person_id, at=ctx.clock(), text=f"Offered from {item.code}: {why}"
            )
        )
        audit.record(
            db, ctx.clock(), actor.person_id, "item.offer", f"item:{target.id}", None, {"from": item.code}, why[:400]
        )

    ctx.store.write(work)


@dataclass(frozen=True)
class TriedAnswers:
    """points: None while a person has to mark some of it. said: in one sentence."""

    parts: list[PartScore]
    points: float | None
    maximum: float
    said: str


def try_answer(actor: Actor, content: Any, answers: dict[str, str]) -> TriedAnswers:
    """How an answer to an item as it is written now would be scored; nothing is kept."""
    parts = _scores(actor, content, answers)
    waits = [p for p in parts if p.points is None and p.maximum]
    maximum, points = sum(p.maximum for p in parts), sum(p.points or 0.0 for p in parts)
    if waits:
        said = f"{points:g} of {maximum:g} points so far; a person marks the rest."
    else:
        said = f"{points:g} of {maximum:g} {'point' if maximum == 1 else 'points'}."
    return TriedAnswers(parts, None if waits else points, maximum, said)


def _scores(actor: Actor, content: Any, answers: dict[str, str]) -> list[PartScore]:
    scope(actor, Action.BANK_READ)
    try:
        found = read_content(content)
        rule = item_rule(found.shown, found.scoring)
        answers = {id: text for id, text in answers.items() if id in {s.id for s in found.scoring}}
        if isinstance(rule, SeveralParts):
            return rule.scores(json.dumps(answers))
        scoring, answer = found.scoring[0], answers.get(found.scoring[0].id, "")
        label = rule.label(answer) if answer.strip() else ""
        if isinstance(rule, Marked):
            return [
                PartScore(
                    id=scoring.id,
                    label=label,
                    points=None if label else 0.0,
                    maximum=scoring.points,
                    why="scored by a person" if label else "",
                )
            ]
        return [
            PartScore(
                id=scoring.id, label=label, points=rule.points(label) if label else 0.0, maximum=scoring.points, why=""
            )
        ]
    except (Refused, ValueError) as error:
        raise Invalid(str(error), "answer") from None


def put_under_standards(db: Session, at: datetime, item: Item, codes: list[str]) -> None:
    """Put the newest version under these standards, the first as the main one. What stood before is kept, for answers that were given then."""
    known = standards_by_code(db)
    missing = [code for code in codes if code not in known]
    if missing:
        raise Invalid(f"there is no standard {missing[0]}", "standards")
    latest = item.versions[-1]
    before = [[old.standard_id, old.rank] for old in latest.standards]
    if before != [[known[code].id, rank] for rank, code in enumerate(codes)]:
        db.add(StandardChange(item_version_id=latest.id, at=at, before=before))
    for old in list(latest.standards):
        db.delete(old)
    db.flush()
    db.add_all(
        ItemStandard(item_version_id=latest.id, standard_id=known[code].id, rank=at) for at, code in enumerate(codes)
    )
    db.flush()
    db.expire(latest)
