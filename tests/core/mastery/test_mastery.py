"""Runs, states, direction and groups: by hand, by a slow script that shares no code, and as they should not depend on anything else."""

from __future__ import annotations

import itertools
import math
import unittest
from dataclasses import replace

import numpy as np
from scipy import stats

from bildung.core.errors import Refused
from bildung.core.mastery.direction import Piece, direction
from bildung.core.mastery.groups import find_groups
from bildung.core.mastery.occasions import SHARES, Evidence, Items, Occasions, curve, occasions
from bildung.core.mastery.rules import ASKS, USUAL, MasteryRules
from bildung.core.mastery.run import Filtered, filtered, interval, over
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
            _, run, _ = judged([(0, 1, 1.0 if at < right else 0.0, 1.0) for at in range(of)])
            beta = stats.beta(0.5 + right, 0.5 + of - right)
            self.assertAlmostEqual(run.above[0, 0], beta.sf(0.8), places=3)
            self.assertAlmostEqual(run.mean[0, 0], beta.mean(), places=4)
            low, high = interval(run.posterior)
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
        _, run, state = judged(rows, 8)
        shuffled = [rows[at] for at in rng.permutation(len(rows))]
        _, other, again = judged(shuffled, 8)
        np.testing.assert_allclose(run.posterior, other.posterior)
        np.testing.assert_array_equal(state.history, again.history)
        _, alone, _ = judged([r for r in rows if r[0] == 3], 8)
        np.testing.assert_allclose(alone.posterior[3], run.posterior[3])
        self.assertEqual([STATES[at] for at in state.now[6:]], ["not assessed"] * 2)
        changes = {
            t for c in range(6) for t, (a, b) in enumerate(itertools.pairwise(state.history[c])) if a != b and b >= 0
        }
        self.assertTrue(changes, "states move, and only from one occasion to the next")

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


class Directions(unittest.TestCase):
    def test_rising_falling_and_nothing_to_say(self) -> None:
        wrong, right = [Piece(0, 1, 0.6)] * 10, [Piece(1, 1, 0.6)] * 8
        self.assertEqual(direction(wrong + right).way, 1)
        self.assertEqual(direction(right + right + wrong).way, -1)
        self.assertEqual(direction(right).way, 0)
        self.assertIsNone(direction(right[:6]).late)
        harder = [Piece(1, 1, 0.9)] * 8 + [Piece(at % 2, 1, 0.4) for at in range(8)]
        self.assertEqual(direction(harder).way, 0, "the later items are harder, and it does as well")

    def test_arrows_by_chance(self) -> None:
        rng = np.random.default_rng(7)
        ways = [direction([Piece(float(x), 1, 0.6) for x in rng.random(20) < 0.6]).way for _ in range(3000)]
        self.assertLess(np.mean(np.array(ways) > 0), 0.035)
        self.assertLess(np.mean(np.array(ways) < 0), 0.035)


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
        for points, least in ((6, 6), (8, 8), (11, 10), (12, 11), (20, 18)):
            for right in (least, least - 1):
                rows = [(0, 700_000, 1.0, 1.0)] * right + [(0, 700_000, 0.0, 1.0)] * (points - right)
                _, _, found = judged(rows)
                self.assertEqual(STATES[found.now[0]] == "mastered", right == least, f"{right} of {points}")
            self.assertIn(f"{least} of {points}", ASKS)
        self.assertEqual((round(10 * (1 - 0.9**8)), round(100 * 0.7**8)), (6, 6))
        self.assertIn("six in ten", ASKS)
        self.assertIn("six in a hundred", ASKS)


class Groups(unittest.TestCase):
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
