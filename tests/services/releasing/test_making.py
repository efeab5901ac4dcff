"""Who sees which results from when; what was told stays so until it is told anew; who is held back or barred sees nothing."""

from __future__ import annotations

import unittest
from datetime import datetime, time, timedelta
from typing import Any
from unittest.mock import patch
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.corrections import making as correcting
from bildung.services.corrections.asked import CorrectionWish
from bildung.services.corrections.preview import preview as tried
from bildung.services.own import ownpage
from bildung.services.people import kin
from bildung.services.quality.judged import judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.releasing import making, standing
from bildung.services.releasing.making import ReleaseWish
from bildung.services.shared.access import Own
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.sitting import reviewing
from bildung.services.sitting.telling import results_of
from bildung.store.models import CutSet, Measure, Person, PlannedSession, SchoolClass, Sitting
from tests.services.corrections.test_making import CorrectionCase
from tests.services.scoring.support import ScoringCase

ALL = ("points", "answers", "right", "solutions", "comments")


class ReleaseCase(CorrectionCase):
    def release(self, *audiences: str, shows: tuple[str, ...] = ALL, **more: Any) -> str:
        wish = ReleaseWish(sessions=(self.session,), audiences=audiences or ("student",), shows=shows, **more)
        return making.release_results(self.ctx, self.boss, wish).says

    def person(self, at: int) -> int:
        with self.ctx.store.read() as db:
            return db.get_one(Sitting, self.sittings()[at]).person_id

    def see(self, at: int = 0) -> reviewing.Review:
        return reviewing.review(self.ctx, self.person(at), self.session)

    def family(self, at: int, name: str = "kin") -> Own:
        """A family of one student."""
        kin.add_family(self.ctx, self.boss, self.person(at), name.title(), "Z", name, "parent")
        with self.ctx.store.read() as db:
            id = next(p.id for p in db.query(Person).filter_by(username=name))
        return Own(person_id=id, name=name, sign_in_id=0, csrf="")

    def child(self, own: Own, at: int) -> reviewing.Review:
        return reviewing.review_child(self.ctx, own.person_id, self.person(at), self.session)

    def page(self) -> standing.ReleasePage:
        return standing.release_page(self.ctx, self.boss, self.form, self.window_id)


class Releasing(ReleaseCase):
    def test_the_points_are_those_of_every_page(self) -> None:
        judged = judge(self.ctx, self.boss, ScopeRequest(forms=(self.form,)))
        totals = dict(
            zip(judged.together.sitting[judged.counted].tolist(), judged.analysis.scores.earned.tolist(), strict=True)
        )
        with self.ctx.store.read() as db:
            results = results_of(db, db.get_one(PlannedSession, self.session))
        self.assertEqual({r.sitting: r.earned for r in results}, totals)

    def test_only_what_was_chosen_is_shown(self) -> None:
        with self.assertRaisesRegex(Conflict, "not shown yet"):
            self.see()
        self.assertEqual(self.release(shows=("points",)), "8 results of 1 class went out to students.")
        found = self.see()
        self.assertEqual(
            (found.sentence, found.told, found.questions, found.standards), ("You got 3 of 5 points.", [], [], [])
        )
        self.release(shows=("points", "answers"))
        self.assertEqual({(t.right, t.solution) for t in self.see().told}, {("", "")})
        self.release(shows=("answers", "right", "standards"))
        found = self.see()
        self.assertTrue(found.told[1].right)
        self.assertEqual(found.sentence, "You answered 4 of 4 questions.")
        self.assertEqual(sum(s.points for s in found.standards), 5.0)

    def test_from_a_day_on_and_withdrawn(self) -> None:
        later = self.clock.now.date() + timedelta(days=2)
        self.assertEqual(self.release(day=later), "8 results of 1 class will go out to students.")
        with self.assertRaises(Conflict):
            self.see()
        self.assertTrue(self.page().sessions[0].releases[0].ahead)
        morning = datetime.combine(later, time(7), ZoneInfo("Europe/Berlin"))
        self.clock.pass_by(seconds=(morning - self.clock.now).total_seconds() - 1)
        with self.assertRaises(Conflict):
            self.see()
        self.clock.pass_by(seconds=1)
        self.assertTrue(self.see().told)
        making.withdraw(self.ctx, self.boss, [self.session], "student")
        with self.assertRaises(Conflict):
            self.see()
        self.assertEqual(self.page().sessions[0].releases, [])

    def test_a_correction_changes_what_was_told_only_when_it_is_released_again(self) -> None:
        self.release()
        before = self.see(0)
        wish = CorrectionWish(kind="key", place=self.places["choice"], window_id=self.window_id, key="C")
        asof = tried(self.ctx, self.boss, wish).asof
        correcting.correct(self.ctx, self.boss, wish, "Wrong key.", asof)
        self.assertEqual(
            [(t.earned, t.verdict, t.right) for t in self.see(0).told],
            [(t.earned, t.verdict, t.right) for t in before.told],
        )
        self.assertEqual(self.page().sessions[0].differs, 8)
        self.assertIn("8 results differ from what students were told", self.page().finding)
        self.assertIn("8 results are others than were told before, and say so.", self.release())
        after = self.see(0)
        self.assertEqual((before.told[0].earned, after.told[0].earned), (0.0, 2.0))
        self.assertEqual((before.corrected_at, after.corrected_at), (None, self.clock.now))
        self.assertEqual(self.page().sessions[0].differs, 0)

    def test_levels_are_told_as_they_were_and_a_correction_says_who_crosses_one(self) -> None:
        kind = patch("bildung.services.forms.levels.BENCHMARK", "")  # the form of these tests is of no kind
        kind.start()
        self.addCleanup(kind.stop)

        def levels(*cuts: float) -> None:
            def put(db: Session) -> None:
                measure = db.scalars(select(Measure)).first()
                if measure is None:
                    measure = Measure(
                        name="Own", subject="Mathematics", low=0, high=100, own=True, made_at=self.clock.now
                    )
                    db.add(measure)
                    db.flush()
                number = len(db.scalars(select(CutSet)).all()) + 1
                row = {"grade": "5", "season": "", "cuts": list(cuts)}
                db.add(
                    CutSet(
                        measure_id=measure.id,
                        number=number,
                        names=["Low", "Fair", "Good"],
                        rows=[row],
                        goal=3,
                        source="board",
                        added_at=self.clock.now,
                        added_by_id=self.boss_id,
                    )
                )

            self.ctx.store.write(put)

        self.assertEqual(
            making.preview(self.ctx, self.boss, self.sittings()[0], "student", ("levels",)).sentence,
            "You answered 4 of 4 questions.",
        )
        levels(50, 90)
        self.release("student", "family", shows=("points", "levels"))
        self.assertEqual(self.see().sentence, "You got 3 of 5 points. Your level is Fair.")
        kin = self.family(0)
        self.assertEqual(self.child(kin, 0).sentence, "Your child got 3 of 5 points. Their level is Fair.")
        wish = CorrectionWish(kind="key", place=self.places["choice"], window_id=self.window_id, key="C")
        seen = tried(self.ctx, self.boss, wish)
        (moved,) = seen.administrations
        self.assertEqual((moved.line, moved.level_up, moved.level_down), (0.9, 4, 3))
        self.assertIn("4 would reach a higher level and 3 would fall to a lower one", seen.says)
        levels(10, 20)
        self.assertEqual(self.see().sentence, "You got 3 of 5 points. Your level is Fair.", "as it was told")
        self.assertEqual(self.page().sessions[0].differs, 7)
        self.release("student", shows=("points", "levels"))
        self.assertEqual(self.see().sentence, "You got 3 of 5 points. Your level is Good.")

    def test_one_student_is_held_back(self) -> None:
        sitting = self.sittings()[0]
        making.hold_back(self.ctx, self.boss, sitting, "An irregularity is being looked into.")
        self.release("student", "family")
        own = self.family(0)
        with self.assertRaises(Conflict):
            self.see(0)
        with self.assertRaises(Conflict):
            self.child(own, 0)
        self.assertTrue(self.see(1).told)
        self.assertEqual([h.why for h in self.page().held], ["An irregularity is being looked into."])
        making.hold_back(self.ctx, self.boss, sitting, None)
        self.assertTrue(self.see(0).told)
        with self.assertRaisesRegex(Conflict, "not held back"):
            making.hold_back(self.ctx, self.boss, sitting, None)


class Families(ReleaseCase):
    def test_each_family_sees_their_own_child_and_only_when_it_may(self) -> None:
        own, other = self.family(0), self.family(1, "other")
        self.release("family", shows=("points", "standards"))
        self.assertEqual(self.child(own, 0).sentence, "Your child got 3 of 5 points.")
        with self.assertRaises(NotFound):
            self.child(own, 1)
        with self.assertRaises(Conflict):  # released to families, not to students
            self.see(0)
        page = ownpage.own_page(self.ctx, own, True)
        self.assertTrue(page.children[0].occasions[0].review)
        kin.let_see_results(self.ctx, self.boss, self.person(0), own.person_id, False)
        with self.assertRaises(NotFound):
            self.child(own, 0)
        self.assertFalse(ownpage.own_page(self.ctx, own, True).children[0].occasions[0].review)
        self.assertTrue(self.child(other, 1).sentence)
        with self.assertRaises(NotFound):
            kin.let_see_results(self.ctx, self.boss, self.person(2), own.person_id, True)

    def test_staff_look_as_the_family_would_before_anything_is_released(self) -> None:
        found = making.preview(self.ctx, self.boss, self.sittings()[0], "family", ("points", "answers"))
        self.assertEqual((found.sentence, len(found.told)), ("Your child got 3 of 5 points.", 4))
        self.assertEqual({t.right for t in found.told}, {""})


class Refused(ReleaseCase):
    def test_what_makes_no_sense_is_said_and_nothing_goes_out(self) -> None:
        for wish, says in (
            (ReleaseWish(sessions=(), audiences=("student",), shows=ALL), "at least one class"),
            (ReleaseWish(sessions=(self.session,), audiences=("press",), shows=ALL), "student, family or both"),
            (ReleaseWish(sessions=(self.session,), audiences=("student",), shows=("names",)), "any of points"),
            (
                ReleaseWish(sessions=(self.session,), audiences=("student",), shows=("points", "right")),
                "beside the student",
            ),
            (
                ReleaseWish(sessions=(self.session,), audiences=("student",), shows=ALL, day=self.clock.now.date()),
                "the day lies ahead",
            ),
        ):
            with self.subTest(says), self.assertRaisesRegex(Invalid, says):
                making.release_results(self.ctx, self.boss, wish)
        with self.assertRaises(NotFound):
            making.release_results(
                self.ctx, self.boss, ReleaseWish(sessions=(10**6,), audiences=("student",), shows=ALL)
            )
        with self.assertRaises(NotAllowed):
            making.release_results(
                self.ctx, self.wren, ReleaseWish(sessions=(self.session,), audiences=("student",), shows=ALL)
            )
        self.assertEqual(self.page().sessions[0].told, 0)

    def test_answers_wait_for_those_who_still_take_the_test_and_points_do_not(self) -> None:
        from bildung.services.sessions import scheduling

        start = self.clock.now + timedelta(days=1)
        with self.ctx.store.read() as db:
            other = next(id for id in db.scalars(select(SchoolClass.id)) if id != self.class_id())
        scheduling.schedule(
            self.ctx,
            self.boss,
            self.form,
            self.window_id,
            [other],
            "",
            None,
            start,
            start + timedelta(hours=1),
        )
        with self.assertRaisesRegex(Conflict, "release points without right answers"):
            self.release()
        self.assertIn("went out", self.release(shows=("points",)))
        self.assertIn("went out", self.release(despite=True))
        self.assertEqual([m.kind for m in self.page().open if m.kind == "makeups"], ["makeups"])


class Waiting(ScoringCase):
    def test_attempts_that_wait_for_scores_are_named_and_left_out(self) -> None:
        wish = ReleaseWish(sessions=(self.session,), audiences=("student",), shows=ALL)
        says = making.release_results(self.ctx, self.boss, wish).says
        self.assertIn("1 result of 1 class went out to students. 5 attempts wait for scores and did not.", says)
        page = standing.release_page(self.ctx, self.boss, self.form, self.window_id)
        self.assertEqual((page.sessions[0].told, page.sessions[0].waiting), (1, 5))
        self.assertIn("5 attempts wait for scores", page.open[0].says)
        tests = standing.tests_page(self.ctx, self.boss)
        self.assertEqual([(t.form, t.submitted, t.students) for t in tests.tests], [("Writing", 6, 1)])


if __name__ == "__main__":
    unittest.main()
