"""Reports that name students: who answered what, how each did, what is to be taught again."""

from __future__ import annotations

import html

import numpy as np

from bildung.core.data.responses import FIRST, NOT_REACHED, OMITTED
from bildung.core.items.shown import percent
from bildung.core.precision.subscores import points_on
from bildung.reports import marks
from bildung.reports.document import Block, Drawing, KeptTogether, NextPage, PrintColumn, Table, Text, Value
from bildung.services.quality import grid, overview, reteach
from bildung.services.quality.printing.asked import Work, on_sheet

KEY = "A correct answer is left empty; an incorrect one shows the answer. ○ omitted, / not reached, ! unexpected."


def who_answered(work: Work) -> tuple[str, list[Block]]:
    """Students by items, class by class."""
    asked = work.asked
    found = grid.grid(work.ctx, work.actor, asked.wanted, asked.settings)
    order = sorted(
        range(len(found.students)), key=lambda at: (found.students[at].klass, -(found.students[at].share or -1.0))
    )
    columns = [
        PrintColumn("Student", "text", 17),
        PrintColumn("Points", "points", 6),
        *(PrintColumn(str(i.number), "html", only="print") for i in found.items),
        *on_sheet(*((f"{i.number} {i.item}", "text") for i in found.items)),
    ]
    blocks: list[Block] = [Text(KEY, "small")]
    for klass in dict.fromkeys(found.students[at].klass for at in order):
        mine = [at for at in order if found.students[at].klass == klass][: asked.most and 8 * asked.most]
        rows: list[list[Value]] = []
        for at in mine:
            s, odd = found.students[at], set(found.students[at].unexpected)
            codes = [i.codes[at] for i in found.items]
            cells = [
                _cell(i, code, place in odd) for place, (i, code) in enumerate(zip(found.items, codes, strict=True))
            ]
            whole = [grid.cell_text(i, code) for i, code in zip(found.items, codes, strict=True)]
            rows.append([asked.name(s.name, s.alias), s.earned if s.share is not None else None, *cells, *whole])
        blocks += [Text(klass, "part"), Table(name="Answers", columns=columns, rows=rows)]
    return found.finding, blocks


def _cell(column: grid.GridItem, code: int, unexpected: bool) -> str:
    mark = "!" if unexpected else ""
    if code < FIRST:
        return {OMITTED: "○", NOT_REACHED: "/"}.get(code, "") + mark
    label = column.labels[code - FIRST]
    if label.share >= 1:
        return mark
    text = label.text if len(label.text) <= 3 else "…"
    return f'<span class="wrong">{html.escape(text)}</span>{mark}'


def how_each_did(work: Work) -> tuple[str, list[Block]]:
    """A page a student: points by standard, what was missed, what was unexpected."""
    asked, judged = work.asked, work.judged
    found = grid.grid(work.ctx, work.actor, asked.wanted, asked.settings)
    shown = np.flatnonzero(judged.named)
    texts = work.texts()
    standards = {
        code: points_on(judged.analysis, places) for code, places in overview.groups_of(judged, "standard").items()
    }
    order = sorted(range(len(found.students)), key=lambda at: (found.students[at].klass, found.students[at].name))
    blocks: list[Block] = []
    sheet: list[list[Value]] = []
    for done, at in enumerate(order[: asked.most]):
        work.job.tell("writing students", done, len(order))
        s, row = found.students[at], int(shown[at])
        name = asked.name(s.name, s.alias)
        rows: list[list[Value]] = []
        for code, (earned, possible) in standards.items():
            got, most = float(earned[row]), float(possible[row])
            rows.append([texts.get(code, code), code, got, most, got / most if most else None])
        total = (
            f"{s.earned:g} of {s.possible:g} points, {percent(s.share)}"
            if s.share is not None
            else "An answer awaits its score, so there is no total"
        )
        odd = ", ".join(str(found.items[place].number) for place in s.unexpected)
        blocks += [
            Text(f"{name}, {s.klass}", "part"),
            Text(total + (f". Unexpected: item {odd}." if odd else ".")),
            Table(
                name="",
                columns=[
                    PrintColumn("Standard"),
                    PrintColumn("Code"),
                    PrintColumn("Points", "points"),
                    PrintColumn("of", "points"),
                    PrintColumn("Share", "share"),
                ],
                rows=rows,
            ),
            Table(
                name="",
                columns=[
                    PrintColumn("No.", "whole", 7),
                    PrintColumn("About", "text", 45),
                    PrintColumn("Answered", "text", 24),
                    PrintColumn("Right", "text"),
                ],
                rows=_missed(found, at, texts),
            ),
            NextPage(),
        ]
        sheet += [[name, s.klass, *row_] for row_ in rows]
    columns = on_sheet(
        ("Student", "text"),
        ("Class", "text"),
        ("Standard", "text"),
        ("Code", "text"),
        ("Points", "points"),
        ("of", "points"),
        ("Share", "share"),
    )
    return found.finding, [*blocks[:-1], Table(name="By standard", columns=columns, rows=sheet)]


def _missed(found: grid.Grid, at: int, texts: dict[str, str]) -> list[list[Value]]:
    rows: list[list[Value]] = []
    for column in found.items:
        code = column.codes[at]
        if code in (OMITTED, NOT_REACHED) or (code >= FIRST and column.labels[code - FIRST].share < 1):
            about = texts.get(column.standards[0], column.standards[0]) if column.standards else ""
            words = {OMITTED: "omitted", NOT_REACHED: "not reached"}.get(code) or grid.cell_text(column, code)
            rows.append([column.number, about, words, column.key])
    return rows


def to_teach_again(work: Work) -> tuple[str, list[Block]]:
    """One class, or each that is theirs."""
    asked = work.asked
    first = reteach.reteach_list(work.ctx, work.actor, asked.wanted, asked.klass, asked.settings)
    one = asked.klass is not None or asked.most is not None or len(first.classes) == 1
    classes = (
        [first]
        if one
        else [reteach.reteach_list(work.ctx, work.actor, asked.wanted, c.id, asked.settings) for c in first.classes]
    )
    alias: dict[int, int] = {}
    blocks: list[Block] = []
    needs: list[list[Value]] = []
    for found in classes:
        if not one:
            blocks += [Text(found.klass, "part"), Text(found.finding)]
        for s in found.standards[: asked.most]:
            names = [asked.name(n.name, alias.setdefault(n.person, len(alias))) for n in s.need]
            needs += [
                [found.klass, s.standard, s.text, name, n.earned, n.possible]
                for name, n in zip(names, s.need, strict=True)
            ]
            blocks.append(_standard(s, names, asked.settings.watch_line))
        if not found.standards:
            blocks.append(Text("Nothing is under the watch line."))
    columns = on_sheet(
        ("Class", "text"),
        ("Code", "text"),
        ("Standard", "text"),
        ("Student", "text"),
        ("Points", "points"),
        ("of", "points"),
    )
    many = f"{len(classes)} classes, each with what is under the watch line of {percent(asked.settings.watch_line)}."
    return first.finding if one else many, [*blocks, Table(name="Who needs what", columns=columns, rows=needs)]


def _standard(s: reteach.ToTeach, names: list[str], line: float) -> KeptTogether:
    sure = (
        "surely under the line"
        if s.sure
        else "under the line, perhaps by chance"
        if s.share < line
        else "over the line as a whole"
    )
    inner: list[Block] = [
        Text(f"{s.text or s.standard} ({s.standard})", "heading"),
        Drawing(marks.interval(s.share, s.ci95, line, 160)),
        Text(
            f"{percent(s.share)} of the points, {sure}. {len(s.need)} of {s.n} need it: {', '.join(names) or 'nobody'}."
        ),
    ]
    for item in s.items:
        said = "; ".join(f"{w.answer} by {w.n}{f' ({w.note})' if w.note else ''}" for w in item.wrong[:3])
        tail = ". Review the item first." if item.flagged else "."
        inner.append(Text(f"Item {item.number}, {percent(item.p)}{': ' + said if said else ''}{tail}", "small"))
    return KeptTogether(inner)
