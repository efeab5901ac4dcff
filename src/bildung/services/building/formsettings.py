"""What a form is called, what kind of test it is, and how it is sat."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.assembly.draw import outlook
from bildung.core.errors import Refused
from bildung.formats.blueprint import KINDS, FormSettings, PartKept, read_plan
from bildung.services.building.forms import FormDetail, detail, draft
from bildung.services.calendar.years import local_today
from bildung.services.forms.settings import heaps_of
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.typed import need_text
from bildung.store.models import Form


@dataclass(frozen=True, kw_only=True)
class FormDraws:
    """As core.assembly.draw.DrawOutlook; says: in one sentence."""

    target: float | None
    shares: list[float]
    kept: float | None
    unknown: int
    count: int
    says: str


def change(
    ctx: Context, actor: Actor, form_id: int, revision: int, title: str, kind: str, unit: str, settings: FormSettings
) -> FormDetail:
    """Of a draft, as it was seen. A kind whose results are compared gives everybody the same questions."""
    allowed = scope(actor, Action.TESTS_WRITE)
    title = need_text(title, "title")
    if kind and kind not in KINDS:
        raise Invalid(f"kind is one of {', '.join(KINDS)}", "kind")
    if settings.draw is not None and kind and KINDS[kind].same:
        raise Invalid(f"in a {kind} test everyone gets the same questions, so nothing is drawn", "draw")

    def work(db: Session) -> FormDetail:
        form = draft(db, form_id, allowed)
        if form.revision != revision:
            raise Conflict("someone changed this form in the meantime; the current version is shown")
        if settings.timed_sections and not any(part.minutes for part in _sections(form)):
            raise Invalid(
                "no section of this test has minutes of its own; set them in its blueprint first", "timed_sections"
            )
        before = {"title": form.title, "kind": form.kind, "unit": form.unit, "settings": form.settings}
        form.title, form.kind, form.unit, form.settings = title, kind, unit.strip()[:120], settings.model_dump()
        form.revision += 1
        db.flush()
        audit.record(db, ctx.clock(), actor.person_id, "form.settings", f"form:{form_id}", before, form.settings)
        return detail(db, form_id, local_today(ctx, db))

    return ctx.store.write(work)


def _sections(form: Form) -> list[PartKept]:
    return read_plan(form.plan).parts if form.plan else []


def draws(ctx: Context, actor: Actor, form_id: int, settings: FormSettings) -> FormDraws:
    """What draws of a form would be like with these settings, before they are kept."""
    with ctx.store.read() as db:
        form = db.scalar(select(Form).where(Form.id == form_id, scope(actor, Action.TESTS_READ)))
        if form is None:
            raise NotFound("there is no such form")
        if settings.draw is None:
            raise Invalid("say how many items are drawn", "draw")
        heaps = heaps_of(db, form, settings)
    try:
        found = outlook(heaps, settings.draw.limit)
    except Refused as error:
        raise Invalid(str(error), "draw") from None
    pool = sum(len(h.items) for h in heaps)
    says = f"{found.count} of {pool} items each"
    thin = [h.name or "the pool" for h in heaps if len(h.items) < settings.draw.count]
    if thin:
        says += f" (fewer than {settings.draw.count} in {', '.join(thin[:3])}{' and others' if len(thin) > 3 else ''}: all of them are given)"
    if found.target is None:
        says += f"; {found.unknown} of the pool were not used yet, so draws cannot be held equally hard"
    else:
        low, high = found.shares[0], found.shares[-1]
        says += f"; over {len(found.shares)} draws {100 * low:.0f} to {100 * high:.0f}% of the points are expected"
        if found.kept is not None:
            says += f" ({100 * found.kept:.0f}% of plain random draws would keep within the limit)"
    return FormDraws(
        target=found.target,
        shares=list(found.shares),
        kept=found.kept,
        unknown=found.unknown,
        count=found.count,
        says=says + ".",
    )
