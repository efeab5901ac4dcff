"""Two plans beside each other."""

from __future__ import annotations

import unittest
from dataclasses import replace

from bildung.core.planning.compare import compare_plans
from bildung.core.planning.sessions import PlanSession, StudentList


def session(id: int, slot: int, room: str, proctor: int, *lists: StudentList) -> PlanSession:
    return PlanSession(id=id, slot=slot, minutes=50, lists=lists, room=room, proctor=proctor)


class Compared(unittest.TestCase):
    def setUp(self) -> None:
        self.one = [
            session(1, 0, "A", 10, StudentList(klass=1, test=7, students=(1, 2, 3))),
            session(2, 1, "B", 11, StudentList(klass=2, test=7, students=(4, 5))),
            session(3, 2, "Small", 12, StudentList(klass=1, test=7, students=(6, 7), whole=False)),
        ]

    def differences(self, *changed: PlanSession, gone: int = 0) -> list[tuple[str, int, bool, tuple[int, ...]]]:
        ids = {s.id for s in changed}
        other = [s for s in self.one if s.id not in ids and s.id != gone] + list(changed)
        return [(d.kind, d.klass, d.whole, d.students) for d in compare_plans(self.one, other)]

    def test_the_same_under_other_numbers_is_the_same(self) -> None:
        self.assertEqual(compare_plans(self.one, [replace(s, id=s.id + 5) for s in reversed(self.one)]), [])

    def test_what_differs_is_named_by_what_weighs_most(self) -> None:
        first, second, apart = self.one
        self.assertEqual(self.differences(replace(first, slot=3, room="C")), [("time", 1, True, (1, 2, 3))])
        self.assertEqual(self.differences(replace(first, room="C", proctor=9)), [("room", 1, True, (1, 2, 3))])
        self.assertEqual(self.differences(replace(second, proctor=9)), [("proctor", 2, True, (4, 5))])
        self.assertEqual(self.differences(gone=2), [("gone", 2, True, (4, 5))])
        self.assertEqual([d.kind for d in compare_plans(self.one[:2], self.one)], ["new"])
        self.assertEqual(compare_plans(self.one[:2], self.one)[0].proctors, {12})
        self.assertEqual(self.differences(replace(apart, slot=4)), [("time", 1, False, (6, 7))])

    def test_students_of_one_list_who_part_are_told_apart(self) -> None:
        first, *_ = self.one
        stay = replace(first, lists=(StudentList(klass=1, test=7, students=(1, 2)),))
        moved = session(9, 5, "Z", 13, StudentList(klass=1, test=7, students=(3,), whole=False))
        self.assertEqual(self.differences(stay, moved), [("time", 1, False, (3,))])
