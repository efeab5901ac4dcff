"""A window is planned: every rule holds by an independent checker, which refuses a plan after each single corruption."""

from __future__ import annotations

import random
import unittest
from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta

from bildung.core.planning.chain import MadePlan, make_plan
from bildung.core.planning.clashes import clashes_of
from bildung.core.planning.costs import NO_PLACE
from bildung.core.planning.problem import Problem, Proctor
from bildung.core.planning.reasons import apart_reasons, class_reasons
from bildung.core.planning.waysout import supposing, ways_out
from tests.core.planning import school as planted
from tests.core.planning.checker import Row, wrong

_MADE: dict[int, tuple[Problem, MadePlan]] = {}


def made(days: int = 6) -> tuple[Problem, MadePlan]:
    if days not in _MADE:
        given = planted.problem(days)
        _MADE[days] = given, make_plan(given, 3.0)
    return _MADE[days]


class Planted(unittest.TestCase):
    def setUp(self) -> None:
        self.given, self.plan = made()

    def session_of(self, student: int, test: int = 100):  # type: ignore[no-untyped-def]
        return next(s for s in self.plan.sessions for one in s.lists if one.test == test and student in one.students)

    def test_the_checker_finds_nothing_wrong(self) -> None:
        rows = planted.exported(self.given, self.plan)
        self.assertEqual(wrong(rows, planted.school(self.given, self.plan)), [])
        self.assertEqual(clashes_of(self.given, self.plan.sessions), [])

    def test_the_cost_is_between_the_bound_and_one_percent_more(self) -> None:
        self.assertGreater(self.plan.bound, 0)
        self.assertLessEqual(self.plan.bound, self.plan.cost + 1e-6)
        self.assertLessEqual(self.plan.cost, self.plan.bound * 1.01 + 0.5)

    def test_a_room_of_22_is_not_given_to_23(self) -> None:
        big = [s for s in self.plan.sessions if s.size == 23]
        self.assertEqual(len(big), 2)
        self.assertLessEqual({s.room for s in big}, {"Hall", "Lab"})

    def test_a_long_session_does_not_bridge_lunch(self) -> None:
        long = self.session_of(planted.LONGER)
        self.assertEqual(self.given.slots[long.slot].block, "A1")

    def test_a_student_of_two_schools_is_here_in_the_afternoon_and_the_class_with_them(self) -> None:
        session = self.session_of(planted.TWO_SCHOOLS)
        self.assertTrue(self.given.slots[session.slot].late)

    def test_one_person_reads_to_several_only_the_same_test(self) -> None:
        read = [s for s in self.plan.sessions if s.support]
        self.assertEqual({s.proctor for s in read}, {950})
        self.assertTrue(all(len({one.test for one in s.lists}) == 1 for s in read))
        self.assertEqual(sum(s.size for s in read), 6)

    def test_a_student_is_read_to_only_by_the_person_named_for_them(self) -> None:
        reads = next(t.student for t in self.given.apart if t.support)
        apart = tuple(
            replace(t, by=frozenset({951}) if t.student == reads else None) if t.support else t
            for t in self.given.apart
        )
        second = Proctor(id=951, name="Rui", supports=frozenset({planted.READER}))
        given = replace(self.given, apart=apart, proctors=(*self.given.proctors, second))
        plan = make_plan(given, 0.5, proof=False)
        mine = [s for s in plan.sessions if reads in s.students and s.support]
        self.assertEqual({s.proctor for s in mine}, {951})
        self.assertEqual(clashes_of(given, plan.sessions), [])
        moved = [replace(s, proctor=950) if s in mine else s for s in plan.sessions]
        wrong_reader = [c for c in clashes_of(given, moved) if c.kind == "support"]
        self.assertEqual({c.students for c in wrong_reader}, {(reads,)})

    def test_a_parent_refused_so_the_student_is_on_no_list(self) -> None:
        self.assertNotIn(planted.REFUSED, {s for session in self.plan.sessions for s in session.students})

    def test_the_class_that_ends_early_is_done_by_then_and_what_does_not_fit_is_named_with_its_reason(self) -> None:
        days = [
            self.given.slots[s.slot].day
            for s in self.plan.sessions
            for one in s.lists
            if one.klass // 10 == planted.EARLY
        ]
        self.assertLessEqual(max(days), 2)

    def test_each_single_corruption_is_refused(self) -> None:
        told = planted.school(self.given, self.plan)
        rng = random.Random(5)
        for name, corrupt in CORRUPTIONS.items():
            rows = [replace(row) for row in planted.exported(self.given, self.plan)]
            corrupt(rows, rng)
            self.assertTrue(wrong(rows, told), f"{name} was not noticed")
        self.assertEqual(len(CORRUPTIONS), 20)


def _session(rows: list[Row], where: Callable[[list[Row]], bool] = lambda _: True) -> list[Row]:
    by: dict[str, list[Row]] = {}
    for row in rows:
        by.setdefault(row.session, []).append(row)
    return next(mine for mine in by.values() if where(mine))


def _set(rows: list[Row], where: Callable[[list[Row]], bool], **values: object) -> None:
    for row in _session(rows, where):
        for name, value in values.items():
            setattr(row, name, value)


def _large(mine: list[Row]) -> bool:
    return len(mine) > 10


def _twice(rows: list[Row], what: str) -> None:
    first = _session(rows, lambda m: _large(m) and bool(getattr(m[0], what)))
    _set(
        rows,
        lambda m: m[0].session != first[0].session and {r.student for r in m}.isdisjoint({r.student for r in first}),
        start=first[0].start,
        end=first[0].end,
        **{what: getattr(first[0], what)},
    )


def _drop(rows: list[Row]) -> None:
    for row in _session(rows):
        rows.remove(row)


def _join(rows: list[Row], student: str, other: str) -> None:
    row, host = (next(r for r in rows if r.student == who) for who in (student, other))
    rows[rows.index(row)] = replace(host, student=student, test=row.test, klass=row.klass)


CORRUPTIONS: dict[str, Callable[[list[Row], random.Random], None]] = {
    "a student is dropped": lambda rows, rng: rows.remove(rng.choice(rows)),
    "a session is dropped": lambda rows, rng: _drop(rows),
    "a student is listed twice": lambda rows, rng: rows.append(replace(rows[0], session="other")),
    "a student who owes nothing is listed": lambda rows, rng: rows.append(replace(rows[0], student="19")),
    "another test": lambda rows, rng: setattr(rows[0], "test", "999"),
    "a room twice": lambda rows, rng: _twice(rows, "room"),
    "a proctor twice": lambda rows, rng: _twice(rows, "proctor"),
    "a cart twice": lambda rows, rng: _twice(rows, "cart"),
    "a room too small": lambda rows, rng: _set(rows, _large, room="Small"),
    "a room of 22 for 23": lambda rows, rng: _set(rows, lambda m: len(m) == 23, room="R3"),
    "a room that is not there": lambda rows, rng: _set(rows, _large, room="R9"),
    "no devices": lambda rows, rng: _set(rows, lambda m: bool(m[0].cart), cart=""),
    "no proctor": lambda rows, rng: _set(rows, _large, proctor=""),
    "on a Saturday": lambda rows, rng: _set(
        rows, _large, start=rows[0].start + timedelta(days=12), end=rows[0].end + timedelta(days=12)
    ),
    "over lunch": lambda rows, rng: _set(
        rows, _large, start=planted.MONDAY + timedelta(hours=11), end=planted.MONDAY + timedelta(hours=12)
    ),
    "too short for extended time": lambda rows, rng: _set(
        rows,
        lambda m: any(r.student == "40" for r in m),
        end=next(r.start for r in rows if r.student == "40") + timedelta(minutes=50),
    ),
    "in the morning at the other school": lambda rows, rng: _set(
        rows, lambda m: any(r.student == "55" for r in m), start=planted.slots()[0].start, end=planted.slots()[0].end
    ),
    "after the class's last day": lambda rows, rng: _set(
        rows, lambda m: m[0].klass == "20", start=planted.slots()[12].start, end=planted.slots()[12].end
    ),
    "read to by someone else": lambda rows, rng: _set(rows, lambda m: m[0].proctor == "Rea", proctor="Ada"),
    "alone with another": lambda rows, rng: _join(rows, "41", "31"),
}


class Later(unittest.TestCase):
    def test_planned_again_nothing_moves(self) -> None:
        given, plan = made()
        again = make_plan(given, 1.0, before=plan.sessions)
        self.assertEqual(again.moved, 0)
        self.assertEqual(len(again.sessions), len(plan.sessions))

    def test_a_snow_day_moves_that_day_alone(self) -> None:
        given, plan = made()
        snow = {t for t, slot in enumerate(given.slots) if slot.day == 2}
        shut = replace(
            given,
            classes=tuple(replace(t, shut=t.shut | snow) for t in given.classes),
            apart=tuple(replace(t, shut=t.shut | snow) for t in given.apart),
        )
        then = [s for s in plan.sessions if s.slot in snow]
        again = make_plan(shut, 2.0, before=plan.sessions)
        stood = {s.id: s.slot for s in plan.sessions}
        moved = [s.id for s in again.sessions if s.id in stood and stood[s.id] != s.slot]
        self.assertLessEqual(len(moved), len(then))
        self.assertTrue(set(moved) <= {s.id for s in then})
        self.assertFalse([s for s in again.sessions if s.slot in snow])

    def test_a_lost_room_moves_what_was_in_it(self) -> None:
        given, plan = made()
        lost = replace(given, rooms=tuple(room for room in given.rooms if room.name != "Lab"))
        again = make_plan(lost, 1.0, before=plan.sessions)
        self.assertFalse([s for s in again.sessions if s.room == "Lab"])
        stood = {s.id: s.slot for s in plan.sessions if s.room != "Lab"}
        self.assertEqual([s.id for s in again.sessions if stood.get(s.id, s.slot) != s.slot], [])

    def test_what_is_held_by_hand_stays(self) -> None:
        given, plan = made()
        one = next(s for s in plan.sessions if s.own)
        target = next(
            t
            for t in range(len(given.slots) - 1, 0, -1)
            if given.slots[t].day != given.slots[one.slot].day and t not in given.classes[0].shut
        )
        held = [replace(s, slot=target, held=True) if s.id == one.id else s for s in plan.sessions]
        again = make_plan(given, 1.0, before=held)
        self.assertEqual(next(s.slot for s in again.sessions if s.id == one.id), target)

    def test_stopped_at_once_there_is_a_plan(self) -> None:
        given, _ = made()
        plan = make_plan(given, 30.0, stop=lambda: True)
        self.assertLess(plan.seconds, 5)
        self.assertGreater(len(plan.sessions), 5)
        self.assertEqual(wrong(planted.exported(given, plan), planted.school(given, plan)), [])


class WithoutPlace(unittest.TestCase):
    def setUp(self) -> None:
        self.given, _ = made()
        self.given = replace(self.given, carts=(), rooms=tuple(r for r in self.given.rooms if r.name != "Lab"))
        self.plan = make_plan(self.given, 0.5, proof=False)

    def test_the_reason_is_the_missing_device(self) -> None:
        left = self.plan.classes_left[0]
        first = class_reasons(self.given, self.plan.sessions, left)[0]
        self.assertEqual(first.kind, "cart")
        self.assertGreater(first.only, 0)
        self.assertGreaterEqual(self.plan.cost, NO_PLACE)

    def test_a_cart_is_the_way_out_and_does_what_it_says(self) -> None:
        left = len(self.plan.classes_left) + len(self.plan.apart_left)
        way = next(w for w in ways_out(self.given, self.plan.sessions, left, 0.3) if w.kind == "cart")
        self.assertGreater(way.placed, 0)
        then = make_plan(supposing(self.given, "cart"), 0.3, before=self.plan.sessions, proof=False)
        self.assertEqual(left - len(then.classes_left) - len(then.apart_left), way.placed)

    def test_blocks_outside_the_days_chosen_are_no_reason_unless_all_are(self) -> None:
        given, _ = made()
        two_days = frozenset(t for t, slot in enumerate(given.slots) if slot.day > 0)
        given = replace(given, classes=tuple(replace(t, shut=two_days) for t in given.classes), apart=())
        plan = make_plan(given, 0.3, proof=False)
        first = class_reasons(given, plan.sessions, plan.classes_left[0])[0]
        self.assertEqual((first.kind, first.of), ("a_day", len(given.slots) - len(two_days)))
        everywhere = replace(plan.classes_left[0], shut=frozenset(range(len(given.slots))))
        self.assertEqual(class_reasons(given, plan.sessions, everywhere)[0].kind, "shut")

    def test_of_a_student_apart(self) -> None:
        nobody = replace(self.given, proctors=tuple(p for p in self.given.proctors if not p.supports))
        plan = make_plan(nobody, 0.3, proof=False)
        read = next(t for t in plan.apart_left if t.support)
        first = apart_reasons(nobody, plan.sessions, read)[0]
        self.assertEqual((first.kind, first.slots), ("proctor", len(nobody.slots)))
