"""Writes docs/methods.md from the texts of core/figures.py and docs/trust.md: `python -m tests.methods_page [--trust]`.

With --trust the simulation of tests/core/trust.py is run again first (about a minute).
"""

from __future__ import annotations

import sys
from pathlib import Path

from bildung.core.classical.flags import WEIGHTS
from bildung.core.classical.settings import DEFAULTS
from bildung.core.explain.figures import FIGURES
from tests.core.precision.trust import FORMS, SIZES, run, table

DOCS = Path(__file__).parents[1] / "docs"
COUNTING = """A denominator is never implicit: every figure carries the number of students it rests on, and its workings name who
was left out and why.

- **Sat** counts. **Absent**, **exempt** and **void** never do. A sitting **without any answer** is not counted until
  somebody says whether the student was there. A sitting with a response that **awaits its score** is in the figures of its
  scored items, and has no total.
- A blank with an answer later in the same part is **omitted**: 0 points, and a row of its own among the answers. So is the
  first blank after the part's last answer. Every blank after that is **not reached**: 0 points toward the total, and out of
  the item's n. An item that was **not presented** is neither earned nor possible.
- Students with equal scores at the boundary of a group (27%, fifths) are in it in part, so that no figure depends on the
  order of rows.
- Where students had different forms, the rest score is the share of the other points.
"""


def page(trust: str) -> str:
    parts = [
        "# What the figures mean",
        "This page and the workings panel of the application take their words from one place. Notation: students i = 1..N, "
        "items j = 1..k, xᵢⱼ points earned, mⱼ the most that item j gives, Xᵢ a student's total.",
        "## Who is counted",
        COUNTING,
    ]
    for chapter in dict.fromkeys(figure.chapter for figure in FIGURES.values()):
        parts.append(f"## {chapter}")
        for figure in FIGURES.values():
            if figure.chapter == chapter:
                lines = [f"### {figure.title}", figure.plain, f"`{figure.formula}`"]
                if figure.source:
                    lines.append(f"Source: {figure.source}.")
                if figure.caution:
                    lines.append(f"*Cautions:* {figure.caution}")
                parts.append("\n\n".join(lines))
    s = DEFAULTS
    parts += [
        "## Flags",
        "A **problem** wants somebody to act, a **look** wants somebody to look, a **note** wants nobody's time yet. An item is "
        "sound when it has no problem and no look. Bounds are one-sided 95% by Fisher's z. All limits are settings; these are "
        f"the defaults. Flags that describe need {s.least_description} students and say below {s.small_sample} that the sample "
        f"is small; those that rest on a correlation or on alpha need {s.least_relation}.",
        "\n".join(["| flag | weight | raised when |", "|---|---|---|", *_flags()]),
        "## How far to trust a flag",
        "Simulated forms of 30 items with known truth (three-parameter items, four options). The first table says how often a "
        "planted defect is called, the second how often something sound is. "
        f"Forms: {', '.join(f'{FORMS[n]} at n = {n:,}' for n in SIZES)}.",
        trust.strip(),
        "In words. With one class of 25 a missing flag means little, a look is as often chance as not, and about one form in "
        "four calls a sound key wrong: read the item before you change anything. With 60 students a called wrong key is worth "
        "an hour at once. An idle distractor cannot be called before about 75 students, however idle. With 250 the wrong key, "
        "the item that measures nothing and the very hard one are found nearly always; a second right answer in one form of "
        "three, and in two of three with 1,000, because two answers that share the strong students weaken each other. *Low in "
        "one* hardly ever cries wolf and, in classes of 20 and fewer, stays silent: that is what *large but unproven* is for.",
    ]
    parts += ["## How far to trust what is said of growth", (DOCS / "growth-rates.md").read_text("utf-8").strip()]
    parts += ["## How far to trust a state of mastery", (DOCS / "mastery-rates.md").read_text("utf-8").strip()]
    return "\n\n".join(part.strip() for part in parts) + "\n"


def _flags() -> list[str]:
    s = DEFAULTS
    rules = {
        "possible_wrong_key": f"a wrong option with n ≥ {s.least_option}, r with rest ≥ {s.wrong_key_r:g} and {s.wrong_key_gap:g} above the key's",
        "against_the_score": "upper bound of the key's r below 0",
        "possible_second_right_answer": f"a wrong option with share ≥ {s.second_answer_share:g}, lower bound of its r above 0, and of the key's",
        "weak_discrimination": f"upper bound of r below {s.weak_r:g}",
        "attracts_the_strong": f"a wrong option with n ≥ {s.least_option} and lower bound of its r above 0, without the flags above",
        "rival_distractor": "a wrong option chosen by more than the key",
        "very_hard": f"p below {s.very_hard:g}",
        "often_omitted": f"more than {s.omitted_share:g} of those presented",
        "often_not_reached": f"more than {s.not_reached_share:g} of those presented",
        "raises_reliability_if_dropped": f"alpha drop the item higher by more than {s.alpha_gain:g}",
        "draws_differ": "drawn copies of a template differ, χ² with p < 0.01",
        "below_the_watch_line": f"p below {s.watch_line:g}",
        "very_easy": f"p above {s.very_easy:g}",
        "idle_distractor": f"upper 95% bound of a wrong option's share below {s.idle_share:g}",
    }
    return [f"| {flag.replace('_', ' ')} | {weight} | {rules[flag]} |" for flag, weight in WEIGHTS.items()]


if __name__ == "__main__":
    if "--trust" in sys.argv:
        (DOCS / "trust.md").write_text(table({n: run(n, FORMS[n]) for n in SIZES}) + "\n", "utf-8")
    (DOCS / "methods.md").write_text(page((DOCS / "trust.md").read_text("utf-8")), "utf-8")
