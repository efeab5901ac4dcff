"""Formatted text of items for paper: formulas as drawings, pictures inside the document, gaps as lines to write on."""

from __future__ import annotations

import base64
import html
import re
from collections.abc import Mapping
from functools import lru_cache

from bildung.formats.content import (
    AnyPart,
    ChoicePart,
    EntryPart,
    HotTextPart,
    LinePart,
    MatchPart,
    MenuPart,
    OrderPart,
    PointPart,
    Shown,
    WritingPart,
)
from bildung.formats.markup import bare_text

Pictures = Mapping[str, tuple[str, bytes]]
"""By address as the text names it: media type and bytes."""
_MATH = re.compile(r"<math\b.*?</math>", re.DOTALL)
_SOURCE = re.compile(r'src="(/api/media/[0-9a-f]{24})"')
_GAP = re.compile(r'<span[^>]*data-gap="([A-Za-z0-9_]{1,12})"[^>]*>.*?</span>', re.DOTALL)
_PICK = re.compile(r'<span[^>]*data-pick="([A-Za-z0-9_]{1,12})"[^>]*>(.*?)</span>', re.DOTALL)
SIZE = 15.0  # px of a formula's letters; the page scales it with its text


@lru_cache(maxsize=4000)
def formula(mathml: str) -> str:
    """MathML as a drawing that stands on the line of the text; sizes in em of the text around it."""
    from ziamath.config import config
    from ziamath.zmath import Math

    config.svg2 = False  # plain paths: every reader of PDF draws them the same
    try:
        drawn = Math(mathml, size=SIZE)
        width, height = drawn.getsize()
        below = drawn.getyofst()
        picture = base64.b64encode(drawn.svg().encode()).decode()
    except Exception:  # what the library cannot draw is shown as its words, never left out
        return f"<i>{html.escape(re.sub(r'<[^>]+>', ' ', mathml))}</i>"
    em = 1 / SIZE
    return (
        f'<img class="formula" src="data:image/svg+xml;base64,{picture}" style="width:{(width + 2) * em:.3f}em;'
        f'height:{(height + 2) * em:.3f}em;vertical-align:{(below - 1) * em:.3f}em" alt="">'
    )


def text(markup: str, pictures: Pictures) -> str:
    """Safe markup of the bank, for paper."""
    found = _MATH.sub(lambda m: formula(m[0]), markup)

    def inside(match: re.Match[str]) -> str:
        kept = pictures.get(match[1])
        if kept is None:
            return 'src=""'
        return f'src="data:{kept[0]};base64,{base64.b64encode(kept[1]).decode()}"'

    return _SOURCE.sub(inside, found)


def question(shown: Shown, pictures: Pictures, sheet: bool, working: int = 0) -> str:
    """All of a question. sheet: choices are marked on an answer sheet, so that the booklet has letters and no boxes.
    working: lines of room for working below it."""
    parts = {p.id: p for p in shown.parts}

    def gap(match: re.Match[str]) -> str:
        part = parts.get(match[1])
        if isinstance(part, MenuPart):
            inner = " / ".join(
                f"<b>{chr(65 + n)}</b>&nbsp;{text(o.html, pictures)}" for n, o in enumerate(part.options)
            )
            return f'<span class="menu">( {inner} )</span>'
        width = part.width if isinstance(part, EntryPart) else 10
        unit = f" {html.escape(part.unit)}" if isinstance(part, EntryPart) and part.unit else ""
        return f'<span class="gap" style="width:{0.62 * width + 1:.1f}em"></span>{unit}'

    said = [f'<div class="body">{_GAP.sub(gap, text(shown.body, pictures))}</div>']
    blocks = [p for p in shown.parts if not (isinstance(p, MenuPart) or (isinstance(p, EntryPart) and p.inline))]
    for at, part in enumerate(blocks):
        letter = f"<b>{chr(97 + at)})</b> " if len(blocks) > 1 else ""
        prompt = text(part.prompt, pictures)
        said.append(
            f'<div class="part">{f"<div class=prompt>{letter}{prompt}</div>" if letter or prompt else ""}{_block(part, pictures, sheet)}</div>'
        )
    if working:
        said.append(f'<div class="working" style="height:{working * 8}mm"><span>Working</span></div>')
    return "".join(said)


def _block(part: AnyPart, pictures: Pictures, sheet: bool) -> str:
    if isinstance(part, ChoicePart):
        many = (
            ""
            if part.most == 1
            else f'<div class="how">Choose {f"up to {part.most}" if part.most else "all that fit"}.</div>'
        )
        box = "" if sheet else '<span class="box"></span>'
        rows = "".join(
            f'<div class="option">{box}<b class=letter>{chr(65 + n)}</b>{text(o.html, pictures)}</div>'
            for n, o in enumerate(part.options)
        )
        return f'{many}<div class="options {across([o.html for o in part.options])}{"" if sheet else " boxed"}">{rows}</div>'
    if isinstance(part, EntryPart):
        unit = f" {html.escape(part.unit)}" if part.unit else ""
        return (
            ""
            if sheet
            else f'<div class="entry"><span class="gap" style="width:{0.7 * part.width + 2:.1f}em"></span>{unit}</div>'
        )
    if isinstance(part, OrderPart):
        rows = "".join(
            f'<div class="option"><span class="box"></span>{text(o.html, pictures)}</div>' for o in part.options
        )
        return f'<div class="how">Number these in their order, 1 first.</div><div class="options">{rows}</div>'
    if isinstance(part, MatchPart):
        head = "".join(f"<th>{text(c.html, pictures)}</th>" for c in part.columns)
        rows = "".join(
            f"<tr><th>{text(r.html, pictures)}</th>{'<td><span class=box></span></td>' * len(part.columns)}</tr>"
            for r in part.rows
        )
        return (
            f'<div class="how">Tick one in each row.</div><table class="match"><tr><td></td>{head}</tr>{rows}</table>'
        )
    if isinstance(part, HotTextPart):
        picks = _PICK.sub(r'<span class="pick">\2</span>', text(part.text, pictures))
        most = f" up to {part.most}" if part.most else ""
        return f'<div class="how">Underline{most}; you may choose among the dotted pieces.</div><div class="hot">{picks}</div>'
    if isinstance(part, LinePart):
        return f'<div class="how">Mark the place with a cross.</div>{number_line(part)}'
    if isinstance(part, PointPart):
        picture = text(f'<img src="{html.escape(part.picture)}" alt="">', pictures)
        return f'<div class="how">Mark the place with a cross.</div><div class="picture">{picture}</div>'
    assert isinstance(part, WritingPart)
    return f'<div class="writing">{"<div></div>" * part.lines}</div>'


def picks(markup: str) -> list[tuple[str, str]]:
    """Pieces of a text that may be picked, by id, as words."""
    return [(m[1], bare_text(m[2])) for m in _PICK.finditer(markup)]


def across(options: list[str]) -> str:
    """How many options stand beside one another: short ones need no line each."""
    longest = max(len(bare_text(o)) if "<math" not in o else 8 for o in options)
    if any("<img" in o or "<table" in o for o in options):
        return ""
    return (
        "four" if longest <= 12 and len(options) % 4 == 0 else "two" if longest <= 30 and len(options) % 2 == 0 else ""
    )


def number_line(part: LinePart) -> str:
    """Ticks at every `every`, labeled."""
    count = int((part.high - part.low) / part.every + 1e-9)
    span = part.high - part.low
    ticks = []
    for n in range(count + 1):
        value = part.low + n * part.every
        x = 20 + 560 * (value - part.low) / span
        ticks.append(
            f'<line x1="{x:.1f}" x2="{x:.1f}" y1="14" y2="28" stroke="#16242a"/><text x="{x:.1f}" y="44" font-size="13" font-family="Next" text-anchor="middle">{f"{value:g}".replace("-", "−")}</text>'
        )
    return f'<svg class="line" viewBox="0 0 600 50" width="600" height="50"><line x1="8" x2="592" y1="21" y2="21" stroke="#16242a"/>{"".join(ticks)}</svg>'
