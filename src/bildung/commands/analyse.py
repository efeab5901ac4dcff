"""`./bildung analyse`: item, distractor and test analysis of a response file, without a server."""

from __future__ import annotations

import argparse
import sys
from itertools import compress
from pathlib import Path

from bildung.commands.files import read_bytes, write_whole
from bildung.core.classical.analysis import analyse
from bildung.core.classical.finding import test_finding
from bildung.core.classical.settings import Settings
from bildung.formats.keys import read_key
from bildung.formats.responses import cells_as_given, read_responses
from bildung.formats.results import analysis_json

EXAMPLE = "example: ./bildung analyse RESPONSES.csv --key KEY.csv --compare class --json OUT.json"


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "responses", type=Path, metavar="RESPONSES.csv", help="student, items, optional status and groups"
    )
    parser.add_argument(
        "--key", type=Path, required=True, metavar="KEY.csv", help="item, type, key, optional points, options, part"
    )
    parser.add_argument(
        "--watch-line", type=_share, default=0.60, metavar="0.60", help="p under which an item is marked"
    )
    parser.add_argument("--compare", metavar="COLUMN", help="compare the groups of this column, item by item")
    parser.add_argument("--dif", metavar="COLUMN", help="differential functioning between its two levels")
    parser.add_argument("--json", type=Path, metavar="OUT.json", help="everything, unrounded")
    parser.add_argument("--xlsx", type=Path, metavar="OUT.xlsx", help="a workbook to keep")


def _share(text: str) -> float:
    value = float(text)
    if not 0 <= value <= 1:
        raise argparse.ArgumentTypeError(f"{text} is not within 0..1")
    return value


def run(given: argparse.Namespace) -> int:
    key = read_key(str(given.key), read_bytes(given.key))
    groups = list(dict.fromkeys(g for g in (given.compare, given.dif) if g))
    data = read_bytes(given.responses)
    file = read_responses(str(given.responses), data, key, groups)
    analysis = analyse(file.table, Settings(watch_line=given.watch_line))
    counted = file.table.counted
    students = file.students if counted.all() else list(compress(file.students, counted.tolist()))
    comparison = dif = None
    if given.compare:
        from bildung.core.comparison.compare import compare

        comparison = (given.compare, compare(analysis, file.groups[given.compare], counted))
    if given.dif:
        from bildung.core.comparison.differential import differential

        dif = (given.dif, differential(analysis, file.groups[given.dif], counted))
    if given.json:
        write_whole(given.json, analysis_json(analysis, students, comparison, dif).encode())
    if given.xlsx:
        from bildung.formats.workbook import analysis_workbook

        cells = cells_as_given(data, [keyed.item.name for keyed in key])
        write_whole(given.xlsx, analysis_workbook(analysis, file, cells, comparison, dif))
    print("".join(piece.text for piece in test_finding(analysis)))
    for item in analysis.items:
        for flag in item.flags:
            if flag.weight != "note":
                print(f"  {item.item.name}: {flag.flag.replace('_', ' ')}. {flag.why}")
    if not given.json and not given.xlsx:
        print("All figures: add --json OUT.json or --xlsx OUT.xlsx", file=sys.stderr)
    return 0
