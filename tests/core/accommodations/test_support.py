"""Readers, scribes and interpreters: whom one person can serve at a test."""

from __future__ import annotations

import unittest

from bildung.core.accommodations.support import Served, against, unserved

ANN = Served(name="Ann", kinds=("human_reader", "scribe"), form=1)
BEN = Served(name="Ben", kinds=("human_reader",), form=1)
KIT = Served(name="Kit", kinds=("human_reader",), form=2)
LEE = Served(name="Lee", kinds=("breaks",), form=1)


class Support(unittest.TestCase):
    def test_one_reader_serves_several_on_one_form_and_a_scribe_one_student(self) -> None:
        for kind, served, said in (
            ("human_reader", [ANN, BEN], ""),
            ("human_reader", [ANN, KIT], "one reader reads one form"),
            ("scribe", [ANN], ""),
            ("scribe", [ANN, Served(name="Moe", kinds=("scribe",), form=1)], "one scribe serves one student"),
            ("scribe", [BEN], "Ben has no scribe for this test"),
            ("sign_language", [ANN], "Ann has no sign language interpreter"),
            ("human_reader", [], "choose at least one student"),
            ("breaks", [LEE], "choose human reader, scribe, sign language interpreter"),
        ):
            found = against(kind, served)
            self.assertTrue(found.startswith(said) and bool(found) == bool(said), f"{kind} {served}: {found}")

    def test_who_needs_a_person_and_has_none(self) -> None:
        students = {1: ANN, 2: BEN, 4: LEE}
        self.assertEqual(unserved(students, {(1, "human_reader")}), [(1, "scribe"), (2, "human_reader")])
        self.assertEqual(unserved(students, {(1, "human_reader"), (1, "scribe"), (2, "human_reader")}), [])
