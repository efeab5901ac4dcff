"""Which written names can be one person's."""

import unittest

from bildung.core.school.names import alike


class Alike(unittest.TestCase):
    def test_one_person_written_twice(self) -> None:
        for one, other in (
            ("Mara Holt", "MARA HOLT"),
            ("Zoë Öhr", "Zoe Ohr"),
            ("Anna-Lena Vos", "Lena Vos"),
            ("Alex Tideswell", "Alexandra Tideswell"),
            ("Jonas Meyer", "Jonas Meier"),
            ("Mara Holt", "Holt Mara"),
            ("Siobhan O'Dell", "Siobhan ODell"),
            ("Straße Ann", "Strasse Ann"),
        ):
            self.assertTrue(alike(one, other) and alike(other, one), (one, other))

    def test_two_people(self) -> None:
        for one, other in (
            ("Mara Holt", "Mara Quill"),
            ("Mara Holt", "Jon Holt"),
            ("Mara", "Mara Holt"),
            ("", "Mara Holt"),
            ("Ann Lee", "Ann Lea"),
            ("12 34", "Mara Holt"),
        ):
            self.assertFalse(alike(one, other) or alike(other, one), (one, other))
