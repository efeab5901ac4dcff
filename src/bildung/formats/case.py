"""CASE 1.0 and 1.1: a framework of standards as the open standard exchanges it, and as a plain CSV."""

from __future__ import annotations

import csv
import io
import json
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from bildung.core.errors import Refused
from bildung.core.items.frameworks import grade_span, grades_between, in_order
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import decode, safe_cell
from bildung.formats.spreadsheet import read_spreadsheet

RELATIONS = (
    "exactMatchOf",
    "isRelatedTo",
    "isPartOf",
    "replacedBy",
    "precedes",
    "exemplar",
    "hasSkillLevel",
    "isPeerOf",
    "isTranslationOf",
)
CHILD = "isChildOf"
NAMESPACE = uuid.UUID("6d0e0f5e-7a1f-5d0a-9a35-2c7a55d1b0aa")
COLUMNS = ("code", "text")
MOST = 20_000
LONGEST = 4_000
OWN = "bildung"  # our fields among a 1.1 item's extensions


@dataclass(frozen=True, kw_only=True)
class StandardRecord:
    """parent: identifier of the one above, or empty. kind: the framework's own word (strand, standard …)."""

    identifier: str
    code: str
    text: str
    plain: str = ""
    kind: str = ""
    subject: str = ""
    grade: str = ""
    grade_to: str = ""
    priority: bool = False
    parent: str = ""
    position: float = 0.0


@dataclass(frozen=True)
class RelationRecord:
    """Between standards of this framework and others, by identifier."""

    origin: str
    relation: str
    destination: str


@dataclass(frozen=True, kw_only=True)
class FrameworkRecord:
    identifier: str
    title: str
    version: str = ""
    creator: str = ""
    language: str = "en"
    standards: tuple[StandardRecord, ...] = ()
    links: tuple[RelationRecord, ...] = ()


def own_identifier(*parts: str) -> str:
    """The same identifier for the same words, where a file brings none."""
    return str(uuid.uuid5(NAMESPACE, "\0".join(parts)))


def read_case(file: str, data: bytes) -> FrameworkRecord:
    """A CFPackage."""
    try:
        package = json.loads(decode(file, data))
    except RecursionError:
        raise ImportProblem(file=file, found="JSON nested too deeply", allowed="a CFPackage is expected") from None
    except json.JSONDecodeError as error:
        raise ImportProblem(
            file=file,
            found=f"not JSON: {error.msg}",
            allowed="a CFPackage is expected",
            line=error.lineno,
            column=str(error.colno),
        ) from None
    if not isinstance(package, dict) or not isinstance(package.get("CFDocument"), dict):
        raise ImportProblem(
            file=file,
            found="no CFDocument",
            allowed="a CFPackage with CFDocument, CFItems and CFAssociations is expected",
        )
    document = package["CFDocument"]
    items, associations = (_list(file, package, name) for name in ("CFItems", "CFAssociations"))
    if len(items) > MOST:
        raise ImportProblem(file=file, found=f"{len(items)} standards", allowed=f"at most {MOST} are read")
    parents: dict[str, tuple[str, float]] = {}
    links = []
    for at, entry in enumerate(associations):
        place = f"CFAssociations[{at}]"
        kind = _text(file, entry, "associationType", place, True)
        origin, destination = (_node(file, entry, name, place) for name in ("originNodeURI", "destinationNodeURI"))
        if kind == CHILD:
            number = entry.get("sequenceNumber")
            parents[origin] = destination, float(number) if isinstance(number, (int, float)) else float(at)
        elif kind in RELATIONS:
            links.append(RelationRecord(origin, kind, destination))
    standards = tuple(_item(file, entry, at, parents) for at, entry in enumerate(items))
    record = FrameworkRecord(
        identifier=_text(file, document, "identifier", "CFDocument", True),
        title=_text(file, document, "title", "CFDocument", True),
        version=_text(file, document, "version", "CFDocument"),
        creator=_text(file, document, "creator", "CFDocument"),
        language=_text(file, document, "language", "CFDocument") or "en",
        standards=standards,
        links=tuple(links),
    )
    return checked(file, record)


def _list(file: str, package: dict[str, Any], name: str) -> list[dict[str, Any]]:
    found = package.get(name, [])
    if not isinstance(found, list) or not all(isinstance(entry, dict) for entry in found):
        raise ImportProblem(file=file, found=f"{name} is no list of objects", allowed="as CASE states it")
    return found


def _text(file: str, entry: dict[str, Any], name: str, place: str, needed: bool = False) -> str:
    value = entry.get(name)
    if value is None and not needed:
        return ""
    if not isinstance(value, str) or (needed and not value.strip()):
        raise ImportProblem(
            file=file, found=f"{place}.{name} is {'missing' if value in (None, '') else 'no text'}", allowed="a text"
        )
    if len(value) > LONGEST:
        raise ImportProblem(
            file=file, found=f"{place}.{name} has {len(value)} characters", allowed=f"at most {LONGEST}"
        )
    return " ".join(value.split())


def _node(file: str, entry: dict[str, Any], name: str, place: str) -> str:
    node = entry.get(name)
    if not isinstance(node, dict):
        raise ImportProblem(file=file, found=f"{place}.{name} is missing", allowed="an object with an identifier")
    return _text(file, node, "identifier", f"{place}.{name}", True)


def _item(file: str, entry: dict[str, Any], at: int, parents: dict[str, tuple[str, float]]) -> StandardRecord:
    place = f"CFItems[{at}]"
    identifier = _text(file, entry, "identifier", place, True)
    levels = entry.get("educationLevel") or []
    if not isinstance(levels, list) or not all(isinstance(level, str) for level in levels):
        raise ImportProblem(file=file, found=f"{place}.educationLevel is no list of texts", allowed="grades such as 06")
    first, last = grade_span(levels)
    own = entry.get("extensions")
    own = own.get(OWN, {}) if isinstance(own, dict) else {}
    own = own if isinstance(own, dict) else {}
    subjects = entry.get("subject") or []
    parent, position = parents.get(identifier, ("", float(at)))
    return StandardRecord(
        identifier=identifier,
        code=_text(file, entry, "humanCodingScheme", place),
        text=_text(file, entry, "fullStatement", place, True),
        plain=_text(file, own, "plain", f"{place}.extensions.{OWN}") or _text(file, entry, "alternativeLabel", place),
        kind=_text(file, entry, "CFItemType", place),
        subject=str(subjects[0]) if isinstance(subjects, list) and subjects else "",
        grade=first,
        grade_to=last,
        priority=own.get("priority") is True,
        parent=parent,
        position=position,
    )


def checked(file: str, record: FrameworkRecord) -> FrameworkRecord:
    """The same with standards in reading order, subjects and parents that hold; or what is wrong with it."""
    seen: set[str] = set()
    codes: set[str] = set()
    for s in record.standards:
        if s.identifier in seen:
            raise ImportProblem(
                file=file, found=f"identifier {s.identifier} twice", allowed="each standard has its own"
            )
        if s.code and s.code in codes:
            raise ImportProblem(file=file, found=f"code {s.code} twice", allowed="each code once in a framework")
        seen.add(s.identifier)
        codes.add(s.code)
    by_id = {s.identifier: s for s in record.standards}
    try:
        order = in_order(
            {s.identifier: s.parent or None for s in record.standards},
            {s.identifier: s.position for s in record.standards},
        )
    except Refused as error:
        name = str(error).split(" ", 1)[0]
        raise ImportProblem(
            file=file, found=f"{by_id[name].code or by_id[name].text} stands below itself", allowed="a tree"
        ) from None
    subject: dict[str, str] = {}
    standards = []
    for at, placed in enumerate(order):
        s = by_id[placed.key]
        parent = s.parent if s.parent in by_id else ""
        subject[s.identifier] = s.subject or subject.get(parent, "")
        standards.append(replace(s, parent=parent, position=float(at), subject=subject[s.identifier]))
    return replace(record, standards=tuple(standards))


def write_case(record: FrameworkRecord, version: str, base: str, at: datetime) -> dict[str, Any]:
    """A CFPackage of version 1.0 or 1.1. base: the address that its URIs begin with. 1.0 has no place for priority
    marks; the family sentence goes into alternativeLabel in both."""
    api = f"{base.rstrip('/')}/ims/case/v1p{version[-1]}"
    moment = at.strftime("%Y-%m-%dT%H:%M:%SZ")

    def uri(kind: str, identifier: str) -> str:
        return f"{api}/{kind}/{identifier}"

    def node(identifier: str, title: str, kind: str = "CFItems") -> dict[str, str]:
        return {"title": title, "identifier": identifier, "uri": uri(kind, identifier)}

    document = {
        "identifier": record.identifier,
        "uri": uri("CFDocuments", record.identifier),
        "title": record.title,
        "creator": record.creator or "unknown",
        "version": record.version,
        "language": record.language,
        "lastChangeDateTime": moment,
        "CFPackageURI": node(record.identifier, record.title, "CFPackages"),
    }
    titles = {s.identifier: s.code or s.text[:80] for s in record.standards}
    items, associations = [], []

    def associate(kind: str, origin: str, destination: str, destination_kind: str, number: int | None) -> None:
        identifier = own_identifier(origin, kind, destination)
        entry: dict[str, Any] = {
            "identifier": identifier,
            "uri": uri("CFAssociations", identifier),
            "associationType": kind,
            "originNodeURI": node(origin, titles.get(origin, origin)),
            "destinationNodeURI": node(destination, titles.get(destination, record.title), destination_kind),
            "lastChangeDateTime": moment,
        }
        if number is not None:
            entry["sequenceNumber"] = number
        associations.append(entry)

    for number, s in enumerate(record.standards, 1):
        item: dict[str, Any] = {
            "identifier": s.identifier,
            "uri": uri("CFItems", s.identifier),
            "fullStatement": s.text,
            "humanCodingScheme": s.code,
            "alternativeLabel": s.plain,
            "CFItemType": s.kind,
            "educationLevel": [
                g if g == "K" else f"{int(g):02d}" if g.isdecimal() else g for g in grades_between(s.grade, s.grade_to)
            ],
            "language": record.language,
            "lastChangeDateTime": moment,
            "CFDocumentURI": node(record.identifier, record.title, "CFDocuments"),
        }
        item = {name: value for name, value in item.items() if value not in ("", [])}
        if version == "1.1":
            own: dict[str, Any] = {"priority": True} if s.priority else {}
            if s.subject:
                item["subject"] = [s.subject]
            if own:
                item["extensions"] = {OWN: own}
        items.append(item)
        top = s.parent or record.identifier
        associate(CHILD, s.identifier, top, "CFItems" if s.parent else "CFDocuments", number)
    for link in record.links:
        associate(link.relation, link.origin, link.destination, "CFItems", None)
    return {"CFDocument": document, "CFItems": items, "CFAssociations": associations}


def read_framework_sheet(file: str, data: bytes, title: str) -> FrameworkRecord:
    """CSV or XLSX: code and text, optional parent (a code), plain, kind, subject, grade, grade_to, priority."""
    sheet = read_spreadsheet(file, data, COLUMNS)
    if len(sheet.rows) > MOST:
        raise ImportProblem(file=file, found=f"{len(sheet.rows)} standards", allowed=f"at most {MOST} are read")
    identifier = own_identifier("framework", title)
    by_code: dict[str, str] = {}
    rows = []
    for row in sheet.rows:
        if not row["code"] or not row["text"]:
            raise sheet.problem(
                row, "code" if not row["code"] else "text", "empty", "each standard has a code and a text"
            )
        if row["code"] in by_code:
            raise sheet.problem(row, "code", f"{row['code']} again", "each code once")
        if len(row["text"]) > LONGEST:
            raise sheet.problem(row, "text", f"{len(row['text'])} characters", f"at most {LONGEST}")
        by_code[row["code"]] = own_identifier(identifier, row["code"])
        rows.append(row)
    standards = []
    for at, row in enumerate(rows):
        parent = row.get("parent")
        if parent and parent not in by_code:
            raise sheet.problem(row, "parent", repr(parent), "the code of another row")
        priority = row.get("priority").lower()
        if priority not in ("", "yes", "no", "x", "1", "0", "true", "false"):
            raise sheet.problem(row, "priority", repr(priority), "yes, no or empty")
        first, last = grade_span([row.get("grade"), row.get("grade_to")])
        standards.append(
            StandardRecord(
                identifier=by_code[row["code"]],
                code=row["code"],
                text=row["text"],
                plain=row.get("plain"),
                kind=row.get("kind"),
                subject=row.get("subject"),
                grade=first,
                grade_to=last,
                priority=priority in ("yes", "x", "1", "true"),
                parent=by_code.get(parent, ""),
                position=float(at),
            )
        )
    return checked(file, FrameworkRecord(identifier=identifier, title=title, standards=tuple(standards)))


def write_framework_sheet(record: FrameworkRecord) -> bytes:
    """The same columns out; links are not in it."""
    codes = {s.identifier: s.code for s in record.standards}
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(("code", "text", "parent", "plain", "kind", "subject", "grade", "grade_to", "priority"))
    for s in record.standards:
        cells: Sequence[str] = (
            s.code or s.identifier,
            s.text,
            codes.get(s.parent) or s.parent,
            s.plain,
            s.kind,
            s.subject,
            s.grade,
            s.grade_to,
            "yes" if s.priority else "",
        )
        writer.writerow([safe_cell(cell) for cell in cells])
    return out.getvalue().encode()
