"""Growth: what occasions of a measure say, goals, reflections."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response

from bildung.api.growth.shapes import GoalsIn, MeasureMade, ReflectionAskIn, ReflectionIn
from bildung.api.shared.files import as_file
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.services.growth import goals, occasionpage, pair, printing, projection, reflections, studentpage
from bildung.services.growth.goals import GoalsSet, GoalWish
from bildung.services.growth.occasionpage import OccasionPage
from bildung.services.growth.pair import PairAsked
from bildung.services.growth.pairview import PairPage
from bildung.services.growth.projection import ProjectionPage
from bildung.services.growth.reflections import ReflectionAsked, ReflectionsPage, ReflectionWish
from bildung.services.growth.studentpage import StudentGrowthPage
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/growth", tags=["growth"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.GROWTH_READ))]
Keeper = Annotated[Actor, Depends(StaffGuard(Action.MEASURES_KEEP))]
Setter = Annotated[Actor, Depends(StaffGuard(Action.GOALS_SET))]
Writer = Annotated[Actor, Depends(StaffGuard(Action.REFLECTIONS_WRITE))]


class PairQuery:
    """Two occasions and what of them."""

    def __init__(
        self,
        start: str,
        end: str,
        school: Annotated[str, Query(max_length=20)] = "",
        grade: Annotated[str, Query(max_length=20)] = "",
        klass: Annotated[str, Query(max_length=20)] = "",
        attribute: Annotated[str, Query(max_length=20)] = "",
        outside: bool = False,
    ) -> None:
        self.start, self.end, self.school, self.grade = start, end, school, grade
        self.klass, self.attribute, self.outside = klass, attribute, outside

    def of(self, measure: str) -> PairAsked:
        return PairAsked(
            measure=number(measure),
            start=number(self.start),
            end=number(self.end),
            school=self.school,
            grade=self.grade,
            klass=self.klass,
            attribute=self.attribute,
            outside=self.outside,
        )


@router.get("/measures/{measure}/pair", operation_id="growthPair")
def get_pair(ctx: Ctx, actor: Reader, measure: str, query: Annotated[PairQuery, Depends()]) -> PairPage:
    """Growth from one window to another."""
    return pair.pair_page(ctx, actor, query.of(measure))


@router.get("/measures/{measure}/report.{kind}", operation_id="growthReport", response_class=Response)
def get_report(
    ctx: Ctx,
    actor: Reader,
    measure: str,
    kind: Literal["pdf", "xlsx"],
    query: Annotated[PairQuery, Depends()],
    names: bool = True,
) -> Response:
    """The same to print or as a workbook."""
    made = printing.pair_report(ctx, actor, query.of(measure), kind, names and not query.outside)
    return as_file(made, "growth", kind)


@router.get("/measures/{measure}/occasions/{occasion}", operation_id="growthOccasion")
def get_occasion(
    ctx: Ctx, actor: Reader, measure: str, occasion: str, school: str = "", grade: str = ""
) -> OccasionPage:
    """Levels and ranks of one window."""
    return occasionpage.occasion_page(ctx, actor, number(measure), number(occasion), school, grade)


@router.get("/measures/{measure}/occasions/{occasion}/projection", operation_id="growthProjection")
def get_projection(
    ctx: Ctx, actor: Reader, measure: str, occasion: str, to: str = "", school: str = "", grade: str = ""
) -> ProjectionPage:
    """Who is on track for a later window."""
    return projection.projection_page(ctx, actor, number(measure), number(occasion), to, school, grade)


@router.get("/measures/{measure}/students/{person}", operation_id="studentGrowth")
def get_student(ctx: Ctx, actor: Reader, measure: str, person: str) -> StudentGrowthPage:
    return studentpage.student_growth(ctx, actor, number(measure), number(person))


@router.get(
    "/measures/{measure}/students/{person}/report.pdf", operation_id="studentGrowthReport", response_class=Response
)
def get_student_report(ctx: Ctx, actor: Reader, measure: str, person: str) -> Response:
    return as_file(printing.student_report(ctx, actor, number(measure), number(person)), "growth", "pdf")


@router.post("/measures/{measure}/goals", operation_id="setGoals")
def set_goals(ctx: Ctx, actor: Setter, measure: str, body: GoalsIn) -> GoalsSet:
    wishes = [GoalWish(person=number(g.person), score=g.score, kind=g.kind) for g in body.goals]
    return goals.set_goals(ctx, actor, number(measure), body.by_day, wishes)


@router.delete("/goals/{goal}", operation_id="withdrawGoal", status_code=204)
def withdraw_goal(ctx: Ctx, actor: Setter, goal: str) -> None:
    goals.withdraw_goal(ctx, actor, number(goal))


@router.get("/reflections", operation_id="reflections")
def get_reflections(ctx: Ctx, actor: Reader, request: str = "") -> ReflectionsPage:
    """request: the one to look at; empty: the newest."""
    return reflections.reflections_page(ctx, actor, number_or_none(request))


@router.post("/reflections", operation_id="askReflections", status_code=201)
def ask(ctx: Ctx, actor: Keeper, body: ReflectionAskIn) -> MeasureMade:
    asked = ReflectionAsked(
        measure=number(body.measure),
        start=number(body.start),
        end=number(body.end),
        due=body.due,
        question=body.question,
    )
    return MeasureMade(id=str(reflections.ask(ctx, actor, asked)))


@router.post("/reflections/{request}/end", operation_id="endReflections", status_code=204)
def end(ctx: Ctx, actor: Keeper, request: str) -> None:
    """Nothing is expected any more."""
    reflections.end_request(ctx, actor, number(request))


@router.put("/reflections/{request}", operation_id="writeReflection", status_code=204)
def write(ctx: Ctx, actor: Writer, request: str, body: ReflectionIn) -> None:
    wish = ReflectionWish(
        request=number(request),
        class_id=number_or_none(body.class_id),
        school_id=number_or_none(body.school_id),
        grade=body.grade,
        concludes=body.concludes,
        plans=body.plans,
    )
    reflections.write(ctx, actor, wish)


@router.get("/reflections/{request}/report.pdf", operation_id="reflectionsReport", response_class=Response)
def get_reflections_report(ctx: Ctx, actor: Reader, request: str) -> Response:
    return as_file(printing.reflections_report(ctx, actor, number(request)), "reflections", "pdf")
