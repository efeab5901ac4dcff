"""Printed data sets: two five-item sections of a law-school admission test, 1,000 students each.

Counts of the 32 answer patterns as in Bock & Lieberman (1970) and Bock & Aitkin (1981).
"""

from __future__ import annotations

from bildung.core.data.responses import ItemColumn, ResponseTable, table_from_cells

SECTION_6 = {
    "00000": 3,
    "00001": 6,
    "00010": 2,
    "00011": 11,
    "00100": 1,
    "00101": 1,
    "00110": 3,
    "00111": 4,
    "01000": 1,
    "01001": 8,
    "01010": 0,
    "01011": 16,
    "01100": 0,
    "01101": 3,
    "01110": 2,
    "01111": 15,
    "10000": 10,
    "10001": 29,
    "10010": 14,
    "10011": 81,
    "10100": 3,
    "10101": 28,
    "10110": 15,
    "10111": 80,
    "11000": 16,
    "11001": 56,
    "11010": 21,
    "11011": 173,
    "11100": 11,
    "11101": 61,
    "11110": 28,
    "11111": 298,
}
SECTION_7 = {
    "00000": 12,
    "00001": 19,
    "00010": 1,
    "00011": 7,
    "00100": 3,
    "00101": 19,
    "00110": 3,
    "00111": 17,
    "01000": 10,
    "01001": 5,
    "01010": 3,
    "01011": 7,
    "01100": 7,
    "01101": 23,
    "01110": 8,
    "01111": 28,
    "10000": 7,
    "10001": 39,
    "10010": 11,
    "10011": 34,
    "10100": 14,
    "10101": 51,
    "10110": 15,
    "10111": 90,
    "11000": 6,
    "11001": 25,
    "11010": 7,
    "11011": 35,
    "11100": 18,
    "11101": 136,
    "11110": 32,
    "11111": 308,
}


def table(patterns: dict[str, int]) -> ResponseTable:
    """The section as a table of points items."""
    items = [ItemColumn(name=f"item {at}", kind="points", points=1.0) for at in range(1, 6)]
    cells = [list(pattern) for pattern, count in patterns.items() for _ in range(count)]
    return table_from_cells(items, [""] * 5, cells)
