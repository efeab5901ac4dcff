"""Kinds of files that are sent."""

from __future__ import annotations

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
