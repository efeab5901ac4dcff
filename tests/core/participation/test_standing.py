"""Each test owed is in exactly one of five, whatever has happened."""

from __future__ import annotations

import itertools
import unittest
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bildung.core.participation.standing import Attempt, Owed, Reason, Standing, count, owed

DAY = datetime(2026, 11, 30, 9, tzinfo=UTC)
STATES = ("not_started", "answering", "handed_in", "absent", "exempt", "void", "interrupted", "canceled")


def attempt(state: str, day: int = 0, over: bool = False, session: int = 1) -> Attempt:
    return Attempt(state=state, start=DAY + timedelta(days=day), over=over, session=session)


class Standings(unittest.TestCase):
    def test_nothing_yet(self) -> None:
        self.assertEqual(owed([], False), Owed(standing=Standing.NOT_SCHEDULED))
        self.assertEqual(owed([], True).standing, Standing.EXEMPT)

    def test_a_submitted_test_stays_submitted(self) -> None:
        done = attempt("handed_in")
        for other in STATES:
            self.assertEqual(owed([attempt(other, 1, session=2), done], True).standing, Standing.SUBMITTED, other)
        again = attempt("handed_in", 3, session=2)
        self.assertEqual(owed([again, done], False).attempt, done, "the first one counts")

    def test_what_comes_goes_before_what_came_to_nothing(self) -> None:
        makeup = attempt("not_started", 2, session=2)
        self.assertEqual(owed([attempt("absent", over=True), makeup], False).attempt, makeup)
        self.assertEqual(owed([attempt("void"), makeup], True).standing, Standing.EXEMPT)

    def test_the_last_that_came_to_nothing_says_why(self) -> None:
        for state, reason in (
            ("absent", Reason.ABSENT),
            ("void", Reason.INVALIDATED),
            ("interrupted", Reason.INTERRUPTED),
            ("canceled", Reason.CANCELED),
        ):
            found = owed([attempt("absent"), attempt(state, 1, session=2)], False)
            self.assertEqual((found.standing, found.reason), (Standing.NOT_SCHEDULED, reason))
        gone = owed([attempt("not_started", over=True)], False)
        self.assertEqual((gone.standing, gone.reason), (Standing.NOT_SCHEDULED, Reason.ABSENT))


class Counting(unittest.TestCase):
    @given(
        st.lists(
            st.tuples(
                st.lists(
                    st.builds(
                        attempt,
                        st.sampled_from(STATES),
                        st.integers(0, 5),
                        st.booleans(),
                        st.integers(1, 9),
                    ),
                    max_size=4,
                ),
                st.booleans(),
            ),
            max_size=30,
        )
    )
    def test_the_five_add_up(self, students: list[tuple[list[Attempt], bool]]) -> None:
        every = [owed(attempts, exempt) for attempts, exempt in students]
        found = count(every)
        self.assertEqual(found.owed, len(students))
        self.assertEqual(sum(found.by_reason.values()), found.by_standing[Standing.NOT_SCHEDULED])
        self.assertEqual(found.rate is None, found.expected == 0)

    @given(st.lists(st.builds(attempt, st.sampled_from(STATES), st.integers(0, 5)), max_size=4), st.booleans())
    def test_the_order_in_which_they_are_read_does_not_matter(self, attempts: list[Attempt], exempt: bool) -> None:
        numbered = [Attempt(state=a.state, start=a.start, over=a.over, session=at) for at, a in enumerate(attempts, 1)]
        found = {owed(list(order), exempt) for order in itertools.permutations(numbered)}
        self.assertEqual(len(found), 1)
