"""Attempts over several days: one that rests is gone on with in another session, with the minutes that are left."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from bildung.core.school.timing import personal_end
from bildung.services.answers.packing import pack
from bildung.services.forms.settings import settings
from bildung.services.owed.accommodated import NONE, added_to, in_session
from bildung.services.owed.dealing import form_of
from bildung.store.models import PlannedSession, Sitting

SEVERAL_DAYS = "multi_day"
LEFT = 60  # seconds; with less than these the test's own time is over


def rest(attempt: Sitting, now: datetime) -> None:
    """It stays as it is until it is resumed; no minute counts meanwhile."""
    began = attempt.counted_from or now
    worked = now - began - added_to(attempt, now)  # what was given is not used, and a pause is no work
    attempt.used_seconds = max(0, round(worked.total_seconds()))
    attempt.state, attempt.clock_from = "resting", None
    attempt.added_seconds, attempt.paused_at, attempt.away_at, attempt.help_at = 0, None, None, None


def resume(attempt: Sitting, now: datetime) -> None:
    """Its minutes count from now on, those used before among them."""
    attempt.clock_from = resumed_from(attempt, now)
    attempt.state, attempt.used_seconds = "answering", None


def resumed_from(attempt: Sitting, now: datetime) -> datetime | None:
    """From when its minutes would count if it were resumed now; of one that does not rest, from when they do."""
    if attempt.state != "resting":
        return attempt.counted_from
    return now - timedelta(seconds=attempt.used_seconds or 0)


def on_several_days(
    db: Session, session: PlannedSession, attempts: Sequence[Sitting], now: datetime, everyone: bool = False
) -> dict[int, datetime]:
    """Sittings, of these that are in progress, whose student may work on several days and has minutes of the test left;
    with the moment until which each has worked, which is no later than their own end of the session. everyone: whoever holds
    the session decided that all go on on another day, as after a fire drill."""
    open_ = [one for one in attempts if one.state == "answering" and one.attempt == 1]
    needs = in_session(db, session, [one.person_id for one in open_]) if open_ else {}
    found = {}
    for one in open_:
        need = needs.get(one.person_id, NONE)
        if not everyone and SEVERAL_DAYS not in need.kinds:
            continue
        until = min(now, personal_end(session.start, session.end, need.extra_time, added=added_to(one, now)))
        limit, began = settings(form_of(db, session, one)).minutes, one.counted_from
        worked = (until - began - added_to(one, now)).total_seconds() if began else 0.0
        if limit is None or limit * 60 * need.extra_time - worked > LEFT:
            found[one.id] = until
    return found


def carry(db: Session, attempt: Sitting, into: PlannedSession) -> None:
    """Put an attempt that rests into another session that gives the same test: answers, form and time used stay its own."""
    was = db.get_one(PlannedSession, attempt.session_id)
    if attempt.form_id is None and was.form_id != into.form_id:
        attempt.form_id = was.form_id
    attempt.session_id = into.id
    was.data_version += 1
    into.data_version += 1
    db.flush()
    if was.closed_at is not None:
        pack(db, was)
