"""Participation of a window: the five standings in all, and by test, school, grade, subject or group of students."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.participation.standing import Participation, Reason, Standing, count
from bildung.core.school.privacy import alias_numbers
from bildung.reports.participation import ParticipationPrint, participation_document
from bildung.services.calendar.years import local_today, zone_of
from bildung.services.participation.obligations import NOWHERE, OwedTest, chosen, owed_tests
from bildung.services.people.groups import groups_with_size
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.wire import Id
from bildung.store.models import Federation, GroupMember, PlannedSession, Window

WORDS = {
    Standing.SUBMITTED: "submitted",
    Standing.IN_PROGRESS: "in progress",
    Standing.SCHEDULED: "scheduled",
    Standing.NOT_SCHEDULED: "not scheduled",
    Standing.EXEMPT: "exempt",
}
WHY = {
    Reason.NONE: "no session yet",
    Reason.ABSENT: "absent",
    Reason.INVALIDATED: "attempt invalidated",
    Reason.INTERRUPTED: "attempt interrupted",
    Reason.CANCELED: "session canceled",
    Reason.UNFINISHED: "to be continued",
}
By = Literal["test", "school", "grade", "subject", "group", "class"]
MOST = 3000


@dataclass(frozen=True, kw_only=True)
class StandingCount:
    """How many tests stand so. words: as a page says it."""

    standing: Standing
    words: str
    n: int


@dataclass(frozen=True, kw_only=True)
class ReasonCount:
    """How many of the tests that are not scheduled are so for this reason."""

    reason: Reason
    words: str
    n: int


@dataclass(frozen=True, kw_only=True)
class ParticipationRow:
    """Tests owed by some students. rate: submitted of all but the exempt; None where nobody is expected."""

    name: str
    owed: int
    counts: list[StandingCount]
    reasons: list[ReasonCount]
    rate: float | None


@dataclass(frozen=True, kw_only=True)
class ParticipationPage:
    """finding: how far the window has come. whole: all of it; the five always add up to what is owed."""

    finding: str
    window: str
    whole: ParticipationRow
    rows: list[ParticipationRow]
    by: By
    may_exempt: bool
    may_plan: bool


@dataclass(frozen=True, kw_only=True)
class OwedLine:
    """A test that a student owes. why: the reason where it is not scheduled, of an exemption where exempt. session, on: of
    the attempt that says so."""

    person: Id
    name: str
    alias: int
    grade: str
    school: str
    klass: str
    test: str
    subject: str
    standing: Standing
    words: str
    why: str
    instead: str
    session: Id | None
    on: datetime | None


@dataclass(frozen=True, kw_only=True)
class OwedNames:
    """n: how many tests; lines: the first of them, by name."""

    n: int
    lines: list[OwedLine]


def participation_page(ctx: Context, actor: Actor, window_id: int, by: By = "test") -> ParticipationPage:
    """Of the students and sessions that this person sees."""
    scope(actor, Action.SESSIONS_READ)
    with ctx.store.read() as db:
        window = _window(db, window_id)
        every = owed_tests(ctx, db, actor, window_id)
        rows = _rows(db, actor, every, by)
        over = window.end < local_today(ctx, db)
    whole = _row("all tests", every)
    return ParticipationPage(
        finding=participation_finding(count(one.owed for one in every), over),
        window=window.name,
        whole=whole,
        rows=rows,
        by=by,
        may_exempt=actor.may(Action.SUPPORT_WRITE),
        may_plan=actor.may(Action.SESSIONS_PLAN),
    )


def _window(db: Session, window_id: int) -> Window:
    window = db.get(Window, window_id)
    if window is None:
        raise NotFound("there is no such window")
    return window


def participation_finding(found: Participation, over: bool = False) -> str:
    """What is done, then what nobody has planned. over: the window has ended."""
    if not found.owed:
        return "No tests are owed in this window yet."
    n = found.by_standing
    share = f" ({found.rate:.0%})" if found.rate is not None else ""
    text = f"{n[Standing.SUBMITTED]:,} of {found.expected:,} tests {'were' if over else 'are'} submitted{share}."
    missing, absent = n[Standing.NOT_SCHEDULED], found.by_reason[Reason.ABSENT]
    if missing:
        one = missing == 1
        text += (
            f" {missing:,} {'was' if one else 'were'} not taken"
            if over
            else f" {missing:,} {'is' if one else 'are'} not scheduled"
        )
        if absent == missing:
            text += " after an absence." if one else ", all after an absence."
        else:
            text += f", {absent:,} of them after an absence." if absent else "."
    elif not over and (n[Standing.SCHEDULED] or n[Standing.IN_PROGRESS]):
        text += " All others are scheduled or in progress."
    return text


def _row(name: str, every: Sequence[OwedTest]) -> ParticipationRow:
    found = count(one.owed for one in every)
    return ParticipationRow(
        name=name,
        owed=found.owed,
        counts=[StandingCount(standing=s, words=words, n=found.by_standing[s]) for s, words in WORDS.items()],
        reasons=[ReasonCount(reason=r, words=words, n=found.by_reason[r]) for r, words in WHY.items()],
        rate=found.rate,
    )


def _rows(db: Session, actor: Actor, every: Sequence[OwedTest], by: By) -> list[ParticipationRow]:
    if by == "group":
        found = []
        for id, name, _ in groups_with_size(db, actor):
            members = set(db.scalars(select(GroupMember.person_id).where(GroupMember.group_id == id)))
            if mine := [one for one in every if one.person in members]:
                found.append(_row(name, mine))
        return found
    fields: dict[str, Callable[[OwedTest], str]] = {
        "test": lambda o: o.title,
        "school": lambda o: o.school,
        "grade": lambda o: o.grade,
        "subject": lambda o: o.subject,
        "class": lambda o: o.klass,
    }
    named: defaultdict[str, list[OwedTest]] = defaultdict(list)
    for one in every:
        named[fields[by](one) or NOWHERE].append(one)
    order = sorted(named, key=lambda name: (name == NOWHERE, by == "grade" and name != "K", name))
    return [_row(name, named[name]) for name in order]


def owed_lines(
    ctx: Context,
    actor: Actor,
    window_id: int,
    standing: Standing | None = None,
    reason: Reason | None = None,
    school: str = "",
    grade: str = "",
    subject: str = "",
    test: str = "",
    klass: str = "",
    group: str = "",
) -> OwedNames:
    """The names behind a number, by name."""
    scope(actor, Action.SESSIONS_READ)
    with ctx.store.read() as db:
        every = owed_tests(ctx, db, actor, window_id)
        if group:
            ids = [id for id, name, _ in groups_with_size(db, actor) if name == group]
            members = set(db.scalars(select(GroupMember.person_id).where(GroupMember.group_id.in_(ids))))
            every = [one for one in every if one.person in members]
        found = chosen(every, standing, reason, school=school, grade=grade, subject=subject, title=test, klass=klass)
        sessions = {one.owed.attempt.session for one in found if one.owed.attempt is not None}
        seen = set(
            db.scalars(
                select(PlannedSession.id).where(PlannedSession.id.in_(sessions), scope(actor, Action.SESSIONS_READ))
            )
        )
    n, found = len(found), found[:MOST]
    aliases = dict(zip((ids := sorted({one.person for one in found})), alias_numbers(ids), strict=True))
    return OwedNames(n=n, lines=[_line(one, aliases[one.person], seen) for one in found])


def _line(one: OwedTest, alias: int, seen: set[int]) -> OwedLine:
    attempt, standing = one.owed.attempt, one.owed.standing
    why = WHY[one.owed.reason] if standing is Standing.NOT_SCHEDULED else ""
    if standing is Standing.EXEMPT:
        why = one.exemption.reason if one.exemption is not None else "marked exempt at the session"
    return OwedLine(
        person=one.person,
        name=one.name,
        alias=alias,
        grade=one.grade,
        school=one.school,
        klass=one.klass,
        test=one.title,
        subject=one.subject,
        standing=standing,
        words=WORDS[standing],
        why=why,
        instead=one.exemption.instead if standing is Standing.EXEMPT and one.exemption is not None else "",
        session=attempt.session if attempt is not None and attempt.session in seen else None,
        on=attempt.start if attempt is not None else None,
    )


def print_participation(ctx: Context, actor: Actor, window_id: int) -> bytes:
    """One page for the board, as PDF."""
    pages = {by: participation_page(ctx, actor, window_id, by) for by in ("school", "grade", "subject")}
    with ctx.store.read() as db:
        window, dates, zone = _window(db, window_id), dates_of(db), zone_of(db)
        district = db.scalar(select(Federation.name)) or ""
        as_of = min(local_today(ctx, db), window.end)
        made = dates.dated_moment(ctx.clock().astimezone(zone))
    first = pages["school"]
    return participation_document(
        ParticipationPrint(
            district=district,
            title=f"Participation, {window.name} {window.start.year}",
            dates=f"{dates.day(window.start)} to {dates.day(window.end)}; as of {dates.long(as_of)}",
            finding=first.finding,
            columns=["Owed", *(c.words for c in first.whole.counts), "Rate"],
            tables=[
                (name, [*map(_cells, pages[by].rows), _cells(first.whole)])
                for by, name in (("school", "School"), ("grade", "Grade"), ("subject", "Subject"))
            ],
            untested=[f"{r.words}: {counted(r.n, 'test')}" for r in first.whole.reasons if r.n],
            made=f"{made}, {actor.name}",
        )
    )


def _cells(row: ParticipationRow) -> list[str]:
    rate = "–" if row.rate is None else f"{row.rate:.0%}"
    return [row.name, f"{row.owed:,}", *(f"{c.n:,}" for c in row.counts), rate]
