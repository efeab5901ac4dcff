"""Variant items: draws that can be made again, values that are exact, and what is wrong with a template found."""

from __future__ import annotations

import sys
import unittest
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction

from bildung.core.errors import Refused
from bildung.demo.items.templates import templates
from bildung.formats.content import Content, read_content
from bildung.formats.scored import item_rule
from bildung.formats.template import Template, draw, evaluate, read_template, values_of, written


def choice(*options: str, body: str = "What is {a} + {b}?") -> Content:
    shown = [{"id": "ABCD"[at], "html": text} for at, text in enumerate(options)]
    return read_content(
        {"shown": {"body": body, "parts": [{"type": "choice", "options": shown}]}, "scoring": [{"key": "A"}]}
    )


def template(
    *computed: tuple[str, str], low: str = "1", high: str = "9", constraints: tuple[str, ...] = ()
) -> Template:
    numbers = [{"type": "number", "name": name, "low": low, "high": high} for name in "ab"]
    return read_template(
        {
            "variables": numbers + [{"type": "computed", "name": n, "value": v} for n, v in computed],
            "constraints": list(constraints),
        }
    )


class Values(unittest.TestCase):
    def test_they_are_exact(self) -> None:
        for expression, value in (
            ("0.1 + 0.2", Fraction(3, 10)),
            ("1/3 + 1/6", Fraction(1, 2)),
            ("2**10", 1024),
            ("2**-1", Fraction(1, 2)),
            ("round(2.5)", 3),
            ("round(-2.5)", -3),
            ("round(2.345, 2)", Fraction(235, 100)),
            ("lcm(4, 6)", 12),
            ("gcd(12, 18)", 6),
            ("numerator(6/8)", 3),
            ("floor(-1/2)", -1),
            ("ceil(1/2)", 1),
            ("7% 3", 1),
            ("whole(4/2)", True),
            ("abs(-3) + max(1, 2)", 5),
        ):
            self.assertEqual(evaluate(expression, {}), value, expression)

    def test_nothing_of_python_can_be_reached(self) -> None:
        for expression in (
            "__import__('os')",
            "().__class__",
            "(1).__class__.__mro__",
            "open('/etc/passwd')",
            "[x for x in (1,)]",
            "lambda: 1",
            "'a' * 10**9",
            "9**9**9",
            "2**100000",
            "exec('1')",
            "a.b",
            "10**13",
            "1/0",
            "1 +",
            "f'{1}'",
            "gcd(0.5, 2)",
            "unknown + 1",
            "round(1, 99)",
        ):
            with self.assertRaises(Refused, msg=expression):
                evaluate(expression, {"a": Fraction(1)})

    def test_many_at_once_do_not_trip_each_other_up(self) -> None:
        """Python's own reader of expressions is not safe in threads; two people may look at draws at the same time."""
        before = sys.getswitchinterval()
        self.addCleanup(sys.setswitchinterval, before)
        sys.setswitchinterval(1e-6)
        with ThreadPoolExecutor(4) as pool:
            found = list(
                pool.map(lambda at: evaluate(f"abs(0 - {at}) + a * (2 - 1) + gcd({at}, {at})", {"a": 1}), range(3000))
            )
        self.assertEqual(found, [2 * at + 1 for at in range(3000)])

    def test_how_they_are_written(self) -> None:
        for value, shape, text in (
            (Fraction(1, 2), "fraction", "<math><mfrac><mn>1</mn><mn>2</mn></mfrac></math>"),
            (Fraction(-1, 2), "plain", "-0.5"),
            (Fraction(1, 3), "plain", "1/3"),
            (Fraction(7, 2), "money", "3.50"),
            (Fraction(5), "signed", "+5"),
            (Fraction(12), "spelled", "twelve"),
            (Fraction(4), "fraction", "4"),
            ("red", "plain", "red"),
            (Fraction(2, 3), "money", "0.67"),
        ):
            self.assertEqual(written(value, shape), text)


class Draws(unittest.TestCase):
    def test_the_same_seed_gives_the_same_copy_and_constraints_hold(self) -> None:
        shape = template(("s", "a + b"), constraints=("a < b", "s != 10"))
        for seed in range(50):
            values = values_of(shape, seed)
            self.assertEqual(values, values_of(shape, seed))
            self.assertTrue(values["a"] < values["b"] and values["s"] == values["a"] + values["b"] != 10)

    def test_the_key_is_worked_out_and_stands_anywhere(self) -> None:
        shape = template(("s", "a + b"), ("d", "a - b"), ("p", "a * b + 20"), constraints=("a != b", "d != s"))
        places = set()
        for seed in range(40):
            made = draw(choice("{s}", "{d}", "{p}"), shape, seed)
            self.assertEqual(made.wrong, "")
            assert made.content is not None
            key = made.content.scoring[0].key
            texts = {o.id: o.html for o in made.content.shown.parts[0].options}  # type: ignore[union-attr]
            self.assertEqual(texts[key], made.values["s"])
            self.assertIn(f"What is {made.values['a']} + {made.values['b']}?", made.content.shown.body)
            places.add(key)
        self.assertEqual(places, {"A", "B", "C"})

    def test_degenerate_draws_are_found(self) -> None:
        same = [
            draw(choice("{s}", "{p}"), template(("s", "a + b"), ("p", "a * b"), high="2"), seed).wrong
            for seed in range(30)
        ]
        self.assertIn("answer: two options say the same", same)
        below = [draw(choice("{d} cm", "100 cm"), template(("d", "a - b")), seed).wrong for seed in range(30)]
        self.assertTrue(any(w.startswith("a length or an amount below zero: −") for w in below))
        never = draw(choice("{a}", "{b}"), template(constraints=("a > 10",)), 1).wrong
        self.assertIn("no draw of 400 meets the constraints a > 10", never)
        self.assertIn("no variable has that name", draw(choice("{q}", "1"), template(), 1).wrong)
        self.assertIn("known are plain", draw(choice("{a:roman}", "1"), template(), 1).wrong)

    def test_what_is_no_template_is_refused(self) -> None:
        for value in (
            {},
            {"variables": []},
            {"variables": [{"type": "number", "name": "A"}]},
            {"variables": [{"type": "number", "name": "a"}] * 2},
        ):
            with self.assertRaises(Refused):
                read_template(value)

    def test_the_demos_templates_give_sound_items(self) -> None:
        found = templates()
        self.assertEqual(len(found), 25)
        for code, _, _, content, shape in found:
            for seed in range(12):
                made = draw(content, shape, seed)
                self.assertEqual(made.wrong, "", (code, made.values))
                assert made.content is not None
                rule = item_rule(made.content.shown, made.content.scoring)
                self.assertEqual(rule.points(rule.label(made.content.scoring[0].key)), 1.0)
