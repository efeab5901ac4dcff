"""What a report is asked for, and the few things that all of them share."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select

from bildung.core.classical.settings import Settings
from bildung.reports.document import Kind, PrintColumn
from bildung.services.quality.judged import Judged
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.jobs import Job
from bildung.store.models import Standard


@dataclass(frozen=True, kw_only=True)
class ReportRequest:
    """question: its name. klass: of a list to teach again; None for all classes that are theirs. veiled: names become
    numbers. most: blocks or students at most, for a sample; None for all."""

    question: str
    wanted: ScopeRequest
    settings: Settings
    klass: int | None = None
    veiled: bool = False
    most: int | None = None

    def name(self, name: str, at: int) -> str:
        """A student's name, or while veiled a number that stays the same through the report."""
        return f"Student {at + 1:02d}" if self.veiled else name


@dataclass(frozen=True, kw_only=True)
class Work:
    ctx: Context
    actor: Actor
    asked: ReportRequest
    judged: Judged
    job: Job

    def texts(self) -> dict[str, str]:
        """What the standards of the items say, by code."""
        codes = {code for row in self.judged.rows for code in row.item.standards[:1]}
        with self.ctx.store.read() as db:
            return dict(db.execute(select(Standard.code, Standard.text).where(Standard.code.in_(codes))).all())


def on_sheet(*columns: tuple[str, Kind]) -> list[PrintColumn]:
    """Columns that only a workbook has."""
    return [PrintColumn(title, kind, only="sheet") for title, kind in columns]
