"""Runs the tests, all or a part, and ends with one line of counts: `python -m tests.run [--changed] [PART …]`.

One process more than there are cores share the work: each takes the next class of tests when it is through with one, the
longest first by what the last run measured. One of them begins with those in the browser, which keep several processes
busy by themselves; two such classes beside each other would only slow each other.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from collections import deque
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import TextIO

from bildung.reports.apart import NICENESS
from tests import changed, templates

HERE = Path(__file__).parent
ROOM = 4 * 2**30
PYTHON_PARTS = sorted(p.name for p in HERE.iterdir() if (p / "__init__.py").exists())
PAGES = "pages"  # the modules behind the pages, tested in ui/ beside their source
PARTS = [*PYTHON_PARTS, PAGES]
SECONDS = HERE / "seconds.json"  # by class, as `--measure` wrote them
BROWSER = "tests.ui."
USUAL = 2.0  # seconds of a class that was never measured


@dataclass(kw_only=True)
class Tally:
    """What came of the tests so far.

    Attributes
    ----------
    passed, failed, skipped
        How many.
    took
        Seconds and name of each test.
    said
        What is to be read of failures.
    """

    passed: int = 0
    failed: int = 0
    skipped: int = 0
    took: list[tuple[float, str]] = field(default_factory=list)
    said: list[str] = field(default_factory=list)

    def add(self, other: Tally) -> None:
        self.passed, self.failed, self.skipped = (
            self.passed + other.passed,
            self.failed + other.failed,
            self.skipped + other.skipped,
        )
        self.took += other.took
        self.said += other.said


class Waiting:
    """Names of classes that nobody has taken yet."""

    def __init__(self, names: Iterable[str]) -> None:
        ordered = list(names)
        self._browser = deque(name for name in ordered if name.startswith(BROWSER))
        self._others = deque(name for name in ordered if not name.startswith(BROWSER))
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._browser) + len(self._others)

    def take(self, browser: bool) -> str | None:
        """The next one, of the browser first or last; None where nothing waits."""
        with self._lock:
            for names in (self._browser, self._others) if browser else (self._others, self._browser):
                if names:
                    return names.popleft()
        return None


class Result(unittest.TextTestResult):
    """Keeps the time of each test, to see where it goes."""

    def __init__(self, *given: object, **named: object) -> None:
        super().__init__(*given, **named)  # type: ignore[arg-type]
        self.took: list[tuple[float, str]] = []

    def startTest(self, test: unittest.TestCase) -> None:
        self._began = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        self.took.append((time.monotonic() - self._began, test.id()))


def in_memory() -> None:
    """Let temporary folders lie in memory where there is room: each test makes a store of its own, and every commit of
    it waits for the disk. What is tested of the disk itself names its own folder."""
    memory = Path("/dev/shm")
    try:
        roomy = shutil.disk_usage(memory).free > ROOM and os.access(memory, os.W_OK)
    except OSError:
        return
    if roomy and "TMPDIR" not in os.environ:
        os.environ["TMPDIR"] = str(memory)
        tempfile.tempdir = None


def main(asked: list[str]) -> int:
    in_memory()
    if asked == ["--worker"]:
        return work(sys.stdin, sys.stdout)
    if asked == ["--changed"]:
        wanted = changed.touched_tests()
        print(changed.sentence(wanted), flush=True)
        if wanted == []:
            return 0
        return together(wanted, PARTS)
    measure = "--measure" in asked
    parts = [word for word in asked if word != "--measure"]
    unknown = [part for part in parts if part not in PARTS]
    if unknown:
        print(f"bildung: no part {unknown[0]!r} of the tests; there are {', '.join(PARTS)}", file=sys.stderr)
        return 2
    return together(None, parts or PARTS, measure=measure)


def together(modules: list[str] | None, parts: list[str], measure: bool = False) -> int:
    """Run the classes of these modules (None: all of the parts) side by side; returns the exit status."""
    began = time.monotonic()
    names = sorted(classes_of(modules, parts), key=lambda name: -known_seconds().get(name, USUAL))
    scripts = PAGES in parts and (modules is None or PAGES in modules)
    waiting = Waiting([*([PAGES] if scripts else []), *names])
    total, lock = Tally(), threading.Lock()
    with tempfile.TemporaryDirectory(prefix="bildung-templates-") as shared:
        env = {**os.environ, templates.SHARED: shared, NICENESS: "0"}
        takers = [
            threading.Thread(target=_serve_worker, args=(waiting, at == 0, total, lock, env))
            for at in range(workers(len(waiting)))
        ]
        for taker in takers:
            taker.start()
        for taker in takers:
            taker.join()
    for seconds, name in sorted(total.took, reverse=True)[:10]:
        print(f"  {seconds:6.1f} s  {name}")
    print(f"  {time.monotonic() - began:6.1f} s  all, by {len(takers)} processes")
    if measure:
        _keep_seconds(total.took)
    failed = bool(total.failed or waiting or total.passed == 0)
    if not failed and modules is None and parts == PARTS:
        changed.remember_green()
    print(f"{total.passed} passed, {total.failed} failed, {total.skipped} skipped", flush=True)
    return int(failed)


def workers(classes: int) -> int:
    """How many processes: one a core, and one more, since tests in the browser wait for pages much of their time."""
    return max(1, min(classes, len(os.sched_getaffinity(0)) + 1))


def known_seconds() -> dict[str, float]:
    return json.loads(SECONDS.read_text()) if SECONDS.exists() else {}


def _keep_seconds(took: list[tuple[float, str]]) -> None:
    """Write what each class took, where it is worth knowing."""
    by_class: dict[str, float] = {}
    for seconds, test in took:
        name = test.rpartition(".")[0]
        by_class[name] = by_class.get(name, 0.0) + seconds
    kept = {name: round(seconds, 1) for name, seconds in sorted(by_class.items()) if seconds >= 2 * USUAL}
    SECONDS.write_text(json.dumps(kept, indent=1) + "\n")


def classes_of(modules: list[str] | None, parts: list[str]) -> Iterator[str]:
    """Dotted names of the test classes; a module that cannot be read stands for itself, so that it fails where it runs."""
    seen: set[str] = set()
    for part in parts:
        if part == PAGES:
            continue
        suites = [unittest.TestLoader().discover(str(HERE / part), top_level_dir=str(HERE.parent))]
        while suites:
            found = suites.pop()
            if isinstance(found, unittest.TestSuite):
                suites += found
                continue
            kind = type(found)
            name = found.id() if kind.__module__ == "unittest.loader" else f"{kind.__module__}.{kind.__qualname__}"
            name = name.removeprefix("unittest.loader._FailedTest.")
            if name not in seen and (modules is None or kind.__module__ in modules):
                seen.add(name)
                yield name


def _serve_worker(waiting: Waiting, browser: bool, total: Tally, lock: threading.Lock, env: dict[str, str]) -> None:
    """Hand a process one class after the other until none waits; one that dies counts as a failure and is replaced."""
    while waiting:
        process = subprocess.Popen(
            [sys.executable, "-m", "tests.run", "--worker"],
            cwd=HERE.parent,
            env=env,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            bufsize=1,
        )
        assert process.stdin and process.stdout
        while True:
            name = waiting.take(browser)
            if name is None:
                process.stdin.close()
                process.wait()
                return
            process.stdin.write(name + "\n")
            process.stdin.flush()
            line = process.stdout.readline()
            if not line:
                with lock:
                    total.add(Tally(failed=1, said=[f"{name}: its process ended with {process.wait()}\n"]))
                break
            found = Tally(**json.loads(line))
            with lock:
                total.add(found)
                print("".join(found.said), end="")
                print(
                    f"{name}: {found.passed + found.failed} in {sum(s for s, _ in found.took):.1f} s"
                    + (f", {found.failed} FAILED" if found.failed else ""),
                    flush=True,
                )


def work(asked: TextIO, answer: TextIO) -> int:
    """Run what is named on each line, answer each with a line of JSON; what tests print goes to the error stream."""
    answer = os.fdopen(os.dup(answer.fileno()), "w")
    os.dup2(sys.stderr.fileno(), 1)
    for line in asked:
        found = test_pages() if line.strip() == PAGES else test_class(line.strip())
        answer.write(json.dumps(vars(found)) + "\n")
        answer.flush()
    return 0


def test_class(name: str) -> Tally:
    with tempfile.TemporaryFile("w+") as told:
        suite = unittest.TestLoader().loadTestsFromName(name)
        result = unittest.TextTestRunner(stream=told, resultclass=Result, verbosity=0).run(suite)
        told.seek(0)
        said = told.read()
    assert isinstance(result, Result)
    bad, skipped = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses), len(result.skipped)
    passed = max(0, result.testsRun - bad - skipped)
    return Tally(passed=passed, failed=bad, skipped=skipped, took=result.took, said=[said] if bad else [])


def test_pages() -> Tally:
    """Run the TypeScript unit tests."""
    ui = HERE.parent / "ui"
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "pages.json"
        run = subprocess.run(
            ["npx", "vitest", "run", "--reporter=default", "--reporter=json", f"--outputFile.json={out}"],
            cwd=ui,
            text=True,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            check=False,
            env={**os.environ, "NO_COLOR": "1"},
        )
        if not out.exists():
            return Tally(failed=1, said=[run.stdout])
        found = json.loads(out.read_text())
    failed = found["numFailedTests"] or int(run.returncode != 0)
    return Tally(
        passed=found["numPassedTests"],
        failed=failed,
        skipped=found["numPendingTests"] + found.get("numTodoTests", 0),
        took=[(time.monotonic() - began, "pages")],
        said=[run.stdout] if failed else [],
    )


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
