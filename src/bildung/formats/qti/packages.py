"""QTI content packages: the manifest, its items, stimuli, pictures and the metadata that tags are kept in."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import unquote

from bildung.formats.archive import open_archive
from bildung.formats.content import PointPart, htmls
from bildung.formats.itemlist import ItemRecord, StimulusRecord, Tags
from bildung.formats.problem import ImportProblem
from bildung.formats.qti.read import Unread, read_item, read_stimulus
from bildung.formats.qti.tree import as_three, escaped, parse
from bildung.formats.qti.write import MEDIA, write_item, write_stimulus
from bildung.formats.sheet import whole

ITEM_TYPES = re.compile(r"imsqti_item_xmlv(3p0|2p[12])")
CP = "http://www.imsglobal.org/xsd/qti/qtiv3p0/imscp_v1p1"
CSM = "http://www.imsglobal.org/xsd/imscsmd_v1p1"
LOM = "http://ltsc.ieee.org/xsd/LOM"
AT = (2026, 1, 1, 0, 0, 0)
_FIELDS = ("depth", "topic", "unit", "calculator", "seconds", "source", "subject", "grade")


def is_package(file: str, data: bytes) -> bool:
    """Whether an archive has a manifest; a workbook has none."""
    return "imsmanifest.xml" in open_archive(file, data)


def read_package(file: str, data: bytes) -> tuple[list[ItemRecord], list[Unread]]:
    """The items that the manifest lists, and those that cannot be kept here with the reason; or the first problem."""
    contents = open_archive(file, data)
    if "imsmanifest.xml" not in contents:
        raise ImportProblem(file=file, found="no imsmanifest.xml", allowed="a QTI package has one at its top")
    manifest = parse(f"{file}: imsmanifest.xml", contents["imsmanifest.xml"])
    records: list[ItemRecord] = []
    unread: list[Unread] = []
    seen: set[str] = set()
    for resource in manifest.iter("{*}resource"):
        if not ITEM_TYPES.match(str(resource.get("type", ""))):
            continue
        path = _inside("", unquote(str(resource.get("href", ""))))
        if path not in contents:
            raise ImportProblem(
                file=f"{file}: imsmanifest.xml",
                found=f"{path} is not in the package",
                allowed="each listed file is in it",
                line=resource.sourceline,
            )
        place = f"{file}: {path}"
        root = as_three(parse(place, contents[path]))
        tags, subject, grade = _tags(resource)
        found = read_item(place, root, _standards(resource), tags, subject, grade)
        if found.code in seen:
            raise ImportProblem(file=place, found=f"identifier {found.code} again", allowed="each item has its own")
        seen.add(found.code)
        if isinstance(found, Unread):
            unread.append(found)
        else:
            records.append(_with_media(_with_stimulus(found, root, path, file, contents), path, contents))
    if not records and not unread:
        raise ImportProblem(
            file=file, found="no items", allowed="resources of type imsqti_item_xmlv3p0, 2p2 or 2p1 are read"
        )
    return records, unread


def _inside(folder: str, path: str) -> str:
    """A path as the archive names it, from the folder of the file that names it."""
    parts: list[str] = []
    for piece in (PurePosixPath(folder) / path).parts:
        if piece == ".." and parts:
            parts.pop()
        elif piece not in (".", ".."):
            parts.append(piece)
    return "/".join(parts)


def _with_stimulus(record: ItemRecord, root: Any, path: str, file: str, contents: dict[str, bytes]) -> ItemRecord:
    reference = root.find("qti-assessment-stimulus-ref")
    if reference is None:
        return record
    where = _inside(str(PurePosixPath(path).parent), unquote(str(reference.get("href", ""))))
    if where not in contents:
        raise ImportProblem(
            file=record.place,
            found=f"{where} is not in the package",
            allowed="the stimulus of each item is in it",
            line=reference.sourceline,
        )
    stimulus = read_stimulus(f"{file}: {where}", as_three(parse(f"{file}: {where}", contents[where])))
    folder = str(PurePosixPath(where).parent)
    media: dict[str, bytes] = {}
    if stimulus.media:
        held = _inside(folder, unquote(stimulus.media))
        if held not in contents:
            raise ImportProblem(
                file=f"{file}: {where}",
                found=f"{held} is not in the package",
                allowed="each picture and sound is in it",
            )
        media[held] = contents[held]
        stimulus = replace(stimulus, media=held)
    html, more = _sources(stimulus.html, folder, contents)
    return replace(record, stimulus=replace(stimulus, html=html), media={**record.media, **media, **more})


def _sources(text: str, folder: str, contents: dict[str, bytes]) -> tuple[str, dict[str, bytes]]:
    """A text whose pictures are called by their place in the archive, and those pictures."""
    media: dict[str, bytes] = {}

    def put(found: re.Match[str]) -> str:
        held = _inside(folder, unquote(found[1]))
        if held in contents:
            media[held] = contents[held]
            return f'src="{escaped(held)}"'
        return found[0]

    return re.sub(r'src="([^"]*)"', put, text), media


def _with_media(record: ItemRecord, path: str, contents: dict[str, bytes]) -> ItemRecord:
    from bildung.formats.content import read_content

    folder, media = str(PurePosixPath(path).parent), dict(record.media)

    def moved(value: Any) -> Any:
        if isinstance(value, str) and "src=" in value:
            value, found = _sources(value, folder, contents)
            media.update(found)
        if isinstance(value, list):
            return [moved(v) for v in value]
        return {k: moved(v) for k, v in value.items()} if isinstance(value, dict) else value

    content = read_content(moved(record.content.model_dump()))
    parts = []
    for part in content.shown.parts:
        if isinstance(part, PointPart):
            held = _inside(folder, unquote(part.picture))
            if held not in contents:
                raise ImportProblem(
                    file=record.place, found=f"{held} is not in the package", allowed="each picture is in it"
                )
            media[held] = contents[held]
            part = part.model_copy(update={"picture": held})  # noqa: PLW2901
        parts.append(part)
    content = content.model_copy(update={"shown": content.shown.model_copy(update={"parts": parts})})
    return replace(record, content=content, media=media)


def _standards(resource: Any) -> tuple[str, ...]:
    """Codes of the aligned standards, from the curriculum metadata of the resource."""
    found = [
        (node.text or "").strip()
        for block in resource.iter("{*}curriculumStandardsMetadataSet")
        for node in block.iter("{*}targetNodeIdentifier", "{*}identifier")
        if (node.text or "").strip()
    ]
    return tuple(dict.fromkeys(found))


def _tags(resource: Any) -> tuple[Tags, str, str]:
    """From the keywords of the resource's LOM; `name: value` where this project wrote them, else free tags."""
    values: dict[str, Any] = {}
    labels = []
    for keyword in resource.iter("{*}keyword"):
        text = " ".join("".join(keyword.itertext()).split())
        name, colon, value = text.partition(": ")
        if colon and name in _FIELDS:
            values[name] = value
        elif text:
            labels.append(text[:60])
    depth, seconds = values.get("depth", ""), values.get("seconds", "")
    tags = Tags(
        depth=int(depth) if depth in ("1", "2", "3", "4") else None,
        topic=values.get("topic", "")[:80],
        unit=values.get("unit", "")[:120],
        language="",
        calculator=values.get("calculator", "") if values.get("calculator") in ("none", "basic", "scientific") else "",
        seconds=int(seconds) if 0 < (whole(seconds) or 0) <= 7200 else None,
        source=values.get("source", "")[:120],
        labels=tuple(dict.fromkeys(labels)),
    )
    return tags, values.get("subject", "")[:60], values.get("grade", "")[:10]


def write_package(
    records: Sequence[ItemRecord],
    media: Mapping[str, tuple[str, bytes]],
    test: Callable[[Mapping[str, str]], bytes] | None = None,
) -> bytes:
    """A QTI 3.0 package. media: file name and bytes by key, for every picture and sound that the items use. test: makes
    the file of a test from the path of each item by its code, where there is one."""
    files: dict[str, bytes] = {}
    resources: list[str] = []
    stimuli: dict[str, StimulusRecord] = {}
    names = {key: f"../media/{name}" for key, (name, _) in media.items()}
    used: set[str] = set()
    paths: dict[str, str] = {}
    for at, record in enumerate(records, 1):
        path = f"items/{_file(record.code)}.xml"
        if path in files:
            path = f"items/{_file(record.code)}-{at}.xml"
        where = ""
        if record.stimulus:
            stimuli[record.stimulus.code] = record.stimulus
            where = f"../stimuli/{_file(record.stimulus.code)}.xml"
        paths[record.code] = f"../{path}"
        files[path] = write_item(record, names, where)
        keys = media_keys(record)
        used |= keys
        needs = "".join(f'<dependency identifierref="media-{k}"/>' for k in sorted(keys))
        if record.stimulus:
            needs += f'<dependency identifierref="stimulus-{escaped(_file(record.stimulus.code))}"/>'
        resources.append(
            f'<resource identifier="item-{at}" type="imsqti_item_xmlv3p0" href="{path}">{_metadata(record)}<file href="{path}"/>{needs}</resource>'
        )
    if test is not None:
        files["tests/test.xml"] = test(paths)
        needs = "".join(f'<dependency identifierref="item-{at}"/>' for at in range(1, len(records) + 1))
        resources.insert(
            0,
            f'<resource identifier="test" type="imsqti_test_xmlv3p0" href="tests/test.xml"><file href="tests/test.xml"/>{needs}</resource>',
        )
    for code, stimulus in stimuli.items():
        path = f"stimuli/{_file(code)}.xml"
        files[path] = write_stimulus(stimulus, names)
        keys = {found[1] for found in MEDIA.finditer(stimulus.html)} | ({stimulus.media} if stimulus.media else set())
        used |= keys
        needs = "".join(f'<dependency identifierref="media-{k}"/>' for k in sorted(keys))
        resources.append(
            f'<resource identifier="stimulus-{escaped(_file(code))}" type="imsqti_stimulus_xmlv3p0" href="{path}"><file href="{path}"/>{needs}</resource>'
        )
    for key in sorted(used & media.keys()):
        name, data = media[key]
        files[f"media/{name}"] = data
        resources.append(
            f'<resource identifier="media-{key}" type="webcontent" href="media/{name}"><file href="media/{name}"/></resource>'
        )
    manifest = (
        f'<?xml version="1.0" encoding="UTF-8"?>\n<manifest xmlns="{CP}" xmlns:csm="{CSM}" xmlns:lom="{LOM}" identifier="bildung-items">'
        "<metadata><schema>QTI Package</schema><schemaversion>3.0.0</schemaversion></metadata><organizations/>"
        f"<resources>{''.join(resources)}</resources></manifest>\n"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        for name, data in {"imsmanifest.xml": manifest.encode(), **files}.items():
            target.writestr(zipfile.ZipInfo(name, AT), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def media_keys(record: ItemRecord) -> set[str]:
    """Keys of every picture and sound that an item and its stimulus use."""
    keys = {found[1] for text in htmls(record.content) for found in MEDIA.finditer(text)}
    keys |= {part.picture for part in record.content.shown.parts if isinstance(part, PointPart)}
    if record.stimulus:
        keys |= {found[1] for found in MEDIA.finditer(record.stimulus.html)}
        keys |= {record.stimulus.media} if record.stimulus.media else set()
    return keys


def _file(code: str) -> str:
    return re.sub(r"[^A-Za-z0-9._-]", "_", code)


def _metadata(record: ItemRecord) -> str:
    tags = record.tags
    words = {
        "depth": tags.depth,
        "topic": tags.topic,
        "unit": tags.unit,
        "calculator": tags.calculator,
        "seconds": tags.seconds,
        "source": tags.source,
        "subject": record.subject,
        "grade": record.grade,
    }
    keywords = [f"{name}: {value}" for name, value in words.items() if value not in ("", None)] + list(tags.labels)
    lom = "".join(f"<lom:keyword><lom:string>{escaped(k)}</lom:string></lom:keyword>" for k in keywords)
    lom = f"<lom:lom><lom:general>{lom}</lom:general></lom:lom>" if lom else ""
    guids = "".join(
        f"<csm:labelledGUID><csm:label>standard</csm:label><csm:identifier>{escaped(code)}</csm:identifier></csm:labelledGUID>"
        for code in record.standards
    )
    curriculum = (
        "<csm:curriculumStandardsMetadataSet><csm:curriculumStandardsMetadata><csm:setOfGUIDs>"
        f"{guids}</csm:setOfGUIDs></csm:curriculumStandardsMetadata></csm:curriculumStandardsMetadataSet>"
        if guids
        else ""
    )
    return f"<metadata>{lom}{curriculum}</metadata>" if lom or curriculum else ""
