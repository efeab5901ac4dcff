"""What must be taken in a window: rules that name students and a test."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.items.shown import counted
from bildung.core.school.groups import read_rule
from bildung.services.participation.obligations import named_by
from bildung.services.people.membership import facts, known_attributes
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Family, Form, Requirement, Window

LONGEST_RULE = 400


@dataclass(frozen=True, kw_only=True)
class RequirementLine:
    """who: the rule, or the grade. students: whom it names now. problem: why its rule fits nobody any more, or empty."""

    id: Id
    test: str
    form_id: Id
    rule: str
    who: str
    students: int
    why: str
    problem: str


def list_requirements(ctx: Context, actor: Actor, window_id: int) -> list[RequirementLine]:
    """The rules of a window, in the order in which they were made."""
    scope(actor, Action.SESSIONS_PLAN)
    with ctx.store.read() as db:
        rows = db.scalars(select(Requirement).where(Requirement.window_id == window_id).order_by(Requirement.id)).all()
        everybody = facts(db) if rows else {}
        found = []
        for row in rows:
            form, name = _test(db, row)
            problem = ""
            try:
                read_rule(row.rule, known_attributes(db)) if row.rule else None
            except ValueError as error:
                problem = str(error)
            named = named_by(db, row.rule, form, everybody)
            found.append(
                RequirementLine(
                    id=row.id,
                    test=name if row.part is None else f"{name}, section {row.part + 1}",
                    form_id=form.id,
                    rule=row.rule,
                    who=row.rule or f"everyone in grade {form.grade}",
                    students=len(named),
                    why=row.why,
                    problem=problem,
                )
            )
        return found


def _test(db: Session, row: Requirement) -> tuple[Form, str]:
    if row.family_id is not None:
        form = db.scalars(select(Form).where(Form.family_id == row.family_id).order_by(Form.id)).first()
        assert form is not None
        return form, db.get_one(Family, row.family_id).name
    form = db.get_one(Form, row.form_id)
    return form, form.name


def require(
    ctx: Context, actor: Actor, window_id: int, form_id: int, rule: str = "", part: int | None = None, why: str = ""
) -> str:
    """From now on the students whom the rule names owe this test in the window; says how many they are. rule: in the
    language of groups; empty: everybody of the form's grade."""
    scope(actor, Action.YEARS_WRITE)
    rule = rule.strip()
    if len(rule) > LONGEST_RULE:
        raise Invalid(f"a rule has at most {LONGEST_RULE} characters", "rule")

    def work(db: Session) -> str:
        if db.get(Window, window_id) is None:
            raise NotFound("there is no such window")
        form = db.get(Form, form_id)
        if form is None or form.published_at is None:
            raise Invalid("choose a published form", "form_id")
        if not rule and not form.grade:
            raise Invalid(f"{form.name} is for no grade; say who has to take it", "rule")
        if rule:
            try:
                read_rule(rule, known_attributes(db))
            except ValueError as error:
                raise Invalid(str(error), "rule") from error
        family = form.family_id
        same = db.scalar(
            select(Requirement.id).where(
                Requirement.window_id == window_id,
                Requirement.family_id == family if family is not None else Requirement.form_id == form_id,
                Requirement.part.is_(None) if part is None else Requirement.part == part,
                Requirement.rule == rule,
            )
        )
        if same is not None:
            raise Conflict(f"this window asks these students for {form.name} already", "form_id")
        row = Requirement(
            window_id=window_id,
            rule=rule,
            family_id=family,
            form_id=None if family is not None else form_id,
            part=part,
            why=why.strip()[:300],
            at=ctx.clock(),
            by_id=actor.person_id,
        )
        db.add(row)
        db.flush()
        n = len(named_by(db, rule, form, facts(db)))
        after = {"form": form.name, "rule": rule or f"grade {form.grade}", "students": n}
        audit.record(db, ctx.clock(), actor.person_id, "requirement.add", f"window:{window_id}", None, after, why)
        return f"{counted(n, 'student')} {'owes' if n == 1 else 'owe'} {form.name} in this window."

    return ctx.store.write(work)


def drop_requirement(ctx: Context, actor: Actor, requirement_id: int) -> None:
    """The window no longer asks for it; what is scheduled stays."""
    scope(actor, Action.YEARS_WRITE)

    def work(db: Session) -> None:
        row = db.get(Requirement, requirement_id)
        if row is None:
            raise NotFound("there is no such rule")
        before = {"form": _test(db, row)[1], "rule": row.rule}
        audit.record(db, ctx.clock(), actor.person_id, "requirement.drop", f"window:{row.window_id}", before, None)
        db.delete(row)

    ctx.store.write(work)
