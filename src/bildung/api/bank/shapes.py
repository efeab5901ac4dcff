"""What the routes of this station take, and what they answer where no service has it in one piece."""

from __future__ import annotations

from pydantic import BaseModel, Field

from bildung.api.shared.shapes import Id, Out
from bildung.formats.content import Content
from bildung.formats.template import Template
from bildung.services.bank.itempage import Difference
from bildung.services.bank.search import Found
from bildung.services.bank.stimuli import StimulusLine
from bildung.services.items.bankitem import BankItem


class BankOut(Out):
    """line: what was looked for, written out."""

    items: list[Found]
    total: int
    line: str


class DraftIn(BaseModel):
    revision: int
    content: Content
    standards: list[str] = []
    stimulus_id: str | None = None
    template: Template | None = None


class Revision(BaseModel):
    revision: int
    back: bool = False


class NewItem(BaseModel):
    code: str
    subject: str = ""
    grade: str = ""
    stimulus_id: str | None = None


class MadeItem(Out):
    item_id: Id


class NewText(BaseModel):
    text: str


class MoveItemIn(BaseModel):
    to: str
    why: str = ""


class CompareOut(Out):
    before: BankItem
    after: BankItem
    differences: list[Difference]


class TryIn(BaseModel):
    content: Content
    answers: dict[str, str]


class DrawsIn(BaseModel):
    content: Content
    template: Template
    seed: int = Field(default=1, ge=0, le=10**9)


class MakeDraws(BaseModel):
    count: int
    seed: int = Field(default=1, ge=0, le=10**9)


class CodesOut(Out):
    codes: list[str]


class StimuliOut(Out):
    finding: str
    stimuli: list[StimulusLine]


class StimulusIn(BaseModel):
    number: int = 0
    code: str = ""
    subject: str = ""
    grade: str = ""
    title: str
    kind: str
    html: str = ""
    numbered: bool = False
    media: str = ""
    told: str = ""
    credit: str = ""


class MediaOut(Out):
    key: str
    type: str
    address: str
    width: int | None
    height: int | None
    seconds: float | None


class TagsIn(BaseModel):
    """Only what is said changes. Texts: empty takes away. depth, seconds: 0 takes away."""

    subject: str | None = None
    grade: str | None = None
    topic: str | None = None
    unit: str | None = None
    language: str | None = None
    calculator: str | None = None
    source: str | None = None
    depth: int | None = None
    seconds: int | None = None
    label: list[str] = []
    unlabel: list[str] = []
    standard: str = ""
    touch: str = ""
    untouch: str = ""
    enemies: str = ""


class TaggingIn(BaseModel):
    """items: ids; where there are none, all that fit the line."""

    find: str = ""
    items: list[str] = []
    change: TagsIn
    stamp: str = ""


class UndoneOut(Out):
    items: int


class CodeText(BaseModel):
    text: str
    plain: str


class StandardChange(BaseModel):
    plain: str = Field(max_length=1000)
    priority: bool
