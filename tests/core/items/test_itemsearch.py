"""The line that items are looked for with: what it means, and that it can be written out and read again."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from bildung.core.errors import Refused
from bildung.core.items.itemsearch import NUMBER_FIELDS, TEXT_FIELDS, Term, read_search, write_search


class Reading(unittest.TestCase):
    def test_words_fields_comparisons_and_what_is_left_out(self) -> None:
        self.assertEqual(
            read_search('boat "wet sand" grade:6,7 topic:"long times" p<40% -state:retired times>=2'),
            (
                Term(field="", sign=":", values=("boat",)),
                Term(field="", sign=":", values=("wet sand",)),
                Term(field="grade", sign=":", values=("6", "7")),
                Term(field="topic", sign=":", values=("long times",)),
                Term(field="p", sign="<", values=("40%",), number=0.4),
                Term(field="state", sign=":", values=("retired",), number=None, without=True),
                Term(field="times", sign=">=", values=("2",), number=2.0),
            ),
        )

    def test_shares_are_shares_however_they_are_written(self) -> None:
        self.assertEqual({read_search(text)[0].number for text in ("p<0.4", "p<40%", "p<40", "p<.4")}, {0.4})

    def test_slips_are_named_with_their_place(self) -> None:
        for text, said in (
            ("boat color:red", "position 6: color: is not known; known are calculator, code"),
            ("grade<6", "position 1: grade is a text; write grade:6"),
            ("p<many", "p is compared with one number"),
            ('"open', "position 1: a quotation mark is not closed"),
            ("x" * 401, "at most 400"),
            ("depth:1,2", "one number"),
        ):
            with self.assertRaises(Refused) as caught:
                read_search(text)
            self.assertIn(said, str(caught.exception))

    @given(
        st.lists(
            st.one_of(
                st.builds(
                    Term,
                    field=st.sampled_from(sorted(TEXT_FIELDS)),
                    sign=st.just(":"),
                    values=st.lists(
                        st.text("ab c-é", min_size=1, max_size=6).map(str.strip).filter(bool), min_size=1, max_size=3
                    ).map(tuple),
                    number=st.none(),
                    without=st.booleans(),
                ),
                st.builds(
                    lambda f, s, n, w: Term(field=f, sign=s, values=(str(n),), number=float(n), without=w),
                    st.sampled_from(sorted(set(NUMBER_FIELDS) - {"p"})),
                    st.sampled_from(("<", ">", ":", "<=", ">=")),
                    st.integers(0, 99),
                    st.booleans(),
                ),
            ),
            max_size=5,
        ).map(tuple)
    )
    def test_a_line_written_out_reads_the_same(self, terms: tuple[Term, ...]) -> None:
        self.assertEqual(read_search(write_search(terms)), terms)
