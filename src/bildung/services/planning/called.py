"""What sessions of a plan are called: to staff, and by the rule for names to students."""

from __future__ import annotations

from bildung.core.items.shown import counted
from bildung.core.planning.sessions import PlanSession, StudentList
from bildung.core.planning.titles import title
from bildung.services.planning.document import PlanWishes
from bildung.services.planning.facts import Facts
from bildung.store.models import Window


def is_apart(session: PlanSession) -> bool:
    """Whether it is for students apart from their classes."""
    return not any(one.whole for one in session.lists)


def short_class(facts: Facts, klass: int, test: int) -> str:
    """A class's title without the subject that the test says already."""
    name = facts.classes.get(klass, "")
    return name.removeprefix(facts.tests[test].subject).strip() or name


def label(facts: Facts, session: PlanSession) -> str:
    """What a session is called in a sentence."""
    tests = list(dict.fromkeys(facts.tests[one.test].subject for one in session.lists))
    named = " and ".join(part for part in (", ".join(tests[:-1]), tests[-1]) if part)
    if is_apart(session):
        return f"{named}, {counted(session.size, 'student')} apart"
    classes = [short_class(facts, one.klass, one.test) for one in session.lists]
    return f"{named} {' and '.join(dict.fromkeys(classes))}"


def title_of(facts: Facts, window: Window, wishes: PlanWishes, session: PlanSession, one: StudentList) -> str:
    """What students on this list see, by the rule for names."""
    test = facts.tests[one.test]
    slot = facts.problem.slots[session.slot]
    parts = {
        "test": test.title,
        "subject": test.subject,
        "grade": test.grade,
        "class": short_class(facts, one.klass, one.test),
        "room": session.room,
        "date": f"{slot.start:%B} {slot.start.day}",
        "block": slot.block,
        "section": "",
        "window": window.name,
    }
    return title(wishes.title, parts) or test.title
