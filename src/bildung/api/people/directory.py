"""People: bringing them in, finding them, a person's own page."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response, UploadFile

from bildung.api.people.shapes import (
    ColumnsKnownOut,
    ConfirmIn,
    Erase,
    FamilyIn,
    FamilyMadeOut,
    LogOut,
    NewCodeOut,
    PeopleOut,
    PeopleOverview,
    RecordOut,
    RoleIn,
    SeesResultsIn,
    TemporaryOut,
)
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ApplyIn
from bildung.api.shared.uploads import contents
from bildung.services.door import accounts, provider
from bildung.services.people import bulkedit, colleagues, directory, kin, log
from bildung.services.people.directory import PersonPage
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.staging import Preview
from bildung.services.upkeep import studentrecord

router = APIRouter(prefix="/api/people", tags=["people"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.PEOPLE_READ))]
Settler = Annotated[Actor, Depends(StaffGuard(Action.PEOPLE_SETTLE))]
Supporter = Annotated[Actor, Depends(StaffGuard(Action.SUPPORT_WRITE))]
Resetter = Annotated[Actor, Depends(StaffGuard(Action.ACCOUNTS_RESET))]
Granter = Annotated[Actor, Depends(StaffGuard(Action.ROLES_GRANT))]
Keeper = Annotated[Actor, Depends(StaffGuard(Action.RECORDS_HANDLE))]
LogReader = Annotated[Actor, Depends(StaffGuard(Action.LOG_READ))]


@router.get("", operation_id="listPeople")
def list_people(
    ctx: Ctx, actor: Reader, find: str = "", kind: str = "", limit: Annotated[int, Query(ge=1, le=1000)] = 100
) -> PeopleOut:
    found, total = directory.list_people(ctx, actor, find, limit, kind)
    return PeopleOut.model_validate({"people": found, "total": total})


@router.get("/overview", operation_id="peopleOverview")
def overview(ctx: Ctx, actor: Reader) -> PeopleOverview:
    return PeopleOverview.model_validate(directory.overview(ctx, actor))


@router.get("/log", operation_id="searchLog")
def search_log(
    ctx: Ctx,
    actor: LogReader,
    find: str = "",
    before: str | None = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> LogOut:
    lines, total = log.search(ctx, actor, find, number_or_none(before), limit)
    return LogOut.model_validate({"lines": lines, "total": total})


@router.get("/support/columns", operation_id="supportColumns")
def support_columns(ctx: Ctx, actor: Supporter) -> ColumnsKnownOut:
    return ColumnsKnownOut(columns=bulkedit.columns_known(ctx, actor))


@router.post("/support/imports", operation_id="previewSupport")
def preview_support(ctx: Ctx, actor: Supporter, files: list[UploadFile]) -> Preview:
    return bulkedit.preview(ctx, actor, contents(files))


@router.post("/support/imports/{import_id}/apply", operation_id="applySupport")
def apply_support(ctx: Ctx, actor: Supporter, import_id: str, body: ApplyIn = ApplyIn()) -> Preview:
    return bulkedit.apply(ctx, actor, import_id, body.yes)


@router.delete("/roles/{role_id}", operation_id="takeRoleBack", status_code=204)
def take_role_back(ctx: Ctx, actor: Granter, role_id: str) -> None:
    colleagues.take_back(ctx, actor, number(role_id))


@router.get("/{person_id}", operation_id="getPerson")
def get(ctx: Ctx, actor: Reader, person_id: str) -> PersonPage:
    return directory.get_person(ctx, actor, number(person_id))


@router.post("/{person_id}/roles", operation_id="grantRole", status_code=204)
def grant_role(ctx: Ctx, actor: Granter, person_id: str, body: RoleIn) -> None:
    colleagues.grant(ctx, actor, number(person_id), body.role, number_or_none(body.school_id))


@router.post("/{person_id}/families", operation_id="addFamily")
def add_family(ctx: Ctx, actor: Resetter, person_id: str, body: FamilyIn) -> FamilyMadeOut:
    told = kin.add_family(ctx, actor, number(person_id), body.given, body.family, body.username, body.relation)
    return FamilyMadeOut(password=told)


@router.put("/{person_id}/families/{family_id}/results", operation_id="familyResults", status_code=204)
def family_results(ctx: Ctx, actor: Resetter, person_id: str, family_id: str, body: SeesResultsIn) -> None:
    """Whether this family may see the student's results."""
    kin.let_see_results(ctx, actor, number(person_id), number(family_id), body.results)


@router.delete("/{person_id}/families/{family_id}", operation_id="unlinkFamily", status_code=204)
def unlink_family(ctx: Ctx, actor: Resetter, person_id: str, family_id: str) -> None:
    kin.unlink_family(ctx, actor, number(person_id), number(family_id))


@router.post("/{person_id}/password", operation_id="resetPassword")
def reset_password(ctx: Ctx, actor: Resetter, person_id: str) -> TemporaryOut:
    return TemporaryOut(password=accounts.reset_password(ctx, actor, number(person_id)))


@router.post("/{person_id}/record", operation_id="exportRecord")
def export_record(ctx: Ctx, actor: Keeper, person_id: str) -> RecordOut:
    return RecordOut(record=studentrecord.export_record(ctx, actor, number(person_id)))


@router.get(
    "/{person_id}/record.pdf",
    operation_id="printRecord",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
def print_record(ctx: Ctx, actor: Keeper, person_id: str) -> Response:
    document = studentrecord.print_record(ctx, actor, number(person_id))
    name = f'inline; filename="record-{number(person_id)}.pdf"'
    return Response(document, media_type="application/pdf", headers={"Content-Disposition": name})


@router.post("/{person_id}/erase", operation_id="erasePerson", status_code=204)
def erase(ctx: Ctx, actor: Keeper, person_id: str, body: Erase) -> None:
    studentrecord.erase_person(ctx, actor, number(person_id), body.why)


@router.post("/{person_id}/code", operation_id="newOwnCode")
def new_code(ctx: Ctx, actor: Settler, person_id: str) -> NewCodeOut:
    return NewCodeOut(code=directory.new_own_code(ctx, actor, number(person_id)))


@router.post("/accounts/{account_id}", operation_id="confirmAccount", status_code=204)
def confirm_account(ctx: Ctx, actor: Resetter, account_id: str, body: ConfirmIn) -> None:
    provider.confirm(ctx, actor, number(account_id), body.yes)


@router.delete("/accounts/{account_id}", operation_id="unbindAccount", status_code=204)
def unbind_account(ctx: Ctx, actor: Resetter, account_id: str) -> None:
    provider.unbind(ctx, actor, number(account_id))
