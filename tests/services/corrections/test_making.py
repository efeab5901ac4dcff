"""Corrections: what is said before is what comes of it, every total follows, and undone all is as it was."""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any

import numpy as np
from sqlalchemy import select

from bildung.services.answers import itemhistory
from bildung.services.corrections import listing, making
from bildung.services.corrections.asked import CorrectionWish
from bildung.services.corrections.preview import CorrectionPreview, preview
from bildung.services.quality import studenttest
from bildung.services.quality.judged import judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.scoring import waiting
from bildung.services.sessions import running
from bildung.services.shared.access import Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.sitting import reviewing
from bildung.store.models import (
    FormItem,
    ItemFigure,
    ItemVersion,
    PlannedSession,
    Response,
    School,
    SchoolClass,
    Scoring,
    Sitting,
)
from tests.services.scoring.support import ScoringCase

CHOSEN = "CCCCAABB"  # the key is A or B; most chose C
NUMBERS = ("14.6", "14.65", "15", "14.9", "14.6", "", "14.6", "")
TEXTS = ("Skerrow", "skerrow", "Skerow", "the Skerrow", "Skerrow", "", "", "")


class CorrectionCase(ScoringCase):
    KINDS = ("choice", "numeric", "text", "gap")
    SIZE = 8

    def given(self, at: int) -> dict[str, str]:
        """The gap is answered rightly by all but the last two, who did not come to it."""
        gap = "2" if at < 6 else ""
        return {"choice": CHOSEN[at], "numeric": NUMBERS[at], "text": TEXTS[at], "gap": gap}

    def wish(self, kind: str, of: str = "choice", **more: Any) -> CorrectionWish:
        return CorrectionWish(kind=kind, place=self.places[of], window_id=self.window_id, **more)  # type: ignore[arg-type]

    def look(self, wish: CorrectionWish) -> CorrectionPreview:
        return preview(self.ctx, self.boss, wish)

    def make(self, wish: CorrectionWish, reason: str = "The key was wrong.") -> int:
        return making.correct(self.ctx, self.boss, wish, reason, self.look(wish).asof).id

    def totals(self) -> dict[int, float]:
        """By attempt, as every page has them."""
        judged = judge(self.ctx, self.boss, ScopeRequest(forms=(self.form,)))
        at = judged.together.sitting[judged.counted].tolist()
        return dict(zip(at, judged.analysis.scores.earned.tolist(), strict=True))

    def raw(self) -> bytes:
        judged = judge(self.ctx, self.boss, ScopeRequest(forms=(self.form,)))
        scores = judged.analysis.scores
        return scores.earned.tobytes() + scores.possible.tobytes() + scores.complete.tobytes()


class ByHand(CorrectionCase):
    def recomputed(self) -> dict[int, float]:
        """From raw answers and the newest keys, by nothing of the application's own."""
        with self.ctx.store.read() as db:
            rows = db.execute(
                select(Sitting.id, ItemVersion.id, ItemVersion.kind, Response.answer)
                .join(Response, Response.sitting_id == Sitting.id)
                .join(FormItem, FormItem.id == Response.form_item_id)
                .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
            ).all()
            keys = {
                s.item_version_id: s.parts[0] for s in db.scalars(select(Scoring).order_by(Scoring.number))
            }  # the last one stays
            ids = list(db.scalars(select(Sitting.id).where(Sitting.state == "handed_in")))
        found = dict.fromkeys(ids, 0.0)
        for sitting, version, kind, answer in rows:
            key, points = keys[version]["key"], keys[version]["points"]
            if kind == "numeric":
                number, _, within = key.partition("~")
                right = bool(answer) and abs(float(answer) - float(number)) <= float(within or 0) + 1e-12
            elif kind == "text":
                same = (lambda t: t) if keys[version]["spelling"] == "exact" else str.casefold
                right = same(answer) in [same(k) for k in key.split("|")]
            else:
                right = answer in key.split("|")
            found[sitting] += points if right else 0.0
        return found

    def test_totals_after_each_correction_are_those_of_another_script_and_undone_they_are_the_same_bytes(self) -> None:
        self.assertEqual(self.totals(), self.recomputed())
        for wish in (
            self.wish("key", key="C"),
            self.wish("key", key="A|B|C"),
            self.wish("key", "numeric", key="14.6~0.5"),
            self.wish("key", "numeric", key="15"),
            self.wish("key", "text", key="Skerrow|the Skerrow", spelling="plain"),
        ):
            with self.subTest(wish.key):
                before, raw = self.totals(), self.raw()
                said = self.look(wish).administrations[0]
                made = self.make(wish)
                after = self.totals()
                self.assertEqual(after, self.recomputed())
                self.assertNotEqual(after, before)
                self.assertEqual(said.up, sum(after[s] > before[s] for s in after))
                self.assertEqual(said.down, sum(after[s] < before[s] for s in after))
                self.assertAlmostEqual(said.most, max(abs(after[s] - before[s]) for s in after))
                self.assertAlmostEqual(said.mean[1] or 0.0, float(np.mean(list(after.values()))))
                making.undo(self.ctx, self.boss, made, "It was right after all.")
                self.assertEqual(self.raw(), raw)

    def test_corrections_follow_one_another_and_are_undone_from_the_last(self) -> None:
        first = self.make(self.wish("key", key="C"))
        second = self.make(self.wish("key", key="A|C"))
        with self.assertRaisesRegex(Conflict, "changed again since; undo that first"):
            making.undo(self.ctx, self.boss, first, "No.")
        making.undo(self.ctx, self.boss, second, "No.")
        with self.assertRaisesRegex(Conflict, "undone already"):
            making.undo(self.ctx, self.boss, second, "Again.")
        self.assertEqual(self.totals(), self.recomputed())


class Following(CorrectionCase):
    def test_a_dropped_item_is_in_no_total_and_keeps_its_history(self) -> None:
        itemhistory.refresh(self.ctx)
        made = self.make(self.wish("drop"), "Two right answers.")
        judged = judge(self.ctx, self.boss, ScopeRequest(forms=(self.form,)))
        self.assertEqual([row.number for row in judged.rows], [2, 3, 4])
        self.assertEqual(judged.analysis.distribution.points, 3.0)
        self.assertIn("Item 1 is dropped and in no total.", "".join(p.text for p in judged.finding))
        itemhistory.refresh(self.ctx)
        with self.ctx.store.read() as db:
            figures = db.scalars(select(ItemFigure).where(ItemFigure.form_id == self.form)).all()
        self.assertEqual(len(figures), 4)
        self.assertEqual(itemhistory.refresh(self.ctx), 0)
        with self.assertRaisesRegex(Conflict, "item 1 is dropped in this window; undo that first"):
            self.look(self.wish("key", key="C"))
        making.undo(self.ctx, self.boss, made, "It stays.")
        self.assertEqual(len(judge(self.ctx, self.boss, ScopeRequest(forms=(self.form,))).rows), 4)

    def test_everyone_gets_the_points_or_everyone_who_reached_the_item(self) -> None:
        before = self.totals()
        reached = self.wish("everybody", "gap", unreached=False)
        said = self.look(reached)
        self.assertIn("not those who did not reach it", said.what)
        all_of_them = self.wish("everybody", "gap", unreached=True)
        self.make(all_of_them)
        after = self.totals()
        self.assertEqual(sorted(after[s] - before[s] for s in after), [0.0] * 6 + [1.0] * 2)
        self.assertEqual(said.administrations[0].up, 0)  # neither of the two came to it

    def test_one_score_is_changed_and_changed_again(self) -> None:
        sitting = self.sittings()[0]
        before = self.totals()
        first = self.make(self.wish("score", sitting=sitting, points=1.0), "Seen on paper.")
        self.assertEqual(self.totals()[sitting], before[sitting] + 1.0)
        one = studenttest.student_test(self.ctx, self.boss, sitting)
        self.assertEqual((one.items[0].earned, one.earned), (1.0, before[sitting] + 1.0))
        second = self.make(self.wish("score", sitting=sitting, points=2.0))
        with self.assertRaisesRegex(Conflict, "changed again since"):
            making.undo(self.ctx, self.boss, first, "No.")
        making.undo(self.ctx, self.boss, second, "No.")
        self.assertEqual(self.totals()[sitting], before[sitting] + 1.0)
        making.undo(self.ctx, self.boss, first, "No.")
        self.assertEqual(self.totals(), before)

    def test_a_student_reads_what_was_decided(self) -> None:
        with self.ctx.store.read() as db:
            person = db.get_one(Sitting, self.sittings()[7]).person_id
        self.make(self.wish("drop"))
        self.make(self.wish("everybody", "gap"))
        running.release(self.ctx, self.boss, self.session)
        told = reviewing.review(self.ctx, person, self.session).told
        self.assertEqual((told[0].points, told[0].note), (0.0, "This question does not count."))
        self.assertEqual((told[3].earned, told[3].note[:8]), (1.0, "Everyone"))

    def test_what_would_move_says_who_was_told_and_which_classes(self) -> None:
        running.release(self.ctx, self.boss, self.session)
        found = self.look(self.wish("key", key="C"))
        self.assertIn("4 of 8 students would have more and 4 less", found.says)
        self.assertIn("8 of these have been told their results.", found.says)
        (moved,) = found.administrations
        self.assertEqual([(c.moved, c.of, c.released) for c in moved.classes], [(8, 8, True)])
        self.assertEqual(found.what, "item 1 is scored by C instead of A|B")


class Refused(CorrectionCase):
    def test_what_makes_no_sense_is_refused_in_words_and_changes_nothing(self) -> None:
        sitting, raw = self.sittings()[0], self.raw()
        for wish, says in (
            (self.wish("key", key="Z"), "'Z' is not one of the options"),
            (self.wish("key", key="A|B"), "item 1 is scored so already"),
            (self.wish("key", "numeric", key="much"), "is not a number"),
            (self.wish("key", key="C", part="9"), "has no part '9'; its parts are 1"),
            (self.wish("key", "text", key="Skerrow", spelling="loose"), "spelling is exact, plain or near"),
            (self.wish("score", sitting=sitting, points=2.5), "is from 0 to 2, not 2.5"),
            (self.wish("score", sitting=sitting), "say which response"),
            (self.wish("rescore"), "say whose scores"),
            (replace(self.wish("drop"), kind="forget"), "a correction is one of key, drop"),  # type: ignore[arg-type]
        ):
            with self.subTest(says), self.assertRaisesRegex(Invalid, says):
                self.look(wish)
        with self.assertRaisesRegex(Conflict, "there are no scores of item 1"):
            self.look(self.wish("rescore", scorer=self.boss.person_id))
        with self.assertRaises(NotFound):
            self.look(replace(self.wish("drop"), place=10**6))
        with self.assertRaisesRegex(Invalid, "reason"):
            self.make(self.wish("drop"), "  ")
        self.assertEqual((self.raw(), listing.corrections_page(self.ctx, self.boss).corrections), (raw, []))

    def test_of_two_at_once_the_second_looks_again(self) -> None:
        seen = self.look(self.wish("key", "numeric", key="15")).asof
        self.make(self.wish("key", key="C"))
        with self.assertRaisesRegex(Conflict, "look again at what would move"):
            making.correct(self.ctx, self.boss, self.wish("key", "numeric", key="15"), "Why.", seen)

    def test_only_a_coordinator_of_all_schools_concerned(self) -> None:
        with self.assertRaises(NotAllowed):
            preview(self.ctx, self.teacher, self.wish("drop"))
        with self.assertRaises(NotAllowed):
            listing.corrections_page(self.ctx, self.wren)

    def test_a_coordinator_of_another_school_undoes_nothing_and_of_one_school_no_key_that_others_rest_on(self) -> None:
        made = self.make(self.wish("key", key="C"))
        raw = self.raw()
        with self.ctx.store.read() as db:
            here = db.get_one(SchoolClass, self.class_id()).school_id
        elsewhere = replace(self.boss, grants=(Grant("coordinator", here + 1),))
        with self.assertRaises(NotFound):
            making.undo(self.ctx, elsewhere, made, "No.")
        self.assertEqual(self.raw(), raw)

        def in_two_schools(db: Any) -> None:
            school = School(source_id="local:other", name="Other")
            db.add(school)
            db.flush()
            klass = SchoolClass(
                source_id="local:other-5", title="Other 5", subject="Mathematics", grade="5", school_id=school.id
            )
            db.add(klass)
            db.flush()
            now = db.get_one(PlannedSession, self.session)
            other = PlannedSession(
                form_id=now.form_id,
                window_id=now.window_id,
                class_id=klass.id,
                start=now.start,
                end=now.end,
                code="OTHER1",
            )
            other.closed_at = now.closed_at
            db.add(other)
            db.flush()
            person = db.get_one(Sitting, self.sittings()[0]).person_id
            db.add(Sitting(session_id=other.id, person_id=person, state="handed_in", started_at=now.start))

        self.ctx.store.write(in_two_schools)
        mine = replace(self.boss, grants=(Grant("coordinator", here),))
        with self.assertRaisesRegex(Conflict, "also scores sessions of other schools"):
            making.undo(self.ctx, mine, made, "No.")
        making.undo(self.ctx, self.boss, made, "It was right.")

    def test_the_list_says_what_holds_and_what_was_undone(self) -> None:
        made = self.make(self.wish("drop"), "Misprint.")
        self.make(self.wish("key", "numeric", key="15"))
        making.undo(self.ctx, self.boss, made, "Printed well after all.")
        page = listing.corrections_page(self.ctx, self.boss)
        self.assertEqual(page.finding, "1 correction holds, 1 was undone.")
        self.assertEqual([line.what for line in page.corrections][1], "item 1 is dropped")
        self.assertEqual(page.corrections[1].undone_why, "Printed well after all.")
        item = listing.correctable(self.ctx, self.boss, self.places["numeric"], self.window_id)
        self.assertEqual((item.parts[0].key, item.parts[0].numeric, len(item.made)), ("15", True, 1))


class Rescoring(ScoringCase):
    def test_scores_of_one_scorer_are_set_aside_and_the_responses_wait_again(self) -> None:
        for sitting in self.sittings()[:5]:
            self.give(self.teacher, sitting, 1.0, 1.0)
        wish = CorrectionWish(
            kind="rescore", place=self.places["writing"], window_id=self.window_id, scorer=self.teacher.person_id
        )
        found = preview(self.ctx, self.boss, wish)
        self.assertIn("5 scores of item 1 by", found.what)
        made = making.correct(self.ctx, self.boss, wish, "Severe by 0.8 points.", found.asof).id
        line = next(i for i in waiting.waiting_page(self.ctx, self.boss).items if i.number == 1)
        self.assertEqual((line.waiting, line.scored), (5, 0))
        self.assertEqual(self.open(self.boss).progress.mine, 5)
        making.undo(self.ctx, self.boss, made, "No.")
        line = next(i for i in waiting.waiting_page(self.ctx, self.boss).items if i.number == 1)
        self.assertEqual((line.waiting, line.scored), (0, 5))

    def test_what_was_scored_again_since_is_not_undone(self) -> None:
        sitting = self.sittings()[0]
        self.give(self.teacher, sitting, 1.0, 1.0)
        wish = CorrectionWish(
            kind="rescore", place=self.places["writing"], window_id=self.window_id, scorer=self.teacher.person_id
        )
        made = making.correct(self.ctx, self.boss, wish, "Severe.", preview(self.ctx, self.boss, wish).asof).id
        self.clock.pass_by(minutes=1)
        self.give(self.boss, sitting, 1.0, 2.0)
        with self.assertRaisesRegex(Conflict, "1 of these responses has been scored again since"):
            making.undo(self.ctx, self.boss, made, "No.")
        line = next(i for i in waiting.waiting_page(self.ctx, self.boss).items if i.number == 1)
        self.assertEqual((line.waiting, line.scored), (4, 1))


if __name__ == "__main__":
    unittest.main()
