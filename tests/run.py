"""Runs the tests, all or a part, and ends with one line of counts: `python -m tests.run [PART …]`.

All of them run in two processes side by side: those in the browser wait much, the others compute much.
"""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

HERE = Path(__file__).parent
COUNTS = re.compile(r"(\d+) passed, (\d+) failed, (\d+) skipped\s*\Z")
ROOM = 4 * 2**30
PYTHON_PARTS = sorted(p.name for p in HERE.iterdir() if (p / "__init__.py").exists())
PAGES = "pages"  # the modules behind the pages, tested in ui/ beside their source
PARTS = [*PYTHON_PARTS, PAGES]


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


def main(parts: list[str]) -> int:
    in_memory()
    unknown = [part for part in parts if part not in PARTS]
    if unknown:
        print(f"bildung: no part {unknown[0]!r} of the tests; there are {', '.join(PARTS)}", file=sys.stderr)
        return 2
    return alone(parts) if parts else side_by_side([["ui"], [part for part in PARTS if part != "ui"]])


def side_by_side(groups: list[list[str]]) -> int:
    """Each group in a process of its own, its output kept whole; one line of counts for all."""
    running = [
        subprocess.Popen(
            [sys.executable, "-m", "tests.run", *group], cwd=HERE.parent, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
        )
        for group in groups
    ]  # fmt: skip
    counts, broken = [0, 0, 0], False
    for group, process in zip(groups, running, strict=True):
        said = process.communicate()[0]
        print(f"-- {', '.join(group)}\n{said}", end="", flush=True)
        last = COUNTS.search(said)
        broken |= process.returncode != 0 or last is None
        counts = [a + int(b) for a, b in zip(counts, last.groups() if last else (0, 0, 0), strict=True)]
    print("{} passed, {} failed, {} skipped".format(*counts))
    return int(broken)


def test_pages() -> tuple[int, int, int]:
    """Run the TypeScript unit tests; returns how many passed, failed and were skipped."""
    ui = HERE.parent / "ui"
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "pages.json"
        run = subprocess.run(
            ["npx", "vitest", "run", "--reporter=default", "--reporter=json", f"--outputFile.json={out}"], cwd=ui, text=True,
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, check=False, env={**os.environ, "NO_COLOR": "1"},
        )  # fmt: skip
        if not out.exists():
            print(run.stdout)
            return 0, 1, 0
        found = json.loads(out.read_text())
    if run.returncode or found["numFailedTests"]:
        print(run.stdout)
    failed = found["numFailedTests"] or int(run.returncode != 0)
    return found["numPassedTests"], failed, found["numPendingTests"] + found.get("numTodoTests", 0)


def alone(parts: list[str]) -> int:
    loader, suite = unittest.TestLoader(), unittest.TestSuite()
    for part in parts:
        if part != PAGES:
            suite.addTests(loader.discover(str(HERE / part), top_level_dir=str(HERE.parent)))
    scripts = test_pages() if PAGES in parts else (0, 0, 0)
    result = unittest.TextTestRunner(resultclass=Result, verbosity=1).run(suite)
    assert isinstance(result, Result)
    for seconds, name in sorted(result.took, reverse=True)[:5]:
        print(f"  {seconds:6.1f} s  {name}")
    bad, skipped = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses), len(result.skipped)
    passed = result.testsRun - bad - skipped
    passed, bad, skipped = passed + scripts[0], bad + scripts[1], skipped + scripts[2]
    print(f"{passed} passed, {bad} failed, {skipped} skipped")
    return 1 if bad or passed == 0 else 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
