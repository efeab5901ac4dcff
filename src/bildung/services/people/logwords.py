"""Entries of the log in words: what was done, and to what, with the page where it is."""

from __future__ import annotations

SAID = {
    "accommodation.provided": "recorded an accommodation",
    "answers.leave": "dismissed late answers",
    "answers.take": "accepted late answers",
    "bells.save": "saved bell schedules",
    "case_manager.set": "assigned a case manager",
    "class.codes": "took the codes of a class",
    "class.door": "opened or closed a class to join requests",
    "class.let_in": "answered a join request",
    "classes.hide": "withdrew a colleague's view of classes",
    "classes.show": "shared classes with a colleague",
    "day.print": "printed a testing day",
    "exemption.give": "exempted a student",
    "family.rule": "changed who receives which form",
    "federation.found": "set up the district",
    "feed.make": "created a calendar feed",
    "feed.revoke": "revoked a calendar feed",
    "form.bring": "imported a form",
    "form.security": "changed whether a form is secure",
    "framework.bring": "imported a framework",
    "framework.main": "chose the main framework",
    "group.member": "changed a member of a group",
    "group.make": "created a group",
    "group.members": "changed the members of a group",
    "group.staff": "changed the staff of a group",
    "item.state": "changed the state of an item",
    "item.verdict": "decided on an item",
    "item.version": "published a version of an item",
    "person.erase": "erased a person",
    "person.new_code": "replaced a sign-in code",
    "plan.choose": "chose a block",
    "plan.choosing": "let teachers choose blocks",
    "plan.make": "planned a window",
    "plan.remind": "reminded teachers to choose",
    "plan.restore": "went back to an earlier plan",
    "plan.roomclosed": "closed a room for some days",
    "plan.roomopened": "opened a room again",
    "plan.takeover": "took over planning",
    "plans.bring": "imported a pacing guide",
    "provider.bind": "linked a school account",
    "provider.refuse": "refused a school account",
    "provider.unbind": "unlinked a school account",
    "records.decide": "decided on a change from the records system",
    "records.look": "compared with the records system",
    "record.export": "took a student's record",
    "resources.import": "imported rooms, carts or class timetables",
    "resources.save": "saved rooms and carts",
    "retention.sweep": "deleted what was due",
    "role.take_back": "withdrew a role",
    "roster.report_settled": "settled a reported discrepancy",
    "roster.settle": "settled a roster discrepancy",
    "session.cards": "printed test tickets",
    "session.form": "changed a student's form",
    "session.open_again": "reopened a session",
    "session.sheets": "printed answer sheets",
    "session.support": "assigned support staff",
    "sitting.form": "changed the form of an attempt",
    "sitting.mark": "changed the state of an attempt",
    "sitting.place": "moved a student into a session",
    "sitting.unplace": "moved a student back to the class",
    "staff.hours": "changed hours of staff",
    "taught.say": "marked a lesson as taught",
    "timetable.save": "saved class timetables",
    "window.copy": "copied windows to the next year",
    "window.dates": "changed dates of a window",
    "year.close_days": "closed days",
    "year.open_days": "opened days",
}
PAST = {
    "add": "added",
    "approve": "approved",
    "assemble": "assembled",
    "cancel": "canceled",
    "change": "changed",
    "close": "closed",
    "companion": "added a companion to",
    "copy": "copied",
    "correct": "corrected",
    "create": "created",
    "decline": "declined",
    "discard": "discarded a draft of",
    "draw": "drew values for",
    "drop": "removed",
    "end": "ended",
    "enter": "entered",
    "grant": "granted",
    "link": "linked",
    "make": "made",
    "merge": "merged",
    "offer": "offered back",
    "print": "printed",
    "publish": "published",
    "put": "set",
    "reassign": "reassigned",
    "release": "released results of",
    "replace": "replaced",
    "reset": "reset",
    "review": "reviewed",
    "save": "saved",
    "schedule": "scheduled",
    "settings": "changed settings of",
    "tag": "tagged",
    "unlink": "unlinked",
    "untag": "withdrew tags of",
    "version": "published a version of",
    "withdraw": "withdrew",
}
PAGES = {
    "session": "/sessions/",
    "person": "/people/",
    "form": "/tests/",
    "class": "/people/classes/",
    "item": "/bank/items/",
    "group": "/people/groups/",
    "family": "/tests/families/",
}


def done(action: str) -> str:
    """What an action is called to a reader; one that has no words is shown as it is kept."""
    if action in SAID:
        return SAID[action]
    what, _, verb = action.partition(".")
    if verb not in PAST:
        return action
    noun = what.replace("_", " ")
    one = noun if noun.endswith("s") else f"{'an' if noun[0] in 'aeiou' else 'a'} {noun}"
    return f"{PAST[verb]} {one}"


def page_of(subject: str) -> str:
    """Where the subject of an entry is looked at; empty where it has no page."""
    kind, _, id = subject.partition(":")
    return f"{PAGES[kind]}{id}" if kind in PAGES and id.isdigit() else ""
