"""Grades 6 to 8 in mathematics: items of every kind beside choice and number."""

from __future__ import annotations

import random
from collections.abc import Callable
from fractions import Fraction
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
    pick,
    reason,
    several,
    table,
    two_part,
    whole,
    writing,
)
from bildung.formats.itemlist import ItemRecord, StimulusRecord

Make = Callable[[random.Random], dict[str, Any]]


def _percents(rng: random.Random) -> dict[str, Any]:
    pairs = rng.sample(
        [("1/2", "50%"), ("1/4", "25%"), ("3/4", "75%"), ("1/5", "20%"), ("2/5", "40%"), ("1/10", "10%")], 4
    )
    return match(rng, "Match each fraction with its percentage.", pairs)


def _fractions(rng: random.Random) -> dict[str, Any]:
    found = rng.sample(
        [
            Fraction(1, 3),
            Fraction(2, 5),
            Fraction(1, 2),
            Fraction(5, 8),
            Fraction(2, 3),
            Fraction(7, 10),
            Fraction(5, 6),
        ],
        4,
    )
    return order(
        rng, "Put them in order, the smallest first.", [fraction(f.numerator, f.denominator) for f in sorted(found)]
    )


def _ratio(rng: random.Random) -> dict[str, Any]:
    a, b = rng.sample((2, 3, 4, 5), 2)
    return several(
        rng,
        f"Which ratios are equal to {a} : {b}?",
        [f"{a * 2} : {b * 2}", f"{a * 5} : {b * 5}"],
        [f"{b} : {a}", f"{a + 2} : {b + 2}", f"{a * 2} : {b * 3}"],
    )


def _expression(rng: random.Random) -> dict[str, Any]:
    a, b = rng.randrange(2, 7), rng.randrange(2, 9)
    return gaps(f"<p>{a}(n + {b}) = {{x}}n + {{y}}</p>", {"x": str(a), "y": str(a * b)})


def _in_lowest(rng: random.Random) -> dict[str, Any]:
    k, (a, b) = rng.randrange(2, 6), rng.choice(((2, 3), (3, 4), (3, 5), (5, 8)))
    made = number(f"<p>Write {fraction(a * k, b * k)} in lowest terms.</p>", f"{a}/{b}")
    made["scoring"][0]["writing"] = "lowest"
    return made


def _integers(rng: random.Random) -> dict[str, Any]:
    a, b = rng.randrange(3, 12), rng.randrange(13, 25)
    return line(f"<p>Put a point at {a} − {b}.</p>", -25, 5, 1, 5, str(a - b))


def _equation(rng: random.Random) -> dict[str, Any]:
    a, x, b = rng.randrange(2, 8), rng.randrange(2, 10), rng.randrange(1, 12)
    first = number(
        f"<p>What is 2-step: first, what is {a}x equal to?</p>".replace("2-step: first, what", "What"),
        str(a * x),
        notes=[(str(a * x + 2 * b), "adds instead of taking away")],
    )
    second = number("<p>What is x?</p>", str(x))
    made = two_part(f"<p>Solve <i>{a}x</i> + {b} = {a * x + b}.</p>", first, second)
    # who adds by mistake and then divides rightly is not marked down twice
    made["scoring"][1]["carried"] = [
        {
            "after": str(a * x + 2 * b),
            "key": f"{a * x + 2 * b}/{a}" if (a * x + 2 * b) % a else str((a * x + 2 * b) // a),
        }
    ]
    return made


def _error(rng: random.Random) -> dict[str, Any]:
    a, b, x = rng.randrange(2, 6), rng.randrange(3, 9), rng.randrange(2, 8)
    steps = [
        (f"{a}x + {b} = {a * x + b}", False),
        (f"{a}x = {a * x + 2 * b}", True),
        (f"x = {Fraction(a * x + 2 * b, a)}", False),
    ]
    return pick("<p>Tove solves an equation. Choose the line in which the first mistake stands.</p>", steps)


def _chance(rng: random.Random) -> dict[str, Any]:
    red, blue = rng.choice(((2, 3), (3, 4), (2, 5), (3, 5), (4, 7), (5, 6), (5, 7)))
    right = fraction(red, red + blue)
    return reason(
        choice(
            rng,
            f"<p>A bag holds {red} red and {blue} blue beads. How likely is red?</p>",
            right,
            [
                (fraction(red, blue), "compares red with blue"),
                (fraction(1, 2), "two colors, so one in two"),
                fraction(blue, red + blue),
            ],
        )
    )


def _rate(rng: random.Random) -> dict[str, Any]:
    price, kilos = rng.randrange(2, 7), rng.choice((3, 4, 5))
    made = number(
        f"<p>{kilos} kg of mussels cost {price * kilos} euros. What do 2 kg cost?</p>",
        str(price * 2),
        "euros",
        [(str(price), "gives the price of one kilogram")],
    )
    made["scoring"][0]["units"] = ["euros", "euro", "€"]
    return made


def _angles(rng: random.Random) -> dict[str, Any]:
    a, b = rng.randrange(35, 70), rng.randrange(35, 70)
    return gaps(
        f"<p>A triangle has angles of {a}° and {b}°. The third is {{x}}°, so the triangle is {{y}}.</p>",
        {
            "x": str(180 - a - b),
            "y": (
                "acute" if 180 - a - b < 90 else "right" if a + b == 90 else "obtuse",
                *[
                    k
                    for k in ("acute", "right", "obtuse")
                    if k != ("acute" if 180 - a - b < 90 else "right" if a + b == 90 else "obtuse")
                ],
            ),
        },
    )


def _powers(rng: random.Random) -> dict[str, Any]:
    a, b = rng.sample(range(2, 7), 2)
    return match(
        rng,
        "Match what is equal.",
        [
            (f"2<sup>{a}</sup> · 2<sup>{b}</sup>", f"2<sup>{a + b}</sup>"),
            (f"(2<sup>{a}</sup>)<sup>{b}</sup>", f"2<sup>{a * b}</sup>"),
            ("2<sup>0</sup>", "1"),
        ],
    )


def _slope(rng: random.Random) -> dict[str, Any]:
    m, c = rng.randrange(1, 4), rng.randrange(0, 3)
    part = {
        "type": "point",
        "picture": "plane.png",
        "told": "an empty grid from 0 to 10 both ways",
        "width": 480,
        "height": 480,
    }
    x = rng.randrange(1, 3)
    return {
        "shown": {
            "body": f"<p>Put a point on the line <i>y</i> = {m}<i>x</i>{f' + {c}' if c else ''} at <i>x</i> = {x}.</p>",
            "parts": [part],
        },
        "scoring": [{"key": f"circle {40 + 40 * x} {440 - 40 * (m * x + c)} 15"}],
    }


def _linear(rng: random.Random) -> dict[str, Any]:
    pairs = [
        ("y = 2x + 1", "linear"),
        ("y = −x", "linear"),
        ("y = x²", "not linear"),
        ("y = 3/x", "not linear"),
        ("y = 5", "linear"),
    ]
    return match(rng, "Which functions are linear?", rng.sample(pairs, 4), True)


def _pythagoras(rng: random.Random) -> dict[str, Any]:
    a, b, c = rng.choice(((3, 4, 5), (6, 8, 10), (5, 12, 13), (9, 12, 15)))
    criteria = [
        ("Sets up", ("nothing usable", "squares of the sides added")),
        ("Works it out", ("not worked out", "a slip on the way", "right length with its unit")),
    ]
    return writing(
        f"<p>A ladder reaches {b} m up a wall; its foot stands {a} m from it. Show how you find its length.</p>",
        criteria,
        f"{a}² + {b}² = {a * a + b * b}, and the root of {a * a + b * b} is {c}. The ladder is {c} m long.",
        6,
    )


def _scientific(rng: random.Random) -> dict[str, Any]:
    n, e = rng.randrange(11, 99), rng.randrange(3, 7)
    if n % 10 == 0:
        n += 1
    return gaps(
        f"<p>{n * 10 ** (e - 1)} = {n / 10:g} · 10<sup>{{x}}</sup></p>".replace("{x}</sup>", "</sup>{x}").replace(
            "10<sup></sup>{x}", "10 to the power {x}"
        ),
        {"x": str(e)},
    )


def _volume_words(rng: random.Random) -> dict[str, Any]:
    wanted = rng.choice(
        (
            ("cylinder", "round base, two of them, straight sides"),
            ("prism", "two equal bases with corners, straight sides"),
            ("cone", "one round base and a tip"),
        )
    )
    return whole(
        f"<p>What is a body called that has this: {wanted[1]}?</p>",
        {"type": "entry", "width": 16},
        {"key": f"{wanted[0]}|a {wanted[0]}", "spelling": "near"},
    )


MAKERS: dict[str, dict[str, Make]] = {
    "6": {
        "M6.1": _fractions,
        "M6.2": _percents,
        "M6.3": _ratio,
        "M6.5": _expression,
        "M6.4": _volume_words,
        "M6.6": _in_lowest,
    },
    "7": {"M7.1": _integers, "M7.3": _equation, "M7.2": _error, "M7.5": _chance, "M7.4": _rate, "M7.6": _angles},
    "8": {
        "M8.1": _powers,
        "M8.2": _slope,
        "M8.3": _linear,
        "M8.4": _pythagoras,
        "M8.6": _scientific,
        "M8.5": _volume_words,
    },
}


def items(grade: str, rng: random.Random, each: int = 4) -> list[ItemRecord]:
    maker = Maker(prefix=f"M{grade}X", subject="Mathematics", grade=grade, rng=rng)
    for standard, make in MAKERS[grade].items():
        seen: set[str] = set()
        for _ in range(100):
            made = make(rng)
            face = str(made["shown"]["body"]) + str(
                sorted(str(o["html"]) for p in made["shown"]["parts"] for o in p.get("options", p.get("rows", [])))
            )
            if face in seen:
                continue
            seen.add(face)
            media = {"plane.png": pictures.plane({})} if make is _slope else None
            maker.put(
                standard,
                made,
                2 + (made["shown"]["parts"][-1]["type"] == "writing"),
                "",
                90,
                media=media,
                labels=("other kinds",),
            )
            if len(seen) == each:
                break
    _about(maker, grade)
    return maker.items


def _about(maker: Maker, grade: str) -> None:
    """A table or a picture of each grade with two questions about it."""
    rng = maker.rng
    if grade == "6":
        rises = rng.sample(range(4, 30), 5)
        rises[-1] += -sum(rises) % 5
        rows = list(zip(("Monday", "Tuesday", "Wednesday", "Thursday", "Friday"), rises, strict=True))
        stimulus = StimulusRecord(
            code="TAB-6",
            title="Passengers of the noon ferry",
            kind="table",
            html=table(("Day", "Passengers"), rows),
            credit="counted by the crew",
        )
        mean, middle = sum(rises) // 5, sorted(rises)[2]
        maker.put(
            "M6.6",
            number("What is the mean number of passengers?", str(mean), notes=[(str(middle), "gives the median")]),
            2,
            "data",
            90,
            stimulus,
        )
        maker.put(
            "M6.6",
            number(
                "What is the median?",
                str(middle),
                notes=[(str(rises[2]), "takes the middle of the table without ordering")],
            ),
            1,
            "data",
            60,
            stimulus,
        )
    elif grade == "7":
        prices = [("mussels", 4, 3), ("crabs", 9, 2), ("herring", 10, 4)]
        priced = [(name, f"{kilos} kg", f"{price * kilos} euros") for name, price, kilos in prices]
        stimulus = StimulusRecord(
            code="TAB-7",
            title="At the fish market",
            kind="table",
            html=table(("Fish", "Amount", "Price"), priced),
            credit="noted at the market",
        )
        cheapest = min(prices, key=lambda p: p[1])[0]
        maker.put(
            "M7.4",
            choice(rng, "What is cheapest by the kilogram?", cheapest, [n for n, _, _ in prices if n != cheapest]),
            2,
            "rates",
            75,
            stimulus,
        )
        maker.put(
            "M7.4",
            number("What do 5 kg of herring cost?", "50", "euros", [("40", "gives the price in the table")]),
            2,
            "rates",
            75,
            stimulus,
        )
    else:
        told = "The harbor from above: a pier at the left with a light on its head, an island at the right, a ferry between them"
        stimulus = StimulusRecord(
            code="PIC-HARBOR",
            title="The harbor from above",
            kind="picture",
            html="",
            numbered=False,
            media="harbor.png",
            told=told,
            credit="drawn for the district",
        )
        media = {"harbor.png": pictures.harbor()}
        maker.put(
            "M8.4",
            number(
                "The island lies 800 m east and 600 m north of the pier. How far is it in a straight line?",
                "1000",
                "m",
                [("1400", "adds the two ways")],
            ),
            2,
            "triangles",
            90,
            stimulus,
            media=media,
        )
        part = {"type": "point", "picture": "harbor.png", "told": told, "width": 600, "height": 400}
        maker.put(
            "M8.4",
            {
                "shown": {
                    "body": "<p>The ferry goes from the pier to the island. Point to the place where that way ends.</p>",
                    "parts": [part],
                },
                "scoring": [{"key": "rect 425 215 565 335"}],
            },
            1,
            "triangles",
            45,
            media=media,
        )
