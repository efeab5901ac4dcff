"""Writing the audit log; always inside the transaction of the change itself."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from bildung.store.models import AuditEntry


def record(
    db: Session,
    at: datetime,
    person_id: int | None,
    action: str,
    subject: str,
    before: Any = None,
    after: Any = None,
    why: str = "",
) -> None:
    """Write an entry of the log, in the transaction of the change that it tells of."""
    db.add(AuditEntry(at=at, person_id=person_id, action=action, subject=subject, before=before, after=after, why=why))
