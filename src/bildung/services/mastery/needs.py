"""Groups from findings: students of a class by a standard they need, by an error they share, or by their state on one standard."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, get_args

import numpy as np

from bildung.core.errors import Refused
from bildung.core.items.shown import counted
from bildung.core.mastery.groups import FoundGroups, find_groups, same_groups
from bildung.core.mastery.states import INSUFFICIENT, STATES
from bildung.core.school.privacy import alias_numbers
from bildung.services.mastery.grid import GridAsked, Sight, sight_of
from bildung.services.mastery.scope import WhoAsked
from bildung.services.quality.mistakes import SharedMistake, find_mistakes
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.wire import Id

By = Literal["need", "error", "state"]
TESTS = 6  # the latest that are offered for errors


@dataclass(frozen=True, kw_only=True)
class NeedGroup:
    """Students who belong together. standard: that they need, None for an error. head, text: what they share."""

    standard: Id | None
    head: str
    text: str
    people: list[GroupPerson]


@dataclass(frozen=True, kw_only=True)
class GroupPerson:
    """need: probability of being below the line; of an error 1. says: why this student, in words."""

    person: Id
    name: str
    alias: int
    need: float
    says: str


@dataclass(frozen=True, kw_only=True)
class NeedTest:
    """A test of the class whose errors can be grouped by."""

    form: Id
    window: Id
    label: str


@dataclass(frozen=True, kw_only=True)
class NeedStandard:
    """A standard that groups can be made by."""

    id: Id
    code: str
    text: str


@dataclass(frozen=True, kw_only=True)
class NeedGroups:
    """unmet: who has a need and found no seat. without: who has none that could be judged. standards, tests: what may be chosen; standard,
    form, window: what was."""

    finding: str
    klass: str
    subject: str
    by: By
    standards: list[NeedStandard]
    tests: list[NeedTest]
    standard: Id | None
    form: Id | None
    window: Id | None
    groups: list[NeedGroup]
    unmet: list[GroupPerson]
    without: list[GroupPerson]
    may_keep: bool


@dataclass(frozen=True, kw_only=True)
class NeedsAsked:
    """Sizes, how many, who is kept apart; by: need, error or state. standard: for state; form, window: for error."""

    class_id: int
    least: int = 3
    most: int = 6
    many: int = 4
    apart: Sequence[tuple[int, int]] = ()
    by: By = "need"
    standard: int | None = None
    form: int | None = None
    window: int | None = None


@dataclass(frozen=True, kw_only=True)
class _Shared:
    """What groups are made from: (students, columns) need, and each column's standard, head and text."""

    need: np.ndarray
    columns: list[tuple[int | None, str, str]]
    says: list[list[str]]


def need_groups(ctx: Context, actor: Actor, asked: NeedsAsked) -> NeedGroups:
    """Of a class: as many needs met as seats allow."""
    scope(actor, Action.MASTERY_READ)
    if asked.by not in get_args(By):
        raise Invalid(f"one of {', '.join(get_args(By))}", "by")
    with ctx.store.read() as db:
        sight = sight_of(ctx, db, actor, GridAsked(who=WhoAsked(class_id=asked.class_id)))
        tests = _tests(sight)
    standards = [NeedStandard(id=s.id, code=s.code, text=s.text) for s in sight.standards]
    chosen = next((t for t in tests if (t.form, t.window) == (asked.form, asked.window)), tests[0] if tests else None)
    standard = asked.standard or (int(standards[0].id) if standards else None)
    if standard is not None and not any(s.id == standard for s in standards):
        raise NotFound("the class has no evidence on this standard")
    place = {s.id: at for at, s in enumerate(sight.who.students)}
    pairs = [(place[a], place[b]) for a, b in asked.apart if a in place and b in place]
    shared = _by_need(sight)
    if asked.by == "error":
        shared, chosen = _first_error(ctx, actor, sight, [chosen] if asked.form and chosen else tests, asked.least)
    try:
        if asked.by == "state":
            at = [int(s.id) for s in standards].index(int(standard)) if standard is not None else -1
            shared, told = _by_state(sight, at, asked, pairs)
        else:
            told = find_groups(shared.need, asked.least, asked.most, asked.many, pairs) if shared.need.size else NONE
    except Refused as error:
        raise Invalid(str(error), "size") from None
    found = _page(sight, asked, shared, told, standards, tests, chosen, standard)
    return replace(found, may_keep=actor.may(Action.GROUPS_WRITE) and actor.may(Action.MASTERY_ENTER))


NONE = FoundGroups((), (), ())


def _page(
    sight: Sight,
    asked: NeedsAsked,
    shared: _Shared,
    told: FoundGroups,
    standards: list[NeedStandard],
    tests: list[NeedTest],
    chosen: NeedTest | None,
    standard: int | None,
) -> NeedGroups:
    students = sight.who.students
    aliases = alias_numbers([s.id for s in students])

    def person(at: int, column: int | None) -> GroupPerson:
        worth = float(shared.need[at, column]) if column is not None else 0.0
        return GroupPerson(
            person=students[at].id,
            name=students[at].name,
            alias=aliases[at],
            need=worth,
            says=shared.says[at][column] if column is not None else "",
        )

    groups = []
    for column, members in told.groups:
        of, head, text = shared.columns[column]
        groups.append(NeedGroup(standard=of, head=head, text=text, people=[person(i, column) for i in members]))
    without = told.without if shared.need.size else tuple(range(len(students)))
    return NeedGroups(
        finding=_seats(len(groups), sum(len(g.people) for g in groups), len(told.unmet), len(without), asked.by),
        klass=sight.who.title,
        subject=sight.who.subject,
        by=asked.by,
        standards=standards,
        tests=tests,
        standard=standard if asked.by == "state" else None,
        form=chosen.form if chosen and asked.by == "error" else None,
        window=chosen.window if chosen and asked.by == "error" else None,
        groups=groups,
        unmet=[person(at, int(shared.need[at].argmax())) for at in told.unmet],
        without=[person(at, None) for at in without],
        may_keep=False,
    )


def _by_need(sight: Sight) -> _Shared:
    """Probability of being below the line; nothing where evidence is thin or teaching has not come to it."""
    mine = sight.judged
    need = np.where(mine.now > INSUFFICIENT, 1 - mine.above, 0.0).reshape(mine.shape)
    taught = np.array([sight.taught.has(s.id, s.grade) for s in sight.standards], dtype=np.bool_)
    need = need * taught if taught.size else need
    states = mine.now.reshape(mine.shape)
    return _Shared(
        need=need,
        columns=[(s.id, s.code, s.text) for s in sight.standards],
        says=[[STATES[at] for at in row] for row in states],
    )


def _by_state(
    sight: Sight, column: int, asked: NeedsAsked, pairs: Sequence[tuple[int, int]]
) -> tuple[_Shared, FoundGroups]:
    """One column for each state that somebody is in, from beginning on."""
    mine = sight.judged
    if column < 0:
        return _Shared(need=np.zeros((0, 0)), columns=[], says=[]), NONE
    s = sight.standards[column]
    now = mine.now.reshape(mine.shape)[:, column]
    above = mine.above.reshape(mine.shape)[:, column]
    states = sorted({int(at) for at in now if at > INSUFFICIENT})
    need = np.column_stack([np.where(now == at, 1 - above, 0.0) for at in states]) if states else np.zeros((0, 0))
    shared = _Shared(
        need=need,
        columns=[(s.id, f"{s.code}, {STATES[at]}", s.text) for at in states],
        says=[[STATES[at] for _ in states] for at in now],
    )
    labels = [states.index(int(at)) if at in states else -1 for at in now]
    return shared, same_groups(labels, above, asked.least, asked.most, asked.many, pairs)


def _first_error(
    ctx: Context, actor: Actor, sight: Sight, tests: Sequence[NeedTest], least: int
) -> tuple[_Shared, NeedTest | None]:
    """Of the latest test in which so many of these students share one, else the latest in which any shows one."""
    shown = [(_by_error(ctx, actor, sight, test), test) for test in tests]
    shown = [(found, test) for found, test in shown if found.need.size]
    for found, test in sorted(shown, key=lambda one: one[0].need.sum(axis=0).max() < least):
        return found, test
    return _Shared(need=np.zeros((0, 0)), columns=[], says=[]), tests[0] if tests else None


def _by_error(ctx: Context, actor: Actor, sight: Sight, test: NeedTest) -> _Shared:
    """One column for each error that a student of the class holds."""
    nothing = _Shared(need=np.zeros((0, 0)), columns=[], says=[])
    try:
        found = find_mistakes(ctx, actor, ScopeRequest(forms=(int(test.form),), windows=(int(test.window),)))
    except (NotAllowed, NotFound, Conflict):
        return nothing
    place = {s.id: at for at, s in enumerate(sight.who.students)}
    held = [(m, [w for w in m.who if int(w.person) in place]) for m in found.mistakes]
    held = [(m, some) for m, some in held if some]
    if not held:
        return nothing
    need = np.zeros((len(place), len(held)))
    says = [["" for _ in held] for _ in place]
    for column, (_, some) in enumerate(held):
        for one in some:
            need[place[int(one.person)], column] = 1.0
            says[place[int(one.person)]][column] = f"{one.gave} of {one.could} times"
    return _Shared(need=need, columns=[(None, m.note, _where(m)) for m, _ in held], says=says)


def _where(mistake: SharedMistake) -> str:
    items = ", ".join(dict.fromkeys(str(c.number) for c in mistake.carriers))
    return f"in questions {items}"


def _tests(sight: Sight) -> list[NeedTest]:
    """The latest tests of these students in the subject, newest first."""
    people, whole = np.array(sight.who.people, dtype=np.int64), sight.judged.whole
    found = []
    for at in np.unique(np.concatenate([whole.points.given, whole.aside.given])).tolist():
        one = whole.given[at]
        rows = np.isin(one.people, people)
        if one.form_id and rows.any():
            found.append((int(one.day[rows].max()), NeedTest(form=one.form_id, window=one.test[2], label=one.form)))
    return [test for _, test in sorted(found, key=lambda pair: -pair[0])][:TESTS]


def _seats(groups: int, seated: int, unmet: int, without: int, by: By) -> str:
    if not groups:
        what = {
            "need": "too few share a need that can be judged",
            "error": "no error with a note is shown by enough of these students in this test",
            "state": "too few are in one state that can be judged",
        }[by]
        return f"No group can be made: {what}."
    text = f"{counted(groups, 'group')} for {counted(seated, 'student')}"
    reason = "showed no such error" if by == "error" else "had no need that could be judged"
    if by == "state":
        reason = "had too little evidence"
    rest = [
        f"{counted(unmet, 'student')} with a need did not fit" if unmet and by != "state" else "",
        f"{counted(unmet, 'student')} did not fit" if unmet and by == "state" else "",
        f"{counted(without, 'student')} {reason}" if without else "",
    ]
    told = ", ".join(part for part in rest if part)
    return f"{text}; {told}." if told else f"{text}; everyone is placed."
