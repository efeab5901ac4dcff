"""Reports of item quality: chosen by the question they answer, sampled, made in the background, kept."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Response

from bildung.api.quality import shapes
from bildung.api.quality.quality import ViewAsked
from bildung.api.shared.files import KINDS, as_file
from bildung.api.shared.guard import Ctx, StaffGuard, number
from bildung.api.shared.late import LateRoute
from bildung.services.quality import reports
from bildung.services.quality.printing.asked import ReportRequest
from bildung.services.quality.printing.write import QUESTIONS
from bildung.services.quality.reports import ReportLine
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/quality", tags=["reports"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.QUALITY_READ))]
NameReader = Annotated[Actor, Depends(StaffGuard(Action.ANSWERS_READ))]


@router.get("/questions", operation_id="reportQuestions")
def questions(actor: Reader) -> list[shapes.ReportQuestionOut]:
    may = actor.may(Action.ANSWERS_READ)
    return [shapes.ReportQuestionOut.model_validate(q) for q in QUESTIONS.values() if may or not q.named]


@router.get("/sample", operation_id="reportSample", response_class=Response)
def sample(
    ctx: Ctx, actor: Reader, view: ViewAsked, question: str, of: str = "", veiled: bool = False, size: str = "A4"
) -> Response:
    asked = ReportRequest(
        question=question, wanted=view.wanted, settings=view.settings, klass=number(of) if of else None, veiled=veiled
    )
    return Response(reports.sample(ctx, actor, asked, size), media_type="image/png")


@router.get("/reports", operation_id="listReports")
def list_reports(ctx: Ctx, actor: Reader) -> list[ReportLine]:
    return reports.list_reports(ctx, actor)


@router.post("/reports", operation_id="makeReport", status_code=201)
def make(ctx: Ctx, actor: Reader, view: ViewAsked, body: shapes.MakeReportIn) -> shapes.ReportMadeOut:
    asked = ReportRequest(
        question=body.question,
        wanted=view.wanted,
        settings=view.settings,
        klass=number(body.of) if body.of else None,
        veiled=body.veiled,
    )
    return shapes.ReportMadeOut(id=str(reports.make(ctx, actor, asked, body.format, body.size)))


@router.get("/reports/{report_id}/file", operation_id="reportFile", response_class=Response)
def file(ctx: Ctx, actor: Reader, report_id: str) -> Response:
    name, kind, data = reports.file_of(ctx, actor, number(report_id))
    way = "inline" if kind == "pdf" else "attachment"
    return Response(data, media_type=KINDS[kind], headers={"Content-Disposition": f'{way}; filename="{name}"'})


@router.delete("/reports/{report_id}", operation_id="dropReport", status_code=204)
def drop(ctx: Ctx, actor: Reader, report_id: str) -> None:
    reports.drop_report(ctx, actor, number(report_id))


@router.get("/answers-file/{kind}", operation_id="answersFile", response_class=Response)
def answers(
    ctx: Ctx, actor: NameReader, view: ViewAsked, kind: Literal["csv", "xlsx"], veiled: bool = False
) -> Response:
    data = reports.grid_file(
        ctx,
        actor,
        ReportRequest(question="answers", wanted=view.wanted, settings=view.settings, klass=None, veiled=veiled),
        kind,
    )
    return as_file(data, f"answers{'-names-hidden' if veiled else ''}", kind)
