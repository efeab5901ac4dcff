"""Tests owed in a window: their counts, the names behind them, exemptions, and what the window asks for."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response
from pydantic import BaseModel, Field

from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import Made
from bildung.core.participation.standing import Reason, Standing
from bildung.services.participation import exemptions, report, requirements, windowdates
from bildung.services.participation.exemptions import ExemptionsPage, ExemptionWish
from bildung.services.participation.report import By, OwedNames, ParticipationPage
from bildung.services.participation.requirements import RequirementLine
from bildung.services.participation.windowdates import WindowDatesLine, WindowDatesWish
from bildung.services.sessions import ending
from bildung.services.sessions.ending import EndedEarly
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/participation", tags=["participation"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_READ))]
Planner = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_PLAN))]
Supporter = Annotated[Actor, Depends(StaffGuard(Action.SUPPORT_WRITE))]
SupportReader = Annotated[Actor, Depends(StaffGuard(Action.SUPPORT_READ))]
Yearly = Annotated[Actor, Depends(StaffGuard(Action.YEARS_WRITE))]
Word = Annotated[str, Query(max_length=200)]


class ExemptionIn(BaseModel):
    """people: students, or group: everybody who is in it."""

    people: list[str] = Field([], max_length=500)
    group: str | None = None
    window: str | None = None
    subject: str = Field("", max_length=300)
    reason: str = Field(max_length=80)
    asked_by: str = Field("", max_length=300)
    note: str = Field("", max_length=300)
    instead: str = Field("", max_length=300)
    starts: date | None = None
    ends: date | None = None


class RequirementIn(BaseModel):
    """rule: in the language of groups; empty: everyone in the form's grade."""

    window: str
    form: str
    rule: str = Field("", max_length=400)
    part: int | None = Field(None, ge=0, le=11)
    why: str = Field("", max_length=300)


class WindowDatesIn(BaseModel):
    """For a school, for a grade, or for one student."""

    window: str
    school: str | None = None
    grade: str = Field("", max_length=10)
    person: str | None = None
    start: date
    end: date
    why: str = Field("", max_length=300)


class EndEarlyIn(BaseModel):
    """last: the last day on which sessions take place."""

    window: str
    school: str | None = None
    grade: str = Field("", max_length=10)
    last: date
    why: str = Field(max_length=300)


class RequirementAdded(BaseModel):
    """What was done, in a sentence."""

    says: str


@router.get("", operation_id="participation")
def participation(ctx: Ctx, actor: Reader, window: str, by: By = "test") -> ParticipationPage:
    """How far a window has come, by test, school, grade, subject, class or group."""
    return report.participation_page(ctx, actor, number(window), by)


@router.get("/students", operation_id="owedTests")
def students(
    ctx: Ctx,
    actor: Reader,
    window: str,
    standing: Standing | None = None,
    reason: Reason | None = None,
    school: Word = "",
    grade: Word = "",
    subject: Word = "",
    test: Word = "",
    klass: Word = "",
    group: Word = "",
) -> OwedNames:
    """The names behind a number of participation."""
    return report.owed_lines(ctx, actor, number(window), standing, reason, school, grade, subject, test, klass, group)


@router.get(
    "/report.pdf",
    operation_id="printParticipation",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
def print_report(ctx: Ctx, actor: Planner, window: str) -> Response:
    """One page for the board."""
    document = report.print_participation(ctx, actor, number(window))
    headers = {"Content-Disposition": 'inline; filename="participation.pdf"'}
    return Response(document, media_type="application/pdf", headers=headers)


@router.get("/exemptions", operation_id="listExemptions")
def list_exemptions(ctx: Ctx, actor: SupportReader, person: str | None = None) -> ExemptionsPage:
    """Of one student, or all that have not ended."""
    return exemptions.exemptions_page(ctx, actor, number_or_none(person))


@router.post("/exemptions", operation_id="exemptStudents", status_code=201)
def exempt(ctx: Ctx, actor: Supporter, body: ExemptionIn) -> Made:
    """Students, or a group, do not have to take the tests."""
    made = exemptions.exempt(
        ctx,
        actor,
        ExemptionWish(
            people=[number(id) for id in body.people],
            group_id=number_or_none(body.group),
            window_id=number_or_none(body.window),
            subject=body.subject,
            reason=body.reason,
            asked_by=body.asked_by,
            note=body.note,
            instead=body.instead,
            starts=body.starts,
            ends=body.ends,
        ),
    )
    return Made.model_validate({"ids": made})


@router.delete("/exemptions/{exemption_id}", operation_id="endExemption", status_code=204)
def end_exemption(ctx: Ctx, actor: Supporter, exemption_id: str) -> None:
    """The tests are owed again."""
    exemptions.end_exemption(ctx, actor, number(exemption_id))


@router.get("/requirements", operation_id="listRequirements")
def list_requirements(ctx: Ctx, actor: Planner, window: str) -> list[RequirementLine]:
    """What a window asks for."""
    return requirements.list_requirements(ctx, actor, number(window))


@router.post("/requirements", operation_id="addRequirement", status_code=201)
def add_requirement(ctx: Ctx, actor: Yearly, body: RequirementIn) -> RequirementAdded:
    """Students owe a test in a window."""
    says = requirements.require(ctx, actor, number(body.window), number(body.form), body.rule, body.part, body.why)
    return RequirementAdded(says=says)


@router.delete("/requirements/{requirement_id}", operation_id="dropRequirement", status_code=204)
def drop_requirement(ctx: Ctx, actor: Yearly, requirement_id: str) -> None:
    """A window no longer asks for it."""
    requirements.drop_requirement(ctx, actor, number(requirement_id))


@router.get("/dates", operation_id="listWindowDates")
def list_dates(ctx: Ctx, actor: Reader, window: str) -> list[WindowDatesLine]:
    """Dates of a window that are not the district's."""
    return windowdates.list_dates(ctx, actor, number(window))


@router.post("/dates", operation_id="putWindowDates", status_code=201)
def put_dates(ctx: Ctx, actor: Yearly, body: WindowDatesIn) -> Made:
    """A school, a grade or a student tests on other days."""
    wish = WindowDatesWish(
        window_id=number(body.window),
        school_id=number_or_none(body.school),
        grade=body.grade,
        person_id=number_or_none(body.person),
        start=body.start,
        end=body.end,
        why=body.why,
    )
    return Made.model_validate({"ids": [windowdates.put_dates(ctx, actor, wish)]})


@router.delete("/dates/{dates_id}", operation_id="dropWindowDates", status_code=204)
def drop_dates(ctx: Ctx, actor: Yearly, dates_id: str) -> None:
    """The window's own dates hold again."""
    windowdates.drop_dates(ctx, actor, number(dates_id))


@router.post("/end-early", operation_id="endWindowEarly")
def end_early(ctx: Ctx, actor: Yearly, body: EndEarlyIn) -> EndedEarly:
    """A school or a grade stops testing: what has not begun is canceled."""
    return ending.end_early(
        ctx, actor, number(body.window), body.last, number_or_none(body.school), body.grade, body.why
    )
