"""Growth: measures, their scores and norms, two windows side by side."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Response, UploadFile

from bildung.api.growth.shapes import MeasureIn, MeasureMade, NormsIn
from bildung.api.shared.files import as_file
from bildung.api.shared.guard import Ctx, StaffGuard, number
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ApplyIn
from bildung.api.shared.uploads import contents
from bildung.services.growth import measures, pair, scores
from bildung.services.growth.measures import MeasuresPage, MeasureWish, NormWish
from bildung.services.growth.pair import PairPage
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.staging import Preview

router = APIRouter(prefix="/api/growth", tags=["growth"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.GROWTH_READ))]
Keeper = Annotated[Actor, Depends(StaffGuard(Action.MEASURES_KEEP))]


@router.get("", operation_id="measures")
def get_measures(ctx: Ctx, actor: Reader) -> MeasuresPage:
    return measures.measures_page(ctx, actor)


@router.post("/measures", operation_id="createMeasure", status_code=201)
def create(ctx: Ctx, actor: Keeper, body: MeasureIn) -> MeasureMade:
    return MeasureMade(id=str(measures.create_measure(ctx, actor, MeasureWish(**body.model_dump()))))


@router.post("/measures/{measure}/norms", operation_id="addNorms", status_code=204)
def add_norms(ctx: Ctx, actor: Keeper, measure: str, body: NormsIn) -> None:
    """From now on figures rest on them."""
    wish = NormWish(
        name=body.name,
        version=body.version,
        source=body.source,
        population=body.population,
        norms=body.norms.encode(),
        correlations=body.correlations.encode(),
    )
    measures.add_norms(ctx, actor, number(measure), wish)


@router.post("/measures/{measure}/imports", operation_id="previewScores")
def preview_scores(ctx: Ctx, actor: Keeper, measure: str, files: list[UploadFile]) -> Preview:
    return scores.preview(ctx, actor, number(measure), contents(files))


@router.post("/measures/{measure}/imports/{import_id}/apply", operation_id="applyScores")
def apply_scores(ctx: Ctx, actor: Keeper, measure: str, import_id: str, body: ApplyIn = ApplyIn()) -> Preview:
    return scores.apply(ctx, actor, number(measure), import_id, body.yes)


@router.get("/measures/{measure}/scores.{kind}", operation_id="measureScores", response_class=Response)
def get_scores(ctx: Ctx, actor: Keeper, measure: str, kind: Literal["csv", "xlsx"]) -> Response:
    """All scores, as `./bildung growth` reads them."""
    return as_file(scores.scores_file(ctx, actor, number(measure), kind), "scores", kind)


@router.get("/measures/{measure}/pair", operation_id="growthPair")
def get_pair(
    ctx: Ctx, actor: Reader, measure: str, start: str, end: str, school: str = "", grade: str = ""
) -> PairPage:
    """Growth from one window to another."""
    return pair.pair_page(ctx, actor, number(measure), number(start), number(end), school, grade)
