"""A live round: asked, answered on any device, shown, talked about, asked again; and what nobody but the teacher sees."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import select, text, update

from bildung.services.door import signin
from bildung.services.live import answering, rounds
from bildung.services.live.answering import Press
from bildung.services.shared.access import Own
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.store.models import Form, FormItem, Item, ItemVersion, LiveAnswer, Person
from tests.support import WorldCase, small_roster


def sent(*answers: Any) -> str:
    """As it leaves the server."""
    return "".join(TypeAdapter(type(one)).dump_json(one).decode() for one in answers)


class LiveCase(WorldCase):
    """A class of six and its teacher; six items."""

    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(6))
        self.codes = self.bring_items(6)
        self.klass = self.class_id()
        self.teacher = self.teacher_of(self.klass)
        with self.ctx.store.read() as db:
            self.items = [db.scalars(select(Item.id).where(Item.code == code)).one() for code in self.codes]
            self.class_code = rounds.page(self.ctx, self.boss, rounds.start(self.ctx, self.boss, self.klass)).code
        self.round = rounds.start(self.ctx, self.teacher, self.klass)

    def student(self, n: int) -> Own:
        token = signin.sign_in_student(self.ctx, self.class_code, self.codes_of(self.klass)[n], "here")
        return signin.own_of(self.ctx, token.secret, "student")

    def page(self) -> rounds.LivePage:
        return rounds.page(self.ctx, self.teacher, self.round)

    def right_of(self, item: int) -> str:
        """The option that is right."""
        with self.ctx.store.read() as db:
            version = db.scalars(
                select(ItemVersion).where(ItemVersion.item_id == item).order_by(ItemVersion.number.desc())
            ).first()
            assert version is not None
            return str(version.scorings[-1].parts[0]["key"])


class Asking(LiveCase):
    def test_devices_follow_and_the_newest_answer_counts(self) -> None:
        ada, ben = self.student(0), self.student(1)
        self.assertEqual(answering.look(self.ctx, ada).question, None)
        question = rounds.ask(self.ctx, self.teacher, self.round, self.items[0])
        seen = answering.look(self.ctx, ada).question
        assert seen is not None
        self.assertEqual((seen.id, seen.closed), (question, False))
        answering.answer(self.ctx, ada, question, "A")
        answering.answer(self.ctx, ada, question, "B")
        answering.answer(self.ctx, ben, question, "B", "home")
        page = self.page()
        assert page.current is not None
        self.assertEqual((page.joined, page.current.answered), (2, 2))
        self.assertEqual({b.answer: b.n for b in page.current.bars}["B"], 2)
        self.assertEqual([s.way for s in page.students if s.answer], ["school", "home"])

    def test_nothing_tells_a_device_or_the_projector_what_is_right_before_it_is_shown(self) -> None:
        me = self.student(0)
        question = rounds.ask(self.ctx, self.teacher, self.round, self.items[0])
        answering.answer(self.ctx, me, question, self.right_of(self.items[0]))
        for showing in ("counting", "answers"):
            rounds.show(self.ctx, self.teacher, self.round, showing)  # type: ignore[arg-type]
            told = sent(answering.look(self.ctx, me), rounds.screen(self.ctx, self.teacher, self.round))
            for word in ('"key"', '"scoring"', '"misconceptions"', '"right":true', '"solution":"<'):
                self.assertNotIn(word, told, showing)
        rounds.show(self.ctx, self.teacher, self.round, "right")
        verdict = answering.look(self.ctx, me).told
        assert verdict is not None
        self.assertEqual(verdict.verdict, "right")
        self.assertEqual(sum(b.right for b in rounds.screen(self.ctx, self.teacher, self.round).bars), 1)

    def test_the_projector_has_no_names(self) -> None:
        answering.look(self.ctx, self.student(0))
        question = rounds.ask(self.ctx, self.teacher, self.round, self.items[0])
        answering.answer(self.ctx, self.student(0), question, "A")
        rounds.show(self.ctx, self.teacher, self.round, "right")
        with self.ctx.store.read() as db:
            names = list(db.scalars(select(Person.family).where(Person.kind == "student")))
        shown = sent(rounds.screen(self.ctx, self.teacher, self.round))
        self.assertEqual([name for name in names if f" {name}" in shown], [])

    def test_once_shown_no_answer_is_taken_until_it_is_asked_again(self) -> None:
        me, other = self.student(0), self.student(1)
        right = self.right_of(self.items[0])
        wrong = "B" if right == "A" else "A"
        first = rounds.ask(self.ctx, self.teacher, self.round, self.items[0])
        answering.answer(self.ctx, me, first, wrong)
        answering.answer(self.ctx, other, first, right)
        rounds.show(self.ctx, self.teacher, self.round, "answers")
        with self.assertRaises(Conflict):
            answering.answer(self.ctx, me, first, right)
        self.assertEqual(self.page().current.advice, "talk")  # type: ignore[union-attr]
        second = rounds.again(self.ctx, self.teacher, self.round)
        self.assertEqual(answering.look(self.ctx, me).answer, "", "nothing of the first is filled in")
        answering.answer(self.ctx, me, second, right)
        answering.answer(self.ctx, other, second, right)
        rounds.show(self.ctx, self.teacher, self.round, "answers")
        now = self.page().current
        assert now is not None and now.moved is not None
        self.assertEqual((now.moved.both, now.moved.to_right, now.moved.right), (2, 1, 1))
        self.assertEqual(now.finding, "2 of 2 answered correctly. 1 changed from wrong to right, 0 the other way.")
        self.assertEqual({b.answer: b.n for b in now.before}[wrong], 1)
        with self.assertRaises(Conflict):
            answering.answer(self.ctx, me, first, right)

    def test_a_question_said_aloud_has_letters_and_no_right_answer(self) -> None:
        me = self.student(0)
        question = rounds.ask(self.ctx, self.teacher, self.round, None, "Which graph?", 3)
        with self.assertRaises(Invalid):
            answering.answer(self.ctx, me, question, "D")
        answering.answer(self.ctx, me, question, "C")
        rounds.show(self.ctx, self.teacher, self.round, "right")
        page = self.page()
        assert page.current is not None
        self.assertEqual([(b.answer, b.n) for b in page.current.bars], [("A", 0), ("B", 0), ("C", 1)])
        self.assertEqual((page.students[0].right, answering.look(self.ctx, me).told), (None, None))
        with self.assertRaises(Invalid):
            rounds.ask(self.ctx, self.teacher, self.round, None, "", 9)

    def test_an_item_of_a_secure_test_is_refused_for_everybody(self) -> None:
        form = self.make_form()

        def secure(db: object) -> None:
            wanted = text("SELECT name FROM sqlite_master WHERE type = 'trigger' AND tbl_name = 'form'")
            for name in db.scalars(wanted).all():  # type: ignore[attr-defined]
                db.execute(text(f"DROP TRIGGER {name}"))  # type: ignore[attr-defined]
            db.execute(update(Form).where(Form.id == form).values(kind="benchmark", secure=True))  # type: ignore[attr-defined]

        self.ctx.store.write(secure)
        with self.ctx.store.read() as db:
            item = db.scalars(
                select(ItemVersion.item_id)
                .join(FormItem, FormItem.item_version_id == ItemVersion.id)
                .where(FormItem.form_id == form)
            ).first()
        with self.assertRaises(Conflict):
            rounds.ask(self.ctx, self.boss, self.round, item)
        self.assertNotIn(item, [f.item for f in rounds.find(self.ctx, self.boss, self.round, "")])

    def test_it_ends_with_a_summary_and_counts_only_if_the_teacher_says_so(self) -> None:
        me = self.student(0)
        question = rounds.ask(self.ctx, self.teacher, self.round, self.items[0])
        answering.answer(self.ctx, me, question, self.right_of(self.items[0]))
        rounds.end(self.ctx, self.teacher, self.round, False)
        page = self.page()
        self.assertEqual((page.ended, page.evidence, page.current), (True, False, None))
        self.assertEqual([(s.answered, s.right, s.share) for s in page.summary], [(1, 1, 1.0)])
        self.assertFalse(answering.look(self.ctx, me).on)
        with self.assertRaises(Conflict):
            answering.answer(self.ctx, me, question, "A")
        with self.assertRaises(Conflict):
            rounds.ask(self.ctx, self.teacher, self.round, self.items[1])


class Whose(LiveCase):
    def test_a_round_is_its_teachers_and_a_class_has_one_at_a_time(self) -> None:
        other = self.teacher_of(self.class_id("Reading"))
        if other.person_id != self.teacher.person_id:
            with self.assertRaises(NotFound):
                rounds.page(self.ctx, other, self.round)
            with self.assertRaises(NotFound):
                rounds.start(self.ctx, other, self.klass)
        later = rounds.start(self.ctx, self.teacher, self.klass)
        self.assertTrue(self.page().ended)
        self.assertFalse(rounds.page(self.ctx, self.teacher, later).ended)

    def test_who_is_silent_and_who_is_stuck(self) -> None:
        ada, ben, cleo = (self.student(n) for n in range(3))
        for one in (ada, ben, cleo):
            answering.look(self.ctx, one)
        question = rounds.ask(self.ctx, self.teacher, self.round, self.items[0])
        answering.answer(self.ctx, ada, question, "A")
        answering.answer(self.ctx, ben, question, "A")
        self.clock.pass_by(seconds=70)
        answering.look(self.ctx, cleo)
        lines = {s.name: s for s in self.page().students if s.way}
        self.assertEqual(sum(s.stuck for s in lines.values()), 1)
        self.assertEqual(sum(s.here for s in lines.values()), 1, "two devices say nothing any more")


class Devices(LiveCase):
    def setUp(self) -> None:
        super().setUp()
        self.people = [s.person for s in self.page().students]
        answering.bind(self.ctx, self.teacher, self.klass, {p: n for n, p in enumerate(self.people, 11)})
        self.question = rounds.ask(self.ctx, self.teacher, self.round, self.items[0])

    def test_presses_count_for_the_student_a_number_is_bound_to(self) -> None:
        done = answering.press(
            self.ctx, self.teacher, self.round, [Press(11, "a"), Press(12, "B"), Press(12, "C"), Press(99, "A")]
        )
        self.assertEqual((done.taken, done.unknown, done.late), (3, [99], 0))
        answering.press(self.ctx, self.teacher, self.round, [Press(12, "C")])  # came twice
        with self.ctx.store.read() as db:
            rows = {r.person_id: (r.answer, r.way) for r in db.scalars(select(LiveAnswer))}
        self.assertEqual(rows, {self.people[0]: ("A", "device"), self.people[1]: ("C", "device")})

    def test_a_round_mixes_devices_and_late_presses_are_told(self) -> None:
        me = self.student(5)
        answering.answer(self.ctx, me, self.question, "B", "home")
        others = [n for n, person in enumerate(self.people, 11) if person != me.person_id]
        answering.press(self.ctx, self.teacher, self.round, [Press(others[0], "A"), Press(others[1], "Z")])
        page = self.page()
        assert page.current is not None
        self.assertEqual(
            (page.current.answered, sorted(s.way for s in page.students if s.way)), (2, ["device", "home"])
        )
        rounds.show(self.ctx, self.teacher, self.round, "answers")
        self.assertEqual(answering.press(self.ctx, self.teacher, self.round, [Press(11, "B")]).late, 1)

    def test_each_number_belongs_to_one_student_of_the_class(self) -> None:
        with self.assertRaises(Invalid):
            answering.bind(self.ctx, self.teacher, self.klass, {self.people[0]: 3, self.people[1]: 3})
        with self.assertRaises(Invalid):
            answering.bind(self.ctx, self.teacher, self.klass, {self.people[0]: 0})
        with self.assertRaises(NotFound):
            answering.bind(self.ctx, self.teacher, self.klass, {10**6: 3})
        self.assertEqual(len(answering.bound(self.ctx, self.teacher, self.klass)), 6)
