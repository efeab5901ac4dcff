"""QTI's XML read safely, with 2.1 and 2.2 under the names of 3.0, so that one reader serves all."""

from __future__ import annotations

import re
from typing import Any

from lxml import etree

from bildung.formats.problem import ImportProblem

QTI3 = "http://www.imsglobal.org/xsd/imsqtiasi_v3p0"
QTI2 = re.compile(r"http://www\.imsglobal\.org/xsd/imsqti_v2p[012]")
MAX_XML = 4 * 1024 * 1024
_ROOTS = {
    "assessmentItem": "qti-assessment-item",
    "assessmentStimulus": "qti-assessment-stimulus",
    "assessmentTest": "qti-assessment-test",
}
# what 2.x calls with a name of its own; everything else there is HTML or MathML
_OWN = set(
    [
        "responseDeclaration",
        "outcomeDeclaration",
        "templateDeclaration",
        "defaultValue",
        "correctResponse",
        "value",
        "mapping",
        "mapEntry",
        "areaMapping",
        "areaMapEntry",
        "stylesheet",
        "itemBody",
        "prompt",
        "choiceInteraction",
        "simpleChoice",
        "orderInteraction",
        "matchInteraction",
        "simpleMatchSet",
        "simpleAssociableChoice",
        "associateInteraction",
        "gapMatchInteraction",
        "gapText",
        "gapImg",
        "gap",
        "inlineChoiceInteraction",
        "inlineChoice",
        "textEntryInteraction",
        "extendedTextInteraction",
        "hottextInteraction",
        "hottext",
        "hotspotInteraction",
        "hotspotChoice",
        "selectPointInteraction",
        "graphicOrderInteraction",
        "graphicAssociateInteraction",
        "graphicGapMatchInteraction",
        "sliderInteraction",
        "mediaInteraction",
        "drawingInteraction",
        "uploadInteraction",
        "positionObjectInteraction",
        "customInteraction",
        "endAttemptInteraction",
        "rubricBlock",
        "feedbackBlock",
        "feedbackInline",
        "modalFeedback",
        "responseProcessing",
        "responseCondition",
        "responseIf",
        "responseElseIf",
        "responseElse",
        "setOutcomeValue",
        "and",
        "or",
        "not",
        "match",
        "equal",
        "stringMatch",
        "mapResponse",
        "mapResponsePoint",
        "sum",
        "variable",
        "correct",
        "baseValue",
        "isNull",
        "gte",
        "gt",
        "lt",
        "lte",
        "member",
        "infoControl",
        "templateBlock",
        "templateInline",
        "printedVariable",
        "templateProcessing",
        "assessmentStimulusRef",
        "stimulusBody",
    ]
)


def parse(place: str, data: bytes) -> Any:
    """An XML tree with no network, no external entities and no entity expansion at all."""
    if len(data) > MAX_XML:
        raise ImportProblem(file=place, found=f"{len(data)} bytes", allowed=f"at most {MAX_XML} bytes")
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, remove_comments=True, remove_pis=True
    )
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        raise ImportProblem(
            file=place, found=error.msg or "not well-formed", allowed="well-formed XML", line=error.lineno
        ) from None
    document: Any = root.getroottree().docinfo
    if document.doctype:
        raise ImportProblem(
            file=place, found="a document type declaration", allowed="QTI has none, and entities are refused", line=1
        )
    return root


def as_three(root: Any) -> Any:
    """The same tree with the names of 3.0, without namespaces; whatever is neither version stays as it is."""
    name = etree.QName(root)
    two = bool(QTI2.fullmatch(name.namespace or "")) and name.localname in _ROOTS
    for node in root.iter():
        if not isinstance(node.tag, str):
            continue
        local = etree.QName(node).localname
        own = etree.QName(node).namespace == name.namespace
        if two and own and (local in _OWN or local in _ROOTS):
            node.tag = "qti-" + _kebab(local)
            for key in list(node.attrib):
                if not key.startswith("{") and key != _kebab(key):
                    node.attrib[_kebab(key)] = node.attrib.pop(key)
        else:
            node.tag = local
    etree.cleanup_namespaces(root)
    return root


def _kebab(name: str) -> str:
    return re.sub(r"([a-z0-9])([A-Z])", r"\1-\2", name).lower()


def escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace('"', "&quot;")


def outside(node: Any) -> str:
    """A node as HTML text, with what follows it."""
    if not isinstance(node.tag, str):
        return escaped(node.tail or "")
    attributes = "".join(f' {k}="{escaped(v)}"' for k, v in node.attrib.items() if not k.startswith("{"))
    body = inside(node)
    closed = (
        f"<{node.tag}{attributes}>"
        if node.tag in ("br", "hr", "img")
        else f"<{node.tag}{attributes}>{body}</{node.tag}>"
    )
    return closed + escaped(node.tail or "")


def inside(node: Any) -> str:
    return escaped(node.text or "") + "".join(outside(child) for child in node)
