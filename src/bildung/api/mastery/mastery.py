"""Mastery: the grid of a class, its cells, a student's standards, and what they rest on."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response

from bildung.api.shared.files import as_file
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.services.mastery import cell, grid, needs
from bildung.services.mastery import standard as standards
from bildung.services.mastery.cell import CellPage, StudentMastery
from bildung.services.mastery.grid import GridAsked, GridPage
from bildung.services.mastery.needs import NeedGroups
from bildung.services.mastery.standard import StandardPage
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/mastery", tags=["mastery"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.MASTERY_READ))]


class GridQuery:
    """A class and what of it."""

    def __init__(
        self,
        klass: str = "",
        domain: Annotated[str, Query(max_length=300)] = "",
        priority: bool = False,
        whole: bool = False,
        first: date | None = None,
        last: date | None = None,
    ) -> None:
        self.asked = GridAsked(
            class_id=number_or_none(klass), domain=domain, priority=priority, whole=whole, first=first, last=last
        )


@router.get("", operation_id="masteryGrid")
def get_grid(ctx: Ctx, actor: Reader, query: Annotated[GridQuery, Depends()]) -> GridPage:
    """Students of a class by standards."""
    return grid.grid_page(ctx, actor, query.asked)


@router.get("/grid.{kind}", operation_id="masteryFile", response_class=Response)
def get_file(
    ctx: Ctx, actor: Reader, kind: Literal["csv", "xlsx"], query: Annotated[GridQuery, Depends()], names: bool = True
) -> Response:
    return as_file(grid.grid_file(ctx, actor, query.asked, kind, names), "mastery", kind)


@router.get("/classes/{klass}/evidence.csv", operation_id="masteryEvidence", response_class=Response)
def get_evidence(ctx: Ctx, actor: Reader, klass: str) -> Response:
    """Every scored point behind the grid."""
    return as_file(grid.evidence_file(ctx, actor, number(klass)), "evidence", "csv")


@router.get("/classes/{klass}/standards/{standard}", operation_id="masteryStandard")
def get_standard(ctx: Ctx, actor: Reader, klass: str, standard: str) -> StandardPage:
    """A standard in a class."""
    return standards.standard_page(ctx, actor, number(klass), number(standard))


@router.get("/classes/{klass}/groups", operation_id="needGroups")
def get_groups(
    ctx: Ctx,
    actor: Reader,
    klass: str,
    least: Annotated[int, Query(ge=1, le=40)] = 3,
    most: Annotated[int, Query(ge=1, le=40)] = 6,
    many: Annotated[int, Query(ge=1, le=40)] = 4,
    apart: Annotated[list[str], Query(max_length=40)] = [],
) -> NeedGroups:
    """Groups by shared needs. apart: pairs of students who are not put together, as two ids with a comma between."""
    pairs = [(number(a), number(b)) for a, _, b in (pair.partition(",") for pair in apart)]
    return needs.need_groups(ctx, actor, number(klass), least, most, many, pairs)


@router.get("/students/{person}/standards/{standard}", operation_id="masteryCell")
def get_cell(ctx: Ctx, actor: Reader, person: str, standard: str) -> CellPage:
    """The run of a student on a standard."""
    return cell.cell_page(ctx, actor, number(person), number(standard))


@router.get("/students/{person}", operation_id="studentMastery")
def get_student(ctx: Ctx, actor: Reader, person: str, subject: Annotated[str, Query(max_length=80)]) -> StudentMastery:
    return cell.student_mastery(ctx, actor, number(person), subject)
