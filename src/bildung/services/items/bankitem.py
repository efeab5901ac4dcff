"""An item as the bank keeps it, whole, with its stimulus and its tags."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Select, select
from sqlalchemy.orm import Session, selectinload

from bildung.formats.content import (
    AnyPart,
    Behind,
    Content,
    PartScoring,
    Shown,
    cleaned,
    cleaned_shown,
)
from bildung.formats.itemlist import ItemRecord, StimulusRecord, Tags
from bildung.formats.markup import safe_html
from bildung.formats.scored import key_text
from bildung.formats.template import Template, read_template
from bildung.services.shared.wire import Id
from bildung.store.models import (
    Framework,
    Item,
    ItemStandard,
    ItemVersion,
    Standard,
    StimulusVersion,
)


def content_of(version: ItemVersion, number: int | None = None) -> Content:
    """As kept, made safe again on the way out. number: of the scoring; the newest where none is asked for."""
    scoring = next((s for s in version.scorings if s.number == number), version.scorings[-1])
    return cleaned(
        Content(
            shown=Shown.model_validate(version.shown),
            behind=Behind.model_validate(version.behind or {}),
            scoring=[PartScoring.model_validate(p) for p in scoring.parts],
        )
    )


def standards_by_code(db: Session, codes: Collection[str] | None = None) -> dict[str, Standard]:
    """What a code means: the main framework's standard where several have it. codes: only these."""
    rows = select(Standard).outerjoin(Framework, Framework.id == Standard.framework_id).order_by(Framework.main)
    if codes is not None:
        rows = rows.where(Standard.code.in_(codes))
    return {s.code: s for s in db.scalars(rows) if s.code}


@dataclass(frozen=True, kw_only=True)
class StimulusView:
    """A stimulus as a student sees it. html: made safe. number: of its version."""

    id: Id
    code: str
    number: int
    title: str
    kind: str
    html: str
    numbered: bool
    media: str
    told: str
    credit: str


def stimulus_view(version: StimulusVersion | None) -> StimulusView | None:
    """A stimulus as items show it; None without one."""
    if version is None:
        return None
    return StimulusView(
        id=version.stimulus_id,
        code=version.stimulus.code,
        number=version.number,
        title=version.title,
        kind=version.kind,
        html=safe_html(version.html),
        numbered=version.numbered,
        media=version.media,
        told=version.told,
        credit=version.credit,
    )


@dataclass(frozen=True, kw_only=True)
class BankItem:
    """A version of an item. scoring, behind: for those who may read the bank only."""

    version_id: Id
    item_id: Id
    code: str
    number: int
    kind: str
    subject: str
    grade: str
    state: str
    shown: Shown
    scoring: list[PartScoring]
    behind: Behind
    points: float
    standards: list[str]
    stimulus: StimulusView | None
    tags: Tags
    drawn: Template | None
    template: bool
    key: str


def with_parts(wanted: Any) -> Any:
    """The same query with everything `bank_item` needs, in a fixed number of statements."""
    return wanted.options(
        selectinload(ItemVersion.item),
        selectinload(ItemVersion.scorings),
        selectinload(ItemVersion.standards).selectinload(ItemStandard.standard),
        selectinload(ItemVersion.stimulus).selectinload(StimulusVersion.stimulus),
    )


def items_whole() -> Select[Item]:
    """A query of items with their versions, each with its scoring, standards and stimulus, in a fixed number of
    statements."""
    versions = selectinload(Item.versions)
    return select(Item).options(
        versions.selectinload(ItemVersion.scorings),
        versions.selectinload(ItemVersion.standards).selectinload(ItemStandard.standard),
        versions.selectinload(ItemVersion.stimulus).selectinload(StimulusVersion.stimulus),
    )


def bank_item(version: ItemVersion) -> BankItem:
    """A version of an item, whole. It wants a row that was read by `with_parts`."""
    content, item = content_of(version), version.item
    return BankItem(
        version_id=version.id,
        item_id=version.item_id,
        code=item.code,
        number=version.number,
        kind=version.kind,
        subject=item.subject,
        grade=item.grade,
        state=item.state,
        shown=content.shown,
        scoring=content.scoring,
        behind=content.behind,
        points=version.scorings[-1].points,
        standards=[s.standard.code for s in version.standards],
        stimulus=stimulus_view(version.stimulus),
        tags=tags_of(item),
        drawn=read_template(version.template) if version.template is not None else None,
        template=version.template is not None,
        key=key_text(content.scoring),
    )


def tags_of(item: Item) -> Tags:
    """What is tagged on an item."""
    return Tags(
        depth=item.depth,
        topic=item.topic,
        unit=item.unit,
        language=item.language,
        calculator=item.calculator,
        seconds=item.seconds,
        source=item.source,
        labels=tuple(item.labels),
    )


def shown_safely(version: ItemVersion) -> Shown:
    """What a student may see of it, made safe."""
    return cleaned_shown(Shown.model_validate(version.shown))


def record_of(item: BankItem, enemies: Sequence[str] = ()) -> ItemRecord:
    """The item as the open formats write it."""
    s = item.stimulus
    stimulus = (
        StimulusRecord(
            code=s.code,
            title=s.title,
            kind=s.kind,
            html=s.html,
            numbered=s.numbered,
            media=s.media,
            told=s.told,
            credit=s.credit,
        )
        if s
        else None
    )
    content = Content(shown=item.shown, scoring=item.scoring, behind=item.behind)
    return ItemRecord(
        code=item.code,
        content=content,
        standards=tuple(item.standards),
        subject=item.subject,
        grade=item.grade,
        tags=item.tags,
        stimulus=stimulus,
        enemies=tuple(enemies),
    )


def some_parts(item: BankItem) -> list[tuple[AnyPart, PartScoring]]:
    """Each part with how it is scored."""
    return list(zip(item.shown.parts, item.scoring, strict=True))
