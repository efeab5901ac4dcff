"""Measures: their scores, norms and cut scores."""

from __future__ import annotations

import json
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Form, Query, Response, UploadFile

from bildung.api.growth.shapes import (
    CutsIn,
    DirectionIn,
    FetchedText,
    FetchIn,
    MeasureIn,
    MeasureMade,
    NameIn,
    NormsIn,
    TypedScoreIn,
)
from bildung.api.shared.files import as_file
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ApplyIn
from bildung.api.shared.uploads import contents
from bildung.services.growth import cuts, fetching, measures, names, scores
from bildung.services.growth.cuts import CutLine, CutsPage, CutsWish
from bildung.services.growth.fetching import TestService
from bildung.services.growth.measures import MeasuresPage, MeasureWish, NormWish
from bildung.services.growth.names import Doubt
from bildung.services.growth.scores import ScoreColumns, TypedLevel, TypedScore
from bildung.services.shared import jobs
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.errors import Invalid
from bildung.services.shared.staging import Preview

router = APIRouter(prefix="/api/growth", tags=["growth"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.GROWTH_READ))]
Keeper = Annotated[Actor, Depends(StaffGuard(Action.MEASURES_KEEP))]
JobName = Annotated[str, Query(max_length=40)]


@router.get("", operation_id="measures")
def get_measures(ctx: Ctx, actor: Reader) -> MeasuresPage:
    return measures.measures_page(ctx, actor)


@router.post("/measures", operation_id="createMeasure", status_code=201)
def create(ctx: Ctx, actor: Keeper, body: MeasureIn) -> MeasureMade:
    wish = MeasureWish(**{**body.model_dump(), "part_of": number_or_none(body.part_of)})
    return MeasureMade(id=str(measures.create_measure(ctx, actor, wish)))


@router.put("/measures/{measure}/direction", operation_id="changeDirection", status_code=204)
def change(ctx: Ctx, actor: Keeper, measure: str, body: DirectionIn) -> None:
    """Whether less is better."""
    measures.change_measure(ctx, actor, number(measure), body.falling)


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


@router.get("/measures/{measure}/cuts", operation_id="cutScores")
def get_cuts(ctx: Ctx, actor: Reader, measure: str) -> CutsPage:
    return cuts.cuts_page(ctx, actor, number(measure))


@router.put("/measures/{measure}/cuts", operation_id="putCutScores", status_code=204)
def put_cuts(ctx: Ctx, actor: Keeper, measure: str, body: CutsIn) -> None:
    """A new version; the one before stays to be seen."""
    wish = CutsWish(
        names=body.names,
        rows=[CutLine(row.grade, row.season, row.cuts) for row in body.rows],
        goal=body.goal,
        source=body.source,
        based=body.based,
    )
    cuts.put_cuts(ctx, actor, number(measure), wish)


@router.post("/measures/{measure}/columns", operation_id="scoreColumns")
def score_columns(ctx: Ctx, actor: Keeper, measure: str, files: list[UploadFile]) -> ScoreColumns:
    """What is on a sheet, for matching its columns."""
    (name, data), *_ = contents(files).items()
    return scores.columns(ctx, actor, name, data)


@router.post("/measures/{measure}/imports", operation_id="previewScores")
def preview_scores(
    ctx: Ctx,
    actor: Keeper,
    measure: str,
    files: list[UploadFile],
    matching: Annotated[str, Form()] = "",
    job: JobName = "",
) -> Preview:
    """matching: JSON of column to field, for one sheet; empty where columns are named as they should be. job: a name under which progress
    can be looked at."""
    matched = None
    if matching:
        try:
            matched = {str(k): str(v) for k, v in json.loads(matching)["matched"].items()}
        except (ValueError, KeyError, TypeError, AttributeError):
            raise Invalid("the matching of columns cannot be read", "matching") from None
    with jobs.working(ctx, actor, job) as work:
        return scores.preview(ctx, actor, number(measure), contents(files), matched, work)


@router.post("/measures/{measure}/imports/{import_id}/apply", operation_id="applyScores")
def apply_scores(
    ctx: Ctx, actor: Keeper, measure: str, import_id: str, body: ApplyIn = ApplyIn(), job: JobName = ""
) -> Preview:
    with jobs.working(ctx, actor, job) as work:
        return scores.apply(ctx, actor, number(measure), import_id, body.yes, work)


@router.get("/measures/{measure}/imports/{import_id}/doubts", operation_id="scoreDoubts")
def get_doubts(ctx: Ctx, actor: Keeper, measure: str, import_id: str) -> list[Doubt]:
    """Names that are not certain."""
    return scores.doubts_of(ctx, actor, number(measure), import_id)


@router.put("/names", operation_id="settleName", status_code=204)
def settle_name(ctx: Ctx, actor: Keeper, body: NameIn) -> None:
    """Whom a name and birth date means, from now on."""
    names.settle_name(ctx, actor, body.written, number_or_none(body.person))


@router.post("/measures/{measure}/scores", operation_id="typeScore", status_code=204)
def type_score(ctx: Ctx, actor: Keeper, measure: str, body: TypedScoreIn) -> None:
    typed = TypedScore(person=number(body.person), window=body.window, said=body.score, se=body.se)
    scores.type_score(ctx, actor, number(measure), typed)


@router.post("/measures/{measure}/scores/level", operation_id="levelWhileTyping")
def level_while_typing(ctx: Ctx, actor: Keeper, measure: str, body: TypedScoreIn) -> TypedLevel:
    """What cut scores say of a score before it is saved."""
    typed = TypedScore(person=number(body.person), window=body.window, said=body.score)
    return scores.level_while_typing(ctx, actor, number(measure), typed)


@router.get("/measures/{measure}/scores.{kind}", operation_id="measureScores", response_class=Response)
def get_scores(ctx: Ctx, actor: Keeper, measure: str, kind: Literal["csv", "xlsx"]) -> Response:
    """All scores, as `./bildung growth` reads them."""
    return as_file(scores.scores_file(ctx, actor, number(measure), kind), "scores", kind)


@router.get("/service", operation_id="testService")
def get_service(ctx: Ctx, actor: Keeper) -> TestService:
    """Files that the outside test service has."""
    return fetching.service_files(ctx, actor)


@router.post("/measures/{measure}/fetch", operation_id="fetchScores")
def fetch_scores(ctx: Ctx, actor: Keeper, measure: str, body: FetchIn, job: JobName = "") -> Preview:
    """A file of scores of the test service, looked at first."""
    with jobs.working(ctx, actor, job) as work:
        return fetching.fetch_scores(ctx, actor, number(measure), body.path, work)


@router.post("/service/text", operation_id="fetchText")
def fetch_text(ctx: Ctx, actor: Keeper, body: FetchIn) -> FetchedText:
    """A file of norms of the test service, to be looked at and saved."""
    return FetchedText(text=fetching.fetch_file(ctx, actor, body.path).decode("utf-8-sig", "replace"))
