"""Before a window's sessions: which student takes which form of a test, and why."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from bildung.core.assembly.companions import Claim, settled
from bildung.core.items.shown import counted
from bildung.core.school.schooltime import school_day
from bildung.services.calendar.years import zone_of
from bildung.services.forms.settings import title_of
from bildung.services.owed.dealing import ALIKE, claims_of
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Form, Person, PlannedSession, Sitting, Window

CLASS_FORM = "the form of the class"
IN_TURN = "in turn, by seat"
STARTED = "started on it"


@dataclass(frozen=True, kw_only=True)
class FormTaker:
    """A student at a session. session: its page."""

    person: Id
    name: str
    klass: str
    session: Id


@dataclass(frozen=True, kw_only=True)
class FormUse:
    """Those who take one form of a test for one reason. other: not the form that the session itself gives."""

    form_id: Id
    form: str
    role: str
    why: str
    other: bool
    students: list[FormTaker]


@dataclass(frozen=True, kw_only=True)
class UnsettledTaker:
    """A student named for several forms, who takes the session's own until that is settled. claims: what names which."""

    person: Id
    name: str
    klass: str
    session: Id
    claims: list[str]


@dataclass(frozen=True, kw_only=True)
class TestForms:
    """test: as students see it. n: scheduled attempts. The most frequent use first."""

    test: str
    subject: str
    grade: str
    n: int
    uses: list[FormUse]


@dataclass(frozen=True, kw_only=True)
class FormsPage:
    """tests: those with several forms first. alike: how many give everyone one form."""

    finding: str
    window: str
    tests: list[TestForms]
    alike: int
    unsettled: list[UnsettledTaker]


def forms_page(ctx: Context, actor: Actor, window_id: int) -> FormsPage:
    """Of the sessions of a window that are ahead or open and that this person plans."""
    allowed = scope(actor, Action.SESSIONS_PLAN)
    with ctx.store.read() as db:
        window = db.get(Window, window_id)
        if window is None:
            raise NotFound("there is no such window")
        rows = db.execute(
            select(PlannedSession, Sitting, Person)
            .join(Sitting, Sitting.session_id == PlannedSession.id)
            .join(Person, Person.id == Sitting.person_id)
            .where(
                PlannedSession.window_id == window.id,
                PlannedSession.closed_at.is_(None),
                Sitting.state.in_(("not_started", "answering", "resting", "on_paper", "handed_in")),
                allowed,
            )
            .options(joinedload(PlannedSession.form).joinedload(Form.family), joinedload(PlannedSession.klass))
            .order_by(Person.family, Person.given, Person.id)
        ).all()
        claims = _claims(db, [(session, sitting) for session, sitting, _ in rows])
        forms = {f.id: f for f in db.scalars(select(Form).where(Form.id.in_({s.form_id for _, s, _ in rows})))}
        uses: defaultdict[int, dict[tuple[int, str], FormUse]] = defaultdict(dict)
        leads: dict[int, Form] = {}
        unsettled = []
        for session, sitting, person in rows:
            own = session.form
            form = forms.get(sitting.form_id or 0, own)
            mine = claims.get((session.id, person.id), ())
            if sitting.started_at is None and not _agree(mine):
                unsettled.append(_unsettled(db, session, person, mine))
            key = -own.family_id if own.family_id is not None else own.id
            leads.setdefault(key, own)
            why = _why(session, sitting, form, mine)
            use = uses[key].setdefault(
                (form.id, why),
                FormUse(form_id=form.id, form=form.name, role=form.role, why=why, other=form.id != own.id, students=[]),
            )
            use.students.append(
                FormTaker(person=person.id, name=person.name, klass=session.klass.title, session=session.id)
            )
        tests = [_test(leads[key], list(found.values())) for key, found in uses.items()]
        tests.sort(key=lambda t: (len({u.form_id for u in t.uses}) == 1, t.subject, t.grade, t.test))
    return FormsPage(
        finding=_finding(tests, unsettled),
        window=window.name,
        tests=tests,
        alike=sum(len(t.uses) == 1 for t in tests),
        unsettled=unsettled,
    )


def _claims(db: Session, rows: Sequence[tuple[PlannedSession, Sitting]]) -> dict[tuple[int, int], Sequence[Claim]]:
    """By session and student; asked once for each family and day."""
    zone = zone_of(db)
    days: defaultdict[tuple[int, date], list[tuple[PlannedSession, int]]] = defaultdict(list)
    for session, sitting in rows:
        if session.form.family_id is not None:
            days[session.form.family_id, school_day(session.start, zone)].append((session, sitting.person_id))
    found: dict[tuple[int, int], Sequence[Claim]] = {}
    for (_, day), some in days.items():
        family = some[0][0].form.family
        assert family is not None
        by_person = claims_of(db, family, {person for _, person in some}, day)
        for session, person in some:
            found[session.id, person] = by_person.get(person, ())
    return found


def _agree(claims: Sequence[Claim]) -> bool:
    """Whether what names forms for a student comes to one."""
    try:
        settled(claims)
    except LookupError:
        return False
    return True


def _why(session: PlannedSession, sitting: Sitting, form: Form, claims: Sequence[Claim]) -> str:
    reasons = sorted({c.why for c in claims if c.form == form.id}, key=len)
    if reasons:
        return reasons[0]
    if session.deal and form.role in ALIKE and form.family_id is not None:
        return IN_TURN
    return CLASS_FORM if form.id == session.form_id else STARTED


def _unsettled(db: Session, session: PlannedSession, person: Person, claims: Sequence[Claim]) -> UnsettledTaker:
    named = [f"{c.why}: {db.get_one(Form, c.form).name}" for c in claims]
    return UnsettledTaker(
        person=person.id, name=person.name, klass=session.klass.title, session=session.id, claims=named
    )


def _test(form: Form, uses: list[FormUse]) -> TestForms:
    uses.sort(key=lambda u: (u.other, -len(u.students)))
    return TestForms(
        test=title_of(form),
        subject=form.subject,
        grade=form.grade,
        n=sum(len(u.students) for u in uses),
        uses=uses,
    )


def _finding(tests: list[TestForms], unsettled: list[UnsettledTaker]) -> str:
    total = sum(t.n for t in tests)
    if not total:
        return "No sessions are upcoming in this window."
    other = sum(len(u.students) for t in tests for u in t.uses if u.other)
    text = f"{other} of {total:,} scheduled attempts are on a different form from the rest of the class."
    if unsettled:
        n = len(unsettled)
        text += f" {counted(n, 'student')} {'is' if n == 1 else 'are'} named for more than one form."
    return text
