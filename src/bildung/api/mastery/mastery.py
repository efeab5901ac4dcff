"""Mastery: the grid, its cells, standards, students, groups, the district, and what they rest on."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response

from bildung.api.shared.files import as_file
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.services.mastery import cell, district, grid, keeping, needs, out, student
from bildung.services.mastery import standard as standards
from bildung.services.mastery.cell import CellPage
from bildung.services.mastery.district import DistrictPage
from bildung.services.mastery.grid import GridAsked, GridPage
from bildung.services.mastery.keeping import KeptGroups
from bildung.services.mastery.needs import By, NeedGroups, NeedsAsked
from bildung.services.mastery.scope import WhoAsked
from bildung.services.mastery.standard import StandardPage
from bildung.services.mastery.student import StudentMastery
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/mastery", tags=["mastery"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.MASTERY_READ))]
Word = Annotated[str, Query(max_length=300)]


class GridQuery:
    """Of whom, and what of it."""

    def __init__(
        self,
        klass: str = "",
        group: str = "",
        school: str = "",
        grade: Annotated[str, Query(max_length=20)] = "",
        subject: Annotated[str, Query(max_length=80)] = "",
        person: Annotated[list[str], Query(max_length=400)] = [],
        domain: Word = "",
        priority: bool = False,
        taught: bool = False,
        whole: bool = False,
        first: date | None = None,
        last: date | None = None,
        since: date | None = None,
    ) -> None:
        self.asked = GridAsked(
            who=WhoAsked(
                class_id=number_or_none(klass),
                group_id=number_or_none(group),
                school_id=number_or_none(school),
                grade=grade,
                people=tuple(number(p) for p in person),
                subject=subject,
            ),
            domain=domain,
            priority=priority,
            taught=taught,
            whole=whole,
            first=first,
            last=last,
            since=since,
        )


@router.get("", operation_id="masteryGrid")
def get_grid(ctx: Ctx, actor: Reader, query: Annotated[GridQuery, Depends()]) -> GridPage:
    """Students of a class, a group, a grade, a school, or a chosen few, by standards."""
    return grid.grid_page(ctx, actor, query.asked)


@router.get("/grid.{kind}", operation_id="masteryFile", response_class=Response)
def get_file(
    ctx: Ctx,
    actor: Reader,
    kind: Literal["csv", "xlsx", "pdf"],
    query: Annotated[GridQuery, Depends()],
    names: bool = True,
) -> Response:
    return as_file(out.grid_file(ctx, actor, query.asked, kind, names), "mastery", kind)


@router.get("/evidence.csv", operation_id="masteryEvidence", response_class=Response)
def get_evidence(ctx: Ctx, actor: Reader, query: Annotated[GridQuery, Depends()], names: bool = True) -> Response:
    """Every scored point behind the grid."""
    return as_file(out.evidence_file(ctx, actor, query.asked, names), "evidence", "csv")


@router.get("/district", operation_id="masteryDistrict")
def get_district(
    ctx: Ctx,
    actor: Reader,
    subject: Annotated[str, Query(max_length=80)] = "",
    grade: Annotated[str, Query(max_length=20)] = "",
) -> DistrictPage:
    """Standards by schools and grades."""
    return district.district_page(ctx, actor, subject, grade)


@router.get("/groups", operation_id="keptGroups")
def get_kept(ctx: Ctx, actor: Reader) -> KeptGroups:
    """Groups that work on a standard."""
    return keeping.kept_groups(ctx, actor)


@router.get("/classes/{klass}/students.pdf", operation_id="masteryStudentsFile", response_class=Response)
def get_students_file(ctx: Ctx, actor: Reader, klass: str, person: str = "", names: bool = True) -> Response:
    """A page for each student of a class, or for one."""
    content = out.students_file(ctx, actor, number(klass), number_or_none(person), names)
    return as_file(content, "mastery-students", "pdf")


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
    by: By = "need",
    standard: str = "",
    form: str = "",
    window: str = "",
) -> NeedGroups:
    """Groups by shared needs, errors or states. apart: pairs of students who are not put together, as two ids with a comma between."""
    pairs = [(number(a), number(b)) for a, _, b in (pair.partition(",") for pair in apart)]
    asked = NeedsAsked(
        class_id=number(klass),
        least=least,
        most=most,
        many=many,
        apart=pairs,
        by=by,
        standard=number_or_none(standard),
        form=number_or_none(form),
        window=number_or_none(window),
    )
    return needs.need_groups(ctx, actor, asked)


@router.get("/students/{person}/standards/{standard}", operation_id="masteryCell")
def get_cell(ctx: Ctx, actor: Reader, person: str, standard: str) -> CellPage:
    """The run of a student on a standard."""
    return cell.cell_page(ctx, actor, number(person), number(standard))


@router.get("/students/{person}", operation_id="studentMastery")
def get_student(
    ctx: Ctx,
    actor: Reader,
    person: str,
    subject: Annotated[str, Query(max_length=80)],
    first: date | None = None,
    last: date | None = None,
) -> StudentMastery:
    return student.student_mastery(ctx, actor, number(person), subject, first, last)
