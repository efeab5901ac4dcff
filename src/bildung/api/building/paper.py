"""A form on paper and as files."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Path, Response, UploadFile

from bildung.api.building import shapes
from bildung.api.shared.files import XLSX
from bildung.api.shared.guard import Ctx, StaffGuard, number
from bildung.api.shared.late import LateRoute
from bildung.services.building import packages, paper
from bildung.services.building.packages import Brought
from bildung.services.shared.access import Action, Actor

PageNumber = Annotated[int, Path(ge=1, le=10_000)]
router = APIRouter(prefix="/api/building", tags=["tests"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.TESTS_READ))]
Keeper = Annotated[Actor, Depends(StaffGuard(Action.BANK_KEEP))]
Runner = Annotated[Actor, Depends(StaffGuard(Action.SESSIONS_RUN))]
_PDF: dict[int | str, dict[str, Any]] = {200: {"content": {"application/pdf": {}}}}
_ZIP: dict[int | str, dict[str, Any]] = {200: {"content": {"application/zip": {}}}}


@router.get("/forms/{form_id}/paper/{what}", operation_id="formPaper", response_class=Response, responses=_PDF)
def form_paper(
    ctx: Ctx, actor: Reader, form_id: str, what: str, size: str = "A4", large: bool = False, sheet: bool = True
) -> Response:
    data = paper.document(ctx, actor, number(form_id), what, size, large, sheet)
    return _pdf(data, f"{what}-{form_id}.pdf")


@router.get("/forms/{form_id}/paper/{what}/pages", operation_id="paperPages")
def pages(
    ctx: Ctx, actor: Reader, form_id: str, what: str, size: str = "A4", large: bool = False, sheet: bool = True
) -> shapes.PagesOut:
    return shapes.PagesOut(pages=paper.pages(ctx, actor, number(form_id), what, size, large, sheet))


@router.get("/forms/{form_id}/paper/{what}/pages/{page}", operation_id="paperPage", response_class=Response)
def page(
    ctx: Ctx,
    actor: Reader,
    form_id: str,
    what: str,
    page: PageNumber,
    size: str = "A4",
    large: bool = False,
    sheet: bool = True,
) -> Response:
    data = paper.page_picture(ctx, actor, number(form_id), what, size, large, sheet, page)
    return Response(data, media_type="image/png")


@router.get("/sessions/{session_id}/sheets.pdf", operation_id="sessionSheets", response_class=Response, responses=_PDF)
def session_sheets(ctx: Ctx, actor: Runner, session_id: str, size: str = "A4") -> Response:
    return _pdf(paper.session_sheets(ctx, actor, number(session_id), size), f"sheets-{session_id}.pdf")


@router.get("/forms/{form_id}/package.zip", operation_id="formPackage", response_class=Response, responses=_ZIP)
def package(ctx: Ctx, actor: Reader, form_id: str) -> Response:
    name, data = packages.package(ctx, actor, number(form_id))
    return _file(data, name, "application/zip")


@router.get("/forms/{form_id}/map.xlsx", operation_id="formMap", response_class=Response)
def form_map(ctx: Ctx, actor: Reader, form_id: str) -> Response:
    name, data = packages.map_of(ctx, actor, number(form_id))
    return _file(data, name, XLSX)


@router.post("/packages", operation_id="bringTest", status_code=201)
def bring(ctx: Ctx, actor: Keeper, file: UploadFile) -> Brought:
    return packages.bring(ctx, actor, file.filename or "package", file.file.read())


def _pdf(data: bytes, name: str) -> Response:
    return Response(data, media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}"'})


def _file(data: bytes, name: str, kind: str) -> Response:
    return Response(data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
