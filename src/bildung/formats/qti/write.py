"""One item or stimulus as QTI 3.0."""

from __future__ import annotations

import re
from typing import Any

from lxml import etree, html

from bildung.core.scoring.rules import split_accepted
from bildung.formats.content import (
    AnyPart,
    ChoicePart,
    EntryPart,
    HotTextPart,
    LinePart,
    MatchPart,
    MenuPart,
    OrderPart,
    PartScoring,
    PointPart,
    WritingPart,
)
from bildung.formats.itemlist import ItemRecord, StimulusRecord
from bildung.formats.markup import hot_words_in
from bildung.formats.qti.tree import QTI3, escaped

MEDIA = re.compile(r"/api/media/([0-9a-f]{24})")
_MATH = "http://www.w3.org/1998/Math/MathML"


def package_misses(record: ItemRecord) -> list[str]:
    """What of an item has no place in QTI 3.0, and is not exported."""
    found = []
    for part, scoring in _pairs(record):
        if scoring.credit and isinstance(part, EntryPart) and part.numeric and "~" in scoring.key:
            found.append("points of their own for numbers within a tolerance")
        if scoring.carried:
            found.append("scoring by an earlier part's answer (an error carried on)")
        if scoring.writing != "any" or scoring.units or scoring.unit_needed:
            found.append("how a number is to be written, and its units")
        if scoring.spelling == "near":
            found.append("that one slip of spelling still counts")
        if isinstance(part, OrderPart) and scoring.partial:
            found.append("part of the points for an order")
        if isinstance(part, MatchPart) and not scoring.partial and any("|" in pair for pair in scoring.key.split(";")):
            found.append("several right columns for one row")
        numbers, tilde, _ = scoring.key.partition("~")
        if isinstance(part, EntryPart) and part.numeric and ("/" in numbers or (tilde and "|" in numbers)):
            found.append("a second accepted number, and numbers as fractions")
    if record.content.shown.tools:
        found.append("counters and tiles")
    if record.enemies:
        found.append("which items it is kept apart from")
    return list(dict.fromkeys(found))


def _pairs(record: ItemRecord) -> list[tuple[AnyPart, PartScoring]]:
    return list(zip(record.content.shown.parts, record.content.scoring, strict=True))


def _name(id: str) -> str:
    return f"RESPONSE_{id}"


def _xml(text: str, media: dict[str, str]) -> str:
    """Formatted text as well-formed XML, MathML in its namespace, pictures at their place in the package."""
    text = MEDIA.sub(lambda found: media.get(found[1], found[0]), text)
    root: Any = html.fragment_fromstring(text, create_parent="div") if text.strip() else etree.Element("div")
    for node in root.iter("math"):
        node.set("xmlns", _MATH)
    if len(root) == 0 and not (root.text or "").strip():
        return ""
    out = escaped(root.text or "")
    return out + "".join(etree.tostring(child, encoding="unicode") for child in root)


def write_item(record: ItemRecord, media: dict[str, str], stimulus: str = "") -> bytes:
    """media: file in the package by key, relative to the item. stimulus: file of its stimulus."""
    shown, behind = record.content.shown, record.content.behind
    pairs = _pairs(record)
    declarations, processing, blocks = [], [], []
    inline = {p.id: (p, s) for p, s in pairs if isinstance(p, MenuPart) or (isinstance(p, EntryPart) and p.inline)}
    for part, scoring in pairs:
        declarations.append(_declaration(part, scoring))
        processing.append(_processing(part, scoring, dict((p.id, s) for p, s in pairs)))
        if part.id not in inline:
            blocks.append(_block(part, media))
    body = _xml(shown.body, media)
    for id, (part, _) in inline.items():
        body = re.sub(rf'<span data-gap="{id}"\s*(?:/>|></span>)', lambda _, p=part: _inline(p, media), body)  # type: ignore[misc]
    if body and not body.lstrip().startswith("<"):
        body = f"<p>{body}</p>"
    outcomes = [
        f'<qti-outcome-declaration identifier="SCORE" cardinality="single" base-type="float" normal-maximum="{record.points:g}"><qti-default-value><qti-value>0</qti-value></qti-default-value></qti-outcome-declaration>'
    ]
    for part, scoring in pairs:
        outcomes.append(
            f'<qti-outcome-declaration identifier="SCORE_{part.id}" cardinality="single" base-type="float" '
            f'normal-maximum="{scoring.points:g}"'
            + (' external-scored="human"' if isinstance(part, WritingPart) else "")
            + "><qti-default-value><qti-value>0</qti-value></qti-default-value></qti-outcome-declaration>"
        )
    feedback = ""
    texts = [("SOLUTION", behind.solution)] + [(f"HINT{n}", text) for n, text in enumerate(behind.hints, 1)]
    for name, text in texts:
        if text:
            outcomes.append(
                f'<qti-outcome-declaration identifier="{name}" cardinality="single" base-type="identifier"/>'
            )
            feedback += (
                f'<qti-modal-feedback outcome-identifier="{name}" identifier="SHOW" show-hide="show"><qti-content-body>'
                f"{_wrapped(_xml(text, media))}</qti-content-body></qti-modal-feedback>"
            )
    reference = (
        f'<qti-assessment-stimulus-ref identifier="{escaped(record.stimulus.code)}" href="{stimulus}"/>'
        if record.stimulus
        else ""
    )
    language = f' xml:lang="{escaped(record.tags.language)}"' if record.tags.language else ""
    total = "".join(f'<qti-variable identifier="SCORE_{part.id}"/>' for part, _ in pairs)
    text = (
        f'<?xml version="1.0" encoding="UTF-8"?>\n<qti-assessment-item xmlns="{QTI3}" identifier="{escaped(record.code)}" '
        f'title="{escaped(record.code)}" adaptive="false" time-dependent="false"{language}>'
        f"{''.join(declarations)}{''.join(outcomes)}{reference}"
        f"<qti-item-body>{body}{''.join(blocks)}{_rubrics(record)}{_guidance(record, media)}{_misconceptions(record)}</qti-item-body>"
        f"<qti-response-processing>{''.join(processing)}"
        f'<qti-set-outcome-value identifier="SCORE"><qti-sum>{total}</qti-sum></qti-set-outcome-value>'
        f"</qti-response-processing>{feedback}</qti-assessment-item>\n"
    )
    return text.encode()


def _wrapped(text: str) -> str:
    return text if text.lstrip().startswith("<") else f"<p>{text}</p>"


def _declaration(part: AnyPart, scoring: PartScoring) -> str:
    kind, cardinality, values, mapping = _answer(part, scoring)
    correct = "".join(f"<qti-value>{escaped(v)}</qti-value>" for v in values)
    correct = f"<qti-correct-response>{correct}</qti-correct-response>" if correct else ""
    return (
        f'<qti-response-declaration identifier="{_name(part.id)}" cardinality="{cardinality}" base-type="{kind}">{correct}{mapping}'
        "</qti-response-declaration>"
    )


def _mapping(values: dict[str, float], extra: str = "", case: bool | None = None) -> str:
    sensitive = "" if case is None else f' case-sensitive="{"true" if case else "false"}"'
    entries = "".join(
        f'<qti-map-entry map-key="{escaped(k)}" mapped-value="{v:.10g}"{sensitive}/>' for k, v in values.items()
    )
    return f'<qti-mapping default-value="0"{extra}>{entries}</qti-mapping>'


def _answer(part: AnyPart, scoring: PartScoring) -> tuple[str, str, list[str], str]:
    """Base type, cardinality, correct values and mapping."""
    kind, cardinality, correct, mapping = _plain_answer(part, scoring)
    credit = {c.answer: c.points for c in scoring.credit}
    several = isinstance(part, EntryPart) and part.numeric and "|" in scoring.key and "~" not in scoring.key
    if (credit or several) and not isinstance(part, PointPart):
        mapping = _credit_mapping(part, scoring, credit)
    return kind, cardinality, correct, mapping


def _credit_mapping(part: AnyPart, scoring: PartScoring, credit: dict[str, float]) -> str:
    """Every answer with what it is worth by itself."""
    bounds = f' lower-bound="{scoring.lowest:g}" upper-bound="{scoring.points:g}"'
    if isinstance(part, MatchPart):
        return _mapping({answer.replace("=", " "): worth for answer, worth in credit.items()}, bounds)
    if isinstance(part, EntryPart):
        if part.numeric and "~" in scoring.key:
            return ""
        accepted = (
            [_decimal(a) for a in scoring.key.split("|")]
            if part.numeric
            else [a for a in split_accepted(scoring.key) if a]
        )
        named = scoring.key.split("|") if part.numeric else accepted
        worth = {a: credit.get(name.strip(), scoring.points) for a, name in zip(accepted, named, strict=True)}
        return _mapping(worth, case=None if part.numeric else scoring.spelling == "exact")
    if isinstance(part, HotTextPart) or (isinstance(part, ChoicePart) and part.most != 1):
        return _mapping(credit, bounds)
    return _mapping({**dict.fromkeys((k.strip() for k in scoring.key.split("|")), scoring.points), **credit}, bounds)


def _plain_answer(part: AnyPart, scoring: PartScoring) -> tuple[str, str, list[str], str]:
    key, points = scoring.key, scoring.points
    if isinstance(part, ChoicePart | MenuPart | HotTextPart):
        one = isinstance(part, MenuPart) or (isinstance(part, ChoicePart) and part.most == 1)
        keys = [k.strip() for k in key.split("|" if one else "+")]
        names = hot_words_in(part.text) if isinstance(part, HotTextPart) else [o.id for o in part.options]
        mapping = ""
        if one and len(keys) > 1:
            mapping = _mapping({k: points for k in keys})
        elif scoring.partial and not one:
            share = points / len(keys)
            mapping = _mapping(
                {n: share if n in keys else -share for n in names}, f' lower-bound="0" upper-bound="{points:g}"'
            )
        return "identifier", "single" if one else "multiple", keys[:1] if one else keys, mapping
    if isinstance(part, OrderPart):
        return "identifier", "ordered", [k.strip() for k in key.split(">")], ""
    if isinstance(part, MatchPart):
        pairs = [(row.strip(), columns.split("|")) for row, _, columns in (p.partition("=") for p in key.split(";"))]
        every = {f"{row} {column.strip()}": points / len(pairs) for row, columns in pairs for column in columns}
        mapping = _mapping(every, f' lower-bound="0" upper-bound="{points:g}"') if scoring.partial else ""
        return "directedPair", "multiple", [f"{row} {columns[0].strip()}" for row, columns in pairs], mapping
    if isinstance(part, LinePart):
        return "float", "single", [key.partition("~")[0].strip()], ""
    if isinstance(part, PointPart):
        worth = {c.answer: c.points for c in scoring.credit}
        entries = "".join(
            f'<qti-area-map-entry shape="{shape}" coords="{",".join(numbers.split())}" mapped-value="{worth.get(str(at), points):.10g}"/>'
            for at, (shape, _, numbers) in enumerate((area.strip().partition(" ") for area in key.split("|")), 1)
        )
        return "point", "single", [], f'<qti-area-mapping default-value="0">{entries}</qti-area-mapping>'
    if isinstance(part, EntryPart) and part.numeric:
        return "float", "single", [_decimal(key.partition("~")[0].split("|")[0])], ""
    if isinstance(part, EntryPart):
        accepted = [a for a in split_accepted(key) if a]
        return (
            "string",
            "single",
            accepted[:1],
            _mapping({a: points for a in accepted}, case=scoring.spelling == "exact"),
        )
    return "string", "single", [], ""


def _decimal(text: str) -> str:
    from bildung.core.scoring.numbers import mixed_number

    number = mixed_number(text)
    plain = text.strip().replace("−", "-").replace(",", ".")
    return plain if number is None or ("/" not in plain and " " not in plain) else repr(float(number))


def _processing(part: AnyPart, scoring: PartScoring, by_id: dict[str, PartScoring]) -> str:
    """Sets the part's own outcome."""
    if isinstance(part, WritingPart) or not scoring.points:
        return ""
    name, outcome = _name(part.id), f"SCORE_{part.id}"
    variable, correct = f'<qti-variable identifier="{name}"/>', f'<qti-correct identifier="{name}"/>'
    _, _, _, mapping = _answer(part, scoring)
    if isinstance(part, PointPart):
        value, test = (
            f'<qti-map-response-point identifier="{name}"/>',
            f"<qti-not><qti-is-null>{variable}</qti-is-null></qti-not>",
        )
    elif mapping:
        value, test = (
            f'<qti-map-response identifier="{name}"/>',
            f"<qti-not><qti-is-null>{variable}</qti-is-null></qti-not>",
        )
    else:
        value = f'<qti-base-value base-type="float">{scoring.points:g}</qti-base-value>'
        tolerance = scoring.key.partition("~")[2].strip()
        numeric = isinstance(part, LinePart) or (isinstance(part, EntryPart) and part.numeric)
        if numeric:
            mode = (
                f'tolerance-mode="absolute" tolerance="{_decimal(tolerance)} {_decimal(tolerance)}"'
                if tolerance
                else 'tolerance-mode="exact"'
            )
            test = f"<qti-equal {mode}>{variable}{correct}</qti-equal>"
        else:
            test = f"<qti-match>{variable}{correct}</qti-match>"
    if scoring.needs:
        full = f'<qti-gte><qti-variable identifier="SCORE_{scoring.needs}"/><qti-base-value base-type="float">{by_id[scoring.needs].points:g}</qti-base-value></qti-gte>'
        test = f"<qti-and>{test}{full}</qti-and>"
    return (
        f'<qti-response-condition><qti-response-if>{test}<qti-set-outcome-value identifier="{outcome}">{value}'
        "</qti-set-outcome-value></qti-response-if></qti-response-condition>"
    )


def _inline(part: Any, media: dict[str, str]) -> str:
    if isinstance(part, MenuPart):
        options = "".join(
            f'<qti-inline-choice identifier="{o.id}">{_xml(o.html, media)}</qti-inline-choice>' for o in part.options
        )
        return f'<qti-inline-choice-interaction response-identifier="{_name(part.id)}">{options}</qti-inline-choice-interaction>'
    return _entry(part)


def _entry(part: EntryPart) -> str:
    unit = f' data-unit="{escaped(part.unit)}"' if part.unit else ""
    return f'<qti-text-entry-interaction response-identifier="{_name(part.id)}" expected-length="{part.width}"{unit}/>'


def _block(part: AnyPart, media: dict[str, str]) -> str:
    at = f'response-identifier="{_name(part.id)}"'
    prompt = f"<qti-prompt>{_xml(part.prompt, media)}</qti-prompt>" if part.prompt else ""

    def named(tag: str, options: list[Any], extra: str = "") -> str:
        return "".join(f'<{tag} identifier="{o.id}"{extra}>{_xml(o.html, media)}</{tag}>' for o in options)

    if isinstance(part, ChoicePart):
        return f'<qti-choice-interaction {at} max-choices="{part.most}">{prompt}{named("qti-simple-choice", part.options)}</qti-choice-interaction>'
    if isinstance(part, OrderPart):
        return f"<qti-order-interaction {at}>{prompt}{named('qti-simple-choice', part.options)}</qti-order-interaction>"
    if isinstance(part, MatchPart):
        table = "" if part.sorted_into else ' class="qti-match-tabular"'
        rows = named("qti-simple-associable-choice", part.rows, ' match-max="1"')
        columns = named("qti-simple-associable-choice", part.columns, ' match-max="0"')
        return (
            f'<qti-match-interaction {at} max-associations="{len(part.rows)}"{table}>{prompt}<qti-simple-match-set>{rows}'
            f"</qti-simple-match-set><qti-simple-match-set>{columns}</qti-simple-match-set></qti-match-interaction>"
        )
    if isinstance(part, HotTextPart):
        text = re.sub(
            r'<span data-pick="([^"]*)">(.*?)</span>',
            r'<qti-hottext identifier="\1">\2</qti-hottext>',
            _xml(part.text, media),
            flags=re.DOTALL,
        )
        return f'<qti-hottext-interaction {at} max-choices="{part.most}">{prompt}{_wrapped(text)}</qti-hottext-interaction>'
    if isinstance(part, LinePart):
        return (
            f'<qti-slider-interaction {at} lower-bound="{part.low:g}" upper-bound="{part.high:g}" step="{part.step:g}" '
            f'data-every="{part.every:g}">{prompt}</qti-slider-interaction>'
        )
    if isinstance(part, PointPart):
        source = media.get(part.picture, part.picture)
        return (
            f'<qti-select-point-interaction {at} max-choices="1">{prompt}<img src="{escaped(source)}" alt="{escaped(part.told)}" '
            f'width="{part.width}" height="{part.height}"/></qti-select-point-interaction>'
        )
    if isinstance(part, WritingPart):
        reason = f' data-reason-for="{part.beside}"' if part.beside else ""
        return f'<qti-extended-text-interaction {at} expected-lines="{part.lines}" expected-length="{part.longest}"{reason}>{prompt}</qti-extended-text-interaction>'
    question = (
        f'<div class="question" data-for="{_name(part.id)}">{_xml(part.prompt, media)}</div>' if part.prompt else ""
    )
    assert isinstance(part, EntryPart)
    return f"{question}<p>{_entry(part)}</p>"


def _guidance(record: ItemRecord, media: dict[str, str]) -> str:
    text = record.content.behind.guidance
    if not text:
        return ""
    return f'<qti-rubric-block use="scoring" view="scorer"><qti-content-body>{_wrapped(_xml(text, media))}</qti-content-body></qti-rubric-block>'


def _rubrics(record: ItemRecord) -> str:
    out = ""
    for part, scoring in _pairs(record):
        if not scoring.rubric:
            continue
        tables = "".join(
            f"<table><caption>{escaped(c.title)}</caption><tbody>"
            + "".join(f"<tr><td>{level.points:g}</td><td>{escaped(level.text)}</td></tr>" for level in c.levels)
            + "</tbody></table>"
            for c in scoring.rubric
        )
        quotes = "".join(
            f'<blockquote data-points="{" ".join(f"{p:g}" for p in e.points)}" data-why="{escaped(e.why)}">'
            + "".join(f"<p>{escaped(line)}</p>" for line in e.answer.split("\n"))
            + "</blockquote>"
            for e in scoring.exemplars
        )
        out += (
            f'<qti-rubric-block use="scoring" view="scorer" class="scoring-rubric" data-part="{part.id}"><qti-content-body>'
            f"{tables}{quotes}</qti-content-body></qti-rubric-block>"
        )
    return out


def _misconceptions(record: ItemRecord) -> str:
    notes = "".join(
        f'<li data-part="{m.part}" data-answer="{escaped(m.answer)}" data-link="{escaped(m.link)}">{escaped(m.note)}</li>'
        for m in record.content.behind.misconceptions
    )
    if not notes:
        return ""
    return (
        '<qti-rubric-block use="instructions" view="author tutor" class="misconceptions"><qti-content-body>'
        f"<ul>{notes}</ul></qti-content-body></qti-rubric-block>"
    )


def write_stimulus(stimulus: StimulusRecord, media: dict[str, str]) -> bytes:
    if stimulus.kind in ("picture", "audio"):
        source = media.get(stimulus.media, stimulus.media)
        body = (
            f'<img src="{escaped(source)}" alt="{escaped(stimulus.told)}"/>'
            if stimulus.kind == "picture"
            else f'<audio src="{escaped(source)}" controls="controls"/>'
        )
    else:
        body = _wrapped(_xml(stimulus.html, media))
    marks = f'data-kind="{stimulus.kind}"' + (' data-numbered="true"' if stimulus.numbered else "")
    marks += f' data-told="{escaped(stimulus.told)}" data-credit="{escaped(stimulus.credit)}"'
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>\n<qti-assessment-stimulus xmlns="{QTI3}" identifier="{escaped(stimulus.code)}" '
        f'title="{escaped(stimulus.title)}"><qti-stimulus-body><div {marks}>{body}</div></qti-stimulus-body></qti-assessment-stimulus>\n'
    ).encode()
