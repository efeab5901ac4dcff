"""Pictures and sounds of items: bounded, looked into, pictures written anew, kept under the key of their bytes."""

from __future__ import annotations

import hashlib
import io
import re
import warnings
import wave
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from bildung.formats.content import Content, PointPart, read_content
from bildung.formats.itemlist import ItemRecord
from bildung.formats.problem import ImportProblem
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.store.files import write_durably
from bildung.store.models import Media

MAX_PICTURE = 12 * 1024 * 1024
MAX_PIXELS = 40_000_000
MAX_SIDE = 2000  # what a page can use; larger ones are made smaller
MAX_SOUND = 20 * 1024 * 1024
MAX_SECONDS = 20 * 60
_TYPES = {"image/png": "png", "image/jpeg": "jpg", "audio/wav": "wav"}


@dataclass(frozen=True, kw_only=True)
class KeptMedia:
    """key: of the bytes as kept. width, height: of a picture, in pixels. seconds: of a sound."""

    key: str
    type: str
    data: bytes
    width: int | None = None
    height: int | None = None
    seconds: float | None = None

    @property
    def address(self) -> str:
        """Where it is served."""
        return f"/api/media/{self.key}"


def prepare(name: str, data: bytes) -> KeptMedia:
    """A picture (PNG, JPEG, WebP or GIF) or a sound (WAV) made anew from what it shows; Invalid for anything else."""
    if data[:4] == b"RIFF" and data[8:12] == b"WAVE":
        return _sound(name, data)
    if len(data) > MAX_PICTURE:
        raise Invalid(f"{name} has {len(data) / 2**20:.1f} MB; a picture has at most {MAX_PICTURE // 2**20} MB", "file")
    from PIL import Image, ImageFile, ImageOps

    ImageFile.LOAD_TRUNCATED_IMAGES = False  # the print library lets half of a picture pass, for the whole process
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            with Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP", "GIF")) as opened:
                if opened.width * opened.height > MAX_PIXELS:
                    raise Invalid(
                        f"{name} is {opened.width} by {opened.height}; at most {MAX_PIXELS // 10**6} million pixels",
                        "file",
                    )
                # written anew, so that nothing but the picture is kept: no place, no author, no hidden rest
                picture: Any = ImageOps.exif_transpose(opened)
                picture.thumbnail((MAX_SIDE, MAX_SIDE))
                photo = opened.format == "JPEG"
                picture = picture.convert("RGB") if photo else picture.convert("RGBA")
                out = io.BytesIO()
                if photo:
                    picture.save(out, "JPEG", quality=88, optimize=True)
                else:
                    picture.save(out, "PNG", optimize=True)
    except Invalid:
        raise
    except Exception:  # the library has many ways to say that a picture is broken
        raise Invalid(
            f"{name} is not a picture that can be read; PNG, JPEG, WebP and GIF are, and WAV for sound", "file"
        ) from None
    kept = out.getvalue()
    return KeptMedia(
        key=_key(kept),
        type="image/jpeg" if photo else "image/png",
        data=kept,
        width=picture.width,
        height=picture.height,
    )


def _sound(name: str, data: bytes) -> KeptMedia:
    if len(data) > MAX_SOUND:
        raise Invalid(f"{name} has {len(data) / 2**20:.1f} MB; a sound has at most {MAX_SOUND // 2**20} MB", "file")
    try:
        with wave.open(io.BytesIO(data)) as read:
            frames, rate = read.getnframes(), read.getframerate()
            if not 0 < frames / rate <= MAX_SECONDS:
                raise Invalid(f"{name} is {frames / rate:.0f} seconds long; at most {MAX_SECONDS}", "file")
            out = io.BytesIO()
            with wave.open(out, "wb") as written:
                written.setnchannels(read.getnchannels())
                written.setsampwidth(read.getsampwidth())
                written.setframerate(rate)
                written.writeframes(read.readframes(frames))
    except Invalid:
        raise
    except Exception:
        raise Invalid(f"{name} is not a WAV file that can be read", "file") from None
    return KeptMedia(key=_key(out.getvalue()), type="audio/wav", data=out.getvalue(), seconds=frames / rate)


def _key(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()[:24]


def _path(ctx: Context, key: str, type: str) -> Path:
    return ctx.store.folder / "media" / f"{key}.{_TYPES[type]}"


def put(ctx: Context, db: Session, kept: KeptMedia, person_id: int | None) -> None:
    """In the transaction that first names it. The file is there before the row is."""
    if db.get(Media, kept.key) is not None:
        return
    path = _path(ctx, kept.key, kept.type)
    path.parent.mkdir(exist_ok=True)
    write_durably(path, kept.data)
    db.add(
        Media(
            key=kept.key,
            type=kept.type,
            size=len(kept.data),
            width=kept.width,
            height=kept.height,
            seconds=kept.seconds,
            person_id=person_id,
            created_at=ctx.clock(),
        )
    )


def upload(ctx: Context, actor: Actor, name: str, data: bytes) -> KeptMedia:
    """Keep a picture or a sound; refused for what is neither or is too large."""
    scope(actor, Action.BANK_WRITE)
    kept = prepare(name, data)
    ctx.store.write(lambda db: put(ctx, db, kept, actor.person_id))
    return kept


def read(ctx: Context, key: str) -> tuple[Path, str]:
    """The file and its type, for whoever is signed in: the key of a picture is as long as a code and stands only in
    items that they may see."""
    with ctx.store.read() as db:
        media = db.get(Media, key)
        if media is None:
            raise NotFound("there is no such picture")
        return _path(ctx, key, media.type), media.type


def keep_all(ctx: Context, db: Session, record: ItemRecord, apply: bool) -> ItemRecord:
    """The record with the pictures and sounds that came with it kept here, and called by their keys."""
    if not record.media:
        return record
    names: dict[str, str] = {}
    for name, data in record.media.items():
        try:
            kept = prepare(name, data)
        except Invalid as error:
            raise ImportProblem(file=record.place, found=name, allowed=error.detail) from None
        if apply:
            put(ctx, db, kept, None)
        names[name] = kept.key

    def renamed(value: Any) -> Any:
        if isinstance(value, str):
            return re.sub(
                r'src="([^"]*)"', lambda m: f'src="/api/media/{names[m[1]]}"' if m[1] in names else m[0], value
            )
        if isinstance(value, list):
            return [renamed(v) for v in value]
        return {k: renamed(v) for k, v in value.items()} if isinstance(value, dict) else value

    content: Content = read_content(renamed(record.content.model_dump()))
    parts = [
        p.model_copy(update={"picture": names[p.picture]}) if isinstance(p, PointPart) and p.picture in names else p
        for p in content.shown.parts
    ]
    content = content.model_copy(update={"shown": content.shown.model_copy(update={"parts": parts})})
    stimulus = record.stimulus
    if stimulus is not None:
        stimulus = replace(stimulus, html=renamed(stimulus.html), media=names.get(stimulus.media, stimulus.media))
    return replace(record, content=content, stimulus=stimulus, media={})
