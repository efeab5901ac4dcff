"""`./bildung bench load` and `./bildung bench kill`: what a server bears, and whether it loses anything."""

from __future__ import annotations

import json
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from bildung.load.devices import Measured, Task
from bildung.load.school import PASSWORD, LoadSchool, make_school
from bildung.load.served import Served

COMMITS = 200


@dataclass(frozen=True, kw_only=True)
class Load:
    """students who each send one answer in `every` seconds, for so many seconds. staff: how many open pages meanwhile;
    import_rows: people in the roster that one of them imports. once: one run is enough."""

    says: str
    students: int
    seconds: float
    every: float = 10.0
    staff: int = 0
    import_rows: int = 0
    once: bool = False


FULL = (
    Load(says="600 students", students=600, seconds=120),
    Load(
        says="600 students, 20 staff at heavy pages, a roster of 20,000 imported",
        students=600,
        seconds=120,
        staff=20,
        import_rows=20_000,
    ),
    Load(says="1,200 students", students=1200, seconds=120),
    Load(says="5,000 students who only join", students=5000, seconds=0, once=True),
)
QUICK = (
    Load(says="60 students", students=60, seconds=10, every=1.0),
    Load(says="60 students, 4 staff, a roster of 500", students=60, seconds=10, every=1.0, staff=4, import_rows=500),
)


def commit_seconds(folder: Path) -> float:
    """What the disk takes for a commit of its own, with the server's settings: the median of some."""
    took = []
    connection = sqlite3.connect(folder / "commits.sqlite", isolation_level=None)
    connection.execute("PRAGMA journal_mode=WAL")
    connection.execute("PRAGMA synchronous=FULL")
    connection.execute("CREATE TABLE one (n INTEGER)")
    for n in range(COMMITS):
        began = time.perf_counter()
        connection.execute("INSERT INTO one VALUES (?)", (n,))
        took.append(time.perf_counter() - began)
    connection.close()
    return statistics.median(took)


def devices(task: Task) -> Measured:
    """Run the devices' process and return what it measured."""
    ran = subprocess.run(
        [sys.executable, "-m", "bildung.load.devices"],
        input=json.dumps(asdict(task)),
        capture_output=True,
        text=True,
        check=False,
    )
    if ran.returncode:
        raise RuntimeError(ran.stderr[-2000:])
    return Measured(**json.loads(ran.stdout))


def task_of(load: Load, server: Served, school: LoadSchool) -> Task:
    """What the devices' process is told."""
    assert server.process is not None
    return Task(
        port=server.port,
        server=server.process.pid,
        sessions=school.sessions,
        seconds=load.seconds,
        every=load.every,
        password=PASSWORD,
        staff=school.staff[: load.staff],
        live=school.staff[-1],
        taken=school.taken,
        import_rows=load.import_rows,
        submit=load.seconds > 0,
    )


def one(load: Load) -> tuple[Measured, float, float]:
    """One run in a folder of its own; with it the time of the disk's commits and of stopping the server."""
    with tempfile.TemporaryDirectory(prefix="bildung-load-") as name:
        folder = Path(name)
        school = make_school(folder / "data", load.students)
        commit = commit_seconds(folder)
        server = Served(folder / "data")
        server.start()
        try:
            measured = devices(task_of(load, server, school))
        finally:
            stopped = server.stop()
    return measured, commit, stopped


def at(values: Sequence[float], share: float) -> float:
    """A percentile; 0 of nothing."""
    return sorted(values)[min(len(values) - 1, int(share * len(values)))] if values else 0.0


def load(quick: bool, runs: int, out: Path | None = None) -> int:
    """Print the table; 1 where anything went wrong. runs: of each, of which the median is told."""
    print(
        f"{'load':<66} {'joined':>7} {'answers':>8} {'median':>8} {'95%':>8} {'most':>8} {'each':>8} {'live':>7} {'commit':>8}"
    )
    rows: list[dict[str, Any]] = []
    wrong: dict[str, int] = {}
    for wanted in QUICK if quick else FULL:
        found = [one(wanted) for _ in range(1 if wanted.once else runs)]
        median = sorted(found, key=lambda run: at(run[0].saves, 0.95))[len(found) // 2]
        measured, commit, stopped = median
        row: dict[str, Any] = {
            "load": wanted.says,
            "joined": measured.joined,
            "answers": len(measured.saves),
            "median": at(measured.saves, 0.5),
            "p95": at(measured.saves, 0.95),
            "most": at(measured.saves, 1.0),
            "processor": measured.processor / max(1, len(measured.saves)),
            "live": measured.gap,
            "commit": commit,
            "pages": len(measured.pages),
            "page_p95": at(measured.pages, 0.95),
            "imported": measured.imported,
            "reconnects": measured.reconnects,
            "stopped": stopped,
            "errors": measured.errors,
            "all_p95": [at(run[0].saves, 0.95) for run in found],
        }
        rows.append(row)
        for run in found:
            for what, count in run[0].errors.items():
                wrong[what] = wrong.get(what, 0) + count
        print(
            f"{wanted.says:<66} {measured.joined:>5.1f} s {row['answers']:>8} {row['median'] * 1e3:>5.1f} ms "
            f"{row['p95'] * 1e3:>5.1f} ms {row['most'] * 1e3:>5.0f} ms {row['processor'] * 1e3:>5.2f} ms "
            f"{measured.gap:>5.2f} s {commit * 1e3:>5.2f} ms",
            flush=True,
        )
        if measured.pages:
            print(
                f"  staff: {len(measured.pages)} pages, 95% within {row['page_p95']:.2f} s; roster imported in "
                f"{measured.imported:.1f} s; the server stopped in {stopped:.1f} s",
                flush=True,
            )
    for what, count in wrong.items():
        print(f"  went wrong {count} times: {what}")
    if out:
        out.write_text(json.dumps(rows, indent=1))
    return 1 if wrong else 0
