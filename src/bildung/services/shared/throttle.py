"""Slowing down guessing: the more tries failed, the longer the wait before the next one; nobody is ever locked out.

Failures are counted in the store, so that a restart forgets none, and several processes count together.
"""

from __future__ import annotations

import contextlib
import hashlib
from bisect import bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.services.shared.context import Context
from bildung.services.shared.errors import Problem, TooMany
from bildung.store.models import FailedTry

KEPT = timedelta(days=31)
SEEN = "seen"  # no failure: an address at which a code was used rightly


@dataclass(frozen=True)
class Limit:
    """Of one kind of try. Each pair of `steps` says: from so many failures within so long on, the next try waits so long
    after the last failure. The longest wait that holds counts."""

    kind: str
    steps: tuple[tuple[int, timedelta, timedelta], ...]


def seconds(n: float) -> timedelta:
    """So many seconds."""
    return timedelta(seconds=n)


HOUR, DAY = timedelta(hours=1), timedelta(days=1)
# one account, from whatever address: a forgotten password costs little, a list of passwords takes years
ACCOUNT = Limit("account", tuple((5 + n, HOUR, seconds(min(300, 2**n))) for n in range(10)))
# one address, whatever account: a school is one address
ADDRESS = Limit("address", ((60, HOUR, seconds(2)), (120, HOUR, seconds(15)), (400, DAY, seconds(60))))
# codes of a whole school typed at one address in one morning, a tenth of them wrong
CODES_HERE = Limit(
    "codes at an address", ((300, HOUR, seconds(5)), (600, HOUR, seconds(30)), (1500, DAY, seconds(120)))
)
# one session or class, from addresses at which nobody of it has signed in: a class stays unguessed for years
CODES_OF = Limit("codes of a session or class", ((40, DAY, seconds(60)), (100, DAY, seconds(900)), (300, KEPT, HOUR)))
# the same from one address at which somebody has
CODES_OF_HERE = Limit(
    "codes of one at an address", ((30, HOUR, seconds(20)), (100, DAY, seconds(300)), (400, KEPT, HOUR))
)
# one student's sign-in code with wrong session codes
OWN_CODE = Limit("sign-in code", ((20, HOUR, seconds(10)), (60, DAY, seconds(120))))
JOINING = Limit("asking to join", ((40, timedelta(minutes=5), seconds(60)),))


def _key(text: str) -> str:
    return hashlib.sha256(text.encode(errors="replace")).hexdigest()[:32]


def wait_after(limit: Limit, failures: Sequence[datetime], now: datetime) -> timedelta:
    """How long the next try has to wait. failures: when the last ones were, in order, as far back as any step looks."""
    if not failures:
        return timedelta(0)
    longest = timedelta(0)
    for count, within, pause in limit.steps:
        if pause > longest and len(failures) - bisect_right(failures, now - within) >= count:
            longest = pause
    return max(timedelta(0), failures[-1] + longest - now)


def wait_for(db: Session, limit: Limit, key: str, now: datetime) -> timedelta:
    """By the failures in the store."""
    since = now - max(within for _, within, _ in limit.steps)
    times = db.scalars(
        select(FailedTry.at)
        .where(FailedTry.kind == limit.kind, FailedTry.key == _key(key), FailedTry.at > since, FailedTry.at <= now)
        .order_by(FailedTry.at)
    ).all()
    return wait_after(limit, times, now)


def seen_here(db: Session, code: str, address: str, now: datetime) -> bool:
    """Whether somebody signed in with this session's or class's code at this address lately."""
    known = select(FailedTry.id).where(
        FailedTry.kind == SEEN, FailedTry.key == _key(f"{code} {address}"), FailedTry.at > now - KEPT
    )
    return db.scalar(known.limit(1)) is not None


def remember_here(db: Session, code: str, address: str, now: datetime) -> None:
    """Somebody signed in: from now on wrong codes at this address are told from those of strangers."""
    if not seen_here(db, code, address, now - DAY):
        db.add(FailedTry(kind=SEEN, key=_key(f"{code} {address}"), at=now))


def _said(wait: timedelta) -> str:
    whole = max(1, round(wait.total_seconds()))
    if whole < 100:
        return f"{whole} {'second' if whole == 1 else 'seconds'}"
    return f"{round(whole / 60)} minutes"


@contextlib.contextmanager
def trying(
    ctx: Context,
    limits: Sequence[tuple[Limit, str]],
    counts: Callable[[Problem], bool] = lambda problem: True,
    ahead: bool = False,
) -> Iterator[None]:
    """One try. TooMany, with how long to wait, where any of the limits asks for it. A Problem raised inside is a failure
    where `counts` says so. ahead: the try is written down before it is judged and struck off when it was no failure, so
    that many at once are as slow as one after the other; not for what a hundred children do rightly at one moment."""
    now = ctx.clock()

    def check(db: Session) -> None:
        wait = max((wait_for(db, limit, key, now) for limit, key in limits), default=timedelta(0))
        if wait > timedelta(0):
            raise TooMany(
                f"too many failed attempts; try again in {_said(wait)}, or ask the coordinator", retry_after=wait
            )

    def note(db: Session) -> list[int]:
        rows = [FailedTry(kind=limit.kind, key=_key(key), at=now) for limit, key in limits]
        db.add_all(rows)
        db.flush()
        return [row.id for row in rows]

    def begin(db: Session) -> list[int]:
        check(db)
        return note(db)

    ids: list[int] = []
    if ahead:
        ids = ctx.store.write(begin)
    else:
        with ctx.store.read() as db:
            check(db)
    failed = False
    try:
        yield
    except Problem as problem:
        failed = counts(problem)
        raise
    finally:
        if ids and not failed:
            ctx.store.write(lambda db: db.execute(delete(FailedTry).where(FailedTry.id.in_(ids))))
        elif failed and not ids:
            ctx.store.write(note)


def count_try(ctx: Context, limit: Limit, key: str) -> None:
    """One try that counts whatever comes of it."""
    now = ctx.clock()

    def work(db: Session) -> None:
        wait = wait_for(db, limit, key, now)
        if wait > timedelta(0):
            raise TooMany(f"too many attempts; try again in {_said(wait)}", retry_after=wait)
        db.add(FailedTry(kind=limit.kind, key=_key(key), at=now))

    ctx.store.write(work)


def sweep(db: Session, now: datetime) -> None:
    """Forget what no limit asks about any more."""
    db.execute(delete(FailedTry).where(FailedTry.at < now - KEPT))
