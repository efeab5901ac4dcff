"""Attempts on paper scored as another form of the family: booklets were mixed up, and the answers stand at the places of the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.core.items.shown import counted
from bildung.core.scoring.mixed import Guessing, guessing, mixed_up
from bildung.formats.content import ChoicePart, MenuPart, Shown
from bildung.formats.face import faced
from bildung.formats.typed import from_typed, to_typed
from bildung.services.items.bankitem import content_of
from bildung.services.owed.dealing import form_of
from bildung.services.scoring.paperentry import put_answers
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id
from bildung.services.sitting.feedback import earned_by
from bildung.store.models import Correction, Form, FormItem, ItemVersion, Person, PlannedSession, Response, Sitting

LONGEST_WHY = 500


@dataclass(frozen=True, kw_only=True)
class OtherTotal:
    """What the same answers earn on another form. better: they fit it, and not their own."""

    form_id: Id
    form: str
    earned: float
    possible: float
    better: bool


@dataclass(frozen=True, kw_only=True)
class PaperTotal:
    """An attempt on paper: what it earns on its own form and on the others of the family."""

    sitting: Id
    name: str
    form_id: Id
    form: str
    earned: float
    possible: float
    guessed: float
    others: list[OtherTotal]


@dataclass(frozen=True)
class MixedForms:
    """says: whether any look mixed up."""

    says: str
    attempts: list[PaperTotal]


@dataclass(frozen=True)
class _Place:
    """id: of the form item. shown: as its form prints it."""

    id: int
    shown: Shown
    version: ItemVersion


def mixed_forms(ctx: Context, actor: Actor, session_id: int) -> MixedForms:
    """Submitted attempts on paper, each scored by every form of its family, place by place."""
    with ctx.store.read() as db:
        session = _session(db, actor, session_id)
        found = []
        for sitting, person in db.execute(
            select(Sitting, Person)
            .join(Person, Person.id == Sitting.person_id)
            .where(Sitting.session_id == session.id, Sitting.way == "paper", Sitting.state == "handed_in")
            .order_by(Person.family, Person.given, Person.id)
        ):
            found.append(_totals(db, session, sitting, person))
    odd = [one for one in found if any(other.better for other in one.others)]
    if not odd:
        return MixedForms("", found)
    name = next(other.form for other in odd[0].others if other.better)
    verb = "does" if len(odd) == 1 else "do"
    says = f"{counted(len(odd), 'attempt')} {verb} no better than guessing on {odd[0].form} and well on {name}: the booklets may be mixed up."
    return MixedForms(says, found)


def score_as(ctx: Context, actor: Actor, session_id: int, sittings: Sequence[int], form_id: int, reason: str) -> str:
    """Their answers count at the same places of the other form; a correction that can be undone. What came of it, in a sentence."""
    why = need_text(reason, "reason", LONGEST_WHY)
    if not sittings:
        raise Invalid("choose at least one attempt", "sittings")

    def work(db: Session) -> str:
        session = _session(db, actor, session_id)
        before: dict[str, dict[str, object]] = {}
        moved = 0.0
        for id in sittings:
            sitting = db.get(Sitting, id)
            if (
                sitting is None
                or sitting.session_id != session.id
                or sitting.way != "paper"
                or sitting.state != "handed_in"
            ):
                raise Conflict("only submitted attempts on paper are scored as another form")
            own = form_of(db, session, sitting)
            other = next((f for f in _family(own) if f.id == form_id), None)
            if other is None:
                raise Invalid("choose another published form of the same test", "form")
            given = _given(db, sitting)
            answers = read_by(db, own.id, other.id, given)
            before[str(id)] = {"form": own.id, "answers": {str(place): text for place, text in given.items()}}
            moved += _earned(_places(db, other.id), answers) - _earned(_places(db, own.id), given)
            _put(db, ctx, actor, session, sitting, other.id, answers)
        first = select(FormItem.id).where(FormItem.form_id == session.form_id).order_by(FormItem.position)
        place = db.scalars(first).first()  # of the session's own form, which names where it was decided
        assert place is not None
        name = db.get_one(Form, form_id).name
        says = f"{counted(len(sittings), 'attempt')} on paper of {session.klass.title} {'is' if len(sittings) == 1 else 'are'} scored as {name}"
        told = f"{moved:+g} points together."
        made = Correction(
            kind="form",
            form_item_id=place,
            window_id=session.window_id,
            sitting_id=None,
            before={"attempts": before, "session": session.id, "says": says},
            after={"form": form_id},
            moved={"says": told},
            reason=why,
            by_id=actor.person_id,
            at=ctx.clock(),
        )
        db.add(made)
        db.flush()
        audit.record(
            db, ctx.clock(), actor.person_id, "score.correct", f"correction:{made.id}", None, {"what": says}, why
        )
        return f"{says[0].upper()}{says[1:]}: {told}"

    return ctx.store.write(work)


def read_by(db: Session, own_id: int, other_id: int, given: dict[int, str]) -> dict[int, str]:
    """Answers to one form, as the same marks on paper are read by another."""
    return _moved(_places(db, own_id), _places(db, other_id), given)


def as_before(db: Session, ctx: Context, actor: Actor, made: Correction) -> None:
    """Undo, in the transaction of the writer. Conflict where an attempt is no longer as the correction left it."""
    session = db.get_one(PlannedSession, made.before["session"])
    for id, kept in made.before["attempts"].items():
        sitting = db.get_one(Sitting, int(id))
        if (sitting.form_id or session.form_id) != made.after["form"]:
            raise Conflict("one of these attempts was scored as yet another form since; undo that first")
        _put(db, ctx, actor, session, sitting, kept["form"], {int(p): text for p, text in kept["answers"].items()})


def _put(
    db: Session,
    ctx: Context,
    actor: Actor,
    session: PlannedSession,
    sitting: Sitting,
    form_id: int,
    answers: dict[int, str],
) -> None:
    db.execute(delete(Response).where(Response.sitting_id == sitting.id))
    sitting.form_id = None if form_id == session.form_id else form_id
    db.flush()
    db.expire_all()
    put_answers(db, ctx, actor, session, sitting, answers, False)


def _session(db: Session, actor: Actor, session_id: int) -> PlannedSession:
    session = db.scalar(select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, Action.SCORES_PLAN)))
    if session is None:
        raise NotFound("there is no such session, or its results are not yours to correct")
    return session


def _family(form: Form) -> list[Form]:
    if form.family is None:
        return []
    return [f for f in form.family.forms if f.id != form.id and f.published_at is not None]


def _places(db: Session, form_id: int) -> list[_Place]:
    rows = db.execute(
        select(FormItem, ItemVersion)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.form_id == form_id)
        .order_by(FormItem.position)
    )
    return [_Place(place.id, faced(Shown.model_validate(v.shown), place.face), v) for place, v in rows]


def _given(db: Session, sitting: Sitting) -> dict[int, str]:
    rows = db.scalars(select(Response).where(Response.sitting_id == sitting.id, Response.answer != ""))
    return {r.form_item_id: r.answer for r in rows}


def _moved(own: list[_Place], other: list[_Place], given: dict[int, str]) -> dict[int, str]:
    """The same marks on paper, read by the other form; what that form cannot have is no answer there."""
    found = {}
    for here, there in zip(own, other, strict=False):
        typed = to_typed(here.shown, given.get(here.id, ""))
        try:
            answer = from_typed(there.shown, typed)
        except Refused:
            continue
        if answer:
            found[there.id] = answer
    return found


def _earned(places: list[_Place], given: dict[int, str]) -> float:
    return sum(earned_by(p.version.kind, content_of(p.version), given.get(p.id, "")) for p in places)


def _possible(places: list[_Place]) -> float:
    return float(sum(p.version.scorings[-1].points for p in places))


def _guess(places: list[_Place]) -> Guessing:
    def options(place: _Place) -> int:
        first = place.shown.parts[0]
        single = isinstance(first, MenuPart) or (isinstance(first, ChoicePart) and first.most == 1)
        return len(first.options) if single and isinstance(first, ChoicePart | MenuPart) else 0

    return guessing([(place.version.scorings[-1].points, options(place)) for place in places])


def _totals(db: Session, session: PlannedSession, sitting: Sitting, person: Person) -> PaperTotal:
    form = form_of(db, session, sitting)
    own, given = _places(db, form.id), _given(db, sitting)
    earned, guess = _earned(own, given), _guess(own)
    others = []
    for companion in _family(form):
        places = _places(db, companion.id)
        there = _earned(places, _moved(own, places, given))
        others.append(
            OtherTotal(
                form_id=companion.id,
                form=companion.name,
                earned=there,
                possible=_possible(places),
                better=mixed_up(earned, guess, there, _guess(places)),
            )
        )
    return PaperTotal(
        sitting=sitting.id,
        name=person.name,
        form_id=form.id,
        form=form.name,
        earned=earned,
        possible=_possible(own),
        guessed=round(guess.mean, 2),
        others=others,
    )
