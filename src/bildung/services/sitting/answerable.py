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
    """questions: by place, in order, as shown. one_way: a place that was left is not gone back to. sections: of each of these
    places, where sections end by their own minutes; None where they do not."""

    questions: dict[int, Shown]
    one_way: bool
    sections: tuple[int, ...] | None = None

    def section(self, place: int) -> int:
        """Of the place-th question, from 0."""
        return self.sections[min(place, len(self.sections) - 1)] if self.sections else 0

    def first_of(self, place: int) -> int:
        """The place at which the section of this one begins."""
        return self.sections.index(self.section(place)) if self.sections else 0

    def left(self, reached: int) -> int:
        """How many questions, from the first one, are not gone back to by whoever has come to a place."""
        return reached if self.one_way else self.first_of(reached)


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
        select(FormItem.id, FormItem.face, ItemVersion.shown, FormItem.part)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.form_id == form_id)
        .order_by(FormItem.position)
    )
    if part is not None:
        wanted = wanted.where(FormItem.part == part)
    given = None if drawn is None else set(drawn)
    rows = [row for row in connection.execute(wanted) if given is None or row.id in given]
    return Answerable(
        questions={row.id: faced(Shown.model_validate(row.shown), row.face) for row in rows},
        one_way=rules.movement == "one" and not rules.back,
        sections=tuple(row.part for row in rows) if rules.timed_sections else None,
    )
