"""A new school is led from its people to its first session, and numbers of sessions lead to names."""

from __future__ import annotations

from bildung.services.door import firststeps
from bildung.services.sessions import whose
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Invalid
from bildung.services.sitting import taking
from tests.support import WorldCase


class Steps(WorldCase):
    def test_a_school_with_nobody_begins_with_its_people(self) -> None:
        found = firststeps.first_steps(self.ctx, self.boss)
        self.assertEqual(found.finding, "1 of 5 steps are complete. Next: import people.")  # the window is there
        self.assertEqual([bool(s.done) for s in found.steps], [False, True, False, False, False])
        self.assertTrue(all(s.may for s in found.steps))

    def test_each_step_is_done_by_doing_it(self) -> None:
        self.bring_people()
        self.bring_items()
        self.assertIn("Next: publish a test", firststeps.first_steps(self.ctx, self.boss).finding)
        self.make_form()
        found = firststeps.first_steps(self.ctx, self.boss)
        self.assertIn("Next: schedule a session", found.finding)
        self.assertIn("28 students in", found.steps[0].done)
        writer = Actor(person_id=self.boss_id, name="", grants=(Grant("writer", None),), sign_in_id=0, csrf="")
        self.assertEqual(
            [s.may for s in firststeps.first_steps(self.ctx, writer).steps], [False, False, True, True, False]
        )

    def test_once_somebody_has_handed_in_nothing_is_to_be_set_up(self) -> None:
        session = self.open_session(size=4)
        found = firststeps.first_steps(self.ctx, self.boss)
        self.assertTrue(found.finding.startswith("Setup is complete"))
        self.assertFalse(found.complete)
        self.ctx.store.write(
            lambda db: setattr(db.get_one(taking.Sitting, int(session.sittings[0].id)), "state", "handed_in")
        )
        self.assertTrue(firststeps.first_steps(self.ctx, self.boss).complete)


class Numbers(WorldCase):
    def test_every_state_leads_to_its_students_and_only_for_who_sees_the_session(self) -> None:
        self.open_session(size=4)
        everybody = whose.sitters(self.ctx, self.boss, "all", self.window_id, None)
        self.assertEqual((everybody.n, len(everybody.named)), (4, 4))
        self.assertEqual(len({p.alias for p in everybody.named}), 4)
        self.assertEqual(whose.sitters(self.ctx, self.boss, "to_come", None, 1).n, 4)
        self.assertEqual(whose.sitters(self.ctx, self.boss, "absent", None, 1).n, 0)
        stranger = self.teacher_of(self.class_id("Reading"))
        self.assertEqual(whose.sitters(self.ctx, stranger, "all", self.window_id, None).named, [])
        with self.assertRaisesRegex(Invalid, "one of handed_in, absent"):
            whose.sitters(self.ctx, self.boss, "left", None, 1)
