"""Scheduling sessions: what there is to choose from, and what must not collide."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, select, true
from sqlalchemy.orm import Session, joinedload

from bildung.formats.blueprint import read_plan
from bildung.services.owed import dealing
from bildung.services.owed.sessionroster import follow_class
from bildung.services.people.proctors import check_proctor, who_may_hold
from bildung.services.sessions import guards
from bildung.services.sessions.busy import A_DAY, check_free
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.codes import SESSION_LENGTH, new_code
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid
from bildung.store.models import (
    Form,
    FormItem,
    Person,
    PlannedSession,
    SchoolClass,
    Window,
)

LONGEST_INSTRUCTIONS = 2000
FEW = 2  # sessions that are scheduled, moved or canceled in a moment
NEAR = 800  # days from today within which a session is planned


def choices(ctx: Context, actor: Actor) -> dict[str, Any]:
    """What a new session can be made of, within this person's scope."""
    scope(actor, Action.SESSIONS_PLAN)
    allowed = scope(actor, Action.CLASSES_RUN)
    with ctx.store.read() as db:
        forms = db.scalars(
            select(Form).where(Form.published_at.is_not(None), scope(actor, Action.TESTS_GIVE)).order_by(Form.name)
        ).all()
        corrected = {f.before_id for f in forms}
        held: defaultdict[int, set[int]] = defaultdict(set)
        for form_id, part in db.execute(select(FormItem.form_id, FormItem.part).distinct()):
            held[form_id].add(part)
        classes = db.scalars(
            select(SchoolClass)
            .where(allowed, SchoolClass.active.is_(True))
            .options(joinedload(SchoolClass.school))
            .order_by(SchoolClass.title)
        ).all()
        staff = db.scalars(
            select(Person)
            .where(Person.kind == "staff", Person.active.is_(True), scope(actor, Action.PEOPLE_READ))
            .order_by(Person.family, Person.given)
        ).all()
        holding = who_may_hold(db, [p.id for p in staff])
        return {
            "forms": [_form_choice(f, forms, held[f.id]) for f in forms if f.id not in corrected],
            "classes": [
                {
                    "id": c.id,
                    "title": c.title,
                    "school": c.school.name,
                    "subject": c.subject,
                    "grade": c.grade,
                    "room": c.location,
                }
                for c in classes
            ],
            "staff": [{"id": p.id, "name": p.name, "may_hold": p.id in holding} for p in staff],
        }


def _form_choice(form: Form, forms: Sequence[Form], held: set[int]) -> dict[str, Any]:
    """What is asked of a form when it is planned: its parts, where there are several, and whether companions that are
    alike can be dealt out. held: parts that have items."""
    family = [f for f in forms if f.family_id is not None and f.family_id == form.family_id]
    names = [p.name or f"Part {at}" for at, p in enumerate(read_plan(form.plan).parts, 1)] if form.plan else []
    return {
        "id": form.id,
        "name": form.name,
        "subject": form.subject,
        "grade": form.grade,
        "companions": max(0, len(family) - 1),
        "alike": sum(f.role in dealing.ALIKE for f in family),
        "parts": names if len(names) > 1 and len(held) > 1 else [],
    }


def schedule(
    ctx: Context,
    actor: Actor,
    form_id: int,
    window_id: int,
    class_ids: list[int],
    room: str,
    proctor_id: int | None,
    start: datetime,
    end: datetime,
    part: int | None = None,
    deal: bool = False,
    grant_role: bool = False,
    why: str | None = None,
    times: Mapping[int, tuple[datetime, datetime]] | None = None,
    instructions: str = "",
    due: datetime | None = None,
) -> list[int]:
    """One session for each class, all or none; each with its roster and its code. part: of the form, from 0, that is
    sat here; None: all of it. deal: companions that are alike are dealt out in turn. grant_role: give whoever is to hold it
    the role of proctor, where they have none. why: the reason for what speaks against it, see `guards`; None: whoever calls has
    settled that. times: by class, where it is not `start` and `end`. instructions: for students. due: what is submitted
    later is late, and taken until the end."""
    scope(actor, Action.SESSIONS_PLAN)
    allowed = scope(actor, Action.CLASSES_RUN)
    # lengths are of time that passes, also where clocks change
    usual = start.astimezone(UTC), end.astimezone(UTC)
    own = {id: (a.astimezone(UTC), b.astimezone(UTC)) for id, (a, b) in (times or {}).items()}
    for begins, ends in [own.get(id, usual) for id in class_ids] or [usual]:
        check_times(begins, ends, ctx.clock())
    if due is not None and not all(a < due <= b for a, b in [own.get(id, usual) for id in class_ids] or [usual]):
        raise Invalid("the test is due after it opens and not after it closes", "due")
    if not class_ids:
        raise Invalid("choose at least one class", "class_ids")
    if len(instructions) > LONGEST_INSTRUCTIONS:
        raise Invalid(f"instructions have at most {LONGEST_INSTRUCTIONS} characters", "instructions")

    def work(db: Session) -> list[int]:
        form = publishable(db, actor, form_id, part)
        window = db.get(Window, window_id)
        if window is None:
            raise Invalid("choose a window", "window_id")
        classes = _their_classes(db, class_ids, allowed)
        for klass in classes:
            _refuse_taken(db, klass, form, window_id, part)
            refuse_busy(db, klass, *own.get(klass.id, usual))
        sessions = [
            PlannedSession(
                form=form,
                window=window,
                klass=klass,
                room=room.strip() or klass.location,
                proctor_id=proctor_id,
                start=begins,
                end=ends,
                part=part,
                deal=deal,
                instructions=instructions.strip(),
                due=None if due is None else due.astimezone(UTC),
            )
            for klass in classes
            for begins, ends in (own.get(klass.id, usual),)
        ]
        plans = [
            guards.Plan(klass=s.klass, form=form, window=window, room=s.room, start=s.start, end=s.end)
            for s in sessions
        ]
        against = guards.refuse_without_reason(db, plans, why)
        if proctor_id is not None:
            proctor = check_proctor(db, ctx, actor, proctor_id, classes[0].school_id, grant_role)
            if len(class_ids) > 1 and not own:
                raise Invalid(
                    f"{proctor.name} cannot proctor {len(class_ids)} sessions at once; schedule one class at a time",
                    "proctor_id",
                )
        else:
            proctor = None
        codes = set(db.scalars(select(PlannedSession.code)))
        for session in sessions:
            session.code = new_code(SESSION_LENGTH, codes)
            _put(db, ctx, actor, session, proctor, against, why or "")
        return [session.id for session in sessions]

    return ctx.store.write(work, much=len(class_ids) > FEW)


def _put(
    db: Session,
    ctx: Context,
    actor: Actor,
    session: PlannedSession,
    proctor: Person | None,
    against: Sequence[str],
    why: str,
) -> None:
    """Into the store, with its roster, and into the log with what speaks against it."""
    db.add(session)
    db.flush()
    if proctor is not None:
        check_free(db, proctor, session)
    follow_class(db, session)
    refuse_unsettled(db, session, session.klass.title)
    after = {
        "form": session.form.name,
        "class": session.klass.title,
        "start": session.start.isoformat(),
        "end": session.end.isoformat(),
    }
    if against:
        after["against"] = " ".join(against)
    audit.record(db, ctx.clock(), actor.person_id, "session.schedule", f"session:{session.id}", None, after, why)


@dataclass(frozen=True, kw_only=True)
class SessionWish:
    """One session of one class, as a plan has it. Times in UTC."""

    form_id: int
    class_id: int
    start: datetime
    end: datetime
    room: str = ""
    proctor_id: int | None = None
    title: str = ""


def schedule_in(
    db: Session, ctx: Context, actor: Actor, window: Window, wishes: Sequence[SessionWish], why: str
) -> list[PlannedSession]:
    """Sessions of a plan, in a transaction of somebody else, who has looked for what speaks against it."""
    allowed = scope(actor, Action.CLASSES_RUN)
    classes = {c.id: c for c in _their_classes(db, [wish.class_id for wish in wishes], allowed)} if wishes else {}
    codes = set(db.scalars(select(PlannedSession.code)))
    forms: dict[int, Form] = {}
    people: dict[int, Person] = {}
    made = []
    for wish in wishes:
        form = forms.get(wish.form_id) or publishable(db, actor, wish.form_id, None)
        forms[form.id] = form
        klass = classes[wish.class_id]
        check_times(wish.start, wish.end, ctx.clock())
        _refuse_taken(db, klass, form, window.id, None)
        refuse_busy(db, klass, wish.start, wish.end)
        session = PlannedSession(
            form=form,
            window=window,
            klass=klass,
            room=wish.room,
            proctor_id=wish.proctor_id,
            start=wish.start,
            end=wish.end,
            title=wish.title,
            code=new_code(SESSION_LENGTH, codes),
        )
        if wish.proctor_id is not None and wish.proctor_id not in people:
            people[wish.proctor_id] = check_proctor(db, ctx, actor, wish.proctor_id, klass.school_id, True)
        proctor = people[wish.proctor_id] if wish.proctor_id is not None else None
        _put(db, ctx, actor, session, proctor, (), why)
        made.append(session)
    return made


def check_times(start: datetime, end: datetime, now: datetime) -> None:
    """Invalid where these cannot be a session's times at all."""
    if end <= start:
        raise Invalid("the end comes after the start", "end")
    if not timedelta(days=-NEAR) < start - now < timedelta(days=NEAR):
        raise Invalid(f"{start.year} is not this school year or one beside it; check the year", "start")
    if end - start > timedelta(days=60):
        raise Invalid("a session lasts 60 days at most", "end")


def publishable(db: Session, actor: Actor, form_id: int, part: int | None) -> Form:
    """The form, where this person can schedule it, and it holds something in this part."""
    form = db.scalar(select(Form).where(Form.id == form_id, scope(actor, Action.TESTS_GIVE)))
    if form is None or form.published_at is None:
        raise Invalid("choose a published form", "form_id")
    if part is not None and part not in {item.part for item in form.items}:
        raise Invalid(f"{form.name} has no items in part {part + 1}", "part")
    return form


def _their_classes(db: Session, ids: list[int], allowed: ColumnElement[bool]) -> list[SchoolClass]:
    """Each class once, in the order asked for; all of them must be this person's."""
    found = {c.id: c for c in db.scalars(select(SchoolClass).where(SchoolClass.id.in_(ids), allowed))}
    if any(id not in found for id in ids):
        raise Invalid("a class is not there or not yours", "class_ids")
    return [found[id] for id in dict.fromkeys(ids)]


def _refuse_taken(db: Session, klass: SchoolClass, form: Form, window_id: int, part: int | None) -> None:
    """A class takes a form, or a companion of it, once in a window."""
    alike = [form.id] if form.family is None else [f.id for f in form.family.forms]
    same_part = true() if part is None else PlannedSession.part.is_(None) | (PlannedSession.part == part)
    taken = select(PlannedSession.id).where(
        PlannedSession.class_id == klass.id,
        PlannedSession.form_id.in_(alike),
        PlannedSession.window_id == window_id,
        PlannedSession.canceled_at.is_(None),
        PlannedSession.by_name.is_(False),
        same_part,
    )
    if db.scalar(taken):
        what = "this form" if part is None else "this part"
        what += " or a companion of it" if len(alike) > 1 else ""
        raise Conflict(f"{klass.title} has {what} in this window already", "class_ids")


def refuse_busy(db: Session, klass: SchoolClass, start: datetime, end: datetime, except_id: int = 0) -> None:
    """Conflict where the class takes another test at that time; sessions by name and those that are open for days leave
    it free."""
    clashes = db.scalars(
        select(PlannedSession).where(
            PlannedSession.class_id == klass.id,
            PlannedSession.start < end,
            PlannedSession.end > start,
            PlannedSession.closed_at.is_(None),
            PlannedSession.by_name.is_(False),
            PlannedSession.id != except_id,
        )
    )
    if end - start < A_DAY and (clash := next((c for c in clashes if c.end - c.start < A_DAY), None)) is not None:
        raise Conflict(f"{klass.title} takes {clash.form.name} at that time", "start")


def refuse_unsettled(db: Session, session: PlannedSession, title: str) -> None:
    """A student who is named for two forms is settled before anybody plans: afterwards it would be found at the door."""
    unsettled = dealing.assign(db, session).unsettled
    if unsettled:
        names = [db.get_one(Person, id).name for id in list(unsettled)[:3]]
        more = f" and {len(unsettled) - 3} more" if len(unsettled) > 3 else ""
        family = session.form.family
        raise Conflict(
            f"{', '.join(names)}{more} of {title} would receive two different forms; settle it at the family"
            f" {family.name if family else ''}",
            "form_id",
        )
