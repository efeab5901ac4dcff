"""Notes and sketches that a student makes beside an answer: kept like answers, in their order, and not scored by themselves."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Connection, tuple_
from sqlalchemy.dialects.sqlite import insert

from bildung.services.shared.access import Sitter
from bildung.services.sitting.answerable import Answerable
from bildung.services.sitting.events import Answer
from bildung.store.models import StudentWork

LONGEST = {"notes": 4000, "sketch": 60_000}  # characters
_NEW = insert(StudentWork)
_PRESENT = _NEW.on_conflict_do_update(
    index_elements=[StudentWork.sitting_id, StudentWork.form_item_id, StudentWork.kind],
    set_={name: _NEW.excluded[name] for name in ("content", "takeover", "sequence")},
    where=tuple_(_NEW.excluded.takeover, _NEW.excluded.sequence) > tuple_(StudentWork.takeover, StudentWork.sequence),
)


def keep_work(
    connection: Connection, sitter: Sitter, paper: Answerable, work: Sequence[Answer], closed: bool, practice: bool
) -> tuple[list[str], list[tuple[str, str]]]:
    """Ids that are kept, and those refused with why. Of practice nothing is kept, and that is no fault of the device."""
    kept, refused = [], []
    for one in work:
        why = _unfit(sitter, paper, one, closed)
        if why:
            refused.append((one.id, why))
            continue
        kept.append(one.id)
        if not practice:
            row = {
                "sitting_id": sitter.sitting_id,
                "form_item_id": one.question,
                "kind": one.about,
                "content": one.answer,
                "takeover": one.takeover,
                "sequence": one.sequence,
            }
            connection.execute(_PRESENT, row)
    return kept, refused


def _unfit(sitter: Sitter, paper: Answerable, one: Answer, closed: bool) -> str:
    if one.about not in LONGEST:
        return "notes or sketch"
    if one.question not in paper.questions:
        return "this question is not on your test"
    if not 0 <= one.takeover <= sitter.takeover or one.sequence < 1:
        return "the message is not in order"
    if len(one.answer) > LONGEST[one.about]:
        return f"at most {LONGEST[one.about]} characters"
    try:
        one.answer.encode()
    except UnicodeEncodeError:
        return "it holds half of a character"
    return "this test is already submitted" if closed else ""
