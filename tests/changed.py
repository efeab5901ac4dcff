"""Which tests a change touches: those that reach a changed module by imports, and those of its station by name.

Nearly everything can be reached through what starts the whole application (`HUBS`), so imports are not followed through it;
a change of a hub or of a file that no import names (a lock file, a migration) touches everything.
"""

from __future__ import annotations

import ast
import functools
import subprocess
from pathlib import Path

ROOT = Path(__file__).parent.parent
GREEN = ROOT / ".prepared" / "green"
HUBS = {
    "tests.support",
    "tests.templates",
    "tests.demo_case",
    "tests.ui.browser",
    "bildung.api.app",
    "bildung.api.staff",
    "bildung.cli",
}
HUB_FOLDERS = ("bildung.demo",)
ALWAYS = "tests.api.shared.test_access"  # every route with every role
WORDS_ONLY = (".md", ".png", ".txt")


def _git(*words: str) -> list[str] | None:
    run = subprocess.run(["git", *words], cwd=ROOT, capture_output=True, text=True, check=False)
    return run.stdout.splitlines() if run.returncode == 0 else None


def remember_green() -> None:
    """All tests passed on this commit; kept only where nothing uncommitted took part."""
    head, dirty = _git("rev-parse", "HEAD"), _git("status", "--porcelain")
    if head and not dirty:
        GREEN.parent.mkdir(exist_ok=True)
        GREEN.write_text(head[0] + "\n")


def changed_files() -> list[str] | None:
    """Paths changed since the last green commit, committed or not; None where there is none to compare with."""
    if not GREEN.exists():
        return None
    since = _git("diff", "--name-only", GREEN.read_text().strip())
    new = _git("ls-files", "--others", "--exclude-standard")
    return None if since is None or new is None else sorted({*since, *new})


@functools.cache
def modules() -> dict[str, Path]:
    found = {}
    for top, folder in (("src", ROOT / "src"), ("tests", ROOT)):
        for path in (ROOT / top).rglob("*.py"):
            parts = path.relative_to(folder).with_suffix("").parts
            found[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = path
    return found


@functools.cache
def imports_of(module: str) -> frozenset[str]:
    """Modules of this project that this one names, anywhere in it."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(modules()[module].read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module:
            names = [f"{node.module}.{alias.name}" for alias in node.names]
            found |= {name if name in modules() else node.module for name in names}
        elif isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
    return frozenset(found & modules().keys())


def is_hub(module: str) -> bool:
    return module in HUBS or module.startswith(HUB_FOLDERS)


def reached(module: str) -> set[str]:
    """What a module needs, not looking through hubs."""
    seen, open_ = {module}, [module]
    while open_:
        for name in imports_of(open_.pop()) - seen:
            seen.add(name)
            if not is_hub(name):
                open_.append(name)
    return seen


def station_of(path: str) -> str | None:
    """The room a file lies in, by the folder that layers share: services/sessions, api/sessions, routes/(staff)/sessions."""
    parts = Path(path).parts
    for head in (("src", "bildung"), ("tests",)):
        if parts[: len(head)] == head and len(parts) > len(head) + 2:
            return parts[len(head) + 1]
    if parts[:3] == ("ui", "src", "routes") and len(parts) > 4:
        return parts[4] if parts[3] == "(staff)" else parts[3]
    if parts[:3] == ("ui", "src", "lib") and len(parts) > 4:
        return parts[3]
    return None


def touched_by(paths: list[str]) -> list[str] | None:
    """Test modules (and "pages") that these changed files touch; None: all of them."""
    tests = [name for name in modules() if name.startswith("tests.") and name.rpartition(".")[2].startswith("test_")]
    by_path = {str(path.relative_to(ROOT)): name for name, path in modules().items()}
    code = {by_path[path] for path in paths if path in by_path}
    stations: set[str] = set()
    wanted: set[str] = set()
    for path in paths:
        if path.endswith(WORDS_ONLY):
            continue
        station = station_of(path)
        page = path.startswith("ui/src/")
        if path in by_path:
            if is_hub(by_path[path]) or by_path[path] == "tests":
                return None
        elif not page or station is None:
            return None  # a lock file, a migration, the launcher, a style of all pages
        if page:
            wanted.add("pages")
        if station:
            stations.add(station)
    for name in tests:
        room = station_of(str(modules()[name].relative_to(ROOT)))
        if room in stations or reached(name) & code:
            wanted.add(name)
    if any(name.startswith("bildung.api") for name in code):
        wanted.add(ALWAYS)
    return sorted(wanted)


def touched_tests() -> list[str] | None:
    """What the change since the last green commit touches; None: all."""
    paths = changed_files()
    return None if paths is None else touched_by(paths)


def sentence(wanted: list[str] | None) -> str:
    if wanted is None:
        return "No commit is known on which all tests passed, or the change reaches everything: all tests run."
    if not wanted:
        return "Nothing that a test looks at has changed since the last commit on which all tests passed."
    return f"{len(wanted)} test modules touch what changed since the last commit on which all tests passed."
