"""An answer of several parts: scored part by part, one part's points able to hang on another's."""

from __future__ import annotations

import json
from dataclasses import dataclass

from bildung.core.errors import Refused
from bildung.core.scoring.rules import Rule
from bildung.core.scoring.words import Marked


@dataclass(frozen=True, kw_only=True)
class ScoredPart:
    """A part of an item as it is scored.

    Attributes
    ----------
    id : str
        Its name.
    rule : Rule | None
        None for a part that is kept but earns nothing (a written reason).
    maximum : float
        Most points that can be earned.
    needs : str
        The part that must have all its points for this one to count.
    carried : tuple[tuple[str, Rule], ...]
        By the label of that part's answer, the rule that holds instead (an error there is not punished twice);
        where it names the label, `needs` does not take the points away.
    """

    id: str
    rule: Rule | None
    maximum: float
    needs: str = ""
    carried: tuple[tuple[str, Rule], ...] = ()


@dataclass(frozen=True, kw_only=True)
class PartScore:
    """One part of one answer. points: None where a person must mark it, or where nothing is earned by it."""

    id: str
    label: str
    points: float | None
    maximum: float
    why: str


@dataclass(frozen=True)
class SeveralParts:
    """The rule of an item with several parts. An answer is a JSON object from a part's id to the answer given there."""

    parts: tuple[ScoredPart, ...]

    def __post_init__(self) -> None:
        ids = [part.id for part in self.parts]
        if len(set(ids)) != len(ids):
            raise Refused("each part has its own name")
        for at, part in enumerate(self.parts):
            if part.needs and part.needs not in ids[:at]:
                raise Refused(f"part {part.id} hangs on part {part.needs}, which does not stand before it")

    @property
    def maximum(self) -> float:
        """Most points that the parts earn together."""
        return sum(part.maximum for part in self.parts if part.rule is not None)

    @property
    def awaits(self) -> bool:
        """Whether a person marks any of it."""
        return any(isinstance(part.rule, Marked) for part in self.parts)

    def read(self, answer: str) -> dict[str, str]:
        """The parts of an answer that say something; Refused where it is not one."""
        try:
            found = json.loads(answer)
        except (ValueError, RecursionError):
            raise Refused("an answer of several parts is a JSON object from part to answer") from None
        ids = {part.id for part in self.parts}
        if not isinstance(found, dict) or any(k not in ids or not isinstance(v, str) for k, v in found.items()):
            raise Refused(f"an answer of several parts names parts {', '.join(sorted(ids))} only, each with a text")
        return {id: text for id, text in found.items() if text.strip()}

    def label(self, answer: str) -> str:
        """The label of an answer as given; Refused where it is no answer."""
        found = self.read(answer)
        labels = {p.id: p.rule.label(found[p.id]) for p in self.parts if p.rule is not None and p.id in found}
        return json.dumps(labels, ensure_ascii=False, separators=(",", ":")) if labels else "{}"

    def points(self, label: str) -> float:
        """Points that a label earns."""
        return sum(score.points or 0.0 for score in self.scores(label))

    def scores(self, answer: str) -> list[PartScore]:
        """Part by part, with a sentence where it is not simply right or wrong."""
        found = self.read(answer)
        full: dict[str, bool] = {}
        labels: dict[str, str] = {}
        scores = []
        for part in self.parts:
            if part.rule is None:
                scores.append(
                    PartScore(
                        id=part.id,
                        label=found.get(part.id, ""),
                        points=None,
                        maximum=0.0,
                        why="kept with the answer, not scored",
                    )
                )
                continue
            labels[part.id] = part.rule.label(found[part.id]) if part.id in found else ""
            label = labels[part.id]
            if isinstance(part.rule, Marked):
                full[part.id] = False
                scores.append(
                    PartScore(
                        id=part.id,
                        label=label,
                        points=None if label else 0.0,
                        maximum=part.maximum,
                        why="scored by a person" if label else "",
                    )
                )
                continue
            carried = dict(part.carried).get(labels.get(part.needs, "")) if part.needs else None
            rule = carried or part.rule
            earned = rule.points(rule.label(found[part.id])) if label else 0.0
            why = ""
            if carried is not None:
                why = f"scored by what part {part.needs} says"
            elif part.needs and not full[part.needs] and earned:
                earned, why = 0.0, f"part {part.needs} is not right, so this one earns nothing"
            full[part.id] = earned >= part.maximum
            scores.append(PartScore(id=part.id, label=label, points=earned, maximum=part.maximum, why=why))
        return scores
