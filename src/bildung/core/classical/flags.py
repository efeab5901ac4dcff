"""Flags: what about an item wants a look, with the numbers that raised it (methods.md, section 2)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from bildung.core.classical.intervals import fisher_bound, wilson
from bildung.core.classical.items import ItemStatistics
from bildung.core.classical.options import OptionRow
from bildung.core.classical.settings import Settings
from bildung.core.data.responses import ItemColumn
from bildung.core.items.shown import coefficient, percent, signed

Weight = Literal["problem", "look", "note"]

WEIGHTS: dict[str, Weight] = {
    "possible_wrong_key": "problem",
    "against_the_score": "problem",
    "possible_second_right_answer": "problem",
    "weak_discrimination": "look",
    "attracts_the_strong": "look",
    "rival_distractor": "look",
    "very_hard": "look",
    "often_omitted": "look",
    "often_not_reached": "look",
    "raises_reliability_if_dropped": "look",
    "draws_differ": "look",
    "below_the_watch_line": "note",
    "very_easy": "note",
    "idle_distractor": "note",
}


@dataclass(frozen=True)
class Flag:
    """One flag. option: the answer it is about, if any. why: a sentence with the numbers, ending in what to do."""

    flag: str
    weight: Weight
    why: str
    option: str | None = None


class _Judge:
    """Collects the flags of one item."""

    def __init__(self, small: bool) -> None:
        self.flags: list[Flag] = []
        self.small = small

    def add(self, flag: str, why: str, option: str | None = None) -> None:
        caution = " The sample is small." if self.small else ""
        self.flags.append(Flag(flag, WEIGHTS[flag], why + caution, option))

    def has(self, flag: str, option: str | None = None) -> bool:
        return any(f.flag == flag and f.option == option for f in self.flags)


def by_weight(flags: Iterable[Flag]) -> tuple[Flag, ...]:
    """Heaviest first, otherwise as they come."""
    order = {"problem": 0, "look": 1, "note": 2}
    return tuple(sorted(flags, key=lambda f: order[f.weight]))


def judge(
    item: ItemColumn,
    figures: ItemStatistics,
    options: tuple[OptionRow, ...],
    alpha: float | None,
    alpha_without: float | None,
    settings: Settings,
) -> tuple[tuple[Flag, ...], bool | None]:
    """The item's flags, heaviest first, and whether it is sound (None: too few students to examine it)."""
    found = _Judge(figures.n < settings.small_sample)
    related = figures.n_r >= settings.least_relation
    described = figures.n >= settings.least_description
    wrong = [row for row in options if item.kind == "choice" and row.option and not row.is_key]
    if related:
        _by_correlation(found, figures, wrong, settings)
    if described:
        _by_description(found, item, figures, options, wrong, settings)
    if related and alpha is not None and alpha_without is not None and alpha_without - alpha > settings.alpha_gain:
        found.add(
            "raises_reliability_if_dropped",
            f"Without it alpha would be {coefficient(alpha_without, 3)} instead of {coefficient(alpha, 3)}. "
            "Look at what it asks beside the others.",
        )
    flags = by_weight(found.flags)
    unsound = any(f.weight != "note" for f in flags)
    return flags, False if unsound else True if related else None


def _by_correlation(found: _Judge, figures: ItemStatistics, wrong: list[OptionRow], settings: Settings) -> None:
    n, key_r = figures.n_r, figures.r_rest
    # where nobody chose the key there is no correlation to compare with
    compare = 0.0 if key_r is None else key_r
    for row in wrong:
        r = row.r_rest
        if (
            r is not None
            and row.n >= settings.least_option
            and (r >= settings.wrong_key_r and r - compare >= settings.wrong_key_gap)
        ):
            found.add(
                "possible_wrong_key",
                f"{row.option} goes with doing well elsewhere ({signed(r)}), the keyed answer does not "
                f"({signed(compare)}). Check the key.",
                row.option,
            )
    if key_r is not None and fisher_bound(key_r, n, 1) < 0:
        found.add(
            "against_the_score",
            f"Students with the correct answer did worse elsewhere ({signed(key_r)}, at most "
            f"{signed(fisher_bound(key_r, n, 1))}). Check key and wording before it counts.",
        )
    for row in wrong:
        if (
            row.r_rest is not None
            and row.share is not None
            and row.share >= settings.second_answer_share
            and key_r is not None
            and fisher_bound(row.r_rest, n, -1) > 0
            and fisher_bound(key_r, n, -1) > 0
        ):
            found.add(
                "possible_second_right_answer",
                f"{row.option} was chosen by {percent(row.share)} and, like the key, goes with doing well elsewhere "
                f"({signed(row.r_rest)} and {signed(key_r)}). Ask whether it can be defended.",
                row.option,
            )
    if key_r is not None and fisher_bound(key_r, n, 1) < settings.weak_r:
        found.add(
            "weak_discrimination",
            f"It hardly discriminates ({signed(key_r)}, at most {signed(fisher_bound(key_r, n, 1))}). "
            "Read it as a student would.",
        )
    for row in wrong:
        stronger = ("possible_wrong_key", "possible_second_right_answer")
        if (
            row.r_rest is not None
            and row.n >= settings.least_option
            and fisher_bound(row.r_rest, n, -1) > 0
            and not any(found.has(flag, row.option) for flag in stronger)
        ):
            found.add(
                "attracts_the_strong",
                f"{row.option} goes with doing well elsewhere ({signed(row.r_rest)}). "
                "Look at what makes it attractive.",
                row.option,
            )


def _by_description(
    found: _Judge,
    item: ItemColumn,
    figures: ItemStatistics,
    options: tuple[OptionRow, ...],
    wrong: list[OptionRow],
    settings: Settings,
) -> None:
    keyed = sum(row.n for row in options if row.is_key)
    for row in wrong:
        if row.n > keyed:
            found.add(
                "rival_distractor",
                f"{row.option} was chosen by {row.n}, the key by {keyed}. Find out what they had in mind.",
                row.option,
            )
    p = figures.p
    if p is not None and p < settings.very_hard:
        found.add("very_hard", f"Only {percent(p)} of the points were earned. Was it taught, is it clear?")
    omitted, presented = figures.n_omitted, figures.presented
    if presented and omitted / presented > settings.omitted_share:
        found.add(
            "often_omitted",
            f"{omitted} of {presented} left it blank and went on. Look for wording that puts off.",
        )
    if presented and figures.n_not_reached / presented > settings.not_reached_share:
        found.add(
            "often_not_reached",
            f"{figures.n_not_reached} of {presented} did not get to it. Allow more time or shorten the test.",
        )
    if p is not None and p < settings.watch_line:
        found.add("below_the_watch_line", f"{percent(p)}, under the watch line of {percent(settings.watch_line)}.")
    if p is not None and p > settings.very_easy:
        found.add("very_easy", f"{percent(p)} of the points were earned: it tells little about anybody.")
    for row in wrong:
        if figures.n and wilson(row.n, figures.n)[1] < settings.idle_share:
            found.add(
                "idle_distractor",
                f"{row.option} was chosen by {row.n} of {figures.n}. Replace it with a mistake students make.",
                row.option,
            )
