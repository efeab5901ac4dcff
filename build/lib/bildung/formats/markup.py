"""Item text from outside made safe: simple HTML and MathML, nothing that runs or fetches."""

from __future__ import annotations

import nh3

_HTML = {
    "p", "br", "b", "strong", "i", "em", "u", "sub", "sup", "span", "div", "ul", "ol", "li", "table", "thead", "tbody",
    "tr", "th", "td", "caption", "blockquote", "code", "hr", "small",
}  # fmt: skip
_MATH = {
    "math", "mrow", "mi", "mn", "mo", "ms", "mtext", "mspace", "mfrac", "msqrt", "mroot", "msup", "msub", "msubsup",
    "munder", "mover", "munderover", "mtable", "mtr", "mtd", "mstyle", "mpadded", "mphantom", "merror",
}  # fmt: skip
_ATTRIBUTES = {
    "math": {"display"}, "mo": {"stretchy", "fence", "form"}, "mspace": {"width"}, "mi": {"mathvariant"},
    "mfrac": {"linethickness"}, "td": {"colspan", "rowspan"}, "th": {"colspan", "rowspan", "scope"},
    "mtable": {"columnalign"},
}  # fmt: skip


def safe_html(text: str) -> str:
    """The text with everything removed that is not plain formatting or MathML. Its own fixed point."""
    return nh3.clean(text, tags=_HTML | _MATH, attributes=_ATTRIBUTES, url_schemes=set(), strip_comments=True).strip()
