"""Whatever a browser could send: no route answers with an error of ours, and the store stays whole."""

from __future__ import annotations

import json
import random
import re
import zlib
from typing import Any

from sqlalchemy import text

from tests.api.shared.test_access import ApiCase

TRIES = 6
TEXTS = (
    "",
    " ",
    "x",
    "A",
    "a name",
    "1",
    "2",
    "3",
    "-1",
    "999999",
    "choice",
    "mathematics",
    "Mathematics",
    "6",
    "K",
    "M6-14",
    "T-01",
    "BAF-M6.1",
    "2026-11-27",
    "2026-02-30",
    "2026-11-27T09:00:00Z",
    "2026-11-27T09:00:00",
    "9999-12-31T23:59:59Z",
    "=1+1",
    "<script>",
    "%",
    "\x00",
    "\ud800",
    "🙂" * 30,
    "x" * 5000,
    "nan",
    "a OR b (",
    "grade:6 p<40%",
    "../../x",
    "Europe/Nowhere",
    "[]",
    "{}",
)
NUMBERS = (0, 1, 2, -1, 0.5, 60, 1e308, -1e308, 10**20, 101)
LEFT = {
    "signOut",
    "sessionEvents",
    "attemptEvents",
    "changePassword",
    "endSignIn",
    "endOtherSignIns",
    "leaveSitting",
    "ownSignOut",
    "familySignOut",
    "familyPassword",
}
WHO = {"/api/sit": "student", "/api/own": "pupil", "/api/family": "family"}


class Junk:
    """Values for a part of the contract: mostly of the right shape, so that they come past the door."""

    def __init__(self, document: dict[str, Any], rng: random.Random) -> None:
        self.schemas, self.rng = document["components"]["schemas"], rng

    def value(self, schema: dict[str, Any], depth: int = 0) -> Any:
        rng = self.rng
        if "$ref" in schema:
            return self.value(self.schemas[schema["$ref"].rsplit("/", 1)[1]], depth + 1)
        if rng.randrange(14) == 0:
            return rng.choice([None, "x", 7, [], {}, True])
        for word in ("anyOf", "oneOf", "allOf"):
            if word in schema:
                return self.value(rng.choice(schema[word]), depth + 1)
        if "const" in schema or "enum" in schema:
            return rng.choice(schema.get("enum", [schema.get("const")]))
        kind = schema.get("type")
        if kind == "object" or "properties" in schema:
            known = {
                name: self.value(inner, depth + 1)
                for name, inner in schema.get("properties", {}).items()
                if rng.randrange(12) and depth < 8
            }
            more = schema.get("additionalProperties")
            if isinstance(more, dict) and depth < 8:
                known |= {rng.choice(TEXTS): self.value(more, depth + 1) for _ in range(rng.randrange(3))}
            return known
        if kind == "array":
            return (
                [self.value(schema.get("items", {}), depth + 1) for _ in range(rng.randrange(4))] if depth < 8 else []
            )
        if kind in ("number", "integer"):
            number = rng.choice(NUMBERS)
            return int(number) if kind == "integer" and abs(number) < 10**21 else number
        if kind == "boolean":
            return rng.random() < 0.5
        return rng.choice(TEXTS)

    def plain(self, schema: dict[str, Any]) -> str:
        """In an address."""
        found = self.value(schema)
        return re.sub(r"[\x00\ud800]", "", found if isinstance(found, str) else json.dumps(found))


class Sent(ApiCase):
    def test_no_route_breaks_whatever_it_is_sent(self) -> None:
        document = self.app.openapi()
        clients = {role: self.client(role) for role in ("coordinator", *WHO.values())}
        for path, methods in document["paths"].items():
            for method, entry in methods.items():
                if entry["operationId"] in LEFT:
                    continue
                client = clients[next((role for start, role in WHO.items() if path.startswith(start)), "coordinator")]
                junk = Junk(document, random.Random(zlib.crc32(f"{method} {path}".encode())))
                for _ in range(TRIES):
                    sent = self.request(junk, path, entry)
                    answer = client.request(method.upper(), follow_redirects=False, **sent)
                    self.assertLess(answer.status_code, 500, f"{method} {sent}: {answer.text[:300]}")
                    self.assertNotEqual(answer.status_code, 401, f"{method} {sent}")
                    if answer.status_code >= 400:
                        self.assertTrue(answer.json()["detail"], f"{method} {sent}")
        with self.ctx.store.read() as db:
            self.assertEqual(db.execute(text("PRAGMA integrity_check")).scalar(), "ok")
            self.assertEqual(db.execute(text("PRAGMA foreign_key_check")).all(), [])
        for page in ("/api/quality", "/api/sessions", "/api/people", "/api/bank/items", "/api/forms", "/api/calendar"):
            self.assertEqual(clients["coordinator"].get(page).status_code, 200, page)

    def request(self, junk: Junk, path: str, entry: dict[str, Any]) -> dict[str, Any]:
        rng, query, at = junk.rng, [], path
        for given in entry.get("parameters", []):
            if given["in"] == "path":
                some = rng.choice(["1", "2", "3", "4", "7", "999999", "none", "-1", "9" * 30])
                at = at.replace(f"{{{given['name']}}}", some)
            elif given["in"] == "query" and (given.get("required") or rng.randrange(3)):
                schema = given["schema"]
                items = [schema["items"]] * rng.randrange(3) if schema.get("type") == "array" else [schema]
                query += [(given["name"], junk.plain(each)) for each in items]
        sent: dict[str, Any] = {"url": at, "params": query}
        content = entry.get("requestBody", {}).get("content", {})
        if "application/json" in content:
            body = json.dumps(junk.value(content["application/json"]["schema"]))
            sent |= {"content": body.encode(), "headers": {"content-type": "application/json"}}
        elif "multipart/form-data" in content:
            data = rng.choice([b"", b"code,type,stem,key\n1,2", b"PK\x03\x04xx", b"\xff\xfe", b"{}", b"<a/>"])
            sent["files"] = [
                (rng.choice(["files", "file"]), (rng.choice(["a.csv", "a.zip", "../x", "a.json"]), data, "text/csv"))
            ]
        return sent
