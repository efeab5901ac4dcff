"""Rules of a framework: seen before they are changed, changed once, judged by at once."""

from __future__ import annotations

import unittest

import numpy as np

from bildung.core.mastery.states import MASTERED
from bildung.services.mastery import rulespage
from bildung.services.mastery.rulespage import RulesWish
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.store.models import Framework
from tests.services.mastery.case import MasteryCase


def wish(**more: object) -> RulesWish:
    return RulesWish(**{"rules": {}, "counts": {}, "retakes": "adds", **more})  # type: ignore[arg-type]


class Rules(MasteryCase):
    def states(self) -> np.ndarray:
        return np.array([row.states for row in self.page().rows])

    def test_a_preview_says_exactly_what_the_change_does_and_changes_nothing(self) -> None:
        framework, before = self.framework_id(), self.states()
        asked = wish(rules={"points": 2.0, "thin": 1.0, "line": 0.6})
        told = rulespage.preview_rules(self.ctx, self.boss, framework, asked)
        np.testing.assert_array_equal(self.states(), before)
        rulespage.change_rules(self.ctx, self.boss, framework, asked, 0)
        after = self.states()
        names = self.page().states
        moves: dict[tuple[str, str], int] = {}
        for was, now in zip(before.ravel(), after.ravel(), strict=True):
            if was != now:
                moves[names[was], names[now]] = moves.get((names[was], names[now]), 0) + 1
        self.assertEqual({(m.before, m.after): m.n for m in told.moves}, moves)
        self.assertTrue(moves)
        gained = int(((before < MASTERED) & (after >= MASTERED)).sum())
        self.assertIn(f"{gained} would become mastered", told.finding)
        self.assertIn("60% or more", self.page().asks)
        page = rulespage.rules_page(self.ctx, self.boss, framework)
        self.assertEqual(page.revision, 1)
        self.assertIn("3 differ", page.finding)
        self.assertEqual(page.changed_by, self.boss.name)
        rulespage.change_rules(self.ctx, self.boss, framework, wish(), 1)
        np.testing.assert_array_equal(self.states(), before)

    def test_two_people_at_once(self) -> None:
        framework = self.framework_id()
        rulespage.change_rules(self.ctx, self.boss, framework, wish(retakes="better"), 0)
        with self.assertRaisesRegex(Conflict, "meanwhile"):
            rulespage.change_rules(self.ctx, self.boss, framework, wish(retakes="replaces"), 0)
        self.assertEqual(rulespage.rules_page(self.ctx, self.boss, framework).retakes, "better")

    def test_what_makes_no_sense_and_who_may(self) -> None:
        framework = self.framework_id()
        for asked, words in (
            (wish(rules={"line": 0.99}), "50% to 95%"),
            (wish(rules={"speed": 1.0}), "no rule 'speed'"),
            (wish(rules={"retained_days": 1.5}), "whole days"),
            (wish(rules={"leave": 0.9}), "lower probability"),
            (wish(rules={"thin": 20.0}), "at least as many points"),
            (wish(counts={"exam": "yes"}), "no kind of test"),
            (wish(counts={"unit": "maybe"}), "none of"),
            (wish(retakes="forget"), "adds, replaces, better"),
        ):
            with self.subTest(words):
                for work in (
                    lambda a=asked: rulespage.preview_rules(self.ctx, self.boss, framework, a),
                    lambda a=asked: rulespage.change_rules(self.ctx, self.boss, framework, a, 0),
                ):
                    with self.assertRaisesRegex(Invalid, words):
                        work()
        self.assertEqual(rulespage.rules_page(self.ctx, self.boss, framework).revision, 0)
        with self.assertRaises(NotFound):
            rulespage.rules_page(self.ctx, self.boss, 99)
        teacher = self.teacher_of(self.klass)
        self.assertFalse(rulespage.rules_page(self.ctx, teacher, None).may_change)
        local = Actor(person_id=1, name="N", grants=(Grant("coordinator", 1),), sign_in_id=0, csrf="")
        for other in (teacher, local):
            with self.assertRaises(NotAllowed):
                rulespage.change_rules(self.ctx, other, framework, wish(), 0)

    def test_another_framework_keeps_its_own(self) -> None:
        def other(db):  # type: ignore[no-untyped-def]
            row = Framework(identifier="g", title="Another")
            db.add(row)
            db.flush()
            return row.id

        before = self.states()
        id = self.ctx.store.write(other)
        told = rulespage.preview_rules(self.ctx, self.boss, id, wish(rules={"line": 0.6}))
        self.assertIn("nothing would change", told.finding)
        rulespage.change_rules(self.ctx, self.boss, id, wish(rules={"line": 0.6}), 0)
        np.testing.assert_array_equal(self.states(), before)


if __name__ == "__main__":
    unittest.main()
