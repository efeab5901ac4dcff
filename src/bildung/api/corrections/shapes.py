"""What the routes of this station take."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from bildung.api.shared.guard import number, number_or_none
from bildung.services.corrections.asked import CorrectionWish


class CorrectionIn(BaseModel):
    """A correction of an item of a form in a window (see services/corrections/asked.py). job: a name under which progress can be
    looked at."""

    kind: Literal["key", "drop", "everybody", "score", "rescore"]
    place: str = Field(max_length=20)
    window: str = Field(max_length=20)
    part: str = Field(default="", max_length=40)
    key: str = Field(default="", max_length=4000)
    spelling: str = Field(default="", max_length=10)
    unreached: bool = True
    sitting: str | None = Field(default=None, max_length=20)
    points: float | None = None
    scorer: str | None = Field(default=None, max_length=20)
    scoring: int | None = Field(default=None, ge=1, le=100_000)
    job: str = Field(default="", max_length=40)

    def wish(self) -> CorrectionWish:
        """As the services take it."""
        return CorrectionWish(
            kind=self.kind,
            place=number(self.place),
            window_id=number(self.window),
            part=self.part,
            key=self.key,
            spelling=self.spelling,
            unreached=self.unreached,
            sitting=number_or_none(self.sitting),
            points=self.points,
            scorer=number_or_none(self.scorer),
            scoring=self.scoring,
        )


class DecisionIn(CorrectionIn):
    """asof: of the preview that was looked at."""

    reason: str = Field(max_length=1000)
    asof: str = Field(max_length=40)


class UndoIn(BaseModel):
    reason: str = Field(max_length=1000)


class ScoreAsIn(BaseModel):
    """form: another of the family, which the booklets were of."""

    sittings: list[str] = Field(max_length=500)
    form: str = Field(max_length=20)
    reason: str = Field(max_length=1000)


class CorrectedForms(BaseModel):
    says: str
