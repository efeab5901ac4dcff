"""Who is exempt from a test on a day."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from bildung.store.models import Exemption, GroupMember


def exemptions_of(
    db: Session, window_id: int, subject: str, day: date, people: Collection[int] | None = None
) -> dict[int, Exemption]:
    """By student, the exemption that holds on that day for tests of the subject in the window; a student's own goes before
    one of a group. people: only of these."""
    rows = db.scalars(
        select(Exemption)
        .where(
            Exemption.ended_at.is_(None),
            Exemption.starts <= day,
            or_(Exemption.ends.is_(None), Exemption.ends >= day),
            or_(Exemption.window_id.is_(None), Exemption.window_id == window_id),
            or_(Exemption.subject == "", Exemption.subject == subject),
        )
        .order_by(Exemption.id.desc())
    ).all()
    found: dict[int, Exemption] = {}
    for row in rows:
        if row.group_id is None:
            continue
        for person in db.scalars(select(GroupMember.person_id).where(GroupMember.group_id == row.group_id)):
            found[person] = row
    found |= {row.person_id: row for row in rows if row.person_id is not None}
    return found if people is None else {id: row for id, row in found.items() if id in people}
