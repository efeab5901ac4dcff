"""Ids as they leave the server: whole numbers here, text on the wire, since a browser's numbers end at 2**53."""

from __future__ import annotations

from typing import Annotated

from pydantic import PlainSerializer

Id = Annotated[int, PlainSerializer(str, return_type=str)]
