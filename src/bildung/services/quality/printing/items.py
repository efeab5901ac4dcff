"""Reports about items: what was wrong with the test, what every item did."""

from __future__ import annotations

from collections.abc import Sequence

from bildung.core.classical.curves import option_curves
from bildung.core.classical.flags import Flag
from bildung.core.classical.options import OptionRow
from bildung.core.items.shown import coefficient, percent
from bildung.formats.content import Content
from bildung.reports import marks, printed
from bildung.reports.document import Block, Drawing, KeptTogether, Kind, PrintColumn, Table, Text, Value
from bildung.services.items.bankitem import BankItem
from bildung.services.items.pictures import pictures_of, with_picture_addresses
from bildung.services.quality.judged import Judged
from bildung.services.quality.printing.asked import Work, on_sheet

ITEMS = [
    PrintColumn("No.", "whole", 5),
    PrintColumn("Item", "text", 10),
    PrintColumn("Standard", "text", 11),
    PrintColumn("Correct", "share", 7),
    PrintColumn("", "html", 14, "print"),
    *on_sheet(("from", "share"), ("to", "share")),
    PrintColumn("Separates", "coefficient", 8),
    PrintColumn("Answers", "html", 23, "print"),
    *on_sheet(
        ("n", "whole"),
        ("omitted", "whole"),
        ("not reached", "whole"),
        ("upper − lower 27%", "coefficient"),
        ("alpha without it", "coefficient"),
    ),
    PrintColumn("Reason for review", "text"),
]
ANSWERS = on_sheet(
    ("No.", "whole"),
    ("Item", "text"),
    ("Answer", "text"),
    ("Key", "text"),
    ("n", "whole"),
    ("Share", "share"),
    ("mean of the rest", "number"),
    ("r (rest)", "coefficient"),
    ("lowest fifth", "share"),
    ("second", "share"),
    ("third", "share"),
    ("fourth", "share"),
    ("highest fifth", "share"),
)
OPTIONS = [
    PrintColumn("Answer", "text", 22),
    PrintColumn("n", "whole", 8),
    PrintColumn("Share", "share", 9),
    PrintColumn("r (rest)", "coefficient", 10),
    PrintColumn("lowest fifth", "share", 10),
    PrintColumn("highest fifth", "share", 10),
    PrintColumn("What it says", "text"),
]


def about_items(work: Work, every: bool) -> tuple[str, list[Block]]:
    """every: a block for each item; otherwise for those that want a look."""
    judged = work.judged
    analysis, spread = judged.analysis, judged.analysis.distribution
    trusted = analysis.reliability
    figures: list[tuple[str, Kind, Value]] = [
        ("students", "whole", spread.n),
        ("items", "whole", spread.k),
        ("points", "whole", spread.points),
        ("mean", "number", spread.mean),
        ("sd", "number", spread.sd),
        ("median", "number", spread.median),
        ("std. error", "number", analysis.sem),
        ("alpha", "coefficient", trusted.alpha),
        ("omega", "coefficient", trusted.omega),
        ("lambda 2", "coefficient", trusted.lambda2),
        ("split half", "coefficient", trusted.split_half),
        ("KR-21", "coefficient", trusted.kr21),
    ]
    problems = frozenset(at for at, f in enumerate(analysis.items) if any(flag.weight == "problem" for flag in f.flags))
    blocks: list[Block] = [
        KeptTogether(
            [Text("Students by points", "heading"), Drawing(marks.histogram(spread.histogram, spread.points))]
        ),
        Table(
            name="Test",
            columns=[PrintColumn(name, kind) for name, kind, _ in figures],
            rows=[[value for *_, value in figures]],
        ),
        Text("Every item", "part"),
        Table(name="Items", columns=ITEMS, rows=[_line(work, at) for at in range(len(judged.rows))], strong=problems),
        Text("Item by item" if every else "Items to review", "part"),
    ]
    wanted = [at for at, found in enumerate(analysis.items) if every or found.sound is False]
    if not wanted:
        blocks.append(Text("No items to review."))
    shown = wanted[: work.asked.most]
    pictures = pictures_of(work.ctx, [_content(judged.rows[at].item) for at in shown])
    for done, at in enumerate(shown):
        work.job.tell("writing items", done, len(shown))
        blocks.append(_block(judged, at, pictures))
    blocks.append(Table(name="Answers", columns=ANSWERS, rows=_answers(judged)))
    return "".join(piece.text for piece in judged.finding), blocks


def _line(work: Work, at: int) -> list[Value]:
    row, found = work.judged.rows[at], work.judged.analysis.items[at]
    f = found.figures
    low, high = f.p_ci95 or (None, None)
    answers = [(o.option, o.n, o.is_key) for o in found.options if o.kind == "answer"]
    heavy = [flag for flag in found.flags if flag.weight != "note"] or list(found.flags)
    return [
        row.number,
        row.item.code,
        ", ".join(row.item.standards[:1]),
        f.p,
        marks.interval(f.p, f.p_ci95, work.asked.settings.watch_line),
        low,
        high,
        f.r_rest,
        marks.ribbon(answers, f.n_not_reached, 130),
        f.n,
        f.n_omitted,
        f.n_not_reached,
        f.d27,
        found.alpha_without,
        ", ".join(dict.fromkeys(_words(flag) for flag in heavy)),
    ]


def _words(flag: Flag) -> str:
    named = f" ({flag.option})" if flag.option and flag.weight == "problem" else ""
    return flag.flag.replace("_", " ") + named


def _block(judged: Judged, at: int, pictures: printed.Pictures) -> KeptTogether:
    row, found = judged.rows[at], judged.analysis.items[at]
    f = found.figures
    inner: list[Block] = [Text(f"Item {row.number}, {row.item.code}", "heading")]
    if row.item.stimulus is not None:
        inner.append(Text(f"About “{row.item.stimulus.title}”.", "small"))
    inner.append(Drawing(f'<div class="asked">{printed.question(_content(row.item).shown, pictures, True, 0)}</div>'))
    looks = {"problem": "urgent", "look": "", "note": "small"}
    inner += [Text(flag.why, looks[flag.weight]) for flag in found.flags]
    key = row.item.key or "hand-scored"
    inner.append(Text(f"Key {key}; {percent(f.p)} of {f.n} correct, r (rest) {coefficient(f.r_rest)}."))
    curves = option_curves(found.joint)
    if curves is not None:
        answers = [o for o in found.options if o.kind == "answer"]
        place = {o.option: n for n, o in enumerate(answers)}
        given = {o.option: o for o in answers if o.n}
        lines = [(name, share, place[name], given[name].is_key) for name, share in curves.curves if name in given]
        inner.append(Drawing(marks.curves(curves.x, lines)))
    inner.append(Table(name="", columns=OPTIONS, rows=_options(row.item, found.options)))
    return KeptTogether(inner)


def _content(item: BankItem) -> Content:
    return with_picture_addresses(Content(shown=item.shown, scoring=item.scoring, behind=item.behind))


def _options(item: BankItem, options: Sequence[OptionRow]) -> list[list[Value]]:
    notes = {m.answer: m.note for m in item.behind.misconceptions}
    return [
        [
            (o.option or "omitted") + (" (key)" if o.is_key else ""),
            o.n,
            o.share,
            o.r_rest,
            o.fifths[0],
            o.fifths[4],
            notes.get(o.option, ""),
        ]
        for o in options
        if o.kind == "answer"
    ]


def _answers(judged: Judged) -> list[list[Value]]:
    """All answers of all items, for the workbook."""
    return [
        [
            row.number,
            row.item.code,
            o.option or "omitted",
            "key" if o.is_key else "",
            o.n,
            o.share,
            o.mean_rest,
            o.r_rest,
            *o.fifths,
        ]
        for row, found in zip(judged.rows, judged.analysis.items, strict=True)
        for o in found.options
    ]
