"""What travels over the wire about blueprints and forms that are built from them. Blueprints travel as they are kept."""

from __future__ import annotations

from pydantic import BaseModel, Field

from bildung.api.schemas import Id, Out, Pair
from bildung.core.assembly.blueprint import Held
from bildung.formats.blueprint import Plan
from bildung.services.building.assembling import Clash, Nearby, PlacedItem


class BlueprintIn(BaseModel):
    revision: int = 0
    name: str
    subject: str = ""
    grade: str = ""
    kind: str = ""
    content: Plan


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
    held: list[Held]
    retired: list[str]
    finding: str


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


class OfferedOut(Out):
    items: list[PlacedItem]
    predicted: PredictedOut
    held: list[Held]


class AssemblyOut(Out):
    finding: str
    forms: list[OfferedOut]
    deviation: float | None
    bound: float | None
    candidates: int
    clashes: list[Clash]
    irreducible: bool
    nearest: Nearby | None


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
