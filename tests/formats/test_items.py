"""Items in: the CSV and QTI 3.0, hostile packages, and markup made safe."""

from __future__ import annotations

import random
import unittest

from hypothesis import given
from hypothesis import strategies as st

from bildung.demo.files import archive, item_package, item_sheet, place
from bildung.demo.mathematics import draft_items
from bildung.formats.archive import open_archive
from bildung.formats.itemlist import read_items
from bildung.formats.markup import safe_html
from bildung.formats.problem import ImportProblem
from bildung.formats.qti import read_package

HEAD = "code,type,stem,option_A,option_B,option_C,key,points,standards\n"


def choice_only(count: int):  # type: ignore[no-untyped-def]
    rng = random.Random(1)
    drafts = [d for d in draft_items(rng, "7", 40) if not d.numeric][:count]
    return place(drafts, "Q", "Mathematics", "7", rng)


def package_with(change: tuple[str, str], name: str = "items/Q-01.xml") -> bytes:
    files = open_archive("p", item_package(choice_only(2)))
    text = files[name].decode()
    assert change[0] in text, text
    return archive(files | {name: text.replace(*change).encode()})


class Sheets(unittest.TestCase):
    def test_all_columns_arrive(self) -> None:
        row = "I1,choice,<p>What?</p>,one,two,three,B|C,2,S.1;S.2;S.1\nI2,numeric,How many?,,,,14.6~0.1,,\n"
        first, second = read_items("i.csv", (HEAD + row).encode())
        self.assertEqual(
            (first.options, first.key, first.points, first.standards),
            ((("A", "one"), ("B", "two"), ("C", "three")), "B|C", 2.0, ("S.1", "S.2")),
        )
        self.assertEqual((second.kind, second.key, second.points, second.options), ("numeric", "14.6~0.1", 1.0, ()))

    def test_what_is_wrong_is_named_with_its_place(self) -> None:
        for row, said in (
            ("I1,choice,Stem,a,b,,D,1,", "line 2, column key: 'D'; the key 'D' is not one of the options A, B"),
            ("I1,choice,Stem,a,,,A,1,", "column option_A: 1 options; a choice item has at least two"),
            ("I1,choice,Stem,a,,c,A,1,", "a gap before it"),
            ("I1,essay,Stem,a,b,,A,1,", "column type: 'essay'; one of choice, numeric"),
            ("I1,choice,<p> </p>,a,b,,A,1,", "column stem: empty"),
            ("I1,choice,Stem,a,b,,A,none,", "column points: 'none'"),
            ("I1,numeric,Stem,,,,about 3,1,", "14.6 or 14.6~0.1"),
            ("I1,choice,Stem,a,b,,A,1,\nI1,choice,Stem,a,b,,A,1,", "line 3, column code: I1 again"),
            ("", "no rows"),
        ):
            with self.assertRaises(ImportProblem) as caught:
                read_items("i.csv", (HEAD + row).encode())
            self.assertIn(said, str(caught.exception))


class Packages(unittest.TestCase):
    def test_a_package_and_a_sheet_of_the_same_items_agree(self) -> None:
        placed = choice_only(6)
        sheet, package = read_items("i.csv", item_sheet(placed)), read_package("p.zip", item_package(placed))
        for a, b in zip(sheet, package, strict=True):
            self.assertEqual((a.code, a.key, a.standards, len(a.options)), (b.code, b.key, b.standards, len(b.options)))
            self.assertEqual(safe_html(a.stem), safe_html(b.stem))
            self.assertEqual([safe_html(t) for _, t in a.options], [safe_html(t) for _, t in b.options])

    def test_hostile_or_broken_packages_are_refused_with_their_place(self) -> None:
        declared = '<?xml version="1.0" encoding="UTF-8"?>'
        entity = declared + '<!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]>'
        laughs = declared + '<!DOCTYPE x [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>'
        for data, said in (
            (package_with((declared, entity)), "items/Q-01.xml, line 1: a document type declaration"),
            (package_with((declared, laughs)), "a document type declaration"),
            (package_with(("qti-choice-interaction", "qti-order-interaction")), "exactly one qti-choice-interaction"),
            (package_with(("<qti-value>", "<qti-value>Z")), "correct response"),
            (package_with(('cardinality="single"', 'cardinality="multiple"')), "cardinality other than single"),
            (package_with(("</qti-item-body>", "")), "line"),
            (package_with(('identifier="B"', 'identifier="A"')), "a choice identifier twice"),
            (archive({"readme.txt": b"x"}), "no imsmanifest.xml"),
            (archive({"../imsmanifest.xml": b"x"}), "a path outside the archive's folder"),
            (b"PK\x03\x04 nonsense", "not a readable zip file"),
        ):
            with self.assertRaises(ImportProblem) as caught:
                read_package("p.zip", data)
            self.assertIn(said, str(caught.exception))

    def test_a_listed_file_that_is_missing_is_named(self) -> None:
        files = open_archive("p", item_package(choice_only(2)))
        del files["items/Q-02.xml"]
        with self.assertRaisesRegex(ImportProblem, "items/Q-02.xml is not in the package"):
            read_package("p.zip", archive(files))


class Markup(unittest.TestCase):
    def test_nothing_that_runs_or_fetches_survives(self) -> None:
        for bad in (
            "<script>alert(1)</script>x", '<img src="http://x/y.png" onerror="a()">x', '<a href="javascript:a()">x</a>',
            '<p onclick="a()" style="background:url(//x)">x</p>', "<iframe src=x></iframe>x", "<svg onload=a()>x</svg>",
            '<math href="javascript:a()"><mi xlink:href="javascript:a()">x</mi></math>', "<style>*{}</style>x",
        ):  # fmt: skip
            clean = safe_html(bad).lower()
            for word in ("script", "onerror", "onclick", "onload", "href", "src", "style", "url("):
                self.assertNotIn(word, clean, bad)

    def test_formatting_and_mathml_survive(self) -> None:
        text = "<p>a <b>b</b> H<sub>2</sub>O <math><mfrac><mn>1</mn><mn>2</mn></mfrac></math></p>"
        self.assertEqual(safe_html(text), text)

    @given(st.text(alphabet="<>/=\"'& abmathscriptp", max_size=60))
    def test_cleaning_twice_changes_nothing(self, text: str) -> None:
        self.assertEqual(safe_html(safe_html(text)), safe_html(text))
