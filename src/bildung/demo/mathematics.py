"""Mathematics items drawn from templates, with the mistakes students make as wrong answers."""

from __future__ import annotations

import random
from collections.abc import Callable
from fractions import Fraction

from bildung.demo.draft import Draft, frac

Maker = Callable[[random.Random, str], Draft]
TOPS_AND_BOTTOMS = "adds tops and bottoms"

STANDARDS: dict[str, tuple[str, str]] = {
    "M6.1": ("Add and subtract fractions with unlike denominators", "adding and taking away fractions"),
    "M6.2": ("Find a percentage of a quantity", "working with percentages"),
    "M6.3": ("Use ratios to compare and share quantities", "sharing in a ratio"),
    "M6.4": ("Find the area of triangles and rectangles", "finding areas"),
    "M6.5": ("Evaluate expressions for a given value", "putting numbers in for letters"),
    "M6.6": ("Find mean and median of a small data set", "finding averages"),
    "M7.1": ("Add, subtract and multiply integers", "calculating with negative numbers"),
    "M7.2": ("Solve problems with percentage increase and decrease", "prices going up and down"),
    "M7.3": ("Solve two-step linear equations", "solving equations"),
    "M7.4": ("Use proportional relationships and unit rates", "working with rates"),
    "M7.5": ("Find the probability of a simple event", "how likely something is"),
    "M7.6": ("Find angles on lines and in triangles", "finding angles"),
    "M8.1": ("Use the laws of powers", "working with powers"),
    "M8.2": ("Find slope and intercept of a linear function", "reading straight lines"),
    "M8.3": ("Solve systems of two linear equations", "two unknowns at once"),
    "M8.4": ("Use the Pythagorean theorem", "sides of right-angled triangles"),
    "M8.5": ("Find the volume of prisms and cylinders", "finding volumes"),
    "M8.6": ("Write numbers in scientific notation", "very large and very small numbers"),
}


def _near(right: float, *wrong: float) -> tuple[str, ...]:
    """Three wrong answers, distinct from the right one and each other."""
    found: list[str] = []
    step = 1
    candidates = list(wrong)
    while len(found) < 3:
        value = candidates.pop(0) if candidates else right + step * (1 if len(found) % 2 else -1)
        step += 0 if candidates else 1
        text = f"{value:g}"
        if text not in found and text != f"{right:g}":
            found.append(text)
    return tuple(found)


def _fraction_sum(rng: random.Random, code: str) -> Draft:
    while True:
        b, d = rng.sample((2, 3, 4, 5, 6, 8), 2)
        a, c = rng.randrange(1, b), rng.randrange(1, d)
        total = Fraction(a, b) + Fraction(c, d)
        wrong = {Fraction(a + c, b + d), Fraction(a + c, b * d), Fraction(a + c, max(b, d))} - {total}
        if len(wrong) == 3 and all(w.denominator > 1 for w in (*wrong, total)):
            break
    shown = sorted(frac(w.numerator, w.denominator) for w in wrong)
    both, product, larger = Fraction(a + c, b + d), Fraction(a + c, b * d), Fraction(a + c, max(b, d))
    notes = (
        (frac(both.numerator, both.denominator), TOPS_AND_BOTTOMS),
        (frac(product.numerator, product.denominator), "multiplies the bottoms and keeps the tops"),
        (frac(larger.numerator, larger.denominator), "keeps the larger bottom"),
    )
    return Draft(
        standard=code,
        stem=f"<p>What is {frac(a, b)} + {frac(c, d)}?</p>",
        right=frac(total.numerator, total.denominator),
        wrong=tuple(shown),
        notes=notes,
    )


def _percent(rng: random.Random, code: str) -> Draft:
    rate, base = rng.choice((5, 15, 20, 25, 30, 40, 60, 75)), rng.choice((40, 60, 80, 120, 160, 200, 240))
    right = rate * base / 100
    return Draft(
        standard=code,
        stem=f"<p>Of {base} boats in the harbor, {rate}% are ferries. How many ferries are there?</p>",
        right=f"{right:g}",
        wrong=_near(right, base - right, rate, base / rate if base % rate == 0 else right * 10),
        numeric=rng.random() < 0.25,
        notes=((f"{base - right:g}", "gives the rest, not the part"), (f"{rate:g}", "takes the rate for the number")),
    )


def _ratio(rng: random.Random, code: str) -> Draft:
    a, b = rng.sample((2, 3, 4, 5, 7), 2)
    unit = rng.randrange(3, 12)
    total, right = (a + b) * unit, a * unit
    return Draft(
        standard=code,
        stem=f"<p>Two crews share {total} crates in the ratio {a} : {b}. How many does the first crew get?</p>",
        right=str(right),
        wrong=_near(right, b * unit, total // a, total - a),
        numeric=rng.random() < 0.2,
        notes=((str(b * unit), "gives the other share"), (str(total // a), "divides by one part of the ratio")),
    )


def _area(rng: random.Random, code: str) -> Draft:
    base, height = rng.randrange(4, 15), rng.choice((4, 6, 8, 10, 12))
    if rng.random() < 0.5:
        right = base * height / 2
        return Draft(
            standard=code,
            stem=f"<p>A triangular sail is {base} m wide at its foot and {height} m high. What is its area in m²?</p>",
            right=f"{right:g}",
            wrong=_near(right, base * height, base + height, (base + height) / 2),
            notes=((f"{base * height:g}", "does not halve"), (f"{base + height:g}", "adds the sides")),
        )
    right = base * height
    return Draft(
        standard=code,
        stem=f"<p>A rectangular deck is {base} m long and {height} m wide. What is its area in m²?</p>",
        right=f"{right:g}",
        wrong=_near(right, 2 * (base + height), base + height, right / 2),
        numeric=True,
        notes=((f"{2 * (base + height):g}", "gives the way around"), (f"{base + height:g}", "adds the sides")),
    )


def _evaluate(rng: random.Random, code: str) -> Draft:
    a, b, x = rng.randrange(2, 9), rng.randrange(1, 15), rng.randrange(2, 9)
    right = a * x + b
    return Draft(
        standard=code,
        stem=f"<p>What is the value of <i>{a}n</i> + {b} when <i>n</i> = {x}?</p>",
        right=str(right),
        wrong=_near(right, a + x + b, a * (x + b), int(f"{a}{x}") + b),
        numeric=rng.random() < 0.3,
        notes=(
            (str(a + x + b), "adds instead of multiplying"),
            (str(a * (x + b)), "adds before multiplying"),
            (str(int(f"{a}{x}") + b), "writes the digits side by side"),
        ),
    )


def _average(rng: random.Random, code: str) -> Draft:
    while True:
        values = sorted(rng.randrange(2, 20) for _ in range(5))
        total = sum(values)
        if total % 5 == 0 and total // 5 != values[2] and len(set(values)) == 5:
            break
    mixed = rng.sample(values, 5)
    listed = ", ".join(map(str, mixed))
    if rng.random() < 0.5:
        return Draft(
            standard=code,
            stem=f"<p>The tide rose by {listed} cm in five hours. What is the mean rise?</p>",
            right=str(total // 5),
            wrong=_near(total // 5, values[2], mixed[2], values[-1] - values[0]),
            notes=((str(values[2]), "gives the median"),),
        )
    return Draft(
        standard=code,
        stem=f"<p>Five ferries carried {listed} passengers. What is the median?</p>",
        right=str(values[2]),
        wrong=_near(values[2], total // 5, mixed[2], values[-1] - values[0]),
        notes=(
            (str(total // 5), "gives the mean"),
            *(((str(mixed[2]), "does not order first"),) if mixed[2] != values[2] else ()),
        ),
    )


def _integers(rng: random.Random, code: str) -> Draft:
    a, b = rng.randrange(2, 15), rng.randrange(2, 15)
    kind = rng.randrange(3)
    stem, right, wrong = (
        (f"−{a} − {b}", -a - b, (b - a, a - b, a + b)),
        (f"−{a} · (−{b})", a * b, (-a * b, -a - b, a - b)),
        (f"{a} − (−{b})", a + b, (a - b, -a - b, b - a)),
    )[kind]
    shown = tuple(text.replace("-", "−") for text in _near(right, *wrong))
    notes = tuple((str(w).replace("-", "−"), "loses a sign") for w in dict.fromkeys(wrong) if w != right)
    return Draft(
        standard=code, stem=f"<p>What is {stem}?</p>", right=str(right).replace("-", "−"), wrong=shown, notes=notes
    )


def _change(rng: random.Random, code: str) -> Draft:
    price, rate = rng.choice((20, 40, 60, 80, 120, 150, 200)), rng.choice((5, 10, 15, 20, 25, 30))
    up = rng.random() < 0.5
    right = price * (100 + rate if up else 100 - rate) / 100
    word = "rises" if up else "falls"
    return Draft(
        standard=code,
        stem=f"<p>A mooring costs {price} a month. The price {word} by {rate}%. What does it cost now?</p>",
        right=f"{right:g}",
        wrong=_near(
            right, price + (rate if up else -rate), price * rate / 100, price * (100 - rate if up else 100 + rate) / 100
        ),
    )


def _equation(rng: random.Random, code: str) -> Draft:
    a, x, b = rng.randrange(2, 9), rng.randrange(2, 13), rng.randrange(3, 20)
    return Draft(
        standard=code,
        stem=f"<p>Solve <i>{a}x</i> + {b} = {a * x + b}.</p>",
        right=str(x),
        wrong=_near(x, a * x, x + b, a * x + b - a),
        numeric=rng.random() < 0.4,
    )


def _rate(rng: random.Random, code: str) -> Draft:
    speed, hours = rng.randrange(6, 25), rng.choice((2, 3, 4, 5))
    more = hours + rng.choice((2, 3, 5))
    return Draft(
        standard=code,
        stem=f"<p>A barge covers {speed * hours} km in {hours} hours. How far does it get in {more} hours at the same speed?</p>",
        right=str(speed * more),
        wrong=_near(speed * more, speed * hours + more, speed * hours * more, speed + more),
    )


def _chance(rng: random.Random, code: str) -> Draft:
    while True:
        red, blue, gray = (rng.randrange(2, 9) for _ in range(3))
        total = red + blue + gray
        right = Fraction(red, total)
        wrong = {Fraction(red, blue + gray), Fraction(total - red, total), Fraction(1, red)} - {right}
        if len(wrong) == 3 and all(w.denominator > 1 for w in (*wrong, right)):
            break
    return Draft(
        standard=code,
        stem=f"<p>A box holds {red} red, {blue} blue and {gray} gray floats. One is drawn without looking. "
        "How likely is it to be red?</p>",
        right=frac(right.numerator, right.denominator),
        wrong=tuple(sorted(frac(w.numerator, w.denominator) for w in wrong)),
    )


def _angle(rng: random.Random, code: str) -> Draft:
    a, b = rng.randrange(25, 80), rng.randrange(30, 85)
    right = 180 - a - b
    return Draft(
        standard=code,
        stem=f"<p>Two angles of a triangle measure {a}° and {b}°. How large is the third, in degrees?</p>",
        right=str(right),
        wrong=_near(right, a + b, 360 - a - b, 180 - a),
        numeric=rng.random() < 0.3,
    )


def _powers(rng: random.Random, code: str) -> Draft:
    base, m, n = rng.choice((2, 3, 5, 7, 10)), rng.randrange(2, 7), rng.randrange(2, 6)

    def power(exponent: int, over: int = base) -> str:
        return f"{over}<sup>{exponent}</sup>"

    if m * n == m + n:
        m += 1
    return Draft(
        standard=code,
        stem=f"<p>Which equals {power(m)} · {power(n)}?</p>",
        right=power(m + n),
        wrong=(power(m * n), power(m + n, base * base), power(abs(m - n) or 1)),
    )


def _slope(rng: random.Random, code: str) -> Draft:
    slope, start = rng.randrange(2, 8), rng.randrange(8, 20)
    x = rng.randrange(2, 5)
    return Draft(
        standard=code,
        stem=f"<p>A line passes through (0, {start}) and ({x}, {start + slope * x}). What is its slope?</p>",
        right=str(slope),
        wrong=_near(slope, start, slope * x, start + slope),
    )


def _system(rng: random.Random, code: str) -> Draft:
    x, y = rng.sample(range(2, 12), 2)
    return Draft(
        standard=code,
        stem=f"<p><i>x</i> + <i>y</i> = {x + y} and <i>x</i> − <i>y</i> = {x - y}. What is <i>x</i>?</p>".replace(
            "-", "−"
        ),
        right=str(x),
        wrong=_near(x, y, x + y, 2 * x),
        numeric=rng.random() < 0.3,
    )


def _pythagoras(rng: random.Random, code: str) -> Draft:
    a, b, c = rng.choice(((3, 4, 5), (5, 12, 13), (8, 15, 17), (7, 24, 25), (20, 21, 29)))
    k = rng.choice((1, 2, 3))
    a, b, c = a * k, b * k, c * k
    return Draft(
        standard=code,
        stem=f"<p>A ramp runs {b} m along the ground and rises {a} m. How long is the ramp, in m?</p>",
        right=str(c),
        wrong=_near(c, a + b, b - a, a * b // 2),
        numeric=rng.random() < 0.3,
    )


def _volume(rng: random.Random, code: str) -> Draft:
    a, b, c = (rng.randrange(2, 11) for _ in range(3))
    right = a * b * c
    return Draft(
        standard=code,
        stem=f"<p>A tank is {a} m long, {b} m wide and {c} m deep. What volume does it hold, in m³?</p>",
        right=str(right),
        wrong=_near(right, a * b + c, a + b + c, 2 * (a * b + b * c + a * c)),
        numeric=rng.random() < 0.3,
    )


def _scientific(rng: random.Random, code: str) -> Draft:
    digits, exponent = rng.randrange(11, 99), rng.randrange(4, 8)
    if digits % 10 == 0:
        digits += 1
    number = f"{digits * 10 ** (exponent - 1):,}".replace(",", " ")
    shown = f"{digits // 10}.{digits % 10}"

    def text(mantissa: str, power: int) -> str:
        return f"{mantissa} · 10<sup>{power}</sup>"

    return Draft(
        standard=code,
        stem=f"<p>Which is {number} in scientific notation?</p>",
        right=text(shown, exponent),
        wrong=(text(shown, exponent - 1), text(str(digits), exponent), text(shown, exponent + 1)),
    )


MAKERS: dict[str, Maker] = dict(
    zip(
        STANDARDS,
        (
            _fraction_sum,
            _percent,
            _ratio,
            _area,
            _evaluate,
            _average,
            _integers,
            _change,
            _equation,
            _rate,
            _chance,
            _angle,
            _powers,
            _slope,
            _system,
            _pythagoras,
            _volume,
            _scientific,
        ),
        strict=True,
    )
)


def draft_items(rng: random.Random, grade: str, count: int) -> list[Draft]:
    """Items in turn over the grade's standards; no stem twice."""
    codes = [code for code in STANDARDS if code.startswith(f"M{grade}.")]
    drafts: dict[str, Draft] = {}
    while len(drafts) < count:
        draft = MAKERS[codes[len(drafts) % len(codes)]](rng, codes[len(drafts) % len(codes)])
        drafts.setdefault(draft.stem, draft)
    return list(drafts.values())
