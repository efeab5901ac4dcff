"""Classes, groups, the school year, course plans: how a federation is put together."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request, Response, UploadFile

from bildung.api.guard import Ctx, StaffGuard, number
from bildung.api.people import contents
from bildung.api.schemas_people import (
    ApplyIn,
    ClassesOut,
    ClosedIn,
    CodeOut,
    DecideIn,
    DoorIn,
    GroupChange,
    GroupIn,
    GroupsOut,
    IdOut,
    MembersIn,
    PlansOut,
    RuleIn,
    StaffIn,
    TaughtIn,
    WindowChange,
    YearIn,
)
from bildung.services.calendar import pacing, years
from bildung.services.calendar.pacing import PlanPage
from bildung.services.calendar.years import YearPage
from bildung.services.people import classes, groups
from bildung.services.people.classes import ClassPage
from bildung.services.people.groups import GroupPage, TriedRule
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.staging import Preview

router = APIRouter(prefix="/api", tags=["organisation"])
ClassReader = Annotated[Actor, Depends(StaffGuard(Action.CLASSES_READ))]
ClassRunner = Annotated[Actor, Depends(StaffGuard(Action.CLASSES_RUN))]
GroupReader = Annotated[Actor, Depends(StaffGuard(Action.GROUPS_READ))]
GroupWriter = Annotated[Actor, Depends(StaffGuard(Action.GROUPS_WRITE))]
YearReader = Annotated[Actor, Depends(StaffGuard(Action.YEARS_READ))]
YearWriter = Annotated[Actor, Depends(StaffGuard(Action.YEARS_WRITE))]
PlanReader = Annotated[Actor, Depends(StaffGuard(Action.PLANS_READ))]
PlanWriter = Annotated[Actor, Depends(StaffGuard(Action.PLANS_WRITE))]
Teacher = Annotated[Actor, Depends(StaffGuard(Action.TAUGHT_SAY))]


def maybe(id: str | None) -> int | None:
    return None if id is None else number(id)


@router.get("/classes", operation_id="listClasses")
def list_classes(ctx: Ctx, actor: ClassReader, year: str | None = None) -> ClassesOut:
    finding, lines, all_years, shown = classes.list_classes(ctx, actor, maybe(year))
    return ClassesOut.model_validate({"finding": finding, "classes": lines, "years": all_years, "shown": shown})


@router.get(
    "/classes/codes.pdf", operation_id="classCodes", response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)  # fmt: skip
def codes(
    request: Request, ctx: Ctx, actor: ClassRunner, ids: Annotated[list[str], Query()], cards: bool = True
) -> Response:  # fmt: skip
    document = classes.sheets(ctx, actor, [number(id) for id in ids], str(request.base_url), cards)
    name = f'inline; filename="{"cards" if cards else "codes"}.pdf"'
    return Response(document, media_type="application/pdf", headers={"Content-Disposition": name})


@router.get("/classes/{class_id}", operation_id="getClass")
def get_class(ctx: Ctx, actor: ClassReader, class_id: str) -> ClassPage:
    return classes.get_class(ctx, actor, number(class_id))


@router.put("/classes/{class_id}/door", operation_id="setDoor")
def set_door(ctx: Ctx, actor: ClassRunner, class_id: str, body: DoorIn) -> CodeOut:
    return CodeOut(code=classes.set_door(ctx, actor, number(class_id), body.open_door, body.fresh_code))


@router.post("/classes/asking/{request_id}", operation_id="settleRequest", status_code=204)
def settle_request(ctx: Ctx, actor: ClassRunner, request_id: str, body: DecideIn) -> None:
    classes.settle_request(ctx, actor, number(request_id), body.let_in, maybe(body.person_id), body.why)


@router.get("/groups", operation_id="listGroups")
def list_groups(ctx: Ctx, actor: GroupReader) -> GroupsOut:
    names = ("finding", "groups", "attributes", "allowed", "needs")
    return GroupsOut.model_validate(dict(zip(names, groups.list_groups(ctx, actor), strict=True)))


@router.post("/groups", operation_id="makeGroup")
def make_group(ctx: Ctx, actor: GroupWriter, body: GroupIn) -> IdOut:
    members = [number(id) for id in body.members]
    return IdOut(id=str(groups.make_group(ctx, actor, body.name, body.rule, maybe(body.school_id), members)))


@router.post("/groups/try", operation_id="tryRule")
def try_rule(ctx: Ctx, actor: GroupWriter, body: RuleIn) -> TriedRule:
    return groups.try_rule(ctx, actor, body.rule, maybe(body.school_id))


@router.get("/groups/{group_id}", operation_id="getGroup")
def get_group(ctx: Ctx, actor: GroupReader, group_id: str) -> GroupPage:
    return groups.get_group(ctx, actor, number(group_id))


@router.put("/groups/{group_id}", operation_id="changeGroup", status_code=204)
def change_group(ctx: Ctx, actor: GroupWriter, group_id: str, body: GroupChange) -> None:
    groups.change_group(ctx, actor, number(group_id), body.name, body.rule)


@router.post("/groups/{group_id}/members", operation_id="putMembers", status_code=204)
def put_members(ctx: Ctx, actor: GroupWriter, group_id: str, body: MembersIn) -> None:
    groups.put_members(ctx, actor, number(group_id), [number(i) for i in body.add], [number(i) for i in body.drop])


@router.post("/groups/{group_id}/staff", operation_id="putStaff", status_code=204)
def put_staff(ctx: Ctx, actor: GroupWriter, group_id: str, body: StaffIn) -> None:
    groups.put_staff(ctx, actor, number(group_id), number(body.person_id), body.works)


@router.delete("/groups/{group_id}", operation_id="endGroup", status_code=204)
def end_group(ctx: Ctx, actor: GroupWriter, group_id: str) -> None:
    groups.end_group(ctx, actor, number(group_id))


@router.get("/year", operation_id="getYear")
def get_year(ctx: Ctx, actor: YearReader, year: str | None = None) -> YearPage | None:
    found = years.year_page(ctx, actor, maybe(year))
    return None if found is None else found


@router.post("/year", operation_id="makeYear")
def make_year(ctx: Ctx, actor: YearWriter, body: YearIn) -> IdOut:
    return IdOut(id=str(years.change_year(ctx, actor, None, body.title, body.start, body.end, body.weekdays)))


@router.put("/year/{year_id}", operation_id="changeYear", status_code=204)
def change_year(ctx: Ctx, actor: YearWriter, year_id: str, body: YearIn) -> None:
    years.change_year(ctx, actor, number(year_id), body.title, body.start, body.end, body.weekdays)


@router.post("/year/closed", operation_id="closeDays")
def close_days(ctx: Ctx, actor: YearWriter, body: ClosedIn) -> IdOut:
    return IdOut(id=str(years.close_days(ctx, actor, body.name, body.start, body.end, maybe(body.school_id))))


@router.delete("/year/closed/{closed_id}", operation_id="openDays", status_code=204)
def open_days(ctx: Ctx, actor: YearWriter, closed_id: str) -> None:
    years.open_days(ctx, actor, number(closed_id))


@router.put("/year/windows/{window_id}", operation_id="changeWindow", status_code=204)
def change_window(ctx: Ctx, actor: YearWriter, window_id: str, body: WindowChange) -> None:
    years.change_window(ctx, actor, number(window_id), body.name, body.start, body.end)


@router.get("/plans", operation_id="listPlans")
def list_plans(ctx: Ctx, actor: PlanReader) -> PlansOut:
    finding, found = pacing.list_plans(ctx, actor)
    return PlansOut.model_validate({"finding": finding, "plans": found})


@router.post("/plans/imports", operation_id="previewPlans")
def preview_plans(ctx: Ctx, actor: PlanWriter, files: list[UploadFile]) -> Preview:
    return pacing.preview(ctx, actor, contents(files))


@router.post("/plans/imports/{import_id}/apply", operation_id="applyPlans")
def apply_plans(ctx: Ctx, actor: PlanWriter, import_id: str, body: ApplyIn = ApplyIn()) -> Preview:
    return pacing.apply(ctx, actor, import_id, body.yes)


@router.post("/plans/taught", operation_id="sayTaught", status_code=204)
def say_taught(ctx: Ctx, actor: Teacher, body: TaughtIn) -> None:
    pacing.say_taught(ctx, actor, number(body.class_id), number(body.lesson_id), body.on)


@router.get("/plans/{plan_id}", operation_id="getPlan")
def get_plan(ctx: Ctx, actor: PlanReader, plan_id: str) -> PlanPage:
    return pacing.get_plan(ctx, actor, number(plan_id))
