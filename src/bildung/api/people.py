"""People: import and list."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, UploadFile

from bildung.api.guard import Ctx, Staff, number
from bildung.api.schemas import (
    Erase,
    LogOut,
    NewCodeOut,
    PeopleOut,
    PeopleOverview,
    PersonPageOut,
    PreviewOut,
    RecordOut,
    RosterCheckOut,
    SettleIn,
    TemporaryOut,
)
from bildung.services import accounts, log, people, records, rostercheck, rosterimport
from bildung.services.access import Action, Actor

router = APIRouter(prefix="/api/people", tags=["people"])
Reader = Annotated[Actor, Depends(Staff(Action.PEOPLE_READ))]
Settler = Annotated[Actor, Depends(Staff(Action.PEOPLE_SETTLE))]
Resetter = Annotated[Actor, Depends(Staff(Action.ACCOUNTS_RESET))]
Keeper = Annotated[Actor, Depends(Staff(Action.RECORDS_HANDLE))]
LogReader = Annotated[Actor, Depends(Staff(Action.LOG_READ))]
Importer = Annotated[Actor, Depends(Staff(Action.PEOPLE_IMPORT))]


@router.get("", operation_id="listPeople")
def list_people(
    ctx: Ctx, actor: Reader, find: str = "", limit: Annotated[int, Query(ge=1, le=1000)] = 100
) -> PeopleOut:
    found, total = people.list_people(ctx, actor, find, limit)
    return PeopleOut.model_validate({"people": found, "total": total})


@router.get("/overview", operation_id="peopleOverview")
def overview(ctx: Ctx, actor: Reader) -> PeopleOverview:
    return PeopleOverview.model_validate(people.overview(ctx, actor))


@router.get("/check", operation_id="rosterCheck")
def check(ctx: Ctx, actor: Settler) -> RosterCheckOut:
    finding, found = rostercheck.check(ctx, actor)
    return RosterCheckOut.model_validate({"finding": finding, "discrepancies": found})


@router.post("/check/settle", operation_id="settleRoster", status_code=204)
def settle(ctx: Ctx, actor: Settler, body: SettleIn) -> None:
    if body.report_id is not None:
        rostercheck.settle_report(ctx, actor, number(body.report_id))
        return
    ids = [None if id is None else number(id) for id in (body.person_id, body.class_id)]
    rostercheck.settle(ctx, actor, body.step, *ids)


@router.get("/log", operation_id="searchLog")
def search_log(
    ctx: Ctx, actor: LogReader, find: str = "", before: str | None = None, limit: Annotated[int, Query(ge=1, le=500)] = 100
) -> LogOut:  # fmt: skip
    lines, total = log.search(ctx, actor, find, None if before is None else number(before), limit)
    return LogOut.model_validate({"lines": lines, "total": total})


@router.get("/{person_id}", operation_id="getPerson")
def get(ctx: Ctx, actor: Reader, person_id: str) -> PersonPageOut:
    return PersonPageOut.model_validate(people.get_person(ctx, actor, number(person_id)))


@router.post("/{person_id}/password", operation_id="resetPassword")
def reset_password(ctx: Ctx, actor: Resetter, person_id: str) -> TemporaryOut:
    return TemporaryOut(password=accounts.reset_password(ctx, actor, number(person_id)))


@router.post("/{person_id}/record", operation_id="exportRecord")
def export_record(ctx: Ctx, actor: Keeper, person_id: str) -> RecordOut:
    return RecordOut(record=records.export_record(ctx, actor, number(person_id)))


@router.post("/{person_id}/erase", operation_id="erasePerson", status_code=204)
def erase(ctx: Ctx, actor: Keeper, person_id: str, body: Erase) -> None:
    records.erase_person(ctx, actor, number(person_id), body.why)


@router.post("/{person_id}/code", operation_id="newOwnCode")
def new_code(ctx: Ctx, actor: Settler, person_id: str) -> NewCodeOut:
    return NewCodeOut(code=people.new_own_code(ctx, actor, number(person_id)))


@router.post("/imports", operation_id="previewPeople")
def preview(ctx: Ctx, actor: Importer, files: list[UploadFile]) -> PreviewOut:
    contents = {file.filename or f"file {at}": file.file.read() for at, file in enumerate(files, 1)}
    return PreviewOut.model_validate(rosterimport.preview(ctx, actor, contents))


@router.post("/imports/{import_id}/apply", operation_id="applyPeople")
def apply(ctx: Ctx, actor: Importer, import_id: str) -> PreviewOut:
    return PreviewOut.model_validate(rosterimport.apply(ctx, actor, import_id))
