"""What each figure means, in words for users: where the workings panel and docs/methods.md take their texts from."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Figure:
    """What is said of a figure.

    Attributes
    ----------
    name : str
        Its name in code.
    title : str
        As a page heads it.
    plain : str
        Two sentences at most.
    formula : str
        In the notation of docs/methods.md.
    source : str
        Where it comes from.
    caution : str
        Cautions.
    chapter : str
        Where docs/methods.md prints it.
    """

    name: str
    title: str
    plain: str
    formula: str
    source: str
    caution: str
    chapter: str = "The test"


_ALL = (
    Figure(
        name="counts",
        title="Who is counted",
        plain="Students who took the test and answered something are in every figure. Absent, exempt and invalidated attempts never are.",
        formula="taken + waiting",
        source="Counting rules of this application, docs/methods.md",
        caution="An attempt without any answer is not counted until someone says whether the student was there.",
    ),
    Figure(
        name="mean",
        title="Mean score",
        plain="The average of the points earned. Not reached and omitted items earn nothing.",
        formula="X̄ = Σ Xᵢ / N",
        source="",
        caution="An average hides whether students are alike or far apart: look at the distribution.",
    ),
    Figure(
        name="sd",
        title="Standard deviation",
        plain="How far scores typically lie from the mean, in points.",
        formula="sd = √(Σ (Xᵢ − X̄)² / (N − 1))",
        source="",
        caution="",
    ),
    Figure(
        name="alpha",
        title="Reliability (alpha)",
        plain="How far the total can be trusted to rank these students: 1 would mean that another test like it gives the "
        "same order, 0 that the order is chance. For right-or-wrong items it is the same as KR-20.",
        formula="α = k/(k − 1) · (1 − T/V), T = Σ var(xⱼ), V = var(X)",
        source="Cronbach 1951; interval: Yuan, Guarnaccia & Hayslip 2003 from 60 students, Feldt 1965 below",
        caution="It belongs to these students: a class of equals has a low alpha on a good test. It rises with the number of "
        "items, good or not.",
    ),
    Figure(
        name="sem",
        title="Standard error of measurement",
        plain="How far a student's score would typically move if the same student took a test like this again.",
        formula="SEM = sd · √(1 − α)",
        source="",
        caution="One number for everybody; at the ends of the scale the true error is smaller.",
    ),
    Figure(
        name="ceiling",
        title="Share at the top",
        plain="The share of students who earned everything. What they know beyond this test does not show.",
        formula="students with X = possible / N",
        source="",
        caution="",
    ),
    Figure(
        name="sound",
        title="Sound items",
        plain="An item is sound when nothing about it calls for a problem or a look. Notes do not count against it.",
        formula="no flag of weight problem or look",
        source="Flags and their limits: docs/methods.md",
        caution="With fewer than 25 students an item has not been examined, whatever it looks like.",
    ),
    Figure(
        name="p",
        title="Correct (facility)",
        plain="The share of the item's points that were earned by those who reached it.",
        formula="p = mean(xⱼ) / mⱼ",
        source="Interval: Wilson 1927 for right-or-wrong items, else by t",
        caution="It describes item and students together: a low share can be the question or the teaching.",
        chapter="Items",
    ),
    Figure(
        name="r_rest",
        title="Discrimination (item-rest correlation)",
        plain="Whether those who do well on the rest of the test do better on this item. Near 0 it does not "
        "discriminate; below 0 it works against the test.",
        formula="r = corr(xⱼ, X − xⱼ)",
        source="Henrysson 1963; interval by Fisher's z",
        caution="Under 25 students it is mostly chance. Very easy and very hard items cannot reach a high value.",
        chapter="Items",
    ),
    Figure(
        name="d27",
        title="Upper against lower 27%",
        plain="How many more of the strongest than of the weakest 27% answered it correctly.",
        formula="d = p(upper 27%) − p(lower 27%)",
        source="Kelley 1939; ties at the boundary count in part",
        caution="The item itself is part of the score that makes the groups.",
        chapter="Items",
    ),
    Figure(
        name="biserial",
        title="Biserial correlation",
        plain="The item-rest correlation as it would be if getting it right were a matter of degree.",
        formula="r · √(p(1 − p)) / φ(z)",
        source="Pearson 1909",
        caution="It can pass 1 when scores are far from normal.",
        chapter="Items",
    ),
    Figure(
        name="alpha_without",
        title="Alpha without this item",
        plain="The reliability that the rest of the test has on its own.",
        formula="α of the test with item j removed",
        source="",
        caution="Differences in the third decimal are chance in small groups.",
        chapter="Items",
    ),
    Figure(
        name="option",
        title="Who gave this answer",
        plain="How many chose it, and whether they are those who do well on the rest of the test. The key should go up "
        "with the score, every other answer down.",
        formula="share = n(answer) / n(reached); r = corr(1 if given, X − xⱼ)",
        source="Curves: Ramsay 1991",
        caution="An answer chosen by fewer than five students says little.",
        chapter="Items",
    ),
    Figure(
        name="kr21",
        title="KR-21",
        plain="Reliability as if all items were equally hard. It needs nothing but mean and variance, and is never above alpha.",
        formula="k/(k − 1) · (1 − X̄(k − X̄)/(k·V)), V over N",
        source="Kuder & Richardson 1937",
        caution="Only for items worth 1. The more items differ in difficulty, the lower it falls.",
    ),
    Figure(
        name="lambda2",
        title="Guttman's lambda 2",
        plain="A lower bound of the reliability, never below alpha. Close to alpha where items are alike.",
        formula="(Σ cov + √(k/(k − 1)·Σ cov²))/V over pairs of items",
        source="Guttman 1945",
        caution="As alpha.",
    ),
    Figure(
        name="split_half",
        title="Split half, stepped up",
        plain="How well the odd items agree with the even ones, stepped up to the full length.",
        formula="2r/(1 + r)",
        source="Spearman 1910, Brown 1910",
        caution="Another split gives another figure.",
    ),
    Figure(
        name="omega",
        title="Omega",
        plain="Reliability of the total when items measure one thing with different weight.",
        formula="(Σλ)²/((Σλ)² + Σψ) of one maximum-likelihood factor on the covariances",
        source="McDonald 1999; Jöreskog 1967",
        caution="Where more than one thing is measured it says how well the mixture is measured.",
    ),
    Figure(
        name="stratified_alpha",
        title="Stratified alpha",
        plain="Reliability of a total made of different parts, each taken for itself.",
        formula="1 − Σ Vₚ(1 − αₚ)/V",
        source="Rajaratnam, Cronbach & Gleser 1965",
        caution="Not stated with one part, or a part of one item.",
    ),
    Figure(
        name="reached",
        title="Who got to the end",
        plain="The share who reached the last item, and who reached 80% of theirs. Low shares mean that the time was too short.",
        formula="reached_last, reached_80",
        source="Counting rules below",
        caution="A blank tail can also be giving up.",
    ),
    Figure(
        name="conditional_error",
        title="Standard error at a score",
        plain="How exact a particular score is; larger in the middle than near the ends.",
        formula="√(X(k − X)/(k − 1)) · √((1 − α)/(1 − KR-21))",
        source="Lord 1955, Keats 1957",
        caution="Right-or-wrong items only; not stated at 0 and at everything.",
    ),
    Figure(
        name="classification",
        title="Classification at a cut score",
        plain="How often the observed side of a cut is the true one, and how often a parallel test would agree.",
        formula="beta true scores, binomial errors over the effective length",
        source="Livingston & Lewis 1995",
        caution="Rests on the reliability; weak for short tests.",
    ),
    Figure(
        name="part_scores",
        title="Is a section worth its own score",
        plain="Whether a part says more about itself than the whole test does. If not, it is not reported.",
        formula="proportional reduction in mean squared error, part against total; the total's is at most its reliability",
        source="Haberman 2008",
        caution="",
    ),
    Figure(
        name="dimensions",
        title="Dimension check",
        plain="How many eigenvalues of the item correlations are larger than chance alone would give.",
        formula="against the 95th centile of 100 shuffled copies",
        source="Horn 1965",
        caution="Difficulty alone can look like a dimension.",
    ),
    Figure(
        name="person_fit",
        title="Answers that surprise",
        plain="Whether a student's pattern of right and wrong fits the score. The answers that surprise are named.",
        formula="standardized residuals; standardized log-likelihood",
        source="Drasgow, Levine & Williams 1985",
        caution="A reason to look, not a conclusion; weak on short tests.",
    ),
    Figure(
        name="effort",
        title="Rapid guesses",
        plain="Answers given faster than anybody could read the item. Their effect on p is shown with and without them.",
        formula="below 10% of the item's median time, at most 10 s",
        source="Wise & Kong 2005",
        caution="Fast readers exist.",
    ),
    Figure(
        name="mistakes",
        title="The same mistake in several items",
        plain="Wrong answers that carry the same note are one mistake. A student holds it who gave its answers at least twice, "
        "at least half of the times they could, and more often than chance.",
        formula="P(at least as many) ≤ 0.05 for a sum of unequal Bernoulli trials, each with the share of everybody who gave the answer",
        source="Tail of the Poisson binomial distribution by convolution",
        caution="One such answer is a slip. What a note says of an answer is the author's opinion.",
        chapter="Items",
    ),
    Figure(
        name="what_if",
        title="What would move",
        plain="The whole test judged again with another key, a second right answer, the points for everybody, or without the item. Nothing is changed by it.",
        formula="all figures of the re-scored answers; order by Kendall's τ_b of the totals",
        source="",
        caution="A higher alpha is no reason by itself: ask first which answer is right.",
        chapter="Items",
    ),
    Figure(
        name="draws",
        title="Do drawn copies differ",
        plain="Whether the copies drawn from one template are equally hard.",
        formula="χ² over draws with n ≥ 20, p < 0.01",
        source="",
        caution="With many students small differences are called.",
        chapter="Items",
    ),
    Figure(
        name="matched",
        title="Matched difference",
        plain="The same item in two groups, among students of equal score. Below 0 it is harder for the group than for others as strong.",
        formula="D = −2.35 · ln(common odds ratio)",
        source="Mantel & Haenszel 1959; Robins, Breslow & Greenland 1986; Holland & Thayer 1988",
        caution="Under 200 in a group it is an order of what to look at, not a conclusion.",
        chapter="Comparison",
    ),
    Figure(
        name="findings",
        title="Low everywhere, low in one",
        plain="Low everywhere means: look at the question. Low in one group, after matching and after allowing for many comparisons: look at the teaching.",
        formula="Wilson intervals under the watch line; Benjamini–Hochberg at 0.05; large but unproven from 0.15",
        source="Benjamini & Hochberg 1995; Newcombe 1998",
        caution="Classes are small: what is not called may still be there.",
        chapter="Comparison",
    ),
    Figure(
        name="differential",
        title="Differential functioning",
        plain="Whether an item is harder for one of two groups among students of equal score, in classes A (none), B, C (large).",
        formula="C: |D| ≥ 1.5 and |D| − 1.645·SE > 1",
        source="Zieky 1993",
        caution="No class under 200 in a group, refused under 50. A difference is a question to the item, not its answer.",
        chapter="Comparison",
    ),
    Figure(
        name="percentile_rank",
        title="Percentile rank",
        plain="The share of the reference group with a lower score, half of the equal ones included.",
        formula="100 · (below + ½ equal)/N; shown as a whole number 1 to 99",
        source="",
        caution="Among few students one place is several ranks: error √(PR(100 − PR)/N).",
        chapter="Norms",
    ),
    Figure(
        name="normal_scores",
        title="NCE, T, stanine",
        plain="The percentile rank on scales with equal steps. 50 is the middle of NCE and T, 5 that of stanines.",
        formula="NCE = 50 + 21.063z; T = 50 + 10z; stanine bounds 4, 11, 23, 40, 60, 77, 89, 96",
        source="",
        caution="Ranks are held at 0.5 and 99.5 first.",
        chapter="Norms",
    ),
    Figure(
        name="gain",
        title="Gain and reliable change",
        plain="The later score minus the earlier, and whether it is more than measurement error.",
        formula="d/√(se₁² + se₂²), called beyond ±1.645",
        source="Jacobson & Truax 1991",
        caution="1 in 10 students who did not change is called all the same.",
        chapter="Growth",
    ),
    Figure(
        name="residual_gain",
        title="Residual gain",
        plain="How far the later score lies above what students with this start usually reach.",
        formula="(x₂ − E)/σₑ, E = μ₂ + ρ(σ₂/σ₁)(x₁ − μ₁)",
        source="",
        caution="Who was picked for a low start rises, and for a high start falls, without having changed. An expectation made from "
        "the students themselves says nothing about the whole of them.",
        chapter="Growth",
    ),
    Figure(
        name="like_start_percentile",
        title="Percentile among students with the same starting score",
        plain="Where the residual gain lies among students with the same start: 50 is as expected.",
        formula="100 · Φ(g), band 100 · Φ(g ± 0.994·se_g), se_g = √(se₂² + b²se₁²)/σₑ; more or less from Φ(√((1 − v)/v)·g) = 0.90 on, v = se_g²",
        source="",
        caution="Where the errors are as large as the spread that the expectation leaves, nothing is said.",
        chapter="Growth",
    ),
    Figure(
        name="sgp",
        title="Student growth percentile",
        plain="The share of students with the same start in this cohort who ended lower, without assuming normal scores.",
        formula="quantile regression on cubic splines at 100 levels",
        source="Koenker & Bassett 1978; Betebenner 2009",
        caution="From 200 students; rough under 1,000.",
        chapter="Growth",
    ),
    Figure(
        name="group_growth",
        title="Growth of a group",
        plain="Mean gain and mean residual gain with their intervals, by the norm table or by the regression of the others, less what the "
        "error of the start scores alone makes of it. From five groups on, small groups are drawn toward the mean of all.",
        formula="ḡ − b(1/r₁ − 1)(x̄₁ − μ₁)/σₑ, r₁ = 1 − mean(se₁²)/σ₁²; shrunken: Σp(τ)·(μ̂ + τ²w(m − μ̂)), τ uniform, integrated over",
        source="Lord 1960; Lockwood & McCaffrey 2014",
        caution="Groups under 10 are not judged. A class figure does not measure a teacher.",
        chapter="Growth",
    ),
    Figure(
        name="chance",
        title="What chance brings",
        plain="How many unchanged students pass as a reliable rise, and as many as a fall. At or under the upper count no student is named.",
        formula="0.05·n, upper: least c with P(count ≤ c) ≥ 0.95, binomial",
        source="",
        caution="Counts students with standard errors in both windows.",
        chapter="Growth",
    ),
    Figure(
        name="tipping_point",
        title="Tipping point of the missing",
        plain="How far under or over students with the same starting score the missing would have had to end on average to bring the "
        "group to expectation. Under half a standard deviation the missing decide.",
        formula="δ* = −n·ḡ/m",
        source="Horowitz & Manski 2000",
        caution="Missing are students of the list with one score.",
        chapter="Growth",
    ),
    Figure(
        name="targets",
        title="50% and 80% targets",
        plain="The expected later score with which the true score reaches an aim with probability 0.5, and 0.8. Who is on track is told by "
        "the probability of scoring at or above it, Φ((E − c)/σₑ).",
        formula="cut + Φ⁻¹(P)·σ of the true later score",
        source="",
        caution="As good as the norm it rests on.",
        chapter="Growth",
    ),
    Figure(
        name="agreement",
        title="Scorer agreement",
        plain="How often two scorers give the same score, beyond chance; large disagreements weigh more.",
        formula="κ and quadratically weighted κ",
        source="Cohen 1960, 1968; Fleiss, Cohen & Everitt 1969",
        caution="Low where nearly all scores are equal, whatever the agreement.",
        chapter="Marking",
    ),
    Figure(
        name="severity",
        title="Severity of a scorer",
        plain="How much higher or lower a scorer scores than all scorers do on the same responses.",
        formula="additive model response + scorer",
        source="",
        caution="Markers must have responses in common.",
        chapter="Marking",
    ),
    Figure(
        name="generalizability",
        title="What a second scorer adds",
        plain="How far the score depends on the response rather than on the scorer, for one scorer and for two.",
        formula="σ²ᵣ/(σ²ᵣ + σ²ₑ/m)",
        source="Cronbach, Gleser, Nanda & Rajaratnam 1972",
        caution="",
        chapter="Marking",
    ),
    Figure(
        name="drift",
        title="Item drift",
        plain="Whether an item became harder or easier between two administrations, compared with the other common items.",
        formula="change of p and r with intervals; matched odds ratio on the common items",
        source="Mantel & Haenszel 1959; Zou 2007",
        caution="Teaching changes items too: a drift says look, not why.",
        chapter="Items",
    ),
    Figure(
        name="link",
        title="Link between forms",
        plain="Puts scores of two forms on one scale by the items they share. Without a link, shares are compared instead of scores.",
        formula="slope = σ(target)/σ(source), intercept = mean(target) − slope · mean(source), of the items' normal deviates",
        source="Marco 1977",
        caution="Needs three common items or more, and groups that are roughly normal.",
        chapter="Norms",
    ),
    Figure(
        name="mastery_run",
        title="Run and share of a standard",
        plain="The stretch of a student's scored points on a standard over which the share has probably been the same, and that share.",
        formula="π on 200 cells equal in arcsin√π; L = Π P_j^(wx)·(1 − P_j)^(w(m − x)), P_j(π) = logit⁻¹(logit π + 1.2(logit p_j − logit p_s)); "
        "w = 1 main, ½ touched, · min(1, 2/m); new start with chance 1 − 2^(−days/180); the run begins where that is likeliest",
        source="Barry & Hartigan 1993; Chib 1998; Adams & MacKay 2007; Zeger, Liang & Albert 1988",
        caution="Time alone is no evidence. Items of which too little is known count as usual.",
        chapter="Mastery",
    ),
    Figure(
        name="mastery_state",
        title="State of a standard",
        plain="Mastered is surely enough at or above the line, on enough points; retained, what later evidence kept. It changes with evidence only.",
        formula="mastered: P(π ≥ 0.80) ≥ 0.80 and Σwm ≥ 6, left under P = 0.50; retained: 3 points 14 days later; thin: Σwm < 4; developing: mean ≥ 0.50",
        source="",
        caution="With few points many who are above the line are not called mastered yet. An average never stands alone.",
        chapter="Mastery",
    ),
    Figure(
        name="mastery_again",
        title="Check again",
        plain="Whether so much time has passed that mastery is no longer likely enough. The state stays as it is.",
        formula="P₀ = (1 − h)P + h(1 − (2/π)arcsin√line) < 0.70, h over the days of instruction since the last evidence",
        source="",
        caution="",
        chapter="Mastery",
    ),
    Figure(
        name="mastery_direction",
        title="Rising and falling",
        plain="Whether the latest five to eight points are better or worse than all before, items of different difficulty allowed for.",
        formula="Σ(x − p·m)/Σm on each side; claimed beyond 0.15 and with probability 0.975 by independent Beta(½ + earned, ½ + lost)",
        source="",
        caution="Of cells with enough evidence chance brings up to 1 in 30 each way; a count of arrows says so.",
        chapter="Mastery",
    ),
    Figure(
        name="mastery_groups",
        title="Groups from needs",
        plain="Students by a standard that they are probably below the line on, as many needs met as seats allow.",
        formula="max Σ u·x, u = P(π < line) from ½ on; each student in one group at most; least·y ≤ Σx ≤ most·y; Σy ≤ groups; pairs kept apart",
        source="Huangfu & Hall 2018 (HiGHS)",
        caution="What was not taught yet is no need.",
        chapter="Mastery",
    ),
)

FIGURES: dict[str, Figure] = {figure.name: figure for figure in _ALL}
