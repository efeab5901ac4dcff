"""What several tests share: a small store with a coordinator, a clock to turn, a served folder."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import random
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from collections import deque
from collections.abc import Callable, Iterator
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.demo.files import DemoItem, item_sheet, place
from bildung.demo.mathematics import draft_items
from bildung.demo.rosters import Layout, roster_files
from bildung.services.bank import itemimport, search
from bildung.services.building import forms
from bildung.services.rosters import fromfiles
from bildung.services.sessions import listing, scheduling
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.services.shared.passwords import hash_password
from bildung.store.migrating import copy_database
from bildung.store.models import Enrolment, Federation, Person, Role, SchoolClass, Window
from bildung.store.store import Store
from tests.templates import copied, template

T = TypeVar("T")

NOON = datetime(2026, 11, 23, 11, 0, tzinfo=UTC)
PASSWORD = "for-tests-only"


class Clock:
    def __init__(self) -> None:
        self.now = NOON

    def __call__(self) -> datetime:
        return self.now

    def pass_by(self, **time: float) -> None:
        self.now += timedelta(**time)


def small_roster(size: int = 28, grades: tuple[str, ...] = ("5",)) -> dict[str, bytes]:
    return roster_files(
        Layout(key="HM", name="Hollin Moor", grades=grades, classes=1, size=size, year=2026), random.Random(41)
    )


def found_federation(db: Session) -> None:
    """What an installation has before the first import: its name, a window, a coordinator."""
    db.add(Federation(name="Test Federation", zone="Europe/Berlin"))
    db.add(Window(name="Fall", start=date(2026, 9, 14), end=date(2026, 12, 18)))
    boss = Person(
        source_id="local:boss",
        given="Hanne",
        family="Quill",
        kind="staff",
        username="boss",
        password_hash=hash_password(PASSWORD),
    )
    db.add(boss)
    db.flush()
    db.add(Role(person_id=boss.id, role="coordinator"))


def watch_holds(store: Store, seen: Callable[[float], None]) -> None:
    """Tell the processor time, in seconds, of each piece of work that the one writer does from now on."""
    writer = store._writer
    put = writer._put

    def timed(work: Callable[[Any], Any]) -> Callable[[Any], Any]:
        def held(connection: Any) -> Any:
            began = time.thread_time()
            try:
                return work(connection)
            finally:
                seen(time.thread_time() - began)

        return held

    class Timed(deque[Any]):
        def extend(self, jobs: Any) -> None:
            super().extend(job._replace(work=timed(job.work)) for job in jobs)

    writer._put = lambda jobs, work, alone=False: put(jobs, timed(work), alone)  # type: ignore[method-assign]
    writer._pieces = Timed()


class CountedStore(Store):
    """Knows whether anybody wrote to it since a test began."""

    def __init__(self, folder: Path) -> None:
        self.writes = 0
        super().__init__(folder)

    def write(self, work: Callable[[Session], T], much: bool = False) -> T:
        self.writes += 1
        return super().write(work, much)


def _found(folder: Path) -> tuple[int, int]:
    """Make the folder that every test begins with; returns the coordinator's and the window's id."""
    store = Store(folder)
    store.write(found_federation)
    with store.read() as db:
        ids = db.scalars(select(Person.id).where(Person.username == "boss")).one(), db.scalars(select(Window.id)).one()
    store.close()
    return ids


def found_folder(folder: Path) -> tuple[int, int]:
    """A new installation with a coordinator; returns the coordinator's and the window's id."""
    return copied("founded", _found, folder)


class WorldCase(unittest.TestCase):
    """A fresh store on disk for each test, with a clock of its own.

    What several tests begin with (people, items, a form, a session) is made once and copied as long as a test did nothing
    else before: `_step`.
    """

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="bildung-test-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        self.clock = Clock()
        self.boss_id, self.window_id = found_folder(self.folder)
        self.ctx = Context(store=self._opened(), clock=self.clock)
        self.boss = Actor(
            person_id=self.boss_id, name="Hanne Quill", grants=(Grant("coordinator", None),), sign_in_id=0, csrf=""
        )
        self._steps: tuple[object, ...] = ()
        self._written = 0

    def _opened(self) -> CountedStore:
        store = CountedStore(self.folder)
        self.addCleanup(store.close)
        return store

    def _step(self, work: Callable[[], T], *what: object) -> T:
        """Do `work`, or take what it once made of a store like this one. what: names it with all it depends on."""
        store = self.ctx.store
        if not isinstance(store, CountedStore) or store.writes != self._written or self.clock.now != NOON:
            return work()
        steps = (*self._steps, what)
        done = False

        def make(folder: Path) -> T:
            nonlocal done
            result, done = work(), True
            shutil.copytree(self.folder, folder, ignore=shutil.ignore_patterns("bildung.sqlite*"))
            copy_database(store.path, folder / store.path.name)
            return result

        made, result = template("world-" + hashlib.sha256(repr(steps).encode()).hexdigest()[:20], make)
        if not done:
            store.close()
            for old in self.folder.glob("bildung.sqlite*"):
                old.unlink()
            shutil.copytree(made, self.folder, dirs_exist_ok=True)
            self.ctx.store = self._opened()
        self._steps, self._written = steps, getattr(self.ctx.store, "writes", 0)
        return result

    def bring_people(self, files: dict[str, bytes] | None = None) -> None:
        files = files or small_roster()

        def work() -> None:
            preview = fromfiles.preview(self.ctx, self.boss, files)
            fromfiles.apply(self.ctx, self.boss, preview.id)

        self._step(work, "people", files)

    def bring_items(self, count: int = 6) -> list[str]:
        """Items of the demo's makers; returns their codes."""

        def work() -> list[DemoItem]:
            rng = random.Random(7)
            placed = place(draft_items(rng, "6", count), "T", "Mathematics", "5", rng)
            preview = itemimport.preview_items(self.ctx, self.boss, {"items.csv": item_sheet(placed)})
            itemimport.apply_items(self.ctx, self.boss, preview.id)
            return placed

        self.placed = self._step(work, "items", count)
        return [item.code for item in self.placed]

    def make_form(self, name: str = "A form") -> int:
        def work() -> int:
            found, _, _ = search.find_items(self.ctx, self.boss, limit=500)
            items = [f.item for f in found]
            form = forms.create_form(self.ctx, self.boss, name, "", "Mathematics", "5")
            form = forms.set_items(self.ctx, self.boss, form.id, form.revision, [i.version_id for i in items])
            return forms.publish(self.ctx, self.boss, form.id, form.revision).id

        return self._step(work, "form", name)

    def class_id(self, subject: str = "Mathematics") -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(SchoolClass.id).where(SchoolClass.subject == subject)).first() or 0

    def teacher_of(self, class_id: int) -> Actor:
        with self.ctx.store.read() as db:
            person = db.scalars(
                select(Person)
                .join(Enrolment, Enrolment.person_id == Person.id)
                .where(Enrolment.class_id == class_id, Enrolment.role == "teacher")
            ).one()
            return Actor(
                person_id=person.id,
                name=person.name,
                grants=(Grant("teacher", person.school_id),),
                sign_in_id=0,
                csrf="",
            )

    def codes_of(self, class_id: int) -> list[str]:
        with self.ctx.store.read() as db:
            found = db.scalars(
                select(Person.code)
                .join(Enrolment, Enrolment.person_id == Person.id)
                .where(Enrolment.class_id == class_id, Enrolment.role == "student")
                .order_by(Person.id)
            )
            return [code for code in found if code]

    def open_session(self, size: int = 28, items: int = 6) -> listing.SessionDetail:
        """People, items, a published form and a session that is open now."""
        self.bring_people(small_roster(size))
        self.bring_items(items)
        form = self.make_form()

        def work() -> list[int]:
            return scheduling.schedule(
                self.ctx,
                self.boss,
                form,
                self.window_id,
                [self.class_id()],
                "",
                None,
                NOON - timedelta(minutes=5),
                NOON + timedelta(hours=1),
            )

        ids = self._step(work, "session")
        return listing.get_session(self.ctx, self.boss, ids[0])


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Served:
    """A server process on a folder, that can be killed and started again. helpers: processes beside it, and workers, which
    cost more than most tests need."""

    def __init__(self, folder: Path, helpers: int = 0, workers: int = 1) -> None:
        self.folder, self.port, self.helpers, self.workers = folder, free_port(), helpers, workers
        self.process: subprocess.Popen[bytes] | None = None
        self.said = tempfile.TemporaryFile()  # noqa: SIM115 (as long as the server)

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        self.process = subprocess.Popen(
            [
                *(sys.executable, "-m", "bildung.cli", "serve", "--data", str(self.folder)),
                *("--port", str(self.port), "--helpers", str(self.helpers), "--workers", str(self.workers)),
            ],
            stdout=subprocess.DEVNULL,
            stderr=self.said,
            env={**os.environ, "PYTHONUNBUFFERED": "1"},
        )
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            with contextlib.suppress(OSError):
                urllib.request.urlopen(f"{self.address}/api/welcome", timeout=2).close()
                return
            time.sleep(0.1)
        raise AssertionError("the server did not start within a minute")

    def kill(self) -> None:
        """At once, as a power cut would."""
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(15)
            except subprocess.TimeoutExpired:
                self.process.kill()
        self.said.seek(0)
        said = self.said.read().decode(errors="replace")
        if "unforeseen error" in said:  # what whoever looks for a failure wants to know
            print(f"the server of this test said:\n{said[-6000:]}", file=sys.stderr)


@contextlib.contextmanager
def served_folder(helpers: int = 0, workers: int = 1) -> Iterator[Served]:
    """A new installation with a coordinator to sign in as, served."""
    folder = Path(tempfile.mkdtemp(prefix="bildung-served-"))
    found_folder(folder)
    people = [{"name": "Hanne Quill", "role": "coordinator", "username": "boss", "password": PASSWORD}]
    (folder / "demo.json").write_text(json.dumps({"people": people}))
    server = Served(folder, helpers, workers)
    try:
        server.start()
        yield server
    finally:
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)
