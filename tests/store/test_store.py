"""The data folder: how the database is opened, migrated up and down, and written to."""

from __future__ import annotations

import contextlib
import io
import shutil
import sqlite3
import tempfile
import threading
import unittest
import unittest.mock
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from sqlalchemy import Connection, create_engine, insert, select, text
from sqlalchemy.orm import Session

import bildung.store.store as store_module
from bildung.store.migrating import newest_migration
from bildung.store.models import Accommodation, Base, Federation, Response
from bildung.store.store import Store
from tests.support import WorldCase


class Opening(WorldCase):
    def test_the_database_is_durable_and_holds_its_references(self) -> None:
        with self.ctx.store.read() as db:
            pragmas = {
                name: db.execute(text(f"PRAGMA {name}")).scalar()
                for name in ("journal_mode", "foreign_keys", "synchronous", "busy_timeout", "query_only")
            }
        self.assertEqual(
            pragmas,
            {"journal_mode": "wal", "foreign_keys": 1, "synchronous": 2, "busy_timeout": 10_000, "query_only": 1},
        )

    def test_a_reader_cannot_write(self) -> None:
        with self.ctx.store.read() as db, self.assertRaisesRegex(Exception, "readonly"):
            db.execute(text("UPDATE federation SET name = 'x'"))

    def test_a_reference_to_nothing_is_refused(self) -> None:
        with self.assertRaisesRegex(Exception, "FOREIGN KEY"):
            self.ctx.store.write(
                lambda db: db.add(Response(sitting_id=1, form_item_id=1, answer="A", takeover=1, sequence=1))
            )

    def test_work_that_fails_leaves_nothing_and_says_why(self) -> None:
        def half(db) -> None:  # type: ignore[no-untyped-def]
            db.add(Federation(name="half"))
            db.flush()
            raise LookupError("halfway")

        with self.assertRaisesRegex(LookupError, "halfway"):
            self.ctx.store.write(half)
        with self.ctx.store.read() as db:
            self.assertEqual(db.execute(text("SELECT count(*) FROM federation")).scalar(), 1)

    def test_a_disk_that_takes_nothing_is_told_to_everybody_who_waits(self) -> None:
        begun, gate = threading.Event(), threading.Event()

        def hold(db: Session) -> bool:
            begun.set()
            return gate.wait(10)

        with ThreadPoolExecutor(3) as pool:
            first = pool.submit(self.ctx.store.write, hold)
            self.assertTrue(begun.wait(10))
            with unittest.mock.patch.object(self.ctx.store._writers, "begin", side_effect=OSError("disk full")):
                rest = [pool.submit(self.ctx.store.write, lambda db: None) for _ in range(2)]
                gate.set()
                first.result(10)
                for one in rest:
                    with self.assertRaisesRegex(OSError, "disk full"):
                        one.result(10)
        self.ctx.store.write(lambda db: None)

    def test_what_must_not_wait_goes_before_what_was_queued_earlier(self) -> None:
        begun, gate, order = threading.Event(), threading.Event(), list[str]()

        def hold(db: Session) -> bool:
            begun.set()
            return gate.wait(10)

        with ThreadPoolExecutor(4) as pool:
            first = pool.submit(self.ctx.store.write, hold)
            self.assertTrue(begun.wait(10))
            rest = [pool.submit(self.ctx.store.write, lambda db: order.append("rest")) for _ in range(3)]
            while len(self.ctx.store._writer._rest) < 3:
                threading.Event().wait(0.001)
            soon = [self.ctx.store.write_soon(lambda connection: order.append("answer")) for _ in range(2)]
            gate.set()
            for one in (first, *soon, *rest):
                one.result(10)
        self.assertEqual(order, ["answer", "answer", "rest", "rest", "rest"])

    def test_one_that_fails_among_what_must_not_wait_leaves_the_others_alone(self) -> None:
        begun, gate = threading.Event(), threading.Event()

        def hold(db: Session) -> bool:
            begun.set()
            return gate.wait(10)

        def add(name: str) -> Callable[[Connection], None]:
            def work(connection: Connection) -> None:
                connection.execute(insert(Federation).values(name=name))
                if name == "bad":
                    raise LookupError("bad")

            return work

        with ThreadPoolExecutor(1) as pool:
            first = pool.submit(self.ctx.store.write, hold)
            self.assertTrue(begun.wait(10))
            good, bad, other = (self.ctx.store.write_soon(add(name)) for name in ("good", "bad", "other"))
            gate.set()
            for one in (first, good, other):
                one.result(10)
            with self.assertRaisesRegex(LookupError, "bad"):
                bad.result(10)
        with self.ctx.store.read() as db:
            names = db.scalars(select(Federation.name).where(Federation.name.in_(("good", "bad", "other")))).all()
        self.assertEqual(sorted(names), ["good", "other"])

    def test_who_no_longer_waits_neither_stops_the_writer_nor_takes_the_work_back(self) -> None:
        begun, gate = threading.Event(), threading.Event()

        def hold(db: Session) -> bool:
            begun.set()
            return gate.wait(10)

        with ThreadPoolExecutor(1) as pool:
            first = pool.submit(self.ctx.store.write, hold)
            self.assertTrue(begun.wait(10))
            left = self.ctx.store.write_soon(
                lambda connection: connection.execute(insert(Federation).values(name="left"))
            )
            self.assertFalse(left.cancel(), "a device that hung up")
            gate.set()
            first.result(10)
        left.result(10)
        self.ctx.store.write(lambda db: db.add(Federation(name="after")))
        with self.ctx.store.read() as db:
            names = db.scalars(select(Federation.name).where(Federation.name.in_(("left", "after")))).all()
        self.assertEqual(sorted(names), ["after", "left"])

    def test_two_stores_on_one_folder_wait_for_each_other(self) -> None:
        other = Store(self.folder)
        self.addCleanup(other.close)
        other.write(lambda db: db.add(Federation(name="second")))
        self.ctx.store.write(lambda db: db.add(Federation(name="third")))
        with other.read() as db:
            self.assertEqual(db.execute(text("SELECT count(*) FROM federation")).scalar(), 3)

    def test_a_closed_store_takes_no_more_work(self) -> None:
        other = Store(self.folder)
        other.close()
        with self.assertRaisesRegex(RuntimeError, "closed"):
            other.write(lambda db: None)


class Migrations(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        self.path = self.folder / "m.sqlite"
        self.config = Config(stdout=io.StringIO())
        self.config.set_main_option("script_location", str(Path(store_module.__file__).parent / "migrations"))
        self.config.set_main_option("sqlalchemy.url", f"sqlite:///{self.path}")

    def test_they_make_exactly_the_tables_of_the_models(self) -> None:
        store_module.migrate(self.path)
        engine = create_engine(f"sqlite:///{self.path}")
        with engine.connect() as connection:
            # the word index is SQLite's own kind of table, with helpers that it makes itself
            options = {"include_name": lambda name, kind, _: kind != "table" or not str(name).startswith("item_words")}
            difference = compare_metadata(MigrationContext.configure(connection, opts=options), Base.metadata)
        engine.dispose()
        self.assertEqual(difference, [])

    def test_each_can_be_taken_back_and_made_again(self) -> None:
        store_module.migrate(self.path)
        command.downgrade(self.config, "base")
        with contextlib.closing(sqlite3.connect(self.path)) as connection:
            left = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        self.assertEqual(left - {"sqlite_sequence"}, {"alembic_version"}, "which SQLite keeps by itself")
        store_module.migrate(self.path)
        with contextlib.closing(sqlite3.connect(self.path)) as connection:
            self.assertEqual(
                connection.execute("SELECT version_num FROM alembic_version").fetchone(), (newest_migration(),)
            )

    def test_accommodations_of_older_stores_are_carried_over_one_by_one(self) -> None:
        command.upgrade(self.config, "0021")
        with contextlib.closing(sqlite3.connect(self.path)) as db, db:
            for id in (1, 2, 3):
                db.execute(
                    "INSERT INTO person (id, source_id, given, family, kind, grade, active) "
                    "VALUES (?, ?, 'A', 'B', 'student', '5', 1)",
                    (id, f"S{id}"),
                )
            columns = "person_id, extra_time, small_group, own_proctor, read_aloud, large_print, breaks, form_kind, language, note"
            for row in (
                (1, 1.25, 1, 0, 0, 0, 0, "shortened", "", "sits in front"),
                (2, 2.0, 0, 0, 1, 0, 0, "", "Polish", ""),
                (3, 1.0, 0, 0, 0, 0, 0, "", "", "a quiet corner"),
            ):
                db.execute(f"INSERT INTO accommodation ({columns}) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", row)
        command.upgrade(self.config, "head")
        engine = create_engine(f"sqlite:///{self.path}")
        with Session(engine) as db:
            rows = db.scalars(select(Accommodation).order_by(Accommodation.person_id, Accommodation.kind)).all()
            found = [(r.person_id, r.kind, r.value, r.note, r.approved_at is not None) for r in rows]
        engine.dispose()
        self.assertEqual(
            found,
            [
                (1, "extra_time", "1.25", "sits in front", True),
                (1, "form", "shortened", "", True),
                (1, "small_group", "", "", True),
                (2, "directions", "Polish", "", True),
                (2, "extra_time", "2", "", True),
                (2, "read_aloud", "", "", True),
                (3, "other", "a quiet corner", "", True),
            ],
        )
