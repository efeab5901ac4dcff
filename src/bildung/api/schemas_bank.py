"""What travels over the wire about the bank. Content, scoring and templates travel as they are kept."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel, Field

from bildung.api.schemas import Id, Named, Out, Pair, StimulusView, UseOut, VerdictOut
from bildung.formats.blueprint import FormSettings
from bildung.formats.content import Behind, Content, PartScoring, Shown
from bildung.formats.template import Template


class TagsOut(Out):
    depth: int | None
    topic: str
    unit: str
    language: str
    calculator: str
    seconds: int | None
    source: str
    labels: list[str]


class BankItemOut(Out):
    """A version of an item, with its key: for those who may read the bank."""

    version_id: Id
    item_id: Id
    code: str
    number: int
    kind: str
    subject: str
    grade: str
    state: str
    shown: Shown
    scoring: list[PartScoring]
    behind: Behind
    key: str
    points: float
    standards: list[str]
    stimulus: StimulusView | None
    tags: TagsOut
    template: bool
    drawn: Template | None


class FoundOut(Out):
    """An item with its history, the latest first."""

    item: BankItemOut
    uses: list[UseOut]
    this_year: int
    comments: int
    draft: str


class BankOut(Out):
    """line: what was looked for, written out."""

    items: list[FoundOut]
    total: int
    line: str


class FaultOut(Pair):
    place: str
    wanted: str


class DraftOut(Out):
    item_id: Id
    code: str
    revision: int
    stage: str
    content: Content
    template: Template | None
    standards: list[str]
    stimulus_id: Id | None
    faults: list[FaultOut]
    author: str
    updated_at: datetime
    of: int | None
    offered_from: str
    may_finish: bool


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


class WrittenOut(Out):
    """A draft. changes: the version it would follow; null of a new item. faults: what is still wanted."""

    item_id: Id
    code: str
    subject: str
    grade: str
    standard: str
    text: str
    stage: str
    changes: int | None
    author: str
    updated_at: datetime
    faults: int
    comments: int


class WritingOut(Out):
    finding: str
    mine: list[WrittenOut]
    review: list[WrittenOut]


class MadeItem(Out):
    item_id: Id


class CommentOut(Out):
    id: Id
    by: str
    at: datetime
    text: str
    settled: bool
    own: bool


class NewText(BaseModel):
    text: str


class MoveIn(BaseModel):
    to: str
    why: str = ""


class VersionOut(Out):
    number: int
    at: datetime
    author: str
    kind: str


class RelatedOut(Out):
    id: Id
    code: str


class PooledOut(Out):
    items: int
    sat: int
    n: int
    p: float | None
    low: float | None
    high: float | None
    differ: str


class ItemPageOut(Out):
    """An item as its page shows it. moves: where it may go from here."""

    item: BankItemOut | None
    item_id: Id
    code: str
    subject: str
    grade: str
    state: str
    tags: TagsOut
    own: bool
    uses: list[UseOut]
    verdicts: list[VerdictOut]
    versions: list[VersionOut]
    comments: list[CommentOut]
    draft: str
    draft_by: str
    origin: RelatedOut | None
    origin_version: int | None
    copies: list[RelatedOut]
    enemies: list[RelatedOut]
    pooled: PooledOut | None
    moves: list[str]
    may_write: bool
    may_finish: bool
    finding: str


class DifferenceOut(Out):
    what: str
    before: str
    after: str
    html: bool


class CompareOut(Out):
    before: BankItemOut
    after: BankItemOut
    differences: list[DifferenceOut]


class TryIn(BaseModel):
    content: Content
    answers: dict[str, str]


class PartScoreOut(Out):
    id: str
    label: str
    points: float | None
    maximum: float
    why: str


class TryOut(Out):
    """points: None while a person has to mark some of it."""

    parts: list[PartScoreOut]
    points: float | None
    maximum: float
    said: str


class DrawsIn(BaseModel):
    content: Content
    template: Template
    seed: int = Field(default=1, ge=0, le=10**9)


class DrawOut(Out):
    seed: int
    values: dict[str, str]
    content: Content | None
    wrong: str


class DrawsOut(Out):
    draws: list[DrawOut]
    checked: int
    different: int
    wrong: int
    reasons: list[Named]
    finding: str


class MakeDraws(BaseModel):
    count: int
    seed: int = Field(default=1, ge=0, le=10**9)


class CodesOut(Out):
    codes: list[str]


class StimulusLineOut(Out):
    id: Id
    code: str
    number: int
    title: str
    kind: str
    subject: str
    grade: str
    items: int
    words: int
    own: bool


class StimuliOut(Out):
    finding: str
    stimuli: list[StimulusLineOut]


class AboutOut(Out):
    id: Id
    code: str
    text: str


class StimulusOut(Out):
    view: StimulusView
    subject: str
    grade: str
    items: list[AboutOut]
    may_change: bool


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


class TagMove(Pair):
    field: str
    before: str
    after: str


class TagLineOut(Out):
    item_id: Id
    code: str
    changes: list[TagMove]


class TagPreviewOut(Out):
    chosen: int
    changed: int
    lines: list[TagLineOut]
    stamp: str
    finding: str


class TagsDoneOut(Out):
    id: Id
    what: str
    at: datetime
    by: str
    items: int
    undone: bool


class UndoneOut(Out):
    items: int


class MissOut(Out):
    code: str
    what: list[str]


class ExportLookOut(Out):
    """What an export would leave behind."""

    items: int
    whole: int
    misses: list[MissOut]
    finding: str


class FieldsOut(Out):
    """Everything that can be looked for and said, for the controls."""

    kinds: list[Named]
    states: list[str]
    orders: list[Named]
    fields: list[Named]
    numbers: list[Named]
    topics: list[str]
    units: list[str]
    labels: list[str]
    sources: list[str]
    flags: list[str]


class FormOut(Out):
    id: Id
    name: str
    title: str
    subject: str
    grade: str
    revision: int
    published_at: datetime | None
    kind: str
    family_id: Id | None
    family: str
    role: str
    unit: str
    planned: bool
    settings: FormSettings
    says: list[str]
    part_names: list[str]
    faces: int
    before_id: Id | None
    mirror_id: Id | None
    points: float
    items: list[BankItemOut]
    parts: list[int]
    coverage: list[Named]
    standards: int
