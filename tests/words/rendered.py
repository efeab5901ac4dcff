"""Every string that may be shown: of pages, sentences, errors, prints and the command line, with where it stands."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[2]
NOT_SHOWN = {"migrations", "demo", "standins"}
"""Folders of the source whose strings are no words of ours: tables, made-up content, the simulated systems."""
ATTRIBUTE = re.compile(
    r"""(?:aria-label|label|title|placeholder|question|yes|reason|says|alt|of|station|empty)=["'{`]([^"'`]+)["'`]"""
)
TAG = re.compile(r"</?[a-zA-Z][^<>]*?(?:\{[^{}]*(?:\{[^{}]*(?:\{[^{}]*\}[^{}]*)*\}[^{}]*)*\}[^<>]*?)*>", re.S)
LITERAL = re.compile(r"'((?:[^'\\\n]|\\.)*)'|\"((?:[^\"\\\n]|\\.)*)\"|`([^`]*)`")
INSIDE = re.compile(r"\$?\{[^{}]*\}")
NAME = re.compile(r"[a-z_.:\d-]+")
"""A word of the code: a key, an event, a state."""
COMMENT = re.compile(r"/\*.*?\*/|//[^\n]*|<!--.*?-->", re.S)


def rendered() -> Iterator[tuple[str, str]]:
    """Pairs of place and text."""
    for path in sorted((ROOT / "ui" / "src").rglob("*")):
        if path.suffix == ".svelte" or (path.suffix == ".ts" and not path.name.endswith((".d.ts", ".test.ts"))):
            yield from _page(path)
    for path in sorted((ROOT / "src" / "bildung").rglob("*.py")):
        if not NOT_SHOWN & set(path.parts):
            yield from _sentences(path)
    for path in sorted((ROOT / "src" / "bildung" / "reports").glob("*.html")):
        yield from ((_place(path), text) for text in _texts(path.read_text("utf-8")))


def _place(path: Path, line: int = 0) -> str:
    return f"{path.relative_to(ROOT)}{f':{line}' if line else ''}"


def _page(path: Path) -> Iterator[tuple[str, str]]:
    source = path.read_text("utf-8")
    script = source if path.suffix == ".ts" else "".join(re.findall(r"<script.*?</script>", source, re.S))
    markup = "" if path.suffix == ".ts" else re.sub(r"<(script|style).*?</\1>", "", source, flags=re.S)
    for text in _literals(COMMENT.sub("", script)):
        if not text.startswith(("$", ".", "/", "@")) and not NAME.fullmatch(text):
            yield _place(path), text
    plain = COMMENT.sub("", markup)
    for text in [*ATTRIBUTE.findall(plain), *_texts(plain)]:
        yield _place(path), text


def _literals(code: str) -> Iterator[str]:
    for found in LITERAL.finditer(code):
        text = next(part for part in (*found.groups(), "") if part is not None)
        if re.search(r"[A-Za-z]{2}", text):
            yield INSIDE.sub("…", text)


def _texts(markup: str) -> Iterator[str]:
    """What stands between tags; inside braces, the literals."""
    for part in TAG.sub("\x01", markup).split("\x01"):
        yield from _literals(" ".join(re.findall(r"\{[^{}]*\}", part)))
        text = re.sub(r"\{[^{}]*\}", "…", re.sub(r"\s+", " ", part)).strip()
        if re.search(r"[A-Za-z]{2}", text):
            yield text


def _sentences(path: Path) -> Iterator[tuple[str, str]]:
    tree = ast.parse(path.read_text("utf-8"))
    silent: set[int] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            silent.add(id(node.value))  # docstrings
        if isinstance(node, ast.JoinedStr):
            silent |= {id(part) for part in ast.walk(node) if part is not node and not isinstance(part, ast.IfExp)}
    for node in ast.walk(tree):
        if id(node) in silent:
            continue
        if isinstance(node, ast.JoinedStr):
            text = "".join(str(v.value) if isinstance(v, ast.Constant) else "…" for v in node.values)
            yield _place(path, node.lineno), text
            for choice in (n for n in ast.walk(node) if isinstance(n, ast.IfExp)):
                for side in (choice.body, choice.orelse):
                    if isinstance(side, ast.Constant) and isinstance(side.value, str):
                        yield _place(path, node.lineno), side.value
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and " " in node.value.strip():
            yield _place(path, node.lineno), node.value
