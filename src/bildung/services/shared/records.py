"""Where the school's records system is, and as whom it is asked."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from bildung.services.shared.context import Context
from bildung.services.shared.settings import setting
from bildung.services.shared.standins import Standins


@dataclass(frozen=True)
class RecordsSystem:
    """address: empty where there is none. client, secret: of this application there."""

    address: str
    client: str
    secret: str


def records_system(ctx: Context, db: Session) -> RecordsSystem:
    """As named in the settings, else the stand-in where one runs beside us."""
    return RecordsSystem(
        str(setting(db, "records_address") or ctx.own(Standins).records),
        str(setting(db, "records_client") or "bildung"),
        str(setting(db, "records_secret") or "stand-in"),
    )
