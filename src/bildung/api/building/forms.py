"""Tests: forms and their items."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends

from bildung.api.building.shapes import FormItems, FormsOut, NewForm, Publish, Security
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.services.building import forms
from bildung.services.building.forms import FormDetail
from bildung.services.shared.access import Action, Actor

router = APIRouter(prefix="/api/forms", tags=["tests"], route_class=LateRoute)
Reader = Annotated[Actor, Depends(StaffGuard(Action.TESTS_READ))]
Writer = Annotated[Actor, Depends(StaffGuard(Action.TESTS_WRITE))]


@router.get("", operation_id="listForms")
def list_forms(ctx: Ctx, actor: Reader) -> FormsOut:
    found = forms.list_forms(ctx, actor)
    return FormsOut.model_validate({"finding": forms.forms_finding(found), "forms": found})


@router.post("", operation_id="createForm", status_code=201)
def create(ctx: Ctx, actor: Writer, body: NewForm) -> FormDetail:
    blueprint = number_or_none(body.blueprint_id)
    form = forms.create_form(ctx, actor, body.name, body.title, body.subject, body.grade, body.kind, blueprint)
    return form


@router.get("/{form_id}", operation_id="getForm")
def get(ctx: Ctx, actor: Reader, form_id: str) -> FormDetail:
    return forms.get_form(ctx, actor, number(form_id))


@router.put("/{form_id}/items", operation_id="setFormItems")
def set_items(ctx: Ctx, actor: Writer, form_id: str, body: FormItems) -> FormDetail:
    ids = [number(id) for id in body.items]
    return forms.set_items(ctx, actor, number(form_id), body.revision, ids, body.parts)


@router.post("/{form_id}/publish", operation_id="publishForm")
def publish(ctx: Ctx, actor: Writer, form_id: str, body: Publish) -> FormDetail:
    return forms.publish(ctx, actor, number(form_id), body.revision)


@router.put("/{form_id}/security", operation_id="setFormSecurity")
def set_security(ctx: Ctx, actor: Writer, form_id: str, body: Security) -> FormDetail:
    """Who sees its items before it has been taken."""
    return forms.set_security(ctx, actor, number(form_id), body.secure, body.stays)
