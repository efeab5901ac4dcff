"""Item quality: figures, workings, curves, who gave which answer."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query

from bildung.api.guard import Ctx, Staff, number
from bildung.api.schemas import ComparedOut, CurvesOut, GivenOut, QualityOut, SatListOut, WorkingsOut
from bildung.core.classical.settings import DEFAULTS
from bildung.core.workings import left_out_of_item
from bildung.services import quality
from bildung.services.access import Action, Actor

router = APIRouter(prefix="/api/quality", tags=["quality"])
Reader = Annotated[Actor, Depends(Staff(Action.QUALITY_READ))]
Sessions = Annotated[list[str], Query()]
WatchLine = Annotated[float, Query(ge=0, le=1)]


@router.get("", operation_id="listSat")
def list_sat(ctx: Ctx, actor: Reader, window: str | None = None) -> SatListOut:
    found = quality.list_sat(ctx, actor, None if window is None else number(window))
    return SatListOut.model_validate({"finding": quality.sat_finding(found), "tests": found})


@router.get("/{form_id}/{window_id}", operation_id="quality")
def judge(
    ctx: Ctx, actor: Reader, form_id: str, window_id: str, sessions: Sessions = [],  # noqa: B006
    watch_line: WatchLine = DEFAULTS.watch_line,
) -> QualityOut:  # fmt: skip
    settings = replace(DEFAULTS, watch_line=watch_line)
    chosen = [number(id) for id in sessions]
    return _translate(quality.judge(ctx, actor, number(form_id), number(window_id), chosen, settings), actor)


@router.get("/{form_id}/{window_id}/workings", operation_id="workings")
def workings(
    ctx: Ctx, actor: Reader, form_id: str, window_id: str, figure: str, item: str | None = None,
    sessions: Sessions = [], watch_line: WatchLine = DEFAULTS.watch_line,  # noqa: B006
) -> WorkingsOut:  # fmt: skip
    found = quality.workings(
        ctx, actor, number(form_id), number(window_id), [number(id) for id in sessions], figure, item,
        replace(DEFAULTS, watch_line=watch_line),
    )  # fmt: skip
    return WorkingsOut.model_validate(found)


@router.get("/{form_id}/{window_id}/curves", operation_id="curves")
def curves(
    ctx: Ctx, actor: Reader, form_id: str, window_id: str, item: str, sessions: Sessions = []  # noqa: B006
) -> CurvesOut | None:  # fmt: skip
    chosen = [number(id) for id in sessions]
    found = quality.curves(ctx, actor, number(form_id), number(window_id), chosen, item)
    return None if found is None else CurvesOut.model_validate(found)


@router.get("/{form_id}/{window_id}/answers", operation_id="givenAnswers")
def given(
    ctx: Ctx, actor: Annotated[Actor, Depends(Staff(Action.ANSWERS_READ))], form_id: str, window_id: str, item: str,
    sessions: Sessions = [],  # noqa: B006
) -> list[GivenOut]:  # fmt: skip
    found = quality.given_answers(ctx, actor, number(form_id), number(window_id), [number(id) for id in sessions], item)
    return [GivenOut.model_validate(line) for line in found]


@router.get("/{form_id}/{window_id}/groups", operation_id="compareGroups")
def compare_groups(
    ctx: Ctx, actor: Reader, form_id: str, window_id: str, by: str = "", sessions: Sessions = []  # noqa: B006
) -> ComparedOut:  # fmt: skip
    """by: an attribute; empty for the first there is."""
    attributes = quality.comparable(ctx, actor)
    if not by and not attributes:
        return ComparedOut(
            finding="Nothing is known about students that groups could be compared by.",
            attributes=[],
            by="",
            grouped=None,
        )
    chosen = by or attributes[0]
    finding, grouped = quality.by_group(
        ctx, actor, number(form_id), number(window_id), [number(id) for id in sessions], chosen
    )
    return ComparedOut.model_validate({"finding": finding, "attributes": attributes, "by": chosen, "grouped": grouped})


def _translate(judged: quality.Judged, actor: Actor) -> QualityOut:
    analysis = judged.analysis
    spread, trust = analysis.distribution, analysis.reliability
    items: list[dict[str, Any]] = [
        {
            "number": at, "item": found.item.name, "kind": found.item.kind, "points": found.item.points,
            "standards": list(found.item.standards), "shown": shown.shown, "stimulus": shown.stimulus,
            **{name: getattr(found.figures, name) for name in (
                "n", "n_r", "n_omitted", "n_not_reached", "p", "p_ci95", "r_rest", "r_rest_ci95", "d27", "why",
            )},
            "alpha_without": found.alpha_without, "left_out": left_out_of_item(analysis, found), "sound": found.sound, "flags": list(found.flags),
            "options": list(found.options),
        }
        for at, (found, shown) in enumerate(zip(analysis.items, judged.items, strict=True), 1)
    ]  # fmt: skip
    test = {
        **{name: getattr(spread, name) for name in ("n", "k", "points", "mean", "sd", "median", "ceiling", "histogram")},
        "sem": analysis.sem, "alpha": trust.alpha, "alpha_ci95": trust.alpha_ci95,
        "alpha_ci_method": trust.alpha_ci_method, "why": spread.why | trust.why,
    }  # fmt: skip
    return QualityOut.model_validate(
        {
            "form": judged.form.name, "subject": judged.form.subject, "grade": judged.form.grade,
            "window": judged.window, "sessions": [{"id": id, "klass": klass} for id, klass in judged.sessions],
            "chosen": judged.chosen, "counts": analysis.counts, "test": test, "items": items,
            "finding": list(judged.finding), "watch_line": analysis.settings.watch_line,
            "milliseconds": judged.milliseconds, "may_see_names": actor.may(Action.ANSWERS_READ),
        }
    )  # fmt: skip
