"""Item quality: a scope judged, and every question that is put to it."""

from __future__ import annotations

import base64
from dataclasses import dataclass, fields
from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query, Response
from pydantic import BaseModel

from bildung.api.quality import shapes
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import BehindOut, JobOut
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.explain.figures import FIGURES
from bildung.core.explain.workings import left_out_of_item
from bildung.services.items import texts
from bildung.services.items.verdicts import VerdictLine
from bildung.services.quality import (
    comparison,
    effort,
    functioning,
    grid,
    item,
    judged,
    lines,
    mistakes,
    overview,
    reteach,
    scope,
    studenttest,
    trust,
    undecided,
    verdicts,
    views,
    whose,
)
from bildung.services.quality.comparison import GroupComparison
from bildung.services.quality.effort import TimeAndEffort
from bildung.services.quality.functioning import FunctioningReport
from bildung.services.quality.grid import Opened
from bildung.services.quality.item import Given
from bildung.services.quality.mistakes import Mistakes
from bildung.services.quality.printing.tests import print_tests
from bildung.services.quality.reteach import ReteachList
from bildung.services.quality.scope import ScopeChoices
from bildung.services.quality.studenttest import CommentView, StudentTest
from bildung.services.quality.trust import TrustReport
from bildung.services.quality.views import View
from bildung.services.shared import jobs
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound

router = APIRouter(prefix="/api/quality", tags=["quality"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.QUALITY_READ))]
PDF: dict[int | str, dict[str, Any]] = {200: {"content": {"application/pdf": {}}}}
NameReader = Annotated[Actor, Depends(StaffGuard(Action.ANSWERS_READ))]
Ids = Annotated[list[str], Query(max_length=400)]


@dataclass(frozen=True)
class Asked:
    """What is looked at and by which limits; job: the name under which progress is asked for."""

    wanted: scope.ScopeRequest
    settings: Settings
    job: str


def asked(
    form: Ids = [],
    window: Ids = [],
    session: Ids = [],
    school: Ids = [],
    grade: Ids = [],
    klass: Annotated[list[str], Query(alias="class", max_length=400)] = [],
    group: Ids = [],
    student: Ids = [],
    since: date | None = None,
    until: date | None = None,
    regular: bool = False,
    line: Annotated[float | None, Query(ge=0, le=1)] = None,
    limit: Annotated[list[str], Query(max_length=30, description="name:value, such as very_hard:0.2")] = [],
    job: Annotated[str, Query(max_length=40)] = "",
) -> Asked:
    """line: the watch line, a share of the points. regular: without students with an irregularity."""
    said: dict[str, float] = {}
    for text in limit:
        name, _, value = text.partition(":")
        try:
            said[name] = float(value)
        except ValueError:
            raise Invalid(f"{text!r} is no limit; write name:value, such as very_hard:0.2", "limit") from None
    numbers = (
        tuple(dict.fromkeys(number(id) for id in some))
        for some in (form, window, session, school, klass, group, student)
    )
    forms, windows, sessions, schools, classes, groups, students = numbers
    wanted = scope.ScopeRequest(
        forms=forms,
        windows=windows,
        sessions=sessions,
        schools=schools,
        grades=tuple(dict.fromkeys(grade)),
        classes=classes,
        groups=groups,
        students=students,
        since=since,
        until=until,
        regular=regular,
    )
    return Asked(wanted, judged.limits(said, line), job)


ViewAsked = Annotated[Asked, Depends(asked)]


@router.get("", operation_id="listSat")
def list_sat(
    ctx: Ctx, actor: Reader, window: str | None = None, job: Annotated[str, Query(max_length=40)] = ""
) -> shapes.SatListOut:
    with jobs.working(ctx, actor, job) as told:
        found = lines.list_sat(ctx, actor, number_or_none(window), told)
    waiting = len(undecided.list_undecided(ctx, actor))
    return shapes.SatListOut.model_validate({"finding": lines.sat_finding(found), "undecided": waiting, "tests": found})


@router.get("/jobs/{job}", operation_id="qualityJob")
def progress(ctx: Ctx, actor: Reader, job: str) -> JobOut:
    return JobOut.model_validate(jobs.look_or_wait(ctx, actor, job))


@router.delete("/jobs/{job}", operation_id="stopQualityJob", status_code=204)
def stop(ctx: Ctx, actor: Reader, job: str) -> None:
    jobs.look(ctx, actor, job).stop()


@router.get("/whose", operation_id="whose")
def students_behind_a_number(
    ctx: Ctx,
    actor: Reader,
    view: ViewAsked,
    of: Annotated[str, Query(max_length=40)],
    item: Annotated[str, Query(max_length=200)] = "",
    answer: Annotated[str, Query(max_length=4000)] = "",
) -> BehindOut:
    """Who is counted in a number of the workbench, for whom this person may see."""
    return BehindOut.model_validate(whose.whose(ctx, actor, view.wanted, of, item, answer))


@router.get("/scope", operation_id="qualityScope")
def what_is_looked_at(ctx: Ctx, actor: Reader, view: ViewAsked) -> ScopeChoices:
    return scope.choices(ctx, actor, view.wanted)


def at_once(answer: BaseModel) -> Response:
    """Written as it is: the framework would go through a large answer a second time."""
    return Response(answer.model_dump_json(), media_type="application/json")


@router.get("/overview", operation_id="quality", response_model=shapes.QualityOut)
def judge(ctx: Ctx, actor: Reader, view: ViewAsked) -> Response:
    with jobs.working(ctx, actor, view.job) as job:
        found = judged.judge(ctx, actor, view.wanted, view.settings, job)
    return at_once(_overview(ctx, found, actor))


@router.get("/subscores", operation_id="subScores")
def sub_scores(ctx: Ctx, actor: Reader, view: ViewAsked, by: str = "standard") -> shapes.SubScoresOut:
    finding, found = overview.by_groups(ctx, actor, view.wanted, view.settings, by)
    return shapes.SubScoresOut(finding=finding, by=by, groups=list(found))


@router.get("/workings", operation_id="workings")
def workings(ctx: Ctx, actor: Reader, view: ViewAsked, figure: str, item: str | None = None) -> shapes.WorkingsOut:
    return shapes.WorkingsOut.model_validate(overview.workings(ctx, actor, view.wanted, figure, item, view.settings))


@router.get("/figures/{name}", operation_id="figureText")
def figure_text(actor: Reader, name: str) -> shapes.FigureOut:
    """What a figure means, where a page has its numbers already."""
    if name not in FIGURES:
        raise NotFound(f"there is no figure {name!r}")
    return shapes.FigureOut.model_validate(FIGURES[name])


@router.get("/item", operation_id="judgedItem")
def one_item(
    ctx: Ctx, actor: Reader, view: ViewAsked, item_code: Annotated[str, Query(alias="item")]
) -> shapes.ItemViewOut:
    return shapes.ItemViewOut.model_validate(item.item_view(ctx, actor, view.wanted, item_code, view.settings))


@router.get("/answers", operation_id="givenAnswers")
def given(ctx: Ctx, actor: NameReader, view: ViewAsked, item_code: Annotated[str, Query(alias="item")]) -> list[Given]:
    return item.given_answers(ctx, actor, view.wanted, item_code)


@router.get("/attempts/{sitting}", operation_id="studentTest")
def student_test(ctx: Ctx, actor: NameReader, sitting: str) -> StudentTest:
    """The whole test of one student, item by item."""
    return studenttest.student_test(ctx, actor, number(sitting))


@router.get("/attempts/{sitting}/print.pdf", operation_id="printStudentTest", response_class=Response, responses=PDF)
def print_student_test(
    ctx: Ctx, actor: NameReader, sitting: str, whole: bool = False, right: bool = True, veiled: bool = False
) -> Response:
    """One student's test on paper; whole: everybody's of the session."""
    data = print_tests(ctx, actor, number(sitting), whole, right, veiled)
    return Response(data, media_type="application/pdf", headers={"content-disposition": 'inline; filename="test.pdf"'})


@router.put("/attempts/{sitting}/items/{place}/comment", operation_id="sayToStudent")
def say_to_student(ctx: Ctx, actor: NameReader, sitting: str, place: str, body: shapes.CommentIn) -> list[CommentView]:
    """Say something to the student about one response; empty takes it back."""
    return studenttest.say(ctx, actor, number(sitting), number(place), body.text)


@router.get("/try", operation_id="tryOut")
def try_out(
    ctx: Ctx, actor: Reader, view: ViewAsked, item_code: Annotated[str, Query(alias="item")], way: str, answer: str = ""
) -> shapes.MovesOut:
    says, found = item.try_out(ctx, actor, view.wanted, item_code, way, answer, view.settings)
    return shapes.MovesOut(says=says, moved=found)


@router.get("/grid", operation_id="responseGrid", response_model=shapes.GridOut)
def response_grid(ctx: Ctx, actor: NameReader, view: ViewAsked) -> Response:
    with jobs.working(ctx, actor, view.job) as job:
        found = grid.grid(ctx, actor, view.wanted, view.settings, job)
    items = [
        {**vars(item), "codes": base64.b64encode(item.codes.astype("<u2").tobytes()).decode()} for item in found.items
    ]
    return at_once(shapes.GridOut.model_validate({**vars(found), "items": items}))


@router.get("/grid/{sitting_id}", operation_id="openedStudent")
def opened(ctx: Ctx, actor: NameReader, view: ViewAsked, sitting_id: str) -> Opened:
    return grid.open_student(ctx, actor, view.wanted, number(sitting_id), view.settings)


@router.get("/comparison", operation_id="compareClasses")
def compare(ctx: Ctx, actor: Reader, view: ViewAsked, by: str = "class", of: str = "item") -> GroupComparison:
    with jobs.working(ctx, actor, view.job) as job:
        return comparison.compare_groups(ctx, actor, view.wanted, by, of, view.settings, job)


@router.get("/groups", operation_id="compareGroups")
def compare_groups(ctx: Ctx, actor: Reader, view: ViewAsked, by: str = "") -> shapes.ComparedOut:
    """by: an attribute; empty for the one with most to say."""
    attributes = functioning.by_size(ctx, actor, view.wanted)
    if not by and not attributes:
        return shapes.ComparedOut(
            finding="Nothing is known about students that groups could be compared by.",
            attributes=[],
            by="",
            grouped=None,
        )
    chosen = by or attributes[0]
    finding, grouped = functioning.by_group(ctx, actor, view.wanted, chosen)
    return shapes.ComparedOut.model_validate(
        {"finding": finding, "attributes": attributes, "by": chosen, "grouped": grouped}
    )


@router.get("/functioning", operation_id="functioning")
def functions(
    ctx: Ctx, actor: Reader, view: ViewAsked, by: str, reference: str = "", focal: str = ""
) -> FunctioningReport:
    found = functioning.functioning(ctx, actor, view.wanted, by, reference, focal, view.settings)
    return found


@router.get("/mistakes", operation_id="mistakes")
def same_mistakes(ctx: Ctx, actor: Reader, view: ViewAsked) -> Mistakes:
    return mistakes.find_mistakes(ctx, actor, view.wanted, view.settings)


@router.get("/effort", operation_id="effort")
def time_and_effort(ctx: Ctx, actor: Reader, view: ViewAsked) -> TimeAndEffort:
    return effort.time_and_effort(ctx, actor, view.wanted, view.settings)


@router.get("/trust", operation_id="trust")
def how_far(
    ctx: Ctx,
    actor: Reader,
    view: ViewAsked,
    cut: Annotated[list[float], Query(max_length=8)] = [],
    by: str = "standard",
) -> TrustReport:
    with jobs.working(ctx, actor, view.job) as job:
        return trust.trust_report(ctx, actor, view.wanted, view.settings, cut, by, job)


@router.get("/reteach", operation_id="reteach")
def teach_again(ctx: Ctx, actor: NameReader, view: ViewAsked, of: str = "") -> ReteachList:
    """of: the class; empty for the first there is."""
    return reteach.reteach_list(ctx, actor, view.wanted, number(of) if of else None, view.settings)


@router.get("/verdicts", operation_id="listVerdicts")
def list_verdicts(ctx: Ctx, actor: Annotated[Actor, Depends(StaffGuard(Action.BANK_READ))]) -> shapes.VerdictsOut:
    decided, found = verdicts.list_verdicts(ctx, actor)
    wanting = undecided.list_undecided(ctx, actor)
    return shapes.VerdictsOut.model_validate(
        {"finding": undecided.finding(wanting, decided), "undecided": wanting, "items": found}
    )


@router.post("/verdicts", operation_id="sayVerdict", status_code=201)
def say(ctx: Ctx, actor: Reader, body: shapes.VerdictIn) -> VerdictLine:
    form, window = (number_or_none(id) for id in (body.form_id, body.window_id))
    return verdicts.say(ctx, actor, number(body.version_id), form, window, body.verdict, body.reason)


@router.get("/views", operation_id="listViews")
def list_views(ctx: Ctx, actor: Reader) -> list[View]:
    return views.list_views(ctx, actor)


@router.post("/views", operation_id="keepView", status_code=201)
def keep_view(ctx: Ctx, actor: Reader, body: shapes.ViewIn) -> View:
    return views.keep_view(ctx, actor, body.name, body.path, body.query)


@router.delete("/views/{view_id}", operation_id="dropView", status_code=204)
def drop_view(ctx: Ctx, actor: Reader, view_id: str) -> None:
    views.drop_view(ctx, actor, number(view_id))


ITEM_FIGURES = ("n", "n_r", "n_omitted", "n_not_reached", "p", "p_ci95", "r_rest", "r_rest_ci95", "d27", "why")


def _overview(ctx: Context, found: judged.Judged, actor: Actor) -> shapes.QualityOut:
    analysis = found.analysis
    spread, trusted = analysis.distribution, analysis.reliability
    parts = {at: name for name, places in overview.groups_of(found, "part").items() for at in places}
    held = overview.verdict_words(ctx, found)
    items: list[dict[str, Any]] = [
        {
            "number": row.number,
            "item": row.item.code,
            "version_id": row.item.version_id,
            "text": texts.begins(row.item),
            "kind": row.item.kind,
            "points": judged_item.item.points,
            "standards": row.item.standards,
            "depth": row.item.tags.depth,
            "part": parts[at],
            **{name: getattr(judged_item.figures, name) for name in ITEM_FIGURES},
            "alpha_without": judged_item.alpha_without,
            "left_out": left_out_of_item(analysis, judged_item),
            "sound": judged_item.sound,
            "judged_on": judged_item.judged_on,
            "flags": list(judged_item.flags),
            "verdict": held.get(row.item.item_id, ""),
            "options": list(judged_item.options),
        }
        for at, (row, judged_item) in enumerate(zip(found.rows, analysis.items, strict=True))
    ]
    test = {
        **{
            name: getattr(spread, name)
            for name in ("n", "k", "points", "mean", "min", "max", "sd", "median", "ceiling", "histogram")
        },
        "sem": analysis.sem,
        "alpha": trusted.alpha,
        "alpha_ci95": trusted.alpha_ci95,
        "alpha_ci_method": trusted.alpha_ci_method,
        "why": spread.why | trusted.why,
    }
    limits = [
        {"name": f.name, "value": getattr(analysis.settings, f.name), "usual": getattr(DEFAULTS, f.name)}
        for f in fields(Settings)
        if f.name not in ("watch_line", "distinct_answers")
    ]
    return shapes.QualityOut.model_validate(
        {
            "forms": overview.forms_here(found),
            "counts": analysis.counts,
            "judged_on": analysis.judged_on,
            "levels": list(found.levels),
            "test": test,
            "items": items,
            "finding": list(found.finding),
            "watch_line": analysis.settings.watch_line,
            "limits": limits,
            "milliseconds": found.milliseconds,
            "may_see_names": actor.may(Action.ANSWERS_READ),
            "may_decide": True,
        }
    )
