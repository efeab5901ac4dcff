"""Item text from outside made safe: simple HTML and MathML, nothing that runs or fetches from elsewhere."""

from __future__ import annotations

import functools
import html
import re

import nh3

_HTML = {
    "p",
    "br",
    "b",
    "strong",
    "i",
    "em",
    "u",
    "sub",
    "sup",
    "span",
    "div",
    "ul",
    "ol",
    "li",
    "table",
    "thead",
    "tbody",
    "tr",
    "th",
    "td",
    "caption",
    "blockquote",
    "code",
    "hr",
    "small",
    "img",
}
_MATH = {
    "math",
    "mrow",
    "mi",
    "mn",
    "mo",
    "ms",
    "mtext",
    "mspace",
    "mfrac",
    "msqrt",
    "mroot",
    "msup",
    "msub",
    "msubsup",
    "munder",
    "mover",
    "munderover",
    "mtable",
    "mtr",
    "mtd",
    "mstyle",
    "mpadded",
    "mphantom",
    "merror",
}
_ATTRIBUTES = {
    "math": {"display"},
    "mo": {"stretchy", "fence", "form"},
    "mspace": {"width"},
    "mi": {"mathvariant"},
    "mfrac": {"linethickness"},
    "td": {"colspan", "rowspan"},
    "th": {"colspan", "rowspan", "scope"},
    "mtable": {"columnalign"},
    "img": {"src", "alt", "width", "height"},
    "span": {"data-gap", "data-pick"},
}
MEDIA = re.compile(r"/api/media/[0-9a-f]{24}")
_NAME = re.compile(r"[A-Za-z0-9_]{1,12}")
_GAP = re.compile(r'data-gap="([A-Za-z0-9_]{1,12})"')
_PICK = re.compile(r'data-pick="([A-Za-z0-9_]{1,12})"')
_IMAGE = re.compile(r"<img\b[^>]*>")
_BLANKS = re.compile(r"\s+")


def _kept(tag: str, attribute: str, value: str) -> str | None:
    """Pictures only from the bank's own store; names of gaps and picks only as names."""
    if attribute == "src":
        return value if MEDIA.fullmatch(value) else None
    if attribute in ("data-gap", "data-pick"):
        return value if _NAME.fullmatch(value) else None
    if tag == "img" and attribute in ("width", "height"):
        return value if value.isdigit() and len(value) < 5 else None
    return value


@functools.lru_cache(maxsize=20_000)
def safe_html(text: str) -> str:
    """The text with everything removed that is not plain formatting, MathML or a picture of the bank. Its own fixed
    point."""
    clean = nh3.clean(
        text,
        tags=_HTML | _MATH,
        attributes=_ATTRIBUTES,
        url_schemes=set(),
        strip_comments=True,
        attribute_filter=_kept,
    )
    return _IMAGE.sub(lambda found: found[0] if "src=" in found[0] else "", clean).strip()


def bare_text(text: str) -> str:
    """The words of formatted text without its markup."""
    return _BLANKS.sub(" ", html.unescape(re.sub(r"<[^>]+>", " ", text))).strip()


def gaps_in(text: str) -> list[str]:
    return _GAP.findall(text)


def hot_words_in(text: str) -> list[str]:
    return _PICK.findall(text)
