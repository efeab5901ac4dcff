"""What a coordinator and a teacher find out together: comparison by standard, matched groups as a picture, the same
mistake in several items, time and effort, how far to trust, what to teach again."""

from __future__ import annotations

import itertools
import unittest

import numpy as np
from scipy import stats

from bildung.core.classical.analysis import analyse
from bildung.core.classical.effort import effort
from bildung.core.comparison.compare import compare
from bildung.core.comparison.differential import differential
from bildung.core.comparison.matched import mantel
from bildung.core.data.responses import ItemColumn, table_from_cells
from bildung.core.errors import Refused
from bildung.core.precision.trust import dimension_words, trust, trust_words
from bildung.core.teaching.misconceptions import at_least, clusters, mistakes
from bildung.core.teaching.reteach import reteach
from tests.core.classical.test_workbench import simulated, table


class ByStandard(unittest.TestCase):
    def setUp(self) -> None:
        self.cells = simulated(240, 12)
        self.groups = ["north" if at % 3 else "south" for at in range(240)]
        for row, group in zip(self.cells, self.groups, strict=True):
            if group == "south":  # the first standard was taught otherwise there
                row[0:4] = ["B" if at % 2 else mine for at, mine in enumerate(row[0:4])]
        self.analysis = analyse(table(self.cells))
        self.everybody = np.ones(240, dtype=bool)
        self.standards = {"first": [0, 1, 2, 3], "second": [4, 5, 6, 7], "third": [8, 9, 10, 11]}

    def test_a_standard_taught_otherwise_is_found_where_it_is(self) -> None:
        found = compare(self.analysis, self.groups, self.everybody, self.standards)
        verdicts = {(f.item, f.group): f.finding for f in found.findings}
        self.assertEqual(verdicts["first", "south"], "low_in_one")
        south = next(g for g in found.groups if g.group == "south")
        share = np.mean(
            [[cell == "A" for cell in row[0:4]] for row, g in zip(self.cells, self.groups, strict=True) if g == "south"]
        )
        self.assertAlmostEqual(south.items[0].p or 0, float(share))
        low, high = south.items[0].ci95 or (1, 0)
        self.assertTrue(low < share < high)

    def test_it_is_mantels_statistic_on_the_points_of_the_standard(self) -> None:
        found = compare(self.analysis, self.groups, self.everybody, self.standards)
        south = np.array([g == "south" for g in self.groups])
        points = np.array([[cell == "A" for cell in row[0:4]] for row in self.cells]).sum(axis=1)
        total = self.analysis.scores.earned.astype(int)
        counts = np.zeros((2, 5, 13), dtype=np.int64)
        np.add.at(counts, (south.astype(int), points, total), 1)
        mine = mantel(counts[0], counts[1], np.arange(5.0))
        theirs = next(f for f in found.findings if (f.item, f.group) == ("first", "south"))
        self.assertAlmostEqual(theirs.p_value or 0, mine.p_value or 9)

    def test_a_standard_of_one_item_is_that_item(self) -> None:
        one = compare(self.analysis, self.groups, self.everybody, {"j": [9]})
        items = compare(self.analysis, self.groups, self.everybody)
        self.assertEqual(one.groups[0].items[0].p, items.groups[0].items[9].p)
        self.assertEqual(one.groups[0].items[0].ci95, items.groups[0].items[9].ci95)

    def test_who_did_not_meet_all_of_it_is_not_in_it(self) -> None:
        cells = [[*row] for row in self.cells]
        for row in cells[:60]:
            row[0] = "!np"
        found = compare(analyse(table(cells)), self.groups, self.everybody, self.standards)
        self.assertEqual(sum(g.items[0].n for g in found.groups), 180)
        self.assertEqual(sum(g.items[1].n for g in found.groups), 240)


class Picture(unittest.TestCase):
    def test_stretches_hold_everybody_once_and_whole_scores(self) -> None:
        cells = simulated(160, 10)
        groups = ["a" if at % 2 else "b" for at in range(160)]
        analysis = analyse(table(cells))
        item = differential(analysis, groups, np.ones(160, dtype=bool)).items[4]
        picture = item.picture
        self.assertTrue(2 <= len(picture) <= 5)
        self.assertEqual((sum(s.reference.n for s in picture), sum(s.focal.n for s in picture)), (80, 80))
        for before, after in itertools.pairwise(picture):
            self.assertLess(before.high, after.low)
        lowest = picture[0]
        mine = [
            row[4] == "A"
            for row, group, x in zip(cells, groups, analysis.scores.earned, strict=True)
            if group == "a" and x <= lowest.high
        ]
        self.assertEqual((lowest.reference.n, lowest.reference.p), (len(mine), float(np.mean(mine))))


class Mistakes(unittest.TestCase):
    def setUp(self) -> None:
        self.cells = simulated(60, 10)
        for row in self.cells[:8]:
            row[0] = row[1] = row[2] = "B"
            row[5] = row[6] = row[7] = "C"
        self.notes = {
            0: {"B": "adds denominators", "C": "halves"},
            1: {"B": "Adds  denominators."},
            2: {"B": "adds denominators"},
            5: {"C": "reads the graph backwards"},
            6: {"C": "reads the graph backwards"},
            7: {"C": "reads the graph backwards"},
        }
        self.found = mistakes(analyse(table(self.cells)), self.notes)

    def test_equal_words_are_one_mistake_and_several_items_come_first(self) -> None:
        self.assertEqual({m.note for m in self.found[:2]}, {"adds denominators", "reads the graph backwards"})
        adds = next(m for m in self.found if m.note == "adds denominators")
        self.assertEqual([c.item for c in sorted(adds.carriers, key=lambda c: c.item)], ["a", "b", "c"])
        self.assertEqual(adds.answers, sum(row[at] == "B" for row in self.cells for at in range(3)))
        self.assertEqual(adds.n, sum("B" in row[:3] for row in self.cells))
        self.assertTrue(adds.held[:8].all())
        slips = [at for at, row in enumerate(self.cells) if row[:3].count("B") == 1]
        self.assertTrue(slips and not adds.held[slips].any(), "one such answer is a slip")

    def test_held_is_beyond_chance_by_the_exact_tail(self) -> None:
        adds = next(m for m in self.found if m.note == "adds denominators")
        shares = [np.mean([row[at] == "B" for row in self.cells]) for at in range(3)]
        for row in np.flatnonzero(adds.held):
            tail = sum(
                np.prod([s if hit else 1 - s for s, hit in zip(shares, hits, strict=True)])
                for hits in np.ndindex(2, 2, 2)
                if sum(hits) >= adds.gave[row]
            )
            self.assertLessEqual(tail, 0.05)
        np.testing.assert_allclose(at_least(np.full(6, 0.3)), [stats.binom.sf(k - 1, 6, 0.3) for k in range(7)])

    def test_clusters_are_the_students_who_hold_the_same(self) -> None:
        found = clusters(self.found)
        self.assertEqual(set(found[0].notes), {"adds denominators", "reads the graph backwards"})
        self.assertEqual(set(range(8)) - set(found[0].students), set())
        self.assertEqual(clusters(self.found, least=60), ())
        self.assertEqual(clusters(()), ())

    def test_an_answer_of_several_options_and_a_place_there_is_not(self) -> None:
        item = ItemColumn(name="m", kind="multiple", points=1.0, options=tuple("ABC"), keys=("A", "B"))
        cells = [["A+C"], ["A+B"], ["C"], [""]]
        found = mistakes(analyse(table_from_cells([item], ["A+B"], cells)), {0: {"C": "takes all that moves"}})
        self.assertEqual((found[0].answers, found[0].carriers[0].share), (2, 2 / 3))
        self.assertEqual(mistakes(analyse(table_from_cells([item], ["A+B"], cells)), {0: {"Z": "never given"}}), ())
        with self.assertRaisesRegex(Refused, "no item at place 4"):
            mistakes(analyse(table_from_cells([item], ["A+B"], cells)), {4: {"A": "x"}})


class TimeAndEffort(unittest.TestCase):
    def setUp(self) -> None:
        self.cells = simulated(100, 12)
        self.seconds = np.full((100, 12), 40.0)
        for at in range(20):
            self.seconds[at, 6:] = 2.0
            self.cells[at][6:] = ["B"] * 6
        self.cells[30][10:] = ["", ""]
        self.seconds[40] = np.nan
        self.analysis = analyse(table(self.cells))
        self.found = effort(self.analysis, self.seconds)

    def test_rapid_guesses_are_found_and_their_effect_shown(self) -> None:
        self.assertEqual({i.threshold for i in self.found.items}, {4.0})
        self.assertEqual([i.rapid for i in self.found.items], [0] * 6 + [20] * 6)
        np.testing.assert_allclose(self.found.effort[:20], 0.5)
        self.assertEqual(
            (self.found.little, float(self.found.effort[40]), bool(self.found.known[40])), (20, 1.0, False)
        )
        late = self.found.items[7]
        self.assertEqual(late.rapid_p, 0.0)
        others = [row[7] == "A" for row in self.cells[20:]]
        self.assertAlmostEqual(late.p_without or 0, float(np.mean(others)))
        self.assertEqual(self.found.items[2].p_without, self.found.items[2].p)

    def test_the_totals_without_them(self) -> None:
        kept = [[cell == "A" for cell in row] for row in self.cells]
        shares = [np.mean(row[:6]) if at < 20 else np.mean(row) for at, row in enumerate(kept)]
        self.assertAlmostEqual(self.found.answers_left_out.mean or 0, float(np.mean(shares)))
        self.assertAlmostEqual(self.found.students_left_out.mean or 0, float(np.mean(shares[20:])))
        self.assertEqual((self.found.all.n, self.found.students_left_out.n), (100, 80))
        self.assertEqual(self.found.all.alpha, self.analysis.reliability.alpha)
        self.assertNotEqual(self.found.answers_left_out.alpha, self.found.all.alpha)

    def test_a_blank_is_no_guess_and_ten_seconds_are_the_most(self) -> None:
        self.assertFalse(self.found.rapid[30, 10:].any())
        slow = effort(self.analysis, self.seconds * 10)
        self.assertEqual({i.threshold for i in slow.items}, {10.0})

    def test_when_they_stopped_who_did_not_get_to_the_end(self) -> None:
        self.assertEqual(self.found.unfinished, 12 * 40.0)  # only one row has two blanks at its end
        self.cells[31][8:] = [""] * 4
        self.seconds[31, 8:] = np.nan
        cut = effort(analyse(table(self.cells)), self.seconds)
        self.assertEqual(cut.unfinished, (480.0 + 320.0) / 2)
        last = cut.items[-1]
        self.assertAlmostEqual(last.reached or 0, 0.98)
        self.assertAlmostEqual(last.p_all or 0, (last.p or 0) * 0.98)
        self.assertIsNone(effort(analyse(table(simulated(100, 12))), self.seconds).unfinished)

    def test_without_times_nothing_is_said_and_a_wrong_shape_is_refused(self) -> None:
        nothing = effort(self.analysis, np.full((100, 12), np.nan))
        self.assertEqual({(i.n, i.median, i.threshold, i.rapid) for i in nothing.items}, {(0, None, None, 0)})
        self.assertEqual((nothing.little, bool(nothing.known.any())), (0, False))
        with self.assertRaisesRegex(Refused, "for 100 students by 12 items"):
            effort(self.analysis, self.seconds[:, 1:])


class HowFarToTrust(unittest.TestCase):
    def setUp(self) -> None:
        self.analysis = analyse(table(simulated(400, 20)))
        self.found = trust(self.analysis, {"first": range(10), "second": range(10, 20)}, {"pass": 0.6, "high": 0.9})

    def test_lengths_follow_spearman_and_brown_both_ways(self) -> None:
        alpha = self.analysis.reliability.alpha or 0
        double = next(x for x in self.found.lengths if x.factor == 2)
        self.assertAlmostEqual(double.reliability, 2 * alpha / (1 + alpha))
        for wanted in self.found.wanted:
            n = (wanted.items or 0) / 20
            self.assertGreaterEqual(n * alpha / (1 + (n - 1) * alpha), wanted.reliability - 1e-9)
            less = n - 1 / 20
            self.assertLess(less * alpha / (1 + (less - 1) * alpha), wanted.reliability)

    def test_the_error_by_score_is_stated_for_right_or_wrong_tests_only(self) -> None:
        errors = {e.score: e for e in self.found.errors}
        self.assertEqual((errors[0.0].error, errors[20.0].error), (None, None))
        self.assertGreater(errors[10.0].error or 0, errors[18.0].error or 9)
        self.assertEqual(sum(e.students for e in self.found.errors), 400)
        mixed = [ItemColumn(name="a", kind="points", points=3.0), ItemColumn(name="b", kind="points", points=1.0)]
        other = trust(analyse(table_from_cells(mixed, ["", ""], [["3", "1"], ["1", "0"], ["2", "1"]])), {}, {})
        self.assertEqual((other.errors, "other than 1 point" in other.conditional_why), ((), True))

    def test_a_cut_says_who_is_on_the_wrong_side(self) -> None:
        cut = self.found.cuts[0]
        self.assertEqual(cut.points, 12.0)
        self.assertAlmostEqual(cut.passing, float((self.analysis.scores.earned >= 12).mean()))
        self.assertIsNotNone(cut.result)
        self.assertRegex(cut.says, r"about \d+% are on the wrong side")
        flat = trust(analyse(table([["A", "A"]] * 5)), {}, {"pass": 0.5})
        self.assertIn("cannot be stated", flat.cuts[0].says)

    def test_words_follow_the_reliability(self) -> None:
        self.assertEqual(trust_words(0.9), "can be trusted")
        self.assertIn("groups", trust_words(0.75))
        self.assertIn("single students", trust_words(0.5))
        self.assertEqual(trust_words(None), "cannot be judged")
        assert self.found.dimensions is not None
        self.assertIn("seems to measure one thing", dimension_words(self.found.dimensions))


class TeachAgain(unittest.TestCase):
    def setUp(self) -> None:
        self.cells = [list("AAAB"), list("ABBB"), list("ABBC"), list("AACB"), list("BBBB"), ["A", "A", "", ""]]
        self.analysis = analyse(table(self.cells))
        self.mine = np.array([True] * 4 + [False, True])

    def test_standards_under_the_line_come_lowest_first_with_whom_they_concern(self) -> None:
        found = reteach(self.analysis, self.mine, {"easy": [0], "hard": [2, 3], "middle": [1]}, 0.65)
        self.assertEqual([s.name for s in found], ["hard", "middle"])
        hard = found[0]
        self.assertEqual((hard.n, hard.points, hard.share), (5, 2.0, 0.1), "not reached has not been shown")
        self.assertEqual([r for r, _, _ in hard.need], [1, 2, 3, 5, 0])
        self.assertEqual(dict((r, (e, p)) for r, e, p in hard.need)[0], (1.0, 2.0))
        self.assertEqual([(i.item, i.p) for i in hard.items], [("d", 0.0), ("c", 0.2)])
        self.assertEqual([(w.answer, w.n, w.rows) for w in hard.items[0].wrong], [("B", 3, (0, 1, 3))])
        self.assertTrue(hard.sure)

    def test_a_standard_over_the_line_stands_there_for_its_low_item_only(self) -> None:
        found = reteach(self.analysis, self.mine, {"all": [0, 1, 2, 3]}, 0.5)
        self.assertEqual(([i.item for i in found[0].items], round(found[0].share, 3)), (["d", "c"], 0.45))
        self.assertEqual(reteach(self.analysis, self.mine, {"easy": [0]}, 0.9), ())
        self.assertEqual(reteach(self.analysis, np.zeros(6, dtype=bool), {"easy": [0]}, 0.9), ())
