"""A view of one class keeps what is known of the test, and every number of students leads to their names."""

from __future__ import annotations

import csv
import io
from dataclasses import replace
from functools import partial
from unittest.mock import patch

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.classical.settings import DEFAULTS
from bildung.core.school.privacy import widening
from bildung.services.items.texts import begins
from bildung.services.quality import comparison, functioning, grid, reports, reteach, scope, undecided, verdicts
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.lines import list_sat
from bildung.services.quality.printing.asked import ReportRequest
from bildung.services.quality.whose import whose
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Invalid, NotAllowed, NotFound
from bildung.store.models import Form, PlannedSession, RoomEvent, Sitting
from tests.demo_case import DemoCase

FORM, KLASS = "Fall mathematics 6", "Mathematics 6.1"


class OneClass(DemoCase):
    def of_class(self, actor: Actor | None = None) -> Judged:
        return judge(self.ctx, actor or self.boss, self.wanted(FORM, classes=(self.class_id(KLASS),)))

    def test_the_wrong_key_of_the_grade_is_said_of_the_class_with_the_n_it_rests_on(self) -> None:
        whole, narrow = judge(self.ctx, self.boss, self.wanted(FORM)), self.of_class()
        said = "".join(piece.text for piece in narrow.finding)
        self.assertTrue(said.startswith("Item 14 probably carries a wrong key"), said)
        n = whole.analysis.items[13].figures.n
        self.assertEqual(narrow.analysis.items[13].judged_on, n)
        self.assertIn(f"judged on all {max(i.figures.n for i in whole.analysis.items)} who took it", said)
        self.assertEqual([i.sound for i in narrow.analysis.items], [i.sound for i in whole.analysis.items])

    def test_figures_stay_the_classes_own_and_so_does_the_watch_line(self) -> None:
        whole, narrow = judge(self.ctx, self.boss, self.wanted(FORM)), self.of_class()
        self.assertLess(narrow.analysis.distribution.n, whole.analysis.distribution.n)
        for item in narrow.analysis.items:
            low = any(flag.flag == "below_the_watch_line" for flag in item.flags)
            self.assertEqual(low, item.figures.p is not None and item.figures.p < narrow.analysis.settings.watch_line)

    def test_wider_groups_stand_beside_every_item_and_are_those_figures_of_the_whole(self) -> None:
        whole, narrow = judge(self.ctx, self.boss, self.wanted(FORM)), self.of_class()
        self.assertEqual(whole.levels, ())
        widest = narrow.levels[-1]
        self.assertIn("federation", widest.name)
        self.assertEqual(widest.n, whole.analysis.counts["sat"] + whole.analysis.counts["waiting"])
        for p, item in zip(widest.p, whole.analysis.items, strict=True):
            self.assertAlmostEqual(p or 0, item.figures.p or 0)

    def test_a_teacher_who_sees_one_class_has_the_same_judgment(self) -> None:
        teacher = self.teacher_of(KLASS)
        mine = judge(self.ctx, teacher, self.wanted(FORM))
        self.assertTrue("".join(p.text for p in mine.finding).startswith("Item 14 probably carries a wrong key"))
        line = next(s for s in list_sat(self.ctx, teacher) if s.form == FORM)
        self.assertTrue(line.first[0].urgent)
        self.assertEqual(
            (line.mean, line.low, line.high),
            (mine.analysis.distribution.mean, mine.analysis.distribution.min, mine.analysis.distribution.max),
        )


class Irregularities(DemoCase):
    def note(self, many: int) -> list[int]:
        """About attempts of the first class; the students' ids."""

        def work(db: Session) -> list[int]:
            rows = db.execute(
                select(Sitting.id, Sitting.session_id, Sitting.person_id)
                .join(PlannedSession, PlannedSession.id == Sitting.session_id)
                .join(Form, Form.id == PlannedSession.form_id)
                .where(Form.name == FORM, PlannedSession.class_id == self.class_id(KLASS), Sitting.state == "handed_in")
                .order_by(Sitting.id)
                .limit(many)
            ).all()
            for sitting, session, _ in rows:
                db.add(
                    RoomEvent(
                        session_id=session, sitting_id=sitting, kind="irregularity", words="x", at=self.ctx.clock()
                    )
                )
            db.add(
                RoomEvent(session_id=rows[0][1], sitting_id=None, kind="irregularity", words="x", at=self.ctx.clock())
            )
            return [person for _, _, person in rows]

        return self.ctx.store.write(work)

    def test_students_with_one_are_left_out_on_demand_and_only_then(self) -> None:
        before = judge(self.ctx, self.boss, self.wanted(FORM)).analysis
        noted = self.note(3)
        kept = judge(self.ctx, self.boss, self.wanted(FORM))
        self.assertEqual(kept.analysis.counts, before.counts)
        wanted = replace(self.wanted(FORM), regular=True)
        left = judge(self.ctx, self.boss, wanted)
        self.assertEqual(left.analysis.counts["sat"], before.counts["sat"] - 3)
        self.assertFalse(set(noted) & set(left.people.tolist()))
        said = scope.choices(self.ctx, self.boss, wanted)
        self.assertEqual((said.irregular, said.regular), (3, True))
        self.assertIn("without 3 students with an irregularity", said.words)
        self.assertEqual(reports._read(reports._plain(wanted)), wanted)


class Strangers(DemoCase):
    def test_a_teacher_of_a_whole_class_is_not_told_of_the_few_beside_it(self) -> None:
        teacher, wanted = self.teacher_of(KLASS), self.wanted(FORM, classes=(self.class_id(KLASS),))
        self.assertTrue(judge(self.ctx, teacher, wanted).named.all())
        self.assertTrue(judge(self.ctx, teacher, wanted).levels)
        few = partial(widening, least=10_000)  # as if everybody beside the class were fewer than the least
        with patch("bildung.services.quality.judged.widening", few):
            alone = judge(self.ctx, teacher, wanted)
            self.assertEqual((alone.levels, alone.analysis.judged_on), ((), None))
            known = judge(self.ctx, self.boss, wanted)  # sees all of them by name
            self.assertEqual([g.name for g in known.levels], ["federation"])

    def test_no_two_groups_that_are_shown_differ_by_a_few_strangers(self) -> None:
        def of(n: int) -> np.ndarray:
            return np.arange(40) < n

        nobody, all_ = np.zeros(40, dtype=bool), np.ones(40, dtype=bool)
        self.assertEqual(widening(of(20), [of(23), of(30), of(40)], all_), [False, True, True])
        self.assertEqual(widening(of(20), [of(30), of(33), of(36)], all_), [True, False, True])
        self.assertEqual(widening(of(20), [of(21), of(22)], nobody), [True, True])
        self.assertEqual(widening(of(20), [of(24), of(30)], of(25) & ~of(22)), [False, False])


class Names(DemoCase):
    def test_every_state_leads_to_its_students(self) -> None:
        wanted = self.wanted(FORM)
        counts = judge(self.ctx, self.boss, wanted).analysis.counts
        for of, n in (("absent", counts["absent"]), ("took", counts["sat"] + counts["waiting"])):
            found = whose(self.ctx, self.boss, wanted, of)
            self.assertEqual((found.n, found.hidden, len(found.named)), (n, 0, n), of)
        self.assertGreater(counts["absent"], 0)

    def test_answers_and_points_of_an_item_add_up(self) -> None:
        wanted = self.wanted(FORM)
        item = judge(self.ctx, self.boss, wanted).analysis.items[13]
        for row in item.options:
            of = "answer" if row.option else "omitted"
            self.assertEqual(whose(self.ctx, self.boss, wanted, of, "M6-14", row.option).n, row.n, row.option)
        got, missed = (whose(self.ctx, self.boss, wanted, of, "M6-14").n for of in ("got_it", "missed_it"))
        self.assertEqual(got + missed, item.figures.n)

    def test_every_group_that_is_compared_leads_to_its_students_and_no_further_than_they_may_see(self) -> None:
        wanted = self.wanted(FORM)
        for by in ("class", "teacher"):
            for head in comparison.compare_groups(self.ctx, self.boss, wanted, by).groups:
                self.assertEqual(whose(self.ctx, self.boss, wanted, "group", by, head.name).n, head.n, head.name)
        teacher = self.teacher_of(KLASS)
        own = whose(self.ctx, teacher, wanted, "group", "class", KLASS)
        self.assertEqual((own.hidden, len(own.named)), (0, own.n))
        strange = next(o.klass for o in judge(self.ctx, teacher, wanted).scoped.chosen if not o.named)
        other = whose(self.ctx, teacher, wanted, "group", "class", strange)
        self.assertEqual((other.named, other.hidden), ([], other.n))
        self.assertGreater(other.n, 0)
        with self.assertRaisesRegex(Invalid, "compared are"):
            whose(self.ctx, self.boss, wanted, "group", "shoe size", "40")

    def test_who_may_not_judge_is_told_nothing(self) -> None:
        wanted = self.wanted(FORM, classes=(self.class_id(KLASS),))
        theirs = whose(self.ctx, self.teacher_of(KLASS), wanted, "took")
        self.assertTrue(theirs.named)
        writer = Actor(person_id=self.boss.person_id, name="", grants=(Grant("writer", None),), sign_in_id=0, csrf="")
        with self.assertRaises(NotAllowed):
            whose(self.ctx, writer, wanted, "took")
        with self.assertRaises(NotFound):
            whose(self.ctx, self.teacher_of("Reading 8.1"), wanted, "took")

    def test_a_number_that_there_is_not_is_refused(self) -> None:
        wanted = self.wanted(FORM)
        with self.assertRaisesRegex(Invalid, "names are shown of took, sat"):
            whose(self.ctx, self.boss, wanted, "left")
        with self.assertRaisesRegex(Invalid, "points are a number"):
            whose(self.ctx, self.boss, wanted, "points", "", "many")

    def test_who_gave_the_commonest_wrong_answers_is_named_with_the_list_to_teach_again(self) -> None:
        found = reteach.reteach_list(self.ctx, self.teacher_of(KLASS), self.wanted(FORM))
        wrong = [w for s in found.standards for i in s.items for w in i.wrong]
        self.assertTrue(wrong)
        for one in wrong:
            self.assertEqual(len(one.who), one.n)
            self.assertTrue(all(p.name and p.klass == KLASS for p in one.who))
        aliases = {p.person: p.alias for w in wrong for p in w.who} | {
            n.person: n.alias for s in found.standards for n in s.need
        }
        for person, alias in ((n.person, n.alias) for s in found.standards for n in s.need):
            self.assertEqual(aliases[person], alias)


class Veiled(DemoCase):
    def test_the_grid_and_its_file_give_the_same_student_the_same_alias_and_the_file_says_that_names_are_hidden(
        self,
    ) -> None:
        wanted = self.wanted(FORM, classes=(self.class_id(KLASS),))
        shown = grid.grid(self.ctx, self.boss, wanted)
        data = reports.grid_file(
            self.ctx,
            self.boss,
            ReportRequest(question="answers", wanted=wanted, settings=DEFAULTS, klass=None, veiled=True),
            "csv",
        )
        rows = list(csv.reader(io.StringIO(data.decode("utf-8-sig"))))
        self.assertEqual(rows[0][0], "student (names hidden)")
        self.assertEqual(
            [row[0] for row in rows[1:]],
            [
                ReportRequest(question="answers", wanted=wanted, settings=DEFAULTS, klass=None, veiled=True).name(
                    s.name, s.alias
                )
                for s in shown.students
            ],
        )
        self.assertEqual(len({row[0] for row in rows[1:]}), len(shown.students))
        text = data.decode("utf-8-sig")
        self.assertFalse([s.name for s in shown.students if s.name in text])
        took = {p.person: p.alias for p in whose(self.ctx, self.boss, wanted, "took").named}
        self.assertEqual(
            {s.person: s.alias for s in shown.students}, {s.person: took[s.person] for s in shown.students}
        )


class ItemTexts(DemoCase):
    def test_every_table_of_items_has_the_same_first_words_of_an_item(self) -> None:
        wanted = self.wanted(FORM)
        row = judge(self.ctx, self.boss, wanted).rows[13]
        words = begins(row.item)
        self.assertTrue(words.startswith("Of 80 boats in the harbor"), words)
        beside = comparison.compare_groups(self.ctx, self.boss, wanted)
        self.assertEqual(next(line.text for line in beside.lines if line.name == "M6-14"), words)
        self.assertNotIn(words, beside.finding)
        undecided_here = undecided.list_undecided(self.ctx, self.boss)
        self.assertEqual(next(u.text for u in undecided_here if u.item == "M6-14"), words)
        other = self.wanted("Fall mathematics 8")
        first = judge(self.ctx, self.boss, other).rows[0].item
        found = functioning.functioning(self.ctx, self.boss, other, "lives on")
        self.assertEqual(next(i.text for i in found.items if i.item == first.code), begins(first))
        verdicts.say(self.ctx, self.boss, row.item.version_id, None, None, "rework", "wrong key")
        self.assertEqual([s.text for s in verdicts.list_verdicts(self.ctx, self.boss)[1] if s.item == "M6-14"], [words])

    def test_long_text_is_cut_between_words(self) -> None:
        item = judge(self.ctx, self.boss, self.wanted(FORM)).rows[0].item
        long = replace(item, shown=item.shown.model_copy(update={"body": f"<p>{'word ' * 80}</p>"}))
        self.assertLessEqual(len(begins(long)), 160)
        self.assertTrue(begins(long).endswith("word…"))
