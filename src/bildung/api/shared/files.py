"""Files that are sent."""

from __future__ import annotations

from fastapi import Response

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
KINDS = {"pdf": "application/pdf", "xlsx": XLSX, "csv": "text/csv; charset=utf-8"}


def as_file(data: bytes, name: str, kind: str) -> Response:
    """To be kept under a name. kind: of `KINDS`, which is its ending as well."""
    headers = {"Content-Disposition": f'attachment; filename="{name}.{kind}"'}
    return Response(data, media_type=KINDS[kind], headers=headers)
