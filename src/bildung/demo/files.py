"""The demo's inputs as the open files a school would bring, so that they go in by the same door."""

from __future__ import annotations

import csv
import io
import random
import zipfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from xml.sax.saxutils import escape

from bildung.demo.draft import Draft
from bildung.formats.content import Behind, Misconception
from bildung.formats.itemlist import ItemRecord, StimulusRecord, Tags, simple_record

SUBJECTS = {"Mathematics": "M", "Reading": "R", "Science": "S"}


def sheet(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(columns)
    writer.writerows(rows)
    return out.getvalue().encode()


@dataclass(frozen=True, kw_only=True)
class DemoItem:
    """A draft with its options in the order shown; key: letter or number."""

    code: str
    draft: Draft
    options: tuple[str, ...]
    key: str
    subject: str
    grade: str


def place(drafts: Sequence[Draft], prefix: str, subject: str, grade: str, rng: random.Random) -> list[DemoItem]:
    """Codes and shuffled options."""
    placed = []
    for at, draft in enumerate(drafts, 1):
        if draft.numeric:
            placed.append(
                DemoItem(
                    code=f"{prefix}-{at:02d}", draft=draft, options=(), key=draft.right, subject=subject, grade=grade
                )
            )
            continue
        options = [draft.right, *draft.wrong]
        rng.shuffle(options)
        key = "ABCD"[options.index(draft.right)]
        placed.append(
            DemoItem(
                code=f"{prefix}-{at:02d}", draft=draft, options=tuple(options), key=key, subject=subject, grade=grade
            )
        )
    return placed


def item_sheet(items: Sequence[DemoItem]) -> bytes:
    """The items as the CSV that the bank takes."""
    columns = (
        "code",
        "type",
        "stem",
        "option_A",
        "option_B",
        "option_C",
        "option_D",
        "key",
        "points",
        "standards",
        "subject",
        "grade",
    )
    rows = [
        (
            p.code,
            "numeric" if p.draft.numeric else "choice",
            p.draft.stem,
            *(p.options or ("",) * 4),
            p.key,
            1,
            f"BAF-{p.draft.standard}",
            p.subject,
            p.grade,
        )
        for p in items
    ]
    return sheet(columns, rows)


def records(items: Sequence[DemoItem]) -> list[ItemRecord]:
    """The same items as the bank takes them; a passage before the question becomes the stimulus of its questions."""
    found = []
    for p in items:
        kind = "numeric" if p.draft.numeric else "choice"
        stem, stimulus = p.draft.stem, None
        if stem.startswith("<blockquote>"):
            passage, _, stem = stem.removeprefix("<blockquote>").partition("</blockquote>")
            stimulus = StimulusRecord(
                code=f"TXT-{p.grade}{p.draft.about.partition(' ')[0]}",
                title=p.draft.about,
                kind="passage",
                html=passage,
                numbered=True,
                credit="written for the district",
            )
        record = simple_record(
            p.code,
            kind,
            stem,
            list(zip("ABCD", p.options, strict=False)),
            p.key,
            1.0,
            (f"BAF-{p.draft.standard}",),
            p.subject,
            p.grade,
        )
        letters = dict(zip(p.options, "ABCD", strict=False))
        said = [
            Misconception(answer=letters.get(text, text), note=note)
            for text, note in p.draft.notes
            if text in letters or p.draft.numeric
        ]
        record = replace(record, content=record.content.model_copy(update={"behind": Behind(misconceptions=said)}))
        depth = 1 if p.draft.standard[-1] in "12" else 2
        found.append(replace(record, stimulus=stimulus, tags=Tags(depth=depth, language="en", seconds=75)))
    return found


def item_package(items: Sequence[DemoItem]) -> bytes:
    """The choice items as a QTI 3.0 package."""
    files: dict[str, bytes] = {}
    resources = []
    for item in items:
        if item.draft.numeric:
            continue
        choices = "".join(
            f'<qti-simple-choice identifier="{"ABCD"[at]}">{text}</qti-simple-choice>'
            for at, text in enumerate(item.options)
        )
        xml = (
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            '<qti-assessment-item xmlns="http://www.imsglobal.org/xsd/imsqtiasi_v3p0" '
            f'identifier="{escape(item.code)}" title="{escape(item.code)}" adaptive="false" time-dependent="false">'
            '<qti-response-declaration identifier="RESPONSE" cardinality="single" base-type="identifier">'
            f"<qti-correct-response><qti-value>{item.key}</qti-value></qti-correct-response></qti-response-declaration>"
            f'<qti-item-body>{item.draft.stem}<qti-choice-interaction response-identifier="RESPONSE" max-choices="1">'
            f"{choices}</qti-choice-interaction></qti-item-body></qti-assessment-item>\n"
        )
        path = f"items/{item.code}.xml"
        files[path] = xml.encode()
        resources.append(
            f'<resource identifier="{item.code}" type="imsqti_item_xmlv3p0" href="{path}"><metadata>'
            f"<curriculumStandardsMetadataSet><curriculumStandardsMetadata><setOfGUIDs><labelledGUID><label>standard"
            f"</label><identifier>BAF-{item.draft.standard}</identifier></labelledGUID></setOfGUIDs>"
            f'</curriculumStandardsMetadata></curriculumStandardsMetadataSet></metadata><file href="{path}"/></resource>'
        )
    manifest = (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        '<manifest xmlns="http://www.imsglobal.org/xsd/qti/qtiv3p0/imscp_v1p1" identifier="bildung-samples">'
        "<metadata><schema>QTI Package</schema><schemaversion>3.0.0</schemaversion></metadata><organizations/>"
        f"<resources>{''.join(resources)}</resources></manifest>\n"
    )
    return archive({"imsmanifest.xml": manifest.encode(), **files})


def archive(files: dict[str, bytes]) -> bytes:
    """A zip whose bytes depend on its contents alone."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        for name, data in files.items():
            target.writestr(zipfile.ZipInfo(name, (2026, 1, 1, 0, 0, 0)), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()
