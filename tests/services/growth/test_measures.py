"""Measures of every kind: levels, direction, skills, cut scores, scores by name, typed, by month; benchmarks that are given here."""

from __future__ import annotations

import itertools
import unittest
from datetime import date, timedelta

from sqlalchemy import select

from bildung.services.answers.packing import pack
from bildung.services.bank import search
from bildung.services.building import forms
from bildung.services.forms.levels import levels_of_test
from bildung.services.growth import cuts, measures, names, occasionpage, scores
from bildung.services.growth.cuts import CutLine, CutsWish
from bildung.services.growth.measures import MeasureLine, MeasureWish
from bildung.services.growth.pair import PairAsked, pair_page
from bildung.services.growth.scores import TypedScore
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.store.models import Form, MeasureScore, NameMatch, Occasion, Person, PlannedSession, Window
from tests.services.growth.given import give
from tests.services.growth.test_growth import GrowthCase


class MeasuresCase(GrowthCase):
    def bring_to(self, measure: int, text: str, matched: dict[str, str] | None = None) -> dict[str, int]:
        seen = scores.preview(self.ctx, self.boss, measure, {"s.csv": text.encode()}, matched)
        scores.apply(self.ctx, self.boss, measure, seen.id)
        return dict(seen.counts)

    def latest(self, measure: int) -> list[int]:
        page = measures.measures_page(self.ctx, self.boss)
        return [int(id) for id in next(m for m in page.measures if m.id == measure).latest]


class Kinds(MeasuresCase):
    def test_ordered_levels_move_and_have_no_gain(self) -> None:
        wish = MeasureWish(name="Stones", subject="Mathematics", levels=("Sand", "Shell", "Kelp"))
        stones = measures.create_measure(self.ctx, self.boss, wish)
        lines = ["student,grade,window,score"]
        for at, student in enumerate(self.students):
            lines.append(f"{student},5,{self.first},{'Sand' if at % 2 else 'shell'}")
            lines.append(f"{student},5,{self.later},{'Shell' if at < 30 else '1'}")
        lines.append(f"{self.students[0]},5,{self.later},Blue".replace(self.students[0], "nobody"))
        counts = self.bring_to(stones, "\n".join(lines))
        self.assertEqual((counts["added"], counts["left_out"]), (2 * len(self.students), 1))
        start, end = self.latest(stones)
        page = pair_page(self.ctx, self.boss, PairAsked(measure=stones, start=start, end=end))
        assert page.moves is not None
        by_hand = [(1 if at % 2 else 2, 2 if at < 30 else 1) for at in range(len(self.students))]
        self.assertEqual(page.moves.up, sum(b > a for a, b in by_hand))
        self.assertEqual(page.moves.down, sum(b < a for a, b in by_hand))
        self.assertEqual([r.level for r in page.moves.rows], ["Sand", "Shell", "Kelp"])
        self.assertEqual((page.mean_gain, page.blocks, page.chance), (None, [], None))
        self.assertIn(f"{page.moves.up} reached a higher level", page.finding)
        self.assertIn("no average is taken", " ".join(page.workings))
        self.assertEqual({s.end_level for s in page.students}, {"Sand", "Shell"})

    def test_less_is_better_turns_gains_and_not_scores(self) -> None:
        seconds = measures.create_measure(
            self.ctx, self.boss, MeasureWish(name="Seconds", subject="Mathematics", low=0, high=400, falling=True)
        )
        text = "student,grade,window,week,score,se\n"
        for at, student in enumerate(self.students):
            text += f"{student},5,{self.first},2,{200 + at},4\n{student},5,{self.later},14,{190 + at - at % 3},4\n"
        self.bring_to(seconds, text)
        start, end = self.latest(seconds)
        page = pair_page(self.ctx, self.boss, PairAsked(measure=seconds, start=start, end=end))
        one = page.students[1]
        self.assertEqual((one.start - one.end, page.measure.falling), (one.gain, True))
        self.assertGreater(page.mean_gain or 0, 9)
        self.assertIn("won", page.finding)
        wish = CutsWish(names=("Slow", "Quick"), rows=[CutLine("", "", [205])], goal=2, source="s", based=0)
        cuts.put_cuts(self.ctx, self.boss, seconds, wish)
        at = occasionpage.occasion_page(self.ctx, self.boss, seconds, end)
        quick = {s.score for s in at.students if s.standing.level == "Quick"}
        slow = {s.score for s in at.students if s.standing.level == "Slow"}
        self.assertLessEqual(max(quick), 205)
        self.assertGreater(min(slow), 205)
        self.assertEqual({s.standing.cut for s in at.students}, {205.0})
        best = min(at.students, key=lambda s: s.score)
        self.assertEqual(best.standing.rank, max(s.standing.rank or 0 for s in at.students))

    def test_a_measure_that_is_the_wrong_way_round_is_noticed(self) -> None:
        self.bring(self.sheet(shift=5))
        wish = MeasureWish(name="Errors", subject="Mathematics", low=0, high=100)
        errors = measures.create_measure(self.ctx, self.boss, wish)
        text = "student,grade,window,score\n"
        for at, student in enumerate(self.students):
            text += f"{student},5,{self.first},{30 + at % 5}\n{student},5,{self.later},{20 + at % 7}\n"
        self.bring_to(errors, text)

        def doubt() -> str:
            page = measures.measures_page(self.ctx, self.boss)
            return next(m.doubt for m in page.measures if m.id == errors)

        self.assertIn("wrong way round", doubt())
        measures.change_measure(self.ctx, self.boss, errors, True)
        self.assertEqual(doubt(), "")

    def test_measures_that_are_none(self) -> None:
        for wish, says in (
            (MeasureWish(name="a", subject="s", levels=("One",)), "2 to 40 levels"),
            (MeasureWish(name="a", subject="s", levels=("One", "one")), "a name of its own"),
            (MeasureWish(name="a", subject="s", low=1, high=1), "below the highest"),
        ):
            with self.subTest(says), self.assertRaisesRegex(Invalid, says):
                measures.create_measure(self.ctx, self.boss, wish)
        part = measures.create_measure(
            self.ctx, self.boss, MeasureWish(name="Part", subject="Mathematics", low=0, high=9, part_of=self.measure)
        )
        with self.assertRaisesRegex(Invalid, "is a skill itself"):
            measures.create_measure(
                self.ctx, self.boss, MeasureWish(name="Q", subject="Mathematics", low=0, high=9, part_of=part)
            )


class CutScores(MeasuresCase):
    def wish(self, based: int, *rows: CutLine, names: tuple[str, ...] = ("Low", "Middle", "High")) -> CutsWish:
        return CutsWish(names=names, rows=rows or (CutLine("5", "", [195, 210]),), goal=2, source="board", based=based)

    def test_versions_and_two_people_at_once(self) -> None:
        self.bring(self.sheet())
        self.assertEqual(cuts.put_cuts(self.ctx, self.boss, self.measure, self.wish(0)), 1)
        self.assertEqual(
            cuts.put_cuts(self.ctx, self.boss, self.measure, self.wish(1, CutLine("5", "", [190, 211]))), 2
        )
        with self.assertRaisesRegex(Conflict, "meanwhile"):
            cuts.put_cuts(self.ctx, self.boss, self.measure, self.wish(1))
        page = cuts.cuts_page(self.ctx, self.boss, self.measure)
        self.assertEqual([(s.number, s.rows[0].cuts) for s in page.sets], [(2, [190, 211]), (1, [195, 210])])
        self.assertEqual(page.uncovered, [])
        with self.assertRaises(NotAllowed):
            cuts.put_cuts(self.ctx, self.teacher_of(self.klass), self.measure, self.wish(2))
        with self.assertRaisesRegex(Invalid, "above the one before"):
            cuts.put_cuts(self.ctx, self.boss, self.measure, self.wish(2, CutLine("5", "", [210, 195])))
        cuts.put_cuts(self.ctx, self.boss, self.measure, self.wish(2, CutLine("6", "", [195, 210])))
        self.assertIn("without cut scores", cuts.cuts_page(self.ctx, self.boss, self.measure).finding)

    def test_levels_with_their_probability(self) -> None:
        self.bring(self.sheet())
        self.norms()
        cuts.put_cuts(self.ctx, self.boss, self.measure, self.wish(0))
        page = occasionpage.occasion_page(self.ctx, self.boss, self.measure, self.occasions()[0])
        for s in page.students:
            self.assertEqual(s.standing.level, "Low" if s.score < 195 else "Middle" if s.score < 210 else "High")
            self.assertEqual(s.standing.near, min(abs(s.score - 195), abs(s.score - 210)) < 0.994457883209753 * 4)
            self.assertEqual(s.standing.by, "norms")
            assert s.standing.at is not None and s.standing.probability is not None
            self.assertTrue(0 <= s.standing.at <= 1)
        far = max(page.students, key=lambda s: s.score)
        self.assertGreater(far.standing.at or 0, 0.95)
        (line,) = page.by_grade
        self.assertEqual(sum(line.counts), page.n)
        self.assertAlmostEqual(line.share or 0, sum(line.counts[1:]) / page.n)

    def test_skills_in_learning_order(self) -> None:
        self.bring(self.sheet())
        for name, base in (("Adding", 240), ("Dividing", 120)):
            skill = measures.create_measure(
                self.ctx,
                self.boss,
                MeasureWish(name=name, subject="Mathematics", low=100, high=300, part_of=self.measure),
            )
            self.bring_to(
                skill,
                "student,grade,window,score,se\n"
                + "".join(f"{s},5,{self.first},{base + at * 7 % 40},4\n" for at, s in enumerate(self.students)),
            )
            wish = CutsWish(names=("Not yet", "Ready"), rows=[CutLine("", "", [200])], goal=2, source="team", based=0)
            cuts.put_cuts(self.ctx, self.boss, skill, wish)
        page = occasionpage.occasion_page(self.ctx, self.boss, self.measure, self.occasions()[0])
        self.assertEqual(
            [(s.name, s.share, s.focus) for s in page.skills], [("Adding", 1.0, False), ("Dividing", 0.0, True)]
        )
        self.assertEqual(len(page.skills[1].open), len(self.students))


class ByName(MeasuresCase):
    def people(self) -> list[Person]:
        with self.ctx.store.read() as db:
            return list(db.scalars(select(Person).where(Person.source_id.in_(self.students)).order_by(Person.id)))

    def test_names_and_birth_dates_and_what_is_remembered(self) -> None:
        one, two, three = self.people()[:3]

        def born(db):  # type: ignore[no-untyped-def]
            for at, person in enumerate((one, two, three)):
                db.get_one(Person, person.id).birth_date = date(2014, 3, 1 + at)

        self.ctx.store.write(born)
        text = (
            "Last Name,First Name,DOB,Term,Scale Score\n"
            f"{one.family},{one.given},2014-03-01,{self.first},210\n"
            f"{two.family},{two.given},2014-03-09,{self.first},220\n"
            f"{three.family}e,{three.given},2014-03-03,{self.first},230\n"
            f"Nobodyson,Zebedee,2014-01-01,{self.first},240\n"
        )
        seen = scores.preview(self.ctx, self.boss, self.measure, {"s.csv": text.encode()})
        self.assertEqual((seen.counts["added"], seen.counts["left_out"]), (1, 3))
        told = scores.doubts_of(self.ctx, self.boss, self.measure, seen.id)
        self.assertEqual([d.name for d in told], [two.name, f"{three.given} {three.family}e"])
        self.assertEqual([d.candidates[0].id for d in told], [two.id, three.id])
        names.settle_name(self.ctx, self.boss, told[0].written, None)
        names.settle_name(self.ctx, self.boss, told[1].written, three.id)
        again = scores.preview(self.ctx, self.boss, self.measure, {"s.csv": text.encode()})
        self.assertEqual((again.counts["added"], again.counts["left_out"]), (2, 2))
        self.assertEqual(scores.doubts_of(self.ctx, self.boss, self.measure, again.id), [])
        scores.apply(self.ctx, self.boss, self.measure, again.id)
        with self.ctx.store.read() as db:
            self.assertEqual(len(db.scalars(select(NameMatch)).all()), 2)
            rows = {s.person_id: s.score for s in db.scalars(select(MeasureScore))}
        self.assertEqual(rows, {one.id: 210.0, three.id: 230.0})
        with self.assertRaises(NotFound):
            names.settle_name(self.ctx, self.boss, "x", 99_999)

    def test_a_number_that_is_somebody_elses_is_doubtful(self) -> None:
        one, two = self.people()[:2]
        text = f"student,name,window,score\n{one.source_id},Zebedee Nobodyson,{self.first},210\n"
        seen = scores.preview(self.ctx, self.boss, self.measure, {"s.csv": text.encode()})
        self.assertEqual(seen.counts["left_out"], 1)
        (doubt,) = scores.doubts_of(self.ctx, self.boss, self.measure, seen.id)
        self.assertIn(one.name, doubt.why)
        names.settle_name(self.ctx, self.boss, doubt.written, two.id)
        again = scores.preview(self.ctx, self.boss, self.measure, {"s.csv": text.encode()})
        self.assertEqual(again.lines[0].label, two.name)


class When(MeasuresCase):
    def test_months_days_and_the_window_that_holds_a_day(self) -> None:
        one = self.students[0]
        with self.ctx.store.read() as db:
            month = max(db.scalars(select(Window.end)).all()) + timedelta(days=2)
        day = self.begin + timedelta(days=1)
        text = (
            "student,grade,window,date,score\n"
            f"{one},5,,{day},200\n{one},5,,{month},210\n{one},5,2027-06-08,,220\n{one},5,July 2027,,230\n"
        )
        self.assertEqual(self.bring(text)["added"], 4)
        with self.ctx.store.read() as db:
            found = {
                (o.window_id, o.name): s.week
                for s, o in db.execute(
                    select(MeasureScore, Occasion).join(Occasion, Occasion.id == MeasureScore.occasion_id)
                )
            }
        self.assertEqual(
            set(found),
            {(self.window_id, ""), (None, f"{month:%B %Y}"), (None, "2027-06-08"), (None, "July 2027")},
        )
        weeks = sorted(found.values())
        self.assertTrue(all(a < b for a, b in itertools.pairwise(weeks)), "each attempt has its own week")
        self.assertEqual(self.bring(text)["same"], 4)

    def test_two_scores_of_a_student_are_named_with_their_lines(self) -> None:
        one = self.students[0]
        text = f"student,grade,window,score\n{one},5,{self.first},200\n{one},5,{self.first},201\n"
        with self.assertRaisesRegex(Exception, r"line 3.*again in .*first in s.csv, line 2"):
            self.bring(text)

    def test_typed_scores(self) -> None:
        person = self.ids[0]
        scores.type_score(
            self.ctx, self.boss, self.measure, TypedScore(person=person, window=self.first, said="205", se=4)
        )
        scores.type_score(self.ctx, self.boss, self.measure, TypedScore(person=person, window=self.first, said="206"))
        with self.ctx.store.read() as db:
            (row,) = db.scalars(select(MeasureScore)).all()
            self.assertEqual((row.score, row.se, row.grade), (206.0, None, "5"))
        for typed, says in (
            (TypedScore(person=person, window="Nonsense", said="205"), "no window Nonsense"),
            (TypedScore(person=person, window=self.first, said="x"), "a plain number"),
            (TypedScore(person=person, window=self.first, said="999"), "not on the scale"),
            (TypedScore(person=person, window="2019-01-01", said="205"), "no school year"),
        ):
            with self.subTest(says), self.assertRaisesRegex(Invalid, says):
                scores.type_score(self.ctx, self.boss, self.measure, typed)
        with self.assertRaises(NotAllowed):
            scores.type_score(
                self.ctx,
                self.teacher_of(self.klass),
                self.measure,
                TypedScore(person=person, window=self.first, said="2"),
            )


class Grades(MeasuresCase):
    def test_grades_that_do_not_match_the_roster_are_asked_about(self) -> None:
        text = "student,grade,window,score\n" + "".join(f"{s},4,{self.first},200\n" for s in self.students)
        seen = scores.preview(self.ctx, self.boss, self.measure, {"s.csv": text.encode()})
        self.assertIn(
            f"{len(self.students)} of {len(self.students)} scores have another grade than the roster", seen.ask
        )
        self.assertIn("grade 4 in the file, 5 in the roster", seen.lines[0].detail)
        with self.assertRaises(Conflict):
            scores.apply(self.ctx, self.boss, self.measure, seen.id)
        scores.apply(self.ctx, self.boss, self.measure, seen.id, True)

    def test_cut_scores_are_told_as_one_types(self) -> None:
        wish = CutsWish(names=("Low", "There"), rows=[CutLine("5", "", [205])], goal=2, source="board", based=0)
        cuts.put_cuts(self.ctx, self.boss, self.measure, wish)

        def told(said: str) -> scores.TypedLevel:
            typed = TypedScore(person=self.ids[0], window=self.first, said=said)
            return scores.level_while_typing(self.ctx, self.boss, self.measure, typed)

        self.assertTrue(told("").says.endswith("There from 205."))
        self.assertTrue(told("205").says.endswith("205 is There."))
        self.assertTrue(told("204").says.endswith("204 is Low."))
        self.assertIn("not on the scale", told("999").problem)


class OwnBenchmarks(MeasuresCase):
    """A benchmark that is given here is a measure without anybody doing anything."""

    def benchmark(self, name: str, scale: str) -> int:
        found, _, _ = search.find_items(self.ctx, self.boss, limit=500)
        form = forms.create_form(self.ctx, self.boss, name, "", "Mathematics", "5", "benchmark")
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, [f.item.version_id for f in found])

        def put(db):  # type: ignore[no-untyped-def]
            db.get_one(Form, form.id).scale = scale

        self.ctx.store.write(put)
        return forms.publish(self.ctx, self.boss, form.id, form.revision).id

    def given(self, *scales: str) -> MeasureLine:
        self.bring_items(6)
        self.assertEqual([m.name for m in measures.measures_page(self.ctx, self.boss).measures], ["Tally"])
        self.forms = [self.benchmark(f"Form {at}", scale) for at, scale in enumerate(scales, 1)]
        for points, (form, window) in enumerate(zip(self.forms, (self.window_id, self.later_id), strict=True), 1):
            give(self, form, window, points)
        return next(m for m in measures.measures_page(self.ctx, self.boss).measures if m.own)

    def test_forms_that_are_not_linked_are_not_compared(self) -> None:
        own = self.given("", "")
        self.assertEqual((own.name, own.students, len(own.windows)), ("Mathematics benchmarks", len(self.students), 2))
        start, end = (w.id for w in own.windows)
        page = pair_page(self.ctx, self.boss, PairAsked(measure=own.id, start=start, end=end))
        self.assertEqual((page.n, page.missing), (0, len(self.students)))
        self.assertIn("forms that are not linked", page.finding)

    def test_forms_of_one_scale_are_a_measure_without_anybody_doing_anything(self) -> None:
        own = self.given("Mathematics 5", "Mathematics 5")
        start, end = (w.id for w in own.windows)
        asked = PairAsked(measure=own.id, start=start, end=end)
        page = pair_page(self.ctx, self.boss, asked)
        self.assertEqual(page.n, len(self.students))
        self.assertAlmostEqual(page.mean_gain or 0, 100 / 6, places=6)
        self.assertIs(pair_page(self.ctx, self.boss, asked), page, "kept while nothing moves")
        with self.assertRaisesRegex(Conflict, "benchmarks that are given here"):
            scores.preview(self.ctx, self.boss, own.id, {"s.csv": b"student,window,score\n1,Fall,2\n"})
        wish = CutsWish(names=("Not yet", "There"), rows=[CutLine("5", "", [30])], goal=2, source="s", based=0)
        cuts.put_cuts(self.ctx, self.boss, own.id, wish)
        with self.ctx.store.read() as db:
            form, window = db.get_one(Form, self.forms[0]), db.get_one(Window, self.window_id)
            told = levels_of_test(db, form, window)
            assert told is not None
            self.assertEqual([told.name_of(n, 6) for n in (1, 2)], ["Not yet", "There"])

    def test_absent_students_are_missing_with_their_reason(self) -> None:
        own = self.given("Mathematics 5", "Mathematics 5")

        def away(db):  # type: ignore[no-untyped-def]
            session = db.scalars(select(PlannedSession).where(PlannedSession.window_id == self.later_id)).one()
            for at, sitting in enumerate(session.sittings[:5]):
                sitting.state = "absent" if at < 3 else "exempt"
            session.data_version += 1
            db.flush()
            pack(db, session)

        self.ctx.store.write(away)
        start, end = (w.id for w in own.windows)
        page = pair_page(self.ctx, self.boss, PairAsked(measure=own.id, start=start, end=end))
        self.assertEqual(page.missing, 5)
        told = {r.reason.split(" in ")[0]: r.n for r in page.reasons}
        self.assertEqual(told, {"absent": 3, "exempt": 2})


if __name__ == "__main__":
    unittest.main()
