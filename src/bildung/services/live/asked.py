"""Questions of a round as everybody needs them: what is shown, what may be answered, what is right."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.formats.answers import unfit
from bildung.formats.content import ChoicePart, Content, Shown
from bildung.formats.markup import safe_html
from bildung.services.items.bankitem import StimulusView, content_of, shown_safely, stimulus_view
from bildung.services.shared.wire import Id
from bildung.services.sitting.feedback import earned_by
from bildung.store.models import ItemVersion, LiveAnswer, LiveQuestion, LiveRound

LETTERS = "ABCDEFGH"


def topic(round_id: int) -> str:
    """What pages of a round listen to."""
    return f"live:{round_id}"


@dataclass(frozen=True, kw_only=True)
class Asked:
    """A question of a round. version, content: of the item, None for one said aloud. options: what there is to choose from;
    empty for an open question. number: in its round, from 1."""

    question: LiveQuestion
    number: int
    version: ItemVersion | None
    content: Content | None
    options: list[str]
    right: list[str]

    @property
    def points(self) -> float:
        """All that it is worth; nothing where it was said aloud."""
        return sum(s.points for s in self.content.scoring) if self.content else 0.0

    def is_right(self, answer: str) -> bool:
        """Whether it earns all points; of a question said aloud nothing is known."""
        if self.version is None or self.content is None:
            return False
        return earned_by(self.version.kind, self.content, answer) >= self.points - 1e-9

    def unfit(self, answer: str) -> str:
        """Why it is no answer to this question, or nothing."""
        if self.content is None:
            return "" if answer in self.options else f"one of {', '.join(self.options)}"
        return unfit(self.content.shown, answer) if answer else "answer the question"


@dataclass(frozen=True, kw_only=True)
class ShownQuestion:
    """As students and the projector see it: never the key. letters: options of a question said aloud."""

    id: Id
    number: int
    again: bool
    words: str
    shown: Shown | None
    stimulus: StimulusView | None
    letters: list[str]
    closed: bool


def asked_of(db: Session, question: LiveQuestion, number: int) -> Asked:
    """A question with its item. number: in its round; 0 where nobody asks for it."""
    version = db.get(ItemVersion, question.item_version_id) if question.item_version_id else None
    content = content_of(version) if version is not None else None
    options, right = list(LETTERS[: question.options]), list[str]()
    if content is not None:
        options = []
        part = content.shown.parts[0]
        if len(content.shown.parts) == 1 and isinstance(part, ChoicePart) and part.most == 1:
            options = [option.id for option in part.options]
            keys = {key.strip() for key in content.scoring[0].key.split("|")}
            right = [option for option in options if option in keys]
    return Asked(question=question, number=number, version=version, content=content, options=options, right=right)


def shown_question(asked: Asked) -> ShownQuestion:
    """What a device or the projector is sent."""
    version = asked.version
    return ShownQuestion(
        id=asked.question.id,
        number=asked.number,
        again=asked.question.again_of is not None,
        words=asked.question.words,
        shown=shown_safely(version) if version is not None else None,
        stimulus=stimulus_view(version.stimulus) if version is not None else None,
        letters=asked.options if version is None else [],
        closed=asked.question.closed_at is not None,
    )


def questions_of(db: Session, round_: LiveRound) -> list[Asked]:
    """In the order in which they were asked."""
    rows = db.scalars(select(LiveQuestion).where(LiveQuestion.round_id == round_.id).order_by(LiveQuestion.id)).all()
    return [asked_of(db, row, number) for number, row in enumerate(rows, 1)]


def answers_to(db: Session, question_id: int) -> dict[int, LiveAnswer]:
    """By student."""
    rows = db.scalars(select(LiveAnswer).where(LiveAnswer.question_id == question_id))
    return {row.person_id: row for row in rows}


def in_option(asked: Asked, answer: str) -> str:
    """An answer as it is counted: the option, or its words."""
    return answer if asked.options else answer.strip()


def says(asked: Asked, answer: str) -> str:
    """An option in words, as HTML; any other answer is its own."""
    if asked.content is None or not asked.options:
        return ""
    part = asked.content.shown.parts[0]
    assert isinstance(part, ChoicePart)
    return next((safe_html(option.html) for option in part.options if option.id == answer), "")


def note_of(asked: Asked, answer: str) -> str:
    """What somebody thinks who gives this wrong answer, as the item's author wrote it."""
    if asked.content is None:
        return ""
    return next((m.note for m in asked.content.behind.misconceptions if m.answer == answer), "")
