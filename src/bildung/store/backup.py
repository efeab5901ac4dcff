"""A copy of a data folder that can be made while it is served, is verified by opening it, and can be put back."""

from __future__ import annotations

import contextlib
import json
import shutil
import sqlite3
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from bildung.store.files import digest, sync_folder, write_durably
from bildung.store.folder import FolderProblem, held, look
from bildung.store.migrating import DATABASE, copy_database, newest_migration

MANIFEST = "backup.json"
MEDIA = "media"
BESIDE = ("demo.json",)  # small files of a folder that belong to it


@dataclass(frozen=True, kw_only=True)
class Backup:
    """What a backup says of itself. tables: its newest migration. files: SHA-256 by path. answers: how many present
    answers it holds, for whoever looks at a list of backups."""

    made_at: str
    tables: str
    federation: str
    answers: int
    bytes: int
    files: dict[str, str]


def back_up(folder: Path, target: Path, now: datetime | None = None) -> Backup:
    """Copy a folder to a new one, whole: the database as it is at one moment, whoever writes meanwhile, and every picture
    and sound. Verified before it is called a backup. FolderProblem where it cannot be made; nothing is left then."""
    source = folder / DATABASE
    if not source.exists():
        raise FolderProblem(f"{folder} holds no data to back up")
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise FolderProblem(f"{target} is there already; a backup is written to a new folder")
    partial = target.with_name(f".{target.name}.partial")
    shutil.rmtree(partial, ignore_errors=True)
    try:
        partial.mkdir(parents=True)
        copy_database(source, partial / DATABASE)
        _copy_files(folder, partial)
        made = _describe(partial, now or datetime.now(UTC))
        write_durably(partial / MANIFEST, json.dumps(asdict(made), indent=1).encode())
        verify(partial)
        if target.exists():
            target.rmdir()
        partial.rename(target)
        sync_folder(target.parent)
    except (OSError, sqlite3.Error) as error:
        raise FolderProblem(f"the backup to {target} failed ({error}); nothing is left of it") from None
    finally:
        shutil.rmtree(partial, ignore_errors=True)
    return made


def _copy_files(folder: Path, target: Path) -> None:
    """Pictures and sounds are never changed under their name, so one that came after the database's moment does no harm."""
    for name in BESIDE:
        if (folder / name).exists():
            write_durably(target / name, (folder / name).read_bytes())
    if (folder / MEDIA).is_dir():
        (target / MEDIA).mkdir()
        for file in sorted((folder / MEDIA).iterdir()):
            if file.is_file() and not file.name.startswith("."):
                write_durably(target / MEDIA / file.name, file.read_bytes())


def _describe(folder: Path, now: datetime) -> Backup:
    files = {str(path.relative_to(folder)): digest(path) for path in sorted(folder.rglob("*")) if path.is_file()}
    size = sum(path.stat().st_size for path in folder.rglob("*") if path.is_file())
    with contextlib.closing(sqlite3.connect(folder / DATABASE)) as connection:
        tables = connection.execute("SELECT version_num FROM alembic_version").fetchone()[0]
        name = connection.execute("SELECT name FROM federation").fetchone()
        answers = connection.execute("SELECT count(*) FROM response").fetchone()[0]
    return Backup(
        made_at=now.astimezone(UTC).isoformat(timespec="seconds"),
        tables=tables,
        federation=name[0] if name else "",
        answers=answers,
        bytes=size,
        files=files,
    )


def read_backup(folder: Path) -> Backup:
    """What a backup says of itself; FolderProblem for what is none."""
    try:
        found: dict[str, Any] = json.loads((folder / MANIFEST).read_text("utf-8"))
        return Backup(**{name: found[name] for name in Backup.__dataclass_fields__})
    except (OSError, ValueError, KeyError, TypeError):
        raise FolderProblem(f"{folder} is no backup: it has no {MANIFEST} that can be read") from None


def verify(folder: Path) -> Backup:
    """Open a backup and hold every file against what it says of it."""
    backup = read_backup(folder)
    for name, expected in backup.files.items():
        path = folder / name
        if not path.is_file() or not path.resolve().is_relative_to(folder.resolve()):
            raise FolderProblem(f"the backup {folder} lacks {name}")
        if digest(path) != expected:
            raise FolderProblem(f"{name} in the backup {folder} is not what was written; use another backup")
    look(folder, thorough=True)
    if backup.tables > newest_migration():
        raise FolderProblem(f"the backup {folder} was made by a newer Bildung; update the program first")
    return backup


def restore(source: Path, folder: Path, now: datetime | None = None) -> tuple[Backup, Path | None]:
    """Put a verified backup in the place of a data folder that nobody serves. What was there is moved aside, never
    deleted; returns where to."""
    backup = verify(source)
    partial = folder.with_name(f".{folder.name}.restoring")
    shutil.rmtree(partial, ignore_errors=True)
    with held(folder, "a restore"):
        try:
            partial.mkdir(parents=True)
            for name in backup.files:
                (partial / name).parent.mkdir(parents=True, exist_ok=True)
                write_durably(partial / name, (source / name).read_bytes())
        except OSError as error:
            shutil.rmtree(partial, ignore_errors=True)
            raise FolderProblem(f"{folder} was not restored ({error}); it is as it was") from None
        aside = None
        if (folder / DATABASE).exists():
            aside = folder.with_name(f"{folder.name}.before-restore-{(now or datetime.now(UTC)):%Y%m%d-%H%M%S}")
            if (folder / "backups").is_dir():  # they go on being this folder's
                (folder / "backups").rename(partial / "backups")
            folder.rename(aside)
        else:
            shutil.rmtree(folder)
        partial.rename(folder)
        sync_folder(folder.parent)
    return backup, aside
