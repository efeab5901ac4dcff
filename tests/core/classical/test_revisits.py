"""Items that students came back to, counted by hand."""

from __future__ import annotations

import unittest

from bildung.core.classical.revisits import came_back


class CameBack(unittest.TestCase):
    def test_a_visit_after_another_item_is_coming_back_and_a_page_left_is_not(self) -> None:
        self.assertEqual(came_back([[0, 1, 0, 2], [0, 0, 1], [2]], 3), [(2, 1), (2, 0), (2, 0)])

    def test_nothing_is_known_of_items_that_were_not_seen_and_places_beyond_are_no_items(self) -> None:
        self.assertEqual(came_back([[5, 1, 5]], 2), [(0, 0), (1, 0)])
        self.assertEqual(came_back([], 2), [(0, 0), (0, 0)])


if __name__ == "__main__":
    unittest.main()
