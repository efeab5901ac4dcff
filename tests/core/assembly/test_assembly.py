"""Blueprints to forms: what contradicts itself is refused, forms hold what was asked, collisions are named."""

from __future__ import annotations

import unittest
from dataclasses import replace
from itertools import combinations

import numpy as np

from bildung.core.assembly.apart import assemble_apart
from bildung.core.assembly.assemble import assemble
from bildung.core.assembly.blueprint import Candidate, Row, TestBlueprint, TestPart, check, held
from bildung.core.assembly.predict import distribution, nearest, predict
from bildung.core.assembly.program import Demands, thinned
from bildung.core.errors import Refused


def item(id: int, standard: str = "S1", p: float | None = 0.6, **more: object) -> Candidate:
    sd = None if p is None else (p * (1 - p)) ** 0.5
    given = {
        "points": 1.0,
        "kind": "choice",
        "depth": 1,
        "seconds": 60,
        "p": p,
        "sd": sd,
        "n": 100,
        "loading": None if sd is None else 0.4 * sd,
        "r_rest": None if p is None else 0.4,
        "p_error": 0.05,
    }
    return Candidate(id=id, code=f"I{id:03}", standards=(standard,), **{**given, **more})  # type: ignore[arg-type]


def bank(size: int = 60, standards: int = 3, seed: int = 1) -> list[Candidate]:
    rng = np.random.default_rng(seed)
    return [
        item(
            at,
            f"S{at % standards + 1}",
            float(rng.uniform(0.2, 0.9)),
            depth=1 + at % 2,
            kind=("choice", "number")[at // 2 % 2],
        )
        for at in range(size)
    ]


class Contradictions(unittest.TestCase):
    def test_what_no_bank_could_meet_is_refused_with_its_place(self) -> None:
        for blueprint, said in (
            (TestBlueprint(rows=()), "at least one row"),
            (TestBlueprint(rows=(Row(low=3, high=2),)), "row 1, anything: from 3 to 2"),
            (TestBlueprint(rows=(Row(low=1, high=1, part=1),)), "no part 2"),
            (TestBlueprint(rows=(Row(low=1, high=1),), items=(5, 4)), "items: from 5 to 4"),
            (
                TestBlueprint(
                    rows=(Row(low=6, high=6, standard="S1"), Row(low=6, high=8, standard="S2")), items=(10, 10)
                ),
                "at least 12 items .* may have 10",
            ),
            (TestBlueprint(rows=(Row(low=1, high=1),), target=1.2), "target"),
            (TestBlueprint(rows=(Row(low=1, high=1),), set_low=4, set_high=2), "items of a stimulus"),
            (
                TestBlueprint(
                    rows=(Row(low=7, high=7, count="points"), Row(low=7, high=7, count="points", depth=2)),
                    points=(6, 6),
                ),
                "at least 7 points",
            ),
        ):
            with self.assertRaisesRegex(Refused, said):
                check(blueprint)

    def test_rows_that_one_item_can_serve_twice_do_not_add_up(self) -> None:
        check(TestBlueprint(rows=(Row(low=6, high=6, standard="S1"), Row(low=6, high=6, depth=2)), items=(6, 8)))


class Holding(unittest.TestCase):
    def test_what_is_missing_and_what_is_too_much_is_said(self) -> None:
        blueprint = TestBlueprint(
            rows=(Row(low=2, high=2, standard="S1"), Row(low=1, high=2, count="points", standard="S2", depth=2)),
            items=(3, 3),
        )
        placed = [(item(1), 0), (item(2, "S2", depth=2, points=4.0), 0), (item(3, "S9"), 0), (item(4, "S9"), 0)]
        found = held(blueprint, placed)
        self.assertEqual(
            [(h.have, h.missing, h.says) for h in found],
            [
                (1, 1, "S1: 1 item missing"),
                (4, -2, "S2, depth 2: 2 points too many"),
                (4, -1, "all items: 1 item too many"),
                (2, -2, "in no row of the blueprint: I003, I004"),
            ],
        )
        self.assertTrue(
            all(not h.says for h in held(TestBlueprint(rows=(Row(low=0, high=3, standard="S"),)), [(item(1), 0)]))
        )


class Predicting(unittest.TestCase):
    def test_mean_and_alpha_are_those_of_the_known_items(self) -> None:
        items = [item(at, p=0.3 + at / 20) for at in range(10)]
        found = predict(items)
        self.assertAlmostEqual(found.mean or 0, sum(i.p or 0 for i in items))
        own = sum((i.sd or 0) ** 2 for i in items)
        total = own + sum(2 * (a.loading or 0) * (b.loading or 0) for a, b in combinations(items, 2))
        self.assertAlmostEqual(found.sd or 0, total**0.5)
        self.assertAlmostEqual(found.alpha or 0, 10 / 9 * (1 - own / total))
        low, high = found.mean_ci95 or (0, 0)
        self.assertAlmostEqual((high - low) / 2, 1.96 * 0.05 * 10**0.5)

    def test_an_item_without_history_is_never_given_a_value(self) -> None:
        known = [item(1), item(2)]
        found = predict([*known, item(3, p=None)])
        self.assertEqual((found.known, found.unknown, found.known_points, found.points), (2, ("I003",), 2, 3))
        self.assertEqual((found.mean, found.alpha), (predict(known).mean, predict(known).alpha))
        nothing = predict([item(3, p=None)])
        self.assertIsNone(nothing.mean)
        self.assertIn("none of its items", nothing.why["mean"])

    def test_the_distribution_is_one_and_has_the_mean_and_the_spread(self) -> None:
        items = [item(at, p=0.35 + at / 60) for at in range(20)]
        chances = distribution(items)
        totals = np.arange(len(chances))
        found = predict(items)
        self.assertAlmostEqual(float(chances.sum()), 1, 6)
        self.assertAlmostEqual(float(totals @ chances), found.mean or 0, 1)
        spread = float((totals - totals @ chances) ** 2 @ chances) ** 0.5
        self.assertAlmostEqual(spread / (found.sd or 1), 1, 1)

    def test_items_of_several_points_count_as_so_many_tries(self) -> None:
        chances = distribution([item(1, points=3.0, p=0.5, sd=1.0, loading=0.0), item(2, p=0.5, loading=0.0)])
        np.testing.assert_allclose(chances, [1 / 16, 4 / 16, 6 / 16, 4 / 16, 1 / 16], atol=1e-6)

    def test_alpha_comes_out_as_simulated_answers_give_it(self) -> None:
        """Known truth: one ability, items of which history is taken from one sample, alpha checked in another."""
        from bildung.core.classical.reliability import alpha_from

        rng = np.random.default_rng(4)
        difficulty, slope = rng.normal(0, 0.8, 20), rng.uniform(0.7, 1.6, 20)

        def sat(n: int) -> np.ndarray:
            ability = rng.normal(size=(n, 1))
            return (rng.random((n, 20)) < 1 / (1 + np.exp(-slope * (ability - difficulty)))).astype(float)

        past = sat(6000)
        items = []
        for at in range(20):
            rest = np.delete(past, at, 1)
            reliable = alpha_from(float(rest.var(0, ddof=1).sum()), float(rest.sum(1).var(ddof=1)), 19)
            r, sd = float(np.corrcoef(past[:, at], rest.sum(1))[0, 1]), float(past[:, at].std(ddof=1))
            items.append(item(at, p=float(past[:, at].mean()), sd=sd, loading=sd * r / reliable**0.5))
        half, now = items[:12], sat(6000)[:, :12]
        true = alpha_from(float(now.var(0, ddof=1).sum()), float(now.sum(1).var(ddof=1)), 12)
        self.assertAlmostEqual(predict(half).alpha or 0, true, 1)
        self.assertLess(abs((predict(half).alpha or 0) - true), 0.02)


class Nearest(unittest.TestCase):
    def test_the_same_standard_depth_kind_and_difficulty_come_first(self) -> None:
        me = item(0, p=0.5)
        others = [
            item(1, p=0.9),
            item(2, p=0.52),
            item(3, "S2", p=0.5),
            item(4, p=0.5, kind="number"),
            item(5, p=None),
            item(6, p=0.51, used=3),
        ]
        found = nearest(me, others)
        self.assertEqual(found[0][0].id, 2)
        self.assertNotIn(3, [other.id for other, _ in found])
        said = {other.id: words for other, words in found}
        self.assertEqual(said[1], "40 points of a hundred easier")
        self.assertIn("not used yet", said[5])
        self.assertIn("used 3 times this year", said[6])


class Assembling(unittest.TestCase):
    def setUp(self) -> None:
        self.items = bank()
        self.blueprint = TestBlueprint(
            rows=(
                *(Row(low=3, high=3, standard=f"S{at}") for at in (1, 2, 3)),
                Row(low=4, high=5, depth=2),
                Row(low=2, high=6, kind="number"),
            ),
            items=(9, 9),
            minutes=(5, 12),
        )

    def test_every_form_holds_what_is_asked_and_they_are_alike(self) -> None:
        found = assemble(self.blueprint, self.items, Demands(forms=3))
        self.assertIsNone(found.collision)
        self.assertEqual(len(found.forms), 3)
        for form in found.forms:
            self.assertEqual([h.says for h in form.held if h.says], [])
        ids = [id for form in found.forms for id, _ in form.placed]
        self.assertEqual(len(ids), len(set(ids)), "no item on two forms")
        means = [form.predicted.mean or 0 for form in found.forms]
        self.assertAlmostEqual(found.spread_of_means or 0, max(means) - min(means))
        self.assertLess(max(means) - min(means), 0.3)
        self.assertLessEqual(found.bound, found.deviation)

    def test_anchors_are_shared_by_all_and_nothing_else_is(self) -> None:
        found = assemble(self.blueprint, self.items, Demands(forms=3, anchor=3))
        self.assertEqual(len(found.common), 3)
        for a, b in combinations(found.forms, 2):
            self.assertEqual(len({i for i, _ in a.placed} & {i for i, _ in b.placed}), 3)

    def test_an_overlap_is_at_most_what_is_allowed(self) -> None:
        found = assemble(self.blueprint, bank(18), Demands(forms=3, overlap=5))
        for a, b in combinations(found.forms, 2):
            self.assertLessEqual(len({i for i, _ in a.placed} & {i for i, _ in b.placed}), 5)

    def test_the_target_is_met_as_nearly_as_it_is_said(self) -> None:
        found = assemble(replace(self.blueprint, target=0.7), self.items)
        (form,) = found.forms
        self.assertAlmostEqual(abs((form.predicted.mean or 0) - 0.7 * 9), found.deviation, 6)
        self.assertLess(found.deviation, 0.06)

    def test_enemies_stay_apart_and_sets_are_whole_or_bounded(self) -> None:
        items = [
            replace(i, stimulus=f"P{n // 4}")
            if n < 24
            else replace(i, enemies=frozenset({n + 1 if n % 2 == 0 else n - 1}))
            for n, i in enumerate(self.items)
        ]
        bounded = replace(
            self.blueprint, sets=(1, 2), set_low=2, set_high=3, items=(8, 10), rows=(Row(low=8, high=10, standard="S"),)
        )
        for blueprint, sizes in ((bounded, {2, 3}), (replace(bounded, set_low=0), {4})):
            found = assemble(blueprint, items, Demands(forms=2))
            for form in found.forms:
                ids = {id for id, _ in form.placed}
                counts = {
                    s: sum(items[id].stimulus == s for id in ids) for s in {items[id].stimulus for id in ids} - {""}
                }
                self.assertIn(len(counts), (1, 2))
                self.assertLessEqual(set(counts.values()), sizes)
                self.assertFalse(any(items[id].enemies & ids for id in ids))

    def test_fixed_items_are_on_their_form_and_excluded_ones_on_none(self) -> None:
        fixed = ((0, 1), (2,))
        gone = frozenset(range(40, 60))
        found = assemble(self.blueprint, self.items, Demands(forms=2, fixed=fixed, excluded=gone))
        first, second = ({id for id, _ in form.placed} for form in found.forms)
        self.assertLessEqual({0, 1}, first)
        self.assertIn(2, second)
        self.assertFalse((first | second) & gone)

    def test_parts_hold_their_own_rows_and_an_item_stands_in_one(self) -> None:
        parts = TestBlueprint(
            rows=(Row(low=3, high=3, standard="S1", part=0), Row(low=4, high=4, standard="S", part=1)),
            parts=(TestPart("By head"), TestPart("With calculator")),
            items=(7, 7),
        )
        (form,) = assemble(parts, self.items).forms
        self.assertEqual([part for _, part in form.placed], [0, 0, 0, 1, 1, 1, 1])
        self.assertEqual(len({id for id, _ in form.placed}), 7)

    def test_what_was_sat_in_this_window_or_separates_little_is_left(self) -> None:
        items = [replace(i, window=i.id % 7 == 0, r_rest=0.1 if i.id % 5 == 0 else 0.4) for i in self.items]
        (form,) = assemble(self.blueprint, items, Demands(least_r=0.2)).forms
        self.assertTrue(all(id % 7 and id % 5 for id, _ in form.placed))

    def test_an_item_with_a_problem_stands_on_no_form_unless_asked_for(self) -> None:
        items = [replace(i, problem=i.id < 30) for i in self.items]
        (form,) = assemble(self.blueprint, items).forms
        self.assertTrue(all(id >= 30 for id, _ in form.placed))
        held = assemble(self.blueprint, items, Demands(excluded=frozenset(range(30, 60)), flagged=True))
        self.assertIsNone(held.collision)

    def test_items_that_were_sat_are_preferred(self) -> None:
        items = [replace(i, p=None, sd=None, loading=None, r_rest=None) if i.id % 2 else i for i in bank(120)]
        rows = tuple(Row(low=3, high=3, standard=f"S{at}") for at in (1, 2, 3))
        found = assemble(TestBlueprint(rows=rows), items, Demands(forms=2))
        self.assertEqual([form.predicted.unknown for form in found.forms], [(), ()])

    def test_all_forms_have_as_many_items_and_points(self) -> None:
        items = [replace(i, points=float(1 + i.id % 3)) for i in self.items]
        loose = TestBlueprint(
            rows=(
                Row(low=2, high=6, standard="S1"),
                Row(low=2, high=6, standard="S2"),
                Row(low=2, high=6, standard="S3"),
            ),
            items=(6, 14),
        )
        for seed in (1, 2, 3):
            found = assemble(
                loose, [replace(i, p=p.p) for i, p in zip(items, bank(seed=seed), strict=True)], Demands(forms=3)
            )
            self.assertEqual(len({(form.predicted.items, form.predicted.points) for form in found.forms}), 1)

    def test_a_large_bank_is_thinned_without_losing_a_sort(self) -> None:
        many = bank(3000)
        some = thinned(self.blueprint, many, Demands(forms=2, fixed=((2999,),)))
        self.assertLess(len(some), 1000)
        self.assertIn(2999, {i.id for i in some})
        self.assertEqual({(i.standard, i.depth, i.kind) for i in some}, {(i.standard, i.depth, i.kind) for i in many})


class Colliding(unittest.TestCase):
    def test_only_the_demands_that_collide_are_named_with_counts(self) -> None:
        items = bank(30)
        blueprint = TestBlueprint(
            rows=(
                Row(low=2, high=2, standard="S1"),
                Row(low=2, high=2, standard="S2"),
                Row(low=12, high=12, standard="S3"),
            ),
            items=(16, 16),
        )
        found = assemble(blueprint, items)
        assert found.collision is not None
        self.assertEqual([d.says for d in found.collision.demands], ["12 items of S3"])
        self.assertEqual((found.collision.demands[0].needed, found.collision.demands[0].available), (12, 10))
        self.assertTrue(found.collision.irreducible)

    def test_demands_that_only_collide_together_are_all_named_and_each_is_needed(self) -> None:
        items = bank(40)
        rows = (
            Row(low=5, high=5, standard="S1"),
            Row(low=5, high=5, standard="S2"),
            Row(low=0, high=3, depth=1),
            Row(low=0, high=3, depth=2),
        )
        found = assemble(TestBlueprint(rows=rows), items)
        assert found.collision is not None
        named = [d.row for d in found.collision.demands]
        self.assertIn(2, named)
        self.assertIn(3, named)
        for out in named:
            left = tuple(row for at, row in enumerate(rows) if at in named and at != out)
            loose = (Row(low=0, high=40, standard="S"),)  # items that fit no row any more may still be taken
            self.assertIsNone(
                assemble(TestBlueprint(rows=left + loose), items).collision, f"without row {out} it can be met"
            )

    def test_the_nearest_blueprint_can_be_met(self) -> None:
        items = bank(30)
        blueprint = TestBlueprint(
            rows=(Row(low=14, high=14, standard="S1"), Row(low=2, high=2, standard="S2")), items=(16, 16)
        )
        found = assemble(blueprint, items)
        assert found.collision is not None and found.collision.nearest is not None
        self.assertTrue(found.collision.gives_up)
        self.assertIsNone(assemble(found.collision.nearest, items).collision)

    def test_what_one_form_can_have_but_two_cannot_is_told_of_both(self) -> None:
        found = assemble(TestBlueprint(rows=(Row(low=6, high=6, standard="S1"),)), bank(30), Demands(forms=2))
        assert found.collision is not None
        self.assertEqual([d.says for d in found.collision.demands], ["6 items of S1", "no item on two forms"])


class Apart(unittest.TestCase):
    def test_another_process_gives_the_same_and_passes_what_is_refused(self) -> None:
        blueprint, heard = TestBlueprint(rows=(Row(low=3, high=3, standard="S1"),), items=(3, 3)), list[str]()
        here = assemble(blueprint, bank(), Demands(forms=2))
        there = assemble_apart(blueprint, bank(), Demands(forms=2), tell=lambda what, best, bound: heard.append(what))
        self.assertEqual([f.placed for f in there.forms], [f.placed for f in here.forms])
        self.assertTrue(heard)
        with self.assertRaisesRegex(Refused, "no range"):
            assemble_apart(TestBlueprint(rows=(Row(low=3, high=1),)), bank(), Demands())

    def test_whoever_waits_may_stop_it(self) -> None:
        class Enough(Exception):
            pass

        def tell(what: str, best: float, bound: float) -> None:
            raise Enough

        with self.assertRaises(Enough):
            assemble_apart(TestBlueprint(rows=(Row(low=3, high=3),)), bank(), Demands(), tell=tell)
