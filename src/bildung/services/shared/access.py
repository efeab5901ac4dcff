"""Who may do what: the one place. Denied unless a rule here allows it.

A rule turns a person's scope into an SQL predicate over the table that the action is about; every
query of that table carries it. `RULES` is the whole policy: role and action to predicate.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Select, and_, exists, false, func, not_, or_, select, true
from sqlalchemy.orm import aliased

from bildung.services.shared.errors import NotAllowed
from bildung.store.models import (
    Consent,
    Enrolment,
    Form,
    FormItem,
    Group,
    GroupMember,
    GroupStaff,
    Item,
    ItemVersion,
    Person,
    PlannedSession,
    School,
    SchoolClass,
    ScoringTask,
    SessionSupport,
    Sitting,
    Substitute,
    Window,
)


class Action(StrEnum):
    PEOPLE_READ = "people.read"
    PEOPLE_IMPORT = "people.import"
    PEOPLE_SETTLE = "people.settle"
    CODES_READ = "codes.read"
    SUPPORT_READ = "support.read"
    SUPPORT_WRITE = "support.write"
    SUPPORT_ENTER = "support.enter"
    GROUPS_READ = "groups.read"
    GROUPS_WRITE = "groups.write"
    ROLES_GRANT = "roles.grant"
    YEARS_READ = "years.read"
    YEARS_WRITE = "years.write"
    WINDOWS_READ = "windows.read"
    WINDOWS_PLAN = "windows.plan"
    PLANS_READ = "plans.read"
    PLANS_WRITE = "plans.write"
    TAUGHT_SAY = "taught.say"
    CLASSES_RUN = "classes.run"
    SETTINGS = "settings.change"
    LOG_READ = "log.read"
    ACCOUNTS_RESET = "accounts.reset"
    RECORDS_HANDLE = "records.handle"
    CLASSES_READ = "classes.read"
    FRAMEWORKS_WRITE = "frameworks.write"
    BANK_READ = "bank.read"
    BANK_WRITE = "bank.write"
    BANK_KEEP = "bank.keep"
    TESTS_LIST = "tests.list"
    TESTS_READ = "tests.read"
    TESTS_WRITE = "tests.write"
    TESTS_GIVE = "tests.give"
    SESSIONS_READ = "sessions.read"
    SESSIONS_PLAN = "sessions.plan"
    SESSIONS_RUN = "sessions.run"
    ROOM_HOLD = "room.hold"
    QUALITY_READ = "quality.read"
    QUALITY_DECIDE = "quality.decide"
    ANSWERS_READ = "answers.read"
    SCORES_GIVE = "scores.give"
    SCORES_OWN = "scores.own"
    SCORES_PLAN = "scores.plan"
    GROWTH_READ = "growth.read"
    MEASURES_KEEP = "measures.keep"
    MASTERY_READ = "mastery.read"
    MASTERY_ENTER = "mastery.enter"
    MASTERY_RULE = "mastery.rule"
    GOALS_SET = "goals.set"
    REFLECTIONS_WRITE = "reflections.write"


SUBSTITUTE = "substitute"


@dataclass(frozen=True)
class Grant:
    """A role, for one school or (None) for the whole federation."""

    role: str
    school_id: int | None


@dataclass(frozen=True, kw_only=True)
class Actor:
    """Staff who asks. day: today at the school; without one, enrolments are not held against their dates."""

    person_id: int
    name: str
    grants: tuple[Grant, ...]
    sign_in_id: int
    csrf: str
    must_change: bool = False
    letter_keys: bool = True
    day: date | None = None

    @property
    def substitute(self) -> bool:
        """Opened one session with its code; nothing that any staff may do is theirs."""
        return any(grant.role == SUBSTITUTE for grant in self.grants)

    def may(self, action: Action) -> bool:
        """Whether any rule lets them do it to anything at all."""
        return any(_holds(grant, action) for grant in self.grants)


@dataclass(frozen=True, kw_only=True)
class Sitter:
    """A student at one sitting; may do nothing else."""

    person_id: int
    sitting_id: int
    takeover: int
    sign_in_id: int
    csrf: str


@dataclass(frozen=True, kw_only=True)
class Own:
    """A student at their own page, or a family; sees what is theirs and nothing else."""

    person_id: int
    name: str
    sign_in_id: int
    csrf: str
    must_change: bool = False


Rule = Callable[[Actor, Grant], ColumnElement[bool]]


def _anything(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return true()


def _federation_only(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """For grants over the whole federation alone (see `_holds`): a roster can add people and roles anywhere,
    and the log does not say which school an entry is of."""
    return true()


def _holds(grant: Grant, action: Action) -> bool:
    """Whether this grant has a rule for the action at all."""
    rule = RULES.get((grant.role, action))
    return rule is not None and (rule is not _federation_only or grant.school_id is None)


def _running(actor: Actor, enrolment: type[Enrolment]) -> ColumnElement[bool]:
    """Enrolments that hold today: in a class that runs, not ended, within their dates."""
    holds = and_(
        enrolment.active.is_(True),
        exists().where(SchoolClass.id == enrolment.class_id, SchoolClass.active.is_(True)).correlate(enrolment),
    )
    if actor.day is None:
        return holds
    begun = or_(enrolment.begins.is_(None), enrolment.begins <= actor.day)
    return and_(holds, begun, or_(enrolment.ends.is_(None), enrolment.ends >= actor.day))


def _to_the_end(enrolment: type[Enrolment]) -> ColumnElement[bool]:
    """Enrolments in a class that is over which lasted as long as it did: whoever was taken off before is not among them."""
    lasted = or_(
        enrolment.active.is_(True),
        enrolment.ends.is_(None),
        SchoolClass.ended_on.is_(None),
        enrolment.ends >= SchoolClass.ended_on,
    )
    return (
        exists().where(SchoolClass.id == enrolment.class_id, SchoolClass.active.is_(False), lasted).correlate(enrolment)
    )


def _teaches(actor: Actor, class_id: object) -> ColumnElement[bool]:
    mine = aliased(Enrolment)
    return exists().where(
        mine.class_id == class_id, mine.person_id == actor.person_id, mine.role == "teacher", _running(actor, mine)
    )


def _taught(actor: Actor, class_id: object) -> ColumnElement[bool]:
    """Classes that are over and were theirs until then: results stay readable, codes and running sessions do not."""
    mine = aliased(Enrolment)
    return exists().where(
        mine.class_id == class_id, mine.person_id == actor.person_id, mine.role == "teacher", _to_the_end(mine)
    )


def _teaches_or_taught(actor: Actor, class_id: object) -> ColumnElement[bool]:
    return or_(_teaches(actor, class_id), _taught(actor, class_id))


def _given_to_score(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Sessions of windows in which an item of theirs was given to them to score."""
    received = aliased(Sitting)
    on = exists().where(received.session_id == PlannedSession.id, received.form_id == FormItem.form_id)
    return exists().where(
        ScoringTask.scorer_id == actor.person_id,
        ScoringTask.window_id == PlannedSession.window_id,
        scored_class(),
        FormItem.id == ScoringTask.form_item_id,
        or_(FormItem.form_id == PlannedSession.form_id, on),
    )


def scored_class() -> ColumnElement[bool]:
    """Whether a scorer was given responses of a session's class: of some classes, or of all."""
    one = func.json_each(ScoringTask.classes).table_valued("value")
    some = select(one.c.value).where(one.c.value == PlannedSession.class_id)
    return or_(ScoringTask.classes.is_(None), some.correlate(ScoringTask, PlannedSession).exists())


def _taught_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return _teaches_or_taught(actor, PlannedSession.class_id)


def _to_score(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return or_(_taught_sessions(actor, grant), _given_to_score(actor, grant))


def _led_by(actor: Actor, class_id: object) -> ColumnElement[bool]:
    """Classes of colleagues who agreed to it, while these colleagues teach them."""
    theirs = aliased(Enrolment)
    return exists().where(
        theirs.class_id == class_id,
        theirs.role == "teacher",
        theirs.person_id == Consent.giver_id,
        _running(actor, theirs),
        Consent.receiver_id == actor.person_id,
        Consent.ended_at.is_(None),
    )


def _school_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    if grant.school_id is None:
        return true()
    return PlannedSession.class_id.in_(select(SchoolClass.id).where(SchoolClass.school_id == grant.school_id))


def _own_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return or_(_teaches(actor, PlannedSession.class_id), PlannedSession.proctor_id == actor.person_id)


def _seen_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Own sessions, those of classes that a colleague shows them, and closed ones of classes that are over."""
    over = and_(PlannedSession.closed_at.is_not(None), _taught(actor, PlannedSession.class_id))
    return or_(
        _own_sessions(actor, grant), _attended_sessions(actor, grant), _led_by(actor, PlannedSession.class_id), over
    )


def _named_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Where they may see who answered what."""
    return or_(_teaches_or_taught(actor, PlannedSession.class_id), _led_by(actor, PlannedSession.class_id))


def _held_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return PlannedSession.proctor_id == actor.person_id


def _opened_session(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """The one that a substitute opened with its code, while that code holds; when it does is looked at with the sign-in."""
    return exists().where(
        Substitute.session_id == PlannedSession.id,
        Substitute.person_id == actor.person_id,
        Substitute.code == PlannedSession.substitute_code,
        PlannedSession.closed_at.is_(None),
    )


SUBSTITUTE_EARLY = timedelta(minutes=30)


def substitute_may(session: PlannedSession, now: datetime, zone: ZoneInfo) -> bool:
    """Whether a substitute's code opens this session now: from half an hour before it begins, until it is closed, and no longer
    than on its last day."""
    last = session.end.astimezone(zone).date()
    return session.closed_at is None and session.start - SUBSTITUTE_EARLY <= now and now.astimezone(zone).date() <= last


def attends(person_id: int) -> ColumnElement[bool]:
    """Sessions that somebody holds, and those at which they read, write or interpret for a student on the list."""
    helps = exists().where(
        SessionSupport.session_id == PlannedSession.id,
        SessionSupport.staff_id == person_id,
        Sitting.session_id == PlannedSession.id,
        Sitting.person_id == SessionSupport.student_id,
    )
    return or_(PlannedSession.proctor_id == person_id, helps)


def _attended_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return attends(actor.person_id)


def _course_sessions(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Figures of the whole grade for teachers of the same course at that school, in the year that they teach it."""
    own, theirs = aliased(SchoolClass), aliased(SchoolClass)
    return exists().where(
        and_(
            theirs.id == PlannedSession.class_id,
            own.school_id == theirs.school_id,
            own.subject == theirs.subject,
            own.grade == theirs.grade,
            own.subject != "",
            own.year_id.is_not_distinct_from(theirs.year_id),
            _teaches_or_taught(actor, own.id),
        )
    )


def _school_people(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return true() if grant.school_id is None else Person.school_id == grant.school_id


def _taught_students(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Everybody who is now in a class that they teach now."""
    mine, theirs = aliased(Enrolment), aliased(Enrolment)
    return exists().where(
        mine.person_id == actor.person_id,
        mine.role == "teacher",
        _running(actor, mine),
        mine.class_id == theirs.class_id,
        theirs.person_id == Person.id,
        _running(actor, theirs),
    )


def _former_students(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Everybody who was in a class of theirs when it ended."""
    mine, theirs = aliased(Enrolment), aliased(Enrolment)
    return exists().where(
        mine.person_id == actor.person_id,
        mine.role == "teacher",
        _to_the_end(mine),
        mine.class_id == theirs.class_id,
        theirs.person_id == Person.id,
        _to_the_end(theirs),
    )


def _own_students(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Students of today, and those of groups they work with or whose case they manage."""
    return or_(_taught_students(actor, grant), _assigned_students(actor, grant))


def _seen_students(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    theirs = aliased(Enrolment)
    shown = exists().where(theirs.person_id == Person.id, _running(actor, theirs), _led_by(actor, theirs.class_id))
    return or_(_own_students(actor, grant), _former_students(actor, grant), shown)


def _assigned_students(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    working = exists().where(
        GroupStaff.person_id == actor.person_id,
        GroupMember.group_id == GroupStaff.group_id,
        GroupMember.person_id == Person.id,
    )
    return or_(working, _managed_students(actor, grant))


def _managed_students(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return Person.case_manager_id == actor.person_id


def _school_classes(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return true() if grant.school_id is None else SchoolClass.school_id == grant.school_id


def _schools(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return true() if grant.school_id is None else School.id == grant.school_id


def _own_classes(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return _teaches(actor, SchoolClass.id)


def _growth_classes(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Classes that they teach or taught, and those of colleagues who agreed to it."""
    return or_(_teaches_or_taught(actor, SchoolClass.id), _led_by(actor, SchoolClass.id))


def _seen_classes(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return or_(_teaches_or_taught(actor, SchoolClass.id), _led_by(actor, SchoolClass.id))


def _school_groups(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return true() if grant.school_id is None else Group.school_id == grant.school_id


def _own_groups(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return Group.owner_id == actor.person_id


def _seen_groups(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    working = exists().where(GroupStaff.group_id == Group.id, GroupStaff.person_id == actor.person_id)
    return or_(Group.owner_id == actor.person_id, working)


SECURE_KINDS = ("benchmark",)


def secured_form(actor: Actor, form: type[Form]) -> ColumnElement[bool]:
    """Tests whose items only keepers see: secure ones until they have been given and every session and window in which
    they are given is over, and those that stay secure because they will be used again."""
    secure = or_(form.secure.is_(True), and_(form.secure.is_(None), form.kind.in_(SECURE_KINDS)))
    of, session = aliased(Form), aliased(PlannedSession)
    same = or_(of.id == form.id, and_(of.family_id.is_not(None), of.family_id == form.family_id))
    given = exists().where(session.form_id == of.id, same, session.canceled_at.is_(None)).correlate(form)
    still_open: ColumnElement[bool] = session.closed_at.is_(None)
    if actor.day is not None:
        still_open = or_(
            still_open, exists().where(Window.id == session.window_id, Window.end >= actor.day).correlate(session)
        )
    going = exists().where(session.form_id == of.id, same, session.canceled_at.is_(None), still_open).correlate(form)
    own = form.owner_id.is_not_distinct_from(actor.person_id)
    return and_(secure, not_(own), or_(form.stays_secure.is_(True), not_(given), going))


def _items_of(form: type[Form], which: ColumnElement[bool]) -> Select[int]:
    return (
        select(ItemVersion.item_id)
        .join(FormItem, FormItem.item_version_id == ItemVersion.id)
        .join(form, form.id == FormItem.form_id)
        .where(which)
    )


def _secured_items(actor: Actor) -> Select[int]:
    """Items of tests that are secure for them."""
    form = aliased(Form)
    return _items_of(form, secured_form(actor, form))


def secured_items(day: date) -> Select[int]:
    """Items of tests that are secure on a day for whoever keeps nothing."""
    return _secured_items(outsider(day))


def _secret_items(actor: Actor) -> ColumnElement[bool]:
    """Of these, what nobody has seen yet: an item of a test that was given and is open is known."""
    form, session = aliased(Form), aliased(PlannedSession)
    given = exists().where(session.form_id == form.id, session.closed_at.is_not(None)).correlate(form)
    known = _items_of(form, and_(given, not_(secured_form(actor, form))))
    return and_(Item.id.in_(_secured_items(actor)), Item.id.not_in(known))


def _unseen(actor: Actor) -> Select[int]:
    return select(Item.id).where(_secret_items(actor))


def _with_any(items: Select[int]) -> ColumnElement[bool]:
    """Tests of any kind with one of these items."""
    item, version = aliased(FormItem), aliased(ItemVersion)
    on = select(item.form_id).join(version, version.id == item.item_version_id)
    return Form.id.in_(on.where(version.item_id.in_(items)))


def _common_or_own_items(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Without those of a secure test that nobody has seen yet."""
    return or_(Item.owner_id == actor.person_id, and_(Item.owner_id.is_(None), not_(_secret_items(actor))))


def _listed_forms(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Title, length and standards, of secure tests as well."""
    return or_(Form.owner_id.is_(None), Form.owner_id == actor.person_id)


def _common_or_own_forms(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return or_(Form.owner_id == actor.person_id, _shared_open_forms(actor, grant))


def _own_items(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return Item.owner_id == actor.person_id


def _common_items(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return Item.owner_id.is_(None)


def _givable_forms(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Own and shared tests that a teacher plans for their own classes: no benchmarks, and nothing that holds an item of a
    secure test."""
    return and_(Form.kind.not_in(SECURE_KINDS), _listed_forms(actor, grant), not_(_with_any(_secured_items(actor))))


def _shared_forms(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return Form.owner_id.is_(None)


def _shared_open_forms(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return and_(Form.owner_id.is_(None), not_(secured_form(actor, Form)), not_(_with_any(_unseen(actor))))


def _own_tests(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    """Sessions of own classes that give a test which teachers plan themselves."""
    form = aliased(Form)
    theirs = exists().where(form.id == PlannedSession.form_id, form.kind.not_in(SECURE_KINDS), form.secure.is_not(True))
    return and_(_teaches(actor, PlannedSession.class_id), theirs)


def _own_forms(actor: Actor, grant: Grant) -> ColumnElement[bool]:
    return Form.owner_id == actor.person_id


RULES: dict[tuple[str, Action], Rule] = {
    ("coordinator", Action.PEOPLE_READ): _school_people,
    ("coordinator", Action.PEOPLE_IMPORT): _federation_only,
    ("coordinator", Action.PEOPLE_SETTLE): _school_people,
    ("coordinator", Action.CODES_READ): _school_people,
    ("coordinator", Action.SUPPORT_READ): _school_people,
    ("coordinator", Action.SUPPORT_WRITE): _school_people,
    ("coordinator", Action.SUPPORT_ENTER): _school_people,
    ("coordinator", Action.GROUPS_READ): _school_groups,
    ("coordinator", Action.GROUPS_WRITE): _school_groups,
    ("coordinator", Action.ROLES_GRANT): _school_people,
    ("coordinator", Action.YEARS_READ): _anything,
    ("coordinator", Action.YEARS_WRITE): _federation_only,
    ("coordinator", Action.WINDOWS_READ): _schools,
    ("coordinator", Action.WINDOWS_PLAN): _schools,
    ("coordinator", Action.PLANS_READ): _anything,
    ("coordinator", Action.PLANS_WRITE): _anything,
    ("coordinator", Action.TAUGHT_SAY): _school_classes,
    ("coordinator", Action.CLASSES_RUN): _school_classes,
    ("coordinator", Action.SETTINGS): _federation_only,
    ("coordinator", Action.LOG_READ): _federation_only,
    ("coordinator", Action.ACCOUNTS_RESET): _school_people,
    ("coordinator", Action.RECORDS_HANDLE): _school_people,
    ("coordinator", Action.CLASSES_READ): _school_classes,
    ("coordinator", Action.GROWTH_READ): _school_classes,
    ("coordinator", Action.MASTERY_READ): _school_classes,
    ("coordinator", Action.MASTERY_ENTER): _school_classes,
    ("coordinator", Action.MASTERY_RULE): _federation_only,
    ("coordinator", Action.MEASURES_KEEP): _federation_only,
    ("coordinator", Action.GOALS_SET): _school_classes,
    ("coordinator", Action.REFLECTIONS_WRITE): _school_classes,
    ("leader", Action.REFLECTIONS_WRITE): _school_classes,
    ("teacher", Action.GOALS_SET): _own_classes,
    ("teacher", Action.REFLECTIONS_WRITE): _own_classes,
    ("coordinator", Action.FRAMEWORKS_WRITE): _federation_only,
    ("coordinator", Action.BANK_READ): _anything,
    ("coordinator", Action.BANK_WRITE): _anything,
    ("coordinator", Action.BANK_KEEP): _common_items,
    ("coordinator", Action.TESTS_LIST): _anything,
    ("coordinator", Action.TESTS_READ): _anything,
    ("coordinator", Action.TESTS_WRITE): _anything,
    ("coordinator", Action.TESTS_GIVE): _anything,
    ("coordinator", Action.SESSIONS_READ): _school_sessions,
    ("coordinator", Action.SESSIONS_PLAN): _school_sessions,
    ("coordinator", Action.SESSIONS_RUN): _school_sessions,
    ("coordinator", Action.QUALITY_READ): _school_sessions,
    ("coordinator", Action.QUALITY_DECIDE): _school_sessions,
    ("coordinator", Action.ANSWERS_READ): _school_sessions,
    ("coordinator", Action.SCORES_GIVE): _school_sessions,
    ("coordinator", Action.SCORES_OWN): _school_sessions,
    ("coordinator", Action.SCORES_PLAN): _school_sessions,
    ("leader", Action.PEOPLE_READ): _school_people,
    ("leader", Action.SUPPORT_READ): _school_people,
    ("leader", Action.GROUPS_READ): _school_groups,
    ("leader", Action.YEARS_READ): _anything,
    ("leader", Action.WINDOWS_READ): _schools,
    ("leader", Action.PLANS_READ): _anything,
    ("leader", Action.CLASSES_READ): _school_classes,
    ("leader", Action.GROWTH_READ): _school_classes,
    ("leader", Action.MASTERY_READ): _school_classes,
    ("leader", Action.BANK_READ): _common_or_own_items,
    ("leader", Action.TESTS_LIST): _shared_forms,
    ("leader", Action.TESTS_READ): _shared_open_forms,
    ("leader", Action.SESSIONS_READ): _school_sessions,
    ("leader", Action.QUALITY_READ): _school_sessions,
    ("leader", Action.ANSWERS_READ): _school_sessions,
    ("teacher", Action.PEOPLE_READ): _seen_students,
    ("teacher", Action.CODES_READ): _taught_students,
    ("teacher", Action.SUPPORT_READ): _own_students,
    ("teacher", Action.SUPPORT_ENTER): _managed_students,
    ("teacher", Action.GROUPS_READ): _seen_groups,
    ("teacher", Action.GROUPS_WRITE): _own_groups,
    ("teacher", Action.YEARS_READ): _anything,
    ("teacher", Action.PLANS_READ): _anything,
    ("teacher", Action.TAUGHT_SAY): _own_classes,
    ("teacher", Action.CLASSES_READ): _seen_classes,
    ("teacher", Action.GROWTH_READ): _growth_classes,
    ("teacher", Action.MASTERY_READ): _growth_classes,
    ("teacher", Action.MASTERY_ENTER): _own_classes,
    ("teacher", Action.CLASSES_RUN): _own_classes,
    ("teacher", Action.BANK_READ): _common_or_own_items,
    ("teacher", Action.BANK_WRITE): _own_items,
    ("teacher", Action.TESTS_LIST): _listed_forms,
    ("teacher", Action.TESTS_READ): _common_or_own_forms,
    ("teacher", Action.TESTS_WRITE): _own_forms,
    ("teacher", Action.TESTS_GIVE): _givable_forms,
    ("teacher", Action.SESSIONS_READ): _seen_sessions,
    ("teacher", Action.SESSIONS_PLAN): _own_tests,
    ("teacher", Action.SESSIONS_RUN): _own_sessions,
    ("teacher", Action.QUALITY_READ): _course_sessions,
    ("teacher", Action.QUALITY_DECIDE): _course_sessions,
    ("teacher", Action.ANSWERS_READ): _named_sessions,
    ("teacher", Action.SCORES_GIVE): _to_score,
    ("teacher", Action.SCORES_OWN): _taught_sessions,
    ("specialist", Action.SCORES_GIVE): _given_to_score,
    ("specialist", Action.PEOPLE_READ): _assigned_students,
    ("specialist", Action.SUPPORT_READ): _assigned_students,
    ("specialist", Action.SUPPORT_ENTER): _managed_students,
    ("specialist", Action.GROUPS_READ): _seen_groups,
    ("specialist", Action.YEARS_READ): _anything,
    ("specialist", Action.SESSIONS_READ): _attended_sessions,
    ("specialist", Action.SESSIONS_RUN): _held_sessions,
    ("coordinator", Action.ROOM_HOLD): _school_sessions,
    ("teacher", Action.ROOM_HOLD): _own_sessions,
    ("specialist", Action.ROOM_HOLD): _held_sessions,
    ("proctor", Action.ROOM_HOLD): _held_sessions,
    ("substitute", Action.ROOM_HOLD): _opened_session,
    ("writer", Action.FRAMEWORKS_WRITE): _anything,
    ("writer", Action.BANK_READ): _anything,
    ("writer", Action.BANK_WRITE): _anything,
    ("writer", Action.BANK_KEEP): _common_items,
    ("writer", Action.TESTS_LIST): _anything,
    ("writer", Action.TESTS_READ): _anything,
    ("writer", Action.TESTS_WRITE): _anything,
    ("proctor", Action.SESSIONS_READ): _attended_sessions,
    ("proctor", Action.SESSIONS_RUN): _held_sessions,
}
ROLES = ("coordinator", "leader", "teacher", "specialist", "writer", "proctor")


def outsider(day: date) -> Actor:
    """Somebody who keeps nothing, on a day: a test that is secure for them is secure."""
    return Actor(person_id=0, name="", grants=(), sign_in_id=0, csrf="", day=day)


def scope(actor: Actor, action: Action) -> ColumnElement[bool]:
    """The predicate over what this person may do it to; raises NotAllowed where there is nothing."""
    predicates = [RULES[grant.role, action](actor, grant) for grant in actor.grants if _holds(grant, action)]
    if not predicates:
        raise NotAllowed(f"your role does not include {action.value.replace('.', ': ')}")
    return or_(false(), *predicates)


def owner_of_new(actor: Actor) -> int | None:
    """Whose a new test or item is: common where a keeper of the common material makes it, else their own."""
    return None if any(grant.role in ("coordinator", "writer") for grant in actor.grants) else actor.person_id
