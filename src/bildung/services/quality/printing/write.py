"""From a question to the document that answers it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bildung.core.items.shown import percent
from bildung.reports.document import Block, Document
from bildung.services.calendar.years import local_today
from bildung.services.quality.judged import judge
from bildung.services.quality.printing import items, students, whole
from bildung.services.quality.printing.asked import ReportRequest, Work
from bildung.services.quality.scope import choices
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed
from bildung.services.shared.jobs import Job
from bildung.services.shared.settings import dates_of


@dataclass(frozen=True, kw_only=True)
class QuestionKind:
    """A report by what it answers. named: students are named in it. wide: on wide pages."""

    name: str
    asks: str
    says: str
    named: bool
    wide: bool
    write: Callable[[Work], tuple[str, list[Block]]]


QUESTIONS = {
    q.name: q
    for q in (
        QuestionKind(
            name="test",
            asks="What was wrong with the test?",
            says="distribution of points, every item in a row, and a block for each item to review",
            named=False,
            wide=False,
            write=lambda work: items.about_items(work, False),
        ),
        QuestionKind(
            name="items",
            asks="What did every item do?",
            says="a block for every item: text, answers, and who chose them",
            named=False,
            wide=False,
            write=lambda work: items.about_items(work, True),
        ),
        QuestionKind(
            name="classes",
            asks="The question or the teaching?",
            says="classes compared by standard and by item, and what stands out",
            named=False,
            wide=True,
            write=whole.side_by_side,
        ),
        QuestionKind(
            name="trust",
            asks="How reliable is the total?",
            says="reliability, standard error, cut scores, sections, length, time",
            named=False,
            wide=False,
            write=whole.how_far,
        ),
        QuestionKind(
            name="answers",
            asks="Who answered what?",
            says="students by items: incorrect answers, with unexpected ones marked",
            named=True,
            wide=True,
            write=students.who_answered,
        ),
        QuestionKind(
            name="students",
            asks="How did each student do?",
            says="a page for each: points by standard, what was missed, what was unexpected",
            named=True,
            wide=False,
            write=students.how_each_did,
        ),
        QuestionKind(
            name="reteach",
            asks="What should be retaught, and to whom?",
            says="by class: standards under the watch line, common wrong answers, and the students who need them",
            named=True,
            wide=False,
            write=students.to_teach_again,
        ),
    )
}


def question_of(name: str) -> QuestionKind:
    """The question of this name; Invalid where there is none."""
    found = QUESTIONS.get(name)
    if found is None:
        raise Invalid(f"there is no report {name!r}; there are {', '.join(QUESTIONS)}", "question")
    return found


def write(ctx: Context, actor: Actor, asked: ReportRequest, job: Job) -> tuple[Document, list[int]]:
    """The document, and the sessions whose answers are in it. Refused for names that are not this person's to see."""
    question = question_of(asked.question)
    if question.named and not actor.may(Action.ANSWERS_READ):
        raise NotAllowed("your role does not include answers: read")
    job.tell("reading answers", 0, 0)
    judged = judge(ctx, actor, asked.wanted, asked.settings, job)
    if not judged.analysis.table.n:
        raise Conflict("no one has submitted yet; there is nothing to report")
    lead, blocks = question.write(Work(ctx=ctx, actor=actor, asked=asked, judged=judged, job=job))
    where = " · ".join(choices(ctx, actor, asked.wanted).words)
    names = "" if not question.named else ", names hidden" if asked.veiled else ", includes student names"
    with ctx.store.read() as db:
        today = dates_of(db).day(local_today(ctx, db))
    foot = f"Created by {actor.name}, {today}{names}. Watch line {percent(asked.settings.watch_line)}."
    facts = [
        ("Students counted", str(judged.analysis.distribution.n)),
        ("Watch line", percent(asked.settings.watch_line)),
    ]
    document = Document(
        title=question.asks, lead=lead, where=where, foot=foot, blocks=blocks, wide=question.wide, facts=facts
    )
    return document, [o.id for o in judged.scoped.chosen]
