"""What the places of a published form may be answered with: read once and kept, since what is published never changes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import partial

from sqlalchemy import Connection, select

from bildung.formats.blueprint import settings_of
from bildung.formats.content import Shown
from bildung.formats.face import faced
from bildung.services.shared.context import Context
from bildung.services.shared.results import KeptResults
from bildung.store.models import Form, FormItem, ItemVersion

KEPT = 4000  # papers; of a drawn test each student has one of their own


@dataclass(frozen=True)
class Answerable:
    """questions: by place, in order, as shown. one_way: a place that was left is not gone back to."""

    questions: dict[int, Shown]
    one_way: bool


@dataclass
class KnownPapers:
    """What was asked for last."""

    kept: KeptResults[Answerable] = field(default_factory=lambda: KeptResults(KEPT))


def answerable(
    ctx: Context, connection: Connection, form_id: int, part: int | None, drawn: Sequence[int] | None
) -> Answerable:
    """Of the paper that a student has: of this form, this part of it, these of its places."""
    given = None if drawn is None else tuple(drawn)
    make = partial(_read, connection, form_id, part, given)
    return ctx.own(KnownPapers).kept.get((form_id, part, given), make)


def _read(connection: Connection, form_id: int, part: int | None, drawn: tuple[int, ...] | None) -> Answerable:
    kind, said = connection.execute(select(Form.kind, Form.settings).where(Form.id == form_id)).one()
    rules = settings_of(kind, said)
    wanted = (
        select(FormItem.id, FormItem.face, ItemVersion.shown)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.form_id == form_id)
        .order_by(FormItem.position)
    )
    if part is not None:
        wanted = wanted.where(FormItem.part == part)
    given = None if drawn is None else set(drawn)
    return Answerable(
        questions={
            id: faced(Shown.model_validate(shown), face)
            for id, face, shown in connection.execute(wanted)
            if given is None or id in given
        },
        one_way=rules.movement == "one" and not rules.back,
    )
