"""Frameworks: their trees, import and export, and the text of any code."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Form, Request, Response, UploadFile

from bildung.api.bank.shapes import CodeText, StandardChange
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ApplyIn
from bildung.api.shared.uploads import contents
from bildung.services.bank import frameworks
from bildung.services.bank.frameworks import FrameworkPage
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.staging import Preview

router = APIRouter(prefix="/api", tags=["frameworks"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.BANK_READ))]
Writer = Annotated[Actor, Depends(StaffGuard(Action.FRAMEWORKS_WRITE))]


@router.get("/frameworks", operation_id="getFramework")
def get(ctx: Ctx, actor: Reader, framework: str | None = None) -> FrameworkPage | None:
    """The main one unless another is asked for."""
    found = frameworks.framework_page(ctx, actor, number_or_none(framework))
    return None if found is None else found


@router.get("/standards/texts", operation_id="standardTexts")
def texts(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(None))]) -> dict[str, CodeText]:
    return {code: CodeText(text=text, plain=plain) for code, (text, plain) in frameworks.texts(ctx).items()}


@router.post("/frameworks/imports", operation_id="previewFramework")
def preview(ctx: Ctx, actor: Writer, files: list[UploadFile], title: Annotated[str, Form()] = "") -> Preview:
    """title: of the framework, for a sheet, which has no place for it."""
    return frameworks.preview(ctx, actor, contents(files), title)


@router.post("/frameworks/imports/{import_id}/apply", operation_id="applyFramework")
def apply(ctx: Ctx, actor: Writer, import_id: str, body: ApplyIn = ApplyIn()) -> Preview:
    return frameworks.apply(ctx, actor, import_id, body.yes)


@router.get(
    "/frameworks/{framework_id}/export",
    operation_id="exportFramework",
    response_class=Response,
    responses={200: {"content": {"application/json": {}, "text/csv": {}}}},
)
def export(request: Request, ctx: Ctx, actor: Reader, framework_id: str, kind: str = "case1.1") -> Response:
    data, media, name = frameworks.export(ctx, actor, number(framework_id), kind, str(request.base_url))
    return Response(data, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.put("/frameworks/{framework_id}/main", operation_id="makeMain", status_code=204)
def make_main(ctx: Ctx, actor: Writer, framework_id: str) -> None:
    frameworks.make_main(ctx, actor, number(framework_id))


@router.put("/standards/{standard_id}", operation_id="changeStandard", status_code=204)
def change(ctx: Ctx, actor: Writer, standard_id: str, body: StandardChange) -> None:
    frameworks.change_standard(ctx, actor, number(standard_id), body.plain, body.priority)
