"""What each figure means, in words for users: the one place that the workings panel and
docs/methods.md take their texts from.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """plain: two sentences at most. formula: in the notation of docs/methods.md. caution: when not to trust it.
    chapter: where docs/methods.md prints it."""

    name: str
    title: str
    plain: str
    formula: str
    source: str
    caution: str
    chapter: str = "The test"


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
        "It describes item and students together: a low share can be the question or the teaching.", "Items",
    ),
    Figure(
        "r_rest", "Separates (item-rest correlation)",
        "Whether those who do well on the rest of the test do better on this item. Near 0 it does not separate strong "
        "from weak; below 0 it works against the test.",
        "r = corr(xⱼ, X − xⱼ)", "Henrysson 1963; interval by Fisher's z",
        "Under 25 students it is mostly chance. Very easy and very hard items cannot reach a high value.", "Items",
    ),
    Figure(
        "d27", "Upper against lower 27 %",
        "How many more of the strongest than of the weakest 27 % got it.",
        "d = p(upper 27 %) − p(lower 27 %)", "Kelley 1939; ties at the boundary count in part",
        "The item itself is part of the score that makes the groups.", "Items",
    ),
    Figure(
        "biserial", "Biserial correlation",
        "The item-rest correlation as it would be if getting it right were a matter of degree.",
        "r · √(p(1 − p)) / φ(z)", "Pearson 1909", "It can pass 1 when scores are far from normal.", "Items",
    ),
    Figure(
        "alpha_without", "Alpha without this item",
        "The reliability that the rest of the test has on its own.",
        "α of the test with item j removed", "", "Differences in the third decimal are chance in small groups.", "Items",
    ),
    Figure(
        "option", "Who gave this answer",
        "How many chose it, and whether they are those who do well on the rest of the test. The key should go up "
        "with the score, every other answer down.",
        "share = n(answer) / n(reached); r = corr(1 if given, X − xⱼ)", "Curves: Ramsay 1991",
        "An answer chosen by fewer than five students says little.", "Items",
    ),
    Figure(
        "kr21", "KR-21", "Reliability as if all items were equally hard. It needs nothing but mean and variance, and is never above alpha.",
        "k/(k − 1) · (1 − X̄(k − X̄)/(k·V)), V over N", "Kuder & Richardson 1937",
        "Only for items worth 1. The more items differ in difficulty, the lower it falls.",
    ),
    Figure(
        "lambda2", "Guttman's lambda 2", "A lower bound of the reliability, never below alpha. Close to alpha where items are alike.",
        "(Σ cov + √(k/(k − 1)·Σ cov²))/V over pairs of items", "Guttman 1945", "As alpha.",
    ),
    Figure(
        "split_half", "Split half, stepped up", "How well the odd items agree with the even ones, stepped up to the full length.",
        "2r/(1 + r)", "Spearman 1910, Brown 1910", "Another split gives another figure.",
    ),
    Figure(
        "omega", "Omega", "Reliability of the total when items measure one thing with different weight.",
        "(Σλ)²/((Σλ)² + Σψ) of one maximum-likelihood factor on the covariances", "McDonald 1999; Jöreskog 1967",
        "Where more than one thing is measured it says how well the mixture is measured.",
    ),
    Figure(
        "stratified_alpha", "Stratified alpha", "Reliability of a total made of different parts, each taken for itself.",
        "1 − Σ Vₚ(1 − αₚ)/V", "Rajaratnam, Cronbach & Gleser 1965", "Not stated with one part, or a part of one item.",
    ),
    Figure(
        "reached", "Who got to the end", "The share who reached the last item, and who reached 80 % of theirs. Low shares mean that the time was too short.",
        "reached_last, reached_80", "Counting rules below", "A blank tail can also be giving up.",
    ),
    Figure(
        "conditional_error", "Standard error at a score", "How exact a particular score is; larger in the middle than near the ends.",
        "√(X(k − X)/(k − 1)) · √((1 − α)/(1 − KR-21))", "Lord 1955, Keats 1957", "Right-or-wrong items only; not stated at 0 and at everything.",
    ),
    Figure(
        "classification", "Safety of a pass line", "How often the observed side of a cut is the true one, and how often a parallel test would agree.",
        "beta true scores, binomial errors over the effective length", "Livingston & Lewis 1995", "Rests on the reliability; weak for short tests.",
    ),
    Figure(
        "part_scores", "Is a part worth its own score", "Whether a part says more about itself than the whole test does. If not, it is not reported.",
        "proportional reduction in mean squared error, part against total; the total's is at most its reliability", "Haberman 2008", "",
    ),
    Figure(
        "dimensions", "Dimension check", "How many eigenvalues of the item correlations are larger than chance alone would give.",
        "against the 95th centile of 100 shuffled copies", "Horn 1965", "Difficulty alone can look like a dimension.",
    ),
    Figure(
        "person_fit", "Answers that surprise", "Whether a student's pattern of right and wrong fits the score. The answers that surprise are named.",
        "standardised residuals; standardised log-likelihood", "Drasgow, Levine & Williams 1985", "A reason to look, never a verdict; weak on short tests.",
    ),
    Figure(
        "effort", "Rapid guesses", "Answers given faster than anybody could read the item. Their effect on p is shown with and without them.",
        "below 10 % of the item's median time, at most 10 s", "Wise & Kong 2005", "Fast readers exist.",
    ),
    Figure(
        "mistakes", "The same mistake in several items", "Wrong answers that carry the same note are one mistake. A student holds it who gave its answers at least twice, "
        "at least half of the times they could, and more often than chance.",
        "P(at least as many) ≤ 0.05 for a sum of unequal Bernoulli trials, each with the share of everybody who gave the answer",
        "Tail of the Poisson binomial distribution by convolution", "One such answer is a slip. What a note says of an answer is the author's opinion.", "Items",
    ),
    Figure(
        "what_if", "What would move", "The whole test judged again with another key, a second right answer, the points for everybody, or without the item. Nothing is changed by it.",
        "all figures of the re-scored answers; order by Kendall's τ_b of the totals", "", "A higher alpha is no reason by itself: ask first which answer is right.", "Items",
    ),
    Figure(
        "draws", "Do drawn copies differ", "Whether the copies drawn from one template are equally hard.",
        "χ² over draws with n ≥ 20, p < 0.01", "", "With many students small differences are called.", "Items",
    ),
    Figure(
        "matched", "Matched difference", "The same item in two groups, among students of equal score. Below 0 it is harder for the group than for others as strong.",
        "D = −2.35 · ln(common odds ratio)", "Mantel & Haenszel 1959; Robins, Breslow & Greenland 1986; Holland & Thayer 1988",
        "Under 200 in a group it is an order of what to look at, not a verdict.", "Comparison",
    ),
    Figure(
        "findings", "Low everywhere, low in one", "Low everywhere means: look at the question. Low in one group, after matching and after allowing for many comparisons: look at the teaching.",
        "Wilson intervals under the watch line; Benjamini–Hochberg at 0.05; large but unproven from 0.15",
        "Benjamini & Hochberg 1995; Newcombe 1998", "Classes are small: what is not called may still be there.", "Comparison",
    ),
    Figure(
        "differential", "Differential functioning", "Whether an item is harder for one of two groups among students of equal score, in classes A (none), B, C (large).",
        "C: |D| ≥ 1.5 and |D| − 1.645·SE > 1", "Zieky 1993", "No class under 200 in a group, refused under 50. A difference is a question to the item, not its answer.", "Comparison",
    ),
    Figure(
        "percentile_rank", "Percentile rank", "The share of the reference group with a lower score, half of the equal ones included.",
        "100 · (below + ½ equal)/N; shown as a whole number 1 to 99", "", "Among few students one place is several ranks: error √(PR(100 − PR)/N).", "Norms",
    ),
    Figure(
        "normal_scores", "NCE, T, stanine", "The percentile rank on scales with equal steps. 50 is the middle of NCE and T, 5 that of stanines.",
        "NCE = 50 + 21.063z; T = 50 + 10z; stanine bounds 4, 11, 23, 40, 60, 77, 89, 96", "", "Ranks are held at 0.5 and 99.5 first.", "Norms",
    ),
    Figure(
        "gain", "Gain and reliable change", "The later score minus the earlier, and whether it is more than measurement error.",
        "d/√(se₁² + se₂²), called beyond ±1.645", "Jacobson & Truax 1991", "1 in 10 students who did not change is called all the same.", "Growth",
    ),
    Figure(
        "residual_gain", "Residual gain", "How far the later score lies above what students with this start usually reach.",
        "(x₂ − E)/σₑ, E = μ₂ + ρ(σ₂/σ₁)(x₁ − μ₁)", "", "Who was picked for a low start rises, and for a high start falls, without having changed.", "Growth",
    ),
    Figure(
        "like_start_percentile", "Percentile among like starters", "Where the residual gain lies among students with the same start: 50 is as expected.",
        "100 · Φ(residual gain)", "", "As the residual gain.", "Growth",
    ),
    Figure(
        "sgp", "Student growth percentile", "The share of students with the same start in this cohort who ended lower, without assuming normal scores.",
        "quantile regression on cubic splines at 100 levels", "Koenker & Bassett 1978; Betebenner 2009", "From 200 students; rough under 1,000.", "Growth",
    ),
    Figure(
        "group_growth", "Growth of a group", "Mean gain and mean residual gain with their intervals. From five groups on, small groups are drawn towards the mean of all.",
        "B = τ²/(τ² + σ²/n), τ² by restricted maximum likelihood", "", "Groups under 10 are not judged.", "Growth",
    ),
    Figure(
        "targets", "Even-odds and safe target", "The expected later score with which an aim is reached with probability 0.5, and 0.8.",
        "cut + Φ⁻¹(P)·σ of the true later score", "", "As good as the norm it rests on.", "Growth",
    ),
    Figure(
        "agreement", "Agreement of markers", "How often two markers give the same mark, beyond chance; large disagreements weigh more.",
        "κ and quadratically weighted κ", "Cohen 1960, 1968; Fleiss, Cohen & Everitt 1969", "Low where nearly all marks are equal, whatever the agreement.", "Marking",
    ),
    Figure(
        "severity", "Severity of a marker", "How much higher or lower a marker marks than all markers do on the same responses.",
        "additive model response + marker", "", "Markers must have responses in common.", "Marking",
    ),
    Figure(
        "generalizability", "What a second marker adds", "How far the mark depends on the response rather than on who marked it, for one marker and for two.",
        "σ²ᵣ/(σ²ᵣ + σ²ₑ/m)", "Cronbach, Gleser, Nanda & Rajaratnam 1972", "", "Marking",
    ),
    Figure(
        "drift", "Item drift", "Whether an item became harder or easier between two administrations, compared with the other common items.",
        "change of p and r with intervals; matched odds ratio on the common items", "Mantel & Haenszel 1959; Zou 2007",
        "Teaching changes items too: a drift says look, not why.", "Items",
    ),
    Figure(
        "link", "Link between forms", "Puts scores of two forms on one scale by the items they share. Without a link, shares are compared instead of scores.",
        "slope = σ(target)/σ(source), intercept = mean(target) − slope · mean(source), of the items' normal deviates",
        "Marco 1977", "Needs three common items or more, and groups that are roughly normal.", "Norms",
    ),
)  # fmt: skip

FIGURES: dict[str, Figure] = {figure.name: figure for figure in _ALL}
