"""Scores of a measure in, what two windows say, and the same figures as the command gives."""

from __future__ import annotations

import json
import unittest
from datetime import timedelta
from pathlib import Path
from unittest.mock import patch

import numpy as np
from sqlalchemy import select

from bildung.cli import main
from bildung.formats.problem import ImportProblem
from bildung.services.growth import measures, pair, scores
from bildung.services.growth.measures import MeasureWish, NormWish
from bildung.services.growth.pair import PairAsked
from bildung.services.growth.pairview import PairPage
from bildung.services.rosters import check
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.jobs import Job
from bildung.store.models import Enrolment, MeasureScore, Occasion, Person, SchoolClass, Window
from tests.support import WorldCase, small_roster

NORMS = b"subject,grade,week,mean,sd\nMathematics,5,0,200,14\nMathematics,5,36,212,15\n"
PAIRS = [f"Mathematics,5,{a},{b},0.8" for a in (0, 4) for b in (12, 36)]
R = "\n".join(["subject,grade,from_week,to_week,r", *PAIRS]).encode()


class GrowthCase(WorldCase):
    SIZE = 40

    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(self.SIZE))
        wish = MeasureWish(name="Tally", subject="Mathematics", low=100, high=300)
        self.measure = measures.create_measure(self.ctx, self.boss, wish)

        def work(db):  # type: ignore[no-untyped-def]
            first = db.get_one(Window, self.window_id)
            later = Window(name="Later", start=first.start + timedelta(days=84), end=first.start + timedelta(days=98))
            db.add(later)
            db.flush()
            klass = db.scalars(select(SchoolClass).where(SchoolClass.subject == "Mathematics")).first()
            return first.name, first.start, later.id, later.name, klass.id, klass.title

        self.first, self.begin, self.later_id, self.later, self.klass, self.title = self.ctx.store.write(work)
        with self.ctx.store.read() as db:
            rows = db.execute(
                select(Person.source_id, Person.id)
                .join(Enrolment, Enrolment.person_id == Person.id)
                .where(Enrolment.class_id == self.klass, Enrolment.role == "student")
                .order_by(Person.id)
            ).all()
        self.students = [source for source, _ in rows]
        self.ids = [id for _, id in rows]

    def sheet(self, seed: int = 1, skip: int = 0, shift: float = 0.0, se: str = "4") -> str:
        rng = np.random.default_rng(seed)
        lines = ["student,grade,window,week,score,se"]
        for at, student in enumerate(self.students):
            start = round(rng.normal(200, 14))
            end = round(203 + 0.8 * (start - 200) + rng.normal(0, 8) + shift)
            lines.append(f"{student},5,{self.first},2,{start},{se}")
            if at >= skip:
                lines.append(f"{student},5,{self.later},14,{end},{se}")
        return "\n".join(lines) + "\n"

    def bring(self, text: str) -> dict[str, int]:
        seen = scores.preview(self.ctx, self.boss, self.measure, {"s.csv": text.encode()})
        scores.apply(self.ctx, self.boss, self.measure, seen.id)
        return dict(seen.counts)

    def norms(self, correlations: bytes = R) -> None:
        wish = NormWish(
            name="Tally norms",
            version="1",
            source="report",
            population="made up",
            norms=NORMS,
            correlations=correlations,
        )
        measures.add_norms(self.ctx, self.boss, self.measure, wish)

    def other(self, role: str) -> Actor:
        """Somebody who teaches nothing here."""
        return Actor(person_id=99_999, name="N", grants=(Grant(role, None),), sign_in_id=0, csrf="")

    def page(self, **more: str) -> PairPage:
        return self.page_of(self.boss, **more)

    def occasions(self) -> tuple[int, int]:
        """Ids of the two, by window; 0 before there are scores."""
        with self.ctx.store.read() as db:
            rows = {o.window_id: o.id for o in db.scalars(select(Occasion).where(Occasion.measure_id == self.measure))}
        return rows.get(self.window_id, 0), rows.get(self.later_id, 0)

    def asked(self, start: int, end: int) -> PairPage:
        return pair.pair_page(self.ctx, self.boss, PairAsked(measure=self.measure, start=start, end=end))

    def page_of(self, actor: Actor, **more: str) -> PairPage:
        start, end = self.occasions()
        return pair.pair_page(self.ctx, actor, PairAsked(measure=self.measure, start=start, end=end, **more))


class Scores(GrowthCase):
    def test_a_file_is_looked_at_taken_in_and_taken_in_again_without_change(self) -> None:
        text = self.sheet()
        self.assertEqual(self.bring(text)["added"], 2 * len(self.students))
        again = scores.preview(self.ctx, self.boss, self.measure, {"s.csv": text.encode()})
        self.assertEqual((again.counts["same"], again.counts["added"]), (2 * len(self.students), 0))
        for kind in ("csv", "xlsx"):
            out = scores.scores_file(self.ctx, self.boss, self.measure, kind)
            back = scores.preview(self.ctx, self.boss, self.measure, {f"s.{kind}": out})
            self.assertEqual((back.counts["same"], back.counts["left_out"]), (2 * len(self.students), 0), kind)
        page = measures.measures_page(self.ctx, self.boss)
        self.assertEqual([w.scores for w in page.measures[0].windows], [len(self.students)] * 2)
        self.assertIn("1 without norms", page.finding)

    def test_how_far_it_is_and_stopped_in_the_middle_of_writing(self) -> None:
        seen = scores.preview(self.ctx, self.boss, self.measure, {"s.csv": self.sheet().encode()})
        told: list[tuple[str, int, int]] = []

        class Watched(Job):
            def tell(self, what: str, done: int, total: int) -> None:
                told.append((what, done, total))
                if what == "writing scores" and done:
                    self.stop()
                super().tell(what, done, total)

        with patch.object(scores, "AT_ONCE", 10), self.assertRaisesRegex(Conflict, "nothing was changed"):
            scores.apply(self.ctx, self.boss, self.measure, seen.id, job=Watched())
        whole = 2 * len(self.students)
        self.assertEqual(told[0], ("looking at scores", 0, whole))
        self.assertEqual(told[-2:], [("writing scores", 0, whole), ("writing scores", 10, whole)])
        self.assertEqual(measures.measures_page(self.ctx, self.boss).measures[0].windows, [])
        self.assertEqual(scores.apply(self.ctx, self.boss, self.measure, seen.id).counts["added"], whole)

    def test_what_cannot_be_taken_is_left_out_with_its_reason(self) -> None:
        one, two, three = self.students[:3]
        text = (
            "student,subject,grade,window,week,score\n"
            f"{one},Mathematics,5,{self.first},2,301\nnobody,Mathematics,5,{self.first},2,200\n"
            f"{two},Reading,5,{self.first},2,200\n{three},Mathematics,5,Autumn,2,200\n"
        )
        seen = scores.preview(self.ctx, self.boss, self.measure, {"s.csv": text.encode()})
        self.assertEqual(seen.counts, {"added": 0, "changed": 0, "left_out": 4, "same": 0})
        told = " / ".join(line.detail for line in seen.lines)
        for part in (
            "not on the scale from 100 to 300",
            "no student has this number",
            "of Mathematics",
            "no window Autumn",
        ):
            self.assertIn(part, told)
        for bad, says in (
            (f"student,grade,window,week,score\n{one},5,{self.first},x,200\n", "a plain number"),
            (f"student,grade,window,week,score\n{one},5,{self.first},2,200\n{one},5,{self.first},2,201\n", "again"),
        ):
            with self.subTest(says), self.assertRaisesRegex(ImportProblem, says):
                scores.preview(self.ctx, self.boss, self.measure, {"s.csv": bad.encode()})
        with self.assertRaises(NotAllowed):
            scores.preview(self.ctx, self.teacher_of(self.klass), self.measure, {"s.csv": text.encode()})

    def test_measures_and_norms_that_are_none(self) -> None:
        with self.assertRaises(Conflict):
            measures.create_measure(self.ctx, self.boss, MeasureWish(name="Tally", subject="x", low=0, high=1))
        with self.assertRaisesRegex(Invalid, "below the highest"):
            measures.create_measure(self.ctx, self.boss, MeasureWish(name="T", subject="x", low=5, high=5))
        wish = NormWish(
            name="n", version="1", source="s", population="p", norms=b"subject,grade,week,mean,sd\nx,5,1,200,0\n"
        )
        with self.assertRaisesRegex(ImportProblem, "a number above 0"):
            measures.add_norms(self.ctx, self.boss, self.measure, wish)


class TwoWindows(GrowthCase):
    def test_the_same_figures_as_the_command_to_the_last_digit(self) -> None:
        self.bring(self.sheet(skip=4))
        self.norms()
        folder = Path(self.folder)
        (folder / "s.csv").write_bytes(scores.scores_file(self.ctx, self.boss, self.measure, "csv"))
        (folder / "n.csv").write_bytes(NORMS)
        (folder / "r.csv").write_bytes(R)
        out = folder / "o.json"
        page = self.page()
        status = main(
            [
                *("growth", str(folder / "s.csv"), "--from", page.start.name, "--to", page.end.name),
                *("--norms", str(folder / "n.csv"), "--correlations", str(folder / "r.csv"), "--json", str(out)),
            ]
        )
        self.assertEqual(status, 0)
        told = json.loads(out.read_text())
        with self.ctx.store.read() as db:
            source = dict(db.execute(select(Person.id, Person.source_id)).all())
        mine = {source[int(s.id)]: s for s in page.students}
        self.assertEqual(len(told["students"]), len(mine))
        for line in told["students"]:
            s = mine[line["student"]]
            self.assertEqual(
                (s.start, s.end, s.gain, s.expected, s.percentile, s.claim or None, s.reliable or None),
                tuple(
                    line[name]
                    for name in ("start", "end", "gain", "expected", "like_start_percentile", "claim", "reliable")
                ),
            )
        self.assertEqual(page.chance.upper95, told["chance"]["upper95"])
        self.assertEqual((page.missing, page.of), (4, len(self.students)))

    def test_a_class_by_the_table_with_who_is_missing(self) -> None:
        self.bring(self.sheet(shift=9))
        self.norms()
        page = self.page()
        (block,) = page.blocks
        (klass,) = block.classes
        self.assertEqual((klass.name, klass.by, klass.judged), (self.title, "table", len(self.students)))
        self.assertEqual((klass.off, page.missing), (1, 0))
        self.assertIn("grew as expected or more; grade 5 more than expected", page.finding)
        self.assertEqual([c.percentile for c in block.contours], [10, 25, 50, 75, 90])
        middle = dict(map(tuple, block.contours[2].points))
        one = page.students[0]
        self.assertAlmostEqual(middle[one.start], one.expected - one.start)

    def test_without_norms_the_whole_is_not_judged_and_without_errors_nobody_is_named(self) -> None:
        self.bring(self.sheet(se=""))
        page = self.page()
        self.assertIsNone(page.met)
        self.assertIsNone(page.chance)
        self.assertIn("Without norms whether that is much cannot be told", page.finding)
        self.assertIn("Without standard errors no single student", page.finding)
        self.assertEqual((page.behind, page.ahead), ([], []))
        self.assertIn("says nothing about them", page.blocks[0].line.why)

    def test_a_list_no_longer_than_chance_names_nobody(self) -> None:
        self.bring(self.sheet(seed=4, se="7"))
        self.norms()
        page = self.page()
        assert page.chance is not None
        self.assertLessEqual(page.chance.behind, page.chance.upper95)
        self.assertEqual(page.behind, [])
        self.assertIn("no more than chance brings", page.finding)
        self.bring(self.sheet(seed=4, shift=-30))
        page = self.page()
        self.assertGreater(len(page.behind), 10)
        off = [s.end - s.expected for s in page.behind]
        self.assertEqual(off, sorted(off))
        self.assertEqual({s.beyond for s in page.behind}, {"behind"})

    def test_who_came_to_the_class_late_is_in_no_class_figure(self) -> None:
        self.bring(self.sheet())
        self.norms()

        def late(db):  # type: ignore[no-untyped-def]
            for e in db.scalars(
                select(Enrolment).where(Enrolment.class_id == self.klass, Enrolment.person_id.in_(self.ids[:6]))
            ):
                e.begins = self.begin + timedelta(days=40)

        self.ctx.store.write(late)
        page = self.page()
        self.assertEqual((page.blocks[0].classes[0].n, page.elsewhere), (len(self.students) - 6, 6))
        self.assertEqual(page.n, len(self.students), "they are still among the students of the grade")

    def test_a_small_class_cannot_be_found_by_subtraction(self) -> None:
        self.bring(self.sheet())
        self.norms()

        def split(db):  # type: ignore[no-untyped-def]
            whole = db.get_one(SchoolClass, self.klass)
            for name, some in (("Few", self.ids[:3]), ("More", self.ids[3:14])):
                made = SchoolClass(
                    source_id=name,
                    title=name,
                    school_id=whole.school_id,
                    subject=whole.subject,
                    grade=whole.grade,
                    year_id=whole.year_id,
                    code=name.upper(),
                )
                db.add(made)
                db.flush()
                for e in db.scalars(
                    select(Enrolment).where(Enrolment.class_id == self.klass, Enrolment.person_id.in_(some))
                ):
                    e.class_id = made.id

        self.ctx.store.write(split)
        few, whole, more = sorted(self.page().blocks[0].classes, key=lambda c: c.n if c.name != self.title else 5)
        self.assertEqual((few.name, few.n, few.hidden, few.why), ("Few", 3, True, "under 5 students"))
        self.assertEqual((more.name, more.hidden, more.told, more.mean_gain), ("More", True, None, None))
        self.assertIn("could be found from it", more.why)
        self.assertFalse(whole.hidden)
        self.assertIsNotNone(whole.told)

    def test_many_missing_decide_and_the_class_is_not_called(self) -> None:
        self.bring(self.sheet(skip=16, shift=2))
        self.norms()
        (klass,) = self.page().blocks[0].classes
        assert klass.tipping is not None
        if abs(klass.tipping) < 0.5:
            self.assertIn("cannot be told: 16 of its", klass.says)
            self.assertEqual(klass.off, 0)

    def test_windows_and_tables_that_do_not_fit(self) -> None:
        self.bring(self.sheet())
        with self.assertRaisesRegex(Invalid, "two different windows"):
            self.asked(*self.occasions()[:1] * 2)
        with self.assertRaisesRegex(Invalid, "turn them round"):
            self.asked(*reversed(self.occasions()))
        with self.assertRaises(NotFound):
            self.asked(self.occasions()[0], 999)
        short = NormWish(
            name="n",
            version="1",
            source="s",
            population="p",
            norms=b"subject,grade,week,mean,sd\nMathematics,5,5,200,14\nMathematics,5,20,204,14\n",
        )
        measures.add_norms(self.ctx, self.boss, self.measure, short)
        with self.assertRaisesRegex(Conflict, "nearest allowed is week 5"):
            self.page()

    def test_a_teacher_sees_their_own_classes(self) -> None:
        self.bring(self.sheet())
        self.norms()
        own = self.teacher_of(self.klass)
        page = self.page_of(own)
        self.assertEqual(page.n, len(self.students))
        other = self.page_of(self.other("teacher"))
        self.assertEqual((other.n, other.blocks, other.students), (0, [], []))
        with self.assertRaises(NotAllowed):
            self.page_of(self.other("proctor"))

    def test_it_is_kept_until_somebody_leaves_a_class(self) -> None:
        self.bring(self.sheet())
        self.norms()
        first = self.page()
        self.assertIs(self.page(), first)
        check.settle(self.ctx, self.boss, "leave_class", self.ids[0], class_id=self.klass)
        self.assertIsNot(self.page(), first)

    def test_a_change_of_scores_is_seen_at_once(self) -> None:
        self.bring(self.sheet())
        before = self.page().mean_gain
        self.bring(self.sheet(shift=5))
        self.assertAlmostEqual(self.page().mean_gain, before + 5)
        with self.ctx.store.read() as db:
            self.assertEqual(len(db.scalars(select(MeasureScore)).all()), 2 * len(self.students))


if __name__ == "__main__":
    unittest.main()
