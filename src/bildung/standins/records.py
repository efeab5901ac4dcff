"""A stand-in for a school's records system: serves OneRoster 1.2 over HTTP, with what goes wrong in real ones.

Its schools are the demo's. A day passes when somebody says so on its own page; each brings what a week in a school
office brings. Everything is held in memory and begins anew with the process.
"""

from __future__ import annotations

import secrets
from copy import deepcopy
from dataclasses import dataclass, field
from datetime import UTC, datetime
from html import escape
from typing import Any

from fastapi import FastAPI, Header, HTTPException, Query, Request, Response
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from fastapi.security import HTTPBasic

from bildung.formats.sheet import read_sheet

GRADES = "/ims/oneroster/gradebook/v1p2"
GRADEBOOK = ("categories", "lineItems", "results")
SHUT = ("BM-6M5",)  # classes whose grades are closed in this office
PATH = "/ims/oneroster/rostering/v1p2"
CLIENT, SECRET = "bildung", "stand-in"
BEGAN = "2026-08-01T06:00:00.000Z"
NAMES = {
    "orgs": "orgs.csv",
    "academicSessions": "academicSessions.csv",
    "users": "users.csv",
    "classes": "classes.csv",
    "enrollments": "enrollments.csv",
}
DOUBLE_CLASS, SECOND_ID, LATE, LATE_NAME = "BM-S0031", "BM-S0362", "BM-S0361", ("Ludo", "Okafor-Brandt")
DAYS = (
    "the year as it was handed over",
    "a late arrival, a married name, somebody who left, and one put into a second class without leaving the first",
    "a teacher left and nobody was entered; somebody was entered twice",
    "the export was cut short: one student in six is marked as gone",
    "the export is whole again",
)


@dataclass(kw_only=True)
class Office:
    """The records, collection by collection, by id. day: how many have passed. arrived: tests and results that were sent here; puts: how
    often anything was. down_after: so many more are taken, and then it is down."""

    tables: dict[str, dict[str, dict[str, Any]]]
    clock: Any
    day: int = 0
    tokens: set[str] = field(default_factory=set)
    hidden: list[str] = field(default_factory=list)
    arrived: dict[str, dict[str, dict[str, Any]]] = field(default_factory=lambda: {name: {} for name in GRADEBOOK})
    puts: int = 0
    down_after: int | None = None

    def stamp(self) -> str:
        return str(self.clock().astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.%f")[:-3] + "Z")

    def put(self, collection: str, id: str, **values: Any) -> None:
        entry = self.tables[collection].setdefault(id, {"sourcedId": id, "status": "active"})
        entry.update(values)
        entry["dateLastModified"] = self.stamp()

    def next_day(self) -> None:
        self.day += 1
        (self._first, self._second, self._cut, self._whole)[min(self.day, 4) - 1]()

    def _student(self, number: int) -> str:
        return f"BM-S{number:04d}"

    def enrol(self, klass: str, user: str, role: str = "student") -> None:
        self.put(
            "enrollments",
            f"{klass}-{user}",
            role=role,
            user={"sourcedId": user, "type": "user"},
            **{"class": {"sourcedId": klass, "type": "class"}},
            beginDate=self.stamp()[:10],
        )

    def _first(self) -> None:
        school = {"sourcedId": "BM", "type": "org"}
        self.put(
            "users",
            "BM-S0401",
            givenName="Anouk",
            familyName="Tideswell",
            username="",
            grades=["07"],
            enabledUser="true",
            roles=[{"roleType": "primary", "role": "student", "org": school}],
            agents=[{"sourcedId": "BM-F0401", "type": "user"}],
        )
        self.put(
            "users",
            "BM-F0401",
            givenName="Rutger",
            familyName="Tideswell",
            username="rutger.tideswell",
            grades=[],
            enabledUser="true",
            roles=[{"roleType": "primary", "role": "guardian", "org": school}],
            agents=[],
        )
        self.enrol("BM-7M2", "BM-S0401")
        self.enrol("BM-7R4", "BM-S0401")
        self.put("users", self._student(52), familyName="Hallam-Wray")
        self.put("users", self._student(204), status="tobedeleted")
        for entry in list(self.tables["enrollments"].values()):
            if entry["user"]["sourcedId"] == self._student(204):
                self.put("enrollments", entry["sourcedId"], status="tobedeleted")
        self.enrol("BM-8M1" if "BM-8M1-BM-S0300" not in self.tables["enrollments"] else "BM-8M2", self._student(300))

    def _second(self) -> None:
        self.put("enrollments", "BM-6R2-T", status="tobedeleted")
        twin = self.tables["users"][self._student(77)]
        self.put(
            "users",
            "BM-S0402",
            **{k: deepcopy(v) for k, v in twin.items() if k not in ("sourcedId", "dateLastModified")},
        )

    def _cut(self) -> None:
        students = [
            id
            for id, u in self.tables["users"].items()
            if u["roles"][0]["role"] == "student" and u["status"] == "active"
        ]
        self.hidden = students[::6]
        for id in self.hidden:
            self.put("users", id, status="tobedeleted")

    def _whole(self) -> None:
        for id in self.hidden:
            self.put("users", id, status="active")
        self.hidden = []


def office_of(files: dict[str, bytes], clock: Any) -> Office:
    """The records of these roster files, as they were handed over."""
    sheets = {name: read_sheet(name, data, ("sourcedId",)) for name, data in files.items()}
    tables: dict[str, dict[str, dict[str, Any]]] = {name: {} for name in NAMES}
    for collection, file in NAMES.items():
        for row in sheets[file].rows:
            entry = _entry(collection, row.cells)
            tables[collection][entry["sourcedId"]] = {"status": "active", "dateLastModified": BEGAN, **entry}
    office = Office(tables=tables, clock=clock)
    return office


def demo_office(files: dict[str, bytes], clock: Any) -> Office:
    """The same, with the slips that the demo's records have."""
    office = office_of(files, clock)
    _as_handed_over(office)
    return office


def _as_handed_over(office: Office) -> None:
    """What was wrong in the records from the start; the demo's roster has the same."""
    stamp, enrolments = BEGAN, office.tables["enrollments"]
    own = {e["class"]["sourcedId"] for e in enrolments.values() if e["user"]["sourcedId"] == DOUBLE_CLASS}
    other = next(id for id in office.tables["classes"] if id.startswith("BM-6M") and id not in own)
    office.enrol(other, DOUBLE_CLASS)
    twin = office.tables["users"]["BM-S0150"]
    office.put(
        "users",
        SECOND_ID,
        **{k: deepcopy(v) for k, v in twin.items() if k not in ("sourcedId", "dateLastModified", "agents")},
        agents=[],
    )
    office.enrol("BM-7R1", SECOND_ID)
    org = {"sourcedId": "BM", "type": "org"}
    office.put(
        "users",
        LATE,
        givenName=LATE_NAME[0],
        familyName=LATE_NAME[1],
        username="",
        grades=["06"],
        enabledUser="true",
        roles=[{"roleType": "primary", "role": "student", "org": org}],
        agents=[],
    )
    office.put("enrollments", "BM-8R5-T", status="tobedeleted")
    for table in office.tables.values():
        for entry in table.values():
            entry["dateLastModified"] = stamp


def _entry(collection: str, cells: dict[str, str]) -> dict[str, Any]:
    """A row of the CSV binding as an object of the JSON binding."""
    if collection == "users":
        org = {"sourcedId": cells["orgSourcedIds"], "type": "org"}
        return {
            "sourcedId": cells["sourcedId"],
            "givenName": cells["givenName"],
            "familyName": cells["familyName"],
            "username": cells["username"],
            "enabledUser": cells["enabledUser"],
            "grades": [cells["grades"]] if cells["grades"] else [],
            "roles": [{"roleType": "primary", "role": cells["role"], "org": org}],
            "agents": [{"sourcedId": id, "type": "user"} for id in cells.get("agentSourceIds", "").split(",") if id],
        }
    if collection == "classes":
        return {
            "sourcedId": cells["sourcedId"],
            "title": cells["title"],
            "location": cells["location"],
            "grades": [cells["grades"]],
            "classType": cells.get("classType") or "scheduled",
            "subjects": [cells["subjects"]] if cells["subjects"] else [],
            "periods": [p for p in cells.get("periods", "").split(",") if p],
            "school": {"sourcedId": cells["schoolSourcedId"], "type": "org"},
            "terms": [{"sourcedId": cells["termSourcedIds"], "type": "academicSession"}],
        }
    if collection == "enrollments":
        return {
            "sourcedId": cells["sourcedId"],
            "role": cells["role"],
            "user": {"sourcedId": cells["userSourcedId"], "type": "user"},
            "class": {"sourcedId": cells["classSourcedId"], "type": "class"},
        }
    return dict(cells)


def _wrong(office: Office, collection: str, id: str, body: dict[str, Any]) -> str:
    """Why this office does not take it; empty where it does."""
    if collection not in GRADEBOOK:
        return f"there is no collection {collection}"
    if body.get("sourcedId") != id:
        return "the id of the address is not that of the body"
    if collection == "lineItems":
        klass = body["class"]["sourcedId"]
        if klass not in office.tables["classes"]:
            return f"there is no class {klass}"
        return f"the grades of class {klass} are closed" if klass in SHUT else ""
    if collection == "results":
        student, test = body["student"]["sourcedId"], office.arrived["lineItems"].get(body["lineItem"]["sourcedId"])
        if student not in office.tables["users"]:
            return f"there is no student {student}"
        if test is None:
            return "there is no such test"
        if "score" in body and not test["resultValueMin"] <= body["score"] <= test["resultValueMax"]:
            return f"{body['score']:g} is not within {test['resultValueMin']:g} and {test['resultValueMax']:g}"
    return ""


def _table(office: Office) -> str:
    rows = []
    for id, test in office.arrived["lineItems"].items():
        scores = [
            r["score"] for r in office.arrived["results"].values() if r["lineItem"]["sourcedId"] == id and "score" in r
        ]
        n = sum(r["lineItem"]["sourcedId"] == id for r in office.arrived["results"].values())
        mean = f"{sum(scores) / len(scores):.1f} of {test['resultValueMax']:g}" if scores else ""
        rows.append(
            f"<tr><td>{escape(test['title'])}<td>{escape(test['class']['sourcedId'])}<td align=right>{n}<td align=right>{mean}"
        )
    return "".join(rows)


def create_records(office: Office) -> FastAPI:
    app = FastAPI(title="Records system (simulated)", docs_url=None, redoc_url=None, openapi_url=None)
    basic = HTTPBasic()

    @app.post("/token")
    async def token(request: Request) -> dict[str, Any]:
        given = await basic(request)
        if given is None or (given.username, given.password) != (CLIENT, SECRET):
            raise HTTPException(401, "unknown client")
        made = secrets.token_urlsafe(16)
        office.tokens.add(made)
        return {"access_token": made, "token_type": "Bearer", "expires_in": 3600}

    @app.get(PATH + "/{collection}")
    def collection(
        collection: str,
        response: Response,
        limit: int = Query(100, ge=1, le=5000),
        offset: int = Query(0, ge=0),
        filter: str = "",
        authorization: str = Header(""),
    ) -> dict[str, Any]:
        if authorization.removeprefix("Bearer ") not in office.tokens:
            raise HTTPException(401, "no token")
        entries = list(office.tables.get(collection, {}).values())
        if filter:
            since = datetime.fromisoformat(filter.removeprefix("dateLastModified>").strip("'"))
            entries = [e for e in entries if datetime.fromisoformat(e["dateLastModified"]) > since]
        else:
            entries = [e for e in entries if e["status"] == "active"]
        response.headers["x-total-count"] = str(len(entries))
        return {collection: entries[offset : offset + limit]}

    @app.put(GRADES + "/{collection}/{id}")
    async def put(collection: str, id: str, request: Request, authorization: str = Header("")) -> JSONResponse:
        if authorization.removeprefix("Bearer ") not in office.tokens:
            raise HTTPException(401, "no token")
        if office.down_after is not None:
            office.down_after -= 1
            if office.down_after < 0:
                raise HTTPException(503, "down for maintenance")
        office.puts += 1
        body = next(iter((await request.json()).values()))
        why = _wrong(office, collection, id, body)
        if why:
            told = {"imsx_codeMajor": "failure", "imsx_severity": "error", "imsx_description": why}
            return JSONResponse(told, 422)
        fresh = id not in office.arrived[collection]
        office.arrived[collection][id] = body
        return JSONResponse({}, 201 if fresh else 200)

    @app.post("/day")
    def day() -> RedirectResponse:
        office.next_day()
        return RedirectResponse("/", 303)

    @app.get("/", response_class=HTMLResponse)
    def page() -> str:
        past = "".join(f"<li>{text}</li>" for text in DAYS[: office.day + 1])
        return (
            "<!doctype html><meta charset=utf-8><title>Records system (simulated)</title>"
            "<body style='font: 16px/1.5 sans-serif; max-width: 40rem; margin: 3rem auto'>"
            "<h1>Records system of the Brackwater Federation</h1><p>Simulated, with made-up people. Bildung asks it for changes; "
            f"here a day passes when you say so.</p><ol start=0>{past}</ol>"
            "<form method=post action=/day><button>Let a day pass</button></form>"
            f"<h2>What arrived</h2><p>{len(office.arrived['lineItems'])} tests of classes, "
            f"{len(office.arrived['results'])} results.</p>"
            "<table style='border-spacing: 1rem 0'><tr><th align=left>test<th>class<th>results<th>mean"
            f"{_table(office)}</table>"
        )

    return app
