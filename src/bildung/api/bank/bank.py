"""The bank: finding items, writing them, bringing them in and taking them out."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, UploadFile
from fastapi.responses import FileResponse, Response

from bildung.api.bank import shapes
from bildung.api.shared.guard import Ctx, Number, SignedIn, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.uploads import contents
from bildung.services.bank import (
    drafts,
    exporting,
    fields,
    health,
    itemimport,
    itempage,
    overview,
    search,
    stimuli,
    tagging,
    variants,
    writing,
)
from bildung.services.bank.drafts import DraftView, TriedAnswers
from bildung.services.bank.exporting import ExportLook
from bildung.services.bank.fields import Fields
from bildung.services.bank.health import Health
from bildung.services.bank.itempage import ItemPage
from bildung.services.bank.overview import BankOverview
from bildung.services.bank.stimuli import StimulusDetail
from bildung.services.bank.tagging import TagPreview, TagsDone
from bildung.services.bank.variants import DrawsView
from bildung.services.bank.writing import Writing
from bildung.services.items import media
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.staging import Preview

router = APIRouter(prefix="/api/bank", tags=["bank"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.BANK_READ))]
Writer = Annotated[Actor, Depends(StaffGuard(Action.BANK_WRITE))]
Keeper = Annotated[Actor, Depends(StaffGuard(Action.BANK_KEEP))]


@router.get("/items", operation_id="findItems")
def find_items(
    ctx: Ctx,
    actor: Reader,
    find: str = "",
    order: str = "code",
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
    offset: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0,
) -> shapes.BankOut:
    items, total, line = search.find_items(ctx, actor, find, order, limit, offset)
    return shapes.BankOut.model_validate({"items": items, "total": total, "line": line})


@router.get("/fields", operation_id="bankFields")
def list_fields(ctx: Ctx, actor: Reader) -> Fields:
    return fields.fields(ctx, actor)


@router.get("/health", operation_id="bankHealth")
def bank_health(ctx: Ctx, actor: Reader) -> Health:
    return health.health(ctx, actor)


@router.get("/overview", operation_id="bankOverview")
def bank_overview(ctx: Ctx, actor: Reader) -> BankOverview:
    return overview.overview(ctx, actor)


@router.post("/imports", operation_id="previewItems")
def preview(ctx: Ctx, actor: Keeper, files: list[UploadFile]) -> Preview:
    return itemimport.preview_items(ctx, actor, contents(files))


@router.post("/imports/{import_id}/apply", operation_id="applyItems")
def apply(ctx: Ctx, actor: Keeper, import_id: str) -> Preview:
    return itemimport.apply_items(ctx, actor, import_id)


@router.get("/exports", operation_id="lookAtExport")
def look_at_export(ctx: Ctx, actor: Reader, way: str, find: str = "") -> ExportLook:
    return exporting.look(ctx, actor, find, way)


@router.get("/exports/file", operation_id="exportItems")
def export(ctx: Ctx, actor: Reader, way: str, find: str = "") -> Response:
    name, kind, data = exporting.export(ctx, actor, find, way)
    return Response(data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.post("/items", operation_id="createItem", status_code=201)
def create(ctx: Ctx, actor: Writer, body: shapes.NewItem) -> shapes.MadeItem:
    id = drafts.create_item(ctx, actor, body.code, body.subject, body.grade, number_or_none(body.stimulus_id))
    return shapes.MadeItem(item_id=str(id))


@router.get("/writing", operation_id="writing")
def writing_now(ctx: Ctx, actor: Writer) -> Writing:
    """This person's drafts, and what waits for their review."""
    return writing.writing(ctx, actor)


@router.get("/items/{item_id}", operation_id="itemPage")
def item(ctx: Ctx, actor: Reader, item_id: str) -> ItemPage:
    return itempage.item_page(ctx, actor, number(item_id))


@router.get("/items/{item_id}/compare", operation_id="compareItems")
def compare(ctx: Ctx, actor: Reader, item_id: str, before: Number, after: Number, other: str = "") -> shapes.CompareOut:
    old, new, found = itempage.compare(ctx, actor, number(item_id), before, number_or_none(other), after)
    return shapes.CompareOut.model_validate({"before": old, "after": new, "differences": found})


@router.post("/items/{item_id}/draft", operation_id="openDraft")
def open_draft(ctx: Ctx, actor: Writer, item_id: str) -> DraftView:
    return drafts.open_draft(ctx, actor, number(item_id))


@router.put("/items/{item_id}/draft", operation_id="saveDraft")
def save_draft(ctx: Ctx, actor: Writer, item_id: str, body: shapes.DraftIn) -> DraftView:
    template = body.template.model_dump() if body.template else None
    saved = drafts.save_draft(
        ctx,
        actor,
        number(item_id),
        body.revision,
        body.content.model_dump(),
        body.standards,
        number_or_none(body.stimulus_id),
        template,
    )
    return saved


@router.post("/items/{item_id}/draft/discard", operation_id="discardDraft", status_code=204)
def discard(ctx: Ctx, actor: Writer, item_id: str, body: shapes.Revision) -> None:
    drafts.discard_draft(ctx, actor, number(item_id), body.revision)


@router.post("/items/{item_id}/draft/review", operation_id="reviewDraft")
def review(ctx: Ctx, actor: Writer, item_id: str, body: shapes.Revision) -> DraftView:
    return drafts.hand_in(ctx, actor, number(item_id), body.revision, body.back)


@router.post("/items/{item_id}/draft/finish", operation_id="finishDraft", status_code=204)
def finish(ctx: Ctx, actor: Writer, item_id: str, body: shapes.Revision) -> None:
    drafts.finish(ctx, actor, number(item_id), body.revision)


@router.post("/items/{item_id}/state", operation_id="moveItem", status_code=204)
def move(ctx: Ctx, actor: Writer, item_id: str, body: shapes.MoveItemIn) -> None:
    drafts.move(ctx, actor, number(item_id), body.to, body.why)


@router.post("/items/{item_id}/comments", operation_id="commentItem", status_code=204)
def comment(ctx: Ctx, actor: Reader, item_id: str, body: shapes.NewText) -> None:
    drafts.comment(ctx, actor, number(item_id), body.text)


@router.post("/comments/{comment_id}/settle", operation_id="settleComment", status_code=204)
def settle(ctx: Ctx, actor: Reader, comment_id: str) -> None:
    drafts.settle_comment(ctx, actor, number(comment_id))


@router.post("/items/{item_id}/copy", operation_id="copyItem", status_code=201)
def copy(ctx: Ctx, actor: Writer, item_id: str) -> shapes.MadeItem:
    return shapes.MadeItem(item_id=str(drafts.copy_item(ctx, actor, number(item_id))))


@router.post("/items/{item_id}/offer", operation_id="offerItem", status_code=204)
def offer(ctx: Ctx, actor: Writer, item_id: str, body: shapes.NewText) -> None:
    drafts.offer_back(ctx, actor, number(item_id), body.text)


@router.post("/items/{item_id}/draws", operation_id="makeDraws", status_code=201)
def make_draws(ctx: Ctx, actor: Writer, item_id: str, body: shapes.MakeDraws) -> shapes.CodesOut:
    return shapes.CodesOut(codes=variants.make_items(ctx, actor, number(item_id), body.count, body.seed))


@router.post("/try", operation_id="tryAnswer")
def try_answer(ctx: Ctx, actor: Reader, body: shapes.TryIn) -> TriedAnswers:
    return drafts.try_answer(actor, body.content.model_dump(), body.answers)


@router.post("/draws", operation_id="lookAtDraws")
def look_at_draws(ctx: Ctx, actor: Reader, body: shapes.DrawsIn) -> DrawsView:
    found = variants.preview_draws(actor, body.content.model_dump(), body.template.model_dump(), body.seed)
    return found


@router.get("/stimuli", operation_id="listStimuli")
def list_stimuli(ctx: Ctx, actor: Reader, find: str = "", kind: str = "") -> shapes.StimuliOut:
    found = stimuli.list_stimuli(ctx, actor, find, kind)
    return shapes.StimuliOut.model_validate({"finding": stimuli.finding(found), "stimuli": found})


@router.get("/stimuli/{stimulus_id}", operation_id="getStimulus")
def get_stimulus(ctx: Ctx, actor: Reader, stimulus_id: str) -> StimulusDetail:
    return stimuli.get_stimulus(ctx, actor, number(stimulus_id))


@router.post("/stimuli", operation_id="createStimulus", status_code=201)
def create_stimulus(ctx: Ctx, actor: Writer, body: shapes.StimulusIn) -> shapes.MadeItem:
    id = stimuli.save_stimulus(ctx, actor, None, 0, body.model_dump(), body.code, body.subject, body.grade)
    return shapes.MadeItem(item_id=str(id))


@router.put("/stimuli/{stimulus_id}", operation_id="saveStimulus")
def save_stimulus(ctx: Ctx, actor: Writer, stimulus_id: str, body: shapes.StimulusIn) -> shapes.MadeItem:
    id = stimuli.save_stimulus(ctx, actor, number(stimulus_id), body.number, body.model_dump())
    return shapes.MadeItem(item_id=str(id))


@router.post("/tags/look", operation_id="lookAtTags")
def look_at_tags(ctx: Ctx, actor: Writer, body: shapes.TaggingIn) -> TagPreview:
    change = body.change.model_dump(exclude_none=True)
    found = tagging.preview(ctx, actor, body.find, [number(id) for id in body.items], change)
    return found


@router.post("/tags", operation_id="tagItems")
def tag_items(ctx: Ctx, actor: Writer, body: shapes.TaggingIn) -> TagPreview:
    change = body.change.model_dump(exclude_none=True)
    found = tagging.apply(ctx, actor, body.find, [number(id) for id in body.items], change, body.stamp)
    return found


@router.get("/tags", operation_id="tagHistory")
def tag_history(ctx: Ctx, actor: Writer) -> list[TagsDone]:
    return tagging.history(ctx, actor)


@router.post("/tags/{change_id}/undo", operation_id="undoTags")
def undo_tags(ctx: Ctx, actor: Writer, change_id: str) -> shapes.UndoneOut:
    return shapes.UndoneOut(items=tagging.undo(ctx, actor, number(change_id)))


@router.post("/media", operation_id="uploadMedia", status_code=201)
def upload(ctx: Ctx, actor: Writer, file: UploadFile) -> shapes.MediaOut:
    return shapes.MediaOut.model_validate(media.upload(ctx, actor, file.filename or "file", file.file.read()))


media_router = APIRouter(prefix="/api/media", tags=["bank"], route_class=LateRoute)


@media_router.get("/{key}", operation_id="getMedia")
def get_media(ctx: Ctx, key: str, who: Annotated[None, Depends(SignedIn())]) -> FileResponse:
    path, kind = media.read(ctx, key)
    # the key is that of the bytes: what it names never changes
    return FileResponse(path, media_type=kind, headers={"Cache-Control": "private, max-age=31536000, immutable"})
