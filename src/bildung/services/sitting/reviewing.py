"""Results as a student or a family reads them: a sentence, by standard, question by question."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from bildung.core.scoring.settled import SettledScore
from bildung.services.answers.byperson import settled_scores
from bildung.services.answers.corrected import changes, rulings
from bildung.services.forms.levels import levels_of_test
from bildung.services.forms.settings import settings, title_of
from bildung.services.items.bankitem import content_of
from bildung.services.owed.dealing import form_of, places_of
from bildung.services.shared.access import Sitter
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.sitting.feedback import Told, as_decided, summary, tell
from bildung.services.sitting.released import Audience, as_shown, as_told, family_may, released_to
from bildung.services.sitting.taking import (
    Attempt,
    Question,
    answers_of,
    attempt_of,
    may_review,
    questions,
    reveals,
    state_of,
)
from bildung.store.models import (
    FamilyLink,
    Form,
    FormItem,
    ItemVersion,
    PlannedSession,
    ResponseComment,
    Sitting,
    ToldResult,
    Window,
)


@dataclass(frozen=True)
class StandardResult:
    """What is taught, in a plain sentence, and the points of the questions about it."""

    says: str
    earned: float
    points: float


@dataclass(frozen=True)
class Review:
    """corrected_at: since when the results are others than they were told before."""

    title: str
    sentence: str
    questions: list[Question]
    told: list[Told]
    standards: list[StandardResult] = field(default_factory=list)
    corrected_at: datetime | None = None


Places = Sequence[tuple[FormItem, ItemVersion]]


def review(ctx: Context, person_id: int, session_id: int) -> Review:
    """What a student got, question by question: of their first attempt where results were released, of the last one
    otherwise."""
    with ctx.store.read() as db:
        session, sitting = _found(db, person_id, session_id)
        at_hand, form = attempt_of(db, sitting), form_of(db, session, sitting)
        shows = may_review(db, session, sitting, form, state_of(at_hand), ctx.clock())
        if not shows:
            others = settings(form).feedback != "release" and not reveals(db, session, form)
            why = "another class may still take this test" if others else "your school decides when"
            raise Conflict(f"your results are not shown yet: {why}")
        found, unread = review_of(db, session, sitting, shows, at_hand)
    if unread:
        was_read = update(ResponseComment).where(ResponseComment.id.in_(unread)).values(read_at=ctx.clock())
        ctx.store.write(lambda db: db.execute(was_read))
    return found


def review_own(ctx: Context, sitter: Sitter) -> Review:
    """What was right, for the student at their own attempt."""
    with ctx.store.read() as db:
        session_id = db.get_one(Sitting, sitter.sitting_id).session_id
    return review(ctx, sitter.person_id, session_id)


def review_child(ctx: Context, family_id: int, student_id: int, session_id: int) -> Review:
    """What a family sees of one test of their child."""
    with ctx.store.read() as db:
        link = db.get(FamilyLink, (family_id, student_id))
        if link is None or not link.results:
            raise NotFound("there is no such test, or its results are not for you to see")
        session, sitting = _found(db, student_id, session_id)
        if not family_may(db, session, sitting, ctx.clock()):
            raise Conflict("these results are not released")
        shows = released_to(db, session, "family", ctx.clock())
        return review_of(db, session, sitting, shows, sitting, "family")[0]


def _found(db: Session, person_id: int, session_id: int) -> tuple[PlannedSession, Sitting]:
    sitting = db.scalar(select(Sitting).where(Sitting.person_id == person_id, Sitting.session_id == session_id))
    if sitting is None:
        raise NotFound("there is no such test, or it is not yours")
    return db.get_one(PlannedSession, session_id), sitting


def review_of(
    db: Session,
    session: PlannedSession,
    sitting: Sitting,
    shows: frozenset[str],
    at_hand: Attempt,
    audience: Audience = "student",
    now_told: bool = False,
) -> tuple[Review, list[int]]:
    """As this audience reads it, and the comments in it that were not read yet. now_told: as it would be told now, instead of as it was
    released."""
    form = form_of(db, session, sitting)
    given = {id: kept[0] for id, kept in answers_of(db, at_hand).items()}
    places = places_of(db, session, sitting, at_hand.drawn)
    first = isinstance(at_hand, Sitting)
    kept = db.get(ToldResult, sitting.id) if first and not now_told else None
    comments = _comments(db, at_hand)
    whole = as_told(told_of(db, session, sitting, at_hand, places, comments, _as_released(kept)), kept)
    sentence = summary(whole, audience == "student") if "points" in shows else _without_points(whole, audience)
    if "levels" in shows:
        sentence = f"{sentence} {_level(db, session, form, whole, kept, audience)}".strip()
    told = as_shown(whole, shows)
    found = Review(
        session.title or title_of(form),
        sentence,
        questions(places, settings(form), given) if told else [],
        told,
        _standards(places, whole) if "standards" in shows else [],
        kept.corrected_at if kept else None,
    )
    unread = [one.id for t in told if t.comments for one in comments[t.question] if one.read_at is None]
    return found, unread


def _level(
    db: Session,
    session: PlannedSession,
    form: Form,
    told: Sequence[Told],
    kept: ToldResult | None,
    audience: Audience,
) -> str:
    """The performance level in a sentence, as it was told; nothing without cut scores, or while answers wait."""
    level = kept.level if kept is not None else ""
    if kept is None and all(t.earned is not None for t in told):
        levels = levels_of_test(db, form, db.get_one(Window, session.window_id))
        if levels is not None:
            level = levels.name_of(sum(t.earned or 0.0 for t in told), sum(t.points for t in told))
    return f"{'Your' if audience == 'student' else 'Their'} level is {level}." if level else ""


def _as_released(kept: ToldResult | None) -> dict[int, int]:
    return {} if kept is None else {int(question): int(number) for question, _, _, number in kept.points}


def told_of(
    db: Session,
    session: PlannedSession,
    sitting: Sitting,
    at_hand: Attempt,
    places: Places,
    comments: dict[int, list[ResponseComment]],
    scorings: dict[int, int] | None = None,
) -> list[Told]:
    """Question by question by the rules that every figure uses, with what was decided afterward. scorings: by question, the number
    of the scoring that its right answer is told by."""
    given = {id: kept[0] for id, kept in answers_of(db, at_hand).items()}
    ids = [place.id for place, _ in places]
    first = isinstance(at_hand, Sitting)
    scores = _scores(db, sitting, ids) if first else {}
    rules = rulings(db, ids) if first else {}
    changed = changes(db, ids, attempt=sitting.id) if first else {}
    told = [
        tell(
            place.id,
            number,
            version.kind,
            content_of(version, (scorings or {}).get(place.id)),
            given.get(place.id, ""),
            given=scores.get(place.id),
            comments=[one.text for one in comments.get(place.id, ())],
        )
        for number, (place, version) in enumerate(places, 1)
    ]
    return [
        as_decided(t, rules.get((t.question, session.window_id)), changed.get(t.question, {}).get(sitting.id))
        for t in told
    ]


def _scores(db: Session, sitting: Sitting, places: Sequence[int]) -> dict[int, SettledScore]:
    """What people gave the first attempt, by form item."""
    return {
        place: theirs[sitting.id]
        for place, theirs in settled_scores(db, places, attempt=sitting.id).items()
        if sitting.id in theirs
    }


def _comments(db: Session, attempt: Attempt) -> dict[int, list[ResponseComment]]:
    """What was said about the first attempt, by form item."""
    found: dict[int, list[ResponseComment]] = {}
    if isinstance(attempt, Sitting):
        wanted = select(ResponseComment).where(ResponseComment.sitting_id == attempt.id).order_by(ResponseComment.id)
        for one in db.scalars(wanted):
            found.setdefault(one.form_item_id, []).append(one)
    return found


def _without_points(told: Sequence[Told], audience: Audience) -> str:
    answered = sum(t.verdict != "open" for t in told)
    who = "You" if audience == "student" else "Your child"
    return f"{who} answered {answered} of {len(told)} questions."


def _standards(places: Places, told: Sequence[Told]) -> list[StandardResult]:
    """By main standard, in the order of the test; what waits for a score or does not count is left out."""
    found: dict[str, list[float]] = {}
    for (_, version), one in zip(places, told, strict=True):
        if one.earned is None or not one.points or not version.standards:
            continue
        standard = version.standards[0].standard
        sums = found.setdefault(standard.plain or standard.text or standard.code, [0.0, 0.0])
        sums[0] += one.earned
        sums[1] += one.points
    return [StandardResult(says, earned, points) for says, (earned, points) in found.items()]
