"""Reports about the test as a whole: classes side by side, how far to trust it."""

from __future__ import annotations

from collections.abc import Sequence

from bildung.core.comparison.compare import CompareFinding
from bildung.core.items.shown import decimal, percent
from bildung.core.precision.trust import Trust
from bildung.reports import marks
from bildung.reports.document import Block, PrintColumn, Table, Text, Value
from bildung.services.quality import comparison, effort, trust
from bildung.services.quality.printing.asked import Work

MOST_FINDINGS = 12
NAMES = {"lambda2": "lambda 2", "split_half": "split half", "kr21": "KR-21", "stratified_alpha": "stratified alpha"}


def side_by_side(work: Work) -> tuple[str, list[Block]]:
    """The comparison, as a report has it."""
    asked = work.asked
    blocks: list[Block] = []
    leads: list[tuple[int, str]] = []
    for of in ("standard", "item"):
        work.job.tell(f"comparing by {of}", 0, 0)
        found = comparison.compare_groups(work.ctx, work.actor, asked.wanted, "class", of, asked.settings)
        leads.append((min((comparison.ORDER[f.finding] for f in found.findings), default=99), found.finding))
        columns = [PrintColumn("Standard" if of == "standard" else "Item", "text", 22)]
        for group in found.groups:
            columns += [PrintColumn(f"{group.name} ({group.n})", "share"), PrintColumn("", "html", only="print")]
        rows: list[list[Value]] = []
        for line in found.lines[: asked.most and 6 * asked.most]:
            cells: list[Value] = []
            for c in line.cells:
                cells += [c.p, marks.interval(c.p, c.ci95, asked.settings.watch_line, 54)]
            rows.append([_name(line), *cells])
        names = {line.name: _name(line) for line in found.lines}
        said = [Text(_says(f, names[f.item], found.says[f.finding])) for f in found.findings[:MOST_FINDINGS]]
        blocks += [
            Text(f"By {of}", "part"),
            *(said or [Text("No difference stands out.")]),
            Table(name=f"By {of}", columns=columns, rows=rows),
        ]
    blocks.append(
        Text("With classes this small, use the order as a starting point for discussion, not as a judgment.", "small")
    )
    return min(leads, key=lambda said: said[0])[1], blocks


def _name(line: comparison.CompareLine) -> str:
    return f"Item {line.number}" if line.number is not None else f"{line.text or line.name} ({line.name})"


def _says(f: CompareFinding, name: str, words: str) -> str:
    text = f"{name}{f', {f.group}' if f.group else ''}: {words}"
    if f.difference is None:
        return f"{text}."
    return f"{text} ({percent(abs(f.difference))} {'under' if f.difference < 0 else 'over'} the others)."


def how_far(work: Work) -> tuple[str, list[Block]]:
    """How far the test can be relied upon, as a report has it."""
    asked = work.asked
    found = trust.trust_report(work.ctx, work.actor, asked.wanted, asked.settings)
    t = found.trust
    time = effort.time_and_effort(work.ctx, work.actor, asked.wanted, asked.settings)
    blocks: list[Block] = [
        Text("The total", "part"),
        _coefficients(t),
        Text(f"Standard error {decimal(t.sem)} points."),
        Text("Cut scores", "part"),
        _pass_lines(t),
        Text("Parts", "part"),
        _parts(t),
        Text("Reliability at other lengths", "part"),
        Table(
            name="Length",
            columns=[PrintColumn("Items", "whole"), PrintColumn("Reliability", "coefficient")],
            rows=[[length.items, length.reliability] for length in t.lengths],
            fitted=True,
        ),
        Text("Dimensionality", "part"),
        Text(found.dimensions_say),
        Text("Time", "part"),
        Text(time.finding),
    ]
    if t.errors:
        blocks.append(_errors(t))
    if found.coverage:
        blocks += [Text("Coverage", "part"), Text(found.coverage_says), _coverage(found.coverage)]
    return found.finding, blocks


def _coefficients(t: Trust) -> Table:
    return Table(
        name="Coefficients",
        columns=[
            PrintColumn("Coefficient"),
            PrintColumn("Value", "coefficient"),
            PrintColumn("from", "coefficient"),
            PrintColumn("to", "coefficient"),
            PrintColumn("Not stated because"),
        ],
        rows=[[NAMES.get(c.figure, c.figure), c.value, *(c.ci95 or (None, None)), c.why] for c in t.coefficients],
        fitted=True,
    )


def _pass_lines(t: Trust) -> Table:
    return Table(
        name="Cut scores",
        columns=[
            PrintColumn("Line"),
            PrintColumn("Points", "number"),
            PrintColumn("Pass", "share"),
            PrintColumn("Accuracy", "share"),
            PrintColumn("Consistency", "share"),
            PrintColumn("In words"),
        ],
        rows=[
            [
                c.name,
                c.points,
                c.passing,
                c.result.accuracy if c.result else None,
                c.result.consistency if c.result else None,
                c.says,
            ]
            for c in t.cuts
        ],
    )


def _parts(t: Trust) -> Table:
    return Table(
        name="Parts",
        columns=[
            PrintColumn("Part"),
            PrintColumn("Items", "whole"),
            PrintColumn("Mean", "share"),
            PrintColumn("Reliability", "coefficient"),
            PrintColumn("of itself", "coefficient"),
            PrintColumn("by the total", "coefficient"),
            PrintColumn("In words"),
        ],
        rows=[
            [p.name, len(p.places), p.mean, p.alpha, p.from_part, p.from_total, _part(p.says_more, p.why)]
            for p in t.parts
        ],
    )


def _errors(t: Trust) -> Table:
    return Table(
        name="Error by score",
        columns=[
            PrintColumn("Score", "points"),
            PrintColumn("Standard error", "number"),
            PrintColumn("Students", "whole"),
        ],
        rows=[[e.score, e.error, e.students] for e in t.errors],
        fitted=True,
    )


def _coverage(covered: Sequence[trust.Covered]) -> Table:
    return Table(
        name="Coverage",
        columns=[
            PrintColumn("Blueprint target"),
            PrintColumn("from", "points"),
            PrintColumn("to", "points"),
            PrintColumn("On the form", "points"),
            PrintColumn("Sound", "points"),
        ],
        rows=[[c.name, c.low, c.high, c.have, c.sound] for c in covered],
    )


def _part(says_more: bool | None, why: dict[str, str]) -> str:
    if says_more is None:
        return why.get("says_more") or why.get("alpha", "")
    return "may be reported by itself" if says_more else "read it by the total"
