"""Cards on paper: one page a class, every student on it, the square leads to the door."""

from __future__ import annotations

import io
import unittest
from urllib.parse import parse_qs, urlsplit

from pypdf import PdfReader

from bildung.reports.cards import TicketSheet, door, session_cards
from bildung.services.people import log
from bildung.services.sessions import tickets
from bildung.services.shared.errors import NotFound
from tests.support import WorldCase

SHEET = TicketSheet(
    heading="Fall reading, Reading 5.1",
    what="Monday",
    klass="Reading 5.1",
    address="http://school.test/",
    code="ABC234",
    footer="made by Q",
)


def text_of(pdf: bytes) -> tuple[int, str]:
    reader = PdfReader(io.BytesIO(pdf))
    return len(reader.pages), "\n".join(page.extract_text() for page in reader.pages)


class Layout(unittest.TestCase):
    def test_up_to_thirty_students_fit_one_page_and_more_go_on(self) -> None:
        for count, pages in ((1, 1), (24, 1), (30, 1), (31, 2)):
            found, text = text_of(session_cards([(SHEET, [(f"Student {n:02d}", f"C{n:04d}") for n in range(count)])]))
            self.assertEqual(found, pages, f"{count} students")
            for n in range(count):
                self.assertIn(f"C{n:04d}", text.replace(" ", ""))

    def test_names_are_text_and_long_ones_stay_on_their_card(self) -> None:
        pages, text = text_of(
            session_cards([(SHEET, [("<b>Zoë & Łukasz</b> " + "of the very long name " * 6, "XYZ99")])])
        )
        self.assertEqual(pages, 1)
        self.assertIn("<b>Zoë & Łukasz</b>", text.replace("\n", " "))

    def test_the_square_fills_in_both_codes(self) -> None:
        query = parse_qs(urlsplit(door("http://school.test/", "ABC234", "K7&=X")).query)
        self.assertEqual(query, {"session": ["ABC234"], "own": ["K7&=X"]})


class Taking(WorldCase):
    def test_who_runs_the_session_gets_them_and_the_log_says_so(self) -> None:
        session = self.open_session(size=7, items=3).session
        _, text = text_of(tickets.cards(self.ctx, self.boss, session.id, "http://here/"))
        for code in [session.code, *self.codes_of(self.class_id())]:
            self.assertIn(code, text.replace(" ", ""))
        self.assertEqual(log.search(self.ctx, self.boss, "session.cards")[1], 1)
        with self.assertRaises(NotFound):
            tickets.cards(self.ctx, self.teacher_of(self.class_id("Reading")), session.id, "http://here/")
