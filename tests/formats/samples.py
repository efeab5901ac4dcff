"""One whole item of every kind, for tests of formats, services and pages."""

from __future__ import annotations

from typing import Any

from bildung.formats.content import Content, read_content
from bildung.formats.itemlist import ItemRecord, StimulusRecord, Tags

HALF = "<math><mfrac><mn>1</mn><mn>2</mn></mfrac></math>"
PICTURE = "0123456789abcdef01234567"


def _options(*texts: str, names: str = "ABCDEFGH") -> list[dict[str, str]]:
    return [{"id": names[at], "html": text} for at, text in enumerate(texts)]


def _one(body: str, part: dict[str, Any], scoring: dict[str, Any], **behind: Any) -> Content:
    return read_content({"shown": {"body": body, "parts": [part]}, "scoring": [scoring], "behind": behind})


RUBRIC = [
    {"title": "Claim", "levels": [{"points": 0, "text": "none"}, {"points": 1, "text": "a claim"}]},
    {
        "title": "Reasons",
        "levels": [{"points": 0, "text": "none"}, {"points": 1, "text": "one"}, {"points": 2, "text": "two & more"}],
    },
]

ITEMS: dict[str, Content] = {
    "choice": _one(
        f"<p>Which is {HALF}?</p>",
        {"type": "choice", "options": _options("2/4", "<b>2</b>/3", "4 &lt; 5")},
        {"key": "A|B", "points": 2},
        misconceptions=[{"answer": "C", "note": "compares instead", "link": "M6.1"}],
        solution="<p>Halve it.</p>",
        hints=["<p>Draw it.</p>"],
    ),
    "multiple": _one(
        "<p>Which are even?</p>",
        {"type": "choice", "most": 0, "options": _options("2", "3", "4", "6")},
        {"key": "A+C+D", "points": 3, "partial": True},
    ),
    "numeric": _one(
        "<p>How long?</p>", {"type": "entry", "numeric": True, "unit": "cm"}, {"key": "14.6~0.1", "points": 1}
    ),
    "text": _one(
        "<p>The capital?</p>", {"type": "entry"}, {"key": "Skerrow|the Skerrow", "points": 1, "spelling": "exact"}
    ),
    "gap": _one(
        '<p>3 + <span data-gap="1"></span> = 5</p>',
        {"type": "entry", "numeric": True, "inline": True, "width": 4},
        {"key": "2"},
    ),
    "inline_choice": read_content(
        {
            "shown": {
                "body": '<p>It <span data-gap="a"></span> and <span data-gap="b"></span>.</p>',
                "parts": [
                    {"id": "a", "type": "menu", "options": _options("sinks", "floats")},
                    {"id": "b", "type": "menu", "options": _options("melts", "dries")},
                ],
            },
            "scoring": [{"id": "a", "key": "B"}, {"id": "b", "key": "A"}],
        }
    ),
    "order": _one(
        "<p>Smallest first.</p>",
        {"type": "order", "options": _options("3", "1", "2", names="xyz")},
        {"key": "y>z>x", "points": 2},
    ),
    "match": _one(
        "<p>Match.</p>",
        {
            "type": "match",
            "rows": _options("ebb", "flood", names="rs"),
            "columns": _options("out", "in", "still", names="uvw"),
        },
        {"key": "r=u;s=v", "points": 2, "partial": True},
    ),
    "category": _one(
        "<p>Sort.</p>",
        {
            "type": "match",
            "sorted_into": True,
            "rows": _options("crab", "gull", "kelp", names="rst"),
            "columns": _options("animal", "plant", names="uv"),
        },
        {"key": "r=u;s=u;t=v", "points": 3},
    ),
    "hot_text": _one(
        "<p>Pick the verb.</p>",
        {
            "type": "hot_text",
            "most": 1,
            "text": '<p><span data-pick="w1">She</span> <span data-pick="w2">rows</span> home.</p>',
        },
        {"key": "w2"},
    ),
    "line": _one(
        "<p>Where is 3/4?</p>", {"type": "line", "low": 0, "high": 1, "step": 0.05, "every": 0.25}, {"key": "0.75~0.05"}
    ),
    "point": _one(
        "<p>Where is the pier?</p>",
        {"type": "point", "picture": PICTURE, "told": "a map of the harbor", "width": 400, "height": 300},
        {"key": "circle 120 80 20|rect 300 10 380 60|poly 0 0 50 0 50 50"},
    ),
    "writing": _one(
        "<p>Should the ferry stop at night?</p>",
        {"type": "writing", "lines": 8},
        {
            "points": 3,
            "rubric": RUBRIC,
            "exemplars": [{"answer": "Yes.\nBecause of sleep.", "points": [1, 1], "why": "one reason"}],
        },
    ),
    "reason": read_content(
        {
            "shown": {
                "body": "<p>Which is larger?</p>",
                "parts": [
                    {"type": "choice", "options": _options("0.3", "0.25")},
                    {"id": "2", "type": "writing", "beside": "1", "lines": 2, "prompt": "<p>How do you know?</p>"},
                ],
            },
            "scoring": [{"key": "A"}, {"id": "2", "points": 0}],
        }
    ),
    "two_part": read_content(
        {
            "shown": {
                "body": "<p>About the tide.</p>",
                "parts": [
                    {"type": "choice", "prompt": "<p>What does he feel?</p>", "options": _options("joy", "fear")},
                    {
                        "id": "2",
                        "type": "choice",
                        "prompt": "<p>What shows it?</p>",
                        "options": _options("he ran", "he sang"),
                    },
                ],
            },
            "scoring": [{"key": "B"}, {"id": "2", "key": "A", "needs": "1"}],
        }
    ),
    "several": read_content(
        {
            "shown": {
                "body": "<p>A boat.</p>",
                "parts": [
                    {"type": "entry", "numeric": True, "prompt": "<p>How many?</p>"},
                    {
                        "id": "2",
                        "type": "order",
                        "prompt": "<p>In order.</p>",
                        "options": _options("a", "b", names="xy"),
                    },
                    {"id": "3", "type": "writing", "prompt": "<p>Why?</p>"},
                ],
            },
            "scoring": [{"key": "4"}, {"id": "2", "key": "y>x"}, {"id": "3", "points": 3, "rubric": RUBRIC}],
        }
    ),
}
RIGHT: dict[str, str] = {
    "choice": "B",
    "multiple": "A+C+D",
    "numeric": "14.55",
    "text": "Skerrow",
    "gap": "2",
    "inline_choice": '{"a":"B","b":"A"}',
    "order": "y>z>x",
    "match": "r=u;s=v",
    "category": "t=v;r=u;s=u",
    "hot_text": "w2",
    "line": "0.8",
    "point": "121 81",
    "writing": "Yes, it should.",
    "reason": '{"1":"A","2":"three tenths"}',
    "two_part": '{"1":"B","2":"A"}',
    "several": '{"1":"4","2":"y>x","3":"So."}',
}
STIMULUS = StimulusRecord(
    code="P-1",
    title="The tide",
    kind="passage",
    html="<p>The tide came in.</p><p>It went out &amp; in.</p>",
    numbered=True,
    credit="the district",
)
TAGS = Tags(
    depth=2,
    topic="tides & boats",
    unit="Unit 2: Water",
    language="en",
    calculator="none",
    seconds=90,
    source="spring workshop",
    labels=("harbor", "short"),
)


def records() -> list[ItemRecord]:
    """All of them, tagged; the passage belongs to two."""
    return [
        ItemRecord(
            code=f"ALL-{kind}",
            content=content,
            standards=("BAF-M6.1", "BAF-M6.2"),
            subject="Mathematics",
            grade="6",
            tags=TAGS,
            stimulus=STIMULUS if kind in ("two_part", "writing") else None,
        )
        for kind, content in ITEMS.items()
    ]
