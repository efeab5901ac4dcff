"""A blueprint, and the kind and settings of a test, as they are kept and sent."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import Field, ValidationError, model_validator

from bildung.core.assembly import blueprint
from bildung.core.assembly import blueprint as core
from bildung.core.assembly.blueprint import TestBlueprint
from bildung.core.errors import Refused
from bildung.formats.content import ContentModel

Short = Annotated[str, Field(max_length=120)]
Kind = Literal["", "starting", "benchmark", "unit", "closing", "task", "spot", "mirror"]
Role = Literal["", "general", "shortened", "adapted", "demanding", "alternate", "parallel"]
ROLES: dict[str, str] = {
    "general": "for most",
    "shortened": "fewer items, all standards",
    "adapted": "own items, or fewer options",
    "demanding": "harder",
    "alternate": "the same in another order or with other values",
    "parallel": "other items of the same blueprint",
}


class Range(ContentModel):
    """Both ends included."""

    low: float = Field(ge=0, le=10_000)
    high: float = Field(ge=0, le=10_000)


class RowKept(ContentModel):
    low: float = Field(ge=0, le=1000)
    high: float = Field(ge=0, le=1000)
    count: Literal["items", "points"] = "items"
    standard: Short = ""
    topic: Short = ""
    unit: Short = ""
    depth: int | None = Field(default=None, ge=1, le=4)
    kind: Short = ""
    part: int = Field(default=0, ge=0, le=11)


class PartKept(ContentModel):
    name: Short = ""
    instructions: Annotated[str, Field(max_length=2000)] = ""
    minutes: int | None = Field(default=None, ge=1, le=600)


class Plan(ContentModel):
    """target: predicted mean share of the points. set_low 0: stimuli with all their items."""

    rows: list[RowKept] = Field(default=[], max_length=core.MOST_ROWS)
    parts: list[PartKept] = Field(default=[PartKept()], min_length=1, max_length=core.MOST_PARTS)
    items: Range | None = None
    points: Range | None = None
    minutes: Range | None = None
    target: float | None = Field(default=None, gt=0, lt=1)
    sets: Range | None = None
    set_low: int = Field(default=1, ge=0, le=50)
    set_high: int = Field(default=12, ge=1, le=50)

    def core(self) -> TestBlueprint:
        def both(given: Range | None) -> tuple[float, float] | None:
            return None if given is None else (given.low, given.high)

        def whole(given: Range | None) -> tuple[int, int] | None:
            return None if given is None else (int(given.low), int(given.high))

        return TestBlueprint(
            rows=tuple(
                core.Row(
                    low=r.low,
                    high=r.high,
                    count=r.count,
                    standard=r.standard,
                    topic=r.topic,
                    unit=r.unit,
                    depth=r.depth,
                    kind=r.kind,
                    part=r.part,
                )
                for r in self.rows
            ),
            parts=tuple(blueprint.TestPart(p.name, p.instructions, p.minutes) for p in self.parts),
            items=whole(self.items),
            points=both(self.points),
            minutes=both(self.minutes),
            target=self.target,
            sets=whole(self.sets),
            set_low=self.set_low,
            set_high=self.set_high,
        )

    @classmethod
    def of(cls, blueprint: TestBlueprint) -> Self:
        def both(given: tuple[float, float] | None) -> Range | None:
            return None if given is None else Range(low=given[0], high=given[1])

        return cls(
            rows=[RowKept(**{name: getattr(r, name) for name in RowKept.model_fields}) for r in blueprint.rows],
            parts=[PartKept(name=p.name, instructions=p.instructions, minutes=p.minutes) for p in blueprint.parts],
            items=both(blueprint.items),
            points=both(blueprint.points),
            minutes=both(blueprint.minutes),
            target=blueprint.target,
            sets=both(blueprint.sets),
            set_low=blueprint.set_low,
            set_high=blueprint.set_high,
        )


class DrawKept(ContentModel):
    """Of a drawn test: count items of each heap. by: what makes a heap. each: whether every student has a draw of their
    own or a session shares one. limit: how far the expected share of a draw may lie from the pool's."""

    count: int = Field(ge=1, le=100)
    by: Literal["standard", "topic", "unit", "all"] = "standard"
    each: Literal["student", "session"] = "student"
    limit: float | None = Field(default=0.05, gt=0, le=0.5)


class FormSettings(ContentModel):
    """How a form is sat. minutes: the time limit, None without one. movement: any item at any time, or one after the
    other. back: whether an item may be gone back to. tools: offered beside every item. hints: shown on asking.
    feedback: when students see the right answers; before release, that waits until no other session of the window can give
    the same items, unless `early` says otherwise. attempts: sittings of one student that may be begun. evidence: whether
    results count toward what a student is said to master. large_print: for whoever sits this form. breaks_stop: the clock stands still while a
    student is in the restroom. instructions: read before the test begins. practice: a practice question is offered then.
    submit_after: minutes from a student's start before which they cannot submit. timed_sections: each section ends by its own
    minutes (of the plan), and is not gone back to."""

    minutes: int | None = Field(default=None, ge=1, le=600)
    movement: Literal["free", "one"] = "free"
    back: bool = True
    tools: list[
        Literal[
            "calculator",
            "scientific",
            "ruler",
            "protractor",
            "sketch",
            "highlighter",
            "crossing_out",
            "notes",
            "read_aloud",
        ]
    ] = Field(default=[])
    instructions: Annotated[str, Field(max_length=2000)] = ""
    practice: bool = False
    submit_after: int | None = Field(default=None, ge=1, le=600)
    timed_sections: bool = False
    hints: bool = False
    feedback: Literal["now", "hand_in", "release"] = "release"
    early: bool = False
    attempts: int = Field(default=1, ge=1, le=10)
    evidence: bool = True
    large_print: bool = False
    breaks_stop: bool = False
    draw: DrawKept | None = None

    @model_validator(mode="after")
    def whole(self) -> Self:
        if self.movement == "one" and self.feedback == "now" and self.back:
            raise ValueError("feedback at once and going back do not go together: the answer would be known")
        return self


@dataclass(frozen=True)
class KindRule:
    """says: what it is for. same: everyone gets the same questions. defaults: its settings where nothing else is
    said."""

    says: str
    same: bool
    defaults: dict[str, Any]


KINDS: dict[str, KindRule] = {
    "starting": KindRule("what students bring along, before teaching begins", True, {"evidence": False}),
    "benchmark": KindRule("the same questions for a whole grade in a window", True, {"minutes": 60}),
    "unit": KindRule("one unit of the course, before or after it", False, {"feedback": "hand_in"}),
    "closing": KindRule("what was taught in a course, at its end", True, {"minutes": 90}),
    "task": KindRule("written or made, judged by a rubric", False, {"tools": ["notes"]}),
    "spot": KindRule("a few questions in class; may be drawn", False, {"feedback": "hand_in", "attempts": 2}),
    "mirror": KindRule(
        "practice by the blueprint of another test, with other items",
        False,
        {"evidence": False, "feedback": "now", "movement": "one", "back": False, "attempts": 5, "hints": True},
    ),
}

KeptT = TypeVar("KeptT", bound=ContentModel)


def read_plan(value: Any) -> Plan:
    """Refused with the first place that does not fit."""
    return _read(Plan, value, "blueprint")


def settings_of(kind: str, value: Any = None) -> FormSettings:
    """Settings as said, with what the kind sets where nothing is said."""
    rule = KINDS.get(kind)
    return _read(FormSettings, {**(rule.defaults if rule else {}), **_earlier(value or {})}, "settings")


def _earlier(value: dict[str, Any]) -> dict[str, Any]:
    """Settings as an earlier version kept them at forms that never change, in today's words."""
    kept = {name: said for name, said in value.items() if name != "fewer_options"}
    if kept.get("back") is False and kept.get("movement") == "free":
        kept["movement"] = "one"
    return kept


def _read(kept: type[KeptT], value: Any, what: str) -> KeptT:
    try:
        return kept.model_validate(value)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        place = ".".join(str(p + 1 if isinstance(p, int) else p) for p in first["loc"])
        raise Refused(f"{what}: {place + ': ' if place else ''}{first['msg'].removeprefix('Value error, ')}") from None
