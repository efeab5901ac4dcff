"""What the planner finds, in sentences: clashes at their session, reasons for tests without a place, ways out."""

from __future__ import annotations

from collections.abc import Sequence

from bildung.core.accommodations.kinds import KINDS
from bildung.core.items.shown import counted
from bildung.core.planning.clashes import Clash
from bildung.core.planning.problem import ApartTest, Problem
from bildung.core.planning.reasons import Reason
from bildung.core.planning.waysout import WayOut
from bildung.services.planning.facts import Facts


def clash_says(clash: Clash, facts: Facts, labels: dict[int, str], holders: dict[int, str], of: int) -> str:
    """A clash, as it is said at one of its sessions."""
    others = " and ".join(labels[id] for id in clash.sessions if id != of and id in labels)
    names = [facts.students.get(s, "a student") for s in clash.students]
    who = names[0] if len(names) == 1 else f"{len(names)} students"
    match clash.kind:
        case "room":
            return f"{clash.name} is also used by {others}." if others else f"{clash.name} is closed at this time."
        case "cart":
            return f"{clash.name} is also used by {others}."
        case "seats":
            return f"{clash.name} has {clash.limit} seats for {clash.count} students."
        case "devices":
            return f"{clash.limit or 'No'} devices for {clash.count} students."
        case "proctor":
            return f"{holders.get(of) or 'The proctor'} also proctors {others}."
        case "no_proctor":
            return "No proctor."
        case "away":
            return f"{clash.name} is not available at this time."
        case "load":
            return f"{clash.name} proctors {clash.count} sessions this day; {clash.limit} are allowed."
        case "student":
            does = "is" if len(names) == 1 else "are"
            return f"{who} {does} in {others} at this time." if others else f"{who} {does} elsewhere at this time."
        case "a_day":
            does = "takes" if len(names) == 1 else "take"
            return f"{who} {does} {clash.count} tests this day; {clash.limit} is allowed."
        case "length":
            return f"{clash.count} minutes do not fit; the block has {clash.limit}."
        case "shut":
            return "The school or grade does not test at this time."
        case "alone":
            return "A student who tests alone shares the room."
        case _:
            if clash.students and clash.name:
                return f"{clash.name} does not provide what {who} {'needs' if len(names) == 1 else 'need'}, or not in their language."
            return f"{clash.name or 'The proctor'} does not provide the support that is needed."


def unsettled_says(facts: Facts) -> list[tuple[int, str]]:
    """By form, who would receive two forms of its family, in a sentence."""
    found = []
    for form, people in facts.unsettled.items():
        names = [facts.students.get(id, "a student") for id in people[:3]]
        if len(people) > 3:
            names.append(f"{len(people) - 3} more")
        who = " and ".join(part for part in (", ".join(names[:-1]), names[-1]) if part)
        found.append((form, f"{who} would receive two different forms of {facts.tests[form].name}."))
    return found


def no_provider(problem: Problem, test: ApartTest) -> str:
    """Where nobody at all can give a student the support they need; empty where somebody can."""
    if not test.support or any(test.held_by(p) for p in problem.proctors):
        return ""
    says = KINDS[test.support].says
    if test.by is not None and any(test.support in p.supports for p in problem.proctors):
        return f"No {says} who speaks the student's language is entered."
    return f"No {says} is entered for this school."


def reason_says(reasons: Sequence[Reason], minutes: int, size: int, support: str = "") -> str:
    """Why a test has no place, the decisive rule first."""
    if not reasons:
        return "It fits, but other tests took its place."
    first = reasons[0]
    every = "every block" if first.slots == first.of else f"{first.slots} of {first.of} blocks"
    what = {
        "shut": f"The window is closed to it in {every}.",
        "length": f"{minutes} minutes do not fit in {every}.",
        "student": f"Its students are at other tests in {every}.",
        "a_day": f"Its students already take a test that day in {every}.",
        "room": f"No room with {counted(size, 'seat')} is free in {every}.",
        "cart": f"No cart or room has {counted(size, 'free device')} in {every}.",
        "proctor": f"No {KINDS[support].says if support else 'proctor'} is free in {every}.",
    }[first.kind]
    return what + (f" In {first.only} of them it is the only thing missing." if 0 < first.only < first.slots else "")


def way_says(way: WayOut, day: str) -> str:
    """A way out with its effect. day: the one that could be used as well."""
    step = {
        "move": "Move other sessions",
        "cart": "Use one more cart",
        "room": "Use one more room",
        "proctor": "Use one more proctor",
        "a_day": "Allow one more test a day",
        "day": f"Test on {day} as well",
        "split": "Split these classes over two rooms",
    }[way.kind]
    moved = "moves no session" if not way.moved else f"moves {counted(way.moved, 'session')}"
    return f"{step}: places {counted(way.students, 'test')}, {moved}"
