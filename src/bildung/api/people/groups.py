"""Groups of students, by name and by rule."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.people.shapes import GroupChange, GroupIn, GroupsOut, MembersIn, RuleIn, StaffIn
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import IdOut
from bildung.services.people import groups
from bildung.services.people.groups import GroupPage, TriedRule
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api", tags=["organization"], route_class=LateRoute)
GroupReader = Annotated[Actor, Depends(StaffGuard(Action.GROUPS_READ))]
GroupWriter = Annotated[Actor, Depends(StaffGuard(Action.GROUPS_WRITE))]


@router.get("/groups", operation_id="listGroups")
def list_groups(ctx: Ctx, actor: GroupReader) -> GroupsOut:
    names = ("finding", "groups", "attributes", "allowed", "needs")
    return GroupsOut.model_validate(dict(zip(names, groups.list_groups(ctx, actor), strict=True)))


@router.post("/groups", operation_id="makeGroup")
def make_group(ctx: Ctx, actor: GroupWriter, body: GroupIn) -> IdOut:
    members = [number(id) for id in body.members]
    return IdOut(id=str(groups.make_group(ctx, actor, body.name, body.rule, number_or_none(body.school_id), members)))


@router.post("/groups/try", operation_id="tryRule")
def try_rule(ctx: Ctx, actor: GroupWriter, body: RuleIn) -> TriedRule:
    return groups.try_rule(ctx, actor, body.rule, number_or_none(body.school_id))


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
