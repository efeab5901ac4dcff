"""Pages of a PDF as pictures, for looking at before printing."""

from __future__ import annotations

import io
import threading
from typing import Any

SCALE = 1.5
_one = threading.Lock()  # PDFium is not made for several threads


def open_document(data: bytes) -> Any:
    import pypdfium2

    with _one:
        return pypdfium2.PdfDocument(data)


def page(data: bytes, number: int) -> bytes | None:
    """A page, from 1, as PNG at SCALE dots a point; None where there is none."""
    document = open_document(data)
    with _one:
        if not 1 <= number <= len(document):
            return None
        out = io.BytesIO()
        document[number - 1].render(scale=SCALE).to_pil().save(out, "PNG", optimize=True)
        return out.getvalue()
