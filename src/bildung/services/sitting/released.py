"""What a session's releases let students and families see, and results as they were told."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from typing import Literal, get_args

from sqlalchemy.orm import Session

from bildung.services.sitting.feedback import Told
from bildung.store.models import HeldBack, PlannedSession, Release, Sitting, ToldResult

Audience = Literal["student", "family"]
Part = Literal["points", "levels", "standards", "answers", "right", "solutions", "comments"]
PARTS: tuple[Part, ...] = get_args(Part)
EVERYTHING = frozenset[str](PARTS)
SECRET = frozenset[str](("right", "solutions"))  # what must not go out while others are still to take the test


def released_to(db: Session, session: PlannedSession, audience: Audience, now: datetime) -> frozenset[str]:
    """What this audience sees of the session's results now; nothing where nothing is released."""
    row = db.get(Release, (session.id, audience))
    if row is None and audience == "student" and session.released_at is not None:
        return EVERYTHING
    if row is None or row.withdrawn_at is not None or row.at > now:
        return frozenset()
    return frozenset(row.shows)


def family_may(db: Session, session: PlannedSession, sitting: Sitting, now: datetime) -> bool:
    """Whether families see anything of this attempt. Whether this family may is a matter of its link to the student."""
    if sitting.state != "handed_in" or db.get(HeldBack, sitting.id) is not None:
        return False
    return bool(released_to(db, session, "family", now))


def as_told(told: Sequence[Told], kept: ToldResult | None) -> list[Told]:
    """With the points that were released, whatever has been corrected since."""
    if kept is None:
        return list(told)
    points = {question: (earned, most) for question, earned, most, _ in kept.points}
    found = []
    for one in told:
        if one.question not in points:
            found.append(one)
            continue
        earned, most = points[one.question]
        if (earned, most) == (one.earned, one.points):
            found.append(one)
            continue
        verdict: Literal["right", "partly", "wrong", "open"] = (
            "open"
            if one.verdict == "open" and not earned
            else "right"
            if earned >= most - 1e-9
            else "partly"
            if earned > 0
            else "wrong"
        )
        found.append(replace(one, earned=earned, points=most, verdict=verdict, note=""))
    return found


def as_shown(told: Sequence[Told], shows: frozenset[str]) -> list[Told]:
    """Only what was released; without one's own answers nothing is told question by question."""
    if "answers" not in shows:
        return []
    return [
        replace(
            one,
            right=one.right if "right" in shows else "",
            solution=one.solution if "solutions" in shows else "",
            comments=one.comments if "comments" in shows else [],
        )
        for one in told
    ]
