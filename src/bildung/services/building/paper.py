"""A form on paper, and the answer sheets of a session with the form that each student sits."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal, cast, get_args

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.errors import Refused
from bildung.formats.face import faced
from bildung.reports import paper, pictures
from bildung.reports.paper import CodeKind, Holder, PrintedQuestion, PrintedStimulus, PrintedTest
from bildung.services.calendar.years import local_today
from bildung.services.forms.settings import settings, title_of
from bildung.services.items.bankitem import content_of, with_parts
from bildung.services.items.pictures import pictures_of, with_picture_addresses
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, outsider, scope, secured_form
from bildung.services.shared.codes import ALPHABET, STUDENT_LENGTH
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.results import KeptResults
from bildung.services.sitting.feedback import right_answer
from bildung.services.sitting.taking import parts_shown
from bildung.store.models import Form, FormItem, ItemVersion, Person, PlannedSession, Scoring, Sitting

What = Literal["booklet", "worksheet", "answers", "key", "guide"]
KEPT = 12


def document(ctx: Context, actor: Actor, form_id: int, what: str, size: str, large: bool, sheet: bool) -> bytes:
    """PDF. sheet: a booklet whose answers go on an answer sheet. Answer sheets of a form alone have no names."""
    if what not in get_args(What):
        raise Invalid(f"one of {', '.join(get_args(What))}", "what")
    chosen = _size(size)
    with ctx.store.read() as db:
        form = db.scalar(select(Form).where(Form.id == form_id, scope(actor, Action.TESTS_READ)))
        if form is None:
            raise NotFound("there is no such form")
        if not form.items:
            raise Conflict(f"{form.name} has no items yet")
        test = printed_test(ctx, db, form)
        secured = (
            db.scalar(select(Form.id).where(Form.id == form_id, secured_form(outsider(local_today(ctx, db)), Form)))
            is not None
        )
    if secured:
        _log_print(ctx, actor, form_id, what)
    if what == "booklet":
        return paper.booklet(test, chosen, large, sheet)
    if what == "worksheet":
        return paper.worksheet(test, chosen, large)
    if what == "key":
        return paper.key(test, chosen)
    if what == "guide":
        return paper.scoring_guide(test, chosen)
    return _sheets({form_id: test}, [(form_id, Holder("", "", "", ""))], chosen)


def _log_print(ctx: Context, actor: Actor, form_id: int, what: str) -> None:
    """Who printed a test that is secure."""
    ctx.store.write(
        lambda db: audit.record(
            db, ctx.clock(), actor.person_id, "form.print", f"form:{form_id}", None, {"document": what}
        )
    )


def pages(ctx: Context, actor: Actor, form_id: int, what: str, size: str, large: bool, sheet: bool) -> int:
    """How many pages the document has."""
    return len(pictures.open_document(_kept(ctx, actor, form_id, what, size, large, sheet)))


def page_picture(
    ctx: Context, actor: Actor, form_id: int, what: str, size: str, large: bool, sheet: bool, page: int
) -> bytes:
    """One page, from 1, as a PNG: what a browser without a reader of PDF can show."""
    found = pictures.page(_kept(ctx, actor, form_id, what, size, large, sheet), page)
    if found is None:
        raise NotFound("there is no such page")
    return found


@dataclass
class PrintedAtHand:
    """Documents by form, revision, scoring and how they are printed."""

    documents: KeptResults[bytes] = field(default_factory=lambda: KeptResults(KEPT))


def _kept(ctx: Context, actor: Actor, form_id: int, what: str, size: str, large: bool, sheet: bool) -> bytes:
    """The document, kept for a while: looking through it asks for each page. A change of the form or of a key is
    another document."""
    with ctx.store.read() as db:
        row = db.execute(
            select(Form.revision, Form.family_id, func.max(Scoring.id))
            .outerjoin(FormItem, FormItem.form_id == Form.id)
            .outerjoin(Scoring, Scoring.item_version_id == FormItem.item_version_id)
            .where(Form.id == form_id, scope(actor, Action.TESTS_READ))
            .group_by(Form.id)
        ).first()
    if row is None:
        raise NotFound("there is no such form")
    key = (form_id, *row, what, size, large, sheet)
    return ctx.own(PrintedAtHand).documents.get(key, lambda: document(ctx, actor, form_id, what, size, large, sheet))


def session_sheets(ctx: Context, actor: Actor, session_id: int, size: str) -> bytes:
    """An answer sheet for each student of a session, by the form they sit. The log says who took the codes."""
    chosen = _size(size)

    def work(db: Session) -> tuple[dict[int, PrintedTest], list[tuple[int, Holder]]]:
        session = db.scalar(
            select(PlannedSession).where(PlannedSession.id == session_id, scope(actor, Action.SESSIONS_RUN))
        )
        if session is None:
            raise NotFound("there is no such session, or it is not yours")
        rows = db.execute(
            select(Sitting, Person)
            .join(Person, Person.id == Sitting.person_id)
            .where(Sitting.session_id == session_id, Sitting.state.not_in(("exempt", "void")))
            .order_by(Person.family, Person.given, Person.id)
        ).all()
        if not rows:
            raise Conflict("no one is on the roster of this session")
        tests: dict[int, PrintedTest] = {}
        holders = []
        for sitting, person in rows:
            id = sitting.form_id or session.form_id
            if id not in tests:
                form = db.get_one(Form, id)
                if settings(form).draw is not None:
                    raise Conflict(
                        f"{form.name} is drawn anew for each student; on paper print a form that is not drawn"
                    )
                tests[id] = printed_test(ctx, db, form, session.part)
            holders.append((id, Holder(person.name, session.klass.title, person.code or "", session.code)))
        audit.record(db, ctx.clock(), actor.person_id, "session.sheets", f"session:{session_id}")
        return tests, holders

    return _sheets(*ctx.store.write(work), chosen)


def _sheets(tests: dict[int, PrintedTest], holders: list[tuple[int, Holder]], size: paper.Paper) -> bytes:
    try:
        return paper.answer_sheets(tests, holders, CodeKind(ALPHABET, STUDENT_LENGTH), size)
    except Refused as error:
        raise Invalid(str(error), "size") from None


def _size(size: str) -> paper.Paper:
    if size not in get_args(paper.Paper):
        raise Invalid(f"paper is one of {', '.join(get_args(paper.Paper))}", "size")
    return cast(paper.Paper, size)


def printed_test(ctx: Context, db: Session, form: Form, part: int | None = None) -> PrintedTest:
    """Everything of a form that paper needs."""
    wanted = (
        select(FormItem, ItemVersion)
        .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
        .where(FormItem.form_id == form.id)
        .order_by(FormItem.position)
    )
    if part is not None:
        wanted = wanted.where(FormItem.part == part)
    questions = []
    for number, (place, version) in enumerate(db.execute(with_parts(wanted)), 1):
        content = content_of(version)
        content = content.model_copy(update={"shown": faced(content.shown, place.face)})
        standard = version.standards[0].standard.code if version.standards else ""
        questions.append(
            PrintedQuestion(
                id=place.id,
                number=number,
                code=version.item.code,
                standard=standard,
                part=place.part,
                content=with_picture_addresses(content),
                points=version.scorings[-1].points,
                right=right_answer(content),
                stimulus=_stimulus(version),
            )
        )
    rules = settings(form)
    return PrintedTest(
        name=form.name,
        title=title_of(form),
        mark=mark_of(form),
        minutes=rules.minutes,
        questions=questions,
        parts=[(p.name, p.instructions) for p in parts_shown(form, part)],
        pictures=_pictures(ctx, questions),
    )


def mark_of(form: Form) -> str:
    """A sign by which staff tell the booklets of companion forms apart; it says nothing of what they are."""
    if form.family is None:
        return ""
    place = [f.id for f in form.family.forms].index(form.id)
    return f"{form.family_id}·{chr(65 + place % 26)}"


def _stimulus(version: ItemVersion) -> PrintedStimulus | None:
    found = version.stimulus
    if found is None:
        return None
    html = found.html
    if found.kind == "picture":
        html = f'<img src="/api/media/{found.media}" alt="">'
    elif found.kind == "audio":
        html = f"<p><i>To be played or read out:</i></p><p>{found.told}</p>"
    return PrintedStimulus(found.stimulus.code, found.title, html, found.credit)


def _pictures(ctx: Context, questions: list[PrintedQuestion]) -> dict[str, tuple[str, bytes]]:
    texts = [q.stimulus.html for q in questions if q.stimulus is not None]
    return pictures_of(ctx, [q.content for q in questions], texts)
