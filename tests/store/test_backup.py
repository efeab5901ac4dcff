"""Backups: whole while answers come, verified, restored byte by byte; folders that must not be served are refused in words."""

from __future__ import annotations

import contextlib
import json
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

from bildung.services.door import signin
from bildung.services.items import media
from bildung.services.shared import settings
from bildung.services.shared.access import Action, Actor, Grant
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotAllowed
from bildung.services.sitting import saving, taking
from bildung.services.sitting.events import Answer
from bildung.services.upkeep import backups
from bildung.services.upkeep.rounds import AGAIN, Upkeep
from bildung.store import folder as folder_module
from bildung.store.backup import MANIFEST, back_up, read_backup, restore, verify
from bildung.store.folder import FolderProblem, held, look
from bildung.store.migrating import DATABASE, migrate, newest_migration
from bildung.store.store import Store
from bildung.store.upkeep import check_answers, check_media
from tests.formats.test_content import picture
from tests.support import WorldCase, found_folder, served_folder

ANSWERS = "SELECT sitting_id, form_item_id, answer, takeover, sequence FROM response ORDER BY 1, 2"
EVENTS = "SELECT id, sitting_id, form_item_id, answer, takeover, sequence, at FROM response_event ORDER BY 1"


def rows(folder: Path, query: str) -> list[tuple[object, ...]]:
    with contextlib.closing(sqlite3.connect(folder / DATABASE)) as connection:
        return connection.execute(query).fetchall()


class Folders(unittest.TestCase):
    def setUp(self) -> None:
        self.place = Path(tempfile.mkdtemp(prefix="bildung-backup-"))
        self.addCleanup(shutil.rmtree, self.place, ignore_errors=True)
        self.folder = self.place / "data"
        found_folder(self.folder)

    def refused(self, said: str, thorough: bool = False) -> None:
        with self.assertRaisesRegex(FolderProblem, said):
            look(self.folder, thorough)

    def test_a_sound_folder_and_an_empty_one_are_served(self) -> None:
        look(self.folder, thorough=True)
        look(self.place / "none")

    def test_one_server_for_a_folder_and_the_second_is_told_who_has_it(self) -> None:
        said = r"in use by a Bildung server, process \d+, since .* UTC; stop that one"
        with held(self.folder), self.assertRaisesRegex(FolderProblem, said), held(self.folder):
            self.fail("both hold it")
        with held(self.folder):
            pass

    def test_a_folder_of_a_newer_program_is_left_alone(self) -> None:
        with contextlib.closing(sqlite3.connect(self.folder / DATABASE)) as connection:
            connection.execute("UPDATE alembic_version SET version_num = '9999'")
            connection.commit()
        self.refused("last used by a newer Bildung .*update the program")

    def test_a_damaged_file_is_not_served(self) -> None:
        path = self.folder / DATABASE
        data = bytearray(path.read_bytes())
        data[8192:40960] = b"\xff" * (40960 - 8192)
        path.write_bytes(data)
        self.refused("is damaged .* restore a backup: ./bildung restore FROM")
        path.write_bytes(b"no database at all" * 1000)
        self.refused("is damaged")
        path.write_bytes(data[:5000])
        self.refused("is damaged|cannot be opened")

    def test_a_link_that_leads_nowhere_is_found_by_the_thorough_look(self) -> None:
        with contextlib.closing(sqlite3.connect(self.folder / DATABASE)) as connection:
            connection.execute("INSERT INTO role (person_id, role) VALUES (777, 'teacher')")
            connection.commit()
        look(self.folder)
        self.refused("a row of role points to a row of person that is not there", thorough=True)

    def test_a_full_disk_and_one_that_cannot_be_written_are_said(self) -> None:
        with mock.patch.object(folder_module.shutil, "disk_usage", return_value=mock.Mock(free=1000)):
            self.refused("0 MB left; make at least 64 MB of room")
        with mock.patch.object(folder_module.os, "access", return_value=False):
            self.refused("is read-only; give this user the right")

    def test_a_database_that_another_program_holds_is_said(self) -> None:
        with contextlib.closing(sqlite3.connect(self.folder / DATABASE, isolation_level=None)) as other:
            other.execute("BEGIN EXCLUSIVE")
            other.execute("UPDATE federation SET name = name")
            self.refused("is locked by another program")

    def test_a_copy_is_kept_before_a_migration(self) -> None:
        from alembic import command
        from alembic.config import Config

        from bildung.store import store as store_module

        config = Config()
        config.set_main_option("script_location", str(Path(store_module.__file__).parent / "migrations"))
        config.set_main_option("sqlalchemy.url", f"sqlite:///{self.folder / DATABASE}")
        command.downgrade(config, "0015")
        migrate(self.folder / DATABASE)
        (copy,) = (self.folder / "backups").glob("before-migration-from-0015-*.sqlite")
        with contextlib.closing(sqlite3.connect(copy)) as connection:
            self.assertEqual(connection.execute("SELECT version_num FROM alembic_version").fetchone(), ("0015",))
            self.assertEqual(connection.execute("SELECT name FROM federation").fetchone(), ("Test Federation",))
        self.assertEqual(rows(self.folder, "SELECT version_num FROM alembic_version"), [(newest_migration(),)])


class Copies(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=6, items=5).session
        self.codes = self.codes_of(self.class_id())
        self.place = Path(tempfile.mkdtemp(prefix="bildung-backup-"))
        self.addCleanup(shutil.rmtree, self.place, ignore_errors=True)
        kept = media.upload(self.ctx, self.boss, "harbor.png", picture())
        self.picture = next((self.folder / "media").glob(f"{kept.key}.*")).name

    def answer(self, at: int, count: int) -> None:
        token = signin.sign_in_student(self.ctx, self.session.code, self.codes[at], "here")
        me = signin.sitter_of(self.ctx, token.secret)
        questions = [q.id for q in taking.paper(self.ctx, me).questions]
        for n in range(1, count + 1):
            message = Answer(
                id=f"message-{at}-{n:05}",
                question=questions[n % 5],
                answer="ABCD"[n % 4],
                takeover=me.takeover,
                sequence=n,
            )
            assert saving.save(self.ctx, me, [message]).acknowledged

    def test_a_backup_made_while_answers_come_is_one_moment_and_comes_back_byte_by_byte(self) -> None:
        threads = [threading.Thread(target=self.answer, args=(at, 60)) for at in range(4)]
        for thread in threads:
            thread.start()
        made = back_up(self.folder, self.place / "first", self.clock())
        for thread in threads:
            thread.join()
        copied = rows(self.place / "first", EVENTS)
        self.assertEqual(
            [row for row in rows(self.folder, EVENTS) if row in set(copied)],
            copied,
            "a part of what came, and nothing else",
        )
        self.assertEqual(list(check_answers(self.place / "first")), [], "each present answer is the last that had come")
        second = back_up(self.folder, self.place / "second", self.clock())
        before = {query: rows(self.folder, query) for query in (ANSWERS, EVENTS)}
        pictured = (self.folder / "media" / self.picture).read_bytes()
        self.answer(5, 10)
        self.ctx.store.close()
        _, aside = restore(self.place / "second", self.folder)
        self.assertEqual({query: rows(self.folder, query) for query in before}, before)
        self.assertEqual((self.folder / "media" / self.picture).read_bytes(), pictured)
        self.assertEqual((made.federation, second.answers), ("Test Federation", len(before[ANSWERS])))
        assert aside is not None
        self.addCleanup(shutil.rmtree, aside, ignore_errors=True)
        self.assertGreater(len(rows(aside, EVENTS)), len(before[EVENTS]), "what was there is moved aside, whole")
        self.ctx = Context(store=Store(self.folder), clock=self.clock)
        self.addCleanup(self.ctx.store.close)
        self.assertEqual(signin.sign_in_staff(self.ctx, "boss", "for-tests-only", "here").kind, "staff")

    def test_a_backup_that_is_not_what_was_written_is_refused_and_nothing_is_changed(self) -> None:
        target = self.place / "copy"
        back_up(self.folder, target)
        for name, spoil in (
            (
                "is not what was written",
                lambda copy: (copy / DATABASE).write_bytes((copy / DATABASE).read_bytes()[:-4096]),
            ),
            ("is not what was written", lambda copy: (copy / "media" / self.picture).write_bytes(b"x")),
            ("lacks media", lambda copy: (copy / "media" / self.picture).unlink()),
            ("is no backup", lambda copy: (copy / MANIFEST).write_text("{}")),
            ("made by a newer Bildung|last used by a newer", self.made_later),
        ):
            copy = self.place / "spoilt"
            shutil.copytree(target, copy)
            spoil(copy)
            with self.assertRaisesRegex(FolderProblem, name):
                restore(copy, self.place / "elsewhere")
            self.assertFalse((self.place / "elsewhere").exists())
            shutil.rmtree(copy)
        verify(target)

    def made_later(self, copy: Path) -> None:
        said = json.loads((copy / MANIFEST).read_text())
        (copy / MANIFEST).write_text(json.dumps(said | {"tables": "9999"}))

    def test_what_is_served_is_not_restored_over_and_what_is_there_is_not_overwritten(self) -> None:
        target = self.place / "copy"
        back_up(self.folder, target)
        with self.assertRaisesRegex(FolderProblem, "is there already"):
            back_up(self.folder, target)
        with held(self.folder), self.assertRaisesRegex(FolderProblem, "in use by"):
            restore(target, self.folder)
        with self.assertRaisesRegex(FolderProblem, "holds no data to back up"):
            back_up(self.place / "none", self.place / "other")

    def test_a_disk_that_fills_up_leaves_no_half_backup(self) -> None:
        with (
            mock.patch("bildung.store.backup.write_durably", side_effect=OSError(28, "No space left on device")),
            self.assertRaisesRegex(FolderProblem, "failed .*No space left"),
        ):
            back_up(self.folder, self.place / "copy")
        self.assertEqual(list(self.place.iterdir()), [])

    def test_check_finds_lost_pictures_and_answers_that_are_not_the_last(self) -> None:
        self.answer(0, 3)
        self.assertEqual([*check_media(self.folder), *check_answers(self.folder)], [])
        (self.folder / "media" / self.picture).write_bytes(b"x")
        self.ctx.store.write(
            lambda db: db.connection().exec_driver_sql("UPDATE response SET answer = 'D' WHERE sequence = 2")
        )
        found = [*check_media(self.folder), *check_answers(self.folder)]
        self.assertEqual(len(found), 2)
        self.assertIn("is not what was uploaded", found[0])
        self.assertIn("1 answer is not the last that came", found[1])


class Nightly(WorldCase):
    def test_once_a_night_after_the_hour_and_the_oldest_go(self) -> None:
        settings.change_settings(self.ctx, self.boss, {"backup_hour": 3, "backups_kept": 2})
        self.clock.now = self.clock.now.replace(hour=1)  # two o'clock at the school
        self.assertIsNone(backups.nightly_backup(self.ctx))
        self.clock.pass_by(hours=2)
        made = backups.nightly_backup(self.ctx)
        assert made is not None
        self.assertIsNone(backups.nightly_backup(self.ctx))
        for _ in range(3):
            self.clock.pass_by(days=1)
            backups.nightly_backup(self.ctx)
        shown = backups.backups(self.ctx, self.boss)
        self.assertEqual(len(shown.backups), 2)
        self.assertIn("2 backups; the newest is from 2026-11-26", shown.finding)
        self.assertEqual(read_backup(backups.folder_of(self.ctx) / shown.backups[0].name).federation, "Test Federation")
        with self.assertRaises(NotAllowed):
            backups.backups(
                self.ctx,
                Actor(person_id=self.boss_id, name="x", grants=(Grant("teacher", None),), sign_in_id=0, csrf=""),
            )
        self.assertTrue(Action.SETTINGS)

    def test_a_night_that_failed_is_said_until_one_works(self) -> None:
        with (
            mock.patch("bildung.store.backup.write_durably", side_effect=OSError(28, "No space left on device")),
            self.assertRaises(FolderProblem),
        ):
            backups.nightly_backup(self.ctx)
        self.assertIn("No space left", backups.backups(self.ctx, self.boss).failure)
        backups.nightly_backup(self.ctx)
        self.assertEqual(backups.backups(self.ctx, self.boss).failure, "")

    def test_none_is_made_where_none_is_wanted_or_the_data_are_made_up(self) -> None:
        settings.change_settings(self.ctx, self.boss, {"backups_kept": 0})
        self.assertIsNone(backups.nightly_backup(self.ctx))
        settings.change_settings(self.ctx, self.boss, {"backups_kept": 3})
        (self.folder / "demo.json").write_text("{}")
        self.assertIsNone(backups.nightly_backup(self.ctx))


class ByItself(WorldCase):
    def test_a_daily_job_that_failed_is_tried_again_the_same_day_and_one_that_worked_is_not(self) -> None:
        ran: list[str] = []

        def clears(ctx: Context) -> None:
            ran.append("clears")
            if ran.count("clears") < 3:
                raise RuntimeError("the disk slept")

        def always(ctx: Context) -> None:
            ran.append("always")
            raise RuntimeError("and never stops the others")

        upkeep = Upkeep([always], [clears])
        with self.assertLogs("bildung", "ERROR"):
            for _ in range(2):
                upkeep.look(self.ctx)
            self.assertEqual(ran.count("clears"), 1, "not at once")
            for _ in range(4):
                self.clock.pass_by(seconds=AGAIN.total_seconds() + 1)
                upkeep.look(self.ctx)
        self.assertEqual((ran.count("clears"), ran.count("always")), (3, 6))
        self.clock.pass_by(days=1)
        with self.assertLogs("bildung", "ERROR"):
            upkeep.look(self.ctx)
        self.assertEqual(ran.count("clears"), 4)


class Commands(unittest.TestCase):
    def run_it(self, *words: str) -> tuple[int, str]:
        done = subprocess.run(
            [sys.executable, "-m", "bildung.cli", *words], capture_output=True, text=True, check=False
        )
        self.assertNotIn("Traceback", done.stderr)
        return done.returncode, done.stdout + done.stderr

    def test_a_served_folder_is_backed_up_and_checked_and_no_second_server_starts(self) -> None:
        with served_folder() as server:
            target = server.folder.with_name(server.folder.name + "-copy")
            self.addCleanup(shutil.rmtree, target, ignore_errors=True)
            code, said = self.run_it("backup", str(target), "--data", str(server.folder))
            self.assertEqual((code, "verified" in said), (0, True), said)
            self.assertEqual(self.run_it("check", "--data", str(server.folder))[0], 0)
            code, said = self.run_it("serve", "--data", str(server.folder), "--port", "0")
            self.assertEqual((code, "in use by a Bildung server, process" in said), (1, True), said)
            code, said = self.run_it("restore", str(target), "--data", str(server.folder))
            self.assertEqual((code, "in use by" in said), (1, True), said)
            assert server.process is not None
            server.process.terminate()
            self.assertEqual(server.process.wait(20), 0, "SIGTERM ends cleanly")
            self.assertFalse((server.folder / f"{DATABASE}-wal").exists(), "and the store was closed")
            self.assertEqual(self.run_it("restore", str(target), "--data", str(server.folder))[0], 0)
            for aside in server.folder.parent.glob(f"{server.folder.name}.before-restore-*"):
                shutil.rmtree(aside)

    def test_nothing_to_look_at_is_said(self) -> None:
        for words in (
            ("check", "--data", "/nowhere/at/all"),
            ("backup", "/tmp/x", "--data", "/nowhere/at/all"),
            ("restore", "/nowhere"),
        ):
            code, said = self.run_it(*words)
            self.assertNotEqual(code, 0)
            self.assertEqual(len(said.strip().splitlines()), 1, said)
