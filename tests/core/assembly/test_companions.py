"""Who receives which form, what two forms share, draws that are held alike, and what a shortened form holds."""

from __future__ import annotations

import unittest
from collections import Counter
from datetime import UTC, datetime, timedelta

from bildung.core.assembly.blueprint import Candidate, TestPart
from bildung.core.assembly.companions import Claim, common, deal, settled
from bildung.core.assembly.draw import Heap, draw, outlook, target_of
from bildung.core.assembly.shorten import shortened_plan
from bildung.core.errors import Refused
from bildung.core.school.timing import personal_end

GENERAL, SHORT, OTHER = 1, 2, 3


class Dealing(unittest.TestCase):
    def test_neighbors_receive_different_forms_and_claims_come_first(self) -> None:
        dealt = deal([10, 11, 12, 13], {12: [Claim(SHORT, "group")]}, [GENERAL, OTHER])
        self.assertEqual(dealt.forms, {10: GENERAL, 11: OTHER, 12: SHORT, 13: GENERAL})
        self.assertEqual(dealt.unsettled, {})

    def test_two_groups_that_name_different_forms_are_unsettled_until_somebody_chooses(self) -> None:
        claims = [Claim(SHORT, "group A"), Claim(OTHER, "group B")]
        dealt = deal([10], {10: claims}, [GENERAL])
        self.assertEqual(dealt.forms, {})
        self.assertEqual(dealt.unsettled, {10: tuple(claims)})
        self.assertEqual(settled([*claims, Claim(OTHER, "chosen", True)]), OTHER)

    def test_two_groups_that_name_the_same_form_are_no_trouble(self) -> None:
        self.assertEqual(settled([Claim(SHORT, "a"), Claim(SHORT, "b")]), SHORT)
        self.assertIsNone(settled([]))


class Sharing(unittest.TestCase):
    def test_what_is_common_and_what_is_not(self) -> None:
        one = {"a": (1.0, "N.1"), "b": (2.0, "N.2"), "c": (1.0, "N.3")}
        other = {"b": (2.0, "N.2"), "d": (1.0, "N.1")}
        found = common(one, other)
        self.assertEqual((found.items, found.points), (1, 2.0))
        self.assertEqual((found.standards, found.only_one, found.only_other), (("N.1", "N.2"), ("N.3",), ()))
        self.assertIn("2 common points", found.comparable)

    def test_no_common_points_are_said_so(self) -> None:
        self.assertIn("no item is common", common({"a": (1.0, "N.1")}, {"b": (1.0, "N.1")}).comparable)
        self.assertIn("not at all", common({"a": (1.0, "N.1")}, {"b": (1.0, "N.2")}).comparable)


def items(
    count: int, start: int = 1, heap: str = "N.1", p: float | None = None, points: float = 1.0
) -> list[Candidate]:
    return [
        Candidate(
            id=start + at,
            code=f"I{start + at}",
            standards=(heap,),
            points=points,
            kind="choice",
            p=0.2 + 0.6 * at / max(1, count - 1) if p is None else p,
        )
        for at in range(count)
    ]


class Drawing(unittest.TestCase):
    def setUp(self) -> None:
        self.heaps = [Heap("a", 3, tuple(items(12))), Heap("b", 2, tuple(items(8, 100, "N.2", points=2.0)))]

    def test_the_same_seed_gives_the_same_items_so_many_of_each_heap_in_form_order(self) -> None:
        one, again, other = draw(self.heaps, 5, 0.05), draw(self.heaps, 5, 0.05), draw(self.heaps, 6, 0.05)
        self.assertEqual(one, again)
        self.assertNotEqual(one.items, other.items)
        self.assertEqual(Counter(id < 100 for id in one.items), {True: 3, False: 2})
        self.assertEqual(list(one.items), sorted(one.items))

    def test_every_draw_is_within_the_limit_and_plain_ones_are_not(self) -> None:
        target = target_of(self.heaps)
        assert target is not None
        self.assertAlmostEqual(target, 0.5)  # p from .2 to .8 in both heaps
        found = outlook(self.heaps, 0.03, 200)
        self.assertTrue(all(abs(share - target) <= 0.03 + 1e-9 for share in found.shares))
        assert found.kept is not None
        self.assertLess(found.kept, 0.5)
        self.assertEqual((found.unknown, found.count), (0, 5))

    def test_the_target_weighs_each_heap_by_what_is_drawn_of_it(self) -> None:
        heaps = [Heap("easy", 1, tuple(items(4, p=0.9))), Heap("hard", 3, tuple(items(4, 50, p=0.3)))]
        self.assertAlmostEqual(target_of(heaps) or 0, (0.9 + 3 * 0.3) / 4)

    def test_where_none_keeps_the_limit_the_nearest_is_taken_and_says_so(self) -> None:
        heaps = [Heap("two", 1, (items(1, 1, p=0.1)[0], items(1, 2, p=0.9)[0]))]
        found = draw(heaps, 1, 0.05)
        self.assertFalse(found.within)
        self.assertAlmostEqual(abs((found.share or 0) - 0.5), 0.4)

    def test_items_kept_apart_are_never_drawn_together(self) -> None:
        pair = [
            Candidate(id=1, code="A", standards=(), points=1.0, kind="choice", p=0.5, enemies=frozenset({2})),
            Candidate(id=2, code="B", standards=(), points=1.0, kind="choice", p=0.5, enemies=frozenset({1})),
            Candidate(id=3, code="C", standards=(), points=1.0, kind="choice", p=0.5),
        ]
        self.assertFalse(any({1, 2} <= set(draw([Heap("", 2, tuple(pair))], seed, None).items) for seed in range(50)))
        with self.assertRaisesRegex(Refused, "kept apart"):
            draw([Heap("", 2, tuple(pair[:2]))], 1, None)

    def test_what_cannot_be_drawn_is_refused_with_counts(self) -> None:
        with self.assertRaisesRegex(Refused, "a has 2 items, fewer than the 3"):
            draw([Heap("a", 3, tuple(items(2)))], 1, None)
        with self.assertRaisesRegex(Refused, "nothing is drawn"):
            draw([Heap("a", 0, tuple(items(2)))], 1, None)
        with self.assertRaisesRegex(Refused, "needs a pool"):
            draw([], 1, None)

    def test_a_pool_without_history_is_drawn_but_never_said_to_be_held(self) -> None:
        heaps = [Heap("", 2, (*items(3), Candidate(id=9, code="new", standards=(), points=1.0, kind="choice")))]
        self.assertIsNone(outlook(heaps, 0.05).target)
        self.assertFalse(draw(heaps, 1, 0.05).within)


class Shortening(unittest.TestCase):
    def test_fewer_of_each_standard_and_at_least_one(self) -> None:
        placed = [(item, 0) for item in items(6) + items(3, 50, "N.2") + items(1, 80, "N.3")]
        plan = shortened_plan(placed, (TestPart(""),), 0.5)
        self.assertEqual(
            {row.standard: (row.low, row.high) for row in plan.rows}, {"N.1": (3, 3), "N.2": (2, 2), "N.3": (1, 1)}
        )
        self.assertEqual(plan.items, (6, 6))
        self.assertIsNotNone(plan.target)

    def test_one_that_could_not_be_shorter_is_refused(self) -> None:
        placed = [(items(1, at, f"N.{at}")[0], 0) for at in range(1, 5)]
        with self.assertRaisesRegex(Refused, "at least one of each"):
            shortened_plan(placed, (TestPart(""),), 0.5)


class Time(unittest.TestCase):
    def test_a_test_s_own_limit_runs_from_the_student_s_start_and_never_beyond_the_session(self) -> None:
        start = datetime(2026, 11, 24, 8, tzinfo=UTC)
        end, late = start + timedelta(minutes=60), start + timedelta(minutes=30)
        self.assertEqual(personal_end(start, end, 1.0, start, 40), start + timedelta(minutes=40))
        self.assertEqual(personal_end(start, end, 1.0, late, 40), end)
        self.assertEqual(personal_end(start, end, 1.5, start, 40), start + timedelta(minutes=60))
        self.assertEqual(personal_end(start, end, 1.5), start + timedelta(minutes=90))


if __name__ == "__main__":
    unittest.main()
