"""Sample files for a first walk, downloadable from the pages: `python -m bildung.demo.samples FOLDER` writes them."""

from __future__ import annotations

import random
import sys
from dataclasses import replace
from pathlib import Path

from bildung.demo import mathematics
from bildung.demo.files import archive, item_sheet, place, sheet
from bildung.demo.items import kinds, science, young
from bildung.demo.rosters import Layout, roster_files
from bildung.formats.itemlist import ItemRecord
from bildung.formats.qti import package_misses, write_package
from bildung.formats.sheet import read_sheet

SEED = 41


def sample_files() -> dict[str, bytes]:
    """A roster of a small school with one class of 28, twelve items as CSV, one of every kind as a QTI package."""
    rng = random.Random(SEED)
    roster = roster_files(Layout(key="MP", name="Marram Point", grades=("5",), classes=1, size=28, year=2026), rng)
    drafts = mathematics.draft_items(rng, "6", 24)
    choice = [draft for draft in drafts if not draft.numeric]
    for_sheet = [draft for draft in drafts if draft not in choice[:8]][:12]
    return {
        "marram-point-roster.zip": archive(roster),
        "marram-point-sheet.csv": one_sheet(roster),
        "items.csv": item_sheet(place(for_sheet, "HM5", "Mathematics", "5", rng)),
        "items-qti.zip": every_kind(),
    }


def every_kind() -> bytes:
    """A QTI package with one item of each kind that the makers know."""
    rng, found = random.Random(SEED), dict[str, ItemRecord]()
    for record in [
        *kinds.items("6", rng),
        *kinds.items("7", rng),
        *kinds.items("8", rng),
        *science.items("5", rng),
        *young.items("3", rng),
    ]:
        if not package_misses(record):
            found.setdefault(record.kind, record)
    media = {name: (name, data) for record in found.values() for name, data in record.media.items()}
    return write_package([replace(r, code=f"HM5Q-{at:02d}") for at, r in enumerate(found.values(), 1)], media)


def one_sheet(roster: dict[str, bytes]) -> bytes:
    """The same school as a secretary would keep it: a row a student and class, under their own headings."""
    tables = {
        name: {row["sourcedId"]: row for row in read_sheet(name, data, ("sourcedId",)).rows}
        for name, data in roster.items()
    }
    users, classes = tables["users.csv"], tables["classes.csv"]
    teaches = {
        e["classSourcedId"]: users[e["userSourcedId"]]
        for e in tables["enrollments.csv"].values()
        if e["role"] == "teacher"
    }
    rows: list[tuple[str, ...]] = []
    for e in tables["enrollments.csv"].values():
        if e["role"] == "student":
            u, c = users[e["userSourcedId"]], classes[e["classSourcedId"]]
            t = teaches[e["classSourcedId"]]
            rows.append(
                (
                    u["sourcedId"],
                    f"{u['familyName']}, {u['givenName']}",
                    u["grades"].lstrip("0"),
                    c["title"],
                    c["subjects"],
                    f"{t['familyName']}, {t['givenName']}",
                    c["location"],
                    "bus 4" if len(rows) % 3 else "walks",
                )
            )
    columns = ("Pupil no.", "Pupil", "Year", "Class name", "Subject area", "Teacher name", "Room", "Way home")
    return sheet(columns, rows)


if __name__ == "__main__":
    target = Path(sys.argv[1])
    target.mkdir(parents=True, exist_ok=True)
    for name, data in sample_files().items():
        (target / name).write_bytes(data)
