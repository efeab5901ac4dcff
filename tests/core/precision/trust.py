"""What flags and findings do on sound data and on planted defects: the simulation behind docs/methods.md.

A form of 30 four-option items; students normal, items of the three-parameter model. Five items carry a
defect each, one item is taught worse in one of three classes, one favors one of two levels.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

import numpy as np

from bildung.core.classical.analysis import TestAnalysis, analyse
from bildung.core.comparison.compare import compare
from bildung.core.comparison.differential import differential
from bildung.core.data.arrays import FloatArray
from bildung.core.data.responses import FIRST, OMITTED, Answers, ItemColumn, Status, settle
from bildung.core.data.simulate import ItemParameters, simulate_choices

SIZES = (25, 60, 250, 1000)
FORMS = {25: 400, 60: 300, 250: 120, 1000: 60}
ITEMS, CLASSES = 30, 3
WRONG_KEY, SECOND, WEAK, IDLE, HARD, TAUGHT, FAVORS = 0, 1, 2, 3, 4, 5, 6
PLANTED = {
    "possible_wrong_key": WRONG_KEY,
    "possible_second_right_answer": SECOND,
    "weak_discrimination": WEAK,
    "idle_distractor": IDLE,
    "very_hard": HARD,
}
CALLS = (*PLANTED, "against_the_score", "attracts_the_strong", "rival_distractor", "raises_reliability_if_dropped")
LATER = 1.5  # log-odds by which the item is harder in one class, or for one level


@dataclass
class Tally:
    """forms; false: calls on the 23 sound items by flag; unsound: sound items called unsound; hits by flag or finding."""

    forms: int = 0
    unsound: int = 0
    findings: int = 0
    dif_false: int = 0

    def __post_init__(self) -> None:
        self.false: Counter[str] = Counter()
        self.hits: Counter[str] = Counter()


def simulate(n: int, rng: np.random.Generator) -> tuple[TestAnalysis, list[str], list[str]]:
    """One form; classes and levels of the students."""
    parameters = [
        ItemParameters(
            discrimination=float(np.clip(rng.lognormal(0.2, 0.25), 0.7, 2.2)),
            difficulty=float(np.clip(rng.normal(-0.3, 0.8), -2, 1.5)),
            guessing=0.15,
            right=0,
            pull=(0.0, *rng.uniform(0.6, 1.4, 3)),
            pull_by_ability=(0.0, *rng.normal(-0.05, 0.12, 3)),
        )
        for _ in range(ITEMS)
    ]
    parameters[WRONG_KEY] = ItemParameters(
        discrimination=1.3, difficulty=0.0, guessing=0.15, right=0, pull=(0, 1, 1, 1)
    )
    parameters[SECOND] = ItemParameters(discrimination=1.5, difficulty=-0.4, guessing=0.1, right=0, pull=(0, 1, 1, 1))
    parameters[WEAK] = ItemParameters(discrimination=0.05, difficulty=0.0, guessing=0.2, right=0, pull=(0, 1, 1, 1))
    parameters[IDLE] = ItemParameters(discrimination=1.2, difficulty=0.3, guessing=0.15, right=0, pull=(0, 1, 1, 0.01))
    parameters[HARD] = ItemParameters(discrimination=1.0, difficulty=2.8, guessing=0.08, right=0, pull=(0, 1, 1, 1))
    parameters[TAUGHT] = parameters[FAVORS] = ItemParameters(
        discrimination=1.2, difficulty=-0.3, guessing=0.1, right=0, pull=(0, 1, 1, 1)
    )
    ability = rng.standard_normal(n)
    classes, levels = np.arange(n) % CLASSES, np.arange(n) // CLASSES % 2
    chosen = simulate_choices(ability, parameters, rng, 0.02)
    for at, harder in ((TAUGHT, classes == 1), (FAVORS, levels == 1)):
        p = parameters[at]
        shifted = ItemParameters(
            discrimination=p.discrimination,
            difficulty=p.difficulty + LATER / p.discrimination,
            guessing=p.guessing,
            right=0,
            pull=p.pull,
        )
        chosen[at] = np.where(harder, simulate_choices(ability, [shifted], rng)[0], chosen[at])
    right = chosen[SECOND] == 0
    chosen[SECOND] = np.where(right & (rng.random(n) < 0.5), 1, chosen[SECOND])
    return _analysis(chosen), [f"c{c}" for c in classes], [f"l{v}" for v in levels]


def _analysis(chosen: list[np.ndarray[tuple[int, ...], np.dtype[np.int64]]]) -> TestAnalysis:
    items, answers = [], []
    for at, choice in enumerate(chosen):
        key = 1 if at == WRONG_KEY else 0
        points: FloatArray = (np.arange(4) == key).astype(float)
        items.append(ItemColumn(name=f"i{at}", kind="choice", points=1.0, options=tuple("ABCD"), keys=("ABCD"[key],)))
        answers.append(Answers(np.where(choice < 0, OMITTED, choice + FIRST).astype(np.uint8), tuple("ABCD"), points))
    return analyse(settle(items, answers, np.full(chosen[0].size, Status.SAT, dtype=np.uint8)))


def run(n: int, forms: int, seed: int = 20260803) -> Tally:
    rng, tally = np.random.default_rng([seed, n]), Tally()
    for _ in range(forms):
        analysis, classes, levels = simulate(n, rng)
        counted = np.ones(analysis.table.n, bool)
        tally.forms += 1
        for at, item in enumerate(analysis.items):
            flags = {flag.flag for flag in item.flags}
            if at > FAVORS:
                tally.false.update(flags & set(CALLS))
                tally.unsound += item.sound is False
        for flag, at in PLANTED.items():
            tally.hits[flag] += flag in {f.flag for f in analysis.items[at].flags}
        labels = [c for c, here in zip(classes, counted, strict=True) if here]
        for found in compare(analysis, labels, analysis.table.counted).findings:
            if found.finding == "low_in_one" and (found.item, found.group) == (f"i{TAUGHT}", "c1"):
                tally.hits["low_in_one"] += 1
            elif found.finding == "large_but_unproven" and (found.item, found.group) == (f"i{TAUGHT}", "c1"):
                tally.hits["large_but_unproven"] += 1
            elif found.finding in ("low_in_one", "high_in_one") and int(found.item[1:]) > FAVORS:
                tally.findings += 1
        if n >= 400:
            for dif in differential(analysis, levels, analysis.table.counted).items:
                at = int(dif.item[1:])
                tally.hits["class_c"] += dif.size == "C" and at == FAVORS
                tally.dif_false += dif.size == "C" and at > FAVORS
    return tally


def table(tallies: dict[int, Tally]) -> str:
    """As docs/methods.md prints it."""
    sizes = list(tallies)
    lines = [
        "| planted, and what should say so | " + " | ".join(f"n = {n:,}" for n in sizes) + " |",
        "|---|" + "---|" * len(sizes),
    ]
    names = {
        "possible_wrong_key": "a wrong key: possible wrong key",
        "possible_second_right_answer": "two right answers: possible second right answer",
        "weak_discrimination": "an item that measures nothing: weak discrimination",
        "very_hard": "a very hard item: very hard",
        "idle_distractor": "an idle distractor: idle distractor",
        "low_in_one": "taught worse in one of three classes: low in one",
        "large_but_unproven": "the same, at least: large but unproven",
        "class_c": "favors one of two levels: class C",
    }
    for name, words in names.items():
        cells = [
            "–" if name == "class_c" and n < 400 else f"{100 * t.hits[name] / t.forms:.0f}%" for n, t in tallies.items()
        ]
        lines.append(f"| {words} | " + " | ".join(cells) + " |")
    lines += [
        "",
        "| called on 23 sound items, per form | " + " | ".join(f"n = {n:,}" for n in sizes) + " |",
        "|---|" + "---|" * len(sizes),
    ]
    for name in CALLS:
        cells = [f"{t.false[name] / t.forms:.2f}" for t in tallies.values()]
        lines.append(f"| {name.replace('_', ' ')} | " + " | ".join(cells) + " |")
    lines.append(
        "| not sound, for any problem or look | "
        + " | ".join(f"{t.unsound / t.forms:.2f}" for t in tallies.values())
        + " |"
    )
    lines.append(
        "| low or high in one of three classes | "
        + " | ".join(f"{t.findings / t.forms:.2f}" for t in tallies.values())
        + " |"
    )
    lines.append(
        "| class C of differential functioning | "
        + " | ".join("–" if n < 400 else f"{t.dif_false / t.forms:.2f}" for n, t in tallies.items())
        + " |"
    )
    return "\n".join(lines)
