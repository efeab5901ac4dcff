"""Projections with goals, one student, student groups, reflections, prints, and the simulated test service."""

from __future__ import annotations

import io
import unittest
from datetime import timedelta

from openpyxl import load_workbook
from pypdf import PdfReader
from sqlalchemy import select

from bildung.services.growth import (
    cuts,
    fetching,
    goals,
    measures,
    occasionpage,
    projection,
    reflections,
    scores,
    studentpage,
)
from bildung.services.growth.cuts import CutLine, CutsWish
from bildung.services.growth.goals import GoalWish
from bildung.services.growth.measures import MeasureWish
from bildung.services.growth.pair import PairAsked, pair_page
from bildung.services.growth.printing import pair_report, reflections_report, student_report
from bildung.services.growth.reflections import ReflectionAsked, ReflectionWish
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.shared.settings import change_settings
from bildung.services.shared.standins import Standins
from bildung.services.today.page import today_page
from bildung.standins.beside import beside
from bildung.standins.testservice import Service, TestTaker, create_testservice
from bildung.store.models import Attribute, AttributeValue, Person, SchoolClass, SchoolYear, Window
from tests.services.growth.test_growth import GrowthCase

RELATED = "\n".join(
    [
        "subject,grade,from_week,to_week,r",
        *(f"Mathematics,5,{a},{b},0.8" for a in (0, 8, 12, 16) for b in (10, 20, 36) if a < b),
    ]
).encode()


def text_of(pdf: bytes) -> str:
    return " ".join(" ".join((p.extract_text() or "").split()) for p in PdfReader(io.BytesIO(pdf)).pages)


class AheadCase(GrowthCase):
    def setUp(self) -> None:
        super().setUp()

        def year(db):  # type: ignore[no-untyped-def]
            db.add(Window(name="Last", start=self.begin + timedelta(days=168), end=self.begin + timedelta(days=180)))

        self.ctx.store.write(year)
        self.bring(self.sheet())
        self.norms(RELATED)
        wish = CutsWish(names=("Low", "There"), rows=[CutLine("5", "", [205])], goal=2, source="board", based=0)
        cuts.put_cuts(self.ctx, self.boss, self.measure, wish)
        self.start, self.end = self.occasions()

    def projected(self, at: int | None = None, **more: str) -> projection.ProjectionPage:
        return projection.projection_page(self.ctx, self.boss, self.measure, at or self.end, **more)


class Projections(AheadCase):
    def test_who_is_on_track_by_the_norms(self) -> None:
        page = self.projected()
        self.assertEqual([c.name for c in page.later], ["Last 2027", "End of 2026/27"])
        self.assertEqual((page.goal, [(c.id, c.name) for c in page.cuts]), ("There", [("5", "205")]))
        tally = {
            track: sum(s.track == track for s in page.students) for track in ("on track", "uncertain", "off track")
        }
        self.assertIn(
            f"{tally['on track']} are on track for There in Last 2027 and {tally['off track']} off track", page.finding
        )
        one = max(page.students, key=lambda s: s.score)
        self.assertEqual(one.track, "on track")
        assert one.will_be is not None and one.will_score is not None and one.target80 is not None
        self.assertGreater(one.will_be, one.will_score)
        self.assertEqual(one.target50, 205)
        self.assertGreater(one.target80, 205)
        (grade,) = page.groups
        self.assertAlmostEqual(grade.mean or 0, sum(s.will_score or 0 for s in page.students))
        self.assertLess(grade.low or 0, grade.high or 0)
        with self.assertRaisesRegex(Invalid, "no such later window"):
            self.projected(to="w99")

    def test_projections_are_held_against_what_came(self) -> None:
        page = self.projected(self.start)
        self.assertEqual(page.to.name.split()[0], self.later)
        self.assertIn("were expected to", page.kept)
        came = {s.id: s.came for s in page.students}
        (grade,) = page.groups
        self.assertEqual(grade.came, sum((c or 0) >= 205 for c in came.values()))
        self.assertEqual(grade.came_of, len(self.students))

    def test_without_norms_last_years_students_say_what_to_expect(self) -> None:
        bare = measures.create_measure(
            self.ctx, self.boss, MeasureWish(name="Bare", subject="Mathematics", low=0, high=400)
        )

        def before(db):  # type: ignore[no-untyped-def]
            year = timedelta(days=364)
            now = db.scalars(select(SchoolYear).order_by(SchoolYear.start.desc())).first()
            db.add(SchoolYear(title="The year before", start=now.start - year, end=now.start - timedelta(days=1)))
            for name, days in ((self.first, 0), ("Later", 84)):
                begins = self.begin + timedelta(days=days) - year
                db.add(Window(name=name.split()[0], start=begins, end=begins + timedelta(days=10)))

        self.ctx.store.write(before)
        earlier = f"Later {(self.begin + timedelta(days=84 - 364)).year}"
        first = f"{self.first.split()[0]} {(self.begin - timedelta(days=364)).year}"
        now = f"{self.first.split()[0]} {self.begin.year}"
        text = "student,grade,window,week,score,se\n"
        for at, student in enumerate(self.students):
            text += f"{student},5,{first},2,{100 + at},1\n{student},5,{earlier},14,{110 + at + at % 5},1\n"
            text += f"{student},5,{now},2,{100 + at},1\n"
        seen = scores.preview(self.ctx, self.boss, bare, {"s.csv": text.encode()})
        self.assertEqual(seen.counts["left_out"], 0, seen.lines[:3])
        scores.apply(self.ctx, self.boss, bare, seen.id, True)  # the same students stand in for those of last year
        wish = CutsWish(names=("Low", "There"), rows=[CutLine("", "", [130])], goal=2, source="board", based=0)
        cuts.put_cuts(self.ctx, self.boss, bare, wish)
        line = next(m for m in measures.measures_page(self.ctx, self.boss).measures if m.id == bare)
        page = projection.projection_page(self.ctx, self.boss, bare, line.windows[-1].id)
        self.assertIn("last year's students of the grade", " ".join(page.workings))
        self.assertTrue(any(s.track == "on track" for s in page.students))

    def test_goals_are_kept_with_who_set_them(self) -> None:
        page = self.projected()
        day, chosen = page.to.day, page.students[:2]
        wishes = [GoalWish(person=int(s.id), score=s.target80 or 0, kind="target80") for s in chosen]
        self.assertEqual(goals.set_goals(self.ctx, self.boss, self.measure, day, wishes).says, "2 goals saved.")
        own = self.teacher_of(self.klass)
        goals.set_goals(self.ctx, own, self.measure, day, [GoalWish(person=int(chosen[0].id), score=211, kind="own")])
        now = {s.id: s.goal for s in self.projected().students if s.goal}
        first, second = now[chosen[0].id], now[chosen[1].id]
        assert first is not None and second is not None
        self.assertEqual((first.score, first.by, second.by), (211, own.name, self.boss.name))
        mine = studentpage.student_growth(self.ctx, self.boss, self.measure, int(chosen[0].id))
        self.assertEqual([g.goal.score for g in mine.goals], [211])
        goals.withdraw_goal(self.ctx, own, int(first.id))
        self.assertEqual({s.id for s in self.projected().students if s.goal}, {chosen[1].id})
        for bad, says in (
            (GoalWish(person=int(chosen[0].id), score=999, kind="own"), "on the scale"),
            (GoalWish(person=int(chosen[0].id), score=200, kind="other"), "one of target50"),
        ):
            with self.subTest(says), self.assertRaisesRegex(Invalid, says):
                goals.set_goals(self.ctx, self.boss, self.measure, day, [bad])
        with self.assertRaises(NotFound):
            goals.set_goals(self.ctx, self.other("teacher"), self.measure, day, wishes)
        with self.assertRaises(NotAllowed):
            goals.set_goals(self.ctx, self.other("leader"), self.measure, day, wishes)


class OneStudent(AheadCase):
    def test_every_score_with_where_it_stands(self) -> None:
        page = studentpage.student_growth(self.ctx, self.boss, self.measure, self.ids[0])
        self.assertEqual([s.at.id for s in page.scores], [self.start, self.end])
        whole = pair_page(self.ctx, self.boss, PairAsked(measure=self.measure, start=self.start, end=self.end))
        same = next(s for s in whole.students if s.id == self.ids[0])
        self.assertEqual(page.between, same, "the same figures as on the page of all")
        at = occasionpage.occasion_page(self.ctx, self.boss, self.measure, self.end)
        self.assertEqual(page.scores[1].standing, next(s.standing for s in at.students if s.id == self.ids[0]))
        with self.assertRaises(NotFound):
            studentpage.student_growth(self.ctx, self.other("teacher"), self.measure, self.ids[0])
        printed = text_of(student_report(self.ctx, self.boss, self.measure, self.ids[0]))
        self.assertIn(page.name, printed)
        self.assertIn("Percentile rank", printed)


class Groups(AheadCase):
    def attribute(self) -> int:
        def put(db):  # type: ignore[no-untyped-def]
            made = Attribute(name="English learner", seen_by="coordinator")
            db.add(made)
            db.flush()
            for at, person in enumerate(self.ids):
                value = "yes" if at < 3 else "no" if at < 25 else "exited"
                db.add(AttributeValue(attribute_id=made.id, person_id=person, value=value))
            return made.id

        return self.ctx.store.write(put)

    def test_by_student_group_small_ones_hidden(self) -> None:
        attribute = self.attribute()
        asked = PairAsked(measure=self.measure, start=self.start, end=self.end, attribute=str(attribute))
        page = pair_page(self.ctx, self.boss, asked)
        by = {g.name: g for g in page.groups}
        self.assertEqual({name: g.n for name, g in by.items()}, {"yes": 3, "no": 22, "exited": len(self.ids) - 25})
        self.assertEqual((by["yes"].hidden, by["exited"].hidden, by["no"].hidden), (True, True, False))
        self.assertIsNone(by["exited"].mean_gain, "a second group, as the first could be found from it")
        with self.assertRaises(NotFound):
            pair_page(self.ctx, self.teacher_of(self.klass), asked)

    def test_the_smallest_group_is_a_setting_and_larger_outside(self) -> None:
        asked = PairAsked(measure=self.measure, start=self.start, end=self.end)
        self.assertFalse(pair_page(self.ctx, self.boss, asked).blocks[0].classes[0].hidden)
        change_settings(self.ctx, self.boss, {"least_outside": 50})
        outside = PairAsked(measure=self.measure, start=self.start, end=self.end, outside=True)
        self.assertTrue(pair_page(self.ctx, self.boss, outside).blocks[0].classes[0].hidden)
        change_settings(self.ctx, self.boss, {"growth_share": 0.5})
        self.assertIn("50% of the days", " ".join(pair_page(self.ctx, self.boss, asked).workings))


class Reflections(AheadCase):
    def ask(self) -> int:
        due = self.ctx.clock().date() + timedelta(days=9)
        return reflections.ask(
            self.ctx, self.boss, ReflectionAsked(measure=self.measure, start=self.start, end=self.end, due=due)
        )

    def test_nothing_is_expected_of_a_class_that_has_ended(self) -> None:
        own = self.teacher_of(self.klass)
        before = {w.path for w in today_page(self.ctx, own).waiting}
        request = self.ask()
        self.assertNotEqual({w.path for w in today_page(self.ctx, own).waiting}, before)

        def end(db):  # type: ignore[no-untyped-def]
            db.get_one(SchoolClass, self.klass).active = False

        self.ctx.store.write(end)
        self.assertEqual({w.path for w in today_page(self.ctx, own).waiting}, before)
        self.assertEqual([p.mine for p in reflections.reflections_page(self.ctx, own, request).places], [False])

    def test_asked_for_written_and_gathered(self) -> None:
        own = self.teacher_of(self.klass)
        before = {w.path for w in today_page(self.ctx, own).waiting}
        request = self.ask()
        (waiting,) = [w for w in today_page(self.ctx, own).waiting if w.path not in before]
        self.assertIn("1 reflection on growth to write by", waiting.what)
        page = reflections.reflections_page(self.ctx, own, request)
        self.assertIn(f"Missing: {self.title}", page.finding)
        (place,) = page.places
        self.assertIn(f"{len(self.students)} students with both scores", place.figures[0])
        wish = ReflectionWish(
            request=request,
            class_id=int(place.class_id or 0),
            school_id=None,
            grade="",
            concludes="Fractions.",
            plans="Reteach.",
        )
        reflections.write(self.ctx, own, wish)
        self.assertEqual({w.path for w in today_page(self.ctx, own).waiting}, before)
        whole = reflections.reflections_page(self.ctx, self.boss)
        written = next(p.written for p in whole.places if p.class_id == place.class_id)
        assert written is not None
        self.assertEqual((written.concludes, written.by, written.figures), ("Fractions.", own.name, place.figures))
        self.assertTrue(any(p.class_id is None and p.grade == "5" for p in whole.places), "a place for the grade")
        printed = text_of(reflections_report(self.ctx, self.boss, request))
        self.assertIn("Next: Reteach.", printed)
        for actor in (self.other("teacher"), self.boss):
            if actor is self.boss:
                reflections.end_request(self.ctx, self.boss, request)
            with self.assertRaises((NotFound, Conflict)):
                reflections.write(self.ctx, actor, wish)
        with self.assertRaisesRegex(Invalid, "day lies ahead"):
            reflections.ask(
                self.ctx,
                self.boss,
                ReflectionAsked(
                    measure=self.measure,
                    start=self.start,
                    end=self.end,
                    due=self.ctx.clock().date() - timedelta(days=1),
                ),
            )


class Out(AheadCase):
    def test_the_workbook_has_the_figures_of_the_page(self) -> None:
        asked = PairAsked(measure=self.measure, start=self.start, end=self.end)
        page = pair_page(self.ctx, self.boss, asked)
        book = load_workbook(io.BytesIO(pair_report(self.ctx, self.boss, asked, "xlsx")))
        rows = list(book["Students"].iter_rows(min_row=2, values_only=True))
        by_name = {s.name: s for s in page.students}
        self.assertEqual(len(rows), page.n)
        for row in rows:
            s = by_name[row[0]]
            self.assertEqual((row[2], row[3], row[4]), (s.start, s.end, s.gain))
            self.assertAlmostEqual(row[5], s.expected)
        hidden = load_workbook(io.BytesIO(pair_report(self.ctx, self.boss, asked, "xlsx", names=False)))
        self.assertFalse({r[0] for r in hidden["Students"].iter_rows(min_row=2, values_only=True)} & set(by_name))
        outside = PairAsked(measure=self.measure, start=self.start, end=self.end, outside=True)
        away = load_workbook(io.BytesIO(pair_report(self.ctx, self.boss, outside, "xlsx", names=False)))
        self.assertNotIn("Students", away.sheetnames, "no student leaves the school")
        mine = PairAsked(measure=self.measure, start=self.start, end=self.end, klass=str(self.klass))
        printed = text_of(pair_report(self.ctx, self.boss, mine, "pdf"))
        self.assertIn(self.title, printed)
        self.assertIn("A class figure does not measure a teacher", printed)
        with self.assertRaises(NotFound):
            nobody = PairAsked(measure=self.measure, start=self.start, end=self.end, klass="9999")
            pair_report(self.ctx, self.boss, nobody, "pdf")


class Fetched(AheadCase):
    def test_files_of_the_test_service_with_its_faults(self) -> None:
        with self.ctx.store.read() as db:
            people = db.scalars(select(Person).where(Person.source_id.in_(self.students)).order_by(Person.id)).all()
            takers = [TestTaker(p.source_id, p.given, p.family, p.birth_date, p.grade) for p in people]
        reading = measures.create_measure(
            self.ctx, self.boss, MeasureWish(name="Outside", subject="Reading", low=100, high=350)
        )
        self.assertEqual(fetching.service_files(self.ctx, self.boss).address, "")
        with self.assertRaisesRegex(Conflict, "no test service"):
            fetching.fetch_scores(self.ctx, self.boss, reading, "/scores/0.csv")
        service = Service(takers=takers, terms=[(self.first, self.begin)])
        with beside(create_testservice(service)) as address:
            self.ctx.own(Standins).tests = address
            files = [f.path for f in fetching.service_files(self.ctx, self.boss).files if f.kind == "scores"]
            whole = fetching.fetch_scores(self.ctx, self.boss, reading, files[0])
            self.assertEqual((whole.counts["added"], whole.counts["left_out"]), (len(takers), 0))
            service.faults |= {"name", "range", "unknown"}
            faulty = fetching.fetch_scores(self.ctx, self.boss, reading, files[0])
            self.assertEqual((faulty.counts["added"], faulty.counts["left_out"]), (len(takers) - 2, 3))
            told = " / ".join(line.detail for line in faulty.lines)
            for part in ("not on the scale from 100 to 350", "no student has this number", "no birth date"):
                self.assertIn(part, told)
            self.assertEqual(len(scores.doubts_of(self.ctx, self.boss, reading, faulty.id)), 1)
            service.faults = {"second"}
            with self.assertRaisesRegex(Exception, "leave the attempt that counts"):
                fetching.fetch_scores(self.ctx, self.boss, reading, files[0])
            with self.assertRaises(NotFound):
                fetching.fetch_file(self.ctx, self.boss, "/elsewhere.csv")
            self.assertIn(b"from_week", fetching.fetch_file(self.ctx, self.boss, "/norms/correlations.csv"))
        told_down = fetching.service_files(self.ctx, self.boss)
        self.assertIn("cannot be reached", told_down.problem)
        with self.assertRaisesRegex(Conflict, "cannot be reached"):
            fetching.fetch_scores(self.ctx, self.boss, reading, files[0])
        with self.assertRaises(NotAllowed):
            fetching.service_files(self.ctx, self.teacher_of(self.klass))


if __name__ == "__main__":
    unittest.main()
