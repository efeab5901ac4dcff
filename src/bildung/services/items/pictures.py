"""Pictures of items for print."""

from __future__ import annotations

import re
from collections.abc import Sequence

from bildung.formats.content import Content, PointPart, htmls
from bildung.formats.markup import MEDIA
from bildung.services.items import media
from bildung.services.shared.context import Context

_ADDRESS = re.compile(r"/api/media/([0-9a-f]{24})")


def with_picture_addresses(content: Content) -> Content:
    """Pictures to point at, called by where they are served."""
    parts = [
        p.model_copy(update={"picture": f"/api/media/{p.picture}"})
        if isinstance(p, PointPart) and "/" not in p.picture
        else p
        for p in content.shown.parts
    ]
    return content.model_copy(update={"shown": content.shown.model_copy(update={"parts": parts})})


def pictures_of(ctx: Context, contents: Sequence[Content], texts: Sequence[str] = ()) -> dict[str, tuple[str, bytes]]:
    """Every picture that these show, by its address: media type and bytes. contents: with picture addresses."""
    found: dict[str, tuple[str, bytes]] = {}
    every = [*texts, *(text for content in contents for text in htmls(content))]
    every += [p.picture for content in contents for p in content.shown.parts if isinstance(p, PointPart)]
    for address in {m[0] for text in every for m in MEDIA.finditer(text)}:
        match = _ADDRESS.fullmatch(address)
        assert match is not None
        path, type = media.read(ctx, match[1])
        found[address] = type, path.read_bytes()
    return found
