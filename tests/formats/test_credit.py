"""Partial credit: files written by hand from the open standard keep what each answer is worth, both ways."""

from __future__ import annotations

import io
import unittest
import zipfile

from bildung.core.errors import Refused
from bildung.formats.content import Content, read_content
from bildung.formats.faults import faults
from bildung.formats.itemlist import ItemRecord
from bildung.formats.qti import package_misses, read_package, write_package
from bildung.formats.qti.read import Unread
from bildung.formats.scored import item_rule
from tests.formats.samples import ITEMS, RIGHT

NS = {"2.1": "http://www.imsglobal.org/xsd/imsqti_v2p1", "3.0": "http://www.imsglobal.org/xsd/imsqtiasi_v3p0"}
MAP = "http://www.imsglobal.org/question/qti_v2p1/rptemplates/map_response"
MATCH = "http://www.imsglobal.org/question/qti_v2p1/rptemplates/match_correct"


def packed(*items: str, version: str = "2.1") -> bytes:
    """A package of items, each given as what stands within its root."""
    root = "assessmentItem" if version == "2.1" else "qti-assessment-item"
    kind = "imsqti_item_xmlv2p1" if version == "2.1" else "imsqti_item_xmlv3p0"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        listed = "".join(f'<resource identifier="r{n}" type="{kind}" href="i{n}.xml"/>' for n in range(len(items)))
        made.writestr("imsmanifest.xml", f'<manifest xmlns="x"><resources>{listed}</resources></manifest>')
        for n, item in enumerate(items):
            made.writestr(f"i{n}.xml", f'<{root} xmlns="{NS[version]}" identifier="I{n}" title="t">{item}</{root}>')
    return out.getvalue()


def one(item: str, version: str = "2.1") -> ItemRecord | Unread:
    records, unread = read_package("p.zip", packed(item, version=version))
    return (records or unread)[0]


def points(record: ItemRecord | Unread, *answers: str) -> list[float]:
    assert isinstance(record, ItemRecord), record
    rule = item_rule(record.content.shown, record.content.scoring)
    return [round(rule.points(rule.label(answer)), 9) for answer in answers]


def choice(mapping: str, correct: str = "A", cardinality: str = "single", most: int = 1, processing: str = MAP) -> str:
    values = "".join(f"<value>{c}</value>" for c in correct.split())
    options = "".join(f'<simpleChoice identifier="{c}">{c}{c}</simpleChoice>' for c in "ABCD")
    return (
        f'<responseDeclaration identifier="RESPONSE" cardinality="{cardinality}" baseType="identifier"><correctResponse>{values}'
        f'</correctResponse>{mapping}</responseDeclaration><outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/>'
        f'<itemBody><choiceInteraction responseIdentifier="RESPONSE" maxChoices="{most}"><prompt>Which?</prompt>{options}</choiceInteraction>'
        f'</itemBody><responseProcessing template="{processing}"/>'
    )


def entry(mapping: str, base: str = "string", correct: str = "York", processing: str = f'template="{MAP}"') -> str:
    return (
        f'<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="{base}"><correctResponse><value>{correct}</value>'
        f'</correctResponse>{mapping}</responseDeclaration><outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/>'
        "<itemBody><p>The town of</p><blockquote><p>this glorious son of "
        '<textEntryInteraction responseIdentifier="RESPONSE" expectedLength="15"/>;</p></blockquote></itemBody>'
        f"<responseProcessing {processing}/>"
    )


def mapped(entries: dict[str, float], bounds: str = "", case: str = "") -> str:
    inside = "".join(f'<mapEntry mapKey="{key}" mappedValue="{value}"{case}/>' for key, value in entries.items())
    return f"<mapping {bounds}>{inside}</mapping>"


class In(unittest.TestCase):
    def test_a_second_best_choice_keeps_its_half_point(self) -> None:
        record = one(choice(mapped({"A": 1, "B": 0.5, "C": -1}, 'defaultValue="0"')))
        self.assertEqual(points(record, "A", "B", "C", "D"), [1, 0.5, 0, 0])
        assert isinstance(record, ItemRecord)
        self.assertEqual(record.content.scoring[0].key, "A")
        self.assertIn("scores below 0: an answer earns 0 at least", record.lost)

    def test_equal_best_choices_are_both_right(self) -> None:
        self.assertEqual(points(one(choice(mapped({"A": 2, "B": 2, "C": 1}))), "A", "B", "C"), [2, 2, 1])

    def test_several_choices_keep_each_value_and_both_bounds(self) -> None:
        text = mapped({"A": 1, "B": 1, "C": -1}, 'lowerBound="0" upperBound="2" defaultValue="-2"')
        record = one(choice(text, "A B", "multiple", 0))
        self.assertEqual(points(record, "A+B", "A", "A+C", "A+B+C", "D", "A+B+D"), [2, 1, 0, 1, 0, 0])
        assert isinstance(record, ItemRecord)
        self.assertEqual(record.lost, ())

    def test_several_choices_of_unequal_worth(self) -> None:
        text = mapped({"A": 0.25, "B": 1.75, "D": 0.5}, 'lowerBound="0.25"')
        self.assertEqual(
            points(one(choice(text, "A B D", "multiple", 0)), "A+B+D", "B", "A", "C"), [2.5, 1.75, 0.25, 0.25]
        )

    def test_an_upper_bound_below_the_sum_is_the_most(self) -> None:
        text = mapped({"A": 1, "B": 1, "C": 1}, 'upperBound="2"')
        self.assertEqual(points(one(choice(text, "A B C", "multiple", 0)), "A+B+C", "A+C", "C"), [2, 2, 1])

    def test_a_mapping_that_the_processing_does_not_use_changes_nothing(self) -> None:
        record = one(choice(mapped({"A": 3, "B": 2}), processing=MATCH))
        self.assertEqual(points(record, "A", "B"), [1, 0])

    def test_words_keep_what_each_spelling_is_worth_and_capitals_count_by_default(self) -> None:
        record = one(entry(mapped({"York": 1, "york": 0.5}, 'defaultValue="0"')))
        self.assertEqual(points(record, "York", "york", "YORK", "Leeds"), [1, 0.5, 0, 0])

    def test_capitals_do_not_count_where_the_mapping_says_so(self) -> None:
        record = one(entry(mapped({"York": 2, "Jorvik": 1}, case=' caseSensitive="false"')))
        self.assertEqual(points(record, "YORK", "jorvik"), [2, 1])

    def test_a_comparison_of_words_minds_capitals_unless_it_says_otherwise(self) -> None:
        self.assertEqual(points(one(entry("", processing=f'template="{MATCH}"')), "York", "york"), [1, 0])
        plain = entry("").replace(
            f'<responseProcessing template="{MAP}"/>',
            '<responseProcessing><responseCondition><responseIf><stringMatch caseSensitive="false"><variable identifier="RESPONSE"/>'
            '<correct identifier="RESPONSE"/></stringMatch><setOutcomeValue identifier="SCORE"><baseValue baseType="float">3</baseValue>'
            "</setOutcomeValue></responseIf></responseCondition></responseProcessing>",
        )
        self.assertEqual(points(one(plain), "York", "yORK"), [3, 3])

    def test_numbers_keep_what_each_is_worth(self) -> None:
        self.assertEqual(
            points(one(entry(mapped({"12": 1, "21": 0.25}), "integer", "12")), "12", "12.0", "21", "3"), [1, 1, 0.25, 0]
        )

    def test_pairs_keep_what_each_is_worth_and_wrong_ones_take_away(self) -> None:
        sets = "".join(
            "<simpleMatchSet>"
            + "".join(
                f'<simpleAssociableChoice identifier="{c}" matchMax="{n}">{c}!</simpleAssociableChoice>' for c in side
            )
            + "</simpleMatchSet>"
            for side, n in (("CDP", 1), ("MRT", 4))
        )
        item = (
            '<responseDeclaration identifier="RESPONSE" cardinality="multiple" baseType="directedPair"><correctResponse><value>C R</value>'
            "<value>D M</value><value>P T</value></correctResponse>"
            + mapped({"C R": 1, "C M": 0.5, "D M": 0.5, "P T": 1, "P M": -1}, 'lowerBound="0" defaultValue="0"')
            + '</responseDeclaration><outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/><itemBody>'
            f'<matchInteraction responseIdentifier="RESPONSE" maxAssociations="3"><prompt>Match</prompt>{sets}</matchInteraction></itemBody>'
            f'<responseProcessing template="{MAP}"/>'
        )
        self.assertEqual(points(one(item), "C=R;D=M;P=T", "C=M;D=M", "C=R;P=M", "P=M"), [2.5, 1, 0, 0])

    def test_areas_keep_what_each_is_worth(self) -> None:
        item = (
            '<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="point"><areaMapping defaultValue="0">'
            '<areaMapEntry shape="circle" coords="102,113,16" mappedValue="1"/><areaMapEntry shape="circle" coords="102,113,40" mappedValue="0.5"/>'
            '</areaMapping></responseDeclaration><outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/><itemBody>'
            '<selectPointInteraction responseIdentifier="RESPONSE" maxChoices="1"><prompt>Where?</prompt><object data="map.png" type="image/png" '
            'width="206" height="280">Map</object></selectPointInteraction></itemBody><responseProcessing template="x/map_response_point"/>'
        )
        out = io.BytesIO(packed(item))
        with zipfile.ZipFile(out, "a") as made:
            made.writestr("map.png", b"x")
        record = read_package("p.zip", out.getvalue())[0][0]
        self.assertEqual(points(record, "102 113", "102 140", "5 5"), [1, 0.5, 0])

    def test_gaps_keep_what_each_word_is_worth(self) -> None:
        item = (
            '<responseDeclaration identifier="RESPONSE" cardinality="multiple" baseType="directedPair"><correctResponse><value>W G1</value>'
            f"<value>Su G2</value></correctResponse>{mapped({'W G1': 1, 'Sp G1': 0.5, 'Su G2': 2})}</responseDeclaration>"
            '<outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/><itemBody><gapMatchInteraction '
            'responseIdentifier="RESPONSE"><prompt>Fill the gaps.</prompt><gapText identifier="W" matchMax="1">winter</gapText>'
            '<gapText identifier="Sp" matchMax="1">spring</gapText><gapText identifier="Su" matchMax="1">summer</gapText><blockquote>'
            '<p>Now is the <gap identifier="G1"/> made glorious <gap identifier="G2"/></p></blockquote></gapMatchInteraction></itemBody>'
            f'<responseProcessing template="{MAP}"/>'
        )
        record = one(item)
        self.assertEqual(
            points(record, '{"g1":"A","g2":"C"}', '{"g1":"B"}', '{"g1":"C"}', '{"g2":"C"}'), [3, 0.5, 0, 2]
        )

    def test_a_hot_text_without_a_prompt_is_an_item(self) -> None:
        item = (
            '<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="identifier"><correctResponse><value>B</value>'
            '</correctResponse></responseDeclaration><itemBody><hottextInteraction responseIdentifier="RESPONSE" maxChoices="1"><p>Sponsors of '
            '<hottext identifier="A">the games</hottext> <hottext identifier="B">is</hottext> many.</p></hottextInteraction></itemBody>'
            f'<responseProcessing template="{MATCH}"/>'
        )
        self.assertEqual(points(one(item), "B", "A"), [1, 0])

    def test_what_scorers_are_told_is_kept_and_what_students_are_told_stays_in_the_text(self) -> None:
        item = (
            '<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="string"/><outcomeDeclaration identifier="SCORE" '
            'cardinality="single" baseType="float" normalMaximum="3"/><itemBody><rubricBlock view="candidate"><p>Write in full sentences.</p>'
            '</rubricBlock><extendedTextInteraction responseIdentifier="RESPONSE"><prompt>Reply.</prompt></extendedTextInteraction>'
            '<rubricBlock view="scorer"><p>One point for each of three sentences.</p></rubricBlock><rubricBlock view="author"><p>Old.</p></rubricBlock>'
            "</itemBody>"
        )
        record = one(item)
        assert isinstance(record, ItemRecord)
        self.assertIn("Write in full sentences.", record.content.shown.body)
        self.assertEqual(record.content.behind.guidance, "<p>One point for each of three sentences.</p>")
        self.assertEqual(record.lost, ("notes to author",))

    def test_rules_of_its_own_are_named_before_the_import(self) -> None:
        conditions = "".join(
            f'<responseElseIf><match><variable identifier="RESPONSE"/><baseValue baseType="identifier">{c}</baseValue></match>'
            f'<setOutcomeValue identifier="SCORE"><baseValue baseType="float">{v}</baseValue></setOutcomeValue></responseElseIf>'
            for c, v in (("A", 2), ("B", 1))
        )
        own = choice("").replace(
            f'template="{MAP}"/>',
            f"><responseCondition>{conditions}<product/></responseCondition></responseProcessing>",
        )
        record = one(own)
        assert isinstance(record, ItemRecord)
        self.assertEqual(
            record.lost,
            ("its own rules of scoring (product)", "points for other answers set by its response processing"),
        )

    def test_bounds_that_leave_nothing_to_earn_and_values_that_are_none_are_said(self) -> None:
        for bounds, why in (
            ('lowerBound="2" upperBound="2"', "lower bound of 2"),
            ('upperBound="x"', "no number"),
            ('lowerBound="NaN"', "no number"),
        ):
            found = one(choice(mapped({"A": 1, "B": 1, "C": 0.5}, bounds), "A B", "multiple", 0))
            self.assertIsInstance(found, Unread)
            self.assertIn(why, found.why)  # type: ignore[union-attr]


CREDITED: dict[str, tuple[Content, dict[str, float]]] = {
    "choice": (
        read_content(
            {
                "shown": ITEMS["choice"].shown.model_dump(),
                "scoring": [{"key": "B", "points": 2, "credit": [{"answer": "A", "points": 0.5}]}],
            }
        ),
        {"B": 2, "A": 0.5, "C": 0},
    ),
    "multiple": (
        read_content(
            {
                "shown": ITEMS["multiple"].shown.model_dump(),
                "scoring": [
                    {
                        "key": "A+C",
                        "points": 2,
                        "lowest": 0.5,
                        "credit": [
                            {"answer": "A", "points": 1.5},
                            {"answer": "C", "points": 0.5},
                            {"answer": "B", "points": -2},
                        ],
                    }
                ],
            }
        ),
        {"A+C": 2, "A": 1.5, "A+B": 0.5, "D": 0.5},
    ),
    "text": (
        read_content(
            {
                "shown": ITEMS["text"].shown.model_dump(),
                "scoring": [{"key": "Skerrow|skerow", "points": 2, "credit": [{"answer": "skerow", "points": 1}]}],
            }
        ),
        {"SKERROW": 2, "Skerow": 1, "x": 0},
    ),
    "numeric": (
        read_content(
            {
                "shown": ITEMS["gap"].shown.model_dump(),
                "scoring": [{"key": "2|3", "points": 2, "credit": [{"answer": "3", "points": 1}]}],
            }
        ),
        {"2": 2, "3.0": 1, "4": 0},
    ),
    "match": (
        read_content(
            {
                "shown": ITEMS["match"].shown.model_dump(),
                "scoring": [
                    {
                        "key": "r=u;s=v",
                        "points": 3,
                        "credit": [
                            {"answer": "r=u", "points": 1},
                            {"answer": "s=v", "points": 2},
                            {"answer": "s=w", "points": 1},
                        ],
                    }
                ],
            }
        ),
        {"r=u;s=v": 3, "r=u;s=w": 2, "s=v": 2, "r=v": 0},
    ),
}


class BothWays(unittest.TestCase):
    def test_credit_is_the_same_after_a_package(self) -> None:
        for name, (content, worth) in CREDITED.items():
            with self.subTest(name):
                self.assertEqual(faults(content), [])
                record = ItemRecord(code=name, content=content, standards=(), subject="Mathematics", grade="6")
                self.assertEqual(package_misses(record), [])
                back = read_package("p.zip", write_package([record], {}))[0][0]
                self.assertEqual(points(record, *worth), list(worth.values()))
                self.assertEqual(points(back, *worth), list(worth.values()))
                self.assertEqual(back.lost, ())

    def test_guidance_for_scorers_is_the_same_after_a_package(self) -> None:
        content = read_content({**ITEMS["writing"].model_dump(), "behind": {"guidance": "<p>Two &amp; no more.</p>"}})
        record = ItemRecord(code="W", content=content, standards=(), subject="Reading", grade="6")
        back = read_package("p.zip", write_package([record], {}))[0][0]
        self.assertEqual(back.content.behind.guidance, "<p>Two &amp; no more.</p>")


class Faults(unittest.TestCase):
    """What the check before publishing finds by answering an item with its own key."""

    def test_every_sample_can_be_answered_right(self) -> None:
        for name, content in ITEMS.items():
            self.assertEqual(faults(content), [], name)

    def test_a_key_that_does_not_earn_all_is_found(self) -> None:
        shown = ITEMS["multiple"].shown.model_dump()
        for scoring, why in (
            ({"key": "A+C", "points": 2, "credit": [{"answer": "A", "points": 1}]}, "earns 1 of 2 points"),
            ({"key": "A", "points": 1, "credit": [{"answer": "Z", "points": 1}]}, "'Z', which is no answer"),
            ({"key": "A", "points": 1, "lowest": 1, "credit": [{"answer": "A", "points": 1}]}, "lowest score"),
        ):
            found = faults(read_content({"shown": shown, "scoring": [scoring]}))
            self.assertTrue(any(why in said for _, said in found), (scoring, found))

    def test_a_key_that_no_student_can_give_is_found(self) -> None:
        long = "x" * 201
        content = read_content(
            {"shown": {"body": "<p>Say</p>", "parts": [{"type": "entry"}]}, "scoring": [{"key": long}]}
        )
        self.assertIn("a student cannot give the answer of the key", faults(content)[0][1])
        needed = {"key": "2.5", "writing": "whole"}
        number = {"body": "<p>Say</p>", "parts": [{"type": "entry", "numeric": True}]}
        self.assertIn("earns 0 of 1 points", faults(read_content({"shown": number, "scoring": [needed]}))[0][1])

    def test_orders_lines_and_writing_take_no_credit_by_answer(self) -> None:
        scoring = {**ITEMS["order"].scoring[0].model_dump(), "credit": [{"answer": "y", "points": 1}]}
        self.assertIn(
            "choices, entries, pairs and areas only",
            faults(read_content({"shown": ITEMS["order"].shown.model_dump(), "scoring": [scoring]}))[0][1],
        )


class Untouched(unittest.TestCase):
    def test_scoring_without_credit_is_as_it_was(self) -> None:
        for name, answer in RIGHT.items():
            rule = item_rule(ITEMS[name].shown, ITEMS[name].scoring)
            try:
                earned = rule.points(rule.label(answer))
            except Refused as error:
                self.fail(f"{name}: {error}")
            self.assertGreaterEqual(earned, 0)
