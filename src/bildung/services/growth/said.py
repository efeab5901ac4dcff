"""What the page about two occasions says in sentences."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from bildung.core.grades import in_grade_order
from bildung.core.growth.claims import Chance
from bildung.core.growth.groups import LEAST_JUDGED, off_among
from bildung.core.items.shown import counted, decimal, percent
from bildung.services.growth.cohort import UNLINKED
from bildung.services.growth.pairview import ChanceView, GradeBlock, GrowthGroup, PairPage
from bildung.services.growth.seen import Seen

CLEARLY = 1.0  # points of gain by which a group must differ before its start is spoken of


def chance_says(found: Chance, named: bool) -> str:
    """Beside a list of students: whether they may be named."""
    usual = f"chance brings {found.expected:.0f} of {found.n} and rarely more than {found.upper95}"
    if named:
        return f"{usual}; which of them are chance cannot be told"
    return f"{usual}, so no student is named"


def without_marks(rest: Chance | None, marked: int) -> str:
    """The counts without attempts that have a mark; empty where none has."""
    if not marked:
        return ""
    attempts = f"{counted(marked, 'student')} {'has' if marked == 1 else 'have'} a mark on an attempt"
    if rest is None:
        return f"{attempts}; no others are left."
    return (
        f"{attempts}; without them {rest.falls} of {rest.n} are behind and {rest.rises} ahead, where chance brings up to "
        f"{rest.upper95} of each."
    )


def regression_says(whole: GrowthGroup | None, lines: Sequence[GrowthGroup]) -> list[str]:
    """Of schools and groups whose gain differs from the rest only because they started low or high."""
    if whole is None or whole.mean_gain is None or whole.mean_start is None:
        return []
    said = []
    for line in lines:
        if line.hidden or line.mean_gain is None or line.mean_start is None or line.mean_expected is None:
            continue
        more = line.mean_gain - whole.mean_gain
        expected = abs(line.mean_expected - line.mean_start)
        if abs(more) < CLEARLY or line.gain_ci95 is None or line.off or line.told is None:
            continue
        if not line.picked and line.gain_ci95[0] <= whole.mean_gain <= line.gain_ci95[1]:
            continue
        side, low = ("more", "low") if more > 0 else ("less", "high")
        if line.picked:
            said.append(
                f"{line.name} gained {decimal(line.mean_gain, 1)} points, {decimal(abs(more), 1)} {side} than all together; but its students "
                f"with both scores were picked by a {low} start, and unchanged students picked this {low} {'rise' if more > 0 else 'fall'} "
                f"more often. {decimal(expected, 1)} were expected of them: that is regression to the mean."
            )
            continue
        said.append(
            f"{line.name} gained {decimal(line.mean_gain, 1)} points, {decimal(abs(more), 1)} {side} than all together; students who start "
            f"this {low} are expected to gain {decimal(expected, 1)}. That is regression to the mean, and no sign of "
            f"{'better' if more > 0 else 'worse'} teaching."
        )
    return said


def finding(page: PairPage) -> str:
    """Who, how many, how sure."""
    if not page.n:
        if page.reasons and page.reasons[0].reason == UNLINKED:
            return (
                f"Growth between {page.start.name} and {page.end.name} cannot be told: students took forms that are not linked. "
                "Shares of points on different forms are not growth."
            )
        return f"No student here has a score in both {page.start.name} and {page.end.name}."
    students = counted(page.n, "student")
    if page.met is not None:
        text = f"Of {students} {percent(page.met)} grew as expected or more{_worst(page.blocks)}."
    elif page.mean_gain is not None and page.gain_ci95 is not None:
        low, high = page.gain_ci95
        why = "The norms hold no correlation of these weeks, so" if page.norms else "Without norms"
        text = (
            f"{students[0].upper()}{students[1:]} {'won' if page.measure.falling else 'gained'} {page.mean_gain:.1f} points on average ({low:.1f} to "
            f"{high:.1f}). {why} whether that is much cannot be told"
            + (f"; beside the others {_classes_off(page.blocks)}." if _classes_off(page.blocks) else ".")
        ).replace("-", "−")
    else:
        text = (
            f"{students[0].upper()}{students[1:]} {'has' if page.n == 1 else 'have'} both scores: too few to say more."
        )
    return f"{text} {_falls(page.chance)}"


def _worst(blocks: Collection[GradeBlock]) -> str:
    """The grade that grew less than expected by more than chance, the furthest off."""
    judged = [b for b in blocks if b.line.met is not None]
    off = [b for b in judged if _surely(b.line, len(judged)) < 0]
    if not off:
        more = [b for b in judged if _surely(b.line, len(judged)) > 0]
        if not more:
            return ""
        best = max(more, key=lambda b: b.line.told or 0)
        return f"; grade {best.grade} more than expected, {percent(best.line.met)}"
    worst = min(off, key=lambda b: b.line.told or 0)
    return f"; grade {worst.grade} less than expected, {percent(worst.line.met)}"


def _surely(line: GrowthGroup, groups: int) -> int:
    """Off expectation also when the furthest of so many is looked for."""
    if not line.off or line.ci95 is None:
        return 0
    return off_among(line.told, (line.ci95[0], line.ci95[1]), line.judged, groups)


def _classes_off(blocks: Collection[GradeBlock]) -> str:
    judged = [c for b in blocks for c in b.classes if c.told is not None]
    off = [c for c in judged if _surely(c, len(judged))]
    if not off:
        return ""
    first = max(off, key=lambda c: abs(c.told or 0))
    return f"{first.name} gained {'more' if first.off > 0 else 'less'}"


def _falls(met: ChanceView | None) -> str:
    if met is None:
        return "Without standard errors no single student can be told from chance."
    if met.behind > met.upper95:
        usual = f"where chance brings {met.expected:.0f} and rarely more than {met.upper95}"
        return f"{met.behind} ended reliably behind their expected score, {usual}."
    return f"{met.behind} ended behind their expected score by more than error, no more than chance brings (up to {met.upper95})."


def workings(seen: Seen) -> list[str]:
    """How it was calculated, a sentence each."""
    pair, found = seen.pair, seen.pair.found
    names = {
        "table": [g for g, s in found.sources.items() if s == "table"],
        "local": [g for g, s in found.sources.items() if s == "local"],
    }
    said = []
    if pair.measure.own:
        said.append(
            "Scores are percent of the points of a benchmark given here. Two are compared only where both forms are on one scale; the "
            "standard error of a score is that of its form in its window, from coefficient alpha."
        )
    if pair.measure.falling:
        said.append("Less is better on this measure: a gain is how much a score fell.")
    if names["table"] and pair.norms is not None:
        said.append(
            f"Grades {', '.join(in_grade_order(names['table']))}: expected by {pair.norms.name}, version {pair.norms.version} ({pair.norms.source};"
            f" {pair.norms.population})."
        )
    if names["local"]:
        said.append(
            f"Grades {', '.join(in_grade_order(names['local']))}: expected by the regression of these students themselves; a class is judged by the"
            " regression of all others, and the whole of them not at all."
        )
    said += [
        f"Grade {grade}: {reason}." for (grade, figure), reason in sorted(found.why.items()) if figure == "expected"
    ]
    said.append(
        "What the error of the start scores alone makes of a group's mean is taken off, so that a group that starts high is not flattered."
    )
    said.append(
        f"A class counts students who were in it for at least {seen.share:.0%} of the days between the windows, and is judged from {LEAST_JUDGED} students on;"
        f" under {seen.least} it is not shown. A class figure does not measure a teacher."
    )
    said.append(
        "Reliably behind or ahead is further from the expected score than 1.645 times the error of both scores, which 1 in 20 students who"
        " grew exactly as expected passes on either side."
    )
    said.append(
        "Growth percentiles (SGP) are by quantile regression within the grade, from 200 students on; a group's median is told with its mean "
        "start and never ranked."
    )
    return said
