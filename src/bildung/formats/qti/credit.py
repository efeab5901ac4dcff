"""What QTI answers are worth: mappings with their bounds, whether response processing uses them, and what it does else."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

NEAR = 1e-9
# what response processing is read to say; anything else is rules of its own, which are named before the import
UNDERSTOOD = {
    "qti-response-processing",
    "qti-response-condition",
    "qti-response-if",
    "qti-response-else-if",
    "qti-response-else",
    "qti-set-outcome-value",
    "qti-base-value",
    "qti-variable",
    "qti-correct",
    "qti-match",
    "qti-equal",
    "qti-is-null",
    "qti-not",
    "qti-and",
    "qti-or",
    "qti-gte",
    "qti-sum",
    "qti-map-response",
    "qti-map-response-point",
    "qti-string-match",
}


class CannotKeep(Exception):
    """Why an item cannot be kept here; said in the preview of the import."""


def number(text: Any, what: str) -> float:
    try:
        value = float(text)
    except (TypeError, ValueError):
        value = math.nan
    if not math.isfinite(value):
        raise CannotKeep(f"{what} {text!r}, which is no number")
    return value


@dataclass(frozen=True, kw_only=True)
class Mapping:
    """Points by answer as the file names it, in its order; what any other answer is worth; bounds of the sum."""

    values: dict[str, float]
    default: float
    lower: float
    upper: float | None
    goes_below: bool

    def worth(self, answer: str) -> float:
        return self.values.get(answer, self.default)

    def most(self, best: Sequence[float]) -> float:
        """The points of an answer made of these pieces."""
        total = sum(best)
        return total if self.upper is None else min(total, self.upper)


def mapping_of(root: Any, declaration: Any) -> Mapping | None:
    """The mapping of a response where its score comes from it; None where there is none or the processing passes it by."""
    node = declaration.find("qti-mapping")
    if node is None or not _uses(root, str(declaration.get("identifier")), "map_response", "qti-map-response"):
        return None
    entries = node.iterfind("qti-map-entry")
    return _mapping(
        node, {str(e.get("map-key")): number(e.get("mapped-value", "0"), "a mapped value of") for e in entries}
    )


def areas_of(declaration: Any) -> tuple[list[tuple[str, float]], Mapping | None]:
    """Areas of a picture with their points, best first; and the bounds."""
    node = declaration.find("qti-area-mapping")
    if node is None:
        return [], None
    areas = [
        (
            f"{e.get('shape')} {str(e.get('coords', '')).replace(',', ' ')}",
            number(e.get("mapped-value", "0"), "a mapped value of"),
        )
        for e in node.iterfind("qti-area-map-entry")
    ]
    return sorted((a for a in areas if a[1] > 0), key=lambda a: -a[1]), _mapping(node, dict(areas))


def _mapping(node: Any, values: dict[str, float]) -> Mapping:
    lower, upper = node.get("lower-bound"), node.get("upper-bound")
    low = None if lower is None else number(lower, "a lower bound of")
    default = number(node.get("default-value", "0"), "a default value of")
    below = (low is None or low < 0) and (default < 0 or any(value < 0 for value in values.values()))
    return Mapping(
        values=values,
        default=default,
        lower=max(0.0, low or 0.0),
        upper=None if upper is None else number(upper, "an upper bound of"),
        goes_below=below,
    )


def _uses(root: Any, identifier: str, template: str, tag: str) -> bool:
    """Whether the score of a response comes from its mapping. A file without processing leaves no other way."""
    processing = root.find("qti-response-processing")
    if processing is None:
        return True
    named = str(processing.get("template", "")) + str(processing.get("template-location", ""))
    if named:
        return template in named
    return len(processing) == 0 or any(node.get("identifier") == identifier for node in processing.iter(tag))


def own_rules(root: Any) -> list[str]:
    """What of the response processing is not kept, in words."""
    processing = root.find("qti-response-processing")
    if processing is None:
        return []
    found = []
    strange = sorted({str(n.tag) for n in processing.iter() if isinstance(n.tag, str) and n.tag not in UNDERSTOOD})
    if strange:
        found.append(f"its own rules of scoring ({', '.join(name.removeprefix('qti-') for name in strange[:3])})")
    values: dict[str, set[float]] = {}
    for setter in processing.iter("qti-set-outcome-value"):
        base = setter.find("qti-base-value")
        if base is not None and str(base.get("base-type")) in ("float", "integer"):
            values.setdefault(str(setter.get("identifier")), set()).add(number((base.text or "").strip(), "points of"))
    if any(len({v for v in some if v > 0}) > 1 for name, some in values.items() if name.startswith("SCORE")):
        found.append("points for other answers set by its response processing")
    if any(v < 0 for some in values.values() for v in some):
        found.append("points taken away by its response processing: an answer earns 0 at least")
    return found


def set_points(root: Any, names: Sequence[str]) -> float | None:
    """What the processing gives for a right answer, where it says so by itself."""
    found = [
        number((base.text or "").strip(), "points of")
        for setter in root.iter("qti-set-outcome-value")
        if setter.get("identifier") in names
        for base in setter.iterfind("qti-base-value")
        if str(base.get("base-type")) in ("float", "integer")
    ]
    return max((value for value in found if value > 0), default=None)


def is_even(credit: dict[str, float], keys: Sequence[str], others: Sequence[str], points: float, lower: float) -> bool:
    """Whether credit is the plain rule of several choices: as much for each right one as is taken for each wrong one."""
    share = points / len(keys)
    even = all(abs(credit.get(k, 0.0) - share) < NEAR for k in keys)
    return even and lower == 0 and all(abs(credit.get(o, 0.0) + share) < NEAR for o in others)
