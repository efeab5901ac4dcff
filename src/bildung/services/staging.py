"""Imports in two steps: look at what would happen, then all of it or none."""

from __future__ import annotations

import hashlib
import json
import re
import secrets
import shutil
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from datetime import timedelta
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services import audit
from bildung.services.access import Actor
from bildung.services.context import Context
from bildung.services.errors import Conflict, Invalid, NotFound
from bildung.store.models import StagedImport

Fate = Literal["added", "changed", "left_out", "same"]
MAX_UPLOAD = 64 * 1024 * 1024
MAX_FILES = 50
KEEP = timedelta(days=1)


@dataclass(frozen=True)
class Line:
    """One thing of the file and what becomes of it. detail: what changes, or the reason it is left out."""

    fate: Fate
    what: str
    id: str
    label: str
    detail: str = ""


@dataclass(frozen=True)
class Preview:
    id: str
    lines: tuple[Line, ...]
    counts: dict[str, int]
    applied: bool = False


Planner = Callable[[Session, dict[str, bytes], bool], Sequence[Line]]
"""Reads the files and says what becomes of each thing; with True also does it, in this transaction."""


def stage(ctx: Context, actor: Actor, kind: str, files: dict[str, bytes], planner: Planner) -> Preview:
    """Plan without changing anything, and keep the files for `decide`."""
    if not files or len(files) > MAX_FILES:
        raise Invalid(f"{len(files)} files; choose one zip or up to {MAX_FILES} files", "files")
    if sum(map(len, files.values())) > MAX_UPLOAD:
        raise Invalid(f"more than {MAX_UPLOAD // 2**20} MB in all", "files")
    with ctx.store.read() as db:
        lines = tuple(planner(db, files, False))
    id = secrets.token_urlsafe(12)
    folder = ctx.store.folder / "uploads" / id
    folder.mkdir(parents=True)
    for number, data in enumerate(files.values()):
        (folder / str(number)).write_bytes(data)
    (folder / "names.json").write_text(json.dumps([_plain_name(name) for name in files]), "utf-8")
    now = ctx.clock()

    def work(db: Session) -> None:
        for old in db.scalars(select(StagedImport).where(StagedImport.created_at < now - KEEP)):
            shutil.rmtree(old.folder, ignore_errors=True)
            if old.applied_at is None:
                db.delete(old)
        db.add(
            StagedImport(
                id=id, kind=kind, person_id=actor.person_id, folder=str(folder), fingerprint=_fingerprint(lines),
                created_at=now,
            )
        )  # fmt: skip

    ctx.store.write(work)
    return _preview(id, lines)


def decide(ctx: Context, actor: Actor, kind: str, id: str, planner: Planner) -> Preview:
    """Apply what was shown. Conflict where the world moved since: nothing is changed, and a new look is needed."""
    with ctx.store.read() as db:
        staged = db.get(StagedImport, id)
        if staged is None or staged.kind != kind or staged.person_id != actor.person_id:
            raise NotFound("this import is not here; choose the file again")
        if staged.applied_at is not None:
            raise Conflict("this import was applied already; nothing was changed")
        folder, fingerprint = ctx.store.folder / "uploads" / id, staged.fingerprint
    names = json.loads((folder / "names.json").read_text("utf-8"))
    files = {name: (folder / str(number)).read_bytes() for number, name in enumerate(names)}

    def work(db: Session) -> Preview:
        staged = db.get_one(StagedImport, id)
        if staged.applied_at is not None:
            raise Conflict("this import was applied already; nothing was changed")
        lines = tuple(planner(db, files, True))
        if _fingerprint(lines) != fingerprint:
            raise Conflict("something changed since you looked; choose the file again to see what it would do now")
        staged.applied_at = ctx.clock()
        preview = _preview(id, lines, True)
        audit.record(db, ctx.clock(), actor.person_id, f"import.{kind}", f"import:{id}", None, preview.counts)
        return preview

    done = ctx.store.write(work)
    shutil.rmtree(folder, ignore_errors=True)
    return done


def _plain_name(name: str) -> str:
    return re.sub(r"[^\w. -]", "_", name.replace("\\", "/").split("/")[-1])[:120] or "file"


def _fingerprint(lines: Sequence[Line]) -> str:
    return hashlib.sha256(json.dumps([asdict(line) for line in lines]).encode()).hexdigest()


def _preview(id: str, lines: Sequence[Line], applied: bool = False) -> Preview:
    counts = {fate: sum(line.fate == fate for line in lines) for fate in ("added", "changed", "left_out", "same")}
    shown = tuple(line for line in lines if line.fate != "same")
    return Preview(id, shown, counts, applied)
