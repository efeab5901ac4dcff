"""An analysis as a workbook that a teacher would keep. Every text is written as text: nothing in it is run."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

import xlsxwriter
from xlsxwriter.format import Format
from xlsxwriter.workbook import Workbook
from xlsxwriter.worksheet import Worksheet

from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.finding import test_finding
from bildung.core.comparison.compare import Comparison
from bildung.core.comparison.differential import Differential
from bildung.core.explain.figures import FIGURES
from bildung.formats.responses import ResponseFile

_FORMATS = {
    "head": {"bold": True, "bottom": 1, "text_wrap": True, "valign": "top"},
    "text": {},
    "title": {"bold": True, "font_size": 14},
    "wrap": {"text_wrap": True, "valign": "top"},
    "whole": {"num_format": "0"},
    "share": {"num_format": "0%"},
    "two": {"num_format": "0.00"},
    "three": {"num_format": "0.000"},
    "one": {"num_format": "0.0"},
    "key": {"bold": True},
}
Column = tuple[str, int, str]


class Book:
    """A workbook in memory; no text in it is ever taken for a formula, a link or a number."""

    def __init__(self) -> None:
        self.out = io.BytesIO()
        self.book: Workbook = xlsxwriter.Workbook(
            self.out,
            {"strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False, "in_memory": True},
        )
        self.formats: dict[str, Format] = {name: self.book.add_format(f) for name, f in _FORMATS.items()}

    def sheet(self, name: str, columns: Sequence[Column], frozen: int = 1) -> Worksheet:
        """columns: heading, width, format. Heads and the first `frozen` columns stay in view."""
        sheet: Worksheet = self.book.add_worksheet(name)
        for at, (heading, width, style) in enumerate(columns):
            sheet.set_column(at, at, width, self.formats[style])
            sheet.write_string(0, at, heading, self.formats["head"])
        sheet.freeze_panes(1, frozen)
        return sheet

    def row(self, sheet: Worksheet, at: int, values: Sequence[Any], style: str | None = None) -> None:
        look = None if style is None else self.formats[style]
        for column, value in enumerate(values):
            if value is None:
                continue
            if isinstance(value, bool):
                sheet.write_string(at, column, "yes" if value else "no", look)
            elif isinstance(value, (int, float)):
                sheet.write_number(at, column, value, look)
            else:
                sheet.write_string(at, column, str(value), look)

    def bytes(self) -> bytes:
        self.book.close()
        return self.out.getvalue()


def analysis_workbook(
    analysis: TestAnalysis,
    file: ResponseFile,
    cells: Sequence[Sequence[str]],
    compare: tuple[str, Comparison] | None = None,
    dif: tuple[str, Differential] | None = None,
) -> bytes:
    """cells: answers as given, a row for each of the file's students."""
    book = Book()
    _summary(book, analysis)
    _items(book, analysis)
    _options(book, analysis)
    _students(book, analysis, file, cells)
    if compare:
        _compare(book, *compare)
    if dif:
        _dif(book, *dif)
    _definitions(book)
    return book.bytes()


def _summary(book: Book, analysis: TestAnalysis) -> None:
    sheet = book.sheet("Summary", [("Figure", 42, "text"), ("Value", 14, "two"), ("Note", 70, "wrap")])
    spread, trust = analysis.distribution, analysis.reliability
    why = spread.why | trust.why
    lines: list[tuple[str, Any, str]] = [("Finding", None, "".join(p.text for p in test_finding(analysis)))]
    lines += [(f"Attempts: {name.replace('_', ' ')}", n, "") for name, n in analysis.counts.items()]
    lines += [
        ("Students with a total", spread.n, ""),
        ("Items", spread.k, ""),
        ("Points possible", spread.points, ""),
        ("Mean", spread.mean, ""),
        ("Standard deviation", spread.sd, ""),
        ("Median", spread.median, ""),
        ("Lowest", spread.min, ""),
        ("Highest", spread.max, ""),
        ("Skewness", spread.skewness, ""),
        ("Excess kurtosis", spread.kurtosis, ""),
        ("Alpha", trust.alpha, trust.alpha_ci_method or ""),
        ("Alpha, 95% from", trust.alpha_ci95 and trust.alpha_ci95[0], ""),
        ("Alpha, 95% to", trust.alpha_ci95 and trust.alpha_ci95[1], ""),
        ("KR-21", trust.kr21, why.get("kr21", "")),
        ("Guttman lambda 2", trust.lambda2, ""),
        ("Split half, stepped up", trust.split_half, why.get("split_half", "")),
        ("Omega", trust.omega, why.get("omega", "")),
        ("Stratified alpha", trust.stratified_alpha, why.get("stratified_alpha", "")),
        ("Standard error of measurement", analysis.sem, why.get("alpha", "")),
        ("Share who reached the last item", spread.reached_last, ""),
        ("Share who reached 80% of the items", spread.reached_80, ""),
    ]
    for at, line in enumerate(lines, 1):
        book.row(sheet, at, line)


def _items(book: Book, analysis: TestAnalysis) -> None:
    columns: list[Column] = [
        ("Item", 14, "text"),
        ("Type", 9, "text"),
        ("Points", 8, "one"),
        ("Part", 8, "text"),
        ("n", 8, "whole"),
        ("Omitted", 9, "whole"),
        ("Not reached", 9, "whole"),
        ("Correct (p)", 9, "share"),
        ("95% from", 8, "share"),
        ("to", 8, "share"),
        ("Discrimination (r rest)", 11, "two"),
        ("95% from", 8, "two"),
        ("to", 8, "two"),
        ("r with total", 9, "two"),
        ("Biserial", 9, "two"),
        ("Upper minus lower 27%", 11, "two"),
        ("Alpha without", 10, "three"),
        ("Sound", 8, "text"),
        ("Flags", 60, "wrap"),
        ("Standards", 24, "text"),
    ]
    sheet = book.sheet("Items", columns)
    for at, found in enumerate(analysis.items, 1):
        f, p, r = found.figures, found.figures.p_ci95 or (None, None), found.figures.r_rest_ci95 or (None, None)
        flags = "; ".join(
            flag.flag.replace("_", " ") + (f" ({flag.option})" if flag.option else "") for flag in found.flags
        )
        sound = "not examined" if found.sound is None else found.sound
        book.row(
            sheet,
            at,
            (
                found.item.name,
                found.item.kind,
                found.item.points,
                found.item.part,
                f.n,
                f.n_omitted,
                f.n_not_reached,
                f.p,
                *p,
                f.r_rest,
                *r,
                f.r_total,
                f.biserial,
                f.d27,
                found.alpha_without,
                sound,
                flags,
                "; ".join(found.item.standards),
            ),
        )
    sheet.autofilter(0, 0, len(analysis.items), len(columns) - 1)


def _options(book: Book, analysis: TestAnalysis) -> None:
    columns: list[Column] = [
        ("Item", 14, "text"),
        ("Answer", 18, "text"),
        ("Key", 6, "text"),
        ("n", 8, "whole"),
        ("Share", 8, "share"),
        ("Mean total", 10, "one"),
        ("Mean rest", 10, "one"),
        ("r with rest", 10, "two"),
        *[(f"Fifth {n}", 8, "share") for n in range(1, 6)],
    ]
    sheet = book.sheet("Options", columns, 2)
    at = 0
    for found in analysis.items:
        for row in found.options:
            at += 1
            name = row.option or "omitted"
            name = f"{name} (in any combination)" if row.kind == "option" else name
            values = (
                found.item.name,
                name,
                "key" if row.is_key else "",
                row.n,
                row.share,
                row.mean_total,
                row.mean_rest,
                row.r_rest,
                *row.fifths,
            )
            book.row(sheet, at, values)


def _students(book: Book, analysis: TestAnalysis, file: ResponseFile, cells: Sequence[Sequence[str]]) -> None:
    columns: list[Column] = [
        ("Student", 18, "text"),
        ("Earned", 9, "one"),
        ("Possible", 9, "one"),
        ("Percentile rank", 10, "whole"),
    ]
    columns += [(item.item.name, 9, "text") for item in analysis.items]
    sheet = book.sheet("Students by items", columns)
    counted = file.table.counted.tolist()
    ranks, scores, place = analysis.percentile_ranks, analysis.scores, 0
    key = ["key", None, None, None, *("|".join(i.item.keys) for i in analysis.items)]
    book.row(sheet, 1, key, "key")
    for at, student in enumerate(file.students):
        figures: tuple[Any, ...] = (None, None, None)
        if counted[at]:
            if scores.complete[place]:
                figures = (float(scores.earned[place]), float(scores.possible[place]), float(ranks[place]))
            place += 1
        book.row(sheet, at + 2, (student, *figures, *cells[at]))


def _compare(book: Book, by: str, found: Comparison) -> None:
    columns: list[Column] = [("Item", 14, "text"), *((g.group, 10, "share") for g in found.groups)]
    sheet = book.sheet("Groups", columns)
    book.row(sheet, 1, ("n", *(g.n for g in found.groups)), "whole")
    book.row(sheet, 2, ("mean", *(g.mean for g in found.groups)), "one")
    for at, item in enumerate(found.groups[0].items):
        book.row(sheet, at + 3, (item.item, *(g.items[at].p for g in found.groups)))
    names: list[Column] = [
        ("Item", 14, "text"),
        (by, 14, "text"),
        ("Finding", 22, "text"),
        ("Difference", 10, "two"),
        ("95% from", 9, "two"),
        ("to", 9, "two"),
        ("Odds ratio", 10, "two"),
        ("D-DIF", 9, "two"),
        ("p adjusted", 10, "three"),
    ]
    sheet = book.sheet("Group findings", names)
    for at, f in enumerate(found.findings, 1):
        ci = f.ci95 or (None, None)
        book.row(
            sheet,
            at,
            (f.item, f.group, f.finding.replace("_", " "), f.difference, *ci, f.odds_ratio, f.d_dif, f.p_adjusted),
        )


def _dif(book: Book, by: str, found: Differential) -> None:
    columns: list[Column] = [
        ("Item", 14, "text"),
        ("Class", 8, "text"),
        ("Odds ratio", 10, "two"),
        ("D-DIF", 9, "two"),
        ("SE", 9, "two"),
        ("Chi square", 10, "two"),
        ("p", 9, "three"),
        ("Difference in p, matched", 12, "two"),
        ("Strata used", 9, "whole"),
        ("dropped", 9, "whole"),
    ]
    sheet = book.sheet(f"DIF {by}"[:31].translate(str.maketrans("[]:*?/\\", "-------")), columns)
    for at, item in enumerate(found.items, 1):
        m = item.matched
        values = (
            item.item,
            item.size,
            m.odds_ratio,
            m.d_dif,
            m.d_dif_se,
            m.chi2,
            m.p_value,
            m.std_p_difference,
            m.strata_used,
            m.strata_dropped,
        )
        book.row(sheet, at, values)
    note = f"Reference {found.reference} ({found.n_reference}), focal {found.focal} ({found.n_focal}); below 0: harder for the focal group."
    sheet.write_string(len(found.items) + 2, 0, note)


def _definitions(book: Book) -> None:
    columns: list[Column] = [
        ("Figure", 30, "wrap"),
        ("What it says", 70, "wrap"),
        ("Formula", 44, "wrap"),
        ("Source", 40, "wrap"),
        ("Cautions", 60, "wrap"),
    ]
    sheet = book.sheet("Definitions", columns)
    for at, figure in enumerate(FIGURES.values(), 1):
        book.row(sheet, at, (figure.title, figure.plain, figure.formula, figure.source, figure.caution))
