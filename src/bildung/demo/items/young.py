"""Mathematics from kindergarten to grade 5."""

from __future__ import annotations

import random
from collections.abc import Callable
from fractions import Fraction
from math import gcd
from typing import Any

from bildung.demo.items import pictures
from bildung.demo.items.build import (
    Maker,
    choice,
    fraction,
    gaps,
    line,
    match,
    number,
    order,
    reason,
    several,
    some_wrong,
    two_part,
)
from bildung.formats.itemlist import ItemRecord, StimulusRecord

STANDARDS: dict[str, tuple[str, str]] = {
    "MK.1": ("Count up to 20 things", "counting"),
    "MK.2": ("Add and take away within 10", "adding and taking away small numbers"),
    "MK.3": ("Compare numbers of things", "seeing which is more"),
    "MK.4": ("Name and sort shapes", "knowing shapes"),
    "M1.1": ("Add and subtract within 20", "adding and taking away to 20"),
    "M1.2": ("Read numbers as tens and ones", "tens and ones"),
    "M1.3": ("Put lengths in order", "comparing lengths"),
    "M1.4": ("Tell the time to the half hour", "telling the time"),
    "M2.1": ("Add and subtract within 100", "adding and taking away to 100"),
    "M2.2": ("Read and compare numbers to 1000", "numbers to a thousand"),
    "M2.3": ("Count in equal groups", "counting in groups"),
    "M2.4": ("Work with coins and notes", "using money"),
    "M3.1": ("Multiply and divide within 100", "times tables"),
    "M3.2": ("Place fractions on a number line", "fractions on a line"),
    "M3.3": ("Find area by rows and columns", "finding areas"),
    "M3.4": ("Round to tens and hundreds", "rounding"),
    "M4.1": ("Multiply larger numbers", "long multiplication"),
    "M4.2": ("Find equal fractions", "equal fractions"),
    "M4.3": ("Tell kinds of angles", "knowing angles"),
    "M4.4": ("Find factors and multiples", "factors and multiples"),
    "M5.1": ("Calculate with decimals", "working with decimals"),
    "M5.2": ("Compare and order fractions", "comparing fractions"),
    "M5.3": ("Find the volume of boxes", "finding volumes"),
    "M5.4": ("Read points on a grid", "reading a grid"),
}
TOPICS = {
    "MK": ("counting", "adding", "comparing", "shapes"),
    "M1": ("adding", "place value", "length", "time"),
    "M2": ("adding", "place value", "groups", "money"),
    "M3": ("multiplying", "fractions", "area", "rounding"),
    "M4": ("multiplying", "fractions", "angles", "factors"),
    "M5": ("decimals", "fractions", "volume", "grid"),
}
THINGS = ("shells", "boats", "gulls", "crabs", "buoys", "ropes", "nets", "lamps")
Make = Callable[[random.Random], dict[str, Any]]


def _tools(made: dict[str, Any], *tools: str) -> dict[str, Any]:
    made["shown"]["tools"] = list(tools)
    return made


def _count(rng: random.Random) -> dict[str, Any]:
    rows, columns, thing = rng.randrange(2, 4), rng.randrange(3, 6), rng.choice(THINGS)
    dots = "<br>".join("● " * columns for _ in range(rows))
    right = rows * columns
    return _tools(
        number(
            f"<p>{dots}</p><p>Each dot is one of the {thing}. How many {thing} are there?</p>",
            str(right),
            notes=[(str(right - 1), "leaves one out while counting")],
        ),
        "counters",
    )


def _small_sum(rng: random.Random) -> dict[str, Any]:
    a, b, thing = rng.randrange(1, 6), rng.randrange(1, 5), rng.choice(THINGS)
    if rng.random() < 0.5:
        return _tools(
            number(
                f"There are {a} {thing}. {b} more come. How many are there now?",
                str(a + b),
                notes=[(str(a), "does not add")],
            ),
            "counters",
        )
    return _tools(
        number(
            f"There are {a + b} {thing}. {b} go away. How many stay?", str(a), notes=[(str(a + 2 * b), "adds instead")]
        ),
        "counters",
        "tiles",
    )


def _more(rng: random.Random) -> dict[str, Any]:
    a, b = rng.sample(range(3, 11), 2)
    one, other = rng.sample(THINGS, 2)
    right = one if a > b else other
    return choice(
        rng,
        f"<p>{one}: {'● ' * a}</p><p>{other}: {'● ' * b}</p><p>Which are more?</p>",
        right,
        [(other if right == one else one, "looks at the order, not the number"), "They are the same."],
    )


def _shapes(rng: random.Random) -> dict[str, Any]:
    sets = [
        ("a ball", "round"),
        ("a wheel", "round"),
        ("a plate", "round"),
        ("a book", "with corners"),
        ("a door", "with corners"),
        ("a sail", "with corners"),
        ("a coin", "round"),
        ("a brick", "with corners"),
    ]
    chosen = rng.sample([s for s in sets if s[1] == "round"], 2) + rng.sample([s for s in sets if s[1] != "round"], 3)
    return match(rng, "Which things are round, and which have corners?", chosen, True)


def _sum20(rng: random.Random) -> dict[str, Any]:
    a, b = rng.randrange(5, 10), rng.randrange(4, 10)
    if rng.random() < 0.4:
        return _tools(gaps(f"<p>{a} + {{x}} = {a + b}</p>", {"x": str(b)}), "tiles")
    return choice(
        rng,
        f"What is {a} + {b}?",
        str(a + b),
        some_wrong(rng, a + b, (a + b - 1, "counts the first number as well"), (abs(a - b), "takes away")),
    )


def _tens(rng: random.Random) -> dict[str, Any]:
    tens, ones = rng.randrange(2, 9), rng.randrange(1, 9)
    while tens == ones:
        ones = rng.randrange(1, 9)
    return choice(
        rng,
        f"Which number has {tens} tens and {ones} ones?",
        str(tens * 10 + ones),
        some_wrong(
            rng, tens * 10 + ones, (ones * 10 + tens, "changes tens and ones"), (tens + ones, "adds the figures")
        ),
    )


def _lengths(rng: random.Random) -> dict[str, Any]:
    things = rng.sample(("a pencil", "a rowing boat", "a ferry", "a spoon", "a bed", "a bridge"), 4)
    size = ("a spoon", "a pencil", "a bed", "a rowing boat", "a ferry", "a bridge")
    return order(rng, "Put them in order, the shortest first.", sorted(things, key=size.index))


def _time(rng: random.Random) -> dict[str, Any]:
    hour = rng.randrange(1, 12)
    return choice(
        rng,
        f"The long hand points to 6, the short hand stands between {hour} and {hour + 1}. What time is it?",
        f"half past {hour}",
        [
            (f"half past {hour + 1}", "takes the next hour"),
            (f"six minutes past {hour}", "reads the 6 as minutes"),
            f"{hour + 1} o’clock",
        ],
    )


def _sum100(rng: random.Random) -> dict[str, Any]:
    a, b = rng.choice((26, 27, 28, 29, 35, 36, 37, 38, 45, 47, 48, 56, 57)), rng.randrange(14, 39)
    while a % 10 + b % 10 < 10:
        b = rng.randrange(14, 39)
    wrong = (a // 10 + b // 10) * 10 + (a + b) % 10
    if rng.random() < 0.4:
        return number(f"What is {a} + {b}?", str(a + b), notes=[(str(wrong), "forgets the ten that is carried")])
    return choice(
        rng,
        f"What is {a} + {b}?",
        str(a + b),
        some_wrong(rng, a + b, (wrong, "forgets the ten that is carried"), (b - a if b > a else a - b, "takes away")),
        f"{a % 10} + {b % 10} is {a % 10 + b % 10}, so a ten is carried.",
    )


def _thousand(rng: random.Random) -> dict[str, Any]:
    numbers = rng.sample(range(105, 990), 4)
    return order(rng, "Put the numbers in order, the smallest first.", [str(n) for n in sorted(numbers)])


def _groups(rng: random.Random) -> dict[str, Any]:
    each, times = rng.choice((2, 5, 10)), rng.randrange(3, 8)
    return _tools(
        number(
            f"{times} boats carry {each} people each. How many people is that?",
            str(each * times),
            notes=[(str(each + times), "adds the two numbers")],
        ),
        "counters",
    )


def _money(rng: random.Random) -> dict[str, Any]:
    paid, cost = 20, rng.choice((6, 7, 8, 9, 11, 12, 13, 14, 16, 17))
    return choice(
        rng,
        f"Rope costs {cost} euros. Ada pays with a note of {paid} euros. How much does she get back?",
        f"{paid - cost} euros",
        [(f"{paid + cost} euros", "adds"), (f"{cost} euros", "gives the price"), f"{paid - cost + 10} euros"],
    )


def _times(rng: random.Random) -> dict[str, Any]:
    a, b = rng.randrange(3, 10), rng.randrange(4, 10)
    if rng.random() < 0.35:
        return match(
            rng,
            "Match each product with its result.",
            [(f"{x} × {y}", str(x * y)) for x, y in ((a, b), (a + 1, b), (a, b + 2), (2, 9))],
        )
    if rng.random() < 0.5:
        return gaps(f"<p>{a} × {{x}} = {a * b}</p>", {"x": str(b)})
    return choice(
        rng,
        f"A crate holds {a} nets. How many nets are in {b} crates?",
        str(a * b),
        some_wrong(
            rng, a * b, (a + b, "adds"), (a * (b - 1), "one crate too few"), (a * (b + 1), "one crate too many")
        ),
    )


def _on_line(rng: random.Random) -> dict[str, Any]:
    bottom = rng.choice((2, 3, 4, 6, 8))
    top = rng.randrange(1, bottom)
    return line(
        f"<p>Put a point at {fraction(top, bottom)}.</p>",
        0,
        1,
        1 / 24,
        1 / bottom if bottom != 3 else 0.25,
        f"{top}/{bottom}~0.03",
    )


def _area(rng: random.Random) -> dict[str, Any]:
    a, b = rng.randrange(3, 9), rng.randrange(4, 12)
    while a == b or a * b in (
        2 * (a + b),
        a + b,
    ):  # where the way round is as large as the area, nothing can be told apart
        b = rng.randrange(4, 12)
    return choice(
        rng,
        f"A deck is laid with {a} rows of {b} square boards, each 1 m². What is its area?",
        f"{a * b} m²",
        [(f"{2 * (a + b)} m²", "finds the way round"), (f"{a + b} m²", "adds the sides"), f"{a * b + b} m²"],
    )


def _round(rng: random.Random) -> dict[str, Any]:
    n = rng.randrange(120, 880)
    while n % 10 in (0, 5):
        n += 1
    right = (n + 5) // 10 * 10
    return choice(
        rng,
        f"Round {n} to tens.",
        str(right),
        some_wrong(
            rng,
            right,
            (n // 10 * 10 if right != n // 10 * 10 else right + 10, "always rounds the same way"),
            ((n + 50) // 100 * 100, "rounds to hundreds"),
        ),
    )


def _long(rng: random.Random) -> dict[str, Any]:
    a, b = rng.randrange(23, 68), rng.randrange(4, 9)
    tens = (a // 10) * b * 10
    return number(
        f"What is {a} × {b}?",
        str(a * b),
        notes=[(str(tens + (a % 10) * b % 10), "does not carry"), (str((a // 10) * b * 10), "leaves the ones out")],
        solution=f"{a // 10 * 10} × {b} = {tens} and {a % 10} × {b} = {a % 10 * b}; together {a * b}.",
    )


def _equal(rng: random.Random) -> dict[str, Any]:
    bottom = rng.choice((2, 3, 4, 5))
    top = rng.randrange(1, bottom)
    while gcd(top, bottom) > 1:
        top = rng.randrange(1, bottom)
    right = [fraction(top * k, bottom * k) for k in (2, 3)]
    wrong = [fraction(top + 1, bottom + 1), fraction(top + 2, bottom + 2), fraction(top * 2, bottom * 3)]
    return several(rng, f"<p>Which are equal to {fraction(top, bottom)}?</p>", right, wrong)


def _angles(rng: random.Random) -> dict[str, Any]:
    chosen = (
        rng.sample([(str(a), "acute") for a in (20, 35, 60, 80)], 2)
        + rng.sample([(str(a), "obtuse") for a in (95, 110, 140, 165)], 2)
        + [("90", "right")]
    )
    return match(rng, "Sort the angles by their kind.", [(f"{a}°", kind) for a, kind in chosen], True)


def _factors(rng: random.Random) -> dict[str, Any]:
    n = rng.choice((12, 18, 20, 24, 30))
    found = [d for d in range(2, n) if n % d == 0]
    right = rng.sample(found, 3)
    wrong = rng.sample([d for d in range(4, n) if n % d], 3)
    return several(rng, f"Which numbers are factors of {n}?", [str(d) for d in sorted(right)], [str(d) for d in wrong])


def _decimals(rng: random.Random) -> dict[str, Any]:
    a, b = rng.randrange(11, 49), rng.randrange(105, 389)
    right = Fraction(a, 10) + Fraction(b, 100)
    wrong = Fraction(a + b, 100)
    made = number(
        f"What is {a / 10:g} + {b / 100:.2f}?",
        f"{float(right):.2f}",
        notes=[(f"{float(wrong):.2f}", "adds the figures without minding the point")],
    )
    made["behind"]["hints"] = ["Write the numbers below each other, point under point.", "Tenths go to tenths."]
    return made


def _compare(rng: random.Random) -> dict[str, Any]:
    found = rng.sample([(1, 2), (2, 3), (3, 4), (3, 8), (5, 6), (7, 12)], 4)
    if rng.random() < 0.5:
        return order(
            rng,
            "Put the fractions in order, the smallest first.",
            [fraction(a, b) for a, b in sorted(found, key=lambda f: f[0] / f[1])],
        )
    (a, b), (c, d) = found[:2]
    right, other = (fraction(a, b), fraction(c, d)) if a * d > c * b else (fraction(c, d), fraction(a, b))
    return reason(
        choice(
            rng,
            f"<p>Which is larger, {fraction(a, b)} or {fraction(c, d)}?</p>",
            right,
            [(other, "looks at the size of the figures"), "They are equal."],
        )
    )


def _volume(rng: random.Random) -> dict[str, Any]:
    a, b, c = (rng.randrange(2, 7) for _ in range(3))
    c = c + 1 if (a, b, c) == (2, 2, 2) else c
    base = number(f"How large is the floor of the crate, {a} m by {b} m, in m²?", str(a * b))
    box = number(
        f"The crate is {c} m high. What is its volume in m³?",
        str(a * b * c),
        notes=[(str(a + b + c), "adds the edges")],
    )
    return two_part(f"<p>A crate is {a} m long, {b} m wide and {c} m high.</p>", base, box, depends=False)


MAKERS: dict[str, Make] = {
    "MK.1": _count,
    "MK.2": _small_sum,
    "MK.3": _more,
    "MK.4": _shapes,
    "M1.1": _sum20,
    "M1.2": _tens,
    "M1.3": _lengths,
    "M1.4": _time,
    "M2.1": _sum100,
    "M2.2": _thousand,
    "M2.3": _groups,
    "M2.4": _money,
    "M3.1": _times,
    "M3.2": _on_line,
    "M3.3": _area,
    "M3.4": _round,
    "M4.1": _long,
    "M4.2": _equal,
    "M4.3": _angles,
    "M4.4": _factors,
    "M5.1": _decimals,
    "M5.2": _compare,
    "M5.3": _volume,
}


def items(grade: str, rng: random.Random, each: int = 5) -> list[ItemRecord]:
    """So many items for each standard of a grade, no two alike."""
    maker = Maker(prefix=f"M{grade}", subject="Mathematics", grade=grade, rng=rng)
    for standard in (s for s in STANDARDS if s.startswith(f"M{grade}.")):
        if standard == "M5.4":
            _grid(maker, each)
            continue
        seen: set[str] = set()
        topic = TOPICS[f"M{grade}"][int(standard[-1]) - 1]
        tries = 0
        while len(seen) < each and tries < 200:
            tries += 1
            made = MAKERS[standard](rng)
            face = str(made["shown"]["body"]) + str(
                sorted(str(o) for p in made["shown"]["parts"] for o in p.get("options", p.get("rows", [])))
            )
            if face in seen:
                continue
            seen.add(face)
            maker.put(
                standard,
                made,
                1 + (len(seen) > 2) + (len(seen) > 4 and made["shown"]["parts"][0]["type"] != "choice"),
                topic,
                30 + 15 * ("K12345".index(grade)),
            )
    if grade in ("K", "1"):
        _bells(maker, grade)
    return maker.items


def _grid(maker: Maker, each: int) -> None:
    """Points of one picture, to read and to set."""
    rng = maker.rng
    places = rng.sample([(x, y) for x in range(1, 10) for y in range(1, 10) if x != y], 3)
    named = dict(zip("ABC", places, strict=True))
    stimulus = StimulusRecord(
        code="PIC-GRID",
        title="A map on a grid",
        kind="picture",
        html="",
        numbered=False,
        media="grid.png",
        told="A grid from 0 to 10 both ways with "
        + ", ".join(f"point {n} at {x} across and {y} up" for n, (x, y) in named.items()),
        credit="drawn for the district",
    )
    media = {"grid.png": pictures.plane(named)}
    for name, (x, y) in named.items():
        maker.put(
            "M5.4",
            choice(
                rng,
                f"Where does point {name} lie?",
                f"({x}, {y})",
                [(f"({y}, {x})", "changes across and up"), f"({x}, {y + 1})", f"({x + 1}, {y})"],
            ),
            1,
            "grid",
            60,
            stimulus,
            media=media,
        )
    for at in range(each - 3):
        x, y = rng.sample(range(1, 9), 2)
        part = {
            "type": "point",
            "picture": "empty.png",
            "told": "an empty grid from 0 to 10 both ways",
            "width": 480,
            "height": 480,
        }
        body = {
            "shown": {"body": f"<p>Put a point at ({x}, {y}).</p>", "parts": [part]},
            "scoring": [{"key": f"circle {40 + x * 40} {440 - y * 40} 15"}],
        }
        maker.put("M5.4", body, 2, "grid", 60 + at, media={"empty.png": pictures.plane({})})


def _bells(maker: Maker, grade: str) -> None:
    strokes = {"K": 4, "1": 7}[grade]
    stimulus = StimulusRecord(
        code=f"SND-BELL{grade}",
        title="The harbor bell",
        kind="audio",
        html="",
        numbered=False,
        media="bell.wav",
        told="The bell strikes " + ", ".join(["ding"] * strokes) + ".",
        credit="recorded for the federation",
    )
    maker.put(
        f"M{grade}.1",
        number(
            "Listen to the bell. How often does it strike?",
            str(strokes),
            notes=[(str(strokes - 1), "misses the first stroke")],
        ),
        1,
        "counting",
        60,
        stimulus,
        media={"bell.wav": pictures.bell(strokes)},
    )
