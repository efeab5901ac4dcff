"""Accommodations entered, changed, approved and ended; of one student and as the coordinator's list."""

from __future__ import annotations

from dataclasses import dataclass, fields
from datetime import date, datetime, timedelta

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session, aliased

from bildung.core.accommodations.holding import Line, holds, lapsing
from bildung.core.accommodations.kinds import KINDS, SOURCES, TESTS, said, value_of
from bildung.core.errors import Refused
from bildung.core.items.shown import counted
from bildung.services.calendar.years import local_today
from bildung.services.owed.accommodated import line_of
from bildung.services.people.changes import moved
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Accommodation, Form, Person, SchoolClass, Window

LONGEST_NOTE = 400
ABOUT = ("source", "note")  # what is said of an accommodation, and changes nothing of what is given


@dataclass(frozen=True, kw_only=True)
class Entered:
    """An accommodation as it is entered; the fields are those of the table."""

    kind: str
    value: str = ""
    subject: str = ""
    test_kind: str = ""
    source: str = ""
    note: str = ""
    start: date | None = None
    until: date | None = None


@dataclass(frozen=True, kw_only=True)
class AccommodationLine:
    """One of a student's. says: what, in words; tests: for which; holds: today, for tests that it is for. standing: why
    not, in words. replaces: what it takes the place of once it is approved, in words."""

    id: Id
    person: Id
    name: str
    grade: str
    kind: str
    value: str
    says: str
    subject: str
    test_kind: str
    tests: str
    source: str
    source_says: str
    note: str
    start: date | None
    until: date | None
    entered_by: str
    entered_at: datetime
    approved: bool
    holds: bool
    standing: str
    replaces: str


@dataclass(frozen=True, kw_only=True)
class KindChoice:
    """takes: of a kind of accommodation, what belongs to it."""

    name: str
    says: str
    takes: str = ""


@dataclass(frozen=True, kw_only=True)
class AccommodationChoices:
    """What can be entered: kinds, sources, subjects and kinds of test."""

    kinds: list[KindChoice]
    sources: list[KindChoice]
    subjects: list[str]
    test_kinds: list[KindChoice]


@dataclass(frozen=True, kw_only=True)
class AccommodationsPage:
    """waiting: entered and not approved. lapsing: those that end before this window does. Each with its heading."""

    waiting: list[AccommodationLine]
    waiting_says: str
    lapsing: list[AccommodationLine]
    lapsing_says: str
    may_approve: bool


def checked(entered: Entered) -> Entered:
    """The same as it is stored, or an error that names what is allowed."""
    try:
        value = value_of(entered.kind, entered.value)
    except Refused as error:
        raise Invalid(str(error), "value" if entered.kind in KINDS else "kind") from error
    if entered.source not in ("", *SOURCES):
        raise Invalid(f"a source is {', '.join(SOURCES.values())}", "source")
    if entered.test_kind not in ("", *TESTS):
        raise Invalid(f"a kind of test is one of {', '.join(TESTS.values())}", "test_kind")
    if len(entered.note) > LONGEST_NOTE:
        raise Invalid(f"a note has at most {LONGEST_NOTE} characters", "note")
    if entered.start and entered.until and entered.until < entered.start:
        raise Invalid("the last day is before the first", "until")
    stripped = {"subject": entered.subject.strip(), "note": entered.note.strip()}
    return Entered(**{f.name: getattr(entered, f.name) for f in fields(Entered)} | {"value": value} | stripped)


def enter(ctx: Context, actor: Actor, person_id: int, entered: Entered) -> None:
    """One more for a student; it holds at once where a coordinator enters it, else when one approves it."""
    wanted = checked(entered)

    def work(db: Session) -> None:
        person = _student(db, actor, Action.SUPPORT_ENTER, person_id)
        same = select(Accommodation).where(
            Accommodation.person_id == person.id,
            Accommodation.kind == wanted.kind,
            Accommodation.value == wanted.value,
            Accommodation.subject == wanted.subject,
            Accommodation.test_kind == wanted.test_kind,
        )
        if any(_overlap(row, wanted) for row in db.scalars(same)):
            raise Invalid(f"{person.name} has “{said(wanted.kind, wanted.value)}” for these tests already", "kind")
        add(db, ctx, actor, person.id, wanted)
        moved(db, [person.id])

    ctx.store.write(work)


def _overlap(one: Accommodation, other: Entered) -> bool:
    """Whether there is a day on which both hold."""
    first, last = (
        max(one.start or date.min, other.start or date.min),
        min(one.until or date.max, other.until or date.max),
    )
    return first <= last


def add(db: Session, ctx: Context, actor: Actor, person_id: int, wanted: Entered) -> Accommodation:
    """Without a look at who may; approved where this person approves."""
    now = ctx.clock()
    approves = db.scalar(select(Person.id).where(Person.id == person_id, _may_approve(actor))) is not None
    row = Accommodation(
        person_id=person_id,
        **{f.name: getattr(wanted, f.name) for f in fields(Entered)},
        entered_at=now,
        entered_by_id=actor.person_id,
        approved_at=now if approves else None,
        approved_by_id=actor.person_id if approves else None,
    )
    db.add(row)
    _log(db, ctx, actor, "accommodation.enter", person_id, "", described(wanted))
    return row


def change(ctx: Context, actor: Actor, accommodation_id: int, entered: Entered) -> None:
    """Another value, other tests, other dates. Of a case manager it waits for approval, and what holds goes on holding
    until then; a note or source alone does not have to be approved."""
    wanted = checked(entered)

    def work(db: Session) -> None:
        row = _row(db, actor, Action.SUPPORT_ENTER, accommodation_id)
        before = described(row)
        same = all(getattr(row, f.name) == getattr(wanted, f.name) for f in fields(Entered) if f.name not in ABOUT)
        approves = db.scalar(select(Person.id).where(Person.id == row.person_id, _may_approve(actor))) is not None
        if row.approved_at is not None and not same and not approves:
            waiting = select(Accommodation.id).where(Accommodation.replaces_id == row.id)
            if db.scalar(waiting) is not None:
                raise Conflict("another change of this accommodation waits for approval; edit that one")
            add(db, ctx, actor, row.person_id, wanted).replaces_id = row.id
            return
        for f in fields(Entered):
            setattr(row, f.name, getattr(wanted, f.name))
        if before != described(wanted):
            _log(db, ctx, actor, "accommodation.change", row.person_id, before, described(wanted))
        moved(db, [row.person_id])

    ctx.store.write(work)


def end(ctx: Context, actor: Actor, accommodation_id: int) -> None:
    """From today on it holds no more; what held before stays on record, and what never held is gone."""

    def work(db: Session) -> None:
        row = _row(db, actor, Action.SUPPORT_ENTER, accommodation_id)
        finish(db, ctx, actor, row)
        moved(db, [row.person_id])

    ctx.store.write(work)


def finish(db: Session, ctx: Context, actor: Actor, row: Accommodation) -> None:
    """End one without a look at who may."""
    today = local_today(ctx, db)
    yesterday = today - timedelta(days=1)
    _log(db, ctx, actor, "accommodation.end", row.person_id, described(row), "")
    entered_on = row.entered_at.date()
    if row.approved_at is None or (row.start or entered_on) >= today:
        db.delete(row)
    elif row.until is None or row.until > yesterday:
        row.until = yesterday


def approve(ctx: Context, actor: Actor, ids: list[int]) -> int:
    """All of these at once, or none; how many."""

    def work(db: Session) -> int:
        rows = [_row(db, actor, Action.SUPPORT_WRITE, id) for id in ids]
        for row in rows:
            before = db.get(Accommodation, row.replaces_id) if row.replaces_id is not None else None
            row.replaces_id = None
            if before is not None:
                db.flush()
                finish(db, ctx, actor, before)
            row.approved_at, row.approved_by_id = ctx.clock(), actor.person_id
            _log(db, ctx, actor, "accommodation.approve", row.person_id, "", described(row))
        moved(db, [row.person_id for row in rows])
        return len(rows)

    return ctx.store.write(work)


def decline(ctx: Context, actor: Actor, accommodation_id: int, why: str) -> None:
    """Not approved, with the reason in the log; it never held, so it goes."""
    if not why.strip():
        raise Invalid("say why it is declined", "why")

    def work(db: Session) -> None:
        row = _row(db, actor, Action.SUPPORT_WRITE, accommodation_id)
        if row.approved_at is not None:
            raise Invalid("this is approved already; end it instead", "id")
        _log(db, ctx, actor, "accommodation.decline", row.person_id, described(row), why.strip())
        db.delete(row)

    ctx.store.write(work)


def set_case_manager(ctx: Context, actor: Actor, person_id: int, manager_id: int | None) -> None:
    """Who keeps a student's accommodations: a teacher, special-education teacher or interventionist."""

    def work(db: Session) -> None:
        person = _student(db, actor, Action.SUPPORT_WRITE, person_id)
        manager = db.get(Person, manager_id) if manager_id is not None else None
        if manager_id is not None and (manager is None or manager.kind != "staff" or not manager.active):
            raise Invalid("a case manager is an active member of the staff", "manager")
        before = db.get(Person, person.case_manager_id).name if person.case_manager_id else ""  # type: ignore[union-attr]
        person.case_manager_id = manager_id
        _log(db, ctx, actor, "case_manager.set", person.id, before, manager.name if manager else "")

    ctx.store.write(work)


def lines_of(ctx: Context, db: Session, person_id: int) -> list[AccommodationLine]:
    """All of one student's, what holds today first, then by when it was entered."""
    found = _lines(ctx, db, Accommodation.person_id == person_id)
    return sorted(found, key=lambda one: (not one.holds, one.until is not None, one.entered_at))


def choices(db: Session) -> AccommodationChoices:
    """For the form in which they are entered."""
    named = (
        select(Form.subject)
        .where(Form.subject != "")
        .union(select(SchoolClass.subject).where(SchoolClass.subject != ""))
    )
    return AccommodationChoices(
        kinds=[KindChoice(name=k.name, says=k.says, takes=k.takes) for k in KINDS.values()],
        sources=[KindChoice(name=name, says=says) for name, says in SOURCES.items()],
        subjects=sorted(set(db.scalars(named))),
        test_kinds=[KindChoice(name=name, says=says) for name, says in TESTS.items()],
    )


def page(ctx: Context, actor: Actor) -> AccommodationsPage:
    """What waits for approval and what ends too early, of the students whose accommodations this person sees."""
    allowed = scope(actor, Action.SUPPORT_READ)
    with ctx.store.read() as db:
        today = local_today(ctx, db)
        theirs = Accommodation.person_id.in_(select(Person.id).where(Person.active.is_(True), allowed))
        waiting = _lines(ctx, db, theirs & Accommodation.approved_at.is_(None))
        window = _open_window(db, today)
        ending = _lapsing(ctx, db, theirs, today, window) if window else []
    return AccommodationsPage(
        waiting=waiting,
        waiting_says=waiting_says(len(waiting)),
        lapsing=ending,
        lapsing_says=lapsing_says(len(ending), window.name if window else ""),
        may_approve=actor.may(Action.SUPPORT_WRITE),
    )


def waiting_says(n: int) -> str:
    """On Today, and over the list."""
    return f"{counted(n, 'accommodation')} to approve"


def lapsing_says(n: int, window: str) -> str:
    """On Today, and over the list."""
    return f"{counted(n, 'accommodation')} {'ends' if n == 1 else 'end'} before {window} does"


def to_approve(ctx: Context, db: Session, actor: Actor) -> int:
    """How many wait for this person."""
    if not actor.may(Action.SUPPORT_WRITE):
        return 0
    mine = select(Person.id).where(Person.active.is_(True), scope(actor, Action.SUPPORT_WRITE))
    waiting = Accommodation.approved_at.is_(None) & Accommodation.person_id.in_(mine)
    return len(db.scalars(select(Accommodation.id).where(waiting)).all())


def ending_soon(ctx: Context, db: Session, actor: Actor) -> tuple[str, int]:
    """The window that is open now and how many of the accommodations this person sets end before it does."""
    today = local_today(ctx, db)
    window = _open_window(db, today)
    if window is None or not actor.may(Action.SUPPORT_ENTER):
        return "", 0
    mine = select(Person.id).where(Person.active.is_(True), scope(actor, Action.SUPPORT_ENTER))
    return window.name, len(_lapsing(ctx, db, Accommodation.person_id.in_(mine), today, window))


def _open_window(db: Session, today: date) -> Window | None:
    return db.scalar(select(Window).where(Window.start <= today, Window.end >= today).order_by(Window.end))


def _lapsing(
    ctx: Context, db: Session, theirs: ColumnElement[bool], today: date, window: Window
) -> list[AccommodationLine]:
    """Those that end before the window does and are not followed by the same for the days after."""
    rows = db.scalars(select(Accommodation).where(theirs)).all()
    by_person: dict[int, list[Accommodation]] = {}
    for row in rows:
        by_person.setdefault(row.person_id, []).append(row)
    ends: list[int] = []
    for theirs_all in by_person.values():
        lines = [line_of(row) for row in theirs_all]
        last = {one.kind for one in lines if holds(one, window.end)}
        gone: list[Line] = [one for one in lapsing(lines, today, window.end) if one.kind not in last]
        ends += [row.id for row, one in zip(theirs_all, lines, strict=True) if one in gone]
    return _lines(ctx, db, Accommodation.id.in_(ends)) if ends else []


def _lines(ctx: Context, db: Session, which: ColumnElement[bool]) -> list[AccommodationLine]:
    by = aliased(Person)
    today = local_today(ctx, db)
    old = aliased(Accommodation)
    rows = db.execute(
        select(Accommodation, Person, by, old)
        .join(Person, Person.id == Accommodation.person_id)
        .outerjoin(by, by.id == Accommodation.entered_by_id)
        .outerjoin(old, old.id == Accommodation.replaces_id)
        .where(which)
        .order_by(Person.family, Person.given, Accommodation.id)
    ).all()
    return [_line(row, person, entered_by, before, today) for row, person, entered_by, before in rows]


def _line(
    row: Accommodation, person: Person, by: Person | None, before: Accommodation | None, today: date
) -> AccommodationLine:
    return AccommodationLine(
        id=row.id,
        person=person.id,
        name=person.name,
        grade=person.grade,
        kind=row.kind,
        value=row.value,
        says=said(row.kind, row.value),
        subject=row.subject,
        test_kind=row.test_kind,
        tests=_tests(row.subject, row.test_kind),
        source=row.source,
        source_says=SOURCES.get(row.source, ""),
        note=row.note,
        start=row.start,
        until=row.until,
        entered_by=by.name if by else "",
        entered_at=row.entered_at,
        approved=row.approved_at is not None,
        holds=holds(line_of(row), today),
        standing=_standing(row, today),
        replaces=said(before.kind, before.value) if before is not None else "",
    )


def _standing(row: Accommodation, today: date) -> str:
    """Why it does not hold on a day; empty where it does."""
    if row.approved_at is None:
        return "to approve"
    if row.until is not None and row.until < today:
        return "ended"
    return "not yet" if row.start is not None and row.start > today else ""


def _tests(subject: str, test_kind: str) -> str:
    """For which tests, in words: "benchmarks in Mathematics"."""
    kinds = TESTS.get(test_kind, "all tests")
    return f"{kinds} in {subject}" if subject else kinds


def described(of: Entered | Accommodation) -> str:
    """One accommodation in a line, for the log."""
    text = f"{said(of.kind, of.value)}, {_tests(of.subject, of.test_kind)}"
    if of.source:
        text += f", {SOURCES[of.source]}"
    if of.start:
        text += f", from {of.start}"
    return text + (f", until {of.until}" if of.until else "")


def _student(db: Session, actor: Actor, action: Action, person_id: int) -> Person:
    person = db.scalar(select(Person).where(Person.id == person_id, Person.kind == "student", scope(actor, action)))
    if person is None:
        raise NotFound("there is no such student, or they are not yours")
    return person


def _row(db: Session, actor: Actor, action: Action, accommodation_id: int) -> Accommodation:
    row = db.get(Accommodation, accommodation_id)
    if row is None:
        raise NotFound("this accommodation is gone; reload the page")
    _student(db, actor, action, row.person_id)
    return row


def _may_approve(actor: Actor) -> ColumnElement[bool]:
    return scope(actor, Action.SUPPORT_WRITE) if actor.may(Action.SUPPORT_WRITE) else Person.id.is_(None)


def _log(db: Session, ctx: Context, actor: Actor, what: str, person_id: int, before: str, after: str) -> None:
    audit.record(db, ctx.clock(), actor.person_id, what, f"person:{person_id}", before, after)
