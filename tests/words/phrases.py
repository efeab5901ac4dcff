"""Phrases that a native speaker of the trade would not say, each with what is said instead."""

from __future__ import annotations

import re
from collections.abc import Iterable

INSTEAD = {
    r"Leave it": "Cancel",
    r"[Bb]r(?:ing|ought) (?:one |it |them )?in\b": "Import",
    r"Take out\b": "Export, Remove",
    r"\b[Tt]aken? back\b": "Undo, Withdraw",
    r"Keep (?:these|the settings)": "Save",
    r"All is kept": "All changes saved",
    r"Throw (?:it )?away": "Discard draft",
    r"Another (?:row|level|hint|part|number)\b": "Add …",
    r"\b(?:Make|Give|Say) it\b": "Create, Assign, Post",
    r"Look through it|[Ss]ee what it would do": "Preview",
    r"\b[Gg]ot it\b": "correct",
    r"\b[Ss]eparates?\b(?! items)": "discrimination",
    r"With rest\b": "r (rest)",
    r"\b[Ww]ants? a look\b|First of all|What it lacks": "to review, main finding, gaps",
    r"Same mistakes|Teach again|Side by side": "Shared errors, Reteach, Compare",
    r"\bEverybody\b": "Directory, everyone",
    r"\bown codes?\b": "sign-in code",
    r"\b[Vv]eil(?:ed)?\b": "hide names",
    r"\bWorkings\b": "How this was calculated",
    r"\bstand-ins?\b": "simulated …",
    r"\b[Ss]ittings?\b": "attempt",
    r"\b(?:was|were|has|have|never|be) sat\b|\bsat (?:it|this|once|in|the)\b": "taken",
    r"\bhand(?:ed)? in\b|\b[Hh]anding in\b": "submitted",
    r"\bbegun\b": "started",
    r"\bmarkers?\b|[Mm]arked twice|marked by a person": "scorer, double-scored",
    r"\b[Ee]xemplars?\b": "anchor papers",
    r"control responses?|a third person": "pre-scored responses, adjudication",
    r"\bfederations?\b": "district",
    r"primary school|natural science|\b[Aa]utumn\b": "elementary school, science, fall",
    r"\b[Cc]ourse plans?\b|\b[Pp]ass lines?\b|lines by grade": "pacing guide, cut score, cut scores",
    r"door list|morning sheet|answer pads?": "room roster, day's testing schedule, response devices",
    r"\bexcused?\b|\bnewcomers?\b": "exempt, join requests",
    r"\bledgers?\b|[Rr]oundtable": "Mastery, Meetings",
    r"even-odds|safe target|like starters": "50 % target, 80 % target, same starting score",
    r"\bper cent\b|\d %": "percent, 62%",
    r"\b[Ww]hoever\b|\bsomebody\b|\bnobody\b": "who, someone, no one",
}

ALLOWED = {
    "not about items": r"separated by|[Ss]eparate (room|setting)",
    "the text of an item": r"^Item \d+: ",
    "a word of a file format, or of older files": r"sat, absent, exempt|^own code$",
    "code, not text": r"SELECT |^sitting:|^handed in$|bildung\.sitting|l\.sitting|import\(|(?:staff|r)\.veiled|sitting\.(?:left|closed|first|place|later|question)",
}


def misplaced(texts: Iterable[str]) -> list[str]:
    """A line for each phrase found in these texts, none of them twice."""
    found: dict[str, None] = {}
    for text in texts:
        if any(re.search(allowed, text) for allowed in ALLOWED.values()):
            continue
        for phrase, instead in INSTEAD.items():
            if re.search(phrase, text):
                found[f"“{' '.join(text.split())[:120]}”: say {instead}"] = None
    return list(found)
