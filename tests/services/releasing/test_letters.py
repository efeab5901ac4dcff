"""Letters for families without an account: one a household, in the order of homerooms, nothing for who may see no results."""

from __future__ import annotations

import unittest
from typing import Any

from bildung.reports.pictures import open_document
from bildung.services.quality.printing.tests import print_tests
from bildung.services.releasing import letters, making
from bildung.services.shared.errors import Conflict, NotFound
from bildung.store.models import FamilyLink, Person
from tests.services.releasing.test_making import ReleaseCase


def words(pdf: bytes) -> list[str]:
    """The text of each page."""
    document = open_document(pdf)
    return [document[at].get_textpage().get_text_bounded() for at in range(len(document))]


class Letters(ReleaseCase):
    def adult(self, at: list[int], name: str, results: bool = True) -> None:
        """Somebody without an account, of some students."""

        def work(db: Any) -> None:
            person = Person(source_id=f"local:{name}", given=name, family="Z", kind="family")
            db.add(person)
            db.flush()
            db.add_all(FamilyLink(family_id=person.id, student_id=self.person(n), results=results) for n in at)

        self.ctx.store.write(work)

    def letters(self) -> list[str]:
        return words(letters.letters(self.ctx, self.boss, self.form, self.window_id))

    def test_a_page_a_household_without_who_has_an_account_or_is_barred(self) -> None:
        with self.assertRaisesRegex(Conflict, "released to families yet"):
            self.letters()
        self.release("family", shows=("points", "standards"))
        self.adult([0, 1], "Ada")
        self.adult([2], "Bo", results=False)
        self.family(3, "kin")
        making.hold_back(self.ctx, self.boss, self.sittings()[4], "Later.")
        found = self.letters()
        self.assertEqual(len(found), 4)  # two siblings together, three students of whom no adult is known
        with self.ctx.store.read() as db:
            names = [db.get_one(Person, self.person(n)).name for n in range(8)]
        together = next(page for page in found if names[0] in page)
        self.assertIn(names[1], together)
        self.assertIn("Your child got 3 of 5 points.", together)
        for n in (2, 3, 4):
            self.assertFalse(any(names[n] in page for page in found), n)

    def test_only_what_is_there(self) -> None:
        with self.assertRaises(NotFound):
            letters.letters(self.ctx, self.boss, 10**6, self.window_id)


class Printed(ReleaseCase):
    def test_one_students_test_and_a_classs_with_and_without_right_answers(self) -> None:
        sitting = self.sittings()[0]
        (one,) = words(print_tests(self.ctx, self.boss, sitting, False, True, False))
        with self.ctx.store.read() as db:
            name = db.get_one(Person, self.person(0)).name
        self.assertIn(name, one)
        self.assertIn("Right answer", one)
        self.assertIn("0 of 2", one)
        whole = words(print_tests(self.ctx, self.boss, sitting, True, False, True))
        self.assertEqual(len(whole), 8)
        self.assertFalse(any(name in page or "Right answer" in page for page in whole))


if __name__ == "__main__":
    unittest.main()
