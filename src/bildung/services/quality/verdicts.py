"""Verdicts on items: keep, rework, drop or field-test again, with a reason; what is open; what the bank makes of them."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal, get_args

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.services import audit
from bildung.services.access import Action, Actor, scope
from bildung.services.bank import need_text
from bildung.services.context import Context
from bildung.services.errors import Invalid, NotFound
from bildung.services.quality.itemtexts import texts_of
from bildung.services.quality.scope import sat_in
from bildung.store.models import Form, Item, ItemVersion, Person, PlannedSession, Verdict, Window

What = Literal["keep", "rework", "drop", "again", "open"]
WORDS = {"keep": "keep", "rework": "rework", "drop": "drop", "again": "field-test again", "open": "taken back"}


@dataclass(frozen=True)
class VerdictLine:
    """One verdict in an item's history. version: its number then. where: form and window, empty where neither was.
    answered: the item went into field test for it."""

    id: int
    version: int
    verdict: str
    words: str
    reason: str
    by: str
    at: datetime
    where: str
    answered: bool


@dataclass(frozen=True)
class Standing:
    """The verdict that holds for an item. done: whether what it asks for has happened: a newer version after rework,
    retirement after drop, a field test after again. text: the item's first words, where a list shows them."""

    item_id: int
    item: str
    subject: str
    grade: str
    state: str
    latest: VerdictLine
    done: bool
    waits_for: str
    text: str = ""


def say(
    ctx: Context, actor: Actor, item_version_id: int, form_id: int | None, window_id: int | None, verdict: str, reason: str
) -> VerdictLine:  # fmt: skip
    """By whoever may judge an administration of the item, or keeps the bank. A reason is needed but for taking back."""
    if verdict not in get_args(What):
        raise Invalid(f"a verdict is one of {', '.join(get_args(What))}", "verdict")
    why = need_text(reason, "reason", 500) if verdict != "open" else reason.strip()[:500]

    def work(db: Session) -> VerdictLine:
        version = db.get(ItemVersion, item_version_id)
        if version is None or not _may(db, actor, item_version_id, form_id):
            raise NotFound("there is no such item, or it is not yours to judge")
        if window_id is not None and db.get(Window, window_id) is None:
            raise NotFound("there is no such window")
        made = Verdict(
            item_version_id=item_version_id, form_id=form_id, window_id=window_id, verdict=verdict, reason=why,
            person_id=actor.person_id, at=ctx.clock(),
        )  # fmt: skip
        db.add(made)
        db.flush()
        audit.record(
            db,
            ctx.clock(),
            actor.person_id,
            "item.verdict",
            f"item:{version.item_id}",
            None,
            {"verdict": verdict},
            why,
        )
        return next(line for line in verdicts_of(db, [version.item_id])[version.item_id] if line.id == made.id)

    return ctx.store.write(work)


def _may(db: Session, actor: Actor, version: int, form: int | None) -> bool:
    """Coordinators and keepers always; a teacher where they may judge a sitting of the form that holds it."""
    if actor.may(Action.BANK_KEEP):
        return True
    if form is None or not actor.may(Action.QUALITY_READ):
        return False
    held = db.scalar(
        select(func.count()).select_from(Form).where(Form.id == form, Form.items.any(item_version_id=version))
    )
    judged = db.scalar(select(PlannedSession.id).where(sat_in(form), scope(actor, Action.QUALITY_READ)).limit(1))
    return bool(held) and judged is not None


def verdicts_of(db: Session, items: Collection[int]) -> dict[int, list[VerdictLine]]:
    """By item, the newest first."""
    rows = db.execute(
        select(ItemVersion.item_id, ItemVersion.number, Verdict, Person.given, Person.family, Form.name, Window.name, Window.start)
        .join(ItemVersion, ItemVersion.id == Verdict.item_version_id).join(Person, Person.id == Verdict.person_id)
        .outerjoin(Form, Form.id == Verdict.form_id).outerjoin(Window, Window.id == Verdict.window_id)
        .where(ItemVersion.item_id.in_(items)).order_by(Verdict.id.desc())
    )  # fmt: skip
    found: dict[int, list[VerdictLine]] = {}
    for item, number, v, given, family, form, window, start in rows:
        where = ", ".join(p for p in (form or "", f"{window} {start.year}" if window else "") if p)
        found.setdefault(item, []).append(
            VerdictLine(
                v.id,
                number,
                v.verdict,
                WORDS[v.verdict],
                v.reason,
                f"{given} {family}".strip(),
                v.at,
                where,
                v.answered_at is not None,
            )
        )
    return found


def standing_of(db: Session, items: Collection[int] | None = None) -> dict[int, Standing]:
    """The verdict that holds of each item that has one; all of them where none are named."""
    wanted = select(ItemVersion.item_id).join(Verdict, Verdict.item_version_id == ItemVersion.id).distinct()
    if items is not None:
        wanted = wanted.where(ItemVersion.item_id.in_(items))
    ids = set(db.scalars(wanted))
    lines = verdicts_of(db, ids)
    newest = dict(
        db.execute(select(ItemVersion.item_id, func.max(ItemVersion.number)).where(ItemVersion.item_id.in_(ids)).group_by(ItemVersion.item_id)).all()
    )  # fmt: skip
    found = {}
    for item in db.scalars(select(Item).where(Item.id.in_(ids))):
        latest = lines[item.id][0]
        if latest.verdict == "open":
            continue
        done, waits = _done(latest, item.state, newest[item.id])
        found[item.id] = Standing(item.id, item.code, item.subject, item.grade, item.state, latest, done, waits)
    return found


def _done(latest: VerdictLine, state: str, newest: int) -> tuple[bool, str]:
    if latest.verdict == "rework":
        return newest > latest.version or state == "retired", "for a reworked version"
    if latest.verdict == "drop":
        return state == "retired", "to be retired"
    if latest.verdict == "again":
        return latest.answered or state == "field_test", "to go into field test"
    return True, ""


def list_verdicts(ctx: Context, actor: Actor) -> tuple[str, list[Standing]]:
    """What is open, the oldest first; then what is done, the newest first."""
    allowed = scope(actor, Action.BANK_READ)
    with ctx.store.read() as db:
        mine = set(db.scalars(select(Item.id).where(allowed)))
        found = [s for id, s in standing_of(db).items() if id in mine]
        texts = texts_of(db, {s.item_id for s in found})
    found = [replace(s, text=texts[s.item_id]) for s in found]
    open_ = sorted((s for s in found if not s.done), key=lambda s: (s.latest.at, s.item))
    done = sorted((s for s in found if s.done), key=lambda s: (s.latest.at, s.item), reverse=True)
    return _finding(found), [*open_, *done]


def _finding(found: list[Standing]) -> str:
    if not found:
        return "Nothing is decided yet."
    open_ = [s for s in found if not s.done]
    if not open_:
        return f"{len(found)} {'item has a verdict' if len(found) == 1 else 'items have a verdict'}; nothing is open."
    kinds = {what: sum(s.latest.verdict == what for s in open_) for what in ("rework", "drop", "again")}
    words = {"rework": "to rework", "drop": "to retire", "again": "to field-test again"}
    parts = [f"{n} {words[what]}" for what, n in kinds.items() if n]
    return f"{len(open_)} open: {', '.join(parts)}. {len(found) - len(open_)} done."


def decided(db: Session) -> tuple[dict[int, Standing], set[int]]:
    """Items under a verdict to rework or drop that has not been done, which are not for the next form; and items that
    somebody looked at and keeps: what flagged them then does not hold them back."""
    found = standing_of(db)
    waiting = {id: s for id, s in found.items() if not s.done and s.latest.verdict in ("rework", "drop")}
    return waiting, {id for id, s in found.items() if s.latest.verdict == "keep"}
