"""An item of a test that is secure: what kind of question it is, without what it says."""

from __future__ import annotations

from bildung.formats.content import (
    AnyPart,
    ChoicePart,
    HotTextPart,
    MatchPart,
    MenuPart,
    Option,
    OrderPart,
    PointPart,
    Shown,
)

SAYS = "<p>The text of this item is secure until every session of its test is over.</p>"


def without_text(shown: Shown) -> Shown:
    """The same parts with the same option letters, so that answers can be read, and no words."""
    return shown.model_copy(update={"body": SAYS, "parts": [_bare(part) for part in shown.parts]})


def _bare(part: AnyPart) -> AnyPart:
    def bare(options: list[Option]) -> list[Option]:
        return [o.model_copy(update={"html": ""}) for o in options]

    if isinstance(part, ChoicePart | MenuPart | OrderPart):
        return part.model_copy(update={"options": bare(part.options)})
    if isinstance(part, MatchPart):
        return part.model_copy(update={"rows": bare(part.rows), "columns": bare(part.columns)})
    if isinstance(part, HotTextPart):
        return part.model_copy(update={"text": ""})
    if isinstance(part, PointPart):
        return part.model_copy(update={"picture": "", "told": ""})
    return part
