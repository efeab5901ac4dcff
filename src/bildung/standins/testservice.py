"""A simulated outside test service: delivers files of scores and norms on demand, with faults as they happen.

Its students are the demo's, under their names as its own records have them. Which faults the next file has is chosen on
its own page. Everything is held in memory and begins anew with the process.
"""

from __future__ import annotations

import csv
import hashlib
import io
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from html import escape

import numpy as np
from fastapi import FastAPI, HTTPException, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from bildung.demo.measures import norm_files

HEADS = ("Local ID", "Last Name", "First Name", "DOB", "Grade", "Term", "Test Date", "Scale Score", "SEM")
FAULTS = {
    "name": "a name is spelled otherwise, and its number is missing",
    "range": "a score is off the scale",
    "unknown": "a student who is not in the district",
    "second": "a second attempt of a student",
    "year": "the file is last year's",
}
SUBJECT, LOW, HIGH = "Reading", 100, 350


@dataclass(frozen=True)
class TestTaker:
    """A student as the service has them."""

    number: str
    given: str
    family: str
    born: date | None
    grade: str


@dataclass(kw_only=True)
class Service:
    """terms: name and day, oldest first. faults: that the next files have."""

    takers: Sequence[TestTaker]
    terms: Sequence[tuple[str, date]]
    faults: set[str] = field(default_factory=set)

    def rows(self, term: int) -> list[list[str]]:
        """A file of one term."""
        name, day = self.terms[max(0, term - 3) if "year" in self.faults else term]
        rows = [self._row(taker, name, day, 0) for taker in self.takers]
        if rows and "name" in self.faults:
            first = rows[0]
            first[0], first[2] = "", f"{first[2]}e"
        if rows and "range" in self.faults:
            rows[1 % len(rows)][7] = str(HIGH + 240)
        if "unknown" in self.faults:
            rows.append(["EX-90001", "Varga", "Milo", "2013-05-04", "7", name, day.isoformat(), "236", "4"])
        if rows and "second" in self.faults:
            rows.append(self._row(self.takers[2 % len(self.takers)], name, day, 1))
        return rows

    def _row(self, taker: TestTaker, term: str, day: date, attempt: int) -> list[str]:
        grade = int(taker.grade) if taker.grade.isdigit() else 0
        seed = int.from_bytes(hashlib.sha256(f"{taker.number}".encode()).digest()[:6], "big")
        noise = int.from_bytes(hashlib.sha256(f"{taker.number} {day} {attempt}".encode()).digest()[:6], "big")
        level = np.random.default_rng(seed).standard_normal() * 14
        score = 165 + 11 * grade + level + 4 * np.random.default_rng(noise).standard_normal()
        return [
            taker.number,
            taker.family,
            taker.given,
            "" if taker.born is None else taker.born.isoformat(),
            taker.grade,
            term,
            day.isoformat(),
            str(round(min(HIGH, max(LOW, score)))),
            "4",
        ]


def create_testservice(service: Service) -> FastAPI:
    app = FastAPI(title="Test service (simulated)", docs_url=None, redoc_url=None, openapi_url=None)

    @app.get("/files.json")
    def files() -> dict[str, list[dict[str, str]]]:
        scores = [
            {"kind": "scores", "title": f"{SUBJECT} scores, {name}", "path": f"/scores/{at}.csv"}
            for at, (name, _) in enumerate(service.terms)
        ]
        norms = [
            {"kind": "norms", "title": f"{SUBJECT} norms, means and standard deviations", "path": "/norms/moments.csv"},
            {"kind": "norms", "title": f"{SUBJECT} norms, correlations", "path": "/norms/correlations.csv"},
        ]
        return {"files": [*scores[::-1], *norms]}

    @app.get("/scores/{term}.csv")
    def scores(term: int) -> Response:
        if not 0 <= term < len(service.terms):
            raise HTTPException(404, "no such term")
        out = io.StringIO()
        csv.writer(out).writerows([HEADS, *service.rows(term)])
        return Response(out.getvalue(), media_type="text/csv")

    @app.get("/norms/{name}.csv")
    def norms(name: str) -> Response:
        moments, correlations = norm_files(SUBJECT)
        found = {"moments": moments, "correlations": correlations}.get(name)
        if found is None:
            raise HTTPException(404, "no such norms")
        return Response(found, media_type="text/csv")

    @app.post("/faults/{name}")
    def fault(name: str) -> RedirectResponse:
        if name not in FAULTS:
            raise HTTPException(404, "no such fault")
        service.faults ^= {name}
        return RedirectResponse("/", 303)

    @app.get("/", response_class=HTMLResponse)
    def page() -> str:
        lines = "".join(
            f"<li><form method=post action=/faults/{name}><button>{'Without' if name in service.faults else 'With'}</button> "
            f"{escape(text)}{' <b>(on)</b>' if name in service.faults else ''}</form>"
            for name, text in FAULTS.items()
        )
        return (
            "<!doctype html><meta charset=utf-8><title>Test service (simulated)</title>"
            "<body style='font: 16px/1.5 sans-serif; max-width: 40rem; margin: 3rem auto'>"
            "<h1>Test service</h1><p>Simulated, with made-up people. Bildung fetches files of scores and norms from here; the next files "
            f"have the faults that are on.</p><ul>{lines}</ul>"
        )

    return app
