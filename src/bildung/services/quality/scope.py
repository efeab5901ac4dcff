"""What is looked at: which sittings of which forms, as controls choose it and as words say it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted, dated
from bildung.services.forms.settings import lead_of
from bildung.services.people.groups import groups_with_size
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.store.models import (
    Federation,
    Form,
    Group,
    GroupMember,
    Person,
    PlannedSession,
    RoomEvent,
    School,
    SchoolClass,
    Sitting,
    Window,
)

MOST_SESSIONS = 4000


@dataclass(frozen=True, kw_only=True)
class ScopeRequest:
    """What was asked for. Empty: not narrowed. forms: at least one. students: ids of persons. since, until: first and
    last day. regular: without students about whose attempt an irregularity was noted."""

    forms: tuple[int, ...]
    windows: tuple[int, ...] = ()
    sessions: tuple[int, ...] = ()
    schools: tuple[int, ...] = ()
    grades: tuple[str, ...] = ()
    classes: tuple[int, ...] = ()
    groups: tuple[int, ...] = ()
    students: tuple[int, ...] = ()
    since: date | None = None
    until: date | None = None
    regular: bool = False


@dataclass(frozen=True, kw_only=True)
class ScopeOccasion:
    """A session in which somebody sat one of the forms. named: whether this person may see there who answered what."""

    id: int
    window_id: int
    window: str
    year: int
    class_id: int
    klass: str
    school_id: int
    school: str
    grade: str
    start: datetime
    closed: bool
    data_version: int
    forms: tuple[int, ...]
    named: bool


@dataclass(frozen=True, kw_only=True)
class Scoped:
    """wanted, resolved: forms in the order asked for, the general one of a family first; all: every occasion of these
    forms that this person may judge; chosen: those that the other wishes leave. people: ids that groups and students
    narrow to, None where they do not. group_names: of the groups. irregular: students with an irregularity in
    the chosen sessions, whether they are left out or not."""

    wanted: ScopeRequest
    forms: tuple[Form, ...]
    all: tuple[ScopeOccasion, ...]
    chosen: tuple[ScopeOccasion, ...]
    people: frozenset[int] | None
    group_names: tuple[str, ...] = ()
    irregular: frozenset[int] = frozenset()

    @property
    def named(self) -> frozenset[int]:
        """Sessions whose students this person may see by name."""
        return frozenset(o.id for o in self.chosen if o.named)


@dataclass(frozen=True)
class ScopeChoice:
    """Something that can be looked at. n: sessions. chosen: whether it is."""

    id: str
    name: str
    n: int
    chosen: bool


@dataclass(frozen=True, kw_only=True)
class ScopeChoices:
    """What the controls offer, and the scope in words, from the widest to the narrowest. related: forms that may be
    looked at together with these, of the same family or corrections of them. irregular: students with an irregularity; regular:
    they are left out."""

    words: list[str]
    forms: list[ScopeChoice]
    related: list[ScopeChoice]
    windows: list[ScopeChoice]
    schools: list[ScopeChoice]
    grades: list[ScopeChoice]
    classes: list[ScopeChoice]
    groups: list[ScopeChoice] = field(default_factory=list)
    irregular: int = 0
    regular: bool = False


def sat_in(*forms: int) -> ColumnElement[bool]:
    """Sessions in which somebody received one of these forms, as the session's own or as a companion of it."""
    companions = select(Sitting.session_id).where(Sitting.form_id.in_(forms))
    return PlannedSession.form_id.in_(forms) | PlannedSession.id.in_(companions)


def administrations(
    db: Session, allowed: ColumnElement[bool], window_id: int | None = None
) -> dict[tuple[int, int], datetime]:
    """(form, window) of everything that somebody handed in, with the start of its latest session. allowed: sessions."""
    wanted = (
        select(func.coalesce(Sitting.form_id, PlannedSession.form_id), PlannedSession.window_id, PlannedSession.start)
        .join(Sitting, Sitting.session_id == PlannedSession.id)
        .where(allowed, Sitting.state == "handed_in")
        .distinct()
    )
    if window_id is not None:
        wanted = wanted.where(PlannedSession.window_id == window_id)
    latest: dict[tuple[int, int], datetime] = {}
    for form, window, start in db.execute(wanted):
        latest[form, window] = max(start, latest.get((form, window), start))
    return latest


def resolve(db: Session, actor: Actor, wanted: ScopeRequest) -> Scoped:
    """Refused where a wish names what is not there or not this person's; nothing is silently left out."""
    if not wanted.forms:
        raise Invalid("choose a form", "form")
    forms = {f.id: f for f in db.scalars(select(Form).where(Form.id.in_(wanted.forms)))}
    if set(wanted.forms) - forms.keys():
        raise NotFound("this form has no sessions in this window that you may see")
    zone = ZoneInfo(db.scalar(select(Federation.zone)) or "UTC")
    received: dict[int, set[int]] = {}
    allowed = scope(actor, Action.QUALITY_READ)
    theirs = func.coalesce(Sitting.form_id, PlannedSession.form_id)
    for session, form in db.execute(
        select(PlannedSession.id, theirs)
        .outerjoin(Sitting, Sitting.session_id == PlannedSession.id)
        .where(sat_in(*wanted.forms), allowed, theirs.in_(wanted.forms))
        .distinct()
    ):
        received.setdefault(session, set()).add(form)
    may_name = actor.may(Action.ANSWERS_READ)
    named = (
        set(
            db.scalars(
                select(PlannedSession.id).where(PlannedSession.id.in_(received), scope(actor, Action.ANSWERS_READ))
            )
        )
        if may_name and received
        else set()
    )
    found = _occasions(db, received, named)
    if not found:
        raise NotFound("this form has no sessions in this window that you may see")
    chosen = tuple(o for o in found if _fits(o, wanted, zone))
    _all_there(wanted, found)
    if len(chosen) > MOST_SESSIONS:
        raise Invalid(f"{len(chosen)} sessions; at most {MOST_SESSIONS} are looked at together", "window")
    people, names = _people(db, actor, wanted)
    irregular = _irregular(db, [o.id for o in chosen])
    if wanted.regular and irregular:
        everyone = people if people is not None else _sitters(db, [o.id for o in chosen])
        people = everyone - irregular
    ordered = sorted(wanted.forms, key=lambda id: (_rank(forms[id]), wanted.forms.index(id)))
    return Scoped(
        wanted=wanted,
        forms=tuple(forms[id] for id in ordered),
        all=found,
        chosen=chosen,
        people=people,
        group_names=names,
        irregular=irregular,
    )


def _irregular(db: Session, sessions: Collection[int]) -> frozenset[int]:
    """Students about whose own attempt something was noted; what was noted about a whole session is about nobody's."""
    noted = (
        select(Sitting.person_id)
        .join(RoomEvent, RoomEvent.sitting_id == Sitting.id)
        .where(Sitting.session_id.in_(sessions), RoomEvent.kind == "irregularity")
    )
    return frozenset(db.scalars(noted))


def _sitters(db: Session, sessions: Collection[int]) -> frozenset[int]:
    return frozenset(db.scalars(select(Sitting.person_id).where(Sitting.session_id.in_(sessions))))


def everybody(db: Session, scoped: Scoped) -> tuple[ScopeOccasion, ...]:
    """Every session in which somebody received the forms of this view, in its windows, whosever it is. For figures over
    all of them only: nobody of these is named."""
    forms, theirs = [f.id for f in scoped.forms], func.coalesce(Sitting.form_id, PlannedSession.form_id)
    received: dict[int, set[int]] = {}
    for session, form in db.execute(
        select(PlannedSession.id, theirs)
        .outerjoin(Sitting, Sitting.session_id == PlannedSession.id)
        .where(sat_in(*forms), theirs.in_(forms), PlannedSession.window_id.in_({o.window_id for o in scoped.chosen}))
        .distinct()
    ):
        received.setdefault(session, set()).add(form)
    return _occasions(db, received, set())


def _occasions(db: Session, received: Mapping[int, set[int]], named: Collection[int]) -> tuple[ScopeOccasion, ...]:
    """received: forms by session. named: sessions whose students may be seen by name."""
    rows = db.execute(
        select(PlannedSession, Window, SchoolClass, School)
        .join(Window, Window.id == PlannedSession.window_id)
        .join(SchoolClass, SchoolClass.id == PlannedSession.class_id)
        .join(School, School.id == SchoolClass.school_id)
        .where(PlannedSession.id.in_(received))
        .order_by(SchoolClass.title, PlannedSession.start, PlannedSession.id)
    ).all()
    return tuple(
        ScopeOccasion(
            id=s.id,
            window_id=w.id,
            window=w.name,
            year=w.start.year,
            class_id=c.id,
            klass=c.title,
            school_id=school.id,
            school=school.name,
            grade=c.grade,
            start=s.start,
            closed=s.closed_at is not None,
            data_version=s.data_version,
            forms=tuple(sorted(received[s.id])),
            named=s.id in named,
        )
        for s, w, c, school in rows
    )


def _rank(form: Form) -> int:
    return 0 if form.family is not None and lead_of(form.family).id == form.id else 1


def _fits(o: ScopeOccasion, w: ScopeRequest, zone: ZoneInfo) -> bool:
    day = o.start.astimezone(zone).date()
    return (
        (not w.windows or o.window_id in w.windows)
        and (not w.sessions or o.id in w.sessions)
        and (not w.schools or o.school_id in w.schools)
        and (not w.grades or o.grade in w.grades)
        and (not w.classes or o.class_id in w.classes)
        and (w.since is None or day >= w.since)
        and (w.until is None or day <= w.until)
    )


def _all_there(w: ScopeRequest, found: Sequence[ScopeOccasion]) -> None:
    for wish, there, what in (
        (w.windows, {o.window_id for o in found}, "window"),
        (w.sessions, {o.id for o in found}, "session"),
        (w.schools, {o.school_id for o in found}, "school"),
        (w.classes, {o.class_id for o in found}, "class"),
    ):
        if set(wish) - there:
            raise NotFound(f"a {what} of this view did not take this form, or you may not see it")


def _people(db: Session, actor: Actor, w: ScopeRequest) -> tuple[frozenset[int] | None, tuple[str, ...]]:
    if not w.groups and not w.students:
        return None, ()
    found: set[int] | None = None
    names: tuple[str, ...] = ()
    if w.groups:
        rows = db.execute(
            select(Group.id, Group.name)
            .where(Group.id.in_(w.groups), scope(actor, Action.GROUPS_READ))
            .order_by(Group.name)
        ).all()
        if {id for id, _ in rows} != set(w.groups):
            raise NotFound("a group of this view is not there, or not yours to see")
        names = tuple(name for _, name in rows)
        found = set(db.scalars(select(GroupMember.person_id).where(GroupMember.group_id.in_(w.groups))))
    if w.students:
        mine = set(db.scalars(select(Person.id).where(Person.id.in_(w.students), scope(actor, Action.PEOPLE_READ))))
        if mine != set(w.students):
            raise NotFound("a student of this view is not there, or not yours to see")
        found = mine if found is None else found & mine
    return frozenset(found or ()), names


def choices(ctx: Context, actor: Actor, wanted: ScopeRequest) -> ScopeChoices:
    """What the head of every page of the workbench says and offers."""
    with ctx.store.read() as db:
        scoped = resolve(db, actor, wanted)
        return ScopeChoices(
            words=_words(scoped),
            forms=[ScopeChoice(str(f.id), f.name, 0, True) for f in scoped.forms],
            related=_related(db, actor, scoped),
            windows=_counted(
                scoped, lambda o: (str(o.window_id), dated(o.window, o.year)), lambda o: True, by_start=True
            ),
            schools=_counted(scoped, lambda o: (str(o.school_id), o.school), _in_windows(scoped)),
            grades=_counted(scoped, lambda o: (o.grade, f"grade {o.grade}"), _in_windows(scoped)),
            classes=_counted(scoped, lambda o: (str(o.class_id), o.klass), _in_windows(scoped)),
            groups=_groups(db, actor, scoped),
            irregular=len(scoped.irregular),
            regular=wanted.regular,
        )


def _in_windows(scoped: Scoped):  # type: ignore[no-untyped-def]
    windows = set(scoped.wanted.windows)
    return lambda o: not windows or o.window_id in windows


def _counted(scoped: Scoped, key, kept, by_start: bool = False) -> list[ScopeChoice]:  # type: ignore[no-untyped-def]
    here = {o.id for o in scoped.chosen}
    rows = [o for o in scoped.all if kept(o)]
    n = Counter(key(o) for o in rows)
    chosen = {key(o) for o in rows if o.id in here}
    order = list(dict.fromkeys(key(o) for o in (sorted(rows, key=lambda o: o.start) if by_start else rows)))
    if not by_start:
        order.sort(key=lambda k: k[1])
    return [ScopeChoice(id, name, n[id, name], (id, name) in chosen) for id, name in order if name.strip()]


def _related(db: Session, actor: Actor, scoped: Scoped) -> list[ScopeChoice]:
    """Companions and corrections of the forms at hand that somebody sat, with the number of their sessions."""
    ids = {f.id for f in scoped.forms}
    wanted = [Form.before_id.in_(ids), Form.id.in_([f.before_id for f in scoped.forms if f.before_id is not None])]
    families = [f.family_id for f in scoped.forms if f.family_id is not None]
    if families:
        wanted.append(Form.family_id.in_(families))
    found = db.scalars(select(Form).where(or_(*wanted), Form.published_at.is_not(None)).order_by(Form.name)).all()
    allowed = scope(actor, Action.QUALITY_READ)
    theirs = func.coalesce(Sitting.form_id, PlannedSession.form_id)
    sat = dict(
        db.execute(
            select(theirs, func.count(PlannedSession.id.distinct()))
            .select_from(Sitting)
            .join(PlannedSession, PlannedSession.id == Sitting.session_id)
            .where(theirs.in_([f.id for f in found]), allowed, Sitting.state == "handed_in")
            .group_by(theirs)
        ).all()
    )
    return [ScopeChoice(str(f.id), f.name, sat[f.id], f.id in ids) for f in found if sat.get(f.id)]


def _groups(db: Session, actor: Actor, scoped: Scoped) -> list[ScopeChoice]:
    seen = groups_with_size(db, actor)
    return [ScopeChoice(str(id), name, n, id in scoped.wanted.groups) for id, name, n in seen if n]


def _words(scoped: Scoped) -> list[str]:
    """Window, form, classes, whoever it is narrowed to."""
    w, chosen = scoped.wanted, scoped.chosen
    windows = list(dict.fromkeys(dated(o.window, o.year) for o in sorted(chosen, key=lambda o: o.start)))
    words = [_some(windows, "windows") if windows else "no session"]
    words.append(
        " with ".join(f.name for f in scoped.forms[:3])
        + (f" and {len(scoped.forms) - 3} more" if len(scoped.forms) > 3 else "")
    )
    classes = list(dict.fromkeys(o.klass for o in chosen))
    all_classes = {o.class_id for o in scoped.all if _in_windows(scoped)(o)}
    if {o.class_id for o in chosen} == all_classes:
        words.append(classes[0] if len(classes) == 1 else f"all {len(all_classes)} classes")
    else:
        words.append(_some(classes, "classes"))
    schools = list(dict.fromkeys(o.school for o in chosen))
    if len({o.school_id for o in scoped.all}) > 1:
        words.append(_some(schools, "schools"))
    if w.grades:
        words.append(f"grade {', '.join(w.grades)}")
    if w.since or w.until:
        words.append(
            " ".join(
                p
                for p in (f"from {w.since:%-d %b %Y}" if w.since else "", f"to {w.until:%-d %b %Y}" if w.until else "")
                if p
            )
        )
    if scoped.group_names:
        words.append(f"only {_some(list(scoped.group_names), 'groups')}")
    if w.regular and scoped.irregular:
        words.append(f"without {counted(len(scoped.irregular), 'student')} with an irregularity")
    if w.students:
        words.append(f"only {len(w.students)} chosen {'student' if len(w.students) == 1 else 'students'}")
    return words


def _some(names: list[str], many: str) -> str:
    return ", ".join(names) if len(names) <= 3 else f"{len(names)} {many}"
