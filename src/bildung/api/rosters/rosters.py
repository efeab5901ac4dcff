"""Rosters: bringing people in, checking them, moving up a year."""

from __future__ import annotations

import json
from typing import Annotated

from fastapi import APIRouter, Depends, Form, UploadFile
from pydantic import ValidationError

from bildung.api.rosters.shapes import RolloverIn, RosterCheckOut, SettleIn
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import ApplyIn, JobOut
from bildung.api.shared.uploads import contents
from bildung.services.rosters import check, decisions, fromfiles, rollover
from bildung.services.rosters.fromfiles import Columns
from bildung.services.shared import jobs
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.errors import Invalid
from bildung.services.shared.staging import Preview

router = APIRouter(prefix="/api/people", tags=["people"], route_class=LateRoute)
Settler = Annotated[Actor, Depends(StaffGuard(Action.PEOPLE_SETTLE))]
Importer = Annotated[Actor, Depends(StaffGuard(Action.PEOPLE_IMPORT))]


@router.get("/check", operation_id="rosterCheck")
def roster_check(ctx: Ctx, actor: Settler) -> RosterCheckOut:
    finding, found, counts = check.check(ctx, actor)
    held = check.decisions(ctx, actor)
    return RosterCheckOut.model_validate(
        {"finding": finding, "discrepancies": found, "counts": counts, "decisions": held}
    )


@router.delete("/check/decisions/{decision_id}", operation_id="withdrawDecision", status_code=204)
def withdraw(ctx: Ctx, actor: Settler, decision_id: str) -> None:
    decisions.withdraw(ctx, actor, number(decision_id))


@router.post("/check/settle", operation_id="settleRoster", status_code=204)
def settle(ctx: Ctx, actor: Settler, body: SettleIn) -> None:
    if body.report_id is not None:
        check.settle_report(ctx, actor, number(body.report_id))
        return
    if body.session_id is not None:
        person_id = number_or_none(body.person_id)
        check.settle_session(ctx, actor, body.step, number(body.session_id), person_id)
        return
    ids = [number_or_none(id) for id in (body.person_id, body.class_id, body.other_id)]
    check.settle(ctx, actor, body.step, *ids)


@router.post("/rollover", operation_id="previewRollover")
def preview_rollover(ctx: Ctx, actor: Importer, body: RolloverIn) -> Preview:
    wanted = rollover.RolloverPlan(body.title, body.start, body.end, body.stay)
    return rollover.preview(ctx, actor, wanted)


@router.post("/rollover/{import_id}/apply", operation_id="applyRollover")
def apply_rollover(ctx: Ctx, actor: Importer, import_id: str, body: ApplyIn = ApplyIn()) -> Preview:
    return rollover.apply(ctx, actor, import_id, body.yes)


@router.post("/imports/columns", operation_id="importColumns")
def columns(ctx: Ctx, actor: Importer, files: list[UploadFile]) -> Columns:
    (name, data), *_ = contents(files).items()
    return fromfiles.columns(ctx, actor, name, data)


@router.post("/imports", operation_id="previewPeople")
def preview(
    ctx: Ctx, actor: Importer, files: list[UploadFile], matching: Annotated[str, Form()] = "", job: str = ""
) -> Preview:
    """matching: JSON with matched, school and whole, for one sheet; empty for OneRoster. job: a name of the asker's own,
    under which progress can be looked at and the work be stopped."""
    wanted = None
    if matching:
        try:
            given = json.loads(matching)
            wanted = fromfiles.Matching(
                {str(k): str(v) for k, v in given["matched"].items()}, str(given["school"]), bool(given["whole"])
            )
        except (ValueError, KeyError, TypeError, AttributeError, ValidationError):
            raise Invalid("the matching of columns cannot be read", "matching") from None
    with jobs.working(ctx, actor, job) as work:
        return fromfiles.preview(ctx, actor, contents(files), wanted, work)


@router.post("/imports/{import_id}/apply", operation_id="applyPeople")
def apply(ctx: Ctx, actor: Importer, import_id: str, body: ApplyIn = ApplyIn(), job: str = "") -> Preview:
    with jobs.working(ctx, actor, job) as work:
        return fromfiles.apply(ctx, actor, import_id, body.yes, work)


@router.get("/jobs/{job}", operation_id="lookAtJob")
def look(ctx: Ctx, actor: Importer, job: str) -> JobOut:
    return JobOut.model_validate(jobs.look_or_wait(ctx, actor, job))


@router.delete("/jobs/{job}", operation_id="stopJob", status_code=204)
def stop(ctx: Ctx, actor: Importer, job: str) -> None:
    jobs.look(ctx, actor, job).stop()
