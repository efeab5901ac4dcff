"""Which answers say the same, by hand."""

from __future__ import annotations

import unittest

from bildung.core.scoring.alike import alike, grouped


class Alike(unittest.TestCase):
    def test_numbers_however_they_are_written(self) -> None:
        for same in ("1/2", "0.5", " .50 ", "0.5.", "+0.5"):
            self.assertEqual(alike(same), alike("0.5"), same)
        self.assertNotEqual(alike("0.5"), alike("0.51"))
        self.assertNotEqual(alike("-3"), alike("3"))

    def test_words_after_case_spaces_and_punctuation(self) -> None:
        for same in ("the Cat sat.", "The cat  sat", "THE CAT\nSAT!", "  the-cat sat"):
            self.assertEqual(alike(same), "the cat sat", same)
        self.assertNotEqual(alike("cat the sat"), alike("the cat sat"))
        self.assertEqual(alike("e\u0301t\u00e9"), alike("\u00e9t\u00e9"))
        self.assertEqual(alike("Stra\u00dfe"), alike("STRASSE"))
        self.assertEqual(alike(" ?! "), "")

    def test_what_reads_like_a_number_is_no_word(self) -> None:
        self.assertNotEqual(alike("3 apples"), alike("3"))
        self.assertNotEqual(alike("1 2"), alike("12"))

    def test_most_frequent_first(self) -> None:
        found = grouped([(1, "Yes."), (2, "no"), (3, "yes"), (4, "2/4"), (5, "YES"), (6, "0.5")])
        self.assertEqual([(says, whose) for says, whose in found], [("yes", [1, 3, 5]), ("= 1/2", [4, 6]), ("no", [2])])
        self.assertEqual(grouped([]), [])


if __name__ == "__main__":
    unittest.main()
