"""The one sentence or two that a page of item quality opens with."""

from __future__ import annotations

from dataclasses import dataclass

from bildung.core.classical.analysis import ItemAnalysis, TestAnalysis
from bildung.core.items.shown import coefficient, counted, decimal

TRUST = ((0.85, "can be trusted"), (0.70, "can be trusted for groups, with care for single students"))
DISTRUST = "should not decide anything about single students"
MOST_NAMED = 3
FEWEST = 10  # students from whom a finding is made


@dataclass(frozen=True)
class Piece:
    """A stretch of the sentence. figure or item: what it links to. urgent: somebody must act on it."""

    text: str
    figure: str | None = None
    item: str | None = None
    urgent: bool = False


def test_finding(analysis: TestAnalysis) -> tuple[Piece, ...]:
    """Problems first, then how many items are sound, whether the total can be trusted, who was counted."""
    spread, counts = analysis.distribution, analysis.counts
    sat = counts["sat"] + counts["waiting"]
    if sat == 0:
        rest = _not_counted(counts)
        return (Piece("No one has submitted yet" + ("" if len(rest) > 1 else ".")), *(rest if len(rest) > 1 else []))
    judged_on = analysis.judged_on
    if judged_on is not None and judged_on >= FEWEST:
        pieces = [*_problems(analysis), *_soundness(analysis)]
        pieces.append(Piece(f"That is judged on all {judged_on} who took it. "))
        pieces += [Piece(str(sat), "counts"), Piece(f" of them {'is' if sat == 1 else 'are'} in this view")]
        if (mean := spread.mean) is not None and sat >= FEWEST:
            pieces += [Piece("; their mean is "), Piece(decimal(mean, 1), "mean"), Piece(f" of {spread.points:g}")]
        return (*pieces, *_not_counted(counts))
    if sat < FEWEST:
        said = (
            Piece(str(sat), "counts"),
            Piece(f" {'student' if sat == 1 else 'students'} took the {counted(spread.k, 'item')}"),
        )
        return (*said, *_not_counted(counts), Piece(" That is too few to judge the test or any of its items."))
    pieces = [*_problems(analysis), *_soundness(analysis)]
    alpha = analysis.reliability.alpha
    if alpha is None:
        pieces.append(Piece(f"Its reliability cannot be stated: {analysis.reliability.why['alpha']}. "))
    else:
        words = next((text for line, text in TRUST if round(alpha, 2) >= line), DISTRUST)
        pieces += [Piece(f"The total {words} ("), Piece(coefficient(alpha), "alpha"), Piece("). ")]
    pieces += [Piece(str(sat), "counts"), Piece(f" took the {counted(spread.k, 'item')}")]
    return (*pieces, *_not_counted(counts))


def _not_counted(counts: dict[str, int]) -> list[Piece]:
    words = {
        "absent": "absent",
        "in_progress": "not submitted yet",
        "blank": "without any answer",
        "exempt": "exempt",
        "void": "invalidated",
    }
    rest = [f"{counts[state]} {text}" for state, text in words.items() if counts[state]]
    return [Piece(", "), Piece(", ".join(rest), "counts"), Piece(".")] if rest else [Piece(".")]


def _number(analysis: TestAnalysis, item: ItemAnalysis) -> int:
    return next(at for at, other in enumerate(analysis.items, 1) if other is item)


def _problems(analysis: TestAnalysis) -> list[Piece]:
    troubled = [item for item in analysis.items if any(flag.weight == "problem" for flag in item.flags)]

    def urgency(item: ItemAnalysis) -> tuple[bool, float]:
        wrong = any(flag.flag == "possible_wrong_key" for flag in item.flags)
        return (not wrong, 0.0 if item.figures.r_rest is None else item.figures.r_rest)

    troubled.sort(key=urgency)
    pieces: list[Piece] = []
    for item in troubled[:MOST_NAMED]:
        name, said = f"Item {_number(analysis, item)}", {flag.flag: flag for flag in item.flags}
        if "possible_wrong_key" in said:
            flag = said["possible_wrong_key"]
            pieces += [
                Piece(f"{name} probably carries a wrong key", item=item.item.name, urgent=True),
                Piece(f": {flag.option}, not {' or '.join(item.item.keys)}, goes with doing well elsewhere. "),
            ]
        elif "possible_second_right_answer" in said:
            flag = said["possible_second_right_answer"]
            pieces += [
                Piece(f"{name} may have a second right answer", item=item.item.name, urgent=True),
                Piece(f", {flag.option}. "),
            ]
        else:
            pieces += [Piece(f"{name} works against the score", item=item.item.name, urgent=True), Piece(". ")]
    if len(troubled) > MOST_NAMED:
        more = len(troubled) - MOST_NAMED
        pieces.append(Piece(f"{more} more {'has' if more == 1 else 'have'} a problem. ", "sound"))
    return pieces


def _soundness(analysis: TestAnalysis) -> list[Piece]:
    judged = [item.sound for item in analysis.items]
    sound, look, open_ = judged.count(True), judged.count(False), judged.count(None)
    if open_ and not sound:
        pieces = [
            Piece(
                f"With {counted(analysis.counts['sat'] + analysis.counts['waiting'], 'student')} the {counted(len(judged), 'item')} cannot be "
                f"examined for discrimination; {analysis.settings.least_relation} are needed. ",
                "sound",
            )
        ]
        return pieces + ([Piece(f"{look} to review all the same. ", "sound")] if look else [])
    tail = f", {look} to review. " if look else ". "
    verb = "is" if sound == 1 else "are"
    return [Piece(f"Of {counted(len(judged), 'item')} "), Piece(str(sound), "sound"), Piece(f" {verb} sound{tail}")]
