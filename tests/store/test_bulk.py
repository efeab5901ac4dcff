"""Much writing at once: rehearsed on a copy, merged in a moment, all or nothing."""

from __future__ import annotations

import contextlib
import os
import shutil
import sqlite3
import tempfile
import threading
import unittest
import unittest.mock
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import delete, func, select, text, update
from sqlalchemy.orm import Session

from bildung.store import bulk
from bildung.store.bulk import Log
from bildung.store.models import AuditEntry, Person, School, Setting, SignIn
from bildung.store.store import Store
from bildung.store.writer import HalfDone

NOW = datetime(2026, 11, 23, 11, tzinfo=UTC)
Work = Callable[[Session], Any]


def people(db: Session, many: int, first: int = 0) -> list[int]:
    made = [Person(source_id=f"x{n}", given="A", family=f"B{n}", kind="student") for n in range(first, first + many)]
    db.add_all(made)
    db.flush()
    return [person.id for person in made]


def mixed(db: Session) -> list[int]:
    """Adds, changes, takes away, adds in between again, and takes half of it back."""
    ids = people(db, 40)
    school = School(source_id="s", name="Hollin Moor")
    db.add(school)
    db.flush()
    db.execute(update(Person).where(Person.id.in_(ids[:10])).values(given="C"))
    db.get_one(Person, ids[11]).family = "D"
    db.execute(delete(Person).where(Person.id == ids[39]))
    with contextlib.suppress(LookupError), db.begin_nested():
        people(db, 5, 100)
        raise LookupError
    db.add(Setting(name="zones", value=[1, {"a": "ü"}, 2.5]))
    db.add(
        AuditEntry(
            at=NOW, person_id=ids[0], action="person.erase", subject=f"school:{school.id}", before=None, after=[1]
        )
    )
    return ids[:3]


class BulkCase(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="bildung-test-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        self.store = self.open("a")

    def open(self, name: str) -> Store:
        store = Store(self.folder / name)
        self.addCleanup(store.close)
        return store

    def dump(self, store: Store) -> list[str]:
        with contextlib.closing(sqlite3.connect(store.path)) as connection:
            return [line for line in connection.iterdump() if line.startswith("INSERT")]

    def count(self, store: Store | None = None) -> int:
        with (store or self.store).read() as db:
            return db.scalar(select(func.count(Person.id))) or 0

    def log(self, action: str) -> Work:
        return lambda db: db.add(AuditEntry(at=NOW, action=action, subject="x", before=None, after=None))


class Merging(BulkCase):
    def test_the_same_as_writing_it(self) -> None:
        other = self.open("b")
        for store in (self.store, other):
            store.write(lambda db: people(db, 3, 500))
        self.assertEqual(self.store.write(mixed, much=True), other.write(mixed))
        self.assertEqual(self.dump(self.store), self.dump(other))
        self.assertEqual(self.count(), 42)
        left = {path.name for path in self.store.folder.iterdir() if "rehearsal" in path.name or "merging" in path.name}
        self.assertEqual(left, set())

    def test_in_pieces_as_well(self) -> None:
        other = self.open("b")
        with unittest.mock.patch.object(bulk, "PIECE", 7):
            self.assertEqual(self.store.write(mixed, much=True), other.write(mixed))
        self.assertEqual(self.dump(self.store), self.dump(other))

    def test_what_fails_leaves_nothing(self) -> None:
        before = self.dump(self.store)

        def fails(db: Session) -> None:
            mixed(db)
            raise LookupError("halfway")

        with self.assertRaisesRegex(LookupError, "halfway"):
            self.store.write(fails, much=True)
        self.assertEqual(self.dump(self.store), before)

    def meanwhile(self, *others: Work) -> Work:
        """Work in whose middle others write, each the first times that it is done."""
        waiting = list(others)
        self.done, self.begins = 0, 1000 * self.count()

        def work(db: Session) -> int:
            self.done += 1
            if waiting:
                self.store.write(waiting.pop(0))
            people(db, 4, self.begins + 10 * self.done)
            return self.done

        return work

    def test_it_is_rehearsed_anew_where_others_changed_something(self) -> None:
        for name, other in (
            ("somebody of the staff did something", self.log("session.cancel")),
            ("a row came to one of its tables", lambda db: people(db, 1, 900)),
        ):
            with self.subTest(name):
                self.assertEqual(self.store.write(self.meanwhile(other), much=True), 2)

    def test_what_happens_all_the_time_is_no_reason(self) -> None:
        self.assertEqual(self.store.write(self.meanwhile(self.log("sitting.mark")), much=True), 1)

    def test_a_row_that_it_changes_and_that_has_gone_is_a_reason(self) -> None:
        first, second = self.store.write(lambda db: people(db, 2))
        calls = []

        def work(db: Session) -> None:
            calls.append(1)
            if len(calls) == 1:
                self.store.write(lambda other: other.execute(delete(Person).where(Person.id == first)))
            db.execute(update(Person).where(Person.id.in_([first, second])).values(given="Z"))

        self.store.write(work, much=True)
        self.assertEqual(len(calls), 2)
        with self.store.read() as db:
            self.assertEqual(db.scalars(select(Person.given)).all(), ["Z"])

    def test_where_something_moves_all_the_time_the_others_wait(self) -> None:
        moves = [self.log("session.cancel")] * bulk.TRIES
        self.assertEqual(self.store.write(self.meanwhile(*moves), much=True), bulk.TRIES + 1)

    def test_where_there_is_no_room_for_a_copy_the_others_wait(self) -> None:
        for where, error in (
            ("_take_copy", sqlite3.OperationalError("database or disk is full")),
            ("_take_copy", OSError(28, "No space left on device")),
        ):
            with (
                self.subTest(str(error)),
                unittest.mock.patch.object(self.store._copies, where, side_effect=error),
            ):
                count = self.count()
                self.store.write(lambda db, first=count: people(db, 3, first), much=True)
                self.assertEqual(self.count(), count + 3)

    def test_nor_where_the_pieces_cannot_be_written_down_first(self) -> None:
        with (
            unittest.mock.patch.object(bulk, "PIECE", 20),
            unittest.mock.patch.object(bulk, "write_durably", side_effect=OSError(28, "No space left on device")),
        ):
            self.store.write(lambda db: people(db, 90), much=True)
        self.assertEqual(self.count(), 90)


class Pieces(BulkCase):
    def test_students_write_in_between_and_nobody_else(self) -> None:
        order: list[str] = []
        asked = threading.Event()
        put = bulk.write

        def slowly(connection: Any, statements: Any, first: bool) -> None:
            order.append("piece")
            if len(order) == 1:  # both ask while the first is written
                answers.append(self.store.write_soon(lambda c: order.append("answer")))
                answers.append(self.store._writer._put(self.store._writer._rest, lambda c: order.append("staff")))
                asked.set()
            put(connection, statements, first)

        answers: list[Any] = []
        with unittest.mock.patch.object(bulk, "PIECE", 20), unittest.mock.patch.object(bulk, "write", slowly):
            self.store.write(lambda db: people(db, 90), much=True)
        self.assertTrue(asked.is_set())
        for answer in answers:
            answer.result(10)
        self.assertEqual(order[-1], "staff")
        self.assertEqual(order[:2], ["piece", "answer"])
        self.assertGreater(order.count("piece"), 3)

    def rehearsed(self, many: int) -> Log:
        _, rehearsal = self.store._copies.rehearse(lambda db: people(db, many))
        with unittest.mock.patch.object(bulk, "PIECE", 10):
            return Log.of(self.store.folder, rehearsal.pieces())

    def test_a_server_that_ended_in_the_middle_ends_it_when_it_starts(self) -> None:
        log = self.rehearsed(45)
        log.keep()
        steps = log.steps(lambda connection: None)
        for step in steps[:2]:
            self.store._writer.run_on_rows(step)
        half = self.count()
        self.assertTrue(0 < half < 45)
        self.store.close()
        again = self.open("a")
        self.assertEqual(self.count(again), 45)
        self.assertFalse(log.path.exists())
        with again.read() as db:
            self.assertEqual(db.execute(text("SELECT * FROM kept_version")).all(), [])

    def test_one_that_ended_before_the_first_piece_has_done_nothing(self) -> None:
        log = self.rehearsed(45)
        log.keep()
        self.store.close()
        self.assertEqual(self.count(self.open("a")), 0)
        self.assertTrue(log.path.exists(), "another process may be about to write its first piece")
        long_ago = log.path.stat().st_mtime - 2 * bulk.ABOUT
        os.utime(log.path, (long_ago, long_ago))
        self.assertEqual(self.count(self.open("a")), 0)
        self.assertFalse(log.path.exists())

    def test_a_piece_that_cannot_be_written_now_is_written_later(self) -> None:
        put, calls = bulk.write, []

        def full(connection: Any, statements: Any, first: bool) -> None:
            calls.append(1)
            if len(calls) in (2, 3):
                raise OSError("no space left")
            put(connection, statements, first)

        with (
            unittest.mock.patch.object(bulk, "PIECE", 20),
            unittest.mock.patch.object(bulk, "write", full),
            self.assertLogs("bildung.store.writer", "ERROR"),
        ):
            self.store.write(lambda db: people(db, 90), much=True)
        self.assertEqual(self.count(), 90)

    def test_a_student_who_joins_meanwhile_is_not_taken_off(self) -> None:
        (student,) = self.store.write(lambda db: people(db, 1))
        joined = SignIn(token_hash="x", csrf="", person_id=student, created_at=NOW, expires_at=NOW)
        calls = []

        def work(db: Session) -> None:
            calls.append(1)
            if len(calls) == 1:
                self.store.write(lambda other: other.add(joined))
            db.execute(delete(Setting))

        self.store.write(work, much=True)
        self.assertEqual(len(calls), 2)

    def test_what_can_never_be_written_ends_with_its_log_kept_and_the_others_go_on(self) -> None:
        put, calls = bulk.write, []

        def broken(connection: Any, statements: Any, first: bool) -> None:
            calls.append(1)
            if len(calls) == 2:
                raise sqlite3.IntegrityError("a fault of ours")
            put(connection, statements, first)

        with (
            unittest.mock.patch.object(bulk, "PIECE", 20),
            unittest.mock.patch.object(bulk, "write", broken),
            self.assertLogs("bildung.store.writer", "CRITICAL"),
            self.assertRaises(HalfDone),
        ):
            self.store.write(lambda db: people(db, 90), much=True)
        self.assertEqual(self.store.write(lambda db: len(people(db, 1, 500))), 1)
        self.assertEqual(len(list(self.store.folder.glob("merging-*.log"))), 1)

    def test_a_store_that_is_closed_in_the_middle_ends_it_when_it_is_opened(self) -> None:
        put, calls = bulk.write, []

        def full(connection: Any, statements: Any, first: bool) -> None:
            calls.append(1)
            if len(calls) >= 2:
                self.store._writer._stopping = True
                raise OSError("no space left")
            put(connection, statements, first)

        with (
            unittest.mock.patch.object(bulk, "PIECE", 20),
            unittest.mock.patch.object(bulk, "write", full),
            self.assertLogs("bildung.store.writer", "CRITICAL"),
            self.assertRaises(HalfDone),
        ):
            self.store.write(lambda db: people(db, 90), much=True)
        self.store.close()
        self.assertEqual(self.count(self.open("a")), 90)

    def test_another_process_waits_with_all_but_answers(self) -> None:
        other = self.open("a")
        self.assertTrue(self.store._barrier.close())
        answered = other.write_soon(lambda connection: "kept").result(10)
        self.assertEqual(answered, "kept")
        waits = other._writer._put(other._writer._rest, lambda connection: "written")
        other.write_soon(lambda connection: None).result(10)
        self.assertFalse(waits.done())
        self.store._barrier.open()
        self.assertEqual(waits.result(10), "written")

    def test_a_copy_of_a_process_that_has_gone_is_removed(self) -> None:
        left = self.store.folder / "rehearsal-999999999-0.sqlite"
        left.write_text("x")
        self.open("a")
        self.assertFalse(left.exists())
