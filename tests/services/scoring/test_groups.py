"""Responses that say the same scored together, beside what others have open; scores set aside go to somebody else."""

from __future__ import annotations

import json
import unittest
from typing import Any

from bildung.services.corrections import making as correcting
from bildung.services.corrections.asked import CorrectionWish
from bildung.services.corrections.preview import preview
from bildung.services.quality.judged import judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.scoring import desk, groups
from bildung.services.scoring.desk import ScoreWish
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from tests.services.scoring.support import ScoringCase

SAID = ("Because it floats.", "because it floats", "BECAUSE IT FLOATS!", "It is light.", "it is light", "")


class Groups(ScoringCase):
    def given(self, at: int) -> dict[str, str]:
        several = {"1": "4", "2": "y>x", **({"3": SAID[at]} if SAID[at] else {})}
        return {"writing": SAID[at], "several": json.dumps(several), "choice": "B"}

    def page(self, kind: str = "writing", actor: Any = None) -> groups.GroupsPage:
        return groups.groups_page(self.ctx, actor or self.teacher, self.places[kind], self.window_id)

    def score(self, says: str, *criteria: float, kind: str = "writing", **more: Any) -> groups.GroupScored:
        wish = ScoreWish(criteria=criteria, **more)
        return groups.score_group(self.ctx, self.teacher, self.places[kind], self.window_id, says, wish)

    def test_a_group_is_scored_at_once_and_every_total_follows(self) -> None:
        page = self.page()
        self.assertEqual(page.finding, "5 of 5 responses fall into 2 groups that say the same; 5 of them wait for you.")
        self.assertEqual(
            [(g.says, g.n, g.ways, g.waiting) for g in page.groups],
            [("because it floats", 3, 3, 3), ("it is light", 2, 2, 2)],
        )
        self.assertEqual(self.score("because it floats", 1.0, 2.0).says, "3 responses scored.")
        self.assertEqual(self.score("it is light", 1.0, 0.0).n, 2)
        judged = judge(self.ctx, self.boss, ScopeRequest(forms=(self.form,)))
        at = judged.together.sitting[judged.counted].tolist()
        item = judged.analysis.table.answers[0]
        points = {sitting: float(item.code_points[code]) for sitting, code in zip(at, item.codes.tolist(), strict=True)}
        self.assertEqual([points[s] for s in self.sittings()], [3.0, 3.0, 3.0, 1.0, 1.0, 0.0])
        page = self.page()
        self.assertEqual([[(g.points, g.n) for g in one.given] for one in page.groups], [[(3.0, 3)], [(1.0, 2)]])
        self.assertIn("none of them waits for you", page.finding)

    def test_the_written_part_of_several_is_what_is_compared(self) -> None:
        self.assertEqual([g.n for g in self.page("several").groups], [3, 2])

    def test_what_somebody_else_has_open_is_left(self) -> None:
        sitting = self.page().groups[0].first
        desk.desk(self.ctx, self.boss, self.places["writing"], self.window_id, sitting)
        self.assertEqual(
            self.score("because it floats", 1.0, 2.0).says,
            "2 responses scored. 1 is open at someone else or yours no more.",
        )

    def test_what_makes_no_sense_is_refused(self) -> None:
        for wish, error, says in (
            ({"criteria": (9.0, 1.0)}, Invalid, "no level"),
            ({"criteria": (), "code": "boring"}, Invalid, "a condition code is one of"),
            ({"criteria": (1.0, 1.0), "final": True}, Invalid, "response by response"),
        ):
            with self.subTest(says), self.assertRaisesRegex(error, says):
                groups.score_group(
                    self.ctx,
                    self.teacher,
                    self.places["writing"],
                    self.window_id,
                    "it is light",
                    ScoreWish(**wish),  # type: ignore[arg-type]
                )
        with self.assertRaisesRegex(NotFound, "no such group"):
            self.score("something else", 1.0, 1.0)
        with self.assertRaises(NotAllowed):
            self.page(actor=self.wren)
        self.score("it is light", 1.0, 0.0)
        with self.assertRaisesRegex(Conflict, "none of this group waits"):
            self.score("it is light", 1.0, 0.0)

    def test_scores_set_aside_are_given_again_by_somebody_else(self) -> None:
        self.score("because it floats", 1.0, 0.0)
        wish = CorrectionWish(
            kind="rescore", place=self.places["writing"], window_id=self.window_id, scorer=self.teacher.person_id
        )
        asof = preview(self.ctx, self.boss, wish).asof
        correcting.correct(self.ctx, self.boss, wish, "Severe.", asof)
        sitting = self.page().groups[0].first
        with self.assertRaisesRegex(Conflict, "set aside; someone else scores it again"):
            self.give(self.teacher, sitting, 1.0, 2.0)
        self.assertEqual(self.open(self.teacher).progress.mine, 2)
        self.give(self.boss, sitting, 1.0, 2.0)
        self.assertEqual(self.open(self.boss).progress.scored, 1)


if __name__ == "__main__":
    unittest.main()
