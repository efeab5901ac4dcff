"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Out, Ref
from bildung.core.school.dates import Style
from bildung.services.people.colleagues import ColleagueLine


class DemoPerson(Out):
    name: str
    role: str
    username: str
    password: str


class Welcome(Out):
    """provider: what the federation calls its sign-in provider, or empty where none is in use."""

    federation: str
    demo_people: list[DemoPerson]
    provider: str


class StaffSignIn(BaseModel):
    username: str = Field(max_length=120)
    password: str = Field(max_length=200)
    end_others: bool = False


class StudentSignIn(BaseModel):
    """at_home: not at school, as the student says; kept with the attempt."""

    session_code: str = Field(max_length=20)
    own_code: str = Field(max_length=20)
    at_home: bool = False


class Station(Out):
    """letter: after `g`, it leads there."""

    name: str
    path: str
    letter: str


class Me(Out):
    name: str
    roles: list[str]
    csrf: str
    stations: list[Station]
    may: list[str]
    must_change: bool
    letter_keys: bool
    zone: str
    formats: Style


class ColleaguesOut(Out):
    colleagues: list[ColleagueLine]
    could_ask: list[Ref]


class LetterKeys(BaseModel):
    on: bool


class ShowIn(BaseModel):
    person_id: str
