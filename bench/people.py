"""How fast a large roster comes in and somebody is found: `.venv/bin/python bench/people.py`.

20,000 people with 120,000 enrolments in 20 schools, through the same services as the page.
"""

from __future__ import annotations

import random
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from sqlalchemy import select
from tests.support import found_federation

from bildung.demo.files import sheet
from bildung.services.people import classes, directory
from bildung.services.rosters import check, fromfiles
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.store.models import Person
from bildung.store.store import Store

PEOPLE, STAFF, SCHOOLS, CLASSES, EACH = 20_000, 1_000, 20, 240, 6
SUBJECTS = ("Mathematics", "Reading", "Science", "History", "Music", "Art")
GIVEN = ("Ada", "Ben", "Cleo", "Dara", "Emil", "Finn", "Gwen", "Hana", "Ivo", "Jana")
FAMILY = ("Quill", "Marsh", "Tidewell", "Haddon", "Berk", "Osei", "Lund", "Vance", "Ito", "Rook")


def roster() -> dict[str, bytes]:
    rng = random.Random(1)
    users, enrolments = [], []
    for i in range(PEOPLE):
        school, staff = i % SCHOOLS, i < STAFF
        users.append(
            (
                f"u{i}",
                "true",
                f"o{school}",
                "teacher" if staff else "student",
                f"user{i}" if staff else "",
                f"{GIVEN[i % 10]}{i % 97}",
                f"{FAMILY[i // 10 % 10]}{i % 89}",
                "" if staff else "05",
            )
        )
        role = "teacher" if staff else "student"
        enrolments += [
            (f"e{i}-{k}", f"c{school}-{k}", f"o{school}", f"u{i}", role)
            for at in range(EACH)  # one class of each subject
            for k in [rng.randrange(CLASSES // EACH) * EACH + at]
        ]
    rows = [
        (f"c{s}-{k}", f"Class {s}.{k}", str(k % 9 + 1), f"o{s}", "t", SUBJECTS[k % EACH], "")
        for s in range(SCHOOLS)
        for k in range(CLASSES)
    ]
    return {
        "orgs.csv": sheet(("sourcedId", "name", "type"), [(f"o{s}", f"School {s}", "school") for s in range(SCHOOLS)]),
        "academicSessions.csv": sheet(
            ("sourcedId", "title", "type", "startDate", "endDate"),
            [("t", "2026/27", "schoolYear", "2026-08-01", "2027-07-31")],
        ),
        "users.csv": sheet(
            ("sourcedId", "enabledUser", "orgSourcedIds", "role", "username", "givenName", "familyName", "grades"),
            users,
        ),
        "classes.csv": sheet(
            ("sourcedId", "title", "grades", "schoolSourcedId", "termSourcedIds", "subjects", "location"), rows
        ),
        "enrollments.csv": sheet(
            ("sourcedId", "classSourcedId", "schoolSourcedId", "userSourcedId", "role"), enrolments
        ),
    }


def timed(what: str, work: Callable[[], object], runs: int = 1) -> object:
    took, result = [], None
    for _ in range(runs):
        started = time.perf_counter()
        result = work()
        took.append(time.perf_counter() - started)
    print(f"{what:<58} median {statistics.median(took):7.3f} s   most {max(took):7.3f} s", flush=True)
    return result


def main() -> None:
    files = roster()
    with tempfile.TemporaryDirectory() as name:
        ctx = Context(store=Store(Path(name)))
        ctx.store.write(found_federation)
        with ctx.store.read() as db:
            boss = db.scalars(select(Person.id).where(Person.username == "boss")).one()
        actor = Actor(person_id=boss, name="Hanne Quill", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
        preview = timed("look at 20,000 people, 120,000 enrolments", lambda: fromfiles.preview(ctx, actor, files))
        timed("apply it", lambda: fromfiles.apply(ctx, actor, preview.id))  # type: ignore[attr-defined]
        timed("look at the same file again", lambda: fromfiles.preview(ctx, actor, files))
        for text in ("hq", "ti", "cleo12 mar", "u777", "quill"):
            timed(f"find {text!r} among 20,000", lambda text=text: directory.list_people(ctx, actor, text, 200), 9)
        timed("head of the page of people", lambda: directory.overview(ctx, actor), 5)
        timed("check of the rosters", lambda: check.check(ctx, actor), 3)
        timed("list of 4,800 classes", lambda: classes.list_classes(ctx, actor), 3)
        ctx.store.close()


if __name__ == "__main__":
    main()
