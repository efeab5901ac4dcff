"""A student's whole record on paper, in words that a family understands."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from bildung.core.school.dates import Dates

HERE = Path(__file__).parent
STATES = {
    "handed_in": "submitted",
    "absent": "absent",
    "exempt": "exempt",
    "void": "does not count",
    "answering": "in progress",
    "resting": "to be continued",
    "on_paper": "taken on paper",
    "not_started": "not started",
}


def record_document(record: dict[str, Any], zone: str, dates: Dates) -> bytes:
    """PDF, A4. record: as the JSON export has it; zone: of its times."""
    from jinja2 import Environment, FileSystemLoader, StrictUndefined
    from weasyprint import HTML

    where = ZoneInfo(zone)

    def moment(text: str | None) -> str:
        return "" if not text else dates.dated_moment(datetime.fromisoformat(text).astimezone(where))

    environment = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined)
    environment.filters["moment"] = moment
    environment.filters["words"] = lambda state: STATES.get(state, state)
    html = environment.get_template("record.html").render(record=record, person=record["person"])
    document: bytes = HTML(string=html, base_url=str(HERE) + "/").write_pdf()
    return document
