"""How a figure came about: its formula with this case's numbers, who was counted, who was not."""

from __future__ import annotations

from dataclasses import dataclass

from bildung.core.classical.analysis import ItemAnalysis, TestAnalysis
from bildung.core.classical.items import UPPER_SHARE
from bildung.core.errors import Refused
from bildung.core.explain.figures import FIGURES, Figure
from bildung.core.items.shown import coefficient, decimal, percent

Number = tuple[str, str]


@dataclass(frozen=True, kw_only=True)
class Workings:
    """How a figure was calculated.

    Attributes
    ----------
    figure : Figure
        What it is.
    result : str
        The figure as shown.
    numbers : tuple[Number, ...]
        What the formula was filled with.
    counted : int
        How many were counted.
    left_out : tuple[tuple[str, int], ...]
        Reason and how many.
    limits : tuple[Number, ...]
        Settings that matter here.
    why_none : str | None
        The reason where there is no figure.
    """

    figure: Figure
    result: str
    numbers: tuple[Number, ...]
    counted: int
    left_out: tuple[tuple[str, int], ...]
    limits: tuple[Number, ...]
    why_none: str | None = None


def _between(interval: tuple[float, float] | None, places: int = 2) -> str:
    return "–" if interval is None else f"{coefficient(interval[0], places)} to {coefficient(interval[1], places)}"


COEFFICIENTS = ("kr21", "lambda2", "split_half", "omega", "stratified_alpha")
TEST_FIGURES = ("counts", "mean", "sd", "alpha", "sem", "ceiling", "sound", "reached", *COEFFICIENTS)
ITEM_FIGURES = ("p", "r_rest", "d27", "biserial", "alpha_without", "option")


def explain(analysis: TestAnalysis, figure: str, item: str | None = None) -> Workings:
    """Workings of a test figure, or with `item` of one of that item's. Refused for a figure there is not."""
    if item is None:
        if figure not in TEST_FIGURES:
            raise Refused(f"there is no test figure {figure!r}; there are {', '.join(TEST_FIGURES)}")
        return _of_test(analysis, figure)
    if figure not in ITEM_FIGURES:
        raise Refused(f"there is no item figure {figure!r}; there are {', '.join(ITEM_FIGURES)}")
    try:
        found = analysis.item(item)
    except KeyError:
        raise Refused(f"there is no item {item!r} on this form") from None
    return _of_item(analysis, found, figure)


def _never_counted(analysis: TestAnalysis) -> list[tuple[str, int]]:
    words = {
        "blank": "submitted without any answer",
        "in_progress": "still answering",
        "absent": "absent",
        "exempt": "exempt",
        "void": "void",
        "trial": "trial run by staff",
    }
    return [(text, analysis.counts[state]) for state, text in words.items() if analysis.counts[state]]


def _of_test(analysis: TestAnalysis, figure: str) -> Workings:
    spread, trust = analysis.distribution, analysis.reliability
    out = _never_counted(analysis)
    if analysis.counts["waiting"] and figure not in ("counts",):
        out.append(("an answer awaits its score", analysis.counts["waiting"]))
    counted, why, limits = spread.n, None, tuple[Number, ...]()
    if figure == "counts":
        counted = analysis.counts["sat"] + analysis.counts["waiting"]
        result = str(counted)
        numbers = tuple((name.replace("_", " "), str(n)) for name, n in analysis.counts.items() if n)
    elif figure == "mean":
        result = decimal(spread.mean, 1)
        why = spread.why.get("mean")
        total = sum(value * n for value, n in spread.histogram)
        numbers = (
            ("points earned by all, Σ Xᵢ", f"{total:g}"),
            ("students, N", str(spread.n)),
            ("most that can be earned", f"{spread.points:g}"),
            ("median", decimal(spread.median, 1)),
        )
    elif figure == "sd":
        result, why = decimal(spread.sd, 1), spread.why.get("sd")
        numbers = (("mean", decimal(spread.mean)), ("students, N", str(spread.n)))
    elif figure == "alpha":
        counted, result, why = trust.n, coefficient(trust.alpha), trust.why.get("alpha")
        numbers = (
            ("items, k", str(spread.k)),
            ("sum of the items' variances, T", decimal(trust.sum_item_variances, 3)),
            ("variance of the total, V", decimal(trust.total_variance, 3)),
            ("95% interval", _between(trust.alpha_ci95)),
            ("interval by", trust.alpha_ci_method or "–"),
            ("KR-21", coefficient(trust.kr21)),
            ("Guttman λ₂", coefficient(trust.lambda2)),
            ("split half, stepped up", coefficient(trust.split_half)),
            ("omega", coefficient(trust.omega)),
        )
    elif figure in COEFFICIENTS:
        counted, result, why = trust.n, coefficient(getattr(trust, figure)), trust.why.get(figure)
        numbers = (
            ("items, k", str(spread.k)),
            ("variance of the total, V", decimal(trust.total_variance, 3)),
            ("mean", decimal(spread.mean)),
            ("alpha, to compare", coefficient(trust.alpha)),
        )
    elif figure == "reached":
        result, why = percent(spread.reached_last), spread.why.get("reached_last")
        numbers = (
            ("reached the last item", percent(spread.reached_last)),
            ("reached 80% of theirs", percent(spread.reached_80)),
            ("students, N", str(spread.n)),
        )
    elif figure == "sem":
        result, why = decimal(analysis.sem, 1), trust.why.get("alpha")
        numbers = (("sd", decimal(spread.sd, 3)), ("alpha", coefficient(trust.alpha, 3)))
    elif figure == "ceiling":
        result = percent(spread.ceiling)
        numbers = (("students, N", str(spread.n)), ("share at 0", percent(spread.floor)))
    else:
        judged = [i.sound for i in analysis.items]
        result = f"{judged.count(True)} of {len(judged)}"
        numbers = (
            ("sound", str(judged.count(True))),
            ("to review", str(judged.count(False))),
            ("not examined", str(judged.count(None))),
        )
        limits = _limits(analysis)
    return Workings(
        figure=FIGURES[figure],
        result=result,
        numbers=numbers,
        counted=counted,
        left_out=tuple(out),
        limits=limits,
        why_none=why,
    )


def _limits(analysis: TestAnalysis) -> tuple[Number, ...]:
    s = analysis.settings
    return (
        ("watch line", percent(s.watch_line)),
        ("very hard below", percent(s.very_hard)),
        ("very easy above", percent(s.very_easy)),
        ("weak below", coefficient(s.weak_r)),
        ("students needed for correlations", str(s.least_relation)),
    )


def left_out_of_item(analysis: TestAnalysis, found: ItemAnalysis) -> list[tuple[str, int]]:
    """Who is not in an item's n: reason and how many, none of them zero."""
    f = found.figures
    out = _never_counted(analysis)
    if f.n_not_presented:
        out.append(("not on their form", f.n_not_presented))
    if f.n_not_reached:
        out.append(("did not reach the item", f.n_not_reached))
    waiting = analysis.table.n - f.n - f.n_not_presented - f.n_not_reached
    if waiting:
        out.append(("this answer awaits its score", waiting))
    return out


def _of_item(analysis: TestAnalysis, found: ItemAnalysis, figure: str) -> Workings:
    f, item, settings = found.figures, found.item, analysis.settings
    out = left_out_of_item(analysis, found)
    counted = f.n
    if figure in ("p", "option"):
        earned = (f.p or 0) * item.points * f.n
        result = percent(f.p)
        numbers: tuple[Number, ...] = (
            ("points earned", f"{earned:g}"),
            ("students who reached it", str(f.n)),
            ("points possible, mⱼ", f"{item.points:g}"),
            ("95% interval", _percents(f.p_ci95)),
            ("omitted, counted as wrong", str(f.n_omitted)),
            ("with not reached as wrong", percent(f.p_all)),
        )
        return Workings(
            figure=FIGURES[figure],
            result=result,
            numbers=numbers,
            counted=counted,
            left_out=tuple(out),
            limits=(("watch line", percent(settings.watch_line)),),
            why_none=f.why.get("p"),
        )
    if f.n - f.n_r:
        out.append(("without a total, or with nothing but this item", f.n - f.n_r))
    counted = f.n_r
    value = getattr(f, figure) if figure != "alpha_without" else found.alpha_without
    why = f.why.get(figure)
    if figure == "r_rest":
        numbers = (
            ("students", str(f.n_r)),
            ("95% interval", _between(f.r_rest_ci95)),
            ("with the item left in the total", coefficient(f.r_total)),
        )
    elif figure == "d27":
        numbers = (("students in each end group", decimal(UPPER_SHARE * f.n_r, 1)),)
    elif figure == "biserial":
        numbers = (("r", coefficient(f.r_rest)), ("p", coefficient(f.p)))
    else:
        counted = analysis.reliability.n
        numbers = (("alpha with it", coefficient(analysis.reliability.alpha, 3)),)
        if value is None:
            why = analysis.reliability.why.get("alpha", "too few items, or no variance is left")
    places = 3 if figure == "alpha_without" else 2
    return Workings(
        figure=FIGURES[figure],
        result=coefficient(value, places),
        numbers=numbers,
        counted=counted,
        left_out=tuple(out),
        limits=(),
        why_none=why,
    )


def _percents(interval: tuple[float, float] | None) -> str:
    return "–" if interval is None else f"{percent(interval[0])[:-2]} to {percent(interval[1])}"
