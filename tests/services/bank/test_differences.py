"""Differences between two versions of an item, as it is told to whoever compares them."""

from __future__ import annotations

import copy
import unittest
from types import SimpleNamespace
from typing import Any

from bildung.formats.content import Content, read_content
from bildung.services.bank.itempage import differences
from tests.formats.samples import ITEMS


def item(content: Content, standards: tuple[str, ...] = ("S.1",), stimulus: Any = None) -> Any:
    return SimpleNamespace(
        shown=content.shown, scoring=content.scoring, behind=content.behind, standards=standards, stimulus=stimulus
    )


def changed(kind: str, change: Any) -> list[tuple[str, str, str]]:
    """What is told after `change` was done to the plain form of a sample."""
    value = copy.deepcopy(ITEMS[kind].model_dump())
    change(value)
    return [(d.what, d.before, d.after) for d in differences(item(ITEMS[kind]), item(read_content(value)))]


class Told(unittest.TestCase):
    def test_nothing_differs_from_itself(self) -> None:
        for kind, content in ITEMS.items():
            self.assertEqual(differences(item(content), item(content)), [], kind)

    def test_a_choice_reworded_is_told_alone_with_both_wordings(self) -> None:
        def reword(value: Any) -> None:
            value["shown"]["parts"][0]["options"][1]["html"] = "3/2"

        self.assertEqual(changed("choice", reword), [("choice B", "<b>2</b>/3", "3/2")])

    def test_a_choice_more_and_one_less(self) -> None:
        def swap(value: Any) -> None:
            options = value["shown"]["parts"][0]["options"]
            options[-1] = {"id": "D", "html": "new"}

        found = changed("multiple", lambda v: v["shown"]["parts"][0]["options"].append({"id": "E", "html": "8"}))
        self.assertEqual(found, [("choice E", "", "8")])
        self.assertEqual([what for what, *_ in changed("choice", swap)][:2], ["choice C", "choice D"])

    def test_key_points_and_how_it_is_marked(self) -> None:
        def rescore(value: Any) -> None:
            value["scoring"][0] |= {"key": "A|C", "points": 1.5}

        self.assertEqual(changed("choice", rescore), [("key", "A|B", "A|C"), ("points", "2", "1.5")])
        self.assertEqual(
            changed("multiple", lambda v: v["scoring"][0].update(partial=False)), [("partial", "True", "False")]
        )
        self.assertEqual(changed("numeric", lambda v: v["shown"]["parts"][0].update(unit="m")), [("unit", "cm", "m")])

    def test_parts_are_named_where_there_are_several(self) -> None:
        def ask_again(value: Any) -> None:
            value["shown"]["parts"][1]["prompt"] = "<p>How does he show it?</p>"
            value["scoring"][1]["needs"] = ""

        found = changed("two_part", ask_again)
        self.assertEqual([what for what, *_ in found], ["part 2: question", "part 2: needs"])

    def test_a_part_that_came_or_went_is_told_whole(self) -> None:
        def drop(value: Any) -> None:
            del value["shown"]["parts"][2], value["scoring"][2]

        self.assertEqual(changed("several", drop), [("part 3: whole part", "writing", "")])
        back = differences(item(ITEMS["choice"]), item(ITEMS["two_part"]))
        self.assertIn(("part 2: whole part", "", "choice"), [(d.what, d.before, d.after) for d in back])

    def test_another_kind_under_the_same_text(self) -> None:
        one = read_content(
            {"shown": {"body": "<p>3 + 4?</p>", "parts": [{"type": "entry"}]}, "scoring": [{"key": "7"}]}
        )
        other = read_content(
            {
                "shown": {
                    "body": "<p>3 + 4?</p>",
                    "parts": [{"type": "choice", "options": [{"id": "A", "html": "7"}, {"id": "B", "html": "8"}]}],
                },
                "scoring": [{"key": "A"}],
            }
        )
        found = [(d.what, d.before, d.after) for d in differences(item(one), item(other))]
        self.assertEqual(found[0], ("kind", "entry", "choice"))
        self.assertIn(("choice A", "", "7"), found)
        self.assertIn(("key", "7", "A"), found)

    def test_rows_columns_and_words_to_pick(self) -> None:
        def columns(value: Any) -> None:
            value["shown"]["parts"][0]["columns"][2]["html"] = "slack"

        self.assertEqual(changed("match", columns), [("column w", "still", "slack")])
        text = '<p><span data-pick="w1">He</span> <span data-pick="w2">rows</span> home.</p>'
        found = changed("hot_text", lambda v: v["shown"]["parts"][0].update(text=text))
        self.assertEqual([what for what, *_ in found], ["text with selectable phrases"])

    def test_what_stands_behind_it_and_beside_it(self) -> None:
        one, other = ITEMS["choice"], copy.deepcopy(ITEMS["choice"])
        other.behind.hints.append("<p>Try a half.</p>")
        other.behind.misconceptions[0].note = "takes the larger number"
        other.behind.solution = ""
        passage = SimpleNamespace(code="P-1", number=2)
        found = {d.what: (d.before, d.after) for d in differences(item(one), item(other, ("S.1", "S.2"), passage))}
        self.assertEqual(
            found,
            {
                "stimulus": ("", "P-1, version 2"),
                "notes on wrong answers": ("C: compares instead", "C: takes the larger number"),
                "worked solution": ("<p>Halve it.</p>", ""),
                "hints": ("<p>Draw it.</p>", "<p>Draw it.</p><hr><p>Try a half.</p>"),
                "standards": ("S.1", "S.1, S.2"),
            },
        )
