"""Items of every kind: whole, scored, out to a package and back, and harmless whatever somebody wrote into them."""

from __future__ import annotations

import io
import json
import random
import re
import unittest
import zipfile
from dataclasses import replace
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from bildung.core.errors import Refused
from bildung.formats.answers import in_words, unfit
from bildung.formats.content import KINDS, Carried, PointPart, cleaned, htmls, kind_of, read_content
from bildung.formats.faults import faults
from bildung.formats.itemlist import TYPES, read_items, sheet_misses, write_items
from bildung.formats.qti import package_misses, read_package, write_package
from bildung.formats.scored import awaits, item_rule, key_text
from tests.formats.samples import ITEMS, PICTURE, RIGHT, records

ATTACKS = (
    "<script>alert(1)</script>",
    '<img src="x" onerror="alert(1)">',
    '<svg onload="alert(1)"><a href="javascript:alert(1)">x</a></svg>',
    '<math><annotation-xml encoding="text/html"><img src=x onerror=alert(1)></annotation-xml></math>',
    '<a href="javascript:alert(1)">x</a>',
    '<iframe srcdoc="<script>alert(1)</script>"></iframe>',
    '<p style="background:url(javascript:alert(1))" onclick="alert(1)">x</p>',
    '<span data-gap="1&quot; onmouseover=&quot;alert(1)">x</span>',
    '<form action="//evil"><input autofocus onfocus=alert(1)></form>',
    '<img src="//evil/x.png">',
    '<img src="/api/media/../../secret">',
    "<style>@import '//evil'</style>",
    "<object data=x></object>",
    "<math><mtext><table><mglyph><style><img src=x onerror=alert(1)></style></mglyph></table></mtext></math>",
)
HARM = re.compile(
    r"<[^>]*(?:\bon\w+\s*=|javascript:|style=|srcdoc|\bhref)|<(?:script|iframe|svg|form|input|object|style|annotation|a)\b|<[^>]*src=\"[^\"]*(?://evil|\.\./)",
    re.IGNORECASE,
)


def picture() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (400, 300), "white").save(out, "PNG")
    return out.getvalue()


def package() -> bytes:
    return write_package(records(), {PICTURE: ("harbor.png", picture())})


SIGNS = "ABCDrstuvwxyz123 ,.|+;=>~{}[]\"':-e²١🙂\x00/\\()"
ODD = (
    "NaN",
    "Infinity",
    "1e999",
    "null",
    "true",
    "[]",
    "{}",
    "-0",
    "0x1",
    "1/0",
    "½",
    "1.5.2",
    '{"1":null}',
    '{"1":["A"]}',
    '{"1":{"a":1}}',
    '{"zz":"A"}',
    '"A"',
    "1" * 5000,
)


def an_answer(kind: str, rng: random.Random) -> str:
    """Something that a broken or hostile device could send: odd, nearly right, or noise."""
    what = rng.randrange(4)
    if what == 0:
        return rng.choice(ODD)
    if what == 1:
        signs = list(RIGHT[kind])
        for _ in range(rng.randint(1, 3)):
            signs.insert(rng.randrange(len(signs) + 1), rng.choice(SIGNS))
            if rng.randrange(2):
                del signs[rng.randrange(len(signs))]
        return "".join(signs)
    if what == 2:
        return "".join(rng.choice(SIGNS) for _ in range(rng.randint(1, 12)))
    parts: list[Any] = ["A", "B", "", None, 3, "y>x", [], "x" * 50]
    return json.dumps({rng.choice("123ab"): rng.choice(parts) for _ in range(rng.randint(0, 3))})


class Anything(unittest.TestCase):
    def test_an_answer_is_refused_with_words_or_scored_within_its_points(self) -> None:
        for kind, content in ITEMS.items():
            rule, full = item_rule(content.shown, content.scoring), sum(s.points for s in content.scoring)
            rng, fit = random.Random(kind), 0
            for _ in range(600):
                answer = an_answer(kind, rng)
                in_words(content.shown, answer)
                why = unfit(content.shown, answer)
                self.assertIsInstance(why, str)
                if why or not answer:
                    continue
                fit += 1
                self.assertTrue(0 <= rule.points(rule.label(answer)) <= full, f"{kind}: {answer}")
            self.assertGreater(fit, 0, kind)


class Kinds(unittest.TestCase):
    def test_there_is_one_whole_item_of_every_kind(self) -> None:
        self.assertEqual(set(ITEMS), set(KINDS))
        for kind, content in ITEMS.items():
            self.assertEqual((kind_of(content.shown, content.scoring), faults(content)), (kind, []))

    def test_the_right_answer_earns_everything_and_none_earns_nothing(self) -> None:
        for kind, content in ITEMS.items():
            rule = item_rule(content.shown, content.scoring)
            full = sum(s.points for s in content.scoring)
            earned = rule.points(rule.label(RIGHT[kind]))
            self.assertEqual(unfit(content.shown, RIGHT[kind]), "", kind)
            if awaits(rule):
                self.assertLess(earned, full, kind)
            else:
                self.assertEqual(earned, full, kind)

    def test_what_is_shown_holds_no_key(self) -> None:
        for kind, content in ITEMS.items():
            text = content.shown.model_dump_json()
            self.assertNotIn('"key"', text)
            self.assertNotIn("partial", text)
            for note in content.behind.misconceptions:
                self.assertNotIn(note.note, text, kind)

    def test_a_reason_is_read_apart_from_the_choice(self) -> None:
        self.assertEqual(in_words(ITEMS["reason"].shown, RIGHT["reason"]), ("A", "three tenths"))
        self.assertEqual(in_words(ITEMS["two_part"].shown, RIGHT["two_part"]), ("1: B, 2: A", ""))
        self.assertEqual(key_text(ITEMS["two_part"].scoring), "1: B; 2: A")


class Faults(unittest.TestCase):
    """Each thing that keeps an item from being used is named at its place."""

    def fault(self, kind: str, change: dict[str, Any]) -> str:
        value = ITEMS[kind].model_dump()
        for path, new in change.items():
            at: Any = value
            *way, last = path.split(".")
            for step in way:
                at = at[int(step)] if step.isdigit() else at[step]
            at[int(last) if last.isdigit() else last] = new
        return " / ".join(f"{place}: {why}" for place, why in faults(read_content(value)))

    def test_they_are_found(self) -> None:
        for kind, change, said in (
            ("choice", {"shown.body": "<p> </p>"}, "text: a question needs some text"),
            ("choice", {"scoring.0.key": "D"}, "answer: the key 'D' is not one of the options"),
            ("choice", {"shown.parts.0.options.1.html": "2/4"}, "two options say the same"),
            ("choice", {"shown.parts.0.options.1.html": " "}, "one of the options is empty"),
            ("multiple", {"scoring.0.key": ""}, "at least one right option"),
            ("numeric", {"scoring.0.key": "about 3"}, "is not a number"),
            ("text", {"scoring.0.key": " | "}, "at least one accepted answer"),
            ("gap", {"shown.body": "<p>no gap</p>"}, "part 1: it stands in the text once, as a gap"),
            (
                "inline_choice",
                {"shown.body": '<span data-gap="a"></span><span data-gap="b"></span><span data-gap="c"></span>'},
                "gap c has no part of its own",
            ),
            ("order", {"scoring.0.key": "x>y"}, "names each of"),
            ("match", {"scoring.0.key": "r=q"}, "rows are r, s"),
            ("hot_text", {"shown.parts.0.text": "<p>plain</p>"}, "mark at least two pieces"),
            ("line", {"scoring.0.key": "2"}, "not on the line from 0 to 1"),
            ("line", {"shown.parts.0.step": 0.0001}, "1 to 1000 steps"),
            ("point", {"shown.parts.0.told": ""}, "words for who cannot see it"),
            ("writing", {"scoring.0.points": 5}, "the criteria add up to 3 points, the part has 5"),
            ("writing", {"scoring.0.exemplars.0.points": [1, 7]}, "one level of each criterion"),
            ("reason", {"shown.parts.1.beside": "9"}, "a part before it"),
            ("two_part", {"scoring.0.needs": "2"}, "hang on a part before it"),
            ("two_part", {"shown.parts.1.id": "1", "scoring.1.id": "1"}, "each part has its own name"),
            ("reason", {"scoring.0.points": 0}, "at least one part earns points"),
        ):
            self.assertIn(said, self.fault(kind, change), (kind, change))

    def test_what_is_no_content_is_refused_with_its_place(self) -> None:
        for value, said in (
            ({}, "shown"),
            ({"shown": {"body": "", "parts": []}, "scoring": []}, "shown.parts"),
            ({"shown": {"body": "x", "parts": [{"type": "drawing"}]}, "scoring": []}, "shown.parts.0"),
            ({"shown": {"body": "x", "parts": [{"type": "entry"}], "key": "A"}, "scoring": []}, "shown.key"),
            ({"shown": {"body": "x" * 40_001, "parts": [{"type": "entry"}]}, "scoring": []}, "shown.body"),
        ):
            with self.assertRaises(Refused) as caught:
                read_content(value)
            self.assertIn(said, str(caught.exception))


class Answers(unittest.TestCase):
    def test_what_a_device_cannot_mean_is_refused(self) -> None:
        for kind, bad in (
            ("choice", "Z"),
            ("choice", "A+B"),
            ("multiple", "A+Z"),
            ("order", "x>y"),
            ("match", "r=q"),
            ("match", "r=u;r=v"),
            ("hot_text", "w1+w2"),
            ("line", "1.5"),
            ("line", "far"),
            ("point", "401 1"),
            ("point", "1"),
            ("inline_choice", "A"),
            ("inline_choice", '{"a":"Z"}'),
            ("inline_choice", '{"c":"A"}'),
            ("writing", "x" * 4001),
            ("text", "x" * 201),
            ("several", "[1]"),
        ):
            self.assertNotEqual(unfit(ITEMS[kind].shown, bad), "", (kind, bad[:20]))

    @given(st.sampled_from(sorted(ITEMS)), st.randoms(use_true_random=False), st.text(max_size=12))
    def test_what_is_kept_is_never_refused_by_its_rule(self, kind: str, rng: random.Random, text: str) -> None:
        """Right answers bent at random: whatever still fits must have a label and points."""
        content = ITEMS[kind]
        answer = list(RIGHT[kind])
        for _ in range(rng.randrange(4)):
            at = rng.randrange(len(answer) + 1)
            answer[at : at + rng.randrange(2)] = rng.choice([*text, *"+>;= |0123ABxyrsuvw{}"] or ["A"])
        given_answer = "".join(answer)
        if given_answer and not unfit(content.shown, given_answer):
            rule = item_rule(content.shown, content.scoring)
            label = rule.label(given_answer)
            self.assertTrue(0 <= rule.points(label) <= sum(s.points for s in content.scoring))


class RoundTrip(unittest.TestCase):
    def test_a_package_keeps_the_meaning_of_every_kind(self) -> None:
        back, unread = read_package("p.zip", package())
        self.assertEqual(unread, [])
        found = {record.code: record for record in back}
        for record in records():
            other = found[record.code]
            self.assertEqual(
                (other.standards, other.tags, other.subject, other.grade, other.stimulus),
                (record.standards, record.tags, record.subject, record.grade, record.stimulus),
            )
            self.assertEqual(package_misses(record), [], record.code)
            one, two = cleaned(record.content), cleaned(other.content)
            if isinstance(
                one.shown.parts[0], PointPart
            ):  # its picture is called by its place in the package until it is kept
                two.shown.parts[0] = two.shown.parts[0].model_copy(update={"picture": PICTURE})
            self.assertEqual(one, two, record.code)
        self.assertEqual(found["ALL-point"].media, {"media/harbor.png": picture()})

    def test_what_the_standard_cannot_carry_is_listed(self) -> None:
        bent = ITEMS["numeric"].model_copy(deep=True)
        bent.scoring[0].writing, bent.scoring[0].units = "lowest", ["cm"]
        bent.shown.tools = ["tiles"]
        record = next(r for r in records() if r.code == "ALL-numeric")
        said = package_misses(replace(record, content=bent, stimulus=None, enemies=("X",)))
        self.assertEqual(len(said), 3)
        two = ITEMS["two_part"].model_copy(deep=True)
        two.scoring[1].carried = [Carried(after="A", key="B")]
        self.assertIn("an error carried on", package_misses(replace(record, code="X", content=two, standards=()))[0])

    def test_every_file_is_well_formed_listed_and_has_what_it_names(self) -> None:
        """The project's own checks, where no registry package carries the published schemas."""
        from lxml import etree

        with zipfile.ZipFile(io.BytesIO(package())) as archive:
            names = set(archive.namelist())
            manifest = etree.fromstring(archive.read("imsmanifest.xml"))
            listed = {r.get("href") for r in manifest.iter("{*}resource")}
            self.assertEqual(names - {"imsmanifest.xml"}, listed)
            ids = [r.get("identifier") for r in manifest.iter("{*}resource")]
            self.assertEqual(len(ids), len(set(ids)))
            self.assertLessEqual({d.get("identifierref") for d in manifest.iter("{*}dependency")}, set(ids))
            for name in names:
                if not name.startswith("items/"):
                    continue
                root = etree.fromstring(archive.read(name))
                declared = {d.get("identifier") for d in root.iter("{*}qti-response-declaration")}
                used = {n.get("response-identifier") for n in root.iter() if str(n.tag).endswith("-interaction")}
                self.assertEqual(declared, used, name)
                outcomes = {d.get("identifier") for d in root.iter("{*}qti-outcome-declaration")}
                for node in root.iter("{*}qti-set-outcome-value", "{*}qti-variable"):
                    self.assertIn(node.get("identifier"), outcomes | declared, name)
                order = [etree.QName(n).localname for n in root]
                rank = [
                    "qti-response-declaration",
                    "qti-outcome-declaration",
                    "qti-assessment-stimulus-ref",
                    "qti-item-body",
                    "qti-response-processing",
                    "qti-modal-feedback",
                ]
                self.assertEqual(order, sorted(order, key=rank.index), "the order that the standard asks for")

    def test_a_sheet_keeps_what_it_can_and_says_what_it_cannot(self) -> None:
        some = [r for r in records() if r.kind in TYPES]
        for record, other in zip(some, read_items("i.csv", write_items(some)), strict=True):
            self.assertEqual(
                (record.standards, record.grade, record.tags.labels), (other.standards, other.grade, other.tags.labels)
            )
            same = cleaned(record.content) == cleaned(other.content)
            self.assertTrue(same or sheet_misses(record) or record.kind == "choice", record.code)
        self.assertEqual(
            sheet_misses(next(r for r in records() if r.kind == "order")), ["a sheet has no items of the kind order"]
        )


class Older(unittest.TestCase):
    """QTI 2.1 and 2.2 under their own names."""

    def older(self, version: str) -> bytes:
        item = f"""<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v{version}" identifier="OLD-1" title="t" adaptive="false" timeDependent="false">
<responseDeclaration identifier="RESPONSE" cardinality="multiple" baseType="identifier"><correctResponse><value>ch1</value><value>ch3</value></correctResponse>
<mapping lowerBound="0" upperBound="2" defaultValue="-1"><mapEntry mapKey="ch1" mappedValue="1"/><mapEntry mapKey="ch3" mappedValue="1"/><mapEntry mapKey="ch2" mappedValue="-1"/></mapping></responseDeclaration>
<outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/>
<itemBody><p>Which are <em>birds</em>?</p><choiceInteraction responseIdentifier="RESPONSE" shuffle="true" maxChoices="0"><prompt>Choose.</prompt>
<simpleChoice identifier="ch1">gull</simpleChoice><simpleChoice identifier="ch2">crab</simpleChoice><simpleChoice identifier="ch3">tern</simpleChoice></choiceInteraction></itemBody>
<responseProcessing template="http://www.imsglobal.org/question/qti_v2p1/rptemplates/map_response"/></assessmentItem>"""
        number = f"""<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v{version}" identifier="OLD-2" title="t" adaptive="false" timeDependent="false">
<responseDeclaration identifier="R" cardinality="single" baseType="float"><correctResponse><value>3.5</value></correctResponse></responseDeclaration>
<outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float" normalMaximum="2"/>
<itemBody><p>The tide rose by <textEntryInteraction responseIdentifier="R" expectedLength="6"/> meters.</p></itemBody>
<responseProcessing><responseCondition><responseIf><equal toleranceMode="absolute" tolerance="0.1 0.1"><variable identifier="R"/><correct identifier="R"/></equal></responseIf></responseCondition></responseProcessing></assessmentItem>"""
        kind = f"imsqti_item_xmlv{version}"
        manifest = f'<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="m"><resources><resource identifier="a" type="{kind}" href="one.xml"/><resource identifier="b" type="{kind}" href="sub/two%20b.xml"/></resources></manifest>'
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for name, text in (("imsmanifest.xml", manifest), ("one.xml", item), ("sub/two b.xml", number)):
                archive.writestr(name, text)
        return out.getvalue()

    def test_they_come_in(self) -> None:
        for version in ("2p1", "2p2"):
            (one, two), unread = read_package("old.zip", self.older(version))
            self.assertEqual(unread, [])
            self.assertEqual(
                (one.kind, one.points, one.content.scoring[0].key, one.content.scoring[0].partial),
                ("multiple", 2.0, "A+C", True),
            )
            self.assertIn("<em>birds</em>", one.content.shown.body)
            self.assertIn("Choose.", one.content.shown.body)
            self.assertEqual(one.lost, ("shuffling of the choices",))
            self.assertEqual((two.kind, two.points, two.content.scoring[0].key), ("gap", 2.0, "3.5~0.1"))
            self.assertIn('by <span data-gap="1"></span> meters', two.content.shown.body)


class Harmless(unittest.TestCase):
    def attacked(self, attack: str) -> Any:
        """Every formatted text of an item of many parts, attacked."""
        options = [{"id": "A", "html": attack + "1"}, {"id": "B", "html": "2"}]
        return {
            "shown": {
                "body": f"<p>x{attack}</p>",
                "parts": [
                    {"id": "1", "type": "choice", "prompt": attack, "options": options},
                    {"id": "2", "type": "order", "prompt": attack, "options": options},
                    {"id": "3", "type": "match", "rows": options, "columns": options},
                    {
                        "id": "4",
                        "type": "hot_text",
                        "text": f'<span data-pick="a">{attack}1</span><span data-pick="b">2</span>',
                    },
                ],
            },
            "scoring": [
                {"id": "1", "key": "A"},
                {"id": "2", "key": "A>B"},
                {"id": "3", "key": "A=A"},
                {"id": "4", "key": "a"},
            ],
            "behind": {"solution": attack, "hints": [attack], "misconceptions": [{"answer": "A", "note": "n"}]},
        }

    def test_in_every_field(self) -> None:
        for attack in ATTACKS:
            content = cleaned(read_content(self.attacked(attack)))
            for text in htmls(content):
                self.assertIsNone(HARM.search(text), (attack, text))

    def test_in_every_format(self) -> None:
        for attack in ATTACKS:
            cell = '"' + attack.replace('"', '""') + '"'
            sheet = f'code,type,stem,option_A,option_B,key,solution\nX,choice,stem{cell[:0]},1,2,A,\nY,choice,{cell[:-1]} x",{cell[:-1]} 1",2,A,{cell}\n'
            found = [cleaned(r.content) for r in read_items("i.csv", sheet.encode())]
            escaped = attack.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace('"', "&quot;")
            data = write_package(records()[:1], {})
            with zipfile.ZipFile(io.BytesIO(data)) as archive:
                files = {n: archive.read(n).decode() for n in archive.namelist()}
            item = next(n for n in files if n.startswith("items/"))
            for bent in (
                files[item].replace("<b>2</b>", escaped),
                files[item].replace("<b>2</b>", '<img xmlns="" src="//evil/x" onerror="alert(1)"/>2'),
            ):
                out = io.BytesIO()
                with zipfile.ZipFile(out, "w") as archive:
                    for name, text in {**files, item: bent}.items():
                        archive.writestr(name, text)
                read, _ = read_package("p.zip", out.getvalue())
                found += [cleaned(r.content) for r in read]
            for content in found:
                for text in htmls(content):
                    self.assertIsNone(HARM.search(text), (attack, text))

    def test_what_is_meant_stays(self) -> None:
        for content in ITEMS.values():
            self.assertEqual(cleaned(cleaned(content)), cleaned(content))
            self.assertEqual(json.loads(content.shown.model_dump_json())["parts"][0]["id"], content.shown.parts[0].id)
        kept = f'<p>See <img src="/api/media/{PICTURE}" alt="a pier" width="40"> and <span data-gap="g1"></span></p>'
        self.assertEqual(read_and_clean(kept), kept)


def read_and_clean(text: str) -> str:
    return cleaned(
        read_content({"shown": {"body": text, "parts": [{"type": "entry"}]}, "scoring": [{"key": "x"}]})
    ).shown.body
