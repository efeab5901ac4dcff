"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Out


class AskIn(BaseModel):
    code: str = Field(max_length=20)
    given: str = Field(max_length=80)
    family: str = Field(max_length=80)


class TicketOut(Out):
    ticket: str


class TicketIn(BaseModel):
    ticket: str = Field(max_length=80)


class TicketStateOut(Out):
    state: str
    klass: str
