"""A student's whole record: handed out on request, and erased on request.

What is erased is who it was. The row stays as a pseudonym, so that sittings and answers go on counting in
item statistics without anybody behind them.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.services import audit
from bildung.services.access import Action, Actor, scope
from bildung.services.bank import need_text
from bildung.services.context import Context
from bildung.services.errors import Conflict, NotFound
from bildung.services.rosterplan import moved
from bildung.store.models import (
    AuditEntry,
    Enrolment,
    FormItem,
    Item,
    ItemVersion,
    Person,
    Response,
    ResponseEvent,
    School,
    SchoolClass,
    SignIn,
    Sitting,
)

ERASED = "erased:"


def export_record(ctx: Context, actor: Actor, person_id: int) -> dict[str, Any]:
    """Everything kept about a student, as plain data; the log says who took it."""
    allowed = scope(actor, Action.RECORDS_HANDLE)

    def work(db: Session) -> dict[str, Any]:
        p = _student(db, person_id, allowed)
        school = db.get(School, p.school_id) if p.school_id else None
        classes = db.execute(
            select(SchoolClass.title, Enrolment.role, Enrolment.active).join(Enrolment, Enrolment.class_id == SchoolClass.id)
            .where(Enrolment.person_id == p.id).order_by(Enrolment.id)
        )  # fmt: skip
        sittings = db.scalars(select(Sitting).where(Sitting.person_id == p.id).order_by(Sitting.id)).all()
        subjects = [f"person:{p.id}", *(f"sitting:{s.id}" for s in sittings)]
        entries = db.scalars(select(AuditEntry).where(AuditEntry.subject.in_(subjects)).order_by(AuditEntry.id))
        record = {
            "made_by": actor.name, "made_at": ctx.clock().isoformat(), "veiled": False,
            "person": {
                "id": p.source_id, "given": p.given, "family": p.family, "grade": p.grade,
                "school": school.name if school else None, "own_code": p.code, "active": p.active,
            },
            "classes": [{"class": title, "role": role, "active": active} for title, role, active in classes],
            "sittings": [_sitting(db, s) for s in sittings],
            "log": [
                {"at": e.at.isoformat(), "action": e.action, "before": e.before, "after": e.after, "why": e.why} for e in entries
            ],
        }  # fmt: skip
        audit.record(db, ctx.clock(), actor.person_id, "record.export", f"person:{p.id}")
        return record

    return ctx.store.write(work)


def _sitting(db: Session, s: Sitting) -> dict[str, Any]:
    answers = db.execute(
        select(FormItem.position, Item.code, Response.answer)
        .join(FormItem, FormItem.id == Response.form_item_id)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id).join(Item, Item.id == ItemVersion.item_id)
        .where(Response.sitting_id == s.id).order_by(FormItem.position)
    )  # fmt: skip
    events = db.scalars(
        select(ResponseEvent).where(ResponseEvent.sitting_id == s.id).order_by(ResponseEvent.at, ResponseEvent.sequence)
    )
    return {
        "form": s.session.form.name, "window": s.session.window.name, "class": s.session.klass.title, "state": s.state,
        "start": s.session.start.isoformat(), "handed_in": s.handed_in_at.isoformat() if s.handed_in_at else None,
        "answers": [{"number": number, "item": code, "answer": answer} for number, code, answer in answers],
        "every_answer_as_it_came": [{"at": e.at.isoformat(), "answer": e.answer} for e in events],
    }  # fmt: skip


def erase_person(ctx: Context, actor: Actor, person_id: int, why: str) -> None:
    """Final. Names, ids, code and sign-ins go; sittings and answers stay without a person behind them."""
    allowed = scope(actor, Action.RECORDS_HANDLE)
    why = need_text(why, "why", 500)

    def work(db: Session) -> None:
        p = _student(db, person_id, allowed)
        if db.scalar(select(Sitting.id).where(Sitting.person_id == p.id, Sitting.state == "answering")):
            raise Conflict("this student is answering a test right now; wait until it is handed in")
        p.given, p.family, p.source_id = "Erased", str(p.id), f"{ERASED}{p.id}"
        p.code = p.username = p.password_hash = None
        p.grade, p.school_id, p.active = "", None, False
        db.execute(delete(SignIn).where(SignIn.person_id == p.id))
        db.execute(delete(Enrolment).where(Enrolment.person_id == p.id))
        audit.record(db, ctx.clock(), actor.person_id, "person.erase", f"person:{p.id}", None, None, why)
        moved(db)

    ctx.store.write(work)


def _student(db: Session, person_id: int, allowed: Any) -> Person:
    p = db.scalar(select(Person).where(Person.id == person_id, Person.student.is_(True), allowed))
    if p is None or p.source_id.startswith(ERASED):
        raise NotFound("there is no such student, or they are not yours")
    return p
