"""Items in: the CSV and QTI 3.0, hostile packages, and markup made safe."""

from __future__ import annotations

import random
import unittest

from hypothesis import given
from hypothesis import strategies as st

from bildung.demo.files import archive, item_package, item_sheet, place
from bildung.demo.mathematics import draft_items
from bildung.formats.archive import open_archive
from bildung.formats.content import cleaned
from bildung.formats.itemlist import ItemRecord, read_items
from bildung.formats.markup import safe_html
from bildung.formats.problem import ImportProblem
from bildung.formats.qti import read_package as read_all

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


def read_package(file: str, data: bytes) -> list[ItemRecord]:
    """The items of a package all of which can be kept."""
    records, unread = read_all(file, data)
    assert not unread, unread
    return records


def options(record: ItemRecord) -> list[tuple[str, str]]:
    return [(o.id, o.html) for o in getattr(record.content.shown.parts[0], "options", [])]


def key(record: ItemRecord) -> str:
    return record.content.scoring[0].key


class Sheets(unittest.TestCase):
    def test_all_columns_arrive(self) -> None:
        row = "I1,choice,<p>What?</p>,one,two,three,B|C,2,S.1;S.2;S.1\nI2,numeric,How many?,,,,14.6~0.1,,\n"
        first, second = read_items("i.csv", (HEAD + row).encode())
        self.assertEqual(
            (options(first), key(first), first.points, first.standards),
            ([("A", "one"), ("B", "two"), ("C", "three")], "B|C", 2.0, ("S.1", "S.2")),
        )
        self.assertEqual((second.kind, key(second), second.points, options(second)), ("numeric", "14.6~0.1", 1.0, []))

    def test_what_is_wrong_is_named_with_its_place(self) -> None:
        for row, said in (
            ("I1,choice,Stem,a,b,,D,1,", "line 2, column key: 'D'; the key 'D' is not one of the options A, B"),
            ("I1,choice,Stem,a,,,A,1,", "column option_A: 1 options; a choice item has at least two"),
            ("I1,choice,Stem,a,,c,A,1,", "a gap before it"),
            ("I1,essay,Stem,a,b,,A,1,", "column type: 'essay'; one of choice, multiple, numeric, text"),
            ("I1,choice,<p> </p>,a,b,,A,1,", "a question needs some text"),
            ("I1,choice,Stem,a,b,,A,none,", "column points: 'none'"),
            ("I1,numeric,Stem,,,,about 3,1,", "14.6, 1/2|0.5 or 14.6~0.1"),
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
            self.assertEqual((a.code, a.standards), (b.code, b.standards))
            self.assertEqual(cleaned(a.content), cleaned(b.content))

    def test_hostile_or_broken_packages_are_refused_with_their_place(self) -> None:
        declared = '<?xml version="1.0" encoding="UTF-8"?>'
        entity = declared + '<!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]>'
        laughs = declared + '<!DOCTYPE x [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>'
        for data, said in (
            (package_with((declared, entity)), "items/Q-01.xml, line 1: a document type declaration"),
            (package_with((declared, laughs)), "a document type declaration"),
            (package_with(("</qti-item-body>", "")), "line"),
            (archive({"readme.txt": b"x"}), "no imsmanifest.xml"),
            (archive({"../imsmanifest.xml": b"x"}), "a path outside the archive's folder"),
            (b"PK\x03\x04 nonsense", "not a readable zip file"),
        ):
            with self.assertRaises(ImportProblem) as caught:
                read_package("p.zip", data)
            self.assertIn(said, str(caught.exception))

    def test_an_item_that_cannot_be_kept_is_left_out_with_the_reason_and_the_others_come(self) -> None:
        for change, said in (
            (("qti-choice-interaction", "qti-drawing-interaction"), "a qti-drawing-interaction; read are choice"),
            (("<qti-value>", "<qti-value>Z"), "is not one of the choices"),
            (
                ('qti-simple-choice identifier="B"', 'qti-simple-choice identifier="A"'),
                "a choice without a name of its own",
            ),
            (('response-identifier="RESPONSE"', 'response-identifier="R"'), "has no response declaration"),
        ):
            records, unread = read_all("p.zip", package_with(change))
            self.assertEqual(([r.code for r in records], [u.code for u in unread]), (["Q-02"], ["Q-01"]))
            self.assertIn(said, unread[0].why)

    def test_a_listed_file_that_is_missing_is_named(self) -> None:
        files = open_archive("p", item_package(choice_only(2)))
        del files["items/Q-02.xml"]
        with self.assertRaisesRegex(ImportProblem, "items/Q-02.xml is not in the package"):
            read_package("p.zip", archive(files))


class Markup(unittest.TestCase):
    def test_nothing_that_runs_or_fetches_survives(self) -> None:
        for bad in (
            "<script>alert(1)</script>x",
            '<img src="http://x/y.png" onerror="a()">x',
            '<a href="javascript:a()">x</a>',
            '<p onclick="a()" style="background:url(//x)">x</p>',
            "<iframe src=x></iframe>x",
            "<svg onload=a()>x</svg>",
            '<math href="javascript:a()"><mi xlink:href="javascript:a()">x</mi></math>',
            "<style>*{}</style>x",
        ):
            clean = safe_html(bad).lower()
            for word in ("script", "onerror", "onclick", "onload", "href", "src", "style", "url("):
                self.assertNotIn(word, clean, bad)

    def test_formatting_and_mathml_survive(self) -> None:
        text = "<p>a <b>b</b> H<sub>2</sub>O <math><mfrac><mn>1</mn><mn>2</mn></mfrac></math></p>"
        self.assertEqual(safe_html(text), text)

    @given(st.text(alphabet="<>/=\"'& abmathscriptp", max_size=60))
    def test_cleaning_twice_changes_nothing(self, text: str) -> None:
        self.assertEqual(safe_html(safe_html(text)), safe_html(text))
