"""Secure tests: until the last session is over, teachers see title, length and standards, and no item."""

from __future__ import annotations

from datetime import date, timedelta

from sqlalchemy import select, update

from bildung.services.bank import itempage, search
from bildung.services.building import forms, paper
from bildung.services.quality.judged import judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.sessions import running, scheduling
from bildung.services.shared.access import Actor
from bildung.services.shared.errors import NotAllowed, NotFound
from bildung.store.models import AuditEntry, Form, ItemVersion, Window
from tests.services.participation.support import HOUR, OwedCase


class Secure(OwedCase):
    def setUp(self) -> None:
        super().setUp()
        self.ctx.store.write(lambda db: db.execute(update(Form).values(secure=True)))
        teacher = self.teacher_of(self.classes[0])
        self.teacher = Actor(**{**teacher.__dict__, "day": self.clock.now.date()})

    def finds(self) -> int:
        return len(search.find_items(self.ctx, self.teacher, limit=500)[0])

    def window_ends(self, day: date) -> None:
        self.ctx.store.write(lambda db: db.execute(update(Window).values(end=day)))

    def test_before_it_is_given_a_teacher_lists_it_and_opens_nothing(self) -> None:
        (line,) = forms.list_forms(self.ctx, self.teacher)
        self.assertEqual((line.name, line.items), ("A form", 6))
        with self.assertRaisesRegex(NotAllowed, "secure: its items open when every session of it is over"):
            forms.get_form(self.ctx, self.teacher, self.form)
        with self.assertRaises((NotFound, NotAllowed)):
            paper.document(self.ctx, self.teacher, self.form, "booklet", "Letter", False, False)
        self.assertEqual(self.finds(), 0, "its items are in no search")
        with self.ctx.store.read() as db:
            item = db.scalars(select(ItemVersion.item_id)).first() or 0
        with self.assertRaises(NotFound):
            itempage.item_page(self.ctx, self.teacher, item)
        self.assertEqual(len(forms.get_form(self.ctx, self.boss, self.form).items), 6)

    def test_it_opens_when_every_session_and_the_window_are_over(self) -> None:
        one, two = self.plan(0, -0.5), self.plan(1, -0.5)
        running.close(self.ctx, self.boss, one)
        self.assertEqual(self.finds(), 0, "another class takes it now")
        running.close(self.ctx, self.boss, two)
        self.assertEqual(self.finds(), 0, "makeups may come until the window ends")
        self.assertTrue(forms.get_form(self.ctx, self.boss, self.form).secured, "and its page says the same")
        self.window_ends(self.clock.now.date() - timedelta(days=1))
        self.assertEqual(self.finds(), 6)
        self.assertFalse(forms.get_form(self.ctx, self.boss, self.form).secured)
        kept = forms.set_security(self.ctx, self.boss, self.form, True, True)
        self.assertEqual((kept.secure, kept.stays_secure, kept.secured), (True, True, True))
        self.assertEqual(self.finds(), 0, "next year uses it again")

    def test_a_benchmark_is_secure_by_itself_and_another_test_is_not(self) -> None:
        self.ctx.store.write(lambda db: db.execute(update(Form).values(secure=None)))
        self.assertEqual(self.finds(), 6)
        with self.ctx.store.read() as db:
            ids = list(db.scalars(select(ItemVersion.id)))
        form = forms.create_form(self.ctx, self.boss, "Winter", "", "Mathematics", "5", "benchmark")
        forms.set_items(self.ctx, self.boss, form.id, form.revision, ids[:2])
        self.assertEqual(self.finds(), 4, "a draft of a benchmark as well")

    def test_results_of_the_own_class_come_at_once_without_the_text_of_items(self) -> None:
        session = self.plan(0, -0.5)
        for person in self.students(0):
            self.state(session, person, "handed_in")
        running.close(self.ctx, self.boss, session)
        start = self.clock.now + 20 * HOUR
        scheduling.schedule(
            self.ctx, self.boss, self.form, self.window_id, [self.classes[1]], "", None, start, start + HOUR
        )
        wanted = ScopeRequest(forms=(self.form,))
        for actor, words in ((self.teacher, {"secure until every session"}), (self.boss, set())):
            judged = judge(self.ctx, actor, wanted)
            says = {w for row in judged.rows for w in ("secure until every session",) if w in row.item.shown.body}
            self.assertEqual(says, words)
            if words:
                texts = [
                    o.html for row in judged.rows for part in row.item.shown.parts for o in getattr(part, "options", [])
                ]
                self.assertEqual(set(texts) - {""}, set())

    def test_another_test_that_holds_one_of_its_items_is_closed_as_well(self) -> None:
        with self.ctx.store.read() as db:
            ids = list(db.scalars(select(ItemVersion.id)))
        shared = forms.create_form(self.ctx, self.boss, "Unit test", "", "Mathematics", "5", "unit")
        shared = forms.set_items(self.ctx, self.boss, shared.id, shared.revision, ids[:1])
        forms.publish(self.ctx, self.boss, shared.id, shared.revision)
        with self.assertRaises(NotAllowed):
            forms.get_form(self.ctx, self.teacher, shared.id)
        self.assertEqual(scheduling.choices(self.ctx, self.teacher)["forms"], [])
        self.ctx.store.write(lambda db: db.execute(update(Form).values(secure=False)))
        self.assertEqual(len(forms.get_form(self.ctx, self.teacher, shared.id).items), 1)
        names = [f["name"] for f in scheduling.choices(self.ctx, self.teacher)["forms"]]
        self.assertEqual(names, ["A form", "Unit test"])

    def test_an_item_that_was_given_and_is_open_is_known_and_is_not_given_again_meanwhile(self) -> None:
        """A benchmark of the spring holds two items of a test that is over: to read, but in no test of a teacher's."""
        running.close(self.ctx, self.boss, self.plan(0, -0.5))
        self.window_ends(self.clock.now.date() - timedelta(days=1))
        with self.ctx.store.read() as db:
            ids = list(db.scalars(select(ItemVersion.id)))
        spring = forms.create_form(self.ctx, self.boss, "Spring", "", "Mathematics", "5", "benchmark")
        forms.set_items(self.ctx, self.boss, spring.id, spring.revision, ids[:2])
        self.assertEqual(self.finds(), 6)
        self.assertEqual(len(forms.get_form(self.ctx, self.teacher, self.form).items), 6)
        self.ctx.store.write(lambda db: db.execute(update(Form).where(Form.id == self.form).values(secure=False)))
        self.assertEqual(scheduling.choices(self.ctx, self.teacher)["forms"], [])

    def test_printing_it_is_logged_and_only_keepers_decide(self) -> None:
        paper.document(self.ctx, self.boss, self.form, "key", "Letter", False, False)
        self.ctx.store.write(lambda db: db.execute(update(Form).values(secure=False)))
        paper.document(self.ctx, self.boss, self.form, "key", "Letter", False, False)
        with self.ctx.store.read() as db:
            entries = db.scalars(select(AuditEntry).where(AuditEntry.action == "form.print")).all()
            self.assertEqual([(e.person_id, e.after) for e in entries], [(self.boss_id, {"document": "key"})])
        with self.assertRaises(NotFound):
            forms.set_security(self.ctx, self.teacher, self.form, False, False)
