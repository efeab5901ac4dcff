"""What a student is told of their answers: at once, after handing in, or when a session's results are released."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from bildung.core.errors import Refused
from bildung.core.scoring.settled import SettledScore, whole_response
from bildung.formats.answers import in_words
from bildung.formats.content import ChoicePart, Content, EntryPart, MenuPart
from bildung.formats.markup import bare_text
from bildung.formats.scored import awaits, by_rule_of, item_rule, part_rule
from bildung.services.answers.corrected import Ruling
from bildung.services.shared.wire import Id

Verdict = Literal["right", "partly", "wrong", "waits", "open"]


@dataclass(frozen=True, kw_only=True)
class Told:
    """Of one question. verdict: waits where a person has not scored it yet, open where nothing was answered. right: the right
    answer as HTML, empty where it cannot be said in a line. earned: None where it waits. comments: of scorers, to the
    student."""

    question: Id
    number: int
    verdict: Verdict
    earned: float | None
    points: float
    right: str
    solution: str
    comments: list[str] = field(default_factory=list)
    note: str = ""


def as_decided(told: Told, ruling: Ruling | None, points: float | None) -> Told:
    """With what was decided afterward: the question left out or given to all, or other points for this answer."""
    if ruling is not None and ruling.rule == "drop":
        return replace(told, earned=0.0, points=0.0, note="This question does not count.")
    if ruling is not None:
        verdict: Verdict = "right" if told.verdict in ("right", "waits") else told.verdict
        note = "Everyone was given the points for this question."
        return replace(told, earned=told.points, verdict=verdict, note=note)
    if points is not None:
        verdict = "right" if points >= told.points - 1e-9 else "partly" if points > 0 else "wrong"
        return replace(told, earned=points, verdict=verdict)
    return told


def tell(
    question: int,
    number: int,
    kind: str,
    content: Content,
    answer: str,
    reveal: bool = True,
    given: SettledScore | None = None,
    comments: Sequence[str] = (),
) -> Told:
    """By the same rules that every figure uses. reveal: whether the right answer may be named and explained. given: what
    a person's scores are worth. A response that is missing by its condition code is in no points."""
    points = sum(s.points for s in content.scoring)
    if kind != "reason" and awaits(item_rule(content.shown, content.scoring)):
        return _by_person(question, number, content, answer, points, given, comments, reveal)
    earned = earned_by(kind, content, answer)
    verdict = _verdict(earned, points, answer)
    if not reveal:
        return Told(
            question=question,
            number=number,
            verdict=verdict,
            earned=earned,
            points=points,
            right="",
            solution="",
            comments=list(comments),
        )
    return Told(
        question=question,
        number=number,
        verdict=verdict,
        earned=earned,
        points=points,
        right=right_answer(content),
        solution=content.behind.solution,
        comments=list(comments),
    )


def _verdict(earned: float, points: float, answer: str) -> Verdict:
    return "right" if earned >= points - 1e-9 else "partly" if earned > 0 else "wrong" if answer else "open"


def _by_person(
    question: int,
    number: int,
    content: Content,
    answer: str,
    points: float,
    given: SettledScore | None,
    comments: Sequence[str],
    reveal: bool,
) -> Told:
    earned, verdict = _settled(content, answer, points, given)
    missing = given is not None and given.missing
    return Told(
        question=question,
        number=number,
        verdict=verdict,
        earned=earned,
        points=0.0 if missing else points,
        right="",
        solution=content.behind.solution if reveal and verdict != "waits" and answer else "",
        comments=list(comments) if verdict != "waits" else [],
    )


def _settled(content: Content, answer: str, points: float, given: SettledScore | None) -> tuple[float | None, Verdict]:
    """What a response earns that a person scores at least in part, and what that is called."""
    if not answer:
        return 0.0, "open"
    try:
        found = whole_response(*by_rule_of(item_rule(content.shown, content.scoring), answer), given)
    except Refused:
        return None, "waits"
    if found.missing:
        return 0.0, "open"
    if found.points is None:
        return None, "waits"
    return found.points, _verdict(found.points, points, answer)


def earned_by(kind: str, content: Content, answer: str) -> float:
    """Points of an answer that no person has to mark; an answer that cannot be read earns none. A choice with a reason
    is judged as the choice."""
    if not answer:
        return 0.0
    try:
        if kind == "reason":
            rule, answer = part_rule(content.shown.parts[0], content.scoring[0]), in_words(content.shown, answer)[0]
        else:
            rule = item_rule(content.shown, content.scoring)
        return rule.points(rule.label(answer)) if answer else 0.0
    except Refused:
        return 0.0


def right_answer(content: Content) -> str:
    """In a line, as HTML; empty for answers that are no line (orders, pairs, areas)."""
    said = []
    for part, scoring in zip(content.shown.parts, content.scoring, strict=True):
        if not scoring.points or not scoring.key:
            continue
        if isinstance(part, ChoicePart | MenuPart):
            keys = {k.strip() for k in scoring.key.replace("+", "|").split("|")}
            said.append(", ".join(o.html for o in part.options if o.id in keys))
        elif isinstance(part, EntryPart):
            said.append(bare_text(scoring.key.partition("~")[0].split("|")[0]) + (f" {part.unit}" if part.unit else ""))
    return "; ".join(text for text in said if text)


def summary(told: Sequence[Told], own: bool = True) -> str:
    """One plain sentence for a student, or for a family."""
    waiting = sum(t.verdict == "waits" for t in told)
    earned = sum(t.earned or 0.0 for t in told)
    points = sum(t.points for t in told if t.verdict != "waits")
    text = f"{'You' if own else 'Your child'} got {earned:g} of {points:g} points"
    marked = f"{waiting} {'answer is' if waiting == 1 else 'answers are'} still being scored"
    if waiting and not points:
        return f"{marked}."
    return f"{text}; {marked}." if waiting else f"{text}."
