"""Families of companion forms, corrections of published forms, trial runs, settings."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.building import shapes
from bildung.api.shared.guard import Ctx, Number, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import Made
from bildung.services.building import corrections, formfamily, formsettings, makecompanions, trialrun, units
from bildung.services.building.corrections import Correction
from bildung.services.building.formfamily import FormFamily
from bildung.services.building.forms import FormDetail
from bildung.services.building.formsettings import FormDraws
from bildung.services.building.makecompanions import MadeCompanion
from bildung.services.building.trialrun import TrialTold
from bildung.services.building.units import UnitStock
from bildung.services.shared import jobs
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/building", tags=["tests"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.TESTS_READ))]
Writer = Annotated[Actor, Depends(StaffGuard(Action.TESTS_WRITE))]


@router.get("/families/{family_id}", operation_id="getFamily")
def get(ctx: Ctx, actor: Reader, family_id: str) -> FormFamily:
    return formfamily.get_family(ctx, actor, number(family_id))


@router.post("/families/{family_id}/rules", operation_id="addCompanionRule")
def add_rule(ctx: Ctx, actor: Writer, family_id: str, body: shapes.CompanionRuleIn) -> FormFamily:
    group = number_or_none(body.group_id)
    person = number_or_none(body.person_id)
    return formfamily.add_rule(ctx, actor, number(family_id), number(body.form_id), group, person)


@router.delete("/families/{family_id}/rules/{rule_id}", operation_id="dropCompanionRule")
def drop_rule(ctx: Ctx, actor: Writer, family_id: str, rule_id: str) -> FormFamily:
    return formfamily.drop_rule(ctx, actor, number(family_id), number(rule_id))


@router.post("/forms/{form_id}/companions", operation_id="makeCompanion", status_code=201)
def make(ctx: Ctx, actor: Writer, form_id: str, body: shapes.CompanionIn) -> MadeCompanion:
    klass, person = (number_or_none(id) for id in (body.class_id, body.person_id))
    wish = makecompanions.Wish(
        way=body.way,
        share=body.share,
        options=body.options,
        harder=body.harder,
        class_id=klass,
        person_id=person,
        seed=body.seed,
    )
    with jobs.working(ctx, actor, body.job) as work:
        return makecompanions.make(ctx, actor, number(form_id), wish, work)


@router.post("/forms/{form_id}/correct", operation_id="correctForm", status_code=201)
def correct(ctx: Ctx, actor: Writer, form_id: str) -> Made:
    return Made.model_validate({"ids": [corrections.correct(ctx, actor, number(form_id))]})


@router.get("/forms/{form_id}/correction", operation_id="aboutCorrection")
def about(ctx: Ctx, actor: Reader, form_id: str) -> Correction:
    return corrections.about(ctx, actor, number(form_id))


@router.post("/forms/{form_id}/move", operation_id="moveToCorrection", status_code=204)
def move(ctx: Ctx, actor: Writer, form_id: str, body: shapes.MoveSessionIn) -> None:
    corrections.move(ctx, actor, number(form_id), number(body.session_id))


@router.get("/forms/{form_id}/trial", operation_id="trialRun")
def trial(ctx: Ctx, actor: Reader, form_id: str, seed: Number = 1) -> shapes.TrialOut:
    return shapes.TrialOut.model_validate(trialrun.begin(ctx, actor, number(form_id), seed))


@router.post("/forms/{form_id}/trial", operation_id="markTrial")
def mark(ctx: Ctx, actor: Reader, form_id: str, body: shapes.TrialIn) -> TrialTold:
    """Reads only: nothing of a trial is kept."""
    answers = {number(id): answer for id, answer in body.answers.items()}
    return trialrun.mark(ctx, actor, number(form_id), answers)


@router.post("/forms/{form_id}/read", operation_id="readThrough", status_code=204)
def read_through(ctx: Ctx, actor: Reader, form_id: str, body: shapes.ReadIn) -> None:
    trialrun.read_through(ctx, actor, number(form_id), body.revision)


@router.get("/forms/{form_id}/units", operation_id="formUnits")
def unit_stock(ctx: Ctx, actor: Reader, form_id: str) -> list[UnitStock]:
    return units.units(ctx, actor, number(form_id))


@router.post("/forms/{form_id}/pool", operation_id="fillFromUnits")
def fill(ctx: Ctx, actor: Writer, form_id: str, body: shapes.PoolIn) -> FormDetail:
    return units.fill(ctx, actor, number(form_id), body.revision, body.unit, body.earlier)


@router.put("/forms/{form_id}/settings", operation_id="changeForm")
def change(ctx: Ctx, actor: Writer, form_id: str, body: shapes.FormChange) -> FormDetail:
    found = formsettings.change(
        ctx, actor, number(form_id), body.revision, body.title, body.kind, body.unit, body.settings
    )
    return found


@router.post("/forms/{form_id}/draws", operation_id="lookAtFormDraws")
def draws(ctx: Ctx, actor: Reader, form_id: str, body: shapes.FormChange) -> FormDraws:
    """What draws would be like with these settings, before they are kept."""
    return formsettings.draws(ctx, actor, number(form_id), body.settings)
