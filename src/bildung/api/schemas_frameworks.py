"""What travels about frameworks."""

from __future__ import annotations

from pydantic import BaseModel, Field

from bildung.api.schemas import Id, Out, Pair


class FrameworkLineOut(Out):
    id: Id
    title: str
    version: str
    main: bool
    standards: int
    linked: int


class LinkedOut(Pair):
    relation: str
    framework: str
    code: str


class StandardRowOut(Out):
    id: Id
    code: str
    text: str
    plain: str
    kind: str
    subject: str
    grade: str
    grade_to: str
    priority: bool
    depth: int
    leaf: bool
    items: int
    linked: list[LinkedOut]


class FrameworkPageOut(Out):
    finding: str
    framework: FrameworkLineOut
    frameworks: list[FrameworkLineOut]
    rows: list[StandardRowOut]
    may_change: bool


class CodeText(BaseModel):
    text: str
    plain: str


class StandardChange(BaseModel):
    plain: str = Field(max_length=1000)
    priority: bool
