"""Stimuli: passages, pictures, tables, small data sets and sounds that several items are about."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Annotated, Any

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session, selectinload

from bildung.formats.markup import bare_text, safe_html
from bildung.services.bank.versions import add_version, index_items
from bildung.services.items.bankitem import StimulusView, content_of, stimulus_view
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, owner_of_new, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, listed
from bildung.store.models import Item, ItemVersion, Media, Stimulus, StimulusVersion

KINDS = {"passage": "passage", "picture": "picture", "table": "table", "data": "data set", "audio": "sound"}
LONGEST = 60_000
_GAP = re.compile(r'<span data-gap="\w+"></span>')


@dataclass(frozen=True)
class About:
    id: Id
    code: str
    text: str


@dataclass(frozen=True, kw_only=True)
class StimulusLine:
    """items: how many newest versions stand on it. words: of its text."""

    id: Id
    code: str
    number: int
    title: str
    kind: str
    subject: str
    grade: str
    items: int
    words: int
    own: bool


def list_stimuli(ctx: Context, actor: Actor, find: str = "", kind: str = "") -> list[StimulusLine]:
    """Stimuli that this person may see, by words and by kind."""
    allowed = _mine_or_common(actor)
    with ctx.store.read() as db:
        counts = _item_counts(db)
        found = db.scalars(
            select(Stimulus).where(allowed).options(selectinload(Stimulus.versions)).order_by(Stimulus.code)
        ).all()
    lines = []
    for s in found:
        latest = s.versions[-1]
        haystack = f"{s.code} {latest.title} {bare_text(latest.html)} {latest.told}".casefold()
        if (kind and latest.kind != kind) or any(word not in haystack for word in find.casefold().split()):
            continue
        lines.append(
            StimulusLine(
                id=s.id,
                code=s.code,
                number=latest.number,
                title=latest.title,
                kind=latest.kind,
                subject=s.subject,
                grade=s.grade,
                items=counts.get(s.id, 0),
                words=len(bare_text(latest.html).split()),
                own=s.owner_id is not None,
            )
        )
    return lines


def finding(found: list[StimulusLine]) -> str:
    """What the page of stimuli opens with."""
    if not found:
        return "No stimuli match."
    bare = sum(line.items == 0 for line in found)
    several = sum(line.items for line in found)
    text = f"{len(found)} {'stimulus' if len(found) == 1 else 'stimuli'} with {several} {'item' if several == 1 else 'items'}."
    return text + (f" {bare} {'has' if bare == 1 else 'have'} no item yet." if bare else "")


def _mine_or_common(actor: Actor) -> ColumnElement[bool]:
    scope(actor, Action.BANK_READ)
    if actor.may(Action.BANK_KEEP):
        return Stimulus.id.is_not(None)
    return or_(Stimulus.owner_id.is_(None), Stimulus.owner_id == actor.person_id)


def _item_counts(db: Session) -> dict[int, int]:
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    rows = db.execute(
        select(StimulusVersion.stimulus_id, func.count())
        .join(ItemVersion, ItemVersion.stimulus_version_id == StimulusVersion.id)
        .where(ItemVersion.id.in_(newest))
        .group_by(StimulusVersion.stimulus_id)
    ).all()
    return {id: n for id, n in rows}


@dataclass(frozen=True, kw_only=True)
class StimulusDetail:
    """items: code and beginning of the text of each item about it."""

    view: StimulusView
    subject: str
    grade: str
    items: Annotated[list[tuple[int, str, str]], listed(About)]
    may_change: bool


def get_stimulus(ctx: Context, actor: Actor, id: int) -> StimulusDetail:
    """One stimulus with the items that are about it."""
    with ctx.store.read() as db:
        stimulus = db.scalar(select(Stimulus).where(Stimulus.id == id, _mine_or_common(actor)))
        if stimulus is None:
            raise NotFound("there is no such stimulus")
        view = stimulus_view(stimulus.versions[-1])
        assert view is not None
        items = [(v.item_id, v.item.code, bare_text(_GAP.sub("…", v.shown["body"]))[:120]) for v in _about(db, id)]
        return StimulusDetail(
            view=view,
            subject=stimulus.subject,
            grade=stimulus.grade,
            items=items,
            may_change=_may_change(actor, stimulus),
        )


def _may_change(actor: Actor, stimulus: Stimulus) -> bool:
    return actor.may(Action.BANK_KEEP) if stimulus.owner_id is None else stimulus.owner_id == actor.person_id


def _about(db: Session, id: int) -> list[ItemVersion]:
    """Newest versions of the items that stand on any version of it."""
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    of = select(StimulusVersion.id).where(StimulusVersion.stimulus_id == id)
    return list(
        db.scalars(
            select(ItemVersion)
            .join(Item, Item.id == ItemVersion.item_id)
            .where(ItemVersion.id.in_(newest), ItemVersion.stimulus_version_id.in_(of))
            .order_by(Item.code)
        )
    )


def save_stimulus(
    ctx: Context,
    actor: Actor,
    id: int | None,
    number: int,
    values: dict[str, Any],
    code: str = "",
    subject: str = "",
    grade: str = "",
) -> int:
    """A new stimulus, or the next version of one; its items get their next version with it. number: of the version that
    was changed; Conflict where there is a newer one. Its id."""
    scope(actor, Action.BANK_WRITE)
    fields = _checked(ctx, values)

    def work(db: Session) -> int:
        if id is None:
            name = need_text(code, "code", 40)
            if db.scalar(select(Stimulus.id).where(Stimulus.code == name)) is not None:
                raise Conflict(f"there is a stimulus {name} already; choose another code", "code")
            stimulus = Stimulus(
                code=name, subject=subject.strip()[:60], grade=grade.strip()[:10], owner_id=owner_of_new(actor)
            )
            db.add(stimulus)
        else:
            found = db.scalar(select(Stimulus).where(Stimulus.id == id, _mine_or_common(actor)))
            if found is None:
                raise NotFound("there is no such stimulus")
            if not _may_change(actor, found):
                raise NotAllowed("this stimulus is the common bank's; its keepers change it")
            if found.versions[-1].number != number:
                raise Conflict(
                    "someone changed this stimulus in the meantime; open it again to see the current version"
                )
            stimulus = found
            latest = found.versions[-1]
            if all(getattr(latest, name) == value for name, value in fields.items()):
                return found.id
        version = StimulusVersion(stimulus=stimulus, number=number + 1 if id else 1, created_at=ctx.clock(), **fields)
        db.add(version)
        db.flush()
        moved = _about(db, stimulus.id) if id is not None else []
        for old in moved:
            standards = [s.standard for s in old.standards]
            add_version(db, old.item, content_of(old), standards, version, ctx.clock(), actor.person_id, old.template)
        db.flush()
        for old in moved:
            db.refresh(old.item)
        index_items(db, [old.item for old in moved])
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "stimulus.version",
            f"stimulus:{stimulus.id}",
            None,
            {"number": version.number, "items": len(moved)},
        )
        return stimulus.id

    return ctx.store.write(work)


def _checked(ctx: Context, values: dict[str, Any]) -> dict[str, Any]:
    kind, html, media = values["kind"], safe_html(values.get("html", "")), values.get("media", "")
    if kind not in KINDS:
        raise Invalid(f"one of {', '.join(KINDS)}", "kind")
    if len(html) > LONGEST:
        raise Invalid(f"at most {LONGEST} characters", "html")
    title, told = need_text(values.get("title", ""), "title"), values.get("told", "").strip()
    if kind in ("picture", "audio"):
        with ctx.store.read() as db:
            kept = db.get(Media, media)
        wanted = "audio/" if kind == "audio" else "image/"
        if kept is None or not kept.type.startswith(wanted):
            raise Invalid("choose a picture first" if kind == "picture" else "choose a sound first", "media")
        if not told:
            words = (
                "what the picture shows, for who cannot see it"
                if kind == "picture"
                else "what is said, for who cannot hear it"
            )
            raise Invalid(f"say in words {words}", "told")
    elif not bare_text(html) and "<img" not in html:
        raise Invalid("a stimulus needs some text", "html")
    if kind in ("table", "data") and "<table" not in html:
        raise Invalid("a table is missing in it", "html")
    return {
        "title": title,
        "kind": kind,
        "html": html,
        "numbered": bool(values.get("numbered")) and kind == "passage",
        "media": media if kind in ("picture", "audio") else "",
        "told": told,
        "credit": values.get("credit", "").strip()[:400],
    }
