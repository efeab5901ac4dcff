"""Two records of one student made into one: everything that hangs on the second moves to the first."""

from __future__ import annotations

from datetime import date

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from bildung.services.shared.errors import Conflict
from bildung.store.models import (
    Accommodation,
    AttributeValue,
    CompanionRule,
    Enrolment,
    EnteredEvidence,
    Exemption,
    FamilyLink,
    Goal,
    GroupMember,
    Intervention,
    JoinRequest,
    LiveAnswer,
    LiveSeat,
    Measure,
    MeasureScore,
    NameMatch,
    Person,
    Placement,
    PlannedSession,
    SignIn,
    Sitting,
    WindowDates,
)


def merge(db: Session, gone: Person, kept: Person, today: date) -> None:
    """Conflict where both have taken the same test: somebody has to say first which attempt counts."""
    _sittings(db, gone, kept)
    for row in db.scalars(select(Enrolment).where(Enrolment.person_id == gone.id)).all():
        there = db.scalar(select(Enrolment).where(Enrolment.person_id == kept.id, Enrolment.class_id == row.class_id))
        if there is None:
            row.person_id = kept.id
        else:
            there.active = there.active or row.active
            there.ends = None if there.active else there.ends
            db.delete(row)
    db.flush()
    _move(db, GroupMember, GroupMember.group_id, GroupMember.person_id, gone.id, kept.id)
    _move(db, AttributeValue, AttributeValue.attribute_id, AttributeValue.person_id, gone.id, kept.id)
    _move(db, FamilyLink, FamilyLink.family_id, FamilyLink.student_id, gone.id, kept.id)
    _move(db, Placement, Placement.session_id, Placement.person_id, gone.id, kept.id)
    _move(db, MeasureScore, MeasureScore.occasion_id, MeasureScore.person_id, gone.id, kept.id)
    _move(db, LiveSeat, LiveSeat.round_id, LiveSeat.person_id, gone.id, kept.id)
    _move(db, LiveAnswer, LiveAnswer.question_id, LiveAnswer.person_id, gone.id, kept.id)
    # what was worked out from scores is known to be old
    db.execute(update(Measure).values(version=Measure.version + 1))
    kept.case_manager_id = kept.case_manager_id or gone.case_manager_id
    for table in (
        Accommodation,
        CompanionRule,
        JoinRequest,
        Exemption,
        WindowDates,
        Goal,
        NameMatch,
        EnteredEvidence,
        Intervention,
    ):
        db.execute(update(table).where(table.person_id == gone.id).values(person_id=kept.id))
    db.execute(delete(SignIn).where(SignIn.person_id == gone.id))
    kept.birth_date = kept.birth_date or gone.birth_date
    kept.grade, kept.school_id = kept.grade or gone.grade, kept.school_id or gone.school_id
    gone.active, gone.left_on, gone.merged_into_id = False, today, kept.id
    db.execute(update(Person).where(Person.merged_into_id == gone.id).values(merged_into_id=kept.id))


def _sittings(db: Session, gone: Person, kept: Person) -> None:
    theirs = {s.session_id: s for s in db.scalars(select(Sitting).where(Sitting.person_id == kept.id))}
    for sitting in db.scalars(select(Sitting).where(Sitting.person_id == gone.id)).all():
        other = theirs.get(sitting.session_id)
        if other is not None and _untouched(sitting):
            db.delete(sitting)
            continue
        if other is not None:
            if not _untouched(other):
                session = db.get_one(PlannedSession, sitting.session_id)
                raise Conflict(
                    f"both records have taken {session.form.name} in {session.klass.title}: invalidate the attempt that does not count first"
                )
            db.delete(other)
            db.flush()
        sitting.person_id = kept.id
        db.get_one(PlannedSession, sitting.session_id).data_version += 1
    db.flush()


def _untouched(sitting: Sitting) -> bool:
    return sitting.started_at is None and sitting.takeover == 0


def _move(db: Session, table: type, key: object, person: object, gone: int, kept: int) -> None:
    """Rows of a table that holds one row a person and key; what the kept one has already stays."""
    has = select(key).where(person == kept)  # type: ignore[call-overload]
    db.execute(delete(table).where(person == gone, key.in_(has)))  # type: ignore[arg-type,attr-defined]
    db.execute(update(table).where(person == gone).values({person.key: kept}))  # type: ignore[arg-type,attr-defined]
