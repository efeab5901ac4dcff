"""Trial runs: staff sit a form as a student would. Nothing they answer is kept, so that no figure can ever count it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.assembly.draw import draw
from bildung.formats.answers import unfit
from bildung.formats.content import Shown
from bildung.formats.face import faced
from bildung.services.forms.settings import heaps_of, settings, title_of
from bildung.services.items.bankitem import content_of, with_parts
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.services.sitting.feedback import Told, summary, tell
from bildung.services.sitting.taking import PartShown, Question, parts_shown, questions
from bildung.store.models import Form, FormItem, ItemVersion


@dataclass(frozen=True, kw_only=True)
class Trial:
    """The form as a student has it. says: what its settings do. expected: share of the points of this draw, where the
    test is drawn and every item has a history."""

    form_id: Id
    name: str
    title: str
    revision: int
    draft: bool
    questions: list[Question]
    parts: list[PartShown]
    tools: list[str]
    large_print: bool
    read_aloud: bool
    one_by_one: bool
    one_way: bool
    check: bool
    timed: bool
    minutes: int | None
    seed: int | None
    expected: float | None
    says: list[str]


@dataclass(frozen=True)
class TrialTold:
    sentence: str
    told: list[Told]


def begin(ctx: Context, actor: Actor, form_id: int, seed: int = 1) -> Trial:
    """seed: of a drawn test; another one shows another student's draw."""
    with ctx.store.read() as db:
        form = _form(db, actor, form_id)
        rules = settings(form)
        places = _places(db, form_id)
        heaps = heaps_of(db, form)
        drawn = draw(heaps, seed, rules.draw.limit) if rules.draw and heaps else None
        if drawn is not None:
            places = [(place, version) for place, version in places if place.id in drawn.items]
        return Trial(
            form_id=form.id,
            name=form.name,
            title=title_of(form),
            revision=form.revision,
            draft=form.published_at is None,
            questions=questions(places, rules, {}),
            parts=parts_shown(form, None),
            tools=[t for t in rules.tools if t != "read_aloud"],
            large_print=rules.large_print,
            read_aloud="read_aloud" in rules.tools,
            one_by_one=rules.movement == "one",
            one_way=rules.movement == "one" and not rules.back,
            check=rules.feedback == "now",
            timed=rules.timed_sections,
            minutes=rules.minutes,
            seed=seed if drawn else None,
            expected=drawn.share if drawn else None,
            says=said(form),
        )


def said(form: Form) -> list[str]:
    """A form's settings in words."""
    rules = settings(form)
    tools = ", ".join(t.replace("_", " ") for t in rules.tools)
    attempts = "one attempt" if rules.attempts == 1 else f"{rules.attempts} attempts, the first one counts"
    told = {
        "now": "feedback after each answer",
        "hand_in": "correct answers are shown after submitting",
        "release": "correct answers are shown when the session's results are released",
    }
    one = "one item at a time" + (", no going back" if not rules.back else ", students can go back")
    words = [
        f"{rules.minutes} min, extra time on top" if rules.minutes else "no time limit",
        one if rules.movement == "one" else "any item at any time",
        f"with {tools}" if tools else "",
        "each section ends by its own minutes" if rules.timed_sections else "",
        "hints on asking" if rules.hints else "",
        told[rules.feedback],
        attempts,
        "" if rules.evidence else "results do not count toward standards",
        "large print" if rules.large_print else "",
    ]
    if rules.draw:
        limit = f", each expected within {100 * rules.draw.limit:g}% of the pool" if rules.draw.limit else ""
        by = "of the pool" if rules.draw.by == "all" else f"of each {rules.draw.by}"
        whose = "for each student" if rules.draw.each == "student" else "for each session"
        words.append(f"{rules.draw.count} {by} drawn {whose}{limit}")
    return [word for word in words if word]


def mark(ctx: Context, actor: Actor, form_id: int, answers: Mapping[int, str]) -> TrialTold:
    """What these answers would get; answers to items that are not named are open. Nothing is kept."""
    with ctx.store.read() as db:
        _form(db, actor, form_id)
        told = []
        for number, (place, version) in enumerate(_places(db, form_id), 1):
            if place.id not in answers:
                continue
            why = unfit(faced(Shown.model_validate(version.shown), place.face), answers[place.id])
            if why:
                raise Invalid(f"question {number}: {why}", "answers")
            told.append(tell(place.id, number, version.kind, content_of(version), answers[place.id]))
    return TrialTold(summary(told), told)


def read_through(ctx: Context, actor: Actor, form_id: int, revision: int) -> None:
    """Somebody came to the last question of a draft as it was at this revision."""

    def work(db: Session) -> None:
        form = _form(db, actor, form_id)
        if form.published_at is None and form.revision == revision:
            form.read_revision = revision

    ctx.store.write(work)


def _form(db: Session, actor: Actor, form_id: int) -> Form:
    form = db.scalar(select(Form).where(Form.id == form_id, scope(actor, Action.TESTS_READ)))
    if form is None:
        raise NotFound("there is no such form")
    return form


def _places(db: Session, form_id: int) -> list[tuple[FormItem, ItemVersion]]:
    rows = db.execute(
        with_parts(
            select(FormItem, ItemVersion)
            .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
            .where(FormItem.form_id == form_id)
            .order_by(FormItem.position)
        )
    )
    return [(place, version) for place, version in rows]
