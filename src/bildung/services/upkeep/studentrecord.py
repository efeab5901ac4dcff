"""A student's whole record: handed out on request, and erased on request.

What is erased is who it was. The row stays as a pseudonym, so that sittings and answers go on counting in
item statistics without anybody behind them.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from bildung.core.accommodations.kinds import KINDS
from bildung.reports.record import record_document
from bildung.services.people.accommodations import described
from bildung.services.people.changes import moved
from bildung.services.people.kin import families_of
from bildung.services.quality.reports import forget, remove_strays
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.shared.typed import need_text
from bildung.store.models import (
    Accommodation,
    AccommodationUse,
    Attribute,
    AttributeValue,
    AuditEntry,
    CompanionRule,
    Enrolment,
    EnteredEvidence,
    Exemption,
    FamilyLink,
    Federation,
    Form,
    FormItem,
    Group,
    GroupMember,
    Intervention,
    Item,
    ItemVersion,
    JoinRequest,
    LaterAttempt,
    Mark,
    Person,
    Placement,
    RefusedAnswer,
    Response,
    ResponseComment,
    ResponseEvent,
    RosterDecision,
    SafetyAlert,
    School,
    SchoolClass,
    SessionSupport,
    SignIn,
    Sitting,
    StaffServes,
    Standard,
    TimeOn,
    WindowDates,
)

ERASED = "erased:"


def export_record(ctx: Context, actor: Actor, person_id: int) -> dict[str, Any]:
    """Everything kept about a student, as plain data; the log says who took it."""
    allowed = scope(actor, Action.RECORDS_HANDLE)

    def work(db: Session) -> dict[str, Any]:
        p = _student(db, person_id, allowed)
        school = db.get(School, p.school_id) if p.school_id else None
        classes = db.execute(
            select(SchoolClass.title, Enrolment.role, Enrolment.active, Enrolment.begins, Enrolment.ends)
            .join(Enrolment, Enrolment.class_id == SchoolClass.id)
            .where(Enrolment.person_id == p.id)
            .order_by(Enrolment.id)
        )
        attributes = db.execute(
            select(Attribute.name, AttributeValue.value)
            .join(AttributeValue, AttributeValue.attribute_id == Attribute.id)
            .where(AttributeValue.person_id == p.id)
            .order_by(Attribute.name)
        )
        groups = db.scalars(
            select(Group.name)
            .join(GroupMember, GroupMember.group_id == Group.id)
            .where(GroupMember.person_id == p.id)
            .order_by(Group.name)
        )
        sittings = db.scalars(select(Sitting).where(Sitting.person_id == p.id).order_by(Sitting.id)).all()
        subjects = [f"person:{p.id}", *(f"sitting:{s.id}" for s in sittings)]
        entries = db.scalars(select(AuditEntry).where(AuditEntry.subject.in_(subjects)).order_by(AuditEntry.id))
        record = {
            "made_by": actor.name,
            "made_at": ctx.clock().isoformat(),
            "veiled": False,
            "person": {
                "id": p.source_id,
                "given": p.given,
                "family": p.family,
                "grade": p.grade,
                "born": str(p.birth_date) if p.birth_date else None,
                "school": school.name if school else None,
                "own_code": p.code,
                "active": p.active,
            },
            "accommodations": [
                {
                    "what": described(row),
                    "note": row.note,
                    "entered": row.entered_at.isoformat(),
                    "approved": row.approved_at is not None,
                }
                for row in db.scalars(
                    select(Accommodation).where(Accommodation.person_id == p.id).order_by(Accommodation.id)
                )
            ],
            "attributes": {name: value for name, value in attributes},
            "groups": list(groups),
            "families": [{"name": f.name, "relation": f.relation} for f in families_of(db, p.id)],
            "signed_in_last": p.last_sign_in_at.isoformat() if p.last_sign_in_at else None,
            "classes": [
                {
                    "class": title,
                    "role": role,
                    "active": active,
                    "begins": str(begins) if begins else None,
                    "ends": str(ends) if ends else None,
                }
                for title, role, active, begins, ends in classes
            ],
            "exemptions": [
                {
                    "reason": e.reason,
                    "subject": e.subject,
                    "asked_by": e.asked_by,
                    "note": e.note,
                    "instead": e.instead,
                    "starts": str(e.starts),
                    "ends": str(e.ends) if e.ends else None,
                    "ended_at": e.ended_at.isoformat() if e.ended_at else None,
                }
                for e in db.scalars(select(Exemption).where(Exemption.person_id == p.id).order_by(Exemption.id))
            ],
            "standards": _standards(db, p.id),
            "sittings": [_sitting(db, s) for s in sittings],
            "log": [
                {"at": e.at.isoformat(), "action": e.action, "before": e.before, "after": e.after, "why": e.why}
                for e in entries
            ],
        }
        audit.record(db, ctx.clock(), actor.person_id, "record.export", f"person:{p.id}")
        return record

    return ctx.store.write(work)


def _standards(db: Session, person: int) -> list[dict[str, Any]]:
    """Evidence entered by hand, then what was tried."""
    codes = dict(db.execute(select(Standard.id, Standard.code)).all())
    entered = db.scalars(
        select(EnteredEvidence).where(EnteredEvidence.person_id == person).order_by(EnteredEvidence.id)
    )
    tried = db.scalars(select(Intervention).where(Intervention.person_id == person).order_by(Intervention.id))
    return [
        *(
            {
                "standard": codes[e.standard_id],
                "what": f"{e.kind}: {e.what}",
                "on": str(e.on),
                "points": f"{e.earned:g} of {e.possible:g}",
                "withdrawn": e.withdrawn_at is not None,
            }
            for e in entered
        ),
        *(
            {
                "standard": codes[i.standard_id],
                "what": f"intervention: {i.what}",
                "on": str(i.start),
                "until": str(i.until) if i.until else None,
                "withdrawn": i.withdrawn_at is not None,
            }
            for i in tried
        ),
    ]


def print_record(ctx: Context, actor: Actor, person_id: int) -> bytes:
    """The same record as PDF, for a person to read."""
    record = export_record(ctx, actor, person_id)
    with ctx.store.read() as db:
        zone, dates = db.scalar(select(Federation.zone)) or "UTC", dates_of(db)
    return record_document(record, zone, dates)


def _sitting(db: Session, s: Sitting) -> dict[str, Any]:
    answers = db.execute(
        select(FormItem.position, Item.code, Response.answer)
        .join(FormItem, FormItem.id == Response.form_item_id)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .join(Item, Item.id == ItemVersion.item_id)
        .where(Response.sitting_id == s.id)
        .order_by(FormItem.position)
    )
    events = db.scalars(
        select(ResponseEvent).where(ResponseEvent.sitting_id == s.id).order_by(ResponseEvent.at, ResponseEvent.sequence)
    )
    return {
        "form": s.session.form.name,
        "window": s.session.window.name,
        "class": s.session.klass.title,
        "state": s.state,
        "note": s.note,
        "accommodations": {
            KINDS[row.kind].says: row.outcome
            for row in db.scalars(select(AccommodationUse).where(AccommodationUse.sitting_id == s.id))
        },
        "start": s.session.start.isoformat(),
        "handed_in": s.handed_in_at.isoformat() if s.handed_in_at else None,
        "companion_form": db.get_one(Form, s.form_id).name if s.form_id else None,
        "answers": [{"number": number, "item": code, "answer": answer} for number, code, answer in answers],
        "seconds_on_each_item": {
            str(number): round(ms / 1000)
            for number, ms in db.execute(
                select(FormItem.position, func.sum(TimeOn.milliseconds))
                .join(FormItem, FormItem.id == TimeOn.form_item_id)
                .where(TimeOn.sitting_id == s.id)
                .group_by(FormItem.position)
                .order_by(FormItem.position)
            )
        },
        "marks": [
            {"number": number, "points": points, "condition_code": code or None, "at": at.isoformat()}
            for number, points, code, at in db.execute(
                select(FormItem.position, Mark.points, Mark.code, Mark.at)
                .join(FormItem, FormItem.id == Mark.form_item_id)
                .where(Mark.sitting_id == s.id)
                .order_by(FormItem.position, Mark.id)
            )
        ],
        "comments": [
            {"number": number, "text": text, "at": at.isoformat()}
            for number, text, at in db.execute(
                select(FormItem.position, ResponseComment.text, ResponseComment.at)
                .join(FormItem, FormItem.id == ResponseComment.form_item_id)
                .where(ResponseComment.sitting_id == s.id)
                .order_by(FormItem.position, ResponseComment.id)
            )
        ],
        "every_answer_as_it_came": [{"at": e.at.isoformat(), "answer": e.answer} for e in events],
        "answers_that_came_too_late": [
            {
                "number": number,
                "at": late.at.isoformat(),
                "answer": late.answer,
                "why": late.why,
                "taken_in": late.taken,
            }
            for late, number in db.execute(
                select(RefusedAnswer, FormItem.position)
                .join(FormItem, FormItem.id == RefusedAnswer.form_item_id)
                .where(RefusedAnswer.sitting_id == s.id)
                .order_by(RefusedAnswer.takeover, RefusedAnswer.sequence)
            )
        ],
        "later_attempts": [
            {
                "number": a.number,
                "started": a.started_at.isoformat(),
                "answers": [kept[0] for kept in a.answers.values()],
            }
            for a in db.scalars(
                select(LaterAttempt).where(LaterAttempt.sitting_id == s.id).order_by(LaterAttempt.number)
            )
        ],
    }


def erase_person(ctx: Context, actor: Actor, person_id: int, why: str) -> None:
    """Final. Names, ids, code and sign-ins go; sittings and answers stay without a person behind them."""
    allowed = scope(actor, Action.RECORDS_HANDLE)
    why = need_text(why, "why", 500)

    def work(db: Session) -> None:
        p = _student(db, person_id, allowed)
        if db.scalar(select(Sitting.id).where(Sitting.person_id == p.id, Sitting.state == "answering")):
            raise Conflict("this student is answering a test right now; wait until it is submitted")
        for one in (p, *db.scalars(select(Person).where(Person.merged_into_id == p.id))):
            erase(db, one)
        audit.record(db, ctx.clock(), actor.person_id, "person.erase", f"person:{p.id}", None, None, why)
        moved(db)

    ctx.store.write(work)
    remove_strays(ctx)


def erase(db: Session, p: Person) -> None:
    """Everything that says who it was, in the transaction of whoever decided it. Families without another child here
    go as well."""
    families = list(db.scalars(select(FamilyLink.family_id).where(FamilyLink.student_id == p.id)))
    forget(db, p.id)
    mine = select(Sitting.id).where(Sitting.person_id == p.id)
    db.execute(delete(LaterAttempt).where(LaterAttempt.sitting_id.in_(mine)))  # practice: no figure needs it
    db.execute(delete(AccommodationUse).where(AccommodationUse.sitting_id.in_(mine)))
    db.execute(delete(ResponseComment).where(ResponseComment.sitting_id.in_(mine)))
    db.execute(delete(SafetyAlert).where(SafetyAlert.sitting_id.in_(mine)))
    db.execute(delete(SessionSupport).where(SessionSupport.student_id == p.id))
    db.execute(delete(StaffServes).where(StaffServes.student_id == p.id))
    db.execute(update(Sitting).where(Sitting.person_id == p.id).values(note=""))
    db.execute(delete(RosterDecision).where((RosterDecision.person_id == p.id) | (RosterDecision.other_id == p.id)))
    for table in (
        Enrolment,
        GroupMember,
        Accommodation,
        AttributeValue,
        CompanionRule,
        Exemption,
        Placement,
        WindowDates,
        EnteredEvidence,
        Intervention,
    ):
        db.execute(delete(table).where(table.person_id == p.id))
    db.execute(delete(FamilyLink).where(FamilyLink.student_id == p.id))
    db.execute(delete(JoinRequest).where(JoinRequest.person_id == p.id))
    left = set(db.scalars(select(FamilyLink.family_id).where(FamilyLink.family_id.in_(families))))
    alone = db.scalars(select(Person).where(Person.id.in_(set(families) - left), Person.kind == "family")).all()
    for person in (p, *alone):
        person.given, person.family, person.source_id = "Erased", str(person.id), f"{ERASED}{person.id}"
        person.code = person.username = person.password_hash = None
        person.grade, person.school_id, person.active, person.left_on = "", None, False, None
        person.last_sign_in_at, person.last_place, person.birth_date = None, "", None
        person.case_manager_id = None
        db.execute(delete(SignIn).where(SignIn.person_id == person.id))


def _student(db: Session, person_id: int, allowed: Any) -> Person:
    p = db.scalar(select(Person).where(Person.id == person_id, Person.student.is_(True), allowed))
    if p is None or p.source_id.startswith(ERASED):
        raise NotFound("there is no such student, or they are not yours")
    return p
