"""`./bildung growth`: norm scores and growth of a score file, without a server."""

from __future__ import annotations

import argparse
import json
import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from bildung.commands.files import read_bytes, write_whole
from bildung.core.data.arrays import FloatArray, IntArray
from bildung.core.errors import Refused
from bildung.core.growth.claims import chance
from bildung.core.growth.cohort import growth
from bildung.core.growth.groups import GroupGrowth, group_growth
from bildung.core.growth.matched import Growth, MatchedCohort
from bildung.core.scales.norms import NormTable, normal_curve_equivalents, stanines
from bildung.formats.problem import ImportProblem
from bildung.formats.scores import Score, read_correlations, read_norms, read_scores

EXAMPLE = "example: ./bildung growth SCORES.csv --from Fall --to Winter --norms NORMS.csv --by class --json OUT.json"

SHOWN = 20
CLAIMS = {1: "more", -1: "less", 0: "cannot be told"}
RELIABLE = {1: "rise", -1: "fall", 0: None}


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "scores",
        type=Path,
        metavar="SCORES.csv",
        help="student, grade, window, week, score; optional subject, se, school, class",
    )
    parser.add_argument("--from", dest="start", required=True, metavar="WINDOW")
    parser.add_argument("--to", dest="end", required=True, metavar="WINDOW")
    parser.add_argument("--norms", type=Path, metavar="NORMS.csv", help="moments or percentile points")
    parser.add_argument("--correlations", type=Path, metavar="R.csv", help="subject, grade, from_week, to_week, r")
    parser.add_argument("--by", metavar="COLUMN", default=None, help="groups to report, such as class")
    parser.add_argument("--json", type=Path, metavar="OUT.json")


def run(given: argparse.Namespace) -> int:
    file = str(given.scores)
    scores = read_scores(file, read_bytes(given.scores), given.by)
    windows = sorted({s.window for s in scores})
    for window in (given.start, given.end):
        if window not in windows:
            raise ImportProblem(
                file=file, found=f"no window {window}", allowed=f"there are {', '.join(windows)}", column="window"
            )
    if given.start == given.end:
        raise ImportProblem(file=file, found=f"{given.start} twice", allowed="two different windows", column="window")
    norms = _norms(given)
    document: dict[str, Any] = {"matched": 0, "unmatched": [], "students": [], "groups": []}
    sources: dict[str, Any] = {}
    told: list[str] = []
    verdicts, errors = [np.zeros(0, dtype=np.int64)], [np.zeros(0)]
    for subject in sorted({s.subject for s in scores}):
        mine = [s for s in scores if s.subject == subject]
        starts = {s.student: s for s in mine if s.window == given.start}
        ends = {s.student: s for s in mine if s.window == given.end}
        both = [(starts[id], ends[id]) for id in starts if id in ends]
        for here, other, window in ((starts, ends, given.end), (ends, starts, given.start)):
            document["unmatched"] += [
                {"student": id, "subject": subject, "why": f"no score in {window}"} for id in here if id not in other
            ]
        if not both:
            continue
        m = _matched(both)
        found = growth(subject, m, norms, _by_grade(starts.values()), _by_grade(ends.values()))
        document["matched"] += len(both)
        document["students"] += _students(subject, both, found)
        verdicts.append(found.gains.verdict)
        errors.append(found.gains.error)
        if given.by:
            alone = Counter(
                s.group for s in (*starts.values(), *ends.values()) if (s.student in starts) != (s.student in ends)
            )
            groups = group_growth([end.group for _, end in both], m, found, alone)
            document["groups"] += [_group(subject, name, g) for name, g in groups.items()]
            told += [_line(subject, name, g) for name, g in groups.items()]
        sources[subject] = _source(norms, subject, both, found)
    document["chance"] = _chance(np.concatenate(verdicts), np.concatenate(errors))
    # one subject: as a plain pair; several: the weakest that any figure rests on
    document["source"] = {
        name: "table" if sources and all(s[name] == "table" for s in sources.values()) else "local"
        for name in ("status", "correlation")
    }
    document["notes"] = [note for s in sources.values() for note in s["notes"]]
    if given.json:
        write_whole(given.json, _json(document).encode())
    print(f"{document['matched']} matched, {len(document['unmatched'])} without a score in one of the windows.")
    for line in told[:SHOWN]:
        print(f"  {line}")
    if len(document["groups"]) > SHOWN:
        print(f"  and {len(document['groups']) - SHOWN} more groups in the JSON")
    met = document["chance"]
    if met["expected"] is not None:
        print(
            f"  {met['rises']} reliable rises and {met['falls']} falls; chance brings up to {met['upper95']} of each."
        )
    for note in document["notes"]:
        print(f"  {note}")
    return 0


def _norms(given: argparse.Namespace) -> NormTable | None:
    if given.correlations and not given.norms:
        raise ImportProblem(
            file=str(given.correlations), found="correlations without norms", allowed="--norms beside --correlations"
        )
    if not given.norms:
        return None
    correlations = None
    if given.correlations:
        correlations = read_correlations(str(given.correlations), read_bytes(given.correlations))
    return read_norms(str(given.norms), read_bytes(given.norms), correlations)


def _matched(both: Sequence[tuple[Score, Score]]) -> MatchedCohort:
    first, last = [a for a, _ in both], [b for _, b in both]
    return MatchedCohort(
        start_grade=[s.grade for s in first],
        end_grade=[s.grade for s in last],
        start=np.array([s.score for s in first]),
        end=np.array([s.score for s in last]),
        start_week=np.array([s.week for s in first]),
        end_week=np.array([s.week for s in last]),
        start_error=np.array([s.se for s in first]),
        end_error=np.array([s.se for s in last]),
    )


def _by_grade(scores: Any) -> dict[str, Any]:
    by_grade: dict[str, list[float]] = {}
    for score in scores:
        by_grade.setdefault(score.grade, []).append(score.score)
    return {grade: np.array(values) for grade, values in by_grade.items()}


def _students(subject: str, both: Sequence[tuple[Score, Score]], found: Growth) -> list[dict[str, Any]]:
    nce = normal_curve_equivalents(found.end_z)
    stanine = stanines(found.end_rank)
    lines = []
    for at, (start, end) in enumerate(both):
        known, sgp, error = bool(found.known[at]), float(found.sgp[at]), float(found.gains.error[at])
        has_error, fits = not math.isnan(error), not math.isnan(found.residual_error[at])
        line: dict[str, Any] = {
            "student": start.student,
            "subject": subject,
            "start": start.score,
            "end": end.score,
            "gain": float(found.gains.gain[at]),
            "gain_se": error if has_error else None,
            "held": bool(found.held[at]),
            "start_pr": float(found.start_rank[at]),
            "end_pr": float(found.end_rank[at]),
            "end_nce": float(nce[at]),
            "end_stanine": int(stanine[at]),
            "expected": float(found.expected[at]) if known else None,
            "residual_gain": float(found.residual[at]) if known else None,
            "like_start_percentile": float(found.like_start[at]) if known else None,
            "sgp": int(sgp) if sgp else None,
            "residual_gain_se": float(found.residual_error[at]) if known and fits else None,
            "claim": CLAIMS[int(found.claim[at])] if known and fits and not found.misfit[at] else None,
            "reliable": RELIABLE[int(found.gains.verdict[at])] if has_error else None,
        }
        why = {
            name: found.why[start.grade, key]
            for name, key in (
                ("expected", "expected"),
                ("residual_gain", "expected"),
                ("like_start_percentile", "expected"),
                ("sgp", "sgp"),
            )
            if line[name] is None
        }
        if not has_error:
            without = " and ".join(s.window for s in (start, end) if math.isnan(s.se))
            why |= dict.fromkeys(("gain_se", "reliable"), f"the score in {without} has no standard error")
        elif line["reliable"] is None:
            why["reliable"] = "the gain is within what error alone brings to 9 in 10"
        for name in ("residual_gain_se", "claim"):
            if line[name] is None:
                why[name] = why.get("expected") or why.get("gain_se") or _misfit(found, at)
        lines.append(line | {"why": why})
    return lines


def _misfit(found: Growth, at: int) -> str:
    if found.misfit[at]:
        return "the standard errors are larger than the spread that the expectation leaves, so they do not fit it"
    return "the norm table is held at its outermost point here, so the expectation has no slope"


def _group(subject: str, name: str, g: GroupGrowth) -> dict[str, Any]:
    told = asdict(g)
    reasons = told.pop("reasons")
    for inner in ("picked", "shrunken_se", "judged", "allowance", "adjusted_ci95", "tau"):
        del told[inner]
    return {"subject": subject, "group": name, **told, "why": reasons}


def _line(subject: str, name: str, g: GroupGrowth) -> str:
    text = f"{subject} {name}: {g.n} students, mean gain {g.mean_gain:+.1f}"
    if g.told is not None and g.told_ci95 is not None:
        text += f", residual gain {g.told:+.2f} ({g.told_ci95[0]:+.2f} to {g.told_ci95[1]:+.2f})"
    return text.strip().replace("-", "−")


def _chance(verdict: IntArray, error: FloatArray) -> dict[str, Any]:
    """Over all subjects of the file."""
    try:
        found = chance(verdict, error)
    except Refused as refused:
        names = ("rises", "falls", "expected", "upper95")
        return dict.fromkeys(names) | {"why": dict.fromkeys(names, str(refused))}
    return {"rises": found.rises, "falls": found.falls, "expected": found.expected, "upper95": found.upper95}


def _source(
    norms: NormTable | None, subject: str, both: Sequence[tuple[Score, Score]], found: Growth
) -> dict[str, Any]:
    refused = {grade for grade, figure in found.why if figure == "expected"}
    local = sorted({start.grade for start, _ in both} - {g for g, s in found.sources.items() if s == "table"} - refused)
    notes = []
    if norms is not None and norms.correlations and local:
        notes.append(f"{subject or 'grades'} {', '.join(local)}: no correlation in the table; expected gains are local")
    if found.rough:
        notes.append(
            f"{subject or 'grades'} {', '.join(found.rough)}: growth percentiles are rough (under 1,000 students)"
        )
    notes += [f"{subject} grade {grade}: {figure} missing, {why}".strip() for (grade, figure), why in found.why.items()]
    return {
        "status": "local" if norms is None else "table",
        "correlation": "table"
        if any(s == "table" for s in found.sources.values()) or (norms is not None and not local)
        else "local",
        "notes": notes,
    }


def _json(document: dict[str, Any]) -> str:
    students = document.pop("students")
    head = json.dumps(document, allow_nan=False)
    document["students"] = students
    lines = ",\n".join(json.dumps(s, allow_nan=False) for s in students)
    return f'{head[:-1]}, "students": [\n{lines}\n]}}\n'
