"""How much a table from outside may hold. What is over is refused before any work that grows with it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from bildung.formats.problem import ImportProblem

MOST_COLUMNS = 2_000
MOST_ROWS = 500_000
MOST_CELLS = 20_000_000
MOST_BYTES = 1024 * 1024 * 1024  # of a file that is read piece by piece


def check_columns(file: str, names: Sequence[str], line: int = 1, most: int = MOST_COLUMNS) -> None:
    """A problem where there are too many columns, or one is named twice; empty names do not count as names."""
    if len(names) > most:
        raise ImportProblem(file=file, found=f"{len(names)} columns", allowed=f"at most {most} are read", line=line)
    twice = [name for name, n in Counter(names).items() if name and n > 1]
    if twice:
        raise ImportProblem(
            file=file, found=f"column {min(twice)} twice", allowed="each column is named once", line=line
        )


def check_rows(file: str, rows: int, columns: int, line: int) -> None:
    """A problem at the first row that is too many."""
    if rows > MOST_ROWS:
        raise ImportProblem(
            file=file,
            found=f"more than {MOST_ROWS} rows",
            allowed=f"at most {MOST_ROWS} are read; cut the file",
            line=line,
        )
    if rows * columns > MOST_CELLS:
        raise ImportProblem(
            file=file,
            found=f"more than {MOST_CELLS} cells",
            allowed=f"at most {MOST_CELLS} are read; leave out columns or cut the file",
            line=line,
        )
