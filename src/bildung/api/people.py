"""People: import and list."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, UploadFile

from bildung.api.guard import Ctx, Staff
from bildung.api.schemas import PeopleOut, PeopleOverview, PreviewOut
from bildung.services import people
from bildung.services.access import Action, Actor

router = APIRouter(prefix="/api/people", tags=["people"])
Reader = Annotated[Actor, Depends(Staff(Action.PEOPLE_READ))]
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


@router.post("/imports", operation_id="previewPeople")
def preview(ctx: Ctx, actor: Importer, files: list[UploadFile]) -> PreviewOut:
    contents = {file.filename or f"file {at}": file.file.read() for at, file in enumerate(files, 1)}
    return PreviewOut.model_validate(people.preview_roster(ctx, actor, contents))


@router.post("/imports/{import_id}/apply", operation_id="applyPeople")
def apply(ctx: Ctx, actor: Importer, import_id: str) -> PreviewOut:
    return PreviewOut.model_validate(people.apply_roster(ctx, actor, import_id))
