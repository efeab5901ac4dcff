"""Before a window: who takes which form of a test, and why."""

from __future__ import annotations

from bildung.services.building import formfamily, forms, makecompanions
from bildung.services.building.makecompanions import Wish
from bildung.services.people import accommodations, groups
from bildung.services.people.accommodations import Entered
from bildung.services.sessions import listing, whichform
from bildung.services.shared import jobs
from bildung.services.shared.errors import NotFound
from tests.services.participation.support import OwedCase


class WhichForm(OwedCase):
    def setUp(self) -> None:
        super().setUp()
        job = jobs.begin(self.ctx, self.boss, "")
        made = makecompanions.make(self.ctx, self.boss, self.form, Wish(way="adapted"), job)
        forms.publish(self.ctx, self.boss, made.form_id, forms.get_form(self.ctx, self.boss, made.form_id).revision)
        self.short = made.form_id
        self.family = forms.get_form(self.ctx, self.boss, self.short).family_id or 0

    def page(self) -> whichform.FormsPage:
        return whichform.forms_page(self.ctx, self.boss, self.window_id)

    def test_each_student_is_there_once_with_the_reason(self) -> None:
        first, second, third = self.students(0)[:3]
        accommodations.enter(self.ctx, self.boss, first, Entered(kind="form", value="adapted"))
        group = groups.make_group(self.ctx, self.boss, "Small steps", None, None, [second])
        formfamily.add_rule(self.ctx, self.boss, self.family, self.short, group, None)
        formfamily.add_rule(self.ctx, self.boss, self.family, self.short, None, third)
        self.plan(0, 3)
        self.plan(1, 4)
        (test,) = self.page().tests
        found = {(use.why, use.other): {one.person for one in use.students} for use in test.uses}
        self.assertEqual(
            found,
            {
                ("the form of the class", False): set(self.students(0)[3:]) | set(self.students(1)),
                ("needs an adapted form", True): {first},
                ("in group Small steps", True): {second},
                ("chosen for this student", True): {third},
            },
        )
        self.assertEqual(
            (test.n, self.page().finding),
            (10, "3 of 10 scheduled attempts are on a different form from the rest of the class."),
        )
        for use in test.uses:
            for one in use.students:
                line = listing.get_session(self.ctx, self.boss, int(one.session))
                self.assertIn(one.person, [s.person for s in line.sittings])

    def test_an_accommodation_that_ends_before_the_session_names_no_form(self) -> None:
        first = self.students(0)[0]
        ends = Entered(kind="form", value="adapted", until=self.clock.now.date())
        accommodations.enter(self.ctx, self.boss, first, ends)
        self.plan(0, 3)
        self.plan(1, 3 + 24)
        self.assertEqual([u.why for u in self.page().tests[0].uses], ["the form of the class", "needs an adapted form"])
        self.move(first, 1)
        self.assertEqual([u.why for u in self.page().tests[0].uses], ["the form of the class"])

    def test_without_sessions_and_without_the_right_to_plan(self) -> None:
        self.assertEqual(self.page().finding, "No sessions are upcoming in this window.")
        with self.assertRaises(NotFound):
            whichform.forms_page(self.ctx, self.boss, 999)
        teacher = self.teacher_of(self.class_id("Reading"))
        self.plan(0, 3)
        self.assertEqual(whichform.forms_page(self.ctx, teacher, self.window_id).tests, [], "not theirs")
