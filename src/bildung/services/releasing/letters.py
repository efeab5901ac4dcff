"""Letters for families who read no screen: released results, a page a household, in the order of homerooms."""

from __future__ import annotations

from collections import defaultdict

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.reports.letters import Letter, LetterChild, Letters, letters_document
from bildung.services.calendar.years import zone_of
from bildung.services.forms.settings import title_of
from bildung.services.releasing.standing import sessions_with
from bildung.services.shared import audit
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, NotFound
from bildung.services.shared.settings import dates_of
from bildung.services.sitting.released import family_may, released_to
from bildung.services.sitting.reviewing import review_of
from bildung.store.models import Enrolment, FamilyLink, Form, Person, School, SchoolClass, Sitting, Window

CLOSE = "If you have questions about this result, please ask your child's teacher."


def letters(ctx: Context, actor: Actor, form_id: int, window_id: int) -> bytes:
    """Of students whose families have no account with which they could read it. Nothing for who may see no results. Conflict where nothing
    of this test is released to families."""
    now = ctx.clock()
    with ctx.store.read() as db:
        form, window = db.get(Form, form_id), db.get(Window, window_id)
        sessions = sessions_with(db, actor, form_id, window_id) if form and window else []
        if form is None or window is None or not sessions:
            raise NotFound("there is no such test with results, or it is not yours to release")
        zone, dates = zone_of(db), dates_of(db)
        children: dict[int, tuple[Person, LetterChild]] = {}
        for session in sessions:
            shows = released_to(db, session, "family", now)
            if not shows:
                continue
            for sitting in db.scalars(select(Sitting).where(Sitting.session_id == session.id)):
                if not family_may(db, session, sitting, now):
                    continue
                found = review_of(db, session, sitting, shows, sitting, "family")[0]
                person = db.get_one(Person, sitting.person_id)
                children[person.id] = (
                    person,
                    LetterChild(
                        name=person.name,
                        sentence=found.sentence,
                        standards=[(s.says, f"{s.earned:g} of {s.points:g}") for s in found.standards],
                        comments=[text for told in found.told for text in told.comments],
                        corrected=dates.short(found.corrected_at.astimezone(zone).date()) if found.corrected_at else "",
                    ),
                )
        if not children:
            raise Conflict(f"no results of {form.name} are released to families yet")
        households = _households(db, list(children))
        made = _letters(db, children, households)
        if not made:
            raise Conflict("every family of these students has an account, or may not see results")
        content = Letters(
            title=f"{title_of(form)}, {window.name} {window.start.year}",
            date=dates.long(now.astimezone(zone).date()),
            close=CLOSE,
            foot=f"{actor.name}, {dates.short(now.astimezone(zone).date())}",
            letters=made,
        )
    ctx.store.write(
        lambda db: audit.record(
            db, now, actor.person_id, "letters.print", f"form:{form_id}", None, {"households": len(made)}
        )
    )
    return letters_document(content)


def _households(db: Session, students: list[int]) -> dict[int, list[int]]:
    """Students by household: those who share an adult who may see results. Without any known adult a student is one; who has an adult with
    an account, or only adults who may not see results, is in none."""
    links = defaultdict(list)
    for link, adult in db.execute(
        select(FamilyLink, Person)
        .join(Person, Person.id == FamilyLink.family_id)
        .where(FamilyLink.student_id.in_(students))
        .order_by(FamilyLink.family_id)
    ):
        links[link.student_id].append((adult.id, bool(adult.username), link.results))
    found: dict[int, list[int]] = defaultdict(list)
    for student in students:
        mine = links[student]
        seeing = [id for id, _, sees in mine if sees]
        if any(account and sees for _, account, sees in mine) or (mine and not seeing):
            continue
        found[seeing[0] if seeing else -student].append(student)
    return found


def _letters(
    db: Session, children: dict[int, tuple[Person, LetterChild]], households: dict[int, list[int]]
) -> list[Letter]:
    homeroom = dict(
        db.execute(
            select(Enrolment.person_id, SchoolClass.title)
            .join(SchoolClass, SchoolClass.id == Enrolment.class_id)
            .where(
                Enrolment.person_id.in_(children),
                Enrolment.active.is_(True),
                SchoolClass.active.is_(True),
                SchoolClass.homeroom.is_(True),
            )
        ).all()
    )
    schools = dict(db.execute(select(School.id, School.name)).all())
    ordered = []
    for members in households.values():
        members.sort(key=lambda id: (homeroom.get(id, "~"), children[id][0].family, children[id][0].given))
        eldest = children[members[0]][0]
        letter = Letter(
            school=schools.get(eldest.school_id or 0, ""),
            homeroom=homeroom.get(members[0], ""),
            children=[children[id][1] for id in members],
        )
        ordered.append(((letter.school, letter.homeroom or "~", eldest.family, eldest.given, eldest.id), letter))
    return [letter for _, letter in sorted(ordered, key=lambda pair: pair[0])]
