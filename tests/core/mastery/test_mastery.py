"""Runs, states, direction and groups: by hand, by a slow script that shares no code, and as they should not depend on anything else."""

from __future__ import annotations

import itertools
import math
import unittest
from dataclasses import replace

import numpy as np
from scipy import stats

from bildung.core.errors import Refused
from bildung.core.mastery.advice import Standing, advice
from bildung.core.mastery.changes import CHANGES, changes
from bildung.core.mastery.counting import checked_counts, set_aside
from bildung.core.mastery.direction import Directions as Found
from bildung.core.mastery.direction import directions
from bildung.core.mastery.groups import find_groups, same_groups
from bildung.core.mastery.occasions import SHARES, Evidence, Items, Occasions, curve, occasions
from bildung.core.mastery.rules import USUAL, MasteryRules, asks
from bildung.core.mastery.run import Filtered, filtered, interval, over, posterior
from bildung.core.mastery.states import STATES, States, check_again, states
from bildung.core.mastery.story import Told, story

Row = tuple[int, int, float, float]  # cell, day, earned, possible


def evidence(rows: list[Row], p: float = math.nan, usual: float = math.nan) -> Evidence:
    cell, day, earned, possible = (np.array(part) for part in zip(*rows, strict=True))
    worths = np.unique(possible.astype(float))
    items = Items(worths, np.ones(worths.size), np.full(worths.size, p), np.full(worths.size, usual))
    item = np.searchsorted(worths, possible).astype(np.int64)
    return Evidence(cell.astype(np.int64), day.astype(np.int64), item, earned.astype(float), items)


def judged(rows: list[Row], cells: int = 1, rules: MasteryRules = USUAL) -> tuple[Occasions, Filtered, States]:
    found = occasions(evidence(rows), cells)
    gaps = np.diff(found.day, axis=1, prepend=0)
    run = filtered(found, gaps, rules)
    return found, run, states(found, run, rules)


def belief(found: Occasions, rules: MasteryRules = USUAL) -> np.ndarray:
    return posterior(found, np.diff(found.day, axis=1, prepend=0), rules)


def slow(rows: list[Row], rules: MasteryRules = USUAL) -> tuple[str, float, float]:
    """One cell by plain loops over a fine grid of shares: state, probability above the line, mean."""
    grid = [(k + 0.5) / 4000 for k in range(4000)]
    prior = [math.asin(math.sqrt((k + 1) / 4000)) - math.asin(math.sqrt(k / 4000)) for k in range(4000)]
    scale = sum(prior)
    prior = [v / scale for v in prior]
    days = sorted({day for _, day, _, _ in rows})
    runs: list[list[float]] = []
    state, mastered_on, later = "not assessed", None, 0.0
    p_above = mean = 0.0
    for t, day in enumerate(days):
        here = [(x, m) for _, d, x, m in rows if d == day]
        weights = [min(1.0, 2 / m) for _, m in here]
        x = sum(w * e for w, (e, _) in zip(weights, here, strict=True))
        lost = sum(w * (m - e) for w, (e, m) in zip(weights, here, strict=True))
        like = [g**x * (1 - g) ** lost for g in grid]
        if not runs:
            runs = [[q * k for q, k in zip(prior, like, strict=True)]]
        else:
            h = 1 - 2 ** (-max(1, day - days[t - 1]) / rules.half_life)
            total = sum(map(sum, runs))
            runs = [[(1 - h) * a * k for a, k in zip(run, like, strict=True)] for run in runs]
            runs.append([h * total * q * k for q, k in zip(prior, like, strict=True)])
        scale = sum(map(sum, runs))
        runs = [[a / scale for a in run] for run in runs]
        masses = [sum(run) for run in runs]
        begin = max(range(len(masses)), key=lambda s: (masses[s], -s))
        post = [sum(column) for column in zip(*runs, strict=True)]
        p_above = sum(q for q, g in zip(post, grid, strict=True) if g >= rules.line)
        mean = sum(q * g for q, g in zip(post, grid, strict=True))
        amount = sum(min(1.0, 2 / m) * m for _, d, _, m in rows if days[begin] <= d <= day)
        if mastered_on is not None and p_above < rules.leave:
            mastered_on = None
        elif mastered_on is not None and day - mastered_on >= rules.retained_days:
            later += sum(min(1.0, 2 / m) * m for _, m in here)
        elif mastered_on is None and p_above >= rules.enter and amount >= rules.points:
            mastered_on, later = day, 0.0
        if mastered_on is not None:
            state = "retained" if later >= rules.retained_points else "mastered"
        elif amount < rules.thin:
            state = "insufficient evidence"
        else:
            state = "developing" if mean >= rules.developing else "beginning"
    return state, p_above, mean


class OneOccasion(unittest.TestCase):
    def test_usual_items_give_a_beta(self) -> None:
        for right, of in ((6, 6), (3, 8), (0, 5)):
            found, run, _ = judged([(0, 1, 1.0 if at < right else 0.0, 1.0) for at in range(of)])
            beta = stats.beta(0.5 + right, 0.5 + of - right)
            self.assertAlmostEqual(run.above[0, 0], beta.sf(0.8), places=3)
            self.assertAlmostEqual(run.mean[0, 0], beta.mean(), places=4)
            low, high = interval(belief(found))
            self.assertAlmostEqual(low[0], beta.ppf(0.05), places=2)
            self.assertAlmostEqual(high[0], beta.ppf(0.95), places=2)

    def test_what_mastered_asks_in_one_run(self) -> None:
        for right, of, yes in (
            (6, 6, True),
            (5, 5, False),
            (8, 8, True),
            (8, 9, False),
            (10, 11, True),
            (9, 11, False),
            (11, 12, True),
            (18, 20, True),
            (17, 20, False),
        ):
            with self.subTest(right=right, of=of):
                _, _, found = judged([(0, 1, 1.0 if at < right else 0.0, 1.0) for at in range(of)])
                self.assertEqual(STATES[found.now[0]] == "mastered", yes)

    def test_a_hard_item_tells_more_when_it_is_right(self) -> None:
        rows: list[Row] = [(0, 1, 1.0, 1.0)] * 4
        means = []
        for p in (0.9, 0.6, 0.3):
            found = occasions(evidence(rows, p, 0.6), 1)
            means.append(filtered(found, np.zeros((1, 1), dtype=np.int64), USUAL).mean[0, 0])
        self.assertEqual(means, sorted(means))
        np.testing.assert_allclose(curve(np.array([0.6]), np.array([0.6]))[0], SHARES)
        np.testing.assert_allclose(curve(np.array([np.nan]), np.array([0.6]))[0], SHARES)

    def test_a_long_response_is_not_many_trials(self) -> None:
        _, long, _ = judged([(0, 1, 6.0, 6.0)])
        _, two, _ = judged([(0, 1, 1.0, 1.0), (0, 1, 1.0, 1.0)])
        self.assertAlmostEqual(long.above[0, 0], two.above[0, 0])
        self.assertAlmostEqual(over(0.8).sum() / 200, 1 - 2 / np.pi * math.asin(math.sqrt(0.8)), places=9)


class Runs(unittest.TestCase):
    def test_a_late_riser_is_mastered_within_a_few_right_answers(self) -> None:
        rows: list[Row] = [(0, 1 + at * 10, 1.0 if at == 4 else 0.0, 1.0) for at in range(10)]
        rows += [(0, 200 + at * 10, 1.0, 1.0) for at in range(8)]
        found, _run, state = judged(rows)
        self.assertEqual(STATES[state.now[0]], "mastered")
        entered = next(t for t in range(18) if state.history[0, t] == 4)
        self.assertEqual(entered - 9, 6, "with the sixth of the eight")
        self.assertEqual(state.since[0], found.day[0, entered])
        self.assertEqual((state.run_earned[0], state.run_possible[0]), (8.0, 8.0))

    def test_mastered_retained_and_lapsed(self) -> None:
        rows: list[Row] = [(0, 10, 1.0, 1.0)] * 8 + [(0, 30, 1.0, 1.0)] * 3
        self.assertEqual(STATES[judged(rows)[2].now[0]], "retained")
        rows += [(0, 200, 0.0, 1.0)] * 8
        _, _, state = judged(rows)
        self.assertEqual((state.lapsed[0], state.since[0]), (200, 0))
        self.assertIn(STATES[state.now[0]], ("beginning", "developing"))
        self.assertTrue(judged([(0, 10, 1.0, 1.0)] * 8)[2].one_day[0])

    def test_the_same_as_a_slow_script(self) -> None:
        rng = np.random.default_rng(4)
        rows: list[Row] = []
        for cell in range(24):
            level = rng.uniform(0.2, 1.0)
            for day in np.sort(rng.choice(300, int(rng.integers(1, 6)), replace=False)):
                for _ in range(int(rng.integers(1, 5))):
                    most = float(rng.choice([1.0, 1.0, 2.0, 4.0]))
                    rows.append((cell, int(day) + 1, float(rng.binomial(int(most), level)), most))
        _, run, state = judged(rows, 24)
        for cell in range(24):
            mine = [(0, d, x, m) for c, d, x, m in rows if c == cell]
            told, p, mean = slow(mine)
            last = len({d for _, d, _, _ in mine}) - 1
            self.assertAlmostEqual(run.above[cell, last], p, delta=0.004)
            self.assertAlmostEqual(run.mean[cell, last], mean, delta=0.002)
            if abs(p - 0.8) > 0.01 and abs(p - 0.5) > 0.01 and abs(mean - 0.5) > 0.01:
                self.assertEqual(STATES[state.now[cell]], told)

    def test_what_must_not_matter(self) -> None:
        rng = np.random.default_rng(9)
        rows: list[Row] = [
            (c, int(rng.integers(1, 5)) * 20, float(rng.integers(0, 2)), 1.0) for c in range(6) for _ in range(9)
        ]
        found, run, state = judged(rows, 8)
        shuffled = [rows[at] for at in rng.permutation(len(rows))]
        mixed, other, again = judged(shuffled, 8)
        np.testing.assert_allclose(belief(found), belief(mixed))
        np.testing.assert_allclose(run.mean, other.mean)
        np.testing.assert_array_equal(state.history, again.history)
        alone, _, _ = judged([r for r in rows if r[0] == 3], 8)
        np.testing.assert_allclose(belief(alone)[3], belief(found)[3])
        self.assertEqual([STATES[at] for at in state.now[6:]], ["not assessed"] * 2)
        changes = {
            t for c in range(6) for t, (a, b) in enumerate(itertools.pairwise(state.history[c])) if a != b and b >= 0
        }
        self.assertTrue(changes, "states move, and only from one occasion to the next")

    def test_the_belief_behind_a_cell_is_the_one_that_judged_it(self) -> None:
        rng = np.random.default_rng(2)
        rows: list[Row] = [
            (c, int(d), float(rng.integers(0, 2)), 1.0) for c in range(40) for d in range(1, 2 + c) for _ in range(3)
        ]
        found, run, _ = judged(rows, 41)
        last = belief(found)
        for cell in range(40):
            self.assertAlmostEqual(float(last[cell] @ over(0.8)), run.above[cell, cell], places=10)
            self.assertAlmostEqual(float(last[cell] @ SHARES), run.mean[cell, cell], places=10)
        np.testing.assert_allclose(last[40], 1 / 200)

    def test_a_year_of_contradictions_stays_a_number(self) -> None:
        rows: list[Row] = [(0, d, float(d % 2), 1.0) for d in range(1, 90) for _ in range(12)]
        _, run, state = judged(rows)
        self.assertTrue(np.isfinite(run.mean).all())
        self.assertGreater(run.begins[0, -1], 80, "the present run is short")
        self.assertTrue(state.now[0])

    def test_check_again_by_days_and_not_by_a_change_of_state(self) -> None:
        above, yes = np.array([0.95, 0.95, 0.6]), np.array([True, True, False])
        found = check_again(above, yes, np.array([0, 400, 400]), USUAL)
        self.assertEqual(found.now.tolist(), [False, True, False])
        day = round(float(found.after[0]))
        self.assertFalse(check_again(above[:1], yes[:1], np.array([day - 2]), USUAL).now[0])
        self.assertTrue(check_again(above[:1], yes[:1], np.array([day + 2]), USUAL).now[0])
        self.assertTrue(np.isnan(found.after[2]))

    def test_settings_that_make_no_sense(self) -> None:
        for more in ({"line": 0.3}, {"half_life": 1.0}, {"enter": 0.4}, {"thin": 9.0}):
            with self.subTest(more), self.assertRaises(Refused):
                MasteryRules(**more)  # type: ignore[arg-type]


def plain_direction(pieces: list[tuple[float, float, float]]) -> tuple[int, bool]:
    """Way and whether it is judged, one cell by plain loops and scipy's Beta; pieces: earned, possible, usual p."""
    wanted = min(8.0, max(5.0, sum(m for _, m, _ in pieces) / 3))
    cut = len(pieces)
    while cut and sum(m for _, m, _ in pieces[cut:]) < wanted - 1e-9:
        cut -= 1
    sides = []
    for part in (pieces[cut:], pieces[:cut]):
        most = sum(m for _, m, _ in part)
        if most < 5 - 1e-9:
            return 0, False
        got = sum(x for x, _, _ in part)
        sides.append((got, most - got, sum(p * m for _, m, p in part) / most))
    (late, lost, usual), (before, gone, expected) = sides
    apart = late / (late + lost) - usual - before / (before + gone) + expected
    if abs(apart) <= 0.15 + 1e-9:
        return 0, True
    old = stats.beta(0.5 + before, 0.5 + gone)
    higher = sum(
        (old.cdf((k + 1) / 400) - old.cdf(k / 400))
        * stats.beta.sf(min(1, max(0, (k + 0.5) / 400 - expected + usual)), 0.5 + late, 0.5 + lost)
        for k in range(400)
    )
    return (1 if apart > 0 and higher >= 0.975 else -1 if apart < 0 and higher <= 0.025 else 0), True


def found_in(cells: list[list[tuple[float, float, float]]]) -> Found:
    cell = np.repeat(np.arange(len(cells)), [len(pieces) for pieces in cells])
    earned, possible, p = (np.array([piece[k] for pieces in cells for piece in pieces]) for k in range(3))
    return directions(cell, earned, possible, p, len(cells))


def ways(cells: list[list[tuple[float, float, float]]]) -> list[int]:
    return [int(way) for way in found_in(cells).way]


class Directions(unittest.TestCase):
    def test_rising_falling_and_nothing_to_say(self) -> None:
        wrong, right = [(0.0, 1.0, 0.6)] * 10, [(1.0, 1.0, 0.6)] * 8
        harder = [(1.0, 1.0, 0.9)] * 8 + [(float(at % 2), 1.0, 0.4) for at in range(8)]
        self.assertEqual(
            ways([wrong + right, right + right + wrong, right, right[:6], [], harder]),
            [1, -1, 0, 0, 0, 0],
            "of the last, the later items are harder, and it does as well",
        )
        few = found_in([right[:6], wrong + right])
        self.assertEqual(few.judged.tolist(), [False, True])
        self.assertTrue(np.isnan(few.late[0]) and np.isnan(few.before[0]))
        # 18 points: the latest 6, all right, beside 2 of 12
        self.assertAlmostEqual(few.late[1], 1 - 0.6)
        self.assertAlmostEqual(few.before[1], 2 / 12 - 0.6)

    def test_the_same_as_plain_loops(self) -> None:
        rng = np.random.default_rng(5)
        cells = []
        for _ in range(120):
            turn, n = rng.integers(2, 20), int(rng.integers(0, 30))
            better, worse = rng.uniform(0.1, 0.95, 2)
            cells.append(
                [
                    (float(rng.binomial(m, better if at < turn else worse)), float(m), float(rng.uniform(0.4, 0.8)))
                    for at in range(n)
                    for m in (int(rng.integers(1, 3)),)
                ]
            )
        plain = [plain_direction(pieces) for pieces in cells]
        self.assertEqual(ways(cells), [way for way, _ in plain])
        self.assertEqual(found_in(cells).judged.tolist(), [is_judged for _, is_judged in plain])
        self.assertGreater(len({*ways(cells)}), 2, "some rise, some fall")

    def test_a_usual_p_that_is_not_known_claims_nothing(self) -> None:
        same = [(x, 1.0, 0.7) for x in [1.0, 0.0, 1.0, 1.0] * 3] + [
            (x, 1.0, math.nan) for x in [1.0, 0.0, 1.0, 1.0] * 2
        ]
        self.assertEqual(ways([same]), [0])

    def test_arrows_by_chance(self) -> None:
        rng = np.random.default_rng(3)
        found = ways([[(float(x), 1.0, 0.6) for x in rng.random(20) < 0.6] for _ in range(3000)])
        for way in (1, -1):
            self.assertLess(found.count(way) / 3000, 0.035)


class Stories(unittest.TestCase):
    BASE = Told(
        state="mastered",
        earned=9,
        possible=18,
        run_earned=8,
        run_possible=8,
        since="March 12",
        lapsed="",
        last="March 30",
        one_day=False,
        again=False,
    )

    def test_an_average_never_stands_alone(self) -> None:
        self.assertEqual(
            story(self.BASE), "Average 50%: 1 of the first 10 points, then 8 of 8; mastered since March 12."
        )
        same = replace(self.BASE, earned=8, possible=8, one_day=True)
        self.assertEqual(story(same), "8 of 8 points (100%); mastered on one day, March 12.")
        gone = replace(
            self.BASE, state="developing", since="", lapsed="May 2", run_earned=2, run_possible=4, again=False
        )
        self.assertIn("developing, lapsed on May 2.", story(gone))
        self.assertIn("To be checked again", story(replace(self.BASE, again=True)))
        self.assertEqual(story(replace(self.BASE, state="not assessed", possible=0, earned=0)), "Not assessed yet.")


class Asked(unittest.TestCase):
    def test_what_the_page_says_that_mastered_asks_is_so(self) -> None:
        said = asks(USUAL)
        for points, least in ((6, 6), (8, 8), (11, 10), (12, 11), (20, 18)):
            for right in (least, least - 1):
                rows = [(0, 700_000, 1.0, 1.0)] * right + [(0, 700_000, 0.0, 1.0)] * (points - right)
                _, _, found = judged(rows)
                self.assertEqual(STATES[found.now[0]] == "mastered", right == least, f"{right} of {points}")
            self.assertIn(f"{least} of {points}", said)
        self.assertIn(f"{round(100 * (1 - 0.9**8))}% of students whose true share is 90%", said)
        self.assertIn(f"{round(100 * 0.7**8)}% of those with 70%", said)

    def test_other_rules_say_other_numbers_and_impossible_ones_that_they_are(self) -> None:
        self.assertIn("share on usual items is 70% or more, and 10 points", asks(MasteryRules(line=0.7, points=10)))
        self.assertIn("no run of 20 points is enough", asks(MasteryRules(line=0.95, enter=0.99)))


class Counting(unittest.TestCase):
    """Two students, one standard each; student 0 took test 5 twice, student 1 once."""

    CELL = np.array([0, 0, 0, 0, 1, 1])
    TEST = np.array([5, 5, 5, 5, 5, 5])
    TRY = np.array([1, 1, 2, 2, 1, 1])
    POSSIBLE = np.ones(6)

    def aside(self, earned: list[float], way: str) -> list[bool]:
        found = set_aside(self.CELL, self.TEST, self.TRY, np.array(earned), self.POSSIBLE, way)  # type: ignore[arg-type]
        return [bool(gone) for gone in found]

    def test_what_a_test_taken_again_does(self) -> None:
        better_first, worse_first, alike = [1, 1, 1, 0, 0, 0], [0, 0, 1, 0, 0, 0], [1, 0, 0, 1, 0, 0]
        first, second, none = [True, True, False, False], [False, False, True, True], [False] * 4
        for earned, adds, replaces, better in (
            (better_first, none, first, second),
            (worse_first, none, first, first),
            (alike, none, first, first),
        ):
            for way, wanted in (("adds", adds), ("replaces", replaces), ("better", better)):
                with self.subTest(way=way, earned=earned):
                    self.assertEqual(self.aside([float(x) for x in earned], way), [*wanted, False, False])

    def test_rows_in_any_order_and_another_test_are_left_alone(self) -> None:
        order = np.array([5, 2, 0, 3, 1, 4])
        earned = np.array([0.0, 0, 1, 1, 0, 0])
        straight = set_aside(self.CELL, self.TEST, self.TRY, earned, self.POSSIBLE, "replaces")
        mixed = set_aside(self.CELL[order], self.TEST[order], self.TRY[order], earned[order], self.POSSIBLE, "replaces")
        np.testing.assert_array_equal(straight[order], mixed)
        apart = np.array([5, 5, 6, 6, 5, 5])
        self.assertFalse(set_aside(self.CELL, apart, self.TRY, earned, self.POSSIBLE, "better").any())
        self.assertEqual(set_aside(*(np.zeros(0),) * 5, "better").size, 0)  # type: ignore[arg-type]

    def test_rules_that_there_are_not(self) -> None:
        self.assertEqual(checked_counts({"mirror": "yes"})["mirror"], "yes")
        for said, words in (
            ({"exam": "yes"}, "no kind"),
            ({"unit": "maybe"}, "none of"),
            ({"live": "ask"}, "yes or no"),
        ):
            with self.assertRaisesRegex(Refused, words):
                checked_counts(said)


class Changes(unittest.TestCase):
    def test_gained_confirmed_lapsed_in_progress(self) -> None:
        history = np.array([[3, 4, 4], [4, 5, 5], [4, 3, 3], [2, 3, -1], [4, -1, -1], [-1, -1, -1]])
        day = np.array([[10, 50, 90], [10, 50, 90], [10, 50, 90], [10, 60, 0], [10, 0, 0], [0, 0, 0]])
        count = np.array([3, 3, 3, 2, 1, 0])
        told = [CHANGES[at] for at in changes(history, day, count, 40, 70)]
        self.assertEqual(told, ["gained", "confirmed again", "lapsed", "in progress", "", ""])
        self.assertEqual(CHANGES[changes(history, day, count, 1, 20)[0]], "in progress")
        self.assertEqual(CHANGES[changes(history, day, count, 80, 95)[0]], "confirmed again")


class Advice(unittest.TestCase):
    def test_one_thing_to_do_for_each_standing(self) -> None:
        base = Standing(state="developing", again=False, check_on="May 3", missing=0.0, taught=True)
        for change, words in (
            ({}, "Reteach"),
            ({"taught": False}, "pacing guide"),
            ({"state": "mastered"}, "Enrich"),
            ({"state": "retained"}, "Checking can stop until May 3"),
            ({"state": "mastered", "again": True}, "Check again"),
            ({"state": "insufficient evidence", "missing": 1.0}, "1 more point is needed"),
            ({"state": "not assessed"}, "assess it"),
        ):
            self.assertIn(words, advice(replace(base, **change)))  # type: ignore[arg-type]


class Groups(unittest.TestCase):
    def test_students_of_one_state_together_the_alike_next_to_each_other(self) -> None:
        labels = [0, 0, 0, 0, 0, 1, 1, 1, -1]
        strength = np.array([0.5, 0.1, 0.4, 0.2, 0.3, 0.9, 0.8, 0.7, 0.0])
        found = same_groups(labels, strength, 2, 3, 4)
        self.assertEqual(found.groups, ((0, (1, 3, 4)), (0, (2, 0)), (1, (7, 6, 5))))
        self.assertEqual((found.unmet, found.without), ((), (8,)))
        few = same_groups(labels, strength, 2, 3, 1)
        self.assertEqual(len(few.groups), 1)
        self.assertEqual(len(few.unmet), 5)
        apart = same_groups(labels, strength, 2, 3, 4, [(1, 3)])
        self.assertFalse([part for _, part in apart.groups if {1, 3} <= set(part)])
        with self.assertRaises(Refused):
            same_groups(labels, strength, 3, 2, 1)

    def test_shared_needs_are_met_within_sizes(self) -> None:
        need = np.array([[0.9, 0.1], [0.8, 0.6], [0.9, 0.2], [0.1, 0.9], [0.2, 0.8], [0.1, 0.2]])
        found = find_groups(need, 2, 4, 2)
        self.assertEqual(found.groups, ((0, (0, 2, 1)), (1, (3, 4))))
        self.assertEqual((found.unmet, found.without), ((), (5,)))
        one = find_groups(need, 2, 2, 1)
        self.assertEqual(len(one.groups), 1)
        self.assertEqual(len(one.unmet), 3)
        with self.assertRaises(Refused):
            find_groups(need, 3, 2, 1)

    def test_pairs_that_are_kept_apart(self) -> None:
        need = np.full((6, 1), 0.9)
        found = find_groups(need, 2, 6, 2, ((0, 1), (2, 3)))
        for _, members in found.groups:
            self.assertFalse({0, 1} <= set(members) or {2, 3} <= set(members))
        self.assertEqual(sum(len(m) for _, m in found.groups), 6)

    def test_nobody_sits_with_whom_they_are_kept_apart_from(self) -> None:
        three = ((0, 1), (1, 2), (0, 2))
        found = find_groups(np.array([[0.9], [0.8], [0.7], [0.6]]), 1, 4, 2, three)
        self.assertEqual(found.unmet, (2,), "of three who are apart two groups seat two: the least need gives way")
        rng = np.random.default_rng(5)
        for _ in range(60):
            n = int(rng.integers(2, 12))
            least = int(rng.integers(1, 4))
            most = least + int(rng.integers(0, 3))
            apart = tuple((int(a), int(b)) for a, b in rng.integers(0, n, (int(rng.integers(0, 8)), 2)) if a != b)
            found = find_groups(rng.random((n, 2)), least, most, 3, apart)
            seated = [i for _, members in found.groups for i in members]
            self.assertEqual(sorted([*seated, *found.unmet, *found.without]), list(range(n)))
            self.assertLessEqual(len(found.groups), 3)
            for _, members in found.groups:
                self.assertTrue(least <= len(members) <= most)
                self.assertFalse([pair for pair in apart if set(pair) <= set(members)])

    def test_as_good_as_trying_everything(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(10):
            need = rng.random((6, 3))
            found = find_groups(need, 1, 2, 2)
            mine = sum(need[i, j] for j, members in found.groups for i in members)
            u = np.where(need >= 0.5, need, 0)
            best = 0.0
            for choice in itertools.product(range(-1, 3), repeat=6):
                counts = [choice.count(j) for j in range(3)]
                if sum(math.ceil(c / 2) for c in counts) <= 2:
                    best = max(best, sum(u[i, j] for i, j in enumerate(choice) if j >= 0))
            self.assertGreaterEqual(mine, best * 0.99 - 1e-6)


if __name__ == "__main__":
    unittest.main()
