"""Small helpers from which the makers put items together."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from bildung.formats.content import Content, kind_of, read_content
from bildung.formats.faults import faults
from bildung.formats.itemlist import ItemRecord, StimulusRecord, Tags

LETTERS = "ABCDEFGH"
Wrong = Sequence[str | tuple[str, str]]  # a wrong answer, or one with what somebody thinks who gives it


@dataclass(kw_only=True)
class Maker:
    """Gathers the items of one subject and grade. prefix: of codes, such as M3. bank: of standards, such as BAF."""

    prefix: str
    subject: str
    grade: str
    rng: random.Random
    items: list[ItemRecord] = field(default_factory=list)

    def put(
        self,
        standard: str,
        content: dict[str, Any],
        depth: int = 1,
        topic: str = "",
        seconds: int = 60,
        stimulus: StimulusRecord | None = None,
        labels: tuple[str, ...] = (),
        media: dict[str, bytes] | None = None,
    ) -> ItemRecord:
        made: Content = read_content(content)
        found = faults(made)
        if found:
            raise ValueError(f"{self.prefix} {standard}: {found[0]} in {made.shown.body}")
        code = f"{self.prefix}-{len(self.items) + 101}"
        source = "" if kind_of(made.shown, made.scoring) == "choice" else "spring workshop"
        tags = Tags(
            depth=depth,
            topic=topic,
            unit="",
            language="en",
            calculator="none" if self.subject == "Mathematics" else "",
            seconds=seconds,
            source=source,
            labels=labels,
        )
        record = ItemRecord(
            code=code,
            content=made,
            standards=(f"BAF-{standard}",),
            subject=self.subject,
            grade=self.grade,
            tags=tags,
            stimulus=stimulus,
            media=media or {},
            place=f"demo {code}",
        )
        self.items.append(record)
        return record


def choice(rng: random.Random, body: str, right: str, wrong: Wrong, solution: str = "", **shown: Any) -> dict[str, Any]:
    """One right answer among shuffled others, with notes on the wrong ones where there are any."""
    texts = [(right, "")] + [(w, "") if isinstance(w, str) else w for w in wrong]
    rng.shuffle(texts)
    options = [{"id": LETTERS[at], "html": text} for at, (text, _) in enumerate(texts)]
    key = next(o["id"] for o in options if o["html"] == right)
    notes = [{"answer": LETTERS[at], "note": note} for at, (_, note) in enumerate(texts) if note]
    return whole(body, {"type": "choice", "options": options}, {"key": key}, notes, solution, **shown)


def several(
    rng: random.Random, body: str, right: Sequence[str], wrong: Sequence[str], partial: bool = True
) -> dict[str, Any]:
    texts = [*right, *wrong]
    rng.shuffle(texts)
    options = [{"id": LETTERS[at], "html": text} for at, text in enumerate(texts)]
    key = "+".join(o["id"] for o in options if o["html"] in right)
    return whole(body, {"type": "choice", "most": 0, "options": options}, {"key": key, "points": 2, "partial": partial})


def number(
    body: str, key: str, unit: str = "", notes: Sequence[tuple[str, str]] = (), solution: str = "", **shown: Any
) -> dict[str, Any]:
    found = [{"answer": answer, "note": note} for answer, note in notes]
    return whole(body, {"type": "entry", "numeric": True, "unit": unit}, {"key": key}, found, solution, **shown)


def order(rng: random.Random, body: str, right: Sequence[str]) -> dict[str, Any]:
    """Things in their right order, shown in another one."""
    places = list(range(len(right)))
    while places == sorted(places):
        rng.shuffle(places)
    options = [{"id": f"o{at + 1}", "html": right[place]} for at, place in enumerate(places)]
    key = ">".join(f"o{places.index(at) + 1}" for at in range(len(right)))
    return whole(body, {"type": "order", "options": options}, {"key": key, "points": 2, "partial": True})


def match(rng: random.Random, body: str, pairs: Sequence[tuple[str, str]], sort: bool = False) -> dict[str, Any]:
    """Rows with where each belongs; sort: as things to drag into categories."""
    rows = list(pairs)
    rng.shuffle(rows)
    columns = list(dict.fromkeys(column for _, column in pairs))
    if not sort:
        rng.shuffle(columns)
    part = {
        "type": "match",
        "sorted_into": sort,
        "rows": [{"id": f"r{at + 1}", "html": row} for at, (row, _) in enumerate(rows)],
        "columns": [{"id": f"c{at + 1}", "html": column} for at, column in enumerate(columns)],
    }
    key = ";".join(f"r{at + 1}=c{columns.index(column) + 1}" for at, (_, column) in enumerate(rows))
    return whole(body, part, {"key": key, "points": 2, "partial": True})


def pick(body: str, pieces: Sequence[tuple[str, bool]], most: int = 1) -> dict[str, Any]:
    """Pieces of a text, each with whether it is to be picked; a piece that ends in a blank stays outside."""
    text = " ".join(f'<span data-pick="w{at}">{piece}</span>' for at, (piece, _) in enumerate(pieces, 1))
    key = "+".join(f"w{at}" for at, (_, right) in enumerate(pieces, 1) if right)
    return whole(body, {"type": "hot_text", "most": most, "text": f"<p>{text}</p>"}, {"key": key})


def line(body: str, low: float, high: float, step: float, every: float, key: str) -> dict[str, Any]:
    return whole(body, {"type": "line", "low": low, "high": high, "step": step, "every": every}, {"key": key})


def gaps(body: str, keys: dict[str, str | tuple[str, ...]]) -> dict[str, Any]:
    """A text with `{name}` for each gap. A text as key: a number to write; several: a menu, its right one first."""
    parts, scoring = [], []
    for name, key in keys.items():
        body = body.replace(f"{{{name}}}", f'<span data-gap="{name}"></span>')
        if isinstance(key, str):
            parts.append({"id": name, "type": "entry", "numeric": True, "inline": True, "width": 4})
            scoring.append({"id": name, "key": key})
        else:
            shown = sorted(key)
            parts.append(
                {
                    "id": name,
                    "type": "menu",
                    "options": [{"id": LETTERS[at], "html": text} for at, text in enumerate(shown)],
                }
            )
            scoring.append({"id": name, "key": LETTERS[shown.index(key[0])]})
    return {"shown": {"body": body, "parts": parts}, "scoring": scoring}


def reason(base: dict[str, Any], asked: str = "<p>How do you know?</p>") -> dict[str, Any]:
    """A choice with a written reason beside it."""
    base["shown"]["parts"].append(
        {"id": "2", "type": "writing", "beside": "1", "lines": 3, "longest": 600, "prompt": asked}
    )
    base["scoring"].append({"id": "2", "points": 0})
    return base


def two_part(body: str, first: dict[str, Any], second: dict[str, Any], depends: bool = True) -> dict[str, Any]:
    """Two items as parts of one, their texts as the parts' questions."""
    parts, scoring = [], []
    for at, one in enumerate((first, second), 1):
        parts.append({**one["shown"]["parts"][0], "id": str(at), "prompt": one["shown"]["body"]})
        scoring.append({**one["scoring"][0], "id": str(at)})
    if depends:
        scoring[1]["needs"] = "1"
    return {"shown": {"body": body, "parts": parts}, "scoring": scoring}


def writing(body: str, criteria: Sequence[tuple[str, Sequence[str]]], exemplar: str, lines: int = 8) -> dict[str, Any]:
    """criteria: title and what earns 0, 1, 2 … points."""
    rubric = [
        {"title": title, "levels": [{"points": at, "text": text} for at, text in enumerate(levels)]}
        for title, levels in criteria
    ]
    points = [len(levels) - 1 for _, levels in criteria]
    scoring = {
        "points": sum(points),
        "rubric": rubric,
        "exemplars": [{"answer": exemplar, "points": points, "why": "all that is asked for"}],
    }
    return whole(body, {"type": "writing", "lines": lines}, scoring)


def whole(
    body: str,
    part: dict[str, Any],
    scoring: dict[str, Any],
    notes: Sequence[dict[str, str]] = (),
    solution: str = "",
    **shown: Any,
) -> dict[str, Any]:
    if not body.startswith("<"):
        body = f"<p>{body}</p>"
    behind = {"misconceptions": list(notes), "solution": f"<p>{solution}</p>" if solution else ""}
    return {"shown": {"body": body, "parts": [part], **shown}, "scoring": [scoring], "behind": behind}


def fraction(top: int, bottom: int) -> str:
    return f"<math><mfrac><mn>{top}</mn><mn>{bottom}</mn></mfrac></math>"


def table(head: Sequence[str], rows: Sequence[Sequence[object]]) -> str:
    top = "".join(f'<th scope="col">{cell}</th>' for cell in head)
    body = "".join("<tr>" + "".join(f"<td>{cell}</td>" for cell in row) + "</tr>" for row in rows)
    return f"<table><thead><tr>{top}</tr></thead><tbody>{body}</tbody></table>"


def some_wrong(rng: random.Random, right: int, *wrong: tuple[int, str], low: int = 0) -> list[tuple[str, str]]:
    """Three wrong numbers: the named mistakes that differ, then neighbors."""
    found: dict[int, str] = {}
    for value, note in wrong:
        if value != right and value >= low and value not in found:
            found[value] = note
    step = 1
    while len(found) < 3:
        for value in (right + step, right - step):
            if value not in found and value != right and value >= low and len(found) < 3:
                found[value] = ""
        step += rng.choice((1, 2))
    return [(str(value), note) for value, note in list(found.items())[:3]]
