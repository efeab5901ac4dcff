"""Results of an analysis as JSON, exactly as docs/commands.md states, written without a detour."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from typing import Any

from bildung.core.classical.analysis import ItemAnalysis, TestAnalysis
from bildung.core.comparison.compare import Comparison
from bildung.core.comparison.differential import Differential

_SPREAD = ("n", "k", "points", "mean", "sd", "median", "min", "max", "skewness", "kurtosis")
_TRUST = ("alpha", "alpha_ci95", "alpha_ci_method", "kr21", "lambda2", "split_half", "omega", "stratified_alpha")
_ITEM = (
    "n",
    "n_r",
    "n_omitted",
    "n_not_reached",
    "n_not_presented",
    "p",
    "p_all",
    "p_ci95",
    "sd",
    "r_rest",
    "r_rest_ci95",
    "r_total",
    "biserial",
    "d27",
)
_OPTION = ("option", "kind", "is_key", "n", "share", "mean_total", "mean_rest", "r_rest", "fifths")


def test_part(analysis: TestAnalysis) -> dict[str, Any]:
    spread, trust = analysis.distribution, analysis.reliability
    why = {k: v for k, v in (spread.why | trust.why).items()}
    if analysis.sem is None:
        why["sem"] = trust.why.get("alpha", "alpha is undefined")
    return {
        **{name: getattr(spread, name) for name in _SPREAD},
        **{name: getattr(trust, name) for name in _TRUST},
        "sem": analysis.sem,
        "reached_last": spread.reached_last,
        "reached_80": spread.reached_80,
        "why": why,
    }


def item_part(found: ItemAnalysis, alpha_why: str | None) -> dict[str, Any]:
    why = dict(found.figures.why)
    if found.alpha_without is None:
        why["alpha_without"] = alpha_why or "fewer than three items, or no variance is left"
    if found.sound is None:
        why["sound"] = "too few students were counted to examine it"
    return {
        "item": found.item.name,
        "type": found.item.kind,
        "points": found.item.points,
        **{name: getattr(found.figures, name) for name in _ITEM},
        "alpha_without": found.alpha_without,
        "sound": found.sound,
        "flags": [
            {"flag": f.flag, "weight": f.weight, **({} if f.option is None else {"option": f.option}), "why": f.why}
            for f in found.flags
        ],
        "options": [{name: getattr(row, name) for name in _OPTION} for row in found.options],
        "why": why,
    }


def compare_part(by: str, found: Comparison) -> dict[str, Any]:
    return {
        "by": by,
        "groups": [
            {
                "group": g.group,
                "n": g.n,
                "mean": g.mean,
                "items": [{"item": i.item, "n": i.n, "p": i.p} for i in g.items],
            }
            for g in found.groups
        ],
        "findings": [vars(f) for f in found.findings],
    }


def dif_part(by: str, found: Differential) -> dict[str, Any]:
    names = ("odds_ratio", "chi2", "p_value", "d_dif", "d_dif_se", "std_p_difference", "smd")
    items = []
    for item in found.items:
        entry = {"item": item.item, **{name: getattr(item.matched, name) for name in names}, "class": item.size}
        entry |= {"strata_used": item.matched.strata_used, "strata_dropped": item.matched.strata_dropped}
        if item.matched.why:
            entry["why"] = {"odds_ratio": item.matched.why}
        items.append(entry)
    return {
        "by": by,
        "reference": found.reference,
        "focal": found.focal,
        "n_reference": found.n_reference,
        "n_focal": found.n_focal,
        "items": items,
    }


def student_lines(analysis: TestAnalysis, students: Sequence[str]) -> Iterator[str]:
    """One JSON object a student with a total, in pieces; what follows the id is made once per distinct score."""
    scores, ranks = analysis.scores, analysis.percentile_ranks
    tail: dict[int, str] = {}
    encode = json.encoder.encode_basestring_ascii
    levels, whole = scores.level.tolist(), scores.complete.tolist()
    for row, student in enumerate(students):
        level = levels[row] if whole[row] else -1
        if level < 0:
            waits = dict.fromkeys(("earned", "share", "percentile_rank"), "an answer awaits its score")
            figures: dict[str, Any] = {
                "earned": None,
                "possible": float(scores.possible[row]),
                "share": None,
                "percentile_rank": None,
                "why": waits,
            }
            yield f'{{"student": {encode(student)}, {json.dumps(figures)[1:]}'
            continue
        end = tail.get(level)
        if end is None:
            earned, possible = float(scores.level_earned[level]), float(scores.level_possible[level])
            figures = {
                "earned": earned,
                "possible": possible,
                "share": earned / possible if possible else None,
                "percentile_rank": float(ranks[row]),
            }
            if not possible:
                figures["why"] = {"share": "no points were presented"}
            end = tail[level] = ", " + json.dumps(figures)[1:]
        yield f'{{"student": {encode(student)}{end}'


def analysis_json(
    analysis: TestAnalysis,
    students: Sequence[str],
    compare: tuple[str, Comparison] | None = None,
    dif: tuple[str, Differential] | None = None,
) -> str:
    """The whole document; students: ids of the counted rows."""
    counts = {k: v for k, v in analysis.counts.items() if k not in ("in_progress", "trial")}
    alpha_why = analysis.reliability.why.get("alpha")
    parts: dict[str, Any] = {
        "counts": counts,
        "test": test_part(analysis),
        "items": [item_part(i, alpha_why) for i in analysis.items],
    }
    if compare:
        parts["compare"] = compare_part(*compare)
    if dif:
        parts["dif"] = dif_part(*dif)
    head = json.dumps(parts, allow_nan=False)
    return f'{head[:-1]}, "students": [\n' + ",\n".join(student_lines(analysis, students)) + "\n]}\n"
