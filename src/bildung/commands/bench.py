"""`./bildung bench`: how fast this machine does the work, beside a plain data-frame script of the same work.

Both are first held to the same figures; then they are timed in turn, so that a machine that slows
down slows both.
"""

from __future__ import annotations

import argparse
import json
import platform
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np

from bildung.commands.files import write_whole
from bildung.core.data.simulate import ItemParameters, simulate_choices

EXAMPLE = "example: ./bildung bench --quick --json bench.json"
SEED = 20260803
TOLERANCE = 1e-9


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "what", nargs="?", choices=["figures", "plan", "load", "kill"], default="figures", help="what is timed"
    )
    parser.add_argument("--json", type=Path, metavar="OUT.json", help="the table as data")
    parser.add_argument(
        "--runs",
        type=int,
        default=5,
        help="counted runs of each, after one that is not; of kill: how often the server is killed",
    )
    parser.add_argument("--quick", action="store_true", help="a tenth of the sizes")


@dataclass(frozen=True, kw_only=True)
class BenchLine:
    """seconds: median, least and most. ratio: of the data-frame version's median, where there is one."""

    work: str
    size: str
    median: float
    least: float
    most: float
    frame_median: float | None = None
    ratio: float | None = None


def run(given: argparse.Namespace) -> int:
    if given.what == "plan":
        from bildung.commands.benchplan import show

        return show(given.quick)
    part = 10 if given.quick else 1
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        lines = [
            _analyse(folder, 100_000 // part, given.runs),
            _server(2_000, given.runs),
            *(
                _growth(folder, 50_000 // part, kind, max(1, given.runs // 2))
                for kind in ("whole-number", "continuous")
            ),
        ]
    print(f"{'work':<44} {'size':<24} {'median':>9} {'least':>9} {'most':>9} {'frames':>9} {'ratio':>7}")
    for line in lines:
        frame = "" if line.frame_median is None else f"{line.frame_median:.3f} s"
        ratio = "" if line.ratio is None else f"{line.ratio:.1f} x"
        print(
            f"{line.work:<44} {line.size:<24} {line.median:>7.3f} s {line.least:>7.3f} s {line.most:>7.3f} s "
            f"{frame:>9} {ratio:>7}"
        )
    if given.json:
        machine = {"python": platform.python_version(), "numpy": np.__version__, "machine": platform.machine()}
        write_whole(
            given.json, json.dumps({"machine": machine, "lines": [asdict(line) for line in lines]}, indent=1).encode()
        )
    return 0


def _timed(work: Callable[[], Any], runs: int) -> list[float]:
    work()
    took = []
    for _ in range(runs):
        started = time.perf_counter()
        work()
        took.append(time.perf_counter() - started)
    return took


def _line(work: str, size: str, took: list[float], frame: list[float] | None = None) -> BenchLine:
    median = statistics.median(took)
    theirs = statistics.median(frame) if frame else None
    return BenchLine(
        work=work,
        size=size,
        median=median,
        least=min(took),
        most=max(took),
        frame_median=theirs,
        ratio=theirs / median if theirs else None,
    )


def response_file(path: Path, students: int, items: int) -> Path:
    """A simulated form in which time runs out for some; writes the key beside it and returns its path."""
    rng = np.random.default_rng(SEED)
    parameters = [
        ItemParameters(discrimination=1.2, difficulty=b, guessing=0.2, right=at % 4, pull=(1, 1, 1, 1))
        for at, b in enumerate(np.linspace(-2, 1.5, items))
    ]
    reach = rng.integers(items - 10, items + 20, students)
    chosen = simulate_choices(rng.standard_normal(students), parameters, rng, 0.02, reach.astype(np.float64))
    letters = np.array([*"ABCD", ""])[np.array(chosen).T]
    with path.open("w") as out:
        out.write("student," + ",".join(f"i{at:02d}" for at in range(items)) + "\n")
        for at, row in enumerate(letters):
            out.write(f"s{at:06d},{','.join(row)}\n")
    key = path.with_suffix(".key.csv")
    key.write_text(
        "item,type,key,options\n" + "".join(f"i{at:02d},choice,{'ABCD'[at % 4]},ABCD\n" for at in range(items))
    )
    return key


def _command(*words: object) -> Callable[[], None]:
    def call() -> None:
        subprocess.run([sys.executable, "-m", "bildung.cli", *map(str, words)], check=True, stdout=subprocess.DEVNULL)

    return call


def _analyse(folder: Path, students: int, runs: int) -> BenchLine:
    responses, items = folder / "responses.csv", 60
    key = response_file(responses, students, items)
    mine, theirs = folder / "mine.json", folder / "theirs.json"
    ours = _command("analyse", responses, "--key", key, "--json", mine)
    script = Path(__file__).parents[3] / "bench" / "frames.py"
    if not _has_frames() or not script.exists():
        print("  no data-frame library here (./bildung test brings it): timed without the comparison", file=sys.stderr)
        return _line("analyse, whole command with JSON", f"{students} x {items}", _timed(ours, runs))

    def frames() -> None:
        subprocess.run([sys.executable, str(script), str(responses), str(key), str(theirs)], check=True)

    ours()
    frames()
    _same_figures(json.loads(mine.read_text()), json.loads(theirs.read_text()))
    took: list[float] = []
    frame: list[float] = []
    for at in range(runs):
        for work, into in ((ours, took), (frames, frame)) if at < max(2, runs // 2) else ((ours, took),):
            started = time.perf_counter()
            work()
            into.append(time.perf_counter() - started)
    return _line("analyse, whole command with JSON", f"{students} x {items}", took, frame)


def _has_frames() -> bool:
    from importlib.util import find_spec

    return find_spec("pandas") is not None


def _same_figures(mine: dict[str, Any], theirs: dict[str, Any]) -> None:
    """Every figure that the data-frame version states, or the comparison is worth nothing."""

    def check(where: str, a: Any, b: Any) -> None:
        if isinstance(b, dict):
            for name, value in b.items():
                check(f"{where}.{name}", a[name], value)
        elif isinstance(b, list):
            for at, value in enumerate(b):
                check(f"{where}[{at}]", a[at], value)
        elif isinstance(b, float):
            if abs(a - b) > TOLERANCE * max(1.0, abs(b)):
                raise AssertionError(f"{where}: {a!r} here, {b!r} in the data-frame version")
        elif a != b:
            raise AssertionError(f"{where}: {a!r} here, {b!r} in the data-frame version")

    check("", mine, theirs)


def _server(students: int, runs: int) -> BenchLine:
    """The same figures from coded answers in memory, as the running server has them."""
    from bildung.core.classical.analysis import analyse
    from bildung.formats.keys import read_key
    from bildung.formats.responses import read_responses

    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "r.csv"
        key = response_file(path, students, 60)
        table = read_responses("r.csv", path.read_bytes(), read_key("k.csv", key.read_bytes())).table
    return _line("analyse, in a running process", f"{students} x 60", _timed(lambda: analyse(table), max(runs, 10)))


def _growth(folder: Path, students: int, kind: str, runs: int) -> BenchLine:
    rng = np.random.default_rng(SEED)
    z = rng.standard_normal(students)
    start, end = 200 + 15 * z, 205 + 15 * (0.8 * z + 0.6 * rng.standard_normal(students))
    if kind == "whole-number":
        start, end = np.rint(start), np.rint(end)
    path = folder / f"{kind}.csv"
    with path.open("w") as out:
        out.write("student,grade,window,week,score\n")
        for at in range(students):
            out.write(
                f"s{at},6,Fall,4,{start[at]!r}\ns{at},6,Winter,20,{end[at]!r}\n".replace("np.float64(", "").replace(
                    ")", ""
                )
            )
    work = _command("growth", path, "--from", "Fall", "--to", "Winter", "--json", folder / "g.json")
    return _line(f"growth with percentiles, {kind} scores", f"{students} students", _timed(work, runs))
