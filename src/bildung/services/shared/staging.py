"""Imports in two steps: look at what would happen, then all of it or none.

Planning reads only, so that students go on saving while a large file is looked at; the writing that follows is
short, and is refused where the world has moved since the plan was made.
"""

from __future__ import annotations

import hashlib
import json
import re
import secrets
import shutil
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from datetime import timedelta
from typing import Any, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared import audit
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.jobs import Job
from bildung.store.files import write_durably
from bildung.store.models import StagedImport

Fate = Literal["added", "changed", "left_out", "same"]
MAX_UPLOAD = 64 * 1024 * 1024
MAX_FILES = 50
SHOWN = 1000
FEW = 100  # lines that are written in a moment
KEEP = timedelta(days=1)


@dataclass(frozen=True, kw_only=True)
class PreviewLine:
    """One thing of the file and what becomes of it. detail: what changes, or the reason it is left out."""

    fate: Fate
    what: str
    id: str
    label: str
    detail: str = ""


@dataclass(frozen=True, kw_only=True)
class Preview:
    """lines: up to SHOWN of each fate but "same"; counts: of all. ask: a question that wants a yes before it is
    applied, or empty."""

    id: str
    lines: tuple[PreviewLine, ...]
    counts: dict[str, int]
    applied: bool = False
    ask: str = ""


@dataclass(frozen=True)
class Planned:
    """What becomes of each thing, and the doing of it in a write transaction. stamp: read again there; where it has
    moved, the plan no longer fits."""

    lines: Sequence[PreviewLine]
    apply: Callable[[Session], None]
    stamp: Callable[[Session], Hashable] = lambda db: None
    ask: str = ""


Planner = Callable[[Session, dict[str, bytes], Job], Planned]
"""Reads the files and says what would become of each thing; changes nothing."""


def stage(
    ctx: Context, actor: Actor, kind: str, files: dict[str, bytes], planner: Planner, job: Job | None = None
) -> Preview:
    """Plan without changing anything, and keep the files for `decide`."""
    if not files or len(files) > MAX_FILES:
        raise Invalid(f"{len(files)} files; choose one zip or up to {MAX_FILES} files", "files")
    if sum(map(len, files.values())) > MAX_UPLOAD:
        raise Invalid(f"more than {MAX_UPLOAD // 2**20} MB in all", "files")
    with ctx.store.read() as db:
        planned = planner(db, files, job or Job())
    id = secrets.token_urlsafe(12)
    folder = ctx.store.folder / "uploads" / id
    folder.mkdir(parents=True)
    for number, data in enumerate(files.values()):
        write_durably(folder / str(number), data)
    write_durably(folder / "names.json", json.dumps([_plain_name(name) for name in files]).encode())
    now = ctx.clock()
    fingerprint = _fingerprint(planned.lines)

    def work(db: Session) -> None:
        for old in db.scalars(select(StagedImport).where(StagedImport.created_at < now - KEEP)):
            shutil.rmtree(ctx.store.folder / "uploads" / old.id, ignore_errors=True)  # where it lies now
            if old.applied_at is None:
                db.delete(old)
        db.add(
            StagedImport(
                id=id,
                kind=kind,
                person_id=actor.person_id,
                folder=str(folder),
                fingerprint=fingerprint,
                created_at=now,
            )
        )

    ctx.store.write(work)
    return _preview(id, planned)


def decide(
    ctx: Context, actor: Actor, kind: str, id: str, planner: Planner, yes: bool = False, job: Job | None = None
) -> Preview:
    """Apply what was shown. Conflict where the world moved since: nothing is changed, and a new look is needed.
    yes: the answer to what the plan asks."""
    with ctx.store.read() as db:
        staged = db.get(StagedImport, id)
        if staged is None or staged.kind != kind or staged.person_id != actor.person_id:
            raise NotFound("this import is not here; choose the file again")
        if staged.applied_at is not None:
            raise Conflict("this import was applied already; nothing was changed")
        folder, fingerprint = ctx.store.folder / "uploads" / id, staged.fingerprint
    files = _files(ctx, id)
    with ctx.store.read() as db:
        planned = planner(db, files, job or Job())
        stamp = planned.stamp(db)
    if _fingerprint(planned.lines) != fingerprint:
        raise Conflict("something changed since the preview; choose the file again for a new preview")
    if planned.ask and not yes:
        raise Conflict(planned.ask, "yes")

    rehearsed = False

    def work(db: Session) -> Preview:
        nonlocal planned, rehearsed
        staged = db.get_one(StagedImport, id)
        if staged.applied_at is not None:
            raise Conflict("this import was applied already; nothing was changed")
        if rehearsed:  # what was applied to a copy is planned anew
            planned = planner(db, files, Job())
        rehearsed = True
        if planned.stamp(db) != stamp or _fingerprint(planned.lines) != fingerprint:
            raise Conflict("something changed since the preview; choose the file again for a new preview")
        planned.apply(db)
        staged.applied_at = ctx.clock()
        preview = _preview(id, planned, True)
        audit.record(db, ctx.clock(), actor.person_id, f"import.{kind}", f"import:{id}", None, preview.counts)
        return preview

    done = ctx.store.write(work, much=len(planned.lines) > FEW)
    shutil.rmtree(folder, ignore_errors=True)
    return done


def staged_files(ctx: Context, actor: Actor, kind: str, id: str) -> dict[str, bytes]:
    """The files of a preview of this person's that was not applied yet."""
    with ctx.store.read() as db:
        staged = db.get(StagedImport, id)
        if staged is None or staged.kind != kind or staged.person_id != actor.person_id:
            raise NotFound("this import is not here; choose the file again")
        if staged.applied_at is not None:
            raise Conflict("this import was applied already")
    return _files(ctx, id)


def _files(ctx: Context, id: str) -> dict[str, bytes]:
    folder = ctx.store.folder / "uploads" / id
    names = json.loads((folder / "names.json").read_text("utf-8"))
    return {name: (folder / str(number)).read_bytes() for number, name in enumerate(names)}


def in_one_go(plan: Callable[[Session, dict[str, bytes], bool], Sequence[PreviewLine]]) -> Planner:
    """A planner out of a function that plans or, with True, also does it: for files small enough to be read again
    while writing."""

    def planner(db: Session, files: dict[str, bytes], job: Job) -> Planned:
        lines = tuple(plan(db, files, False))

        def apply(db: Session) -> None:
            if tuple(plan(db, files, True)) != lines:
                raise Conflict("something changed since the preview; choose the file again for a new preview")

        return Planned(lines, apply)

    return planner


def _plain_name(name: str) -> str:
    return re.sub(r"[^\w. -]", "_", name.replace("\\", "/").split("/")[-1])[:120] or "file"


def _fingerprint(lines: Sequence[PreviewLine]) -> str:
    digest = hashlib.sha256()
    for line in lines:
        digest.update(f"{line.fate}\0{line.what}\0{line.id}\0{line.label}\0{line.detail}\n".encode())
    return digest.hexdigest()


def count(lines: Sequence[PreviewLine]) -> dict[str, int]:
    """How many lines have each fate."""
    counts: dict[str, int] = {"added": 0, "changed": 0, "left_out": 0, "same": 0}
    for line in lines:
        counts[line.fate] += 1
    return counts


def shown_lines(lines: Sequence[PreviewLine]) -> tuple[PreviewLine, ...]:
    """The first of each fate, in the order of the file."""
    room: dict[Any, int] = {}
    kept = []
    for line in lines:
        room[line.fate] = room.get(line.fate, 0) + 1
        if line.fate != "same" and room[line.fate] <= SHOWN:
            kept.append(line)
    return tuple(kept)


def _preview(id: str, planned: Planned, applied: bool = False) -> Preview:
    return Preview(
        id=id,
        lines=shown_lines(planned.lines),
        counts=count(planned.lines),
        applied=applied,
        ask="" if applied else planned.ask,
    )
