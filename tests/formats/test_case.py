"""CASE packages and framework sheets: there and back, the tree, and files that cannot be one."""

from __future__ import annotations

import json
import unittest
from datetime import UTC, datetime
from typing import Any

from bildung.core.errors import Refused
from bildung.core.items.frameworks import grade_span, grades_between, in_order
from bildung.demo.framework import case_packages
from bildung.formats.case import (
    FrameworkRecord,
    RelationRecord,
    StandardRecord,
    own_identifier,
    read_case,
    read_framework_sheet,
    write_case,
    write_framework_sheet,
)
from bildung.formats.problem import ImportProblem

AT = datetime(2026, 11, 23, tzinfo=UTC)
A, B, C = (own_identifier("test", name) for name in "ABC")
RECORD = FrameworkRecord(
    identifier=own_identifier("test"),
    title="A Framework",
    version="2",
    creator="Somebody",
    language="en",
    standards=(
        StandardRecord(identifier=A, code="M", text="Mathematics", kind="strand", subject="Mathematics", position=0.0),
        StandardRecord(
            identifier=B,
            code="M.1",
            text="Adds = and <so on>",
            plain="adding",
            kind="standard",
            subject="Mathematics",
            grade="K",
            grade_to="2",
            priority=True,
            parent=A,
            position=1.0,
        ),
        StandardRecord(
            identifier=C,
            code="",
            text="Has no code",
            plain="",
            kind="standard",
            subject="Mathematics",
            grade="6",
            grade_to="6",
            priority=False,
            parent=A,
            position=2.0,
        ),
    ),
    links=(RelationRecord(B, "exactMatchOf", own_identifier("elsewhere")),),
)


def package(**changes: Any) -> bytes:
    return json.dumps(write_case(RECORD, "1.1", "http://here", AT) | changes).encode()


class ThereAndBack(unittest.TestCase):
    def test_a_package_of_1_1_keeps_everything(self) -> None:
        self.assertEqual(read_case("f.json", package()), RECORD)

    def test_a_package_of_1_0_loses_what_it_has_no_place_for_and_nothing_else(self) -> None:
        back = read_case("f.json", json.dumps(write_case(RECORD, "1.0", "http://here", AT)).encode())
        self.assertEqual([s.priority for s in back.standards], [False] * 3)
        self.assertEqual([s.subject for s in back.standards], [""] * 3)
        for before, after in zip(RECORD.standards, back.standards, strict=True):
            for name in ("identifier", "code", "text", "plain", "kind", "grade", "grade_to", "parent", "position"):
                self.assertEqual(getattr(before, name), getattr(after, name), name)
        self.assertEqual(back.links, RECORD.links)

    def test_the_package_has_what_the_standard_asks_of_it(self) -> None:
        made = write_case(RECORD, "1.1", "http://here/", AT)
        self.assertLessEqual(
            {"identifier", "uri", "title", "creator", "lastChangeDateTime", "CFPackageURI"}, set(made["CFDocument"])
        )
        for item in made["CFItems"]:
            self.assertLessEqual(
                {"identifier", "uri", "fullStatement", "lastChangeDateTime", "CFDocumentURI"}, set(item)
            )
            self.assertTrue(item["uri"].startswith("http://here/ims/case/v1p1/CFItems/"))
        self.assertEqual(made["CFItems"][1]["educationLevel"], ["K", "01", "02"])
        for association in made["CFAssociations"]:
            self.assertLessEqual(
                {"identifier", "uri", "associationType", "originNodeURI", "destinationNodeURI", "lastChangeDateTime"},
                set(association),
            )
        kinds = [a["associationType"] for a in made["CFAssociations"]]
        self.assertEqual(kinds, ["isChildOf"] * 3 + ["exactMatchOf"])
        self.assertEqual(len({a["identifier"] for a in made["CFAssociations"]}), 4)

    def test_a_sheet_comes_back_as_it_went(self) -> None:
        coded = FrameworkRecord(identifier=RECORD.identifier, title=RECORD.title, standards=RECORD.standards[:2])
        back = read_framework_sheet("f.csv", write_framework_sheet(coded), "A Framework")
        for before, after in zip(coded.standards, back.standards, strict=True):
            for name in ("code", "text", "plain", "kind", "subject", "grade", "grade_to", "priority"):
                self.assertEqual(getattr(before, name), getattr(after, name), name)
        self.assertEqual(back.standards[1].parent, back.standards[0].identifier)
        again = read_framework_sheet("f.csv", write_framework_sheet(coded), "A Framework")
        self.assertEqual(
            [s.identifier for s in again.standards],
            [s.identifier for s in back.standards],
            "a sheet brings the same ids each time",
        )

    def test_the_demo_s_own_packages_read(self) -> None:
        now = read_case("n.json", next(iter(case_packages()[2].values())))
        self.assertEqual(len([s for s in now.standards if s.kind == "standard"]), 123)
        self.assertEqual(len(now.links), 32)


class Wrong(unittest.TestCase):
    def test_each_fault_is_named_with_its_place(self) -> None:
        good = json.loads(package())
        items, links = good["CFItems"], good["CFAssociations"]
        for data, said in (
            (b"{", "f.json, line 1, column 2: not JSON"),
            (b"[]", "no CFDocument"),
            (b"\xff", "is not UTF-8"),
            (b"[" * 100_000, "nested too deeply"),
            (package(CFDocument={"identifier": "x"}), "CFDocument.title is missing"),
            (package(CFItems={}), "CFItems is no list of objects"),
            (package(CFItems=[{**items[0], "identifier": 4}]), "CFItems[0].identifier is no text"),
            (package(CFItems=[items[0], {**items[1], "fullStatement": " "}]), "CFItems[1].fullStatement"),
            (package(CFItems=[items[0], items[0]]), "twice; each standard has its own"),
            (package(CFItems=[items[0], {**items[1], "humanCodingScheme": "M"}]), "code M twice"),
            (package(CFItems=[{**items[0], "educationLevel": "6"}]), "educationLevel is no list"),
            (
                package(CFAssociations=[{**links[0], "originNodeURI": "x"}]),
                "CFAssociations[0].originNodeURI is missing",
            ),
            (
                package(
                    CFAssociations=[
                        {
                            **links[1],
                            "originNodeURI": links[1]["destinationNodeURI"],
                            "destinationNodeURI": links[1]["originNodeURI"],
                        },
                        links[1],
                    ]
                ),
                "stands below itself",
            ),
            (package(CFItems=[{**items[0], "fullStatement": "x" * 5000}]), "at most 4000"),
        ):
            with self.assertRaises(ImportProblem) as caught:
                read_case("f.json", data)
            self.assertIn(said, str(caught.exception))

    def test_sheets(self) -> None:
        for text, said in (
            ("code\nA", "no column text"),
            ("code,text\n,x", "line 2, column code: empty"),
            ("code,text\nA,x\nA,y", "line 3, column code: A again"),
            ("code,text,parent\nA,x,B", "column parent: 'B'; the code of another row"),
            ("code,text,priority\nA,x,high", "'high'; yes, no or empty"),
            ("code,text,parent\nA,x,B\nB,y,A", "stands below itself"),
        ):
            with self.assertRaises(ImportProblem) as caught:
                read_framework_sheet("f.csv", text.encode(), "T")
            self.assertIn(said, str(caught.exception))


class Trees(unittest.TestCase):
    def test_depth_first_with_siblings_by_place_and_leaves_known(self) -> None:
        parents = {"a1": "a", "b": None, "a": None, "a2": "a", "a11": "a1", "lost": "nobody"}
        placed = in_order(parents, {"a": 1.0, "b": 2.0, "a1": 2.0, "a2": 1.0, "lost": 3.0})
        self.assertEqual(
            [(p.key, p.depth, p.leaf) for p in placed],
            [("a", 0, False), ("a2", 1, True), ("a1", 1, False), ("a11", 2, True), ("b", 0, True), ("lost", 0, True)],
        )
        self.assertEqual(in_order({}, {}), [])
        with self.assertRaisesRegex(Refused, "stands below itself"):
            in_order({"a": "b", "b": "a", "c": None}, {})

    def test_a_deep_tree_is_no_recursion(self) -> None:
        deep: dict[int, int | None] = {0: None} | {at: at - 1 for at in range(1, 20_000)}
        self.assertEqual(in_order(deep, {})[-1].depth, 19_999)

    def test_spans_of_grades(self) -> None:
        for grades, span in (
            (["06", "7"], ("6", "7")),
            (["02", "K", "01"], ("K", "2")),
            ([], ("", "")),
            (["", "HS"], ("HS", "HS")),
            (["00"], ("K", "K")),
        ):
            self.assertEqual(grade_span(grades), span)
        for first, last, every in (
            ("K", "2", ["K", "1", "2"]),
            ("6", "6", ["6"]),
            ("6", "", ["6"]),
            ("", "", []),
            ("6", "HS", ["6", "HS"]),
            ("9", "11", ["9", "10", "11"]),
        ):
            self.assertEqual(grades_between(first, last), every)
