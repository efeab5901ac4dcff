"""One student's test on paper, or a class of them: what was asked, what was given, points, comments."""

from __future__ import annotations

from bildung.formats.markup import bare_text
from bildung.reports.apart import print_apart
from bildung.reports.document import Block, Document, NextPage, PrintColumn, Table, Text, Value
from bildung.services.calendar.years import zone_of
from bildung.services.quality.studenttest import StudentItem, StudentTest, student_test
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict
from bildung.services.shared.settings import dates_of

SAID = {
    "omitted": "no answer",
    "not_reached": "not reached",
    "not_presented": "not asked",
    "awaiting": "waits for a score",
}
LONGEST = 400  # signs of a question or an answer; what is longer is cut


def print_tests(ctx: Context, actor: Actor, sitting_id: int, whole_class: bool, right: bool, veiled: bool) -> bytes:
    """PDF. whole_class: of everybody in the session who submitted. right: with the right answers. veiled: without names."""
    first = student_test(ctx, actor, sitting_id)
    ids = [sitting_id]
    if whole_class:
        ids = [mate.sitting for mate in first.classmates if mate.state == "handed_in"]
    tests = [first if id == sitting_id else student_test(ctx, actor, id) for id in ids]
    tests = [test for test in tests if test.items]
    if not tests:
        raise Conflict("there is nothing to print: no one has submitted this test")
    blocks: list[Block] = []
    for n, test in enumerate(tests):
        if n:
            blocks.append(NextPage())
        blocks += _blocks(test, right, veiled)
    with ctx.store.read() as db:
        made = dates_of(db).dated_moment(ctx.clock().astimezone(zone_of(db)))
    document = Document(
        title=first.form,
        lead=f"{len(tests)} students" if len(tests) > 1 else "",
        where=first.klass,
        foot=f"{actor.name}, {made}{', names hidden' if veiled else ''}",
        blocks=blocks,
    )
    return print_apart(document, "Letter")


def _blocks(test: StudentTest, right: bool, veiled: bool) -> list[Block]:
    columns = [
        PrintColumn("", "whole", 5),
        PrintColumn("Question", "text", 40),
        PrintColumn("Answer", "text", 25),
        *([PrintColumn("Right answer", "text", 16)] if right else []),
        PrintColumn("Points", "text", 10),
    ]
    rows: list[list[Value]] = [
        [
            item.number,
            _short(_question(item)),
            _short(item.answer) or SAID.get(item.gave, "no answer"),
            *([_short(bare_text(item.right) or item.key)] if right else []),
            "" if item.earned is None else f"{item.earned:g} of {item.points:g}",
        ]
        for item in test.items
    ]
    comments = [
        Text(f"{item.number}. {comment.by}: {comment.text}") for item in test.items for comment in item.comments
    ]
    name = f"Student {test.alias}" if veiled else test.name
    found: list[Block] = [
        Text(name, "part"),
        Text(test.finding),
        Table(name="", columns=columns, rows=rows),
    ]
    return [*found, Text("Comments", "heading"), *comments] if comments else found


def _question(item: StudentItem) -> str:
    body = bare_text(item.shown.body)
    return body or " ".join(bare_text(part.prompt) for part in item.shown.parts)


def _short(text: str) -> str:
    return text if len(text) <= LONGEST else f"{text[:LONGEST]} …"
