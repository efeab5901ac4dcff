"""Frameworks in the store: items stay with their standards, versions stand side by side, links both ways."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import UTC, datetime

from sqlalchemy import select

from bildung.formats.case import FrameworkRecord, RelationRecord, StandardRecord, own_identifier, read_case, write_case
from bildung.services.bank import frameworks, itemimport, overview
from bildung.services.people import log
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Invalid, NotAllowed, NotFound
from bildung.store.models import Framework, ItemStandard, Standard, StandardLink
from tests.support import WorldCase, small_roster

AT = datetime(2026, 11, 23, tzinfo=UTC)


def record(version: str, codes: dict[str, str], links: tuple[RelationRecord, ...] = ()) -> FrameworkRecord:
    identifier = own_identifier("F", version)
    top = own_identifier(identifier, "top")
    below = [
        StandardRecord(
            identifier=own_identifier(identifier, code),
            code=code,
            text=text,
            plain="",
            kind="standard",
            subject="",
            grade="5",
            grade_to="5",
            priority=False,
            parent=top,
            position=float(at),
        )
        for at, (code, text) in enumerate(codes.items())
    ]
    standards = (StandardRecord(identifier=top, code="", text="Everything", kind="strand"), *below)
    return FrameworkRecord(
        identifier=identifier,
        title="The Framework",
        version=version,
        creator="us",
        language="en",
        standards=standards,
        links=links,
    )


class FrameworkCase(WorldCase):
    def bring(self, found: FrameworkRecord) -> dict[str, int]:
        data = json.dumps(write_case(found, "1.1", "http://here", AT)).encode()
        return frameworks.apply(
            self.ctx, self.boss, frameworks.preview(self.ctx, self.boss, {"f.json": data}).id
        ).counts

    def page(self, id: int | None = None) -> frameworks.FrameworkPage:
        page = frameworks.framework_page(self.ctx, self.boss, id)
        assert page is not None
        return page

    def main_standards(self) -> dict[str, int]:
        """Standards that items have as their main one, by code."""
        with self.ctx.store.read() as db:
            rows = db.execute(
                select(Standard.code, ItemStandard.standard_id).join(
                    ItemStandard, ItemStandard.standard_id == Standard.id
                )
            )
            return {code: id for code, id in rows}


class Bringing(FrameworkCase):
    def test_codes_that_came_with_items_find_their_texts_and_keep_their_items(self) -> None:
        self.bring_items(6)
        before = self.main_standards()
        code = next(iter(before))
        self.assertIsNone(frameworks.framework_page(self.ctx, self.boss))
        counts = self.bring(record("1", {code: "Its text at last", "X.9": "Without an item"}))
        self.assertEqual(
            (counts["added"], counts["changed"]), (3, 1), "framework, heading, one standard; one that had no text"
        )
        self.assertEqual(self.main_standards(), before)
        rows = {r.code: r for r in self.page().rows}
        self.assertEqual(
            (rows[code].text, rows[code].leaf, rows[""].leaf, rows[code].depth), ("Its text at last", True, False, 1)
        )
        self.assertGreater(rows[code].items, 0)
        self.assertIn("2 standards, 1 without an item", self.page().finding)
        self.assertEqual(frameworks.texts(self.ctx)[code], ("Its text at last", ""))

    def test_twice_is_once_and_a_changed_text_changes_in_place(self) -> None:
        first = record("1", {"A.1": "One", "A.2": "Two"})
        self.bring(first)
        self.assertEqual(self.bring(first), {"added": 0, "changed": 0, "left_out": 0, "same": 4})
        ids = {r.code: r.id for r in self.page().rows}
        changed = replace(
            first, standards=(first.standards[0], replace(first.standards[1], text="One, better"), first.standards[2])
        )
        self.assertEqual(self.bring(changed)["changed"], 1)
        self.assertEqual({r.code: r.id for r in self.page().rows}, ids)
        self.assertEqual([r.text for r in self.page().rows], ["Everything", "One, better", "Two"])

    def test_what_a_new_file_no_longer_has_goes_unless_something_hangs_on_it(self) -> None:
        self.bring_items(6)
        used = next(iter(self.main_standards()))
        self.bring(record("1", {used: "Used", "X.1": "Idle", "X.2": "Stays"}))
        counts = self.bring(record("1", {"X.2": "Stays"}))
        self.assertEqual((counts["changed"], counts["left_out"]), (1, 1))
        self.assertEqual({r.code for r in self.page().rows}, {"", used, "X.2"})

    def test_a_sentence_written_here_outlives_a_file_without_one(self) -> None:
        found = record("1", {"A.1": "One"})
        self.bring(found)
        one = self.page().rows[1]
        frameworks.change_standard(self.ctx, self.boss, one.id, "  counting   things ", True)
        self.bring(
            replace(
                found, standards=(found.standards[0], replace(found.standards[1], text="One, changed", priority=True))
            )
        )
        row = self.page().rows[1]
        self.assertEqual((row.text, row.plain, row.priority), ("One, changed", "counting things", True))
        self.assertEqual(frameworks.texts(self.ctx)["A.1"], ("One, changed", "counting things"))
        self.assertEqual(log.search(self.ctx, self.boss, "standard.change")[1], 1)
        with self.assertRaisesRegex(Invalid, "at most 300"):
            frameworks.change_standard(self.ctx, self.boss, one.id, "x" * 400, False)

    def test_a_sheet_needs_a_title(self) -> None:
        with self.assertRaisesRegex(Invalid, "needs the framework's title"):
            frameworks.preview(self.ctx, self.boss, {"f.csv": b"code,text\nA,One\n"})
        preview = frameworks.preview(self.ctx, self.boss, {"f.csv": b"code,text\nA,One\n"}, "Ours")
        frameworks.apply(self.ctx, self.boss, preview.id)
        self.assertEqual(self.page().framework.title, "Ours")


class Versions(FrameworkCase):
    def setUp(self) -> None:
        super().setUp()
        self.old, self.new = (
            record("1", {"A.1": "Old one", "A.2": "Old two"}),
            record("2", {"A.1": "New one", "B.2": "New two"}),
        )
        link = RelationRecord(self.old.standards[1].identifier, "replacedBy", self.new.standards[1].identifier)
        self.bring(self.old)
        self.new = replace(self.new, links=(link,))
        self.counts = self.bring(self.new)

    def test_two_versions_stand_side_by_side_with_the_same_codes(self) -> None:
        lines = self.page().frameworks
        self.assertEqual(
            [(f.version, f.main, f.standards, f.linked) for f in lines], [("1", True, 3, 1), ("2", False, 3, 1)]
        )
        second = self.page(lines[1].id)
        self.assertEqual([r.text for r in second.rows], ["Everything", "New one", "New two"])
        self.assertEqual(frameworks.texts(self.ctx)["A.1"][0], "Old one", "the main one's text is meant")
        frameworks.make_main(self.ctx, self.boss, lines[1].id)
        self.assertEqual(frameworks.texts(self.ctx)["A.1"][0], "New one")

    def test_a_link_is_told_from_both_sides(self) -> None:
        lines = self.page().frameworks
        old, new = ({r.code: r.linked for r in self.page(f.id).rows} for f in lines)
        self.assertEqual(old["A.1"], [("replacedBy", "The Framework 2", "A.1")])
        self.assertEqual(new["A.1"], [("replacedBy (from there)", "The Framework 1", "A.1")])
        self.assertEqual(new["B.2"], [])

    def test_a_link_to_what_is_not_here_is_left_out_and_said(self) -> None:
        lost = RelationRecord(self.new.standards[2].identifier, "exactMatchOf", own_identifier("nowhere"))
        counts = self.bring(replace(self.new, links=(*self.new.links, lost)))
        self.assertEqual((counts["added"], counts["left_out"]), (0, 1))

    def test_items_that_name_a_code_mean_the_main_framework(self) -> None:
        with self.ctx.store.read() as db:
            second = db.scalars(select(Framework.id).where(Framework.version == "2")).one()
        frameworks.make_main(self.ctx, self.boss, second)
        sheet = b"code,type,stem,key,standards\nI-1,numeric,One and one?,2,A.1\n"
        itemimport.apply_items(self.ctx, self.boss, itemimport.preview_items(self.ctx, self.boss, {"i.csv": sheet}).id)
        with self.ctx.store.read() as db:
            (standard,) = db.scalars(select(Standard).join(ItemStandard, ItemStandard.standard_id == Standard.id))
            self.assertEqual(standard.text, "New one")
        self.assertEqual(
            [s.code for s in overview.overview(self.ctx, self.boss).standards],
            ["A.1", "B.2"],
            "headings take no items",
        )

    def test_out_as_case_and_in_again_nothing_is_left_to_do(self) -> None:
        for f in self.page().frameworks:
            data, media, name = frameworks.export(self.ctx, self.boss, f.id, "case1.1", "http://here")
            self.assertEqual((media, name), ("application/json", f"the-framework-{f.version}-case1.1.json"))
            again = frameworks.preview(self.ctx, self.boss, {name: data})
            self.assertEqual((again.counts["added"], again.counts["changed"], again.counts["left_out"]), (0, 0, 0))
            self.assertEqual(read_case(name, data).title, "The Framework")
        self.assertIn(b"A.1,Old one", frameworks.export(self.ctx, self.boss, self.page().framework.id, "csv", "")[0])
        with self.assertRaises(Invalid):
            frameworks.export(self.ctx, self.boss, self.page().framework.id, "pdf", "")
        with self.assertRaises(NotFound):
            frameworks.export(self.ctx, self.boss, 99, "csv", "")

    def test_only_keepers_change_frameworks_and_teachers_read_them(self) -> None:
        self.bring_people(small_roster(2))
        teacher = self.teacher_of(self.class_id())
        writer = Actor(person_id=teacher.person_id, name="W", grants=(Grant("writer", None),), sign_in_id=0, csrf="")
        head = Actor(person_id=teacher.person_id, name="H", grants=(Grant("coordinator", 1),), sign_in_id=0, csrf="")
        page = frameworks.framework_page(self.ctx, teacher)
        assert page is not None
        self.assertFalse(page.may_change)
        standard = page.rows[1].id
        frameworks.change_standard(self.ctx, writer, standard, "x", False)
        for actor in (teacher, head):
            with self.assertRaises(NotAllowed):
                frameworks.change_standard(self.ctx, actor, standard, "x", False)
            with self.assertRaises(NotAllowed):
                frameworks.make_main(self.ctx, actor, page.framework.id)
        with self.ctx.store.read() as db:
            self.assertEqual(len(db.scalars(select(StandardLink)).all()), 1)
