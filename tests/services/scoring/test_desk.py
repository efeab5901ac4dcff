"""Responses scored one after the other, never two people on one, and every total that follows."""

from __future__ import annotations

import unittest
from datetime import date, timedelta
from typing import Any

import numpy as np
from sqlalchemy import select, true
from sqlalchemy.orm import Session

from bildung.core.scoring.conditions import DEFAULTS
from bildung.services.quality import studenttest
from bildung.services.quality.judged import judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.scoring import desk, phrases, waiting
from bildung.services.scoring.items import hand_item
from bildung.services.scoring.standing import standings
from bildung.services.scoring.waiting import TaskWish
from bildung.services.sessions import running
from bildung.services.shared.access import Action, scope
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.settings import change_settings
from bildung.services.sitting import reviewing
from bildung.store.models import FormItem, Mark, PlannedSession, Scoring, ScoringTask, Sitting
from tests.services.scoring.support import STUDENTS, ScoringCase

WROTE = STUDENTS - 1


class Queue(ScoringCase):
    def test_what_waits_is_counted_with_what_it_holds_up(self) -> None:
        page = waiting.waiting_page(self.ctx, self.boss)
        self.assertEqual(
            page.finding,
            f"{2 * WROTE} responses to 2 items wait for a score. {WROTE} attempts have no total until then.",
        )
        self.assertEqual(
            {(i.number, i.responses, i.waiting, i.totals) for i in page.items}, {(1, 5, 5, 5), (2, 5, 5, 5)}
        )
        self.assertEqual(waiting.waiting_page(self.ctx, self.teacher).finding, page.finding)
        for actor in (self.teach, self.staff("elsewhere")):
            self.assertEqual(waiting.waiting_page(self.ctx, actor).items, [])
        with self.assertRaises(NotAllowed):
            waiting.waiting_page(self.ctx, self.wren)

    def test_one_after_the_other_until_none_is_left(self) -> None:
        found = self.open(self.teacher)
        self.assertEqual((found.maximum, len(found.criteria), found.progress.mine), (3.0, 2, WROTE))
        seen, response = [], found.response
        while response is not None:
            seen.append(response.sitting)
            response = self.give(self.teacher, response.sitting, 1.0, 1.0).response
        self.assertEqual(len(set(seen)), WROTE)
        again = self.open(self.teacher)
        self.assertEqual((again.finding, again.response), (f"All {WROTE} responses are scored.", None))
        self.assertEqual(again.progress.today, WROTE)

    def test_the_order_tells_nothing_and_is_the_same_each_time(self) -> None:
        first = self.open(self.teacher).response
        second = self.open(self.teacher).response
        assert first is not None and second is not None
        self.assertEqual(first.sitting, second.sitting)

    def test_never_two_people_on_one_and_what_lay_open_goes_back_after_ten_minutes(self) -> None:
        mine, theirs = self.open(self.teacher).response, self.open(self.boss).response
        assert mine is not None and theirs is not None
        self.assertNotEqual(mine.sitting, theirs.sitting)
        with self.assertRaisesRegex(Conflict, "someone else is scoring"):
            self.give(self.boss, mine.sitting, 1.0, 1.0)
        self.clock.pass_by(minutes=11)
        self.give(self.boss, mine.sitting, 1.0, 1.0)
        with self.assertRaisesRegex(Conflict, "someone else has scored"):
            self.give(self.teacher, mine.sitting, 1.0, 2.0)

    def test_whoever_is_quicker_has_it_and_the_other_is_given_the_next(self) -> None:
        """Both have looked at the queue before either took anything up."""
        with self.ctx.store.read() as db:
            item = hand_item(db, self.places["writing"])
            rows = standings(db, item, self.window_id, true(), self.clock.now)
        self.assertTrue(desk._hold(self.ctx, self.teacher, item, rows[0]))
        self.assertFalse(desk._hold(self.ctx, self.boss, item, rows[0]))
        self.assertTrue(desk._hold(self.ctx, self.boss, item, rows[1]))
        self.give(self.teacher, rows[0].sitting, 1.0, 1.0)
        self.clock.pass_by(minutes=11)
        self.assertFalse(desk._hold(self.ctx, self.boss, item, rows[0]), "it was scored since it was looked at")

    def test_what_somebody_else_has_open_is_shown_and_not_given(self) -> None:
        mine = self.open(self.teacher).response
        assert mine is not None
        seen = self.open(self.boss, sitting=mine.sitting)
        assert seen.response is not None
        self.assertEqual((seen.response.sitting, seen.progress.held), (mine.sitting, 1))
        self.assertEqual(self.open(self.teacher, sitting=mine.sitting).progress.held, 0, "it is the teacher's still")

    def test_a_connection_that_drops_loses_no_score(self) -> None:
        """The device sends the same score again, as it heard nothing of the first."""
        response = self.open(self.teacher).response
        assert response is not None
        for _ in range(2):
            self.give(self.teacher, response.sitting, 1.0, 2.0, comment="Good.")
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(Mark.points)).all(), [3.0])

    def test_a_comment_that_is_too_long_keeps_nothing(self) -> None:
        response = self.open(self.teacher).response
        assert response is not None
        with self.assertRaisesRegex(Invalid, "at most 1000 characters"):
            self.give(self.teacher, response.sitting, 1.0, 1.0, comment="x" * 1001)
        self.assertEqual(self.open(self.teacher).progress.waiting, WROTE)

    def test_a_rubric_with_a_gap_is_named_with_its_item(self) -> None:
        """The best levels are worth less than the response: no points could ever be all of them."""

        def work(db: Any) -> None:
            version = db.get_one(FormItem, self.places["writing"]).item_version_id
            scoring = db.scalars(select(Scoring).where(Scoring.item_version_id == version)).one()
            parts = [{**part, "points": 5.0} for part in scoring.parts]
            db.add(Scoring(item_version_id=version, number=2, parts=parts, points=5.0, created_at=self.clock.now))

        self.ctx.store.write(work)
        with self.assertRaisesRegex(Conflict, f"{self.code_of('writing')}: the best levels of the rubric are worth 3"):
            self.open(self.teacher)

    def test_phrases_come_to_an_end(self) -> None:
        for n in range(phrases.MOST):
            phrases.keep_phrase(self.ctx, self.teacher, f"Phrase {n}.")
        with self.assertRaisesRegex(Conflict, "at most 30 phrases"):
            phrases.keep_phrase(self.ctx, self.teacher, "One more.")
        for text in ("", "   ", "x" * 1001):
            with self.assertRaises(Invalid):
                phrases.keep_phrase(self.ctx, self.teacher, text)

    def test_a_response_is_skipped_and_comes_back_at_the_end(self) -> None:
        first = self.open(self.teacher).response
        assert first is not None
        after = desk.skip(self.ctx, self.teacher, self.places["writing"], self.window_id, first.sitting).response
        assert after is not None
        self.assertNotEqual(after.sitting, first.sitting)
        last = None
        while after is not None:
            last, after = after.sitting, self.give(self.teacher, after.sitting, 0.0, 0.0).response
        self.assertEqual(last, first.sitting)

    def test_points_that_the_rubric_has_not_are_refused_and_nothing_is_kept(self) -> None:
        response = self.open(self.teacher).response
        assert response is not None
        for criteria, why in (
            ((4.0, 1.0), "no level of criterion 1"),
            ((1.0,), "2 criteria"),
            ((float("nan"), 1.0), "no level"),
        ):
            with self.assertRaisesRegex(Invalid, why):
                self.give(self.teacher, response.sitting, *criteria)
        with self.assertRaisesRegex(Invalid, "condition code is one of"):
            self.give(self.teacher, response.sitting, code="bored")
        with self.assertRaisesRegex(Invalid, "points by the rubric, or"):
            self.give(self.teacher, response.sitting, 1.0, 1.0, code="blank")
        self.assertEqual(self.open(self.teacher).progress.waiting, WROTE)

    def test_ones_own_score_is_changed_and_withdrawn(self) -> None:
        response = self.open(self.teacher).response
        assert response is not None
        self.give(self.teacher, response.sitting, 1.0, 0.0, comment="Say why.")
        self.give(self.teacher, response.sitting, 1.0, 2.0, comment="Good.")
        again = self.open(self.teacher, sitting=response.sitting).response
        assert again is not None and again.mine is not None
        self.assertEqual((again.mine.points, again.mine.criteria, again.comment), (3.0, [1.0, 2.0], "Good."))
        back = desk.take_back(self.ctx, self.teacher, self.places["writing"], self.window_id, response.sitting)
        self.assertEqual(back.progress.waiting, WROTE)

    def test_an_attempt_that_is_reopened_is_scored_anew(self) -> None:
        sitting = self.sittings()[0]
        self.give(self.boss, sitting, 1.0, 1.0)
        running.reopen(self.ctx, self.boss, self.session, sitting, "submitted by mistake")
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(Mark.id).where(Mark.sitting_id == sitting)).all(), [])
        self.assertEqual(self.open(self.boss).progress.responses, WROTE - 1)

    def test_who_may_not_score_it_is_told_nothing(self) -> None:
        for actor in (self.teach, self.staff("elsewhere")):
            with self.assertRaises(NotFound):
                self.open(actor)
        with self.assertRaises(NotFound):
            desk.desk(self.ctx, self.boss, self.places["choice"], self.window_id)

    def test_phrases_are_ones_own(self) -> None:
        kept = phrases.keep_phrase(self.ctx, self.teacher, " Show the root. ")
        self.assertEqual(
            [p.text for p in phrases.keep_phrase(self.ctx, self.teacher, "Show the root.")], ["Show the root."]
        )
        self.assertEqual(self.open(self.boss).phrases, [])
        self.assertEqual(phrases.drop_phrase(self.ctx, self.boss, kept[0].id), [])
        self.assertEqual(len(self.open(self.teacher).phrases), 1)


class Tasks(ScoringCase):
    def plan(self, *scorers: int, share: float = 0.0, apart: float | None = None, due: date | None = None) -> None:
        tasks = [TaskWish(scorer=id, due=due) for id in scorers]
        waiting.plan_scoring(self.ctx, self.boss, self.places["writing"], self.window_id, tasks, share, apart)

    def test_whoever_is_given_an_item_scores_it_and_nothing_else(self) -> None:
        helper = self.staff("helper", "specialist")
        with self.assertRaises(NotFound):
            self.open(helper)
        self.plan(helper.person_id, due=self.clock.now.date() - timedelta(days=1))
        self.assertIsNotNone(self.open(helper).response)
        with self.assertRaises(NotFound):
            self.open(helper, "several")
        self.assertEqual([i.number for i in waiting.waiting_page(self.ctx, helper).items], [1])
        scorer = waiting.waiting_page(self.ctx, self.boss).items[0].scorers[0]
        self.assertEqual((scorer.name, scorer.given, scorer.late), ("helper Y", True, True))
        with self.assertRaises(NotAllowed):
            scope(helper, Action.SCORES_PLAN)
        self.plan()
        with self.assertRaises(NotFound):
            self.open(helper)

    def test_a_scorer_is_given_the_responses_of_some_classes(self) -> None:
        helper = self.staff("helper", "specialist")
        other = self.class_id("Reading")

        def give(*classes: int) -> None:
            tasks = [TaskWish(scorer=helper.person_id, classes=classes)]
            waiting.plan_scoring(self.ctx, self.boss, self.places["writing"], self.window_id, tasks, 0.0, None)

        give(self.class_id())
        self.assertIsNotNone(self.open(helper).response)
        line = waiting.waiting_page(self.ctx, self.boss).items[0]
        self.assertEqual((line.scorers[0].classes, [id for id, _ in line.to_give]), ([self.class_id()],) * 2)
        with self.ctx.store.read() as db:
            self.assertEqual(
                len(db.scalars(select(PlannedSession.id).where(scope(helper, Action.SCORES_GIVE))).all()), 1
            )
        with self.assertRaisesRegex(Invalid, "classes that took this item"):
            give(other)

        def elsewhere(db: Session) -> None:
            db.scalars(select(ScoringTask)).one().classes = [other]

        self.ctx.store.write(elsewhere)
        with self.assertRaises(NotFound):
            self.open(helper)
        self.assertEqual(waiting.waiting_page(self.ctx, helper).items, [])

    def test_what_cannot_be_planned_is_refused(self) -> None:
        for more, why in (
            ({"share": 1.2}, "from 0 to 100%"),
            ({"apart": -1.0}, "from 0 to 100 points"),
        ):
            with self.assertRaisesRegex(Invalid, why):
                self.plan(**more)  # type: ignore[arg-type]
        with self.assertRaisesRegex(Invalid, "staff of the district"):
            self.plan(10**6)
        with self.assertRaisesRegex(Invalid, "once"):
            self.plan(self.boss_id, self.boss_id)

    def test_scored_twice_blind_and_settled_where_they_are_apart(self) -> None:
        self.plan(self.teacher.person_id, self.boss_id, share=1.0, apart=1.0)
        first = self.open(self.teacher).response
        assert first is not None
        after = self.give(self.teacher, first.sitting, 1.0, 2.0)
        self.assertEqual((after.progress.second, after.progress.scored), (1, 0))
        seen = self.open(self.boss, sitting=first.sitting).response
        assert seen is not None
        self.assertEqual((seen.waits, seen.given, seen.mine), ("second", [], None), "blind to the first score")
        self.give(self.boss, first.sitting, 0.0, 0.0)
        self.assertEqual(self.open(self.boss).progress.adjudication, 1)
        third = self.staff("third", "coordinator")
        apart = self.open(third, sitting=first.sitting).response
        assert apart is not None
        self.assertEqual((apart.waits, [g.points for g in apart.given]), ("adjudication", [3.0, 0.0]))
        with self.assertRaises(NotAllowed):
            self.give(self.teacher, first.sitting, 1.0, 1.0, final=True)
        settled = self.give(third, first.sitting, 1.0, 1.0, final=True)
        self.assertEqual((settled.progress.adjudication, settled.progress.scored), (0, 1))


class Totals(ScoringCase):
    def table(self, kind: str) -> tuple[list[float | None], float | None]:
        judged = judge(self.ctx, self.boss, ScopeRequest(forms=(self.form,)))
        at = [row.item.kind for row in judged.rows].index(kind)
        answers = judged.analysis.table.answers[at]
        values = [None if code < 4 else float(answers.points[code - 4]) for code in answers.codes.tolist()]
        return values, judged.analysis.items[at].figures.p

    def test_every_total_follows(self) -> None:
        self.assertEqual([v for v in self.table("writing")[0] if v is not None], [])
        for sitting in self.sittings()[:WROTE]:
            self.give(self.boss, sitting, 0.0, 2.0)
        values, p = self.table("writing")
        self.assertEqual(sorted(v for v in values if v is not None), [2.0] * WROTE)
        self.assertAlmostEqual(p or 0, WROTE * 2 / (3 * STUDENTS), msg="a blank response earns nothing")

    def test_what_rules_score_of_an_item_counts_beside_what_a_person_gives(self) -> None:
        for sitting in self.sittings()[:WROTE]:
            self.give(self.boss, sitting, 1.0, 0.0, kind="several")
        values, _ = self.table("several")
        self.assertEqual(sorted(v for v in values if v is not None), [2.0] + [3.0] * WROTE, "2 by the keys, 1 by hand")

    def test_condition_codes_are_worth_what_the_district_says(self) -> None:
        one, two, three = self.sittings()[:3]
        self.give(self.boss, one, code="off_topic")
        after = self.give(self.boss, two, code="not_legible")
        self.assertEqual((after.progress.scored, after.progress.second), (1, 1))
        self.give(self.teacher, two, code="not_legible")
        self.assertEqual(self.open(self.boss).progress.scored, 2, "a second scorer agrees")
        self.give(self.boss, three, code="other_language")
        change_settings(self.ctx, self.boss, {"condition_rules": {**DEFAULTS, "other_language": "missing"}})
        self.assertEqual(self.open(self.boss).progress.scored, 3)
        values, _ = self.table("writing")
        self.assertEqual(sorted(v for v in values if v is not None), [0.0, 0.0])
        with self.assertRaisesRegex(Invalid, "zero, missing, second"):
            change_settings(self.ctx, self.boss, {"condition_rules": {"blank": "zero"}})
        self.assertTrue(np.isfinite([v for v in values if v is not None]).all())


class Told(ScoringCase):
    def test_the_student_reads_points_and_comment_once_results_are_released(self) -> None:
        one, two, three = self.sittings()[:3]
        with self.ctx.store.read() as db:
            people = {id: db.get_one(Sitting, id).person_id for id in (one, two, three)}
        self.give(self.boss, one, 1.0, 1.0, comment="Name the second reason.")
        self.give(self.boss, one, 1.0, 2.0, kind="several")
        self.give(self.boss, three, code="other_language", comment="Write it in English as well.")
        change_settings(self.ctx, self.boss, {"condition_rules": {**DEFAULTS, "other_language": "missing"}})
        studenttest.say(self.ctx, self.teacher, one, self.places["choice"], "Well chosen.")
        running.release(self.ctx, self.boss, self.session)
        self.assertIsNone(self.seen(one).read_at)
        found = {t.number: t for t in reviewing.review(self.ctx, people[one], self.session).told}
        self.assertEqual((found[1].verdict, found[1].earned, found[1].points), ("partly", 2.0, 3.0))
        self.assertEqual(found[1].comments, ["Name the second reason."])
        self.assertEqual((found[2].verdict, found[2].earned, found[2].points), ("right", 5.0, 5.0))
        self.assertEqual(found[3].comments, ["Well chosen."], "also where rules scored it")
        self.assertEqual(self.seen(one).read_at, self.clock.now, "a sign that it was read")
        waits = reviewing.review(self.ctx, people[two], self.session)
        self.assertEqual((waits.told[0].verdict, waits.told[0].earned), ("waits", None))
        self.assertIn("2 answers are still being scored", waits.sentence)
        missing = reviewing.review(self.ctx, people[three], self.session).told[0]
        self.assertEqual(
            (missing.earned, missing.points, missing.comments), (0.0, 0.0, ["Write it in English as well."])
        )

    def seen(self, sitting: int) -> desk.ResponseView:
        found = self.open(self.boss, sitting=sitting).response
        assert found is not None
        return found


if __name__ == "__main__":
    unittest.main()
