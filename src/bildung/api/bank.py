"""The bank: items, standards, import."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, UploadFile

from bildung.api.guard import Ctx, Staff
from bildung.api.schemas import BankOut, BankOverview, HealthOut, PreviewOut
from bildung.services import bank, bankhealth
from bildung.services.access import Action, Actor

router = APIRouter(prefix="/api/bank", tags=["bank"])
Reader = Annotated[Actor, Depends(Staff(Action.BANK_READ))]
Writer = Annotated[Actor, Depends(Staff(Action.BANK_WRITE))]


@router.get("/items", operation_id="listItems")
def list_items(
    ctx: Ctx, actor: Reader, find: str = "", standard: str = "", subject: str = "", grade: str = "",
    limit: Annotated[int, Query(ge=1, le=1000)] = 200, order: str = "code",
) -> BankOut:  # fmt: skip
    items, total, found = bankhealth.with_history(ctx, actor, find, standard, subject, grade, limit, order)
    return BankOut.model_validate(
        {"items": [{**vars(i), "uses": found.get(i.item_id, [])} for i in items], "total": total}
    )


@router.get("/health", operation_id="bankHealth")
def health(ctx: Ctx, actor: Reader) -> HealthOut:
    return HealthOut.model_validate(bankhealth.health(ctx, actor))


@router.get("/overview", operation_id="bankOverview")
def overview(ctx: Ctx, actor: Reader) -> BankOverview:
    return BankOverview.model_validate(bank.overview(ctx, actor))


@router.post("/imports", operation_id="previewItems")
def preview(ctx: Ctx, actor: Writer, files: list[UploadFile]) -> PreviewOut:
    contents = {file.filename or f"file {at}": file.file.read() for at, file in enumerate(files, 1)}
    return PreviewOut.model_validate(bank.preview_items(ctx, actor, contents))


@router.post("/imports/{import_id}/apply", operation_id="applyItems")
def apply(ctx: Ctx, actor: Writer, import_id: str) -> PreviewOut:
    return PreviewOut.model_validate(bank.apply_items(ctx, actor, import_id))
