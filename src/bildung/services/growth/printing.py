"""Growth out of the pages: a report of a district, school, grade or class, and of one student, as PDF or workbook."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from bildung.core.items.shown import decimal
from bildung.reports.document import Block, Document, NextPage, PrintColumn, Table, Text, to_pdf, to_workbook
from bildung.services.calendar.years import local_today
from bildung.services.growth.pair import PairAsked, pair_page
from bildung.services.growth.pairview import GrowthGroup, GrowthStudent, PairPage
from bildung.services.growth.reflections import reflections_page
from bildung.services.growth.studentpage import StudentGrowthPage, student_growth
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.services.shared.settings import dates_of

GROUP = (
    PrintColumn("", width=24),
    PrintColumn("n", "whole"),
    PrintColumn("Mean start", "number"),
    PrintColumn("Mean end", "number"),
    PrintColumn("Mean gain", "number"),
    PrintColumn("From expected", "number"),
    PrintColumn("± (95%)", "number"),
    PrintColumn("Met expected", "share"),
    PrintColumn("Median SGP", "whole"),
    PrintColumn("Missing", "whole"),
    PrintColumn("What may be said", width=40),
)
STUDENT = (
    PrintColumn("Student", width=26),
    PrintColumn("Class", width=18),
    PrintColumn("Start", "points"),
    PrintColumn("End", "points"),
    PrintColumn("Gain", "points"),
    PrintColumn("Expected", "number"),
    PrintColumn("Of 100 with the same start", "whole"),
    PrintColumn("SGP", "whole"),
    PrintColumn("Against them", width=16),
    PrintColumn("Level", width=16),
    PrintColumn("Marks", width=24),
)


def pair_report(
    ctx: Context, actor: Actor, asked: PairAsked, kind: Literal["pdf", "xlsx"], names: bool = True
) -> bytes:
    """names: or numbers in their place."""
    page = pair_page(ctx, actor, asked)
    if asked.klass and not page.klass:
        raise NotFound("there is no such class here, or it is not yours to see")
    content = _pair_document(ctx, actor, page, names, asked.outside)
    return to_pdf(content, "Letter") if kind == "pdf" else to_workbook(content)


def _pair_document(ctx: Context, actor: Actor, page: PairPage, names: bool, outside: bool) -> Document:
    where = [page.measure.name, f"{page.start.name} to {page.end.name}"]
    school = next((s.name for s in page.schools if s.id == page.school), "")
    where += [part for part in (school, f"grade {page.grade}" if page.grade else "") if part]
    blocks: list[Block] = []
    classes = [c for b in page.blocks for c in b.classes]
    if page.klass:
        where.append(page.klass)
    else:
        blocks += [Text("By grade", "heading"), _groups("Grades", [b.line for b in page.blocks], "Grade ")]
        if page.by_school:
            blocks += [Text("By school", "heading"), _groups("Schools", page.by_school)]
        if page.groups:
            name = next((a.name for a in page.attributes if a.id == page.attribute), "group")
            blocks += [Text(f"By {name}", "heading"), _groups("Groups", page.groups)]
    blocks += [Text("By class", "heading"), _groups("Classes", classes)]
    blocks += [Text(said) for said in page.regression]
    if page.moves is not None:
        columns = [PrintColumn("From", width=24), *(PrintColumn(level, "whole") for level in page.moves.levels)]
        rows: list[list[str | int | float | None]] = [[row.level, *row.ended] for row in page.moves.rows]
        blocks += [Text("From level to level", "heading"), Table(name="Levels", columns=columns, rows=rows)]
    if page.students and not outside:
        blocks += [NextPage(), Text("Students", "heading"), _students(page.students, names)]
    blocks.append(Text("How this was calculated", "heading"))
    blocks += [Text(said, "small") for said in page.workings]
    return Document(
        title=f"Growth: {page.measure.name}",
        lead=page.finding,
        where=", ".join(where),
        foot=_foot(ctx, actor, names, outside),
        blocks=blocks,
        wide=True,
        facts=[("Missing", f"{page.missing} of {page.of}"), *((r.reason, str(r.n)) for r in page.reasons)],
    )


def _groups(name: str, lines: Sequence[GrowthGroup], prefix: str = "") -> Table:
    rows: list[list[str | int | float | None]] = []
    for g in lines:
        said = g.says or (g.why if g.hidden or g.points is None else "")
        if not said and g.points is not None:
            said = {1: "more than expected", -1: "less than expected"}.get(g.off, "cannot be told from chance")
        rows.append(
            [
                f"{prefix}{g.name}",
                g.n,
                g.mean_start,
                g.mean_end,
                g.mean_gain,
                g.points,
                g.reach,
                g.met,
                None if g.median_sgp is None else round(g.median_sgp),
                g.missing,
                said,
            ]
        )
    return Table(name=name, columns=GROUP, rows=rows, strong=frozenset(at for at, g in enumerate(lines) if g.off))


def _students(students: Sequence[GrowthStudent], names: bool) -> Table:
    rows: list[list[str | int | float | None]] = [
        [
            s.name if names else f"Student {s.alias + 1}",
            s.klass,
            s.start,
            s.end,
            s.gain,
            s.expected,
            None if s.percentile is None else round(s.percentile),
            s.sgp,
            s.claim,
            s.end_level,
            "; ".join(s.marks),
        ]
        for s in sorted(students, key=lambda s: (s.klass, s.name if names else s.alias))
    ]
    return Table(name="Students", columns=STUDENT, rows=rows)


def student_report(ctx: Context, actor: Actor, measure_id: int, person_id: int) -> bytes:
    """One page about one student, as PDF."""
    page = student_growth(ctx, actor, measure_id, person_id)
    return to_pdf(_student_document(ctx, actor, page), "Letter")


def _student_document(ctx: Context, actor: Actor, page: StudentGrowthPage) -> Document:
    columns = (
        PrintColumn("When", width=22),
        PrintColumn("Grade"),
        PrintColumn("Class", width=22),
        PrintColumn("Score"),
        PrintColumn("Error", "number"),
        PrintColumn("Level", width=22),
        PrintColumn("Percentile rank", "whole"),
        PrintColumn("NCE", "number"),
        PrintColumn("Stanine", "whole"),
    )
    rows: list[list[str | int | float | None]] = [
        [
            s.at.name,
            s.grade,
            s.klass,
            s.level or decimal(s.score, page.measure.decimals),
            s.se,
            (s.standing.level + (" (near a cut score)" if s.standing.near else "")) or s.level,
            s.standing.rank,
            s.standing.nce,
            s.standing.stanine,
        ]
        for s in page.scores
    ]
    blocks: list[Block] = [Table(name="Scores", columns=columns, rows=rows)]
    if page.goals:
        blocks.append(Text("Goals", "heading"))
        for one in page.goals:
            came = "" if one.came is None else f"; {decimal(one.came, page.measure.decimals)} came"
            blocks.append(
                Text(
                    f"{decimal(one.goal.score, page.measure.decimals)} by {one.goal.by_day}, set by {one.goal.by}{came}."
                )
            )
    if page.norms is not None:
        norms = f"{page.norms.name}, version {page.norms.version}, {page.norms.population}"
        blocks.append(Text(f"Ranks are by {norms}.", "small"))
    return Document(
        title=page.name, lead=page.finding, where=page.measure.name, foot=_foot(ctx, actor, True, False), blocks=blocks
    )


def reflections_report(ctx: Context, actor: Actor, request_id: int) -> bytes:
    """What was written, each with the figures that it rests on, as PDF."""
    page = reflections_page(ctx, actor, request_id)
    line = next(r for r in page.requests if r.id == page.shown)
    blocks: list[Block] = []
    for place in page.places:
        if place.written is None:
            continue
        blocks.append(Text(f"{place.name}, {place.school}" if place.school else place.name, "heading"))
        blocks += [Text(said, "small") for said in place.written.figures]
        blocks += [Text(place.written.concludes), Text(f"Next: {place.written.plans}"), Text(place.written.by, "small")]
    missing = [p.name for p in page.places if p.written is None and p.class_id is not None]
    if missing:
        blocks += [Text("Not written yet", "heading"), Text(", ".join(missing))]
    return to_pdf(
        Document(
            title=f"Reflections: {line.measure}",
            lead=page.finding,
            where=f"{line.between}. {line.question}",
            foot=_foot(ctx, actor, True, False),
            blocks=blocks,
        ),
        "Letter",
    )


def _foot(ctx: Context, actor: Actor, names: bool, outside: bool) -> str:
    with ctx.store.read() as db:
        day = dates_of(db).short(local_today(ctx, db))
    hidden = "" if names else ", names hidden"
    return f"{actor.name}, {day}{hidden}{', for use outside the school' if outside else ''}"
