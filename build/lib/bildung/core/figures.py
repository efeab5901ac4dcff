"""What each figure means, in words for users: the one place that the workings panel and
docs/methods.md take their texts from.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """plain: two sentences at most. formula: in the notation of docs/methods.md. caution: when not to trust it."""

    name: str
    title: str
    plain: str
    formula: str
    source: str
    caution: str


_ALL = (
    Figure(
        "counts", "Who is counted",
        "Those who sat and answered something enter every figure. Absent, exempt and void sittings never do.",
        "sat + waiting", "Counting rules of this application, docs/methods.md",
        "A sitting without any answer is not counted until somebody says whether the student was there.",
    ),
    Figure(
        "mean", "Mean score",
        "The average of the points earned. Not reached and omitted items earn nothing.",
        "X̄ = Σ Xᵢ / N", "", "An average hides whether students are alike or far apart: look at the distribution.",
    ),
    Figure(
        "sd", "Standard deviation",
        "How far scores typically lie from the mean, in points.",
        "sd = √(Σ (Xᵢ − X̄)² / (N − 1))", "", "",
    ),
    Figure(
        "alpha", "Reliability (alpha)",
        "How far the total can be trusted to rank these students: 1 would mean that another test like it gives the "
        "same order, 0 that the order is chance. For right-or-wrong items it is the same as KR-20.",
        "α = k/(k − 1) · (1 − T/V), T = Σ var(xⱼ), V = var(X)",
        "Cronbach 1951; interval: Yuan, Guarnaccia & Hayslip 2003 from 60 students, Feldt 1965 below",
        "It belongs to these students: a class of equals has a low alpha on a good test. It rises with the number of "
        "items, good or not.",
    ),
    Figure(
        "sem", "Standard error of measurement",
        "How far a student's score would typically move if the same student sat a test like this again.",
        "SEM = sd · √(1 − α)", "", "One number for everybody; at the ends of the scale the true error is smaller.",
    ),
    Figure(
        "ceiling", "Share at the top",
        "The share of students who earned everything. What they know beyond this test does not show.",
        "students with X = possible / N", "", "",
    ),
    Figure(
        "sound", "Sound items",
        "An item is sound when nothing about it calls for a problem or a look. Notes do not count against it.",
        "no flag of weight problem or look", "Flags and their limits: docs/methods.md",
        "With fewer than 25 students an item has not been examined, whatever it looks like.",
    ),
    Figure(
        "p", "Got it (facility)",
        "The share of the item's points that were earned by those who reached it.",
        "p = mean(xⱼ) / mⱼ", "Interval: Wilson 1927 for right-or-wrong items, else by t",
        "It describes item and students together: a low share can be the question or the teaching.",
    ),
    Figure(
        "r_rest", "Separates (item-rest correlation)",
        "Whether those who do well on the rest of the test do better on this item. Near 0 it does not separate strong "
        "from weak; below 0 it works against the test.",
        "r = corr(xⱼ, X − xⱼ)", "Henrysson 1963; interval by Fisher's z",
        "Under 25 students it is mostly chance. Very easy and very hard items cannot reach a high value.",
    ),
    Figure(
        "d27", "Upper against lower 27 %",
        "How many more of the strongest than of the weakest 27 % got it.",
        "d = p(upper 27 %) − p(lower 27 %)", "Kelley 1939; ties at the boundary count in part",
        "The item itself is part of the score that makes the groups.",
    ),
    Figure(
        "biserial", "Biserial correlation",
        "The item-rest correlation as it would be if getting it right were a matter of degree.",
        "r · √(p(1 − p)) / φ(z)", "Pearson 1909", "It can pass 1 when scores are far from normal.",
    ),
    Figure(
        "alpha_without", "Alpha without this item",
        "The reliability that the rest of the test has on its own.",
        "α of the test with item j removed", "", "Differences in the third decimal are chance in small groups.",
    ),
    Figure(
        "option", "Who gave this answer",
        "How many chose it, and whether they are those who do well on the rest of the test. The key should go up "
        "with the score, every other answer down.",
        "share = n(answer) / n(reached); r = corr(1 if given, X − xⱼ)", "Curves: Ramsay 1991",
        "An answer chosen by fewer than five students says little.",
    ),
)  # fmt: skip

FIGURES: dict[str, Figure] = {figure.name: figure for figure in _ALL}
