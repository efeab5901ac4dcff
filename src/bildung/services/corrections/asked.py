"""What a correction is to be, checked against what is there: as something to try, and as what it puts in whose place."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, get_args

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.items.shown import counted, dated
from bildung.formats.content import PartScoring
from bildung.formats.scored import item_rule, key_text
from bildung.services.answers.corrected import Ruling, Trial, changes, rulings
from bildung.services.items.bankitem import BankItem, bank_item, with_parts
from bildung.services.quality.scope import administrations
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.store.models import Form, FormItem, ItemVersion, Mark, Person, PlannedSession, Sitting, Window

Kind = Literal["key", "drop", "everybody", "score", "rescore"]
LONGEST_KEY = 2000


@dataclass(frozen=True, kw_only=True)
class CorrectionWish:
    """What somebody wants corrected. place, window_id: an item of a form, and when it was taken. part, key, spelling: of `key`, the
    part that is scored otherwise. unreached: of `everybody`. sitting, points: of `score`, an attempt and what its response is to earn.
    scorer: of `rescore`, whose scores are set aside; scoring: or those by this number of the rubric and older ones."""

    kind: Kind
    place: int
    window_id: int
    part: str = ""
    key: str = ""
    spelling: str = ""
    unreached: bool = True
    sitting: int | None = None
    points: float | None = None
    scorer: int | None = None
    scoring: int | None = None


@dataclass(frozen=True, kw_only=True)
class Asked:
    """A wish that can be carried out. trial: to try it. administrations: (form, window) whose results it can move. before, after: what it
    puts in whose place. says: in words, as a sentence without a stop. item, number, form, window: where."""

    wish: CorrectionWish
    trial: Trial
    administrations: tuple[tuple[int, int], ...]
    before: dict[str, Any]
    after: dict[str, Any]
    says: str
    item: BankItem
    number: int
    form_id: int
    form: str
    window: str
    version_id: int


def asked(db: Session, wish: CorrectionWish, allowed: ColumnElement[bool]) -> Asked:
    """allowed: sessions whose results this person may correct. Invalid or Conflict where it cannot be."""
    if wish.kind not in get_args(Kind):
        raise Invalid(f"a correction is one of {', '.join(get_args(Kind))}", "kind")
    row = db.execute(
        with_parts(
            select(FormItem, ItemVersion, Form)
            .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
            .join(Form, Form.id == FormItem.form_id)
            .where(FormItem.id == wish.place)
        )
    ).first()
    window = db.get(Window, wish.window_id)
    if row is None or window is None:
        raise NotFound("there is no such item on a form, or no such window")
    place, version, form = row
    item = bank_item(version)
    held = rulings(db, [place.id]).get((place.id, window.id))
    trial, before, after, says = _effect(db, wish, item, version, place.position, held)
    touched = touched_by(db, wish.kind, place, window.id)
    if not touched:
        raise Conflict(f"no one has submitted {form.name} in {window.name} yet; correct the item in the bank")
    refuse_strangers(db, touched, allowed)
    return Asked(
        wish=wish,
        trial=trial,
        administrations=touched,
        before=before,
        after=after,
        says=says,
        item=item,
        number=place.position,
        form_id=form.id,
        form=form.name,
        window=dated(window.name, window.start.year),
        version_id=version.id,
    )


def sessions_of(db: Session, form: int, window: int) -> list[tuple[int, int]]:
    """(session, its data version) in which somebody received the form."""
    received = func.coalesce(Sitting.form_id, PlannedSession.form_id)
    rows = db.execute(
        select(PlannedSession.id, PlannedSession.data_version)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .where(PlannedSession.window_id == window, received == form)
        .distinct()
        .order_by(PlannedSession.id)
    )
    return [(id, version) for id, version in rows]


def touched_by(db: Session, kind: str, place: FormItem, window_id: int) -> tuple[tuple[int, int], ...]:
    """(form, window) whose results a correction of an item moves: of a key, wherever the same version was taken."""
    forms = {place.form_id}
    if kind == "key":
        same = select(FormItem.form_id).where(FormItem.item_version_id == place.item_version_id)
        forms = set(db.scalars(same.distinct()))
    everywhere = administrations(db, PlannedSession.canceled_at.is_(None) | PlannedSession.closed_at.is_not(None))
    return tuple(sorted((f, w) for f, w in everywhere if f in forms and (kind == "key" or w == window_id)))


def refuse_strangers(db: Session, touched: tuple[tuple[int, int], ...], allowed: ColumnElement[bool]) -> None:
    """NotFound where none of these results is this person's to correct, Conflict where only some are."""
    ids = {id for form, window in touched for id, _ in sessions_of(db, form, window)}
    mine = set(db.scalars(select(PlannedSession.id).where(PlannedSession.id.in_(ids), allowed)))
    if not mine:
        raise NotFound("there is no such test, or its results are not yours to correct")
    if mine != ids:
        raise Conflict("this also scores sessions of other schools; ask the district's coordinator")


def _effect(
    db: Session, wish: CorrectionWish, item: BankItem, version: ItemVersion, number: int, held: Ruling | None
) -> tuple[Trial, dict[str, Any], dict[str, Any], str]:
    if held is not None:
        what = "is dropped" if held.rule == "drop" else "has its points given to all"
        raise Conflict(f"item {number} {what} in this window; undo that first")
    if wish.kind == "key":
        return _key(wish, item, version, number)
    if wish.kind == "score":
        return _score(db, wish, item, number)
    if wish.kind == "rescore":
        return _rescore(db, wish, number)
    ruling = Ruling("drop" if wish.kind == "drop" else "everybody", wish.kind == "everybody" and wish.unreached)
    trial = Trial(rulings={(wish.place, wish.window_id): ruling})
    if wish.kind == "drop":
        return trial, {}, {}, f"item {number} is dropped"
    whom = "also those who did not reach it" if wish.unreached else "not those who did not reach it"
    says = f"everyone gets the {item.points:g} {'point' if item.points == 1 else 'points'} of item {number}, {whom}"
    return trial, {}, {"unreached": wish.unreached}, says


def _key(
    wish: CorrectionWish, item: BankItem, version: ItemVersion, number: int
) -> tuple[Trial, dict[str, Any], dict[str, Any], str]:
    parts = {s.id: s for s in item.scoring}
    now = parts.get(wish.part) or (item.scoring[0] if not wish.part else None)
    if now is None:
        raise Invalid(f"item {number} has no part {wish.part!r}; its parts are {', '.join(parts)}", "part")
    if len(wish.key) > LONGEST_KEY:
        raise Invalid(f"a key has at most {LONGEST_KEY} characters", "key")
    if not now.key and not wish.key.strip():
        raise Invalid(f"item {number} has no key; its responses are scored by people", "key")
    change: dict[str, Any] = {"key": wish.key.strip()}
    if wish.spelling:
        if wish.spelling not in ("exact", "plain", "near"):
            raise Invalid("spelling is exact, plain or near", "spelling")
        change["spelling"] = wish.spelling
    made = now.model_copy(update=change)
    if made == now:
        raise Invalid(f"item {number} is scored so already: {now.key}", "key")
    scoring = [made if s.id == now.id else s for s in item.scoring]
    try:
        item_rule(item.shown, scoring)
    except Refused as error:
        raise Invalid(str(error), "key") from None
    said = _words(item.scoring, now), _words(scoring, made)
    says = f"item {number} is scored by {said[1]} instead of {said[0]}"
    number_now = max(s.number for s in version.scorings)
    before = {"scoring": number_now, "parts": [s.model_dump() for s in item.scoring]}
    after = {"scoring": number_now + 1, "parts": [s.model_dump() for s in scoring]}
    return Trial(scorings={item.version_id: scoring}), before, after, says


def _words(scoring: list[PartScoring], part: PartScoring) -> str:
    spelling = {"exact": "exact spelling", "plain": "", "near": "one slip of spelling allowed"}[part.spelling]
    key = part.key if len(scoring) > 1 else key_text(scoring)
    return f"{key} ({spelling})" if spelling else key


def _score(
    db: Session, wish: CorrectionWish, item: BankItem, number: int
) -> tuple[Trial, dict[str, Any], dict[str, Any], str]:
    if wish.sitting is None or wish.points is None:
        raise Invalid("say which response, and what it earns", "points")
    if not 0 <= wish.points <= item.points:
        raise Invalid(f"a score of item {number} is from 0 to {item.points:g}, not {wish.points:g}", "points")
    named = db.execute(
        select(Person.given, Person.family, Sitting.state)
        .join(Sitting, Sitting.person_id == Person.id)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .join(FormItem, FormItem.form_id == func.coalesce(Sitting.form_id, PlannedSession.form_id))
        .where(Sitting.id == wish.sitting, FormItem.id == wish.place, PlannedSession.window_id == wish.window_id)
    ).first()
    if named is None:
        raise NotFound("this attempt has no such item")
    if named.state != "handed_in":
        raise Conflict("this attempt is not submitted")
    there = changes(db, [wish.place]).get(wish.place, {}).get(wish.sitting)
    if there is not None and abs(there - wish.points) < 1e-9:
        raise Invalid(f"this response earns {there:g} by decision already", "points")
    trial = Trial(changes={(wish.place, wish.sitting): wish.points})
    says = f"the response of {named.given} {named.family} to item {number} earns {wish.points:g} of {item.points:g}"
    return trial, {"points": there}, {"points": wish.points}, says


def _rescore(db: Session, wish: CorrectionWish, number: int) -> tuple[Trial, dict[str, Any], dict[str, Any], str]:
    wanted = (
        select(Mark.id, Mark.marker_id)
        .join(Sitting, Sitting.id == Mark.sitting_id)
        .join(PlannedSession, PlannedSession.id == Sitting.session_id)
        .where(
            Mark.form_item_id == wish.place,
            PlannedSession.window_id == wish.window_id,
            Mark.aside.is_(False),
            Mark.final.is_(False),
        )
        .order_by(Mark.id)
    )
    if wish.scorer is not None:
        wanted = wanted.where(Mark.marker_id == wish.scorer)
        whose = db.get(Person, wish.scorer)
        by = f"by {whose.name}" if whose else ""
    elif wish.scoring is not None:
        wanted = wanted.where(func.coalesce(Mark.scoring, 1) <= wish.scoring)
        by = "by an earlier rubric"
    else:
        raise Invalid("say whose scores are set aside, or of which rubric", "scorer")
    ids = [id for id, _ in db.execute(wanted)]
    if not ids:
        raise Conflict(f"there are no scores of item {number} {by} that count")
    says = f"{counted(len(ids), 'score')} of item {number} {by} {'is' if len(ids) == 1 else 'are'} set aside and the responses scored again"
    return Trial(aside=frozenset(ids)), {"marks": ids}, {}, says
