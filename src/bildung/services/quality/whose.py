"""The students behind a number of the workbench: by name where this person may see them, the rest counted."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from bildung.core.data.responses import FIRST, NOT_REACHED, OMITTED, Status
from bildung.core.school.privacy import alias_numbers
from bildung.services.people.named import NamedPerson, named_people
from bildung.services.quality.comparison import labels_of
from bildung.services.quality.item import place_of
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid

STATES = {
    "took": (Status.SAT, Status.WAITING),
    "sat": (Status.SAT,),
    "waiting": (Status.WAITING,),
    "absent": (Status.ABSENT,),
    "blank": (Status.BLANK,),
    "in_progress": (Status.IN_PROGRESS,),
    "exempt": (Status.EXEMPT,),
    "void": (Status.VOID,),
}
OF_ITEM = ("answer", "omitted", "not_reached", "got_it", "missed_it")


@dataclass(frozen=True)
class NamedBehind:
    """n: how many there are; named: of these, by class and name; hidden: those whom this person may not see by name."""

    n: int
    named: list[NamedPerson]
    hidden: int


def whose(ctx: Context, actor: Actor, wanted: ScopeRequest, of: str, item: str = "", answer: str = "") -> NamedBehind:
    """of: a state of a sitting, `points` (answer: the number), or of an item `answer` (with the answer), `omitted`,
    `not_reached`, `got_it` (all points), `missed_it` (fewer), or `group` (item: what is compared by, answer: its name, those
    of it with a total). Refused for anything else."""
    scope(actor, Action.QUALITY_READ)
    judged = judge(ctx, actor, wanted)
    rows = _group(ctx, actor, judged, item, answer) if of == "group" else _rows(judged, of, item, answer)
    session = judged.together.session[rows]
    mine = np.isin(session, list(judged.scoped.named))
    titles = {o.id: o.klass for o in judged.scoped.chosen}
    seen = {(int(judged.together.people[row]), titles[int(judged.together.session[row])]) for row in rows[mine]}
    named = named_people(ctx, seen, _order_of_aliases(judged))
    return NamedBehind(len(named) + int((~mine).sum()), named, int((~mine).sum()))


def _group(ctx: Context, actor: Actor, judged: Judged, by: str, name: str) -> npt.NDArray[np.int64]:
    here = np.array([label == name for label in labels_of(ctx, actor, judged, by)], dtype=np.bool_)
    return judged.counted[np.flatnonzero(here & judged.analysis.scores.complete)]


def _order_of_aliases(judged: Judged) -> dict[int, int]:
    """By person the number that stands for the name: as the grid of answers has it, who is not counted after them."""
    counted = [int(p) for p in judged.people[judged.named]]
    numbers = dict(zip(counted, alias_numbers(counted), strict=True))
    rest = [int(p) for p in judged.together.people if int(p) not in numbers]
    return numbers | {p: len(numbers) + n for p, n in zip(rest, alias_numbers(rest), strict=True)}


def _rows(judged: Judged, of: str, item: str, answer: str) -> npt.NDArray[np.int64]:
    """Rows of `together`."""
    if of in STATES:
        return np.flatnonzero(np.isin(judged.together.table.status, [int(s) for s in STATES[of]]))
    if of == "points":
        try:
            points = float(answer)
        except ValueError:
            raise Invalid(f"points are a number, {answer!r} is none", "answer") from None
        scores = judged.analysis.scores
        return judged.counted[np.flatnonzero(scores.full & (np.abs(scores.earned - points) < 1e-9))]
    if of not in OF_ITEM:
        raise Invalid(
            f"names are shown of {', '.join([*STATES, 'points', 'group', *OF_ITEM])}; {of!r} is none of these", "of"
        )
    answers = judged.analysis.table.answers[place_of(judged, item)]
    codes = answers.codes
    if of == "omitted":
        here = codes == OMITTED
    elif of == "not_reached":
        here = codes == NOT_REACHED
    elif of == "answer":
        if answer not in answers.labels:
            return np.zeros(0, dtype=np.int64)
        here = codes == FIRST + answers.labels.index(answer)
    else:
        full = judged.analysis.items[place_of(judged, item)].item.points
        met = (codes == OMITTED) | (codes >= FIRST)
        got = answers.code_points[codes] >= full - 1e-9
        here = met & (got if of == "got_it" else ~got)
    return judged.counted[np.flatnonzero(here)]
