"""Tests in QTI packages: parts and sections with their items, time limits, movement, attempts, selection.

What a form knows and QTI has no place for (its kind, family, scale, tools, when results are released) stays behind;
what a package says and a form has no place for is named when it is read.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import unquote

from bildung.formats.archive import open_archive
from bildung.formats.problem import ImportProblem
from bildung.formats.qti.packages import _inside
from bildung.formats.qti.tree import as_three, escaped, parse
from bildung.formats.sheet import whole

TEST_TYPES = re.compile(r"imsqti_(assessment|test)_xmlv[23]p\d")
NS = "http://www.imsglobal.org/xsd/imsqtiasi_v3p0"


@dataclass(frozen=True)
class Section:
    """items: codes in order. select: how many of them are drawn, None: all."""

    items: tuple[str, ...]
    select: int | None = None


@dataclass(frozen=True)
class QtiTestPart:
    __test__ = False

    name: str
    instructions: str
    minutes: int | None
    sections: tuple[Section, ...]


@dataclass(frozen=True, kw_only=True)
class TestRecord:
    """linear: one item at a time; back: whether a finished one may be looked at again. lost: what the package says
    that a form has no place for."""

    __test__ = False

    title: str
    parts: tuple[QtiTestPart, ...]
    minutes: int | None = None
    linear: bool = False
    back: bool = True
    attempts: int = 1
    feedback: bool = False
    lost: tuple[str, ...] = ()


def write_test(identifier: str, test: TestRecord, paths: Mapping[str, str]) -> bytes:
    """paths: from the test's file to each item's file, by code."""
    parts = "".join(_part(at, part, test, paths) for at, part in enumerate(test.parts, 1))
    limit = f'<qti-time-limits max-time="{test.minutes * 60}"/>' if test.minutes else ""
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>\n<qti-assessment-test xmlns="{NS}" identifier="{escaped(identifier)}" '
        f'title="{escaped(test.title)}"><qti-outcome-declaration identifier="SCORE" cardinality="single" base-type="float"/>'
        f'{limit}{parts}<qti-outcome-processing><qti-set-outcome-value identifier="SCORE"><qti-sum>'
        '<qti-test-variables variable-identifier="SCORE"/></qti-sum></qti-set-outcome-value></qti-outcome-processing>'
        "</qti-assessment-test>\n"
    ).encode()


def _part(at: int, part: QtiTestPart, test: TestRecord, paths: Mapping[str, str]) -> str:
    limit = f'<qti-time-limits max-time="{part.minutes * 60}"/>' if part.minutes else ""
    said = (
        '<qti-rubric-block view="candidate" use="instructions"><qti-content-body>'
        f"<p>{escaped(part.instructions)}</p></qti-content-body></qti-rubric-block>"
        if part.instructions
        else ""
    )
    sections = []
    for n, section in enumerate(part.sections, 1):
        title = part.name or f"Part {at}"
        select = f'<qti-selection select="{section.select}"/>' if section.select is not None else ""
        refs = "".join(
            f'<qti-assessment-item-ref identifier="{escaped(_id(code))}" href="{escaped(paths[code])}"/>'
            for code in section.items
        )
        sections.append(
            f'<qti-assessment-section identifier="section-{at}-{n}" title="{escaped(title)}" visible="{"true" if part.name and n == 1 else "false"}">'
            f"{select}{said if n == 1 else ''}{refs}</qti-assessment-section>"
        )
    control = (
        f'<qti-item-session-control max-attempts="{test.attempts}" allow-review="{str(test.back).lower()}" '
        f'show-feedback="{str(test.feedback).lower()}"/>'
    )
    mode = "linear" if test.linear else "nonlinear"
    submit = "individual" if test.feedback else "simultaneous"
    return (
        f'<qti-test-part identifier="part-{at}" navigation-mode="{mode}" submission-mode="{submit}">{control}{limit}'
        f"{''.join(sections)}</qti-test-part>"
    )


def _id(code: str) -> str:
    found = re.sub(r"[^A-Za-z0-9_.-]", "_", code)
    return found if re.match(r"[A-Za-z_]", found) else f"i{found}"


def read_test(file: str, data: bytes) -> TestRecord | None:
    """The first test that the manifest lists; None where it lists none. Its items are called by their own identifiers."""
    contents = open_archive(file, data)
    if "imsmanifest.xml" not in contents:
        raise ImportProblem(file=file, found="no imsmanifest.xml", allowed="a QTI package has one at its top")
    manifest = parse(f"{file}: imsmanifest.xml", contents["imsmanifest.xml"])
    for resource in manifest.iter("{*}resource"):
        if TEST_TYPES.match(str(resource.get("type", ""))):
            path = _inside("", unquote(str(resource.get("href", ""))))
            if path not in contents:
                raise ImportProblem(
                    file=f"{file}: imsmanifest.xml",
                    found=f"{path} is not in the package",
                    allowed="each listed file is in it",
                    line=resource.sourceline,
                )
            return _test(f"{file}: {path}", as_three(parse(f"{file}: {path}", contents[path])), path, file, contents)
    return None


def _test(place: str, root: Any, path: str, file: str, contents: Mapping[str, bytes]) -> TestRecord:
    folder = path.rpartition("/")[0]
    lost: list[str] = []
    parts = []
    linear, back, attempts, feedback = False, True, 1, False
    for node in root.iter("{*}qti-test-part"):
        linear |= node.get("navigation-mode") == "linear"
        for control in node.findall("{*}qti-item-session-control"):
            attempts = max(attempts, min(10, _whole(control.get("max-attempts"), 1) or 1))
            back = control.get("allow-review", "true") != "false"
            feedback = control.get("show-feedback", "false") == "true"
        if node.get("submission-mode") != "individual":
            feedback = False
        sections, name, said = [], "", ""
        for section in node.iter("{*}qti-assessment-section"):
            name = name or (str(section.get("title", "")) if section.get("visible") != "false" else "")
            for block in section.findall("{*}qti-rubric-block"):
                said = said or " ".join("".join(block.itertext()).split())
            refs = section.findall("{*}qti-assessment-item-ref")
            codes = tuple(_code(place, ref, folder, file, contents) for ref in refs)
            chosen = section.find("{*}qti-selection")
            if section.find("{*}qti-ordering") is not None:
                lost.append("a section's items in random order")
            if refs:
                sections.append(Section(codes, None if chosen is None else _whole(chosen.get("select"), len(codes))))
        if sections:
            parts.append(QtiTestPart(name, said[:2000], _minutes(node), tuple(sections)))
    for tag, what in (
        ("qti-branch-rule", "branching"),
        ("qti-pre-condition", "conditions for showing an item"),
        ("qti-test-feedback", "feedback by score"),
    ):
        if next(root.iter("{*}" + tag), None) is not None:
            lost.append(what)
    if not parts:
        raise ImportProblem(file=place, found="no items", allowed="a test part has sections with references to items")
    seen: set[str] = set()
    for code in (c for part in parts for s in part.sections for c in s.items):
        if code in seen:
            raise ImportProblem(file=place, found=f"item {code} twice", allowed="an item stands on a form once")
        seen.add(code)
    return TestRecord(
        title=str(root.get("title", "")).strip() or str(root.get("identifier", "")),
        parts=tuple(parts),
        minutes=_minutes(root),
        linear=linear,
        back=back or not linear,
        attempts=attempts,
        feedback=feedback,
        lost=tuple(dict.fromkeys(lost)),
    )


def _code(place: str, ref: Any, folder: str, file: str, contents: Mapping[str, bytes]) -> str:
    path = _inside(folder, unquote(str(ref.get("href", ""))))
    if path not in contents:
        raise ImportProblem(
            file=place,
            found=f"{path} is not in the package",
            allowed="each item that a test names is in it",
            line=ref.sourceline,
        )
    return str(parse(f"{file}: {path}", contents[path]).get("identifier", ""))


def _minutes(node: Any) -> int | None:
    limit = node.find("{*}qti-time-limits")
    try:
        seconds = float(limit.get("max-time", "")) if limit is not None else 0.0
    except ValueError:
        return None
    return max(1, round(min(seconds, 36_000) / 60)) if seconds > 0 else None


def _whole(text: str | None, otherwise: int) -> int:
    found = whole(text or "")
    return otherwise if found is None else found


def sections_of(codes: Sequence[str], heaps: Sequence[tuple[int, Sequence[str]]]) -> tuple[Section, ...]:
    """One section with all, or one for each heap of a drawn test with how many of it are drawn."""
    if not heaps:
        return (Section(tuple(codes)),)
    return tuple(Section(tuple(some), count) for count, some in heaps)
