"""The workbench on the demo: every planted finding comes out of its question, and what is not yours stays shut."""

from __future__ import annotations

import time
import unittest.mock
from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.core.classical.settings import DEFAULTS
from bildung.services.bank import drafts, health, itempage
from bildung.services.bank.candidates import candidates
from bildung.services.quality import (
    comparison,
    effort,
    functioning,
    grid,
    item,
    mistakes,
    overview,
    reports,
    reteach,
    scope,
    trust,
    undecided,
    verdicts,
    views,
)
from bildung.services.quality.judged import judge, limits
from bildung.services.quality.lines import list_sat
from bildung.services.quality.printing.asked import ReportRequest
from bildung.services.quality.printing.write import QUESTIONS
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared import jobs
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.upkeep import studentrecord
from bildung.store.models import (
    Consent,
    Group,
    GroupMember,
    Item,
    ItemVersion,
    KeptReport,
    Mark,
    Person,
    Sitting,
    Verdict,
)
from tests.demo_case import DemoCase


class Scoping(DemoCase):
    def test_words_and_choices_follow_what_is_looked_at(self) -> None:
        found = scope.choices(self.ctx, self.boss, self.wanted("Fall mathematics 6"))
        self.assertEqual(found.words[1:], ["Fall mathematics 6", "all 5 classes"])
        self.assertEqual([(w.name[:4], w.n, w.chosen) for w in found.windows], [("Fall", 3, False), ("Fall", 5, True)])
        two = (self.class_id("Mathematics 6.1"), self.class_id("Mathematics 6.2"))
        narrow = scope.choices(self.ctx, self.boss, self.wanted("Fall mathematics 6", classes=two))
        self.assertEqual(narrow.words[2], "Mathematics 6.1, Mathematics 6.2")

    def test_two_windows_together_count_each_time_and_say_so(self) -> None:
        both = judge(self.ctx, self.boss, self.wanted("Fall mathematics 6", window=False))
        now = judge(self.ctx, self.boss, self.wanted("Fall mathematics 6"))
        self.assertGreater(both.analysis.distribution.n, now.analysis.distribution.n + 60)
        self.assertIn("2 windows together", "".join(p.text for p in both.finding))
        earlier = date(2026, 1, 1)
        before = judge(self.ctx, self.boss, replace(self.wanted("Fall mathematics 6", window=False), until=earlier))
        self.assertEqual(before.analysis.distribution.n + now.analysis.distribution.n, both.analysis.distribution.n)
        days = replace(self.wanted("Fall mathematics 6", window=False), since=earlier)
        self.assertEqual(judge(self.ctx, self.boss, days).analysis.distribution, now.analysis.distribution)

    def test_what_is_not_there_or_not_theirs_is_refused_and_nothing_is_left_out_silently(self) -> None:
        wanted = self.wanted("Fall mathematics 6")
        for narrower, said in (
            ({"classes": (self.class_id("Reading 7.1"),)}, "a class of this view"),
            ({"windows": (99,)}, "a window"),
            ({"sessions": (9999,)}, "a session"),
            ({"schools": (77,)}, "a school"),
            ({"groups": (555,)}, "a group"),
            ({"students": (987_654,)}, "a student"),
        ):
            with self.subTest(said=said), self.assertRaisesRegex(NotFound, said):
                judge(self.ctx, self.boss, replace(wanted, **narrower))  # type: ignore[arg-type]
        with self.assertRaisesRegex(Invalid, "choose a form"):
            judge(self.ctx, self.boss, ScopeRequest(forms=()))
        teacher = self.teacher_of("Reading 8.1")
        with self.assertRaises(NotFound):
            judge(self.ctx, teacher, wanted)

    def test_forms_without_a_common_item_are_not_put_together(self) -> None:
        six, seven = (self.wanted(f"Fall mathematics {grade}").forms[0] for grade in "67")
        with self.assertRaisesRegex(Conflict, "no item in common"):
            judge(self.ctx, self.boss, ScopeRequest(forms=(six, seven)))

    def test_a_group_narrows_and_a_few_strangers_are_not_shown(self) -> None:
        wanted = self.wanted("Fall mathematics 6")
        everybody = judge(self.ctx, self.boss, wanted)
        teacher = self.teacher_of("Mathematics 6.1")
        other = next(
            int(p)
            for p, s in zip(everybody.people, everybody.session, strict=True)
            if s not in judge(self.ctx, teacher, wanted).scoped.named
        )
        mine = [int(p) for p in judge(self.ctx, teacher, wanted).people[judge(self.ctx, teacher, wanted).named]][:3]

        def group(db: Any, people: list[int]) -> int:
            made = Group(
                name=f"Of {len(people)} {people[0]}",
                school_id=1,
                owner_id=teacher.person_id,
                created_at=self.ctx.clock(),
            )
            db.add(made)
            db.flush()
            db.add_all(GroupMember(group_id=made.id, person_id=p) for p in people)
            return made.id

        own = self.ctx.store.write(lambda db: group(db, mine))
        strange = self.ctx.store.write(lambda db: group(db, [other]))
        self.assertEqual(judge(self.ctx, teacher, replace(wanted, groups=(own,))).analysis.table.n, 3)
        with self.assertRaisesRegex(Conflict, "fewer than 5 students"):
            judge(self.ctx, teacher, replace(wanted, groups=(strange,)))
        self.assertEqual(judge(self.ctx, self.boss, replace(wanted, groups=(own,))).analysis.table.n, 3)

    def test_limits_move_the_flags_and_nonsense_is_refused(self) -> None:
        wanted = self.wanted("Fall reading 6")
        strict = judge(self.ctx, self.boss, wanted, limits({"very_hard": 0.7}))
        usual = judge(self.ctx, self.boss, wanted)
        count = lambda judged: sum(i.sound is False for i in judged.analysis.items)  # noqa: E731
        self.assertGreater(count(strict), count(usual) + 5)
        self.assertEqual(strict.analysis.distribution, usual.analysis.distribution)
        for said, words in (
            ({"very_odd": 0.1}, "no limit 'very_odd'"),
            ({"very_hard": 7.0}, "allowed is 0 to 1"),
            ({"least_option": 2.5}, "0 to 10000"),
        ):
            with self.assertRaisesRegex(Invalid, words):
                limits(said)

    def test_views_are_ones_own(self) -> None:
        kept = views.keep_view(self.ctx, self.boss, "Monday", "/quality/look", "?form=1&window=4")
        again = views.keep_view(self.ctx, self.boss, "Monday", "/quality/look/grid", "?form=1")
        self.assertEqual((again.id, again.path), (kept.id, "/quality/look/grid"))
        teacher = self.teacher_of("Mathematics 6.1")
        self.assertEqual(views.list_views(self.ctx, teacher), [])
        with self.assertRaises(NotFound):
            views.drop_view(self.ctx, teacher, kept.id)
        with self.assertRaisesRegex(Invalid, "under /quality"):
            views.keep_view(self.ctx, self.boss, "Away", "https://example.org", "")
        views.drop_view(self.ctx, self.boss, kept.id)
        self.assertEqual(views.list_views(self.ctx, self.boss), [])


class Planted(DemoCase):
    """What docs/demo.md lists, found by the question it belongs to."""

    def test_a_class_taught_differently_is_low_in_one_on_that_standard(self) -> None:
        found = comparison.compare_groups(self.ctx, self.boss, self.wanted("Fall mathematics 7"), "class", "standard")
        first = found.findings[0]
        self.assertEqual((first.item, first.group, first.finding), ("BAF-M7.1", "Mathematics 7.2", "low_in_one"))
        self.assertIn("Add, subtract and multiply integers (BAF-M7.1) is low in Mathematics 7.2 alone", found.finding)
        self.assertLess(first.difference or 0, -0.15)

    def test_what_was_not_taught_yet_is_read_as_such(self) -> None:
        found = comparison.compare_groups(self.ctx, self.boss, self.wanted("Fall mathematics 6"))
        late = [f for f in found.findings if f.finding == "not_taught"]
        self.assertTrue(late)
        by_name = {line.name: line for line in found.lines}
        names = [g.name for g in found.groups]
        for f in late:
            taught = by_name[f.item].taught
            self.assertFalse(any(taught) if f.group is None else taught[names.index(f.group)])
        self.assertFalse(
            [
                f
                for f in found.findings
                if f.finding == "low_in_one" and by_name[f.item].taught[names.index(f.group or "")] is False
            ]
        )

    def test_an_item_that_favors_a_group_is_called_a_question_at_this_size(self) -> None:
        found = functioning.functioning(self.ctx, self.boss, self.wanted("Fall mathematics 8"), "lives on")
        self.assertEqual((found.items[0].number, bool(found.items[0].says)), (10, True))
        self.assertTrue(found.exploratory)
        self.assertEqual({i.size for i in found.items}, {None})
        self.assertIn("take it as a question", found.items[0].says)
        self.assertLessEqual(sum(bool(i.says) for i in found.items), 2)

    def test_groups_are_guarded_by_number_and_by_role(self) -> None:
        wanted = self.wanted("Fall mathematics 8")
        with self.assertRaisesRegex(Conflict, "no two groups have 50"):
            functioning.functioning(self.ctx, self.boss, wanted, "home language")
        teacher = self.teacher_of("Mathematics 8.1")
        with self.assertRaises(NotFound):
            functioning.functioning(self.ctx, teacher, wanted, "school meals")
        self.assertEqual(functioning.by_size(self.ctx, self.boss, wanted)[0], "lives on")
        self.assertNotIn("school meals", functioning.by_size(self.ctx, teacher, wanted))
        with self.assertRaisesRegex(Conflict, "0 students of “the moon”"):
            functioning.functioning(self.ctx, self.boss, wanted, "lives on", "the moon", "the island")

    def test_the_same_mistake_is_found_with_who_holds_it(self) -> None:
        wanted = self.wanted("Fall mathematics 6")
        found = mistakes.find_mistakes(self.ctx, self.boss, wanted)
        self.assertEqual(found.mistakes[0].note, "adds tops and bottoms")
        self.assertGreaterEqual(found.mistakes[0].held, 9)
        self.assertEqual(len(found.mistakes[0].who), found.mistakes[0].held)
        self.assertEqual(len(found.mistakes[0].carriers), 6)
        teacher = self.teacher_of("Mathematics 6.1")
        mine = mistakes.find_mistakes(self.ctx, teacher, wanted).mistakes[0]
        self.assertEqual(mine.held, found.mistakes[0].held, "the figure is of the grade")
        self.assertTrue({w.klass for w in mine.who} <= {"Mathematics 6.1", "Mathematics 6.2"}, "the names are not")

    def test_a_speeded_form_and_hasty_students(self) -> None:
        slow = effort.time_and_effort(self.ctx, self.boss, self.wanted("Fall reading 8"))
        self.assertLess(slow.reached_last or 1, 0.8)
        self.assertIn("the time was too short", slow.finding)
        self.assertGreater(slow.unfinished or 0, 0.9 * (slow.limit or 0))
        self.assertRegex(
            effort.why_not_reached(0.65, 57.0 * 60, 90), "stopped with time left, half of them before minute 57 of 90"
        )
        self.assertIn("ran out of time, or stopped", effort.why_not_reached(0.65, None, 60))
        self.assertEqual(effort.why_not_reached(0.97, None, None), "")
        fast = effort.time_and_effort(self.ctx, self.boss, self.wanted("Fall reading 7"))
        self.assertGreater(fast.little, 5)
        self.assertEqual(len(fast.hasty), fast.little)
        self.assertTrue(all(h.effort < 0.9 for h in fast.hasty))
        self.assertEqual({i.rapid for _, i in fast.items[:16]}, {0})
        self.assertGreater(fast.students_left_out.mean or 0, fast.all.mean or 1)

    def test_the_severe_marker_shows_in_the_answers_marked_twice(self) -> None:
        wanted = self.wanted("Task mathematics 8")
        code = judge(self.ctx, self.boss, wanted).rows[0].item.code
        pair = item.item_view(self.ctx, self.boss, wanted, code).marking[0]
        self.assertEqual(pair.n, judge(self.ctx, self.boss, wanted).analysis.table.n)
        self.assertGreater(abs(pair.difference), 0.5)
        teacher = self.teacher_of("Mathematics 8.1")
        told = item.item_view(self.ctx, teacher, wanted, code).marking[0]
        self.assertNotIn(pair.first, (told.first, told.second), "markers are named to coordinators")

    def test_a_key_that_is_wrong_is_tried_and_what_would_move_is_said(self) -> None:
        wanted = self.wanted("Fall mathematics 6")
        view = item.item_view(self.ctx, self.boss, wanted, "M6-14")
        self.assertEqual([s.way for s in view.suggestions], ["key", "drop"])
        says, moved = item.try_out(self.ctx, self.boss, wanted, "M6-14", "key", view.suggestions[0].answer)
        self.assertGreater(moved.r_rest.after or 0, 0.2)
        self.assertRegex(
            says, r"^With [A-D] as the key \d+ of 1\d\d would have fewer points and \d+ of 1\d\d would have more points"
        )
        self.assertEqual(
            judge(self.ctx, self.boss, wanted).analysis.item("M6-14").figures.r_rest,
            moved.r_rest.before,
            "nothing is changed by trying",
        )
        for way, answer, said in (("guess", "", "one of key, also"), ("key", "Z", "no one answered")):
            with self.assertRaisesRegex(Invalid, said):
                item.try_out(self.ctx, self.boss, wanted, "M6-14", way, answer)
        with self.assertRaises(NotFound):
            item.item_view(self.ctx, self.boss, wanted, "NO-1")

    def test_an_item_stands_beside_its_classes_and_its_earlier_time(self) -> None:
        view = item.item_view(self.ctx, self.boss, self.wanted("Fall mathematics 6"), "M6-02")
        kinds = [b.kind for b in view.beside]
        self.assertEqual((kinds.count("view"), kinds.count("class"), kinds.count("earlier")), (1, 5, 1))
        classes = [b for b in view.beside if b.kind == "class"]
        self.assertEqual(sum(b.n for b in classes), view.beside[0].n)
        mean = sum((b.p or 0) * b.n for b in classes) / view.beside[0].n
        self.assertAlmostEqual(mean, view.beside[0].p or 0)
        one = item.item_view(
            self.ctx,
            self.boss,
            self.wanted("Fall mathematics 6", classes=(self.class_id("Mathematics 6.1"),)),
            "M6-02",
        )
        self.assertIn("federation", [b.kind for b in one.beside])

    def test_every_written_answer_leads_to_who_gave_it(self) -> None:
        wanted = self.wanted("Fall mathematics 6")
        judged = judge(self.ctx, self.boss, wanted)
        numeric = next(row.item.code for row in judged.rows if row.item.kind == "numeric")
        view = item.item_view(self.ctx, self.boss, wanted, numeric)
        given = item.given_answers(self.ctx, self.boss, wanted, numeric)
        for answer, n in ((given.answer, given.n) for given in view.answers):
            self.assertEqual(sum(g.answer == answer for g in given), n)


class Questions(DemoCase):
    def test_the_grid_is_what_was_answered_and_a_teacher_sees_their_own(self) -> None:
        wanted = self.wanted("Fall mathematics 6")
        judged = judge(self.ctx, self.boss, wanted)
        found = grid.grid(self.ctx, self.boss, wanted)
        self.assertEqual(
            (len(found.students), len(found.items), found.of), (judged.analysis.table.n, 34, judged.analysis.table.n)
        )
        for at in (0, 13, 33):
            column = found.items[at]
            given = {g.sitting: g.answer for g in item.given_answers(self.ctx, self.boss, wanted, column.item)}
            for place, student in enumerate(found.students):
                self.assertEqual(
                    grid.cell_text(column, int(column.codes[place])).replace("–", ""), given[student.sitting]
                )
        strange = min(found.students, key=lambda s: s.fit)
        opened = grid.open_student(self.ctx, self.boss, wanted, strange.sitting)
        self.assertEqual([at for at, r in enumerate(opened.residuals) if abs(r) > 2], strange.unexpected)
        teacher = self.teacher_of("Mathematics 6.3")
        mine = grid.grid(self.ctx, teacher, wanted)
        self.assertTrue({s.klass for s in mine.students} < {s.klass for s in found.students})
        self.assertEqual(mine.of, found.of)
        other = next(s for s in found.students if s.klass not in {m.klass for m in mine.students})
        with self.assertRaises(NotFound):
            grid.open_student(self.ctx, teacher, wanted, other.sitting)

    def test_parts_of_an_answer_are_slots(self) -> None:
        found = grid.grid(self.ctx, self.boss, self.wanted("Quick check mathematics 7"))
        several = [c for c in found.items if c.kind == "several"]
        self.assertTrue(several)
        for column in several:
            for label in column.labels:
                assert label.parts is not None
                self.assertEqual(len(label.parts), len(column.parts))
                if all(share == 1 for share in label.parts):
                    self.assertEqual(label.share, 1.0)
                if not any(label.parts):
                    self.assertEqual(label.share, 0.0)

    def test_teachers_are_named_to_coordinators_and_to_whom_they_agreed(self) -> None:
        wanted = self.wanted("Fall mathematics 7")
        names = [g.name for g in comparison.compare_groups(self.ctx, self.boss, wanted, "teacher").groups]
        self.assertFalse([n for n in names if n.startswith("Colleague")])
        me = self.teacher_of("Mathematics 7.1")
        seen = comparison.compare_groups(self.ctx, me, wanted, "teacher").groups
        self.assertEqual([g.name for g in seen if g.mine], [me.name])
        self.assertEqual(len([g for g in seen if g.name.startswith("Colleague")]), len(names) - 1)
        other = next(
            a
            for title in ("Mathematics 7.3", "Mathematics 7.4", "Mathematics 7.5")
            if (a := self.teacher_of(title)).person_id != me.person_id
        )
        self.ctx.store.write(
            lambda db: db.add(Consent(giver_id=other.person_id, receiver_id=me.person_id, given_at=self.ctx.clock()))
        )
        self.assertIn(other.name, [g.name for g in comparison.compare_groups(self.ctx, me, wanted, "teacher").groups])
        self.ctx.store.write(lambda db: db.execute(delete(Consent)))

    def test_windows_stand_in_the_order_of_time(self) -> None:
        found = comparison.compare_groups(
            self.ctx, self.boss, self.wanted("Fall mathematics 6", window=False), "window"
        )
        self.assertEqual([g.name[:2] for g in found.groups], ["1.", "2."])
        with self.assertRaisesRegex(Conflict, "two at least"):
            comparison.compare_groups(self.ctx, self.boss, self.wanted("Fall mathematics 6"), "school")
        with self.assertRaisesRegex(Invalid, "compared are"):
            comparison.compare_groups(self.ctx, self.boss, self.wanted("Fall mathematics 6"), "shoe size")

    def test_sub_scores_cover_all_items_once(self) -> None:
        for by in ("standard", "depth", "kind", "part"):
            _, found = overview.by_groups(self.ctx, self.boss, self.wanted("Fall mathematics 6"), DEFAULTS, by)
            self.assertEqual(sorted(p for s in found for p in s.places), list(range(34)))
        with self.assertRaisesRegex(Invalid, "grouped by"):
            overview.by_groups(self.ctx, self.boss, self.wanted("Fall mathematics 6"), DEFAULTS, "color")

    def test_trust_says_what_was_covered_by_sound_items(self) -> None:
        found = trust.trust_report(self.ctx, self.boss, self.wanted("Fall mathematics 6"), cuts=(0.5, 0.6))
        self.assertEqual([c.name for c in found.trust.cuts], ["50%", "60%"])
        self.assertEqual(
            found.coverage_says,
            "Everything in the blueprint was covered; by sound items alone BAF-M6.2 falls short of the blueprint.",
        )
        self.assertEqual({c.name: (c.low, c.have, c.sat, c.sound) for c in found.coverage}["BAF-M6.2"], (6, 6, 6, 5))
        bare = trust.trust_report(self.ctx, self.boss, self.wanted("Quick check mathematics 6"))
        self.assertEqual((bare.coverage, bare.coverage_says), ([], "This form has no blueprint."))
        self.assertEqual(
            found, trust.trust_report(self.ctx, self.boss, self.wanted("Fall mathematics 6"), cuts=(0.5, 0.6))
        )
        with self.assertRaisesRegex(Invalid, "cut scores"):
            trust.trust_report(self.ctx, self.boss, self.wanted("Fall mathematics 6"), cuts=(1.5,))

    def test_of_a_small_class_nothing_is_claimed_about_parts(self) -> None:
        wanted = self.wanted("Fall mathematics 6", classes=(self.class_id("Mathematics 6.2"),))
        found = trust.trust_report(self.ctx, self.boss, wanted)
        self.assertLess(found.n, 25)
        self.assertRegex(found.finding, r"Its sections cannot be judged \(\d+ students; 25 are needed\)")

    def test_the_list_to_teach_again_is_of_one_class_and_names_its_students(self) -> None:
        wanted = self.wanted("Fall mathematics 7")
        klass = self.class_id("Mathematics 7.2")
        found = reteach.reteach_list(self.ctx, self.boss, wanted, klass)
        self.assertEqual(found.standards[0].standard, "BAF-M7.1")
        self.assertTrue(found.standards[0].sure)
        self.assertEqual([s.share for s in found.standards], sorted(s.share for s in found.standards))
        low = {i.item for s in found.standards for i in s.items}
        judged = judge(self.ctx, self.boss, replace(wanted, classes=(klass,)))
        for i in judged.analysis.items:
            if i.item.name in low:
                self.assertLess(i.figures.p_all or 1, 0.6)
        with self.assertRaisesRegex(NotFound, "may not see"):
            reteach.reteach_list(
                self.ctx,
                self.teacher_of("Mathematics 7.1"),
                wanted,
                self.class_id("Mathematics 7.5")
                if self.teacher_of("Mathematics 7.5").person_id != self.teacher_of("Mathematics 7.1").person_id
                else -1,
            )
        with self.assertRaises(NotAllowed):
            reteach.reteach_list(
                self.ctx, Actor(person_id=1, name="W", grants=(Grant("writer", None),), sign_in_id=0, csrf=""), wanted
            )


class Verdicts(DemoCase):
    def version(self, code: str) -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(Item).where(Item.code == code)).one().versions[-1].id

    def usable(self, code: str) -> bool:
        with self.ctx.store.read() as db:
            return not next(
                c for c in candidates(self.ctx, db, self.boss, "Mathematics", "6") if c.code == code
            ).problem

    def test_a_verdict_holds_an_item_back_until_it_is_done_and_is_in_its_history(self) -> None:
        self.assertTrue(self.usable("M6-02"))
        form, window = (
            w[0] for w in (self.wanted("Fall mathematics 6").forms, self.wanted("Fall mathematics 6").windows)
        )
        with self.assertRaisesRegex(Invalid, "reason"):
            verdicts.say(self.ctx, self.boss, self.version("M6-02"), form, window, "rework", " ")
        verdicts.say(self.ctx, self.boss, self.version("M6-02"), form, window, "rework", "two questions in one")
        self.assertFalse(self.usable("M6-02"))
        finding, found = verdicts.list_verdicts(self.ctx, self.boss)
        self.assertIn("to rework", finding)
        mine = next(s for s in found if s.item == "M6-02")
        self.assertEqual((mine.done, mine.waits_for, mine.latest.by), (False, "for a reworked version", "Hanne Quill"))
        self.assertIn("Fall mathematics 6, Fall", mine.latest.where)
        verdicts.say(self.ctx, self.boss, self.version("M6-02"), form, window, "open", "")
        self.assertTrue(self.usable("M6-02"))
        lines = item.item_view(self.ctx, self.boss, self.wanted("Fall mathematics 6"), "M6-02").verdicts
        self.assertEqual([v.verdict for v in lines], ["open", "rework"])

    def test_keeping_lets_a_flagged_item_be_used_and_a_drop_waits_for_retirement(self) -> None:
        self.assertFalse(self.usable("M6-14"), "flagged as a problem")
        verdicts.say(self.ctx, self.boss, self.version("M6-14"), None, None, "keep", "looked at it")
        self.assertTrue(self.usable("M6-14"))
        verdicts.say(self.ctx, self.boss, self.version("M6-14"), None, None, "drop", "the key was wrong")
        self.ctx.store.write(
            lambda db: setattr(db.scalars(select(Item).where(Item.code == "M6-14")).one(), "state", "retired")
        )
        self.assertTrue(next(s for s in verdicts.list_verdicts(self.ctx, self.boss)[1] if s.item == "M6-14").done)

    def test_the_bank_knows_what_waits_and_a_field_test_that_came_answers_it_for_good(self) -> None:
        version = self.version("M6-07")
        verdicts.say(self.ctx, self.boss, version, None, None, "again", "too few of them")
        with self.ctx.store.read() as db:
            id = db.scalars(select(Item.id).where(Item.code == "M6-07")).one()
        page = itempage.item_page(self.ctx, self.boss, id)
        self.assertIn("Hanne Quill decided: field-test again; it waits to go into field test.", page.finding)
        waiting = {w.code: w.what for w in health.health(self.ctx, self.boss).waiting}
        self.assertEqual(waiting["M6-07"], "field-test again: too few of them")
        for state in ("field_test", "in_use"):
            drafts.move(self.ctx, self.boss, id, state)
            after = itempage.item_page(self.ctx, self.boss, id)
            self.assertNotIn("decided", after.finding)
        self.assertEqual([v.reason for v in after.verdicts], ["too few of them"])
        self.assertNotIn("M6-07", {w.code for w in health.health(self.ctx, self.boss).waiting})

    def test_a_teacher_decides_about_what_they_may_judge(self) -> None:
        form = self.wanted("Fall mathematics 6").forms[0]
        teacher = self.teacher_of("Mathematics 6.1")
        self.assertEqual(
            verdicts.say(self.ctx, teacher, self.version("M6-05"), form, None, "again", "too few of them").words,
            "field-test again",
        )
        for actor, version, of in (
            (self.teacher_of("Reading 8.1"), self.version("M6-05"), form),
            (teacher, self.version("M7-03"), form),
            (teacher, self.version("M6-05"), None),
        ):
            with self.assertRaises(NotFound):
                verdicts.say(self.ctx, actor, version, of, None, "drop", "no")
        with self.assertRaisesRegex(Invalid, "a decision is one of"):
            verdicts.say(self.ctx, self.boss, self.version("M6-05"), None, None, "burn", "x")  # type: ignore[arg-type]


class Undecided(DemoCase):
    def codes(self, actor: Actor | None = None) -> list[str]:
        return [u.item for u in undecided.list_undecided(self.ctx, actor or self.boss)]

    def say(self, code: str, what: str) -> None:
        with self.ctx.store.read() as db:
            version = db.scalars(select(Item).where(Item.code == code)).one().versions[-1].id
        verdicts.say(self.ctx, self.boss, version, None, None, what, "looked at")  # type: ignore[arg-type]

    def test_all_that_is_flagged_is_there_and_what_weighs_most_comes_first(self) -> None:
        found = undecided.list_undecided(self.ctx, self.boss)
        self.assertEqual([u.item for u in found[:2]], ["M6-14", "M7-14"])
        self.assertEqual([u.urgent for u in found], [True, True] + [False] * (len(found) - 2))
        for test in list_sat(self.ctx, self.boss):
            unsound = test.look if test.latest.year == found[0].at.year else 0
            self.assertEqual(sum(u.form == test.form for u in found) if unsound else 0, unsound, test.form)

    def test_one_verdict_takes_it_off_and_taking_back_or_another_sitting_brings_it_again(self) -> None:
        self.say("M6-14", "keep")
        self.assertNotIn("M6-14", self.codes())
        self.say("M6-14", "open")
        self.assertIn("M6-14", self.codes())
        self.say("M7-14", "keep")

        def before_it_was_sat(db: Session) -> None:
            last = db.scalars(select(Verdict).order_by(Verdict.id.desc())).first()
            assert last is not None
            last.at = last.at.replace(year=last.at.year - 1)

        self.ctx.store.write(before_it_was_sat)
        again = next(u for u in undecided.list_undecided(self.ctx, self.boss) if u.item == "M7-14")
        self.assertTrue(again.again)

    def test_retired_and_reworked_items_want_none(self) -> None:
        self.assertLessEqual({"R8-28", "R8-29"}, set(self.codes()))

        def retire(db: Session) -> None:
            db.scalars(select(Item).where(Item.code == "R8-28")).one().state = "retired"
            old = db.scalars(select(Item).where(Item.code == "R8-29")).one().versions[-1]
            db.add(
                ItemVersion(
                    item_id=old.item_id,
                    number=old.number + 1,
                    kind=old.kind,
                    shown=old.shown,
                    behind=old.behind,
                    created_at=old.created_at,
                )
            )

        self.ctx.store.write(retire)
        self.assertTrue({"R8-28", "R8-29"}.isdisjoint(self.codes()))

    def test_everybody_sees_what_they_may_judge(self) -> None:
        teacher = undecided.list_undecided(self.ctx, self.teacher_of("Reading 8.1"))
        self.assertEqual({u.form for u in teacher}, {"Fall reading 8"})
        writer = Actor(person_id=self.boss.person_id, name="W", grants=(Grant("writer", None),), sign_in_id=0, csrf="")
        self.assertEqual(self.codes(writer), [])
        words = undecided.finding(teacher, "No decisions yet.")
        self.assertEqual(words, f"{len(teacher)} items to decide. No decisions yet.")
        self.assertEqual(undecided.finding([], "2 open."), "2 open.")


class Reports(DemoCase):
    def asked(self, question: str, form: str = "Fall mathematics 6", **said: Any) -> ReportRequest:
        return ReportRequest(question=question, wanted=self.wanted(form), settings=DEFAULTS, **said)

    def made(self, id: int, actor: Actor | None = None) -> reports.ReportLine:
        for _ in range(3000):
            line = next(r for r in reports.list_reports(self.ctx, actor or self.boss) if r.id == id)
            if line.state != "making":
                return line
            time.sleep(0.1)
        raise AssertionError("the report was not made in five minutes")

    def test_each_question_is_answered_on_paper_and_on_sheets(self) -> None:
        one_class = self.wanted("Quick check mathematics 6", classes=(self.class_id("Mathematics 6.1"),))
        wanted = {"items": self.wanted("Quick check mathematics 6"), "students": one_class, "answers": one_class}
        ids = {
            (question, kind): reports.make(
                self.ctx,
                self.boss,
                replace(self.asked(question), wanted=wanted.get(question, self.wanted("Fall mathematics 6"))),
                kind,
                "Letter" if question == "trust" else "A4",  # type: ignore[arg-type]
            )
            for question in QUESTIONS
            for kind in ("pdf", "xlsx")
            if kind == "pdf" or question in ("test", "reteach")
        }
        pages = {}
        for (question, kind), id in ids.items():
            line = self.made(id)
            self.assertEqual((line.state, line.says), ("done", ""), question)
            name, ending, data = reports.file_of(self.ctx, self.boss, id)
            self.assertTrue(name.endswith(ending) and data.startswith(b"%PDF" if kind == "pdf" else b"PK"))
            self.assertEqual(line.pages is not None and line.pages > 0, kind == "pdf")
            pages[question, kind] = line.pages or 0
        self.assertGreater(pages["items", "pdf"], 4, "a block for every item")
        self.assertGreaterEqual(pages["students", "pdf"], 20, "a page for every student of the class")

    def test_a_report_is_its_owners_and_goes_with_a_student_it_names(self) -> None:
        teacher = self.teacher_of("Mathematics 6.1")
        id = reports.make(self.ctx, teacher, self.asked("answers"), "xlsx", "A4")
        self.assertEqual(self.made(id, teacher).state, "done")
        with self.assertRaises(NotFound):
            reports.file_of(self.ctx, self.boss, id)
        veiled = reports.make(self.ctx, teacher, self.asked("answers", veiled=True), "xlsx", "A4")
        self.assertEqual((self.made(veiled, teacher).veiled, self.made(veiled, teacher).named), (True, False))
        with self.ctx.store.read() as db:
            file = self.folder / "reports" / db.get_one(KeptReport, id).file
            session = db.get_one(KeptReport, id).sessions[0]
            person = db.scalars(select(Sitting.person_id).where(Sitting.session_id == session)).first() or 0
        self.assertTrue(file.exists())
        studentrecord.erase_person(self.ctx, self.boss, person, "a family asked for it")
        self.assertFalse(file.exists())
        self.assertEqual([r.id for r in reports.list_reports(self.ctx, teacher)], [veiled])
        reports.drop_report(self.ctx, teacher, veiled)
        self.assertEqual(list((self.folder / "reports").glob(f"{veiled}.*")), [])

    def test_what_was_being_made_is_begun_again_after_a_restart(self) -> None:
        def left(db: Any) -> int:
            wanted = {
                "wanted": {"forms": list(self.wanted("Fall reading 6").forms)},
                "settings": {"watch_line": 0.7},
                "klass": None,
                "veiled": False,
                "size": "A4",
            }
            row = KeptReport(
                person_id=self.boss.person_id,
                question="trust",
                title="t",
                wanted=wanted,
                sessions=[],
                named=False,
                format="pdf",
                state="making",
                created_at=self.ctx.clock(),
            )
            db.add(row)
            db.flush()
            return row.id

        id = self.ctx.store.write(left)
        self.assertEqual(reports.resume(self.ctx), 1)
        self.assertEqual(self.made(id).state, "done")
        self.assertEqual(reports.resume(self.ctx), 0)

    def test_one_that_the_end_of_the_server_stops_is_made_when_it_is_back(self) -> None:
        def ends(ctx: Context, actor: Actor, asked: ReportRequest, job: jobs.Job) -> None:
            jobs.stop_all(ctx)
            job.tell("judging", 1, 2)

        with unittest.mock.patch.object(reports, "write", ends):
            id = reports.make(self.ctx, self.boss, self.asked("test"), "pdf", "A4")
            self.ctx.own(reports.ReportWork).pool.submit(lambda: None).result()
        self.assertEqual(next(r.state for r in reports.list_reports(self.ctx, self.boss) if r.id == id), "making")
        self.assertEqual(reports.resume(self.ctx), 1)
        self.assertEqual(self.made(id).state, "done")

    def test_what_cannot_be_made_is_said(self) -> None:
        for question, format, size, said in (
            ("weather", "pdf", "A4", "no report 'weather'"),
            ("test", "doc", "A4", "pdf or xlsx"),
            ("test", "pdf", "A7", "A4 or Letter"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                reports.make(self.ctx, self.boss, self.asked(question), format, size)
        none = ReportRequest(
            question="classes",
            wanted=self.wanted("Fall mathematics 6", classes=(self.class_id("Mathematics 6.1"),)),
            settings=DEFAULTS,
        )
        line = self.made(reports.make(self.ctx, self.boss, none, "pdf", "A4"))
        self.assertEqual(line.state, "failed")
        self.assertIn("a comparison needs two", line.says)
        with self.assertRaisesRegex(Conflict, "could not be created"):
            reports.file_of(self.ctx, self.boss, line.id)

    def test_a_sample_is_a_picture_of_the_first_page(self) -> None:
        for question in ("test", "reteach", "students"):
            self.assertTrue(reports.sample(self.ctx, self.boss, self.asked(question), "A4").startswith(b"\x89PNG"))
        with self.assertRaises(NotAllowed):
            reports.sample(
                self.ctx,
                Actor(person_id=1, name="W", grants=(Grant("writer", None),), sign_in_id=0, csrf=""),
                self.asked("answers"),
                "A4",
            )

    def test_the_grid_as_a_file_has_every_answer_and_no_formula(self) -> None:
        wanted = self.wanted("Fall mathematics 7")
        sitting = grid.grid(self.ctx, self.boss, wanted).students[0]
        self.ctx.store.write(lambda db: setattr(db.get_one(Person, sitting.person), "given", "=SUM(A1)"))
        text = reports.grid_file(
            self.ctx, self.boss, ReportRequest(question="answers", wanted=wanted, settings=DEFAULTS), "csv"
        ).decode("utf-8-sig")
        lines = text.splitlines()
        self.assertEqual(len(lines), 1 + len(grid.grid(self.ctx, self.boss, wanted).students))
        self.assertTrue(any(line.startswith("'=SUM(A1)") for line in lines))
        veiled = reports.grid_file(
            self.ctx, self.boss, ReportRequest(question="answers", wanted=wanted, settings=DEFAULTS, veiled=True), "csv"
        ).decode("utf-8-sig")
        self.assertNotIn("SUM", veiled)


class Marks(DemoCase):
    def test_an_answer_waits_until_somebody_marked_it_and_the_mean_of_two_counts(self) -> None:
        wanted = self.wanted("Task mathematics 8")
        judged = judge(self.ctx, self.boss, wanted)
        place, sitting = judged.together.places[wanted.forms[0]][0], int(judged.together.sitting[judged.counted[0]])
        with self.ctx.store.read() as db:
            marks = list(db.scalars(select(Mark.points).where(Mark.form_item_id == place, Mark.sitting_id == sitting)))
            rest = list(db.scalars(select(Mark.points).where(Mark.form_item_id != place, Mark.sitting_id == sitting)))
        self.assertAlmostEqual(float(judged.analysis.scores.earned[0]), float(np.mean(marks)) + float(np.mean(rest)))
        self.ctx.store.write(
            lambda db: db.execute(delete(Mark).where(Mark.form_item_id == place, Mark.sitting_id == sitting))
        )
        after = judge(self.ctx, self.boss, wanted)
        self.assertEqual(after.analysis.counts["waiting"], 1)
        self.assertFalse(bool(after.analysis.scores.complete[0]))
