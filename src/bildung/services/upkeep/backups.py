"""The nightly copy of everything, how many are kept, and what is said of them under Settings."""

from __future__ import annotations

import contextlib
import shutil
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from zoneinfo import ZoneInfo

from sqlalchemy import select

from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.settings import setting
from bildung.store.backup import back_up, read_backup
from bildung.store.files import write_durably
from bildung.store.folder import FolderProblem
from bildung.store.models import Federation

FAILURE = "last-failure.txt"
PATTERN = "????-??-??"


@dataclass(frozen=True, kw_only=True)
class BackupLine:
    """name: of its folder. problem: why it is no backup any more."""

    name: str
    made_at: datetime | None
    answers: int
    bytes: int
    problem: str


@dataclass(frozen=True)
class Backups:
    """newest first. folder: where they are. failure: of the last night that has none."""

    finding: str
    folder: str
    backups: list[BackupLine]
    failure: str


def folder_of(ctx: Context) -> Path:
    """Where nightly backups are kept."""
    return ctx.store.folder / "backups"


def nightly_backup(ctx: Context) -> Path | None:
    """Once a night, after the hour of the settings; the oldest beyond what is kept go. Made-up data are not copied. Raises
    FolderProblem where it cannot be made, after it was written down."""
    if (ctx.store.folder / "demo.json").exists():
        return None
    with ctx.store.read() as db:
        hour, kept = int(setting(db, "backup_hour")), int(setting(db, "backups_kept"))
        zone = ZoneInfo(db.scalar(select(Federation.zone)) or "UTC")
    now = ctx.clock().astimezone(zone)
    target = folder_of(ctx) / f"{now:%Y-%m-%d}"
    if kept == 0 or now.hour < hour or target.exists():
        return None
    folder_of(ctx).mkdir(exist_ok=True)
    failure = folder_of(ctx) / FAILURE
    try:
        back_up(ctx.store.folder, target, ctx.clock())
    except FolderProblem as error:
        with contextlib.suppress(OSError):
            write_durably(failure, f"{now:%Y-%m-%d %H:%M}: {error}".encode())
        raise
    failure.unlink(missing_ok=True)
    for old in sorted(folder_of(ctx).glob(PATTERN))[:-kept]:
        shutil.rmtree(old, ignore_errors=True)
    ctx.store.write(lambda db: audit.record(db, ctx.clock(), None, "backup.make", target.name))
    return target


def backups(ctx: Context, actor: Actor) -> Backups:
    """The nightly backups that there are."""
    scope(actor, Action.SETTINGS)
    lines = []
    for folder in sorted(folder_of(ctx).glob(PATTERN), reverse=True):
        try:
            made = read_backup(folder)
            lines.append(
                BackupLine(
                    name=folder.name,
                    made_at=datetime.fromisoformat(made.made_at),
                    answers=made.answers,
                    bytes=made.bytes,
                    problem="",
                )
            )
        except FolderProblem as error:
            lines.append(BackupLine(name=folder.name, made_at=None, answers=0, bytes=0, problem=str(error)))
    failed = folder_of(ctx) / FAILURE
    failure = failed.read_text("utf-8") if failed.exists() else ""
    return Backups(_finding(ctx, lines, failure), str(folder_of(ctx).resolve()), lines, failure)


def _finding(ctx: Context, lines: list[BackupLine], failure: str) -> str:
    whole = [line for line in lines if line.made_at is not None]
    if failure:
        return "The last nightly backup failed."
    if not whole or whole[0].made_at is None:
        return "There is no backup yet; the first one is made tonight."
    days = (ctx.clock() - whole[0].made_at).days
    if days > 1:
        return f"The newest backup is {days} days old."
    return f"{len(whole)} {'backup' if len(whole) == 1 else 'backups'}; the newest is from {whole[0].name}."
