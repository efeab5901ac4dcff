"""Blueprints, and forms built from them."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.building import shapes
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import JobOut
from bildung.core.assembly.program import Demands
from bildung.formats.blueprint import KINDS
from bildung.services.building import assembling, blueprints, checklist
from bildung.services.building.assembling import Equal
from bildung.services.building.blueprints import BlueprintLine, BlueprintView
from bildung.services.building.checklist import Check
from bildung.services.shared import jobs
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/building", tags=["tests"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.TESTS_READ))]
Writer = Annotated[Actor, Depends(StaffGuard(Action.TESTS_WRITE))]


@router.get("/kinds", operation_id="testKinds")
def kinds(actor: Reader) -> list[shapes.KindOut]:
    return [shapes.KindOut(name=name, says=rule.says, same=rule.same) for name, rule in KINDS.items()]


@router.get("/blueprints", operation_id="listBlueprints")
def list_all(ctx: Ctx, actor: Reader) -> list[BlueprintLine]:
    return blueprints.list_blueprints(ctx, actor)


@router.post("/blueprints", operation_id="createBlueprint", status_code=201)
def create(ctx: Ctx, actor: Writer, body: shapes.BlueprintIn) -> BlueprintView:
    return _saved(ctx, actor, None, body)


@router.get("/blueprints/{blueprint_id}", operation_id="getBlueprint")
def get(ctx: Ctx, actor: Reader, blueprint_id: str) -> BlueprintView:
    return blueprints.get_blueprint(ctx, actor, number(blueprint_id))


@router.put("/blueprints/{blueprint_id}", operation_id="saveBlueprint")
def save(ctx: Ctx, actor: Writer, blueprint_id: str, body: shapes.BlueprintIn) -> BlueprintView:
    return _saved(ctx, actor, number(blueprint_id), body)


def _saved(ctx: Ctx, actor: Actor, id: int | None, body: shapes.BlueprintIn) -> BlueprintView:
    saved = blueprints.save_blueprint(
        ctx, actor, id, body.revision, body.name, body.subject, body.grade, body.kind, body.content.model_dump()
    )
    return saved


@router.post("/blueprints/{blueprint_id}/assemble", operation_id="assembleForms")
def assemble(ctx: Ctx, actor: Writer, blueprint_id: str, body: shapes.AssembleIn) -> shapes.AssemblyOut:
    demands = Demands(
        forms=body.forms,
        anchor=body.anchor,
        overlap=body.overlap,
        fixed=tuple(tuple(number(id) for id in form) for form in body.fixed),
        excluded=frozenset(number(id) for id in body.excluded),
        least_r=body.least_r,
        most_used=body.most_used,
        once_a_window=body.once_a_window,
        unsat=body.unsat,
        flagged=body.flagged,
    )
    window = number_or_none(body.window_id)
    with jobs.working(ctx, actor, body.job) as work:
        return shapes.AssemblyOut.model_validate(
            assembling.propose(ctx, actor, number(blueprint_id), demands, window, body.seconds, work)
        )


@router.post("/blueprints/{blueprint_id}/keep", operation_id="keepForms", status_code=201)
def keep(ctx: Ctx, actor: Writer, blueprint_id: str, body: shapes.KeepIn) -> shapes.KeptForms:
    forms = [[(number(item.version_id), item.part) for item in form] for form in body.forms]
    family, made = assembling.keep(ctx, actor, number(blueprint_id), body.name, body.title, forms)
    return shapes.KeptForms.model_validate({"family_id": family, "forms": made})


@router.get("/jobs/{job}", operation_id="lookAtAssembly")
def look(ctx: Ctx, actor: Writer, job: str) -> JobOut:
    return JobOut.model_validate(jobs.look_or_wait(ctx, actor, job))


@router.delete("/jobs/{job}", operation_id="stopAssembly", status_code=204)
def stop(ctx: Ctx, actor: Writer, job: str) -> None:
    jobs.look(ctx, actor, job).stop()


@router.get("/forms/{form_id}/outlook", operation_id="formOutlook")
def outlook(ctx: Ctx, actor: Reader, form_id: str) -> shapes.OutlookOut:
    return shapes.OutlookOut.model_validate(assembling.outlook(ctx, actor, number(form_id)))


@router.get("/forms/{form_id}/checks", operation_id="formChecks")
def checks(ctx: Ctx, actor: Reader, form_id: str) -> list[Check]:
    return checklist.checklist(ctx, actor, number(form_id))


@router.get("/forms/{form_id}/equals/{version_id}", operation_id="equalItems")
def equals(ctx: Ctx, actor: Reader, form_id: str, version_id: str) -> list[Equal]:
    found = assembling.equals(ctx, actor, number(form_id), number(version_id))
    return found
