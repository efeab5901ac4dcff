"""Results on their way to a school's records: OneRoster 1.2 Gradebook, as CSV files and over REST.

A line item is a test in a class, a result one student's points in it; both have ids of their own that stay the same, so that what is
sent twice is there once. Every result carries a score status of the standard: ``fully graded``, ``submitted`` (it waits for a score),
``not submitted``, ``exempt``.
"""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any, Literal
from urllib.parse import quote

import httpx2 as httpx

from bildung.formats.oneroster_rest import Unreachable, ask_token

BASE = "/ims/oneroster/gradebook/v1p2"
SCOPE = "https://purl.imsglobal.org/spec/or/v1p2/scope/gradebook.createput"
SECONDS = 30
WITH_ITS_TEST = "its test was refused"
Status = Literal["fully graded", "submitted", "not submitted", "exempt"]


@dataclass(frozen=True, kw_only=True)
class LineItem:
    """A test in a class. day: on which it was taken. possible: most points."""

    id: str
    title: str
    day: date
    class_id: str
    school_id: str
    category: str
    possible: float


@dataclass(frozen=True, kw_only=True)
class GradeResult:
    """One student's. score: None without one. late, missing: as the standard has them."""

    id: str
    line_item: str
    student_id: str
    class_id: str
    status: Status
    score: float | None
    day: date
    late: bool = False
    missing: bool = False


@dataclass(frozen=True)
class Refusal:
    """What a records system said of one thing that it did not take."""

    id: str
    why: str


def category_id(title: str) -> str:
    """Of a kind of test; the same for the same words."""
    return "bildung-" + "-".join(title.lower().split())


Row = dict[str, str]


def as_csv(items: Sequence[LineItem], results: Sequence[GradeResult], at: datetime) -> bytes:
    """A zip of the standard's files, all of them full (``bulk``)."""
    base = {"status": "active", "dateLastModified": _stamp(at)}
    tables = {
        "categories": (CATEGORY, [_category(title) | base for title in sorted({i.category for i in items})]),
        "lineItems": (LINE_ITEM, [_line_item(i) | base for i in items]),
        "lineItemScoreScales": (ITEM_SCALE, [_item_scale(i) | base for i in items]),
        "results": (RESULT, [_result(r) | base for r in results]),
        "scoreScales": (SCALE, [_scale(i) | base for i in items]),
    }
    manifest = {"manifest.version": "1.0", "oneroster.version": "1.2"} | {f"file.{name}": "bulk" for name in tables}
    manifest |= {"source.systemName": "Bildung", "source.systemCode": "bildung"}
    told = [{"propertyName": name, "value": value} for name, value in manifest.items()]
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, (columns, rows) in {"manifest": (("propertyName", "value"), told), **tables}.items():
            text = io.StringIO()
            writer = csv.DictWriter(text, columns, lineterminator="\r\n", restval="")
            writer.writeheader()
            writer.writerows(rows)
            entry = zipfile.ZipInfo(f"{name}.csv", (at.year, at.month, at.day, 0, 0, 0))
            archive.writestr(entry, text.getvalue().encode())
    return made.getvalue()


HEAD = ("sourcedId", "status", "dateLastModified")
CATEGORY = (*HEAD, "title", "weight")
LINE_ITEM = (
    *(*HEAD, "title", "description", "assignDate", "dueDate", "classSourcedId", "categorySourcedId"),
    *("gradingPeriodSourcedId", "resultValueMin", "resultValueMax", "schoolSourcedId"),
)
ITEM_SCALE = (*HEAD, "lineItemSourcedId", "scoreScaleSourcedId")
SCALE = (*HEAD, "title", "type", "orgSourcedId", "courseSourcedId", "classSourcedId", "scoreScaleValue")
RESULT = (
    *(*HEAD, "lineItemSourcedId", "studentSourcedId", "scoreStatus", "score", "scoreDate", "comment"),
    *("classSourcedId", "inProgress", "incomplete", "late", "missing"),
)


def _category(title: str) -> Row:
    return {"sourcedId": category_id(title), "title": title}


def _line_item(item: LineItem) -> Row:
    return {
        "sourcedId": item.id,
        "title": item.title,
        "assignDate": item.day.isoformat(),
        "dueDate": item.day.isoformat(),
        "classSourcedId": item.class_id,
        "categorySourcedId": category_id(item.category),
        "resultValueMin": "0",
        "resultValueMax": f"{item.possible:g}",
        "schoolSourcedId": item.school_id,
    }


def _item_scale(item: LineItem) -> Row:
    return {
        "sourcedId": f"{item.id}-on-points",
        "lineItemSourcedId": item.id,
        "scoreScaleSourcedId": f"{item.id}-points",
    }


def _scale(item: LineItem) -> Row:
    return {
        "sourcedId": f"{item.id}-points",
        "title": f"Points of {item.title}",
        "type": "points",
        "orgSourcedId": item.school_id,
        "classSourcedId": item.class_id,
        "scoreScaleValue": f"{{0:0}},{{{item.possible:g}:100}}",
    }


def _result(result: GradeResult) -> Row:
    return {
        "sourcedId": result.id,
        "lineItemSourcedId": result.line_item,
        "studentSourcedId": result.student_id,
        "scoreStatus": result.status,
        "score": "" if result.score is None else f"{result.score:g}",
        "scoreDate": result.day.isoformat(),
        "classSourcedId": result.class_id,
        "inProgress": "false",
        "incomplete": "false",
        "late": _said(result.late),
        "missing": _said(result.missing),
    }


def line_item_body(item: LineItem, at: datetime) -> dict[str, Any]:
    """As the REST binding has it."""
    return {
        "lineItem": {
            "sourcedId": item.id,
            "status": "active",
            "dateLastModified": _stamp(at),
            "title": item.title,
            "assignDate": item.day.isoformat(),
            "dueDate": item.day.isoformat(),
            "class": _ref("classes", item.class_id, "class"),
            "school": _ref("orgs", item.school_id, "org"),
            "category": _ref("categories", category_id(item.category), "category"),
            "resultValueMin": 0,
            "resultValueMax": item.possible,
        }
    }


def result_body(result: GradeResult, at: datetime) -> dict[str, Any]:
    """As the REST binding has it."""
    body: dict[str, Any] = {
        "sourcedId": result.id,
        "status": "active",
        "dateLastModified": _stamp(at),
        "lineItem": _ref("lineItems", result.line_item, "lineItem"),
        "student": _ref("users", result.student_id, "user"),
        "class": _ref("classes", result.class_id, "class"),
        "scoreStatus": result.status,
        "scoreDate": result.day.isoformat(),
        "late": _said(result.late),
        "missing": _said(result.missing),
    }
    if result.score is not None:
        body["score"] = result.score
    return {"result": body}


def _ref(collection: str, id: str, kind: str) -> dict[str, str]:
    return {"href": f"{BASE}/{collection}/{quote(id, safe='')}", "sourcedId": id, "type": kind}


def _said(yes: bool) -> str:
    return "true" if yes else "false"


def _stamp(at: datetime) -> str:
    return at.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.000Z")


Kept = Callable[[str, str], None]
Tell = Callable[[str, int, int], None]


def send(
    address: str,
    client: str,
    secret: str,
    items: Sequence[LineItem],
    results: Sequence[GradeResult],
    at: datetime,
    kept: Kept,
    tell: Tell,
    transport: httpx.BaseTransport | None = None,
) -> list[Refusal]:
    """Put all of it, tests before results. kept: called with "lineItem" or "result" and the id of each that was taken, at once, so that
    what was taken is known where the system goes down in the middle. Raises Unreachable then. What it refused, with its reason."""
    address = address.rstrip("/")
    refused: list[Refusal] = []
    total = len(items) + len(results)
    try:
        with httpx.Client(timeout=SECONDS, transport=transport) as http:
            headers = {"authorization": f"Bearer {ask_token(http, address, client, secret, SCOPE)}"}
            for title in sorted({i.category for i in items}):
                body = {
                    "sourcedId": category_id(title),
                    "status": "active",
                    "dateLastModified": _stamp(at),
                    "title": title,
                }
                _put(http, address, "categories", category_id(title), {"category": body}, headers)
            no_test = set()
            for n, item in enumerate(items):
                tell("sending tests and results", n, total)
                why = _put(http, address, "lineItems", item.id, line_item_body(item, at), headers)
                if why:
                    no_test.add(item.id)
                    refused.append(Refusal(item.id, why))
                else:
                    kept("lineItem", item.id)
            for n, result in enumerate(results, len(items)):
                tell("sending tests and results", n, total)
                if result.line_item in no_test:
                    refused.append(Refusal(result.id, WITH_ITS_TEST))
                    continue
                why = _put(http, address, "results", result.id, result_body(result, at), headers)
                if why:
                    refused.append(Refusal(result.id, why))
                else:
                    kept("result", result.id)
    except httpx.HTTPError as error:
        raise Unreachable(f"the records system at {address} cannot be reached ({type(error).__name__})") from None
    return refused


def _put(
    http: httpx.Client, address: str, collection: str, id: str, body: dict[str, Any], headers: dict[str, str]
) -> str:
    """Why it was refused; empty where it was taken."""
    answer = http.put(f"{address}{BASE}/{collection}/{quote(id, safe='')}", json=body, headers=headers)
    if answer.status_code in (200, 201, 204):
        return ""
    if answer.status_code in (401, 403):
        raise Unreachable("the records system refuses this client to write results")
    if answer.status_code >= 500 or answer.status_code == 429:
        raise Unreachable(f"the records system answered with status {answer.status_code}")
    try:
        said = answer.json()
    except ValueError:
        said = {}
    why = said.get("imsx_description") if isinstance(said, dict) else None
    return str(why)[:300] if why else f"refused with status {answer.status_code}"
