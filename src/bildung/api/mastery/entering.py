"""Mastery written: evidence and interventions by hand, groups with a purpose, sessions that count, rules of frameworks."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Depends
from pydantic import BaseModel, Field

from bildung.api.shared.guard import Ctx, StaffGuard, number
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import IdOut
from bildung.services.mastery import deciding, entering, keeping, practice, rulespage
from bildung.services.mastery.deciding import EvidencePage, SessionCounts
from bildung.services.mastery.entering import EnteredPoints, NewEvidence, NewIntervention
from bildung.services.mastery.keeping import NewPurpose
from bildung.services.mastery.rulespage import RulesPage, RulesPreview, RulesWish
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/mastery", tags=["mastery"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.MASTERY_READ))]
Enterer = Annotated[Actor, Depends(StaffGuard(Action.MASTERY_ENTER))]
Keeper = Annotated[Actor, Depends(StaffGuard(Action.GROUPS_WRITE))]
Ruler = Annotated[Actor, Depends(StaffGuard(Action.MASTERY_RULE))]
Some = Annotated[list[str], Field(max_length=400)]


class PointsIn(BaseModel):
    """Of one student."""

    person: str
    earned: float


class EvidenceIn(BaseModel):
    """on: the day on which the work was done."""

    standard: str
    kind: str
    what: Annotated[str, Field(max_length=300)]
    on: date | None = None
    possible: float
    points: Annotated[list[PointsIn], Field(max_length=400)]


class InterventionIn(BaseModel):
    standard: str
    people: Some
    what: Annotated[str, Field(max_length=300)]
    start: date | None = None
    until: date | None = None


class InterventionEndIn(BaseModel):
    """withdraw: it was entered by mistake."""

    until: date | None = None
    withdraw: bool = False


class PurposeIn(BaseModel):
    name: Annotated[str, Field(max_length=200)]
    members: Some
    standard: str
    purpose: Annotated[str, Field(max_length=300)] = ""
    check_on: date | None = None


class PurposeChangeIn(BaseModel):
    purpose: Annotated[str, Field(max_length=300)] = ""
    check_on: date | None = None


class LeaveIn(BaseModel):
    people: Some


class PracticeIn(BaseModel):
    way: practice.Way


class CountsIn(BaseModel):
    """counts None: the rule of their kind holds."""

    sessions: Annotated[list[str], Field(max_length=5000)]
    counts: bool | None


class EvidenceMoveIn(BaseModel):
    """back: they stay with what the item was, after all."""

    changes: Some
    back: bool = False


class RulesIn(BaseModel):
    rules: dict[str, float]
    counts: dict[str, str]
    retakes: str
    revision: int = 0


@router.post("/evidence", operation_id="enterEvidence")
def post_evidence(ctx: Ctx, actor: Enterer, body: EvidenceIn) -> int:
    """Points of some students on a standard; how many were entered."""
    new = NewEvidence(
        standard=number(body.standard),
        kind=body.kind,
        what=body.what,
        on=body.on,
        possible=body.possible,
        points=[EnteredPoints(person=number(p.person), earned=p.earned) for p in body.points],
    )
    return entering.enter_evidence(ctx, actor, new)


@router.delete("/evidence/{id}", operation_id="withdrawEvidence", status_code=204)
def delete_evidence(ctx: Ctx, actor: Enterer, id: str) -> None:
    entering.withdraw_evidence(ctx, actor, number(id))


@router.post("/interventions", operation_id="enterIntervention")
def post_intervention(ctx: Ctx, actor: Enterer, body: InterventionIn) -> int:
    """What is tried with some students; for how many it was entered."""
    new = NewIntervention(
        standard=number(body.standard),
        people=[number(p) for p in body.people],
        what=body.what,
        start=body.start,
        until=body.until,
    )
    return entering.enter_intervention(ctx, actor, new)


@router.patch("/interventions/{id}", operation_id="endIntervention", status_code=204)
def patch_intervention(ctx: Ctx, actor: Enterer, id: str, body: InterventionEndIn) -> None:
    entering.end_intervention(ctx, actor, number(id), body.until, body.withdraw)


@router.post("/groups", operation_id="keepGroup")
def post_group(ctx: Ctx, actor: Keeper, body: PurposeIn) -> IdOut:
    """A group made from findings, with what it is for."""
    new = NewPurpose(
        name=body.name,
        members=[number(m) for m in body.members],
        standard=number(body.standard),
        purpose=body.purpose,
        check_on=body.check_on,
    )
    return IdOut(id=str(keeping.keep_group(ctx, actor, new)))


@router.patch("/groups/{id}", operation_id="changePurpose", status_code=204)
def patch_group(ctx: Ctx, actor: Keeper, id: str, body: PurposeChangeIn) -> None:
    keeping.change_purpose(ctx, actor, number(id), body.purpose, body.check_on)


@router.post("/groups/{id}/leave", operation_id="leaveGroup", status_code=204)
def post_leave(ctx: Ctx, actor: Keeper, id: str, body: LeaveIn) -> None:
    """Students who no longer need it."""
    keeping.leave_group(ctx, actor, number(id), [number(p) for p in body.people])


@router.post("/classes/{klass}/standards/{standard}/practice", operation_id="makePractice")
def post_practice(ctx: Ctx, actor: Enterer, klass: str, standard: str, body: PracticeIn) -> IdOut:
    """A draft of a practice test on a standard, to be looked at and printed."""
    return IdOut(id=str(practice.make_practice(ctx, actor, number(klass), number(standard), body.way)))


@router.get("/sessions", operation_id="masterySessions")
def get_sessions(ctx: Ctx, actor: Enterer) -> EvidencePage:
    """Which sessions count as evidence."""
    return deciding.evidence_page(ctx, actor)


@router.get("/sessions/{session}", operation_id="sessionCounts")
def get_session(ctx: Ctx, actor: Enterer, session: str) -> SessionCounts | None:
    """Whether one counts; nothing where there is nothing to ask."""
    return deciding.session_counts(ctx, actor, number(session))


@router.put("/sessions", operation_id="decideSessions", status_code=204)
def put_sessions(ctx: Ctx, actor: Enterer, body: CountsIn) -> None:
    """Some sessions count, or do not, by decision."""
    deciding.decide(ctx, actor, [number(s) for s in body.sessions], body.counts)


@router.post("/moves", operation_id="moveEvidence", status_code=204)
def post_moves(ctx: Ctx, actor: Ruler, body: EvidenceMoveIn) -> None:
    """Answers given before an item changed its standards become evidence of what it is now."""
    deciding.move_evidence(ctx, actor, [number(c) for c in body.changes], body.back)


@router.get("/rules", operation_id="masteryRules")
def get_rules(ctx: Ctx, actor: Reader, framework: str = "") -> RulesPage:
    return rulespage.rules_page(ctx, actor, number(framework) if framework else None)


@router.post("/rules/{framework}/preview", operation_id="previewRules")
def post_preview(ctx: Ctx, actor: Ruler, framework: str, body: RulesIn) -> RulesPreview:
    """What other rules would change."""
    return rulespage.preview_rules(ctx, actor, number(framework), _wish(body))


@router.put("/rules/{framework}", operation_id="changeRules", status_code=204)
def put_rules(ctx: Ctx, actor: Ruler, framework: str, body: RulesIn) -> None:
    rulespage.change_rules(ctx, actor, number(framework), _wish(body), body.revision)


def _wish(body: RulesIn) -> RulesWish:
    return RulesWish(rules=body.rules, counts=body.counts, retakes=body.retakes)
