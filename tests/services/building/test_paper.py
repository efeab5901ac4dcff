"""Paper that says what the form says, answer sheets that a reader can find its way on, packages out and in again."""

from __future__ import annotations

import io
import re
import unittest
import zipfile

import openpyxl
import segno
from pypdf import PdfReader
from sqlalchemy import select

from bildung.core.errors import Refused
from bildung.core.items.answersheet import (
    ACROSS,
    BOTTOM,
    CORNER,
    PAPER,
    SIDE,
    SQUARE,
    TOP,
    UP,
    SheetItem,
    SquareCode,
    elsewhere,
    how_to_fill,
    lay_out,
    read_square,
    write_square,
)
from bildung.formats.qti.packages import write_package
from bildung.formats.qti.tests import read_test
from bildung.reports.printed import formula
from bildung.services.bank import itemimport, search
from bildung.services.building import formfamily, forms, packages, paper
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.store.models import Form
from tests.formats.samples import PICTURE, records
from tests.formats.test_content import picture
from tests.services.building.test_companions import FamilyCase


def words(data: bytes) -> list[str]:
    """The text of each page."""
    return [" ".join((page.extract_text() or "").split()) for page in PdfReader(io.BytesIO(data)).pages]


class Geometry(unittest.TestCase):
    def asked(self, count: int, options: int = 4) -> list[SheetItem]:
        return [
            SheetItem(question=n, part="1", label=str(n), options=tuple("ABCDEFGHIJKL"[:options]))
            for n in range(1, count + 1)
        ]

    def test_every_option_has_one_lozenge_inside_the_page_and_none_touch(self) -> None:
        for size in PAPER:
            for count, options in ((40, 4), (150, 5), (12, 12)):
                with self.subTest(size=size, count=count, options=options):
                    sheet = lay_out(self.asked(count, options), size)
                    found = [(b.question, b.option) for page in sheet.pages for b in page.lozenges]
                    self.assertEqual(len(found), len(set(found)))
                    self.assertEqual(len(found), count * options)
                    for page in sheet.pages:
                        for b in page.lozenges:
                            self.assertTrue(SIDE < b.x < sheet.width - SIDE and TOP < b.y < sheet.height - BOTTOM)
                        spots = sorted((b.x, b.y) for b in page.lozenges)
                        for at, (x, y) in enumerate(spots):
                            for u, v in spots[at + 1 :]:
                                if u - x > 2 * ACROSS:
                                    break
                                self.assertGreater(abs(x - u) / ACROSS + abs(y - v) / UP, 2)

    def test_signs_of_a_code_stand_on_a_sheet_that_is_nobodys_and_touch_nothing(self) -> None:
        for size in PAPER:
            sheet = lay_out(self.asked(90), size, "BCDFGHJKMNPQRTVWXZ2346789", 6)
            first, rest = sheet.pages[0], sheet.pages[1:]
            self.assertEqual(
                {(s.at, s.sign) for s in first.signs}, {(n, s) for n in range(6) for s in "BCDFGHJKMNPQRTVWXZ2346789"}
            )
            self.assertEqual((len(first.boxes), [page.signs for page in rest]), (6, [()] * len(rest)))
            for s in first.signs:
                self.assertTrue(s.x > SIDE and s.y < sheet.height - BOTTOM + UP, size)
                self.assertTrue(all(b.x - ACROSS > s.x + ACROSS for b in first.lozenges))
                for x, y in sheet.squares:
                    self.assertFalse(
                        x - ACROSS < s.x < x + SQUARE + ACROSS and y - UP < s.y < y + SQUARE + UP, (size, s)
                    )
            for x, y in sheet.squares:
                for cx, cy in sheet.corners:
                    near = max(x - cx, cx - x - SQUARE), max(y - cy, cy - y - SQUARE)
                    self.assertGreater(max(near), CORNER / 2)

    def test_a_layout_that_changes_has_another_revision_and_a_label_of_the_same_places_has_not(self) -> None:
        asked = self.asked(12)
        one = lay_out(asked).revision
        self.assertEqual(lay_out(list(asked)).revision, one)
        turned = [SheetItem(question=1, part="1", label="1", options=("B", "A", "C", "D")), *asked[1:]]
        for other in (lay_out(asked[:-1]), lay_out(asked, "Letter"), lay_out(turned), lay_out(asked, "A4", "BC", 2)):
            self.assertNotEqual(other.revision, one)

    def test_what_the_square_code_says_is_read_again_and_anything_else_refused(self) -> None:
        said = SquareCode(
            form="17", revision="0123456789", page=2, pages=3, paper="Letter", session="K7MQ2B", student="BCDFGH"
        )
        for code in (said, SquareCode(form="1", revision="ABCDEF0123", page=1, pages=1, paper="A4")):
            self.assertEqual(read_square(write_square(code)), code)
            self.assertFalse(segno.make(write_square(code), error="m", micro=False).is_micro)
        for text in (
            "",
            "BS:K7MQ2B:BCDFGH:17:1",
            write_square(said).replace("/2/3/", "/4/3/"),
            write_square(said) + "/",
        ):
            with self.assertRaisesRegex(Refused, "begins with BILDUNG1"):
                read_square(text)

    def test_what_to_do_names_questions_with_several_answers_and_those_of_the_booklet(self) -> None:
        one, two = (
            SheetItem(question=1, part="1", label="1", options=("A", "B")),
            SheetItem(question=2, part="1", label="2", options=("A", "B"), most=0),
        )
        self.assertTrue(how_to_fill([one]).startswith("Fill one lozenge darkly in each row. "))
        self.assertIn("in each row; in 2 every one that is right.", how_to_fill([one, two]))
        self.assertTrue(how_to_fill([two]).startswith("Fill every lozenge that is right"))
        self.assertEqual(how_to_fill([SheetItem(question=1, part="1", label="1")]), "Write each answer on its line.")
        self.assertEqual((elsewhere([]), elsewhere(["3", "7"])), ("", "Questions 3 and 7: answer in the booklet."))

    def test_what_does_not_fit_goes_on_the_next_page(self) -> None:
        self.assertEqual(len(lay_out(self.asked(80)).pages), 1)
        self.assertEqual(len(lay_out(self.asked(120)).pages), 2)

    def test_written_answers_have_a_line_and_no_lozenge(self) -> None:
        page = lay_out(
            [SheetItem(question=1, part="1", label="1"), SheetItem(question=2, part="1", label="2", options=("A", "B"))]
        ).pages[0]
        self.assertEqual(([line.question for line in page.lines], [b.question for b in page.lozenges]), ([1], [2, 2]))

    def test_letters_follow_the_order_that_the_booklet_shows(self) -> None:
        page = lay_out([SheetItem(question=1, part="1", label="1", options=("C", "A", "B"))]).pages[0]
        self.assertEqual([(b.letter, b.option) for b in page.lozenges], [("A", "C"), ("B", "A"), ("C", "B")])

    def test_an_unknown_paper_is_refused(self) -> None:
        with self.assertRaisesRegex(Refused, "A4, Letter"):
            lay_out([], "A3")


class Printed(FamilyCase):
    def test_a_booklet_has_every_question_and_no_key(self) -> None:
        form = self.form()
        pages = words(paper.document(self.ctx, self.boss, form, "booklet", "A4", False, True))
        text = " ".join(pages)
        for at in range(12):
            self.assertIn(f"What goes with {at}?", text)
        self.assertIn("12 questions, 12 points. Mark your answers on the answer sheet.", text)
        self.assertNotIn("C-00", text)
        large = words(paper.document(self.ctx, self.boss, form, "booklet", "A4", True, True))
        self.assertGreater(len(large), len(pages))

    def test_each_page_can_be_looked_at_before_it_is_printed(self) -> None:
        form = self.form(codes=range(24))
        said = (form, "booklet", "A4", True, False)
        count = paper.pages(self.ctx, self.boss, *said)
        self.assertEqual(count, len(words(paper.document(self.ctx, self.boss, *said))))
        self.assertTrue(paper.page_picture(self.ctx, self.boss, *said, count).startswith(b"\x89PNG"))
        with self.assertRaisesRegex(NotFound, "no such page"):
            paper.page_picture(self.ctx, self.boss, *said, count + 1)

    def test_a_question_is_never_torn_apart(self) -> None:
        form = self.form(codes=range(24))
        for page in words(paper.document(self.ctx, self.boss, form, "booklet", "Letter", True, False)):
            for at in re.findall(r"What goes with (\d+)\?", page):
                for word in ("right", "wrong", "odd", "far"):
                    self.assertIn(f"{word} {at}", page)

    def test_the_key_names_the_letters_that_this_form_prints(self) -> None:
        general = self.form(codes=range(6))
        other = self.companion(general, "alternate")
        for form in (general, other):
            with self.subTest(form=form):
                with self.ctx.store.read() as db:
                    letters = [
                        chr(65 + (i.face or {"1": list("ABCD")})["1"].index("A")) for i in db.get_one(Form, form).items
                    ]
                text = " ".join(words(paper.document(self.ctx, self.boss, form, "key", "A4", False, True)))
                said = re.findall(r"(\d) C-\d\d \S+ ([A-D]) 1", text)
                self.assertEqual([letter for _, letter in said], letters)

    def test_companions_have_one_title_and_marks_of_their_own(self) -> None:
        general = self.form()
        short = self.companion(general, "shortened")
        one, other = (
            words(paper.document(self.ctx, self.boss, f, "booklet", "A4", False, True))[0] for f in (general, short)
        )
        self.assertIn("Winter test 1·A", one)
        self.assertIn("Winter test 1·B", other)
        self.assertNotIn("shortened", other)

    def test_answer_sheets_of_a_session_follow_the_form_of_each_student(self) -> None:
        general = self.form()
        short = self.companion(general, "shortened")
        people = self.students()
        id = forms.get_form(self.ctx, self.boss, short).family_id or 0
        formfamily.add_rule(self.ctx, self.boss, id, short, None, people[0])
        session = self.plan(general)
        pages = words(paper.session_sheets(self.ctx, self.boss, session, "A4"))
        self.assertEqual(len(pages), len(people))
        self.assertIn("1·B", pages[0])
        self.assertEqual(sum("1·A" in page for page in pages), len(people) - 1)
        self.assertTrue(all("12 A B C D" in page for page in pages[1:]))
        self.assertNotIn("12 A B C D", pages[0])

    def test_a_drawn_form_has_no_common_sheet(self) -> None:
        form = self.form("Quiz", range(24), kind="spot", publish=False)
        self.settle(form, draw={"count": 2, "by": "standard", "each": "student", "limit": None})
        session = self.plan(self.publish(form))
        with self.assertRaisesRegex(Conflict, "drawn anew for each student"):
            paper.session_sheets(self.ctx, self.boss, session, "A4")

    def test_what_cannot_be_printed_is_said(self) -> None:
        form = self.form()
        empty = forms.create_form(self.ctx, self.boss, "Empty", "", "", "").id
        for id, what, size, said in (
            (form, "poster", "A4", "booklet, worksheet"),
            (form, "key", "A3", "A4, Letter"),
            (empty, "key", "A4", "no items yet"),
            (999, "key", "A4", "no such form"),
        ):
            with self.subTest(said=said), self.assertRaisesRegex((Invalid, Conflict, NotFound), said):
                paper.document(self.ctx, self.boss, id, what, size, False, True)


class Kinds(FamilyCase):
    """One form with every kind of item that there is."""

    def setUp(self) -> None:
        super().setUp()
        package = write_package(records(), {PICTURE: ("harbor.png", picture())})
        look = itemimport.preview_items(self.ctx, self.boss, {"all.zip": package})
        itemimport.apply_items(self.ctx, self.boss, look.id)
        found, _, _ = search.find_items(self.ctx, self.boss, limit=200)
        versions = {f.item.code: f.item.version_id for f in found}
        self.codes = [record.code for record in records()]
        made = forms.create_form(self.ctx, self.boss, "Every kind", "All kinds", "Mathematics", "6")
        ids = [versions[c] for c in self.codes]
        self.every = forms.set_items(self.ctx, self.boss, made.id, made.revision, ids).id

    def test_each_prints_on_everything(self) -> None:
        for what in ("booklet", "worksheet", "answers", "key", "guide"):
            with self.subTest(what=what):
                data = paper.document(self.ctx, self.boss, self.every, what, "A4", False, True)
                self.assertTrue(data.startswith(b"%PDF"))
                self.assertGreater(len(" ".join(words(data))), 100)

    def test_a_package_goes_out_and_in_again_as_the_same_test(self) -> None:
        name, data = packages.package(self.ctx, self.boss, self.every)
        self.assertEqual(name, "every-kind-qti.zip")
        test = read_test(name, data)
        assert test is not None
        self.assertEqual([c for p in test.parts for s in p.sections for c in s.items], self.codes)
        found = packages.bring(self.ctx, self.boss, name, data)
        self.assertIn(f"{len(self.codes)} items, 0 of them new in the bank", found.says)
        again = forms.get_form(self.ctx, self.boss, found.form_id)
        self.assertEqual([i.code for i in again.items], self.codes)
        self.assertEqual(again.title, "All kinds")

    def test_the_map_has_a_row_for_each_item(self) -> None:
        name, data = packages.map_of(self.ctx, self.boss, self.every)
        book = openpyxl.load_workbook(io.BytesIO(data))
        self.assertEqual(book.sheetnames, ["Form", "Items", "Standards"])
        rows = list(book["Items"].iter_rows(min_row=2, values_only=True))
        self.assertEqual([row[2] for row in rows], self.codes)
        self.assertEqual(name, "every-kind-map.xlsx")

    def test_formulas_are_drawings_that_stand_on_the_line(self) -> None:
        drawn = formula("<math><mfrac><mn>1</mn><mn>2</mn></mfrac></math>")
        self.assertIn("data:image/svg+xml;base64,", drawn)
        self.assertRegex(drawn, r"vertical-align:-0\.\d+em")
        self.assertEqual(formula("<math><nonsense></math>"), "<i>  </i>".replace("  ", "   "))


class Packages(FamilyCase):
    def test_settings_parts_and_draws_travel(self) -> None:
        made = forms.create_form(self.ctx, self.boss, "Parts", "Two parts", "Mathematics", "5", "spot")
        ids = [self.versions[f"C-{at:02}"] for at in range(12)]
        made = forms.set_items(self.ctx, self.boss, made.id, made.revision, ids)
        self.settle(
            made.id,
            minutes=25,
            movement="one",
            back=False,
            attempts=3,
            draw={"count": 2, "by": "standard", "each": "student", "limit": None},
        )
        name, data = packages.package(self.ctx, self.boss, made.id)
        back = forms.get_form(self.ctx, self.boss, packages.bring(self.ctx, self.boss, name, data).form_id)
        s = back.settings
        self.assertEqual((s.minutes, s.movement, s.back, s.attempts), (25, "one", False, 3))
        assert s.draw is not None
        self.assertEqual(s.draw.count, 2)

    def test_a_broken_package_is_refused_with_the_place_and_leaves_nothing(self) -> None:
        _, good = packages.package(self.ctx, self.boss, self.form())

        def edited(old: bytes = b"", new: bytes = b"", without: str = "") -> bytes:
            out = io.BytesIO()
            with zipfile.ZipFile(io.BytesIO(good)) as whole, zipfile.ZipFile(out, "w") as broken:
                for name in whole.namelist():
                    if name != without:
                        text = whole.read(name)
                        broken.writestr(name, text.replace(old, new) if name == "tests/test.xml" and old else text)
            return out.getvalue()

        with self.ctx.store.read() as db:
            before = len(db.scalars(select(Form)).all())
        for data, said in (
            (edited(without="items/C-03.xml"), "items/C-03.xml is not in the package"),
            (edited(b"items/C-01.xml", b"items/C-00.xml"), "item C-00 twice"),
            (edited(b"qti-assessment-item-ref", b"qti-other"), "no items"),
            (edited(b"</qti-assessment-test>", b""), "tests/test.xml"),
            (edited(without="imsmanifest.xml"), "no imsmanifest.xml"),
            (b"no archive", "package.zip"),
        ):
            with self.subTest(said=said), self.assertRaisesRegex(Invalid, re.escape(said)):
                packages.bring(self.ctx, self.boss, "package.zip", data)
        with self.ctx.store.read() as db:
            self.assertEqual(len(db.scalars(select(Form)).all()), before)

    def test_items_alone_are_no_test(self) -> None:
        package = write_package(records(), {PICTURE: ("harbor.png", picture())})
        with self.assertRaisesRegex(Invalid, "has items but no test"):
            packages.bring(self.ctx, self.boss, "items.zip", package)


if __name__ == "__main__":
    unittest.main()
