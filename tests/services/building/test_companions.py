"""Families of forms: made, who receives which, sat side by side, judged apart, corrected, tried out."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from sqlalchemy import select

from bildung.formats.blueprint import FormSettings, settings_of
from bildung.services.answers import itemhistory
from bildung.services.bank import itemimport, search
from bildung.services.building import (
    checklist,
    corrections,
    formfamily,
    forms,
    formsettings,
    makecompanions,
    trialrun,
    units,
)
from bildung.services.building.makecompanions import Wish
from bildung.services.door import signin
from bildung.services.people import accommodations, groups
from bildung.services.people.accommodations import Entered
from bildung.services.quality.judged import judge
from bildung.services.quality.lines import list_sat
from bildung.services.quality.scope import ScopeRequest
from bildung.services.sessions import listing, running, scheduling
from bildung.services.shared import jobs
from bildung.services.shared.access import Sitter
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.sitting import reviewing, saving, signs, taking
from bildung.services.sitting.events import Answer
from bildung.store.models import (
    CoursePlan,
    Form,
    FormItem,
    Item,
    LaterAttempt,
    Lesson,
    Person,
    PlannedSession,
    Response,
    SchoolYear,
    Sitting,
)
from tests.support import NOON, WorldCase, small_roster

STANDARDS = ("N.1", "N.2", "N.3")


class FamilyCase(WorldCase):
    """Eight students and 24 choice items of three standards; the key is always A."""

    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(8))
        lines = ["code,type,stem,key,option_A,option_B,option_C,option_D,standards,subject,grade"]
        lines += [
            f"C-{at:02},choice,What goes with {at}?,A,right {at},wrong {at},odd {at},far {at},{STANDARDS[at % 3]},Mathematics,5"
            for at in range(24)
        ]
        look = itemimport.preview_items(self.ctx, self.boss, {"i.csv": "\n".join(lines).encode()})
        itemimport.apply_items(self.ctx, self.boss, look.id)
        found, _, _ = search.find_items(self.ctx, self.boss, limit=100)
        self.versions = {f.item.code: f.item.version_id for f in found}

    def form(self, name: str = "Winter 5", codes: range = range(12), kind: str = "unit", publish: bool = True) -> int:
        made = forms.create_form(self.ctx, self.boss, name, "Winter test", "Mathematics", "5", kind)
        made = forms.set_items(
            self.ctx, self.boss, made.id, made.revision, [self.versions[f"C-{at:02}"] for at in codes]
        )
        return self.publish(made.id) if publish else made.id

    def publish(self, id: int) -> int:
        return forms.publish(self.ctx, self.boss, id, forms.get_form(self.ctx, self.boss, id).revision).id

    def settle(self, id: int, **said: Any) -> None:
        now = forms.get_form(self.ctx, self.boss, id)
        wanted = FormSettings.model_validate({**now.settings.model_dump(), **said})
        formsettings.change(self.ctx, self.boss, id, now.revision, now.title, now.kind, "", wanted)

    def companion(self, id: int, way: str, publish: bool = True, **said: Any) -> int:
        made = makecompanions.make(self.ctx, self.boss, id, Wish(way=way, **said), jobs.begin(self.ctx, self.boss, ""))  # type: ignore[arg-type]
        return self.publish(made.form_id) if publish else made.form_id

    def plan(self, form: int, class_id: int | None = None, **said: Any) -> int:
        return scheduling.schedule(
            self.ctx,
            self.boss,
            form,
            self.window_id,
            [class_id or self.class_id()],
            "",
            None,
            NOON - timedelta(minutes=5),
            NOON + timedelta(hours=1),
            **said,
        )[0]

    def students(self) -> list[int]:
        with self.ctx.store.read() as db:
            codes = self.codes_of(self.class_id())
            return list(
                db.scalars(
                    select(Person.id).where(Person.code.in_(codes)).order_by(Person.family, Person.given, Person.id)
                )
            )

    def begin(self, session: int, person: int) -> Sitter:
        with self.ctx.store.read() as db:
            code, own = db.get_one(PlannedSession, session).code, db.get_one(Person, person).code
        token = signin.sign_in_student(self.ctx, code, own or "", f"10.0.0.{person % 250}")
        return signin.sitter_of(self.ctx, token.secret)

    def answer(self, me: Sitter, question: int, text: str, sequence: int = 1, reached: int = 0) -> saving.Receipt:
        id = f"{me.sitting_id:04}-{question:04}-{sequence:04}-{text}-{me.takeover}"
        return saving.save(
            self.ctx,
            me,
            [Answer(id=id, question=question, answer=text, takeover=me.takeover, sequence=sequence)],
            reached,
        )

    def sit(self, session: int, person: int, right: int, hand_in: bool = True) -> Sitter:
        """The first `right` questions right, the others wrong."""
        me = self.begin(session, person)
        for at, q in enumerate(taking.paper(self.ctx, me).questions):
            self.answer(me, q.id, "A" if at < right else "B", at + 1)
        if hand_in:
            taking.hand_in(self.ctx, me)
        return me

    def form_of(self, session: int, person: int) -> int:
        with self.ctx.store.read() as db:
            row = db.scalars(select(Sitting).where(Sitting.session_id == session, Sitting.person_id == person)).one()
            return row.form_id or db.get_one(PlannedSession, session).form_id

    def group(self, name: str, people: list[int]) -> int:
        return groups.make_group(self.ctx, self.boss, name, None, None, people)


class Making(FamilyCase):
    def test_a_shortened_form_has_fewer_of_each_standard_and_only_items_of_the_long_one(self) -> None:
        general = self.form()
        made = makecompanions.make(
            self.ctx, self.boss, general, Wish(way="shortened"), jobs.begin(self.ctx, self.boss, "")
        )
        short = forms.get_form(self.ctx, self.boss, made.form_id)
        self.assertEqual(sorted(short.coverage), [("N.1", 2), ("N.2", 2), ("N.3", 2)])
        long = forms.get_form(self.ctx, self.boss, general)
        self.assertLess({i.version_id for i in short.items}, {i.version_id for i in long.items})
        self.assertEqual((short.role, short.title, long.role), ("shortened", "Winter test", "general"))
        self.assertIn("6 items, 6 of them shared with Winter 5", made.says)
        look = formfamily.get_family(self.ctx, self.boss, made.family_id or 0)
        against = next(f.against for f in look.forms if f.role == "shortened")
        assert against is not None
        self.assertFalse(against.same_scale)
        self.assertIn("by share and standard", against.comparable)

    def test_an_adapted_form_leaves_the_wrong_options_that_students_chose(self) -> None:
        general = self.form(codes=range(6))
        session = self.plan(general)
        for person in self.students():
            me = self.begin(session, person)
            for at, q in enumerate(taking.paper(self.ctx, me).questions):
                self.answer(me, q.id, ("A", "D", "D", "C")[(person + at) % 4], at + 1)
            taking.hand_in(self.ctx, me)
        running.close(self.ctx, self.boss, session)
        itemhistory.refresh(self.ctx)
        adapted = self.companion(general, "adapted", publish=False)
        with self.ctx.store.read() as db:
            faces = [i.face for i in db.get_one(Form, adapted).items]
        self.assertEqual(faces, [{"1": ["A", "C", "D"]}] * 6)
        shown = trialrun.begin(self.ctx, self.boss, adapted)
        self.assertEqual([o.id for o in shown.questions[0].shown.parts[0].options], ["A", "C", "D"])  # type: ignore[union-attr]
        self.assertTrue(shown.large_print)
        self.assertIn("read aloud", " ".join(shown.says))

    def test_an_alternate_form_has_the_same_items_in_another_order_and_the_same_scale(self) -> None:
        general = self.form()
        other = self.companion(general, "alternate")
        one, two = (forms.get_form(self.ctx, self.boss, id) for id in (general, other))
        self.assertEqual({i.code for i in one.items}, {i.code for i in two.items})
        self.assertNotEqual([i.code for i in one.items], [i.code for i in two.items])
        self.assertEqual(two.faces, 12)
        look = formfamily.get_family(self.ctx, self.boss, two.family_id or 0)
        against = next(f.against for f in look.forms if f.id == other)
        assert against is not None
        self.assertEqual((against.items, against.comparable), (12, "point by point: the same items"))

    def test_a_fresh_form_for_retakes_has_nothing_of_what_was_seen(self) -> None:
        general = self.form()
        fresh = forms.get_form(self.ctx, self.boss, self.companion(general, "parallel", publish=False))
        self.assertEqual({i.code for i in fresh.items}, {f"C-{at:02}" for at in range(12, 24)})
        # a class that sat the rest as well leaves nothing
        other = self.form("Other", range(12, 24))
        session = self.plan(other)
        self.sit(session, self.students()[0], 3)
        with self.assertRaisesRegex(Conflict, "the bank has no such form"):
            self.companion(general, "parallel", publish=False, class_id=self.class_id())
        # of one student it asks what that student has begun, whoever else has seen more
        lone = self.form("Lone")
        first, second = self.students()[:2]
        with self.assertRaisesRegex(Conflict, "the bank has no such form"):
            self.companion(lone, "parallel", publish=False, person_id=first)
        self.assertTrue(self.companion(lone, "parallel", publish=False, person_id=second))
        with self.assertRaisesRegex(NotFound, "no such student"):
            self.companion(general, "parallel", publish=False, person_id=999_999)

    def test_a_mirror_stands_alone_and_is_practice(self) -> None:
        general = self.form()
        mirror = forms.get_form(self.ctx, self.boss, self.companion(general, "mirror"))
        self.assertEqual((mirror.kind, mirror.family_id, mirror.mirror_id), ("mirror", None, general))
        self.assertEqual((mirror.settings.feedback, mirror.settings.evidence), ("now", False))
        self.assertFalse({i.code for i in mirror.items} & {f"C-{at:02}" for at in range(12)})

    def test_what_cannot_be_made_is_said_and_leaves_nothing(self) -> None:
        empty = forms.create_form(self.ctx, self.boss, "Empty", "", "Mathematics", "5").id
        thin = self.form("Thin", range(3), publish=False)
        for id, wish, said in (
            (empty, Wish(way="adapted"), "has no items yet"),
            (thin, Wish(way="shortened"), "at least one of each"),
            (thin, Wish(way="shortened", share=2.0), "a tenth to 95"),
            (thin, Wish(way="adapted", options=1), "2 to 10 options"),
            (thin, Wish(way="demanding"), "not used yet"),
            (999, Wish(way="adapted"), "no such form"),
        ):
            with self.subTest(said=said), self.assertRaisesRegex((Conflict, Invalid, NotFound), said):
                makecompanions.make(self.ctx, self.boss, id, wish, jobs.begin(self.ctx, self.boss, ""))
        with self.ctx.store.read() as db:
            self.assertEqual(len(db.scalars(select(Form)).all()), 2)


class Receiving(FamilyCase):
    def setUp(self) -> None:
        super().setUp()
        self.general = self.form()
        self.short = self.companion(self.general, "shortened")
        self.family = forms.get_form(self.ctx, self.boss, self.short).family_id or 0

    def rule(self, form: int, group: int | None = None, person: int | None = None) -> formfamily.FormFamily:
        return formfamily.add_rule(self.ctx, self.boss, self.family, form, group, person)

    def test_a_group_a_need_and_everybody_else(self) -> None:
        people = self.students()
        self.rule(self.short, self.group("Small steps", people[:2]))
        accommodations.enter(self.ctx, self.boss, people[2], Entered(kind="form", value="shortened"))
        session = self.plan(self.general)
        self.assertEqual(
            [self.form_of(session, p) for p in people], [self.short] * 3 + [self.general] * (len(people) - 3)
        )
        detail = listing.get_session(self.ctx, self.boss, session)
        self.assertIn("3 take a companion form.", detail.finding)
        self.assertEqual([s.items for s in detail.sittings], [6] * 3 + [12] * (len(people) - 3))

    def test_students_see_one_title_and_only_their_own_items(self) -> None:
        people = self.students()
        self.rule(self.short, person=people[0])
        session = self.plan(self.general)
        one, other = (taking.paper(self.ctx, self.begin(session, p)) for p in people[:2])
        self.assertEqual((one.title, other.title), ("Winter test", "Winter test"))
        self.assertEqual((len(one.questions), len(other.questions)), (6, 12))
        self.assertNotIn("shortened", json.dumps([q.shown.model_dump() for q in one.questions]))
        strange = next(q.id for q in other.questions)
        receipt = self.answer(self.begin(session, people[0]), strange, "A")
        self.assertEqual(receipt.refused[0][1], "this question is not on your test")

    def test_two_groups_are_found_stop_publishing_and_planning_and_are_settled_by_a_choice(self) -> None:
        people = self.students()
        adapted = self.companion(self.general, "adapted", publish=False)
        self.rule(self.short, self.group("A", people[:3]))
        look = self.rule(adapted, self.group("B", people[2:4]))
        self.assertEqual([(u.person_id, len(u.claims)) for u in look.unsettled], [(people[2], 2)])
        self.assertIn("1 student is assigned two forms", look.finding)
        with self.assertRaisesRegex(Invalid, "would receive two forms"):
            self.publish(adapted)
        self.rule(adapted, person=people[2])
        self.publish(adapted)
        session = self.plan(self.general)
        self.assertEqual([self.form_of(session, p) for p in people[:4]], [self.short, self.short, adapted, adapted])

    def test_groups_that_changed_since_stop_the_planning_with_names(self) -> None:
        people = self.students()
        adapted = self.companion(self.general, "adapted")
        self.rule(self.short, self.group("A", people[:2]))
        other = self.group("B", people[4:5])
        self.rule(adapted, other)
        groups.put_members(self.ctx, self.boss, other, [people[0]], [])
        with self.assertRaisesRegex(Conflict, "would receive two different forms"):
            self.plan(self.general)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(PlannedSession)).all(), [])

    def test_alike_forms_are_dealt_in_turn_where_it_is_asked_for(self) -> None:
        other = self.companion(self.general, "alternate")
        session = self.plan(self.general, deal=True)
        forms = [self.form_of(session, p) for p in self.students()]
        self.assertEqual(forms, [self.general, other] * (len(forms) // 2))

    def test_a_rule_that_comes_later_reaches_whoever_has_not_begun(self) -> None:
        people = self.students()
        session = self.plan(self.general)
        self.begin(session, people[0])
        look = self.rule(self.short, self.group("Late", people[:2]))
        self.assertEqual([self.form_of(session, p) for p in people[:2]], [self.general, self.short])
        formfamily.drop_rule(self.ctx, self.boss, self.family, look.rules[-1].id)
        self.assertEqual(self.form_of(session, people[1]), self.general)

    def test_each_form_is_judged_by_those_who_sat_it(self) -> None:
        people = self.students()
        self.rule(self.short, self.group("Small steps", people[:3]))
        session = self.plan(self.general)
        for at, person in enumerate(people):
            self.sit(session, person, at + 1 if at < 3 else at)
        for closed in (False, True):
            if closed:
                running.close(self.ctx, self.boss, session)
            with self.subTest(closed=closed):
                short = judge(
                    self.ctx, self.boss, ScopeRequest(forms=(self.short,), windows=(self.window_id,))
                ).analysis
                long = judge(
                    self.ctx, self.boss, ScopeRequest(forms=(self.general,), windows=(self.window_id,))
                ).analysis
                self.assertEqual((short.counts["sat"], long.counts["sat"]), (3, len(people) - 3))
                self.assertEqual(sorted(short.scores.earned.tolist()), [1.0, 2.0, 3.0])
                self.assertEqual(len(short.items), 6)
        itemhistory.refresh(self.ctx)
        sat = {s.form_id: s.sat for s in list_sat(self.ctx, self.boss)}
        self.assertEqual(sat, {self.short: 3, self.general: len(people) - 3})
        code = short.items[0].item.name
        found = search.find_items(self.ctx, self.boss, f"{code}", limit=5)[0][0]
        self.assertEqual(
            sorted(u.n for u in found.uses),
            sorted([3, len(people) - 3]) if found.uses[0].n >= 5 else [3, len(people) - 3],
        )

    def test_companions_together_are_looked_at_by_their_common_items_and_it_is_said(self) -> None:
        people = self.students()
        self.rule(self.short, self.group("Small steps", people[:3]))
        session = self.plan(self.general)
        for person in people:
            self.sit(session, person, 4)
        both = judge(self.ctx, self.boss, ScopeRequest(forms=(self.general, self.short), windows=(self.window_id,)))
        self.assertEqual((both.analysis.table.n, len(both.analysis.items)), (len(people), 6))
        self.assertIn("By the 6 items that", "".join(p.text for p in both.finding))
        alone = judge(self.ctx, self.boss, ScopeRequest(forms=(self.short,), windows=(self.window_id,)))
        code = alone.analysis.items[0].item.name
        self.assertEqual(both.analysis.item(code).figures.n, len(people))

    def test_shuffled_options_are_the_same_item_and_dropped_ones_are_not(self) -> None:
        other, adapted = (self.companion(self.general, way) for way in ("alternate", "adapted"))
        people = self.students()
        self.rule(other, self.group("Right", people[:4]))
        session = self.plan(self.general)
        for person in people:
            self.sit(session, person, 12)
        both = judge(self.ctx, self.boss, ScopeRequest(forms=(self.general, other), windows=(self.window_id,)))
        self.assertEqual(len(both.analysis.items), 12)
        self.assertEqual(both.analysis.distribution.mean, 12.0, "the key is known by its id, wherever it stood")
        with self.assertRaisesRegex(Conflict, "no item in common"):
            judge(self.ctx, self.boss, ScopeRequest(forms=(self.general, adapted), windows=(self.window_id,)))

    def test_the_same_class_never_gets_two_companions_in_a_window(self) -> None:
        self.plan(self.general)
        with self.assertRaisesRegex(Conflict, "this form or a companion of it"):
            self.plan(self.short)

    def test_rules_are_checked(self) -> None:
        stranger = self.form("Stranger", range(2))
        for form, group, person, said in (
            (stranger, None, self.students()[0], "a form of this family"),
            (self.short, None, None, "a group or a student"),
            (self.short, 999, None, "no such group"),
            (self.short, None, self.boss_id, "no such student"),
        ):
            with self.subTest(said=said), self.assertRaisesRegex((Invalid, NotFound), said):
                formfamily.add_rule(self.ctx, self.boss, self.family, form, group, person)

    def test_a_family_without_common_points_says_so(self) -> None:
        fresh = self.companion(self.general, "parallel")
        look = formfamily.get_family(self.ctx, self.boss, self.family)
        self.assertIn(
            "shares no points with the general form: results compare by share and standard only", look.finding
        )
        checks = {c.name: c for c in checklist.checklist(self.ctx, self.boss, fresh)}
        self.assertEqual(checks["companions"].weight, "look")


class Settings(FamilyCase):
    def test_a_time_limit_runs_from_the_start_and_the_rest_is_handed_in(self) -> None:
        form = self.form(publish=False)
        self.settle(form, minutes=20)
        session = self.plan(self.publish(form))
        me = self.sit(session, self.students()[0], 5, hand_in=False)
        self.assertEqual(taking.paper(self.ctx, me).end, NOON + timedelta(minutes=20))
        self.clock.pass_by(minutes=22)
        self.assertEqual(taking.hand_in_overdue(self.ctx), 0)  # what a device held back may still come in
        self.clock.pass_by(minutes=4)
        signs.sign(self.ctx, me, "here")
        self.assertEqual(taking.hand_in_overdue(self.ctx), 1)
        with self.ctx.store.read() as db:
            row = db.get_one(Sitting, me.sitting_id)
            self.assertEqual((row.state, row.handed_in_at), ("handed_in", NOON + timedelta(minutes=20)))

    def test_what_was_left_behind_stays_where_a_test_runs_one_way(self) -> None:
        form = self.form(publish=False)
        self.settle(form, movement="one", back=False)
        me = self.begin(self.plan(self.publish(form)), self.students()[0])
        paper = taking.paper(self.ctx, me)
        self.assertTrue(paper.one_way)
        first, second = (q.id for q in paper.questions[:2])
        self.answer(me, first, "A", 1)
        self.answer(me, second, "A", 2, reached=1)
        self.assertEqual(self.answer(me, first, "B", 3).refused[0][1], "this question was left behind")
        self.assertEqual(taking.paper(self.ctx, me).reached, 1)
        self.assertEqual(self.answer(me, second, "C", 4).refused, [])

    def test_an_answer_that_was_told_of_stays(self) -> None:
        form = self.form(publish=False, kind="")
        self.settle(form, movement="one", back=False, feedback="now")
        me = self.begin(self.plan(self.publish(form)), self.students()[0])
        first = taking.paper(self.ctx, me).questions[0].id
        with self.assertRaisesRegex(Conflict, "answer the question first"):
            taking.check(self.ctx, me, first)
        self.answer(me, first, "B", 1)
        told = taking.check(self.ctx, me, first)
        self.assertEqual((told.verdict, told.earned, told.right), ("wrong", 0.0, ""), "others still take this test")
        self.assertIn("so it stays", self.answer(me, first, "A", 2).refused[0][1])
        self.assertTrue(taking.paper(self.ctx, me).questions[0].final)

    def test_right_answers_wait_until_nobody_can_be_given_the_same_items(self) -> None:
        form = self.form(publish=False, kind="unit")
        self.settle(form, feedback="hand_in")
        early, late = self.plan(self.publish(form)), self.plan(form, self.class_id("Reading"))
        me = self.sit(early, self.students()[0], 5)
        self.assertTrue(taking.paper(self.ctx, me).review_follows)
        for close in (early, late):
            self.assertFalse(taking.paper(self.ctx, me).review)
            with self.assertRaisesRegex(Conflict, "another class may still take this test"):
                reviewing.review_own(self.ctx, me)
            running.close(self.ctx, self.boss, close)
        self.assertTrue(taking.paper(self.ctx, me).review)
        self.assertEqual(reviewing.review_own(self.ctx, me).told[0].right, "right 0")

    def test_right_answers_come_early_where_that_was_decided_at_the_form_or_for_practice(self) -> None:
        for kind, settings in (
            ("unit", {"feedback": "hand_in", "early": True}),
            ("mirror", {"feedback": "now", "movement": "one", "back": False}),
        ):
            with self.subTest(kind):
                form = self.form(f"A {kind} test", publish=False, kind=kind)
                self.settle(form, **settings)
                session = self.plan(self.publish(form), self.class_id("Reading" if kind == "mirror" else "Mathematics"))
                me = self.sit(session, self.students()[0], 5)
                self.assertTrue(reviewing.review_own(self.ctx, me).told)

    def test_releasing_while_another_class_still_takes_it_names_the_risk(self) -> None:
        form = self.form(publish=False, kind="unit")
        self.settle(form, feedback="release")
        early, late = self.plan(self.publish(form)), self.plan(form, self.class_id("Reading"))
        person = self.students()[0]
        self.sit(early, person, 5)
        running.close(self.ctx, self.boss, early)
        detail = listing.get_session(self.ctx, self.boss, early)
        self.assertTrue(detail.may_release)
        self.assertEqual(len(detail.still_to_come), 1)
        with self.assertRaisesRegex(Conflict, "Reading 5.1 still takes this test: students could pass the answers on"):
            running.release(self.ctx, self.boss, early)
        running.release(self.ctx, self.boss, early, despite=True)
        self.assertTrue(reviewing.review(self.ctx, person, early).told)
        self.assertNotEqual(late, early)

    def test_feedback_comes_when_it_is_said_to(self) -> None:
        form = self.form(publish=False, kind="")
        self.settle(form, feedback="release")
        session = self.plan(self.publish(form))
        person = self.students()[0]
        me = self.sit(session, person, 5)
        with self.assertRaisesRegex(Conflict, "not shown yet"):
            reviewing.review_own(self.ctx, me)
        with self.assertRaisesRegex(Conflict, "before it is over"):
            taking.check(self.ctx, me, 1)
        with self.assertRaisesRegex(Conflict, "close the session first"):
            running.release(self.ctx, self.boss, session)
        running.close(self.ctx, self.boss, session)
        self.assertTrue(listing.get_session(self.ctx, self.boss, session).may_release)
        running.release(self.ctx, self.boss, session)
        found = reviewing.review(self.ctx, person, session)
        self.assertEqual(found.sentence, "You got 5 of 12 points.")
        self.assertEqual([t.verdict for t in found.told], ["right"] * 5 + ["wrong"] * 7)
        with self.assertRaises(NotFound):
            reviewing.review(self.ctx, self.boss_id, session)

    def test_a_second_attempt_is_practice_and_moves_no_figure(self) -> None:
        form = self.form(publish=False, kind="spot")
        self.settle(form, early=True)
        session = self.plan(self.publish(form))
        me = self.sit(session, self.students()[0], 4)
        before = judge(
            self.ctx, self.boss, ScopeRequest(forms=(form,), windows=(self.window_id,))
        ).analysis.scores.earned.tolist()
        self.assertEqual(taking.paper(self.ctx, me).more, 1)
        taking.again(self.ctx, me)
        paper = taking.paper(self.ctx, me)
        self.assertEqual((paper.state, paper.attempt, {q.answer for q in paper.questions}), ("answering", 2, {""}))
        for at, q in enumerate(paper.questions):
            self.answer(me, q.id, "A", 100 + at)
        taking.hand_in(self.ctx, me)
        self.assertEqual(reviewing.review_own(self.ctx, me).sentence, "You got 12 of 12 points.")
        judged = judge(self.ctx, self.boss, ScopeRequest(forms=(form,), windows=(self.window_id,))).analysis
        self.assertEqual(judged.scores.earned.tolist(), before)
        with self.ctx.store.read() as db:
            self.assertEqual(len(db.scalars(select(Response)).all()), 12)
            self.assertEqual(len(db.scalars(select(LaterAttempt)).one().answers), 12)
        with self.assertRaisesRegex(Conflict, "has 2 attempts"):
            taking.again(self.ctx, me)

    def test_settings_are_checked_and_a_second_writer_is_told(self) -> None:
        form = self.form(kind="benchmark", publish=False)
        with self.assertRaisesRegex(Invalid, "everyone gets the same questions"):
            self.settle(form, draw={"count": 2, "by": "standard", "each": "student", "limit": 0.05})
        now = forms.get_form(self.ctx, self.boss, form)
        with self.assertRaisesRegex(Conflict, "in the meantime"):
            formsettings.change(self.ctx, self.boss, form, now.revision - 1, "T", "unit", "", now.settings)
        self.publish(form)
        with self.assertRaisesRegex(Conflict, "never changes"):
            self.settle(form, minutes=5)
        self.assertEqual(
            settings_of("mirror", {"back": False, "movement": "free", "fewer_options": None}).movement, "one"
        )


class Drawn(FamilyCase):
    def drawn(self, **said: Any) -> int:
        form = self.form("Quiz", range(24), kind="spot", publish=False)
        self.settle(form, draw={"count": 2, "by": "standard", "each": "student", "limit": None, **said})
        return self.publish(form)

    def test_each_student_has_a_draw_of_their_own_that_is_recorded(self) -> None:
        form = self.drawn()
        session = self.plan(form)
        papers = [taking.paper(self.ctx, self.begin(session, p)) for p in self.students()]
        self.assertEqual({len(p.questions) for p in papers}, {6})
        self.assertGreater(len({tuple(q.id for q in p.questions) for p in papers}), 1)
        self.assertEqual([q.number for q in papers[0].questions], [1, 2, 3, 4, 5, 6])
        with self.ctx.store.read() as db:
            row = db.scalars(select(Sitting).where(Sitting.id == papers[0].sitting)).one()
            self.assertIsNotNone(row.seed)
            self.assertEqual(sorted(row.drawn or []), [q.id for q in papers[0].questions])
        again = taking.paper(self.ctx, self.begin(session, self.students()[0]))
        self.assertEqual([q.id for q in again.questions], [q.id for q in papers[0].questions])

    def test_one_draw_for_all(self) -> None:
        session = self.plan(self.drawn(each="session"))
        papers = [taking.paper(self.ctx, self.begin(session, p)) for p in self.students()[:4]]
        self.assertEqual(len({tuple(q.id for q in p.questions) for p in papers}), 1)

    def test_figures_pool_by_item_over_those_who_were_given_it(self) -> None:
        form = self.drawn()
        session = self.plan(form)
        people = self.students()
        for person in people:
            self.sit(session, person, 3)
        running.close(self.ctx, self.boss, session)
        analysis = judge(self.ctx, self.boss, ScopeRequest(forms=(form,), windows=(self.window_id,))).analysis
        self.assertEqual(sum(i.figures.n for i in analysis.items), 6 * len(people))
        self.assertEqual(analysis.scores.earned.tolist(), [3.0] * len(people))
        self.assertEqual(analysis.scores.possible.tolist(), [6.0] * len(people))
        self.assertIsNone(analysis.reliability.alpha)

    def test_what_draws_would_be_like_is_told_before_they_are_kept(self) -> None:
        form = self.form("Quiz", range(24), kind="spot", publish=False)
        wanted = FormSettings(draw={"count": 2})  # type: ignore[arg-type]
        found = formsettings.draws(self.ctx, self.boss, form, wanted)
        self.assertIn("6 of 24 items each; 24 of the pool were not used yet", found.says)
        with self.assertRaisesRegex(Invalid, "say how many"):
            formsettings.draws(self.ctx, self.boss, form, FormSettings())


class InParts(FamilyCase):
    def setUp(self) -> None:
        super().setUp()
        made = forms.create_form(self.ctx, self.boss, "Two days", "", "Mathematics", "5", "closing")
        ids = [self.versions[f"C-{at:02}"] for at in range(12)]
        made = forms.set_items(self.ctx, self.boss, made.id, made.revision, ids, [0] * 6 + [1] * 6)
        self.two = self.publish(made.id)

    def test_interim_results_say_so_and_the_end_combines_both(self) -> None:
        first, second = self.plan(self.two, part=0), 0
        people = self.students()
        self.assertEqual(len(taking.paper(self.ctx, self.begin(first, people[0])).questions), 6)
        for person in people:
            self.sit(first, person, 4)
        running.close(self.ctx, self.boss, first)
        interim = judge(self.ctx, self.boss, ScopeRequest(forms=(self.two,), windows=(self.window_id,)))
        self.assertEqual(interim.analysis.scores.possible.tolist(), [6.0] * len(people))
        self.assertIn(f"0 of {len(people)} have taken all of them so far", interim.finding[-1].text)
        self.clock.pass_by(days=1)
        second = scheduling.schedule(
            self.ctx,
            self.boss,
            self.two,
            self.window_id,
            [self.class_id()],
            "",
            None,
            self.clock() - timedelta(minutes=5),
            self.clock() + timedelta(hours=1),
            1,
        )[0]
        for person in people[:-1]:
            self.sit(second, person, 6)
        running.close(self.ctx, self.boss, second)
        whole = judge(self.ctx, self.boss, ScopeRequest(forms=(self.two,), windows=(self.window_id,)))
        self.assertEqual(whole.analysis.table.n, len(people))
        self.assertEqual(sorted(whole.analysis.scores.earned.tolist()), [4.0] + [10.0] * (len(people) - 1))
        self.assertEqual(int(whole.analysis.scores.full.sum()), len(people) - 1)
        self.assertEqual(whole.analysis.items[-1].figures.n, len(people) - 1)

    def test_a_part_is_planned_once_and_only_where_it_is(self) -> None:
        self.plan(self.two, part=0)
        for part, said in ((0, "has this part"), (None, "has this form"), (7, "no items in part 8")):
            with self.subTest(part=part), self.assertRaisesRegex((Conflict, Invalid), said):
                self.plan(self.two, part=part)


class Correcting(FamilyCase):
    def test_untouched_sessions_move_and_begun_ones_are_asked(self) -> None:
        old = self.form()
        session = self.plan(old)
        new = corrections.correct(self.ctx, self.boss, old)
        look = corrections.about(self.ctx, self.boss, new)
        self.assertIn("1 session moves to it when it is published", look.says)
        self.publish(new)
        with self.ctx.store.read() as db:
            self.assertEqual(db.get_one(PlannedSession, session).form_id, new)
        people = self.students()
        self.begin(session, people[0])
        newer = corrections.correct(self.ctx, self.boss, new)
        self.publish(newer)
        self.assertEqual([self.form_of(session, p) for p in people[:2]], [new, new])
        look = corrections.about(self.ctx, self.boss, newer)
        self.assertEqual([(t.begun, t.moves) for t in look.touched], [(1, False)])
        self.assertIn("decide there who receives the correction", look.says)
        corrections.move(self.ctx, self.boss, newer, session)
        self.assertEqual([self.form_of(session, p) for p in people[:2]], [new, newer])
        self.begin(session, people[1])  # and it stays so when they begin
        self.assertEqual(self.form_of(session, people[1]), newer)

    def test_the_old_form_stays_as_it_was_and_is_corrected_once(self) -> None:
        old = self.form()
        corrections.correct(self.ctx, self.boss, old)
        with self.assertRaisesRegex(Conflict, "corrects Winter 5 already"):
            corrections.correct(self.ctx, self.boss, old)
        with self.assertRaisesRegex(Conflict, "is a draft"):
            corrections.correct(self.ctx, self.boss, self.form("Draft", publish=False))
        with self.ctx.store.read() as db:
            self.assertEqual(len(db.scalars(select(FormItem).where(FormItem.form_id == old)).all()), 12)

    def test_rules_of_the_family_follow_the_correction(self) -> None:
        general = self.form()
        short = self.companion(general, "shortened")
        id = forms.get_form(self.ctx, self.boss, short).family_id or 0
        formfamily.add_rule(self.ctx, self.boss, id, short, None, self.students()[0])
        new = self.publish(corrections.correct(self.ctx, self.boss, short))
        session = self.plan(general)
        self.assertEqual(self.form_of(session, self.students()[0]), new)
        self.assertTrue(
            next(f for f in formfamily.get_family(self.ctx, self.boss, id).forms if f.id == short).superseded
        )


class Trying(FamilyCase):
    def test_a_trial_run_scores_and_leaves_nothing_behind(self) -> None:
        form = self.form()
        paper = trialrun.begin(self.ctx, self.boss, form)
        found = trialrun.mark(
            self.ctx, self.boss, form, {q.id: "A" if at < 9 else "B" for at, q in enumerate(paper.questions)}
        )
        self.assertEqual(found.sentence, "You got 9 of 12 points.")
        with self.ctx.store.read() as db:
            for table in (Response, Sitting):
                self.assertEqual(db.scalars(select(table)).all(), [])
        with self.assertRaises(NotFound):
            judge(self.ctx, self.boss, ScopeRequest(forms=(form,), windows=(self.window_id,)))
        with self.assertRaisesRegex(Invalid, "question 1: 'Z' is not one of the choices"):
            trialrun.mark(self.ctx, self.boss, form, {paper.questions[0].id: "Z"})

    def test_reading_through_counts_until_the_form_changes(self) -> None:
        form = self.form(publish=False)

        def weight() -> str:
            return next(c.weight for c in checklist.checklist(self.ctx, self.boss, form) if c.name == "previewed")

        self.assertEqual(weight(), "look")
        trialrun.read_through(self.ctx, self.boss, form, trialrun.begin(self.ctx, self.boss, form).revision)
        self.assertEqual(weight(), "fine")
        self.settle(form, minutes=30)
        self.assertEqual(weight(), "look")


class Pools(FamilyCase):
    """Drafts filled from the units of a course."""

    def setUp(self) -> None:
        super().setUp()

        def units(db: Any) -> None:
            for item in db.scalars(select(Item)):
                at = int(item.code[2:])
                item.unit = ("Ratios", "Angles", "")[min(at // 8, 2)]
                item.state = "retired" if at == 1 else item.state
            year = SchoolYear(title="then", start=NOON.date(), end=NOON.date() + timedelta(days=300))
            db.add(year)
            db.flush()
            plan = CoursePlan(course="Mathematics 5", subject="Mathematics", grade="5", year_id=year.id)
            plan.lessons = [
                Lesson(position=at, unit=unit, title=unit, start=NOON.date(), end=NOON.date())
                for at, unit in enumerate(("Ratios", "Angles"), 1)
            ]
            db.add(plan)

        self.ctx.store.write(units)
        self.draft = self.form("Check", range(16, 18), publish=False)

    def fill(self, unit: str, earlier: bool) -> list[str]:
        now = forms.get_form(self.ctx, self.boss, self.draft)
        return [i.code for i in units.fill(self.ctx, self.boss, self.draft, now.revision, unit, earlier).items]

    def test_units_stand_in_the_order_of_the_course_with_what_may_be_used(self) -> None:
        found = units.units(self.ctx, self.boss, self.draft)
        self.assertEqual([(u.name, u.items) for u in found], [("Ratios", 7), ("Angles", 8)])

    def test_a_unit_is_added_and_with_the_earlier_ones_where_wished(self) -> None:
        self.assertEqual(self.fill("Angles", False), ["C-16", "C-17", *(f"C-{at:02}" for at in range(8, 16))])
        self.assertEqual(self.fill("Angles", True)[10:], [f"C-{at:02}" for at in (0, *range(2, 8))])
        with self.assertRaisesRegex(Conflict, "on the form already"):
            self.fill("Ratios", True)

    def test_a_unit_that_there_is_not_and_a_second_writer(self) -> None:
        with self.assertRaisesRegex(Invalid, "choose one of the units"):
            self.fill("Volcanoes", False)
        with self.assertRaisesRegex(Conflict, "someone"):
            units.fill(self.ctx, self.boss, self.draft, 1, "Ratios", False)
        self.assertEqual(len(forms.get_form(self.ctx, self.boss, self.draft).items), 2)
