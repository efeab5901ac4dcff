"""One QTI item or stimulus, in: from its tree to what the bank keeps."""

from __future__ import annotations

import re
from copy import deepcopy
from dataclasses import dataclass, field
from typing import Any

from bildung.core.errors import Refused
from bildung.formats.content import Content, read_content
from bildung.formats.faults import faults
from bildung.formats.itemlist import ItemRecord, StimulusRecord, Tags
from bildung.formats.markup import bare_text, safe_html
from bildung.formats.problem import ImportProblem
from bildung.formats.qti.credit import (
    NEAR,
    CannotKeep,
    Mapping,
    areas_of,
    is_even,
    mapping_of,
    number,
    own_rules,
    set_points,
)
from bildung.formats.qti.tree import inside
from bildung.formats.sheet import whole

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
READ = (
    "choice",
    "inline-choice",
    "text-entry",
    "extended-text",
    "order",
    "match",
    "gap-match",
    "hottext",
    "slider",
    "select-point",
)
_INLINE = ("qti-text-entry-interaction", "qti-inline-choice-interaction")


@dataclass(frozen=True)
class Unread:
    """An item that was well-formed and cannot be kept here, with the reason."""

    code: str
    place: str
    why: str


@dataclass(kw_only=True)
class _Reading:
    """What is gathered while an item's body is walked."""

    root: Any
    place: str
    parts: list[dict[str, Any]] = field(default_factory=list)
    scoring: list[dict[str, Any]] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)
    names: dict[str, str] = field(default_factory=dict)


def read_item(
    place: str, root: Any, standards: tuple[str, ...], tags: Tags, subject: str, grade: str
) -> ItemRecord | Unread:
    """root: with the names of 3.0. ImportProblem where the file is not an item at all."""
    if root.tag != "qti-assessment-item":
        raise ImportProblem(
            file=place, found=f"<{root.tag}>", allowed="an assessment item of QTI 3.0, 2.2 or 2.1", line=root.sourceline
        )
    code = str(root.get("identifier", "")).strip()
    if not code:
        raise ImportProblem(file=place, found="no identifier", allowed="each item has one", line=root.sourceline)
    body = root.find("qti-item-body")
    if body is None:
        raise ImportProblem(file=place, found="no item body", allowed="each item has one", line=root.sourceline)
    reading = _Reading(root=root, place=place)
    try:
        content = _content(reading, deepcopy(body))
    except (CannotKeep, Refused) as error:
        return Unread(code, place, str(error))
    found = faults(content)
    if found:
        return Unread(code, place, f"{found[0][0]}: {found[0][1]}")
    language = str(root.get("{http://www.w3.org/XML/1998/namespace}lang", "") or "")
    if language and not tags.language:
        tags = Tags(**{**tags.__dict__, "language": language})
    return ItemRecord(
        code=code,
        content=content,
        standards=standards,
        subject=subject,
        grade=grade,
        tags=tags,
        lost=tuple(dict.fromkeys(reading.lost)),
        place=place,
    )


def _content(reading: _Reading, body: Any) -> Content:
    root = reading.root
    if root.find("qti-template-declaration") is not None or root.find("qti-template-processing") is not None:
        raise CannotKeep("it draws its values by template processing, which is not read")
    rubrics, notes, guidance = _rubric_blocks(reading, body)
    interactions = [n for n in body.iter() if isinstance(n.tag, str) and n.tag.endswith("-interaction")]
    if not interactions:
        raise CannotKeep("it has no interaction")
    for node in interactions:
        kind = node.tag.removeprefix("qti-").removesuffix("-interaction")
        if kind not in READ:
            raise CannotKeep(f"a {node.tag}; read are {', '.join(READ)}")
    for node in [
        n
        for n in body.iter()
        if n.tag in ("qti-feedback-block", "qti-feedback-inline", "qti-template-block", "qti-info-control")
    ]:
        reading.lost.append("feedback inside the text")
        _cut(node)
    single = len(interactions) == 1
    for node in interactions:
        _interaction(reading, node, single)
    html = inside(body)
    behind: dict[str, Any] = {"hints": [], "misconceptions": [_note(reading, n) for n in notes], "guidance": guidance}
    reading.lost += own_rules(root)
    for feedback in root.iterfind("qti-modal-feedback"):
        where = feedback.find("qti-content-body")
        text = inside(where if where is not None else feedback)
        outcome = str(feedback.get("outcome-identifier", ""))
        if outcome == "SOLUTION":
            behind["solution"] = text
        elif outcome.startswith("HINT"):
            behind["hints"].append(text)
        else:
            reading.lost.append("feedback to answers")
    for criteria, part in rubrics:
        target = next((s for s in reading.scoring if s["id"] == reading.names.get(part, "1")), None)
        if target is not None:
            target |= criteria
    _dependence(reading)
    writing = [
        i
        for i, p in enumerate(reading.parts)
        if p["type"] == "writing" and reading.scoring[i]["points"] and not reading.scoring[i].get("rubric")
    ]
    for at in writing:
        # a bare extended text is hand-scored: one criterion says so
        points = reading.scoring[at]["points"]
        reading.scoring[at]["rubric"] = [
            {"title": "Scorer view", "levels": [{"points": p, "text": ""} for p in _steps(points)]}
        ]
    return read_content({"shown": {"body": html, "parts": reading.parts}, "scoring": reading.scoring, "behind": behind})


def _steps(points: float) -> list[float]:
    whole = int(points)
    return [float(n) for n in range(whole + 1)] if points == whole and 0 < whole < 10 else [0.0, points]


def _cut(node: Any) -> None:
    """Take a node out and leave what follows it."""
    parent, tail = node.getparent(), node.tail or ""
    before = node.getprevious()
    if before is not None:
        before.tail = (before.tail or "") + tail
    else:
        parent.text = (parent.text or "") + tail
    parent.remove(node)


def _interaction(reading: _Reading, node: Any, single: bool) -> None:
    identifier = str(node.get("response-identifier", ""))
    declaration = next(
        (d for d in reading.root.iterfind("qti-response-declaration") if d.get("identifier") == identifier), None
    )
    if declaration is None:
        raise CannotKeep(f"interaction {identifier or 'without identifier'} has no response declaration")
    own = re.fullmatch(r"RESPONSE_([A-Za-z0-9_]{1,12})", identifier)
    id = "1" if single else own[1] if own else str(len(reading.parts) + 1)
    reading.names[identifier] = id
    reading.names[id] = id
    makers = {
        "choice": _choice,
        "inline-choice": _menu,
        "text-entry": _entry,
        "extended-text": _writing,
        "order": _order,
        "match": _match,
        "hottext": _hot_text,
        "slider": _slider,
        "select-point": _point,
    }
    kind = node.tag.removeprefix("qti-").removesuffix("-interaction")
    if kind == "gap-match":
        _gap_match(reading, node, declaration, id)
        return
    prompt = node.find("qti-prompt")
    text = ""
    if prompt is not None:
        node.remove(prompt)
        prompt.tail = None
        if single:  # the prompt of the only interaction belongs to the question
            prompt.tag = "p" if not any(child.tag in ("p", "div", "ul", "ol", "table") for child in prompt) else "div"
            prompt.attrib.clear()
            node.addprevious(prompt)
        else:
            text = inside(prompt)
    asked = _question(node, identifier)
    if asked is not None:
        text = inside(asked)
        _cut(asked)
    part, score = makers[kind](reading, node, declaration)
    score.setdefault("points", _points(reading, identifier, id, single))
    inline = node.tag in _INLINE and not _alone(node)
    if inline:
        _put_gap(node, id)
    else:
        _cut_block(node)
    if part["type"] == "menu" and not inline:
        part = {"type": "choice", "most": 1, "options": part["options"]}
    if part["type"] == "entry":
        part["inline"] = inline
    reading.parts.append({"id": id, **part, "prompt": text})
    reading.scoring.append({"id": id, **score})


def _question(node: Any, identifier: str) -> Any:
    """The block before an entry that this project wrote its part's question in."""
    before = node.getparent().getprevious()
    return before if before is not None and before.get("data-for") == identifier else None


def _cut_block(node: Any) -> None:
    """A block leaves the body, with a paragraph that held nothing else."""
    parent = node.getparent()
    _cut(node)
    while parent is not None and parent.tag in ("p", "div") and not len(parent) and not (parent.text or "").strip():
        empty, parent = parent, parent.getparent()
        _cut(empty)


def _alone(node: Any) -> bool:
    """Whether an inline interaction is all that its paragraph holds."""
    parent = node.getparent()
    return (
        len(parent) == 1
        and not (parent.text or "").strip()
        and not (node.tail or "").strip()
        and parent.tag in ("p", "div", "qti-item-body")
    )


def _put_gap(node: Any, id: str) -> None:
    tail = node.tail
    for child in list(node):
        node.remove(child)
    node.tag, node.text, node.tail = "span", None, tail
    node.attrib.clear()
    node.set("data-gap", id)


def _values(declaration: Any) -> list[str]:
    return [(v.text or "").strip() for v in declaration.iterfind("qti-correct-response/qti-value")]


def _options(nodes: list[Any], letters: bool) -> tuple[list[dict[str, str]], dict[str, str]]:
    """Options with names short enough to keep, and from the file's names to them."""
    own = [str(n.get("identifier", "")) for n in nodes]
    if len(set(own)) != len(own) or "" in own:
        raise CannotKeep("a choice without a name of its own")
    keep = all(re.fullmatch(r"[A-Za-z0-9_]{1,12}", name) for name in own)
    alphabet = list(LETTERS) if letters else [f"o{n}" for n in range(1, 41)]
    if len(own) > len(alphabet):
        raise CannotKeep(f"{len(own)} choices; at most {len(alphabet)} are kept")
    names = {
        name: name if keep and (not letters or set(own) <= set(LETTERS)) else alphabet[at]
        for at, name in enumerate(own)
    }
    return [{"id": names[str(n.get("identifier"))], "html": inside(n)} for n in nodes], names


def _several(reading: _Reading, declaration: Any, names: dict[str, str], most: int) -> dict[str, Any]:
    """Key, points and credit of a choice among named things. most: 1 for one of them, 0 for any number."""
    mapping = mapping_of(reading.root, declaration)
    keys = list(dict.fromkeys(_values(declaration)))
    credit: dict[str, float] = {}
    if mapping is not None:
        credit = {own: mapping.worth(own) for own in names if mapping.worth(own)}
        good = sorted((own for own in credit if credit[own] > 0), key=lambda own: -credit[own])
        if not good:
            raise CannotKeep("a mapping in which no choice is worth anything")
        keys = [own for own in good if credit[own] == credit[good[0]]] if most == 1 else good[: most or len(good)]
        keys = [own for own in names if own in keys]
        _says_below(reading, mapping)
    unknown = [key for key in keys if key not in names]
    if unknown or not keys:
        raise CannotKeep(
            f"the correct response {', '.join(unknown) or 'is missing'}"
            + (" is not one of the choices" if unknown else "")
        )
    found: dict[str, Any] = {"key": ("|" if most == 1 else "+").join(names[k] for k in names if k in keys)}
    if mapping is None:
        return found
    points = mapping.most([credit[k] for k in (keys[:1] if most == 1 else keys)])
    found["points"] = points
    others = [own for own in names if own not in keys]
    if most != 1 and is_even(credit, keys, others, points, mapping.lower):
        return found | {"partial": True}
    kept = {own: worth for own, worth in credit.items() if most != 1 or (own not in keys and worth > 0)}
    return found | _with_credit({names[own]: worth for own, worth in kept.items()}, mapping, points)


def _with_credit(credit: dict[str, float], mapping: Mapping, points: float) -> dict[str, Any]:
    if not credit:
        return {}
    if mapping.lower >= points:
        raise CannotKeep(f"a lower bound of {mapping.lower:g} with {points:g} points to earn")
    return {
        "credit": [{"answer": answer, "points": worth} for answer, worth in credit.items()],
        "lowest": mapping.lower,
    }


def _says_below(reading: _Reading, mapping: Mapping) -> None:
    if mapping.goes_below:
        reading.lost.append("scores below 0: an answer earns 0 at least")


def _choice(reading: _Reading, node: Any, declaration: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    options, names = _options(node.findall("qti-simple-choice"), True)
    most = _whole(node.get("max-choices"), 1)
    if str(declaration.get("cardinality")) == "single":
        most = 1
    elif most == 1:
        raise CannotKeep("one choice may be made, but its response is declared as several")
    reading.names |= {f"option {k}": v for k, v in names.items()}
    if node.get("shuffle") == "true":
        reading.lost.append("shuffling of the choices")
    return {"type": "choice", "options": options, "most": min(most, len(options))}, _several(
        reading, declaration, names, most
    )


def _whole(text: str | None, otherwise: int) -> int:
    found = whole(text or "")
    return otherwise if found is None else found


def _menu(reading: _Reading, node: Any, declaration: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    options, names = _options(node.findall("qti-inline-choice"), True)
    return {"type": "menu", "options": options}, _several(reading, declaration, names, 1)


def _entry(reading: _Reading, node: Any, declaration: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    numeric = str(declaration.get("base-type")) in ("float", "integer")
    accepted, worth = _accepted(reading, declaration)
    case = not numeric and _minds_case(reading, declaration)
    if not case and not numeric:  # spellings that differ by capitals alone are one answer, worth what the best is
        accepted = list({a.casefold(): a for a in reversed(accepted)}.values())[::-1]
    key = "|".join(a if numeric else a.replace("|", "\\|") for a in accepted)
    tolerance = _tolerance(reading, declaration)
    unit = str(node.get("data-unit", ""))
    if numeric or tolerance:
        key += f"~{tolerance}" if tolerance else ""
    part = {
        "type": "entry",
        "numeric": numeric or bool(tolerance),
        "unit": unit,
        "width": max(2, min(60, _whole(node.get("expected-length"), 12))),
    }
    score: dict[str, Any] = {"key": key, "spelling": "exact" if case else "plain"}
    if worth is not None:
        points = worth.most([worth.values[accepted[0]]])
        score["points"] = points
        less = {a: worth.values[a] for a in accepted if worth.values.get(a, points) < points - NEAR}
        score |= {"credit": [{"answer": a, "points": value} for a, value in less.items()]}
    return part, score


def _accepted(reading: _Reading, declaration: Any) -> tuple[list[str], Mapping | None]:
    """Accepted answers of an entry, best first, and what they are worth where that is said."""
    mapping = mapping_of(reading.root, declaration)
    if mapping is None:
        accepted = list(dict.fromkeys(_values(declaration)))
    else:
        accepted = sorted((key for key, value in mapping.values.items() if value > 0), key=lambda k: -mapping.values[k])
        _says_below(reading, mapping)
        if mapping.default > 0:
            reading.lost.append("points for any other answer")
    accepted = [text for text in accepted if text]
    if not accepted:
        raise CannotKeep("a text entry without an accepted answer")
    return accepted, mapping


def _minds_case(reading: _Reading, declaration: Any) -> bool:
    """Capitals count, as the standard has it, unless the mapping or a comparison says that they do not."""
    if mapping_of(reading.root, declaration) is not None:
        said = [e.get("case-sensitive", "true") != "false" for e in declaration.iterfind("qti-mapping/qti-map-entry")]
        if any(said) and not all(said):
            reading.lost.append("that capitals count in some accepted answers only")
        return any(said)
    for match in reading.root.iter("qti-string-match"):
        if any(v.get("identifier") == declaration.get("identifier") for v in match.iter("qti-variable")):
            return bool(match.get("case-sensitive") != "false")
    return True


def _tolerance(reading: _Reading, declaration: Any) -> str:
    """Of a comparison of this response, where it is absolute."""
    for equal in reading.root.iter("qti-equal"):
        names = {v.get("identifier") for v in equal.iter("qti-variable")}
        if declaration.get("identifier") in names and equal.get("tolerance-mode") == "absolute":
            return next(iter(str(equal.get("tolerance", "0")).split()), "0")
        if declaration.get("identifier") in names and equal.get("tolerance-mode") == "relative":
            reading.lost.append("a relative tolerance")
    return ""


def _writing(reading: _Reading, node: Any, declaration: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    lines = max(1, min(60, _whole(node.get("expected-lines"), 6)))
    longest = max(20, min(20_000, _whole(node.get("expected-length"), 4000)))
    return {"type": "writing", "lines": lines, "longest": longest, "beside": str(node.get("data-reason-for", ""))}, {}


def _order(reading: _Reading, node: Any, declaration: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    options, names = _options(node.findall("qti-simple-choice"), False)
    correct = _values(declaration)
    if sorted(correct) != sorted(names):
        raise CannotKeep("an order that does not place every choice once")
    return {"type": "order", "options": options}, {"key": ">".join(names[c] for c in correct)}


def _match(reading: _Reading, node: Any, declaration: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    sets = node.findall("qti-simple-match-set")
    if len(sets) != 2:
        raise CannotKeep("a match without its two sets")
    rows, row_names = _options(sets[0].findall("qti-simple-associable-choice"), False)
    columns, column_names = _options(sets[1].findall("qti-simple-associable-choice"), False)
    if any(_whole(c.get("match-max"), 1) != 1 for c in sets[0]):
        raise CannotKeep("a match in which one thing goes to several others")

    def named(text: str) -> tuple[str, str]:
        row, _, column = text.partition(" ")
        if row not in row_names or column.strip() not in column_names:
            raise CannotKeep(f"the pair {text} is not of its sets")
        return row_names[row], column_names[column.strip()]

    mapping = mapping_of(reading.root, declaration)
    pairs: dict[str, list[str]] = {}
    score: dict[str, Any] = {}
    if mapping is None:
        for row, column in map(named, _values(declaration)):
            pairs.setdefault(row, []).append(column)
    else:
        worth = {named(text): value for text, value in mapping.values.items()}
        if mapping.default:
            for cell in ((r["id"], c["id"]) for r in rows for c in columns):
                worth.setdefault(cell, mapping.default)
        for row in (r["id"] for r in rows):
            best = max((v for (r, _), v in worth.items() if r == row), default=0.0)
            if best > 0:
                pairs[row] = [c for (r, c), v in worth.items() if r == row and v == best]
        score = _match_credit(reading, mapping, worth, pairs, len(rows))
    if not pairs:
        raise CannotKeep("a match without a right pair")
    table = "qti-match-tabular" in str(node.get("class", "")).split()
    key = ";".join(f"{row}={'|'.join(found)}" for row, found in pairs.items())
    part = {"type": "match", "rows": rows, "columns": columns, "sorted_into": not table}
    return part, {"key": key, "partial": False, **score}


def _match_credit(
    reading: _Reading, mapping: Mapping, worth: dict[tuple[str, str], float], pairs: dict[str, list[str]], rows: int
) -> dict[str, Any]:
    """Points of a match with a mapping; as part of the points where each row is worth the same and nothing else is."""
    _says_below(reading, mapping)
    if not pairs:
        return {}
    points = mapping.most([worth[row, columns[0]] for row, columns in pairs.items()])
    share = points / len(pairs)
    right = {(row, column) for row, columns in pairs.items() for column in columns}
    even = all(abs(value - (share if cell in right else 0.0)) < NEAR for cell, value in worth.items())
    if even and len(pairs) == rows and mapping.lower == 0:
        return {"partial": True, "points": points}
    credit = {f"{row}={column}": value for (row, column), value in worth.items() if value}
    return {"points": points, **_with_credit(credit, mapping, points)}


def _gap_match(reading: _Reading, node: Any, declaration: Any, id: str) -> None:
    """Words dragged into gaps become a choice in the text for each gap."""
    words = node.findall("qti-gap-text")
    if not words or node.find("qti-gap-img") is not None:
        raise CannotKeep("pictures dragged into gaps")
    options, names = _options(words, True)
    mapping = mapping_of(reading.root, declaration)
    pairs = {gap: names[word] for word, _, gap in (v.partition(" ") for v in _values(declaration)) if word in names}
    gaps = list(node.iter("qti-gap"))
    total = 0.0 if mapping else _points(reading, str(declaration.get("identifier")), id, True)
    reading.lost.append("that each word can be used once only")
    if mapping is not None:
        _says_below(reading, mapping)
        if any(value < 0 for value in (*mapping.values.values(), mapping.default)) or mapping.upper is not None:
            reading.lost.append("points taken away for wrong words, and bounds over all gaps")
    for at, gap in enumerate(gaps, 1):
        name, here = f"g{at}", str(gap.get("identifier"))
        score: dict[str, Any] = {"key": pairs.get(here), "points": total / len(gaps)}
        if mapping is not None:
            worth = {names[word]: mapping.worth(f"{word} {here}") for word in names}
            best = max(worth.values())
            right = [word for word, value in worth.items() if value == best]
            less = [{"answer": word, "points": value} for word, value in worth.items() if 0 < value < best]
            score = {"key": "|".join(right), "points": best, "credit": less} if best > 0 else {"key": None}
        if score["key"] is None:
            raise CannotKeep("a gap without its word")
        reading.parts.append({"id": name, "type": "menu", "options": options})
        reading.scoring.append({"id": name, **score})
        _put_gap(gap, name)
    for word in words:
        _cut(word)
    prompt = node.find("qti-prompt")
    if prompt is not None:
        prompt.tag = "p"
    node.tag = "div"
    node.attrib.clear()


def _hot_text(reading: _Reading, node: Any, declaration: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    names: dict[str, str] = {}
    for at, word in enumerate(node.iter("qti-hottext"), 1):
        own = str(word.get("identifier", ""))
        names[own] = own if re.fullmatch(r"[A-Za-z0-9_]{1,12}", own) else f"w{at}"
        word.tag = "span"
        word.attrib.clear()
        word.set("data-pick", names[own])
    most = _whole(node.get("max-choices"), 1)
    score = _several(reading, declaration, names, 0)
    return {"type": "hot_text", "text": inside(node), "most": most}, score


def _slider(reading: _Reading, node: Any, declaration: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    low, high = (
        number(node.get(f"{end}-bound", usual), f"a slider's {end} bound of")
        for end, usual in (("lower", "0"), ("upper", "10"))
    )
    step = number(node.get("step", "1"), "a slider's step of")
    correct = _values(declaration)
    tolerance = _tolerance(reading, declaration)
    if not correct:
        raise CannotKeep("a slider without a correct response")
    every = number(node.get("data-every", "") or max(step, (high - low) / 10), "a slider's ticks every")
    return {"type": "line", "low": low, "high": high, "step": step, "every": every}, {
        "key": correct[0] + (f"~{tolerance}" if tolerance else "")
    }


def _point(reading: _Reading, node: Any, declaration: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    picture = next((n for n in node.iter("img", "object")), None)
    if picture is None:
        raise CannotKeep("a point without its picture")
    if str(declaration.get("cardinality")) not in ("single", "None"):
        raise CannotKeep("several points on one picture")
    areas, bounds = areas_of(declaration)
    score: dict[str, Any] = {}
    if bounds is not None and areas:
        _says_below(reading, bounds)
        points = bounds.most([areas[0][1]])
        less = [{"answer": str(at), "points": worth} for at, (_, worth) in enumerate(areas, 1) if worth < points - NEAR]
        score = {"points": points, "credit": less}
    if not areas:
        areas = [(f"circle {v} 12", 1.0) for v in _values(declaration)]
        reading.lost.append("a point without an area: 12 pixels around it count")
    part = {
        "type": "point",
        "picture": str(picture.get("src") or picture.get("data") or ""),
        "told": str(picture.get("alt") or bare_text(inside(picture)) or ""),
        "width": _whole(picture.get("width"), 0) or 600,
        "height": _whole(picture.get("height"), 0) or 400,
    }
    return part, {"key": "|".join(area for area, _ in areas), **score}


def _points(reading: _Reading, identifier: str, id: str, single: bool) -> float:
    """What a right answer is worth where no mapping says it: by the outcome of the part or the item, by what the
    processing sets, else 1."""
    names = [f"SCORE_{id}"] + (["SCORE", "MAXSCORE"] if single else [])
    for outcome in reading.root.iterfind("qti-outcome-declaration"):
        if outcome.get("identifier") in names:
            value = outcome.get("normal-maximum")
            if outcome.get("identifier") == "MAXSCORE" and value is None:
                value = outcome.findtext("qti-default-value/qti-value")
            if value:
                return number(value, "points of")
    return set_points(reading.root, names) or 1.0


def _dependence(reading: _Reading) -> None:
    """A part whose points are set only where another part's score is full hangs on that one."""
    for condition in reading.root.iter("qti-response-if"):
        setters = [s.get("identifier", "") for s in condition.iterfind("qti-set-outcome-value")]
        wanted = {v.get("identifier", "") for v in condition.iter("qti-gte") for v in v.iter("qti-variable")}
        for target in setters:
            for other in wanted:
                part = next((s for s in reading.scoring if f"SCORE_{s['id']}" == target), None)
                if part is not None and other.startswith("SCORE_") and other != target:
                    part["needs"] = other.removeprefix("SCORE_")


def _rubric_blocks(reading: _Reading, body: Any) -> tuple[list[tuple[dict[str, Any], str]], list[Any], str]:
    """Scoring rubrics, notes on wrong answers and what scorers are told, taken out of the body. What a block says to
    students stays in it."""
    rubrics, notes, guidance = [], [], []
    for block in list(body.iter("qti-rubric-block")):
        words, views = str(block.get("class", "")).split(), str(block.get("view", "")).split()
        holder = block.find("qti-content-body")
        text = inside(holder if holder is not None else block)
        if "scoring-rubric" in words:
            rubrics.append((_criteria(block), str(block.get("data-part", "1"))))
        elif "misconceptions" in words:
            notes += list(block.iter("li"))
        elif "candidate" in views:
            block.tag = "div"
            block.attrib.clear()
            if holder is not None:
                holder.tag = "div"
                holder.attrib.clear()
            continue
        elif "scorer" in views or block.get("use") == "scoring":
            guidance.append(text)
        elif bare_text(text):
            reading.lost.append(f"notes to {', '.join(views) or 'staff'}")
        _cut(block)
    return rubrics, notes, "".join(guidance)


def _criteria(block: Any) -> dict[str, Any]:
    criteria = []
    for table in block.iter("table"):
        levels = [
            {"points": number(bare_text(inside(row[0])) or 0, "a level worth"), "text": bare_text(inside(row[1]))}
            for row in table.iter("tr")
            if len(row) == 2 and row[0].tag == "td"
        ]
        criteria.append({"title": bare_text(table.findtext("caption") or ""), "levels": levels})
    exemplars = [
        {
            "answer": "\n".join(bare_text(inside(p)) for p in quote.findall("p")),
            "why": bare_text(quote.get("data-why", "")),
            "points": [number(p, "an anchor paper worth") for p in str(quote.get("data-points", "")).split()],
        }
        for quote in block.iter("blockquote")
    ]
    return {"rubric": criteria, "exemplars": exemplars}


def _note(reading: _Reading, node: Any) -> dict[str, str]:
    answer = str(node.get("data-answer", ""))
    return {
        "part": reading.names.get(str(node.get("data-part", "1")), "1"),
        "answer": reading.names.get(f"option {answer}", answer),
        "note": bare_text(inside(node)),
        "link": str(node.get("data-link", "")),
    }


def read_stimulus(place: str, root: Any) -> StimulusRecord:
    """root: a qti-assessment-stimulus with the names of 3.0."""
    body = root.find("qti-stimulus-body")
    if root.tag != "qti-assessment-stimulus" or body is None:
        raise ImportProblem(
            file=place, found=f"<{root.tag}>", allowed="an assessment stimulus with a body", line=root.sourceline
        )
    code, title = str(root.get("identifier", "")).strip(), str(root.get("title", "")).strip()
    holder = body.find("div") if body.find("div") is not None and body.find("div").get("data-kind") else body
    kind = str(holder.get("data-kind", "passage"))
    html, media, told = inside(holder), "", ""
    if kind in ("picture", "audio"):
        shown = next(iter(holder.iter("img", "audio", "source")), None)
        if shown is not None:
            media = str(shown.get("src", "")) or next((str(s.get("src", "")) for s in shown.iter("source")), "")
            told = str(shown.get("alt", "")) or bare_text(str(holder.get("data-told", "")))
            html = ""
    return StimulusRecord(
        code=code,
        title=title or code,
        kind=kind if kind in ("passage", "picture", "table", "data", "audio") else "passage",
        html=safe_html(html) if not media else "",
        numbered=holder.get("data-numbered") == "true",
        media=media,
        told=told,
        credit=str(holder.get("data-credit", "")),
    )
