"""What travels over the wire about blueprints and forms that are built from them. Blueprints travel as they are kept."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel, Field

from bildung.api.schemas import Id, Out, Pair
from bildung.api.schemas_bank import BankItemOut
from bildung.formats.blueprint import Plan


class BlueprintIn(BaseModel):
    revision: int = 0
    name: str
    subject: str = ""
    grade: str = ""
    kind: str = ""
    content: Plan


class StockOut(Out):
    items: int
    points: float
    known: int
    fresh: int
    missing: float
    empties: str


class FormName(Pair):
    id: Id
    name: str


class BlueprintOut(Out):
    id: Id
    name: str
    subject: str
    grade: str
    kind: str
    revision: int
    content: Plan
    changed_at: datetime
    stock: list[StockOut]
    contradiction: str
    forms: list[FormName]
    may_write: bool
    finding: str


class BlueprintLineOut(Out):
    id: Id
    name: str
    subject: str
    grade: str
    kind: str
    rows: int
    forms: int
    changed_at: datetime


class HeldOut(Out):
    name: str
    count: str
    have: float
    low: float
    high: float
    missing: float
    says: str
    row: int | None


class DepthOut(Pair):
    depth: str
    items: int


class Ends(Pair):
    low: float
    high: float


class PredictedOut(Out):
    items: int
    known: int
    points: float
    known_points: float
    minutes: float
    untimed: int
    mean: float | None
    mean_ci95: Ends | None
    share: float | None
    sd: float | None
    alpha: float | None
    sem: float | None
    distribution: list[float]
    unknown: list[str]
    depths: list[DepthOut]
    used: int
    why: dict[str, str]


class OutlookOut(Out):
    predicted: PredictedOut
    held: list[HeldOut]
    retired: list[str]
    finding: str


class EqualOut(Out):
    item: BankItemOut
    differs: str
    p: float | None
    n: int
    used: int


class AssembleIn(BaseModel):
    """fixed: ids of item versions by form. window_id: items planned in it are left, where once_a_window is asked."""

    forms: int = Field(default=1, ge=1, le=8)
    anchor: int = Field(default=0, ge=0, le=100)
    overlap: int = Field(default=0, ge=0, le=100)
    fixed: list[list[str]] = []
    excluded: list[str] = []
    least_r: float | None = Field(default=None, ge=-1, le=1)
    most_used: int | None = Field(default=None, ge=0, le=100)
    once_a_window: bool = True
    unsat: int | None = Field(default=None, ge=0, le=200)
    flagged: bool = False
    window_id: str | None = None
    seconds: float = Field(default=20, ge=1, le=120)
    job: str = ""


class PlacedOut(Out):
    version_id: Id
    code: str
    standard: str
    kind: str
    depth: int | None
    points: float
    stimulus: str
    part: int
    p: float | None
    n: int
    common: bool


class OfferedOut(Out):
    items: list[PlacedOut]
    predicted: PredictedOut
    held: list[HeldOut]


class ClashOut(Out):
    says: str
    needed: float | None
    available: float | None


class NearbyOut(Out):
    content: Plan
    gives_up: list[str]


class AssemblyOut(Out):
    finding: str
    forms: list[OfferedOut]
    deviation: float | None
    bound: float | None
    candidates: int
    clashes: list[ClashOut]
    irreducible: bool
    nearest: NearbyOut | None


class PlaceIn(BaseModel):
    version_id: str
    part: int = 0


class KeepIn(BaseModel):
    name: str
    title: str = ""
    forms: list[list[PlaceIn]] = Field(max_length=8)


class KeptForms(Out):
    family_id: Id | None
    forms: list[Id]


class KindOut(Out):
    """says: what it is for. same: everyone gets the same questions."""

    name: str
    says: str
    same: bool


class CheckOut(Out):
    """weight: stop, look or fine."""

    name: str
    weight: str
    says: str
