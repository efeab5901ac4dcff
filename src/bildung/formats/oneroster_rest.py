"""OneRoster 1.2 as JSON over HTTP: asking a records system, page by page, and reading what it says as a roster."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx2 as httpx

from bildung.formats.oneroster import Known, Roster, roster_of
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import Sheet, SheetRow, whole

BASE = "/ims/oneroster/rostering/v1p2"
PAGE = 1000
MOST_PAGES = 2000
SECONDS = 30
OVERLAP = timedelta(hours=1)
COLLECTIONS = ("orgs", "academicSessions", "courses", "users", "classes", "enrollments")
Tell = Callable[[str, int, int], None]


class Unreachable(Exception):
    """The records system did not answer as it should; says what happened in one sentence."""


def fetch(
    address: str,
    client: str,
    secret: str,
    since: datetime | None,
    tell: Tell,
    transport: httpx.BaseTransport | None = None,
) -> dict[str, list[dict[str, Any]]]:
    """Everything, or (since) what changed after that moment, with an hour's overlap because clocks differ."""
    address = address.rstrip("/")
    try:
        with httpx.Client(timeout=SECONDS, transport=transport) as http:
            token = ask_token(http, address, client, secret)
            headers = {"authorization": f"Bearer {token}"}
            return {
                name: list(_pages(http, f"{address}{BASE}/{name}", name, headers, since, tell)) for name in COLLECTIONS
            }
    except httpx.HTTPError as error:
        raise Unreachable(f"the records system at {address} cannot be reached ({type(error).__name__})") from None


ROSTER = "https://purl.imsglobal.org/spec/or/v1p2/scope/roster.readonly"


def ask_token(http: httpx.Client, address: str, client: str, secret: str, wanted: str = ROSTER) -> str:
    """A token for a scope of the standard. Raises Unreachable where none is given."""
    answer = http.post(
        f"{address}/token",
        auth=(client, secret),
        data={
            "grant_type": "client_credentials",
            "scope": wanted,
        },
    )
    if answer.status_code in (400, 401, 403):
        raise Unreachable("the records system refuses the client's name and secret")
    body = _json(answer)
    token = body.get("access_token")
    if answer.status_code != 200 or not isinstance(token, str):
        raise Unreachable(f"the records system gave no token (status {answer.status_code})")
    return token


def _pages(
    http: httpx.Client, url: str, name: str, headers: dict[str, str], since: datetime | None, tell: Tell
) -> Iterator[dict[str, Any]]:
    offset = 0
    for _ in range(MOST_PAGES):
        params: dict[str, str | int] = {"limit": PAGE, "offset": offset}
        if since is not None:
            moment = (since - OVERLAP).astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.000Z")
            params["filter"] = f"dateLastModified>'{moment}'"
        answer = http.get(url, params=params, headers=headers)
        if answer.status_code != 200:
            raise Unreachable(f"the records system answered {name} with status {answer.status_code}")
        found = _json(answer).get(name)
        if not isinstance(found, list) or not all(isinstance(entry, dict) for entry in found):
            raise Unreachable(f"the records system's answer holds no list of {name}")
        yield from found
        offset += len(found)
        total = answer.headers.get("x-total-count", "")
        tell(f"asking for {name}", offset, whole(total) or offset)
        if len(found) < PAGE or offset >= (whole(total) or math.inf):
            return
    raise Unreachable(f"the records system never ends its list of {name}")


def _json(answer: httpx.Response) -> dict[str, Any]:
    try:
        body = answer.json()
    except ValueError:
        raise Unreachable(
            f"the records system answered with something that is no JSON (status {answer.status_code})"
        ) from None
    if not isinstance(body, dict):
        raise Unreachable("the records system answered with something unexpected")
    return body


def roster_from(found: dict[str, list[dict[str, Any]]], delta: bool, known: Known) -> Roster:
    """The same roster as its CSV would give; every rule about what is taken stands in one place."""
    return roster_of(as_sheets(found), delta, known)


def as_sheets(found: dict[str, list[dict[str, Any]]]) -> dict[str, Sheet]:
    """The CSV binding's columns out of the JSON binding's fields."""
    users: list[dict[str, str]] = []
    roles: list[dict[str, str]] = []
    for at, user in enumerate(found.get("users", []), 1):
        users.append(
            _row("users", at, user, "givenName", "familyName", "username")
            | {
                "grades": _join(user.get("grades")),
                "agentSourceIds": _ids(user.get("agents")),
                "enabledUser": "false" if user.get("enabledUser") in (False, "false") else "true",
            }
        )
        for role in user.get("roles") or []:
            roles.append(
                {
                    "sourcedId": f"{user.get('sourcedId')}-{len(roles)}",
                    "userSourcedId": str(user.get("sourcedId")),
                    "role": str(role.get("role", "")),
                    "orgSourcedId": _id(role.get("org")),
                    "status": "",
                }
            )
    tables = {
        "orgs.csv": [_row("orgs", at, o, "name", "type") for at, o in enumerate(found.get("orgs", []), 1)],
        "academicSessions.csv": [
            _row("academicSessions", at, s, "title", "type", "startDate", "endDate")
            for at, s in enumerate(found.get("academicSessions", []), 1)
        ],
        "courses.csv": [_row("courses", at, c, "title") for at, c in enumerate(found.get("courses", []), 1)],
        "users.csv": users,
        "roles.csv": roles,
        "classes.csv": [
            _row("classes", at, c, "title", "location", "classType")
            | {
                "grades": _join(c.get("grades")),
                "subjects": _join(c.get("subjects")),
                "periods": _join(c.get("periods")),
                "schoolSourcedId": _id(c.get("school")),
                "courseSourcedId": _id(c.get("course")),
                "termSourcedIds": _ids(c.get("terms")),
            }
            for at, c in enumerate(found.get("classes", []), 1)
        ],
        "enrollments.csv": [
            _row("enrollments", at, e, "role", "beginDate", "endDate")
            | {"classSourcedId": _id(e.get("class")), "userSourcedId": _id(e.get("user"))}
            for at, e in enumerate(found.get("enrollments", []), 1)
        ],
    }
    return {
        name: Sheet(
            name, tuple(rows[0]) if rows else ("sourcedId",), tuple(SheetRow(at, row) for at, row in enumerate(rows, 1))
        )
        for name, rows in tables.items()
    }


def _row(what: str, at: int, entry: dict[str, Any], *names: str) -> dict[str, str]:
    if not isinstance(entry.get("sourcedId"), str) or not entry["sourcedId"]:
        raise ImportProblem(file=what, found="an entry without sourcedId", allowed="each has its own", line=at)
    values = {name: entry.get(name) for name in ("sourcedId", "status", *names)}
    return {name: "" if value is None else str(value).strip() for name, value in values.items()}


def _id(reference: Any) -> str:
    return str(reference.get("sourcedId", "")) if isinstance(reference, dict) else ""


def _ids(references: Any) -> str:
    return ",".join(_id(r) for r in references) if isinstance(references, list) else ""


def _join(values: Any) -> str:
    return ",".join(str(v) for v in values) if isinstance(values, list) else ""
