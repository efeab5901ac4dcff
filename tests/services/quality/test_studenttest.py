"""One student's whole test: the same points as every list, what was given beside what is right, comments."""

from __future__ import annotations

import unittest

from bildung.services.quality import studenttest
from bildung.services.quality.grid import grid
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.errors import Invalid, NotAllowed, NotFound
from tests.services.scoring.support import STUDENTS, ScoringCase


class Whole(ScoringCase):
    def see(self, n: int, actor=None) -> studenttest.StudentTest:  # type: ignore[no-untyped-def]
        return studenttest.student_test(self.ctx, actor or self.teacher, self.sittings()[n])

    def test_what_waits_is_said_and_in_no_total(self) -> None:
        found = self.see(0)
        self.assertEqual([i.gave for i in found.items], ["awaiting", "awaiting", "right"])
        self.assertIn("2 of the 2 points scored so far (100%). 2 responses, 8 points, wait for a score.", found.finding)
        self.assertEqual((found.items[0].earned, found.items[0].answer), (None, "Because of reason 0."))
        self.assertTrue(next(m for m in found.classmates if m.sitting == found.sitting).waits)

    def test_the_points_are_those_of_the_grid(self) -> None:
        for sitting in self.sittings()[: STUDENTS - 1]:
            self.give(self.boss, sitting, 1.0, 1.0)
            self.clock.pass_by(minutes=11)
            self.give(self.boss, sitting, 0.0, 1.0, kind="several")
            self.clock.pass_by(minutes=11)
        rows = {
            s.sitting: (s.earned, s.possible)
            for s in grid(self.ctx, self.boss, ScopeRequest(forms=(self.form,))).students
        }
        for n, sitting in enumerate(self.sittings()):
            found = self.see(n)
            self.assertEqual((found.earned, found.possible), rows[sitting])
            self.assertAlmostEqual(sum(i.earned or 0.0 for i in found.items), found.earned or 0.0)
        one = self.see(0)
        self.assertEqual([(i.gave, i.earned) for i in one.items], [("partly", 2.0), ("partly", 3.0), ("right", 2.0)])
        blank = self.see(STUDENTS - 1)
        self.assertEqual([i.gave for i in blank.items], ["omitted", "partly", "right"])
        self.assertIn("1 item has no answer.", blank.finding)

    def test_next_and_previous_are_by_name_and_how_many_gave_the_same_is_said(self) -> None:
        found = self.see(0)
        names = [m.name.split()[-1] for m in found.classmates]
        self.assertEqual(names, sorted(names))
        order = [m.sitting for m in found.classmates]
        at = order.index(found.sitting)
        self.assertEqual(found.next, order[at + 1] if at + 1 < len(order) else None)
        self.assertEqual(found.previous, order[at - 1] if at else None)
        choice = found.items[2]
        self.assertEqual((choice.letter, choice.alike, choice.of), ("B", STUDENTS, STUDENTS))

    def test_a_comment_is_said_changed_and_taken_back(self) -> None:
        sitting, place = self.sittings()[0], self.places["choice"]
        self.assertEqual(
            [(c.text, c.mine) for c in studenttest.say(self.ctx, self.teacher, sitting, place, " Well done. ")],
            [("Well done.", True)],
        )
        self.assertEqual([c.mine for c in self.see(0, self.boss).items[2].comments], [False])
        self.assertEqual(studenttest.say(self.ctx, self.teacher, sitting, place, ""), [])
        with self.assertRaisesRegex(Invalid, "at most 1000"):
            studenttest.say(self.ctx, self.teacher, sitting, place, "x" * 1001)
        with self.assertRaises(NotFound):
            studenttest.say(self.ctx, self.teacher, sitting, 10**6, "Hello.")

    def test_only_whoever_may_see_who_answered_what(self) -> None:
        with self.assertRaises(NotFound):
            self.see(0, self.staff("elsewhere"))
        with self.assertRaises(NotAllowed):
            self.see(0, self.wren)
        with self.assertRaises(NotFound):
            studenttest.student_test(self.ctx, self.boss, 10**6)


if __name__ == "__main__":
    unittest.main()
