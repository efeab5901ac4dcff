"""Broken files of every kind that people bring: each is read, or refused with its place and what is allowed."""

from __future__ import annotations

import copy
import csv
import io
import json
import random
import unittest
from collections.abc import Callable
from typing import Any

from lxml import etree

from bildung.core.errors import Refused
from bildung.demo.files import archive, item_sheet, place
from bildung.demo.framework import case_packages
from bildung.demo.mathematics import draft_items
from bildung.formats.archive import open_archive
from bildung.formats.case import read_case, read_framework_sheet, write_framework_sheet
from bildung.formats.courseplan import read_plans
from bildung.formats.itemlist import read_items
from bildung.formats.keys import read_key
from bildung.formats.oneroster import read_roster
from bildung.formats.problem import ImportProblem
from bildung.formats.qti import read_package
from bildung.formats.qti.tests import read_test
from bildung.formats.responses import read_responses
from bildung.formats.scores import read_correlations, read_norms, read_scores
from tests.formats.test_content import package
from tests.support import small_roster

WORDS = (
    "",
    " ",
    "x",
    "-1",
    "0",
    "1e999",
    "nan",
    "1,2",
    "1_000",
    "١٢",
    "🙂🙂🙂",
    "A A",
    "RESPONSE",
    "1 2 3",
    "true",
    "99999999999999999999",
    "2026-02-30",
    "poly",
    "http://x/y",
    "../../a",
    "=1+1",
    '"',
    "a;b|c~d",
    "\x00",
    "\ufeff",
    "A|B|C",
    "K-12",
)
SEEDS = 120


def cells(data: bytes, rng: random.Random) -> bytes:
    """A sheet with some cells, rows, columns or bytes changed."""
    rows = list(csv.reader(io.StringIO(data.decode("utf-8-sig"))))
    for _ in range(rng.randint(1, 4)):
        row = rng.choice(rows)
        what = rng.randrange(6)
        if what < 3 and row:
            row[rng.randrange(len(row))] = rng.choice(WORDS)
        elif what == 3 and len(row) > 1:
            del row[rng.randrange(len(row))]
        elif what == 4:
            rows.insert(rng.randrange(len(rows) + 1), list(row))
        elif what == 5 and row:
            row.append(rng.choice(WORDS))
    out = io.StringIO()
    csv.writer(out).writerows(rows)
    return bytes_of(out.getvalue().encode("utf-8", "replace"), rng)


def bytes_of(data: bytes, rng: random.Random) -> bytes:
    """Now and then cut short, with a byte changed, or with another end of line."""
    what = rng.randrange(8)
    if what == 0:
        return data[: rng.randrange(len(data) + 1)]
    if what == 1 and data:
        at = rng.randrange(len(data))
        return data[:at] + bytes([rng.randrange(256)]) + data[at + 1 :]
    return data.replace(b"\r\n", b"\n") if what == 2 else data


def tree(data: bytes, rng: random.Random) -> bytes:
    """A document with attributes, texts or elements changed, removed or doubled."""
    root = etree.fromstring(data)
    nodes = [node for node in root.iter() if isinstance(node.tag, str)]
    for _ in range(rng.randint(1, 3)):
        node = rng.choice(nodes)
        what, word = rng.randrange(6), rng.choice([w for w in WORDS if w != "\x00"])
        if what == 0 and node.attrib:
            node.set(rng.choice(list(node.attrib)), word)
        elif what == 1 and node.attrib:
            del node.attrib[rng.choice(list(node.attrib))]
        elif what == 2 and node.getparent() is not None:
            node.getparent().remove(node)
        elif what == 3:
            node.text = word
        elif what == 4 and node.getparent() is not None:
            node.getparent().append(copy.deepcopy(node))
        elif what == 5:
            node.tag = rng.choice(nodes).tag
    return etree.tostring(root)


def objects(data: bytes, rng: random.Random) -> bytes:
    """A JSON document with values changed, removed or of another sort."""
    whole = json.loads(data)
    for _ in range(rng.randint(1, 3)):
        at: Any = whole
        for _ in range(rng.randint(1, 5)):
            inner = [v for v in (at.values() if isinstance(at, dict) else at) if isinstance(v, dict | list) and v]
            if not inner:
                break
            at = rng.choice(inner)
        key = rng.choice(list(at)) if isinstance(at, dict) else rng.randrange(len(at))
        if rng.randrange(3):
            at[key] = rng.choice([*WORDS, None, 7, -1.5, [], {}, True, [None], {"a": 1}])
        else:
            del at[key]
    return bytes_of(json.dumps(whole).encode(), rng)


class Broken(unittest.TestCase):
    def survives(self, read: Callable[[random.Random], Any]) -> None:
        """read: makes a broken file and reads it. What is refused says so in one sentence with what is allowed."""
        refused = 0
        for seed in range(SEEDS):
            with self.subTest(seed=seed):
                try:
                    read(random.Random(seed))
                except ImportProblem as problem:
                    refused += 1
                    self.assertTrue(problem.found and problem.allowed and problem.file, str(problem))
                except Refused as problem:
                    refused += 1
                    self.assertTrue(str(problem))
        self.assertGreater(refused, SEEDS // 20, "the files were hardly broken")
        self.assertLess(refused, SEEDS, "not one of them was read")

    def test_packages_of_items(self) -> None:
        whole = open_archive("p", package())
        names = [name for name in whole if name.endswith(".xml")]

        def read(rng: random.Random) -> None:
            name = rng.choice(names) if rng.randrange(4) else "imsmanifest.xml"
            records, unread = read_package("p.zip", archive(whole | {name: tree(whole[name], rng)}))
            for record in records:
                self.assertTrue(record.code and record.content.shown.parts)
            if unread:
                raise Refused(unread[0].why)

        self.survives(read)

    def test_packages_of_tests(self) -> None:
        namespace = "http://www.imsglobal.org/xsd/imsqtiasi_v3p0"
        test = (
            f'<qti-assessment-test xmlns="{namespace}" identifier="T" title="A test"><qti-time-limits max-time="1800"/>'
            '<qti-test-part identifier="P" navigation-mode="linear" submission-mode="individual">'
            '<qti-assessment-section identifier="S" title="First" visible="true"><qti-selection select="1"/>'
            '<qti-assessment-item-ref identifier="a" href="../items/ALL-choice.xml"/>'
            '<qti-assessment-item-ref identifier="b" href="../items/ALL-order.xml"/>'
            "</qti-assessment-section></qti-test-part></qti-assessment-test>"
        ).encode()
        whole = open_archive("p", package())
        listed = whole["imsmanifest.xml"].replace(
            b"</resources>",
            b'<resource identifier="t" type="imsqti_test_xmlv3p0" href="tests/t.xml"><file href="tests/t.xml"/></resource></resources>',
        )
        assert listed != whole["imsmanifest.xml"]
        self.survives(
            lambda rng: read_test("p.zip", archive(whole | {"imsmanifest.xml": listed, "tests/t.xml": tree(test, rng)}))
        )

    def test_sheets_of_items(self) -> None:
        rng = random.Random(1)
        sheet = item_sheet(place(draft_items(rng, "7", 12), "Q", "Mathematics", "7", rng))
        self.survives(lambda rng: read_items("i.csv", cells(sheet, rng)))

    def test_rosters(self) -> None:
        whole = small_roster(6)

        def read(rng: random.Random) -> None:
            name = rng.choice(sorted(whole))
            read_roster(whole | {name: cells(whole[name], rng)})

        self.survives(read)

    def test_frameworks(self) -> None:
        (whole,) = case_packages()[-1].values()
        self.survives(lambda rng: read_case("f.json", objects(whole, rng)))
        sheet = write_framework_sheet(read_case("f.json", whole))
        self.survives(lambda rng: read_framework_sheet("f.csv", cells(sheet, rng), "A framework"))

    def test_course_plans(self) -> None:
        sheet = (
            b"subject,grade,course,unit,lesson,standards,start,end\n"
            b"Mathematics,6,,Ratios,What a ratio is,M6.1 M6.2,2026-09-01,2026-09-04\n"
            b"Mathematics,6,,Ratios,Rates,M6.2,2026-09-07,2026-09-11\nReading,6,,Tales,Who tells,,2026-09-01,2026-09-30\n"
        )
        self.survives(lambda rng: read_plans("c.csv", cells(sheet, rng)))

    def test_responses_and_keys(self) -> None:
        key = b"item,type,key,points,standards,depth\nQ1,choice,B,1,S.1,2\nQ2,numeric,14.6~0.1,2,S.1;S.2,\nQ3,multiple,A+C,2,,1\n"
        rows = "".join(
            f"s{n},{'ABCD'[n % 4]},{14 + n / 10},{'A+C' if n % 3 else ''},{'ab'[n % 2]}\n" for n in range(40)
        )
        responses = f"student,Q1,Q2,Q3,site\n{rows}".encode()
        self.survives(lambda rng: read_key("k.csv", cells(key, rng)))
        good = read_key("k.csv", key)
        self.survives(lambda rng: read_responses("r.csv", cells(responses, rng), good, ("site",)))

    def test_scores_and_norms(self) -> None:
        scores = b"student,grade,window,week,score,se,school\n" + b"".join(
            f"s{n},6,{w},{3 + 15 * at},{200 + n + at * 4},3.1,N\n".encode()
            for n in range(10)
            for at, w in enumerate(("fall", "winter"))
        )
        self.survives(lambda rng: read_scores("s.csv", cells(scores, rng), "school"))
        norms = b"subject,grade,week,mean,sd\n" + b"".join(f"M,6,{w},{200 + w},{15}\n".encode() for w in (4, 20, 32))
        self.survives(lambda rng: read_norms("n.csv", cells(norms, rng)))
        together = b"subject,grade,from_week,to_week,r\nM,6,4,20,0.85\nM,6,4,32,0.8\nM,7,4,20,0.9\n"
        self.survives(lambda rng: read_correlations("c.csv", cells(together, rng)))
