"""QTI 3.0 packages of simple choice items, in."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import Any

from lxml import etree

from bildung.core.errors import Refused
from bildung.core.scoring.rules import rule_for
from bildung.formats.archive import open_archive
from bildung.formats.itemlist import LETTERS, ItemRecord
from bildung.formats.problem import ImportProblem

QTI = "{http://www.imsglobal.org/xsd/imsqtiasi_v3p0}"
ITEM_TYPE = "imsqti_item_xmlv3p0"
MAX_XML = 4 * 1024 * 1024


def read_package(file: str, data: bytes) -> tuple[ItemRecord, ...]:
    """All items that the manifest lists, or the first problem."""
    contents = open_archive(file, data)
    if "imsmanifest.xml" not in contents:
        raise ImportProblem(file, "no imsmanifest.xml", "a QTI 3.0 package has one at its top")
    manifest = _parse(f"{file}: imsmanifest.xml", contents["imsmanifest.xml"])
    records: list[ItemRecord] = []
    seen: set[str] = set()
    for resource in manifest.iter("{*}resource"):
        if not str(resource.get("type", "")).startswith(ITEM_TYPE):
            continue
        path = str(PurePosixPath(str(resource.get("href", ""))))
        if path not in contents:
            raise ImportProblem(
                f"{file}: imsmanifest.xml", f"{path} is not in the package", "each listed file is in it",
                resource.sourceline,
            )  # fmt: skip
        record = _item(f"{file}: {path}", _parse(f"{file}: {path}", contents[path]), _standards(resource))
        if record.code in seen:
            raise ImportProblem(f"{file}: {path}", f"identifier {record.code} again", "each item has its own")
        seen.add(record.code)
        records.append(record)
    if not records:
        raise ImportProblem(file, "no items", f"resources of type {ITEM_TYPE} are read")
    return tuple(records)


def _parse(place: str, data: bytes) -> Any:
    """An XML tree with no network, no external entities and no entity expansion at all."""
    if len(data) > MAX_XML:
        raise ImportProblem(place, f"{len(data)} bytes", f"at most {MAX_XML} bytes")
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        raise ImportProblem(place, error.msg or "not well-formed", "well-formed XML", error.lineno) from None
    document: Any = root.getroottree().docinfo
    if document.doctype:
        raise ImportProblem(place, "a document type declaration", "QTI 3.0 has none, and entities are refused", 1)
    return root


def _standards(resource: Any) -> tuple[str, ...]:
    """Codes of the aligned standards, from the curriculum metadata of the resource."""
    found = [(node.text or "").strip() for node in resource.iter("{*}targetNodeIdentifier", "{*}identifier")
             if (node.text or "").strip()]  # fmt: skip
    return tuple(dict.fromkeys(found))


def _item(place: str, root: Any, standards: tuple[str, ...]) -> ItemRecord:
    def problem(found: str, allowed: str, node: Any = root) -> ImportProblem:
        return ImportProblem(place, found, allowed, node.sourceline)

    if root.tag != f"{QTI}qti-assessment-item":
        raise problem(f"<{etree.QName(root).localname}>", "a QTI 3.0 qti-assessment-item")
    code = str(root.get("identifier", "")).strip()
    if not code:
        raise problem("no identifier", "each item has one")
    declaration = root.find(f"{QTI}qti-response-declaration")
    body = root.find(f"{QTI}qti-item-body")
    if declaration is None or body is None:
        raise problem("no response declaration or no item body", "a simple choice item has both")
    interactions = [node for node in body.iter() if str(node.tag).endswith("-interaction")]
    if len(interactions) != 1 or interactions[0].tag != f"{QTI}qti-choice-interaction":
        kinds = ", ".join(etree.QName(node).localname for node in interactions) or "no interaction"
        raise problem(kinds, "exactly one qti-choice-interaction")
    interaction = interactions[0]
    choices = interaction.findall(f"{QTI}qti-simple-choice")
    if not 2 <= len(choices) <= len(LETTERS):
        raise problem(f"{len(choices)} choices", f"2 to {len(LETTERS)} choices", interaction)
    letters = {str(c.get("identifier")): LETTERS[at] for at, c in enumerate(choices)}
    if len(letters) != len(choices):
        raise problem("a choice identifier twice", "each choice has its own identifier", interaction)
    correct = [(v.text or "").strip() for v in declaration.iterfind(f"{QTI}qti-correct-response/{QTI}qti-value")]
    unknown = [value for value in correct if value not in letters]
    if len(correct) != 1 or unknown:
        raise problem(f"correct response {correct}", f"one of {', '.join(letters)}", declaration)
    if str(declaration.get("cardinality")) != "single":
        raise problem("cardinality other than single", "a single-choice item", declaration)
    prompt = interaction.find(f"{QTI}qti-prompt")
    stem = "".join(_html(node) for node in body if node is not interaction)
    if prompt is not None:
        stem += _inside(prompt)
    if not stem.strip():
        raise problem("no text before the choices", "a stem or a prompt", body)
    options = tuple((letters[str(c.get("identifier"))], _inside(c)) for c in choices)
    key = letters[correct[0]]
    try:
        rule_for("choice", key, tuple(letters.values()), 1.0)
    except Refused as error:
        raise problem(key, str(error)) from None
    return ItemRecord(code, "choice", stem, options, key, 1.0, standards, place=place)


def _html(node: Any) -> str:
    """A node as HTML text: namespaces dropped, what follows it kept."""
    if not isinstance(node.tag, str):
        return node.tail or ""
    name = etree.QName(node).localname
    attributes = "".join(f' {k}="{_escape(v)}"' for k, v in node.attrib.items() if not k.startswith("{"))
    return f"<{name}{attributes}>{_inside(node)}</{name}>{_escape(node.tail or '')}"


def _inside(node: Any) -> str:
    return _escape(node.text or "") + "".join(_html(child) for child in node)


def _escape(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace('"', "&quot;")
