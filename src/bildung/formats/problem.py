"""What is wrong with a file, and where."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(kw_only=True, eq=False)
class ImportProblem(Exception):
    """line and column count from 1; column may be the column's name. allowed: what would be accepted."""

    file: str
    found: str
    allowed: str
    line: int | None = None
    column: str | None = None

    def __str__(self) -> str:
        place = self.file
        if self.line is not None:
            place += f", line {self.line}"
        if self.column is not None:
            place += f", column {self.column}"
        return f"{place}: {self.found}; {self.allowed}"
