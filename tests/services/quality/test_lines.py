"""The line of each test: the same as judging it now, kept until something it rests on moves, and each for its own sessions."""

from __future__ import annotations

from typing import Any
from unittest.mock import patch

from sqlalchemy import select, true

from bildung.services.quality import lines
from bildung.services.quality.judged import judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared import jobs
from bildung.services.shared.access import Actor, Grant
from bildung.store.models import Form, KeptLine, PlannedSession, Scoring, Window
from tests.demo_case import DemoCase


class Lines(DemoCase):
    def again(self, actor: Actor | None = None) -> tuple[list[lines.TestLine], list[tuple[int, int]]]:
        """The list as it is told now, and which tests were judged anew for it."""
        seen: list[tuple[int, int]] = []
        real = lines._judged

        def watched(ctx: Any, who: Actor, place: tuple[int, int], latest: Any) -> lines.TestLine:
            seen.append(place)
            return real(ctx, who, place, latest)

        with patch.object(lines, "_judged", watched):
            return lines.list_sat(self.ctx, actor or self.boss), seen

    def first(self) -> lines.TestLine:
        return lines.list_sat(self.ctx, self.boss)[0]

    def test_a_kept_line_says_what_judging_says(self) -> None:
        found, anew = self.again()
        self.assertEqual(anew, [], "the demo comes with them")
        for line in found:
            judged = judge(self.ctx, self.boss, ScopeRequest(forms=(line.form_id,), windows=(line.window_id,)))
            figures = [item.figures.p for item in judged.analysis.items if item.figures.p is not None]
            self.assertEqual((line.alpha, line.profile), (judged.analysis.reliability.alpha, sorted(figures)))
            self.assertEqual((line.first, line.form), (judged.finding[:2], judged.scoped.forms[0].name))
            self.assertEqual(line.latest, max(o.start for o in judged.scoped.chosen))

    def test_what_moves_is_judged_again_and_nothing_else(self) -> None:
        line = self.first()
        place = line.form_id, line.window_id

        def new_answer(db: Any) -> None:
            session = db.scalars(
                select(PlannedSession).where(PlannedSession.form_id == place[0], PlannedSession.window_id == place[1])
            ).first()
            session.data_version += 1

        def new_key(db: Any) -> None:
            version = db.get_one(Form, place[0]).items[0].item_version_id
            old = db.scalars(select(Scoring).where(Scoring.item_version_id == version)).first()
            db.add(
                Scoring(
                    item_version_id=version,
                    number=old.number + 1,
                    parts=old.parts,
                    points=old.points,
                    created_at=old.created_at,
                )
            )

        for change, judged in ((new_answer, {place}), (new_key, None)):
            self.ctx.store.write(change)
            _, anew = self.again()
            same_form = {p for p in anew if p[0] == place[0]}
            self.assertEqual(set(anew), judged or same_form, change.__name__)
            self.assertIn(place, anew, change.__name__)
            self.assertEqual(self.again()[1], [], change.__name__)

    def test_a_window_that_is_renamed_is_told_by_its_new_name(self) -> None:
        line = self.first()
        self.ctx.store.write(lambda db: setattr(db.get_one(Window, line.window_id), "name", "Harvest"))
        found = lines.list_sat(self.ctx, self.boss, line.window_id)
        self.assertEqual({s.window for s in found}, {"Harvest"})

    def test_lines_are_shared_by_who_may_judge_the_same_sessions_and_by_nobody_else(self) -> None:
        own, anew = self.again(self.teacher_of("Mathematics 6.1"))
        self.assertEqual((anew, {s.grade for s in own}, {s.subject for s in own}), ([], {"6"}, {"Mathematics"}))
        reading, _ = self.again(self.teacher_of("Reading 8.1"))
        self.assertEqual([s.form for s in reading], ["Fall reading 8"])
        place = own[0].form_id, own[0].window_id
        with self.ctx.store.read() as db:
            one_class = PlannedSession.class_id == self.class_id("Mathematics 6.1")
            everybody, narrow = (
                lines._rests_on(db, allowed, {place: own[0].latest})[place] for allowed in (true(), one_class)
            )
        self.assertNotEqual(everybody[0], narrow[0])

    def test_what_is_left_of_former_sessions_does_not_pile_up(self) -> None:
        line = self.first()

        def kept() -> int:
            here = KeptLine.form_id == line.form_id, KeptLine.window_id == line.window_id
            with self.ctx.store.read() as db:
                return len(db.scalars(select(KeptLine).where(*here)).all())

        def former(db: Any) -> None:
            for old in range(lines.MOST_KEPT):
                db.merge(
                    KeptLine(form_id=line.form_id, window_id=line.window_id, sessions=f"former {old}", key="", line={})
                )
            db.scalars(
                select(PlannedSession).where(
                    PlannedSession.form_id == line.form_id, PlannedSession.window_id == line.window_id
                )
            ).first().data_version += 1

        self.ctx.store.write(former)
        self.assertGreaterEqual(kept(), lines.MOST_KEPT)
        lines.list_sat(self.ctx, self.boss)
        self.assertGreaterEqual(kept(), lines.MOST_KEPT)  # a question writes nothing
        lines.keep_asked(self.ctx)
        self.assertEqual(kept(), 1)

    def forget(self) -> None:
        self.ctx.store.write(lambda db: [db.delete(line) for line in db.scalars(select(KeptLine))] and None)
        self.ctx.forget()

    def test_what_is_judged_anew_tells_how_far_it_is_and_can_be_stopped(self) -> None:
        specialist = Actor(
            person_id=self.boss.person_id, name="S", grants=(Grant("coordinator", None),), sign_in_id=0, csrf=""
        )
        self.forget()
        job = jobs.begin(self.ctx, specialist, "list")
        told: list[tuple[str, int, int]] = []
        with patch.object(jobs.Job, "tell", lambda self, *said: told.append(said)):
            found = lines.list_sat(self.ctx, specialist, None, job)
        self.assertEqual(told[0][0], "judging tests")
        self.assertEqual([at for _, at, _ in told], list(range(len(found))))
        self.forget()
        job.stop()
        with self.assertRaises(jobs.Stopped):
            lines.list_sat(self.ctx, specialist, None, job)
        lines.keep_current(self.ctx)
        self.assertEqual(self.again()[1], [])
