"""Each number that the analysis states, against an independent library or the textbook; and what must not matter."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from scipy import optimize, stats

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.classical.items import UPPER_SHARE
from bildung.core.data.responses import ItemColumn, Status, table_from_cells
from tests.core.classical.test_items import figures_of

K = 7
ROWS = st.lists(st.text(alphabet="ABCD.", min_size=K, max_size=K), min_size=6, max_size=40)


def analysed(
    rows: list[str], order: list[int] | None = None, letters: str = "ABCD", status: list[Status] | None = None
) -> TestAnalysis:
    """Items i0..i6 with key A (of the letters given) in the order wanted, each its own part so that order leaves states alone."""
    places = order or list(range(K))
    names = dict(zip("ABCD.", [*letters, ""], strict=True))
    items = [
        ItemColumn(name=f"i{j}", kind="choice", points=1.0, options=tuple(letters), keys=(letters[0],), part=str(j))
        for j in places
    ]
    cells = [[names[row[j]] for j in places] for row in rows]
    return analyse(table_from_cells(items, [letters[0]] * K, cells, status))


class Numbers(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(12)
        self.rows = ["".join(rng.choice(list("AAABCD"), rng.integers(4, 9))).ljust(8, ".") for _ in range(90)]
        items = [
            ItemColumn(name=f"i{j}", kind="choice", points=1.0, options=tuple("ABCD"), keys=("A",)) for j in range(8)
        ]
        self.found = analyse(
            table_from_cells(items, ["A"] * 8, [["" if c == "." else c for c in r] for r in self.rows])
        )
        self.points = np.array([[float(c == "A") for c in row] for row in self.rows])
        self.total = self.points.sum(axis=1)
        self.answered = np.array([8 - row.count(".") for row in self.rows])

    def test_the_distribution(self) -> None:
        d = self.found.distribution
        self.assertEqual((d.median, d.min, d.max), (float(np.median(self.total)), self.total.min(), self.total.max()))
        self.assertEqual((d.n, d.k, d.points, d.mean), (90, 8, 8.0, self.total.mean()))
        self.assertAlmostEqual(d.ceiling or 0, float((self.total == 8).mean()))
        self.assertEqual(sum(n for _, n in d.histogram), 90)

    def test_who_got_to_the_end(self) -> None:
        """The first blank of a tail is omitted and so reached: 7 answers reach all 8, 6 answers reach 7 of 8."""
        d = self.found.distribution
        self.assertAlmostEqual(d.reached_last or 0, float((self.answered >= 7).mean()))
        self.assertAlmostEqual(d.reached_80 or 0, float((self.answered + 1 >= 0.8 * 8).mean()))

    def test_counts_and_shares_of_each_item(self) -> None:
        for j, item in enumerate(self.found.items):
            reached = self.answered >= j
            x = self.points[reached, j]
            f = item.figures
            self.assertEqual(
                (f.n, f.n_not_reached, f.n_omitted), (reached.sum(), (~reached).sum(), (self.answered == j).sum())
            )
            self.assertAlmostEqual(f.p_all or 0, float(self.points[:, j].mean()))
            self.assertAlmostEqual(f.sd or 0, float(x.std(ddof=1)))
            theirs = stats.binomtest(int(x.sum()), x.size).proportion_ci(method="wilson")
            np.testing.assert_allclose(f.p_ci95, (theirs.low, theirs.high))  # type: ignore[arg-type]

    def test_correlations_and_their_intervals(self) -> None:
        for j, item in enumerate(self.found.items):
            reached = self.answered >= j
            x, t = self.points[reached, j], self.total[reached]
            theirs = stats.pearsonr(x, t - x)
            interval = theirs.confidence_interval(0.95)
            self.assertAlmostEqual(item.figures.r_rest or 0, float(theirs.statistic))
            np.testing.assert_allclose(item.figures.r_rest_ci95, (interval.low, interval.high))  # type: ignore[arg-type]
            self.assertAlmostEqual(item.figures.r_total or 0, float(stats.pearsonr(x, t).statistic))
            p = x.mean()
            self.assertAlmostEqual(
                item.figures.biserial or 0,
                float(theirs.statistic * np.sqrt(p * (1 - p)) / stats.norm.pdf(stats.norm.ppf(p))),
            )

    def test_means_of_those_who_chose_an_answer(self) -> None:
        for j, item in enumerate(self.found.items):
            for row in item.options:
                chose = np.array([r[j] == (row.option or ".") for r in self.rows]) & (self.answered >= j)
                if chose.any():
                    self.assertAlmostEqual(row.mean_total or 0, float(self.total[chose].mean()))
                    self.assertAlmostEqual(row.mean_rest or 0, float((self.total - self.points[:, j])[chose].mean()))

    def test_partial_credit_has_a_t_interval(self) -> None:
        x = np.array([0.0, 1, 2, 3, 4, 4, 2, 1, 3, 2])
        cells = [[f"{v:g}", str(int(v > 1))] for v in x]
        f = (
            analyse(
                table_from_cells(
                    [ItemColumn(name="a", kind="points", points=4.0), ItemColumn(name="b", kind="points")],
                    ["", ""],
                    cells,
                )
            )
            .items[0]
            .figures
        )
        low, high = stats.t.interval(0.95, 9, x.mean(), stats.sem(x))
        np.testing.assert_allclose(f.p_ci95, (low / 4, high / 4))  # type: ignore[arg-type]
        self.assertIsNone(f.biserial)

    def test_an_item_in_which_everybody_earned_a_part_is_not_one_of_right_or_wrong(self) -> None:
        """An ordering with a third of its points for one pair in place: nobody has none, so a share of right answers
        would be 1 and the biserial a division by nothing."""
        x = np.array([2 / 3, 2, 2, 2 / 3, 2, 2, 2 / 3, 2, 2, 2])
        cells = [[f"{v}", str(int(v > 1))] for v in x]
        table = table_from_cells(
            [ItemColumn(name="a", kind="points", points=2.0), ItemColumn(name="b", kind="points")], ["", ""], cells
        )
        ordering = replace(table.items[0], kind="order")
        f = analyse(replace(table, items=(ordering, *table.items[1:]))).items[0].figures
        low, high = stats.t.interval(0.95, 9, x.mean(), stats.sem(x))
        np.testing.assert_allclose(f.p_ci95, (low / 2, min(1.0, high / 2)))  # type: ignore[arg-type]
        self.assertIsNone(f.biserial)
        self.assertEqual(f.why["biserial"], "the item is not scored right or wrong")

    def test_27_percent_is_where_extreme_groups_tell_most(self) -> None:
        """Kelley (1939): for normal scores φ(z)/√q, the difference over its error, is largest near q = 0.27."""
        best = optimize.minimize_scalar(
            lambda q: -stats.norm.pdf(stats.norm.ppf(q)) / np.sqrt(q), bounds=(0.05, 0.5), method="bounded"
        ).x
        self.assertAlmostEqual(UPPER_SHARE, best, delta=0.001)

    def test_every_single_answer_leads_to_its_students(self) -> None:
        cells = [[str(at % 23), "1"] for at in range(46)]
        found = analyse(
            table_from_cells(
                [ItemColumn(name="n", kind="numeric"), ItemColumn(name="p", kind="points")], ["3", ""], cells
            )
        )
        self.assertIn("other", {row.option for row in found.items[0].options})
        who = found.who_gave("n")
        self.assertEqual(
            {label: rows.tolist() for label, rows in who.items()}, {str(v): [v, v + 23] for v in range(23)}
        )


class Invariances(unittest.TestCase):
    @given(ROWS, st.randoms(use_true_random=False))
    @settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
    def test_the_order_of_rows(self, rows: list[str], rng: object) -> None:
        shuffled = rows[:]
        rng.shuffle(shuffled)  # type: ignore[attr-defined]
        self.assertEqual(figures_of(analysed(shuffled)), figures_of(analysed(rows)))

    @given(ROWS, st.permutations(range(K)))
    @settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
    def test_the_order_of_items(self, rows: list[str], order: list[int]) -> None:
        one, other = analysed(rows), analysed(rows, order)
        for item in one.items:
            mine, theirs = item.figures, other.item(item.item.name).figures
            for name in ("n", "p", "r_rest", "d27", "biserial"):
                a, b = getattr(mine, name), getattr(theirs, name)
                self.assertEqual(a is None, b is None)
                self.assertAlmostEqual(a or 0, b or 0, places=9)
        self.assertAlmostEqual(one.reliability.alpha or 0, other.reliability.alpha or 0, places=9)

    @given(ROWS, st.permutations("WXYZ"))
    @settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
    def test_the_names_of_options(self, rows: list[str], letters: list[str]) -> None:
        self.assertEqual(figures_of(analysed(rows, letters="".join(letters))), figures_of(analysed(rows)))

    @given(ROWS, st.lists(st.sampled_from([Status.ABSENT, Status.EXEMPT, Status.VOID]), max_size=9))
    @settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
    def test_absent_exempt_and_void_students(self, rows: list[str], away: list[Status]) -> None:
        status = [Status.SAT] * len(rows) + away
        more = analysed(rows + ["ABCDABC"] * len(away), status=status)
        self.assertEqual(figures_of(more), figures_of(analysed(rows)))
        self.assertEqual(more.counts["rows"], len(rows) + len(away))

    @given(ROWS)
    @settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
    def test_every_figure_is_finite_or_has_a_reason(self, rows: list[str]) -> None:
        found = analysed(rows)
        for item in found.items:
            for name in ("p", "p_all", "p_ci95", "sd", "r_rest", "r_rest_ci95", "r_total", "biserial", "d27"):
                value = getattr(item.figures, name)
                if value is None:
                    self.assertTrue(item.figures.why[name], name)
                else:
                    self.assertTrue(np.isfinite(value).all(), name)
        for name in ("alpha", "alpha_ci95", "kr21", "lambda2", "split_half", "omega", "stratified_alpha"):
            value = getattr(found.reliability, name)
            self.assertTrue(found.reliability.why[name] if value is None else np.isfinite(value).all(), name)
