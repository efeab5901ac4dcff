"""What travels about frameworks."""

from __future__ import annotations

from pydantic import BaseModel, Field


class CodeText(BaseModel):
    text: str
    plain: str


class StandardChange(BaseModel):
    plain: str = Field(max_length=1000)
    priority: bool
